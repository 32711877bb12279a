"""Another tolerance or practice is shown before it is set, and moves nothing until then."""

import datetime

import pytest

from aquifer.company.models import Company
from aquifer.core.planning.hours import Hours, Work
from aquifer.customers.models import Site
from aquifer.forecasts import trial
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater


def tried(client, practice="condition", tolerance=0.2):
    answer = client.get(f"outlook/trial?practice={practice}&tolerance={tolerance}")
    assert answer.status_code == 200, answer.json()
    return answer.json()


def test_what_is_set_already_changes_nothing(as_role, forecasted):
    told = tried(as_role("planner"))
    assert told["now"] == told["tried"]
    assert told["heaters"] == told["asked_of"] == 6
    assert told["now"]["weeks"] == as_role("planner").get("outlook/weeks").json()


def test_accepting_more_risk_means_less_work_and_longer_over_the_limit(as_role, forecasted):
    # New ones, so that the tolerance decides and not what is overdue already.
    Heater.objects.update(installed_on=forecasted["today"] - datetime.timedelta(days=150))
    client = as_role("planner")
    careful, bold = tried(client, tolerance=0.05)["tried"], tried(client, tolerance=0.6)["tried"]
    assert careful["over_days"] < bold["over_days"]
    assert careful["services"] >= bold["services"]


def test_a_calendar_counts_both_visits_of_a_year_on_hard_water(as_role, forecasted):
    client = as_role("planner")
    yearly, half = (tried(client, practice)["tried"]["services"] for practice in ("annual", "hard_water_half_yearly"))
    assert half > yearly
    Site.objects.update(practice="condition")
    kept = tried(client, "hard_water_half_yearly")
    assert kept["tried"] == kept["now"], "a contract that says more is kept"


def test_trying_stores_nothing_and_setting_queues_the_base(as_role, forecasted):
    from procrastinate.contrib.django.models import ProcrastinateJob

    before = list(Forecast.objects.order_by("pk").values_list("pk", "due_on"))
    tried(as_role("planner"), "annual", 0.05)
    assert list(Forecast.objects.order_by("pk").values_list("pk", "due_on")) == before
    body = {"practice": "annual", "tolerance": 0.1}
    lead, planner = as_role("lead"), as_role("planner")
    assert planner.raw.put("/api/outlook/practice", body, content_type="application/json").status_code == 403
    told = lead.raw.put("/api/outlook/practice", body, content_type="application/json").json()
    assert told.pop("version") > 0 and told == body
    company = Company.current()
    assert (company.practice, company.tolerance) == ("annual", 0.1)
    assert ProcrastinateJob.objects.filter(task_name="forecasts.recompute_all").count() == 1


def test_a_large_base_is_answered_for_by_some_of_it(as_role, forecasted, monkeypatch):
    whole = tried(as_role("planner"))
    monkeypatch.setattr(trial, "MOST_HEATERS", 3)
    told = tried(as_role("planner"))
    assert (told["heaters"], told["asked_of"]) == (6, 3)
    # Every second heater stands for two.
    assert told["now"]["services"] % 2 == 0 and whole["now"]["services"] > 0


def test_each_heater_counts_in_every_figure_as_often_as_it_stands_for(forecasted):
    today = forecasted["today"]
    company, until = Company.current(), today + datetime.timedelta(days=364)
    (six, once), (_, tenfold) = (
        trial._figures(Heater.objects.in_service(), company, total, today, until) for total in (6, 60)
    )
    assert six == 6 and once["services"] > 0 < once["over_days"]
    for name in ("services", "hours", "over_days"):
        assert tenfold[name] == pytest.approx(10 * once[name], abs=5.5), name
    assert [one["week"] for one in tenfold["weeks"]] == [one["week"] for one in once["weeks"]]
    assert [one["services"] for one in tenfold["weeks"]] == [10 * one["services"] for one in once["weeks"]]


def test_the_hours_of_a_year_are_those_of_each_service_as_they_are_in_force(forecasted, monkeypatch):
    today = forecasted["today"]
    asked = Heater.objects.in_service(), Company.current(), 6, today, today + datetime.timedelta(days=364)
    # Two hours whatever is done, and three: the services by that.
    for each in (2.0, 3.0):
        monkeypatch.setattr(trial, "in_force", lambda each=each: Hours(dict.fromkeys(Work, each)))
        told = trial._figures(*asked)[1]
        assert told["hours"] == pytest.approx(each * told["services"], abs=each) and told["services"] > 3


@pytest.mark.parametrize("asked", ["practice=annual&tolerance=0", "practice=often&tolerance=0.2", "tolerance=0.2"])
def test_what_cannot_be_tried_is_told(as_role, asked):
    assert as_role("planner").get(f"outlook/trial?{asked}").status_code == 422

"""What the lead looks over: measurements in the windows told before them, and tanks near their end."""

import datetime

import pytest

from aquifer.forecasts import recompute
from aquifer.forecasts.models import Calibration, Check, Forecast
from aquifer.heaters.models import Heater
from tests.conftest import FLUSH, VALVE, visit


@pytest.fixture
def measured(as_role, base):
    """Two tanks on the hard water, each flushed a year ago and measured today: one far deeper than the other."""
    recompute.recompute_all()
    technician = as_role("technician")
    ago = (base["today"] - datetime.timedelta(days=365)).isoformat()
    for heater, depth in zip(base["heaters"][:2], (80.0, 3.0), strict=True):
        for on, finding in ((ago, FLUSH), (None, FLUSH | {"depth_before_mm": depth})):
            told = visit(heater.pk, finding, VALVE, **({"on": on} if on else {}))
            assert technician.post("visits", told).status_code == 201
    recompute.recompute_all()
    return base


def held(client) -> dict:
    answer = client.get("review/forecasts")
    assert answer.status_code == 200, answer.content
    return {one["component"]: one for one in answer.json()["components"]} | {"valves": answer.json()["valves"]}


def test_each_measurement_stands_where_it_fell_in_what_was_told(as_role, measured):
    deep, shallow = measured["heaters"][:2]
    sediment = held(as_role("lead"))["sediment"]
    checks = {one["heater_id"]: one for one in sediment["checks"]}
    assert set(checks) == {deep.pk, shallow.pk} and sediment["measured"] == 2
    assert checks[deep.pk]["place"] > 0.5 > checks[shallow.pk]["place"]
    assert checks[deep.pk]["ratio"] > 1 > checks[shallow.pk]["ratio"]
    assert {one["on"] for one in checks.values()} == {measured["today"].isoformat()}
    inside = sum(0.1 <= one["place"] <= 0.9 for one in checks.values()) / 2
    assert sediment["inside"] == pytest.approx(inside)
    assert (sediment["usual_from"], sediment["usual_to"]) == (0.5, 1.0)


def test_what_was_never_measured_says_so(as_role, measured):
    rods = held(as_role("lead"))["anode"]
    assert rods["inside"] is None and rods["usual_from"] is None and rods["checks"] == [] and rods["measured"] == 0


def test_measurements_are_held_against_the_base_anew_each_night(as_role, measured):
    before = Check.objects.count()
    recompute.begin(measured["today"])
    assert Check.objects.count() == before
    Heater.objects.filter(pk=measured["heaters"][0].pk).update(archived_at=datetime.datetime.now(datetime.UTC))
    recompute.begin(measured["today"])
    assert Check.objects.count() == before - 1
    assert Calibration.objects.filter(component="sediment").count() == 4


def test_how_somebody_grades_is_told_to_whoever_sets_the_practice(as_role, measured):
    lead, planner = (held(as_role(role))["sediment"] for role in ("lead", "planner"))
    assert [one["name"] for one in lead["people"]] and planner["people"] == []
    assert lead["common_eye"] == planner["common_eye"]


def test_valves_that_passed_no_water_are_counted(as_role, measured):
    assert held(as_role("lead"))["valves"] == {"tried": 2, "stuck": 0}
    stuck = visit(measured["heaters"][3].pk, {"task": "relief_valve_exercise", "outcome": "no_flow"})
    assert as_role("technician").post("visits", stuck).status_code == 201
    assert held(as_role("lead"))["valves"] == {"tried": 3, "stuck": 1}


def test_before_anything_is_calibrated_there_is_nothing_to_hold(as_role, base):
    assert held(as_role("planner")) == {"valves": {"tried": 0, "stuck": 0}}


def test_the_review_takes_a_fixed_number_of_queries(as_role, measured, django_assert_max_num_queries):
    lead = as_role("lead")
    with django_assert_max_num_queries(6):
        lead.get("review/forecasts")
    with django_assert_max_num_queries(8):
        lead.get("review/replacements")


def replacements(client) -> dict:
    answer = client.get("review/replacements")
    assert answer.status_code == 200, answer.content
    return answer.json()


def test_the_oldest_tanks_come_first_and_tankless_heaters_not_at_all(as_role, base):
    oldest = base["heaters"][2]
    Heater.objects.filter(pk=oldest.pk).update(installed_on=base["today"] - datetime.timedelta(days=9000))
    recompute.recompute_all()
    found = replacements(as_role("planner"))
    assert found["tanks"] == 4 and len(found["likeliest"]) == 4
    first = found["likeliest"][0]
    assert first["heater_id"] == oldest.pk and first["within_a_year"] > first["accepted"]
    chances = [one["within_a_year"] for one in found["likeliest"]]
    assert chances == sorted(chances, reverse=True)
    # What fails within the first year is the sum of what each may.
    assert found["years"][0]["failing"] == pytest.approx(sum(chances), abs=0.1)
    assert found["years"][0]["due"] == 1 and len(found["years"]) == 8
    assert {one["name"]: (one["due"], one["tanks"]) for one in found["zones"]} == {"Upland": (1, 1), "Chalk": (0, 3)}


def test_a_tank_out_of_service_is_expected_to_do_nothing(as_role, forecasted):
    gone = forecasted["heaters"][0]
    Heater.objects.filter(pk=gone.pk).update(archived_at=datetime.datetime.now(datetime.UTC))
    found = replacements(as_role("lead"))
    assert found["tanks"] == 3 and gone.pk not in {one["heater_id"] for one in found["likeliest"]}
    Forecast.objects.all().delete()
    empty = replacements(as_role("lead"))
    assert empty["tanks"] == 0 and empty["likeliest"] == [] and empty["zones"] == []
    assert {one["failing"] for one in empty["years"]} == {0}


@pytest.mark.parametrize("path", ["review/forecasts", "review/replacements"])
def test_only_who_is_signed_in_looks(client, db, path):
    assert client.get(f"/api/{path}").status_code == 401

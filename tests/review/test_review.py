"""What the lead looks over: measurements in the windows told before them, and tanks near their end."""

import datetime

import numpy as np
import pytest

from aquifer.forecasts import recompute, trial
from aquifer.forecasts.models import Calibration, Check, Forecast
from aquifer.heaters.models import Heater
from aquifer.review import accuracy
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
    assert checks[deep.pk]["strayed"] in ("faster", None) and checks[shallow.pk]["strayed"] in ("slower", None)
    assert [one["strayed"] is None for one in checks.values()] == [
        0.1 <= one["place"] <= 0.9 for one in checks.values()
    ]
    assert {one["on"] for one in checks.values()} == {measured["today"].isoformat()}
    inside = sum(0.1 <= one["place"] <= 0.9 for one in checks.values()) / 2
    assert sediment["inside"] == pytest.approx(inside)
    assert (sediment["usual_from"], sediment["usual_to"]) == (0.5, 1.0)


def test_of_many_measurements_the_newest_are_drawn(as_role, measured, monkeypatch):
    Check.objects.filter(heater=measured["heaters"][0]).update(on=datetime.date(2020, 1, 1))
    monkeypatch.setattr(accuracy, "MOST_CHECKS", 1)
    sediment = held(as_role("lead"))["sediment"]
    assert [one["heater_id"] for one in sediment["checks"]] == [measured["heaters"][1].pk]
    assert sediment["measured"] == 2


def test_what_was_never_measured_says_so(as_role, measured):
    rods = held(as_role("lead"))["anode"]
    assert rods["inside"] is None and rods["usual_from"] is None and rods["checks"] == [] and rods["measured"] == 0
    assert rods["verdict"] == "unmeasured"


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
    with django_assert_max_num_queries(7):
        lead.get("review/forecasts")
    with django_assert_max_num_queries(9):
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
    assert first["reasons"][0] == "spent_anode"
    chances = [one["within_a_year"] for one in found["likeliest"]]
    assert chances == sorted(chances, reverse=True)
    # What fails within the first year is the sum of what each may.
    assert found["years"][0]["failing"] == pytest.approx(sum(chances), abs=0.1)
    assert found["years"][0]["due"] == 1 and len(found["years"]) == 8
    assert {one["name"]: (one["due"], one["tanks"]) for one in found["zones"]} == {"Upland": (1, 1), "Chalk": (0, 3)}


def test_what_own_tanks_taught_is_told_with_how_sure_it_is(as_role, forecasted):
    lead = as_role("lead")
    found = replacements(lead)
    assert found["taught"]["failures"] == 0 and found["taught"]["makes"] == []
    assert found["taught"]["of_all"]["times"] == pytest.approx(1.0, abs=0.05)
    low, high = found["taught"]["of_all"]["between"]
    assert 0.3 < low < 0.6 and 1.8 < high < 3
    for one in found["likeliest"]:
        assert one["between"][0] < one["within_a_year"] < one["between"][1]
    # Three makes: one worse for sure, one better, and one that may as well be like the others.
    people = ["Harrow/189", "Weir/150", "Weir/200"]
    newest = Calibration.objects.filter(component="tank").latest("computed_at")
    life = {**newest.life, "level": 0.47, "build_spread": 0.5}
    life["builds"] = {"Harrow/189": [0.74, 0.04], "Weir/150": [-0.69, 0.04], "Weir/200": [0.2, 0.09]}
    for row in (newest, Calibration.objects.filter(component="sediment").latest("computed_at")):
        row.pk, row.cohorts = None, dict.fromkeys(people, 0.0)
        row.life = life if row.component == "tank" else {}
        row.failures, row.computed_at = 31, row.computed_at + datetime.timedelta(minutes=1)
        row.save()
    taught = replacements(lead)["taught"]
    assert taught["failures"] == 31 and taught["of_all"]["times"] == pytest.approx(1.6, abs=0.01)
    assert [(one["name"], one["times"]) for one in taught["makes"]] == [("Harrow 189", 2.1), ("Weir 150", 0.5)]
    assert taught["makes"][0]["between"] == pytest.approx([2.1 * np.exp(-0.2563), 2.1 * np.exp(0.2563)], abs=0.02)


def test_a_tank_out_of_service_is_expected_to_do_nothing(as_role, forecasted):
    gone = forecasted["heaters"][0]
    Heater.objects.filter(pk=gone.pk).update(archived_at=datetime.datetime.now(datetime.UTC))
    found = replacements(as_role("lead"))
    assert found["tanks"] == 3 and gone.pk not in {one["heater_id"] for one in found["likeliest"]}
    Forecast.objects.all().delete()
    empty = replacements(as_role("lead"))
    assert empty["tanks"] == 0 and empty["likeliest"] == [] and empty["zones"] == []
    assert {one["failing"] for one in empty["years"]} == {0}


def compared(client) -> tuple[dict, dict]:
    """The answer, and its figures by water and practice."""
    answer = client.get("review/practices")
    assert answer.status_code == 200, answer.content
    told = answer.json()
    return told, {row["name"]: {one["practice"]: one for one in row["practices"]} for row in told["rows"]}


def test_every_practice_is_tried_on_every_water(as_role, forecasted):
    told, figures = compared(as_role("planner"))
    assert (told["heaters"], told["asked_of"]) == (6, 6)
    assert [(row["name"], row["heaters"]) for row in told["rows"]] == [("", 6), ("Chalk", 4), ("Upland", 2)]
    chalk, upland = figures["Chalk"], figures["Upland"]
    assert chalk["hard_water_half_yearly"]["cleanings"] > chalk["annual"]["cleanings"] >= 1
    # Only hard water is cleaned twice.
    assert upland["hard_water_half_yearly"] == upland["annual"] | {"practice": "hard_water_half_yearly"}
    assert chalk["annual"]["over_days"] > upland["annual"]["over_days"]
    assert chalk["condition"]["over_days"] <= chalk["long_service"]["over_days"]
    whole = [(4 * chalk[p]["over_days"] + 2 * upland[p]["over_days"]) / 6 for p in ("condition", "annual")]
    assert [figures[""][p]["over_days"] for p in ("condition", "annual")] == pytest.approx(whole, abs=0.01)


def test_a_water_says_which_practice_it_follows_and_trying_changes_none(as_role, forecasted):
    hard = forecasted["zones"][0]
    type(hard).objects.filter(pk=hard.pk).update(practice="annual")
    before = list(Forecast.objects.order_by("pk").values())
    told, figures = compared(as_role("lead"))
    assert {row["name"]: row["followed"] for row in told["rows"]} == {
        "": "condition",
        "Chalk": "annual",
        "Upland": "condition",
    }
    # What a water follows does not stand in the way of what is tried on it.
    assert figures["Chalk"]["condition"]["cleanings"] != figures["Chalk"]["hard_water_half_yearly"]["cleanings"]
    assert list(Forecast.objects.order_by("pk").values()) == before


def test_a_large_base_is_answered_for_by_some_of_it(as_role, forecasted, monkeypatch):
    monkeypatch.setattr(trial, "MOST_HEATERS", 3)
    told, _ = compared(as_role("lead"))
    assert told["heaters"] == 6 and 0 < told["asked_of"] <= 3


def test_an_empty_base_compares_nothing(as_role, db):
    assert compared(as_role("lead")) == ({"heaters": 0, "asked_of": 0, "rows": [], "kept_at": None}, {})


@pytest.mark.parametrize("path", ["review/forecasts", "review/practices", "review/replacements"])
def test_only_who_is_signed_in_looks(client, db, path):
    assert client.get(f"/api/{path}").status_code == 401

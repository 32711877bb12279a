"""The guide that a device is given, and what was done by it in the record."""

import datetime

import pytest

from aquifer.company.clock import week_of
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Part
from aquifer.rounds.models import Appointment, Service
from tests.conftest import visit
from tests.rounds.conftest import crew  # noqa: F401


def guide(client, heater, *components):
    answer = client.get(f"heaters/{heater.pk}/guide?" + "&".join(f"component={one}" for one in components))
    assert answer.status_code == 200, answer.json()
    return answer.json()


def test_a_guide_has_the_procedures_for_what_is_asked_and_all_they_can_lead_to(as_role, forecasted):
    told = guide(as_role("lead"), forecasted["heaters"][0], "sediment", "anode", "relief_valve")
    assert told["order"][0] == "arrival" and told["order"][-1] == "hand_over"
    assert {"full_drain", "anode_out", "relief_exercise"} <= set(told["order"])
    led_to = {
        then for one in told["procedures"].values() for s in one["steps"] for o in s["deviations"] for then in o["then"]
    }
    led_to |= {name for one in told["endings"].values() for name in one["closing"]}
    led_to |= {name for one in (*told["outside"], *told["found"]) for name in one["then"]}
    assert led_to | set(told["order"]) <= set(told["procedures"])
    assert told["facts"]["licence_gas"] == "no" and told["start"]["level"] == [0, 1]
    figures = {one["name"]: one for one in told["figures"]}
    drained = {one["name"]: one for one in figures["drain_minutes"]["inputs"]}
    assert drained["capacity_l"]["value"] == forecasted["heaters"][0].capacity_l and figures["drain_minutes"]["reads"]
    assert told["may_override"] is True


def test_what_is_planned_today_comes_before_what_is_due(as_role, forecasted, crew, today):  # noqa: F811
    heater = forecasted["heaters"][0]
    assert "sediment" in guide(as_role("technician"), heater)["components"]
    one = Appointment.objects.create(
        site=heater.site, week=week_of(today), on=today, member=crew[0], begins=540, minutes=60, needs=["gas"]
    )
    Service.objects.create(appointment=one, heater=heater, component="relief_valve", method="exercise", hours=0.25)
    told = guide(as_role("technician"), heater)
    assert told["components"] == ["relief_valve"] and "trial" not in told["order"]
    assert told["facts"]["licence_gas"] == "yes" and told["may_override"] is False


@pytest.fixture
def today():
    return datetime.date.today()


def test_every_kind_of_heater_has_a_guide(as_role, forecasted):
    client = as_role("technician")
    for heater in forecasted["heaters"]:
        told = guide(client, heater)
        assert all(told["procedures"][name]["steps"] for name in ("arrival", "hand_over"))


def test_what_an_answer_means_for_this_heater_is_along(as_role, forecasted):
    told = guide(as_role("technician"), forecasted["heaters"][0])
    on_site_rules = {one["rule"]: one for one in told["on_site_rules"]}
    valve = {tuple(case["at"]): case for case in on_site_rules["keep_valve"]["cases"]}
    assert [one["field"] for one in on_site_rules["keep_valve"]["answers"]] == ["valve.outcome", "relief.outlet"]
    assert valve["no_flow", None]["verdict"] == "replace_valve" and valve["no_flow", None]["licensed"]
    assert valve["flows_and_reseats", None]["verdict"] == "keep_valve"
    assert {one["follows"] for one in on_site_rules["keep_valve"]["options"]} == {True, False}
    assert any("a good step" in line for line in told["prepare"])
    tankless = next(one for one in forecasted["heaters"] if one.kind == "gas_tankless")
    assert "blocked_drain" not in {one["rule"] for one in guide(as_role("technician"), tankless)["on_site_rules"]}


def test_a_depth_is_asked_for_once_more_where_it_does_not_fit_this_heater(as_role, forecasted):
    heater = forecasted["heaters"][0]
    told = as_role("technician").get(f"heaters/{heater.pk}/guide").json()["usual_readings"]
    depth = Forecast.objects.current().get(heater=heater, component="sediment").state["depth_mm"]
    low, high = told["flush.depth_before_mm"]
    assert low < depth[0] < depth[2] < high < 30 * depth[1]
    assert told["flush.depth_after_mm"] == [0.0, high]
    # What nothing is believed of is held against what is usual anywhere.
    assert told["pressure.static_kpa"] == [150.0, 800.0]


def test_what_is_cleaned_is_in_the_visit_when_it_is_due(as_role, forecasted):
    tankless = next(one for one in forecasted["heaters"] if one.kind == "gas_tankless")
    told = guide(as_role("technician"), tankless, "scale")
    assert {"flame_sensor", "inlet_screen"} <= set(told["upkeep"]) and "upkeep_look" in told["order"]
    for item in told["upkeep"]:
        done = {"task": "upkeep", "item": item, "fouling": "clean"}
        assert as_role("technician").post("visits", visit(tankless.pk, done)).status_code == 201
    again = guide(as_role("technician"), tankless, "scale")
    assert again["upkeep"] == [] and "upkeep_look" not in again["order"]


def test_what_to_carry_and_what_is_taken_up_besides(as_role, forecasted):
    client, heater = as_role("technician"), forecasted["heaters"][0]
    told = guide(client, heater, "sediment", "anode")
    carried = {one["part"]: one["probability"] for one in told["parts"]}
    assert carried["hose washer"] == 1 and any(part.startswith("anode ") for part in carried)
    assert list(carried.values()) == sorted(carried.values(), reverse=True)
    answer = client.get(f"heaters/{heater.pk}/guide?component=anode&extra=pressure_test&extra=replace_valve").json()
    assert {"pressure_test", "relief_replacement"} <= set(answer["order"])
    assert answer["extras"] == ["pressure_test", "replace_valve"]
    assert client.get(f"heaters/{heater.pk}/guide?extra=dance").status_code == 422


def test_the_guide_takes_a_fixed_number_of_queries(as_role, forecasted, django_assert_max_num_queries):
    client, heater = as_role("technician"), forecasted["heaters"][0]
    guide(client, heater)
    with django_assert_max_num_queries(24):
        guide(client, heater)
    assert as_role("planner").get(f"heaters/{heater.pk}/guide").status_code == 403
    assert client.get("heaters/999999/guide").status_code == 404
    assert client.get(f"heaters/{heater.pk}/guide?component=sofa").status_code == 422


def test_the_guide_speaks_of_the_parts_in_place_and_carries_what_fits_them(as_role, forecasted):
    heater = forecasted["heaters"][0]
    Part.objects.filter(heater=heater, kind="relief_valve").delete()
    today = datetime.date.today()
    gone = {"fitted_on": today - datetime.timedelta(days=3000), "removed_on": today - datetime.timedelta(days=900)}
    Part.objects.create(heater=heater, kind="relief_valve", set_pressure_kpa=700, **gone)
    Part.objects.create(heater=heater, kind="relief_valve", set_pressure_kpa=1034, fitted_on=gone["removed_on"])
    told = as_role("technician").get(f"heaters/{heater.pk}/guide?component=relief_valve").json()
    words = str([told["on_record"], told["to_know"], told["parts"]])
    assert "1034" in words or "10.3 bar" in words or "1 034" in words, words
    assert "700" not in words

"""The guide that a device is given, and what was done by it in the record."""

import datetime

import pytest

from aquifer.rounds.models import Appointment, Service, monday
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
        then for one in told["procedures"].values() for s in one["steps"] for o in s["otherwise"] for then in o["then"]
    }
    assert led_to | set(told["order"]) | set(told["restoring"]) <= set(told["procedures"])
    assert told["facts"]["licence_gas"] == "no" and told["start"]["water"] == "scalding"
    figures = {one["name"]: one for one in told["figures"]}
    assert 10 < figures["drain_minutes"]["value"] < 80 and figures["drain_minutes"]["formula"]
    assert told["may_override"] is True


def test_what_is_planned_today_comes_before_what_is_due(as_role, forecasted, crew, today):  # noqa: F811
    heater = forecasted["heaters"][0]
    assert "sediment" in guide(as_role("technician"), heater)["components"]
    one = Appointment.objects.create(
        site=heater.site, week=monday(today), on=today, member=crew[0], begins=540, minutes=60, needs=["gas"]
    )
    Service.objects.create(appointment=one, heater=heater, component="relief_valve", method="exercise", hours=0.25)
    told = guide(as_role("technician"), heater)
    assert told["components"] == ["relief_valve"] and "isolate_water" not in told["order"]
    assert told["facts"]["licence_gas"] == "yes" and told["may_override"] is False


@pytest.fixture
def today():
    return datetime.date.today()


def test_every_kind_of_heater_has_a_guide(as_role, forecasted):
    client = as_role("technician")
    for heater in forecasted["heaters"]:
        told = guide(client, heater)
        assert all(told["procedures"][name]["steps"] for name in told["order"] if name != "indirect_bleed")


def test_the_guide_takes_a_fixed_number_of_queries(as_role, forecasted, django_assert_max_num_queries):
    client, heater = as_role("technician"), forecasted["heaters"][0]
    guide(client, heater)
    with django_assert_max_num_queries(9):
        guide(client, heater)
    assert as_role("planner").get(f"heaters/{heater.pk}/guide").status_code == 403
    assert client.get("heaters/999999/guide").status_code == 404
    assert client.get(f"heaters/{heater.pk}/guide?component=sofa").status_code == 422

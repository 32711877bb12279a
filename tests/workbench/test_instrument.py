"""Simulated instruments: they read the heater in software that stands for one on record, and only in the demo."""

import statistics

import pytest

from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.visits import readings
from aquifer.workbench.instrument import READINGS


@pytest.fixture
def demo(settings):
    settings.DEMO = True


def read(client, heater, reading):
    return client.get(f"bench/instrument?heater_id={heater.pk}&reading={reading}")


def test_pressure_creeps_where_no_expansion_tank_gives_way_and_hardly_where_one_does(as_role, base, demo):
    client = as_role("technician")
    heater = Heater.objects.filter(kind="gas_tank").first()
    closed = read(client, heater, "pressure.creep_kpa").json()
    assert closed["instrument"] == "simulated pressure gauge" and closed["seconds"][-1] == 900
    Part.objects.create(heater=heater, kind=PartKind.EXPANSION_TANK, volume_l=12)
    eased = read(client, heater, "pressure.creep_kpa").json()
    crept = [statistics.median(one["values"][-3:]) - statistics.median(one["values"][:3]) for one in (closed, eased)]
    assert crept[0] > 100 and 0 < crept[1] < 0.5 * crept[0], crept


def test_a_thermometer_in_the_stream_shows_what_the_tank_holds(as_role, base, demo):
    heater = Heater.objects.filter(kind="electric_tank").first()
    Heater.objects.filter(pk=heater.pk).update(setpoint_c=55)
    told = read(as_role("technician"), heater, "arrival.tap_c").json()
    assert told["values"][-1] == pytest.approx(55, abs=1.5) and len(told["values"]) == len(told["seconds"]) == 13
    still = read(as_role("technician"), heater, "pressure.static_kpa").json()["values"]
    assert max(still) - min(still) <= 2


def test_there_is_none_where_it_is_no_demo_and_none_of_what_is_not_simulated(as_role, base, settings):
    heater = Heater.objects.filter(kind="gas_tank").first()
    settings.DEMO = False
    assert read(as_role("technician"), heater, "arrival.tap_c").status_code == 404
    settings.DEMO = True
    answer = read(as_role("technician"), heater, "gas.millivolts")
    assert answer.status_code == 404 and answer.json()["fields"]["reading"].endswith(", ".join(READINGS))


def test_what_an_instrument_told_is_kept_with_its_course_and_said_in_words():
    kept = readings.told_in_words(
        {"course.pressure_creep_kpa": "gauge 4; 0 412, 450 430, 900 451", "course.nothing": "x; 0 1"}
    )
    assert kept["course.pressure_creep_kpa"].startswith("gauge 4")
    assert list(readings.courses(kept)) == ["Crept by: read off the gauge 4 over 15 min"]
    # Hot water is measured twice in a visit: each keeps its own.
    twice = readings.courses({"course.arrival_tap_c": "probe; 0 55, 20 56", "course.verify_tap_c": "dial; 0 54, 90 55"})
    assert [told.rpartition(": ")[2] for told in twice] == ["read off the probe", "read off the dial over 2 min"]


@pytest.mark.parametrize("points", ["", "x", "probe", "probe; ", "probe; ab cd", "probe; 1e9 5", "; , ,"])
def test_a_course_that_cannot_be_read_costs_nobody_the_reading(points):
    (said,) = readings.courses({"course.pressure_creep_kpa": points})
    assert said.startswith("Crept by: read off the")

"""Two lives over HTTP: on the company's waters, by its own tanks, for everybody, and nothing kept."""

import datetime
from urllib.parse import urlencode

import pytest
from django.contrib.auth import get_user_model

from aquifer.core.learning import ComponentCalibration
from aquifer.core.lives import LifeFactor
from aquifer.core.vocabulary import Component
from aquifer.forecasts import calibrations
from aquifer.heaters.models import Heater
from aquifer.visits.models import Visit
from aquifer.workbench import lives


def asked(client, **said):
    return client.get(f"bench/lives?{urlencode({'care': ['yearly', 'never'], **said}, doseq=True)}")


def test_a_tank_is_lived_twice_on_a_water_of_ours(as_role, base):
    zone = base["sites"][0].zone
    told = asked(as_role("apprentice"), zone_id=zone.pk).json()
    assert told["water"] == zone.name and len(told["years"]) == 81 and told["years"][-1] == 20
    kept, left = told["sides"]
    assert all(len(life[name]) == 81 for life in told["sides"] for name in ("depth_mm", "rod_left", "energy_kwh"))
    assert kept["depth_mm"][-1] <= left["depth_mm"][-1] and kept["leak_within_year"][-1] < left["leak_within_year"][-1]
    assert left["rods_in_years"] == [] and left["bare_from_year"] is not None and kept["bare_from_year"] is None
    low, middle, high = left["depth_fan_mm"]
    assert low[-1] < middle[-1] < high[-1]
    assert left["leaked_share"] == sorted(left["leaked_share"]) and left["leaked_share"][-1] > kept["leaked_share"][40]


def test_the_same_luck_gives_the_same_lives_and_another_gives_others(as_role, base):
    client = as_role("technician")
    one, same, other = (asked(client, hardness_mg_l=250, seed=seed).json() for seed in (3, 3, 4))
    assert one == same and one["sides"] != other["sides"]
    # Both sides share it: with one care they are one life.
    twins = asked(client, care=["yearly", "yearly"], hardness_mg_l=250, seed=3).json()
    assert twins["sides"][0] == twins["sides"][1]


def test_softened_and_cooler_water_is_a_side_of_its_own(as_role, base):
    said = {"care": ["never", "never"], "setpoint_c": [70, 50], "softened": [False, True], "hardness_mg_l": 300}
    hot, soft = asked(as_role("planner"), **said).json()["sides"]
    assert soft["depth_mm"][-1] < 0.3 * hot["depth_mm"][-1]
    assert soft["energy_kwh"][0] < hot["energy_kwh"][0]


def test_tanks_that_last_longer_with_us_do_so_on_the_bench(as_role, base, monkeypatch):
    client = as_role("lead")
    before = asked(client, hardness_mg_l=200).json()["sides"][0]["leak_within_year"][40]
    taught = ComponentCalibration(life=LifeFactor(20.0, 60.0, 18))
    monkeypatch.setattr(calibrations, "in_force", lambda: ({Component.TANK: taught}, None))
    after = asked(client, hardness_mg_l=200).json()["sides"][0]["leak_within_year"][40]
    assert after == pytest.approx(before / 3, rel=0.1)


@pytest.mark.parametrize(
    ("body", "status"),
    [
        ({"kind": "gas_tankless"}, 422),
        ({"zone_id": 10**9}, 404),
        ({"capacity_l": 3}, 422),
        ({"care": []}, 422),
        ({"care": ["hope"]}, 422),
        ({"care": ["never", "yearly", "never"]}, 422),
        ({"setpoint_c": 200}, 422),
    ],
)
def test_what_cannot_be_lived_is_told(as_role, base, body, status):
    assert asked(as_role("planner"), **body).status_code == status


def test_nothing_of_it_is_kept(as_role, base, django_assert_max_num_queries):
    client = as_role("apprentice")
    before = Heater.objects.count(), Visit.objects.count(), get_user_model().objects.count()
    with django_assert_max_num_queries(18):
        asked(client, zone_id=base["sites"][0].zone_id)
    assert (Heater.objects.count(), Visit.objects.count(), get_user_model().objects.count()) == before


def test_a_zone_that_nobody_tested_has_the_usual_water(base):
    side = lives.Side(lives.CareName.NEVER, False, 60.0)
    tank = lives.Asked(lives.HeaterKind.GAS_TANK, 190.0, 4.0, None, None, None)
    told = lives.told(tank, [side], datetime.date(2026, 11, 28))
    assert told["water"] == "" and told["hardness_mg_l"] > 0 and len(told["sides"]) == 1

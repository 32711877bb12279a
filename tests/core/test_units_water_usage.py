import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aquifer.core import usage
from aquifer.core.fleet import capacity_or_default, floor_m2, heater_spread, sediment_limit_m
from aquifer.core.units import HardnessUnit, Quantity, System, table
from aquifer.core.vocabulary import HeaterKind, code
from aquifer.core.water import WaterTest, hardness_class, profile

TABLES = [table(system, hardness) for system in System for hardness in HardnessUnit]


@given(value=st.floats(-200, 1e6))
def test_units_round_trip(value):
    for units in TABLES:
        for unit in units.values():
            assert unit.stored(unit.shown(value)) == pytest.approx(value, abs=1e-6)


@pytest.mark.parametrize(
    ("quantity", "stored", "shown"),
    [
        # Hand conversions of common trade figures.
        (Quantity.VOLUME, 189.27, 50.0),
        (Quantity.TEMPERATURE, 60.0, 140.0),
        (Quantity.PRESSURE, 1034.2, 150.0),
        (Quantity.LENGTH, 25.4, 1.0),
        (Quantity.POWER, 11.72, 40.0),
        (Quantity.HARDNESS, 171.18, 10.0),
    ],
)
def test_us_units_show_what_the_trade_says(quantity, stored, shown):
    assert table(System.US, HardnessUnit.GPG)[quantity].shown(stored) == pytest.approx(shown, rel=1e-3)


def test_every_quantity_has_a_unit_in_every_choice():
    for units in TABLES:
        assert set(units) == set(Quantity) and all(unit.label for unit in units.values())


@pytest.mark.parametrize(
    ("mg_l", "word"),
    [(0, "soft"), (59, "soft"), (60, "moderate"), (120, "hard"), (180, "very hard"), (900, "very hard")],
)
def test_hardness_has_the_trades_word(mg_l, word):
    assert hardness_class(mg_l) == word


def test_only_what_nobody_measured_is_assumed():
    full = WaterTest(250, 190, 210, 7.5, 520, 12, 0.1)
    assert profile(full).assumed == ()
    assert {item.at for item in profile(WaterTest(250, 190, 210)).assumed} == {
        "/water/ph",
        "/water/conductivity_us_cm",
        "/water/source_temperature_c",
        "/water/suspended_solids_mg_l",
    }
    assert len(profile(WaterTest()).assumed) == 7


def test_a_meter_outweighs_people_and_people_outweigh_nothing():
    nan = np.nan
    found = usage.litres_per_day(np.array([300.0, nan, nan]), np.array([2.0, 4.0, nan]), np.array([1.0, 2.0, 1.0]))
    # Four people share two heaters: 4 x 55 / 2.
    assert found == pytest.approx([300.0, 110.0, 165.0])
    spread = usage.use_variance(np.array([300.0, nan, nan]), np.array([2.0, 4.0, nan]))
    assert spread[0] == 0 < spread[1] < spread[2]


def test_a_year_of_165_litres_a_day_is_sixty_cubic_metres():
    assert usage.volume_m3_per_year(np.array([165.0])) == pytest.approx([60.27], rel=1e-3)


def test_what_is_estimated_widens_a_heater():
    nan, yes, no = np.array([np.nan]), np.array([True]), np.array([False])
    sure = heater_spread(np.array([165.0]), nan, yes)[0]
    assert sure == pytest.approx(0.8)
    assert heater_spread(np.array([165.0]), nan, no)[0] > sure
    assert heater_spread(nan, nan, yes)[0] > heater_spread(nan, np.array([3.0]), yes)[0] > sure


def test_the_limit_is_the_kinds_or_the_lowest_part_it_would_bury():
    kinds = np.array([code(HeaterKind.GAS_TANK), code(HeaterKind.ELECTRIC_TANK), code(HeaterKind.ELECTRIC_TANK)])
    ports = np.array([0.05, np.nan, 0.035])
    elements = np.array([np.nan, 0.18, 0.18])
    assert sediment_limit_m(kinds, ports, elements) == pytest.approx([0.012, 0.040, 0.035])


def test_a_tank_eight_times_as_large_has_four_times_the_floor():
    assert floor_m2(np.array([8 * 189.0])) / floor_m2(np.array([189.0])) == pytest.approx([4.0])


def test_a_capacity_nobody_read_is_the_usual_one():
    assert capacity_or_default(HeaterKind.GAS_TANK, None) == 189
    assert capacity_or_default(HeaterKind.GAS_TANKLESS, None) < 10
    assert capacity_or_default(HeaterKind.MOBILE_TANK, 38) == 38

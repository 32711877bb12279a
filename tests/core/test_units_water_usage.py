import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aquifer.core import chemistry, usage
from aquifer.core.fleet import age_log_sd, capacity_or_default, floor_m2, heater_spread, sediment_limit_m
from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import LEARNING
from aquifer.core.units import HARDNESS, WRITTEN, HardnessUnit, Quantity, System, figure, table, worded
from aquifer.core.vocabulary import Business, code
from aquifer.core.water import Blend, WaterTest, hardness_class, plain_words, profile

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


@pytest.mark.parametrize(
    ("unit", "stored", "shown"),
    [
        # A German degree is 10 mg/L of CaO, a French one 10 mg/L of CaCO3; a bar is a hundred kilopascals.
        (HARDNESS[HardnessUnit.DH], 178.48, 10.0),
        (HARDNESS[HardnessUnit.FH], 100.0, 10.0),
        (WRITTEN[Quantity.PRESSURE]["bar"], 250.0, 2.5),
        (table(System.US, HardnessUnit.GPG)[Quantity.MASS], 0.45359, 1.0),
        (table(System.US, HardnessUnit.GPG)[Quantity.SMALL_MASS], 28.35, 1.0),
        (table(System.US, HardnessUnit.GPG)[Quantity.GAS_PRESSURE], 0.24909, 1.0),
        (table(System.US, HardnessUnit.GPG)[Quantity.TEMPERATURE_DIFFERENCE], 5.0, 9.0),
        (WRITTEN[Quantity.LENGTH]["cm"], 25.0, 2.5),
    ],
)
def test_units_of_other_places_by_hand(unit, stored, shown):
    assert unit.shown(stored) == pytest.approx(shown, rel=1e-3)


@pytest.mark.parametrize(
    ("quantity", "stored", "metric", "us"),
    [
        # As it is written on a plate, a gauge or a bill; figures of the other system from a printed table.
        (Quantity.VOLUME, 189.27, "189 L", "50 gal"), (Quantity.SMALL_VOLUME, 7.571, "7.6 L", "2.00 gal"),
        (Quantity.LENGTH, 914.4, "914 mm", "36.00 in"), (Quantity.TEMPERATURE, 60.0, "60 °C", "140 °F"),
        (Quantity.PRESSURE, 1034.2, "1034 kPa", "150 psi"), (Quantity.MASS, 2.268, "2.3 kg", "5.0 lb"),
        (Quantity.SMALL_MASS, 226.8, "227 g", "8.0 oz"), (Quantity.POWER, 11.723, "11.7 kW", "40.0 kBTU/h"),
        (Quantity.TEMPERATURE_DIFFERENCE, 20.0, "20 °C", "36 °F"),
        (Quantity.GAS_PRESSURE, 1.744, "1.7 kPa", "7.0 in wc"),
        (Quantity.FLOW, 9.464, "9.5 L/min", "2.5 gpm"), (Quantity.DOSE, 60.0, "60 g/L", "8 oz/gal"),
        (Quantity.VOLTAGE, 120.0, "120.0 V", "120.0 V"), (Quantity.HEIGHT, 1.524, "1.5 m", "5.0 ft"),
        (Quantity.GAS_VOLUME, 28.317, "28.3 L", "1.00 cu ft"),
        (Quantity.HEATING_VALUE, 37.26, "37.3 MJ/m³", "1000 BTU/cu ft"),
    ],
)  # fmt: skip
def test_each_quantity_is_written_as_the_trade_writes_it(quantity, stored, metric, us):
    told = [worded(f"{{{quantity}:{stored}}}", table(system, HardnessUnit.MG_L)) for system in System]
    assert sorted(told) == sorted([metric, us])
    for system in System:
        unit = table(system, HardnessUnit.MG_L)[quantity]
        assert unit.stored(unit.shown(stored)) == pytest.approx(stored)


def test_an_inch_is_told_to_the_hundredth_and_a_small_mass_to_the_tenth():
    us = table(System.US, HardnessUnit.GPG)
    assert worded(f"{figure(Quantity.LENGTH, 12.7)}, {figure(Quantity.SMALL_MASS, 28.35)}", us) == "0.50 in, 1.0 oz"


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
    assert len(profile(WaterTest(), is_well=True).assumed) == 8


def use(n: int = 1, **known: list[float]) -> usage.Use:
    names = ("metered_l", "people", "fixtures", "burner_hours", "input_kw", "rise_k", "occupied_share")
    columns = {name: np.array(known.get(name, [np.nan] * n), dtype=float) for name in names}
    sharing = np.array(known.get("heaters_on_site", [1.0] * n))
    return usage.Use(**columns, business=np.array(known.get("business", [-1] * n)), heaters_on_site=sharing)


def test_a_meter_outweighs_people_and_people_outweigh_nothing():
    nan = np.nan
    found, spread = usage.litres_per_day(
        use(3, metered_l=[300.0, nan, nan], people=[2.0, 4.0, nan], heaters_on_site=[1.0, 2.0, 1.0])
    )
    # Four people share two heaters: 4 x 55 / 2.
    assert found == pytest.approx([300.0, 110.0, 165.0])
    assert spread[0] < spread[1] < spread[2]


def test_whatever_is_shared_is_shared_by_all_that_stand_there():
    """People, fixtures and a business alike: half of it goes through each of two heaters, a meter's own is its own."""
    for known in ({"people": [4.0]}, {"fixtures": [6.0]}, {"business": [code(Business.BAKERY)]}):
        alone, _ = usage.litres_per_day(use(**known))
        shared, _ = usage.litres_per_day(use(**known, heaters_on_site=[2.0]))
        assert shared[0] == pytest.approx(alone[0] / 2), known
    metered, _ = usage.litres_per_day(use(metered_l=[200.0], heaters_on_site=[2.0]))
    assert metered[0] == 200.0


def test_burner_hours_are_litres_by_a_heat_balance():
    # 12 kW for an hour at 80 % heat 34.6 MJ; by 45 K that is 183 L.
    found, _ = usage.litres_per_day(use(burner_hours=[1.0], input_kw=[12.0], rise_k=[45.0]))
    assert found == pytest.approx([12 * 0.8 * 3600 / (4.186 * 45)], rel=1e-6)


def test_a_holiday_let_draws_for_the_weeks_that_it_is_let_and_is_less_sure():
    full, sure = usage.litres_per_day(use(people=[4.0]))
    let, vague = usage.litres_per_day(use(people=[4.0], occupied_share=[0.25]))
    assert let == pytest.approx(full / 4) and vague[0] > sure[0]


def test_a_bakery_draws_more_than_an_office():
    found, _ = usage.litres_per_day(use(2, business=[code(Business.BAKERY), code(Business.OFFICE)]))
    assert found[0] > found[1] > 0


def test_a_year_of_165_litres_a_day_is_sixty_cubic_metres():
    assert usage.volume_m3_per_year(np.array([165.0])) == pytest.approx([60.27], rel=1e-3)


def test_what_is_estimated_widens_a_heater():
    known, unknown = np.array([0.0]), np.array([0.4])
    sure = heater_spread(np.array([0.15]), known)[0]
    assert sure == pytest.approx(0.8)
    assert heater_spread(np.array([0.15]), unknown)[0] > sure
    assert heater_spread(np.array([0.45]), known)[0] > heater_spread(np.array([0.30]), known)[0] > sure


def test_an_age_is_as_unsure_as_its_margin_says_and_never_more_than_an_unknown_one():
    age = np.array([10.0, 10.0, 10.0, 10.0, 2.0])
    certain = np.array([True, False, False, False, False])
    margin = np.array([np.nan, np.nan, 1.0, 3.0, 5.0])
    sd = age_log_sd(age, certain, margin)
    assert sd[0] == 0
    assert sd[1] == LEARNING.unknown_age_spread == sd[4]
    assert 0 < sd[2] < sd[3] < sd[1]
    assert sd[2] == pytest.approx(1 / 1.2816 / 10)


def test_what_is_unknown_of_a_water_is_carried_as_a_spread():
    full = profile(WaterTest(250, 190, 210, 7.5, 520, 12, 0.1))
    no_ph, only_hardness, nothing = (
        profile(test).log_sd for test in (WaterTest(250, 190, 210), WaterTest(250), WaterTest())
    )
    assert full.log_sd == 0.0
    # The spread of the trade's waters of one hardness: a factor of five between P10 and P90 (practice of suppliers).
    assert 0.0 < no_ph < only_hardness < nothing
    assert np.exp(2.563 * only_hardness) == pytest.approx(5.2, rel=0.25)


def test_grit_that_nobody_filtered_widens_a_soft_water_of_which_little_is_known():
    guessed = profile(WaterTest(30), is_well=True)
    measured = profile(WaterTest(30, suspended_solids_mg_l=guessed.suspended_solids_mg_l), is_well=True)
    assert guessed.log_sd > 1.3 * measured.log_sd > 0.0


def test_a_strip_is_less_sure_than_a_laboratory():
    test = WaterTest(250, 190, 210, 7.5)
    assert profile(test, log_sds={"total_hardness_mg_l": 0.15, "alkalinity_mg_l": 0.15}).log_sd > profile(test).log_sd


def test_a_well_carries_grit_and_iron_unless_a_test_says_otherwise():
    well, main = profile(WaterTest(250), is_well=True), profile(WaterTest(250))
    assert well.suspended_solids_mg_l > main.suspended_solids_mg_l
    tested = profile(WaterTest(250, suspended_solids_mg_l=0.1, iron_mg_l=0.0), is_well=True)
    assert tested.suspended_solids_mg_l == pytest.approx(0.1)


def test_a_seasonal_blend_lies_between_its_waters():
    hard, soft = profile(WaterTest(350, 250, 260, 7.2)), profile(WaterTest(50, 35, 40, 8.0))
    half_a_year = Blend(0.5, soft.analysis, 1.0)
    blended = profile(WaterTest(350, 250, 260, 7.2), blends=(half_a_year,))
    figures = [one.heated(60).precipitation_potential_mg_l for one in (soft, blended, hard)]
    assert figures[0] < figures[1] < figures[2]
    assert figures[1] == pytest.approx((figures[0] + figures[2]) / 2, rel=0.02)


def test_a_mixture_keeps_its_carbonate():
    hard, soft = profile(WaterTest(350, 250, 260, 7.2)).analysis, profile(WaterTest(50, 35, 40, 8.0)).analysis
    mixed = chemistry.mixed(hard, soft, 0.3)
    assert mixed.alkalinity_mg_l == pytest.approx(0.7 * 260 + 0.3 * 40)
    # Mostly the harder water: near its pH, not half way.
    assert 7.2 < mixed.ph < 7.35
    assert chemistry.mixed(hard, soft, 0.0).ph == pytest.approx(7.2, abs=0.001)


def test_a_customer_is_told_of_the_water_in_plain_words():
    hard = plain_words(profile(WaterTest(380, 270, 300, 7.3)), 60)
    soft = plain_words(profile(WaterTest(30, 20, 25, 8.0)), 60)
    assert "very hard" in hard and "softener" in hard
    assert "soft" in soft and "next to no lime" in soft
    assert "softened" in plain_words(profile(WaterTest(380)), 60, softened=True)


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

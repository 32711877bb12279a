"""Calculators of a visit against hand computation and the trade's own numbers."""

import math
import re

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aquifer.core import expansion_tank
from aquifer.core.kinds import HeaterKind
from aquifer.core.procedures import formula
from aquifer.core.procedures.calculators import USUAL_READINGS, Heater, burn_seconds, calculators, filled
from aquifer.core.procedures.condition import possible
from aquifer.core.procedures.library import library
from aquifer.core.procedures.state import facts_of
from aquifer.core.units import METRIC, US, Quantity, worded

TANK = {"capacity_l": 189, "height_m": 1.2, "bore_mm": 9.5, "open_share": 1, "vented": 1}
HEATER = Heater(189, 1.2, 12, 60, 10, 380, 0.8, 300, 3000, 240, 21, 1000)


def compute(name, **inputs):
    return calculators()[name].compute(**inputs)


def test_a_household_tank_drains_in_the_trades_time_and_slower_when_fouled():
    minutes = compute("drain_minutes", **TANK)
    # floor 0.1575 m2, port 7.09e-5 m2: 0.1575 / (0.6 * 0.75 * 7.09e-5) * sqrt(2.4 / 9.81) s.
    by_hand = 0.1575 / (0.45 * math.pi / 4 * 0.0095**2) * math.sqrt(2.4 / 9.81) / 60
    assert minutes == pytest.approx(by_hand, rel=1e-6)
    assert 15 <= minutes <= 45
    assert compute("drain_minutes", **TANK | {"open_share": 0.5}) == pytest.approx(2 * minutes)
    assert compute("drain_minutes", **TANK | {"bore_mm": 19}) == pytest.approx(minutes / 4)
    assert compute("drain_minutes", **TANK | {"vented": 0}) == math.inf


def test_heating_cooling_and_filling():
    heat = {"capacity_l": 189, "cold_c": 10, "hot_c": 55, "input_kw": 3.6, "efficiency": 1}
    # 189 kg * 4186 * 45 K / 3600 W.
    assert compute("heat_up_minutes", **heat) == pytest.approx(189 * 4186 * 45 / 3600 / 60)
    assert compute("heat_up_minutes", **heat | {"efficiency": 0.8}) == pytest.approx(189 * 4186 * 45 / 2880 / 60)
    # 50 gal at 2 gpm: the faucet stays hot for about 17 minutes.
    cool = {"capacity_l": 189, "flow_l_min": 7.6, "hot_c": 60, "to_c": 43}
    assert compute("cool_minutes", **cool) == pytest.approx(17.4, abs=0.1)
    assert compute("cool_minutes", **cool | {"hot_c": 42}) == 0
    assert compute("refill_minutes", capacity_l=200, supply_l_min=20) == 10
    assert compute("litres_to_port", capacity_l=200, port_share=0.9) == pytest.approx(36)
    flows = [200 / compute("flush_minutes", capacity_l=200, static_kpa=p, bore_mm=9.5) for p in (20, 400)]
    assert flows[1] == pytest.approx(20) and 0 < flows[0] < 20


def test_acid_by_stoichiometry_and_never_less_than_the_pump_needs():
    # 100.09 g CaCO3 with 2 * 60.05 g acetic acid; 3 * 100.09 with 2 * 192.12 g citric acid.
    vinegar, citric = 50 * 100.09 / (2 * 60.05), 70 * 3 * 100.09 / (2 * 192.12)
    assert (round(vinegar), round(citric)) == (42, 55)
    assert compute("acid_litres", scale_g=10, lime_g_l=42) == 4
    assert compute("acid_litres", scale_g=420, lime_g_l=42) == 10
    assert compute("acid_litres", scale_g=4200, lime_g_l=42) == 20  # Renewed when spent, not poured at once.
    assert compute("dissolved_g", acid_l=5, lime_g_l=42, spent_share=0.5) == 105
    assert calculators()["dissolved_g"].writes == "descale.dissolved_g"


def test_a_tankless_heaters_heat_an_element_and_a_gas_meter():
    # 10 L/min through 30 K is 20.93 kW, of 24 kW.
    given = {"flow_l_min": 10, "rise_k": 30, "input_kw": 30, "efficiency": 0.8}
    assert compute("capacity", **given) == pytest.approx(100 * 20.93 / 24)
    assert compute("element_ohms", volts=230, watts=2300) == 23
    assert compute("element_amps", volts=230, watts=2300) == 10
    assert compute("gas_input", gas_l=20, seconds=60, heating_mj_m3=36) == pytest.approx(12)
    assert compute("relief_rating", rating_kw=30, input_kw=12) == 2.5
    assert compute("probe_length", jacket_mm=40, nipple_mm=20) == 85
    assert compute("thermocouple", millivolts=25) == 15


def test_scald_times_are_the_trades_and_fall_with_heat():
    assert [round(burn_seconds(t)) for t in (49, 54, 60, 66, 120)] == [480, 30, 5, 1, 1]
    assert burn_seconds(43) == math.inf and 60 < burn_seconds(50) < 480


@given(st.floats(0, 40), st.floats(20, 95))
def test_expansion_is_that_of_the_forecast(cold, hot):
    grown = compute("expansion_litres", capacity_l=189, cold_c=cold, hot_c=hot)
    of_the_core = expansion_tank.expansion_l(np.array([189.0]), np.array([cold]), np.array([hot]))[0]
    assert grown == pytest.approx(of_the_core, rel=1e-6, abs=1e-6)


def test_an_expansion_tank_takes_up_what_grows():
    given = {"capacity_l": 189, "cold_c": 10, "hot_c": 60}
    grown = compute("expansion_litres", **given)
    assert compute("expansion_tank_litres", **given, precharge_kpa=350, most_kpa=1000) == pytest.approx(
        grown / (1 - 451.325 / 1101.325)
    )
    assert compute("expansion_tank_litres", **given, precharge_kpa=400, most_kpa=400) == math.inf
    assert compute("rod_left", diameter_mm=10, new_mm=20, bare_mm=250, length_mm=1000) == pytest.approx(18.75)


def test_what_is_out_of_range_or_missing_is_told():
    with pytest.raises(ValueError, match="capacity_l is 0; allowed: 1 to 5000"):
        compute("refill_minutes", capacity_l=0, supply_l_min=20)
    with pytest.raises(TypeError, match="supply_l_min"):
        compute("refill_minutes", capacity_l=100)


@pytest.mark.parametrize("bad", ["a = 1", "open('x')", "a.b", "[a]", "a if b else c", "'a'", "1 +", "True"])
def test_nothing_but_a_formula_is_read_as_one(bad):
    with pytest.raises(ValueError):
        formula.parsed(bad)


NUMBERS = st.floats(-1e3, 1e3)


@given(NUMBERS, NUMBERS, NUMBERS)
def test_a_formula_computes_what_python_computes(a, b, c):
    text = "a + b * c - (a - b) / 7 + min(a, b, c) - max(a, b) + -c + sqrt(4) ** 2 + exp(ln(2))"
    by_python = a + b * c - (a - b) / 7 + min(a, b, c) - max(a, b) + -c + 4 + 2
    assert formula.computed(formula.parsed(text), {"a": a, "b": b, "c": c}) == pytest.approx(by_python, abs=1e-6)


def test_points_are_read_straight_between_and_level_outside():
    tree = formula.parsed("along(x, 0, 1, 10, 3, 20, 0)")
    assert [formula.computed(tree, {"x": x}) for x in (-5, 0, 5, 10, 15, 25)] == [1, 1, 2, 3, 1.5, 0]


def test_every_figure_that_a_step_shows_is_filled_in_with_its_formula_and_its_inputs_in_range():
    told = {one.calculator.name: one for one in filled(HEATER)}
    asked = {step.figure for one in library().procedures.values() for step in one.steps if step.figure}
    assert asked <= set(told)
    for one in told.values():
        assert one.calculator.reads and one.calculator.source and math.isfinite(one.result), one.calculator.name
        assert all(g.low <= v <= g.high for g, v in zip(one.calculator.inputs, one.values, strict=True))
    fields = {g.field for one in told.values() for g in one.calculator.inputs if g.field}
    assert fields | {"descale.dissolved_g"} <= set(USUAL_READINGS)


def test_a_heater_beyond_all_bounds_is_filled_in_all_the_same():
    for one in filled(Heater(1e9, 0, 0, 500, -40, 0, 0, 1e9, 0, 0, 0, 0, 0)):
        assert not math.isnan(one.result)


PLAIN = {"1", "V", "W", "A", "mV", "ohm", "percent", "min", "s"}
"""Units that every company uses."""


METRIC_WORDS = re.compile(r"\d ?(mm|cm|m|L|L/min|kPa|kW|g|kg|degC|°C|MJ/m³|psi|gal)\b")


def test_every_figure_that_differs_between_systems_of_units_says_its_quantity():
    for one in calculators().values():
        for unit in (one.unit, *(told.unit for told in one.inputs)):
            assert unit in PLAIN or unit in set(Quantity), (one.name, unit)
        for text in (one.title, one.reads, one.source, *(told.label for told in one.inputs)):
            assert not METRIC_WORDS.search(re.sub(r"\{\w+:[\d.]+\}", "", text)), (one.name, text)
            assert worded(text, METRIC) and worded(text, US)


def test_a_heater_is_offered_what_it_has_a_use_for_and_each_of_its_steps_finds_its_figure():
    offered = {kind: {name for name, one in calculators().items() if one.fits(kind)} for kind in HeaterKind}
    assert not {"capacity", "gas_input", "thermocouple"} & offered[HeaterKind.ELECTRIC_TANK]
    assert {"element_ohms", "rod_left", "burn_seconds"} <= offered[HeaterKind.ELECTRIC_TANK]
    assert not {"rod_left", "drain_minutes", "element_ohms"} & offered[HeaterKind.GAS_TANKLESS]
    assert {"acid_litres", "gas_input"} <= offered[HeaterKind.GAS_TANKLESS]
    for kind in HeaterKind:
        facts = facts_of(kind)
        for procedure in library().procedures.values():
            if not possible(procedure.when, facts):
                continue
            for step in procedure.steps:
                assert not step.figure or not possible(step.when, facts) or step.figure in offered[kind], (
                    kind,
                    step.id,
                )


def test_what_is_reckoned_at_the_bench_alone_is_not_asked_for_at_a_visit():
    at_a_visit = {one.calculator.name for one in filled(HEATER)}
    at_the_bench = {one.calculator.name for one in filled(HEATER, "bench")}
    assert at_the_bench - at_a_visit == {"recovery", "first_hour", "mixed", "softener", "standing_cost"}
    assert at_a_visit < at_the_bench


def test_recovery_mixing_resin_and_standing_losses_by_hand():
    burner = {"input_kw": 11, "efficiency": 0.8, "cold_c": 12, "hot_c": 60}
    # 8.8 kW over an hour against 4.186 kJ/(kg K) and 48 K.
    assert compute("recovery", **burner) == pytest.approx(8.8 * 3600 / (4.186 * 48))
    assert compute("first_hour", capacity_l=190, **burner) == pytest.approx(133 + compute("recovery", **burner))
    # 133 L at 60 with 12 make 228 L at 40: (133 * 60 + 95 * 12) / 228 = 40.
    mixed = compute("mixed", capacity_l=190, cold_c=12, hot_c=60, mixed_c=40)
    assert (133 * 60 + (mixed - 133) * 12) / mixed == pytest.approx(40)
    # 300 mg/L on 500 L a day is 150 g a day; four days are 600 g, 12 L of resin at 50 g.
    assert compute("softener", hardness_mg_l=300, litres_a_day=500, days=4, resin_g_l=50) == pytest.approx(12)
    # 105 W all year are 920 kWh.
    cost = compute("standing_cost", loss_w_k=2.5, hot_c=60, room_c=18, price=0.2, efficiency=1)
    assert cost == pytest.approx(2.5 * 42 / 1000 * 24 * 365.25 * 0.2)

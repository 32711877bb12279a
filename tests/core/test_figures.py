"""Figures of a visit against hand computation and the trade's own numbers."""

import math

import pytest

from aquifer.core.procedures import figures
from aquifer.core.procedures.figures import Heater, figures_of


def test_a_household_tank_drains_in_the_trades_time_and_slower_when_fouled():
    minutes = figures.drain_minutes(189, 1.2)
    # floor 0.1575 m2, port 7.09e-5 m2: 0.1575 / (0.6 * 0.75 * 7.09e-5) * sqrt(2.4 / 9.81) s.
    assert minutes == pytest.approx(0.1575 / (0.45 * math.pi / 4 * 0.0095**2) * math.sqrt(2.4 / 9.81) / 60)
    assert 15 <= minutes <= 45
    assert figures.drain_minutes(189, 1.2, open_share=0.5) == pytest.approx(2 * minutes)
    assert figures.drain_minutes(189, 1.2, bore_mm=figures.FULL_BORE_MM) == pytest.approx(minutes / 4)
    assert figures.drain_minutes(189, 1.2, vented=False) == math.inf


def test_heating_cooling_and_filling():
    # 189 kg * 4186 * 45 K / 3600 W.
    assert figures.heat_up_minutes(189, 3.6, 10, 55, burns=False) == pytest.approx(189 * 4186 * 45 / 3600 / 60)
    assert figures.heat_up_minutes(189, 10, 10, 55, burns=True) > figures.heat_up_minutes(189, 10, 10, 55, burns=False)
    assert figures.cool_minutes(160, 60, 10, 49) == pytest.approx(20 * math.log(50 / 39))
    assert figures.cool_minutes(160, 45, 10, 49) == 0
    assert figures.refill_minutes(200) == 10
    assert figures.litres_below(200, 0.9) == pytest.approx(36)
    assert figures.supplied_flow_l_min(400) == 20 and 0 < figures.supplied_flow_l_min(20) < 20


def test_acid_by_stoichiometry_and_never_less_than_the_pump_needs():
    # 100.09 g CaCO3 with 2 * 60.05 g acetic acid; 3 * 100.09 with 2 * 192.12 g citric acid.
    assert figures.ACID_G_LIME_PER_L["vinegar of 5 %"] == pytest.approx(50 * 100.09 / (2 * 60.05), abs=0.5)
    assert figures.ACID_G_LIME_PER_L["citric acid of 7 %"] == pytest.approx(70 * 3 * 100.09 / (2 * 192.12), abs=0.5)
    assert figures.acid_litres(10) == 4 and figures.acid_litres(420) == 10
    with pytest.raises(ValueError, match="allowed"):
        figures.acid_litres(10, "muriatic")


def test_a_tankless_heaters_heat_and_an_element():
    assert figures.heat_taken_kw(10, 30) == pytest.approx(20.93)
    assert figures.capacity_lost(10, 30, 30, burns=True) == pytest.approx(1 - 20.93 / 24)
    assert figures.capacity_lost(30, 60, 30, burns=True) == 0
    assert figures.element_ohms(230, 2300) == 23


def test_scald_times_are_the_trades_and_fall_with_heat():
    assert [round(figures.burn_seconds(t)) for t in (54, 60, 66)] == [30, 5, 1]
    assert figures.burn_seconds(43) == math.inf and 60 < figures.burn_seconds(50) < 480


def test_expansion_and_its_tank():
    grown = figures.expansion_litres(189, 10, 60)
    # Density 999.7 at 10 and 983.2 at 60 degC.
    assert grown == pytest.approx(189 * (999.7 / 983.2 - 1), rel=0.02)
    assert figures.vessel_litres(grown, 350, 1000) == pytest.approx(grown / (1 - 451.325 / 1101.325))
    with pytest.raises(ValueError, match="allowed"):
        figures.vessel_litres(grown, 400, 400)
    assert figures.rod_left(20, 10) == 0.25


@pytest.mark.parametrize(
    "bad",
    [
        lambda: figures.drain_minutes(0, 1),
        lambda: figures.heat_up_minutes(100, 0, 10, 50, True),
        lambda: figures.element_ohms(230, 0),
        lambda: figures.rod_left(0, 5),
    ],
)
def test_what_cannot_be_computed_is_told(bad):
    with pytest.raises(ValueError, match="allowed"):
        bad()


def test_every_figure_that_a_step_shows_is_computed_with_its_formula():
    from aquifer.core.procedures.library import library

    told = {one.name: one for one in figures_of(Heater(189, 1.2, 12, 60, 10, 380, True, 300))}
    asked = {step.figure for one in library().procedures.values() for step in one.steps if step.figure}
    assert asked <= set(told)
    assert all(one.formula and one.source and math.isfinite(one.value) for one in told.values())

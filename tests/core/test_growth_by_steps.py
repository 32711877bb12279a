"""Closed forms against what they solve, taken in small steps: a rod that is eaten, a bed that hardens."""

import numpy as np
import pytest

from aquifer.core import anode, sediment
from aquifer.core.parameters import ANODE, SEDIMENT
from aquifer.core.vocabulary import Alloy

MAGNESIUM = list(Alloy).index(Alloy.MAGNESIUM)


def rods(age=0.0, potential=0.0, setpoint=60.0, diameter=0.02, length=1.0) -> anode.Rods:
    one = (np.array([float(value)]) for value in (diameter, length, age, 1.9, 0.225, 500.0, potential, setpoint))
    return anode.Rods(np.array([MAGNESIUM]), *one)


def test_a_rod_weighs_what_its_metal_does():
    # pi/4 (20 mm squared - core squared) x 1 m x density, on paper.
    area = np.pi / 4 * (0.020**2 - ANODE.core_diameter_m**2)
    # A magnesium alloy with some aluminium and zinc: 1.77 g/cm3 by the handbook.
    assert anode.mass_kg(rods())[0] == pytest.approx(1770 * area, rel=0.01)


def test_a_tank_asks_for_more_as_it_ages_and_less_under_a_film():
    young, old = anode.wanted_current_a(rods(), 0.0)[0], anode.wanted_current_a(rods(age=5.0), 3.0)[0]
    assert old / young == pytest.approx(1 + 8 * ANODE.bare_growth_per_year)
    half = anode.wanted_current_a(rods(potential=ANODE.film_half_mg_l), 0.0)[0]
    assert young / half == pytest.approx((1 + ANODE.film_factor) / 2)
    thick = anode.wanted_current_a(rods(potential=1e9), 0.0)[0]
    assert young / thick == pytest.approx(ANODE.film_factor, rel=1e-3)
    assert anode.wanted_current_a(rods(potential=-50), 0.0)[0] == young
    warmer = anode.wanted_current_a(rods(setpoint=60 + ANODE.doubling_k), 0.0)[0]
    assert warmer == pytest.approx(2 * young)


@pytest.mark.parametrize(("age", "potential"), [(0.0, 0.0), (6.0, 0.0), (0.0, 80.0)])
def test_what_a_rod_has_given_is_the_sum_of_its_current(age, potential):
    one = rods(age, potential)
    by_water, charge = one.by_water_a[0], one.charge[0]
    given, step = 0.0, 0.001
    for number in range(8000):
        wanted = anode.wanted_current_a(one, (number + 0.5) * step)[0]
        # Two resistances in series, the water's and the tank's own.
        given += step / (1 / by_water + 1 / wanted)
    assert anode.consumed(one, np.array([8.0]))[0] == pytest.approx(given / charge, rel=1e-5)
    back = anode.years_to_consume(one, np.array([given / charge]))[0]
    assert back == pytest.approx(8.0, rel=1e-5)
    assert anode.years_to_consume(one, np.array([0.0]))[0] == pytest.approx(0.0, abs=1e-9)


def stepped(loose: float, hard: float, rate: float, years: float) -> tuple[float, float]:
    step = 0.0005
    for _ in range(round(years / step)):
        hardens = loose / SEDIMENT.consolidation_years * step
        loose, hard = loose + rate * step - hardens, hard + hardens
    return loose, hard


@pytest.mark.parametrize(
    ("loose", "hard", "rate", "off_years"),
    # More loose deposit than its growth keeps up is taken for as much as that: some weeks late in six years.
    [(0.0, 0.0, 0.8, 0.02), (0.5, 1.0, 0.4, 0.02), (0.2, 4.0, 1.5, 0.02), (3.0, 1.0, 0.4, 0.15)],
)
def test_a_bed_reaches_its_limit_when_it_does_in_small_steps(loose, hard, rate, off_years):
    floor = 0.16
    then = stepped(loose, hard, rate, 6.0)
    limit = (then[0] / SEDIMENT.loose_density_kg_m3 + then[1] / SEDIMENT.hardened_density_kg_m3) / floor
    bed = np.array([loose]), np.array([hard])
    args = np.array([rate]), np.array([floor])
    assert sediment.years_to_depth(bed, *args, np.array([limit]))[0] == pytest.approx(6.0, abs=off_years)
    later = sediment.grown(bed, args[0], np.array([6.0]))
    assert (later[0][0], later[1][0]) == pytest.approx(then, rel=2e-3)


def test_a_bed_that_is_as_deep_already_is_due_now_and_one_that_does_not_grow_never():
    deep = np.array([0.0]), np.array([40.0])
    floor, limit = np.array([0.16]), np.array([0.02])
    for rate in (0.5, 0.0):
        assert sediment.years_to_depth(deep, np.array([rate]), floor, limit)[0] == 0.0
    little = np.array([0.0]), np.array([0.1])
    assert sediment.years_to_depth(little, np.array([0.0]), floor, limit)[0] == np.inf


@pytest.mark.parametrize(("above", "unsure"), [(4.0, 3.0), (-2.0, 3.0), (-6.0, 2.0), (5.0, 0.0), (-1.0, 0.0)])
def test_what_lies_above_the_threshold_is_the_mean_of_all_that_a_water_may_be(above, unsure):
    threshold = SEDIMENT.kinetic_threshold_mg_l
    told = float(sediment.excess_mg_l(np.array([threshold + above]), np.array([unsure]))[0])
    if unsure == 0:
        assert told == pytest.approx(max(above, 0.0), abs=1e-6)
        return
    may_be = np.linspace(above - 9 * unsure, above + 9 * unsure, 200_001)
    weight = np.exp(-0.5 * ((may_be - above) / unsure) ** 2)
    assert told == pytest.approx(float((np.maximum(may_be, 0.0) * weight).sum() / weight.sum()), rel=1e-4)

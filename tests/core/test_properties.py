"""What must hold whatever the figures: inverses undo, worse is never safer, what is quick agrees with what is plain."""

import datetime

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.special import ndtr

from aquifer.core import expansion_tank, tank, upkeep
from aquifer.core.kinds import HeaterKind
from aquifer.core.learning.grid import EDGES, GRID, Posterior, _inverse, product
from aquifer.core.parameters import DAYS_PER_YEAR, TANK
from aquifer.core.vocabulary import Alloy, Fouling, Supply
from tests.conftest import examples
from tests.core.fleets import log_ratio

few = settings(max_examples=examples(60, of_long=1200))
ages, spent, ratios = st.floats(0, 40), st.floats(0, 15), st.floats(-1.5, 2)


def one(value: float) -> np.ndarray:
    return np.array([value], dtype=float)


@few
@given(ages, spent, st.floats(0, 1), ratios, st.floats(0.05, 5))
def test_failure_within_some_years_is_the_integral_of_its_density(age, gone, ahead, ratio, years):
    shape, life = TANK.shape, TANK.life_years
    now, pace = age + TANK.spent_weight * gone, 1 + TANK.spent_weight * ahead

    def rate(t: float) -> float:
        return pace * np.exp(ratio) * shape / life * ((now + pace * t) / life) ** (shape - 1)

    total, _ = quad(rate, 0, years)
    found = tank.Standing(one(age), one(gone), one(ahead), one(ratio)).failure_within(one(years))
    assert found[0] == pytest.approx(1 - np.exp(-total), rel=1e-5, abs=1e-9)


@few
@given(ages, spent, ratios, st.floats(0.01, 0.95))
def test_the_years_to_a_tanks_failure_undo_its_probability(age, gone, ratio, probability):
    standing = tank.Standing(one(age), one(gone), one(0.0), one(ratio))
    years = standing.years_to_failure(one(probability))
    assert years[0] >= 0
    assert standing.failure_within(years)[0] == pytest.approx(probability, rel=1e-6)


@few
@given(st.floats(40, 500), st.floats(200, 900), st.floats(45, 75))
def test_no_stress_makes_a_tank_safer(hardness, pressure, setpoint):
    def risk(h: float, p: float, s: float) -> float:
        ratio = log_ratio(one(h), one(p), one(s))
        return float(tank.Standing(one(9.0), one(0.0), one(0.0), ratio).failure_within(one(1.0))[0])

    plain = risk(hardness, pressure, setpoint)
    assert risk(hardness + 50, pressure, setpoint) >= plain
    assert risk(hardness, pressure + 100, setpoint) >= plain
    assert risk(hardness, pressure, setpoint + 5) >= plain


@few
@given(st.floats(2, 80), st.floats(150, 700), st.floats(150, 700), st.floats(50, 500))
def test_an_expansion_tank_obeys_boyle(tank_l, precharge, supply, above):
    """Air that fills the expansion tank at its precharge, followed through both pressures."""
    most = max(precharge, supply) + above
    air = tank_l * precharge
    at_supply = min(air / supply, tank_l)
    taken = at_supply - air / most
    found = expansion_tank.acceptance_l(one(tank_l), one(precharge), one(supply), one(most))
    assert found[0] == pytest.approx(max(taken, 0.0), rel=1e-9, abs=1e-9)


@few
@given(st.floats(5, 60), st.floats(0.1, 4), st.floats(250, 600), st.floats(100, 500))
def test_an_expansion_tank_at_its_least_charge_takes_in_just_what_is_needed(tank_l, need, supply, above):
    supply_abs, most = one(supply), one(supply + above)
    least = expansion_tank.least_precharge_abs_kpa(one(tank_l), one(need), supply_abs, most)
    if least[0] <= supply:
        assert expansion_tank.acceptance_l(one(tank_l), least, supply_abs, most)[0] == pytest.approx(need)


@few
@given(st.floats(1, 95), st.floats(0, 60), st.floats(20, 400))
def test_water_grows_with_heat_and_with_its_volume(cold, rise, volume):
    hot = min(cold + rise, 99.0)
    grown = expansion_tank.expansion_l(one(volume), one(cold), one(hot))[0]
    assert grown >= 0
    assert expansion_tank.expansion_l(one(2 * volume), one(cold), one(hot))[0] == pytest.approx(2 * grown)
    if cold > 5:
        assert expansion_tank.expansion_l(one(volume), one(cold), one(min(hot + 1, 100)))[0] >= grown


def masses(seed: int, n: int = 40) -> np.ndarray:
    random = np.random.default_rng(seed)
    logs = -0.5 * ((GRID - random.uniform(-2, 2, (n, 1))) / random.uniform(0.1, 1.2, (n, 1))) ** 2
    mass = np.exp(logs)
    return (mass / mass.sum(axis=1, keepdims=True)).astype(np.float32)


@pytest.mark.parametrize("seed", range(4))
def test_quantiles_found_by_counting_are_where_a_plain_search_finds_them(seed):
    mass = masses(seed)
    cumulative = np.ascontiguousarray((mass @ ndtr((EDGES[None, :] - GRID[:, None]) / 0.3)).T, dtype=np.float32)
    wanted = np.array([0.001, 0.1, 0.5, 0.9, 0.999])
    found = _inverse(cumulative, wanted)
    for row, edges in enumerate(cumulative.T):
        for position, probability in enumerate(wanted.astype(np.float32)):
            above = int(np.clip(np.searchsorted(edges, probability), 1, EDGES.size - 1))
            assert EDGES[above - 1] - 1e-6 <= found[row, position] <= EDGES[above] + 1e-6


@pytest.mark.parametrize("seed", range(4))
def test_quantiles_and_probabilities_of_a_posterior_agree(seed):
    belief = Posterior(masses(seed), np.zeros(40), 0.3)
    wanted = np.array([0.1, 0.5, 0.9])
    at = belief.quantiles(wanted)
    assert (np.diff(at, axis=1) > 0).all()
    assert belief.exceeding(at) == pytest.approx(np.broadcast_to(1 - wanted, at.shape), abs=2e-3)


START = datetime.date(2024, 1, 1)


@few
@given(
    st.sampled_from(list(HeaterKind)),
    st.sampled_from([Alloy.MAGNESIUM, Alloy.POWERED]),
    st.lists(st.sampled_from(list(Fouling)), max_size=8),
    st.booleans(),
    st.booleans(),
)
def test_an_upkeep_interval_never_leaves_its_bounds_and_a_worse_find_never_lengthens_it(
    kind, alloy, finds, dusty, gritty
):
    def months(item: upkeep.Upkeep, found: list[Fouling]) -> float:
        done = [upkeep.Done(START + datetime.timedelta(days=200 * (n + 1)), one) for n, one in enumerate(found)]
        due = upkeep.due(item, START, done, dusty, gritty)
        since = done[-1].on if done else START
        assert due.due_on > since
        assert (due.due_on - since).days == pytest.approx(due.interval_months / 12 * DAYS_PER_YEAR, abs=2)
        return due.interval_months

    for item in upkeep.items(kind, alloy):
        plain = months(item, finds)
        assert plain <= item.longest_months
        if finds:
            assert upkeep.SHORTEST_SHARE * item.months - 0.05 <= plain
        clean, light, fouled, fault = (months(item, [*finds, one]) for one in Fouling)
        assert clean >= light >= fouled >= fault


def test_a_well_is_gritty_whatever_its_solids_and_mains_only_with_them():
    assert upkeep.is_gritty(Supply.WELL, None) and not upkeep.is_gritty(Supply.MAINS, None)
    assert upkeep.is_gritty(Supply.MAINS, 50.0) and not upkeep.is_gritty(Supply.MAINS, 0.1)


@pytest.mark.parametrize("rows", [1, 2, 7, 100, 511, 513, 900])
@pytest.mark.parametrize("width", [1, 16, 61, 82])
def test_a_heaters_bytes_do_not_depend_on_how_many_are_computed_with_it(rows, width):
    mass = masses(3, 1000)
    matrix = np.random.default_rng(5).random((GRID.size, width)).astype(np.float32)
    assert np.array_equal(product(mass[:rows], matrix), product(mass, matrix)[:rows])

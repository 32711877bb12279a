"""The end of a tank and of a bladder: properties that hold for every tank."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aquifer.core import expansion_tank, tank
from aquifer.core.parameters import TANK
from aquifer.core.quantiles import reached_by
from tests.core.fleets import log_ratio

AGES = st.floats(0, 40)
SPENT = st.floats(0, 20)
SHARE = st.floats(0, 1)
LOG_RATIO = st.floats(-1, 2)


def one(value: float):
    return np.array([value])


def failing(years, age, spent, ahead, log_ratio) -> float:
    return float(tank.Standing(one(age), one(spent), one(ahead), one(log_ratio)).failure_within(one(years))[0])


@given(AGES, SPENT, SHARE, LOG_RATIO)
def test_failure_is_a_probability_that_grows_with_the_time_looked_ahead(age, spent, ahead, log_ratio):
    soon, later = (failing(years, age, spent, ahead, log_ratio) for years in (1, 5))
    assert 0 <= soon <= later <= 1
    assert failing(0, age, spent, ahead, log_ratio) == 0


@given(AGES, SPENT, SHARE, LOG_RATIO)
def test_an_older_tank_or_one_longer_without_a_rod_is_never_the_safer(age, spent, ahead, log_ratio):
    plain = failing(1, age, spent, ahead, log_ratio)
    assert failing(1, age + 1, spent, ahead, log_ratio) >= plain
    assert failing(1, age, spent + 1, ahead, log_ratio) >= plain
    assert failing(1, age, spent, min(ahead + 0.1, 1), log_ratio) >= plain
    assert failing(1, age, spent, ahead, log_ratio + 0.1) >= plain


LAWS = st.builds(tank.Law, st.floats(1.5, 6), st.sampled_from([0.0, 0.3, 2.0]))


@given(st.floats(0.02, 0.98), AGES, SPENT, SHARE, LOG_RATIO, LAWS, st.floats(-1, 2))
def test_the_years_to_a_probability_lead_to_it(probability, age, spent, ahead, log_ratio, law, before):
    standing = tank.Standing(one(age), one(spent), one(ahead), one(log_ratio), law, one(before))
    years = standing.years_to_failure(one(probability))
    assert standing.failure_within(years)[0] == pytest.approx(probability, abs=1e-6)


@given(AGES, LOG_RATIO, LAWS)
def test_a_tank_that_stands_is_one_of_those_that_lived_so_long(age, log_ratio, law):
    before, later = (tank.hazard(one(at), one(log_ratio), law)[0] for at in (age, age + 3))
    came = tank.Standing(one(age), one(0.0), one(0.0), one(log_ratio), law).failure_within(one(3.0))[0]
    assert came == pytest.approx(1 - np.exp(before - later), abs=1e-9)


@given(st.floats(1, 25), LOG_RATIO, LAWS)
def test_the_year_of_a_risk_is_the_first_in_which_it_is_run(age, log_ratio, law):
    bears = one(0.0), one(0.0), one(log_ratio), law

    def runs_at(year: float) -> float:
        return float(tank.Standing(one(year), *bears).failure_within(one(1.0))[0])

    due = float(tank.Standing(one(age), *bears).years_to_risk(one(0.2))[0])
    runs = [runs_at(age + max(at, 0.0)) for at in (due, due - 0.5) if at < 60]
    if due <= 0:
        assert runs[0] >= 0.2 - 0.01
    elif due < 40:
        assert runs[0] == pytest.approx(0.2, abs=0.01) and runs[1] < 0.2 + 0.01
    else:
        ahead = [runs_at(age + year) for year in range(39)]
        assert max(ahead) < 0.21


def test_having_stood_through_signs_that_came_late_tells_less_of_a_tank_than_having_stood_with_them():
    law, nothing = tank.Law(3.0, 1.0), one(0.0)
    late, always, never = (
        tank.Standing(one(10.0), nothing, nothing, one(now), law, one(past)).failure_within(one(1.0))[0]
        for now, past in ((1.5, 0.0), (1.5, 1.5), (0.0, 0.0))
    )
    assert late > always > never


QUANTILES = np.array([0.02, 0.10, 0.25, 0.50, 0.75, 0.90, 0.98])


@given(AGES, SPENT, SHARE, LOG_RATIO)
def test_the_share_that_has_failed_follows_the_quantiles_it_is_told_by(age, spent, ahead, log_ratio):
    at = tank.Standing(one(age), one(spent), one(ahead), one(log_ratio)).years_to_failure(QUANTILES)[None, :]
    assert np.allclose(reached_by(at[0], at, QUANTILES, one(0.0)), QUANTILES, atol=1e-6)
    years = np.linspace(0, 60, 25)
    failed = reached_by(years, at, QUANTILES, one(0.0))[0]
    exact = [failing(year, age, spent, ahead, log_ratio) for year in years]
    assert failed[0] == 0 and (np.diff(failed) >= 0).all() and failed[-1] <= 0.98
    # Straight between quantiles a quarter apart.
    assert np.abs(failed - np.minimum(exact, 0.98)).max() < 0.07


def test_a_tank_whose_end_lies_beyond_what_is_looked_at_hardly_fails_before():
    at = np.array([[5.0, 12.0, 20.0, np.nan, np.nan, np.nan, np.nan], [np.nan] * 7])
    failed = reached_by(np.array([0.0, 12.0, 30.0]), at, QUANTILES, np.zeros(2))
    assert failed[0, 1] == pytest.approx(0.10) and 0.25 <= failed[0, 2] < 0.27
    assert failed[1].max() < 0.001


def test_each_stress_counts_from_where_it_is_more_than_plain():
    plain = one(TANK.plain_hardness_mg_l), one(TANK.plain_pressure_kpa), one(TANK.plain_setpoint_c)
    assert log_ratio(*plain)[0] == 0
    assert log_ratio(one(0.0), one(100.0), plain[2])[0] == 0
    for bears, ratio in (
        ({"hardness": plain[0] + 300}, 3 * 0.15),
        ({"pressure": plain[1] + 200}, 2 * 0.25),
        ({"setpoint": plain[2] + 10}, 0.3),
        ({"setpoint": plain[2] - 10}, -0.3),
        ({"ph": one(6.5)}, 0.5 * 0.3),
        ({"conductivity_us_cm": one(4000.0)}, 2 * 0.1),
        ({"rusty": one(True), "seams": one(True), "loud": one(True)}, 0.9 + 1.1 + 0.4),
        ({"spent_share": one(1.0)}, 0.0),
    ):
        usual = dict(zip(("hardness", "pressure", "setpoint"), plain, strict=True))
        assert log_ratio(**{**usual, **bears})[0] == pytest.approx(ratio), bears


def test_each_reason_is_told_by_the_traits_it_names():
    found = np.arange(1.0, 11.0)[None, :]
    slopes = np.array([1e0, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9])
    told = {reason: ratio[0] for reason, ratio in tank.log_hazard_ratios(found, slopes).items()}
    assert told == {"hardness": 1, "water": 4320, "pressure": 5e4, "temperature": 6e5, "symptoms": 9.87e8,
                    "spent_anode": 1e10}  # fmt: skip


@given(st.floats(1, 20_000), st.floats(1, 40), st.floats(1, 55))
def test_water_grows_when_it_is_heated_and_by_the_share_of_what_there_is(volume, cold, rise):
    grown = expansion_tank.expansion_l(one(volume), one(cold), one(cold + rise))[0]
    assert grown >= 0
    assert expansion_tank.expansion_l(one(2 * volume), one(cold), one(cold + rise))[0] == pytest.approx(2 * grown)
    if cold > 4:
        more = expansion_tank.expansion_l(one(volume), one(cold), one(cold + rise + 1))[0]
        assert more > grown


@given(st.floats(2, 100), st.floats(200, 700), st.floats(50, 300))
def test_the_least_charge_is_the_one_at_which_the_expansion_just_fits(tank_l, supply, headroom):
    most = supply + headroom
    need = 0.5 * tank_l * supply * (1 / supply - 1 / most)
    least = expansion_tank.least_precharge_abs_kpa(one(tank_l), one(need), one(supply), one(most))
    assert least[0] <= supply
    fits = expansion_tank.acceptance_l(one(tank_l), least, one(supply), one(most))
    assert fits[0] == pytest.approx(need)
    assert expansion_tank.acceptance_l(one(tank_l), least * 0.9, one(supply), one(most))[0] < need


@given(st.floats(0, 30), st.floats(0, 4))
def test_a_bladder_s_hazard_never_falls(years, chlorine):
    life = expansion_tank.bladder_life_years(one(chlorine), np.array([False]))
    hazards = [expansion_tank.bladder_hazard(one(at), life)[0] for at in (years, years + 1)]
    assert 0 <= hazards[0] < hazards[1]
    assert expansion_tank.bladder_life_years(one(chlorine), np.array([True]))[0] < life[0]

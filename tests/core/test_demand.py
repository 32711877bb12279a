"""Counts of months carried on, against months that a law of their own made: neither knows the other."""

import os

import numpy as np
import pytest

from aquifer.core.demand import Fan, carried_on, short_of

SERIES, LEAST_INSIDE = (60, 0.65) if os.environ.get("AQUIFER_CHECK_LONG") else (12, 0.5)
"""How many are tried, and the least share of their sums inside: of so many, of which 0.8 are to be, fewer are so by
chance in one of a hundred cases."""


def months_of(rng, months, level=12.0, season=0.0, growth=0.0, clumped=False):
    """A count by the month of a rate that is known: with a winter, growing by a share a year, or coming in clumps."""
    at = np.arange(months)
    rate = level * (1 + season * np.cos(2 * np.pi * at / 12)) * (1 + growth) ** (at / 12)
    return rng.negative_binomial(4, 4 / (4 + rate)) if clumped else rng.poisson(rate)


@pytest.mark.parametrize(
    ("law", "months"),
    [
        ({"season": 0.5, "growth": 0.15, "level": 25.0}, 60), ({"clumped": True}, 48), ({}, 6),
        *(
            pytest.param(law, months, marks=pytest.mark.long)
            for law, months in (
                ({}, 30), ({"level": 3.0}, 36), ({"season": 0.5}, 48), ({"growth": 0.15, "level": 30.0}, 48),
            )
        ),
    ],
)  # fmt: skip
def test_eight_of_ten_months_lie_in_their_window(law, months):
    rng = np.random.default_rng(5)
    inside = {"month": [], "quarter": [], "year": []}
    for number in range(SERIES):
        lived = months_of(rng, months + 12, **law)
        told = carried_on(lived[:months], 12, number)
        came = lived[months:]
        inside["month"] += [fan.low <= n <= fan.high for fan, n in zip(told.months, came, strict=True)]
        inside["quarter"].append(told.quarter.low <= came[:3].sum() <= told.quarter.high)
        inside["year"].append(told.year.low <= came.sum() <= told.year.high)
    assert 0.72 <= np.mean(inside["month"]) <= 0.95, np.mean(inside["month"])
    assert np.mean(inside["quarter"]) >= LEAST_INSIDE and np.mean(inside["year"]) >= LEAST_INSIDE, {
        k: np.mean(v) for k, v in inside.items()
    }


def test_of_few_a_month_the_year_stays_within_reason():
    rng = np.random.default_rng(3)
    for number in range(6):
        lived = rng.poisson(1.0, size=44)
        told = carried_on(lived, seed=number).year
        # Twelve are to come; eight to sixteen in eight of ten years, if only their rate were known.
        assert told.high - told.low <= 26 and told.low <= 14 and told.high >= 10, (lived, told)


def test_a_winter_is_found_and_none_is_made_up():
    rng = np.random.default_rng(8)
    cold = [carried_on(months_of(rng, 48, 20.0, season=0.5)) for _ in range(5)]
    assert sum(one.has_season for one in cold) >= 4
    # January is the first month ahead, and July the seventh.
    assert all(one.months[0].middle > 1.5 * one.months[6].middle for one in cold if one.has_season)
    even = [carried_on(months_of(rng, 48, 20.0)) for _ in range(5)]
    assert sum(one.has_season for one in even) <= 2


def test_of_one_year_no_season_is_believed():
    assert not carried_on(np.array([30, 28, 20, 12, 6, 4, 4, 6, 12, 20, 26, 30, 29, 27])).has_season


def test_what_grew_goes_on_for_a_while():
    grew = carried_on(np.arange(10, 58))
    assert grew.has_trend and grew.months[0].middle > 52 and grew.year.middle > 12 * 55


@pytest.mark.parametrize("counts", [np.zeros(30, dtype=int), np.zeros(3, dtype=int), np.array([0])])
def test_where_nothing_came_little_is_expected(counts):
    told = carried_on(counts)
    assert told.months[0].low == 0 and told.months[0].high <= 2 and told.year.middle <= 5


def test_as_many_every_month_vary_by_chance_at_least():
    told = carried_on(np.full(24, 16))
    assert told.months[0].low <= 12 and told.months[0].high >= 20 and told.months[0].middle == 16


def test_the_same_record_tells_the_same_and_nonsense_is_refused():
    counts = months_of(np.random.default_rng(1), 40)
    assert carried_on(counts, seed=3) == carried_on(counts, seed=3)
    for wrong in (np.array([], dtype=int), np.array([3, -1, 2])):
        with pytest.raises(ValueError, match="allowed"):
            carried_on(wrong)
    with pytest.raises(ValueError, match="allowed"):
        carried_on(counts, ahead=0)


def test_a_month_is_short_by_what_is_planned_and_by_what_may_come():
    calls = Fan(8, 10, 12)
    assert short_of(100.0, 85.0, calls, 1.5) == pytest.approx(0.5)
    assert short_of(100.0, 100.0, calls, 1.5) > 0.99
    assert short_of(100.0, 40.0, calls, 1.5) < 0.001
    # A tenth of the futures ask for more than the window's end.
    assert short_of(100.0, 82.0, calls, 1.5) == pytest.approx(0.1, abs=0.005)
    assert 0.0 < short_of(10.0, 10.0, Fan(0, 0, 0), 1.5) <= 0.5

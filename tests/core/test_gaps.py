"""What closing a gap in the record would be worth, in days of the window."""

import datetime
from dataclasses import replace

import numpy as np
import pytest

from aquifer.core import assembly, fleet, forecast, water
from aquifer.core.components import SedimentComponent
from aquifer.core.gaps import Gap, worth
from aquifer.core.learning import GRID, Prior, with_prior
from aquifer.core.parameters import LEARNING, SEDIMENT
from aquifer.core.vocabulary import Component, FlushMethod, Removed, code
from tests.core.fleets import flushes, known, without_events

AS_OF = datetime.date(2026, 11, 24)


def profiles(**figures):
    return [water.profile(water.WaterTest(**figures))]


FULL = {"total_hardness_mg_l": 250.0, "calcium_hardness_mg_l": 190.0, "alkalinity_mg_l": 185.0, "ph": 7.5}


def gaps(waters, **columns):
    n = len(next(iter(columns.values()))) if columns else 1
    heaters = known(n, **columns)
    return worth(heaters, waters, without_events(assembly.complete(heaters, waters)))


def test_a_heater_of_which_all_is_known_has_no_gap_in_age_or_flushes():
    found = gaps(profiles(**FULL))
    assert found[Gap.AGE][0] == found[Gap.FLUSHES][0] == 0
    assert found[Gap.USE][0] == 0


def test_an_unknown_age_is_worth_days_and_more_of_them_the_less_is_known():
    found = gaps(profiles(**FULL), age_log_sd=np.array([0.0, 0.2, LEARNING.unknown_age_spread]))[Gap.AGE]
    assert found[0] == 0 < found[1] < found[2]


def test_each_gap_is_worth_something_of_its_own():
    found = gaps(profiles(**FULL), age_log_sd=np.array([0.4, 0.0]), flushes_log_sd=np.array([0.0, 0.4]))
    assert found[Gap.AGE][0] > 0 == found[Gap.AGE][1]
    assert found[Gap.FLUSHES][1] > 0 == found[Gap.FLUSHES][0]


def test_a_meter_is_worth_days_where_use_is_estimated():
    found = gaps(profiles(**FULL), litres_per_day=np.array([165.0, np.nan]))[Gap.USE]
    assert found[0] == 0 < found[1]


def test_a_full_analysis_is_worth_days_where_only_hardness_is_known():
    strip = gaps(profiles(total_hardness_mg_l=250.0))[Gap.WATER]
    full = gaps(profiles(**FULL))[Gap.WATER]
    assert strip[0] > full[0] >= 0


def test_the_margin_of_an_estimated_age_widens_with_it():
    ages, certain = np.full(3, 10.0), np.array([True, False, False])
    spread = fleet.age_log_sd(ages, certain, np.array([np.nan, 1.0, 4.0]))
    assert spread[0] == 0 < spread[1] < spread[2]


def _seen(n: int, years: list[float], depth_mm: list[float] | None = None, age: float = 6.0):
    """Gas tanks on hard water, each flushed and graded or measured at these ages."""
    heaters = assembly.complete(known(n), profiles(**FULL))
    heaters = replace(heaters, age_years=np.full(n, age))
    row = np.repeat(np.arange(n), len(years))
    depth = None if depth_mm is None else np.tile(np.array(depth_mm) / 1000, n)
    grade = np.full(row.size, code(Removed.MODERATE) if depth is None else -1)
    method = np.full(row.size, code(FlushMethod.DRAIN_AND_PULSE))
    return replace(without_events(heaters), flushes=flushes(row, np.tile(years, n), method, grade, depth))


def _pace(fleet):
    """What is believed of the pace, by its findings and without others on its water."""
    told = forecast.forecast(fleet, forecast.Context()).of(Component.SEDIMENT)
    nothing = np.zeros((1, GRID.size), dtype=np.float32)
    return with_prior(nothing, Prior(told.log_theta, told.log_theta_sd))


@pytest.mark.parametrize("years", [[5.0], [1.0, 3.0, 5.0], [5.8]])
def test_what_a_reading_would_leave_unsure_is_what_a_crowd_of_tanks_says(years):
    fleet = _seen(1, years)
    component = SedimentComponent.of(fleet)
    belief = _pace(fleet)
    known_of = component.believed(belief)
    random, n = np.random.default_rng(5), 400_000
    pace = random.normal(known_of.mean[0], belief.sd[0], n)
    share, shift = known_of.level.share[0], known_of.level.shift[0]
    own = random.normal(0, np.sqrt(known_of.level.variance(known_of.year_spread)[0]), n)
    level = known_of.mean[0] + shift + share * (pace - known_of.mean[0]) + own
    later = pace + random.normal(0, known_of.year_spread, n)
    lies = np.log(component.ahead(np.zeros(1))[0, 0]) + level
    # Soon after its flush most of the way is still to come: log of what it takes, small changes being enough.
    held = np.exp(known_of.mean[0] + shift) * component.ahead(np.zeros(1))[0, 0] / component.limit_driver[0]
    date = -(held * level + (1 - held) * later)
    middle = lies.mean()
    weight = np.exp(-0.5 * ((lies - middle) / SEDIMENT.depth_spread) ** 2)
    after = np.sqrt(np.average((date - np.average(date, weights=weight)) ** 2, weights=weight))
    assert held < 1
    assert component.narrowing(belief)[0] == pytest.approx(after / date.std(), rel=0.02)


def test_a_reading_is_worth_more_where_nobody_ever_measured():
    graded = worth(known(1), profiles(**FULL), _seen(1, [2.0, 4.0]))[Gap.READING][0]
    measured = worth(known(1), profiles(**FULL), _seen(1, [2.0, 4.0, 5.9], [9.0, 9.0, 9.0]))[Gap.READING][0]
    assert graded > 60 and graded > 1.5 * measured > 0


def test_what_is_far_off_is_not_worth_measuring_today():
    soft = profiles(total_hardness_mg_l=30.0, calcium_hardness_mg_l=22.0, alkalinity_mg_l=25.0, ph=7.2)
    far = replace(known(1), age_years=np.array([1.0]))
    assert worth(far, soft, without_events(assembly.complete(far, soft)))[Gap.READING][0] < 7

"""A district whose season is planned anew each quarter, held against itself planned once a year: tanks that fill by a
law written here, valves with a cap, and nobody who is visited more often because the office looks at its plan more."""

from dataclasses import dataclass

import numpy as np
import pytest
from scipy.special import ndtr, ndtri

from aquifer.core.forecast import PROBABILITIES
from aquifer.core.planning import level, partitioning, season

SITES, YEARS, WEEKS = 40, 5, 52
FLUSH_HOURS, VALVE_HOURS, SETUP_HOURS = 1.0, 0.25, 0.65
WIDE = 0.25


@dataclass
class District:
    """One tank a site: how long each takes to fill, years; since when it has filled, and its valve was proven."""

    fills: np.ndarray
    flushed: np.ndarray
    proven: np.ndarray

    def over(self, years: np.ndarray) -> np.ndarray:
        """Probability that each is over its limit so many years after a flush, (n, t)."""
        return ndtr(np.log(np.maximum(years, 1e-9) / self.fills[:, None]) / WIDE)

    def problem(self) -> season.Problem:
        n, since = SITES, self.flushed[:, None]
        reached = np.maximum(self.fills[:, None] * np.exp(WIDE * ndtri(PROBABILITIES)) - since, 0.0)
        year = np.linspace(0, 1, 201)[None, :]
        benefit = (self.over(since + year) - self.over(year)).mean(axis=1)
        today = self.over(since)[:, 0]
        none = np.zeros(n)
        over_year = season.mean_over_year(reached, PROBABILITIES, today, benefit)
        lasts = season.lasts(np.full(n, 2.0), none, over_year)
        group = np.tile(np.arange(n), 2)
        yearly = np.repeat([False, True], n)
        cap = np.floor((1 - self.proven) * WEEKS).astype(np.int64)
        setup, people = np.full(n, SETUP_HOURS), np.ones(n, dtype=np.int64)
        hours, interval = np.repeat([FLUSH_HOURS, VALVE_HOURS], n), np.concatenate([lasts, np.ones(n)])
        waits = np.concatenate([np.zeros(n, dtype=bool), cap >= 0])
        needs = season.Needs(
            group=group,
            hours=hours,
            over=np.concatenate([season.expected_over(reached, PROBABILITIES, today, WEEKS), np.zeros((n, WEEKS + 1))]),
            over_after=np.zeros(2 * n),
            over_year=np.concatenate([over_year, none]),
            due=np.concatenate([reached[:, 1], np.maximum(1 - self.proven, 0)]),
            interval=interval,
            cap=np.concatenate([np.full(n, season.NEVER), cap]),
            asked=np.full(2 * n, season.NEVER),
            visit=np.where(waits, level.visits(group, yearly, people, setup), 0.0),
        )
        groups = season.Groups(
            kind=np.zeros(n, dtype=np.int64),
            people=people,
            setup=np.broadcast_to(setup[:, None], (n, WEEKS)),
            allowed=np.ones((n, WEEKS), dtype=bool),
            promised=np.full(n, -1),
        )
        crew = np.full((1, WEEKS), 6.0)
        even = level.of(group, hours, interval, yearly, people, setup, crew[0])
        one = frozenset({"all"})
        return season.Problem(needs, groups, season.Crew((one,), (one,), crew), level=even)


def lived(every_weeks: int) -> tuple[float, float, float]:
    """Visits and hours a site and year, and years over the limit, of a district planned anew every so many weeks."""
    random = np.random.default_rng(4)
    district = District(1.3 * random.lognormal(0, 0.4, SITES), random.uniform(0, 1, SITES), random.uniform(0, 1, SITES))
    visits, hours, over, counted = 0, 0.0, 0.0, 0
    for week in range(YEARS * WEEKS):
        if week % every_weeks == 0:
            plan = partitioning.solve(district.problem())
        flush, valve = np.split(plan.week, 2)
        again = plan.again[SITES:] if plan.again is not None else np.full(SITES, -1)
        at = week % every_weeks
        flushed, proven = flush == at, (valve == at) | (again == at)
        district.flushed = np.where(flushed, 0.0, district.flushed + 1 / WEEKS)
        district.proven = np.where(proven, 0.0, district.proven + 1 / WEEKS)
        # The first year works the beginning off.
        if week >= WEEKS:
            came = int((flushed | proven).sum())
            visits += came
            hours += SETUP_HOURS * came + FLUSH_HOURS * flushed.sum() + VALVE_HOURS * proven.sum()
            over += float(district.over(district.flushed[:, None]).sum()) / WEEKS
            counted += SITES
    return WEEKS * visits / counted, WEEKS * hours / counted, WEEKS * over / counted


def test_planning_anew_each_quarter_visits_no_site_oftener_and_costs_no_more():
    visits, hours, over = lived(WEEKS)
    often, more, less = lived(13)
    assert often <= visits and more <= 1.05 * hours
    assert more + season.WORTH_HOURS * less <= hours + season.WORTH_HOURS * over


def test_what_fills_up_again_is_not_spared_a_year_by_a_service():
    """The mean of the year after, and how long the service lasts, against the law itself."""
    fills = np.array([0.5, 1.0, 3.0])
    district = District(fills, np.full(3, 0.4), np.zeros(3))
    year = np.linspace(0, 1, 401)[None, :]
    reached = np.maximum(fills[:, None] * np.exp(WIDE * ndtri(PROBABILITIES)) - 0.4, 0.0)
    benefit = (district.over(0.4 + year) - district.over(year)).mean(axis=1)
    mean = season.mean_over_year(reached, PROBABILITIES, district.over(np.full((3, 1), 0.4))[:, 0], benefit)
    assert mean == pytest.approx(district.over(year).mean(axis=1), abs=0.06)
    lasts = season.lasts(np.full(3, 2.0), np.zeros(3), mean)
    assert lasts[0] < lasts[1] < lasts[2] == 2.0 and 0.25 <= lasts[0] < 0.5
    # Over the limit right after: nothing lasts.
    assert season.lasts(np.full(1, 2.0), np.array([0.5]), np.array([0.6]))[0] == 0.25
    assert season.over_again(np.array(0.1), np.array(0.3), np.array(0.5)) == pytest.approx(0.1 * 0.5 + 0.2 * 0.25)


def test_a_visit_that_was_made_this_year_is_not_made_again_for_nothing():
    """A valve proven nine months ago and a tank at some risk: both now, or the tank when the valve must be."""
    district = District(np.full(SITES, 1.3), np.full(SITES, 0.6), np.full(SITES, 0.75))
    problem = district.problem()
    costs = season.costs_of(problem)
    valve = costs.do[SITES]
    # By its cap in week 13 it costs a quarter of its hours, and of its visit three quarters come later.
    assert valve[13] - valve[0] == pytest.approx(-(VALVE_HOURS + SETUP_HOURS) * 13 / season.WEEKS_PER_YEAR, rel=1e-3)
    first = District(np.full(SITES, 1.3), np.full(SITES, 0.6), np.full(SITES, 1.4)).problem()
    never = season.costs_of(first).do[SITES]
    # One past its cap is not made to wait for that.
    assert never[1] - never[0] > 0

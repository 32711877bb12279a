"""A level year: held to enumeration on small seasons, and to a diary of the year after that shares nothing with it."""

from dataclasses import replace
from itertools import product

import numpy as np
import pytest
from hypothesis import assume, given, settings

from aquifer.bench_planning import simulated_season
from aquifer.core.planning import level, partitioning, promises, repeating, season
from tests.conftest import examples
from tests.core.planning import seasons

NEVER = 10**6


def with_level(problem: season.Problem, price: float = level.UNEVEN_HOURS) -> season.Problem:
    needs, groups = problem.needs, problem.groups
    even = level.of(
        needs.group, needs.hours, needs.interval, needs.cap < NEVER, groups.people, groups.setup[:, 0],
        problem.crew.hours.sum(axis=0), price,
    )  # fmt: skip
    return replace(problem, level=even)


def diary(problem: season.Problem, plan: season.Plan) -> np.ndarray:
    """Hours of each week of the year after: whoever's valve was proven in a week is visited in that week again."""
    last: dict[tuple[int, int], float] = {}
    again = plan.again if plan.again is not None else np.full(plan.week.size, -1)
    for need in range(plan.week.size):
        if problem.needs.cap[need] == NEVER or plan.week[need] < 0:
            continue
        week = int(again[need]) if again[need] >= 0 else int(plan.week[need])
        visit = (int(problem.needs.group[need]), week)
        people = problem.groups.people[visit[0]]
        begins = people * problem.groups.setup[visit[0], 0]
        last[visit] = last.get(visit, begins) + people * problem.needs.hours[need]
    hours = np.zeros(52)
    for (_, week), wanted in last.items():
        hours[week] += wanted
    return hours


def variation(hours: np.ndarray) -> float:
    return float(hours.std() / hours.mean())


def risk(plan: season.Plan) -> float:
    return plan.parts["over_limit"] + plan.parts["past_cap"]


@given(seasons(most_weeks=30, levelled=True))
@settings(max_examples=examples(25, of_long=500))
def test_a_level_season_breaks_no_constraint_and_its_bound_holds(problem):
    assume(not promises.too_many(problem.groups, problem.crew))
    plan = partitioning.solve(problem)
    assert season.faults_of(problem, plan) == []
    assert plan.bound <= plan.cost + 1e-6
    assert sum(season.parts_of(problem, plan).values()) == pytest.approx(plan.cost)
    whole, once_each = repeating.spelled_out(problem, plan)
    assert season.faults_of(whole.problem, once_each) == []
    # Each time a row of its own: the same visits, hours and costs.
    assert sum(season.parts_of(whole.problem, once_each).values()) == pytest.approx(plan.cost)
    assert season.hours_of(whole.problem, once_each) == pytest.approx(season.hours_of(problem, plan))
    twice = np.flatnonzero(whole.again)
    assert whole.problem.needs.visit[twice] == pytest.approx(problem.level.visit[whole.need[twice]])
    first = whole.need[twice]
    assert (once_each.week[twice] - plan.week[first] >= level.SOONEST_AGAIN_WEEKS).all()
    assert (whole.problem.needs.cap[twice] == plan.week[first] + 52).all()


def test_the_next_year_of_crowded_weeks_is_spread_at_no_loss_of_safety(monkeypatch):
    # By the clock of a machine that has four other things to do: a share of this is enough.
    monkeypatch.setattr(partitioning, "WHOLE_SECONDS", 12.0)
    problem = simulated_season(1000, 4, 52, seed=5)
    crowded, spread = (partitioning.solve(one) for one in (problem, with_level(problem)))
    assert variation(diary(problem, crowded)) > 0.7
    after = diary(problem, spread)
    assert variation(after) <= 0.25
    # A week of so few heaters has some ten visits; of 10,000 none is more than a tenth over the mean: see ./bench.
    assert after.max() <= 1.4 * after.mean()
    assert risk(spread) <= 1.02 * risk(crowded)
    assert spread.gap < 0.04
    # Some come twice, none so soon that the household would ask why.
    twice = spread.again >= 0
    assert 0 < twice.sum() < 0.5 * (problem.needs.cap < NEVER).sum()
    assert (spread.again[twice] - spread.week[twice]).min() >= 13


def test_where_next_year_does_not_matter_nobody_comes_for_that_alone():
    problem = simulated_season(200, 2, 52, seed=2)
    free = partitioning.solve(with_level(problem, 1e-9))
    assert (free.again >= 0).any()
    for need in np.flatnonzero(free.again >= 0):
        # Somebody comes anyway, for what is due then.
        others = problem.needs.group == problem.needs.group[need]
        assert (free.week[others] == free.again[need]).any()
    assert (partitioning.solve(problem).again < 0).all()


def tiny(weeks: int = 20) -> season.Problem:
    """Two valves that are past their cap now, and one that is in date until the last week."""
    groups = 3
    needs = season.Needs(
        group=np.arange(groups),
        hours=np.array([0.25, 0.5, 0.25]),
        over=np.zeros((groups, weeks + 1)),
        over_after=np.zeros(groups),
        over_year=np.zeros(groups),
        due=np.array([0.0, 0.0, (weeks - 1) / 52.18]),
        interval=np.ones(groups),
        cap=np.array([-1, -1, weeks - 1]),
        asked=np.full(3, 10**6),
        visit=np.zeros(3),
    )
    rows = season.Groups(
        kind=np.zeros(groups, dtype=np.int64),
        people=np.ones(groups, dtype=np.int64),
        setup=np.full((groups, weeks), 0.6),
        allowed=np.ones((groups, weeks), dtype=bool),
        promised=np.full(groups, -1),
    )
    one = frozenset({"gas"})
    return season.Problem(needs, rows, season.Crew((one,), (one,), np.full((1, weeks), 2.0)))


def by_hand(problem: season.Problem, ways: tuple[tuple[int, int], ...], room: float, price: float) -> float:
    """What a choice of weeks costs, written out: a service and its visit last a year from the day they are done."""
    weeks, total, crew, after = problem.weeks, 0.0, np.zeros(problem.weeks), np.zeros(52)
    for group, (first, again) in enumerate(ways):
        hours, cap = float(problem.needs.hours[group]), int(problem.needs.cap[group])
        visit, year = 0.6, 365.25 / 7
        if first < 0:
            total += 10.0 * (weeks - max(cap, -1))
            continue
        visits = [first] if again < 0 else [first, again]
        total += 10.0 * max(first - max(cap, -1), 0)
        due = float(problem.needs.due[group]) * year
        # Paid in full at each visit, but for what the last lasts beyond the season, and what coming early throws away.
        total += visit + hours * min(1.0, (weeks - first - 0.5) / year)
        total += hours * min(max((due - weeks) / year, 0.0), 1.0)
        if again >= 0:
            # Twelve months from the first to when the second must be; its visit lasts as long as its service.
            lasts = (weeks - again - 0.5) / year
            early = min(max((first + 52.5 - weeks) / year, 0.0), 1.0)
            total += (hours + visit) * (lasts + early)
        for week in visits:
            crew[week] += hours + visit
        after[visits[-1]] += hours + visit
    if (crew > problem.crew.hours[0] + 1e-9).any():
        return np.inf
    return total + price * float(np.maximum(after - room, 0.0).sum())


def test_the_best_of_a_small_season_is_found_by_trying_all():
    problem = with_level(tiny())
    weeks = problem.weeks
    ways = [(-1, -1), *((first, -1) for first in range(weeks))]
    ways += [(first, again) for first in range(weeks) for again in range(first + 13, weeks)]
    room = float(problem.level.room[0])
    urgent = [way for way in ways if way[0] in (0, 1, 2)]
    best = min(by_hand(problem, chosen, room, level.UNEVEN_HOURS) for chosen in product(urgent, urgent, ways))
    plan = partitioning.solve(problem)
    assert plan.cost == pytest.approx(
        by_hand(problem, tuple(zip(plan.week.tolist(), plan.again.tolist(), strict=True)), room, level.UNEVEN_HOURS)
    )
    assert plan.bound <= best + 1e-9
    assert plan.cost <= 1.02 * best


def test_a_year_asks_every_service_once_an_interval_and_a_visit_for_the_shortest():
    group, hours = np.array([0, 0, 1]), np.array([0.25, 1.0, 1.0])
    year = level.year_hours(group, hours, np.array([1.0, 2.0, 0.5]), np.array([1, 2]), np.array([0.6, 0.5]))
    assert year == pytest.approx(0.6 + 0.25 + 0.5 + 2 * (0.5 + 1.0) / 0.5)
    even = level.of(
        group, hours, np.array([1.0, 2.0, 0.5]), np.array([True, False, False]), np.array([1, 2]),
        np.array([0.6, 0.5]), np.array([40.0, 40.0, 0.0, 40.0]),
    )  # fmt: skip
    # The flush comes every second year; the second site has nothing that comes every year.
    assert even.load.tolist() == pytest.approx([0.25 + 0.6 + 0.5, 0.0, 0.0])
    assert even.room[2] == 0.0 and even.room.sum() == pytest.approx(level.BAND * 1.35)
    assert level.uneven(even, np.array([2, 0, 0])) == pytest.approx(level.UNEVEN_HOURS * 1.35)
    assert level.uneven(even, np.array([-1, 0, 0])) == 0.0


def test_in_a_longer_season_the_last_time_holds_the_place_in_the_year():
    problem = with_level(simulated_season(80, 1, 60, seed=3))
    plan = partitioning.solve(problem)
    assert (plan.again < 0).all()
    twice = repeating.with_repeats(problem, plan, problem.needs.cap < NEVER)
    assert twice is not None
    again = twice.need[twice.again]
    of = twice.problem.level
    assert of.load[: problem.needs.group.size][again].tolist() == [0.0] * again.size
    assert of.load[twice.again].tolist() == problem.level.load[again].tolist()

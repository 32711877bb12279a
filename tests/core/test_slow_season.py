"""Seasons of a few sites against everything that could be planned for them: the plan is near the best, its bound below
it, its cost is what it says, and why something has no week is true."""

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest

from aquifer.core.planning import partitioning, promises, season
from tests.conftest import examples
from tests.core import slow_season
from tests.core.planning import season_of

SEASONS = examples(100, of_long=3000)


def small() -> Iterator[season.Problem]:
    """Seasons of up to three sites and four weeks."""
    for seed in range(SEASONS):
        random = np.random.default_rng(seed)
        groups, weeks, crew = random.integers([1, 2, 1], [4, 5, 4]).tolist()
        yield season_of(random, groups, weeks, crew, most_more=2)


def test_plans_are_near_the_best_of_all_and_their_bounds_below_it():
    over = []
    for problem in small():
        best = slow_season.cheapest(problem)
        assert np.isfinite(best) == (not promises.too_many(problem.groups, problem.crew))
        if not np.isfinite(best):
            continue
        plan = partitioning.solve(problem)
        chosen = list(slow_season.as_programs(problem, plan.week, plan.visits))
        assert slow_season.can_be_worked(problem, chosen)
        assert plan.cost == pytest.approx(sum(program.cost for _, program in chosen))
        assert plan.bound - 1e-6 <= best <= plan.cost + 1e-6
        over.append((plan.cost - best) / max(best, 1.0))
    assert len(over) > SEASONS / 2
    # Whole visits are chosen from what the prices proposed: one in a hundred is another than the best.
    assert np.mean(np.array(over) < 1e-6) >= 0.95 and np.mean(over) <= 0.005


def without_want_of_hours(problem: season.Problem) -> season.Problem:
    """The same with somebody who holds everything and never tires."""
    everything = frozenset().union(*problem.crew.sets)
    return replace(problem, crew=season.Crew(problem.crew.sets, (everything,), np.full((1, problem.weeks), 1e4)))


def always_open(problem: season.Problem) -> season.Problem:
    return replace(problem, groups=replace(problem.groups, allowed=np.ones_like(problem.groups.allowed)))


def test_why_something_has_no_week_is_true():
    """What lacks only hours has a week where there are some; what is closed, where it is open; and hardly anything that
    is said not to be worth a visit has one even there: what else the site wants may fall in another week then."""
    told = dict.fromkeys((season.Why.NOBODY, season.Why.NO_HOURS, season.Why.CLOSED, season.Why.NOT_WORTH), 0)
    wrong = 0
    for problem in small():
        if promises.too_many(problem.groups, problem.crew):
            continue
        plan = partitioning.solve(problem)
        why = season.reasons(problem, plan)
        assert all(bool(reason) == (week < 0) for reason, week in zip(why, plan.week.tolist(), strict=True))
        hours = partitioning.solve(without_want_of_hours(problem)).week
        both = partitioning.solve(always_open(without_want_of_hours(problem))).week
        for need in np.flatnonzero(plan.week < 0).tolist():
            kind = problem.crew.sets[problem.groups.kind[problem.needs.group[need]]]
            can = any(kind <= able for able in problem.crew.able)
            told[why[need]] += 1
            assert can is not (why[need] == season.Why.NOBODY)
            assert why[need] != season.Why.NO_HOURS or hours[need] >= 0
            assert why[need] != season.Why.CLOSED or hours[need] < 0 <= both[need]
            wrong += why[need] == season.Why.NOT_WORTH and both[need] >= 0
    assert min(told.values()) > 0 and wrong <= 0.02 * told[season.Why.NOT_WORTH]


def test_two_that_are_not_worth_a_visit_each_may_lack_the_hours_for_one():
    random = np.random.default_rng(0)
    one = season_of(random, 1, 2, 1, most_more=0)
    twice = [0, 0]
    needs = season.Needs(**{name: getattr(one.needs, name)[twice] for name in season.Needs.__dataclass_fields__})
    never = np.full(2, season.NEVER)
    needs = replace(
        needs, hours=np.full(2, 0.25), over=np.array([[0.0, 0.05, 0.1]] * 2), over_after=np.zeros(2),
        over_year=np.zeros(2), due=np.zeros(2), interval=np.full(2, 1e9), cap=never, asked=never, visit=np.zeros(2),
    )  # fmt: skip
    # Each saves 0.8 h; setting up takes one, by two people two.
    for people, why in ((1, season.Why.NO_HOURS), (2, season.Why.NOT_WORTH)):
        groups = replace(
            one.groups, kind=np.array([0]), people=np.array([people]), setup=np.ones((1, 2)),
            allowed=np.ones((1, 2), dtype=bool), promised=np.array([-1]),
        )  # fmt: skip
        crew = season.Crew((frozenset({"gas"}),), (frozenset({"gas"}),), np.full((1, 2), 0.4))
        problem = season.Problem(needs, groups, crew)
        assert season.reasons(problem, partitioning.solve(problem)) == [why, why]

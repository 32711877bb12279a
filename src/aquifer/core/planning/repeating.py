"""Services that come twice in a season: to keep their site's place in the year, or since the season is longer than
their cap."""

from dataclasses import dataclass, replace

import numpy as np

from aquifer.core.arrays import BoolArray, IntArray
from aquifer.core.planning.level import YEAR_WEEKS, Level
from aquifer.core.planning.season import NEVER, WEEKS_PER_YEAR, Groups, Needs, Plan, Problem

CAP_WEEKS = YEAR_WEEKS
SOONEST_WEEKS = 39
"""A second one before three quarters of that is waste. Assumption."""


@dataclass(frozen=True)
class Repeated:
    """A season with second services beside its first; each row with the one it came from."""

    problem: Problem
    need: IntArray
    """The need of the season before, (n',)."""
    group: IntArray
    """Its group, (g',)."""
    again: BoolArray
    """Which needs are second ones, (n',)."""


def spelled_out(problem: Problem, plan: Plan) -> tuple[Repeated, Plan]:
    """A season and its plan with a row for each time that a need is served, those after ``again`` last."""
    needs = problem.needs
    count = needs.group.size
    twice = np.flatnonzero(plan.again >= 0) if plan.again is not None else np.zeros(0, dtype=np.int64)
    rows = np.concatenate([np.arange(count), twice])
    cap = plan.week[twice] + CAP_WEEKS
    visit = needs.visit if problem.level is None else problem.level.visit
    own = replace(
        _rows(needs, rows),
        over=np.concatenate([needs.over, np.zeros((twice.size, problem.weeks + 1))]),
        # What the first one leaves over its limit is counted with it, until the season's end.
        over_after=np.concatenate([needs.over_after, np.zeros(twice.size)]),
        over_year=np.concatenate([needs.over_year, np.zeros(twice.size)]),
        # A service is done in the middle of its week.
        due=np.concatenate([needs.due, (cap + 0.5) / WEEKS_PER_YEAR]),
        cap=np.concatenate([needs.cap, cap]),
        # Its first one kept what the practice asks for.
        asked=np.concatenate([needs.asked, np.full(twice.size, NEVER)]),
        visit=np.concatenate([needs.visit, visit[twice]]),
    )
    again = np.arange(rows.size) >= count
    level = _level(problem.level, rows, twice)
    served = plan.week if plan.again is None else np.concatenate([plan.week, plan.again[twice]])
    whole = Repeated(replace(problem, needs=own, level=level), rows, np.arange(problem.groups.kind.size), again)
    return whole, replace(plan, week=served, again=None)


def with_repeats(problem: Problem, plan: Plan, safety: BoolArray) -> Repeated | None:
    """The season again, its first visits held in their weeks, with second services that keep the cap from the first.

    Parameters: plan, of the problem; safety, needs whose cap nothing lengthens, (n,).
    Returns: None where the season is too short for a second. What a site wants besides from then on may go with its
    second visit.
    """
    needs, groups, weeks = problem.needs, problem.groups, problem.weeks
    twice = np.flatnonzero(safety & (plan.week >= 0) & (plan.week + CAP_WEEKS < weeks))
    if not twice.size:
        return None
    # One second visit for every first one of a group that needs it.
    pairs, second = np.unique(np.stack([needs.group[twice], plan.week[twice]]), axis=1, return_inverse=True)
    origin, first = pairs
    count = groups.kind.size
    again = np.arange(weeks)[None, :] >= (first + SOONEST_WEEKS)[:, None]
    held = groups.allowed & plan.visits | (np.arange(weeks)[None, :] == groups.promised[:, None])
    both = replace(
        groups,
        kind=np.concatenate([groups.kind, groups.kind[origin]]),
        people=np.concatenate([groups.people, groups.people[origin]]),
        setup=np.concatenate([groups.setup, groups.setup[origin]]),
        allowed=np.concatenate([held, groups.allowed[origin] & again]),
        promised=np.concatenate([groups.promised, np.full(origin.size, -1)]),
    )
    # From the last first visit that has a second on, a group's other needs go with that one.
    last = np.full(count, -1)
    last[origin] = np.arange(origin.size)
    joins = (last[needs.group] >= 0) & (plan.week >= 0)
    joins &= plan.week >= np.where(last >= 0, first[last] + SOONEST_WEEKS, 0)[needs.group]
    joins &= groups.promised[needs.group] != plan.week
    group = np.where(joins, count + last[needs.group], needs.group)
    both = _without_emptied(both, group, plan, count)
    source = np.concatenate([np.arange(needs.group.size), twice])
    own = replace(
        _rows(needs, source),
        group=np.concatenate([group, count + second.reshape(-1)]),
        over=np.concatenate([needs.over, np.zeros((twice.size, weeks + 1))]),
        due=np.concatenate([needs.due, (plan.week[twice] + CAP_WEEKS) / WEEKS_PER_YEAR]),
        cap=np.concatenate([needs.cap, plan.week[twice] + CAP_WEEKS]),
        asked=np.concatenate([needs.asked, np.full(twice.size, NEVER)]),
    )
    is_second = np.arange(source.size) >= needs.group.size
    level = _level(problem.level, source, twice)
    return Repeated(
        replace(problem, needs=own, groups=both, level=level),
        source,
        np.concatenate([np.arange(count), origin]),
        is_second,
    )


def _level(level: Level | None, source: IntArray, twice: IntArray) -> Level | None:
    """That of needs some of which come twice: of two times the last one decides where in next year it falls."""
    if level is None:
        return None
    is_last = ~np.isin(np.arange(source.size), twice)
    return replace(level, load=level.load[source] * is_last, visit=level.visit[source])


def _rows(needs: Needs, rows: IntArray) -> Needs:
    return Needs(
        needs.group[rows],
        needs.hours[rows],
        needs.over[rows],
        needs.over_after[rows],
        needs.over_year[rows],
        needs.due[rows],
        needs.interval[rows],
        needs.cap[rows],
        needs.asked[rows],
        needs.visit[rows],
    )


def _without_emptied(groups: Groups, group: IntArray, plan: Plan, count: int) -> Groups:
    """A first visit whose needs all went with a second one does not happen, unless it stays."""
    wanted = np.zeros((count, plan.visits.shape[1]), dtype=bool)
    stay = (group < count) & (plan.week >= 0)
    wanted[group[stay], plan.week[stay]] = True
    wanted |= np.arange(plan.visits.shape[1])[None, :] == groups.promised[:count, None]
    allowed = groups.allowed.copy()
    allowed[:count] &= wanted
    return replace(groups, allowed=allowed)

"""What is done with a season's plan besides finding it: filled up, zones kept together, a technician more or fewer."""

from dataclasses import replace

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.planning import level
from aquifer.core.planning.season import (
    Capacity,
    Costs,
    Plan,
    Problem,
    capacity,
    costs_of,
    hours_of,
    parts_of,
    saved,
)


def filled(problem: Problem, plan: Plan, limits: Capacity) -> Plan:
    """The hours that dividing left over, given to what saves most: more services at visits that are planned anyway,
    and visits of their own."""
    costs, needs, groups = costs_of(problem), problem.needs, problem.groups
    week, visits = plan.week.copy(), plan.visits.copy()
    left = limits.hours - limits.holds.astype(float) @ hours_of(problem, plan)
    open_needs = np.flatnonzero(week < 0)
    saved = costs.skip[open_needs] - costs.do[open_needs].min(axis=1, initial=np.inf)
    for need in open_needs[np.argsort(-saved, kind="stable")]:
        group = needs.group[need]
        rows = limits.holds[:, groups.kind[group]]
        there = visits[group]
        extra = np.where(there, 0.0, groups.setup[group])
        may_come = groups.allowed[group] & (there | ~visits[group].any() | (visits[group].sum() < 2))
        hours = (needs.hours[need] + extra) * groups.people[group]
        gain = costs.skip[need] - costs.do[need] - extra * groups.people[group]
        fits = may_come & _has_hours(left[rows], hours)
        gain = np.where(fits, gain, -np.inf)
        at = int(gain.argmax())
        if gain[at] <= 0:
            continue
        left[rows, at] -= hours[at]
        week[need], visits[group, at] = at, True
    return replace(plan, week=week, visits=visits)


def _has_hours(left: FloatArray, wanted: FloatArray) -> BoolArray:
    """Weeks of which every row has the hours, (w,), to the last of them: sums of tenths are no round numbers."""
    return np.asarray((left >= wanted[None, :] - 1e-9).all(axis=0))


def gathered(
    problem: Problem,
    plan: Plan,
    zone: IntArray,
    haul: FloatArray,
    day_hours: float = 6.5,
    other: IntArray | None = None,
) -> Plan:
    """The plan with zones kept together: a zone's few visits of a week are moved to weeks in which it is visited
    anyway, where the way there and back that is saved is more than what moving them costs.

    Parameters: zone of each group, (g,); haul, hours to each zone and home, (z,); day_hours, of work in a day's round;
    other, of each need the row of its other time, -1 where it comes once, (n,).
    """
    other = np.full(plan.week.size, -1) if other is None else other
    limits, costs = capacity(problem.crew), costs_of(problem)
    left = limits.hours - limits.holds.astype(float) @ hours_of(problem, plan)
    week, visits = plan.week.copy(), plan.visits.copy()
    order = np.argsort(problem.needs.group, kind="stable")
    start = np.searchsorted(problem.needs.group[order], np.arange(zone.size + 1))
    hours = np.zeros((haul.size, problem.weeks))
    weight = np.bincount(problem.needs.group, problem.needs.hours, minlength=zone.size)
    row, on = np.nonzero(visits)
    np.add.at(hours, (zone[row], on), weight[row] + problem.groups.setup[row, on])
    even = problem.level or level.without(week.size)
    for z, w in sorted(zip(*np.nonzero(hours), strict=True), key=lambda at: hours[at]):
        if hours[z, w] >= day_hours / 2:
            continue
        moves, taken, cost, after = [], left.copy(), 0.0, level.next_year(even, week)
        for group in np.flatnonzero((zone == z) & visits[:, w]):
            move = _cheapest_move(
                problem, costs, week, visits, taken, limits, int(group), int(w), hours[z], order, start, after, other
            )
            if move is None:
                break
            at, needs, extra = move
            cost += extra
            after = after + level.moved(even, needs, int(w), at)
            moves.append((group, at, needs))
        else:
            if cost < haul[z]:
                for group, at, needs in moves:
                    week[needs], visits[group, w], visits[group, at] = at, False, True
                    hours[z, at] += weight[group]
                hours[z, w], left = 0.0, taken
    return replace(plan, week=week, visits=visits)


def _cheapest_move(
    problem: Problem,
    costs: Costs,
    week: IntArray,
    visits: BoolArray,
    left: FloatArray,
    limits: Capacity,
    group: int,
    now: int,
    zone_hours: FloatArray,
    order: IntArray,
    start: IntArray,
    after: FloatArray,
    other: IntArray,
) -> tuple[int, IntArray, float] | None:
    """Where a group's visit of a week goes at least cost among weeks that its zone has visits in; takes the hours.
    Parameters: after, hours of next year's weeks so far."""
    groups = problem.groups
    if groups.promised[group] == now:
        return None
    own = order[start[group] : start[group + 1]]
    needs = own[week[own] == now]
    rows = limits.holds[:, groups.kind[group]]
    wanted = (problem.needs.hours[needs].sum() + groups.setup[group]) * groups.people[group]
    fits = groups.allowed[group] & ~visits[group] & (zone_hours > 0) & _has_hours(left[rows], wanted)
    fits[now] = False
    # A cap that holds now holds afterwards.
    caps = problem.needs.cap[needs]
    fits &= np.arange(problem.weeks) <= max(int(caps.min(initial=problem.weeks)), now)
    for need in needs[other[needs] >= 0]:
        fits &= _keeps_apart(now, int(week[other[need]]), problem.weeks)
    if not fits.any():
        return None
    moved = np.where(fits, costs.do[needs].sum(axis=0) - costs.do[needs, now].sum(), np.inf)
    if problem.level is not None:
        for week_to in np.flatnonzero(fits):
            then = after + level.moved(problem.level, needs, now, int(week_to))
            moved[week_to] += level.over(problem.level, then) - level.over(problem.level, after)
    at = int(moved.argmin())
    left[rows, at] -= wanted[at]
    left[rows, now] += wanted[now]
    return at, needs, float(moved[at])


def _keeps_apart(now: int, then: int, weeks: int) -> BoolArray:
    """Weeks to which one of two times of a service may move, (w,): neither nearer to the other than a household is
    asked again, nor further than it lasts, unless it is already."""
    if then < 0:
        return np.ones(weeks, dtype=bool)
    apart, at_present = abs(np.arange(weeks) - then), abs(now - then)
    nearest, furthest = min(level.SOONEST_AGAIN_WEEKS, at_present), max(level.YEAR_WEEKS, at_present)
    return np.asarray((apart >= nearest) & (apart <= furthest) & ((np.arange(weeks) > then) == (now > then)))


def with_crew(problem: Problem, plan: Plan, step: int) -> float | None:
    """By how many hours the season's cost would fall with one average technician more, or rise with one fewer.

    Parameters: step, 1 or -1. Returns: the change of cost, negative is a saving; None where nobody would be left.
    More: the hours go to what has none, and to what would better be earlier. Fewer: each overfull week leaves out what
    is worth least. Both keep the rest of the plan as it is; a new planning would do a little better.
    """
    crew = problem.crew
    if step < 0 and len(crew.able) < 2:
        return None
    hours = crew.hours.mean(axis=0)
    if step > 0:
        return -_gain_of_hours(problem, plan, hours)
    return _loss_of_hours(problem, plan)


def _gain_of_hours(problem: Problem, plan: Plan, hours: FloatArray) -> float:
    """What one more technician who can do everything would save: the plan filled up with the new hours."""
    everything = frozenset().union(*problem.crew.sets) if problem.crew.sets else frozenset()
    crew = replace(
        problem.crew, able=(*problem.crew.able, everything), hours=np.vstack([problem.crew.hours, hours[None, :]])
    )
    wider = replace(problem, crew=crew)
    more = filled(wider, plan, capacity(crew))
    here = sum(parts_of(problem, plan).values())
    earlier = _earlier(wider, more)
    return here - sum(parts_of(wider, earlier).values())


def _earlier(problem: Problem, plan: Plan) -> Plan:
    """Visits moved to where they cost least, as far as there are hours: what new hours are good for."""
    limits, costs = capacity(problem.crew), costs_of(problem)
    left = limits.hours - limits.holds.astype(float) @ hours_of(problem, plan)
    week, visits = plan.week.copy(), plan.visits.copy()
    needs, groups = problem.needs, problem.groups
    served = np.flatnonzero(week >= 0)
    could = costs.do[served, week[served]] - costs.do[served].min(axis=1)
    worst: dict[tuple[int, int], float] = {}
    of: dict[tuple[int, int], list[int]] = {}
    for need, gain in zip(served, could, strict=True):
        visit = (int(needs.group[need]), int(week[need]))
        worst[visit] = worst.get(visit, 0.0) + float(gain)
        of.setdefault(visit, []).append(int(need))
    for (group, now), gain in sorted(worst.items(), key=lambda one: -one[1]):
        if gain <= 0 or groups.promised[group] == now:
            continue
        own = of[group, now]
        rows = limits.holds[:, groups.kind[group]]
        hours = (needs.hours[own].sum() + groups.setup[group]) * groups.people[group]
        fits = groups.allowed[group] & ~visits[group] & _has_hours(left[rows], hours)
        total = np.where(fits, costs.do[own].sum(axis=0), np.inf)
        at = int(total.argmin())
        if total[at] >= costs.do[own, now].sum():
            continue
        left[rows, at] -= hours[at]
        left[rows, now] += hours[now]
        week[own], visits[group, now], visits[group, at] = at, False, True
    return replace(plan, week=week, visits=visits)


def _loss_of_hours(problem: Problem, plan: Plan) -> float:
    """What one technician fewer would cost: of each overfull week the visits that are worth least are left out."""
    crew = problem.crew
    smaller = replace(problem, crew=replace(crew, hours=crew.hours * (1 - 1 / len(crew.able))))
    limits = capacity(smaller.crew)
    week, visits = plan.week.copy(), plan.visits.copy()
    worth = saved(problem, plan)
    needs, groups = problem.needs, problem.groups
    over = limits.holds.astype(float) @ hours_of(problem, plan) - limits.hours
    of: dict[tuple[int, int], list[int]] = {}
    for need in np.flatnonzero(week >= 0):
        of.setdefault((int(needs.group[need]), int(week[need])), []).append(int(need))
    for (group, now), own in sorted(of.items(), key=lambda one: float(worth[one[1]].sum())):
        rows = limits.holds[:, groups.kind[group]]
        if groups.promised[group] == now or (over[rows, now] <= 1e-9).all():
            continue
        hours_here = (needs.hours[own].sum() + groups.setup[group, now]) * groups.people[group]
        over[rows, now] -= hours_here
        week[own], visits[group, now] = -1, False
    thinner = filled(smaller, replace(plan, week=week, visits=visits), limits)
    return sum(parts_of(smaller, thinner).values()) - sum(parts_of(problem, plan).values())

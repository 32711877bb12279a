"""Why a plan cannot be: the smallest set of promises that cannot all be kept."""

from collections.abc import Sequence
from itertools import combinations, permutations

import numpy as np

from aquifer.core.arrays import IntArray
from aquifer.core.planning import season
from aquifer.core.planning.rounds import Problem, Shift, timed

MOST_TRIED = 3000
"""Sets that are looked at one by one before the set at hand is told as it is: no smaller was found."""
LONGEST_ORDER = 7
"""Visits of one person's day whose every order is tried."""


def too_many(groups: season.Groups, crew: season.Crew) -> list[tuple[int, IntArray]]:
    """Weeks whose promises pass the hours there are, each with the fewest groups that do so together.

    Source: Hall's theorem; among promises that draw on the same hours the longest are the fewest.
    """
    limits = season.capacity(crew)
    kept = np.flatnonzero(groups.promised >= 0)
    found = []
    for week in np.unique(groups.promised[kept]):
        own = kept[groups.promised[kept] == week]
        hours = groups.setup[own, week] * groups.people[own]
        smallest: IntArray | None = None
        for row in range(limits.hours.shape[0]):
            counted = limits.holds[row][groups.kind[own]]
            order = np.argsort(-hours[counted], kind="stable")
            taken = np.cumsum(hours[counted][order])
            over = np.flatnonzero(taken > limits.hours[row, week] + 1e-9)
            if over.size and (smallest is None or over[0] + 1 < smallest.size):
                smallest = own[counted][order[: over[0] + 1]]
        if smallest is not None:
            found.append((int(week), np.sort(smallest)))
    return found


def in_conflict(problem: Problem, stops: Sequence[int]) -> list[int]:
    """The smallest set of these stops that no order on any shifts can keep; empty if all of them can be kept.

    Parameters: stops, positions in the problem, each bound by its windows or its shift.
    Sets are tried by size; beyond ``MOST_TRIED`` sets the smallest that was found by leaving out one by one is told.
    """
    if can_keep(problem, list(stops)):
        return []
    core = list(stops)
    for stop in list(core):
        without = [one for one in core if one != stop]
        if not can_keep(problem, without):
            core = without
    tried = 0
    for size in range(1, len(core)):
        for chosen in combinations(stops, size):
            tried += 1
            if tried > MOST_TRIED:
                return core
            if not can_keep(problem, list(chosen)):
                return list(chosen)
    return core


def can_keep(problem: Problem, stops: list[int]) -> bool:
    """Whether these stops can all be kept: a search over who takes which, each person's day in every order."""
    able = {stop: [n for n, shift in enumerate(problem.shifts) if _may(problem, shift, n, stop)] for stop in stops}
    return _placed(problem, sorted(stops, key=lambda stop: len(able[stop])), able, [[] for _ in problem.shifts])


def _may(problem: Problem, shift: Shift, number: int, stop: int) -> bool:
    of = problem.stops[stop]
    if of.stays and of.shift is not None and of.shift != number:
        return False
    return of.needs <= shift.able and of.people <= shift.people and not timed(problem, number, [stop]).faults


def _placed(problem: Problem, left: list[int], able: dict[int, list[int]], taken: list[list[int]]) -> bool:
    if not left:
        return True
    stop, *rest = left
    for shift in able[stop]:
        order = _order(problem, shift, [*taken[shift], stop])
        if order is not None:
            before, taken[shift] = taken[shift], order
            if _placed(problem, rest, able, taken):
                return True
            taken[shift] = before
    return False


def _order(problem: Problem, shift: int, stops: list[int]) -> list[int] | None:
    """An order of a person's day without a fault. Long days are tried with the new visit at every place only."""
    if len(stops) <= LONGEST_ORDER:
        tried = (list(order) for order in permutations(stops))
    else:
        *old, new = stops
        tried = ([*old[:at], new, *old[at:]] for at in range(len(old) + 1))
    return next((order for order in tried if not timed(problem, shift, order).faults), None)

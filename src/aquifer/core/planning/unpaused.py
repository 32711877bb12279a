"""A first order of visits, found as if nobody paused: the minutes of the pause are cut out of the day.

Solver: PyVRP's iterated local search, which is quick at plain time windows. What it finds is a start for ``routing``,
which knows pauses.
"""

from collections.abc import Sequence

import numpy as np
import pyvrp

from aquifer.core.arrays import IntArray
from aquifer.core.planning.rounds import Problem, Shift, Stop

UNABLE = 10_000
"""Minutes charged for a visit by somebody who cannot do it: more than any visit is worth. Assumption."""


def suits(problem: Problem) -> bool:
    """Whether every visit may begin within one stretch of time, which is all that this search knows."""
    return all(len(stop.windows) <= 1 for stop in problem.stops)


def sequences(problem: Problem, seconds: float, change: int) -> list[list[int]]:
    """The order of the stops on each shift.

    Parameters: a problem that ``suits``; seconds, wall-clock time of the search; change, what a visit that is given
    to another shift than its own costs, in minutes driven.
    Returns: sequences that may still miss a pause, a promise or an hour.
    """
    count = len(problem.shifts)
    places = [s.start_place for s in problem.shifts] + [s.end_place for s in problem.shifts]
    places += [stop.place for stop in problem.stops]
    travel = problem.travel[np.ix_(places, places)].astype(np.int64)
    profiles, profile = _profiles(problem, travel, 2 * count, change)
    first = min(shift.begins for shift in problem.shifts)
    data = pyvrp.ProblemData(
        locations=[pyvrp.Location(0, 0) for _ in places],
        depots=[pyvrp.Depot(number) for number in range(2 * count)],
        clients=[_client(problem, number, 2 * count + number, first) for number in range(len(problem.stops))],
        vehicle_types=[
            pyvrp.VehicleType(
                start_depot=number,
                end_depot=count + number,
                tw_early=shift.begins - first,
                tw_late=max(shift.ends - first - _pause(shift), shift.begins - first),
                profile=profile[number],
            )
            for number, shift in enumerate(problem.shifts)
        ],
        # Its stubs name a shape where NumPy wants one.
        distance_matrices=profiles,  # type: ignore[arg-type]
        duration_matrices=[travel] * len(profiles),  # type: ignore[list-item]
    )
    result = pyvrp.solve(data, pyvrp.stop.MaxRuntime(seconds), collect_stats=False)
    found: list[list[int]] = [[] for _ in problem.shifts]
    for route in result.best.routes():
        found[route.vehicle_type()] = [one.idx for one in route if one.is_client()]
    return found


def _pause(shift: Shift) -> int:
    return shift.lunch.minutes if shift.lunch else 0


def _cut_before(problem: Problem, time: int) -> int:
    """Minutes of pauses that are over by then on every shift that works at that time: those are cut out of its day."""
    at_work = [shift for shift in problem.shifts if shift.begins <= time <= shift.ends]
    over = [s.lunch.minutes for s in at_work if s.lunch and time >= s.lunch.latest]
    return min(over) if over and len(over) == len(at_work) else 0


def _client(problem: Problem, number: int, location: int, first: int) -> pyvrp.Client:
    stop = problem.stops[number]
    latest = max(shift.ends for shift in problem.shifts) - first
    early, late = 0, latest
    for window in stop.windows:
        early = window.start - first - _cut_before(problem, window.start)
        late = window.end - first - _cut_before(problem, window.end)
    early = min(max(early, 0), latest)
    return pyvrp.Client(
        location,
        service_duration=stop.minutes,
        tw_early=early,
        tw_late=max(early, min(late, latest)),
        prize=stop.worth,
        required=False,
    )


def _profiles(problem: Problem, travel: IntArray, first: int, change: int) -> tuple[list[IntArray], list[int]]:
    """A matrix of costs for every kind of shift, and which kind each shift is."""
    matrices: list[IntArray] = []
    known: dict[Sequence[int], int] = {}
    of = []
    for number, shift in enumerate(problem.shifts):
        charged = tuple(_charge(stop, number, shift, change) for stop in problem.stops)
        if charged not in known:
            known[charged] = len(matrices)
            matrix = travel.copy()
            matrix[:, first:] += np.array(charged, dtype=np.int64)
            np.fill_diagonal(matrix, 0)
            matrices.append(matrix)
        of.append(known[charged])
    return matrices, of


def _charge(stop: Stop, number: int, shift: Shift, change: int) -> int:
    elsewhere = stop.shift is not None and stop.shift != number
    if not stop.needs <= shift.able or stop.people > shift.people or (stop.stays and elsewhere):
        return UNABLE
    return change if elsewhere else 0

"""Finding rounds: an order of visits on shifts with little driving, by constraint programming and guided local search.

Solver: OR-Tools routing, which knows pauses and windows, from the start that ``unpaused`` finds for a day; the times
are told anew by ``rounds.timed``.
"""

from collections.abc import Sequence

import numpy as np
from ortools.constraint_solver import pywrapcp, routing_enums_pb2

from aquifer.core.arrays import IntArray
from aquifer.core.planning import unpaused
from aquifer.core.planning.rounds import Plan, Problem, Window, faults_of, of_sequences, timed

CHANGE_MINUTES = 25
"""What giving a visit to somebody else is worth avoiding when a day is planned anew, in minutes driven. Assumption."""

FIRST_SHARE = 0.65
"""The share of the time in which a new day's start is found without pauses. Measured with ``./bench --planning``."""


def plan(problem: Problem, seconds: float, sequences: Sequence[Sequence[int]] | None = None) -> Plan:
    """The best rounds found within a time.

    Parameters: seconds, wall-clock time of the search; sequences, an order of the stops on each shift to start from
    and to keep to where that costs little.
    Returns: a plan without faults; what found no place is left out. Never worse than what it started from, if that
    was without faults.
    """
    if not problem.stops or not problem.shifts:
        return of_sequences(problem, [[] for _ in problem.shifts])
    search = _Search(problem)
    if sequences is None and unpaused.suits(problem):
        begun = unpaused.sequences(problem, FIRST_SHARE * seconds, CHANGE_MINUTES)
        sequences = [[call.stop for call in one.calls] for one in mended(problem, begun).rounds]
        seconds *= 1 - FIRST_SHARE
    found = search.solve(seconds, sequences)
    start = of_sequences(problem, sequences) if sequences is not None else None
    if start is not None and not faults_of(problem, start):
        found = start if found is None else min(start, found, key=lambda plan: cost(problem, plan))
    return found or of_sequences(problem, [[] for _ in problem.shifts])


def cost(problem: Problem, plan: Plan) -> int:
    """What the search makes small: minutes driven, what is left out, and what is given to somebody else."""
    where = plan.where()
    given = sum(
        CHANGE_MINUTES
        for number, stop in enumerate(problem.stops)
        if stop.shift is not None and number in where and where[number] != stop.shift
    )
    driving = sum(one.driving for one in plan.rounds if one.calls)
    return driving + given + sum(problem.stops[number].worth for number in plan.left_out)


def mended(problem: Problem, sequences: Sequence[Sequence[int]]) -> Plan:
    """The plan of these sequences, without the visits that a shift cannot keep: each time the one that helps most."""
    kept = []
    for shift, sequence in enumerate(sequences):
        left = list(sequence)
        while timed(problem, shift, left).faults:
            tried = {n: timed(problem, shift, [other for other in left if other != n]).cost for n in left}
            left.remove(min(tried, key=lambda n: (tried[n], problem.stops[n].worth)))
        kept.append(left)
    return of_sequences(problem, kept)


class _Search:
    """One routing model: node 0 to s-1 are the shifts' starts, s to 2s-1 their ends, then the stops."""

    def __init__(self, problem: Problem) -> None:
        self._problem = problem
        count = len(problem.shifts)
        self._first = 2 * count
        nodes = self._first + len(problem.stops)
        places = [s.start_place for s in problem.shifts] + [s.end_place for s in problem.shifts]
        places += [stop.place for stop in problem.stops]
        self._travel = problem.travel[np.ix_(places, places)].astype(np.int64)
        self._service = np.array([0] * self._first + [stop.minutes for stop in problem.stops], dtype=np.int64)
        self._manager = pywrapcp.RoutingIndexManager(nodes, count, list(range(count)), list(range(count, 2 * count)))
        self._model = pywrapcp.RoutingModel(self._manager)
        self._costs()
        self._time()
        self._stops()

    def _costs(self) -> None:
        held = np.array([-1] * self._first + [-1 if s.shift is None else s.shift for s in self._problem.stops])
        known: dict[bytes, int] = {}
        for shift in range(len(self._problem.shifts)):
            elsewhere = np.where((held >= 0) & (held != shift), CHANGE_MINUTES, 0)
            if elsewhere.tobytes() not in known:
                matrix = self._travel + elsewhere[None, :]
                known[elsewhere.tobytes()] = self._model.RegisterTransitMatrix(matrix.tolist())
            self._model.SetArcCostEvaluatorOfVehicle(known[elsewhere.tobytes()], shift)

    def _time(self) -> None:
        transit = self._model.RegisterTransitMatrix((self._travel + self._service[:, None]).tolist())
        horizon = max(shift.ends for shift in self._problem.shifts)
        self._model.AddDimension(transit, horizon, horizon, False, "time")
        self._clock = self._model.GetDimensionOrDie("time")
        solver = self._model.solver()
        visits = [int(self._service[self._manager.IndexToNode(i)]) for i in range(self._model.Size())]
        for number, shift in enumerate(self._problem.shifts):
            start, end = self._model.Start(number), self._model.End(number)
            self._clock.CumulVar(start).SetRange(shift.begins, shift.begins)
            self._clock.CumulVar(end).SetRange(shift.begins, shift.ends)
            self._model.AddVariableMinimizedByFinalizer(self._clock.CumulVar(end))
            if shift.lunch:
                pause = solver.FixedDurationIntervalVar(
                    shift.lunch.earliest, shift.lunch.latest, shift.lunch.minutes, False, f"lunch {number}"
                )
                self._clock.SetBreakIntervalsOfVehicle([pause], number, visits)

    def _stops(self) -> None:
        for number, stop in enumerate(self._problem.stops):
            index = self._manager.NodeToIndex(self._first + number)
            able = [
                at
                for at, shift in enumerate(self._problem.shifts)
                if stop.needs <= shift.able
                and stop.people <= shift.people
                and (not stop.stays or stop.shift is None or stop.shift == at)
            ]
            windows = self._reachable(stop.windows)
            self._model.AddDisjunction([index], int(stop.worth))
            if not able or (stop.windows and not windows):
                self._model.ActiveVar(index).SetValue(0)
                continue
            # -1 is on no shift.
            self._model.VehicleVar(index).SetValues([-1, *able])
            if windows:
                begins = self._clock.CumulVar(index)
                begins.SetRange(windows[0][0], windows[-1][1])
                for before, after in zip(windows, windows[1:], strict=False):
                    begins.RemoveInterval(before[1] + 1, after[0] - 1)

    def _reachable(self, windows: tuple[Window, ...]) -> list[tuple[int, int]]:
        """Windows as far as anybody works then."""
        first = min(shift.begins for shift in self._problem.shifts)
        last = max(shift.ends for shift in self._problem.shifts)
        cut = [(max(window.start, first), min(window.end, last)) for window in windows]
        return [(start, end) for start, end in cut if start <= end]

    def solve(self, seconds: float, sequences: Sequence[Sequence[int]] | None) -> Plan | None:
        parameters = pywrapcp.DefaultRoutingSearchParameters()
        parameters.first_solution_strategy = routing_enums_pb2.FirstSolutionStrategy.PARALLEL_CHEAPEST_INSERTION
        parameters.local_search_metaheuristic = routing_enums_pb2.LocalSearchMetaheuristic.GUIDED_LOCAL_SEARCH
        parameters.time_limit.FromMilliseconds(int(1000 * seconds))
        solution = None
        if sequences is not None:
            routes = [
                [self._manager.NodeToIndex(self._first + number) for number in sequence] for sequence in sequences
            ]
            self._model.CloseModelWithParameters(parameters)
            begun = self._model.ReadAssignmentFromRoutes(routes, True)
            if begun is not None:
                solution = self._model.SolveFromAssignmentWithParameters(begun, parameters)
        if solution is None:
            solution = self._model.SolveWithParameters(parameters)
        if solution is None:
            return None
        return mended(self._problem, [self._sequence(solution, n) for n in range(len(self._problem.shifts))])

    def _sequence(self, solution: pywrapcp.Assignment, shift: int) -> list[int]:
        index, sequence = solution.Value(self._model.NextVar(self._model.Start(shift))), []
        while not self._model.IsEnd(index):
            sequence.append(self._manager.IndexToNode(index) - self._first)
            index = solution.Value(self._model.NextVar(index))
        return sequence


def nearest_neighbour(problem: Problem) -> Plan:
    """What a person without a plan does: each shift in turn drives to the nearest visit that it can still keep.

    A baseline to measure against.
    """
    left = set(range(len(problem.stops)))
    sequences: list[list[int]] = []
    for shift in range(len(problem.shifts)):
        sequence: list[int] = []
        while True:
            place = problem.stops[sequence[-1]].place if sequence else problem.shifts[shift].start_place
            sequence_with = _next(problem, shift, sequence, left, problem.travel[place])
            if sequence_with is None:
                break
            sequence.append(sequence_with)
            left.discard(sequence_with)
        sequences.append(sequence)
    return of_sequences(problem, sequences)


def _next(problem: Problem, shift: int, sequence: list[int], left: set[int], ways: IntArray) -> int | None:
    for number in sorted(left, key=lambda n: (int(ways[problem.stops[n].place]), n)):
        if not timed(problem, shift, [*sequence, number]).faults:
            return number
    return None


def earliest_promise_first(problem: Problem) -> Plan:
    """What an office with a list does: visits in the order of their promises, the others after them, each to the
    first who can keep it.

    A baseline to measure against.
    """
    last = max((shift.ends for shift in problem.shifts), default=0)
    order = sorted(range(len(problem.stops)), key=lambda n: (_latest(problem, n, last), n))
    sequences: list[list[int]] = [[] for _ in problem.shifts]
    for number in order:
        for shift, sequence in enumerate(sequences):
            if not timed(problem, shift, [*sequence, number]).faults:
                sequence.append(number)
                break
    return of_sequences(problem, sequences)


def _latest(problem: Problem, number: int, last: int) -> int:
    windows = problem.stops[number].windows
    return windows[-1].end if windows else last

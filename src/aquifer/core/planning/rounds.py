"""Rounds: visits in order on the shifts of a crew, timed with travel, lunch, promises and abilities.

Times are whole minutes since the midnight before the first day, so that a week is planned like a day. Places are
rows and columns of a matrix of travel minutes.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum

from aquifer.core.arrays import IntArray

DAY = 1440
"""Minutes of a day."""


@dataclass(frozen=True)
class Window:
    """A visit begins within [start, end], minutes."""

    start: int
    end: int


@dataclass(frozen=True)
class Lunch:
    """A pause of so many minutes that begins between two times of the shift's day."""

    earliest: int
    latest: int
    minutes: int


@dataclass(frozen=True)
class Shift:
    """One working day of a technician, alone or with a helper."""

    start_place: int
    end_place: int
    begins: int
    ends: int
    able: frozenset[str] = frozenset()
    """Licences held and equipment carried."""
    people: int = 1
    lunch: Lunch | None = None


@dataclass(frozen=True)
class Stop:
    """A visit to be placed."""

    place: int
    minutes: int
    needs: frozenset[str] = frozenset()
    """Licences and equipment without which it cannot be done."""
    people: int = 1
    windows: tuple[Window, ...] = ()
    """When it may begin, if it is bound; a promise is one such window."""
    worth: int = 480
    """What leaving it out costs, in minutes of driving."""
    shift: int | None = None
    """Where it is in the plan in force."""
    stays: bool = False
    """It is locked to that shift."""


@dataclass(frozen=True)
class Problem:
    shifts: tuple[Shift, ...]
    stops: tuple[Stop, ...]
    travel: IntArray
    """Minutes from place to place, (places, places)."""


@dataclass(frozen=True)
class Call:
    """A visit with its time."""

    stop: int
    arrives: int
    begins: int
    ends: int


@dataclass(frozen=True)
class Round:
    """One shift's visits in order."""

    calls: tuple[Call, ...] = ()
    driving: int = 0
    ends: int = 0
    """When the technician is back."""
    lunch: int | None = None
    """When the pause begins."""


@dataclass(frozen=True)
class Plan:
    rounds: tuple[Round, ...]
    left_out: tuple[int, ...] = ()
    """Stops that found no place."""

    @property
    def driving(self) -> int:
        """Minutes on the road, all rounds together."""
        return sum(one.driving for one in self.rounds)

    def where(self) -> dict[int, int]:
        """The shift of every placed stop."""
        return {call.stop: shift for shift, one in enumerate(self.rounds) for call in one.calls}


class Breach(StrEnum):
    """What a plan may not do."""

    ABILITY = "ability"
    PEOPLE = "people"
    PROMISE = "promise"
    HOURS = "hours"
    LUNCH = "lunch"
    LOCK = "lock"
    TRAVEL = "travel"
    PLACED = "placed"


@dataclass(frozen=True)
class Fault:
    breach: Breach
    shift: int
    stop: int | None = None
    minutes: int = 0
    """By how much, where that can be said."""


def opening(stop: Stop, time: int) -> tuple[int, int]:
    """When a visit that could begin at ``time`` may: the begin, and by how many minutes it misses its last window."""
    if not stop.windows:
        return time, 0
    for window in stop.windows:
        if time <= window.end:
            return max(time, window.start), 0
    return time, time - stop.windows[-1].end


@dataclass
class Timed:
    """A sequence on a shift with its times and what is wrong with it."""

    round: Round
    faults: list[Fault] = field(default_factory=list)

    @property
    def cost(self) -> tuple[int, int]:
        """Faults first, driving and the end after them."""
        return sum(max(fault.minutes, 1) for fault in self.faults), self.round.ends


def timed(problem: Problem, shift: int, sequence: Sequence[int]) -> Timed:
    """Time the stops of a shift in this order: each as early as it may, the pause where it harms least.

    Parameters: shift and sequence, positions in the problem.
    Returns: the round, with every promise, hour, ability or pause that it cannot keep.
    """
    of = problem.shifts[shift]
    pauses: list[int | None] = list(range(len(sequence) + 1)) if of.lunch else [None]
    tried = [_timed(problem, shift, sequence, at) for at in pauses]
    return min(tried, key=lambda timed: timed.cost)


def _timed(problem: Problem, shift: int, sequence: Sequence[int], pause_at: int | None) -> Timed:
    """Times with the pause taken before the stop at ``pause_at``, or before the way home."""
    of = problem.shifts[shift]
    now, place, driving, lunch = of.begins, of.start_place, 0, None
    calls: list[Call] = []
    faults = _unable(problem, shift, sequence)
    for at, number in enumerate(sequence):
        stop = problem.stops[number]
        way = int(problem.travel[place, stop.place])
        arrives = now + way
        if at == pause_at and of.lunch:
            lunch, arrives = _pause(of.lunch, now, way)
        begins, late = opening(stop, arrives)
        if late:
            faults.append(Fault(Breach.PROMISE, shift, number, late))
        now, place, driving = begins + stop.minutes, stop.place, driving + way
        calls.append(Call(number, arrives, begins, now))
    home = int(problem.travel[place, of.end_place])
    ends = now + home
    if pause_at == len(sequence) and of.lunch:
        lunch, ends = _pause(of.lunch, now, home)
    if lunch is not None and of.lunch and lunch > of.lunch.latest:
        faults.append(Fault(Breach.LUNCH, shift, None, lunch - of.lunch.latest))
    if ends > of.ends and sequence:
        faults.append(Fault(Breach.HOURS, shift, None, ends - of.ends))
    return Timed(Round(tuple(calls), driving + home, ends, lunch), faults)


def _pause(lunch: Lunch, now: int, way: int) -> tuple[int, int]:
    """When the pause begins, at once, on the way or at its end; and the arrival after both."""
    return max(now, lunch.earliest), max(now + way, lunch.earliest) + lunch.minutes


def _unable(problem: Problem, shift: int, sequence: Sequence[int]) -> list[Fault]:
    of, faults = problem.shifts[shift], []
    for number in sequence:
        stop = problem.stops[number]
        if not stop.needs <= of.able:
            faults.append(Fault(Breach.ABILITY, shift, number))
        if stop.people > of.people:
            faults.append(Fault(Breach.PEOPLE, shift, number))
        if stop.stays and stop.shift is not None and stop.shift != shift:
            faults.append(Fault(Breach.LOCK, shift, number))
    return faults


def faults_of(problem: Problem, plan: Plan) -> list[Fault]:
    """Everything that a plan does against its problem, found without the solver that made it."""
    faults: list[Fault] = []
    placed = [call.stop for one in plan.rounds for call in one.calls]
    for number in range(len(problem.stops)):
        if placed.count(number) + plan.left_out.count(number) != 1:
            faults.append(Fault(Breach.PLACED, -1, number))
    for shift, one in enumerate(plan.rounds):
        faults += _faults_of_round(problem, shift, one)
    return faults


def _faults_of_round(problem: Problem, shift: int, one: Round) -> list[Fault]:
    of = problem.shifts[shift]
    faults = _unable(problem, shift, [call.stop for call in one.calls])
    place, free = of.start_place, of.begins
    pause, rests = of.lunch.minutes if of.lunch else 0, False
    for call in one.calls:
        stop = problem.stops[call.stop]
        way = int(problem.travel[place, stop.place])
        if one.lunch is not None and free <= one.lunch < call.begins:
            way, rests = max(free + way, one.lunch) + pause - free, True
        if call.begins < free + way or call.ends != call.begins + stop.minutes:
            faults.append(Fault(Breach.TRAVEL, shift, call.stop, free + way - call.begins))
        if stop.windows and not any(w.start <= call.begins <= w.end for w in stop.windows):
            faults.append(Fault(Breach.PROMISE, shift, call.stop))
        place, free = stop.place, call.ends
    if one.calls:
        home = free + int(problem.travel[place, of.end_place])
        if one.lunch is not None and one.lunch >= free:
            home, rests = max(home, one.lunch) + pause, True
        if home > of.ends:
            faults.append(Fault(Breach.HOURS, shift))
        # A pause while somebody is at work is none.
        if of.lunch and not (rests and one.lunch and of.lunch.earliest <= one.lunch <= of.lunch.latest):
            faults.append(Fault(Breach.LUNCH, shift))
    return faults


def of_sequences(problem: Problem, sequences: Sequence[Sequence[int]]) -> Plan:
    """A plan from the order of the stops on each shift; those on none are left out."""
    placed = {number for sequence in sequences for number in sequence}
    rounds = tuple(timed(problem, shift, sequence).round for shift, sequence in enumerate(sequences))
    return Plan(rounds, tuple(n for n in range(len(problem.stops)) if n not in placed))


@dataclass(frozen=True)
class MoveCost:
    """What a move by hand would do."""

    shift: int
    position: int
    driving: int
    """Minutes more on the road, all rounds together."""
    ends: int
    """When the round that takes it would be back."""
    ends_before: int
    faults: tuple[Fault, ...]
    """What it would break that holds now."""
    begins: int
    """When the stop itself would begin there."""
    breaks: int
    """How much the round would break with it, in the units of ``Timed.cost``."""


def move_costs(problem: Problem, plan: Plan, stop: int, shift: int) -> list[MoveCost]:
    """What moving a stop to each place of a shift would cost, before it is done: by its place among the others there.

    Faults that the round has already are not counted against the move. What is the same for every place, the round as
    it is and the one that the stop leaves, is timed once: a board asks for all places as a visit is lifted.
    """
    sequence = [call.stop for call in plan.rounds[shift].calls]
    without = [number for number in sequence if number != stop]
    before = timed(problem, shift, sequence)
    known = {(fault.breach, fault.stop) for fault in before.faults}
    held, left = plan.where().get(stop), 0
    if held is not None and held != shift:
        others = [call.stop for call in plan.rounds[held].calls if call.stop != stop]
        left = timed(problem, held, others).round.driving - plan.rounds[held].driving
    costs = []
    for at in range(len(without) + 1):
        there = timed(problem, shift, [*without[:at], stop, *without[at:]])
        new = tuple(fault for fault in there.faults if (fault.breach, fault.stop) not in known)
        costs.append(
            MoveCost(
                shift, at, there.round.driving - before.round.driving + left, there.round.ends, before.round.ends, new,
                there.round.calls[at].begins, there.cost[0],
            )
        )  # fmt: skip
    return costs


def move_cost(problem: Problem, plan: Plan, stop: int, shift: int, position: int | None = None) -> MoveCost:
    """The same of one place, or of the best one.

    Parameters: position among the shift's other stops, or None for the best one.
    """
    costs = move_costs(problem, plan, stop, shift)
    if position is not None:
        return costs[min(position, len(costs) - 1)]
    # On another day than its lock it is a fault whatever the position.
    return min(costs, key=lambda one: (one.breaks, one.driving))


def moved(problem: Problem, plan: Plan, stop: int, shift: int | None, position: int) -> Plan:
    """The plan with a stop moved to a place of a shift, or to none."""
    sequences = [[call.stop for call in one.calls if call.stop != stop] for one in plan.rounds]
    if shift is not None:
        sequences[shift].insert(position, stop)
    return of_sequences(problem, sequences)


@dataclass(frozen=True)
class Change:
    """What a new plan does to one stop."""

    stop: int
    before: int | None
    """Its shift, None for none."""
    after: int | None
    minutes: int
    """By how much later it begins, where it stays on its shift."""


def changes(before: Plan, after: Plan, unnoticed: int = 10) -> list[Change]:
    """What differs between two plans of the same stops; less than ``unnoticed`` minutes is nothing. Assumption."""
    was, now = before.where(), after.where()
    began = {call.stop: call.begins for one in before.rounds for call in one.calls}
    changes = []
    for one in after.rounds:
        for call in one.calls:
            shift, held = now[call.stop], was.get(call.stop)
            later = call.begins - began[call.stop] if held == shift else 0
            if held != shift or abs(later) >= unnoticed:
                changes.append(Change(call.stop, held, shift, later))
    return changes + [Change(stop, was[stop], None, 0) for stop in after.left_out if stop in was]


def held(problem: Problem, plan: Plan) -> Problem:
    """The problem with every stop told where the plan has it, so that a new one changes little."""
    where = plan.where()
    return replace(problem, stops=tuple(replace(s, shift=where.get(n)) for n, s in enumerate(problem.stops)))

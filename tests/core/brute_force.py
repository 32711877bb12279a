"""What is best and what is possible on a few visits, by trying everything: nothing of the planning's own code is used.

A day is walked minute by minute where it matters: the pause is tried at every minute that it may begin at.
"""

from collections.abc import Iterator
from itertools import permutations, product

from aquifer.core.planning.rounds import Problem, Shift

Sequences = tuple[tuple[int, ...], ...]


def can_be_driven(problem: Problem, shift: int, order: tuple[int, ...]) -> bool:
    """Whether one person can do these visits in this order, with the pause somewhere in the day."""
    on = problem.shifts[shift]
    if not order:
        return True
    for stop in (problem.stops[number] for number in order):
        if not stop.needs <= on.able or stop.people > on.people:
            return False
        if stop.stays and stop.shift is not None and stop.shift != shift:
            return False
    if on.lunch is None:
        return _walk(problem, on, order, None)
    return any(_walk(problem, on, order, pause) for pause in range(on.lunch.earliest, on.lunch.latest + 1))


def _walk(problem: Problem, on: Shift, order: tuple[int, ...], pause: int | None) -> bool:
    """The day with the pause at that minute: on the road it stops the drive, at a house it comes before the visit."""
    now, place, eaten = on.begins, on.start_place, pause is None
    for number in order:
        stop = problem.stops[number]
        there = now + int(problem.travel[place, stop.place])
        begins = _opens(stop, there)
        if not eaten and pause is not None and on.lunch and now <= pause and (begins is None or pause <= begins):
            # Taken on this way or while waiting for the window to open.
            there, eaten = max(there, pause) + on.lunch.minutes, True
            begins = _opens(stop, there)
        if begins is None:
            return False
        now, place = begins + stop.minutes, stop.place
    home = now + int(problem.travel[place, on.end_place])
    if not eaten and pause is not None and on.lunch:
        if pause < now:
            return False
        home = max(home, pause) + on.lunch.minutes
    return home <= on.ends


def _opens(stop, there: int) -> int | None:
    if not stop.windows:
        return there
    return min((max(there, one.start) for one in stop.windows if there <= one.end), default=None)


def every_plan(problem: Problem) -> Iterator[Sequences]:
    """Every way to give the stops to the shifts, each or none, in every order that can be driven."""
    shifts = range(len(problem.shifts))
    kept: dict[tuple[int, frozenset[int]], list[tuple[int, ...]]] = {}
    for given in product([None, *shifts], repeat=len(problem.stops)):
        own = []
        for shift in shifts:
            stops = frozenset(n for n, to in enumerate(given) if to == shift)
            if (shift, stops) not in kept:
                kept[shift, stops] = [one for one in permutations(sorted(stops)) if can_be_driven(problem, shift, one)]
            own.append(kept[shift, stops])
        yield from product(*own)


def cost(problem: Problem, plan: Sequences, change: int) -> int:
    """Minutes driven, ``change`` for each visit that is not with whom it was, and the worth of what is left out."""
    total, placed = 0, set()
    for shift, order in enumerate(plan):
        on = problem.shifts[shift]
        places = [on.start_place, *(problem.stops[n].place for n in order), on.end_place] if order else []
        total += sum(int(problem.travel[a, b]) for a, b in zip(places, places[1:], strict=False))
        total += sum(change for n in order if problem.stops[n].shift not in (None, shift))
        placed |= set(order)
    return total + sum(stop.worth for n, stop in enumerate(problem.stops) if n not in placed)


def can_all_be_kept(problem: Problem, stops: tuple[int, ...]) -> bool:
    """Whether some way to give exactly these stops to the shifts can be driven."""
    shifts = range(len(problem.shifts))
    return any(
        all(
            any(can_be_driven(problem, shift, order) for order in permutations([s for s, to in given if to == shift]))
            for shift in shifts
        )
        for given in (list(zip(stops, to, strict=True)) for to in product(shifts, repeat=len(stops)))
    )

"""Looks through every way that a visit can go: each step done, skipped or gone otherwise, from every start."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from aquifer.core.procedures.condition import Words
from aquifer.core.procedures.interlock import held, passed
from aquifer.core.procedures.library import Library
from aquifer.core.procedures.sequence import At, restoring, steps_of
from aquifer.core.procedures.state import FIELDS, State

Seen = Callable[[State, State, At], str]
"""What is wrong with a change: the state before, during or after, and the step; empty for nothing."""


@dataclass(frozen=True)
class Walked:
    """What a walk has seen."""

    states: int
    """Different places and states."""
    wrong: tuple[str, ...]
    """What went wrong, each with the step."""
    ends: tuple[State, ...]
    """States in which a visit can end."""
    done: frozenset[str]
    """Steps that can be done on some way."""
    straight: State
    """Where it ends if every step is done."""
    stuck: tuple[str, ...]
    """Steps that are held though everything before was done."""


def walk(
    library: Library, names: Iterable[str], facts: Words, starts: Iterable[State], seen: Seen, skips: int | None = None
) -> Walked:
    """Every way through a visit.

    Parameters: names, its procedures; starts, states in which it may begin; seen, the judge of every change, which
    knows nothing of the interlock; skips, how many steps may be left out on one way, any number if None.
    """
    steps = steps_of(library, names, facts)
    numbers: dict[tuple[At, ...], int] = {steps: 0}
    queues = [steps]
    first = [(0, _packed(state), 0) for state in starts]
    left, known = list(first), set(first)
    wrong: dict[str, None] = {}
    ends: set[tuple[str, ...]] = set()
    done: set[str] = set()

    def go(queue: tuple[At, ...], state: tuple[str, ...], skipped: int) -> None:
        number = numbers.setdefault(queue, len(numbers))
        if number == len(queues):
            queues.append(queue)
        if (number, state, skipped) not in known:
            known.add((number, state, skipped))
            left.append((number, state, skipped))

    while left:
        number, packed, skipped = left.pop()
        queue = queues[number]
        if not queue:
            ends.add(packed)
            continue
        now, rest = queue[0], queue[1:]
        if skips is None or skipped < skips:
            go(rest, packed, 0 if skips is None else skipped + 1)
        for other in now.step.otherwise:
            then = (
                steps_of(library, restoring(facts), facts)
                if other.ends
                else (*steps_of(library, other.then, facts), *queue)
            )
            # A procedure that leads to itself again is one way, not many.
            if len(then) < 3 * len(steps) + 60 and then.count(now) <= 2:
                go(then, packed, skipped)
        state = _unpacked(packed)
        if held(now.step, state, facts, library.rules):
            continue
        done.add(now.id)
        during, new = passed(now.step, state)
        for before, reached in ((state, during), (during, new)):
            if reached != before and (said := seen(before, reached, now)):
                wrong[f"{now.id}: {said}"] = None
        go(rest, _packed(new), skipped)
    straight, stuck = _straight(library, steps, facts, _unpacked(first[0][1]))
    return Walked(
        len(known), tuple(wrong), tuple(_unpacked(one) for one in sorted(ends)), frozenset(done), straight, stuck
    )


def _straight(library: Library, steps: tuple[At, ...], facts: Words, state: State) -> tuple[State, tuple[str, ...]]:
    stuck = []
    for one in steps:
        if held(one.step, state, facts, library.rules):
            stuck.append(one.id)
        else:
            state = passed(one.step, state)[1]
    return state, tuple(stuck)


def _packed(state: State) -> tuple[str, ...]:
    return tuple(state[field] for field in FIELDS)


def _unpacked(packed: tuple[str, ...]) -> State:
    return dict(zip(FIELDS, packed, strict=True))

"""Where a visit stands after what several devices tell of it, which did not know of each other for a while.

What somebody did at a valve was done, whether or not it was that step's turn: its effect counts, and is told so that
somebody looks. What two people tell of the same turn of a step counts once.
"""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, replace

from aquifer.core.procedures.condition import Words
from aquifer.core.procedures.interlock import Step, held, passed
from aquifer.core.procedures.library import Library
from aquifer.core.procedures.sequence import Event, Stand, advanced, for_heater, restoring, steps_of


@dataclass(frozen=True)
class Merged:
    stand: Stand
    taken: tuple[Event, ...]
    """What counts, in order; each turn of a step once."""
    amiss: tuple[str, ...]
    """Steps that were done out of turn, or that the interlock would have held as the valves stood by then."""


def merged(library: Library, begun: Stand, events: Iterable[Event], facts: Words) -> Merged:
    """Where a visit stands after events of any devices, in the one order that all of them know.

    Parameters: begun, where it began. Events of steps that there are none of are passed over. Of one device alone this
    is what ``advanced`` says, event by event.
    """
    stand, taken, amiss = begun, list[Event](), list[str]()
    turns: Counter[str] = Counter()
    for event in events:
        step = _step(library, event.step, facts)
        if event.turn < turns[event.step] or step is None:
            continue
        turns[event.step] += 1
        taken.append(event)
        now = stand.now
        if now is not None and now.id == event.step:
            if event.kind == "done" and held(step, stand.state, facts, library.rules):
                amiss.append(event.step)
                event = replace(event, kind="despite")
            if event.kind != "otherwise" or event.choice < len(step.otherwise):
                stand = advanced(library, stand, event, facts)
            continue
        if event.kind != "skipped":
            amiss.append(event.step)
        stand = _aside(library, stand, event, step, facts)
    return Merged(stand, tuple(taken), tuple(amiss))


def _aside(library: Library, stand: Stand, event: Event, step: Step, facts: Words) -> Stand:
    """After an event of a step that is not the present one."""
    if event.kind == "otherwise":
        if event.choice >= len(step.otherwise):
            return stand
        other = step.otherwise[event.choice]
        if other.ends:
            return replace(stand, left=steps_of(library, restoring(facts), facts))
        return replace(stand, left=(*steps_of(library, other.then, facts), *stand.left))
    places = [place for place, at in enumerate(stand.left) if at.id == event.step]
    left = stand.left[: places[0]] + stand.left[places[0] + 1 :] if places else stand.left
    return Stand(left, stand.state if event.kind == "skipped" else passed(step, stand.state)[1])


def _step(library: Library, name: str, facts: Words) -> Step | None:
    procedure, _, own = name.partition(".")
    found = library.procedures.get(procedure)
    return next((for_heater(step, facts) for step in found.steps if step.id == own), None) if found else None

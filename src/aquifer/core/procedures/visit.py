"""Where a visit stands after all that any devices tell of it.

What somebody did at a valve was done, whether or not it was that step's turn. What nobody knows stays open: a step left
out or taken back may have been done, of two that were done apart either may be the last, and a look that was too quick
or cannot be true proves nothing.
"""

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache

from aquifer.core.procedures.condition import Words, possible
from aquifer.core.procedures.interlock import Held, Step, after, during, harms, held, lacking
from aquifer.core.procedures.library import LEAVES, Ending, Library
from aquifer.core.procedures.state import (
    FIELDS,
    Rates,
    State,
    acted,
    either,
    elapsed,
    left_alone,
    seen,
    unheard,
    unlike,
)

CLOSE_UP = (
    *("acid_out", "ports_shut", "drain_shut", "relief_shut", "hose_away", "covers_back", "refill", "cold_back"),
    *("tap_shut", "gas_tested", "light_pilot", "energise", "verify", "hand_over"),
)
"""What closes every visit. Of it only that is done which is not certain already."""
MAKE_SAFE = ("make_safe", "acid_out", "ports_shut", "drain_shut", "relief_shut", "covers_back", "leave_off")
"""What closes a visit that leaves the heater off."""
CLOSINGS: dict[str, tuple[str, ...]] = {
    "restored": CLOSE_UP,
    "left_off": MAKE_SAFE,
    "as_found": ("leave_as_found",),
    "evacuated": ("evacuate",),
}
SECOND_DEVICE_MIN = 30.0
"""How far the clock of a device of which nothing was heard yet may be off. Assumption."""
BACKWARD_MIN = 24 * 60.0
"""How long it may have been where a device's clock was set back meanwhile. Assumption: a day."""
LOOK_S = 1.5
"""Nobody looks faster: of a look told again the last must have taken so long, whatever went before. Assumption."""
STEPS = ("done", "skipped", "deviation", "override")
EVENT_KINDS = (*STEPS, "undo", "settled", "outside", "found", "took_over")


@dataclass(frozen=True)
class At:
    """A step within its procedure."""

    id: str
    """procedure.step"""
    procedure: str = field(compare=False)
    step: Step = field(compare=False)


@dataclass(frozen=True)
class Event:
    """One tap that bears on where a visit stands."""

    kind: str
    """One of ``EVENT_KINDS``: done, skipped, gone another way, done over a hold, undone; the way out of a hold
    taken; something that happened from outside; something else found; another device that leads from here on."""
    step: str = ""
    choice: int = 0
    """Which of the step's other ways; of a device that takes over, 1 if more may have been done than it knows of."""
    name: str = ""
    """Of what is settled, happened or was found."""
    of: str = ""
    """The event that is taken back."""
    id: str = ""
    device: str = ""
    at_s: float = 0.0
    """By the device's clock, which may be wrong."""
    number: int | None = None
    """Its place among what the server knows; None if that does not know it yet."""
    known: int = 0
    """Of other devices' events its device knew those up to this number."""
    why: str = ""


@dataclass(frozen=True)
class Mark:
    """Something about an event that somebody should look at."""

    event: str
    step: str
    kind: str
    """``held``, ``unlicensed``, ``out_of_sequence``, ``no_reason`` or ``unproven``."""
    about: str = ""
    """The rule or licence."""


@dataclass(frozen=True)
class Stand:
    """Where a visit stands."""

    left: tuple[At, ...]
    """Steps to come, the present one first."""
    state: State
    ending: str = ""
    marks: tuple[Mark, ...] = ()
    doubted: str = ""
    """The step whose last look proved nothing, and that is to be looked at again."""
    leads: str = ""
    """The device on which the visit goes on. Two that each think so would know nothing of each other's acts."""

    @property
    def now(self) -> At | None:
        return self.left[0] if self.left else None


def steps_of(library: Library, names: Iterable[str], facts: Words) -> tuple[At, ...]:
    """The steps of procedures that may come up at this heater, in order. Raises: KeyError for a procedure that there is
    none of."""
    return _steps_of(library, tuple(names), frozenset(facts.items()))


@lru_cache(maxsize=2048)
def _steps_of(library: Library, names: tuple[str, ...], facts: frozenset[tuple[str, frozenset[str]]]) -> tuple[At, ...]:
    anything = {field: frozenset(words) for field, words in FIELDS.items()}
    words = {**anything, "level": _ANY_LEVEL, "water": _ANY_WATER, **dict(facts)}
    return tuple(
        At(f"{name}.{step.id}", name, step)
        for name in names
        if possible((procedure := library.procedures[name]).when, words)
        for step in procedure.steps
        if possible(step.when, words)
    )


@lru_cache(maxsize=256)
def _all_acts(library: Library, facts: frozenset[tuple[str, frozenset[str]]]) -> Words:
    """For each field all that any act at this heater may set it to."""
    found: dict[str, frozenset[str]] = {}
    for at in _steps_of(library, tuple(library.procedures), facts):
        for name, to in (*at.step.through, *at.step.sets):
            found[name] = found.get(name, frozenset()) | set(to)
    return found


_ANY_LEVEL = frozenset({"empty", "low", "airy", "full"})
_ANY_WATER = frozenset({"cool", "warm", "scalding"})


def begun(library: Library, names: Iterable[str], facts: Words, state: State) -> Stand:
    """A visit before its first step. Parameters: names, its procedures in order."""
    return _settled(library, Stand(steps_of(library, names, facts), state), facts)


def closing_of(library: Library, name: str, facts: Words) -> tuple[At, ...]:
    """The steps of an ending."""
    ending = library.endings[name]
    return steps_of(library, (*ending.first, *CLOSINGS[ending.leaves]), facts)


def leaves_of(library: Library, ending: str) -> Mapping[str, Sequence[str]]:
    """How a heater is left by an ending; by none of them, fit to run."""
    return LEAVES[library.endings[ending].leaves if ending else "restored"]


def doubtful(library: Library, stand: Stand, start: State) -> list[str]:
    """Fields that may be other than a visit is to leave them. Parameters: start, the state it began in."""
    ending: Ending | None = library.endings[stand.ending] if stand.ending else None
    if ending is not None and ending.leaves == "as_found":
        learned = {"told", "shut_off", "discharge", "pressure", "relief_works"}
        return [one for one in FIELDS if one not in learned and not stand.state.words[one] <= start.words[one]]
    return unlike(stand.state, leaves_of(library, stand.ending))


def _settled(library: Library, stand: Stand, facts: Words) -> Stand:
    """Without the steps at its head for which there is nothing to do."""
    words = {**facts, **stand.state.told}
    left = stand.left
    while left and not (
        possible(left[0].step.when, words) and possible(library.procedures[left[0].procedure].when, words)
    ):
        left = left[1:]
    return stand if left is stand.left else replace(stand, left=left)


@dataclass
class _Told:
    """What was told before, as far as it bears on what comes."""

    at_s: float
    own_s: float


class Visit:
    """A visit that is told of, event by event, in the one order that all of its devices know."""

    def __init__(
        self,
        library: Library,
        start: Stand,
        facts: Words,
        rates: Rates,
        facts_at: Callable[[Event], Words] | None = None,
    ) -> None:
        """Parameters: start, where it begins; facts, of the heater and of whoever looks; rates, of the heater;
        facts_at, of whoever did an event: if it is given, what is amiss with each event is marked."""
        self.library, self.stand, self.facts, self.rates, self.facts_at = library, start, facts, rates, facts_at
        self._clocks: dict[str, _Told] = {}
        self._newest = 0.0
        self._before: dict[str, tuple[Stand, Event]] = {}
        self._last = ""
        self._looked_s = 0.0
        self._earlier: dict[str, list[Event]] = {}

    def tell(self, event: Event) -> Stand:
        """Where it stands after one more event. Events of steps that there are none of are passed over."""
        minutes, own_s = _since(self._clocks, event, self._newest, bool(self._earlier))
        self._newest = max(self._newest, event.at_s)
        apart = self._apart(event)
        was = self.stand
        # A look that is taken again has been looked at since its step came up.
        self._looked_s = own_s + (self._looked_s if was.doubted and was.doubted == event.step else 0.0)
        own_s = own_s if own_s < LOOK_S else self._looked_s
        if event.kind == "undo":
            stand = _taken_back(self.library, was, event, self._before, self._last, minutes, self.rates)
        elif event.kind == "took_over":
            aged = elapsed(was.state, minutes, self.rates)
            if event.choice:
                # Another device may have led through anything meanwhile: something else is found at any step.
                aged = unheard(aged, _all_acts(self.library, frozenset(self.facts.items())))
            stand = replace(was, state=aged, leads=event.device)
        else:
            own = self.facts_at(event) if self.facts_at else None
            stand = _after(self.library, was, event, self.facts, own, minutes, own_s, apart, self.rates)
        if event.kind in STEPS:
            self._before[event.id], self._last = (was, event), event.id
            if not stand.leads:
                stand = replace(stand, leads=event.device)
        self.stand = _settled(self.library, stand, self.facts)
        self._earlier.setdefault(event.device, []).append(event)
        return self.stand

    def _apart(self, event: Event) -> Collection[str]:
        """The fields that other devices bore on without this event's device knowing of it."""
        touched = {
            (one.kind, one.step, one.choice, one.name)
            for device, events in self._earlier.items()
            if device != event.device
            for one in events
            if one.number is None or one.number > event.known
        }
        return frozenset[str]().union(*(_touched(self.library, *one) for one in touched))


def folded(
    library: Library,
    start: Stand,
    events: Iterable[Event],
    facts: Words,
    rates: Rates,
    facts_at: Callable[[Event], Words] | None = None,
) -> Stand:
    """Where a visit stands after events. Parameters: as ``Visit``'s."""
    visit = Visit(library, start, facts, rates, facts_at)
    for event in events:
        visit.tell(event)
    return visit.stand


def _since(clocks: dict[str, _Told], event: Event, newest: float, any_before: bool) -> tuple[float, float]:
    """Minutes since the last event at most, and the seconds that this device's hand had for it."""
    known = clocks.get(event.device)
    if known is None:
        clocks[event.device] = _Told(event.at_s, 0.0)
        return (max(0.0, event.at_s - newest) / 60 + SECOND_DEVICE_MIN if any_before else 0.0), 0.0
    gap_s = event.at_s - known.at_s
    if gap_s == 0:
        return 0.0, known.own_s
    own_s = max(gap_s, 0.0)
    clocks[event.device] = _Told(event.at_s, own_s)
    return (gap_s / 60 if gap_s > 0 else BACKWARD_MIN), own_s


def told_by_reading(library: Library, reading: str, value: object, facts: Words) -> str:
    """What happens from outside by a reading, by its name; empty if it tells of nothing. Parameters: reading, its
    field; value, as it was typed."""
    if not isinstance(value, int | float) or isinstance(value, bool):
        return ""
    told = [
        (one.at_least, name)
        for name, one in library.outside.items()
        if one.reading and one.reading == reading and value >= one.at_least and possible(one.when, facts)
    ]
    return max(told)[1] if told else ""


def step_named(library: Library, name: str) -> Step | None:
    """A step by ``procedure.step``; None if the procedures have it no longer."""
    return library.steps.get(name)


@lru_cache(maxsize=4096)
def _touched(library: Library, kind: str, name: str, choice: int, happening: str) -> frozenset[str]:
    """The fields on which an event bears."""
    if kind == "took_over" and choice:
        return frozenset(FIELDS)
    if kind == "outside":
        happened = library.outside.get(happening)
        return frozenset(happened.widens) if happened else frozenset()
    step = step_named(library, name) if kind in (*STEPS, "undo") else None
    if step is None:
        return frozenset()
    found = {name for name, _ in (*step.sets, *step.through, *step.finds)}
    if kind == "deviation" and choice < len(step.deviations):
        found = {name for name, _ in step.deviations[choice].sets}
    return frozenset(found)


def _aged(state: State, step: Step, minutes: float, rates: Rates) -> State:
    """After at most so many minutes, at any moment of which the step's act may have been done."""
    if minutes <= 0:
        aged = state
    else:
        aged = elapsed(state, minutes, rates)
        ways = [elapsed(during(step, state), minutes, rates)] if step.through else []
        if step.sets:
            ways.append(elapsed(after(step, state), minutes, rates))
        for one in ways:
            level = (min(aged.level[0], one.level[0]), max(aged.level[1], one.level[1]))
            hot = (min(aged.hot_c[0], one.hot_c[0]), max(aged.hot_c[1], one.hot_c[1]))
            aged = State(aged.words, level, hot)
    if step.through:
        # Of what is only passed through, the pressure stays as it became.
        aged = State({**aged.words, "pressure": during(step, aged).words["pressure"]}, aged.level, aged.hot_c)
    return aged


def _after(
    library: Library,
    stand: Stand,
    event: Event,
    facts: Words,
    own: Words | None,
    minutes: float,
    own_s: float,
    apart: Collection[str],
    rates: Rates,
) -> Stand:
    if stand.doubted:
        stand = replace(stand, doubted="")
    if event.kind == "outside":
        return _happened(library, stand, event, facts, minutes, rates)
    if event.kind == "found":
        thing = library.found.get(event.name)
        later = replace(stand, state=elapsed(stand.state, minutes, rates))
        return replace(later, left=(*steps_of(library, thing.then, facts), *stand.left)) if thing else later
    step = step_named(library, event.step)
    if step is None:
        return stand
    place = next((place for place, at in enumerate(stand.left) if at.id == event.step), None)
    if event.kind == "settled":
        later = replace(stand, state=elapsed(stand.state, minutes, rates))
        ways = [one.way_out for one in held(step, stand.state, facts, library.rules) if one.rule == event.name]
        return replace(later, left=(*steps_of(library, ways[0], facts), *stand.left)) if ways else later
    aged = _aged(stand.state, step, minutes, rates)
    marks = [*stand.marks, *(_marks(library, stand, event, step, place, facts, own) if own is not None else ())]
    if event.kind == "deviation":
        return _deviation(library, replace(stand, marks=tuple(marks)), event, step, place, aged, facts, apart)
    at = At(event.step, event.step.partition(".")[0], step)
    left = stand.left if place is None else stand.left[:place] + stand.left[place + 1 :]
    reached = _set(aged, dict(step.sets), apart)
    if event.kind == "skipped":
        return replace(stand, left=left, state=either(aged, reached), marks=tuple(marks))
    if step.ends:
        left = closing_of(library, step.ends, facts)
        return replace(stand, left=left, state=reached, ending=step.ends, marks=tuple(marks))
    if not (step.proves or step.finds):
        return replace(stand, left=left, state=reached, marks=tuple(marks))
    proven, believed = seen(acted(reached, dict(step.finds)), dict(step.proves))
    if apart or own_s < step.least_s:
        # Who looked too quickly, or while others were at the valves unseen, may be wrong.
        proven, believed = either(reached, proven), False
    if believed:
        return replace(stand, left=left, state=proven, marks=tuple(marks))
    # A look that proved nothing is to be taken again.
    marks.append(Mark(event.id, event.step, "unproven"))
    again = (at, *left) if place is not None else left
    return replace(stand, left=again, state=proven, marks=tuple(marks), doubted=event.step)


def _marks(
    library: Library, stand: Stand, event: Event, step: Step, place: int | None, facts: Words, own: Words
) -> list[Mark]:
    """What somebody should look at about an event of a step."""
    marks = []
    if event.kind == "skipped":
        return [Mark(event.id, event.step, "no_reason")] if step.acts and not event.why else []
    if place != 0:
        marks.append(Mark(event.id, event.step, "out_of_sequence"))
    if event.kind == "done":
        # Time alone does not make a step wrong that was right when it was begun.
        marks += [
            Mark(event.id, event.step, "held", one.rule)
            for one in held(step, stand.state, facts, library.rules)
            if one.rule != "licence"
        ]
    if event.kind != "deviation" and lacking(step, own) is not None:
        marks.append(Mark(event.id, event.step, "unlicensed", step.licence))
    return marks


def _set(state: State, sets: Mapping[str, Sequence[str]], apart: Collection[str]) -> State:
    """After an act; where others acted on the same apart from it, either may have been the last."""
    new = acted(state, sets)
    both = [name for name in sets if name in apart]
    if not both:
        return new
    return replace(new, words={**new.words, **{name: new.words[name] | state.words[name] for name in both}})


def _deviation(
    library: Library,
    stand: Stand,
    event: Event,
    step: Step,
    place: int | None,
    aged: State,
    facts: Words,
    apart: Collection[str],
) -> Stand:
    if not 0 <= event.choice < len(step.deviations):
        return stand
    other = step.deviations[event.choice]
    # Nobody knows how much of the step was done before it went otherwise.
    tried = either(aged, acted(aged, dict(step.sets))) if step.sets else aged
    state = _set(tried, dict(other.sets), apart)
    if other.ends:
        return replace(stand, left=closing_of(library, other.ends, facts), state=state, ending=other.ends)
    left = stand.left
    if other.instead and place is not None:
        left = left[:place] + left[place + 1 :]
    return replace(stand, left=(*steps_of(library, other.then, facts), *left), state=state)


def _happened(library: Library, stand: Stand, event: Event, facts: Words, minutes: float, rates: Rates) -> Stand:
    state = elapsed(stand.state, minutes, rates)
    happened = library.outside.get(event.name)
    if happened is None:
        return replace(stand, state=state)
    words = {name: state.words[name] | set(to) for name, to in happened.widens.items()}
    state = acted(state, {name: sorted(to) for name, to in words.items()})
    if happened.away:
        state = left_alone(state)
    if happened.ends:
        return replace(stand, left=closing_of(library, happened.ends, facts), state=state, ending=happened.ends)
    return replace(stand, left=(*steps_of(library, happened.then, facts), *stand.left), state=state)


def _taken_back(
    library: Library,
    stand: Stand,
    event: Event,
    before: Mapping[str, tuple[Stand, Event]],
    last: str,
    minutes: float,
    rates: Rates,
) -> Stand:
    """The record is taken back, not the valve: what the step set may be so or not."""
    state = elapsed(stand.state, minutes, rates)
    if event.of not in before:
        return replace(stand, state=state, doubted="")
    was, back = before[event.of]
    step = step_named(library, back.step)
    if step is None:
        return replace(stand, state=state, doubted="")
    new = either(state, replace(was.state, words={**state.words, **_of(step, back, was.state.words)}))
    if event.of == last:
        return replace(stand, left=was.left, state=new, ending=was.ending, doubted="")
    at = At(back.step, back.step.partition(".")[0], step)
    return replace(stand, left=(at, *stand.left), state=new, doubted="")


def _of(step: Step, event: Event, words: Words) -> Words:
    """The words of the fields that a step bears on."""
    names = {name for name, _ in (*step.sets, *step.through, *step.proves, *step.finds)} | {"pressure", "lock", "dead"}
    for other in step.deviations:
        names |= {name for name, _ in other.sets}
    return {name: words[name] for name in names if name in words}


def undo_hurts(library: Library, stand: Stand, was: Stand, event: Event, facts: Words) -> bool:
    """Whether undoing an event's act at the heater may hurt, as things stand by now. Parameters: was, where the visit
    stood before it."""
    step = step_named(library, event.step)
    if step is None:
        return False
    words = {name: [one for one in FIELDS[name] if one in was.state.words[name]] for name, _ in step.sets}
    for name, stood in words.items():
        for word in stood:
            back = {**words, name: [word, *(one for one in stood if one != word)]}
            sets = tuple((field, tuple(to)) for field, to in back.items())
            if harms(replace(step, through=(), sets=sets), stand.state, facts, library.rules):
                return True
    return False


def holding(library: Library, stand: Stand, facts: Words) -> list[Held]:
    """What holds the present step; nothing if it may be done."""
    return [] if stand.now is None else held(stand.now.step, stand.state, facts, library.rules)

"""What holds a step: states that may hurt somebody, as rules; what must be certain before it; and licences."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

from aquifer.core.procedures.condition import Alternative, Condition, Words, certain, may_fit
from aquifer.core.procedures.state import State, acted

Acts = Mapping[str, Sequence[str]]


@dataclass(frozen=True)
class Out:
    """A way out of what holds a step."""

    procedures: tuple[str, ...]
    """Which settle it."""
    says: str
    """In one sentence."""


@dataclass(frozen=True, eq=False)
class Rule:
    """A state that must not be reached. Source of each: trade practice, as named in its hazard."""

    name: str
    forbids: Condition
    says: str
    """What would happen."""
    out: Out
    by: Mapping[str, Out]
    """Another way out for an act on one of these fields: what it does not touch is what is to be settled."""


@dataclass(frozen=True)
class Deviation:
    """What a step may show instead of what is expected."""

    says: str
    then: tuple[str, ...] = ()
    """Procedures to go through before the step is tried again."""
    ends: str = ""
    """The ending to which it leads: nothing goes back into the routine from there."""
    instead: bool = False
    """It takes the step's place: the step is not tried again."""
    sets: tuple[tuple[str, tuple[str, ...]], ...] = ()
    """What is so by this."""
    when: Condition = ()
    """For which heaters."""


@dataclass(frozen=True)
class Step:
    id: str
    do: str
    why: str = ""
    caution: str = ""
    tool: str = ""
    expect: str = ""
    part: str = ""
    """The piece of the heater that it is about, as the section draws it."""
    minutes: float = 0.0
    figure: str = ""
    """Which computed time or amount is shown with it. A time is what the step takes if ``minutes`` is above 0, else it
    is only told: nobody waits beside a tank until it is hot."""
    through: tuple[tuple[str, tuple[str, ...]], ...] = ()
    """What is so for a while during it, and must hurt nobody either."""
    sets: tuple[tuple[str, tuple[str, ...]], ...] = ()
    """What the act sets."""
    proves: tuple[tuple[str, tuple[str, ...]], ...] = ()
    """What a look shows that is as expected."""
    finds: tuple[tuple[str, tuple[str, ...]], ...] = ()
    """What is known by a look, whatever was thought before."""
    least_s: float = 1.5
    """Nobody looks faster: what is told sooner proves nothing; at least ``visit.LOOK_S``. Assumption."""
    needs: Condition = ()
    """Besides the rules, what must be certain before it."""
    way_out: tuple[str, ...] = ()
    """Procedures that bring it about."""
    out_says: str = ""
    """The way out in one sentence."""
    asks: tuple[str, ...] = ()
    """Findings and readings that are recorded here."""
    pictures: tuple[str, ...] = ()
    """What is to be photographed here, or to be put back as it was photographed: ``library.PICTURES``."""
    licence: str = ""
    when: Condition = ()
    """For which heaters, and in which state: where it cannot be so, there is nothing to do."""
    joins: bool = False
    """It cannot hurt, and may share one Done with the step before."""
    ends: str = ""
    """The ending to which it leads when it is done."""
    deviations: tuple[Deviation, ...] = ()

    @property
    def acts(self) -> bool:
        """Whether anything at the heater changes by it, or is known by it."""
        return bool(self.sets or self.through or self.proves or self.finds)


@dataclass(frozen=True)
class Held:
    """Why a step is held, and the way out."""

    rule: str
    says: str
    way_out: tuple[str, ...]
    out_says: str


def during(step: Step, state: State) -> State:
    """What is so while a step is done."""
    return acted(state, dict(step.through))


def after(step: Step, state: State) -> State:
    """What is so after a step's acts, before anything was looked at."""
    return acted(during(step, state), dict(step.sets))


@lru_cache(maxsize=64)
def _by_field(rules: tuple[Rule, ...]) -> Mapping[str, Sequence[tuple[int, Alternative, frozenset[str]]]]:
    """For each field the alternatives that name it: place of the rule, alternative, the field's words in it."""
    found: dict[str, list[tuple[int, Alternative, frozenset[str]]]] = {}
    for place, rule in enumerate(rules):
        for alternative in rule.forbids:
            for field, words in alternative.items():
                found.setdefault(field, []).append((place, alternative, frozenset(words)))
    return found


def _reached(rules: tuple[Rule, ...], acts: Acts, before: Words, new: Words) -> dict[int, str]:
    """Places of the rules whose state may be so now, and was brought nearer by these acts, with the field by which: a
    way back is always open."""
    by_field = _by_field(rules)
    return {
        place: field
        for field, to in reversed(list(acts.items()))
        for place, alternative, words in by_field.get(field, ())
        # The first word is what the act is to bring about; the others are how it may fail, and were so before.
        if to[0] in words and not before[field] <= words and may_fit(alternative, new)
    }


def harms(step: Step, state: State, facts: Words, rules: Iterable[Rule]) -> list[tuple[Rule, str]]:
    """The rules that a step may break in some state that may be so, each with the field of the act that would."""
    if not (step.through or step.sets):
        return []
    every = tuple(rules)
    before, passing = state.told, during(step, state)
    places = _reached(every, dict(step.through), before, {**facts, **passing.told}) if step.through else {}
    if step.sets:
        sets = dict(step.sets)
        places = {**_reached(every, sets, before, {**facts, **acted(passing, sets).told}), **places}
    return [(every[place], places[place]) for place in sorted(places)]


def held(step: Step, state: State, facts: Words, rules: Iterable[Rule]) -> list[Held]:
    """What holds a step in a state; nothing if it may be done.

    It is held if some state that may be so would make it hurt. A state that is harmful already does not hold a step
    that makes it no worse: there must be a way back.
    """
    found = []
    for rule, field in harms(step, state, facts, rules):
        out = rule.by.get(field, rule.out)
        found.append(Held(rule.name, rule.says, out.procedures, out.says))
    if not certain(step.needs, {**facts, **state.told}):
        found.append(Held("needs", step.why or step.do, step.way_out, step.out_says))
    if (lacks := lacking(step, facts)) is not None:
        found.append(lacks)
    return found


def lacking(step: Step, facts: Words) -> Held | None:
    """The licence that whoever does a step does not hold, as what holds it."""
    if not step.licence or facts.get(f"licence_{step.licence}") == frozenset({"yes"}):
        return None
    return Held(
        "licence",
        f"This is for somebody with a {step.licence} license.",
        (),
        "Leave it safe and ask for somebody who holds one.",
    )

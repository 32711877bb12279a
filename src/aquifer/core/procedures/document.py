"""A visit as one document: all that a device needs to lead through it and to hold what would hurt, without a signal."""

from collections.abc import Iterable, Sequence
from dataclasses import asdict
from typing import NotRequired

from typing_extensions import TypedDict

from aquifer.core.procedures import state, visit
from aquifer.core.procedures.condition import Condition, Words
from aquifer.core.procedures.interlock import Out, Rule, Step
from aquifer.core.procedures.library import LEAVES, Ending, Library
from aquifer.core.procedures.state import BANDS, FIELDS, PlainState, Rates, State
from aquifer.core.procedures.visit import CLOSINGS, steps_of

LIMITS = {
    "head_share": state.HEAD_SHARE,
    "least_share": state.LEAST_SHARE,
    "away_min": state.AWAY_MIN,
    "pilot_share": state.PILOT_SHARE,
    "cooled_c": state.COOLED_C,
    "look_s": visit.LOOK_S,
    "second_device_min": visit.SECOND_DEVICE_MIN,
    "backward_min": visit.BACKWARD_MIN,
}
"""Figures of the bounds, for a device that reckons them."""


Acts = dict[str, list[str]]
PlainCondition = list[dict[str, list[str]]]


class GuideDeviation(TypedDict):
    says: str
    then: list[str]
    ends: str
    instead: bool
    sets: Acts
    when: PlainCondition


class GuideStep(TypedDict):
    """A step of a procedure; what it changes, shows and needs is told in the guide's fields."""

    id: str
    do: str
    why: str
    caution: str
    tool: str
    expect: str
    part: str
    minutes: float
    figure: str
    through: Acts
    sets: Acts
    proves: Acts
    finds: Acts
    least_s: float
    needs: PlainCondition
    when: PlainCondition
    way_out: list[str]
    out_says: str
    asks: list[str]
    pictures: NotRequired[list[str]]
    licence: str
    ends: str
    joins: bool
    deviations: list[GuideDeviation]


class GuideProcedure(TypedDict):
    title: str
    version: int
    when: PlainCondition
    steps: list[GuideStep]


class GuideWayOut(TypedDict):
    """A way out of what holds a step."""

    way_out: list[str]
    out_says: str


class GuideRule(GuideWayOut):
    """A state that hurts; a step that could lead to it is held."""

    name: str
    forbids: PlainCondition
    says: str
    by: dict[str, GuideWayOut]
    """The way out for an act on one of these fields."""


class GuideEnding(TypedDict):
    """How a heater is left where the work ends early."""

    title: str
    leaves: str
    closing: list[str]
    licence: str
    customer: str


class GuideOutside(TypedDict):
    """Something that happens to a heater while it is worked on."""

    name: str
    says: str
    widens: Acts
    then: list[str]
    ends: str
    away: bool
    when: PlainCondition
    reading: str
    at_least: float


class GuideFound(TypedDict):
    name: str
    says: str
    then: list[str]
    when: PlainCondition


class GuideBand(TypedDict):
    name: str
    least: float
    most: float


class Guide(TypedDict):
    """What a visit is led by."""

    facts: dict[str, str]
    start: PlainState
    rates: dict[str, float]
    """How fast level and heat can change at most."""
    limits: dict[str, float]
    fields: Acts
    bands: dict[str, list[GuideBand]]
    leaves: dict[str, Acts]
    """How a heater is left, by kind of ending."""
    order: list[str]
    rules: list[GuideRule]
    endings: dict[str, GuideEnding]
    outside: list[GuideOutside]
    found: list[GuideFound]
    procedures: dict[str, GuideProcedure]


def document(library: Library, names: Iterable[str], facts: Words, start: State, rates: Rates) -> Guide:
    """The guide of one visit as plain values.

    Parameters: names, the visit's procedures in order; facts of heater and technician; start, the state it begins in;
    rates, how fast level and heat can change. Returns: the same words as the library's, with every procedure that may
    come up at this heater: something else can be found at any step.
    """
    return {
        "facts": {name: next(iter(words)) for name, words in facts.items()},
        "start": start.plain(),
        "rates": asdict(rates),
        "limits": LIMITS,
        "fields": {field: list(words) for field, words in FIELDS.items()},
        "bands": {
            field: [{"name": name, "least": least, "most": most} for name, least, most in bands]
            for field, bands in BANDS.items()
        },
        "leaves": {name: {field: list(words) for field, words in one.items()} for name, one in LEAVES.items()},
        "order": list(names),
        "rules": [_rule(rule) for rule in library.rules],
        "endings": {name: _ending(ending) for name, ending in library.endings.items()},
        "outside": [
            {
                "name": one.name,
                "says": one.says,
                "widens": {f: list(words) for f, words in one.widens.items()},
                "then": list(one.then),
                "ends": one.ends,
                "away": one.away,
                "when": _plain(one.when),
                "reading": one.reading,
                "at_least": one.at_least,
            }
            for one in library.outside.values()
        ],
        "found": [
            {"name": one.name, "says": one.says, "then": list(one.then), "when": _plain(one.when)}
            for one in library.found.values()
        ],
        "procedures": {name: _procedure(library, name, facts) for name in library.procedures},
    }


def _procedure(library: Library, name: str, facts: Words) -> GuideProcedure:
    procedure = library.procedures[name]
    steps = [_step(at.step) for at in steps_of(library, [name], facts)]
    return {"title": procedure.title, "version": procedure.version, "when": _plain(procedure.when), "steps": steps}


def _rule(rule: Rule) -> GuideRule:
    return {
        "name": rule.name,
        "forbids": _plain(rule.forbids),
        "says": rule.says,
        **_out(rule.out),
        "by": {field: _out(out) for field, out in rule.by.items()},
    }


def _out(out: Out) -> GuideWayOut:
    return {"way_out": list(out.procedures), "out_says": out.says}


def _ending(ending: Ending) -> GuideEnding:
    return {
        "title": ending.title,
        "leaves": ending.leaves,
        "closing": [*ending.first, *CLOSINGS[ending.leaves]],
        "licence": ending.licence,
        "customer": ending.customer,
    }


def _step(step: Step) -> GuideStep:
    return {
        "id": step.id,
        "do": step.do,
        "why": step.why,
        "caution": step.caution,
        "tool": step.tool,
        "expect": step.expect,
        "part": step.part,
        "minutes": step.minutes,
        "figure": step.figure,
        "least_s": step.least_s,
        "out_says": step.out_says,
        "licence": step.licence,
        "ends": step.ends,
        "joins": step.joins,
        "through": _acts(step.through),
        "sets": _acts(step.sets),
        "proves": _acts(step.proves),
        "finds": _acts(step.finds),
        "needs": _plain(step.needs),
        "when": _plain(step.when),
        "way_out": list(step.way_out),
        "asks": list(step.asks),
        "pictures": list(step.pictures),
        "deviations": [
            {
                "says": other.says,
                "then": list(other.then),
                "ends": other.ends,
                "instead": other.instead,
                "sets": _acts(other.sets),
                "when": _plain(other.when),
            }
            for other in step.deviations
        ],
    }


def _acts(acts: Iterable[tuple[str, Sequence[str]]]) -> Acts:
    return {field: list(to) for field, to in acts}


def _plain(condition: Condition) -> PlainCondition:
    return [{field: list(words) for field, words in one.items()} for one in condition]

"""A visit as one document: all that a device needs to lead through it and to hold what would hurt, without a signal."""

from collections.abc import Iterable
from dataclasses import asdict
from typing import Any

from aquifer.core.procedures import state, visit
from aquifer.core.procedures.condition import Condition, Words
from aquifer.core.procedures.interlock import Out, Rule, Step
from aquifer.core.procedures.library import LEAVES, Ending, Library
from aquifer.core.procedures.state import BANDS, FIELDS, Rates, State
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


def document(library: Library, names: Iterable[str], facts: Words, start: State, rates: Rates) -> dict[str, Any]:
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
        "endings": {name: _ending(one) for name, one in library.endings.items()},
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


def _procedure(library: Library, name: str, facts: Words) -> dict[str, Any]:
    one = library.procedures[name]
    steps = [_step(at.step) for at in steps_of(library, [name], facts)]
    return {"title": one.title, "version": one.version, "when": _plain(one.when), "steps": steps}


def _rule(rule: Rule) -> dict[str, Any]:
    return {
        "name": rule.name,
        "forbids": _plain(rule.forbids),
        "says": rule.says,
        **_out(rule.out),
        "by": {field: _out(out) for field, out in rule.by.items()},
    }


def _out(out: Out) -> dict[str, Any]:
    return {"way_out": list(out.procedures), "out_says": out.says}


def _ending(one: Ending) -> dict[str, Any]:
    return {
        "title": one.title,
        "leaves": one.leaves,
        "closing": [*one.first, *CLOSINGS[one.leaves]],
        "licence": one.licence,
        "customer": one.customer,
    }


def _step(step: Step) -> dict[str, Any]:
    words = (
        "id",
        "do",
        "why",
        "caution",
        "tool",
        "expect",
        "part",
        "minutes",
        "figure",
        "least_s",
        "out_says",
        "licence",
        "ends",
    )
    return {name: getattr(step, name) for name in (*words, "joins")} | {
        **{
            name: {field: list(to) for field, to in getattr(step, name)}
            for name in ("through", "sets", "proves", "finds")
        },
        "needs": _plain(step.needs),
        "when": _plain(step.when),
        "way_out": list(step.way_out),
        "asks": list(step.asks),
        "otherwise": [
            {
                "says": other.says,
                "then": list(other.then),
                "ends": other.ends,
                "instead": other.instead,
                "sets": {field: list(to) for field, to in other.sets},
                "when": _plain(other.when),
            }
            for other in step.otherwise
        ],
    }


def _plain(condition: Condition) -> list[dict[str, list[str]]]:
    return [{field: list(words) for field, words in one.items()} for one in condition]

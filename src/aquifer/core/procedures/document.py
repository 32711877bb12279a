"""A visit as one document: all that a device needs to lead through it and to hold what would hurt, without a signal."""

from collections.abc import Iterable
from typing import Any

from aquifer.core.procedures.condition import Condition, Words
from aquifer.core.procedures.interlock import Rule, Step
from aquifer.core.procedures.library import Library
from aquifer.core.procedures.sequence import restoring, steps_of
from aquifer.core.procedures.state import FIELDS, RESTORED, State


def document(library: Library, names: Iterable[str], facts: Words, start: State) -> dict[str, Any]:
    """The guide of one visit as plain values.

    Parameters: names, the visit's procedures in order; facts of heater and technician; start, the state it begins in.
    Returns: the same words as the library's, with the steps for this heater only; every procedure that another way can
    lead to is along.
    """
    order = list(names)
    return {
        "facts": dict(facts),
        "start": start,
        "fields": {field: list(words) for field, words in FIELDS.items()},
        "restored": {field: list(words) for field, words in RESTORED.items()},
        "order": order,
        "restoring": list(restoring(facts)),
        "rules": [_rule(rule) for rule in library.rules],
        "procedures": {name: _procedure(library, name, facts) for name in _reachable(library, order, facts)},
    }


def _reachable(library: Library, names: list[str], facts: Words) -> list[str]:
    left = [*names, *restoring(facts)]
    found: dict[str, None] = {}
    while left:
        name = left.pop(0)
        if name in found:
            continue
        found[name] = None
        for at in steps_of(library, [name], facts):
            left += [then for other in at.step.otherwise for then in other.then]
    return sorted(found)


def _procedure(library: Library, name: str, facts: Words) -> dict[str, Any]:
    one = library.procedures[name]
    steps = [_step(at.step) for at in steps_of(library, [name], facts)]
    return {"title": one.title, "version": one.version, "steps": steps}


def _rule(rule: Rule) -> dict[str, Any]:
    return {"name": rule.name, "forbids": _plain(rule.forbids), "says": rule.says, "way_out": rule.way_out}


def _step(step: Step) -> dict[str, Any]:
    words = ("id", "do", "why", "caution", "tool", "expect", "minutes", "figure", "way_out", "licence")
    return {name: getattr(step, name) for name in words} | {
        "through": dict(step.through),
        "sets": dict(step.sets),
        "needs": _plain(step.needs),
        "asks": list(step.asks),
        "otherwise": [{"says": other.says, "then": list(other.then), "ends": other.ends} for other in step.otherwise],
    }


def _plain(condition: Condition) -> list[dict[str, list[str]]]:
    return [{field: list(words) for field, words in one.items()} for one in condition]

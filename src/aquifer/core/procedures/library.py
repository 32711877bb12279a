"""Reads the procedures and rules from their files, and refuses what is not well written."""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from aquifer.core.procedures.condition import Condition
from aquifer.core.procedures.interlock import Otherwise, Rule, Step
from aquifer.core.procedures.state import FIELDS
from aquifer.core.vocabulary import HeaterKind, UpkeepItem

FACTS: dict[str, tuple[str, ...]] = {
    "kind": tuple(kind.value for kind in HeaterKind),
    "fuel": ("gas", "electric", "boiler"),
    "store": ("tank", "tankless"),
}
ASKS = frozenset(
    {
        *("noise", "corrosion", "rusty_hot_water", "valve_drips", "element_failed", "taps"),
        *("drain_flow", "removed", "clarity", "texture", "dissolved_g"),
        *("valve_outcome", "relief_valve_replacement"),
        *("rod_grade", "bare_wire_mm", "diameter_mm", "anode_replacement"),
        *("vessel_pin", "precharge_kpa", "expansion_tank_replacement"),
        *("static_kpa", "creep_kpa", "falls"),
        *("flow_before", "rise_before", "flow_after", "rise_after", "tap_c"),
        *("sensor_tip", "millivolts", "ohms"),
        *(f"upkeep:{one}" for one in UpkeepItem),
    }
)
"""What a step may ask for: findings, readings, and what was cleaned."""


@dataclass(frozen=True)
class Procedure:
    name: str
    title: str
    version: int
    when: Condition
    """For which heaters."""
    steps: tuple[Step, ...]


@dataclass(frozen=True)
class Library:
    procedures: Mapping[str, Procedure]
    rules: tuple[Rule, ...]


@cache
def library() -> Library:
    """Every procedure and every rule. Raises: ValueError naming file, step and what is allowed."""
    procedures: dict[str, Procedure] = {}
    rules: tuple[Rule, ...] = ()
    for file in sorted(files("aquifer.core.procedures").joinpath("data").iterdir(), key=lambda one: one.name):
        read = tomllib.loads(file.read_text())
        if file.name == "rules.toml":
            rules = tuple(_rule(one) for one in read["rule"])
            continue
        for name, one in read.items():
            if name in procedures:
                raise ValueError(f"{file.name}: procedure {name} is there twice")
            procedures[name] = _procedure(name, one, file.name)
    found = Library(procedures, rules)
    for procedure in procedures.values():
        for step in procedure.steps:
            for other in step.otherwise:
                if missing := set(other.then) - set(procedures):
                    raise ValueError(f"{procedure.name}.{step.id}: no procedure {', '.join(sorted(missing))}")
    return found


def _rule(one: dict[str, Any]) -> Rule:
    where = f"rules.toml, {one['name']}"
    return Rule(one["name"], _condition(one["forbids"], where), one["says"], one["way_out"])


def _procedure(name: str, one: dict[str, Any], file: str) -> Procedure:
    steps = tuple(_step(step, f"{file}, {name}") for step in one["step"])
    ids = [step.id for step in steps]
    if len(set(ids)) < len(ids):
        raise ValueError(f"{file}, {name}: a step's id is there twice")
    when = _condition(one.get("when", []), f"{file}, {name}")
    return Procedure(name, one["title"], one["version"], when, steps)


_KEYS = set(Step.__dataclass_fields__)


def _step(one: dict[str, Any], procedure: str) -> Step:
    where = f"{procedure}, step {one.get('id', '?')}"
    if unknown := set(one) - _KEYS:
        raise ValueError(f"{where}: {', '.join(sorted(unknown))} is not known; allowed: {', '.join(sorted(_KEYS))}")
    if unasked := set(one.get("asks", [])) - ASKS:
        raise ValueError(f"{where}: asks {', '.join(sorted(unasked))}; allowed: {', '.join(sorted(ASKS))}")
    for field, word in (*one.get("sets", {}).items(), *one.get("through", {}).items()):
        if word not in FIELDS.get(field, ()):
            raise ValueError(f"{where}: sets {field} = {word}; allowed: {FIELDS.get(field, tuple(FIELDS))}")
    return Step(
        **{
            **one,
            "through": tuple(one.get("through", {}).items()),
            "sets": tuple(one.get("sets", {}).items()),
            "needs": _condition(one.get("needs", []), where),
            "when": _condition(one.get("when", []), where),
            "asks": tuple(one.get("asks", [])),
            "otherwise": tuple(
                Otherwise(
                    **{
                        **other,
                        "then": tuple(other.get("then", [])),
                        "when": _condition(other.get("when", []), where),
                    }
                )
                for other in one.get("otherwise", [])
            ),
        }
    )


def _condition(told: dict[str, Any] | list[dict[str, Any]], where: str) -> Condition:
    alternatives = []
    for one in [told] if isinstance(told, dict) else told:
        alternative = {field: (words,) if isinstance(words, str) else tuple(words) for field, words in one.items()}
        for field, words in alternative.items():
            allowed = FIELDS.get(field) or FACTS.get(field)
            if allowed is None or not set(words) <= set(allowed):
                raise ValueError(f"{where}: {field} = {words}; allowed: {allowed or (*FIELDS, *FACTS)}")
        alternatives.append(alternative)
    return tuple(alternatives)

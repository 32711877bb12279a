"""Heaters to practise on, each with a truth that is hidden from whoever practises."""

import json
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, fields
from functools import cache
from importlib.resources import files

import numpy as np

from aquifer.core.bench.build import Build
from aquifer.core.kinds import KINDS, Fuel, HeaterKind
from aquifer.core.vocabulary import Component

NOTES = ("tap_c", "static_kpa", "removed", "valve_outcome", "rod_grade", "decision")
"""What a scenario may ask to be noted: the first hot water, degC; the house's pressure, kPa; what came out, a grade by
eye; how the relief valve did; what is left of the rod, a grade by eye; what was decided of the deposit, of
``DECISIONS``."""
DECISIONS = ("flushed", "left_alone")
"""Of a deposit: it came out, or it is better left where it is."""


@dataclass(frozen=True)
class Scenario:
    """One heater to practise on."""

    name: str
    title: str
    says: str
    """What the office knows."""
    kind: HeaterKind
    due: tuple[Component, ...]
    asks: tuple[str, ...]
    within_min: float
    drained: bool
    """It is to be run empty."""
    left_alone: bool
    """Its deposit is better left where it is."""
    build: Mapping[str, object]
    """Of ``build.Build``; between a pair of figures, or one of several, is drawn by the seed."""

    def built(self, seed: int) -> Build:
        """The heater of a seed: the same seed, the same heater."""
        random = np.random.default_rng([seed, *self.name.encode()])
        told = {
            name: _drawn(value, random) if isinstance(value, list) else value
            for name, value in sorted(self.build.items())
        }
        return Build(**{"fuel": KINDS[self.kind].fuel.value, **told})  # type: ignore[arg-type]


def _drawn(values: list[float] | list[str], random: np.random.Generator) -> float | str:
    one = values[int(random.integers(len(values)))]
    if isinstance(one, str):
        return one
    if len(values) == 2:
        return round(float(random.uniform(float(values[0]), float(values[1]))), 2)
    return float(one)


@cache
def scenarios() -> Mapping[str, Scenario]:
    """All that ship, in their order. Raises: ValueError naming the scenario and what is wrong in it."""
    text = files("aquifer.core.bench.data").joinpath("scenarios.toml").read_text(encoding="utf-8")
    return read(tomllib.loads(text))


def read(told: Mapping[str, Mapping[str, object]]) -> Mapping[str, Scenario]:
    """Scenarios from plain values. Raises: ValueError naming the scenario, the field and what is allowed."""
    return {name: _scenario(name, one) for name, one in told.items()}


def written(scenario: Scenario) -> str:
    """A scenario as it is written down, to be changed by whoever keeps it."""
    build = ", ".join(f"{name} = {toml(value)}" for name, value in scenario.build.items())
    return "\n".join(
        [
            f"[{scenario.name}]",
            f"title = {toml(scenario.title)}",
            f"says = {toml(scenario.says)}",
            f"kind = {toml(scenario.kind.value)}",
            f"due = {toml([one.value for one in scenario.due])}",
            f"asks = {toml(list(scenario.asks))}",
            f"within_min = {scenario.within_min:g}",
            f"drained = {toml(scenario.drained)}",
            f"left_alone = {toml(scenario.left_alone)}",
            f"build = {{ {build} }}",
            "",
        ]
    )


def toml(value: object) -> str:
    """A string, a figure or a list of them as TOML has it. Source: TOML, whose strings, figures and lists are those of
    JSON but for what lies beyond 16 bits, which JSON escapes by halves.

    Raises: TypeError for what JSON does not know, a date for one.
    """
    return json.dumps(value, ensure_ascii=False)


_KNOWN = {"title", "says", "kind", "due", "asks", "within_min", "drained", "left_alone", "build"}
_BUILD = {one.name for one in fields(Build)} - {"fuel"}


_USUAL = {one.name: one.default for one in fields(Build)}
_WORDS = {"outlet": ("floor drain", "open", "capped"), "tank_drain": ("left", "right")}
_SPANS = {
    "litres": (20.0, 2000.0), "height_m": (0.3, 3.0), "input_kw": (0.5, 100.0), "efficiency": (0.3, 1.0),
    "loss_kw_k": (0.0, 0.1), "supply_kpa": (100.0, 1000.0), "cold_c": (1.0, 35.0), "room_c": (-10.0, 45.0),
    "set_c": (40.0, 85.0), "expansion_l": (0.0, 500.0), "precharge_kpa": (50.0, 1000.0), "loose_l": (0.0, 100.0),
    "hard_l": (0.0, 100.0), "rod_left": (0.0, 1.0),
}  # fmt: skip
"""Of what a figure of a build may be, as its name has it. Assumption: beyond it the heater in software is no heater."""


def _unlike(field: str, value: object) -> str:
    """Why a value cannot be that of a field; empty if it can."""
    if words := _WORDS.get(field):
        told = value if isinstance(value, list) else [value]
        return "" if told and all(one in words for one in told) else f"allowed: {', '.join(words)}"
    if isinstance(_USUAL[field], bool):
        return "" if isinstance(value, bool) else "allowed: true, false"
    low, high = _SPANS[field]
    figures = value if isinstance(value, list) else [value]
    sound = figures and all(
        isinstance(one, int | float) and not isinstance(one, bool) and low <= one <= high for one in figures
    )
    return "" if sound else f"= {value}; allowed: {low:g} to {high:g}, or some of them in brackets"


def _scenario(name: str, told: Mapping[str, object]) -> Scenario:
    def fail(field: str, what: str) -> ValueError:
        return ValueError(f"scenario {name}: {field} {what}")

    for field in sorted({*told} - _KNOWN):
        raise fail(field, f"is not known; allowed: {', '.join(sorted(_KNOWN))}")
    for field in ("title", "says", "kind"):
        if not isinstance(told.get(field), str):
            raise fail(field, "is missing")
    tanks = [
        heater_kind.value
        for heater_kind in HeaterKind
        if heater_kind.is_tank and KINDS[heater_kind].fuel in (Fuel.GAS, Fuel.ELECTRIC, Fuel.BOILER)
    ]
    if told["kind"] not in tanks:
        raise fail("kind", f"= {told['kind']}; allowed: {', '.join(tanks)}")
    due, asks, build = told.get("due", []), told.get("asks", []), told.get("build", {})
    if not isinstance(due, list) or not set(due) <= {component.value for component in Component}:
        raise fail("due", f"allowed: {', '.join(Component)}")
    if not isinstance(asks, list) or not set(asks) <= set(NOTES):
        raise fail("asks", f"allowed: {', '.join(NOTES)}")
    if not isinstance(build, dict) or not set(build) <= _BUILD:
        raise fail("build", f"allowed: {', '.join(sorted(_BUILD))}")
    for field, value in build.items():
        if what := _unlike(field, value):
            raise fail(f"build.{field}", what)
    within = told.get("within_min", 100)
    if not isinstance(within, int | float) or not 10 <= within <= 480:
        raise fail("within_min", "allowed: 10 to 480")
    return Scenario(
        name,
        str(told["title"]),
        str(told["says"]),
        HeaterKind(str(told["kind"])),
        tuple(Component(one) for one in due),
        tuple(asks),
        float(within),
        bool(told.get("drained", False)),
        bool(told.get("left_alone", False)),
        build,
    )

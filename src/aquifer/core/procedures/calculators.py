"""What is computed at a visit: times, amounts and readings to expect, each with its formula, units and source.

The formulas are data (``calculators.toml``), so that a device without a signal computes them too.
"""

import tomllib
from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass
from functools import cache
from importlib.resources import files

from aquifer.core.kinds import KINDS, Fuel, HeaterKind, Kind
from aquifer.core.procedures import formula
from aquifer.core.procedures.condition import Told
from aquifer.core.units import System

USUAL_SUPPLY_V = {System.METRIC: 230.0, System.US: 240.0}
"""Of a heater whose supply nobody has read. Source: IEC 60038; ANSI C84.1, two legs of 120 V."""
BURNER_SHARE = 0.8
"""Of a burner's heat that reaches the water; an element's is nearly all. Trade practice."""
USUAL_BORE_MM, USUAL_JACKET_MM = 9.5, 40.0
"""Of a drain with a 3/4 in thread (trade practice); of jacket and insulation (assumption)."""
PROBE_IN_WATER_MM = 25.0
"""Of a relief valve's probe, as in the calculator of its length. Assumption."""
USUAL_READINGS = {
    "arrival.tap_c": (30.0, 75.0),
    "verify.tap_c": (30.0, 75.0),
    "pressure.static_kpa": (150.0, 800.0),
    "pressure.creep_kpa": (-50.0, 400.0),
    "expansion_tank.precharge_kpa": (70.0, 700.0),
    "flush.depth_before_mm": (0.0, 300.0),
    "flush.depth_after_mm": (0.0, 300.0),
    "rod.diameter_mm": (2.0, 35.0),
    "rod.bare_wire_mm": (0.0, 1500.0),
    "descale.dissolved_g": (0.0, 3000.0),
    "descale.flow_before_l_min": (1.5, 40.0),
    "descale.flow_after_l_min": (1.5, 40.0),
    "descale.rise_before_k": (5.0, 65.0),
    "descale.rise_after_k": (5.0, 65.0),
    "gas.millivolts": (0.0, 800.0),
    "look.ohms": (3.0, 60.0),
    "look.co_ppm": (0.0, 9.0),
    "gas.held_s": (5.0, 120.0),
    "gas.input_kw": (3.0, 120.0),
    "power.amps": (4.0, 40.0),
    "drain.drained_l": (1.0, 500.0),
    "gas.gas_kpa": (0.5, 4.0),
    "power.volts": (90.0, 260.0),
    "valve.new_set_pressure_kpa": (500.0, 1050.0),
    "valve.new_rating_kw": (8.0, 200.0),
    "valve.new_probe_length_mm": (40.0, 300.0),
    "rod.new_count": (1.0, 3.0),
    "rod.new_length_mm": (150.0, 1500.0),
    "rod.new_diameter_mm": (12.0, 35.0),
    "expansion_tank.new_volume_l": (4.0, 80.0),
    "expansion_tank.new_precharge_kpa": (70.0, 700.0),
}
"""Readings outside these are asked for once more before they are taken. Assumption."""


@dataclass(frozen=True)
class Input:
    name: str
    label: str
    unit: str
    """A quantity of ``units``, or a unit as it is written; 1 for a plain number."""
    low: float
    high: float
    value: float | None = None
    """What is filled in where nothing is known of the heater."""
    heater: str = ""
    """Which figure of the heater it is, if its name is another."""
    field: str = ""
    """The reading that it is."""


@dataclass(frozen=True)
class Calculator:
    name: str
    title: str
    unit: str
    tree: formula.Tree
    reads: str
    """The formula as people read it."""
    source: str
    inputs: tuple[Input, ...]
    writes: str = ""
    """The reading that its result is."""
    of: str = ""
    """What a heater must have for it to be of use, by the names of ``_HAS``; empty where every heater has it."""
    at: str = "visit"
    """Where somebody reckons with it: at a visit too, or at the ``bench`` alone."""

    def fits(self, kind: HeaterKind) -> bool:
        """Whether it is of use at such a heater."""
        return not self.of or _HAS[self.of](KINDS[kind])

    def compute(self, **inputs: float) -> float:
        """The result. Raises: ValueError for an input out of its range, TypeError for a missing or unknown one."""
        known = {one.name for one in self.inputs}
        if known != set(inputs):
            raise TypeError(f"{self.name} needs {', '.join(sorted(known))}; given: {', '.join(sorted(inputs))}")
        for one in self.inputs:
            if not one.low <= inputs[one.name] <= one.high:
                raise ValueError(f"{one.name} is {inputs[one.name]:g}; allowed: {one.low:g} to {one.high:g}")
        return formula.computed(self.tree, inputs)


_HAS: dict[str, Callable[[Kind], bool]] = {
    "tank": lambda kind: kind.is_tank,
    "gas": lambda kind: kind.fuel is Fuel.GAS,
    "elements": lambda kind: kind.fuel is Fuel.ELECTRIC,
    "exchanger": lambda kind: kind.has_exchanger,
}


@cache
def calculators() -> Mapping[str, Calculator]:
    """All of them by name. Raises: ValueError where one is not well written."""
    read = tomllib.loads(files("aquifer.core.procedures").joinpath("calculators.toml").read_text())
    return {name: _calculator(name, one) for name, one in read.items()}


def _calculator(name: str, one: Told) -> Calculator:
    tree = formula.parsed(one["formula"])
    inputs = tuple(Input(**given) for given in one["inputs"])
    if formula.names(tree) != {given.name for given in inputs}:
        raise ValueError(f"{name}: its formula needs {sorted(formula.names(tree))}")
    return Calculator(
        name,
        one["title"],
        one["unit"],
        tree,
        one["reads"],
        one["source"],
        inputs,
        one.get("writes", ""),
        one.get("of", ""),
        one.get("at", "visit"),
    )


@dataclass(frozen=True)
class Heater:
    """What is filled in of a heater; SI but for kPa, L, mm, kW."""

    capacity_l: float
    height_m: float
    input_kw: float
    setpoint_c: float
    cold_c: float
    static_kpa: float
    efficiency: float
    """Share of its input that reaches the water."""
    scale_g: float
    element_w: float
    supply_v: float
    rod_mm: float
    rod_length_mm: float
    bore_mm: float = USUAL_BORE_MM
    jacket_mm: float = USUAL_JACKET_MM
    drain_open_share: float = 1.0
    """What deposit leaves of the drain's bore."""

    @property
    def full_flow_l_min(self) -> float:
        """What a sound heater gives at a rise of 35 K, L/min. Source: m c dT."""
        return self.input_kw * self.efficiency * 1000 * 60 / (4186 * 35)


@dataclass(frozen=True)
class Filled:
    """A calculator with what is known of a heater."""

    calculator: Calculator
    values: tuple[float, ...]
    """Of its inputs, in their order, within what is allowed."""
    result: float


USUAL = Heater(189.0, 1.2, 11.0, 60.0, 12.0, 400.0, BURNER_SHARE, 300.0, 4500.0, 240.0, 21.0, 1000.0)
"""A gas tank of a household of which nothing is known but that it is usual. Trade practice."""


def filled(heater: Heater, at: str = "visit") -> list[Filled]:
    """The calculators, filled in for a heater. Parameters: at, ``visit`` for those of a visit, ``bench`` for all."""
    known = {**asdict(heater), "full_flow_l_min": heater.full_flow_l_min}
    filleds = []
    for calculator in calculators().values():
        if at == "visit" and calculator.at != "visit":
            continue
        values = {
            given.name: min(max(known.get(given.heater or given.name, given.value or 0.0), given.low), given.high)
            for given in calculator.inputs
        }
        filleds.append(Filled(calculator, tuple(values.values()), calculator.compute(**values)))
    return filleds


def burn_seconds(water_c: float) -> float:
    """Seconds until a deep burn of an adult, infinite below 44 degC. Source: the calculator of that name."""
    return float("inf") if water_c < 44 else calculators()["burn_seconds"].compute(water_c=min(water_c, 95.0))

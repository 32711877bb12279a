"""How many of a part to carry: from how likely each visit needs one, to a service level."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from aquifer.core.arrays import FloatArray
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.parameters import ANODE
from aquifer.core.units import Quantity, figure
from aquifer.core.vocabulary import Alloy, Component

SERVICE_LEVEL = 0.95
"""How likely a day should go without a part that is missing. Assumption; a setting."""
DRAIN_VALVE = 0.08
"""Of a flush: the drain valve drips or blocks and is changed. Assumption."""
ELEMENT = 0.06
"""Of a visit to an electric tank: the lower element is found burnt. Assumption."""
THERMOCOUPLE = 0.04
"""Of a visit to a gas tank that is shut down and lit: it does not hold the pilot. Assumption."""
SPARES: dict[str, tuple[str, float]] = {
    "gas_control": ("gas control", 0.01),
    "igniter": ("igniter or electrode set", 0.015),
    "fuse_link": ("fuse link", 0.015),
    "limit_switch": ("limit switch", 0.01),
    "lower_thermostat": ("thermostat, lower", 0.015),
    "flow_switch": ("flow switch", 0.015),
    "mixing_valve": ("mixing valve", 0.015),
    "pressure_switch": ("pressure switch", 0.01),
    "spark_unit": ("spark unit with shroud", 0.01),
    "burner": ("burner", 0.005),
    "tempering_valve": ("tempering valve", 0.01),
}
"""What a visit finds broken now and then, by the kind of part that the heater has. Assumption: about once in a hundred;
the month's list adds them up."""
ACID_L_PER_DESCALE = 4.0
"""Litres of descaler for one exchanger. Trade practice."""


@dataclass(frozen=True)
class Fitted:
    """What is in place at a heater, as far as it matters for a spare one."""

    alloy: str = ""
    rods: int = 1
    protection_ratio: float | None = None
    """Of the wanted current that flows from the rod in place, 0 to 1; ``None`` where it is not known."""
    rod_length_mm: float | None = None
    valve_kpa: float | None = None
    probe_mm: float | None = None
    expansion_tank_l: float | None = None


@dataclass(frozen=True)
class Want:
    """A part that a visit may need."""

    part: str
    probability: float
    quantity: float = 1.0


def wants(kind: HeaterKind, component: Component, over: float, fitted: Fitted) -> list[Want]:
    """The parts that one service may need.

    Parameters: over, the probability that the component is past its limit at the visit; for a relief valve, that it
    has stuck. A part is told apart by what decides whether it fits: alloy and length, rating and probe, volume.
    """
    if component is Component.ANODE:
        length = f", {figure(Quantity.LENGTH, round(fitted.rod_length_mm))}" if fitted.rod_length_mm else ""
        alloy = alloy_to_fit(fitted.alloy, fitted.protection_ratio)
        return [
            Want(f"anode {alloy.replace('_', ' ')}{length if alloy != Alloy.POWERED else ''}", over, fitted.rods),
            Want("thread tape", 1.0),
        ]
    if component is Component.RELIEF_VALVE:
        probe = f", probe {figure(Quantity.LENGTH, round(fitted.probe_mm))}" if fitted.probe_mm else ""
        return [Want(f"relief valve {figure(Quantity.PRESSURE, round(fitted.valve_kpa or 1034))}{probe}", over)]
    if component is Component.EXPANSION_TANK:
        return [Want(f"expansion tank {figure(Quantity.SMALL_VOLUME, round(fitted.expansion_tank_l or 8))}", over)]
    if component is Component.SCALE:
        return [
            Want(f"descaler, jug of {figure(Quantity.VOLUME, ACID_L_PER_DESCALE)}", 1.0),
            Want("hose washer", 1.0, 2),
            *_spares(kind),
        ]
    found = [Want("drain valve 3/4 in", DRAIN_VALVE), Want("hose washer", 1.0)]
    if KINDS[kind].has_elements:
        found.append(Want("element, lower", ELEMENT))
    if "thermocouple" in KINDS[kind].parts and not KINDS[kind].has_plug:
        found.append(Want("thermocouple", THERMOCOUPLE))
    return [*found, *_spares(kind)]


def _spares(kind: HeaterKind) -> list[Want]:
    return [Want(*SPARES[part]) for part in KINDS[kind].parts if part in SPARES]


def alloy_to_fit(alloy: str, protection_ratio: float | None) -> str:
    """Which rod is brought: the one that the verdict on the alloy asks for, else one as is in place.

    Parameters: alloy in place, empty where nobody knows; protection_ratio, 0 to 1. Source: ``rules.ROD_ALLOY``.
    """
    known = alloy or Alloy.MAGNESIUM.value
    if protection_ratio is None or protection_ratio >= ANODE.weak_protection:
        return known
    return Alloy.POWERED.value if known == Alloy.MAGNESIUM else Alloy.MAGNESIUM.value


def reached_by(days: float, quantile_days: Sequence[float | None], probabilities: FloatArray, today: float) -> float:
    """The probability that a limit is reached within some days, linear between its quantiles; at least today's."""
    at = np.array([0.0] + [1e6 if d is None else float(d) for d in quantile_days])
    p = np.maximum(np.concatenate([[today], probabilities]), today)
    return float(np.interp(days, np.maximum.accumulate(at), p))


@dataclass(frozen=True)
class Load:
    """How many of a part to have along."""

    part: str
    expected: float
    quantity: float


def loads(wanted: Iterable[Want], level: float = SERVICE_LEVEL) -> list[Load]:
    """How many of each part to carry so that they suffice with this probability, by part.

    Source: the number needed is a sum of independent draws; its distribution is their convolution, and the quantity is
    its quantile. What every visit uses is simply added up. Raises: ValueError for a level outside 0 to 1.
    """
    if not 0 < level < 1:
        raise ValueError(f"service level {level}; allowed: between 0 and 1")
    of: dict[str, list[Want]] = {}
    for one in wanted:
        of.setdefault(one.part, []).append(one)
    return [_load(part, own, level) for part, own in sorted(of.items())]


def _load(part: str, own: list[Want], level: float) -> Load:
    sure = sum(one.quantity for one in own if one.probability >= 1)
    chance = np.array([1.0])
    for one in own:
        if one.probability < 1:
            # All of them or none: two rods of one tank go together.
            either = np.zeros(round(one.quantity) + 1)
            either[0], either[-1] = 1 - one.probability, one.probability
            chance = np.convolve(chance, either)
    most = int(np.searchsorted(np.cumsum(chance), level - 1e-12))
    return Load(part, sum(one.probability * one.quantity for one in own), sure + most)

"""Heaters as columns: what the forecast takes in, whether of one heater or of a hundred thousand."""

from dataclasses import dataclass, fields, replace
from typing import Any, Self

import numpy as np

from aquifer.core import usage
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.parameters import GEOMETRY, LEARNING, SEDIMENT
from aquifer.core.vocabulary import FIRED_FROM_BELOW, Alloy, HeaterKind


@dataclass(frozen=True)
class Heaters:
    """What a heater is and what goes through it; arrays of shape (n,). Codes are positions in ``vocabulary``."""

    zone: IntArray
    """Supply shared with other heaters, 0 to ``zones`` - 1."""
    zones: int
    zone_spread: FloatArray
    """Of the zone's log rate; see ``water.WaterProfile.zone_spread``."""
    heater_spread: FloatArray
    """Of the heater's own log rate; see ``heater_spread``."""
    kind: IntArray
    age_years: FloatArray
    volume_m3: FloatArray
    """Water heated a year."""
    hardness_mg_l: FloatArray
    """Of the water in the heater: a softener's residual where there is one."""
    potential_mg_l: FloatArray
    """Precipitation potential at the setpoint."""
    potential_60_mg_l: FloatArray
    """The same at the reference setpoint."""
    film_potential_mg_l: FloatArray
    """The same at the wall of an exchanger."""
    film_potential_60_mg_l: FloatArray
    conductivity_us_cm: FloatArray
    suspended_mg_l: FloatArray
    setpoint_c: FloatArray
    floor_m2: FloatArray
    wetted_m2: FloatArray
    radius_m: FloatArray
    exchanger_m2: FloatArray
    sediment_limit_m: FloatArray
    alloy: IntArray
    rod_diameter_m: FloatArray
    rod_length_m: FloatArray
    """Of all rods together."""
    rod_fitted_years: FloatArray
    """Age of the tank when the present rod was fitted."""
    valve_fitted_years: FloatArray
    practice: IntArray
    tolerance: FloatArray
    longest_flush_years: FloatArray
    flush_method: IntArray
    valve_target: FloatArray

    def __len__(self) -> int:
        return int(self.kind.size)

    def at(self, rows: IntArray) -> Self:
        """The heaters of these rows."""
        chosen = {f.name: getattr(self, f.name)[rows] for f in fields(self) if f.name != "zones"}
        return replace(self, **chosen)

    @property
    def is_tank(self) -> BoolArray:
        return np.asarray(np.array([kind.is_tank for kind in HeaterKind])[self.kind])

    @property
    def is_sacrificial(self) -> BoolArray:
        return np.asarray(self.is_tank & np.array([alloy.is_sacrificial for alloy in Alloy])[self.alloy])


@dataclass(frozen=True)
class Events:
    """Things that happened to heaters, sorted by heater and then by time. Arrays of shape (m,); a code of -1 and a NaN
    say that nobody looked."""

    row: IntArray
    years: FloatArray
    """Since the heater was installed."""

    def of(self, rows: IntArray, heaters: int) -> Self:
        """The events of these heaters (rows increasing), numbered by their place in ``rows``."""
        place = np.full(heaters, -1, dtype=np.int64)
        place[rows] = np.arange(rows.size)
        kept = np.flatnonzero(place[self.row] >= 0)
        chosen: dict[str, Any] = {f.name: getattr(self, f.name)[kept] for f in fields(self)}
        chosen["row"] = place[chosen["row"]]
        return replace(self, **chosen)

    def last_years(self, heaters: int) -> FloatArray:
        """Time of each heater's last event, NaN if there was none; shape (heaters,)."""
        last = np.full(heaters, np.nan)
        last[self.row] = self.years
        return last


@dataclass(frozen=True)
class FlushEvents(Events):
    method: IntArray
    removed: IntArray
    """Position in ``Removed``."""
    depth_m: FloatArray
    """Measured before the flush."""
    volume_l: FloatArray
    """Deposit collected."""


@dataclass(frozen=True)
class DescaleEvents(Events):
    removed: IntArray
    dissolved_kg: FloatArray


@dataclass(frozen=True)
class RodEvents(Events):
    """Looks at a rod, each with the rod that was in the tank then."""

    alloy: IntArray
    rod_diameter_m: FloatArray
    rod_length_m: FloatArray
    rod_fitted_years: FloatArray
    diameter_m: FloatArray
    bare_m: FloatArray
    grade: IntArray


@dataclass(frozen=True)
class ValveEvents(Events):
    outcome: IntArray
    """Position in ``ValveOutcome``; -1 for a replacement."""
    replaced: BoolArray


@dataclass(frozen=True)
class Fleet:
    heaters: Heaters
    flushes: FlushEvents
    descales: DescaleEvents
    rod_looks: RodEvents
    valve_trials: ValveEvents


def floor_m2(capacity_l: FloatArray) -> FloatArray:
    """Floor of a tank of ``capacity_l``, m2, by similarity with the reference tank; geometry."""
    return np.asarray(GEOMETRY.floor_m2 * (capacity_l / GEOMETRY.capacity_l) ** (2 / 3))


def wetted_m2(capacity_l: FloatArray) -> FloatArray:
    """Wetted lining of a tank, m2, by similarity; geometry."""
    return np.asarray(GEOMETRY.wetted_m2 * (capacity_l / GEOMETRY.capacity_l) ** (2 / 3))


def radius_m(capacity_l: FloatArray) -> FloatArray:
    """Radius of a tank, m, by similarity; geometry."""
    return np.asarray(GEOMETRY.radius_m * (capacity_l / GEOMETRY.capacity_l) ** (1 / 3))


def rod_length_m(capacity_l: FloatArray) -> FloatArray:
    """Length of the rod such a tank takes, m, by similarity; geometry."""
    return np.asarray(GEOMETRY.rod_length_m * (capacity_l / GEOMETRY.capacity_l) ** (1 / 3))


def sediment_limit_m(kind: IntArray, drain_port_m: FloatArray, lower_element_m: FloatArray) -> FloatArray:
    """Depth of deposit to stay below, m, (n,).

    Parameters: kind, codes; heights of the drain port and the lower element above the floor, m, NaN where unknown.
    Returns: the planning limit of the kind, or the lowest part it would bury. Source: ``parameters.SEDIMENT``.
    """
    fired = np.array([k in FIRED_FROM_BELOW for k in HeaterKind])[kind]
    planned = np.where(fired, SEDIMENT.limit_fired_m, SEDIMENT.limit_other_m)
    return np.asarray(np.fmin(np.fmin(planned, drain_port_m), lower_element_m))


def heater_spread(metered_l: FloatArray, people: FloatArray, age_is_known: BoolArray) -> FloatArray:
    """Standard deviation of each heater's own log rate: the spread between heaters, widened by what was estimated."""
    by_age = np.where(age_is_known, 0.0, LEARNING.unknown_age_spread**2)
    return np.asarray(np.sqrt(LEARNING.heater_spread**2 + usage.use_variance(metered_l, people) + by_age))


def capacity_or_default(kind: HeaterKind, capacity_l: float | None) -> float:
    """A heater's capacity, L, or what its kind usually holds. Source: ``parameters.GEOMETRY``, assumption."""
    if capacity_l is not None:
        return capacity_l
    if not kind.is_tank:
        return GEOMETRY.tankless_capacity_l
    return GEOMETRY.default_capacity_l.get(kind, GEOMETRY.capacity_l)

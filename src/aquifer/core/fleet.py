"""Heaters as columns: what the forecast takes in, whether of one heater or of a hundred thousand."""

from collections.abc import Iterator
from dataclasses import dataclass, field, fields, replace
from typing import Self

import numpy as np

from aquifer.core.arrays import BoolArray, Column, FloatArray, IntArray
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.parameters import GEOMETRY, HALF_WIDTH_80, LEARNING, SCALE, SEDIMENT
from aquifer.core.vocabulary import Alloy

_IS_TANK = np.array([kind.is_tank for kind in HeaterKind])
_IS_FIRED_FROM_BELOW = np.array([KINDS[kind].fired_from_below for kind in HeaterKind])
_HAS_EXCHANGER = np.array([KINDS[kind].has_exchanger for kind in HeaterKind])
_HAS_ELEMENTS = np.array([KINDS[kind].has_elements for kind in HeaterKind])
_HAS_COIL = np.array([KINDS[kind].has_coil for kind in HeaterKind])
_IS_SACRIFICIAL = np.array([alloy.is_sacrificial for alloy in Alloy])


@dataclass(frozen=True)
class Heaters:
    """What a heater is and what goes through it; arrays of shape (n,). Codes are positions in ``vocabulary``."""

    zone: IntArray
    """Supply shared with other heaters, 0 to ``zones`` - 1."""
    zones: int
    water_spread: FloatArray
    """Standard deviation that an untested water adds to the log rate of what it deposits."""
    heater_spread: FloatArray
    """Of the heater's own log rate; see ``heater_spread``."""
    past_spread: FloatArray
    """Standard deviation of the log of what lay in it before its first recorded service; 0 where all is on record."""
    cohort: IntArray
    """Heaters of one build share a code; -1 is none."""
    kind: IntArray
    age_years: FloatArray
    household_years: FloatArray
    """Age of the heater when its present household moved in, 0 if it always lived there."""
    volume_m3: FloatArray
    """Water heated a year."""
    recirculated: BoolArray
    hardness_mg_l: FloatArray
    """Of the water in the heater: a softener's residual where there is one."""
    potential_mg_l: FloatArray
    """Precipitation potential at the setpoint."""
    potential_60_mg_l: FloatArray
    """The same at the reference setpoint."""
    film_potential_mg_l: FloatArray
    """The same at the wall of an exchanger or coil; 0 where there is none."""
    film_potential_60_mg_l: FloatArray
    ph: FloatArray
    conductivity_us_cm: FloatArray
    suspended_mg_l: FloatArray
    source_c: FloatArray
    free_chlorine_mg_l: FloatArray
    chloramine: BoolArray
    setpoint_c: FloatArray
    capacity_l: FloatArray
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
    relief_kpa: FloatArray
    """Setting of the relief valve, gauge."""
    pressure_kpa: FloatArray
    """Static pressure of the site, gauge."""
    expansion_tank_l: FloatArray
    """Size of the expansion tank, NaN where there is none."""
    expansion_tank_fitted_years: FloatArray
    expansion_tank_precharge_kpa: FloatArray
    """Air in it when it was fitted, gauge."""
    practice: IntArray
    tolerance: FloatArray
    longest_flush_years: FloatArray
    leave_years: FloatArray
    """Age from which a tank that was never flushed is left alone; infinite where none is."""
    flush_method: IntArray
    valve_target: FloatArray
    replace_at: FloatArray
    """Probability of leaking within 12 months from which a new tank is advised."""

    def __len__(self) -> int:
        return int(self.kind.size)

    def at(self, rows: IntArray) -> Self:
        """The heaters of these rows."""
        if rows.size == len(self):
            return self
        chosen = {f.name: getattr(self, f.name)[rows] for f in fields(self) if f.name != "zones"}
        return replace(self, **chosen)

    @property
    def is_tank(self) -> BoolArray:
        return np.asarray(_IS_TANK[self.kind])

    @property
    def has_exchanger(self) -> BoolArray:
        """Tankless heaters, and the coils of indirect tanks."""
        return has_exchanger(self.kind)

    @property
    def is_coil(self) -> BoolArray:
        return np.asarray(_HAS_COIL[self.kind])

    @property
    def has_elements(self) -> BoolArray:
        return np.asarray(_HAS_ELEMENTS[self.kind])

    @property
    def is_fired_from_below(self) -> BoolArray:
        return np.asarray(_IS_FIRED_FROM_BELOW[self.kind])

    @property
    def is_sacrificial(self) -> BoolArray:
        return np.asarray(self.is_tank & _IS_SACRIFICIAL[self.alloy])


@dataclass(frozen=True)
class Events:
    """Things that happened to heaters, sorted by heater and then by time. Arrays of shape (m,); a code of -1 and a NaN
    say that nobody looked."""

    row: IntArray
    years: FloatArray
    """Since the heater was installed."""

    def of(self, rows: IntArray, heaters: int) -> Self:
        """The events of these heaters (rows increasing), numbered by their place in ``rows``."""
        if rows.size == heaters:
            return self
        place = np.full(heaters, -1, dtype=np.int64)
        place[rows] = np.arange(rows.size)
        kept = np.flatnonzero(place[self.row] >= 0)
        chosen: dict[str, Column] = {f.name: getattr(self, f.name)[kept] for f in fields(self)}
        chosen["row"] = place[chosen["row"]]
        return replace(self, **chosen)

    def last_years(self, heaters: int) -> FloatArray:
        """Time of each heater's last event, NaN if there was none; shape (heaters,)."""
        last = np.full(heaters, np.nan)
        last[self.row] = self.years
        return last


@dataclass(frozen=True)
class Graded(Events):
    by: IntArray
    """Who graded, -1 if nobody says."""


@dataclass(frozen=True)
class FlushEvents(Graded):
    method: IntArray
    removed: IntArray
    """Position in ``Removed``."""
    depth_m: FloatArray
    """Measured before the flush."""
    volume_l: FloatArray
    """Deposit collected."""
    depth_after_m: FloatArray
    """Measured after the flush."""


@dataclass(frozen=True)
class DescaleEvents(Graded):
    removed: IntArray
    dissolved_kg: FloatArray
    capacity_lost: FloatArray
    """Share of the heat output at full draw that came back, from flow and rise before and after."""


@dataclass(frozen=True)
class RodEvents(Graded):
    """Looks at a rod, each with the rod as it was when it was new."""

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
class ExpansionTankEvents(Events):
    """Checks of an expansion tank; each leaves it charged to the site's static pressure."""

    pin: IntArray
    """Position in ``VesselPin``."""
    precharge_kpa: FloatArray
    """As found, gauge."""
    replaced: BoolArray


@dataclass(frozen=True)
class LookEvents(Events):
    """What was heard and seen on arrival."""

    noise: IntArray
    """Position in ``Noise``."""
    corrosion: IntArray
    """Position in ``Corrosion``."""
    rusty: IntArray
    """1 where the hot water alone ran rusty, 0 where it was clear."""


EVENTS = ("flushes", "descales", "rod_looks", "valve_trials", "expansion_tank_checks", "looks")
"""What happened to the heaters of a fleet, by kind."""


@dataclass(frozen=True)
class Fleet:
    heaters: Heaters
    flushes: FlushEvents
    descales: DescaleEvents
    rod_looks: RodEvents
    valve_trials: ValveEvents
    expansion_tank_checks: ExpansionTankEvents
    looks: LookEvents
    graders: int = 0
    """Number of people who graded: codes ``by`` run below it."""
    cohorts: int = 0
    zone_ids: IntArray = field(default_factory=lambda: np.zeros(0, dtype=np.int64))
    """By what each zone is known from one fleet to the next, (zones,); empty where they are only numbered."""

    def at(self, rows: IntArray) -> "Fleet":
        """The fleet of these heaters (rows increasing), their events with them; zones keep their numbers."""
        n = len(self.heaters)
        events = {name: getattr(self, name).of(rows, n) for name in EVENTS}
        return replace(self, heaters=self.heaters.at(rows), **events)

    def partitions(self, least: int = 9000) -> Iterator[IntArray]:
        """Rows of whole zones, at least ``least`` heaters each but for the last.

        A heater's forecast depends on no heater of another zone, so partitions may be computed anywhere; cut like this
        they are the same however many workers share them, and small enough to stay in a processor's cache.
        """
        order = np.argsort(self.heaters.zone, kind="stable")
        sizes = np.bincount(self.heaters.zone, minlength=self.heaters.zones)
        start = end = 0
        for size in sizes.tolist():
            end += size
            if end - start >= least:
                yield np.sort(order[start:end])
                start = end
        if end > start:
            yield np.sort(order[start:end])


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


def has_exchanger(kind: IntArray) -> BoolArray:
    """Whether heaters of these kinds scale on a wall: tankless ones, and indirect tanks on their coil."""
    return np.asarray(_HAS_EXCHANGER[kind])


def film_rise_k(kind: IntArray) -> FloatArray:
    """How much hotter than the water the wall of an exchanger is, K, (n,). Source: ``parameters.SCALE``, assumption."""
    return np.where(_HAS_COIL[kind], SCALE.coil_film_rise_k, SCALE.film_rise_k)


def sediment_limit_m(kind: IntArray, drain_port_m: FloatArray, lower_element_m: FloatArray) -> FloatArray:
    """Depth of deposit to stay below, m, (n,).

    Parameters: kind, codes; heights of the drain port and the lower element above the floor, m, NaN where unknown.
    Returns: the planning limit of the kind, or the lowest part it would bury. Source: ``parameters.SEDIMENT``.
    """
    planned = np.where(_IS_FIRED_FROM_BELOW[kind], SEDIMENT.limit_fired_m, SEDIMENT.limit_other_m)
    return np.asarray(np.fmin(np.fmin(planned, drain_port_m), lower_element_m))


def heater_spread(use_log_sd: FloatArray, past_log_sd: FloatArray) -> FloatArray:
    """Standard deviation of each heater's own log rate: the spread between heaters, widened by what was estimated.

    Parameters, (n,): standard deviation of the log of its use; of what its unknown past left, 0 if it is on record.
    Rounded to 0.05, so that few different spreads occur.
    """
    spread = np.sqrt(LEARNING.heater_spread**2 + use_log_sd**2 + past_log_sd**2)
    certain = (use_log_sd == 0) & (past_log_sd == 0)
    return np.where(certain, LEARNING.heater_spread, np.round(spread / 0.05) * 0.05)


def age_log_sd(age_years: FloatArray, certain: BoolArray, margin_years: FloatArray) -> FloatArray:
    """Standard deviation of the log of an age, (n,).

    Parameters, (n,): age; whether its date is known; by how many years, either way, an estimate may be off: NaN if
    nobody says. Source: the margin taken as an 80 % range of a normal error, and never wider than of an unknown age.
    """
    sd = margin_years / (HALF_WIDTH_80 * np.maximum(age_years, 1.0))
    sd = np.where(np.isnan(sd), LEARNING.unknown_age_spread, np.minimum(sd, LEARNING.unknown_age_spread))
    return np.where(certain, 0.0, sd)


def capacity_or_default(kind: HeaterKind, capacity_l: float | None) -> float:
    """A heater's capacity, L, or what its kind usually holds. Source: ``kinds``, assumption."""
    return KINDS[kind].usual_capacity_l if capacity_l is None else capacity_l

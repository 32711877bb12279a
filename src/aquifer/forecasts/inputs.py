"""Rows of the database as the columns of the core: a fixed number of queries, no loop over heaters."""

import datetime
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import numpy as np
from django.db.models import QuerySet

from aquifer.company.models import Company
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.assembly import KnownHeaters, complete
from aquifer.core.fleet import DescaleEvents, Fleet, FlushEvents, RodEvents, ValveEvents
from aquifer.core.parameters import DAYS_PER_YEAR, GEOMETRY
from aquifer.core.vocabulary import (
    Alloy,
    FlushMethod,
    HeaterKind,
    Practice,
    Removed,
    RodGrade,
    Task,
    ValveOutcome,
    code,
)
from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.visits.models import Finding
from aquifer.water.profiles import zone_waters

_HEATER = (
    "pk",
    "site_id",
    "site__zone_id",
    "version",
    "kind",
    "installed_on",
    "install_certainty",
    "capacity_l",
    "setpoint_c",
    "drain_port_height_mm",
    "lower_element_height_mm",
    "exchanger_area_m2",
    "practice",
    "site__softened",
    "site__people",
    "site__hot_water_l_per_day",
)
_PART = ("heater_id", "fitted_on", "alloy", "diameter_mm", "length_mm", "count")
_FINDING = (
    "pk",
    "heater_id",
    "on",
    "task",
    "method",
    "removed",
    "depth_before_mm",
    "removed_l",
    "dissolved_g",
    "grade",
    "diameter_mm",
    "bare_wire_mm",
    "outcome",
    "part__alloy",
    "part__diameter_mm",
    "part__length_mm",
    "part__count",
    "part__fitted_on",
)


@dataclass(frozen=True)
class FleetInputs:
    """A fleet with the names of its rows; arrays of shape (n,), by ascending heater."""

    fleet: Fleet
    as_of: datetime.date
    heater_ids: IntArray
    versions: IntArray
    last_finding: IntArray
    installed: Any
    """datetime64[D]; assumed where unknown."""


def load(as_of: datetime.date, heaters: "QuerySet[Heater] | None" = None) -> FleetInputs:
    """The heaters in service (or those of ``heaters``) with everything their forecast depends on; six queries."""
    chosen = Heater.objects.in_service() if heaters is None else heaters
    columns = _columns(chosen.order_by("pk").values_list(*_HEATER), _HEATER)
    ids = np.array(columns["pk"], dtype=np.int64)
    waters = zone_waters()
    zone_ids = np.array([water.zone_id for water in waters], dtype=np.int64)
    findings = _columns(
        Finding.objects.filter(heater__in=chosen, correction__isnull=True)
        .order_by("heater_id", "on", "pk")
        .values_list(*_FINDING),
        _FINDING,
    )
    installed, certain = _installed(columns, ids, findings, as_of)
    age = _years(np.datetime64(as_of, "D") - installed)
    in_place = Part.objects.filter(heater__in=chosen, removed_on__isnull=True)
    rods = _by_heater(in_place.filter(kind=PartKind.ANODE), ids)
    valves = _by_heater(in_place.filter(kind=PartKind.RELIEF_VALVE), ids)
    company = Company.current()
    n = ids.size
    # The people of a site share its heaters; so does its meter.
    site = np.array(columns["site_id"], dtype=np.int64)
    _, position, sharing = np.unique(site, return_inverse=True, return_counts=True)
    heaters_on_site = sharing[position].astype(np.float64) if n else np.zeros(0)
    own_practice = encoded(columns["practice"], Practice)
    known = KnownHeaters(
        zone=np.searchsorted(zone_ids, np.array(columns["site__zone_id"], dtype=np.int64)),
        softened=np.array(columns["site__softened"], dtype=bool),
        kind=encoded(columns["kind"], HeaterKind),
        age_years=age,
        age_is_known=certain,
        litres_per_day=_floats(columns["site__hot_water_l_per_day"]) / heaters_on_site,
        people=_floats(columns["site__people"]),
        heaters_on_site=heaters_on_site,
        capacity_l=_floats(columns["capacity_l"]),
        setpoint_c=_floats(columns["setpoint_c"]),
        floor_m2=np.full(n, np.nan),
        drain_port_m=_floats(columns["drain_port_height_mm"]) / 1000,
        lower_element_m=_floats(columns["lower_element_height_mm"]) / 1000,
        exchanger_m2=_floats(columns["exchanger_area_m2"]),
        alloy=rods["alloy"],
        rod_diameter_m=rods["diameter_mm"] / 1000,
        rod_length_m=rods["length_mm"] / 1000,
        rod_count=np.nan_to_num(rods["count"], nan=1.0),
        rod_fitted_years=np.maximum(np.nan_to_num(_years(rods["fitted_on"] - installed)), 0.0),
        valve_fitted_years=np.maximum(np.nan_to_num(_years(valves["fitted_on"] - installed)), 0.0),
        practice=np.where(own_practice >= 0, own_practice, code(Practice(company.practice))),
        tolerance=np.full(n, company.tolerance),
        longest_flush_years=np.full(n, company.longest_flush_months / 12),
        flush_method=np.full(n, code(FlushMethod(company.flush_method))),
        valve_target=np.full(n, company.relief_valve_target),
    )
    heaters_complete = complete(known, [water.profile for water in waters])
    row = np.searchsorted(ids, np.array(findings["heater_id"], dtype=np.int64))
    last = np.zeros(n, dtype=np.int64)
    np.maximum.at(last, row, np.array(findings["pk"], dtype=np.int64))
    events = _Events(findings, row, installed, heaters_complete.rod_diameter_m, heaters_complete.rod_length_m, company)
    return FleetInputs(
        Fleet(heaters_complete, events.flushes(), events.descales(), events.rod_looks(), events.valve_trials()),
        as_of,
        ids,
        np.array(columns["version"], dtype=np.int64),
        last,
        installed,
    )


def encoded(words: Sequence[str], kind: type[StrEnum]) -> IntArray:
    """Positions of words in their enumeration, -1 for an empty or unknown one; (n,)."""
    if not len(words):
        return np.zeros(0, dtype=np.int64)
    different, position = np.unique(np.array(words, dtype=np.str_), return_inverse=True)
    known = [member.value for member in kind]
    return np.array([known.index(word) if word in known else -1 for word in different], dtype=np.int64)[position]


def _columns(rows: "QuerySet[Any, tuple[Any, ...]]", names: tuple[str, ...]) -> dict[str, Sequence[Any]]:
    found = list(rows)
    return dict(zip(names, zip(*found, strict=True), strict=True)) if found else dict.fromkeys(names, ())


def _floats(column: Sequence[Any]) -> FloatArray:
    return np.array(column, dtype=np.float64)


def _days(column: Sequence[Any]) -> Any:
    return np.array(column, dtype="datetime64[D]")


def _years(span: Any) -> FloatArray:
    days = span.astype("timedelta64[D]").astype(np.float64)
    return np.where(np.isnat(span), np.nan, days / DAYS_PER_YEAR)


def _installed(
    columns: dict[str, Sequence[Any]], ids: IntArray, findings: dict[str, Sequence[Any]], as_of: datetime.date
) -> tuple[Any, Any]:
    """Installation dates, assumed six years back where unknown but before anything on record; and which are certain."""
    given = _days(columns["installed_on"])
    usual = np.datetime64(as_of, "D") - np.timedelta64(round(GEOMETRY.age_years * DAYS_PER_YEAR), "D")
    first = np.full(ids.size, usual)
    row = np.searchsorted(ids, np.array(findings["heater_id"], dtype=np.int64))
    np.minimum.at(first, row, _days(findings["on"]) - np.timedelta64(365, "D"))
    installed = np.where(np.isnat(given), first, given)
    certain = ~np.isnat(given) & (np.array(columns["install_certainty"], dtype=np.str_) == "known")
    return installed, certain


def _by_heater(parts: "QuerySet[Part]", ids: IntArray) -> dict[str, Any]:
    """The part in place of each heater, blank where there is none on record."""
    columns = _columns(parts.values_list(*_PART), _PART)
    row = np.searchsorted(ids, np.array(columns["heater_id"], dtype=np.int64))
    fitted = np.full(ids.size, np.datetime64("NaT", "D"))
    fitted[row] = _days(columns["fitted_on"])
    alloy = np.full(ids.size, -1, dtype=np.int64)
    alloy[row] = encoded(columns["alloy"], Alloy)
    found: dict[str, Any] = {"fitted_on": fitted, "alloy": alloy}
    for name in ("diameter_mm", "length_mm", "count"):
        found[name] = np.full(ids.size, np.nan)
        found[name][row] = _floats(columns[name])
    return found


class _Events:
    """Findings, sorted by heater and time, taken apart by task."""

    def __init__(
        self,
        findings: dict[str, Sequence[Any]],
        row: IntArray,
        installed: Any,
        rod_diameter_m: FloatArray,
        rod_length_m: FloatArray,
        company: Company,
    ) -> None:
        self._findings, self._row = findings, row
        self._task = encoded(findings["task"], Task)
        self._installed = installed
        on = _days(findings["on"])
        self._years = np.maximum(_years(on - installed[row]), 0.0) if row.size else np.zeros(0)
        self._rod_diameter_m, self._rod_length_m = rod_diameter_m, rod_length_m
        self._usual_method = code(FlushMethod(company.flush_method))
        self._read: dict[str, Any] = {}

    def _of(self, *tasks: Task) -> IntArray:
        return np.flatnonzero(np.isin(self._task, [code(task) for task in tasks]))

    def _float(self, name: str, at: IntArray) -> FloatArray:
        if name not in self._read:
            self._read[name] = _floats(self._findings[name])
        return np.asarray(self._read[name][at])

    def _code(self, name: str, at: IntArray, kind: type[StrEnum]) -> IntArray:
        if name not in self._read:
            self._read[name] = encoded(self._findings[name], kind)
        return np.asarray(self._read[name][at])

    def flushes(self) -> FlushEvents:
        at = self._of(Task.FLUSH)
        method = self._code("method", at, FlushMethod)
        return FlushEvents(
            self._row[at],
            self._years[at],
            method=np.where(method >= 0, method, self._usual_method),
            removed=self._code("removed", at, Removed),
            depth_m=self._float("depth_before_mm", at) / 1000,
            volume_l=self._float("removed_l", at),
        )

    def descales(self) -> DescaleEvents:
        at = self._of(Task.DESCALE)
        return DescaleEvents(
            self._row[at],
            self._years[at],
            removed=self._code("removed", at, Removed),
            dissolved_kg=self._float("dissolved_g", at) / 1000,
        )

    def rod_looks(self) -> RodEvents:
        at = self._of(Task.ANODE_INSPECTION)
        row = self._row[at]
        fitted = _days(self._findings["part__fitted_on"])[at] - self._installed[row]
        alloy = self._code("part__alloy", at, Alloy)
        diameter = self._float("part__diameter_mm", at) / 1000
        length = self._float("part__length_mm", at) / 1000 * np.nan_to_num(self._float("part__count", at), nan=1.0)
        return RodEvents(
            row,
            self._years[at],
            alloy=np.where(alloy >= 0, alloy, code(Alloy.MAGNESIUM)),
            rod_diameter_m=np.where(np.isnan(diameter), self._rod_diameter_m[row], diameter),
            rod_length_m=np.where(np.isnan(length), self._rod_length_m[row], length),
            rod_fitted_years=np.maximum(np.nan_to_num(_years(fitted)), 0.0),
            diameter_m=self._float("diameter_mm", at) / 1000,
            bare_m=self._float("bare_wire_mm", at) / 1000,
            grade=self._code("grade", at, RodGrade),
        )

    def valve_trials(self) -> ValveEvents:
        at = self._of(Task.RELIEF_VALVE_EXERCISE, Task.RELIEF_VALVE_REPLACEMENT)
        return ValveEvents(
            self._row[at],
            self._years[at],
            outcome=self._code("outcome", at, ValveOutcome),
            replaced=self._task[at] == code(Task.RELIEF_VALVE_REPLACEMENT),
        )

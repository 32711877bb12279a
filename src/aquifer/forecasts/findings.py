"""Findings as columns, taken apart by task into the events of the core."""

from typing import TypedDict

import numpy as np

from aquifer.core.arrays import Column, FloatArray, IntArray
from aquifer.core.fleet import DescaleEvents, ExpansionTankEvents, FlushEvents, LookEvents, RodEvents, ValveEvents
from aquifer.core.parameters import DAYS_PER_YEAR
from aquifer.core.vocabulary import Alloy, Task, code

Blank = float | np.datetime64 | bool | np.int64


def years_of(span: Column) -> FloatArray:
    """A span of days in years, NaN where it is not a time."""
    days = span.astype("timedelta64[D]").astype(np.float64)
    return np.where(np.isnat(span), np.nan, days / DAYS_PER_YEAR)


def blank_of(column: Column) -> Blank:
    """What a column of ``read_columns`` holds where nothing is on record."""
    blanks: dict[str, Blank] = {"f": np.nan, "M": np.datetime64("NaT", "D"), "b": False}
    return blanks.get(column.dtype.kind, -1)


class _Base(TypedDict):
    row: IntArray
    years: FloatArray


class Findings:
    """Findings, sorted by heater and time, taken apart by task."""

    def __init__(self, columns: dict[str, Column], row: IntArray, installed: Column, usual_method: int) -> None:
        self._columns, self.row, self.installed, self._method = columns, row, installed, usual_method

    def until(self, finding: int) -> "Findings":
        """Those no newer than a finding, by its number."""
        kept = np.flatnonzero(self._columns["pk"] <= finding)
        return Findings({n: c[kept] for n, c in self._columns.items()}, self.row[kept], self.installed, self._method)

    def column(self, name: str) -> Column:
        return self._columns[name]

    def _of(self, *tasks: Task) -> IntArray:
        told = self._columns["task"]
        return np.flatnonzero(np.logical_or.reduce([told == code(task) for task in tasks]))

    def _years(self, at: IntArray) -> FloatArray:
        span = self._columns["on"][at] - self.installed[self.row[at]]
        return np.maximum(years_of(span), 0.0)

    def _base(self, at: IntArray) -> _Base:
        return {"row": self.row[at], "years": self._years(at)}

    def latest_years(self, task: Task, heaters: int) -> FloatArray:
        """When a task was last recorded, years since installation, 0 if never."""
        found = np.zeros(heaters)
        at = self._of(task)
        found[self.row[at]] = self._years(at)
        return found

    def flushes(self) -> FlushEvents:
        at, c = self._of(Task.FLUSH), self._columns
        method = c["method"][at]
        return FlushEvents(
            **self._base(at),
            by=c["by"][at],
            method=np.where(method >= 0, method, self._method),
            removed=c["removed"][at],
            depth_m=c["depth_before_mm"][at] / 1000,
            volume_l=c["removed_l"][at],
            depth_after_m=c["depth_after_mm"][at] / 1000,
        )

    def descales(self) -> DescaleEvents:
        at, c = self._of(Task.DESCALE), self._columns
        return DescaleEvents(
            **self._base(at),
            by=c["by"][at],
            removed=c["removed"][at],
            dissolved_kg=c["dissolved_g"][at] / 1000,
            capacity_lost=c["capacity_lost"][at],
        )

    def rod_looks(self, rod_diameter_m: FloatArray, rod_length_m: FloatArray) -> RodEvents:
        at, c = self._of(Task.ANODE_INSPECTION), self._columns
        at = at[~c["could_not_open"][at]]
        row, alloy = self.row[at], c["part__alloy"][at]
        diameter = c["part__diameter_mm"][at] / 1000
        length = c["part__length_mm"][at] / 1000 * np.maximum(c["part__count"][at], 1)
        fitted = years_of(c["part__fitted_on"][at] - self.installed[row])
        return RodEvents(
            **self._base(at),
            by=c["by"][at],
            alloy=np.where(alloy >= 0, alloy, code(Alloy.MAGNESIUM)),
            rod_diameter_m=np.where(np.isnan(diameter), rod_diameter_m[row], diameter),
            rod_length_m=np.where(np.isnan(length), rod_length_m[row], length),
            rod_fitted_years=np.maximum(np.nan_to_num(fitted), 0.0),
            diameter_m=c["diameter_mm"][at] / 1000,
            bare_m=c["bare_wire_mm"][at] / 1000,
            grade=c["grade"][at],
        )

    def valve_trials(self) -> ValveEvents:
        at = self._of(Task.RELIEF_VALVE_EXERCISE, Task.RELIEF_VALVE_REPLACEMENT)
        return ValveEvents(
            **self._base(at),
            outcome=self._columns["outcome"][at],
            replaced=self._columns["task"][at] == code(Task.RELIEF_VALVE_REPLACEMENT),
        )

    def expansion_tank_checks(self) -> ExpansionTankEvents:
        at = self._of(Task.EXPANSION_TANK_CHECK, Task.EXPANSION_TANK_REPLACEMENT)
        return ExpansionTankEvents(
            **self._base(at),
            pin=self._columns["at_valve"][at],
            precharge_kpa=self._columns["precharge_kpa"][at],
            replaced=self._columns["task"][at] == code(Task.EXPANSION_TANK_REPLACEMENT),
        )

    def looks(self) -> LookEvents:
        at, c = self._of(Task.LOOK_OVER), self._columns
        return LookEvents(**self._base(at), noise=c["noise"][at], corrosion=c["corrosion"][at], rusty=c["rusty"][at])

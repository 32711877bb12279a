"""Whether windows held in a foreign district, and whose were the better."""

from collections import defaultdict
from dataclasses import dataclass, field

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.forecast import Context, calibrate, forecast
from aquifer.core.vocabulary import Component
from aquifer.study.foreign import regression
from aquifer.study.foreign.base import District, Law, complaining, month_passes, settled
from aquifer.study.foreign.told import Record, limits_mm

AHEAD_YEARS = 10
LEVELS = np.array([0.1, 0.5, 0.9])
SEEN_MM = {Component.SEDIMENT: 0.5, Component.SCALE: 0.01}
"""Below this nobody would call it deposit, and no window is tested."""
TOLD_MM = {Component.SEDIMENT: 2.0, Component.SCALE: 0.02}
"""To choose by what is there leaves out those that were told to have a deposit and have none. So it is asked once more
by what was told, as whoever reads the program must ask: of those told so much in the middle, and apart of those told
less, of which a ruler of whole millimetres tells nothing and for which nobody would come."""


@dataclass
class Tally:
    """Windows of one cell: how many held, how wide, and the loss of their quantiles."""

    inside: list[BoolArray] = field(default_factory=list)
    width: list[FloatArray] = field(default_factory=list)
    loss: list[FloatArray] = field(default_factory=list)
    below: list[BoolArray] = field(default_factory=list)

    @property
    def count(self) -> int:
        return sum(one.size for one in self.inside)

    def share(self) -> float:
        return float(np.mean(np.concatenate(self.inside))) if self.count else float("nan")

    def under(self) -> float:
        """Share of truths below their window."""
        return float(np.mean(np.concatenate(self.below))) if self.count else float("nan")

    def mean_width(self) -> float:
        return float(np.mean(np.concatenate(self.width))) if self.count else float("nan")

    def mean_loss(self) -> float:
        return float(np.mean(np.concatenate(self.loss))) if self.count else float("nan")


Cells = defaultdict[tuple[str, ...], Tally]
"""By who tells, component, question, year, and band of age."""


def run(law: Law, seed: int, heaters: int, years: int, measured: float, scored: tuple[int, ...]) -> Cells:
    """One district from entry into care, serviced as its owners like, its windows held against it in some years."""
    district = settled(law, heaters, seed)
    record = Record(district, seed, measured, law.dirty)
    random = np.random.default_rng([seed, 77])
    cells: Cells = defaultdict(Tally)
    phase = random.integers(0, 36, heaters)
    for month in range(12 * years + 1):
        if month in {12 * year for year in scored}:
            _score(cells, law, district, record, month // 12, np.random.default_rng([seed, month]))
        due = np.flatnonzero((phase + month) % district.interval_months == 0) if month else np.zeros(0, dtype=np.int64)
        rings = complaining(district, random)
        _serve(law, district, record, np.union1d(due, rings), random)
        record.households(district)
        month_passes(law, district, random)
    return cells


def _serve(law: Law, district: District, record: Record, rows: IntArray, random: np.random.Generator) -> IntArray:
    if not rows.size:
        return rows
    return record.service(district, rows, lambda at, method, skill: law.clean(district, at, method, skill, random))


def _score(cells: Cells, law: Law, district: District, record: Record, year: int, random: np.random.Generator) -> None:
    fleet = record.fleet(district)
    context = Context(calibration=calibrate(fleet))
    found = forecast(fleet, context)
    later, reached = _left_alone(law, district, random)
    age = district.age_months / 12
    for component in SEEN_MM:
        one = found.of(component)
        if one is None:
            continue
        now = next(iter(one.state.values()))
        rows = one.row
        told_dates = np.minimum(one.reached_years[:, [1, 3, 5]], AHEAD_YEARS)
        _tally(cells, "core", component, "now", year, age[rows], district.deposit_mm[rows], now)
        _as_told(cells, component, "now", year, age[rows], district.deposit_mm[rows], now)
        _tally(cells, "core", component, "in a year", year, age[rows], later[rows], one.state_in_a_year)
        _dates(cells, component, year, age[rows], reached[rows], told_dates)
        kept, told = regression.told(fleet, component is Component.SEDIMENT)
        _tally(cells, "regression", component, "now", year, age[kept], district.deposit_mm[kept], told.now)
        _tally(cells, "regression", component, "in a year", year, age[kept], later[kept], told.in_a_year)
    # A third of them are serviced today, and told of at once; of whom it was never written down nobody asks what a
    # service left.
    chosen = np.flatnonzero(random.random(len(district)) < 0.33)
    chosen = _serve(law, district, record, chosen, random)
    after = forecast(record.fleet(district), context)
    for component in SEEN_MM:
        one = after.of(component)
        if one is not None:
            at = np.flatnonzero(np.isin(one.row, chosen))
            now = next(iter(one.state.values()))[at]
            rows = one.row[at]
            truth = district.deposit_mm[rows]
            _tally(cells, "core", component, "after a service", year, age[rows], truth, now)
            _as_told(cells, component, "after a service", year, age[rows], truth, now)


def _left_alone(law: Law, district: District, random: np.random.Generator) -> tuple[FloatArray, FloatArray]:
    """What lies in each in a year if nobody comes, and when it would pass its limit, years."""
    alone, limit = district.copy(), limits_mm(district)
    reached = np.full(len(district), float(AHEAD_YEARS))
    later = alone.deposit_mm
    for month in range(12 * AHEAD_YEARS):
        first = (alone.deposit_mm >= limit) & (reached >= AHEAD_YEARS)
        reached[first] = month / 12
        if month == 12:
            later = alone.deposit_mm.copy()
        month_passes(law, alone, random)
    return later, reached


def _band(age: FloatArray) -> IntArray:
    return np.digitize(age, [4.0, 8.0, 14.0])


BANDS = ("to 4", "4 to 8", "8 to 14", "over 14")


def _as_told(
    cells: Cells, component: Component, what: str, year: int, age: FloatArray, truth: FloatArray, told: FloatArray
) -> None:
    much = told[:, 1] >= TOLD_MM[component]
    _tally(cells, "core", component, f"{what}, as told", year, age, truth, told, much)
    _tally(cells, "core", component, f"{what}, told less", year, age, truth, told, ~much)


def _tally(
    cells: Cells, who: str, component: Component, what: str, year: int, age: FloatArray, truth: FloatArray,
    told: FloatArray, chosen: BoolArray | None = None,
) -> None:  # fmt: skip
    seen = truth > SEEN_MM[component] if chosen is None else chosen
    low, high = told[:, 0], told[:, 2]
    inside = (truth >= low) & (truth <= high)
    log = np.log(np.maximum(told, 1e-4)) - np.log(np.maximum(truth, 1e-4))[:, None]
    loss = np.maximum(-LEVELS * log, (1 - LEVELS) * log).mean(axis=1)
    width = np.log(np.maximum(high, 1e-4) / np.maximum(low, 1e-4))
    for band in np.unique(_band(age)):
        at = seen & (_band(age) == band)
        cell = cells[who, component.value, what, str(year), BANDS[band]]
        cell.inside.append(inside[at])
        cell.below.append((truth < low)[at])
        cell.width.append(width[at])
        cell.loss.append(loss[at])


def _dates(cells: Cells, component: Component, year: int, age: FloatArray, truth: FloatArray, told: FloatArray) -> None:
    play = ((truth < AHEAD_YEARS) | (told[:, 0] < AHEAD_YEARS)) & (truth > 0)
    inside = (truth >= told[:, 0]) & (truth <= told[:, 2])
    off = truth[:, None] - told
    loss = np.maximum(LEVELS * off, (LEVELS - 1) * off).mean(axis=1)
    for band in np.unique(_band(age)):
        at = play & (_band(age) == band)
        cell = cells["core", component.value, "dates", str(year), BANDS[band]]
        cell.inside.append(inside[at])
        cell.below.append((truth < told[:, 0])[at])
        cell.width.append((told[:, 2] - told[:, 0])[at])
        cell.loss.append(loss[at])

"""A foreign district that is served for years as the core says, against the years that the core foretold of it.

Its tanks give way by a law of their own and are renewed, its valves stick, households ring; a company serves it by
seasons that the program's own search plans, and writes down what it sees.
Figures are assumptions of the simulation, chosen without looking at the core.
"""

from collections.abc import Mapping
from copy import deepcopy
from dataclasses import dataclass, field, replace

import numpy as np

from aquifer.core import ahead, lives
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.fleet import Fleet, Heaters, RodEvents, ValveEvents
from aquifer.core.forecast import Context, FleetForecast, calibrate, forecast, life_spans
from aquifer.core.learning import ComponentCalibration
from aquifer.core.planning.hours import ASSUMED, REPLACING_HOURS
from aquifer.core.vocabulary import Component, Method, Practice, RodGrade, ValveOutcome, code
from aquifer.study.foreign.base import Law, complaining, month_passes, settled
from aquifer.study.foreign.planned import Agenda, agenda
from aquifer.study.foreign.told import Record

BEFORE_YEARS, AHEAD_YEARS = 6, 3
"""On record when the years ahead are foretold, and foretold."""
LOOKED_BACK_YEARS = 3
"""Of which the calls are counted, as the program does."""
MEASURED = 0.1
TRAVEL_HOURS = 0.4
CALL_HOURS = 1.1 + ASSUMED.arriving + TRAVEL_HOURS
FUTURES = 200
USUAL_TOLERANCE = 0.2
PLANNED_MONTHS = 12
"""After which a season is planned anew."""
COUNTED = ("visits", "flushes", "descales", "rods", "relief_valves", "leaks", "calls")
_STUCK_A_YEAR = {"kinetic": 0.02, "households": 0.07, "neglected": 0.045}
"""Chance that a valve of ordinary water and make sticks within a year."""
_RENEWED_HOURS = 0.75
_ROD_A_YEAR = {"kinetic": 0.17, "households": 0.22, "neglected": 0.13}
"""Share of a new rod that an ordinary water takes in a year."""
_ROD_HOURS = 0.3
_ROD_CUTS = np.array([0.1, 0.33, 0.6, 0.9])
"""Shares gone at which an eye calls a rod worn, half, mostly gone and gone."""
_RENEWS_FROM = code(RodGrade.MOSTLY_GONE)


@dataclass
class Happened:
    """What each year after the foretelling came to."""

    counts: dict[str, FloatArray] = field(default_factory=lambda: {name: np.zeros(AHEAD_YEARS) for name in COUNTED})
    hours: FloatArray = field(default_factory=lambda: np.zeros(AHEAD_YEARS))


@dataclass
class RodLooks:
    """Looks at rods as somebody wrote them down."""

    row: IntArray
    month: FloatArray
    """Of the town."""
    by: IntArray
    grade: IntArray
    on_rod: FloatArray
    """Months since the rod was fitted."""

    def but_of(self, rows: IntArray) -> "RodLooks":
        """Those of other heaters."""
        kept = ~np.isin(self.row, rows)
        return RodLooks(*(getattr(self, name)[kept] for name in self.__dataclass_fields__))


class Town:
    """A district with the company that serves it."""

    def __init__(self, law: Law, heaters: int, seed: int) -> None:
        self.law, self.seed = law, seed
        self.agenda: Agenda | None = None
        self.district = settled(law, heaters, seed)
        self.record = Record(self.district, seed, MEASURED, law.dirty)
        self.random = np.random.default_rng([seed, 311])
        n = heaters
        self.site = np.cumsum(self.random.random(n) < 0.85) - 1
        self.site -= self.site.min()
        self.weak = self.random.lognormal(0, 0.3, n)
        """How much weaker than usual each place is on its tanks, for all of them."""
        self.life_months = self._lives(np.arange(n), self.district.age_months)
        self.entered_months = self.district.age_months.copy()
        self.valve_months = self.district.age_months.copy()
        frail = self.random.gamma(2.0, 0.5, n) * (self.district.hardness[self.district.zone] / 180) ** 0.5
        self.stuck_a_year = np.clip(_STUCK_A_YEAR[law.name] * frail, 0, 0.6)
        self.is_stuck = np.zeros(n, dtype=bool)
        self.rod_a_year = _ROD_A_YEAR[law.name] * self._harshness()
        self.rod_gone = np.minimum(self.rod_a_year * self.district.age_months / 12, 1.3)
        self.rod_months = self.district.age_months.copy()
        self.rod_looks: list[RodLooks] = []
        self.trials: list[tuple[IntArray, FloatArray, IntArray, BoolArray]] = []
        self.lived: list[lives.Spans] = []
        """Of tanks that gave way, by the month."""
        self.called: list[int] = []
        """By year, the first one first."""
        self.practice, self.tolerance = Practice.CONDITION, USUAL_TOLERANCE
        self.context = Context()
        self.month = 0

    def copy(self) -> "Town":
        return deepcopy(self)

    def _harshness(self) -> FloatArray:
        """How much faster than usual each place eats its rod: by water, heat, softener, and what nobody knows."""
        d = self.district
        water = (d.hardness / 180) ** 0.3 * self.random.lognormal(0, 0.2, d.hardness.size)
        heat = 1.3 ** ((d.setpoint_c - 57) / 10)
        own = self.random.lognormal(0, 0.3, len(d)) * np.where(d.softener, 1.6, 1.0)
        return np.asarray(np.where(d.is_tank, water[d.zone] * heat * own, 0.0))

    def _lives(self, rows: IntArray, age_months: FloatArray) -> FloatArray:
        """When the tanks of these rows give way, months of age, given that they stand."""
        median = 12 * self.law.median_life_years
        life = np.zeros(rows.size)
        short = np.arange(rows.size)
        for _ in range(200):
            drawn = median * self.random.lognormal(0, 0.42, short.size) / self.weak[rows[short]]
            life[short] = drawn
            short = short[drawn <= age_months[short]]
        life[short] = age_months[short] + self.random.uniform(1, 24, short.size)
        return np.where(self.district.is_tank[rows], life, np.inf)

    # What the company knows

    def fleet(self) -> Fleet:
        fleet = self.record.fleet(self.district)
        heaters = fleet.heaters
        age = self.district.age_months
        fitted = np.maximum(heaters.age_years - self.valve_months / 12, 0.0)
        fitted = np.where(self.valve_months >= age, 0.0, fitted)
        rod_fitted = np.where(self.rod_months >= age, 0.0, np.maximum(heaters.age_years - self.rod_months / 12, 0.0))
        practice = np.full(len(heaters), code(self.practice))
        row, back, outcome, new = (
            np.concatenate([trial[place] for trial in self.trials]) if self.trials else np.zeros(0)
            for place in range(4)
        )
        row = row.astype(np.int64)
        years = heaters.age_years[row] - (self.month - back) / 12
        order = np.lexsort((np.arange(row.size), back, row))
        kept = order[years[order] > 0]
        trials = ValveEvents(row[kept], years[kept], outcome[kept].astype(np.int64), new[kept].astype(bool))
        told = replace(
            heaters, practice=practice, tolerance=np.full(len(heaters), self.tolerance), valve_fitted_years=fitted,
            rod_fitted_years=rod_fitted,
        )  # fmt: skip
        return replace(fleet, valve_trials=trials, rod_looks=self._looks(told), heaters=told)

    def _looks(self, heaters: Heaters) -> RodEvents:
        """The looks at rods as they were written down."""
        row, month, by, grade, on_rod = (
            np.concatenate([getattr(look, name) for look in self.rod_looks]) if self.rod_looks else np.zeros(0)
            for name in RodLooks.__dataclass_fields__
        )
        row = row.astype(np.int64)
        years = heaters.age_years[row] - (self.month - month) / 12
        order = np.lexsort((years, row))
        at = order[years[order] > 0]
        row, years = row[at], years[at]
        none = np.full(row.size, np.nan)
        return RodEvents(
            row, years, by[at].astype(np.int64), heaters.alloy[row], heaters.rod_diameter_m[row],
            heaters.rod_length_m[row], np.maximum(years - on_rod[at] / 12, 0.0), none, none, grade[at].astype(np.int64),
        )  # fmt: skip

    def learn(self) -> None:
        """Once a year: what the base teaches, its tanks' lives with it."""
        fleet = self.fleet()
        found = calibrate(fleet)
        standing = self._spans(fleet, Context(calibration=found), np.zeros(self.site.size, dtype=bool))
        life = lives.learned(lives.together([standing, *self.lived]))
        found[Component.TANK] = ComponentCalibration(life=life)
        self.context = Context(calibration=found)

    def _spans(self, fleet: Fleet, context: Context, leaked: BoolArray) -> lives.Spans:
        """What all tanks have lived through in care, as the program reckons it."""
        return life_spans(fleet, context, self.entered_months / 12, self.district.age_months / 12, leaked)

    def believed(self, fleet: Fleet) -> FleetForecast:
        """What the core says of them."""
        return forecast(fleet, self.context)

    def foretold(self) -> ahead.Ahead:
        """The years ahead, as the company would be shown them."""
        fleet = self.fleet()
        found = self.believed(fleet)
        worth = ahead.plain_worth(fleet, found, int(self.site.max()) + 1, TRAVEL_HOURS)
        none = np.zeros(self.site.size, dtype=bool)
        scene = ahead.Scene(fleet, found, self.site, worth, fleet, none, self.context.calibration)
        common = ahead.shared(FUTURES, self.seed)
        lately = np.array(self.called[: -LOOKED_BACK_YEARS - 1 : -1], dtype=np.float64)
        calls = ahead.Calls(lately, np.full(lately.size, float(self.site.size)), np.array([CALL_HOURS]))
        return ahead.with_calls(ahead.lived(scene, AHEAD_YEARS, common), self.site.size, calls, common)

    # What happens

    def lives_on(self, months: int, happened: Happened | None = None) -> None:
        for number in range(months):
            if self.month % 12 == 0:
                self.learn()
                self.called.append(0)
            told = happened if happened is not None else Happened()
            year = min(number // 12, AHEAD_YEARS - 1)
            self._leak(told, year)
            self._serve(told, year)
            self._answer(told, year)
            self.record.households(self.district)
            month_passes(self.law, self.district, self.random)
            self.valve_months += 1
            self.rod_months += 1
            wear = self.random.lognormal(0, 0.3, self.site.size) * (0.85 + 0.3 * np.minimum(self.rod_gone, 1.0))
            self.rod_gone = np.minimum(self.rod_gone + self.rod_a_year / 12 * wear, 1.3)
            self.is_stuck |= self.random.random(self.site.size) < self.stuck_a_year / 12
            self.month += 1

    def _leak(self, happened: Happened, year: int) -> None:
        rows = np.flatnonzero(self.district.age_months >= self.life_months)
        if not rows.size:
            return
        happened.counts["leaks"][year] += rows.size
        happened.hours[year] += rows.size * (REPLACING_HOURS + ASSUMED.arriving + TRAVEL_HOURS)
        leaked = np.isin(np.arange(self.site.size), rows)
        spans = self._spans(self.fleet(), self.context, leaked)
        self.lived.append(spans.of(spans.leaked))
        d = self.district
        d.age_months[rows] = d.deposit_mm[rows] = d.since_months[rows] = 0.0
        d.soft_share[rows] = 1.0
        self.record.renewed(rows)
        self.entered_months[rows] = self.valve_months[rows] = 0.0
        self.rod_months[rows] = self.rod_gone[rows] = 0.0
        self.rod_looks = [look.but_of(rows) for look in self.rod_looks]
        self.is_stuck[rows] = False
        self.trials = [tuple(one[~np.isin(trial[0], rows)] for one in trial) for trial in self.trials]  # type: ignore[misc]
        self.life_months[rows] = self._lives(rows, np.zeros(rows.size))

    def _serve(self, happened: Happened, year: int) -> None:
        """What the season in force has in this month; it is planned anew each ``PLANNED_MONTHS``."""
        found = self.believed(self.fleet())
        since = self.month % PLANNED_MONTHS
        if self.agenda is None or since == 0:
            self.agenda = agenda(found, self.site, TRAVEL_HOURS)
        weeks = 52 / 12
        now = self.agenda.of(since * weeks, (since + 1) * weeks)
        done: dict[Component, BoolArray] = {
            one.component: np.isin(one.row, now.row[now.component == code(one.component)])
            for one in found.components
            if one.component is not Component.TANK
        }
        visits = np.unique(np.stack([self.site[now.row], now.week]), axis=1).shape[1]
        self._do(found, done, visits, happened, year)

    def _do(
        self, found: FleetForecast, done: Mapping[Component, BoolArray], visits: int, happened: Happened, year: int
    ) -> None:
        """Visits with what is done at them. Parameters: done, by component, of its heaters."""
        cleaned = []
        for one in found.components:
            if one.component is Component.TANK:
                continue
            is_done = done[one.component]
            at = one.row[is_done]
            took = [ASSUMED.look(one.component, list(Method)[int(method)]) for method in one.method[is_done]]
            happened.hours[year] += float(np.sum(took))
            if one.component is Component.RELIEF_VALVE:
                self._try_valves(at, one.method[is_done] == code(Method.REPLACE), happened, year)
            elif one.component is Component.ANODE:
                self._look_at_rods(at, one.method[is_done] == code(Method.REPLACE), happened, year)
            elif at.size and one.component in (Component.SEDIMENT, Component.SCALE):
                cleaned.append(at)
                name = "flushes" if one.component is Component.SEDIMENT else "descales"
                happened.counts[name][year] += at.size
        happened.counts["visits"][year] += visits
        happened.hours[year] += visits * (ASSUMED.arriving + TRAVEL_HOURS)
        if cleaned:
            self._clean(np.sort(np.concatenate(cleaned)))

    def _clean(self, rows: IntArray) -> None:
        law, district, random = self.law, self.district, self.random
        self.record.service(district, rows, lambda at, method, skill: law.clean(district, at, method, skill, random))

    def _try_valves(self, rows: IntArray, advised: BoolArray, happened: Happened, year: int) -> None:
        stuck = self.is_stuck[rows]
        renewed = stuck | advised
        outcome = np.where(stuck, code(ValveOutcome.NO_FLOW), code(ValveOutcome.FLOWS_AND_RESEATS))
        month = np.full(rows.size, float(self.month))
        self.trials.append((rows, month, outcome, np.zeros(rows.size, dtype=bool)))
        new = rows[renewed]
        nobody = np.full(new.size, -1)
        self.trials.append((new, np.full(new.size, float(self.month)), nobody, np.ones(new.size, dtype=bool)))
        self.is_stuck[new] = False
        self.valve_months[new] = 0.0
        happened.counts["relief_valves"][year] += new.size
        happened.hours[year] += _RENEWED_HOURS * new.size

    def _look_at_rods(self, rows: IntArray, advised: BoolArray, happened: Happened, year: int) -> None:
        """An eye grades each; one that is mostly gone, or will not last by the forecast, is renewed."""
        seen = self.rod_gone[rows] * self.random.lognormal(0, 0.15, rows.size)
        grade = np.searchsorted(_ROD_CUTS, seen)
        grade = np.clip(grade + self.random.choice([-1, 0, 1], rows.size, p=[0.04, 0.92, 0.04]), 0, _ROD_CUTS.size)
        month, on_rod = np.full(rows.size, float(self.month)), self.rod_months[rows].copy()
        self.rod_looks.append(RodLooks(rows, month, self.district.technician[rows], grade, on_rod))
        new = rows[advised | (grade >= _RENEWS_FROM)]
        self.rod_gone[new] = self.rod_months[new] = 0.0
        happened.counts["rods"][year] += new.size
        happened.hours[year] += _ROD_HOURS * new.size

    def _answer(self, happened: Happened, year: int) -> None:
        """Whoever rings is cleaned within the month."""
        rings = complaining(self.district, self.random)
        if not rings.size:
            return
        tanks = self.district.is_tank[rings]
        happened.counts["calls"][year] += rings.size
        self.called[-1] += rings.size
        took = np.where(tanks, ASSUMED.look(Component.SEDIMENT), ASSUMED.look(Component.SCALE))
        happened.hours[year] += float(took.sum()) + rings.size * (ASSUMED.arriving + TRAVEL_HOURS)
        self._clean(rings)


@dataclass(frozen=True)
class Held:
    """Where each year's truth lay in what was foretold."""

    fans: Mapping[str, FloatArray]
    """P10, P50, P90 by name, (3, years)."""
    truth: Mapping[str, FloatArray]

    def inside(self, name: str) -> BoolArray:
        low, _, high = self.fans[name]
        return np.asarray((self.truth[name] >= low) & (self.truth[name] <= high))

    def over(self, name: str) -> FloatArray:
        """Truth over the middle of the fan; NaN where that is nothing."""
        middle = self.fans[name][1]
        return np.asarray(np.where(middle > 0, self.truth[name] / np.maximum(middle, 1e-9), np.nan))


def run(law: Law, seed: int, heaters: int) -> Held:
    """One town: some years on record, then some foretold and lived."""
    town = Town(law, heaters, seed)
    town.lives_on(12 * BEFORE_YEARS)
    town.learn()
    told = town.foretold()
    happened = Happened()
    town.lives_on(12 * AHEAD_YEARS, happened)
    fans = {name: ahead.fan(told.counted(name)) for name in COUNTED} | {"hours": ahead.fan(told.measured("hours"))}
    return Held(fans, {**happened.counts, "hours": happened.hours})


@dataclass(frozen=True)
class Way:
    """How a company does it: a practice, and the risk that it accepts."""

    practice: Practice
    tolerance: float = USUAL_TOLERANCE

    def __str__(self) -> str:
        risk = "" if self.tolerance == USUAL_TOLERANCE else f", risk 1 in {1 / self.tolerance:.1f}"
        return f"{self.practice}{risk}"


@dataclass(frozen=True)
class Compared:
    """Two ways in one town: what was foretold of them, and what they came to."""

    sure: float
    """Share of the futures in which the second takes fewer hours."""
    foretold: float
    """Hours that the second takes over those of the first."""
    truth: float


def compare(law: Law, seed: int, heaters: int, one: Way, other: Way) -> Compared:
    """The same town done in two ways, foretold with the same luck and lived with the same truth."""
    town = Town(law, heaters, seed)
    town.lives_on(12 * BEFORE_YEARS)
    town.learn()
    told, lived = [], []
    for way in (one, other):
        here = town.copy()
        here.practice, here.tolerance, here.agenda = way.practice, way.tolerance, None
        told.append(here.foretold().measured("hours"))
        happened = Happened()
        here.lives_on(12 * AHEAD_YEARS, happened)
        lived.append(float(happened.hours.sum()))
    return Compared(
        ahead.better(told[1], told[0]), float(told[1].sum(axis=1).mean() / told[0].sum(axis=1).mean()),
        lived[1] / lived[0],
    )  # fmt: skip

"""Who is visited when, what is done there, and what gives way.

A site is visited once a year, since its safety services are; what falls due before the next visit is done at this one,
and what lasts less than three quarters of a year is done half-way as well. That is what a level season comes to. A
future draws each heater's true pace, which its services learn by half, and each tank's end.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from scipy.sparse import csr_array

from aquifer.core import anode, learning, policy, relief_valve, scale, sediment, tank
from aquifer.core.ahead.luck import LONGEST_YEARS, Luck, Shared, again, drawn
from aquifer.core.ahead.scene import SERVED, Scene
from aquifer.core.ahead.sums import COUNTED, Ahead
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.components import (
    AnodeComponent,
    ReliefValveComponent,
    ScaleComponent,
    SedimentComponent,
    TankComponent,
)
from aquifer.core.fleet import Fleet
from aquifer.core.forecast import PROBABILITIES, ComponentForecast
from aquifer.core.learning import ComponentCalibration
from aquifer.core.learning.grid import at_each
from aquifer.core.parameters import ANODE, TANK
from aquifer.core.vocabulary import Component, FlushMethod, code

LEARNED = 0.5
"""Share of what was wrong about a heater's pace that its next service corrects. Assumption."""
NARROWED = 0.9
"""Share of the margin for what is not known of a pace that its next service leaves. Fitted to simulated bases of other
families (docs/study/years.md)."""
SHORT_YEARS = 0.75
"""What lasts less is done between two yearly visits as well. Assumption."""
CATCH_UP_YEARS = 0.25
"""In which what is overdue today is caught up with. Assumption."""
WAITS_YEARS = 0.02
"""What is due within a week of the next visit waits for it. Assumption."""
_NAMES = {Component.SEDIMENT: "flushes", Component.SCALE: "descales"}
_RENEWED = {Component.RELIEF_VALVE: "relief_valves", Component.ANODE: "rods"}
_EDGE = 1e-9


def lived(scene: Scene, years: int, common: Shared, part: int = 0) -> Ahead:
    """The coming years of a part of a base, block by block.

    Parameters: the scene; how many years; luck of the whole base; the part's number, by which its own luck is drawn.
    Returns: what is done and what gives way, by future and year. Raises: ValueError for a scene without heaters, or
    for more years than ``LONGEST_YEARS``.
    """
    if not scene.site.size:
        raise ValueError("a scene without heaters; at least one is needed")
    if not 1 <= years <= LONGEST_YEARS:
        raise ValueError(f"{years} years ahead; allowed: 1 to {LONGEST_YEARS}")
    futures, names = common.futures, scene.worth.names
    counts = np.zeros((len(COUNTED), futures, years))
    measures = np.zeros((len(names), futures, years))
    by_heater = np.zeros((scene.site.size, len(names), years))
    for number, rows in enumerate(scene.blocks()):
        block = scene.at(rows)
        one = _Block(block, years, drawn(common, block.found, block.sites, (part, number))).ahead()
        counts += one.counts
        measures += one.measures
        by_heater[rows] = one.by_heater
    for name, moved in common.moved.items():
        counts[COUNTED.index(name)] *= np.exp(moved[:, :years])
    return Ahead(names, counts, measures, by_heater)


class _Block:
    """Some sites, lived through."""

    def __init__(self, scene: Scene, years: int, luck: Luck) -> None:
        self.scene, self.years, self.luck = scene, years, luck
        self.served = [one for one in scene.found.components if one.component in SERVED]
        self.begins = _first_visits(self.served, scene.site, scene.sites)
        n, futures, measures = scene.site.size, luck.shared.futures, len(scene.worth.names)
        self.counts = np.zeros((len(COUNTED), futures, years))
        self.measures = np.zeros((measures, futures, years))
        self.by_heater = np.zeros((n, measures, years))
        at_site = np.bincount(scene.site, minlength=scene.sites)
        self.shared = 1.0 / at_site[scene.site]
        gone = np.full((scene.sites, futures), np.inf)
        if scene.leaving > 0:
            gone = -np.log1p(-luck.leaves) / scene.leaving
        self.gone = gone
        self.ends = self._ends()
        self.visited: dict[tuple[int, float], FloatArray] = {}

    def ahead(self) -> Ahead:
        for one in self.served:
            self._serve(one)
        self._visits()
        self._on_plans()
        hours = np.where(self.scene.worth.is_hours[:, None], self.luck.shared.hours[None, :], 0.0)
        return Ahead(self.scene.worth.names, self.counts, self.measures * np.exp(hours)[:, :, None], self.by_heater)

    def _serve(self, one: ComponentForecast) -> None:
        """Each service of one component, added to what all come to."""
        scene, luck = self.scene, self.luck
        rows = one.row.size
        wrong = one.log_theta_sd[:, None] * luck.pace[one.component] + luck.shared.pace[one.component][None, :]
        state = _STATES[one.component](one, scene, wrong)
        site = scene.site[one.row]
        start = self.begins[site]
        sites = csr_array((np.ones(rows), (site, np.arange(rows))), shape=(scene.sites, rows))
        worth = scene.worth.service[one.component][one.row]
        renewed_worth = scene.worth.renewed.get(one.component)
        ends, gone = self.ends[one.row], self.gone[site]
        before = np.zeros((rows, 1))
        for visit in range(self.years + 1):
            for half in (0.0, 0.5):
                at = (start + visit + half)[:, None]
                state.new_tank(ends, before, at)
                before = at
                lasts = at + (1.0 if half == 0 else 0.5)
                is_done = (state.due <= lasts - WAITS_YEARS) & (at < gone)
                if half:
                    is_done &= state.interval < SHORT_YEARS
                if not is_done.any():
                    continue
                renewed = state.served(is_done, at, lasts, again(luck.chance[one.component], visit))
                year = np.floor(start + visit + half + _EDGE).astype(np.int64)
                self._add(_NAMES.get(one.component), one.row, is_done, year, worth)
                if renewed is not None:
                    more = None if renewed_worth is None else renewed_worth[one.row]
                    self._add(_RENEWED[one.component], one.row, renewed, year, more)
                key = (visit, visit + half)
                done = sites @ is_done.astype(np.float64)
                self.visited[key] = done if key not in self.visited else self.visited[key] + done

    def _visits(self) -> None:
        sites = np.arange(self.scene.sites)
        for (_, half), at_site in self.visited.items():
            came = at_site > 0
            year = np.floor(self.begins + half + _EDGE).astype(np.int64)
            for number in np.unique(year[year < self.years]).tolist():
                here = sites[year == number]
                inside = came[here].astype(np.float64)
                self.counts[COUNTED.index("visits"), :, number] += inside.sum(axis=0)
                self.measures[:, :, number] += self.scene.worth.visit[here].T @ inside
                mean = np.zeros(self.scene.sites)
                mean[here] = inside.mean(axis=1)
                each = (mean[:, None] * self.scene.worth.visit)[self.scene.site] * self.shared[:, None]
                self.by_heater[:, :, number] += each

    def _on_plans(self) -> None:
        """What each year of a site counts for, as long as it stays."""
        if not self.scene.worth.year.any():
            return
        for number in range(self.years):
            stays = np.clip(self.gone - number, 0.0, 1.0)
            self.measures[:, :, number] += self.scene.worth.year.T @ stays
            each = self.scene.worth.year * stays.mean(axis=1)[:, None]
            self.by_heater[:, :, number] += each[self.scene.site] * self.shared[:, None]

    def _add(
        self, name: str | None, row: IntArray, is_done: BoolArray, year: IntArray, worth: FloatArray | None
    ) -> None:
        for number in np.unique(year[year < self.years]).tolist():
            here = np.flatnonzero(year == number)
            inside = is_done[here].astype(np.float64)
            if name is not None:
                self.counts[COUNTED.index(name), :, number] += inside.sum(axis=0)
            if worth is not None:
                self.measures[:, :, number] += worth[here].T @ inside
                self.by_heater[row[here], :, number] += worth[here] * inside.mean(axis=1)[:, None]

    def _ends(self) -> FloatArray:
        """Years until each heater is replaced for the first time, (n, f), inf of one that has no tank; counted here."""
        scene, luck, shape = self.scene, self.luck, (self.scene.site.size, self.luck.shared.futures)
        ends = np.full(shape, np.inf)
        one = scene.found.of(Component.TANK)
        if one is None:
            return ends
        chance = luck.chance[Component.TANK]
        tanks = _Tanks.of(scene, luck.shared)
        leaks = tanks.years_to(chance)
        advised = np.where(again(chance, 3) < scene.accepted, np.maximum(one.due_years, 0.0)[:, None], np.inf)
        advised = np.where(scene.replaced[one.row][:, None], 0.0, advised)
        first = np.minimum(leaks, advised)
        later = first + tanks.years_of_new(again(chance, 1))
        gone = self.gone[scene.site[one.row]]
        worth = scene.worth.tank[one.row]
        for when, leaked in ((first, leaks <= advised), (later, np.ones(first.shape, dtype=bool))):
            there = when < gone
            for number in range(self.years):
                inside = there & (when >= number) & (when < number + 1)
                self.counts[COUNTED.index("replacements"), :, number] += inside.sum(axis=0)
                self.counts[COUNTED.index("leaks"), :, number] += (inside & leaked).sum(axis=0)
                self.measures[:, :, number] += worth.T @ inside
                self.by_heater[one.row, :, number] += worth * inside.mean(axis=1)[:, None]
        ends[one.row] = first
        return ends


def _first_visits(served: list[ComponentForecast], site: IntArray, sites: int) -> FloatArray:
    """Years until each site is first visited, (sites,): its first due date, within a year; what is overdue is spread
    over the weeks in which it is caught up with."""
    first = np.full(sites, 1.0)
    for one in served:
        np.minimum.at(first, site[one.row], one.due_years)
    place = (np.arange(sites) * 0.6180339887) % 1.0
    return np.asarray(np.where(first <= 0, CATCH_UP_YEARS * place, np.minimum(first, 1.0)))


@dataclass
class _Cleaned:
    """When each is due, and how long a service lasts, (k, f)."""

    due: FloatArray
    interval: FloatArray

    def new_tank(self, ends: FloatArray, before: FloatArray, at: FloatArray) -> None:
        """A heater that was replaced since the last visit begins anew."""
        fresh = (ends > before) & (ends <= at)
        if fresh.any():
            self.due = np.where(fresh, ends + self.interval, self.due)

    def served(self, is_done: BoolArray, at: FloatArray, lasts: FloatArray, chance: FloatArray) -> BoolArray | None:
        """Do it where it is done. Returns: where a part was renewed, None where there is none to renew."""
        self.due = np.where(is_done, at + self.interval, self.due)
        return None


@dataclass
class _Rods(_Cleaned):
    worn: FloatArray
    """When each reaches its limit."""

    def new_tank(self, ends: FloatArray, before: FloatArray, at: FloatArray) -> None:
        fresh = (ends > before) & (ends <= at)
        if fresh.any():
            self.worn = np.where(fresh, ends + self.interval, self.worn)
            self.due = np.where(fresh, np.minimum(self.worn, ends + ANODE.first_look_years), self.due)

    def served(self, is_done: BoolArray, at: FloatArray, lasts: FloatArray, chance: FloatArray) -> BoolArray | None:
        """A rod that would not last until the next visit is renewed; the others were looked at."""
        renewed = is_done & (self.worn <= lasts - WAITS_YEARS)
        self.worn = np.where(renewed, at + self.interval, self.worn)
        self.due = np.where(is_done, np.minimum(self.worn, at + ANODE.longest_unseen_years), self.due)
        return np.asarray(renewed)


@dataclass
class _Valves(_Cleaned):
    fitted: FloatArray
    stuck: FloatArray
    """Probability of failing the trial of a year, (k, f)."""
    condemned: BoolArray
    old_years: FloatArray

    def new_tank(self, ends: FloatArray, before: FloatArray, at: FloatArray) -> None:
        """A new heater comes with a new valve."""
        fresh = (ends > before) & (ends <= at)
        if fresh.any():
            self.fitted = np.where(fresh, ends, self.fitted)
            self.condemned = self.condemned & ~fresh

    def served(self, is_done: BoolArray, at: FloatArray, lasts: FloatArray, chance: FloatArray) -> BoolArray | None:
        renewed = is_done & (
            self.condemned | (at - self.fitted >= self.old_years - WAITS_YEARS) | (chance < self.stuck)
        )
        self.fitted = np.where(renewed, at, self.fitted)
        self.condemned = self.condemned & ~renewed
        self.due = np.where(is_done, at + self.interval, self.due)
        return np.asarray(renewed)


def _yearly(one: ComponentForecast, scene: Scene, wrong: FloatArray) -> _Cleaned:
    due = np.broadcast_to(np.maximum(one.due_years, 0.0)[:, None], wrong.shape).copy()
    return _Cleaned(due, np.ones(wrong.shape))


def _valves(one: ComponentForecast, scene: Scene, wrong: FloatArray) -> _Valves:
    plain = _yearly(one, scene, wrong)
    heaters = scene.to_come.heaters.at(one.row)
    hazard = relief_valve.hazard(np.ones(one.row.size), heaters.hardness_mg_l)
    stuck = -np.expm1(-np.exp(one.log_theta[:, None] + wrong) * hazard[:, None])
    fitted = np.broadcast_to((heaters.valve_fitted_years - heaters.age_years)[:, None], wrong.shape).copy()
    condemned = ReliefValveComponent.of(scene.fleet).condemned[one.row]
    old = relief_valve.replacement_age_years(heaters.hardness_mg_l)[:, None]
    return _Valves(
        plain.due, plain.interval, fitted, stuck, np.broadcast_to(condemned[:, None], wrong.shape).copy(), old
    )


def _rods(one: ComponentForecast, scene: Scene, wrong: FloatArray) -> _Rods:
    rods = AnodeComponent.of(scene.to_come).rods
    slower = np.exp(-LEARNED * wrong)
    share = np.minimum(anode.BARE_LIMIT * np.exp(-_accepted(one, scene.fleet)), 1e4)
    interval = np.maximum(anode.years_to_consume(rods, share)[:, None] * slower, 1.0)
    accepted = scene.fleet.heaters.tolerance[one.row]
    reached = np.array(
        [np.interp(chance, PROBABILITIES, years) for chance, years in zip(accepted, one.reached_years, strict=True)]
    )
    due = np.broadcast_to(np.maximum(one.due_years, 0.0)[:, None], wrong.shape).copy()
    return _Rods(due, interval, reached.reshape(-1, 1) * slower)


@dataclass
class _Deposits(_Cleaned):
    """What lies in each at theta = 1, and when that was; a deposit is two figures, (k, f) each."""

    bed: sediment.Bed
    since: FloatArray
    rate: FloatArray
    """(k,)."""
    limit: FloatArray
    """At which the accepted risk is reached as far as the pace is known, at theta = 1, (k, f)."""
    calendar: FloatArray
    """Years by the practice, NaN where it goes by condition, (k, 1)."""
    longest: FloatArray
    lasts: Callable[[sediment.Bed, IntArray, FloatArray], FloatArray]
    """Years until a deposit of these rows reaches a limit."""
    cleaned: Callable[[sediment.Bed, IntArray, FloatArray], sediment.Bed]
    grown: Callable[[sediment.Bed, FloatArray, FloatArray], sediment.Bed]

    def new_tank(self, ends: FloatArray, before: FloatArray, at: FloatArray) -> None:
        fresh = np.nonzero((ends > before) & (ends <= at))
        if fresh[0].size:
            nothing = np.zeros(fresh[0].size)
            self._begun(fresh, (nothing, nothing), ends[fresh])

    def served(self, is_done: BoolArray, at: FloatArray, lasts: FloatArray, chance: FloatArray) -> BoolArray | None:
        done = np.nonzero(is_done)
        now = at[done[0], 0]
        grown = self.grown((self.bed[0][done], self.bed[1][done]), self.rate[done[0]], now - self.since[done])
        self._begun(done, self.cleaned(grown, done[0], self.limit[done]), now)
        return None

    def _begun(self, where: tuple[IntArray, ...], left: sediment.Bed, at: FloatArray) -> None:
        row = where[0]
        self.bed[0][where], self.bed[1][where], self.since[where] = left[0], left[1], at
        by_risk = self.lasts(left, row, self.limit[where])
        calendar = self.calendar[row, 0]
        clipped = np.clip(by_risk, policy.SHORTEST_FLUSH_YEARS, self.longest[row])
        self.interval[where] = np.where(np.isnan(calendar), clipped, calendar)
        self.due[where] = at + self.interval[where]


def _deposits(
    one: ComponentForecast, scene: Scene, wrong: FloatArray, now: SedimentComponent | ScaleComponent, bed: sediment.Bed,
    rate: FloatArray, lasts: Callable[[sediment.Bed, IntArray, FloatArray], FloatArray],
    cleaned: Callable[[sediment.Bed, IntArray, FloatArray], sediment.Bed],
    grown: Callable[[sediment.Bed, FloatArray, FloatArray], sediment.Bed],
) -> _Deposits:  # fmt: skip
    heaters = scene.fleet.heaters.at(one.row)
    factor = np.exp(now.believed(_belief(one)).level.shift)[:, None]
    limit = now.limit_driver[:, None] * np.exp(-_then_accepted(one, scene.fleet)[:, None] - LEARNED * wrong)
    calendar = policy.calendar_years(heaters.practice, heaters.hardness_mg_l)[:, None]
    due = np.maximum(one.due_years, 0.0)[:, None]
    faster = (rate / np.maximum(now.unit_rate, 1e-12))[:, None]
    # What lies there stays; only what comes is another water's.
    moved = np.minimum(due / faster, np.maximum(one.latest_years, 0.0)[:, None])
    due = np.where(np.isnan(calendar) & (faster != 1), moved, due)
    each = [np.broadcast_to(values[:, None] * factor, wrong.shape).copy() for values in bed]
    return _Deposits(
        np.broadcast_to(due, wrong.shape).copy(), np.full(wrong.shape, np.inf), (each[0], each[1]),
        np.zeros(wrong.shape), rate, limit, calendar, heaters.longest_flush_years, lasts, cleaned, grown,
    )  # fmt: skip


def _beds(one: ComponentForecast, scene: Scene, wrong: FloatArray) -> _Deposits:
    """Beds of tanks, flushed as the company does, and jetted where that would leave them over their limit."""
    now = SedimentComponent.of(scene.fleet).informed(_taught(one, scene))
    rate, floor, usual = SedimentComponent.of(scene.to_come).unit_rate, now.heaters.floor_m2, now.heaters.flush_method
    jetting = np.array(code(FlushMethod.JETTING))
    risk = np.exp(_then_accepted(one, scene.fleet) - one.log_theta)

    def lasts(bed: sediment.Bed, row: IntArray, limit: FloatArray) -> FloatArray:
        return sediment.years_to_depth(bed, rate[row], floor[row], limit)

    def cleaned(bed: sediment.Bed, row: IntArray, limit: FloatArray) -> sediment.Bed:
        plain = sediment.flushed(bed, usual[row], now.taught.removal)
        jetted = sediment.flushed(bed, np.broadcast_to(jetting, row.shape), now.taught.removal)
        # More likely than not: at the middle of what is known of the pace, not at the accepted risk.
        stays = sediment.depth_m(plain, floor[row]) > limit * risk[row]
        return np.where(stays, jetted[0], plain[0]), np.where(stays, jetted[1], plain[1])

    return _deposits(one, scene, wrong, now, now.history.bed, rate, lasts, cleaned, sediment.grown)


def _scale(one: ComponentForecast, scene: Scene, wrong: FloatArray) -> _Deposits:
    now = ScaleComponent.of(scene.fleet).informed(_taught(one, scene))
    rate, left = ScaleComponent.of(scene.to_come).unit_rate, 1 - scale.removed_share(now.taught.removal)

    def lasts(bed: sediment.Bed, row: IntArray, limit: FloatArray) -> FloatArray:
        return np.asarray(np.maximum(limit - bed[0], 0.0) / rate[row])

    def cleaned(bed: sediment.Bed, row: IntArray, limit: FloatArray) -> sediment.Bed:
        return bed[0] * left, bed[1]

    def grown(bed: sediment.Bed, rate: FloatArray, years: FloatArray) -> sediment.Bed:
        return bed[0] + rate * years, bed[1]

    nothing = np.zeros(one.row.size)
    return _deposits(one, scene, wrong, now, (now.history.now_m, nothing), rate, lasts, cleaned, grown)


_STATES = {
    Component.SEDIMENT: _beds,
    Component.SCALE: _scale,
    Component.ANODE: _rods,
    Component.RELIEF_VALVE: _valves,
    Component.EXPANSION_TANK: _yearly,
}


def _belief(one: ComponentForecast) -> learning.Posterior:
    nothing = np.zeros((one.row.size, learning.GRID.size), dtype=np.float32)
    return learning.with_prior(nothing, learning.Prior(one.log_theta, np.maximum(one.log_theta_sd, 0.08)))


def _accepted(one: ComponentForecast, fleet: Fleet) -> FloatArray:
    return at_each(_belief(one).quantiles, 1 - fleet.heaters.tolerance[one.row])


def _then_accepted(one: ComponentForecast, fleet: Fleet) -> FloatArray:
    """The pace that is reckoned with once the next service has told something of it, (k,)."""
    return np.asarray(one.log_theta + NARROWED * (_accepted(one, fleet) - one.log_theta))


def _taught(one: ComponentForecast, scene: Scene) -> ComponentCalibration:
    return scene.calibration.get(one.component, ComponentCalibration())


@dataclass(frozen=True)
class _Tanks:
    """Tanks whose rods are seen to from the first visit on; k tanks, f futures."""

    tanks: TankComponent
    log_ratio: FloatArray
    """ln of the hazard ratio, (k, f)."""
    is_kept: BoolArray
    """Whether there is a rod to be renewed, (k,)."""

    @classmethod
    def of(cls, scene: Scene, common: Shared) -> "_Tanks":
        rods = AnodeComponent.of(scene.to_come) if AnodeComponent.rows_of(scene.to_come.heaters).size else None
        wear = scene.found.of(Component.ANODE)
        life = scene.calibration.get(Component.TANK, ComponentCalibration()).life
        tanks = TankComponent.of(scene.to_come, rods, None if wear is None else wear.log_theta, life)
        factor = np.log(life.quantiles(np.clip(common.life, 1e-6, 1 - 1e-6))) - np.log(life.mean)
        kept = np.zeros(scene.site.size, dtype=bool)
        if rods is not None:
            kept[rods.row] = True
        return cls(tanks, tanks.log_ratio[:, None] + factor[None, :], kept[tanks.row])

    def years_to(self, chance: FloatArray) -> FloatArray:
        """Years until each gives way, (k, f): a rod that is spent today counts until it is renewed within the year."""
        nothing = np.zeros((self.tanks.row.size, 1))
        effective = tank.years_to_failure(
            chance, self.tanks.heaters.age_years[:, None], self.tanks.spent_years[:, None], nothing, self.log_ratio
        )
        first = (1 + TANK.spent_weight * self.tanks.spent_ahead)[:, None]
        then = np.where(self.is_kept[:, None], 1.0, first)
        return np.where(effective <= first, effective / first, 1 + (effective - first) / then)

    def years_of_new(self, chance: FloatArray) -> FloatArray:
        """Years that a new one in its place lasts, (k, f): on the same water, without the old one's symptoms."""
        stress = replace(self.tanks.stress, log_symptoms=np.zeros(self.tanks.row.size))
        plain = self.log_ratio - self.tanks.stress.log_symptoms[:, None]
        nothing = np.zeros((stress.log_symptoms.size, 1))
        return tank.years_to_failure(chance, nothing, nothing, nothing, plain)

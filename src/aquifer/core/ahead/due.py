"""When each component of each heater is due in each future, and how long a service of it lasts.

A service corrects half of what was wrong about a pace, and narrows what is not known of it.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from aquifer.core import anode, learning, policy, relief_valve, scale, sediment
from aquifer.core.ahead.scene import Scene
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.components import AnodeComponent, ReliefValveComponent, ScaleComponent, SedimentComponent
from aquifer.core.fleet import Fleet
from aquifer.core.forecast import PROBABILITIES, ComponentForecast
from aquifer.core.learning import ComponentCalibration
from aquifer.core.learning.grid import at_each
from aquifer.core.parameters import ANODE
from aquifer.core.vocabulary import Component, DecidedBy, FlushMethod, Method, RodGrade, code

LEARNED = 0.5
"""Share of what was wrong about a heater's pace that its next service corrects. Assumption."""
NARROWED = 0.9
"""Share of the margin for what is not known of a pace that its next service leaves. Fitted to simulated bases of other
families (docs/study/years.md)."""
_MOSTLY_GONE = ANODE.grade_cuts[code(RodGrade.MOSTLY_GONE) - 1]
SEASON_LETS = 2.0
"""Over the accepted risk, the one at which seasons do what goes by it. Fitted to seasons planned by the program's own
search in simulated bases of other families (docs/study/years.md)."""
_MOST_LET = 0.9
NEVER_YEARS = 1e3
"""Beyond every plan, years. Numerical."""
SHORT_YEARS = 0.75
"""What lasts less is done between two yearly visits as well. Assumption."""
WAITS_YEARS = 0.02
"""What is due within a week of the next visit waits for it. Assumption."""


@dataclass
class Due:
    """When each is due, and how long a service lasts, (k, f)."""

    due: FloatArray
    interval: FloatArray

    def rests(self) -> FloatArray | float:
        """How long it is left alone after a service, years, (k, 1)."""
        return 0.0

    def new_tank(self, ends: FloatArray, before: FloatArray, at: FloatArray) -> None:
        """A heater that was replaced since the last visit begins anew."""
        fresh = (ends > before) & (ends <= at)
        if fresh.any():
            self.due = np.where(fresh, ends + self.interval, self.due)

    def served(self, is_done: BoolArray, at: FloatArray, chance: FloatArray) -> BoolArray | None:
        """Do it where it is done. Returns: where a part was renewed, None where there is none to renew."""
        self.due = np.where(is_done, at + self.interval, self.due)
        return None


@dataclass
class Rods(Due):
    worn: FloatArray
    """When each reaches its limit at the risk that is accepted: from then on it is looked at."""
    fitted: FloatArray
    lasts: FloatArray
    """Years until an eye calls it mostly gone."""

    def new_tank(self, ends: FloatArray, before: FloatArray, at: FloatArray) -> None:
        fresh = (ends > before) & (ends <= at)
        if fresh.any():
            self.fitted = np.where(fresh, ends, self.fitted)
            self.worn = np.where(fresh, ends + self.interval, self.worn)
            self.due = np.where(fresh, np.minimum(self.worn, ends + ANODE.first_look_years), self.due)

    def served(self, is_done: BoolArray, at: FloatArray, chance: FloatArray) -> BoolArray | None:
        """A rod that is mostly gone is renewed, as the rules say (``judgement.on_site``); the others were looked at."""
        renewed = is_done & (at - self.fitted >= self.lasts)
        self.worn = np.where(renewed, at + self.interval, self.worn)
        self.fitted = np.where(renewed, at, self.fitted)
        self.due = np.where(is_done, np.minimum(self.worn, at + ANODE.longest_unseen_years), self.due)
        return np.asarray(renewed)


@dataclass
class Valves(Due):
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

    def served(self, is_done: BoolArray, at: FloatArray, chance: FloatArray) -> BoolArray | None:
        renewed = is_done & (
            self.condemned | (at - self.fitted >= self.old_years - WAITS_YEARS) | (chance < self.stuck)
        )
        self.fitted = np.where(renewed, at, self.fitted)
        self.condemned = self.condemned & ~renewed
        self.due = np.where(is_done, at + self.interval, self.due)
        return np.asarray(renewed)


def _yearly(one: ComponentForecast, scene: Scene, wrong: FloatArray) -> Due:
    due = np.broadcast_to(np.maximum(one.due_years, 0.0)[:, None], wrong.shape).copy()
    return Due(due, np.ones(wrong.shape))


def _valves(one: ComponentForecast, scene: Scene, wrong: FloatArray) -> Valves:
    plain = _yearly(one, scene, wrong)
    heaters = scene.to_come.heaters.at(one.row)
    hazard = relief_valve.hazard(np.ones(one.row.size), heaters.hardness_mg_l)
    stuck = -np.expm1(-np.exp(one.log_theta[:, None] + wrong) * hazard[:, None])
    fitted = np.broadcast_to((heaters.valve_fitted_years - heaters.age_years)[:, None], wrong.shape).copy()
    condemned = ReliefValveComponent.of(scene.fleet).condemned[one.row]
    old = relief_valve.replacement_age_years(heaters.hardness_mg_l)[:, None]
    return Valves(
        plain.due, plain.interval, fitted, stuck, np.broadcast_to(condemned[:, None], wrong.shape).copy(), old
    )


def _rods(one: ComponentForecast, scene: Scene, wrong: FloatArray) -> Rods:
    rods = AnodeComponent.of(scene.to_come).rods
    slower = np.exp(-LEARNED * wrong)
    share = np.minimum(anode.BARE_LIMIT * np.exp(-accepted(one, scene.fleet)), 1e4)
    interval = np.maximum(anode.years_to_consume(rods, share)[:, None] * slower, 1.0)
    tolerance = tolerated(scene.fleet.heaters.tolerance[one.row])
    reached = np.array(
        [np.interp(chance, PROBABILITIES, years) for chance, years in zip(tolerance, one.reached_years, strict=True)]
    )
    due = np.broadcast_to(np.maximum(one.due_years, 0.0)[:, None], wrong.shape).copy()
    heaters = scene.to_come.heaters.at(one.row)
    fitted = np.broadcast_to((heaters.rod_fitted_years - heaters.age_years)[:, None], wrong.shape).copy()
    mostly = np.minimum(_MOSTLY_GONE * np.exp(-(one.log_theta[:, None] + wrong)), 1e4)
    lasts = anode.years_to_consume(rods.column(), mostly)
    return Rods(due, interval, reached.reshape(-1, 1) * slower, fitted, lasts)


@dataclass
class Deposits(Due):
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
    once: bool
    """A season that goes by risk has it once: a second flush would bring out what the first left."""
    lasts: Callable[[sediment.Bed, IntArray, FloatArray], FloatArray]
    """Years until a deposit of these rows reaches a limit."""
    cleaned: Callable[[sediment.Bed, IntArray, FloatArray], sediment.Bed]
    grown: Callable[[sediment.Bed, FloatArray, FloatArray], sediment.Bed]

    def rests(self) -> FloatArray | float:
        often = np.logical_not(self.once) | (self.calendar < SHORT_YEARS)
        return np.where(often, 0.0, SHORT_YEARS)

    def new_tank(self, ends: FloatArray, before: FloatArray, at: FloatArray) -> None:
        fresh = np.nonzero((ends > before) & (ends <= at))
        if fresh[0].size:
            nothing = np.zeros(fresh[0].size)
            self._begun(fresh, (nothing, nothing), ends[fresh])

    def served(self, is_done: BoolArray, at: FloatArray, chance: FloatArray) -> BoolArray | None:
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
) -> Deposits:  # fmt: skip
    heaters = scene.fleet.heaters.at(one.row)
    factor = np.exp(now.believed(_belief(one)).level.shift)[:, None]
    limit = now.limit_driver[:, None] * np.exp(-then_accepted(one, scene.fleet)[:, None] - LEARNED * wrong)
    calendar = policy.calendar_years(heaters.practice, heaters.hardness_mg_l)[:, None]
    due = np.maximum(one.due_years, 0.0)[:, None]
    faster = (rate / np.maximum(now.unit_rate, 1e-12))[:, None]
    # What lies there stays; only what comes is another water's.
    moved = np.minimum(due / faster, np.maximum(one.latest_years, 0.0)[:, None])
    due = np.where(np.isnan(calendar) & (faster != 1), moved, due)
    due = np.where(left_alone(one, scene)[:, None] & np.isnan(calendar), NEVER_YEARS, due)
    each = [np.broadcast_to(values[:, None] * factor, wrong.shape).copy() for values in bed]
    return Deposits(
        np.broadcast_to(due, wrong.shape).copy(), np.full(wrong.shape, np.inf), (each[0], each[1]),
        np.zeros(wrong.shape), rate, limit, calendar, heaters.longest_flush_years,
        one.component is Component.SEDIMENT, lasts, cleaned, grown,
    )  # fmt: skip


def _beds(one: ComponentForecast, scene: Scene, wrong: FloatArray) -> Deposits:
    """Beds of tanks, flushed as the company does, and jetted where that would leave them over their limit."""
    now = SedimentComponent.of(scene.fleet).informed(_taught(one, scene))
    rate = SedimentComponent.of(scene.to_come).informed(now.taught).unit_rate
    floor, usual = now.heaters.floor_m2, now.heaters.flush_method
    jetting = np.array(code(FlushMethod.JETTING))
    risk = np.exp(then_accepted(one, scene.fleet) - one.log_theta)

    def lasts(bed: sediment.Bed, row: IntArray, limit: FloatArray) -> FloatArray:
        return sediment.years_to_depth(bed, rate[row], floor[row], limit)

    def cleaned(bed: sediment.Bed, row: IntArray, limit: FloatArray) -> sediment.Bed:
        plain = sediment.flushed(bed, usual[row], now.taught.removal)
        jetted = sediment.flushed(bed, np.broadcast_to(jetting, row.shape), now.taught.removal)
        # More likely than not: at the middle of what is known of the pace, not at the accepted risk.
        stays = sediment.depth_m(plain, floor[row]) > limit * risk[row]
        return np.where(stays, jetted[0], plain[0]), np.where(stays, jetted[1], plain[1])

    return _deposits(one, scene, wrong, now, now.history.bed, rate, lasts, cleaned, sediment.grown)


def _scale(one: ComponentForecast, scene: Scene, wrong: FloatArray) -> Deposits:
    now = ScaleComponent.of(scene.fleet).informed(_taught(one, scene))
    rate = ScaleComponent.of(scene.to_come).informed(now.taught).unit_rate
    left = 1 - scale.removed_share(now.taught.removal)

    def lasts(bed: sediment.Bed, row: IntArray, limit: FloatArray) -> FloatArray:
        return np.asarray(np.maximum(limit - bed[0], 0.0) / rate[row])

    def cleaned(bed: sediment.Bed, row: IntArray, limit: FloatArray) -> sediment.Bed:
        return bed[0] * left, bed[1]

    def grown(bed: sediment.Bed, rate: FloatArray, years: FloatArray) -> sediment.Bed:
        return bed[0] + rate * years, bed[1]

    nothing = np.zeros(one.row.size)
    return _deposits(one, scene, wrong, now, (now.history.now_m, nothing), rate, lasts, cleaned, grown)


STATES = {
    Component.SEDIMENT: _beds,
    Component.SCALE: _scale,
    Component.ANODE: _rods,
    Component.RELIEF_VALVE: _valves,
    Component.EXPANSION_TANK: _yearly,
}


def _belief(one: ComponentForecast) -> learning.Posterior:
    nothing = np.zeros((one.row.size, learning.GRID.size), dtype=np.float32)
    return learning.with_prior(nothing, learning.Prior(one.log_theta, np.maximum(one.log_theta_sd, 0.08)))


def accepted(one: ComponentForecast, fleet: Fleet) -> FloatArray:
    """ln of the pace that is reckoned with at the risk that each heater's owner accepts, (k,). Source: the forecast's
    own belief as a normal."""
    return at_each(_belief(one).quantiles, 1 - tolerated(fleet.heaters.tolerance[one.row]))


def tolerated(tolerance: FloatArray) -> FloatArray:
    """At which risk a season really does a service, any shape: what is due by a little more than the accepted one is
    often left until the site is visited anyway. Parameters: the accepted risk, 0 to 1."""
    return np.minimum(SEASON_LETS * tolerance, np.maximum(tolerance, _MOST_LET))


def left_alone(one: ComponentForecast, scene: Scene) -> BoolArray:
    """Which a season leaves over their limit, (k,): cleaning them spares less within a year than it costs, since most
    of what lies there stays.

    Source: what a season weighs (``planning.season``); those that a calendar or a cap asks for are not weighed.
    """
    costs = np.array([scene.hours.look(one.component, list(Method)[int(method)]) for method in one.method])
    weighed = (one.decided_by != code(DecidedBy.PRACTICE)) & (one.latest_years > 1)
    return np.asarray(weighed & (one.due_years <= 0) & (scene.worth_hours * one.benefit < costs))


def then_accepted(one: ComponentForecast, fleet: Fleet) -> FloatArray:
    """The pace that is reckoned with once the next service has told something of it, (k,)."""
    return np.asarray(one.log_theta + NARROWED * (accepted(one, fleet) - one.log_theta))


def _taught(one: ComponentForecast, scene: Scene) -> ComponentCalibration:
    return scene.calibration.get(one.component, ComponentCalibration())

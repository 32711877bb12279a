"""Relief valves as the forecast sees them."""

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from aquifer.core import learning, policy, relief_valve
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.components.growing import REACH_YEARS, YEAR, ComingYear, Paced
from aquifer.core.fleet import Fleet, Heaters
from aquifer.core.learning import Evidence, Pairs, Posterior
from aquifer.core.parameters import RELIEF_VALVE
from aquifer.core.turns import by_rank
from aquifer.core.vocabulary import Component, Method, ValveOutcome, code


@dataclass(frozen=True)
class ReliefValveComponent(Paced):
    row: IntArray
    heaters: Heaters
    fleet: Fleet
    since_run: FloatArray
    """Years since the valve last ran, or was fitted."""
    hazard_at_trial: FloatArray
    """At theta = 1, of each trial, (m,); NaN where it says nothing."""
    stuck: BoolArray
    condemned: BoolArray
    name = Component.RELIEF_VALVE
    hears: ClassVar[tuple[str, ...]] = ("valve_trials",)
    unit = "1/year"
    future_spread = RELIEF_VALVE.future_spread

    @staticmethod
    def rows_of(heaters: Heaters) -> IntArray:
        return np.arange(len(heaters))

    @classmethod
    def of(cls, fleet: Fleet) -> "ReliefValveComponent":
        n = len(fleet.heaters)
        h, trials = fleet.heaters, fleet.valve_trials
        ran_at = np.zeros(n)
        stuck, condemned = np.zeros(n, dtype=bool), np.zeros(n, dtype=bool)
        hazard = np.full(trials.row.size, np.nan)
        no_flow, weeps = code(ValveOutcome.NO_FLOW), code(ValveOutcome.FLOWS_AND_WEEPS)
        for events in by_rank(trials.row):
            row, outcome, new = trials.row[events], trials.outcome[events], trials.replaced[events]
            tried = ~new & (outcome >= 0) & (outcome != code(ValveOutcome.NOT_TESTED)) & ~stuck[row]
            now, fitted = trials.years[events], h.valve_fitted_years[row]
            # One fitted on the day of a trial was fitted after it: what was tried is the one before.
            since = np.where(fitted < now, np.maximum(ran_at[row], fitted), ran_at[row])
            waited = np.maximum(now - since, 1 / 365)
            hazard[events[tried]] = relief_valve.hazard(waited, h.hardness_mg_l[row])[tried]
            stuck[row] = np.where(new, False, np.where(tried, outcome == no_flow, stuck[row]))
            condemned[row] = np.where(
                new, False, np.where(tried, (outcome == no_flow) | (outcome == weeps), condemned[row])
            )
            ran = new | (tried & (outcome != no_flow))
            ran_at[row] = np.where(ran, trials.years[events], ran_at[row])
        # A valve known to be younger than the last trial was fitted since: it is neither stuck nor condemned.
        renewed = h.valve_fitted_years > np.nan_to_num(trials.last_years(n), nan=np.inf)
        stuck, condemned = stuck & ~renewed, condemned & ~renewed
        ran_at = np.maximum(ran_at, h.valve_fitted_years)
        since = np.maximum(h.age_years - ran_at, 0.0)
        return cls(cls.rows_of(h), h, fleet, since, hazard, stuck, condemned)

    @property
    def zone_spread(self) -> FloatArray:
        return np.full(self.row.size, RELIEF_VALVE.zone_spread)

    @property
    def heater_spread(self) -> FloatArray:
        return np.full(self.row.size, RELIEF_VALVE.own_spread)

    def evidence(self) -> Evidence:
        t = self.fleet.valve_trials
        said = np.flatnonzero(~np.isnan(self.hazard_at_trial))
        failed = t.outcome[said] == code(ValveOutcome.NO_FLOW)
        return Evidence(demands=learning.Demands(t.row[said], t.years[said], self.hazard_at_trial[said], failed))

    def pairs(self) -> Pairs | None:
        return None

    @property
    def since_service(self) -> FloatArray:
        return self.since_run

    def years_from_service(self, log_theta: FloatArray) -> FloatArray:
        h = self.heaters
        interval = relief_valve.proof_interval_years(h.valve_target[:, None], h.hardness_mg_l[:, None], log_theta)
        return np.where(self.condemned[:, None], 0.0, np.minimum(interval, REACH_YEARS))

    def due(self, by_risk: FloatArray, belief: Posterior) -> policy.Due:
        h = self.heaters
        interval = relief_valve.proof_interval_years(h.valve_target, h.hardness_mg_l, belief.mean)
        return policy.valve_due(interval, self.since_run, h.age_years - h.valve_fitted_years, self.condemned)

    def coming_year(self, belief: Posterior, due: policy.Due, ends: BoolArray) -> ComingYear:
        """Here the probability of being stuck."""
        h = self.heaters
        hardness = h.hardness_mg_l[:, None]
        waits = np.concatenate([self.since_run[:, None] + YEAR, np.broadcast_to(YEAR, (self.row.size, 3))], axis=1)
        hazard = relief_valve.hazard(waits, hardness)
        # exp(theta) once for all times: each is a product with it, in single precision at a third of the cost.
        pace = -hazard.astype(np.float32)[:, :, None]
        stuck = belief.expected(lambda log_theta: 1 - np.exp(pace * np.exp(log_theta).astype(np.float32)[:, None, :]))
        unserviced, serviced = np.split(stuck, [YEAR.size], axis=1)
        unserviced = np.where(self.stuck[:, None], 1.0, unserviced)
        age_at_due = h.age_years - h.valve_fitted_years + np.maximum(due.years, 0.0)
        old = age_at_due >= relief_valve.replacement_age_years(h.hardness_mg_l)
        method = np.where(old | self.condemned, code(Method.REPLACE), code(Method.EXERCISE))
        return ComingYear(method, unserviced, serviced)

    def rate(self, log_theta: FloatArray) -> FloatArray:
        first_year = relief_valve.hazard(np.ones(self.row.size), self.heaters.hardness_mg_l)
        return np.asarray(-np.expm1(-first_year[:, None] * np.exp(log_theta)))

    def states(self, log_theta: FloatArray) -> dict[str, FloatArray]:
        now = relief_valve.hazard(self.since_run, self.heaters.hardness_mg_l)
        stuck = -np.expm1(-now[:, None] * np.exp(log_theta))
        return {"probability_stuck": np.where(self.stuck[:, None], 1.0, stuck)}

    def states_in_a_year(self, log_theta: FloatArray) -> FloatArray:
        then = relief_valve.hazard(self.since_run + 1.0, self.heaters.hardness_mg_l)
        return np.where(self.stuck[:, None], 1.0, -np.expm1(-then[:, None] * np.exp(log_theta)))

    def limit(self) -> tuple[str, FloatArray]:
        return "average_probability_stuck", self.heaters.valve_target

    def log_factors(self) -> dict[str, FloatArray]:
        p = RELIEF_VALVE
        return {"hardness": p.hardness_slope * (self.heaters.hardness_mg_l - p.reference_hardness_mg_l)}

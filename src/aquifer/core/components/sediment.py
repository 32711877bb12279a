"""Sediment of tanks as the forecast sees it."""

from dataclasses import dataclass, replace

import numpy as np

from aquifer.core import learning, policy, sediment
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.components.growing import REACH_YEARS, log_bounds, log_of
from aquifer.core.fleet import Fleet, Heaters
from aquifer.core.learning import Evidence, Posterior
from aquifer.core.parameters import SEDIMENT
from aquifer.core.vocabulary import Component, FlushMethod, Method


@dataclass(frozen=True)
class SedimentComponent:
    row: IntArray
    heaters: Heaters
    fleet: Fleet
    unit_rate: FloatArray
    """kg/year at theta = 1."""
    history: sediment.History
    name = Component.SEDIMENT
    unit = "kg/year"

    @classmethod
    def of(cls, fleet: Fleet) -> "SedimentComponent":
        row = np.flatnonzero(fleet.heaters.is_tank)
        heaters = fleet.heaters.at(row)
        own = replace(fleet, flushes=fleet.flushes.of(row, len(fleet.heaters)))
        rate = heaters.volume_m3 * sediment.deposit_kg_m3(heaters.potential_mg_l, heaters.suspended_mg_l)
        f = own.flushes
        flushes = sediment.Flushes(f.row, f.years, f.method)
        return cls(row, heaters, own, rate, sediment.replayed(rate, heaters.age_years, heaters.floor_m2, flushes))

    def evidence(self) -> Evidence:
        f, h = self.fleet.flushes, self.history
        weight = learning.faded(self.heaters.age_years[f.row] - f.years)
        measured = ~np.isnan(f.depth_m) & (f.depth_m > 0)
        collected = ~measured & ~np.isnan(f.volume_l) & (f.volume_l > 0)
        graded = ~measured & ~collected & (f.removed >= 0)
        log_depth = log_of(h.depth_before_m)
        low, high = log_bounds(SEDIMENT.grade_cuts_m, f.removed[graded])
        value = np.where(measured, log_of(f.depth_m) - log_depth, log_of(f.volume_l) - log_of(h.removed_l))
        numeric = measured | collected
        return Evidence(
            intervals=learning.Intervals(
                f.row[graded],
                low - log_depth[graded],
                high - log_depth[graded],
                np.full(graded.sum(), SEDIMENT.grade_spread),
                np.full(graded.sum(), SEDIMENT.misgrade),
                weight[graded],
            ),
            readings=learning.Readings(
                f.row[numeric],
                np.clip(value[numeric], learning.GRID[0], learning.GRID[-1]),
                np.where(measured, SEDIMENT.depth_spread, SEDIMENT.volume_spread)[numeric],
                weight[numeric],
            ),
        )

    @property
    def since_service(self) -> FloatArray:
        return self.heaters.age_years - self.history.last_years

    def years_from_service(self, log_theta: FloatArray) -> FloatArray:
        loose, hardened = self.history.bed_left
        limit = self.heaters.sediment_limit_m[:, None] * np.exp(-log_theta)
        bed = (loose[:, None], hardened[:, None])
        years = sediment.years_to_depth(bed, self.unit_rate[:, None], self.heaters.floor_m2[:, None], limit)
        return np.minimum(years, REACH_YEARS)

    def over_limit(self, belief: Posterior, years: FloatArray, method: Method | None) -> FloatArray:
        bed = self.history.bed
        if method is not None:
            bed = sediment.flushed(bed, FlushMethod(method.value))
        later = sediment.grown((bed[0][:, None], bed[1][:, None]), self.unit_rate[:, None], years)
        depth = sediment.depth_m(later, self.heaters.floor_m2[:, None])
        return belief.exceeding(log_of(self.heaters.sediment_limit_m)[:, None] - log_of(depth))

    def due(self, by_risk: FloatArray, belief: Posterior) -> policy.Due:
        h = self.heaters
        return policy.flush_due(by_risk, self.since_service, h.longest_flush_years, h.practice, h.hardness_mg_l)

    def method(self, belief: Posterior) -> IntArray:
        today = np.zeros(1)
        over = {m: self.over_limit(belief, today, Method(m.value))[:, 0] for m in FlushMethod}
        return policy.flush_method(self.heaters.flush_method, self.heaters.practice, over)

    def rate(self, log_theta: FloatArray) -> FloatArray:
        return np.asarray(self.unit_rate[:, None] * np.exp(log_theta))

    def state(self, log_theta: FloatArray) -> dict[str, FloatArray]:
        loose, hardened = self.history.bed
        theta = np.exp(log_theta)
        depth = sediment.depth_m(self.history.bed, self.heaters.floor_m2)
        return {
            "depth_mm": 1000 * depth[:, None] * theta,
            "loose_kg": loose[:, None] * theta,
            "hardened_kg": hardened[:, None] * theta,
        }

    def limit(self) -> tuple[str, FloatArray]:
        return "depth_mm", 1000 * self.heaters.sediment_limit_m

    def log_factors(self) -> dict[str, FloatArray]:
        p, h = SEDIMENT, self.heaters
        plain = sediment.deposit_kg_m3(np.array(p.reference_potential_mg_l), np.array(0.5))
        at_60 = sediment.deposit_kg_m3(h.potential_60_mg_l, h.suspended_mg_l)
        here = sediment.deposit_kg_m3(h.potential_mg_l, h.suspended_mg_l)
        return {
            "usage": np.log(h.volume_m3 / p.reference_volume_m3),
            "hardness": log_of(at_60) - log_of(plain),
            "temperature": log_of(here) - log_of(at_60),
            "tank_size": np.log(p.reference_floor_m2 / h.floor_m2),
        }

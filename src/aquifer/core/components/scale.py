"""Scale of tankless exchangers as the forecast sees it."""

from dataclasses import dataclass, replace

import numpy as np

from aquifer.core import learning, policy, scale
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.components.growing import REACH_YEARS, log_bounds, log_of
from aquifer.core.fleet import Fleet, Heaters
from aquifer.core.learning import Evidence, Posterior
from aquifer.core.parameters import SCALE, SEDIMENT
from aquifer.core.vocabulary import Component, Method, code


@dataclass(frozen=True)
class ScaleComponent:
    row: IntArray
    heaters: Heaters
    fleet: Fleet
    unit_rate: FloatArray
    """m/year at theta = 1."""
    history: scale.ScaleHistory
    name = Component.SCALE
    unit = "mm/year"

    @classmethod
    def of(cls, fleet: Fleet) -> "ScaleComponent":
        row = np.flatnonzero(~fleet.heaters.is_tank)
        h = fleet.heaters.at(row)
        own = replace(fleet, descales=fleet.descales.of(row, len(fleet.heaters)))
        growth = scale.growth_m_per_year(h.volume_m3, h.film_potential_mg_l, h.exchanger_m2)
        d = own.descales
        return cls(row, h, own, growth, scale.replayed(growth, h.age_years, d.row, d.years))

    def evidence(self) -> Evidence:
        d, before = self.fleet.descales, self.history.before_m
        weight = learning.faded(self.heaters.age_years[d.row] - d.years)
        weighed = ~np.isnan(d.dissolved_kg) & (d.dissolved_kg > 0)
        graded = ~weighed & (d.removed >= 0)
        cuts = tuple(cut * SCALE.limit_m for cut in SCALE.grade_cuts)
        low, high = log_bounds(cuts, d.removed[graded])
        log_before = log_of(before)
        dissolved = before * SCALE.removed_share * SCALE.density_kg_m3 * self.heaters.exchanger_m2[d.row]
        value = log_of(d.dissolved_kg) - log_of(dissolved)
        return Evidence(
            intervals=learning.Intervals(
                d.row[graded],
                low - log_before[graded],
                high - log_before[graded],
                np.full(graded.sum(), SCALE.grade_spread),
                np.full(graded.sum(), SCALE.misgrade),
                weight[graded],
            ),
            readings=learning.Readings(
                d.row[weighed],
                np.clip(value[weighed], learning.GRID[0], learning.GRID[-1]),
                np.full(weighed.sum(), SCALE.dissolved_spread),
                weight[weighed],
            ),
        )

    @property
    def since_service(self) -> FloatArray:
        return self.heaters.age_years - self.history.last_years

    def years_from_service(self, log_theta: FloatArray) -> FloatArray:
        missing = SCALE.limit_m * np.exp(-log_theta) - self.history.left_m[:, None]
        return np.clip(missing / self.unit_rate[:, None], 0.0, REACH_YEARS)

    def over_limit(self, belief: Posterior, years: FloatArray, method: Method | None) -> FloatArray:
        left = 1.0 if method is None else 1 - SCALE.removed_share
        later = left * self.history.now_m[:, None] + self.unit_rate[:, None] * years
        return belief.exceeding(np.log(SCALE.limit_m) - log_of(later))

    def due(self, by_risk: FloatArray, belief: Posterior) -> policy.Due:
        h = self.heaters
        return policy.flush_due(by_risk, self.since_service, h.longest_flush_years, h.practice, h.hardness_mg_l)

    def method(self, belief: Posterior) -> IntArray:
        return np.full(self.row.size, code(Method.DESCALE))

    def rate(self, log_theta: FloatArray) -> FloatArray:
        return np.asarray(1000 * self.unit_rate[:, None] * np.exp(log_theta))

    def state(self, log_theta: FloatArray) -> dict[str, FloatArray]:
        return {"thickness_mm": 1000 * self.history.now_m[:, None] * np.exp(log_theta)}

    def limit(self) -> tuple[str, FloatArray]:
        return "thickness_mm", np.full(self.row.size, 1000 * SCALE.limit_m)

    def log_factors(self) -> dict[str, FloatArray]:
        h, p = self.heaters, SEDIMENT
        one = np.ones(self.row.size)
        # The plain heater's water holds 46 mg/L at its film of 80 degC: 250 mg/L of hardness, by ``chemistry``.
        plain = scale.growth_m_per_year(p.reference_volume_m3 * one, 46.2 * one, SCALE.exchanger_m2 * one)
        used = scale.growth_m_per_year(h.volume_m3, 46.2 * one, SCALE.exchanger_m2 * one)
        water = scale.growth_m_per_year(h.volume_m3, h.film_potential_60_mg_l, SCALE.exchanger_m2 * one)
        hot = scale.growth_m_per_year(h.volume_m3, h.film_potential_mg_l, SCALE.exchanger_m2 * one)
        return {
            "usage": log_of(used) - log_of(plain),
            "hardness": log_of(water) - log_of(used),
            "temperature": log_of(hot) - log_of(water),
            "exchanger_size": log_of(self.unit_rate) - log_of(hot),
        }

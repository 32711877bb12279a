"""Scale of tankless exchangers, and of the coils of indirect tanks, as the forecast sees it."""

from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar

import numpy as np

from aquifer.core import learning, policy, scale
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.components.growing import REACH_YEARS, YEAR, ComingYear, log_of, on_grid
from aquifer.core.fleet import Fleet, Heaters
from aquifer.core.learning import Evidence, Grades, GradeScale, Pairs, Posterior
from aquifer.core.parameters import LEARNING, SCALE, SEDIMENT
from aquifer.core.vocabulary import Component, Method, code

BY_EYE = GradeScale(tuple(np.log(SCALE.grade_cuts).tolist()), SCALE.grade_spread, SCALE.misgrade)
"""In shares of the limit."""
PLAIN_FILM_POTENTIAL_MG_L = 46.2
"""Of the plain heater's water at its film of 80 degC: 250 mg/L of hardness. Computed by ``chemistry``."""


@dataclass(frozen=True)
class ScaleComponent:
    row: IntArray
    heaters: Heaters
    fleet: Fleet
    unit_rate: FloatArray
    """m/year at theta = 1."""
    limit_m: FloatArray
    name = Component.SCALE
    hears: ClassVar[tuple[str, ...]] = ("descales",)
    unit = "mm/year"
    future_spread = LEARNING.future_spread

    @staticmethod
    def rows_of(heaters: Heaters) -> IntArray:
        return np.flatnonzero(heaters.has_exchanger)

    @classmethod
    def of(cls, fleet: Fleet) -> "ScaleComponent":
        row = cls.rows_of(fleet.heaters)
        own = fleet.at(row)
        h = own.heaters
        loop = np.where(h.recirculated & ~h.is_coil, SCALE.recirculation_factor, 1.0)
        growth = loop * scale.growth_m_per_year(
            h.volume_m3, h.film_potential_mg_l, h.exchanger_m2, scale.deposit_share(h.is_coil)
        )
        return cls(row, h, own, growth, scale.limit_m(h.is_coil))

    @cached_property
    def history(self) -> scale.ScaleHistory:
        """How thick the scale was and is at theta = 1."""
        d = self.fleet.descales
        return scale.replayed(self.unit_rate, self.heaters.age_years, d.row, d.years)

    @property
    def zone_spread(self) -> FloatArray:
        return np.hypot(LEARNING.zone_spread, self.heaters.water_spread)

    @property
    def heater_spread(self) -> FloatArray:
        return self.heaters.heater_spread

    def evidence(self) -> Evidence:
        d, before = self.fleet.descales, self.history.before_m
        weighed = ~np.isnan(d.dissolved_kg) & (d.dissolved_kg > 0)
        # A loss below the error of the meters says only that there is little; it counts as the error itself.
        lost = np.maximum(d.capacity_lost, SCALE.capacity_error / 2)
        tested = ~weighed & ~np.isnan(d.capacity_lost)
        graded = np.flatnonzero(~weighed & ~tested & (d.removed >= 0))
        limit = self.limit_m[d.row]
        log_before = log_of(before)
        dissolved = before * SCALE.removed_share * SCALE.density_kg_m3 * self.heaters.exchanger_m2[d.row]
        came_back = scale.capacity_lost(before * SCALE.removed_share, limit)
        value = np.where(
            weighed, log_of(d.dissolved_kg) - log_of(dissolved), log_of(np.nan_to_num(lost)) - log_of(came_back)
        )
        spread = np.where(weighed, SCALE.dissolved_spread, np.hypot(SCALE.capacity_error / lost, 0.15))
        read = np.flatnonzero(weighed | tested)
        grades = Grades(
            d.row[graded],
            d.years[graded],
            d.removed[graded],
            (log_before - np.log(limit))[graded],
            d.by[graded],
            BY_EYE,
        )
        return Evidence((grades,), learning.Readings(d.row[read], d.years[read], on_grid(value[read]), spread[read]))

    def pairs(self) -> Pairs | None:
        d = self.fleet.descales
        both = np.flatnonzero(~np.isnan(d.dissolved_kg) & (d.dissolved_kg > 0) & (d.removed >= 0))
        row = d.row[both]
        whole = SCALE.removed_share * SCALE.density_kg_m3 * self.heaters.exchanger_m2[row] * self.limit_m[row]
        spread = np.full(both.size, SCALE.dissolved_spread)
        return Pairs(row, np.log(d.dissolved_kg[both] / whole), spread, d.removed[both], d.by[both], BY_EYE)

    @property
    def since_service(self) -> FloatArray:
        return self.heaters.age_years - self.history.last_years

    def years_from_service(self, log_theta: FloatArray) -> FloatArray:
        missing = self.limit_m[:, None] * np.exp(-log_theta) - self.history.left_m[:, None]
        return np.clip(missing / self.unit_rate[:, None], 0.0, REACH_YEARS)

    def due(self, by_risk: FloatArray, belief: Posterior) -> policy.Due:
        h = self.heaters
        return policy.flush_due(by_risk, self.since_service, h.longest_flush_years, h.practice, h.hardness_mg_l)

    def coming_year(self, belief: Posterior, due: policy.Due) -> ComingYear:
        grown = self.unit_rate[:, None] * YEAR
        now = self.history.now_m[:, None]
        later = np.concatenate([now + grown, (1 - SCALE.removed_share) * now + grown], axis=1)
        over = belief.exceeding(np.log(self.limit_m)[:, None] - log_of(later))
        unserviced, serviced = np.split(over, [YEAR.size], axis=1)
        return ComingYear(np.full(self.row.size, code(Method.DESCALE)), unserviced, serviced)

    def rate(self, log_theta: FloatArray) -> FloatArray:
        return np.asarray(1000 * self.unit_rate[:, None] * np.exp(log_theta))

    def state(self, log_theta: FloatArray) -> dict[str, FloatArray]:
        return {"thickness_mm": 1000 * self.history.now_m[:, None] * np.exp(log_theta)}

    def in_a_year(self, log_theta: FloatArray) -> FloatArray:
        return np.asarray(1000 * (self.history.now_m + self.unit_rate)[:, None] * np.exp(log_theta))

    def limit(self) -> tuple[str, FloatArray]:
        return "thickness_mm", 1000 * self.limit_m

    def log_factors(self) -> dict[str, FloatArray]:
        h, p = self.heaters, SEDIMENT
        one = np.ones(self.row.size)

        def pace(volume: FloatArray, potential: FloatArray) -> FloatArray:
            area, share = SCALE.exchanger_m2 * one, SCALE.deposit_share * one
            return log_of(scale.growth_m_per_year(volume, potential, area, share))

        plain = pace(p.reference_volume_m3 * one, PLAIN_FILM_POTENTIAL_MG_L * one)
        used = pace(h.volume_m3, PLAIN_FILM_POTENTIAL_MG_L * one)
        water = pace(h.volume_m3, h.film_potential_60_mg_l)
        hot = pace(h.volume_m3, h.film_potential_mg_l)
        loop = np.where(h.recirculated & ~h.is_coil, np.log(SCALE.recirculation_factor), 0.0)
        return {
            "usage": used - plain,
            "hardness": water - used,
            "temperature": hot - water,
            "recirculation": loop,
            "exchanger_size": log_of(self.unit_rate) - hot - loop,
        }

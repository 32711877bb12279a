"""Sediment of tanks as the forecast sees it."""

from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar

import numpy as np

from aquifer.core import learning, policy, sediment
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.components.growing import REACH_YEARS, YEAR, ComingYear, log_of, on_grid
from aquifer.core.fleet import Fleet, Heaters
from aquifer.core.learning import Evidence, Grades, GradeScale, Pairs, Posterior
from aquifer.core.parameters import LEARNING, SEDIMENT
from aquifer.core.vocabulary import Component, FlushMethod, Method, code

BY_EYE = GradeScale(tuple(np.log(SEDIMENT.grade_cuts_m).tolist()), SEDIMENT.grade_spread, SEDIMENT.misgrade)
BY_EAR = GradeScale(tuple(np.log(SEDIMENT.noise_cuts_m).tolist()), SEDIMENT.noise_spread, SEDIMENT.misgrade)
_LOUDNESS = np.array([0, 0, 1, 2, 2])
"""Grade by ear of each ``Noise``: a hiss on a cold start is nothing."""
_AS_METHOD = np.array([code(Method(method.value)) for method in FlushMethod])


@dataclass(frozen=True)
class SedimentComponent:
    row: IntArray
    heaters: Heaters
    fleet: Fleet
    unit_rate: FloatArray
    """kg/year at theta = 1."""
    flush_at: IntArray
    """Position in the history of each flush, (m,)."""
    noise_at: IntArray
    """The same of each time that a fired tank was listened to."""
    noise: IntArray
    """How loud it was then, on ``BY_EAR``."""
    openings: sediment.Openings
    name = Component.SEDIMENT
    hears: ClassVar[tuple[str, ...]] = ("flushes", "looks")
    unit = "kg/year"
    future_spread = LEARNING.future_spread

    @staticmethod
    def rows_of(heaters: Heaters) -> IntArray:
        return np.flatnonzero(heaters.is_tank)

    @classmethod
    def of(cls, fleet: Fleet) -> "SedimentComponent":
        row = cls.rows_of(fleet.heaters)
        own = fleet.at(row)
        h, f, looks = own.heaters, own.flushes, own.looks
        heard = np.flatnonzero((looks.noise >= 0) & h.is_fired_from_below[looks.row])
        loop = np.where(h.recirculated, SEDIMENT.recirculation_factor, 1.0)
        rate = loop * h.volume_m3 * sediment.deposit_kg_m3(h.potential_mg_l, h.suspended_mg_l)
        shares = sediment.flush_shares()[f.method]
        if heard.size:
            # On the same day a tank is listened to before it is flushed.
            rows = np.concatenate([looks.row[heard], f.row])
            years = np.concatenate([looks.years[heard], f.years])
            is_flush = np.arange(rows.size) >= heard.size
            order = np.lexsort((is_flush, years, rows))
            share = np.concatenate([np.zeros((heard.size, 2)), shares])[order]
            openings = sediment.Openings(rows[order], years[order], share[:, 0], share[:, 1], is_flush[order])
            flush_at, noise_at = np.flatnonzero(is_flush[order]), np.flatnonzero(~is_flush[order])
            noise = _LOUDNESS[looks.noise[heard][order[noise_at]]]
        else:
            every = np.ones(f.row.size, dtype=bool)
            openings = sediment.Openings(f.row, f.years, shares[:, 0], shares[:, 1], every)
            flush_at, noise_at, noise = np.arange(f.row.size), heard, heard
        return cls(row, h, own, rate, flush_at, noise_at, noise, openings)

    @cached_property
    def history(self) -> sediment.History:
        """What the bed was and is at theta = 1."""
        return sediment.replayed(self.unit_rate, self.heaters.age_years, self.heaters.floor_m2, self.openings)

    @property
    def zone_spread(self) -> FloatArray:
        return np.hypot(LEARNING.zone_spread, self.heaters.water_spread)

    @property
    def heater_spread(self) -> FloatArray:
        return self.heaters.heater_spread

    def evidence(self) -> Evidence:
        f = self.fleet.flushes
        log_depth = log_of(self.history.depth_before_m)[self.flush_at]
        measured = ~np.isnan(f.depth_m) & (f.depth_m > 0)
        collected = ~measured & ~np.isnan(f.volume_l) & (f.volume_l > 0)
        graded = np.flatnonzero(~measured & ~collected & (f.removed >= 0))
        value = np.where(
            measured, log_of(f.depth_m) - log_depth, log_of(f.volume_l) - log_of(self.history.removed_l)[self.flush_at]
        )
        read = np.flatnonzero(measured | collected)
        grades = [Grades(f.row[graded], f.years[graded], f.removed[graded], log_depth[graded], f.by[graded], BY_EYE)]
        if self.noise_at.size:
            o, at = self.openings, self.noise_at
            unknown = np.full(at.size, -1)
            log_heard = log_of(self.history.depth_before_m[at])
            grades.append(Grades(o.row[at], o.years[at], self.noise, log_heard, unknown, BY_EAR))
        spread = np.where(measured, SEDIMENT.depth_spread, SEDIMENT.volume_spread)[read]
        return Evidence(
            grades, learning.Readings(f.row[read], f.years[read], on_grid(value[read]), spread, measured[read])
        )

    def pairs(self) -> Pairs | None:
        f = self.fleet.flushes
        both = np.flatnonzero(~np.isnan(f.depth_m) & (f.depth_m > 0) & (f.removed >= 0))
        spread = np.full(both.size, SEDIMENT.depth_spread)
        return Pairs(f.row[both], np.log(f.depth_m[both]), spread, f.removed[both], f.by[both], BY_EYE)

    @property
    def since_service(self) -> FloatArray:
        return self.heaters.age_years - self.history.last_years

    def years_from_service(self, log_theta: FloatArray) -> FloatArray:
        loose, hardened = self.history.bed_left
        limit = self.heaters.sediment_limit_m[:, None] * np.exp(-log_theta)
        bed = (loose[:, None], hardened[:, None])
        years = sediment.years_to_depth(bed, self.unit_rate[:, None], self.heaters.floor_m2[:, None], limit)
        return np.minimum(years, REACH_YEARS)

    def due(self, by_risk: FloatArray, belief: Posterior) -> policy.Due:
        h = self.heaters
        return policy.flush_due(by_risk, self.since_service, h.longest_flush_years, h.practice, h.hardness_mg_l)

    def coming_year(self, belief: Posterior, due: policy.Due) -> ComingYear:
        loose, hardened = self.history.bed[0][:, None], self.history.bed[1][:, None]
        shares = sediment.flush_shares()
        after = (loose * (1 - shares[:, 0]), hardened * (1 - shares[:, 1]))
        untouched = sediment.grown((loose, hardened), self.unit_rate[:, None], YEAR)
        floor = self.heaters.floor_m2[:, None]
        depths = np.concatenate([sediment.depth_m(after, floor), sediment.depth_m(untouched, floor)], axis=1)
        over = self._over(belief, depths)
        over_after, unserviced = np.split(over, [shares.shape[0]], axis=1)
        usual = policy.usual_flush(self.heaters.flush_method, self.heaters.practice)
        chosen = policy.flush_method(usual, over_after.T)
        rows = np.arange(chosen.size)
        bed = (after[0][rows, chosen][:, None], after[1][rows, chosen][:, None])
        later = sediment.depth_m(sediment.grown(bed, self.unit_rate[:, None], YEAR[1:]), floor)
        serviced = np.concatenate([over_after[rows, chosen][:, None], self._over(belief, later)], axis=1)
        return ComingYear(_AS_METHOD[chosen], unserviced, serviced)

    def _over(self, belief: Posterior, unit_depth_m: FloatArray) -> FloatArray:
        """Probability that beds as deep as this at theta = 1 are over the limit, (n, t)."""
        return belief.exceeding(log_of(self.heaters.sediment_limit_m)[:, None] - log_of(unit_depth_m))

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

    def in_a_year(self, log_theta: FloatArray) -> FloatArray:
        bed = sediment.grown(self.history.bed, self.unit_rate, np.array(1.0))
        return np.asarray(1000 * sediment.depth_m(bed, self.heaters.floor_m2)[:, None] * np.exp(log_theta))

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
            "recirculation": np.where(h.recirculated, np.log(p.recirculation_factor), 0.0),
            "tank_size": np.log(p.reference_floor_m2 / h.floor_m2),
        }

"""Scale of tankless exchangers, and of the coils of indirect tanks, as the forecast sees it."""

from dataclasses import dataclass
from functools import cached_property
from typing import ClassVar

import numpy as np

from aquifer.core import ceiling, policy, scale, sediment
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.components.deposit import Deposit, bounds_of, column, once, weight
from aquifer.core.components.growing import P10_P50_P90, REACH_YEARS, YEAR, ComingYear, log_of, on_grid
from aquifer.core.fleet import Fleet, Heaters
from aquifer.core.learning import ComponentCalibration, Evidence, Grades, GradeScale, Pairs, Posterior, Readings, level
from aquifer.core.parameters import LEARNING, SCALE, SEDIMENT
from aquifer.core.vocabulary import Component, Method, code

BY_EYE = GradeScale(tuple(np.log(SCALE.grade_cuts).tolist()), SCALE.grade_spread, SCALE.misgrade)
"""In shares of the limit."""
BY_WEIGHT = GradeScale((float(np.log(SCALE.weighed_kg)),), SCALE.weighed_spread, LEARNING.false_nothing)
"""Whether spent acid tells of anything, by the mass that dissolved."""
NO_COMPLAINT = GradeScale((float(np.log(SCALE.complaint_limits)),), SCALE.complaint_spread, 2 * SCALE.silent)
"""Whether the household has rung, of a thickness in shares of the limit."""
PLAIN_FILM_POTENTIAL_MG_L = 46.2
"""Of the plain heater's water at its film of 80 degC: 250 mg/L of hardness. Computed by ``chemistry``."""


@dataclass(frozen=True)
class _Found:
    """Which descales found what, (m,) each; none more than one thing."""

    mass: BoolArray
    nothing: BoolArray
    capacity: BoolArray
    grade: BoolArray


def plain_rate(heaters: Heaters) -> FloatArray:
    """Growth of the scale in each exchanger at theta = 1, m/year, (k,). Source: ``scale.growth_m_per_year``; a loop
    that is kept hot draws so many times as much, ``parameters.SCALE``."""
    h = heaters
    loop = np.where(h.recirculated & ~h.is_coil, SCALE.recirculation_factor, 1.0)
    return np.asarray(
        loop
        * scale.growth_m_per_year(
            h.volume_m3, h.film_potential_mg_l, h.exchanger_m2, scale.deposit_share(h.is_coil), _unsure(h)
        )
    )


@dataclass(frozen=True)
class ScaleComponent(Deposit):
    row: IntArray
    heaters: Heaters
    fleet: Fleet
    plain_rate: FloatArray
    """m/year at theta = 1, by the physics."""
    limit_m: FloatArray
    taught: ComponentCalibration = ComponentCalibration()
    name = Component.SCALE
    hears: ClassVar[tuple[str, ...]] = ("descales",)
    unit = "mm/year"
    future_spread = LEARNING.future_spread
    reading_error = SCALE.dissolved_spread

    @staticmethod
    def rows_of(heaters: Heaters) -> IntArray:
        return np.flatnonzero(heaters.has_exchanger)

    @classmethod
    def of(cls, fleet: Fleet) -> "ScaleComponent":
        row = cls.rows_of(fleet.heaters)
        own = fleet.at(row)
        h = own.heaters
        return cls(row, h, own, plain_rate(h), scale.limit_m(h.is_coil))

    @property
    def _removed(self) -> float:
        return scale.removed_share(self.taught.removal)

    @cached_property
    def history(self) -> scale.ScaleHistory:
        """How thick the scale was and is at theta = 1."""
        d = self.fleet.descales
        return scale.replayed(self.unit_rate, self.heaters.age_years, d.row, d.years, self.taught.removal)

    @cached_property
    def levels(self) -> level.History:
        h, row = self.history, self.fleet.descales.row
        spread = np.full(row.size, SCALE.odds_spread * self._removed)
        nothing = np.zeros(self.row.size)
        return level.History(row, h.before_m, h.before_m * (1 - self._removed), spread, h.now_m, nothing, nothing)

    @cached_property
    def ceiling_m(self) -> FloatArray:
        """What scale may reach, (n,)."""
        return np.where(self.heaters.is_coil, SCALE.coil_ceiling_m, SCALE.ceiling_m)

    @property
    def event_years(self) -> FloatArray:
        """When each event of ``levels`` was, years since installation."""
        return self.fleet.descales.years

    @cached_property
    def limit_driver(self) -> FloatArray:
        return ceiling.driver(self.limit_m, self.ceiling_m)

    @property
    def zone_spread(self) -> FloatArray:
        h = self.heaters
        return np.hypot(
            LEARNING.zone_spread, np.maximum(h.water_spread, sediment.doubt(h.film_potential_mg_l, _unsure(h)))
        )

    @property
    def heater_spread(self) -> FloatArray:
        return self.heaters.heater_spread

    @cached_property
    def _found(self) -> "_Found":
        """Each descale's finding, as its kind."""
        d = self.fleet.descales
        weighed = ~np.isnan(d.dissolved_kg)
        nothing = weighed & (d.dissolved_kg < SCALE.weighed_kg)
        tested = ~weighed & ~np.isnan(d.capacity_lost)
        return _Found(weighed & ~nothing, nothing, tested, ~weighed & ~tested & (d.removed >= 0))

    @cached_property
    def _kg_per_m(self) -> FloatArray:
        """What a descale dissolves for each metre of scale, (m,)."""
        return np.asarray(self._removed * SCALE.density_kg_m3 * self.heaters.exchanger_m2[self.fleet.descales.row])

    @cached_property
    def _values(self) -> tuple[FloatArray, FloatArray]:
        """What mass and capacity say of log theta, NaN where there is neither; and their errors."""
        d, found, most = self.fleet.descales, self._found, self.ceiling_m[self.fleet.descales.row]
        # A loss below the error of the meters says only that there is little; it counts as the error itself.
        lost = np.maximum(np.nan_to_num(d.capacity_lost), SCALE.capacity_error / 2)
        by_capacity = lost / SCALE.capacity_loss_at_limit * self.limit_m[d.row] / self._removed
        thick = np.where(found.mass, np.nan_to_num(d.dissolved_kg) / self._kg_per_m, by_capacity)
        value = log_of(ceiling.driver(thick, most)) - log_of(self.history.before_m)
        error = np.where(found.mass, SCALE.dissolved_spread, np.hypot(SCALE.capacity_error / lost, 0.15))
        return np.where(found.mass | found.capacity, value, np.nan), error

    def evidence(self) -> Evidence:
        return self.said

    @cached_property
    def said(self) -> Evidence:
        d, found, limit = self.fleet.descales, self._found, self.limit_m[self.fleet.descales.row]
        shift, blur = self.unheard.shift, self.unheard.variance(self.year_spread)
        before = log_of(self.history.before_m) + shift
        lowest = np.zeros(d.row.size, dtype=np.int64)
        in_limits = before - np.log(limit)
        borne = np.zeros(d.row.size, dtype=bool)
        borne[once(d.row, in_limits - NO_COMPLAINT.cuts[0])] = True

        def said(which: BoolArray, grade: IntArray, log_unit: FloatArray, by: GradeScale) -> Grades:
            rows = np.flatnonzero(which)
            who = d.by[rows] if by is BY_EYE else None
            return Grades(d.row[rows], d.years[rows], grade[rows], log_unit[rows], who, by, blur[rows])

        grades = (
            said(found.grade, d.removed, in_limits, BY_EYE),
            said(found.nothing, lowest, before + np.log(self._kg_per_m), BY_WEIGHT),
            said(borne, lowest, in_limits, NO_COMPLAINT),
        )
        read = np.flatnonzero(found.mass | found.capacity)
        value, error = self._values
        told = on_grid(value[read] - shift[read])
        readings = Readings(d.row[read], d.years[read], told, error[read], None, blur[read], read)
        return Evidence(grades, readings, tests=self._tests)

    @property
    def _tests(self) -> Readings:
        """What acid and flow said, nothing too, of exchangers in which more than nothing was foretold."""
        d, found = self.fleet.descales, self._found
        read = np.flatnonzero(found.mass | found.nothing | found.capacity)
        value, error = self._values
        most, unit = self.ceiling_m[d.row[read]], log_of(self.history.before_m[read]) + self.unheard.shift[read]
        by_mass = SCALE.tested_kg / self._kg_per_m[read]
        by_capacity = 2 * SCALE.capacity_error / SCALE.capacity_loss_at_limit * self.limit_m[d.row[read]]
        least = log_of(ceiling.driver(np.where(found.capacity[read], by_capacity, by_mass), most)) - unit
        nothing = log_of(ceiling.driver(SCALE.weighed_kg / 2 / self._kg_per_m[read], most)) - unit
        is_nothing = found.nothing[read]
        told = np.where(is_nothing, nothing, value[read] - self.unheard.shift[read])
        spread = np.where(is_nothing, SCALE.weighed_spread, error[read])
        return Readings(d.row[read], d.years[read], on_grid(told), spread, event=read, least=least)

    @cached_property
    def looks(self) -> level.Looks:
        d, found, offsets = self.fleet.descales, self._found, self.taught.offsets
        low, high, spread, weighed = (np.full(d.row.size, value) for value in (np.nan, np.nan, 1.0, BY_WEIGHT.spread))
        before, nothing = log_of(self.history.before_m), np.full(d.row.size, -np.inf)
        eye = np.zeros(d.row.size) if offsets is None else offsets[d.by]
        in_limits = before - np.log(self.limit_m[d.row]) + eye
        value, error = self._values
        for which, lower, upper, wide in (
            (found.mass | found.capacity, value, value, error),
            (found.nothing, nothing, BY_WEIGHT.cuts[0] - before - np.log(self._kg_per_m), weighed),
            (
                found.grade,
                *bounds_of(np.array(BY_EYE.cuts), np.maximum(d.removed, 0), in_limits),
                BY_EYE.spread / np.sqrt(self.heed(d.by)),
            ),
        ):
            low[which], high[which], spread[which] = lower[which], upper[which], wide[which]
        return level.Looks(low, high, spread, np.full(d.row.size, np.nan), np.ones(d.row.size))

    def pairs(self) -> Pairs | None:
        d = self.fleet.descales
        both = np.flatnonzero(self._found.mass & (d.removed >= 0))
        row = d.row[both]
        whole = self._kg_per_m[both] * self.limit_m[row]
        spread = np.full(both.size, SCALE.dissolved_spread)
        return Pairs(row, np.log(d.dissolved_kg[both] / whole), spread, d.removed[both], d.by[both], BY_EYE)

    @property
    def since_service(self) -> FloatArray:
        return self.heaters.age_years - self.history.last_years

    def years_from_service(self, log_theta: FloatArray) -> FloatArray:
        missing = self.limit_driver[:, None] * np.exp(-log_theta) - self.history.left_m[:, None]
        return np.clip(missing / self.unit_rate[:, None], 0.0, REACH_YEARS)

    def years_to_limit(self, log_level: FloatArray, log_pace: FloatArray) -> FloatArray:
        missing = self.limit_driver[:, None] - self.history.now_m[:, None] * np.exp(log_level)
        return np.clip(missing / (self.unit_rate[:, None] * np.exp(log_pace)), 0.0, REACH_YEARS)

    def ahead(self, years: FloatArray) -> FloatArray:
        return self.history.now_m[:, None] + self.unit_rate[:, None] * years

    def due(self, by_risk: FloatArray, belief: Posterior) -> policy.Due:
        h = self.heaters
        return policy.flush_due(by_risk, self.since_service, h.longest_flush_years, h.practice, h.hardness_mg_l)

    def coming_year(self, belief: Posterior, due: policy.Due, ends: BoolArray) -> ComingYear:
        known = self.believed(belief)
        unserviced = self.over(belief, known, *self.later(known, YEAR))
        left = (1 - self._removed) * self.history.now_m[:, None]
        later = left + self.unit_rate[:, None] * YEAR
        spread = np.full((self.row.size, 1), SCALE.odds_spread * self._removed)
        cleaned = column(known.level).cleaned(spread)
        serviced = self.over(belief, known, later, cleaned.grown(weight(left, later)))
        return ComingYear(np.full(self.row.size, code(Method.DESCALE)), unserviced, serviced)

    def rate(self, log_theta: FloatArray) -> FloatArray:
        return np.asarray(1000 * self.unit_rate[:, None] * np.exp(log_theta))

    def state(self, belief: Posterior) -> dict[str, FloatArray]:
        return {"thickness_mm": self._thickness_mm(belief, YEAR[:1])}

    def in_a_year(self, belief: Posterior) -> FloatArray:
        return self._thickness_mm(belief, YEAR[-1:])

    def _thickness_mm(self, belief: Posterior, years: FloatArray) -> FloatArray:
        known = self.believed(belief)
        driven = self.told(known, *self.later(known, years), belief.standing(P10_P50_P90))[:, 0]
        return np.asarray(1000 * ceiling.bounded(driven, self.ceiling_m[:, None]))

    def limit(self) -> tuple[str, FloatArray]:
        return "thickness_mm", 1000 * self.limit_m

    def log_factors(self) -> dict[str, FloatArray]:
        h, p = self.heaters, SEDIMENT
        one = np.ones(self.row.size)

        def pace(volume: FloatArray, potential: FloatArray, unsure: FloatArray | float = 0.0) -> FloatArray:
            area, share = SCALE.exchanger_m2 * one, SCALE.deposit_share * one
            return log_of(scale.growth_m_per_year(volume, potential, area, share, unsure))

        plain = pace(p.reference_volume_m3 * one, PLAIN_FILM_POTENTIAL_MG_L * one)
        used = pace(h.volume_m3, PLAIN_FILM_POTENTIAL_MG_L * one)
        water = pace(h.volume_m3, h.film_potential_60_mg_l, _unsure(h))
        hot = pace(h.volume_m3, h.film_potential_mg_l, _unsure(h))
        loop = np.where(h.recirculated & ~h.is_coil, np.log(SCALE.recirculation_factor), 0.0)
        return {
            "usage": used - plain + self.by_traits[:, 1],
            "hardness": water - used + self.by_traits[:, 0],
            "temperature": hot - water + self.by_traits[:, 2],
            "recirculation": loop,
            "exchanger_size": log_of(self.plain_rate) - hot - loop,
        }


def _unsure(heaters: Heaters) -> FloatArray:
    return sediment.unsure_mg_l(heaters.hardness_mg_l, heaters.water_spread)

"""Sacrificial rods as the forecast sees them."""

from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np
from scipy.special import ndtr

from aquifer.core import anode, learning, policy
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.components.growing import P10_P50_P90, REACH_YEARS, YEAR, ComingYear, Paced, log_of, on_grid
from aquifer.core.fleet import Fleet, Heaters, RodEvents
from aquifer.core.learning import GRID, Evidence, Grades, GradeScale, Pairs, Posterior
from aquifer.core.learning.grid import STEP
from aquifer.core.parameters import ANODE, GEOMETRY, LEARNING, SEDIMENT
from aquifer.core.vocabulary import Alloy, Component, Method, RodGrade, code

_IS_SACRIFICIAL = np.array([alloy.is_sacrificial for alloy in Alloy])
_ROUNDS = 2
"""In which dates and how far rates stray until then are found. Measured on 600 rods: a third moves no due date by three
days, and the outer ends of windows that are years wide by up to six weeks."""
_JUDGES_AN_EYE = 0.5
"""Error of a reading, natural log, up to which it is held against a grade. Assumption."""
_WORN = code(RodGrade.MOSTLY_GONE)
"""From which grade on a rod is renewed: ``judgement.on_site``."""
BY_EYE = GradeScale(tuple(np.log(ANODE.grade_cuts).tolist()), ANODE.grade_spread, ANODE.misgrade)
"""In shares consumed."""


@dataclass(frozen=True)
class AnodeComponent(Paced):
    row: IntArray
    heaters: Heaters
    looks: RodEvents
    rods: anode.Rods
    rod_age: FloatArray
    name = Component.ANODE
    hears: ClassVar[tuple[str, ...]] = ("rod_looks",)
    unit = "share/year"
    future_spread = LEARNING.future_spread

    @staticmethod
    def rows_of(heaters: Heaters) -> IntArray:
        return np.flatnonzero(heaters.is_sacrificial)

    @classmethod
    def of(cls, fleet: Fleet) -> "AnodeComponent":
        row = cls.rows_of(fleet.heaters)
        h = fleet.heaters.at(row)
        rods = _rods(h, h.alloy, h.rod_diameter_m, h.rod_length_m, h.rod_fitted_years)
        looks = fleet.rod_looks.of(row, len(fleet.heaters))
        return cls(row, h, looks, rods, np.maximum(h.age_years - h.rod_fitted_years, 0.0))

    @property
    def zone_spread(self) -> FloatArray:
        return np.full(self.row.size, LEARNING.zone_spread)

    @property
    def heater_spread(self) -> FloatArray:
        return np.full(self.row.size, LEARNING.heater_spread)

    def evidence(self) -> Evidence:
        e = self.looks
        log_unit = self._log_unit()
        bare, thick, share, spread = self._readings(log_unit)
        sacrificial = _IS_SACRIFICIAL[e.alloy]
        graded = np.flatnonzero(sacrificial & ~bare & ~thick & (e.grade >= 0))
        read = np.flatnonzero(sacrificial & (bare | thick))
        value = on_grid(np.log(share[read]) - log_unit[read])
        drawn = ~bare[read]
        grades = Grades(e.row[graded], e.years[graded], e.grade[graded], log_unit[graded], e.by[graded], BY_EYE)
        to_come = self._since_looked(log_unit)[read]
        readings = learning.Readings(e.row[read], e.years[read], value, spread[read], drawn, to_come=to_come)
        # How a rod wears is its metal's and its water's, not the household's.
        return Evidence((grades,), readings, lasts=True)

    def pairs(self) -> Pairs | None:
        e = self.looks
        _, thick, share, spread = self._readings(self._log_unit())
        # A calliper cannot tell how worn a young rod is, so it cannot judge an eye by it.
        both = np.flatnonzero(thick & (e.grade >= 0) & (spread < _JUDGES_AN_EYE))
        return Pairs(e.row[both], np.log(share[both]), spread[both], e.grade[both], e.by[both], BY_EYE)

    def _since_looked(self, log_unit: FloatArray) -> FloatArray:
        """Which share of what is gone at each look went since the one before at the same rod, (m,)."""
        e = self.looks
        before = np.maximum(np.arange(e.row.size) - 1, 0)
        same = (e.row[before] == e.row) & (e.rod_fitted_years[before] == e.rod_fitted_years)
        same &= e.years[before] < e.years
        return np.where(same, 1 - np.exp(np.minimum(log_unit[before] - log_unit, 0.0)), 1.0)

    def _log_unit(self) -> FloatArray:
        """ln of the share consumed at theta = 1 at each look, (m,)."""
        e = self.looks
        on_rod = np.maximum(e.years - e.rod_fitted_years, 1 / 52)
        rods = _rods(self.heaters.at(e.row), e.alloy, e.rod_diameter_m, e.rod_length_m, e.rod_fitted_years)
        return log_of(anode.consumed(rods, on_rod))

    def _readings(self, log_unit: FloatArray) -> tuple[BoolArray, BoolArray, FloatArray, FloatArray]:
        """Which looks found bare wire, which read a diameter; the consumed share and the error of its logarithm."""
        e = self.looks
        bare = ~np.isnan(e.bare_m) & (e.bare_m > 0)
        thick = ~bare & ~np.isnan(e.diameter_m)
        by_diameter = anode.consumed_by_diameter(e.diameter_m, e.rod_diameter_m)
        share = np.where(bare, anode.consumed_by_bare_wire(e.bare_m, e.rod_length_m), by_diameter)
        # A rod that looks untouched says "under 5 %", not "nothing".
        share = np.maximum(np.nan_to_num(share), 0.05)
        blur = 2 * np.nan_to_num(e.diameter_m) * ANODE.diameter_error_m
        # Relative to what is expected, not to what was read: else a high reading would count for more than a low one.
        expected = np.clip(np.exp(log_unit), 0.05, 1.0)
        blur = np.where(thick, blur / (e.rod_diameter_m**2 - ANODE.core_diameter_m**2) / expected, 0.0)
        return bare, thick, share, np.sqrt(ANODE.reading_spread**2 + blur**2)

    @property
    def since_service(self) -> FloatArray:
        return self.rod_age

    def years_from_service(self, log_theta: FloatArray) -> FloatArray:
        share = np.minimum(anode.BARE_LIMIT * np.exp(-log_theta), 1e4)
        return np.minimum(anode.years_to_consume(self.rods.column(), share), REACH_YEARS)

    def rates(self, belief: Posterior, chances: FloatArray, accepted: FloatArray) -> FloatArray:
        """As of ``Paced``; what is gone strays no more, so that the later the date, the further apart the rates."""
        window, at, rates = belief.straying(chances), belief.straying_each(accepted), belief.mean[:, None]
        for _ in range(_ROUNDS):
            to_come = self._to_come(self.years_from_service(rates))
            rates = np.concatenate([window.on(to_come[:, : chances.size]), at.on(to_come[:, -1:])], axis=1)
        return rates

    def due(self, by_risk: FloatArray, belief: Posterior) -> policy.Due:
        last = self.looks.last_years(self.row.size)
        since_look = self.heaters.age_years - np.fmax(last, self.heaters.rod_fitted_years)
        return policy.rod_due(by_risk, self.heaters.age_years, np.where(np.isnan(last), np.nan, since_look))

    def coming_year(self, belief: Posterior, due: policy.Due, ends: BoolArray) -> ComingYear:
        years = self.rod_age[:, None] + YEAR
        fresh = replace(self.rods, tank_age_years=self.heaters.age_years)
        shares = np.concatenate(
            [anode.consumed(self.rods.column(), years), anode.consumed(fresh.column(), YEAR)], axis=1
        )
        to_come = np.concatenate([self._to_come(years), np.ones((self.row.size, YEAR.size))], axis=1)
        over = belief.exceeding(np.log(anode.BARE_LIMIT) - log_of(shares), to_come)
        unserviced, renewed = np.split(over, [YEAR.size], axis=1)
        # No new rod goes into a tank that is to be replaced.
        replaced = (unserviced[:, 0] > 0.5) & ~ends
        # A look renews the rod that an eye finds worn, and leaves the others, some of them wrongly.
        found = unserviced[:, :1] * self._noticed(belief)[:, None]
        serviced = np.where(replaced[:, None], renewed, unserviced - found)
        return ComingYear(np.where(replaced, code(Method.REPLACE), code(Method.INSPECT)), unserviced, serviced)

    def _to_come(self, years: FloatArray) -> FloatArray:
        """Which share of what is consumed so many years after the rod was fitted is not gone yet, (n, q)."""
        rods = self.rods.column()
        now = anode.consumed(rods, self.rod_age[:, None])
        return np.asarray(np.clip(1 - now / np.maximum(anode.consumed(rods, years), 1e-12), 0.0, 1.0))

    def _noticed(self, belief: Posterior) -> FloatArray:
        """Probability that an eye calls a rod that is past the limit at least mostly gone, (n,). Source: the grade's
        own error, over what is believed of the rod beyond the limit."""
        beyond = np.log(anode.BARE_LIMIT) - log_of(anode.consumed(self.rods, self.rod_age))
        shift = np.asarray(belief.shift, dtype=np.float64)
        over = GRID - (beyond - shift)[:, None]
        weight = belief.mass * np.clip(over / STEP + 0.5, 0.0, 1.0)
        seen = ndtr((np.log(anode.BARE_LIMIT / ANODE.grade_cuts[_WORN - 1]) + np.maximum(over, 0.0)) / BY_EYE.spread)
        seen = (1 - ANODE.misgrade) * seen + ANODE.misgrade * (BY_EYE.grades - _WORN) / BY_EYE.grades
        return np.asarray((weight * seen).sum(axis=1) / np.maximum(weight.sum(axis=1), 1e-12))

    def in_a_year(self, belief: Posterior) -> FloatArray:
        to_come = self._to_come(self.rod_age[:, None] + YEAR[-1:])
        return self.states_in_a_year(belief.straying(P10_P50_P90).on(to_come))

    def rate(self, log_theta: FloatArray) -> FloatArray:
        a_year = anode.current_a(self.rods, self.rod_age) / self.rods.charge
        return np.asarray(a_year[:, None] * np.exp(log_theta))

    def states(self, log_theta: FloatArray) -> dict[str, FloatArray]:
        gone = anode.consumed(self.rods, self.rod_age)[:, None] * np.exp(log_theta)
        ratio = anode.protection_ratio(self.rods, self.rod_age)
        return {
            # Reversed, so that the first is still the 10 % quantile of what is left.
            "fraction_left": np.clip(1 - gone, 0.0, 1.0)[:, ::-1],
            "protection_ratio": np.repeat(ratio[:, None], log_theta.shape[1], axis=1),
        }

    def states_in_a_year(self, log_theta: FloatArray) -> FloatArray:
        gone = anode.consumed(self.rods, self.rod_age + 1.0)[:, None] * np.exp(log_theta)
        return np.clip(1 - gone, 0.0, 1.0)[:, ::-1]

    def limit(self) -> tuple[str, FloatArray]:
        return "fraction_left", np.full(self.row.size, 1 - anode.BARE_LIMIT)

    def log_factors(self) -> dict[str, FloatArray]:
        n = self.row.size
        # A magnesium rod in a 189 L tank on moderate water at 60 degC (120 mg/L: 384 uS/cm, 8 mg/L potential).
        plain = anode.Rods(
            alloy=np.full(n, code(Alloy.MAGNESIUM)),
            diameter_m=np.full(n, GEOMETRY.rod_diameter_m),
            length_m=np.full(n, GEOMETRY.rod_length_m),
            tank_age_years=np.zeros(n),
            wetted_m2=np.full(n, GEOMETRY.wetted_m2),
            tank_radius_m=np.full(n, GEOMETRY.radius_m),
            conductivity_us_cm=np.full(n, 384.0),
            potential_mg_l=np.full(n, 8.0),
            setpoint_c=np.full(n, SEDIMENT.reference_setpoint_c),
        )
        r = self.rods
        rod = replace(plain, alloy=r.alloy, diameter_m=r.diameter_m, length_m=r.length_m)
        tank = replace(rod, wetted_m2=r.wetted_m2, tank_radius_m=r.tank_radius_m, tank_age_years=r.tank_age_years)
        water = replace(tank, conductivity_us_cm=r.conductivity_us_cm, potential_mg_l=self.heaters.potential_60_mg_l)
        pace = [np.log(anode.current_a(rods, 0.0) / rods.charge) for rods in (plain, rod, tank, water, r)]
        return {
            "rod": pace[1] - pace[0],
            "tank_size": pace[2] - pace[1],
            "water": pace[3] - pace[2],
            "temperature": pace[4] - pace[3],
        }


def _rods(
    h: Heaters, alloy: IntArray, diameter_m: FloatArray, length_m: FloatArray, fitted_years: FloatArray
) -> anode.Rods:
    return anode.Rods(
        alloy,
        diameter_m,
        length_m,
        fitted_years,
        h.wetted_m2,
        h.radius_m,
        h.conductivity_us_cm,
        h.potential_mg_l,
        h.setpoint_c,
    )

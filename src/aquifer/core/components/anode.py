"""Sacrificial rods as the forecast sees them."""

from dataclasses import dataclass, replace

import numpy as np

from aquifer.core import anode, learning, policy
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.components.growing import REACH_YEARS, log_bounds, log_of
from aquifer.core.fleet import Fleet, Heaters, RodEvents
from aquifer.core.learning import Evidence, Posterior
from aquifer.core.parameters import ANODE, GEOMETRY, SEDIMENT
from aquifer.core.vocabulary import Alloy, Component, Method, code


@dataclass(frozen=True)
class AnodeComponent:
    row: IntArray
    heaters: Heaters
    looks: RodEvents
    rods: anode.Rods
    rod_age: FloatArray
    name = Component.ANODE
    unit = "share/year"

    @classmethod
    def of(cls, fleet: Fleet) -> "AnodeComponent":
        row = np.flatnonzero(fleet.heaters.is_sacrificial)
        h = fleet.heaters.at(row)
        rods = _rods(h, h.alloy, h.rod_diameter_m, h.rod_length_m, h.rod_fitted_years)
        looks = fleet.rod_looks.of(row, len(fleet.heaters))
        return cls(row, h, looks, rods, np.maximum(h.age_years - h.rod_fitted_years, 0.0))

    def evidence(self) -> Evidence:
        e = self.looks
        sacrificial = np.array([alloy.is_sacrificial for alloy in Alloy])[e.alloy]
        on_rod = np.maximum(e.years - e.rod_fitted_years, 1 / 52)
        rods = _rods(self.heaters.at(e.row), e.alloy, e.rod_diameter_m, e.rod_length_m, e.rod_fitted_years)
        log_unit = log_of(anode.consumed(rods, on_rod))
        bare = ~np.isnan(e.bare_m) & (e.bare_m > 0)
        thick = ~bare & ~np.isnan(e.diameter_m)
        graded = sacrificial & ~bare & ~thick & (e.grade >= 0)
        read = sacrificial & (bare | thick)
        by_diameter = anode.consumed_by_diameter(e.diameter_m, e.rod_diameter_m)
        share = np.where(bare, anode.consumed_by_bare_wire(e.bare_m, e.rod_length_m), by_diameter)
        # A rod that looks untouched says "under 5 %", not "nothing".
        share = np.maximum(np.nan_to_num(share), 0.05)
        blur = 2 * np.nan_to_num(e.diameter_m) * ANODE.diameter_error_m
        blur = np.where(thick, blur / (e.rod_diameter_m**2 - ANODE.core_diameter_m**2) / share, 0.0)
        spread = np.sqrt(ANODE.reading_spread**2 + blur**2)
        weight = learning.faded(self.heaters.age_years[e.row] - e.years)
        low, high = log_bounds(ANODE.grade_cuts, e.grade[graded])
        return Evidence(
            intervals=learning.Intervals(
                e.row[graded],
                low - log_unit[graded],
                high - log_unit[graded],
                np.full(graded.sum(), ANODE.grade_spread),
                np.full(graded.sum(), ANODE.misgrade),
                weight[graded],
            ),
            readings=learning.Readings(
                e.row[read],
                np.clip(np.log(share[read]) - log_unit[read], learning.GRID[0], learning.GRID[-1]),
                spread[read],
                weight[read],
            ),
        )

    @property
    def since_service(self) -> FloatArray:
        return self.rod_age

    def years_from_service(self, log_theta: FloatArray) -> FloatArray:
        share = np.minimum(anode.BARE_LIMIT * np.exp(-log_theta), 1e4)
        return np.minimum(anode.years_to_consume(self.rods.column(), share), REACH_YEARS)

    def over_limit(self, belief: Posterior, years: FloatArray, method: Method | None) -> FloatArray:
        if method is Method.REPLACE:
            fresh = replace(self.rods, tank_age_years=self.heaters.age_years)
            return self._bare(belief, anode.consumed(fresh.column(), years))
        age = self.rod_age[:, None]
        later = self._bare(belief, anode.consumed(self.rods.column(), age + years))
        if method is Method.INSPECT:
            # A look replaces the rod if it is bare, and leaves it otherwise.
            return np.maximum(later - self._bare(belief, anode.consumed(self.rods.column(), age)), 0.0)
        return later

    def _bare(self, belief: Posterior, unit_share: FloatArray) -> FloatArray:
        return belief.exceeding(np.log(anode.BARE_LIMIT) - log_of(unit_share))

    def due(self, by_risk: FloatArray, belief: Posterior) -> policy.Due:
        last = self.looks.last_years(self.row.size)
        since_look = self.heaters.age_years - np.fmax(last, self.heaters.rod_fitted_years)
        return policy.rod_due(by_risk, self.heaters.age_years, np.where(np.isnan(last), np.nan, since_look))

    def method(self, belief: Posterior) -> IntArray:
        worn = self.over_limit(belief, np.zeros(1), None)[:, 0] > 0.5
        return np.where(worn, code(Method.REPLACE), code(Method.INSPECT))

    def rate(self, log_theta: FloatArray) -> FloatArray:
        a_year = anode.current_a(self.rods, self.rod_age) / anode.charge_ampere_years(self.rods)
        return np.asarray(a_year[:, None] * np.exp(log_theta))

    def state(self, log_theta: FloatArray) -> dict[str, FloatArray]:
        gone = anode.consumed(self.rods, self.rod_age)[:, None] * np.exp(log_theta)
        ratio = anode.protection_ratio(self.rods, self.rod_age)
        return {
            # Reversed, so that the first is still the 10 % quantile of what is left.
            "fraction_left": np.clip(1 - gone, 0.0, 1.0)[:, ::-1],
            "protection_ratio": np.repeat(ratio[:, None], log_theta.shape[1], axis=1),
        }

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
        pace = [
            np.log(anode.current_a(one, 0.0) / anode.charge_ampere_years(one)) for one in (plain, rod, tank, water, r)
        ]
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

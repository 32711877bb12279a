"""A sacrificial rod: how much of it is gone, how fast it goes, and whether it still protects.

The protection current runs through two resistances in series, the water's and the lining's film; as the tank ages more
steel is bare and the current grows. A rod's thinning is left out: it would lengthen a life by one part in a hundred at
first and by six at the end, less than anyone reads off a rod. So the consumed share C, 0 for a new rod and 1 for bare
wire, is linear in theta, in closed form.
"""

from dataclasses import dataclass
from functools import cache, cached_property

import numpy as np

from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.parameters import ANODE, HOURS_PER_YEAR
from aquifer.core.vocabulary import Alloy

BARE_LIMIT = 1 / (1 + ANODE.wear_skew - 2 * ANODE.wear_skew * ANODE.bare_limit_share)
"""Consumed share at which a hand's width of wire shows: replace. By ``consumed_by_bare_wire``."""


@dataclass(frozen=True)
class Rods:
    """Rods in their tanks and waters. Arrays of one shape, (n,) or broadcastable."""

    alloy: IntArray
    """Position in ``Alloy``, sacrificial ones only."""
    diameter_m: FloatArray
    """When new."""
    length_m: FloatArray
    """Of all rods in the tank together."""
    tank_age_years: FloatArray
    """Age of the tank when the rod was fitted."""
    wetted_m2: FloatArray
    tank_radius_m: FloatArray
    conductivity_us_cm: FloatArray
    """At 25 degC."""
    potential_mg_l: FloatArray
    """Precipitation potential at the setpoint."""
    setpoint_c: FloatArray

    def of(self, row: IntArray) -> "Rods":
        """The rods at these positions."""
        return Rods(**{name: getattr(self, name)[row] for name in self.__dataclass_fields__})

    @cached_property
    def by_water_a(self) -> FloatArray:
        """Current that the water lets through to a new rod, A."""
        return _water_limited_current_a(self)

    @cached_property
    def wanted_a(self) -> FloatArray:
        """Current that would protect the tank when the rod was fitted, A."""
        return wanted_current_a(self, 0.0)

    @cached_property
    def charge(self) -> FloatArray:
        """Charge that a new rod can give, ampere-years."""
        return _charge_ampere_years(self)

    def column(self) -> "Rods":
        """The same rods as columns, (n, 1), to be broadcast over quantiles or times."""
        return Rods(**{name: getattr(self, name)[:, None] for name in self.__dataclass_fields__})


@cache
def _property(name: str) -> FloatArray:
    """A property of each alloy by its position in ``Alloy``; NaN where the alloy is not sacrificial."""
    table = ANODE.alloys
    return np.array([getattr(table[alloy], name) if alloy in table else np.nan for alloy in Alloy])


def mass_kg(rods: Rods) -> FloatArray:
    """Metal of a new rod, kg. Source: geometry and handbook density."""
    area = np.pi / 4 * (rods.diameter_m**2 - ANODE.core_diameter_m**2)
    return np.asarray(_property("density_kg_m3")[rods.alloy] * area * rods.length_m)


def wanted_current_a(rods: Rods, years: FloatArray | float) -> FloatArray:
    """Current that would protect the tank ``years`` after the rod was fitted, A. Source: ``parameters.ANODE``."""
    film = np.maximum(rods.potential_mg_l, 0.0)
    covering = 1 + (ANODE.film_factor - 1) * film / (film + ANODE.film_half_mg_l)
    bare = ANODE.bare_share * (1 + ANODE.bare_growth_per_year * (rods.tank_age_years + years))
    density = ANODE.current_density_60_a_m2 * 2 ** ((rods.setpoint_c - 60) / ANODE.doubling_k)
    return np.asarray(density * rods.wetted_m2 * bare / covering)


def _water_limited_current_a(rods: Rods) -> FloatArray:
    """Current that the water lets through to a new rod, A.

    Source: Ohm's law with the resistance of a rod on the axis of a cylinder, ln(R/r) / (2 pi L kappa).
    """
    warm = 1 + ANODE.conductivity_per_k * (rods.setpoint_c - 25)
    kappa_s_m = rods.conductivity_us_cm * 1e-4 * warm
    resistance = np.log(2 * rods.tank_radius_m / rods.diameter_m) / (2 * np.pi * rods.length_m * kappa_s_m)
    return np.asarray(_property("driving_voltage_v")[rods.alloy] / resistance)


def current_a(rods: Rods, years: FloatArray | float) -> FloatArray:
    """Protection current at theta = 1, A: the two resistances in series."""
    by_water, wanted = rods.by_water_a, wanted_current_a(rods, years)
    return np.asarray(by_water * wanted / (by_water + wanted))


def protection_ratio(rods: Rods, years: FloatArray | float) -> FloatArray:
    """Share of the wanted current that flows, 0 to 1. A low figure explains a long life."""
    return np.asarray(current_a(rods, years) / wanted_current_a(rods, years))


def _charge_ampere_years(rods: Rods) -> FloatArray:
    """Charge that a new rod can give, ampere-years. Source: Faraday's law, and the alloy's efficiency."""
    usable = _property("capacity_ah_kg")[rods.alloy] * _property("efficiency")[rods.alloy]
    return np.asarray(mass_kg(rods) * usable / HOURS_PER_YEAR)


def consumed(rods: Rods, years: FloatArray) -> FloatArray:
    """Consumed share ``years`` after fitting at theta = 1; may pass 1. Shapes broadcast.

    Source: Faraday's law, with ``current_a`` integrated over time in closed form.
    """
    by_water, start = rods.by_water_a, rods.wanted_a
    # d(wanted)/dt, constant: the bare share grows by the same amount each year.
    growth = start * ANODE.bare_growth_per_year / (1 + ANODE.bare_growth_per_year * rods.tank_age_years)
    t = np.maximum(years, 0.0)
    drawn = by_water * (t - by_water / growth * np.log1p(growth * t / (by_water + start)))
    return np.asarray(drawn / rods.charge)


def years_to_consume(rods: Rods, share: FloatArray) -> FloatArray:
    """Years from fitting until ``share`` is consumed at theta = 1; shapes broadcast, share >= 0 (may pass 1).

    Source: ``consumed`` solved for time. With v = 1 + growth t / (by_water + start) it reads v - b ln v = k, b < 1,
    which is increasing and convex for v >= 1: Newton's method from the right.
    """
    by_water, start = rods.by_water_a, rods.wanted_a
    growth = start * ANODE.bare_growth_per_year / (1 + ANODE.bare_growth_per_year * rods.tank_age_years)
    both = by_water + start
    b = by_water / both
    k = 1 + np.maximum(share, 0.0) * (rods.charge * growth / (by_water * both))
    # The root lies left of where the tangent at v = 1 reaches k, and left of k + b ln(k) / (1 - b / k).
    v = np.minimum(1 + (k - 1) / (1 - b), k + b * np.log(k) / (1 - b / k))
    # Three steps are good to a hundred-thousandth of the time.
    for _ in range(3):
        v = np.maximum(v - (v - b * np.log(v) - k) / (1 - b / v), 1.0)
    return np.asarray((v - 1) * both / growth)


def consumed_by_diameter(diameter_m: FloatArray, new_diameter_m: FloatArray) -> FloatArray:
    """Consumed share of a rod now ``diameter_m`` thick, 0 to 1. Source: geometry."""
    core = ANODE.core_diameter_m
    return np.asarray(np.clip(1 - (diameter_m**2 - core**2) / (new_diameter_m**2 - core**2), 0.0, 1.0))


def consumed_by_bare_wire(bare_m: FloatArray, length_m: FloatArray) -> FloatArray:
    """Consumed share of a rod of which ``bare_m`` is wire: C = 1 / (1 + a - 2 a x / L). Source: uneven loss, linear
    along the rod, a = ``parameters.ANODE.wear_skew``, assumption."""
    skew = ANODE.wear_skew
    return np.asarray(1 / (1 + skew - 2 * skew * np.clip(bare_m / length_m, 0.0, 1.0)))

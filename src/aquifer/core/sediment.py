"""Deposit on the floor of a tank: falls loose, bakes into hardened, is flushed in shares of each.

All of it is linear in theta, so depth = theta x depth at theta 1, and a heater's history is computed once. Masses in
kg, years since installation.
"""

from dataclasses import dataclass

import numpy as np

from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.parameters import SEDIMENT
from aquifer.core.vocabulary import FlushMethod

Bed = tuple[FloatArray, FloatArray]
"""Loose and hardened mass, kg, each of shape (n,)."""


def deposit_kg_m3(potential_mg_l: FloatArray, suspended_mg_l: FloatArray) -> FloatArray:
    """Deposit per volume of water heated, kg/m3, shape (n,).

    Parameters, each (n,), mg/L: precipitation potential at the setpoint; suspended solids.
    Source: ``parameters.SEDIMENT``, share and threshold are assumptions.
    """
    precipitate = SEDIMENT.settling_share * np.maximum(potential_mg_l - SEDIMENT.kinetic_threshold_mg_l, 0.0)
    return np.asarray((precipitate + SEDIMENT.solids_retained * suspended_mg_l) / 1000)


def grown(bed: Bed, rate: FloatArray, years: FloatArray) -> Bed:
    """The bed after ``years`` at ``rate`` kg/year; shapes broadcast, years >= 0.

    Source: closed form of dL/dt = s - L/tau, dM/dt = L/tau.
    """
    loose, hardened = bed
    tau = SEDIMENT.consolidation_years
    left = np.exp(-years / tau)
    made = 1 - left
    return loose * left + rate * tau * made, hardened + loose * made + rate * (years - tau * made)


def depth_m(bed: Bed, floor_m2: FloatArray) -> FloatArray:
    """Depth of a bed on a floor of ``floor_m2``; m, shapes broadcast. Source: bulk densities, assumption."""
    return np.asarray((bed[0] / SEDIMENT.loose_density_kg_m3 + bed[1] / SEDIMENT.hardened_density_kg_m3) / floor_m2)


def flushed(bed: Bed, method: FlushMethod) -> Bed:
    """The bed after a flush by ``method``. Source: shares in ``parameters.SEDIMENT``, assumption."""
    share = SEDIMENT.flush[method]
    return bed[0] * (1 - share.loose), bed[1] * (1 - share.hardened)


@dataclass(frozen=True)
class Flushes:
    """Flushes of a fleet, sorted by heater and then in their order. Arrays of shape (m,)."""

    row: IntArray
    years: FloatArray
    """Since the heater was installed, not decreasing within a heater."""
    method: IntArray
    """Position in ``FlushMethod``."""


@dataclass(frozen=True)
class History:
    """What the bed was and is at theta = 1."""

    bed: Bed
    """Now, (n,) each."""
    bed_left: Bed
    """After the last flush, or in the new tank."""
    depth_before_m: FloatArray
    """Before each flush, (m,)."""
    depth_after_m: FloatArray
    removed_l: FloatArray
    """Volume that each flush brought out, L, (m,)."""
    last_years: FloatArray
    """Time of the last flush, years since installation, 0 if none; (n,)."""


def ranked(row: IntArray) -> IntArray:
    """Position of each event among those of its heater, 0 first; ``row`` sorted, shape (m,)."""
    first = np.searchsorted(row, row, side="left")
    return np.asarray(np.arange(row.size) - first)


def replayed(rate: FloatArray, age: FloatArray, floor_m2: FloatArray, flushes: Flushes) -> History:
    """Run every heater's history at theta = 1 from an empty tank.

    Parameters: rate, kg/year, (n,); age, years, (n,); floor_m2, (n,); flushes.
    Returns: see ``History``. One step for the first flush of all heaters, one for the second, and so on.
    """
    n, m = rate.size, flushes.row.size
    loose, hardened, at = np.zeros(n), np.zeros(n), np.zeros(n)
    before, after, removed = np.zeros(m), np.zeros(m), np.zeros(m)
    methods = list(FlushMethod)
    shares = np.array([[SEDIMENT.flush[m].loose, SEDIMENT.flush[m].hardened] for m in methods])
    for events in by_rank(flushes.row):
        row = flushes.row[events]
        share = shares[flushes.method[events]]
        bed = grown((loose[row], hardened[row]), rate[row], np.maximum(flushes.years[events] - at[row], 0.0))
        before[events] = depth_m(bed, floor_m2[row])
        out_loose, out_hardened = bed[0] * share[:, 0], bed[1] * share[:, 1]
        removed[events] = 1000 * (
            out_loose / SEDIMENT.loose_density_kg_m3 + out_hardened / SEDIMENT.hardened_density_kg_m3
        )
        loose[row], hardened[row] = bed[0] - out_loose, bed[1] - out_hardened
        after[events] = depth_m((loose[row], hardened[row]), floor_m2[row])
        at[row] = flushes.years[events]
    now = grown((loose, hardened), rate, np.maximum(age - at, 0.0))
    return History(now, (loose, hardened), before, after, removed, at)


def by_rank(row: IntArray) -> list[IntArray]:
    """Indices of all first events, all second events, ...; each heater at most once in each."""
    rank = ranked(row)
    order = np.argsort(rank, kind="stable")
    return [part for part in np.split(order, np.flatnonzero(np.diff(rank[order])) + 1) if part.size]


def years_to_depth(bed: Bed, rate: FloatArray, floor_m2: FloatArray, limit_m: FloatArray) -> FloatArray:
    """Years until an untouched bed is ``limit_m`` deep; shapes broadcast, 0 if it is already, inf if it never will.

    Source: Newton's method on the closed form. The bed is at most s tau loose, so depth is increasing and concave, and
    each step from the left stays left of the root.
    """
    tau = SEDIMENT.consolidation_years
    per_loose = 1 / (SEDIMENT.loose_density_kg_m3 * floor_m2)
    per_hardened = 1 / (SEDIMENT.hardened_density_kg_m3 * floor_m2)
    loose = np.minimum(bed[0], rate * tau)
    years = np.zeros(np.broadcast_shapes(loose.shape, limit_m.shape))
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        for _ in range(60):
            now = grown((loose, bed[1]), rate, years)
            missing = limit_m - depth_m(now, floor_m2)
            slope = rate * per_loose - now[0] / tau * (per_loose - per_hardened)
            step = np.where(missing > 0, missing / slope, 0.0)
            years = years + np.nan_to_num(step, nan=np.inf, posinf=np.inf)
            if not np.any(step > 1e-9 * (1 + years)):
                break
            years = np.minimum(years, 1e6)
    return np.where(years >= 1e6, np.inf, years)

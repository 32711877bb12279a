"""Deposit on the floor of a tank: falls loose, bakes into hardened, is flushed in shares of each.

All of it is linear in theta, so depth = theta x depth at theta 1, and a heater's history is computed once. Masses in
kg, years since installation.
"""

from dataclasses import dataclass
from functools import cache

import numpy as np
from scipy.special import ndtr

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.parameters import SEDIMENT
from aquifer.core.turns import by_rank
from aquifer.core.vocabulary import FlushMethod

Bed = tuple[FloatArray, FloatArray]
"""Loose and hardened mass, kg, each of shape (n,)."""


def unsure_mg_l(hardness_mg_l: FloatArray, water_spread: FloatArray) -> FloatArray:
    """Standard deviation of a precipitation potential, mg/L, (n,).

    Parameters, (n,): hardness, mg/L; what is not known of the water, as the spread of the log rate that it causes.
    Source: ``parameters.SEDIMENT``, assumption.
    """
    return np.asarray(SEDIMENT.potential_error_mg_l + SEDIMENT.potential_error_share * hardness_mg_l * water_spread)


def excess_mg_l(potential_mg_l: FloatArray, unsure: FloatArray | float = 0.0) -> FloatArray:
    """What of a precipitation potential lies above the kinetic threshold, expected over what is not known of it, mg/L;
    shapes broadcast.

    Parameters: potential; its standard deviation, 0 where it is sure. A water that hardly deposits as it is told may
    well do so as it is: that is in doubt before the threshold, and no factor on nothing. Source: mean of a normal
    distribution above a threshold (textbook).
    """
    above = potential_mg_l - SEDIMENT.kinetic_threshold_mg_l
    sd = np.maximum(unsure, 1e-9)
    z = np.clip(above / sd, -30.0, 30.0)
    expected = above * ndtr(z) + sd * np.exp(-0.5 * z**2) / np.sqrt(2 * np.pi)
    return np.asarray(np.maximum(expected, 0.0))


def doubt(potential_mg_l: FloatArray, unsure: FloatArray) -> FloatArray:
    """Standard deviation of the logarithm of ``excess_mg_l``, (n,): little far above the threshold.

    Source: first-order error, no further than ``parameters.SEDIMENT`` says; assumption.
    """
    share = unsure / np.maximum(excess_mg_l(potential_mg_l, unsure), 1e-9)
    return np.asarray(np.minimum(share, SEDIMENT.most_doubt))


def deposit_kg_m3(
    potential_mg_l: FloatArray, suspended_mg_l: FloatArray, unsure: FloatArray | float = 0.0
) -> FloatArray:
    """Deposit per volume of water heated, kg/m3, shape (n,).

    Parameters, each (n,), mg/L: precipitation potential at the setpoint; suspended solids; what is unsure of the first.
    Source: ``parameters.SEDIMENT``, share and threshold are assumptions.
    """
    precipitate = SEDIMENT.settling_share * excess_mg_l(potential_mg_l, unsure)
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


def flushed(bed: Bed, method: IntArray, log_odds: float = 0.0) -> Bed:
    """The bed after a flush by each heater's method, positions in ``FlushMethod``, shapes broadcast. Source: shares in
    ``parameters.SEDIMENT``, assumption."""
    share = flush_shares(log_odds)[method]
    return bed[0] * (1 - share[..., 0]), bed[1] * (1 - share[..., 1])


@dataclass(frozen=True)
class Openings:
    """Times at which a bed was flushed, or only judged; sorted by heater and then in their order. Shape (m,)."""

    row: IntArray
    years: FloatArray
    """Since the heater was installed, not decreasing within a heater."""
    loose_share: FloatArray
    """Of the loose deposit, what came out; 0 where the bed was only judged."""
    hardened_share: FloatArray
    is_flush: BoolArray


@dataclass(frozen=True)
class History:
    """What the bed was and is at theta = 1."""

    bed: Bed
    """Now, (n,) each."""
    bed_left: Bed
    """After the last flush, or in the new tank."""
    bed_before: Bed
    """Before each opening, (m,) each."""
    depth_before_m: FloatArray
    depth_after_m: FloatArray
    left_spread: FloatArray
    """Standard deviation of the logarithm of that, for all that is not known of a flush; 0 where there was none."""
    removed_l: FloatArray
    """Volume that each brought out, L, (m,)."""
    last_years: FloatArray
    """Time of the last flush, years since installation, 0 if none; (n,)."""


@cache
def flush_shares(log_odds: float = 0.0) -> FloatArray:
    """Share of loose and of hardened deposit that each method of ``FlushMethod`` removes, (methods, 2).

    Parameters: log_odds, by how much all of them are better than is assumed, as the base taught.
    """
    share = np.array([[SEDIMENT.flush[m].loose, SEDIMENT.flush[m].hardened] for m in FlushMethod])
    return np.asarray(share / (share + (1 - share) * np.exp(-log_odds)))


def left_spread(bed: Bed, loose_share: FloatArray, hardened_share: FloatArray) -> FloatArray:
    """Standard deviation of the logarithm of the depth that a flush leaves; shapes broadcast, 0 where nothing lay.

    Parameters: the bed before; shares removed. Source: first-order error of the log odds of the loose share and of
    the logarithm of what is left hardened, whose spreads are in ``parameters.SEDIMENT``, assumption.
    """
    loose, hardened = bed[0] / SEDIMENT.loose_density_kg_m3, bed[1] / SEDIMENT.hardened_density_kg_m3
    left = loose * (1 - loose_share) + hardened * (1 - hardened_share)
    moved = np.hypot(
        SEDIMENT.odds_spread * loose * loose_share * (1 - loose_share),
        SEDIMENT.hardened_left_spread * hardened * (1 - hardened_share) * (hardened_share > 0),
    )
    return np.asarray(moved / np.maximum(left, 1e-12))


def replayed(rate: FloatArray, age: FloatArray, floor_m2: FloatArray, openings: Openings) -> History:
    """Run every heater's history at theta = 1 from an empty tank.

    Parameters: rate, kg/year, (n,); age, years, (n,); floor_m2, (n,); openings.
    Returns: see ``History``. One step for the first opening of all heaters, one for the second, and so on.
    """
    n, m = rate.size, openings.row.size
    loose, hardened, at = np.zeros(n), np.zeros(n), np.zeros(n)
    left_loose, left_hardened, last = np.zeros(n), np.zeros(n), np.zeros(n)
    before: Bed = np.zeros(m), np.zeros(m)
    after: Bed = np.zeros(m), np.zeros(m)
    spread = np.zeros(m)
    for events in by_rank(openings.row):
        row, when = openings.row[events], openings.years[events]
        bed = grown((loose[row], hardened[row]), rate[row], np.maximum(when - at[row], 0.0))
        before[0][events], before[1][events] = bed
        rest = bed[0] * (1 - openings.loose_share[events]), bed[1] * (1 - openings.hardened_share[events])
        after[0][events], after[1][events] = loose[row], hardened[row] = rest
        spread[events] = left_spread(bed, openings.loose_share[events], openings.hardened_share[events])
        at[row] = when
        flush = openings.is_flush[events]
        emptied = row[flush]
        left_loose[emptied], left_hardened[emptied], last[emptied] = rest[0][flush], rest[1][flush], when[flush]
    floor = floor_m2[openings.row]
    removed_m3 = depth_m((before[0] - after[0], before[1] - after[1]), np.ones(m))
    return History(
        grown((loose, hardened), rate, np.maximum(age - at, 0.0)),
        (left_loose, left_hardened),
        before,
        depth_m(before, floor),
        depth_m(after, floor),
        spread,
        1000 * removed_m3,
        last,
    )


def years_to_depth(bed: Bed, rate: FloatArray, floor_m2: FloatArray, limit_m: FloatArray) -> FloatArray:
    """Years until an untouched bed is ``limit_m`` deep; shapes broadcast, 0 if it is already, inf if it never will.

    Source: the closed form of ``grown`` solved for time. With u = t/tau the depth reaches the limit where
    u - k exp(-u) = y, so u = y + W(k exp(-y)) with Lambert's W; k is 0 where the loose deposit is in balance.
    """
    tau = SEDIMENT.consolidation_years
    puff = SEDIMENT.hardened_density_kg_m3 / SEDIMENT.loose_density_kg_m3 - 1
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        a_tau = rate * tau
        k = puff * (1 - np.minimum(bed[0] / a_tau, 1.0))
        wanted = SEDIMENT.hardened_density_kg_m3 * floor_m2 * limit_m - bed[0] - bed[1]
        y = wanted / a_tau - puff
        u = y + _lambert_w(k * np.exp(-np.maximum(y, -k)))
    years = tau * np.where(y <= -k, 0.0, u)
    return np.where((rate > 0) & (years < 1e6), years, np.where(wanted <= 0, 0.0, np.inf))


def _lambert_w(x: FloatArray) -> FloatArray:
    """W(x) with W exp(W) = x for 0 <= x <= 4, to 1e-10. Source: Newton's method on w + ln w = ln x, from a start good
    to a part in a hundred; ``scipy.special.lambertw`` works in complex numbers and takes fifteen times as long."""
    w = np.log1p(x)
    w = w * (1 - np.log1p(w) / (2 + w))
    for _ in range(3):
        grown = np.exp(w)
        w = w - (w * grown - x) / (grown * (1 + w))
    return np.asarray(w)

"""Scale on the wall of a tankless exchanger or a coil: grows evenly, costs temperature margin, dissolves in acid.

Linear in theta, like sediment. Thickness in m, years since installation.
"""

from dataclasses import dataclass

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.parameters import SCALE
from aquifer.core.sediment import excess_mg_l
from aquifer.core.turns import by_rank


def deposit_share(is_coil: BoolArray) -> FloatArray:
    """Share of the precipitating carbonate that sticks to an exchanger's wall, (n,). Source: ``parameters.SCALE``."""
    return np.where(is_coil, SCALE.coil_deposit_share, SCALE.deposit_share)


def limit_m(is_coil: BoolArray) -> FloatArray:
    """Thickness that an exchanger is taken to bear, m, (n,). Source: ``parameters.SCALE``, Fourier's law."""
    return np.where(is_coil, SCALE.coil_limit_m, SCALE.limit_m)


def capacity_lost(thickness_m: FloatArray, limit: FloatArray) -> FloatArray:
    """Share of the heat output at full draw that scale of a thickness costs; shapes broadcast.

    Source: proportional to the scale's resistance while that is small, ``parameters.SCALE``, assumption.
    """
    return np.asarray(SCALE.capacity_loss_at_limit * thickness_m / limit)


def growth_m_per_year(
    volume_m3: FloatArray,
    film_potential_mg_l: FloatArray,
    exchanger_m2: FloatArray,
    share: FloatArray,
    unsure: FloatArray | float = 0.0,
) -> FloatArray:
    """Growth of the scale at theta = 1, m/year, shape (n,).

    Parameters, each (n,): m3 a year; precipitation potential at the film's temperature, mg/L; wetted area, m2; the
    share that sticks, ``deposit_share``; what is unsure of the potential, mg/L.
    Source: mass balance with ``parameters.SCALE``; the deposit share is an assumption. The floor keeps a soft supply
    finite: 1 um a year.
    """
    potential = excess_mg_l(film_potential_mg_l, unsure)
    grown = volume_m3 * potential * share / (1000 * SCALE.density_kg_m3 * exchanger_m2)
    return np.asarray(np.maximum(grown, 1e-6))


@dataclass(frozen=True)
class ScaleHistory:
    """What the scale was and is at theta = 1, m."""

    now_m: FloatArray
    left_m: FloatArray
    """After the last descale, or in the new exchanger."""
    before_m: FloatArray
    last_years: FloatArray


def removed_share(log_odds: float = 0.0) -> float:
    """Share of the scale that a descale dissolves. Source: ``parameters.SCALE``, assumption.

    Parameters: log_odds, by how much it is better than is assumed, as the base taught.
    """
    share = SCALE.removed_share
    return float(share / (share + (1 - share) * np.exp(-log_odds)))


def replayed(
    growth: FloatArray, age: FloatArray, row: IntArray, years: FloatArray, log_odds: float = 0.0
) -> ScaleHistory:
    """Run every exchanger's history at theta = 1 from a clean wall.

    Parameters: growth, m/year, (n,); age, years, (n,); row and years of each descale, (m,), sorted by heater and time;
    log_odds, see ``removed_share``. Returns: see ``ScaleHistory``.
    """
    thickness, at = np.zeros(growth.size), np.zeros(growth.size)
    before = np.zeros(row.size)
    for events in by_rank(row):
        r = row[events]
        before[events] = thickness[r] + growth[r] * np.maximum(years[events] - at[r], 0.0)
        thickness[r] = before[events] * (1 - removed_share(log_odds))
        at[r] = years[events]
    return ScaleHistory(thickness + growth * np.maximum(age - at, 0.0), thickness, before, at)

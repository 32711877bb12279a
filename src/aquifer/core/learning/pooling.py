"""Heaters of one supply learn from each other: a two-level normal model, marginalised exactly on the grids."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy import sparse

from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.learning.grid import GRID, ZONE_GRID, Posterior, Single, product, weighed
from aquifer.core.parameters import LEARNING

_ONES = np.ones(GRID.size, dtype=np.float32)
_NOTHING, _MOST = np.float32(1e-12), np.float32(1e30)
_FLOOR = np.float32(1e-36)
"""Beyond this a likelihood says "no" as firmly as single precision can."""


@dataclass(frozen=True)
class Prior:
    """Normal prior of each heater's log rate when its zone's findings are not at hand; arrays of shape (n,)."""

    mean: FloatArray
    spread: FloatArray


@dataclass(frozen=True)
class Pool:
    """Which heaters share a supply, and how far zones and heaters differ; arrays of shape (n,)."""

    zone: IntArray
    """Any numbers; equal ones share a supply."""
    zone_spread: FloatArray
    """The same for all heaters of a zone; where it is not, the zone's narrowest counts."""
    heater_spread: FloatArray


@dataclass(frozen=True)
class ZoneBelief:
    """What all heaters of some zones say of their zones' effects."""

    zone: IntArray
    """Shape (z,), ascending."""
    logs: FloatArray
    """Shape (z, 61): natural log of the posterior on ``ZONE_GRID``, its highest value 0."""


def with_prior(likelihood: Single, prior: Prior, future_spread: float = LEARNING.future_spread) -> Posterior:
    """Posterior from a normal prior for each heater.

    Parameters: likelihood, shape (n, 61), natural log. prior, mean and spread of shape (n,), spread > 0.
    Returns: the posterior; its ``zone_mean`` is the prior's mean. Source: Bayes' rule on the grid.
    """
    logs = likelihood - 0.5 * ((GRID - prior.mean[:, None]) / prior.spread[:, None]) ** 2
    return Posterior(_normalised(logs).astype(np.float32), prior.mean, future_spread)


def pooled(
    likelihood: Single, pool: Pool, future_spread: float = LEARNING.future_spread
) -> tuple[Posterior, ZoneBelief]:
    """Posterior of each heater given its own findings and those of all others on its supply.

    Parameters: likelihood, shape (n, 61), natural log; pool.
    Returns: the posterior of every heater, and what was learned of each zone.
    Source: two-level normal model, marginalised exactly on the grids. p(x | z) is normalised over x for each z; with
    200 heaters in a zone the transposed kernel would be wrong by a third of a unit.
    """
    scaled, given_zone = messages(likelihood, pool.heater_spread)
    belief = zone_belief(given_zone, pool)
    return posterior(scaled, given_zone, belief, pool, future_spread), belief


def with_zone(
    likelihood: Single,
    prior_evidence: Single,
    belief: ZoneBelief,
    pool: Pool,
    future_spread: float = LEARNING.future_spread,
) -> Posterior:
    """Posterior of a few heaters against their zones as they were computed before.

    Parameters: likelihood of all their findings now, and ``prior_evidence``, of those that went into ``belief``, which
    are taken out of it again; both (n, 61). Returns: the posterior, as ``pooled`` over the whole zone would give it.
    """
    logs = belief.logs[np.searchsorted(belief.zone, pool.zone)]
    is_new = not np.array_equal(prior_evidence, likelihood)
    prior_evidence_of_zone = messages(prior_evidence, pool.heater_spread)[1] if is_new else None
    scaled, given_zone = messages(likelihood, pool.heater_spread)
    if prior_evidence_of_zone is not None:
        logs = logs + np.log(given_zone / prior_evidence_of_zone)
    own = ZoneBelief(np.arange(pool.zone.size), logs)
    alone = Pool(np.arange(pool.zone.size), pool.zone_spread, pool.heater_spread)
    return posterior(scaled, given_zone, own, alone, future_spread)


def messages(likelihood: Single, heater_spread: FloatArray) -> tuple[Single, Single]:
    """The likelihood with its highest value 1, (n, 61), and what each heater says of its zone's effect, (n, 61).

    Source: M(z) = sum over x of p(x | z) L(x).
    """
    n = likelihood.shape[0]
    scaled = likelihood - likelihood.max(axis=1, keepdims=True, initial=-np.inf) if n else likelihood
    np.exp(np.maximum(scaled, np.float32(-80.0), out=scaled), out=scaled)
    given_zone = _through(scaled, heater_spread, ZONE_GRID.size, lambda spread: _kernel(spread).T)
    return scaled, np.maximum(given_zone, _FLOOR, out=given_zone)


def zone_belief(given_zone: Single, pool: Pool) -> ZoneBelief:
    """Prior and messages of every zone, added up. Source: Bayes' rule."""
    zones, place = np.unique(pool.zone, return_inverse=True)
    logs, spread = _by_zone(given_zone, place, pool.zone_spread)
    logs -= 0.5 * (ZONE_GRID / spread[:, None]) ** 2
    return ZoneBelief(zones, logs - logs.max(axis=1, keepdims=True, initial=-np.inf))


def log_evidence(given_zone: Single, likelihood: Single, pool: Pool) -> float:
    """ln of the probability of all findings under the pool's spreads. Source: integral over zones and heaters."""
    _, place = np.unique(pool.zone, return_inverse=True)
    logs, spread = _by_zone(given_zone, place, pool.zone_spread)
    prior = np.exp(-0.5 * (ZONE_GRID / spread[:, None]) ** 2)
    prior /= prior.sum(axis=1, keepdims=True)
    top = logs.max(axis=1, keepdims=True)
    return float(
        np.sum(top[:, 0] + np.log((prior * np.exp(logs - top)).sum(axis=1))) + likelihood.max(axis=1).sum(dtype=float)
    )


def _by_zone(given_zone: Single, place: IntArray, zone_spread: FloatArray) -> tuple[FloatArray, FloatArray]:
    """ln of the product of each zone's messages, (z, 61), in double precision, and its narrowest spread, (z,)."""
    if not place.size:
        return np.zeros((0, ZONE_GRID.size)), np.zeros(0)
    zones, n = int(place.max()) + 1, place.size
    spread = np.full(zones, np.inf)
    np.minimum.at(spread, place, zone_spread)
    summing = sparse.csr_matrix((np.ones(n), (place, np.arange(n))), shape=(zones, n))
    return np.asarray(summing @ np.log(given_zone).astype(np.float64)), spread


def posterior(scaled: Single, given_zone: Single, belief: ZoneBelief, pool: Pool, future_spread: float) -> Posterior:
    place = np.searchsorted(belief.zone, pool.zone)
    # A heater's own message is divided out of its zone; far from the zone's peak both are nothing.
    others = np.exp(belief.logs).astype(np.float32)[place]
    others /= given_zone
    np.minimum(others, _MOST, out=others)
    mass = _through(others, pool.heater_spread, GRID.size, _kernel)
    mass *= scaled
    mass *= (1 / np.maximum(weighed(mass, _ONES), _FLOOR))[:, None]
    # Numbers too small for single precision would slow every product after this tenfold.
    np.maximum(mass, _NOTHING, out=mass)
    zone_mean = _normalised(belief.logs) @ ZONE_GRID
    return Posterior(mass, zone_mean[place], future_spread)


def _through(rows: Single, spread: FloatArray, width: int, kernel: Callable[[float], Single]) -> Single:
    """Each row times the kernel of its spread, (n, width); few different spreads occur, since they are rounded."""
    if not spread.size or (spread == spread[0]).all():
        return product(rows, kernel(float(spread[0]) if spread.size else 1.0))
    different = np.unique(spread)
    result = np.empty((rows.shape[0], width), dtype=np.float32)
    for one in different:
        at = np.flatnonzero(spread == one)
        result[at] = product(rows[at], kernel(float(one)))
    return result


@lru_cache(maxsize=64)
def _kernel(heater_spread: float) -> Single:
    """p(x | z), shape (61, 61), each row summing to 1."""
    kernel = _normalised(-0.5 * ((GRID[None, :] - ZONE_GRID[:, None]) / heater_spread) ** 2)
    return np.where(kernel < _NOTHING, 0.0, kernel).astype(np.float32)


def _normalised(logs: FloatArray) -> FloatArray:
    mass = np.exp(logs - logs.max(axis=1, keepdims=True)) if logs.size else logs
    return np.asarray(mass / mass.sum(axis=1, keepdims=True)) if logs.size else mass

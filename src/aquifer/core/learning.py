"""What findings say of a heater's own rate.

Each component grows at ``theta`` times what water, use and temperature suggest. ``log theta`` is the sum of an effect
of the supply zone, z ~ N(0, zone spread), and one of the heater, N(0, heater spread). Both posteriors are computed on
grids by Bayes' rule, exactly but for the grid: a heater's prior is what all *other* heaters of its zone say of z.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy import sparse
from scipy.special import ndtr, ndtri

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.parameters import LEARNING

GRID = np.linspace(-3.6, 3.6, 61)
"""log theta of a heater; its step of 0.12 carries posteriors down to a standard deviation of 0.08."""
ZONE_GRID = np.linspace(-2.4, 2.4, 81)
"""log theta of a zone: finer, since hundreds of heaters narrow it to 0.06."""
STEP = GRID[1] - GRID[0]
_MARGIN = 14
EDGES = GRID[0] - STEP / 2 + STEP * np.arange(-_MARGIN, GRID.size + _MARGIN + 1)
"""Cell edges on which distributions are kept; they reach beyond the grid because the future spreads."""
_TINY = 1e-300


@dataclass(frozen=True)
class Intervals:
    """Findings that place a heater's log rate between bounds, as a grade by eye does. Arrays of shape (m,)."""

    row: IntArray
    """Which heater."""
    low: FloatArray
    high: FloatArray
    """Bounds of log theta; -inf and inf allowed."""
    spread: FloatArray
    """Standard deviation of the bounds."""
    misgrade: FloatArray
    """Share of such findings that say nothing."""
    weight: FloatArray


@dataclass(frozen=True)
class Readings:
    """Findings that measure a heater's log rate. Arrays of shape (m,)."""

    row: IntArray
    value: FloatArray
    spread: FloatArray
    weight: FloatArray


@dataclass(frozen=True)
class Demands:
    """Times that a dormant part was asked to work. Arrays of shape (m,)."""

    row: IntArray
    hazard: FloatArray
    """Cumulative hazard at theta = 1 since it last worked."""
    failed: BoolArray
    weight: FloatArray


@dataclass(frozen=True)
class Evidence:
    intervals: Intervals | None = None
    readings: Readings | None = None
    demands: Demands | None = None


GRADES = 5
"""Number of grades among which a misgraded finding falls evenly."""


def log_likelihood(evidence: Evidence, heaters: int) -> FloatArray:
    """Log-likelihood of each heater's findings on ``GRID``.

    Parameters: evidence; heaters, n. Returns: shape (n, 61), natural log, 0 where nothing was found.
    Source: ordinal probit with misgrading, normal error of readings, Weibull survival of dormant parts.
    """
    total = np.zeros((heaters, GRID.size))
    if evidence.intervals is not None:
        i = evidence.intervals
        spread = i.spread[:, None]
        inside = ndtr((i.high[:, None] - GRID) / spread) - ndtr((i.low[:, None] - GRID) / spread)
        slip = i.misgrade[:, None]
        total += _summed(i.row, i.weight, np.log(np.maximum((1 - slip) * inside + slip / GRADES, _TINY)), heaters)
    if evidence.readings is not None:
        r = evidence.readings
        total += _summed(r.row, r.weight, -0.5 * ((r.value[:, None] - GRID) / r.spread[:, None]) ** 2, heaters)
    if evidence.demands is not None:
        d = evidence.demands
        hazard = d.hazard[:, None] * np.exp(GRID)
        worked = -hazard
        failed = np.log(np.maximum(-np.expm1(-hazard), _TINY))
        total += _summed(d.row, d.weight, np.where(d.failed[:, None], failed, worked), heaters)
    return total


def _summed(row: IntArray, weight: FloatArray, terms: FloatArray, heaters: int) -> FloatArray:
    """Weighted sum of findings by heater; the sparse product adds them in their order, so the bytes are the same."""
    if row.size == 0:
        return np.zeros((heaters, GRID.size))
    summing = sparse.csr_matrix((weight, (row, np.arange(row.size))), shape=(heaters, row.size))
    return np.asarray(summing @ terms)


@dataclass(frozen=True)
class Prior:
    """Normal prior of each heater's log rate when its zone's findings are not at hand; arrays of shape (n,)."""

    mean: FloatArray
    spread: FloatArray


@dataclass(frozen=True)
class Pool:
    """Which heaters share a supply, and how far zones and heaters differ."""

    zone: IntArray
    """Shape (n,), 0 to zones - 1."""
    zones: int
    zone_spread: FloatArray
    """Shape (n,); the same for all heaters of a zone."""
    heater_spread: FloatArray
    """Shape (n,)."""


@dataclass(frozen=True)
class Posterior:
    """What is believed of log theta: probability on the grid, and the same carried into the future."""

    mass: FloatArray
    """Shape (n, 61), sums to 1."""
    zone_mean: FloatArray
    """Shape (n,): mean of the zone's effect, the heater's own findings included."""
    future_spread: float = LEARNING.future_spread

    @property
    def mean(self) -> FloatArray:
        return np.asarray(self.mass @ GRID)

    @property
    def sd(self) -> FloatArray:
        return np.sqrt(np.maximum(self.mass @ GRID**2 - self.mean**2, 0.0))

    def quantiles(self, probabilities: FloatArray) -> FloatArray:
        """Quantiles of log theta as it will be, shape (n, q). Source: mixture of normals about the grid's points."""
        return _inverse(self._future, probabilities)

    def quantiles_of_past(self, probabilities: FloatArray) -> FloatArray:
        """Quantiles of log theta as it was, shape (n, q). Source: midpoint rule with its first correction term."""
        return _inverse(_cumulative(self.mass), probabilities)

    def exceeding(self, threshold: FloatArray) -> FloatArray:
        """Probability that the coming log theta is above each ``threshold``, both of shape (n, m)."""
        return 1 - _evaluate(self._future, threshold)

    def expected(self, function: Callable[[FloatArray], FloatArray]) -> FloatArray:
        """Mean of ``function(log theta)``, which takes the grid (61,) and gives (n, 61); shape (n,)."""
        return np.asarray((self.mass * function(GRID)).sum(axis=1))

    @property
    def _future(self) -> FloatArray:
        return np.asarray(self.mass @ _spreading(self.future_spread))


@lru_cache(maxsize=16)
def _spreading(spread: float) -> FloatArray:
    """Shape (61, edges): probability that each grid point, spread by a normal, lies below each edge."""
    if spread <= 0:
        raise ValueError(f"the spread of the future is {spread:g}; it must be above 0")
    return np.asarray(ndtr((EDGES[None, :] - GRID[:, None]) / spread))


def _cumulative(mass: FloatArray) -> FloatArray:
    """Cumulative probability at ``EDGES``; the correction is h^2/24 f' at each edge (Euler-Maclaurin)."""
    n = mass.shape[0]
    padded = np.concatenate([np.zeros((n, _MARGIN)), mass, np.zeros((n, _MARGIN))], axis=1)
    total = np.concatenate([np.zeros((n, 1)), np.cumsum(padded, axis=1)], axis=1)
    total[:, 1:-1] += np.diff(padded, axis=1) / 24
    return np.maximum.accumulate(np.clip(total, 0.0, 1.0), axis=1)


def _probit(probability: FloatArray) -> FloatArray:
    return np.asarray(ndtri(np.clip(probability, 1e-12, 1 - 1e-12)))


def _inverse(cumulative: FloatArray, probabilities: FloatArray) -> FloatArray:
    """Where each row's cumulative probability reaches ``probabilities``, interpolated in probit space: exact for a
    normal distribution."""
    n = cumulative.shape[0]
    result = np.empty((n, probabilities.size))
    rows = np.arange(n)
    for position, probability in enumerate(probabilities):
        upper = np.clip((cumulative < probability).sum(axis=1), 1, EDGES.size - 1)
        below, above = _probit(cumulative[rows, upper - 1]), _probit(cumulative[rows, upper])
        share = (ndtri(probability) - below) / np.maximum(above - below, 1e-12)
        result[:, position] = EDGES[upper - 1] + STEP * np.clip(share, 0.0, 1.0)
    return result


def _evaluate(cumulative: FloatArray, at: FloatArray) -> FloatArray:
    """Cumulative probability of each row at the points ``at``, shape (n, m), interpolated in probit space."""
    position = np.clip((np.nan_to_num(at, nan=np.inf, posinf=1e9, neginf=-1e9) - EDGES[0]) / STEP, 0, EDGES.size - 1)
    lower = np.minimum(position.astype(np.int64), EDGES.size - 2)
    below = _probit(np.take_along_axis(cumulative, lower, axis=1))
    above = _probit(np.take_along_axis(cumulative, lower + 1, axis=1))
    inside = ndtr(below + (above - below) * (position - lower))
    return np.where(at <= EDGES[0], 0.0, np.where(at >= EDGES[-1], 1.0, inside))


def with_prior(likelihood: FloatArray, prior: Prior, future_spread: float = LEARNING.future_spread) -> Posterior:
    """Posterior from a normal prior for each heater.

    Parameters: likelihood, shape (n, 61), natural log. prior, mean and spread of shape (n,), spread > 0.
    Returns: the posterior; its ``zone_mean`` is the prior's mean. Source: Bayes' rule on the grid.
    """
    logs = likelihood - 0.5 * ((GRID - prior.mean[:, None]) / prior.spread[:, None]) ** 2
    return Posterior(_normalised(logs), prior.mean, future_spread)


def pooled(likelihood: FloatArray, pool: Pool, future_spread: float = LEARNING.future_spread) -> Posterior:
    """Posterior of each heater given its own findings and those of all others on its supply.

    Parameters: likelihood, shape (n, 61), natural log; pool. Returns: the posterior of every heater.
    Source: two-level normal model, marginalised exactly on the grids. p(x | z) is normalised over x for each z; with
    200 heaters in a zone the transposed kernel would be wrong by a third of a unit.
    """
    n = likelihood.shape[0]
    top = likelihood.max(axis=1, keepdims=True, initial=-np.inf) if n else likelihood
    scaled = np.exp(likelihood - top)
    given_zone = np.empty((n, ZONE_GRID.size))
    levels, level = np.unique(np.stack([pool.zone_spread, pool.heater_spread]), axis=1, return_inverse=True)
    members = [np.flatnonzero(level.ravel() == position) for position in range(levels.shape[1])]
    for position, rows in enumerate(members):
        kernel = _kernel(float(levels[1, position]))
        given_zone[rows] = np.log(np.maximum(scaled[rows] @ kernel.T, _TINY))

    zone_logs = np.zeros((pool.zones, ZONE_GRID.size))
    if n:
        zone_logs = _zone_sums(given_zone, pool)
    spread = np.full(pool.zones, LEARNING.zone_spread)
    spread[pool.zone] = pool.zone_spread
    zone_logs = zone_logs - 0.5 * (ZONE_GRID / spread[:, None]) ** 2
    zone_mass = _normalised(zone_logs)
    others = _normalised(zone_logs[pool.zone] - given_zone)

    mass = np.empty_like(likelihood)
    for position, rows in enumerate(members):
        mass[rows] = others[rows] @ _kernel(float(levels[1, position]))
    mass *= scaled
    mass /= np.maximum(mass.sum(axis=1, keepdims=True), _TINY)
    return Posterior(mass, (zone_mass @ ZONE_GRID)[pool.zone], future_spread)


def _zone_sums(given_zone: FloatArray, pool: Pool) -> FloatArray:
    n = pool.zone.size
    summing = sparse.csr_matrix((np.ones(n), (pool.zone, np.arange(n))), shape=(pool.zones, n))
    return np.asarray(summing @ given_zone)


@lru_cache(maxsize=32)
def _kernel(heater_spread: float) -> FloatArray:
    """p(x | z), shape (81, 61), each row summing to 1."""
    return _normalised(-0.5 * ((GRID[None, :] - ZONE_GRID[:, None]) / heater_spread) ** 2)


def _normalised(logs: FloatArray) -> FloatArray:
    mass = np.exp(logs - logs.max(axis=1, keepdims=True)) if logs.size else logs
    return np.asarray(mass / mass.sum(axis=1, keepdims=True)) if logs.size else mass


def faded(years_ago: FloatArray) -> FloatArray:
    """Weight of findings by their age in years, shape (m,), 0 to 1. Source: ``parameters.LEARNING``, a stand-in for a
    rate that drifts as households change."""
    return np.asarray(LEARNING.fade_per_year ** np.maximum(years_ago, 0.0))

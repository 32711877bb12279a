"""The grid of log theta, and what can be read off a posterior on it."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from aquifer.core.arrays import FloatArray

GRID = np.linspace(-3.6, 3.6, 61)
"""log theta of a heater; its step of 0.12 carries posteriors down to a standard deviation of 0.08."""
ZONE_GRID = np.linspace(-2.4, 2.4, 61)
"""log theta of a zone: finer, since hundreds of heaters narrow it to 0.06."""
STEP = float(GRID[1] - GRID[0])
_AT, _SQUARED = GRID.astype(np.float32), (GRID**2).astype(np.float32)
_MARGIN = 10
EDGES = GRID[0] - STEP / 2 + STEP * np.arange(-_MARGIN, GRID.size + _MARGIN + 1)
"""Cell edges on which distributions are kept; they reach beyond the grid because the future spreads."""
_INNER = EDGES[_MARGIN : _MARGIN + GRID.size + 1]
"""Those of the grid itself."""
Single = NDArray[np.float32]
"""Grids are kept in single precision: half the memory to move, and far finer than any finding."""
_COARSE = 4
"""Every fourth grid point carries a mean, smooth functions being linear between them to a part in a hundred."""


@dataclass(frozen=True)
class Posterior:
    """What is believed of log theta: probability on the grid, and the same carried into the future."""

    mass: Single
    """Shape (n, 61), sums to 1."""
    zone_mean: FloatArray
    """Shape (n,): mean of the zone's effect, the heater's own findings included."""
    future_spread: float
    shift: FloatArray | float = 0.0
    """Shape (n,): what the heater's cohort adds to the grid's log theta, and the windows' own correction."""

    @cached_property
    def _centre(self) -> FloatArray:
        return weighed(self.mass, _AT).astype(np.float64)

    @property
    def mean(self) -> FloatArray:
        return np.asarray(self._centre + self.shift)

    @cached_property
    def sd(self) -> FloatArray:
        squares = weighed(self.mass, _SQUARED).astype(np.float64)
        return np.sqrt(np.maximum(squares - self._centre**2, 0.0))

    def quantiles(self, probabilities: FloatArray) -> FloatArray:
        """Quantiles of log theta as it will be, shape (n, q). Source: mixture of normals about the grid's points."""
        return self._placed(_inverse(self._future, probabilities))

    def straying(self, probabilities: FloatArray) -> "Straying":
        """Quantiles of log theta, (n, q), over times of which some is past and some to come."""
        return Straying(*(of(probabilities) for of in self._strays))

    def straying_each(self, probability: FloatArray) -> "Straying":
        """The same at each heater's own probability, (n, 1)."""
        return Straying(*(at_each(of, probability)[:, None] for of in self._strays))

    @property
    def _strays(self) -> tuple[Callable[[FloatArray], FloatArray], ...]:
        return self.quantiles_of_past, self._half_quantiles, self.quantiles

    def _half_quantiles(self, probabilities: FloatArray) -> FloatArray:
        return self._placed(_inverse(self._half, probabilities))

    def quantiles_of_past(self, probabilities: FloatArray) -> FloatArray:
        """Quantiles of log theta as it was, shape (n, q). Source: midpoint rule with its first correction term."""
        # Rate, state and the state in a year ask for the same ones in turn.
        key = ("quantiles", probabilities.tobytes())
        if key not in self._kept:
            self._kept[key] = self._placed(_inverse(self._past, probabilities, _INNER))
        return self._kept[key]

    @cached_property
    def _kept(self) -> dict[tuple[str, bytes], FloatArray]:
        return {}

    def standing(self, probabilities: FloatArray) -> FloatArray:
        """Quantiles of log theta as it was, from the mean in standard deviations, (n, q)."""
        return (self.quantiles_of_past(probabilities) - self.mean[:, None]) / self._scale[:, None]

    def standing_each(self, probability: FloatArray) -> FloatArray:
        """The same at each heater's own probability, (n,)."""
        return at_each(self.standing, probability)

    def beyond(self, standing: FloatArray) -> FloatArray:
        """Probability that log theta, as it was, lies further up than so many standard deviations, (n, m)."""
        at = self._centre[:, None] + standing * self._scale[:, None]
        return 1 - _evaluate(self._past, at, _INNER)

    @cached_property
    def _scale(self) -> FloatArray:
        return np.maximum(self.sd, 1e-3)

    @cached_property
    def _past(self) -> Single:
        return _turned(product(self.mass, _summing()))

    def exceeding(self, threshold: FloatArray, to_come: FloatArray | None = None) -> FloatArray:
        """Probability that log theta is above each ``threshold``, both of shape (n, m).

        Parameters: to_come, (n, m), which share of what it makes is still to come, see ``Straying``; None where all is.
        """
        shift = np.asarray(self.shift, dtype=np.float64)
        at = threshold - (shift[:, None] if shift.ndim else shift)
        if to_come is None:
            return 1 - _evaluate(self._future, at)
        below = _evaluate(self._past, at, _INNER), _evaluate(self._half, at), _evaluate(self._future, at)
        return 1 - Straying(*below).on(to_come)

    def expected(self, function: Callable[[FloatArray], FloatArray]) -> FloatArray:
        """Mean of a smooth ``function(log theta)``, of (n or 1, 16) points, which gives (n, t, 16); shape (n, t)."""
        shift = np.asarray(self.shift, dtype=np.float64)
        nodes = GRID[None, ::_COARSE] + (shift[:, None] if shift.ndim else shift)
        return np.asarray((function(nodes) @ self._coarse[:, :, None])[:, :, 0])

    @cached_property
    def _coarse(self) -> FloatArray:
        return np.asarray(product(self.mass, _hats()), dtype=np.float64)

    @cached_property
    def _future(self) -> Single:
        """Shape (edges, n): with a heater a column, searching and counting go along memory."""
        return _turned(product(self.mass, _spreading(self.future_spread)))

    @cached_property
    def _half(self) -> Single:
        return _turned(product(self.mass, _spreading(self.future_spread / 2)))

    def _placed(self, at: FloatArray) -> FloatArray:
        shift = np.asarray(self.shift, dtype=np.float64)
        return np.asarray(at + (shift[:, None] if shift.ndim else shift))


@dataclass(frozen=True)
class Straying:
    """Figures of log theta by how much of a time is still to come: what has been is known as far as it is, and strays
    no further. Arrays of one shape."""

    none: FloatArray
    half: FloatArray
    all: FloatArray

    def on(self, to_come: FloatArray) -> FloatArray:
        """The figures where such a share is to come. Source: between the three as variances add, by its square."""
        variance = np.clip(to_come, 0.0, 1.0) ** 2
        none, whole = np.maximum(1 - 4 * variance, 0.0), np.maximum((4 * variance - 1) / 3, 0.0)
        return np.asarray(none * self.none + (1 - none - whole) * self.half + whole * self.all)


def at_each(quantiles: Callable[[FloatArray], FloatArray], probability: FloatArray) -> FloatArray:
    """Each heater's quantile at its own probability, (n,); few different ones occur, mostly one."""
    if not probability.size or (probability == probability[0]).all():
        return np.asarray(quantiles(probability[:1])[:, 0])
    different, place = np.unique(probability, return_inverse=True)
    return np.asarray(quantiles(different)[np.arange(place.size), place])


def weighed(rows: Single, weights: Single) -> Single:
    """Sum of each row's values, each times its weight, (n,); the same bytes however many rows stand beside it, which
    BLAS would not give."""
    return np.asarray(np.einsum("ij,j->i", rows, weights))


def product(rows: Single, matrix: Single) -> Single:
    """``rows @ matrix``, each row to the same bytes however many stand beside it: for few rows BLAS adds up in another
    order, so few are filled up."""
    n = rows.shape[0]
    if n >= _FEW:
        return np.asarray(rows @ matrix)
    filled = np.zeros((_FEW, rows.shape[1]), dtype=np.float32)
    filled[:n] = rows
    return np.asarray(filled @ matrix)[:n]


_FEW = 320


def _turned(rows: Single) -> Single:
    """The transpose, in memory too. Multiplying the other way round would spare the copy, but then a heater's figures
    would depend in their last bit on how many others were computed with it."""
    return np.ascontiguousarray(rows.T)


@lru_cache(maxsize=16)
def _spreading(spread: float) -> Single:
    """Shape (61, edges): probability that each grid point, spread by a normal, lies below each edge."""
    if spread <= 0:
        raise ValueError(f"the spread of the future is {spread:g}; it must be above 0")
    below = ndtr((EDGES[None, :] - GRID[:, None]) / spread)
    # Numbers too small for single precision would slow the product tenfold.
    return np.asarray(np.where(below < 1e-12, 0.0, below), dtype=np.float32)


@lru_cache(maxsize=1)
def _hats() -> Single:
    """Shape (61, 16): how each grid point is shared between the coarse points beside it."""
    coarse = GRID[::_COARSE]
    share = 1 - np.abs(GRID[:, None] - coarse[None, :]) / (_COARSE * STEP)
    return np.maximum(share, 0.0).astype(np.float32)


@lru_cache(maxsize=1)
def _summing() -> Single:
    """Shape (61, 62): probability of each grid cell that lies below each inner edge; the correction is h^2/24 f' at
    each edge (Euler-Maclaurin)."""
    below = (GRID[:, None] < _INNER[None, :]).astype(np.float64)
    at_lower = np.isclose(GRID[:, None] - STEP / 2, _INNER[None, :])
    at_upper = np.isclose(GRID[:, None] + STEP / 2, _INNER[None, :])
    return np.asarray(below + (at_lower.astype(np.float64) - at_upper) / 24, dtype=np.float32)


def _straight(probability: Single) -> Single:
    """A coordinate in which a normal distribution function is close to a straight line, so that interpolating in it is
    good to a thousandth of a standard deviation: the logit bent to grow like the probit at both ends, at a fifth of the
    probit's cost."""
    p = np.minimum(np.maximum(probability, _LEAST), _MOST)
    logit = np.log(p / (1 - p))
    return np.asarray(logit / np.sqrt(_BEND + _HALF * np.abs(logit)))


_LEAST, _MOST, _HALF = np.float32(1e-9), np.float32(1 - 1e-7), np.float32(0.5)
_BEND = np.float32(2.55)
"""(8/pi), the slope of the logit over the probit at one half, squared."""


def _unbent(straight: FloatArray) -> FloatArray:
    """The probability at a coordinate of ``_straight``."""
    squared = straight * straight
    logit = np.sign(straight) * (0.25 * squared + np.sqrt(squared * (0.0625 * squared + float(_BEND))))
    return np.asarray(1 / (1 + np.exp(-logit)))


def _inverse(cumulative: Single, probabilities: FloatArray, edges_at: FloatArray = EDGES) -> FloatArray:
    """Where each column's cumulative probability at some edges reaches ``probabilities``, (n, q), interpolated in the
    straight coordinate."""
    edges, n = cumulative.shape
    wanted = probabilities.astype(np.float32)
    reached = np.stack(
        [
            np.add.reduce((cumulative < wanted[..., q]).view(np.uint8), axis=0, dtype=np.uint8)
            for q in range(wanted.shape[-1])
        ],
        axis=1,
    ).astype(np.int64)
    above = np.minimum(np.maximum(reached, 1), edges - 1)
    flat, index = cumulative.ravel(), above * n + np.arange(n)[:, None]
    low, high = _straight(flat.take(index - n)), _straight(flat.take(index))
    share = (_straight(wanted) - low) / np.maximum(high - low, np.float32(1e-6))
    return np.asarray(edges_at[0] + STEP * (above - 1 + np.minimum(np.maximum(share, 0.0), 1.0)), dtype=np.float64)


def _evaluate(cumulative: Single, at: FloatArray, edges_at: FloatArray = EDGES) -> FloatArray:
    """Cumulative probability of each column at the points ``at``, (n, m), interpolated in the straight coordinate."""
    edges, n = cumulative.shape
    position = np.minimum(np.maximum((at - edges_at[0]) / STEP, 0.0), edges - 1.0)
    lower = np.minimum(position.astype(np.int32), edges - 2)
    flat, index = cumulative.ravel(), lower.astype(np.int64) * n + np.arange(n)[:, None]
    below, above = _straight(flat.take(index)), _straight(flat.take(index + n))
    inside = _unbent(below + (above - below) * (position - lower))
    return np.where(at <= edges_at[0], 0.0, np.where(at >= edges_at[-1], 1.0, inside))

"""How much lies in a heater, beside how fast it comes.

What a cleaning leaves is a matter of luck, hands and tank, and a year's growth strays from the usual pace. So the level
of a deposit is pace times history, times a factor of its own that each cleaning and each year blurs, and that each look
tells something of. Its logarithm is normal with a mean, a share in which it still follows the pace, and a variance in
two parts: what cleanings left open, and what years did (as a multiple of the squared spread of a year).

Source: a Kalman filter on the logarithm, given the pace (textbook); a grade is an interval, whose moments are those of
a truncated normal (textbook).
"""

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.learning.grid import GRID
from aquifer.core.parameters import LEARNING
from aquifer.core.turns import by_rank

_ROOT_2_PI = float(np.sqrt(2 * np.pi))
_LEAST = 1e-9
_SLIP_DENSITY = LEARNING.slip / float(GRID[-1] - GRID[0])
"""Of a reading that is a slip: even over the grid of log theta."""


@dataclass(frozen=True)
class History:
    """A deposit's levels at theta = 1, in any unit: n heaters, m events sorted by heater and in their order."""

    row: IntArray
    before: FloatArray
    """Level before each event, (m,)."""
    after: FloatArray
    left_spread: FloatArray
    """Standard deviation of the logarithm of what the event leaves, (m,); 0 where nothing was cleaned."""
    now: FloatArray
    """(n,)."""
    past_shift: FloatArray
    """What years that nobody recorded take off the logarithm of the level before the first event, (n,); 0 if none."""
    past_spread: FloatArray
    """Standard deviation of that."""


@dataclass(frozen=True)
class Looks:
    """What was found at each event, as what it says of log theta; NaN where nothing was. Arrays of shape (m,)."""

    low: FloatArray
    high: FloatArray
    """A reading where they are the same, else the bounds of a grade."""
    spread: FloatArray
    left: FloatArray
    """The same of what was left, (m,): readings alone."""
    left_spread: FloatArray


@dataclass(frozen=True)
class Level:
    """How a level's logarithm differs from that of pace times history; any one shape."""

    shift: FloatArray
    share: FloatArray
    """Of the pace's own uncertainty, how much is the level's."""
    left_open: FloatArray
    """Variance that cleanings and unrecorded years left."""
    years_open: FloatArray
    """Variance that years' growth left, over the square of a year's spread."""

    def at(self, rows: IntArray) -> "Level":
        return Level(self.shift[rows], self.share[rows], self.left_open[rows], self.years_open[rows])

    def at_column(self, rows: IntArray, columns: IntArray) -> "Level":
        """One of each row of a level of shape (n, k)."""
        shape = self.left_open.shape
        of = (
            np.broadcast_to(one, shape)[rows, columns]
            for one in (self.shift, self.share, self.left_open, self.years_open)
        )
        return Level(*of)

    def variance(self, year_spread: float) -> FloatArray:
        """Of the level for a given pace."""
        return np.asarray(self.left_open + year_spread**2 * self.years_open)

    def grown(self, weight: FloatArray) -> "Level":
        """After growth at the pace, so that what was is ``weight`` of what is; shapes broadcast."""
        fresh = 1 - weight
        level = weight * np.exp(self.shift) + fresh
        kept = weight * np.exp(self.shift) / level
        return Level(
            np.log(level),
            kept * self.share + (1 - kept),
            kept**2 * self.left_open,
            kept**2 * self.years_open + (1 - kept) ** 2,
        )

    def cleaned(self, left_spread: FloatArray) -> "Level":
        """After a cleaning that leaves a share with that deviation of its logarithm."""
        return Level(self.shift, self.share, self.left_open + left_spread**2, self.years_open)

    def looked_at(
        self, low: FloatArray, high: FloatArray, spread: FloatArray, mean: FloatArray, year_spread: float
    ) -> "Level":
        """After findings, each as bounds on log theta, given the mean of log theta, which has heard them already."""
        own = self.variance(year_spread)
        total = own + spread**2
        root = np.sqrt(total)
        middle = mean + self.shift
        is_read = low == high
        with np.errstate(invalid="ignore", over="ignore"):
            a, b = (low - middle) / root, (high - middle) / root
            inside = np.maximum(ndtr(b) - ndtr(a), _LEAST)
            at_a, at_b = (np.exp(-0.5 * np.minimum(x**2, 300.0)) / _ROOT_2_PI for x in (a, b))
            moved = (at_a - at_b) / inside
            narrowed = moved**2 + (_finite(b) * at_b - _finite(a) * at_a) / inside
            # A reading that nothing foretold is more likely a slip.
            density = (1 - LEARNING.slip) * at_a / root
            trusted = density / (density + _SLIP_DENSITY)
        step = np.where(is_read, trusted * a, moved)
        less = np.where(is_read, trusted, np.clip(narrowed, 0.0, 1.0))
        known = ~np.isnan(low) & (own > 0)
        gain = np.where(known, own / total, 0.0)
        shift = self.shift + np.where(known, gain * root * np.nan_to_num(step), 0.0)
        left = 1 - gain * np.nan_to_num(less)
        return Level(shift, self.share * left, self.left_open * left, self.years_open * left)


def _finite(x: FloatArray) -> FloatArray:
    return np.clip(x, -25.0, 25.0)


@dataclass(frozen=True)
class Followed:
    """A level through its events."""

    foretold: Level
    """Before each event, by what was found earlier, (m,)."""
    heard: Level
    """The same by what was found then, too."""
    now: Level
    """By everything, (n,)."""


def followed(history: History, looks: Looks | None, mean: FloatArray, year_spread: float) -> Followed:
    """A level through its events.

    Parameters: history; looks, None to hear nothing; mean of log theta, (n,); a year's spread, natural log.
    """
    n, m = history.now.size, history.row.size
    held = np.zeros(n)
    level = Level(np.zeros(n), np.ones(n), np.zeros(n), np.zeros(n))
    past = np.stack([history.past_shift, history.past_spread**2], axis=1)
    before, heard = (Level(np.zeros(m), np.ones(m), np.zeros(m), np.zeros(m)) for _ in range(2))
    for events in by_rank(history.row):
        row = history.row[events]
        now = _since(level.at(row), held[row], history.before[events], past[row])
        past[row] = 0.0
        _put(before, events, now)
        if looks is not None:
            now = now.looked_at(looks.low[events], looks.high[events], looks.spread[events], mean[row], year_spread)
        _put(heard, events, now)
        now = now.cleaned(history.left_spread[events])
        if looks is not None:
            left = looks.left[events]
            now = now.looked_at(left, left, looks.left_spread[events], mean[row], year_spread)
        _put(level, row, now)
        held[row] = history.after[events]
    return Followed(before, heard, _since(level, held, history.now, past))


def _since(level: Level, held: FloatArray, reached: FloatArray, past: FloatArray) -> Level:
    """The level when what was ``held`` has grown to ``reached``, both at theta = 1; shift and variance of the past."""
    weight = np.where(reached > 0, np.minimum(held / np.maximum(reached, 1e-300), 1.0), 0.0)
    grown = level.grown(weight)
    return Level(grown.shift + past[:, 0], grown.share, grown.left_open + past[:, 1], grown.years_open)


def _put(into: Level, at: IntArray, values: Level) -> None:
    into.shift[at], into.share[at] = values.shift, values.share
    into.left_open[at], into.years_open[at] = values.left_open, values.years_open

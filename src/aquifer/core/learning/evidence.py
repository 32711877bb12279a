"""Findings as likelihoods of a heater's log rate.

A grade by eye is ordinal, with people who misgrade; a reading is normal, with slips; a dormant part that was asked to
work has survived or not. Weights fade with a finding's age, and fall when the household changes. A weight divides the
finding's variance, not its log-likelihood: an old finding is vague, but no likelier to be a slip.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np
from scipy import sparse
from scipy.special import ndtr

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.learning.grid import GRID, STEP, Single
from aquifer.core.parameters import LEARNING

_PHASES = 16
"""A table of likelihoods has this many points a grid step; its error of 0.004 is nothing beside a grade's spread."""

_GRID = GRID.astype(np.float32)
_LEVEL = 0.9
_LEVELS = 24
"""Weights are rounded to powers of 0.9, half a year's fading, down to 0.09."""


@dataclass(frozen=True)
class GradeScale:
    """A scale on which people grade: ``cuts`` are natural logs of the bounds between grades."""

    cuts: tuple[float, ...]
    spread: float
    """Standard deviation of a grade, natural log."""
    misgrade: float
    """Share of grades that say nothing."""

    def log_likelihood(self, grade: IntArray, log_state: FloatArray) -> FloatArray:
        """ln of the probability of each grade at the natural log of the true state; shapes broadcast."""
        edges = np.concatenate([[-np.inf], self.cuts, [np.inf]])
        inside = ndtr((edges[grade + 1] - log_state) / self.spread) - ndtr((edges[grade] - log_state) / self.spread)
        return np.asarray(np.log(np.maximum((1 - self.misgrade) * inside + self.misgrade / self.grades, 1e-30)))

    @property
    def grades(self) -> int:
        return len(self.cuts) + 1

    def seen_by(self, eye_scale: float) -> "GradeScale":
        """The same scale as people use it whose grades spread so many times as far as is assumed."""
        return self if eye_scale == 1.0 else _seen_by(self, eye_scale)

    def on_grid(self, grade: IntArray, log_unit: FloatArray, weight: FloatArray) -> Single:
        """The same for every log theta of ``GRID``, where the state is theta x the unit state; shape (m, 61).

        Parameters, (m,): grade; ln of the unit state; weight, 0 to 1, by which the grade's precision has faded.
        On a uniform grid it is a slice of one table, which costs a copy where the normal integral costs 17 times more.
        """
        first, windows = self._windows
        start = np.rint((GRID[0] + log_unit - first) / (STEP / _PHASES)).astype(np.int64)
        start = np.clip(start, 0, windows.shape[3] * _PHASES - 1)
        level = np.rint(np.log(np.maximum(weight, 1e-9)) / np.log(_LEVEL)).astype(np.int64)
        return np.asarray(windows[np.minimum(level, _LEVELS - 1), grade, start % _PHASES, start // _PHASES])

    @cached_property
    def _windows(self) -> tuple[float, Single]:
        """Likelihoods by level of weight, grade, phase and position, each with the 61 that follow it."""
        reach = 5 * self.spread / np.sqrt(_LEVEL ** (_LEVELS - 1))
        first = self.cuts[0] - reach - GRID[-1]
        steps = int(np.ceil((self.cuts[-1] + reach + 3 * GRID[-1] - first) / STEP)) + GRID.size
        points = first + STEP / _PHASES * np.arange(steps * _PHASES)
        grades = np.arange(self.grades)[:, None]
        faded_scales = [replace(self, spread=self.spread / np.sqrt(_LEVEL**level)) for level in range(_LEVELS)]
        table = np.stack([scale.log_likelihood(grades, points) for scale in faded_scales]).astype(np.float32)
        by_phase = np.ascontiguousarray(table.reshape(_LEVELS, self.grades, steps, _PHASES).swapaxes(2, 3))
        return first, np.lib.stride_tricks.sliding_window_view(by_phase, GRID.size, axis=3)


@lru_cache(maxsize=32)
def _seen_by(scale: GradeScale, eye_scale: float) -> GradeScale:
    """Kept, since its tables cost more than looking them up."""
    return replace(scale, spread=scale.spread * eye_scale)


@dataclass(frozen=True)
class Grades:
    """Findings graded by people. Arrays of shape (m,), sorted by ``row``."""

    row: IntArray
    """Which heater."""
    years: FloatArray
    """When, in years since the heater was installed."""
    grade: IntArray
    log_unit: FloatArray
    """ln of the state at theta = 1."""
    by: IntArray | None
    """Who graded, -1 if nobody says; None where it was nobody's eye."""
    scale: GradeScale
    blur: FloatArray | float = 0.0
    """Variance of the logarithm of the state for a given pace."""


@dataclass(frozen=True)
class Readings:
    """Findings that measure a heater's log rate. Arrays of shape (m,), sorted by ``row``."""

    row: IntArray
    years: FloatArray
    value: FloatArray
    spread: FloatArray
    drawn: BoolArray | None = None
    """Which were asked for at random and so may test a window; all if None. A reading that somebody took because it
    looked bad tests nothing."""
    blur: FloatArray | float = 0.0
    """Variance of the logarithm of the state for a given pace."""
    event: IntArray | None = None
    """Which event of the level's history each was read at, where there is a level."""
    to_come: FloatArray | None = None
    """Which share of what was read had still to come when it was last looked at, (m,); all of it if None."""
    least: FloatArray | None = None
    """What must have been foretold for a reading to test it, (m,): of less, those that read nothing would stand apart
    and the rest say that there was more; any reading tests if None."""


@dataclass(frozen=True)
class Demands:
    """Times that a dormant part was asked to work. Arrays of shape (m,), sorted by ``row``."""

    row: IntArray
    years: FloatArray
    hazard: FloatArray
    """Cumulative hazard at theta = 1 since it last worked."""
    failed: BoolArray


@dataclass(frozen=True)
class Pairs:
    """States that were measured and graded at the same visit: they tell how a person's eye differs. Shape (m,)."""

    row: IntArray
    log_state: FloatArray
    spread: FloatArray
    grade: IntArray
    by: IntArray
    scale: GradeScale


def together(one: Pairs, other: Pairs) -> Pairs:
    """The pairs of both, on the scale of the first."""
    return Pairs(
        np.concatenate([one.row, other.row]),
        np.concatenate([one.log_state, other.log_state]),
        np.concatenate([one.spread, other.spread]),
        np.concatenate([one.grade, other.grade]),
        np.concatenate([one.by, other.by]),
        one.scale,
    )


@dataclass(frozen=True)
class Evidence:
    grades: Sequence[Grades] = ()
    readings: Readings | None = None
    demands: Demands | None = None
    tests: Readings | None = None
    """Readings that test what was forecast, those of nothing among them; the readings themselves if None."""
    lasts: bool = False
    """Whether grades and readings tell of the part and its water alone, and so of the rate whoever lives there."""


@dataclass(frozen=True)
class Standpoint:
    """From where findings are weighed; arrays of shape (n,)."""

    now: FloatArray
    """Years since installation; findings not before it count only if ``inclusive``."""
    household_years: FloatArray
    """When the present household moved in, years since installation."""
    offsets: FloatArray | None = None
    """What each grader sees, natural log over the truth; shape (graders + 1,), the last for an unknown one."""
    shift: FloatArray | None = None
    """What is known of log theta beforehand: the grid counts from there."""
    heed: FloatArray | None = None
    """How much each grader's grades count, 0 to 1, (graders + 1,); all if None."""
    eye_scale: float = 1.0
    """The spread of a grade by eye over what is assumed."""
    inclusive: bool = True
    fades: bool = True
    """Whether old findings count less; not where one asks how far heaters differ at all."""

    def weight(self, row: IntArray, years: FloatArray, lasts: bool = False) -> FloatArray:
        """Weight of findings, (m,), 0 to 1."""
        now = self.now[row]
        weight = faded(now - years) if self.fades and not lasts else np.ones(row.size)
        if not lasts:
            weight = np.where(years < self.household_years[row], LEARNING.household_weight * weight, weight)
        return weight if self.inclusive else np.where(years < now, weight, 0.0)


def log_likelihood(evidence: Evidence, standpoint: Standpoint) -> Single:
    """Log-likelihood of each heater's findings on ``GRID``.

    Parameters: evidence; standpoint of n heaters. Returns: shape (n, 61), natural log, 0 where nothing was found.
    Source: ordinal probit with misgrading, normal error of readings with slips, Weibull survival of dormant parts.
    """
    n = standpoint.now.size
    total = np.zeros((n, GRID.size), dtype=np.float32)
    shift = standpoint.shift
    for g in evidence.grades:
        unit = g.log_unit if shift is None else g.log_unit + shift[g.row]
        if standpoint.offsets is not None and g.by is not None:
            unit = unit + standpoint.offsets[g.by]
        weight = standpoint.weight(g.row, g.years, evidence.lasts)
        if standpoint.heed is not None and g.by is not None:
            weight = weight * standpoint.heed[g.by]
        scale = g.scale if g.by is None else g.scale.seen_by(standpoint.eye_scale)
        # A weight divides the variance, and so does all that blurs the state.
        weight = weight / (1 + weight * g.blur / scale.spread**2)
        kept = np.flatnonzero(weight)
        _add(total, g.row[kept], scale.on_grid(g.grade[kept], unit[kept], weight[kept]))
    if (r := evidence.readings) is not None:
        weight = standpoint.weight(r.row, r.years, evidence.lasts)
        kept = np.flatnonzero(weight)
        row = r.row[kept]
        value = r.value[kept] if shift is None else r.value[kept] - shift[row]
        blur = np.broadcast_to(r.blur, weight.shape)[kept]
        spread = np.sqrt(r.spread[kept] ** 2 / weight[kept] + blur)
        off = (value.astype(np.float32)[:, None] - _GRID) * (1 / spread).astype(np.float32)[:, None]
        peak = (1 - LEARNING.slip) / (spread * np.sqrt(2 * np.pi))
        slip = np.float32(LEARNING.slip / (GRID[-1] - GRID[0]))
        np.multiply(off, off, out=off)
        np.exp(np.multiply(off, np.float32(-0.5), out=off), out=off)
        off *= peak[:, None].astype(np.float32)
        off += slip
        _add(total, row, np.log(off, out=off))
    if (d := evidence.demands) is not None and d.row.size:
        hazard = d.hazard if shift is None else d.hazard * np.exp(shift[d.row])
        # How a valve sticks is its own, not the household's: it does not fade.
        counts = standpoint.inclusive | (d.years < standpoint.now[d.row])
        weight = np.where(counts, 1.0, 0.0)
        theta = np.exp(GRID)
        survived = np.bincount(d.row, np.where(d.failed, 0.0, weight * hazard), minlength=n)
        total -= survived.astype(np.float32)[:, None] * theta.astype(np.float32)
        bad = np.flatnonzero(d.failed & (weight > 0))
        failed = np.log(np.maximum(-np.expm1(-hazard[bad, None] * theta), 1e-30))
        _add(total, d.row[bad], (weight[bad, None] * failed).astype(np.float32))
    return total


def eyes_say(evidence: Evidence, standpoint: Standpoint, prior_spread: FloatArray, variance: FloatArray) -> FloatArray:
    """Variance of log theta that comes of not knowing the eyes that graded, (n,).

    Parameters: prior_spread of log theta, (n,); variance of each grader's offset about the common eye's, and last of
    that one, (graders + 1,). Source: a heater's grades by one eye err together; the share of all that is known of the
    heater which they make up, squared, times what is not known of the eyes (first-order error).
    """
    n, graders = standpoint.now.size, variance.size
    said, known = np.zeros((n, graders)), 1 / prior_spread**2
    for g in evidence.grades:
        weight = standpoint.weight(g.row, g.years, evidence.lasts)
        told = weight / (g.scale.spread**2 + weight * g.blur)
        if g.by is None:
            np.add.at(known, g.row, told / 4)
        else:
            np.add.at(said, (g.row, np.where(g.by < 0, graders - 1, g.by)), told)
    if (r := evidence.readings) is not None:
        weight = standpoint.weight(r.row, r.years, evidence.lasts)
        np.add.at(known, r.row, weight / (r.spread**2 + weight * r.blur))
    share = said / (known + said.sum(axis=1))[:, None]
    own = variance + LEARNING.eye_drift**2
    own[-1] = LEARNING.grader_spread**2
    return np.asarray(variance[-1] * share.sum(axis=1) ** 2 + share**2 @ own)


_FEW = 32
"""So few findings are added up sooner one by one than by making a matrix of them."""


def _add(total: Single, row: IntArray, terms: Single) -> None:
    """Add each heater's findings, sorted by ``row``, to its likelihood; in their order, so the bytes are the same."""
    if 0 < row.size <= _FEW:
        each = np.zeros_like(total)
        np.add.at(each, row, terms)
        total += each
    elif row.size:
        ends = np.searchsorted(row, np.arange(total.shape[0] + 1))
        ones = np.ones(row.size, dtype=np.float32)
        total += sparse.csr_matrix((ones, np.arange(row.size), ends), shape=(total.shape[0], row.size)) @ terms


def faded(years_ago: FloatArray) -> FloatArray:
    """Weight of findings by their age in years, shape (m,), 0 to 1. Source: ``parameters.LEARNING``, a stand-in for a
    rate that drifts as households change."""
    return np.asarray(LEARNING.fade_per_year ** np.maximum(years_ago, 0.0))

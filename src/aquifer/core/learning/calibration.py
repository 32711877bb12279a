"""What the whole base teaches the forecast of each heater.

Four things are estimated from the findings of many heaters and then taken as given, so that a heater can be forecast
without the others: how each person's eye differs from the scale, how each build differs from the rest, how far heaters
and zones differ at all, and whether the windows held when a measurement tested them.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import NamedTuple

import numpy as np
from scipy.special import bdtr, gammaln

from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.learning import pooling
from aquifer.core.learning.evidence import Evidence, Grades, Pairs, Standpoint, log_likelihood
from aquifer.core.learning.grid import GRID, Posterior, Single
from aquifer.core.learning.level import Level
from aquifer.core.lives import TankLife
from aquifer.core.parameters import HALF_WIDTH_80, LEARNING

_EYES = np.linspace(-1.5, 1.5, 61)
"""Offsets tried for a person's eye, natural log."""
_HEATER_SCALES = (0.3, 0.4, 0.55, 0.7, 0.85, 1.0, 1.2, 1.45, 1.8, 2.2)
_ZONE_SCALES = (0.4, 0.6, 1.0, 1.5, 2.2, 3.0)
_EYE_SCALES = (0.5, 0.6, 0.7, 0.85, 1.0, 1.2, 1.45, 1.8)
_SCALE_SPREAD = 0.35
"""Standard deviation, natural log, by which a spread may differ from the default before evidence is asked.
Assumption."""


class Verdict(StrEnum):
    """What measurements say of the windows that were told before them."""

    HOLDS = "holds"
    TOO_NARROW = "too_narrow"
    TOO_WIDE = "too_wide"
    UNMEASURED = "unmeasured"


@dataclass(frozen=True)
class Checked:
    """Each heater's latest reading against what its other findings said before it; arrays of shape (m,)."""

    row: IntArray
    """Which of the learners."""
    years: FloatArray
    """Since the heater was installed."""
    off: FloatArray
    """What was measured over what was forecast, natural log."""
    told: FloatArray
    """Standard deviation of that as it was told, natural log."""


@dataclass(frozen=True)
class ComponentCalibration:
    """One component's part of what the base teaches; the defaults are what is assumed before there is any base."""

    offsets: FloatArray | None = None
    """What each grader sees over the truth, natural log, (graders + 1,); the last is the common eye."""
    level: float = 0.0
    """What the whole base's log rate is above what is assumed."""
    eye_variance: FloatArray | None = None
    """What is not known of each of those offsets, besides that of the common eye, which comes last; (graders + 1,)."""
    heed: FloatArray | None = None
    """How much each person's grades count, 0 to 1, (graders + 1,): little of who says the same whatever lies there."""
    cohorts: FloatArray = field(default_factory=lambda: np.zeros(0))
    """What each build adds to log theta, (cohorts,)."""
    slopes: FloatArray = field(default_factory=lambda: np.zeros(0))
    """What each trait adds to the log of the unit rate, (traits,): by how much more or less it tells here than the
    physics says."""
    heater_scale: float = 1.0
    """The spread between heaters over the default."""
    zone_scale: float = 1.0
    eye_scale: float = 1.0
    """The spread of a grade by eye over the default."""
    future_spread: float | None = None
    """How far the rate to come strays from that of the past, natural log; None is the component's usual."""
    shift: float = 0.0
    """What measurements say the centre of the windows was off by, natural log."""
    checks: int = 0
    """Measurements that tested a window."""
    inside: float = float("nan")
    """Share of them inside the 80 % window as it would have been told without being corrected."""
    pairs: int = 0
    life: TankLife = field(default_factory=TankLife)
    """Of a tank: how the company's own end."""
    removal: float = 0.0
    """By how much cleanings remove more than is assumed, log odds."""
    uneven: float = 1.0
    """By how much more uneven they are than is assumed."""
    misjudged: float = 1.0
    """By how much more what is believed of a heater strays than it says of itself."""
    checked: Checked | None = None
    """The measurements themselves; None where nothing was measured, or where they are not at hand."""

    def pool(self, zone: IntArray, zone_spread: FloatArray, heater_spread: FloatArray) -> pooling.Pool:
        """The pool with its spreads as fitted."""
        return pooling.Pool(zone, zone_spread * self.zone_scale, heater_spread * self.heater_scale)

    def standpoint(self, now: FloatArray, household_years: FloatArray, cohort: IntArray) -> Standpoint:
        """From where findings are weighed today."""
        return Standpoint(
            now, household_years, self.offsets, self.prior_shift(cohort), heed=self.heed, eye_scale=self.eye_scale
        )

    def prior_shift(self, cohort: IntArray) -> FloatArray | None:
        """What base and cohort say of each heater, (n,); None if neither says anything."""
        if not self.cohorts.size:
            return np.full(cohort.size, self.level) if self.level else None
        return self.level + np.where(cohort >= 0, self.cohorts[cohort], 0.0)


@dataclass(frozen=True)
class Learners:
    """The heaters of one component whose findings calibrate it; arrays of shape (n,)."""

    evidence: Evidence
    pairs: Pairs | None
    now: FloatArray
    household_years: FloatArray
    zone: IntArray
    cohort: IntArray
    zone_spread: FloatArray
    heater_spread: FloatArray
    future_spread: float
    graders: int
    cohorts: int
    followed: Callable[[FloatArray], Level] | None = None
    """The level before each event against pace times history, by what was found earlier, given the mean of log theta;
    None where a pace is all there is."""
    removal: float = 0.0
    """How good cleanings were found to be, which the evidence and the level reckon with."""
    uneven: float = 1.0
    slopes: FloatArray = field(default_factory=lambda: np.zeros(0))
    """What traits were found to tell, which the evidence and the level reckon with."""


def calibrated(learners: Learners) -> ComponentCalibration:
    """Everything that the base teaches of one component.

    Source: grader offsets from states that were measured and graded at once; spreads weighed by their evidence;
    cohorts by shrunken means; shift and spread of the future from what was measured against what was forecast before.
    """
    offsets, eye_variance = (
        grader_bias(learners.pairs, learners.graders) if learners.pairs is not None else (None, None)
    )
    pair_count = learners.pairs.row.size if learners.pairs is not None else 0
    calibration = ComponentCalibration(
        offsets=offsets,
        eye_variance=eye_variance,
        heed=heeded(learners.evidence.grades, learners.graders),
        pairs=pair_count,
        removal=learners.removal,
        uneven=learners.uneven,
        slopes=learners.slopes,
    )
    if not learners.now.size:
        return calibration
    standpoint = calibration.standpoint(learners.now, learners.household_years, learners.cohort)
    # A part that ran or did not tells how often, not how far parts differ: more stuck ones could as well be a wider
    # spread as a higher level (docs/decisions/0030).
    if learners.evidence.demands is None:
        of_old = replace(standpoint, fades=False)
        calibration = _with_spreads(calibration, log_likelihood(learners.evidence, of_old), learners)
        # Two looks at what wears evenly differ by the eye; two at what households deposit, by the households, too.
        if learners.evidence.lasts and any(one.by is not None for one in learners.evidence.grades):
            calibration = _with_eye(calibration, of_old, learners)
            of_old = replace(of_old, eye_scale=calibration.eye_scale)
            calibration = _with_spreads(calibration, log_likelihood(learners.evidence, of_old), learners)
            standpoint = replace(standpoint, eye_scale=calibration.eye_scale)
    calibration = _with_cohorts(calibration, log_likelihood(learners.evidence, standpoint), learners)
    return _with_checks(_with_level(calibration, learners), learners)


_SAYS_ONE = 0.97
"""Share of one grade in what somebody says who does not look. Assumption."""
_DOES_NOT_LOOK = 0.02
"""Share of such people. Assumption."""
_LIKE_OTHERS = 8.0
"""How many grades the company's own distribution is worth beside a person's. Assumption."""
_LEAST_HEED = 0.1
"""What grades of such a person still count. Assumption."""


def heeded(grades: Sequence[Grades], graders: int) -> FloatArray | None:
    """How much each person's grades by eye count, (graders + 1,); None where nobody graded by eye.

    Source: Bayes' rule between two stories of a person's grades: drawn as the company's are, with a Dirichlet
    distribution about them, or nearly always the same. Prior and shares are assumptions.
    """
    own = [one for one in grades if one.by is not None and one.scale.grades > 3]
    if not own or not graders:
        return None
    width = max(one.scale.grades for one in own)
    counts = np.zeros((graders + 1, width))
    for one in own:
        assert one.by is not None
        np.add.at(counts, (np.where(one.by < 0, graders, one.by), one.grade), 1.0)
    company = _LIKE_OTHERS * (counts.sum(axis=0) + 0.5) / (counts.sum() + 0.5 * width)
    looks = gammaln(company.sum()) - gammaln(company.sum() + counts.sum(axis=1))
    looks += (gammaln(company + counts) - gammaln(company)).sum(axis=1)
    rest = (1 - _SAYS_ONE) / (width - 1)
    most = counts.max(axis=1)
    same = most * np.log(_SAYS_ONE) + (counts.sum(axis=1) - most) * np.log(rest)
    odds = np.exp(np.clip(same - looks, -50, 50)) * _DOES_NOT_LOOK / (1 - _DOES_NOT_LOOK)
    heed = 1 - (1 - _LEAST_HEED) * odds / (1 + odds)
    # Whom nobody named is nobody in particular.
    heed[-1] = 1.0
    return np.asarray(np.round(heed, 3))


def grader_bias(pairs: Pairs, graders: int) -> tuple[FloatArray, FloatArray]:
    """What each grader sees over the truth, natural log, (graders + 1,); the last is the eye they have in common. And
    what is not known of it: of each person's about the common one, and of that.

    Source: greatest posterior probability of each person's offset about the common one, on a grid, in two rounds.
    """
    by = np.where(pairs.by < 0, graders, pairs.by)
    scale = pairs.scale
    seen = pairs.log_state[:, None] + _EYES
    error = float(pairs.spread.mean()) if by.size else 0.0
    blurred = replace(scale, spread=float(np.hypot(scale.spread, error)))
    logs = blurred.log_likelihood(pairs.grade[:, None], seen)
    per_person = np.zeros((graders + 1, _EYES.size))
    np.add.at(per_person, by, logs)
    common = 0.0
    for _ in range(4):
        about = -0.5 * ((_EYES - common) / LEARNING.grader_spread) ** 2
        weight = np.exp(per_person + about - (per_person + about).max(axis=1, keepdims=True))
        mean = (weight * _EYES).sum(axis=1) / weight.sum(axis=1)
        spread2 = (weight * (_EYES - mean[:, None]) ** 2).sum(axis=1) / weight.sum(axis=1)
        # How much each person says of the common eye: all of it with many pairs, nothing with none.
        says = np.maximum(1 - spread2 / LEARNING.grader_spread**2, 0.0) / LEARNING.grader_spread**2
        common = float((says * mean).sum() / (says.sum() + 1 / LEARNING.common_eye_spread**2))
    mean[-1] = common
    spread2[-1] = 1 / (says.sum() + 1 / LEARNING.common_eye_spread**2)
    return np.asarray(mean), np.asarray(spread2)


def _with_spreads(
    calibration: ComponentCalibration, likelihood: Single, learners: Learners, every: int = 1
) -> ComponentCalibration:
    """Both scales as means over a grid, weighed by the evidence: where findings say little, little is changed.

    Parameters: every, how many steps of the grids are one.
    """
    heater_scales, zone_scales = _HEATER_SCALES[::every], _ZONE_SCALES[::every]
    logs = np.empty((len(heater_scales), len(zone_scales)))
    for row, heater_scale in enumerate(heater_scales):
        _, given_zone = pooling.messages(likelihood, learners.heater_spread * heater_scale)
        for column, zone_scale in enumerate(zone_scales):
            pool = pooling.Pool(learners.zone, learners.zone_spread * zone_scale, learners.heater_spread)
            evidence = pooling.log_evidence(given_zone, likelihood, pool)
            from_usual = np.log(heater_scale) ** 2 + np.log(zone_scale) ** 2
            logs[row, column] = evidence - 0.5 * from_usual / _SCALE_SPREAD**2
    weight = np.exp(logs - logs.max())
    weight /= weight.sum()
    heater = float(np.exp(weight.sum(axis=1) @ np.log(heater_scales)))
    zone = float(np.exp(weight.sum(axis=0) @ np.log(zone_scales)))
    return replace(calibration, heater_scale=round(heater, 2), zone_scale=round(zone, 2))


def _with_eye(calibration: ComponentCalibration, standpoint: Standpoint, learners: Learners) -> ComponentCalibration:
    """How sharp eyes are, as a mean over a grid, weighed by the evidence of all findings."""
    pool = _pool(calibration, learners)
    logs = np.empty(len(_EYE_SCALES))
    for at, eye_scale in enumerate(_EYE_SCALES):
        likelihood = log_likelihood(learners.evidence, replace(standpoint, eye_scale=eye_scale))
        _, given_zone = pooling.messages(likelihood.copy(), pool.heater_spread)
        logs[at] = pooling.log_evidence(given_zone, likelihood, pool)
        logs[at] -= 0.5 * np.log(eye_scale) ** 2 / _SCALE_SPREAD**2
    weight = np.exp(logs - logs.max())
    return replace(calibration, eye_scale=round(float(np.exp(weight @ np.log(_EYE_SCALES) / weight.sum())), 2))


_SLOPE_SPREAD = 0.4
"""Standard deviation by which a power of what a trait does may differ from that of the physics. Assumption."""
_SAYS_LITTLE = 0.02
"""Share of a heater's own variance that its findings must take away to be heard. Assumption."""


def slopes(learners: Learners, traits: FloatArray) -> FloatArray:
    """By how much more or less each trait tells here than the physics says, (k,).

    Parameters: the heaters, told without slopes; their traits, (n, k), 0 for a plain heater's. Source: generalized
    least squares of what each heater's findings alone say, with an effect of its zone and of its own, and a normal
    prior for each slope (textbook).
    """
    if not learners.now.size:
        return np.zeros(0)
    offsets = grader_bias(learners.pairs, learners.graders)[0] if learners.pairs is not None else None
    found = ComponentCalibration(offsets=offsets, heed=heeded(learners.evidence.grades, learners.graders))
    standpoint = found.standpoint(learners.now, learners.household_years, learners.cohort)
    likelihood = log_likelihood(learners.evidence, standpoint)
    pool = _pool(_with_spreads(found, likelihood.copy(), learners, every=2), learners)
    prior = pool.heater_spread**2 + pool.zone_spread**2
    alone = pooling.with_prior(likelihood, pooling.Prior(np.zeros(prior.size), np.sqrt(prior)))
    own = np.maximum(1 - alone.sd**2 / prior, 0.0)
    heard = np.flatnonzero(own > _SAYS_LITTLE)
    if not heard.size:
        return np.zeros(0)
    said, error = alone.mean[heard] / own[heard], prior[heard] * (1 - own[heard]) / own[heard]
    both = np.column_stack([np.ones(heard.size), traits[heard], said])
    weight = 1 / (pool.heater_spread[heard] ** 2 + error)
    _, zone = np.unique(pool.zone[heard], return_inverse=True)
    of_zone = np.stack([np.bincount(zone, weight * column) for column in both.T], axis=1)
    zone_variance = np.zeros(of_zone.shape[0])
    zone_variance[zone] = pool.zone_spread[heard] ** 2
    # What heaters of a zone have in common adds one rank to the matrix that is inverted (Sherman and Morrison).
    less = zone_variance / (1 + zone_variance * np.bincount(zone, weight))
    squares = (both * weight[:, None]).T @ both - (of_zone * less[:, None]).T @ of_zone
    known = np.diag([1 / _LEVEL_SPREAD**2, *np.full(traits.shape[1], 1 / _SLOPE_SPREAD**2).tolist()])
    fitted: FloatArray = np.linalg.solve(squares[:-1, :-1] + known, squares[:-1, -1])
    return np.asarray(fitted[1:].round(3), dtype=np.float64)


_LEVELS = np.linspace(-2.0, 2.0, 21)
_LEVEL_SPREAD = 0.8
"""Standard deviation of how far a whole base may differ from what is assumed, natural log. Assumption."""


def _with_level(found: ComponentCalibration, learners: Learners) -> ComponentCalibration:
    """How fast the whole base goes: the mean over a grid, weighed by the evidence of all findings at each."""
    pool = _pool(found, learners)
    logs = np.empty(_LEVELS.size)
    for at, level in enumerate(_LEVELS):
        calibration = replace(found, level=float(level))
        standpoint = calibration.standpoint(learners.now, learners.household_years, learners.cohort)
        likelihood = log_likelihood(learners.evidence, standpoint)
        _, given_zone = pooling.messages(likelihood.copy(), pool.heater_spread)
        logs[at] = pooling.log_evidence(given_zone, likelihood, pool) - 0.5 * (level / _LEVEL_SPREAD) ** 2
    weight = np.exp(logs - logs.max())
    return replace(found, level=round(float(weight @ _LEVELS / weight.sum()), 3))


@dataclass(frozen=True)
class Cleanings:
    """Cleanings before and after which the deposit was measured; arrays of shape (m,)."""

    log_left: FloatArray
    """ln of what was left over what had been there."""
    error: FloatArray
    """Standard deviation of that."""
    expected: Callable[[float], tuple[FloatArray, FloatArray]]
    """What is expected of each if cleanings removed more by these log odds: the same logarithm, and its deviation."""


_REMOVALS = np.linspace(-2.0, 2.0, 17)
_REMOVAL_SPREAD = 0.7
"""Standard deviation of the log odds by which cleanings may be better or worse than is assumed. Assumption."""
_UNEVEN = np.exp(np.linspace(-0.7, 0.7, 9))
_UNEVEN_SPREAD = 0.35
"""Standard deviation, natural log, of how much more uneven they may be. Assumption."""


def removal(cleanings: Cleanings) -> tuple[float, float]:
    """How good cleanings are, log odds over what is assumed, and how uneven, over what is assumed.

    Source: posterior means on a grid, each cleaning normal about what is expected, with a share of slips.
    """
    logs = np.empty((_REMOVALS.size, _UNEVEN.size))
    for row, log_odds in enumerate(_REMOVALS):
        centre, spread = cleanings.expected(float(log_odds))
        wide = np.hypot(_UNEVEN[:, None] * spread, cleanings.error)
        z = (cleanings.log_left - centre) / wide
        density = (1 - LEARNING.slip) * np.exp(-0.5 * z**2) / (wide * np.sqrt(2 * np.pi))
        logs[row] = np.log(density + LEARNING.slip / (GRID[-1] - GRID[0])).sum(axis=1)
    logs -= 0.5 * (_REMOVALS / _REMOVAL_SPREAD)[:, None] ** 2 + 0.5 * (np.log(_UNEVEN) / _UNEVEN_SPREAD)[None, :] ** 2
    weight = np.exp(logs - logs.max())
    weight /= weight.sum()
    return float(weight.sum(axis=1) @ _REMOVALS), float(weight.sum(axis=0) @ _UNEVEN)


def _with_cohorts(calibration: ComponentCalibration, likelihood: Single, learners: Learners) -> ComponentCalibration:
    if not learners.cohorts:
        return calibration
    belief, _ = pooling.pooled(likelihood, _pool(calibration, learners))
    # A heater says as much of its build as its findings narrowed its prior.
    own = np.maximum(1 - belief.sd**2 / (learners.heater_spread * calibration.heater_scale) ** 2, 0.0)
    known = learners.cohort >= 0
    cohort = learners.cohort[known]
    spread2 = (learners.heater_spread[known] * calibration.heater_scale) ** 2
    weight = np.bincount(cohort, own[known] / spread2, minlength=learners.cohorts)
    pull = np.bincount(cohort, ((belief.mean - belief.zone_mean)[known]) / spread2, minlength=learners.cohorts)
    return replace(calibration, cohorts=pull / (weight + 1 / LEARNING.cohort_spread**2))


def _with_checks(calibration: ComponentCalibration, learners: Learners) -> ComponentCalibration:
    """Shift and spread of the future, from each heater's latest reading against what was forecast before it."""
    readings = learners.evidence.readings if learners.evidence.tests is None else learners.evidence.tests
    if readings is None or not readings.row.size:
        return calibration
    last = np.full(learners.now.size, -1, dtype=np.int64)
    tests = np.arange(readings.row.size) if readings.drawn is None else np.flatnonzero(readings.drawn)
    last[readings.row[tests]] = tests
    tested = np.flatnonzero(last >= 0)
    if not tested.size:
        return calibration
    at = last[tested]
    standpoint = calibration.standpoint(learners.now, learners.household_years, learners.cohort)
    pool = _pool(calibration, learners)
    _, given_zone = pooling.messages(log_likelihood(learners.evidence, standpoint), pool.heater_spread)
    belief = pooling.zone_belief(given_zone, pool)
    when = learners.now.copy()
    when[tested] = readings.years[at]
    before = replace(standpoint, now=when, inclusive=False)
    earlier = log_likelihood(learners.evidence, before)
    _, said = pooling.messages(earlier[tested], pool.heater_spread[tested])
    place = np.searchsorted(belief.zone, pool.zone[tested])
    alone = pooling.ZoneBelief(np.arange(tested.size), belief.logs[place] + np.log(said / given_zone[tested]))
    apart = pooling.Pool(np.arange(tested.size), pool.zone_spread[tested], pool.heater_spread[tested])
    forecast: Posterior = pooling.posterior(np.exp(earlier[tested]), said, alone, apart, learners.future_spread)
    value = readings.value[at] - (0.0 if standpoint.shift is None else standpoint.shift[tested])
    off, error = value - forecast.mean, readings.spread[at]
    own = forecast.sd
    # What was there when somebody last looked had not far to stray.
    years_open = np.ones(tested.size) if readings.to_come is None else readings.to_come[at] ** 2
    if learners.followed is not None and readings.event is not None:
        mean = np.zeros(learners.now.size)
        mean[tested] = forecast.mean + (0.0 if standpoint.shift is None else standpoint.shift[tested])
        level = learners.followed(mean).at(readings.event[at])
        off, years_open = off - level.shift, level.years_open
        own = np.sqrt((level.share * own) ** 2 + level.left_open)
    if readings.least is not None:
        # By what was foretold, not by what was read: chosen by its outcome a test fails by itself.
        kept = np.flatnonzero(readings.value[at] - off > readings.least[at])
        if not kept.size:
            return calibration
        tested, at, off, own, error = tested[kept], at[kept], off[kept], own[kept], error[kept]
        years_open = years_open[kept]
    corrected = corrections(off, own, error, learners.future_spread, years_open)
    told = np.sqrt(own**2 + learners.future_spread**2 * years_open + error**2)
    return replace(
        calibration,
        shift=corrected.shift,
        future_spread=_FURTHER * corrected.future_spread,
        misjudged=corrected.misjudged,
        checks=int(tested.size),
        inside=float(np.mean(np.abs(off) <= HALF_WIDTH_80 * told)),
        checked=Checked(tested, readings.years[at], off, told),
    )


_FUTURES = np.exp(np.linspace(np.log(0.08), np.log(0.9), 31))
_SHIFTS = np.linspace(-1.2, 1.2, 49)
_FUTURE_SPREAD = 0.5
_FURTHER = 1.03
"""A window looks further ahead than the visit that tested the last one. Assumption."""
_SHIFT_SPREAD = 0.15
_MISJUDGED = np.exp(np.linspace(-0.15, 0.6, 9))
_MISJUDGED_SPREAD = 0.25
"""Standard deviations, natural log, by which the future's spread, the windows' centre and the belief's deviation may be
off before measurements are asked. Assumptions."""


def usual_inside(checks: int) -> tuple[float, float]:
    """Between which shares inside 80 % windows that hold leave so many measurements, nine times in ten.

    Raises: ValueError for fewer than one. Source: quantiles of the binomial distribution.
    """
    if checks < 1:
        raise ValueError(f"{checks} measurements leave no share inside; at least one is needed")
    below = bdtr(np.arange(checks + 1), checks, 0.8)
    low, high = np.searchsorted(below, [0.05, 0.95]).tolist()
    return low / checks, high / checks


def verdict(inside: float | None, checks: int) -> Verdict:
    """Whether the share inside is one that windows which hold would leave. Source: ``usual_inside``."""
    if inside is None or not checks:
        return Verdict.UNMEASURED
    low, high = usual_inside(checks)
    if inside < low:
        return Verdict.TOO_NARROW
    return Verdict.TOO_WIDE if inside > high else Verdict.HOLDS


class Corrections(NamedTuple):
    """What measurements say of windows; natural logs."""

    shift: float
    """By how much their centre was off."""
    future_spread: float
    """How far the rate of a year strays from that of the past."""
    misjudged: float
    """By how much more the belief strays than it says."""


def corrections(
    off: FloatArray, sd: FloatArray, error: FloatArray, usual: float, years_open: FloatArray | float = 1.0
) -> Corrections:
    """By how much the windows' centre was off, and how far the rate of a year strays from that of the past.

    Parameters, (m,): what was measured less what had been forecast, natural log; the standard deviation of what was
    believed; the measurement's own; the usual spread of the future; and how many squares of it lie in each. Returns:
    ``Corrections``. Source: posterior on a grid, each residual normal about the shift with a share of slips, so that
    the measurement's own error widens nothing. By how much the belief's own deviation misjudges is a third unknown:
    without it a belief that is too wide where nothing was measured would be made up for by a future that strays too
    little where something was. The spread is what a residual to come has: the mean of its square, and what is not known
    of the shift. The likeliest spread alone would be too small wherever few measurements tell of it.
    """
    if not off.size:
        return Corrections(0.0, usual, 1.0)
    logs = np.empty((_FUTURES.size, _MISJUDGED.size, _SHIFTS.size))
    for row, future in enumerate(_FUTURES):
        for column, misjudged in enumerate(_MISJUDGED):
            spread = np.sqrt((misjudged * sd) ** 2 + future**2 * years_open + error**2)
            z = (off[:, None] - _SHIFTS) / spread[:, None]
            density = (1 - LEARNING.slip) * np.exp(-0.5 * z**2) / (spread[:, None] * np.sqrt(2 * np.pi))
            logs[row, column] = np.log(density + LEARNING.slip / (GRID[-1] - GRID[0])).sum(axis=0)
    logs -= 0.5 * (np.log(_FUTURES / usual) / _FUTURE_SPREAD)[:, None, None] ** 2
    logs -= 0.5 * (np.log(_MISJUDGED) / _MISJUDGED_SPREAD)[None, :, None] ** 2 + 0.5 * (_SHIFTS / _SHIFT_SPREAD) ** 2
    weight = np.exp(logs - logs.max())
    weight /= weight.sum()
    of_shift = weight.sum(axis=(0, 1))
    shift = float(of_shift @ _SHIFTS)
    squared = float(weight.sum(axis=(1, 2)) @ _FUTURES**2 + of_shift @ (_SHIFTS - shift) ** 2)
    return Corrections(shift, squared**0.5, float(weight.sum(axis=(0, 2)) @ _MISJUDGED))


def _pool(calibration: ComponentCalibration, learners: Learners) -> pooling.Pool:
    return calibration.pool(learners.zone, learners.zone_spread, learners.heater_spread)

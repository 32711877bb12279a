"""What came by the month, carried on: level, trend and season of a count, with what eight of ten futures lie between.

Nothing here knows a heater: it is what the record alone says, to be held beside what the base is reckoned to ask for.
"""

import math
import warnings
from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy import stats

from aquifer.core.arrays import FloatArray, IntArray

MONTHS = 12
LEAST_FITTED, LEAST_SEASON = 12, 24
"""Months from which a level is fitted, and from which a season is asked for: two whole years, else one winter would be
every winter. Hyndman and Athanasopoulos, Forecasting: principles and practice, 3rd ed., 13.7, ask for more than there
are parameters."""
LEAST_FACTOR = 2.0 * math.sqrt(5.375)
"""The root of five a month. Assumption: from there on a season may grow with the level, and a trend go on for ever."""
FUTURES = 2000
"""Assumption: the tenth of them is steady to a call or two."""
NO_MODEL_KNOWS = 0.06
"""Spread of the rate a year on, as a share of it, beside what the models say of themselves: work that grows by shares
is no straight line on any of their scales. Assumption; set by growth of 15 % a year in tests/core/test_demand.py."""
LOW, HIGH = 0.1, 0.9


@dataclass(frozen=True)
class Fan:
    """What eight of ten futures lie between, and the middle one."""

    low: int
    middle: int
    high: int


@dataclass(frozen=True)
class Demand:
    """A count in the months after its record."""

    months: tuple[Fan, ...]
    quarter: Fan
    """Of the first three months together: they go up and down with each other, so that it is no sum of windows."""
    year: Fan
    """Of the first twelve months together, or of all there are."""
    has_season: bool
    has_trend: bool


def carried_on(counts: IntArray, ahead: int = MONTHS, seed: int = 0) -> Demand:
    """The next months of a monthly count.

    Exponential smoothing of the count's square root, by the state space models of Hyndman, Koehler, Ord and Snyder
    (Forecasting with exponential smoothing, 2008): level alone, with a trend or a damped one, each without a season,
    with one that is added and with one that grows with the level. Each model has as many of the futures as its weight
    by the corrected criterion of Akaike (Burnham and Anderson, Model selection and multimodel inference, 2002, 2.9).
    The root 2 sqrt(x + 3/8) has a spread that does not follow the count (Anscombe, Biometrika 35, 1948). Of less than
    ``LEAST_FITTED`` months the rate alone is believed, by a gamma distribution after Jeffreys (Gelman et al., Bayesian
    data analysis, 3rd ed., 2.8).

    Parameters: counts, of whole months, the newest last; ahead, months; seed, of the futures.
    Raises: ValueError without a month, or for a count below nothing.
    """
    if counts.size == 0 or counts.min() < 0 or ahead < 1:
        raise ValueError(f"{counts.size} months, ahead {ahead}; allowed: counts of at least one month, none below 0")
    random = np.random.default_rng(seed)
    if counts.size < LEAST_FITTED:
        rates = random.gamma(0.5 + counts.sum(), 1.0 / counts.size, size=FUTURES)
        return _demand(random.poisson(rates[None, :], size=(ahead, FUTURES)), has_season=False, has_trend=False)
    root = 2.0 * np.sqrt(counts + 0.375)
    if np.ptp(root) == 0.0:
        # Nothing varies, so that nothing is to be fitted: as many as always, by chance more or fewer.
        return _demand(random.poisson(float(counts[0]), size=(ahead, FUTURES)), has_season=False, has_trend=False)
    fits = _fits(root)
    aicc = np.array([fit.aicc for fit in fits])
    weights = np.exp(-0.5 * (aicc - aicc.min()))
    weights /= weights.sum()
    parts = [
        fit.futures(ahead, number, random)
        for fit, number in zip(fits, random.multinomial(FUTURES, weights).tolist(), strict=True)
        if number
    ]
    counted = np.maximum(np.concatenate(parts, axis=1), 0.0) ** 2 / 4.0 - 0.375
    # The same for all months of a future, more of it the farther they are.
    strange = random.normal(size=FUTURES) * NO_MODEL_KNOWS * np.sqrt(np.arange(1, ahead + 1)[:, None] / MONTHS)
    counted = np.maximum(counted * np.exp(strange), 0.0)
    return _demand(
        np.rint(counted).astype(np.int64),
        has_season=float(weights[[fit.has_season for fit in fits]].sum()) > 0.5,
        has_trend=float(weights[[fit.has_trend for fit in fits]].sum()) > 0.5,
    )


@dataclass(frozen=True)
class _Fit:
    fitted: Any
    """As the package has it, which has no types."""
    has_season: bool
    has_trend: bool

    @property
    def aicc(self) -> float:
        return float(self.fitted.aicc)

    def futures(self, ahead: int, number: int, random: np.random.Generator) -> FloatArray:
        """Roots of counts, (ahead, number)."""
        # Not below what a count must vary by chance: on this scale a spread of one.
        spread = max(1.0, math.sqrt(self.fitted.mse))
        errors = random.normal(scale=spread, size=(ahead, number))
        lived = self.fitted.simulate(ahead, anchor="end", repetitions=number, random_errors=errors)
        return np.asarray(lived, dtype=np.float64).reshape(ahead, number)


def _fits(root: FloatArray) -> list[_Fit]:
    # Loaded where it is asked for: it takes two seconds and fifty megabytes.
    from statsmodels.tsa.exponential_smoothing.ets import ETSModel

    fits = []
    # Of few a month a season that is a factor of nearly nothing runs away, and so does a line drawn through chance.
    are_many = float(np.median(root)) >= LEAST_FACTOR
    seasons = (None, "add", "mul") if are_many else (None, "add")
    trends = ((None, False), ("add", True), *((("add", False),) if are_many else ()))
    for season in seasons if root.size >= LEAST_SEASON else (None,):
        for trend, damped in trends:
            model = ETSModel(
                root,
                error="add",
                trend=trend,
                damped_trend=damped,
                seasonal=season,
                seasonal_periods=MONTHS if season else None,
            )
            with warnings.catch_warnings():
                # A fit that stopped early is one of nine, and has little weight.
                warnings.simplefilter("ignore")
                fit = _Fit(model.fit(disp=False), season is not None, trend is not None)
            if math.isfinite(fit.aicc):
                fits.append(fit)
    return fits


def _demand(futures: IntArray, has_season: bool, has_trend: bool) -> Demand:
    return Demand(
        months=tuple(_fan(month) for month in futures),
        quarter=_fan(futures[:3].sum(axis=0)),
        year=_fan(futures[:MONTHS].sum(axis=0)),
        has_season=has_season,
        has_trend=has_trend,
    )


def _fan(futures: IntArray) -> Fan:
    low, middle, high = np.quantile(futures, [LOW, 0.5, HIGH], method="inverted_cdf").tolist()
    return Fan(int(low), int(middle), int(high))


def short_of(hours: float, planned: float, calls: Fan, hours_a_call: float) -> float:
    """The chance that a month's work needs more hours than there are, 0 to 1.

    Parameters: hours, that the crew has; planned, that stand in the plan; calls, that come besides; hours_a_call.
    Assumption: calls are as a normal distribution through their window's ends.
    """
    room = hours - planned
    spread = max(calls.high - calls.low, 1) * hours_a_call / (stats.norm.ppf(HIGH) - stats.norm.ppf(LOW))
    return float(stats.norm.sf(room, loc=calls.middle * hours_a_call, scale=spread))

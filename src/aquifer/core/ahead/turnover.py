"""Who joins and who calls, over a whole base: so many a year, by the company's own record."""

from dataclasses import dataclass, replace

import numpy as np

from aquifer.core.ahead.luck import Shared
from aquifer.core.ahead.sums import COUNTED, Ahead
from aquifer.core.arrays import FloatArray


@dataclass(frozen=True)
class Turnover:
    """What the company's own record says of coming and going."""

    joining: float = 0.0
    """Heaters that come into care in a year, expected."""
    leaving: float = 0.0
    """Share of the sites that leave in a year."""
    taken_over: float = 0.0
    """Heaters that join today at once."""


def learned_share(gone: int, years: float, prior_share: float = 0.03, weight: float = 10.0) -> float:
    """Share that leaves in a year. Parameters: how many left; site-years that they were seen; what is assumed before,
    and how many leavers that is worth. Source: gamma prior of Poisson counts (textbook); prior: assumption."""
    return (weight + gone) / (weight / prior_share + years)


@dataclass(frozen=True)
class Calls:
    """How often somebody calls whom no plan foresaw, as the company's record has it."""

    called: FloatArray
    """So many calls a year, the latest year first, (k,) ..."""
    heater_years: FloatArray
    """... of so many heaters in care, (k,)."""
    worth: FloatArray
    """What one counts for, by measure, (m,)."""


CALLS_BEFORE, YEARS_BEFORE = 1.0, 25.0
"""What is assumed of a company that has no record: a call in so many heater-years, for as much as one such call is
worth as evidence. Assumption."""
CALLS_VARY = 0.1
"""Standard deviation of a year's calls about their mean, natural log, besides chance: winters differ. Assumption."""
CALLS_FADE = 0.6
"""What a call says of the coming ones over one of the year after it: tanks age, and backlogs are worked off. Fitted to
simulated bases of other families (docs/study/years.md)."""
CALLS_DRIFT = 0.15
"""Standard deviation of how the mean itself moves from one year to the next, natural log. Fitted likewise."""


def with_calls(ahead: Ahead, heaters: float, calls: Calls, common: Shared) -> Ahead:
    """The same with the calls of each year.

    Parameters: heaters, of the base today. Source: Poisson counts whose rate is a gamma's (textbook), of which older
    years tell less (power steady model), and which goes on to move as a random walk.
    """
    years = ahead.counts.shape[2]
    random = np.random.default_rng([common.seed, 8])
    fades = CALLS_FADE ** np.arange(calls.called.size)
    called, seen = float(fades @ calls.called), float(fades @ calls.heater_years)
    rate = random.gamma(CALLS_BEFORE + called, 1 / (YEARS_BEFORE + seen), common.futures)
    differ = random.lognormal(-(CALLS_VARY**2) / 2, CALLS_VARY, (common.futures, years))
    differ *= np.exp(np.cumsum(random.normal(0, CALLS_DRIFT, (common.futures, years)), axis=1))
    came = random.poisson(rate[:, None] * differ * heaters).astype(np.float64)
    counts = ahead.counts.copy()
    counts[COUNTED.index("calls")] += came
    measures = ahead.measures + calls.worth[:, None, None] * came[None]
    each = calls.worth[None, :, None] * came.mean(axis=0)[None, None, :] / max(heaters, 1)
    return replace(ahead, counts=counts, measures=measures, by_heater=ahead.by_heater + each)


def with_turnover(ahead: Ahead, heaters: int, turnover: Turnover, common: Shared) -> Ahead:
    """The same with those who join: they ask for what the base's average heater does, from the middle of the year in
    which they come, and stay as the others do.

    Parameters: heaters, of the base today. Source: Poisson arrivals (textbook).
    """
    years = ahead.counts.shape[2]
    if heaters == 0 or (turnover.joining <= 0 and turnover.taken_over <= 0):
        return ahead
    random = np.random.default_rng([common.seed, 7])
    came = random.poisson(turnover.joining, (common.futures, years)).astype(np.float64)
    there = np.cumsum(came, axis=1) - came / 2 + turnover.taken_over
    stay = np.exp(-turnover.leaving * np.arange(years))
    more = 1 + there / (heaters * stay)
    mean: FloatArray = more.mean(axis=0)
    return replace(ahead, counts=ahead.counts * more, measures=ahead.measures * more, by_heater=ahead.by_heater * mean)

"""Ten years of one tank in money: left as it is, serviced each year, renewed now, or renewed when that costs least.

Plain sums of expected amounts at today's prices, without interest. What breaks, what a leak does and what deposit costs
in energy are assumptions, stated with each figure; failures follow the forecast's own probability for the coming year.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aquifer.core import tank
from aquifer.core.arrays import FloatArray
from aquifer.core.lives import UNLEARNED, TankLife
from aquifer.core.parameters import TANK

YEARS = 10
REPAIRS_A_YEAR = {"as_it_is": 0.15, "yearly": 0.06, "new": 0.03}
"""Elements, thermostats, thermocouples, drains: how often one is called for. Assumption."""
DRIFT_A_YEAR, MOST_DRIFT = 0.01, 0.10
"""By how much more energy a tank takes each year that deposit is left in it, and at most. Assumption."""
DRIFT_SPREAD, BILLS_ERROR = 0.01, 0.08
"""Standard deviations: of that drift between tanks, and of the ratio of two years' bills for weather and use.
Assumption."""
DAMAGE_SPREAD = 0.8
"""Standard deviation of the logarithm, from leak to leak: found at once, or after a holiday. Assumption."""
FUTURES = 4000
MEAN_LIFE_YEARS = 12.5
"""Over which a new heater's price is used up. Handbook: a mean of 12 to 13 years."""
NEW_SAVES = 0.08
"""Of its energy that a new tank of the same kind saves by its insulation and burner. Assumption; its label decides."""


@dataclass(frozen=True)
class Prices:
    """What each costs once, in the company's currency."""

    service: float
    repair: float
    heater: float
    damage: float = 0.0
    """What a leak does to the house, where it stands, on average."""
    energy_a_year: float = 0.0
    """The bills of twelve months as they are now; 0 where nobody knows them."""


@dataclass(frozen=True)
class Course:
    """One way to go on, with its expected cost over ten years."""

    name: str
    services: float
    repairs: float
    heaters: float
    damage: float
    energy: float
    worth_left: float
    """What a heater that was bought meanwhile is still worth at the end."""
    failures: float
    """Expected number of tanks that leak."""
    low: float
    high: float
    """What eight of ten futures come to lie between."""
    renewed_in: int | None = None
    """Years until it is renewed as planned; None of one that stays until it leaks."""

    @property
    def total(self) -> float:
        return self.services + self.repairs + self.heaters + self.damage + self.energy - self.worth_left


def failing(
    age_years: float, within_a_year: float, rod_lasts_years: float = np.inf, law: tank.Law = tank.HANDBOOK
) -> FloatArray:
    """Probability that a tank that stands today leaks in each of the coming ten years, (10,).

    Parameters: age, years; within_a_year, the forecast's probability for the coming year, 0 to 1; rod_lasts_years, from
    when no rod works if nobody renews it; how the chance goes with age here. Raises: ValueError for a probability
    outside 0 to 1. Source: ``tank.hazard``, scaled so that its first year is the forecast's; that the lasting ones are
    left is in that year, and no more of it is counted on.
    """
    if not 0 <= within_a_year < 1:
        raise ValueError(f"within_a_year {within_a_year}; allowed: 0 to below 1")
    ahead = np.arange(YEARS + 1, dtype=np.float64)
    spent = TANK.spent_weight * np.maximum(ahead - rod_lasts_years, 0.0)
    zero, steep = np.zeros(1), tank.Law(law.shape)
    plain = tank.hazard(age_years + np.array([0.0, 1.0]), zero, steep)
    ratio = -np.log1p(-within_a_year) / max(float(plain[1] - plain[0]), 1e-12)
    hazard = ratio * tank.hazard(age_years + ahead + spent, zero, steep)
    standing = np.exp(hazard[0] - hazard)
    return np.asarray(standing[:-1] - standing[1:])


def fresh(life: TankLife = UNLEARNED) -> FloatArray:
    """The same of a new tank on ordinary water, kept as it should be, (10,). Parameters: how tanks end here.
    Source: ``tank.hazard``."""
    hazard = tank.hazard(np.arange(YEARS + 1, dtype=np.float64), np.full(1, life.level), life.law)
    standing = np.exp(-hazard)
    return np.asarray(standing[:-1] - standing[1:])


def expected_failures(first: FloatArray, then: FloatArray) -> float:
    """How many tanks leak in ten years: the first, and each that followed one. Parameters: (10,) each.

    Source: renewal, one successor deep; a third tank within ten years is left out (below a thousandth).
    """
    later = np.concatenate([[0.0], np.cumsum(then)])
    return float(sum(p * (1.0 + later[YEARS - 1 - year]) for year, p in enumerate(first)))


def courses(
    kept: FloatArray, neglected: FloatArray, new: FloatArray, prices: Prices, drift: float = DRIFT_A_YEAR,
    unsure: float = 0.0,
) -> list[Course]:  # fmt: skip
    """The four ways, in a fixed order: left as it is, serviced each year, renewed now and serviced, and serviced and
    renewed in the year in which that costs least.

    Parameters: probability of leaking by year, (10,) each: serviced, left alone, of a new one; prices; drift, how much
    more energy it takes each year that deposit is left in it; unsure, standard deviation of the logarithm of what its
    hazard may be off by.
    """
    told = [
        _way("as_it_is", neglected, new, prices, None, drift, unsure),
        _way("yearly", kept, new, prices, None, drift, unsure),
        _way("new", kept, new, prices, 0, drift, unsure),
    ]
    later = [_way("later", kept, new, prices, year, drift, unsure) for year in range(1, YEARS)]
    return [*told, min(later, key=lambda way: way.total)]


def drift_learned(bills: Sequence[tuple[float, float, float]]) -> float:
    """How much more energy a tank takes each year that deposit is left in it, by bills before and after cleanings.

    Parameters: bills, for each cleaning the energy of twelve months before and after it, and the years that deposit had
    been left. Source: normal prior and errors (textbook); that two bills differ by weather and use: assumption.
    """
    weight = DRIFT_SPREAD**-2
    mean = weight * DRIFT_A_YEAR
    for before, after, years in bills:
        if before <= 0 or after <= 0 or years <= 0:
            raise ValueError(f"bills {before:g} and {after:g} over {years:g} years; allowed: above 0")
        error = (BILLS_ERROR / years) ** -2
        weight += error
        mean += error * (before / after - 1) / years
    return float(np.clip(mean / weight, 0.0, MOST_DRIFT))


def _way(
    name: str, first: FloatArray, new: FloatArray, prices: Prices, renewed_in: int | None, drift: float, unsure: float
) -> Course:
    serviced = name != "as_it_is"
    before, after = REPAIRS_A_YEAR["yearly" if serviced else "as_it_is"], REPAIRS_A_YEAR["new"]
    until = YEARS if renewed_in is None else renewed_in
    failures = _failures(first, new, renewed_in)
    planned = 0.0 if renewed_in is None else 1 - float(first[:until].sum())
    years = np.arange(YEARS)
    used = np.where(years < until, 1.0 if serviced else 1 + np.minimum(drift * years, MOST_DRIFT), 1 - NEW_SAVES)
    repairs = np.where(years < until, before, after)
    low, high = np.quantile(_drawn(first, new, prices, renewed_in, repairs, used, unsure, serviced), [0.1, 0.9])
    worth = planned * float(_worth(np.array(float(until)))) if renewed_in is not None else 0.0
    leaking: FloatArray = new if renewed_in == 0 else first[:until]
    worth += float(leaking @ _worth(np.arange(1, leaking.size + 1, dtype=np.float64)))
    return Course(
        name,
        YEARS * prices.service if serviced else 0.0,
        float(repairs.sum()) * prices.repair,
        (planned + failures) * prices.heater,
        failures * prices.damage,
        float(used.sum()) * prices.energy_a_year,
        worth * prices.heater,
        failures,
        float(low),
        float(high),
        renewed_in,
    )


def _worth(fitted_in: FloatArray) -> FloatArray:
    """Share of its price that a heater is still worth after the ten years; any shape, years until it is fitted.

    Source: straight line over the handbook's mean life.
    """
    return np.asarray(np.clip(1 - (YEARS - fitted_in) / MEAN_LIFE_YEARS, 0.0, 1.0) * (fitted_in < YEARS))


def _failures(first: FloatArray, new: FloatArray, renewed_in: int | None) -> float:
    """Expected number of leaks: of the tank that is there until it is renewed, and of those that follow it."""
    if renewed_in is None:
        return expected_failures(first, new)
    if renewed_in == 0:
        return expected_failures(new, new)
    later = np.concatenate([[0.0], np.cumsum(new)])
    before = sum(float(first[year]) * (1 + later[YEARS - 1 - year]) for year in range(renewed_in))
    standing = 1 - float(first[:renewed_in].sum())
    return float(before + standing * later[YEARS - renewed_in])


def _drawn(
    first: FloatArray, new: FloatArray, prices: Prices, renewed_in: int | None, repairs: FloatArray, used: FloatArray,
    unsure: float, serviced: bool,
) -> FloatArray:  # fmt: skip
    """What the ten years come to in each future, (``FUTURES``,). Every way is lived with the same luck."""
    random = np.random.default_rng(20261129)
    chance, second, hazard = random.random(FUTURES), random.random(FUTURES), random.normal(0, 1, FUTURES)
    # A hazard so many times as high is survived with so high a power of the chance.
    worse = 1 - (1 - chance) ** np.exp(-unsure * hazard)
    until = YEARS if renewed_in is None else renewed_in
    planned = np.zeros(FUTURES) if renewed_in is None else np.ones(FUTURES)
    if renewed_in == 0:
        leaks_in = np.searchsorted(np.cumsum(new), chance, side="right")
        leaks = leaks_in < YEARS
        fitted = np.where(leaks, leaks_in + 1.0, 0.0)
    else:
        leaks_in = np.searchsorted(np.cumsum(first), worse, side="right")
        leaks = leaks_in < until
        planned = np.where(leaks, 0.0, planned)
        fitted = np.where(leaks, leaks_in + 1.0, float(until))
    began = np.where(leaks, leaks_in + 1, until)
    follows = leaks | (renewed_in is not None and renewed_in > 0)
    again = follows & (began + np.searchsorted(np.cumsum(new), second, side="right") < YEARS)
    number = leaks.astype(np.float64) + again
    calls = random.poisson(float(repairs.sum()), FUTURES)
    fixed = (YEARS * prices.service if serviced else 0.0) + float(used.sum()) * prices.energy_a_year
    heaters = number + planned - _worth(fitted)
    each = np.exp(random.normal(0, DAMAGE_SPREAD, (2, FUTURES)))
    damage = leaks * each[0] + again * each[1]
    # Their spread is not to move their mean, which is what is reckoned with.
    damage *= number.sum() / max(float(damage.sum()), 1e-12)
    return np.asarray(fixed + heaters * prices.heater + damage * prices.damage + calls * prices.repair)

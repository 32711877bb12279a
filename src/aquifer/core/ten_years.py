"""Ten years of one tank in money: left as it is, serviced each year, or renewed now.

Plain sums of expected amounts at today's prices, without interest. What breaks, what a leak does and what deposit costs
in energy are assumptions, stated with each figure; failures follow the forecast's own probability for the coming year.
"""

from dataclasses import dataclass

import numpy as np

from aquifer.core import tank
from aquifer.core.arrays import FloatArray
from aquifer.core.parameters import TANK

YEARS = 10
REPAIRS_A_YEAR = {"as_it_is": 0.15, "yearly": 0.06, "new": 0.03}
"""Elements, thermostats, thermocouples, drains: how often one is called for. Assumption."""
DRIFT_A_YEAR, MOST_DRIFT = 0.01, 0.10
"""By how much more energy a tank takes each year that deposit is left in it, and at most. Assumption."""
NEW_SAVES = 0.08
"""Of its energy that a new tank of the same kind saves by its insulation and burner. Assumption; its label decides."""


@dataclass(frozen=True)
class Prices:
    """What each costs once, in the company's currency."""

    service: float
    repair: float
    heater: float
    damage: float = 0.0
    """What a leak does to the house, where it stands."""
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
    failures: float
    """Expected number of tanks that leak."""

    @property
    def total(self) -> float:
        return self.services + self.repairs + self.heaters + self.damage + self.energy


def failing(age_years: float, within_a_year: float, rod_lasts_years: float = np.inf) -> FloatArray:
    """Probability that a tank that stands today leaks in each of the coming ten years, (10,).

    Parameters: age, years; within_a_year, the forecast's probability for the coming year, 0 to 1; rod_lasts_years, from
    when no rod works if nobody renews it. Raises: ValueError for a probability outside 0 to 1.
    Source: ``tank.hazard``, scaled so that its first year is the forecast's.
    """
    if not 0 <= within_a_year < 1:
        raise ValueError(f"within_a_year {within_a_year}; allowed: 0 to below 1")
    ahead = np.arange(YEARS + 1, dtype=np.float64)
    spent = TANK.spent_weight * np.maximum(ahead - rod_lasts_years, 0.0)
    zero = np.zeros(1)
    plain = tank.hazard(age_years + np.array([0.0, 1.0]), zero)
    ratio = -np.log1p(-within_a_year) / max(float(plain[1] - plain[0]), 1e-12)
    hazard = ratio * tank.hazard(age_years + ahead + spent, zero)
    standing = np.exp(hazard[0] - hazard)
    return np.asarray(standing[:-1] - standing[1:])


def fresh() -> FloatArray:
    """The same of a new tank on ordinary water, kept as it should be, (10,). Source: handbook, ``parameters.TANK``."""
    hazard = tank.hazard(np.arange(YEARS + 1, dtype=np.float64), np.zeros(1))
    standing = np.exp(-hazard)
    return np.asarray(standing[:-1] - standing[1:])


def expected_failures(first: FloatArray, then: FloatArray) -> float:
    """How many tanks leak in ten years: the first, and each that followed one. Parameters: (10,) each.

    Source: renewal, one successor deep; a third tank within ten years is left out (below a thousandth).
    """
    later = np.concatenate([[0.0], np.cumsum(then)])
    return float(sum(p * (1.0 + later[YEARS - 1 - year]) for year, p in enumerate(first)))


def courses(kept: FloatArray, neglected: FloatArray, new: FloatArray, prices: Prices) -> list[Course]:
    """The three ways, in a fixed order: left as it is, serviced each year, renewed now and serviced.

    Parameters: probability of leaking by year, (10,) each: serviced, left alone, of a new one; prices.
    """
    drift = np.minimum(DRIFT_A_YEAR * np.arange(YEARS), MOST_DRIFT)
    energy = prices.energy_a_year
    courses = []
    for name, first, services, bought, used in (
        ("as_it_is", neglected, 0, 0, float((1 + drift).sum())),
        ("yearly", kept, YEARS, 0, float(YEARS)),
        ("new", new, YEARS, 1, YEARS * (1 - NEW_SAVES)),
    ):
        failures = expected_failures(first, new)
        courses.append(
            Course(
                name,
                services * prices.service,
                YEARS * REPAIRS_A_YEAR[name] * prices.repair,
                (bought + failures) * prices.heater,
                failures * prices.damage,
                used * energy,
                failures,
            )
        )
    return courses

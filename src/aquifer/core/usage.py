"""Hot water drawn through a heater."""

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray
from aquifer.core.parameters import DAYS_PER_YEAR, LEARNING, USAGE


def litres_per_day(metered_l: FloatArray, people: FloatArray, heaters_on_site: FloatArray) -> FloatArray:
    """Hot water a day through each heater.

    Parameters, each of shape (n,), NaN where unknown: metered_l, litres a day through this heater; people on the site;
    heaters_on_site that share the people's use, >= 1.
    Returns: shape (n,), L/day, > 0. Source: ``parameters.USAGE``, an assumption where nothing was metered.
    """
    by_people = np.maximum(people, 0.5) * USAGE.litres_per_person_day / heaters_on_site
    estimated = np.where(np.isnan(people), USAGE.litres_per_day, by_people)
    return np.where(np.isnan(metered_l), estimated, np.maximum(metered_l, 1.0))


def volume_m3_per_year(litres_a_day: FloatArray) -> FloatArray:
    """Yearly volume in m3 of a daily one in L; shape (n,). Unit conversion."""
    return litres_a_day * DAYS_PER_YEAR / 1000


def use_variance(metered_l: FloatArray, people: FloatArray) -> FloatArray:
    """Variance that an estimated use adds to the log rate, shape (n,). Source: ``parameters.LEARNING``, assumption."""
    unmetered: BoolArray = np.isnan(metered_l)
    by_people = np.where(np.isnan(people), LEARNING.unknown_use_spread**2, LEARNING.people_spread**2)
    return np.where(unmetered, by_people, 0.0)

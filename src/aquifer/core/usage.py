"""Hot water drawn through a heater, from whatever tells something of it."""

from dataclasses import dataclass

import numpy as np

from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.parameters import DAYS_PER_YEAR, USAGE
from aquifer.core.vocabulary import Business

WATER_HEAT_KJ_KG_K = 4.186
"""Specific heat of water. Constant."""


@dataclass(frozen=True)
class Use:
    """What is known of each heater's use; arrays of shape (n,), NaN where unknown, -1 for no business."""

    metered_l: FloatArray
    """Litres a day through this heater."""
    people: FloatArray
    """On the site."""
    fixtures: FloatArray
    """Hot taps, showers and baths on the site."""
    business: IntArray
    """Position in ``Business``."""
    burner_hours: FloatArray
    """Hours a day that the burner or the elements run."""
    input_kw: FloatArray
    rise_k: FloatArray
    """From the source to the setpoint."""
    occupied_share: FloatArray
    """Share of the year that the site is lived in."""
    heaters_on_site: FloatArray
    """That share the site's use, at least 1."""


def litres_per_day(use: Use) -> tuple[FloatArray, FloatArray]:
    """Hot water a day through each heater, averaged over the year, and how sure that is.

    Returns: L/day, (n,), > 0; and the standard deviation of its natural log, (n,).
    The best of what is known counts: a meter, the burner's hours (heat balance), people, fixtures, kind of business.
    Source: ``parameters.USAGE``, assumptions but for the heat balance.
    """
    p = USAGE
    heat_kj = use.burner_hours * use.input_kw * p.recovery_efficiency * 3600
    by_burner = heat_kj / (WATER_HEAT_KJ_KG_K * np.maximum(use.rise_k, 5.0))
    per_business = np.array([p.business_litres_per_day[b] for b in Business] + [np.nan])
    shared = 1 / use.heaters_on_site
    ways = [
        (np.maximum(use.metered_l, 1.0), p.metered_spread),
        (np.where(by_burner > 0, by_burner, np.nan), p.recovery_spread),
        (np.maximum(use.people, 0.5) * p.litres_per_person_day * shared, p.people_spread),
        (np.maximum(use.fixtures, 1.0) * p.litres_per_fixture_day * shared, p.fixtures_spread),
        (per_business[use.business] * shared, p.business_spread),
    ]
    litres = np.full(use.people.size, p.litres_per_day)
    spread = np.full(use.people.size, p.unknown_spread)
    for way, its_spread in reversed(ways):
        known = ~np.isnan(way)
        litres, spread = np.where(known, way, litres), np.where(known, its_spread, spread)
    # A meter and the burner's hours have seen the empty weeks already.
    measured = ~np.isnan(ways[0][0]) | ~np.isnan(ways[1][0])
    partly = ~np.isnan(use.occupied_share) & (use.occupied_share < 1) & ~measured
    litres = np.where(partly, litres * np.maximum(use.occupied_share, 0.02), litres)
    return litres, np.where(partly, np.hypot(spread, p.vacancy_spread), spread)


def volume_m3_per_year(litres_a_day: FloatArray) -> FloatArray:
    """Yearly volume in m3 of a daily one in L; shape (n,). Unit conversion."""
    return litres_a_day * DAYS_PER_YEAR / 1000

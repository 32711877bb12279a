"""From what chance of leaking on a new tank is advised: by what it costs, and what a leak does where it stands."""

import numpy as np

from aquifer.core import tank
from aquifer.core.arrays import FloatArray
from aquifer.core.parameters import TANK
from aquifer.core.vocabulary import Business

DAMAGE_BY_PATH = {"sound": 0.05, "floor": 0.2, "rooms": 1.0, "below": 2.0}
"""What a leak does to the house by where its water runs, as on record (``place.FeatureKind.LEAK_PATH``): over what one
does that runs into finished rooms. Assumption."""
PIPED_PAN = 0.1
"""Of that where a pan catches it and is piped away: a split tank runs faster than a pan drains. Assumption."""
DAMAGE_UNKNOWN = 0.6
"""Where nobody wrote down where it would run. Assumption: between a bare floor and finished rooms."""
WITHOUT_HOT_WATER = {
    Business.CARE_HOME: 0.6,
    Business.CLINIC: 0.6,
    Business.LODGING: 0.4,
    Business.RESTAURANT: 0.4,
    Business.BAKERY: 0.4,
    Business.SALON: 0.4,
    Business.LAUNDRY: 0.4,
    Business.SCHOOL: 0.2,
    Business.CAMPING: 0.2,
}
"""What days without hot water cost who lives or works there, over what a leak does that runs into finished rooms.
Assumption: those who cannot be without it most, of households and offices nothing."""
LEAST, MOST = 0.05, 0.50
"""Chances between which a new tank is advised, whatever it costs. Assumption: below, years are thrown away on a guess;
above, it is as likely to leak as not."""
_LONGEST_YEARS, _STEP_YEARS = 40.0, 0.25


def harm_at(path: str | None, has_piped_pan: bool = False, business: Business | None = None) -> float:
    """What a leak does where a heater stands, over what one does that runs into finished rooms.

    Parameters: path, the condition of the way of a leak on record, None where nobody wrote it down; whether a pan
    catches it and is piped away; who is without hot water, None of a household. Raises: ValueError for another word.
    Source: assumption, ``DAMAGE_BY_PATH``, ``WITHOUT_HOT_WATER``.
    """
    if path is not None and path not in DAMAGE_BY_PATH:
        raise ValueError(f"path {path!r}; allowed: {', '.join(DAMAGE_BY_PATH)}, or None")
    share = DAMAGE_UNKNOWN if path is None else DAMAGE_BY_PATH[path]
    without = 0.0 if business is None else WITHOUT_HOT_WATER.get(business, 0.0)
    return share * (PIPED_PAN if has_piped_pan else 1.0) + without


def advised_from(heater_over_leak: float | None, harm: FloatArray) -> FloatArray:
    """Probability of leaking within 12 months from which a new tank is advised, (n,).

    Parameters: what a new one costs over what a leak into finished rooms does, None where that is not priced; what a
    leak does where each stands, ``harm_at``.
    Source: replacement by age (textbook of renewal theory): renewing at age T costs (new + leak F(T)) / E[min(T, life)]
    a year in the long run, F by the handbook's law; a tank is kept as long as a year of it costs less than the least of
    that. Without prices ``TANK.replace_at``, by the harm.
    """
    if heater_over_leak is None:
        return np.clip(TANK.replace_at * DAMAGE_UNKNOWN / harm, LEAST, MOST)
    ages = np.arange(_STEP_YEARS, _LONGEST_YEARS + _STEP_YEARS, _STEP_YEARS)
    standing = np.exp(-tank.hazard(np.append(0.0, ages), np.zeros(1)))
    lived = np.cumsum((standing[1:] + standing[:-1]) / 2) * _STEP_YEARS
    different, which = np.unique(harm, return_inverse=True)
    a_year = (heater_over_leak + different[:, None] * (1 - standing[1:])) / lived
    least = a_year.min(axis=1) / different
    return np.asarray(np.clip(-np.expm1(-least), LEAST, MOST)[which])

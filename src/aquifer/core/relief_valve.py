"""A relief valve: a dormant part that may have stuck since it last ran, unseen until it is asked to work.

P(stuck after t years) = 1 - exp(-theta (t/eta)^k), a Weibull law; the hazard grows with hardness.
"""

from functools import cache

import numpy as np
from scipy.optimize import brentq
from scipy.special import gamma, gammainc

from aquifer.core.arrays import FloatArray
from aquifer.core.parameters import RELIEF_VALVE


def hazard(years: FloatArray, hardness_mg_l: FloatArray) -> FloatArray:
    """Cumulative hazard of sticking at theta = 1, ``years`` after the valve last ran; shapes broadcast.

    Source: Weibull with ``parameters.RELIEF_VALVE``, assumptions.
    """
    p = RELIEF_VALVE
    first_year = -np.log1p(-p.stuck_after_one_year)
    by_hardness = np.exp(p.hardness_slope * (hardness_mg_l - p.reference_hardness_mg_l))
    return np.asarray(first_year * np.maximum(years, 0.0) ** p.shape * by_hardness)


def average_unavailability(years: FloatArray, hardness_mg_l: FloatArray) -> FloatArray:
    """Probability that the valve is stuck when needed, averaged over an interval of ``years``, at theta = 1.

    Source: the mean of the Weibull's distribution function, in closed form by the incomplete gamma function.
    """
    z = hazard(years, hardness_mg_l)
    return np.asarray(_average(z))


def _average(z: FloatArray | float) -> FloatArray:
    k = RELIEF_VALVE.shape
    safe = np.maximum(z, 1e-12)
    return np.asarray(1 - gamma(1 / k) / k * gammainc(1 / k, safe) * safe ** (-1 / k))


@cache
def _hazard_for(target: float) -> float:
    if not 0 < target < 1:
        raise ValueError(f"the target probability is {target:g}; it must lie between 0 and 1")
    return float(brentq(lambda log_z: float(_average(np.exp(log_z))) - target, -25.0, 25.0))


def hazards_for(target: FloatArray) -> FloatArray:
    """Natural log of the hazard at which the average unavailability reaches ``target``, any shape, 0 < target < 1.

    Source: root of ``average_unavailability``, found once for each different target.
    """
    different, position = np.unique(target, return_inverse=True)
    return np.array([_hazard_for(float(value)) for value in different])[position].reshape(target.shape)


def proof_interval_years(target: FloatArray, hardness_mg_l: FloatArray, log_theta: FloatArray) -> FloatArray:
    """Years between exercises that keep the average unavailability at ``target``; shapes broadcast, no cap applied."""
    p = RELIEF_VALVE
    unit = np.log(hazard(np.ones_like(hardness_mg_l), hardness_mg_l))
    return np.asarray(np.exp((hazards_for(target) - log_theta - unit) / p.shape))


def replacement_age_years(hardness_mg_l: FloatArray) -> FloatArray:
    """Age at which the valve is replaced in any case, years. Source: ``parameters.RELIEF_VALVE``, assumption."""
    p = RELIEF_VALVE
    hard = hardness_mg_l > p.very_hard_mg_l
    return np.where(hard, p.replace_after_years_hard, p.replace_after_years)

"""The end of a tank: when its wall gives way, given that it has not yet.

Cumulative hazard H(a) = HR (a/eta)^k with a the effective age: years, and those spent without a working anode count for
more.
"""

from dataclasses import dataclass

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray
from aquifer.core.parameters import TANK


@dataclass(frozen=True)
class Stress:
    """What a tank bears; arrays of shape (n,)."""

    hardness_mg_l: FloatArray
    pressure_kpa: FloatArray
    """Static, gauge."""
    setpoint_c: FloatArray
    log_symptoms: FloatArray
    """ln of the hazard ratio of what was seen on it; see ``parameters.TANK.symptoms``."""


def log_hazard_ratios(stress: Stress) -> dict[str, FloatArray]:
    """ln of the hazard ratio of each stress against an ordinary tank, (n,) each. Source: assumption."""
    return {
        "hardness": np.asarray(TANK.hardness_slope * np.maximum(stress.hardness_mg_l - TANK.plain_hardness_mg_l, 0.0)),
        "pressure": np.asarray(TANK.pressure_slope * np.maximum(stress.pressure_kpa - TANK.plain_pressure_kpa, 0.0)),
        "temperature": np.asarray(TANK.setpoint_slope * (stress.setpoint_c - TANK.plain_setpoint_c)),
        "symptoms": stress.log_symptoms,
    }


def log_hazard_ratio(stress: Stress) -> FloatArray:
    """Sum of ``log_hazard_ratios``, (n,)."""
    return np.asarray(sum(log_hazard_ratios(stress).values()))


def is_due(failure_within_a_year: FloatArray) -> BoolArray:
    """Whether a new tank is advised by risk alone; any shape. Source: ``parameters.TANK``, assumption."""
    return np.asarray(failure_within_a_year >= TANK.replace_at)


def is_worn_out(age_years: FloatArray, hardness_mg_l: FloatArray, loud: BoolArray) -> BoolArray:
    """Whether a new tank is advised by age, water and noise; shapes broadcast. Source: trade practice."""
    return np.asarray((age_years >= TANK.old_on_hard_water_years) & (hardness_mg_l > TANK.very_hard_mg_l) & loud)


def effective_age(age_years: FloatArray, spent_years: FloatArray) -> FloatArray:
    """Age that counts, years: those without a working anode weigh more. Shapes broadcast. Source: assumption."""
    return np.asarray(age_years + TANK.spent_weight * spent_years)


def hazard(effective_years: FloatArray, log_ratio: FloatArray) -> FloatArray:
    """Cumulative hazard at an effective age; shapes broadcast. Source: Weibull, ``parameters.TANK``, handbook."""
    return np.asarray(np.exp(log_ratio) * (np.maximum(effective_years, 0.0) / TANK.life_years) ** TANK.shape)


def failure_within(
    years: FloatArray, age_years: FloatArray, spent_years: FloatArray, spent_ahead: FloatArray, log_ratio: FloatArray
) -> FloatArray:
    """Probability that a tank that stands today fails within ``years``; shapes broadcast.

    Parameters: age and years with a spent anode so far; spent_ahead, share of the coming time without a working anode,
    0 to 1; ln of the hazard ratio. Source: ratio of survivals.
    """
    now = effective_age(age_years, spent_years)
    ahead = years * (1 + TANK.spent_weight * spent_ahead)
    return np.asarray(-np.expm1(hazard(now, log_ratio) - hazard(now + ahead, log_ratio)))


def years_to_failure(
    probability: FloatArray,
    age_years: FloatArray,
    spent_years: FloatArray,
    spent_ahead: FloatArray,
    log_ratio: FloatArray,
) -> FloatArray:
    """Years from today until failure has the given probability, as quantiles of the remaining life; shapes broadcast.

    Source: the inverse of ``failure_within``.
    """
    now = effective_age(age_years, spent_years)
    at = (hazard(now, log_ratio) - np.log1p(-probability)) / np.exp(log_ratio)
    return np.asarray((TANK.life_years * at ** (1 / TANK.shape) - now) / (1 + TANK.spent_weight * spent_ahead))


def years_to_risk(
    probability: float, age_years: FloatArray, spent_years: FloatArray, spent_ahead: FloatArray, log_ratio: FloatArray
) -> FloatArray:
    """Years until failure within the following 12 months is as likely as ``probability``; negative if it has been.

    Source: the year's hazard by the midpoint rule, solved for the age; within a week of ``failure_within``.
    """
    pace = 1 + TANK.spent_weight * spent_ahead
    a_year = -np.log1p(-probability) / (pace * np.exp(log_ratio) * TANK.shape)
    at = TANK.life_years * (a_year * TANK.life_years) ** (1 / (TANK.shape - 1))
    return np.asarray((at - effective_age(age_years, spent_years)) / pace - 0.5)

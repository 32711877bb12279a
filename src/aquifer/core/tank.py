"""The end of a tank: when its wall gives way, given that it has not yet.

Cumulative hazard H(a) = HR (a/eta)^k with a the effective age: years, and those spent without a working anode count for
more. Where tanks differ by more than anybody sees, the weak ones go first and those that are left are the lasting ones:
with a frailty of variance v it is ln(1 + v H) / v.
"""

from dataclasses import dataclass

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray
from aquifer.core.parameters import TANK


@dataclass(frozen=True)
class Law:
    """How the chance of giving way goes with age."""

    shape: float = TANK.shape
    """The power of age by which the cumulative hazard grows."""
    frailty: float = 0.0
    """Variance of how weak tanks are by what nobody sees, about a mean of 1."""


HANDBOOK = Law()


@dataclass(frozen=True)
class Stress:
    """What a tank bears and what was seen on it; arrays of shape (n,)."""

    hardness_mg_l: FloatArray
    ph: FloatArray
    conductivity_us_cm: FloatArray
    pressure_kpa: FloatArray
    """Static, gauge."""
    setpoint_c: FloatArray
    rusty: BoolArray
    """Hot water alone ran rusty."""
    seams: BoolArray
    """Rust was seen at a seam."""
    loud: BoolArray
    """The bed popped or kettled."""
    spent_share: FloatArray
    """Of its years, those without a working anode, 0 to 1."""


TRAITS = {
    "hardness": ("hardness",),
    "water": ("softness", "acidity", "salt"),
    "pressure": ("pressure",),
    "temperature": ("temperature",),
    "symptoms": ("rusty", "seams", "loud"),
    "spent_anode": ("spent_share",),
}
"""What the hazard hangs on, by the reason that is given for it."""
SLOPES = np.array([TANK.slopes[trait] for traits in TRAITS.values() for trait in traits])
"""ln of the hazard ratio that a unit of each trait makes by the handbook."""


def traits(stress: Stress) -> FloatArray:
    """How much each tank has of what the hazard hangs on, (n, ``SLOPES.size``), each from where it is more than plain.

    Units: hardness per 100 mg/L above plain; softness 0 to 1 towards none; pH below plain; doublings of conductivity
    above plain; pressure per 100 kPa above plain; temperature per 10 K from plain. Source: assumption.
    """
    every = [
        np.maximum(stress.hardness_mg_l - TANK.plain_hardness_mg_l, 0.0) / 100,
        np.maximum(1 - stress.hardness_mg_l / TANK.soft_below_mg_l, 0.0),
        np.maximum(TANK.plain_ph - stress.ph, 0.0),
        np.log2(np.maximum(stress.conductivity_us_cm / TANK.plain_conductivity_us_cm, 1.0)),
        np.maximum(stress.pressure_kpa - TANK.plain_pressure_kpa, 0.0) / 100,
        (stress.setpoint_c - TANK.plain_setpoint_c) / 10,
        *(np.asarray(seen, dtype=np.float64) for seen in (stress.rusty, stress.seams, stress.loud)),
        stress.spent_share,
    ]
    return np.stack(np.broadcast_arrays(*every), axis=1)


def log_hazard_ratios(found: FloatArray, slopes: FloatArray = SLOPES) -> dict[str, FloatArray]:
    """ln of the hazard ratio of each reason against an ordinary tank, (n,) each.

    Parameters: ``traits``; ln of the ratio by a unit of each. Source: proportional hazards (textbook)."""
    ratios, at = {}, 0
    for reason, those in TRAITS.items():
        ratios[reason] = found[:, at : at + len(those)] @ slopes[at : at + len(those)]
        at += len(those)
    return ratios


def is_worn_out(age_years: FloatArray, hardness_mg_l: FloatArray, loud: BoolArray) -> BoolArray:
    """Whether a new tank is advised by age, water and noise; shapes broadcast. Source: trade practice."""
    return np.asarray((age_years >= TANK.old_on_hard_water_years) & (hardness_mg_l > TANK.very_hard_mg_l) & loud)


def effective_age(age_years: FloatArray, spent_years: FloatArray) -> FloatArray:
    """Age that counts, years: those without a working anode weigh more. Shapes broadcast. Source: assumption."""
    return np.asarray(age_years + TANK.spent_weight * spent_years)


def hazard(effective_years: FloatArray, log_ratio: FloatArray, law: Law = HANDBOOK) -> FloatArray:
    """Cumulative hazard at an effective age of tanks of which nothing else is known; shapes broadcast.

    Source: Weibull, ``parameters.TANK``, handbook; gamma frailty (textbook of survival analysis).
    """
    plain = np.exp(log_ratio) * (np.maximum(effective_years, 0.0) / TANK.life_years) ** law.shape
    return np.asarray(np.log1p(law.frailty * plain) / law.frailty if law.frailty else plain)


def hazard_ahead(
    now: FloatArray, then: FloatArray, log_ratio: FloatArray, law: Law = HANDBOOK, log_past: FloatArray | None = None
) -> FloatArray:
    """Hazard between two effective ages of a tank that stands at the first; shapes broadcast.

    Parameters: ln of the hazard ratio from now on; of that before, where it was another. Having stood tells of a
    frailty: a gamma distribution of mean 1 / (1 + v H). Source: as ``hazard``.
    """
    more = hazard(then, log_ratio, Law(law.shape)) - hazard(now, log_ratio, Law(law.shape))
    if not law.frailty:
        return more
    past = hazard(now, log_ratio if log_past is None else log_past, Law(law.shape))
    return np.asarray(np.log1p(law.frailty * more / (1 + law.frailty * past)) / law.frailty)


def failure_within(
    years: FloatArray,
    age_years: FloatArray,
    spent_years: FloatArray,
    spent_ahead: FloatArray,
    log_ratio: FloatArray,
    law: Law = HANDBOOK,
    log_past: FloatArray | None = None,
) -> FloatArray:
    """Probability that a tank that stands today fails within ``years``; shapes broadcast.

    Parameters: age and years with a spent anode so far; spent_ahead, share of the coming time without a working anode,
    0 to 1; ln of the hazard ratio from now on, and before. Source: ratio of survivals.
    """
    now = effective_age(age_years, spent_years)
    then = now + years * (1 + TANK.spent_weight * spent_ahead)
    return np.asarray(-np.expm1(-hazard_ahead(now, then, log_ratio, law, log_past)))


def years_to_failure(
    probability: FloatArray,
    age_years: FloatArray,
    spent_years: FloatArray,
    spent_ahead: FloatArray,
    log_ratio: FloatArray,
    law: Law = HANDBOOK,
    log_past: FloatArray | None = None,
) -> FloatArray:
    """Years from today until failure has the given probability, as quantiles of the remaining life; shapes broadcast.

    Source: the inverse of ``failure_within``.
    """
    now, plain = effective_age(age_years, spent_years), Law(law.shape)
    more = -np.log1p(-probability)
    if law.frailty:
        past = hazard(now, log_ratio if log_past is None else log_past, plain)
        more = np.expm1(law.frailty * more) / law.frailty * (1 + law.frailty * past)
    lived = (np.maximum(now, 0.0) / TANK.life_years) ** law.shape
    then = TANK.life_years * (lived + more / np.exp(log_ratio)) ** (1 / law.shape)
    return np.asarray((then - now) / (1 + TANK.spent_weight * spent_ahead))


_LOOKED_AHEAD_YEARS = np.arange(41.0)
"""Where the year's chance is told before it is looked up between; it bends so little that it is a week off at most."""


def years_to_risk(
    probability: FloatArray,
    age_years: FloatArray,
    spent_years: FloatArray,
    spent_ahead: FloatArray,
    log_ratio: FloatArray,
    law: Law = HANDBOOK,
    log_past: FloatArray | None = None,
) -> FloatArray:
    """Years until failure within the following 12 months is as likely as each ``probability``, (n,); negative, or 0
    with a frailty, if it has been, infinite where it is not within forty years.

    Source: the year's hazard by the midpoint rule, solved for the age; within a week of ``failure_within``. With a
    frailty, the first of the coming years in which it is, straight between them.
    """
    pace = 1 + TANK.spent_weight * spent_ahead
    if not law.frailty:
        a_year = -np.log1p(-probability) / (pace * np.exp(log_ratio) * law.shape)
        at = TANK.life_years * (a_year * TANK.life_years) ** (1 / (law.shape - 1))
        return np.asarray((at - effective_age(age_years, spent_years)) / pace - 0.5)
    now = effective_age(age_years, spent_years)[:, None]
    then = now + pace[:, None] * np.append(_LOOKED_AHEAD_YEARS, _LOOKED_AHEAD_YEARS[-1] + 1)
    past = None if log_past is None else log_past[:, None]
    a_year = np.diff(hazard_ahead(now, then, log_ratio[:, None], law, past), axis=1)
    wanted = np.broadcast_to(-np.log1p(-probability), now.shape[:1])
    reached = a_year >= wanted[:, None]
    first = reached.argmax(axis=1)
    row, before = np.arange(first.size), np.maximum(first - 1, 0)
    low, high = a_year[row, before], a_year[row, first]
    at = before + np.clip((wanted - low) / np.maximum(high - low, 1e-12), 0.0, 1.0)
    return np.asarray(np.where(reached.any(axis=1), np.where(first == 0, 0.0, at), np.inf))

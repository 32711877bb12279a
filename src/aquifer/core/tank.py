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


_LOOKED_AHEAD_YEARS = np.arange(41.0)
"""Where the year's chance is told before it is looked up between; it bends so little that it is a week off at most."""


@dataclass(frozen=True)
class Standing:
    """Tanks that stand today; shapes broadcast."""

    age_years: FloatArray
    spent_years: FloatArray
    """Without a working anode so far."""
    spent_ahead: FloatArray
    """Share of the coming time without one, 0 to 1."""
    log_ratio: FloatArray
    """ln of the hazard ratio from now on."""
    law: Law = HANDBOOK
    log_past: FloatArray | None = None
    """ln of the hazard ratio before, where it was another."""

    @property
    def now(self) -> FloatArray:
        """Effective age, years."""
        return effective_age(self.age_years, self.spent_years)

    @property
    def pace(self) -> FloatArray:
        """Effective years in each to come."""
        return np.asarray(1 + TANK.spent_weight * self.spent_ahead)

    def failure_within(self, years: FloatArray) -> FloatArray:
        """Probability of failing within ``years``. Source: ratio of survivals."""
        return np.asarray(-np.expm1(-self._hazard_until(self.now + years * self.pace)))

    def years_to_failure(self, probability: FloatArray) -> FloatArray:
        """Years until failure has the given probability, as quantiles of the remaining life.

        Source: the inverse of ``failure_within``.
        """
        more = -np.log1p(-probability)
        if self.law.frailty:
            more = np.expm1(self.law.frailty * more) / self.law.frailty * (1 + self.law.frailty * self._lived)
        lived = (np.maximum(self.now, 0.0) / TANK.life_years) ** self.law.shape
        then = TANK.life_years * (lived + more / np.exp(self.log_ratio)) ** (1 / self.law.shape)
        return np.asarray((then - self.now) / self.pace)

    def years_to_risk(self, probability: FloatArray) -> FloatArray:
        """Years until failure within the following 12 months is as likely as each ``probability``, (n,) as all columns;
        negative, or 0 with a frailty, if it has been, infinite where it is not within forty years.

        Source: the year's hazard by the midpoint rule, solved for the age; within a week of ``failure_within``. With a
        frailty, the first of the coming years in which it is, straight between them.
        """
        wanted = -np.log1p(-probability)
        if not self.law.frailty:
            a_year = wanted / (self.pace * np.exp(self.log_ratio) * self.law.shape)
            at = TANK.life_years * (a_year * TANK.life_years) ** (1 / (self.law.shape - 1))
            return np.asarray((at - self.now) / self.pace - 0.5)
        ahead = np.append(_LOOKED_AHEAD_YEARS, _LOOKED_AHEAD_YEARS[-1] + 1)[:, None]
        a_year = np.diff(self._hazard_until(self.now + self.pace * ahead), axis=0)
        reached = a_year >= wanted
        first = reached.argmax(axis=0)
        row, before = np.arange(first.size), np.maximum(first - 1, 0)
        low, high = a_year[before, row], a_year[first, row]
        at = before + np.clip((wanted - low) / np.maximum(high - low, 1e-12), 0.0, 1.0)
        return np.asarray(np.where(reached.any(axis=0), np.where(first == 0, 0.0, at), np.inf))

    @property
    def _lived(self) -> FloatArray:
        """Cumulative hazard until today, of one tank as weak as all are on average."""
        return hazard(self.now, self.log_ratio if self.log_past is None else self.log_past, Law(self.law.shape))

    def _hazard_until(self, then: FloatArray) -> FloatArray:
        """Hazard from today to an effective age. Having stood tells of a frailty: a gamma distribution of mean
        1 / (1 + v H). Source: as ``hazard``."""
        plain = Law(self.law.shape)
        more = hazard(then, self.log_ratio, plain) - hazard(self.now, self.log_ratio, plain)
        if not self.law.frailty:
            return more
        return np.asarray(np.log1p(self.law.frailty * more / (1 + self.law.frailty * self._lived)) / self.law.frailty)

"""How long tanks last here: one factor on the handbook's hazard, learned from tanks that came into care and left it.

A tank counts from when it came into care, not from when it was new: those that had failed before were never seen. One
that still stands, or was replaced, sold or lost sight of, counts as long as it was seen. Source: Poisson counts with a
gamma prior (textbook of survival analysis); left truncation and right censoring by the hazard between entry and exit.
"""

from dataclasses import dataclass

import numpy as np
from scipy.special import gammaincinv

from aquifer.core.arrays import BoolArray, FloatArray
from aquifer.core.parameters import TANK


@dataclass(frozen=True)
class Lives:
    """Tanks in care, (n,)."""

    hazard_at_entry: FloatArray
    """Cumulative hazard of the handbook's law, with the stresses of each tank, when it came into care."""
    hazard_at_exit: FloatArray
    """The same when it left, or now."""
    leaked: BoolArray
    """Whether its wall gave way; all other ends say only that it had not."""


@dataclass(frozen=True)
class LifeFactor:
    """How much oftener tanks fail here than the handbook says, as a gamma distribution."""

    shape: float = TANK.factor_weight
    rate: float = TANK.factor_weight
    failures: int = 0
    """Of the company's own, behind it."""

    @property
    def mean(self) -> float:
        return self.shape / self.rate

    def quantiles(self, probabilities: FloatArray) -> FloatArray:
        """Of the factor; any shape, 0 < p < 1."""
        return np.asarray(gammaincinv(self.shape, probabilities) / self.rate)


def learned(lives: Lives) -> LifeFactor:
    """What these tanks say of the factor. Raises: ValueError where a tank left care before it came."""
    lived = lives.hazard_at_exit - lives.hazard_at_entry
    if (lived < -1e-9).any():
        at = int(np.argmin(lived))
        raise ValueError(f"tank {at} left care before it came; its end lies after its entry")
    failures = int(lives.leaked.sum())
    return LifeFactor(TANK.factor_weight + failures, TANK.factor_weight + float(lived.sum()), failures)

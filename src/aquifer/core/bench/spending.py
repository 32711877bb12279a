"""What the lives of a tank cost beside its energy: who came, what was fitted, and what leaks did."""

from dataclasses import dataclass

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray
from aquifer.core.bench.lives import Care, Lived


@dataclass(frozen=True)
class Amounts:
    """What each costs once, in the company's currency."""

    call_out: float
    flush: float
    rod_look: float
    rod: float
    valve: float
    """The trial of a relief valve."""
    heater: float
    damage: float
    """What a leak does to the house, on average."""


@dataclass(frozen=True)
class Spent:
    """Since the tank was new, (lives, months + 1)."""

    visits: FloatArray
    rods: FloatArray
    came: FloatArray
    """How often somebody came in all the months, (lives,)."""
    leaks: FloatArray
    """A new tank, and what the water did. Source: one successor a life, as ``ten_years``."""


def spent(lived: Lived, care: Care, amounts: Amounts) -> Spent:
    """What lives under a care cost, month by month. Parameters: amounts, each 0 or more.

    Source: plain sums at today's prices; whatever falls into one month is one visit.
    """
    flushed = lived.flushed
    lives, months = flushed.shape
    fitted = np.zeros((lives, months), dtype=bool)
    for life, own in enumerate(lived.rods):
        fitted[life, list(own)] = True
    looks = fitted | _each(care.rod_months, months)
    tried = np.broadcast_to(_each(care.valve_months, months), flushed.shape)
    came = flushed | looks | tried
    visits = amounts.call_out * came + amounts.flush * flushed + amounts.rod_look * looks + amounts.valve * tried
    leaked = (lived.leaked[:, None] >= 0) & (np.arange(months)[None, :] == lived.leaked[:, None])
    return Spent(
        np.cumsum(visits, axis=1),
        np.cumsum(amounts.rod * fitted, axis=1),
        came.sum(axis=1).astype(np.float64),
        np.cumsum((amounts.heater + amounts.damage) * leaked, axis=1),
    )


def _each(every: int, months: int) -> BoolArray:
    """Months that are a multiple of so many; none for 0."""
    at = np.arange(months)
    return np.asarray((at > 0) & (at % every == 0)) if every else np.zeros(months, dtype=bool)

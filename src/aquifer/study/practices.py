"""Whom each practice sends where, every month. Everybody exercises relief valves and looks at rods once a year: the
safety visit is not in question, only the cleaning is."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.forecast import FleetForecast
from aquifer.core.vocabulary import Component, FlushMethod, Method, code


class Rule(StrEnum):
    YEARLY = "yearly"
    HALF_YEARLY_IF_HARD = "half_yearly_if_hard"
    LONG_SERVICE = "long_service"
    TIERS = "tiers"
    BENEFIT = "benefit"


@dataclass(frozen=True)
class Practice:
    name: str
    rule: Rule
    learns: bool = True
    chooses_method: bool = False
    visits_share: float = 1.0
    """Of the yearly rule's visits, for the practice that ranks by benefit."""

    def months_between(self, hardness_mg_l: FloatArray) -> FloatArray:
        """The calendar's interval of each heater, months, (n,)."""
        if self.rule is Rule.HALF_YEARLY_IF_HARD:
            return np.where(hardness_mg_l > 180, 6, 12)
        if self.rule is Rule.LONG_SERVICE:
            return np.full(hardness_mg_l.size, 54)
        if self.rule is Rule.TIERS:
            return np.select([hardness_mg_l < 120, hardness_mg_l < 250], [24, 12], 9)
        return np.full(hardness_mg_l.size, 12)

    @property
    def asks_the_forecast(self) -> bool:
        return self.rule is Rule.BENEFIT


PULSED = code(FlushMethod.DRAIN_AND_PULSE)
PRACTICES = (
    Practice("yearly", Rule.YEARLY),
    Practice("half-yearly on hard water", Rule.HALF_YEARLY_IF_HARD),
    Practice("every 4.5 years", Rule.LONG_SERVICE),
    Practice("24, 12 or 9 months by hardness", Rule.TIERS),
    Practice("benefit, nothing learned", Rule.BENEFIT, learns=False),
    Practice("benefit", Rule.BENEFIT),
    Practice("benefit, methods chosen", Rule.BENEFIT, chooses_method=True),
    Practice("benefit, 60 % of the visits", Rule.BENEFIT, visits_share=0.6),
)


def calendar_month(practice: Practice, month: int, hardness_mg_l: FloatArray, first: IntArray) -> IntArray:
    """Heaters whose turn it is in a month, by the calendar. Parameters: first, the month of each heater's turn."""
    between = practice.months_between(hardness_mg_l)
    return np.flatnonzero((month > 0) & (month >= first) & ((month - first) % between == 0))


def by_benefit(
    found: FleetForecast, heaters: int, visits: int, chooses_method: bool, since_clean: FloatArray
) -> tuple[IntArray, IntArray]:
    """The heaters where a visit is worth most, and the flush of each.

    Parameters: the forecast; number of heaters; how many visits there are; whether methods are chosen with the date;
    years since each was cleaned. Returns: rows, and positions in ``FlushMethod``, (visits,).
    """
    worth = np.zeros(heaters)
    method = np.full(heaters, PULSED)
    for component in (Component.SEDIMENT, Component.SCALE):
        forecast = found.of(component)
        if forecast is None:
            continue
        worth[forecast.row] = forecast.benefit
        if component is Component.SEDIMENT and chooses_method:
            method[forecast.row] = _AS_FLUSH[forecast.method]
    # Nobody is sent twice in a quarter, and of equal worth whoever waited longest goes first.
    worth = np.where(since_clean < 0.25, -1.0, worth + 1e-4 * since_clean)
    rows = np.argsort(-worth, kind="stable")[:visits]
    return np.sort(rows), method[np.sort(rows)]


_AS_FLUSH = np.full(len(Method), PULSED)
for _method in FlushMethod:
    _AS_FLUSH[code(Method(_method.value))] = code(_method)

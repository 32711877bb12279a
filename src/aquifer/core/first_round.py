"""The first round of a base that was taken over: what nobody of ours has proven is neither in date nor overdue with us
since long before it was ours, but to be looked at first."""

from dataclasses import replace

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray
from aquifer.core.forecast import ComponentForecast
from aquifer.core.vocabulary import Component, DecidedBy, code

SAFETY = (Component.RELIEF_VALVE, Component.EXPANSION_TANK)
"""What can hurt somebody if nobody has proven it."""
SAFETY_YEARS = 8 / 52
"""Within which safety is looked at, unless the company says otherwise. Assumption: eight weeks."""
SEASON_YEARS = 1.0
"""Within which everything else is seen once. Assumption: one season."""
PLACE_SHARE = 0.5
"""How much of a heater's place in the round is by risk; the rest spreads those of like risk evenly. Assumption."""


def spread(
    forecast: ComponentForecast, care: FloatArray, looked: BoolArray, place: FloatArray, safety_years: float
) -> ComponentForecast:
    """A forecast whose first dates lie within the round.

    Parameters, (n,) by heater: care, years since it was taken into care, NaN where it always was; looked, whether the
    component was looked at since; place, 0 to 1, the heater's own place among its like; safety_years, how long the
    round of what is safety takes.
    Returns: due no earlier than its place in the round, latest no earlier than the round's end; the worst come first.
    """
    if forecast.component is Component.TANK:
        return forecast
    care, place = care[forecast.row], place[forecast.row]
    applies = ~np.isnan(care) & ~looked[forecast.row]
    span = safety_years if forecast.component in SAFETY else SEASON_YEARS
    share = PLACE_SHARE * (1 - np.clip(forecast.probability_today, 0, 1)) + (1 - PLACE_SHARE) * place
    first = np.where(applies, span * share - np.nan_to_num(care), -np.inf)
    end = np.where(applies, span - np.nan_to_num(care), -np.inf)
    moved = applies & (forecast.due_years < first)
    return replace(
        forecast,
        due_years=np.maximum(forecast.due_years, first),
        latest_years=np.maximum(forecast.latest_years, end),
        decided_by=np.where(moved, code(DecidedBy.FIRST_LOOK), forecast.decided_by),
    )

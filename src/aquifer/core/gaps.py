"""What is not known of heaters, and how many days of their windows each gap is worth."""

from dataclasses import replace
from enum import StrEnum

import numpy as np

from aquifer.core.arrays import FloatArray
from aquifer.core.assembly import KnownHeaters, complete
from aquifer.core.fleet import Fleet, Heaters
from aquifer.core.forecast import NOTHING, PROBABILITIES, Context, FleetForecast, forecast, narrowed_by_reading
from aquifer.core.parameters import DAYS_PER_YEAR, HORIZON_YEARS
from aquifer.core.vocabulary import Component
from aquifer.core.water import WaterProfile


class Gap(StrEnum):
    AGE = "age"
    """When it was installed."""
    FLUSHES = "flushes"
    """Whether, or when, it was flushed before our own record."""
    USE = "use"
    """How much hot water goes through it: no meter, burner hours or people on record."""
    WATER = "water"
    """Its water was never tested, or only by a strip."""
    READING = "reading"
    """What lies in it was never measured, or long ago."""


SOON_YEARS = 5.0
"""Of what comes later nobody asks for a measurement today. Assumption."""


_EARLY, _MIDDLE, _LATE = (int(np.flatnonzero(one == PROBABILITIES)[0]) for one in (0.10, 0.50, 0.90))


def worth(
    known: KnownHeaters, waters: list[WaterProfile], fleet: Fleet, context: Context = NOTHING
) -> dict[Gap, FloatArray]:
    """By how many days the 80 % window of each heater's flush or descale would narrow if a gap were closed.

    Parameters: known, waters and fleet of the same n heaters; context, what the base taught.
    Returns: for each gap, days of shape (n,), 0 where there is no such gap. Source: the forecast again, with the spread
    that the gap adds taken away; beyond the horizon nothing counts.
    """
    closed = _closed(known, waters, fleet.heaters)
    told = forecast(fleet, context)
    before = _widths(told, len(fleet.heaters))
    found = {}
    for gap, heaters in closed.items():
        after = _widths(forecast(replace(fleet, heaters=heaters), context), len(heaters))
        # Less than a hundredth of a day is the rounding of the grid.
        found[gap] = np.maximum(np.round(before - after, 2), 0.0)
    found[Gap.READING] = _by_reading(told, narrowed_by_reading(fleet, context))
    return found


def _by_reading(told: FleetForecast, left: FloatArray) -> FloatArray:
    """Days by which the window would narrow within ``SOON_YEARS`` if what lies there were measured today.

    Parameters: left, what a reading would leave of what is not known of the date, (n,).
    """
    days = np.zeros(left.size)
    for one in told.components:
        if one.component not in (Component.SEDIMENT, Component.SCALE):
            continue
        early, middle, late = (np.maximum(one.reached_years[:, at], 0.01) for at in (_EARLY, _MIDDLE, _LATE))
        before = np.minimum(late, SOON_YEARS) - np.minimum(early, SOON_YEARS)
        early, late = (middle * (end / middle) ** left[one.row] for end in (early, late))
        after = np.minimum(late, SOON_YEARS) - np.minimum(early, SOON_YEARS)
        days[one.row] = np.maximum(days[one.row], (before - after) * DAYS_PER_YEAR)
    return np.asarray(np.maximum(np.round(days, 2), 0.0))


def _closed(known: KnownHeaters, waters: list[WaterProfile], heaters: Heaters) -> dict[Gap, Heaters]:
    nothing = np.zeros(len(heaters))
    metered = replace(known, litres_per_day=heaters.volume_m3 * 1000 / DAYS_PER_YEAR, heaters_on_site=nothing + 1)
    return {
        Gap.AGE: complete(replace(known, age_log_sd=nothing), waters),
        Gap.FLUSHES: complete(replace(known, flushes_log_sd=nothing), waters),
        # Its use as now estimated, as if a meter had read it: only what is unsure of it goes.
        Gap.USE: replace(heaters, heater_spread=complete(metered, waters).heater_spread),
        Gap.WATER: replace(heaters, water_spread=nothing),
    }


def _widths(told: FleetForecast, heaters: int) -> FloatArray:
    """Days from the early to the late end of each heater's 80 % window of flush or descale; 0 if it has neither."""
    widths = np.zeros(heaters)
    for one in told.components:
        if one.component in (Component.SEDIMENT, Component.SCALE):
            reached = np.minimum(one.reached_years, HORIZON_YEARS)
            width = (reached[:, _LATE] - reached[:, _EARLY]) * DAYS_PER_YEAR
            widths[one.row] = np.maximum(widths[one.row], width)
    return widths

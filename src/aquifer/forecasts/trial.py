"""The season under another tolerance or practice, before anybody sets it: computed and shown, never stored."""

import datetime

import numpy as np
from django.db.models import F, QuerySet
from django.db.models.functions import Mod

from aquifer.company.models import Company
from aquifer.core import policy
from aquifer.core.arrays import FloatArray
from aquifer.core.forecast import PROBABILITIES, ComponentForecast, Context, dates, forecast
from aquifer.core.parameters import DAYS_PER_YEAR
from aquifer.core.planning.season import WEEKS_PER_YEAR, expected_over
from aquifer.core.vocabulary import Component, Practice
from aquifer.forecasts import calibrations
from aquifer.forecasts.inputs import FleetInputs, load
from aquifer.forecasts.models import DUE_ON
from aquifer.forecasts.outlook import by_week
from aquifer.forecasts.schemas import TrialFiguresOut, TrialOut, WeekOut
from aquifer.heaters.models import Heater
from aquifer.visits.hours import in_force

MOST_HEATERS = 4000
"""A larger base is answered for by every so many of its heaters: what a person waits for. Assumption."""
WEEKS = 52


def read(tolerance: float, practice: Practice, today: datetime.date, until: datetime.date) -> TrialOut:
    """Work and risk of the coming twelve months as they are set, and as they would be.

    Sites, waters and heaters that follow a practice of their own keep to it.
    """
    total, chosen = some()
    company = Company.current()
    asked, now = _figures(chosen, company, total, today, until)
    company.tolerance, company.practice = tolerance, practice
    _, tried = _figures(chosen, company, total, today, until)
    return {"heaters": total, "asked_of": asked, "now": now, "tried": tried}


def some() -> tuple[int, "QuerySet[Heater]"]:
    """How many heaters are in service, and those that answer for them."""
    total, chosen = Heater.objects.in_service().count(), Heater.objects.in_service()
    step = -(-total // MOST_HEATERS) or 1
    return total, chosen.annotate(place=Mod(F("pk"), step)).filter(place=0) if step > 1 else chosen


def _figures(
    chosen: QuerySet[Heater], company: Company, total: int, today: datetime.date, until: datetime.date
) -> tuple[int, TrialFiguresOut]:
    calibration, people = calibrations.in_force()
    inputs = load(today, chosen, people, company)
    every = inputs.eased(forecast(inputs.fleet, Context(calibration=calibration)).components)
    forecasts = [one for one in every if one.component in DUE_ON]
    weight = total / max(inputs.heater_ids.size, 1)
    services = hours = over = 0.0
    took = in_force()
    weeks: list[WeekOut] = []
    for one in forecasts:
        times = times_in_a_year(inputs, one)
        services += weight * float(times.sum())
        hours += weight * float(times.sum()) * took.of(one.component)
        if one.component in _BY_TOLERANCE:
            over += weight * float(years_over(one).sum())
        weeks += by_week(one.component, dates(inputs.as_of, one.due_years), today, until, took, weight)
    return int(inputs.heater_ids.size), {
        "services": round(services),
        "hours": round(hours),
        "over_days": round(over * DAYS_PER_YEAR),
        "weeks": sorted(weeks, key=lambda week: week["week"]),
    }


def times_in_a_year(inputs: FleetInputs, forecast: ComponentForecast) -> FloatArray:
    """How often each is served within a year: once if it falls due, and by a calendar again as often as that says."""
    first = np.maximum(forecast.due_years, 0.0)
    heaters = inputs.fleet.heaters
    every = policy.calendar_years(heaters.practice[forecast.row], heaters.hardness_mg_l[forecast.row])
    again = np.where(np.isnan(every) | (forecast.component not in _BY_CALENDAR), np.inf, every)
    return np.where(first < 1, 1 + np.floor(np.maximum(1 - first - 1e-9, 0) / again), 0.0)


_BY_CALENDAR = (Component.SEDIMENT, Component.SCALE)
_BY_TOLERANCE = (*_BY_CALENDAR, Component.ANODE)


def years_over(forecast: ComponentForecast) -> FloatArray:
    """Expected years over the limit within the coming one, each served when it falls due."""
    until = expected_over(np.maximum(forecast.reached_years, 0.0), PROBABILITIES, forecast.probability_today, WEEKS)
    week = np.clip(np.rint(np.maximum(forecast.due_years, 0.0) * WEEKS_PER_YEAR), 0, WEEKS).astype(np.int64)
    rest = (WEEKS - week) / WEEKS_PER_YEAR
    return np.asarray(until[np.arange(week.size), week] + forecast.over_after_service * rest)

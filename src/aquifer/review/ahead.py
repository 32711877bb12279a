"""The years ahead of the company's own base, under its practice and under another beside it."""

import datetime
from dataclasses import dataclass

import numpy as np
from django.db.models import F
from django.db.models.functions import Mod

from aquifer.company.models import Company
from aquifer.core import years_ahead
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.forecast import Context, forecast
from aquifer.core.vocabulary import Practice
from aquifer.forecasts import calibrations
from aquifer.forecasts.inputs import load
from aquifer.heaters.models import Heater
from aquifer.review.schemas import AheadOut, AheadSideOut, FanOut
from aquifer.rounds import crew

MOST_HEATERS = 1500
"""A larger base is answered for by every so many of its sites: what a person waits for. Assumption."""
FUTURES = 200
TRAVEL_HOURS = 0.35
"""By the way of one visit. Assumption: what the demo's rounds come to."""


@dataclass(frozen=True)
class Side:
    """A practice, and what the base asks for under it."""

    practice: Practice
    ahead: years_ahead.Ahead


def read(years: int, practice: Practice, today: datetime.date) -> AheadOut:
    """What the base asks for, year by year, as it is set and under another practice with the same luck.

    Sites, waters and heaters that follow a practice of their own keep to it.
    """
    total = Heater.objects.in_service().count()
    step = -(-total // MOST_HEATERS) or 1
    some = Heater.objects.in_service()
    # Whole sites: heaters at one share their visits.
    some = some.annotate(place=Mod(F("site_id"), step)).filter(place=0) if step > 1 else some
    company = Company.current()
    calibration, people = calibrations.in_force()
    sides, asked_of = [], 0
    for tried in (Practice(company.practice), practice):
        company.practice = tried
        inputs = load(today, some, people, company)
        asked_of = int(inputs.heater_ids.size)
        found = forecast(inputs.fleet, Context(calibration=calibration))
        luck = years_ahead.drawn(found, FUTURES, seed=1)
        site = _sites(inputs.heater_ids)
        sides.append(Side(tried, years_ahead.ahead(inputs.fleet, found, site, TRAVEL_HOURS, years, luck, calibration)))
    weight = total / max(asked_of, 1)
    now, other = (side.ahead.hours for side in sides)
    return {
        "heaters": total,
        "asked_of": asked_of,
        "until": [_in_years(today, year + 1) for year in range(years)],
        "crew_hours": _crew_hours(today),
        "sides": [_told(side, weight) for side in sides],
        "fewer_share": years_ahead.better(other, now),
        "hours_more": _fan(weight * (other - now)),
    }


def _sites(heater_ids: IntArray) -> IntArray:
    """A number for the site of each heater."""
    of = dict(Heater.objects.filter(pk__in=heater_ids.tolist()).values_list("pk", "site_id"))
    return np.unique(np.array([of[int(one)] for one in heater_ids], dtype=np.int64), return_inverse=True)[1].reshape(-1)


def _told(side: Side, weight: float) -> AheadSideOut:
    return {
        "practice": side.practice,
        "hours": _fan(weight * side.ahead.hours),
        "counts": [{"name": name, "by_year": _fan(weight * side.ahead.counts[name])} for name in years_ahead.COUNTED],
    }


def _fan(values: FloatArray) -> list[FanOut]:
    low, middle, high = years_ahead.fan(values)
    return [
        {"low": round(float(a)), "middle": round(float(b)), "high": round(float(c))}
        for a, b, c in zip(low, middle, high, strict=True)
    ]


def _crew_hours(today: datetime.date) -> float:
    """That the crew can plan in the coming 52 weeks; the years after are taken to be like it."""
    monday = today - datetime.timedelta(days=today.weekday())
    return round(float(crew.hours_by_week(crew.members(), monday, 52, today).sum()))


def _in_years(today: datetime.date, years: int) -> datetime.date:
    return today.replace(year=today.year + years, day=min(today.day, 28))

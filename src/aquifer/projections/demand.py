"""Calls and work by the month: what came, carried on by its own season and trend, beside what the base is reckoned to
ask for; and which of the coming months the crew is short of hours for."""

import datetime
from collections.abc import Iterator
from enum import StrEnum

import numpy as np
from django.db.models import Count, QuerySet, Sum
from django.db.models.functions import TruncMonth
from typing_extensions import TypedDict

from aquifer.core.demand import MONTHS, Demand, Fan, carried_on, short_of
from aquifer.core.vocabulary import EndCause, Task
from aquifer.heaters.models import Heater
from aquifer.projections.amounts import TRAVEL_HOURS, call_hours
from aquifer.projections.models import MonthsAhead, Projection, ProjectionState
from aquifer.projections.turnover import UNPLANNED
from aquifer.rounds import crew
from aquifer.rounds.models import Appointment, AppointmentStatus, Reason
from aquifer.visits.hours import in_force
from aquifer.visits.models import Finding, Visit

LOOKED_BACK = 72
"""Months. Assumption: what was longer ago says little of what comes."""
WARNED_MONTHS = 4
"""This month and a quarter ahead of it: in which somebody can still be found, or visits moved."""
MAY_BE, LIKELY, SURE = 0.1, 0.5, 0.95
"""The chance from which a month may be, is likely and is sure to be short of hours. Assumption."""


class FanOut(TypedDict):
    low: int
    middle: int
    high: int


class KindFound(TypedDict):
    """One kind of call or work, as it was carried on."""

    kind: str
    counts: list[int]
    first: str
    """Month of the first count."""
    months: list[FanOut]
    quarter: FanOut
    year: FanOut
    has_season: bool
    has_trend: bool


class Found(TypedDict):
    first: str
    """The first month ahead: the one that is not over."""
    kinds: list[KindFound]


def reckon(today: datetime.date) -> Found:
    """Carry every kind on from the last month that is over."""
    first = today.replace(day=1)
    kinds = []
    for kind, counted in _counted(first):
        demand = carried_on(np.array(list(counted.values()), dtype=np.int64))
        kinds.append(_found(kind, counted, demand))
    return {"first": first.isoformat(), "kinds": kinds}


def _found(kind: str, counted: dict[datetime.date, int], demand: Demand) -> KindFound:
    return {
        "kind": kind,
        "counts": list(counted.values()),
        "first": next(iter(counted)).isoformat(),
        "months": [_fan(month) for month in demand.months],
        "quarter": _fan(demand.quarter),
        "year": _fan(demand.year),
        "has_season": demand.has_season,
        "has_trend": demand.has_trend,
    }


def _fan(fan: Fan) -> FanOut:
    return {"low": fan.low, "middle": fan.middle, "high": fan.high}


def later(month: datetime.date, months: int) -> datetime.date:
    """The first day of the month so many later."""
    year, number = divmod(month.year * 12 + month.month - 1 + months, 12)
    return datetime.date(year, number + 1, 1)


def _counted(first: datetime.date) -> Iterator[tuple[str, dict[datetime.date, int]]]:
    """Each kind with its count by month, from the month after its first until the last that is over: the record of the
    very first may have begun within it. A kind that never came is left out."""
    since = later(first, -LOOKED_BACK)
    for kind, by_month in _kinds(since, later(first, 0) - datetime.timedelta(days=1)):
        if not by_month:
            continue
        month, counted = later(min(by_month), 1), {}
        while month < first:
            counted[month] = by_month.get(month, 0)
            month = later(month, 1)
        if counted:
            yield kind, counted


def _kinds(first: datetime.date, last: datetime.date) -> Iterator[tuple[str, dict[datetime.date, int]]]:
    there = {"on__gte": first, "on__lte": last}
    came = Appointment.objects.filter(**there).exclude(standing=AppointmentStatus.CALLED_OFF)
    yield "calls", _by_month(came.filter(reason__in=UNPLANNED), "on")
    yield "emergencies", _by_month(came.filter(reason=Reason.EMERGENCY), "on")
    yield "complaints", _by_month(came.filter(reason=Reason.COMPLAINT), "on")
    yield "call_backs", _by_month(came.filter(reason__in=(Reason.CALL_BACK, Reason.WARRANTY)), "on")
    yield "new_work", _by_month(came.filter(reason__in=(Reason.INSTALLATION, Reason.ESTIMATE)), "on")
    days = Visit.objects.filter(**there).order_by().values("heater__site_id", "on").distinct()
    visits: dict[datetime.date, int] = {}
    for day in days.values_list("on", flat=True):
        visits[day.replace(day=1)] = visits.get(day.replace(day=1), 0) + 1
    yield "visits", visits
    done = Finding.objects.filter(**there, correction__isnull=True)
    yield "flushes", _by_month(done.filter(task=Task.FLUSH), "on")
    yield "descales", _by_month(done.filter(task=Task.DESCALE), "on")
    yield "relief_valves", _by_month(done.filter(task=Task.RELIEF_VALVE_REPLACEMENT), "on")
    gone = Heater.objects.filter(ended_on__gte=first, ended_on__lte=last)
    replaced = gone.filter(end_cause__in=(EndCause.LEAKED, EndCause.REPLACED_BEFORE))
    yield "replacements", _by_month(replaced, "ended_on")


def _by_month(
    rows: "QuerySet[Appointment] | QuerySet[Finding] | QuerySet[Heater]", day: str
) -> dict[datetime.date, int]:
    months = rows.order_by().values_list(TruncMonth(day)).annotate(n=Count("pk"))
    return dict(months)


class BaseOut(TypedDict):
    """What the base is reckoned to ask for in its first year, from its heaters alone."""

    low: float
    middle: float
    high: float


def agree(year: FanOut, base: BaseOut) -> bool:
    """Whether what the record and what the heaters expect of a year have anything in common."""
    return base["low"] <= year["high"] and base["high"] >= year["low"]


def by_the_base() -> dict[str, BaseOut]:
    """Of the newest projection of the base as it is, by the names of kinds; empty where there is none."""
    newest = Projection.objects.filter(state=ProjectionState.READY, decisions=[]).first()
    if newest is None or newest.found is None:
        return {}
    return {
        name: {"low": low[0], "middle": middle[0], "high": high[0]}
        for name, (low, middle, high) in newest.found["series"].items()
    }


class Shortness(StrEnum):
    """What the hours of a month come to."""

    NOBODY = "nobody"
    FITS = "fits"
    MAY_BE = "may_be"
    LIKELY = "likely"
    SURE = "sure"


class MonthHours(TypedDict):
    month: datetime.date
    crew: float
    planned: float
    calls: FanOut
    call_hours: float
    short: float
    """The chance that more hours are asked for than there are."""
    so: "Shortness"


def hours(found: Found, today: datetime.date) -> list[MonthHours]:
    """This month's rest and the coming ones: hours of the crew, in the plan, and what calls take besides."""
    calls = next((kind for kind in found["kinds"] if kind["kind"] == "calls"), None)
    ahead = (today.year - int(found["first"][:4])) * 12 + today.month - int(found["first"][5:7])
    who, a_call = crew.members(), call_hours(in_force())
    told = []
    for number in range(WARNED_MONTHS):
        month = later(today, number)
        first, last = max(month, today), later(month, 1) - datetime.timedelta(days=1)
        # Of a month that has begun its rest comes.
        share = ((last - first).days + 1) / last.day
        fan = calls["months"][ahead + number] if calls and ahead + number < MONTHS else None
        expected = Fan(*(round(share * fan[end]) for end in ("low", "middle", "high"))) if fan else Fan(0, 0, 0)
        there = sum(working.hours for working in crew.working(who, first, last))
        planned = _planned(first, last)
        short = short_of(there, planned, expected, a_call)
        told.append(
            MonthHours(
                month=month,
                crew=round(there, 1),
                planned=round(planned, 1),
                calls=_fan(expected),
                call_hours=round(a_call, 2),
                short=round(short, 3),
                so=_shortness(there, short),
            )
        )
    return told


def _shortness(crew_hours: float, short: float) -> Shortness:
    if crew_hours <= 0:
        return Shortness.NOBODY
    reached = [so for so, least in zip((Shortness.MAY_BE, Shortness.LIKELY, Shortness.SURE), (MAY_BE, LIKELY, SURE),
                                       strict=True) if short >= least]  # fmt: skip
    return reached[-1] if reached else Shortness.FITS


def _planned(first: datetime.date, last: datetime.date) -> float:
    """Hours that stand in the plan for these days, on a day or in a week that begins among them, with the ways."""
    plan = Appointment.objects.exclude(standing__in=(AppointmentStatus.CALLED_OFF, AppointmentStatus.DONE))
    dated = plan.filter(on__gte=first, on__lte=last)
    undated = plan.filter(on__isnull=True, week__gte=first, week__lte=last)
    found = [one.aggregate(n=Count("pk"), minutes=Sum("minutes")) for one in (dated, undated)]
    return float(sum((one["minutes"] or 0) / 60 + one["n"] * TRAVEL_HOURS for one in found))


class HeldMonths(TypedDict):
    inside: int
    of: int


def held(today: datetime.date) -> HeldMonths:
    """How many of the months that were told and are over lay in their windows, of every kind."""
    counted = dict(_counted(today.replace(day=1)))
    inside = of = 0
    for kept in MonthsAhead.objects.filter(reckoned_on__gte=later(today, -LOOKED_BACK)):
        first = datetime.date.fromisoformat(kept.found["first"])
        for kind in kept.found["kinds"]:
            for number, fan in enumerate(kind["months"]):
                came = counted.get(kind["kind"], {}).get(later(first, number))
                if came is not None:
                    inside += fan["low"] <= came <= fan["high"]
                    of += 1
    return {"inside": inside, "of": of}

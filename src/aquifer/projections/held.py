"""What came of projections: each full year that has passed since, against the window that was told of it."""

import datetime

from django.db.models import Count

from aquifer.core.vocabulary import Component, EndCause, Task
from aquifer.heaters.models import Heater
from aquifer.projections.living import in_years
from aquifer.projections.models import Projection, ProjectionState
from aquifer.projections.schemas import HeldOut, HeldYearOut, SeasonPlannedOut
from aquifer.projections.turnover import UNPLANNED, ended
from aquifer.rounds.models import Appointment, AppointmentStatus, Run, RunKind, RunState, Service
from aquifer.visits.models import Finding, Visit

_TASKS = {
    "flushes": Task.FLUSH,
    "descales": Task.DESCALE,
    "rods": Task.ANODE_REPLACEMENT,
    "relief_valves": Task.RELIEF_VALVE_REPLACEMENT,
}


def read(today: datetime.date) -> HeldOut:
    """All that were told of the base as it is, the newest first; what was only tried never came."""
    rows: list[HeldYearOut] = []
    for projection in Projection.objects.filter(state=ProjectionState.READY, decisions=[]):
        for year in range(projection.years):
            last = in_years(projection.asked_on, year + 1)
            if last <= today:
                rows += _year(projection, year, in_years(projection.asked_on, year), last)
    return {"rows": rows, "inside": sum(row["low"] <= row["came"] <= row["high"] for row in rows)}


ABOUT = datetime.timedelta(weeks=5)
"""Within which a season's first week is of the same time as a projection. Assumption."""
YEAR_WEEKS = 52


def season_planned(asked_on: datetime.date) -> SeasonPlannedOut | None:
    """What the newest season of a year holds that was planned from about a day on; None where none was."""
    about = {"first_week__gte": asked_on - ABOUT, "first_week__lte": asked_on + ABOUT, "weeks__gte": YEAR_WEEKS}
    run = Run.objects.filter(kind=RunKind.SEASON, state=RunState.READY, **about).order_by("pk").last()
    if run is None:
        return None
    until = run.first_week + datetime.timedelta(weeks=YEAR_WEEKS)
    of_it = Appointment.objects.filter(run=run, week__lt=until).exclude(standing=AppointmentStatus.CALLED_OFF)
    if not (visits := of_it.order_by().values("site_id", "week").distinct().count()):
        return None
    services = Service.objects.filter(appointment__in=of_it).order_by().values_list("component")
    of = dict(services.annotate(n=Count("pk")))
    return {
        "first_week": run.first_week,
        "visits": visits,
        "flushes": of.get(Component.SEDIMENT, 0),
        "descales": of.get(Component.SCALE, 0),
    }


def _year(projection: Projection, year: int, first: datetime.date, last: datetime.date) -> list[HeldYearOut]:
    assert projection.found is not None
    came = happened(first + datetime.timedelta(days=1), last)
    series = projection.found["series"]
    return [
        {
            "asked_on": projection.asked_on, "until": last, "name": name, "came": number,
            "low": series[name][0][year], "middle": series[name][1][year], "high": series[name][2][year],
        }
        for name, number in came.items()
    ]  # fmt: skip


def happened(first: datetime.date, last: datetime.date) -> dict[str, int]:
    """What the record has of these days, both included, by the names under which it was foretold."""
    there = {"on__gte": first, "on__lte": last}
    done = dict(
        Finding.objects.filter(**there, correction__isnull=True).order_by().values_list("task").annotate(n=Count("pk"))
    )
    visits = Visit.objects.filter(**there).order_by().values("heater__site_id", "on").distinct().count()
    calls = Appointment.objects.filter(**there, reason__in=UNPLANNED).exclude(standing=AppointmentStatus.CALLED_OFF)
    gone = Heater.objects.filter(ended(first, last))
    return {
        "visits": visits,
        **{name: done.get(task, 0) for name, task in _TASKS.items()},
        "leaks": gone.filter(end_cause=EndCause.LEAKED).count(),
        "replacements": gone.filter(end_cause__in=(EndCause.LEAKED, EndCause.REPLACED_BEFORE)).count(),
        "calls": calls.count(),
    }

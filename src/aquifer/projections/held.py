"""What came of projections: each full year that has passed since, against the window that was told of it."""

import datetime

from django.db.models import Count

from aquifer.core.vocabulary import EndCause, Task
from aquifer.heaters.models import Heater
from aquifer.projections.living import in_years
from aquifer.projections.models import Projection, ProjectionState
from aquifer.projections.schemas import HeldOut, HeldYearOut
from aquifer.projections.turnover import UNPLANNED, ended
from aquifer.rounds.models import Appointment, AppointmentStatus
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

"""What the work was, year by year: visits, what was done at them, parts fitted, calls that nobody had planned."""

import datetime
from collections import defaultdict

from django.db.models import Count, Q
from django.db.models.functions import ExtractYear

from aquifer.core.vocabulary import Task
from aquifer.heaters.models import Part
from aquifer.open_ends.models import OpenEnd
from aquifer.review.schemas import WorkYearOut
from aquifer.rounds.models import Appointment, Reason
from aquifer.visits.models import Finding, Visit

YEARS = 6
_DONE = {
    "flushes": Q(task=Task.FLUSH),
    "descales": Q(task=Task.DESCALE),
    "rods": Q(task=Task.ANODE_REPLACEMENT),
    "relief_valves": Q(task=Task.RELIEF_VALVE_REPLACEMENT),
    "expansion_tanks": Q(task=Task.EXPANSION_TANK_REPLACEMENT),
}
_TOLD_BY_TASK = ("anode", "relief_valve", "expansion_tank")


def by_year(today: datetime.date) -> list[WorkYearOut]:
    """Each of the last years with its counts, this one so far. What was put right later counts once."""
    first = today.year - YEARS + 1
    found: dict[int, dict[str, int]] = defaultdict(lambda: defaultdict(int))
    visits = Visit.objects.filter(on__year__gte=first).annotate(year=ExtractYear("on")).order_by()
    for year, n, heaters in visits.values_list("year").annotate(n=Count("pk"), heaters=Count("heater", distinct=True)):
        found[year] |= {"visits": n, "heaters": heaters}
    done = Finding.objects.filter(on__year__gte=first, correction__isnull=True).annotate(year=ExtractYear("on"))
    for name, which in _DONE.items():
        for year, n in done.filter(which).order_by().values_list("year").annotate(n=Count("pk")):
            found[year][name] = n
    parts = Part.objects.filter(fitted_on__year__gte=first).exclude(kind__in=_TOLD_BY_TASK)
    for year, n in parts.annotate(year=ExtractYear("fitted_on")).order_by().values_list("year").annotate(n=Count("pk")):
        found[year]["other_parts"] = n
    calls = Appointment.objects.filter(on__year__gte=first, reason=Reason.EMERGENCY)
    for year, n in calls.annotate(year=ExtractYear("on")).order_by().values_list("year").annotate(n=Count("pk")):
        found[year]["emergencies"] = n
    raised = OpenEnd.objects.filter(raised_on__year__gte=first).annotate(year=ExtractYear("raised_on")).order_by()
    for year, n in raised.values_list("year").annotate(n=Count("pk")):
        found[year]["open_issues"] = n
    return [
        {
            "year": year,
            "so_far": year == today.year,
            "visits": found[year]["visits"],
            "heaters": found[year]["heaters"],
            "flushes": found[year]["flushes"],
            "descales": found[year]["descales"],
            "rods": found[year]["rods"],
            "relief_valves": found[year]["relief_valves"],
            "expansion_tanks": found[year]["expansion_tanks"],
            "other_parts": found[year]["other_parts"],
            "emergencies": found[year]["emergencies"],
            "open_issues": found[year]["open_issues"],
        }
        for year in range(first, today.year + 1)
    ]

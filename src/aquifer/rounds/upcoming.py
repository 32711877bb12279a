"""When somebody comes next, and came last: what a caller asks first."""

import datetime
from collections import defaultdict
from collections.abc import Collection

from django.db.models import F, Q

from aquifer.company.clock import week_of
from aquifer.core.planning.preparing import preparation
from aquifer.rounds import board, read
from aquifer.rounds.models import Appointment, AppointmentStatus, Reason
from aquifer.rounds.schemas import NextVisitOut, SiteVisitOut


def of_sites(site_ids: Collection[int], today: datetime.date) -> dict[int, list[SiteVisitOut]]:
    """Every open visit of these sites from today on, as ``SiteVisitOut``, the next first; what is promised comes
    before what is only planned for the same week."""
    ahead = Q(on__gte=today) | Q(on__isnull=True, week__gte=week_of(today))
    appointments = Appointment.objects.filter(ahead, site__in=site_ids, standing__in=board.OPEN)
    by = ("week", F("on").asc(nulls_last=True), "begins", "pk")
    rows = list(appointments.select_related("site__zone", "site__customer").order_by(*by))
    told = read.appointments(rows)
    of: dict[int, list[SiteVisitOut]] = defaultdict(list)
    for appointment in rows:
        services = [(s["kind"], s["component"]) for s in told[appointment.pk]["services"]]
        of[appointment.site_id].append(
            {**told[appointment.pk], "prepare": preparation(services, appointment.minutes / 60)}
        )
    return of


def next_of_sites(site_ids: Collection[int], today: datetime.date) -> dict[int, NextVisitOut]:
    """The next visit of each of these sites, short; one query."""
    ahead = Q(on__gte=today) | Q(on__isnull=True, week__gte=week_of(today))
    appointments = Appointment.objects.filter(ahead, site__in=site_ids, standing__in=board.OPEN)
    rows = appointments.select_related("member__user").order_by("week", F("on").asc(nulls_last=True), "begins", "pk")
    first: dict[int, NextVisitOut] = {}
    for appointment in rows:
        next_visit: NextVisitOut = {
            "id": appointment.pk,
            "week": appointment.week,
            "on": appointment.on,
            "begins": appointment.begins,
            "earliest": appointment.earliest,
            "latest": appointment.latest,
            "standing": AppointmentStatus(appointment.standing),
            "reason": Reason(appointment.reason),
            "technician": appointment.member.user.name if appointment.member else "",
        }
        first.setdefault(appointment.site_id, next_visit)
    return first

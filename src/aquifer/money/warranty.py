"""What the company stands for: parts that it fitted and work that it did, for as long as it says.

Only what was fitted at a visit that one of its own people recorded: an imported history may be another company's. A rod
is not among it: that it is eaten is what it is there for.
"""

import calendar
import datetime
from collections.abc import Iterable

from django.db.models import Exists, OuterRef, QuerySet

from aquifer.core.follow_up import FollowUp
from aquifer.core.vocabulary import Task
from aquifer.heaters.models import Part, PartKind
from aquifer.money.models import MoneySettings
from aquifer.rounds.models import Appointment, AppointmentStatus, Reason
from aquifer.visits.models import Visit

PART_OF = {FollowUp.RELIEF_VALVE: PartKind.RELIEF_VALVE, FollowUp.EXPANSION_TANK: PartKind.EXPANSION_TANK}
"""The part that a follow-up renews."""
PART_OF_TASK = {
    Task.RELIEF_VALVE_REPLACEMENT: PartKind.RELIEF_VALVE,
    Task.EXPANSION_TANK_REPLACEMENT: PartKind.EXPANSION_TANK,
}
OF_A_CALL = (Reason.CALL_BACK, Reason.WARRANTY)
"""Reasons for coming on which our own work may be at fault."""


def last_day(fitted_on: datetime.date, months: int) -> datetime.date:
    """The last day of so many calendar months; the end of a month where its day does not exist there."""
    year, month = divmod(fitted_on.year * 12 + fitted_on.month - 1 + months, 12)
    return datetime.date(year, month + 1, min(fitted_on.day, calendar.monthrange(year, month + 1)[1]))


def until(parts: Iterable[Part]) -> dict[int, datetime.date]:
    """The last day on which each part is ours to stand for, by its id; none for one that is not. Two queries."""
    months = MoneySettings.current().part_warranty_months
    of_ours = _by_us(Part.objects.filter(pk__in=[part.pk for part in parts])) if months else Part.objects.none()
    return {
        part.pk: last_day(part.fitted_on, months)
        for part in of_ours
        if part.fitted_on is not None and part.kind != PartKind.ANODE
    }


class StandsFor:
    """Until when parts that were in these heaters are under our warranty; three queries for however many."""

    def __init__(self, heaters: Iterable[int]) -> None:
        kinds = set(PART_OF.values())
        fitted = Part.objects.filter(heater__in=set(heaters), kind__in=kinds, fitted_on__isnull=False)
        self._parts: dict[tuple[int, str], list[Part]] = {}
        for part in (parts := list(fitted.order_by("-fitted_on", "-pk"))):
            self._parts.setdefault((part.heater_id, part.kind), []).append(part)
        self._ends = until(parts)

    def part(self, heater_id: int, kind: PartKind, on: datetime.date) -> datetime.date | None:
        """The last day of the part of a kind that was in a heater before that day; None if it is over, or not ours."""
        for part in self._parts.get((heater_id, kind), ()):
            if part.fitted_on is not None and part.fitted_on < on and not (part.removed_on and part.removed_on < on):
                ends = self._ends.get(part.pk)
                return ends if ends is not None and ends >= on else None
        return None


def _by_us(parts: "QuerySet[Part]") -> "QuerySet[Part]":
    ours = Visit.objects.filter(heater=OuterRef("heater"), on=OuterRef("fitted_on"), recorded_by__isnull=False)
    return parts.filter(Exists(ours))


class CalledBack:
    """Sites where somebody came on a day because of our own work; three queries for however many.

    Such a visit is free where its reason says warranty, or where it is a call-back and one of ours was there in the
    days before that the company stands for its work.
    """

    def __init__(self, sites: Iterable[int], first: datetime.date, last: datetime.date) -> None:
        days = MoneySettings.current().work_warranty_days
        calls = Appointment.objects.filter(site__in=set(sites), on__gte=first, on__lte=last, reason__in=OF_A_CALL)
        asked = list(
            calls.exclude(standing=AppointmentStatus.CALLED_OFF).order_by().values_list("site", "on", "reason")
        )
        since = first - datetime.timedelta(days=days)
        came = set(
            Visit.objects.filter(
                heater__site__in={site for site, _, _ in asked}, on__gte=since, on__lte=last, recorded_by__isnull=False
            ).values_list("heater__site", "on")
        )
        self._free = {
            (site, on)
            for site, on, reason in asked
            if on is not None
            and (
                reason == Reason.WARRANTY
                or any((site, on - datetime.timedelta(days=before)) in came for before in range(1, days + 1))
            )
        }

    def is_free(self, site_id: int, on: datetime.date) -> bool:
        """Whether coming there on that day, and what is done, is not charged."""
        return (site_id, on) in self._free

"""The whole base on one time axis: rows by urgency, and the hours wanted week by week."""

import datetime
from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

import numpy as np
from django.db.models import F, QuerySet

from aquifer.company.models import Company, WeekStart
from aquifer.core.arrays import Column
from aquifer.core.kinds import HeaterKind
from aquifer.core.planning.hours import Hours
from aquifer.core.vocabulary import Component, DecidedBy, Method
from aquifer.forecasts.columns import day, read_columns
from aquifer.forecasts.models import DUE_ON, Due, Forecast
from aquifer.forecasts.schemas import OutlookRowOut, WeekOut, WindowOut
from aquifer.forecasts.sign import SignRow, sign
from aquifer.heaters.models import Heater, InstallCertainty
from aquifer.places.hazards import of_sites
from aquifer.visits.hours import in_force


class Order(StrEnum):
    DUE = "due"
    """What is due first."""
    BENEFIT = "benefit"
    """What a visit is worth most."""


@dataclass(frozen=True)
class Filters:
    zone_id: int | None = None
    kind: HeaterKind | None = None
    until: datetime.date | None = None
    words: str = ""


def chosen(filters: Filters) -> "QuerySet[Heater]":
    """The heaters in service that the filters let through."""
    heaters = Heater.objects.in_service().matching(filters.words)
    if filters.zone_id is not None:
        heaters = heaters.filter(site__zone_id=filters.zone_id)
    if filters.kind is not None:
        heaters = heaters.filter(kind=filters.kind)
    if filters.until is not None:
        heaters = heaters.filter(due__first_on__lte=filters.until)
    return heaters


class _Window(NamedTuple):
    """What is read of a forecast, by the names of its columns."""

    component: str
    as_of: datetime.date
    reached_days: list[int | None]
    latest_on: datetime.date | None
    decided_by: str
    method: str
    benefit: float
    probability_today: float


def _window(window: _Window, due_on: datetime.date | None) -> WindowOut:
    return {
        "component": Component(window.component),
        "as_of": window.as_of,
        "reached_days": window.reached_days,
        "due_on": due_on,
        "latest_on": window.latest_on,
        "decided_by": DecidedBy(window.decided_by),
        "method": Method(window.method),
        "benefit": window.benefit,
        "probability_today": window.probability_today,
    }


def rows(filters: Filters, order: Order, offset: int, limit: int) -> tuple[int, list[OutlookRowOut]]:
    """How many heaters there are, and one page of them with their windows; four queries.

    A heater that has never been forecast is not among them: that is a matter of seconds.
    """
    heaters = chosen(filters).filter(due__isnull=False)
    first, worth = F("due__first_on").asc(nulls_last=True), F("due__worth").desc()
    by = [first, worth] if order is Order.DUE else [worth, first]
    page = list(heaters.order_by(*by, "due__heater_id").select_related("site__zone")[offset : offset + limit])
    windows: dict[int, list[WindowOut]] = {}
    standing: dict[int, list[SignRow]] = {}
    own, drawn = _Window._fields, SignRow._fields
    for row in Forecast.objects.current().filter(heater__in=[h.pk for h in page]).values_list(*own, *drawn):
        sign_of = SignRow(*row[len(own) :])
        standing.setdefault(sign_of.heater_id, []).append(sign_of)
        windows.setdefault(sign_of.heater_id, []).append(_window(_Window(*row[: len(own)]), sign_of.due_on))
    order_of = list(Component)
    dangers = of_sites({heater.site for heater in page}, {heater.pk for heater in page})
    # One short row a heater in service: counting those is a tenth of counting the heaters.
    total = heaters.count() if filters != Filters() else Due.objects.count()
    return total, [
        {
            "id": heater.pk,
            "tag": heater.tag,
            "kind": HeaterKind(heater.kind),
            "site": heater.site.name,
            "street": heater.site.street,
            "location": heater.location,
            "zone": heater.site.zone.name,
            "hazard": " ".join(dangers[heater.site_id]),
            "capacity_l": heater.capacity_l,
            "installed_on": heater.installed_on,
            "install_certainty": InstallCertainty(heater.install_certainty),
            "guessed": heater.guessed(),
            "windows": sorted(windows.get(heater.pk, []), key=lambda window: order_of.index(window["component"])),
            **sign(standing.get(heater.pk, [])),
        }
        for heater in page
    ]


def hours_by_week(filters: Filters, today: datetime.date, until: datetime.date) -> list[WeekOut]:
    """Hours of work falling due each week by component; what is overdue counts in the present week. One query."""
    rows = Due.objects.filter(heater__in=chosen(filters)) if filters != Filters() else Due.objects.all()
    found = read_columns(rows, {component: day(name) for component, name in DUE_ON.items()})
    hours = in_force()
    weeks = [
        week for component, days in found.items() for week in by_week(Component(component), days, today, until, hours)
    ]
    return sorted(weeks, key=lambda one: one["week"])


def by_week(
    component: Component, due_on: Column, today: datetime.date, until: datetime.date, hours: Hours, weight: float = 1.0
) -> list[WeekOut]:
    """Services of one component by the week they fall due, (n,) days; each stands for ``weight`` of them."""
    due = np.maximum(due_on[due_on < np.datetime64(until)], np.datetime64(today))
    # NumPy's days count from a Thursday, weekdays from a Monday.
    begins = WeekStart(Company.current().week_start).weekday
    firsts, services = np.unique(due - (due.astype(np.int64) + 3 - begins) % 7, return_counts=True)
    return [
        {
            "week": first,
            "component": component,
            "services": round(weight * count),
            "hours": round(weight * count * hours.of(component), 1),
        }
        for first, count in zip(firsts.tolist(), services.tolist(), strict=True)
    ]

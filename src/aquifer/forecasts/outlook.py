"""The whole base on one time axis: rows by urgency, and the hours wanted week by week."""

import datetime
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from django.db.models import Count, F, Max, Min, Q, QuerySet
from django.db.models.functions import Greatest, TruncWeek

from aquifer.core.policy import USUAL_HOURS
from aquifer.core.vocabulary import Component, HeaterKind
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.register import sign
from aquifer.heaters.models import Heater


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
    found = Heater.objects.in_service().matching(filters.words)
    if filters.zone_id is not None:
        found = found.filter(site__zone_id=filters.zone_id)
    if filters.kind is not None:
        found = found.filter(kind=filters.kind)
    if filters.until is not None:
        due = Forecast.objects.current().of_visits().filter(due_on__lte=filters.until)
        found = found.filter(pk__in=due.values("heater_id"))
    return found


_WINDOW = (
    "heater_id",
    "component",
    "as_of",
    "reached_days",
    "due_on",
    "latest_on",
    "decided_by",
    "method",
    "benefit",
    "probability_today",
    "state_names",
    "state_values",
    "limit_value",
)


def rows(filters: Filters, order: Order, offset: int, limit: int) -> tuple[int, list[dict[str, Any]]]:
    """How many heaters there are, and one page of them with their windows; three queries."""
    found = chosen(filters)
    current = Q(forecasts__superseded_at__isnull=True) & ~Q(forecasts__component=Component.TANK)
    ranked = found.annotate(
        first_due=Min("forecasts__due_on", filter=current), worth=Max("forecasts__benefit", filter=current)
    )
    by = {
        Order.DUE: [F("first_due").asc(nulls_last=True), F("worth").desc(nulls_last=True), "pk"],
        Order.BENEFIT: [F("worth").desc(nulls_last=True), F("first_due").asc(nulls_last=True), "pk"],
    }[order]
    page = list(ranked.order_by(*by).select_related("site__zone")[offset : offset + limit])
    windows: dict[int, list[dict[str, Any]]] = {}
    for one in Forecast.objects.current().filter(heater__in=[h.pk for h in page]).values(*_WINDOW):
        windows.setdefault(one["heater_id"], []).append(one)
    order_of = list(Component)
    return found.count(), [
        {
            "id": heater.pk,
            "tag": heater.tag,
            "kind": heater.kind,
            "site": heater.site.name,
            "street": heater.site.street,
            "location": heater.location,
            "zone": heater.site.zone.name,
            "hazard": heater.site.hazard,
            "capacity_l": heater.capacity_l,
            "installed_on": heater.installed_on,
            "install_certainty": heater.install_certainty,
            "windows": sorted(windows.get(heater.pk, []), key=lambda one: order_of.index(Component(one["component"]))),
            **sign(windows.get(heater.pk, [])),
        }
        for heater in page
    ]


def hours_by_week(filters: Filters, today: datetime.date, until: datetime.date) -> list[dict[str, Any]]:
    """Hours of work falling due each week by component; what is overdue counts in the present week. One query."""
    counted = (
        Forecast.objects.current()
        .of_visits()
        .filter(heater__in=chosen(filters), due_on__lt=until)
        .annotate(week=TruncWeek(Greatest(F("due_on"), today)))
        .values("week", "component")
        .annotate(services=Count("pk"))
        .order_by("week")
    )
    return [
        {
            "week": one["week"],
            "component": one["component"],
            "services": one["services"],
            "hours": round(one["services"] * USUAL_HOURS[Component(one["component"])], 1),
        }
        for one in counted
    ]

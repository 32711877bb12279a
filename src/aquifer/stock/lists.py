"""What to load for a day and to buy for a month, from the visits that are planned."""

import datetime
from collections import defaultdict
from collections.abc import Mapping, Sequence

from django.db.models import Q, QuerySet

from aquifer.company.clock import week_of
from aquifer.core.forecast import PROBABILITIES
from aquifer.core.kinds import HeaterKind
from aquifer.core.place import FeatureKind
from aquifer.core.planning.kit import brought
from aquifer.core.planning.parts import Fitted, Want, loads, reached_by, wants
from aquifer.core.vocabulary import Component
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Part, PartKind
from aquifer.places.models import Feature
from aquifer.rounds.board import OPEN
from aquifer.rounds.models import Loan, Service
from aquifer.stock.models import Held, StockSettings
from aquifer.stock.schemas import StockLineOut, TruckOut

MONTH_DAYS = 30
_KIND = {
    Component.ANODE: PartKind.ANODE,
    Component.RELIEF_VALVE: PartKind.RELIEF_VALVE,
    Component.EXPANSION_TANK: PartKind.EXPANSION_TANK,
}


def of_day(on: datetime.date) -> list[TruckOut]:
    """Each member's load for a day: what to carry, what is on the truck, what to add; seven queries."""
    planned = list(_planned(on, on).filter(appointment__member__isnull=False))
    wanted: dict[int, list[Want]] = defaultdict(list)
    names: dict[int, str] = {}
    for service, own in zip(planned, _wants(planned), strict=True):
        if member := service.appointment.member:
            wanted[member.pk] += own
            names[member.pk] = member.user.name
    brings, borrows = _brings(planned), _borrows(on)
    level = StockSettings.current().service_level
    held = {(one.member_id, one.part): one.quantity for one in Held.objects.filter(member__in=wanted)}
    return [
        {
            "member_id": pk,
            "name": names[pk],
            "brings": brings[pk],
            "borrows": borrows[pk],
            "lines": [
                {
                    "part": load.part,
                    "expected": round(load.expected, 2),
                    "quantity": load.quantity,
                    "held": held.get((pk, load.part), 0.0),
                    "to_add": max(0.0, load.quantity - held.get((pk, load.part), 0.0)),
                }
                for load in loads(own, level)
                if load.quantity > 0 or load.expected >= LEAST_EXPECTED
            ],
        }
        for pk, own in sorted(wanted.items())
    ]


LEAST_EXPECTED = 0.02
"""A part that is needed less often is not told of. Assumption."""


def _brings(planned: list[Service]) -> dict[int, list[str]]:
    """What the places of a day ask for besides, by who goes there, each with its site."""
    where: dict[int, dict[int, set[int]]] = defaultdict(lambda: defaultdict(set))
    names = {}
    for service in planned:
        if service.appointment.member_id is not None:
            where[service.appointment.member_id][service.heater.site_id].add(service.heater_id)
            names[service.heater.site_id] = service.heater.site.name
    seen: dict[int, list[Feature]] = defaultdict(list)
    for feature in Feature.objects.filter(site__in=names, gone=False).order_by("pk"):
        seen[feature.site_id].append(feature)
    found: dict[int, list[str]] = {}
    for member, sites in where.items():
        whither: dict[str, list[str]] = defaultdict(list)
        for site, heaters in sites.items():
            own = [one for one in seen[site] if one.heater_id is None or one.heater_id in heaters]
            for what in brought((FeatureKind(one.kind), one.condition) for one in own):
                whither[what].append(names[site])
        found[member] = [f"{what} ({', '.join(places)})" for what, places in whither.items()]
    return found


def _borrows(on: datetime.date) -> dict[int, list[str]]:
    """Tools that are taken over from another truck for a day, and given to one, by member."""
    found: dict[int, list[str]] = defaultdict(list)
    loans = Loan.objects.filter(first_on__lte=on, last_on__gte=on).select_related("lender__user", "borrower__user")
    for loan in loans.order_by("pk"):
        found[loan.borrower_id].append(f"{loan.tool} from {loan.lender.user.name}")
        found[loan.lender_id].append(f"{loan.tool} goes to {loan.borrower.user.name}")
    return found


def to_buy(today: datetime.date) -> list[StockLineOut]:
    """What the visits of a month will need, against everything that lies on trucks and in the store."""
    planned = list(_planned(today, today + datetime.timedelta(days=MONTH_DAYS)))
    every = [want for own in _wants(planned) for want in own]
    held: dict[str, float] = defaultdict(float)
    for one in Held.objects.all():
        held[one.part] += one.quantity
    return [
        {
            "part": load.part,
            "expected": round(load.expected, 2),
            "quantity": load.quantity,
            "held": held[load.part],
            "to_add": max(0.0, load.quantity - held[load.part]),
        }
        for load in loads(every, StockSettings.current().service_level)
        if load.quantity > 0
    ]


def _planned(first: datetime.date, last: datetime.date) -> QuerySet[Service]:
    """Services of visits between two days; of those without a day, by their week."""
    when = Q(appointment__on__gte=first, appointment__on__lte=last)
    if last > first:
        when |= Q(appointment__on__isnull=True, appointment__week__gte=week_of(first), appointment__week__lte=last)
    services = Service.objects.filter(when, appointment__standing__in=OPEN)
    return services.select_related("heater__site", "appointment__member__user").order_by("pk")


def _wants(planned: list[Service]) -> list[list[Want]]:
    ids = {service.heater_id for service in planned}
    current = Forecast.objects.current().filter(heater__in=ids)
    forecasts = {(forecast.heater_id, forecast.component): forecast for forecast in current}
    parts = {(p.heater_id, p.kind): p for p in Part.objects.filter(heater__in=ids, removed_on__isnull=True)}
    found = []
    for service in planned:
        component = Component(service.component)
        forecast = forecasts.get((service.heater_id, service.component))
        over = 0.0
        if forecast is not None:
            on = service.appointment.on or service.appointment.week
            days = max((on - forecast.as_of).days, 0)
            over = reached_by(days, forecast.reached_days, PROBABILITIES, forecast.probability_today)
            if component is Component.RELIEF_VALVE:
                # Its window is of the risk that is accepted; whether it has stuck is told beside it.
                over = forecast.probability_today
        part = parts.get((service.heater_id, _KIND[component])) if component in _KIND else None
        found.append(
            wants(
                HeaterKind(service.heater.kind),
                component,
                min(over, 0.999),
                fitted(part, forecast.state if forecast else {}),
            )
        )
    return found


def fitted(part: Part | None, state: Mapping[str, Sequence[float]]) -> Fitted:
    """What is in place, as far as it matters for a spare one. Parameters: state, of its forecast."""
    if part is None:
        return Fitted()
    ratio = state.get("protection_ratio")
    return Fitted(
        alloy=part.alloy, rods=part.count, protection_ratio=ratio[1] if ratio else None,
        rod_length_mm=part.length_mm, valve_kpa=part.set_pressure_kpa, probe_mm=part.probe_length_mm,
        expansion_tank_l=part.volume_l,
    )  # fmt: skip


def count(part: str, member_id: int | None, quantity: float) -> Held:
    """Somebody has counted."""
    return Held.objects.update_or_create(part=part, member_id=member_id, defaults={"quantity": quantity})[0]

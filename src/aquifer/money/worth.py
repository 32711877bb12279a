"""Visits in money: those planned for a day, and those done, line by line for the books."""

import datetime
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal

from aquifer.core import money
from aquifer.core.money import CALL_OUT, Line, line, visit_lines, worth
from aquifer.core.vocabulary import LOOKED_AT, Component, Method, Task
from aquifer.money import prices
from aquifer.money.models import Quote, QuoteState
from aquifer.money.quotes import DOES
from aquifer.money.schemas import DayWorthOut, VisitLineOut, VisitWorthOut, WorthOut
from aquifer.money.warranty import PART_OF_TASK, CalledBack, StandsFor
from aquifer.rounds import read as rounds
from aquifer.rounds.models import CrewMember
from aquifer.visits.models import Finding, Visit

_METHODS = {
    Task.DESCALE: Method.DESCALE,
    Task.ANODE_INSPECTION: Method.INSPECT,
    Task.RELIEF_VALVE_EXERCISE: Method.EXERCISE,
    Task.EXPANSION_TANK_CHECK: Method.CHECK,
}
_PARTS = {
    Task.RELIEF_VALVE_REPLACEMENT: "relief valve",
    Task.ANODE_REPLACEMENT: "anode",
    Task.EXPANSION_TANK_REPLACEMENT: "expansion tank",
}


def of_day(on: datetime.date) -> DayWorthOut:
    """What each planned visit of a day is worth and costs. A round's driving is shared evenly by its visits."""
    day, book = rounds.day(on), prices.read()
    helpers = set(CrewMember.objects.exclude(helper="").values_list("pk", flat=True))
    calls = [(one, call["appointment"]) for one in day["rounds"] for call in one["calls"]]
    contracts = prices.Contracts([a["site_id"] for _, a in calls], on, on)
    called_back = CalledBack([a["site_id"] for _, a in calls], on, on)
    rows: list[VisitWorthOut] = []
    total = money.Worth(money.NOTHING, money.NOTHING, money.NOTHING)
    for one, appointment in calls:
        minutes = appointment["minutes"] + one["driving"] / len(one["calls"])
        people = 2 if one["member_id"] in helpers else 1
        services = [(s["component"], s["method"]) for s in appointment["services"]]
        here, is_warranty = contracts.on(appointment["site_id"], on), called_back.is_free(appointment["site_id"], on)
        lines = visit_lines(services, (), book.book, FREE if is_warranty else here.terms)
        found = worth(lines, Decimal(people * minutes) / 60, book.book)
        rows.append(
            {
                **_told(found),
                "appointment_id": appointment["id"],
                "plan": OUR_WARRANTY if is_warranty else here.plan,
                "is_warranty": is_warranty,
                "lines": _lines(lines, book),
            }
        )
        total = money.Worth(total.charged + found.charged, total.included + found.included, total.cost + found.cost, ())
    return {"on": on, "currency": book.currency, "total": _told(total), "visits": rows}


OUR_WARRANTY = "our warranty"
"""What pays for a line that nobody is charged for, in the place of a plan's name."""
FREE = money.Terms(frozenset(Component), call_out=True)


def _told(found: money.Worth) -> WorthOut:
    return {
        "charged": found.charged,
        "included": found.included,
        "cost": found.cost,
        "left": found.left,
        "unpriced": list(found.unpriced),
    }


def _lines(lines: list[Line], book: prices.PriceBook) -> list[VisitLineOut]:
    return [
        {
            "words": book.words(line.key),
            "amount": line.amount,
            "included": line.included,
            "priced": line.price is not None,
        }
        for line in lines
    ]


@dataclass(frozen=True)
class Entry:
    """One line for the books."""

    on: datetime.date
    customer: str
    site: str
    heater: str
    what: str
    quantity: Decimal
    price: Decimal | None
    amount: Decimal
    included: Decimal
    plan: str
    quote: int | None


COLUMNS = (
    "on", "customer", "site", "heater", "what", "quantity", "price", "amount", "included", "plan", "quote", "currency",
)  # fmt: skip


def books(first: datetime.date, last: datetime.date) -> Iterator[Entry]:
    """What was done between two days: coming once a site and day, services, parts, and quotes that were carried out.

    A part that a quote was written for is in the quote and not beside it. What is under our own warranty is told at its
    price and charged to nobody.
    """
    book = prices.read()
    visits = list(
        Visit.objects.filter(on__gte=first, on__lte=last)
        .select_related("heater__site__customer")
        .order_by("on", "heater__site__code", "heater__tag", "pk")
    )
    findings: dict[int, list[Finding]] = defaultdict(list)
    for finding in Finding.objects.filter(visit__in=visits, correction__isnull=True).order_by("pk"):
        findings[finding.visit_id].append(finding)
    quotes = list(
        Quote.objects.filter(state=QuoteState.DONE, done_on__gte=first, done_on__lte=last)
        .select_related("heater__site__customer")
        .prefetch_related("lines")
        .order_by("done_on", "pk")
    )
    quoted = {(one.heater_id, one.done_on, one.what) for one in quotes}
    contracts = prices.Contracts([one.heater.site_id for one in visits], first, last)
    called_back = CalledBack([one.heater.site_id for one in visits], first, last)
    stands_for = StandsFor(one.heater_id for one in visits)
    come: set[tuple[int, datetime.date]] = set()
    for visit in visits:
        here, heater = contracts.on(visit.heater.site_id, visit.on), visit.heater
        if called_back.is_free(heater.site_id, visit.on):
            here = prices.SiteTerms(FREE, OUR_WARRANTY)
        lines: list[tuple[Line, str]] = []
        if (heater.site_id, visit.on) not in come:
            come.add((heater.site_id, visit.on))
            lines.append((line(book.book, CALL_OUT, Decimal(1), here.terms.call_out), here.plan))
        for finding in findings[visit.pk]:
            task = Task(finding.task)
            if task in _PARTS:
                if not any((heater.pk, visit.on, what) in quoted for what in DOES[task]):
                    part = PART_OF_TASK.get(task)
                    is_ours = part is not None and stands_for.part(heater.pk, part, visit.on) is not None
                    fitted = line(book.book, _PARTS[task], Decimal(1), is_ours, here.terms.parts_off)
                    lines.append((fitted, OUR_WARRANTY if is_ours else here.plan))
            elif service := _service(finding):
                key, is_included = money.service_key(*service), service[0] in here.terms.includes
                lines.append((line(book.book, key, Decimal(1), is_included), here.plan))
        for priced, pays in lines:
            yield Entry(
                visit.on, heater.site.customer.code, heater.site.code, heater.tag, book.words(priced.key),
                priced.quantity, priced.price, priced.amount, priced.included, pays, None,
            )  # fmt: skip
    for quote in quotes:
        heater, done_on = quote.heater, quote.done_on
        assert done_on is not None
        for of in quote.lines.all():
            amount = money.rounded((of.price or money.NOTHING) * of.quantity)
            yield Entry(
                done_on, heater.site.customer.code, heater.site.code, heater.tag, of.words, of.quantity,
                of.price, amount, money.NOTHING, "", quote.pk,
            )  # fmt: skip


def _service(finding: Finding) -> tuple[Component, Method] | None:
    """The service that a finding is of, or nothing that is charged by itself."""
    task = Task(finding.task)
    if task is Task.FLUSH:
        return Component.SEDIMENT, Method(finding.method)
    return (LOOKED_AT[task], _METHODS[task]) if task in _METHODS else None

import csv
import datetime
import io
from decimal import Decimal
from typing import Annotated

from django.db import IntegrityError, transaction
from django.db.models import Count, F, Q, QuerySet, Sum
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Query, Router, Status
from pydantic import Field

from aquifer.accounts.access import Action, allowed, who
from aquifer.accounts.audit import note
from aquifer.accounts.models import Deed
from aquifer.accounts.pace import dear
from aquifer.core.follow_up import FollowUp
from aquifer.core.money import NOTHING, rounded
from aquifer.core.units import worded
from aquifer.core.vocabulary import Component
from aquifer.customers.models import Site
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.formats.csv_table import BOM, cell
from aquifer.heaters.models import Heater
from aquifer.history import versions
from aquifer.money import prices, quotes, replacing, ten_years, ten_years_paper, worth
from aquifer.money.models import STEPS, Contract, ContractPlan, MoneySettings, Price, Quote, QuoteState
from aquifer.money.schemas import (
    ContractIn,
    ContractOut,
    ContractPlanIn,
    ContractPlanOut,
    DayWorthOut,
    Id,
    MoneyOut,
    MoneySettingsIn,
    MoneySettingsOut,
    PriceIn,
    PriceOut,
    QuoteLineOut,
    QuoteLinesIn,
    QuoteOut,
    QuotesOut,
    QuoteStepIn,
    StageOut,
    TenYearsOut,
)
from aquifer.visits.words import units_shown
from aquifer.wire import Day, Payload

router = Router(tags=["money"])
MOST_QUOTES = 300
LONGEST_DAYS = 366


@router.get("/money", response=MoneyOut, auth=allowed(Action.READ))
def money(request: HttpRequest) -> MoneyOut:
    """The price book and the plans that customers can be on."""
    book, plans = list(Price.objects.all()), list(_plans())
    of_prices = versions.versions(Price, [price.pk for price in book])
    of_plans = versions.versions(ContractPlan, [contract_plan.pk for contract_plan in plans])
    return {
        "settings": _settings(MoneySettings.current()),
        "prices": [_price(price, of_prices.get(price.pk, 0)) for price in book],
        "plans": [_plan(contract_plan, of_plans.get(contract_plan.pk, 0)) for contract_plan in plans],
        "missing": prices.missing(),
    }


def _settings(ours: MoneySettings) -> MoneySettingsOut:
    return MoneySettingsOut(
        version=versions.version_of(ours),
        currency=ours.currency,
        hour_cost=ours.hour_cost,
        quotes_last_days=ours.quotes_last_days,
        part_warranty_months=ours.part_warranty_months,
        work_warranty_days=ours.work_warranty_days,
        leak_damage=ours.leak_damage,
    )


def _price(price: Price, version: int) -> PriceOut:
    return PriceOut(id=price.pk, version=version, key=price.key, words=price.words, price=price.price, cost=price.cost)


def _plan(contract_plan: ContractPlan, version: int) -> ContractPlanOut:
    return ContractPlanOut(
        id=contract_plan.pk,
        version=version,
        name=contract_plan.name,
        yearly=contract_plan.yearly,
        includes=[Component(component) for component in contract_plan.includes],
        call_out=contract_plan.call_out,
        parts_off=contract_plan.parts_off,
        sites=getattr(contract_plan, "sites"),  # noqa: B009
    )


def _plans() -> QuerySet[ContractPlan]:
    today = timezone.localdate()
    running = Q(contracts__begins_on__lte=today) & (
        Q(contracts__ends_on__isnull=True) | Q(contracts__ends_on__gte=today)
    )
    return ContractPlan.objects.annotate(sites=Count("contracts", filter=running))


@router.put("/money/settings", response=MoneySettingsOut, auth=allowed(Action.KEEP_PRICES))
def set_settings(request: HttpRequest, payload: MoneySettingsIn) -> MoneySettingsOut:
    """The currency, what an hour costs, how long a quote lasts."""
    said = payload.dict(exclude_none=True)
    version = said.pop("version", None)
    written = versions.write(MoneySettings, {"pk": 1}, version, said)
    replacing.weigh_anew()
    return _settings(written)


@router.put("/money/prices", response=PriceOut, auth=allowed(Action.KEEP_PRICES))
def set_price(request: HttpRequest, payload: PriceIn) -> PriceOut:
    """A line of the price book, new or in the place of the one of its key."""
    said = payload.dict()
    key, version = said.pop("key"), said.pop("version")
    price = versions.write(Price, {"key": key}, version, said)
    replacing.weigh_anew()
    return _price(price, versions.version_of(price))


@router.delete("/money/prices/{price_id}", response={204: None}, auth=allowed(Action.KEEP_PRICES))
def drop_price(request: HttpRequest, price_id: Id) -> Status[None]:
    """Take a line out of the price book; quotes keep what they say."""
    price = Price.objects.filter(pk=price_id).first()
    if price is None:
        raise NotFound("There is no such price.")
    price.delete()
    replacing.weigh_anew()
    return Status(204, None)


@router.put("/money/plans", response=ContractPlanOut, auth=allowed(Action.KEEP_PRICES))
def set_plan(request: HttpRequest, payload: ContractPlanIn) -> ContractPlanOut:
    """A plan, new or in the place of the one of its name; contracts on it follow."""
    said = payload.dict()
    name, version = said.pop("name"), said.pop("version")
    contract_plan = versions.write(ContractPlan, {"name": name}, version, said)
    return _plan(_plans().get(pk=contract_plan.pk), versions.version_of(contract_plan))


@router.get("/sites/{site_id}/contract", response=ContractOut, auth=allowed(Action.READ))
def contract(request: HttpRequest, site_id: Id) -> ContractOut:
    """The contract of a site today."""
    return _contract(_site(site_id), timezone.localdate())


@router.put("/sites/{site_id}/contract", response=ContractOut, auth=allowed(Action.KEEP_PRICES))
def set_contract(request: HttpRequest, site_id: Id, payload: ContractIn) -> ContractOut:
    """Put a site on a plan from a day on, or end its contract with the day before."""
    site = _site(site_id)
    if payload.plan_id is not None and not ContractPlan.objects.filter(pk=payload.plan_id).exists():
        raise NotFound("There is no such plan.", fields={"plan_id": "no such plan"})
    try:
        with transaction.atomic():
            now = Contract.objects.select_for_update().filter(site=site, ends_on__isnull=True).first()
            if now is not None and payload.on <= now.begins_on:
                raise Invalid(
                    f"The contract in force began on {now.begins_on}; a change comes after it.",
                    "contract.before",
                    {"on": f"after {now.begins_on}"},
                )
            if now is not None:
                now.ends_on = payload.on - datetime.timedelta(days=1)
                now.save()
            if payload.plan_id is not None:
                Contract.objects.create(site=site, plan_id=payload.plan_id, begins_on=payload.on)
    except IntegrityError:
        raise Conflict("Somebody changed this contract meanwhile: look again.", "contract.changed") from None
    return _contract(site, max(payload.on, timezone.localdate()))


def _site(site_id: int) -> Site:
    site = Site.objects.filter(pk=site_id).first()
    if site is None:
        raise NotFound("There is no such site.")
    return site


def _contract(site: Site, on: datetime.date) -> ContractOut:
    contract = Contract.objects.running(on).filter(site=site).select_related("plan").last()
    if contract is None:
        return {"plan_id": None, "plan": "", "begins_on": None}
    return {"plan_id": contract.plan_id, "plan": contract.plan.name, "begins_on": contract.begins_on}


@router.get("/money/quotes", response=QuotesOut, auth=allowed(Action.READ))
def read_quotes(request: HttpRequest, state: QuoteState | None = None, heater_id: Id | None = None) -> QuotesOut:
    """Quotes of one state or all, the newest first, with how many there are of each."""
    every = Quote.objects.all() if heater_id is None else Quote.objects.filter(heater_id=heater_id)
    stages: dict[QuoteState, StageOut] = {quote_state: {"quotes": 0, "total": NOTHING} for quote_state in QuoteState}
    summed = Sum(F("lines__price") * F("lines__quantity"), default=NOTHING)
    for row in every.order_by().values("state").annotate(quotes=Count("pk", distinct=True), total=summed):
        stages[QuoteState(row["state"])] = {"quotes": row["quotes"], "total": row["total"]}
    quotes = every if state is None else every.filter(state=state)
    return {
        "currency": MoneySettings.current().currency,
        "stages": stages,
        "quotes": [_quote(quote) for quote in _whole(quotes)[:MOST_QUOTES]],
    }


@router.put("/money/quotes/{quote_id}/lines", response=QuoteOut, auth=allowed(Action.KEEP_PRICES))
def write_quote(request: HttpRequest, quote_id: Id, payload: QuoteLinesIn) -> QuoteOut:
    """Put other lines in the place of a draft's."""
    lines = [quotes.NewLine(**quote_line.dict()) for quote_line in payload.lines]
    return _again(quotes.write(quote_id, payload.version, lines))


@router.post("/money/quotes/{quote_id}/state", response=QuoteOut, auth=allowed(Action.KEEP_PRICES))
def step_quote(request: HttpRequest, quote_id: Id, payload: QuoteStepIn) -> QuoteOut:
    """Take a quote to its next state."""
    return _again(quotes.step(quote_id, payload.version, payload.to, timezone.localdate()))


def _whole(quotes: QuerySet[Quote]) -> QuerySet[Quote]:
    return quotes.select_related("heater__site__customer").prefetch_related("lines")


def _again(quote: Quote) -> QuoteOut:
    return _quote(_whole(Quote.objects.all()).get(pk=quote.pk))


def _quote(quote: Quote) -> QuoteOut:
    site, lines, units = quote.heater.site, list(quote.lines.all()), units_shown()
    return {
        "id": quote.pk,
        "version": quote.version,
        "state": QuoteState(quote.state),
        "what": FollowUp(quote.what),
        "raised_on": quote.raised_on,
        "sent_on": quote.sent_on,
        "answered_on": quote.answered_on,
        "valid_until": quote.valid_until,
        "warranty_until": quote.warranty_until,
        "done_on": quote.done_on,
        "heater_id": quote.heater_id,
        "why": [worded(line, units) for line in quote.why],
        "steps": list(STEPS[QuoteState(quote.state)]),
        "tag": quote.heater.tag,
        "site_id": site.pk,
        "site": site.name,
        "customer": site.customer.name,
        "phone": site.customer.phone,
        "lines": [QuoteLineOut.from_orm(line) for line in lines],
        "total": sum((rounded((of.price or NOTHING) * of.quantity) for of in lines), Decimal(0)),
    }


@router.get("/money/days/{on}", response=DayWorthOut, auth=allowed(Action.READ))
def day(request: HttpRequest, on: Day) -> DayWorthOut:
    """What a day's planned visits are worth and cost."""
    return worth.of_day(on)


@router.get("/money/books.csv", auth=allowed(Action.KEEP_PRICES), throttle=dear("paper"))
def books(request: HttpRequest, first: Day, last: Day) -> HttpResponse:
    """What was done between two days, a line each, as a table for the books."""
    if not 0 <= (last - first).days <= LONGEST_DAYS:
        raise Invalid(
            f"From {first} to {last}; allowed: 1 to {LONGEST_DAYS + 1} days.", fields={"last": "after the first"}
        )
    note(Deed.TOOK_OUT, request, who(request), f"the books, {first} to {last}")
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(worth.COLUMNS)
    currency = MoneySettings.current().currency
    for entry in worth.books(first, last):
        writer.writerow([cell(getattr(entry, name)) for name in worth.COLUMNS[:-1]] + [cell(currency)])
    answer = HttpResponse(BOM + text.getvalue(), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="books {first} to {last}.csv"'
    return answer


class TenYearsIn(Payload):
    """What the owner knows of it."""

    energy_price: Annotated[float | None, Field(ge=0, le=1000)] = None
    damage: Annotated[float | None, Field(ge=0, le=100_000_000)] = None
    energy_kwh: Annotated[float | None, Field(ge=0, le=10_000_000)] = None


@router.get(
    "/heaters/{heater_id}/ten-years", response=TenYearsOut, auth=allowed(Action.READ), throttle=dear("computed")
)
def ten_years_of(request: HttpRequest, heater_id: Id, asked: Query[TenYearsIn]) -> TenYearsOut:
    """Left as it is, serviced each year, renewed now or later: what each is expected to cost over ten years."""
    return _ten_years(_in_service(heater_id), asked)


@router.get("/heaters/{heater_id}/ten-years.pdf", auth=allowed(Action.READ), throttle=dear("paper"))
def ten_years_paper_of(request: HttpRequest, heater_id: Id, asked: Query[TenYearsIn]) -> HttpResponse:
    """The same on a page for its owner."""
    heater = _in_service(heater_id)
    page = ten_years_paper.pdf(heater, _ten_years(heater, asked), timezone.localdate())
    answer = HttpResponse(page, content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="ten-years-{heater.pk}.pdf"'
    return answer


def _in_service(heater_id: int) -> Heater:
    return get_object_or_404(Heater.objects.in_service().select_related("site"), pk=heater_id)


def _ten_years(heater: Heater, asked: TenYearsIn) -> TenYearsOut:
    return ten_years.of_heater(heater, timezone.localdate(), asked.energy_price, asked.damage, asked.energy_kwh)

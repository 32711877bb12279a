"""The price book and the contracts as the core takes them."""

import datetime
from collections.abc import Iterable
from dataclasses import dataclass

from django.db.models import Q

from aquifer.core.follow_up import FollowUp
from aquifer.core.money import CALL_OUT, Book, Terms, entry_of, service_key
from aquifer.core.money import Price as CorePrice
from aquifer.core.vocabulary import Component, Method
from aquifer.forecasts.models import Forecast
from aquifer.money.models import Contract, MoneySettings, Price


@dataclass(frozen=True)
class PriceBook:
    """The company's prices, with the words that customers read."""

    book: Book
    entries: dict[str, str]
    currency: str

    def words(self, key: str) -> str:
        """How a key is called; by itself where the book does not know it."""
        entry = entry_of(self.book, key)
        return self.entries[entry] if entry else key.replace("_", " ").replace("/", ", ").capitalize()


def read() -> PriceBook:
    """The price book in force; two queries."""
    settings, rows = MoneySettings.current(), list(Price.objects.all())
    return PriceBook(
        Book(settings.hour_cost, {price.key: CorePrice(price.price, price.cost) for price in rows}),
        {price.key: price.words for price in rows},
        settings.currency,
    )


def missing() -> list[str]:
    """What visits and findings ask the price book for, and it does not know."""
    book = read().book
    forecasts = Forecast.objects.current().of_visits().order_by().values_list("component", "method").distinct()
    asked = [CALL_OUT, *(service_key(Component(c), Method(m)) for c, m in forecasts), *FollowUp]
    return sorted({str(key) for key in asked if entry_of(book, key) is None})


@dataclass(frozen=True)
class SiteTerms:
    terms: Terms = Terms()
    plan: str = ""


class Contracts:
    """What is included at some sites, by day; one query."""

    def __init__(self, sites: Iterable[int], first: datetime.date, last: datetime.date) -> None:
        self._of: dict[int, list[Contract]] = {}
        contracts = Contract.objects.filter(Q(ends_on__isnull=True) | Q(ends_on__gte=first), begins_on__lte=last)
        for contract in contracts.filter(site__in=set(sites)).select_related("plan"):
            self._of.setdefault(contract.site_id, []).append(contract)

    def on(self, site_id: int, day: datetime.date) -> SiteTerms:
        """What is included at a site on a day."""
        for contract in reversed(self._of.get(site_id, [])):
            if contract.begins_on <= day and (contract.ends_on is None or day <= contract.ends_on):
                includes = frozenset(Component(name) for name in contract.plan.includes)
                return SiteTerms(Terms(includes, contract.plan.call_out, contract.plan.parts_off), contract.plan.name)
        return SiteTerms()

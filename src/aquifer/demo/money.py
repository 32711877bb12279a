"""The invented company's prices and plans; amounts are invented, in no country's currency."""

import datetime
from decimal import Decimal

from aquifer.core.vocabulary import Component
from aquifer.customers.models import Site
from aquifer.money import quotes, replacing
from aquifer.money.models import Contract, ContractPlan, MoneySettings, Price, Quote, QuoteState
from aquifer.visits.models import Visit

PRICES = (
    ("call_out", "Coming to you", "38", "0"),
    ("sediment", "Flush of the tank", "64", "1.20"),
    ("sediment/jetting", "Jetting of the tank", "148", "6"),
    ("sediment/acid_soak", "Acid soak of the tank", "172", "31"),
    ("scale", "Descale of the exchanger", "118", "17.50"),
    ("anode/inspect", "Look at the anode rod", "22", "0.30"),
    ("anode", "Anode rod, fitted", "96", "41"),
    ("anode powered", "Powered anode, fitted", "228", "121"),
    ("relief_valve/exercise", "Exercise of the relief valve", "12", "0"),
    ("relief_valve", "Relief valve, fitted and piped", "132", "37.40"),
    ("relief valve", "Relief valve, fitted", "88", "37.40"),
    ("expansion_tank/check", "Check of the expansion tank", "14", "0"),
    ("expansion_tank", "Expansion tank, fitted and set", "164", "58"),
    ("expansion tank", "Expansion tank, fitted", "146", "58"),
    ("other_anode", "Powered anode in place of the rod", "246", "121"),
    ("drain_valve", "Ball drain valve, fitted", "74", "14.20"),
    ("element", "Lower element, fitted and tested", "112", "23"),
    ("regulator", "Pressure regulator, fitted and set", "238", "92"),
    ("find_leak", "Finding the leak, the first hour", "68", "0"),
    ("licensed_work", "Licensed work, an hour", "82", "0"),
    ("heater", "New water heater, fitted", "1680", "940"),
    ("heater/electric_tank", "New electric tank, fitted", "1340", "720"),
    ("heater/gas_tank", "New gas tank, fitted and tested", "1790", "1010"),
    ("heater/heat_pump_tank", "New heat-pump tank, fitted", "2960", "1890"),
)
"""Key, words, price, cost. No softener: its price is looked up each time."""
PLANS = (
    ("Yearly care", "96", (Component.SEDIMENT, Component.RELIEF_VALVE), True, "0.10"),
    ("Valve and rod", "58", (Component.RELIEF_VALVE, Component.ANODE, Component.EXPANSION_TANK), True, "0"),
    ("Plant room", "310", tuple(Component), True, "0.15"),
)
RECENT_DAYS = 120


def load_prices() -> None:
    """The price book, which says from when on a new tank is advised."""
    MoneySettings.objects.update_or_create(pk=1, defaults={"hour_cost": Decimal("46"), "leak_damage": Decimal("4200")})
    Price.objects.bulk_create(
        Price(key=key, words=words, price=Decimal(price), cost=Decimal(cost)) for key, words, price, cost in PRICES
    )
    replacing.weigh()


def load(today: datetime.date, quoted: bool) -> None:
    """Plans and some contracts; if ``quoted``, the quotes of the last months' visits in several states."""
    plans = [
        ContractPlan.objects.create(
            name=name, yearly=Decimal(yearly), includes=list(includes), call_out=call_out, parts_off=Decimal(off)
        )
        for name, yearly, includes, call_out, off in PLANS
    ]
    for number, site in enumerate(Site.objects.order_by("pk")):
        if number % 3 == 0:
            plan = plans[2] if site.business else plans[number % 2]
            begins = today - datetime.timedelta(days=60 + 7 * (number % 90))
            Contract.objects.create(site=site, plan=plan, begins_on=begins)
    if not quoted:
        return
    recent = Visit.objects.filter(on__gte=today - datetime.timedelta(days=RECENT_DAYS)).order_by("on", "pk")
    for visit in recent[:90]:
        quotes.raise_for(visit.pk)
    _answered(today)


def _answered(today: datetime.date) -> None:
    """What customers have answered so far."""
    ways = (
        (),
        (QuoteState.SENT,),
        (QuoteState.SENT, QuoteState.ACCEPTED),
        (QuoteState.SENT, QuoteState.DECLINED),
        (QuoteState.SENT, QuoteState.ACCEPTED, QuoteState.DONE),
    )
    priced = Quote.objects.exclude(lines__price__isnull=True).order_by("raised_on", "pk")
    for number, quote in enumerate(priced):
        for days, to in enumerate(ways[number % len(ways)], start=1):
            on = min(quote.raised_on + datetime.timedelta(days=6 * days), today)
            quote = quotes.step(quote.pk, quote.version, to, on)

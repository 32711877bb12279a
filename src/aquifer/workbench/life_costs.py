"""What a life costs by the company's price book."""

from dataclasses import dataclass

from aquifer.core import replacement
from aquifer.core.bench.lives import Care
from aquifer.core.bench.spending import Amounts
from aquifer.core.follow_up import FollowUp
from aquifer.core.kinds import HeaterKind
from aquifer.core.money import CALL_OUT, entry_of, service_key
from aquifer.core.vocabulary import Component, Method
from aquifer.money.models import MoneySettings
from aquifer.money.prices import PriceBook


@dataclass(frozen=True)
class Priced:
    """Amounts, and what the price book does not know."""

    amounts: Amounts
    unpriced: list[str]


def of_tank(book: PriceBook, care: Care, kind: HeaterKind) -> Priced:
    """What is done to a tank under a care. What a leak does is that of a place about which nothing is known."""
    asked = {
        "call_out": CALL_OUT,
        "flush": service_key(Component.SEDIMENT, Method(care.method.value)),
        "rod_look": service_key(Component.ANODE, Method.INSPECT),
        "rod": FollowUp.ANODE.value,
        "valve": service_key(Component.RELIEF_VALVE, Method.EXERCISE),
        "heater": f"{FollowUp.HEATER.value}/{kind.value}",
    }
    entries = {name: entry_of(book.book, key) for name, key in asked.items()}
    damage = float(MoneySettings.current().leak_damage) * replacement.harm_at(None)
    amounts = {name: float(book.book.prices[entry].price) if entry else 0.0 for name, entry in entries.items()}
    return Priced(Amounts(**amounts, damage=damage), [book.words(asked[name]) for name in asked if not entries[name]])


def of_descale(book: PriceBook) -> tuple[float, list[str]]:
    """What one descale costs, with the way to it; and what has no price."""
    keys = (CALL_OUT, service_key(Component.SCALE, Method.DESCALE))
    entries = [entry_of(book.book, key) for key in keys]
    priced = sum(float(book.book.prices[entry].price) for entry in entries if entry)
    return priced, [book.words(key) for key, entry in zip(keys, entries, strict=True) if not entry]

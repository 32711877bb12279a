"""What a visit is worth and costs: plain arithmetic on the company's own price book.

Amounts are ``Decimal`` in the company's currency, without tax; every line is rounded half up to two places, as is usual
in trade.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from decimal import ROUND_HALF_UP, Decimal

from aquifer.core.vocabulary import Component, Method

NOTHING = Decimal("0.00")
CALL_OUT = "call_out"


@dataclass(frozen=True)
class Price:
    """What the customer pays for one, and what it costs the company besides its people's time."""

    price: Decimal
    cost: Decimal = NOTHING


@dataclass(frozen=True)
class Book:
    """The price book: prices by key, and what an hour of a technician with a truck costs."""

    hour_cost: Decimal
    prices: Mapping[str, Price]


@dataclass(frozen=True)
class Terms:
    """What a contract plan includes; without one, nothing."""

    includes: frozenset[Component] = frozenset()
    call_out: bool = False
    """Coming is included."""
    parts_off: Decimal = NOTHING
    """Share off the price of parts, 0 to 1."""


@dataclass(frozen=True)
class Line:
    """One thing charged or included."""

    key: str
    quantity: Decimal
    price: Decimal | None
    """For one; None where the price book does not know it."""
    amount: Decimal
    """What the customer pays for it."""
    included: Decimal
    """Its list price, where the contract pays for it."""
    cost: Decimal


@dataclass(frozen=True)
class Worth:
    """A visit in money."""

    charged: Decimal
    included: Decimal
    cost: Decimal
    unpriced: tuple[str, ...] = field(default=())
    """What the price book does not know."""

    @property
    def left(self) -> Decimal:
        """What remains of charges and of what contracts paid for, after costs."""
        return self.charged + self.included - self.cost


def rounded(amount: Decimal) -> Decimal:
    """To two places, half up."""
    return amount.quantize(Decimal("0.01"), ROUND_HALF_UP)


def service_key(component: Component, method: Method) -> str:
    """Where the price book has a service: by its method, or by its component alone."""
    return f"{component.value}/{method.value}"


def entry_of(book: Book, key: str) -> str | None:
    """Under which key the price book has something, or the nearest wider thing.

    ``sediment/jetting`` is looked for as itself, then as ``sediment``; ``anode magnesium, 910 mm`` as itself, then as
    ``anode magnesium``, then as ``anode``. Returns: None where the book has none of them.
    """
    words = key
    while words and words not in book.prices:
        cut = max(words.rfind("/"), words.rfind(", "), words.rfind(" "))
        words = words[:cut] if cut > 0 else ""
    return words or None


def line(book: Book, key: str, quantity: Decimal, included: bool = False, off: Decimal = NOTHING) -> Line:
    """One line at the book's price. Parameters: included, a contract pays for it; off, share off its price, 0 to 1.

    Raises: ValueError for a quantity that is not above nothing, or a share outside 0 to 1.
    """
    if quantity <= 0:
        raise ValueError(f"{key}: quantity {quantity}; allowed: above 0")
    if not 0 <= off <= 1:
        raise ValueError(f"{key}: share off {off}; allowed: 0 to 1")
    entry = entry_of(book, key)
    if entry is None:
        return Line(key, quantity, None, NOTHING, NOTHING, NOTHING)
    price = book.prices[entry]
    full = rounded(price.price * quantity)
    amount = NOTHING if included else rounded(price.price * quantity * (1 - off))
    return Line(key, quantity, price.price, amount, full if included else NOTHING, rounded(price.cost * quantity))


def visit_lines(
    services: Iterable[tuple[Component, Method]], parts: Iterable[tuple[str, Decimal]], book: Book, terms: Terms
) -> list[Line]:
    """What a visit comes to, line by line: coming, each service, each part.

    Parameters: parts, what is fitted or used, by its name and how many; terms, of the contract in force that day.
    """
    lines = [line(book, CALL_OUT, Decimal(1), terms.call_out)]
    lines += [line(book, service_key(c, m), Decimal(1), c in terms.includes) for c, m in services]
    return lines + [line(book, name, quantity, off=terms.parts_off) for name, quantity in parts]


def worth(lines: Iterable[Line], hours: Decimal, book: Book) -> Worth:
    """A visit in money. Parameters: hours, of the crew on the way and at the site, for every person."""
    every = list(lines)
    return Worth(
        charged=sum((line.amount for line in every), NOTHING),
        included=sum((line.included for line in every), NOTHING),
        cost=sum((line.cost for line in every), rounded(book.hour_cost * hours)),
        unpriced=tuple(line.key for line in every if line.price is None),
    )

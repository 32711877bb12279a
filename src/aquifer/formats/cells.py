"""Cells of a table: what each column may hold, in which units and ways it may be written, each fault in words.

Knows nothing of the database, nor whether the table came as CSV or from a workbook.
"""

import datetime
import math
import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from aquifer.core.units import METRIC, WRITTEN, Quantity

LONGEST_CELL = 2000


class UnreadableTable(ValueError):
    """The file as a whole cannot be taken as a table; the message says what to do."""


class BadCell(ValueError):
    """A cell that cannot be so; the message says what is allowed."""


Cell = Any
"""A cell's value once it is read: its column, and no type, says what it may be."""
Reader = Callable[[str], Cell]
_UNIT_ENDING = re.compile(r"_(l_per_day|l_min|mg_l|us_cm|l|c|k|g|kw|mm|m2|kpa)$")
"""How names of columns end that carry a unit."""


@dataclass(frozen=True)
class Column:
    name: str
    read: Reader
    required: bool = False
    ways: Mapping[str, Reader] = field(default_factory=dict)
    """Other ways in which a whole column may be written, by name: in gallons, the day first."""
    own: str = ""
    """How the program itself writes it: its unit, or a date as an example."""
    many: bool = False
    """Whether several columns of a file may be it."""

    @property
    def words(self) -> str:
        """Its name in words, the unit set off."""
        return _UNIT_ENDING.sub("", self.name).replace("_", " ")


@dataclass
class Row:
    number: int
    cells: dict[str, Cell] = field(default_factory=dict)
    """Values by column; only columns that the file has. None for an empty cell."""
    faults: dict[str, str] = field(default_factory=dict)
    """By column, what is wrong with its cell."""


def text_up_to(most: int) -> Reader:
    """Text of at most so many characters."""

    def read(text: str) -> str:
        if len(text) > most:
            raise BadCell(f"has {len(text)} characters; at most {most} are allowed")
        return text

    return read


def number(low: float, high: float) -> Reader:
    """A number within bounds, with a decimal point."""

    def read(text: str) -> float:
        try:
            value = float(text)
        except ValueError:
            raise BadCell(f"{text[:40]!r} is not a number; write it like 12.5") from None
        return _bounded(value, low, high, text)

    return read


def _bounded(value: float, low: float, high: float, text: str) -> float:
    if not math.isfinite(value) or not low <= value <= high:
        raise BadCell(f"{text[:40]} is outside {low:g} to {high:g}")
    return value


def whole(low: int, high: int) -> Reader:
    """A whole number within bounds."""
    inner = number(low, high)

    def read(text: str) -> int:
        value = inner(text)
        if value != int(value):
            raise BadCell(f"{text[:40]} is not a whole number")
        return int(value)

    return read


_FIGURE = re.compile(r"([-+]?\d+(?:\.\d+)?(?:[eE][-+]?\d+)?)\s*([^\d\s,.].*)?")


def quantity(kind: Quantity, low: float, high: float, unit: str = "") -> Reader:
    """A figure in the program's own unit, or in the named one; a unit written after it goes before either.

    Bounds are in the program's unit. So that "50 gal" and "189 L" may stand in one column.
    """
    units = WRITTEN[kind]

    def read(text: str) -> float:
        found = _FIGURE.fullmatch(text)
        if not found:
            raise BadCell(f"{text[:40]!r} is not a number; write it like 12.5")
        written = (found[2] or unit).strip().lower()
        if written and written not in units:
            raise BadCell(f"{text[:40]!r} has a unit that is not known here; allowed: {', '.join(units)}")
        value = float(found[1])
        return _bounded(units[written].stored(value) if written else value, low, high, text)

    return read


def figure_in(unit: str, low: float, high: float) -> Reader:
    """A figure of a quantity that may stand in any of its units, or with the one unit that every company uses."""
    if unit in set(Quantity) and Quantity(unit) in WRITTEN:
        return quantity(Quantity(unit), low, high)
    plain = number(low, high)
    own = METRIC[Quantity(unit)].label if unit in set(Quantity) else unit

    def read(text: str) -> float:
        return float(plain(text.removesuffix(own).strip()))

    return read


def measured(name: str, kind: Quantity, low: float, high: float) -> Column:
    """A column of figures that may be in any unit of their kind."""
    return Column(
        name,
        quantity(kind, low, high),
        ways={unit: quantity(kind, low, high, unit) for unit in WRITTEN[kind]},
        own=next(iter(WRITTEN[kind].values())).label,
    )


DAY_FIRST, MONTH_FIRST = "day first: 9/3/2026", "month first: 3/9/2026"
_DATES = {DAY_FIRST: (2, 1, 0), MONTH_FIRST: (2, 0, 1)}


def day(earliest: datetime.date, latest: datetime.date) -> Reader:
    """A date as 2026-03-09 within bounds."""

    def read(text: str) -> datetime.date:
        try:
            value = datetime.date.fromisoformat(text)
        except ValueError:
            raise BadCell(f"{text[:40]!r} is not a date; write it like 2026-03-09") from None
        return _within(value, earliest, latest)

    return read


def _within(value: datetime.date, earliest: datetime.date, latest: datetime.date) -> datetime.date:
    if not earliest <= value <= latest:
        raise BadCell(f"{value} is outside {earliest} to {latest}")
    return value


def dated(name: str, earliest: datetime.date, latest: datetime.date, required: bool = False) -> Column:
    """A column of dates, as 2026-03-09 or in one of the ways that are told apart only by asking."""
    own = day(earliest, latest)

    def way(order: tuple[int, int, int], name: str) -> Reader:
        def read(text: str) -> datetime.date:
            figures = re.split(r"[./-]", text)
            if len(figures[0]) == 4:
                return own(text)  # type: ignore[no-any-return]
            try:
                year, month, on = (int(figures[at]) for at in order)
                value = datetime.date(year, month, on)
            except (ValueError, IndexError):
                raise BadCell(f"{text[:40]!r} is not a date with the {name}") from None
            return _within(value, earliest, latest)

        return read

    return Column(name, own, required, {name: way(order, name) for name, order in _DATES.items()}, "2026-03-09")


def word(allowed: Iterable[str]) -> Reader:
    """One of some words; spaces and hyphens do for underscores."""
    words = {_said(one): one for one in allowed}

    def read(text: str) -> str:
        if (said := _said(text)) not in words:
            raise BadCell(f"{text[:40]!r} is unknown; allowed: {', '.join(words.values())}")
        return words[said]

    return read


def _said(text: str) -> str:
    return re.sub(r"[\s_-]+", " ", text.lower())


def yes_or_no(text: str) -> bool:
    """yes or no."""
    return bool(word(["yes", "no"])(text) == "yes")

"""A row of an office's own list, and what bears on how it is meant."""

import datetime
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace

from aquifer.company.models import Company
from aquifer.core.units import HardnessUnit, Quantity, System, Unit, table
from aquifer.formats.cells import Cell

UNKNOWN = "unknown"
"""Said of a kind that nobody has looked at yet."""
BOUNDS: dict[str, tuple[Quantity, float, float]] = {
    "size": (Quantity.VOLUME, 2.0, 10_000.0),
    "setpoint": (Quantity.TEMPERATURE, 30.0, 95.0),
    "pressure": (Quantity.PRESSURE, 50.0, 2000.0),
    "hardness": (Quantity.HARDNESS, 0.0, 3000.0),
}
"""What can be so of a figure, in the program's unit. Assumption."""
OF_A_HEATER = {
    "kind", "size", "setpoint", "make_and_model", "make", "model", "serial", "location", "installed", "last_flush",
    "anode", "relief_valve", "count", "input",
}  # fmt: skip
"""Columns of which a row may have several, one for each of its heaters."""
_MAKES_ONE = {"kind", "size", "serial", "make", "maker", "model"}
"""Of these one at least says that there is such a heater."""


@dataclass
class Entry:
    """A row as it was understood, and beside its first heater each other one that it names."""

    number: int
    cells: dict[str, Cell] = field(default_factory=dict)
    notes: list[str] = field(default_factory=list)
    unread: dict[str, str] = field(default_factory=dict)
    """By column of the file: what could not be read, and why."""
    others: list["Entry"] = field(default_factory=list)
    of_one_cell: list["Entry"] = field(default_factory=list)
    """Those of the others that stand in one cell with it, so that what else the row says of a heater is theirs, too."""
    above: int = 0
    """The row whose customer and address are its own, where it names none."""

    def said(self, name: str) -> Cell:
        return self.cells.get(name)

    def keep_number(self, name: str, number: str) -> None:
        """A telephone number where there is room for one, else as a note of the column of this name."""
        free = next((one for one in ("phone", "second_phone") if one not in self.cells), "")
        if number in (self.cells.get("phone"), self.cells.get("second_phone")):
            return
        if free:
            self.cells[free] = number
        else:
            self.notes.append(f"{name}: {number}")

    @property
    def has_heater(self) -> bool:
        """Whether something in it says that there is a heater."""
        return any(self.cells.get(name) for name in _MAKES_ONE) or bool((when := self.said("installed")) and when.on)

    @property
    def is_a_name_alone(self) -> bool:
        return self.cells.keys() == {"customer"} and not self.notes and not self.others

    @property
    def heaters(self) -> list["Entry"]:
        """An entry for each heater of the row; where nothing is said of one, it has one nevertheless."""
        return [self, *self.others] if self.has_heater or not self.others else self.others


@dataclass(frozen=True)
class How:
    """What bears on how a cell is meant."""

    today: datetime.date
    day_first: bool
    units: Mapping[Quantity, Unit]


def how(today: datetime.date) -> How:
    """As this company writes. In the US the month stands first; elsewhere the day does."""
    return How(today, Company.current().units != System.US, units_written())


def as_written(way: How, columns: Mapping[int, str], lines: Iterable[tuple[int, list[str]]]) -> How:
    """The same with the order of day and month that a file itself shows by figures which are no month, where most of
    them are of one mind. Parameters: columns, what is told at each place; lines, the file's."""
    days = [at for at, column in columns.items() if column in _OF_DAYS]
    first = second = 0
    for _, cells in lines:
        for at in days:
            for a, b in _STROKES.findall(cells[at][:200]):
                first += int(a) > MONTHS >= int(b)
                second += int(b) > MONTHS >= int(a)
    if first > AGREE * second:
        return replace(way, day_first=True)
    return replace(way, day_first=False) if second > AGREE * first else way


_OF_DAYS = {"installed", "last_flush", "relief_valve", "anode", "on", "note"}
"""What may be told in days; of a bill or a warranty, too, whoever writes them writes all in one order."""
_STROKES = re.compile(r"(?<![\d/.-])(\d{1,2})[/-](\d{1,2})[/-](?:\d{4}|\d\d)(?!\d)")
MONTHS, AGREE = 12, 3
"""Of a year; and how many days of one order there are to one of the other until a file is believed. Assumption."""


def units_written() -> Mapping[Quantity, Unit]:
    """In which the company writes."""
    company = Company.current()
    return table(System(company.units), HardnessUnit(company.hardness_unit))


def way_of(units: Mapping[Quantity, Unit], kind: Quantity) -> str:
    """How a company writes a quantity, as files name it."""
    label = units[kind].label.lower()
    return {"deg c": "°c", "deg f": "°f"}.get(label, label)

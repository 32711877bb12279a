"""A row of an office's own list, as its cells are understood: what cannot be read stays as a note and is told."""

import datetime
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace

from aquifer.company.models import Company
from aquifer.core.kinds import HeaterKind
from aquifer.core.units import HardnessUnit, Quantity, System, Unit, table
from aquifer.core.vocabulary import values
from aquifer.formats import heater_said, said
from aquifer.formats.cells import BadCell, Cell, Column, measured, text_up_to, word
from aquifer.formats.office import is_total
from aquifer.formats.sheet import Matched, Sheet
from aquifer.heaters.models import Heater
from aquifer.imports.tables import Table

UNKNOWN = "unknown"
"""Said of a kind that nobody has looked at yet."""
_BOUNDS: dict[str, tuple[Quantity, float, float]] = {
    "size": (Quantity.VOLUME, 2.0, 10_000.0),
    "setpoint": (Quantity.TEMPERATURE, 30.0, 95.0),
    "pressure": (Quantity.PRESSURE, 50.0, 2000.0),
    "hardness": (Quantity.HARDNESS, 0.0, 3000.0),
}
"""What can be so of a figure, in the program's unit. Assumption."""


def list_table() -> Table:
    """The columns that such a list may have."""
    quantities = [measured(name, kind, low, high) for name, (kind, low, high) in _BOUNDS.items()]
    texts = (
        "account", "customer", "company", "first_name", "address", "street", "house_number", "apartment", "town",
        "state", "postcode", "phone", "second_phone", "email", "kind", "count", "make_and_model", "make", "model",
        "serial", "location", "expansion_tank", "softener", "well", "last_flush", "people", "relief_valve",
    )  # fmt: skip
    # A list may have a column for each year in which it was flushed.
    columns = [Column(name, text_up_to(2000), many=name == "last_flush") for name in texts]
    columns.append(Column("installed", text_up_to(2000), ways={"age": text_up_to(2000)}, own="a day or a year"))
    rod = Column("anode", text_up_to(2000), ways={one: text_up_to(2000) for one in ("mm", "in")}, own="mm")
    note = Column("note", text_up_to(2000), many=True)
    return Table("list", Heater, "", [*columns, *quantities, rod, note])


kind_word = word([*values(HeaterKind), UNKNOWN])
"""What a word of the list's column of kinds may mean."""


OF_A_HEATER = {
    "kind", "size", "setpoint", "make_and_model", "make", "model", "serial", "location", "installed", "last_flush",
    "anode", "relief_valve",
}  # fmt: skip
"""Columns of which a row may have several, one for each of its heaters."""
_MAKES_ONE = {"kind", "size", "serial", "make", "maker", "model"}
"""Of these one at least says that there is such a heater."""
_NUMBERED = re.compile(r"(?<!\d)#?([1-9])(?:st|nd|rd|th)?(?!\d)|(?<![^\W_])([A-D])(?![^\W_])")
_LETTERS = "ABCD"
NAMELESS = re.compile(r"column \d+")
"""How a column without a name is called, by its place."""


def unnumbered(name: str) -> str:
    """A column's name without the number or letter of its heater."""
    return " ".join(re.findall(r"[^\W_]+", said.plainly(_NUMBERED.sub(" ", name, count=1))))


def heater_numbers(header: Iterable[str]) -> dict[str, int]:
    """Which heater of its row each column tells of, by the number or letter in its name: of "WH1 size" and "WH2 size"
    the first and the second. One that has no fellow under another number is the first's."""
    told = {name: _number_in(name) for name in header}
    numbers: dict[str, set[int]] = {}
    for name, number in told.items():
        numbers.setdefault(unnumbered(name), set()).add(number)
    return {name: number if len(numbers[unnumbered(name)]) > 1 else 1 for name, number in told.items()}


def _number_in(name: str) -> int:
    found = None if NAMELESS.fullmatch(name) else _NUMBERED.search(name)
    return 1 if not found else int(found[1]) if found[1] else _LETTERS.index(found[2]) + 1


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


def units_written() -> Mapping[Quantity, Unit]:
    """In which the company writes."""
    company = Company.current()
    return table(System(company.units), HardnessUnit(company.hardness_unit))


def way_of(units: Mapping[Quantity, Unit], kind: Quantity) -> str:
    """How a company writes a quantity, as files name it."""
    label = units[kind].label.lower()
    return {"deg c": "°c", "deg f": "°f"}.get(label, label)


def entries(sheet: Sheet, matches: Mapping[str, Matched], how: How) -> list[Entry]:
    """Each row as it was understood."""
    entries: list[Entry] = []
    numbers, above = heater_numbers(sheet.header), dict[str, str]()
    # A list of one house says above its columns whose it is.
    house = "" if any(match.column in _WHOSE for match in matches.values()) else _OF_WHAT.sub("", sheet.title)
    for number, cells in sheet.lines:
        entry = Entry(number)
        others: dict[int, tuple[Entry, list[str]]] = {}
        for name, cell in zip(sheet.header, cells, strict=True):
            match = matches.get(name, Matched(""))
            if between := _LINES.get(match.column):
                # Where a line ends in a cell another would set a comma.
                cell = re.sub(r"[,;]?\s*[\r\n]+\s*", between, cell.strip())
            text = re.sub(r"\s+", " ", cell).strip()
            if said.plainly(text).rstrip(".") in _DITTO:
                text = above.get(name, "")
            elif text:
                above[name] = text
            if not text or not match.column or "\x00" in text:
                continue
            of = entry
            if numbers[name] > 1 and match.column in OF_A_HEATER:
                of, told = others.setdefault(numbers[name], (Entry(number), []))
                told.append(f"{name}: {text[:120]}")
            try:
                _read(of, name, match, text[:2000], how)
            except BadCell as error:
                of.unread[name] = str(error)
                of.notes.append(f"{name}: {text[:120]}")
        if house:
            entry.cells["customer"] = house
        where = _put_together(entry)
        for _, (other, told) in sorted(others.items()):
            if other.has_heater:
                entry.others += [other, *other.others]
            else:
                entry.notes += told
        for other in entry.others:
            other.cells.setdefault("location", where)
        _share(entry, sheet.header, cells, matches, how)
        if is_total(cells):
            entry.cells["total"] = True
        elif entries:
            _as_above(entry, entries[-1])
        entries.append(entry)
    return entries


_LINES = {"address": ", ", "customer": ", ", "kind": "; ", "installed": " / ", "last_flush": " / "}
_YEAR_NAMED = re.compile(r"(?<!\d)20\d\d(?!\d)")
_MARKS = {"x", "xx", "y", "yes", "ja", "done", "ok", "1", "true", "\u2713", "\u2714"}
_OF_WHAT = re.compile(r"\s*[-–:(,]\s*(water )?(heaters?|inventory|list|assets?|units?|wh)\b.*$", re.IGNORECASE)
"""What a title says of the list, behind whose it is."""
_HAS_YEAR = re.compile(r"(19|20)\d\d|'\d\d")
_WHOSE = {"customer", "company", "address", "street", "account"}
_EVERY_YEAR = re.compile(
    r"(monthly|quarterly|yearly|annual(ly)?|(every|each) (yr|year|spring|summer|fall|autumn|winter)|regular(ly)?|"
    r"jahrlich|jedes jahr)\.?"
)
"""Said of a service: the last was within a year."""
_OF_EACH = {"installed", "last_flush"}
"""What is true of all heaters that are named in one cell, where it stands beside them."""
_DITTO = {'"', "''", "ditto", "dito", "do", "same", "same as above", "as above", "s.o", "w.o"}
"""What people write for: as in the cell above."""
_OF_THE_HOUSE = (
    "account", "customer", "address", "street", "town", "state", "postcode", "phone", "second_phone", "email",
    "softener", "well", "hardness", "pressure", "people",
)  # fmt: skip


def _share(entry: Entry, header: Iterable[str], cells: Iterable[str], matches: Mapping[str, Matched], how: How) -> None:
    """What the row says once of the heaters of one cell is true of each; what it says as often is each one's own."""
    for name, cell in zip(header, cells, strict=True):
        match = matches.get(name, Matched(""))
        if match.column not in _OF_EACH:
            continue
        parts = [part for part in re.split(r"\s*(?:[/;&\r\n]|\band\b)\s*", cell) if part]
        if not all(_HAS_YEAR.search(part) for part in parts):
            # The stroke of a day.
            parts = [cell]
        if len(parts) == entry.said("count") and not entry.others:
            _told_apart(entry, len(parts))
        heaters = [entry, *entry.of_one_cell]
        if 1 < len(parts) == len(heaters):
            entry.unread.pop(name, None)
            entry.notes = [note for note in entry.notes if not note.startswith(f"{name}: ")]
            for of, part in zip(heaters, parts, strict=True):
                of.cells.pop(match.column, None)
                try:
                    _read(of, name, match, part, how)
                except BadCell as error:
                    of.unread[name] = str(error)
                    of.notes.append(f"{name}: {part}")
        elif match.column in entry.cells:
            for of in entry.of_one_cell:
                of.cells.setdefault(match.column, entry.cells[match.column])


def _told_apart(entry: Entry, number: int) -> None:
    """So many of the same as entries of their own, since something is said of each."""
    entry.cells["count"] = 1
    own = {name: entry.cells[name] for name in {*OF_A_HEATER, "vent"} & entry.cells.keys() - _OF_EACH}
    entry.of_one_cell += [Entry(entry.number, dict(own)) for _ in range(number - 1)]
    entry.others += entry.of_one_cell


def _as_above(entry: Entry, before: Entry) -> None:
    """A row that names a heater and nobody is of the house above it."""
    if entry.cells.keys() & {"customer", "address", "street"} or not any(own.has_heater for own in entry.heaters):
        return
    if before.cells.keys() & {"customer", "address", "street"} and "total" not in before.cells:
        entry.above = before.above or before.number
        entry.notes += [note for note in before.notes if said.is_gone(note)]
        entry.cells = {name: before.cells[name] for name in _OF_THE_HOUSE if name in before.cells} | entry.cells


def _put_together(entry: Entry) -> str:
    """What stands in pieces: a name, and a street with its number and the unit in the house. The number stands before
    the street or behind it as in the file. Returns: the unit of a house without an address, where its heaters are."""
    cells = entry.cells
    if (address := cells.get("address")) and address.town:
        # With a town of its own what stands behind the street's comma is a part of the house.
        town, last = said.plainly(cells.get("town") or ""), said.plainly(address.town)
        if _UNIT.match(last) or town not in ("", last):
            cells["address"] = replace(address, street=f"{address.street}, {address.town}"[:200], town="")
    if (company := cells.pop("company", "")) and cells.get("customer"):
        entry.notes.append(company)
    elif company:
        cells["customer"] = said.person(company)
    if first := cells.pop("first_name", ""):
        cells["customer"] = " ".join(one for one in (first, cells.get("customer")) if one)
    order = list(cells)
    number, unit, street = cells.pop("house_number", ""), cells.pop("apartment", ""), cells.get("street", "")
    if number and street:
        behind = order.index("house_number") > order.index("street")
        cells["street"] = f"{street} {number}" if behind else f"{number} {street}"
    elif number:
        entry.notes.append(number)
    if unit and (address := cells.get("address")):
        cells["address"] = replace(address, street=f"{address.street} {unit}"[:200])
    elif unit and cells.get("street"):
        cells["street"] = f"{cells['street']} {unit}"
    elif unit and not _UNIT.match(said.plainly(unit)):
        # The second line of an address of which the first is empty.
        cells["street"] = unit
    elif unit:
        cells["location"] = ", ".join(one for one in (unit, cells.get("location")) if one)
        return str(unit)
    return ""


def _read(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    column = match.column
    cells = entry.cells
    if column == "note":
        own = said.plainly(name)
        entry.notes.append(text if own in _REMARKS else f"{name}: {text}")
    elif column in _BOUNDS:
        _read_figure(entry, name, match, text, how)
    elif column == "kind":
        first, *others = _each_heater(text)
        _read_kind(entry, name, match, first, how)
        for other in others:
            entry.of_one_cell.append(Entry(entry.number))
            _read_kind(entry.of_one_cell[-1], name, match, other, how)
        entry.others += entry.of_one_cell
    elif column == "customer":
        _read_customer(cells, text)
    elif column == "address":
        cells["address"] = said.address(text.replace(";", ","))
    elif column in ("phone", "second_phone"):
        _read_phones(entry, name, column, text)
    elif column == "email":
        if "@" in text and " " not in text:
            cells["email"] = text[:254]
        elif not said.is_unknown(text) and said.plainly(text) not in ("none", "no"):
            raise BadCell(f"{text[:40]!r} is no address for mail")
    elif column == "installed":
        cells["installed"] = (said.age if match.written == "age" else said.day)(text, how.today, how.day_first)
    elif column == "last_flush":
        _read_flush(entry, name, text, how)
    elif column == "relief_valve":
        cells["relief_valve"] = said.day(text, how.today, how.day_first)
    elif column == "expansion_tank":
        cells["expansion_tank"] = said.yes(text)
        if (volume := re.search(r"[\d.,]+\s*[a-z]+", text.lower())) and cells["expansion_tank"]:
            found = said.amount(volume[0], Quantity.VOLUME, way_of(how.units, Quantity.VOLUME), 0.5, 500.0)
            cells["expansion_tank_l"] = found.value if found else None
    elif column == "softener":
        if re.search(r"\b(broken|out of order|off|bypass(ed)?|defekt)\b", said.plainly(text)):
            cells["softener"] = False
            entry.notes.append(f"{name}: {text}")
        else:
            cells["softener"] = said.yes(text)
    elif column == "well":
        plain = said.plainly(text)
        if re.search(r"\bsoft(ened)?\b", plain) and not re.search(r"\b(not|un)", plain):
            cells.setdefault("softener", True)
        is_mains = re.search(r"\b(city|mains|municipal|town|public)\b", plain)
        cells["well"] = bool(re.search(r"\b(well|brunnen)\b", plain)) or (False if is_mains else said.yes(text))
    elif column == "apartment":
        if not said.is_unknown(text):
            bare = re.fullmatch(r"[\w-]+", text) and not re.match(r"(apt|unit|ste|suite|floor)\b", text, re.IGNORECASE)
            cells["apartment"] = f"{name} {text}" if bare else text
    elif column == "count":
        if (number_said := said.number(text, 0, 50)) is not None:
            cells["count"] = round(number_said)
    elif column == "people":
        cells["people"] = said.number(text, 0, 10_000)
    elif column == "anode":
        cells["anode"] = heater_said.rod(text, how.today, how.day_first, match.written or "mm")
    elif column == "make_and_model":
        if found_serial := _SERIAL_BESIDE.search(text):
            cells.setdefault("serial", found_serial[1])
            text = text[: found_serial.start()].strip()
        if not said.is_unknown(text):
            cells["maker"], _, cells["model"] = (part.strip() for part in _make(text).partition(" "))
    elif not said.is_unknown(text):
        cells[column] = text


def _read_flush(entry: Entry, name: str, text: str, how: How) -> None:
    """When it was flushed last: said in words, or by a mark under the year that a column is called by; of several the
    latest."""
    year = _YEAR_NAMED.search(name)
    if _EVERY_YEAR.fullmatch(said.plainly(text)):
        when = said.When(how.today - datetime.timedelta(days=183), "estimated", 0.5)
        entry.notes.append(f"{name}: {text}")
    elif year and said.plainly(text) in _MARKS:
        when = said.day(year[0], how.today, how.day_first)
    else:
        when = said.day(text, how.today, how.day_first)
    before = entry.said("last_flush")
    if before is None or before.on is None or (when.on and when.on > before.on):
        entry.cells["last_flush"] = when


def _read_kind(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    means = match.words.get(said.plainly(text), "")
    guess = heater_said.kind(text)
    if means == UNKNOWN or (not means and guess is None):
        entry.notes.append(f"{name}: {text}")
        return
    kind = entry.cells["kind"] = HeaterKind(means) if means else guess.kind  # type: ignore[union-attr]
    entry.cells["vent"] = guess.vent if guess and guess.kind == kind else ""
    _read_beside_kind(entry, name, text, how)


def _read_customer(cells: dict[str, Cell], text: str) -> None:
    found = _NAME_AND_ADDRESS.fullmatch(text) if len(text) <= LONGEST_NAME else None
    cells["customer"] = said.person(found["name"] if found else text)
    if found:
        cells.setdefault("address", said.address(found["address"]))
    if found and found["phone"]:
        cells.setdefault("phone", found["phone"])


def _read_phones(entry: Entry, name: str, column: str, text: str) -> None:
    """The first into its own column, a second into the other; whatever else is kept as a note."""
    free = [one for one in dict.fromkeys((column, "second_phone")) if one not in entry.cells]
    for part in said.phones(text):
        number, beside = said.phone(part)
        if free:
            entry.cells[free.pop(0)] = number
        else:
            beside = f"{number} {beside}".strip()
        if beside:
            entry.notes.append(f"{name}: {beside}")


LONGEST_NAME = 300
"""Letters of a name with an address beside it; longer is a story. Assumption."""
_NAME_AND_ADDRESS = re.compile(
    r"(?P<name>[^,;]+?)\s*(?:[,;]| [-–] )\s*(?P<address>\d+[a-z]?\s+[^\W\d].*?)"
    r"(?:\s*[-,;(]\s*(?P<phone>(?:\(?\d{3}\)?[ .-])?\d{3}[ .-]\d{4})\)?)?",
    re.IGNORECASE,
)
"""A name, an address and perhaps a telephone number in one cell."""
_UNIT = re.compile(r"(apt|apartment|unit|ste|suite|floor|flat|bldg|building|#|[a-z]?-?\d+[a-z]?$|[a-z]$)")
"""How a part of a house is called."""


def _each_heater(text: str) -> list[str]:
    """What a cell says of each of several heaters, each with its own kind and size; else the cell as it is."""
    for between in (r"\s*[;\n]\s*", r"\s*(?:\+|&|\band\b|\bund\b)\s*", r"\s*,\s*"):
        parts = re.split(between, text)
        if len(parts) > 1 and all(heater_said.kind(part) and _has_size(part) for part in parts):
            return parts
    return [text]


def _has_size(text: str) -> bool:
    return bool(_SIZE_BESIDE.search(text) or _SIZE_AT_FUEL.search(text) or "tankless" in text.lower())


_SERIAL_BESIDE = re.compile(r"[\s,;/-]*\b(?:s ?/ ?n|sn|ser(?:ial)?)\b[ .:#-]*(?:no[ .:]*)?(\S+)$", re.IGNORECASE)
_REMARKS = {"remarks", "remark", "notes", "note", "comment", "comments", "bemerkung", "bemerkungen", "notiz", "info"}


def _make(text: str) -> str:
    first, space, rest = text.partition(" ")
    return f"{first.capitalize() if first.isupper() and len(first) > 3 else first}{space}{rest}"


_SIZE_BESIDE = re.compile(
    r"(?:\d{1,2} ?[x×] ?)?\d+(?:[.,]\d+)? ?(?:gal(?:lon)?s?|g|l|ltr|lit(?:er|re)s?)\b|\b[1-9] ?[x×] ?\d{2,3}\b",
    re.IGNORECASE,
)


_DONE_BESIDE = tuple(
    (re.compile(rf"\b(?:{what})\b[^,;\d]{{0,12}}((?<!\d)(?:19[5-9]|20[0-4])\d(?!\d)|'\d\d)", re.IGNORECASE), of)
    for what, of in (
        (r"t ?[&+/]? ?p|tprv?|relief(?: valve)?", "relief_valve"), (r"anode|rod", "anode"),
        (r"flush(?:ed)?|descaled?", "last_flush"),
    )
)  # fmt: skip
"""What is said with the kind of when something was done, and what of."""
_WELL = re.compile(r"\b(well|brunnen)\b", re.IGNORECASE)
_MANY = re.compile(r"^\(?([1-9])\)? ?(?:- ?(?=\d)|[x×@] ?(?=\d|[a-z]))|(?:\bx ?|\(x?)([2-9])\)?$", re.IGNORECASE)
"""How many heaters of a kind there are: "2 - 100 gal gas", "tankless x 3"."""
_FUEL = r"(?:ng|lp|gas|propane|e|el|elec|electric|hp|hpwh|hybrid)\b"
_SIZE_AT_FUEL = re.compile(
    rf"\b(\d{{2,3}})[ -]?(?={_FUEL})|\b{_FUEL}[ -](\d{{2,3}})(?!\d)|\b(?:g|ng|lp|e|hp)(\d{{2,3}})\b", re.IGNORECASE
)
_YEAR_BESIDE = re.compile(r"\(?(?<![\w-])(?:(?:19[5-9]|20[0-4])\d|'\d\d)(?![\w-])\)?")


def _read_beside_kind(entry: Entry, name: str, text: str, how: How) -> None:
    """What is said in one cell with the kind: how many, the size, the year, and whatever else as a note."""
    if many := _MANY.search(text):
        entry.cells.setdefault("count", int(many[1] or many[2]))
    size = _SIZE_BESIDE.search(text)
    if size and "size" not in entry.cells:
        _read_figure(entry, name, Matched("size"), size[0], how)
    elif "size" not in entry.cells and (size := _SIZE_AT_FUEL.search(text)):
        _read_figure(entry, name, Matched("size"), size[1] or size[2] or size[3], how)
    whole = text
    for like, of in _DONE_BESIDE:
        if done := like.search(text):
            text = text.replace(done[0], " ")
            when = said.day(done[1], how.today, how.day_first)
            entry.cells.setdefault(of, heater_said.RodSaid(fitted_on=when.on) if of == "anode" else when)
    year = _YEAR_BESIDE.search(text)
    if year and "installed" not in entry.cells:
        entry.cells["installed"] = said.day(year[0].strip("()"), how.today, how.day_first)
    rest = text
    for found in (size, year, many):
        rest = rest.replace(found[0], " ") if found else rest
    if text != whole or not heater_said.is_kind_alone(rest):
        entry.notes.append(f"{name}: {whole[:120]}")


def _read_figure(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    column = match.column
    kind, low, high = _BOUNDS[column]
    if column == "setpoint" and re.fullmatch(r"[A-Ea-e]|hot|warm|low|med|medium|high|vacation|pilot", text.strip()):
        entry.cells["control_setting"] = text.strip()
        return
    if column == "size" and (watts := re.fullmatch(r"(.+?) ?/ ?\d[\d.,]* ?k?w(?:atts?)?", text, re.IGNORECASE)):
        entry.notes.append(f"{name}: {text}")
        text = watts[1]
    if column == "hardness" and (well := _WELL.search(text)):
        entry.cells["well"] = True
        text = text.replace(well[0], " ").strip(" ()-,")
    found = said.amount(text, kind, match.written or way_of(how.units, kind), low, high)
    if found is not None:
        entry.cells[column] = found.value
        if column == "size" and found.count > 1:
            entry.cells["count"] = found.count

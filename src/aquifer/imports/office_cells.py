"""The rows of an office's own list, as their cells are understood: what cannot be read stays as a note and is told."""

import re
from collections.abc import Mapping
from dataclasses import replace

from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import values
from aquifer.formats import heater_said, said
from aquifer.formats.cells import BadCell, Column, measured, text_up_to, word
from aquifer.formats.office import is_total
from aquifer.formats.sheet import Matched, Sheet
from aquifer.heaters.models import Heater
from aquifer.imports import (
    card_cells,
    column_names,
    heater_columns,
    kind_cells,
    row_cells,
    row_heaters,
    rows_above,
    water_cells,
)
from aquifer.imports.entry import BOUNDS, OF_A_HEATER, UNKNOWN, Entry, How
from aquifer.imports.figure_cells import POWERS
from aquifer.imports.tables import Table


def list_table() -> Table:
    """The columns that such a list may have."""
    quantities = [measured(name, kind, low, high) for name, (kind, low, high) in BOUNDS.items()]
    texts = (
        "account", "customer", "company", "first_name", "address", "street", "house_number", "apartment", "town",
        "state", "postcode", "phone", "second_phone", "email", "kind", "count", "make_and_model", "make", "model",
        "serial", "location", "softener", "well", "last_flush", "people", "relief_valve",
    )  # fmt: skip
    # A list may have a column for each year in which it was flushed.
    columns = [Column(name, text_up_to(2000), many=name in ("last_flush", "kind")) for name in texts]
    columns.append(Column("installed", text_up_to(2000), ways={"age": text_up_to(2000)}, own="a day or a year"))
    columns.append(Column("input", text_up_to(2000), ways={one: text_up_to(2000) for one in POWERS}, own="kW"))
    vessel = Column("expansion_tank", text_up_to(2000), ways={one: text_up_to(2000) for one in ("l", "gal")}, own="l")
    where = [Column(name, text_up_to(40)) for name in ("latitude", "longitude")]
    rod = Column("anode", text_up_to(2000), ways={one: text_up_to(2000) for one in ("mm", "in")}, own="mm", many=True)
    note = Column("note", text_up_to(2000), many=True)
    return Table("list", Heater, "", [*columns, *quantities, *where, vessel, rod, note])


kind_word = word([*values(HeaterKind), UNKNOWN])
"""What a word of the list's column of kinds may mean."""


def entries(sheet: Sheet, matches: Mapping[str, Matched], how: How) -> list[Entry]:
    """Each row as it was understood."""
    entries: list[Entry] = []
    numbers, above = heater_columns.heater_numbers(sheet.header), dict[str, str]()
    own_kinds, is_french = (
        heater_columns.kinds_named(sheet.header),
        any(_FRENCH.search(said.plainly(name)) for name in sheet.header),
    )
    heading: Entry | None = None
    # A list of one house says above its columns whose it is.
    of_title = _OF_WHAT.sub("", sheet.title)
    house = "" if any(match.column in {*WHOSE, "account"} for match in matches.values()) else of_title
    columns = [(name, matches.get(name, _NOTHING), numbers[name]) for name in sheet.header]
    whose = [at for at, (_, match, _) in enumerate(columns) if match.column in WHOSE]
    units = _units_beside(sheet.header, matches)
    lines = list(sheet.lines)
    of_waters = _units_of_waters(sheet.header, lines, matches)
    parts = [at for at, (name, match, _) in enumerate(columns) if _is_part(name, match)]
    flushes = [at for at, (_, match, _) in enumerate(columns) if match.column == "last_flush"]
    has_parts_below = any(_BELOW.fullmatch(" ".join(cells[at].split())) for _, cells in lines for at in whose)
    is_flush_of_one = any(heater_columns.number_told(sheet.header[at]) for at in flushes)
    for number, cells in lines:
        entry = Entry(number)
        cells = ["" if is_french and _NOT_ASKED.fullmatch(cell.strip()) else cell for cell in cells]
        is_own = any(cells[at].strip() and not is_ditto(cells[at]) for at in whose)
        is_of_the_same = all(
            is_ditto(cells[at]) or " ".join(cells[at].split()) in ("", above.get(name))
            for at, (name, match, _) in enumerate(columns)
            if match.column in _WHO
        )
        others: dict[int, tuple[Entry, list[str]]] = {}
        kinds: dict[int, list[tuple[str, Matched, str]]] = {}
        for (name, match, heater), cell in zip(columns, cells, strict=True):
            if match.column in ("customer", "address") and card_cells.is_card(cell):
                card_cells.read_card(entry, name, cell[:2000])
                continue
            if between := _LINES.get(match.column):
                # Where a line ends in a cell another would set a comma.
                cell = re.sub(r"[,;]?\s*[\r\n]+\s*", between, cell.strip())
            text = " ".join(
                [*cell.split(), *(cells[at].strip() for at in units.get(name, ()) if re.search(r"\d", cell))]
            )
            if match.column in WHOSE and (part := _BELOW.fullmatch(text)) and above.get(name):
                # "- laundry": of the house above it.
                entry.cells["location"] = part[1]
                text = _ROOM_BEHIND.sub("", above[name])
            elif has_parts_below and match.column in WHOSE and (room := _ROOM_BEHIND.search(text)):
                above[name] = text
                entry.cells["location"], text = room[1], text[: room.start()]
            elif match.column in ("address", "street") and (
                _AS_BILLED.fullmatch(said.plainly(text)) or (not text and is_own and _where_letters_go(columns, cells))
            ):
                where_letters_go = _where_letters_go(columns, cells)
                if not where_letters_go:
                    entry.notes.append(f"{name}: {text}")
                text = where_letters_go or (above.get(name, "") if is_of_the_same else "")
            elif is_ditto(text) or (not text and match.column == "address" and any(cells[at].strip() for at in parts)):
                # A part of a house is told, and the house once above it.
                text = above.get(name, "")
            elif text or is_own:
                # Under what nobody said of a house the same is nothing, and not what was said of another.
                above[name] = text
            if not text or not match.column or "\x00" in text:
                continue
            of = entry
            if heater > 1 and match.column in OF_A_HEATER:
                of, told = others.setdefault(heater, (Entry(number), []))
                told.append(f"{name}: {text[:120]}")
            if match.column == "kind":
                kinds.setdefault(heater, []).append((name, match, text[:2000]))
                continue
            if match.column in _MODELS and (build := heater_said.build(text[:200])):
                kinds.setdefault(heater, []).append((name, match, build))
            if match.column == "well":
                match = replace(match, written=of_waters.get(name, ""))
            _read(of, name, match, text[:2000], how)
        if own_kinds:
            row_heaters.name_kinds(entry, others, own_kinds)
        counted = entry.said("count")
        for number_of, pieces in kinds.items():
            of = entry if number_of == 1 else others[number_of][0]
            _read(of, *kind_cells.whole_kind(kind_cells.with_build(pieces)), how)
        if entry.of_one_cell and counted == 1 + len(entry.of_one_cell):
            # They are counted, and each is described.
            entry.cells["count"] = 1
        if house:
            entry.cells["customer"] = house
        where = _put_together(entry)
        if entry.cells.pop("owner", False) or "nobody" in entry.cells:
            whose_house = _who_owns_it(columns, cells)
            entry.cells |= {"customer": said.person(whose_house)} if whose_house else {}
        if entry.cells.pop("nobody", False) and not entry.cells.keys() & rows_above.WHERE:
            entry.cells["customer"] = of_title or where or "nobody named"
        for _, (other, told) in sorted(others.items()):
            if other.has_heater:
                entry.others += [other, *other.others]
            else:
                entry.notes += told
        for other in entry.others:
            is_beside = other in entry.of_one_cell
            other.cells.setdefault("location", (entry.said("location") if is_beside else "") or where)
            if not is_flush_of_one and any(cells[at].strip() for at in flushes):
                row_heaters.seen_to_as_well(other, entry)
        row_heaters.share(entry, sheet.header, cells, matches, how)
        heading = rows_above.under(entry, cells, matches, heading)
        if is_total(cells):
            entry.cells["total"] = True
        elif entries:
            rows_above.as_above(entry, entries[-1])
        entries.append(entry)
    rows_above.head_their_parts(entries)
    return entries


_OWNS = re.compile(r"\b(landlord|owner|vermieter|eigent[uü]mer|bailleur|propri[eé]taire)\b", re.IGNORECASE)
"""Columns of whose a house is, where another is named as living there."""
_AS_BILLED = re.compile(r"\(?(same|same as (billing|bill to|mailing)|s/a|as billing)\)?")
"""Said of where a heater stands: at the customer's own address, which in a list without another is the one above only
for the customer above."""
_WHO = {"customer", "company", "first_name"}


def _where_letters_go(columns: list[tuple[str, Matched, int]], cells: list[str]) -> str:
    """The address to which letters go, where the house's is said to be the same; nobody has a heater in a box."""
    lines = [
        " ".join(cell.split())
        for (name, _, _), cell in zip(columns, cells, strict=True)
        if cell.strip()
        and re.search(column_names.LETTERS_GO, plain := said.plainly(name))
        and re.search(r"addr|adress|street|bill to", plain)
    ]
    address = (
        ", ".join(lines) if any("bill to" in said.plainly(name) for name, _, _ in columns) else next(iter(lines), "")
    )
    return "" if _A_BOX.match(address) else address


_A_BOX = re.compile(r"(p\.? ?o\.? ?box|postfach|bp|boite postale)\b", re.IGNORECASE)
_BELOW = re.compile(r"[-\u2013\u2014\u2022>]+ ?([^\W\d][^,;]{0,60})")
"""A part of the house that stands above it in the list."""
_ROOM_BEHIND = re.compile(r" [-\u2013] ([^\W\d][^,\d]*)$")
"""The same behind the house itself."""


def _who_owns_it(columns: list[tuple[str, Matched, int]], cells: list[str]) -> str:
    """Whose a house is, where another column names who lives there."""
    for (name, match, _), cell in zip(columns, cells, strict=True):
        if match.column != "customer" and _OWNS.search(name) and not (said.is_unknown(cell) or said.is_nobody(cell)):
            return cell.strip()
    return ""


def _units_beside(header: list[str], matches: Mapping[str, Matched]) -> dict[str, list[int]]:
    """Of columns of figures the place of the one that has their units, as "size uom" beside "size"."""
    found: dict[str, list[int]] = {}
    for at, name in enumerate(header):
        of = _UNIT_OF.fullmatch(said.plainly(name).replace("_", " "))
        for other in header:
            if of and matches.get(other, _NOTHING).column in BOUNDS and said.plainly(other).replace("_", " ") == of[1]:
                found[other] = [at]
    return found


def _units_of_waters(
    header: list[str], lines: list[tuple[int, list[str]]], matches: Mapping[str, Matched]
) -> dict[str, str]:
    """In which unit a column of waters tells their hardness, where all cells with one have the same: who writes it at
    one means it at the rest."""
    found: dict[str, str] = {}
    for at, name in enumerate(header):
        if matches.get(name, _NOTHING).column == "well":
            said_in = {unit for _, cells in lines if (unit := water_cells.unit_of(cells[at]))}
            found[name] = said_in.pop() if len(said_in) == 1 else ""
    return found


def _is_part(name: str, match: Matched) -> bool:
    """Whether a column tells which part of a house it is."""
    is_place = match.column in ("apartment", "location")
    return is_place and bool(_PART_NAMED.match(said.plainly(name).replace(".", " ")))


_PART_NAMED = re.compile(r"(we|whg|wohnung\w*|einheit|apt|appt|apartment|flat|bat|unit (no|number|#))\b|unit$")
"""A dwelling in a block; where a heater stands, as on a floor, any house has."""
_UNIT_OF = re.compile(r"(.+) (?:uom|units?|einheit)")


_NOTHING = Matched("")
_MODELS = {"make_and_model", "model"}
_FRENCH = re.compile(r"\b(nom|ville|rue|commune|entretien|soupape|contenance|capacite|dernier|annee)\b")
_NOT_ASKED = re.compile(r"s\. ?o\.?", re.IGNORECASE)
"""Nothing to say, in French; elsewhere the same as above."""


def is_ditto(cell: str) -> bool:
    """Whether a cell says that it is as the one above it."""
    return cell.strip().casefold().rstrip(".") in _DITTO


def _read(of: Entry, name: str, match: Matched, text: str, how: How) -> None:
    try:
        row_cells.read(of, name, match, text, how)
    except BadCell as error:
        of.unread[name] = str(error)
        of.notes.append(f"{name}: {text[:120]}")


_LINES = {"address": ", ", "customer": ", ", "kind": "; ", "installed": " / ", "last_flush": " / "}
_OF_WHAT = re.compile(
    r"\s*[-–:(,]\s*(water )?(heaters?|inventory|list|assets?|units?|wh|warmwasser\w*|boiler\w*|ger[äa]te\w*)\b.*$",
    re.IGNORECASE,
)
"""What a title says of the list, behind whose it is."""
WHOSE = rows_above.WHERE | {"company"}
"""Columns that say whose a row is or where; without any of them no row comes in, unless a title says it for all."""
_DITTO = {
    '"', "''", "ditto", "dito", "dto", "do", "same", "same as above", "as above", "s.o", "w.o", "wie vor", "wie oben",
    "same owner", "same customer", "same cust",
    "siehe oben", "s. oben", "idem",
}  # fmt: skip
"""What people write for: as in the cell above."""


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
    first = cells.pop("first_name", "")
    if first and _TO_WHOM.match(said.plainly(first)):
        entry.notes.append(first)
    elif first:
        cells["customer"] = " ".join(one for one in (first, cells.get("customer")) if one)
    order = list(cells)
    number, unit, street = cells.pop("house_number", ""), cells.pop("apartment", ""), cells.get("street", "")
    room = str(cells.pop("room", ""))
    if number and street:
        behind = order.index("house_number") > order.index("street")
        between = " " if re.search(r"\d", number) else ", "
        cells["street"] = f"{street}{between}{number}" if behind else f"{number}{between}{street}"
    elif (
        number
        and (there := cells.get("address"))
        and not re.search(r"\d", re.sub(r"^\d+ (?=[^\W\d])", "", there.street))
    ):
        # "101 Sundallee" beside "Haus-Nr." is the street of an estate of that number.
        there = replace(there, street=re.sub(r"^\d+ ", "", there.street))
        behind = order.index("house_number") > order.index("address")
        cells["address"] = replace(there, street=f"{there.street} {number}" if behind else f"{number} {there.street}")
    elif number and re.search(r"[^\W\d]{3}", number):
        # A house that has a name, and stands in no street.
        cells["street"] = number
    elif number:
        entry.notes.append(number)
    if unit and (address := cells.get("address")):
        between = " " if _UNIT.match(said.plainly(unit)) else ", "
        cells["address"] = replace(address, street=f"{address.street}{between}{unit}"[:200])
    elif unit and cells.get("street"):
        cells["street"] = f"{cells['street']} {unit}"
    elif unit and not _UNIT.match(said.plainly(unit)):
        # The second line of an address of which the first is empty.
        cells["street"] = unit
    elif unit:
        room = str(unit)
    if room:
        cells["location"] = ", ".join(one for one in (room, cells.get("location")) if one)
    return room


_TO_WHOM = re.compile(r"(attn|att|c/o|ask for|z\. ?hd|zhd|contact)\b")
"""Whom a letter is for, where a first name is asked for."""
_UNIT = re.compile(r"(apt|apartment|unit|ste|suite|floor|flat|bldg|building|#|[a-z]?-?\d+[a-z]?$|[a-z]$)")
"""How a part of a house is called."""

"""The rows of an office's own list, as their cells are understood: what cannot be read stays as a note and is told."""

import re
from collections.abc import Iterable, Mapping
from dataclasses import replace

from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import values
from aquifer.formats import heater_said, said
from aquifer.formats.cells import BadCell, Column, measured, text_up_to, word
from aquifer.formats.office import is_total
from aquifer.formats.sheet import Matched, Sheet
from aquifer.heaters.models import Heater
from aquifer.imports import card_cells, column_names, kind_cells, row_cells, water_cells
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


_NUMBERED = re.compile(r"(?<!\d)#?([1-9])(?:st|nd|rd|th)?(?!\d)|(?<![^\W_])([A-D])(?![^\W_])")
_LETTERS = "ABCD"
_LINES_OF_ONE = re.compile(r"addr|phone|\bph ?\d|\btel|cell|mobile|mail|\b(visit|call|trip|bill|ship)\b", re.IGNORECASE)
"""Of these a number counts lines or visits, and not heaters."""
NAMELESS = re.compile(r"column \d+")
"""How a column without a name is called, by its place."""


def unnumbered(name: str) -> str:
    """A column's name without the number or letter of its heater, or its kind."""
    if kind_named(name):
        return unkinded(name)
    return " ".join(re.findall(r"[^\W_]+", said.plainly(_NUMBERED.sub(" ", name, count=1))))


_KIND_NAMED = re.compile(
    r"(gas|ng|lp|propane|elec(?:tric)?|electric|tankless(?: gas| electric)?|heat pump|hpwh|indirect)\b"
    r"(?: ?(?:water )?(?:tank|heater|wh|htr|unit)\b)?[ ?():,-]*"
    r"(?P<rest>gal(?:lon)?s?|size|capacity|litres|liters|l|yr|year|age|installed|put in|serial(?: no)?|make|model|"
    r"location|last (?:flush|service|descale)|flushed|descaled|anode|t&p|qty|count|how many|)[ ?()]*"
)


def kind_named(name: str) -> str:
    """The kind of heater that a column's name begins with, where the rest of it is something of such a heater."""
    found = _KIND_NAMED.fullmatch(said.plainly(name))
    return found[1] if found else ""


def unkinded(name: str) -> str:
    """A column's name without the kind that it begins with."""
    found = _KIND_NAMED.fullmatch(said.plainly(name))
    return found["rest"] if found else name


def kinds_named(header: Iterable[str]) -> list[str]:
    """The kinds of heaters that have columns of their own, as "Gas tank yr" and "Electric tank yr"; none where there
    is but one."""
    kinds = list(dict.fromkeys(kind for name in header if (kind := kind_named(name))))
    return kinds if len(kinds) > 1 else []


def heater_numbers(header: Iterable[str]) -> dict[str, int]:
    """Which heater of its row each column tells of, by the number or letter in its name: of "WH1 size" and "WH2 size"
    the first and the second. One that has no fellow under another number is the first's. Where kinds have columns of
    their own, each is a heater."""
    header = list(header)
    if kinds := kinds_named(header):
        return {name: kinds.index(kind) + 1 if (kind := kind_named(name)) else 1 for name in header}
    told = {name: _number_in(name) for name in header}
    numbers: dict[str, set[int]] = {}
    for name, number in told.items():
        numbers.setdefault(_alike(name), set()).add(number)
    return {name: number if len(numbers[_alike(name)]) > 1 else 1 for name, number in told.items()}


def _alike(name: str) -> str:
    """What columns of a row's heaters have in common: "Heater #1 (type, size)" and "Heater #2" are fellows."""
    return unnumbered(re.sub(r"\([^()]*\)\s*$", "", name) or name)


def _number_told(name: str) -> re.Match[str] | None:
    """The number or letter of a heater in a column's name."""
    return None if NAMELESS.fullmatch(name) or _LINES_OF_ONE.search(name) else _NUMBERED.search(name)


def _number_in(name: str) -> int:
    found = _number_told(name)
    return 1 if not found else int(found[1]) if found[1] else _LETTERS.index(found[2]) + 1


def entries(sheet: Sheet, matches: Mapping[str, Matched], how: How) -> list[Entry]:
    """Each row as it was understood."""
    entries: list[Entry] = []
    numbers, above = heater_numbers(sheet.header), dict[str, str]()
    own_kinds, is_french = kinds_named(sheet.header), any(_FRENCH.search(said.plainly(name)) for name in sheet.header)
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
    is_flush_of_one = any(_number_told(sheet.header[at]) for at in flushes)
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
            _name_kinds(entry, others, own_kinds)
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
        if entry.cells.pop("nobody", False) and not entry.cells.keys() & _WHERE:
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
                _seen_to_as_well(other, entry)
        _share(entry, sheet.header, cells, matches, how)
        heading = _under(entry, cells, matches, heading)
        if is_total(cells):
            entry.cells["total"] = True
        elif entries:
            _as_above(entry, entries[-1])
        entries.append(entry)
    _head_their_parts(entries)
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


def _name_kinds(entry: Entry, others: dict[int, tuple[Entry, list[str]]], kinds: list[str]) -> None:
    """Each heater that has columns of its own is of the kind that they are called by; what the row says of its flush
    is true of all."""
    for number, kind in enumerate(kinds, start=1):
        of = entry if number == 1 else others.get(number, (Entry(0), []))[0]
        count = of.cells.pop("count", None)
        if count != 0 and (count or of.has_heater) and (guess := heater_said.kind(kind)):
            of.cells["kind"], of.cells["vent"] = guess.kind, guess.vent
            of.cells |= {"count": count} if count and count > 1 else {}
            for name in _OF_EACH - {"installed"}:
                if name in entry.cells:
                    of.cells.setdefault(name, entry.cells[name])


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
_HAS_YEAR = re.compile(r"(19|20)\d\d|'\d\d|^\d{1,2}\.\d\d$")
_WHERE = {"customer", "address", "street"}
WHOSE = _WHERE | {"company"}
"""Columns that say whose a row is or where; without any of them no row comes in, unless a title says it for all."""
_OF_EACH = {"installed", "last_flush"}
"""What is true of all heaters that are named in one cell, where it stands beside them."""
_DITTO = {
    '"', "''", "ditto", "dito", "dto", "do", "same", "same as above", "as above", "s.o", "w.o", "wie vor", "wie oben",
    "same owner", "same customer", "same cust",
    "siehe oben", "s. oben", "idem",
}  # fmt: skip
"""What people write for: as in the cell above."""
_OF_THE_HOUSE = (
    "account", "customer", "address", "street", "town", "state", "postcode", "phone", "second_phone", "email",
    "softener", "well", "hardness", "pressure", "people", "latitude", "longitude",
)  # fmt: skip


def _seen_to_as_well(other: Entry, entry: Entry) -> None:
    """Who came to a house, by a column that is of none of its heaters alone, saw to each that stood there then."""
    flushed, put_in = entry.said("last_flush"), other.said("installed")
    is_known = flushed and flushed.on and other not in entry.of_one_cell
    if is_known and not (put_in and put_in.on and put_in.on > flushed.on):
        other.cells.setdefault("last_flush", flushed)


def _share(entry: Entry, header: Iterable[str], cells: Iterable[str], matches: Mapping[str, Matched], how: How) -> None:
    """What the row says once of the heaters of one cell is true of each; what it says as often is each one's own."""
    for name, cell in zip(header, cells, strict=True):
        if (match := matches.get(name, _NOTHING)).column == "size" and name in entry.unread:
            _own_sizes(entry, name, match, cell, how)
            _own_kinds(entry, header, cells, matches)
    own = set[str]()
    for name, cell in zip(header, cells, strict=True):
        match = matches.get(name, _NOTHING)
        if match.column == "serial":
            _own_serials(entry, cell)
        if match.column not in _OF_EACH:
            continue
        parts = _days_of_each(cell, is_age=match.written == "age")
        if len(parts) == 1 and len(years := cell.split("/")) == 1 + len(entry.of_one_cell) > 1:
            # "19 / 02" of two heaters are their years.
            parts = (
                [one.strip() for one in years] if all(_TWO_FIGURES.fullmatch(one.strip()) for one in years) else parts
            )
        if len(parts) == entry.said("count") and not entry.others:
            _told_apart(entry, len(parts))
        heaters = [entry, *entry.of_one_cell]
        if 1 < len(parts) == len(heaters):
            entry.unread.pop(name, None)
            entry.notes = [note for note in entry.notes if not note.startswith(f"{name}: ")]
            for of, part in zip(heaters, parts, strict=True):
                of.cells.pop(match.column, None)
                try:
                    row_cells.read(of, name, match, part, how)
                except BadCell as error:
                    of.unread[name] = str(error)
                    of.notes.append(f"{name}: {part}")
            own.add(match.column)
    # What a column behind them told apart has what stood before it, too.
    for column in (_OF_EACH & entry.cells.keys()) - own:
        for of in entry.of_one_cell:
            of.cells.setdefault(column, entry.cells[column])


def _days_of_each(cell: str, is_age: bool) -> list[str]:
    """The days or ages that a cell says, of each heater one; one of them may be that it never was. What is one day
    stays whole."""
    told = cell.strip()
    if len(_OF_WHICH.findall(told)) > 1:
        # "A: 5/25 B: never"
        return [part.strip(" ,;") for part in _OF_WHICH.split(told) if part.strip(" ,;")]
    for between in (r"\s*[;\r\n]+\s*", rf"\s+(?:[/&+]|{_AND})\s+", rf"\s*(?:[/;&+\r\n]|\b{_AND})\s*", r"\s*,\s+"):
        parts = [part for part in re.split(between, told) if part]
        dated = [bool(_HAS_YEAR.search(part)) or bool(_MONTH_ALONE.fullmatch(part)) for part in parts]
        are_days = any(dated) and all(
            is_dated or said.plainly(part).strip(" .") in said.NEVER or said.is_unknown(part)
            for part, is_dated in zip(parts, dated, strict=True)
        )
        if len(parts) > 1 and (are_days or (is_age and all(re.match(r"\d{1,2}\b", part) for part in parts))):
            return parts
    return [cell]


_TWO_FIGURES = re.compile(r"'?\d\d")
_AND = r"(?:and\b|und\b|u\.|et\b|y\b)"
_OF_WHICH = re.compile(r"(?<![^\W_])[A-D] ?: ?")
_MONTH_ALONE = re.compile(r"(0?[1-9]|1[0-2])[/.](\d\d|\d{4})")


def _own_kinds(entry: Entry, header: Iterable[str], cells: Iterable[str], matches: Mapping[str, Matched]) -> None:
    """Of heaters that something else in the row tells apart each its own kind, where one cell names as many."""
    for name, cell in zip(header, cells, strict=True):
        if matches.get(name, _NOTHING).column == "kind":
            kinds = [heater_said.kind(heater_said.as_meant(name, part)) for part in _PARTED.split(cell.strip())]
            if len(kinds) == 1 + len(entry.of_one_cell) and all(kinds):
                for of, guess in zip([entry, *entry.of_one_cell], kinds, strict=True):
                    of.cells |= {"kind": guess.kind, "vent": guess.vent} if guess else {}


_PARTED = re.compile(r"\s*(?:[/;&+]|\band\b|\bund\b)\s*")


def _own_sizes(entry: Entry, name: str, match: Matched, cell: str, how: How) -> None:
    """Two sizes in a cell are those of two heaters."""
    parts = _PARTED.split(cell.strip())
    counted = entry.said("count") in (None, len(parts))
    if not 1 < len(parts) <= MOST_IN_A_CELL or not counted or not all(re.match(r"\d{2,3}\b", one) for one in parts):
        return
    entry.unread.pop(name)
    entry.notes = [note for note in entry.notes if not note.startswith(f"{name}: ")]
    if not entry.of_one_cell:
        _told_apart(entry, len(parts))
    for of, part in zip([entry, *entry.of_one_cell], parts, strict=False):
        row_cells.read(of, name, match, part, how)


MOST_IN_A_CELL = 4
"""Heaters whose sizes stand in one cell; more figures are something else. Assumption."""


def _own_serials(entry: Entry, cell: str) -> None:
    """As many serial numbers as heaters are one each."""
    if said.is_unknown(cell):
        return
    parts = [part for part in re.split(r"\s*(?:[,;/&\r\n]|\band\b)\s*", cell) if part]
    if len(parts) > 1 and len(parts) == entry.said("count") and not entry.others:
        _told_apart(entry, len(parts))
    if 1 < len(parts) == 1 + len(entry.of_one_cell):
        for of, part in zip([entry, *entry.of_one_cell], parts, strict=True):
            # "E2207-118, -119": as the first one begins.
            of.cells["serial"] = f"{parts[0].rpartition('-')[0]}{part}" if part.startswith("-") else part


def _told_apart(entry: Entry, number: int) -> None:
    """So many of the same as entries of their own, since something is said of each."""
    entry.cells["count"] = 1
    own = {name: entry.cells[name] for name in {*OF_A_HEATER, "vent"} & entry.cells.keys() - _OF_EACH}
    entry.of_one_cell += [Entry(entry.number, dict(own)) for _ in range(number - 1)]
    entry.others += entry.of_one_cell


def _under(entry: Entry, cells: Iterable[str], matches: Mapping[str, Matched], heading: Entry | None) -> Entry | None:
    """A row that names a house of a customer, and those below it, which name its parts and no address. Returns: the
    heading that the next row stands under."""
    if any(match.column in ("address", "street") for match in matches.values()):
        return None
    own = entry.cells
    if "address" in own:
        is_alone = not own.keys() - {"customer", "address", "phone", "second_phone"}
        return entry if is_alone and "customer" in own and not entry.has_heater else None
    if heading and entry.has_heater and own.get("customer"):
        heading.cells["heads"] = True
        own["location"] = ", ".join(one for one in (own["customer"], own.get("location")) if one)
        own |= {name: heading.cells[name] for name in ("customer", "address")}
        own |= {
            name: heading.cells[name] for name in ("phone", "second_phone") if name in heading.cells.keys() - own.keys()
        }
        entry.notes += [note for note in heading.notes if note not in entry.notes]
    return heading


def _head_their_parts(entries: list[Entry]) -> None:
    """A row of a customer without a heater heads those that name parts of theirs."""
    of_parts = {entry.said("customer") for entry in entries if entry.cells.pop("is_part", False)}
    for entry in entries:
        if entry.said("customer") in of_parts and not entry.has_heater and "location" not in entry.cells:
            entry.cells["heads"] = True


def _as_above(entry: Entry, before: Entry) -> None:
    """A row that names a heater and nobody is of the house above it; so is one at the same address, and something
    behind it: "9 Weir St (shop)"."""
    if _is_at_the_same(entry, before):
        entry.cells["location"] = _street_of(entry)[len(_street_of(before)) :].strip(" ,()-")
        entry.above = before.above or before.number
        entry.cells = {name: before.cells[name] for name in _OF_THE_HOUSE if name in before.cells} | {
            name: value for name, value in entry.cells.items() if name not in ("address", "street")
        }
        return
    if entry.cells.keys() & _WHERE or not any(own.has_heater for own in entry.heaters):
        return
    if before.cells.keys() & _WHERE and "total" not in before.cells:
        entry.above = before.above or before.number
        entry.notes += [note for note in before.notes if said.is_gone(note)]
        entry.cells = {name: before.cells[name] for name in _OF_THE_HOUSE if name in before.cells} | entry.cells


def _is_at_the_same(entry: Entry, before: Entry) -> bool:
    """Whether a row that names nobody stands at the address above it, in a part of the house that it names alone."""
    own, there = _street_of(entry), _street_of(before)
    if not own or not there or entry.cells.keys() & {"customer", "account"} or not before.said("customer"):
        return False
    rest = own[len(there) :] if own.startswith(there) else ""
    return entry.has_heater and bool(re.fullmatch(r" ?[(,-] ?[^\W\d][^\d]*", rest))


def _street_of(entry: Entry) -> str:
    address = entry.said("address")
    return str(address.street if address else entry.said("street") or "")


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

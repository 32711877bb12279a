"""What a column of somebody's own file is: by its name, and in an office's list by what stands in it, too.

Names are told by those that other people use, by what they are like, and by what they may be short for; a name that
says one thing over cells that say another is not believed where something else fits both.
"""

import contextlib
import re
from collections.abc import Iterator
from dataclasses import dataclass

from aquifer.core.units import Quantity
from aquifer.formats import day_said, heater_said
from aquifer.formats.cells import BadCell, Column
from aquifer.formats.office import HEADING
from aquifer.formats.said import is_unknown, plainly, unit_behind
from aquifer.formats.sheet import Matched
from aquifer.imports import column_names, column_units, entry, heater_columns, office_cells, part_cells, row_cells
from aquifer.imports.column_names import plain
from aquifer.imports.entry import Entry, How
from aquifer.imports.tables import Table


def named(table: Table, name: str) -> Column | None:
    """The table's column of this name."""
    return next((column for column in table.columns if column.name == name), None)


def by_name(table: Table, name: str) -> Column | None:
    """The column that people call so, with or without a unit behind it."""
    said, own = plain(name), {"list": column_names.LIST_NAMES, "jobs": column_names.JOB_NAMES}.get(table.kind, {})
    for column in table.columns:
        ours = plain(column.name)
        if said in (
            ours,
            ours.rsplit(" ", 1)[0] if column.ways else ours,
            *column_names.OTHER_NAMES.get(column.name, ()),
            *own.get(column.name, ()),
        ):
            return column
    without_unit = " ".join(word for word in said.split() if word not in column_names.UNIT_WORDS)
    if not without_unit or without_unit == said:
        return None
    # "House psi" is no number of a house: what has no units is not told in one.
    found = by_name(table, without_unit)
    return found if found and (found.ways or found.name in _TOLD_IN_UNITS) else None


_TOLD_IN_UNITS = {"installed", "anode", "expansion_tank", "kind", "input_kw"}
"""Columns that know no units of their own, or others, and whose names may have one."""


@dataclass(frozen=True)
class _Candidate:
    """What a column may be, and how much speaks for it."""

    worth: float
    at: int
    column: Column
    share: float = 1.0
    """Of its cells that can be so."""


CALLED, ALIKE, SHORT_FOR, UNNAMED = 3.0, 2.0, 1.0, 0.5
"""What it is worth that a column is called so by others, that its name is like it, that it may be short for it, that
only its cells say so. Assumption: the order is all that counts."""
FITS, MOSTLY = 0.2, 0.5
"""Share of the cells that can be read as what a name says, below which the name is not believed where anything else is
likelier; and above which a short or missing name is. Assumption."""
MOST_OF_A_KIND = 9.0
"""Heaters of one kind in a house; a larger figure is a size. Assumption."""
ENOUGH = 3
"""Cells of which none can be what a name says, and it is nothing. Assumption."""
BY_CELLS, BELIED = 0.8, 0.1
"""What all cells that fit add to a name, less than one way of knowing a name is worth over the next; and what is left
of a name that they belie. Assumption, as above."""
LOOKED_AT, LONGEST = 200, 300
"""Cells of a column that are read for it, and letters of each. Assumption: a list of one hand goes on as it begins."""


def of_list(table: Table, header: list[str], lines: list[list[str]], how: How) -> list[Column | None]:
    """What the columns of an office's list are, each once of each of a row's heaters, the surest first; None for what
    numbers the rows, and a note for what nothing is known of."""
    numbers = heater_columns.heater_numbers(header)
    candidates: list[_Candidate] = []
    for at, name in enumerate(header):
        cells = [line[at].strip() for line in lines if at < len(line)]
        says = (cell for cell in cells if cell and not is_unknown(cell) and not office_cells.is_ditto(cell))
        told = [cell[:LONGEST] for cell in says][:LOOKED_AT]
        if not is_count_of_rows(name, cells):
            own = heater_columns.unnumbered(name) if numbers[name] > 1 else name
            candidates += _candidates(table, header, at, own, told, how)
    found: list[Column | None] = [None] * len(header)
    taken = set[tuple[str, int]]()
    for candidate in sorted(candidates, key=lambda one: (-one.worth, one.at)):
        column: Column | None = candidate.column
        if column and found[candidate.at] is None:
            of = numbers[header[candidate.at]]
            is_taken = place(column.name, of) in taken
            if is_taken and not column.many:
                column = named(table, _SECOND.get(column.name, ""))
            elif (
                is_taken
                and column.name in _MORE_OF
                and candidate.share <= MOSTLY
                and not _describes(header[candidate.at])
            ):
                column = None
            if column and (column.many or place(column.name, of) not in taken):
                found[candidate.at] = column
                taken.add(place(column.name, of))
    for at, name in enumerate(header):
        cells = [line[at] for line in lines if at < len(line)]
        if found[at] is None and not is_count_of_rows(name, cells):
            beside = _by_neighbour(table, name, cells, found[at - 1] if at else None)
            if beside and place(beside.name, 1) in taken:
                beside = None
            found[at] = beside or named(table, "note")
            taken |= {place(beside.name, 1)} if beside else set()
    _add_whom_and_where(table, lines, found, {candidate.at for candidate in candidates})
    return found


def _add_whom_and_where(table: Table, lines: list[list[str]], found: list[Column | None], understood: set[int]) -> None:
    """Where no name says who it is or where, the first column of an unknown name does that has such cells: without
    either no row comes in. Parameters: understood, the columns whose names say something."""
    _take_places_for_addresses(table, lines, found)
    there = {column.name for column in found if column}
    for wanted, names in (("address", {"address", "street"}), ("customer", {"customer", "company"})):
        if there & names:
            continue
        for at in range(len(found)):
            told = [cell[:LONGEST] for line in lines[:LOOKED_AT] if at < len(line) and (cell := line[at].strip())]
            looks = sum(bool(_SURELY[wanted].fullmatch(cell)) for cell in told)
            if at not in understood and looks > MOSTLY * len(told) and 2 * len({*told}) > len(told):
                found[at] = named(table, wanted)
                break


def _take_places_for_addresses(table: Table, lines: list[list[str]], found: list[Column | None]) -> None:
    """Where a heater stands is the address of its house, where most of such cells have a town with its postcode; what
    was taken for the address has none, and says whose the house is."""
    places = {column.name: at for at, column in enumerate(found) if column}
    at, before = places.get("location"), places.get("address")
    if at is None or "street" in places or _with_towns(lines, at) <= MOSTLY:
        return
    if before is not None and _with_towns(lines, before) > FITS:
        return
    found[at] = named(table, "address")
    if before is not None:
        found[before] = named(table, "location" if "customer" in places else "customer")


def _with_towns(lines: list[list[str]], at: int) -> float:
    """Share of the cells of a column that have a town with its postcode."""
    told = [cell for line in lines[:LOOKED_AT] if at < len(line) and (cell := line[at].strip())]
    return sum(bool(_WITH_A_TOWN.search(cell)) for cell in told) / max(len(told), 1)


_WITH_A_TOWN = re.compile(r",\s*\d{4,5} [^\W\d]|[^\W\d], [A-Z]{2} \d{5}")
_SURELY = {
    "address": re.compile(r"\d+\w? [^\W\d]{2}.*|[^\W\d]{2}[^\d,]* \d+ ?[a-z]?(,.*)?", re.IGNORECASE),
    "customer": re.compile(r"[^\W\d]+[.'-]?[^\W\d]*\.?(,? [^\W\d&]+[.'-]?[^\W\d]*\.?){1,3}"),
}
"""What can hardly be anything else."""
_MORE_OF = {"kind", "anode"}
"""Told in several columns, as one of a type and one of a fuel; of a further one the cells must say so."""


def _describes(name: str) -> bool:
    """Whether a column says in words what stands there, beside another of its type or fuel."""
    return bool(
        re.search(
            r"\b(asset|equip\w*|unit) desc|\bappliance|\b(hw|dhw|hws|heater|hot water) (system|type)", plain(name)
        )
    )


_SECOND = {"phone": "second_phone"}
"""What a second column of a kind is, where there may be two."""


def place(column: str, number: int) -> tuple[str, int]:
    """What may stand once in a file: a column, of each of a row's heaters."""
    return column, number if column in entry.OF_A_HEATER else 1


def is_count_of_rows(name: str, cells: list[str]) -> bool:
    """Whether a column does nothing but number the rows."""
    return plain(name) in _ROW_NUMBERS and cells == [str(number) for number in range(1, len(cells) + 1)]


_ROW_NUMBERS = ("", "nr", "no", "number", "lfd nr", "pos", "row", "line", "item", "s no", "sr no")
_HOUSES = ("property", "building", "bldg", "complex", "facility", "site")


def _by_neighbour(table: Table, name: str, cells: list[str], before: Column | None) -> Column | None:
    """A column without a name: who it is stands first, and the town behind the street."""
    if not heater_columns.NAMELESS.fullmatch(plain(name)) or any(re.search(r"\d", cell) for cell in cells):
        return None
    return named(table, {"": "customer", "address": "town"}.get(before.name if before else "", ""))


def _candidates(table: Table, header: list[str], at: int, name: str, told: list[str], how: How) -> Iterator[_Candidate]:
    """All that a column may be, with its worth. Parameters: told, its cells that say anything."""
    worths: dict[str, float] = {}
    if heater_columns.kind_named(header[at]) in heater_columns.kinds_named(header) and not heater_columns.unkinded(
        header[at]
    ):
        # "Gas" beside "Electric": whether there is one, or how large it is.
        figures = [float(cell) for cell in told if re.fullmatch(r"\d+(\.\d+)?", cell)]
        worths["size" if max(figures, default=0.0) > MOST_OF_A_KIND else "count"] = CALLED + 1
    for column, base in _by_its_name(table, header, at, name, told):
        worths.setdefault(column, base)
    if not told:
        yield from (_Candidate(worth, at, one) for column, worth in worths.items() if (one := named(table, column)))
        return
    said = plain(name)
    shares = {column: _share(table, column, name, told, how) for column in worths}
    for column in _short_for(said):
        if column not in worths and (share := _share(table, column, name, told, how)) > MOSTLY:
            worths[column], shares[column] = SHORT_FOR, share
    for column, share in _by_cells(said, told):
        if column not in worths and share > MOSTLY:
            worths[column], shares[column] = UNNAMED, share
    for column, worth in worths.items():
        believed = worth + BY_CELLS * shares[column] if shares[column] >= FITS else BELIED * worth
        if (one := named(table, column)) and (shares[column] > 0 or len(told) < ENOUGH):
            yield _Candidate(believed, at, one, shares[column])


def _by_its_name(table: Table, header: list[str], at: int, name: str, told: list[str]) -> Iterator[tuple[str, float]]:
    if beside := _by_those_beside(table, header, at, told):
        yield beside, CALLED + 1
    said = plain(name)
    if column := by_name(table, header[at]) or by_name(table, name):
        yield column.name, CALLED
    if re.fullmatch(r"(19|20)\d\d", said) or row_cells.month_named(name):
        # A column of marks for each year or month: who keeps a list of heaters marks that they were seen to.
        yield "last_flush", CALLED
    if said == HEADING and not any(_OF_A_ROUND.search(plainly(cell)) for cell in told):
        yield "town", UNNAMED
    if re.search(r"\u00b0 ?d(h|\b)", plainly(name)):
        yield "hardness", CALLED
    if column_names.ALL_OF_A_HEATER.search(said):
        yield "kind", CALLED + 1
    if part_cells.OF_A_ROD_AND_MORE.search(plainly(name)):
        yield "anode", CALLED + 1
    if column_names.NAME_AND_ADDRESS.search(plainly(name)):
        yield "customer", CALLED
    for number, (alike, like) in enumerate(column_names.LIKE):
        if re.search(like, said):
            # Of several that a name is like the first is the likeliest.
            yield alike, ALIKE - number / 1000


_OF_A_ROUND = re.compile(
    r"\b(mon|tues?|wed(nes)?|thurs?|fri|sat(ur)?|sun)day\b|\b(route|run|round|truck|week|month|tour|touren?|woche|"
    r"montag|dienstag|mittwoch|donnerstag|freitag|january|february|march|april|june|july|august|\w+ember|october)\b|\d"
)
"""Headings of a list that is kept by its rounds, and not by its towns."""
_OF_A_HOUSE = re.compile(r"^(st|street|house|hse|haus)( name)?[./ ]*-? ?(#|no\b|nr\b|num)")
_AGREED = re.compile(r"(contract|agreement|member(ship)?|policy|plan|vertrag|contrat)( (no|num|number|nr|id))?")
_CODE_OF_A_CUSTOMER = re.compile(r"[A-Za-z]{1,4}[-. ]?\d{2,}|\d{5,}")
"""By the number of what was agreed a customer is known, where each has another, and it is neither a price nor a
year."""
_STREETS = re.compile(
    r"^((site|property|service|svc|job|premises?) )?"
    r"(street|strasse|str|addr(ess)? ?1?|adresse|calle|rue|straat)\b"
)
"""Names of a house's number, and of the street that it stands beside."""
_OF_AN_ADDRESS = r"addr|adress|anschrift|street|strasse|\b(city|town|zip|state|post ?code)\b"
"""Names of an address and of its parts."""


def _by_those_beside(table: Table, header: list[str], at: int, told: list[str]) -> str:
    """What a column is by those beside it or by what there is not: a number at a street is the house's, and where
    nobody is named a house is the customer."""
    said = plain(header[at])
    if _OF_A_HOUSE.search(plainly(header[at])):
        return "house_number"
    if said in ("no", "number", "nr"):
        beside = [plain(name) for name in (*header[max(at - 1, 0) : at], *header[at + 1 : at + 2])]
        return "house_number" if any(_STREETS.search(name) for name in beside) else "account"
    codes = [cell for cell in told if _CODE_OF_A_CUSTOMER.fullmatch(cell)]
    if _AGREED.fullmatch(said) and len(codes) > MOSTLY * len(told) and len({*codes}) == len(codes):
        return "account"
    if re.search(column_names.LETTERS_GO, said) and re.search(_OF_AN_ADDRESS, said):
        elsewhere = [one for one in map(plain, header) if not re.search(column_names.LETTERS_GO, one)]
        return "note" if any(re.search(_OF_AN_ADDRESS, one) for one in elsewhere) else ""
    if line := _line_of_an_address(table, header, at, told):
        return line
    others = [plain(name) for name in header if plain(name) not in _HOUSES]
    is_named = any(_names_customer(table, other) for other in others if other != said)
    if said in ("where", "place") and not is_named and _are_names_too(told):
        return "customer"
    if said not in _HOUSES or any(_names_customer(table, other) for other in others):
        return ""
    is_where = sum(bool(re.search(r"\d\w? [^\W\d]|\d,", cell)) for cell in told) > MOSTLY * len(told)
    is_beside = any(re.search(_OF_AN_ADDRESS, name) and not re.search(r"post ?code|zip", name) for name in others)
    return "address" if is_where and not is_beside and not _are_names_too(told) else "customer"


def _are_names_too(told: list[str]) -> bool:
    """Whether a column has a name before the address, often enough."""
    return sum(bool(row_cells.NAME_AND_ADDRESS.fullmatch(cell)) for cell in told) > FITS * len(told)


_LINE_OF_ONE = re.compile(r"(bill|ship)( to|ing)?( addr(?:ess)?)?( line)? ?[1-5]")
"""One of several columns that have an address line by line."""


def _line_of_an_address(table: Table, header: list[str], at: int, told: list[str]) -> str:
    """What a line of an address is, by what stands in it: the name, the street, the town. Where letters go counts only
    if nothing says where the heater stands."""
    found = _LINE_OF_ONE.fullmatch(plain(header[at]))
    fellows = [line for name in header if (line := _LINE_OF_ONE.fullmatch(plain(name)))]
    if not found or sum(line[1] == found[1] for line in fellows) < 2:
        return ""
    if sum(bool(_TOWN_ALONE.fullmatch(cell)) for cell in told) > MOSTLY * len(told):
        column = "town"
    elif sum(bool(_LINE_OF_A_STREET.match(cell)) for cell in told) > MOSTLY * len(told):
        column = "address"
    else:
        others = [plain(name) for name in header if not _LINE_OF_ONE.fullmatch(plain(name))]
        is_first = plain(header[at]).endswith("1") and not any(_names_customer(table, other) for other in others)
        return "customer" if is_first else "note"
    is_of_letters = found[1] == "bill" and any(line[1] != "bill" for line in fellows)
    return "note" if is_of_letters else column


_TOWN_ALONE = re.compile(r"[^\W\d][^\d,]*,? (?:[A-Z]{2} )?\d{4,5}(?:-\d{4})?|\d{4,5} [^\W\d].*")
_LINE_OF_A_STREET = re.compile(r"\d+\w? [^\W\d]|p\.? ?o\.? box|rr \d|[^\d,]+ \d+ ?[a-z]?$", re.IGNORECASE)


def _names_customer(table: Table, name: str) -> bool:
    if column := by_name(table, name):
        return column.name == "customer"
    if re.search(column_names.LIVES_THERE, name):
        return False
    return next((column for column, like in column_names.LIKE if re.search(like, name)), "") == "customer"


def _short_for(said: str) -> Iterator[str]:
    """What a name may be short for."""
    for column, names in column_names.LIST_NAMES.items():
        if any(_abbreviates(said, name) for name in (plain(column), *names)):
            yield column


def _abbreviates(short: str, name: str) -> bool:
    """Whether a name is an abbreviation of another, word by word or by its initials."""
    words, whole = short.split(), name.split()
    if len(words) == 1 and len(whole) > 1 and short == "".join(word[0] for word in whole):
        return True
    return len(words) == len(whole) and all(
        word == of or (len(word) > 1 and _leaves_out(word, of)) for word, of in zip(words, whole, strict=True)
    )


def _leaves_out(short: str, word: str) -> bool:
    """Whether a word is another with letters left out, the first kept: "twn", "inst"."""
    if word.startswith(short):
        return True
    rest = iter(word)
    return 2 * len(short) >= min(len(word), 8) - 1 and short[0] == word[0] and all(letter in rest for letter in short)


def _by_cells(said: str, told: list[str]) -> Iterator[tuple[str, float]]:
    """What the cells say without a name, and how many of them do."""
    yield "kind", sum(heater_said.kind(cell) is not None for cell in told) / len(told)
    yield "hardness", sum(bool(_HARD.match(cell)) for cell in told) / len(told)
    yield "size", sum(bool(unit_behind(cell, Quantity.VOLUME)) for cell in told) / len(told)
    yield "anode", sum(bool(_ROD.fullmatch(plainly(cell))) for cell in told) / len(told)
    yield "email", sum("@" in cell for cell in told) / len(told)
    yield "well", sum(plainly(cell).partition(" ")[0] in _WATERS for cell in told) / len(told)
    if heater_columns.NAMELESS.fullmatch(said):
        for column, like in column_names.VALUES:
            yield column, sum(bool(like.fullmatch(cell)) for cell in told) / len(told)
    if said == "unit" and all(re.fullmatch(r"#?\s?[\w-]{1,12}", cell) for cell in told):
        yield "apartment", MOSTLY + 0.1


_ROD = re.compile(r"((mg|mag|alu?|opfer)[ -]?)?(anode\w*|fremdstr\w*|titan\w*|magnesium|mg)\b\.?( (neu )?\d[\d./]*)?")
_HARD = re.compile(r"\d+(?:[.,]\d+)? ?(?:gpg|grains?|gr|°dh|°fh)\b", re.IGNORECASE)
_WATERS = {"city", "well", "mains", "municipal", "muni"}
"""Where a house's water may come from, as the first word of a cell."""


def _share(table: Table, column: str, name: str, told: list[str], how: How) -> float:
    """How many of the cells can be what a column says."""
    if column == "kind":
        sure = sum(heater_said.kind(cell) is not None or heater_said.is_kind_alone(cell) for cell in told)
        return max(sure, 0.4 * sum(bool(re.search(r"[^\W\d]", cell)) for cell in told)) / len(told)
    if column in ("customer", "make"):
        # "Last" may be a name, and a visit: "Jul '21" is nobody; and a day of make is no maker.
        told = ["" if _is_day(cell, how) else cell for cell in told]
    if like := _LOOKS.get(column):
        return sum(bool(like.search(cell)) for cell in told) / len(told)
    if column not in _READ:
        return 1.0
    one = named(table, column)
    match = Matched(column, column_units.written(one, name, how.units) if one else "")
    if column in ("phone", "second_phone"):
        # A whole day has figures enough for a number.
        told = ["day" if _is_day(cell, how) else cell for cell in told]
    return sum(_reads(match, name, cell, how) for cell in told) / len(told)


def _is_day(cell: str, how: How) -> bool:
    if not re.search(r"\d", cell):
        return False
    with contextlib.suppress(BadCell):
        return day_said.day(cell, how.today, how.day_first).on is not None
    return False


def _reads(match: Matched, name: str, cell: str, how: How) -> bool:
    own = Entry(0)
    try:
        row_cells.read(own, name, match, re.sub(r"\s+", " ", cell)[:2000], how)
    except BadCell:
        return False
    return True


_LOOKS = {
    "account": re.compile(r"^\W?(?=.*\d)[\w./#-]+( [\w./#-]+)?$"),
    "customer": re.compile(r"^(?!'?\d{1,2}[/.]\d)(?!\d+\w? [^\W\d])(?!\W?[A-Za-z]{0,3}[-.#]?\d[\w.-]*$).*[^\W\d]"),
    "first_name": re.compile(r"^[^\d@]*$"),
    "company": re.compile(r"[^\W\d]{2}"),
    "make": re.compile(r"[^\W\d]"),
    "address": re.compile(r"(?=.*[^\W\d]{2})(?=.*(\d|,))|\w+ \w+"),
    "location": re.compile(r"^(?!\d+\w? [^\W\d]{2})"),
    "street": re.compile(r"[^\W\d]{2}"),
    "house_number": re.compile(r"^(?!.*[^\W\d]{4}).*\d"),
    "state": re.compile(r"^[^\W\d_]{2,3}$|^[^\W\d_][^\d]{3,20}$"),
    "town": re.compile(r"^(\d{4,5} )?[^\d@]{2,}(\d{4,5}(-\d{4})?)?$"),
    "postcode": re.compile(
        r"^([A-Z]{2} )?\d{4,5}(-\d{3,4}| ?[A-Z]{2})?$|^\d{3}$|^[A-Z]{1,2}\d[\dA-Z]? ?\d[A-Z]{2}$|"
        r"^[A-Z]\d[A-Z] ?\d[A-Z]\d$|^[A-Z]\d[\dW] ?(?=\w*\d)[A-Z\d]{4}$",
        re.IGNORECASE,
    ),
}
"""What such cells look like, where any text can be read as one."""
_READ = {
    "phone", "second_phone", "email", "size", "setpoint", "pressure", "hardness", "installed", "last_flush", "people",
    "count", "anode", "relief_valve", "expansion_tank", "softener", "well", "input",
}  # fmt: skip
"""Columns of which not every text can be read."""

"""What the columns of somebody's file are in the program: known by name, remembered, or guessed and asked."""

import hashlib
import re
from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import asdict
from itertools import islice

from typing_extensions import TypedDict

from aquifer.core.units import METRIC, WRITTEN, Quantity, Unit
from aquifer.errors import Invalid
from aquifer.formats.cells import BadCell, Column
from aquifer.formats.heater_said import kind
from aquifer.formats.office import DAY
from aquifer.formats.said import plainly
from aquifer.formats.sheet import WHY_REFUSED, Matched, Sheet, missing_of, own_names
from aquifer.imports import column_names, entry, office_cells
from aquifer.imports.models import ImportRun, RememberedColumns
from aquifer.imports.tables import Table

SAMPLES = 3


def matches_of(run: ImportRun) -> dict[str, Matched] | None:
    """How a run's columns were matched, if they were."""
    return None if run.matches is None else {name: Matched(**match) for name, match in run.matches.items()}


def kept(matches: Mapping[str, Matched]) -> dict[str, dict[str, object]]:
    """Matches as they are kept."""
    return {name: asdict(match) for name, match in matches.items()}


def known(table: Table, sheet: Sheet) -> dict[str, Matched] | None:
    """The match of a file that needs no question: all names are ours, or such a file came before.

    Raises: UnreadableTable if all names are ours but a needed one is missing.
    """
    names = {column.name for column in table.columns}
    if all(name.lower() in names or name.lower() == WHY_REFUSED for name in sheet.header):
        return own_names(sheet, table.columns)
    before = RememberedColumns.objects.filter(kind=table.kind, header=_digest(sheet.header)).first()
    if before is None:
        return None
    by_low = {name: Matched(**match) for name, match in before.matches.items()}
    return {name: by_low.get(name.lower(), Matched("")) for name in sheet.header}


def remember(table: Table, matches: Mapping[str, Matched]) -> None:
    """Keep a match for the next file with these columns."""
    given = kept({name.lower(): match for name, match in matches.items()})
    RememberedColumns.objects.update_or_create(
        kind=table.kind, header=_digest(list(matches)), defaults={"matches": given}
    )


class SaidWord(TypedDict):
    """A word of a column, and what it means."""

    said: str
    means: str


class AskedColumn(TypedDict):
    """A column of a file, for a person to say what it is."""

    name: str
    samples: list[str]
    column: str
    written: str
    words: list[SaidWord]
    heater: int
    """Which heater of its row it tells of."""


def asked(table: Table, sheet: Sheet, units: Mapping[Quantity, Unit] = METRIC) -> list[AskedColumn]:
    """Each column of a file with its first cells and what it may be, for a person to say. Parameters: units, in which
    the company writes what has no unit beside it."""
    lines = [cells for _, cells in islice(sheet.lines, MOST_LOOKED_AT)]
    before = _words_said(table.kind) if table.kind == "list" else {}
    numbers, taken = _heater_numbers(table, sheet.header), set[tuple[str, int]]()
    asked_columns: list[AskedColumn] = []
    of_jobs = _of_jobs(table, sheet.header, lines) if table.kind == "jobs" else {}
    for at, name in enumerate(sheet.header):
        cells = [line[at] for line in lines if at < len(line)]
        column = _named(table, of_jobs[name]) if name in of_jobs else _guess(table, name)
        if table.kind == "list":
            own = office_cells.unnumbered(name) if numbers[name] > 1 else name
            column = _guess_beside(table, sheet.header, at) or column or _guess(table, own)
            column = column or _guess_alike(table, own, cells)
            if _is_count_of_rows(own, cells):
                column = None
        if column is None and office_cells.NAMELESS.fullmatch(_plain(name)):
            # Who it is stands first, and the town behind the street.
            behind = asked_columns[-1]["column"] if asked_columns else ""
            beside = {"": "customer", "address": "town"}.get(behind, "")
            column = None if any(re.search(r"\d", cell) for cell in cells) else _named(table, beside)
        if column and column.name == "done" and ("done", 1) in taken and _plain(name) in column_names.NOTES_BESIDE:
            column = _named(table, "note")
        if column and _place(column.name, numbers[name]) in taken and not column.many:
            column = _named(table, _SECOND.get(column.name, ""))
        if column is None and not _is_count_of_rows(name, cells):
            column = next((one for one in table.columns if one.many and one.name == "note"), None)
        if column:
            taken.add(_place(column.name, numbers[name]))
        asked_columns.append(
            {
                "name": name,
                "samples": [cell[:60] for cell in cells[:SAMPLES]],
                "column": column.name if column else "",
                "written": _written(column, name, units) if column else "",
                "words": _words(cells, before) if table.kind == "list" else [],
                "heater": numbers[name] if column and column.name in entry.OF_A_HEATER else 1,
            }
        )
    return asked_columns


def _of_jobs(table: Table, header: list[str], lines: list[list[str]]) -> dict[str, str]:
    """What a book's columns are by what stands in them, where their names do not say: the day, and the longest text is
    what was done. A number of the job is none of them; without names whoever is named stands first."""
    names = {name: "note" for name in header if "#" in name}
    found = {name: column.name for name in header if name not in names and (column := _guess(table, name))}
    cells = {
        name: [line[at].strip() for line in lines if at < len(line) and line[at].strip()]
        for at, name in enumerate(header) if name not in names
    }  # fmt: skip
    free = [name for name in cells if found.get(name, "note") == "note" and cells[name]]
    if "on" not in found.values():
        days = [name for name in free if all(DAY.fullmatch(cell) for cell in cells[name])]
        names |= dict.fromkeys(days[:1], "on")
    left = [name for name in free if name not in names]
    if "done" not in found.values() and left:
        nameless = [name for name in left if office_cells.NAMELESS.fullmatch(name)]
        if "customer" not in found.values():
            names |= dict.fromkeys(nameless[:1], "customer")
        told = {name: sum(map(len, cells[name])) / len(cells[name]) for name in left if name not in names}
        longest = max(told.values(), default=0.0)
        says = [name for name, long in told.items() if long == longest or (name in nameless and long > A_WORD)]
        names |= dict.fromkeys(says, "done")
    return names


A_WORD = 5.0
"""Letters of a cell on average beyond which it says something; whoever did it is told in fewer. Assumption."""


def _heater_numbers(table: Table, header: list[str]) -> dict[str, int]:
    """Which heater of its row each column tells of; in other files than an office's list a row has one."""
    return office_cells.heater_numbers(header) if table.kind == "list" else dict.fromkeys(header, 1)


def _place(column: str, number: int) -> tuple[str, int]:
    """What may stand once in a file: a column, of each of a row's heaters."""
    return column, number if column in entry.OF_A_HEATER else 1


def checked(table: Table, header: list[str], matches: Mapping[str, Matched]) -> dict[str, Matched]:
    """What a person said, if it can be so. Raises: Invalid naming the column of the file."""
    columns = {column.name: column for column in table.columns}
    used: dict[tuple[str, int], str] = {}
    numbers = _heater_numbers(table, header)
    for name, match in matches.items():
        if name not in header:
            raise Invalid(f"The file has no column {name[:60]!r}.", "import.columns", {name: "not in the file"})
        if not match.column:
            continue
        column = columns.get(match.column)
        if column is None:
            allowed = ", ".join(columns)
            raise Invalid(
                f"{name!r} cannot be {match.column[:40]!r}; allowed: {allowed}.", "import.columns", {name: "?"}
            )
        if (place := _place(match.column, numbers[name])) in used and not column.many:
            raise Invalid(
                f"{used[place]!r} and {name!r} cannot both be {match.column}.",
                "import.columns",
                {name: f"{match.column} is taken already"},
            )
        if match.written and match.written not in column.ways:
            raise Invalid(
                f"{name!r} cannot be written {match.written[:40]!r}; allowed: {', '.join(column.ways) or 'one way'}.",
                "import.columns",
                {name: "?"},
            )
        for said, means in match.words.items():
            try:
                office_cells.kind_word(means)
            except BadCell as error:
                raise Invalid(f"{said[:40]!r}: {error}.", "import.columns", {name: "?"}) from None
        used[place] = name
    missing = missing_of(matches, table.columns)
    if missing:
        raise Invalid(f"Nothing in the file is {', '.join(missing)}, which is needed.", "import.columns")
    return {name: matches.get(name, Matched("")) for name in header}


def _digest(header: list[str]) -> str:
    names = sorted(name.lower() for name in header if name.lower() != WHY_REFUSED)
    return hashlib.sha256("\n".join(names).encode()).hexdigest()


def _plain(name: str) -> str:
    return " ".join(re.sub(r"[^a-z0-9]+", " ", plainly(name)).split())


def _guess(table: Table, name: str) -> Column | None:
    said, own = _plain(name), {"list": column_names.LIST_NAMES, "jobs": column_names.JOB_NAMES}.get(table.kind, {})
    for column in table.columns:
        ours = _plain(column.name)
        if said in (
            ours,
            ours.rsplit(" ", 1)[0] if column.ways else ours,
            *column_names.OTHER_NAMES.get(column.name, ()),
            *own.get(column.name, ()),
        ):
            return column
    without_unit = " ".join(word for word in said.split() if word not in _unit_words())
    return _guess(table, without_unit) if without_unit and without_unit != said else None


def _guess_beside(table: Table, header: list[str], at: int) -> Column | None:
    """What a column is by those beside it or by what there is not: a number at a street is the house's, and where
    nobody is named a house is the customer."""
    said, found = _plain(header[at]), ""
    if said in ("no", "number", "nr"):
        beside = [_guess(table, name) for name in (*header[max(at - 1, 0) : at], *header[at + 1 : at + 2])]
        found = "house_number" if any(one and one.name == "street" for one in beside) else "account"
    elif said in _HOUSES:
        named = [name for name in header if _plain(name) not in _HOUSES and _names_customer(table, name)]
        found = "" if named else "customer"
    return _named(table, found)


def _is_count_of_rows(name: str, cells: list[str]) -> bool:
    """Whether a column does nothing but number the rows."""
    return _plain(name) in _ROW_NUMBERS and cells == [str(number) for number in range(1, len(cells) + 1)]


_ROW_NUMBERS = ("", "nr", "no", "number", "lfd nr", "pos", "row", "line", "item", "s no", "sr no")
_HOUSES = ("property", "building", "complex", "facility", "site")


def _names_customer(table: Table, name: str) -> bool:
    column = _guess(table, name) or _guess_alike(table, name, [])
    return column is not None and column.name == "customer"


def _named(table: Table, name: str) -> Column | None:
    return next((column for column in table.columns if column.name == name), None)


def _guess_alike(table: Table, name: str, cells: list[str]) -> Column | None:
    """What a column of an office's list is like by its name, else by what stands in it."""
    said, told = _plain(name), [cell.strip() for cell in cells if cell.strip()]
    found = next((column for column, like in column_names.LIKE if re.search(like, said)), "")
    if column_names.NAME_AND_ADDRESS.search(plainly(name)):
        found = "customer"
    if not found and told:
        shares = {
            "kind": sum(kind(cell) is not None for cell in told) / len(told),
            "email": sum("@" in cell for cell in told) / len(told),
            "well": sum(plainly(cell).partition(" ")[0] in _WATERS for cell in told) / len(told),
        }
        if office_cells.NAMELESS.fullmatch(said):
            shares |= {
                column: sum(bool(like.fullmatch(cell)) for cell in told) / len(told)
                for column, like in column_names.VALUES
            }
        found = max(shares, key=lambda one: shares[one])
        found = found if shares[found] > MOSTLY else ""
    if not found and said == "unit" and told and all(re.fullmatch(r"#?\s?[\w-]{1,12}", cell) for cell in told):
        found = "apartment"
    return _named(table, found)


MOSTLY = 0.5
_WATERS = {"city", "well", "mains", "municipal"}
"""Where a house's water may come from, as the first word of a cell."""


def _unit_words() -> set[str]:
    return {
        "l",
        "gal",
        "mm",
        "cm",
        "in",
        "c",
        "f",
        "kpa",
        "psi",
        "bar",
        "kw",
        "gpg",
        "ppm",
        "dh",
        "fh",
        *column_names.UNITS,
    }


_SECOND = {"phone": "second_phone"}
"""What a second column of a kind is, where there may be two."""
MOST_LOOKED_AT, MOST_WORDS = 2000, 40
"""Rows, and different words, of which it is asked what they mean. Assumption."""


def _words_said(kind_of_file: str) -> dict[str, str]:
    """What words meant in every file of a kind that was matched before; what was said last counts."""
    found: dict[str, str] = {}
    for matches in RememberedColumns.objects.filter(kind=kind_of_file).order_by("at").values_list("matches", flat=True):
        for match in matches.values():
            found |= match.get("words") or {}
    return found


def _words(cells: Iterable[str], before: Mapping[str, str]) -> list[SaidWord]:
    """The different words of a column with what each may mean as a kind of heater, the most frequent first."""
    counts = Counter(plainly(cell) for cell in cells if cell.strip())
    if len(counts) > MOST_WORDS:
        return []
    guesses = [(word, kind(word)) for word, _ in counts.most_common()]
    return [
        {"said": word, "means": before.get(word) or (guess.kind.value if guess else entry.UNKNOWN)}
        for word, guess in guesses
    ]


def _written(column: Column, name: str, units: Mapping[Quantity, Unit]) -> str:
    """The unit that a column's name says, else the one that the company writes in."""
    for word in reversed(_plain(name).split()):
        for way in (word, column_names.UNITS.get(word, ""), f"°{word}", f"°{word}h"):
            if way in column.ways:
                return way
    for quantity in units:
        if WRITTEN.get(quantity) and list(WRITTEN[quantity]) == list(column.ways):
            way = entry.way_of(units, quantity)
            # What the program writes itself needs no word.
            return way if way in column.ways and way != next(iter(column.ways)) else ""
    return ""

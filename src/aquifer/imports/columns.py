"""What the columns of somebody's file are in the program: known by name, remembered, or guessed and asked."""

import hashlib
from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import asdict
from itertools import islice

from typing_extensions import TypedDict

from aquifer.errors import Invalid
from aquifer.formats.cells import BadCell, Column
from aquifer.formats.heater_said import as_meant, kind
from aquifer.formats.said import plainly
from aquifer.formats.sheet import WHY_REFUSED, Matched, Sheet, missing_of, own_names
from aquifer.imports import (
    column_guess,
    column_units,
    entry,
    heater_columns,
    heaters_on_record,
    job_columns,
    office_cells,
)
from aquifer.imports.entry import How
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


def asked(table: Table, sheet: Sheet, how: How) -> list[AskedColumn]:
    """Each column of a file with its first cells and what it may be, for a person to say."""
    lines = [cells for _, cells in islice(sheet.lines, MOST_LOOKED_AT)]
    before = _words_said(table.kind) if table.kind == "list" else {}
    numbers = _heater_numbers(table, sheet.header)
    asked_columns: list[AskedColumn] = []
    for at, (name, column) in enumerate(zip(sheet.header, _guessed(table, sheet.header, lines, how), strict=True)):
        cells = [line[at] for line in lines if at < len(line)]
        asked_columns.append(
            {
                "name": name,
                "samples": [cell[:60] for cell in cells[:SAMPLES]],
                "column": column.name if column else "",
                "written": column_units.written(column, name, how.units, cells, sheet.header) if column else "",
                "words": _words(name, cells, before) if table.kind == "list" else [],
                "heater": numbers[name] if column and column.name in entry.OF_A_HEATER else 1,
            }
        )
    return asked_columns


def _guessed(table: Table, header: list[str], lines: list[list[str]], how: How) -> list[Column | None]:
    if table.kind == "list":
        return column_guess.of_list(table, header, lines, how)
    if table.kind == "jobs":
        return job_columns.of_jobs(table, header, lines, heaters_on_record.on_record())
    found, taken = list[Column | None](), set[str]()
    for name in header:
        column = column_guess.by_name(table, name)
        if column and column.name in taken:
            column = None
        found.append(column)
        taken.add(column.name if column else "")
    return found


def _heater_numbers(table: Table, header: list[str]) -> dict[str, int]:
    """Which heater of its row each column tells of; in other files than an office's list a row has one."""
    return heater_columns.heater_numbers(header) if table.kind == "list" else dict.fromkeys(header, 1)


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
        if (place := column_guess.place(match.column, numbers[name])) in used and not column.many:
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


MOST_LOOKED_AT, MOST_WORDS = 2000, 40
"""Rows, and different words, of which it is asked what they mean. Assumption."""


def _words_said(kind_of_file: str) -> dict[str, str]:
    """What words meant in every file of a kind that was matched before; what was said last counts."""
    found: dict[str, str] = {}
    for matches in RememberedColumns.objects.filter(kind=kind_of_file).order_by("at").values_list("matches", flat=True):
        for match in matches.values():
            found |= match.get("words") or {}
    return found


def _words(name: str, cells: Iterable[str], before: Mapping[str, str]) -> list[SaidWord]:
    """The different words of a column with what each may mean as a kind of heater, the most frequent first."""
    counts = Counter(plainly(cell) for cell in cells if cell.strip())
    if len(counts) > MOST_WORDS:
        return []
    guesses = [(word, kind(as_meant(name, word))) for word, _ in counts.most_common()]
    return [
        {"said": word, "means": before.get(word) or (guess.kind.value if guess else entry.UNKNOWN)}
        for word, guess in guesses
    ]

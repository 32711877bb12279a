"""A table as lines of text cells, whichever file it came in, and the reading of its columns.

Rows are numbered as a spreadsheet shows them: the header is row 1.
"""

import datetime
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field

from aquifer.formats.cells import LONGEST_CELL, BadCell, Column, Reader, Row, UnreadableTable

MOST_BYTES = 32 * 1024 * 1024
MOST_COLUMNS = 100
MOST_ROWS = 200_000
WHY_REFUSED = "why refused"
"""The column that a file of refused rows has besides its own; sent again, it is read past."""


@dataclass(frozen=True)
class Matched:
    """What a column of a file is in the program; an empty name leaves it out."""

    column: str
    written: str = ""
    """The way its cells are written, of those that the column knows; empty is the program's own."""
    words: Mapping[str, str] = field(default_factory=dict)
    """What its words mean, where they were asked for: by the word in small letters."""


@dataclass
class Sheet:
    header: list[str]
    lines: Iterator[tuple[int, list[str]]]
    """Row numbers with their cells; blank rows are passed over."""
    title: str = ""
    """What stands alone above the header."""
    parts: tuple[tuple[int, str], ...] = ()
    """Of a file whose rows come from several sheets: after which number those of each begin, rising, with its name."""

    def where(self, number: int) -> str:
        """On which sheet a row stands, and where on it; empty where there is but one."""
        before, name = next(((at, name) for at, name in reversed(self.parts) if at < number), (0, ""))
        return f"{name}, row {number - before}" if name else ""


def columns_at(header: Iterable[str], matches: Mapping[str, Matched]) -> dict[int, str]:
    """What each column of a file is in the program, by its place; of those that are anything."""
    return {at: matches[name].column for at, name in enumerate(header) if name in matches and matches[name].column}


def sheet_of(numbered: Iterator[tuple[int, list[str]]]) -> Sheet:
    """The first line of a file as its header, the rest as its lines.

    Raises: UnreadableTable if no header, too many columns, or a column twice.
    """
    header = [name.strip() for name in next(numbered, (1, []))[1]]
    while header and not header[-1]:
        header.pop()
    if not header:
        raise UnreadableTable("The file is empty: the first row must name the columns.")
    if len(header) > MOST_COLUMNS:
        raise UnreadableTable(f"The file has {len(header)} columns; at most {MOST_COLUMNS} are read.")
    low = [name.lower() for name in header]
    for at, name in enumerate(low):
        if not name:
            raise UnreadableTable(f"Column {at + 1} has no name in row 1.")
        if name in low[:at]:
            raise UnreadableTable(f"Column {header[at]!r} stands twice in row 1.")
    return Sheet(header, _lines(numbered, len(header)))


def _lines(numbered: Iterator[tuple[int, list[str]]], width: int) -> Iterator[tuple[int, list[str]]]:
    for count, (number, cells) in enumerate(numbered):
        if count >= MOST_ROWS:
            raise UnreadableTable(f"The file has more than {MOST_ROWS} rows. Split it.")
        while len(cells) > width and not cells[-1].strip():
            cells.pop()
        if any(cell.strip() for cell in cells):
            yield number, cells


def as_text(value: object) -> str:
    """A workbook's value as the cell of a text file would have it."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, datetime.datetime):
        return value.date().isoformat()
    if isinstance(value, float):
        return repr(value).removesuffix(".0")
    return str(value)


def own_names(sheet: Sheet, columns: list[Column]) -> dict[str, Matched]:
    """Each column of a file as the one of its name. Raises: UnreadableTable for an unknown or missing column."""
    known = {column.name for column in columns}
    for name in sheet.header:
        if name.lower() not in known and name.lower() != WHY_REFUSED:
            raise UnreadableTable(
                f"Unknown column {name[:60]!r} in row 1. Known columns: {', '.join(column.name for column in columns)}."
            )
    matched = {name: Matched("" if name.lower() == WHY_REFUSED else name.lower()) for name in sheet.header}
    missing = missing_of(matched, columns)
    if missing:
        raise UnreadableTable(f"Column {missing[0]!r} is missing from row 1.")
    return matched


def missing_of(matched: Mapping[str, Matched], columns: list[Column]) -> list[str]:
    """The needed columns that nothing in the file is."""
    there = {match.column for match in matched.values()}
    return [column.name for column in columns if column.required and column.name not in there]


def read_rows(sheet: Sheet, columns: list[Column], matched: Mapping[str, Matched]) -> Iterator[Row]:
    """Rows with typed cells, by the names of the program's columns.

    Raises: UnreadableTable while reading, if the file breaks off.
    """
    known = {column.name: column for column in columns}
    readers: list[tuple[Column, Reader] | None] = []
    for name in sheet.header:
        match = matched.get(name, Matched(""))
        column = known.get(match.column)
        readers.append((column, column.ways.get(match.written, column.read)) if column else None)
    for number, cells in sheet.lines:
        yield _row(number, cells, readers)


def _row(number: int, cells: list[str], readers: list[tuple[Column, Reader] | None]) -> Row:
    row = Row(number)
    if len(cells) != len(readers):
        row.faults["row"] = f"has {len(cells)} cells where the header has {len(readers)}"
        return row
    for reader, cell in zip(readers, cells, strict=True):
        if reader is None:
            continue
        (column, read), text = reader, plain(cell.strip())
        if not text:
            row.cells[column.name] = None
            if column.required:
                row.faults[column.name] = "is empty, but needed"
            continue
        try:
            if len(text) > LONGEST_CELL:
                raise BadCell(f"has {len(text)} characters; at most {LONGEST_CELL} are read")
            if "\x00" in text:
                raise BadCell("has a character that no text has")
            row.cells[column.name] = read(text)
        except BadCell as error:
            row.cells[column.name] = None
            row.faults[column.name] = str(error)
    return row


_STARTS_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def harmless(text: str) -> str:
    """Text that a spreadsheet would take for a formula, marked as text by an apostrophe; ``plain`` takes it off.

    Source: what spreadsheets take for a formula, = + - @ tab and return, as the OWASP list on CSV injection has it.
    """
    return "'" + text if text.lstrip("'").startswith(_STARTS_FORMULA) else text


def plain(text: str) -> str:
    """Text without the mark that ``harmless`` gave it."""
    return text[1:] if text.startswith("'") and text.lstrip("'").startswith(_STARTS_FORMULA) else text

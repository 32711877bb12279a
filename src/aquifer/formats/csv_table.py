"""Reading and writing tables as CSV: decoding, columns and typed cells, each fault with its row and column.

Knows nothing of the database. Rows are numbered as a spreadsheet shows them: the header is row 1.
"""

import csv
import datetime
import io
import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any

MOST_BYTES = 32 * 1024 * 1024
MOST_COLUMNS = 100
LONGEST_CELL = 2000


class UnreadableTable(ValueError):
    """The file as a whole cannot be taken as a table; the message says what to do."""


class BadCell(ValueError):
    """A cell that cannot be so; the message says what is allowed."""


Reader = Callable[[str], Any]


@dataclass(frozen=True)
class Column:
    name: str
    read: Reader
    required: bool = False


@dataclass
class Row:
    number: int
    cells: dict[str, Any] = field(default_factory=dict)
    """Values by column; only columns that the file has. None for an empty cell."""
    faults: dict[str, str] = field(default_factory=dict)
    """By column, what is wrong with its cell."""


def decoded(data: bytes) -> str:
    """The file's text. Raises: UnreadableTable if it is not UTF-8, naming the first line that is not."""
    if len(data) > MOST_BYTES:
        raise UnreadableTable(
            f"The file has {len(data) / 1e6:.0f} MB; at most {MOST_BYTES / 1e6:.0f} MB are read. Split it."
        )
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise UnreadableTable("The file is UTF-16. Save it as CSV UTF-8 and send it again.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        column = data[data.rfind(b"\n", 0, error.start) + 1 : error.start].count(b",") + 1
        raise UnreadableTable(
            f"The file is not UTF-8: row {line}, column {column} has a byte that is none. "
            "Save it as CSV UTF-8 and send it again."
        ) from None
    if "\x00" in text:
        raise UnreadableTable("The file holds bytes that no table has; is it really a CSV file?")
    return text


def read_table(text: str, columns: list[Column]) -> Iterator[Row]:
    """Rows of a table with typed cells.

    Parameters: text, the file; columns that it may have, in any order.
    Raises: UnreadableTable for a missing, doubled or unknown column, or no header at all.
    """
    reader = csv.reader(io.StringIO(text, newline=""), strict=True)
    known = {column.name: column for column in columns}
    try:
        header = [name.strip().lower() for name in next(reader, [])]
        _check_header(header, known)
        for cells in reader:
            if not any(cell.strip() for cell in cells):
                continue
            yield _row(reader.line_num, header, cells, known)
    except csv.Error as error:
        raise UnreadableTable(f"Row {reader.line_num} cannot be read as CSV: {error}.") from None


def _check_header(header: list[str], known: dict[str, Column]) -> None:
    if not any(header):
        raise UnreadableTable("The file is empty: the first row must name the columns.")
    if len(header) > MOST_COLUMNS:
        raise UnreadableTable(f"The file has {len(header)} columns; at most {MOST_COLUMNS} are read.")
    unknown = [name for name in header if name not in known]
    if unknown:
        raise UnreadableTable(f"Unknown column {unknown[0][:60]!r} in row 1. Known columns: {', '.join(known)}.")
    doubled = [name for name in header if header.count(name) > 1]
    if doubled:
        raise UnreadableTable(f"Column {doubled[0]!r} stands twice in row 1.")
    missing = [column.name for column in known.values() if column.required and column.name not in header]
    if missing:
        raise UnreadableTable(f"Column {missing[0]!r} is missing from row 1.")


def _row(number: int, header: list[str], cells: list[str], known: dict[str, Column]) -> Row:
    row = Row(number)
    if len(cells) != len(header):
        row.faults["row"] = f"has {len(cells)} cells where the header has {len(header)}"
        return row
    for name, cell in zip(header, cells, strict=True):
        column, text = known[name], cell.strip()
        if not text:
            row.cells[name] = None
            if column.required:
                row.faults[name] = "is empty, but needed"
            continue
        try:
            if len(text) > LONGEST_CELL:
                raise BadCell(f"has {len(text)} characters; at most {LONGEST_CELL} are read")
            row.cells[name] = column.read(text)
        except BadCell as error:
            row.cells[name] = None
            row.faults[name] = str(error)
    return row


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
        if not math.isfinite(value) or not low <= value <= high:
            raise BadCell(f"{text[:40]} is outside {low:g} to {high:g}")
        return value

    return read


def whole(low: int, high: int) -> Reader:
    """A whole number within bounds."""
    inner = number(low, high)

    def read(text: str) -> int:
        value = inner(text)
        if value != int(value):
            raise BadCell(f"{text[:40]} is not a whole number")
        return int(value)

    return read


def day(earliest: datetime.date, latest: datetime.date) -> Reader:
    """A date as 2026-03-09 within bounds."""

    def read(text: str) -> datetime.date:
        try:
            value = datetime.date.fromisoformat(text)
        except ValueError:
            raise BadCell(f"{text[:40]!r} is not a date; write it like 2026-03-09") from None
        if not earliest <= value <= latest:
            raise BadCell(f"{value} is outside {earliest} to {latest}")
        return value

    return read


def word(allowed: Iterable[str]) -> Reader:
    """One of some words."""
    words = list(allowed)

    def read(text: str) -> str:
        if text.lower() not in words:
            raise BadCell(f"{text[:40]!r} is unknown; allowed: {', '.join(words)}")
        return text.lower()

    return read


def yes_or_no(text: str) -> bool:
    """yes or no."""
    return bool(word(["yes", "no"])(text) == "yes")


def write_table(names: list[str], rows: Iterable[dict[str, Any]]) -> str:
    """A table as CSV, the way ``read_table`` reads it back."""
    out = io.StringIO(newline="")
    writer = csv.DictWriter(out, names, lineterminator="\n")
    writer.writeheader()
    for row in rows:
        writer.writerow({name: _cell(row.get(name)) for name in names})
    return out.getvalue()


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:g}"
    return str(value)

"""Tables as CSV: decoding, lines of cells, and writing what a spreadsheet opens without running anything."""

import csv
import io
from collections.abc import Iterable, Iterator, Mapping

from aquifer.formats.cells import Column, Row, UnreadableTable
from aquifer.formats.sheet import MOST_BYTES, Sheet, harmless, own_names, read_rows, sheet_of

_SEPARATORS = (",", ";", "\t")


BOM = "\ufeff"
"""By which a spreadsheet knows that a file for people is UTF-8; reading takes it away again."""


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


def any_text(data: bytes) -> str:
    """The file's text, in the first encoding that fits; what Windows wrote last, since every byte fits that.

    Raises: UnreadableTable for what is no text.
    """
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        encodings: tuple[str, ...] = ("utf-16",)
    elif data[:200].count(b"\x00") > 20:
        encodings = ("utf-16-le",)
    else:
        encodings = ("utf-8-sig", "cp1252", "latin-1")
    for encoding in encodings:
        try:
            text = data.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\x00" not in text:
            return text
    raise UnreadableTable("The file holds bytes that no table has; is it really a list?")


def csv_sheet(text: str) -> Sheet:
    """A CSV file's header and lines; separated by comma, semicolon or tab, whichever its header has most of.

    Raises: UnreadableTable, at once or while reading, with the row that cannot be read.
    """
    first = text.lstrip("\r\n").split("\n", 1)[0]
    separator = max(_SEPARATORS, key=lambda one: first.count(one))
    return sheet_of(_numbered(text, separator))


def _numbered(text: str, separator: str) -> Iterator[tuple[int, list[str]]]:
    number = 0
    try:
        for cells in csv.reader(io.StringIO(text, newline=""), strict=True, delimiter=separator):
            number += 1
            yield number, cells
    except csv.Error as error:
        raise UnreadableTable(f"Row {number + 1} cannot be read as CSV: {error}.") from None


def read_table(text: str, columns: list[Column]) -> Iterator[Row]:
    """Rows of a CSV file whose columns have the program's own names, in any order.

    Raises: UnreadableTable for a missing, doubled or unknown column, or no header at all.
    """
    sheet = csv_sheet(text)
    return read_rows(sheet, columns, own_names(sheet, columns))


def write_table(names: list[str], rows: Iterable[Mapping[str, object]]) -> str:
    """A table as CSV, the way ``read_table`` reads it back."""
    out = io.StringIO(newline="")
    for line in table_lines(names, rows):
        out.write(line)
    return out.getvalue()


def table_lines(names: list[str], rows: Iterable[Mapping[str, object]]) -> Iterator[str]:
    """The same, in pieces, for tables that are longer than memory is wide."""
    return lines_of_cells([harmless(name) for name in names], ([cell(row.get(name)) for name in names] for row in rows))


def lines_of_cells(header: list[str], rows: Iterable[list[str]]) -> Iterator[str]:
    """Cells that are written already, as CSV in pieces."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(header)
    for row in rows:
        writer.writerow(row)
        if out.tell() > 65_536:
            yield out.getvalue()
            out.seek(0)
            out.truncate()
    yield out.getvalue()


def cell(value: object) -> str:
    """A value as its cell: floats in full, dates as 2026-03-09, text such that it is no formula."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return repr(float(value)).removesuffix(".0")
    return harmless(value) if isinstance(value, str) else str(value)

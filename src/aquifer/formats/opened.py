"""A table from whatever file was sent: told by its first bytes, not by its name."""

import io
import zipfile
from enum import StrEnum, auto

from aquifer.formats.cells import UnreadableTable
from aquifer.formats.csv_table import any_text, csv_sheet, decoded
from aquifer.formats.marked_up import is_marked_up, marked_lines
from aquifer.formats.other_books import book_lines
from aquifer.formats.sheet import Sheet, sheet_of
from aquifer.formats.xlsx_table import SIGNATURE, refuse_bombs, xlsx_lines, xlsx_names, xlsx_sheet

COMPOUND = bytes.fromhex("d0cf11e0a1b11ae1")
"""What holds a workbook of before XLSX, and of later ones those with a password. Source: [MS-CFB], section 2.2."""
_AS_A_TABLE = "Send the list itself, as a workbook or as CSV."
_DATABASE = "The file is a whole database. Take the table with the list out of it as CSV and send that."
_OTHERS = (
    (0, b"%PDF", f"The file is a PDF: it shows a table and has none. {_AS_A_TABLE}"),
    (0, b"{\\rtf", f"The file is a letter, not a table. {_AS_A_TABLE}"),
    (0, b"\x89PNG", f"The file is a picture. {_AS_A_TABLE}"),
    (0, b"\xff\xd8\xff", f"The file is a picture. {_AS_A_TABLE}"),
    (0, b"GIF8", f"The file is a picture. {_AS_A_TABLE}"),
    (4, b"ftyp", f"The file is a picture or a film. {_AS_A_TABLE}"),
    (4, b"Standard Jet DB", _DATABASE),
    (4, b"Standard ACE DB", _DATABASE),
    (0, b"SQLite format 3", _DATABASE),
)
"""What is sent in place of a table: where its mark stands, the mark, what is said of it. Source: the formats' own
descriptions."""
_LETTER = f"The file is a letter, not a table. {_AS_A_TABLE}"
_LOCKED = "The workbook has a password. Save it without one and send it again."


class Form(StrEnum):
    """How a file keeps its table."""

    XLSX = auto()
    OTHER_BOOK = auto()
    TEXT = auto()


def form_of(data: bytes) -> Form:
    """How a file keeps its table. Raises: UnreadableTable for what has none, saying what it is."""
    for at, mark, said in _OTHERS:
        if data[at : at + len(mark)] == mark:
            raise UnreadableTable(said)
    if data.startswith(COMPOUND):
        if "EncryptedPackage".encode("utf-16-le") in data:
            raise UnreadableTable(_LOCKED)
        if "WordDocument".encode("utf-16-le") in data:
            raise UnreadableTable(_LETTER)
        return Form.OTHER_BOOK
    return _form_of_archive(data) if data.startswith(SIGNATURE) else Form.TEXT


def _form_of_archive(data: bytes) -> Form:
    refuse_bombs(data)
    names = set(zipfile.ZipFile(io.BytesIO(data)).namelist())
    if "word/document.xml" in names:
        raise UnreadableTable(_LETTER)
    if "xl/workbook.bin" in names or "Index/Document.iwa" in names:
        raise UnreadableTable("The workbook is kept in a form that other programs do not read. Save it as XLSX or ODS.")
    if "content.xml" in names:
        return Form.OTHER_BOOK
    if not any(name.startswith(("xl/", "[Content_Types]")) for name in names):
        raise UnreadableTable(f"The file is an archive of {len(names)} files. Send the one with the list in it.")
    return Form.XLSX


def sheets_of(data: bytes) -> dict[str, list[tuple[int, list[str]]]]:
    """The lines of each sheet of a workbook or table of a page, numbered, by its name; none for plain text.

    Raises: UnreadableTable for what has no table, or breaks off.
    """
    form = form_of(data)
    if form is Form.XLSX:
        return xlsx_lines(data)
    if form is Form.OTHER_BOOK:
        return book_lines(data)
    text = any_text(data)
    return marked_lines(text) if is_marked_up(text) else {}


def sheet_names(data: bytes) -> list[str]:
    """The names of a file's sheets in their order; none for plain text. Raises: as ``sheets_of``."""
    return xlsx_names(data) if form_of(data) is Form.XLSX else list(sheets_of(data))


def opened(data: bytes, name: str = "") -> Sheet:
    """The header and lines of a CSV file, or of a workbook's sheet of this name, else its first.

    Raises: UnreadableTable for anything else.
    """
    if form_of(data) is Form.XLSX:
        return xlsx_sheet(data, name)
    sheets = sheets_of(data)
    if not sheets:
        return csv_sheet(decoded(data))
    return sheet_of(iter(sheets.get(name, next(iter(sheets.values())))))

"""Tables from a workbook (XLSX): the values of its first sheet, read in bounded memory.

Source: Office Open XML, ISO/IEC 29500; the workbook is a zip archive of XML parts.
"""

import io
import zipfile
from collections.abc import Iterator
from itertools import islice

from openpyxl import load_workbook
from openpyxl.utils.exceptions import InvalidFileException
from openpyxl.worksheet.worksheet import Worksheet

from aquifer.formats.cells import UnreadableTable
from aquifer.formats.sheet import MOST_BYTES, MOST_COLUMNS, MOST_ROWS, Sheet, as_text, sheet_of

SIGNATURE = b"PK\x03\x04"
MOST_PARTS = 2000
MOST_UNPACKED = 256 * 1024 * 1024
"""Bytes of all parts of a workbook together; a sheet is read as a stream. Assumption."""
MOST_WORDS_UNPACKED = 48 * 1024 * 1024
"""Bytes of its table of words, which is held in memory. Assumption."""
_WHY = "Save the sheet as CSV UTF-8 and send that."


def xlsx_sheet(data: bytes, name: str = "") -> Sheet:
    """Header and lines of a workbook's sheet of this name, else of its first; formulas give the values that were saved
    with them.

    Raises: UnreadableTable for what is no workbook, unpacks to more than is read, or breaks off.
    """
    sheets = _sheets(data)
    return sheet_of(_numbered(next((one for one in sheets if one.title == name), sheets[0])))


def xlsx_lines(data: bytes) -> dict[str, list[tuple[int, list[str]]]]:
    """The lines of each sheet of a workbook that is not hidden, numbered, by the sheet's name. Raises: as
    ``xlsx_sheet``."""
    sheets = _sheets(data)
    shown = [sheet for sheet in sheets if sheet.sheet_state == "visible"] or sheets
    return {str(sheet.title): list(islice(_numbered(sheet), MOST_ROWS + 1)) for sheet in shown}


def xlsx_names(data: bytes) -> list[str]:
    """The names of a workbook's sheets in their order. Raises: as ``xlsx_sheet``."""
    return [str(sheet.title) for sheet in _sheets(data)]


def _sheets(data: bytes) -> list[Worksheet]:
    refuse_bombs(data)
    try:
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True, keep_links=False)
        sheets = book.worksheets
    except (InvalidFileException, zipfile.BadZipFile, KeyError, ValueError, OSError, SyntaxError, TypeError) as error:
        raise UnreadableTable(f"The workbook cannot be read ({type(error).__name__}). {_WHY}") from None
    if not sheets:
        raise UnreadableTable("The workbook has no sheet.")
    return list(sheets)


def refuse_bombs(data: bytes) -> None:
    """Raises: UnreadableTable for an archive that is broken or unpacks to more than is read."""
    if len(data) > MOST_BYTES:
        size, most = len(data) / 1e6, MOST_BYTES / 1e6
        raise UnreadableTable(f"The file has {size:.0f} MB; at most {most:.0f} MB are read. Split it.")
    try:
        parts = zipfile.ZipFile(io.BytesIO(data)).infolist()
    except (zipfile.BadZipFile, OSError, ValueError):
        raise UnreadableTable(f"The file begins like a workbook but is broken. {_WHY}") from None
    unpacked = sum(part.file_size for part in parts)
    words = sum(part.file_size for part in parts if not part.filename.startswith("xl/worksheets/"))
    if len(parts) > MOST_PARTS or unpacked > MOST_UNPACKED or words > MOST_WORDS_UNPACKED:
        raise UnreadableTable(
            f"The workbook unpacks to {unpacked / 1e6:.0f} MB in {len(parts)} parts; "
            f"at most {MOST_UNPACKED / 1e6:.0f} MB in {MOST_PARTS} are read. {_WHY}"
        )


def _numbered(sheet: Worksheet) -> Iterator[tuple[int, list[str]]]:
    sheet.reset_dimensions()
    try:
        for number, values in enumerate(sheet.iter_rows(max_col=MOST_COLUMNS + 1, values_only=True), start=1):
            yield number, [as_text(value) for value in values]
    except (zipfile.BadZipFile, KeyError, ValueError, OSError, SyntaxError, TypeError, IndexError) as error:
        raise UnreadableTable(f"The sheet breaks off ({type(error).__name__}). {_WHY}") from None

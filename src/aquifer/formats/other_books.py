"""Tables from workbooks of other programs: OpenDocument (ISO/IEC 26300), and what was written before XLSX.

The files are read by python-calamine, in a process that may have so much memory and no more (``book_reader``).
"""

import json
import subprocess
import sys
from pathlib import Path

from aquifer.formats import book_reader
from aquifer.formats.cells import UnreadableTable
from aquifer.formats.sheet import MOST_COLUMNS, MOST_ROWS, as_text

_READER = Path(book_reader.__file__)
_SECONDS = 60
_BROKEN = "The workbook is broken. Save the sheet as CSV UTF-8 and send that."
_WHY = {book_reader.LOCKED: "The workbook has a password. Save it without one and send it again."}
_TOO_LARGE = "The workbook is larger than is read. Save the sheet with the list as CSV UTF-8 and send that."


def book_lines(data: bytes) -> dict[str, list[tuple[int, list[str]]]]:
    """The lines of each sheet of a workbook, numbered, by the sheet's name; blank rows are passed over.

    Raises: UnreadableTable for what is broken, locked, or larger than is read.
    """
    command = [sys.executable, "-I", str(_READER), str(MOST_ROWS + 1), str(MOST_COLUMNS + 1)]
    try:
        done = subprocess.run(command, input=data, capture_output=True, timeout=_SECONDS, check=False)
    except subprocess.TimeoutExpired:
        raise UnreadableTable(_TOO_LARGE) from None
    if done.returncode:
        # What asks for more memory or time than there is for it is ended and does not come to tell so.
        is_ended = done.returncode < 0 or done.returncode == book_reader.TOO_LARGE
        raise UnreadableTable(_TOO_LARGE if is_ended else _WHY.get(done.returncode, _BROKEN))
    names, *rows = done.stdout.splitlines()
    sheets: dict[str, list[tuple[int, list[str]]]] = {name: [] for name in json.loads(names)}
    places = list(sheets.values())
    for row in rows:
        place, number, cells = json.loads(row)
        places[place].append((number, [as_text(cell) for cell in cells]))
    return sheets

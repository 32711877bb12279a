"""Run apart, by itself: a workbook on the standard input, its cells on the standard output.

A workbook can say in few bytes that it has a billion cells, and whoever reads it whole holds them all. So it is read in
a process of its own that may have so much memory and time and no more. First a line with the sheets' names, then one a
row with something in it: the sheet's place, the row's number from 1, its cells. Nothing of the program is loaded here.
"""

import datetime
import io
import json
import resource
import sys

MEMORY_BYTES = 1024 * 1024 * 1024
CPU_SECONDS = 40
WRITTEN_CHARACTERS = 48 * 1024 * 1024
"""What one workbook may take, and what may come of it, which whoever asked holds in memory. Assumptions: some ten times
what an office's list takes."""
BROKEN, LOCKED, TOO_LARGE = 2, 3, 4
"""What it ends with where nothing can be read: no workbook, one with a password, more than is read."""


def _written(value: object) -> str:
    return value.date().isoformat() if isinstance(value, datetime.datetime) else str(value)


def read(data: bytes, most_rows: int, most_columns: int) -> None:
    import python_calamine as calamine

    try:
        book = calamine.load_workbook(io.BytesIO(data))
        # A chart on a sheet of its own has no cells.
        names = [sheet.name for sheet in book.sheets_metadata if sheet.typ == calamine.SheetTypeEnum.WorkSheet]
        sys.stdout.write(json.dumps(names) + "\n")
        written = 0
        for place, name in enumerate(names):
            rows = book.get_sheet_by_name(name).to_python(skip_empty_area=False, nrows=most_rows)
            for number, cells in enumerate(rows, start=1):
                if any(cell != "" for cell in cells):
                    line = json.dumps([place, number, cells[:most_columns]], default=_written)
                    written += len(line)
                    if written > WRITTEN_CHARACTERS:
                        sys.exit(TOO_LARGE)
                    sys.stdout.write(line + "\n")
    except calamine.PasswordError:
        sys.exit(LOCKED)
    except MemoryError:
        sys.exit(TOO_LARGE)
    except (calamine.CalamineError, OSError, ValueError):
        sys.exit(BROKEN)


if __name__ == "__main__":
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (CPU_SECONDS, CPU_SECONDS))
    read(sys.stdin.buffer.read(), *map(int, sys.argv[1:3]))

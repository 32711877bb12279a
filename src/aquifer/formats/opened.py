"""A table from whatever file was sent: told by its first bytes, not by its name."""

from aquifer.formats.csv_table import csv_sheet, decoded
from aquifer.formats.sheet import Sheet
from aquifer.formats.xlsx_table import SIGNATURE, xlsx_sheet


def opened(data: bytes, name: str = "") -> Sheet:
    """The header and lines of a CSV file, or of a workbook's sheet of this name, else its first.

    Raises: UnreadableTable for anything else.
    """
    return xlsx_sheet(data, name) if data.startswith(SIGNATURE) else csv_sheet(decoded(data))

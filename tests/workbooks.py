"""Workbooks as a spreadsheet program saves them."""

import io

from openpyxl import Workbook


def workbook(*rows: list) -> bytes:
    """One sheet of these rows."""
    book = Workbook()
    for row in rows:
        book.active.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()

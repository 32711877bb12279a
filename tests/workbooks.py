"""Workbooks as a spreadsheet program saves them."""

import io
import zipfile
from xml.sax.saxutils import escape

from openpyxl import Workbook


def workbook(*rows: list) -> bytes:
    """One sheet of these rows."""
    book = Workbook()
    for row in rows:
        book.active.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def open_document(**sheets: list[list[object]]) -> bytes:
    """Sheets of these rows by their names, as OpenDocument (ISO/IEC 26300) has them: texts and numbers."""
    return _open_document(
        "".join(
            f'<table:table table:name="{name}">'
            + "".join(f"<table:table-row>{''.join(map(_cell, row))}</table:table-row>" for row in rows)
            + "</table:table>"
            for name, rows in sheets.items()
        )
    )


def endless_document(rows: int, columns: int) -> bytes:
    """One cell that stands in each place of so large a sheet."""
    return _open_document(
        f'<table:table table:name="All"><table:table-row table:number-rows-repeated="{rows}">'
        f'<table:table-cell office:value-type="string" table:number-columns-repeated="{columns}"><text:p>x</text:p>'
        "</table:table-cell></table:table-row></table:table>"
    )


def _cell(value: object) -> str:
    if value is None:
        return "<table:table-cell/>"
    if isinstance(value, (int, float)):
        return f'<table:table-cell office:value-type="float" office:value="{value}"/>'
    return f'<table:table-cell office:value-type="string"><text:p>{escape(str(value))}</text:p></table:table-cell>'


def _open_document(tables: str) -> bytes:
    of = "urn:oasis:names:tc:opendocument:xmlns"
    names = "".join(f' xmlns:{one}="{of}:{one}:1.0"' for one in ("office", "table", "text"))
    content = (
        f'<?xml version="1.0" encoding="UTF-8"?><office:document-content{names} office:version="1.3"><office:body>'
        f"<office:spreadsheet>{tables}</office:spreadsheet></office:body></office:document-content>"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        file.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet", zipfile.ZIP_STORED)
        file.writestr("META-INF/manifest.xml", f'<manifest:manifest xmlns:manifest="{of}:manifest:1.0"/>')
        file.writestr("content.xml", content)
    return out.getvalue()

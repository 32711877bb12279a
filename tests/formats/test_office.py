"""Lists as offices keep them: found below titles, whatever wrote them."""

import io

import pytest
from openpyxl import Workbook

from aquifer.formats.cells import UnreadableTable
from aquifer.formats.office import is_total, office_sheet

ROWS = [["Acct", "Bill to", "Size"], ["A-1", "Una Castelvik", "50"], ["", "Dov Brenner", "40 gal"]]


def written(rows, separator=",", encoding="utf-8", end="\n"):
    return end.join(separator.join(row) for row in rows).encode(encoding)


@pytest.mark.parametrize("separator", [",", ";", "\t", "|"])
@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "cp1252", "utf-16"])
def test_any_usual_separator_and_encoding(separator, encoding):
    rows = [*ROWS, ["", "Zoë Müller", "80"]]
    sheet = office_sheet(written(rows, separator, encoding, "\r\n"))
    assert sheet.header == ROWS[0]
    assert [cells for _, cells in sheet.lines] == rows[1:]


def test_a_title_blank_lines_and_short_rows():
    rows = [
        ["Brenner Plumbing -- keep up to date!!", "", ""],
        ["", "", ""],
        *ROWS,
        ["", "", ""],
        ["A-9"],
        ["", "Total", "2"],
    ]
    sheet = office_sheet(written(rows))
    assert sheet.header == ROWS[0]
    lines = list(sheet.lines)
    assert [number for number, _ in lines] == [4, 5, 7, 8] and lines[2][1] == ["A-9", "", ""]
    assert [is_total(cells) for _, cells in lines] == [False, False, False, True]


def test_columns_without_a_name_or_named_twice_are_kept_apart():
    sheet = office_sheet(b"Name,Phone,Phone,,\nUna,1,2,3,\n")
    assert sheet.header == ["Name", "Phone", "Phone (2)"] or sheet.header == ["Name", "Phone", "Phone (2)", "column 4"]


def test_of_a_workbook_the_sheet_with_the_list_is_taken():
    book = Workbook()
    book.active.append(["About this file"])
    sheet = book.create_sheet("Customers")
    for row in ROWS:
        sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    assert office_sheet(out.getvalue()).header == ROWS[0]


@pytest.mark.parametrize("data", [b"", b"\n\n\n", b"one cell\n", b"\x00\x01\x02" * 200])
def test_what_is_no_list_says_so(data):
    with pytest.raises(UnreadableTable):
        office_sheet(data)

"""Lists as offices keep them: found below titles, whatever wrote them."""

import io

import pytest
from openpyxl import Workbook

from aquifer.formats.cells import UnreadableTable
from aquifer.formats.office import BEYOND, is_total, office_sheet

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
    # What stands in a row behind the last name is kept, and no column is made of commas.
    assert sheet.header == ["Name", "Phone", "Phone (2)", BEYOND] and list(sheet.lines) == [(2, ["Una", "1", "2", "3"])]
    assert office_sheet(b"Name,Phone,,\nUna,1,,\n").header == ["Name", "Phone"]


@pytest.mark.parametrize(
    ("rows", "header"),
    [
        # Groups over their columns; what the groups leave empty below has its name above.
        (["Customer,Address,Heater 1,,,Heater 2,,", ",,Type,Size,Year,Type,Size,Year"],
         ["Customer", "Address", "Heater 1 Type", "Heater 1 Size", "Heater 1 Year", "Heater 2 Type", "Heater 2 Size",
          "Heater 2 Year"]),
        # Every column has its name below; a name that stands there once needs no group.
        (["Customer,,,Heater,,Last visit,", "Name,Street,Phone,Type,Date,Date,Tech"],
         ["Name", "Street", "Phone", "Type", "Heater Date", "Last visit Date", "Tech"]),
        # A title of two cells over a header of one row, and names over values, are no groups.
        (["Hollow Creek Plumbing,,as of 3/4/2026,", "Customer,Address,Type,Size"],
         ["Customer", "Address", "Type", "Size"]),
        (["Hollow Creek Plumbing,,Customer list,", "Customer,Address,Type,Size"],
         ["Customer", "Address", "Type", "Size"]),
        (["Customer,Address,,Size", "Una Castelvik,Low St,Gas,fifty"], ["Customer", "Address", "column 3", "Size"]),
        (["Customer,Address,,Size,,", "Una Castelvik,,Gas,,old,"],
         ["Customer", "Address", "column 3", "Size", BEYOND]),
        (["Customer,Address,,Size", "Una Castelvik,9 Low St,,50"], ["Customer", "Address", "column 3", "Size"]),
    ],
)  # fmt: skip
def test_a_header_of_two_rows_is_read_by_both(rows, header):
    values = ",".join(f"value {at}" for at in range(len(header)))
    sheet = office_sheet("\n".join([*rows, values]).encode())
    assert sheet.header == header
    assert list(sheet.lines)[-1][1] == values.split(",")


@pytest.mark.parametrize(("header", "first"), [
    ("Name,Address,2022,2023,2024", 2), ("Name,Address,1,2,3", 2), ("Ruth Ames,4 Oak St,555-0101,50,2014-03-04", 1),
    ("Ruth Ames,4 Oak St,a@example.com,00081,2014", 1), ("Name,Address,Phone,Gal,Year", 2),
])  # fmt: skip
def test_a_row_of_values_is_no_header_and_years_may_call_columns(header, first):
    rows = "Bo Hale,9 Elm Ct,149,149,149\nCy Dunn,7 Elm Ct,149,120,149\n"
    if first == 1:
        rows = "Bo Hale,9 Elm Ct,555-0102,40,2015-01-02\nCy Dunn,7 Elm Ct,b@example.com,00082,2016\n"
    sheet = office_sheet(f"{header}\n{rows}".encode())
    assert [number for number, _ in sheet.lines][0] == first
    assert (sheet.header[0] == "column 1") is (first == 1)


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


PRINTED = """WATER HEATERS ON ROUTE 3                              page 1

Name            Address          Heater     Gal   Year   Last
Ash, Bo         1 Fir St         gas        40    2012   10/24
Birch, Cy       2 Fir St         electric         2016   never
Cedar Diner     3 Oak St         gas        100   2019   5/25, 6/26
"""


def test_a_list_that_was_printed_is_cut_where_its_columns_stand():
    sheet = office_sheet(PRINTED.encode())
    assert sheet.header == ["Name", "Address", "Heater", "Gal", "Year", "Last"]
    assert [cells for _, cells in sheet.lines] == [
        ["Ash, Bo", "1 Fir St", "gas", "40", "2012", "10/24"],
        # What is empty moves nothing that stands behind it.
        ["Birch, Cy", "2 Fir St", "electric", "", "2016", "never"],
        ["Cedar Diner", "3 Oak St", "gas", "100", "2019", "5/25, 6/26"],
    ]


def test_blanks_that_make_a_table_of_commas_pretty_are_no_columns():
    sheet = office_sheet(b"Name,   Address,   Heater\nAsh,    1 Fir St,  gas\nBirch,  2 Fir St,  electric\n")
    assert sheet.header == ["Name", "Address", "Heater"]
    assert [cells[2].strip() for _, cells in sheet.lines] == ["gas", "electric"]


@pytest.mark.parametrize("beside", ["North", "South"])
def test_a_word_beside_one_of_two_sheets_makes_them_no_less_alike(beside):
    book = Workbook()
    for name in ("North", "South"):
        page = book.active if name == "North" else book.create_sheet(name)
        page.title = name
        page.append(["Name", "Street", "Type"])
        for number in range(3):
            page.append(
                [f"{name} {number}", f"{number} Mill Ln", "gas", *(["late"] if (name, number) == (beside, 1) else [])]
            )
    data = io.BytesIO()
    book.save(data)
    told = [cells for _, cells in office_sheet(data.getvalue()).lines]
    assert len(told) == 6 and sum("late" in " ".join(cells) for cells in told) == 1
    assert len({len(cells) for cells in told}) == 1

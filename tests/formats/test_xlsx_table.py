import datetime
import io
import zipfile

import pytest

from aquifer.formats.cells import UnreadableTable
from aquifer.formats.opened import opened
from aquifer.formats.xlsx_table import MOST_WORDS_UNPACKED, xlsx_sheet
from tests.workbooks import workbook


def archive(**parts: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name, data in parts.items():
            file.writestr(name.replace("__", "/"), data)
    return out.getvalue()


def test_values_come_as_a_csv_file_would_have_them():
    data = workbook(
        ["tag", "size", "on", "soft", "note"],
        ["A", 189.0, datetime.datetime(2024, 3, 9), True, None],
        [None] * 5,
        ["B", 1.25, datetime.date(2024, 3, 9), False, 7],
    )
    sheet = opened(data)
    assert sheet.header == ["tag", "size", "on", "soft", "note"]
    assert list(sheet.lines) == [
        (2, ["A", "189", "2024-03-09", "yes", ""]),
        (4, ["B", "1.25", "2024-03-09", "no", "7"]),
    ]


def test_a_formula_is_never_run_only_its_saved_value_read():
    # openpyxl saves no value with a formula: the cell is empty, never the formula's text.
    assert list(opened(workbook(["tag", "size"], ["A", "=1+1"])).lines) == [(2, ["A", ""])]


def test_a_sheet_of_three_hundred_columns_is_refused():
    with pytest.raises(UnreadableTable, match="columns; at most 100"):
        opened(workbook([f"c{n}" for n in range(300)]))


def test_a_zip_bomb_is_refused_by_what_it_would_unpack_to():
    data = archive(xl__sharedStrings=b"0" * (MOST_WORDS_UNPACKED + 1))
    assert len(data) < 200_000
    with pytest.raises(UnreadableTable, match="unpacks to"):
        opened(data)
    with pytest.raises(UnreadableTable, match="parts"):
        opened(archive(**{f"part{n}": b"" for n in range(2001)}))


@pytest.mark.parametrize(
    "data",
    [
        b"PK\x03\x04 and nothing that follows",
        archive(anything=b"not a workbook"),
        archive(
            **{"[Content_Types].xml": b"<Types/>", "xl__workbook.xml": b"<!DOCTYPE x [<!ENTITY a 'b'>]><x>&a;</x>"}
        ),
        workbook(["tag"])[:-40],
    ],
)
def test_what_only_begins_like_a_workbook_is_refused_with_what_to_do(data):
    with pytest.raises(UnreadableTable, match="CSV UTF-8"):
        xlsx_sheet(data)


def test_entities_that_grow_are_not_followed():
    data = workbook(["tag"], ["A"])
    source, out = zipfile.ZipFile(io.BytesIO(data)), io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name in source.namelist():
            part = source.read(name)
            if name.endswith("sheet1.xml"):
                part = b"<!DOCTYPE x [<!ENTITY a 'aaaaaaaaaa'><!ENTITY b '&a;&a;&a;&a;'>]>" + part
            file.writestr(name, part)
    with pytest.raises(UnreadableTable):
        list(opened(out.getvalue()).lines)

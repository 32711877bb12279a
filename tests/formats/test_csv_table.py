import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aquifer.formats.cells import Column, UnreadableTable, day, number, text_up_to, whole, word, yes_or_no
from aquifer.formats.csv_table import csv_sheet, decoded, read_table, table_lines, write_table
from aquifer.formats.sheet import MOST_BYTES, harmless, plain

COLUMNS = [
    Column("tag", text_up_to(10), required=True),
    Column("size", number(0, 100)),
    Column("count", whole(1, 9)),
    Column("on", day(datetime.date(2000, 1, 1), datetime.date(2026, 12, 31))),
    Column("kind", word(["gas", "electric"])),
    Column("soft", yes_or_no),
]


def rows(text: str):
    return list(read_table(text, COLUMNS))


def test_cells_are_typed_and_rows_numbered_as_a_spreadsheet_does():
    found = rows("tag,size,on,soft\nA,1.5,2026-03-09,yes\n\nB,,,no\n")
    assert [row.number for row in found] == [2, 4]
    assert found[0].cells == {"tag": "A", "size": 1.5, "on": datetime.date(2026, 3, 9), "soft": True}
    assert found[1].cells == {"tag": "B", "size": None, "on": None, "soft": False}


@pytest.mark.parametrize(
    ("line", "column", "says"),
    [
        ("A,heavy,,,,", "size", "not a number"),
        ("A,nan,,,,", "size", "outside"),
        ("A,1e999,,,,", "size", "outside"),
        ("A,,1.5,,,", "count", "whole"),
        ("A,,,2026-02-30,,", "on", "2026-03-09"),
        ("A,,,1999-01-01,,", "on", "outside"),
        ("A,,,,steam,", "kind", "allowed: gas, electric"),
        ("A,,,,,perhaps", "soft", "allowed: yes, no"),
        (",,,,,", "row", ""),
        (",1,,,,", "tag", "empty, but needed"),
        ("ABCDEFGHIJK,,,,,", "tag", "at most 10"),
        ("A,1", "row", "2 cells where the header has 6"),
    ],
)
def test_a_bad_cell_is_told_by_its_column(line, column, says):
    found = rows(f"tag,size,count,on,kind,soft\n{line}\n")
    if column == "row" and not says:
        assert found == []  # a line of nothing but commas is an empty line
    else:
        assert says in found[0].faults[column]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "empty"),
        ("tag,colour\n", "Unknown column 'colour'"),
        ("tag,tag\n", "twice"),
        ("size\n", "'tag' is missing"),
        ('tag\n"A', "cannot be read"),
    ],
)
def test_a_bad_table_is_refused_whole(text, says):
    with pytest.raises(UnreadableTable, match=says):
        rows(text)


def test_wrong_encodings_are_told_with_row_and_column():
    with pytest.raises(UnreadableTable, match="row 3, column 2"):
        decoded(b"tag,name\nA,Ok\nB," + "Mühle\n".encode("latin-1"))
    with pytest.raises(UnreadableTable, match="UTF-16"):
        decoded("tag\nA\n".encode("utf-16"))
    with pytest.raises(UnreadableTable, match="Split it"):
        decoded(b"x" * (MOST_BYTES + 1))
    assert decoded(b"\xef\xbb\xbftag\nA\n") == "tag\nA\n"


@given(st.lists(st.tuples(st.text("ABC,\"' é", min_size=1, max_size=8), st.integers(0, 99)), max_size=8))
def test_what_is_written_reads_back(pairs):
    pairs = [(tag, size) for tag, size in pairs if tag.strip()]
    text = write_table(["tag", "size"], [{"tag": tag.strip(), "size": float(size)} for tag, size in pairs])
    assert [(row.cells["tag"], row.cells["size"]) for row in rows(text)] == [(t.strip(), float(s)) for t, s in pairs]


def test_a_row_keeps_its_number_behind_blank_rows_and_cells_of_several_lines():
    found = rows('tag,size\n"A\nB",1\n\n\nC,2\n')
    assert [(row.number, row.cells["tag"]) for row in found] == [(2, "A\nB"), (5, "C")]


@pytest.mark.parametrize("separator", [",", ";", "\t"])
def test_the_separator_is_the_one_that_the_header_has(separator):
    sheet = csv_sheet(separator.join(["tag", "size"]) + "\n" + separator.join(["A", "1"]) + "\n")
    assert sheet.header == ["tag", "size"] and list(sheet.lines) == [(2, ["A", "1"])]


@pytest.mark.parametrize("text", ["=1+2", "+44 555", "-3", "@SUM(A1)", "\tx", "'=1", "''+2", "'plain", "it's", ""])
def test_what_a_spreadsheet_would_run_is_marked_and_reads_back(text):
    written = harmless(text)
    assert not written.startswith(("=", "+", "-", "@", "\t"))
    assert plain(written) == text


def test_a_written_cell_starts_no_formula_but_a_number_stays_a_number():
    text = write_table(["name", "depth"], [{"name": "=HYPERLINK(1)", "depth": -2.5}])
    assert text == "name,depth\n'=HYPERLINK(1),-2.5\n"


@given(st.floats(allow_nan=False, allow_infinity=False))
def test_a_float_is_written_in_full(value):
    _, line = write_table(["x"], [{"x": value}]).split("\n", 1)
    assert float(line) == value


def test_long_tables_are_written_in_pieces():
    pieces = list(table_lines(["x"], ({"x": "word" * 20} for _ in range(5000))))
    assert len(pieces) > 3 and "".join(pieces).count("\n") == 5001


def test_a_table_of_too_many_columns_is_refused():
    with pytest.raises(UnreadableTable, match="300 columns; at most 100"):
        csv_sheet(",".join(f"c{n}" for n in range(300)) + "\n")

"""docs/coverage.md has a row for every entry of the inventory, and every row the test that walks it."""

import importlib
import re
from pathlib import Path

ENTRIES = {"E": 42, "M": 25, "F": 25, "R": 16, "C": 14, "T": 14, "G": 23}
"""How many entries each part of the inventory has."""
OPEN: set[str] = set()
"""Entries that are not whole; the row of such a one says what is missing."""
ROWS = [
    [cell.strip() for cell in line.strip("|").split("|")]
    for line in (Path(__file__).parents[2] / "docs" / "coverage.md").read_text().splitlines()
    if re.match(r"\| [A-Z]\d\d \|", line)
]


def test_every_entry_has_its_row_once_and_in_order():
    assert [row[0] for row in ROWS] == [f"{part}{n:02}" for part, most in ENTRIES.items() for n in range(1, most + 1)]
    assert len(ROWS) == 159 and all(len(row) == 6 and all(row) for row in ROWS)


def test_every_row_names_a_test_that_walks_its_entry():
    for entry, _, _, _, used, walked in ROWS:
        if entry in OPEN:
            assert walked == "–" and "**open**" in used
            continue
        file, _, name = walked.strip("`").partition("::")
        module = importlib.import_module(f"tests.coverage.{file.removesuffix('.py')}")
        test = getattr(module, name)
        cases = [case for mark in getattr(test, "pytestmark", []) for case in mark.args[1]]
        told = {case[0] if isinstance(case, tuple) else case for case in cases}
        assert entry in told or entry.lower() in name or entry in (test.__doc__ or ""), entry


def test_what_is_open_is_said_in_the_head():
    head = (Path(__file__).parents[2] / "docs" / "coverage.md").read_text()
    assert f"Walked: {159 - len(OPEN)} of 159" in head

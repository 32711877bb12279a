"""Six figures without anything between: a day, or a year with its month, and nothing where they can be both."""

import datetime

import pytest

from aquifer.formats.cells import BadCell
from aquifer.formats.day_said import day

TODAY = datetime.date(2026, 12, 2)


@pytest.mark.parametrize(("text", "day_first", "on"), [
    ("110425", False, datetime.date(2025, 11, 4)), ("041125", True, datetime.date(2025, 11, 4)),
    ("311224", True, datetime.date(2024, 12, 31)), ("200812", False, datetime.date(2008, 12, 16)),
    ("201503", True, datetime.date(2015, 3, 16)), ("199906", False, datetime.date(1999, 6, 15)),
])  # fmt: skip
def test_what_can_be_but_one_is_that(text, day_first, on):
    assert day(text, TODAY, day_first).on == on


@pytest.mark.parametrize(
    ("text", "day_first"), [("200812", True), ("190503", True), ("991399", False), ("000000", True)]
)
def test_what_can_be_both_or_neither_is_told(text, day_first):
    with pytest.raises(BadCell):
        day(text, TODAY, day_first)

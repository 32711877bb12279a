"""Visits that were entered twice: asked about where they say the same, and not where two are alike by chance."""

import datetime

import pytest

from aquifer.core.doubles import WITHIN_DAYS, entered_before, facts
from aquifer.core.vocabulary import Task

MARCH = datetime.date(2026, 3, 10)
FLUSHED = facts([(Task.FLUSH, {"removed": "heavy", "depth_before_mm": 30.0, "noise": "", "falls": None})])


def after(days: int) -> datetime.date:
    return MARCH + datetime.timedelta(days=days)


def test_what_was_found_is_a_fact_each_and_nothing_says_nothing():
    assert {"flush", "flush removed heavy", "flush depth_before_mm 30"} == FLUSHED
    # A figure is the same however it was written.
    assert facts([(Task.FLUSH, {"depth_before_mm": 30, "removed": "heavy", "could_not_open": False})]) == FLUSHED
    assert facts([]) == frozenset()


@pytest.mark.parametrize(
    ("days", "other", "is_asked"),
    [
        (0, FLUSHED, True),
        (0, FLUSHED | {"anode_inspection", "anode_inspection grade half"}, True),
        (0, frozenset({"flush"}), True),
        (0, frozenset({"anode_inspection"}), False),
        (0, FLUSHED - {"flush removed heavy"} | {"flush removed trace"}, False),
        (WITHIN_DAYS, FLUSHED, True),
        (-WITHIN_DAYS, FLUSHED, True),
        (WITHIN_DAYS + 1, FLUSHED, False),
        (-WITHIN_DAYS - 1, FLUSHED, False),
        (1, FLUSHED | {"anode_inspection"}, False),
        (1, FLUSHED - {"flush removed heavy"}, False),
        (0, frozenset(), False),
    ],
)
def test_the_same_within_some_days_is_asked_about(days, other, is_asked):
    assert entered_before(MARCH, FLUSHED, [(after(days), other)]) == (after(days) if is_asked else None)


def test_two_looks_that_found_nothing_are_two_looks():
    look = facts([(Task.LOOK_OVER, {})])
    assert entered_before(MARCH, look, [(after(3), look)]) is None
    assert entered_before(MARCH, look, [(MARCH, look)]) == MARCH
    assert entered_before(MARCH, frozenset(), [(MARCH, look)]) is None


def test_the_nearest_is_named():
    others = [(after(-9), FLUSHED), (after(4), FLUSHED), (after(30), FLUSHED)]
    assert entered_before(MARCH, FLUSHED, others) == after(4)
    assert entered_before(MARCH, FLUSHED, []) is None

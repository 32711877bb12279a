"""When a heater was made, by its serial: hand-written cases of invented makers."""

import datetime

import pytest

from aquifer.core.serial import Pattern, doubt, made

TODAY = datetime.date(2026, 11, 28)
D = datetime.date


@pytest.mark.parametrize(
    ("serial", "pattern", "span"),
    [
        ("K1412 00371", Pattern(2, 2, week_at=4), (D(2014, 3, 17), D(2014, 3, 23))),
        ("20140312X", Pattern(1, 4, month_at=5), (D(2014, 3, 1), D(2014, 3, 31))),
        ("A19", Pattern(2, 2), (D(2019, 1, 1), D(2019, 12, 31))),
        # A two-digit year after today's is of the century before.
        ("A98", Pattern(2, 2), (D(1998, 1, 1), D(1998, 12, 31))),
        ("A26", Pattern(2, 2), (D(2026, 1, 1), D(2026, 12, 31))),
        ("A27", Pattern(2, 2), None),
        ("A5502", Pattern(2, 2), None),
        ("K1453", Pattern(2, 2, week_at=4), None),
        ("K1401", Pattern(2, 2, week_at=4), (D(2013, 12, 30), D(2014, 1, 5))),
        ("K1400", Pattern(2, 2, week_at=4), None),
        ("K1412", Pattern(2, 2, month_at=4), (D(2014, 12, 1), D(2014, 12, 31))),
        ("K1401", Pattern(2, 2, month_at=4), (D(2014, 1, 1), D(2014, 1, 31))),
        ("K1400", Pattern(2, 2, month_at=4), None),
        ("K1553", Pattern(2, 2, week_at=4), (D(2015, 12, 28), D(2016, 1, 3))),
        ("K14", Pattern(2, 2, week_at=4), None),
        ("K1413", Pattern(2, 2, month_at=4), None),
        ("KXY12", Pattern(2, 2), None),
        ("", Pattern(1, 2), None),
        ("K١٤", Pattern(2, 2), None),
    ],
)
def test_a_serial_is_read_by_the_pattern_or_not_at_all(serial, pattern, span):
    assert made(serial, pattern, TODAY) == span


def test_what_does_not_fit_with_the_day_of_installation_is_said():
    span = (D(2014, 3, 17), D(2014, 3, 23))
    assert doubt(span, None) == doubt(span, D(2014, 6, 1)) == doubt(span, D(2014, 3, 18)) == ""
    assert doubt(span, D(2013, 6, 1)).startswith("installed before it was made")
    assert "more than 3 years after" in doubt(span, D(2019, 6, 1))


def test_a_pattern_that_cannot_be_is_refused_by_field():
    assert Pattern(3, 2, week_at=5).faults() == {}
    assert set(Pattern(0, 3, week_at=5, month_at=40).faults()) == {"year_at", "year_digits", "month_at"}

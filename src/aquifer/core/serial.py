"""When a heater was made, by its serial number, as the company has taught the pattern of its maker.

No maker's code is built in: a pattern says at which digits the year stands, and the week or month if they tell it.
"""

import calendar
import datetime
from dataclasses import dataclass

OLDEST_YEARS = 60
"""Of a heater that is still in service: a two-digit year is one of the last so many. Assumption."""


@dataclass(frozen=True)
class Pattern:
    """Where in a serial its date stands; places are counted from 1."""

    year_at: int
    year_digits: int
    """2 or 4."""
    week_at: int | None = None
    month_at: int | None = None
    """Two digits each; at most one of the two."""

    def faults(self) -> dict[str, str]:
        """What cannot be so, by field."""
        wrong = {}
        if not 1 <= self.year_at <= 30:
            wrong["year_at"] = f"{self.year_at} is not between 1 and 30"
        if self.year_digits not in (2, 4):
            wrong["year_digits"] = "2 or 4"
        if self.week_at is not None and self.month_at is not None:
            wrong["month_at"] = "a week or a month, not both"
        for name in ("week_at", "month_at"):
            at = getattr(self, name)
            if at is not None and not 1 <= at <= 30:
                wrong[name] = f"{at} is not between 1 and 30"
        return wrong


def made(serial: str, pattern: Pattern, today: datetime.date) -> tuple[datetime.date, datetime.date] | None:
    """The first and the last day on which it can have been made; None where the serial does not fit the pattern.

    Weeks are those of ISO 8601. A two-digit year is the latest such year that is not after today's.
    """
    told = "".join(serial.split())
    year = _number(told, pattern.year_at, pattern.year_digits)
    if year is None:
        return None
    if pattern.year_digits == 2:
        year += today.year // 100 * 100
        year -= 100 if year > today.year else 0
    if not today.year - OLDEST_YEARS <= year <= today.year:
        return None
    if pattern.week_at is not None:
        week = _number(told, pattern.week_at, 2)
        if week is None or not 1 <= week <= datetime.date(year, 12, 28).isocalendar().week:
            return None
        first = datetime.date.fromisocalendar(year, week, 1)
        return first, first + datetime.timedelta(days=6)
    if pattern.month_at is not None:
        month = _number(told, pattern.month_at, 2)
        if month is None or not 1 <= month <= 12:
            return None
        return datetime.date(year, month, 1), datetime.date(year, month, calendar.monthrange(year, month)[1])
    return datetime.date(year, 1, 1), datetime.date(year, 12, 31)


def _number(serial: str, at: int, digits: int) -> int | None:
    told = serial[at - 1 : at - 1 + digits]
    return int(told) if len(told) == digits and told.isascii() and told.isdigit() else None


MOST_ON_A_SHELF_YEARS = 3
"""From the factory to the wall. Assumption."""


def doubt(span: tuple[datetime.date, datetime.date], installed_on: datetime.date | None) -> str:
    """What does not fit between when it was made and when it was installed; empty where both fit."""
    first, last = span
    if installed_on is None:
        return ""
    if installed_on < first:
        return "installed before it was made: read plate and date once more"
    if installed_on > last.replace(year=last.year + MOST_ON_A_SHELF_YEARS, day=min(last.day, 28)):
        return f"installed more than {MOST_ON_A_SHELF_YEARS} years after it was made: perhaps it stood elsewhere before"
    return ""

"""The crew's working days: who works when, with what, from where."""

import datetime
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from django.db.models import Avg

from aquifer.company.models import Company
from aquifer.core.arrays import FloatArray
from aquifer.core.planning.rounds import DAY, Lunch, Shift
from aquifer.core.planning.work import ALLOWANCE, TWO_PEOPLE
from aquifer.customers.models import Site
from aquifer.rounds.models import Absence, CrewMember, Loan
from aquifer.travel.service import Point


@dataclass(frozen=True)
class Working:
    """A member's day at work."""

    member: CrewMember
    on: datetime.date
    carries: frozenset[str]
    """Tools on the truck that day, those borrowed among them and those lent not."""

    @property
    def able(self) -> frozenset[str]:
        """Licenses held that day, tools carried, and whether two go."""
        return _able(self.member, self.on, self.carries)

    @property
    def hours(self) -> float:
        """Hours that can be planned."""
        return _hours(self.member)


def whole_hours(member: CrewMember) -> float:
    """Of a day from its begin to its end, without the pause."""
    return (member.ends - member.begins - member.lunch_minutes) / 60


def _hours(member: CrewMember) -> float:
    return ALLOWANCE * whole_hours(member)


def members() -> list[CrewMember]:
    """Who goes out, in a settled order."""
    return list(CrewMember.objects.filter(active=True).select_related("user"))


def usually_able(member: CrewMember, on: datetime.date) -> frozenset[str]:
    """Licenses held on a day, and what is usually there: a loan of some days is nothing to plan a season by."""
    return _able(member, on, member.equipment)


def able(member: CrewMember, on: datetime.date) -> frozenset[str]:
    """What somebody has and may on one day; one query."""
    return _able(member, on, _carried(member, on, _loans(on, on)))


def _able(member: CrewMember, on: datetime.date, carries: Iterable[str]) -> frozenset[str]:
    return frozenset([*member.user.licences_on(on), *carries, *([TWO_PEOPLE] if member.helper else [])])


def _loans(first: datetime.date, last: datetime.date) -> list[Loan]:
    return list(Loan.objects.filter(first_on__lte=last, last_on__gte=first))


def _carried(member: CrewMember, on: datetime.date, loans: Iterable[Loan]) -> frozenset[str]:
    now = [one for one in loans if one.first_on <= on <= one.last_on]
    lent = {one.tool for one in now if one.lender_id == member.pk}
    return frozenset(member.equipment) - lent | {one.tool for one in now if one.borrower_id == member.pk}


AWAY = Point(0.0, 0.0)
"""Where everything is that nobody has located: at one place, so that its ways are short."""


def start(member: CrewMember) -> Point:
    """Where a member's day begins and ends: where they said, the company's yard, or the middle of all sites."""
    if member.longitude is not None and member.latitude is not None:
        return Point(member.longitude, member.latitude)
    company = Company.current()
    if company.yard_longitude is not None and company.yard_latitude is not None:
        return Point(company.yard_longitude, company.yard_latitude)
    middle = Site.objects.filter(longitude__isnull=False, latitude__isnull=False, archived_at__isnull=True)
    found = middle.aggregate(Avg("longitude"), Avg("latitude"))
    if found["longitude__avg"] is None:
        return AWAY
    return Point(found["longitude__avg"], found["latitude__avg"])


def yards(who: Sequence[CrewMember]) -> list[Point]:
    """Where their days begin, each place once."""
    return list(dict.fromkeys(start(member) for member in who))


def working(who: Sequence[CrewMember], first: datetime.date, last: datetime.date) -> list[Working]:
    """Every working day of these members between two days, in order of day and member; two queries."""
    loans = _loans(first, last)
    return [Working(member, day, _carried(member, day, loans)) for member, day in _days(who, first, last)]


def _days(
    who: Sequence[CrewMember], first: datetime.date, last: datetime.date
) -> list[tuple[CrewMember, datetime.date]]:
    absences = list(Absence.objects.filter(first_on__lte=last, last_on__gte=first))
    days = [first + datetime.timedelta(days=n) for n in range((last - first).days + 1)]
    return [
        (member, day)
        for day in days
        for member in who
        if day.weekday() in member.weekdays and not _away(absences, member, day)
    ]


def _away(absences: Iterable[Absence], member: CrewMember, day: datetime.date) -> bool:
    return any(
        absence.member_id in (None, member.pk) and absence.first_on <= day <= absence.last_on for absence in absences
    )


def hours_by_week(
    who: Sequence[CrewMember],
    first_week: datetime.date,
    weeks: int,
    today: datetime.date,
    of: Callable[[CrewMember], float] = _hours,
) -> FloatArray:
    """Hours of each member in each week from its first day on, (members, weeks); days that are past have none.
    Parameters: of, what of a day counts; that which can be planned unless said otherwise."""
    hours = np.zeros((len(who), weeks))
    row = {member.pk: at for at, member in enumerate(who)}
    for member, day in _days(who, max(first_week, today), first_week + datetime.timedelta(days=7 * weeks - 1)):
        hours[row[member.pk], (day - first_week).days // 7] += of(member)
    return hours


def shift(working_day: Working, place: int, since: datetime.date) -> Shift:
    """A working day as the rounds take it, its minutes counted from the midnight of ``since``."""
    m, offset = working_day.member, DAY * (working_day.on - since).days
    return Shift(
        start_place=place,
        end_place=place,
        begins=offset + m.begins,
        ends=offset + m.ends,
        able=working_day.able,
        people=2 if m.helper else 1,
        lunch=Lunch(offset + m.lunch_earliest, offset + m.lunch_latest, m.lunch_minutes) if m.lunch_minutes else None,
    )

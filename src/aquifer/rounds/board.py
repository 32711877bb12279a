"""Some days' rounds as the planner sees them: shifts, appointments, and the plan that stands."""

import datetime
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from django.db import connection
from django.db.models import Q

from aquifer.company.clock import week_of
from aquifer.core.planning.rounds import DAY, Plan, Problem, Shift, Stop, Window, of_sequences
from aquifer.rounds import crew
from aquifer.rounds.models import Appointment, Closed, CrewMember, Standing
from aquifer.rounds.work import places
from aquifer.travel.service import Point, times

FIRM_WORTH = 100_000
"""Minutes: nothing is worth leaving a promise out."""
LEAST_WORTH, MOST_WORTH = 120, 2400
"""Minutes of driving that placing an ordinary visit is worth, by what it saves. Assumption."""
NEVER = Window(-1, -1)
"""Where no day is left: nothing begins before the first midnight."""
OPEN = (Standing.PLANNED, Standing.KEPT, Standing.OFFERED, Standing.PROMISED)


@dataclass(frozen=True)
class Board:
    """Days' rounds. Minutes are counted from the midnight of ``first``."""

    first: datetime.date
    days: list[crew.Working]
    appointments: list[Appointment]
    problem: Problem
    points: list[Point]
    """Of the problem's places."""

    def sequences(self) -> list[list[int]]:
        """The order that stands, by shift; who is away has none."""
        at = {(one.member.pk, one.on): number for number, one in enumerate(self.days)}
        placed: list[list[int]] = [[] for _ in self.days]
        for number in sorted(range(len(self.appointments)), key=lambda n: (self.appointments[n].begins or 0, n)):
            one = self.appointments[number]
            if one.begins is not None and one.on is not None and one.member_id is not None:
                shift = at.get((one.member_id, one.on))
                if shift is not None:
                    placed[shift].append(number)
        return placed

    def standing(self) -> Plan:
        """The plan that stands, timed."""
        return of_sequences(self.problem, self.sequences())

    def number(self, appointment_id: int) -> int | None:
        """The row of an appointment."""
        return next((n for n, one in enumerate(self.appointments) if one.pk == appointment_id), None)

    def shift(self, member_id: int, on: datetime.date) -> int | None:
        """The row of a member's day, None if they do not work then."""
        return next((n for n, d in enumerate(self.days) if d.member.pk == member_id and d.on == on), None)


_ONE_AT_A_TIME = 0x726F756E
"""The advisory lock of the rounds: any number nobody else uses."""


def one_at_a_time() -> None:
    """Within a transaction: whoever else changes rounds waits until it is over. Two who read a day and then write what
    it comes to would else write over each other, or wait for each other for ever."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_ONE_AT_A_TIME])


def read(first: datetime.date, last: datetime.date, weeks_unplaced: bool = False) -> Board:
    """The rounds from one day to another, with the week's appointments that have no day yet if these are wanted."""
    wanted = Q(on__gte=first, on__lte=last)
    if weeks_unplaced:
        wanted |= Q(on__isnull=True, week__gte=week_of(first), week__lte=last)
    found = Appointment.objects.filter(wanted, standing__in=OPEN).select_related("site__zone", "site__customer")
    appointments = list(found.order_by("pk"))
    return of(first, last, appointments)


def of(first: datetime.date, last: datetime.date, appointments: list[Appointment]) -> Board:
    """The board of these appointments and the crew's days."""
    who = crew.members()
    days = crew.working(who, first, last)
    where = places([one.site for one in appointments], crew.yards(who))
    points: list[Point] = []
    number: dict[Point, int] = {}

    def place(point: Point) -> int:
        if point not in number:
            number[point] = len(points)
            points.append(point)
        return number[point]

    shifts = tuple(crew.shift(one, place(crew.start(one.member)), first) for one in days)
    stops = _stops(first, last, appointments, [place(where[one.site_id]) for one in appointments], shifts, days)
    travel = times().minutes(points)
    return Board(first, days, appointments, Problem(shifts, stops, travel), points)


def _stops(
    first: datetime.date,
    last: datetime.date,
    appointments: Sequence[Appointment],
    at: Sequence[int],
    shifts: Sequence[Shift],
    days: Sequence[crew.Working],
) -> tuple[Stop, ...]:
    closed = closed_of([one.site_id for one in appointments])
    shift_of = {(one.member.pk, one.on): number for number, one in enumerate(days)}
    stops = []
    for one, place in zip(appointments, at, strict=True):
        held = None if one.on is None or one.member_id is None else shift_of.get((one.member_id, one.on))
        worth = FIRM_WORTH if one.is_firm else int(np.clip(60 * one.worth, LEAST_WORTH, MOST_WORTH))
        stops.append(
            Stop(
                place=place,
                minutes=one.minutes,
                needs=frozenset(one.needs),
                people=one.people,
                windows=windows(one, first, last, closed.get(one.site_id, [])),
                worth=worth,
                shift=held,
                stays=one.standing == Standing.KEPT and held is not None,
            )
        )
    return tuple(stops)


def closed_of(site_ids: Sequence[int]) -> dict[int, list[Closed]]:
    """When these sites are closed; one query."""
    found: dict[int, list[Closed]] = {}
    for shut in Closed.objects.filter(site__in=site_ids):
        found.setdefault(shut.site_id, []).append(shut)
    return found


def freed(board: Board, number: int, last: datetime.date, agreed: bool = False) -> Board:
    """The board with one visit that a person may move anywhere: its lock and its cap no longer bind it. A promise and a
    closed day do, so that they are told; if ``agreed`` with the customer, their promise binds no longer either."""
    one = board.appointments[number]
    bound = one
    if agreed or one.standing in (Standing.PLANNED, Standing.KEPT):
        bound = Appointment(site_id=one.site_id, standing=Standing.PLANNED)
    open_days = windows(bound, board.first, last, closed_of([one.site_id]).get(one.site_id, []))
    stop = replace(board.problem.stops[number], stays=False, windows=open_days)
    stops = tuple(stop if n == number else other for n, other in enumerate(board.problem.stops))
    return replace(board, problem=replace(board.problem, stops=stops))


def windows(
    one: Appointment, first: datetime.date, last: datetime.date, closed: Sequence[Closed]
) -> tuple[Window, ...]:
    """When an appointment may begin: at its promise, and not when the site is closed or past its cap."""
    days = [first + datetime.timedelta(days=n) for n in range((last - first).days + 1)]
    if one.on is not None and one.is_firm:
        days = [day for day in days if day == one.on]
    else:
        is_open = [day for day in days if not any(shut.holds_on(day) for shut in closed)]
        in_time = [day for day in is_open if one.latest_on is None or day <= one.latest_on]
        # Past its cap already: the sooner the better, but any day will do.
        days = in_time or is_open
    if not days:
        return (NEVER,)
    early, late = one.earliest or 0, DAY - 1 if one.latest is None else one.latest
    return tuple(Window(DAY * (day - first).days + early, DAY * (day - first).days + late) for day in days)


def write(board: Board, plan: Plan) -> list[Appointment]:
    """Keep a plan's days, people and times; what found no place has none. Returns what changed, saved one by one so
    that each keeps its history."""
    changed = []
    for shift, one in enumerate(plan.rounds):
        day = board.days[shift]
        for call in one.calls:
            changed += _put(board.appointments[call.stop], day.on, day.member, call.begins % DAY)
    for number in plan.left_out:
        one_left = board.appointments[number]
        on = one_left.on if one_left.is_firm else None
        changed += _put(one_left, on, None, None)
    for one_changed in changed:
        one_changed.save()
    return changed


def _put(
    one: Appointment, on: datetime.date | None, member: CrewMember | None, begins: int | None
) -> list[Appointment]:
    member_id = member.pk if member else None
    if (one.on, one.member_id, one.begins) == (on, member_id, begins):
        return []
    one.on, one.member, one.begins = on, member, begins
    if on is not None:
        one.week = week_of(on)
    one.version += 1
    return [one]


def loosened(problem: Problem) -> Problem:
    """The problem without whom its visits are with, so that they are put in order freely; locks stay."""
    return replace(problem, stops=tuple(s if s.stays else replace(s, shift=None) for s in problem.stops))

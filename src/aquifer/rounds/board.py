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
from aquifer.rounds.models import Appointment, AppointmentStatus, Closed, CrewMember
from aquifer.rounds.ways import places
from aquifer.travel.service import Point, times

FIRM_WORTH = 100_000
"""Minutes: nothing is worth leaving a promise out."""
LEAST_WORTH, MOST_WORTH = 120, 2400
"""Minutes of driving that placing an ordinary visit is worth, by what it saves. Assumption."""
NEVER = Window(-1, -1)
"""Where no day is left: nothing begins before the first midnight."""
OPEN = (AppointmentStatus.PLANNED, AppointmentStatus.KEPT, AppointmentStatus.OFFERED, AppointmentStatus.PROMISED)


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
        at = {(working_day.member.pk, working_day.on): number for number, working_day in enumerate(self.days)}
        placed: list[list[int]] = [[] for _ in self.days]
        for number in sorted(range(len(self.appointments)), key=lambda n: (self.appointments[n].begins or 0, n)):
            appointment = self.appointments[number]
            if appointment.begins is not None and appointment.on is not None and appointment.member_id is not None:
                shift = at.get((appointment.member_id, appointment.on))
                if shift is not None:
                    placed[shift].append(number)
        return placed

    def standing(self) -> Plan:
        """The plan that stands, timed."""
        return of_sequences(self.problem, self.sequences())

    def number(self, appointment_id: int) -> int | None:
        """The row of an appointment."""
        return next((n for n, appointment in enumerate(self.appointments) if appointment.pk == appointment_id), None)

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


def left_over(today: datetime.date) -> Q:
    """Open visits whose day, or whose week, went by without them."""
    return Q(on__lt=today) | Q(on__isnull=True, week__lt=week_of(today))


def went_by(appointment: Appointment, today: datetime.date) -> bool:
    """Whether the day of an open visit, or its week, went by without it."""
    return appointment.on < today if appointment.on else appointment.week < week_of(today)


def read(first: datetime.date, last: datetime.date, also: Q | None = None) -> Board:
    """The rounds from one day to another. Parameters: also, open visits besides, which have no day among these."""
    wanted = Q(on__gte=first, on__lte=last)
    if also is not None:
        wanted |= also
    found = Appointment.objects.filter(wanted, standing__in=OPEN).select_related("site__zone", "site__customer")
    appointments = list(found.order_by("pk"))
    return of(first, last, appointments)


def of(first: datetime.date, last: datetime.date, appointments: list[Appointment]) -> Board:
    """The board of these appointments and the crew's days."""
    who = crew.members()
    days = crew.working(who, first, last)
    where = places([appointment.site for appointment in appointments], crew.yards(who))
    points: list[Point] = []
    number: dict[Point, int] = {}

    def place(point: Point) -> int:
        if point not in number:
            number[point] = len(points)
            points.append(point)
        return number[point]

    shifts = tuple(crew.shift(working_day, place(crew.start(working_day.member)), first) for working_day in days)
    stops = _stops(
        first, last, appointments, [place(where[appointment.site_id]) for appointment in appointments], shifts, days
    )
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
    closed = closed_of([appointment.site_id for appointment in appointments])
    shift_of = {(working_day.member.pk, working_day.on): number for number, working_day in enumerate(days)}
    stops = []
    for appointment, place in zip(appointments, at, strict=True):
        held = (
            None
            if appointment.on is None or appointment.member_id is None
            else shift_of.get((appointment.member_id, appointment.on))
        )
        stops.append(
            Stop(
                place=place,
                minutes=appointment.minutes,
                needs=frozenset(appointment.needs),
                people=appointment.people,
                windows=windows(appointment, first, last, closed.get(appointment.site_id, [])),
                worth=_worth(appointment),
                shift=held,
                stays=appointment.standing == AppointmentStatus.KEPT and held is not None,
            )
        )
    return tuple(stops)


def _worth(appointment: Appointment) -> int:
    """Minutes of driving that giving it a day is worth: nothing stands against what was promised, and little against
    what somebody asked for."""
    if appointment.is_firm:
        return FIRM_WORTH
    if appointment.asked_minutes:
        return MOST_WORTH
    return int(np.clip(60 * appointment.worth, LEAST_WORTH, MOST_WORTH))


def closed_of(site_ids: Sequence[int]) -> dict[int, list[Closed]]:
    """When these sites are closed; one query."""
    found: dict[int, list[Closed]] = {}
    for shut in Closed.objects.filter(site__in=site_ids):
        found.setdefault(shut.site_id, []).append(shut)
    return found


def shut_all_week(site_ids: Sequence[int], week: datetime.date, today: datetime.date) -> set[int]:
    """Which of these sites are closed on every day of a week that is to come; one query."""
    days = [day for n in range(7) if (day := week + datetime.timedelta(days=n)) >= today]
    return {
        site_id
        for site_id, closed in closed_of(site_ids).items()
        if days and all(any(shut.holds_on(day) for shut in closed) for day in days)
    }


def freed(board: Board, number: int, last: datetime.date, agreed: bool = False) -> Board:
    """The board with one visit that a person may move anywhere: its lock and its cap no longer bind it. A promise and a
    closed day do, so that they are told; if ``agreed`` with the customer, their promise binds no longer either."""
    appointment = board.appointments[number]
    bound = appointment
    if agreed or appointment.standing in (AppointmentStatus.PLANNED, AppointmentStatus.KEPT):
        bound = Appointment(site_id=appointment.site_id, standing=AppointmentStatus.PLANNED)
    open_days = windows(bound, board.first, last, closed_of([appointment.site_id]).get(appointment.site_id, []))
    stop = replace(board.problem.stops[number], stays=False, windows=open_days)
    stops = tuple(stop if n == number else other for n, other in enumerate(board.problem.stops))
    return replace(board, problem=replace(board.problem, stops=stops))


def windows(
    appointment: Appointment, first: datetime.date, last: datetime.date, closed: Sequence[Closed]
) -> tuple[Window, ...]:
    """When an appointment may begin: at its promise, and not when the site is closed or past its cap."""
    days = [first + datetime.timedelta(days=n) for n in range((last - first).days + 1)]
    if appointment.on is not None and appointment.is_firm:
        days = [day for day in days if day == appointment.on]
    else:
        is_open = [day for day in days if not any(shut.holds_on(day) for shut in closed)]
        in_time = [day for day in is_open if appointment.latest_on is None or day <= appointment.latest_on]
        # Past its cap already: the sooner the better, but any day will do.
        days = in_time or is_open
    if not days:
        return (NEVER,)
    early, late = appointment.earliest or 0, DAY - 1 if appointment.latest is None else appointment.latest
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


def time_anew(on: datetime.date) -> None:
    """Put the visits of a day's rounds at the times that their lengths and ways come to, in the order that stands."""
    found = read(on, on)
    write(found, found.standing())


def _put(
    appointment: Appointment, on: datetime.date | None, member: CrewMember | None, begins: int | None
) -> list[Appointment]:
    member_id = member.pk if member else None
    if (appointment.on, appointment.member_id, appointment.begins) == (on, member_id, begins):
        return []
    appointment.on, appointment.member, appointment.begins = on, member, begins
    if on is not None:
        appointment.week = week_of(on)
    appointment.version += 1
    return [appointment]


def loosened(problem: Problem) -> Problem:
    """The problem without whom its visits are with, so that they are put in order freely; locks stay."""
    return replace(problem, stops=tuple(s if s.stays else replace(s, shift=None) for s in problem.stops))

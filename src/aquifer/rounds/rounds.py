"""Putting rounds in order, and moving a visit by hand."""

import datetime
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

import numpy as np
from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from aquifer.company.clock import week_of
from aquifer.core.forecast import PROBABILITIES
from aquifer.core.parameters import DAYS_PER_YEAR
from aquifer.core.planning import promises, routing, season
from aquifer.core.planning.rounds import (
    DAY,
    Breach,
    Fault,
    Plan,
    move_cost,
    move_costs,
    moved,
    of_sequences,
)
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.forecasts.models import Forecast
from aquifer.rounds import board, planned_visits, promise
from aquifer.rounds.models import Appointment, AppointmentStatus
from aquifer.transactions import retried
from aquifer.visits.hours import in_force

SECONDS_A_WEEK = 4.0
"""Of search: what a person waits for. Assumption; the bench says what more would bring."""


@dataclass(frozen=True)
class PlannedWeek:
    """What putting a week's visits in order came to."""

    week: datetime.date
    driving: int
    left_out: int
    visits: int
    conflict: tuple[str, ...]
    """Sites of promises that cannot all be kept."""


def plan_week(week: datetime.date, today: datetime.date) -> PlannedWeek:
    """Put a week's visits in order from today on, and with this week's what is left over of days before that nobody
    counts on; returns what it came to."""
    last = week + datetime.timedelta(days=6)
    first = max(week, today)
    if first > last:
        return PlannedWeek(week, 0, 0, 0, ())
    also = Q(on__isnull=True, week__gte=week_of(first), week__lte=last)
    if week_of(today) == week_of(first):
        also |= Q(standing=AppointmentStatus.PLANNED) & board.left_over(today)
    found = board.read(first, last, also)
    problem = board.loosened(found.problem)
    plan = routing.plan(problem, SECONDS_A_WEEK + 0.03 * len(problem.stops))
    with transaction.atomic():
        board.one_at_a_time()
        _check_unmoved(found)
        board.write(found, plan)
    return PlannedWeek(week, plan.driving, len(plan.left_out), len(problem.stops), _conflict(found, plan))


def _conflict(found: board.Board, plan: Plan) -> tuple[str, ...]:
    """The fewest firm visits that cannot all be kept, by their sites; none if every firm one has a place."""
    firm = [number for number, appointment in enumerate(found.appointments) if appointment.is_firm]
    if not set(firm) & set(plan.left_out):
        return ()
    return tuple(found.appointments[number].site.name for number in promises.in_conflict(found.problem, firm))


def _check_unmoved(found: board.Board) -> None:
    """What a person moved while it was planned stays where it was put: the plan is dropped.

    Raises: Conflict.
    """
    ids = [appointment.pk for appointment in found.appointments]
    now = dict(Appointment.objects.select_for_update().filter(pk__in=ids).values_list("pk", "version"))
    if any(now.get(appointment.pk) != appointment.version for appointment in found.appointments):
        raise Conflict("Somebody moved a visit meanwhile; plan again.", "rounds.moved_meanwhile")


@dataclass(frozen=True)
class Target:
    """Where a visit is to go: a member's day, or a week without a day."""

    week: datetime.date
    on: datetime.date | None = None
    member_id: int | None = None
    position: int | None = None
    agreed: bool = False
    """With the customer, who is on the telephone: what they were promised before binds no longer."""


@dataclass(frozen=True)
class Told:
    """What a move would do."""

    driving: int
    ends: int | None
    faults: list[str]
    lateness: list[str]
    refused: bool
    """It cannot be done at all: nobody there may."""
    position: int | None


@dataclass(frozen=True)
class Position(Told):
    """The same of one place on a member's round."""

    member_id: int
    position: int
    begins: int


@dataclass(frozen=True)
class Place(Told):
    """The same of the best place on a member's day."""

    on: datetime.date
    member_id: int
    name: str
    begins: int


def cost(appointment_id: int, target: Target) -> Told:
    """What moving a visit there would cost, before it is done. Raises: NotFound, Invalid."""
    appointment = _open(appointment_id)
    late = risk(appointment)(target.on or target.week)
    if target.on is None or target.member_id is None:
        promise = (
            [f"{appointment.site.name} was promised {appointment.on:%d %B}"]
            if appointment.standing == AppointmentStatus.PROMISED and appointment.on and not target.agreed
            else []
        )
        shut = board.shut_all_week([appointment.site_id], week_of(target.week), timezone.localdate())
        closed = [f"{appointment.site.name} is closed all that week" for _ in shut]
        return Told(0, None, promise + closed, late, False, None)
    found, number, shift = _board_for(appointment, target)
    told = move_cost(found.problem, found.standing(), number, shift, target.position)
    words = [fault_words(found, fault, appointment) for fault in told.faults]
    return Told(told.driving, told.ends % DAY, words, late, _refused(told.faults), told.position)


def possible(appointment_id: int, first: datetime.date, days: int, agreed: bool = False) -> list[Place]:
    """Where a visit could go within some days, what breaks least and drives least first. Raises: NotFound."""
    return places_for(_open(appointment_id), first, days, agreed)


def positions(appointment_id: int, on: datetime.date) -> list[Position]:
    """Every place of a visit on a day's rounds, by round and then by place, with what each costs and breaks.

    What a board needs that shows it while a visit is carried over it. Raises: NotFound.
    """
    appointment = _open(appointment_id)
    found = board.read(on, on)
    number = found.number(appointment.pk)
    if number is None:
        found, number = board.of(on, on, [*found.appointments, appointment]), len(found.appointments)
    found = board.freed(found, number, on, False)
    standing, places = found.standing(), []
    late = risk(appointment)(on) if on > (appointment.on or appointment.week) else []
    for shift, day in enumerate(found.days):
        for there in move_costs(found.problem, standing, number, shift):
            places.append(
                Position(
                    driving=there.driving,
                    ends=there.ends % DAY,
                    faults=[fault_words(found, fault, appointment) for fault in there.faults],
                    lateness=late,
                    refused=_refused(there.faults),
                    position=there.position,
                    member_id=day.member.pk,
                    begins=there.begins % DAY,
                )
            )
    return places


def places_for(appointment: Appointment, first: datetime.date, days: int, agreed: bool = False) -> list[Place]:
    """The same of a visit that need not be kept yet, as long as it says its site, how long it takes and what."""
    last = first + datetime.timedelta(days=days - 1)
    found = board.read(first, last)
    number = None if appointment.pk is None else found.number(appointment.pk)
    if number is None:
        found, number = board.of(first, last, [*found.appointments, appointment]), len(found.appointments)
    found = board.freed(found, number, last, agreed)
    standing, places, late = found.standing(), [], risk(appointment)
    for shift, day in enumerate(found.days):
        if not found.problem.stops[number].needs <= found.problem.shifts[shift].able or appointment.people > (
            2 if day.member.helper else 1
        ):
            continue
        here = move_cost(found.problem, standing, number, shift)
        places.append(
            Place(
                driving=here.driving,
                ends=here.ends % DAY,
                faults=[fault_words(found, fault, appointment) for fault in here.faults],
                lateness=late(day.on) if day.on > (appointment.on or appointment.week) else [],
                refused=False,
                position=here.position,
                on=day.on,
                member_id=day.member.pk,
                name=day.member.user.name,
                begins=here.begins % DAY,
            )
        )
    return sorted(places, key=lambda place: (len(place.faults), place.driving, place.on))


def _refused(faults: Iterable[Fault]) -> bool:
    return any(fault.breach in (Breach.ABILITY, Breach.PEOPLE) for fault in faults)


@retried
def move(appointment_id: int, target: Target, version: int, override: bool, why: str = "") -> Appointment:
    """Move a visit and keep it there.

    One that was offered or promised a time which it no longer has is offered the new one; one that is moved in
    agreement with the customer is promised it. Parameters: why, for the customer. Raises: Conflict if somebody moved
    it since, or if it breaks something and ``override`` is not said; Invalid where nobody there may do it.
    """
    with transaction.atomic():
        board.one_at_a_time()
        appointment = (
            Appointment.objects.select_for_update(of=("self",)).select_related("site").filter(pk=appointment_id).first()
        )
        if appointment is None or appointment.standing not in board.OPEN:
            raise NotFound("There is no such visit, or it is done or called off.")
        if appointment.version != version:
            raise Conflict("Somebody moved this visit meanwhile: look where it is now.", "rounds.moved_meanwhile")
        told = cost(appointment_id, target)
        if told.refused:
            raise Invalid("Not moved. " + "; ".join(told.faults), "rounds.not_able", {"member_id": "?"})
        if told.faults and not override:
            raise Conflict("It would break: " + "; ".join(told.faults), "rounds.breaks")
        was, has_gone_by = promise.of(appointment), board.went_by(appointment, timezone.localdate())
        if target.on is None or target.member_id is None:
            _close_up(appointment)
            appointment.week = week_of(target.week)
            appointment.on = None
            appointment.member = None
            appointment.begins = None
            appointment.standing = AppointmentStatus.PLANNED
            appointment.earliest = None
            appointment.latest = None
            appointment.why = why
            appointment.version += 1
            appointment.save()
            if has_gone_by:
                planned_visits.leave_out_what_is_kept([appointment], in_force())
            return appointment
        _close_up(appointment, target)
        found, number, shift = _board_for(appointment, target)
        position = told.position if told.position is not None else 0
        plan = moved(found.problem, found.standing(), number, shift, position)
        held = found.appointments[number]
        if held.standing == AppointmentStatus.PLANNED or (held.is_firm and held.on not in (None, target.on)):
            # On another day than it was promised, it is kept there until it is promised anew.
            held.standing, held.earliest, held.latest = AppointmentStatus.KEPT, None, None
            held.version += 1
            held.save()
        board.write(found, plan)
        stays = Appointment.objects.get(pk=appointment_id)
        if has_gone_by:
            # Its services may have been planned anew since.
            planned_visits.leave_out_what_is_kept([stays], in_force())
        return promise.after_move(stays, was, target.agreed, why)


def _close_up(appointment: Appointment, target: Target | None = None) -> None:
    """Those after it on the day it leaves come sooner."""
    if appointment.on is None or appointment.member_id is None or (target and target.on == appointment.on):
        return
    found = board.read(appointment.on, appointment.on)
    number, shift = found.number(appointment.pk), found.shift(appointment.member_id, appointment.on)
    if number is None or shift is None:
        return
    sequences = [[n for n in sequence if n != number] for sequence in found.sequences()]
    plan = of_sequences(found.problem, sequences)
    board.write(found, replace(plan, left_out=()))


def _open(appointment_id: int) -> Appointment:
    open_ones = Appointment.objects.select_related("site__zone", "site__customer").filter(standing__in=board.OPEN)
    appointment = open_ones.filter(pk=appointment_id).first()
    if appointment is None:
        raise NotFound("There is no such visit, or it is done or called off.")
    return appointment


def _board_for(appointment: Appointment, target: Target) -> tuple[board.Board, int, int]:
    """The target day's board with the visit on it."""
    on = target.on or target.week
    found = board.read(on, on)
    if found.number(appointment.pk) is None:
        found = board.of(on, on, [*found.appointments, appointment])
    number, shift = found.number(appointment.pk), found.shift(target.member_id or 0, on)
    if shift is None:
        raise Invalid("They do not work on that day.", "rounds.away", {"member_id": "away"})
    assert number is not None
    return board.freed(found, number, on, target.agreed), number, shift


WAITS_MINUTES = 720
"""Who is back so much too late has waited for another day to come. Assumption."""


def fault_words(found: board.Board, fault: Fault, carried: Appointment | None = None) -> str:
    """What a plan would break, in words. Parameters: carried, the visit that is moved there."""
    if carried is not None and fault.breach is Breach.HOURS and fault.minutes >= WAITS_MINUTES:
        # On a day before its own it would wait for that.
        if carried.on is not None and carried.is_firm:
            return f"the promise to {carried.site.name} is of {carried.on.day} {carried.on:%B}"
        return f"{carried.site.name} is closed on that day"
    who = found.days[fault.shift].member.user.name if fault.shift >= 0 else ""
    appointment = found.appointments[fault.stop] if fault.stop is not None else None
    site = appointment.site.name if appointment else ""
    if fault.breach is Breach.ABILITY and appointment:
        lacking = sorted(set(appointment.needs) - found.days[fault.shift].able)
        return f"{site} takes {', '.join(lacking)}, which {who} has not"
    if fault.breach is Breach.PEOPLE:
        return f"{site} takes two, and {who} goes alone"
    if fault.breach is Breach.PROMISE and appointment and appointment.earliest is None:
        return f"{site} is closed on that day"
    if (
        fault.breach is Breach.PROMISE
        and appointment
        and appointment.on
        and appointment.on != found.days[fault.shift].on
    ):
        return f"the promise to {site} is of {appointment.on.day} {appointment.on:%B}"
    if fault.breach is Breach.PROMISE:
        return f"the promise to {site} is missed by {fault.minutes} min"
    if fault.breach is Breach.HOURS:
        return f"{who} is back {fault.minutes} min after the day's end"
    if fault.breach is Breach.LUNCH:
        return f"{who}'s lunch is {fault.minutes} min late"
    return f"{site} is kept with somebody else"


def risk(appointment: Appointment) -> Callable[[datetime.date], list[str]]:
    """What a move does to the risk of being late, in words by day; none where it comes sooner or hardly later.

    Reads the forecasts once, for any number of days.
    """
    was = appointment.on or appointment.week
    wanted = set(appointment.services.values_list("heater_id", "component")) if appointment.pk else set()
    current = Forecast.objects.current().filter(heater__in={heater for heater, _ in wanted})
    names = ("heater_id", "component", "as_of", "reached_days", "probability_today")
    rows = [forecast for forecast in current.only(*names) if (forecast.heater_id, forecast.component) in wanted]

    def told(on: datetime.date) -> list[str]:
        words = []
        if appointment.latest_on is not None and on > appointment.latest_on >= was:
            words.append(f"past its latest day, {appointment.latest_on:%d %B %Y}")
        days = sum(_over_days(row, was, on) for row in rows)
        if days >= 1:
            words.append(f"{days:.0f} days more over a limit to be expected")
        return words

    return told


def _over_days(forecast: Forecast, was: datetime.date, on: datetime.date) -> float:
    """Days over its limit to be expected more for a service on ``on`` than on ``was``."""
    reached = np.array([[np.inf if d is None else d for d in forecast.reached_days]]) / DAYS_PER_YEAR
    weeks = max((max(was, on) - forecast.as_of).days // 7 + 2, 2)
    over = season.expected_over(reached, PROBABILITIES, np.array([forecast.probability_today]), weeks)[0]
    before, after = (min(max((day - forecast.as_of).days // 7, 0), weeks - 1) for day in (was, on))
    return DAYS_PER_YEAR * float(over[after] - over[before])

"""What happens while a day runs, and the rest of it planned anew around that, changing as little as possible."""

import datetime
from dataclasses import dataclass, replace

from django.db import transaction

from aquifer.company.clock import week_of
from aquifer.core.planning import routing
from aquifer.core.planning.rounds import DAY, Change, Plan, Problem, Stop, Window, changes, of_sequences
from aquifer.customers.models import Site
from aquifer.errors import Invalid, NotFound
from aquifer.rounds import board, promise
from aquifer.rounds.models import Absence, Appointment, AppointmentStatus, Reason
from aquifer.transactions import retried

SECONDS_A_DAY = 1.5
"""Of search: what a person waits for. Assumption; the bench says what more would bring."""
EMERGENCY_MINUTES = 90
"""How long an emergency takes until somebody says otherwise, and within which it is begun. Assumption."""


@dataclass(frozen=True)
class Disturbance:
    """Something that happens while a day runs."""

    kind: str
    """overrun, nobody_home, emergency or away."""
    at: int
    """Minutes after midnight."""
    appointment_id: int | None = None
    minutes: int = 0
    site_id: int | None = None
    member_id: int | None = None
    """Who cannot work: what is left of their day is dealt out."""
    needs: tuple[str, ...] = ()
    words: str = ""
    """What was said on the telephone."""
    decides: str = ""
    """Who may approve more work, and how they are reached."""


@retried
def disturb(on: datetime.date, what: Disturbance) -> list[str]:
    """Plan what is left of a day anew, changing as little as possible; returns what changed, in words.

    Raises: NotFound, Invalid naming the field.
    """
    with transaction.atomic():
        board.one_at_a_time()
        found = board.read(on, on)
        longer: dict[int, int] = {}
        gone: set[int] = set()
        if what.kind in ("overrun", "nobody_home"):
            number = found.number(what.appointment_id or 0)
            if number is None:
                raise NotFound("There is no such visit on that day.", fields={"appointment_id": "not on that day"})
            longer, gone = ({number: what.minutes}, set()) if what.kind == "overrun" else ({}, {number})
        elif what.kind == "emergency":
            found = _with_emergency(found, on, what)
        said = [_turned_away(found.appointments[number], on) for number in gone]
        _check_hours(what)
        before = found.standing()
        rest, numbers = _rest(found, what.at, longer, gone)
        sequences = _left(found, numbers)
        old = of_sequences(rest, sequences)
        if what.kind == "away":
            rest, sequences = _without(rest, sequences, _away(found, on, what))
        new = routing.plan(rest, SECONDS_A_DAY, sequences)
        said += [words for change in changes(old, new) if (words := _change_words(found, numbers, change))]
        _write_rest(found, new, numbers, gone)
        if not said and before.driving:
            said = ["Nothing changes: there is slack enough."]
        return said


def _check_hours(what: Disturbance) -> None:
    if not 0 <= what.at < DAY:
        raise Invalid("Say when, between 0:00 and 23:59.", fields={"at": "?"})
    if not 0 <= what.minutes <= 600:
        raise Invalid("An overrun is 0 to 600 minutes.", fields={"minutes": "0 to 600"})


def _with_emergency(found: board.Board, on: datetime.date, what: Disturbance) -> board.Board:
    site = Site.objects.filter(pk=what.site_id or 0, archived_at__isnull=True).first()
    if site is None:
        raise NotFound("There is no such site.", fields={"site_id": "no such site"})
    made = Appointment.objects.create(
        site=site,
        week=week_of(on),
        on=on,
        minutes=what.minutes or EMERGENCY_MINUTES,
        standing=AppointmentStatus.PROMISED,
        earliest=what.at,
        latest=min(what.at + EMERGENCY_MINUTES, DAY - 1),
        needs=sorted(what.needs),
        reason=Reason.EMERGENCY,
        asked_minutes=what.minutes or EMERGENCY_MINUTES,
        said=what.words,
        decides=what.decides,
    )
    promise.agreed.send(Appointment, appointment=made)
    return board.of(on, on, [*found.appointments, made])


def _away(found: board.Board, on: datetime.date, what: Disturbance) -> int:
    """The row of the round of who is away from now on; their day is kept free."""
    shift = found.shift(what.member_id or 0, on)
    if shift is None:
        raise NotFound("They do not work on that day.", fields={"member_id": "does not work then"})
    member = found.days[shift].member
    Absence.objects.create(member=member, first_on=on, last_on=on, why=what.words[:80] or "away")
    return shift


def _without(rest: Problem, sequences: list[list[int]], shift: int) -> tuple[Problem, list[list[int]]]:
    """What is left of a day without somebody: what was kept with them may go to anybody."""
    gone = rest.shifts[shift]
    # At home already: a round that no one can end in time would leave no plan at all.
    nobody = replace(gone, able=frozenset(), people=0, start_place=gone.end_place, ends=gone.begins, lunch=None)
    shifts = [nobody if n == shift else one for n, one in enumerate(rest.shifts)]
    # A customer who expects us is worth a way.
    stops = [
        replace(stop, shift=None, stays=False, worth=max(stop.worth, board.MOST_WORTH)) if stop.shift == shift else stop
        for stop in rest.stops
    ]
    left = [[] if n == shift else own for n, own in enumerate(sequences)]
    return replace(rest, shifts=tuple(shifts), stops=tuple(stops)), left


def _turned_away(appointment: Appointment, on: datetime.date) -> str:
    appointment.on = None
    appointment.member = None
    appointment.begins = None
    appointment.earliest = None
    appointment.latest = None
    appointment.standing, appointment.note = AppointmentStatus.PLANNED, f"nobody in on {on:%d %B}"
    appointment.why = f"we were at your door on {on.day} {on:%B} and found nobody in"
    appointment.version += 1
    appointment.save()
    return f"{appointment.site.name} waits for another day: nobody was in."


def _rest(found: board.Board, now: int, longer: dict[int, int], gone: set[int]) -> tuple[Problem, list[int]]:
    """What is left of the day: who is free when and where, and the visits not begun; with the rows these had."""
    begun: set[int] = set()
    shifts = []
    standing = found.standing()
    for number, one in enumerate(standing.rounds):
        shift, free, place = found.problem.shifts[number], now, found.problem.shifts[number].start_place
        for call in one.calls:
            if call.arrives <= now and call.stop not in gone:
                begun.add(call.stop)
                free, place = max(free, call.ends + longer.get(call.stop, 0)), found.problem.stops[call.stop].place
        begins = max(shift.begins, free)
        lunch = shift.lunch
        if lunch and one.lunch is not None and one.lunch <= now:
            begins, lunch = max(begins, one.lunch + lunch.minutes), None
        elif lunch and begins > lunch.latest:
            lunch = replace(lunch, latest=begins)
        shifts.append(replace(shift, begins=begins, start_place=place, lunch=lunch, ends=max(shift.ends, begins)))
    numbers = [n for n in range(len(found.appointments)) if n not in begun and n not in gone]
    stops = tuple(_still(found.problem.stops[n], now) for n in numbers)
    return Problem(tuple(shifts), stops, found.problem.travel), numbers


def _still(stop: Stop, now: int) -> Stop:
    """A promise whose time is past is kept as soon as it can be."""
    if stop.windows and stop.windows[-1].end < now:
        return replace(stop, windows=(Window(now, DAY - 1),))
    return stop


def _left(found: board.Board, numbers: list[int]) -> list[list[int]]:
    row = {number: at for at, number in enumerate(numbers)}
    return [[row[n] for n in sequence if n in row] for sequence in found.sequences()]


def _write_rest(found: board.Board, new: Plan, numbers: list[int], gone: set[int]) -> None:
    rounds = tuple(
        replace(one, calls=tuple(replace(call, stop=numbers[call.stop]) for call in one.calls)) for one in new.rounds
    )
    left_out = tuple(numbers[n] for n in new.left_out)
    board.write(found, replace(new, rounds=rounds, left_out=tuple(n for n in left_out if n not in gone)))


def _change_words(found: board.Board, numbers: list[int], change: Change) -> str:
    appointment = found.appointments[numbers[change.stop]]
    name = appointment.site.name
    if change.after is None:
        return f"{name} finds no place today any more: call them."
    who = found.days[change.after].member.user.name
    if change.before is None:
        return f"{name} goes to {who}."
    if change.before != change.after:
        return f"{name} goes from {found.days[change.before].member.user.name} to {who}."
    return f"{name} is {abs(change.minutes)} min {'later' if change.minutes > 0 else 'sooner'}, with {who}."

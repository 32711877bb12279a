"""What a technician says of the own day, from the road: running late, or could not do it."""

import datetime
from enum import StrEnum
from itertools import pairwise

from django.db import transaction

from aquifer.accounts.models import User
from aquifer.core.planning.rounds import DAY
from aquifer.errors import Invalid, NotAllowed, NotFound
from aquifer.rounds import board
from aquifer.rounds.models import Appointment, AppointmentStatus
from aquifer.transactions import retried

MOST_LATE_MINUTES = 480


class NotDone(StrEnum):
    """Why a visit was not done."""

    NOBODY_HOME = "nobody_home"
    NO_ACCESS = "no_access"
    NOT_SAFE = "not_safe"
    PART_MISSING = "part_missing"
    DECLINED = "declined"


_NOTES = {
    NotDone.NOBODY_HOME: "no one home",
    NotDone.NO_ACCESS: "could not get to the heater",
    NotDone.NOT_SAFE: "not safe to work",
    NotDone.PART_MISSING: "a part was missing",
    NotDone.DECLINED: "they did not want it done",
}
_TOLD = {
    NotDone.NOBODY_HOME: "we were at your door on {day} and found nobody in",
    NotDone.NO_ACCESS: "on {day} we could not get to the heater",
    NotDone.NOT_SAFE: "on {day} it could not be done safely",
    NotDone.PART_MISSING: "on {day} a part was missing",
    NotDone.DECLINED: "",
}


@retried
def late(user: User, appointment_id: int, minutes: int, on: datetime.date) -> list[Appointment]:
    """The technician comes so many minutes later than planned; what comes after is later as far as no pause takes it
    up. The order stays. Returns what moved.

    Raises: NotFound, NotAllowed if it is somebody else's, Invalid naming the field.
    """
    if not 1 <= minutes <= MOST_LATE_MINUTES:
        raise Invalid(f"Say 1 to {MOST_LATE_MINUTES} minutes.", fields={"minutes": f"1 to {MOST_LATE_MINUTES}"})
    with transaction.atomic():
        board.one_at_a_time()
        appointment = _own(user, appointment_id, on)
        found = board.read(on, on)
        number, shift = found.number(appointment.pk), found.shift(appointment.member_id or 0, on)
        if number is None or shift is None:
            raise NotFound("This visit is not on your round today.")
        sequence = found.sequences()[shift]
        stops, travel = found.problem.stops, found.problem.travel
        moved: list[Appointment] = []
        free = 0
        for before, here in pairwise([number, *sequence[sequence.index(number) :]]):
            later = found.appointments[here]
            planned = later.begins or 0
            soonest = free + int(travel[stops[before].place, stops[here].place]) if moved else planned + minutes
            if soonest <= planned:
                break
            later.begins = min(soonest, DAY - 1)
            free = later.begins + later.minutes
            later.version += 1
            later.save()
            moved.append(later)
    return moved


@retried
def not_done(user: User, appointment_id: int, why: NotDone, words: str, on: datetime.date) -> Appointment:
    """The visit waits for another day, with what the technician says; one that they did not want is called off.

    Raises: NotFound, NotAllowed if it is somebody else's.
    """
    with transaction.atomic():
        board.one_at_a_time()
        appointment = _own(user, appointment_id, on)
        day = f"{on.day} {on:%B}"
        appointment.on = None
        appointment.member = None
        appointment.begins = None
        appointment.earliest = None
        appointment.latest = None
        appointment.standing = AppointmentStatus.CALLED_OFF if why is NotDone.DECLINED else AppointmentStatus.PLANNED
        appointment.note = ": ".join(filter(None, (f"{_NOTES[why]} on {day}", words)))[:240]
        appointment.why = _TOLD[why].format(day=day)
        appointment.version += 1
        appointment.save()
    return appointment


def _own(user: User, appointment_id: int, on: datetime.date) -> Appointment:
    appointment = (
        Appointment.objects.select_for_update(of=("self",))
        .select_related("member", "site")
        .filter(pk=appointment_id, on=on, standing__in=board.OPEN)
        .first()
    )
    if appointment is None:
        raise NotFound("There is no such visit today, or it is done or called off.")
    if appointment.member is None or appointment.member.user_id != user.pk:
        raise NotAllowed("This visit is on somebody else's round.")
    return appointment

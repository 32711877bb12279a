"""How firmly an appointment stands: promised for a time, kept, let go, called off."""

import datetime
from dataclasses import dataclass

from django.db import transaction
from django.dispatch import Signal

from aquifer.company.clock import week_of
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.rounds import board
from aquifer.rounds.models import Appointment, AppointmentStatus
from aquifer.rounds.schemas import PromiseIn
from aquifer.transactions import retried

agreed = Signal()
"""Sent within the transaction with ``appointment``, one whose time was agreed with its customer in person."""
EARLY, LATE = 30, 60
"""Minutes before and after the planned time within which a visit is offered to begin. Assumption."""
QUARTER = 15


@dataclass(frozen=True)
class Promise:
    """A day and between which minutes of it a visit begins."""

    on: datetime.date
    earliest: int | None
    latest: int | None

    def holds(self, on: datetime.date | None, begins: int | None) -> bool:
        """Whether a visit that begins then keeps it; one without a time yet may still."""
        if on != self.on or begins is None or self.earliest is None or self.latest is None:
            return on == self.on
        return self.earliest <= begins <= self.latest


def of(appointment: Appointment) -> Promise | None:
    """What an appointment's customer may count on, None while nothing was offered or promised."""
    if appointment.standing not in (AppointmentStatus.OFFERED, AppointmentStatus.PROMISED) or appointment.on is None:
        return None
    return Promise(appointment.on, appointment.earliest, appointment.latest)


def around(begins: int) -> tuple[int, int]:
    """Between which times a visit is offered to begin that is planned for this minute: to the quarter of an hour."""
    return max(0, (begins - EARLY) // QUARTER * QUARTER), min(1439, -(-(begins + LATE) // QUARTER) * QUARTER)


def after_move(appointment: Appointment, was: Promise | None, in_agreement: bool, why: str) -> Appointment:
    """How a visit stands that a person has moved; to be called inside the move's transaction."""
    if appointment.begins is None or not (in_agreement or (was and not was.holds(appointment.on, appointment.begins))):
        return appointment
    appointment.standing = AppointmentStatus.PROMISED if in_agreement else AppointmentStatus.OFFERED
    appointment.earliest, appointment.latest = around(appointment.begins)
    appointment.why = why
    appointment.version += 1
    appointment.save()
    if in_agreement:
        agreed.send(Appointment, appointment=appointment)
    return appointment


unknown = Signal()
"""Sent within the transaction with ``appointment``, one of which its customer knows nothing."""


def agreed_with_nobody(site_id: int) -> int:
    """The site's customer is another: what was offered or promised is kept where it is, and has to be agreed anew.

    Returns how many; to be called inside a transaction.
    """
    stands = [AppointmentStatus.OFFERED, AppointmentStatus.PROMISED]
    appointments = Appointment.objects.select_for_update().filter(site=site_id, standing__in=stands).order_by("pk")
    for appointment in appointments:
        appointment.standing, appointment.earliest, appointment.latest = AppointmentStatus.KEPT, None, None
        appointment.note = "; ".join(filter(None, (appointment.note, "new customer: agree it anew")))[:240]
        appointment.version += 1
        appointment.save()
        unknown.send(Appointment, appointment=appointment)
    return len(appointments)


@retried
def stand(appointment_id: int, payload: PromiseIn, today: datetime.date) -> Appointment:
    """Change how an appointment stands.

    A promise is of a day and a time of it; without them it is of the day and the hour before and after the time that
    is planned. Raises: NotFound, Conflict if somebody changed it since, Invalid naming the field.
    """
    with transaction.atomic():
        board.one_at_a_time()
        appointment = Appointment.objects.select_for_update().filter(pk=appointment_id, standing__in=board.OPEN).first()
        if appointment is None:
            raise NotFound("There is no such visit, or it is done or called off.")
        if appointment.version != payload.version:
            raise Conflict("Somebody changed this visit meanwhile: look at it again.", "rounds.moved_meanwhile")
        appointment.standing, appointment.why = AppointmentStatus(payload.standing), payload.why
        if appointment.standing in (AppointmentStatus.PROMISED, AppointmentStatus.OFFERED):
            _promised(appointment, payload, today)
        elif appointment.standing == AppointmentStatus.KEPT:
            if appointment.on is None:
                raise Invalid("It has no day to be kept on.", fields={"standing": "no day"})
            appointment.earliest = appointment.latest = None
        else:
            appointment.earliest = appointment.latest = None
            if appointment.standing == AppointmentStatus.CALLED_OFF or appointment.begins is None:
                appointment.on, appointment.member, appointment.begins = None, None, None
        appointment.version += 1
        appointment.save()
        if appointment.standing == AppointmentStatus.PROMISED:
            agreed.send(Appointment, appointment=appointment)
        elif payload.agreed:
            unknown.send(Appointment, appointment=appointment)
    return appointment


HOUR = 60


def _promised(appointment: Appointment, payload: PromiseIn, today: datetime.date) -> None:
    on = payload.on or appointment.on
    if on is None:
        raise Invalid("Say for which day.", fields={"on": "needed"})
    if on < today:
        raise Invalid(f"{on} is past.", fields={"on": "past"})
    earliest, latest = payload.earliest, payload.latest
    if earliest is None or latest is None:
        if appointment.begins is None:
            raise Invalid("Say between which times it begins.", fields={"earliest": "needed"})
        earliest, latest = max(0, appointment.begins - HOUR // 2), min(1439, appointment.begins + HOUR)
    if latest < earliest:
        raise Invalid("It cannot begin before it may.", fields={"latest": "before the earliest"})
    if on != appointment.on:
        appointment.member, appointment.begins = None, None
    appointment.on, appointment.week, appointment.earliest, appointment.latest = on, week_of(on), earliest, latest

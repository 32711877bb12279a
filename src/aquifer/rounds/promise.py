"""How firmly an appointment stands: promised for a time, kept, let go, called off."""

import datetime
from dataclasses import dataclass

from django.db import transaction
from django.dispatch import Signal

from aquifer.company.clock import week_of
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.rounds import board
from aquifer.rounds.models import Appointment, Standing
from aquifer.rounds.schemas import PromiseIn
from aquifer.transactions import retried

agreed = Signal()
"""Sent within the transaction with ``one``, an appointment whose time was agreed with its customer in person."""
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


def of(one: Appointment) -> Promise | None:
    """What an appointment's customer may count on, None while nothing was offered or promised."""
    if one.standing not in (Standing.OFFERED, Standing.PROMISED) or one.on is None:
        return None
    return Promise(one.on, one.earliest, one.latest)


def around(begins: int) -> tuple[int, int]:
    """Between which times a visit is offered to begin that is planned for this minute: to the quarter of an hour."""
    return max(0, (begins - EARLY) // QUARTER * QUARTER), min(1439, -(-(begins + LATE) // QUARTER) * QUARTER)


def after_move(one: Appointment, was: Promise | None, in_agreement: bool, why: str) -> Appointment:
    """How a visit stands that a person has moved; to be called inside the move's transaction."""
    if one.begins is None or not (in_agreement or (was and not was.holds(one.on, one.begins))):
        return one
    one.standing = Standing.PROMISED if in_agreement else Standing.OFFERED
    one.earliest, one.latest = around(one.begins)
    one.why = why
    one.version += 1
    one.save()
    if in_agreement:
        agreed.send(Appointment, one=one)
    return one


unknown = Signal()
"""Sent within the transaction with ``one``, an appointment of which its customer knows nothing."""


def agreed_with_nobody(site_id: int) -> int:
    """The site's customer is another: what was offered or promised is kept where it is, and has to be agreed anew.

    Returns how many; to be called inside a transaction.
    """
    stands = [Standing.OFFERED, Standing.PROMISED]
    found = Appointment.objects.select_for_update().filter(site=site_id, standing__in=stands).order_by("pk")
    for one in found:
        one.standing, one.earliest, one.latest = Standing.KEPT, None, None
        one.note = "; ".join(filter(None, (one.note, "new customer: agree it anew")))[:240]
        one.version += 1
        one.save()
        unknown.send(Appointment, one=one)
    return len(found)


@retried
def stand(appointment_id: int, payload: PromiseIn, today: datetime.date) -> Appointment:
    """Change how an appointment stands.

    A promise is of a day and a time of it; without them it is of the day and the hour before and after the time that
    is planned. Raises: NotFound, Conflict if somebody changed it since, Invalid naming the field.
    """
    with transaction.atomic():
        board.one_at_a_time()
        one = Appointment.objects.select_for_update().filter(pk=appointment_id, standing__in=board.OPEN).first()
        if one is None:
            raise NotFound("There is no such visit, or it is done or called off.")
        if one.version != payload.version:
            raise Conflict("Somebody changed this visit meanwhile: look at it again.", "rounds.moved_meanwhile")
        one.standing, one.why = Standing(payload.standing), payload.why
        if one.standing in (Standing.PROMISED, Standing.OFFERED):
            _promised(one, payload, today)
        elif one.standing == Standing.KEPT:
            if one.on is None:
                raise Invalid("It has no day to be kept on.", fields={"standing": "no day"})
            one.earliest = one.latest = None
        else:
            one.earliest = one.latest = None
            if one.standing == Standing.CALLED_OFF or one.begins is None:
                one.on, one.member, one.begins = None, None, None
        one.version += 1
        one.save()
        if one.standing == Standing.PROMISED:
            agreed.send(Appointment, one=one)
        elif payload.agreed:
            unknown.send(Appointment, one=one)
    return one


HOUR = 60


def _promised(one: Appointment, payload: PromiseIn, today: datetime.date) -> None:
    on = payload.on or one.on
    if on is None:
        raise Invalid("Say for which day.", fields={"on": "needed"})
    if on < today:
        raise Invalid(f"{on} is past.", fields={"on": "past"})
    earliest, latest = payload.earliest, payload.latest
    if earliest is None or latest is None:
        if one.begins is None:
            raise Invalid("Say between which times it begins.", fields={"earliest": "needed"})
        earliest, latest = max(0, one.begins - HOUR // 2), min(1439, one.begins + HOUR)
    if latest < earliest:
        raise Invalid("It cannot begin before it may.", fields={"latest": "before the earliest"})
    if on != one.on:
        one.member, one.begins = None, None
    one.on, one.week, one.earliest, one.latest = on, week_of(on), earliest, latest

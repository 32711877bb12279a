"""How firmly an appointment stands: promised for a time, kept, let go, called off."""

import datetime

from django.db import transaction

from aquifer.company.clock import week_of
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.rounds import board
from aquifer.rounds.models import Appointment, Standing
from aquifer.rounds.schemas import PromiseIn
from aquifer.transactions import retried


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
        one.standing = Standing(payload.standing)
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

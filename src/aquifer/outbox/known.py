"""What customers know, held against what is planned: whoever was told otherwise is told, once, by whatever way a
visit was changed, or is called."""

import datetime
import logging
from collections.abc import Callable
from functools import partial

from django.db import transaction
from django.db.models import Exists, F, OuterRef, Q, QuerySet, Value
from django.db.models.functions import Coalesce, Greatest
from django.utils import timezone

from aquifer.outbox import write
from aquifer.outbox.models import CHANGES, Known, Message, MessageKind, MessageState
from aquifer.rounds import promise
from aquifer.rounds.models import Appointment, AppointmentStatus

_LOG = logging.getLogger(__name__)
LATE_MINUTES = 10
"""So much past what a customer was told is told on the day. Assumption."""
_OPEN = (MessageState.WAITING, MessageState.TO_CALL, MessageState.FAILED)
"""Messages that may still tell them, or that say whom to call."""


def know(appointment: Appointment) -> None:
    """A customer knows the time that their visit has now; what was to tell them another is needed no longer."""
    if appointment.on is not None:
        told = {
            "site_id": appointment.site_id,
            "on": appointment.on,
            "earliest": appointment.earliest,
            "latest": appointment.latest,
        }
        Known.objects.update_or_create(appointment=appointment, defaults={**told, "late_until": None})
    Message.objects.filter(appointment=appointment, kind__in=[*CHANGES, MessageKind.OFFER], state__in=_OPEN).update(
        state=MessageState.DROPPED
    )


def agreed(appointment: Appointment, **_: object) -> None:
    """Hears ``promise.agreed``."""
    know(appointment)


def unknown(appointment: Appointment, **_: object) -> None:
    """Hears ``promise.unknown``."""
    forget(appointment)
    waiting = Message.objects.filter(appointment=appointment, state__in=_OPEN)
    waiting.update(state=MessageState.DROPPED)


def forget(appointment: Appointment) -> None:
    """A customer knows that there is no time any more."""
    Known.objects.filter(appointment=appointment).delete()


def keep_told(now: datetime.datetime | None = None) -> int:
    """Write to, or put on the list of calls, every customer who knows another time than is planned; returns to how
    many.

    A change is told once it has stood for ``write.GRACE``; that we come late today, at once.
    """
    moment = now or timezone.now()
    today = timezone.localdate(moment)
    stale = _stale(today).values_list("pk", flat=True)
    written = sum(_by_itself(partial(_tell, pk, moment)) for pk in list(stale))
    tells = Message.objects.filter(
        appointment=OuterRef("pk"), tells_on=OuterRef("on"), tells_earliest=OuterRef("earliest")
    ).exclude(state=MessageState.DROPPED)
    unwritten = Appointment.objects.filter(
        ~Exists(tells),
        standing=AppointmentStatus.OFFERED,
        on__gt=today,
        changed_at__lte=moment - write.GRACE,
        known__isnull=True,
    )
    return written + sum(_by_itself(partial(_offer, pk)) for pk in list(unwritten.values_list("pk", flat=True)))


def _by_itself(tell: Callable[[], bool]) -> bool:
    """What goes wrong with one customer's message keeps nobody else's."""
    try:
        return tell()
    except Exception:
        _LOG.exception("a changed promise was not told")
        return False


def _stale(today: datetime.date) -> "QuerySet[Known]":
    """What is known and holds no longer, or not on time today. Nothing is compared with a null: what is unknown to
    SQL would never be told."""
    nothing = datetime.date.min
    known = Known.objects.filter(on__gte=today).annotate(
        its_standing=Coalesce("appointment__standing", Value("")),
        its_on=Coalesce("appointment__on", Value(nothing)),
        its_earliest=Coalesce("appointment__earliest", Value(-1)),
        its_latest=Coalesce("appointment__latest", Value(-1)),
        its_begins=Coalesce("appointment__begins", Value(-1)),
        told_earliest=Coalesce("earliest", Value(-1)),
        told_latest=Coalesce("latest", Value(-1)),
        until=Greatest(Coalesce("latest", Value(1440)), Coalesce("late_until", Value(0))),
    )
    same = Q(
        its_standing__in=[AppointmentStatus.OFFERED, AppointmentStatus.PROMISED],
        its_on=F("on"),
        its_earliest=F("told_earliest"),
        its_latest=F("told_latest"),
    )
    return known.exclude(same & (Q(on__gt=today) | Q(its_begins__lte=F("until") + LATE_MINUTES)))


def _tell(pk: int, now: datetime.datetime) -> bool:
    with transaction.atomic():
        known = Known.objects.select_for_update(skip_locked=True).filter(pk=pk).first()
        if known is None:
            return False
        appointment = None
        if known.appointment_id is not None:
            # Whoever changes the visit at this moment locks it first and what is known after it: not waited for here,
            # it is looked at again in a minute.
            free = Appointment.objects.select_for_update(of=("self",), skip_locked=True)
            appointment = free.select_related("site__customer").filter(pk=known.appointment_id).first()
            if appointment is None:
                return False
        if appointment is not None and appointment.standing == AppointmentStatus.DONE:
            known.delete()
            return False
        was = promise.Promise(known.on, known.earliest, known.latest)
        kind = what_changed(appointment, was, known.late_until, timezone.localdate(now))
        if kind is None or (
            appointment is not None and kind is not MessageKind.LATE and appointment.changed_at > now - write.GRACE
        ):
            return False
        tells = promise.of(appointment) if appointment is not None else None
        if _is_under_way(known, kind, tells):
            return False
        return write.change(
            appointment or Appointment(site=known.site, standing=AppointmentStatus.CALLED_OFF), kind, was
        )


def what_changed(
    appointment: Appointment | None, was: promise.Promise, late_until: int | None, today: datetime.date
) -> MessageKind | None:
    """What a customer who knows ``was`` has to be told, None if that still holds."""
    if appointment is None or appointment.standing in (AppointmentStatus.PLANNED, AppointmentStatus.KEPT):
        return MessageKind.AGAIN
    if appointment.standing == AppointmentStatus.CALLED_OFF:
        return MessageKind.CALLED_OFF
    if promise.of(appointment) != was:
        return MessageKind.MOVED
    if appointment.on != today or appointment.begins is None or was.latest is None:
        return None
    return MessageKind.LATE if appointment.begins > max(was.latest, late_until or 0) + LATE_MINUTES else None


def _is_under_way(known: Known, kind: MessageKind, tells: promise.Promise | None) -> bool:
    """Whether a message tells it already; one that tells something else is dropped."""
    open_ones = Message.objects.filter(kind__in=CHANGES, state__in=_OPEN)
    open_ones = (
        open_ones.filter(appointment=known.appointment_id)
        if known.appointment_id
        else open_ones.filter(appointment=None, customer=known.site.customer_id, tells_on=None)
    )
    now = (tells.on, tells.earliest, tells.latest) if tells else (None, None, None)
    found = False
    for message in open_ones:
        if message.kind == kind and (message.tells_on, message.tells_earliest, message.tells_latest) == now:
            found = True
        elif message.state != MessageState.FAILED:
            Message.objects.filter(pk=message.pk).update(state=MessageState.DROPPED)
    return found


def _offer(pk: int) -> bool:
    """An offer whose time was moved before it was written of: it is written of the new one."""
    with transaction.atomic():
        appointment = Appointment.objects.select_for_update(of=("self",)).select_related("site__customer").get(pk=pk)
        return appointment.standing == AppointmentStatus.OFFERED and write.offer_again(appointment)


def told(message: Message) -> None:
    """A message reached its customer, or they were told by telephone: they know what it says."""
    appointment = message.appointment
    if message.kind in (MessageKind.AGAIN, MessageKind.CALLED_OFF):
        Known.objects.filter(appointment=appointment, site__customer=message.customer_id).delete()
    elif message.kind == MessageKind.LATE and appointment is not None:
        Known.objects.filter(appointment=appointment).update(late_until=appointment.begins)
    elif message.tells_on is not None and appointment is not None:
        Known.objects.update_or_create(
            appointment=appointment,
            defaults={
                "site_id": appointment.site_id,
                "on": message.tells_on,
                "earliest": message.tells_earliest,
                "latest": message.tells_latest,
                "late_until": None,
            },
        )

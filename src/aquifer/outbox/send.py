"""Sending what waits, and asking what became of it: whatever the gateway does, nothing is lost or doubled."""

import datetime
import logging

from django.db import transaction
from django.utils import timezone

from aquifer.outbox import known
from aquifer.outbox.answer import ASKS, still_offered
from aquifer.outbox.gateway import Delivery, Gateway, OutOfReach, Refused
from aquifer.outbox.models import Message, MessageKind, MessageState
from aquifer.outbox.write import after_quiet
from aquifer.rounds.models import AppointmentStatus

_LOG = logging.getLogger(__name__)
MOST_TRIES = 6
FIRST_PAUSE = datetime.timedelta(minutes=2)
"""After a try that failed; each pause after it is twice as long. Assumption."""
BATCH = 100


def send_waiting(gateway: Gateway, now: datetime.datetime | None = None) -> int:
    """Send what is due; returns how many were taken.

    Each message is sent in a transaction of its own that holds its row: two workers never send one message, and one
    that dies in between leaves it waiting. It is then sent again under the same key, which the gateway takes once.
    """
    moment = now or timezone.now()
    ids = Message.objects.filter(state=MessageState.WAITING, not_before__lte=moment).order_by("not_before", "pk")
    return sum(_send(pk, gateway, moment) for pk in list(ids.values_list("pk", flat=True)[:BATCH]))


def _send(pk: int, gateway: Gateway, now: datetime.datetime) -> bool:
    with transaction.atomic():
        message = Message.objects.select_for_update(skip_locked=True).filter(pk=pk, state=MessageState.WAITING).first()
        if message is None:
            return False
        if not _still_true(message, timezone.localdate(now)):
            # Moved or taken back before it went out.
            message.state = MessageState.DROPPED
            message.save()
            return False
        if (soonest := after_quiet(now)) > now:
            # It should have gone out before: a worker was away, or the company changed its hours.
            message.not_before = soonest
            message.save()
            return False
        message.tries += 1
        try:
            gateway.send(message.key, message.address, message.subject, message.body)
        except Refused as error:
            message.state, message.trouble = MessageState.FAILED, str(error)[:200]
        except OutOfReach as error:
            _again(message, str(error) or "the gateway does not answer", now)
        except Exception as error:
            # A gateway's own fault concerns this message: the others go on, and it is tried again like a silence.
            _LOG.exception("message %s", message.pk)
            _again(message, f"the gateway failed: {type(error).__name__}", now)
        else:
            message.state, message.sent_at, message.trouble = MessageState.SENT, now, ""
            known.told(message)
        message.save()
        return message.state == MessageState.SENT


def _still_true(message: Message, today: datetime.date) -> bool:
    """Whether what a message says is still so."""
    visit = message.appointment
    if message.kind in ASKS and (visit is not None or message.kind != MessageKind.AGAIN):
        return still_offered(message)
    if message.kind == MessageKind.LATE:
        return visit is not None and visit.standing == AppointmentStatus.PROMISED and visit.on == today
    return visit is None or visit.standing == AppointmentStatus.CALLED_OFF


def _again(message: Message, why: str, now: datetime.datetime) -> None:
    """A try that failed: later again, until it was tried often enough."""
    message.trouble = why[:200]
    if message.tries >= MOST_TRIES:
        message.state = MessageState.FAILED
    else:
        message.not_before = now + FIRST_PAUSE * 2 ** (message.tries - 1)


def ask_after(gateway: Gateway) -> int:
    """Ask what became of what was sent; returns of how many it is known now.

    A late or repeated answer changes nothing.
    """
    sent = {
        message.key: message.pk for message in Message.objects.filter(state=MessageState.SENT).order_by("pk")[:BATCH]
    }
    if not sent:
        return 0
    try:
        told = gateway.became(list(sent))
    except OutOfReach:
        return 0
    known = 0
    for key, became in told.items():
        if key not in sent or became is Delivery.UNDER_WAY:
            continue
        failed = became is Delivery.FAILED
        state = MessageState.FAILED if failed else MessageState.DELIVERED
        trouble = "could not be delivered" if failed else ""
        # Only from sent: who answered meanwhile has got it.
        known += Message.objects.filter(key=key, state=MessageState.SENT).update(state=state, trouble=trouble)
    return known

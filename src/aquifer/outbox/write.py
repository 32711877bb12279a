"""Writing to customers: a time is offered, they are reminded, within their quiet hours and wishes."""

import datetime
from collections.abc import Iterable

from django.db import IntegrityError, transaction
from django.utils import timezone

from aquifer.company import clock
from aquifer.company.models import Company
from aquifer.core.kinds import HeaterKind
from aquifer.core.planning.preparing import preparation
from aquifer.core.vocabulary import Component
from aquifer.customers.models import Customer
from aquifer.errors import Conflict, NotFound
from aquifer.outbox import links
from aquifer.outbox.gateway import sends, texts
from aquifer.outbox.models import CHANGES, Contact, Message, MessageKind, MessageState, Way
from aquifer.outbox.schemas import OfferPreviewOut
from aquifer.rounds import promise
from aquifer.rounds.models import Appointment, AppointmentStatus
from aquifer.rounds.promise import Promise, around

GRACE = datetime.timedelta(minutes=5)
"""Within which an offer can be recalled. Assumption."""


def reached_by(customer: Customer) -> tuple[Way, str]:
    """How a customer is reached, and at which address; by telephone where nothing else may be used."""
    contact = Contact.objects.filter(customer=customer).first()
    way = Way(contact.way) if contact else Way.EMAIL
    if contact and contact.opted_out_at is not None:
        return (Way.CALL, customer.phone) if customer.phone else (Way.NEVER, "")
    if way is Way.TEXT and not customer.phone:
        # They want texts, and nobody knows a number.
        way = Way.EMAIL
    if way is Way.EMAIL and customer.email:
        return way, customer.email
    if way in (Way.EMAIL, Way.TEXT) and customer.phone:
        return (Way.TEXT if way is Way.TEXT and texts() else Way.CALL), customer.phone
    return (way, customer.phone) if way is not Way.EMAIL else (Way.CALL, "")


def offer(
    appointments: Iterable[Appointment], not_before: datetime.datetime | None = None
) -> tuple[int, list[Appointment]]:
    """Offer planned visits to their customers; returns how many were written, and whom to call instead.

    Nothing goes out within ``GRACE``, nor before a moment that is given: until then it can be recalled.
    """
    written, to_call = 0, []
    for appointment in appointments:
        way, address = reached_by(appointment.site.customer)
        if way not in (Way.EMAIL, Way.TEXT):
            to_call.append(appointment)
            continue
        with transaction.atomic():
            held = Appointment.objects.select_for_update().get(pk=appointment.pk)
            if not can_be_offered(held):
                continue
            held.standing = AppointmentStatus.OFFERED
            held.earliest, held.latest = around(held.begins or 0)
            held.version += 1
            held.save()
            written += _write(held, MessageKind.OFFER, way, address, not_before=not_before)
    return written, to_call


def previewed(appointment: Appointment) -> OfferPreviewOut:
    """What ``offer`` would write of a visit."""
    way, address = reached_by(appointment.site.customer)
    appointment.earliest, appointment.latest = around(appointment.begins or 0)
    message = Message(appointment=appointment, customer=appointment.site.customer, kind=MessageKind.OFFER)
    can_write = way in (Way.EMAIL, Way.TEXT)
    words = (
        links.hidden(body(appointment, MessageKind.OFFER, message))
        if can_write
        else to_say(appointment, MessageKind.OFFER, None)
    )
    return {
        "appointment_id": appointment.pk,
        "customer": appointment.site.customer.name,
        "site": appointment.site.name,
        "on": appointment.on or appointment.week,
        "times": times(appointment),
        "way": way,
        "address": address,
        "body": words,
    }


def recall(message_id: int) -> Message:
    """Take an offer back that waits to be sent. Raises: NotFound, Conflict if it was sent meanwhile."""
    with transaction.atomic():
        message = Message.objects.select_for_update().filter(pk=message_id).first()
        if message is None:
            raise NotFound("There is no such message.")
        if message.kind != MessageKind.OFFER or message.state != MessageState.WAITING:
            raise Conflict("Only an offer that waits to be sent can be recalled.", "message.not_waiting")
        message.state = MessageState.DROPPED
        message.save()
        appointment = Appointment.objects.select_for_update().filter(pk=message.appointment_id or 0).first()
        if (
            appointment is not None
            and appointment.standing == AppointmentStatus.OFFERED
            and times(appointment) == message.offered
        ):
            appointment.standing, appointment.earliest, appointment.latest = AppointmentStatus.KEPT, None, None
            appointment.version += 1
            appointment.save()
    return message


def can_be_offered(appointment: Appointment) -> bool:
    """Whether a visit has a time that nobody was told yet."""
    return (
        appointment.standing in (AppointmentStatus.PLANNED, AppointmentStatus.KEPT)
        and appointment.begins is not None
        and appointment.on is not None
    )


def offer_again(appointment: Appointment) -> bool:
    """Write of a time that is on offer and of which no message tells."""
    return _write(appointment, MessageKind.OFFER, *reached_by(appointment.site.customer))


def change(appointment: Appointment, kind: MessageKind, was: Promise) -> bool:
    """Tell a customer that what they were told holds no longer, or have them called. To be called in a transaction."""
    return _write(appointment, kind, *reached_by(appointment.site.customer), was=was)


def remind(today: datetime.date) -> int:
    """Remind customers of promised visits of the coming days, each once; returns how many."""
    last = today + datetime.timedelta(days=Company.current().remind_days)
    soon = Appointment.objects.filter(standing=AppointmentStatus.PROMISED, on__gt=today, on__lte=last)
    written = 0
    reminded = Message.objects.filter(kind=MessageKind.REMINDER).exclude(state=MessageState.DROPPED)
    for appointment in soon.exclude(pk__in=reminded.values("appointment")).select_related("site__customer"):
        way, address = reached_by(appointment.site.customer)
        if way in (Way.EMAIL, Way.TEXT):
            written += _write(appointment, MessageKind.REMINDER, way, address)
    return written


def _write(
    appointment: Appointment,
    kind: MessageKind,
    way: Way,
    address: str,
    was: Promise | None = None,
    not_before: datetime.datetime | None = None,
) -> bool:
    # An offer can wait for a mail server; that somebody does not come cannot.
    can_write = way in (Way.EMAIL, Way.TEXT) and (kind not in CHANGES or sends())
    soonest = timezone.now() + (GRACE if kind is MessageKind.OFFER else datetime.timedelta())
    tells = promise.of(appointment)
    message = Message(
        appointment=appointment if appointment.pk else None,
        customer=appointment.site.customer,
        kind=kind,
        way=way,
        address=address,
        offered_version=appointment.version,
        offered=times(appointment),
        not_before=after_quiet(max(soonest, not_before or soonest)),
        subject=subject(appointment, kind),
        body="",
        state=MessageState.WAITING if can_write else MessageState.TO_CALL,
        tells_on=tells.on if tells else None,
        tells_earliest=tells.earliest if tells else None,
        tells_latest=tells.latest if tells else None,
    )
    message.body = body(appointment, kind, message, was) if can_write else to_say(appointment, kind, was)
    same = Message.objects.filter(appointment=message.appointment, kind=kind, offered_version=appointment.version)
    if appointment.pk:
        same.filter(state=MessageState.DROPPED, answer=None).delete()
    try:
        with transaction.atomic():
            message.save()
    except IntegrityError:
        # It was written already, by another worker or a second press of the button.
        return False
    older = Message.objects.filter(appointment=message.appointment, state=MessageState.WAITING, kind=MessageKind.OFFER)
    if appointment.pk:
        older.exclude(pk=message.pk).update(state=MessageState.DROPPED)
    return True


def after_quiet(now: datetime.datetime) -> datetime.datetime:
    """The moment itself, or the end of the company's quiet hours that it falls into."""
    company, local = Company.current(), timezone.localtime(now)
    begins, ends = (datetime.time(m // 60, m % 60) for m in (company.quiet_from, company.quiet_until))
    over_midnight = begins > ends
    quiet = (local.time() >= begins or local.time() < ends) if over_midnight else begins <= local.time() < ends
    if not quiet:
        return now
    day = local.date() + datetime.timedelta(days=over_midnight and local.time() >= begins)
    return timezone.make_aware(datetime.datetime.combine(day, ends))


def times(appointment: Appointment) -> str:
    """ "Tuesday 1 December, beginning between 8:30 and 10:00"."""
    return told_times(
        None if appointment.on is None else Promise(appointment.on, appointment.earliest, appointment.latest)
    )


def told_times(promise: Promise | None) -> str:
    """The same of a time that somebody was told."""
    if promise is None:
        return "a day that we still have to agree"
    day = f"{promise.on:%A} {promise.on.day} {promise.on:%B}"
    if promise.earliest is None or promise.latest is None:
        return day
    return f"{day}, beginning between {clock.told(promise.earliest)} and {clock.told(promise.latest)}"


def subject(appointment: Appointment, kind: MessageKind) -> str:
    """What a message is about, on one line."""
    if kind is MessageKind.REMINDER:
        return f"We come on {times(appointment)}"
    if kind is MessageKind.CALLED_OFF:
        return "Our visit to your water heater is called off"
    if kind is MessageKind.AGAIN:
        return "Our visit to your water heater needs another day"
    if kind is MessageKind.LATE:
        return f"We come later today, about {clock.told(appointment.begins or 0)}"
    if kind is MessageKind.MOVED and appointment.standing == AppointmentStatus.PROMISED:
        return f"We come on {times(appointment)}"
    if kind is MessageKind.MOVED:
        return f"Our visit has to move: may we come on {times(appointment)}?"
    return f"Your water heater: may we come on {times(appointment)}?"


def _news(appointment: Appointment, kind: MessageKind, was: Promise | None) -> str:
    """What a message has to say, as a sentence that goes on from the greeting or is said by telephone."""
    site, before = appointment.site.name, told_times(was)
    why = f": {appointment.why}" if appointment.why else ""
    if kind is MessageKind.REMINDER:
        return f"a reminder: we come to {site} on {times(appointment)}."
    if kind is MessageKind.CALLED_OFF:
        return f"we do not come to {site} on {before}, as we had said{why}. Please call us when it suits you again."
    if kind is MessageKind.AGAIN:
        return f"our visit to {site}, agreed for {before}, has to be on another day{why}. We are sorry."
    if kind is MessageKind.LATE:
        return (
            f"we are running late: we are at {site} today at about {clock.told(appointment.begins or 0)}. We are sorry."
        )
    if kind is MessageKind.MOVED and appointment.standing == AppointmentStatus.PROMISED:
        return f"we come to {site} on {times(appointment)}, and not on {before}{why}."
    if kind is MessageKind.MOVED:
        return f"we cannot come to {site} on {before}, as we had said{why}. We offer {times(appointment)} in its place."
    return f"the care of the water heater at {site} is due. We offer {times(appointment)}."


_ASKS = {
    MessageKind.OFFER: "Say yes, choose another time or decline here:",
    MessageKind.MOVED: "Say yes, choose another time or decline here:",
    MessageKind.AGAIN: "Choose a time that suits you here:",
    MessageKind.REMINDER: "If it does not suit any more, say so here:",
}


def body(appointment: Appointment, kind: MessageKind, message: Message, was: Promise | None = None) -> str:
    """A message in plain words, with what to prepare and the link to answer."""
    ours = Company.current()
    lines = [f"Dear {appointment.site.customer.name},", "", _news(appointment, kind, was)]
    if kind in _ASKS and appointment.pk:
        lines += [_ASKS[kind], links.address(message)]
    if kind in (MessageKind.OFFER, MessageKind.REMINDER, MessageKind.MOVED):
        lines += ["", "Before we come:", *(f"- {line}" for line in prepare(appointment))]
    lines += ["", ours.name]
    lines += [f"Telephone {ours.phone}"] if ours.phone else []
    lines += ["", f"Not to be written to any more: {links.address(message)}#stop"]
    return "\n".join(lines)


def to_say(appointment: Appointment, kind: MessageKind, was: Promise | None) -> str:
    """The same for whoever calls instead, a line each."""
    news = _news(appointment, kind, was)
    lines = [news[0].upper() + news[1:]]
    if kind in (MessageKind.OFFER, MessageKind.MOVED) and appointment.pk:
        lines += prepare(appointment)
    return "\n".join(lines)


def prepare(appointment: Appointment) -> list[str]:
    """What the customer is asked to prepare for a visit."""
    services = [
        (HeaterKind(s.heater.kind), Component(s.component)) for s in appointment.services.select_related("heater")
    ]
    return preparation(services, appointment.minutes / 60)

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
from aquifer.outbox import links
from aquifer.outbox.gateway import texts
from aquifer.outbox.models import Contact, Message, MessageKind, MessageState, Way
from aquifer.rounds.models import Appointment, Standing

EARLY, LATE = 30, 60
"""Minutes before and after the planned time within which a visit is offered to begin. Assumption."""
QUARTER = 15


def reached_by(customer: Customer) -> tuple[Way, str]:
    """How a customer is reached, and at which address; by telephone where nothing else may be used."""
    contact = Contact.objects.filter(customer=customer).first()
    way = Way(contact.way) if contact else Way.EMAIL
    if contact and contact.opted_out_at is not None:
        return (Way.CALL, customer.phone) if customer.phone else (Way.NEVER, "")
    if way is Way.EMAIL and customer.email:
        return way, customer.email
    if way in (Way.EMAIL, Way.TEXT) and customer.phone:
        return (Way.TEXT if way is Way.TEXT and texts() else Way.CALL), customer.phone
    return (way, customer.phone) if way is not Way.EMAIL else (Way.CALL, "")


def offer(appointments: Iterable[Appointment]) -> tuple[int, list[Appointment]]:
    """Offer planned visits to their customers; returns how many were written, and whom to call instead."""
    written, to_call = 0, []
    for one in appointments:
        way, address = reached_by(one.site.customer)
        if way not in (Way.EMAIL, Way.TEXT):
            to_call.append(one)
            continue
        with transaction.atomic():
            held = Appointment.objects.select_for_update().get(pk=one.pk)
            if held.standing not in (Standing.PLANNED, Standing.KEPT) or held.begins is None or held.on is None:
                continue
            held.standing = Standing.OFFERED
            held.earliest, held.latest = around(held.begins)
            held.version += 1
            held.save()
            written += _write(held, MessageKind.OFFER, way, address)
    return written, to_call


def around(begins: int) -> tuple[int, int]:
    """Between which times a visit is offered to begin that is planned for this minute: to the quarter of an hour."""
    return max(0, (begins - EARLY) // QUARTER * QUARTER), min(1439, -(-(begins + LATE) // QUARTER) * QUARTER)


def remind(today: datetime.date) -> int:
    """Remind customers of promised visits of the coming days, each once; returns how many."""
    last = today + datetime.timedelta(days=Company.current().remind_days)
    soon = Appointment.objects.filter(standing=Standing.PROMISED, on__gt=today, on__lte=last)
    written = 0
    for one in soon.exclude(messages__kind=MessageKind.REMINDER).select_related("site__customer"):
        way, address = reached_by(one.site.customer)
        if way in (Way.EMAIL, Way.TEXT):
            written += _write(one, MessageKind.REMINDER, way, address)
    return written


def _write(one: Appointment, kind: MessageKind, way: Way, address: str) -> bool:
    message = Message(
        appointment=one,
        customer=one.site.customer,
        kind=kind,
        way=way,
        address=address,
        offered_version=one.version,
        offered=times(one),
        not_before=after_quiet(timezone.now()),
        subject=subject(one, kind),
        body="",
    )
    message.body = body(one, kind, message)
    try:
        with transaction.atomic():
            message.save()
    except IntegrityError:
        # It was written already, by another worker or a second press of the button.
        return False
    older = Message.objects.filter(appointment=one, state=MessageState.WAITING, kind=MessageKind.OFFER)
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


def times(one: Appointment) -> str:
    """ "Tuesday 1 December, beginning between 8:30 and 10:00"."""
    if one.on is None:
        return "a day that we still have to agree"
    day = f"{one.on:%A} {one.on.day} {one.on:%B}"
    if one.earliest is None or one.latest is None:
        return day
    return f"{day}, beginning between {clock.told(one.earliest)} and {clock.told(one.latest)}"


def subject(one: Appointment, kind: MessageKind) -> str:
    """What a message is about, on one line."""
    if kind is MessageKind.REMINDER:
        return f"We come on {times(one)}"
    return f"Your water heater: may we come on {times(one)}?"


def body(one: Appointment, kind: MessageKind, message: Message) -> str:
    """A message in plain words, with what to prepare and the link to answer."""
    ours = Company.current()
    lines = [f"Dear {one.site.customer.name},", ""]
    if kind is MessageKind.REMINDER:
        lines += [
            f"a reminder: we come to {one.site.name} on {times(one)}.",
            "If it does not suit any more, say so here:",
            links.address(message),
        ]
    else:
        lines += [
            f"the care of the water heater at {one.site.name} is due. We offer {times(one)}.",
            "Say yes, ask for another time or decline here:",
            links.address(message),
        ]
    lines += ["", "Before we come:", *(f"- {line}" for line in prepare(one)), "", ours.name]
    lines += [f"Telephone {ours.phone}"] if ours.phone else []
    lines += ["", f"Not to be written to any more: {links.address(message)}#stop"]
    return "\n".join(lines)


def prepare(one: Appointment) -> list[str]:
    """What the customer is asked to prepare for a visit."""
    services = [(HeaterKind(s.heater.kind), Component(s.component)) for s in one.services.select_related("heater")]
    return preparation(services, one.minutes / 60)

import datetime
from typing import Annotated

from django.db import transaction
from django.db.models import Q, QuerySet
from django.http import HttpRequest
from django.utils import timezone
from ninja import Router
from pydantic import Field

from aquifer.accounts.access import Action, allowed, may, who
from aquifer.customers.models import Customer
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.outbox import answer, calendar, links, tasks, write
from aquifer.outbox.models import CHANGES, Answer, Answered, Contact, Message, MessageKind, MessageState, Way
from aquifer.outbox.schemas import (
    CalendarOut,
    CalledIn,
    ContactIn,
    ContactOut,
    MessageOut,
    OfferPreviewOut,
    OffersIn,
    OffersOut,
    ToCallOut,
)
from aquifer.rounds.models import Appointment, AppointmentStatus, CrewMember
from aquifer.wire import Id

router = Router(tags=["outbox"])
LONGEST_OFFER_DAYS = 31
UNANSWERED_DAYS = 3
"""After so many days without an answer a customer is called. Assumption."""


@router.post("/offers", response=OffersOut, auth=allowed(Action.PLAN))
def offer(request: HttpRequest, payload: OffersIn) -> OffersOut:
    """Write to customers with the times that are planned for them; whom nothing can be written to is to be called."""
    not_before = payload.not_before
    if not_before is not None and not_before > timezone.now() + datetime.timedelta(days=LONGEST_OFFER_DAYS):
        raise Invalid(f"Send within {LONGEST_OFFER_DAYS} days.", fields={"not_before": f"{LONGEST_OFFER_DAYS} days"})
    written, to_call = write.offer(_offered(payload), not_before)
    tasks.send_waiting.configure().defer(timestamp=0)
    return {"written": written, "to_call": len(to_call)}


@router.post("/offers/preview", response=list[OfferPreviewOut], auth=allowed(Action.PLAN))
def preview(request: HttpRequest, payload: OffersIn) -> list[OfferPreviewOut]:
    """Who would be written to, of what and how, and who is to be called; nothing is written."""
    return [write.previewed(appointment) for appointment in _offered(payload)]


def _offered(payload: OffersIn) -> "QuerySet[Appointment]":
    today = timezone.localdate()
    appointments = Appointment.objects.filter(
        standing__in=[AppointmentStatus.PLANNED, AppointmentStatus.KEPT], begins__isnull=False
    )
    if payload.appointment_id is not None:
        appointments = appointments.filter(pk=payload.appointment_id)
        if not appointments.exists():
            raise NotFound("There is no such visit with a time, or it was offered already.")
    elif payload.appointment_ids is not None:
        appointments = appointments.filter(pk__in=payload.appointment_ids)
    else:
        first, last = payload.first or today, payload.last or today
        if not first <= last <= first + datetime.timedelta(days=LONGEST_OFFER_DAYS):
            raise Invalid(f"Offer at most {LONGEST_OFFER_DAYS} days at once.", fields={"last": "?"})
        appointments = appointments.filter(on__gte=first, on__lte=last)
    return appointments.filter(on__gt=today).select_related("site__customer").order_by("on", "begins")


@router.post("/messages/{message_id}/recall", response=MessageOut, auth=allowed(Action.PLAN))
def recall(request: HttpRequest, message_id: Id) -> MessageOut:
    """Take back an offer that has not been sent; the visit stays where it is, and nobody was told."""
    return _told(write.recall(message_id))


@router.post("/messages/{message_id}/called", response=MessageOut, auth=allowed(Action.PLAN))
def called(request: HttpRequest, message_id: Id, payload: CalledIn) -> MessageOut:
    """Somebody called instead of writing: they were told, and perhaps answered."""
    return _told(answer.called(message_id, payload.said, payload.words))


@router.get("/messages", response=list[MessageOut], auth=allowed(Action.READ))
def messages(
    request: HttpRequest, state: MessageState | None = None, limit: Annotated[int, Field(ge=1, le=300)] = 100
) -> list[MessageOut]:
    """What was written, the newest first."""
    messages = Message.objects.select_related("customer", "appointment__site", "answer")
    if state is not None:
        messages = messages.filter(state=state)
    told = [_told(message) for message in messages[:limit]]
    if not may(who(request).role, Action.PLAN):
        # A customer's own link answers for them: it is for those who write to customers.
        told = [{**message, "body": links.hidden(message["body"])} for message in told]
    return told


def _told(message: Message) -> MessageOut:
    given: Answer | None = getattr(message, "answer", None)
    return {
        "id": message.pk,
        "kind": MessageKind(message.kind),
        "state": MessageState(message.state),
        "way": Way(message.way),
        "subject": message.subject,
        "body": message.body,
        "trouble": message.trouble,
        "tries": message.tries,
        "written_at": message.written_at,
        "sent_at": message.sent_at,
        "appointment_id": message.appointment_id,
        "customer": message.customer.name,
        "site": message.appointment.site.name if message.appointment else "",
        "on": message.appointment.on if message.appointment else None,
        "answered": Answered(given.said) if given else None,
        "words": given.words if given else "",
    }


@router.get("/calls", response=list[ToCallOut], auth=allowed(Action.READ))
def calls(request: HttpRequest) -> list[ToCallOut]:
    """Whom to call: who cannot be written to, whom no message reached, who did not answer, who wants another time."""
    today, now = timezone.localdate(), timezone.now()
    silent = now - datetime.timedelta(days=UNANSWERED_DAYS)
    unheard = Q(state=MessageState.FAILED) | Q(
        state__in=[MessageState.SENT, MessageState.DELIVERED], sent_at__lt=silent
    )
    late = Message.objects.filter(unheard, kind=MessageKind.OFFER, appointment__standing=AppointmentStatus.OFFERED)
    why: dict[int, str] = {
        one.appointment_id: one.trouble or f"no answer since {one.sent_at:%d %B}"
        for one in late.filter(appointment__on__gte=today)
        if one.appointment_id is not None
    }
    wishes = Appointment.objects.filter(standing=AppointmentStatus.PLANNED, note__startswith="asks for another time")
    why |= {appointment.pk: appointment.note for appointment in wishes}
    soon = today + datetime.timedelta(days=14)
    by_phone = Q(site__customer__email="") | Q(site__customer__contact__way=Way.CALL)
    by_phone |= Q(site__customer__contact__opted_out_at__isnull=False)
    planned = Appointment.objects.filter(by_phone, standing=AppointmentStatus.PLANNED, on__gt=today, on__lte=soon)
    for appointment in planned:
        why.setdefault(appointment.pk, "is called, not written to")
    to_tell = _to_be_told()
    for message in to_tell:
        why.pop(message.appointment_id or 0, None)
    appointments = (
        Appointment.objects.filter(pk__in=why).select_related("site__customer").order_by("on", "begins", "pk")
    )
    about_messages: list[ToCallOut] = [
        {
            "message_id": one.pk,
            "appointment_id": one.appointment_id,
            "customer": one.customer.name,
            "phone": one.customer.phone,
            "site": one.appointment.site.name if one.appointment else "",
            "on": one.tells_on,
            "why": one.trouble or one.get_kind_display(),
            "say": one.body.splitlines() if one.state == MessageState.TO_CALL else [one.subject],
            "answers": answer.to_a_call(one),
        }
        for one in to_tell
    ]
    placed: list[ToCallOut] = [
        {
            "message_id": None,
            "answers": [],
            "appointment_id": appointment.pk,
            "customer": appointment.site.customer.name,
            "phone": appointment.site.customer.phone,
            "site": appointment.site.name,
            "on": appointment.on,
            "why": why[appointment.pk],
            "say": [
                f"We would come to {appointment.site.name} on {write.times(appointment)}.",
                *write.prepare(appointment),
            ],
        }
        for appointment in appointments[:100]
    ]
    return about_messages + placed


def _to_be_told() -> list[Message]:
    """Whose time was changed, or was offered, and who is not written to, or was not reached; the oldest first."""
    unheard = Q(state=MessageState.TO_CALL) | Q(state=MessageState.FAILED, kind__in=CHANGES)
    messages = Message.objects.filter(unheard).select_related("customer", "appointment__site__customer")
    return list(messages.order_by("written_at", "pk")[:100])


@router.get("/contacts/{customer_id}", response=ContactOut, auth=allowed(Action.READ))
def read_contact(request: HttpRequest, customer_id: Id) -> ContactOut:
    """How a customer is reached."""
    customer = _customer(customer_id)
    return _contact(customer, Contact.objects.filter(customer=customer).first() or Contact(version=0))


def _contact(customer: Customer, known: Contact) -> ContactOut:
    way, address = write.reached_by(customer)
    return {
        "version": known.version, "way": Way(known.way), "opted_out": known.opted_out_at is not None,
        "reached_by": way, "address": address,
    }  # fmt: skip


def _customer(customer_id: int, lock: bool = False) -> Customer:
    every = Customer.objects.select_for_update() if lock else Customer.objects.all()
    customer = every.filter(pk=customer_id, archived_at__isnull=True).first()
    if customer is None:
        raise NotFound("There is no such customer.")
    return customer


@router.put("/contacts/{customer_id}", response=ContactOut, auth=allowed(Action.EDIT_REGISTER))
def contact(request: HttpRequest, customer_id: Id, payload: ContactIn) -> ContactOut:
    """How a customer wants to be reached."""
    with transaction.atomic():
        customer = _customer(customer_id, lock=True)
        known = Contact.objects.filter(customer=customer).first() or Contact(customer=customer, version=0)
        if payload.version not in (None, known.version):
            wants = "wants no messages" if known.opted_out_at else f"is to be reached {known.get_way_display()}"
            raise Conflict(
                f"Somebody changed this meanwhile: {customer.name} {wants}. Save again if yours is still right.",
                "changed_meanwhile",
                {"version": str(known.version)},
            )
        known.way = payload.way
        if payload.opted_out != (known.opted_out_at is not None):
            known.opted_out_at = timezone.now() if payload.opted_out else None
        known.version += 1
        known.save()
    return _contact(customer, known)


@router.get("/calendars", response=list[CalendarOut], auth=allowed(Action.PLAN))
def calendars(request: HttpRequest) -> list[CalendarOut]:
    """The addresses at which technicians subscribe to their rounds."""
    return [
        {
            "member_id": member.pk,
            "name": member.user.name,
            "address": request.build_absolute_uri(f"/calendar/{calendar.key_of(member)}.ics"),
        }
        for member in CrewMember.objects.filter(active=True).select_related("user")
    ]

import datetime
from typing import Annotated, Any, Literal

from django.db.models import Q, QuerySet
from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema
from pydantic import AwareDatetime, Field

from aquifer.accounts.access import Action, allowed, may, who
from aquifer.customers.models import Customer
from aquifer.errors import Invalid, NotFound
from aquifer.outbox import answer, calendar, links, tasks, write
from aquifer.outbox.models import CHANGES, Answered, Contact, Message, MessageKind, MessageState, Way
from aquifer.rounds.models import Appointment, CrewMember, Standing
from aquifer.wire import Day, Payload, text

router = Router(tags=["outbox"])
Id = Annotated[int, Field(ge=1, le=2**62)]
LONGEST_OFFER_DAYS = 31
UNANSWERED_DAYS = 3
"""After so many days without an answer a customer is called. Assumption."""


class MessageOut(Schema):
    id: int
    kind: MessageKind
    state: MessageState
    way: Way
    customer: str
    site: str
    subject: str
    body: str
    trouble: str
    tries: int
    written_at: datetime.datetime
    sent_at: datetime.datetime | None
    answered: Answered | None
    words: str
    appointment_id: int | None
    on: datetime.date | None


class OffersIn(Payload):
    """Offer every planned visit of some days, or one visit."""

    first: Day | None = None
    last: Day | None = None
    appointment_id: int | None = None
    appointment_ids: Annotated[list[Id], Field(max_length=500)] | None = None
    not_before: AwareDatetime | None = Field(default=None, description="Sent later, no sooner than this.")


Said = Literal["told", "accepted", "other_time", "declined"]


class CalledIn(Payload):
    """What became of a call: they were told, or said something to it."""

    said: Said
    words: Annotated[str, text(300)] = ""


class OffersOut(Schema):
    written: int
    to_call: int


class OfferPreviewOut(Schema):
    """What would be written to whom, or that they are called instead."""

    appointment_id: int
    customer: str
    site: str
    on: datetime.date
    times: str
    way: Way
    address: str
    body: str


class ToCallOut(Schema):
    """Somebody to call, and what to say."""

    message_id: int | None = Field(description="What they are to be told instead of being written to, if it is that.")
    appointment_id: int | None
    customer: str
    phone: str
    site: str
    on: datetime.date | None
    why: str
    say: list[str]
    answers: list[Said] = Field(description="What can be kept of the call; none where the visit is placed instead.")


class ContactIn(Payload):
    way: Way
    opted_out: bool = False


class ContactOut(Schema):
    way: Way
    opted_out: bool
    reached_by: Way
    address: str


class CalendarOut(Schema):
    member_id: int
    name: str
    address: str = Field(description="Where a calendar program subscribes; whoever has it can read it.")


@router.post("/offers", response=OffersOut, auth=allowed(Action.PLAN))
def offer(request: HttpRequest, payload: OffersIn) -> dict[str, int]:
    """Write to customers with the times that are planned for them; whom nothing can be written to is to be called."""
    not_before = payload.not_before
    if not_before is not None and not_before > timezone.now() + datetime.timedelta(days=LONGEST_OFFER_DAYS):
        raise Invalid(f"Send within {LONGEST_OFFER_DAYS} days.", fields={"not_before": f"{LONGEST_OFFER_DAYS} days"})
    written, to_call = write.offer(_offered(payload), not_before)
    tasks.send_waiting.configure().defer(timestamp=0)
    return {"written": written, "to_call": len(to_call)}


@router.post("/offers/preview", response=list[OfferPreviewOut], auth=allowed(Action.PLAN))
def preview(request: HttpRequest, payload: OffersIn) -> list[dict[str, Any]]:
    """Who would be written to, of what and how, and who is to be called; nothing is written."""
    return [write.previewed(one) for one in _offered(payload)]


def _offered(payload: OffersIn) -> "QuerySet[Appointment]":
    today = timezone.localdate()
    found = Appointment.objects.filter(standing__in=[Standing.PLANNED, Standing.KEPT], begins__isnull=False)
    if payload.appointment_id is not None:
        found = found.filter(pk=payload.appointment_id)
        if not found.exists():
            raise NotFound("There is no such visit with a time, or it was offered already.")
    elif payload.appointment_ids is not None:
        found = found.filter(pk__in=payload.appointment_ids)
    else:
        first, last = payload.first or today, payload.last or today
        if not first <= last <= first + datetime.timedelta(days=LONGEST_OFFER_DAYS):
            raise Invalid(f"Offer at most {LONGEST_OFFER_DAYS} days at once.", fields={"last": "?"})
        found = found.filter(on__gte=first, on__lte=last)
    return found.filter(on__gt=today).select_related("site__customer").order_by("on", "begins")


@router.post("/messages/{message_id}/recall", response=MessageOut, auth=allowed(Action.PLAN))
def recall(request: HttpRequest, message_id: Id) -> dict[str, Any]:
    """Take back an offer that has not been sent; the visit stays where it is, and nobody was told."""
    return _told(write.recall(message_id))


@router.post("/messages/{message_id}/called", response=MessageOut, auth=allowed(Action.PLAN))
def called(request: HttpRequest, message_id: Id, payload: CalledIn) -> dict[str, Any]:
    """Somebody called instead of writing: they were told, and perhaps answered."""
    return _told(answer.called(message_id, payload.said, payload.words))


@router.get("/messages", response=list[MessageOut], auth=allowed(Action.READ))
def messages(
    request: HttpRequest, state: MessageState | None = None, limit: Annotated[int, Field(ge=1, le=300)] = 100
) -> list[dict[str, Any]]:
    """What was written, the newest first."""
    found = Message.objects.select_related("customer", "appointment__site", "answer")
    if state is not None:
        found = found.filter(state=state)
    told = [_told(one) for one in found[:limit]]
    if not may(who(request).role, Action.PLAN):
        # A customer's own link answers for them: it is for those who write to customers.
        told = [{**one, "body": links.hidden(one["body"])} for one in told]
    return told


def _told(one: Message) -> dict[str, Any]:
    given = getattr(one, "answer", None)
    names = ("id", "kind", "state", "way", "subject", "body", "trouble", "tries", "written_at", "sent_at")
    return {name: getattr(one, name) for name in (*names, "appointment_id")} | {
        "customer": one.customer.name,
        "site": one.appointment.site.name if one.appointment else "",
        "on": one.appointment.on if one.appointment else None,
        "answered": given.said if given else None,
        "words": given.words if given else "",
    }


@router.get("/calls", response=list[ToCallOut], auth=allowed(Action.READ))
def calls(request: HttpRequest) -> list[dict[str, Any]]:
    """Whom to call: who cannot be written to, whom no message reached, who did not answer, who wants another time."""
    today, now = timezone.localdate(), timezone.now()
    silent = now - datetime.timedelta(days=UNANSWERED_DAYS)
    unheard = Q(state=MessageState.FAILED) | Q(
        state__in=[MessageState.SENT, MessageState.DELIVERED], sent_at__lt=silent
    )
    late = Message.objects.filter(unheard, kind=MessageKind.OFFER, appointment__standing=Standing.OFFERED)
    why: dict[int, str] = {
        one.appointment_id: one.trouble or f"no answer since {one.sent_at:%d %B}"
        for one in late.filter(appointment__on__gte=today)
        if one.appointment_id is not None
    }
    wishes = Appointment.objects.filter(standing=Standing.PLANNED, note__startswith="asks for another time")
    why |= {one.pk: one.note for one in wishes}
    soon = today + datetime.timedelta(days=14)
    by_phone = Q(site__customer__email="") | Q(site__customer__contact__way=Way.CALL)
    by_phone |= Q(site__customer__contact__opted_out_at__isnull=False)
    planned = Appointment.objects.filter(by_phone, standing=Standing.PLANNED, on__gt=today, on__lte=soon)
    for one in planned:
        why.setdefault(one.pk, "is called, not written to")
    to_tell = _to_be_told()
    for message in to_tell:
        why.pop(message.appointment_id or 0, None)
    found = Appointment.objects.filter(pk__in=why).select_related("site__customer").order_by("on", "begins", "pk")
    return [
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
    ] + [
        {
            "message_id": None,
            "answers": [],
            "appointment_id": one.pk,
            "customer": one.site.customer.name,
            "phone": one.site.customer.phone,
            "site": one.site.name,
            "on": one.on,
            "why": why[one.pk],
            "say": [f"We would come to {one.site.name} on {write.times(one)}.", *write.prepare(one)],
        }
        for one in found[:100]
    ]


def _to_be_told() -> list[Message]:
    """Whose time was changed, or was offered, and who is not written to, or was not reached; the oldest first."""
    unheard = Q(state=MessageState.TO_CALL) | Q(state=MessageState.FAILED, kind__in=CHANGES)
    found = Message.objects.filter(unheard).select_related("customer", "appointment__site__customer")
    return list(found.order_by("written_at", "pk")[:100])


@router.get("/contacts/{customer_id}", response=ContactOut, auth=allowed(Action.READ))
def read_contact(request: HttpRequest, customer_id: Id) -> dict[str, Any]:
    """How a customer is reached."""
    customer = _customer(customer_id)
    known = Contact.objects.filter(customer=customer).first() or Contact()
    way, address = write.reached_by(customer)
    return {"way": known.way, "opted_out": known.opted_out_at is not None, "reached_by": way, "address": address}


def _customer(customer_id: int) -> Customer:
    customer = Customer.objects.filter(pk=customer_id, archived_at__isnull=True).first()
    if customer is None:
        raise NotFound("There is no such customer.")
    return customer


@router.put("/contacts/{customer_id}", response=ContactOut, auth=allowed(Action.EDIT_REGISTER))
def contact(request: HttpRequest, customer_id: Id, payload: ContactIn) -> dict[str, Any]:
    """How a customer wants to be reached."""
    customer = _customer(customer_id)
    opted = timezone.now() if payload.opted_out else None
    Contact.objects.update_or_create(customer=customer, defaults={"way": payload.way, "opted_out_at": opted})
    way, address = write.reached_by(customer)
    return {"way": payload.way, "opted_out": payload.opted_out, "reached_by": way, "address": address}


@router.get("/calendars", response=list[CalendarOut], auth=allowed(Action.PLAN))
def calendars(request: HttpRequest) -> list[dict[str, Any]]:
    """The addresses at which technicians subscribe to their rounds."""
    return [
        {
            "member_id": member.pk,
            "name": member.user.name,
            "address": request.build_absolute_uri(f"/calendar/{calendar.key_of(member)}.ics"),
        }
        for member in CrewMember.objects.filter(active=True).select_related("user")
    ]

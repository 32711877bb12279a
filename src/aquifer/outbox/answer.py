"""What a customer says to an offer."""

import datetime
from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from aquifer.customers.models import Customer
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.outbox import known
from aquifer.outbox.models import Answer, Answered, Contact, Message, MessageKind, MessageState
from aquifer.outbox.schemas import Said
from aquifer.outbox.write import times, told_times
from aquifer.rounds import board, promise, rounds
from aquifer.rounds.models import Appointment, AppointmentStatus
from aquifer.rounds.promise import Promise
from aquifer.transactions import retried

ASKS = (MessageKind.OFFER, MessageKind.MOVED, MessageKind.AGAIN, MessageKind.REMINDER)
"""Messages that can be answered."""
_STANDS = {
    MessageKind.OFFER: (AppointmentStatus.OFFERED,),
    MessageKind.MOVED: (AppointmentStatus.OFFERED, AppointmentStatus.PROMISED),
    MessageKind.REMINDER: (AppointmentStatus.PROMISED,),
}
"""How a visit stands as long as what a message says of its time can be answered."""
CHOOSE_WITHIN_DAYS, CHOICES = 21, 4
"""So many times are offered to choose among, of so many days to come. Assumption."""


def still_offered(message: Message) -> bool:
    """Whether what a message offers can still be had, or what it reminds of still be changed."""
    appointment = message.appointment
    if appointment is None or message.kind not in ASKS:
        return False
    if message.kind == MessageKind.AGAIN:
        return appointment.standing in (AppointmentStatus.PLANNED, AppointmentStatus.KEPT)
    return appointment.standing in _STANDS[MessageKind(message.kind)] and times(appointment) == message.offered


@dataclass(frozen=True)
class Choice:
    """Another time that a customer can have."""

    on: datetime.date
    member_id: int
    words: str


def choices(message: Message, today: datetime.date) -> list[Choice]:
    """Other times that a customer can have at once: nothing breaks there, the least driving, a day each."""
    appointment = message.appointment
    if appointment is None or not still_offered(message):
        return []
    try:
        places = rounds.possible(appointment.pk, today + datetime.timedelta(days=1), CHOOSE_WITHIN_DAYS, agreed=True)
    except NotFound:
        return []
    found: dict[datetime.date, Choice] = {}
    for place in places:
        if not place.faults and place.on != appointment.on:
            words = told_times(Promise(place.on, *promise.around(place.begins)))
            found.setdefault(place.on, Choice(place.on, place.member_id, words))
    return sorted(list(found.values())[:CHOICES], key=lambda choice: choice.on)


@retried
def choose(message_id: int, on: datetime.date, member_id: int, today: datetime.date) -> Answer:
    """A customer takes one of those times: it is promised at once.

    Raises: Conflict if somebody else has it by now, or the time is no longer on offer.
    """
    if not today < on <= today + datetime.timedelta(days=CHOOSE_WITHIN_DAYS + 1):
        raise Conflict("This time is no longer free. Please choose another.", "answer.taken")
    with transaction.atomic():
        # Before any row: whoever moves a visit holds the rounds first.
        board.one_at_a_time()
        message = _held(message_id)
        appointment = message.appointment
        assert appointment is not None
        target = rounds.Target(week=on, on=on, member_id=member_id, agreed=True)
        try:
            moved = rounds.move(appointment.pk, target, appointment.version, override=False)
        except (Conflict, Invalid):
            raise Conflict("This time is no longer free. Please choose another.", "answer.taken") from None
        kept = Answer.objects.create(message=message, said=Answered.CHOSE, words=times(moved)[:300])
        Message.objects.filter(pk=message.pk).update(state=MessageState.ANSWERED)
    return kept


def _held(message_id: int) -> Message:
    """The message, for this transaction alone. Raises: Conflict if it was answered, or is on offer no longer."""
    message = Message.objects.select_for_update().get(pk=message_id)
    if Answer.objects.filter(message=message).exists():
        raise Conflict("You have answered already. Please call us to change it.", "answer.given")
    message.appointment = Appointment.objects.select_for_update().filter(pk=message.appointment_id or 0).first()
    if not still_offered(message):
        raise Conflict("This time is no longer on offer. We will write to you again.", "answer.too_late")
    return message


@retried
def answer(message_id: int, said: Answered, words: str) -> Answer:
    """Keep a customer's answer and do what follows from it.

    The first answer counts; said again, it is the same. Raises: Conflict if the time is no longer on offer.
    """
    with transaction.atomic():
        message = Message.objects.select_for_update().get(pk=message_id)
        kept = Answer.objects.filter(message=message).first()
        if kept is not None:
            if kept.said != said:
                raise Conflict("You have answered already. Please call us to change it.", "answer.given")
            return kept
        appointment = Appointment.objects.select_for_update().filter(pk=message.appointment_id or 0).first()
        message.appointment = appointment
        if appointment is None or not still_offered(message):
            raise Conflict("This time is no longer on offer. We will write to you again.", "answer.too_late")
        kept = Answer.objects.create(message=message, said=said, words=words[:300])
        message.state = MessageState.ANSWERED
        message.save()
        if said == Answered.ACCEPTED:
            if message.kind == MessageKind.AGAIN:
                raise Conflict("Please choose one of the times.", "answer.no_time")
            appointment.standing = AppointmentStatus.PROMISED
        else:
            known.forget(appointment)
            appointment.standing = (
                AppointmentStatus.PLANNED if said == Answered.OTHER_TIME else AppointmentStatus.CALLED_OFF
            )
            appointment.on = None
            appointment.member = None
            appointment.begins = None
            appointment.earliest = None
            appointment.latest = None
            wish = "asks for another time" if said == Answered.OTHER_TIME else "declined"
            appointment.note = f"{wish}: {words}"[:240] if words else wish
        appointment.version += 1
        appointment.save()
        if appointment.standing == AppointmentStatus.PROMISED:
            known.know(appointment)
    return kept


def to_a_call(message: Message) -> list[Said]:
    """What who is called about a message can say to it, as ``called`` takes it."""
    if not still_offered(message):
        return ["told"]
    if message.kind == MessageKind.AGAIN:
        return ["told", "other_time", "declined"]
    return ["accepted", "told", "other_time", "declined"]


def called(message_id: int, said: str, words: str) -> Message:
    """Somebody was called instead of being written to, or because nothing reached them.

    Parameters: said, ``told`` if they heard it and no more, else one of ``Answered``. Raises: NotFound, Conflict.
    """
    with transaction.atomic():
        message = Message.objects.select_for_update().filter(pk=message_id).first()
        if message is None:
            raise NotFound("There is no such message.")
        if message.state not in (MessageState.TO_CALL, MessageState.FAILED):
            raise Conflict("Nobody has to be called for this message.", "message.not_to_call")
        if said == "told":
            message.state = MessageState.TOLD
            message.save()
            known.told(message)
        else:
            answer(message.pk, Answered(said), words)
            message.refresh_from_db()
    return message


def stop_writing(message: Message) -> None:
    """They want no more messages; they are called from now on."""
    with transaction.atomic():
        Customer.objects.select_for_update().get(pk=message.customer_id)
        known, is_new = Contact.objects.get_or_create(customer=message.customer)
        known.opted_out_at, known.version = timezone.now(), known.version + (not is_new)
        known.save()
    waiting = Message.objects.filter(customer=message.customer, state=MessageState.WAITING)
    waiting.update(state=MessageState.DROPPED)

"""What a customer says to an offer."""

from django.db import transaction
from django.utils import timezone

from aquifer.errors import Conflict
from aquifer.outbox.models import Answer, Answered, Contact, Message, MessageKind, MessageState
from aquifer.outbox.write import times
from aquifer.rounds.models import Appointment, Standing


def still_offered(message: Message) -> bool:
    """Whether what a message offers can still be had, or what it reminds of still be changed."""
    one = message.appointment
    stands = Standing.PROMISED if message.kind == MessageKind.REMINDER else Standing.OFFERED
    return one is not None and one.standing == stands and times(one) == message.offered


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
        one = Appointment.objects.select_for_update().filter(pk=message.appointment_id or 0).first()
        message.appointment = one
        if one is None or not still_offered(message):
            raise Conflict("This time is no longer on offer. We will write to you again.", "answer.too_late")
        kept = Answer.objects.create(message=message, said=said, words=words[:300])
        message.state = MessageState.ANSWERED
        message.save()
        if said == Answered.ACCEPTED:
            one.standing = Standing.PROMISED
        else:
            one.standing = Standing.PLANNED if said == Answered.OTHER_TIME else Standing.CALLED_OFF
            one.on, one.member, one.begins, one.earliest, one.latest = None, None, None, None, None
            wish = "asks for another time" if said == Answered.OTHER_TIME else "declined"
            one.note = f"{wish}: {words}"[:240] if words else wish
        one.version += 1
        one.save()
    return kept


def stop_writing(message: Message) -> None:
    """They want no more messages; they are called from now on."""
    Contact.objects.update_or_create(customer=message.customer, defaults={"opted_out_at": timezone.now()})
    waiting = Message.objects.filter(customer=message.customer, state=MessageState.WAITING)
    waiting.update(state=MessageState.DROPPED)

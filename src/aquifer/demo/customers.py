"""What the office and its customers have said to each other: offers, answers, a visit that moved, a complaint."""

import datetime

from django.utils import timezone

from aquifer.customers.models import Customer
from aquifer.outbox import answer, known, write
from aquifer.outbox.models import Answered, Contact, Message, MessageState, Way
from aquifer.rounds import booking, promise, rounds
from aquifer.rounds.models import Appointment, AppointmentStatus, Reason

_OFFERED = 9
_SAID = (
    (Answered.ACCEPTED, ""),
    (Answered.ACCEPTED, ""),
    (Answered.OTHER_TIME, "any morning after the 10th, please"),
    (Answered.ACCEPTED, ""),
    (Answered.DECLINED, "we are away until spring"),
)
_COMPLAINT = "lukewarm at every faucet since Sunday"


def load(today: datetime.date) -> None:
    """Write to the first customers of the plan, as an office would have yesterday, and take their answers."""
    for customer in Customer.objects.order_by("pk")[4::9]:
        Contact.objects.get_or_create(customer=customer, defaults={"way": Way.CALL})
    planned = Appointment.objects.filter(standing=AppointmentStatus.PLANNED, on__gt=today, begins__isnull=False)
    visits = list(planned.select_related("site__customer").order_by("on", "begins", "pk")[: _OFFERED + 6])
    write.offer(visits[:_OFFERED])
    yesterday = timezone.now() - datetime.timedelta(days=1)
    sent = list(Message.objects.filter(state=MessageState.WAITING).order_by("pk"))
    for message in sent:
        message.state, message.sent_at = MessageState.DELIVERED, yesterday
        message.save()
        known.told(message)
    for message, (said, words) in zip(sent, _SAID, strict=False):
        answer.answer(message.pk, said, words)
    _moved(today)
    _complaint(visits[-1], today)


def _moved(today: datetime.date) -> None:
    """One who is called instead of written to was promised a day on which nobody can come."""
    called = Contact.objects.filter(way=Way.CALL).values("customer")
    appointments = Appointment.objects.filter(
        site__customer__in=called, standing=AppointmentStatus.PLANNED, on__gt=today, begins__isnull=False
    )
    appointment = appointments.order_by("on", "begins", "pk").first()
    if appointment is None:
        return
    appointment.standing = AppointmentStatus.PROMISED
    appointment.earliest, appointment.latest = promise.around(appointment.begins or 0)
    appointment.version += 1
    appointment.save()
    known.know(appointment)
    why = "our van is at the workshop"
    moved = rounds.move(
        appointment.pk, rounds.Target(week=appointment.week), appointment.version, override=True, why=why
    )
    Appointment.objects.filter(pk=moved.pk).update(changed_at=timezone.now() - 2 * write.GRACE)
    known.keep_told()


def _complaint(near: Appointment, today: datetime.date) -> None:
    """Somebody rang, and took the time that cost least."""
    site = near.site.zone.sites.exclude(pk=near.site_id).order_by("pk").first()
    if site is None:
        return
    asked = booking.Asked(site.pk, Reason.COMPLAINT, 60, said=_COMPLAINT, decides="the owner, 555-0141")
    tomorrow = today + datetime.timedelta(days=1)
    free = [place for place in booking.slots(asked, tomorrow, 14).places if not place.faults]
    if free:
        best = free[0]
        target = rounds.Target(best.on, best.on, best.member_id, best.position, agreed=True)
        booking.book(asked, target, today, override=False)

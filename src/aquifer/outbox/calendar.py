"""Appointments as iCalendar, RFC 5545."""

import datetime
import uuid

from django.core import signing
from django.utils import timezone
from django.utils.crypto import constant_time_compare, salted_hmac
from icalendar import Calendar, Event

from aquifer.rounds.models import Appointment, AppointmentStatus, CrewMember

_SALT = "aquifer.rounds.calendar"
BACK_DAYS, AHEAD_DAYS = 14, 180
NAMESPACE = uuid.UUID("0e0c1d0e-7a33-4c5a-9a27-0f6f1f6f2b51")


def key_of(member: CrewMember) -> str:
    """What stands in the address of a member's calendar. A new password of theirs makes it another."""
    return signing.dumps([member.pk, _of_password(member)], salt=_SALT, compress=False)


def _of_password(member: CrewMember) -> str:
    """What changes with a password and tells nothing of it."""
    return salted_hmac(_SALT, member.user.password).hexdigest()[:24]


def of_member(key: str, today: datetime.date) -> bytes | None:
    """A member's rounds; None if the address is not, or no longer, good."""
    try:
        pk, known = signing.loads(key, salt=_SALT)
    except (signing.BadSignature, ValueError, TypeError):
        return None
    member = CrewMember.objects.filter(pk=pk, active=True, user__is_active=True).select_related("user").first()
    if member is None or not constant_time_compare(_of_password(member), str(known)):
        return None
    appointments = Appointment.objects.filter(
        member=member,
        on__gte=today - datetime.timedelta(days=BACK_DAYS),
        on__lte=today + datetime.timedelta(days=AHEAD_DAYS),
        begins__isnull=False,
    ).exclude(standing=AppointmentStatus.CALLED_OFF)
    return written(
        list(appointments.select_related("site__customer").order_by("on", "begins")), f"Rounds of {member.user.name}"
    )


def of_customer(appointment: Appointment, company: str, prepare: list[str]) -> bytes:
    """One promised visit as its customer keeps it: between the times promised, with what to prepare."""
    book = _book(company)
    if appointment.on is not None and appointment.earliest is not None and appointment.latest is not None:
        event = _event(appointment, appointment.earliest, appointment.latest - appointment.earliest)
        event.add("summary", f"{company}: water heater")
        event.add("description", "\n".join(["We begin between these times.", *prepare]))
        book.add_component(event)
    return bytes(book.to_ical())


def written(appointments: list[Appointment], name: str) -> bytes:
    """Appointments as a calendar."""
    book = _book(name)
    for appointment in appointments:
        if appointment.on is None or appointment.begins is None:
            continue
        event = _event(appointment, appointment.begins, appointment.minutes)
        event.add("summary", appointment.site.name)
        book.add_component(event)
    return bytes(book.to_ical())


def _book(name: str) -> Calendar:
    book = Calendar()
    book.add("prodid", "-//Aquifer//Rounds//EN")
    book.add("version", "2.0")
    book.add("x-wr-calname", name)
    return book


def _event(appointment: Appointment, begins: int, minutes: int) -> Event:
    """An appointment keeps its id, so that a change is a change and not a second one."""
    midnight = timezone.make_aware(datetime.datetime.combine(appointment.on or appointment.week, datetime.time()))
    event = Event()
    event.add("uid", f"{uuid.uuid5(NAMESPACE, str(appointment.pk))}@aquifer")
    event.add("sequence", appointment.version)
    event.add("dtstamp", timezone.now())
    # By the clock on the wall, then in UTC: a zone's name would need its rules told with it.
    for name, at in (("dtstart", begins), ("dtend", begins + minutes)):
        event.add(name, (midnight + datetime.timedelta(minutes=at)).astimezone(datetime.UTC))
    event.add("location", ", ".join(part for part in (appointment.site.street, appointment.site.town) if part))
    return event

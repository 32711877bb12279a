"""The owner's year as a file for a calendar (iCalendar, RFC 5545): once a year by itself, with its steps."""

import datetime
import uuid

from django.core import signing
from django.utils import timezone
from icalendar import Alarm, Calendar, Event

from aquifer.company.models import Company
from aquifer.outbox.links import public_address
from aquifer.visiting.owners_year import Task
from aquifer.visits.models import Visit

_SALT = "aquifer.visiting.owners_year"
HOUR = 9
"""Of the day on which it rings. Assumption: somebody is up, and the office answers the telephone."""


def address(visit: Visit) -> str:
    """Where the owner of its heater gets the file; empty where nobody said at which address we are reached."""
    at = public_address()
    return f"{at}/calendar/year/{signing.dumps(str(visit.client_id), salt=_SALT, compress=False)}.ics" if at else ""


def opened(key: str) -> Visit | None:
    """The visit after which a file is asked for; None where the address is not good, or the heater is gone."""
    try:
        client_id = uuid.UUID(signing.loads(key, salt=_SALT))
    except (signing.BadSignature, ValueError, TypeError, AttributeError):
        return None
    return Visit.objects.filter(client_id=client_id, heater__archived_at__isnull=True).first()


def written(visit: Visit, tasks: list[Task]) -> bytes:
    """A day of each year, from a year after the visit on, that rings in the morning."""
    company = Company.current().name
    steps = [f"- {task.says}" if task.picture else task.says for task in tasks]
    event = Event()
    event.add("uid", f"{visit.client_id}-year@aquifer")
    event.add("dtstamp", timezone.now())
    on = a_year_on(visit.on)
    event.add("dtstart", on)
    event.add("dtend", on + datetime.timedelta(days=1))
    event.add("rrule", {"freq": "yearly"})
    event.add("summary", f"Water heater: a quarter of an hour ({company})")
    event.add("description", "\n".join(steps))
    event.add("transp", "TRANSPARENT")
    alarm = Alarm()
    alarm.add("action", "DISPLAY")
    alarm.add("description", "Water heater")
    alarm.add("trigger", datetime.timedelta(hours=HOUR))
    event.add_component(alarm)
    book = Calendar()
    book.add("prodid", "-//Aquifer//Owner's year//EN")
    book.add("version", "2.0")
    book.add_component(event)
    return bytes(book.to_ical())


def a_year_on(day: datetime.date) -> datetime.date:
    """The same day of the next year; of a day that it has not, the one before."""
    return day.replace(year=day.year + 1, day=28) if (day.month, day.day) == (2, 29) else day.replace(year=day.year + 1)

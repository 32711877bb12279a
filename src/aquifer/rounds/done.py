"""What a recorded visit does to the appointments that it keeps."""

import datetime

from django.db.models import Q

from aquifer.company.clock import week_of
from aquifer.core.vocabulary import LOOKED_AT, Task
from aquifer.rounds.board import OPEN
from aquifer.rounds.models import Appointment, AppointmentStatus
from aquifer.visits.models import Finding, Visit


def complete_appointment(heater_id: int, on: datetime.date) -> None:
    """The heater's appointment of that day is done once each of its heaters was visited; one that somebody asked for
    and at which nothing is due, once any heater of its site was.

    Work keeps no calendar: what was due on a day that went by, or in this week without a promised day, is done once all
    that it was for was. What somebody asked for on another day may be something else, and stays.
    """
    its_own = Appointment.objects.filter(services__heater=heater_id).values("pk")
    asked = Appointment.objects.filter(services=None, site__heaters=heater_id).values("pk")
    promised = Q(standing__in=(AppointmentStatus.OFFERED, AppointmentStatus.PROMISED), on__gt=on)
    elsewhen = Q(pk__in=its_own, asked_minutes=0, week__lte=week_of(on)) & ~Q(on=on) & ~promised
    # In one order: two visits saved at a time wait for each other's appointments and not both for ever.
    appointments = (
        Appointment.objects.select_for_update()
        .filter(Q(pk__in=its_own, on=on) | Q(pk__in=asked, on=on) | elsewhen, standing__in=OPEN)
        .order_by("pk")
    )
    for appointment in appointments:
        if _is_done(appointment, on):
            appointment.standing = AppointmentStatus.DONE
            appointment.version += 1
            appointment.save()


def _is_done(appointment: Appointment, on: datetime.date) -> bool:
    services = appointment.services.values_list("heater_id", "component")
    if appointment.on == on:
        wanted = {heater_id for heater_id, _ in services}
        return wanted <= set(Visit.objects.filter(heater__in=wanted, on=on).values_list("heater_id", flat=True))
    found = Finding.objects.filter(heater__in=[heater_id for heater_id, _ in services], on__gte=appointment.week)
    seen = {(heater_id, LOOKED_AT.get(Task(task))) for heater_id, task in found.values_list("heater_id", "task")}
    return set(services) <= seen

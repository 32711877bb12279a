"""What a recorded visit does to the appointment that it keeps."""

import datetime

from django.db.models import Q

from aquifer.rounds.board import OPEN
from aquifer.rounds.models import Appointment, AppointmentStatus
from aquifer.visits.models import Visit


def complete_appointment(heater_id: int, on: datetime.date) -> None:
    """The heater's appointment of that day is done once each of its heaters was visited; one that somebody asked for
    and at which nothing is due, once any heater of its site was."""
    its_own = Appointment.objects.filter(services__heater=heater_id).values("pk")
    asked = Appointment.objects.filter(services=None, site__heaters=heater_id).values("pk")
    # In one order: two visits saved at a time wait for each other's appointments and not both for ever.
    appointments = (
        Appointment.objects.select_for_update()
        .filter(Q(pk__in=its_own) | Q(pk__in=asked), on=on, standing__in=OPEN)
        .order_by("pk")
    )
    for appointment in appointments:
        wanted = set(appointment.services.values_list("heater_id", flat=True))
        seen = set(Visit.objects.filter(heater__in=wanted, on=on).values_list("heater_id", flat=True))
        if wanted <= seen:
            appointment.standing = AppointmentStatus.DONE
            appointment.version += 1
            appointment.save()

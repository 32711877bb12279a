"""What a recorded visit does to the appointment that it keeps."""

import datetime

from aquifer.rounds.board import OPEN
from aquifer.rounds.models import Appointment, AppointmentStatus
from aquifer.visits.models import Visit


def complete_appointment(heater_id: int, on: datetime.date) -> None:
    """The heater's appointment of that day is done once each of its heaters was visited."""
    # In one order: two visits saved at a time wait for each other's appointments and not both for ever.
    appointments = (
        Appointment.objects.select_for_update()
        .filter(on=on, standing__in=OPEN, pk__in=Appointment.objects.filter(services__heater=heater_id).values("pk"))
        .order_by("pk")
    )
    for appointment in appointments:
        wanted = set(appointment.services.values_list("heater_id", flat=True))
        seen = set(Visit.objects.filter(heater__in=wanted, on=on).values_list("heater_id", flat=True))
        if wanted <= seen:
            appointment.standing = AppointmentStatus.DONE
            appointment.version += 1
            appointment.save()

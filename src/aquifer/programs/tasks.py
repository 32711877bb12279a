"""Jobs that tell other programs. Running one twice is harmless: each event goes under its own key."""

import datetime

from django.utils import timezone
from procrastinate.contrib.django import app

from aquifer.company.clock import by_its_clock
from aquifer.jobs import WHEN_BACK
from aquifer.programs import send
from aquifer.programs.models import Delivery, DeliveryState

KEPT = datetime.timedelta(days=30)


@app.periodic(cron="* * * * *")
@app.task(name="programs.tell", queue="outbox", retry=WHEN_BACK)
@by_its_clock
def tell(timestamp: int) -> None:
    """Every minute: send what other programs are to be told."""
    send.send_waiting()


@app.periodic(cron="50 3 * * *")
@app.task(name="programs.forget", queue="outbox", retry=WHEN_BACK)
def forget(timestamp: int) -> None:
    """Every night: what was taken a month ago is not kept."""
    Delivery.objects.filter(state=DeliveryState.TAKEN, taken_at__lt=timezone.now() - KEPT).delete()

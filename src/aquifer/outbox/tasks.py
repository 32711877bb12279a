"""Jobs of the outbox. Running one twice is harmless: each message is sent under its own key."""

from django.utils import timezone
from procrastinate.contrib.django import app

from aquifer.company.clock import by_its_clock
from aquifer.jobs import WHEN_BACK
from aquifer.outbox import known, send, write
from aquifer.outbox.gateway import gateway, sends


@app.periodic(cron="* * * * *")
@app.task(name="outbox.send", queue="outbox", retry=WHEN_BACK)
@by_its_clock
def send_waiting(timestamp: int) -> None:
    """Every minute: tell whose time was changed, send what waits, and ask after what was sent."""
    known.keep_told()
    if not sends():
        return
    send.send_waiting(gateway())
    send.ask_after(gateway())


@app.periodic(cron="30 8 * * *")
@app.task(name="outbox.remind", queue="outbox", retry=WHEN_BACK)
@by_its_clock
def remind(timestamp: int) -> None:
    """Every morning: remind customers of promised visits."""
    write.remind(timezone.localdate())

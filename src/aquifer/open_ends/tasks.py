"""Jobs of what is not in order."""

from django.utils import timezone
from procrastinate.contrib.django import app

from aquifer.company.clock import by_its_clock
from aquifer.jobs import WHEN_BACK
from aquifer.open_ends import keep


@app.periodic(cron="15 2 * * *")
@app.task(name="open_ends.reach", queue="forecasts", retry=WHEN_BACK)
@by_its_clock
def reach(timestamp: int) -> None:
    """Every night: heaters and parts that came since a campaign was begun are drawn into it."""
    keep.reach_all(timezone.localdate())

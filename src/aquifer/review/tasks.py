"""Review's job: running it twice is harmless."""

from django.utils import timezone
from procrastinate.contrib.django import app

from aquifer.company.clock import by_its_clock
from aquifer.jobs import WHEN_BACK
from aquifer.review import kept


@app.periodic(cron="50 3 * * *")
@app.task(name="review.renew", queue="forecasts", retry=WHEN_BACK)
@by_its_clock
def renew(timestamp: int) -> None:
    """Every night, after the forecasts."""
    kept.renew(timezone.localdate())

"""Jobs of quotes. Running one twice is harmless: an open quote is not raised again."""

from django.utils import timezone
from procrastinate.contrib.django import app

from aquifer.company.clock import by_its_clock
from aquifer.jobs import WHEN_BACK
from aquifer.money import quotes


@app.task(name="money.raise_quotes", retry=WHEN_BACK)
@by_its_clock
def raise_quotes(visit_id: int) -> None:
    quotes.raise_for(visit_id)


@app.periodic(cron="20 2 * * *")
@app.task(name="money.lapse_quotes", retry=WHEN_BACK)
@by_its_clock
def lapse_quotes(timestamp: int) -> None:
    """Every night: quotes whose time is over."""
    quotes.lapse(timezone.localdate())

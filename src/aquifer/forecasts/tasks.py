"""Jobs of the forecast. Arguments are ids; running one twice is harmless."""

from contextlib import suppress

from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from aquifer.forecasts import recompute


@app.task(name="forecasts.recompute_zone", queue="forecasts", pass_context=False)
def recompute_zone(zone_id: int) -> None:
    """A finding moved this zone: store what it says of the zone's other heaters."""
    recompute.recompute_zone(zone_id)


@app.periodic(cron="10 2 * * *")
@app.task(name="forecasts.recompute_all", queue="forecasts")
def recompute_all(timestamp: int) -> None:
    """Every night: a day has passed for every heater."""
    recompute.recompute_all()


def defer_zone(zone_id: int) -> None:
    """Queue a zone's recomputation unless one is waiting already."""
    # The savepoint keeps the caller's transaction alive when the queue's own uniqueness refuses a second job.
    with suppress(AlreadyEnqueued), transaction.atomic():
        recompute_zone.configure(queueing_lock=f"zone-{zone_id}").defer(zone_id=zone_id)

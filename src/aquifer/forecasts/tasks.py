"""Jobs of the forecast. Arguments are ids; running one twice is harmless."""

from contextlib import suppress

from django.db import transaction
from django.db.models import Q
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob
from procrastinate.exceptions import AlreadyEnqueued

from aquifer.company.clock import by_its_clock
from aquifer.core import MODEL_VERSION
from aquifer.forecasts import gaps, night, recompute
from aquifer.forecasts.models import Forecast
from aquifer.jobs import WHEN_BACK


@app.task(name="forecasts.recompute_zone", queue="forecasts", pass_context=False, retry=WHEN_BACK)
@by_its_clock
def recompute_zone(zone_id: int) -> None:
    """A finding moved this zone: store what it says of the zone's other heaters."""
    recompute.recompute_zone(zone_id)


@app.task(name="forecasts.recompute_zones", queue="forecasts", pass_context=False, retry=WHEN_BACK)
@by_its_clock
def recompute_zones(zone_ids: list[int]) -> None:
    """One partition of the base; the others may be in the hands of other workers."""
    recompute.recompute_zones(zone_ids)
    gaps.renew(zone_ids, timezone.localdate())


@app.periodic(cron="10 2 * * *")
@app.task(name="forecasts.recompute_all", queue="forecasts", retry=WHEN_BACK)
@by_its_clock
def recompute_all(timestamp: int) -> None:
    """Calibrate on the base, then queue its partitions: of what a night is for, or of everything where something
    changed that bears on all (timestamp 0)."""
    today = timezone.localdate()
    recompute.begin(today)
    for zone_ids in recompute.partitions(night.zones_due(today) if timestamp else None):
        with suppress(AlreadyEnqueued), transaction.atomic():
            recompute_zones.configure(queueing_lock=f"partition-{zone_ids[0]}").defer(zone_ids=[*zone_ids])


def defer_zone(zone_id: int) -> None:
    """Queue a zone's recomputation unless one is waiting already."""
    # The savepoint keeps the caller's transaction alive when the queue's own uniqueness refuses a second job.
    with suppress(AlreadyEnqueued), transaction.atomic():
        recompute_zone.configure(queueing_lock=f"zone-{zone_id}").defer(zone_id=zone_id)


def defer_all() -> None:
    """Queue the whole base unless that is waiting already."""
    with suppress(AlreadyEnqueued), transaction.atomic():
        recompute_all.configure(queueing_lock="recompute-all").defer(timestamp=0)


def is_pending() -> bool:
    """Whether a job of the forecast is waiting or at work."""
    jobs = ProcrastinateJob.objects.filter(queue_name="forecasts", status__in=("todo", "doing"))
    # What waits for its hour, every night's, changes nothing that is shown now.
    return jobs.filter(Q(scheduled_at__isnull=True) | Q(scheduled_at__lte=timezone.now())).exists()


def defer_all_if_outdated() -> bool:
    """Queue everything if a forecast of another model is in force; returns whether it did."""
    if not Forecast.objects.current().exclude(model_version=MODEL_VERSION).exists():
        return False
    defer_all()
    return True

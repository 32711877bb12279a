"""Jobs of projections. Running one twice is harmless: a part that is lived is lived to the same figures."""

from django.db import transaction
from django.utils import timezone
from procrastinate.contrib.django import app

from aquifer import jobs
from aquifer.company.clock import by_its_clock
from aquifer.projections import demand, living
from aquifer.projections.models import MonthsAhead, Projection, ProjectionPart, ProjectionState

USUAL_YEARS = 5
KEPT = 60
"""Projections that are kept; of what was only tried the oldest go first. Assumption."""


def ask(projection: Projection) -> Projection:
    """Keep it and have its parts lived."""
    with transaction.atomic():
        projection.save()
        parts = living.begin(projection)
        if not parts:
            # Nobody is there to be asked for.
            living.finish(projection.pk)
        for part in parts:
            live.defer(part_id=part.pk)
    return projection


@app.task(name="projections.live", queue="projections", retry=jobs.WHEN_BACK)
@by_its_clock
def live(part_id: int) -> None:
    part = ProjectionPart.objects.select_related("projection").filter(pk=part_id).first()
    if part is None or part.projection.state != ProjectionState.WORKING:
        return
    if part.found is None:
        part.found = living.live(part)
        part.save(update_fields=["found"])
    living.finish(part.projection_id)


@app.task(name="projections.months", queue="projections", retry=jobs.WHEN_BACK)
@by_its_clock
def reckon_months() -> None:
    """Calls and work by the month, carried on; once a day is enough, and the last of a day stands."""
    today = timezone.localdate()
    MonthsAhead.objects.update_or_create(reckoned_on=today, defaults={"found": demand.reckon(today)})


@app.periodic(cron="20 3 1 * *")
@app.task(name="projections.months_of", retry=jobs.WHEN_BACK)
@by_its_clock
def every_month(timestamp: int) -> None:
    """Every month, once the one before is over."""
    reckon_months.defer()


@jobs.ends("projections.live")
def given_up(why: str, part_id: int) -> None:
    """A projection without one of its parts is none."""
    working = Projection.objects.filter(state=ProjectionState.WORKING, parts__pk=part_id)
    Projection.objects.filter(pk__in=list(working.values_list("pk", flat=True))).update(
        state=ProjectionState.FAILED, error=why[:300]
    )


@app.periodic(cron="40 2 1 * *")
@app.task(name="projections.as_it_is", retry=jobs.WHEN_BACK)
@by_its_clock
def as_it_is(timestamp: int) -> None:
    """Every month: the base as it is, kept to be held against what comes; and what is old is dropped."""
    today = timezone.localdate()
    if not Projection.objects.filter(asked_on=today, decisions=[], years=USUAL_YEARS).exists():
        ask(Projection(asked_on=today, years=USUAL_YEARS))
    tried = Projection.objects.exclude(decisions=[]).order_by("-asked_on", "-pk")
    for old in tried[KEPT:]:
        old.delete()

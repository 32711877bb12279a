"""Which waters are forecast anew in a night.

All of them, while that takes a minute. Of a large base, those that something came to since they were last forecast
together, and each one once a week: a forecast that only grew older by a week tells the same dates, and chances that are
a week old.
"""

import datetime

from django.db.models import F, Max, Min

from aquifer.core import MODEL_VERSION
from aquifer.forecasts.models import Due, Forecast, ZoneLearning
from aquifer.heaters.models import Heater

LARGE = 20_000
"""Heaters from which the night is shared out over the week. Assumption: below, all of them take half a minute."""
NIGHTS = 7
"""In so many each water is forecast anew. Assumption: a week moves nine dates of ten by a day at most, as measured."""


def zones_due(tonight: datetime.date) -> set[int] | None:
    """The zones that are to be forecast anew; None for all."""
    if Due.objects.count() < LARGE:
        return None
    every = set(Heater.objects.in_service().values_list("site__zone_id", flat=True).distinct())
    passed = dict(
        ZoneLearning.objects.filter(model_version=MODEL_VERSION)
        .values_list("zone_id")
        .annotate(at=Max("computed_at"))
        .order_by("zone_id")
    )
    current = (
        Forecast.objects.current()
        .values(zone=F("heater__site__zone_id"))
        .annotate(newest=Max("computed_at"), oldest=Min("computed_at"), of_day=Min("as_of"))
        .order_by("zone")
    )
    told = {row["zone"]: row for row in current}
    blank = set(Heater.objects.in_service().filter(due__isnull=True).values_list("site__zone_id", flat=True).distinct())
    week_ago = tonight - datetime.timedelta(days=NIGHTS)
    return {
        zone
        for zone in every
        if zone in blank
        or zone not in passed
        or zone not in told
        # A heater was forecast by itself since, or is left of before.
        or told[zone]["newest"] > passed[zone]
        or told[zone]["of_day"] <= week_ago
        or (zone % NIGHTS == tonight.toordinal() % NIGHTS and told[zone]["of_day"] < tonight)
    }

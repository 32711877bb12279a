"""How forecasts follow what changes on record."""

import datetime
from collections.abc import Collection

from aquifer.forecasts.models import Due, Forecast
from aquifer.forecasts.recompute import recompute_heaters
from aquifer.forecasts.tasks import defer_all, defer_zone


class Forecasts:
    """A subscriber of ``changed``."""

    def heaters(self, ids: Collection[int]) -> None:
        """Their own forecasts are computed before the request is answered."""
        recompute_heaters(ids)

    def zone(self, zone_id: int) -> None:
        """All of the zone is computed by a job."""
        defer_zone(zone_id)

    def everything(self) -> None:
        """All of the base is computed by jobs."""
        defer_all()

    def out_of_service(self, ids: Collection[int], when: datetime.datetime) -> None:
        """No forecast of theirs is in force any longer; those that were are kept."""
        Forecast.objects.filter(heater__in=ids, superseded_at__isnull=True).update(superseded_at=when)
        Due.objects.filter(heater__in=ids).delete()

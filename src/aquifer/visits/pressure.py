"""The pressure that stands on a house, as visits measured it: of the site, not of the heater where it was read."""

from collections.abc import Collection

from django.db.models import QuerySet

from aquifer.accounts.models import User
from aquifer.core.vocabulary import Task
from aquifer.customers.models import Site
from aquifer.history import in_bulk
from aquifer.visits.models import Finding


def keep(site_ids: Collection[int] | QuerySet[Site], by: User | None = None, file: str | None = None) -> list[int]:
    """Put the newest standing reading of each site on its record, where nothing later is known.

    Parameters: sites with a visit that measured it, or whose reading was put right; who or which file told of it.
    Returns: those that changed.
    """
    read = Finding.objects.filter(
        heater__site__in=site_ids, task=Task.PRESSURE_TEST, static_kpa__isnull=False, correction__isnull=True
    )
    read = read.order_by("heater__site_id", "-on", "-pk").distinct("heater__site_id")
    newest = {site_id: (kpa, on) for site_id, kpa, on in read.values_list("heater__site_id", "static_kpa", "on")}
    moved = []
    for site in Site.objects.select_for_update().filter(pk__in=newest).order_by("pk"):
        kpa, on = newest[site.pk]
        if site.pressure_on is not None and site.pressure_on > on:
            continue
        if (site.static_pressure_kpa, site.pressure_on, site.pressure_measured) == (kpa, on, True):
            continue
        site.static_pressure_kpa, site.pressure_on, site.pressure_measured = kpa, on, True
        moved.append(site)
    ids = [site.pk for site in moved]
    Site.objects.bulk_update(moved, ["static_pressure_kpa", "pressure_on", "pressure_measured"], batch_size=2000)
    in_bulk.keep(Site, ids, in_bulk.CHANGED, by, file)
    return ids

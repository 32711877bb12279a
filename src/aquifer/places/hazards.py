"""What is said first wherever a site appears; a fixed number of queries whatever the number of sites."""

from collections.abc import Collection, Iterable

from aquifer.core.place import FEATURES, Severity, hazards
from aquifer.customers.models import Site
from aquifer.heaters.models import LeftAs
from aquifer.places.models import Feature

_DANGEROUS = [
    (feature.kind.value, condition.value)
    for feature in FEATURES
    for condition in feature.conditions
    if condition.severity is Severity.DANGER
]
_CONDITIONS = sorted({condition for _, condition in _DANGEROUS})


def of_sites(sites: Iterable[Site], heater_ids: Collection[int] | None = None) -> dict[int, list[str]]:
    """The hazards of each site, what its people wrote first; of these heaters only, if they are given."""
    found = {site.pk: [site.hazard] if site.hazard else [] for site in sites}
    features = Feature.objects.filter(site__in=list(found), gone=False).select_related("heater").order_by("pk")
    # Few features are dangerous: the others need not be read.
    features = features.filter(do_not_operate=True) | features.filter(condition__in=_CONDITIONS)
    seen: dict[int, list[Feature]] = {}
    for feature in features:
        if heater_ids is None or feature.heater_id is None or feature.heater_id in heater_ids:
            seen.setdefault(feature.site_id, []).append(feature)
    for site_id, ones in seen.items():
        several = len({one.heater_id for one in ones} - {None}) > 1
        about = {one.pk: one.heater.location or one.heater.tag if several and one.heater else "" for one in ones}
        found[site_id] += hazards([one.seen(about[one.pk]) for one in ones])
    left = LeftAs.objects.filter(heater__site__in=list(found), off=True, heater__archived_at__isnull=True)
    for left_as in left.select_related("heater"):
        if heater_ids is None or left_as.heater_id in heater_ids:
            found[left_as.heater.site_id].insert(0, f"{left_as.heater.tag} is left off: {left_as.title.lower()}")
    return found

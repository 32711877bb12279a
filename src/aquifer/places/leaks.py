"""Where a leak of a heater would run, as was last written down."""

from django.db.models import QuerySet

from aquifer.core.place import FeatureKind
from aquifer.heaters.models import Heater
from aquifer.places.models import Feature

KINDS = (FeatureKind.LEAK_PATH, FeatureKind.DRAIN_PAN)


def ways() -> "QuerySet[Feature]":
    """What is on record of ways and of pans that catch."""
    return Feature.objects.filter(kind__in=KINDS, gone=False)


def way_of(heater: Heater) -> tuple[str | None, bool]:
    """Where a leak of it would run, None if nobody wrote it down, and whether a pan catches it and is piped away."""
    seen = {row.kind: row.condition for row in ways().filter(heater=heater).order_by("seen_on", "pk")}
    return seen.get(FeatureKind.LEAK_PATH), seen.get(FeatureKind.DRAIN_PAN) == "sound"

"""What else is told of heaters, parts and features, as a table to take along."""

from collections.abc import Iterator, Mapping

from aquifer.core import details
from aquifer.core.kinds import HeaterKind
from aquifer.core.place import FeatureKind
from aquifer.core.units import METRIC, Quantity
from aquifer.customers.models import Site
from aquifer.heaters.models import Heater, Part
from aquifer.places.models import Feature

COLUMNS = ("site", "heater", "of", "kind", "detail", "value", "unit")


def exported() -> Iterator[dict[str, details.Value]]:
    """Every detail of every heater in service, of its parts in place and of what stands there, a row each, in the units
    in which it is kept."""
    for site in Site.objects.filter(archived_at__isnull=True).exclude(details={}).order_by("pk").iterator():
        yield from _rows({"site": site.code, "heater": "", "of": "site", "kind": ""}, details.OF_SITE, site.details)
    heaters = Heater.objects.in_service().exclude(details={}).select_related("site").order_by("pk")
    for heater in heaters.iterator(chunk_size=2000):
        where = {"site": heater.site.code, "heater": heater.tag, "of": "heater", "kind": heater.kind}
        yield from _rows(where, details.of_heater(HeaterKind(heater.kind)), heater.details)
    parts = Part.objects.filter(removed_on__isnull=True, heater__archived_at__isnull=True).exclude(details={})
    for part in parts.select_related("heater__site").order_by("pk").iterator(chunk_size=2000):
        where = {"site": part.heater.site.code, "heater": part.heater.tag, "of": "part", "kind": part.kind}
        yield from _rows(where, details.of_part(part.kind), part.details)
    features = Feature.objects.filter(gone=False).exclude(details={}).select_related("site", "heater").order_by("pk")
    for feature in features.iterator(chunk_size=2000):
        tag = feature.heater.tag if feature.heater else ""
        where = {"site": feature.site.code, "heater": tag, "of": "feature", "kind": feature.kind}
        yield from _rows(where, details.of_feature(FeatureKind(feature.kind)), feature.details)


def _rows(
    where: dict[str, str], known: tuple[details.Detail, ...], told: Mapping[str, details.Value]
) -> Iterator[dict[str, details.Value]]:
    for detail in known:
        if detail.name in told:
            unit = METRIC[Quantity(detail.unit)].label if detail.unit in set(Quantity) else detail.unit
            yield {**where, "detail": detail.name, "value": told[detail.name], "unit": unit}

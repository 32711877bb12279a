"""Heaters that are on record twice, and making one of two."""

from collections.abc import Collection
from typing import Any

from django.contrib.postgres.aggregates import ArrayAgg
from django.db import transaction
from django.db.models import Count, Q, QuerySet
from django.db.models.functions import Lower
from django.utils import timezone

from aquifer.attachments.models import Attachment
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.heaters.edit import forecast_no_more
from aquifer.heaters.models import Heater, Likeness, Part
from aquifer.open_ends.models import OpenEnd
from aquifer.places.models import Feature
from aquifer.visits.models import Begun, Finding, Visit

MOST = 100
_SAME_SERIAL, _SAME_PLACE = "the same serial number", "the same kind, size and place at one site"


def suspected() -> list[dict[str, Any]]:
    """Pairs of heaters in service that look like one, and why, as ``renew`` found them; two queries."""
    both = Likeness.objects.filter(first__archived_at__isnull=True, second__archived_at__isnull=True)
    pairs = list(
        both.order_by("because", "first_id", "second_id").values_list("first_id", "second_id", "because")[:MOST]
    )
    wanted = {pk for first, second, _ in pairs for pk in (first, second)}
    counted = Heater.objects.filter(pk__in=wanted).select_related("site").annotate(visit_count=Count("visits"))
    heaters = {one.pk: one for one in counted}
    return [{"first": _short(heaters[a]), "second": _short(heaters[b]), "because": why} for a, b, why in pairs]


def renew(ids: Collection[int] | None = None) -> None:
    """Look for pairs anew: among all heaters, or those of some heaters, which is a matter of milliseconds."""
    in_service = Heater.objects.in_service()
    if ids is None:
        serials, sites = _several(in_service.exclude(serial=""), "serial"), _several(in_service, "site_id")
    else:
        own = in_service.filter(pk__in=ids)
        serials, sites = own.exclude(serial="").values("serial"), own.values("site_id")
    found: dict[tuple[int, int], str] = {}
    # What stands alone under its serial, or at its site, is told by an index; only the others are looked at closely.
    for alike, fields, why in (
        (in_service.filter(serial__in=serials), ("serial", "make"), _SAME_SERIAL),
        (
            in_service.filter(site__in=sites, bank="").exclude(location=""),
            ("site_id", "kind", "place", "capacity_l", "installed_on"),
            _SAME_PLACE,
        ),
    ):
        groups = alike.annotate(make=Lower("maker"), place=Lower("location")).order_by().values(*fields)
        several = groups.annotate(alike=ArrayAgg("pk"), number=Count("pk")).filter(number__gt=1)
        for together in several.values_list("alike", flat=True)[:MOST]:
            first, *others = sorted(together)
            for other in others[:MOST]:
                found.setdefault((first, other), why)
    with transaction.atomic():
        old = Likeness.objects.all()
        if ids is not None:
            old = old.filter(Q(first__in=ids) | Q(second__in=ids))
        old.delete()
        made = [Likeness(first_id=first, second_id=second, because=why) for (first, second), why in found.items()]
        Likeness.objects.bulk_create(made, ignore_conflicts=True)


def _several(heaters: "QuerySet[Heater]", field: str) -> "QuerySet[Any]":
    """Values of a field that more than one heater has."""
    return heaters.order_by().values(field).annotate(number=Count("pk")).filter(number__gt=1).values(field)


def _short(heater: Any) -> dict[str, Any]:
    return {
        "id": heater.pk,
        "tag": heater.tag,
        "kind": heater.kind,
        "site": heater.site.name,
        "street": heater.site.street,
        "location": heater.location,
        "serial": heater.serial,
        "installed_on": heater.installed_on,
        "visits": heater.visit_count,
    }


def merge(kept_id: int, other_id: int) -> Heater:
    """One heater of two: visits, findings, parts that were taken out, features and open ends of the other go to the
    kept one; what the kept one does not know is taken over; the other is archived and says what became of it.

    Raises: Invalid for two of different kinds, Conflict if both are one, NotFound.
    """
    if kept_id == other_id:
        raise Conflict("These are the same heater already.")
    with transaction.atomic():
        both = {
            one.pk: one for one in Heater.objects.select_for_update().in_service().filter(pk__in=[kept_id, other_id])
        }
        if len(both) < 2:
            raise NotFound("One of them is not on record, or was archived.")
        kept, other = both[kept_id], both[other_id]
        if kept.kind != other.kind:
            raise Invalid(f"{kept.tag} and {other.tag} are of different kinds; put that right first.")
        for name in _FILLED:
            if getattr(kept, name) in (None, "") and getattr(other, name) not in (None, ""):
                setattr(kept, name, getattr(other, name))
        kept.version += 1
        other.archived_at, other.version = timezone.now(), other.version + 1
        other.location = f"{other.location} (now {kept.tag})"[:120]
        _move(kept, other)
        kept.save()
        other.save()
        forecast_no_more(other, timezone.now())
    return kept


_FILLED = (
    "location", "maker", "model", "serial", "installed_on", "capacity_l", "setpoint_c", "input_kw", "height_mm",
    "diameter_mm", "drain_port_height_mm", "probe_height_mm", "lower_element_height_mm", "exchanger_area_m2",
    "boiler", "control_setting", "supply_volts", "ignition", "vent", "dip_tube", "anode_port", "bank",
)  # fmt: skip


def _move(kept: Heater, other: Heater) -> None:
    in_place = {part.kind: part for part in Part.objects.filter(heater=kept, removed_on__isnull=True)}
    for part in Part.objects.filter(heater=other):
        standing = in_place.get(part.kind)
        if part.removed_on is None and standing is not None:
            # Both say what is in place: it is one part, and its findings are too.
            Finding.objects.filter(part=part).update(part=standing)
            part.delete()
            continue
        part.heater = kept
        part.save()
    Visit.objects.filter(heater=other).update(heater=kept)
    Finding.objects.filter(heater=other).update(heater=kept)
    Begun.objects.filter(heater=other).update(heater=kept)
    for feature in Feature.objects.filter(heater=other, gone=False):
        feature.heater, feature.site_id = kept, kept.site_id
        feature.save()
    for picture in Attachment.objects.filter(heater=other):
        picture.heater, picture.site_id = kept, kept.site_id
        picture.save()
    for one in OpenEnd.objects.filter(heater=other):
        one.heater, one.site_id = kept, kept.site_id
        one.save()

"""Heaters that are on record twice, and making one of two."""

from collections.abc import Callable, Collection
from dataclasses import dataclass

from django.contrib.postgres.aggregates import ArrayAgg
from django.db import transaction
from django.db.models import Count, Q
from django.db.models.functions import Lower
from django.utils import timezone

from aquifer import changed
from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import EndCause
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.heaters.models import Heater, LeftAs, Likeness, Part
from aquifer.heaters.schemas import SuspectedOut, SuspectOut
from aquifer.transactions import retried

MOST = 100
_SAME_SERIAL, _SAME_PLACE = "the same serial number", "the same kind, size and place at one site"


def suspected() -> list[SuspectedOut]:
    """Pairs of heaters in service that look like one, and why, as ``renew`` found them; three queries."""
    both = Likeness.objects.filter(first__archived_at__isnull=True, second__archived_at__isnull=True)
    pairs = list(
        both.order_by("because", "first_id", "second_id").values_list("first_id", "second_id", "because")[:MOST]
    )
    wanted = {pk for first, second, _ in pairs for pk in (first, second)}
    found = Heater.objects.filter(pk__in=wanted)
    visits = dict(found.order_by().annotate(number=Count("visits")).values_list("pk", "number"))
    heaters = {heater.pk: _short(heater, visits[heater.pk]) for heater in found.select_related("site")}
    return [{"first": heaters[a], "second": heaters[b], "because": why} for a, b, why in pairs]


def renew(ids: Collection[int] | None = None) -> None:
    """Look for pairs anew: among all heaters, or those of some heaters, which is a matter of milliseconds."""
    in_service = Heater.objects.in_service()
    own = in_service if ids is None else in_service.filter(pk__in=ids)
    # Of all heaters, only values that more than one of them has need a closer look.
    least = 2 if ids is None else 1
    serials = own.exclude(serial="").order_by().values("serial").annotate(n=Count("pk")).filter(n__gte=least)
    sites = own.order_by().values("site_id").annotate(n=Count("pk")).filter(n__gte=least)
    found: dict[tuple[int, int], str] = {}
    # What stands alone under its serial, or at its site, is told by an index; only the others are looked at closely.
    for alike, fields, why in (
        (in_service.filter(serial__in=serials.values("serial")), ("serial", "make"), _SAME_SERIAL),
        (
            in_service.filter(site__in=sites.values("site_id"), bank="").exclude(location=""),
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


def _short(heater: Heater, visits: int) -> SuspectOut:
    return {
        "id": heater.pk,
        "tag": heater.tag,
        "kind": HeaterKind(heater.kind),
        "site": heater.site.name,
        "street": heater.site.street,
        "location": heater.location,
        "serial": heater.serial,
        "installed_on": heater.installed_on,
        "visits": visits,
    }


@retried
def merge(kept_id: int, other_id: int) -> Heater:
    """One heater of two: visits, findings, parts that were taken out, features and open ends of the other go to the
    kept one; what the kept one does not know is taken over; the other is archived and says what became of it.

    Raises: Invalid for two of different kinds, Conflict if both are one, NotFound.
    """
    if kept_id == other_id:
        raise Conflict("These are the same heater already.")
    with transaction.atomic():
        # In one order, so that two who make the same ones one wait for each other.
        heaters = Heater.objects.select_for_update().in_service().filter(pk__in=[kept_id, other_id]).order_by("pk")
        both = {heater.pk: heater for heater in heaters}
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
        other.ended_on, other.end_cause, other.successor = timezone.localdate(), EndCause.MERGED, kept
        _move(kept, other)
        kept.details = {**other.details, **kept.details}
        kept.save()
        other.save()
        changed.out_of_service([other.pk], timezone.now())
    return kept


_FILLED = (
    "location", "maker", "model", "serial", "installed_on", "capacity_l", "setpoint_c", "input_kw", "height_mm",
    "diameter_mm", "drain_port_height_mm", "probe_height_mm", "lower_element_height_mm", "exchanger_area_m2",
    "boiler", "control_setting", "supply_volts", "ignition", "vent", "dip_tube", "anode_port", "bank",
)  # fmt: skip


@dataclass(frozen=True)
class Merge:
    """What becomes one, for whoever keeps rows of a heater."""

    kept: Heater
    other: Heater
    same_parts: dict[int, Part]
    """Parts of the other that are a part of the kept one: both said what is in place."""


_MOVES: list[Callable[[Merge], None]] = []


def moved_by(move: Callable[[Merge], None]) -> None:
    """Register how an application's rows go over to the kept heater; each does so in its ``apps.py``."""
    _MOVES.append(move)


def _move_left_as(kept: Heater, other: Heater) -> None:
    """What is off stays off: of two that say how the heater was left the one that says off counts, else the newer."""
    left = list(LeftAs.objects.filter(heater__in=[kept, other]).order_by("off", "at"))
    if left:
        LeftAs.objects.filter(heater__in=[left_as.heater_id for left_as in left[:-1]]).delete()
        LeftAs.objects.filter(heater=left[-1].heater_id).update(heater=kept)


def _move(kept: Heater, other: Heater) -> None:
    in_place = {part.kind: part for part in Part.objects.filter(heater=kept, removed_on__isnull=True)}
    parts = list(Part.objects.filter(heater=other))
    same = {part.pk: in_place[part.kind] for part in parts if part.removed_on is None and part.kind in in_place}
    _move_left_as(kept, other)
    for move in _MOVES:
        move(Merge(kept, other, same))
    for part in parts:
        if part.pk in same:
            part.delete()
            continue
        part.heater = kept
        part.save()

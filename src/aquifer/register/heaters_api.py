import datetime
from urllib.parse import quote

from django.db.models import Q, QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Query, Router, Status

from aquifer import changed
from aquifer.accounts.access import Action, allowed, who
from aquifer.accounts.pace import dear
from aquifer.company.models import Company
from aquifer.core import details, equipment, successor
from aquifer.core.kinds import HeaterKind
from aquifer.core.place import FEATURES, FeatureGroup
from aquifer.core.units import System, worded
from aquifer.core.vocabulary import EndCause, FlushHistory
from aquifer.errors import Invalid, NotFound
from aquifer.heaters import bulk, duplicates, edit, labels, schemas, serials
from aquifer.heaters.models import Heater, InstallCertainty, Part, PartKind
from aquifer.history.versions import versions
from aquifer.money import warranty
from aquifer.open_ends.models import WORST_FIRST, OpenEnd, OpenEndState
from aquifer.places.hazards import of_sites
from aquifer.places.models import Feature
from aquifer.register import finder
from aquifer.register.rows import next_dates, register_rows
from aquifer.register.schemas import FoundOut, HeaterOut
from aquifer.register.site_page import features_out, open_ends_out, site_out
from aquifer.visits.words import units_shown
from aquifer.wire import DetailOut, Id, Limit, Offset, Words

router = Router(tags=["heaters"])


@router.get("/heaters", response=schemas.HeaterPageOut, auth=allowed(Action.READ))
def heaters(
    request: HttpRequest,
    filters: Query[schemas.HeaterFilters],
    offset: Offset = 0,
    limit: Limit = 100,
) -> schemas.HeaterPageOut:
    """Heaters by site and tag, with where each stands: those in service, unless the archive is asked for."""
    heaters = chosen(filters)
    return {"total": heaters.count(), "rows": register_rows(heaters.order_by("words", "pk")[offset : offset + limit])}


@router.get("/find", response=FoundOut, auth=allowed(Action.READ))
def find(request: HttpRequest, q: Words) -> FoundOut:
    """Whatever the words mean: heaters, sites, customers, zones; typing errors are forgiven."""
    return finder.find(q) if q.strip() else {"exact": True, "heaters": [], "places": []}


@router.post("/heaters/bulk/preview", response=schemas.PreviewOut, auth=allowed(Action.EDIT_REGISTER))
def bulk_preview(request: HttpRequest, payload: schemas.BulkIn) -> bulk.Preview:
    """What setting a field for all of a sentence would do; nothing is written."""
    return bulk.preview(chosen(payload.filters), payload.field, payload.value)


@router.post("/heaters/bulk", response=schemas.ChangedOut, auth=allowed(Action.EDIT_REGISTER))
def bulk_change(request: HttpRequest, payload: schemas.BulkChangeIn) -> schemas.ChangedOut:
    """Do it, if it changes as many as were shown."""
    by = who(request)
    ids = bulk.change(chosen(payload.filters), payload.field, payload.value, payload.expected, by)
    changed.heaters(ids)
    return {"changed": len(ids)}


@router.get("/duplicates", response=list[schemas.SuspectedOut], auth=allowed(Action.READ))
def suspected(request: HttpRequest) -> list[schemas.SuspectedOut]:
    """Heaters that may be on record twice."""
    return duplicates.suspected()


@router.post("/heaters/{heater_id}/merge", response=HeaterOut, auth=allowed(Action.EDIT_REGISTER))
def merge(request: HttpRequest, heater_id: Id, payload: schemas.MergeIn) -> HeaterOut:
    """Make one heater of two: the other's past becomes this one's."""
    duplicates.merge(heater_id, payload.other_id)
    changed.heaters([heater_id])
    return _whole(heater_id)


@router.get("/labels.pdf", response={200: None}, auth=allowed(Action.READ), throttle=dear("paper"))
def labels_of(request: HttpRequest, filters: Query[schemas.HeaterFilters]) -> HttpResponse:
    """Labels for the heaters of a sentence, on sheets to print."""
    found = list(chosen(filters).order_by("words", "pk").values_list("pk", "tag", "kind")[: labels.MOST + 1])
    if not found:
        raise Invalid("No heater fits these words: there is nothing to print.", "labels.none")
    if len(found) > labels.MOST:
        raise Invalid(f"These are more than {labels.MOST} labels; choose a zone, a kind or some words.", "labels.many")
    company = Company.current()
    today, comes = timezone.localdate(), next_dates([pk for pk, _, _ in found])
    made = [
        labels.Label(
            tag,
            HeaterKind(kind).value.replace("_", " "),
            request.build_absolute_uri(f"/t/{quote(tag)}"),
            f"next look {comes[pk]:%B %Y}" if comes.get(pk, today) > today else "",
        )
        for pk, tag, kind in found
    ]
    answer = HttpResponse(
        labels.sheet(made, company.name, System(company.units), company.phone), content_type="application/pdf"
    )
    answer["Content-Disposition"] = 'inline; filename="labels.pdf"'
    return answer


@router.get("/tags", response=schemas.TaggedOut, auth=allowed(Action.READ))
def tagged(request: HttpRequest, tag: Words) -> schemas.TaggedOut:
    """Which heater has this tag: what a scanned or typed label opens."""
    heater = Heater.objects.filter(tag__iexact=tag.strip()).order_by("archived_at", "pk").first()
    if heater is None:
        raise NotFound(f"No heater has the tag {tag.strip()[:40]}. Look at the label again, or find it by its street.")
    return {"id": heater.pk}


@router.get("/heaters/{heater_id}", response=HeaterOut, auth=allowed(Action.READ))
def heater(request: HttpRequest, heater_id: Id) -> HeaterOut:
    return _whole(heater_id)


@router.post("/heaters", response={201: HeaterOut}, auth=allowed(Action.EDIT_REGISTER))
def add(request: HttpRequest, payload: schemas.HeaterIn) -> Status[HeaterOut]:
    made = edit.add_heater(payload, timezone.localdate())
    duplicates.renew([made.pk])
    changed.heaters([made.pk])
    return Status(201, _whole(made.pk))


@router.patch("/heaters/{heater_id}", response=HeaterOut, auth=allowed(Action.EDIT_REGISTER))
def change(request: HttpRequest, heater_id: Id, payload: schemas.HeaterPatch) -> HeaterOut:
    edit.change_heater(heater_id, payload, timezone.localdate())
    duplicates.renew([heater_id])
    changed.heaters([heater_id])
    return _whole(heater_id)


@router.post("/heaters/{heater_id}/archive", response=HeaterOut, auth=allowed(Action.EDIT_REGISTER))
def archive(request: HttpRequest, heater_id: Id, payload: schemas.EndIn | None = None) -> HeaterOut:
    """Take it out of service; nothing of it is lost."""
    edit.archive(heater_id, timezone.now(), payload)
    return _whole(heater_id)


@router.post("/heaters/{heater_id}/restore", response=HeaterOut, auth=allowed(Action.EDIT_REGISTER))
def restore(request: HttpRequest, heater_id: Id) -> HeaterOut:
    edit.restore(heater_id)
    changed.heaters([heater_id])
    return _whole(heater_id)


@router.post("/heaters/{heater_id}/parts", response={201: HeaterOut}, auth=allowed(Action.EDIT_REGISTER))
def fit_part(request: HttpRequest, heater_id: Id, payload: schemas.FitIn) -> Status[HeaterOut]:
    """Put a part on record that was fitted; the one it replaced stays in the history."""
    edit.fit_part(heater_id, payload, timezone.localdate())
    changed.heaters([heater_id])
    return Status(201, _whole(heater_id))


@router.patch("/parts/{part_id}", response=HeaterOut, auth=allowed(Action.EDIT_REGISTER))
def change_part(request: HttpRequest, part_id: Id, payload: schemas.PartPatch) -> HeaterOut:
    part = edit.change_part(part_id, payload, timezone.localdate())
    changed.heaters([part.heater_id])
    return _whole(part.heater_id)


@router.get("/equipment", response=list[schemas.EquipmentOut], auth=allowed(Action.READ))
def asked_of_kinds(request: HttpRequest) -> list[schemas.EquipmentOut]:
    """Which figures and parts matter to each kind of heater, and what is taken for figures that nobody has read."""
    return [
        {
            "kind": kind,
            "is_tank": kind.is_tank,
            "fields": equipment.fields_of(kind),
            "parts": equipment.parts_of(kind),
            "assumed": equipment.assumed(kind, None),
            "details": _told(details.of_heater(kind)),
            "part_details": {part: _told(details.of_part(part)) for part in equipment.parts_of(kind)},
        }
        for kind in HeaterKind
    ]


def _told(known: tuple[details.Detail, ...]) -> list[DetailOut]:
    return [DetailOut.from_orm(detail) for detail in known]


def _unlike(heater: Heater, parts: list[Part]) -> list[str]:
    """Where a heater is not like the one whose successor it is."""
    old = heater.predecessors.exclude(end_cause=EndCause.MERGED).order_by("-ended_on", "-pk").first()
    if old is None:
        return []
    valve = next((part for part in parts if part.kind == PartKind.RELIEF_VALVE and part.removed_on is None), None)
    said = successor.differences(_body(old), _body(heater), valve.rating_kw if valve else None)
    return [worded(line, units_shown()) for line in said]


def _body(heater: Heater) -> successor.Body:
    return successor.Body(
        HeaterKind(heater.kind), heater.capacity_l, heater.input_kw, heater.supply_volts, heater.height_mm,
        heater.diameter_mm, heater.vent,
    )  # fmt: skip


@router.get("/serial-patterns", response=list[schemas.SerialPatternOut], auth=allowed(Action.READ))
def serial_patterns(request: HttpRequest) -> list[schemas.SerialPatternOut]:
    """What was taught of makers' serials."""
    return serials.taught()


@router.put("/serial-patterns", response=schemas.SerialPatternOut, auth=allowed(Action.EDIT_REGISTER))
def teach_serial(request: HttpRequest, payload: schemas.SerialPatternIn) -> schemas.SerialPatternOut:
    """Where a maker's serials tell their date; every heater of that maker shows it from now on."""
    return serials.teach(payload)


def chosen(filters: schemas.HeaterFilters) -> "QuerySet[Heater]":
    """The heaters that a sentence of the register is about."""
    heaters = Heater.objects.filter(archived_at__isnull=False) if filters.archived else Heater.objects.in_service()
    heaters = heaters.matching(filters.q)
    if filters.zone_id is not None:
        heaters = heaters.filter(site__zone_id=filters.zone_id)
    if filters.kind is not None:
        heaters = heaters.filter(kind=filters.kind)
    if filters.guessed:
        unsure = ~Q(install_certainty=InstallCertainty.KNOWN) | Q(installed_on__isnull=True)
        heaters = heaters.filter(unsure | ~Q(flush_history=FlushHistory.RECORDED))
    return heaters


def _whole(heater_id: int) -> HeaterOut:
    found = get_object_or_404(Heater.objects.select_related("site__customer", "site__zone", "successor"), pk=heater_id)
    parts = list(Part.objects.filter(heater=found).order_by("kind", "-fitted_on", "-pk"))
    features = Feature.objects.filter(site=found.site, gone=False)
    own_or_site = features_out([one for one in features if one.heater_id in (None, found.pk)])
    known, ours = versions(Part, [part.pk for part in parts]), warranty.until(parts)
    open_ends = OpenEnd.objects.filter(site=found.site_id).exclude(state=OpenEndState.CLOSED)
    order = {feature.kind: at for at, feature in enumerate(FEATURES)}
    others = Heater.objects.in_service().filter(site=found.site_id).exclude(pk=found.pk).order_by("bank", "tag")
    return {
        "id": found.pk,
        "tag": found.tag,
        "location": found.location,
        "maker": found.maker,
        "model": found.model,
        "serial": found.serial,
        "installed_on": found.installed_on,
        "capacity_l": found.capacity_l,
        "setpoint_c": found.setpoint_c,
        "input_kw": found.input_kw,
        "height_mm": found.height_mm,
        "diameter_mm": found.diameter_mm,
        "drain_port_height_mm": found.drain_port_height_mm,
        "probe_height_mm": found.probe_height_mm,
        "lower_element_height_mm": found.lower_element_height_mm,
        "exchanger_area_m2": found.exchanger_area_m2,
        "burner_hours_per_day": found.burner_hours_per_day,
        "recirculated": found.recirculated,
        "install_margin_years": found.install_margin_years,
        "last_flush_year": found.last_flush_year,
        "boiler": found.boiler,
        "control_setting": found.control_setting,
        "supply_volts": found.supply_volts,
        "dip_tube": found.dip_tube,
        "anode_port": found.anode_port,
        "bank": found.bank,
        "practice": found.practice,
        "ignition": found.ignition,
        "vent": found.vent,
        "note": found.note,
        "details": found.details,
        "version": found.version,
        "ended_on": found.ended_on,
        "end_cause": found.end_cause,
        "end_note": found.end_note,
        "end_weight_kg": found.end_weight_kg,
        "kind": HeaterKind(found.kind),
        "install_certainty": InstallCertainty(found.install_certainty),
        "flush_history": FlushHistory(found.flush_history),
        "successor": _other(found.successor) if found.successor else None,
        "is_tank": HeaterKind(found.kind).is_tank,
        "archived": found.archived_at is not None,
        "unlike": _unlike(found, parts),
        "guessed": found.guessed(),
        "made": serials.made(found, timezone.localdate()),
        "assumed": equipment.assumed(HeaterKind(found.kind), found.capacity_l),
        "site": site_out(found.site, of_sites([found.site], [found.pk])[found.site_id]),
        "shut_offs": sorted(
            (one for one in own_or_site if one["group"] == FeatureGroup.SHUT_OFF), key=lambda one: order[one["kind"]]
        ),
        "open_ends": open_ends_out(open_ends.filter(Q(heater=found) | Q(heater__isnull=True)).order_by(*WORST_FIRST)),
        "can_have": equipment.parts_of(HeaterKind(found.kind)),
        "can_measure": equipment.measured_of(HeaterKind(found.kind)),
        "parts": [_part(part, known.get(part.pk, 0), ours.get(part.pk)) for part in parts if part.removed_on is None],
        "past_parts": [_part(part, known.get(part.pk, 0), None) for part in parts if part.removed_on is not None],
        "others": [_other(heater) for heater in others],
    }


def _part(part: Part, version: int, warranty_until: datetime.date | None) -> schemas.PartOut:
    return {
        "version": version,
        "kind": PartKind(part.kind),
        "id": part.pk,
        "alloy": part.alloy,
        "diameter_mm": part.diameter_mm,
        "length_mm": part.length_mm,
        "count": part.count,
        "fitted_on": part.fitted_on,
        "removed_on": part.removed_on,
        "set_pressure_kpa": part.set_pressure_kpa,
        "set_temperature_c": part.set_temperature_c,
        "probe_length_mm": part.probe_length_mm,
        "rating_kw": part.rating_kw,
        "volume_l": part.volume_l,
        "precharge_kpa": part.precharge_kpa,
        "build": part.build,
        "why_removed": part.why_removed,
        "details": part.details,
        "warranty_until": warranty_until,
    }


def _other(heater: Heater) -> schemas.OtherHeaterOut:
    return {
        "id": heater.pk,
        "tag": heater.tag,
        "kind": HeaterKind(heater.kind),
        "location": heater.location,
        "bank": heater.bank,
    }

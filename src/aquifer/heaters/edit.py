"""Adding and editing a heater: one transaction, the forecast moved with it, and no edit lost to another."""

import datetime
from collections.abc import Mapping

from django.db import IntegrityError, transaction
from django.utils import timezone

from aquifer import changed
from aquifer.core import details
from aquifer.core.details import Detail
from aquifer.core.equipment import parts_of
from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import FlushHistory
from aquifer.customers.models import Site
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.heaters.schemas import EndIn, FitIn, HeaterFields, HeaterIn, HeaterPatch, PartIn, PartPatch
from aquifer.history import versions

_PART_FIELDS = tuple(name for name in PartIn.model_fields)
_WORDS = ("practice", "ignition", "vent")
"""Fields that are empty where nobody has said."""
_OTHER = ("anode", "relief_valve", "details", *_WORDS)
_OWN_FIELDS = tuple(name for name in HeaterFields.model_fields if name not in _OTHER)


def add_heater(payload: HeaterIn, today: datetime.date) -> Heater:
    """A new heater with its parts. Raises: Invalid or Conflict, naming the field."""
    _check(payload, today)
    with transaction.atomic():
        heater = Heater(**{name: getattr(payload, name) for name in _OWN_FIELDS}, **_words(payload))
        heater.details = payload.details or {}
        _save(heater)
        _set_part(heater, PartKind.ANODE, payload.anode)
        _set_part(heater, PartKind.RELIEF_VALVE, payload.relief_valve)
    return heater


def change_heater(heater_id: int, payload: HeaterPatch, today: datetime.date) -> Heater:
    """Change a heater, if nobody has since the version that the edit started from.

    Raises: Conflict with the code ``heater.changed_meanwhile``; nothing is written then.
    """
    _check(payload, today)
    with transaction.atomic():
        heater = Heater.objects.select_for_update().in_service().filter(pk=heater_id).first()
        if heater is None:
            raise NotFound("There is no such heater, or it was archived.")
        if heater.version != payload.version:
            raise Conflict(
                f"{heater.tag} was changed by somebody else since you opened it. Your entries are kept here: "
                "look at what is on record now, then save again.",
                "heater.changed_meanwhile",
                {"version": str(heater.version)},
            )
        # Whoever says another kind than was guessed has seen it.
        heater.kind_seen = heater.kind_seen or payload.kind != heater.kind
        for name in _OWN_FIELDS:
            setattr(heater, name, getattr(payload, name))
        for name, word in _words(payload).items():
            setattr(heater, name, word)
        heater.details = heater.details if payload.details is None else payload.details
        heater.version += 1
        _save(heater)
        _set_part(heater, PartKind.ANODE, payload.anode)
        _set_part(heater, PartKind.RELIEF_VALVE, payload.relief_valve)
    return heater


def _words(payload: HeaterFields) -> dict[str, str]:
    return {name: getattr(payload, name) or "" for name in _WORDS}


def fit_part(heater_id: int, payload: FitIn, today: datetime.date) -> Part:
    """A part fitted; the one of its kind that was in place is given its last day and why it went. Raises: Invalid."""
    with transaction.atomic():
        heater = _in_service(heater_id)
        if payload.kind not in parts_of(HeaterKind(heater.kind)):
            allowed = ", ".join(parts_of(HeaterKind(heater.kind)))
            raise Invalid(
                f"This kind of heater has no such part; it can have: {allowed}.", fields={"kind": "no such part"}
            )
        _check_fitted(heater, payload.fitted_on, today)
        check_details(details.of_part(payload.kind), payload.details)
        old = Part.objects.select_for_update().filter(heater=heater, kind=payload.kind, removed_on=None).first()
        if old:
            if old.fitted_on and old.fitted_on > payload.fitted_on:
                raise Invalid(
                    f"The one in place was fitted on {old.fitted_on}; the new one cannot be older.",
                    fields={"fitted_on": f"before {old.fitted_on}"},
                )
            old.removed_on, old.why_removed = payload.fitted_on, payload.why
            old.save()
        made = Part.objects.create(heater=heater, kind=payload.kind, **_part_values(payload))
        _moved(heater)
    return made


def change_part(part_id: int, payload: PartPatch, today: datetime.date) -> Part:
    """What is known of a part in place, put right. Raises: NotFound, Invalid."""
    with transaction.atomic():
        part = Part.objects.select_for_update().filter(pk=part_id, removed_on__isnull=True).first()
        if part is None:
            raise NotFound("There is no such part, or it was taken out.")
        versions.check(part, payload.version)
        heater = _in_service(part.heater_id)
        if payload.fitted_on is not None:
            _check_fitted(heater, payload.fitted_on, today)
        check_details(details.of_part(part.kind), payload.details)
        # Only what was said: a form that does not ask for a figure must not take it away.
        for name, value in _part_values(payload).items():
            if name in payload.model_fields_set:
                setattr(part, name, value)
        part.save()
        _moved(heater)
    return part


def archive(heater_id: int, when: datetime.datetime, end: EndIn | None = None) -> Heater:
    """Out of service: it is planned and forecast no more, and everything of it is kept.

    Parameters: end, why and when it went, as far as anybody says.
    """
    with transaction.atomic():
        heater = _in_service(heater_id)
        heater.archived_at = when
        if end is not None:
            _end(heater, end, timezone.localdate(when))
        heater.version += 1
        heater.save()
        changed.out_of_service([heater.pk], when)
    return heater


def _end(heater: Heater, end: EndIn, today: datetime.date) -> None:
    if end.on > today:
        raise Invalid(f"It ends on {end.on}; that is after today.", fields={"on": f"not after {today}"})
    if heater.installed_on and end.on < heater.installed_on:
        raise Invalid(
            f"It ends on {end.on}, before it was installed.", fields={"on": f"not before {heater.installed_on}"}
        )
    if end.successor_tag:
        heater.successor = Heater.objects.in_service().filter(tag__iexact=end.successor_tag).first()
        if heater.successor is None or heater.successor.pk == heater.pk:
            raise Invalid(
                f"There is no other heater {end.successor_tag!r}.", fields={"successor_tag": "no such heater"}
            )
    heater.ended_on, heater.end_cause = end.on, end.cause
    heater.end_note, heater.end_weight_kg = end.note, end.weight_kg


def restore(heater_id: int) -> Heater:
    """Back in service."""
    with transaction.atomic():
        heater = Heater.objects.select_for_update().filter(pk=heater_id, archived_at__isnull=False).first()
        if heater is None:
            raise NotFound("There is no such heater in the archive.")
        heater.archived_at = None
        heater.ended_on, heater.end_cause, heater.end_note, heater.end_weight_kg = None, "", "", None
        heater.successor = None
        heater.version += 1
        heater.save()
    return heater


def _in_service(heater_id: int) -> Heater:
    heater = Heater.objects.select_for_update().in_service().filter(pk=heater_id).first()
    if heater is None:
        raise NotFound("There is no such heater, or it was archived.")
    return heater


def _moved(heater: Heater) -> None:
    """An edit that somebody has open must notice, and so must the forecast."""
    heater.version += 1
    heater.save()


def _check_fitted(heater: Heater, on: datetime.date, today: datetime.date) -> None:
    if on > today or (heater.installed_on and on < heater.installed_on):
        raise Invalid(
            f"{on} is not between the heater's installation and today.", fields={"fitted_on": "out of its life"}
        )


def _part_values(payload: PartIn) -> dict[str, object]:
    values: dict[str, object] = {name: getattr(payload, name) for name in _PART_FIELDS}
    return values | {"alloy": payload.alloy or "", "details": payload.details or {}}


def check_details(known: tuple[Detail, ...], told: Mapping[str, details.Value] | None) -> None:
    """What else is told of a thing, against what can be told of it. Raises: Invalid naming each that cannot be so."""
    if wrong := details.refused(known, told or {}):
        said = "; ".join(f"{name}: {why}" for name, why in wrong.items())
        raise Invalid(f"Not saved. {said}", "details.invalid", {f"details.{name}": why for name, why in wrong.items()})


def _check(payload: HeaterFields, today: datetime.date) -> None:
    wrong: dict[str, str] = {}
    check_details(details.of_heater(HeaterKind(payload.kind)), payload.details)
    if not Site.objects.filter(pk=payload.site_id).exists():
        wrong["site_id"] = "no such site"
    if payload.flush_history == FlushHistory.ABOUT and payload.last_flush_year is None:
        wrong["last_flush_year"] = "say about which year"
    if payload.last_flush_year is not None and payload.last_flush_year > today.year:
        wrong["last_flush_year"] = f"{payload.last_flush_year} has not been yet"
    if payload.installed_on is not None and not datetime.date(1950, 1, 1) <= payload.installed_on <= today:
        wrong["installed_on"] = f"{payload.installed_on} is not between 1950-01-01 and today"
    for name in ("anode", "relief_valve"):
        part: PartIn | None = getattr(payload, name)
        if part is None or part.fitted_on is None:
            continue
        if part.fitted_on > today or (payload.installed_on and part.fitted_on < payload.installed_on):
            wrong[f"{name}.fitted_on"] = f"{part.fitted_on} is not between the heater's installation and today"
    if wrong:
        raise Invalid("Not saved. " + "; ".join(f"{k}: {v}" for k, v in wrong.items()), "heater.invalid", wrong)


def _save(heater: Heater) -> None:
    try:
        with transaction.atomic():
            heater.save()
    except IntegrityError as error:
        if "heaters_heater_tag" in str(error):
            message = f"The tag {heater.tag} is taken by another heater; choose one that is free."
            raise Conflict(message, "heater.tag_taken", {"tag": "taken by another heater"}) from None
        raise


def _set_part(heater: Heater, kind: PartKind, part: PartIn | None) -> None:
    """What is in place now; a change of part in the work's course is a visit's finding, not an edit."""
    if part is None:
        return
    # Only what was said: a form that does not ask for a rating must not take it away.
    said = {name: value for name, value in _part_values(part).items() if name in part.model_fields_set}
    Part.objects.update_or_create(heater=heater, kind=kind, removed_on=None, defaults=said)

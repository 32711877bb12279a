"""Adding and editing a heater: one transaction, the forecast moved with it, and no edit lost to another."""

import datetime
import secrets

from django.db import IntegrityError, transaction

from aquifer.customers.models import Customer, Site
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.heaters.schemas import HeaterFields, HeaterIn, HeaterPatch, PartIn, SiteIn
from aquifer.water.models import Zone

_PART_FIELDS = ("alloy", "diameter_mm", "length_mm", "count", "fitted_on")
_OWN_FIELDS = tuple(name for name in HeaterFields.model_fields if name not in ("anode", "relief_valve", "practice"))


def add_heater(payload: HeaterIn, today: datetime.date) -> Heater:
    """A new heater with its parts. Raises: Invalid or Conflict, naming the field."""
    _check(payload, today)
    with transaction.atomic():
        heater = Heater(**{name: getattr(payload, name) for name in _OWN_FIELDS}, practice=payload.practice or "")
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
        for name in _OWN_FIELDS:
            setattr(heater, name, getattr(payload, name))
        heater.practice = payload.practice or ""
        heater.version += 1
        _save(heater)
        _set_part(heater, PartKind.ANODE, payload.anode)
        _set_part(heater, PartKind.RELIEF_VALVE, payload.relief_valve)
    return heater


def add_site(payload: SiteIn) -> Site:
    """A new site, with its customer if there is none of that name."""
    if not Zone.objects.filter(pk=payload.zone_id).exists():
        raise Invalid("There is no such zone.", "site.zone", {"zone_id": "no such zone"})
    with transaction.atomic():
        name = payload.customer_name or payload.name
        customer = Customer.objects.filter(name__iexact=name).order_by("pk").first()
        if customer is None:
            customer = Customer.objects.create(code=_code("C"), name=name)
        fields = payload.model_dump(exclude={"customer_name"})
        return Site.objects.create(code=_code("S"), customer=customer, **fields)


def _code(prefix: str) -> str:
    return f"{prefix}-{secrets.token_hex(4).upper()}"


def _check(payload: HeaterFields, today: datetime.date) -> None:
    wrong: dict[str, str] = {}
    if not Site.objects.filter(pk=payload.site_id).exists():
        wrong["site_id"] = "no such site"
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
    values = {name: getattr(part, name) for name in _PART_FIELDS}
    values["alloy"] = part.alloy or ""
    Part.objects.update_or_create(heater=heater, kind=kind, removed_on=None, defaults=values)

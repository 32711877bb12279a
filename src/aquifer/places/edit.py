"""Adding and editing a site."""

import datetime
import secrets

from django.db import transaction

from aquifer.core import details
from aquifer.customers.models import Customer, Site
from aquifer.errors import Invalid, NotFound
from aquifer.heaters.edit import check_details
from aquifer.history import versions
from aquifer.places.schemas import SiteFields, SiteIn, SitePatch
from aquifer.water.models import Zone


def add_site(payload: SiteIn) -> Site:
    """A new site, with its customer if there is none of that name."""
    _check(payload)
    with transaction.atomic():
        name = payload.customer_name or payload.name
        customer = Customer.objects.filter(name__iexact=name).order_by("pk").first()
        if customer is None:
            customer = Customer.objects.create(code=_code("C"), name=name)
        return Site.objects.create(code=_code("S"), customer=customer, **_values(payload))


def change_site(site_id: int, payload: SitePatch, today: datetime.date) -> Site:
    """What is known of a site now."""
    _check(payload)
    with transaction.atomic():
        site = Site.objects.select_for_update().filter(pk=site_id, archived_at__isnull=True).first()
        if site is None:
            raise NotFound("There is no such site, or it was archived.")
        versions.check(site, payload.version)
        values = _values(payload)
        if payload.details is None:
            del values["details"]
        if _is_retyped(payload.static_pressure_kpa, site.static_pressure_kpa):
            values["static_pressure_kpa"] = site.static_pressure_kpa
        else:
            site.pressure_on, site.pressure_measured = today, False
        for name, value in values.items():
            setattr(site, name, value)
        site.save()
    return site


RETYPED_KPA = 0.5
"""A figure that a form showed to a tenth of its unit comes back off by so much at most: 0.05 psi are 0.34 kPa."""


def _is_retyped(told_kpa: float | None, known_kpa: float | None) -> bool:
    """Whether a pressure is the one that was known, as a form sends it back untouched."""
    if told_kpa is None or known_kpa is None:
        return told_kpa is known_kpa
    return abs(told_kpa - known_kpa) <= RETYPED_KPA


def _values(payload: SiteFields) -> dict[str, object]:
    values = payload.model_dump(exclude={"customer_name", "version"})
    values["details"] = payload.details or {}
    return {**values, "business": values["business"] or "", "practice": values["practice"] or ""}


def _check(payload: SiteFields) -> None:
    if not Zone.objects.filter(pk=payload.zone_id).exists():
        raise Invalid("There is no such zone.", "site.zone", {"zone_id": "no such zone"})
    check_details(details.OF_SITE, payload.details)


def _code(prefix: str) -> str:
    return f"{prefix}-{secrets.token_hex(4).upper()}"

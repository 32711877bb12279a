"""Adding and editing a site."""

import secrets

from django.db import transaction

from aquifer.customers.models import Customer, Site
from aquifer.errors import Invalid, NotFound
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


def change_site(site_id: int, payload: SitePatch) -> Site:
    """What is known of a site now."""
    _check(payload)
    with transaction.atomic():
        site = Site.objects.select_for_update().filter(pk=site_id, archived_at__isnull=True).first()
        if site is None:
            raise NotFound("There is no such site, or it was archived.")
        versions.check(site, payload.version)
        for name, value in _values(payload).items():
            setattr(site, name, value)
        site.save()
    return site


def _values(payload: SiteFields) -> dict[str, object]:
    values = payload.model_dump(exclude={"customer_name", "version"})
    return {**values, "business": values["business"] or "", "practice": values["practice"] or ""}


def _check(payload: SiteFields) -> None:
    if not Zone.objects.filter(pk=payload.zone_id).exists():
        raise Invalid("There is no such zone.", "site.zone", {"zone_id": "no such zone"})


def _code(prefix: str) -> str:
    return f"{prefix}-{secrets.token_hex(4).upper()}"

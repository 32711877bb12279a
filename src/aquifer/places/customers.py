"""Who is served: their name and how they are reached, and a site that goes to somebody else."""

import secrets

from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import transaction

from aquifer.customers.models import Customer, Site
from aquifer.errors import Invalid, NotFound
from aquifer.history import versions
from aquifer.places.schemas import CustomerFields, CustomerPatch


def change(customer_id: int, payload: CustomerPatch) -> Customer:
    """What is known of a customer now. Raises: NotFound, Conflict, Invalid naming the field."""
    _check(payload)
    with transaction.atomic():
        customer = Customer.objects.select_for_update().filter(pk=customer_id, archived_at__isnull=True).first()
        if customer is None:
            raise NotFound("There is no such customer, or it was archived.")
        versions.check(customer, payload.version)
        for name, value in payload.model_dump(exclude={"version"}).items():
            setattr(customer, name, value)
        customer.save()
    return customer


def hand_over(site_id: int, payload: CustomerFields) -> Site:
    """A site goes to a new customer: it was sold, or others moved in. Who was there keeps what was written to them.

    Raises: NotFound, Invalid naming the field.
    """
    _check(payload)
    with transaction.atomic():
        site = Site.objects.select_for_update().filter(pk=site_id, archived_at__isnull=True).first()
        if site is None:
            raise NotFound("There is no such site, or it was archived.")
        site.customer = Customer.objects.create(code=f"C-{secrets.token_hex(4).upper()}", **payload.model_dump())
        site.save()
    return site


def _check(payload: CustomerFields | CustomerPatch) -> None:
    if not payload.email:
        return
    try:
        validate_email(payload.email)
    except ValidationError:
        said = f"{payload.email} is no e-mail address."
        raise Invalid(said, "customer.email", {"email": "no e-mail address"}) from None

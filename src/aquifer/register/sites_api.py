"""Sites, and what stands around their heaters."""

from typing import Annotated

from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Router, Status
from pydantic import Field

from aquifer import changed
from aquifer.accounts.access import Action, allowed, who
from aquifer.core import details
from aquifer.core.place import FEATURES
from aquifer.customers.models import Customer, Site
from aquifer.errors import Conflict, Invalid
from aquifer.heaters.models import Heater
from aquifer.history.versions import version_of, versions
from aquifer.places import customers, edit, keep, locating, schemas
from aquifer.places.hazards import of_sites
from aquifer.register import site_page
from aquifer.rounds import promise
from aquifer.travel.finding import NotAnswered
from aquifer.travel.service import Point
from aquifer.wire import DetailOut, Id, Words

router = Router(tags=["places"])


@router.get("/features", response=list[schemas.FeatureSpecOut], auth=allowed(Action.READ))
def feature_kinds(request: HttpRequest) -> list[schemas.FeatureSpecOut]:
    """What can be recorded of a place: each feature with its forms and conditions."""
    return [
        {
            "kind": feature.kind,
            "group": feature.group,
            "name": feature.name,
            "forms": list(feature.forms),
            "conditions": [schemas.ConditionOut.from_orm(condition) for condition in feature.conditions],
            "of": sorted(feature.of),
            "of_site": feature.of_site,
            "is_valve": feature.is_valve,
            "details": [DetailOut.from_orm(detail) for detail in details.of_feature(feature.kind)],
        }
        for feature in FEATURES
    ]


@router.get("/site-details", response=list[DetailOut], auth=allowed(Action.READ))
def site_details(request: HttpRequest) -> tuple[details.Detail, ...]:
    """What else can be told of a site."""
    return details.OF_SITE


@router.get("/sites", response=list[schemas.SiteOut], auth=allowed(Action.READ))
def sites(
    request: HttpRequest, q: Words = "", limit: Annotated[int, Field(ge=1, le=100)] = 20
) -> list[schemas.SiteOut]:
    sites = Site.objects.filter(archived_at__isnull=True).select_related("customer", "zone").order_by("name")
    for word in q.lower().split()[:8]:
        sites = sites.filter(words__contains=word)
    page = list(sites[:limit])
    hazards = of_sites(page)
    known = versions(Site, [site.pk for site in page])
    return [site_page.site_out(site, hazards[site.pk], known.get(site.pk, 0)) for site in page]


@router.post("/sites", response={201: schemas.SiteOut}, auth=allowed(Action.EDIT_REGISTER))
def add_site(request: HttpRequest, payload: schemas.SiteIn) -> Status[schemas.SiteOut]:
    return Status(201, site_page.site_out(_site(edit.add_site(payload).pk)))


@router.get("/sites/{site_id}", response=schemas.SitePageOut, auth=allowed(Action.READ))
def site(request: HttpRequest, site_id: Id) -> schemas.SitePageOut:
    return site_page.page(_site(site_id))


@router.get("/sites/{site_id}/place", response=schemas.PlaceOut, auth=allowed(Action.READ))
def place(request: HttpRequest, site_id: Id) -> schemas.PlaceOut:
    """Where a site is, among the others."""
    site, middle = _site(site_id), locating.middle()
    return {
        "version": version_of(site),
        "latitude": site.latitude,
        "longitude": site.longitude,
        "neighbours": locating.neighbours(site),
        "middle": (middle.longitude, middle.latitude) if middle else None,
        "looks_up": locating.looks_up(),
    }


@router.get("/sites/{site_id}/place/found", response=list[schemas.FoundPlaceOut], auth=allowed(Action.EDIT_REGISTER))
def found_places(request: HttpRequest, site_id: Id) -> list[schemas.FoundPlaceOut]:
    """Places that the site's address may be, by the look-up that is set up."""
    try:
        found = locating.suggestions(_site(site_id))
    except NotAnswered as error:
        raise Conflict(f"{error} Set the pin by hand.", "place.no_answer") from None
    return [{"latitude": one.at.latitude, "longitude": one.at.longitude, "words": one.words} for one in found]


@router.put("/sites/{site_id}/place", response=schemas.SitePageOut, auth=allowed(Action.EDIT_REGISTER))
def set_place(request: HttpRequest, site_id: Id, payload: schemas.PlaceIn) -> schemas.SitePageOut:
    """Put a site where it is; the next planning goes by it."""
    site = _site(site_id)
    if (payload.latitude is None) != (payload.longitude is None):
        raise Invalid("A place needs a latitude and a longitude, or neither.", "place.half", {"latitude": "both"})
    at = None if payload.latitude is None else Point(payload.longitude or 0.0, payload.latitude)
    locating.put(site.pk, at, locating.LOOKED_UP if payload.looked_up else "", payload.version)
    return site_page.page(_site(site_id))


@router.patch("/sites/{site_id}", response=schemas.SitePageOut, auth=allowed(Action.EDIT_REGISTER))
def change_site(request: HttpRequest, site_id: Id, payload: schemas.SitePatch) -> schemas.SitePageOut:
    edit.change_site(site_id, payload, timezone.localdate())
    changed.heaters(list(Heater.objects.in_service().filter(site=site_id).values_list("pk", flat=True)))
    return site_page.page(_site(site_id))


@router.get("/customers/{customer_id}", response=schemas.CustomerOut, auth=allowed(Action.READ))
def customer(request: HttpRequest, customer_id: Id) -> schemas.CustomerOut:
    """Who is served, how they are reached, and where."""
    return _customer(get_object_or_404(Customer, pk=customer_id, archived_at__isnull=True))


@router.patch("/customers/{customer_id}", response=schemas.CustomerOut, auth=allowed(Action.EDIT_REGISTER))
def change_customer(request: HttpRequest, customer_id: Id, payload: schemas.CustomerPatch) -> schemas.CustomerOut:
    return _customer(customers.change(customer_id, payload))


@router.post("/sites/{site_id}/customer", response=schemas.SitePageOut, auth=allowed(Action.EDIT_REGISTER))
def hand_over(request: HttpRequest, site_id: Id, payload: schemas.CustomerFields) -> schemas.SitePageOut:
    """A site goes to a new customer; what was agreed with the one before is agreed with nobody."""
    with transaction.atomic():
        customers.hand_over(site_id, payload)
        promise.agreed_with_nobody(site_id)
    return site_page.page(_site(site_id))


def _customer(customer: Customer) -> schemas.CustomerOut:
    sites = customer.sites.filter(archived_at__isnull=True).order_by("name").values_list("name", flat=True)
    return {
        "id": customer.pk,
        "name": customer.name,
        "phone": customer.phone,
        "second_phone": customer.second_phone,
        "email": customer.email,
        "version": version_of(customer),
        "sites": list(sites),
    }


@router.post("/sites/{site_id}/features", response={201: schemas.SitePageOut}, auth=allowed(Action.RECORD_PLACE))
def add_feature(request: HttpRequest, site_id: Id, payload: schemas.FeatureIn) -> Status[schemas.SitePageOut]:
    keep.see(site_id, payload, who(request), timezone.localdate())
    return Status(201, site_page.page(_site(site_id)))


@router.patch("/features/{feature_id}", response=schemas.SitePageOut, auth=allowed(Action.RECORD_PLACE))
def change_feature(request: HttpRequest, feature_id: Id, payload: schemas.FeatureIn) -> schemas.SitePageOut:
    kept = keep.see_again(feature_id, payload, who(request), timezone.localdate())
    return site_page.page(_site(kept.site_id))


@router.delete("/features/{feature_id}", response={204: None}, auth=allowed(Action.RECORD_PLACE))
def take_away(request: HttpRequest, feature_id: Id) -> Status[None]:
    keep.take_away(feature_id, who(request), timezone.localdate())
    return Status(204, None)


def _site(site_id: int) -> Site:
    return get_object_or_404(Site.objects.select_related("customer", "zone"), pk=site_id)

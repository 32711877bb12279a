from typing import Annotated, Any

from django.db.models import Prefetch
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Query, Router, Status
from pydantic import Field, StringConstraints

from aquifer.accounts.access import Action, allowed
from aquifer.core.vocabulary import HeaterKind
from aquifer.customers.models import Site
from aquifer.forecasts.recompute import recompute_heaters
from aquifer.forecasts.register import register_rows
from aquifer.heaters import edit, schemas
from aquifer.heaters.models import Heater, Part

router = Router(tags=["heaters"])
Words = Annotated[str, StringConstraints(max_length=200, pattern=r"^[^\x00]*$")]
Id = Annotated[int, Field(ge=1, le=2**62)]


@router.get("/heaters", response=schemas.HeaterPageOut, auth=allowed(Action.READ))
def heaters(
    request: HttpRequest,
    q: Words = "",
    zone_id: Id | None = None,
    kind: HeaterKind | None = None,
    offset: int = Query(0, ge=0, le=10_000_000),
    limit: int = Query(100, ge=1, le=500),
) -> dict[str, object]:
    """Heaters in service, by site and tag, with where each stands."""
    found = Heater.objects.in_service().matching(q)
    if zone_id is not None:
        found = found.filter(site__zone_id=zone_id)
    if kind is not None:
        found = found.filter(kind=kind)
    return {"total": found.count(), "rows": register_rows(found.order_by("site__name", "tag")[offset : offset + limit])}


@router.get("/heaters/{heater_id}", response=schemas.HeaterOut, auth=allowed(Action.READ))
def heater(request: HttpRequest, heater_id: Id) -> dict[str, Any]:
    return _whole(heater_id)


@router.post("/heaters", response={201: schemas.HeaterOut}, auth=allowed(Action.EDIT_REGISTER))
def add(request: HttpRequest, payload: schemas.HeaterIn) -> Status[dict[str, Any]]:
    made = edit.add_heater(payload, timezone.localdate())
    recompute_heaters([made.pk])
    return Status(201, _whole(made.pk))


@router.patch("/heaters/{heater_id}", response=schemas.HeaterOut, auth=allowed(Action.EDIT_REGISTER))
def change(request: HttpRequest, heater_id: Id, payload: schemas.HeaterPatch) -> dict[str, Any]:
    edit.change_heater(heater_id, payload, timezone.localdate())
    recompute_heaters([heater_id])
    return _whole(heater_id)


@router.get("/sites", response=list[schemas.SiteOut], auth=allowed(Action.READ))
def sites(request: HttpRequest, q: Words = "", limit: int = Query(20, ge=1, le=100)) -> list[dict[str, Any]]:
    found = Site.objects.select_related("customer", "zone").order_by("name")
    for word in q.split()[:8]:
        found = found.filter(name__icontains=word) | found.filter(street__icontains=word)
    return [_site(site) for site in found[:limit]]


@router.post("/sites", response={201: schemas.SiteOut}, auth=allowed(Action.EDIT_REGISTER))
def add_site(request: HttpRequest, payload: schemas.SiteIn) -> Status[dict[str, Any]]:
    made = edit.add_site(payload)
    return Status(201, _site(Site.objects.select_related("customer", "zone").get(pk=made.pk)))


def _whole(heater_id: int) -> dict[str, Any]:
    in_place = Prefetch("parts", Part.objects.filter(removed_on__isnull=True).order_by("kind"), to_attr="in_place")
    found = get_object_or_404(
        Heater.objects.select_related("site__customer", "site__zone").prefetch_related(in_place), pk=heater_id
    )
    own = {name: getattr(found, name) for name in schemas.HeaterOut.model_fields if hasattr(found, name)}
    return {
        **own,
        "is_tank": HeaterKind(found.kind).is_tank,
        "archived": found.archived_at is not None,
        "site": _site(found.site),
        "parts": found.in_place,  # type: ignore[attr-defined]
    }


def _site(site: Site) -> dict[str, Any]:
    own = {name: getattr(site, name) for name in schemas.SiteOut.model_fields if hasattr(site, name)}
    return {**own, "customer": site.customer.name, "zone": site.zone.name}

import uuid

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router
from typing_extensions import TypedDict

from aquifer import changed
from aquifer.accounts.access import Action, allowed, may, who
from aquifer.changes import read, undo
from aquifer.changes.read import RecordChangeOut
from aquifer.customers.models import Site
from aquifer.heaters.models import Heater
from aquifer.water.models import Zone
from aquifer.wire import Id

router = Router(tags=["changes"])


class UndoneOut(TypedDict):
    heaters: int


@router.get("/heaters/{heater_id}/history", response=list[RecordChangeOut], auth=allowed(Action.READ))
def of_heater(request: HttpRequest, heater_id: Id) -> list[RecordChangeOut]:
    get_object_or_404(Heater, pk=heater_id)
    return read.of_heater(heater_id)


@router.get("/sites/{site_id}/history", response=list[RecordChangeOut], auth=allowed(Action.READ))
def of_site(request: HttpRequest, site_id: Id) -> list[RecordChangeOut]:
    get_object_or_404(Site, pk=site_id)
    return read.of_site(site_id)


@router.get("/zones/{zone_id}/history", response=list[RecordChangeOut], auth=allowed(Action.READ))
def of_zone(request: HttpRequest, zone_id: Id) -> list[RecordChangeOut]:
    get_object_or_404(Zone, pk=zone_id)
    return read.of_zone(zone_id)


@router.get("/settings/history", response=list[RecordChangeOut], auth=allowed(Action.READ))
def of_settings(request: HttpRequest) -> list[RecordChangeOut]:
    """Who set what of the company, and when; each sees what is theirs to set."""
    role = who(request).role
    return read.of_settings(lambda needs: may(role, needs))


@router.post("/changes/{change}/undo", response=UndoneOut, auth=allowed(Action.KEEP_OWN_ACCOUNT))
def take_back(request: HttpRequest, change: uuid.UUID) -> UndoneOut:
    """Take a change back, if it is the last of each record that it touched and theirs to make who ask."""
    heaters = undo.take_back(change, who(request).role)
    changed.heaters(heaters)
    return {"heaters": len(heaters)}

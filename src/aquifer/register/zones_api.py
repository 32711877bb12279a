import datetime
from typing import Annotated

from django.db import IntegrityError, transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Query, Router, Schema, Status
from pydantic import ConfigDict, Field, StringConstraints

from aquifer import changed
from aquifer.accounts.access import Action, allowed, who
from aquifer.accounts.models import User
from aquifer.core import measuring
from aquifer.core.bounds import within
from aquifer.core.units import HardnessUnit, Quantity, figure, worded
from aquifer.core.vocabulary import Component, Disinfectant, Practice, Supply
from aquifer.customers.models import Site
from aquifer.errors import Conflict, Invalid
from aquifer.history import versions
from aquifer.register import heater_map, zone_page
from aquifer.register.schemas import FetchedOut, HeaterMapOut, ZoneOnMapOut, ZoneOut, ZonePageOut
from aquifer.visits.words import units_shown
from aquifer.water import edit, places, supplier
from aquifer.water.models import WaterTest, Zone
from aquifer.wire import Day, Id, Version

router = Router(tags=["water"])


class TestIn(Schema):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    site_id: Id | None = None
    taken_on: Day
    method: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80, pattern=r"^[^\x00]*$")]
    total_hardness_mg_l: Annotated[float | None, within("water.total_hardness_mg_l")] = None
    calcium_hardness_mg_l: Annotated[float | None, within("water.calcium_hardness_mg_l")] = None
    alkalinity_mg_l: Annotated[float | None, within("water.alkalinity_mg_l")] = None
    ph: Annotated[float | None, within("water.ph")] = None
    conductivity_us_cm: Annotated[float | None, within("water.conductivity_us_cm")] = None
    iron_mg_l: Annotated[float | None, within("water.iron_mg_l")] = None
    suspended_solids_mg_l: Annotated[float | None, within("water.suspended_solids_mg_l")] = None
    free_chlorine_mg_l: Annotated[float | None, within("water.free_chlorine_mg_l")] = None
    disinfectant: Disinfectant | None = None
    sure: bool = Field(False, description="What looks unlikely is so.")


class SeasonIn(Schema):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80, pattern=r"^[^\x00]*$")]
    other_id: Id
    share_of_year: float = Field(gt=0, le=1)
    other_share: float = Field(gt=0, le=1)


class ZoneIn(Schema):
    """What is said of a zone; its seasons are those that are sent, in place of those before."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120, pattern=r"^[^\x00]*$")]
    note: Annotated[str, StringConstraints(strip_whitespace=True, max_length=240, pattern=r"^[^\x00]*$")] = ""
    supply: Supply
    practice: Practice | None = None
    seasons: Annotated[list[SeasonIn], Field(max_length=12)] = []
    places: Annotated[
        list[Annotated[str, StringConstraints(strip_whitespace=True, max_length=120, pattern=r"^[^\x00]*$")]],
        Field(max_length=400, description="Towns and postcodes; their sites belong to it from now on."),
    ] = []
    version: Version | None = None


@router.get("/zones", response=list[ZoneOut], auth=allowed(Action.READ))
def zones(request: HttpRequest) -> list[ZoneOut]:
    """Every zone with what its water does at 60 degC."""
    return zone_page.every(timezone.localdate())


@router.get("/zones/map", response=list[ZoneOnMapOut], auth=allowed(Action.READ))
def zones_on_map(request: HttpRequest) -> list[ZoneOnMapOut]:
    """The same with their outlines and how many heaters stand on each."""
    return zone_page.on_map(timezone.localdate())


Degrees = Annotated[float | None, Field(ge=-180, le=180, allow_inf_nan=False)]


class MapQuery(Schema):
    west: Degrees = None
    south: Degrees = None
    east: Degrees = None
    north: Degrees = None
    component: Component | None = None
    zone_id: Id | None = None


@router.get("/heater-map", response=HeaterMapOut, auth=allowed(Action.READ))
def on_map(request: HttpRequest, query: Query[MapQuery]) -> HeaterMapOut:
    """Heaters in service on a map, by squares of the piece that is shown: how many are due when."""
    sides = (query.west, query.south, query.east, query.north)
    west, south, east, north = (0.0 if side is None else side for side in sides)
    box = None if None in sides else heater_map.Box(west, south, east, north)
    return heater_map.read(timezone.localdate(), box, query.component, query.zone_id)


@router.get("/zones/{zone_id}", response=ZonePageOut, auth=allowed(Action.READ))
def zone(request: HttpRequest, zone_id: Id) -> ZonePageOut:
    """A zone's water: its tests, what they leave open, what it does to its heaters, which sites have no test."""
    return zone_page.whole(get_object_or_404(Zone, pk=zone_id), timezone.localdate())


@router.put("/zones/{zone_id}", response=ZonePageOut, auth=allowed(Action.EDIT_REGISTER))
def change_zone(request: HttpRequest, zone_id: Id, payload: ZoneIn) -> ZonePageOut:
    """Say otherwise what a zone is and with what its water is mixed in which season; its forecasts follow."""
    with transaction.atomic():
        zone = get_object_or_404(Zone.objects.select_for_update(), pk=zone_id)
        versions.check(zone, payload.version)
        edit.change_zone(zone, _said(payload))
        _follow(zone, who(request))
    return zone_page.whole(zone, timezone.localdate())


@router.post("/zones", response={201: ZonePageOut}, auth=allowed(Action.EDIT_REGISTER))
def add_zone(request: HttpRequest, payload: ZoneIn) -> Status[ZonePageOut]:
    """A new zone; the sites of its towns and postcodes come into it."""
    with transaction.atomic():
        made = edit.add_zone(_said(payload))
        _follow(made, who(request))
    return Status(201, zone_page.whole(made, timezone.localdate()))


def _said(payload: ZoneIn) -> edit.NewZone:
    seasons = [
        edit.NewSeason(season.name, season.other_id, season.share_of_year, season.other_share)
        for season in payload.seasons
    ]
    return edit.NewZone(payload.name, payload.note, payload.supply, payload.practice, seasons, payload.places)


def _follow(zone: Zone, by: User) -> None:
    """What a changed zone asks for: its sites come into it, and the forecasts of all that it touched are made anew."""
    for one in {zone.pk, *places.gather(zone, by)}:
        changed.zone(one)


@router.post("/zones/{zone_id}/tests", response={201: ZonePageOut}, auth=allowed(Action.RECORD_PLACE))
def add_test(request: HttpRequest, zone_id: Id, payload: TestIn) -> Status[ZonePageOut]:
    """Put a test on record, of the zone's water or of one site's own; its forecasts follow."""
    zone = get_object_or_404(Zone, pk=zone_id)
    _check(zone, payload)
    if not payload.sure:
        _ask(zone, payload)
    values = payload.model_dump(exclude={"sure"}) | {"disinfectant": payload.disinfectant or ""}
    try:
        with transaction.atomic():
            WaterTest.objects.create(zone=zone, recorded_by=who(request), **values)
            changed.zone(zone.pk)
    except IntegrityError:
        raise Conflict(
            "A test of that day and method is on record already.", fields={"taken_on": "on record already"}
        ) from None
    return Status(201, zone_page.whole(zone, timezone.localdate()))


@router.post("/zones/{zone_id}/supplier", response=FetchedOut, auth=allowed(Action.EDIT_REGISTER))
def fetch_supplier(request: HttpRequest, zone_id: Id) -> FetchedOut:
    """Fetch what the supplier published since the last time."""
    zone = get_object_or_404(Zone, pk=zone_id)
    new = supplier.fetch(supplier.connected(), zone, timezone.localdate())
    if new:
        changed.zone(zone.pk)
    return {"new": new}


_WAS_IT = {
    HardnessUnit.MG_L: "",
    HardnessUnit.GPG: " Was it grains?",
    HardnessUnit.DH: " Was it German degrees?",
    HardnessUnit.FH: " Was it French degrees?",
}


def _ask(zone: Zone, payload: TestIn) -> None:
    """Ask about a hardness far from what tests of this water told; a site's own water may be another."""
    before = WaterTest.objects.filter(zone=zone, site=None, total_hardness_mg_l__isnull=False)
    known = before.order_by("-taken_on", "-pk").values_list("total_hardness_mg_l", flat=True).first()
    if payload.site_id is not None or payload.total_hardness_mg_l is None or known is None:
        return
    question = measuring.hardness_question(payload.total_hardness_mg_l, known)
    if question is None:
        return
    told, usual = (figure(Quantity.HARDNESS, round(one)) for one in (payload.total_hardness_mg_l, known))
    words = worded(f"{told} where {usual} was usual.{_WAS_IT[question]}", units_shown())
    raise Conflict(words, fields={"sure": words})


def _check(zone: Zone, payload: TestIn) -> None:
    wrong: dict[str, str] = {}
    today = timezone.localdate()
    if not datetime.date(1950, 1, 1) <= payload.taken_on <= today:
        wrong["taken_on"] = f"{payload.taken_on} is not between 1950-01-01 and today"
    if payload.site_id is not None and not Site.objects.filter(pk=payload.site_id, zone=zone).exists():
        wrong["site_id"] = "no such site on this water"
    figures = ("total_hardness_mg_l", "alkalinity_mg_l", "ph", "conductivity_us_cm", "iron_mg_l", "free_chlorine_mg_l")
    if all(getattr(payload, name) is None for name in (*figures, "calcium_hardness_mg_l", "suspended_solids_mg_l")):
        wrong["total_hardness_mg_l"] = "say at least one figure"
    total, calcium = payload.total_hardness_mg_l, payload.calcium_hardness_mg_l
    if total is not None and calcium is not None and calcium > total:
        wrong["calcium_hardness_mg_l"] = f"{calcium:g} is above the total hardness {total:g}"
    if wrong:
        raise Invalid("Not kept. " + "; ".join(wrong.values()), "water_test.invalid", wrong)

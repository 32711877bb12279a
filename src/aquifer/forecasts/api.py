import datetime
from typing import Annotated

from django.db import transaction
from django.db.models import Count
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Router
from pydantic import Field

from aquifer import changed
from aquifer.accounts.access import Action, allowed
from aquifer.accounts.pace import dear
from aquifer.company.models import Company
from aquifer.core.alternatives import Change
from aquifer.core.bounds import within
from aquifer.core.gaps import Gap
from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import GEOMETRY
from aquifer.core.scalding import cautions
from aquifer.core.vocabulary import FlushMethod, Practice
from aquifer.errors import Invalid
from aquifer.forecasts import changes, log, models, outlook, schemas, trial
from aquifer.forecasts.schemas import AlternativeOut
from aquifer.forecasts.tasks import is_pending
from aquifer.heaters.models import Heater
from aquifer.history.versions import merge, version_of
from aquifer.standby import read_apart
from aquifer.wire import Day, Id, Limit, Offset, Words

router = Router(tags=["forecasts"])
AXIS_WEEKS = 104


@router.get("/forecasts/pending", response=schemas.PendingOut, auth=allowed(Action.READ))
def pending(request: HttpRequest) -> schemas.PendingOut:
    """Whether dates that are shown by now may be another in a moment: a job is waiting or at work."""
    return {"pending": is_pending()}


@router.get("/outlook", response=schemas.OutlookOut, auth=allowed(Action.READ))
@read_apart
def read_outlook(
    request: HttpRequest,
    q: Words = "",
    zone_id: Id | None = None,
    kind: HeaterKind | None = None,
    until: Day | None = None,
    order: outlook.Order = outlook.Order.DUE,
    offset: Offset = 0,
    limit: Limit = 100,
) -> schemas.OutlookOut:
    """Heaters by urgency with the windows of all their components."""
    total, rows = outlook.rows(outlook.Filters(zone_id, kind, until, q), order, offset, limit)
    return {"today": timezone.localdate(), "total": total, "offset": offset, "rows": rows}


@router.get("/outlook/weeks", response=list[schemas.WeekOut], auth=allowed(Action.READ))
@read_apart
def read_weeks(
    request: HttpRequest,
    q: Words = "",
    zone_id: Id | None = None,
    kind: HeaterKind | None = None,
    until: Day | None = None,
) -> list[schemas.WeekOut]:
    """The hours that the same heaters want, week by week."""
    today = timezone.localdate()
    end = today + datetime.timedelta(weeks=AXIS_WEEKS)
    return outlook.hours_by_week(outlook.Filters(zone_id, kind, until, q), today, end)


@router.get("/outlook/trial", response=schemas.TrialOut, auth=allowed(Action.READ))
@read_apart
def read_trial(
    request: HttpRequest, practice: Practice, tolerance: Annotated[float, within("practice.tolerance")]
) -> schemas.TrialOut:
    """The season under another tolerance or practice of the company; nothing is stored."""
    today = timezone.localdate()
    return trial.read(tolerance, practice, today, today + datetime.timedelta(weeks=AXIS_WEEKS))


@router.put("/outlook/practice", response=schemas.PracticeOut, auth=allowed(Action.SET_PRACTICE))
def set_practice(request: HttpRequest, payload: schemas.PracticeIn) -> schemas.PracticeOut:
    """Follow this tolerance and practice from now on; every forecast is queued to be computed anew."""
    Company.current()
    with transaction.atomic():
        company = Company.objects.select_for_update().get(pk=1)
        merge(company, payload.version, {"practice": payload.practice.value, "tolerance": payload.tolerance})
        company.save(update_fields=["practice", "tolerance"])
        changed.everything()
    return {
        "practice": Practice(company.practice), "tolerance": company.tolerance, "version": version_of(company),
    }  # fmt: skip


@router.get("/heaters/{heater_id}/forecast", response=list[schemas.ForecastOut], auth=allowed(Action.READ))
def heater_forecast(request: HttpRequest, heater_id: Id) -> list[schemas.ForecastOut]:
    """The current forecast of each component of a heater, with its reasons."""
    get_object_or_404(Heater, pk=heater_id)
    return [log.told(forecast, learned) for forecast, learned in log.current(heater_id)]


@router.get("/heaters/{heater_id}/changes", response=list[schemas.ChangeOut], auth=allowed(Action.READ))
def heater_changes(request: HttpRequest, heater_id: Id) -> list[schemas.ChangeOut]:
    """What a softener, a cooler setting or another flush would change, recomputed; the first is as it is."""
    heater = get_object_or_404(Heater.objects.in_service().select_related("site"), pk=heater_id)
    try:
        return changes.read(heater, timezone.localdate())
    except ValueError as error:
        raise Invalid(str(error), "water.no_equilibrium", {"heater_id": str(error)}) from None


@router.get(
    "/heaters/{heater_id}/what-if", response=schemas.WhatIfOut, auth=allowed(Action.READ), throttle=dear("computed")
)
def what_if(
    request: HttpRequest,
    heater_id: Id,
    softened: bool | None = None,
    setpoint_c: Annotated[float | None, within("heater.setpoint_c")] = None,
    use_factor: Annotated[float, Field(ge=0.1, le=10)] = 1.0,
    flush_method: FlushMethod | None = None,
    practice: Practice | None = None,
) -> schemas.WhatIfOut:
    """The same heater with another setting, use, flush or practice, from its next service on; nothing is stored."""
    heater = get_object_or_404(Heater.objects.in_service().select_related("site"), pk=heater_id)
    change = Change(softened, setpoint_c, use_factor, flush_method, practice)
    try:
        results = changes.try_one(heater, change, timezone.localdate())
    except ValueError as error:
        raise Invalid(str(error), "water.no_equilibrium", {"setpoint_c": str(error)}) from None
    setting = setpoint_c or heater.setpoint_c or GEOMETRY.setpoint_c
    alternatives = [AlternativeOut.from_orm(alternative) for alternative in results]
    return {"results": alternatives, "cautions": cautions(setting, HeaterKind(heater.kind).is_tank)}


@router.get("/gaps", response=schemas.GapPageOut, auth=allowed(Action.READ))
def gap_list(
    request: HttpRequest,
    kind: Gap | None = None,
    offset: Offset = 0,
    limit: Limit = 100,
) -> schemas.GapPageOut:
    """What is not known, by the days of uncertainty that knowing it would take away."""
    gaps = models.Gap.objects.filter(heater__archived_at__isnull=True)
    by_kind = dict(gaps.values_list("kind").annotate(n=Count("pk")).order_by("kind"))
    if kind is not None:
        gaps = gaps.filter(kind=kind)
    page = gaps.order_by("-days", "pk").select_related("heater__site__customer")[offset : offset + limit]
    rows: list[schemas.GapOut] = [
        {
            "id": gap.pk,
            "heater_id": gap.heater_id,
            "tag": gap.heater.tag,
            "site_id": gap.heater.site_id,
            "site": gap.heater.site.name,
            "street": gap.heater.site.street,
            "location": gap.heater.location,
            "phone": gap.heater.site.customer.phone,
            "kind": Gap(gap.kind),
            "days": gap.days,
        }
        for gap in page
    ]
    return {"total": gaps.count(), "rows": rows, "by_kind": by_kind}


@router.get("/heaters/{heater_id}/log", response=schemas.LogOut, auth=allowed(Action.READ))
def heater_log(request: HttpRequest, heater_id: Id) -> schemas.LogOut:
    """A heater's log: every visit, and the course of each component past and to come; of an archived one the past."""
    heater = get_object_or_404(Heater.objects.select_related("site__zone"), pk=heater_id)
    return log.read(heater, timezone.localdate())

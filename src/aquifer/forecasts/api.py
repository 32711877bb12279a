import datetime
from typing import Annotated, Any

from django.db import transaction
from django.db.models import Count
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Router, Schema
from pydantic import BeforeValidator, Field

from aquifer import changed
from aquifer.accounts.access import Action, allowed
from aquifer.company.models import Company
from aquifer.core.alternatives import Change
from aquifer.core.gaps import Gap
from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import GEOMETRY
from aquifer.core.scalding import cautions
from aquifer.core.vocabulary import Component, DecidedBy, FlushMethod, Method, Practice, Task, UpkeepItem
from aquifer.errors import Invalid
from aquifer.forecasts import changes, log, models, outlook, trial
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.tasks import is_pending
from aquifer.heaters.models import Heater, InstallCertainty
from aquifer.wire import Day, Id, Limit, Offset, Payload, Words

router = Router(tags=["forecasts"])
AXIS_WEEKS = 104


class SpreadOut(Schema):
    """A figure with its uncertainty, as the forecast stores it: a list of three."""

    p10: float
    p50: float
    p90: float

    @classmethod
    def of(cls, stored: object) -> object:
        return dict(zip(("p10", "p50", "p90"), stored, strict=True)) if isinstance(stored, list | tuple) else stored


Spread = Annotated[SpreadOut, BeforeValidator(SpreadOut.of)]


class WindowOut(Schema):
    component: Component
    as_of: datetime.date
    reached_days: list[int | None]
    due_on: datetime.date | None
    latest_on: datetime.date | None
    decided_by: DecidedBy
    method: Method
    benefit: float
    probability_today: float


class OutlookRowOut(Schema):
    id: int
    tag: str
    kind: HeaterKind
    site: str
    street: str
    location: str
    zone: str
    hazard: str
    capacity_l: float | None
    installed_on: datetime.date | None
    install_certainty: InstallCertainty
    guessed: list[str] = Field(description="What of it is a guess, the forecast resting on it.")
    depth_share: float | None
    anode_left: float | None
    windows: list[WindowOut]


class WeekOut(Schema):
    week: datetime.date
    component: Component
    services: int
    hours: float


class OutlookOut(Schema):
    today: datetime.date
    total: int
    offset: int
    rows: list[OutlookRowOut]


class ReasonOut(Schema):
    factor: str
    ratio: float
    days: int


class ForecastOut(WindowOut):
    model_version: str
    rate_unit: str
    rate: Spread
    state: dict[str, Spread]
    limit_value: float
    over_after_service: float
    reasons: list[ReasonOut]
    log_theta: float
    log_theta_sd: float
    learned: str = Field(description="What findings taught of its pace; empty where none is told.")


class LineOut(Schema):
    task: Task
    words: str


class LogEntryOut(Schema):
    visit_id: int
    on: datetime.date
    by: str
    lines: list[LineOut]
    marks: dict[str, str]
    amended: bool
    looked_at: list[str] = Field(description="What was done otherwise than the guide allows, to be looked at.")
    readings: list[str] = Field(description="What was read off instruments beside its findings, as it stands.")
    notes: list[str]


class ReadPointOut(Schema):
    on: datetime.date
    value: float
    by: str


class ReadingOut(Schema):
    """One kind of reading over the years, as it stands."""

    field: str
    says: str
    unit: str = Field(description="A quantity, or a unit as it is written.")
    points: list[ReadPointOut]


class CourseOut(Schema):
    component: Component
    on: list[datetime.date]
    p10: list[float]
    p50: list[float]
    p90: list[float]
    present: int


class JudgementOut(Schema):
    rule: str
    verdict: str
    because: list[str]
    ask_lead: bool
    licensed: bool


class UpkeepOut(Schema):
    item: UpkeepItem
    due_on: datetime.date
    interval_months: float
    because: list[str]


class LogOut(Schema):
    measure: bool = Field(description="The coming visit is asked for a measurement.")
    installed_on: datetime.date
    today: datetime.date
    until: datetime.date
    entries: list[LogEntryOut]
    readings: list[ReadingOut]
    courses: list[CourseOut]
    forecasts: list[ForecastOut]
    upkeep: list[UpkeepOut]
    judgements: list[JudgementOut]


class PendingOut(Schema):
    pending: bool = Field(description="Whether forecasts are still to be computed anew.")


@router.get("/forecasts/pending", response=PendingOut, auth=allowed(Action.READ))
def pending(request: HttpRequest) -> dict[str, bool]:
    """Whether dates that are shown by now may be another in a moment: a job is waiting or at work."""
    return {"pending": is_pending()}


@router.get("/outlook", response=OutlookOut, auth=allowed(Action.READ))
def read_outlook(
    request: HttpRequest,
    q: Words = "",
    zone_id: Id | None = None,
    kind: HeaterKind | None = None,
    until: Day | None = None,
    order: outlook.Order = outlook.Order.DUE,
    offset: Offset = 0,
    limit: Limit = 100,
) -> dict[str, Any]:
    """Heaters by urgency with the windows of all their components."""
    total, rows = outlook.rows(outlook.Filters(zone_id, kind, until, q), order, offset, limit)
    return {"today": timezone.localdate(), "total": total, "offset": offset, "rows": rows}


@router.get("/outlook/weeks", response=list[WeekOut], auth=allowed(Action.READ))
def read_weeks(
    request: HttpRequest,
    q: Words = "",
    zone_id: Id | None = None,
    kind: HeaterKind | None = None,
    until: Day | None = None,
) -> list[dict[str, Any]]:
    """The hours that the same heaters want, week by week."""
    today = timezone.localdate()
    end = today + datetime.timedelta(weeks=AXIS_WEEKS)
    return outlook.hours_by_week(outlook.Filters(zone_id, kind, until, q), today, end)


class TrialFiguresOut(Schema):
    """The coming twelve months."""

    services: int
    hours: int
    over_days: int = Field(description="Days over a limit to be expected, all heaters together.")
    weeks: list[WeekOut]


class TrialOut(Schema):
    heaters: int
    asked_of: int = Field(description="How many were computed; they stand for all.")
    now: TrialFiguresOut
    tried: TrialFiguresOut


class PracticeIn(Payload):
    practice: Practice
    tolerance: Annotated[float, Field(ge=0.01, le=0.99)]


@router.get("/outlook/trial", response=TrialOut, auth=allowed(Action.READ))
def read_trial(
    request: HttpRequest, practice: Practice, tolerance: Annotated[float, Field(ge=0.01, le=0.99)]
) -> dict[str, Any]:
    """The season under another tolerance or practice of the company; nothing is stored."""
    today = timezone.localdate()
    return trial.read(tolerance, practice, today, today + datetime.timedelta(weeks=AXIS_WEEKS))


@router.put("/outlook/practice", response=PracticeIn, auth=allowed(Action.SET_PRACTICE))
def set_practice(request: HttpRequest, payload: PracticeIn) -> Company:
    """Follow this tolerance and practice from now on; every forecast is queued to be computed anew."""
    company = Company.current()
    company.practice, company.tolerance = payload.practice, payload.tolerance
    with transaction.atomic():
        company.save(update_fields=["practice", "tolerance"])
        changed.everything()
    return company


@router.get("/heaters/{heater_id}/forecast", response=list[ForecastOut], auth=allowed(Action.READ))
def heater_forecast(request: HttpRequest, heater_id: Id) -> list[Forecast]:
    """The current forecast of each component of a heater, with its reasons."""
    get_object_or_404(Heater, pk=heater_id)
    return log.current(heater_id)


class AlternativeOut(Schema):
    component: Component
    years_between: float
    over_after_service: float
    over_at_next: float
    over_in_12_months: float


class ChangeOut(Schema):
    change: str
    setpoint_c: float | None = Field(description="What it would be set to; null where the setting stays.")
    results: list[AlternativeOut]


@router.get("/heaters/{heater_id}/changes", response=list[ChangeOut], auth=allowed(Action.READ))
def heater_changes(request: HttpRequest, heater_id: Id) -> list[dict[str, Any]]:
    """What a softener, a cooler setting or another flush would change, recomputed; the first is as it is."""
    heater = get_object_or_404(Heater.objects.in_service().select_related("site"), pk=heater_id)
    try:
        return changes.read(heater, timezone.localdate())
    except ValueError as error:
        raise Invalid(str(error), "water.no_equilibrium", {"heater_id": str(error)}) from None


class WhatIfOut(Schema):
    results: list[AlternativeOut]
    cautions: list[str] = Field(description="What the setting that is tried asks people to mind.")


@router.get("/heaters/{heater_id}/what-if", response=WhatIfOut, auth=allowed(Action.READ))
def what_if(
    request: HttpRequest,
    heater_id: Id,
    softened: bool | None = None,
    setpoint_c: Annotated[float | None, Field(ge=30, le=95)] = None,
    use_factor: Annotated[float, Field(ge=0.1, le=10)] = 1.0,
    flush_method: FlushMethod | None = None,
    practice: Practice | None = None,
) -> dict[str, Any]:
    """The same heater with another setting, use, flush or practice, from its next service on; nothing is stored."""
    heater = get_object_or_404(Heater.objects.in_service().select_related("site"), pk=heater_id)
    change = Change(softened, setpoint_c, use_factor, flush_method, practice)
    try:
        results = changes.try_one(heater, change, timezone.localdate())
    except ValueError as error:
        raise Invalid(str(error), "water.no_equilibrium", {"setpoint_c": str(error)}) from None
    setting = setpoint_c or heater.setpoint_c or GEOMETRY.setpoint_c
    return {"results": results, "cautions": cautions(setting, HeaterKind(heater.kind).is_tank)}


class GapOut(Schema):
    id: int
    heater_id: int
    tag: str
    site_id: int
    site: str
    street: str
    location: str
    phone: str
    kind: Gap
    days: float


class GapPageOut(Schema):
    total: int
    rows: list[GapOut]
    by_kind: dict[str, int]


@router.get("/gaps", response=GapPageOut, auth=allowed(Action.READ))
def gap_list(
    request: HttpRequest,
    kind: Gap | None = None,
    offset: Offset = 0,
    limit: Limit = 100,
) -> dict[str, Any]:
    """What is not known, by the days of uncertainty that knowing it would take away."""
    found = models.Gap.objects.filter(heater__archived_at__isnull=True)
    by_kind = dict(found.values_list("kind").annotate(n=Count("pk")).order_by("kind"))
    if kind is not None:
        found = found.filter(kind=kind)
    page = found.order_by("-days", "pk").select_related("heater__site__customer")[offset : offset + limit]
    rows = [
        {
            "id": one.pk,
            "heater_id": one.heater_id,
            "tag": one.heater.tag,
            "site_id": one.heater.site_id,
            "site": one.heater.site.name,
            "street": one.heater.site.street,
            "location": one.heater.location,
            "phone": one.heater.site.customer.phone,
            "kind": one.kind,
            "days": one.days,
        }
        for one in page
    ]
    return {"total": found.count(), "rows": rows, "by_kind": by_kind}


@router.get("/heaters/{heater_id}/log", response=LogOut, auth=allowed(Action.READ))
def heater_log(request: HttpRequest, heater_id: Id) -> dict[str, Any]:
    """A heater's log: every visit, and the course of each component past and to come; of an archived one the past."""
    heater = get_object_or_404(Heater.objects.select_related("site__zone"), pk=heater_id)
    return log.read(heater, timezone.localdate())

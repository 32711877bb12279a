import datetime
from typing import Annotated, Any

from django.http import HttpRequest
from django.utils import timezone
from ninja import Query, Router, Schema
from pydantic import Field

from aquifer.accounts.access import Action, allowed, may, who
from aquifer.core.kinds import HeaterKind
from aquifer.core.learning.calibration import Verdict
from aquifer.core.vocabulary import Component, Practice
from aquifer.heaters.models import InstallCertainty
from aquifer.review import accuracy, ahead, failures, practices, replacements, work
from aquifer.review.accuracy import Strayed
from aquifer.wire import Payload

router = Router(tags=["review"])


class CheckOut(Schema):
    heater_id: int
    tag: str
    site: str
    zone: str
    on: datetime.date
    ratio: float = Field(description="The pace that was measured over the pace that was told.")
    place: float = Field(description="Where in what was told it lies: 0.1 is P10, 0.9 is P90.")
    strayed: Strayed | None = Field(description="Which way it lies outside of the 80 % window.")


class RatioOut(Schema):
    name: str
    ratio: float


class AccuracyOut(Schema):
    component: Component
    measured: int
    inside: float | None = Field(description="Share of the measurements inside the 80 % window told before them.")
    usual_from: float | None = Field(description="From here windows that hold leave so many, nine times in ten.")
    usual_to: float | None
    verdict: Verdict
    centre: float = Field(description="By what the pace of all windows is multiplied since.")
    year_strays: float | None = Field(description="Four of five years lie within this factor of the years before.")
    heater_scale: float = Field(description="How far heaters differ, over what was assumed.")
    zone_scale: float
    pairs: int = Field(description="What was graded and measured at one visit.")
    common_eye: float = Field(description="What people see over what is there.")
    people: list[RatioOut] = Field(description="The same of each; for those who set the practice.")
    say_the_same: list[str] = Field(description="Who grades alike whatever lies there; for those who set the practice.")
    builds: list[RatioOut]
    checks: list[CheckOut]


class ValvesOut(Schema):
    tried: int
    stuck: int


class ForecastsHeldOut(Schema):
    components: list[AccuracyOut]
    valves: ValvesOut


class YearAheadOut(Schema):
    ahead: int
    failing: float
    due: int


class ZoneTanksOut(Schema):
    zone_id: int
    name: str
    tanks: int
    due: int = Field(description="Of them due for replacement within 12 months.")


class TankOut(Schema):
    heater_id: int
    tag: str
    kind: HeaterKind
    site: str
    location: str
    street: str
    installed_on: datetime.date | None
    install_certainty: InstallCertainty
    depth_share: float | None
    anode_left: float | None
    within_a_year: float
    accepted: float = Field(description="From this probability on a replacement is proposed.")
    reasons: list[str] = Field(description="The factors that raise it, the strongest first.")


class ReplacementsOut(Schema):
    tanks: int
    years: list[YearAheadOut]
    zones: list[ZoneTanksOut]
    likeliest: list[TankOut]


class PracticeOut(Schema):
    practice: Practice
    cleanings: float = Field(description="Flushes and descales of a heater in the coming twelve months.")
    hours: float
    over_days: float = Field(description="Days over the limit of a heater in them.")


class WaterPracticesOut(Schema):
    zone_id: int | None = Field(description="None for the whole base.")
    name: str
    heaters: int
    followed: Practice
    practices: list[PracticeOut]


class PracticesOut(Schema):
    heaters: int
    asked_of: int
    rows: list[WaterPracticesOut]


@router.get("/review/practices", response=PracticesOut, auth=allowed(Action.READ))
def practices_compared(request: HttpRequest) -> dict[str, Any]:
    """What each school of cleaning would cost and leave, on each water."""
    return practices.read(timezone.localdate())


@router.get("/review/forecasts", response=ForecastsHeldOut, auth=allowed(Action.READ))
def forecasts(request: HttpRequest) -> dict[str, Any]:
    """What was measured against what had been told, and what the base taught."""
    by = who(request)
    return accuracy.read(timezone.localdate(), may(by.role, Action.SET_PRACTICE))


@router.get("/review/replacements", response=ReplacementsOut, auth=allowed(Action.READ))
def tanks(request: HttpRequest) -> dict[str, Any]:
    """How many tanks will fail, and which first."""
    return replacements.read(timezone.localdate())


class WorkYearOut(Schema):
    year: int
    so_far: bool = Field(description="The year is not over.")
    visits: int
    heaters: int = Field(description="That were visited.")
    flushes: int
    descales: int
    rods: int
    relief_valves: int
    expansion_tanks: int
    other_parts: int
    emergencies: int
    open_issues: int = Field(description="That were raised.")


@router.get("/review/work", response=list[WorkYearOut], auth=allowed(Action.READ))
def work_by_year(request: HttpRequest) -> list[dict[str, Any]]:
    """What the work was in each of the last years."""
    return work.by_year(timezone.localdate())


class AheadIn(Payload):
    """How far to look, and the practice to look at beside the company's."""

    years: Annotated[int, Field(ge=1, le=5)] = 3
    practice: Practice = Practice.ANNUAL


class FanOut(Schema):
    """What eight of ten futures lie between, and the middle one."""

    low: float
    middle: float
    high: float


class CountOut(Schema):
    name: str
    by_year: list[FanOut]


class AheadSideOut(Schema):
    practice: Practice
    hours: list[FanOut]
    counts: list[CountOut]


class AheadOut(Schema):
    """The years ahead of the base as it is: nobody joins or leaves."""

    heaters: int
    asked_of: int = Field(description="How many heaters answered for all.")
    until: list[datetime.date] = Field(description="The last day of each year.")
    crew_hours: float = Field(description="That the crew can plan in a year.")
    sides: list[AheadSideOut] = Field(description="The company's practice, then the other, with the same luck.")
    fewer_share: float = Field(description="Of the futures, in how many the other takes fewer hours.")
    hours_more: list[FanOut] = Field(description="Hours that the other takes more, by year.")


@router.get("/review/ahead", response=AheadOut, auth=allowed(Action.READ))
def years_ahead(request: HttpRequest, asked: Query[AheadIn]) -> dict[str, Any]:
    """What the base asks for in the coming years under two practices. Nothing is kept."""
    return ahead.read(asked.years, asked.practice, timezone.localdate())


class BuildOut(Schema):
    """Failures of a part, counted by the build of heater it sat in."""

    part: str
    maker: str
    model: str
    heaters: int
    failures: int
    expected: float
    """What the same number of heaters would show if all builds were alike."""


@router.get("/builds", response=list[BuildOut], auth=allowed(Action.READ))
def builds(request: HttpRequest) -> list[dict[str, Any]]:
    """Failures by part and build, those that fail more than all together first."""
    return failures.failures()

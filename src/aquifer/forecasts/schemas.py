"""What the forecasts tell."""

import datetime
from typing import Annotated

from ninja import Schema
from pydantic import Field
from typing_extensions import TypedDict

from aquifer.core.bounds import within
from aquifer.core.gaps import Gap
from aquifer.core.vocabulary import Component, DecidedBy, Method, Practice, Task, UpkeepItem
from aquifer.heaters.schemas import ListedHeater
from aquifer.visits.schemas import ReadingOut
from aquifer.wire import Payload, Version


class SpreadOut(TypedDict):
    """A figure with its uncertainty."""

    p10: float
    p50: float
    p90: float


class WindowOut(TypedDict):
    component: Component
    as_of: datetime.date
    reached_days: list[int | None]
    due_on: datetime.date | None
    latest_on: datetime.date | None
    decided_by: DecidedBy
    method: Method
    benefit: float
    probability_today: float


class OutlookRowOut(ListedHeater):
    guessed: Annotated[list[str], Field(description="What of it is a guess, the forecast resting on it.")]
    windows: list[WindowOut]


class WeekOut(TypedDict):
    week: datetime.date
    component: Component
    services: int
    hours: float


class OutlookOut(TypedDict):
    today: datetime.date
    total: int
    offset: int
    rows: list[OutlookRowOut]


class ReasonOut(TypedDict):
    factor: str
    ratio: float
    days: int


class ForecastOut(WindowOut):
    model_version: str
    rate_unit: str
    rate: SpreadOut
    state: dict[str, SpreadOut]
    limit_value: float
    over_after_service: float
    reasons: list[ReasonOut]
    log_theta: float
    log_theta_sd: float
    learned: Annotated[str, Field(description="What findings taught of its pace; empty where none is told.")]


class LineOut(TypedDict):
    task: Task
    words: str


class LogEntryOut(TypedDict):
    visit_id: int
    on: datetime.date
    by: str
    minutes: Annotated[int | None, Field(description="How long it took, where that is known.")]
    lines: list[LineOut]
    marks: dict[str, str]
    amended: bool
    looked_at: Annotated[
        list[str], Field(description="What was done otherwise than the guide allows, to be looked at.")
    ]
    readings: Annotated[
        list[str], Field(description="What was read off instruments beside its findings, as it stands.")
    ]
    notes: list[str]


class CourseOut(TypedDict):
    component: Component
    on: list[datetime.date]
    p10: list[float]
    p50: list[float]
    p90: list[float]
    present: int


class JudgementOut(TypedDict):
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


class LogOut(TypedDict):
    measure: Annotated[bool, Field(description="The coming visit is asked for a measurement.")]
    installed_on: datetime.date
    today: datetime.date
    until: datetime.date
    entries: list[LogEntryOut]
    readings: list[ReadingOut]
    courses: list[CourseOut]
    forecasts: list[ForecastOut]
    upkeep: list[UpkeepOut]
    judgements: list[JudgementOut]


class PendingOut(TypedDict):
    pending: Annotated[bool, Field(description="Whether forecasts are still to be computed anew.")]


class TrialFiguresOut(TypedDict):
    """The coming twelve months."""

    services: int
    hours: int
    over_days: Annotated[int, Field(description="Days over a limit to be expected, all heaters together.")]
    weeks: list[WeekOut]


class TrialOut(TypedDict):
    heaters: int
    asked_of: Annotated[int, Field(description="How many were computed; they stand for all.")]
    now: TrialFiguresOut
    tried: TrialFiguresOut


class PracticeIn(Payload):
    practice: Practice
    tolerance: Annotated[float, within("practice.tolerance")]
    version: Version | None = None


class PracticeOut(TypedDict):
    practice: Practice
    tolerance: float
    version: int


class AlternativeOut(Schema):
    component: Component
    years_between: float
    over_after_service: float
    over_at_next: float
    over_in_12_months: float


class ChangeOut(TypedDict):
    change: str
    setpoint_c: Annotated[float | None, Field(description="What it would be set to; null where the setting stays.")]
    results: list[AlternativeOut]


class WhatIfOut(TypedDict):
    results: list[AlternativeOut]
    cautions: Annotated[list[str], Field(description="What the setting that is tried asks people to mind.")]


class GapOut(TypedDict):
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


class GapPageOut(TypedDict):
    total: int
    rows: list[GapOut]
    by_kind: dict[str, int]

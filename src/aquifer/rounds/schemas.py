"""What the rounds send and take."""

import datetime
import uuid
from typing import Annotated, Literal, NotRequired

from ninja import Schema
from pydantic import Field, StringConstraints
from typing_extensions import TypedDict

from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import Component, Method
from aquifer.rounds.models import AppointmentStatus, Reason, RunKind, RunState
from aquifer.rounds.own_day import NotDone
from aquifer.wire import Day, Payload, WrittenDay, text

Id = Annotated[int, Field(ge=1, le=2**62)]
Clock = Annotated[int, Field(ge=0, le=1439, description="Minutes after midnight.")]


class ForEverOut(TypedDict):
    """What the year after asks, and every year."""

    next_year: NotRequired[
        Annotated[list[float], Field(description="Hours that the same weeks of next year will ask.")]
    ]
    variation: NotRequired[Annotated[float | None, Field(description="Coefficient of variation of those.")]]
    steady_hours: NotRequired[
        Annotated[float | None, Field(description="A week, for ever: every service once an interval.")]
    ]
    crew_hours: NotRequired[Annotated[float | None, Field(description="A week, of the crew as it is.")]]
    technician_hours: NotRequired[Annotated[float | None, Field(description="A week, of an average technician.")]]


class FiguresOut(ForEverOut):
    """What a season came to; every cost in hours of crew time."""

    cost: float
    bound: float
    gap: float
    parts: dict[str, float]
    services: int
    visits: int
    left_out: int
    hours: list[float]
    capacity: list[float]
    one_more: float | None
    one_fewer: float | None


class LeftOutOut(TypedDict):
    heater_id: int
    tag: str
    site: str
    component: Component
    latest_on: WrittenDay | None
    why: str
    worth: float


class RunOut(TypedDict):
    id: int
    kind: RunKind
    state: RunState
    stage: str
    share: float
    message: str
    first_week: datetime.date
    weeks: int
    asked_at: datetime.datetime
    finished_at: datetime.datetime | None
    asked_by: str


class PlannedSeasonOut(TypedDict):
    """The plan in force, and what is being planned."""

    run: RunOut | None
    figures: FiguresOut | None
    left_out: list[LeftOutOut]
    under_way: RunOut | None
    last: Annotated[RunOut | None, Field(description="The newest run, whatever became of it.")]


class RunIn(Payload):
    kind: RunKind = RunKind.SEASON
    first: Day
    weeks: int = 52


class LoadDayOut(TypedDict):
    """A day and how full it is."""

    on: datetime.date
    hours: float
    capacity: float
    visits: int
    promised: int
    why_closed: str


class LoadWeekOut(TypedDict):
    week: datetime.date
    hours: float
    capacity: float
    visits: int
    firm: int
    past_cap: int
    days: list[LoadDayOut]


class PlannedServiceOut(TypedDict):
    heater_id: int
    tag: str
    kind: HeaterKind
    component: Component
    method: Method
    hours: float


class AppointmentOut(TypedDict):
    id: int
    site_id: int
    site: str
    street: str
    customer: str
    phone: str
    zone: str
    week: datetime.date
    on: datetime.date | None
    member_id: int | None
    begins: int | None
    minutes: int
    standing: AppointmentStatus
    earliest: int | None
    latest: int | None
    needs: list[str]
    people: int
    worth: float
    latest_on: datetime.date | None
    version: int
    note: str
    reason: Reason
    said: str
    decides: str
    photos: Annotated[list[uuid.UUID], Field(description="Photographs of the site kept under these came with it.")]
    technician: Annotated[str, Field(description="Who comes, empty while nobody is chosen.")]
    town: str
    access: Annotated[str, Field(description="How one gets in.")]
    located: Annotated[bool, Field(description="False: nobody put the site on the map, and its place is a guess.")]
    hazard: str
    services: list[PlannedServiceOut]
    longitude: float
    latitude: float


class CallOut(TypedDict):
    appointment: AppointmentOut
    arrives: int
    begins: int
    ends: int


class PointOut(TypedDict):
    longitude: float
    latitude: float


class DoneOut(TypedDict):
    """A visit that is over."""

    id: int
    site_id: int
    site: str
    begins: int | None


class RoundOut(TypedDict):
    """One member's day."""

    member_id: int
    user_id: int
    name: str
    helper: str
    able: list[str]
    place: str
    begins: int
    ends: int
    back: int
    driving: int
    lunch: int | None
    lunch_minutes: int
    calls: list[CallOut]
    done: NotRequired[
        Annotated[
            list[DoneOut], Field(description="What was visited on it already; a device may keep a day without it.")
        ]
    ]
    way: list[PointOut]
    faults: list[str]


class DayOut(TypedDict):
    on: datetime.date
    rounds: list[RoundOut]
    without_time: Annotated[list[AppointmentOut], Field(description="Kept on this day, with nobody and no time yet.")]


class UnplacedOut(TypedDict):
    total: int
    rows: list[AppointmentOut]


class TargetIn(Payload):
    """Where a visit is to go: to a member's day, or back among a week's unplaced."""

    week: Day
    on: Day | None = None
    member_id: Id | None = None
    position: Annotated[int, Field(ge=0, le=500)] | None = None
    agreed: bool = Field(default=False, description="With the customer, who is promised the time around it.")


class MoveIn(TargetIn):
    version: int
    override: bool = False
    why: Annotated[str, text(160)] = Field(default="", description="Told to a customer whose time it changes.")


class CostOut(Schema):
    driving: int
    ends: int | None
    faults: list[str]
    lateness: list[str]
    refused: bool
    position: int | None


class PromiseIn(Payload):
    """A promise of a time of the day it is on, or its withdrawal."""

    version: int
    standing: Literal["planned", "kept", "offered", "promised", "called_off"]
    on: Day | None = None
    earliest: Clock | None = None
    latest: Clock | None = None
    why: Annotated[str, text(160)] = Field(default="", description="Told to a customer whose time it changes.")
    agreed: bool = Field(default=False, description="With the customer: nobody has to be told.")


class DisturbanceIn(Payload):
    kind: Literal["overrun", "nobody_home", "emergency", "away"]
    at: Clock
    appointment_id: Id | None = None
    member_id: Id | None = Field(None, description="Who is away: what is left of their day is dealt out.")
    minutes: Annotated[int, Field(ge=0, le=600)] = 0
    site_id: Id | None = None
    needs: list[Annotated[str, StringConstraints(max_length=24)]] = []
    words: Annotated[str, text(140)] = ""
    decides: Annotated[str, text(70)] = ""


class LateIn(Payload):
    minutes: Annotated[int, Field(ge=1, le=480)]


class NotDoneIn(Payload):
    why: NotDone
    words: Annotated[str, text(200)] = ""


class DisturbedOut(TypedDict):
    changes: list[str]


class RoadOut(TypedDict):
    line: list[PointOut]


class PositionOut(CostOut):
    """A place on a day's rounds."""

    member_id: int
    position: int
    begins: int


class PossibleOut(CostOut):
    """A place that a visit could be moved to."""

    on: datetime.date
    member_id: int
    name: str
    begins: int


class VersionIn(Payload):
    id: Id
    version: int


class ShiftIn(Payload):
    """Visits to put into another week; ``dry`` only tells what that would do."""

    visits: Annotated[list[VersionIn], Field(max_length=300)]
    week: Day
    dry: bool = True


class ShiftOut(Schema):
    moved: int
    stay: list[str] = Field(description="Sites that were offered or promised their day: they are not moved.")
    past_latest: list[str]
    closed: list[str] = Field(description="Sites that are closed all that week.")
    over_days: int
    hours: float
    capacity: float


class BookingAskedIn(Payload):
    """A visit that somebody asks for."""

    site_id: Id
    reason: Reason = Reason.WISH
    minutes: Annotated[int, Field(ge=18, le=600)] = 60
    needs: Annotated[list[Annotated[str, StringConstraints(max_length=24)]], Field(max_length=8)] = []
    people: Annotated[int, Field(ge=1, le=2)] = 1
    said: Annotated[str, text(240)] = ""
    decides: Annotated[str, text(120)] = ""
    photos: Annotated[list[uuid.UUID], Field(max_length=4)] = []
    ride_along: bool = Field(default=True, description="What is due there by then is done at it.")


class UsualCallOut(TypedDict):
    """What people ring for, and what is said to them first."""

    name: str
    says: str
    first: list[str]
    ask: list[str]
    reason: Reason | None
    minutes: int
    is_urgent: bool


class SlotsIn(BookingAskedIn):
    first: Day
    days: Annotated[int, Field(ge=1, le=28)] = 14


class RidesOut(Schema):
    """What is due at the site and would be done at the visit."""

    heater_id: int
    component: Component
    due_on: datetime.date | None


class SiteVisitOut(AppointmentOut):
    """A visit to come, and what the customer is asked to prepare."""

    prepare: list[str]


class SlotsOut(Schema):
    places: list[PossibleOut]
    prepare: list[str]
    rides_along: list[RidesOut]
    minutes: int


class BookingIn(BookingAskedIn, TargetIn):
    override: bool = False


class NextVisitOut(TypedDict):
    """When somebody comes next."""

    id: int
    week: datetime.date
    on: datetime.date | None
    begins: int | None
    earliest: int | None
    latest: int | None
    standing: AppointmentStatus
    reason: Reason
    technician: str

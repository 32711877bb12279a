"""What is asked of projections, and how they are told."""

import datetime
from typing import Annotated

from pydantic import Field, StringConstraints, model_validator
from typing_extensions import TypedDict

from aquifer.core.ahead.decisions import ALLOWED, DecisionKind
from aquifer.core.ahead.luck import LONGEST_YEARS
from aquifer.core.vocabulary import FlushMethod, Practice
from aquifer.projections.found import Group
from aquifer.projections.models import ProjectionState
from aquifer.wire import Id, Payload, text

_WORDS: dict[DecisionKind, list[str]] = {
    DecisionKind.PRACTICE: [str(one) for one in Practice],
    DecisionKind.METHOD: [str(one) for one in FlushMethod],
}


class DecisionIn(Payload):
    """One thing that is tried."""

    kind: DecisionKind
    value: Annotated[
        float | None, Field(description="A share, a number or a factor; see the decision's own range.")
    ] = None
    word: Annotated[str | None, StringConstraints(max_length=24)] = None
    zone_id: Id | None = None
    share: Annotated[float | None, Field(ge=0, le=1, description="Of those who are asked, who agree.")] = None
    list_id: Annotated[Id | None, Field(description="Taken over: the heaters of a list that was checked.")] = None

    @model_validator(mode="after")
    def _is_whole(self) -> "DecisionIn":
        allowed = ALLOWED[self.kind]
        if self.list_id is not None:
            if self.kind is not DecisionKind.TAKE_OVER or self.value is not None:
                raise ValueError(f"{self.kind}: with a list and a number; allowed: take_over with one of both")
            return self
        if allowed is not None and (self.value is None or not allowed.low <= self.value <= allowed.high):
            raise ValueError(f"{self.kind}: {self.value}; allowed: {allowed.low:g} to {allowed.high:g}")
        words = _WORDS.get(self.kind)
        if words is not None and self.word not in words:
            raise ValueError(f"{self.kind}: {self.word}; allowed: {', '.join(words)}")
        if self.kind is DecisionKind.WATER and self.zone_id is None:
            raise ValueError("water: no zone; allowed: one of the zones")
        return self


class ProjectionIn(Payload):
    name: Annotated[str, text(80)] = ""
    years: Annotated[int, Field(ge=1, le=LONGEST_YEARS)] = 5
    decisions: Annotated[list[DecisionIn], Field(max_length=12)] = []


class YearFanOut(TypedDict):
    """What eight of ten futures lie between, and the middle one."""

    low: float
    middle: float
    high: float


def fan_of(low: float, middle: float, high: float) -> YearFanOut:
    return {"low": round(float(low), 1), "middle": round(float(middle), 1), "high": round(float(high), 1)}


class SeriesOut(TypedDict):
    name: str
    by_year: list[YearFanOut]


class GroupsOut(TypedDict):
    by: str
    rows: Annotated[list[Group], Field(description="With what a year of them comes to on average.")]


class DecisionOut(TypedDict):
    kind: DecisionKind
    value: float | None
    word: str | None
    zone_id: int | None
    zone: str
    share: float | None
    list_name: Annotated[str, Field(description="The file whose heaters are taken over; empty for none.")]


class ProjectionRowOut(TypedDict):
    id: int
    name: str
    asked_on: datetime.date
    asked_by: str
    years: int
    state: ProjectionState
    error: str
    parts_left: Annotated[int, Field(description="That are still to be lived.")]
    decisions: list[DecisionOut]


class LosingSiteOut(TypedDict):
    site_id: int
    site: str
    plan: Annotated[str, Field(description="That it is on today; empty for none.")]
    heaters: int
    hours: float
    income: float
    cost: float


class LosingOut(TypedDict):
    """Sites that cost more than they bring, a year of the projection on average."""

    of: int
    sites: int
    rows: Annotated[list[LosingSiteOut], Field(description="The worst of them.")]


class SeasonPlannedOut(TypedDict):
    """What the season in force has in its year, as it was planned: done by another rule than the years ahead are."""

    first_week: datetime.date
    visits: int
    flushes: int
    descales: int


class ProjectionOut(ProjectionRowOut):
    """With what its futures come to; figures are of a year."""

    heaters: int
    until: list[datetime.date]
    currency: str
    missing: Annotated[list[str], Field(description="What the price book does not know: counted as nothing.")]
    crew_hours: float
    joining: Annotated[float, Field(description="Heaters that come into care in a year.")]
    leaving: Annotated[float, Field(description="Share of the sites that leave in a year.")]
    calls_a_year: float
    accepted: Annotated[float, Field(description="Share of advised replacements that owners agree to.")]
    softened: int
    replaced: int
    taken_over: float
    series: list[SeriesOut]
    groups: list[GroupsOut]
    losing: LosingOut
    season: Annotated[
        SeasonPlannedOut | None, Field(description="A year planned about when the base was reckoned as it is; or none.")
    ]


class DifferenceOut(TypedDict):
    name: str
    by_year: list[YearFanOut]
    over_all: YearFanOut
    less_share: Annotated[float, Field(description="Of the futures, in how many the other comes to less.")]
    same_share: float


class BesideOut(TypedDict):
    differences: list[DifferenceOut]


class HeldYearOut(TypedDict):
    """A year that was told and has passed."""

    asked_on: datetime.date
    until: datetime.date
    name: str
    came: int
    low: float
    middle: float
    high: float


class HeldOut(TypedDict):
    rows: list[HeldYearOut]
    inside: int

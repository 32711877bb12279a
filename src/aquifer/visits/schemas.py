"""What a visit looks like on the wire: one shape of finding for each task."""

import datetime
import uuid
from typing import Annotated, Literal

from ninja import Schema
from pydantic import ConfigDict, Field, StringConstraints

from aquifer.core.vocabulary import (
    Alloy,
    Clarity,
    Component,
    DrainFlow,
    FlushMethod,
    Removed,
    RodGrade,
    Texture,
    ValveOutcome,
)


class _Payload(Schema):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class FlushFindingIn(_Payload):
    task: Literal["flush"]
    method: FlushMethod
    removed: Removed | None = None
    removed_l: float | None = Field(None, ge=0, le=500)
    depth_before_mm: float | None = Field(None, ge=0, le=2000)
    clarity: Clarity | None = None
    texture: Texture | None = None
    drain_flow: DrainFlow | None = None


class DescaleFindingIn(_Payload):
    task: Literal["descale"]
    removed: Removed | None = None
    dissolved_g: float | None = Field(None, ge=0, le=50_000)


class RodFindingIn(_Payload):
    task: Literal["anode_inspection"]
    grade: RodGrade | None = None
    diameter_mm: float | None = Field(None, ge=0, le=100)
    bare_wire_mm: float | None = Field(None, ge=0, le=5000)


class RodReplacementIn(_Payload):
    task: Literal["anode_replacement"]
    alloy: Alloy | None = None
    diameter_mm: float | None = Field(None, ge=5, le=100)
    length_mm: float | None = Field(None, ge=50, le=5000)
    count: int | None = Field(None, ge=1, le=12)


class ValveFindingIn(_Payload):
    task: Literal["relief_valve_exercise"]
    outcome: ValveOutcome


class ValveReplacementIn(_Payload):
    task: Literal["relief_valve_replacement"]


FindingIn = Annotated[
    FlushFindingIn | DescaleFindingIn | RodFindingIn | RodReplacementIn | ValveFindingIn | ValveReplacementIn,
    Field(discriminator="task"),
]


class VisitIn(_Payload):
    client_id: uuid.UUID
    heater_id: int = Field(ge=1, le=2**62)
    on: datetime.date
    findings: list[FindingIn] = Field(min_length=1, max_length=40)
    note: Annotated[str, StringConstraints(strip_whitespace=True, max_length=500, pattern=r"^[^\x00]*$")] = ""
    supervised_by: int | None = Field(None, ge=1, le=2**62)


class MovedOut(Schema):
    component: Component
    before_on: datetime.date | None
    after_on: datetime.date | None
    days: int | None
    sentence: str


class VisitOut(Schema):
    id: int
    client_id: uuid.UUID
    heater_id: int
    on: datetime.date
    moved: list[MovedOut]
    already_recorded: bool

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
    Corrosion,
    DrainFlow,
    FlushMethod,
    Fouling,
    Noise,
    Removed,
    RodGrade,
    Texture,
    UpkeepItem,
    ValveOutcome,
    VesselPin,
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
    flow_before_l_min: float | None = Field(None, ge=0.1, le=1000)
    rise_before_k: float | None = Field(None, ge=1, le=90)
    flow_after_l_min: float | None = Field(None, ge=0.1, le=1000)
    rise_after_k: float | None = Field(None, ge=1, le=90)


class RodFindingIn(_Payload):
    task: Literal["anode_inspection"]
    grade: RodGrade | None = None
    diameter_mm: float | None = Field(None, ge=0, le=100)
    bare_wire_mm: float | None = Field(None, ge=0, le=5000)
    could_not_open: bool = False


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


class VesselFindingIn(_Payload):
    task: Literal["expansion_tank_check"]
    at_valve: VesselPin | None = None
    precharge_kpa: float | None = Field(None, ge=0, le=3000)


class VesselReplacementIn(_Payload):
    task: Literal["expansion_tank_replacement"]
    volume_l: float | None = Field(None, ge=0.1, le=2000)
    precharge_kpa: float | None = Field(None, ge=0, le=3000)


class PressureFindingIn(_Payload):
    task: Literal["pressure_test"]
    static_kpa: float | None = Field(None, ge=0, le=3000)
    creep_kpa: float | None = Field(None, ge=-3000, le=3000)
    falls: bool | None = None


class LookFindingIn(_Payload):
    task: Literal["look_over"]
    noise: Noise | None = None
    corrosion: Corrosion | None = None
    rusty_hot_water: bool | None = None
    valve_drips: bool | None = None
    element_failed: bool | None = None


class UpkeepFindingIn(_Payload):
    task: Literal["upkeep"]
    item: UpkeepItem
    fouling: Fouling | None = None


class HouseholdChangeIn(_Payload):
    task: Literal["household_change"]


FindingIn = Annotated[
    FlushFindingIn
    | DescaleFindingIn
    | RodFindingIn
    | RodReplacementIn
    | ValveFindingIn
    | ValveReplacementIn
    | VesselFindingIn
    | VesselReplacementIn
    | PressureFindingIn
    | LookFindingIn
    | UpkeepFindingIn
    | HouseholdChangeIn,
    Field(discriminator="task"),
]


class StepEventIn(_Payload):
    """What was done at a step of the guide."""

    kind: Literal["done", "skipped", "otherwise", "despite"]
    step: Annotated[str, StringConstraints(min_length=1, max_length=80, pattern=r"^[a-z_]+\.[a-z_]+$")]
    choice: int = Field(0, ge=0, le=20)
    at: datetime.datetime = Field(description="By the device's clock, which may be wrong.")
    why: Annotated[str, StringConstraints(max_length=300, strip_whitespace=True, pattern=r"^[^\x00]*$")] = ""
    tap_c: float | None = Field(None, ge=5, le=99, description="Hottest water measured at a tap.")


class VisitIn(_Payload):
    client_id: uuid.UUID
    heater_id: int = Field(ge=1, le=2**62)
    on: datetime.date
    findings: list[FindingIn] = Field(min_length=1, max_length=40)
    note: Annotated[str, StringConstraints(strip_whitespace=True, max_length=500, pattern=r"^[^\x00]*$")] = ""
    supervised_by: int | None = Field(None, ge=1, le=2**62)
    steps: list[StepEventIn] = Field(default=[], max_length=600)


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


Condition = list[dict[str, list[str]]]


class GuideOtherwiseOut(Schema):
    says: str
    then: list[str]
    ends: bool


class GuideStepOut(Schema):
    """A step of a procedure; what it changes and needs is told in the guide's fields."""

    id: str
    do: str
    why: str
    caution: str
    tool: str
    expect: str
    minutes: float
    figure: str
    through: dict[str, str]
    sets: dict[str, str]
    needs: Condition
    way_out: str
    asks: list[str]
    licence: str
    otherwise: list[GuideOtherwiseOut]


class GuideProcedureOut(Schema):
    title: str
    version: int
    steps: list[GuideStepOut]


class GuideRuleOut(Schema):
    """A state that hurts; a step that would lead to it is held."""

    name: str
    forbids: Condition
    says: str
    way_out: str


class FigureOut(Schema):
    name: str
    value: float
    unit: str
    formula: str
    source: str


class GuideOut(Schema):
    """All that a device needs to lead through a visit, without a signal too."""

    heater_id: int
    components: list[Component]
    possible: list[Component] = Field(description="What this heater has that can be served.")
    flush_method: FlushMethod
    facts: dict[str, str]
    start: dict[str, str]
    fields: dict[str, list[str]]
    restored: dict[str, list[str]]
    order: list[str]
    restoring: list[str]
    rules: list[GuideRuleOut]
    procedures: dict[str, GuideProcedureOut]
    figures: list[FigureOut]
    usual_readings: dict[str, list[float]] = Field(description="Outside of these a reading is asked for once more.")
    may_override: bool

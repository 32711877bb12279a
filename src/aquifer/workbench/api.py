"""Bench over HTTP."""

from typing import Annotated, Any

from django.http import HttpRequest
from django.utils import timezone
from ninja import Query, Router, Schema
from pydantic import Field, model_validator

from aquifer.accounts.access import Action, allowed
from aquifer.core.bench.lives import CareName
from aquifer.core.kinds import HeaterKind
from aquifer.wire import Id, Payload
from aquifer.workbench import lives

router = Router(tags=["bench"])


class LivesIn(Payload):
    """A new tank on a water, a zone's or one of some hardness, and how it is kept: a figure a life, in their order."""

    kind: HeaterKind = HeaterKind.GAS_TANK
    capacity_l: Annotated[float, Field(ge=5, le=2000)] = 190
    people: Annotated[float, Field(ge=0.5, le=50)] = 4
    zone_id: Id | None = None
    hardness_mg_l: Annotated[float, Field(ge=0, le=900)] | None = None
    seed: Annotated[int, Field(ge=1, le=10_000)] | None = Field(None, description="None is ordinary luck.")
    care: Annotated[list[CareName], Field(min_length=1, max_length=2)]
    softened: Annotated[list[bool], Field(max_length=2)] = []
    setpoint_c: Annotated[list[Annotated[float, Field(ge=40, le=85)]], Field(max_length=2)] = []

    @model_validator(mode="after")
    def _one_tank(self) -> "LivesIn":
        if not self.kind.is_tank:
            raise ValueError("a tankless heater has no bed, rod or wall to watch; choose a tank")
        return self


class LifeOut(Schema):
    """One life, a point every quarter."""

    depth_mm: list[float]
    rod_left: list[float]
    hot_l: list[float] = Field(description="In one draw.")
    energy_kwh: list[float] = Field(description="A year.")
    leak_within_year: list[float]
    valve_stuck: list[float]
    loud: list[int] = Field(description="0 quiet, 1 bubbles, 2 pops or rumbles.")
    leaks_in_year: float | None
    bare_from_year: float | None
    rods_in_years: list[float]
    depth_fan_mm: list[list[float]] = Field(description="At P10, P50 and P90 of many lives.")
    leaked_share: list[float] = Field(description="Of many lives, how many have leaked by then.")


class LivesOut(Schema):
    water: str = Field(description="The zone's name; empty where none was chosen.")
    hardness_mg_l: float
    height_mm: float = Field(description="Of the water in a tank of this size.")
    is_fired: bool = Field(description="From below, so that deposit lies over the flame.")
    years: list[float]
    sides: list[LifeOut]


@router.get("/bench/lives", response=LivesOut, auth=allowed(Action.READ))
def two_lives(request: HttpRequest, asked: Query[LivesIn]) -> dict[str, Any]:
    """Twenty years of a tank under one care beside another, with the same luck. Nothing is kept."""
    tank = asked.dict(exclude={"care", "softened", "setpoint_c"})
    softened, setpoints = [*asked.softened, False, False], [*asked.setpoint_c, 60.0, 60.0]
    sides = [lives.Side(care, softened[n], setpoints[n]) for n, care in enumerate(asked.care)]
    return lives.told(lives.Asked(**tank), sides, timezone.localdate())

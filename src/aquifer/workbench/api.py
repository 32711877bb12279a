"""Bench over HTTP."""

import datetime
from typing import Annotated, Any, Literal

from django.http import HttpRequest
from django.utils import timezone
from ninja import Query, Router, Schema
from pydantic import AfterValidator, Field, model_validator

from aquifer.accounts.access import Action, allowed, who
from aquifer.core.bench.hand import HANDLES, Act
from aquifer.core.bench.lives import CareName
from aquifer.core.bench.practice import LONGEST_S, TELLINGS
from aquifer.core.bench.scenario import NOTES
from aquifer.core.kinds import HeaterKind
from aquifer.core.procedures import calculators
from aquifer.visits.schemas import FigureOut
from aquifer.visits.words import figure_told, units_shown
from aquifer.wire import Id, Payload, text
from aquifer.workbench import lives, practice

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


def _known_handle(name: str) -> str:
    if name not in (*HANDLES, *NOTES, *TELLINGS):
        raise ValueError(f"allowed: {', '.join((*HANDLES, *NOTES, *TELLINGS))}")
    return name


class ActIn(Payload):
    """One thing that somebody did: turned, noted, or told the guide."""

    at_s: Annotated[int, Field(ge=0, le=LONGEST_S, description="Whole seconds since the door.")]
    handle: Annotated[str, AfterValidator(_known_handle)]
    to: Annotated[str, text(80)] = ""


class AtBenchIn(Payload):
    """A practice: its acts so far, and until when it is to be told."""

    scenario: Annotated[str, text(60)]
    seed: Annotated[int, Field(ge=1, le=1_000_000)] = 1
    guided: bool = False
    acts: Annotated[list[ActIn], Field(max_length=600)] = []
    at_s: Annotated[int, Field(ge=0, le=LONGEST_S)] = 0
    harms: Annotated[int, Field(ge=0, le=100, description="How many are known: a new one stops the clock.")] = 0
    cut: Annotated[bool, Field(description="The tank is cut open.")] = False


class SeenOut(Schema):
    """What eyes, ears and instruments tell."""

    cold_open: bool
    main_open: bool
    tap_open: bool
    drain: Literal["open", "cracked", "shut"]
    hose: bool
    hose_in: str
    gauge: bool
    cap: bool
    lever_up: bool
    relief_bucket: bool
    dial: str = Field(description="off, pilot or on; empty for an electric heater.")
    mark_c: float
    gas_open: bool
    pilot_lit: bool
    breaker: str = Field(description="on, off or locked; empty for a gas heater.")
    burns: bool
    outlet: str = Field(description="Where the relief pipe ends; empty until somebody looked.")
    drain_runs: Literal["runs", "drips", "dry"]
    drain_c: float | None
    drain_l_min: float
    murk_g_l: float
    clarity: Literal["clear", "cloudy", "murky", "dark"]
    tap_runs: Literal["runs", "spits", "dry"]
    tap_c: float | None
    tap_l_min: float
    relief_runs: Literal["runs", "drips", "dry"]
    gauge_kpa: float | None
    bucket_l: float
    bucket_g: float
    relief_bucket_l: float
    floor_l: float
    sounds: list[Literal["rush", "gurgle", "spit", "burner"]]
    removed_l: float


class LayerOut(Schema):
    """Water of one warmth."""

    to: float = Field(description="Up to which share of the tank's height.")
    celsius: float


class InsideOut(Schema):
    """A tank cut open."""

    share: float
    layers: list[LayerOut] = Field(description="From the floor up.")
    loose_share: float
    hard_share: float
    lower_burnt: bool
    upper_burnt: bool
    floor_c: float


class ToReadOut(Schema):
    """A step of the trade to be read again."""

    title: str
    do: str
    why: str
    caution: str


class HarmOut(Schema):
    name: str
    says: str
    at_s: int
    act: int = Field(description="The place of the act that led there; -1 for none.")
    read: ToReadOut


class RefusalOut(Schema):
    act: int
    says: str


class BenchWayOut(Schema):
    """What a step may show instead."""

    choice: int
    says: str


class BenchHoldOut(Schema):
    """What holds a step, and the way out."""

    rule: str
    says: str
    out_says: str


class BenchStepOut(Schema):
    """The guide's present step; empty when it is at its end."""

    step: str
    title: str
    do: str
    why: str
    caution: str
    expect: str
    part: str
    otherwise: list[BenchWayOut]
    held: list[BenchHoldOut]
    left: int
    done: int


class AtBenchOut(Schema):
    at_s: int
    acts: int = Field(description="How many acts led here.")
    is_over: bool = Field(description="Nobody practises longer.")
    seen: SeenOut
    inside: InsideOut | None
    harms: list[HarmOut]
    refusals: list[RefusalOut]
    drew: list[int] = Field(description="Seconds at which somebody in the house drew hot water.")
    guide: BenchStepOut | None


class MarkOut(Schema):
    name: str
    good: bool
    must: bool
    says: str
    read: ToReadOut | None


class GradeOut(Schema):
    passed: bool
    share: float
    marks: list[MarkOut]


class EndedOut(Schema):
    practice: AtBenchOut
    grade: GradeOut


class HandleOut(Schema):
    name: str
    to: list[str]


class ScenarioOut(Schema):
    """A heater to practise on, and how whoever asks did."""

    name: str
    title: str
    says: str
    kind: HeaterKind
    handles: list[HandleOut]
    asks: list[str]
    within_min: float
    tries: int
    passed_free: datetime.datetime | None
    passed_guided: datetime.datetime | None
    best_share: float | None


class PractisedByOut(Schema):
    """How somebody did."""

    user_id: int
    name: str
    role: str
    tries: int
    passed: list[str]
    last_at: datetime.datetime | None
    harms: int = Field(description="In the last ten practices.")


@router.get("/bench/scenarios", response=list[ScenarioOut], auth=allowed(Action.READ))
def bench_scenarios(request: HttpRequest) -> list[dict[str, Any]]:
    """Heaters to practise on."""
    return practice.offered(who(request))


@router.get("/bench/calculators", response=list[FigureOut], auth=allowed(Action.READ))
def bench_calculators(request: HttpRequest) -> list[dict[str, Any]]:
    """Every calculator, filled in for a usual tank."""
    units = units_shown()
    return [figure_told(one, units) for one in calculators.filled(calculators.USUAL, "bench")]


@router.get("/bench/people", response=list[PractisedByOut], auth=allowed(Action.KEEP_PEOPLE))
def bench_people(request: HttpRequest) -> list[dict[str, Any]]:
    """Who passed what."""
    return practice.by_person()


@router.post("/bench/practice", response=AtBenchOut, auth=allowed(Action.PRACTISE))
def bench_practice(request: HttpRequest, body: AtBenchIn) -> dict[str, Any]:
    """Where a practice stands after its acts. Nothing is kept."""
    scenario = practice.scenario_named(body.scenario)
    one = practice.stood(scenario, body.seed, _acts(body), body.at_s, body.harms)
    return practice.told(one, body.guided, body.cut)


@router.post("/bench/practised", response={201: EndedOut}, auth=allowed(Action.PRACTISE))
def bench_practised(request: HttpRequest, body: AtBenchIn) -> tuple[int, dict[str, Any]]:
    """A practice ends: it is graded and kept. One at which the tank was cut open passes nothing."""
    scenario = practice.scenario_named(body.scenario)
    _, one, grade = practice.ended(
        who(request), scenario, body.seed, _acts(body), body.at_s, body.guided, looked=body.cut
    )
    return 201, {"practice": practice.told(one, body.guided, True), "grade": practice.grade_told(grade)}


def _acts(body: AtBenchIn) -> list[Act]:
    return [Act(one.at_s, one.handle, one.to) for one in body.acts]

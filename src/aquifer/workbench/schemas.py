"""What Bench tells."""

import datetime
from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field
from typing_extensions import TypedDict

from aquifer.core.bench.trouble.rig import Line
from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import Component


class LifeOut(TypedDict):
    """One life, a point every quarter."""

    depth_mm: list[float]
    rod_left: list[float]
    hot_l: Annotated[list[float], Field(description="In one draw.")]
    energy_kwh: Annotated[list[float], Field(description="A year.")]
    recover_min: Annotated[list[float], Field(description="To heat again what one draw takes.")]
    leak_within_year: list[float]
    valve_stuck: list[float]
    loud: Annotated[list[int], Field(description="0 quiet, 1 bubbles, 2 pops or rumbles.")]
    leaks_in_year: float | None
    bare_from_year: float | None
    blocked_from_year: Annotated[float | None, Field(description="From when the bed lies over the drain to the end.")]
    rods_in_years: list[float]
    depth_fan_mm: Annotated[list[list[float]], Field(description="At P10, P50 and P90 of many lives.")]
    leaked_share: Annotated[list[float], Field(description="Of many lives, how many have leaked by then.")]
    visits_cost: Annotated[list[float], Field(description="Since it was new, of many lives on average; and rods.")]
    leaks_cost: Annotated[list[float], Field(description="A new tank where one leaks, and what the water does.")]
    visits: Annotated[float, Field(description="How often somebody came in all the years, on average.")]


class ExchangerLifeOut(TypedDict):
    """One life of a tankless heater, a point every quarter."""

    thickness_mm: list[float]
    flow_l_min: Annotated[list[float], Field(description="At full draw, by a rise of 35 K.")]
    energy_kwh: Annotated[list[float], Field(description="A year.")]
    cuts_out_in_year: Annotated[float | None, Field(description="At full draw, for the first time.")]
    thickness_fan_mm: Annotated[list[list[float]], Field(description="At P10, P50 and P90 of many lives.")]
    cuts_out_share: Annotated[list[float], Field(description="Of many lives, how many cut out then.")]
    visits_cost: Annotated[list[float], Field(description="Since it was new.")]


class ExchangerLivesOut(TypedDict):
    water: str
    hardness_mg_l: float
    limit_mm: Annotated[float, Field(description="What an exchanger is taken to bear.")]
    passage_mm: Annotated[float, Field(description="To where scale may reach at all.")]
    years: list[float]
    currency: str
    unpriced: list[str]
    sides: list[ExchangerLifeOut]


class LifeLinkOut(TypedDict):
    address: Annotated[str, Field(description="Empty where nobody said at which address we are reached.")]


class LivesOut(TypedDict):
    water: Annotated[str, Field(description="The zone's name; empty where none was chosen.")]
    hardness_mg_l: float
    height_mm: Annotated[float, Field(description="Of the water in a tank of this size.")]
    is_fired: Annotated[bool, Field(description="From below, so that deposit lies over the flame.")]
    years: list[float]
    currency: str
    unpriced: Annotated[list[str], Field(description="What the price book does not know; it counts as nothing.")]
    sides: list[LifeOut]


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
    dial: str = Field(description="off, pilot or on; empty for a heater without a burner.")
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
    rod: Literal["in", "loose", "out"]
    rod_head: Literal["", "hex", "none"] = Field(description="Empty until somebody looked.")
    rod_bare_mm: float | None = Field(description="Wire that shows, of a rod that is out.")
    rod_thick_mm: float | None
    rod_left: float | None = Field(description="Share of its metal, of a rod that is out.")
    hot_pipe: bool
    probe: Literal["", "reaches", "short"] = Field(description="Of the relief valve; empty until somebody looked.")
    at_drain: Literal["", "left", "right"] = Field(description="At which of two drains the hands are.")
    tank_drain: Literal["", "left", "right"] = Field(description="Which is the tank's, once somebody followed them.")
    boiler_kpa: float | None
    leaks: bool
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
    rod_left: float | None = Field(description="Share of its metal; null where it is out.")


class ToReadOut(TypedDict):
    """A step of the trade to be read again."""

    title: str
    do: str
    why: str
    caution: str


class HarmOut(TypedDict):
    name: str
    says: str
    at_s: int
    act: Annotated[int, Field(description="The place of the act that led there; -1 for none.")]
    read: ToReadOut


class RefusalOut(TypedDict):
    act: int
    says: str


class BenchWayOut(TypedDict):
    """What a step may show instead."""

    choice: int
    says: str


class BenchHoldOut(TypedDict):
    """What holds a step, and the way out."""

    rule: str
    says: str
    out_says: str


class BenchStepOut(TypedDict):
    """The guide's present step; empty when it is at its end."""

    step: str
    title: str
    do: str
    why: str
    caution: str
    expect: str
    part: str
    deviations: list[BenchWayOut]
    held: list[BenchHoldOut]
    left: int
    done: int


class AtBenchOut(TypedDict):
    at_s: int
    acts: Annotated[int, Field(description="How many acts led here.")]
    is_over: Annotated[bool, Field(description="Nobody practises longer.")]
    seen: SeenOut
    inside: InsideOut | None
    harms: list[HarmOut]
    refusals: list[RefusalOut]
    drew: Annotated[list[int], Field(description="Seconds at which somebody in the house drew hot water.")]
    guide: BenchStepOut | None


class MarkOut(TypedDict):
    name: str
    good: bool
    must: bool
    says: str
    read: ToReadOut | None


class GradeOut(TypedDict):
    passed: bool
    share: float
    marks: list[MarkOut]


class EndedOut(TypedDict):
    practice: AtBenchOut
    grade: GradeOut


class HandleOut(TypedDict):
    name: str
    to: list[str]


class ScenarioOut(TypedDict):
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


class PractisedByOut(TypedDict):
    """How somebody did."""

    user_id: int
    name: str
    role: str
    tries: int
    passed: list[str]
    last_at: datetime.datetime | None
    harms: Annotated[int, Field(description="In the last ten practices.")]


class AskedOut(TypedDict):
    """What is asked for before somebody does some work alone."""

    work: Component
    passes: Annotated[int, Field(description="Practices passed without the guide.")]
    visits: Annotated[int, Field(description="Supervised visits at which it was done.")]
    can_practise: Annotated[bool, Field(description="A heater of the bench has this work.")]
    version: int


class SignedOffWorkOut(TypedDict):
    work: Component
    sign_off_id: Annotated[int | None, Field(description="In force today; none where somebody has to be with them.")]
    until: Annotated[datetime.date | None, Field(description="Its last day; none does not end.")]
    by: str
    why: Annotated[str, Field(description="Why before all that is asked for was done.")]
    passes: int
    visits: int


class SignedOffPersonOut(TypedDict):
    user_id: int
    name: str
    role: str
    is_new: bool
    supervised: Annotated[bool, Field(description="Needs a sign-off for what is done alone.")]
    work: list[SignedOffWorkOut]


class SignedOffOut(TypedDict):
    """Who may do what alone, until when, and how far the others are."""

    asked: list[AskedOut]
    people: list[SignedOffPersonOut]


class TroublePointOut(TypedDict):
    """Where a hand, an eye or an instrument can be."""

    name: str
    title: str
    line: Line
    deeds: list[str]


class CauseOut(TypedDict):
    """What it may be."""

    name: str
    says: str


class TroubleOut(TypedDict):
    """A complaint to look into, with how its person did."""

    name: str
    title: str
    says: str
    kind: HeaterKind
    tries: int
    passed_free: datetime.datetime | None
    passed_guided: datetime.datetime | None
    best_share: float | None
    within_min: float
    points: list[TroublePointOut]
    causes: list[CauseOut]


class ShownOut(TypedDict):
    """What a deed showed."""

    act: int
    at_s: int
    point: str
    deed: str
    says: str


class SearchOut(TypedDict):
    """Where a search stands."""

    at_s: Annotated[int, Field(description="What deeds take goes by with them.")]
    acts: Annotated[int, Field(description="How many acts led here.")]
    is_over: bool
    shown: list[ShownOut]
    harms: list[HarmOut]
    refusals: list[RefusalOut]
    cause: Annotated[str, Field(description="What was noted; empty until then.")]
    guide: BenchStepOut | None


class SearchedOut(TypedDict):
    search: SearchOut
    grade: GradeOut


class WrittenOut(TypedDict):
    """A heater to practise on that the company wrote itself."""

    name: str
    text: Annotated[str, Field(description="TOML, one table.")]
    is_trouble: bool
    by: str
    at: datetime.datetime


class WrittenOfOut(TypedDict):
    """A heater on record, written as one to practise on."""

    text: str


class InstrumentCourseOut(TypedDict):
    """What an instrument read, one after the other."""

    instrument: str
    seconds: list[int]
    values: Annotated[list[float], Field(description="In the unit of the reading, SI but for kPa.")]

"""What a visit looks like on the wire: one shape of finding for each task."""

import datetime
import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Literal, NotRequired

from ninja import Schema
from pydantic import (
    BeforeValidator,
    ConfigDict,
    Field,
    StringConstraints,
    ValidationError,
    ValidatorFunctionWrapHandler,
    WithJsonSchema,
    WrapValidator,
    field_validator,
)
from typing_extensions import TypedDict

from aquifer.core.bounds import within
from aquifer.core.place import Severity
from aquifer.core.procedures.document import Guide
from aquifer.core.procedures.formula import Tree
from aquifer.core.vocabulary import (
    Alloy,
    Clarity,
    Component,
    Corrosion,
    DrainFlow,
    ExpansionTankPin,
    FlushMethod,
    Fouling,
    Noise,
    Removed,
    RodGrade,
    Texture,
    UpkeepItem,
    ValveOutcome,
)
from aquifer.visits.models import EventKind, Extra
from aquifer.wire import Day, WrittenDay


class _Payload(Schema):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class FlushFindingIn(_Payload):
    task: Literal["flush"]
    method: FlushMethod
    removed: Removed | None = None
    removed_l: Annotated[float | None, within("flush.removed_l")] = None
    depth_before_mm: Annotated[float | None, within("flush.depth_before_mm")] = None
    depth_after_mm: Annotated[float | None, within("flush.depth_after_mm")] = None
    clarity: Clarity | None = None
    texture: Texture | None = None
    drain_flow: DrainFlow | None = None


class DescaleFindingIn(_Payload):
    task: Literal["descale"]
    removed: Removed | None = None
    dissolved_g: Annotated[float | None, within("descale.dissolved_g")] = None
    flow_before_l_min: Annotated[float | None, within("descale.flow_before_l_min")] = None
    rise_before_k: Annotated[float | None, within("descale.rise_before_k")] = None
    flow_after_l_min: Annotated[float | None, within("descale.flow_after_l_min")] = None
    rise_after_k: Annotated[float | None, within("descale.rise_after_k")] = None


class RodFindingIn(_Payload):
    task: Literal["anode_inspection"]
    grade: RodGrade | None = None
    diameter_mm: Annotated[float | None, within("rod.diameter_mm")] = None
    bare_wire_mm: Annotated[float | None, within("rod.bare_wire_mm")] = None
    could_not_open: bool = False


class _ReplacementIn(_Payload):
    alike: bool = Field(False, description="In every figure as the old one, read off both: what is not said is as it.")
    build: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80, pattern=r"^[^\x00]*$")] = ""


class RodReplacementIn(_ReplacementIn):
    task: Literal["anode_replacement"]
    alloy: Alloy | None = None
    diameter_mm: Annotated[float | None, within("anode.diameter_mm")] = None
    length_mm: Annotated[float | None, within("anode.length_mm")] = None
    count: Annotated[int | None, within("anode.count")] = None


class ValveFindingIn(_Payload):
    task: Literal["relief_valve_exercise"]
    outcome: ValveOutcome


class ValveReplacementIn(_ReplacementIn):
    task: Literal["relief_valve_replacement"]
    set_pressure_kpa: Annotated[float | None, within("relief_valve.set_pressure_kpa")] = None
    set_temperature_c: Annotated[float | None, within("relief_valve.set_temperature_c")] = None
    rating_kw: Annotated[float | None, within("relief_valve.rating_kw")] = None
    probe_length_mm: Annotated[float | None, within("relief_valve.probe_length_mm")] = None


class ExpansionTankFindingIn(_Payload):
    task: Literal["expansion_tank_check"]
    at_valve: ExpansionTankPin | None = None
    precharge_kpa: Annotated[float | None, within("expansion_tank.precharge_kpa")] = None


class ExpansionTankReplacementIn(_ReplacementIn):
    task: Literal["expansion_tank_replacement"]
    volume_l: Annotated[float | None, within("expansion_tank.volume_l")] = None
    precharge_kpa: Annotated[float | None, within("expansion_tank.precharge_kpa")] = None


class PressureFindingIn(_Payload):
    task: Literal["pressure_test"]
    static_kpa: Annotated[float | None, within("pressure.static_kpa")] = None
    creep_kpa: Annotated[float | None, within("pressure.creep_kpa")] = None
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
    | ExpansionTankFindingIn
    | ExpansionTankReplacementIn
    | PressureFindingIn
    | LookFindingIn
    | UpkeepFindingIn
    | HouseholdChangeIn,
    Field(discriminator="task"),
]


Words = Annotated[str, StringConstraints(strip_whitespace=True, max_length=300, pattern=r"^[^\x00]*$")]


EARLIEST_TAP = datetime.datetime(2000, 1, 1, tzinfo=datetime.UTC)
LATEST_TAP = datetime.datetime(2100, 1, 1, tzinfo=datetime.UTC)


FORMER_KINDS = {"otherwise": "deviation", "despite": "override", "took_back": "undo"}
"""What a page says that was opened before its server was renewed: its taps are taken as ever."""


class EventIn(_Payload):
    """One tap of a visit."""

    client_id: uuid.UUID
    clock: int = Field(ge=1, le=2**31 - 1, description="Above that of every event that the device knows of.")
    at: datetime.datetime = Field(description="By the device's clock, which may be wrong.")
    kind: Annotated[
        Literal[
            "done", "skipped", "deviation", "override", "undo", "answered", "asked", "set_aside", "settled", "outside",
            "found", "took_over", "noted",
        ],
        BeforeValidator(lambda kind: FORMER_KINDS.get(kind, kind) if isinstance(kind, str) else kind),
    ]  # fmt: skip
    step: Annotated[str, StringConstraints(max_length=80, pattern=r"^([a-z_]+\.[a-z_]+)?$")] = ""
    choice: int = Field(0, ge=0, le=20)
    turn: int = Field(0, ge=0, le=1000, description="Told by older devices; it bears on nothing.")
    name: Annotated[str, StringConstraints(max_length=40, pattern=r"^[a-z_]*$")] = ""
    known: int = Field(0, ge=0, le=2**62, description="Of other devices' events it knew those up to this number.")
    why: Words = Field("", description="Why it was done though held or set aside, or what the lead is asked.")
    field: Annotated[str, StringConstraints(max_length=60, pattern=r"^([a-zA-Z_]+(\.[a-zA-Z_]+)?)?$")] = ""
    value: Words | float | bool | None = None

    @field_validator("at")
    @classmethod
    def _within_a_calendar(cls, at: datetime.datetime) -> datetime.datetime:
        """A clock at the end of the calendar is a wrong clock: what it tells is moved to where days can be counted, and
        the tap is kept."""
        told = at if at.tzinfo else at.replace(tzinfo=datetime.UTC)
        return min(max(told, EARLIEST_TAP), LATEST_TAP)

    of: uuid.UUID | None = Field(None, description="The event that is taken back, or whose advice is followed.")


@dataclass(frozen=True)
class Unread:
    """What a device told that is no event, kept as it is."""

    told: object
    why: str


def _or_unread(told: object, read: ValidatorFunctionWrapHandler) -> object:
    """One tap that cannot be read leaves the others of its device theirs."""
    try:
        return read(told)
    except ValidationError as error:
        return Unread(told, what_is_wrong(error))


def what_is_wrong(error: ValidationError) -> str:
    """The first of it, by its field."""
    first = error.errors(include_url=False, include_input=False)[0]
    where = ".".join(str(part) for part in first["loc"])
    return f"{where}: {first['msg']}"[:160] if where else first["msg"][:160]


class SyncIn(_Payload):
    """What one device tells of a visit, and how far it knows what others told."""

    client_id: uuid.UUID
    heater_id: int = Field(ge=1, le=2**62)
    components: list[Component] = Field(max_length=12)
    extras: list[Extra] = Field([], max_length=8)
    upkeep: list[UpkeepItem] = Field([], max_length=12)
    flush_method: FlushMethod = FlushMethod.DRAIN_AND_PULSE
    complaint: Annotated[str, StringConstraints(max_length=40, pattern=r"^[a-z_]*$")] = ""
    order: list[str] = Field([], max_length=200, description="Told by older devices; the order is the server's.")
    device: uuid.UUID
    after: int = Field(0, ge=0, le=2**62)
    events: list[Annotated[EventIn, WrapValidator(_or_unread)]] = Field(max_length=500)

    @property
    def taps(self) -> list[EventIn]:
        """Those that could be read."""
        return [event for event in self.events if isinstance(event, EventIn)]

    @property
    def unread(self) -> list[Unread]:
        """Those that could not."""
        every: Sequence[object] = self.events
        return [one for one in every if isinstance(one, Unread)]


class SignatureIn(_Payload):
    """Drawn by hand: lines of points in a box 300 wide and 100 high."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80, pattern=r"^[^\x00]*$")]
    lines: list[list[tuple[Annotated[float, Field(ge=0, le=300)], Annotated[float, Field(ge=0, le=100)]]]] = Field(
        min_length=1, max_length=60
    )

    @field_validator("lines")
    @classmethod
    def _not_too_long(cls, lines: list[list[tuple[float, float]]]) -> list[list[tuple[float, float]]]:
        if sum(len(line) for line in lines) > 4000:
            raise ValueError("at most 4000 points")
        return lines


class VisitIn(_Payload):
    client_id: uuid.UUID
    heater_id: int = Field(ge=1, le=2**62)
    on: Day
    findings: list[FindingIn] = Field(
        [], max_length=40, description="Of a visit without events; else the server takes them from those."
    )
    note: Annotated[str, StringConstraints(strip_whitespace=True, max_length=500, pattern=r"^[^\x00]*$")] = ""
    supervised_by: int | None = Field(None, ge=1, le=2**62)
    signature: SignatureIn | None = None
    return_on: Day | None = Field(None, description="Promised to the customer where the heater is left off.")


class AmendmentIn(_Payload):
    """What is put right in a visit's record, or added to it; the record itself stays as it is."""

    client_id: uuid.UUID
    findings: list[FindingIn] = Field([], max_length=40)
    answers: dict[
        Annotated[str, StringConstraints(max_length=60, pattern=r"^[a-zA-Z_]+\.[a-zA-Z_]+$")],
        Words | float | bool | None,
    ] = Field({}, max_length=60, description="As at a visit's steps; what was found follows from them.")
    why: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=300, pattern=r"^[^\x00]*$")]


class ReasonKept(TypedDict):
    """One reason as it is kept: a key of ``core.reasons.WORDS``, and its figures in SI."""

    key: str
    figures: dict[str, float | str]


class MovedKept(TypedDict):
    """What a visit moved, as it is kept with it."""

    component: Component
    before_on: WrittenDay | None
    after_on: WrittenDay | None
    days: int | None
    reasons: list[ReasonKept]
    looked_at: NotRequired[bool]


class MovedOut(TypedDict):
    component: Component
    before_on: WrittenDay | None
    after_on: WrittenDay | None
    days: int | None
    sentence: str
    looked_at: NotRequired[Annotated[bool, Field(description="Something was found of it; not told of older visits.")]]


class FollowUpOut(TypedDict):
    """Something that the visit asks to be done next; a quote for it is with the office."""

    what: str
    why: list[str]
    licensed: bool
    warranty_until: Annotated[datetime.date | None, Field(description="We fitted it and stand for it: no charge.")]


class VisitOut(TypedDict):
    id: int
    client_id: uuid.UUID
    heater_id: int
    on: datetime.date
    technician: str
    moved: list[MovedOut]
    follow_ups: list[FollowUpOut]
    already_recorded: bool
    left_off: Annotated[str, Field(description="Why the heater is left off, if it is.")]
    not_in_record: Annotated[list[str], Field(description="What was sent just now and is not in the record, in words.")]


class EventBody(TypedDict, total=False):
    """What some taps tell besides."""

    choice: int
    name: str
    why: str
    field: str
    value: str | float | bool | None
    of: uuid.UUID | None
    go_on: bool


class EventOut(EventBody):
    client_id: uuid.UUID
    number: Annotated[int, Field(description="Its place among what the server knows.")]
    known: int
    device: uuid.UUID
    clock: int
    at: datetime.datetime
    by: str
    kind: EventKind
    step: str


class RefusedOut(TypedDict):
    client_id: uuid.UUID
    message: str


class SyncOut(TypedDict):
    """Where all devices of a visit meet."""

    client_id: Annotated[
        uuid.UUID, Field(description="The visit's; another than the device's own if it was begun before.")
    ]
    components: list[Component]
    events: Annotated[list[EventOut], Field(description="Of all devices, after what the device knew.")]
    refused: list[RefusedOut]
    cursor: int
    recorded: NotRequired[VisitOut | None]


class VisitSessionOut(TypedDict):
    """A visit that somebody began and that is not recorded yet."""

    client_id: uuid.UUID
    components: list[Component]
    by: str
    at: datetime.datetime
    events: int


class StepMarkedOut(TypedDict):
    """A step that was done otherwise than the guide allows."""

    step: str
    procedure: str
    says: str
    visits: Annotated[int, Field(description="At how many visits of the last twelve months.")]


class ApartOut(TypedDict):
    """A tap that could not be read, or with which its visit could not be followed."""

    id: int
    heater_id: int
    site: str
    heater: str
    by: str
    at: datetime.datetime
    step: str
    told: Annotated[str, Field(description="As the device told it.")]
    fault: str
    recorded: Annotated[bool, Field(description="The visit was recorded without it.")]


class AsideIn(_Payload):
    why: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=300, pattern=r"^[^\x00]*$")]


class BreachOut(TypedDict):
    """Something that was done at a visit and that the lead is to look at."""

    heater_id: int
    site: str
    heater: str
    by: str
    at: datetime.datetime
    step: Annotated[str, Field(description="What the step says to do.")]
    kind: str
    about: str


class QuestionOut(TypedDict):
    """What the lead is asked from a visit."""

    client_id: uuid.UUID
    heater_id: int
    site: str
    heater: str
    by: str
    at: datetime.datetime
    step: Annotated[str, Field(description="What the step says to do.")]
    words: str
    found: Annotated[list[str], Field(description="What was answered at the visit so far, the last first.")]
    advice: str
    go_on: bool | None


class AdviceIn(_Payload):
    words: Words = ""
    go_on: bool


class FigureInputOut(TypedDict):
    name: str
    label: str
    unit: str
    low: float
    high: float
    value: Annotated[float, Field(description="What is known of the heater, or usual.")]
    field: Annotated[str, Field(description="The reading that it is, if it is one.")]


class FigureOut(TypedDict):
    """A calculator, filled in for the heater."""

    name: str
    title: str
    unit: str
    tree: Annotated[
        Tree, WithJsonSchema({"description": "A number, an input's name, or an operation and its arguments."})
    ]
    reads: str
    source: str
    writes: str
    inputs: list[FigureInputOut]


class CarriedOut(TypedDict):
    part: str
    probability: float


class OnSiteAnswerOut(TypedDict):
    field: str
    above: Annotated[float | None, Field(description="Of a number: above it the answer is 'above', else 'below'.")]


class OnSiteCaseOut(TypedDict):
    at: list[str | None]
    verdict: str
    because: list[str]
    ask_lead: bool
    licensed: bool


class OnSiteOptionOut(TypedDict):
    says: str
    follows: bool


class OnSiteRuleOut(TypedDict):
    """What a rule of judgement says of this heater for each answer that can be given."""

    rule: str
    question: str
    answers: list[OnSiteAnswerOut]
    cases: list[OnSiteCaseOut]
    options: list[OnSiteOptionOut]


class LookOut(TypedDict):
    value: str
    words: str
    severity: Annotated[Severity | None, Field(description="None: as it should be.")]
    advice: str


class ObservationOut(TypedDict):
    """Something that is looked at, and how it can look; the first is as it should be."""

    field: str
    ask: str
    looks: list[LookOut]


class GuideOut(Guide):
    """All that a device needs to lead through a visit, without a signal too."""

    heater_id: int
    supervision: NotRequired[
        Annotated[list[Component], Field(description="What the reader does not do alone; looking it over is the tank.")]
    ]
    components: list[Component]
    possible: Annotated[list[Component], Field(description="What this heater has that can be served.")]
    session: Annotated[
        VisitSessionOut | None, Field(description="By somebody else or on another device, and not recorded yet.")
    ]
    flush_method: FlushMethod
    left_as: Annotated[str, Field(description="How an earlier visit left it, if it is not as one is left that runs.")]
    figures: list[FigureOut]
    on_site_rules: list[OnSiteRuleOut]
    prepare: Annotated[list[str], Field(description="What the customer was asked to prepare.")]
    upkeep: Annotated[list[UpkeepItem], Field(description="What is cleaned at this visit.")]
    extras: Annotated[list[str], Field(description="What is taken up besides what is due.")]
    complaint: Annotated[str, Field(description="The one that the visit is for.")]
    parts: Annotated[list[CarriedOut], Field(description="What the visit may need, the likeliest first.")]
    chances: NotRequired[
        Annotated[
            dict[str, float],
            Field(description="Of each turn that a step may take, how likely; none in a guide kept from before."),
        ]
    ]
    on_record: NotRequired[
        Annotated[
            dict[str, str],
            Field(description="What is known of each piece that a step is about; none in a guide kept from before."),
        ]
    ]
    to_know: NotRequired[Annotated[list[str], Field(description="The way in, what to bring, what was noted.")]]
    usual_readings: Annotated[
        dict[str, list[float]], Field(description="Outside of these a reading is asked for once more.")
    ]
    may_override: bool
    observations: NotRequired[
        Annotated[list[ObservationOut], Field(description="What is looked at; none in a guide kept from before.")]
    ]


class ReadPointOut(TypedDict):
    on: datetime.date
    value: float
    by: str


class ReadingOut(TypedDict):
    """One kind of reading over the years, as it stands."""

    field: str
    says: str
    unit: Annotated[str, Field(description="A quantity, or a unit as it is written.")]
    points: list[ReadPointOut]

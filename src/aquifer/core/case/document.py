"""The case document: its fields and their bounds, read strictly. A field is added here, in the model that names it."""

import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from aquifer.core import policy
from aquifer.core.bounds import within
from aquifer.core.kinds import HeaterKind, Ignition, Vent
from aquifer.core.observations import BY_FIELD
from aquifer.core.parameters import TANK
from aquifer.core.readings import READINGS, SEEN
from aquifer.core.vocabulary import (
    Alloy,
    Business,
    Clarity,
    Corrosion,
    Disinfectant,
    DrainFlow,
    ExpansionTankPin,
    FlushMethod,
    Fouling,
    Noise,
    Practice,
    Removed,
    RodGrade,
    Supply,
    Task,
    Texture,
    UpkeepItem,
    ValveOutcome,
)

CASE_FORMATS = ("aquifer-case/1", "aquifer-case/2", "aquifer-case/3")
"""The second says how a heater is lit and vented, the third what was read and seen beside the findings."""
CASE_FORMAT = CASE_FORMATS[-1]
MOST_EVENTS = 20_000
LARGEST_CASE_BYTES = 16 * 1024 * 1024
EARLIEST = datetime.date(1950, 1, 1)
LATEST = datetime.date(2200, 1, 1)


class CaseError(ValueError):
    """A case that cannot be computed: ``at`` is a JSON pointer, the message says what is wrong and what is allowed."""

    def __init__(self, at: str, message: str) -> None:
        super().__init__(f"{at or '/'}: {message}")
        self.at = at or "/"
        self.message = message


Day = Annotated[datetime.date, Field(ge=EARLIEST, le=LATEST)]


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True, frozen=True, allow_inf_nan=False)


class WaterCase(Strict):
    total_hardness_mg_l: Annotated[float | None, within("water.total_hardness_mg_l")] = None
    calcium_hardness_mg_l: Annotated[float | None, within("water.calcium_hardness_mg_l")] = None
    alkalinity_mg_l: Annotated[float | None, within("water.alkalinity_mg_l")] = None
    ph: Annotated[float | None, within("water.ph")] = None
    conductivity_us_cm: Annotated[float | None, within("water.conductivity_us_cm")] = None
    source_temperature_c: Annotated[float | None, within("water.source_temperature_c")] = None
    disinfectant: Disinfectant | None = None
    free_chlorine_mg_l: Annotated[float | None, within("water.free_chlorine_mg_l")] = None
    suspended_solids_mg_l: Annotated[float | None, within("water.suspended_solids_mg_l")] = None
    iron_mg_l: Annotated[float | None, within("water.iron_mg_l")] = None
    softened: bool | None = None
    supply: Supply | None = None


class SiteCase(Strict):
    people: Annotated[float | None, within("site.people")] = None
    hot_water_l_per_day: Annotated[float | None, within("site.hot_water_l_per_day")] = None
    static_pressure_kpa: Annotated[float | None, within("site.static_pressure_kpa")] = None
    closed_system: bool | None = None
    fixtures: Annotated[float | None, within("site.fixtures")] = None
    business: Business | None = None
    occupied_share: Annotated[float | None, within("site.occupied_share")] = None
    dusty: bool | None = None


class RodCase(Strict):
    alloy: Alloy | None = None
    diameter_mm: Annotated[float | None, within("anode.diameter_mm")] = None
    length_mm: Annotated[float | None, within("anode.length_mm")] = None
    count: Annotated[int | None, within("anode.count")] = None
    installed_on: Day | None = None


class ReliefValveCase(Strict):
    installed_on: Day | None = None
    set_pressure_kpa: Annotated[float | None, within("relief_valve.set_pressure_kpa")] = None
    set_temperature_c: Annotated[float | None, within("relief_valve.set_temperature_c")] = None


class ExpansionTankCase(Strict):
    volume_l: Annotated[float | None, within("expansion_tank.volume_l")] = None
    precharge_kpa: Annotated[float | None, within("expansion_tank.precharge_kpa")] = None
    installed_on: Day | None = None


class HeaterCase(Strict):
    kind: HeaterKind
    installed_on: Day | None = None
    capacity_l: Annotated[float | None, within("heater.capacity_l")] = None
    setpoint_c: Annotated[float | None, within("heater.setpoint_c")] = None
    input_kw: Annotated[float | None, within("heater.input_kw")] = None
    floor_area_m2: Annotated[float | None, within("heater.floor_area_m2")] = None
    drain_port_height_mm: Annotated[float | None, within("heater.drain_port_height_mm")] = None
    probe_height_mm: Annotated[float | None, within("heater.probe_height_mm")] = None
    lower_element_height_mm: Annotated[float | None, within("heater.lower_element_height_mm")] = None
    exchanger_area_m2: Annotated[float | None, within("heater.exchanger_area_m2")] = None
    recirculated: bool | None = None
    burner_hours_per_day: Annotated[float | None, within("heater.burner_hours_per_day")] = None
    ignition: Ignition | None = None
    vent: Vent | None = None
    anode: RodCase = RodCase()
    relief_valve: ReliefValveCase = ReliefValveCase()
    expansion_tank: ExpansionTankCase | None = None


class PolicyCase(Strict):
    practice: Practice = policy.DEFAULTS.practice
    flush_method: FlushMethod = policy.DEFAULTS.flush_method
    tolerance: Annotated[float, within("practice.tolerance")] = policy.DEFAULTS.tolerance
    longest_flush_months: Annotated[float, within("practice.longest_flush_months")] = (
        policy.DEFAULTS.longest_flush_months
    )
    relief_valve_target_pfd: Annotated[float, within("practice.relief_valve_target")] = policy.DEFAULTS.valve_target
    never_flushed_cutoff_years: Annotated[float, within("practice.never_flushed_cutoff_years")] = (
        policy.DEFAULTS.never_flushed_cutoff_years
    )
    replace_at: Annotated[float, within("practice.replace_at")] = TANK.replace_at
    schools: Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=10)] = []
    """Sides taken where practitioners differ; see ``judgement.SCHOOLS``."""


class NormalPrior(Strict):
    log_mean: Annotated[float | None, within("prior.log_mean")] = None
    log_sd: Annotated[float | None, within("prior.log_sd")] = None


class PriorCase(Strict):
    sediment: NormalPrior = NormalPrior()
    scale: NormalPrior = NormalPrior()
    anode: NormalPrior = NormalPrior()
    relief_valve: NormalPrior = NormalPrior()
    expansion_tank: NormalPrior = NormalPrior()


class Event(Strict):
    on: Day
    by: Annotated[str, Field(max_length=200)] | None = None


class FlushFinding(Strict):
    depth_before_mm: Annotated[float | None, within("flush.depth_before_mm")] = None
    depth_after_mm: Annotated[float | None, within("flush.depth_after_mm")] = None
    removed: Removed | None = None
    removed_l: Annotated[float | None, within("flush.removed_l")] = None
    clarity: Clarity | None = None
    texture: Texture | None = None
    drain_flow: DrainFlow | None = None


class FlushEvent(Event):
    task: Literal["flush"]
    method: FlushMethod | None = None
    finding: FlushFinding = FlushFinding()


class RodFinding(Strict):
    diameter_mm: Annotated[float | None, within("rod.diameter_mm")] = None
    bare_wire_mm: Annotated[float | None, within("rod.bare_wire_mm")] = None
    grade: RodGrade | None = None
    could_not_open: bool = False


class RodLookEvent(Event):
    task: Literal["anode_inspection"]
    finding: RodFinding = RodFinding()


class RodPart(Strict):
    alloy: Alloy | None = None
    diameter_mm: Annotated[float | None, within("anode.diameter_mm")] = None
    length_mm: Annotated[float | None, within("anode.length_mm")] = None
    count: Annotated[int | None, within("anode.count")] = None


class RodReplacementEvent(Event):
    task: Literal["anode_replacement"]
    part: RodPart = RodPart()


class ValveFinding(Strict):
    outcome: ValveOutcome


class ValveTrialEvent(Event):
    task: Literal["relief_valve_exercise"]
    finding: ValveFinding


class ValveReplacementEvent(Event):
    task: Literal["relief_valve_replacement"]
    part: ReliefValveCase | None = None


class ExpansionTankFinding(Strict):
    at_valve: ExpansionTankPin | None = None
    precharge_kpa: Annotated[float | None, within("expansion_tank.precharge_kpa")] = None


class ExpansionTankCheckEvent(Event):
    task: Literal["expansion_tank_check"]
    finding: ExpansionTankFinding = ExpansionTankFinding()


class ExpansionTankReplacementEvent(Event):
    task: Literal["expansion_tank_replacement"]
    part: ExpansionTankCase | None = None


class DescaleFinding(Strict):
    removed: Removed | None = None
    dissolved_g: Annotated[float | None, within("descale.dissolved_g")] = None
    flow_before_l_min: Annotated[float | None, within("descale.flow_before_l_min")] = None
    rise_before_k: Annotated[float | None, within("descale.rise_before_k")] = None
    flow_after_l_min: Annotated[float | None, within("descale.flow_after_l_min")] = None
    rise_after_k: Annotated[float | None, within("descale.rise_after_k")] = None


class DescaleEvent(Event):
    task: Literal["descale"]
    finding: DescaleFinding = DescaleFinding()


class PressureFinding(Strict):
    static_kpa: Annotated[float | None, within("pressure.static_kpa")] = None
    creep_kpa: Annotated[float | None, within("pressure.creep_kpa")] = None
    falls: bool | None = None


class PressureTestEvent(Event):
    task: Literal["pressure_test"]
    finding: PressureFinding = PressureFinding()


class LookFinding(Strict):
    noise: Noise | None = None
    corrosion: Corrosion | None = None
    rusty_hot_water: bool | None = None
    valve_drips: bool | None = None
    element_failed: bool | None = None


class LookOverEvent(Event):
    task: Literal["look_over"]
    finding: LookFinding = LookFinding()


class UpkeepFinding(Strict):
    fouling: Fouling | None = None


class UpkeepEvent(Event):
    task: Literal["upkeep"]
    item: UpkeepItem
    finding: UpkeepFinding = UpkeepFinding()


class HouseholdChangeEvent(Event):
    """Other people live there from this day on: what was found before says less."""

    task: Literal["household_change"]


AnyEvent = Annotated[
    FlushEvent
    | RodLookEvent
    | RodReplacementEvent
    | ValveTrialEvent
    | ValveReplacementEvent
    | ExpansionTankCheckEvent
    | DescaleEvent
    | PressureTestEvent
    | ExpansionTankReplacementEvent
    | LookOverEvent
    | UpkeepEvent
    | HouseholdChangeEvent,
    Field(discriminator="task"),
]


_BESIDE = {name: reading for name, reading in READINGS.items() if not reading.finding}


class ReadingCase(Strict):
    """What was read off an instrument, or seen, beside the findings. It bears on no date; it is kept with the case."""

    on: Day
    reading: str
    value: float | str

    @model_validator(mode="after")
    def _known(self) -> "ReadingCase":
        # A figure of a finding stands in its event.
        reading = _BESIDE.get(self.reading)
        if reading is None and self.reading not in BY_FIELD and self.reading not in SEEN:
            raise ValueError(f"unknown reading; allowed: {', '.join([*_BESIDE, *BY_FIELD, *SEEN])}")
        if reading is not None and not (isinstance(self.value, float) and reading.low <= self.value <= reading.high):
            raise ValueError(f"a number between {reading.low:g} and {reading.high:g} is allowed")
        if reading is None and not isinstance(self.value, str):
            raise ValueError("what was seen is told in words")
        return self


class Case(Strict):
    format: Literal["aquifer-case/1", "aquifer-case/2", "aquifer-case/3"]
    as_of: Day
    water: WaterCase = WaterCase()
    site: SiteCase = SiteCase()
    heater: HeaterCase
    policy: PolicyCase = PolicyCase()
    prior: PriorCase = PriorCase()
    events: Annotated[list[AnyEvent], Field(max_length=MOST_EVENTS)] = []
    readings: Annotated[list[ReadingCase], Field(max_length=MOST_EVENTS)] = []


def read(text: bytes | str) -> Case:
    """Read and check a case.

    Parameters: text, JSON in UTF-8. Returns: the case, its events in order of time.
    Raises: CaseError naming the field by JSON pointer, what is wrong and what is allowed.
    """
    if len(text) > LARGEST_CASE_BYTES:
        raise CaseError("/", f"a case of {len(text)} bytes; allowed are {LARGEST_CASE_BYTES}")
    try:
        case = Case.model_validate_json(text)
    except ValidationError as error:
        raise _named(error) from None
    except RecursionError:
        raise CaseError("/", "nested too deeply") from None
    for name in ("ignition", "vent"):
        if case.format == "aquifer-case/1" and getattr(case.heater, name) is not None:
            raise CaseError(f"/heater/{name}", f"not known in aquifer-case/1; allowed in {CASE_FORMATS[1]}")
    if case.readings and case.format != CASE_FORMAT:
        raise CaseError("/readings", f"not known in {case.format}; allowed in {CASE_FORMAT}")
    _check_dates(case)
    calcium, total = case.water.calcium_hardness_mg_l, case.water.total_hardness_mg_l
    if calcium is not None and total is not None and calcium > total:
        message = f"{calcium:g} is above the total hardness; at most {total:g} is allowed"
        raise CaseError("/water/calcium_hardness_mg_l", message)
    return case.model_copy(update={"events": sorted(case.events, key=lambda event: event.on)})


def _named(error: ValidationError) -> CaseError:
    first = error.errors(include_url=False)[0]
    # A discriminated union puts the event's task into the place; it is no part of the document.
    tasks = {task.value for task in Task}
    parts = [part for position, part in enumerate(first["loc"]) if not (position == 2 and part in tasks)]
    at = "".join("/" + str(part).replace("~", "~0").replace("/", "~1")[:200] for part in parts)
    message = first["msg"].replace("\n", " ")
    if first["type"] == "extra_forbidden":
        message = f"unknown field; {_allowed(parts[:-1])}"
    elif first["type"] == "missing":
        message = "required, but missing"
    elif first["type"] == "union_tag_not_found":
        at, message = f"{at}/task", "required, but missing"
    elif first["type"] == "union_tag_invalid":
        at = f"{at}/task"
        message = f"unknown task; allowed: {', '.join(Task)}"
    else:
        value = first.get("input")
        if isinstance(value, str | int | float | bool):
            message = f"{str(value)[:60]} is not allowed: {message[0].lower()}{message[1:]}"
    return CaseError(at, message)


def _allowed(parts: list[int | str]) -> str:
    model: type[BaseModel] | None = Case
    for part in parts:
        field = model.model_fields.get(part) if isinstance(part, str) and model else None
        if field is None:
            return "the format has no such field here"
        candidates = [field.annotation, *getattr(field.annotation, "__args__", ())]
        model = next((c for c in candidates if isinstance(c, type) and issubclass(c, BaseModel)), None)
    return f"allowed: {', '.join(model.model_fields)}" if model else "the format has no such field here"


def _check_dates(case: Case) -> None:
    installed = case.heater.installed_on
    dated: list[tuple[str, datetime.date | None]] = [
        ("/heater/installed_on", installed),
        ("/heater/anode/installed_on", case.heater.anode.installed_on),
        ("/heater/relief_valve/installed_on", case.heater.relief_valve.installed_on),
        (
            "/heater/expansion_tank/installed_on",
            case.heater.expansion_tank.installed_on if case.heater.expansion_tank else None,
        ),
        *((f"/events/{position}/on", event.on) for position, event in enumerate(case.events)),
        *((f"/readings/{position}/on", reading_case.on) for position, reading_case in enumerate(case.readings)),
    ]
    for at, day in dated:
        if day is None:
            continue
        if day > case.as_of:
            raise CaseError(at, f"{day} is after as_of; {case.as_of} at the latest is allowed")
        if installed is not None and day < installed:
            raise CaseError(at, f"{day} is before the heater's installation; {installed} at the earliest is allowed")
    if not case.heater.kind.is_tank:
        for position, event in enumerate(case.events):
            if event.task == "flush":
                raise CaseError(f"/events/{position}/task", "a tankless heater is descaled; allowed: descale")

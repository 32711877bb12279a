"""The open case format: one heater in, one forecast out. Reads strictly; every fault names its field.

The format's version is in ``CASE_FORMAT``; a field is added here, in the model that names it, with its bounds.
"""

import datetime
import json
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from aquifer.core import MODEL_VERSION, chemistry, judgement, policy, relief_valve
from aquifer.core import water as waters
from aquifer.core.assembly import KnownHeaters, complete
from aquifer.core.fleet import DescaleEvents, Fleet, FlushEvents, RodEvents, ValveEvents, capacity_or_default
from aquifer.core.forecast import ComponentForecast, dates, forecast, years_between
from aquifer.core.learning import Prior
from aquifer.core.parameters import DAYS_PER_YEAR, GEOMETRY, USAGE
from aquifer.core.vocabulary import (
    Alloy,
    Clarity,
    Component,
    DecidedBy,
    Disinfectant,
    DrainFlow,
    FlushMethod,
    HeaterKind,
    Method,
    Practice,
    Removed,
    RodGrade,
    Supply,
    Task,
    Texture,
    ValveOutcome,
    VesselPin,
    code,
)

CASE_FORMAT = "aquifer-case/1"
FORECAST_FORMAT = "aquifer-forecast/1"
ERROR_FORMAT = "aquifer-error/1"
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


def _within(low: float, high: float) -> Any:
    """An optional number with its allowed range."""
    return Field(default=None, ge=low, le=high, allow_inf_nan=False)


Day = Annotated[datetime.date, Field(ge=EARLIEST, le=LATEST)]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)


class WaterCase(_Strict):
    total_hardness_mg_l: float | None = _within(0, 5000)
    calcium_hardness_mg_l: float | None = _within(0, 5000)
    alkalinity_mg_l: float | None = _within(0, 5000)
    ph: float | None = _within(4, 11)
    conductivity_us_cm: float | None = _within(1, 50_000)
    source_temperature_c: float | None = _within(0, 45)
    disinfectant: Disinfectant | None = None
    free_chlorine_mg_l: float | None = _within(0, 20)
    suspended_solids_mg_l: float | None = _within(0, 5000)
    softened: bool | None = None
    supply: Supply | None = None


class SiteCase(_Strict):
    people: float | None = _within(0, 10_000)
    hot_water_l_per_day: float | None = _within(0, 1_000_000)
    static_pressure_kpa: float | None = _within(0, 3000)
    closed_system: bool | None = None


class RodCase(_Strict):
    alloy: Alloy | None = None
    diameter_mm: float | None = _within(5, 100)
    length_mm: float | None = _within(50, 5000)
    count: Annotated[int | None, Field(ge=1, le=12)] = None
    installed_on: Day | None = None


class ReliefValveCase(_Strict):
    installed_on: Day | None = None
    set_pressure_kpa: float | None = _within(0, 3000)
    set_temperature_c: float | None = _within(30, 150)


class ExpansionTankCase(_Strict):
    volume_l: float | None = _within(0.1, 2000)
    precharge_kpa: float | None = _within(0, 3000)
    installed_on: Day | None = None


class HeaterCase(_Strict):
    kind: HeaterKind
    installed_on: Day | None = None
    capacity_l: float | None = _within(0.1, 20_000)
    setpoint_c: float | None = _within(30, 95)
    input_kw: float | None = _within(0, 1000)
    floor_area_m2: float | None = _within(0.005, 20)
    drain_port_height_mm: float | None = _within(1, 1000)
    probe_height_mm: float | None = _within(0, 10_000)
    lower_element_height_mm: float | None = _within(1, 5000)
    exchanger_area_m2: float | None = _within(0.005, 20)
    recirculated: bool | None = None
    anode: RodCase = RodCase()
    relief_valve: ReliefValveCase = ReliefValveCase()
    expansion_tank: ExpansionTankCase | None = None


class PolicyCase(_Strict):
    practice: Practice = Practice.CONDITION
    flush_method: FlushMethod = FlushMethod.DRAIN_AND_PULSE
    tolerance: Annotated[float, Field(ge=0.01, le=0.99)] = policy.DEFAULT_TOLERANCE
    longest_flush_months: Annotated[float, Field(ge=3, le=240)] = policy.DEFAULT_LONGEST_FLUSH_MONTHS
    relief_valve_target_pfd: Annotated[float, Field(ge=0.0005, le=0.5)] = policy.DEFAULT_VALVE_TARGET
    never_flushed_cutoff_years: Annotated[float, Field(ge=0, le=100)] = policy.NEVER_FLUSHED_CUTOFF_YEARS


class NormalPrior(_Strict):
    log_mean: Annotated[float, Field(ge=-3, le=3)] | None = None
    log_sd: Annotated[float, Field(ge=0.08, le=3)] | None = None


class PriorCase(_Strict):
    sediment: NormalPrior = NormalPrior()
    scale: NormalPrior = NormalPrior()
    anode: NormalPrior = NormalPrior()
    relief_valve: NormalPrior = NormalPrior()


class _Event(_Strict):
    on: Day
    by: Annotated[str, Field(max_length=200)] | None = None


class FlushFinding(_Strict):
    depth_before_mm: float | None = _within(0, 3000)
    removed: Removed | None = None
    removed_l: float | None = _within(0, 5000)
    clarity: Clarity | None = None
    texture: Texture | None = None
    drain_flow: DrainFlow | None = None


class FlushEvent(_Event):
    task: Literal["flush"]
    method: FlushMethod | None = None
    finding: FlushFinding = FlushFinding()


class RodFinding(_Strict):
    diameter_mm: float | None = _within(0, 100)
    bare_wire_mm: float | None = _within(0, 5000)
    grade: RodGrade | None = None


class RodLookEvent(_Event):
    task: Literal["anode_inspection"]
    finding: RodFinding = RodFinding()


class RodPart(_Strict):
    alloy: Alloy | None = None
    diameter_mm: float | None = _within(5, 100)
    length_mm: float | None = _within(50, 5000)
    count: Annotated[int | None, Field(ge=1, le=12)] = None


class RodReplacementEvent(_Event):
    task: Literal["anode_replacement"]
    part: RodPart = RodPart()


class ValveFinding(_Strict):
    outcome: ValveOutcome


class ValveTrialEvent(_Event):
    task: Literal["relief_valve_exercise"]
    finding: ValveFinding


class ValveReplacementEvent(_Event):
    task: Literal["relief_valve_replacement"]
    part: ReliefValveCase | None = None


class VesselFinding(_Strict):
    at_valve: VesselPin | None = None
    precharge_kpa: float | None = _within(0, 3000)


class VesselCheckEvent(_Event):
    task: Literal["expansion_tank_check"]
    finding: VesselFinding = VesselFinding()


class DescaleFinding(_Strict):
    removed: Removed | None = None
    dissolved_g: float | None = _within(0, 50_000)


class DescaleEvent(_Event):
    task: Literal["descale"]
    finding: DescaleFinding = DescaleFinding()


class PressureFinding(_Strict):
    static_kpa: float | None = _within(0, 3000)
    creep_kpa: float | None = _within(-3000, 3000)
    falls: bool | None = None


class PressureTestEvent(_Event):
    task: Literal["pressure_test"]
    finding: PressureFinding = PressureFinding()


AnyEvent = Annotated[
    FlushEvent
    | RodLookEvent
    | RodReplacementEvent
    | ValveTrialEvent
    | ValveReplacementEvent
    | VesselCheckEvent
    | DescaleEvent
    | PressureTestEvent,
    Field(discriminator="task"),
]


class Case(_Strict):
    format: Literal["aquifer-case/1"]
    as_of: Day
    water: WaterCase = WaterCase()
    site: SiteCase = SiteCase()
    heater: HeaterCase
    policy: PolicyCase = PolicyCase()
    prior: PriorCase = PriorCase()
    events: Annotated[list[AnyEvent], Field(max_length=MOST_EVENTS)] = []


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
    model: Any = Case
    for part in parts:
        field = model.model_fields.get(part) if isinstance(part, str) and hasattr(model, "model_fields") else None
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
        *((f"/events/{position}/on", event.on) for position, event in enumerate(case.events)),
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


def installed_on(case: Case) -> datetime.date:
    """The installation date, or an assumed one: six years back, and a year before anything that is on record."""
    h = case.heater
    if h.installed_on is not None:
        return h.installed_on
    usual = case.as_of - datetime.timedelta(days=round(GEOMETRY.age_years * DAYS_PER_YEAR))
    dated = [event.on for event in case.events]
    dated += [day for day in (h.anode.installed_on, h.relief_valve.installed_on) if day is not None]
    return min([usual, *(day - datetime.timedelta(days=365) for day in dated)])


def profile(case: Case) -> waters.WaterProfile:
    """The case's water, completed. Raises: CaseError if hardness is contradictory."""
    w = case.water
    test = waters.WaterTest(
        w.total_hardness_mg_l,
        w.calcium_hardness_mg_l,
        w.alkalinity_mg_l,
        w.ph,
        w.conductivity_us_cm,
        w.source_temperature_c,
        w.suspended_solids_mg_l,
    )
    try:
        return waters.profile(test)
    except ValueError as error:
        raise CaseError("/water", str(error)) from None


def as_fleet(case: Case) -> Fleet:
    """The case as a fleet of one. Raises: CaseError if its water has no chemical equilibrium."""
    h, start = case.heater, installed_on(case)
    nan = float("nan")

    def column(value: float | int | None, factor: float = 1.0) -> Any:
        return np.array([nan if value is None else value * factor], dtype=np.float64)

    def since_start(day: datetime.date | None) -> float:
        return 0.0 if day is None else years_between(start, day)

    rods = [
        _Rod(h.anode.alloy, h.anode.diameter_mm, h.anode.length_mm, h.anode.count, since_start(h.anode.installed_on))
    ]
    looks: list[tuple[RodLookEvent, _Rod]] = []
    for event in case.events:
        if isinstance(event, RodLookEvent):
            looks.append((event, rods[-1]))
        elif isinstance(event, RodReplacementEvent):
            rods.append(rods[-1].followed_by(event.part, since_start(event.on)))
    valve = max(
        since_start(h.relief_valve.installed_on),
        *(since_start(e.on) for e in case.events if isinstance(e, ValveReplacementEvent)),
        0.0,
    )
    rod = rods[-1]
    p = case.policy
    known = KnownHeaters(
        zone=np.zeros(1, dtype=np.int64),
        softened=np.array([bool(case.water.softened)]),
        kind=np.array([code(h.kind)]),
        age_years=np.array([years_between(start, case.as_of)]),
        age_is_known=np.array([h.installed_on is not None]),
        litres_per_day=column(case.site.hot_water_l_per_day),
        people=column(case.site.people),
        heaters_on_site=np.ones(1),
        capacity_l=column(h.capacity_l),
        setpoint_c=column(h.setpoint_c),
        floor_m2=column(h.floor_area_m2),
        drain_port_m=column(h.drain_port_height_mm, 1e-3),
        lower_element_m=column(h.lower_element_height_mm, 1e-3),
        exchanger_m2=column(h.exchanger_area_m2),
        alloy=np.array([-1 if rod.alloy is None else code(rod.alloy)]),
        rod_diameter_m=column(rod.diameter_mm, 1e-3),
        rod_length_m=column(rod.length_mm, 1e-3),
        rod_count=np.array([float(rod.count or 1)]),
        rod_fitted_years=np.array([rod.fitted_years]),
        valve_fitted_years=np.array([valve]),
        practice=np.array([code(p.practice)]),
        tolerance=np.array([p.tolerance]),
        longest_flush_years=np.array([p.longest_flush_months / 12]),
        flush_method=np.array([code(p.flush_method)]),
        valve_target=np.array([p.relief_valve_target_pfd]),
    )
    try:
        heaters = complete(known, [profile(case)])
    except CaseError:
        raise
    except ValueError as error:
        raise CaseError("/water", str(error)) from None

    def events_of(kind: Any) -> list[Any]:
        return [event for event in case.events if isinstance(event, kind)]

    def floats(values: list[float | None], factor: float = 1.0) -> Any:
        return np.array([nan if value is None else value * factor for value in values], dtype=np.float64)

    def grades(values: list[Any]) -> Any:
        return np.array([-1 if value is None else code(value) for value in values], dtype=np.int64)

    def base(events: list[Any]) -> dict[str, Any]:
        return {"row": np.zeros(len(events), dtype=np.int64), "years": floats([since_start(e.on) for e in events])}

    flushes, descales = events_of(FlushEvent), events_of(DescaleEvent)
    trials = [e for e in case.events if isinstance(e, ValveTrialEvent | ValveReplacementEvent)]
    # A rod of which only the alloy is known has the size its tank usually takes, as the present one was completed.
    usual_diameter, usual_length = float(heaters.rod_diameter_m[0]), float(heaters.rod_length_m[0]) * 1000
    return Fleet(
        heaters,
        FlushEvents(
            **base(flushes),
            method=grades([e.method or p.flush_method for e in flushes]),
            removed=grades([e.finding.removed for e in flushes]),
            depth_m=floats([e.finding.depth_before_mm for e in flushes], 1e-3),
            volume_l=floats([e.finding.removed_l for e in flushes]),
        ),
        DescaleEvents(
            **base(descales),
            removed=grades([e.finding.removed for e in descales]),
            dissolved_kg=floats([e.finding.dissolved_g for e in descales], 1e-3),
        ),
        RodEvents(
            **base([look for look, _ in looks]),
            alloy=grades([seen.alloy or Alloy.MAGNESIUM for _, seen in looks]),
            rod_diameter_m=floats([(seen.diameter_mm or usual_diameter * 1000) for _, seen in looks], 1e-3),
            rod_length_m=floats(
                [seen.length_mm * (seen.count or 1) if seen.length_mm else usual_length for _, seen in looks], 1e-3
            ),
            rod_fitted_years=floats([seen.fitted_years for _, seen in looks]),
            diameter_m=floats([look.finding.diameter_mm for look, _ in looks], 1e-3),
            bare_m=floats([look.finding.bare_wire_mm for look, _ in looks], 1e-3),
            grade=grades([look.finding.grade for look, _ in looks]),
        ),
        ValveEvents(
            **base(trials),
            outcome=grades([e.finding.outcome if isinstance(e, ValveTrialEvent) else None for e in trials]),
            replaced=np.array([isinstance(e, ValveReplacementEvent) for e in trials], dtype=bool),
        ),
    )


class _Rod:
    """A rod in its turn."""

    def __init__(
        self, alloy: Alloy | None, diameter_mm: float | None, length_mm: float | None, count: int | None, fitted: float
    ) -> None:
        self.alloy, self.diameter_mm, self.length_mm = alloy, diameter_mm, length_mm
        self.count, self.fitted_years = count, fitted

    def followed_by(self, part: RodPart, fitted: float) -> "_Rod":
        return _Rod(
            part.alloy or self.alloy,
            part.diameter_mm or self.diameter_mm,
            part.length_mm or self.length_mm,
            part.count or self.count,
            fitted,
        )


def answer(case: Case) -> dict[str, Any]:
    """The forecast of a case, as the document to print. Raises: CaseError if its water has no equilibrium."""
    fleet = as_fleet(case)
    h = fleet.heaters
    spread = float(np.hypot(h.zone_spread[0], h.heater_spread[0]))
    priors = {}
    for component in Component:
        given: NormalPrior = getattr(case.prior, component.value)
        mean = given.log_mean if given.log_mean is not None else 0.0
        sd = given.log_sd if given.log_sd is not None else spread
        priors[component] = Prior(np.array([mean]), np.array([sd]))
    water = profile(case)
    setpoint = float(h.setpoint_c[0])
    hot = chemistry.heated(water.analysis, setpoint, bool(case.water.softened))
    found = forecast(fleet, priors)
    return {
        "format": FORECAST_FORMAT,
        "as_of": case.as_of.isoformat(),
        "model": MODEL_VERSION,
        "assumed": [{"at": a.at, "value": a.value, "why": a.why} for a in (*water.assumed, *_assumed(case))],
        "water": {
            "saturation_index": _significant(hot.saturation_index),
            "precipitation_potential_mg_l": _significant(hot.precipitation_potential_mg_l),
            "at_c": setpoint,
        },
        "components": [_component(case.as_of, one) for one in found],
        "judgements": [_as_document(j) for j in _judgements(case, fleet, found)],
    }


def _assumed(case: Case) -> list[waters.Assumed]:
    """What the heater and site left open and the forecast filled in."""
    h, site, found = case.heater, case.site, []
    if h.installed_on is None:
        found.append(waters.Assumed("/heater/installed_on", installed_on(case).isoformat(), "age unknown"))
    if h.capacity_l is None:
        found.append(waters.Assumed("/heater/capacity_l", capacity_or_default(h.kind, None), "usual for the kind"))
    if h.setpoint_c is None:
        found.append(waters.Assumed("/heater/setpoint_c", GEOMETRY.setpoint_c, "nobody has read the dial"))
    if site.hot_water_l_per_day is None:
        by_people = None if site.people is None else max(site.people, 0.5) * USAGE.litres_per_person_day
        why = "usual household" if by_people is None else "from the people on the site"
        value = USAGE.litres_per_day if by_people is None else by_people
        found.append(waters.Assumed("/site/hot_water_l_per_day", value, why))
    if h.kind.is_tank and h.anode.alloy is None:
        found.append(waters.Assumed("/heater/anode/alloy", Alloy.MAGNESIUM.value, "most tanks leave the works with it"))
    return found


def _component(as_of: datetime.date, one: ComponentForecast) -> dict[str, Any]:
    """A component's forecast of the one heater."""
    rate, reached = one.rate[0], dates(as_of, one.reached_years[0])
    due, latest = dates(as_of, one.due_years)[0], dates(as_of, one.latest_years)[0]
    return {
        "component": one.component.value,
        "rate": {"unit": one.unit, **_spread(rate)},
        "state": {name: _spread(values[0]) for name, values in one.state.items()},
        "limit": {
            "what": one.limit_name,
            "value": _significant(one.limit[0]),
            "why": LIMIT_REASONS[one.component],
        },
        "reached": {"p10": _day(reached[1]), "p50": _day(reached[3]), "p90": _day(reached[5])},
        "probability_today": _significant(one.probability_today[0]),
        "due_on": _day(due),
        "latest_on": _day(latest),
        "decided_by": list(DecidedBy)[one.decided_by[0]].value,
        "benefit_12_months": _significant(one.benefit[0]),
        "over_limit_after_service": _significant(one.over_after_service[0]),
        "method": list(Method)[one.method[0]].value,
        "reasons": [
            {"factor": factor, "rate_ratio": _significant(float(np.exp(log_ratio))), "days": round(float(days))}
            for factor, log_ratio, days in zip(one.factors, one.log_factors[0], one.factor_days[0], strict=True)
        ],
    }


LIMIT_REASONS = {
    Component.SEDIMENT: "deeper, and it rumbles over a flame or nears an element or the drain port",
    Component.SCALE: "thicker, and the exchanger's wall loses its margin of temperature",
    Component.ANODE: "less, and a hand's width of wire is bare",
    Component.RELIEF_VALVE: "accepted probability, averaged over the interval, that it is stuck when needed",
}


def _judgements(case: Case, fleet: Fleet, found: list[ComponentForecast]) -> list[judgement.Judgement]:
    by_name = {one.component: one for one in found}
    age = float(fleet.heaters.age_years[0])
    verdicts = []
    if Component.SEDIMENT in by_name:
        depth = float(by_name[Component.SEDIMENT].state["depth_mm"][0, 1])
        port = case.heater.drain_port_height_mm or judgement.DRAIN_PORT_MM
        was_flushed = fleet.flushes.row.size > 0
        cutoff = case.policy.never_flushed_cutoff_years
        verdicts.append(judgement.flush_or_leave(age, was_flushed, cutoff, depth, port))
    if Component.ANODE in by_name:
        verdicts.append(judgement.rod_alloy(float(by_name[Component.ANODE].state["protection_ratio"][0, 1])))
    tried = [e.finding.outcome.value for e in case.events if isinstance(e, ValveTrialEvent)]
    replaced = [position for position, e in enumerate(case.events) if isinstance(e, ValveReplacementEvent)]
    after = [
        e.finding.outcome.value
        for position, e in enumerate(case.events)
        if isinstance(e, ValveTrialEvent) and (not replaced or position > replaced[-1])
    ]
    last = after[-1] if after and tried else None
    valve_age = age - float(fleet.heaters.valve_fitted_years[0])
    replace_at = float(relief_valve.replacement_age_years(fleet.heaters.hardness_mg_l)[0])
    verdicts.append(judgement.keep_valve(valve_age, replace_at, last))
    return verdicts


def _as_document(one: judgement.Judgement) -> dict[str, Any]:
    return {"rule": one.rule, "verdict": one.verdict.value, "because": list(one.because), "ask_lead": one.ask_lead}


def _spread(values: Any) -> dict[str, float]:
    return {name: _significant(value) for name, value in zip(("p10", "p50", "p90"), values, strict=True)}


def _significant(value: float) -> float:
    """Four significant figures: more than any input carries, and the same on every machine."""
    return float(f"{value:.4g}")


def _day(day: Any) -> str | None:
    return None if np.isnat(day) else str(day)


def as_json(document: dict[str, Any]) -> str:
    """One line of JSON, keys in their order."""
    return json.dumps(document, ensure_ascii=False, allow_nan=False)

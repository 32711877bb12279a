"""The forecast of a case as the document to print."""

import datetime
import json
from dataclasses import asdict

import numpy as np

from aquifer.core import MODEL_VERSION, judgement, upkeep
from aquifer.core import water as waters
from aquifer.core.alternatives import Change, alternatives
from aquifer.core.arrays import FloatArray
from aquifer.core.case.document import (
    Case,
    CaseError,
    LookOverEvent,
    PressureTestEvent,
    UpkeepEvent,
)
from aquifer.core.case.fleet import as_fleet, installed_on, known_heaters, profile
from aquifer.core.fleet import Fleet, capacity_or_default
from aquifer.core.forecast import ComponentForecast, Context, FleetForecast, dates, default_spread, forecast
from aquifer.core.learning import Prior
from aquifer.core.parameters import DAYS_PER_YEAR, EXPANSION_TANK, GEOMETRY
from aquifer.core.units import HardnessUnit, System, table, worded
from aquifer.core.vocabulary import LEARNED, Alloy, Component, Corrosion, DecidedBy, Method, Supply

FORECAST_FORMAT = "aquifer-forecast/1"
CHANGES = {
    "softener": Change(softened=True),
    "setpoint_49_c": Change(setpoint_c=49.0),
    "half_the_use": Change(use_factor=0.5),
}
"""What a forecast tries beside what is."""


def answer(case: Case) -> dict[str, object]:
    """The forecast of a case, as the document to print. Raises: CaseError if its water has no equilibrium."""
    fleet = as_fleet(case)
    priors = {}
    for component in LEARNED:
        given = getattr(case.prior, component.value)
        if given.log_mean is None and given.log_sd is None:
            continue
        sd = given.log_sd if given.log_sd is not None else default_spread(component, fleet)
        priors[component] = Prior(np.array([given.log_mean or 0.0]), np.array([sd]))
    water = profile(case)
    setpoint = float(fleet.heaters.setpoint_c[0])
    softened = bool(case.water.softened)
    hot = water.heated(setpoint, softened)
    found = forecast(fleet, Context(priors=priors))
    return {
        "format": FORECAST_FORMAT,
        "as_of": case.as_of.isoformat(),
        "model": MODEL_VERSION,
        "assumed": [asdict(assumed) for assumed in (*water.assumed, *_assumed(case, fleet))],
        "water": {
            "saturation_index": _significant(hot.saturation_index),
            "precipitation_potential_mg_l": _significant(hot.precipitation_potential_mg_l),
            "at_c": setpoint,
            "in_words": waters.plain_words(water, setpoint, softened),
        },
        "components": [_component(case.as_of, one) for one in found.components],
        "upkeep": _upkeep(case),
        "alternatives": _alternatives(case, water, fleet, found),
        "judgements": _judgements(case, fleet, found),
    }


def _assumed(case: Case, fleet: Fleet) -> list[waters.Assumed]:
    """What the heater and site left open and the forecast filled in."""
    h, site, found = case.heater, case.site, []
    if h.installed_on is None:
        found.append(waters.Assumed("/heater/installed_on", installed_on(case).isoformat(), "age unknown"))
    if h.capacity_l is None:
        found.append(waters.Assumed("/heater/capacity_l", capacity_or_default(h.kind, None), "usual for the kind"))
    if h.setpoint_c is None:
        found.append(waters.Assumed("/heater/setpoint_c", GEOMETRY.setpoint_c, "nobody has read the dial"))
    if site.hot_water_l_per_day is None:
        told = [name for name in ("people", "fixtures", "business") if getattr(site, name) is not None]
        why = f"from the {told[0]} of the site" if told else "usual household"
        if h.burner_hours_per_day and h.input_kw:
            why = "from the hours that it fires"
        litres = float(fleet.heaters.volume_m3[0]) * 1000 / DAYS_PER_YEAR
        found.append(waters.Assumed("/site/hot_water_l_per_day", _significant(litres), why))
    if h.expansion_tank is not None and site.static_pressure_kpa is None:
        pressure = EXPANSION_TANK.usual_pressure_kpa
        found.append(waters.Assumed("/site/static_pressure_kpa", pressure, "nobody has read it"))
    if h.kind.is_tank and h.anode.alloy is None:
        found.append(waters.Assumed("/heater/anode/alloy", Alloy.MAGNESIUM.value, "most tanks leave the works with it"))
    return found


def _component(as_of: datetime.date, forecast: ComponentForecast) -> dict[str, object]:
    """A component's forecast of the one heater."""
    rate, reached = forecast.rate[0], dates(as_of, forecast.reached_years[0])
    due, latest = dates(as_of, forecast.due_years)[0], dates(as_of, forecast.latest_years)[0]
    return {
        "component": forecast.component.value,
        "rate": {"unit": forecast.unit, **_spread(rate)},
        "state": {name: _spread(values[0]) for name, values in forecast.state.items()},
        "limit": {
            "what": forecast.limit_name,
            "value": _significant(forecast.limit[0]),
            "why": LIMIT_REASONS[forecast.component],
        },
        "reached": {"p10": _day(reached[1]), "p50": _day(reached[3]), "p90": _day(reached[5])},
        "probability_today": _significant(forecast.probability_today[0]),
        "due_on": _day(due),
        "latest_on": _day(latest),
        "decided_by": list(DecidedBy)[forecast.decided_by[0]].value,
        "benefit_12_months": _significant(forecast.benefit[0]),
        "over_limit_after_service": _significant(forecast.over_after_service[0]),
        "method": list(Method)[forecast.method[0]].value,
        "reasons": [
            {"factor": factor, "rate_ratio": _significant(float(np.exp(log_ratio))), "days": round(float(days))}
            for factor, log_ratio, days in zip(
                forecast.factors, forecast.log_factors[0], forecast.factor_days[0], strict=True
            )
        ],
    }


LIMIT_REASONS = {
    Component.SEDIMENT: "deeper, and it rumbles over a flame or nears an element or the drain port",
    Component.SCALE: "thicker, and the exchanger's wall loses its margin of temperature",
    Component.ANODE: "less, and a hand's width of wire is bare",
    Component.RELIEF_VALVE: "accepted probability, averaged over the interval, that it is stuck when needed",
    Component.EXPANSION_TANK: "less, and what the water gains when it is heated no longer fits",
    Component.TANK: "accepted probability that the tank fails within 12 months",
}

_UNITS = table(System.METRIC, HardnessUnit.MG_L)
"""In which the sentences of a case are told: those of its figures."""


def _states(found: FleetForecast) -> judgement.facts.States:
    return {
        forecast.component: {
            **{name: float(values[0, 1]) for name, values in forecast.state.items()},
            "over_after_service": float(forecast.over_after_service[0]),
        }
        for forecast in found.components
    }


def _judgements(case: Case, fleet: Fleet, found: FleetForecast) -> list[dict[str, object]]:
    tests = [event.finding for event in case.events if isinstance(event, PressureTestEvent)]
    looks = [event.finding for event in case.events if isinstance(event, LookOverEvent)]
    seen = judgement.Seen(
        valve_drips=looks[-1].valve_drips if looks else None,
        element_failures=judgement.lately_lost(
            [event.on for event in case.events if isinstance(event, LookOverEvent) and event.finding.element_failed]
        ),
        closed_system=case.site.closed_system,
        # A test of one figure says nothing of the others.
        creep_kpa=next((test.creep_kpa for test in reversed(tests) if test.creep_kpa is not None), None),
        pressure_falls=next((test.falls for test in reversed(tests) if test.falls is not None), None),
        rusty_seam=next((look.corrosion is Corrosion.SEAMS for look in reversed(looks) if look.corrosion), None),
    )
    facts = judgement.facts_of(
        fleet,
        _states(found),
        seen,
        case.policy.never_flushed_cutoff_years,
        bool(case.water.softened),
        case.heater.drain_port_height_mm,
    )
    try:
        verdicts = judgement.judge(facts, case.policy.schools)
    except ValueError as error:
        raise CaseError("/policy/schools", str(error)) from None
    return [
        {
            "rule": one.rule,
            "verdict": one.verdict.value,
            "because": [worded(line, _UNITS) for line in one.because],
            "ask_lead": one.ask_lead,
            "licensed": one.licensed,
        }
        for one in verdicts
    ]


def _upkeep(case: Case) -> list[dict[str, object]]:
    """What is cleaned or changed at intervals, and when next."""
    alloy = case.heater.anode.alloy or Alloy.NONE
    gritty = upkeep.is_gritty(case.water.supply or Supply.MAINS, case.water.suspended_solids_mg_l)
    done = [event for event in case.events if isinstance(event, UpkeepEvent)]
    due = []
    for one in upkeep.items(case.heater.kind, alloy):
        own = [upkeep.Done(event.on, event.finding.fouling) for event in done if event.item is one.item]
        due.append(upkeep.due(one, installed_on(case), own, bool(case.site.dusty), gritty))
    return [
        {
            "item": due_upkeep.item.value,
            "due_on": due_upkeep.due_on.isoformat(),
            "interval_months": due_upkeep.interval_months,
            "because": list(due_upkeep.because),
        }
        for due_upkeep in due
    ]


def _alternatives(
    case: Case, water: waters.WaterProfile, fleet: Fleet, found: FleetForecast
) -> list[dict[str, object]]:
    """What a softener, a cooler setting or less use would change, beside what is."""
    rates = {
        forecast.component: (float(forecast.log_theta[0]), float(forecast.log_theta_sd[0]))
        for forecast in found.components
    }
    names = ["as_it_is", *CHANGES]
    try:
        tried = alternatives(known_heaters(case), [water], fleet, rates, [Change(), *CHANGES.values()])
    except ValueError as error:
        raise CaseError("/water", str(error)) from None
    return [
        {
            "with": name,
            "component": alternative.component.value,
            "years_between": _significant(alternative.years_between),
            "over_limit_after_service": _significant(alternative.over_after_service),
            "over_limit_in_12_months": _significant(alternative.over_in_12_months),
        }
        for name, results in zip(names, tried, strict=True)
        for alternative in results
    ]


def _spread(values: FloatArray) -> dict[str, float]:
    return {name: _significant(value) for name, value in zip(("p10", "p50", "p90"), values, strict=True)}


def _significant(value: float) -> float:
    """Four significant figures: more than any input carries, and the same on every machine."""
    return float(f"{value:.4g}")


def _day(day: np.datetime64) -> str | None:
    return None if np.isnat(day) else str(day)


def as_json(document: dict[str, object]) -> str:
    """One line of JSON, keys in their order."""
    return json.dumps(document, ensure_ascii=False, allow_nan=False)

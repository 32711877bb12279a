"""A heater's log: what was found at each visit, and the course of each component, past and to come."""

import dataclasses
import datetime
from collections.abc import Mapping, Sequence

import numpy as np
from django.conf import settings

from aquifer.company.models import Company
from aquifer.core import judgement, measuring, reasons, trace
from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import DAYS_PER_YEAR
from aquifer.core.procedures import calculators
from aquifer.core.units import Quantity, Unit, worded
from aquifer.core.upkeep import UpkeepDue
from aquifer.core.vocabulary import LOOKED_AT, Component, Corrosion, DecidedBy, Method, Task
from aquifer.forecasts import upkeep
from aquifer.forecasts.calibrations import in_force
from aquifer.forecasts.inputs import FleetInputs, load
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.schemas import CourseOut, ForecastOut, LogEntryOut, LogOut, SpreadOut, UpkeepOut
from aquifer.heaters.models import Heater
from aquifer.visits import readings
from aquifer.visits.marks import marked
from aquifer.visits.models import EventKind, Finding, Visit
from aquifer.visits.words import finding_words, mark, units_shown

YEARS_AHEAD = 2.5
TANK_LEAKS = "tank_leaks"
"""The way a visit ends where it is wet below and nothing above it is."""


def read(heater: Heater, today: datetime.date) -> LogOut:
    """Everything that the heater's page draws."""
    calibration, people = in_force()
    inputs = load(today, Heater.objects.filter(pk=heater.pk), people)
    forecasts = current(heater.pk)
    by_component = {forecast.component: forecast for forecast, _ in forecasts}
    rates = {Component(forecast.component): np.array(forecast.rate) for forecast, _ in forecasts}
    paces = {Component(forecast.component): (forecast.log_theta, forecast.log_theta_sd) for forecast, _ in forecasts}
    courses = trace.courses(inputs.fleet, rates, paces, calibration, YEARS_AHEAD)
    installed: datetime.date = inputs.installed[0].astype(object)
    visits, in_service = _visits(heater), heater.archived_at is None
    entries = _entries(visits)
    judged, units = _judged(heater, inputs, by_component) if in_service else [], units_shown()
    return {
        "measure": in_service and measuring.is_drawn(settings.SECRET_KEY.encode(), heater.pk, len(entries)),
        "installed_on": installed,
        "today": today,
        "until": today + datetime.timedelta(days=round(YEARS_AHEAD * DAYS_PER_YEAR)),
        "entries": entries,
        "readings": readings.over_the_years(visits),
        "courses": [_course(course, installed) for course in courses],
        "forecasts": [told(forecast, learned) for forecast, learned in forecasts],
        "upkeep": [UpkeepOut.from_orm(due_upkeep) for due_upkeep in upkeep.read(heater, installed)]
        if in_service
        else [],
        "judgements": [
            {
                "rule": judgement.rule,
                "verdict": judgement.verdict,
                "because": [worded(line, units) for line in judgement.because],
                "ask_lead": judgement.ask_lead,
                "licensed": judgement.licensed,
            }
            for judgement in judged
        ],
    }


def current(heater_id: int) -> list[tuple[Forecast, str]]:
    """A heater's forecasts, each with what was learned of its pace, soonest first; two queries."""
    visits: dict[Component, set[int]] = {}
    looked = Finding.objects.filter(heater_id=heater_id, correction__isnull=True, could_not_open=False)
    for task, visit_id in looked.exclude(task__in=_TOLD_NOTHING).values_list("task", "visit_id"):
        if component := LOOKED_AT.get(Task(task)):
            visits.setdefault(component, set()).add(visit_id)
    return [
        (forecast, reasons.learned(component, forecast.log_theta, len(visits.get(component, ()))))
        for forecast in Forecast.objects.current().filter(heater_id=heater_id).order_by("due_on")
        for component in [Component(forecast.component)]
    ]


def told(forecast: Forecast, learned: str) -> ForecastOut:
    """A forecast as it is shown. Parameters: learned, what findings taught of its pace."""
    return {
        "component": Component(forecast.component),
        "as_of": forecast.as_of,
        "reached_days": forecast.reached_days,
        "due_on": forecast.due_on,
        "latest_on": forecast.latest_on,
        "decided_by": DecidedBy(forecast.decided_by),
        "method": Method(forecast.method),
        "benefit": forecast.benefit,
        "probability_today": forecast.probability_today,
        "model_version": forecast.model_version,
        "rate_unit": forecast.rate_unit,
        "rate": _spread(forecast.rate),
        "state": {name: _spread(values) for name, values in forecast.state.items()},
        "limit_value": forecast.limit_value,
        "over_after_service": forecast.over_after_service,
        "reasons": [{"factor": factor, "ratio": ratio, "days": days} for factor, ratio, days in forecast.reasons],
        "log_theta": forecast.log_theta,
        "log_theta_sd": forecast.log_theta_sd,
        "learned": learned,
    }


def _spread(values: Sequence[float]) -> SpreadOut:
    p10, p50, p90 = values
    return {"p10": p10, "p50": p50, "p90": p90}


_TOLD_NOTHING = (Task.ANODE_REPLACEMENT, Task.RELIEF_VALVE_REPLACEMENT, Task.EXPANSION_TANK_REPLACEMENT)


def _visits(heater: Heater) -> list[tuple[Visit, list[Finding]]]:
    """Its visits, each with the findings that stand; a fixed number of queries."""
    visits = Visit.objects.filter(heater=heater).order_by("on", "pk")
    return [(visit, _standing(visit)) for visit in visits.prefetch_related("findings__part", "amendments")]


def _entries(visits: list[tuple[Visit, list[Finding]]]) -> list[LogEntryOut]:
    units = units_shown()
    return [
        {
            "visit_id": visit.pk,
            "on": visit.on,
            "by": visit.technician,
            "minutes": visit.minutes,
            "lines": [{"task": Task(finding.task), "words": finding_words(finding, units)} for finding in standing],
            "marks": {finding.task: mark(finding) for finding in standing},
            "amended": bool(visit.amendments.all()),
            "readings": _read_off(visit, units),
            "notes": _notes(visit),
            "looked_at": marked(visit, units) if visit.steps else [],
        }
        for visit, standing in visits
    ]


def _read_off(visit: Visit, units: Mapping[Quantity, Unit]) -> list[str]:
    """What was fitted, seen and measured beside the findings, as it stands."""
    fitted = [f"{line[0].upper()}{line[1:]}" for line in readings.fitted(visit)]
    return [*fitted, *readings.seen(visit), *readings.words(readings.standing(visit), units)]


def _notes(visit: Visit) -> list[str]:
    """What was written down at a visit's steps, and for its customer."""
    noted = [one["why"] for one in visit.steps if one["kind"] == EventKind.NOTED and not one.get("taken_back")]
    return [*noted, *([visit.note] if visit.note else [])]


def _standing(visit: Visit) -> list[Finding]:
    """What was found at a visit, without what was put right later."""
    findings = list(visit.findings.all())
    corrected = {finding.corrects_id for finding in findings}
    return [finding for finding in findings if finding.pk not in corrected]


def _course(course: trace.Course, installed: datetime.date) -> CourseOut:
    days = np.datetime64(installed, "D") + np.rint(course.years * DAYS_PER_YEAR).astype("timedelta64[D]")
    p10, p50, p90 = course.values.T.round(4).tolist()
    return {
        "component": Component(course.component),
        "on": days.astype(object).tolist(),
        "p10": p10,
        "p50": p50,
        "p90": p90,
        "present": course.present,
    }


def judged(heater: Heater, today: datetime.date) -> list[judgement.Judgement]:
    """The rules of judgement for one heater, by its forecasts in force."""
    inputs = load(today, Heater.objects.filter(pk=heater.pk))
    return _judged(
        heater, inputs, {forecast.component: forecast for forecast in Forecast.objects.current().filter(heater=heater)}
    )


def at_visit(
    heater: Heater, today: datetime.date, forecasts: dict[str, Forecast]
) -> tuple[list[judgement.OnSiteRule], list[UpkeepDue], dict[str, judgement.Judgement]]:
    """What the rules say for every answer that a visit can give; what is cleaned when, the soonest first; and what they
    say of the heater as it is known, by rule.

    Parameters: forecasts in force, by component.
    """
    inputs = load(today, Heater.objects.filter(pk=heater.pk))
    installed: datetime.date = inputs.installed[0].astype(object)
    company = Company.current()
    facts = _facts(heater, inputs, forecasts, company)
    judged = {one.rule: one for one in judgement.judge(facts, company.practice_options)}
    return judgement.on_site_rules(facts, company.practice_options), upkeep.read(heater, installed), judged


def _judged(heater: Heater, inputs: FleetInputs, forecasts: dict[str, Forecast]) -> list[judgement.Judgement]:
    company = Company.current()
    return judgement.judge(_facts(heater, inputs, forecasts, company), company.practice_options)


def _facts(heater: Heater, inputs: FleetInputs, forecasts: dict[str, Forecast], company: Company) -> judgement.Facts:
    states = {
        Component(name): {
            **{figure: values[1] for figure, values in forecast.state.items()},
            "over_after_service": forecast.over_after_service,
        }
        for name, forecast in forecasts.items()
    }
    facts = judgement.facts_of(
        inputs.fleet,
        states,
        _seen(heater),
        company.never_flushed_cutoff_years,
        heater.site.softened,
        heater.drain_port_height_mm,
    )
    return dataclasses.replace(
        facts, input_kw=heater.input_kw, supply_v=heater.supply_volts, probe_least_mm=probe_least_mm(heater)
    )


def probe_least_mm(heater: Heater) -> float | None:
    """How long the probe of its relief valve must be, by the jacket that it goes through, mm; None without a tank, and
    where nobody measured the jacket: by a usual one the commonest probe would be called wrong."""
    jacket_mm = heater.details.get("insulation_mm")
    if not HeaterKind(heater.kind).is_tank or not jacket_mm:
        return None
    return float(jacket_mm) + calculators.PROBE_IN_WATER_MM


def _leaked_last(heater: Heater) -> bool:
    """Whether the tank was left as leaking itself; only a visit that was carried through since has proven it dry, and
    none that ended before its time for another reason."""
    told = heater.visits.filter(ending__in=("", TANK_LEAKS))
    last = told.order_by("-on", "-pk").values_list("ending", flat=True).first()
    return last == TANK_LEAKS


def _seen(heater: Heater) -> judgement.Seen:
    """What visits saw that no forecast carries."""
    findings = heater.findings.filter(correction__isnull=True, task__in=[Task.LOOK_OVER, Task.PRESSURE_TEST])
    drips, falls, creep, seam, lost = None, None, None, None, []
    for finding in findings.order_by("on", "pk"):
        drips = drips if finding.valve_drips is None else finding.valve_drips
        # A test of one figure says nothing of the others.
        creep = creep if finding.creep_kpa is None else finding.creep_kpa
        falls = falls if finding.falls is None else finding.falls
        seam = seam if finding.corrosion is None else finding.corrosion == Corrosion.SEAMS
        lost += [finding.on] if finding.element_failed else []
    return judgement.Seen(
        drips,
        judgement.lately_lost(lost),
        heater.site.closed_system,
        creep,
        falls,
        others_excluded=_leaked_last(heater),
        rusty_seam=seam,
    )

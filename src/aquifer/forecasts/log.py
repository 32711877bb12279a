"""A heater's log: what was found at each visit, and the course of each component, past and to come."""

import dataclasses
import datetime
from collections.abc import Mapping, Sequence

import numpy as np
from django.conf import settings

from aquifer.company.models import Company
from aquifer.core import judgement, measuring, reasons, trace
from aquifer.core.parameters import DAYS_PER_YEAR
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


def read(heater: Heater, today: datetime.date) -> LogOut:
    """Everything that the heater's page draws."""
    calibration, people = in_force()
    inputs = load(today, Heater.objects.filter(pk=heater.pk), people)
    forecasts = current(heater.pk)
    by_component = {one.component: one for one, _ in forecasts}
    rates = {Component(one.component): np.array(one.rate) for one, _ in forecasts}
    paces = {Component(one.component): (one.log_theta, one.log_theta_sd) for one, _ in forecasts}
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
        "courses": [_course(one, installed) for one in courses],
        "forecasts": [told(one, learned) for one, learned in forecasts],
        "upkeep": [UpkeepOut.from_orm(one) for one in upkeep.read(heater, installed)] if in_service else [],
        "judgements": [
            {
                "rule": one.rule,
                "verdict": one.verdict,
                "because": [worded(line, units) for line in one.because],
                "ask_lead": one.ask_lead,
                "licensed": one.licensed,
            }
            for one in judged
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
        (one, reasons.learned(component, one.log_theta, len(visits.get(component, ()))))
        for one in Forecast.objects.current().filter(heater_id=heater_id).order_by("due_on")
        for component in [Component(one.component)]
    ]


def told(one: Forecast, learned: str) -> ForecastOut:
    """A forecast as it is shown. Parameters: learned, what findings taught of its pace."""
    return {
        "component": Component(one.component),
        "as_of": one.as_of,
        "reached_days": one.reached_days,
        "due_on": one.due_on,
        "latest_on": one.latest_on,
        "decided_by": DecidedBy(one.decided_by),
        "method": Method(one.method),
        "benefit": one.benefit,
        "probability_today": one.probability_today,
        "model_version": one.model_version,
        "rate_unit": one.rate_unit,
        "rate": _spread(one.rate),
        "state": {name: _spread(values) for name, values in one.state.items()},
        "limit_value": one.limit_value,
        "over_after_service": one.over_after_service,
        "reasons": [{"factor": factor, "ratio": ratio, "days": days} for factor, ratio, days in one.reasons],
        "log_theta": one.log_theta,
        "log_theta_sd": one.log_theta_sd,
        "learned": learned,
    }


def _spread(values: Sequence[float]) -> SpreadOut:
    p10, p50, p90 = values
    return {"p10": p10, "p50": p50, "p90": p90}


_TOLD_NOTHING = (Task.ANODE_REPLACEMENT, Task.RELIEF_VALVE_REPLACEMENT, Task.EXPANSION_TANK_REPLACEMENT)


def _visits(heater: Heater) -> list[tuple[Visit, list[Finding]]]:
    """Its visits, each with the findings that stand; a fixed number of queries."""
    visits = Visit.objects.filter(heater=heater).order_by("on", "pk")
    return [(one, _standing(one)) for one in visits.prefetch_related("findings__part", "amendments")]


def _entries(visits: list[tuple[Visit, list[Finding]]]) -> list[LogEntryOut]:
    units = units_shown()
    return [
        {
            "visit_id": visit.pk,
            "on": visit.on,
            "by": visit.technician,
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
    found = list(visit.findings.all())
    corrected = {one.corrects_id for one in found}
    return [one for one in found if one.pk not in corrected]


def _course(one: trace.Course, installed: datetime.date) -> CourseOut:
    days = np.datetime64(installed, "D") + np.rint(one.years * DAYS_PER_YEAR).astype("timedelta64[D]")
    p10, p50, p90 = one.values.T.round(4).tolist()
    return {
        "component": Component(one.component),
        "on": days.astype(object).tolist(),
        "p10": p10,
        "p50": p50,
        "p90": p90,
        "present": one.present,
    }


def judged(heater: Heater, today: datetime.date) -> list[judgement.Judgement]:
    """The rules of judgement for one heater, by its forecasts in force."""
    inputs = load(today, Heater.objects.filter(pk=heater.pk))
    return _judged(heater, inputs, {one.component: one for one in Forecast.objects.current().filter(heater=heater)})


def at_visit(
    heater: Heater, today: datetime.date, forecasts: dict[str, Forecast]
) -> tuple[list[judgement.Moment], list[UpkeepDue], dict[str, judgement.Judgement]]:
    """What the rules say for every answer that a visit can give; what is cleaned when, the soonest first; and what they
    say of the heater as it is known, by rule.

    Parameters: forecasts in force, by component.
    """
    inputs = load(today, Heater.objects.filter(pk=heater.pk))
    installed: datetime.date = inputs.installed[0].astype(object)
    company = Company.current()
    facts = _facts(heater, inputs, forecasts, company)
    judged = {one.rule: one for one in judgement.judge(facts, company.schools)}
    return judgement.moments(facts, company.schools), upkeep.read(heater, installed), judged


def _judged(heater: Heater, inputs: FleetInputs, forecasts: dict[str, Forecast]) -> list[judgement.Judgement]:
    company = Company.current()
    return judgement.judge(_facts(heater, inputs, forecasts, company), company.schools)


def _facts(heater: Heater, inputs: FleetInputs, forecasts: dict[str, Forecast], company: Company) -> judgement.Facts:
    states = {
        Component(name): {
            **{figure: values[1] for figure, values in one.state.items()},
            "over_after_service": one.over_after_service,
        }
        for name, one in forecasts.items()
    }
    facts = judgement.facts_of(
        inputs.fleet,
        states,
        _seen(heater),
        company.never_flushed_cutoff_years,
        heater.site.softened,
        heater.drain_port_height_mm,
    )
    return dataclasses.replace(facts, input_kw=heater.input_kw, supply_v=heater.supply_volts)


def _seen(heater: Heater) -> judgement.Seen:
    """What visits saw that no forecast carries."""
    found = heater.findings.filter(correction__isnull=True, task__in=[Task.LOOK_OVER, Task.PRESSURE_TEST])
    drips, falls, creep, seam, lost = None, None, None, None, []
    for one in found.order_by("on", "pk"):
        drips = drips if one.valve_drips is None else one.valve_drips
        # A test of one figure says nothing of the others.
        creep = creep if one.creep_kpa is None else one.creep_kpa
        falls = falls if one.falls is None else one.falls
        seam = seam if one.corrosion is None else one.corrosion == Corrosion.SEAMS
        lost += [one.on] if one.element_failed else []
    return judgement.Seen(drips, judgement.lately_lost(lost), heater.site.closed_system, creep, falls, rusty_seam=seam)

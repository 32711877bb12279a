"""A heater's log: what was found at each visit, and the course of each component, past and to come."""

import datetime
from typing import Any

import numpy as np

from aquifer.company.models import Company
from aquifer.core import judgement, relief_valve, trace
from aquifer.core.parameters import DAYS_PER_YEAR
from aquifer.core.vocabulary import Component, Task
from aquifer.forecasts.inputs import FleetInputs, load
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater
from aquifer.visits.models import Visit
from aquifer.visits.words import finding_words, mark

YEARS_AHEAD = 2.5


def read(heater: Heater, today: datetime.date) -> dict[str, Any]:
    """Everything that the heater's page draws."""
    inputs = load(today, Heater.objects.filter(pk=heater.pk))
    forecasts = list(Forecast.objects.current().filter(heater=heater).order_by("due_on"))
    rates = {Component(one.component): np.array(one.rate) for one in forecasts}
    installed: datetime.date = inputs.installed[0].astype(object)
    return {
        "installed_on": installed,
        "today": today,
        "until": today + datetime.timedelta(days=round(YEARS_AHEAD * DAYS_PER_YEAR)),
        "entries": _entries(heater),
        "courses": [_course(one, installed) for one in trace.courses(inputs.fleet, rates, YEARS_AHEAD)],
        "forecasts": forecasts,
        "judgements": judgements(heater, inputs, {one.component: one for one in forecasts}),
    }


def _entries(heater: Heater) -> list[dict[str, Any]]:
    visits = Visit.objects.filter(heater=heater).order_by("on", "pk").prefetch_related("findings")
    return [
        {
            "on": visit.on,
            "by": visit.technician,
            "lines": [finding_words(finding) for finding in visit.findings.all()],
            "marks": {finding.task: mark(finding) for finding in visit.findings.all()},
        }
        for visit in visits
    ]


def _course(one: trace.Course, installed: datetime.date) -> dict[str, Any]:
    days = np.datetime64(installed, "D") + np.rint(one.years * DAYS_PER_YEAR).astype("timedelta64[D]")
    p10, p50, p90 = one.values.T.round(4).tolist()
    return {
        "component": one.component,
        "on": days.astype(object).tolist(),
        "p10": p10,
        "p50": p50,
        "p90": p90,
        "present": one.present,
    }


def judgements(heater: Heater, inputs: FleetInputs, forecasts: dict[str, Forecast]) -> list[dict[str, Any]]:
    """The rules of judgement for one heater, as the core decides them."""
    h = inputs.fleet.heaters
    age = float(h.age_years[0])
    found = []
    if sediment := forecasts.get(Component.SEDIMENT):
        found.append(
            judgement.flush_or_leave(
                age,
                inputs.fleet.flushes.row.size > 0,
                Company.current().never_flushed_cutoff_years,
                sediment.state["depth_mm"][1],
                heater.drain_port_height_mm or judgement.DRAIN_PORT_MM,
            )
        )
    if rod := forecasts.get(Component.ANODE):
        found.append(judgement.rod_alloy(rod.state["protection_ratio"][1]))
    trials = heater.findings.filter(
        task__in=[Task.RELIEF_VALVE_EXERCISE, Task.RELIEF_VALVE_REPLACEMENT], correction__isnull=True
    )
    last = trials.order_by("-on", "-pk").values_list("outcome", flat=True).first()
    replace_at = float(relief_valve.replacement_age_years(h.hardness_mg_l)[0])
    found.append(judgement.keep_valve(age - float(h.valve_fitted_years[0]), replace_at, last))
    return [
        {"rule": one.rule, "verdict": one.verdict, "because": list(one.because), "ask_lead": one.ask_lead}
        for one in found
    ]

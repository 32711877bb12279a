"""Whether the forecasts were right: what was measured against what had been told before, and what that taught."""

import datetime
import math
from typing import Any

from django.db.models import Count, F, Q

from aquifer.core.learning.calibration import HALF_WIDTH_80, usual_inside
from aquifer.core.vocabulary import LEARNED, Component, Task, ValveOutcome
from aquifer.forecasts.models import Calibration, Check
from aquifer.visits.models import Finding

MOST_CHECKS = 300
"""Measurements that are drawn of a component, the newest; more are a grey band on any screen."""
_HEATER = {"tag": F("heater__tag"), "site": F("heater__site__name"), "zone": F("heater__site__zone__name")}


def read(today: datetime.date, with_people: bool) -> dict[str, Any]:
    """Each component with its measurements and what the base taught of it; a fixed number of queries.

    Parameters: with_people, whether it is told how each technician grades.
    """
    newest = {
        Component(one.component): one
        for one in Calibration.objects.order_by("component", "-computed_at").distinct("component")
    }
    return {
        "components": [
            _component(newest[component], _checks(component), with_people)
            for component in LEARNED
            if component in newest and component is not Component.RELIEF_VALVE
        ],
        "valves": _valves(today),
    }


def _checks(component: Component) -> list[dict[str, Any]]:
    found = Check.objects.filter(component=component).order_by("-on", "pk")
    return list(found.values("heater_id", "on", "ratio", "place", **_HEATER)[:MOST_CHECKS])


def _component(taught: Calibration, checks: list[dict[str, Any]], with_people: bool) -> dict[str, Any]:
    people = taught.graders if with_people else {}
    low, high = usual_inside(taught.checks) if taught.checks else (None, None)
    return {
        "component": taught.component,
        "computed_at": taught.computed_at,
        "measured": taught.checks,
        "inside": taught.inside,
        "usual_from": low,
        "usual_to": high,
        "centre": math.exp(taught.shift),
        "year_strays": None if taught.future_spread is None else math.exp(HALF_WIDTH_80 * taught.future_spread),
        "heater_scale": taught.heater_scale,
        "zone_scale": taught.zone_scale,
        "pairs": taught.pairs,
        "common_eye": math.exp(taught.common_eye),
        "people": _by_ratio(people),
        "builds": _by_ratio({name.replace("/", " "): log for name, log in taught.cohorts.items()}),
        "checks": checks,
    }


def _by_ratio(logs: dict[str, float]) -> list[dict[str, Any]]:
    ordered = sorted(logs.items(), key=lambda item: (-item[1], item[0]))
    return [{"name": name, "ratio": math.exp(log)} for name, log in ordered]


def _valves(today: datetime.date) -> dict[str, int]:
    """Relief valves exercised within a year, and those that passed no water."""
    tried = Finding.objects.filter(
        task=Task.RELIEF_VALVE_EXERCISE, on__gt=today - datetime.timedelta(days=365), correction__isnull=True
    ).exclude(outcome__in=["", ValveOutcome.NOT_TESTED])
    counts: dict[str, int] = tried.aggregate(
        tried=Count("pk"), stuck=Count("pk", filter=Q(outcome=ValveOutcome.NO_FLOW))
    )
    return counts

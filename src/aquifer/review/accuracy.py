"""Whether the forecasts were right: what was measured against what had been told before, and what that taught."""

import datetime
import math

from django.db.models import Count, F, Q, QuerySet, Window
from django.db.models.functions import RowNumber

from aquifer.core.components import TRAITS
from aquifer.core.learning.calibration import usual_inside, verdict
from aquifer.core.parameters import HALF_WIDTH_80
from aquifer.core.vocabulary import LEARNED, Component, Task, ValveOutcome
from aquifer.forecasts.models import Calibration, Check
from aquifer.review.schemas import AccuracyOut, CheckOut, ForecastsHeldOut, RatioOut, Strayed, ValvesOut
from aquifer.visits.models import Finding

MOST_CHECKS = 300
"""Measurements that are drawn of a component, the newest; more are a grey band on any screen."""


P10, P90 = 0.1, 0.9
"""The ends of the 80 % window."""


def read(today: datetime.date) -> ForecastsHeldOut:
    """Each component with its measurements and what the base taught of it; a fixed number of queries."""
    newest = {
        Component(calibration.component): calibration
        for calibration in Calibration.objects.order_by("component", "-computed_at").distinct("component")
    }
    checks: dict[str, list[CheckOut]] = {}
    for check in _checks():
        told: CheckOut = {
            "heater_id": check.heater_id,
            "tag": check.heater.tag,
            "site": check.heater.site.name,
            "zone": check.heater.site.zone.name,
            "on": check.on,
            "ratio": check.ratio,
            "place": check.place,
            "strayed": Strayed.FASTER if check.place > P90 else Strayed.SLOWER if check.place < P10 else None,
        }
        checks.setdefault(check.component, []).append(told)
    return {
        "components": [
            _component(newest[component], checks.get(component, []))
            for component in LEARNED
            if component in newest and component is not Component.RELIEF_VALVE
        ],
        "valves": _valves(today),
        "kept_at": None,
    }


def without_people(found: ForecastsHeldOut) -> ForecastsHeldOut:
    """The same for whoever is not to be told how each technician grades."""
    return {**found, "components": [{**one, "people": [], "say_the_same": []} for one in found["components"]]}


def _checks() -> QuerySet[Check]:
    """The newest of each component."""
    rank = Window(RowNumber(), partition_by="component", order_by=[F("on").desc(), F("pk").asc()])
    newest = Check.objects.annotate(rank=rank).filter(rank__lte=MOST_CHECKS).order_by("-on", "pk")
    return newest.select_related("heater__site__zone")


def _component(taught: Calibration, checks: list[CheckOut]) -> AccuracyOut:
    low, high = usual_inside(taught.checks) if taught.checks else (None, None)
    return {
        "component": Component(taught.component),
        "measured": taught.checks,
        "inside": taught.inside,
        "usual_from": low,
        "usual_to": high,
        "verdict": verdict(taught.inside, taught.checks),
        "centre": math.exp(taught.shift),
        "year_strays": None if taught.future_spread is None else math.exp(HALF_WIDTH_80 * taught.future_spread),
        "heater_scale": taught.heater_scale,
        "zone_scale": taught.zone_scale,
        "eye_scale": taught.eye_scale,
        "traits": [
            {"name": name, "ratio": (math.e if name == "temperature" else 2) ** slope}
            for name, slope in zip(TRAITS, taught.slopes, strict=False)
        ],
        "pairs": taught.pairs,
        "common_eye": math.exp(taught.common_eye),
        "people": _by_ratio(taught.graders),
        "say_the_same": sorted(name for name, heed in taught.heed.items() if heed < 0.5),
        "builds": _by_ratio({name.replace("/", " "): log for name, log in taught.cohorts.items()}),
        "checks": checks,
    }


def _by_ratio(logs: dict[str, float]) -> list[RatioOut]:
    ordered = sorted(logs.items(), key=lambda item: (-item[1], item[0]))
    return [{"name": name, "ratio": math.exp(log)} for name, log in ordered]


def _valves(today: datetime.date) -> ValvesOut:
    """Relief valves exercised within a year, and those that passed no water."""
    tried = Finding.objects.filter(
        task=Task.RELIEF_VALVE_EXERCISE, on__gt=today - datetime.timedelta(days=365), correction__isnull=True
    ).exclude(outcome__in=["", ValveOutcome.NOT_TESTED])
    counts = tried.aggregate(tried=Count("pk"), stuck=Count("pk", filter=Q(outcome=ValveOutcome.NO_FLOW)))
    return {"tried": counts["tried"], "stuck": counts["stuck"]}

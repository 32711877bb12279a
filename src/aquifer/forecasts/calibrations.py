"""What the base taught, as rows and as the core takes it."""

import datetime
from collections.abc import Mapping
from typing import Any

import numpy as np
from django.db import transaction
from django.db.models import Count
from django.utils import timezone
from scipy.special import ndtr

from aquifer.core import MODEL_VERSION
from aquifer.core.forecast import MOST_LEARNERS, calibrate
from aquifer.core.learning import Checked, ComponentCalibration
from aquifer.core.parameters import DAYS_PER_YEAR
from aquifer.core.vocabulary import LEARNED, Component
from aquifer.forecasts.inputs import FleetInputs, People, load
from aquifer.forecasts.models import Calibration, Check
from aquifer.heaters.models import Heater
from aquifer.prepared import Prepared

Calibrations = Mapping[Component, ComponentCalibration]


_TAUGHT = ("heater_scale", "zone_scale", "shift", "future_spread", "checks", "inside", "pairs")
_NEWEST = Prepared(
    Calibration.objects.filter(model_version=MODEL_VERSION).order_by("component", "-computed_at").distinct("component"),
    *("component", "graders", "common_eye", "cohorts", *_TAUGHT),
)


def in_force() -> tuple[Calibrations, People]:
    """The newest calibration of each component under this model, and the people and builds it knows; one query."""
    rows = _NEWEST.named()
    graders = tuple(sorted({name for row in rows for name in row["graders"]}))
    builds = tuple(sorted({name for row in rows for name in row["cohorts"]}))
    return {Component(row["component"]): _read(row, graders, builds) for row in rows}, People(graders, builds)


def _read(row: dict[str, Any], graders: tuple[str, ...], builds: tuple[str, ...]) -> ComponentCalibration:
    eyes = [row["graders"].get(name, row["common_eye"]) for name in graders]
    return ComponentCalibration(
        offsets=np.array([*eyes, row["common_eye"]]),
        cohorts=np.array([row["cohorts"].get(name, 0.0) for name in builds]),
        **{name: row[name] for name in _TAUGHT if row[name] is not None},
    )


def renew(as_of: datetime.date) -> int:
    """Calibrate every component on the base as it is, at most ``MOST_LEARNERS`` heaters of whole zones.

    Returns: how many heaters it was learned from.
    """
    people = People.on_record()
    zones, heaters = [], 0
    sizes = Heater.objects.in_service().values_list("site__zone_id").annotate(n=Count("pk")).order_by("site__zone_id")
    for zone_id, size in sizes:
        if heaters and heaters + size > MOST_LEARNERS:
            break
        zones.append(zone_id)
        heaters += size
    inputs = load(as_of, Heater.objects.in_service().filter(site__zone_id__in=zones), people)
    found = calibrate(inputs.fleet)
    now = timezone.now()
    with transaction.atomic():
        Calibration.objects.bulk_create(
            [_row(component, found[component], people, now) for component in LEARNED if component in found]
        )
        Check.objects.all().delete()
        Check.objects.bulk_create(
            [
                check
                for component, one in found.items()
                if one.checked is not None
                for check in _checks(component, one.checked, inputs)
            ]
        )
    return heaters


def _checks(component: Component, checked: Checked, inputs: FleetInputs) -> list[Check]:
    days = np.rint(checked.years * DAYS_PER_YEAR).astype("timedelta64[D]")
    on = (inputs.installed[checked.row] + days).tolist()
    ratio, place = np.exp(checked.off), ndtr(checked.off / checked.told)
    return [
        Check(heater_id=heater_id, component=component, on=day, ratio=round(times, 4), place=round(at, 4))
        for heater_id, day, times, at in zip(
            inputs.heater_ids[checked.row].tolist(), on, ratio.tolist(), place.tolist(), strict=True
        )
    ]


def _row(component: Component, one: ComponentCalibration, people: People, now: datetime.datetime) -> Calibration:
    eyes = one.offsets if one.offsets is not None else np.zeros(len(people.graders) + 1)
    cohorts = one.cohorts if one.cohorts.size else np.zeros(len(people.builds))
    return Calibration(
        component=component,
        computed_at=now,
        model_version=MODEL_VERSION,
        graders=dict(zip(people.graders, eyes[:-1].round(4).tolist(), strict=True)),
        common_eye=round(float(eyes[-1]), 4),
        cohorts=dict(zip(people.builds, cohorts.round(4).tolist(), strict=True)),
        heater_scale=one.heater_scale,
        zone_scale=one.zone_scale,
        shift=round(one.shift, 4),
        future_spread=None if one.future_spread is None else round(one.future_spread, 4),
        checks=one.checks,
        inside=None if np.isnan(one.inside) else round(one.inside, 4),
        pairs=one.pairs,
    )

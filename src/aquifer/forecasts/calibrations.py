"""What the base taught, as rows and as the core takes it."""

import datetime
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from django.db import transaction
from django.db.models import Count, F
from django.utils import timezone
from numpy.typing import NDArray
from scipy.special import ndtr

from aquifer.core import MODEL_VERSION, lives
from aquifer.core.arrays import FloatArray
from aquifer.core.components.sediment import practised
from aquifer.core.forecast import MOST_LEARNERS, Context, calibrate, life_spans
from aquifer.core.learning import Checked, ComponentCalibration, Pairs
from aquifer.core.lives import UNLEARNED, Group, Spans, TankLife
from aquifer.core.parameters import DAYS_PER_YEAR, LEARNING
from aquifer.core.tank import Law
from aquifer.core.vocabulary import LEARNED, Component, EndCause, Removed, code
from aquifer.forecasts.inputs import FleetInputs, People, load
from aquifer.forecasts.models import Calibration, Check, PractisedLook
from aquifer.heaters.models import Heater
from aquifer.prepared import Prepared, Row

Calibrations = Mapping[Component, ComponentCalibration]


_TAUGHT = (
    *("heater_scale", "zone_scale", "shift", "future_spread", "checks", "inside", "pairs"),
    *("level", "removal", "uneven", "misjudged", "eye_scale"),
)
_LIFE = ("life", "failures")
_NEWEST = Prepared(
    Calibration.objects.filter(model_version=MODEL_VERSION).order_by("component", "-computed_at").distinct("component"),
    *("component", "graders", "common_eye", "eye_variance", "common_eye_variance", "heed", "cohorts", "slopes"),
    *(*_TAUGHT, *_LIFE),
)


def in_force() -> tuple[Calibrations, People]:
    """The newest calibration of each component under this model, and the people and builds it knows; one query."""
    rows = _NEWEST.named()
    graders = tuple(sorted({name for row in rows for name in row["graders"]}))
    builds = tuple(sorted({name for row in rows for name in row["cohorts"]}))
    return {Component(row["component"]): _read(row, graders, builds) for row in rows}, People(graders, builds)


def _read(row: Row, graders: tuple[str, ...], builds: tuple[str, ...]) -> ComponentCalibration:
    grader_bias = [row["graders"].get(name, row["common_eye"]) for name in graders]
    unknown = [row["eye_variance"].get(name, LEARNING.grader_spread**2) for name in graders]
    heed = [row["heed"].get(name, 1.0) for name in graders]
    return ComponentCalibration(
        heed=np.array([*heed, 1.0]),
        life=_life(row["life"], builds, row["failures"]),
        offsets=np.array([*grader_bias, row["common_eye"]]),
        eye_variance=np.array([*unknown, row["common_eye_variance"]]),
        cohorts=np.array([row["cohorts"].get(name, 0.0) for name in builds]),
        slopes=np.array(row["slopes"], dtype=np.float64),
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
    found = calibrate(inputs.fleet, _practised(people))
    now = timezone.now()
    with transaction.atomic():
        Calibration.objects.bulk_create(
            [_row(component, found[component], people, now) for component in LEARNED if component in found]
        )
        life = lives.learned(_spans(inputs, zones, people, found, as_of))
        Calibration.objects.bulk_create([_life_row(life, people, zones, now)])
        Check.objects.all().delete()
        Check.objects.bulk_create(
            [
                check
                for component, calibration in found.items()
                if calibration.checked is not None
                for check in _checks(component, calibration.checked, inputs)
            ]
        )
    return heaters


MOST_LOOKS = 20
"""In practice, the latest of each person: eyes learn, and so do those who practise. Assumption."""


def _practised(people: People) -> Pairs | None:
    """What those who grade graded in practice, where the truth is known."""
    number = {name: at for at, name in enumerate(people.graders)}
    looks: dict[int, list[PractisedLook]] = {}
    for look in PractisedLook.objects.select_related("by").order_by("-pk"):
        mine = looks.setdefault(look.by_id, [])
        if len(mine) < MOST_LOOKS and look.by.name in number:
            mine.append(look)
    every = [look for mine in looks.values() for look in mine]
    if not every:
        return None
    return practised(
        np.array([look.depth_mm / 1000 for look in every]),
        np.array([code(Removed(look.removed)) for look in every], dtype=np.int64),
        np.array([number[look.by.name] for look in every], dtype=np.int64),
    )


def _spans(inputs: FleetInputs, zones: list[int], people: People, found: Calibrations, as_of: datetime.date) -> Spans:
    """Tanks in care and those that left it, each from when it came on our record; waters by their place in ``zones``.

    What had leaked before was never put there, so years before it say nothing of how long tanks last.
    """
    ended = Heater.objects.filter(archived_at__isnull=False, site__zone_id__in=zones)
    ended = ended.filter(ended_on__gte=F("created_at__date")).exclude(end_cause__in=["", EndCause.MERGED])
    gone = load(as_of, ended, people)
    ends = {pk: (on, cause == EndCause.LEAKED) for pk, on, cause in ended.values_list("pk", "ended_on", "end_cause")}
    days = np.array([ends[pk][0] for pk in gone.heater_ids.tolist()], dtype="datetime64[D]")
    leaked = np.array([ends[pk][1] for pk in gone.heater_ids.tolist()], dtype=bool)
    context, stands = Context(calibration=found), np.zeros(inputs.heater_ids.size, dtype=bool)
    parts = (
        (inputs, life_spans(inputs.fleet, context, _entry(inputs), inputs.fleet.heaters.age_years, stands)),
        (gone, life_spans(gone.fleet, context, _entry(gone), _ages(gone, days), leaked)),
    )
    place = {zone_id: at for at, zone_id in enumerate(zones)}
    return lives.together(
        [
            replace(spans, zone=np.array([place[name] for name in of.zone_ids.tolist()], dtype=np.int64)[spans.zone])
            for of, spans in parts
        ]
    )


def _entry(inputs: FleetInputs) -> FloatArray:
    """Age at which each heater came on record."""
    came = dict(Heater.objects.filter(pk__in=inputs.heater_ids.tolist()).values_list("pk", "created_at__date"))
    return _ages(inputs, np.array([came[pk] for pk in inputs.heater_ids.tolist()], dtype="datetime64[D]"))


def _ages(inputs: FleetInputs, on: NDArray[np.datetime64]) -> FloatArray:
    return np.asarray(np.maximum((on - inputs.installed).astype(np.float64) / DAYS_PER_YEAR, 0.0))


def _life_row(life: TankLife, people: People, zones: list[int], now: datetime.datetime) -> Calibration:
    told = {
        "shape": round(life.law.shape, 4),
        "frailty": round(life.law.frailty, 4),
        "level": round(life.level, 4),
        "slopes": life.slopes.round(4).tolist(),
        "covariance": life.covariance.round(6).tolist(),
        "builds": _told_of(life.builds, people.builds),
        "build_spread": round(life.builds.spread, 4),
        "zones": _told_of(life.zones, zones),
        "zone_spread": round(life.zones.spread, 4),
    }
    return Calibration(
        component=Component.TANK, computed_at=now, model_version=MODEL_VERSION, life=told, failures=life.failures
    )


def _told_of(group: Group, names: Sequence[str | int]) -> dict[str, list[float]]:
    """Effect and variance of each that was seen."""
    rows = zip(names, group.effect.round(4).tolist(), group.variance.round(6).tolist(), strict=False)
    return {str(name): [effect, variance] for name, effect, variance in rows}


def _life(told: Row, builds: tuple[str, ...], failures: int) -> TankLife:
    """What is on record of how tanks end here, makes by their place among ``builds``."""
    if not told:
        return UNLEARNED
    spread = told["build_spread"]
    of_builds = np.array([told["builds"].get(name, [0.0, spread**2]) for name in builds]).reshape(-1, 2)
    of_zones = np.array([*told["zones"].values()]).reshape(-1, 2)
    return TankLife(
        Law(told["shape"], told["frailty"]),
        told["level"],
        np.array(told["slopes"]),
        np.array(told["covariance"]),
        Group(of_builds[:, 0], of_builds[:, 1], spread),
        Group(of_zones[:, 0], of_zones[:, 1], told["zone_spread"]),
        {int(name): at for at, name in enumerate(told["zones"])},
        failures,
    )


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


def _row(
    component: Component, calibration: ComponentCalibration, people: People, now: datetime.datetime
) -> Calibration:
    grader_bias = calibration.offsets if calibration.offsets is not None else np.zeros(len(people.graders) + 1)
    heed = np.ones(grader_bias.size) if calibration.heed is None else calibration.heed
    unknown = np.zeros(grader_bias.size) if calibration.eye_variance is None else calibration.eye_variance
    cohorts = calibration.cohorts if calibration.cohorts.size else np.zeros(len(people.builds))
    return Calibration(
        component=component,
        computed_at=now,
        model_version=MODEL_VERSION,
        graders=dict(zip(people.graders, grader_bias[:-1].round(4).tolist(), strict=True)),
        common_eye=round(float(grader_bias[-1]), 4),
        eye_variance=dict(zip(people.graders, unknown[:-1].round(5).tolist(), strict=True)),
        heed=dict(zip(people.graders, heed[:-1].tolist(), strict=True)),
        common_eye_variance=round(float(unknown[-1]), 5),
        cohorts=dict(zip(people.builds, cohorts.round(4).tolist(), strict=True)),
        heater_scale=calibration.heater_scale,
        zone_scale=calibration.zone_scale,
        eye_scale=calibration.eye_scale,
        shift=round(calibration.shift, 4),
        future_spread=None if calibration.future_spread is None else round(calibration.future_spread, 4),
        checks=calibration.checks,
        inside=None if np.isnan(calibration.inside) else round(calibration.inside, 4),
        pairs=calibration.pairs,
        level=calibration.level,
        removal=round(calibration.removal, 2),
        uneven=round(calibration.uneven, 2),
        misjudged=round(calibration.misjudged, 4),
        slopes=calibration.slopes.tolist(),
    )

"""Computing forecasts and storing them, each as a new version beside the one it supersedes."""

import datetime
import json
from collections.abc import Iterable, Iterator, Sequence
from itertools import repeat
from typing import Any

import numpy as np
from django.db import connection, transaction
from django.utils import timezone

from aquifer.core import MODEL_VERSION
from aquifer.core.arrays import IntArray
from aquifer.core.forecast import ComponentForecast, dates, forecast
from aquifer.core.parameters import DAYS_PER_YEAR, HORIZON_YEARS
from aquifer.core.vocabulary import DecidedBy, Method
from aquifer.forecasts.inputs import FleetInputs, load
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater

KEEP_DAYS = 400
"""Superseded forecasts are kept this long, so that a year's forecasts can be held against what was found."""


def recompute_all(as_of: datetime.date | None = None) -> int:
    """Forecast every heater in service and store it; returns how many heaters."""
    inputs = load(as_of or timezone.localdate())
    store(inputs, forecast(inputs.fleet), inputs.heater_ids)
    Forecast.objects.filter(superseded_at__lt=timezone.now() - datetime.timedelta(days=KEEP_DAYS)).delete()
    return int(inputs.heater_ids.size)


def recompute_zone(zone_id: int) -> int:
    """The same for the heaters of a zone: what one of them showed says something of all."""
    inputs = load(timezone.localdate(), Heater.objects.in_service().filter(site__zone_id=zone_id))
    store(inputs, forecast(inputs.fleet), inputs.heater_ids)
    return int(inputs.heater_ids.size)


def recompute_heaters(heater_ids: Iterable[int]) -> None:
    """Store new forecasts of these heaters only, learned together with all that share their supply."""
    wanted = np.array(sorted(heater_ids), dtype=np.int64)
    zones = Heater.objects.filter(pk__in=wanted.tolist()).values("site__zone_id")
    inputs = load(timezone.localdate(), Heater.objects.in_service().filter(site__zone_id__in=zones))
    store(inputs, forecast(inputs.fleet), wanted)


def store(inputs: FleetInputs, found: list[ComponentForecast], wanted: IntArray) -> None:
    """Write the forecasts of the heaters ``wanted``; one update and one copy, or nothing at all."""
    now = timezone.now()
    names = wanted.tolist()
    with transaction.atomic():
        # A lock on the heaters, in one order, keeps two recomputations of a zone from superseding each other's rows.
        list(Heater.objects.filter(pk__in=names).order_by("pk").select_for_update().values_list("pk"))
        Forecast.objects.current().filter(heater_id__in=names).update(superseded_at=now)
        # COPY, since bulk_create spends ten times as long preparing values: docs/decisions/0004.
        columns = ", ".join(connection.ops.quote_name(name) for name in COLUMNS)
        with connection.cursor() as cursor, cursor.copy(f"COPY {_TABLE} ({columns}) FROM STDIN") as copy:
            for one in found:
                for row in _rows(inputs, one, wanted, now):
                    copy.write_row(row)


COLUMNS = (
    "heater_id",
    "heater_version",
    "last_finding",
    "reached_days",
    "due_on",
    "latest_on",
    "decided_by",
    "method",
    "probability_today",
    "benefit",
    "over_after_service",
    "rate",
    "limit_value",
    "log_theta",
    "log_theta_sd",
    "state",
    "reasons",
    "component",
    "rate_unit",
    "model_version",
    "as_of",
    "computed_at",
)
_TABLE = connection.ops.quote_name(Forecast._meta.db_table)


def _rows(
    inputs: FleetInputs, one: ComponentForecast, wanted: IntArray, now: datetime.datetime
) -> Iterator[tuple[Any, ...]]:
    """Rows of one component in the order of ``COLUMNS``."""
    kept = np.flatnonzero(np.isin(inputs.heater_ids[one.row], wanted))
    row = one.row[kept]
    days = np.rint(one.reached_years[kept] * DAYS_PER_YEAR)
    within = days <= HORIZON_YEARS * DAYS_PER_YEAR
    figures = (one.probability_today, one.benefit, one.over_after_service, one.rate, one.limit)
    return zip(
        inputs.heater_ids[row].tolist(),
        inputs.versions[row].tolist(),
        inputs.last_finding[row].tolist(),
        np.where(within, days.astype(np.int64), None).tolist(),
        _dates(inputs.as_of, one.due_years[kept]),
        _dates(inputs.as_of, one.latest_years[kept]),
        _words(DecidedBy, one.decided_by[kept]),
        _words(Method, one.method[kept]),
        *(values[kept].round(5).tolist() for values in (*figures, one.log_theta, one.log_theta_sd)),
        _states(one, kept),
        _reasons(one, kept),
        *map(repeat, (one.component.value, one.unit, MODEL_VERSION, inputs.as_of, now)),
        strict=False,  # the last five repeat for ever
    )


def _words(kind: Any, codes: IntArray) -> list[str]:
    words: list[str] = np.array([member.value for member in kind], dtype=object)[codes].tolist()
    return words


def _dates(as_of: datetime.date, years: Any) -> list[datetime.date | None]:
    days: list[datetime.date | None] = dates(as_of, years).astype("datetime64[D]").astype(object).tolist()
    return days


def _states(one: ComponentForecast, kept: IntArray) -> list[str]:
    """JSON: each figure of the state at P10, P50, P90."""
    names = list(one.state)
    stacked: Sequence[Any] = np.stack([one.state[name][kept] for name in names], axis=1).round(4).tolist()
    return [json.dumps(dict(zip(names, values, strict=True))) for values in stacked]


def _reasons(one: ComponentForecast, kept: IntArray) -> list[str]:
    """JSON: each factor with its ratio and its days."""
    ratios = np.exp(one.log_factors[kept]).round(4).tolist()
    days = np.rint(one.factor_days[kept]).astype(np.int64).tolist()
    return [
        json.dumps([{"factor": f, "ratio": r, "days": d} for f, r, d in zip(one.factors, ratio, day, strict=True)])
        for ratio, day in zip(ratios, days, strict=True)
    ]

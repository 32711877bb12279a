"""Tanks near their end: how many to expect a year, and which ones first."""

import datetime
from typing import Any

import numpy as np
from django.db.models import F

from aquifer.core import tank
from aquifer.core.arrays import BoolArray, IntArray
from aquifer.core.forecast import PROBABILITIES
from aquifer.core.parameters import DAYS_PER_YEAR
from aquifer.core.vocabulary import Component
from aquifer.forecasts.columns import Reading, day, number, whole
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.register import sign
from aquifer.water.models import Zone

YEARS_AHEAD = 8
_SIGN = ("heater_id", "component", "state_names", "state_values", "limit_value")
MOST_TANKS = 60

_TANKS = Forecast.objects.current().filter(component=Component.TANK, heater__archived_at__isnull=True)
_ALL = Reading(
    _TANKS.order_by(),
    {
        "as_of": day("as_of"),
        "due": day("due_on"),
        "zone": whole("heater__site__zone_id"),
        **{f"reached_{at}": number(F(f"reached_days__{at}")) for at in range(PROBABILITIES.size)},
    },
)


def read(today: datetime.date) -> dict[str, Any]:
    """Tanks expected to fail in each of the coming years if all are left alone, those due for replacement in it
    and on each water, and the likeliest to fail within 12 months; four queries."""
    found = _ALL.read()
    tanks = found["as_of"].size
    aged = (np.datetime64(today, "D") - found["as_of"]).astype(np.int64) / DAYS_PER_YEAR
    quantiles = np.stack([found[f"reached_{at}"] for at in range(PROBABILITIES.size)], axis=1) / DAYS_PER_YEAR
    failed = tank.failed_by(np.arange(YEARS_AHEAD + 1.0), quantiles - aged[:, None], PROBABILITIES)
    expected = np.diff(failed.sum(axis=0))
    due = (found["due"] - np.datetime64(today, "D")).astype("timedelta64[D]").astype(np.float64)
    due = np.where(np.isnat(found["due"]), np.inf, np.maximum(due, 0.0)) / DAYS_PER_YEAR
    return {
        "today": today,
        "tanks": tanks,
        "years": [
            {
                "ahead": year,
                "failing": round(float(expected[year]), 2),
                "due": int(((due >= year) & (due < year + 1)).sum()),
            }
            for year in range(YEARS_AHEAD)
        ],
        "zones": _by_zone(found["zone"], due < 1),
        "likeliest": _likeliest(),
    }


def _by_zone(zone: IntArray, is_due: BoolArray) -> list[dict[str, Any]]:
    """How many tanks stand on each water, and how many of them are due within a year; the most first."""
    numbers, place = np.unique(zone, return_inverse=True)
    tanks = np.bincount(place, minlength=numbers.size).tolist()
    due = np.bincount(place[is_due], minlength=numbers.size).tolist()
    names = dict(Zone.objects.filter(pk__in=numbers.tolist()).values_list("pk", "name"))
    rows = [
        {"zone_id": number, "name": names[number], "tanks": all_of, "due": some}
        for number, all_of, some in zip(numbers.tolist(), tanks, due, strict=True)
    ]
    return sorted(rows, key=lambda row: (-row["due"], row["name"]))


def _likeliest() -> list[dict[str, Any]]:
    found = _TANKS.select_related("heater__site__zone").order_by("-probability_today", "heater_id")[:MOST_TANKS]
    windows: dict[int, list[dict[str, Any]]] = {one.heater_id: [] for one in found}
    for row in Forecast.objects.current().filter(heater__in=windows).values(*_SIGN):
        windows[row["heater_id"]].append(row)
    return [_tank(one) | sign(windows[one.heater_id]) for one in found]


def _tank(one: Forecast) -> dict[str, Any]:
    heater, site = one.heater, one.heater.site
    return {
        "heater_id": heater.pk,
        "tag": heater.tag,
        "kind": heater.kind,
        "site": site.name,
        "location": heater.location,
        "street": site.street,
        "zone": site.zone.name,
        "installed_on": heater.installed_on,
        "install_certainty": heater.install_certainty,
        "capacity_l": heater.capacity_l,
        "within_a_year": one.probability_today,
        "accepted": one.limit_value,
        "due_on": one.due_on,
        "reasons": [reason for reason in one.reasons if abs(reason["ratio"] - 1) > 0.02],
    }

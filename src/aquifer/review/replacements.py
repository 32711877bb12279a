"""Tanks near their end: how many to expect a year, and which ones first."""

import datetime
import math

import numpy as np
from django.db.models import F

from aquifer.core.arrays import BoolArray, IntArray
from aquifer.core.forecast import PROBABILITIES
from aquifer.core.kinds import HeaterKind
from aquifer.core.lives import UNLEARNED
from aquifer.core.parameters import DAYS_PER_YEAR, HALF_WIDTH_80
from aquifer.core.quantiles import reached_by
from aquifer.core.vocabulary import Component
from aquifer.forecasts import calibrations
from aquifer.forecasts.columns import Reading, day, number, whole
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.sign import Sign, sign, standing_of
from aquifer.heaters.models import InstallCertainty
from aquifer.review.schemas import LivesTaughtOut, ReplacementsOut, TankOut, TimesOut, ZoneTanksOut
from aquifer.water.models import Zone

YEARS_AHEAD = 8
MOST_TANKS = 60
MOST_MAKES = 6
WORTH_SAYING = 1.1
"""A factor of the risk is a reason from here on. Assumption: less is lost in what is not known of a tank."""

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


def read(today: datetime.date) -> ReplacementsOut:
    """Tanks expected to fail in each of the coming years if all are left alone, those due for replacement in it
    and on each water, and the likeliest to fail within 12 months; five queries."""
    found = _ALL.read()
    tanks = found["as_of"].size
    aged = (np.datetime64(today, "D") - found["as_of"]).astype(np.int64) / DAYS_PER_YEAR
    quantiles = np.stack([found[f"reached_{at}"] for at in range(PROBABILITIES.size)], axis=1) / DAYS_PER_YEAR
    ahead = np.arange(YEARS_AHEAD + 1.0)
    failed = reached_by(ahead, quantiles - aged[:, None], PROBABILITIES, np.zeros(tanks))
    expected = np.diff(failed.sum(axis=0))
    due = (found["due"] - np.datetime64(today, "D")).astype("timedelta64[D]").astype(np.float64)
    due = np.where(np.isnat(found["due"]), np.inf, np.maximum(due, 0.0)) / DAYS_PER_YEAR
    return {
        "tanks": tanks,
        "taught": _taught(),
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
        "kept_at": None,
    }


def _taught() -> LivesTaughtOut:
    """What own tanks taught; two queries."""
    calibration, people = calibrations.in_force()
    life = calibration[Component.TANK].life if Component.TANK in calibration else UNLEARNED
    effect, variance = life.builds.of(np.arange(len(people.builds)))
    sd = np.sqrt(variance)
    # Of a make that may as well be like the others nothing is said.
    sure = np.flatnonzero(np.abs(effect) > HALF_WIDTH_80 * sd)
    rows = [_times(people.builds[at], float(effect[at]), float(sd[at])) for at in sure.tolist()]
    return {
        "failures": life.failures,
        "of_all": _times("", life.level, life.level_sd),
        "makes": sorted(rows, key=lambda row: -row["times"])[:MOST_MAKES],
    }


def _times(name: str, log: float, sd: float) -> TimesOut:
    low, middle, high = (round(math.exp(log + place * HALF_WIDTH_80 * sd), 2) for place in (-1, 0, 1))
    return {"name": name.replace("/", " ").strip(), "times": middle, "between": [low, high]}


def _by_zone(zone: IntArray, is_due: BoolArray) -> list[ZoneTanksOut]:
    """How many tanks stand on each water, and how many of them are due within a year; the most first."""
    numbers, place = np.unique(zone, return_inverse=True)
    tanks = np.bincount(place, minlength=numbers.size).tolist()
    due = np.bincount(place[is_due], minlength=numbers.size).tolist()
    names = dict(Zone.objects.filter(pk__in=numbers.tolist()).values_list("pk", "name"))
    rows: list[ZoneTanksOut] = [
        {"zone_id": number, "name": names[number], "tanks": all_of, "due": some}
        for number, all_of, some in zip(numbers.tolist(), tanks, due, strict=True)
    ]
    return sorted(rows, key=lambda row: (-row["due"], row["name"]))


def _likeliest() -> list[TankOut]:
    forecast_query_set = _TANKS.select_related("heater__site").order_by("-probability_today", "heater_id")[:MOST_TANKS]
    standing = standing_of([forecast.heater_id for forecast in forecast_query_set])
    return [_tank(forecast, sign(standing.get(forecast.heater_id, []))) for forecast in forecast_query_set]


def _tank(forecast: Forecast, drawn: Sign) -> TankOut:
    heater, site = forecast.heater, forecast.heater.site
    within = forecast.state["failure_within_12_months"]
    reasons = sorted(zip(forecast.factors, forecast.factor_ratios, strict=True), key=lambda reason: -reason[1])
    return {
        "heater_id": heater.pk,
        "tag": heater.tag,
        "kind": HeaterKind(heater.kind),
        "site": site.name,
        "location": heater.location,
        "street": site.street,
        "installed_on": heater.installed_on,
        "install_certainty": InstallCertainty(heater.install_certainty),
        **drawn,
        "within_a_year": forecast.probability_today,
        "between": [within[0], within[2]],
        "accepted": forecast.limit_value,
        "reasons": [factor for factor, ratio in reasons if ratio > WORTH_SAYING],
    }

"""The schools of when to clean, each tried on the company's own heaters, water by water. Nothing is stored."""

import datetime
from dataclasses import replace

import numpy as np

from aquifer.company.models import Company
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.forecast import Context, forecast
from aquifer.core.parameters import DAYS_PER_YEAR
from aquifer.core.planning.hours import Hours
from aquifer.core.vocabulary import Component, Practice, code
from aquifer.forecasts import calibrations
from aquifer.forecasts.inputs import FleetInputs, load
from aquifer.forecasts.trial import some, times_in_a_year, years_over
from aquifer.review.schemas import PracticesOut, WaterPracticesOut
from aquifer.visits.hours import in_force
from aquifer.water.models import Zone

CLEANED = (Component.SEDIMENT, Component.SCALE)


def read(today: datetime.date) -> PracticesOut:
    """Cleanings, hours and days over the limit of the coming twelve months if all followed one practice, for each.

    The whole base first, then each water with most heaters first. A large base is answered for by some of it.
    """
    total, chosen = some()
    company = Company.current()
    calibration, people = calibrations.in_force()
    inputs = load(today, chosen, people, company)
    asked = int(inputs.heater_ids.size)
    if not asked:
        return {"heaters": total, "asked_of": 0, "rows": [], "kept_at": None}
    zone = inputs.fleet.heaters.zone
    hours = in_force()
    figures = {practice: _of(inputs, practice, Context(calibration=calibration), hours) for practice in Practice}
    names = dict(Zone.objects.values_list("pk", "name"))
    own = dict(Zone.objects.exclude(practice="").values_list("pk", "practice"))
    rows = [_row(None, "", company.practice, np.arange(asked), figures)]
    for number, zone_id in enumerate(inputs.zone_ids.tolist()):
        at = np.flatnonzero(zone == number)
        if at.size:
            rows.append(_row(zone_id, names[zone_id], own.get(zone_id, company.practice), at, figures))
    rows[1:] = sorted(rows[1:], key=lambda row: (-row["heaters"], row["name"]))
    return {"heaters": total, "asked_of": asked, "rows": rows, "kept_at": None}


def _of(inputs: FleetInputs, practice: Practice, context: Context, hours: Hours) -> dict[str, FloatArray]:
    """Of each heater under one practice, (n,)."""
    heaters = inputs.fleet.heaters
    n = len(heaters)
    followed = replace(heaters, practice=np.full(n, code(practice)))
    tried = replace(inputs, fleet=replace(inputs.fleet, heaters=followed))
    found: dict[str, FloatArray] = {name: np.zeros(n) for name in ("cleanings", "hours", "over_days")}
    for one in forecast(tried.fleet, context).components:
        if one.component in CLEANED:
            times = times_in_a_year(tried, one)
            found["cleanings"][one.row] += times
            found["hours"][one.row] += times * hours.of(one.component)
            found["over_days"][one.row] += years_over(one) * DAYS_PER_YEAR
    return found


def _row(
    zone_id: int | None, name: str, followed: str, at: IntArray, figures: dict[Practice, dict[str, FloatArray]]
) -> WaterPracticesOut:
    return {
        "zone_id": zone_id,
        "name": name,
        "heaters": int(at.size),
        "followed": Practice(followed),
        "practices": [
            {
                "practice": practice,
                "cleanings": _mean(found["cleanings"], at),
                "hours": _mean(found["hours"], at),
                "over_days": _mean(found["over_days"], at),
            }
            for practice, found in figures.items()
        ],
    }


def _mean(values: FloatArray, at: IntArray) -> float:
    return round(float(values[at].mean()), 3)

"""Whether visits take what they are planned for: the later ones against what was known before them."""

import datetime
from collections import defaultdict
from statistics import median

import numpy as np
from django.utils import timezone

from aquifer.core.arrays import FloatArray
from aquifer.core.planning.hours import ASSUMED, RENEWAL, Hours, Work, learned, planned
from aquifer.review.schemas import HoursHeld, HoursHeldOut, HoursOut, PromisesKept, WorkHoursOut
from aquifer.rounds.models import Appointment, AppointmentStatus
from aquifer.visits import hours
from aquifer.visits.models import Visit

CHECKED = 365
"""Days of visits that are held against what earlier ones taught: a whole year, since winters are slower; the later half
where more than half of them are so young."""
LEAST = 30
"""Visits below which nothing can be said. Assumption."""
TOO_FAR = 0.1
"""Shorter or longer by this share, and days do not end as planned: half an hour of five. Assumption."""
LEAST_INSIDE, MOST_INSIDE = 0.7, 0.9
"""Which share of the visits should lie where eight of ten are told to. Assumption: a tenth either way."""
MOST_APPOINTMENTS = 5000
"""The latest of them. Assumption: as many as a large company's last months."""
GRACE = 5
"""Minutes by which a device's clock may differ from the customer's. Assumption."""


def read(today: datetime.date) -> HoursOut:
    """What each thing is planned for and took, and whether what earlier ones taught held for the later."""
    timed = hours.read(today)
    all_told = learned(timed.taken)
    rows: list[WorkHoursOut] = [
        {
            "work": work,
            "assumed": ASSUMED.of_work[work],
            "learned": round(all_told.hours.of_work[work], 3),
            "low": round(float(all_told.low[at]), 3),
            "high": round(float(all_told.high[at]), 3),
            "times": int(all_told.times[at]),
            "share": all_told.hours.renewed.get(work) if work in RENEWAL.values() else None,
        }
        for at, work in enumerate(Work)
    ]
    since = today - datetime.timedelta(days=CHECKED)
    if timed.on.size:
        since = max(since, np.sort(timed.on)[timed.on.size // 2].item())
    is_later = timed.on >= np.datetime64(since)
    before, after = np.flatnonzero(~is_later), np.flatnonzero(is_later)
    taken = timed.of(after)
    # Who had too few visits behind them planned by what is assumed.
    told = learned(timed.of(before)).hours if before.size >= LEAST else ASSUMED
    return {
        "visits": int(timed.on.size),
        "since": since,
        "rows": rows,
        "learned_from": int(before.size) if before.size >= LEAST else 0,
        "held": _held(told, taken.hours, taken.work),
        "assumed_held": _held(ASSUMED, taken.hours, taken.work),
        "promises": _promises(since, today),
    }


def _promises(since: datetime.date, today: datetime.date) -> PromisesKept:
    """What was promised and planned for the visits that were done, against when the first tap came and how long they
    took; of houses to which somebody came but once that day. Two queries."""
    done = Appointment.objects.filter(standing=AppointmentStatus.DONE, on__gte=since, on__lte=today).order_by(
        "-on", "-pk"
    )
    rows = done.values_list("site_id", "on", "minutes", "earliest", "latest")[:MOST_APPOINTMENTS]
    planned_of: dict[tuple[int, datetime.date], list[tuple[int, int | None, int | None]]] = defaultdict(list)
    for site_id, on, minutes, earliest, latest in rows:
        if on is not None:
            planned_of[site_id, on].append((minutes, earliest, latest))
    came = hours.by_house(Visit.objects.filter(heater__site__in={site_id for site_id, _ in planned_of}, on__gte=since))
    told: PromisesKept = {"visits": 0, "planned": 0, "took": 0, "promised": 0, "early": 0, "late": 0, "late_minutes": 0}
    late: list[int] = []
    for at, (appointment, *others) in planned_of.items():
        visits = came.get(at, [])
        if others or not visits:
            continue
        minutes, earliest, latest = appointment
        if all(took for _, took in visits):
            told["visits"] += 1
            told["planned"] += minutes
            told["took"] += hours.minutes_of(visits)
        first = min((timezone.localtime(began) for began, _ in visits if began), default=None)
        if earliest is None or latest is None or first is None:
            continue
        arrived = 60 * first.hour + first.minute
        told["promised"] += 1
        told["early"] += arrived < earliest - GRACE
        if arrived > latest + GRACE:
            late.append(arrived - latest)
    return {**told, "late": len(late), "late_minutes": round(median(late)) if late else 0}


def _held(told: Hours, took: FloatArray, work: FloatArray) -> HoursHeldOut:
    """Visits against what they would have been planned for, (n,) and (n, w)."""
    plan = planned(told, work)
    low, high = told.window(plan)
    n = int(took.size)
    over = took / plan
    ratio = float(took.sum() / plan.sum()) if n else 1.0
    inside = float(((took >= low) & (took <= high)).mean()) if n else 0.0
    # Two standard errors: what fewer visits show may be luck.
    sure = 2 * float(np.std(over)) / np.sqrt(n) if n else 0.0
    if n < LEAST:
        verdict = HoursHeld.UNKNOWN
    elif ratio - sure > 1 + TOO_FAR:
        verdict = HoursHeld.TOO_SHORT
    elif ratio + sure < 1 - TOO_FAR:
        verdict = HoursHeld.TOO_LONG
    else:
        verdict = HoursHeld.HOLD if LEAST_INSIDE <= inside <= MOST_INSIDE else HoursHeld.UNEVEN
    at = np.quantile(over, [0.1, 0.5, 0.9]).tolist() if n else []
    return {
        "visits": n,
        "ratio": round(ratio, 3),
        "inside": round(inside, 3),
        "over": [round(one, 3) for one in at],
        "window": [round(float(one), 3) for one in (*told.window(np.ones(1))[0], *told.window(np.ones(1))[1])],
        "verdict": verdict,
    }

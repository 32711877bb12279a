"""From a projection that is asked for to what its futures come to: cut into parts, lived, added up."""

import datetime
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from django.db import transaction
from django.db.models import Count

from aquifer.company.models import Company
from aquifer.core import ahead
from aquifer.core.ahead.decisions import Decision, DecisionKind, worst
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.assembly import complete
from aquifer.core.fleet import Fleet
from aquifer.core.forecast import Context, FleetForecast, forecast
from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import Component
from aquifer.forecasts import calibrations
from aquifer.forecasts.inputs import FleetInputs, load
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater
from aquifer.imports.run import as_if_in
from aquifer.money import prices
from aquifer.projections import amounts
from aquifer.projections.found import EMPTY, NONE_LOSING, Found, Group, Lived, Losing, SiteMoney
from aquifer.projections.models import Projection, ProjectionPart, ProjectionState
from aquifer.projections.schemas import DecisionIn
from aquifer.projections.turnover import on_record
from aquifer.rounds import crew
from aquifer.visits.hours import in_force
from aquifer.water.models import Zone

FUTURES, SEED = 200, 1
PART_HEATERS = 2000
"""In one job, at least: small enough to be shared by workers, large enough to be worth one. Assumption."""
AGES = (4.0, 8.0, 12.0)
"""At which a heater passes to the next band of what is told by age, years."""


def begin(projection: Projection) -> list[ProjectionPart]:
    """Cut the base into parts of whole waters, in an order that stays. Whoever lives them gets the same figures."""
    counted = Heater.objects.in_service().values("site__zone_id").annotate(n=Count("pk")).order_by("site__zone_id")
    parts: list[list[int]] = []
    room = 0
    for row in counted:
        if room <= 0:
            parts.append([])
            room = PART_HEATERS
        parts[-1].append(row["site__zone_id"])
        room -= row["n"]
    made = [ProjectionPart(projection=projection, number=number, zones=zones) for number, zones in enumerate(parts)]
    lists = [one["list_id"] for one in projection.decisions if one.get("list_id") is not None]
    made += [
        ProjectionPart(projection=projection, number=number, zones=[], of_list_id=list_id)
        for number, list_id in enumerate(lists, start=len(made))
    ]
    return ProjectionPart.objects.bulk_create(made)


def live(part: ProjectionPart) -> Lived:
    """What one part comes to: counts and measures of every future, and where they come from.

    Raises: Conflict for a list of heaters that was brought in meanwhile.
    """
    if part.of_list_id is None:
        return _lived(part, part.zones, None)
    with as_if_in(part.of_list_id) as new:
        zones = Heater.objects.filter(pk__in=new).values_list("site__zone_id", flat=True).distinct()
        return _lived(part, list(zones), new)


def _lived(part: ProjectionPart, zones: list[int], only: list[int] | None) -> Lived:
    """Parameters: waters, whole, since what their heaters showed says something of each; only, those of them that are
    lived, all if None."""
    projection = part.projection
    decisions = [DecisionIn.model_validate(one) for one in projection.decisions]
    today = projection.asked_on
    calibration, people = calibrations.in_force()
    company = Company.current()
    inputs = load(today, Heater.objects.in_service().filter(site__zone_id__in=zones), people, company)
    here = np.arange(inputs.heater_ids.size) if only is None else np.flatnonzero(np.isin(inputs.heater_ids, only))
    if not here.size:
        return EMPTY
    ids, site_of = _sites(inputs.heater_ids)
    site_ids, site = np.unique(site_of, return_inverse=True)
    tried = ahead.tried(
        inputs.known, inputs.profiles, site_of, [_decision(one, inputs) for one in decisions if _is_here(one, inputs)]
    )
    fleet = _with(inputs, tried, to_come=False)
    found = forecast(fleet, Context(calibration=calibration))
    found = FleetForecast(inputs.eased(found.components), found.zones)
    factor = float(np.prod([one.value or 1.0 for one in decisions if one.kind is DecisionKind.PRICES]))
    book = amounts.Amounts(prices.read().book, factor, in_force())
    on_plan = amounts.plans(today)
    site_plans = [on_plan.get(int(one), amounts.SitePlan()) for one in site_ids]
    record = on_record(today)
    scene = ahead.Scene(
        fleet, found, site.reshape(-1), amounts.worth(fleet.heaters.kind, found, site.reshape(-1), site_plans, book),
        _with(inputs, tried, to_come=True), _replaced(ids, decisions), calibration, record.turnover.leaving,
        record.accepted, company.worth_hours, hours=book.hours,
    ).at(here)  # fmt: skip
    ids, site, hour_cost = ids[here], site.reshape(-1)[here], float(prices.read().book.hour_cost)
    told = ahead.lived(scene, projection.years, ahead.shared(FUTURES, SEED), part.number)
    return {
        "heaters": int(ids.size),
        "counts": told.counts.tolist(),
        "measures": told.measures.tolist(),
        "groups": _groups(inputs, here, told.by_heater, [site_plans[int(one)].name for one in site]),
        "missing": book.missing(amounts.keys(scene.found)),
        # Sites of a list are nowhere to be looked at.
        "losing": NONE_LOSING if only is not None else _losing(site_ids, site, told.by_heater, hour_cost),
        "softened": int(tried.softened[here].sum()),
        "replaced": int(scene.replaced.sum()),
    }


def finish(projection_id: int) -> bool:
    """Add up the parts if all are lived; returns whether that made it ready. Two that come at once: one waits."""
    with transaction.atomic():
        projection = Projection.objects.select_for_update().filter(pk=projection_id).first()
        if projection is None or projection.state != ProjectionState.WORKING:
            return False
        parts = list(projection.parts.order_by("number"))
        if any(part.found is None for part in parts):
            return False
        lived = [part for part in parts if part.found and part.found["heaters"]]
        listed = sum(part.found["heaters"] for part in lived if part.of_list_id and part.found)
        projection.found = _added(projection, [part.found for part in lived if part.found], listed)
        projection.state = ProjectionState.READY
        projection.save(update_fields=["found", "state"])
        projection.parts.all().delete()
    return True


def _added(projection: Projection, parts: Sequence[Lived], listed: int) -> Found:
    """The whole: with who joins and who calls, with what the crew can do, as it is told and kept. Parameters: listed,
    how many of its heaters are those of lists."""
    today, years = projection.asked_on, projection.years
    decisions = [DecisionIn.model_validate(one) for one in projection.decisions]
    record, common = on_record(today), ahead.shared(FUTURES, SEED)
    heaters = sum(part["heaters"] for part in parts)
    counts = np.zeros((len(ahead.COUNTED), FUTURES, years))
    measures = np.zeros((len(amounts.NAMES), FUTURES, years))
    for part in parts:
        counts += np.array(part["counts"])
        measures += np.array(part["measures"])
    told = ahead.Ahead(amounts.NAMES, counts, measures, np.zeros((0, len(amounts.NAMES), years)))
    taken_over = sum(one.value or 0.0 for one in decisions if one.kind is DecisionKind.TAKE_OVER)
    turnover = ahead.Turnover(record.turnover.joining, record.turnover.leaving, taken_over)
    told = ahead.with_turnover(told, heaters, turnover, common)
    factor = float(np.prod([one.value or 1.0 for one in decisions if one.kind is DecisionKind.PRICES]))
    money = prices.read()
    book = amounts.Amounts(money.book, factor, in_force())
    by_licence = told.measures[: len(amounts.LICENCES)].sum(axis=(1, 2))
    calls = ahead.Calls(np.array(record.calls, dtype=np.float64), np.array(record.heater_years), book.call(by_licence))
    told = ahead.with_calls(told, heaters + taken_over, calls, common)
    hours = told.measures[[name.startswith("hours/") for name in amounts.NAMES]]
    income = told.measured("income")
    cost = hours.sum(axis=0) * float(money.book.hour_cost) + told.measured("materials")
    series = {
        "hours": hours.sum(axis=0),
        **{f"hours/{licence}": values for licence, values in zip(amounts.LICENCES, hours, strict=True)},
        **{name: told.counted(name) for name in ahead.COUNTED},
        "income": income,
        "cost": cost,
        "left": income - cost,
    }
    return {
        "heaters": heaters,
        "until": [in_years(today, year + 1).isoformat() for year in range(years)],
        "currency": money.currency,
        "missing": sorted({key for part in parts for key in part["missing"]}),
        "crew_hours": _crew_hours(today, decisions),
        "joining": turnover.joining,
        "leaving": turnover.leaving,
        "calls_a_year": sum(record.calls) / sum(record.heater_years) * heaters if record.heater_years else 0.0,
        "accepted": record.accepted,
        "taken_over": taken_over + listed,
        "softened": sum(part["softened"] for part in parts),
        "replaced": sum(part["replaced"] for part in parts),
        "series": {name: np.round(ahead.fan(values), 2).tolist() for name, values in series.items()},
        "futures": {name: np.round(series[name], 1).tolist() for name in COMPARED},
        "groups": _merged(parts, float(money.book.hour_cost), years),
        "losing": _worst(parts),
    }


COMPARED = ("hours", "left", "leaks", "visits")
"""Of which each future is kept, so that projections can be compared future by future."""


def _sites(heater_ids: IntArray) -> tuple[IntArray, IntArray]:
    of = dict(Heater.objects.filter(pk__in=heater_ids.tolist()).values_list("pk", "site_id"))
    return heater_ids, np.array([of[int(one)] for one in heater_ids], dtype=np.int64)


def _with(inputs: FleetInputs, tried: ahead.Tried, to_come: bool) -> Fleet:
    """The heaters as they are under what is tried, or on the water that they will have; what was found stays theirs."""
    heaters = complete(tried.to_come, tried.waters) if to_come else complete(tried.known, inputs.profiles)
    return replace(inputs.fleet, heaters=heaters)


def _decision(one: DecisionIn, inputs: FleetInputs) -> Decision:
    zone = None if one.zone_id is None else int(np.flatnonzero(inputs.zone_ids == one.zone_id)[0])
    return Decision(one.kind, one.value or 0.0, one.word or "", zone, 1.0 if one.share is None else one.share)


def _is_here(one: DecisionIn, inputs: FleetInputs) -> bool:
    return one.zone_id is None or bool((inputs.zone_ids == one.zone_id).any())


def _replaced(heater_ids: IntArray, decisions: Sequence[DecisionIn]) -> BoolArray:
    """Which of these are among the base's likeliest to fail that are to be replaced now."""
    number = int(sum(one.value or 0 for one in decisions if one.kind is DecisionKind.REPLACE))
    if not number:
        return np.zeros(heater_ids.size, dtype=bool)
    tanks = Forecast.objects.current().filter(component=Component.TANK, heater__archived_at__isnull=True)
    rows = list(tanks.order_by("heater_id").values_list("heater_id", "probability_today"))
    if not rows:
        return np.zeros(heater_ids.size, dtype=bool)
    ids, chance = np.array([pk for pk, _ in rows]), np.array([float(p) for _, p in rows])
    return np.isin(heater_ids, ids[worst(chance, number)])


def _groups(
    inputs: FleetInputs, here: IntArray, by_heater: FloatArray, plan: list[str]
) -> dict[str, dict[str, list[float]]]:
    """Heaters, hours, income and materials over all the years, by water, kind, age and plan. Parameters: here, the rows
    that were lived; by_heater and plan, of those."""
    h = inputs.fleet.heaters.at(here)
    kinds, names = (
        list(HeaterKind),
        dict(Zone.objects.filter(pk__in=inputs.zone_ids.tolist()).values_list("pk", "name")),
    )
    hours = by_heater[:, [name.startswith("hours/") for name in amounts.NAMES]].sum(axis=(1, 2))
    money = [by_heater[:, measure].sum(axis=1) for measure in (amounts.INCOME, amounts.MATERIALS)]
    figures = np.stack([np.ones(hours.size), hours, *money], axis=1)
    keys = {
        "water": [names[int(inputs.zone_ids[one])] for one in h.zone],
        "kind": [str(kinds[int(one)]) for one in h.kind],
        "age": [str(int(one)) for one in np.digitize(h.age_years, AGES)],
        "plan": plan,
    }
    found: dict[str, dict[str, list[float]]] = {}
    for by, labels in keys.items():
        different, place = np.unique(np.array(labels), return_inverse=True)
        sums = np.zeros((different.size, figures.shape[1]))
        np.add.at(sums, place.reshape(-1), figures)
        found[by] = {str(label): row.tolist() for label, row in zip(different, sums, strict=True)}
    return found


WORST_SITES = 60
"""Of which each is told; of the rest only how many they are. Assumption: more than anybody goes through at once."""


def _losing(site_ids: IntArray, site: IntArray, by_heater: FloatArray, hour_cost: float) -> Losing:
    """Sites that cost more than they bring. Parameters: ids, (s,); site, a number for each heater, (n,); by_heater,
    (n, measures, years)."""
    of = np.zeros((site_ids.size, by_heater.shape[1]))
    np.add.at(of, site, by_heater.mean(axis=2))
    hours = of[:, [name.startswith("hours/") for name in amounts.NAMES]].sum(axis=1)
    income, cost = of[:, amounts.INCOME], hours * hour_cost + of[:, amounts.MATERIALS]
    worst = np.argsort(income - cost, kind="stable")
    losing = worst[(income < cost)[worst]]
    rows: list[SiteMoney] = [
        {
            "site_id": int(site_ids[at]), "hours": round(float(hours[at]), 2), "income": round(float(income[at]), 2),
            "cost": round(float(cost[at]), 2),
        }
        for at in losing[:WORST_SITES]
    ]  # fmt: skip
    return {"of": int(site_ids.size), "sites": int(losing.size), "rows": rows}


def _worst(parts: Sequence[Lived]) -> Losing:
    """The worst sites of all parts."""
    rows = sorted(
        (row for part in parts for row in part["losing"]["rows"]), key=lambda row: row["income"] - row["cost"]
    )
    return {
        "of": sum(part["losing"]["of"] for part in parts),
        "sites": sum(part["losing"]["sites"] for part in parts),
        "rows": rows[:WORST_SITES],
    }


def _merged(parts: Sequence[Lived], hour_cost: float, years: int) -> dict[str, list[Group]]:
    """The groups of all parts, a year's mean of each."""
    found: dict[str, dict[str, FloatArray]] = {}
    for part in parts:
        for by, rows in part["groups"].items():
            there = found.setdefault(by, {})
            for label, figures in rows.items():
                there[label] = there.get(label, np.zeros(4)) + np.array(figures)
    return {
        by: [
            {
                "name": label,
                "heaters": int(figures[0]),
                "hours": round(float(figures[1]) / years, 1),
                "income": round(float(figures[2]) / years, 2),
                "cost": round((float(figures[1]) * hour_cost + float(figures[3])) / years, 2),
            }
            for label, figures in sorted(rows.items(), key=lambda row: -row[1][1])
        ]
        for by, rows in found.items()
    }


def _crew_hours(today: datetime.date, decisions: Sequence[DecisionIn]) -> float:
    """That the crew can plan in the coming 52 weeks, so many more or fewer people reckoned with; the years after are
    taken to be like it."""
    monday = today - datetime.timedelta(days=today.weekday())
    members = crew.members()
    hours = float(crew.hours_by_week(members, monday, 52, today).sum())
    more = sum(one.value or 0.0 for one in decisions if one.kind is DecisionKind.CREW)
    return round(max(hours + more * hours / max(len(members), 1), 0.0))


def in_years(today: datetime.date, years: int) -> datetime.date:
    """The same day so many years later; of a leap day, the day before."""
    return today.replace(year=today.year + years, day=min(today.day, 28) if today.month == 2 else today.day)

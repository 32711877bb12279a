"""Which contract plan fits a site: the coming years of its heaters lived once, and priced under each plan."""

import datetime
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from typing_extensions import TypedDict

from aquifer.company.models import Company
from aquifer.core import ahead
from aquifer.core.arrays import FloatArray
from aquifer.core.forecast import Context, FleetForecast, forecast
from aquifer.customers.models import Site
from aquifer.forecasts import calibrations
from aquifer.forecasts.inputs import load
from aquifer.heaters.models import Heater
from aquifer.money import prices
from aquifer.money.models import ContractPlan
from aquifer.projections import amounts
from aquifer.projections.living import FUTURES, SEED
from aquifer.projections.turnover import on_record
from aquifer.visits.hours import in_force

YEARS = 5
"""Long enough for what comes every few years, short enough for prices as they are. Assumption."""
SURE = 0.8
"""A plan pays if what is left of it is above nothing in so many of the futures. Assumption."""


class MoneyFan(TypedDict):
    low: float
    middle: float
    high: float


class PlanFitRow(TypedDict):
    plan_id: int | None
    plan: str
    is_now: bool
    pays: MoneyFan
    left: MoneyFan
    pays_off: float
    """Share of the futures in which something is left."""
    pays_surely: bool
    fits: bool


class PlanFitOut(TypedDict):
    currency: str
    years: int
    costs: MoneyFan
    rows: list[PlanFitRow]
    missing: list[str]


def of_site(site: Site, today: datetime.date) -> PlanFitOut:
    """What the customer pays a year and what is left of it, without a plan and on each; the work costs the same.

    Of those that pay in ``SURE`` of the futures that fits of which the customer pays the least. A site without a heater
    in service has no rows.
    """
    book = prices.read()
    worth_of = amounts.Amounts(book.book, 1.0, in_force())
    calibration, people = calibrations.in_force()
    company = Company.current()
    # The whole water, since what its heaters showed says something of these.
    inputs = load(today, Heater.objects.in_service().filter(site__zone=site.zone_id), people, company)
    site_of = dict(Heater.objects.filter(pk__in=inputs.heater_ids.tolist()).values_list("pk", "site_id"))
    number = np.array([site_of[int(pk)] for pk in inputs.heater_ids], dtype=np.int64)
    here = np.flatnonzero(number == site.pk)
    if not here.size:
        return {"currency": book.currency, "years": YEARS, "costs": _fan(np.zeros(1)), "rows": [], "missing": []}
    _, of = np.unique(number, return_inverse=True)
    found = forecast(inputs.fleet, Context(calibration=calibration))
    found = FleetForecast(inputs.eased(found.components), found.zones)
    plans = [amounts.SitePlan(), *(amounts.of_plan(plan) for plan in ContractPlan.objects.all())]
    kind, sites = inputs.fleet.heaters.kind, int(of.max()) + 1
    under = [amounts.worth(kind, found, of.reshape(-1), [plan] * sites, worth_of) for plan in plans]
    scene = ahead.Scene(
        inputs.fleet, found, of.reshape(-1), _beside(under), inputs.fleet, np.zeros(number.size, dtype=bool),
        calibration, 0.0, on_record(today).accepted, company.worth_hours, worth_of.hours,
    ).at(here)  # fmt: skip
    lived = ahead.lived(scene, YEARS, ahead.shared(FUTURES, SEED), 0)
    hours = lived.measures[[name.startswith("hours/") for name in lived.names]].sum(axis=(0, 2))
    costs = (hours * float(book.book.hour_cost) + lived.measured("materials").sum(axis=1)) / YEARS
    now = amounts.plans(today).get(site.pk, amounts.SitePlan()).name
    ids = [None, *ContractPlan.objects.values_list("pk", flat=True)]
    rows = [
        _row(pk, plan.name, plan.name == now, lived.measured(f"income/{at}").sum(axis=1) / YEARS, costs)
        for at, (pk, plan) in enumerate(zip(ids, plans, strict=True))
    ]
    paying = [row for row in rows if row["pays_surely"]]
    if paying:
        min(paying, key=lambda row: row["pays"]["middle"])["fits"] = True
    asked = amounts.keys(FleetForecast(scene.found.components, scene.found.zones))
    return {
        "currency": book.currency, "years": YEARS, "costs": _fan(costs), "rows": rows,
        "missing": worth_of.missing(asked),
    }  # fmt: skip


def _beside(under: Sequence[ahead.Worth]) -> ahead.Worth:
    """The first, with what is paid under each as one more measure."""
    first = under[0]
    paid = slice(amounts.INCOME, amounts.INCOME + 1)

    def wider(arrays: list[FloatArray]) -> FloatArray:
        return np.concatenate([arrays[0], *(array[:, paid] for array in arrays)], axis=1)

    return replace(
        first,
        names=(*first.names, *(f"income/{at}" for at in range(len(under)))),
        is_hours=np.concatenate([first.is_hours, np.zeros(len(under), dtype=bool)]),
        service={name: wider([one.service[name] for one in under]) for name in first.service},
        renewed={name: wider([one.renewed[name] for one in under]) for name in first.renewed},
        visit=wider([one.visit for one in under]),
        tank=wider([one.tank for one in under]),
        year=wider([one.year for one in under]),
    )


def _row(plan_id: int | None, plan: str, is_now: bool, pays: FloatArray, costs: FloatArray) -> PlanFitRow:
    left = pays - costs
    pays_off = float(np.mean(left > 0))
    return {
        "plan_id": plan_id, "plan": plan, "is_now": is_now, "pays": _fan(pays), "left": _fan(left),
        "pays_off": round(pays_off, 3), "pays_surely": pays_off >= SURE, "fits": False,
    }  # fmt: skip


def _fan(values: FloatArray) -> MoneyFan:
    low, middle, high = np.quantile(values, [0.1, 0.5, 0.9]).tolist()
    return {"low": round(low, 2), "middle": round(middle, 2), "high": round(high, 2)}

"""What each thing that happens counts for: hours by license, and money by the price book and each site's contract."""

import datetime
from dataclasses import dataclass
from decimal import Decimal

import numpy as np

from aquifer.core.ahead import Worth
from aquifer.core.ahead.scene import SERVED
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.follow_up import FollowUp
from aquifer.core.forecast import ComponentForecast, FleetForecast
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.money import CALL_OUT, Book, entry_of, service_key
from aquifer.core.money import Price as CorePrice
from aquifer.core.planning.hours import RENEWAL, REPLACING_HOURS, Hours
from aquifer.core.vocabulary import Component, Method
from aquifer.money.models import Contract, ContractPlan

LICENCES = tuple(sorted({kind.licence for kind in KINDS.values()}))
NAMES = (*(f"hours/{licence}" for licence in LICENCES), "income", "materials")
INCOME, MATERIALS = NAMES.index("income"), NAMES.index("materials")
TRAVEL_HOURS = 0.35
"""By the way of one visit. Assumption: what the demo's rounds come to."""
CALL_HOURS = 1.0
"""At the heater, of a call that no plan foresaw. Assumption."""
_LICENCE_OF = np.array([LICENCES.index(KINDS[kind].licence) for kind in HeaterKind])
_RENEWED = {Component.RELIEF_VALVE: FollowUp.RELIEF_VALVE, Component.ANODE: FollowUp.ANODE}
_NO_PRICE = CorePrice(Decimal(0))


def call_hours(hours: Hours) -> float:
    """Of a call that no plan foresaw: at the heater, with arriving and the way."""
    return CALL_HOURS + hours.arriving + TRAVEL_HOURS


@dataclass(frozen=True)
class SitePlan:
    """What a site's contract comes to."""

    name: str = ""
    yearly: float = 0.0
    includes: frozenset[Component] = frozenset()
    call_out: bool = False
    parts_off: float = 0.0


def plans(today: datetime.date) -> dict[int, SitePlan]:
    """The plan of each site that is on one today."""
    running = Contract.objects.running(today).select_related("plan")
    return {contract.site_id: of_plan(contract.plan) for contract in running}


def of_plan(plan: ContractPlan) -> SitePlan:
    """What a plan comes to at any site."""
    includes = frozenset(Component(name) for name in plan.includes)
    return SitePlan(plan.name, float(plan.yearly), includes, plan.call_out, float(plan.parts_off))


@dataclass(frozen=True)
class Amounts:
    """The price book's side of it; ``factor`` is on all that customers pay."""

    book: Book
    factor: float
    hours: Hours
    """What visits are planned for."""

    def price(self, key: str) -> float:
        return self.factor * float(self._of(key).price)

    def cost(self, key: str) -> float:
        return float(self._of(key).cost)

    def _of(self, key: str) -> CorePrice:
        entry = entry_of(self.book, key)
        return _NO_PRICE if entry is None else self.book.prices[entry]

    def missing(self, keys: list[str]) -> list[str]:
        """Those of which the price book knows nothing."""
        return sorted(key for key in set(keys) if entry_of(self.book, key) is None)

    def call(self, hours: FloatArray) -> FloatArray:
        """What one call counts for, (m,): of each license as often as the base asks for it. Parameters: hours of each
        license, by ``LICENCES``."""
        worth = np.zeros(len(NAMES))
        worth[: len(LICENCES)] = call_hours(self.hours) * hours / max(float(hours.sum()), 1e-9)
        worth[INCOME], worth[MATERIALS] = self.price(CALL_OUT), self.cost(CALL_OUT)
        return worth


def worth(kind: IntArray, found: FleetForecast, site: IntArray, site_plans: list[SitePlan], amounts: Amounts) -> Worth:
    """By heater and site. Parameters: kind, codes (n,); site, a number for each heater; the plan of each site."""
    n, sites = kind.size, len(site_plans)
    licence = _LICENCE_OF[kind]
    off = np.array([one.parts_off for one in site_plans])[site]
    visit = np.zeros((sites, len(NAMES)))
    first = np.zeros(sites, dtype=np.int64)
    first[site[::-1]] = np.arange(n)[::-1]
    visit[np.arange(sites), licence[first]] = amounts.hours.arriving + TRAVEL_HOURS
    paid = np.array([not one.call_out for one in site_plans], dtype=np.float64)
    visit[:, INCOME], visit[:, MATERIALS] = paid * amounts.price(CALL_OUT), amounts.cost(CALL_OUT)
    tank = np.zeros((n, len(NAMES)))
    tank[np.arange(n), licence] = REPLACING_HOURS + amounts.hours.arriving + TRAVEL_HOURS
    tank[:, INCOME] = amounts.price(FollowUp.HEATER) * (1 - off)
    tank[:, MATERIALS] = amounts.cost(FollowUp.HEATER)
    year = np.zeros((sites, len(NAMES)))
    year[:, INCOME] = [amounts.factor * one.yearly for one in site_plans]
    renewed = {}
    for component, key in _RENEWED.items():
        fitted = np.zeros((n, len(NAMES)))
        fitted[np.arange(n), licence] = amounts.hours.of_work[RENEWAL[component]]
        fitted[:, INCOME], fitted[:, MATERIALS] = amounts.price(key) * (1 - off), amounts.cost(key)
        renewed[component] = fitted
    return Worth(
        names=NAMES,
        is_hours=np.array([name.startswith("hours/") for name in NAMES]),
        service={
            one.component: _service(one, licence, site, site_plans, amounts)
            for one in found.components
            if one.component in SERVED
        },
        renewed=renewed,
        visit=visit,
        tank=tank,
        year=year,
    )


def _service(
    one: ComponentForecast, licence: IntArray, site: IntArray, site_plans: list[SitePlan], amounts: Amounts
) -> FloatArray:
    worth = np.zeros((licence.size, len(NAMES)))
    methods = list(Method)
    paid = np.array([one.component not in plan.includes for plan in site_plans], dtype=np.float64)[site[one.row]]
    for method in np.unique(one.method).tolist():
        at = one.method == method
        rows, key = one.row[at], service_key(one.component, methods[method])
        worth[rows, licence[rows]] = amounts.hours.look(one.component, methods[method])
        worth[rows, INCOME] = paid[at] * amounts.price(key)
        worth[rows, MATERIALS] = amounts.cost(key)
    return worth


def keys(found: FleetForecast) -> list[str]:
    """What of the price book these heaters' years ask for."""
    methods = list(Method)
    asked = [CALL_OUT, *_RENEWED.values(), FollowUp.HEATER]
    for one in found.components:
        if one.component in SERVED:
            asked += [service_key(one.component, methods[number]) for number in np.unique(one.method).tolist()]
    return [str(key) for key in asked]

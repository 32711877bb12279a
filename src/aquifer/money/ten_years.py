"""Ten years of a heater in money, by the company's price book and the forecast in force."""

import datetime
import math
from itertools import pairwise

import numpy as np

from aquifer.core import replacement, ten_years
from aquifer.core.follow_up import FollowUp
from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.lives import UNLEARNED
from aquifer.core.money import CALL_OUT, Book, entry_of, service_key
from aquifer.core.parameters import HALF_WIDTH_80
from aquifer.core.place import BY_KIND, FeatureKind
from aquifer.core.vocabulary import Component, Method, Task
from aquifer.errors import Invalid
from aquifer.forecasts import calibrations
from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater
from aquifer.money import prices
from aquifer.money.models import MoneySettings
from aquifer.money.schemas import TenYearsOut, TenYearsWayOut
from aquifer.places import leaks
from aquifer.visits import readings

_SERVICES = (
    (Component.SEDIMENT, Method.DRAIN_AND_PULSE),
    (Component.RELIEF_VALVE, Method.EXERCISE),
    (Component.ANODE, Method.INSPECT),
)
DAYS_A_YEAR = 365.25


def of_heater(
    heater: Heater, today: datetime.date, energy_price: float | None, damage: float | None, energy_kwh: float | None
) -> TenYearsOut:
    """The four ways to go on, what they rest on, and what the price book does not know.

    Parameters: energy_price, of a kWh; damage, what a leak does to the house, else by where it stands; energy_kwh of
    twelve months, else the newest that was read off the bills. Raises: Invalid for a heater that is no lined tank.
    """
    kind = HeaterKind(heater.kind)
    if not KINDS[kind].is_lined:
        raise Invalid(
            "Ten years are reckoned for glass-lined tanks only.", "ten_years.kind", {"heater_id": "no such tank"}
        )
    forecasts = {forecast.component: forecast for forecast in Forecast.objects.current().filter(heater=heater)}
    tank = forecasts.get(Component.TANK)
    if tank is None or heater.installed_on is None:
        raise Invalid(
            "Its age is not known, or it is not forecast yet.", "ten_years.age", {"installed_on": "not known"}
        )
    book = prices.read()
    amounts, missing = _amounts(book.book)
    bills = energy_kwh if energy_kwh is not None else _newest_bills(heater)
    path, has_piped_pan = leaks.way_of(heater)
    harm = damage if damage is not None else _in_rooms() * replacement.harm_at(path, has_piped_pan)
    told = ten_years.Prices(**amounts, damage=harm, energy_a_year=(bills or 0.0) * (energy_price or 0.0))
    age = (today - heater.installed_on).days / DAYS_A_YEAR
    within = min(float(tank.state["failure_within_12_months"][1]), 0.99)
    rod = forecasts.get(Component.ANODE)
    lasts = rod.reached_days[3] if rod is not None and rod.reached_days[3] is not None else None
    rod_years = np.inf if lasts is None else lasts / DAYS_A_YEAR
    taught = calibrations.in_force()[0].get(Component.TANK)
    life = UNLEARNED if taught is None else taught.life
    failure = tank.state["failure_within_12_months"]
    spread = math.log(max(float(failure[2]), 1e-6) / max(float(failure[0]), 1e-6)) / (2 * HALF_WIDTH_80)
    drift = ten_years.drift_learned(cleaned := _around_cleanings(heater))
    courses = ten_years.courses(
        ten_years.failing(age, within, law=life.law), ten_years.failing(age, within, rod_years, life.law),
        ten_years.fresh(life), told, drift, max(spread, 0.0),
    )  # fmt: skip
    return {
        "currency": book.currency,
        "missing": missing,
        "energy_kwh": bills,
        "drift_a_year": drift,
        "bills_compared": len(cleaned),
        "service": told.service, "repair": told.repair, "heater": told.heater,
        "damage": harm,
        "damage_from": "asked" if damage is not None else "usual" if path is None else "place",
        "leak_path": _path_words(path, has_piped_pan),
        "courses": [TenYearsWayOut.from_orm(course) for course in courses],
    }  # fmt: skip


def _in_rooms() -> float:
    return float(MoneySettings.current().leak_damage)


def _path_words(path: str | None, has_piped_pan: bool) -> str:
    if path is None:
        return ""
    words = BY_KIND[FeatureKind.LEAK_PATH].condition(path).words
    return f"{words}, from a pan that is piped away" if has_piped_pan else words


def _amounts(book: Book) -> tuple[dict[str, float], list[str]]:
    """What a yearly service, a repair and a new heater cost; what has no price, by its key."""
    missing: list[str] = []

    def price(key: str) -> float:
        entry = entry_of(book, key)
        if entry is None:
            missing.append(key)
            return 0.0
        return float(book.prices[entry].price)

    come = price(CALL_OUT)
    return {
        "service": come + sum(price(service_key(*one)) for one in _SERVICES),
        "repair": come + price(FollowUp.ELEMENT),
        "heater": price(FollowUp.HEATER),
    }, missing


def _newest_bills(heater: Heater) -> float | None:
    """Energy of twelve months as it was last read off the bills, kWh."""
    read = _bills(heater)
    return read[-1][1] if read else None


def _bills(heater: Heater) -> list[tuple[datetime.date, float]]:
    """Energy of the twelve months before each day on which somebody read it off the bills, kWh, in their order."""
    found = []
    for visit in heater.visits.prefetch_related("amendments").order_by("on", "pk"):
        if "energy.year_kwh" in (taken := readings.standing(visit)):
            found.append((visit.on, taken["energy.year_kwh"]))
    return found


def _around_cleanings(heater: Heater) -> list[tuple[float, float, float]]:
    """Energy of twelve months before and after each cleaning that lies between two readings of the bills, and the years
    that deposit had been left."""
    read = _bills(heater)
    flushes = heater.findings.filter(task=Task.FLUSH, correction__isnull=True).order_by("on")
    days = list(flushes.values_list("on", flat=True))
    found = []
    for (first, before), (second, after) in pairwise(read):
        # What was read on the day of a flush is of the year before it; a later year's bills lie wholly after it.
        between = [day for day in days if first <= day <= second - datetime.timedelta(days=330)]
        if between and before > 0 and after > 0:
            earlier = [day for day in days if day < between[0]]
            since = earlier[-1] if earlier else heater.installed_on
            years = (between[0] - since).days / DAYS_A_YEAR if since else 0.0
            if years > 0.5:
                found.append((before, after, years))
    return found

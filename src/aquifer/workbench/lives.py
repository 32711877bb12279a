"""Two lives of a tank side by side, on a water of the company's or one of some hardness."""

import datetime
from dataclasses import dataclass, replace

import numpy as np

from aquifer.core.arrays import FloatArray
from aquifer.core.assembly import KnownHeaters, complete
from aquifer.core.bench import exchanger_lives
from aquifer.core.bench.lives import CARES, MONTHS, ORDINARY, YEARS, CareName, Lived, Luck, drawn, live
from aquifer.core.bench.spending import Amounts, spent
from aquifer.core.fleet import Heaters
from aquifer.core.kinds import HeaterKind
from aquifer.core.lives import UNLEARNED, TankLife
from aquifer.core.parameters import SCALE
from aquifer.core.vocabulary import Alloy, Component, code
from aquifer.core.water import WaterProfile, WaterTest, profile
from aquifer.errors import NotFound
from aquifer.forecasts import calibrations
from aquifer.money import prices
from aquifer.water.profiles import waters
from aquifer.workbench import life_costs
from aquifer.workbench.schemas import ExchangerLifeOut, ExchangerLivesOut, LifeOut, LivesOut

MANY = 200
"""Lives of one care that are lived for a fan. Assumption: what a person looks at in a second."""
EVERY = 3
"""Months between two points that are told."""
FAN = (0.1, 0.5, 0.9)


@dataclass(frozen=True)
class Asked:
    """A tank, and where it stands."""

    kind: HeaterKind
    capacity_l: float
    people: float
    zone_id: int | None
    hardness_mg_l: float | None
    seed: int | None
    """None is ordinary luck."""


@dataclass(frozen=True)
class Side:
    """One of the two lives."""

    care: CareName
    softened: bool
    setpoint_c: float


def told(asked: Asked, sides: list[Side], today: datetime.date) -> LivesOut:
    """The lives as a page draws them. Raises: NotFound for a zone that is not there."""
    water, name = _water(asked, today)
    luck = ORDINARY if asked.seed is None else drawn(1, asked.seed)
    many = drawn(MANY, asked.seed or 0)
    taught = calibrations.in_force()[0].get(Component.TANK)
    life = UNLEARNED if taught is None else taught.life
    heaters = [_heater(asked, side, water) for side in sides]
    book = prices.read()
    costs = [life_costs.of_tank(book, CARES[side.care], asked.kind) for side in sides]
    return {
        "currency": book.currency,
        "unpriced": sorted({words for one in costs for words in one.unpriced}),
        "water": name,
        "height_mm": round(float(heaters[0].capacity_l[0] / heaters[0].floor_m2[0])),
        "is_fired": bool(heaters[0].is_fired_from_below[0]),
        "hardness_mg_l": water.analysis.total_hardness_mg_l,
        "years": [month / MONTHS for month in range(0, YEARS * MONTHS + 1, EVERY)],
        "sides": [
            _side(heater, side, luck, many, life, cost.amounts)
            for heater, side, cost in zip(heaters, sides, costs, strict=True)
        ],
    }


DESCALES = {
    CareName.BY_RISK: 0,
    CareName.YEARLY: 12,
    CareName.HALF_YEARLY: 6,
    CareName.LONG_SERVICE: 54,
    CareName.RODS_ONLY: 0,
    CareName.NEVER: 0,
}
"""Months between two descales; a tankless heater has no rod."""


def exchangers(asked: Asked, sides: list[Side], today: datetime.date) -> ExchangerLivesOut:
    """The same of a tankless heater. Raises: NotFound for a zone that is not there."""
    water, name = _water(asked, today)
    luck = ORDINARY if asked.seed is None else drawn(1, asked.seed)
    heaters = [_heater(asked, side, water) for side in sides]
    book = prices.read()
    price, unpriced = life_costs.of_descale(book)
    return {
        "currency": book.currency,
        "unpriced": unpriced,
        "water": name,
        "hardness_mg_l": water.analysis.total_hardness_mg_l,
        "limit_mm": round(1000 * SCALE.limit_m, 2),
        "passage_mm": round(1000 * SCALE.ceiling_m, 2),
        "years": [month / MONTHS for month in range(0, YEARS * MONTHS + 1, EVERY)],
        "sides": [
            _exchanger(heater, side.care, luck, drawn(MANY, asked.seed or 0), price)
            for heater, side in zip(heaters, sides, strict=True)
        ],
    }


def _exchanger(heater: Heaters, care: CareName, luck: Luck, many: Luck, price: float) -> ExchangerLifeOut:
    months, by_limit = DESCALES[care], care is CareName.BY_RISK
    life = exchanger_lives.live(heater, months, luck, by_limit)
    all_lives = exchanger_lives.live(heater, months, many, by_limit)
    return {
        "thickness_mm": _points(1000 * life.thickness_m[0], 3),
        "flow_l_min": _points(life.flow_l_min[0]),
        "energy_kwh": _points(life.energy_kwh[0], 0),
        "cuts_out_in_year": _years(int(life.cuts_out_from()[0])),
        "thickness_fan_mm": [_points(line, 3) for line in np.quantile(1000 * all_lives.thickness_m, FAN, axis=0)],
        "cuts_out_share": _points(all_lives.cuts_out.mean(axis=0), 3),
        "visits_cost": _points(price * np.cumsum(all_lives.descaled.mean(axis=0)), 0),
    }


def _water(asked: Asked, today: datetime.date) -> tuple[WaterProfile, str]:
    if asked.zone_id is None:
        return profile(WaterTest(total_hardness_mg_l=asked.hardness_mg_l)), ""
    zone = next((water for water in waters(today, [asked.zone_id]).zones if water.zone_id == asked.zone_id), None)
    if zone is None:
        raise NotFound("There is no such zone.", fields={"zone_id": "no such zone"})
    return zone.profile, zone.name


def _heater(asked: Asked, side: Side, water: WaterProfile) -> Heaters:
    known = KnownHeaters.blank(np.array([code(asked.kind)]), np.zeros(1))
    known = replace(
        known,
        capacity_l=np.array([asked.capacity_l]),
        people=np.array([asked.people]),
        setpoint_c=np.array([side.setpoint_c]),
        softened=np.array([side.softened]),
        alloy=np.array([code(Alloy.MAGNESIUM)]),
    )
    return complete(known, [water])


def _side(heater: Heaters, side: Side, luck: Luck, many: Luck, taught: TankLife, amounts: Amounts) -> LifeOut:
    care = CARES[side.care]
    life, all_lives = live(heater, care, luck, taught), live(heater, care, many, taught)
    cost = spent(all_lives, care, amounts)
    return {
        "depth_mm": _points(1000 * life.depth_m[0]),
        "rod_left": _points(life.rod_left[0], 3),
        "hot_l": _points(life.hot_l[0]),
        "energy_kwh": _points(life.energy_kwh[0], 0),
        "recover_min": _points(life.recover_min[0], 0),
        "leak_within_year": _points(life.leak_within_year[0], 4),
        "valve_stuck": _points(life.valve_stuck[0], 4),
        "loud": [int(grade) for grade in life.loud[0, ::EVERY]],
        "leaks_in_year": _years(life.leaked[0]),
        "bare_from_year": _bare(life),
        "blocked_from_year": _years(int(life.blocked_from()[0])),
        "rods_in_years": [month / MONTHS for month in life.rods[0]],
        "depth_fan_mm": [_points(line) for line in np.quantile(1000 * all_lives.depth_m, FAN, axis=0)],
        "leaked_share": _points(1 - all_lives.until_leak().mean(axis=0), 3),
        "visits_cost": _points((cost.visits + cost.rods).mean(axis=0), 0),
        "leaks_cost": _points(cost.leaks.mean(axis=0), 0),
        "visits": round(float(cost.came.mean()), 1),
    }


def _points(line: FloatArray, digits: int = 1) -> list[float]:
    return [round(float(value), digits) for value in line[::EVERY]]


def _years(month: int) -> float | None:
    return None if month < 0 else round(int(month) / MONTHS, 2)


def _bare(life: Lived) -> float | None:
    """The year from which no rod is left to the end, or to the next that is fitted."""
    bare = np.flatnonzero(life.rod_left[0] <= 0)
    return _years(int(bare[0])) if bare.size else None

"""One practice over some years on one simulated base."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.forecast import Context, calibrate, forecast
from aquifer.study import score
from aquifer.study.practices import PULSED, Practice, by_benefit, calendar_month
from aquifer.study.records import Register
from aquifer.study.truth import GAS, TANKLESS, World, held_mm, limits_mm, settle


@dataclass
class Trial:
    """What came of a practice."""

    practice: Practice
    seed: int
    visits: int = 0
    wasted: int = 0
    """Cleanings of a heater with less than a tenth of its limit in it."""
    over_years: list[float] = field(default_factory=list)
    """Heater-years over the limit, by year."""
    heater_years: float = 0.0
    by_kind: dict[str, float] = field(default_factory=dict)
    by_water: dict[str, float] = field(default_factory=dict)
    windows: list[score.Windows] = field(default_factory=list)

    @property
    def over_share(self) -> float:
        return sum(self.over_years) / self.heater_years if self.heater_years else 0.0


def run(
    practice: Practice,
    seed: int,
    heaters: int = 2500,
    years: int = 8,
    measured_share: float = 0.05,
    scored_years: tuple[int, ...] = (),
    tell: Callable[[str], None] = lambda text: None,
) -> Trial:
    """Simulate a practice and, in the years asked for, hold its forecasts against what comes."""
    world = World(settle(heaters, seed), seed)
    register = Register(world, seed, measured_share=measured_share)
    place, limit = world.place, limits_mm(world)
    random = np.random.default_rng([seed, 21])
    first = random.integers(0, 12, heaters)
    since_clean = np.zeros(heaters)
    trial = Trial(practice, seed, heater_years=float(heaters * years))
    over_by_heater = np.zeros(heaters)
    context = Context()
    for month in range(12 * years):
        now = month / 12
        over = held_mm(world) > limit
        over_by_heater += over / 12
        if month % 12 == 0:
            trial.over_years.append(0.0)
        trial.over_years[-1] += float(over.sum()) / 12
        if month % 12 == 0 and month and practice.learns:
            context = Context(calibration=calibrate(register.fleet(now)))
        if month in {12 * year for year in scored_years}:
            found = forecast(register.fleet(now, practice.learns), context)
            trial.windows += score.windows(world, register, found, now)
            tell(f"{practice.name}, seed {seed}: year {month // 12} scored")
        rows, method = _sent(practice, register, month, context, first, since_clean)
        _clean(trial, world, register, rows, method, now, limit)
        since_clean += 1 / 12
        since_clean[rows] = 0.0
        turn = np.flatnonzero((first == month % 12) & (month > 0))
        register.exercise_valves(turn, now)
        register.look_at_rods(turn[place.kind[turn] != TANKLESS], now)
        world.step()
    for name, code in (("gas tanks", GAS), ("tankless", TANKLESS)):
        trial.by_kind[name] = float(over_by_heater[place.kind == code].mean() / years)
    rest = (place.kind != GAS) & (place.kind != TANKLESS)
    trial.by_kind["electric tanks"] = float(over_by_heater[rest].mean() / years)
    bounds = ((0, 120, "below 120 mg/L"), (120, 250, "120 to 250 mg/L"), (250, 999, "above 250 mg/L"))
    for low, high, name in bounds:
        among = (place.hardness_mg_l >= low) & (place.hardness_mg_l < high)
        trial.by_water[name] = float(over_by_heater[among].mean() / years) if among.any() else float("nan")
    return trial


def _sent(
    practice: Practice, register: Register, month: int, context: Context, first: IntArray, since_clean: FloatArray
) -> tuple[IntArray, IntArray]:
    heaters = len(register.place)
    if not practice.asks_the_forecast:
        rows = calendar_month(practice, month, register.place.hardness_mg_l, first)
        return rows, np.full(rows.size, PULSED)
    # As many visits as the yearly rule makes.
    visits = round(practice.visits_share * heaters / 12)
    found = forecast(register.fleet(month / 12, practice.learns), context)
    return by_benefit(found, heaters, visits, practice.chooses_method, since_clean)


def _clean(
    trial: Trial,
    world: World,
    register: Register,
    rows: IntArray,
    method: IntArray,
    now: float,
    limit: FloatArray,
) -> None:
    trial.visits += rows.size
    trial.wasted += int((held_mm(world)[rows] < limit[rows] / 10).sum())
    tankless = world.place.kind[rows] == TANKLESS
    if (~tankless).any():
        register.flush(rows[~tankless], method[~tankless], now)
    if tankless.any():
        register.descale(rows[tankless], now)

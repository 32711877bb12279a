"""What a base asks for in the years ahead: one future after another, each with paces and lives of its own.

A site is visited once a year, since its safety services are; what falls due before the next visit is done at this one,
and what lasts less than three quarters of a year is done half-way as well. That is what a level season comes to. A
future draws each heater's true pace, which its services learn by half, and each tank's end. Two practices are lived
with the same luck.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np
from scipy.sparse import csr_array

from aquifer.core import anode, learning, policy, relief_valve, scale, sediment
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.components import AnodeComponent, ScaleComponent, SedimentComponent, TankComponent
from aquifer.core.fleet import Fleet
from aquifer.core.forecast import ComponentForecast, FleetForecast
from aquifer.core.learning import ComponentCalibration
from aquifer.core.learning.grid import at_each
from aquifer.core.planning.work import SETTLE_HOURS, hours_of
from aquifer.core.policy import USUAL_HOURS
from aquifer.core.vocabulary import Component, Method

LEARNED = 0.5
"""Share of what was wrong about a heater's pace that its next service corrects. Assumption."""
COMMON_SPREAD = 0.08
"""Standard deviation of what all paces of the base are wrong by together, natural log. Assumption: what is left after
hundreds of findings."""
HOURS_SPREAD = 0.05
"""The same of what a visit takes against what is planned. Assumption."""
SHORT_YEARS = 0.75
"""What lasts less is done between two yearly visits as well. Assumption."""
SOONEST_YEARS = policy.SHORTEST_FLUSH_YEARS
CATCH_UP_YEARS = 0.25
"""In which what is overdue today is caught up with. Assumption."""
REPLACED_HOURS = 0.75
"""More, where a relief valve failed its trial and is renewed. Assumption."""
COUNTED = ("visits", "flushes", "descales", "rods", "relief_valves", "leaks")


@dataclass(frozen=True)
class Luck:
    """What differs between the futures of one base."""

    common: FloatArray
    """Of all paces, (f,)."""
    hours: FloatArray
    pace: Mapping[Component, FloatArray]
    """Of each component's rows, (k, f)."""
    fails: Mapping[Component, FloatArray]
    """Uniform, of each component's rows, (k, f)."""


@dataclass(frozen=True)
class Ahead:
    """A base's years under one practice; arrays of shape (futures, years)."""

    hours: FloatArray
    counts: Mapping[str, FloatArray]
    """By the names of ``COUNTED``."""


def drawn(found: FleetForecast, futures: int, seed: int) -> Luck:
    """As much luck as futures. Parameters: found, whose rows it is of. Source: the forecasts' own spread of each pace,
    a uniform for what may fail (textbook)."""
    random = np.random.default_rng(seed)
    common, hours = random.normal(0, COMMON_SPREAD, futures), random.normal(0, HOURS_SPREAD, futures)
    pace = {forecast.component: random.normal(0, 1, (forecast.row.size, futures)) for forecast in found.components}
    fails = {forecast.component: random.uniform(0, 1, (forecast.row.size, futures)) for forecast in found.components}
    return Luck(common, hours, pace, fails)


def ahead(
    fleet: Fleet,
    found: FleetForecast,
    site: IntArray,
    travel_hours: float,
    years: int,
    luck: Luck,
    calibration: Mapping[Component, ComponentCalibration] = MappingProxyType({}),
) -> Ahead:
    """The coming years of a base.

    Parameters: fleet, under the practice that is tried; found, its forecasts; site, a number for each heater, (n,);
    travel_hours, by the way of one visit; luck, of the same rows; calibration, what the base taught.
    Returns: hours, and what is done and what gives way, by future and year. Nobody joins or leaves.
    """
    served = [forecast for forecast in found.components if forecast.component in _EVERY]
    begins = _first_visits(served, site)
    hours = np.zeros((luck.common.size, years))
    counts = {name: np.zeros((luck.common.size, years)) for name in COUNTED}
    visited: dict[tuple[int, float], FloatArray] = {}
    for forecast in served:
        _serve(forecast, fleet, site, begins, years, luck, calibration, hours, counts, visited)
    for (_, half), at_site in visited.items():
        for year in range(years):
            inside = (np.floor(begins + half + 1e-9) == year)[:, None] & (at_site > 0)
            counts["visits"][:, year] += inside.sum(axis=0)
    hours += counts["visits"] * (SETTLE_HOURS + travel_hours)
    tank = found.of(Component.TANK)
    if tank is not None:
        _end(tank, fleet, found, years, luck, calibration, travel_hours, hours, counts)
    return Ahead(hours * np.exp(luck.hours)[:, None], counts)


def fan(values: FloatArray, chances: tuple[float, ...] = (0.1, 0.5, 0.9)) -> FloatArray:
    """Quantiles over the futures, (chances, years). Parameters: values, (futures, years)."""
    return np.asarray(np.quantile(values, chances, axis=0))


def better(one: FloatArray, other: FloatArray) -> float:
    """Share of the futures in which the first of two, lived with the same luck, comes to less over all years."""
    return float(np.mean(one.sum(axis=1) < other.sum(axis=1)))


def _first_visits(served: list[ComponentForecast], site: IntArray) -> FloatArray:
    """Years until each site is first visited, (sites,): its first due date, within a year; what is overdue is spread
    over the weeks in which it is caught up with."""
    first = np.full(int(site.max()) + 1 if site.size else 0, 1.0)
    for forecast in served:
        np.minimum.at(first, site[forecast.row], forecast.due_years)
    place = (np.arange(first.size) * 0.6180339887) % 1.0
    return np.asarray(np.where(first <= 0, CATCH_UP_YEARS * place, np.minimum(first, 1.0)))


def _serve(
    forecast: ComponentForecast,
    fleet: Fleet,
    site: IntArray,
    begins: FloatArray,
    years: int,
    luck: Luck,
    calibration: Mapping[Component, ComponentCalibration],
    hours: FloatArray,
    counts: dict[str, FloatArray],
    visited: dict[tuple[int, float], FloatArray],
) -> None:
    """Each service of one component, added to what all come to."""
    rows, futures = forecast.row.size, luck.common.size
    wrong = forecast.log_theta_sd[:, None] * luck.pace[forecast.component] + luck.common[None, :]
    interval = _intervals(forecast, fleet, calibration, wrong)
    due = np.broadcast_to(np.maximum(forecast.due_years, 0.0)[:, None], (rows, futures)).copy()
    start = begins[site[forecast.row]]
    sites = csr_array((np.ones(rows), (site[forecast.row], np.arange(rows))), shape=(begins.size, rows))
    took = np.array([hours_of(forecast.component, list(Method)[int(method)]) for method in forecast.method])
    stuck = _stuck(forecast, fleet)
    for visit in range(years + 1):
        for half in (0.0, 0.5):
            at = (start + visit + half)[:, None]
            lasts = at + (1.0 if half == 0 else 0.5)
            is_done = due <= lasts - 1e-9
            if half:
                is_done &= interval < SHORT_YEARS
            if not is_done.any():
                continue
            due = np.where(is_done, at + interval, due)
            year = np.floor(start + visit + half + 1e-9).astype(np.int64)
            _count(forecast.component, is_done, year, years, counts)
            for number in range(years):
                inside = is_done & (year == number)[:, None]
                hours[:, number] += took @ inside
                if stuck is not None:
                    failed = inside & (_again(luck.fails[forecast.component], visit) < stuck[:, None])
                    counts["relief_valves"][:, number] += failed.sum(axis=0)
                    hours[:, number] += REPLACED_HOURS * failed.sum(axis=0)
            key = (visit, visit + half)
            done = sites @ is_done.astype(np.float64)
            visited[key] = done if key not in visited else visited[key] + done


def _again(uniform: FloatArray, visit: int) -> FloatArray:
    """Another uniform figure for each visit, from the one that was drawn. Source: rotation by the golden section."""
    return np.asarray((uniform + 0.6180339887 * visit) % 1.0)


_NAMES = {Component.SEDIMENT: "flushes", Component.SCALE: "descales", Component.ANODE: "rods"}


def _count(component: Component, is_done: BoolArray, year: IntArray, years: int, counts: dict[str, FloatArray]) -> None:
    name = _NAMES.get(component)
    if name is None:
        return
    for number in range(years):
        counts[name][:, number] += (is_done & (year == number)[:, None]).sum(axis=0)


def _stuck(forecast: ComponentForecast, fleet: Fleet) -> FloatArray | None:
    """Probability that each relief valve fails the trial of a year, (k,)."""
    if forecast.component is not Component.RELIEF_VALVE:
        return None
    hardness = fleet.heaters.hardness_mg_l[forecast.row]
    return np.asarray(
        -np.expm1(-np.exp(forecast.log_theta) * relief_valve.hazard(np.ones(forecast.row.size), hardness))
    )


def _end(
    tank: ComponentForecast,
    fleet: Fleet,
    found: FleetForecast,
    years: int,
    luck: Luck,
    calibration: Mapping[Component, ComponentCalibration],
    travel_hours: float,
    hours: FloatArray,
    counts: dict[str, FloatArray],
) -> None:
    """Tanks that give way, each once: a new one outlives the years that are looked at."""
    rods = AnodeComponent.of(fleet) if AnodeComponent.rows_of(fleet.heaters).size else None
    wear = found.of(Component.ANODE)
    life = calibration.get(Component.TANK, ComponentCalibration()).life
    tanks = TankComponent.of(fleet, rods, None if wear is None else wear.log_theta, life)
    ends = tanks.years_to(luck.fails[Component.TANK])
    for year in range(years):
        leaks = ((ends >= year) & (ends < year + 1)).sum(axis=0)
        counts["leaks"][:, year] += leaks
        hours[:, year] += leaks * (USUAL_HOURS[Component.TANK] + SETTLE_HOURS + travel_hours)


_EVERY = (
    Component.SEDIMENT,
    Component.SCALE,
    Component.ANODE,
    Component.RELIEF_VALVE,
    Component.EXPANSION_TANK,
)


def _intervals(
    forecast: ComponentForecast, fleet: Fleet, calibration: Mapping[Component, ComponentCalibration], wrong: FloatArray
) -> FloatArray:
    """Years from a service to the next in each future, (k, f): by the accepted risk as far as its pace is known by
    then, or by the practice's calendar; the safety services yearly."""
    heaters = fleet.heaters.at(forecast.row)
    taught = calibration.get(forecast.component, ComponentCalibration())
    if forecast.component in (Component.RELIEF_VALVE, Component.EXPANSION_TANK):
        return np.ones(wrong.shape)
    by_risk = _YEARS[forecast.component](forecast, fleet, taught)[:, None] * np.exp(-LEARNED * wrong)
    if forecast.component is Component.ANODE:
        return np.asarray(np.maximum(by_risk, 1.0))
    calendar = policy.calendar_years(heaters.practice, heaters.hardness_mg_l)[:, None]
    longest = heaters.longest_flush_years[:, None]
    return np.asarray(np.where(np.isnan(calendar), np.clip(by_risk, SOONEST_YEARS, longest), calendar))


def _belief(forecast: ComponentForecast) -> learning.Posterior:
    nothing = np.zeros((forecast.row.size, learning.GRID.size), dtype=np.float32)
    return learning.with_prior(nothing, learning.Prior(forecast.log_theta, np.maximum(forecast.log_theta_sd, 0.08)))


def _accepted(forecast: ComponentForecast, fleet: Fleet) -> FloatArray:
    return at_each(_belief(forecast).quantiles, 1 - fleet.heaters.tolerance[forecast.row])


def _flush_years(forecast: ComponentForecast, fleet: Fleet, taught: ComponentCalibration) -> FloatArray:
    now = SedimentComponent.of(fleet).informed(taught)
    loose, hardened = sediment.flushed(now.history.bed, now.heaters.flush_method, now.taught.removal)
    factor = np.exp(now.believed(_belief(forecast)).level.shift)
    limit = now.limit_driver * np.exp(-_accepted(forecast, fleet))
    return sediment.years_to_depth((factor * loose, factor * hardened), now.unit_rate, now.heaters.floor_m2, limit)


def _descale_years(forecast: ComponentForecast, fleet: Fleet, taught: ComponentCalibration) -> FloatArray:
    now = ScaleComponent.of(fleet).informed(taught)
    left = (1 - scale.removed_share(now.taught.removal)) * np.exp(now.believed(_belief(forecast)).level.shift)
    limit = now.limit_driver * np.exp(-_accepted(forecast, fleet))
    return np.asarray(np.maximum(limit - left * now.history.now_m, 0.0) / now.unit_rate)


def _rod_years(forecast: ComponentForecast, fleet: Fleet, taught: ComponentCalibration) -> FloatArray:
    rods = AnodeComponent.of(fleet).rods
    share = np.minimum(anode.BARE_LIMIT * np.exp(-_accepted(forecast, fleet)), 1e4)
    return anode.years_to_consume(rods, share)


_YEARS = {Component.SEDIMENT: _flush_years, Component.SCALE: _descale_years, Component.ANODE: _rod_years}

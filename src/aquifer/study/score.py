"""Whether windows held: what the forecast said against what the simulated truth does when nobody comes."""

from dataclasses import dataclass

import numpy as np

from aquifer.core import anode
from aquifer.core.arrays import BoolArray, FloatArray
from aquifer.core.forecast import ComponentForecast, FleetForecast
from aquifer.core.policy import DEFAULTS
from aquifer.core.vocabulary import Component
from aquifer.study.records import Register
from aquifer.study.truth import World, limits_mm

AHEAD_YEARS = 10
_QUANTILES = np.array([0.1, 0.5, 0.9])


@dataclass(frozen=True)
class Windows:
    """How one component's windows held in one year."""

    component: Component
    year: float
    heaters: int
    state_inside: float
    """Share of states in 12 months inside P10 to P90; of heaters where there is something to see and that are not past
    measuring."""
    dates_inside: float
    """Share of dates inside, of those in play: the truth or P10 within ten years, and not reached already."""
    before: float
    """Share of those dates before P10."""
    after: float
    in_play: int
    pinball_years: float
    """Mean pinball loss of P10, P50 and P90, dates cut at ten years."""
    width_years: float
    """Mean of P90 minus P10, cut at ten years."""


def windows(world: World, register: Register, found: FleetForecast, now: float) -> list[Windows]:
    """Hold every component's windows against copies of the truth in which nobody comes for ten years."""
    in_a_year, reached = _ahead(world, register, now)
    return [
        _held(forecast, in_a_year[forecast.component][forecast.row], reached[forecast.component][forecast.row], now)
        for forecast in found.components
        if forecast.component in in_a_year
    ]


def _ahead(
    world: World, register: Register, now: float
) -> tuple[dict[Component, FloatArray], dict[Component, FloatArray]]:
    """The true state in 12 months and the true time to each limit, years, (n,) each; ten years if later."""
    future = world.state.copy()
    limit = limits_mm(world)
    n = len(world.place)
    reached = {c: np.full(n, float(AHEAD_YEARS)) for c in (Component.SEDIMENT, Component.SCALE, Component.ANODE)}
    in_a_year: dict[Component, FloatArray] = {}
    for month in range(12 * AHEAD_YEARS + 1):
        held = {
            Component.SEDIMENT: future.depth_mm >= limit,
            Component.SCALE: future.scale_mm >= limit,
            Component.ANODE: future.worn >= anode.BARE_LIMIT,
        }
        for component, is_over in held.items():
            first = is_over & (reached[component] >= AHEAD_YEARS)
            # Somewhere within the month that ends now.
            reached[component][first] = max(month - 0.5, 0.0) / 12
        if month == 12:
            in_a_year[Component.SEDIMENT] = future.depth_mm.copy()
            in_a_year[Component.SCALE] = future.scale_mm.copy()
            in_a_year[Component.ANODE] = np.clip(1 - future.worn, 0, 1)
        world.step(future)
    idle = world.state.idle_months
    in_a_year[Component.RELIEF_VALVE] = 1 - np.exp(-world.stick_hazard(idle + 12))
    reached[Component.RELIEF_VALVE] = np.clip(_proof_years(world) - idle / 12, 0, AHEAD_YEARS)
    return in_a_year, reached


def _proof_years(world: World) -> FloatArray:
    """True years after running until the average probability of being stuck reaches the target, (n,)."""
    months = np.arange(1, 12 * AHEAD_YEARS + 1)
    stuck = np.stack([1 - np.exp(-world.stick_hazard(np.full(len(world.place), float(m)))) for m in months], axis=1)
    average = np.cumsum(stuck, axis=1) / months
    over = average >= DEFAULTS.valve_target
    return np.where(over.any(axis=1), (over.argmax(axis=1) + 0.5) / 12, float(AHEAD_YEARS))


def _worth_seeing(forecast: ComponentForecast, truth: FloatArray) -> BoolArray:
    """Heaters whose state in a year says something: not nothing, and not past all measuring."""
    if forecast.component is Component.SEDIMENT:
        return np.asarray((truth > 1.0) & (forecast.state_in_a_year[:, 0] < 1e3))
    if forecast.component is Component.SCALE:
        return np.asarray(truth > 0.02)
    if forecast.component is Component.ANODE:
        return np.asarray((truth > 0.0) & (truth < 0.97))
    return np.asarray(truth < 0.999)


def _held(forecast: ComponentForecast, state: FloatArray, date: FloatArray, now: float) -> Windows:
    low, _, high = forecast.state_in_a_year.T
    seen = _worth_seeing(forecast, state)
    inside = (state >= low - 1e-9) & (state <= high + 1e-9)
    told = np.minimum(forecast.reached_years[:, [1, 3, 5]], AHEAD_YEARS)
    play = ((date < AHEAD_YEARS) | (told[:, 0] < AHEAD_YEARS)) & (date > 0)
    before, after = date < told[:, 0], date > told[:, 2]
    off = date[:, None] - told
    pinball = np.maximum(_QUANTILES * off, (_QUANTILES - 1) * off).mean(axis=1)
    count = max(int(play.sum()), 1)
    return Windows(
        forecast.component,
        now,
        int(forecast.row.size),
        float(inside[seen].mean()) if seen.any() else float("nan"),
        float((play & ~before & ~after).sum() / count),
        float((play & before).sum() / count),
        float((play & after).sum() / count),
        int(play.sum()),
        float(pinball[play].mean()) if play.any() else float("nan"),
        float((told[:, 2] - told[:, 0])[play].mean()) if play.any() else float("nan"),
    )

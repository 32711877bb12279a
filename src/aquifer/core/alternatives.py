"""What would change it: the same heater with a softener, a cooler setting, another use or another flush.

Recomputed, not guessed: the bed and the rod stay as they are believed to be, and grow on at the changed rate from the
next service.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType

import numpy as np

from aquifer.core import anode, learning, policy, scale, sediment
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.assembly import KnownHeaters, complete
from aquifer.core.components import AnodeComponent, ScaleComponent, SedimentComponent
from aquifer.core.fleet import Fleet, Heaters
from aquifer.core.learning import ComponentCalibration
from aquifer.core.parameters import HORIZON_YEARS
from aquifer.core.vocabulary import Component, FlushMethod, Practice, code
from aquifer.core.water import WaterProfile


@dataclass(frozen=True)
class Change:
    """What is different; None is as it is."""

    softened: bool | None = None
    setpoint_c: float | None = None
    use_factor: float = 1.0
    flush_method: FlushMethod | None = None
    practice: Practice | None = None
    """By its calendar, if it has one; None goes by the accepted risk."""


@dataclass(frozen=True)
class Alternative:
    component: Component
    years_between: float
    """From a service to the next, at the accepted risk or by the calendar; the horizon if further."""
    over_after_service: float
    """Probability of being over the limit right after that service."""
    over_at_next: float
    """Probability of being over the limit when the next service comes."""
    over_in_12_months: float
    """Share of the following 12 months that it is expected to be over its limit."""


Rates = dict[Component, tuple[float, float]]
"""Mean and standard deviation of the learned log rate of each component."""


def alternatives(
    known: KnownHeaters,
    waters: list[WaterProfile],
    fleet: Fleet,
    rates: Rates,
    changes: list[Change],
    calibration: Mapping[Component, ComponentCalibration] = MappingProxyType({}),
) -> list[list[Alternative]]:
    """What each change would do to a heater's flush or descale and to its rod.

    Parameters: known and fleet of one heater; its water; its learned rates; changes; what the base taught when those
    were learned. Returns: a list for each change.
    Raises: ValueError if PHREEQC finds no solution for a changed water.
    """
    has_sediment = Component.SEDIMENT in rates and bool(fleet.heaters.is_tank[0])
    bed = SedimentComponent.of(fleet).informed(_taught(calibration, Component.SEDIMENT)) if has_sediment else None
    wall = ScaleComponent.of(fleet).informed(_taught(calibration, Component.SCALE)) if _scales(fleet, rates) else None
    return [_with(change, complete(_changed(known, change), waters), fleet, bed, wall, rates) for change in changes]


def _taught(calibration: Mapping[Component, ComponentCalibration], component: Component) -> ComponentCalibration:
    return calibration.get(component, ComponentCalibration())


def _scales(fleet: Fleet, rates: Rates) -> bool:
    return Component.SCALE in rates and bool(fleet.heaters.has_exchanger[0])


def _changed(known: KnownHeaters, change: Change) -> KnownHeaters:
    one = np.ones(1)
    return replace(
        known,
        softened=known.softened if change.softened is None else np.array([change.softened]),
        setpoint_c=known.setpoint_c if change.setpoint_c is None else one * change.setpoint_c,
        practice=np.array([code(change.practice or Practice.CONDITION)]),
    )


def _with(
    change: Change,
    changed: Heaters,
    fleet: Fleet,
    bed: SedimentComponent | None,
    wall: ScaleComponent | None,
    rates: Rates,
) -> list[Alternative]:
    heaters = replace(changed, volume_m3=changed.volume_m3 * change.use_factor)
    later = replace(fleet, heaters=heaters)
    found = []
    if bed is not None:
        method = fleet.heaters.flush_method
        if change.flush_method is not None:
            method = np.array([code(change.flush_method)])
        found.append(_sediment(bed, SedimentComponent.of(later).informed(bed.taught), method, rates))
    if wall is not None:
        found.append(_scale(wall, ScaleComponent.of(later).informed(wall.taught), rates))
    if Component.ANODE in rates and fleet.heaters.is_sacrificial[0]:
        found.append(_anode(AnodeComponent.of(later), rates))
    return found


def _belief(component: Component, rates: Rates) -> learning.Posterior:
    mean, sd = rates[component]
    nothing = np.zeros((1, learning.GRID.size), dtype=np.float32)
    return learning.with_prior(nothing, learning.Prior(np.array([mean]), np.array([max(sd, 0.08)])))


_QUARTERS = np.linspace(0.0, 1.0, 5)


def _sediment(now: SedimentComponent, later: SedimentComponent, method: IntArray, rates: Rates) -> Alternative:
    belief = _belief(Component.SEDIMENT, rates)
    loose, hardened = sediment.flushed(now.history.bed, method, now.taught.removal)
    floor, limit, rate = now.heaters.floor_m2[:, None], now.limit_driver[:, None], later.unit_rate[:, None]
    # As deep as it is believed to be, whatever the pace alone would say.
    factor = np.exp(now.believed(belief).level.shift)
    bed = ((factor * loose)[:, None], (factor * hardened)[:, None])
    accepted = belief.quantiles(1 - now.heaters.tolerance)
    years = _next(later.heaters, sediment.years_to_depth(bed, rate, floor, limit * np.exp(-accepted)))
    depth = sediment.depth_m(sediment.grown(bed, rate, np.append(_QUARTERS, years[0, 0])), floor)
    over = belief.exceeding(np.log(limit) - np.log(np.maximum(depth, 1e-12)))
    return _alternative(Component.SEDIMENT, years, over)


def _scale(now: ScaleComponent, later: ScaleComponent, rates: Rates) -> Alternative:
    belief = _belief(Component.SCALE, rates)
    removed = scale.removed_share(now.taught.removal)
    left = (1 - removed) * (np.exp(now.believed(belief).level.shift) * now.history.now_m)[:, None]
    accepted = belief.quantiles(1 - now.heaters.tolerance)
    limit, rate = now.limit_driver[:, None], later.unit_rate[:, None]
    years = _next(later.heaters, np.maximum(limit * np.exp(-accepted) - left, 0.0) / rate)
    times = np.append(_QUARTERS, years[0, 0])
    over = belief.exceeding(np.log(limit) - np.log(np.maximum(left + rate * times, 1e-12)))
    return _alternative(Component.SCALE, years, over)


def _anode(later: AnodeComponent, rates: Rates) -> Alternative:
    """From a new rod on: the present one's past was under the old water."""
    belief = _belief(Component.ANODE, rates)
    fresh = replace(later, rods=replace(later.rods, tank_age_years=later.heaters.age_years), rod_age=np.zeros(1))
    accepted = belief.quantiles(1 - later.heaters.tolerance)
    years = np.minimum(fresh.years_from_service(accepted), HORIZON_YEARS)
    gone = anode.consumed(fresh.rods.column(), np.append(_QUARTERS, years[0, 0]))
    over = belief.exceeding(np.log(anode.BARE_LIMIT) - np.log(np.maximum(gone, 1e-12)))
    return _alternative(Component.ANODE, years, over)


def _next(heaters: Heaters, by_risk: FloatArray) -> FloatArray:
    """Years to the next flush or descale, (1, 1): by the risk, or by the calendar of the practice that is tried."""
    calendar = policy.calendar_years(heaters.practice, heaters.hardness_mg_l)[:, None]
    return np.asarray(np.minimum(np.where(np.isnan(calendar), by_risk, calendar), HORIZON_YEARS))


def _alternative(component: Component, years: FloatArray, over: FloatArray) -> Alternative:
    return Alternative(
        component,
        float(min(years[0, 0], HORIZON_YEARS)),
        float(over[0, 0]),
        float(over[0, -1]),
        float(np.trapezoid(over[0, :-1], _QUARTERS)),
    )

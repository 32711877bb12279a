"""A heater's past and coming course at given rates, for drawing its log."""

from dataclasses import dataclass

import numpy as np

from aquifer.core import anode, sediment
from aquifer.core.arrays import FloatArray
from aquifer.core.components import AnodeComponent, ScaleComponent, SedimentComponent
from aquifer.core.fleet import Fleet
from aquifer.core.parameters import SCALE
from aquifer.core.vocabulary import Component

_AHEAD = 13


@dataclass(frozen=True)
class Course:
    """Years since installation, (t,), and the state at each rate, (t, q), in the unit of the component's state."""

    component: Component
    years: FloatArray
    values: FloatArray
    present: int
    """Position of today; what follows is the future without service."""


def courses(fleet: Fleet, rates: dict[Component, FloatArray], years_ahead: float) -> list[Course]:
    """The courses of the components of one heater.

    Parameters: fleet, of one heater; rates, for each component the stored rate at each quantile, (q,), in the
    component's unit; years_ahead, years. Returns: one course for each component named in ``rates`` that it has.
    """
    found = []
    ahead = np.linspace(0.0, years_ahead, _AHEAD)
    age = float(fleet.heaters.age_years[0])
    if Component.SEDIMENT in rates and fleet.heaters.is_tank[0]:
        found.append(_sediment(SedimentComponent.of(fleet), rates[Component.SEDIMENT], age, ahead))
    if Component.SCALE in rates and not fleet.heaters.is_tank[0]:
        found.append(_scale(ScaleComponent.of(fleet), rates[Component.SCALE], age, ahead))
    if Component.ANODE in rates and fleet.heaters.is_sacrificial[0]:
        found.append(_anode(AnodeComponent.of(fleet), rates[Component.ANODE], age, ahead))
    return found


def _sediment(component: SedimentComponent, rate: FloatArray, age: float, ahead: FloatArray) -> Course:
    h, openings = component.history, component.openings
    theta = rate / component.rate(np.zeros((1, 1)))[0, 0]
    later = sediment.grown(h.bed, component.unit_rate, ahead)
    future = sediment.depth_m(later, component.heaters.floor_m2)
    past_years = np.concatenate([[0.0], np.repeat(openings.years, 2)])
    past = np.concatenate([[0.0], np.stack([h.depth_before_m, h.depth_after_m], axis=1).ravel()])
    return _course(Component.SEDIMENT, past_years, past, age, ahead, 1000 * future, 1000, theta)


def _scale(component: ScaleComponent, rate: FloatArray, age: float, ahead: FloatArray) -> Course:
    h, descales = component.history, component.fleet.descales
    theta = rate / component.rate(np.zeros((1, 1)))[0, 0]
    future = h.now_m + component.unit_rate * ahead
    after = h.before_m * (1 - SCALE.removed_share)
    past_years = np.concatenate([[0.0], np.repeat(descales.years, 2)])
    past = np.concatenate([[0.0], np.stack([h.before_m, after], axis=1).ravel()])
    return _course(Component.SCALE, past_years, past, age, ahead, 1000 * future, 1000, theta)


def _anode(component: AnodeComponent, rate: FloatArray, age: float, ahead: FloatArray) -> Course:
    theta = rate / component.rate(np.zeros((1, 1)))[0, 0]
    fitted = float(component.heaters.rod_fitted_years[0])
    on_rod = np.linspace(0.0, max(age - fitted, 0.0), 6)
    past = anode.consumed(component.rods, on_rod)
    future = anode.consumed(component.rods, component.rod_age + ahead)
    gone = _course(Component.ANODE, fitted + on_rod[:-1], past[:-1], age, ahead, future, 1, theta)
    return Course(gone.component, gone.years, np.clip(1 - gone.values, 0.0, 1.0), gone.present)


def _course(
    component: Component,
    past_years: FloatArray,
    past: FloatArray,
    age: float,
    ahead: FloatArray,
    future: FloatArray,
    unit: float,
    theta: FloatArray,
) -> Course:
    years = np.concatenate([past_years, age + ahead])
    values = np.concatenate([unit * past, future])[:, None] * theta
    return Course(component, years, values, past_years.size)

"""A heater's past and coming course at given rates, for drawing its log."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from aquifer.core import anode
from aquifer.core.arrays import FloatArray
from aquifer.core.components import AnodeComponent, ScaleComponent, SedimentComponent
from aquifer.core.fleet import Fleet
from aquifer.core.learning import ComponentCalibration
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


def courses(
    fleet: Fleet,
    rates: Mapping[Component, FloatArray],
    paces: Mapping[Component, tuple[float, float]],
    calibration: Mapping[Component, ComponentCalibration],
    years_ahead: float,
) -> list[Course]:
    """The courses of the components of one heater.

    Parameters: fleet, of one heater; rates, for each component the stored rate at each quantile, (q,), in the
    component's unit; paces, mean and standard deviation of its log theta; calibration, under which those were computed;
    years_ahead, years. Returns: one course for each component named in ``rates`` that it has.
    """
    courses = []
    ahead = np.linspace(0.0, years_ahead, _AHEAD)
    age = float(fleet.heaters.age_years[0])

    def deposit(of: type[SedimentComponent] | type[ScaleComponent], name: Component) -> None:
        component = of.of(fleet).informed(calibration.get(name, ComponentCalibration()))
        courses.append(_deposit(component, rates[name], paces[name], age, ahead))

    if Component.SEDIMENT in rates and fleet.heaters.is_tank[0]:
        deposit(SedimentComponent, Component.SEDIMENT)
    if Component.SCALE in rates and not fleet.heaters.is_tank[0]:
        deposit(ScaleComponent, Component.SCALE)
    if Component.ANODE in rates and fleet.heaters.is_sacrificial[0]:
        courses.append(_anode(AnodeComponent.of(fleet), rates[Component.ANODE], age, ahead))
    return courses


def _deposit(
    component: SedimentComponent | ScaleComponent,
    rate: FloatArray,
    pace: tuple[float, float],
    age: float,
    ahead: FloatArray,
) -> Course:
    mean, sd = np.array([pace[0]]), np.array([max(pace[1], 1e-3)])
    log_theta = np.log(rate / component.rate(np.zeros((1, 1)))[0, 0])
    past, future = component.course(mean, sd, ((log_theta - mean) / sd)[None, :], ahead)
    past_years = np.concatenate([[0.0], np.repeat(component.event_years, 2), age + ahead])
    values = np.concatenate([np.zeros((1, rate.size)), past.reshape(-1, rate.size), future])
    return Course(component.name, past_years, 1000 * values, 1 + 2 * component.event_years.size)


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

"""What a forecast and its findings say of one heater, as the tables ask for it."""

from math import exp, log

import numpy as np

from aquifer.core import relief_valve
from aquifer.core.components import SedimentComponent
from aquifer.core.fleet import Fleet
from aquifer.core.judgement.rules import DRAIN_PORT_MM
from aquifer.core.judgement.table import Facts, Seen
from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import LEARNING, RELIEF_VALVE, SEDIMENT
from aquifer.core.vocabulary import Alloy, Component, ExpansionTankPin, Noise, Removed, ValveOutcome, code

States = dict[Component, dict[str, float]]
"""Median of each figure of a component's state, with ``over_after_service`` beside them."""


def facts_of(
    fleet: Fleet, states: States, seen: Seen, cutoff_years: float, softened: bool, drain_port_mm: float | None
) -> Facts:
    """The facts of the one heater of ``fleet``.

    Parameters: fleet of one; states, its forecast's medians; what was seen; the company's cut-off age, years; whether a
    softener is on record; height of the drain port, mm, None where nobody measured it.
    """
    h = fleet.heaters
    age = float(h.age_years[0])
    sediment, rod, tank = (states.get(c, {}) for c in (Component.SEDIMENT, Component.ANODE, Component.TANK))
    scale = states.get(Component.SCALE, {})
    noises = fleet.looks.noise[fleet.looks.noise >= 0]
    pins = fleet.expansion_tank_checks.pin[fleet.expansion_tank_checks.pin >= 0]
    renewed = fleet.expansion_tank_checks.replaced[-1:].any()
    return Facts(
        kind=list(HeaterKind)[h.kind[0]],
        age_years=age,
        was_flushed=fleet.flushes.row.size > 0,
        cutoff_years=cutoff_years,
        depth_mm=sediment.get("depth_mm", 0.0),
        drain_port_mm=drain_port_mm or DRAIN_PORT_MM,
        over_after_service=max(sediment.get("over_after_service", 0.0), scale.get("over_after_service", 0.0)),
        setpoint_c=float(h.setpoint_c[0]),
        hardness_mg_l=float(h.hardness_mg_l[0]),
        softened=softened,
        softener_suspected=0.0 if softened or not h.is_tank[0] else softener_suspected(fleet),
        noise=list(Noise)[noises[-1]] if noises.size else None,
        alloy=list(Alloy)[h.alloy[0]],
        protection_ratio=rod.get("protection_ratio"),
        valve_age_years=age - float(h.valve_fitted_years[0]),
        valve_replace_at_years=float(relief_valve.replacement_age_years(h.hardness_mg_l)[0]),
        valve_warn_at_years=RELIEF_VALVE.warn_after_years,
        valve_outcome=_last_outcome(fleet),
        expansion_tank=not np.isnan(h.expansion_tank_l[0]),
        expansion_tank_pin=list(ExpansionTankPin)[pins[-1]] if pins.size and not renewed else None,
        pressure_kpa=float(h.pressure_kpa[0]),
        failure_12_months=tank.get("failure_within_12_months"),
        replace_at=float(h.replace_at[0]),
        seen=seen,
    )


def _last_outcome(fleet: Fleet) -> ValveOutcome | None:
    """What the valve now in place did when it was last tried."""
    trials = fleet.valve_trials
    tried = np.flatnonzero(
        trials.replaced | ((trials.outcome >= 0) & (trials.outcome != code(ValveOutcome.NOT_TESTED)))
    )
    if not tried.size or trials.replaced[tried[-1]]:
        return None
    if trials.years[tried[-1]] < fleet.heaters.valve_fitted_years[0]:
        return None
    outcome: ValveOutcome = list(ValveOutcome)[int(trials.outcome[tried[-1]])]
    return outcome


def softener_suspected(fleet: Fleet) -> float:
    """Probability that the one tank of ``fleet`` stands behind a softener nobody recorded.

    Source: Bayes' rule between two stories of its flushes' grades: the water as recorded, theta N(0, heater and water
    spread); or softened, when nothing comes out but for misgrading. Prior ``parameters.LEARNING``, assumption.
    """
    component = SedimentComponent.of(fleet)
    grades = component.evidence().grades[0]
    if grades.row.size < 2 or component.heaters.potential_mg_l[0] < 2 * SEDIMENT.kinetic_threshold_mg_l:
        return 0.0
    spread = float(np.hypot(component.zone_spread[0], component.heater_spread[0]))
    theta = np.linspace(-3.5 * spread, 3.5 * spread, 141)
    weight = np.exp(-0.5 * (theta / spread) ** 2)
    each = grades.scale.log_likelihood(grades.grade[:, None], grades.log_unit[:, None] + theta)
    recorded = np.add.reduce(each, axis=0)
    hard = log(float((weight / weight.sum()) @ np.exp(recorded - recorded.max()))) + float(recorded.max())
    nothing = grades.grade == code(Removed.NONE)
    slip = SEDIMENT.misgrade / grades.scale.grades
    soft = float(np.add.reduce(np.where(nothing, np.log(1 - 4 * slip), np.log(slip))))
    odds = LEARNING.softener_prior / (1 - LEARNING.softener_prior) * exp(min(soft - hard, 50.0))
    return odds / (1 + odds)

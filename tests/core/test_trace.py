"""The course that a heater's log draws agrees with the forecast beside it."""

import json

import numpy as np
import pytest

from aquifer.core import case, trace
from aquifer.core.forecast import forecast
from aquifer.core.parameters import SCALE
from aquifer.core.vocabulary import Component
from tests.core.fleets import document

EVENTS = [
    {"on": "2023-06-01", "task": "flush", "finding": {"removed": "moderate"}},
    {"on": "2025-06-01", "task": "flush", "method": "jetting", "finding": {"removed": "heavy"}},
]


def courses(**parts):
    fleet = case.as_fleet(case.read(json.dumps(document(**parts))))
    found = {one.component: one for one in forecast(fleet).components}
    rates = {component: one.rate[0] for component, one in found.items() if component is not Component.TANK}
    paces = {one: (float(found[one].log_theta[0]), float(found[one].log_theta_sd[0])) for one in rates}
    return {one.component: one for one in trace.courses(fleet, rates, paces, {}, 2.5)}, found, fleet


OLD = {"kind": "gas_tank", "installed_on": "2020-06-01", "capacity_l": 189, "setpoint_c": 60}


def test_the_present_of_a_course_is_the_forecasts_state():
    drawn, found, _ = courses(heater=OLD, events=EVENTS)
    depth = drawn[Component.SEDIMENT]
    assert depth.values[depth.present] == pytest.approx(found[Component.SEDIMENT].state["depth_mm"][0], rel=1e-6)
    rod = drawn[Component.ANODE]
    left = found[Component.ANODE].state["fraction_left"][0]
    assert np.sort(rod.values[rod.present]) == pytest.approx(left, rel=1e-6, abs=1e-9)


def test_each_flush_is_a_step_down_and_the_future_only_grows():
    drawn, _, fleet = courses(heater=OLD, events=EVENTS)
    depth = drawn[Component.SEDIMENT]
    flushes = fleet.flushes.years
    assert depth.years[1 : depth.present] == pytest.approx(np.repeat(flushes, 2))
    before, after = depth.values[1 : depth.present : 2, 1], depth.values[2 : depth.present : 2, 1]
    assert (after < before).all()
    assert (np.diff(depth.values[depth.present :, 1]) > 0).all()
    assert depth.years[-1] - depth.years[depth.present] == pytest.approx(2.5)


def test_the_courses_future_reaches_the_limit_when_the_forecast_says():
    drawn, found, _ = courses(heater=OLD | {"installed_on": "2026-05-01"})
    depth, one = drawn[Component.SEDIMENT], found[Component.SEDIMENT]
    ahead = depth.years[depth.present :] - depth.years[depth.present]
    reached = np.interp(1000 * 0.012, depth.values[depth.present :, 1], ahead)
    assert reached == pytest.approx(one.reached_years[0, 3], rel=0.05)


def test_an_exchangers_course_steps_down_by_what_a_descale_dissolves():
    tankless = {"kind": "gas_tankless", "installed_on": "2022-01-01", "setpoint_c": 60}
    event = {"on": "2024-01-01", "task": "descale", "finding": {"removed": "moderate"}}
    drawn, found, _ = courses(heater=tankless, events=[event])
    scale = drawn[Component.SCALE]
    assert scale.values[2, 1] == pytest.approx((1 - SCALE.removed_share) * scale.values[1, 1], rel=1e-3)
    assert scale.values[scale.present] == pytest.approx(found[Component.SCALE].state["thickness_mm"][0])
    assert Component.ANODE not in drawn and Component.SEDIMENT not in drawn


def test_a_rods_course_never_leaves_all_or_nothing():
    drawn, _, _ = courses(heater=OLD | {"installed_on": "2012-06-01"})
    assert ((drawn[Component.ANODE].values >= 0) & (drawn[Component.ANODE].values <= 1)).all()


def test_a_tank_that_was_only_listened_to_keeps_its_course():
    heard = {"on": "2024-06-01", "task": "look_over", "finding": {"noise": "popping"}}
    drawn, found, _ = courses(heater=OLD, events=[*EVENTS, heard])
    depth = drawn[Component.SEDIMENT]
    assert (np.diff(depth.years) >= 0).all()
    assert depth.values[depth.present] == pytest.approx(found[Component.SEDIMENT].state["depth_mm"][0], rel=1e-6)
    at = int(np.flatnonzero(np.isclose(depth.years, depth.years[3]))[0])
    assert depth.values[at] == pytest.approx(depth.values[at + 1])

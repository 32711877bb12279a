"""Whether measurements that test windows are fair to them: districts that are exactly as the core believes, read by a
ruler with lines or by spent acid, and dates that lie far off."""

from dataclasses import replace

import numpy as np
import pytest

from aquifer.core import assembly, ceiling
from aquifer.core.components import ScaleComponent, SedimentComponent, deposit
from aquifer.core.fleet import DescaleEvents
from aquifer.core.forecast import calibrate
from aquifer.core.kinds import HeaterKind
from aquifer.core.learning import GRID, Posterior
from aquifer.core.parameters import LEARNING, SCALE
from aquifer.core.vocabulary import Component, FlushMethod, code
from aquifer.core.water import WaterTest, profile
from tests.core.fleets import flushes, known, without_events

HEATERS, ZONES = 400, 40


def _district(kind: HeaterKind, hardness: tuple[float, float], seed: int):
    """Heaters on soft to hard waters that differ as the core says they do, and by how much each, natural log."""
    random = np.random.default_rng(seed)
    waters = [profile(WaterTest(mg_l, None, 0.75 * mg_l, 7.6)) for mg_l in np.geomspace(*hardness, ZONES).tolist()]
    zone = np.arange(HEATERS) % ZONES
    kinds = np.full(HEATERS, code(kind))
    heaters = assembly.complete(replace(known(HEATERS), kind=kinds, zone=zone, water=zone), waters)
    heaters = replace(heaters, age_years=np.full(HEATERS, 3.0))
    fleet = without_events(heaters)
    component = (SedimentComponent if heaters.is_tank.all() else ScaleComponent).of(fleet)
    own = random.normal(0, component.zone_spread[:ZONES])[zone] + random.normal(0, component.heater_spread)
    return fleet, own, random


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_ruler_whose_lines_hide_thin_beds_does_not_condemn_the_windows(seed):
    fleet, own, random = _district(HeaterKind.GAS_TANK, (90.0, 250.0), seed)
    years, method = np.full(HEATERS, 2.5), np.full(HEATERS, code(FlushMethod.DRAIN_AND_PULSE))
    rows, unseen = np.arange(HEATERS), np.full(HEATERS, -1)
    blank = replace(fleet, flushes=flushes(rows, years, method, unseen))
    component = SedimentComponent.of(blank)
    depth = ceiling.bounded(component.history.depth_before_m * np.exp(own), component.ceiling_m)
    read = np.round(1000 * depth * random.lognormal(0, 0.15, HEATERS)) / 1000
    # The case is one of those that are read as nothing often, and as something often.
    assert 0.25 < np.mean(read == 0) < 0.5
    taught = calibrate(replace(fleet, flushes=flushes(rows, years, method, unseen, read)))[Component.SEDIMENT]
    assert taught.checks > 40
    assert abs(taught.shift) < 0.07
    assert taught.misjudged < 1.2


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_acid_that_tells_no_little_from_nothing_does_not_condemn_the_windows(seed):
    fleet, own, random = _district(HeaterKind.GAS_TANKLESS, (60.0, 300.0), seed)
    years, rows, none = np.full(HEATERS, 2.5), np.arange(HEATERS), np.full(HEATERS, -1)
    unread = np.full(HEATERS, np.nan)
    blank = replace(fleet, descales=DescaleEvents(rows, years, none, none, unread, unread))
    component = ScaleComponent.of(blank)
    thick = ceiling.bounded(component.history.before_m * np.exp(own), component.ceiling_m)
    removed = SCALE.removed_share * SCALE.density_kg_m3 * component.heaters.exchanger_m2 * thick
    read = np.round(200 * removed * random.lognormal(0, SCALE.dissolved_spread, HEATERS)) / 200
    assert 0.1 < np.mean(read < SCALE.weighed_kg) < 0.6
    taught = calibrate(replace(blank, descales=DescaleEvents(rows, years, none, none, read, unread)))[Component.SCALE]
    assert taught.checks > 40
    assert abs(taught.shift) < 0.07
    assert taught.misjudged < 1.2


def test_no_window_is_tested_where_nothing_to_measure_was_foretold():
    fleet, own, _ = _district(HeaterKind.GAS_TANK, (60.0, 61.0), 1)
    years, method = np.full(HEATERS, 0.3), np.full(HEATERS, code(FlushMethod.DRAIN_AND_PULSE))
    read = np.where(own > 1.5, 0.001, 0.0)
    read = flushes(np.arange(HEATERS), years, method, np.full(HEATERS, -1), read)
    taught = calibrate(replace(fleet, flushes=read))[Component.SEDIMENT]
    assert (taught.checks, taught.shift, taught.misjudged, taught.checked) == (0, 0.0, 1.0, None)


def _dates(sd: float):
    """P10, P50 and P90 of when a bed passes its limit, years, by how well its pace is known."""
    fleet, _, _ = _district(HeaterKind.GAS_TANK, (250.0, 250.0), 1)
    one = SedimentComponent.of(fleet.at(np.array([0])))
    mass = np.exp(-0.5 * ((GRID + 1.2) / sd) ** 2)
    belief = Posterior((mass / mass.sum()).astype(np.float32)[None, :], np.zeros(1), 0.3)
    chances = np.array([0.9, 0.5, 0.1])
    return one.dates(belief, chances, np.array([0.5]), np.zeros((1, 0))).window[0]


def test_a_known_pace_is_less_sure_the_further_off_its_date(monkeypatch):
    """Against households that move while the bed grows: what the next one draws is another draw."""
    moving = _dates(0.15)
    monkeypatch.setattr(deposit, "LEARNING", replace(LEARNING, wander=0.0))
    settled = _dates(0.15)
    assert moving[0] < settled[0] and settled[2] < moving[2]
    assert moving[1] == pytest.approx(settled[1], rel=1e-3)
    assert (moving[2] - moving[0]) / (settled[2] - settled[0]) == pytest.approx(1.15, abs=0.12)


def test_what_nobody_knows_wanders_nowhere(monkeypatch):
    unknown = _dates(0.85)
    monkeypatch.setattr(deposit, "LEARNING", replace(LEARNING, wander=0.0))
    assert _dates(0.85) == pytest.approx(unknown, rel=1e-9)

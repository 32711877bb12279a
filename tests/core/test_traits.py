"""What hardness, use and setpoint do here, where that is not what the physics says."""

from dataclasses import replace

import numpy as np
import pytest

from aquifer.core import assembly, ceiling, learning
from aquifer.core.alternatives import Change, alternatives
from aquifer.core.components import TRAITS, ScaleComponent, SedimentComponent
from aquifer.core.fleet import DescaleEvents
from aquifer.core.forecast import Context, calibrate, forecast
from aquifer.core.kinds import HeaterKind
from aquifer.core.learning import ComponentCalibration
from aquifer.core.parameters import SCALE
from aquifer.core.vocabulary import Component, FlushMethod, code
from aquifer.core.water import WaterTest, profile
from tests.core.fleets import flushes, known, without_events

HEATERS, ZONES = 600, 60
OTHERWISE = np.array([-0.6, -0.35, 0.25])
"""By how much the truth's powers of hardness and use, and its slope of ten kelvin, differ from the physics'."""


def _fleet(kind: HeaterKind, seed: int, slopes: np.ndarray):
    """Heaters on hard and harder waters whose deposit goes by the physics times their traits, each measured once."""
    random = np.random.default_rng(seed)
    waters = [profile(WaterTest(mg_l, None, 0.75 * mg_l, 7.7)) for mg_l in np.geomspace(150, 420, ZONES).tolist()]
    zone = np.arange(HEATERS) % ZONES
    described = replace(
        known(HEATERS), kind=np.full(HEATERS, code(kind)), zone=zone, water=zone,
        litres_per_day=random.lognormal(np.log(165), 0.5, HEATERS),
        setpoint_c=random.choice([50.0, 60.0, 70.0], HEATERS),
    )  # fmt: skip
    heaters = replace(assembly.complete(described, waters), age_years=np.full(HEATERS, 3.0))
    fleet = without_events(heaters)
    component = (SedimentComponent if heaters.is_tank.all() else ScaleComponent).of(fleet)
    own = random.normal(0, 0.35, ZONES)[zone] + random.normal(0, 0.6, HEATERS) + component.traits @ slopes
    rows, years, none = np.arange(HEATERS), np.full(HEATERS, 2.9), np.full(HEATERS, -1)
    unread = np.full(HEATERS, np.nan)
    error = random.lognormal(0, 0.15, HEATERS)
    if isinstance(component, SedimentComponent):
        method = np.full(HEATERS, code(FlushMethod.DRAIN_AND_PULSE))
        of = SedimentComponent.of(replace(fleet, flushes=flushes(rows, years, method, none)))
        depth = error * ceiling.bounded(of.history.depth_before_m * np.exp(own), of.ceiling_m)
        return replace(fleet, flushes=flushes(rows, years, method, none, depth))
    of = ScaleComponent.of(replace(fleet, descales=DescaleEvents(rows, years, none, none, unread, unread)))
    thick = error * ceiling.bounded(of.history.before_m * np.exp(own), of.ceiling_m)
    mass = SCALE.removed_share * SCALE.density_kg_m3 * heaters.exchanger_m2 * thick
    return replace(fleet, descales=DescaleEvents(rows, years, none, none, mass, unread))


KINDS = [(HeaterKind.GAS_TANK, Component.SEDIMENT), (HeaterKind.GAS_TANKLESS, Component.SCALE)]


@pytest.mark.parametrize(("kind", "component"), KINDS)
@pytest.mark.parametrize("seed", [1, 2])
def test_a_district_whose_water_goes_by_other_powers_teaches_them(kind, component, seed):
    taught = calibrate(_fleet(kind, seed, OTHERWISE))[component]
    assert taught.slopes == pytest.approx(OTHERWISE, abs=0.25)
    assert np.sign(taught.slopes).tolist() == [-1, -1, 1]


@pytest.mark.parametrize(("kind", "component"), KINDS)
def test_where_the_physics_holds_hardly_anything_is_taught(kind, component):
    assert calibrate(_fleet(kind, 3, np.zeros(3)))[component].slopes == pytest.approx(np.zeros(3), abs=0.2)


def test_nothing_is_taught_where_nothing_was_found():
    fleet = without_events(_fleet(HeaterKind.GAS_TANK, 1, OTHERWISE).heaters)
    assert not calibrate(fleet)[Component.SEDIMENT].slopes.any()


def _told(slopes: list[float]) -> ComponentCalibration:
    return ComponentCalibration(slopes=np.array(slopes))


def test_a_pace_is_told_by_its_traits_and_its_reasons_still_multiply():
    fleet = _fleet(HeaterKind.GAS_TANK, 1, np.zeros(3)).at(np.arange(40))
    plain = SedimentComponent.of(fleet)
    taught = plain.informed(_told([-0.5, 0.2, 0.1]))
    by_hand = np.exp(
        -0.5 * np.log(fleet.heaters.hardness_mg_l / 250)
        + 0.2 * np.log(fleet.heaters.volume_m3 / 60)
        + 0.1 * (fleet.heaters.setpoint_c - 60) / 10
    )
    assert taught.unit_rate == pytest.approx(plain.unit_rate * by_hand)
    for component in (taught, ScaleComponent.of(_fleet(HeaterKind.GAS_TANKLESS, 1, np.zeros(3)))):
        told = component.informed(_told([-0.5, 0.2, 0.1]))
        before, after = component.informed(_told([])).log_factors(), told.log_factors()
        moved = {name for name in after if not np.allclose(after[name], before[name])}
        assert moved == set(TRAITS)
        everything = np.sum(list(after.values()), axis=0) - np.sum(list(before.values()), axis=0)
        assert np.exp(everything) == pytest.approx(told.unit_rate / told.plain_rate)


def test_a_trait_far_from_all_others_tells_no_more_than_one_less_far():
    fleet = _fleet(HeaterKind.GAS_TANK, 1, np.zeros(3)).at(np.array([0]))
    hotel = replace(fleet, heaters=replace(fleet.heaters, volume_m3=np.array([9000.0])))
    rate = SedimentComponent.of(hotel).informed(_told([0.0, -0.5, 0.0])).unit_rate
    assert rate == pytest.approx(SedimentComponent.of(hotel).plain_rate * np.exp(-0.5 * 1.5))


def test_what_a_softener_would_change_is_told_as_the_district_taught_it():
    fleet = _fleet(HeaterKind.GAS_TANK, 1, np.zeros(3)).at(np.array([59]))
    fleet = replace(without_events(fleet.heaters), heaters=replace(fleet.heaters, age_years=np.array([0.3])))
    one = assembly.KnownHeaters.blank(fleet.heaters.kind, fleet.heaters.age_years)
    one = replace(one, litres_per_day=np.array([165.0]), setpoint_c=np.array([60.0]), capacity_l=np.array([189.0]))
    water, rates = [profile(WaterTest(420.0, None, 315.0, 7.7))], {Component.SEDIMENT: (0.0, 0.3)}
    fleet = replace(fleet, heaters=replace(fleet.heaters, zone=np.array([0]), zones=1))

    def years(slopes: list[float]) -> float:
        calibration = {Component.SEDIMENT: _told(slopes)}
        (found,) = alternatives(one, water, fleet, rates, [Change(softened=True)], calibration)
        return next(each.years_between for each in found if each.component is Component.SEDIMENT)

    # Where soft water deposits more than the physics says, a softener spares less.
    assert years([-0.4, 0.0, 0.0]) < years([0.0, 0.0, 0.0])


def test_a_heater_of_an_untried_water_is_told_by_what_other_waters_taught(monkeypatch):
    fleet = _fleet(HeaterKind.GAS_TANK, 1, OTHERWISE)
    measured, flushed = fleet.flushes.row % ZONES >= 6, fleet.flushes
    some = replace(
        fleet,
        flushes=flushes(
            flushed.row[measured], flushed.years[measured], flushed.method[measured], flushed.removed[measured],
            flushed.depth_m[measured],
        ),
    )  # fmt: skip
    untried = np.flatnonzero(~measured)
    bed = SedimentComponent.of(fleet)
    depth = ceiling.driver(flushed.depth_m, bed.ceiling_m)
    rate = np.log(bed.plain_rate * depth / bed.history.depth_before_m)[untried]

    def loss() -> float:
        told = forecast(some, Context(calibration=calibrate(some))).of(Component.SEDIMENT)
        return float(np.mean(np.abs(np.log(told.rate[untried, 1]) - rate)))

    by_traits = loss()
    monkeypatch.setattr(learning, "slopes", lambda *_: np.zeros(0))
    assert by_traits < 0.95 * loss()

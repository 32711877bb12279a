"""Twenty years of an exchanger: held to Faraday's plain cousin, the mass that came with the water, and to what care
changes."""

from dataclasses import replace

import numpy as np
import pytest

from aquifer.core.assembly import KnownHeaters, complete
from aquifer.core.bench.exchanger_lives import live
from aquifer.core.bench.lives import MONTHS, YEARS, drawn
from aquifer.core.forecast import forecast
from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import SCALE
from aquifer.core.scale import growth_m_per_year
from aquifer.core.vocabulary import Component, code
from aquifer.core.water import WaterTest, profile
from tests.core.fleets import without_events


def known(age: float = 0.0, **columns):
    blank = KnownHeaters.blank(np.array([code(HeaterKind.GAS_TANKLESS)]), np.array([age]))
    given = {"people": 4.0, "setpoint_c": 50.0, **columns}
    return replace(blank, **{name: np.array([value]) for name, value in given.items()})


def water(hardness: float):
    return [profile(WaterTest(hardness, 0.75 * hardness, 0.7 * hardness, 7.6))]


def exchanger(hardness: float = 250.0, **columns):
    return complete(known(**columns), water(hardness))


def test_scale_is_what_the_water_brought_while_there_is_room():
    heater = exchanger(120.0)
    rate = float(
        growth_m_per_year(
            heater.volume_m3, heater.film_potential_mg_l, heater.exchanger_m2, np.array(SCALE.deposit_share)
        )[0]
    )
    thickness = live(heater, 0).thickness_m[0]
    year = thickness[MONTHS]
    assert year < 0.2 * SCALE.ceiling_m
    assert year == pytest.approx(rate, rel=0.05)
    assert (np.diff(thickness) >= 0).all() and thickness[-1] <= SCALE.ceiling_m


def test_a_descale_dissolves_its_share_and_flow_comes_back():
    kept, left = live(exchanger(), 12), live(exchanger(), 0)
    before, after = kept.thickness_m[0, MONTHS - 1], kept.thickness_m[0, MONTHS]
    grown = left.thickness_m[0, MONTHS]
    assert after == pytest.approx((1 - SCALE.removed_share) * grown, rel=0.05) and after < before
    assert kept.flow_l_min[0, MONTHS] > kept.flow_l_min[0, MONTHS - 1]
    assert kept.flow_l_min[0, -1] > left.flow_l_min[0, -1] and kept.energy_kwh[0, -1] < left.energy_kwh[0, -1]
    # New it gives what the plate says: 24 kW at its efficiency, by 35 K.
    assert left.flow_l_min[0, 0] == pytest.approx(24 * 0.8 * 60 / (35 * 4.186), rel=0.06)


def test_it_cuts_out_from_where_the_wall_bears_no_more():
    left = live(exchanger(350.0), 0)
    month = int(left.cuts_out_from()[0])
    assert left.thickness_m[0, month] >= SCALE.limit_m > left.thickness_m[0, month - 1]
    assert live(exchanger(60.0), 6).cuts_out_from().tolist() == [-1]


def test_lives_differ_by_their_luck_alone_and_harder_hotter_water_scales_sooner():
    one, same = live(exchanger(), 0, drawn(50, 3)), live(exchanger(), 0, drawn(50, 3))
    assert (one.thickness_m == same.thickness_m).all() and one.thickness_m[:, MONTHS].std() > 0
    assert one.thickness_m.shape == (50, YEARS * MONTHS + 1)
    plain = live(exchanger(), 0).thickness_m[0, 2 * MONTHS]
    assert live(exchanger(120.0), 0).thickness_m[0, 2 * MONTHS] < plain
    assert live(exchanger(setpoint_c=60.0), 0).thickness_m[0, 2 * MONTHS] > plain
    with pytest.raises(ValueError, match="one tankless heater"):
        live(complete(KnownHeaters.blank(np.array([code(HeaterKind.GAS_TANK)]), np.zeros(1)), water(100.0)), 0)


@pytest.mark.parametrize(("hardness", "age"), [(90.0, 8.0), (200.0, 3.0), (320.0, 5.0)])
def test_the_life_of_one_on_record_lies_in_its_forecasts_window(hardness, age):
    told = forecast(without_events(complete(known(age), water(hardness))))
    low, _, high = told.of(Component.SCALE).state["thickness_mm"][0]
    lived = live(exchanger(hardness), 0).thickness_m[0, round(age * MONTHS)]
    assert low < 1000 * lived < high


def test_by_risk_is_descaled_before_it_cuts_out():
    heater = complete(known(), water(180.0))
    lived = live(heater, 0, drawn(80, seed=2), by_limit=True)
    assert lived.descaled.any(axis=1).all() and lived.cuts_out.mean() < 0.02
    first = np.argmax(lived.descaled, axis=1)
    limit = 0.8 * SCALE.limit_m
    for life, month in enumerate(first):
        assert lived.thickness_m[life, month - 1] < limit * 1.05
        assert lived.thickness_m[life, month] < lived.thickness_m[life, month - 1]
    calendar = live(heater, 12, drawn(80, seed=2)).descaled
    assert (np.flatnonzero(calendar[0]) == np.arange(12, 241, 12)).all()
    assert not live(heater, 0, drawn(4, seed=2)).descaled.any()

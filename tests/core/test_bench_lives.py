"""Twenty years of a tank: conserved, held to small steps and textbook laws by hand, and to what care changes."""

from dataclasses import replace

import numpy as np
import pytest

from aquifer.core.assembly import KnownHeaters, complete
from aquifer.core.bench.lives import CARES, MONTHS, ORDINARY, YEARS, Care, CareName, drawn, live
from aquifer.core.bench.spending import Amounts, spent
from aquifer.core.forecast import forecast
from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import USAGE
from aquifer.core.vocabulary import Alloy, Component, FlushMethod, code
from aquifer.core.water import WaterTest, profile
from tests.core.fleets import without_events


def tank(kind: HeaterKind = HeaterKind.GAS_TANK, hardness: float = 320.0, **known):
    columns = KnownHeaters.blank(np.array([code(kind)]), np.zeros(1))
    given = {"capacity_l": 190.0, "people": 4.0, "setpoint_c": 60.0, "alloy": code(Alloy.MAGNESIUM), **known}
    columns = replace(columns, **{name: np.array([value]) for name, value in given.items()})
    return complete(columns, [profile(WaterTest(hardness, 0.75 * hardness, 0.7 * hardness, 7.6))])


def test_what_came_in_lies_there_or_was_flushed_out():
    lives = drawn(50, seed=3)
    for care in CARES.values():
        lived = live(tank(), care, lives)
        assert lived.left_kg + lived.removed_kg == pytest.approx(lived.deposited_kg, rel=1e-3)
    assert live(tank(), Care()).removed_kg.tolist() == [0.0]


def test_the_bed_of_a_tank_that_nobody_flushes_is_that_of_small_steps():
    """Euler's steps of an hour, with the figures of the docs written out: 650 and 1,400 kg/m3, baked in 1.5 years."""
    heater = tank(hardness=180.0)
    lived = live(heater, Care())
    rate, loose, hard, dt = float(lived.deposited_kg[0]) / YEARS, 0.0, 0.0, 1 / 8766
    at = []
    for step in range(8766 * 8):
        baked = loose / 1.5 * dt
        loose, hard = loose + rate * dt - baked, hard + baked
        if (step + 1) % 8766 == 0:
            at.append((loose / 650 + hard / 1400) / float(heater.floor_m2[0]))
    by_year = lived.depth_m[0, MONTHS * np.arange(1, 9)]
    # Far below the ceiling the curve that bends to it is hardly felt.
    shallow = by_year < 0.1
    assert shallow.sum() >= 3
    assert by_year[shallow] == pytest.approx(np.array(at)[shallow], rel=0.02)


def test_a_rod_loses_what_faraday_says():
    heater = tank()
    lived = live(heater, Care())
    lost_kg = (
        float(1 - lived.rod_left[0, MONTHS])
        * 1770
        * np.pi
        / 4
        * (0.0204**2 - 0.0033**2)
        * float(heater.rod_length_m[0])
    )
    # Half of magnesium's charge protects: the current of the first year is what that metal gives in one.
    ampere = lost_kg * 2 * 96485.0 / 0.024305 * 0.5 / (365.25 * 86400)
    assert 0.001 < ampere < 0.05
    area = float(heater.wetted_m2[0]) * 0.045
    # Less than bare steel could take up, more than a tenth of it.
    assert 0.1 * 0.3 * area < ampere < 0.3 * area
    assert (np.diff(lived.rod_left[0]) <= 0).all()


def test_care_is_worth_what_practice_says():
    yearly, never = (live(tank(), CARES[name]) for name in (CareName.YEARLY, CareName.NEVER))
    late = 11 * MONTHS
    assert yearly.depth_m[0, late] < 0.35 * never.depth_m[0, late]
    assert never.rod_left[0, late] == 0 and yearly.rod_left[0, late] > 0.2
    assert yearly.hot_l[0, late] > never.hot_l[0, late]
    assert yearly.energy_kwh[0, late] < never.energy_kwh[0, late]
    assert yearly.leak_within_year[0, late] < never.leak_within_year[0, late]
    assert yearly.leaked[0] < 0 or yearly.leaked[0] > never.leaked[0] > 0
    assert len(yearly.rods[0]) >= 3 and never.rods[0] == ()
    assert never.valve_stuck[0, late] > yearly.valve_stuck[0, late]
    assert yearly.valve_stuck[0, late] == 0.0
    jetted = live(tank(), Care(54, FlushMethod.JETTING))
    assert jetted.depth_m[0, 54] < 0.5 * jetted.depth_m[0, 53]


def test_softer_and_cooler_water_deposit_less_and_elements_are_buried():
    plain, soft = live(tank(), Care()), live(tank(softened=True), Care())
    cool = live(tank(setpoint_c=50.0), Care())
    assert soft.deposited_kg[0] < 0.35 * plain.deposited_kg[0]
    assert cool.deposited_kg[0] < plain.deposited_kg[0]
    electric = live(tank(HeaterKind.ELECTRIC_TANK, alloy=code(Alloy.MAGNESIUM)), Care())
    assert (electric.loud == 0).all()
    new, limit = electric.hot_l[0, 0], 0.040
    first, whole = (int(np.argmax(electric.depth_m[0] >= times * limit)) for times in (1, 2))
    assert 0 < first < whole
    # Until the element is reached only the bed's own room is lost; then half of all goes, and not at once.
    assert electric.hot_l[0, first - 1] > 0.9 * new
    assert electric.hot_l[0, whole] < 0.5 * new < electric.hot_l[0, (first + whole) // 2]
    with pytest.raises(ValueError, match="one tank"):
        live(tank(HeaterKind.GAS_TANKLESS, alloy=code(Alloy.NONE)), Care())


def test_lives_differ_by_their_luck_alone_and_half_of_them_outlive_the_ordinary_one():
    lives = drawn(200, seed=8)
    one, same = live(tank(), Care(), lives), live(tank(), Care(), lives)
    assert one.leaked.tolist() == same.leaked.tolist()
    plain = replace(lives, deposit=np.ones(200), rod=np.ones(200), flush_log_odds=np.zeros((200, 40)))
    ordinary = live(tank(), Care(), ORDINARY)
    ends = live(tank(), Care(), plain).leaked
    share = np.mean((ends > 0) & (ends < ordinary.leaked[0]))
    assert ordinary.leaked[0] > 0 and 0.4 < share < 0.6
    held = one.until_leak()
    assert held[:, 0].all() and (held.sum(axis=1) == np.where(one.leaked < 0, 241, one.leaked)).all()
    some = replace(one, leaked=np.array([0, 3, -1]), depth_m=np.zeros((3, 6))).until_leak()
    assert some.tolist() == [[False] * 6, [True, True, True, False, False, False], [True] * 6]
    # Tanks of all lucks: the month's hazard is the share that leaks of those that stand.
    few = live(tank(), Care(), replace(plain, life=np.random.default_rng(1).exponential(1.0, 200)))
    within = few.leak_within_year[0, 10 * MONTHS]
    standing = (few.leaked < 0) | (few.leaked > 10 * MONTHS)
    gone = standing & (few.leaked > 0) & (few.leaked <= 11 * MONTHS)
    assert gone.sum() / standing.sum() == pytest.approx(within, abs=0.1)


@pytest.mark.parametrize("kind", [HeaterKind.GAS_TANK, HeaterKind.ELECTRIC_TANK])
@pytest.mark.parametrize(("hardness", "age"), [(90.0, 6.0), (180.0, 3.0), (320.0, 9.0)])
def test_the_life_of_a_heater_on_record_lies_in_its_forecasts_window(kind, hardness, age):
    """What both show of a tank that nobody has looked into: its bed today, and the rod that it came with."""
    new = tank(kind, hardness)
    known = KnownHeaters.blank(np.array([code(kind)]), np.array([age]))
    given = {"capacity_l": 190.0, "people": 4.0, "setpoint_c": 60.0, "alloy": code(Alloy.MAGNESIUM)}
    known = replace(known, **{name: np.array([value]) for name, value in given.items()})
    water = [profile(WaterTest(hardness, 0.75 * hardness, 0.7 * hardness, 7.6))]
    told = forecast(without_events(complete(known, water)))
    lived = live(new, Care())
    month = round(age * MONTHS)
    low, _, high = told.of(Component.SEDIMENT).state["depth_mm"][0]
    assert low < 1000 * lived.depth_m[0, month] < high
    low, _, high = told.of(Component.ANODE).state["fraction_left"][0]
    assert min(low, high) <= lived.rod_left[0, month] <= max(low, high)


def test_a_bed_over_the_drain_buries_it_until_a_flush_opens_it():
    never = live(tank(), Care())
    month = int(never.blocked_from()[0])
    assert never.depth_m[0, month] >= 0.05 > never.depth_m[0, month - 1]
    kept = live(tank(hardness=90.0), CARES[CareName.HALF_YEARLY])
    assert kept.blocked_from().tolist() == [-1] and kept.depth_m.max() < 0.05
    # Who jets in the fifth year opens it for a while; from when it stays buried is what counts.
    jetted = live(tank(), CARES[CareName.LONG_SERVICE])
    buried = jetted.depth_m[0] >= 0.05
    last = int(jetted.blocked_from()[0])
    assert last == -1 or (buried[last:].all() and not buried[last - 1])


def test_a_draw_is_heated_again_as_fast_as_the_plate_says():
    """Seven tenths of 190 L by 48 K with 11 kW at its efficiency; a bed over the flame takes up to a tenth longer."""
    heater = tank()
    minutes = live(heater, Care()).recover_min[0]
    kj = 0.7 * 190 * 4.186 * (60 - float(heater.source_c[0]))
    assert minutes[0] == pytest.approx(kj / (11.0 * USAGE.recovery_efficiency) / 60, rel=0.01)
    assert 1.05 < minutes[-1] / minutes[0] < 1.12
    electric = live(tank(HeaterKind.ELECTRIC_TANK), Care()).recover_min[0]
    assert electric == pytest.approx(np.full(electric.size, electric[0])) and electric[0] > 1.5 * minutes[0]


def test_by_risk_comes_at_the_limit_and_no_sooner_than_a_season():
    heater, luck = tank(hardness=420.0), drawn(60, seed=5)
    lived = live(heater, CARES[CareName.BY_RISK], luck)
    limit = float(heater.sediment_limit_m[0])
    for life in range(60):
        months = np.flatnonzero(lived.flushed[life])
        assert months.size >= 1
        # The month before each was at the limit, and nothing at the limit is left for longer than half a year.
        assert np.all(lived.depth_m[life, months - 1] >= limit)
        assert months.size == 1 or np.diff(months).min() >= 7
    soft = live(tank(hardness=15.0), CARES[CareName.BY_RISK], luck)
    assert soft.flushed.sum() < 0.2 * lived.flushed.sum()
    # Its rod is never bare for more than a month: it is renewed in the month before.
    assert (lived.rod_left[:, 1:] > 0).all()
    yearly = live(heater, CARES[CareName.YEARLY], luck).flushed
    assert (np.flatnonzero(yearly[0]) == np.arange(12, 241, 12)).all()


AMOUNTS = Amounts(call_out=40, flush=60, rod_look=20, rod=100, valve=10, heater=1500, damage=2500)


def lived_by_hand(**told):
    flushed = np.zeros((1, 241), dtype=bool)
    flushed[0, told.get("flushed", [])] = True
    rods, leaked = (tuple(told.get("rods", ())),), np.array([told.get("leaked", -1)])
    return replace(live(tank(), Care()), flushed=flushed, rods=rods, leaked=leaked)


def test_what_falls_into_one_month_is_one_visit():
    care = Care(12, FlushMethod.DRAIN_AND_PULSE, 24, 12)
    got = spent(lived_by_hand(flushed=[12, 24], rods=[24]), care, AMOUNTS)
    visits = got.visits[0]
    # Month 12: there, flush, valve. Month 24: with a look at the rod. Month 36: valve alone, nobody flushed.
    assert visits[11] == 0 and visits[12] == 40 + 60 + 10
    assert visits[24] - visits[23] == 40 + 60 + 20 + 10
    assert visits[36] - visits[35] == 40 + 10
    assert got.rods[0, 23] == 0 and got.rods[0, 240] == 100
    assert got.came.tolist() == [20.0]
    assert got.leaks.max() == 0


def test_a_rod_that_is_renewed_between_the_looks_is_a_visit_too_and_a_leak_costs_once():
    got = spent(lived_by_hand(rods=[31], leaked=100), Care(0, valve_months=36, by_limit=True), AMOUNTS)
    assert got.visits[0, 30] == 0 and got.visits[0, 31] == 40 + 20
    assert got.visits[0, 36] == 60 + 50
    assert got.leaks[0, 99] == 0 and got.leaks[0, 100] == 4000 == got.leaks[0, -1]
    assert got.came.tolist() == [1 + 6]


def test_nobody_who_comes_costs_nothing():
    assert (
        spent(live(tank(), CARES[CareName.NEVER], drawn(40, seed=1)), CARES[CareName.NEVER], AMOUNTS).visits.max() == 0
    )

"""Each law of the heater to practise on, alone, by figures of the trade and of textbooks written out here."""

import math
from dataclasses import replace

import pytest

from aquifer.core.bench.build import Build
from aquifer.core.bench.hand import Act, turn
from aquifer.core.bench.heater import Heater, at_rest
from aquifer.core.bench.layers import celsius_at, rise, specific_l_kg, taken_kj, warmed

HEAT = 4.186
ROOM = 101.325
JET = 0.6 * math.pi / 4 * 0.012**2 * 1000 * math.sqrt(2)
"""Litres a second by the root of a kPa out of a drain of 12 mm: Bernoulli, of which a sharp edge lets out 0.6."""
HEAD = 9.80665 * 1.2


def quiet(**build: object) -> Heater:
    """At rest with the heat off."""
    heater = at_rest(Build(**{"loss_kw_k": 0.0, **build}))
    if heater.build.fuel == "gas":
        heater.dial = "off"
    else:
        heater.breaker = False
    return heater


def run(heater: Heater, seconds: int) -> Heater:
    for _ in range(seconds):
        heater.second()
    return heater


def even(heater: Heater, celsius: float, litres: float | None = None) -> Heater:
    """All of its water as warm."""
    room = heater.build.litres if litres is None else litres
    heater.layers = [[room / specific_l_kg(celsius), celsius]]
    heater.steel_c = celsius
    return heater


# Water.


def test_a_faucet_gives_what_the_house_s_pressure_leaves_at_it():
    heater = quiet()
    heater.tap = True
    run(heater, 20)
    # As much comes in by the branch as goes out two metres up: 0.6 L/s at 400 kPa, 0.13 at 300.
    kpa = (400 * (0.030 / 0.0075) ** 2 + 9.80665 * 2) / ((0.030 / 0.0075) ** 2 + 1)
    litres = 0.0075 * math.sqrt(kpa - 9.80665 * 2)
    assert heater.kpa == pytest.approx(kpa, rel=0.005)
    assert heater.tap_flow * specific_l_kg(60) == pytest.approx(litres, rel=0.005)
    assert heater.inflow * specific_l_kg(12) == pytest.approx(litres, rel=0.005)
    assert heater.tap_c == pytest.approx(60, abs=0.3)


def test_a_relief_valve_held_open_gives_more_than_the_branch_brings_at_pressure():
    heater = quiet(outlet="open")
    heater.lever = True
    run(heater, 10)
    # 1 L/s at 400: 0.050 by the root of a kPa, against 0.030 of the branch.
    kpa = 400 * 9 / (9 + 25)
    assert heater.kpa == pytest.approx(kpa, rel=0.01)
    assert heater.relief_flow * specific_l_kg(60) == pytest.approx(0.050 * math.sqrt(kpa), rel=0.01)
    assert heater.relief_c == pytest.approx(60, abs=0.3)
    for stops in ({"relief_stuck": True}, {"outlet": "capped"}):
        held = quiet(**stops)
        held.lever = True
        assert run(held, 10).relief_flow == 0 and held.kpa == pytest.approx(400, abs=1)


def test_a_relief_valve_that_weeps_lets_a_hundredth_by():
    heater = quiet(outlet="open", relief_weeps=True)
    turn(heater, Act(0, "lever", "down"))
    run(heater, 10)
    assert heater.relief_flow * specific_l_kg(60) == pytest.approx(0.01 * 0.050 * 20, rel=0.02)


def test_a_valve_that_does_not_hold_lets_three_of_a_hundred_by_and_the_main_none():
    heater = quiet(cold_passes=True)
    heater.cold, heater.tap = 0.0, True
    run(heater, 60)
    weak = (0.03 * 0.030) ** 2
    kpa = (400 * weak + 9.80665 * 2 * 0.0075**2) / (weak + 0.0075**2)
    assert heater.inflow == pytest.approx(0.03 * 0.030 * math.sqrt(400 - kpa), rel=0.02)
    heater.main = 0.0
    assert run(heater, 5).inflow == 0
    assert heater.supplied == 0
    half = quiet()
    half.cold, half.main = 0.5, 0.5
    assert half.supplied == 0.25


@pytest.mark.parametrize(
    ("hose", "drain", "build", "share"),
    [
        (False, 1.0, {}, 1.0), (True, 1.0, {}, 0.45), (True, 0.2, {}, 0.09),
        # A flake across it, and a baked bed of 10 L, 63 mm over the floor.
        (False, 1.0, {"drain_blocked": True}, 0.02), (False, 1.0, {"hard_l": 10.0}, 0.003),
        (False, 0.0, {"drain_drips": True}, 0.01),
    ],
)  # fmt: skip
def test_a_drain_runs_by_the_house_s_pressure_and_the_water_over_it(hose, drain, build, share):
    heater = quiet(**build)
    turn(heater, Act(0, "drain", "shut"))
    heater.hose, heater.drain = hose, drain
    # What the pressure had pressed into its expansion tank runs out first.
    run(heater, 20)
    opening = share * JET
    kpa = (400 * 0.030**2 - HEAD * opening**2) / (0.030**2 + opening**2)
    assert heater.kpa == pytest.approx(kpa, rel=0.01)
    assert heater.outflow * specific_l_kg(60) == pytest.approx(opening * math.sqrt(kpa + HEAD), rel=0.01)
    assert heater.at_hand == heater.outflow


@pytest.mark.parametrize("closed", ["cap", "gauge"])
def test_what_is_screwed_on_a_drain_closes_it(closed):
    heater = quiet()
    heater.drain = 1.0
    setattr(heater, closed, True)
    assert run(heater, 3).outflow == 0 and heater.kpa == pytest.approx(400, abs=0.5)


def test_without_air_a_drain_gurgles_by_its_head_alone():
    heater = quiet()
    heater.cold, heater.drain = 0.0, 1.0
    run(heater, 30)
    kg, air = heater.kg, heater.air
    run(heater, 10)
    litres = (kg - heater.kg) * specific_l_kg(60)
    assert litres == pytest.approx(10 * 0.03 * JET * math.sqrt(HEAD), rel=0.03)
    # As much air comes in as water goes, as the room's air.
    assert heater.air - air == pytest.approx(litres * ROOM, rel=0.01)


def test_a_port_open_at_the_top_spills_what_comes():
    heater = quiet()
    heater.relief_out = True
    run(heater, 10)
    kpa = 400 * 0.030**2 / (0.030**2 + 0.15**2)
    assert heater.top_flow * specific_l_kg(60) == pytest.approx(0.15 * math.sqrt(kpa), rel=0.02)
    assert heater.floor_l == pytest.approx(10 * heater.top_flow, rel=0.05)


def test_water_goes_back_into_a_weak_main_unless_a_valve_stops_it():
    heaters = [quiet(check_valve=check, expansion_l=0.0) for check in (False, True)]
    for heater in heaters:
        # Somebody opens a hydrant in the street.
        heater.build = replace(heater.build, supply_kpa=200.0)
        run(heater, 30)
    free, held = heaters
    assert free.kpa == pytest.approx(200, abs=0.5) and free.in_kg < 0
    assert held.kpa == pytest.approx(400, abs=2) and held.in_kg == 0
    assert free.in_kj == pytest.approx(free.in_kg * HEAT * 60, rel=0.03)


def test_air_that_is_shut_in_is_pressed_together_as_boyle_says():
    heater = quiet(expansion_l=0.0)
    heater.cold, heater.tap, heater.drain = 0.0, True, 1.0
    run(heater, 120)
    heater.drain, heater.tap = 0.0, False
    run(heater, 1)
    litres = (1 - heater.share) * 190
    assert litres > 20 and heater.kpa == pytest.approx(0, abs=0.01)
    heater.cold = 1.0
    run(heater, 400)
    assert heater.kpa == pytest.approx(400, abs=1)
    assert (1 - heater.share) * 190 == pytest.approx(litres * ROOM / (400 + ROOM), rel=0.02)
    # Opened, the faucet spits what is left of it, and then runs.
    heater.tap, spat = True, 0
    for _ in range(200):
        heater.second()
        spat += heater.spits
    assert spat > 0 and not heater.spits and heater.air == 0 and heater.tap_flow > 0.1


def test_an_expansion_tank_gives_way_above_its_charge_alone():
    heater = quiet(expansion_l=8.0, precharge_kpa=400.0, check_valve=True)
    for kpa, litres in ((300, 0.0), (400, 0.0), (900, 8 * (1 - (400 + ROOM) / (900 + ROOM)))):
        assert heater._in_expansion(kpa) == pytest.approx(litres), kpa
    none = quiet(expansion_l=0.0)
    assert none._in_expansion(900) == 0


def test_a_relief_valve_opens_hot_and_stays_open_until_it_has_cooled():
    for celsius, was_open, is_open in (
        (98.0, False, False), (100.0, False, True), (95.0, True, True), (93.0, True, False), (93.0, False, False),
    ):  # fmt: skip
        heater = even(quiet(), celsius)
        heater.relief_open = was_open
        heater.second()
        assert heater.relief_open is is_open, (celsius, was_open)
    for unfit in ({"relief_stuck": True}, {"probe_short": True}):
        held = even(quiet(**unfit), 100.0)
        assert not run(held, 3).relief_open
    out = even(quiet(), 100.0)
    out.relief_out = True
    assert not run(out, 3).relief_open


def test_a_relief_valve_opens_at_150_psi_and_closes_a_tenth_below():
    heater = even(quiet(expansion_l=0.5, check_valve=True), 20.0)
    heater.cold = 0.0
    seen = []
    for _ in range(4000):
        for layer in heater.layers:
            layer[1] += 0.01
        before = heater.kpa
        heater.second()
        seen.append((before, heater.kpa, heater.relief_open))
    first = next(kpa for _, kpa, is_open in seen if is_open)
    assert 1034 < first < 1034 + 40
    assert max(kpa for _, kpa, is_open in seen if not is_open) <= 1034
    assert min(kpa for _, kpa, is_open in seen if is_open) > 930


def test_cold_that_comes_mixes_with_what_lies_on_the_floor():
    heater = even(quiet(), 60.0)
    heater.tap = True
    heater.second()
    come = heater.inflow
    zone = 0.08 * 190
    assert come > 0.1
    assert heater.layers[0][0] == pytest.approx(zone + come, rel=1e-6)
    assert heater.layers[0][1] == pytest.approx((zone * 60 + come * 12) / (zone + come), abs=0.01)
    assert heater.layers[1][1] == pytest.approx(60) and len(heater.layers) == 2


def test_what_is_broken_leaks_from_where_it_is():
    twisted, flawed = (even(quiet(), 60.0) for _ in range(2))
    twisted.twisted, flawed.flaw_open = True, True
    for heater, kpa in ((twisted, 400), (flawed, 400 + HEAD)):
        heater.layers = [[90.0, 20.0], [(190 - 90 * specific_l_kg(20)) / specific_l_kg(60), 60.0]]
        out = heater.out_kj
        heater.second()
        kg = 0.0004 * math.sqrt(kpa)
        assert heater.floor_l == pytest.approx(kg, rel=0.01)
        # A joint weeps from the top, a flaw from the floor.
        assert heater.out_kj - out == pytest.approx(kg * HEAT * (60 if heater is twisted else 20), rel=0.02)


def test_water_spilt_at_the_floor_is_gone():
    heater = quiet()
    kg = heater.kg
    assert heater.spill(6.0) == pytest.approx(6.0)
    assert kg - heater.kg == pytest.approx(6.0 / specific_l_kg(60), rel=1e-3)
    assert heater.out_kg == pytest.approx(kg - heater.kg)
    assert heater.out_kj == pytest.approx(heater.out_kg * 60 * HEAT, rel=0.01)
    assert heater.spill(500.0) == pytest.approx(184.0, abs=4) and heater.kg == pytest.approx(0)


# Heat.


@pytest.mark.parametrize(
    ("celsius", "called", "calls"),
    [(53.9, False, True), (54.1, False, False), (54.1, True, True), (59.9, True, True), (60.1, True, False)],
)
@pytest.mark.parametrize("fuel", ["gas", "electric", "boiler"])
def test_a_control_calls_six_degrees_below_its_setting_and_stops_above_it(fuel, celsius, called, calls):
    heater = even(at_rest(Build(fuel=fuel, loss_kw_k=0.0)), celsius)
    heater.set_c, heater.calls, heater.upper_calls = 60.0, called, called
    heater.second()
    assert heater.calls is calls and heater.burns is calls
    if fuel == "electric":
        assert heater.upper_calls is calls


@pytest.mark.parametrize(
    ("turned", "kw"),
    [
        ({}, 11 * 0.78 + 0.1), ({"dial": "pilot"}, 0.1), ({"dial": "off"}, 0.0), ({"gas_cock": False}, 0.0),
        ({"pilot": False}, 0.0),
    ],
)  # fmt: skip
def test_a_burner_gives_what_its_dial_lets_it(turned, kw):
    heater = even(at_rest(Build(loss_kw_k=0.0)), 20.0)
    heater.set_c, heater.heated_kj = 60.0, 0.0
    for name, value in turned.items():
        setattr(heater, name, value)
    run(heater, 10)
    assert heater.heated_kj == pytest.approx(10 * kw)
    assert heater.can_heat is (turned == {})


def test_a_floor_without_water_is_heated_as_first_order_heating_says():
    heater = at_rest(Build(loss_kw_k=0.0))
    heater.cold, heater.layers, heater.steel_c, heater.lost_kj, heater.heated_kj = 0.0, [], 18.0, 0.0, 0.0
    heater.set_c, heater.tap = 60.0, True
    run(heater, 300)
    # 15 kg of steel hold 7.4 kJ/K and give 12 W/K to air.
    rest = 18 + (11 * 0.78 + 0.1) / 0.012
    assert heater.steel_c == pytest.approx(rest + (18 - rest) * math.exp(-300 * 0.012 / 7.4), rel=1e-6)
    assert heater.heated_kj - heater.lost_kj == pytest.approx(7.4 * (heater.steel_c - 18))


def test_a_floor_under_water_is_hardly_warmer_than_it():
    heater = even(at_rest(Build(loss_kw_k=0.0)), 20.0)
    heater.set_c = 60.0
    run(heater, 120)
    assert heater.steel_c - heater.floor_c == pytest.approx((11 * 0.78 + 0.1) / 1.5, rel=0.1)


def test_a_tank_loses_by_its_water_alone():
    whole, half = even(quiet(loss_kw_k=0.0025), 60.0), even(quiet(loss_kw_k=0.0025), 60.0, litres=38.0)
    for heater, share in ((whole, 1.0), (half, 38.0 / specific_l_kg(60) / (0.3 * 190))):
        heater.lost_kj = 0.0
        heater.steel_c = 60.0
        heater.cold, heater.tap = 0.0, True
        heater._heat()
        assert heater.lost_kj == pytest.approx(0.0025 * (60 - 18) * share, rel=0.01)


@pytest.mark.parametrize(("share", "lower", "upper"), [(0.13, True, True), (0.15, False, True), (0.73, False, False)])
def test_an_element_that_stands_out_of_the_water_burns_out_in_seconds(share, lower, upper):
    heater = even(at_rest(Build(fuel="electric", loss_kw_k=0.0)), 20.0, litres=190 * share)
    heater.cold, heater.tap, heater.set_c = 0.0, True, 60.0
    run(heater, 12)
    assert not heater.upper_burnt and not heater.lower_burnt
    run(heater, 1)
    assert (heater.upper_burnt, heater.lower_burnt) == (upper, False)
    run(heater, 12)
    assert heater.lower_burnt is False or lower
    run(heater, 1)
    assert heater.lower_burnt is lower


@pytest.mark.parametrize(("share", "warms"), [(0.19, False), (0.21, True)])
def test_a_coil_that_stands_out_of_the_water_warms_nothing(share, warms):
    heater = even(at_rest(Build(fuel="boiler", loss_kw_k=0.0)), 20.0, litres=190 * share)
    heater.cold, heater.tap, heater.set_c, heater.heated_kj = 0.0, True, 60.0, 0.0
    heater.second()
    # 0.35 kW for each degree under the boiler's 75.
    assert heater.heated_kj == pytest.approx(0.35 * 55 if warms else 0.0)


def test_how_long_a_pilot_is_out_is_counted_from_when_it_went_out():
    heater = at_rest(Build())
    assert run(heater, 5).dark_s == 0
    for name, value in (("dial", "off"), ("pilot", False), ("gas_cock", False)):
        out = at_rest(Build())
        setattr(out, name, value)
        assert run(out, 7).dark_s == 7


# Deposit and buckets.


def test_what_a_drain_takes_along_is_the_jet_s_work_and_then_the_flow_s():
    heater = quiet(loose_l=1.5, hard_l=0.3)
    heater.hose, heater.drain = True, 1.0
    run(heater, 300)
    loose, hard = 1.5 * 0.65, 0.3 * 1.40
    # The flow is full; a fresh jet moves 2 % a second and is spent after 20.
    for second in range(300):
        fresh = math.exp(-second / 20)
        loose *= 1 - (0.0012 + 0.020 * fresh)
        hard *= 1 - 0.0004 * fresh
    assert heater.loose_kg == pytest.approx(loose, rel=0.01)
    assert heater.hard_kg == pytest.approx(hard, rel=0.001)
    assert heater.removed_kg == pytest.approx(1.5 * 0.65 + 0.3 * 1.4 - loose - hard, rel=0.02)
    assert heater.bed_l == pytest.approx(heater.loose_kg / 0.65 + heater.hard_kg / 1.4)


def test_the_last_water_takes_along_four_times_as_much():
    takes = {}
    for litres in (190.0, 19.0):
        heater = even(quiet(), 60.0, litres)
        heater.cold, heater.tap, heater.drain, heater.stirred = 0.0, True, 1.0, 0.0
        heater.second()
        flow = min(heater.outflow / 0.3, 1.0)
        takes[litres] = heater.removed_kg / (1.5 * 0.65) / flow
    assert takes[190.0] == pytest.approx(0.0012, rel=0.01)
    assert takes[19.0] == pytest.approx(0.0012 * (1 + 3 * 0.9), rel=0.01)


def test_murk_is_what_came_out_by_the_water_that_carried_it():
    heater = quiet()
    heater.hose, heater.drain = True, 1.0
    run(heater, 2)
    before = heater.removed_kg
    heater.second()
    assert heater.murk_g_l == pytest.approx(1000 * (heater.removed_kg - before) / heater.outflow)
    assert heater.murk_g_l > 10
    heater.drain = 0.0
    assert run(heater, 1).murk_g_l == 0


def test_a_flaw_opens_once_a_fifth_of_what_sealed_it_has_gone():
    for share, opens in ((0.19, False), (0.21, True)):
        heater = quiet(flaw_sealed=True)
        whole = heater.loose_kg + heater.hard_kg
        heater.removed_kg = share * whole
        heater.loose_kg = whole - heater.removed_kg
        heater.hard_kg = 0.0
        assert run(heater, 1).flaw_open is opens
    sound = quiet()
    sound.removed_kg = 5.0
    assert not run(sound, 1).flaw_open


@pytest.mark.parametrize(("hard_l", "buried"), [(7.8, False), (8.1, True)])
def test_a_baked_bed_over_the_drain_s_edge_buries_it(hard_l, buried):
    # 50 mm over a floor of 190 L in 1.2 m.
    assert at_rest(Build(hard_l=hard_l)).is_buried is buried


def test_a_bucket_takes_fifteen_litres_and_what_is_in_them():
    heater = quiet()
    heater.hose, heater.hose_in, heater.drain = True, "bucket", 1.0
    run(heater, 10)
    assert heater.bucket_l == pytest.approx(10 * 0.5, rel=0.05) and heater.floor_l == 0
    assert heater.bucket_g == pytest.approx(1000 * heater.removed_kg)
    ran = heater.out_kg
    run(heater, 50)
    assert heater.bucket_l == 15.0
    assert heater.floor_l == pytest.approx(heater.out_kg - 15.0, abs=0.2) and heater.out_kg > ran
    bare = quiet()
    bare.drain = 1.0
    assert run(bare, 5).floor_l == pytest.approx(bare.out_kg, rel=1e-6) and bare.bucket_l == 0
    led = quiet()
    led.hose, led.drain = True, 1.0
    assert run(led, 5).floor_l == 0 == led.bucket_l


def test_the_relief_pipe_runs_on_the_floor_but_for_what_a_bucket_takes():
    for outlet, bucket, caught in (("open", True, True), ("open", False, False), ("floor drain", True, False)):
        heater = quiet(outlet=outlet)
        heater.lever, heater.relief_bucket = True, bucket
        run(heater, 10)
        thrown = heater.out_kg
        assert heater.relief_bucket_l == pytest.approx(thrown if caught else 0.0)
        assert heater.floor_l == pytest.approx(0.0 if caught or outlet != "open" else thrown)
        if caught:
            run(heater, 40)
            assert heater.relief_bucket_l == 15.0 and heater.floor_l == pytest.approx(heater.out_kg - 15.0)


# Layers.


def test_layers_are_counted_from_the_floor():
    layers = [[50.0, 20.0], [50.0, 60.0]]
    low = 50 * specific_l_kg(20)
    assert [celsius_at(layers, litres) for litres in (0.0, low - 0.01, low + 0.01, 150.0)] == [20, 20, 60, None]
    warmed(layers, low + 1, 50 * HEAT)
    warmed(layers, low - 1, 100 * HEAT)
    warmed(layers, 500.0, 1e6)
    assert layers == [[50.0, pytest.approx(22.0)], [50.0, pytest.approx(61.0)]]


def test_what_is_warmer_than_what_lies_over_it_becomes_one_with_it():
    layers = [[10.0, 50.0], [30.0, 30.0], [10.0, 36.0], [5.0, 60.0]]
    rise(layers)
    # 10 at 50 and 30 at 30 make 35, which stays under 36.
    assert layers == [[40.0, pytest.approx(35.0)], [10.0, 36.0], [5.0, 60.0]]
    deep = [[10.0, 20.0], [10.0, 10.0], [10.0, 14.0]]
    rise(deep)
    assert deep == [[30.0, pytest.approx(44 / 3)]]
    same = [[1.0, 20.0], [3.0, 20.01], [1.0, 20.05]]
    rise(same)
    assert same == [[4.0, pytest.approx(20.0075)], [1.0, 20.05]]
    many = [[1.0, 20.0 + n + (0.5 if n > 7 else 0.0) - (0.6 if n > 8 else 0.0)] for n in range(41)]
    rise(many)
    # Between the eighth and the ninth there is least.
    assert len(many) == 40 and many[8][0] == 2.0 and sum(kg for kg, _ in many) == 41


def test_water_that_is_taken_carries_its_heat():
    layers = [[10.0, 20.0], [10.0, 60.0]]
    assert taken_kj(layers, 0, 4.0) == pytest.approx(4 * 20 * HEAT)
    assert taken_kj(layers, -1, 12.0) == pytest.approx((10 * 60 + 2 * 20) * HEAT)
    assert layers == [[pytest.approx(4.0), 20.0]]
    assert taken_kj(layers, 0, 50.0) == pytest.approx(4 * 20 * HEAT) and layers == []


@pytest.mark.parametrize(
    ("celsius", "density"), [(0, 999.84), (4, 999.97), (20, 998.21), (60, 983.20), (80, 971.80), (90, 965.3)]
)
def test_water_weighs_what_the_tables_say(celsius, density):
    assert 1000 / specific_l_kg(celsius) == pytest.approx(density, rel=3e-4)

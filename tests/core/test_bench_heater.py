"""The heater to practise on, against textbooks."""

import math
import random

import pytest

from aquifer.core.bench.boiler import Boiler
from aquifer.core.bench.build import Build
from aquifer.core.bench.hand import HANDLES, Act, refused, turn
from aquifer.core.bench.heater import (
    BORE_M,
    COIL,
    COIL_KW_K,
    DISCHARGE,
    GRAVITY,
    HOSE,
    LEAKS,
    LOWER_ELEMENT,
    UPPER_ELEMENT,
    Heater,
    at_rest,
)
from aquifer.core.bench.layers import HEAT_KJ_KG_K, specific_l_kg
from aquifer.core.bench.rod import Rod


def run(heater: Heater, seconds: int) -> None:
    for _ in range(seconds):
        heater.second()


def test_a_vented_tank_runs_out_as_torricelli_says():
    heater = at_rest(Build(loose_l=0.0, hard_l=0.0))
    heater.dial, heater.cold, heater.tap = "off", 0.0, True
    run(heater, 120)
    heater.hose, heater.drain = True, 1.0
    opening_m2 = HOSE * DISCHARGE * math.pi / 4 * BORE_M**2
    floor_m2 = 0.190 / 1.2
    began = heater.share
    for seconds in (300, 300, 300):
        run(heater, seconds)
    # What comes in above goes out at the drain alone: the tap, the relief valve and the open top stay dry.
    assert (heater.tap_flow, heater.relief_flow, heater.top_flow) == (0.0, 0.0, 0.0)
    root = math.sqrt(1.2 * began) - opening_m2 / floor_m2 * math.sqrt(GRAVITY / 2) * 900
    assert heater.share == pytest.approx(root**2 / 1.2, rel=0.02)


def test_what_stands_above_the_valve_port_comes_out_of_it_and_nothing_else():
    full, low = at_rest(Build(loose_l=0.0, hard_l=0.0)), at_rest(Build(loose_l=0.0, hard_l=0.0))
    for heater in (full, low):
        heater.dial, heater.cold, heater.tap = "off", 0.0, True
        run(heater, 60)
    low.hose, low.drain = True, 1.0
    run(low, 900)
    assert low.share < 0.8 and low.kpa < 20
    before = low.floor_l
    turn(low, Act(900, "relief_valve", "out"))
    assert low.floor_l == before
    turn(full, Act(900, "relief_valve", "out"))
    assert full.floor_l == pytest.approx(0.12 * full.build.litres, rel=0.05)
    lost = full.floor_l
    turn(full, Act(900, "relief_valve", "out"))
    assert full.floor_l == lost


def test_at_its_very_top_a_tank_that_is_all_but_full_is_as_warm_as_its_water():
    heater = at_rest(Build(set_c=60.0))
    heater.layers[-1][0] *= 0.998
    assert heater.share < 1 and heater.at(1.0) == heater.top_c
    heater.layers[-1][0] *= 0.9
    assert heater.at(1.0) == heater.build.room_c != heater.top_c


def test_without_air_hardly_anything_runs():
    vented, sealed = at_rest(Build()), at_rest(Build())
    for heater, opens in ((vented, True), (sealed, False)):
        heater.dial, heater.cold, heater.hose, heater.drain, heater.tap = "off", 0.0, True, 1.0, opens
        run(heater, 300)
    lost = [1 - heater.share for heater in (vented, sealed)]
    assert lost[0] > 0.15
    assert lost[1] < 0.1 * lost[0]
    # The water hangs on the vacuum: what it weighs over the drain is what the room's air presses more.
    assert sealed.kpa == pytest.approx(-sealed.head_kpa, abs=1.0)


def test_it_heats_and_cools_at_the_textbooks_pace():
    heater = at_rest(Build(set_c=60.0, loss_kw_k=0.0))
    heater.layers = [[190.0 / specific_l_kg(15.0), 15.0]]
    heater.steel_c = 15.0
    run(heater, 3600)
    rise = heater.build.input_kw * heater.build.efficiency * 3600 / (HEAT_KJ_KG_K * heater.kg + 7.4)
    assert heater.top_c == pytest.approx(15 + rise, rel=0.02)
    cooling = at_rest(Build(set_c=60.0, fuel="electric"))
    cooling.breaker = False
    began = cooling.top_c
    run(cooling, 6 * 3600)
    share = math.exp(-cooling.build.loss_kw_k * 6 * 3600 / (HEAT_KJ_KG_K * cooling.kg))
    assert cooling.top_c == pytest.approx(18 + (began - 18) * share, rel=0.02)


def test_the_expansion_tank_takes_what_the_heat_swells():
    """Boyle's law for the charge, the handbook's density of water for the swelling."""
    heater = at_rest(
        Build(set_c=60.0, expansion_l=12.0, precharge_kpa=300.0, supply_kpa=300.0, loss_kw_k=0.0, check_valve=True)
    )
    heater.layers = [[190.0 / specific_l_kg(20.0), 20.0]]
    heater.steel_c = 20.0
    run(heater, 5)
    began = heater.kg
    run(heater, 4200)
    assert heater.kg == pytest.approx(began)
    swelled = heater.kg * (specific_l_kg(heater.top_c) - specific_l_kg(20.0))
    charged = 300.0 + 101.325
    # Over what the shell gives, as the pressure rises.
    pressure = charged * 12.0 / (12.0 - swelled) - 101.325
    assert heater.kpa == pytest.approx(pressure, rel=0.03)
    assert specific_l_kg(60.0) / specific_l_kg(4.0) == pytest.approx(1.0170, abs=0.0005)


def test_with_nowhere_to_go_the_relief_valve_opens_and_closes_again():
    heater = at_rest(Build(set_c=65.0, expansion_l=0.0))
    heater.layers = [[150.0, 15.0], [heater.kg - 150.0, 60.0]]
    run(heater, 20)
    heater.cold, opened = 0.0, 0
    for _ in range(2400):
        heater.second()
        opened += heater.relief_open
        assert heater.kpa < 1200
    assert 0 < opened < 1200


def test_an_element_in_air_burns_out_and_a_dry_floor_spoils():
    electric = at_rest(Build(fuel="electric", efficiency=1.0, input_kw=4.5))
    electric.cold, electric.tap, electric.hose, electric.drain = 0.0, True, True, 1.0
    run(electric, 2400)
    assert electric.upper_burnt or electric.lower_burnt
    gas = at_rest(Build())
    gas.cold, gas.tap, gas.hose, gas.drain = 0.0, True, True, 1.0
    run(gas, 4200)
    assert gas.steel_c > 200
    kept = at_rest(Build())
    kept.dial, kept.cold, kept.tap, kept.hose, kept.drain = "pilot", 0.0, True, True, 1.0
    run(kept, 4200)
    assert kept.steel_c < 100


@pytest.mark.parametrize("seed", range(12))
def test_mass_and_energy_are_kept_whatever_a_hand_does(seed):
    chance = random.Random(seed)
    fuel = chance.choice(["gas", "electric", "boiler"])
    flags = {name: chance.random() < 0.3 for name in ("cold_passes", "drain_drips", "relief_weeps", "drain_blocked")}
    heater = at_rest(Build(fuel=fuel, outlet=chance.choice(["floor drain", "open"]), **flags))
    kg, energy = heater.kg, heater.energy_kj
    at_s = moved = 0
    for _ in range(60):
        name = chance.choice([name for name, one in HANDLES.items() if fuel in one.fuels and name != "bucket"])
        act = Act(at_s, name, chance.choice(HANDLES[name].to))
        if not refused(heater, act):
            turn(heater, act)
        for _ in range(chance.choice([1, 5, 40, 150])):
            heater.second()
            at_s += 1
            assert heater.share <= 1.0 + 1e-9
            assert all(one[0] > 0 and -1 < one[1] < 120 for one in heater.layers)
    moved = heater.in_kg + heater.out_kg
    assert heater.kg - kg == pytest.approx(heater.in_kg - heater.out_kg, abs=1e-3 * max(moved, 1.0))
    kept = heater.heated_kj - heater.lost_kj + heater.in_kj - heater.out_kj
    throughput = heater.heated_kj + heater.in_kj + heater.out_kj
    assert heater.energy_kj - energy == pytest.approx(kept, abs=1e-3 * max(throughput, 1.0))


def test_pulses_bring_out_what_running_does_not():
    left = []
    for pulses in (False, True):
        heater = at_rest(Build())
        heater.dial, heater.hose, heater.drain = "pilot", True, 1.0
        for minute in range(6):
            if pulses and minute:
                heater.cold = 0.0
                run(heater, 5)
                heater.cold = 1.0
            run(heater, 55 if pulses and minute else 60)
        left.append(heater.loose_kg / at_rest(Build()).loose_kg)
    assert left[1] < 0.5 * left[0]


def electric(top_c: float, bottom_c: float, share: float = 1.0) -> Heater:
    """At rest, of two layers; the thermostats have said nothing yet."""
    heater = at_rest(Build(fuel="electric", efficiency=1.0, input_kw=4.5, loss_kw_k=0.0))
    litres = 190.0 * share / 2
    heater.layers = [[litres / specific_l_kg(bottom_c), bottom_c], [litres / specific_l_kg(top_c), top_c]]
    heater.calls = heater.upper_calls = False
    return heater


@pytest.mark.parametrize(
    ("top_c", "bottom_c", "upper", "lower"),
    [(25, 20, True, False), (60, 20, False, True), (60, 60, False, False), (55, 55, False, False)],
)
def test_the_upper_element_comes_first_and_each_has_the_whole_circuit(top_c, bottom_c, upper, lower):
    heater = electric(top_c, bottom_c)
    heater.set_c = 60.0
    before = heater.at(UPPER_ELEMENT), heater.at(LOWER_ELEMENT)
    run(heater, 60)
    rises = [heater.at(place) - old for place, old in zip((UPPER_ELEMENT, LOWER_ELEMENT), before, strict=True)]
    assert (rises[0] > 0.05, rises[1] > 0.05) == (upper, lower), rises
    wanted = 4.5 * 60 if upper or lower else 0.0
    assert heater.heated_kj == pytest.approx(wanted, rel=0.02)


def test_a_burnt_upper_element_leaves_the_circuit_to_the_lower_and_the_breaker_stops_both():
    heater = electric(20, 20)
    heater.upper_burnt = True
    run(heater, 60)
    assert heater.heated_kj == pytest.approx(4.5 * 60, rel=0.02)
    both = electric(20, 20)
    both.upper_burnt = both.lower_burnt = True
    run(both, 60)
    assert both.heated_kj == 0
    off = electric(20, 20)
    off.breaker = False
    run(off, 60)
    assert off.heated_kj == 0


def test_an_element_lives_some_seconds_in_air_and_no_more():
    heater = electric(20, 20, share=0.5)
    heater.cold, heater.tap = 0.0, True
    run(heater, 12)
    assert not heater.upper_burnt
    run(heater, 3)
    assert heater.upper_burnt and not heater.lower_burnt
    # The lower one is under water: it goes on.
    assert heater.heated_kj == pytest.approx(0.0, abs=4.5 * 3)
    run(heater, 60)
    assert heater.heated_kj > 4.5 * 50


def test_what_falls_into_a_bucket_that_is_full_runs_over():
    heater = at_rest(Build())
    heater.dial, heater.hose, heater.hose_in, heater.drain = "off", True, "bucket", 1.0
    seconds = 0
    while heater.floor_l == 0 and seconds < 600:
        heater.second()
        seconds += 1
    assert heater.floor_l > 0 and heater.bucket_l == pytest.approx(12.0, rel=0.35)
    full = heater.bucket_l
    run(heater, 30)
    assert heater.bucket_l == full and heater.floor_l > 1
    bare = at_rest(Build())
    bare.dial, bare.drain = "off", 1.0
    run(bare, 20)
    assert bare.floor_l > 0 and bare.bucket_l == 0


def test_a_boiler_gives_back_by_boyle_and_locks_out_when_its_vessel_has():
    boiler = Boiler()
    assert boiler.kpa == pytest.approx(120.0)
    while boiler.kpa > 100:
        boiler.second(0.002)
    # p V is the same before and after: 12 L at 176 kPa absolute.
    air_l = 12 * 176.325 / 221.325 + boiler.lost_l
    assert (boiler.kpa + 101.325) * air_l == pytest.approx(12 * 176.325)
    assert not boiler.has_locked
    while not boiler.has_locked:
        boiler.second(0.002)
    assert boiler.lost_l == pytest.approx(12 * 176.325 / (75.0 + 101.325) - 12 * 176.325 / 221.325, abs=0.1)


def test_a_coil_warms_as_first_order_heating_says():
    heater = at_rest(Build(fuel="boiler", loss_kw_k=0.0, set_c=70.0))
    heater.set_c, heater.calls = 75.0, True
    for layer in heater.layers:
        layer[1] = 30.0
    seconds = 1800
    run(heater, seconds)
    # What rises from the coil leaves the water under it cold: that much of the tank takes no part.
    warm = [(kg, c) for kg, c in heater.layers if c > 31]
    kg = sum(kg for kg, _ in warm)
    expected = 75.0 - 45.0 * math.exp(-COIL_KW_K * seconds / (kg * HEAT_KJ_KG_K))
    assert sum(one * c for one, c in warm) / kg == pytest.approx(expected, abs=0.02 * 45)
    assert kg >= 0.98 * (1 - COIL) * heater.kg


def test_what_lies_over_the_drain_lets_hardly_anything_by():
    free, buried = at_rest(Build(hard_l=0.3)), at_rest(Build(hard_l=10.0))
    assert not free.is_buried and buried.is_buried
    for heater in (free, buried):
        heater.drain = 1.0
        run(heater, 10)
    assert buried.outflow < 0.02 * free.outflow


def test_a_valve_whose_probe_is_short_lets_the_water_boil():
    hottest = {}
    for short in (False, True):
        heater = at_rest(Build(fuel="electric", input_kw=20.0, efficiency=1.0, set_c=85.0, probe_short=short))
        heater.set_c = 130.0
        for _ in range(4000):
            heater.second()
        hottest[short] = heater.top_c
    assert hottest[False] < 101 and hottest[True] > 110


def test_rods_wear_to_wire_where_it_goes_fastest():
    assert Rod(1.0, False).thick_mm == pytest.approx(21.0) and Rod(1.0, False).bare_mm == 0
    assert Rod(0.0, False).thick_mm == pytest.approx(3.3) and Rod(0.0, False).bare_mm == pytest.approx(500)
    # A third left: the first wire shows. Half the metal is gone at seven tenths of the thickness, over the wire.
    assert Rod(0.334, False).bare_mm == 0 and Rod(0.30, False).bare_mm > 0
    assert Rod(0.5, False).thick_mm == pytest.approx(math.sqrt((21**2 + 3.3**2) / 2))
    assert [Rod(left, False).is_spent for left in (0.6, 0.3, 0.26, 0.2)] == [False, False, True, True]


def test_what_is_broken_leaks_with_the_pressure_and_a_flaw_without():
    twisted, flawed = at_rest(Build()), at_rest(Build())
    twisted.twisted, flawed.flaw_open = True, True
    for heater in (twisted, flawed):
        run(heater, 120)
        assert heater.floor_l == pytest.approx(120 * LEAKS * math.sqrt(400), rel=0.05)
    for heater in (twisted, flawed):
        heater.cold, heater.tap = 0.0, True
        run(heater, 60)
        heater.floor_l = 0.0
        run(heater, 60)
    assert twisted.floor_l == 0 and flawed.floor_l > 0.05

"""What shows at a heater with something wrong, deed by deed, as a table that a plumber can read."""

import tomllib
from copy import deepcopy
from pathlib import Path

import pytest

from aquifer.core.bench.trouble.electric import ElectricRig
from aquifer.core.bench.trouble.fan import FanRig
from aquifer.core.bench.trouble.pilot import PilotRig
from aquifer.core.bench.trouble.rig import Hurt, Refused, Rig
from aquifer.core.bench.trouble.tankless import TanklessRig
from aquifer.core.bench.trouble.vehicle import VehicleRig

RIGS: dict[str, type[Rig]] = {
    "electric": ElectricRig, "pilot": PilotRig, "fan": FanRig, "tankless": TanklessRig, "vehicle": VehicleRig,
}  # fmt: skip
SHOWS = tomllib.loads((Path(__file__).parent / "data" / "shows.toml").read_text())
PLACES = [(rig, place) for rig, places in SHOWS.items() for place in places]


def told(name: str, fault: str, before: list[str]) -> Rig:
    """The heater, where its supply and its panel are as the table has them."""
    rigs = (RIGS[name](fault, seed) for seed in range(100))
    rig = next(one for one in rigs if one.supply_kpa == 380 and not getattr(one, "is_mislabelled", False))
    for where in before:
        done(rig, where)
    return rig


def done(rig: Rig, where: str) -> str:
    point, _, deed = where.partition("/")
    if not deed:
        rig.pass_by(float(where.split()[1]))
        return ""
    try:
        return rig.do(point, deed)
    except Hurt as hurt:
        return f"hurts: {hurt}"
    except Refused as refused:
        return f"refused: {refused}"


@pytest.mark.parametrize(("name", "place"), PLACES, ids=lambda one: one)
def test_each_deed_shows_what_a_plumber_would_see(name, place):
    rows = dict(SHOWS[name][place])
    before = rows.pop("before")
    stands = {fault: told(name, fault, before) for fault in RIGS[name].faults}
    assert rows
    for where, (usual, *others) in rows.items():
        seen = {fault: says for faults, says in others for fault in faults.split()}
        assert seen.keys() <= stands.keys(), where
        for fault, rig in stands.items():
            assert done(deepcopy(rig), where) == seen.get(fault, usual), (where, fault)


def test_the_table_tells_of_every_deed_but_of_waiting():
    spoken = {where for places in SHOWS.values() for rows in places.values() for where in rows}
    every = {
        f"{point}/{deed}" for name in RIGS for point, deed in told(name, "cartridge", []).deeds if point != "clock"
    }
    assert every <= spoken, every - spoken


LEFT = [
    ("electric", "cartridge", ["cold/shut"], ["with the cold shut"]),
    ("electric", "cartridge", ["faucet/open it"], ["with a faucet open"]),
    ("electric", "cartridge", ["breaker/off"], ["off"]),
    ("electric", "cartridge", ["covers/off"], ["with its covers off"]),
    ("electric", "limit_tripped", [], ["with its limit tripped"]),
    ("electric", "breaker_tripped", ["breaker/off and on again"], []),
    ("electric", "cartridge", ["drain/hose on", "drain/open"], ["with the drain open", "with the hose on"]),
    (
        "electric", "cartridge",
        ["breaker/off", "cold/shut", "faucet/open it", "drain/hose on", "drain/open", "clock 5 minutes", "drain/shut",
         "drain/hose off", "cold/open", "faucet/shut it"],
        ["with air in it", "off"],
    ),
    (
        "electric", "cartridge",
        ["breaker/off", "cold/shut", "faucet/open it", "drain/hose on", "drain/open", "clock 5 minutes", "drain/shut",
         "drain/hose off", "cold/open", "clock 3 minutes", "faucet/shut it", "breaker/on"],
        [],
    ),
    ("pilot", "cartridge", ["gas_valve/shut"], ["with the gas shut", "with its pilot out"]),
    ("pilot", "cartridge", ["dial/turn to pilot"], ["with its dial not at the mark"]),
    ("pilot", "gas_joint", [], ["with gas in the room", "with its pilot out"]),
    ("pilot", "gas_joint", ["gas_valve/shut", "air/open the windows"], ["with the gas shut", "with its pilot out"]),
    ("pilot", "thermocouple", ["gas_valve/shut", "thermocouple/renew", "gas_valve/open"],
     ["with a gas joint that nobody sprayed", "with its pilot out"]),
    ("pilot", "thermocouple",
     ["gas_valve/shut", "thermocouple/renew", "gas_valve/open", "gas_joints/spray and watch", "dial/turn to pilot",
      "pilot/light it and hold", "dial/turn to its mark"], []),
    ("fan", "cartridge", ["plug/pull it"], ["unplugged"]),
    ("fan", "cartridge", ["covers/off"], ["with its burner door off"]),
    ("fan", "hose_wet", ["vacuum_switch/jumper it"], ["with its vacuum switch bridged"]),
    ("tankless", "cartridge", ["display/off and unplugged"], ["unplugged"]),
    ("tankless", "cartridge", ["gas_valve/shut"], ["with the gas shut"]),
    ("tankless", "cartridge", ["hot_valve/shut"], ["with the hot side shut"]),
    ("tankless", "cartridge", ["covers/off"], ["with its cover off"]),
    ("tankless", "mixer", [], ["with a pump that ruins its mixing valve"]),
    ("tankless", "mixer", ["pump/fit a control"], []),
    (
        "tankless", "scale",
        ["display/off and unplugged", "cold/shut", "hot_valve/shut", "ports/hoses on", "ports/open", "ports/acid in"],
        ["with the cold shut", "unplugged", "with the hot side shut", "with a service port open", "with acid in it"],
    ),
    ("vehicle", "cartridge", ["switch/everything off"], ["switched off"]),
    ("vehicle", "cartridge", ["covers/off"], ["with its cover off"]),
    ("vehicle", "cartridge", ["jet/wire through it"], ["with a jet whose hole is another"]),
]  # fmt: skip


@pytest.mark.parametrize(("name", "fault", "before", "wrong"), LEFT)
def test_what_is_left_wrong_is_named_and_nothing_else(name, fault, before, wrong):
    assert told(name, fault, before).wrong() == wrong


OFF = {
    "electric": ["breaker/off and locked"],
    "pilot": ["dial/turn off", "gas_valve/shut"],
    "fan": ["plug/pull it", "gas_valve/shut"],
    "tankless": ["display/off and unplugged"],
    "vehicle": ["switch/everything off", "gas_valve/shut"],
}


@pytest.mark.parametrize("name", OFF)
def test_a_heater_is_left_off_once_all_that_feeds_it_is_and_nothing_is_bare(name):
    assert not told(name, "cartridge", []).is_off()
    for count in range(len(OFF[name])):
        assert not told(name, "cartridge", OFF[name][:count]).is_off()
    assert told(name, "cartridge", OFF[name]).is_off()
    if name != "pilot":
        assert not told(name, "cartridge", [*OFF[name], "covers/off"]).is_off()
    if name == "electric":
        # Off is not locked.
        assert not told(name, "cartridge", ["breaker/off"]).is_off()
    if name in ("pilot", "fan", "vehicle"):
        # Who smells gas touches nothing inside: the valve from outside, everybody out, the gas company called.
        assert not told(name, "gas_joint", ["air/all out and call"]).is_off()
        assert told(name, "gas_joint", ["air/all out and call", "gas_valve/shut"]).is_off()


def test_a_tank_warms_from_above_by_its_elements_and_all_at_once_by_a_burner():
    """4.5 kW warm 62.7 L by 1.03 K a minute, the rest of 190 L by 0.51; 8.6 kW the whole by 0.65 (4.186 kJ/(kg K))."""
    electric = told("electric", "cartridge", [])
    electric.top_c = electric.low_c = 20.0
    electric.pass_by(10)
    assert electric.top_c == pytest.approx(20 + 600 * 4.5 / (4.186 * 62.7), abs=0.1) and electric.low_c == 20.0
    electric.top_c = 60.0
    electric.pass_by(10)
    assert electric.low_c == pytest.approx(20 + 600 * 4.5 / (4.186 * 127.3), abs=0.1)
    # A tank that nobody heats loses half a degree an hour.
    assert electric.top_c == pytest.approx(60 - 10 * 0.5 / 60, abs=0.01)
    pilot = told("pilot", "cartridge", [])
    pilot.top_c = pilot.low_c = 20.0
    pilot.pass_by(10)
    assert pilot.top_c == pilot.low_c == pytest.approx(20 + 600 * 8.6 / (4.186 * 190), abs=0.1)
    vehicle = told("vehicle", "cartridge", [])
    vehicle.top_c = vehicle.low_c = 20.0
    vehicle.pass_by(10)
    assert vehicle.low_c == pytest.approx(20 + 600 * 2.5 / (4.186 * 190), abs=0.1)


@pytest.mark.parametrize(("celsius", "calls"), [(53.9, True), (54.1, False)])
def test_a_control_calls_six_degrees_below_its_setting(celsius, calls):
    for name in ("electric", "pilot", "fan", "vehicle"):
        rig = told(name, "cartridge", [])
        rig.top_c, rig.low_c = 60.0, celsius
        assert rig.calls() is calls and (max(rig.heating_kw()) > 0) is calls, name
    upper = told("electric", "cartridge", [])
    upper.top_c = upper.low_c = celsius
    assert (upper.heating_kw()[0] > 0) is calls


def test_a_limit_comes_out_at_170_degrees_fahrenheit_and_stays_out():
    for celsius, out in ((76.5, False), (77.5, True)):
        rig = told("electric", "cartridge", [])
        rig.top_c = celsius
        rig.pass_by(0.0)
        assert rig.limit_is_out is out
    # A thermostat that sticks drives it there.
    stuck = told("electric", "thermostat_stuck", ["breaker/off and locked", "covers/off", "terminals/prove them dead"])
    assert done(stuck, "limit/press") == "It clicks."
    done(stuck, "breaker/on")
    stuck.pass_by(90)
    assert stuck.limit_is_out and stuck.top_c > 77


def test_a_tank_runs_empty_in_25_minutes_and_fills_in_12():
    rig = told("pilot", "cartridge", ["dial/turn off", "cold/shut", "drain/hose on", "drain/open"])
    rig.pass_by(10)
    assert rig.level == 1.0, "no air gets in above"
    done(rig, "faucet/open it")
    rig.pass_by(12.5)
    assert rig.level == pytest.approx(0.5)
    rig.pass_by(20)
    assert rig.level == 0.0
    done(rig, "drain/shut")
    done(rig, "cold/open")
    rig.pass_by(6)
    assert rig.level == pytest.approx(0.5) and rig.top_c == pytest.approx(12)
    rig.pass_by(7)
    assert rig.level == 1.0


@pytest.mark.parametrize(("low_c", "litres"), [(42.9, 60), (43.1, 180)])
def test_what_runs_hot_is_what_lies_hot(low_c, litres):
    """19 of 20 litres: the last mixes. A third of them lies over the upper thermostat."""
    rig = told("electric", "cartridge", [])
    rig.unfit.clear()
    rig.top_c, rig.low_c = 55.0, low_c
    assert rig.hot_litres() == pytest.approx(litres, abs=1)
    rig.top_c = 42.0
    assert rig.hot_litres() == 0.0


def test_a_pilot_that_was_put_out_airs_for_five_minutes():
    for minutes, hurts in ((4.5, True), (5.5, False)):
        rig = told("pilot", "cartridge", ["dial/turn off", "dial/turn to pilot"])
        rig.pass_by(minutes)
        assert (done(rig, "pilot/light it and hold") == "hurts: lit_too_soon") is hurts
    # One that was out when somebody came has aired.
    assert done(told("pilot", "blown_out", ["dial/turn to pilot"]), "pilot/light it and hold") == "It stays."


def test_after_three_tries_the_chamber_airs_first():
    rig = told("pilot", "magnet", ["dial/turn to pilot"])
    tries = [done(rig, "pilot/light it and hold") for _ in range(4)]
    assert tries == ["It dies on release."] * 3 + ["hurts: lit_too_soon"]
    rig.pass_by(4.5)
    assert done(rig, "pilot/light it and hold") == "hurts: lit_too_soon"
    rig.pass_by(5.0)
    assert done(rig, "pilot/light it and hold") == "It dies on release."


def test_a_draft_blows_out_again_what_was_lit_in_it():
    for cleared, burns in ((False, False), (True, True)):
        rig = told("pilot", "blown_out", ["dial/turn to pilot", *(["base/clear lint and draft"] if cleared else [])])
        done(rig, "pilot/light it and hold")
        rig.pass_by(10)
        assert rig.pilot_burns
        rig.pass_by(20)
        assert rig.pilot_burns is burns


def test_gas_that_leaks_lies_again_once_the_windows_are_shut():
    rig = told("pilot", "gas_joint", ["air/open the windows"])
    assert rig.lies_gas
    done(rig, "gas_valve/shut")
    done(rig, "air/open the windows")
    rig.pass_by(10)
    assert not rig.lies_gas
    done(rig, "gas_valve/open")
    rig.pass_by(1)
    assert rig.lies_gas

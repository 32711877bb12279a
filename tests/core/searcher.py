"""Somebody who looks for a fault as the guide's words ask: does what a step says, looks, and tells what is to be seen.

``DEEDS`` and ``TESTS`` are written down from the words of the steps alone, ``CLUES`` from what a plumber makes of what
shows.
"""

import re

from aquifer.core.bench.hand import Act
from aquifer.core.bench.trouble.guided import guided
from aquifer.core.bench.trouble.search import Search, begun
from aquifer.core.bench.trouble.trouble import troubles
from aquifer.core.procedures.ladder import complaints
from aquifer.core.procedures.library import practices_followed

# What a hand does on reading a step; of several ways the first that the heater has.
DEEDS: dict[str, list[str]] = {
    "arrival.air": ["air/sniff low and high"],
    "arrival.greet": ["house/say what goes off"],
    "arrival.tap": ["faucet/read it"],
    "tell_house.tell": ["house/say what goes off"],
    "isolate_energy.gas_pilot": ["dial/turn to pilot"],
    "isolate_energy.gas_dial_off": ["dial/turn off", "gas_valve/shut"],
    "isolate_energy.unplug": ["plug/pull it", "display/off and unplugged"],
    "isolate_energy.vehicle_off": ["switch/everything off"],
    "isolate_energy.gas_shut": ["gas_valve/shut"],
    "isolate_energy.breaker": ["breaker/off and locked", "breaker/see that the heater is dead"],
    "gas_full_off.dial_off": ["dial/turn off", "plug/pull it", "display/off and unplugged", "gas_valve/shut"],
    "isolate_water.close_cold": ["cold/shut"],
    "let_off.faucet": ["faucet/open it"],
    "house_shut_off.close_house": ["cold/shut"],
    "no_heat.breaker": ["breaker/off and on again"],
    "no_heat.volts": ["breaker/volts"],
    "no_heat.dead": ["breaker/off and locked"],
    "no_heat.covers_off": ["covers/off"],
    "no_heat.prove_dead": ["terminals/prove them dead"],
    "no_heat.wiring": ["wiring/look"],
    "no_heat.reset": ["limit/press"],
    "no_heat.reset_after": ["limit/press"],
    "no_heat.ohms": ["lower_element/ohms", "upper_element/ohms"],
    "no_heat.covers_on": ["covers/on"],
    "no_heat.cut_off": ["upper_thermostat/does it cut off"],
    "no_heat.thermostat": ["upper_thermostat/renew"],
    "prove_dead.measure": ["covers/off", "terminals/prove them dead"],
    "element.cover": ["covers/off"],
    "element.prove": ["terminals/prove them dead"],
    "element.cover_on": ["covers/on"],
    "covers_back.on": ["covers/on"],
    "drain_dry.hose": ["drain/hose on"],
    "drain_dry.open": ["drain/open"],
    "drain_dry.empty": ["drain/till nothing runs"],
    "drain_dry.shut": ["drain/shut"],
    "drain_shut.shut": ["drain/shut"],
    "drain_cap.cap": ["drain/hose off", "drain/cap it"],
    "hose_away.off": ["drain/hose off"],
    "hose_on.screw": ["drain/hose on"],
    "air_path.open": ["faucet/open it"],
    "refill.tap_open": ["faucet/open it"],
    "refill.cold_open": ["cold/open"],
    "refill.steady": ["clock/15 minutes"],
    "refill.tap_shut": ["faucet/shut it"],
    "tap_shut.shut": ["faucet/shut it"],
    "cold_back.open": ["cold/open"],
    "cold_back.hot": ["hot_valve/open"],
    "refill.hot_side": ["hot_valve/open"],
    "cool.run_hot": ["faucet/run it till cold"],
    "light_pilot.smell": ["clock/5 minutes", "air/sniff low and high"],
    "light_pilot.gas_on": ["gas_valve/open"],
    "light_pilot.hold": ["dial/turn to pilot", "pilot/light it and hold"],
    "pilot_look.look": ["pilot/look through the window"],
    "thermocouple.tip": ["dial/turn to pilot", "pilot/light it and hold", "thermocouple/look at its tip"],
    "thermocouple.nut": ["thermocouple/clean and snug its nut"],
    "thermocouple.millivolts": ["dial/turn to pilot", "thermocouple/millivolts"],
    "thermocouple_new.renew": ["dial/turn off", "gas_valve/shut", "thermocouple/renew"],
    "thermocouple_new.gas_on": ["gas_valve/open"],
    "pilot_tube.off": ["dial/turn off", "gas_valve/shut"],
    "pilot_tube.blow": ["pilot/blow its tube clear"],
    "gas_tested.gas_on": ["gas_valve/open"],
    "gas_valve_open.open": ["gas_valve/open"],
    "control_verdict.asks_heat": ["dial/turn above the heat"],
    "control_verdict.off": ["dial/turn off", "gas_valve/shut"],
    "control_magnet.off": ["dial/turn off", "gas_valve/shut"],
    "gas_control.gas_off": ["dial/turn off", "gas_valve/shut"],
    "gas_control.all_shut": ["faucet/shut it"],
    "gas_control.swap": ["gas_control/renew"],
    "gas_control.gas_on": ["gas_valve/open"],
    "ignition.power": ["plug/volts", "switch/volts"],
    "ignition.call": ["fan/look while it calls"],
    "ignition.switch": ["vacuum_switch/suck on it", "hose/look", "vent/look"],
    "ignition.glow": ["igniter/look while it calls", "spark/look while it calls"],
    "ignition.flame": ["flame/look while it calls"],
    "flame_rod.off": ["plug/pull it", "display/off and unplugged", "gas_valve/shut"],
    "flame_rod.clean": ["flame_rod/wipe with plain paper"],
    "flame_rod.back": ["gas_valve/open"],
    "energise.gas_on": ["gas_valve/open"],
    "energise.gas_up": ["dial/turn to its mark"],
    "energise.switch_on": ["plug/put it in", "display/plug it in", "switch/everything on"],
    "energise.breaker_on": ["breaker/on"],
    "energise.fire_look": ["flame/look while it calls"],
    "verify.tap_temperature": ["clock/an hour", "faucet/read it"],
    "hand_over.joints": ["joints/wipe and look"],
    "hand_over.explain": ["house/say what was done"],
    "leave_off.tell": ["house/say what was done"],
    "leave_as_found.tell": ["house/say what was done"],
    "make_safe.dial_off": ["dial/turn off"],
    "make_safe.switch_off": ["plug/pull it", "display/off and unplugged", "switch/everything off"],
    "make_safe.breaker_off": ["breaker/off and locked", "breaker/see that the heater is dead"],
    "make_safe.gas_shut": ["gas_valve/shut"],
    "leak_shut.fuel": ["breaker/off", "dial/turn off"],
    "leak_shut.cold": ["cold/shut"],
    "air_the_room.windows": ["dial/turn off", "plug/pull it", "gas_valve/shut", "air/open the windows"],
    "expansion_tank.relieve": ["faucet/open it"],
    "evacuate.call": ["air/all out and call"],
    "evacuate.outdoors": ["gas_valve/shut"],
    "joint_remade.remake": ["joints/remake the wet one"],
    "leak_triage.wipe": ["joints/wipe and look"],
    "leak_triage.relief_end": ["relief_pipe/look"],
    "leak_triage.drain_end": ["drain/look"],
    "leak_triage.verdict": ["clock/an hour", "pan/dry paper for 15 minutes"],
    "find_outlet.follow": ["relief_pipe/look"],
    "pressure_read.static": ["gauge/read"],
    "relief_replacement.swap": ["relief_pipe/renew the relief valve"],
    "pressure_test.gauge": ["gauge/read"],
    "pressure_test.creep": ["gauge/watch it while it heats"],
    "expansion_tank.pin": ["expansion_tank/press its pin"],
    "expansion_replacement.new": ["expansion_tank/renew it"],
    "lower_level.hose": ["drain/hose on"],
    "lower_level.drain_some": ["faucet/open it", "drain/open", "drain/till nothing runs"],
    "lower_level.drain_shut": ["drain/shut"],
    "tankless_faults.which": ["display/read the code"],
    "tankless_faults.flow_seen": ["full_draw/flow and rise"],
    "flow_switch.free": ["flow_switch/blow through it", "flow_switch/free it"],
    "full_draw.before": ["full_draw/flow and rise"],
    "full_draw_after.after": ["full_draw/flow and rise"],
    "descale.isolate": ["cold/shut", "hot_valve/shut"],
    "descale.hoses": ["ports/hoses on"],
    "descale.let_off": ["ports/open"],
    "descale.screen": ["screen/look and rinse"],
    "descale.acid": ["ports/acid in"],
    # The strip reads over 4: the acid is renewed once.
    "descale.circulate": [
        "ports/pump 25 minutes",
        "ports/pump 25 minutes",
        "ports/read the strip",
        "ports/acid in",
        "ports/pump 25 minutes",
        "ports/pump 25 minutes",
    ],
    "descale.drain_acid": ["ports/acid out"],
    "descale.rinse": ["cold/open", "ports/rinse 5 minutes"],
    "descale.ports_shut": ["cold/shut", "ports/shut"],
    "descale.hoses_off": ["ports/hoses off"],
    "inlet_screen.rinse": ["screen/look and rinse"],
    "fixture.compare": ["other_faucet/run it"],
    "vehicle_gas.cold": ["switch/everything off", "gas_valve/shut"],
    "vehicle_gas.fuse": ["fuse_link/continuity"],
    "vehicle_gas.electrode": ["covers/off", "electrode/look closely"],
    "vehicle_gas.burner_out": ["jet/take out and look"],
    "vehicle_gas.jet": ["jet/blow it with air"],
    "vehicle_gas.gap": ["electrode/set its gap"],
    "spark_seen.off": ["display/off and unplugged", "gas_valve/shut"],
    "spark_seen.lead": ["spark/lead and shroud"],
    "spark_seen.wool": ["wool/take out and look"],
    "spark_seen.back": ["gas_valve/open", "display/plug it in"],
    "vehicle_gas.cover": ["covers/on"],
}

# What a ladder's test has done, and which of its outcomes each showing is; the first that fits.
TESTS: dict[str, tuple[list[str], list[tuple[str, int]]]] = {
    "other_faucets": (["other_faucet/run it"], [("runs right", 0), ("", 1)]),
    "hot_runs_with_cold_shut": (["cold/does hot run on"], [("runs on", 0), ("", 1)]),
    "pilot_burns": (["pilot/look through the window"], [("is out", 1), ("", 0)]),
    "pilot_stays": (["dial/turn to pilot", "pilot/light it and hold"], [
        ("dies", 0), ("tays", 1), ("not light", 2), ("burns already", 1)]),
    "burner_opens": (["dial/turn above the heat"], [("burner opens|burns on", 0), ("goes out", 2), ("", 1)]),
    "display": (["breaker/look", "plug/look", "display/look", "switch/look"], [("Tripped|dark|Dark|Off", 0), ("", 1)]),
    "fan_runs": (["dial/turn above the heat", "fan/look while it calls", "spark/look while it calls"], [
        ("nothing turns|Nothing at all|stands still", 0), ("nothing follows|nothing glows|No spark|jumps", 1),
        ("goes out", 2), ("", 3)]),
    "half_a_tank": (["faucet/run it till cold"], [
        ("from the start", 0), ("part of a tank", 1), ("lukewarm at once", 2), ("", 3)]),
    "reset_clicks": (["covers/off", "terminals/prove them dead", "limit/press", "covers/on"], [
        ("It clicks", 0), ("", 1)]),
    "before_mixing": (["mixing_valve/before and behind it"], [("", 1)]),
    "pump_runs": (["pump/does it run all the time"], [("day and night", 0), ("", 1)]),
    "full_draw_cuts_out": (["full_draw/three minutes of it"], [("cuts out", 0), ("not fire", 2), ("", 3)]),
    "when_it_sounds": (["sound/ask and listen"], [("knocks", 1), ("", 3)]),
    "cold_too": (["other_faucet/fill two glasses"], [("", 1)]),
    "where_wet": (["joints/wipe and look", "relief_pipe/look", "drain/look"], [
        ("wet again first", 0), ("end drips", 1), ("wet below", 2), ("", 3)]),
    "just_refilled": (["house/ask what was drawn"], [("bath", 0), ("", 1)]),
    "delivered": (["faucet/read it"], []),
    "flow_shown": (["display/read the flow"], [(":0[.0]*}|Dark", 0), ("", 1)]),
    "vehicle_watch": (["switch/turn it on and watch"], [
        ("no click", 0), ("through the ceramic", 1), ("puffs", 2), ("", 3)]),
}  # fmt: skip

# What a plumber makes of what shows: the last that fits is the cause.
CLUES: list[tuple[str, str, str]] = [
    ("pan", "stays dry", "sweat"),
    ("faucet", "lukewarm at once", "dip_tube"), ("faucet", "part of a tank", "lower_open"),
    ("cold", "runs on", "crossover"), ("fixture", "goes cold while", "crossover"),
    ("other_faucet", "runs right", "cartridge"),
    ("base", "Lint", "blown_out"), ("gas_valve", "Crosswise: shut", "no_gas"),
    ("thermocouple", "30 mV", "magnet"), ("thermocouple", "^[0-9] mV", "thermocouple"),
    ("thermocouple", "Black", "tip_sooted"), ("thermocouple", "loose", "nut_loose"),
    ("pilot", "mall and yellow", "pilot_tube"), ("dial", "does not open", "control_shut"),
    ("air", "smells of gas", "gas_joint"),
    ("breaker", "Tripped", "breaker_tripped"), ("limit", "It clicks", "limit_tripped"),
    ("upper_thermostat", "still lets", "thermostat_stuck"), ("wiring", "scorched", "wire_burnt"),
    ("upper_element", "Open", "upper_open"), ("lower_element", "Open", "lower_open"),
    ("fan", "stands still", "fan_still"), ("hose", "Water stands", "hose_wet"), ("vent", "nest", "vent_blocked"),
    ("vacuum_switch", "No click", "switch_dead"), ("igniter", "Open", "igniter_open"),
    ("dial", "goes out", "rod_fouled"), ("plug", "dark", "plug_out"), ("display", "Dark", "plug_out"),
    ("joints", "wet again first", "joint"), ("house", "bath", "sweat"), ("pan", "wet again", "tank_wall"),
    ("relief_pipe", "end drips", "relief_seat"), ("gauge", "creeps.*drips", "bladder"),
    ("drain", "wet below", "drain_weeps"),
    ("full_draw", "cuts out", "scale"), ("flow_switch", "not turn", "switch_stuck"), ("spark", "No spark", "lead_off"),
    ("spark", "wet wool", "wool_wet"), ("display", "then lost", "rod_fouled"), 
    ("pump", "day and night", "mixer"), ("switch", "through the ceramic", "electrode_cracked"),
    ("fuse_link", "Open", "link_melted"), ("jet", "web", "web"),
]  # fmt: skip


class Searcher:
    def __init__(self, name: str, seed: int) -> None:
        self.search: Search = begun(troubles()[name], seed)
        self.told: list[str] = []
        self.sides = practices_followed({})
        self.ended = False

    def does(self, where: str) -> str:
        point, _, deed = where.partition("/")
        if (point, deed) not in self.search.rig.deeds:
            return ""
        place = len(self.search.acts)
        self.search.act(Act(self.search.now_s, point, deed))
        shown = [one.says for one in self.search.shown if one.act == place]
        refused = self.search.refusals.get(place)
        self.told.append(f"    {where}: {shown or refused or self.search.harms[-1:]}")
        return shown[0] if shown else ""

    def seen(self, step: str, do: str) -> int | None:
        """Do what a step asks; the number of the other way if something else is seen."""
        test = next((one.name for one in complaints().tests.values() if one.do == do), None)
        if test is not None:
            return self.tested(test)
        said = " ".join(self.does(where) for where in DEEDS.get(step, []))
        if step in ("arrival.air", "light_pilot.smell"):
            return 0 if "smells of gas" in said else None
        if step == "arrival.settings":
            looks = (
                self.does("switch/look")
                + self.does("pilot/look through the window")
                + self.does("breaker/look")
                + self.does("plug/look")
            )
            return 0 if re.search("is out|Tripped|dark", looks + self.does("display/look")) else None
        if step == "arrival.lit_how":
            return 0 if "hot_surface" in self.search.trouble.ignition else None
        if step == "let_off.faucet":
            return 0 if said.startswith("It runs on") else None
        if step == "no_heat.wiring":
            return 0 if "scorched" in said else None
        if step == "dripping_relief.again":
            return min(dict(self.deviations)) if "drips" in self.does("relief_pipe/look") else None
        if step == "drain_drips.work":
            return 0 if "wet" in self.does("drain/look") else None
        if step == "pressure_test.creep":
            return 0 if "drips" in said else None
        if step == "expansion_tank.pin":
            return 0 if "Water" in said else None
        if step == "no_heat.cut_off":
            return 0 if "still lets" in said else None
        if step == "no_heat.ohms":
            return 0 if "Open" in said else None
        if step == "element.in":
            for element in ("lower_element", "upper_element"):
                if any(one.point == element and "Open" in one.says for one in self.search.shown):
                    self.does(f"{element}/renew")
        if step == "light_pilot.hold":
            return 0 if "dies" in said or "not light" in said else None
        if step == "thermocouple.tip":
            if "Black" in said:
                self.does("thermocouple/clean its tip")
            return 0 if "mall and yellow" in said else None
        if step == "thermocouple.millivolts":
            mended = any("Black" in one.says or "loose" in one.says for one in self.search.shown)
            mended = mended or any(act.to in ("renew", "blow its tube clear") for act in self.search.acts)
            return 0 if "30 mV" not in said else None if mended else 1
        if step in ("thermocouple_new.spray", "gas_tested.spray", "gas_control.spray", "pilot_tube.spray"):
            return 0 if "bubble" in self.does("gas_joints/spray and watch") else None
        if step == "control_verdict.asks_heat":
            return 0 if "burner opens" in said else None
        if step in ("control_verdict.verdict", "control_magnet.verdict"):
            return 0
        if step == "ignition.call":
            return 0 if "stands still" in said else None
        if step == "ignition.switch":
            if "Water stands" in said:
                self.does("hose/empty it")
            return 0 if "nest" in said else 1 if "No click" in said else None
        if step == "ignition.glow":
            if "stays dark" in said:
                self.does("plug/pull it")
                said = self.does("igniter/ohms")
                self.does("plug/put it in")
                return 0 if "Open" in said else None
            if "No spark" in said or "wet wool" in said:
                return 1
        if step == "spark_seen.lead" and "hangs" in said:
            self.does("spark/seat the lead")
        if step == "spark_seen.wool":
            return 0 if "crumbles" in said else None
        if step == "tankless_faults.flow_seen":
            return 0 if "not fire" in self.does("full_draw/three minutes of it") else None
        if step == "ignition.flame":
            return 0 if re.search("gone after", said) else None
        if step == "joint_remade.remake" or step.startswith("verdict"):
            return None
        if step in ("leak_triage.wipe", "hand_over.joints"):
            return (1 if step == "leak_triage.wipe" else 0) if "wet again first" in said else None
        if step in ("leak_triage.relief_end", "leak_triage.drain_end"):
            return 0 if re.search("drips|wet", said) else None
        if step == "leak_triage.verdict":
            return 0 if "wet again" in said else None
        if step == "tankless_faults.which":
            ways = {"Failed to light": 0, "then lost": 1, "Overheated": 2, "Mixing valve": 3}
            words = {"Failed to light": "Failed to light", "then lost": "Lit, then lost", "Overheated": "Overheats",
                     "Mixing valve": "Mixing valve stuck"}  # fmt: skip
            for shown in ways:
                if shown in said:
                    return next((n for n, says in self.deviations if says.startswith(words[shown])), None)
            return None
        if step == "vehicle_gas.electrode" and "black line" in said:
            self.does("electrode/renew")
        if step == "vehicle_gas.fuse" and "Open" in said:
            self.does("fuse_link/renew")
        if step.endswith("verdict_a"):
            if "Likely: The dip tube" in do and "warm" not in self.does("cold_pipe/feel it while hot runs"):
                return 0
            self.verdict(do)
        if step.endswith("verdict_b") and self.told[-1].endswith("It is not"):
            self.verdict(do)
        return None

    def verdict(self, do: str) -> None:
        """What a verdict asks for that has no steps of its own."""
        if "blown out" in do:
            self.does("base/look")
            self.does("base/clear lint and draft")
        if "cartridge" in do or "crosses over" in do:
            self.does("fixture/feel for a crossover")
            self.does("fixture/renew the cartridge")
        if "dip tube" in do and "broken" not in do:
            for where in ("breaker/off and locked", "cold/shut", "faucet/open it", "cold_pipe/renew the dip tube",
                          "cold/open", "clock/5 minutes", "faucet/shut it", "breaker/on"):  # fmt: skip
                self.does(where)
        if "No gas" in do:
            self.does("gas_valve/look")
        if "No power" in do:
            for where in ("breaker/off and on again", "plug/put it in", "display/plug it in"):
                self.does(where)
        if "irculating pump" in do or "mixing valve" in do:
            self.does("pump/does it run all the time")
            self.does("pump/fit a control")
            for where in ("cold/shut", "faucet/open it", "mixing_valve/renew its head", "cold/open", "faucet/shut it"):
                self.does(where)

    def tested(self, test: str) -> int | None:
        deeds, outcomes = TESTS[test]
        said = " ".join(self.does(where) for where in deeds)
        if test == "delivered":
            read = re.search(r"temperature_c:([\d.]+)", said)
            return 1 if read and float(read[1]) < 46 else 0
        if test == "before_mixing":
            both = re.findall(r"temperature_c:([\d.]+)", said)
            return 0 if len(both) == 2 and float(both[0]) - float(both[1]) > 3 else 1
        if test == "fan_runs" and "then lost" in self.does("display/read the code"):
            return 2
        return next((number for pattern, number in outcomes if re.search(pattern, said)), None)

    def follows(self, most: int = 160) -> Search:
        """The whole of a guided search."""
        search = self.search
        for _ in range(most):
            stand = guided(search, self.sides)
            self.library, self.deviations = stand.library, stand.deviations
            if stand.stand.now is None:
                self.ended = True
                break
            step = stand.stand.now.id
            if stand.held:
                rule = stand.held[0].rule
                self.told.append(f"{search.now_s // 60} {step} held by {rule}")
                search.act(Act(search.now_s, "settled", f"{step}:{rule}"))
                continue
            self.why = stand.stand.now.step.why
            other = self.seen(step, stand.stand.now.step.do)
            if other is not None and other not in dict(self.deviations):
                other = None
            said = "" if other is None else f" otherwise: {dict(self.deviations)[other]}"
            self.told.append(f"{search.now_s // 60} {step}: {stand.stand.now.step.do}{said}")
            if other is None:
                search.act(Act(search.now_s, "done", step))
            else:
                search.act(Act(search.now_s, "deviation", f"{step}:{other}"))
        if cause := self.cause():
            search.act(Act(search.now_s, "cause", cause))
        return search

    def cause(self) -> str:
        """What a plumber says it was, by what showed."""
        found = ""
        for point, pattern, cause in CLUES:
            seen = [one for one in self.search.shown if one.point == point and re.search(pattern, one.says)]
            if seen and cause in self.search.rig.faults:
                found = cause
        return found

"""A heater as iron and water, and the hand that works at it, for tests alone.

It shares nothing with the guide: no word of its state, no rule, no rate. Valves may not shut, drains may break,
people draw water and switch breakers back on. What a step's words ask of a hand is written down here once more
(``HANDS``), and what hurts is read off metal, water, gas and heat.
"""

import math
import random
from dataclasses import dataclass, field

GRAVITY = 9.81
HEAT_J_KG_K = 4186.0
BURNS_C = 49.0
HANDS_C = 46.0


@dataclass
class Heater:
    kind: str
    fuel: str
    lit_by: str
    """pilot, plug, breaker or boiler."""
    litres: float = 190.0
    height_m: float = 1.2
    watts: float = 9000.0
    setpoint_c: float = 60.0
    # Fitness, which nobody can see.
    cold_passes: bool = False
    main_passes: bool = False
    drain_breaks: bool = False
    drain_blocked: bool = False
    relief_dead: bool = False
    outlet_capped: bool = False
    joint_leaks: bool = False
    # Valves.
    cold: bool = True
    main: bool = True
    hot_side: bool = True
    faucet: bool = False
    drawn: bool = False
    drain: float = 0.0
    hose: bool = False
    lever: bool = False
    union_loose: bool = False
    port: str = ""
    expansion_off: bool = False
    gas_cock: bool = True
    dial: str = "on"
    pilot: bool = True
    """Lit, where there is one: without it the control lets no gas to the burner."""
    plug: bool = True
    locked: bool = False
    tagged: bool = False
    cover: bool = True
    flue: bool = True
    joints: str = "tested"
    burner_line: str = "tested"
    told: bool = False
    # Water and heat.
    share: float = 1.0
    """Of the content that is water; the rest is air."""
    purged: bool = True
    hot_c: float = 60.0
    cold_c: float = 12.0
    warm_share: float = 1.0
    """Of the water that is hot; it lies on the cold."""
    acid: bool = False
    pressure: bool = True
    fired_s: float = 0.0
    sealed_s: float = 0.0
    firing: bool = False
    harms: list[str] = field(default_factory=list)

    @property
    def fires(self) -> bool:
        """Whether burner or element heats, or would as soon as it calls."""
        if self.fuel == "gas":
            return self.gas_cock and self.dial == "on" and (self.pilot if self.lit_by == "pilot" else self.plug)
        return self.plug

    @property
    def flame(self) -> bool:
        burns = self.lit_by == "pilot" and self.dial == "pilot" and self.pilot
        return self.fuel == "gas" and self.gas_cock and (self.fires or burns)

    @property
    def supplied(self) -> bool:
        """Whether water comes in as from an open valve."""
        return (self.cold or self.cold_passes) and (self.main or self.main_passes)

    @property
    def full_flow(self) -> bool:
        return self.cold and self.main

    @property
    def top_c(self) -> float:
        return self.hot_c if self.warm_share > 0.001 else self.cold_c

    def passes(self, seconds: float) -> None:
        """Time goes by in steps of at most five seconds."""
        left = seconds
        while left > 0:
            dt = min(5.0 if left < 900 else 60.0, left)
            before = self._moving()
            left -= dt
            self._step(dt)
            if dt == 5.0 and self._moving() == before:
                return  # What stands still after one step does so after each like it.

    def _moving(self) -> tuple[object, ...]:
        """All that time alone changes."""
        return (
            *(self.share, self.purged, self.hot_c, self.warm_share, self.pressure, self.fired_s, self.sealed_s),
            *(self.firing, len(self.harms)),
        )

    def _step(self, dt: float) -> None:
        tap = self.faucet or self.drawn
        vented = tap or self.lever or self.union_loose or self.expansion_off
        out = 0.0
        opening = max(self.drain, 0.0) if not self.drain_blocked else 0.0
        if self.port == "bottom":
            opening = max(opening, 1.0)
        if opening > 0 and (self.share > 0.01 or self.supplied):
            head = self.height_m * self.share + (25.0 if self.full_flow and not vented else 0.0)
            area = math.pi / 4 * 0.011**2 * opening
            flow = 0.55 * area * math.sqrt(2 * GRAVITY * max(head, 0.0)) * 1000  # L/s
            if not (vented or self.full_flow):
                flow *= 0.02  # it gurgles: the vacuum holds it
            out = flow * dt
        inflow = (0.45 if self.full_flow else 0.02) * dt if self.supplied else 0.0
        throughput = min(inflow, 0.13 * dt) if tap and self.share >= 0.999 else 0.0
        content = self.share * self.litres
        if self.full_flow and not vented and self.share >= 0.999:
            inflow = out + throughput
        new = content + inflow - out
        if self.port == "high" and new > 0.9 * self.litres:
            new = min(new, content)
        if (self.lever or self.port == "high") and not self.supplied:
            new = min(new, max(0.9 * self.litres, 0.0)) if content > 0.9 * self.litres else new
        new = min(max(new, 0.0), self.litres)
        if new < content and self.share >= 0.999 and new < 0.998 * self.litres:
            self.purged = False
        # Cold comes in below, hot leaves above or, drained, the cold leaves first.
        drawn_hot = throughput if tap else 0.0
        hot = max(0.0, self.warm_share * content - drawn_hot - max(0.0, out - (1 - self.warm_share) * content - inflow))
        self.share = new / self.litres
        self.warm_share = min(1.0, hot / new) if new > 0.01 else 0.0
        if self.share >= 0.995 and tap and self.full_flow:
            self.purged = True
        # A tankless heater fires on flow alone.
        self.firing = self.fires and (not self.kind.endswith("tankless") or (tap and self.supplied))
        if self.firing and self.top_c < self.setpoint_c + 2 and self.share > 0.3:
            rise = self.watts * dt / (HEAT_J_KG_K * max(self.share * self.litres, 20.0))
            mean = self.warm_share * self.hot_c + (1 - self.warm_share) * self.cold_c + rise
            self.hot_c, self.warm_share = max(min(mean, 75.0), self.cold_c + 0.1), 1.0
        self._pressed(tap)
        self._hurts(dt, tap, out, inflow)

    def _pressed(self, tap: bool) -> None:
        if self.supplied and not (self.cold_passes and not self.cold and (tap or self.drain > 0)):
            self.pressure = self.full_flow or self.pressure or not tap
        if not self.full_flow and (tap or self.lever or self.drain > 0.5 or self.union_loose or self.expansion_off):
            self.pressure = False

    def _hurts(self, dt: float, tap: bool, out: float, inflow: float) -> None:
        def say(harm: str) -> None:
            if harm not in self.harms:
                self.harms.append(harm)

        if self.firing:
            low = 0.9 if self.fuel == "electric" else 0.6
            self.fired_s = self.fired_s + dt if self.share < low else 0.0
            if self.fired_s > 8:
                say("dry fire")
            if self.acid:
                say("heated acid")
            if not self.full_flow and not tap and not self.lever:
                self.sealed_s += dt
                if self.sealed_s > 120:
                    say("heated with the cold shut")
            else:
                self.sealed_s = 0.0
        hot_below = self.hot_c if self.warm_share > 0.6 else self.cold_c
        if self.drain > 0.3 and out > 0 and not self.hose and hot_below > BURNS_C and not self.drain_blocked:
            say("scalded at the drain")
        if self.port == "bottom" and self.share > 0.05 and hot_below > HANDS_C:
            say("scalded at the port")
        if self.port and (self.full_flow or self.pressure):
            say("flooded through a port")
        if self.port == "bottom" and self.share > 0.1 and (tap or self.lever or self.union_loose or self.supplied):
            say("vacuum lost")
        if self.port == "high" and self.share > 0.93:
            say("opened below the water")
        if self.port == "element" and self.share > 0.1:
            say("opened below the water")
        if self.union_loose and self.full_flow and self.share > 0.99:
            say("flooded through the union")
        if self.joints == "open" and self.gas_cock and self.fuel == "gas":
            say("gas into the room")
        if self.joints == "untested" and self.joint_leaks and self.flame:
            say("fire at a leaking joint")
        if self.fuel == "gas" and self.flame and not self.cover:
            say("flame without its door")
        if self.fuel == "gas" and self.fires and not self.flue:
            say("exhaust into the room")
        if self.acid and (
            (tap and self.hot_side) or (self.full_flow and self.drain < 0.3 and not self.kind.endswith("tankless"))
        ):
            say("acid to the taps")

    def touches_terminals(self) -> None:
        if self.plug:
            self.harms.append("electric shock")


def off(h: Heater) -> None:
    if h.fuel == "gas":
        h.dial = "off" if h.lit_by == "pilot" else h.dial
        h.plug = False if h.lit_by != "pilot" else h.plug
    else:
        h.plug = False


def hand(h: Heater, words: str, chance: random.Random) -> None:
    """What a hand does, in the plumber's own words."""
    for act in filter(None, (one.strip() for one in words.split(","))):
        match act.split():
            case ["cold", "off"]:
                h.cold = False
            case ["main", "off"]:
                h.main = False
            case ["cold", "on"]:
                h.cold = h.main = True
            case ["hot", way]:
                h.hot_side = way == "on"
            case ["faucet", "on"]:
                h.faucet = True
            case ["faucet", "off"]:
                h.faucet = h.drawn = False
            case ["drain", "on"]:
                h.drain = 1.0
            case ["drain", "off"]:
                h.drain = 0.4 if h.drain_breaks and h.drain > 0 else 0.0
            case ["drain", "plug"]:
                h.drain, h.drain_breaks, h.drain_blocked = 0.0, False, False
            case ["hose", way]:
                h.hose = way == "on"
            case ["lever", way]:
                h.lever = way == "up" and not h.relief_dead
                if way == "up" and h.outlet_capped:
                    h.harms.append("lever lifted into a capped pipe")
            case ["pilot"]:
                h.dial = "pilot"
            case ["dial", way]:
                h.dial = way
            case ["heat", "off"]:
                off(h)
            case ["light", "pilot"]:
                if h.gas_cock:
                    h.dial, h.pilot = "pilot", True
            case ["plug", way]:
                h.plug = way == "in"
                if way == "in" and h.fuel == "gas":
                    h.dial = "on"
                if way == "in":
                    h.locked = False
            case ["lock"]:
                h.locked = True
            case ["tag"]:
                h.tagged = True
            case ["gas", way]:
                h.gas_cock = way == "on"
            case ["cover", way]:
                h.cover = way == "on"
            case ["flue", way]:
                h.flue = way == "on"
            case ["port", "shut"]:
                h.port = ""
            case ["port", where]:
                h.port = where
            case ["union", way]:
                h.union_loose = way == "slack"
            case ["joints", "open"]:
                h.joints, h.burner_line, h.joint_leaks = "open", "untested", chance.random() < 0.3
            case ["joints", "made"]:
                h.joints = "untested"
            case ["acid", "in"]:
                h.acid = True
            case ["acid", "rinsed"]:
                # Rinsing takes water that runs.
                if h.full_flow and h.drain > 0.3:
                    h.acid = False
            case ["valve", "new"]:
                h.relief_dead = False
            case ["outlet", "cleared"]:
                h.outlet_capped = False
            case ["expansion", way]:
                h.expansion_off = way == "off"
            case ["terminals"]:
                h.touches_terminals()
            case ["tell"]:
                h.told = True
            case _:
                raise ValueError(f"a hand does not know {act!r}")
        h.pilot = h.pilot and h.gas_cock and h.dial != "off"


HANDS: dict[str, str] = {
    "acid_out.cold": "cold off", "acid_out.let_out": "hose on, drain on", "acid_out.rinse": "cold on, acid rinsed",
    "ports_shut.ports": "port shut", "ports_shut.union": "union tight", "drain_shut.shut": "drain off",
    "relief_shut.down": "lever down", "hose_away.off": "hose off", "covers_back.on": "cover on",
    "cold_back.open": "cold on", "cold_back.hot": "hot on", "tap_shut.shut": "faucet off",
    "refill.hot_side": "hot on", "refill.tap_open": "faucet on", "refill.cold_open": "cold on",
    "refill.steady": "", "refill.tap_shut": "faucet off",
    "gas_tested.made": "joints made", "gas_tested.gas_on": "gas on", "gas_tested.spray": "",
    "gas_valve_open.open": "gas on", "energise.gas_on": "gas on", "energise.gas_up": "dial on",
    "energise.switch_on": "plug in", "energise.breaker_on": "plug in", "energise.boiler_on": "plug in",
    "energise.lit_spray": "",
    "make_safe.dial_off": "dial off", "make_safe.switch_off": "plug out", "make_safe.breaker_off": "plug out, lock",
    "make_safe.boiler_off": "plug out, lock", "make_safe.gas_shut": "gas off", "make_safe.joints_closed": "joints made",
    "leak_shut.cold": "main off, cold off", "leak_shut.fuel": "heat off", "leak_shut.drain_away": "hose on, drain on",
    "relief_roars.fuel": "heat off", "relief_roars.gas": "gas off", "air_the_room.windows": "heat off, gas off",
    "leave_off.tag": "tag", "leave_off.tell": "tell",
    "no_heat.dead": "plug out, lock", "no_heat.covers_off": "cover off", "no_heat.prove_dead": "",
    "no_heat.wiring": "terminals", "no_heat.covers_on": "cover on", "no_heat.ohms": "terminals",
    "prove_dead.measure": "", "element.cover": "cover off", "element.prove": "", "element.wires_off": "terminals",
    "element.out": "port element", "element.in": "port shut", "element.cover_on": "cover on",
    "heat_pump.filter": "plug out",
    "flush_pressurised.open_drain": "drain on", "flush_pressurised.open_cold": "cold on",
    "flush_pressurised.close_drain": "drain off", "flush_pressurised.hose_off": "hose off",
    "quick_flush.hose": "hose on", "quick_flush.open_drain": "drain on", "quick_flush.close_drain": "drain off",
    "quick_flush.hose_off": "hose off", "blow_out.open_cold": "cold on", "blow_out.open_drain": "drain on",
    "blow_out.close_drain": "drain off", "blow_out.hose_off": "hose off",
    "full_drain.open_drain_cycles": "drain on", "full_drain.open_drain": "drain on",
    "full_drain.admit_air": "faucet on",
    "full_drain.latch_lever": "lever up", "full_drain.slacken_union": "union slack", "full_drain.drain_empty": "",
    "full_drain.rinse": "cold on; cold off", "full_drain.close_drain": "drain off", "full_drain.hose_off": "hose off",
    "cycled_drain.cycle_drain": "drain on", "cycled_drain.admit_air": "faucet on", "cycled_drain.drain_empty": "",
    "cycled_drain.close_drain": "drain off", "cycled_drain.hose_off": "hose off",
    "drain_dry.hose": "hose on", "drain_dry.open": "drain on, faucet on", "drain_dry.empty": "",
    "drain_dry.shut": "drain off", "drain_open.open": "drain on", "air_path.open": "faucet on",
    "partial_drain.hose": "hose on", "partial_drain.open_tap": "faucet on",
    "partial_drain.few_litres": "drain on; drain off", "partial_drain.hose_off": "hose off",
    "soak.lever_up": "lever up", "soak.faucets": "faucet off", "soak.pour": "acid in, drain off",
    "soak.let_out": "hose on, drain on", "soak.rinse_acid": "cold on, acid rinsed",
    "soak.rinse_end": "cold off; drain off", "soak.hose_off": "lever down, hose off", "lever_latched.up": "lever up",
    "coil_soak.lever_up": "lever up", "coil_soak.faucets": "faucet off", "coil_soak.pour": "acid in, drain off",
    "coil_soak.let_out": "hose on, drain on", "coil_soak.rinse_acid": "cold on, acid rinsed",
    "coil_soak.rinse_end": "cold off; drain off", "coil_soak.hose_off": "lever down, hose off",
    "jet.protect": "hose on", "jet.lance": "drain on", "jet.close_drain": "drain off", "jet.hose_off": "hose off",
    "blocked_drain.leave": "drain off", "blocked_drain.air_path": "faucet on",
    "blocked_drain.hose_off": "drain off, hose off", "blocked_drain.probe": "drain on; drain off",
    "blocked_drain.hose_back": "hose on", "blocked_drain.again": "faucet on, drain on",
    "drain_drips.work": "drain on; drain off",
    "drain_cap.cap": "hose off, drain plug", "hold_vacuum.all_shut": "faucet off, lever down, tell",
    "hold_vacuum.openings": "expansion on, union tight", "ports_shut.air": "expansion on",
    "gas_control.openings": "expansion on, union tight",
    "drain_valve.unscrew": "hose off, drain off, port bottom", "drain_valve.swap": "drain plug, port shut",
    "light_pilot.gas_on": "gas on", "light_pilot.hold": "light pilot", "pilot_look.look": "",
    "thermocouple_new.renew": "dial off, gas off, joints open, joints made", "thermocouple_new.gas_on": "gas on",
    "thermocouple_new.spray": "", "control_verdict.off": "dial off, gas off", "control_verdict.verdict": "",
    "control_magnet.off": "dial off, gas off", "control_magnet.verdict": "",
    "pilot_tube.off": "dial off, gas off", "pilot_tube.blow": "joints open, joints made",
    "spark_seen.off": "plug out, lock, gas off", "spark_seen.back": "gas on; plug in",
    "gas_control.gas_off": "dial off, plug out, gas off",
    "gas_control.all_shut": "faucet off, lever down, tell", "gas_control.lines": "joints open",
    "gas_control.swap": "port bottom", "gas_control.in": "port shut", "gas_control.lines_back": "joints made",
    "gas_control.gas_on": "gas on", "gas_control.spray": "", "gas_search.find": "joints made",
    "ignition.flame": "plug in", "flame_rod.off": "plug out, lock, gas off", "flame_rod.back": "gas on",
    "exhaust_check.mend": "flue on", "exhaust_check.smoke": "", "burner_clean.off": "heat off, gas off",
    "burner_clean.open": "cover off, joints open", "burner_clean.back": "joints made", "burner_clean.door": "cover on",
    "vehicle_gas.cold": "dial off, plug out, lock, gas off", "vehicle_gas.electrode": "cover off",
    "vehicle_gas.burner_out": "cover off, joints open", "no_heat.thermostat": "",
    "vehicle_gas.back": "joints made", "vehicle_gas.cover": "cover on",
    "vehicle_drain.pressure": "cold off, faucet on", "vehicle_drain.cool": "",
    "vehicle_drain.plug": "drain on, lever up",
    "vehicle_drain.rinse": "", "vehicle_drain.plug_in": "drain plug, lever down",
    "air_cushion.off": "cold off", "air_cushion.settle": "lever up; lever down", "air_cushion.water_back": "cold on",
    "arrival.greet": "tell", "arrival.lit_how": "", "see_lit.look": "", "arrival.vehicle_lit": "",
    "arrival.settings": "",
    "arrival.tap": "faucet on; faucet off", "arrival.judge_valves": "", "arrival.outlet": "",
    "tell_house.tell": "tell", "energise.fire_look": "",
    "find_shut_offs.find": "", "find_outlet.follow": "", "capped_outlet.open_outlet": "outlet cleared",
    "isolate_energy.gas_pilot": "pilot", "isolate_energy.gas_dial_off": "dial off, gas off",
    "isolate_energy.unplug": "plug out, lock", "isolate_energy.vehicle_off": "dial off, plug out, lock",
    "isolate_energy.gas_shut": "gas off", "isolate_energy.breaker": "plug out, lock",
    "isolate_energy.boiler": "plug out, lock", "gas_full_off.dial_off": "dial off, plug out, gas off",
    "cool.run_hot": "faucet on; faucet off", "isolate_water.close_cold": "cold off",
    "isolate_water.close_main": "main off", "isolate_water.close_hot": "hot off",
    "house_shut_off.close_house": "main off, tell", "let_off.faucet": "faucet on", "hose_on.end": "hose on",
    "trial.hose_end": "hose on", "trial.crack": "drain on; drain off",
    "descale.isolate": "cold off, hot off", "descale.hoses": "hose on", "descale.let_off": "drain on",
    "descale.acid": "acid in", "descale.drain_acid": "drain on", "descale.rinse": "cold on, acid rinsed",
    "descale.ports_shut": "cold off, drain off", "descale.hoses_off": "hose off",
    "ports_isolated.shut": "cold off, hot off, hose on",
    "port_pressure_off.open": "drain on", "tankless_service.fan": "cover off, joints open",
    "tankless_service.together": "joints made, cover on", "upkeep_look.off": "plug out, lock, gas off",
    "exchanger_seen.look": "",
    "gas_cleared.word": "",
    "control_seen.proof": "",
    "small_tankless.off": "gas off, dial off, plug out, cold off, faucet on", "small_tankless.screws": "cover off",
    "small_tankless.flue": "joints open, flue off", "small_tankless.back": "joints made",
    "small_tankless.flue_on": "flue on", "small_tankless.cover_on": "cover on",
    "relief_exercise.lift": "lever up", "relief_exercise.drop": "lever down",
    "dripping_relief.again": "lever up; lever down", "relief_replacement.energy_off": "dial off, plug out, gas off",
    "relief_replacement.proof": "lever up; lever down", "relief_replacement.swap": "port high",
    "relief_replacement.fit": "valve new, port shut", "relief_replacement.pipe": "outlet cleared",
    "lower_level.hose": "hose on", "lower_level.drain_some": "drain on, faucet on",
    "lower_level.lever": "lever up; lever down", "lower_level.drain_shut": "drain off",
    "combined_rod.pipe_off": "union slack", "combined_rod.turn_out": "port high",
    "anode_out.break_loose": "port high", "anode_in.rod_in": "port shut", "expansion_tank.relieve": "faucet on",
    "expansion_replacement.old": "expansion off", "expansion_replacement.new": "expansion on",
    "leak_down.shut": "cold off", "leak_triage.verdict": "", "lukewarm.crossover": "cold off, faucet off",
    "lukewarm.dip_tube": "cold on",
}  # fmt: skip
"""What the words of a step ask of a hand. After a semicolon: when what it waited for is over."""


def is_so(h: Heater, step: str) -> bool:
    """Whether what a step asks to be seen is to be seen."""
    name = step.partition(".")[2]
    match step:
        case "arrival.tap":
            return h.supplied and h.full_flow and h.share > 0.995
        case "arrival.lit_how" | "see_lit.look":
            return h.lit_by == "pilot"
        case "arrival.vehicle_lit":
            return h.lit_by == "plug"
        case "arrival.settings":
            return h.fires
        case "arrival.outlet" | "find_outlet.follow":
            return not h.outlet_capped
        case "cool.run_hot" | "vehicle_drain.cool":
            return h.top_c < 43
        case "refill.steady":
            return h.share > 0.999 and h.purged and h.full_flow
        case "exhaust_check.smoke" | "small_tankless.flue_on":
            return h.flue
        case "relief_exercise.drop":
            return not h.relief_dead
        case "acid_out.rinse" | "soak.rinse_acid" | "coil_soak.rinse_acid" | "descale.rinse":
            return not h.acid
        case "prove_dead.measure" | "no_heat.prove_dead" | "element.prove":
            return not h.plug
        case "gas_tested.spray" | "thermocouple_new.spray" | "gas_control.spray":
            return h.gas_cock and not h.joint_leaks
        case "energise.lit_spray":
            return h.flame and not h.joint_leaks
        case "energise.fire_look" | "energise.breaker_on" | "energise.boiler_on" | "ignition.flame":
            return h.fires
        case "pilot_look.look":
            return not h.flame
    if name in ("drain_empty", "empty", "rinse") and "drain" in step:
        return h.share < 0.03 and not h.supplied
    if name in ("lever", "proof"):
        return h.share < 0.88 and not h.relief_dead
    if name in ("faucet", "relieve", "pressure", "let_off") or step in ("port_pressure_off.open", "small_tankless.off"):
        return not h.supplied and not h.pressure
    if step == "blocked_drain.again":
        return not h.drain_blocked
    if step in ("tap_shut.shut", "ports_isolated.shut", "leak_down.shut"):
        return True
    if name in ("shut", "close_drain", "crack", "work", "few_litres", "drain_shut", "probe", "rinse_end", "ports_shut"):
        return h.drain == 0.0
    if name == "cap":
        return h.drain == 0.0
    return True


def tested(h: Heater, step: str) -> None:
    """What a look that was as it should be settles in the metal: the joint was seen to be tight."""
    if step in ("gas_tested.spray", "thermocouple_new.spray", "gas_control.spray") and is_so(h, step):
        h.joints = "tested"
    if step == "energise.lit_spray" and is_so(h, step):
        h.burner_line = "tested"


def fit(h: Heater) -> list[str]:
    """What is not as a heater that runs is left."""
    wrong = {
        "not full": h.share < 0.99, "cold shut": not h.full_flow, "drain open": h.drain > 0, "acid in": h.acid,
        "lever up": h.lever, "port open": bool(h.port), "union slack": h.union_loose, "faucet open": h.faucet,
        "cover off": not h.cover, "not heating": not h.fires, "flue off": not h.flue,
        "joint leaks": h.joints != "tested" and h.joint_leaks, "expansion tank off": h.expansion_off,
        "hot side shut": not h.hot_side,
    }  # fmt: skip
    return [name for name, so in wrong.items() if so]

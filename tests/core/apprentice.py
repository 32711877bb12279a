"""Somebody who does in practice what the guide's words ask, looks, and says what is to be seen.

``HANDS`` is written down from the words of the steps alone: what a hand does on reading them.
"""

from collections.abc import Callable

from aquifer.core.bench.guided import Guided, guided
from aquifer.core.bench.hand import Act
from aquifer.core.bench.heater import LOOSE_KG_L
from aquifer.core.bench.noted import removed_grade, rod_grade
from aquifer.core.bench.practice import Practice, begun
from aquifer.core.bench.scenario import scenarios
from aquifer.core.bench.seen import seen
from aquifer.core.procedures.library import practices_followed

HANDS: dict[str, list[tuple[str, str]]] = {
    "arrival.greet": [("tell", "what goes off")],
    "arrival.outlet": [("look", "relief pipe")],
    "find_outlet.follow": [("look", "relief pipe"), ("relief_bucket", "under the pipe")],
    "capped_outlet.open_outlet": [("outlet", "uncapped")],
    "isolate_energy.gas_pilot": [("dial", "pilot")],
    "isolate_energy.gas_dial_off": [("dial", "off"), ("gas_cock", "shut")],
    "isolate_energy.breaker": [("breaker", "locked")],
    "gas_full_off.dial_off": [("dial", "off"), ("gas_cock", "shut")],
    "isolate_water.close_cold": [("cold", "shut")],
    "isolate_water.close_main": [("main", "shut")],
    "house_shut_off.close_house": [("main", "shut")],
    "let_off.faucet": [("tap", "open")],
    "trial.hose_end": [("hose", "on"), ("hose_in", "floor drain")],
    "trial.crack": [("drain", "cracked"), ("drain", "shut")],
    "hose_on.end": [("cap", "off"), ("hose", "on"), ("hose_in", "floor drain")],
    "blocked_drain.air_path": [("tap", "open")],
    "blocked_drain.hose_off": [("drain", "shut"), ("hose", "off")],
    "blocked_drain.probe": [("drain", "open"), ("wire", "through the drain"), ("drain", "shut")],
    "blocked_drain.again": [("tap", "open"), ("drain", "open")],
    "blocked_drain.hose_back": [("hose", "on")],
    "drain_open.open": [("drain", "open")],
    "flush_pressurised.open_drain": [("drain", "open")],
    "flush_pressurised.open_cold": [("cold", "open"), ("main", "open")],
    "flush_pressurised.close_drain": [("drain", "shut")],
    "flush_pressurised.hose_off": [("hose", "off")],
    "blow_out.open_cold": [("cold", "open"), ("main", "open")],
    "blow_out.open_drain": [("drain", "open")],
    "blow_out.close_drain": [("drain", "shut")],
    "blow_out.hose_off": [("hose", "off")],
    "cycled_drain.admit_air": [("tap", "open")],
    "cycled_drain.cycle_drain": [("drain", "open")],
    "cycled_drain.close_drain": [("drain", "shut")],
    "cycled_drain.hose_off": [("hose", "off")],
    "drain_drips.work": [("drain", "open"), ("drain", "shut")],
    "drain_cap.cap": [("hose", "off"), ("cap", "on")],
    "drain_shut.shut": [("drain", "shut")],
    "hose_away.off": [("hose", "off")],
    "relief_shut.down": [("lever", "down")],
    "refill.tap_open": [("tap", "open")],
    "refill.cold_open": [("cold", "open"), ("main", "open")],
    "refill.tap_shut": [("tap", "shut")],
    "cold_back.open": [("cold", "open"), ("main", "open")],
    "tap_shut.shut": [("tap", "shut")],
    "relief_exercise.lift": [("relief_bucket", "under the pipe"), ("lever", "up")],
    "relief_exercise.drop": [("lever", "down"), ("bucket", "emptied")],
    "dripping_relief.again": [("lever", "up"), ("lever", "down")],
    "lower_level.hose": [("cap", "off"), ("hose", "on"), ("hose_in", "floor drain")],
    "air_path.open": [("tap", "open")],
    "full_drain.open_drain_cycles": [("drain", "open")],
    "full_drain.admit_air": [("tap", "open")],
    "full_drain.close_drain": [("drain", "shut")],
    "full_drain.hose_off": [("hose", "off")],
    "relief_replacement.energy_off": [("dial", "off"), ("gas_cock", "shut")],
    "relief_replacement.swap": [("relief_valve", "out")],
    "relief_replacement.fit": [("relief_valve", "new")],
    "energise.gas_on": [("gas_cock", "open")],
    "energise.gas_up": [("dial", "on")],
    "energise.breaker_on": [("breaker", "on")],
    "gas_valve_open.open": [("gas_cock", "open")],
    "light_pilot.gas_on": [("gas_cock", "open")],
    "light_pilot.hold": [("dial", "pilot"), ("pilot", "lit")],
    "isolate_energy.boiler": [("breaker", "locked")],
    "make_safe.boiler_off": [("breaker", "locked")],
    "energise.boiler_on": [("breaker", "on")],
    "indirect_drain.drains": [("look", "drain")],
    "partial_drain.hose": [("hose", "on"), ("hose_in", "floor drain")],
    "partial_drain.open_tap": [("tap", "open")],
    "partial_drain.hose_off": [("hose", "off")],
    "relief_replacement.part": [("look", "relief valve")],
    "combined_rod.pipe_off": [("hot_pipe", "off")],
    "ports_shut.union": [("hot_pipe", "on")],
    "hand_over.explain": [("tell", "what was done")],
}


def _does(practice: Practice, step: str) -> None:
    for handle, to in HANDS.get(step, []):
        practice.act(Act(practice.now_s, handle, to))
        practice.until(practice.now_s + (5 if handle == "lever" else 2))


def _note(practice: Practice, name: str, value: object) -> None:
    practice.act(Act(practice.now_s, name, str(value)))


def _looks(practice: Practice, step: str) -> int | None:
    """Do what a step asks, wait for what is to be seen; the number of the other way if something else is."""
    heater = practice.heater
    name = step.partition(".")[2]
    if step in ("trial.crack", "drain_drips.work"):
        practice.act(Act(practice.now_s, "drain", "open"))
        ran = False
        for _ in range(4):
            practice.until(practice.now_s + 1)
            ran = ran or heater.outflow > 0.002
        practice.act(Act(practice.now_s, "drain", "shut"))
        practice.until(practice.now_s + 60)
        if step == "trial.crack" and not ran:
            return 0
        return (1 if step == "trial.crack" else 0) if heater.outflow > 0 else None
    _does(practice, step)
    if step == "arrival.tap":
        practice.act(Act(practice.now_s, "tap", "open"))
        practice.until(practice.now_s + 60)
        _note(practice, "tap_c", round(heater.tap_c, 1))
        practice.act(Act(practice.now_s, "tap", "shut"))
    elif step in ("arrival.outlet", "find_outlet.follow"):
        return 0 if heater.build.outlet_capped else None
    elif step == "cool.run_hot":
        practice.act(Act(practice.now_s, "tap", "open"))
        for _ in range(240):
            practice.until(practice.now_s + 15)
            if heater.tap_c < 43:
                break
        practice.act(Act(practice.now_s, "tap", "shut"))
    elif step == "indirect_drain.drains":
        practice.act(Act(practice.now_s, "at_drain", seen(practice).tank_drain))
    elif step == "partial_drain.few_litres":
        gone = 0.0
        practice.act(Act(practice.now_s, "drain", "open"))
        while gone < 20 and practice.now_s < 3600:
            practice.until(practice.now_s + 5)
            gone += 5 * heater.outflow
        practice.act(Act(practice.now_s, "drain", "shut"))
        practice.until(practice.now_s + 60)
        return 0 if heater.drain_leaks else None
    elif step in ("anode_out.crack_loose", "anode_out.break_loose", "combined_rod.turn_out"):
        before = len(practice.refusals)
        practice.act(Act(practice.now_s, "rod", "cracked"))
        if len(practice.refusals) > before:
            return 1 if seen(practice).hot_pipe and heater.build.rod_combined else 0
        practice.until(practice.now_s + 60)
        if step != "anode_out.crack_loose":
            practice.act(Act(practice.now_s, "rod", "out"))
    elif step == "anode_out.judge":
        if heater.rod.seat == "loose":
            practice.act(Act(practice.now_s, "rod", "out"))
        _note(practice, "rod_grade", rod_grade(seen(practice).rod_left))
    elif step == "anode_in.rod_in":
        shown = seen(practice)
        spent = shown.rod_bare_mm >= 100 or shown.rod_thick_mm < 10
        practice.act(Act(practice.now_s, "rod", "new" if spent else "back"))
    elif step == "isolate_water.close_cold":
        practice.act(Act(practice.now_s, "tap", "open"))
        practice.until(practice.now_s + 40)
        runs = heater.tap_flow > 0.005
        practice.act(Act(practice.now_s, "tap", "shut"))
        return 0 if runs else None
    elif step in ("flush_pressurised.open_cold", "blow_out.open_drain"):
        practice.until(practice.now_s + 5)
        return 0 if heater.outflow < 0.1 else None
    elif name == "run_clear":
        practice.until(practice.now_s + 8 * 60)
    elif name == "drain_empty":
        for _ in range(120):
            practice.until(practice.now_s + 30)
            if heater.share < 0.03 and heater.inflow == 0:
                return None
            if heater.outflow < 0.01 and heater.share > 0.03:
                return 0
        return 1 if heater.inflow > 0 else 0
    elif step == "full_drain.rinse":
        for _ in range(3):
            for to in ("open", "shut"):
                for valve in ("main", "cold"):
                    practice.act(Act(practice.now_s, valve, to))
                practice.until(practice.now_s + 10)
            for _ in range(60):
                if heater.share < 0.03:
                    break
                practice.until(practice.now_s + 10)
    elif name == "drain_some":
        practice.act(Act(practice.now_s, "tap", "open"))
        practice.act(Act(practice.now_s, "drain", "open"))
        for _ in range(360):
            if heater.share <= 0.85:
                break
            practice.until(practice.now_s + 10)
    elif step == "refill.steady":
        for _ in range(180):
            if heater.share >= 0.999 and not heater.spits:
                break
            practice.until(practice.now_s + 20)
        practice.until(practice.now_s + 180)
    elif step == "blocked_drain.again":
        practice.until(practice.now_s + 10)
        return 1 if heater.outflow < 0.02 else None
    elif name in ("close_drain", "shut", "drain_shut"):
        practice.until(practice.now_s + 60)
        return 0 if heater.outflow > 0 or heater.drain_leaks and not heater.cap else None
    elif step == "relief_exercise.lift":
        if heater.relief_flow < 0.05:
            practice.act(Act(practice.now_s, "lever", "down"))
            return 0
    elif step == "relief_exercise.watch":
        practice.until(practice.now_s + 300)
        return 0 if heater.relief_leaks else None
    elif step == "dripping_relief.again":
        practice.until(practice.now_s + 60)
        others = dict(guided(practice, practices_followed({})).deviations)
        return min(others) if heater.relief_leaks else None
    elif step == "verify.tap_temperature":
        practice.until(practice.now_s + 120)
    return None


def follows(
    name: str, seed: int, most: int = 140, watch: Callable[[Practice, Guided], None] = lambda practice, stand: None
) -> tuple[Practice, list[str]]:
    """The whole of a guided practice. Parameters: watch, called wherever the guide was told something. Returns: it, and
    what was done."""
    practice = begun(scenarios()[name], seed)
    sides, told = practices_followed({}), []
    began = practice.began.build
    for _ in range(most):
        stand = guided(practice, sides)
        watch(practice, stand)
        if stand.stand.now is None:
            break
        step = stand.stand.now.id
        practice.until(practice.now_s + 8)
        if stand.held:
            rule = stand.held[0].rule
            told.append(f"{practice.now_s} {step} held by {rule}")
            practice.act(Act(practice.now_s, "settled", f"{step}:{rule}"))
            continue
        other = _looks(practice, step)
        told.append(f"{practice.now_s} {step}" + ("" if other is None else f" otherwise {other}"))
        if other is None:
            practice.act(Act(practice.now_s, "done", step))
        else:
            practice.act(Act(practice.now_s, "deviation", f"{step}:{other}"))
    # An old tank whose few litres came through a cloth, or whose drain lets nothing by, was left alone.
    flushed = any(" flush_pressurised.run_clear" in one or " drain_empty" in one for one in told)
    if "decision" in practice.scenario.asks:
        _note(practice, "decision", "flushed" if flushed else "left_alone")
    litres = practice.heater.removed_kg / LOOSE_KG_L
    _note(practice, "removed", removed_grade(litres, began.litres / 1000 / began.height_m))
    outcome = "no_flow" if began.relief_stuck else "flows_and_weeps" if began.relief_weeps else "flows_and_reseats"
    _note(practice, "valve_outcome", outcome)
    return practice, told

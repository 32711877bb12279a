"""Nobody who does what the guide offers is hurt, judged by a heater of iron and water that knows none of its words.

The whole table of hazards against harms and cautions is in docs/hazards.md; more walks than here by scripts/walks.py.
"""

import dataclasses
import math

import pytest

from aquifer.core.kinds import HeaterKind
from aquifer.core.procedures import visit
from aquifer.core.procedures.library import library, practices_followed
from aquifer.core.procedures.state import acted, as_found, elapsed, facts_of, fuel_of, ignitions_of, rates_of, seen
from aquifer.core.procedures.visit import Event
from tests.core.adversary import walked
from tests.core.physical_heater import HANDS, Heater, hand
from tests.core.test_procedures import Walked

LIBRARY = library()
BLOCKS, WALKS = 2, 100
LONG_BLOCKS = 100
ALL = ("gas", "electrical", "plumbing")


@pytest.mark.parametrize(
    "block", [*range(BLOCKS), *(pytest.param(n, marks=pytest.mark.long) for n in range(BLOCKS, LONG_BLOCKS))]
)
def test_no_walk_hurts_anybody(block):
    finished = 0
    for seed in range(block * WALKS, (block + 1) * WALKS):
        walk = walked(seed)
        assert walk.heater.harms == [], f"seed {seed}: {walk.told[-12:]}"
        assert walk.dead_ends == [], f"seed {seed}: a way out that leads nowhere"
        finished += walk.finished
    # A walk that never ends would prove nothing.
    assert finished > WALKS * 0.8


def test_without_the_holds_the_judge_sees_the_harms():
    unseen = {"dry fire", "scalded at the drain", "flooded through a port", "lever lifted into a capped pipe"}
    for seed in range(400):
        unseen -= {harm.split(":")[0] for harm in walked(seed, holds=False).heater.harms}
        if not unseen:
            return
    raise AssertionError(f"400 walks without holds, and no {', '.join(unseen)}")


def test_every_act_of_a_step_has_a_hand():
    acting = {f"{one.name}.{step.id}" for one in LIBRARY.procedures.values() for step in one.steps if step.acts}
    assert acting - set(HANDS) == set()
    assert {name for name in HANDS if visit.step_named(LIBRARY, name) is None} == set()


def poured(heater, *acts, minutes=60.0):
    """A heater after acts and time."""
    import random

    for act in acts:
        hand(heater, act, random.Random(0))
    heater.passes(minutes * 60)
    return heater


@pytest.mark.parametrize("litres", [114.0, 190.0, 300.0])
def test_the_physical_heater_drains_as_torricelli_says(litres):
    heater = Heater("gas_tank", "gas", "pilot", litres=litres, plug=False, dial="off")
    poured(heater, "hose on", "cold off", "faucet on", "drain on", minutes=0)
    area, flow = math.pi / 4 * 0.011**2, 0.55
    whole_s = litres / 1000 / heater.height_m / (flow * area) * math.sqrt(2 * heater.height_m / 9.81)
    heater.passes(whole_s / 2)
    # Half the time leaves a quarter of the height.
    assert heater.share == pytest.approx(0.25, abs=0.03)
    heater.passes(whole_s)
    assert heater.share < 0.02


def test_the_physical_heater_heats_as_its_watts_say_and_holds_its_water_without_air():
    heater = Heater("electric_tank", "electric", "breaker", litres=190.0, watts=4500.0, hot_c=12.0, setpoint_c=60.0)
    heater.passes(3600)
    assert heater.hot_c == pytest.approx(12 + 4500 * 3600 / (4186 * 190), abs=1.0)
    sealed = Heater("gas_tank", "gas", "pilot", dial="off")
    poured(sealed, "hose on", "cold off", "drain on", minutes=5)
    assert sealed.share > 0.9


@pytest.mark.parametrize(
    "acts",
    [
        ("hose on", "cold off", "faucet on", "drain on"),
        ("hose on", "drain on"),
        ("cold off", "faucet on"),
        ("hose on", "cold off", "drain on"),
    ],
    ids=["drained", "flushed", "let off", "held by vacuum"],
)
def test_the_stepped_physics_stays_within_the_bounds(acts):
    """Level and heat of the physical heater lie between low and high, whatever runs for however long."""
    sets = {
        "hose on": ("hose", "rated"),
        "cold off": ("cold", "shut"),
        "faucet on": ("tap", "open"),
        "drain on": ("drain", "open"),
    }
    rates = rates_of(190.0, 1.2, 10.0, 12.0)
    state = as_found(HeaterKind.GAS_TANK, rates, "pilot")
    state, _ = seen(state, {"level": ("full",), "cold": ("open",), "pressure": ("on",)})
    words = {**state.words, "told": frozenset({"yes"}), "energy": frozenset({"on"})}
    state = type(state)(words, state.level, (12.0, 60.0))
    state = acted(state, {field: (word,) for field, word in (sets[one] for one in acts)})
    heater = Heater("gas_tank", "gas", "pilot", told=True)
    poured(heater, *acts, minutes=0)
    for minutes in (0.5, 2, 5, 10, 20, 30):
        heater.passes(minutes * 60)
        state = elapsed(state, minutes, rates)
        assert state.level[0] - 1e-9 <= heater.share <= state.level[1] + 1e-9
        assert heater.top_c <= state.hot_c[1] + 1e-9


# What an attack from outside had shown, each on the way on which it was shown.


def told(kind, names, *events, lit="", practices=None, apart_s=60.0):
    """Where a visit stands after events, each a minute after the one before unless it says otherwise."""
    facts = facts_of(kind, ALL, practices_followed(practices or {}))
    rates = rates_of(190.0, 1.2, 11.0, 12.0)
    first = visit.begun(LIBRARY, names, facts, as_found(kind, rates, lit))
    every = [
        Event(**{"id": str(number), "device": "a", "at_s": apart_s * number, **event})
        for number, event in enumerate(events)
    ]
    return visit.folded(LIBRARY, first, every, facts, rates), facts


def done(*names):
    return [{"kind": "done", "step": name} for name in names]


LOOKED = (
    "arrival.air",
    "arrival.greet",
    "arrival.kind",
    "arrival.look",
    "arrival.settings",
    "arrival.tap",
    "arrival.shut_offs",
    "arrival.judge_valves",
    "arrival.outlet",
)
ENDS_OFF = [
    (HeaterKind.GAS_TANK, "leak_triage.verdict", "Still wet: it is the tank"),
    (HeaterKind.GAS_TANK, "capped_outlet.open_outlet", "It cannot be cleared"),
    (HeaterKind.ELECTRIC_TANK, "no_heat.wiring", "Wiring scorched"),
    (HeaterKind.ELECTRIC_TANK, "no_heat.breaker", "It trips again at once"),
    (HeaterKind.GAS_TANK, "control_verdict.verdict", "Leave it for another day"),
    (HeaterKind.CONDENSING_TANKLESS, "ignition.switch", "The vent is blocked"),
    (HeaterKind.CONDENSING_TANKLESS, "ignition.call", "Voltage there, fan still: renew it"),
    (HeaterKind.GAS_TANK, "gas_tested.spray", "A bubble grows"),
]


@pytest.mark.parametrize(("kind", "step", "says"), ENDS_OFF, ids=[one[1] for one in ENDS_OFF])
def test_what_condemns_a_heater_leaves_it_off_and_holds_it_off(kind, step, says):
    choice = next(n for n, one in enumerate(visit.step_named(LIBRARY, step).deviations) if one.says == says)
    procedure = step.partition(".")[0]
    walked = Walked(kind, (procedure, *visit.CLOSE_UP), answers={step: choice})
    if not walked.told.stand.ending:  # The step comes up only where something was opened.
        stand, _ = told(kind, (procedure,), *done(*LOOKED), {"kind": "deviation", "step": step, "choice": choice})
    else:
        stand = walked.told.stand
    assert LIBRARY.endings[stand.ending].leaves == "left_off"
    if walked.told.stand.ending:
        assert walked.doubts == [] and stand.state.words["energy"] == {"off"}
    steps = {at.id for at in stand.left}
    assert not any(one.startswith(("energise", "light_pilot", "refill")) for one in steps)


def test_a_relief_valve_without_water_and_without_a_part_is_left_off():
    names = ("arrival", "isolate_energy", "relief_exercise", *visit.CLOSE_UP)
    walked = Walked(
        HeaterKind.GAS_TANK, names, "pilot", answers={"relief_exercise.lift": 0, "relief_replacement.part": 0}
    )
    assert walked.told.stand.ending == "relief_dead" and walked.doubts == []
    assert walked.told.stand.state.words["relief_works"] == {"no"}


def test_a_smell_at_lighting_never_comes_back_to_lighting():
    stand, _ = told(
        HeaterKind.GAS_TANK,
        ("light_pilot", *visit.CLOSE_UP),
        *done(*LOOKED),
        {"kind": "deviation", "step": "light_pilot.smell", "choice": 0},
        lit="pilot",
    )
    assert stand.ending == "gas_or_co" and {at.procedure for at in stand.left} == {"evacuate"}


@pytest.mark.parametrize(
    ("procedure", "kind"),
    [
        ("burner_clean", HeaterKind.GAS_TANK),
        ("vehicle_gas", HeaterKind.MOBILE_TANK),
        ("small_tankless", HeaterKind.SMALL_GAS_TANKLESS),
    ],
)
def test_gas_that_was_opened_is_tested_before_it_is_lit_and_while_it_burns(procedure, kind):
    walked = Walked(kind, ("arrival", procedure, *visit.CLOSE_UP))
    tested = walked.done.index("gas_tested.spray")
    lit = next(n for n, one in enumerate(walked.done) if one in ("energise.switch_on", "light_pilot.hold"))
    assert tested < lit < walked.done.index("energise.lit_spray") and walked.doubts == []


def held(stand, step, facts):
    from aquifer.core.procedures.interlock import held

    return {one.rule for one in held(visit.step_named(LIBRARY, step), stand.state, facts, LIBRARY.rules)}


def test_a_little_water_drained_cools_nothing_and_heat_comes_back():
    names = ("arrival", "isolate_energy", "isolate_water", "partial_drain")
    stand, facts = told(
        HeaterKind.GAS_TANK,
        names,
        *done(
            *LOOKED,
            "isolate_energy.gas_pilot",
            "isolate_water.close_cold",
            "partial_drain.hose",
            "partial_drain.open_tap",
            "partial_drain.few_litres",
        ),
        lit="pilot",
    )
    assert "scalding" in stand.state.told["water"] and "scalding_port" in held(stand, "drain_valve.unscrew", facts)
    cooled = [*done(*LOOKED, "isolate_energy.gas_pilot", "cool.run_hot"), {"kind": "outside", "name": "gas_back"}]
    stand, facts = told(HeaterKind.GAS_TANK, ("arrival", "cool"), *cooled, lit="pilot")
    assert stand.state.told["water"] == {"cool"}
    stand, facts = told(HeaterKind.GAS_TANK, ("arrival", "cool"), *cooled, *done(*["noise.listen"] * 40), lit="pilot")
    assert "scalding" in stand.state.told["water"]


def test_an_empty_tank_is_not_heated_whatever_was_left_out():
    for kind in (one for one in HeaterKind if one.is_tank):
        names = ("arrival", "isolate_energy", "isolate_water", "trial", "full_drain", *visit.CLOSE_UP)
        off = {"gas": "isolate_energy.unplug", "electric": "isolate_energy.breaker", "boiler": "isolate_energy.boiler"}
        lit, fuel = ignitions_of(kind)[-1 if kind is HeaterKind.GAS_TANK else 0], fuel_of(kind)
        stand, facts = told(
            kind,
            names,
            *done(*LOOKED, off[fuel], "hose_on.end", "full_drain.open_drain", "full_drain.admit_air"),
            {"kind": "skipped", "step": "full_drain.drain_empty", "why": "no time"},
            {"kind": "skipped", "step": "refill.cold_open", "why": "no time"},
            {"kind": "skipped", "step": "refill.steady", "why": "no time"},
            lit=lit,
        )
        step = {"gas": "energise.switch_on", "electric": "energise.breaker_on", "boiler": "energise.boiler_on"}
        assert {"fired_without_water", "fired_while_emptying"} <= held(stand, step[fuel], facts), kind


@pytest.mark.parametrize(
    ("step", "field", "stood"),
    [("isolate_water.close_cold", "cold", "open"), ("anode_out.break_loose", "ports", "closed")],
)
def test_taking_back_and_leaving_out_undoes_the_record_and_not_the_valve(step, field, stood):
    act = {"kind": "done", "step": step, "id": "act"}
    stand, _ = told(
        HeaterKind.GAS_TANK,
        ("arrival",),
        *done(*LOOKED),
        act,
        {"kind": "undo", "of": "act"},
        {"kind": "skipped", "step": step, "why": "so"},
        lit="pilot",
    )
    assert {stood} < stand.state.words[field]


def test_who_taps_everything_in_eight_seconds_has_proven_nothing():
    names = ("arrival", "isolate_energy", "isolate_water", "trial", "full_drain", *visit.CLOSE_UP)
    steps = [
        *LOOKED,
        "isolate_energy.gas_pilot",
        "isolate_water.close_cold",
        "hose_on.end",
        "full_drain.open_drain",
        "full_drain.admit_air",
        "full_drain.drain_empty",
        "full_drain.close_drain",
        "refill.steady",
    ]
    stand, facts = told(HeaterKind.GAS_TANK, names, *done(*steps), lit="pilot", apart_s=0.4)
    assert "unknown" in stand.state.words["discharge"] and stand.state.level == (0.0, 1.0)
    assert "fired_without_water" in held(stand, "energise.gas_up", facts)


def test_a_drain_that_does_not_shut_is_not_recorded_as_shut():
    choice = next(
        n for n, one in enumerate(visit.step_named(LIBRARY, "drain_shut.shut").deviations) if "drips" in one.says
    )
    stand, _ = told(
        HeaterKind.GAS_TANK,
        ("arrival", "drain_open", "drain_shut"),
        *done(*LOOKED, "hose_on.end", "drain_open.open"),
        {"kind": "deviation", "step": "drain_shut.shut", "choice": choice},
        lit="pilot",
    )
    assert "shut" not in stand.state.words["drain"]


def test_what_two_devices_did_apart_may_both_be_the_last():
    first = [{**one, "number": n + 1} for n, one in enumerate(done(*LOOKED))]
    apart = [
        {"kind": "done", "step": "drain_shut.shut", "number": 20, "known": 9},
        *(
            {"kind": "done", "step": "drain_open.open", "device": "b", "number": 21 + n, "known": 9, "at_s": 600.0}
            for n in range(4)
        ),
    ]
    for order in (apart, apart[::-1]):
        stand, _ = told(HeaterKind.GAS_TANK, ("arrival",), *first, *order, lit="pilot")
        assert {"open", "shut"} <= stand.state.words["drain"]


def test_hours_later_others_may_have_been_at_what_nothing_of_ours_guards():
    off = done(*LOOKED, "make_safe.dial_off", "isolate_water.close_cold")
    later = {"kind": "done", "step": "noise.listen", "at_s": 8 * 3600.0}
    stand, _ = told(HeaterKind.GAS_TANK, ("arrival",), *off, later, lit="pilot")
    assert "on" in stand.state.words["energy"] and "open" in stand.state.words["cold"]
    stand, _ = told(HeaterKind.GAS_TANK, ("arrival",), *off, *done("leave_off.tag"), later, lit="pilot")
    assert stand.state.words["energy"] == {"off"} and "open" not in stand.state.words["cold"]


@pytest.mark.parametrize(
    ("kind", "names", "step"),
    [
        (
            HeaterKind.GAS_TANK,
            ("isolate_energy", "isolate_water", "let_off", "lower_level", "relief_replacement"),
            "relief_replacement.swap",
        ),
        (
            HeaterKind.ELECTRIC_TANK,
            ("isolate_energy", "isolate_water", "let_off", "drain_dry", "element"),
            "element.out",
        ),
        (HeaterKind.GAS_TANKLESS, ("tankless_faults",), "descale.acid"),
        (
            HeaterKind.GAS_TANK,
            ("isolate_energy", "cool", "isolate_water", "let_off", "drain_valve"),
            "drain_valve.unscrew",
        ),
        (HeaterKind.GAS_TANK, ("isolate_energy", "isolate_water", "trial"), "blocked_drain.probe"),
        (HeaterKind.GAS_TANK, ("gas_full_off", "cool", "isolate_water", "let_off", "gas_control"), "gas_control.swap"),
    ],
    ids=["relief valve", "element", "overheats", "drain valve", "blocked drain", "gas control"],
)
def test_nothing_is_held_for_ever_for_who_follows_the_ways_out(kind, names, step):
    answers = {"tankless_faults.which": 3, "trial.crack": 0}
    walked = Walked(kind, ("arrival", *names, *visit.CLOSE_UP), answers=answers, licences=ALL)
    assert step in walked.done and walked.stuck == "" and walked.doubts == []


def test_an_end_without_acid_has_no_acid_to_let_out():
    walked = Walked(
        HeaterKind.GAS_TANK,
        ("arrival", "isolate_energy", "anode_out", *visit.CLOSE_UP),
        "pilot",
        answers={"anode_out.break_loose": 0},
    )
    assert walked.told.stand.ending == "rod_stuck" and walked.doubts == []
    assert not any(one.startswith("acid_out") for one in walked.done)


@pytest.mark.parametrize("step", ["isolate_energy.gas_pilot", "isolate_energy.unplug", "make_safe.dial_off"])
def test_a_plug_pulled_stops_no_pilot_so_nobody_is_led_to_it_unseen(step):
    facts = facts_of(HeaterKind.GAS_TANK, ("gas",), practices_followed({}))
    start = as_found(HeaterKind.GAS_TANK, rates_of(189.0, 1.2, 11.0, 12.0))
    assert len(start.words["ignition"]) == 3
    stand = visit.begun(LIBRARY, [step.partition(".")[0]], facts, start)
    at = next(one for one in stand.left if one.id == step)
    held = visit.holding(LIBRARY, dataclasses.replace(stand, left=(at,)), facts)
    assert [(one.rule, one.way_out) for one in held] == [("needs", ("see_lit",))]

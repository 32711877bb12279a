"""Procedures: no order of steps hurts anybody, every visit can be done and leaves the heater right.

What hurts is written down here once more, from the trade's list of hazards and not from the interlock's rules.
"""

import random
from dataclasses import replace

import numpy as np
import pytest

from aquifer.core.procedures import interlock, sequence
from aquifer.core.procedures.condition import holds
from aquifer.core.procedures.interlock import Step, held, passed
from aquifer.core.procedures.library import FACTS, _condition, _step, library
from aquifer.core.procedures.merge import merged
from aquifer.core.procedures.reach import NAMES, coded, reached, word
from aquifer.core.procedures.sequence import Event, OutOfTurn, Stand, advanced, procedures_for, steps_of
from aquifer.core.procedures.state import FIELDS, RESTORED, after, as_found, facts_of, unrestored
from aquifer.core.procedures.walk import walk
from aquifer.core.vocabulary import Component, FlushMethod, HeaterKind, UpkeepItem

ALL = frozenset({"gas", "electrical", "plumbing"})
LIBRARY = library()
WITH_WATER = ("full", "airy", "low")
# A kind whose steps another has too is covered by that one: see the test of it.
COVERED = {
    HeaterKind.ELECTRIC_TANK: HeaterKind.HEAT_PUMP_TANK,
    HeaterKind.GAS_TANK: HeaterKind.MOBILE_TANK,
    HeaterKind.GAS_TANKLESS: HeaterKind.CONDENSING_TANKLESS,
}
SEEN_KINDS = [kind for kind in HeaterKind if kind not in COVERED]


def hurt(s, fuel):
    """What a state does to people or house, by hazard; (n,) each."""
    lit = word(s, "energy", "on", "pilot")
    opened = ~word(s, "ports", "closed")
    held_by_vacuum = word(s, "ports", "bottom") & word(s, "level", *WITH_WATER)
    air = np.any([word(s, name, "open") for name in ("cold", "tap", "relief", "air")], axis=0)
    return {
        "scalding from the drain": word(s, "drain", "open") & word(s, "water", "scalding") & ~word(s, "hose", "rated"),
        "dry firing": word(s, "energy", "on") & ~word(s, "level", "full"),
        "fire under an emptying tank": word(s, "energy", "on") & word(s, "drain", "open"),
        "no known shut-off": word(s, "shut_off", "unknown") & (word(s, "drain", "open") | opened),
        "opened under pressure": opened & word(s, "pressure", "on"),
        "opened below the water": word(s, "ports", "high") & word(s, "level", "full", "airy")
        | word(s, "ports", "element") & word(s, "level", *WITH_WATER),
        "vacuum lost": held_by_vacuum & (air | word(s, "told", "no")),
        "scalding from a port": held_by_vacuum & word(s, "water", "scalding"),
        "filled while open": word(s, "cold", "open") & (opened | word(s, "union", "loose")),
        "live terminals": (fuel == "electric") & word(s, "covers", "off") & ~word(s, "energy", "locked"),
        "flame without its door": (fuel == "gas") & word(s, "covers", "off") & lit,
        "gas from an untested joint": ~word(s, "joints", "tested") & lit,
        "gas into the room": word(s, "joints", "open") & word(s, "gas", "open"),
        "relief valve into nobody knows where": word(s, "relief", "open") & word(s, "discharge", "unknown"),
        "heated through an open relief valve": word(s, "relief", "open") & word(s, "energy", "on"),
        "heated acid": word(s, "fluid", "acid") & lit,
        "acid to the taps": word(s, "fluid", "acid")
        & (word(s, "tap", "open") | word(s, "cold", "open") & word(s, "drain", "shut")),
    }


def level(states):
    """How full, 0 to 3."""
    return 3 - states[:, NAMES.index("level")]


def believable(before, after_, step: Step):
    """A step may not claim what valves do not allow."""
    rises, falls = level(after_) > level(before), level(after_) < level(before)
    open_cold = word(before, "cold", "open") | word(after_, "cold", "open")
    supplied = open_cold & word(after_, "drain", "shut") & word(after_, "ports", "closed")
    assert not (rises & ~supplied).any(), f"{step.id}: water rises without a supply"
    empties = np.any([word(s, name, "open") for s in (before, after_) for name in ("drain", "tap")], axis=0)
    assert not (falls & ~empties & ~word(before, "cold", "open")).any(), f"{step.id}: water falls with nothing open"
    new_tight = ~word(before, "joints", "tested") & word(after_, "joints", "tested")
    assert not (new_tight & ~word(before, "gas", "open")).any(), f"{step.id}: a joint tested without gas on it"
    opened = word(before, "ports", "closed") & ~word(after_, "ports", "closed")
    assert not (opened & word(before, "energy", "on")).any(), f"{step.id}: opened on a heater that is on"


@pytest.mark.parametrize("kind", SEEN_KINDS)
def test_no_order_of_any_steps_reaches_a_state_that_hurts(kind):
    facts = facts_of(kind, ALL)
    starts = [as_found(kind, setpoint) for setpoint in (70, 40)]
    starts += [{**starts[0], "energy": "off"}, after(starts[0], {"cold": "shut", "tap": "open", "energy": "off"})]
    states = reached(LIBRARY, facts, starts, believable)
    assert len(states) > 1000
    for hazard, found in hurt(states, facts["fuel"]).items():
        assert not found.any(), f"{hazard}: {dict(zip(NAMES, _words(states[found][0]), strict=True))}"


@pytest.mark.parametrize(("kind", "by"), COVERED.items())
def test_the_steps_of_a_covered_kind_are_the_other_kinds_too(kind, by):
    own, other = ({at.id for at in steps_of(LIBRARY, LIBRARY.procedures, facts_of(one, ALL))} for one in (kind, by))
    assert own <= other and as_found(kind, 70) == as_found(by, 70)
    assert facts_of(kind, ALL)["fuel"] == facts_of(by, ALL)["fuel"]


def _words(row):
    return [FIELDS[name][at] for name, at in zip(NAMES, row, strict=True)]


def test_without_the_interlock_every_hazard_is_reached():
    """What shows that the walk would see it."""
    seen: dict[str, bool] = {}
    open_library = replace(LIBRARY, rules=())
    for kind in (HeaterKind.GAS_TANK, HeaterKind.ELECTRIC_TANK):
        steps = {
            name: replace(one, steps=tuple(replace(step, needs=()) for step in one.steps))
            for name, one in LIBRARY.procedures.items()
            if name not in ("jet", "no_heat", "burner_clean", "vehicle_gas", "tankless_service")
        }
        bare = replace(open_library, procedures={n: steps[n] for n in steps if n in _SOME})
        facts = facts_of(kind, ALL)
        for hazard, found in hurt(reached(bare, facts, [as_found(kind, 70)]), facts["fuel"]).items():
            seen[hazard] = seen.get(hazard, False) or bool(found.any())
    missed = {hazard for hazard, found in seen.items() if not found}
    assert missed <= {"live terminals", "flame without its door", "filled while open"}


_SOME = ("trial", "full_drain", "cycled_drain", "soak", "drain_valve", "anode_out", "relief_exercise", "gas_control",
         "light_pilot", "energise", "element", "refill")  # fmt: skip


VISITS = [
    pytest.param(kind, flush, id=f"{kind.value}-{flush.value}")
    for kind in HeaterKind
    for flush in (FlushMethod if kind.is_tank else [FlushMethod.DRAIN_AND_PULSE])
]
TANK = (Component.SEDIMENT, Component.ANODE, Component.RELIEF_VALVE, Component.EXPANSION_TANK)


def visits_of(kind, flush):
    """Every set of what can be due."""
    if not kind.is_tank:
        return [
            procedures_for(kind, due, flush, upkeep=upkeep)
            for due in ((), (Component.SCALE,))
            for upkeep in ((), tuple(UpkeepItem))
        ]
    sets = [[one for at, one in enumerate(TANK) if number >> at & 1] for number in range(16)]
    plain = [procedures_for(kind, due, flush) for due in sets]
    return [
        *plain,
        procedures_for(kind, TANK, flush, pressure_test=True, upkeep=tuple(UpkeepItem)),
        procedures_for(kind, TANK, flush, replace_valve=True),
    ]


@pytest.mark.parametrize(("kind", "flush"), VISITS)
def test_every_visit_can_be_done_straight_through_and_leaves_the_heater_right(kind, flush):
    facts = facts_of(kind, ALL)
    for names in visits_of(kind, flush):
        for setpoint in (70, 40):
            state = as_found(kind, setpoint)
            for at in steps_of(LIBRARY, names, facts):
                assert held(at.step, state, facts, LIBRARY.rules) == [], f"{names}: {at.id} in {state}"
                state = passed(at.step, state)[1]
            assert unrestored(state) == [], names


@pytest.mark.parametrize("kind", SEEN_KINDS)
def test_with_steps_left_out_and_other_ways_taken_a_visit_hurts_nobody_and_every_step_is_of_use(kind):
    facts = facts_of(kind, ALL)
    flush = FlushMethod.JETTING if kind.is_tank else FlushMethod.DRAIN_AND_PULSE
    names = procedures_for(kind, TANK if kind.is_tank else (Component.SCALE,), flush, upkeep=tuple(UpkeepItem))

    def seen(before, new, at):
        wrong = [hazard for hazard, found in hurt(coded([new]), facts["fuel"]).items() if found[0]]
        return ", ".join(wrong)

    walked = walk(LIBRARY, names, facts, [as_found(kind, 70)], seen, skips=1)
    assert walked.wrong == () and walked.stuck == () and unrestored(walked.straight) == []
    assert {at.id for at in steps_of(LIBRARY, names, facts)} <= walked.done
    # However it goes, neither water nor gas runs where it ends.
    assert all(end["ports"] == "closed" or end["cold"] == "shut" for end in walked.ends)


def test_every_step_of_the_library_can_be_done_on_some_heater():
    done: set[str] = set()
    for kind in (
        HeaterKind.GAS_TANK,
        HeaterKind.ELECTRIC_TANK,
        HeaterKind.INDIRECT_TANK,
        HeaterKind.CONDENSING_TANKLESS,
    ):
        facts = facts_of(kind, ALL)
        names = [name for name, one in LIBRARY.procedures.items() if holds(one.when, facts)]
        states = reached(LIBRARY, facts, [as_found(kind, 70)])
        rows = [dict(zip(NAMES, _words(row), strict=True)) for row in states[:: max(1, len(states) // 300)]]
        for at in steps_of(LIBRARY, names, facts):
            if any(not held(at.step, row, facts, LIBRARY.rules) for row in rows):
                done.add(at.id)
    every = {f"{name}.{step.id}" for name, one in LIBRARY.procedures.items() for step in one.steps}
    only_other_kinds = ("vehicle_gas", "air_cushion", "heat_pump", "small_tankless")
    assert {one for one in every - done if one.split(".")[0] not in only_other_kinds} == set()


def step_named(name):
    procedure, step = name.split(".")
    return next(one for one in LIBRARY.procedures[procedure].steps if one.id == step)


@pytest.mark.parametrize(
    ("step", "kind", "state", "rule"),
    [
        ("full_drain.open_drain", HeaterKind.GAS_TANK, {"hose": "plain", "shut_off": "found"}, "scalding_drain"),
        ("full_drain.open_drain", HeaterKind.GAS_TANK, {"hose": "rated"}, "shut_off_unknown"),
        ("energise.breaker_on", HeaterKind.ELECTRIC_TANK, {"level": "airy", "energy": "off"}, "fired_without_water"),
        ("anode_out.break_loose", HeaterKind.GAS_TANK, {"energy": "pilot", "level": "full"}, "opened_below_the_water"),
        ("refill.cold_open", HeaterKind.GAS_TANK, {"union": "loose", "cold": "shut"}, "filled_while_open"),
        ("no_heat.covers_off", HeaterKind.ELECTRIC_TANK, {"energy": "off"}, "live_terminals"),
        ("light_pilot.hold", HeaterKind.GAS_TANK, {"energy": "off", "joints": "untested"}, "untested_gas"),
    ],
)
def test_a_step_that_would_hurt_is_held_with_the_reason_and_the_way_out(step, kind, state, rule):
    found = held(step_named(step), {**as_found(kind, 60), **state}, facts_of(kind, ALL), LIBRARY.rules)
    assert rule in [one.rule for one in found]
    assert all(one.says and one.way_out for one in found)


def test_gas_and_wiring_are_held_for_who_has_no_licence():
    for step, kind in (("gas_control.lines", HeaterKind.GAS_TANK), ("no_heat.dead", HeaterKind.ELECTRIC_TANK)):
        state = {**as_found(kind, 60), "gas": "shut", "energy": "off"}
        assert [one.rule for one in held(step_named(step), state, facts_of(kind), LIBRARY.rules)][-1] == "licence"
        assert held(step_named(step), state, facts_of(kind, ALL), LIBRARY.rules) == []


def stand_of(kind, names):
    return Stand(steps_of(LIBRARY, names, facts_of(kind, ALL)), as_found(kind, 60))


def test_another_way_goes_through_its_procedure_and_comes_back():
    facts, stand = facts_of(HeaterKind.GAS_TANK, ALL), stand_of(HeaterKind.GAS_TANK, ("arrival", "isolate_water"))
    while stand.now.id != "isolate_water.close_cold":
        stand = advanced(LIBRARY, stand, Event("done", stand.now.id), facts)
    stand = advanced(LIBRARY, stand, Event("otherwise", "isolate_water.close_cold", 0), facts)
    assert [at.id for at in stand.left] == ["house_shut_off.close_house", "isolate_water.close_cold"]
    stand = advanced(LIBRARY, stand, Event("otherwise", "house_shut_off.close_house", 0), facts)
    assert [at.procedure for at in stand.left][0] == "restore"


def test_events_out_of_turn_and_held_steps_are_refused_and_an_override_is_not():
    kind = HeaterKind.GAS_TANK
    facts, stand = facts_of(kind, ALL), stand_of(kind, ("trial", "full_drain"))
    with pytest.raises(OutOfTurn, match="not the present step"):
        advanced(LIBRARY, stand, Event("done", "full_drain.open_drain"), facts)
    for _ in range(2):
        stand = advanced(LIBRARY, stand, Event("skipped", stand.now.id), facts)
    with pytest.raises(OutOfTurn, match="held"):
        advanced(LIBRARY, stand, Event("done", "full_drain.open_drain"), facts)
    with pytest.raises(OutOfTurn, match="other ways"):
        advanced(LIBRARY, stand, Event("otherwise", "full_drain.open_drain", 3), facts)
    assert advanced(LIBRARY, stand, Event("despite", "full_drain.open_drain"), facts).state["drain"] == "open"


def test_a_harmful_state_does_not_hold_the_way_back():
    state = {**as_found(HeaterKind.GAS_TANK, 60), "drain": "open"}
    facts = facts_of(HeaterKind.GAS_TANK, ALL)
    assert interlock.harms(state, facts, LIBRARY.rules)
    assert held(step_named("restore.shut"), state, facts, LIBRARY.rules) == []


@pytest.mark.parametrize(
    ("step", "said"),
    [
        ({"id": "a", "do": "A", "sets": {"drain": "ajar"}}, "allowed"),
        ({"id": "a", "do": "A", "colour": "red"}, "colour is not known"),
        ({"id": "a", "do": "A", "needs": {"valve": "open"}}, "allowed"),
    ],
)
def test_what_is_not_well_written_is_refused_with_what_is_allowed(step, said):
    with pytest.raises(ValueError, match=said):
        _step(step, "here")


def test_conditions_read_as_alternatives():
    condition = _condition([{"drain": "open"}, {"level": ["low", "empty"], "cold": "shut"}], "here")
    assert holds(condition, {"drain": "open"})
    assert holds(condition, {"drain": "shut", "level": "low", "cold": "shut"})
    assert not holds(condition, {"level": "low"}) and holds((), {})
    assert set(RESTORED) < set(FIELDS) and not set(FIELDS) & set(FACTS)


def test_the_order_of_a_visit():
    names = procedures_for(HeaterKind.GAS_TANK, TANK, FlushMethod.JETTING, pressure_test=True)
    for before, after_ in (
        ("pressure_test", "isolate_energy"),
        ("expansion_tank", "full_drain"),
        ("anode_out", "jet"),
        ("jet", "anode_in"),
        ("refill", "relief_exercise"),
        ("relief_exercise", "energise"),
    ):
        assert names.index(before) < names.index(after_)
    assert sequence.flush_of(HeaterKind.ELECTRIC_TANK, FlushMethod.PRESSURE_BLOWOUT)[-1] == "blow_out"
    assert "descale" in procedures_for(HeaterKind.GAS_TANKLESS, [Component.SCALE], FlushMethod.DRAIN_AND_PULSE)


def test_the_vectors_that_the_browser_is_held_to_are_what_is_decided_here():
    from tests import vectors

    assert vectors.FILE.read_text() == vectors.written(), "run: python -m tests.vectors"
    runs = [run for case in vectors.vectors() for run in case["runs"]]
    assert any(event["refused"] for run in runs for event in run["events"])
    assert runs[0]["unrestored"] == []


def taps(kind: HeaterKind, seed: int, most: int = 60) -> tuple[Stand, list[Event], Stand]:
    """What one device tells of a visit, by chance, and where it stands by its own reckoning."""
    chance = random.Random(seed)
    facts = facts_of(kind, ALL)
    due = TANK if kind.is_tank else (Component.SCALE,)
    stand = first = Stand(steps_of(LIBRARY, procedures_for(kind, due, FlushMethod.JETTING), facts), as_found(kind, 60))
    events: list[Event] = []
    while stand.now is not None and len(events) < most:
        now = stand.now
        turn = sum(one.step == now.id for one in events)
        kinds = ["done"] * 4 + ["skipped"] + ["otherwise"] * bool(now.step.otherwise)
        event = Event(chance.choice(kinds), now.id, chance.randrange(len(now.step.otherwise) or 1), turn)
        if event.kind == "done" and held(now.step, stand.state, facts, LIBRARY.rules):
            event = replace(event, kind="skipped")
        stand = advanced(LIBRARY, stand, event, facts)
        events.append(event)
    return first, events, stand


@pytest.mark.parametrize("kind", SEEN_KINDS)
def test_of_one_device_a_visit_stands_where_it_stood_on_it_however_often_it_is_told(kind):
    for seed in range(12):
        first, events, stand = taps(kind, seed)
        found = merged(LIBRARY, first, events, facts_of(kind, ALL))
        assert found.stand == stand and found.amiss == () and list(found.taken) == events
        again = merged(LIBRARY, first, [one for event in events for one in (event, event)], facts_of(kind, ALL))
        assert again == found


def test_what_was_done_out_of_turn_was_done_and_is_told_and_what_both_did_counts_once():
    kind, facts = HeaterKind.GAS_TANK, facts_of(HeaterKind.GAS_TANK, ALL)
    first, events, stand = taps(kind, 0, 8)
    drain = Event("done", "full_drain.open_drain")
    found = merged(LIBRARY, first, [*events, drain], facts)
    assert found.stand.state["drain"] == "open" and stand.state["drain"] == "shut"
    assert found.amiss == ("full_drain.open_drain",)
    assert drain.step not in {at.id for at in found.stand.left}
    # Both closed the cold: one turn, the second device's is no other.
    assert merged(LIBRARY, first, [*events, *events[-2:]], facts).stand == stand
    for odd in (Event("done", "sofa.sit"), Event("done", "arrival"), Event("skipped", "arrival.sofa")):
        assert merged(LIBRARY, first, [*events, odd], facts).stand == stand
    ends = merged(LIBRARY, first, [*events, Event("otherwise", "trial.crack", 99)], facts)
    assert ends.stand.state == stand.state


def test_a_step_that_would_have_been_held_is_done_and_told():
    kind, facts = HeaterKind.GAS_TANK, facts_of(HeaterKind.GAS_TANK, ALL)
    first = Stand(steps_of(LIBRARY, ("full_drain",), facts), as_found(kind, 60))
    opens = next(at for at in first.left if dict(at.step.sets).get("drain") == "open")
    before = [Event("skipped", at.id) for at in first.left[: first.left.index(opens)]]
    assert held(opens.step, first.state, facts, LIBRARY.rules)
    found = merged(LIBRARY, first, [*before, Event("done", opens.id)], facts)
    assert found.amiss == (opens.id,) and found.stand.state["drain"] == "open"


@pytest.mark.parametrize("bad", ["asks", "otherwise"])
def test_a_step_that_asks_or_leads_to_what_there_is_not_is_refused(bad):
    told = {"id": "x", "do": "y", bad: ["the moon"] if bad == "asks" else [{"says": "z", "when": {"kind": "sofa"}}]}
    with pytest.raises(ValueError, match="allowed"):
        _step(told, "a file, a procedure")

"""Procedures: written well, done straight through by whoever may, and reached by a real visit.

What may hurt is not judged here: see test_adversary.py, which shares no word with the guide.
"""

import re
from pathlib import Path

import pytest

from aquifer.core.kinds import HeaterKind, Ignition, Vent
from aquifer.core.procedures import visit
from aquifer.core.procedures.condition import certain, possible
from aquifer.core.procedures.interlock import held
from aquifer.core.procedures.library import (
    LEAVES,
    PARTS,
    PICTURES,
    _rule,
    _step,
    condition_of,
    library,
    practices_followed,
)
from aquifer.core.procedures.sequence import flush_of, procedures_for
from aquifer.core.procedures.state import (
    FIELDS,
    State,
    acted,
    as_found,
    either,
    facts_of,
    fuel_of,
    ignitions_of,
    rates_of,
)
from aquifer.core.procedures.visit import CLOSINGS, Event, steps_of
from aquifer.core.units import METRIC, US, worded
from aquifer.core.vocabulary import Component, FlushMethod, UpkeepItem

ALL = ("gas", "electrical", "plumbing")
LIBRARY = library()
TANK = (Component.SEDIMENT, Component.ANODE, Component.RELIEF_VALVE, Component.EXPANSION_TANK)
TANKLESS = (Component.SCALE, Component.RELIEF_VALVE, Component.EXPANSION_TANK)
RATES = rates_of(190.0, 1.2, 11.0, 12.0)
EVERY_STEP = [(f"{one.name}.{step.id}", step) for one in LIBRARY.procedures.values() for step in one.steps]
LIT = [(kind, lit) for kind in HeaterKind for lit in ignitions_of(kind)]
KINDS = [pytest.param(kind, lit, id=f"{kind.value}-{lit}") for kind, lit in LIT]
MINUTES = 60.0 * 10

ROOT = Path(__file__).parents[2]


class Walked:
    """A visit that is done straight through: each step done, or the first way out of what holds it taken."""

    def __init__(self, kind, names, lit="", licences=ALL, practices=None, answers=None, apart_s=MINUTES, start=None):
        self.facts = facts_of(kind, licences, practices_followed(practices or {}))
        first = visit.begun(LIBRARY, names, self.facts, start or as_found(kind, RATES, lit))
        self.start, self.told = first, visit.Visit(LIBRARY, first, self.facts, RATES)
        self.done, self.settled, self.seen, self.stuck = [], [], set(), ""
        self.answers = answers or {}
        number = 0
        while self.told.stand.now is not None and number < 300:
            number += 1
            now = self.told.stand.now
            self.seen.add(now.procedure)
            at = {"step": now.id, "id": str(number), "device": "a", "at_s": number * apart_s}
            holding = visit.holding(LIBRARY, self.told.stand, self.facts)
            ways = [one for one in holding if one.way_out]
            if now.id in self.answers and not (number > 1 and now.id in self.done):
                self.done.append(now.id)
                self.told.tell(Event("deviation", choice=self.answers[now.id], **at))
            elif ways:
                self.settled.append((now.id, ways[0].rule))
                self.told.tell(Event("settled", name=ways[0].rule, **at))
            elif holding:
                self.stuck = now.id
                return
            else:
                self.done.append(now.id)
                self.told.tell(Event("done", **at))

    @property
    def doubts(self):
        return visit.doubtful(LIBRARY, self.told.stand, self.start.state)


def every_visit(kind):
    """What can be due, together and alone, with every way of flushing."""
    if not kind.is_tank:
        sets = [(), (Component.SCALE,), (Component.RELIEF_VALVE,), TANKLESS]
        return [
            procedures_for(kind, due, FlushMethod.DRAIN_AND_PULSE, upkeep=upkeep, replace_valve=renews)
            for due in sets
            for upkeep in ((), tuple(UpkeepItem))
            for renews in (False, True)
        ]
    due = [(), (Component.SEDIMENT,), (Component.ANODE,), (Component.RELIEF_VALVE,), TANK[:1] + TANK[2:3], TANK]
    if kind is HeaterKind.INDIRECT_TANK:
        due.append((Component.SCALE, Component.RELIEF_VALVE))
    return [
        procedures_for(
            kind, one, flush, pressure_test=extra, upkeep=tuple(UpkeepItem) if extra else (), replace_valve=extra
        )
        for one in due
        for flush in FlushMethod
        for extra in (False, True)
    ] + [procedures_for(kind, (), FlushMethod.DRAIN_AND_PULSE, partial=True)]


@pytest.mark.parametrize(("kind", "lit"), KINDS)
def test_every_visit_is_done_straight_through_by_who_holds_every_licence_and_leaves_the_heater_right(kind, lit):
    for names in every_visit(kind):
        walked = Walked(kind, names, lit)
        assert walked.stuck == "" and walked.told.stand.ending == "", names
        assert walked.doubts == [], names


@pytest.mark.parametrize("name", sorted(LIBRARY.practices))
def test_every_side_of_every_practice_leads_through(name):
    for side in LIBRARY.practices[name].options:
        for kind in (HeaterKind.GAS_TANK, HeaterKind.ELECTRIC_TANK, HeaterKind.INDIRECT_TANK):
            for flush in FlushMethod:
                walked = Walked(kind, procedures_for(kind, TANK, flush), practices={name: side})
                assert walked.stuck == "" and walked.doubts == []
    with pytest.raises(ValueError, match="allowed"):
        practices_followed({name: "sideways"})
    with pytest.raises(ValueError, match="no question"):
        practices_followed({"sofa": "left"})


@pytest.mark.parametrize(("kind", "lit"), KINDS)
def test_what_is_found_besides_can_be_done_to_its_end_at_any_heater(kind, lit):
    facts = facts_of(kind, ALL, practices_followed({}))
    start = as_found(kind, RATES, lit)
    found = [one for one in LIBRARY.found.values() if possible(one.when, {**facts, **start.told})]
    assert len(found) > 8
    for one in found:
        walked = Walked(kind, ("arrival", *one.then, *visit.CLOSE_UP), lit)
        assert walked.stuck == "", f"{one.name}: {walked.stuck}"
        assert walked.doubts == [] or walked.told.stand.ending, f"{one.name}: {walked.doubts}"


def test_every_procedure_is_reached_by_a_real_visit():
    reached = set()
    for kind, lit in LIT:
        for names in every_visit(kind)[::3]:
            reached |= Walked(kind, names, lit).seen
        unseen = Walked(kind, procedures_for(kind, TANK, FlushMethod.JETTING, kind_seen=False), lit)
        assert unseen.seen == {"kind_look", "leave_as_found"} and unseen.told.stand.ending == "kind_seen"
        assert unseen.doubts == []
        reached |= unseen.seen
        facts = {**facts_of(kind, ALL, practices_followed({})), **as_found(kind, RATES, lit).told}
        for one in LIBRARY.found.values():
            if possible(one.when, facts):
                reached |= Walked(kind, ("arrival", *one.then, *visit.CLOSE_UP), lit).seen
        # And by every other way that a step may go, from wherever it comes up.
        every = {name for name, one in LIBRARY.procedures.items() if possible(one.when, facts)}
        for name in sorted(every & reached):
            for step in LIBRARY.procedures[name].steps:
                for choice, other in enumerate(step.deviations):
                    if other.then or other.ends:
                        for came in ({}, {"arrival.settings": 0}):
                            answers = {f"{name}.{step.id}": choice, **came}
                            reached |= Walked(kind, ("arrival", name, *visit.CLOSE_UP), lit, answers=answers).seen
        for happened in LIBRARY.outside.values():
            reached |= set(happened.then)
    # Ways out of holds, and what only a company's other practice asks for.
    out = {n for r in LIBRARY.rules for one in (r.out, *r.by.values()) for n in one.procedures} | {
        n for _, s in EVERY_STEP for n in s.way_out
    }
    assert set(LIBRARY.procedures) - reached - out == set()


def test_every_ending_is_reached_and_held_to_how_it_leaves_the_heater():
    ends = {other.ends for _, step in EVERY_STEP for other in step.deviations if other.ends}
    ends |= {one.ends for one in (*LIBRARY.outside.values(), *(step for _, step in EVERY_STEP)) if one.ends}
    assert ends == set(LIBRARY.endings)
    for name, ending in LIBRARY.endings.items():
        assert ending.leaves in LEAVES and ending.customer and CLOSINGS[ending.leaves]
        for kind, lit in LIT:
            facts = facts_of(kind, ALL, practices_followed({}))
            steps = visit.closing_of(LIBRARY, name, facts)
            found = acted(as_found(kind, RATES, lit), {"tank": ("leaks",)} if name == "tank_leaks" else {})
            told = visit.Visit(LIBRARY, visit.Stand(steps, found, name), facts, RATES)
            number = 0
            while told.stand.now is not None and number < 60:
                number += 1
                nobody = facts_of(kind, (), practices_followed({}))
                lacks = [one for one in visit.holding(LIBRARY, told.stand, nobody) if not one.way_out]
                assert ending.leaves == "restored" or not lacks, f"{name}: {told.stand.now.id} wants a license"
                holding = [one for one in visit.holding(LIBRARY, told.stand, facts) if one.way_out]
                at = {"step": told.stand.now.id, "id": str(number), "device": "a", "at_s": 600.0 * number}
                told.tell(Event("settled", name=holding[0].rule, **at) if holding else Event("done", **at))
            if ending.leaves == "left_off":
                state = told.stand.state
                assert state.words["energy"] == {"off"} and state.words["tag"] == {"yes"}, f"{name} of a {kind}"
                assert state.words["gas"] <= {"shut", "none"}


def test_a_plain_yearly_visit_takes_few_taps_and_no_typing():
    for kind in (HeaterKind.GAS_TANK, HeaterKind.ELECTRIC_TANK):
        names = procedures_for(kind, (Component.SEDIMENT, Component.RELIEF_VALVE), FlushMethod.PRESSURE_BLOWOUT)
        walked = Walked(kind, names, ignitions_of(kind)[0])
        steps = [visit.step_named(LIBRARY, name) for name in walked.done]
        taps = sum(not (step.joins and place > 0) for place, step in enumerate(steps))
        answers = sum(len(step.asks) for step in steps)
        assert taps + answers <= 45 and walked.settled == []


def test_a_flush_of_an_electric_tank_asks_for_no_licence():
    for kind in (HeaterKind.ELECTRIC_TANK, HeaterKind.GAS_TANK, HeaterKind.INDIRECT_TANK):
        names = procedures_for(kind, (Component.SEDIMENT, Component.RELIEF_VALVE), FlushMethod.PRESSURE_BLOWOUT)
        assert Walked(kind, names, licences=()).stuck == ""


def test_leaving_the_first_licensed_step_out_opens_nothing():
    facts = facts_of(HeaterKind.GAS_TANK, (), practices_followed({}))
    for name in ("gas_control", "burner_clean", "thermocouple_new", "pilot_tube", "ignition", "flame_rod"):
        bound = [step for step in LIBRARY.procedures[name].steps if step.acts and step.licence]
        assert bound, name
        assert all(
            [one.rule for one in held(step, as_found(HeaterKind.GAS_TANK, RATES), facts, LIBRARY.rules)][-1]
            == "licence"
            for step in bound
        )


@pytest.mark.parametrize(("name", "step"), EVERY_STEP, ids=[name for name, _ in EVERY_STEP])
def test_a_step_is_an_order_of_few_words_with_figures_that_units_know(name, step):
    assert len(step.do.split()) <= 14 and step.do.endswith((".", "?"))
    for text in (step.do, step.why, step.caution, step.expect):
        for table in (METRIC, US):
            assert "{" not in worded(text, table)
    assert not step.part or step.part in PARTS
    if step.needs:
        assert step.way_out and step.out_says, "what must be certain has a way that brings it about"
    if step.joins:
        assert not step.through and not set(dict(step.sets)) - {"told", "hose", "tap", "gas", "cold"}
        assert not step.proves


def brought_about(step):
    return [*step.sets, *step.proves, *step.finds]


@pytest.mark.parametrize("rule", LIBRARY.rules, ids=lambda rule: rule.name)
def test_a_way_out_settles_what_the_act_that_is_held_does_not_touch(rule):
    """Its button may not lead back to the same held step."""
    acted_on = {(field, to[0]) for _, step in EVERY_STEP for field, to in (*step.sets, *step.through)}
    assert rule.says
    for alternative in rule.forbids:
        for field in alternative:
            if not acted_on & {(field, word) for word in alternative[field]}:
                continue
            out = rule.by.get(field, rule.out)
            steps = [step for name in out.procedures for step in LIBRARY.procedures[name].steps]
            settled = {
                other
                for step in steps
                for other, to in brought_about(step)
                if other != field and other in alternative and not set(to[:1]) & set(alternative[other])
            }
            assert settled and out.says, f"{rule.name}: an act on {field} has no way out"


@pytest.mark.parametrize(("name", "step"), [one for one in EVERY_STEP if one[1].needs], ids=lambda one: str(one)[:40])
def test_a_way_out_brings_about_all_that_must_be_certain(name, step):
    steps = [one for procedure in step.way_out for one in LIBRARY.procedures[procedure].steps]
    settled = {(field, to[0]) for one in steps for field, to in brought_about(one)} | PRESSURE
    # A look shows one of several.
    seen_otherwise = [other for one in steps for other in one.deviations if other.instead and not other.then]
    settled |= {(field, to[0]) for other in seen_otherwise for field, to in other.sets if not other.ends}
    open_fields = [
        {field for field, words in alternative.items() if not {(field, word) for word in words} & settled}
        for alternative in step.needs
    ]
    assert any(not fields for fields in open_fields), f"{name}: nothing settles {open_fields}"


PRESSURE = {("pressure", "off"), ("pressure", "on")}
"""It follows the valves."""


@pytest.mark.parametrize("table", [ignitions_of, fuel_of], ids=["ignition", "fuel"])
def test_every_kind_is_in_every_look_up(table):
    for kind in HeaterKind:
        assert table(kind)
    assert {one for kind in HeaterKind for one in ignitions_of(kind)} <= {one.value for one in Ignition}
    assert {one.value for one in Vent} == {"natural", "powered", "direct", "none"}


@pytest.mark.parametrize(
    ("step", "said"),
    [
        ({"id": "a", "do": "A", "sets": {"drain": "ajar"}}, "allowed"),
        ({"id": "a", "do": "A", "colour": "red"}, "colour is not known"),
        ({"id": "a", "do": "A", "needs": {"valve": "open"}}, "allowed"),
        ({"id": "a", "do": "A", "asks": ["the moon"]}, "allowed"),
        ({"id": "a", "do": "A", "part": "sofa"}, "allowed"),
        ({"id": "a", "do": "A", "licence": "driving"}, "allowed"),
        ({"id": "a", "do": "A", "proves": {"water": "wet"}}, "allowed"),
        ({"id": "a", "do": "A", "deviations": [{"says": "z", "when": {"kind": "sofa"}}]}, "allowed"),
    ],
)
def test_what_is_not_well_written_is_refused_with_what_is_allowed(step, said):
    with pytest.raises(ValueError, match=said):
        _step(step, "here")


def test_conditions_are_possible_certain_or_neither():
    condition = condition_of([{"drain": "open"}, {"level": ["low", "empty"], "cold": "shut"}], "here")
    either = {"drain": frozenset({"open", "shut"}), "level": frozenset({"low"}), "cold": frozenset({"open"})}
    assert possible(condition, either) and not certain(condition, either)
    assert certain(condition, {**either, "drain": frozenset({"open"})})
    assert not possible(condition, {**either, "drain": frozenset({"shut"})})
    assert possible((), {}) and certain((), {})


def test_the_order_of_a_visit():
    names = procedures_for(HeaterKind.GAS_TANK, TANK, FlushMethod.JETTING, pressure_test=True)
    for before, after in (
        ("pressure_test", "isolate_energy"),
        ("static_pressure", "isolate_water"),
        ("expansion_tank", "full_drain"),
        ("full_drain", "anode_out"),
        ("anode_out", "jet"),
        ("jet", "anode_in"),
        ("refill", "relief_exercise"),
        ("relief_exercise", "energise"),
    ):
        assert names.index(before) < names.index(after)
    assert flush_of(HeaterKind.ELECTRIC_TANK, FlushMethod.PRESSURE_BLOWOUT)[-1] == "blow_out"
    assert flush_of(HeaterKind.MOBILE_TANK, FlushMethod.JETTING) == ("vehicle_drain",)
    tankless = procedures_for(HeaterKind.GAS_TANKLESS, TANKLESS, FlushMethod.DRAIN_AND_PULSE)
    assert tankless.index("full_draw") < tankless.index("isolate_energy") < tankless.index("descale")
    assert "relief_exercise" in tankless and "expansion_tank" in tankless and "full_draw_after" in tankless
    assert "coil_soak" in procedures_for(HeaterKind.INDIRECT_TANK, (Component.SCALE,), FlushMethod.DRAIN_AND_PULSE)


def test_the_vectors_that_the_browser_is_held_to_are_what_is_decided_here():
    from tests import vectors

    assert vectors.FILE.read_text() == vectors.written(), "run: python -m tests.vectors"
    events = [one for case in vectors.vectors() for run in case["runs"] for one in run["events"]]
    assert any(one["held"] for one in events) and any(one["doubted"] for one in events)
    assert {one["event"]["device"] for one in events} == {"a", "b"}


def test_steps_of_other_heaters_are_not_there():
    facts = facts_of(HeaterKind.ELECTRIC_TANK, ALL, practices_followed({}))
    assert not list(steps_of(LIBRARY, ("light_pilot", "vehicle_gas", "descale"), facts))
    assert steps_of(LIBRARY, ("no_heat",), facts)


@pytest.mark.parametrize(
    ("kind", "ppm", "happens"),
    [
        (HeaterKind.GAS_TANK, 9, ""),
        (HeaterKind.GAS_TANK, 35, "co_high"),
        (HeaterKind.GAS_TANK, 70, "alarm"),
        (HeaterKind.ELECTRIC_TANK, 40, "co_from_elsewhere"),
        (HeaterKind.ELECTRIC_TANK, 70, "alarm"),
        (HeaterKind.GAS_TANK, True, ""),
        (HeaterKind.GAS_TANK, "70", ""),
    ],
)
def test_a_reading_of_carbon_monoxide_ends_the_visit_by_itself(kind, ppm, happens):
    told = visit.told_by_reading(LIBRARY, "look.co_ppm", ppm, facts_of(kind))
    assert told == happens
    if happens:
        leaves = LIBRARY.endings[LIBRARY.outside[happens].ends].leaves
        assert leaves == ("left_off" if happens == "co_high" else "evacuated")
    assert visit.told_by_reading(LIBRARY, "verify.tap_c", 95, facts_of(kind)) == ""


def test_a_way_out_is_from_what_the_act_does_not_touch():
    rules = {one.name: one for one in LIBRARY.rules}
    assert rules["heated_with_open_relief"].out.procedures == ("isolate_energy",)
    assert rules["heated_with_open_relief"].by["energy"].procedures == ("relief_shut",)
    with pytest.raises(ValueError, match="by nothing"):
        _rule({**RULE, "by": {"nothing": {"way_out": ["cool"], "out_says": "Cool it."}}})


RULE = {"name": "x", "forbids": {"drain": "open"}, "says": "-", "way_out": ["cool"], "out_says": "Cool it."}


def test_where_nobody_knows_which_of_two_states_is_so_either_may_be():
    words = {field: frozenset({sorted(every)[0]}) for field, every in FIELDS.items()}
    field = next(name for name, every in FIELDS.items() if len(every) > 1)
    other = {**words, field: frozenset({sorted(FIELDS[field])[1]})}
    one, two = State(words, (0.2, 0.5), (40.0, 55.0)), State(other, (0.1, 0.9), (48.0, 50.0))
    for told in (either(one, two), either(two, one)):
        assert (told.level, told.hot_c) == ((0.1, 0.9), (40.0, 55.0))
        assert told.words[field] == words[field] | other[field]
        assert {name: told.words[name] for name in words if name != field} == {
            name: words[name] for name in words if name != field
        }
    assert either(one, one) == one


@pytest.mark.parametrize("wanted", [{"replace_valve": True}, {"partial": True}])
def test_what_opens_a_tank_is_done_with_its_energy_and_its_water_off_though_nothing_is_due(wanted):
    names = procedures_for(HeaterKind.GAS_TANK, (), FlushMethod.DRAIN_AND_PULSE, **wanted)
    assert "isolate_energy" in names and set(names) > {"arrival", "isolate_energy", "hand_over"}
    assert any("drain" in name for name in names)
    nothing = procedures_for(HeaterKind.GAS_TANK, (), FlushMethod.DRAIN_AND_PULSE)
    assert "isolate_energy" not in nothing and not any("drain" in name and "shut" not in name for name in nothing)


def test_what_is_to_be_photographed_is_kept_by_what_it_shows():
    """A step that speaks of a photograph names its subject, so that it is found again; each subject has its words."""
    told = (ROOT / "web/src/lib/words.ts").read_text()
    spoken = {"photograph", "photographed", "photographs"}
    named = 0
    for name, procedure in library().procedures.items():
        for step in procedure.steps:
            says = set(re.findall(r"[a-z]+", f"{step.do} {step.why}".lower()))
            assert bool(says & spoken) == bool(step.pictures), f"{name}.{step.id}"
            named += len(step.pictures)
    assert named >= 10
    assert all(f"  {picture}: " in told for picture in PICTURES)


def test_licensed_work_by_who_does_not_hold_it_is_marked_whatever_else_he_says_of_it():
    name, step = next((name, step) for name, step in EVERY_STEP if step.licence == "gas" and step.acts)
    facts = facts_of(HeaterKind.GAS_TANK, ALL, practices_followed({}))
    stand = visit.begun(LIBRARY, (name.partition(".")[0],), facts, as_found(HeaterKind.GAS_TANK, RATES, ""))

    def marks(kind, licences, place=0, why=""):
        own = facts_of(HeaterKind.GAS_TANK, licences, practices_followed({}))
        told = Event(kind, step=name, id="1", device="a", at_s=0.0, why=why)
        return {one.kind: one.about for one in visit._marks(LIBRARY, stand, told, step, place, facts, own)}

    assert marks("settled", ("electrical",))["unlicensed"] == "gas"
    assert "unlicensed" not in marks("settled", ("gas",))
    assert "unlicensed" in marks("done", ()) and "unlicensed" not in marks("done", ALL)
    # What he found otherwise he did not do, and what he left out neither: but for that he is to say why.
    assert "unlicensed" not in marks("deviation", ())
    assert marks("skipped", ()) == {"no_reason": ""} and marks("skipped", (), why="no gas here") == {}
    assert "out_of_sequence" in marks("settled", ALL, place=2) and "out_of_sequence" in marks(
        "settled", ALL, place=None
    )
    assert "out_of_sequence" not in marks("settled", ALL)

"""Practice at the heater in software: right ways pass, wrong ways hurt where they would, and luck passes nowhere."""

import random
from dataclasses import replace

import pytest

from aquifer.core.bench.grading import graded, unfit
from aquifer.core.bench.hand import Act
from aquifer.core.bench.practice import CONSEQUENCES, Practice, begun, folded, handles_of
from aquifer.core.bench.scenario import read, scenarios
from aquifer.core.bench.seen import seen
from aquifer.core.procedures.library import library
from tests.conftest import examples
from tests.core.apprentice import follows

NAMES = list(scenarios())


def does(practice: Practice, *acts: tuple[int, str, str]) -> Practice:
    for at_s, handle, to in acts:
        practice.until(at_s)
        practice.act(Act(at_s, handle, to))
    return practice


@pytest.mark.parametrize(("seed", "name"), list(enumerate(NAMES, start=1)))
def test_who_follows_the_guide_hurts_nothing_and_passes(name, seed):
    practice, told = follows(name, seed)
    grade = graded(practice)
    assert practice.harms == [], told
    assert grade.passed, [one.says for one in grade.marks if not one.good]
    assert grade.share == 1


@pytest.mark.parametrize("name", NAMES)
def test_each_heater_has_ways_to_hurt(name):
    """The hose forgotten, the heat forgotten, the cold forgotten: each has its consequence at every heater."""
    scenario = scenarios()[name]
    bare = does(begun(scenario, 3), (3, "lever", "down"), (5, "drain", "open"))
    bare.until(400)
    if scenario.build.get("drain_blocked"):
        assert not bare.harms or bare.harms[0].name in ("scalded", "flooded")
        assert bare.heater.outflow < 0.05
    else:
        assert {one.name for one in bare.harms} >= {"scalded", "flooded"}
    heated = does(begun(scenario, 3), (1, "wire", "through the drain"), (5, "tap", "open"), (6, "main", "shut"))
    heated.heater.flake = False
    does(heated, (8, "hose", "on"), (9, "drain", "open"))
    heated.until(9000)
    burnt = "element_burnt" if heated.heater.build.fuel == "electric" else "dry_fire"
    assert burnt in [one.name for one in heated.harms]
    follow, _ = follows(name, 3)
    does(follow, (follow.now_s, "cold", "shut"))
    grade = graded(follow)
    assert not grade.passed
    assert next(one.says for one in grade.marks if one.name == "left_fit") == "It was left with the cold shut."


WRONG = {
    "dry_fire": (
        "gas_yearly",
        [(5, "tap", "open"), (6, "hose", "on"), (8, "drain", "open"), (9, "cold", "shut")],
        5400,
    ),
    "element_burnt": (
        "electric_yearly",
        [(5, "tap", "open"), (6, "hose", "on"), (8, "drain", "open"), (9, "cold", "shut")],
        3600,
    ),
    "scalded": ("gas_yearly", [(5, "drain", "open")], 10),
    "flooded": ("gas_yearly", [(5, "hose", "on"), (6, "hose_in", "bucket"), (7, "drain", "open")], 120),
    "scalded_below": ("valve_that_weeps", [(5, "lever", "up")], 10),
    "capped": ("capped_pipe", [(5, "lever", "up")], 10),
    "sealed": ("valve_that_weeps", [(5, "tap", "open"), (900, "tap", "shut"), (901, "cold", "shut")], 9000),
    "burst": ("valve_that_passes_nothing", [(5, "tap", "open"), (900, "tap", "shut"), (901, "cold", "shut")], 13_000),
    "lit_too_soon": ("gas_yearly", [(5, "dial", "off"), (30, "dial", "pilot"), (31, "pilot", "lit")], 40),
    "shot_out": ("gas_yearly", [(5, "relief_valve", "new")], 10),
}


@pytest.mark.parametrize("harm", CONSEQUENCES)
def test_what_is_done_wrong_hurts_and_names_the_act(harm):
    name, acts, until = WRONG[harm]
    practice = does(begun(scenarios()[name], 2), *acts)
    practice.until(until)
    found = next((one for one in practice.harms if one.name == harm), None)
    assert found is not None, practice.harms
    assert practice.acts[found.act].handle in CONSEQUENCES[harm].by
    assert not graded(practice).passed
    # Up to the act that led there nothing was wrong yet.
    before = folded(practice.scenario, 2, acts_of(acts[: found.act]), acts[found.act][0])
    assert harm not in [one.name for one in before.harms]


def acts_of(acts):
    return [Act(*one) for one in acts]


def test_each_consequence_and_mark_names_a_step_of_the_trade():
    marks = [one for name in NAMES for one in graded(begun(scenarios()[name], 1)).marks]
    for read_again in [one.read for one in CONSEQUENCES.values()] + [one.read for one in marks]:
        assert read_again in library().steps, read_again


def test_the_same_acts_are_the_same_practice_however_often_it_is_looked_at():
    acts = acts_of([(20, "dial", "pilot"), (30, "hose", "on"), (40, "drain", "open"), (200, "cold", "shut")])
    whole = folded(scenarios()["gas_yearly"], 4, acts, 400)
    pieces = begun(scenarios()["gas_yearly"], 4)
    for act in acts:
        for second in range(pieces.now_s, act.at_s, 7):
            pieces.until(second)
        pieces.until(act.at_s)
        pieces.act(act)
    pieces.until(333)
    pieces.until(400)
    assert pieces.heater == whole.heater
    other = folded(scenarios()["gas_yearly"], 5, acts, 400)
    assert other.began.build != whole.began.build


def test_it_stops_where_something_new_goes_wrong():
    practice = does(begun(scenarios()["gas_yearly"], 1), (5, "drain", "open"))
    practice.until(600, harms=0)
    assert [one.name for one in practice.harms] == ["scalded"]
    assert practice.now_s < 20
    practice.until(600, harms=1)
    assert [one.name for one in practice.harms][1] == "flooded"


def test_what_cannot_be_done_now_is_told_and_changes_nothing():
    practice = does(
        begun(scenarios()["gas_yearly"], 1), (5, "gauge", "on"), (6, "hose", "on"), (7, "wire", "through the drain")
    )
    assert practice.refusals == {
        1: "The gauge is on the drain's thread.",
        2: "A wire goes in by the open drain, with nothing on its thread.",
    }
    assert not practice.heater.hose
    with pytest.raises(ValueError, match="no breaker to turn; allowed: cold, main"):
        practice.act(Act(8, "breaker", "off"))
    with pytest.raises(ValueError, match="drain = 'wide'; allowed: open, cracked, shut"):
        practice.act(Act(8, "drain", "wide"))
    with pytest.raises(ValueError, match="in the order of their seconds"):
        folded(practice.scenario, 1, acts_of([(9, "tap", "open"), (3, "tap", "shut")]), 20)


def test_what_is_graded_by_eye_is_there_to_be_seen():
    practice = does(begun(scenarios()["gas_yearly"], 1), (1, "dial", "pilot"), (2, "hose", "on"), (3, "drain", "open"))
    looks = []
    for second in (5, 30, 200, 3000):
        practice.until(second)
        looks.append(seen(practice))
    assert looks[0].clarity == "dark" and looks[-1].clarity == "clear"
    assert [one.removed_l for one in looks] == sorted(one.removed_l for one in looks)
    assert 0 < looks[0].removed_l < looks[-1].removed_l < practice.began.bed_l
    # Where its pipe ends shows only who looks.
    assert looks[0].outlet == "" and looks[0].gauge_kpa is None


def test_people_who_were_not_told_draw_hot_water():
    unaware = begun(scenarios()["gas_yearly"], 1)
    unaware.until(7000)
    assert unaware.drew
    told = does(begun(scenarios()["gas_yearly"], 1), (1, "tell", "what goes off"))
    told.until(7000)
    assert told.drew == []


def test_clicking_about_passes_nowhere():
    for seed in range(examples(25, of_long=1000)):
        assert not clicked(seed)


def clicked(seed: int) -> bool:
    chance = random.Random(seed)
    scenario = scenarios()[chance.choice(NAMES)]
    practice = begun(scenario, seed)
    handles = handles_of(practice.began.build.fuel)
    at_s = 0
    for _ in range(40):
        at_s += chance.choice([2, 10, 60, 200])
        practice.until(at_s)
        name = chance.choice(list(handles))
        practice.act(Act(at_s, name, chance.choice(handles[name])))
    practice.act(Act(at_s, "removed", chance.choice(["none", "trace", "moderate", "heavy"])))
    practice.act(Act(at_s, "valve_outcome", chance.choice(["flows_and_reseats", "flows_and_weeps", "no_flow"])))
    practice.act(Act(at_s, "tap_c", str(chance.choice([50, 55, 60, 65]))))
    return graded(practice).passed


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"kind": "gas_tankless"}, "scenario mine: kind = gas_tankless; allowed: gas_tank"),
        ({"asks": ["colour"]}, "scenario mine: asks allowed: tap_c"),
        ({"build": {"gallons": 50}}, "scenario mine: build allowed: check_valve"),
        ({"within_min": 2}, "scenario mine: within_min allowed: 10 to 480"),
        ({"hint": "none"}, "scenario mine: hint is not known; allowed: asks"),
        ({"title": 3}, "scenario mine: title is missing"),
    ],
)
def test_a_scenario_that_is_not_well_written_is_refused_with_what_is_allowed(more, says):
    with pytest.raises(ValueError) as refusal:
        read({"mine": {"title": "T", "says": "S", "kind": "gas_tank", "due": ["sediment"], **more}})
    assert str(refusal.value).startswith(says)


UNFIT = {
    "with air in it": {"share": 0.99},
    "with the cold shut": {"cold": 0.5},
    "with the drain open": {"drain": 0.05},
    "with the hose on": {"hose": True},
    "with the gauge on": {"gauge": True},
    "with the lever up": {"lever": True},
    "with a faucet open": {"tap": True},
    "off": {"dial": "off"},
    "with an element burnt out": {"lower_burnt": True},
    "with its relief pipe capped": {"build": {"outlet": "capped"}},
    "with a relief valve that protects nobody": {"build": {"relief_stuck": True}},
}


def test_a_heater_that_was_left_as_it_was_found_is_fit():
    assert unfit(begun(scenarios()["gas_yearly"], 1)) == []


@pytest.mark.parametrize("says", list(UNFIT))
def test_each_thing_that_is_left_wrong_is_told_and_nothing_else(says):
    practice = begun(scenarios()["gas_yearly"], 1)
    heater = practice.heater
    for name, value in UNFIT[says].items():
        if name == "build":
            heater.build = replace(heater.build, **value)
        elif name == "share":
            # A little of the water at the top is gone.
            heater.layers[-1][0] -= 0.01 * heater.kg
        else:
            setattr(heater, name, value)
    assert unfit(practice) == [says]


def marks(practice: Practice) -> dict[str, bool]:
    return {one.name: one.good for one in graded(practice).marks}


def test_what_comes_first_is_judged_by_the_second_at_which_it_was_done():
    scenario = scenarios()["gas_yearly"]
    right = does(begun(scenario, 1), (10, "tell", "what goes off"), (20, "dial", "pilot"), (30, "cold", "shut"))
    found = marks(right)
    assert found["told"] and found["energy_first"] and not found["said_after"]
    late = does(begun(scenario, 1), (10, "cold", "shut"), (20, "dial", "pilot"), (30, "tell", "what goes off"))
    assert not marks(late)["energy_first"] and not marks(late)["told"]
    # At the same second is early enough; the drain counts as water as the cold does.
    same = does(begun(scenario, 1), (10, "dial", "off"), (10, "cold", "shut"))
    assert marks(same)["energy_first"]
    drained = does(begun(scenario, 1), (5, "hose", "on"), (10, "drain", "cracked"), (20, "dial", "pilot"))
    assert not marks(drained)["energy_first"]
    never = does(begun(scenario, 1), (10, "tell", "what was done"))
    assert marks(never)["said_after"] and not marks(never)["energy_first"]


def test_where_the_relief_pipe_ends_is_looked_at_before_the_lever_is_lifted():
    scenario = scenarios()["gas_yearly"]
    first = does(begun(scenario, 1), (10, "look", "relief pipe"), (20, "lever", "up"))
    after = does(begun(scenario, 1), (10, "lever", "up"), (20, "look", "relief pipe"))
    assert marks(first)["outlet_followed"] and not marks(after)["outlet_followed"]
    assert marks(does(begun(scenario, 1), (10, "look", "relief pipe")))["outlet_followed"]


def test_a_seat_is_watched_for_four_of_five_minutes_after_the_lever():
    scenario = scenarios()["gas_yearly"]
    for seconds, good in ((235, False), (245, True)):
        practice = does(begun(scenario, 1), (10, "look", "relief pipe"), (20, "lever", "up"), (25, "lever", "down"))
        practice.until(25 + seconds)
        assert marks(practice)["valve_watched"] is good, seconds
    never = begun(scenario, 1)
    never.until(900)
    assert not marks(never)["valve_watched"]


@pytest.mark.parametrize(
    ("off_c", "ran", "good", "says"),
    [
        (0.0, True, True, "noted within"), (1.9, True, True, "noted within"), (2.1, True, False, "off."),
        (-1.9, True, True, "noted within"), (-2.1, True, False, "off."), (0.0, False, False, "nothing that was read"),
        (None, True, False, "was not noted"),
    ],
)  # fmt: skip
def test_the_first_hot_water_is_graded_by_what_was_read_there(off_c, ran, good, says):
    practice = begun(scenarios()["gas_yearly"], 4)
    if ran:
        does(practice, (5, "tap", "open"), (90, "tap", "shut"))
        assert practice.tap_seen_c is not None
    noted = "" if off_c is None else f"{practice.began.top_c + off_c:.3f}"
    if noted:
        practice.act(Act(95, "tap_c", noted))
    mark = next(one for one in graded(practice).marks if one.name == "tap_c")
    assert mark.good is good and says in mark.says, mark.says

"""Practice at the heater in software: right ways pass, wrong ways hurt where they would, and luck passes nowhere."""

import random
from dataclasses import replace

import pytest

from aquifer.core.bench.grading import graded, unfit
from aquifer.core.bench.hand import Act
from aquifer.core.bench.heater import Heater
from aquifer.core.bench.practice import CONSEQUENCES, Practice, begun, folded, handles_of
from aquifer.core.bench.rod import Rod
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
    """The hose forgotten, the heat forgotten, a port opened under pressure, the wrong drain, force: at least three hurt
    at every heater; and the cold forgotten is no heater that runs."""
    scenario = scenarios()[name]
    ways = {
        "bare": ([(3, "lever", "down"), (5, "drain", "open")], 400),
        "heated": (
            [(5, "tap", "open"), (6, "main", "shut"), (7, "drain", "open"), (8, "wire", "through the drain"),
             (9, "hose", "on"), (10, "drain", "open")],
            9000,
        ),
        "under pressure": ([(5, "relief_valve", "new")], 10),
        "rod": ([(5, "hot_pipe", "off"), (6, "rod", "cracked"), (7, "rod", "out")], 10),
        "forced": ([(4, "hot_pipe", "off"), (5, "rod", "forced")], 20),
        "drain changed": ([(5, "tap", "open"), (6, "main", "shut"), (90, "drain_valve", "new")], 95),
    }  # fmt: skip
    hurt = {}
    for way, (acts, until) in ways.items():
        practice = begun(scenario, 3)
        if way != "bare" and practice.heater.boiler is not None:
            does(practice, (1, "at_drain", practice.began.build.tank_drain))
        does(practice, *acts)
        practice.until(until)
        hurt[way] = {one.name for one in practice.harms}
    build = scenario.built(3)
    assert "shot_out" in hurt["under pressure"]
    assert ("twisted" in hurt["forced"]) is build.rod_stuck
    if not build.rod_stuck:
        assert "rod_shot" in hurt["rod"]
    if name == "nothing_comes":
        # It seeps, and what seeps is on the floor at last.
        assert hurt["bare"] == {"flooded"} and not hurt["drain changed"]
    else:
        assert "scalded" in hurt["drain changed"] and "flooded" in hurt["drain changed"]
    if build.fuel == "boiler":
        assert hurt["bare"] == {"boiler_emptied", "scalded", "flooded"} or build.tank_drain == "left"
    elif not build.drain_blocked and name != "nothing_comes":
        assert hurt["bare"] >= {"scalded", "flooded"}
        assert ("element_burnt" if build.fuel == "electric" else "dry_fire") in hurt["heated"]
    assert sum(bool(one) for one in hurt.values()) >= 3, hurt
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
    "rod_shot": ("rod_bare", [(5, "rod", "cracked"), (9, "rod", "out")], 12),
    "twisted": ("rod_stuck", [(5, "rod", "cracked"), (20, "rod", "forced")], 30),
    "boiler_emptied": (
        "two_drains",
        [(3, "hose", "on"), (5, "drain", "open"), (200, "drain", "shut"), (205, "hose", "off"),
         (210, "at_drain", "right"), (215, "hose", "on"), (220, "drain", "open")],
        700,
    ),
    "leak_opened": (
        "never_flushed",
        [(5, "hose", "on"), (9, "drain", "open"), *((60 * n + s, "cold", to) for n in range(1, 9)
                                                   for s, to in ((0, "shut"), (25, "open")))],
        900,
    ),
}  # fmt: skip


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
    for seed in range(examples(10, of_long=1000)):
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
    "with a relief valve that cannot feel the water": {"build": {"probe_short": True}},
    "with its rod loose": {"rod": Rod(0.6, False, "loose")},
    "without a rod": {"rod": Rod(0.6, False, "out")},
    "without a relief valve": {"relief_out": True},
    "with the hot pipe off": {"hot_pipe": False},
    "with a joint that leaks": {"twisted": True},
    "with a tank that leaks": {"flaw_open": True},
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


def anode(name: str, *acts: tuple[int, str, str]) -> tuple[dict[str, bool], list[str]]:
    """What a rod's marks say after these acts with the pressure off and the level low."""
    low = [(10, "breaker" if "electric" in scenarios()[name].kind else "dial", "off"), (20, "cold", "shut"),
           (30, "tap", "open"), (60, "hose", "on"), (70, "drain", "open"), (400, "drain", "shut")]  # fmt: skip
    practice = does(begun(scenarios()[name], 2), *low, *acts)
    practice.until(practice.now_s + 30)
    return marks(practice), [one.name for one in practice.harms]


def test_a_bare_rod_is_renewed_and_a_good_one_goes_back():
    out = [(410, "rod", "cracked"), (420, "rod", "out")]
    renewed, _ = anode("rod_bare", *out, (500, "rod", "new"))
    back, _ = anode("rod_bare", *out, (500, "rod", "back"))
    assert renewed["rod_decided"] and not back["rod_decided"] and back["rod_drawn"]
    wasted, _ = anode("rod_half", *out, (500, "rod", "new"))
    kept, harms = anode("rod_half", *out, (500, "rod", "back"))
    assert not wasted["rod_decided"] and kept["rod_decided"] and harms == []
    unseen, _ = anode("rod_half")
    assert not unseen["rod_drawn"] and not unseen["rod_decided"]


def test_a_rod_that_does_not_come_loose_is_left_and_never_forced():
    tried, harms = anode("rod_stuck", (410, "rod", "cracked"))
    assert tried["rod_tried"] and harms == []
    forced, harms = anode("rod_stuck", (410, "rod", "cracked"), (420, "rod", "forced"))
    assert not forced["rod_tried"] and harms == ["twisted"]
    assert not anode("rod_stuck")[0]["rod_tried"]
    # An empty tank turns on its pipes even where the rod would have come.
    assert anode("rod_half", (410, "rod", "forced"))[1] == ["twisted"]


def test_a_rod_without_a_head_comes_with_its_pipe_off():
    refused = does(begun(scenarios()["rod_without_a_head"], 2), (5, "rod", "cracked"))
    assert refused.refusals == {0: "There is no head to turn: the rod hangs on the hot outlet, under its pipe."}
    out = [(410, "hot_pipe", "off"), (420, "rod", "cracked"), (430, "rod", "out")]
    got, harms = anode("rod_without_a_head", *out, (440, "rod", "new"))
    assert got["rod_drawn"] and got["rod_decided"] and harms == []


def test_the_cold_on_an_open_port_is_a_flood():
    practice = does(begun(scenarios()["rod_bare"], 2), (5, "breaker", "off"), (6, "cold", "shut"), (8, "tap", "open"))
    does(practice, (60, "rod", "cracked"), (61, "rod", "out"), (70, "cold", "open"))
    practice.until(100)
    assert [one.name for one in practice.harms] == ["flooded"]
    assert practice.acts[practice.harms[0].act].handle == "cold"


def test_a_short_probe_is_corrected_and_not_copied():
    for to, left in (("new", "fit"), ("as the old", "with a relief valve that cannot feel the water")):
        practice, _ = follows("probe_in_its_neck", 1)
        assert seen(practice).probe == "reaches"
        practice.heater.build = replace(practice.heater.build, probe_short=True)
        does(practice, (practice.now_s, "cold", "shut"), (practice.now_s + 1, "tap", "open"))
        practice.until(practice.now_s + 60)
        does(practice, (practice.now_s, "tap", "shut"), (practice.now_s, "relief_valve", to))
        does(practice, (practice.now_s, "cold", "open"))
        assert (left in unfit(practice)) is (left != "fit")
        assert practice.heater.build.probe_short is (to == "as the old")


def test_which_drain_is_the_boilers_shows_who_follows_the_pipes():
    sides = {scenarios()["two_drains"].built(seed).tank_drain for seed in range(12)}
    assert sides == {"left", "right"}
    practice = begun(scenarios()["two_drains"], 1)
    assert seen(practice).tank_drain == "" and seen(practice).boiler_kpa == 120
    does(practice, (5, "look", "drain"))
    assert seen(practice).tank_drain == practice.began.build.tank_drain
    # Who stands at one with a hose on it does not walk off with the hose.
    does(practice, (6, "hose", "on"), (7, "at_drain", "right"))
    assert list(practice.refusals.values()) == ["Shut this drain and take off what is on it first."]


def test_an_old_deposit_that_is_left_alone_is_noted_so():
    practice, _ = follows("never_flushed", 4)
    assert marks(practice)["left_alone"] and marks(practice)["decision"]
    does(practice, (practice.now_s, "decision", "flushed"))
    assert not marks(practice)["decision"] and not graded(practice).passed
    buried = does(begun(scenarios()["nothing_comes"], 1), (5, "drain_valve", "new"))
    assert not marks(buried)["left_alone"]


@pytest.mark.parametrize("left_alone", [True, False])
def test_what_is_decided_of_a_deposit_is_held_against_what_it_is(left_alone):
    plain = [one for one in scenarios().values() if "decision" in one.asks]
    # That it is asked tells nobody which it is.
    assert {one.left_alone for one in plain} == {True, False}
    asked = [replace(one, left_alone=left_alone) for one in plain]
    for scenario in asked:
        for noted in ("flushed", "left_alone"):
            practice = does(begun(scenario, 1), (5, "decision", noted))
            assert marks(practice)["decision"] is ((noted == "left_alone") is left_alone), (scenario.name, noted)


def truly(heater: Heater) -> dict[str, str]:
    """How a heater stands, in the guide's words; what no word fits is left out."""
    build = heater.build
    drips = heater.drain_leaks and not heater.cap and not heater.at_boiler
    lit = heater.pilot and heater.gas_cock
    found = {
        "cold": "open" if heater.supplied == 1 else "passing" if heater.supplied > 0 else "shut",
        "drain": "open" if heater.drain > 0 and not heater.cap else "drips" if drips else "shut",
        "tap": "open" if heater.tap else "shut",
        "relief": "open" if heater.lever else "shut",
        "hose": "rated" if heater.hose else "none",
        "ports": "high" if heater.rod.seat == "out" or heater.relief_out else "closed",
        "union": "tight" if heater.hot_pipe else "loose",
    }
    if build.fuel == "gas":
        found |= {
            "energy": heater.dial if lit and heater.dial in ("on", "pilot") else "off",
            "gas": "open" if heater.gas_cock else "shut",
        }
    else:
        found |= {"energy": "on" if heater.breaker else "off", "lock": "yes" if heater.locked else "no"}
    if drips and heater.hose and heater.drain == 0:
        # What drips into a hose is as good as shut.
        del found["drain"]
    if heater.kpa > 50:
        # To take pressure for there that has gone is no harm.
        found["pressure"] = "on"
    return found


@pytest.mark.parametrize("name", NAMES)
def test_what_the_guide_takes_to_be_so_holds_what_is_so(name):
    """The guide's picture of a heater knows no physics but straight lines that none outruns: held to water, air and
    heat as they are, at each step of every practice."""
    seen_at = []

    def watch(practice, stand):
        heater, state = practice.heater, stand.stand.state
        where = stand.stand.now.id if stand.stand.now else "the end"
        seen_at.append(where)
        low, high = state.level
        assert low - 0.005 <= heater.share <= high + 0.005, (where, state.level, heater.share)
        hottest = max((celsius for _, celsius in heater.layers), default=heater.build.room_c)
        assert state.hot_c[0] - 1 <= hottest <= state.hot_c[1] + 1, (where, state.hot_c, hottest)
        for field, word in truly(heater).items():
            assert word in state.words[field], (where, field, sorted(state.words[field]), word)

    follows(name, 2, watch=watch)
    assert seen_at[-1] == "the end" and len(seen_at) > 15

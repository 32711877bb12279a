"""What eyes, ears, hands and a pencil tell of the heater to practise on, each thing alone."""

from dataclasses import replace

import pytest

from aquifer.core.bench.hand import Act, refused
from aquifer.core.bench.heater import LOOSE_KG_L
from aquifer.core.bench.layers import specific_l_kg
from aquifer.core.bench.noted import note_marks, removed_grade, rod_grade
from aquifer.core.bench.practice import Practice, begun
from aquifer.core.bench.rod import Rod
from aquifer.core.bench.scenario import scenarios
from aquifer.core.bench.seen import inside, seen
from aquifer.core.vocabulary import Removed, RodGrade


def at(name: str = "gas_yearly", **stands: object) -> Practice:
    """A practice whose heater stands so; of its build, what begins with ``build_``."""
    practice = begun(scenarios()[name], 1)
    for field, value in stands.items():
        if field.startswith("build_"):
            practice.heater.build = replace(practice.heater.build, **{field.removeprefix("build_"): value})
        else:
            setattr(practice.heater, field, value)
    return practice


SEEN = [
    ("cold_open", {"cold": 0.0}, False), ("cold_open", {"cold": 0.5}, True), ("main_open", {"main": 0.0}, False),
    ("tap_open", {"tap": True}, True), ("drain", {"drain": 0.2}, "cracked"), ("drain", {"drain": 1.0}, "open"),
    ("drain", {}, "shut"), ("pilot_lit", {}, True), ("pilot_lit", {"dial": "off"}, False),
    ("pilot_lit", {"gas_cock": False}, False), ("pilot_lit", {"pilot": False}, False), ("breaker", {}, ""),
    ("burns", {"heat_kw": 0.1}, True), ("burns", {"heat_kw": 0.0}, False),
    ("outlet", {"relief_flow": 0.021}, "floor drain"), ("outlet", {"relief_flow": 0.019}, ""),
    ("drain_runs", {"outflow": 0.021}, "runs"), ("drain_runs", {"outflow": 0.019}, "drips"),
    ("drain_runs", {"outflow": 0.0006}, "drips"), ("drain_runs", {"outflow": 0.0004}, "dry"),
    ("relief_runs", {"relief_flow": 0.5}, "runs"), ("relief_runs", {"relief_flow": 0.001}, "drips"),
    ("drain_c", {"outflow": 0.0006, "out_c": 44.44}, 44.4), ("drain_c", {"outflow": 0.0004}, None),
    ("drain_l_min", {"outflow": 0.25}, 15.0), ("murk_g_l", {"murk_g_l": 1.234}, 1.23),
    ("clarity", {"murk_g_l": 0.14}, "clear"), ("clarity", {"murk_g_l": 0.15}, "cloudy"),
    ("clarity", {"murk_g_l": 0.79}, "cloudy"), ("clarity", {"murk_g_l": 0.8}, "murky"),
    ("clarity", {"murk_g_l": 2.9}, "murky"), ("clarity", {"murk_g_l": 3.0}, "dark"),
    ("tap_runs", {"tap": True, "tap_flow": 0.001}, "runs"), ("tap_runs", {"tap": True, "tap_flow": 0.0004}, "dry"),
    ("tap_runs", {"tap": False, "tap_flow": 0.1}, "dry"), ("tap_runs", {"spits": True}, "spits"),
    ("tap_c", {"tap": True, "tap_flow": 0.1, "tap_c": 51.26}, 51.3), ("tap_c", {"spits": True, "tap": True}, None),
    ("tap_l_min", {"tap_flow": 0.15}, 9.0), ("gauge_kpa", {}, None),
    # At the drain the gauge reads the water that stands over it, too: 1.2 m, 11.8 kPa.
    ("gauge_kpa", {"gauge": True, "kpa": 400.0}, 412), ("bucket_l", {"bucket_l": 3.14}, 3.1),
    ("bucket_g", {"bucket_g": 12.6}, 13), ("relief_bucket_l", {"relief_bucket_l": 0.26}, 0.3),
    ("floor_l", {"floor_l": 1.26}, 1.3), ("rod", {}, "in"), ("rod", {"rod": Rod(0.5, False, "loose")}, "loose"),
    ("rod_head", {}, ""), ("rod_head", {"rod": Rod(0.5, False, "out")}, "hex"),
    ("rod_head", {"rod": Rod(0.5, False, "out"), "build_rod_combined": True}, "none"),
    ("rod_left", {"rod": Rod(0.333, False, "out")}, 0.33), ("rod_left", {"rod": Rod(0.333, False)}, None),
    ("rod_thick_mm", {"rod": Rod(0.5, False, "out")}, 15.0), ("rod_bare_mm", {"rod": Rod(0.0, False, "out")}, 500),
    ("probe", {}, ""), ("at_drain", {}, ""), ("tank_drain", {}, ""), ("boiler_kpa", {}, None),
    ("leaks", {"twisted": True}, True), ("leaks", {"flaw_open": True}, True), ("leaks", {}, False),
    ("removed_l", {"removed_kg": 0.65}, 1.0), ("sounds", {"inflow": 0.31}, ("rush",)),
    ("sounds", {"inflow": 0.29}, ()), ("sounds", {"spits": True}, ("spit",)), ("sounds", {"heat_kw": 8.0}, ("burner",)),
    ("sounds", {"drain": 1.0, "outflow": 0.009, "air": 5.0, "kpa": -2.0}, ("gurgle",)),
    ("sounds", {"drain": 1.0, "outflow": 0.011, "air": 5.0, "kpa": -2.0}, ()),
    ("sounds", {"drain": 1.0, "outflow": 0.009, "air": 5.0, "kpa": -0.5}, ()),
    ("sounds", {"drain": 1.0, "outflow": 0.009, "air": 0.0, "kpa": -2.0}, ()),
    ("sounds", {"drain": 0.0, "outflow": 0.009, "air": 5.0, "kpa": -2.0}, ()),
]  # fmt: skip


@pytest.mark.parametrize(("field", "stands", "shows"), SEEN)
def test_what_is_seen_follows_from_how_it_stands(field, stands, shows):
    assert getattr(seen(at(**stands)), field) == shows


@pytest.mark.parametrize(
    ("field", "stands", "shows"),
    [
        ("dial", {}, ""), ("breaker", {}, "on"), ("breaker", {"breaker": False}, "off"),
        ("breaker", {"breaker": False, "locked": True}, "locked"), ("sounds", {"heat_kw": 4.5}, ()),
        ("burns", {"heat_kw": 4.5}, True),
    ],
)  # fmt: skip
def test_an_electric_heater_shows_its_breaker_and_makes_no_noise(field, stands, shows):
    assert getattr(seen(at("electric_yearly", **stands)), field) == shows


@pytest.mark.parametrize(
    ("look", "field", "shows"),
    [("relief pipe", "outlet", "floor drain"), ("relief valve", "probe", "reaches"), ("rod", "rod_head", "hex")],
)
def test_some_things_show_who_looks(look, field, shows):
    practice = at()
    assert getattr(seen(practice), field) == ""
    practice.act(Act(0, "look", look))
    assert getattr(seen(practice), field) == shows


def test_at_the_boilers_drain_its_water_is_seen_and_its_gauge():
    practice = at("two_drains", drain=1.0)
    heater = practice.heater
    heater.at_drain = "left" if heater.build.tank_drain == "right" else "right"
    heater.boiler.flow = 0.2
    now = seen(practice)
    assert now.drain_c == 75.0 and now.drain_l_min == 12.0 and now.clarity == "murky" and now.murk_g_l == 2.0
    heater.gauge = True
    assert seen(practice).gauge_kpa == 120
    heater.at_drain = heater.build.tank_drain
    assert seen(practice).gauge_kpa == round(heater.kpa + heater.head_kpa)


def test_a_tank_cut_open_shows_its_layers_and_its_bed():
    practice = at(steel_c=81.4, loose_kg=0.65, hard_kg=1.40)
    heater = practice.heater
    heater.layers = [[95.0 / specific_l_kg(20), 20.0], [47.5 / specific_l_kg(60.04), 60.04]]
    cut = inside(heater)
    assert cut.share == pytest.approx(0.75 * 190 / heater.build.litres, abs=1e-4)
    assert [layer.celsius for layer in cut.layers] == [20.0, 60.0] and cut.layers[-1].to == cut.share
    assert cut.layers[0].to == pytest.approx(cut.share * 95.17 / (95.17 + 46.70), abs=0.01)
    assert cut.loose_share == pytest.approx(1 / heater.build.litres, abs=1e-5) == cut.hard_share
    assert cut.floor_c == 81
    assert cut.rod_left == round(heater.rod.left, 2)
    heater.rod.seat = "out"
    assert inside(heater).rod_left is None


# Hands.

REFUSED = [
    ({}, ("hose", "on"), ""), ({"gauge": True}, ("hose", "on"), "The gauge is on the drain's thread."),
    ({"cap": True}, ("gauge", "on"), "The cap is on the drain's thread."),
    ({"hose": True}, ("cap", "on"), "The hose is on the drain's thread."), ({"hose": True}, ("hose", "off"), ""),
    ({"hose": True}, ("hose", "on"), ""), ({"cap": True}, ("hose", "off"), ""),
    ({"drain": 1.0}, ("wire", "through the drain"), ""),
    ({"drain": 0.2}, ("wire", "through the drain"), "A wire goes in by the open drain, with nothing on its thread."),
    ({"drain": 1.0, "hose": True}, ("wire", "through the drain"),
     "A wire goes in by the open drain, with nothing on its thread."),
    ({}, ("drain_valve", "new"), ""), ({"cap": True}, ("drain_valve", "new"), "The cap is on the drain's thread."),
    ({"relief_out": True}, ("lever", "up"), "The relief valve is out."), ({}, ("lever", "up"), ""),
    ({"hose": True, "hose_in": "bucket", "outflow": 0.02}, ("bucket", "emptied"), "The hose still runs into it."),
    ({"hose": True, "hose_in": "bucket", "outflow": 0.009}, ("bucket", "emptied"), ""),
    ({"hose": True, "outflow": 0.5}, ("bucket", "emptied"), ""),
    ({"hose_in": "bucket", "outflow": 0.5}, ("bucket", "emptied"), ""),
    ({"gas_cock": False}, ("pilot", "lit"), "No gas comes: its valve is shut."),
    ({"dial": "off"}, ("pilot", "lit"), "No gas comes: the dial is off."), ({"dial": "pilot"}, ("pilot", "lit"), ""),
    ({}, ("rod", "new"), "The rod is in its port."), ({}, ("rod", "back"), "The rod is in its port."),
    ({"rod": Rod(0.5, False, "out")}, ("rod", "back"), ""),
    ({"rod": Rod(0.5, False, "out")}, ("rod", "out"), "The rod is out."),
    ({}, ("rod", "out"), "It sits tight in its thread."), ({"rod": Rod(0.5, False, "loose")}, ("rod", "out"), ""),
    ({"rod": Rod(0.5, True)}, ("rod", "cracked"),
     "It does not come loose, with all that one can lean on the bar."),
    ({"rod": Rod(0.5, True)}, ("rod", "forced"), ""), ({}, ("rod", "cracked"), ""),
    ({"build_rod_combined": True}, ("rod", "cracked"),
     "There is no head to turn: the rod hangs on the hot outlet, under its pipe."),
    ({"build_rod_combined": True, "hot_pipe": False}, ("rod", "cracked"), ""),
]  # fmt: skip


@pytest.mark.parametrize(("stands", "act", "why"), REFUSED)
def test_a_hand_is_refused_what_it_cannot_do(stands, act, why):
    assert refused(at(**stands).heater, Act(0, *act)) == why


def test_at_two_drains_a_hand_leaves_one_as_it_should_be_before_the_other():
    for stands, why in (
        ({}, ""), ({"drain": 0.2}, "Shut this drain and take off what is on it first."),
        ({"cap": True}, "Shut this drain and take off what is on it first."),
    ):  # fmt: skip
        heater = at("two_drains", **stands).heater
        other = "right" if heater.at_drain == "left" else "left"
        assert refused(heater, Act(0, "at_drain", other)) == why
        assert refused(heater, Act(0, "at_drain", heater.at_drain)) == ""
    heater = at("two_drains").heater
    heater.at_drain = "left" if heater.build.tank_drain == "right" else "right"
    assert refused(heater, Act(0, "drain_valve", "new")) == "That is the boiler's drain."


TURNED = [
    ({}, ("drain", "cracked"), {"drain": 0.2, "drain_leaks": False}),
    ({"build_drain_drips": True}, ("drain", "shut"), {"drain": 0.0, "drain_leaks": True}),
    ({"build_relief_weeps": True}, ("lever", "down"), {"lever": False, "relief_leaks": True}),
    ({"build_relief_weeps": True}, ("lever", "up"), {"lever": True, "relief_leaks": False}),
    ({"build_relief_weeps": True, "build_relief_stuck": True}, ("lever", "down"), {"relief_leaks": False}),
    ({"pilot": True}, ("dial", "pilot"), {"dial": "pilot", "pilot": True}),
    ({"pilot": True}, ("dial", "off"), {"dial": "off", "pilot": False}),
    ({"pilot": False}, ("dial", "on"), {"pilot": False}),
    ({}, ("gas_cock", "shut"), {"gas_cock": False, "pilot": False}),
    ({"gas_cock": False, "pilot": False}, ("gas_cock", "open"), {"gas_cock": True, "pilot": False}),
    ({"pilot": False}, ("pilot", "lit"), {"pilot": True}),
    ({"flake": True, "drain": 1.0}, ("wire", "through the drain"), {"flake": False, "drain": 0.0}),
    ({"bucket_l": 9.0, "bucket_g": 40.0, "relief_bucket_l": 2.0}, ("bucket", "emptied"),
     {"bucket_l": 0.0, "bucket_g": 0.0, "relief_bucket_l": 0.0}),
    ({}, ("relief_bucket", "under the pipe"), {"relief_bucket": True}), ({}, ("mark", "55"), {"set_c": 55.0}),
    ({}, ("hot_pipe", "off"), {"hot_pipe": False}), ({}, ("main", "shut"), {"main": 0.0}),
    ({"main": 0.0}, ("main", "open"), {"main": 1.0}), ({}, ("tap", "open"), {"tap": True}),
    ({}, ("hose_in", "bucket"), {"hose_in": "bucket"}), ({}, ("gauge", "on"), {"gauge": True}),
    ({}, ("rod", "cracked"), {"twisted": False, "rod": Rod(0.6, False, "loose")}),
    ({"rod": Rod(0.6, True)}, ("rod", "forced"), {"twisted": True, "rod": Rod(0.6, True, "tight")}),
    ({"rod": Rod(0.6, False, "out")}, ("rod", "back"), {"rod": Rod(0.6, False, "tight")}),
    ({"rod": Rod(0.1, True, "out")}, ("rod", "new"), {"rod": Rod(1.0, False, "tight", is_new=True)}),
    ({"relief_leaks": True, "relief_open": True, "lever": True, "kpa": 0.0}, ("relief_valve", "out"),
     {"relief_out": True, "relief_leaks": False, "relief_open": False, "lever": False}),
    ({"relief_out": True, "relief_leaks": True}, ("relief_valve", "new"),
     {"relief_out": False, "relief_leaks": False, "lever": False}),
    ({"flake": True, "drain_leaks": True, "drain": 1.0}, ("drain_valve", "new"),
     {"flake": False, "drain_leaks": False, "drain": 0.0}),
]  # fmt: skip


@pytest.mark.parametrize(("stands", "act", "after"), TURNED)
def test_a_hand_turns_what_it_is_at_and_nothing_else_follows_than_would(stands, act, after):
    practice = at(rod=stands.get("rod", Rod(0.6, False)), **{k: v for k, v in stands.items() if k != "rod"})
    practice.act(Act(0, *act))
    assert practice.refusals == {}
    assert {field: getattr(practice.heater, field) for field in after} == after


@pytest.mark.parametrize(
    ("build", "to", "after"),
    [
        ({"relief_stuck": True, "relief_weeps": True, "probe_short": True}, "new", (False, False, False)),
        ({"relief_stuck": True, "relief_weeps": True, "probe_short": True}, "as the old", (False, False, True)),
        ({}, "as the old", (False, False, False)),
    ],
)  # fmt: skip
def test_a_new_relief_valve_is_sound_and_as_long_as_it_was_bought(build, to, after):
    practice = at(kpa=0.0, **{f"build_{name}": so for name, so in build.items()})
    practice.act(Act(0, "relief_valve", to))
    now = practice.heater.build
    assert (now.relief_stuck, now.relief_weeps, now.probe_short) == after


@pytest.mark.parametrize(("stands", "litres"), [({"cold": 0.0}, 1.0), ({"cold": 0.0, "tap": True}, 6.0), ({}, 6.0),
                                                ({"cold": 0.0, "lever": True}, 6.0)])  # fmt: skip
def test_a_drain_valve_is_changed_on_a_tank_that_holds_itself_back(stands, litres):
    practice = at(**stands)
    practice.act(Act(0, "drain_valve", "new"))
    assert practice.heater.floor_l == pytest.approx(litres)
    assert not practice.heater.build.drain_drips


# What is noted.


def test_a_grade_by_eye_is_the_depth_at_which_it_lay():
    # On a floor of 0.16 m2: 1, 4, 12 and 40 mm are 0.16, 0.64, 1.92 and 6.4 L.
    by_litres = {
        0.15: "none", 0.17: "trace", 0.63: "trace", 0.65: "moderate", 1.9: "moderate", 1.95: "heavy", 6.3: "heavy",
        6.5: "blocked",
    }  # fmt: skip
    assert {litres: removed_grade(litres, 0.16).value for litres in by_litres} == by_litres
    by_left = {0.86: "like_new", 0.84: "worn", 0.61: "worn", 0.59: "half", 0.34: "half", 0.33: "mostly_gone",
               0.11: "mostly_gone", 0.09: "gone"}  # fmt: skip
    assert {left: rod_grade(left).value for left in by_left} == by_left


@pytest.mark.parametrize(
    ("noted", "gauge", "good"),
    [(1.0, True, True), (1.049, True, True), (1.051, True, False), (0.951, True, True), (0.949, True, False),
     (1.0, False, False), (None, True, False)],
)  # fmt: skip
def test_the_house_s_pressure_is_noted_off_a_gauge_within_a_twentieth(noted, gauge, good):
    practice = at()
    practice.scenario = replace(practice.scenario, asks=("static_kpa",))
    if gauge:
        practice.act(Act(0, "gauge", "on"))
    text = "" if noted is None else f"{noted * practice.began.build.supply_kpa:.3f}"
    practice.act(Act(0, "static_kpa", text))
    assert [mark.good for mark in note_marks(practice)] == [good]
    practice.act(Act(0, "static_kpa", "some"))
    assert [mark.good for mark in note_marks(practice)] == [False]


def test_what_came_out_and_the_rod_are_held_against_the_bucket_and_the_metal():
    practice = at(removed_kg=3.0)
    practice.scenario = replace(practice.scenario, asks=("removed", "rod_grade", "static_kpa"))
    build = practice.began.build
    true = removed_grade(practice.heater.removed_kg / LOOSE_KG_L, build.litres / 1000 / build.height_m)
    rod = rod_grade(practice.began.rod.left)

    def told(removed, grade):
        practice.notes.update(removed=removed, rod_grade=grade)
        return note_marks(practice)

    assert [mark.good for mark in told(true, rod)] == [True, False, False]
    practice.rod_drawn = True
    marks = told(true, rod)
    assert [mark.good for mark in marks] == [True, True, False]
    assert marks[0].says.endswith("as you noted.") and marks[1].says.endswith("as you noted.")
    other, wrong = next(one for one in Removed if one != true), next(one for one in RodGrade if one != rod)
    marks = told(other, wrong)
    assert [mark.good for mark in marks] == [False, False, False]
    assert marks[0].says.endswith(f"you noted {other}.") and marks[0].says.startswith("What came out, ")
    assert told("", "")[0].says.endswith("you noted nothing.") and told("", "")[1].says.endswith("you noted nothing.")
    # Who grades wrongly is told; who hurts is not passed.
    assert not any(mark.must for mark in marks)


@pytest.mark.parametrize(
    ("build", "lifted", "true"),
    [
        ({}, True, "flows_and_reseats"), ({"relief_weeps": True}, True, "flows_and_weeps"),
        ({"relief_stuck": True}, True, "no_flow"), ({"relief_stuck": True, "relief_weeps": True}, True, "no_flow"),
        ({}, False, "not_tested"), ({"relief_stuck": True}, False, "not_tested"),
    ],
)  # fmt: skip
def test_how_a_relief_valve_did_is_held_against_what_it_is(build, lifted, true):
    for noted in ("flows_and_reseats", "flows_and_weeps", "no_flow", "not_tested"):
        practice = at()
        practice.scenario = replace(practice.scenario, asks=("valve_outcome",))
        practice.began.build = replace(practice.began.build, **build)
        if lifted:
            practice.act(Act(0, "lever", "up"))
        practice.act(Act(0, "valve_outcome", noted))
        (mark,) = note_marks(practice)
        assert mark.good is (noted == true) and mark.must

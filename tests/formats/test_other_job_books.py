"""Lines of job books as other offices write them: what was done, what was not, and what was only wished for."""

import pytest

from aquifer.formats.job_text import findings

FLUSH, ROD, NEW_ROD = {"task": "flush"}, {"task": "anode_inspection"}, {"task": "anode_replacement"}
VALVE, NEW_VALVE = {"task": "relief_valve_exercise"}, {"task": "relief_valve_replacement"}
WELL, WEEPS = VALVE | {"outcome": "flows_and_reseats"}, VALVE | {"outcome": "flows_and_weeps"}


@pytest.mark.parametrize(
    ("text", "means"),
    [
        ("annual svc - flushed 3 gal, pulled anode 60% gone, T&P tested OK", [FLUSH, ROD | {"grade": "half"}, WELL]),
        (
            "Ann. maint: drained & flushed, sediment heavy. Anode rod replaced (mag). T&P valve lifted, reseated fine",
            [FLUSH | {"removed": "heavy"}, NEW_ROD, WELL],
        ),
        (
            "Descale TL unit, vinegar 1 hr, flow 4.2 -> 5.8 gpm",
            [{"task": "descale", "flow_before_l_min": 15.9, "flow_after_l_min": 21.95}],
        ),
        ("rod was gone, new aluminum rod", [ROD | {"grade": "gone"}, NEW_ROD]),
        ("anode 80% left", [ROD | {"grade": "worn"}]),
        ("anode rod 95 % used up, changed it", [ROD | {"grade": "gone"}, NEW_ROD]),
        ("rod half gone", [ROD | {"grade": "half"}]), ("anode like new", [ROD | {"grade": "like_new"}]),
        ("tpr dripping, replaced TPRV", [WEEPS, NEW_VALVE]),
        ("new T+P, flushed till clear, 2 buckets of sand",
         [FLUSH | {"removed": "heavy", "texture": "sand", "removed_l": 38.0}, NEW_VALVE]),
        ("flushed tank. anode ok. t&p not tested (old, afraid it won't reseat)", [FLUSH, ROD | {"grade": "like_new"}]),
        ("reset high limit, replaced lower element", [{"task": "look_over", "element_failed": True}]),
        ("checked elements, both good", []), ("did not flush - customer refused", []), ("flush declined", []),
        ("needs a flush next time", []), ("recommended new anode, t&p ok", [WELL]),
        ("quoted new T&P; flushed, trace", [FLUSH | {"removed": "trace"}]),
        ("no access, left card", []), ("Inspected only. 1/4 inch sediment.", []), ("replaced w/h w/ 50 gal NG", []),
        ("replaced exp tank, T&P ok", [WELL, {"task": "expansion_tank_replacement"}]),
        ("anode ok, new exp tank", [ROD | {"grade": "like_new"}, {"task": "expansion_tank_replacement"}]),
        ("flushed, 2 gal of sand", [FLUSH | {"removed": "moderate", "texture": "sand", "removed_l": 7.57}]),
        ("t/p valve stuck shut, replaced", [VALVE | {"outcome": "no_flow"}, NEW_VALVE]),
        ("would not drain, left it", [FLUSH | {"removed": "blocked", "drain_flow": "none"}]),
        ("couldn't get anode out", []), ("T & P ok", [WELL]), ("flushed & t & p tested", [FLUSH, WELL]),
        # What is said of a part that is no concern of the forecast is said of no other.
        ("replaced drain valve", []), ("T&P ok. installed new gas valve", [WELL]), ("cleaned flame rod, good", []),
        ("anode half, new thermocouple", [ROD | {"grade": "half"}]), ("relit pilot, replaced w/h", []),
        ("lower element open, replaced. Upper OK", [{"task": "look_over", "element_failed": True}]),
        ("element bad, other one ok", [{"task": "look_over", "element_failed": True}]),
        ("anode 1/2 gone", [ROD | {"grade": "half"}]), ("anode 3/4 left", [ROD | {"grade": "worn"}]),
        ("anode 1/4 left", [ROD | {"grade": "mostly_gone"}]),
        ("replaced anode, core wire exposed 8 in", [ROD | {"grade": "mostly_gone"}, NEW_ROD]),
        ("pressure 92 psi static", [{"task": "pressure_test", "static_kpa": 634.3}]),
        ("house pressure 5.5 bar", [{"task": "pressure_test", "static_kpa": 550.0}]),
        ("static 80, T&P ok", [{"task": "pressure_test", "static_kpa": 551.6}, WELL]),
        ("installed exp tank 2 gal set 60 psi", [{"task": "expansion_tank_replacement"}]),
        ("Speicher gespült, ca. 3 Liter Kalk", [FLUSH | {"removed_l": 3.0}]),
        ("lower element burnt, full of scale", [{"task": "look_over", "element_failed": True}]),
        ("flushed water heater, heavy", [FLUSH | {"removed": "heavy"}]),
        # What was wanted and then done was done.
        ("needed new T&P, replaced", [NEW_VALVE]), ("needs flush - done", [FLUSH]),
        ("recommended new anode; customer agreed, installed it", [NEW_ROD]),
        ("needed new t&p (dripping), replaced same day", [NEW_VALVE]), ("customer declined new anode, done", []),
        ("needs new anode, replaced thermocouple", []), ("needs anode. flushed, done", [FLUSH]),
        ("anode half. recommend new one next year. done.", [ROD | {"grade": "half"}]),
        ("anode half, needs new one. Done.", [ROD | {"grade": "half"}]),
        ("anode half, needs new one next spring, installed it", [ROD | {"grade": "half"}]),
        ("anode half, needs new one, replaced", [ROD | {"grade": "half"}, NEW_ROD]),
        ("needs a new anode, ordered", []), ("anode needs replacing, will be done in spring", []),
        ("will replace anode next visit, flushed heavy", [FLUSH | {"removed": "heavy"}]),
    ],
)  # fmt: skip
def test_a_line_says_what_was_done_and_nothing_that_was_not(text, means):
    assert sorted(findings(text), key=str) == sorted(means, key=str)


PIECES = {
    "flushed, heavy": FLUSH | {"removed": "heavy"},
    "anode half": ROD | {"grade": "half"},
    "t&p ok": WELL,
    "exp tank waterlogged": {"task": "expansion_tank_check", "at_valve": "water"},
    "screen cleaned": {"task": "upkeep", "item": "inlet_screen", "fouling": "light"},
}


@pytest.mark.parametrize("first", PIECES)
@pytest.mark.parametrize("second", PIECES)
@pytest.mark.parametrize("between", [", ", "; ", ". ", " - ", " and "])
def test_what_is_said_of_one_thing_says_nothing_of_another(first, second, between):
    """Each piece means the same whatever stands before or behind it."""
    if first == second:
        return
    assert sorted(findings(first + between + second), key=str) == sorted([PIECES[first], PIECES[second]], key=str)


def test_what_is_wished_for_was_not_done():
    for piece in ("flush", "new anode", "new t&p valve", "new exp tank", "descale"):
        for wish in ("recommend {}", "needs {}", "quoted {}", "{} next time", "{} declined", "will do {} in spring"):
            assert findings(wish.format(piece)) == [], wish.format(piece)

"""The sentence after a visit says what was found, what was expected and what follows."""

import datetime
import math

import pytest

from aquifer.core.reasons import Found, Standing, expected_grade, expected_rod, learned, moved, told
from aquifer.core.units import METRIC, worded
from aquifer.core.vocabulary import Component, ExpansionTankPin, Method, Removed, RodGrade, ValveOutcome

DAY = datetime.date(2027, 3, 1)


def standing(
    component=Component.SEDIMENT, state=6.0, ratio=1.0, due=DAY, method=Method.DRAIN_AND_PULSE, limit=12.0
) -> Standing:
    return Standing(component, due, None, None, method, state, math.log(ratio), limit)


def test_both_dates_and_their_distance_are_told():
    later = standing(due=DAY + datetime.timedelta(days=40))
    found = moved(standing(), later, Found(removed=Removed.TRACE))
    assert (found.before_on, found.after_on, found.days) == (DAY, later.due_on, 40)
    assert moved(standing(due=None), later, None).days is None


@pytest.mark.parametrize(
    ("mm", "grade"),
    [(0.2, "none"), (2, "trace"), (4, "moderate"), (20, "heavy"), (90, "blocked")],
)
def test_the_expected_grade_follows_the_believed_depth(mm, grade):
    assert expected_grade(Component.SEDIMENT, mm, 12.0) == grade


def test_the_expected_grade_of_scale_counts_in_shares_of_its_limit():
    assert expected_grade(Component.SCALE, 0.01, 0.225) is Removed.NONE
    assert expected_grade(Component.SCALE, 0.225, 0.225) is Removed.HEAVY


def test_a_surprise_is_called_one():
    found = moved(standing(state=2.0), standing(ratio=1.6), Found(removed=Removed.HEAVY))
    assert "Out came a heavy amount where a trace was expected." in told(found.reasons)
    assert "1.6 times what its water and use suggest: faster" in told(found.reasons)


def test_the_expected_is_called_so():
    found = moved(standing(state=6.0), standing(ratio=1.02), Found(removed=Removed.MODERATE))
    assert "as expected" in told(found.reasons) and "about what its water and use suggest" in told(found.reasons)


def test_a_measured_depth_is_told_beside_the_believed_one():
    found = moved(standing(state=6.0), standing(), Found(removed=Removed.HEAVY, depth_mm=18.0))
    assert "Measured 18 mm where about 6 mm was believed." in worded(told(found.reasons), METRIC)


def test_a_change_of_method_is_announced():
    found = moved(standing(), standing(method=Method.JETTING), Found(removed=Removed.HEAVY))
    assert told(found.reasons).endswith("More plain flushes would not keep up: jetting next.")


@pytest.mark.parametrize(
    ("found", "says"),
    [
        (Found(outcome=ValveOutcome.FLOWS_AND_RESEATS), "twelve months at most start again"),
        (Found(outcome=ValveOutcome.FLOWS_AND_WEEPS), "to be replaced"),
        (Found(outcome=ValveOutcome.NO_FLOW), "no protection"),
        (Found(outcome=ValveOutcome.NOT_TESTED), "not lengthened"),
        (Found(outcome=ValveOutcome.NO_FLOW, replaced=True), "New valve"),
    ],
)
def test_every_outcome_of_a_valve_has_its_sentence(found, says):
    valve = standing(Component.RELIEF_VALVE, 0.02)
    assert says in worded(told(moved(valve, valve, found).reasons), METRIC)


def test_a_rod_is_told_against_what_was_expected():
    assert expected_rod(0.95) is RodGrade.LIKE_NEW and expected_rod(0.05) is RodGrade.GONE
    before, after = standing(Component.ANODE, 0.95), standing(Component.ANODE, 0.5, ratio=0.5)
    found = moved(before, after, Found(rod=RodGrade.HALF, bare_mm=40.0))
    assert worded(told(found.reasons), METRIC).startswith(
        "40 mm of wire is bare. The rod is half gone; like new was expected."
    )
    assert "0.5 times" in told(found.reasons) and "slower" in told(found.reasons)
    assert told(moved(before, after, Found(rod=RodGrade.GONE, replaced=True)).reasons).startswith("New rod")


def test_what_was_not_looked_at_says_so():
    assert "Not looked at" in worded(told(moved(standing(), standing(), None).reasons), METRIC)
    assert told(moved(None, standing(), None).reasons) == "Forecast for the first time."


@pytest.mark.parametrize(
    ("found", "says"),
    [
        (Found(pin=ExpansionTankPin.WATER), "bladder is torn"),
        (Found(pin=ExpansionTankPin.AIR), "takes in 3.5 L of the 3.0 L that heating adds"),
        (Found(pin=ExpansionTankPin.AIR, precharge_kpa=350.0), "Found at 350 kPa and charged again"),
        (Found(replaced=True), "New expansion tank"),
    ],
)
def test_an_expansion_tank_is_told_by_what_it_takes_in(found, says):
    expansion_tank = standing(Component.EXPANSION_TANK, 3.5, limit=3.0)
    assert says in worded(told(moved(expansion_tank, expansion_tank, found).reasons), METRIC)


def test_a_tanks_risk_is_told_when_it_was_looked_over():
    tank = standing(Component.TANK, 0.12, limit=0.2)
    assert "12% likely to fail within 12 months" in worded(told(moved(tank, tank, Found()).reasons), METRIC)


def test_what_was_learned_says_how_much_and_who_says_so():
    assert learned(Component.SEDIMENT, math.log(1.6), 4) == (
        "This tank builds 1.6 times what its water and use suggest; four visits say so."
    )
    assert (
        learned(Component.SCALE, 0.02, 1)
        == "This exchanger scales about what its water and use suggest; one visit says so."
    )
    assert learned(Component.ANODE, math.log(0.5), 0).endswith(
        "0.5 times what its water and use suggest; others on this water and of its build say so."
    )
    assert learned(Component.TANK, 0.5, 3) == ""


def test_what_an_expansion_tank_takes_in_is_told_to_a_tenth_of_a_litre():
    after = standing(Component.EXPANSION_TANK, 3.456, limit=2.987)
    (holds,) = [
        one for one in moved(after, after, Found(pin=ExpansionTankPin.AIR)).reasons if one.key == "bladder_holds"
    ]
    assert holds.figures == {"takes_l": 3.5, "adds_l": 3.0}

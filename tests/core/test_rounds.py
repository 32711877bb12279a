"""Rounds: no plan breaks a constraint, whatever the problem; times, moves and conflicts by hand."""

from dataclasses import replace
from itertools import combinations, product

import numpy as np
import pytest
from hypothesis import given, settings

from aquifer.core.planning import promises, routing, unpaused
from aquifer.core.planning.rounds import (
    Breach,
    Call,
    Lunch,
    Plan,
    Problem,
    Round,
    Shift,
    Stop,
    Window,
    changes,
    faults_of,
    held,
    move_cost,
    move_costs,
    moved,
    of_sequences,
    timed,
)
from tests.conftest import examples
from tests.core.planning import days

TRAVEL = np.array([[0, 10, 20, 30], [10, 0, 10, 25], [20, 10, 0, 12], [30, 25, 12, 0]])
GAS = frozenset({"gas"})
DAY = Shift(0, 0, 480, 960, GAS, 1, Lunch(690, 780, 40))


def problem(*stops: Stop, shifts: tuple[Shift, ...] = (DAY,)) -> Problem:
    return Problem(shifts, stops, TRAVEL)


@given(days())
@settings(max_examples=examples(25, of_long=500))
def test_no_plan_breaks_a_constraint(found):
    plan = routing.plan(found, 0.05)
    assert faults_of(found, plan) == []
    assert routing.cost(found, plan) <= routing.cost(found, of_sequences(found, [[] for _ in found.shifts]))


@given(days())
@settings(max_examples=examples(15, of_long=300))
def test_planning_anew_from_a_plan_breaks_nothing_and_costs_no_more(found):
    before = routing.plan(found, 0.05)
    kept = held(found, before)
    sequences = [[call.stop for call in one.calls] for one in before.rounds]
    after = routing.plan(kept, 0.05, sequences)
    assert faults_of(kept, after) == []
    assert routing.cost(kept, after) <= routing.cost(kept, before)


@given(days())
@settings(max_examples=examples(25, of_long=500))
def test_the_nearest_first_keeps_every_constraint_too(found):
    assert faults_of(found, routing.nearest_neighbour(found)) == []
    assert faults_of(found, routing.earliest_promise_first(found)) == []


@given(days(most=5))
@settings(max_examples=examples(20, of_long=400))
def test_promises_in_conflict_are_a_smallest_set(found):
    bound = [n for n, stop in enumerate(found.stops) if stop.windows]
    core = promises.in_conflict(found, bound)
    if not core:
        assert promises.can_keep(found, bound)
        return
    assert not promises.can_keep(found, core)
    for smaller in combinations(bound, len(core) - 1):
        assert promises.can_keep(found, list(smaller))


def test_a_day_is_timed_with_its_ways_waiting_and_lunch():
    found = problem(Stop(1, 60, GAS), Stop(2, 90, GAS, windows=(Window(600, 640),)), Stop(3, 30, GAS))
    one = timed(found, 0, [0, 1, 2])
    assert one.faults == []
    assert one.round.calls == (Call(0, 490, 490, 550), Call(1, 560, 600, 690), Call(2, 742, 742, 772))
    assert (one.round.lunch, one.round.driving, one.round.ends) == (690, 62, 802)
    # On the road when the pause may begin: it is taken there, and nobody waits for it.
    on_the_way = timed(problem(Stop(1, 195, GAS), Stop(3, 30, GAS)), 0, [0, 1]).round
    assert (on_the_way.lunch, on_the_way.calls[1].arrives) == (690, 685 + 25 + 40)


@pytest.mark.parametrize(
    ("stop", "breach", "minutes"),
    [
        (Stop(1, 60, frozenset({"electrical"})), Breach.ABILITY, 0),
        (Stop(1, 60, GAS, people=2), Breach.PEOPLE, 0),
        (Stop(1, 60, GAS, windows=(Window(400, 470),)), Breach.PROMISE, 20),
        (Stop(1, 500, GAS), Breach.HOURS, 280),
        (Stop(1, 60, GAS, shift=1, stays=True), Breach.LOCK, 0),
    ],
)
def test_each_thing_that_a_day_cannot_keep_is_told(stop, breach, minutes):
    told = {fault.breach: fault.minutes for fault in timed(problem(stop), 0, [0]).faults}
    assert told[breach] == minutes


def test_a_plan_is_looked_through_without_what_made_it():
    found = problem(Stop(1, 60, GAS), Stop(2, 60, GAS))
    early = Plan((Round((Call(0, 480, 480, 540), Call(1, 560, 560, 620)), 40, 640, 690),))
    assert [fault.breach for fault in faults_of(found, early)] == [Breach.TRAVEL]
    hungry = Plan((Round((Call(0, 490, 490, 550),), 20, 560, None),), (1,))
    assert [fault.breach for fault in faults_of(found, hungry)] == [Breach.LUNCH]
    twice = Plan((Round((Call(0, 490, 490, 550),), 20, 560, 690),), (0, 1))
    assert Breach.PLACED in {fault.breach for fault in faults_of(found, twice)}


@pytest.mark.parametrize(
    ("calls", "lunch", "told"),
    [
        # As it may be: out at 480, there 490, pause on the way, back before 960.
        (((0, 490, 550), (1, 730, 790)), 690, []),
        (((0, 490, 550), (1, 700, 760)), 690, [(Breach.TRAVEL, 1, 30)]),
        # Ten minutes on the way to the first, and as long to the second, that are not there.
        (((0, 485, 545), (1, 560, 620)), 690, [(Breach.TRAVEL, 0, 5)]),
        (((0, 490, 550), (1, 552, 612)), 690, [(Breach.TRAVEL, 1, 8)]),
        # A minute too short at the stop, and one too long.
        (((0, 490, 549), (1, 560, 620)), 690, [(Breach.TRAVEL, 0, 0)]),
        (((0, 490, 551), (1, 565, 625)), 690, [(Breach.TRAVEL, 0, 0)]),
        # The pause from 690 on takes 40 minutes of the way of ten: there at 740, not at 725 or 735.
        (((0, 490, 690), (1, 740, 800)), 690, [(Breach.TRAVEL, 0, 0)]),
        (((0, 490, 550), (1, 740, 800)), 700, []),
        (((0, 640, 700), (1, 750, 810)), 700, []),
        (((0, 640, 700), (1, 749, 809)), 700, [(Breach.TRAVEL, 1, 1)]),
        # Nobody rests while he works.
        (((0, 640, 700), (1, 750, 810)), 699, [(Breach.LUNCH, None, 0)]),
        # Home by 960 is in time, a minute later is not.
        (((0, 490, 550), (1, 880, 940)), 690, []),
        (((0, 490, 550), (1, 881, 941)), 690, [(Breach.HOURS, None, 0)]),
        # Where the pause is the last thing, it is before the way home, and within its hours.
        (((0, 490, 550), (1, 560, 620)), 780, []),
        (((0, 490, 550), (1, 560, 620)), 781, [(Breach.LUNCH, None, 0)]),
        (((0, 490, 550), (1, 560, 620)), 689, [(Breach.LUNCH, None, 0)]),
    ],
)
def test_each_minute_of_a_plan_is_held_against_the_way_the_work_and_the_pause(calls, lunch, told):
    found = problem(Stop(1, 60, GAS), Stop(2, 60, GAS))
    plan = Plan((Round(tuple(Call(stop, begins, begins, ends) for stop, begins, ends in calls), 40, 0, lunch),))
    assert [(one.breach, one.stop, one.minutes) for one in faults_of(found, plan)] == told


def test_a_promise_holds_from_its_first_minute_to_its_last():
    found = problem(Stop(1, 60, GAS, windows=(Window(500, 520), Window(600, 610))))
    for begins, kept in ((499, False), (500, True), (520, True), (521, False), (600, True), (611, False)):
        plan = Plan((Round((Call(0, 490, begins, begins + 60),), 20, begins + 70, 700),))
        assert [one.breach for one in faults_of(found, plan)] == ([] if kept else [Breach.PROMISE]), begins


def test_a_move_tells_its_driving_and_what_it_breaks():
    shifts = (DAY, replace(DAY, able=frozenset()))
    found = problem(Stop(1, 60, GAS), Stop(2, 60, GAS), Stop(3, 60, frozenset()), shifts=shifts)
    plan = of_sequences(found, [[0, 1], [2]])
    there = move_cost(found, plan, 2, 0)
    # 3 lies beyond 2: out by 0-1-2-3-0 is 62 instead of 40, and the way of 60 there and back is saved.
    assert (there.driving, there.faults) == (62 - 40 - 60, ())
    assert [call.stop for call in moved(found, plan, 2, 0, there.position).rounds[0].calls] in ([0, 1, 2], [2, 1, 0])
    back = move_cost(found, plan, 1, 1)
    assert [fault.breach for fault in back.faults] == [Breach.ABILITY]
    out = moved(found, plan, 1, None, 0)
    assert out.left_out == (1,)
    assert {(one.stop, one.before, one.after) for one in changes(plan, out)} == {(1, 0, None)}


def test_every_place_of_a_shift_costs_what_the_whole_plan_says_once_it_is_there():
    """Against the plan timed anew with the stop there, for each stop, shift and place."""
    shifts = (DAY, replace(DAY, begins=540, able=frozenset()))
    stops = (
        Stop(1, 60, GAS),
        Stop(2, 60, GAS, windows=(Window(480, 560),)),
        Stop(3, 60, frozenset()),
        Stop(1, 30, GAS),
    )
    found = problem(*stops, shifts=shifts)
    plan = of_sequences(found, [[0, 1], [2]])
    for stop, shift in product(range(4), range(2)):
        costs = move_costs(found, plan, stop, shift)
        others = sum(call.stop != stop for call in plan.rounds[shift].calls)
        assert [one.position for one in costs] == list(range(others + 1))
        for one in costs:
            there = moved(found, plan, stop, shift, one.position)
            assert one.driving == there.driving - plan.driving
            assert one.ends == there.rounds[shift].ends and one.ends_before == plan.rounds[shift].ends
            assert one.begins == next(call.begins for call in there.rounds[shift].calls if call.stop == stop)
            was, now = (
                {(f.breach, f.stop) for f in faults_of(found, each) if f.shift == shift} for each in (plan, there)
            )
            assert {(f.breach, f.stop) for f in one.faults} == now - was
        best = move_cost(found, plan, stop, shift)
        assert (best.breaks, best.driving) == min((one.breaks, one.driving) for one in costs)
        assert move_cost(found, plan, stop, shift, 99) == costs[-1]


def test_what_a_new_plan_does_is_told_by_stop_and_minutes_and_small_shifts_are_nothing():
    def at(*begins: tuple[int, int]) -> Round:
        return Round(tuple(Call(stop, begin, begin, begin + 60) for stop, begin in begins))

    before = Plan((at((0, 500), (1, 600), (2, 700)), at((3, 500))), (4,))
    after = Plan((at((0, 509), (1, 610)), at((3, 485), (2, 800), (4, 900))), ())
    told = [(one.stop, one.before, one.after, one.minutes) for one in changes(before, after)]
    assert sorted(told) == [(1, 0, 0, 10), (2, 0, 1, 0), (3, 1, 1, -15), (4, None, 1, 0)]
    gone = Plan((at((0, 500), (2, 700)), at((3, 500))), (1, 4))
    assert [(one.stop, one.before, one.after, one.minutes) for one in changes(before, gone)] == [(1, 0, None, 0)]


def test_a_day_planned_anew_changes_little():
    """Two people, two visits each: one runs over, and only what cannot stay is given away."""
    shifts = (DAY, DAY)
    stops = (
        Stop(2, 60, GAS, windows=(Window(500, 560),), shift=0),
        Stop(1, 60, GAS, shift=1),
        Stop(3, 45, GAS, shift=1),
    )
    late = replace(DAY, begins=600)
    found = problem(*stops, shifts=(late, shifts[1]))
    plan = routing.plan(found, 0.2, [[0], [1, 2]])
    assert faults_of(found, plan) == [] and plan.left_out == ()
    assert plan.where() == {0: 1, 1: 1, 2: 1}


def test_a_start_without_pauses_leaves_room_for_them():
    # From 490 on there is time for one of the two hours and a half before the pause and the promise after it.
    found = problem(
        Stop(1, 150, GAS), Stop(1, 60, GAS), Stop(2, 60, GAS), Stop(2, 60, GAS, windows=(Window(775, 790),))
    )
    begun = unpaused.sequences(found, 0.2, 25)
    assert sorted(begun[0]) == [0, 1, 2, 3]
    assert timed(found, 0, begun[0]).faults == []


def test_a_start_knows_who_can_do_a_visit_and_whose_it_is():
    other = replace(DAY, able=frozenset({"electrical"}))
    stops = (Stop(1, 60, GAS), Stop(1, 60, frozenset({"electrical"})), Stop(2, 60, shift=0, stays=True))
    assert unpaused.sequences(problem(*stops, shifts=(other, DAY)), 0.2, 25) == [[1, 2], [0]]
    assert not unpaused.suits(problem(Stop(1, 60, windows=(Window(500, 510), Window(600, 610)))))


def test_what_a_shift_cannot_keep_is_taken_off_it_and_nothing_else():
    found = problem(Stop(1, 60, GAS), Stop(2, 60, GAS, windows=(Window(480, 490),)), Stop(3, 60, GAS))
    plan = routing.mended(found, [[0, 1, 2]])
    assert plan.left_out == (1,) and [call.stop for call in plan.rounds[0].calls] == [0, 2]
    assert faults_of(found, plan) == []


def test_who_cannot_be_served_is_left_out_and_the_rest_is_placed():
    plan = routing.plan(problem(Stop(1, 60, frozenset({"electrical"})), Stop(2, 60, GAS)), 0.1)
    assert plan.left_out == (0,) and plan.where() == {1: 0}


def test_two_promises_of_one_hour_are_the_conflict_and_not_the_third():
    nine = (Window(540, 545),)
    found = problem(Stop(1, 60, GAS, windows=nine), Stop(3, 60, GAS, windows=nine), Stop(2, 10, GAS))
    assert sorted(promises.in_conflict(found, [0, 1, 2])) == [0, 1]
    assert promises.in_conflict(found, [0, 2]) == []

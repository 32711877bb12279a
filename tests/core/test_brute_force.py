"""Rounds against every plan that there is: the search finds the best, and a conflict is one."""

from dataclasses import replace
from itertools import combinations

import numpy as np
import pytest
from hypothesis import given, settings

from aquifer.core.planning import promises, routing
from aquifer.core.planning.rounds import Lunch, Problem, Shift, Stop, Window, of_sequences
from tests.conftest import examples
from tests.core import brute_force
from tests.core.planning import days

TRAVEL = np.array([[0, 10, 20, 30], [10, 0, 10, 25], [20, 10, 0, 12], [30, 25, 12, 0]])
GAS = frozenset({"gas"})
DAY = Shift(0, 0, 480, 960, GAS, 1, Lunch(690, 780, 40))


def problem(*stops: Stop, shifts: tuple[Shift, ...] = (DAY,)) -> Problem:
    return Problem(shifts, stops, TRAVEL)


def best(found: Problem) -> int:
    return min(brute_force.cost(found, plan, routing.CHANGE_MINUTES) for plan in brute_force.every_plan(found))


def in_order(plan) -> list[list[int]]:
    return [[call.stop for call in one.calls] for one in plan.rounds]


@given(days(most=4))
@settings(max_examples=examples(12, of_long=240))
def test_a_plan_is_as_cheap_as_the_cheapest_of_all(found):
    if len(found.shifts) > 2:
        found = replace(found, shifts=found.shifts[:2], stops=tuple(
            replace(one, shift=None, stays=False) if one.shift is not None and one.shift > 1 else one
            for one in found.stops
        ))  # fmt: skip
    assert routing.cost(found, routing.plan(found, 0.2)) <= 1.05 * best(found)


@given(days(most=4))
@settings(max_examples=examples(12, of_long=240))
def test_the_search_by_itself_needs_no_mending(found):
    found = replace(found, shifts=found.shifts[:2])
    searched = routing._Search(found).solve(0.2, None)
    assert searched is not None
    assert routing.cost(found, searched) <= 1.05 * best(found)


@pytest.mark.parametrize(
    ("stops", "shifts"),
    [
        # The gas visit goes to who may, though the other begins nearer.
        ((Stop(1, 60, GAS), Stop(2, 60)), (replace(DAY, able=frozenset()), DAY)),
        # The locked one stays where it is, though it lies on the other's way.
        ((Stop(1, 60, GAS, shift=1, stays=True), Stop(2, 60, GAS)), (DAY, DAY)),
        # Two people are needed, and only the second shift has them.
        ((Stop(3, 60, GAS, people=2), Stop(2, 60, GAS)), (DAY, replace(DAY, people=2))),
        # 170 minutes before the pause and 150 after it: all three look possible in a morning without one.
        ((Stop(1, 170, GAS), Stop(1, 80, GAS, windows=(Window(700, 745),)), Stop(2, 60, GAS)), (DAY,)),
        # One window that opens twice.
        ((Stop(1, 60, GAS, windows=(Window(481, 485), Window(800, 820))), Stop(3, 60, GAS)), (DAY,)),
    ],
)  # fmt: skip
def test_what_can_be_done_is_done_by_the_search_alone(stops, shifts):
    found = problem(*stops, shifts=shifts)
    searched = routing._Search(found).solve(0.3, None)
    assert searched is not None and searched.left_out == ()
    assert routing.cost(found, searched) == best(found)


def test_a_start_that_is_better_than_what_is_found_is_kept():
    # A ring of stops: a millisecond of search does not find its way around it.
    angle = np.linspace(0, 2 * np.pi, 31)[:-1]
    points = np.vstack([[100.0, 0.0], 100 * np.column_stack([np.cos(angle), np.sin(angle)])])
    travel = np.rint(np.hypot(*(points[:, None] - points[None]).transpose(2, 0, 1))).astype(np.int64)
    found = Problem((Shift(0, 0, 0, 3000),), tuple(Stop(n + 1, 1) for n in range(30)), travel)
    around = [list(range(30))]
    least = routing.cost(found, of_sequences(found, around))
    assert routing.cost(found, routing.plan(found, 0.001, around)) <= least


def test_the_baselines_do_what_they_say():
    # Nearest first goes 1, 2, 3; by promises 3 comes first, though it is the farthest.
    late, early = (Window(480, 900),), (Window(480, 600),)
    found = problem(Stop(1, 30, GAS, windows=late), Stop(2, 30, GAS), Stop(3, 30, GAS, windows=early))
    nearest = routing.nearest_neighbour(found)
    assert in_order(nearest) == [[0, 1, 2]] and nearest.left_out == ()
    promised = routing.earliest_promise_first(found)
    assert in_order(promised) == [[2, 0, 1]] and promised.left_out == ()
    # Who comes second takes what the first cannot.
    two = problem(Stop(1, 220, GAS), Stop(2, 220, GAS), shifts=(DAY, DAY))
    assert in_order(routing.nearest_neighbour(two)) == in_order(routing.earliest_promise_first(two)) == [[0], [1]]


@given(days(most=4))
@settings(max_examples=examples(40, of_long=800))
def test_a_conflict_is_one_and_nothing_smaller_is(found):
    found = replace(found, shifts=found.shifts[:2])
    bound = tuple(n for n, stop in enumerate(found.stops) if stop.windows or stop.shift is not None)
    core = promises.in_conflict(found, bound)
    assert (core == []) is brute_force.can_all_be_kept(found, bound)
    if core:
        assert not brute_force.can_all_be_kept(found, tuple(core))
        for size in range(1, len(core)):
            assert all(brute_force.can_all_be_kept(found, fewer) for fewer in combinations(core, size))


NINE = (Window(540, 545),)


@pytest.mark.parametrize(
    ("stops", "shifts", "core"),
    [
        # Both locked to the first; the second is free all day.
        ((Stop(1, 60, GAS, windows=NINE, shift=0, stays=True), Stop(3, 60, GAS, windows=NINE, shift=0, stays=True)),
         (DAY, DAY), [0, 1]),
        ((Stop(1, 60, GAS, windows=NINE, shift=0, stays=True), Stop(3, 60, GAS, windows=NINE, shift=1, stays=True)),
         (DAY, DAY), []),
        # Two people at nine, twice, and one pair.
        ((Stop(1, 60, GAS, people=2, windows=NINE), Stop(3, 60, GAS, people=2, windows=NINE), Stop(2, 10, GAS)),
         (replace(DAY, people=2), DAY), [0, 1]),
        # What nobody may do is a conflict by itself.
        ((Stop(1, 60, frozenset({"electrical"}), windows=NINE), Stop(2, 60, GAS)), (DAY,), [0]),
        # The way there takes longer than the windows leave.
        ((Stop(1, 60, GAS, windows=NINE), Stop(2, 60, GAS, windows=(Window(600, 605),))), (DAY,), [0, 1]),
        ((Stop(1, 60, GAS, windows=NINE), Stop(2, 60, GAS, windows=(Window(600, 610),))), (DAY,), []),
    ],
)  # fmt: skip
def test_conflicts_by_hand(stops, shifts, core):
    found = problem(*stops, shifts=shifts)
    assert sorted(promises.in_conflict(found, list(range(len(stops))))) == core


def test_a_conflict_among_many_is_told_though_not_every_set_is_tried(monkeypatch):
    monkeypatch.setattr(promises, "MOST_TRIED", 5)
    free = [Stop(2, 5, GAS, windows=(Window(480 + 40 * n, 900),)) for n in range(6)]
    clash = [Stop(1, 60, GAS, windows=NINE), Stop(3, 60, GAS, windows=NINE)]
    found = problem(*free[:3], clash[0], *free[3:], clash[1])
    assert sorted(promises.in_conflict(found, list(range(8)))) == [3, 7]

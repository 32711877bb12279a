"""What a season costs and wants, added up one service at a time from what the documents say of it."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aquifer.core.forecast import PROBABILITIES
from aquifer.core.planning import level, season
from tests.conftest import examples
from tests.core.planning import seasons
from tests.core.test_adjusting import GAS, PIPES, planned, sites

YEAR = 365.25 / 7
"""Weeks."""
NEVER = 10**6


def some_plan(problem: season.Problem, seed: int, twice: bool) -> season.Plan:
    """Any plan, kept to nothing: of each need a week or none, visits where it is served and a few besides."""
    random = np.random.default_rng(seed)
    n, weeks = problem.needs.group.size, problem.weeks
    week = random.integers(-1, weeks, n)
    again = np.where(twice & (week >= 0) & (random.random(n) < 0.4), np.minimum(week + 13, weeks - 1), -1)
    visits = random.random((problem.groups.kind.size, weeks)) < 0.05
    for need in range(n):
        for at in (week[need], again[need]):
            if at >= 0:
                visits[problem.needs.group[need], at] = True
    return season.Plan(week, visits, 0.0, 0.0, np.zeros((3, weeks)), again=again if twice else None)


def parts(problem: season.Problem, plan: season.Plan) -> dict[str, float]:
    """Hours by what for, need by need and visit by visit."""
    needs, groups, weeks = problem.needs, problem.groups, problem.weeks
    found = dict.fromkeys(("visits", "services", "over_limit", "past_cap", "past_asked"), 0.0)
    for group, week in zip(*np.nonzero(plan.visits), strict=True):
        found["visits"] += groups.setup[group, week] * groups.people[group]
    for need, week in enumerate(plan.week.tolist()):
        served = week >= 0
        end = weeks / YEAR
        risk = needs.over[need, week] if served else needs.over[need, weeks]
        if served:
            left = end - (week + 0.5) / YEAR
            risk += needs.over_after[need] * left
            risk += max(needs.over_year[need] - needs.over_after[need], 0.0) * left**2
            used = min(1.0, left / needs.interval[need])
            unused = min(max((needs.due[need] - end) / needs.interval[need], 0.0), 1.0)
            found["services"] += (needs.hours[need] + needs.visit[need]) * (used + unused) - needs.visit[need]
        found["over_limit"] += problem.worth * risk
        when = week if served else weeks
        found["past_cap"] += 10.0 * max(when - max(needs.cap[need], -1), 0)
        found["past_asked"] += 0.2 * max(when - max(needs.asked[need], -1), 0)
        if plan.again is not None and plan.again[need] >= 0:
            # Due twelve months after the first; what of that lies beyond the season is lost by coming so early.
            visit, lasts = problem.level.visit[need], needs.interval[need] * YEAR
            early = min(max((week + 0.5 + 52 - weeks) / lasts, 0.0), 1.0)
            rest = min(1.0, (weeks - plan.again[need] - 0.5) / lasts)
            found["services"] += (needs.hours[need] + visit) * (early + rest) - visit
    if problem.level is not None:
        year = [0.0] * 52
        for need, week in enumerate(plan.week.tolist()):
            last = week if plan.again is None else max(week, plan.again[need])
            if last >= 0:
                year[last % 52] += problem.level.load[need]
        over = sum(max(hours - room, 0.0) for hours, room in zip(year, problem.level.room.tolist(), strict=True))
        found["uneven"] = problem.level.price * over
    return found


@given(seasons() | seasons(most_weeks=60, levelled=True), st.integers(0, 10**6), st.booleans())
@settings(max_examples=examples(60, of_long=1500))
def test_a_plan_costs_what_its_services_and_visits_cost_one_by_one(problem, seed, twice):
    plan = some_plan(problem, seed, twice and problem.level is not None)
    assert season.parts_of(problem, plan) == pytest.approx(parts(problem, plan))


@given(seasons() | seasons(most_weeks=60, levelled=True), st.integers(0, 10**6), st.booleans())
@settings(max_examples=examples(40, of_long=1000))
def test_it_wants_the_hours_of_each_service_and_of_each_coming(problem, seed, twice):
    plan = some_plan(problem, seed, twice)
    wanted = np.zeros((3, problem.weeks))
    groups, needs = problem.groups, problem.needs
    for need in range(needs.group.size):
        group = needs.group[need]
        for week in (plan.week[need], -1 if plan.again is None else plan.again[need]):
            if week >= 0:
                wanted[groups.kind[group], week] += needs.hours[need] * groups.people[group]
    for group, week in zip(*np.nonzero(plan.visits), strict=True):
        wanted[groups.kind[group], week] += groups.setup[group, week] * groups.people[group]
    assert season.hours_of(problem, plan) == pytest.approx(wanted)


@given(seasons(), st.integers(0, 10**6))
@settings(max_examples=examples(40, of_long=1000))
def test_what_waiting_costs_and_serving_saves_is_the_difference_of_two_plans(problem, seed):
    plan = some_plan(problem, seed, twice=False)
    later, saved = season.worth_now(problem, plan), season.saved(problem, plan)

    def cost(need: int, week: int) -> float:
        other = plan.week.copy()
        other[need] = week
        told = parts(problem, replace(plan, week=other))
        return sum(told.values()) - told["visits"]

    for need, week in enumerate(plan.week.tolist()):
        if week < 0:
            assert later[need] == 0 and saved[need] == 0
            continue
        four_on = cost(need, min(week + 4, problem.weeks - 1)) - cost(need, week)
        assert later[need] == pytest.approx(max(four_on, 0.0), abs=1e-9)
        assert saved[need] == pytest.approx(cost(need, -1) - cost(need, week), abs=1e-9)


def test_hours_that_can_be_given_out_are_those_that_capacity_allows():
    """Hall's theorem against giving out half hours one at a time, for crews of up to three."""
    random = np.random.default_rng(3)
    three = (GAS, PIPES, frozenset({"electrical"}))
    for _ in range(300):
        able = tuple(
            frozenset(random.choice(["gas", "plumbing", "electrical"], random.integers(0, 4)))
            for _ in range(random.integers(1, 4))
        )
        hours = random.integers(0, 5, len(able))
        wanted = random.integers(0, 4, 3)
        limits = season.capacity(season.Crew(three, able, hours[:, None].astype(float)))
        allowed = bool((limits.holds @ wanted[:, None] <= limits.hours + 1e-9).all())
        assert allowed == can_be_given(wanted.tolist(), hours.tolist(), three, able), (able, hours, wanted)


def can_be_given(wanted: list[int], hours: list[int], sets, able) -> bool:
    kind = next((k for k, left in enumerate(wanted) if left), None)
    if kind is None:
        return True
    for who, left in enumerate(hours):
        if left and sets[kind] <= able[who]:
            one, other = list(wanted), list(hours)
            one[kind] -= 1
            other[who] -= 1
            if can_be_given(one, other, sets, able):
                return True
    return False


class TestFaults:
    """Each against a plan that has no other."""

    def test_none_where_there_is_none(self):
        problem = sites([[0, 1, 9], [0, 1, 9]], promised=[1, -1], crew=((GAS, 1.0),))
        assert season.faults_of(problem, planned(problem, [1, 0])) == []

    def test_hours_and_closed_weeks_and_promises(self):
        full = sites([[0, 1, 9], [0, 1, 9]], crew=((GAS, 1.5),))
        assert season.faults_of(full, planned(full, [1, 1])) == ["week 1: 2.0 h of 1.5 h"]
        closed = sites([[0, 1, 9], [0, 1, 9]], allowed=[[1, 1], [1, 0]])
        assert season.faults_of(closed, planned(closed, [1, 1])) == ["group 1 is visited in week 1, when it is closed"]
        promised = sites([[0, 1, 9], [0, 1, 9]], promised=[-1, 0])
        told = ["group 1 is not visited in week 0, as promised"]
        assert season.faults_of(promised, planned(promised, [0, 1])) == told

    def test_services_without_a_visit_and_again_too_soon(self):
        problem = sites([[0.0] * 31], crew=((GAS, 2.0),))
        plan = planned(problem, [3])
        alone = replace(plan, visits=np.zeros_like(plan.visits))
        assert season.faults_of(problem, alone) == ["need 0 is served in a week without a visit"]
        for again, says in ((16, []), (15, ["need 0 is served again too soon, in week 15"])):
            both = planned(problem, [3], also=[(0, again)])
            assert season.faults_of(problem, replace(both, again=np.array([again]))) == says
        told = ["need 0 is served again in a week without a visit"]
        assert season.faults_of(problem, replace(plan, again=np.array([20]))) == told


def test_why_a_service_has_no_week_by_what_would_have_given_it_one():
    waits = [[0, 4, 9], [0, 4, 0.3], [0, 4, 9], [0, 4, 9], [8.8, 9, 9.5]]
    problem = sites(waits, kind=[0, 0, 1, 0, 0], allowed=[[1, 1], [1, 1], [1, 1], [0, 0], [0, 1]])
    plan = planned(problem, [-1] * 5)
    why = season.Why
    # The last would be worth it in week 0 alone, when it is closed.
    assert season.reasons(problem, plan) == [why.NO_HOURS, why.NOT_WORTH, why.NOBODY, why.CLOSED, why.CLOSED]
    assert season.reasons(problem, planned(problem, [0, -1, -1, -1, -1]))[0] == ""
    # Where somebody comes anyway, setting up costs nothing more, and three tenths are worth a quarter of an hour.
    anyway = planned(problem, [-1] * 5, also=[(1, 0)])
    assert season.reasons(problem, anyway)[1] == why.NO_HOURS


def test_the_mean_risk_of_a_year_is_that_of_its_begin_middle_and_end():
    uniform = PROBABILITIES[None, :]
    # Reached within a year, evenly: 0, a half and nine tenths of it are over (0.9 is the last that is known).
    ends = float(np.interp(1.0, PROBABILITIES, PROBABILITIES))
    told = season.mean_over_year(uniform, PROBABILITIES, np.zeros(1), np.array([0.1]))
    assert told[0] == pytest.approx((0 + 4 * 0.5 + ends) / 6 - 0.1, abs=1e-6)
    assert season.mean_over_year(uniform, PROBABILITIES, np.zeros(1), np.array([2.0]))[0] == 0
    assert season.mean_over_year(uniform, PROBABILITIES, np.ones(1), np.array([-2.0]))[0] == 1


def test_a_service_lasts_until_the_risk_is_what_is_accepted():
    # From nothing to 0.2 in the mean of a year the risk goes by 0.4 a year: a fifth is reached after half a year.
    told = season.lasts(np.array([9.0, 9.0, 0.3, 9.0]), np.array([0.0, 0.1, 0.0, 0.0]), np.array([0.2, 0.2, 0.2, 5.0]))
    assert told == pytest.approx([0.5, 0.5, 0.3, 0.25])
    assert season.lasts(np.array([9.0]), np.array([0.1]), np.array([0.05]))[0] == 9.0


def test_a_second_time_is_due_twelve_months_after_the_first():
    even = level.Level(np.zeros(1), np.array([0.5]), np.zeros(52))
    problem = replace(sites([[0.0] * 61], hours=1.5), level=even)
    problem = replace(problem, needs=replace(problem.needs, interval=np.array([1.0])))
    first, second = season.again_costs(problem)
    for week in range(60):
        assert first[0, week] == pytest.approx(2.0 * max((week + 0.5 + 52 - 60) / YEAR, 0.0))
        assert second[0, week] == pytest.approx(2.0 * min(1.0, (60 - week - 0.5) / YEAR) - 0.5)
    assert season.again_costs(replace(problem, level=None))[1][0, 0] == pytest.approx(1.5)

"""The season: within every hour, promise and closed week, near its bound, and what it says of itself."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings

from aquifer.core.forecast import PROBABILITIES
from aquifer.core.kinds import HeaterKind
from aquifer.core.planning import adjusting, partitioning, promises, repeating, season
from aquifer.core.planning.work import JETTER, PUMP, equipment_of, licence_of, people_of
from aquifer.core.vocabulary import Component, Method
from tests.conftest import examples
from tests.core.planning import seasons

GAS = frozenset({"gas"})


def small(weeks: int = 6, hours: float = 40.0, groups: int = 3, **parts) -> season.Problem:
    """Sites with one need each, the first the most urgent."""
    due = 0.02 + 0.05 * np.arange(groups)
    quantiles = due[:, None] * np.array([0.2, 0.5, 0.8, 1.0, 1.3, 1.8, 2.5])
    needs = season.Needs(
        group=np.arange(groups),
        hours=np.ones(groups),
        over=season.expected_over(quantiles, PROBABILITIES, np.linspace(0.9, 0.5, groups), weeks),
        over_after=np.zeros(groups),
        over_year=np.zeros(groups),
        due=due,
        interval=np.full(groups, 2.0),
        cap=np.full(groups, 10**6),
        asked=np.full(groups, 10**6),
        visit=np.zeros(groups),
    )
    rows = season.Groups(
        kind=np.zeros(groups, dtype=np.int64),
        people=np.ones(groups, dtype=np.int64),
        setup=np.full((groups, weeks), 0.5),
        allowed=np.ones((groups, weeks), dtype=bool),
        promised=np.full(groups, -1),
    )
    crew = season.Crew((GAS,), (GAS,), np.full((1, weeks), hours))
    return season.Problem(replace(needs, **parts.get("needs", {})), replace(rows, **parts.get("rows", {})), crew, 400.0)


@given(seasons())
@settings(max_examples=examples(30, of_long=600))
def test_no_season_breaks_a_constraint_and_its_bound_holds(problem):
    assume(not promises.too_many(problem.groups, problem.crew))
    plan = partitioning.solve(problem)
    assert season.faults_of(problem, plan) == []
    assert plan.bound <= plan.cost + 1e-6
    assert sum(season.parts_of(problem, plan).values()) == pytest.approx(plan.cost)
    zone = np.arange(problem.groups.kind.size) % 2
    together = adjusting.gathered(problem, plan, zone, np.array([1.0, 0.5]))
    assert season.faults_of(problem, together) == []
    first = season.earliest_due_first(problem)
    # It knows of no promises; a plan that breaks one may cost less than any that keeps them.
    broken = season.faults_of(problem, first)
    assert not broken or (problem.groups.promised >= 0).any()
    assert broken or plan.bound <= first.cost + 1e-6


def test_without_want_of_hours_each_comes_when_it_costs_least():
    problem = small()
    plan = partitioning.solve(problem)
    costs = season.costs_of(problem)
    assert plan.week.tolist() == costs.do.argmin(axis=1).tolist()
    assert plan.gap == pytest.approx(0, abs=1e-6)


def test_where_hours_are_short_the_most_urgent_comes_first():
    plan = partitioning.solve(small(weeks=3, hours=1.6))
    assert sorted(plan.week.tolist()) == [0, 1, 2] and plan.week[0] == 0
    tight = partitioning.solve(small(weeks=2, hours=1.6))
    assert (tight.week >= 0).sum() == 2 and tight.week[0] == 0


def test_a_cap_goes_before_everything_that_is_only_worth_more_sooner():
    cap = np.array([10**6, 10**6, 0])
    plan = partitioning.solve(small(weeks=4, hours=1.6, needs={"cap": cap}))
    assert plan.week[2] == 0


def test_a_visit_that_stays_without_hours_for_its_work_is_no_reason_to_leave_the_work():
    """It is done at a second visit, and the bound knows of that."""
    problem = small(weeks=4, groups=1, rows={"promised": np.array([0])})
    crew = replace(problem.crew, hours=np.array([[0.6, 5.0, 5.0, 5.0]]))
    plan = partitioning.solve(replace(problem, crew=crew))
    assert plan.week.tolist() == [1] and plan.visits[0].tolist() == [True, True, False, False]
    assert plan.bound <= plan.cost + 1e-6 and plan.gap < 0.1


def test_two_needs_of_a_site_go_on_one_visit_and_apart_where_waiting_pays():
    problem = small(groups=2)
    one_site = replace(
        problem,
        needs=replace(problem.needs, group=np.array([0, 0])),
        groups=season.Groups(*(getattr(problem.groups, n)[:1] for n in season.Groups.__dataclass_fields__)),
    )
    plan = partitioning.solve(one_site)
    assert plan.week[0] == plan.week[1] and plan.visits.sum() == 1
    # A need that comes much later and lasts short is not worth bringing forward.
    late = replace(
        one_site,
        needs=replace(
            one_site.needs,
            over=one_site.needs.over * np.array([[1.0], [0.0]]),
            due=np.array([0.0, 0.5]),
            interval=np.array([2.0, 0.25]),
        ),
    )
    assert partitioning.solve(late).week.tolist() == [0, -1]


def test_in_a_long_season_a_safety_service_comes_again_before_its_cap_and_takes_others_along():
    # A valve with a cap, a flush of the same site that pays only late, and a site without a cap.
    needs = {
        "group": np.array([0, 0, 1]),
        "hours": np.array([1.0, 4.0, 1.0]),
        "cap": np.array([6, 10**6, 10**6]),
        "over": np.stack([np.zeros(79), 0.2 * np.maximum(np.arange(79) - 55.0, 0), np.arange(79) / 30]),
        "due": np.array([0.1, 1.2, 0.1]),
        "interval": np.array([1.0, 2.0, 2.0]),
    }
    problem = small(weeks=78, needs=needs)
    plan = partitioning.solve(problem)
    twice = repeating.with_repeats(problem, plan, np.array([True, False, False]))
    assert twice is not None and twice.need.tolist() == [0, 1, 2, 0] and twice.again.tolist() == [False] * 3 + [True]
    after = partitioning.solve(twice.problem)
    assert season.faults_of(twice.problem, after) == []
    first, flush, other, second = after.week.tolist()
    assert (first, other) == (plan.week[0], plan.week[2]) and first <= 6
    assert first + repeating.SOONEST_WEEKS <= second <= first + repeating.CAP_WEEKS
    assert flush == second and after.visits.sum() == 3


@given(seasons())
@settings(max_examples=examples(25, of_long=500))
def test_second_services_break_no_constraint_either(problem):
    assume(not promises.too_many(problem.groups, problem.crew))
    plan = partitioning.solve(problem)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(repeating, "CAP_WEEKS", 3)
        patch.setattr(repeating, "SOONEST_WEEKS", 2)
        twice = repeating.with_repeats(problem, plan, problem.needs.cap < 10**6)
    assume(twice is not None)
    after = partitioning.solve(twice.problem)
    assert season.faults_of(twice.problem, after) == []
    for at in np.flatnonzero(twice.again & (after.week >= 0)):
        assert after.week[at] >= plan.week[twice.need[at]] + 2
    held = after.week[: plan.week.size]
    moved = (held != plan.week) & (held >= 0)
    # What does not go with a second visit goes with a visit that the site had anyway.
    group = twice.problem.needs.group[: held.size]
    stays = moved & (group < problem.groups.kind.size)
    had = plan.visits | (np.arange(problem.weeks)[None, :] == problem.groups.promised[:, None])
    assert had[group[stays], held[stays]].all()


def test_a_season_within_the_cap_has_no_second_services():
    problem = small(weeks=52, needs={"cap": np.array([3, 3, 3])})
    assert repeating.with_repeats(problem, partitioning.solve(problem), np.ones(3, dtype=bool)) is None


def test_promised_and_closed_weeks_are_kept():
    allowed = np.ones((3, 6), dtype=bool)
    allowed[1, :4] = False
    problem = small(groups=3)
    groups = replace(problem.groups, allowed=allowed, promised=np.array([3, -1, -1]))
    plan = partitioning.solve(replace(problem, groups=groups))
    assert plan.visits[0, 3] and plan.week[1] >= 4


def test_a_promise_is_kept_without_what_there_are_no_hours_for():
    few = small(weeks=2, hours=0.9)
    problem = replace(few, groups=replace(few.groups, promised=np.array([0, -1, -1])))
    plan = partitioning.solve(problem)
    assert season.faults_of(problem, plan) == [] and plan.visits[0].tolist() == [True, False]
    assert plan.week[0] == -1


def test_promises_that_pass_the_hours_are_named_by_the_fewest():
    problem = small(weeks=3, hours=1.0)
    setup = np.array([[0.3] * 3, [0.7] * 3, [0.6] * 3])
    groups = replace(problem.groups, setup=setup, promised=np.array([1, 1, 1]))
    ((week, which),) = promises.too_many(groups, problem.crew)
    assert week == 1 and which.tolist() == [1, 2]
    with pytest.raises(ArithmeticError):
        partitioning.solve(replace(problem, groups=groups))


def test_why_something_has_no_week_is_told():
    nobody = replace(small(), crew=season.Crew((frozenset({"electrical"}),), (GAS,), np.full((1, 6), 40.0)))
    assert set(season.reasons(nobody, partitioning.solve(nobody))) == {season.Why.NOBODY}
    none_left = small(weeks=2, hours=1.6)
    assert season.reasons(none_left, partitioning.solve(none_left)).count(season.Why.NO_HOURS) == 1
    closed = small(groups=1)
    closed = replace(closed, groups=replace(closed.groups, allowed=np.zeros((1, 6), dtype=bool)))
    assert season.reasons(closed, partitioning.solve(closed)) == [season.Why.CLOSED]
    idle = small(groups=1)
    idle = replace(idle, needs=replace(idle.needs, over=np.zeros((1, 7)), due=np.array([3.0])))
    assert season.reasons(idle, partitioning.solve(idle)) == [season.Why.NOT_WORTH]


def test_one_technician_more_saves_and_one_fewer_costs():
    problem = small(weeks=3, hours=1.6, groups=5)
    problem = replace(problem, crew=replace(problem.crew, able=(GAS, GAS), hours=np.full((2, 3), 1.6)))
    plan = partitioning.solve(problem)
    more, fewer = adjusting.with_crew(problem, plan, 1), adjusting.with_crew(problem, plan, -1)
    assert more is not None and fewer is not None and more < 0 < fewer
    assert adjusting.with_crew(small(), partitioning.solve(small()), -1) is None


def test_a_progress_function_can_give_a_search_up():
    def stop(stage: str, share: float) -> None:
        raise season.Stopped

    with pytest.raises(season.Stopped):
        partitioning.solve(small(), stop)


def test_an_office_with_a_list_takes_the_earliest_due_first():
    # An hour and a half a week is one visit a week; the second is promised for the first week, the fourth is not due.
    due = np.array([0.02, 0.10, 0.04, 5.0])
    problem = small(weeks=6, hours=1.5, groups=4, needs={"due": due}, rows={"promised": np.array([-1, 0, -1, -1])})
    plan = season.earliest_due_first(problem)
    assert plan.week.tolist() == [1, 0, 2, -1]
    assert plan.visits.sum(axis=1).tolist() == [1, 1, 1, 0]


def test_what_waiting_costs_is_what_four_weeks_later_would_cost_more():
    problem = small(weeks=12)
    plan = partitioning.solve(problem)
    costs, at = season.costs_of(problem).do, plan.week
    worth = season.worth_now(problem, plan)
    assert (at >= 0).all() and (at + season.PUT_OFF_WEEKS < problem.weeks).all()
    by_hand = [costs[need, week + season.PUT_OFF_WEEKS] - costs[need, week] for need, week in enumerate(at)]
    assert worth == pytest.approx(by_hand) and (worth > 0).all()
    left = season.Plan(np.full(3, -1), plan.visits & False, 0.0, 0.0, np.zeros((1, 12)))
    assert season.worth_now(problem, left).tolist() == [0.0, 0.0, 0.0]


def test_where_hours_are_scarce_prices_are_found_in_several_rounds():
    # Services of unequal length that barely fit: the first prices are far from the last.
    rng = np.random.default_rng(3)
    due, certain = rng.uniform(0.0, 0.2, 40), rng.uniform(0.3, 0.9, 40)
    quantiles = due[:, None] * np.array([0.2, 0.5, 0.8, 1.0, 1.3, 1.8, 2.5])
    over = season.expected_over(quantiles, PROBABILITIES, certain, 12)
    needs = {"due": due, "hours": rng.choice([0.3, 0.7, 1.1], 40), "over": over}
    stages = []
    plan = partitioning.solve(
        small(weeks=12, hours=3.7, groups=40, needs=needs), lambda stage, share: stages.append(stage)
    )
    assert stages.count("prices") > 1
    assert plan.bound <= plan.cost <= 1.15 * plan.bound


def test_blocks_share_the_hours_and_their_bound_is_of_the_whole(monkeypatch):
    problem = small(weeks=6, hours=18.0, groups=80)
    whole = partitioning.solve(problem)
    monkeypatch.setattr(partitioning, "BLOCK", 40)
    divided = partitioning.solve(problem)
    assert season.faults_of(problem, divided) == []
    assert divided.bound <= whole.cost + 1e-6 and divided.cost <= 1.1 * whole.cost


def test_the_expected_time_over_a_limit_is_the_integral_of_its_probability():
    # Certain at once: the time over is the time itself. Uniform over a year: half of t squared.
    at_once = season.expected_over(np.zeros((1, 7)), PROBABILITIES, np.ones(1), 52)
    weeks = np.arange(52) + 0.5
    assert at_once[0, :52] == pytest.approx(weeks / season.WEEKS_PER_YEAR)
    uniform = season.expected_over(PROBABILITIES[None, :], PROBABILITIES, np.zeros(1), 52)
    assert uniform[0, :50] == pytest.approx((weeks[:50] / season.WEEKS_PER_YEAR) ** 2 / 2, abs=1e-3)


def test_what_a_service_takes():
    assert licence_of(HeaterKind.GAS_TANKLESS) == "gas" and licence_of(HeaterKind.HEAT_PUMP_TANK) == "electrical"
    assert all(licence_of(kind) for kind in HeaterKind)
    assert equipment_of(Component.SEDIMENT, Method.JETTING) == {JETTER}
    assert equipment_of(Component.SCALE, Method.DESCALE) == {PUMP} and not equipment_of(Component.ANODE, Method.INSPECT)
    assert (people_of(Method.JETTING, 300.0), people_of(Method.JETTING, 189.0), people_of(Method.INSPECT, 300.0)) == (
        2,
        1,
        1,
    )


def test_what_the_practice_asks_for_is_done_though_little_is_at_risk():
    weeks, never = 20, 10**6
    nothing = {"over": np.zeros((3, weeks + 1)), "due": np.array([0.1, 0.3, 3.0])}
    # Of the third nothing is asked, and nothing is at risk.
    problem = small(weeks=weeks, needs={**nothing, "asked": np.array([4, -6, never])})
    plan = partitioning.solve(problem)
    assert 0 <= plan.week[0] <= 4 and plan.week[1] == 0 and plan.week[2] == -1
    assert plan.parts["past_asked"] == pytest.approx(season.ASKED_WEEK_HOURS)
    assert season.reasons(problem, plan)[2] == season.Why.NOT_WORTH
    # Where there are hours for one of them a week, a safety cap goes first.
    short = small(
        weeks=weeks, hours=1.6, needs={**nothing, "asked": np.array([0, 0, never]), "cap": np.array([never, never, 0])}
    )
    assert partitioning.solve(short).week.tolist()[2] == 0 and set(partitioning.solve(short).week[:2]) == {1, 2}
    # One that nobody asks for before the end of the season waits for the next.
    later = small(weeks=weeks, needs={**nothing, "asked": np.array([weeks - 2, weeks + 9, never])})
    assert partitioning.solve(later).week.tolist() == [-1, -1, -1]

"""What is done with a plan besides finding it, on sites whose costs are written down: hours waited, no more."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings

from aquifer.core.planning import adjusting, level, season
from tests.conftest import examples
from tests.core.planning import seasons

GAS, PIPES = frozenset({"gas"}), frozenset({"plumbing"})
NEVER = 10**6


def sites(waits, *, group=None, crew=((GAS, 2.0),), hours=0.5, setup=0.5, **rows) -> season.Problem:
    """Services that cost what they wait: hours over the limit by the week in which they are done, and left to later.

    Parameters: waits, (n, w + 1); group of each; of each of the crew what it may and its hours a week.
    """
    over = np.array(waits, dtype=float)
    n, weeks = over.shape[0], over.shape[1] - 1
    group = np.arange(n) if group is None else np.array(group)
    groups = int(group.max()) + 1
    needs = season.Needs(
        group=group,
        hours=np.broadcast_to(np.array(hours, dtype=float), n).copy(),
        over=over,
        over_after=np.zeros(n),
        over_year=np.zeros(n),
        due=np.zeros(n),
        # Lasts for ever, so that nothing of it is lost by coming early.
        interval=np.full(n, 1e12),
        cap=np.array(rows.get("cap", [NEVER] * n)),
        asked=np.full(n, NEVER),
        visit=np.zeros(n),
    )
    visited = season.Groups(
        kind=np.array(rows.get("kind", [0] * groups)),
        people=np.array(rows.get("people", [1] * groups)),
        setup=np.full((groups, weeks), setup),
        allowed=np.array(rows.get("allowed", np.ones((groups, weeks))), dtype=bool),
        promised=np.array(rows.get("promised", [-1] * groups)),
    )
    able = tuple(one for one, _ in crew)
    there = np.array([np.broadcast_to(np.array(hours_of, dtype=float), weeks) for _, hours_of in crew])
    return season.Problem(needs, visited, season.Crew((GAS, PIPES), able, there), worth=1.0)


def planned(problem: season.Problem, week, also=()) -> season.Plan:
    """Each need in its week, and visits besides."""
    week = np.array(week)
    visits = np.zeros(problem.groups.allowed.shape, dtype=bool)
    served = week >= 0
    visits[problem.needs.group[served], week[served]] = True
    for group, at in also:
        visits[group, at] = True
    return season.Plan(week, visits, 0.0, 0.0, np.zeros((2, problem.weeks)))


def cost(problem: season.Problem, plan: season.Plan) -> float:
    """Hours waited and hours of setting up, added up one by one."""
    total = 0.0
    for need, week in enumerate(plan.week.tolist()):
        total += problem.needs.over[need, week if week >= 0 else problem.weeks]
        total += 10.0 * max((week if week >= 0 else problem.weeks) - max(problem.needs.cap[need], -1), 0)
    for group, week in zip(*np.nonzero(plan.visits), strict=True):
        total += problem.groups.setup[group, week] * problem.groups.people[group]
    return total


def filled(problem: season.Problem, plan: season.Plan) -> season.Plan:
    return adjusting.filled(problem, plan, season.capacity(problem.crew))


class TestFilled:
    def test_hours_that_are_left_go_to_what_saves_most(self):
        # An hour each with its setting up, two hours a week; what waits for nobody is worth 3, 5 and 4.
        problem = sites([[0, 3], [0, 5], [0, 4]])
        assert filled(problem, planned(problem, [-1, -1, -1])).week.tolist() == [-1, 0, 0]

    def test_each_goes_where_it_costs_least_among_weeks_that_have_hours(self):
        problem = sites([[4, 1, 2, 9], [4, 1, 2, 9], [4, 1, 2, 9], [4, 1, 2, 9]], crew=((GAS, (5.0, 1.0, 2.0)),))
        assert filled(problem, planned(problem, [-1] * 4)).week.tolist() == [1, 2, 2, 0]

    def test_what_is_not_worth_its_hours_is_left(self):
        # Setting up takes half an hour: worth it from there on.
        problem = sites([[0, 0.4], [0, 0.5], [0, 0.6]], crew=((GAS, 9.0),))
        assert filled(problem, planned(problem, [-1] * 3)).week.tolist() == [-1, -1, 0]

    def test_at_a_visit_that_is_planned_anyway_only_the_service_takes_time(self):
        problem = sites([[0, 9], [0, 0.1]], group=[0, 0], crew=((GAS, 1.5),))
        assert filled(problem, planned(problem, [0, -1])).week.tolist() == [0, 0]
        short = sites([[0, 9], [0, 0.1]], group=[0, 0], crew=((GAS, 1.4),))
        assert filled(short, planned(short, [0, -1])).week.tolist() == [0, -1]

    def test_hours_of_what_is_planned_are_gone(self):
        problem = sites([[0, 0, 9], [0, 1, 9], [0, 1, 9]], crew=((GAS, (1.9, 1.0)),))
        assert filled(problem, planned(problem, [0, -1, -1])).week.tolist() == [0, 1, -1]

    def test_two_people_take_twice_the_hours(self):
        one, two = (sites([[0, 9]], crew=((GAS, hours),), people=[2]) for hours in (1.9, 2.0))
        assert [filled(at, planned(at, [-1])).week.tolist() for at in (one, two)] == [[-1], [0]]
        # And twice the setting up to be worth it.
        for worth, week in ((1.0, -1), (1.1, 0)):
            problem = sites([[0, worth]], crew=((GAS, 9.0),), people=[2])
            assert filled(problem, planned(problem, [-1])).week.tolist() == [week]

    def test_nobody_comes_a_third_time_for_what_is_left_over(self):
        waits = [[0, 9, 9, 9], [9, 0, 9, 9], [9, 9, 0, 9]]
        problem = sites(waits, group=[0, 0, 0], crew=((GAS, 9.0),))
        plan = filled(problem, planned(problem, [0, 1, -1]))
        assert plan.week.tolist() == [0, 1, -1] and plan.visits.sum() == 2
        once = filled(problem, planned(problem, [0, -1, -1]))
        assert once.visits.sum() == 2 and (once.week[1:] >= 0).sum() == 1

    def test_closed_weeks_and_what_nobody_holds_stay_closed(self):
        problem = sites([[0, 1, 9], [0, 1, 9]], allowed=[[0, 1], [1, 1]], kind=[0, 1], crew=((GAS, 9.0),))
        plan = filled(problem, planned(problem, [-1, -1]))
        assert plan.week.tolist() == [1, -1]

    def test_who_holds_several_licences_is_not_counted_twice(self):
        both = ((GAS | PIPES, 1.0),)
        problem = sites([[0, 5], [0, 6]], kind=[0, 1], crew=both)
        assert filled(problem, planned(problem, [-1, -1])).week.tolist() == [-1, 0]

    @given(seasons())
    @settings(max_examples=examples(60, of_long=1000))
    def test_nothing_that_had_a_week_loses_it_and_the_season_costs_no_more(self, problem):
        problem = replace(problem, groups=replace(problem.groups, promised=np.full(problem.groups.kind.size, -1)))
        empty = season.Plan(
            np.full(problem.needs.group.size, -1), np.zeros(problem.groups.allowed.shape, dtype=bool), 0.0, 0.0,
            np.zeros((3, problem.weeks)),
        )  # fmt: skip
        plan = filled(problem, empty)
        again = filled(problem, plan)
        before = [sum(season.parts_of(problem, one).values()) for one in (empty, plan, again)]
        assert before[0] >= before[1] - 1e-9 >= before[2] - 2e-9
        for one in (plan, again):
            assert season.faults_of(problem, one) == [] and (one.visits.sum(axis=1) <= 2).all()
        served = plan.week >= 0
        assert (again.week[served] == plan.week[served]).all()


class TestGathered:
    """Two sites of one zone, visited in weeks 0 and 2; the way there and back is an hour."""

    def together(self, problem, plan, zone=(0, 0), haul=(1.0,), **parts):
        return adjusting.gathered(problem, plan, np.array(zone), np.array(haul), **parts)

    def test_a_short_trip_goes_where_somebody_drives_anyway(self):
        problem = sites([[0, 0.3, 0.8, 9], [0, 0, 0, 9]])
        plan = self.together(problem, planned(problem, [0, 2]))
        assert plan.week.tolist() == [2, 2] and plan.visits.sum() == 2 and plan.visits[:, 2].all()

    def test_moving_costs_less_than_the_way_or_nothing_moves(self):
        problem = sites([[0.5, 0.8, 1.3, 9], [1.3, 0, 0.4, 9]])
        # What the way saves must be more than what the wait costs, and of two ways the cheaper is spared.
        assert self.together(problem, planned(problem, [0, 2]), haul=(0.79,)).week.tolist() == [0, 2]
        assert self.together(problem, planned(problem, [0, 2]), haul=(0.81,)).week.tolist() == [2, 2]

    def test_a_week_that_would_be_crowded_next_year_costs_that_too(self):
        # Each comes every year and is an hour of it; there is room for an hour and a half in each week, and an hour
        # over it costs two. Of the zone's weeks 1 and 2 the second has two visits already.
        waits = [[0, 0.6, 0.2, 9], [9, 0, 9, 99], [9, 9, 0, 99], [9, 9, 0, 99]]
        even = level.Level(np.ones(4), np.zeros(4), np.full(level.YEAR_WEEKS, 1.5), price=2.0)
        plain = sites(waits, crew=((GAS, 9.0),))
        levelled = replace(plain, level=even)
        for problem, week in ((plain, 2), (levelled, 1)):
            plan = self.together(problem, planned(problem, [0, 1, 2, 2]), zone=(0,) * 4, haul=(2.0,))
            assert plan.week.tolist() == [week, 1, 2, 2]
        # Half an hour over the room costs one, and to wait for week 1 another 0.6.
        for haul, week in ((1.59, 0), (1.61, 1)):
            plan = self.together(levelled, planned(levelled, [0, 1, 2, 2]), zone=(0,) * 4, haul=(haul,))
            assert plan.week.tolist() == [week, 1, 2, 2]

    def test_two_that_go_to_one_week_crowd_it_together(self):
        # Either alone leaves room; both are half an hour over it, which costs one.
        waits = [[0, 0, 0, 9], [0, 0, 0, 9], [9, 9, 0, 99]]
        even = level.Level(np.array([1.0, 1.0, 0.5]), np.zeros(3), np.full(level.YEAR_WEEKS, 2.0), price=2.0)
        for haul, week in ((0.99, 0), (1.01, 2)):
            problem = replace(sites(waits, crew=((GAS, 9.0),)), level=even)
            plan = self.together(problem, planned(problem, [0, 0, 2]), zone=(0,) * 3, haul=(haul,))
            assert plan.week.tolist() == [week, week, 2]

    def test_no_visit_goes_to_a_week_in_which_nobody_is_in_its_zone(self):
        problem = sites([[5, 0, 5, 9], [0, 0, 0, 9]])
        assert self.together(problem, planned(problem, [0, 2]), zone=(0, 1), haul=(9.0, 9.0)).week.tolist() == [0, 2]
        # In one zone the second goes to the first, never to the week between.
        assert self.together(problem, planned(problem, [0, 2]), haul=(9.0,)).week.tolist() in ([0, 0], [2, 2])

    def test_half_a_days_work_is_no_short_trip(self):
        problem = sites([[0, 0, 0, 9], [0, 0, 0, 9]])
        assert self.together(problem, planned(problem, [0, 2]), day_hours=2.0).week.tolist() == [0, 2]
        assert self.together(problem, planned(problem, [0, 2]), day_hours=2.1).week.tolist() in ([0, 0], [2, 2])

    def test_what_was_promised_and_a_cap_that_holds_stay(self):
        waits = [[0, 0, 0, 9], [0, 0, 0, 9]]
        promised = sites(waits, promised=[0, 2])
        assert self.together(promised, planned(promised, [0, 2])).week.tolist() == [0, 2]
        first = sites(waits, promised=[0, -1])
        assert self.together(first, planned(first, [0, 2])).week.tolist() == [0, 0]
        # In date until week 1: it may not wait until week 2, but the other may come in week 0.
        capped = sites(waits, cap=[1, NEVER])
        assert self.together(capped, planned(capped, [0, 2])).week.tolist() == [0, 0]
        both = sites(waits, cap=[1, NEVER], promised=[-1, 2])
        assert self.together(both, planned(both, [0, 2])).week.tolist() == [0, 2]

    def test_two_times_of_a_service_keep_apart_and_within_what_it_lasts(self):
        # Done in week 0 and again in week 14; another house of its zone is visited when it would cost nothing.
        for also, goes_to in ((13, 13), (12, 14), (52, 52), (53, 14)):
            waits = [[0.0] + [9.0] * 60, [9.0] + [0.0] * 60, [0.0] * 61]
            problem = sites(waits, group=[0, 0, 1], crew=((GAS, 9.0),), hours=[0.5, 0.5, 1.5])
            plan = planned(problem, [0, 14, also])
            moved = self.together(problem, plan, other=np.array([1, 0, -1]), day_hours=4.0)
            assert moved.week[:2].tolist() == [0, goes_to], also
            assert self.together(problem, plan, day_hours=4.0).week[1] == also, "one that comes once may go anywhere"

    def test_the_week_that_it_goes_to_has_the_hours(self):
        waits = [[0, 0, 0, 9], [0, 0, 0, 9]]
        full = sites(waits, crew=((GAS, (1.0, 1.0, 1.9)),))
        assert self.together(full, planned(full, [0, 2])).week.tolist() == [0, 2]
        room = sites(waits, crew=((GAS, (1.0, 1.0, 2.0)),))
        assert self.together(room, planned(room, [0, 2])).week.tolist() == [2, 2]
        shut = sites(waits, allowed=[[1, 1, 0], [0, 1, 1]])
        assert self.together(shut, planned(shut, [0, 2])).week.tolist() == [0, 2]

    def test_a_week_is_full_at_its_last_minute_and_not_before(self):
        # A tenth and two tenths are a little more than three, and as much as there is.
        problem = sites([[0, 0, 0, 9], [0, 0, 0, 9]], hours=0.1, setup=0.2, crew=((GAS, (0.6, 0.0, 0.6)),))
        assert self.together(problem, planned(problem, [0, 2])).week.tolist() in ([0, 0], [2, 2])
        later = sites([[5, 1, 9]], hours=0.1, setup=0.2, crew=((GAS, (0.3, 0.0)), (GAS, (0.0, 0.3))))
        assert adjusting.with_crew(later, planned(later, [0]), 1) == pytest.approx(-4)

    def test_of_a_weeks_visits_all_go_or_none(self):
        # Two in week 0, for one of which week 2 has no hour left.
        problem = sites([[0, 0, 0, 9]] * 3, crew=((GAS, (2.0, 0.0, 2.9)),))
        assert self.together(problem, planned(problem, [0, 0, 2]), zone=(0, 0, 0)).week.tolist() == [0, 0, 2]
        wide = sites([[0, 0, 0, 9]] * 3, crew=((GAS, (2.0, 0.0, 3.0)),))
        assert self.together(wide, planned(wide, [0, 0, 2]), zone=(0, 0, 0)).week.tolist() == [2, 2, 2]

    def test_the_cheapest_of_several_weeks_is_taken(self):
        problem = sites([[0, 0.4, 0.2, 0.3, 9], *[[9 * (w != at) for w in range(4)] + [99] for at in (1, 2, 3)]])
        plan = self.together(problem, planned(problem, [0, 1, 2, 3]), zone=(0, 0, 0, 0))
        assert plan.week.tolist() == [2, 1, 2, 3]

    @given(seasons() | seasons(levelled=True))
    @settings(max_examples=examples(60, of_long=1000))
    def test_what_it_costs_is_less_than_the_ways_that_are_spared(self, problem):
        limits = season.capacity(problem.crew)
        empty = season.earliest_due_first(problem)
        plan = adjusting.filled(problem, empty, limits)
        zone = np.arange(problem.groups.kind.size) % 3
        haul = np.array([0.4, 1.0, 2.5])
        together = self.together(problem, plan, zone, haul)

        def all_in(one: season.Plan) -> float:
            ways = {(zone[group], week) for group, week in zip(*np.nonzero(one.visits), strict=True)}
            return sum(season.parts_of(problem, one).values()) + sum(haul[z] for z, _ in ways)

        assert all_in(together) <= all_in(plan) + 1e-9
        assert set(season.faults_of(problem, together)) <= set(season.faults_of(problem, plan))
        assert ((together.week >= 0) == (plan.week >= 0)).all()


class TestCrew:
    def test_one_more_saves_what_is_left_over_and_what_waits(self):
        # Two hours a week of one who is there: A is done in week 0, B waits until week 1, C is left.
        problem = sites([[0, 9, 9], [2, 3, 9], [4, 5, 6]], crew=((GAS, 1.0),))
        plan = planned(problem, [0, 1, -1])
        # A second: C in week 0 saves two hours of waiting and takes half an hour of setting up; then B has no hour
        # there, since the new one has as many as the first.
        assert adjusting.with_crew(problem, plan, 1) == pytest.approx(-(6 - 4 - 0.5))
        alone = sites([[0, 9, 9], [2, 3, 9]], crew=((GAS, 1.0),))
        assert adjusting.with_crew(alone, planned(alone, [0, 1]), 1) == pytest.approx(-(3 - 2))
        # Who is the only one can have a second, but nobody can do without him.
        assert adjusting.with_crew(alone, planned(alone, [0, 1]), -1) is None

    def test_one_more_takes_what_is_best_later_and_leaves_what_was_promised(self):
        # In week 0 for want of hours in week 1; promised there, it stays.
        problem = sites([[5, 1, 9], [9, 0, 9]], crew=((GAS, (1.0, 1.0)),))
        plan = planned(problem, [0, 1])
        assert adjusting.with_crew(problem, plan, 1) == pytest.approx(-4)
        promised = sites([[5, 1, 9], [9, 0, 9]], crew=((GAS, (1.0, 1.0)),), promised=[0, -1])
        assert adjusting.with_crew(promised, plan, 1) == pytest.approx(0)
        # The new one has as many hours a week as the others: two such visits would want four of three.
        both = sites([[5, 1, 9], [7, 2, 9], [9, 0, 9]], crew=((GAS, (2.0, 1.0)),))
        assert adjusting.with_crew(both, planned(both, [0, 0, 1]), 1) == pytest.approx(-5)

    def test_one_more_may_everything_that_is_asked_for(self):
        problem = sites([[0, 7]], kind=[1], crew=((GAS, 1.0),))
        assert adjusting.with_crew(problem, planned(problem, [-1]), 1) == pytest.approx(-6.5)

    def test_one_fewer_leaves_out_what_is_worth_least(self):
        problem = sites([[0, 5], [0, 3], [0, 4], [0, 6]], crew=((GAS, 2.0), (GAS, 2.0)))
        plan = planned(problem, [0, 0, 0, 0])
        # Two of four go, 3 and 4, and with them an hour of setting up.
        assert adjusting.with_crew(problem, plan, -1) == pytest.approx(3 + 4 - 1.0)
        kept = sites([[0, 5], [0, 3], [0, 4], [0, 6]], crew=((GAS, 2.0), (GAS, 2.0)), promised=[-1, 0, -1, -1])
        # What was promised stays, whatever it is worth.
        assert adjusting.with_crew(kept, plan, -1) == pytest.approx(5 + 4 - 1.0)

    def test_a_visit_of_two_people_frees_the_hours_of_both(self):
        problem = sites([[0, 5], [0, 6], [0, 6]], crew=((GAS, 2.0), (GAS, 2.0)), people=[2, 1, 1])
        # Two hours of four go: those of the one visit of two.
        assert adjusting.with_crew(problem, planned(problem, [0, 0, 0]), -1) == pytest.approx(5 - 1.0)

    def test_nobody_is_left_out_where_hours_suffice_and_of_one_none_is_taken(self):
        problem = sites([[0, 5], [0, 3]], crew=((GAS, 2.0), (GAS, 2.0)))
        assert adjusting.with_crew(problem, planned(problem, [0, 0]), -1) == pytest.approx(0.0)
        alone = sites([[0, 5]])
        assert adjusting.with_crew(alone, planned(alone, [0]), -1) is None

    def test_what_is_left_out_of_a_full_week_goes_to_one_that_has_hours(self):
        problem = sites([[0, 1, 9], [0, 1, 9]], crew=((GAS, (1.0, 2.0)), (GAS, (1.0, 2.0))))
        # One hour is left in week 0; the other waits an hour for week 1 instead of nine for nobody.
        assert adjusting.with_crew(problem, planned(problem, [0, 0]), -1) == pytest.approx(1.0)


def test_a_plans_cost_is_what_is_waited_and_set_up():
    problem = sites(
        [[0, 3, 5, 9], [1, 2, 4, 8], [0.5, 1, 2, 3]], group=[0, 0, 1], cap=[0, 5, -4], people=[1, 2], crew=((GAS, 9),)
    )
    for week in ([0, 0, 0], [1, 2, -1], [-1, -1, -1], [2, 2, 1]):
        plan = planned(problem, week, also=[(1, 2)])
        parts = season.parts_of(problem, plan)
        assert sum(parts.values()) == pytest.approx(cost(problem, plan))
        assert parts["services"] == pytest.approx(0, abs=1e-9) and parts["past_asked"] == 0


def test_what_a_service_costs_in_each_week_is_written_out():
    """Ten weeks; a service of an hour and a half with half an hour of its visit, that lasts a tenth of a year."""
    weeks, year = 10, 365.25 / 7
    over = np.linspace(0.0, 0.1, weeks + 1)[None, :]
    problem = sites(over, hours=1.5, crew=((GAS, 9.0),))
    needs = replace(
        problem.needs, interval=np.array([0.1]), due=np.array([0.25]), visit=np.array([0.5]), cap=np.array([6]),
        asked=np.array([2]), over_after=np.array([0.05]), over_year=np.array([0.3]),
    )  # fmt: skip
    costs = season.costs_of(replace(problem, needs=needs, worth=8.0))
    for week in range(weeks):
        left = (weeks - week - 0.5) / year
        used = min(1.0, left / 0.1)
        unused = (0.25 - weeks / year) / 0.1
        risk = over[0, week] + 0.05 * left + 0.25 * left**2
        late = 10.0 * max(week - 6, 0) + 0.2 * max(week - 2, 0)
        assert costs.do[0, week] == pytest.approx(2.0 * (used + unused) - 0.5 + 8.0 * risk + late)
    assert costs.skip[0] == pytest.approx(8.0 * 0.1 + 10.0 * 4 + 0.2 * 8)

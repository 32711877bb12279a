"""A season planned as a job: what it stores, what stays, and that nothing half-done is ever seen."""

import datetime
import random
from collections import defaultdict

import pytest

from aquifer.company.clock import week_of
from aquifer.company.models import Company
from aquifer.core.forecast import PROBABILITIES
from aquifer.core.planning import partitioning, season
from aquifer.core.vocabulary import Component, DecidedBy, Method, Practice
from aquifer.customers.models import Site
from aquifer.errors import Conflict, Invalid
from aquifer.forecasts.models import Forecast
from aquifer.rounds import board, planned_visits, rounds, ways, work
from aquifer.rounds import run as runs
from aquifer.rounds.models import (
    Absence,
    Appointment,
    AppointmentStatus,
    Closed,
    CrewMember,
    Run,
    RunKind,
    RunState,
    Service,
)
from aquifer.travel.service import Point

SHORT = 0.2


@pytest.fixture(autouse=True)
def quick(monkeypatch):
    monkeypatch.setattr(rounds, "SECONDS_A_WEEK", SHORT)


def planned(people, today, weeks=26) -> Run:
    run = runs.ask(RunKind.SEASON, today, weeks, people["planner"], today)
    runs.work_on(run.pk)
    run.refresh_from_db()
    return run


def test_a_season_gives_each_service_a_visit_and_the_first_weeks_their_rounds(forecasted, crew, people, today):
    run = planned(people, today)
    assert run.state == RunState.READY, run.message
    visits = Appointment.objects.all()
    assert visits.count() == run.figures["visits"] and run.figures["gap"] < 0.1
    assert Service.objects.count() == run.figures["services"] > 0
    soon = visits.filter(week__lte=week_of(today) + datetime.timedelta(days=7), on__isnull=False)
    assert soon.exists()
    found = board.read(today, today + datetime.timedelta(days=13))
    from aquifer.core.planning.rounds import faults_of

    assert [f for f in faults_of(found.problem, found.standing()) if f.shift >= 0] == []
    # Each visit's services are of its own site, and none but a yearly one is planned twice.
    for service in Service.objects.select_related("heater", "appointment"):
        assert service.heater.site_id == service.appointment.site_id
    others = Service.objects.exclude(component__in=work.SAFETY)
    assert len({(s.heater_id, s.component) for s in others}) == others.count()


def test_a_season_levels_the_year_after_it_unless_the_company_lets_it_crowd(forecasted, crew, people, today):
    run = planned(people, today, 52)
    told = run.figures
    assert len(told["next_year"]) == 52 and sum(told["next_year"]) > 0
    assert 0 < told["steady_hours"] < told["crew_hours"] and told["technician_hours"] < told["crew_hours"]
    twice = [[service.appointment for service in own] for own in yearly_services().values() if len(own) == 2]
    for first, second in twice:
        assert 13 * 7 <= (second.week - first.week).days <= 52 * 7
        assert second.latest_on is None or second.week <= second.latest_on
    before = Company.current()
    before.level_hours = 0
    before.save()
    free = planned(people, today, 52)
    assert "next_year" not in free.figures and free.figures["visits"] <= told["visits"]
    assert all(len(own) == 1 for own in yearly_services().values())
    assert not Appointment.objects.filter(note=planned_visits.EARLY).exists()


def yearly_services():
    found = defaultdict(list)
    for service in Service.objects.filter(component__in=work.SAFETY).order_by("appointment__week"):
        found[service.heater_id, service.component].append(service)
    return found


def test_what_one_crew_cannot_do_together_is_not_asked_of_it():
    """Each set of needs against every crew, by hand."""
    chance = random.Random(5)
    every = ["gas", "electrical", "jetter", "two people"]
    for _ in range(400):
        held = [frozenset(chance.sample(every, chance.randint(1, 4))) for _ in range(chance.randint(1, 3))]
        sets = [frozenset(chance.sample(every, chance.randint(1, 3))) for _ in range(chance.randint(1, 4))]
        found = work._together([wanting(needs) for needs in sets], held)
        for needs in sets:
            whole = found[1, needs]
            assert needs <= whole
            if any(needs <= one for one in held):
                assert any(whole <= one for one in held), (sets, held, needs, whole)


def wanting(needs):
    return work.Wanted(1, 1, Component.SEDIMENT, Method.DRAIN_AND_PULSE, 1.0, needs, None, None, None, False)


def test_sites_that_nobody_has_located_are_planned_at_the_yard(forecasted, crew, people, today):
    Site.objects.update(longitude=None, latitude=None)
    run = planned(people, today)
    assert run.state == RunState.READY, run.message
    assert Appointment.objects.filter(on__isnull=False).exists() and run.figures["services"] > 0
    where = ways.places(list(Site.objects.all()), [Point(-28.27, -41.21)])
    assert set(where.values()) == {Point(-28.27, -41.21)}


def test_eighteen_months_exercise_each_valve_twice_within_its_cap(forecasted, crew, people, today):
    run = planned(people, today, weeks=78)
    assert run.state == RunState.READY, run.message
    weeks: dict[int, list[datetime.date]] = {}
    for heater, week in (
        Service.objects.filter(component="relief_valve")
        .order_by("appointment__week")
        .values_list("heater_id", "appointment__week")
    ):
        weeks.setdefault(heater, []).append(week)
    assert len(weeks) == len(forecasted["heaters"])
    for first, second in weeks.values():
        assert 39 * 7 <= (second - first).days <= 52 * 7


def test_what_stays_is_where_it_was_after_planning_anew(forecasted, crew, people, today, next_week):
    planned(people, today)
    one = Appointment.objects.order_by("pk").first()
    on = next_week + datetime.timedelta(days=2)
    one.week, one.on, one.member, one.begins = next_week, on, crew[1], 500
    one.standing, one.earliest, one.latest = AppointmentStatus.PROMISED, 460, 540
    one.save()
    planned(people, today)
    one.refresh_from_db()
    assert (one.on, one.standing) == (on, AppointmentStatus.PROMISED) and 460 <= one.begins <= 540
    assert one.services.exists()
    assert not Appointment.objects.filter(site=one.site, week=next_week).exclude(pk=one.pk).exists()


def test_closed_sites_and_days_off_are_kept(forecasted, crew, people, today, next_week):
    shut_until = week_of(today) + datetime.timedelta(days=7 * 5 + 4)
    site = forecasted["sites"][0]
    Closed.objects.create(site=site, first_on=week_of(today), last_on=shut_until, why="let to guests")
    Absence.objects.create(first_on=next_week, last_on=next_week + datetime.timedelta(days=6), why="fair")
    planned(people, today)
    assert not Appointment.objects.filter(week=next_week).exists()
    assert not Appointment.objects.filter(site=site, week__lte=week_of(shut_until)).exists()
    assert Appointment.objects.filter(site=site).exists()


@pytest.mark.parametrize(
    ("weekdays", "days_gone", "closed", "allowed"),
    [
        ([0, 1, 2, 3, 4], 0, 5, False),
        ([0, 1, 2, 3, 4], 0, 2, True),
        ([0, 1, 2, 3, 4], 2, 3, False),
        ([0, 1, 2, 3, 4], 3, 1, True),
        # Who works on Saturdays is not sent to what is shut then.
        ([3, 4, 5], 5, 1, False),
        ([0, 1], 0, 1, True),
    ],
)
def test_days_gone_by_do_not_hold_a_closed_site_open(forecasted, next_week, weekdays, days_gone, closed, allowed):
    """Of the week that has begun only the days to come count, however its closures are told."""
    site = forecasted["sites"][0]
    today = next_week + datetime.timedelta(days=days_gone)
    for day in range(closed):
        on = today + datetime.timedelta(days=day)
        Closed.objects.create(site=site, first_on=on, last_on=on, why="painters")
    who = [CrewMember(weekdays=weekdays)]
    found, why = work._allowed([site.pk, forecasted["sites"][1].pk], who, next_week, 2, today)
    assert found.tolist() == [[allowed, True], [True, True]] and why == ["painters", ""]


def test_the_next_visit_waits_for_a_valve_that_was_proven_and_for_no_other(forecasted, crew, today):
    valves = Forecast.objects.current().filter(component=Component.RELIEF_VALVE).order_by("heater_id")
    proven, never, overdue = valves[:3]
    spring = today + datetime.timedelta(weeks=30)
    valves.update(due_on=spring, latest_on=spring, decided_by=DecidedBy.CAP)
    valves.filter(pk=never.pk).update(decided_by=DecidedBy.FIRST_LOOK)
    past = today - datetime.timedelta(weeks=2)
    valves.filter(pk=overdue.pk).update(due_on=past, latest_on=past)
    found = work.read(today, 52, today, worth=8.0)
    waits = {
        one.heater_id: hours
        for one, hours in zip(found.wanted, found.problem.needs.visit.tolist(), strict=True)
        if one.component is Component.RELIEF_VALVE
    }
    assert waits[proven.heater_id] > 0 == waits[never.heater_id] == waits[overdue.heater_id]
    # And what fills up again within a year is not reckoned with as if it did not.
    needs, at_risk = found.problem.needs, [one.component is Component.SEDIMENT for one in found.wanted]
    safety = [one.component in work.SAFETY for one in found.wanted]
    assert (needs.over_year[safety] == 0).all(), "what a valve's trial proves holds until its cap"
    assert (needs.over_year >= 0).all() and (needs.over_year[at_risk] > needs.over_after[at_risk]).any()


def test_a_run_that_breaks_leaves_the_plan_before_whole(forecasted, crew, people, today, monkeypatch):
    planned(people, today)
    before = list(Appointment.objects.order_by("pk").values())

    def broken(*_: object, **__: object) -> None:
        raise RuntimeError("power cut")

    monkeypatch.setattr(Service.objects, "bulk_create", broken)
    run = runs.ask(RunKind.SEASON, today, 26, people["planner"], today)
    with pytest.raises(RuntimeError):
        runs.work_on(run.pk)
    run.refresh_from_db()
    assert run.state == RunState.FAILED and "power cut" in run.message
    assert list(Appointment.objects.order_by("pk").values()) == before
    # And it does not stand in the way of the next.
    runs.ask(RunKind.SEASON, today, 26, people["planner"], today)


def test_a_run_left_by_a_dead_worker_is_taken_up_again(forecasted, crew, people, today):
    run = runs.ask(RunKind.SEASON, today, 26, people["planner"], today)
    Run.objects.filter(pk=run.pk).update(state=RunState.WORKING, stage="prices", share=0.4)
    runs.work_on(run.pk)
    run.refresh_from_db()
    assert run.state == RunState.READY
    count = Appointment.objects.count()
    runs.work_on(run.pk)
    assert Appointment.objects.count() == count


def test_one_planning_at_a_time_and_it_can_be_stopped(forecasted, crew, people, today, monkeypatch):
    run = runs.ask(RunKind.SEASON, today, 26, people["planner"], today)
    with pytest.raises(Conflict):
        runs.ask(RunKind.SEASON, today, 26, people["planner"], today)

    def stopped(problem: object, progress: season.Progress, **_: object) -> season.Plan:
        raise season.Stopped

    monkeypatch.setattr(partitioning, "solve", stopped)
    runs.work_on(run.pk)
    run.refresh_from_db()
    assert run.state == RunState.STOPPED and not Appointment.objects.exists()
    waiting = runs.ask(RunKind.SEASON, today, 26, people["planner"], today)
    assert runs.stop(waiting.pk).state == RunState.STOPPED
    with pytest.raises(Conflict):
        runs.stop(waiting.pk)


def test_promises_that_cannot_all_be_kept_are_named(forecasted, crew, people, today, next_week):
    for member in crew:
        member.begins, member.ends, member.lunch_minutes = 480, 500, 0
        member.save()
    site = forecasted["sites"][0]
    Appointment.objects.create(
        site=site, week=next_week, on=next_week, minutes=60,
            standing=AppointmentStatus.PROMISED, earliest=480, latest=500,
        needs=["electrical", "gas", "plumbing"],
    )  # fmt: skip
    for absence_of in crew:
        Absence.objects.create(
            member=absence_of, first_on=next_week, last_on=next_week + datetime.timedelta(days=6), why="ill"
        )
    run = planned(people, today)
    assert site.name in run.message and "promised" in run.message
    # One that cannot be kept is no reason to plan none.
    assert run.state == RunState.READY and run.figures["services"] > 0
    assert not Appointment.objects.filter(week=next_week).exclude(site=site).exists()


@pytest.mark.parametrize("weeks", [0, 3, 79])
def test_a_season_has_a_length(crew, people, today, weeks):
    with pytest.raises(Invalid):
        runs.ask(RunKind.SEASON, today, weeks, people["planner"], today)


@pytest.mark.parametrize("weeks", [26, 78])
def test_a_season_of_an_office_whose_heaters_want_nothing_is_empty(base, crew, people, today, weeks):
    run = planned(people, today, weeks)
    assert run.state == RunState.READY, run.message
    assert run.figures["services"] == run.figures["visits"] == 0 and run.figures["hours"] == [0.0] * weeks
    # Nor does what somebody asked for stand in its way.
    site = base["sites"][0]
    Appointment.objects.create(site=site, week=week_of(today), minutes=300, asked_minutes=300, standing="kept")
    run = planned(people, today, weeks)
    assert run.state == RunState.READY and run.figures["hours"][0] > 5.0


def test_no_season_without_a_crew_or_in_the_past(base, people, today):
    with pytest.raises(Invalid, match="nobody in the crew"):
        runs.ask(RunKind.SEASON, today, 26, people["planner"], today)
    with pytest.raises(Invalid, match="past"):
        runs.ask(RunKind.SEASON, today - datetime.timedelta(days=14), 26, people["planner"], today)
    for far in (datetime.date(2764, 1, 2), today + datetime.timedelta(weeks=80)):
        with pytest.raises(Invalid, match="at the latest"):
            runs.ask(RunKind.SEASON, far, 26, people["planner"], today)


def test_reading_a_season_takes_a_fixed_number_of_queries(forecasted, crew, today, django_assert_max_num_queries):
    with django_assert_max_num_queries(12):
        found = work.read(week_of(today), 26, today, 8.0)
    assert found.problem.needs.group.size == len(found.wanted) > 6


@pytest.mark.parametrize(
    ("first", "last", "day", "shut"),
    [
        ((2026, 6, 15), (2026, 9, 10), (2027, 7, 1), True),
        ((2026, 6, 15), (2026, 9, 10), (2027, 9, 11), False),
        ((2026, 12, 10), (2027, 2, 20), (2028, 1, 5), True),
        ((2026, 12, 10), (2027, 2, 20), (2028, 3, 5), False),
    ],
)
def test_a_yearly_closing_holds_every_year_and_over_its_end(first, last, day, shut):
    one = Closed(first_on=datetime.date(*first), last_on=datetime.date(*last), yearly=True)
    assert one.holds_on(datetime.date(*day)) is shut


def test_what_the_companys_practice_asks_for_is_planned_though_little_is_at_risk(forecasted, crew, people, today):
    """Every tank flushed a year ago, on water that leaves little: nothing is at risk, and the practice is yearly."""
    company = Company.current()
    company.practice = Practice.ANNUAL
    company.save()
    Forecast.objects.current().filter(component=Component.SEDIMENT).update(
        due_on=today + datetime.timedelta(weeks=8), latest_on=today + datetime.timedelta(weeks=8),
        decided_by=DecidedBy.PRACTICE, probability_today=0.0, over_after_service=0.0,
        reached_days=[4000.0] * PROBABILITIES.size,
    )  # fmt: skip
    asked = Forecast.objects.current().filter(component=Component.SEDIMENT).count()
    planned(people, today, 52)
    flushes = Service.objects.filter(component=Component.SEDIMENT).select_related("appointment")
    assert flushes.count() == asked > 0
    assert all(flush.appointment.week <= today + datetime.timedelta(weeks=9) for flush in flushes)
    # Nor is it done long before its date, whatever is at risk.
    Forecast.objects.current().filter(component=Component.SEDIMENT).update(
        due_on=today + datetime.timedelta(weeks=90), latest_on=today + datetime.timedelta(weeks=90),
        probability_today=0.9, reached_days=[0.0] * PROBABILITIES.size, benefit=0.9,
    )  # fmt: skip
    planned(people, today, 52)
    assert not Service.objects.filter(component=Component.SEDIMENT).exists()
    Forecast.objects.current().filter(component=Component.SEDIMENT).update(decided_by=DecidedBy.CAP)
    planned(people, today, 52)
    assert Service.objects.filter(component=Component.SEDIMENT).count() == asked
    # A date of the practice is no latest day of a safety service.
    only = Appointment.objects.exclude(services__component__in=work.SAFETY)
    assert not only.exclude(latest_on=None).exists()

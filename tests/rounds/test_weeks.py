"""Weeks begin when the company says so, in what is planned and in what is planned already."""

import datetime

import pytest

from aquifer.company.clock import week_of
from aquifer.company.models import Company, WeekStart
from aquifer.rounds import rounds, work
from aquifer.rounds.models import Appointment, Run, RunKind, RunState

SUNDAY, THURSDAY, SATURDAY = (datetime.date(2031, 6, day) for day in (8, 12, 14))


@pytest.mark.parametrize(
    ("start", "day", "first"),
    [
        (WeekStart.MONDAY, SUNDAY, datetime.date(2031, 6, 2)),
        (WeekStart.MONDAY, SATURDAY, datetime.date(2031, 6, 9)),
        (WeekStart.SUNDAY, SUNDAY, SUNDAY),
        (WeekStart.SUNDAY, SATURDAY, SUNDAY),
        (WeekStart.SATURDAY, SATURDAY, SATURDAY),
        (WeekStart.SATURDAY, THURSDAY, datetime.date(2031, 6, 7)),
    ],
)
def test_a_week_begins_on_the_day_that_the_company_says(start, day, first):
    assert start.week_of(day) == first


def visit(site, week, on=None, **more) -> Appointment:
    return Appointment.objects.create(site=site, week=week, on=on, minutes=60, **more)


def test_visits_move_into_the_weeks_of_their_days_and_back(base, crew, as_role):
    monday = datetime.date(2031, 6, 9)
    sunday_visit = visit(base["sites"][0], monday, monday + datetime.timedelta(days=6), member=crew[0], begins=540)
    weekday_visit = visit(base["sites"][1], monday, monday + datetime.timedelta(days=2), member=crew[0], begins=540)
    open_visit = visit(base["sites"][2], monday)
    plan = Run.objects.create(kind=RunKind.SEASON, state=RunState.READY, first_week=monday, weeks=8)

    def weeks() -> list[datetime.date]:
        return [Appointment.objects.get(pk=one.pk).week for one in (sunday_visit, weekday_visit, open_visit)] + [
            Run.objects.get(pk=plan.pk).first_week
        ]

    lead = as_role("lead")
    assert lead.patch("settings/company", {"week_start": "sunday"}).status_code == 200
    day_before = monday - datetime.timedelta(days=1)
    # The Sunday is the first of the next week now; most of the open visit's week lies in that of the day before.
    assert weeks() == [monday + datetime.timedelta(days=6), day_before, day_before, day_before]
    assert lead.get("company").json()["week_start"] == "sunday"
    assert lead.patch("settings/company", {"week_start": "monday"}).status_code == 200
    assert weeks() == [monday] * 4


def test_a_season_from_a_sunday_gives_every_day_of_the_crew_to_its_week(base, forecasted, crew, today):
    Company.objects.update(week_start=WeekStart.SUNDAY)
    first = week_of(today) + datetime.timedelta(days=7)
    assert first.weekday() == 6
    found = work.read(first, 4, today, 8.0)
    per_day = found.problem.crew.hours[:, 0] / 7
    crew[0].weekdays = [6]
    crew[0].save()
    sundays = work.read(first, 4, today, 8.0).problem.crew.hours[0]
    assert sundays == pytest.approx([per_day[0]] * 4)


def test_what_falls_due_is_counted_in_the_companys_weeks(as_role, forecasted):
    lead = as_role("lead")
    lead.patch("settings/company", {"week_start": "saturday"})
    hours = lead.get("outlook/weeks").json()
    assert hours
    assert {datetime.date.fromisoformat(one["week"]).weekday() for one in hours} == {5}


def test_a_week_that_has_passed_is_not_planned_and_comes_to_nothing(base, crew):
    monday = datetime.date(2031, 6, 9)
    one = visit(base["sites"][0], monday)
    told = rounds.plan_week(monday, monday + datetime.timedelta(days=7))
    assert told == rounds.PlannedWeek(monday, 0, 0, 0, ())
    one.refresh_from_db()
    assert one.on is None


def test_the_last_day_of_a_week_is_planned_still(base, crew, monkeypatch):
    monkeypatch.setattr(rounds, "SECONDS_A_WEEK", 0.1)
    monday = datetime.date(2031, 6, 9)
    one = visit(base["sites"][0], monday)
    sunday = monday + datetime.timedelta(days=6)
    rounds.plan_week(monday, sunday)
    one.refresh_from_db()
    assert one.on == sunday

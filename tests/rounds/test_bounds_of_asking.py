"""What may be asked of the planning, at the edge of what is allowed and one beyond it."""

import datetime

import pytest

from aquifer.company.clock import week_of
from aquifer.errors import Invalid, NotFound
from aquifer.rounds import booking, disturbance, rounds
from aquifer.rounds import run as runs
from aquifer.rounds.booking import Asked
from aquifer.rounds.disturbance import Disturbance
from aquifer.rounds.models import Appointment, Reason, Run, RunKind, RunState

DAY, WEEK = datetime.timedelta(days=1), datetime.timedelta(weeks=1)


def over(run):
    Run.objects.filter(pk=run.pk).update(state=RunState.READY)
    return run


@pytest.mark.parametrize(("weeks", "fine"), [(3, False), (4, True), (78, True), (79, False)])
def test_a_season_has_four_to_seventy_eight_weeks(crew, people, today, weeks, fine):
    if fine:
        assert runs.ask(RunKind.SEASON, today, weeks, people["planner"], today).weeks == weeks
    else:
        with pytest.raises(Invalid, match="4 to 78 weeks"):
            runs.ask(RunKind.SEASON, today, weeks, people["planner"], today)


def test_rounds_alone_may_be_of_one_week(crew, people, today):
    assert runs.ask(RunKind.ROUNDS, today, 1, people["planner"], today).weeks == 1


def test_a_plan_begins_this_week_at_the_earliest_and_in_eighteen_months_at_the_latest(crew, people, today):
    this = week_of(today)
    for first in (this, today, this + 78 * WEEK, this + 78 * WEEK + 6 * DAY):
        assert over(runs.ask(RunKind.SEASON, first, 26, people["planner"], today)).first_week == week_of(first)
    with pytest.raises(Invalid, match="is past"):
        runs.ask(RunKind.SEASON, this - DAY, 26, people["planner"], today)
    with pytest.raises(Invalid, match=f"begins {this + 78 * WEEK:%d %B %Y} at the latest"):
        runs.ask(RunKind.SEASON, this + 79 * WEEK, 26, people["planner"], today)


def test_a_plan_that_is_worked_on_hears_that_it_is_to_stop(crew, people, today):
    run = runs.ask(RunKind.SEASON, today, 26, people["planner"], today)
    Run.objects.filter(pk=run.pk).update(state=RunState.WORKING)
    stopped = runs.stop(run.pk)
    assert stopped.stop_asked and stopped.state == RunState.WORKING and stopped.finished_at is None


@pytest.mark.parametrize(("at", "minutes", "field"), [
    (0, 0, ""), (1439, 600, ""), (-1, 0, "at"), (1440, 0, "at"), (600, -1, "minutes"), (600, 601, "minutes"),
])  # fmt: skip
def test_a_disturbance_is_of_the_day_and_no_longer_than_ten_hours(base, crew, today, at, minutes, field):
    one = Appointment.objects.create(
        site=base["sites"][0], week=week_of(today), on=today, member=crew[0], begins=480, minutes=60
    )
    what = Disturbance("overrun", at, appointment_id=one.pk, minutes=minutes)
    if not field:
        disturbance.disturb(today, what)
        return
    with pytest.raises(Invalid) as refused:
        disturbance.disturb(today, what)
    assert [*refused.value.fields] == [field]


@pytest.mark.parametrize(("minutes", "lasts"), [(0, 90), (35, 35)])
def test_an_emergency_is_kept_as_it_was_told(base, crew, today, minutes, lasts):
    what = Disturbance(
        "emergency", 700, site_id=base["sites"][0].pk, minutes=minutes, needs=("plumbing", "gas"), words="it leaks",
        decides="Ida Brandt",
    )  # fmt: skip
    disturbance.disturb(today, what)
    made = Appointment.objects.get()
    assert (made.minutes, made.asked_minutes, made.earliest, made.latest) == (lasts, lasts, 700, 790)
    assert (made.week, made.on, made.needs) == (week_of(today), today, ["gas", "plumbing"])
    assert (made.standing, made.reason, made.said, made.decides) == ("promised", "emergency", "it leaks", "Ida Brandt")
    late = Disturbance("emergency", 1400, site_id=base["sites"][1].pk)
    disturbance.disturb(today, late)
    assert Appointment.objects.exclude(pk=made.pk).get().latest == 1439
    with pytest.raises(NotFound):
        disturbance.disturb(today, Disturbance("emergency", 700, site_id=0))


def test_what_changes_is_told_and_what_does_not_too(base, crew, today):
    first, second, third = (
        Appointment.objects.create(
            site=site, week=week_of(today), on=today, member=crew[0], begins=at, minutes=60, needs=["gas"]
        )
        for site, at in zip(base["sites"], (480, 600, 900), strict=True)
    )
    said = disturbance.disturb(today, Disturbance("overrun", 485, appointment_id=first.pk, minutes=0))
    assert said == ["Nothing changes: there is slack enough."]
    said = disturbance.disturb(today, Disturbance("nobody_home", 485, appointment_id=second.pk))
    assert said[0] == f"{base['sites'][1].name} waits for another day: nobody was in."
    second.refresh_from_db()
    assert (second.on, second.member, second.begins, second.standing) == (None, None, None, "planned")
    assert second.why == f"we were at your door on {today.day} {today:%B} and found nobody in"
    assert second.note == f"nobody in on {today:%d %B}"
    first.refresh_from_db(), third.refresh_from_db()
    assert first.on == third.on == today


def booked(site, **more):
    return Asked(site.pk, Reason.COMPLAINT, **{"minutes": 60, "ride_along": False, **more})


@pytest.mark.parametrize("minutes", [17, 601])
def test_a_visit_lasts_as_long_as_settling_in_and_at_most_ten_hours(base, crew, today, next_week, minutes):
    assert booking.arriving_minutes() == 18
    with pytest.raises(Invalid, match="18 to 600 minutes"):
        booking.book(booked(base["sites"][0], minutes=minutes), rounds.Target(next_week), today, False)
    for fine in (18, 600):
        assert (
            booking.book(booked(base["sites"][0], minutes=fine), rounds.Target(next_week), today, False).minutes == fine
        )


def test_a_visit_is_booked_from_today_on_for_three_years(base, crew, today):
    site = base["sites"][0]
    farthest = today + 3 * 366 * DAY
    for target in (
        rounds.Target(week_of(today), today, crew[0].pk), rounds.Target(week_of(today)),
        rounds.Target(week_of(farthest), farthest, crew[0].pk),
    ):  # fmt: skip
        booking.book(booked(site), target, today, True)
    past, too_far = today - DAY, farthest + DAY
    for on, says in ((past, "is past"), (too_far, "at most 3 years")):
        with pytest.raises(Invalid, match=says):
            booking.book(booked(site), rounds.Target(week_of(on), on, crew[0].pk), today, True)
    with pytest.raises(Invalid, match="is past"):
        booking.book(booked(site), rounds.Target(week_of(today) - WEEK), today, True)
    with pytest.raises(Invalid, match="Say who comes"):
        booking.book(booked(site), rounds.Target(week_of(today), today), today, True)


def test_what_is_booked_takes_what_rides_along(base, crew, today, next_week, monkeypatch):
    """What falls due within two months rides along, as long as the visit is no longer than four hours with it."""
    site, (first, second, third, *_) = base["sites"][0], base["heaters"]
    wanted = [
        booking.work.Wanted(
            heater.pk, site.pk, booking.work.Component.SEDIMENT, booking.work.Method.DRAIN_AND_PULSE, hours,
            frozenset(needs), today, latest, None, False,
        )
        for heater, hours, needs, latest in (
            (first, 1.5, {"gas"}, None), (second, 2.55, {"gas", "jetter"}, today),
            (third, 2.5, {"two people"}, next_week),
        )
    ]  # fmt: skip
    asked_by = []

    def due_at(site_id, by):
        asked_by.append((site_id, by))
        return wanted

    monkeypatch.setattr(booking.work, "due_at", due_at)
    made, riding = booking.drafted(booked(site, ride_along=True, needs=("plumbing",)), next_week)
    assert asked_by == [(site.pk, next_week + 60 * DAY)]
    # 1.5 and 2.5 hours are four; 1.5 and 2.55 would be more.
    assert [one.heater_id for one in riding] == [first.pk, third.pk]
    assert made.minutes == 60 + 240 and made.asked_minutes == 60 and made.people == 2
    assert made.needs == ["gas", "plumbing"] and made.latest_on == next_week
    long, _ = booking.drafted(booked(site, ride_along=True, minutes=400), next_week)
    assert long.minutes == 600
    alone, nothing = booking.drafted(booked(site, people=2), next_week)
    assert nothing == [] and (alone.people, alone.minutes, alone.latest_on) == (2, 60, None)
    assert booking.drafted(booked(site), next_week)[0].people == 1


def test_a_visit_is_only_put_where_somebody_may_do_it(base, crew, next_week):
    """The technician goes alone with gas and plumbing; the lead has everything and a helper."""
    technician, lead = (member.pk for member in crew)

    def who(**more):
        made = Appointment(site=base["sites"][0], week=next_week, **{"minutes": 60, "needs": ["gas"], **more})
        return [{place.member_id for place in rounds.places_for(made, next_week, days)} for days in (1, 2)]

    assert who() == [{technician, lead}] * 2 and who(people=1, needs=[]) == [{technician, lead}] * 2
    assert who(people=2) == [{lead}] * 2 and who(needs=["gas", "electrical"]) == [{lead}] * 2
    assert who(people=3) == [set()] * 2
    crew[1].helper = ""
    crew[1].save()
    assert who(people=2) == [set()] * 2


def test_a_visit_that_is_on_a_round_is_no_further_one_there(base, crew, next_week):
    """Where it is already nothing more is driven; put with somebody else who has a round it is a way there and back."""
    one = Appointment.objects.create(
        site=base["sites"][0], week=next_week, on=next_week, member=crew[0], begins=480, minutes=60, needs=["gas"]
    )
    places = {(place.on, place.member_id): place for place in rounds.places_for(one, next_week, 2)}
    assert len(places) == 4
    here, other_day = places[next_week, crew[0].pk], places[next_week + DAY, crew[0].pk]
    # From the yard there and back, on whichever of these days.
    assert here.driving == 0 == other_day.driving and here.position == 0
    second = Appointment.objects.create(
        site=base["sites"][2], week=next_week, on=next_week, member=crew[1], begins=480, minutes=60, needs=["gas"]
    )
    beside = {(place.on, place.member_id): place for place in rounds.places_for(one, next_week, 2)}
    assert beside[next_week, crew[1].pk].driving < 0 == beside[next_week, crew[0].pk].driving
    assert second.pk != one.pk
    # Of days on which it is not it is read besides.
    assert {place.on for place in rounds.places_for(one, next_week + DAY, 1)} == {next_week + DAY}

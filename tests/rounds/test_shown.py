"""What the rounds page and a caller are told of visits that were put down by hand, each figure written out."""

import datetime

import pytest
from django.db.models import Q

from aquifer.company.clock import week_of
from aquifer.rounds import board, read, upcoming
from aquifer.rounds.models import Absence, Appointment, AppointmentStatus, CrewMember, Service

DAY = datetime.timedelta(days=1)
A_SHIFT_H = 8.5
"""9 h from 7:30 to 16:30 less half an hour of lunch; of a week 92 % of it are planned: 7.82."""


def put(site, week, **more):
    if more.get("on") and "member" not in more and more.get("standing", "planned") in ("planned", "done"):
        more |= {"member": CrewMember.objects.order_by("pk").first(), "begins": 480}
    return Appointment.objects.create(site=site, week=week, **{"minutes": 60, **more})


@pytest.fixture
def sites(base):
    return base["sites"]


@pytest.fixture
def week_told(sites, crew, next_week, today, quarter_of_an_hour):
    tuesday = next_week + DAY
    put(sites[0], next_week, on=tuesday, minutes=100, latest_on=tuesday - DAY)
    put(sites[1], next_week, on=tuesday, minutes=95, standing="promised", latest_on=tuesday)
    put(sites[2], next_week, minutes=45, standing="kept", latest_on=next_week - DAY)
    put(sites[2], next_week, on=tuesday + DAY, minutes=33, standing="done")
    put(sites[2], next_week, on=tuesday, minutes=500, standing="called_off")
    put(sites[2], next_week + 7 * DAY, minutes=90, standing="offered", latest_on=next_week + 7 * DAY)
    Absence.objects.create(first_on=next_week + 3 * DAY, last_on=next_week + 4 * DAY, why="fair")
    Absence.objects.create(first_on=next_week + 13 * DAY, last_on=next_week + 20 * DAY, why="holidays")
    Absence.objects.create(member=crew[0], first_on=next_week + 5 * DAY, last_on=next_week + 5 * DAY, why="ill")
    return read.weeks(next_week + 2 * DAY, 2, today)


def test_a_week_is_told_by_what_is_in_it(week_told, next_week):
    first, second = week_told
    assert (first["week"], second["week"]) == (next_week, next_week + 7 * DAY)
    # 100 + 95 + 45 + 33 minutes and 63.6 of ways; two are firm, and two are past their latest day.
    assert (first["hours"], first["visits"], first["firm"], first["past_cap"]) == (5.6, 4, 2, 2)
    assert (second["hours"], second["visits"], second["firm"], second["past_cap"]) == (1.8, 1, 1, 0)
    # Two who go out on seven days, less two days of a fair and one of one who is ill.
    assert first["capacity"] == pytest.approx(9 * 7.82, abs=0.06)
    assert second["capacity"] == pytest.approx(12 * 7.82, abs=0.06)


def test_a_day_is_told_by_what_is_on_it(week_told, next_week):
    days = {one["on"]: one for week in week_told for one in week["days"]}
    assert sorted(days) == [next_week + n * DAY for n in range(14)]
    tuesday = days[next_week + DAY]
    assert (tuesday["hours"], tuesday["visits"], tuesday["promised"], tuesday["why_closed"]) == (3.8, 2, 1, "")
    assert tuesday["capacity"] == 2 * A_SHIFT_H
    assert (days[next_week + 2 * DAY]["hours"], days[next_week + 2 * DAY]["promised"]) == (0.8, 0)
    assert [days[next_week + n * DAY]["why_closed"] for n in (2, 3, 4, 5, 12, 13)] == [
        "",
        "fair",
        "fair",
        "",
        "",
        "holidays",
    ]
    assert [days[next_week + n * DAY]["capacity"] for n in (3, 4, 13)] == [0, 0, 0]
    assert days[next_week + 5 * DAY]["capacity"] == A_SHIFT_H


def test_a_day_gone_by_had_its_hours_and_its_week_has_those_that_are_left(sites, crew, next_week, quarter_of_an_hour):
    put(sites[0], next_week, on=next_week, minutes=200, standing="done")
    put(sites[0], next_week, on=next_week + DAY, minutes=100)
    put(sites[0], next_week, on=next_week + 3 * DAY, minutes=50, standing="promised")

    def told(now):
        (week,) = read.weeks(next_week, 1, now)
        assert [one["capacity"] for one in week["days"]] == [2 * A_SHIFT_H] * 7
        assert [one["hours"] for one in week["days"]] == [3.6, 1.9, 0, 1.1, 0, 0, 0]
        return week["hours"], week["visits"], week["capacity"]

    # What went by undone is still to do; what was done is not.
    assert told(next_week + 2 * DAY) == (3.0, 2, pytest.approx(5 * 2 * 7.82, abs=0.06))
    for whole in (next_week - DAY, next_week + 7 * DAY):
        assert told(whole) == (6.6, 3, pytest.approx(7 * 2 * 7.82, abs=0.06))


def test_the_weeks_are_asked_for_from_a_day_or_from_today(as_role, sites, crew, next_week, today):
    client = as_role("technician")
    assert [one["week"] for one in client.get("rounds/weeks").json()] == [str(week_of(today)), str(next_week)]
    asked = client.get(f"rounds/weeks?first={next_week + DAY}&count=3").json()
    assert [one["week"] for one in asked] == [str(next_week + n * 7 * DAY) for n in range(3)]
    for count, status in ((1, 200), (78, 200), (0, 422), (79, 422)):
        assert client.get(f"rounds/weeks?count={count}").status_code == status


def test_what_waits_for_a_day_is_listed_by_week_and_worth(sites, crew, next_week, today, monkeypatch):
    this = week_of(today)
    cheap = put(sites[0], this, worth=1.0)
    asked, dear = put(sites[1], next_week, asked_minutes=60), put(sites[1], next_week, worth=5.0)
    put(sites[2], next_week, worth=9.0, on=next_week)
    # What went by undone comes first, with a day or without; what was done does not.
    undone = put(sites[2], this - 7 * DAY, worth=0.5)
    missed = put(sites[2], this - 7 * DAY, worth=0.2, on=this - 5 * DAY, standing="promised")
    put(sites[2], this - 7 * DAY, worth=0.5, on=this - 5 * DAY, standing="done")
    put(sites[2], next_week, worth=9.0, standing="done")
    later = put(sites[0], next_week + 14 * DAY, worth=2.0)
    soon = [put(sites[n], next_week + 7 * DAY, worth=worth) for n, worth in enumerate((1.0, 3.0))]

    def listed():
        told = read.unplaced(next_week + 3 * DAY, today)
        return told["total"], [one["id"] for one in told["rows"]]

    passed = [undone.pk, missed.pk]
    assert listed() == (5, [*passed, asked.pk, dear.pk, cheap.pk, soon[1].pk, soon[0].pk, later.pk])
    monkeypatch.setattr(read, "MOST_UNPLACED", 6)
    assert listed() == (5, [*passed, asked.pk, dear.pk, cheap.pk, soon[1].pk])
    monkeypatch.setattr(read, "MOST_UNPLACED", 1)
    assert listed() == (5, [undone.pk])


def test_a_week_s_visits_come_in_the_order_of_their_days_and_times(sites, crew, next_week):
    without_day = put(sites[0], next_week)
    late, early = (put(sites[1], next_week, on=next_week + DAY, member=crew[0], begins=at) for at in (700, 480))
    before = put(sites[2], next_week, on=next_week, member=crew[0], begins=900)
    after = put(sites[2], next_week + 7 * DAY)
    put(sites[2], next_week - 7 * DAY), put(sites[2], next_week, standing="called_off")
    told = [one["id"] for one in read.of_weeks(next_week + 2 * DAY, next_week + 9 * DAY)]
    assert told == [before.pk, early.pk, late.pk, without_day.pk, after.pk]
    assert [one["id"] for one in read.of_weeks(next_week, next_week)] == told[:-1]


def test_who_rings_is_told_the_next_visit_first(base, sites, crew, next_week, today):
    planned = put(sites[0], next_week)
    promised = put(sites[0], next_week, on=next_week + 2 * DAY, member=crew[1], begins=570, standing="promised")
    this_week = put(sites[1], week_of(today))
    put(sites[1], week_of(today), on=today - DAY, member=crew[0], begins=480)
    put(sites[0], next_week, on=next_week, standing="done")
    Service.objects.create(
        appointment=promised, heater=base["heaters"][0], component="sediment", method="drain_and_pulse", hours=1
    )
    told = upcoming.of_sites([sites[0].pk, sites[1].pk], today)
    assert {pk: [one["id"] for one in own] for pk, own in told.items()} == {
        sites[0].pk: [promised.pk, planned.pk], sites[1].pk: [this_week.pk],
    }  # fmt: skip
    assert told[sites[0].pk][0]["prepare"]
    short = upcoming.next_of_sites([one.pk for one in sites], today)
    assert short.keys() == {sites[0].pk, sites[1].pk}
    assert (short[sites[0].pk]["id"], short[sites[0].pk]["technician"]) == (promised.pk, crew[1].user.name)
    assert (short[sites[1].pk]["id"], short[sites[1].pk]["technician"]) == (this_week.pk, "")
    # What is for today is still to come.
    now = put(sites[2], week_of(today), on=today, member=crew[0], begins=480)
    assert upcoming.next_of_sites([sites[2].pk], today)[sites[2].pk]["id"] == now.pk


def test_a_day_of_nobody_s_visits_is_told_by_its_shift(crew, next_week):
    told = read.day(next_week)
    assert [one["name"] for one in told["rounds"]] == [member.user.name for member in crew]
    for one, member in zip(told["rounds"], crew, strict=True):
        assert (one["begins"], one["back"], one["ends"]) == (member.begins, member.begins, member.ends)
        assert (one["driving"], one["lunch"], one["lunch_minutes"]) == (0, None, 30)
        assert one["calls"] == one["way"] == one["faults"] == one["done"] == []
    assert told["without_time"] == []


def test_a_day_s_round_is_told_with_its_times_what_is_done_and_what_has_none(sites, crew, next_week):
    one = put(sites[0], next_week, on=next_week, member=crew[0], begins=480, minutes=50)
    untimed = put(sites[1], next_week, on=next_week, standing="kept")
    done = put(sites[2], next_week, on=next_week, member=crew[0], begins=460, standing="done")
    mine, other = read.day(next_week)["rounds"]
    assert [call["appointment"]["id"] for call in mine["calls"]] == [one.pk]
    (call,) = mine["calls"]
    assert call["arrives"] <= call["begins"] == call["ends"] - 50
    found = board.read(next_week, next_week)
    (there,) = [n for n in range(2) if found.appointments[n].pk == one.pk]
    place, yard = found.problem.stops[there].place, found.problem.shifts[0].start_place
    hop = int(found.problem.travel[yard, place])
    assert mine["driving"] == 2 * hop > 0 and mine["back"] >= call["ends"] + hop
    assert len(mine["way"]) >= 3 and mine["way"][0] == mine["way"][-1]
    assert [each["id"] for each in mine["done"]] == [done.pk] and other["done"] == []
    assert [each["id"] for each in read.day(next_week)["without_time"]] == [untimed.pk]


def test_a_board_takes_what_else_is_asked_for_if_it_is_open(sites, crew, next_week):
    placed = put(sites[0], next_week, on=next_week + 2 * DAY)
    waiting = put(sites[1], next_week)
    put(sites[2], next_week + 7 * DAY), put(sites[2], next_week, on=next_week + 3 * DAY)
    put(sites[2], next_week, standing=AppointmentStatus.DONE)

    def on(*also):
        found = board.read(next_week + 1 * DAY, next_week + 2 * DAY, *also)
        return {one.pk for one in found.appointments}

    assert on() == {placed.pk} and on(Q(on__isnull=True, week=next_week)) == {placed.pk, waiting.pk}


def test_a_day_is_worth_most_to_what_was_promised_and_then_to_what_was_asked_for(sites, crew, next_week):
    for worth, more, minutes in (
        (0.1, {}, 120), (10.0, {}, 600), (99.0, {}, 2400), (0.0, {"asked_minutes": 60}, 2400),
        (0.0, {"standing": "kept"}, 100_000),
    ):  # fmt: skip
        put(sites[0], next_week, worth=worth, **more)
        found = board.read(next_week, next_week, Q(on__isnull=True))
        assert found.problem.stops[-1].worth == minutes


def test_a_visit_says_whether_its_house_has_a_place_on_the_map(sites, next_week):
    sites[1].longitude, sites[1].latitude = 11.5, 47.2
    sites[1].save()
    without, located = put(sites[0], next_week), put(sites[1], next_week)
    told = read.appointments(list(Appointment.objects.select_related("site__customer", "site__zone")))
    assert (told[without.pk]["located"], told[located.pk]["located"]) == (False, True)

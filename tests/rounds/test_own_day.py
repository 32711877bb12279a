"""A technician on the road: late, or it could not be done."""

import datetime

import pytest

from aquifer.rounds.models import Appointment, AppointmentStatus, CrewMember


@pytest.fixture
def round_today(forecasted, crew, today):
    """Two of the technician's and one of the lead's."""
    week = today - datetime.timedelta(days=today.weekday())
    who, at = (crew[0], crew[0], crew[1]), (480, 660, 480)
    return [
        Appointment.objects.create(
            site=site, week=week, on=today, member=member, begins=begins, minutes=60,
            standing=AppointmentStatus.PROMISED,
            earliest=begins - 30, latest=begins + 60,
        )
        for site, member, begins in zip(forecasted["sites"], who, at, strict=True)
    ]  # fmt: skip


def test_who_runs_late_is_later_at_what_follows_as_far_as_no_pause_takes_it_up(as_role, round_today):
    first, second, other = round_today
    told = as_role("technician").post(f"rounds/mine/{first.pk}/late", {"minutes": 20})
    assert [(one["id"], one["begins"]) for one in told.json()] == [(first.pk, 500)]
    told = as_role("technician").post(f"rounds/mine/{first.pk}/late", {"minutes": 180}).json()
    assert [one["id"] for one in told] == [first.pk, second.pk]
    first.refresh_from_db()
    second.refresh_from_db()
    other.refresh_from_db()
    assert first.begins == 680 and second.begins > 680 + 60 and other.begins == 480
    # What was promised stays promised: the customer is told by what they know of it.
    assert (second.standing, second.earliest, second.latest) == (AppointmentStatus.PROMISED, 630, 720)


@pytest.mark.parametrize(
    ("why", "standing", "note", "told"),
    [
        ("nobody_home", AppointmentStatus.PLANNED, "no one home", "found nobody in"),
        ("no_access", AppointmentStatus.PLANNED, "could not get to the heater", "could not get to"),
        ("declined", AppointmentStatus.CALLED_OFF, "they did not want it done", ""),
    ],
)
def test_what_could_not_be_done_waits_with_what_was_said(as_role, round_today, why, standing, note, told):
    one = round_today[0]
    body = {"why": why, "words": "dog in the yard"}
    answered = as_role("technician").post(f"rounds/mine/{one.pk}/not-done", body)
    assert answered.status_code == 200, answered.json()
    one.refresh_from_db()
    assert (one.standing, one.on, one.member_id) == (standing, None, None)
    assert one.note.startswith(note) and one.note.endswith(": dog in the yard") and told in one.why


def test_nobody_speaks_for_another_nor_for_another_day(as_role, round_today, crew, people):
    mine, _, other = round_today
    client = as_role("technician")
    assert client.post(f"rounds/mine/{other.pk}/late", {"minutes": 20}).status_code == 403
    assert client.post(f"rounds/mine/{other.pk}/not-done", {"why": "nobody_home"}).status_code == 403
    assert as_role("planner").post(f"rounds/mine/{mine.pk}/late", {"minutes": 20}).status_code == 403
    assert client.post(f"rounds/mine/{mine.pk}/late", {"minutes": 0}).status_code == 422
    assert client.post(f"rounds/mine/{mine.pk}/not-done", {"why": "rain"}).status_code == 422
    Appointment.objects.filter(pk=mine.pk).update(on=mine.on + datetime.timedelta(days=1))
    assert client.post(f"rounds/mine/{mine.pk}/late", {"minutes": 20}).status_code == 404
    assert CrewMember.objects.count() == 2

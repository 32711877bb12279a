"""The crew's weeks and absences, kept by planner and lead, and gone by in the next planning."""

import datetime

import pytest
from django.utils import timezone

from aquifer.outbox import calendar as calendars
from aquifer.rounds import crew
from aquifer.rounds.models import Absence, CrewMember, Loan

TODAY = datetime.date.today()
MONDAY = TODAY + datetime.timedelta(days=7 - TODAY.weekday())
"""Of next week."""


def on(weekday):
    return (MONDAY + datetime.timedelta(days=weekday)).isoformat()


@pytest.fixture
def member(as_role, people):
    return as_role("planner").post("settings/crew", {"user_id": people["technician"].pk}).json()


def hours():
    return crew.hours_by_week(crew.members(), MONDAY, 1, MONDAY)[0, 0]


def test_who_goes_out_begins_with_a_usual_week_that_is_changed_by_the_planner(as_role, member):
    planner = as_role("planner")
    assert (member["weekdays"], member["begins"], member["active"]) == ([0, 1, 2, 3, 4], 450, True)
    before = hours()
    told = planner.patch(
        f"settings/crew/{member['id']}", {"weekdays": [0, 2], "equipment": ["jetter"], "helper": "Pim"}
    )
    assert told.json()["weekdays"] == [0, 2] and hours() == pytest.approx(before * 2 / 5)
    assert crew.able(CrewMember.objects.get(), MONDAY) >= {"jetter", "two people"}
    planner.patch(f"settings/crew/{member['id']}", {"active": False})
    assert crew.members() == []


@pytest.mark.parametrize(
    ("sent", "field"),
    [
        ({"ends": 400}, "ends"), ({"begins": 900, "ends": 920}, "ends"), ({"lunch_latest": 600}, "lunch_latest"),
        ({"weekdays": []}, "weekdays"), ({"weekdays": [7]}, "weekdays"), ({"equipment": ["crane"]}, "equipment"),
        ({"longitude": 4.0}, "latitude"), ({"begins": 1440}, "begins"), ({"place": ""}, "place"),
    ],
)  # fmt: skip
def test_a_week_that_nobody_can_work_is_told_at_its_field(as_role, member, sent, field):
    answer = as_role("planner").patch(f"settings/crew/{member['id']}", sent)
    assert answer.status_code == 422 and any(field in name for name in answer.json()["fields"]), answer.json()
    assert CrewMember.objects.get().ends == 990


def test_a_day_off_takes_its_hours_out_of_the_plan_and_a_holiday_everybodys(as_role, member):
    planner, whole = as_role("planner"), hours()
    day = {"first_on": on(1), "last_on": on(1)}
    off = planner.post("settings/absences", {**day, "member_id": member["id"], "why": "ill"}).json()
    assert hours() == pytest.approx(whole * 4 / 5)
    planner.post("settings/absences", {"first_on": on(3), "last_on": on(4), "why": "holiday"})
    assert hours() == pytest.approx(whole * 2 / 5)
    assert [one["name"] for one in planner.get("settings/crew").json()["absences"]] == ["Technician", ""]
    planner.raw.delete(f"/api/settings/absences/{off['id']}")
    assert hours() == pytest.approx(whole * 3 / 5)
    wrong = planner.post("settings/absences", {"first_on": on(3), "last_on": on(2), "why": "x"})
    assert wrong.status_code == 422 and "last_on" in wrong.json()["fields"]


def test_what_is_long_past_is_not_shown(as_role, member):
    today = timezone.localdate()
    for days in (400, 5):
        on = today - datetime.timedelta(days=days)
        Absence.objects.create(first_on=on, last_on=on, why=f"{days} days ago")
    assert [one["why"] for one in as_role("lead").get("settings/crew").json()["absences"]] == ["5 days ago"]


def test_technicians_read_the_crew_and_do_not_change_it(as_role, member):
    for role in ("technician", "apprentice"):
        assert as_role(role).get("settings/crew").json()["may_change"] is False
        assert as_role(role).patch(f"settings/crew/{member['id']}", {"helper": "me"}).status_code == 403
        assert as_role(role).post("settings/absences", {}).status_code == 403


def test_a_licence_that_ends_takes_its_work_from_the_days_after(as_role, member, people):
    people["technician"].licences, people["technician"].licence_ends = ["gas"], {"gas": "2026-12-01"}
    people["technician"].save()
    one = CrewMember.objects.select_related("user").get()
    assert "gas" in crew.able(one, datetime.date(2026, 12, 1))
    assert "gas" not in crew.able(one, datetime.date(2026, 12, 2))


def test_the_calendar_link_of_an_account_at_rest_is_dead(as_role, member, people):
    key = calendars.key_of(CrewMember.objects.select_related("user").get())
    assert calendars.of_member(key, MONDAY) is not None
    as_role("lead").patch(f"settings/people/{people['technician'].pk}", {"is_active": False})
    assert calendars.of_member(key, MONDAY) is None


def test_a_week_and_an_absence_are_taken_back_by_the_planner(as_role, member):
    planner = as_role("planner")
    later = planner.patch(f"settings/crew/{member['id']}", {"begins": 480}).headers["X-Change"]
    lines = planner.get("settings/history").json()[0]["lines"]
    assert [(line["field"], line["before"], line["after"]) for line in lines] == [("begins", "7:30", "8:00")]
    planner.post(f"changes/{later}/undo")
    assert CrewMember.objects.get().begins == 450
    gone = planner.post("settings/absences", {"first_on": on(3), "last_on": on(3), "why": "fair"})
    planner.post(f"changes/{gone.headers['X-Change']}/undo")
    assert not Absence.objects.exists()


def test_a_tool_that_is_lent_is_on_the_other_truck_for_those_days_alone(as_role, people, member):
    planner = as_role("planner")
    planner.patch(f"settings/crew/{member['id']}", {"equipment": ["jetter"]})
    other = planner.post("settings/crew", {"user_id": people["lead"].pk}).json()
    days = {"first_on": on(1), "last_on": on(2)}
    lent = {"tool": "jetter", "lender_id": member["id"], "borrower_id": other["id"], **days}
    refused = {
        "tool": {**lent, "tool": "descaling pump"}, "borrower_id": {**lent, "borrower_id": member["id"]},
        "last_on": {**lent, "last_on": on(0)},
    }  # fmt: skip
    for field, sent in refused.items():
        answer = planner.post("settings/loans", sent)
        assert answer.status_code == 422 and field in answer.json()["fields"], answer.json()
    made = planner.post("settings/loans", lent)
    assert made.status_code == 201 and made.json()["borrower"] == people["lead"].name
    # It cannot be at two places; a day later it can.
    assert planner.post("settings/loans", {**lent, "first_on": on(2), "last_on": on(3)}).status_code == 409
    assert planner.post("settings/loans", {**lent, "first_on": on(3), "last_on": on(3)}).status_code == 201
    lender, borrower = CrewMember.objects.order_by("pk")
    carries = {
        (working.member.pk, working.on.weekday()): "jetter" in working.able
        for working in crew.working([lender, borrower], MONDAY, MONDAY + datetime.timedelta(days=4))
    }
    assert [carries[lender.pk, weekday] for weekday in range(5)] == [True, False, False, False, True]
    assert [carries[borrower.pk, weekday] for weekday in range(5)] == [False, True, True, True, False]
    monday, tuesday = MONDAY, MONDAY + datetime.timedelta(days=1)
    assert "jetter" in crew.able(borrower, tuesday) and "jetter" not in crew.able(lender, tuesday)
    # A season is planned by what is usually there.
    assert "jetter" in crew.usually_able(lender, monday) and "jetter" not in crew.usually_able(borrower, tuesday)
    told = planner.get("settings/crew").json()["loans"]
    assert [one["first_on"] for one in told] == [on(1), on(3)]
    assert as_role("technician").raw.delete(f"/api/settings/loans/{made.json()['id']}").status_code == 403
    assert planner.raw.delete(f"/api/settings/loans/{made.json()['id']}").status_code == 204
    assert "jetter" in crew.able(lender, tuesday) and Loan.objects.count() == 1

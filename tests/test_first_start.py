"""An empty installation, from its first page to its first lead, and its clock."""

import datetime

import pytest
from django.core.management import CommandError, call_command
from django.test import Client
from django.utils import timezone

from aquifer import first_start
from aquifer.accounts.models import Role, User
from aquifer.company import clock
from aquifer.company.models import Company
from aquifer.outbox import calendar, write
from aquifer.rounds import crew
from aquifer.rounds.models import Appointment, CrewMember
from aquifer.travel.service import Point

TOLD = {
    "company": "Tamarack Plumbing", "units": "us", "hardness_unit": "gpg", "time_zone": "America/Denver",
    "yard": "1 Depot Road", "yard_at": "44.112, -112.871", "first_name": "Petra", "username": "petra",
    "password": "seven brass unions", "goes_out": "on", "licences": ["gas", "plumbing"], "equipment": ["jetter"],
}  # fmt: skip


@pytest.fixture
def nobody(db):
    return Client()


def begun(client, **other):
    return client.post("/first-start", {**TOLD, "key": first_start.key(), **other})


def test_an_empty_installation_greets_with_its_first_page(nobody):
    assert nobody.get("/sign-in")["Location"] == "/first-start"
    page = nobody.get(f"/first-start?key={first_start.key()}").content.decode()
    assert "say whose it is" in page.lower() and "America/Denver" in page and "try-aquifer-here" not in page
    answer = begun(nobody)
    assert (answer.status_code, answer["Location"]) == (302, "/register/files")
    told = nobody.get("/api/company").json()
    assert (told["name"], told["timezone"], told["is_demo"]) == ("Tamarack Plumbing", "America/Denver", False)
    assert told["units"]["volume_l"]["label"] == "gal" and told["units"]["hardness_mg_l"]["label"] == "gpg"
    lead = User.objects.get()
    assert (lead.role, lead.licences, lead.check_password(TOLD["password"])) == (Role.LEAD, ["gas", "plumbing"], True)
    assert crew.start(CrewMember.objects.get()) == Point(-112.871, 44.112)
    assert CrewMember.objects.get().equipment == ["jetter"]
    again = Client()
    assert again.get("/first-start")["Location"] == "/sign-in" and again.get("/sign-in").status_code == 200
    assert begun(again)["Location"] == "/sign-in" and User.objects.count() == 1


@pytest.mark.parametrize(
    ("other", "says"),
    [
        ({"key": "000000000000"}, "That is not the key"),
        ({"time_zone": "Mars/Olympus"}, "not one of the available choices"),
        ({"password": "short"}, "too short"),
        ({"yard_at": "91, 400"}, "between -90 and 90"),
        ({"yard_at": "by the river"}, "latitude, longitude"),
        ({"company": ""}, "required"),
    ],
)
def test_what_cannot_be_so_is_said_where_it_stands_and_makes_nothing(nobody, other, says):
    answer = begun(nobody, **other)
    assert answer.status_code == 422 and says in answer.content.decode()
    assert 'value="Petra"' in answer.content.decode() and not User.objects.exists()


def test_the_command_line_does_the_same_at_once(db, monkeypatch, capsys):
    options = ["--company", "Kesselau", "--units", "metric", "--hardness-unit", "dh", "--time-zone", "Europe/Vienna"]
    options += ["--first-name", "Una", "--username", "una", "--stays-in", "--clock", "12", "--week-start", "sunday"]
    with pytest.raises(CommandError, match="AQUIFER_FIRST_PASSWORD"):
        call_command("first_start", *options)
    monkeypatch.setenv("AQUIFER_FIRST_PASSWORD", TOLD["password"])
    with pytest.raises(CommandError, match="units"):
        call_command("first_start", *options, "--units", "cubits")
    call_command("first_start", *options)
    ours = Company.current()
    assert (ours.hardness_unit, ours.clock, ours.week_start) == ("dh", "12", "sunday")
    assert not CrewMember.objects.exists()
    with pytest.raises(CommandError, match="a lead already"):
        call_command("first_start", *options)
    capsys.readouterr()
    call_command("first_start", "--key")
    assert capsys.readouterr().out == ""


@pytest.fixture
def in_denver(db):
    company = Company.current()
    company.time_zone = "America/Denver"
    company.save()


def test_a_day_is_told_by_the_company_s_clock(in_denver, as_role, monkeypatch):
    planner = as_role("planner")
    late = datetime.datetime(2026, 11, 28, 4, 30, tzinfo=datetime.UTC)
    monkeypatch.setattr(timezone, "now", lambda: late)
    assert planner.get("company").json()["today"] == "2026-11-27"
    seen = clock.by_its_clock(lambda: (timezone.localdate(), write.after_quiet(late)))()
    assert seen == (datetime.date(2026, 11, 27), datetime.datetime(2026, 11, 28, 15, 0, tzinfo=datetime.UTC))


def test_a_promise_of_a_quarter_past_seven_is_at_a_quarter_past_seven_there(in_denver, base):
    one = Appointment(
        pk=5, site=base["sites"][0], week=datetime.date(2026, 11, 23), on=datetime.date(2026, 11, 27), earliest=435,
        latest=525,
    )  # fmt: skip
    told = clock.by_its_clock(calendar.of_customer)(one, "Tamarack Plumbing", []).decode()
    assert "DTSTART:20261127T141500Z" in told
    # Also in the summer, an hour nearer to Greenwich.
    one.on = datetime.date(2026, 7, 3)
    assert "DTSTART:20260703T131500Z" in clock.by_its_clock(calendar.of_customer)(one, "", []).decode()

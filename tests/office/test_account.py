"""One's own account: where one is signed in, how long, and the second step."""

import datetime
import re

import pytest
from django.test import Client
from django.utils import timezone
from django_otp.oath import totp
from django_otp.plugins.otp_static.models import StaticDevice
from django_otp.plugins.otp_totp.models import TOTPDevice

from aquifer.accounts import audit, sessions
from aquifer.accounts.models import Deed, Noted, Session
from aquifer.office import passwords, second_step, tasks
from tests.conftest import JsonClient

PASSWORD = "four plain words here"


@pytest.fixture
def planner(people):
    people["planner"].set_password(PASSWORD)
    people["planner"].save()
    return people["planner"]


def comes(planner, agent="a telephone", address="198.51.100.7", then=302) -> JsonClient:
    client = Client(HTTP_USER_AGENT=agent, REMOTE_ADDR=address)
    answer = client.post("/sign-in", {"username": planner.username, "password": PASSWORD})
    assert answer.status_code == then
    return JsonClient(client)


def test_where_somebody_is_signed_in_is_listed_and_ended(planner, as_role):
    here, there = comes(planner), comes(planner, "an old tablet", "203.0.113.9")
    as_role("lead")
    told = {one["agent"]: one for one in here.get("me/account").json()["sessions"]}
    assert set(told) == {"a telephone", "an old tablet"}
    assert told["a telephone"]["here"] and not told["an old tablet"]["here"]
    assert told["an old tablet"]["address"] == "203.0.113.9"
    key = told["an old tablet"]["key"]
    # What is told lets nobody in.
    assert key not in {one.session_key for one in Session.objects.all()}
    assert here.raw.delete(f"/api/me/sessions/{key}").status_code == 204
    assert there.get("me").status_code == 401 and here.get("me").status_code == 200
    assert here.raw.delete(f"/api/me/sessions/{key}").status_code == 404


def test_nobody_ends_another_persons_session(planner, as_role):
    there = comes(planner)
    (key,) = [one["key"] for one in there.get("me/account").json()["sessions"]]
    assert as_role("technician").raw.delete(f"/api/me/sessions/{key}").status_code == 404
    assert there.get("me").status_code == 200


@pytest.mark.parametrize(
    ("name", "age", "stays"),
    [
        ("seen", sessions.IDLE - datetime.timedelta(hours=1), True),
        ("seen", sessions.IDLE + datetime.timedelta(hours=1), False),
        ("began", sessions.LONGEST - datetime.timedelta(hours=1), True),
        ("began", sessions.LONGEST + datetime.timedelta(hours=1), False),
    ],
)
def test_a_session_ends_when_it_is_old_or_was_not_used(planner, name, age, stays):
    client = comes(planner)
    kept = client.raw.session
    kept[name] = (timezone.now() - age).isoformat()
    kept.save()
    assert client.get("me").status_code == (200 if stays else 401)
    if stays and name == "seen":
        # It was used now.
        assert timezone.now() - Session.objects.get(user=planner).seen < datetime.timedelta(minutes=1)


def test_being_used_is_written_every_ten_minutes_and_not_each_time(planner, django_assert_num_queries):
    client = comes(planner)
    seen = Session.objects.get(user=planner).seen
    client.get("me")
    assert Session.objects.get(user=planner).seen == seen


def code_of(planner, steps: int = 0) -> str:
    device = TOTPDevice.objects.get(user=planner)
    return f"{totp(device.bin_key, drift=steps):06d}"


@pytest.fixture
def with_step(planner):
    client = comes(planner)
    begun = client.post("me/second-step").json()
    assert begun["address"].startswith("otpauth://totp/Aquifer") and begun["picture"].startswith("<svg")
    told = client.post("me/second-step/code", {"code": code_of(planner)})
    assert told.status_code == 200, told.json()
    # A code is good once: what signed the setting up is not the one that lets in.
    TOTPDevice.objects.filter(user=planner).update(last_t=-1)
    return client, told.json()["codes"]


def test_the_password_alone_lets_nobody_in_who_set_up_a_second_step(planner, with_step):
    client = comes(planner)
    assert client.get("me").status_code == 401
    assert client.raw.post("/second-step", {"code": "000000"}).status_code == 422
    TOTPDevice.objects.filter(user=planner).update(throttling_failure_count=0)
    assert client.get("me").status_code == 401
    assert client.raw.post("/second-step", {"code": code_of(planner)}).headers["Location"] == "/"
    assert client.get("me").json()["id"] == planner.pk


def test_a_code_is_good_once_and_guessing_is_slowed_down(planner, with_step):
    code = code_of(planner)
    first, second = comes(planner), comes(planner)
    assert first.raw.post("/second-step", {"code": code}).status_code == 302
    assert second.raw.post("/second-step", {"code": code}).status_code == 422
    # After a wrong one even the right one has to wait.
    assert second.raw.post("/second-step", {"code": code_of(planner, 1)}).status_code == 422


def test_a_code_on_paper_lets_in_once(planner, with_step):
    _, codes = with_step
    assert len(set(codes)) == second_step.CODES
    for status in (302, 422):
        assert comes(planner).raw.post("/second-step", {"code": codes[0].upper()}).status_code == status
    assert second_step.codes_left(planner) == second_step.CODES - 1


def test_half_in_is_not_for_long_and_is_nothing_without_the_password(planner, with_step):
    assert Client().get("/second-step").headers["Location"] == "/sign-in"
    client = comes(planner).raw
    kept = client.session
    kept["half_in"] = [*kept["half_in"][:2], 0.0, "/"]
    kept.save()
    assert client.post("/second-step", {"code": code_of(planner)}).headers["Location"] == "/sign-in"


def test_a_link_for_a_new_password_does_not_go_round_it(planner, with_step):
    client = Client()
    planner.refresh_from_db()
    answer = client.post(passwords.path(planner), {"password": "four other plain words"})
    assert answer.headers["Location"] == "/second-step"
    assert client.get("/api/me").status_code == 401


def test_a_wrong_code_takes_nothing_into_force_and_two_are_not_set_up(planner):
    client = comes(planner)
    client.post("me/second-step")
    assert client.post("me/second-step/code", {"code": "000000"}).json()["fields"]["code"]
    assert not client.get("me/account").json()["second_step"] and comes(planner).get("me").status_code == 200
    TOTPDevice.objects.filter(user=planner).update(throttling_failure_count=0)
    assert client.post("me/second-step/code", {"code": code_of(planner)}).status_code == 200
    assert client.post("me/second-step").status_code == 409
    assert client.post("me/second-step/code", {"code": code_of(planner)}).status_code == 409


def test_it_is_dropped_with_the_password_or_by_the_lead(planner, with_step, as_role):
    client, _ = with_step
    assert client.post("me/second-step/drop", {"now": "not it"}).status_code == 422
    assert client.get("me/account").json()["second_step"]
    path = f"settings/people/{planner.pk}/second-step/drop"
    assert as_role("technician").post(path).status_code == 403
    assert as_role("lead").post(path).status_code == 204
    assert as_role("lead").post(path).status_code == 409
    assert comes(planner).get("me").status_code == 200
    assert Noted.objects.get(deed=Deed.DROPPED_SECOND_STEP).about == planner.name


def asked_of(as_role, *roles):
    assert as_role("lead").patch("settings/company", {"second_step_roles": list(roles)}).status_code == 200


def test_nobody_of_a_role_that_is_asked_comes_in_without_setting_it_up(planner, as_role):
    asked_of(as_role, "planner")
    assert as_role("technician").get("me/account").json()["second_step_asked"] is False
    client = comes(planner)
    assert client.get("me").status_code == 401
    page = client.raw.get("/second-step/set-up").content.decode()
    assert "<svg" in page and "otpauth://totp/Aquifer" in page
    assert client.raw.post("/second-step/set-up", {"code": "000000"}).status_code == 422
    assert client.get("me").status_code == 401
    # The picture is the same as was scanned.
    assert TOTPDevice.objects.get(user=planner).config_url in client.raw.get("/second-step/set-up").content.decode(
    ).replace("&amp;", "&")  # fmt: skip
    TOTPDevice.objects.filter(user=planner).update(throttling_failure_count=0)
    told = client.raw.post("/second-step/set-up", {"code": code_of(planner)})
    assert told.status_code == 200 and told.content.decode().count("<li>") == second_step.CODES
    assert client.get("me").json()["id"] == planner.pk
    # From now on it is asked as of anybody else, and no page sets up another.
    again = comes(planner)
    assert again.raw.get("/second-step/set-up").headers["Location"] == "/second-step"
    assert again.get("me").status_code == 401
    assert Client().get("/second-step/set-up").headers["Location"] == "/sign-in"


def test_a_link_for_a_new_password_leads_to_setting_it_up_too(planner, as_role):
    asked_of(as_role, "planner")
    planner.refresh_from_db()
    client = Client()
    answer = client.post(passwords.path(planner), {"password": "four other plain words"})
    assert answer.headers["Location"] == "/second-step/set-up" and client.get("/api/me").status_code == 401


def test_whoever_is_asked_does_not_drop_it_and_gets_new_codes(planner, with_step, as_role):
    asked_of(as_role, "planner", "lead")
    client, codes = with_step
    assert client.post("me/second-step/drop", {"now": PASSWORD}).json()["code"] == "second_step.is_asked"
    assert client.post("me/second-step/codes", {"now": "not it"}).status_code == 422
    others = client.post("me/second-step/codes", {"now": PASSWORD}).json()["codes"]
    assert len(others) == second_step.CODES and not set(others) & set(codes)
    assert comes(planner).raw.post("/second-step", {"code": codes[0]}).status_code == 422
    TOTPDevice.objects.filter(user=planner).update(throttling_failure_count=0)
    StaticDevice.objects.filter(user=planner).update(throttling_failure_count=0)
    assert comes(planner).raw.post("/second-step", {"code": others[0]}).status_code == 302
    asked_of(as_role)
    assert client.post("me/second-step/drop", {"now": PASSWORD}).status_code == 204
    assert client.post("me/second-step/codes", {"now": PASSWORD}).status_code == 409


def test_who_came_in_and_who_took_what_out_is_noted_for_the_lead(planner, as_role):
    client = comes(planner, "an old tablet", "203.0.113.9")
    Client(REMOTE_ADDR="198.51.100.1").post("/sign-in", {"username": "nobody-here", "password": "x"})
    client.get("records/customers.csv")
    client.raw.post("/sign-out")
    told = as_role("lead").get("settings/noted").json()
    said = [(one["deed"], one["name"], one["address"], one["about"]) for one in told]
    assert ("signed_in", planner.name, "203.0.113.9", "an old tablet") in said
    assert ("not_signed_in", "nobody-here", "198.51.100.1", "") in said
    assert ("took_out", planner.name, "203.0.113.9", "customers") in said
    assert ("signed_out", planner.name, "203.0.113.9", "") in said
    only = as_role("lead").get("settings/noted?deed=took_out").json()
    assert [one["deed"] for one in only] == ["took_out"]
    assert as_role("planner").get("settings/noted").status_code == 403
    assert not re.search(PASSWORD, str(told))


def test_what_ended_and_what_is_old_is_forgotten(planner):
    comes(planner)
    Session.objects.update(expire_date=timezone.now() - datetime.timedelta(seconds=1))
    Noted.objects.update(at=timezone.now() - audit.KEPT - datetime.timedelta(days=1))
    tasks.forget(0)
    assert not Session.objects.exists() and not Noted.objects.exists()

"""Accounts without the administration: made, changed, rested, and their passwords set by their owners alone."""

import datetime
import re

import pytest
from django.core import mail
from django.test import Client
from django.utils import timezone

from aquifer.accounts.models import Role, User
from aquifer.full_export.tables import held_of, held_words
from aquifer.office import tasks

NEW = {
    "username": "ostrow", "first_name": "Rika", "last_name": "Ostrow", "email": "rika@ours.example",
    "role": "technician", "licences": [{"kind": "gas", "ends_on": "2027-03-31"}, {"kind": "plumbing"}],
}  # fmt: skip
PASSWORD = "seven brass unions"


def ostrow(client):
    return client.post("settings/people", NEW).json()


def test_an_account_is_made_and_its_owner_sets_the_password(as_role):
    lead = as_role("lead")
    made = lead.post("settings/people", NEW)
    assert made.status_code == 201 and made.json()["has_password"] is False
    told = lead.post(f"settings/people/{made.json()['id']}/password-link").json()
    path = told["link"].removeprefix("http://testserver")
    someone = Client()
    assert "ostrow" in someone.get(path).content.decode()
    weak = someone.post(path, {"password": "ostrow"})
    assert weak.status_code == 422 and "too short" in weak.content.decode()
    assert someone.post(path, {"password": PASSWORD}).headers["Location"] == "/"
    assert someone.get("/api/me").json()["name"] == "Rika Ostrow"
    # Good once: whoever finds it later gets nothing.
    assert Client().get(path).status_code == 410 and Client().post(path, {"password": "other words"}).status_code == 410
    assert User.objects.get(username="ostrow").check_password(PASSWORD)


def test_a_link_that_is_cut_or_of_nobody_is_told(as_role):
    whole = as_role("lead").post(f"settings/people/{ostrow(as_role('lead'))['id']}/password-link").json()["link"]
    path = whole.removeprefix("http://testserver")
    for wrong in (path[:-3], "/set-password/x/y-z", "/set-password/OTk5OTk5/abc-123", "/set-password/AAAA/a-b"):
        assert Client().get(wrong).status_code == 410


def test_a_licence_that_ends_is_held_through_its_last_day(as_role):
    ostrow(as_role("lead"))
    one = User.objects.get(username="ostrow")
    assert one.licences_on(datetime.date(2027, 3, 31)) == ["gas", "plumbing"]
    assert one.licences_on(datetime.date(2027, 4, 1)) == ["plumbing"]
    User.objects.filter(pk=one.pk).update(licence_ends={"gas": "2020-01-01"})
    assert User.objects.get(pk=one.pk).licences_held == ["plumbing"]


@pytest.mark.parametrize(
    ("sent", "status", "field"),
    [
        ({"username": "LEAD"}, 409, "username"), ({"username": "two words"}, 422, "username"),
        ({"email": "nobody"}, 422, "email"), ({"role": "owner"}, 422, "role"), ({"first_name": " "}, 422, "first_name"),
        ({"licences": [{"kind": "steam"}]}, 422, "licences"), ({"password": "x"}, 422, "password"),
    ],
)  # fmt: skip
def test_what_no_account_can_have_is_told_at_its_field(as_role, sent, status, field):
    lead = as_role("lead")
    answer = lead.post("settings/people", {**NEW, **sent})
    assert answer.status_code == status
    assert any(field in name for name in answer.json()["fields"]), answer.json()
    assert User.objects.count() == len(Role)


def test_everybody_is_read_in_a_fixed_number_of_queries(as_role, people, django_assert_max_num_queries):
    client = as_role("lead")
    # The first request of all makes the company's row.
    client.get("me")
    for number in range(5):
        User.objects.create(username=f"more-{number}")
        with django_assert_max_num_queries(6):
            assert len(client.get("settings/people").json()) == len(people) + number + 1


def test_only_the_lead_keeps_accounts_and_one_lead_stays(as_role, people):
    lead = as_role("lead")
    for role in ("planner", "technician", "apprentice"):
        assert as_role(role).get("settings/people").status_code == 403
        assert as_role(role).post("settings/people", NEW).status_code == 403
    path = f"settings/people/{people['lead'].pk}"
    for change in ({"is_active": False}, {"role": "planner"}):
        assert lead.patch(path, change).json()["code"] == "people.last_lead"
    lead.patch(f"settings/people/{people['planner'].pk}", {"role": "lead"})
    assert lead.patch(path, {"role": "planner"}).status_code == 200


def test_an_account_at_rest_is_signed_out_and_gets_no_link(as_role, people):
    signed_in = as_role("technician")
    path = f"settings/people/{people['technician'].pk}"
    as_role("lead").patch(path, {"is_active": False})
    assert signed_in.get("me").status_code == 401
    assert as_role("lead").post(f"{path}/password-link").json()["code"] == "people.at_rest"


def test_everybody_changes_their_own_password_and_other_sessions_end(people):
    one = people["apprentice"]
    one.set_password(PASSWORD)
    one.save()
    here, elsewhere = Client(), Client()
    for client in (here, elsewhere):
        assert client.post("/sign-in", {"username": "apprentice", "password": PASSWORD}).status_code == 302

    def sent(now, new):
        return here.post("/api/me/password", {"now": now, "new": new}, content_type="application/json")

    assert sent("wrong", "nine copper elbows").json()["fields"] == {"now": "not the one you have now"}
    assert "too short" in sent(PASSWORD, "short").json()["fields"]["new"]
    assert sent(PASSWORD, "nine copper elbows").status_code == 204
    assert here.get("/api/me").status_code == 200 and elsewhere.get("/api/me").status_code == 401


def test_signing_in_is_no_change_and_no_history_knows_a_password(people):
    one = people["planner"]
    one.set_password(PASSWORD)
    one.save()
    rows = User.history.count()
    Client().post("/sign-in", {"username": "planner", "password": PASSWORD})
    assert User.history.count() == rows and User.objects.get(pk=one.pk).last_login is not None
    assert not {"password", "last_login"} & {field.name for field in User.history.model._meta.fields}


def test_who_forgot_is_sent_a_link_and_who_is_not_there_learns_nothing(people, settings):
    settings.MESSAGE_GATEWAY = "aquifer.outbox.gateway.SmtpGateway"
    settings.MAIL_FROM = "office@ours.example"
    User.objects.filter(username="planner").update(email="planner@ours.example")
    answers = [Client().post("/password-forgotten", {"name": name}) for name in ("planner", "nobody")]
    said = [re.sub(rb'nonce="[^"]*"', b"", one.content).split(b"csrf")[0] for one in answers]
    assert said[0] == said[1]
    for name in ("planner", "nobody", "PLANNER@ours.example", "lead", ""):
        tasks.send_password_link(name)
    assert [one.to for one in mail.outbox] == [["planner@ours.example"]] * 2
    path = re.search(r"http://127\.0\.0\.1:8000(/set-password/\S+)", mail.outbox[0].body)[1]
    assert Client().post(path, {"password": PASSWORD}).headers["Location"] == "/"
    # The second link of the same person is void as well.
    assert Client().get(re.search(r"(/set-password/\S+)", mail.outbox[1].body)[1]).status_code == 410


def test_without_a_gateway_the_page_says_whom_to_ask(db, settings):
    settings.MESSAGE_GATEWAY = ""
    page = Client().get("/password-forgotten").content.decode()
    assert "sends no mail" in page and "<form" not in page


def test_a_changed_account_is_on_record_and_taken_back(as_role, people):
    lead = as_role("lead")
    change = lead.patch(f"settings/people/{people['planner'].pk}", {"role": "technician"}).headers["X-Change"]
    told = lead.get("settings/history").json()[0]
    assert [(line["record"], line["named"], line["before"], line["after"]) for line in told["lines"]] == [
        ("account", "planner", "planner", "technician")
    ]
    assert timezone.datetime.fromisoformat(told["at"]).date() == timezone.now().date()
    lead.post(f"changes/{change}/undo")
    assert User.objects.get(username="planner").role == Role.PLANNER


def test_a_licence_that_has_ended_is_none_for_whoever_signs_in(as_role, people):
    people["technician"].licences, people["technician"].licence_ends = ["gas", "plumbing"], {"gas": "2020-01-01"}
    people["technician"].save()
    assert as_role("technician").get("me").json()["licences"] == ["plumbing"]


def test_the_last_day_of_a_licence_comes_along_to_another_installation():
    cell = held_words(["gas", "plumbing"], {"gas": "2027-03-31"})
    assert cell == "gas:2027-03-31 plumbing" and held_of(cell) == (["gas", "plumbing"], {"gas": "2027-03-31"})
    # As archives of before have it.
    assert held_of("gas plumbing") == (["gas", "plumbing"], {}) and held_of("") == ([], {})

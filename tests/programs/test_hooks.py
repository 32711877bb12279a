"""Other programs are told what happens: once, signed, until they have taken it."""

import base64
import datetime
import hashlib
import hmac
import json

import pytest
from django.utils import timezone

from aquifer.money.models import Quote
from aquifer.open_ends.models import OpenEnd
from aquifer.programs import send, tasks
from aquifer.programs.models import Delivery, Hook
from aquifer.rounds.models import Appointment
from tests.conftest import FLUSH, visit
from tests.served import elsewhere

EVERYTHING = ["visit.recorded", "appointment.promised", "quote.accepted", "open_issue.raised"]


def hook(client, address="https://books.example/in", kinds=EVERYTHING):
    answer = client.post("settings/hooks", {"address": address, "kinds": kinds})
    assert answer.status_code == 201, answer.content
    return answer.json()


def issue(base):
    today = timezone.localdate()
    return OpenEnd.objects.create(
        site=base["sites"][0], kind="to_ask", severity="defect", words="odd noise", raised_on=today
    )


def told():
    return [(one.kind, one.body) for one in Delivery.objects.order_by("pk")]


def test_a_visit_is_told_once_and_only_to_who_hears_of_visits(as_role, forecasted):
    lead, heater = as_role("lead"), forecasted["heaters"][0]
    hook(lead, kinds=["visit.recorded"])
    hook(lead, "https://other.example/in", ["quote.accepted"])
    body = visit(heater.pk, FLUSH)
    first = lead.post("visits", body).json()
    lead.post("visits", body)
    today = timezone.localdate().isoformat()
    assert told() == [("visit.recorded", {"visit_id": first["id"], "heater_id": heater.pk, "on": today})]


def test_a_promise_is_told_anew_when_its_time_changes_and_not_when_something_else_does(as_role, base):
    hook(as_role("lead"))
    one = Appointment.objects.create(site=base["sites"][0], week=datetime.date(2026, 11, 30), minutes=60)
    one.standing, one.on, one.earliest, one.latest = "promised", datetime.date(2026, 12, 1), 480, 570
    one.save()
    one.minutes = 90
    one.save()
    one.on = datetime.date(2026, 12, 2)
    one.save()
    assert [(kind, body["on"]) for kind, body in told()] == [
        ("appointment.promised", "2026-12-01"), ("appointment.promised", "2026-12-02"),
    ]  # fmt: skip


def test_an_accepted_quote_and_a_raised_issue_are_told(as_role, base):
    hook(as_role("lead"))
    heater = base["heaters"][0]
    quote = Quote.objects.create(heater=heater, what="relief_valve", raised_on=timezone.localdate())
    quote.state = "accepted"
    quote.save()
    quote.save()
    issue(base).save()
    assert [kind for kind, _ in told()] == ["quote.accepted", "open_issue.raised"]
    assert told()[1][1]["words"] == "odd noise"


def test_what_is_sent_is_signed_as_the_standard_says(as_role, base):
    with elsewhere() as there:
        secret = hook(as_role("lead"), there.address)["secret"]
        issue(base)
        assert (send.send_waiting(), send.send_waiting()) == (1, 0)
    (asked,) = there.asked
    headers = asked.headers
    one = Delivery.objects.get()
    signed = f"{headers['webhook-id']}.{headers['webhook-timestamp']}.".encode() + asked.body
    expected = base64.b64encode(
        hmac.new(base64.b64decode(secret.removeprefix("whsec_")), signed, hashlib.sha256).digest()
    ).decode()
    assert headers["webhook-signature"] == f"v1,{expected}" and headers["webhook-id"] == str(one.key)
    body = json.loads(asked.body)
    assert (body["type"], body["data"]["words"], one.state) == ("open_issue.raised", "odd noise", "taken")


def test_what_is_not_taken_is_tried_again_under_the_same_key_and_given_up_at_last(as_role, base):
    with elsewhere((500, b""), (302, b"http://127.0.0.1:1/"), (200, b"")) as there:
        hook(as_role("lead"), there.address)
        issue(base)
        now = timezone.now()
        assert send.send_waiting(now) == 0 and Delivery.objects.get().trouble == "it answered 500"
        assert send.send_waiting(now + datetime.timedelta(seconds=30)) == 0 and len(there.asked) == 1
        assert send.send_waiting(now + datetime.timedelta(minutes=2)) == 0
        assert Delivery.objects.get().trouble == "it answered 302"
        assert send.send_waiting(now + datetime.timedelta(hours=1)) == 1
    assert len({asked.headers["webhook-id"] for asked in there.asked}) == 1
    lost = Delivery.objects.create(hook=Hook.objects.get(), kind="tried", body={}, tries=send.MOST_TRIES - 1)
    send.send_one(lost.pk)
    lost.refresh_from_db()
    assert lost.state == "failed" and "does not answer" in lost.trouble


def test_an_address_is_tried_rested_and_sent_again(as_role, base):
    lead = as_role("lead")
    with elsewhere((503, b""), (200, b"")) as there:
        one = hook(lead, there.address)
        tried = lead.post(f"settings/hooks/{one['id']}/try").json()
        assert (tried["state"], tried["trouble"]) == ("waiting", "it answered 503")
        assert lead.post(f"settings/deliveries/{tried['id']}/again").json()["state"] == "taken"
        assert lead.post(f"settings/deliveries/{tried['id']}/again").status_code == 404
        lead.patch(f"settings/hooks/{one['id']}", {"active": False})
        issue(base)
    (listed,) = lead.get("settings/hooks").json()
    assert listed["active"] is False and [one["kind"] for one in listed["deliveries"]] == ["tried"]
    assert "secret" not in listed and one["secret"] not in json.dumps(lead.get("settings/history").json())


@pytest.mark.parametrize("address", ["books.example", "ftp://books.example/", "javascript:alert(1)", ""])
def test_what_is_no_address_is_refused(as_role, address):
    answer = as_role("lead").post("settings/hooks", {"address": address, "kinds": ["visit.recorded"]})
    assert answer.status_code == 422 and "address" in answer.json()["fields"]


def test_what_was_taken_long_ago_is_forgotten_and_what_was_not_is_kept(as_role, base):
    one = Hook.objects.create(address="https://books.example/in", kinds=EVERYTHING, secret="whsec_cw==")
    old = timezone.now() - datetime.timedelta(days=40)
    for state in ("taken", "failed"):
        Delivery.objects.create(hook=one, kind="tried", body={}, state=state, taken_at=old)
    tasks.forget(0)
    assert [one.state for one in Delivery.objects.all()] == ["failed"]


def test_only_the_lead_connects_programs(as_role):
    for role in ("planner", "technician", "apprentice"):
        client = as_role(role)
        assert {client.get(path).status_code for path in ("settings/hooks", "settings/tokens")} == {403}
        assert client.post("settings/hooks", {"address": "https://x.example", "kinds": EVERYTHING}).status_code == 403

"""Tokens: shown once, limited in time and in what they may, and dead with the account they act for."""

import datetime
import json

import pytest
from django.test import Client
from django.utils import timezone

from aquifer.accounts.models import Token
from aquifer.customers.models import Site

SOON = (timezone.localdate() + datetime.timedelta(days=90)).isoformat()


@pytest.fixture
def token(as_role, people):
    def made(role="planner", **parts):
        body = {"name": "The books", "owner_id": people[role].pk, "expires_on": SOON, **parts}
        answer = as_role("lead").post("settings/tokens", body)
        assert answer.status_code == 201, answer.content
        return answer.json()

    return made


def ask(words, path, body=None):
    # A browser that is signed in would send a cookie and a forgery token; a program sends neither.
    client, headers = Client(enforce_csrf_checks=True), {"Authorization": f"Bearer {words}"}
    if body is None:
        return client.get(f"/api/{path}", headers=headers)
    return client.post(f"/api/{path}", json.dumps(body), content_type="application/json", headers=headers)


def site(base):
    return {"name": "Quillan", "street": "3 Staithe Lane", "zone_id": base["zones"][0].pk}


def test_a_token_reads_in_its_owners_name_and_is_kept_as_a_digest_alone(as_role, token, base):
    made = token()
    assert ask(made["words"], "me").json()["username"] == "planner"
    kept = Token.objects.values().get()
    assert made["words"] not in str(kept) and kept["used_on"] == timezone.localdate()
    (listed,) = as_role("lead").get("settings/tokens").json()
    assert "words" not in listed and listed["begins"] == made["words"][:8]


def test_one_that_reads_writes_nothing_and_one_that_writes_is_named_in_the_history(token, base):
    refused = ask(token()["words"], "sites", site(base))
    assert refused.status_code == 403 and "it may only read" in refused.json()["message"]
    assert ask(token(may_write=True)["words"], "sites", site(base)).status_code == 201
    assert Site.history.get(name="Quillan").history_user.username == "planner"


def test_a_token_may_no_more_than_its_owners_role_and_makes_no_account_or_token(token, base, people):
    apprentice, lead = token("apprentice", may_write=True)["words"], token("lead", may_write=True)["words"]
    assert ask(apprentice, "sites", site(base)).status_code == 403
    person = {"username": "x", "first_name": "x", "role": "lead"}
    body = {"name": "more", "owner_id": people["lead"].pk, "expires_on": SOON}
    for path, sent in (
        ("settings/people", person),
        ("settings/tokens", body),
        ("me/password", {"now": "a", "new": "b"}),
    ):
        answer = ask(lead, path, sent)
        assert answer.status_code == 403 and "only a person" in answer.json()["message"]
    assert Token.objects.count() == 2


@pytest.mark.parametrize("ending", ["revoked", "expired", "owner at rest", "misspelt", "none"])
def test_a_token_that_is_over_opens_nothing(as_role, token, people, ending):
    made = token()
    words = made["words"]
    if ending == "revoked":
        assert as_role("lead").raw.delete(f"/api/settings/tokens/{made['id']}").status_code == 204
        assert as_role("lead").get("settings/tokens").json() == []
    elif ending == "expired":
        Token.objects.update(expires_on=timezone.localdate() - datetime.timedelta(days=1))
    elif ending == "owner at rest":
        people["planner"].is_active = False
        people["planner"].save()
    else:
        words = "" if ending == "none" else words[:-1]
    assert ask(words, "me").status_code == 401


@pytest.mark.parametrize("days", [0, -5, 400])
def test_a_token_is_good_for_a_year_at_most(as_role, people, days):
    on = (timezone.localdate() + datetime.timedelta(days=days)).isoformat()
    body = {"name": "x", "owner_id": people["planner"].pk, "expires_on": on}
    answer = as_role("lead").post("settings/tokens", body)
    assert answer.status_code == 422 and "expires_on" in answer.json()["fields"]

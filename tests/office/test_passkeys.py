"""Keys in place of a password, with a device in software that makes and uses them as the standard says."""

import hashlib
import json
import struct

import cbor2
import pytest
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.asymmetric import ec
from django.test import Client
from webauthn.helpers import base64url_to_bytes, bytes_to_base64url

from aquifer.accounts.models import Deed, Noted, Passkey
from aquifer.office import passkeys
from tests.conftest import JsonClient

PASSWORD = "four plain words here"
HERE = "http://aquifer.test"
PRESENT, VERIFIED, HAS_KEY = 0x01, 0x04, 0x40


class Telephone:
    """Keeps a key, and says what it is told to. Source: Web Authentication, level 2, sections 6.1 and 6.5."""

    def __init__(self, site: str = "aquifer.test", origin: str = HERE) -> None:
        self.site, self.origin, self.count, self.flags = site, origin, 0, PRESENT | VERIFIED
        self.id = hashlib.sha256(str(id(self)).encode()).digest()
        self.key = ec.generate_private_key(ec.SECP256R1())

    def _said(self, kind: str, challenge: str) -> bytes:
        return json.dumps({"type": kind, "challenge": challenge, "origin": self.origin, "crossOrigin": False}).encode()

    def _about(self, more: bytes = b"", flags: int = 0) -> bytes:
        self.count += 1
        return hashlib.sha256(self.site.encode()).digest() + struct.pack(">BI", self.flags | flags, self.count) + more

    def makes(self, challenge: str) -> dict:
        at = self.key.public_key().public_numbers()
        cose = cbor2.dumps({1: 2, 3: -7, -1: 1, -2: at.x.to_bytes(32, "big"), -3: at.y.to_bytes(32, "big")})
        about = self._about(bytes(16) + struct.pack(">H", len(self.id)) + self.id + cose, HAS_KEY)
        attested = cbor2.dumps({"fmt": "none", "attStmt": {}, "authData": about})
        return self._told({"clientDataJSON": self._said("webauthn.create", challenge), "attestationObject": attested})

    def uses(self, challenge: str) -> dict:
        said, about = self._said("webauthn.get", challenge), self._about()
        signature = self.key.sign(about + hashlib.sha256(said).digest(), ec.ECDSA(hashes.SHA256()))
        return self._told({"clientDataJSON": said, "authenticatorData": about, "signature": signature})

    def _told(self, response: dict[str, bytes]) -> dict:
        told = {name: bytes_to_base64url(value) for name, value in response.items()}
        of = bytes_to_base64url(self.id)
        return {"id": of, "rawId": of, "type": "public-key", "response": told, "clientExtensionResults": {}}


@pytest.fixture(autouse=True)
def named(settings):
    settings.ALLOWED_HOSTS = ["aquifer.test", "other.test", "127.0.0.1"]


@pytest.fixture
def planner(people):
    people["planner"].set_password(PASSWORD)
    people["planner"].save()
    return people["planner"]


@pytest.fixture
def here(planner):
    client = Client(HTTP_HOST="aquifer.test")
    client.force_login(planner, backend="django.contrib.auth.backends.ModelBackend")
    return JsonClient(client)


def added(here, phone, name="my phone"):
    asked = here.post("me/passkeys/begin", {"now": PASSWORD})
    assert asked.status_code == 200, asked.json()
    return here.post("me/passkeys", {"name": name, "credential": phone.makes(asked.json()["challenge"])})


def comes(phone, host="aquifer.test", then="", answer=None, client=None):
    client = client or Client(HTTP_HOST=host)
    asked = client.post("/passkey/begin").json()
    answered = answer or json.dumps(phone.uses(asked["challenge"]))
    return client, client.post("/passkey", {"answered": answered, "next": then})


def test_a_key_lets_its_person_in_without_a_password(here, planner):
    phone = Telephone()
    made = added(here, phone)
    assert made.status_code == 201 and made.json()["name"] == "my phone"
    client, answer = comes(phone, then="/rounds")
    assert answer.status_code == 302 and answer["Location"] == "/rounds"
    assert JsonClient(client).get("me").json()["username"] == "planner"
    (key,) = here.get("me/account").json()["passkeys"]
    assert key["used_at"] and here.get("me/account").json()["passkeys_offered"]
    assert set(Noted.objects.values_list("deed", flat=True)) == {Deed.ADDED_PASSKEY, Deed.SIGNED_IN}
    # Whoever wrote the link sends nobody elsewhere.
    assert comes(phone, then="https://elsewhere.example/")[1]["Location"] == "/"


def test_a_second_step_is_not_asked_of_a_key_that_was_opened_by_a_finger(here, planner, monkeypatch):
    phone = Telephone()
    added(here, phone)
    monkeypatch.setattr("aquifer.office.second_step.is_on", lambda person: True)
    assert comes(phone)[1]["Location"] == "/"


def refused(answer) -> bool:
    return answer.status_code == 422 and b"lets nobody in" in answer.content


def test_what_is_no_right_answer_lets_nobody_in_and_is_noted(here, planner):
    phone, stranger = Telephone(), Telephone()
    added(here, phone)
    stranger.id = phone.id
    assert refused(comes(stranger)[1]), "another key under its id"
    for attribute, value in (("site", "other.test"), ("origin", "http://other.test"), ("flags", PRESENT)):
        wrong = Telephone()
        wrong.id, wrong.key, wrong.count = phone.id, phone.key, 50
        setattr(wrong, attribute, value)
        assert refused(comes(wrong)[1]), attribute
    for answer in ("", "[]", "{}", "no json", "null", json.dumps({"id": bytes_to_base64url(phone.id)})):
        assert refused(comes(phone, answer=answer or " ")[1]), answer
    assert comes(phone)[1].status_code == 302
    assert Noted.objects.filter(deed=Deed.NOT_SIGNED_IN).count() == 10


def test_what_was_answered_once_or_is_of_a_copy_is_good_for_nothing(here, planner):
    phone = Telephone()
    added(here, phone)
    client = Client(HTTP_HOST="aquifer.test")
    asked = client.post("/passkey/begin").json()
    answered = json.dumps(phone.uses(asked["challenge"]))
    assert client.post("/passkey", {"answered": answered}).status_code == 302
    assert refused(Client(HTTP_HOST="aquifer.test").post("/passkey", {"answered": answered}))
    assert refused(client.post("/passkey", {"answered": answered}))
    phone.count = 0
    assert refused(comes(phone)[1]), "its count went back: it was copied"


def test_what_was_asked_long_ago_is_asked_anew(here, planner, monkeypatch):
    phone = Telephone()
    added(here, phone)
    client = Client(HTTP_HOST="aquifer.test")
    asked = client.post("/passkey/begin").json()
    now = passkeys.time.time()
    monkeypatch.setattr(passkeys.time, "time", lambda: now + passkeys.GOOD_S + 1)
    assert refused(client.post("/passkey", {"answered": json.dumps(phone.uses(asked["challenge"]))}))


def test_a_key_of_somebody_at_rest_and_one_taken_away_let_nobody_in(here, planner):
    phone = Telephone()
    made = added(here, phone).json()
    planner.is_active = False
    planner.save()
    assert refused(comes(phone)[1])
    planner.is_active = True
    planner.save()
    assert comes(phone)[1].status_code == 302
    assert here.raw.delete(f"/api/me/passkeys/{made['id']}").status_code in (204, 401)
    Client(HTTP_HOST="aquifer.test")
    Passkey.objects.all().delete()
    assert refused(comes(phone)[1])


def test_nobody_adds_a_key_without_the_password_or_takes_anothers_away(here, planner, people, as_role):
    wrong = here.post("me/passkeys/begin", {"now": "a guess of mine"})
    assert wrong.status_code == 422 and wrong.json()["fields"] == {"now": "not the one you have now"}
    phone = Telephone()
    asked = {"name": "x", "credential": phone.makes(bytes_to_base64url(b"never asked"))}
    assert here.post("me/passkeys", asked).status_code == 422 and not Passkey.objects.exists()
    made = added(here, phone).json()
    assert as_role("lead").raw.delete(f"/api/me/passkeys/{made['id']}", HTTP_HOST="127.0.0.1").status_code == 404
    assert added(here, phone).status_code == 422, "the same once more"
    assert here.raw.delete(f"/api/me/passkeys/{made['id']}").status_code == 204 and not Passkey.objects.exists()


def test_only_so_many_are_kept(here, planner, monkeypatch):
    monkeypatch.setattr(passkeys, "MOST", 1)
    added(here, Telephone())
    assert here.post("me/passkeys/begin", {"now": PASSWORD}).json()["code"] == "passkey.too_many"


def test_where_it_is_asked_by_an_address_none_is_offered(here, planner):
    assert here.raw.get("/api/me/account", HTTP_HOST="127.0.0.1:8000").json()["passkeys_offered"] is False
    answer = here.raw.post("/api/me/passkeys/begin", json.dumps({"now": PASSWORD}), content_type="application/json",
                           HTTP_HOST="127.0.0.1:8000")  # fmt: skip
    assert answer.status_code == 409 and "open Aquifer by its name" in answer.json()["message"]
    assert b"passkey.js" not in Client(HTTP_HOST="127.0.0.1").get("/sign-in").content
    assert b"passkey.js" in Client(HTTP_HOST="aquifer.test").get("/sign-in").content


def test_a_key_of_another_of_our_names_is_not_one_here(here, planner):
    phone = Telephone()
    added(here, phone)
    assert refused(comes(phone, host="other.test")[1])
    assert base64url_to_bytes(Passkey.objects.get().credential) == phone.id

"""Who comes from where, and how much is taken from whom."""

import pytest
from django.core.files.uploadhandler import TemporaryFileUploadHandler
from django.test import Client, RequestFactory

from aquifer.accounts import door, tokens
from aquifer.attachments import keep
from aquifer.formats.sheet import MOST_BYTES
from aquifer.office import logo

PASSWORD = "a-long-one-for-tests"


@pytest.mark.parametrize(
    ("proxies", "forwarded", "address"),
    [
        ([], "198.51.100.7", "10.0.0.1"),
        (["10.0.0.1"], "198.51.100.7", "198.51.100.7"),
        (["10.0.0.0/8"], "198.51.100.7, 10.9.9.9", "198.51.100.7"),
        # What somebody wrote in front of what our proxy appended is not believed.
        (["10.0.0.1"], "127.0.0.1, 198.51.100.7", "198.51.100.7"),
        (["10.0.0.1"], "", "10.0.0.1"),
        (["192.0.2.1"], "198.51.100.7", "10.0.0.1"),
        (["10.0.0.1"], "nonsense", "nonsense"),
    ],
)
def test_an_address_is_believed_of_named_proxies_alone(settings, proxies, forwarded, address):
    settings.PROXIES = proxies
    seen = []
    request = RequestFactory().get("/", REMOTE_ADDR="10.0.0.1", HTTP_X_FORWARDED_FOR=forwarded)
    door.real_address(lambda asked: seen.append(asked.META["REMOTE_ADDR"]))(request)
    assert seen == [address]


@pytest.fixture
def nothing_on_disk(monkeypatch):
    """Fails where a file that was sent is begun to be kept."""

    def kept(*_: object, **__: object) -> None:
        raise AssertionError("it was read")

    monkeypatch.setattr(TemporaryFileUploadHandler, "new_file", kept)


def upload(client: Client, size: int, **headers: str):
    file = {"file": ("list.csv", b"x" * size), "kind": "list"}
    from io import BytesIO

    body = BytesIO(file["file"][1])
    body.name = "list.csv"
    return client.post("/api/imports", {"kind": "list", "file": body}, **headers)


@pytest.mark.parametrize("headers", [{}, {"HTTP_AUTHORIZATION": "Bearer aqf_no-such"}, {"HTTP_COOKIE": "sessionid=no"}])
def test_a_large_body_of_nobody_is_refused_unread(client, db, nothing_on_disk, headers):
    answer = upload(client, 3 * 1024 * 1024, **headers)
    assert answer.status_code == 401 and answer.json()["code"] == "signed_out"
    assert answer["Connection"] == "close"


def test_nobody_takes_more_than_the_largest_file(as_role, nothing_on_disk):
    raw = as_role("planner").raw
    answer = raw.generic("POST", "/api/imports", b"x", CONTENT_LENGTH=str(door.MOST + 1))
    assert answer.status_code == 413 and "at most 36 MB" in answer.json()["message"]
    assert max(MOST_BYTES, keep.MOST_BYTES, logo.MOST_BYTES) + 1024 * 1024 < door.MOST


def test_a_body_of_unsaid_length_is_refused(client, db):
    assert client.post("/api/visits", HTTP_TRANSFER_ENCODING="chunked").status_code == 411


def test_who_is_somebody_sends_a_list_by_session_or_token(as_role, people, client):
    assert upload(as_role("planner").raw, 100 * 1024).status_code == 201
    import datetime

    _, words = tokens.make(people["planner"], "office", True, datetime.date.today())
    assert upload(client, 100 * 1024, HTTP_AUTHORIZATION=f"Bearer {words}").status_code == 201


@pytest.fixture
def signs_in(people):
    people["planner"].set_password(PASSWORD)
    people["planner"].save()

    def sign_in(name: str, password: str, address: str) -> int:
        body = {"username": name, "password": password}
        return Client().post("/sign-in", body, REMOTE_ADDR=address).status_code

    return sign_in


def test_one_password_on_many_names_closes_the_door_to_that_address_alone(signs_in, people):
    name = people["planner"].username
    tried = [signs_in(f"somebody-{number}", "spring-2026-x", "198.51.100.7") for number in range(door.MOST_NAMES)]
    assert set(tried) == {200}
    assert signs_in(name, PASSWORD, "198.51.100.7") == 429
    assert signs_in(name, PASSWORD, "198.51.100.8") == 302


def test_an_attacker_is_locked_out_and_not_the_owner(signs_in, people, settings):
    name = people["planner"].username
    tried = [signs_in(name, "guess-guess-1", "198.51.100.7") for _ in range(settings.AXES_FAILURE_LIMIT + 1)]
    assert tried[-1] == 429
    assert signs_in(name, PASSWORD, "203.0.113.5") == 302

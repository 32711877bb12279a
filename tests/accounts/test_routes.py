"""Every route asked by every role, by nobody and by tokens, against a table that is written out."""

import datetime
import json
from pathlib import Path

import pytest
from django.test import Client

from aquifer.accounts import tokens
from tests.described import description

ROLES = ("lead", "planner", "technician", "apprentice")
LINES = [line.split() for line in (Path(__file__).parent / "routes.txt").read_text().splitlines()[1:]]
TABLE = {(method, path): {role for role, letter in zip(ROLES, who, strict=True) if letter != "-"}
         for who, method, path in LINES}  # fmt: skip
DESCRIBED = {
    (method.upper(), path.removeprefix("/api")): operation
    for path, operations in description()["paths"].items()
    for method, operation in operations.items()
}
WITHOUT_TOKEN = (
    "/base-files", "/settings/people", "/settings/tokens", "/settings/hooks", "/settings/noted", "/settings/jobs",
    "/me/", "/customers/{customer_id}/data.zip", "/customers/{customer_id}/forget", "/bench/people",
    "/bench/written",
)  # fmt: skip
"""What a person alone does, whatever a token may: accounts, tokens, and taking everything out."""


def address(path: str, operation: dict) -> str:
    """The route of something that there is not, with whatever its query needs."""
    query = {}
    for one in operation.get("parameters", []):
        schema = one["schema"]
        if "$ref" in schema:
            schema = description()["components"]["schemas"][schema["$ref"].rpartition("/")[2]]
        if one["in"] == "path":
            path = path.replace("{" + one["name"] + "}", example(schema))
        elif one.get("required"):
            query[one["name"]] = example(schema)
    return "/api" + path + ("?" + "&".join(f"{name}={value}" for name, value in query.items()) if query else "")


def example(schema: dict) -> str:
    if schema.get("enum"):
        return str(schema["enum"][0])
    made = {"date": "2031-01-01", "uuid": "00000000-0000-4000-8000-000000000000"}.get(schema.get("format", ""))
    return made or ("999999999" if schema["type"] in ("integer", "number") else "0123456789ab")


def asked(client: Client, method: str, path: str, **headers: str) -> int:
    body = {} if method == "GET" else {"data": json.dumps({}), "content_type": "application/json"}
    return client.generic(method, address(path, DESCRIBED[method, path]), **body, **headers).status_code


def test_the_table_has_every_route_and_no_other():
    assert set(TABLE) == set(DESCRIBED)


@pytest.mark.parametrize("role", ROLES)
def test_a_role_may_ask_what_the_table_says_and_nothing_else(as_role, role):
    client = as_role(role).raw
    wrong = {}
    for (method, path), may in TABLE.items():
        # Signing in anew: a route may end the session.
        status = asked(client, method, path)
        if (status == 403) is (role in may) or status in (401, 500):
            wrong[method, path] = status
    assert wrong == {}


def test_nobody_may_ask_anything(db):
    client = Client()
    assert {route: status for route in TABLE if (status := asked(client, *route)) != 401} == {}


@pytest.mark.parametrize("may_write", [True, False])
def test_a_token_may_what_its_owner_may_but_neither_accounts_nor_more_tokens(people, may_write):
    _, words = tokens.make(people["lead"], "the books", may_write, datetime.date.today())
    client, wrong = Client(), {}
    for method, path in TABLE:
        is_refused = asked(client, method, path, HTTP_AUTHORIZATION=f"Bearer {words}") == 403
        is_a_persons = any(path.startswith(one) for one in WITHOUT_TOKEN) or path == "/changes/{change}/undo"
        is_a_persons |= path.startswith("/settings/deliveries")
        # Who may do what alone is read by programs, and said by a person.
        is_a_persons |= path.startswith("/bench/signed-off") and method != "GET"
        if is_refused is not (is_a_persons or (method != "GET" and not may_write)):
            wrong[method, path] = is_refused
    assert wrong == {}


def test_who_has_no_right_to_a_change_does_not_take_it_back_by_its_history(as_role, base):
    """Ownership: the right is the change's, not the route's."""
    moved = as_role("lead").patch("settings/company", {"phone": "555-0100"})
    change = moved.headers["X-Change"]
    assert as_role("planner").post(f"changes/{change}/undo", {}).status_code == 403
    kept = as_role("planner").post("views", {"place": "register", "name": "mine", "query": "q=x"}).json()
    assert as_role("lead").raw.delete(f"/api/views/{kept['id']}").status_code == 404

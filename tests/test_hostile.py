"""Ten thousand hostile requests: every field of every route is told what no field can be, one after the other. In a
check that somebody waits for, each ninth of them."""

import datetime
import json
import uuid

import pytest
from django.db import transaction

from tests.conftest import LONG
from tests.described import description

DESCRIBED = description()
SCHEMAS = DESCRIBED["components"]["schemas"]
HOSTILE = (
    None, True, -1, 2**63, 1e308, "", "\x00", "\ud800", "x" * 20_000, "2026-02-30", "9999-12-31",
    "0001-01-01T00:00:00Z",
    [], [None], {}, {"x": {"y": []}},
)  # fmt: skip
WHOLE = (b"", b"{", b"[]", b"null", b"7", b'"\xff"', b'{"a": 1}', b"[" * 2000, b'{"n": NaN}', b"1" * 5000)
MOST_5XX = 500
SHORT = 9
"""One in so many, where somebody waits."""


def resolved(schema):
    while "$ref" in schema:
        schema = SCHEMAS[schema["$ref"].rpartition("/")[2]]
    return schema


def usual(schema):
    """A value that a schema allows, as short as can be."""
    schema = resolved(schema)
    if "enum" in schema or "const" in schema:
        return schema.get("const", schema.get("enum", [None])[0])
    for several in ("anyOf", "oneOf"):
        if several in schema:
            return usual(schema[several][0])
    if "allOf" in schema:
        return usual(schema["allOf"][0])
    match schema.get("type"):
        case "object":
            own = schema.get("properties", {})
            return {name: usual(own[name]) for name in schema.get("required", []) if name in own}
        case "array":
            return [usual(schema.get("items", {}))] * schema.get("minItems", 0)
        case "integer" | "number":
            return schema.get("minimum", 1)
        case "boolean":
            return False
    return {
        "date": datetime.date.today().isoformat(), "date-time": "2026-11-24T10:00:00Z", "uuid": str(uuid.uuid4()),
    }.get(schema.get("format", ""), "a" * max(schema.get("minLength", 1), 1))  # fmt: skip


def bodies(operation):
    """The bodies of an operation: a usual one, and that with each of its fields made hostile in turn."""
    content = operation.get("requestBody", {}).get("content", {}).get("application/json")
    if content is None:
        return []
    schema, plain = resolved(content["schema"]), usual(content["schema"])
    told = [json.dumps(plain).encode(), *WHOLE]
    for name in schema.get("properties", {}):
        told += [json.dumps({**plain, name: value}).encode() for value in HOSTILE]
    return told


def questions(path, operation):
    """Addresses of an operation: a usual one, and that with each of its parameters made hostile in turn."""
    given = {one["name"]: usual(one["schema"]) for one in operation.get("parameters", []) if one["in"] == "path"}
    asked = {one["name"]: usual(one["schema"]) for one in operation.get("parameters", [])
             if one["in"] == "query" and one.get("required")}  # fmt: skip
    yield path.format(**given), asked
    for one in operation.get("parameters", []):
        for value in HOSTILE:
            told = value if isinstance(value, str) else json.dumps(value)
            if one["in"] == "query":
                yield path.format(**given), {**asked, one["name"]: told.encode("utf-8", "replace").decode()}
            elif told and "/" not in told and len(told) < 200:
                yield path.format(**{**given, one["name"]: told.encode("utf-8", "replace").decode()}), asked


def operations():
    for path, methods in DESCRIBED["paths"].items():
        for method, operation in methods.items():
            yield path, method.upper(), operation


ROOMS = sorted({path.split("/")[2] for path, _, _ in operations()})


@pytest.mark.parametrize("room", ROOMS)
def test_no_hostile_request_breaks_a_route(as_role, forecasted, room):
    client = as_role("lead").raw
    client.raise_request_exception = False
    broken, sent = [], 0
    for path, method, operation in operations():
        if path.split("/")[2] != room:
            continue
        usual_body, *hostile = bodies(operation) or [b""]
        asked = [(where, query, usual_body) for where, query in questions(path, operation)]
        asked += [(*next(questions(path, operation)), body) for body in hostile]
        for where, query, body in asked if LONG else [asked[0], *asked[1 + len(path) % SHORT :: SHORT]]:
            sent += 1
            # What it did is taken back: the next request finds the base as it was, and its sender signed in.
            with transaction.atomic():
                answer = client.generic(method, where, data=body, content_type="application/json", query_params=query)
                transaction.set_rollback(True)
            if answer.status_code >= MOST_5XX:
                broken.append((method, where[:80], str(query)[:80], body[:120], answer.content[:200]))
            elif answer.status_code >= 400 and "json" in answer.headers.get("Content-Type", ""):
                told = answer.json()
                assert told["message"] and "fields" in told, (method, where, told)
    assert not broken and sent, broken[:5]


def test_they_are_ten_thousand():
    number = sum(len(bodies(operation)) + len(list(questions(path, operation))) for path, _, operation in operations())
    assert number >= 10_000

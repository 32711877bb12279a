"""Days at the ends of the calendar, wherever a day is taken: told what is wrong, never a fault of the server."""

import json
import re

import pytest

from aquifer.customers.models import Customer, Site
from aquifer.heaters.models import Heater
from aquifer.water.models import Zone
from tests.described import description

SCHEMA = description()
ROUTES = [
    (method.upper(), path, operation)
    for path, operations in SCHEMA["paths"].items()
    for method, operation in operations.items()
]
ENDS = ("0001-01-01", "9999-12-31")


def resolved(schema: dict) -> dict:
    if "$ref" in schema:
        return SCHEMA["components"]["schemas"][schema["$ref"].rpartition("/")[2]]
    of = [one for one in schema.get("anyOf", []) if one.get("type") != "null"]
    return resolved(of[0]) if of else schema


def example(schema: dict, day: str, depth: int = 0):
    """Something that fits a schema, its days at the end of the calendar and everything optional filled in."""
    schema = resolved(schema)
    if "enum" in schema:
        return schema["enum"][0]
    if "const" in schema:
        return schema["const"]
    match schema.get("type"):
        case "object":
            needed = schema.get("required", [])
            every = schema.get("properties", {})
            return {
                name: example(one, day, depth + 1)
                for name, one in every.items()
                if name in needed or has_day(one, depth)
            }
        case "array":
            return [example(schema["items"], day, depth + 1)] if schema.get("items") else []
        case "string":
            form = schema.get("format", "")
            if form in ("date", "date-time"):
                return day if form == "date" else f"{day}T00:00:00Z"
            return "00000000-0000-4000-8000-000000000000" if form == "uuid" else "x" * schema.get("minLength", 1)
        case "integer" | "number":
            return max(schema.get("minimum", 1), schema.get("exclusiveMinimum", 0) + 1, 1)
        case "boolean":
            return False
    return {}


def has_day(schema: dict, depth: int = 0) -> bool:
    if depth > 4:
        return False
    schema = resolved(schema)
    if schema.get("format") in ("date", "date-time"):
        return True
    return any(has_day(one, depth + 1) for one in schema.get("properties", {}).values()) or (
        "items" in schema and has_day(schema["items"], depth + 1)
    )


def takes_days(operation: dict) -> bool:
    body = operation.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema", {})
    return any(has_day(one["schema"]) for one in operation.get("parameters", [])) or has_day(body)


TAKES = [(method, path) for method, path, operation in ROUTES if takes_days(operation)]


@pytest.mark.parametrize("day", ENDS)
def test_the_ends_of_the_calendar_are_no_fault_of_the_server(as_role, forecasted, day):
    assert len(TAKES) > 25
    client = as_role("lead").raw
    client.raise_request_exception = False
    ids = {
        "heater_id": Heater.objects.first().pk, "site_id": Site.objects.first().pk, "zone_id": Zone.objects.first().pk,
        "customer_id": Customer.objects.first().pk,
    }  # fmt: skip
    failed = {}
    for method, path, operation in ROUTES:
        if (method, path) not in TAKES:
            continue
        query = []
        for one in operation.get("parameters", []):
            value = ids.get(one["name"]) or example(one["schema"], day)
            if one["in"] == "path":
                path = path.replace("{" + one["name"] + "}", str(value))
            elif one.get("required") or has_day(one["schema"]):
                query.append(f"{one['name']}={value}")
        content = operation.get("requestBody", {}).get("content", {}).get("application/json")
        body = example(content["schema"], day) if content else {}
        body = {**body, **{name: pk for name, pk in ids.items() if name in body}}
        sent = {} if method == "GET" else {"data": json.dumps(body), "content_type": "application/json"}
        status = client.generic(method, f"{path}?{'&'.join(query)}", **sent).status_code
        if status >= 500:
            failed[re.sub(r"^/api", method + " ", path)] = status
    assert failed == {}

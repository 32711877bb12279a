"""Bad input on any route is told, never a breakdown: requests drawn from the API's own description, and worse."""

import json

import pytest
import schemathesis
from hypothesis import HealthCheck, settings
from schemathesis import GenerationMode

from tests.conftest import JsonClient, examples
from tests.described import description

schema = schemathesis.openapi.from_dict(description())
schema.config.generation.update(modes=[GenerationMode.POSITIVE, GenerationMode.NEGATIVE])


@pytest.fixture
def lead(as_role, forecasted) -> JsonClient:
    client = as_role("lead")
    client.raw.raise_request_exception = False
    return client


@schema.parametrize()
@settings(max_examples=examples(2, of_long=100), suppress_health_check=list(HealthCheck))
def test_no_request_breaks_a_route(case, lead):
    request = case.as_transport_kwargs(base_url="http://testserver")
    path = request["url"].removeprefix("http://testserver")
    query = request.get("params") or {}
    common = {"query_params": {key: value for key, value in query.items() if value is not None}}
    if case.method == "GET":
        answer = lead.raw.get(path, **common)
    else:
        body = request.get("json", request.get("data"))
        answer = lead.raw.generic(
            case.method,
            path,
            data=json.dumps(body, default=str),
            content_type="application/json",
            **common,
        )
    assert answer.status_code < 500, answer.content[:500]
    if answer.status_code >= 400 and path.startswith("/api/"):
        assert answer.json()["message"] and "fields" in answer.json()

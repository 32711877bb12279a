"""Where the time goes is told to who asks for it, and nothing of a customer with it."""

import pytest
from django.db import connection
from opentelemetry.sdk.trace.export import SimpleSpanProcessor
from opentelemetry.sdk.trace.export.in_memory_span_exporter import InMemorySpanExporter

from aquifer import traces
from tests.served import elsewhere


@pytest.fixture
def told():
    spans = InMemorySpanExporter()
    traces.begin("tried", "", SimpleSpanProcessor(spans))
    # Its queries are told of connections that were opened since.
    connection.close()
    yield spans
    traces.end()


@pytest.mark.django_db(transaction=True)
def test_a_request_and_its_queries_are_told_without_what_was_asked(told, base, people):
    from django.contrib.auth import get_user_model
    from django.test import Client

    client = Client()
    client.force_login(get_user_model().objects.get(username="planner"),
                       backend="django.contrib.auth.backends.ModelBackend")  # fmt: skip
    told.clear()
    answer = client.get("/api/find", {"q": "Marram Quillfeather"})
    assert answer.status_code == 200
    spans = told.get_finished_spans()
    request = next(one for one in spans if one.attributes.get("aquifer.request"))
    assert request.attributes["aquifer.request"] == answer["X-Request-Id"]
    queries = [one for one in spans if one.parent and one.parent.span_id == request.context.span_id]
    assert queries and any("SELECT" in str(one.attributes) for one in queries)
    assert "Quillfeather" not in str([(one.name, dict(one.attributes)) for one in spans])


@pytest.mark.django_db(transaction=True)
def test_a_link_that_lets_its_holder_in_is_not_told(told, client):
    client.get("/answer/a-secret-that-opens")
    assert told.get_finished_spans()
    assert "a-secret" not in str([(one.name, dict(one.attributes)) for one in told.get_finished_spans()])


def test_it_is_sent_to_the_address_that_is_named(db, client):
    with elsewhere((200, b"")) as there:
        provider = traces.begin("tried", there.address)
        try:
            client.get("/healthz")
            provider.force_flush(5000)
        finally:
            traces.end()
            provider.shutdown()
    assert {(one.method, one.path) for one in there.asked} == {("POST", "/v1/traces")}
    assert any(b"tried" in one.body for one in there.asked)

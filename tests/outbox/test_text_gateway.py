"""Texts by an HTTP gateway, as one on this machine takes, refuses and fails to take them."""

import json
import uuid

import pytest
from django.core import mail

from aquifer.customers.models import Customer
from aquifer.outbox import write
from aquifer.outbox.gateway import Delivery, HttpGateway, OutOfReach, Refused, gateway
from aquifer.outbox.models import Contact, Way
from tests.served import elsewhere

KEYS = [uuid.UUID(int=n) for n in range(1, 4)]


@pytest.fixture
def there(settings):
    with elsewhere() as found:
        settings.MESSAGE_GATEWAY = "aquifer.outbox.gateway.HttpGateway"
        settings.TEXT_GATEWAY, settings.TEXT_TOKEN = f"{found.address}/texts", "secret"
        yield found


def test_a_text_goes_under_its_key_and_mail_still_by_the_mail_server(there, settings):
    settings.MAIL_FROM = "office@ours.example"
    gateway().send(KEYS[0], "555-0101", "Subject", "We come on Tuesday.")
    gateway().send(KEYS[1], "bakery@example.com", "Subject", "We come on Tuesday.")
    (asked,) = there.asked
    assert (asked.path, asked.headers["authorization"]) == ("/texts", "Bearer secret")
    assert json.loads(asked.body) == {"id": str(KEYS[0]), "to": "555-0101", "text": "We come on Tuesday."}
    assert [one.to for one in mail.outbox] == [["bakery@example.com"]]


@pytest.mark.parametrize(("status", "raised"), [(422, Refused), (404, Refused), (429, OutOfReach), (401, OutOfReach),
                                                (500, OutOfReach)])  # fmt: skip
def test_what_is_refused_for_good_and_what_is_tried_again(there, status, raised):
    there.answers = [(status, b"")]
    with pytest.raises(raised, match=str(status)):
        HttpGateway().send(KEYS[0], "555-0101", "", "x")


def test_it_tells_only_what_it_knows_of(there):
    there.answers = [(200, json.dumps({str(KEYS[0]): "delivered", str(KEYS[1]): "failed", "other": "x"}).encode())]
    assert HttpGateway().became(KEYS) == {KEYS[0]: Delivery.DELIVERED, KEYS[1]: Delivery.FAILED}
    for nonsense in (b"<html>", b"[]"):
        there.answers = [(200, nonsense)]
        with pytest.raises(OutOfReach):
            HttpGateway().became(KEYS)


def test_one_that_is_not_there_is_asked_again(settings):
    settings.TEXT_GATEWAY = "http://127.0.0.1:1/"
    with pytest.raises(OutOfReach):
        HttpGateway().send(KEYS[0], "555-0101", "", "x")


@pytest.mark.parametrize(("name", "way"), [("Http", Way.TEXT), ("Simulated", Way.TEXT), ("Smtp", Way.CALL)])
def test_who_wants_texts_is_called_where_none_are_sent(db, settings, name, way):
    settings.MESSAGE_GATEWAY = f"aquifer.outbox.gateway.{name}Gateway"
    one = Customer.objects.create(code="C9", name="Marram", phone="555-0101")
    Contact.objects.create(customer=one, way=Way.TEXT)
    assert write.reached_by(one) == (way, "555-0101")

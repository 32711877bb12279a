"""The interface of a message gateway, and the simulated one that ships.

A gateway takes a message under a key and takes it once: the same key again is answered like the first time. It may be
out of reach, it may refuse an address for good, and it tells later what became of a message.
"""

import json
import uuid
from enum import StrEnum
from http.client import HTTPException
from smtplib import SMTPException, SMTPRecipientsRefused
from typing import Protocol
from urllib.error import HTTPError
from urllib.parse import urlencode
from urllib.request import Request, urlopen

from django.conf import settings
from django.core.exceptions import ImproperlyConfigured
from django.core.mail import EmailMessage
from django.utils.module_loading import import_string

from aquifer.outbox.models import SimulatedDelivery


class OutOfReach(Exception):
    """The gateway does not answer, or only says that it is busy: try again."""


class Refused(Exception):
    """The gateway will never deliver this; the message says why."""


class Delivery(StrEnum):
    UNDER_WAY = "under_way"
    DELIVERED = "delivered"
    FAILED = "failed"


class Gateway(Protocol):
    """What a message gateway can do."""

    def send(self, key: uuid.UUID, address: str, subject: str, body: str) -> None:
        """Take a message. Raises: OutOfReach, Refused."""

    def became(self, keys: list[uuid.UUID]) -> dict[uuid.UUID, Delivery]:
        """What became of messages that were taken. Raises: OutOfReach."""


class SimulatedGateway:
    """Delivers at the second asking; an address with "bounce" in it fails, one with "refuse" is refused."""

    def send(self, key: uuid.UUID, address: str, subject: str, body: str) -> None:
        if "refuse" in address:
            raise Refused("the address does not exist")
        SimulatedDelivery.objects.get_or_create(key=key, defaults={"address": address, "body": body})

    def became(self, keys: list[uuid.UUID]) -> dict[uuid.UUID, Delivery]:
        found = {}
        for simulated_delivery in SimulatedDelivery.objects.filter(key__in=keys):
            simulated_delivery.asked += 1
            simulated_delivery.save(update_fields=["asked"])
            done = Delivery.FAILED if "bounce" in simulated_delivery.address else Delivery.DELIVERED
            found[simulated_delivery.key] = done if simulated_delivery.asked > 1 else Delivery.UNDER_WAY
        return found


class SmtpGateway:
    """Mail by the company's own server, as the settings name it. What became of a mail its server does not tell."""

    def send(self, key: uuid.UUID, address: str, subject: str, body: str) -> None:
        # The same key is the same mail: who gets it twice is shown it once.
        headers = {"Message-ID": f"<{key}@{settings.MAIL_FROM.rpartition('@')[2] or 'aquifer'}>"}
        mail = EmailMessage(subject, body, settings.MAIL_FROM, [address], headers=headers)
        try:
            mail.send()
        except SMTPRecipientsRefused as error:
            raise Refused("the server knows no such address") from error
        except (SMTPException, OSError) as error:
            raise OutOfReach(f"the mail server: {error}"[:200]) from error

    def became(self, keys: list[uuid.UUID]) -> dict[uuid.UUID, Delivery]:
        return {}


class HttpGateway(SmtpGateway):
    """Texts by an HTTP gateway that the settings name, and mail by the company's server.

    It is sent ``{"id", "to", "text"}`` as JSON under a bearer token and answers 2xx when it takes a text, 4xx when it
    never will, anything else to be asked again; the same id again is the same text. Asked ``?id=...`` it answers
    ``{"<id>": "delivered" | "failed"}`` for those of which it knows.
    """

    def send(self, key: uuid.UUID, address: str, subject: str, body: str) -> None:
        if "@" in address:
            super().send(key, address, subject, body)
            return
        text = json.dumps({"id": str(key), "to": address, "text": body}).encode()
        try:
            self._asked(settings.TEXT_GATEWAY, text)
        except HTTPError as error:
            if 400 <= error.code < 500 and error.code not in _ASK_AGAIN:
                raise Refused(f"the text gateway refuses it: {error.code}") from error
            raise OutOfReach(f"the text gateway answers {error.code}") from error
        except (OSError, HTTPException, ValueError) as error:
            raise OutOfReach(f"the text gateway: {error}"[:200]) from error

    def became(self, keys: list[uuid.UUID]) -> dict[uuid.UUID, Delivery]:
        asked = urlencode([("id", str(key)) for key in keys])
        try:
            told = json.loads(self._asked(f"{settings.TEXT_GATEWAY}?{asked}"))
        except (OSError, HTTPException, ValueError) as error:
            raise OutOfReach(f"the text gateway: {error}"[:200]) from error
        said = {"delivered": Delivery.DELIVERED, "failed": Delivery.FAILED}
        if not isinstance(told, dict):
            raise OutOfReach("the text gateway: its answer is no table of ids")
        return {key: said[told[str(key)]] for key in keys if told.get(str(key)) in said}

    def _asked(self, address: str, body: bytes | None = None) -> bytes:
        headers = {"Authorization": f"Bearer {settings.TEXT_TOKEN}", "Content-Type": "application/json"}
        with urlopen(Request(address, body, headers), timeout=TEXT_SECONDS) as answer:  # noqa: S310 - the operator's
            read: bytes = answer.read(MOST_ANSWERED)
        return read


TEXT_SECONDS = 15.0
MOST_ANSWERED = 1_000_000
_ASK_AGAIN = (401, 403, 408, 425, 429)
"""Refusals that say something of us or of now, and nothing of the text: RFC 9110, RFC 6585."""


def texts() -> bool:
    """Whether texts are sent, and not mail alone."""
    return sends() and not settings.MESSAGE_GATEWAY.endswith(".SmtpGateway")


def sends() -> bool:
    """Whether messages are sent at all."""
    return bool(settings.MESSAGE_GATEWAY)


def gateway() -> Gateway:
    """The gateway in use, by its name in the settings. Raises: ImproperlyConfigured if there is none."""
    try:
        made: Gateway = import_string(settings.MESSAGE_GATEWAY)()
    except ImportError as error:
        raise ImproperlyConfigured(f"MESSAGE_GATEWAY names no gateway: {settings.MESSAGE_GATEWAY}") from error
    return made

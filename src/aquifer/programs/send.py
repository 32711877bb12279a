"""Sending what other programs are to be told, signed, until they have taken it.

Source of the headers and of the signature: Standard Webhooks 1.0, an open specification.
"""

import base64
import datetime
import hashlib
import hmac
import json
import secrets
import uuid
from http.client import HTTPException, HTTPMessage
from typing import IO
from urllib.error import HTTPError
from urllib.request import HTTPRedirectHandler, Request, build_opener

from django.db import transaction
from django.utils import timezone

from aquifer.programs.models import Delivery, DeliveryState

MOST_TRIES = 9
FIRST_PAUSE = datetime.timedelta(minutes=1)
"""After a try that failed; each pause after it is three times as long, some five days in all. Assumption."""
BATCH = 50
SECONDS = 10.0


class _Straight(HTTPRedirectHandler):
    """A signed event goes to the address that was given, and to no other that it names."""

    def redirect_request(
        self, req: Request, fp: IO[bytes], code: int, msg: str, headers: HTTPMessage, newurl: str
    ) -> None:
        return None


_OPEN = build_opener(_Straight).open


SECRET_PREFIX = "whsec_"


def new_secret() -> str:
    """What both sides know: 32 random bytes, written as the standard says."""
    return SECRET_PREFIX + base64.b64encode(secrets.token_bytes(32)).decode()


def signature(secret: str, key: uuid.UUID, at: int, body: bytes) -> str:
    """What the other side compares: of the event's key, the time in seconds since 1970, and the body."""
    signing = base64.b64decode(secret.removeprefix(SECRET_PREFIX))
    signed = hmac.new(signing, f"{key}.{at}.".encode() + body, hashlib.sha256).digest()
    return f"v1,{base64.b64encode(signed).decode()}"


def send_waiting(now: datetime.datetime | None = None) -> int:
    """Send what is due; returns how many were taken. Two workers never send one event, and one that dies in between
    leaves it waiting."""
    moment = now or timezone.now()
    ids = Delivery.objects.filter(state=DeliveryState.WAITING, not_before__lte=moment, hook__active=True)
    return sum(_send(pk, moment) for pk in list(ids.order_by("not_before", "pk").values_list("pk", flat=True)[:BATCH]))


def send_one(pk: int) -> bool:
    """Send one event now; whether it was taken."""
    return _send(pk, timezone.now())


def _send(pk: int, now: datetime.datetime) -> bool:
    with transaction.atomic():
        deliveries = Delivery.objects.select_for_update(skip_locked=True, of=("self",)).select_related("hook")
        delivery = deliveries.filter(pk=pk, state=DeliveryState.WAITING).first()
        if delivery is None:
            return False
        delivery.tries += 1
        delivery.trouble = _trouble(delivery, now)
        if not delivery.trouble:
            delivery.state, delivery.taken_at = DeliveryState.TAKEN, now
        elif delivery.tries >= MOST_TRIES:
            delivery.state = DeliveryState.FAILED
        else:
            delivery.not_before = now + FIRST_PAUSE * 3 ** (delivery.tries - 1)
        delivery.save()
        return delivery.state == DeliveryState.TAKEN


def _trouble(delivery: Delivery, now: datetime.datetime) -> str:
    """Send it; what went wrong, empty if it was taken."""
    body = json.dumps(
        {"type": delivery.kind, "timestamp": delivery.happened_at.isoformat(), "data": delivery.body}
    ).encode()
    at = int(now.timestamp())
    headers = {
        "Content-Type": "application/json",
        "webhook-id": str(delivery.key),
        "webhook-timestamp": str(at),
        "webhook-signature": signature(delivery.hook.secret, delivery.key, at, body),
    }
    try:
        with _OPEN(Request(delivery.hook.address, body, headers, method="POST"), timeout=SECONDS) as answer:  # noqa: S310
            return "" if 200 <= answer.status < 300 else f"it answered {answer.status}"
    except HTTPError as error:
        return f"it answered {error.code}"
    except (OSError, HTTPException, ValueError) as error:
        why = getattr(error, "reason", error)
        return f"it does not answer: {getattr(why, 'strerror', None) or why}"[:200]

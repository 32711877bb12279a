"""What changed on record, told to whoever computes something from it.

Whoever writes a record announces it here, once, and knows nothing of what follows; who computes subscribes in its
``apps.py``. So no place that writes has to remember a call for each thing that is computed.
"""

import datetime
from collections.abc import Callable, Collection, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Protocol

from django.http import HttpRequest, HttpResponse


class Subscriber(Protocol):
    """Whoever computes something from records."""

    def heaters(self, ids: Collection[int]) -> None:
        """Something of these heaters, their sites or findings is known otherwise: at once."""

    def zone(self, zone_id: int) -> None:
        """What is known of a zone, or one of its heaters, says something of all of its heaters: soon."""

    def everything(self) -> None:
        """The company's practice, or much of the base, is another: soon."""

    def out_of_service(self, ids: Collection[int], when: datetime.datetime) -> None:
        """Nothing more is said of these heaters."""


_SUBSCRIBERS: list[Subscriber] = []
_SAID: ContextVar[set[str] | None] = ContextVar("said", default=None)
AT_ONCE, SOON = "at once", "soon"
"""Whether what follows is computed when the request is answered, or by a job after it."""


def subscribe(subscriber: Subscriber) -> None:
    """Be told of every change from now on."""
    _SUBSCRIBERS.append(subscriber)


def heaters(ids: Collection[int]) -> None:
    """These heaters' own figures, parts, sites or findings changed."""
    _say(AT_ONCE)
    for subscriber in _SUBSCRIBERS:
        subscriber.heaters(ids)


def zone(zone_id: int) -> None:
    """A zone's water changed, or a finding that says something of all of its heaters."""
    _say(SOON)
    for subscriber in _SUBSCRIBERS:
        subscriber.zone(zone_id)


def everything() -> None:
    """Something that bears on the whole base changed."""
    _say(SOON)
    for subscriber in _SUBSCRIBERS:
        subscriber.everything()


def out_of_service(ids: Collection[int], when: datetime.datetime) -> None:
    """These heaters were archived, or made one with others."""
    _say(AT_ONCE)
    for subscriber in _SUBSCRIBERS:
        subscriber.out_of_service(ids, when)


def _say(when: str) -> None:
    said = _SAID.get()
    if said is not None:
        said.add(when)


@contextmanager
def heard() -> Iterator[set[str]]:
    """Whether anything was announced inside, and when what follows is computed."""
    said: set[str] = set()
    token = _SAID.set(said)
    try:
        yield said
    finally:
        _SAID.reset(token)


def tells_what_is_stale(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: an answer after which other pages are out of date says so, and whether they are new already."""

    def answer(request: HttpRequest) -> HttpResponse:
        with heard() as said:
            response = get_response(request)
        if said:
            response["X-Stale"] = SOON if SOON in said else AT_ONCE
        return response

    return answer

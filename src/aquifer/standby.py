"""Reads of whole tables, answered by a copy of the database where there is one, so that they hold up nobody's work.

A copy may be behind, cut off, or have become the database itself. It is read only while nothing is missing that the
same browser wrote, and while workers' signs of life arrive in it; whatever it cannot answer, the database does.
"""

import re
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import wraps
from typing import Any, Concatenate, ParamSpec, TypeVar

from django.conf import settings
from django.db import DEFAULT_DB_ALIAS, Error, InterfaceError, OperationalError, connections
from django.db.backends.base.base import BaseDatabaseWrapper
from django.db.models import Model
from django.http import HttpRequest, HttpResponse

ALIAS = "standby"
BEHIND_S = 30
"""A copy in which no worker was heard of for so long is not read: workers are heard of every ten seconds, so it is cut
off, or far behind. Assumption."""
AWAY_S = 10.0
"""So long nobody asks a copy that did not answer. Assumption."""
WRITTEN = "written"
"""The cookie that says how far the database's log had come when this browser last wrote."""
WRITTEN_AGE_S = 3600
_POSITION = re.compile(r"[0-9A-F]{1,8}/[0-9A-F]{1,8}")
_NOTHING = "0/0"

_reading: ContextVar[str] = ContextVar("reading", default=DEFAULT_DB_ALIAS)
_away_until = 0.0

P = ParamSpec("P")
R = TypeVar("R")


class Router:
    """What Django asks which database to read from."""

    def db_for_read(self, model: type[Model], **hints: object) -> str:
        return _reading.get()

    def db_for_write(self, model: type[Model], **hints: object) -> str:
        return DEFAULT_DB_ALIAS

    def allow_relation(self, one: Model, other: Model, **hints: object) -> bool:
        """They are the same rows."""
        return True

    def allow_migrate(self, db: str, app_label: str, **hints: object) -> bool:
        return db == DEFAULT_DB_ALIAS


def reading() -> BaseDatabaseWrapper:
    """The connection that is read from just now, for whoever speaks to it without the ORM."""
    found: BaseDatabaseWrapper = connections[_reading.get()]
    return found


def read_apart(view: Callable[Concatenate[HttpRequest, P], R]) -> Callable[Concatenate[HttpRequest, P], R]:
    """A view that reads much and writes nothing."""

    @wraps(view)
    def answer(request: HttpRequest, /, *args: P.args, **named: P.kwargs) -> R:
        return apart(lambda: view(request, *args, **named), request.COOKIES.get(WRITTEN, ""))

    return answer


def apart(work: Callable[[], R], written: str = "", wait_s: float = 0.0) -> R:
    """What ``work`` finds by reading alone: in the copy if that can answer, else in the database.

    Parameters: written, how far the log must have been followed; wait_s, so long that is waited for.
    """
    global _away_until
    if not has_copy() or time.monotonic() < _away_until:
        return work()
    try:
        with _from_copy():
            until = time.monotonic() + wait_s
            while not (has_all := _has_all(written)) and time.monotonic() < until:
                time.sleep(0.1)
            if has_all:
                return work()
    except (OperationalError, InterfaceError):
        # It is away, or took rows back that were being read: the database has them.
        _away_until = time.monotonic() + AWAY_S
        connections[ALIAS].close()
    return work()


def tells_how_far(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Whoever wrote reads their own from then on, even in a copy."""

    def answer(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        if has_copy() and request.method not in ("GET", "HEAD", "OPTIONS") and response.status_code < 400:
            response.set_cookie(
                WRITTEN, position(), max_age=WRITTEN_AGE_S, httponly=True, samesite="Lax",
                secure=settings.SESSION_COOKIE_SECURE,
            )  # fmt: skip
        return response

    return answer


def has_copy() -> bool:
    """Whether there is one to read from at all."""
    return ALIAS in connections.settings


@contextmanager
def _from_copy() -> Iterator[None]:
    before = _reading.set(ALIAS)
    try:
        yield
    finally:
        _reading.reset(before)


def position() -> str:
    """How far the database's log has come."""
    try:
        return str(_row(DEFAULT_DB_ALIAS, "SELECT pg_current_wal_insert_lsn()::text")[0])
    except Error:
        # What was written stands; no copy has come so far.
        return "FFFFFFFF/FFFFFFFF"


def _has_all(written: str) -> bool:
    """Whether the copy has what was written up to there, and all but the last moments of the rest."""
    position = written if _POSITION.fullmatch(written) else _NOTHING
    there, alive = _row(
        ALIAS,
        "SELECT NOT pg_is_in_recovery() OR pg_last_wal_replay_lsn() >= %s::pg_lsn, "
        "(SELECT max(last_heartbeat) > now() - make_interval(secs => %s) FROM procrastinate_workers)",
        position, BEHIND_S,
    )  # fmt: skip
    return bool(there and alive)


def _row(alias: str, query: str, *values: str | int) -> tuple[Any, ...]:
    with connections[alias].cursor() as cursor:
        cursor.execute(query, values)
        found: tuple[Any, ...] = cursor.fetchone()
    return found

"""Writes that meet another's: done again where the database asked for it, and told apart from faults of ours."""

import errno
import random
import time
from collections.abc import Callable, Iterator
from functools import wraps
from typing import ParamSpec, TypeVar

import psycopg
from django.db import Error, InterfaceError, OperationalError, connection
from pydantic import ValidationError

TRIES = 4
MET_ANOTHER = frozenset({"40001", "40P01"})
"""serialization_failure and deadlock_detected: PostgreSQL documentation, appendix A. The transaction was undone whole
and may be done again."""
BUSY_OR_AWAY = frozenset({
    "55P03", "57014", "57P01", "57P02", "57P03", "53300", "25P03", "25P04", "25006", "58030", "58P01",
})  # fmt: skip
"""lock_not_available, query_canceled, admin_shutdown, crash_shutdown, cannot_connect_now, too_many_connections,
idle_in_transaction_session_timeout, transaction_timeout, read_only_sql_transaction (it follows another by now),
io_error, undefined_file (of its own files): the same request may go through in a moment."""

CONNECTION = "08"
"""The class of connection exceptions: a pooler's words for a server that ended, or that it cannot reach."""
NO_ROOM = "53100"
"""disk_full."""
_FULL = (errno.ENOSPC, errno.EDQUOT)

P = ParamSpec("P")
R = TypeVar("R")


def retried(work: Callable[P, R]) -> Callable[P, R]:
    """A write that is one transaction, done again when it met another's. Within a wider one it is done once: what
    begins again is the widest."""

    @wraps(work)
    def run(*args: P.args, **named: P.kwargs) -> R:
        if connection.in_atomic_block:
            return work(*args, **named)
        for attempt in range(1, TRIES):
            try:
                return work(*args, **named)
            except OperationalError as error:
                if state_of(error) not in MET_ANOTHER:
                    raise
                # Not at the same time again.
                time.sleep(random.uniform(0.01, 0.05) * attempt)
        return work(*args, **named)

    return run


def state_of(error: BaseException) -> str:
    """The SQLSTATE of a database error, empty where there is none."""
    return getattr(error, "sqlstate", None) or getattr(error.__cause__, "sqlstate", None) or ""


def passes(error: BaseException | None) -> bool:
    """Whether an error is of a database that is busy or away: nothing was written, and a later try may go through."""
    for one in _of_database(error):
        state = state_of(one)
        # A connection that broke, or that was not had, has no state.
        broke = isinstance(one, OperationalError | InterfaceError | psycopg.OperationalError | psycopg.InterfaceError)
        if state in MET_ANOTHER | BUSY_OR_AWAY or state.startswith(CONNECTION) or (broke and not state):
            return True
    return isinstance(error, ValidationError) and _broke_in_answering(error)


def _broke_in_answering(error: ValidationError) -> bool:
    """Whether an answer that asks the database while it is put together was left without it: Pydantic keeps the words
    of what was raised, which begin with its class, and not what was raised."""
    told = [one.get("ctx", {}).get("error", "") for one in error.errors() if one["type"] in _READING]
    return any(str(words).partition(":")[0] in (OperationalError.__name__, InterfaceError.__name__) for words in told)


_READING = frozenset({"get_attribute_error", "iteration_error"})
"""What Pydantic calls an attribute, or a list, that could not be read."""


def _of_database(error: BaseException | None) -> Iterator[Error | psycopg.Error]:
    """The errors of the database that an error is, or was raised from: asking for a job writes, too, and a transaction
    that broke tells of itself."""
    while error is not None:
        if isinstance(error, Error | psycopg.Error):
            yield error
        error = error.__cause__


def is_full(error: BaseException | None) -> bool:
    """Whether there was no room on a disk, the database's or this machine's: nothing was kept."""
    if any(state_of(one) == NO_ROOM for one in _of_database(error)):
        return True
    return isinstance(error, OSError) and error.errno in _FULL

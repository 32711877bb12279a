"""Which change a row of history belongs to: everything that one request writes is one change."""

import datetime
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, TypeAlias

from django.db import models
from django.http import HttpRequest, HttpResponse
from simple_history.models import HistoricalRecords


@dataclass
class Mark:
    uuid: uuid.UUID
    used: bool = False
    """Whether anything was written under it."""


_current: ContextVar[Mark | None] = ContextVar("change", default=None)


def change_mark() -> uuid.UUID:
    """The mark of what is being written now."""
    mark = _current.get()
    if mark is None:
        return uuid.uuid4()
    mark.used = True
    return mark.uuid


class Marked(models.Model):
    """Base of every history table."""

    change = models.UUIDField(default=change_mark, db_index=True, editable=False)
    if TYPE_CHECKING:
        id: int
        history_id: int
        history_date: datetime.datetime
        history_type: str
        history_user_id: int | None
        history_change_reason: str | None
        instance: models.Model

    class Meta:
        abstract = True


def kept_history(*without: str) -> HistoricalRecords:
    """The history of a model: every row as it was but for some fields, with when, who and which change."""
    return HistoricalRecords(bases=[Marked], excluded_fields=list(without))


Column: TypeAlias = "models.Field[Any, Any]"
"""A field of some model."""


def past(model: type[models.Model]) -> "models.Manager[Any]":
    """The rows of a model's history; each is a ``Marked``, with the model's own fields."""
    found: models.Manager[Any] = getattr(model, "history")  # noqa: B009
    return found


@contextmanager
def one() -> Iterator[Mark]:
    """All that is written inside carries one mark: a job, a file."""
    mark = Mark(uuid.uuid4())
    token = _current.set(mark)
    try:
        yield mark
    finally:
        _current.reset(token)


def one_change(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: all that a request writes carries one mark, which the answer names."""

    def answer(request: HttpRequest) -> HttpResponse:
        with one() as mark:
            response = get_response(request)
            if mark.used:
                response["X-Change"] = str(mark.uuid)
            return response

    return answer

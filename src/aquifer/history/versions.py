"""The version of a record, by its history: whoever saves what they read before somebody else's change is told."""

from collections.abc import Iterable

from django.db.models import Max, Model

from aquifer.errors import Conflict
from aquifer.history.marks import Marked, past

MOST_TOLD = 6
"""Fields that are told by name."""


def versions(model: type[Model], ids: Iterable[int]) -> dict[int, int]:
    """The version of each of these records; those from before there was a history have none. One query."""
    rows = past(model).filter(id__in=list(ids)).order_by().values_list("id").annotate(last=Max("history_id"))
    return dict(rows)


def version_of(record: Model) -> int:
    """The record's version; 0 before its history begins."""
    return versions(type(record), [record.pk]).get(record.pk, 0)


def check(record: Model, read: int | None) -> None:
    """Refuse to write over what somebody changed since. To be called with the record locked.

    Parameters: read, the version that the edit started from; None of a program that does not ask for it.
    Raises: Conflict saying who changed what, with the version now, from which the edit may go on.
    """
    now = version_of(record)
    if read is None or read == now:
        return
    of_it = past(type(record)).filter(id=record.pk)
    last = of_it.select_related("history_user").get(history_id=now)
    then = of_it.filter(history_id=read).first()
    by = last.history_user.name if last.history_user else "Somebody"
    told = _differences(record, then, last) if then else []
    what = f": {'; '.join(told)}" if told else ""
    raise Conflict(
        f"{by} changed this meanwhile{what}. Yours is not kept yet: look at it, and save again if it is still right.",
        "changed_meanwhile",
        {"version": str(now)},
    )


def _differences(record: Model, then: Marked, last: Marked) -> list[str]:
    found = []
    for field in record._meta.concrete_fields:
        old, new = (getattr(marked, field.attname, None) for marked in (then, last))
        if old != new and not field.is_relation:
            found.append(f"{field.verbose_name} is now {_words(new)}")
    return found[:MOST_TOLD]


def _words(value: object) -> str:
    return "empty" if value in (None, "") else str(value)[:80]

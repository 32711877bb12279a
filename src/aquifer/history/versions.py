"""The version of a record, by its history: whoever saves what they read before somebody else's change is told."""

from collections.abc import Callable, Iterable, Mapping
from typing import TypeVar

from django.db import transaction
from django.db.models import Max, Model

from aquifer.errors import Conflict
from aquifer.history.marks import Marked, past
from aquifer.history.words import words

Record = TypeVar("Record", bound=Model)
MOST_TOLD, MOST_LETTERS = 6, 80
"""Fields that are told by name, and of each."""


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
    raise _meanwhile(record, *_between(record, read, now))


def merge(record: Model, read: int | None, values: Mapping[str, object]) -> None:
    """Put on a record what an edit says otherwise than the version that it started from: whatever else somebody
    changed since stays. To be called with the record locked; nothing is saved.

    Parameters: read, as of ``check``; values, by the names of fields.
    Raises: Conflict as ``check``, if somebody since changed one of the same fields, to something else.
    """
    now = version_of(record)
    if read is not None and read != now:
        then, last = _between(record, read, now)
        said = {name: value for name, value in values.items() if then is None or getattr(then, name) != value}
        for name, value in said.items():
            if then is None or last is None or getattr(last, name) not in (getattr(then, name), value):
                raise _meanwhile(record, then, last)
        values = said
    for name, value in values.items():
        setattr(record, name, value)


def check_entries(
    record: Record,
    read: int | None,
    said: Mapping[str, object],
    entries: Callable[[Record], Mapping[str, object]],
    tell: Callable[[str, object], str],
) -> None:
    """Refuse what an edit says of entries of a field that holds several (the sides taken in questions), if somebody
    since said otherwise of the same one. To be called with the record locked.

    Parameters: read, as of ``check``; said, by entry; entries, all of a record as it was; tell, an entry and what it is
    now, in words.
    Raises: Conflict as ``check``.
    """
    now = version_of(record)
    if read is None or read == now:
        return
    then, last = _between(record, read, now)
    was = entries(then) if then else {}  # type: ignore[arg-type]  # the history's rows have the fields of the record
    is_now = entries(record)
    told = {
        name: tell(name, is_now.get(name))
        for name, value in said.items()
        if is_now.get(name) not in (was.get(name, _NEVER), value)
    }
    if told:
        raise _told_meanwhile(last, told)


_NEVER = object()
"""What an entry was in a version that there never was: nothing that anything is equal to."""


def write(model: type[Record], key: Mapping[str, object], read: int | None, values: Mapping[str, object]) -> Record:
    """Saves the record of a key, new or merged with the one that is there.

    Parameters: read, as of ``check``; 0, there was none.
    Raises: Conflict as ``merge``.
    """
    with transaction.atomic():
        record, made = model._default_manager.select_for_update().get_or_create(**key, defaults=dict(values))
        if not made:
            merge(record, read, values)
            record.save()
    return record


def _between(record: Model, read: int, now: int) -> "tuple[Marked | None, Marked | None]":
    """The record as it was read, if it was, and as it was saved last; none from before its history begins."""
    of_it = past(type(record)).filter(id=record.pk)
    return of_it.filter(history_id=read).first(), of_it.select_related("history_user").filter(history_id=now).first()


def _meanwhile(record: Model, then: Marked | None, last: Marked | None) -> Conflict:
    told = _differences(record, then, last) if then and last else {}
    fields = {field: now for field, (_, now) in told.items()}
    return _told_meanwhile(last, {name: f"{called} {now}" for name, (called, now) in told.items()}, fields)


def _told_meanwhile(
    last: "Marked | None", told: Mapping[str, str], fields: Mapping[str, str] | None = None
) -> Conflict:
    person = getattr(last, "history_user", None)
    by = person.name if person else "Somebody"
    what = f": {'; '.join(told.values())}" if told else ""
    return Conflict(
        f"{by} changed this meanwhile{what}. Yours is not kept yet: look at it, and save again if it is still right.",
        "changed_meanwhile",
        {"version": str(last.history_id if last else 0), **(told if fields is None else fields)},
    )


def _differences(record: Model, then: Marked, last: Marked) -> dict[str, tuple[str, str]]:
    """What it is called and what it is now, by field."""
    found = {}
    for field in record._meta.concrete_fields:
        old, new = (getattr(marked, field.attname, None) for marked in (then, last))
        if old != new and not field.is_relation:
            found[field.name] = (str(field.verbose_name), f"is now {words(field, new)[:MOST_LETTERS]}")
    return dict(list(found.items())[:MOST_TOLD])

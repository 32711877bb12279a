"""A base that many tests begin with, made once a process and then put into the database as it was: making it takes
twenty times as long."""

import datetime
import hashlib
from collections.abc import Callable
from typing import Any

from django.db import connection, transaction

ROOMS = ("customers_", "heaters_", "water_", "forecasts_", "places_")
"""Whose tables it fills."""
BEAR_ON_IT = ("company_company", "visits_")
"""What else a forecast is made by."""
_made_of: dict[tuple[str, datetime.date], dict[str, bytes]] = {}
_known: dict[tuple[str, datetime.date], tuple[dict[str, bytes], dict[str, Any]]] = {}


def kept(name: str, make: Callable[[], dict[str, Any]]) -> dict[str, Any]:
    """What ``make`` returns, records and lists of records, with all that it wrote. To be called with these tables
    empty, within a test that is taken back.

    The numbers of its records stay free: no sequence is ever taken back.
    """
    key = (name, datetime.date.today())
    if key not in _known:
        made = make()
        _known[key] = (_taken_out(), {one: _numbers(value) for one, value in made.items()})
        return made
    rows, made = _known[key]
    _put(rows)
    there: dict[tuple[type, int], Any] = {}
    return {one: _records(value, there) for one, value in made.items()}


def carried_on(make: Callable[[], Any]) -> None:
    """What ``make`` writes into these tables as they stand, done once for each way in which they stood."""
    stands = _taken_out((*ROOMS, *BEAR_ON_IT))
    key = (hashlib.sha256(repr(sorted(stands.items())).encode()).hexdigest(), datetime.date.today())
    if key not in _made_of:
        make()
        _made_of[key] = _taken_out()
    else:
        _put(_made_of[key])


def _taken_out(rooms: tuple[str, ...] = ROOMS) -> dict[str, bytes]:
    found = {}
    with connection.cursor() as cursor:
        for table in connection.introspection.table_names(cursor):
            if table.startswith(rooms):
                with cursor.copy(f'COPY "{table}" TO STDOUT (FORMAT BINARY)') as copy:
                    rows = b"".join(bytes(piece) for piece in copy)
                # A signature and an end, and nothing between.
                if len(rows) > 21:
                    found[table] = rows
    return found


def _put(tables: dict[str, bytes]) -> None:
    with transaction.atomic(), connection.cursor() as cursor:
        # What triggers made of the rows is among them.
        cursor.execute("SET LOCAL session_replication_role = replica")
        for table, rows in tables.items():
            # Words that a migration brought in are among them, too.
            cursor.execute(f'DELETE FROM "{table}"')  # noqa: S608
            with cursor.copy(f'COPY "{table}" FROM STDIN (FORMAT BINARY)') as copy:
                copy.write(rows)
        cursor.execute("SET LOCAL session_replication_role = DEFAULT")


def _numbers(value: Any) -> Any:
    """Records by their model and numbers; anything else as it is."""
    if isinstance(value, list) and value and hasattr(value[0], "_meta"):
        return (type(value[0]), [one.pk for one in value])
    return value


def _records(value: Any, there: dict[tuple[type, int], Any]) -> Any:
    """The records of such numbers. One that two others refer to is one object, as where it was made."""
    if not isinstance(value, tuple):
        return value
    model, numbers = value
    related = [field for field in model._meta.fields if field.is_relation and not field.null]
    found = model.objects.select_related(*(field.name for field in related)).in_bulk(numbers)
    for pk in numbers:
        record = there.setdefault((model, pk), found[pk])
        for field in related:
            other = getattr(record, field.name)
            setattr(record, field.name, there.setdefault((type(other), other.pk), other))
    return [there[model, pk] for pk in numbers]

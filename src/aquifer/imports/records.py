"""New records of a file, copied into their table by the database.

Through the ORM each would be made an object, and each of its values looked at three times on its way into a statement:
two thirds of what writing a list took.
"""

from collections.abc import Mapping, Sequence
from enum import Enum
from functools import partial

from django.db import connection, models
from django.utils import timezone

from aquifer.formats.cells import Cell
from aquifer.history import in_bulk
from aquifer.history.marks import Column
from aquifer.imports.origin import Origin

Values = Mapping[str, Cell]
"""Of a new record, by the names of its columns; what is not named is as the model has it by default."""


def created(model: type[models.Model], records: Sequence[Values], origin: Origin) -> list[int]:
    """Write new records, and into the history who brought them in; returns their keys, in the same order.

    Raises: ValueError for a name that is no column; what the database refuses, as the ORM raises it.
    """
    if not records:
        return []
    fields = _written(model, {name for record in records for name in record})
    quote = connection.ops.quote_name
    table = model._meta.db_table
    key = model._meta.pk
    assert key is not None and key.column
    names = ", ".join(quote(str(field.column)) for field in [key, *fields])
    ways = [(field.attname, _usual(field), partial(_stored, field)) for field in fields]
    with connection.wrap_database_errors, connection.cursor() as cursor:
        sequence = f"SELECT nextval(pg_get_serial_sequence(%s, %s)) FROM generate_series(1, {len(records)})"  # noqa: S608
        cursor.execute(sequence, [table, key.column])
        keys = [int(row[0]) for row in cursor.fetchall()]
        with cursor.copy(f"COPY {quote(table)} ({names}) FROM STDIN") as copy:
            for number, record in zip(keys, records, strict=True):
                told = (stored(record[name]) if name in record else usual for name, usual, stored in ways)
                copy.write_row([number, *told])
    if hasattr(model, "history"):
        in_bulk.keep(model, keys, in_bulk.ADDED, origin.by, origin.file)
    return keys


def _written(model: type[models.Model], names: set[str]) -> list[Column]:
    """The columns that are named, those that cannot be left empty, and those that usually are not."""
    fields = [field for field in model._meta.concrete_fields if not field.primary_key]
    if unknown := names - {field.attname for field in fields}:
        raise ValueError(f"{model.__name__} has no {sorted(unknown)[0]}")
    return [field for field in fields if field.attname in names or not field.null or field.has_default()]


def _usual(field: Column) -> object:
    """What a column holds of which nothing is said."""
    if getattr(field, "auto_now", False) or getattr(field, "auto_now_add", False):
        return timezone.now() if isinstance(field, models.DateTimeField) else timezone.localdate()
    return _stored(field, field.get_default())


def _stored(field: Column, value: Cell) -> object:
    """A value as the ORM would send it: 3.0 in a column of whole numbers is 3."""
    return field.get_db_prep_save(value.value if isinstance(value, Enum) else value, connection)

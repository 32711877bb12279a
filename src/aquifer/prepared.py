"""Queries that are compiled by the ORM once and planned by PostgreSQL once a connection.

For a few rows, compiling and planning a query costs more than its rows do. The ORM writes it all the same: only which
rows are meant changes from one asking to the next.
"""

from collections.abc import Collection, Iterator, Sequence
from contextlib import contextmanager
from functools import cached_property
from typing import Any

import psycopg
from django.db import connection, models
from django.db.models import QuerySet
from psycopg.rows import TupleRow

from aquifer.standby import reading

FEW = 64
"""Ids up to here are asked for by a plan that is kept; for more, PostgreSQL plans anew by how many they are."""


Row = dict[str, Any]
"""A row by the names of its columns; what each holds, its query says."""


class _Cursor(psycopg.Cursor[TupleRow]):
    """Binds on the server and answers in binary; Django's own binds on the client, where nothing can be prepared."""

    def __init__(self, prepare: bool) -> None:
        super().__init__(reading().connection)
        self._prepare = prepare

    def execute(self, query: Any, params: Any = None, **_: Any) -> "_Cursor":
        return super().execute(query, params, prepare=self._prepare, binary=True)


def asked(statement: str, arrays: Collection[Sequence[int | str]], is_few: bool) -> _Cursor:
    """Ask for rows; the cursor that has them.

    Parameters: statement, with a placeholder for each array; is_few, whether its plan is kept.
    """
    there = reading()
    there.ensure_connection()
    cursor = _Cursor(prepare=is_few)
    of_django: Any = there.make_debug_cursor if there.queries_logged else there.make_cursor
    if is_few:
        of_django(cursor).execute(statement, list(arrays))
    else:
        of_django(cursor).execute(_filled(statement, [_literal(array) for array in arrays]))
    return cursor


def _literal(array: Sequence[int | str]) -> object:
    """Ids as PostgreSQL writes an array of them: the library would look at each for what needs quoting."""
    return f"{{{','.join(map(str, array))}}}" if array and isinstance(array[0], int) else array


def _filled(statement: str, values: Collection[object]) -> str:
    with connection.cursor() as cursor:
        return str(cursor.mogrify(statement, values))


@contextmanager
def without_loops() -> Iterator[None]:
    """Within it PostgreSQL joins no rows one by one, for many rows of a table whose statistics may be of before they
    came: it takes them for a few then, and each of thousands is held against each of thousands.

    Only in a transaction.
    """
    with connection.cursor() as cursor:
        cursor.execute("SET LOCAL enable_nestloop = off")
    yield
    # Where the statement failed the transaction ends, and this with it.
    with connection.cursor() as cursor:
        cursor.execute("SET LOCAL enable_nestloop = DEFAULT")


def with_values(rows: "QuerySet[models.Model, Any]") -> str:
    """The SQL of a query with its values in it, fit to be put into a statement that has placeholders.

    Raises: EmptyResultSet where the ORM knows that nothing can match.
    """
    return _filled(*rows.query.sql_with_params()).replace("%", "%%")


class Prepared:
    """Rows of a query as tuples, for columns that need no conversion by the ORM."""

    def __init__(self, rows: "QuerySet[models.Model]", *names: str, by: str = "") -> None:
        """Parameters: rows; names of the fields read; by, one more that tells for ``rows`` which are meant: then they
        come in no order."""
        self._rows, self.names, self._by = rows, names, by

    @cached_property
    def _statement(self) -> str:
        fields = (*self.names, *([self._by] if self._by else []))
        columns = [f"c{at}" for at in range(len(fields))]
        inner = with_values(self._rows.values_list(*fields))
        chosen = ", ".join(columns[: len(self.names)])
        return f"SELECT {chosen} FROM ({inner}) AS rows ({', '.join(columns)})"  # noqa: S608

    def rows(self, among: Collection[int] | None = None) -> list[TupleRow]:
        """The rows; among, for those only whose field ``by`` is one of these."""
        if among is None:
            return asked(self._statement, [], is_few=not self._by).fetchall()
        condition = f" WHERE c{len(self.names)} = ANY(%s::bigint[])"
        return asked(self._statement + condition, [list(among)], is_few=len(among) <= FEW).fetchall()

    def named(self, among: Collection[int] | None = None) -> list[Row]:
        """The same, each figure by its name."""
        return [dict(zip(self.names, row, strict=True)) for row in self.rows(among)]


def remove(model: type[models.Model], field: str, among: Collection[int]) -> None:
    """Delete the rows whose field is one of these numbers; for tables that nothing refers to: nothing follows them."""
    asked(f"DELETE FROM {_where(model, field)}", [list(among)], is_few=len(among) <= FEW)  # noqa: S608


def lock(model: type[models.Model], among: Collection[int]) -> None:
    """Lock the rows with these keys until the transaction ends, in the order of their keys: of two who want some of
    the same the second waits for the first, and never each for the other."""
    statement = f"SELECT 1 FROM {_where(model, 'pk')} ORDER BY {_column(model, 'pk')} FOR UPDATE"  # noqa: S608
    asked(statement, [list(among)], is_few=len(among) <= FEW)


def _where(model: type[models.Model], field: str) -> str:
    return f"{connection.ops.quote_name(model._meta.db_table)} WHERE {_column(model, field)} = ANY(%s::bigint[])"


def _column(model: type[models.Model], field: str) -> str:
    found = model._meta.pk if field == "pk" else model._meta.get_field(field)
    assert isinstance(found, models.Field) and found.column
    return connection.ops.quote_name(found.column)

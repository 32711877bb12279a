"""Rows of the database as NumPy columns and back, by PostgreSQL's binary COPY.

A fleet is read and stored as arrays. Through the ORM's own rows that costs ten times what the forecast does, nearly all
of it in making and unmaking Python objects (docs/decisions/0004). The ORM still writes the query that is read: only its
result is taken as it comes over the wire. Every value has a fixed width there, so a row is a NumPy record.
"""

import datetime
import struct
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, Protocol

import numpy as np
from django.contrib.postgres.fields import ArrayField
from django.core.exceptions import EmptyResultSet
from django.db import connection, models
from django.db.models import Case, F, Func, QuerySet, Value, When
from django.db.models.functions import Cast, Coalesce
from django.db.models.lookups import Exact

from aquifer.core.arrays import IntArray

_SIGNATURE = b"PGCOPY\n\xff\r\n\0" + bytes(8)
_EPOCH = datetime.date(2000, 1, 1)
"""PostgreSQL counts days and microseconds from here."""
_NO_DAY = -(2**31)


# Reading


@dataclass(frozen=True)
class Read:
    """A column of a query: an expression that is never null, and how its bytes are taken."""

    expression: Any
    width: str
    """NumPy's type of the bytes, big end first."""

    def taken(self, raw: Any) -> Any:
        return raw.astype(raw.dtype.newbyteorder("="))


class ReadDay(Read):
    def taken(self, raw: Any) -> Any:
        days = raw.astype(np.int64)
        at = np.datetime64(_EPOCH, "D") + days.astype("timedelta64[D]")
        return np.where(days == _NO_DAY, np.datetime64("NaT", "D"), at)


class ReadCode(Read):
    def taken(self, raw: Any) -> Any:
        return raw.astype(np.int64)


def number(field: Any) -> Read:
    """A column of numbers, NaN where it is null."""
    source = F(field) if isinstance(field, str) else field
    return Read(Coalesce(Cast(source, models.FloatField()), Cast(Value("NaN"), models.FloatField())), ">f8")


def whole(field: Any) -> Read:
    """An integer column, -1 where it is null."""
    source = F(field) if isinstance(field, str) else field
    return ReadCode(Cast(Coalesce(source, Value(-1)), models.BigIntegerField()), ">i8")


def flag(field: str) -> Read:
    """A boolean column, false where it is null."""
    return Read(Coalesce(F(field), Value(False)), "?")


def truth(field: str) -> Read:
    """A boolean column as 1 and 0, -1 where it is null."""
    return ReadCode(Coalesce(Cast(F(field), models.IntegerField()), Value(-1)), ">i4")


def day(field: str) -> Read:
    """A date column as datetime64[D], NaT where it is null."""
    template = f"COALESCE(%(expressions)s - DATE '{_EPOCH}', {_NO_DAY})"
    return ReadDay(Func(F(field), template=template, output_field=models.IntegerField()), ">i4")


def word(field: Any, kind: type[StrEnum]) -> Read:
    """A column of words as positions in their enumeration, -1 for an empty or unknown one."""
    return position(field, [member.value for member in kind])


def position(field: Any, among: Sequence[str]) -> Read:
    """A column of words as positions in ``among``, -1 where it is none of them."""
    listed = Value(list(among) or [""], output_field=ArrayField(models.TextField()))
    source = Cast(F(field) if isinstance(field, str) else field, models.TextField())
    found = Func(listed, source, function="array_position", output_field=models.IntegerField())
    place = Cast(Coalesce(found, Value(0)) - 1, models.IntegerField())
    if isinstance(field, str):
        # Most words of a finding are blank: telling that first halves the time of the query.
        place = Case(When(Exact(source, Value("")), then=Value(-1)), default=place, output_field=models.IntegerField())
    return ReadCode(place, ">i4")


def read_columns(rows: "QuerySet[Any]", columns: dict[str, Read]) -> dict[str, Any]:
    """The rows of a query as one array a column; one query. Parameters: rows, ordered; columns by name."""
    annotated = rows.annotate(**{f"read_{name}": column.expression for name, column in columns.items()})
    query = annotated.values_list(*(f"read_{name}" for name in columns)).query
    try:
        sql, parameters = query.sql_with_params()
    except EmptyResultSet:
        # The ORM knows without asking that nothing can match.
        return {name: column.taken(np.zeros(0, dtype=column.width)) for name, column in columns.items()}
    # One row of arrays: a row for each heater would cost a message and a Python object each.
    arrays = ", ".join(f"array_agg({connection.ops.quote_name(f'read_{name}')})" for name in columns)
    with connection.cursor() as cursor:
        statement = cursor.mogrify(sql, parameters)
        whole_row = f"COPY (SELECT {arrays} FROM ({statement}) AS rows) TO STDOUT (FORMAT BINARY)"  # noqa: S608
        with cursor.copy(whole_row) as copy:
            data = b"".join(bytes(block) for block in copy)
    return dict(_taken_apart(data, columns))


def _taken_apart(data: bytes, columns: dict[str, Read]) -> Iterator[tuple[str, Any]]:
    """Each column of the one row: its length, an array's header, and its elements with their lengths before them."""
    at = len(_SIGNATURE) + 2
    for name, column in columns.items():
        (length,) = struct.unpack_from(">i", data, at)
        at += 4
        if length < 0:
            yield name, column.taken(np.zeros(0, dtype=column.width))
            continue
        element = np.dtype([("length", ">i4"), ("value", column.width)])
        (count,) = struct.unpack_from(">i", data, at + 12)
        if length != 20 + count * element.itemsize:
            raise RuntimeError(f"the column {name} is not as wide as it was declared")
        elements = np.frombuffer(data, dtype=element, count=count, offset=at + 20)
        yield name, column.taken(elements["value"])
        at += length


# Writing


class Written(Protocol):
    """A column to be stored. Rows of one pattern have the same widths and are encoded together."""

    def pattern(self) -> IntArray | None:
        """What sets the width of each row's value, (n,); None if nothing does."""
        ...

    def encoded(self, rows: IntArray) -> Any:
        """The values of rows of one pattern with their lengths before them, (m, width) bytes; (1, width) if all are
        the same."""
        ...


def _field(value: bytes) -> Any:
    return np.frombuffer(struct.pack(">i", len(value)) + value, dtype=np.uint8)[None, :]


_NULL = np.frombuffer(struct.pack(">i", -1), dtype=np.uint8)[None, :]


def _numbers(values: Any, width: str) -> Any:
    """Numbers with their length before each, (m, 4 + width)."""
    flat = np.ascontiguousarray(values, dtype=width)
    record = np.empty(flat.shape, dtype=[("length", ">i4"), ("value", width)])
    record["length"], record["value"] = flat.dtype.itemsize, flat
    return record.view(np.uint8).reshape(flat.shape[0], -1)


@dataclass(frozen=True)
class Numbers:
    """One number a row."""

    values: Any
    width: str

    def pattern(self) -> IntArray | None:
        return None

    def encoded(self, rows: IntArray) -> Any:
        return _numbers(self.values[rows], self.width)


@dataclass(frozen=True)
class Days:
    """datetime64[D], NaT for null."""

    values: Any

    def pattern(self) -> IntArray | None:
        return np.isnat(self.values).astype(np.int64)

    def encoded(self, rows: IntArray) -> Any:
        if np.isnat(self.values[rows[0]]):
            return _NULL
        return _numbers((self.values[rows] - np.datetime64(_EPOCH, "D")).astype(np.int64), ">i4")


@dataclass(frozen=True)
class Lists:
    """An array a row, (n, k); of floats, or of whole numbers of which a negative is null."""

    values: Any
    is_whole: bool = False

    def pattern(self) -> IntArray | None:
        if not self.is_whole:
            return None
        return np.asarray((self.values < 0) @ (1 << np.arange(self.values.shape[1])))

    def encoded(self, rows: IntArray) -> Any:
        values, width = self.values[rows], ">i4" if self.is_whole else ">f8"
        null = values[0] < 0 if self.is_whole else np.zeros(values.shape[1], dtype=bool)
        parts = [_NULL if gone else _numbers(values[:, at], width) for at, gone in enumerate(null)]
        size = 20 + sum(part.shape[1] for part in parts)
        kind = 23 if self.is_whole else 701
        head = struct.pack(">iiiiii", size, 1, int(null.any()), kind, values.shape[1], 1)
        return _beside([np.frombuffer(head, dtype=np.uint8)[None, :], *parts], rows.size)


@dataclass(frozen=True)
class Words:
    """A word a row, by its position among ``words``."""

    codes: IntArray
    words: Sequence[str]

    def pattern(self) -> IntArray | None:
        return self.codes

    def encoded(self, rows: IntArray) -> Any:
        return _field(self.words[int(self.codes[rows[0]])].encode())


@dataclass(frozen=True)
class Same:
    """The same value in every row."""

    value: str | datetime.datetime | datetime.date | Sequence[str]

    def pattern(self) -> IntArray | None:
        return None

    def encoded(self, rows: IntArray) -> Any:
        if isinstance(self.value, datetime.datetime):
            epoch = datetime.datetime(2000, 1, 1, tzinfo=datetime.UTC)
            return _field(struct.pack(">q", round((self.value - epoch).total_seconds() * 1e6)))
        if isinstance(self.value, datetime.date):
            return _field(struct.pack(">i", (self.value - _EPOCH).days))
        if isinstance(self.value, str):
            return _field(self.value.encode())
        words = b"".join(struct.pack(">i", len(w.encode())) + w.encode() for w in self.value)
        return _field(struct.pack(">iiiii", 1, 0, 1043, len(self.value), 1) + words)


def _beside(parts: list[Any], rows: int) -> Any:
    return np.concatenate([np.broadcast_to(part, (rows, part.shape[1])) for part in parts], axis=1)


def write_columns(model: type[models.Model], columns: dict[str, Written], rows: int) -> None:
    """Append rows to a table from columns; one COPY."""
    if not rows:
        return
    patterns = [p for column in columns.values() if (p := column.pattern()) is not None]
    group = np.zeros(rows, dtype=np.int64)
    for pattern in patterns:
        different, place = np.unique(pattern, return_inverse=True)
        group = group * different.size + place
        group = np.unique(group, return_inverse=True)[1]
    order = np.argsort(group, kind="stable")
    starts = np.flatnonzero(np.diff(group[order], prepend=-1))
    quote = connection.ops.quote_name
    names = ", ".join(quote(model._meta.get_field(name).column) for name in columns)
    count = np.frombuffer(struct.pack(">h", len(columns)), dtype=np.uint8)[None, :]
    with (
        connection.cursor() as cursor,
        cursor.copy(f"COPY {quote(model._meta.db_table)} ({names}) FROM STDIN (FORMAT BINARY)") as copy,
    ):
        copy.write(_SIGNATURE)
        for members in np.split(order, starts[1:]):
            encoded = [column.encoded(members) for column in columns.values()]
            copy.write(_beside([count, *encoded], members.size).tobytes())
        copy.write(struct.pack(">h", -1))


__all__ = [
    "Days",
    "Lists",
    "Numbers",
    "Read",
    "Same",
    "Words",
    "day",
    "flag",
    "number",
    "position",
    "read_columns",
    "truth",
    "whole",
    "word",
    "write_columns",
]

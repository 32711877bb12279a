"""Rows of the database as NumPy columns and back, in PostgreSQL's binary form.

A fleet is read and stored as arrays. Through the ORM's own rows that costs ten times what the forecast does, nearly all
of it in making and unmaking Python objects (docs/decisions/0004). The ORM still writes the query that is read: only its
result is taken as it comes over the wire. Every value has a fixed width there, so a row is a NumPy record.
"""

import datetime
import struct
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property, lru_cache
from typing import Protocol

import numpy as np
from django.core.exceptions import EmptyResultSet
from django.db import connection, models
from django.db.models import QuerySet
from django.db.models.expressions import Combinable
from numpy.typing import NDArray

from aquifer.core.arrays import Column, IntArray
from aquifer.prepared import FEW, asked, with_values

Bytes = NDArray[np.uint8]
_SIGNATURE = b"PGCOPY\n\xff\r\n\0" + bytes(8)
_EPOCH = datetime.date(2000, 1, 1)
"""PostgreSQL counts days and microseconds from here."""
_NO_DAY = -(2**31)
_MESSAGE = 65536
"""Bytes from which rows are sent without waiting for more."""


# Reading


@dataclass(frozen=True)
class Read:
    """A column of a query: where it comes from, how SQL makes of it a value that is never null, and how its bytes are
    taken. Only ``source`` passes through the ORM: compiling the rest there would cost more than the query itself."""

    source: str | Combinable
    """A field's name, or an expression."""
    value: str
    """SQL of the value; ``{}`` is the source."""
    width: str
    """NumPy's type of the bytes, big end first."""

    def taken(self, raw: Column) -> Column:
        return raw.astype(raw.dtype.newbyteorder("="))


class ReadDay(Read):
    def taken(self, raw: Column) -> Column:
        days = raw.astype(np.int64)
        at = np.datetime64(_EPOCH, "D") + days.astype("timedelta64[D]")
        return np.where(days == _NO_DAY, np.datetime64("NaT", "D"), at)


class ReadCode(Read):
    def taken(self, raw: Column) -> Column:
        return raw.astype(np.int64)


@dataclass(frozen=True)
class ReadWord(ReadCode):
    among: Sequence[str] | None = None
    """The words whose positions are read; None if they are told when the column is."""


def number(source: str | Combinable) -> Read:
    """A column of numbers, NaN where it is null."""
    return Read(source, "COALESCE({}::float8, 'NaN')", ">f8")


def whole(source: str | Combinable) -> Read:
    """An integer column, -1 where it is null."""
    return ReadCode(source, "COALESCE({}::bigint, -1)", ">i8")


def flag(source: str | Combinable) -> Read:
    """A boolean column, false where it is null."""
    return Read(source, "COALESCE({}, false)", "?")


def there(source: str | Combinable) -> Read:
    """Whether a column is not null."""
    return Read(source, "{} IS NOT NULL", "?")


def truth(source: str | Combinable) -> Read:
    """A boolean column as 1 and 0, -1 where it is null."""
    return ReadCode(source, "COALESCE({}::int, -1)", ">i4")


def day(source: str | Combinable) -> Read:
    """A date column as datetime64[D], NaT where it is null."""
    return ReadDay(source, f"COALESCE({{}} - DATE '{_EPOCH}', {_NO_DAY})", ">i4")


def word(source: str | Combinable, kind: type[StrEnum]) -> Read:
    """A column of words as positions in their enumeration, -1 for an empty or unknown one."""
    return position(source, [member.value for member in kind])


def position(source: str | Combinable, among: Sequence[str] | None = None) -> Read:
    """A column of words as positions in ``among``, -1 where it is none of them; without ``among`` it is given when the
    column is read."""
    # Most words of a finding are blank: telling that first halves the time of the query.
    found = "CASE WHEN {0} = '' THEN -1 ELSE COALESCE(array_position(%s::text[], {0}::text), 0) - 1 END"
    return ReadWord(source, found, ">i4", among)


Question = tuple[str, list[list[str] | list[int]]]
"""A query of one row of arrays, and the arrays that go into it."""


class Reading:
    """Columns of the rows of a query. Kept by whoever reads them often, so that the ORM compiles the query once."""

    def __init__(self, rows: "QuerySet[models.Model]", columns: dict[str, Read], by: str = "") -> None:
        """Parameters: rows; columns by name; by, the column that tells for ``read`` which rows are meant.

        Rows come in the order of the query only if all of them are read.
        """
        self._rows, self.columns = rows, columns
        self._names = {name: f"c{at}" for at, name in enumerate(columns)}
        self._by = self._names.get(by, "")

    @cached_property
    def _compiled(self) -> str:
        columns = self.columns.items()
        expressions = {f"read_{name}": column.source for name, column in columns if not isinstance(column.source, str)}
        sources = [column.source if isinstance(column.source, str) else f"read_{name}" for name, column in columns]
        inner = with_values(self._rows.annotate(**expressions).values_list(*sources))
        # One row of arrays: a row for each heater would cost a message and a Python object each.
        arrays = ", ".join(f"array_agg({column.value.format(self._names[name])})" for name, column in columns)
        return f"SELECT {arrays} FROM ({inner}) AS rows ({', '.join(self._names.values())})"  # noqa: S608

    def read(
        self, among: "QuerySet[models.Model] | IntArray | None" = None, words: Mapping[str, Sequence[str]] | None = None
    ) -> dict[str, Column]:
        """The rows as one array a column; one query.

        Parameters: among, for the rows only whose column ``by`` is one of these; words, of columns of words that were
        not told among what. Raises: ValueError if there is no such column, KeyError for words that are not given.
        """
        try:
            question = self.question(among, words)
        except EmptyResultSet:
            # The ORM knows without asking that nothing can match.
            return {name: column.taken(np.zeros(0, dtype=column.width)) for name, column in self.columns.items()}
        return _answered([question], [self.columns], isinstance(among, np.ndarray) and among.size <= FEW)[0]

    def question(
        self, among: "QuerySet[models.Model] | IntArray | None" = None, words: Mapping[str, Sequence[str]] | None = None
    ) -> Question:
        """The query of ``read``. Raises: EmptyResultSet where the ORM knows that nothing can match."""
        condition, chosen = self._condition(among)
        given = [
            [*((words or {})[name] if column.among is None else column.among)] or [""]
            for name, column in self.columns.items()
            if isinstance(column, ReadWord)
        ]
        return self._compiled + condition, [*given, *chosen]

    def _condition(self, among: "QuerySet[models.Model] | IntArray | None") -> tuple[str, list[list[str] | list[int]]]:
        if among is None:
            return "", []
        if not self._by:
            raise ValueError("this reading has no column by which some of its rows could be told")
        if isinstance(among, QuerySet):
            return f" WHERE {self._by} IN ({with_values(among.values('pk'))})", []
        return f" WHERE {self._by} = ANY(%s::bigint[])", [among.tolist()]


def read_columns(rows: "QuerySet[models.Model]", columns: dict[str, Read]) -> dict[str, Column]:
    """The rows of a query as one array a column; one query. Parameters: rows, ordered; columns by name."""
    return Reading(rows, columns).read()


def read_together(ids: IntArray, *readings: tuple[Reading, Mapping[str, Sequence[str]]]) -> list[dict[str, Column]]:
    """Several readings of what belongs to the same ids, each with its words; one query."""
    questions = [reading.question(ids, words) for reading, words in readings]
    return _answered(questions, [reading.columns for reading, _ in readings], ids.size <= FEW)


def _answered(questions: list[Question], columns: list[dict[str, Read]], is_few: bool) -> list[dict[str, Column]]:
    """The one row of each query, taken apart."""
    rows = ", ".join(f"({statement}) AS r{at}" for at, (statement, _) in enumerate(questions))
    arrays = [array for _, given in questions for array in given]
    cursor = asked(f"SELECT * FROM {rows}", arrays, is_few)  # noqa: S608
    answer = cursor.pgresult
    assert answer is not None
    every = [(number, name, column) for number, own in enumerate(columns) for name, column in own.items()]
    found: list[dict[str, Column]] = [{} for _ in columns]
    for at, (number, name, column) in enumerate(every):
        found[number][name] = column.taken(_elements(answer.get_value(0, at), column))
    return found


def _elements(array: bytes | None, column: Read) -> Column:
    """The values of an array as PostgreSQL tells it: a header, and its elements with their lengths before them."""
    if array is None:
        return np.zeros(0, dtype=column.width)
    element = _record(column.width)
    (count,) = struct.unpack_from(">i", array, 12)
    if len(array) != 20 + count * element.itemsize:
        raise RuntimeError(f"{column.source} is not as wide as it was declared")
    return np.frombuffer(array, dtype=element, count=count, offset=20)["value"]


# Writing


class Written(Protocol):
    """A column to be stored. Rows of one pattern have the same widths and are encoded together."""

    def pattern(self) -> IntArray | None:
        """What sets the width of each row's value, (n,); None if nothing does."""
        ...

    def encoded(self, rows: IntArray) -> Bytes:
        """The values of rows of one pattern with their lengths before them, (m, width) bytes; (1, width) if all are
        the same."""
        ...


def _field(value: bytes) -> Bytes:
    return np.frombuffer(struct.pack(">i", len(value)) + value, dtype=np.uint8)[None, :]


_NULL = np.frombuffer(struct.pack(">i", -1), dtype=np.uint8)[None, :]


@lru_cache(maxsize=8)
def _record(width: str) -> np.dtype[np.void]:
    return np.dtype([("length", ">i4"), ("value", width)])


def _numbers(values: Column, width: str) -> Bytes:
    """Numbers with their length before each, (m, 4 + width)."""
    flat = np.ascontiguousarray(values, dtype=width)
    record = np.empty(flat.shape, dtype=_record(width))
    record["length"], record["value"] = flat.dtype.itemsize, flat
    return record.view(np.uint8).reshape(flat.shape[0], -1)


@dataclass(frozen=True)
class Numbers:
    """One number a row."""

    values: Column
    width: str

    def pattern(self) -> IntArray | None:
        return None

    def encoded(self, rows: IntArray) -> Bytes:
        return _numbers(self.values[rows], self.width)


@dataclass(frozen=True)
class Days:
    """datetime64[D], NaT for null."""

    values: Column

    def pattern(self) -> IntArray | None:
        return np.asarray(np.isnat(self.values), dtype=np.int64)

    def encoded(self, rows: IntArray) -> Bytes:
        if np.isnat(self.values[rows[0]]):
            return _NULL
        return _numbers((self.values[rows] - np.datetime64(_EPOCH, "D")).astype(np.int64), ">i4")


@dataclass(frozen=True)
class Lists:
    """An array a row, (n, k); of floats, or of whole numbers of which a negative is null."""

    values: Column
    is_whole: bool = False

    def pattern(self) -> IntArray | None:
        if not self.is_whole:
            return None
        return np.asarray((self.values < 0) @ (1 << np.arange(self.values.shape[1])))

    def encoded(self, rows: IntArray) -> Bytes:
        values, width = self.values[rows], ">i4" if self.is_whole else ">f8"
        null = values[0] < 0 if self.is_whole else np.zeros(values.shape[1], dtype=bool)
        if null.any():
            parts = [_NULL if gone else _numbers(values[:, at], width) for at, gone in enumerate(null)]
        else:
            parts = [_numbers(values, width)]
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

    def encoded(self, rows: IntArray) -> Bytes:
        return _field(self.words[int(self.codes[rows[0]])].encode())


@dataclass(frozen=True)
class Same:
    """The same value in every row."""

    value: str | datetime.datetime | datetime.date | Sequence[str]

    def pattern(self) -> IntArray | None:
        return None

    def encoded(self, rows: IntArray) -> Bytes:
        if isinstance(self.value, datetime.datetime):
            epoch = datetime.datetime(2000, 1, 1, tzinfo=datetime.UTC)
            return _field(struct.pack(">q", round((self.value - epoch).total_seconds() * 1e6)))
        if isinstance(self.value, datetime.date):
            return _field(struct.pack(">i", (self.value - _EPOCH).days))
        if isinstance(self.value, str):
            return _field(self.value.encode())
        words = b"".join(struct.pack(">i", len(w.encode())) + w.encode() for w in self.value)
        return _field(struct.pack(">iiiii", 1, 0, 1043, len(self.value), 1) + words)


def _beside(parts: list[Bytes], rows: int) -> Bytes:
    wide = [part if part.shape[0] == rows else np.broadcast_to(part, (rows, part.shape[1])) for part in parts]
    return np.concatenate(wide, axis=1)


@dataclass(frozen=True)
class Block:
    """Rows to be stored, as columns by the names of their fields."""

    columns: dict[str, Written]
    rows: int

    def encoded(self) -> Iterator[bytes]:
        """The rows as COPY takes them, in groups of one pattern."""
        count = np.frombuffer(struct.pack(">h", len(self.columns)), dtype=np.uint8)[None, :]
        for members in self._alike():
            encoded = [column.encoded(members) for column in self.columns.values()]
            yield _beside([count, *encoded], members.size).tobytes()

    def _alike(self) -> list[IntArray]:
        """The rows by their pattern."""
        group = np.zeros(self.rows, dtype=np.int64)
        if self.rows == 1:
            return [group]
        for column in self.columns.values():
            pattern = column.pattern()
            if pattern is not None:
                different, place = np.unique(pattern, return_inverse=True)
                group = group * different.size + place
                group = np.unique(group, return_inverse=True)[1]
        order = np.argsort(group, kind="stable")
        starts = np.flatnonzero(np.diff(group[order], prepend=-1))
        return np.split(order, starts[1:])


def write_columns(model: type[models.Model], *blocks: Block) -> None:
    """Append blocks of rows with the same columns to a table; one COPY, none for no rows."""
    filled = [block for block in blocks if block.rows]
    if not filled:
        return
    fields = list(filled[0].columns)
    if any(list(block.columns) != fields for block in filled):
        raise ValueError("blocks that are stored together have the same columns in the same order")
    quote = connection.ops.quote_name
    own = {field.name: str(field.column) for field in model._meta.concrete_fields}
    names = ", ".join(quote(own[name]) for name in fields)
    with (
        connection.cursor() as cursor,
        cursor.copy(f"COPY {quote(model._meta.db_table)} ({names}) FROM STDIN (FORMAT BINARY)") as copy,
    ):
        waiting = [_SIGNATURE]
        for block in filled:
            for rows in block.encoded():
                waiting.append(rows)
                # Each write is a message: small ones are sent together.
                if len(rows) > _MESSAGE:
                    copy.write(b"".join(waiting))
                    waiting.clear()
        copy.write(b"".join([*waiting, struct.pack(">h", -1)]))


__all__ = [
    "Block",
    "Days",
    "Lists",
    "Numbers",
    "Read",
    "Reading",
    "Same",
    "Words",
    "day",
    "flag",
    "number",
    "position",
    "read_columns",
    "read_together",
    "there",
    "truth",
    "whole",
    "word",
    "write_columns",
]

"""What every payload of the API has in common."""

import datetime
from typing import Annotated

from ninja import Schema
from pydantic import ConfigDict, Field, StringConstraints, WithJsonSchema

NO_NUL = r"^[^\x00]*$"
"""PostgreSQL keeps no such character."""
Id = Annotated[int, Field(ge=1, le=2**62)]
Day = Annotated[datetime.date, Field(ge=datetime.date(1850, 1, 1), le=datetime.date(2199, 12, 31))]
"""A day of anybody's records: before the first of them, or so far ahead that no year follows, is a slip of the hand."""
WrittenDay = Annotated[str, WithJsonSchema({"type": "string", "format": "date"})]
"""A day as it is kept in a document of the database."""
Version = Annotated[int, Field(ge=0, le=2**62, description="The version of the record that an edit started from.")]
Words = Annotated[str, StringConstraints(max_length=200, pattern=NO_NUL)]
"""What somebody types to find something."""


Offset = Annotated[int, Field(ge=0, le=10_000_000)]
Limit = Annotated[int, Field(ge=1, le=500)]


def text(most: int) -> StringConstraints:
    """A line of at most so many characters."""
    return StringConstraints(strip_whitespace=True, max_length=most, pattern=NO_NUL)


Details = Annotated[
    dict[Annotated[str, StringConstraints(max_length=40, pattern=r"^[a-z_]+$")], Annotated[str, text(120)] | float],
    Field(max_length=40),
]
"""What else is told of a thing, by the core's table of details."""


class DetailOut(Schema):
    """One thing that can be told besides, for a form: a figure, a choice, or a line."""

    name: str
    ask: str
    unit: str = Field(description="Of a figure; else empty.")
    low: float
    high: float
    words: list[str] = Field(description="Of a choice; else none.")


class Payload(Schema):
    """What is sent in: an unknown field is a mistake, and no figure is infinite."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

"""What is sent and taken of messages to customers."""

import datetime
from typing import Annotated, Literal

from pydantic import AwareDatetime, Field
from typing_extensions import TypedDict

from aquifer.outbox.models import Answered, MessageKind, MessageState, Way
from aquifer.wire import Day, Id, Payload, Version, text


class MessageOut(TypedDict):
    id: int
    kind: MessageKind
    state: MessageState
    way: Way
    customer: str
    site: str
    subject: str
    body: str
    trouble: str
    tries: int
    written_at: datetime.datetime
    sent_at: datetime.datetime | None
    answered: Answered | None
    words: str
    appointment_id: int | None
    on: datetime.date | None


class OffersIn(Payload):
    """Offer every planned visit of some days, or one visit."""

    first: Day | None = None
    last: Day | None = None
    appointment_id: int | None = None
    appointment_ids: Annotated[list[Id], Field(max_length=500)] | None = None
    not_before: AwareDatetime | None = Field(default=None, description="Sent later, no sooner than this.")


Said = Literal["told", "accepted", "other_time", "declined"]


class CalledIn(Payload):
    """What became of a call: they were told, or said something to it."""

    said: Said
    words: Annotated[str, text(300)] = ""


class OffersOut(TypedDict):
    written: int
    to_call: int


class OfferPreviewOut(TypedDict):
    """What would be written to whom, or that they are called instead."""

    appointment_id: int
    customer: str
    site: str
    on: datetime.date
    times: str
    way: Way
    address: str
    body: str


class ToCallOut(TypedDict):
    """Somebody to call, and what to say."""

    message_id: Annotated[
        int | None, Field(description="What they are to be told instead of being written to, if it is that.")
    ]
    appointment_id: int | None
    customer: str
    phone: str
    site: str
    on: datetime.date | None
    why: str
    say: list[str]
    answers: Annotated[
        list[Said], Field(description="What can be kept of the call; none where the visit is placed instead.")
    ]


class ContactIn(Payload):
    way: Way
    opted_out: bool = False
    version: Version | None = None


class ContactOut(TypedDict):
    version: Annotated[int, Field(description="0: nobody has said how they want to be reached.")]
    way: Way
    opted_out: bool
    reached_by: Way
    address: str


class CalendarOut(TypedDict):
    member_id: int
    name: str
    address: Annotated[str, Field(description="Where a calendar program subscribes; whoever has it can read it.")]

"""What the trucks and the store send and take."""

import datetime
import uuid
from typing import Annotated, NotRequired

from pydantic import Field, StringConstraints
from typing_extensions import TypedDict

from aquifer.wire import Id, Payload, Version


class StockLineOut(TypedDict):
    part: str
    expected: Annotated[float, Field(description="How many will be needed on average.")]
    quantity: Annotated[float, Field(description="How many suffice with the service level that is set.")]
    held: float
    to_add: float


class TruckOut(TypedDict):
    member_id: int
    name: str
    lines: list[StockLineOut]
    brings: NotRequired[Annotated[list[str], Field(description="What the places of the day ask for besides.")]]
    borrows: NotRequired[Annotated[list[str], Field(description="Tools taken over from another truck, or given.")]]


class KitOut(TypedDict):
    what_for: str
    things: list[str]


class PartMovedOut(TypedDict):
    at: datetime.datetime
    by: str
    part: str
    quantity: float
    source: Annotated[str, Field(description="Whose truck, the store, or a supplier.")]
    target: str


class CrewPlaceOut(TypedDict):
    member_id: int
    name: str


class StockOut(TypedDict):
    service_level: float
    service_level_version: int
    trucks: list[TruckOut]
    to_buy: list[StockLineOut]
    moved: list[PartMovedOut]
    crew: list[CrewPlaceOut]
    kit: NotRequired[Annotated[list[KitOut], Field(description="What every truck always has along.")]]


class CountIn(Payload):
    part: Annotated[str, StringConstraints(min_length=1, max_length=80, pattern=r"^[^\x00]*$")]
    member_id: Annotated[int, Field(ge=1, le=2**62)] | None = None
    quantity: Annotated[float, Field(ge=0, le=100_000)]


class PartMoveIn(Payload):
    """So many of a part, from whose truck to whose; none is the store."""

    part: Annotated[str, StringConstraints(min_length=1, max_length=80, pattern=r"^[^\x00]*$")]
    quantity: Annotated[float, Field(gt=0, le=100_000)]
    received: Annotated[bool, Field(description="They come from a supplier.")] = False
    source: Id | None = None
    target: Id | None = None
    client_id: uuid.UUID


class LevelIn(Payload):
    service_level: Annotated[float, Field(ge=0.5, le=0.999)]
    version: Version | None = None


class LevelOut(TypedDict):
    service_level: float
    version: int

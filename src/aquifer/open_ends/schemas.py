import datetime
from typing import Annotated

from ninja import Schema
from pydantic import Field, StringConstraints
from typing_extensions import TypedDict

from aquifer.core.place import Severity
from aquifer.heaters.models import PartKind
from aquifer.open_ends.models import OpenEndKind, OpenEndState
from aquifer.wire import Day, Payload, text

Words = Annotated[str, StringConstraints(strip_whitespace=True, min_length=3, max_length=400, pattern=r"^[^\x00]*$")]
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=2, max_length=80, pattern=r"^[^\x00]*$")]


class OpenEndIn(Payload):
    heater_id: int | None = None
    site_id: int | None = None
    kind: OpenEndKind = OpenEndKind.DEFECT
    severity: Severity = Severity.DEFECT
    words: Words


class StateIn(Payload):
    state: OpenEndState
    how: Annotated[str, text(240)] = ""


class OpenEndOut(TypedDict):
    id: int
    kind: str
    severity: Severity
    words: str
    state: str
    site_id: int
    site: str
    street: str
    heater_id: int | None
    heater: str | None
    location: str
    campaign: str | None
    raised_on: datetime.date
    raised_by: str
    promised_on: datetime.date | None
    photographs: Annotated[list[int], Field(description="Attachments that show it, by their ids.")]
    closed_on: datetime.date | None
    how_closed: str


class OpenEndPageOut(TypedDict):
    total: int
    rows: list[OpenEndOut]
    by_severity: dict[str, int]


class CampaignIn(Payload):
    name: Name
    part: Annotated[str, StringConstraints(strip_whitespace=True, min_length=2, max_length=60, pattern=r"^[^\x00]*$")]
    maker: Annotated[str, text(80)] = ""
    model: Annotated[str, text(80)] = ""
    part_kind: PartKind | None = None
    build: Annotated[str, text(80)] = Field("", description="Told by the part's own look; else by the heater's maker.")
    installed_from: Day | None = None
    installed_until: Day | None = None
    doubtful_look: Annotated[
        str, StringConstraints(strip_whitespace=True, min_length=3, max_length=240, pattern=r"^[^\x00]*$")
    ]
    sound_look: Annotated[str, text(240)] = ""
    severity: Severity = Severity.DEFECT


class CampaignOut(Schema):
    id: int
    name: str
    part: str
    maker: str
    model: str
    part_kind: str
    build: str
    installed_from: datetime.date | None
    installed_until: datetime.date | None
    doubtful_look: str
    sound_look: str
    severity: Severity
    closed: bool
    heaters: int
    to_do: int

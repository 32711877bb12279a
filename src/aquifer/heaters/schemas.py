"""What a heater looks like on the wire. Figures are in SI; the browser shows them in the company's units."""

import datetime
from typing import Annotated

from ninja import Schema
from pydantic import ConfigDict, Field, StringConstraints

from aquifer.core.vocabulary import Alloy, HeaterKind, Practice
from aquifer.heaters.models import InstallCertainty

Text = Annotated[str, StringConstraints(strip_whitespace=True, max_length=120)]
Tag = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40, pattern=r"^[^\x00-\x1f]+$")]


class _Payload(Schema):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class PartIn(_Payload):
    alloy: Alloy | None = None
    diameter_mm: float | None = Field(None, ge=5, le=100)
    length_mm: float | None = Field(None, ge=50, le=5000)
    count: int = Field(1, ge=1, le=12)
    fitted_on: datetime.date | None = None


class HeaterFields(_Payload):
    tag: Tag
    site_id: int
    kind: HeaterKind
    location: Text = ""
    maker: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] = ""
    model: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] = ""
    serial: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] = ""
    installed_on: datetime.date | None = None
    install_certainty: InstallCertainty = InstallCertainty.KNOWN
    capacity_l: float | None = Field(None, gt=0, le=20_000)
    setpoint_c: float | None = Field(None, ge=30, le=95)
    input_kw: float | None = Field(None, ge=0, le=1000)
    height_mm: float | None = Field(None, ge=100, le=10_000)
    diameter_mm: float | None = Field(None, ge=100, le=5000)
    drain_port_height_mm: float | None = Field(None, ge=1, le=1000)
    probe_height_mm: float | None = Field(None, ge=1, le=5000)
    lower_element_height_mm: float | None = Field(None, ge=1, le=5000)
    practice: Practice | None = None
    anode: PartIn | None = None
    relief_valve: PartIn | None = None


class HeaterIn(HeaterFields):
    pass


class HeaterPatch(HeaterFields):
    version: int = Field(ge=1, description="The version this edit started from.")


class SiteIn(_Payload):
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=160)]
    customer_name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=160)] = ""
    street: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)] = ""
    town: Text = ""
    zone_id: int
    softened: bool = False
    people: float | None = Field(None, ge=0, le=10_000)
    hot_water_l_per_day: float | None = Field(None, gt=0, le=1_000_000)
    hazard: Annotated[str, StringConstraints(strip_whitespace=True, max_length=240)] = ""


class SiteOut(Schema):
    id: int
    code: str
    name: str
    customer: str
    street: str
    town: str
    zone_id: int
    zone: str
    softened: bool
    people: float | None
    hot_water_l_per_day: float | None
    static_pressure_kpa: float | None
    hazard: str
    shut_off: str
    access: str


class PartOut(Schema):
    kind: str
    alloy: str
    diameter_mm: float | None
    length_mm: float | None
    count: int
    fitted_on: datetime.date | None


class HeaterOut(Schema):
    id: int
    tag: str
    kind: HeaterKind
    is_tank: bool
    location: str
    maker: str
    model: str
    serial: str
    installed_on: datetime.date | None
    install_certainty: InstallCertainty
    capacity_l: float | None
    setpoint_c: float | None
    input_kw: float | None
    height_mm: float | None
    diameter_mm: float | None
    drain_port_height_mm: float | None
    probe_height_mm: float | None
    lower_element_height_mm: float | None
    practice: str
    version: int
    archived: bool
    site: SiteOut
    parts: list[PartOut]


class HeaterRowOut(Schema):
    id: int
    tag: str
    kind: HeaterKind
    location: str
    site: str
    street: str
    zone: str
    capacity_l: float | None
    installed_on: datetime.date | None
    install_certainty: InstallCertainty
    hazard: str
    depth_share: float | None
    anode_left: float | None
    next_due_on: datetime.date | None
    next_component: str | None


class HeaterPageOut(Schema):
    total: int
    rows: list[HeaterRowOut]

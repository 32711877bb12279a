"""A heater on the wire, with its site, what stands around it and what is not in order."""

import datetime

from ninja import Schema
from pydantic import Field

from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import FlushHistory
from aquifer.heaters.models import InstallCertainty
from aquifer.heaters.schemas import HeaterRowOut, MadeOut, OtherHeaterOut, PartOut
from aquifer.open_ends.schemas import OpenEndOut
from aquifer.places.schemas import FeatureOut, SiteOut
from aquifer.rounds.schemas import NextVisitOut


class HeaterFoundOut(HeaterRowOut):
    """A heater that was looked for, and when somebody comes there next."""

    site_id: int
    next_visit: NextVisitOut | None


class PlaceFoundOut(Schema):
    kind: str
    id: int
    name: str
    detail: str
    next_visit: NextVisitOut | None


class FoundOut(Schema):
    exact: bool
    heaters: list[HeaterFoundOut]
    places: list[PlaceFoundOut]


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
    exchanger_area_m2: float | None
    burner_hours_per_day: float | None
    recirculated: bool
    install_margin_years: float | None
    flush_history: FlushHistory
    last_flush_year: int | None
    boiler: str
    control_setting: str
    supply_volts: int | None
    dip_tube: str
    anode_port: str
    bank: str
    practice: str
    ignition: str
    vent: str
    note: str
    details: dict[str, str | float] = Field({}, description="What else is told of it.")
    version: int
    archived: bool
    ended_on: datetime.date | None = Field(description="When it left care, where somebody says.")
    end_cause: str
    end_note: str
    end_weight_kg: float | None
    successor: OtherHeaterOut | None
    made: MadeOut | None = Field(None, description="By its serial, where its maker's pattern was taught.")
    unlike: list[str] = Field([], description="Where it is not like the heater that it replaced.")
    guessed: list[str]
    assumed: dict[str, float] = Field(description="What the forecast takes for figures that nobody has read.")
    site: SiteOut
    shut_offs: list[FeatureOut] = Field(description="Its valves and switches, and those of the house.")
    open_ends: list[OpenEndOut]
    parts: list[PartOut] = Field(description="In place.")
    past_parts: list[PartOut]
    can_have: list[str] = Field([], description="Kinds of part; none in what a device kept from before.")
    others: list[OtherHeaterOut] = Field(description="The other heaters of its site.")

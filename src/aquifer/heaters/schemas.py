"""What a heater looks like on the wire. Figures are in SI; the browser shows them in the company's units."""

import datetime
from typing import Annotated, NotRequired

from ninja import Schema
from pydantic import ConfigDict, Field, StringConstraints
from typing_extensions import TypedDict

from aquifer.core.bounds import within
from aquifer.core.kinds import HeaterKind, Ignition, Vent
from aquifer.core.vocabulary import Alloy, EndCause, FlushHistory, Practice
from aquifer.heaters.models import InstallCertainty, PartKind
from aquifer.wire import Day, DetailOut, Details, Version

_NO_NUL = r"^[^\x00]*$"
Text = Annotated[str, StringConstraints(strip_whitespace=True, max_length=120, pattern=_NO_NUL)]
Short = Annotated[str, StringConstraints(strip_whitespace=True, max_length=80, pattern=_NO_NUL)]
Tag = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40, pattern=r"^[^\x00-\x1f]+$")]


class _Payload(Schema):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class TaggedOut(TypedDict):
    id: int


class PartIn(_Payload):
    alloy: Alloy | None = None
    diameter_mm: Annotated[float | None, within("anode.diameter_mm")] = None
    length_mm: Annotated[float | None, within("anode.length_mm")] = None
    count: Annotated[int, within("anode.count")] = 1
    fitted_on: Day | None = None
    set_pressure_kpa: Annotated[float | None, within("relief_valve.set_pressure_kpa")] = None
    set_temperature_c: Annotated[float | None, within("relief_valve.set_temperature_c")] = None
    probe_length_mm: Annotated[float | None, within("relief_valve.probe_length_mm")] = None
    rating_kw: Annotated[float | None, within("relief_valve.rating_kw")] = None
    volume_l: Annotated[float | None, within("expansion_tank.volume_l")] = None
    precharge_kpa: Annotated[float | None, within("expansion_tank.precharge_kpa")] = None
    build: Short = ""
    details: Details | None = Field(None, description="What else is told; none: as it was.")


class FitIn(PartIn):
    """A part fitted, in place of one of its kind if there is one."""

    kind: PartKind
    fitted_on: Day
    why: Text = ""


class PartPatch(PartIn):
    version: Version | None = None


class HeaterFields(_Payload):
    tag: Tag
    site_id: int
    kind: HeaterKind
    location: Text = ""
    maker: Short = ""
    model: Short = ""
    serial: Short = ""
    installed_on: datetime.date | None = None
    install_certainty: InstallCertainty = InstallCertainty.KNOWN
    capacity_l: Annotated[float | None, within("heater.capacity_l")] = None
    setpoint_c: Annotated[float | None, within("heater.setpoint_c")] = None
    input_kw: Annotated[float | None, within("heater.input_kw")] = None
    height_mm: Annotated[float | None, within("heater.height_mm")] = None
    diameter_mm: Annotated[float | None, within("heater.diameter_mm")] = None
    drain_port_height_mm: Annotated[float | None, within("heater.drain_port_height_mm")] = None
    probe_height_mm: Annotated[float | None, within("heater.probe_height_mm")] = None
    lower_element_height_mm: Annotated[float | None, within("heater.lower_element_height_mm")] = None
    exchanger_area_m2: Annotated[float | None, within("heater.exchanger_area_m2")] = None
    burner_hours_per_day: Annotated[float | None, within("heater.burner_hours_per_day")] = None
    recirculated: bool = False
    install_margin_years: Annotated[float | None, within("heater.install_margin_years")] = None
    flush_history: FlushHistory = FlushHistory.RECORDED
    last_flush_year: int | None = Field(None, ge=1950, le=2200)
    boiler: Text = ""
    control_setting: Short = ""
    supply_volts: Annotated[int | None, within("heater.supply_volts")] = None
    dip_tube: Short = ""
    anode_port: Short = ""
    bank: Annotated[str, StringConstraints(strip_whitespace=True, max_length=40, pattern=_NO_NUL)] = ""
    practice: Practice | None = None
    ignition: Ignition | None = Field(None, description="How it is lit; none where nobody has looked.")
    vent: Vent | None = None
    note: Annotated[str, StringConstraints(strip_whitespace=True, max_length=500, pattern=_NO_NUL)] = ""
    details: Details | None = Field(None, description="What else is told; none: as it was.")
    anode: PartIn | None = None
    relief_valve: PartIn | None = None


class HeaterIn(HeaterFields):
    pass


class HeaterPatch(HeaterFields):
    version: int = Field(ge=1, description="The version this edit started from.")


class PartOut(TypedDict):
    id: int
    version: int
    kind: PartKind
    alloy: str
    diameter_mm: float | None
    length_mm: float | None
    count: int
    fitted_on: datetime.date | None
    removed_on: datetime.date | None
    set_pressure_kpa: float | None
    set_temperature_c: float | None
    probe_length_mm: float | None
    rating_kw: float | None
    volume_l: float | None
    precharge_kpa: float | None
    build: str
    why_removed: str
    details: NotRequired[dict[str, str | float]]
    warranty_until: NotRequired[
        Annotated[datetime.date | None, Field(description="We fitted it, and renew it without a charge until then.")]
    ]


class SerialPatternIn(_Payload):
    """Where in a maker's serials the date stands; places are counted from 1."""

    maker: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80, pattern=_NO_NUL)]
    year_at: int = Field(ge=0, le=99)
    year_digits: int = Field(2, ge=0, le=9)
    week_at: int | None = Field(None, ge=0, le=99)
    month_at: int | None = Field(None, ge=0, le=99)
    version: Version | None = None


class SerialPatternOut(TypedDict):
    version: int
    maker: str
    year_at: int
    year_digits: int
    week_at: int | None
    month_at: int | None


class MadeOut(TypedDict):
    """When it was made, by its serial."""

    first: datetime.date
    last: datetime.date
    doubt: Annotated[str, Field(description="What does not fit with its date of installation; else empty.")]


class OtherHeaterOut(TypedDict):
    id: int
    tag: str
    kind: HeaterKind
    location: str
    bank: str


class EquipmentOut(TypedDict):
    """What is asked of a kind of heater."""

    kind: HeaterKind
    is_tank: bool
    fields: list[str]
    parts: list[str]
    assumed: dict[str, float]
    details: list[DetailOut]
    part_details: Annotated[dict[str, list[DetailOut]], Field(description="By the kind of part.")]


class ListedHeater(TypedDict):
    """A heater as any list of them shows it."""

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


class HeaterRowOut(ListedHeater):
    bank: str
    site_id: int
    left_off: Annotated[str, Field(description="Why it was left off, if it is.")]
    next_due_on: datetime.date | None
    next_component: str | None


class HeaterPageOut(TypedDict):
    total: int
    rows: list[HeaterRowOut]


class HeaterFilters(_Payload):
    q: Annotated[str, StringConstraints(max_length=200, pattern=r"^[^\x00]*$")] = ""
    zone_id: int | None = Field(None, ge=1, le=2**62)
    kind: HeaterKind | None = None
    guessed: bool = False
    archived: bool = False


class EndIn(_Payload):
    """Why and when a heater went."""

    cause: EndCause
    on: Day
    note: Annotated[str, StringConstraints(max_length=500, pattern=r"^[^\x00]*$", strip_whitespace=True)] = ""
    weight_kg: Annotated[float | None, within("heater.end_weight_kg")] = None
    successor_tag: Annotated[str, StringConstraints(max_length=40, pattern=r"^[^\x00]*$", strip_whitespace=True)] = ""


class BulkIn(_Payload):
    filters: HeaterFilters
    field: Annotated[str, StringConstraints(max_length=40)]
    value: str | float | bool | None


class BulkChangeIn(BulkIn):
    expected: int = Field(ge=0, description="How many the preview said it would change.")


class PreviewRowOut(TypedDict):
    id: int
    tag: str
    site: str
    before: str | float | bool | None


class PreviewOut(Schema):
    total: int
    changed: int
    shown: list[PreviewRowOut]
    refused: list[str]


class ChangedOut(TypedDict):
    changed: int


class MergeIn(_Payload):
    other_id: int = Field(ge=1, le=2**62)


class SuspectOut(TypedDict):
    id: int
    tag: str
    kind: HeaterKind
    site: str
    street: str
    location: str
    serial: str
    installed_on: datetime.date | None
    visits: int


class SuspectedOut(TypedDict):
    first: SuspectOut
    second: SuspectOut
    because: str

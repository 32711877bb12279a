"""A heater on the wire, with its site, what stands around it and what is not in order."""

import datetime
from typing import Annotated, NotRequired

from pydantic import Field
from typing_extensions import TypedDict

from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import Component, FlushHistory, Supply
from aquifer.heaters.models import InstallCertainty
from aquifer.heaters.schemas import HeaterRowOut, MadeOut, OtherHeaterOut, PartOut
from aquifer.open_ends.schemas import OpenEndOut
from aquifer.places.schemas import FeatureOut, SiteOut
from aquifer.rounds.schemas import NextVisitOut


class HeaterFoundOut(HeaterRowOut):
    """A heater that was looked for, and when somebody comes there next."""

    next_visit: NextVisitOut | None


class PlaceFoundOut(TypedDict):
    kind: str
    id: int
    name: str
    detail: str
    next_visit: NextVisitOut | None


class FoundOut(TypedDict):
    exact: bool
    heaters: list[HeaterFoundOut]
    places: list[PlaceFoundOut]


class HeaterOut(TypedDict):
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
    details: NotRequired[Annotated[dict[str, str | float], Field(description="What else is told of it.")]]
    version: int
    archived: bool
    ended_on: Annotated[datetime.date | None, Field(description="When it left care, where somebody says.")]
    end_cause: str
    end_note: str
    end_weight_kg: float | None
    successor: OtherHeaterOut | None
    made: NotRequired[
        Annotated[MadeOut | None, Field(description="By its serial, where its maker's pattern was taught.")]
    ]
    unlike: NotRequired[Annotated[list[str], Field(description="Where it is not like the heater that it replaced.")]]
    guessed: list[str]
    assumed: Annotated[dict[str, float], Field(description="What the forecast takes for figures that nobody has read.")]
    site: SiteOut
    shut_offs: Annotated[list[FeatureOut], Field(description="Its valves and switches, and those of the house.")]
    open_ends: list[OpenEndOut]
    parts: Annotated[list[PartOut], Field(description="In place.")]
    past_parts: list[PartOut]
    can_have: NotRequired[
        Annotated[list[str], Field(description="Kinds of part; none in what a device kept from before.")]
    ]
    can_measure: NotRequired[
        Annotated[list[str], Field(description="Besides what steps ask for; none in what a device kept from before.")]
    ]
    others: Annotated[list[OtherHeaterOut], Field(description="The other heaters of its site.")]


class ZoneOut(TypedDict):
    id: int
    name: str
    code: str
    tests: int
    hardness_mg_l: float
    hardness_class: str
    carbonate_is_known: bool
    log_sd: Annotated[
        float, Field(description="What is unknown of the water adds so much to the log rate of its deposit.")
    ]
    saturation_index_60: float
    potential_60_mg_l: float
    softened_potential_60_mg_l: Annotated[float, Field(description="The same of what comes out of a softener.")]
    heaters: int
    softened_heaters: Annotated[int, Field(description="Those that get it through a softener.")]
    in_words: str


class ZoneOnMapOut(ZoneOut):
    outline: list[list[float]] | None
    supply: Supply
    note: str
    sites: int
    last_test: datetime.date | None


class MapSquareOut(TypedDict):
    """Heaters that stand close together on a map as it is shown."""

    longitude: float
    latitude: float
    heaters: int
    overdue: int
    soon: Annotated[int, Field(description="Due within four weeks.")]
    year: Annotated[int, Field(description="Due after that, within a year.")]
    site_id: Annotated[int | None, Field(description="Where all of them stand at one site.")]
    name: str
    box: Annotated[list[float], Field(description="West, south, east, north of them.")]


class HeaterMapOut(TypedDict):
    box: Annotated[list[float] | None, Field(description="West, south, east, north of all heaters that have a place.")]
    squares: list[MapSquareOut]
    heaters: int
    without_place: int


class TestOut(TypedDict):
    id: int
    taken_on: datetime.date
    method: str
    site: str
    site_id: int | None
    total_hardness_mg_l: float | None
    calcium_hardness_mg_l: float | None
    alkalinity_mg_l: float | None
    ph: float | None
    conductivity_us_cm: float | None
    iron_mg_l: float | None
    suspended_solids_mg_l: float | None
    free_chlorine_mg_l: float | None
    disinfectant: str
    may_be_off_by: Annotated[
        float, Field(description="Its method's error as a factor of the hardness, when it was taken.")
    ]


class AssumedOut(TypedDict):
    figure: str
    value: float
    why: str


class SeasonOut(TypedDict):
    name: str
    other_id: int
    other: str
    share_of_year: float
    other_share: float


class KindOnWaterOut(TypedDict):
    kind: HeaterKind
    component: Component
    heaters: int
    pace: Annotated[
        float, Field(description="What findings taught of the log rate, over what the water suggests: in the middle.")
    ]
    pace_low: Annotated[float, Field(description="Between this and the next are eight of ten such heaters.")]
    pace_high: float


class UntestedOut(TypedDict):
    id: int
    name: str
    street: str
    softened: bool
    heaters: int


class ZonePageOut(ZoneOut):
    version: int
    supply: Supply
    note: str
    places: list[str]
    practice: str
    assumed: list[AssumedOut]
    tests_taken: list[TestOut]
    seasons: list[SeasonOut]
    kinds: list[KindOnWaterOut]
    sites_total: int
    sites_with_a_test: int
    without_a_test: list[UntestedOut]
    points: list[list[float]]
    outline: list[list[float]] | None


class FetchedOut(TypedDict):
    new: int

"""A site on the wire: who is there, what stands around its heaters, and what is not in order."""

import datetime
from typing import Annotated, NotRequired

from ninja import Schema
from pydantic import Field, StringConstraints
from typing_extensions import TypedDict

from aquifer.core.bounds import within
from aquifer.core.kinds import HeaterKind
from aquifer.core.place import FeatureGroup, FeatureKind, Severity
from aquifer.core.vocabulary import Business, Practice
from aquifer.heaters.schemas import HeaterRowOut
from aquifer.open_ends.schemas import OpenEndOut
from aquifer.wire import Day, DetailOut, Details, Payload, Version, text


class SiteFields(Payload):
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=160, pattern=r"^[^\x00]*$")]
    street: Annotated[str, text(200)] = ""
    town: Annotated[str, text(120)] = ""
    zone_id: int
    softened: bool = False
    people: Annotated[float | None, within("site.people")] = None
    fixtures: Annotated[int | None, within("site.fixtures")] = None
    hot_water_l_per_day: Annotated[float | None, within("site.hot_water_l_per_day")] = None
    occupied_share: Annotated[float | None, within("site.occupied_share")] = None
    business: Business | None = None
    practice: Practice | None = None
    static_pressure_kpa: Annotated[float | None, within("site.static_pressure_kpa")] = None
    closed_system: bool | None = None
    dusty: bool = False
    hazard: Annotated[str, text(240)] = ""
    access: Annotated[str, text(240)] = ""
    details: Details | None = Field(None, description="What else is told; none: as it was.")


class SiteIn(SiteFields):
    customer_name: Annotated[str, text(160)] = ""


class SitePatch(SiteFields):
    version: Version | None = None


class CustomerFields(Payload):
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=160, pattern=r"^[^\x00]*$")]
    phone: Annotated[str, text(40)] = ""
    second_phone: Annotated[str, text(40)] = ""
    email: Annotated[str, text(254)] = ""


class CustomerPatch(CustomerFields):
    version: Version | None = None


class CustomerOut(TypedDict):
    id: int
    version: int
    name: str
    phone: str
    second_phone: str
    email: str
    sites: Annotated[list[str], Field(description="Every place where they are served.")]


class ConditionOut(Schema):
    value: str
    words: str
    severity: Severity | None
    advice: str


class FeatureSpecOut(TypedDict):
    """What can be said of a feature, for the form."""

    kind: FeatureKind
    group: FeatureGroup
    name: str
    forms: list[str]
    conditions: list[ConditionOut]
    of: list[HeaterKind]
    of_site: bool
    is_valve: bool
    details: list[DetailOut]


class FeatureIn(Payload):
    kind: FeatureKind
    heater_id: int | None = None
    form: Annotated[str, text(24)] = ""
    condition: Annotated[str, text(16)]
    where: Annotated[str, text(120)] = ""
    do_not_operate: bool = False
    use_instead: Annotated[str, text(120)] = ""
    note: Annotated[str, text(240)] = ""
    details: Details | None = Field(None, description="What else is told; none: as it was.")
    seen_on: Day | None = None
    version: Version | None = None


class FeatureOut(TypedDict):
    id: int
    version: int
    kind: FeatureKind
    group: FeatureGroup
    name: str
    heater_id: int | None
    form: str
    condition: str
    condition_words: str
    severity: Severity | None
    where: str
    do_not_operate: bool
    use_instead: str
    note: str
    details: NotRequired[dict[str, str | float]]
    more: NotRequired[Annotated[list[str], Field(description="The same in words, as the company shows its figures.")]]
    seen_on: datetime.date
    seen_by: str


class SiteOut(TypedDict):
    version: int
    id: int
    code: str
    name: str
    customer_id: int
    customer: str
    phone: str
    second_phone: str
    postcode: str
    located_by: Annotated[
        str, Field(description="Town: it is only the middle of its town or postcode. Empty: by hand.")
    ]
    longitude: float | None
    latitude: float | None
    email: str
    street: str
    town: str
    zone_id: int
    zone: str
    softened: bool
    people: float | None
    fixtures: int | None
    hot_water_l_per_day: float | None
    occupied_share: float | None
    business: str
    practice: str
    static_pressure_kpa: float | None
    pressure_on: Annotated[datetime.date | None, Field(description="When it was measured, or said otherwise.")]
    pressure_measured: bool
    closed_system: bool | None
    dusty: bool
    hazard: str
    hazards: list[str]
    shut_off: str
    access: str
    details: NotRequired[dict[str, str | float]]
    archived: bool


class PlaceIn(Payload):
    """Where a site is; both or neither."""

    latitude: Annotated[float | None, within("place.latitude")] = None
    longitude: Annotated[float | None, within("place.longitude")] = None
    looked_up: bool = False
    version: Version | None = None


class FoundPlaceOut(TypedDict):
    latitude: float
    longitude: float
    words: str


class PlaceOut(TypedDict):
    """What a site's pin is set by."""

    version: int
    latitude: float | None
    longitude: float | None
    neighbours: Annotated[list[tuple[float, float]], Field(description="Longitude and latitude of other sites.")]
    middle: Annotated[tuple[float, float] | None, Field(description="Of the district, where nothing else is known.")]
    looks_up: bool


class MissingFeatureOut(TypedDict):
    kind: FeatureKind
    group: FeatureGroup
    name: str
    heater_id: int | None


class SitePageOut(TypedDict):
    site: SiteOut
    heaters: list[HeaterRowOut]
    features: list[FeatureOut]
    unseen: list[MissingFeatureOut]
    """What matters here and nobody has looked at."""
    open_ends: list[OpenEndOut]

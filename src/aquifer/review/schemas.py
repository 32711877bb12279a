"""What Review tells."""

import datetime
from enum import StrEnum
from typing import Annotated

from pydantic import Field
from typing_extensions import TypedDict

from aquifer.core.kinds import HeaterKind
from aquifer.core.learning.calibration import Verdict
from aquifer.core.planning.hours import Work
from aquifer.core.vocabulary import Component, Practice
from aquifer.heaters.models import InstallCertainty


class Strayed(StrEnum):
    """Which way a measurement lies outside of its window."""

    FASTER = "faster"
    SLOWER = "slower"


KeptAt = Annotated[
    datetime.datetime | None, Field(description="When it was reckoned; none where that was for this answer.")
]


class CheckOut(TypedDict):
    heater_id: int
    tag: str
    site: str
    zone: str
    on: datetime.date
    ratio: Annotated[float, Field(description="The pace that was measured over the pace that was told.")]
    place: Annotated[float, Field(description="Where in what was told it lies: 0.1 is P10, 0.9 is P90.")]
    strayed: Annotated[Strayed | None, Field(description="Which way it lies outside of the 80 % window.")]


class RatioOut(TypedDict):
    name: str
    ratio: float


class AccuracyOut(TypedDict):
    component: Component
    measured: int
    inside: Annotated[
        float | None, Field(description="Share of the measurements inside the 80 % window told before them.")
    ]
    usual_from: Annotated[
        float | None, Field(description="From here windows that hold leave so many, nine times in ten.")
    ]
    usual_to: float | None
    verdict: Verdict
    centre: Annotated[float, Field(description="By what the pace of all windows is multiplied since.")]
    year_strays: Annotated[
        float | None, Field(description="Four of five years lie within this factor of the years before.")
    ]
    heater_scale: Annotated[float, Field(description="How far heaters differ, over what was assumed.")]
    zone_scale: float
    eye_scale: Annotated[float, Field(description="How far grades of one thing by eye differ, over what was assumed.")]
    traits: Annotated[
        list[RatioOut],
        Field(description="What twice the hardness or use, or ten kelvin more, make over what the physics says."),
    ]
    pairs: Annotated[int, Field(description="What was graded and measured at one visit.")]
    common_eye: Annotated[float, Field(description="What people see over what is there.")]
    people: Annotated[list[RatioOut], Field(description="The same of each; for those who set the practice.")]
    say_the_same: Annotated[
        list[str], Field(description="Who grades alike whatever lies there; for those who set the practice.")
    ]
    builds: list[RatioOut]
    checks: list[CheckOut]


class ValvesOut(TypedDict):
    tried: int
    stuck: int


class ForecastsHeldOut(TypedDict):
    components: list[AccuracyOut]
    valves: ValvesOut
    kept_at: KeptAt


class YearAheadOut(TypedDict):
    ahead: int
    failing: float
    due: int


class ZoneTanksOut(TypedDict):
    zone_id: int
    name: str
    tanks: int
    due: Annotated[int, Field(description="Of them due for replacement within 12 months.")]


class TankOut(TypedDict):
    heater_id: int
    tag: str
    kind: HeaterKind
    site: str
    location: str
    street: str
    installed_on: datetime.date | None
    install_certainty: InstallCertainty
    depth_share: float | None
    anode_left: float | None
    within_a_year: float
    between: Annotated[list[float], Field(description="P10 and P90 of that, by what is not known of its law.")]
    accepted: Annotated[float, Field(description="From this probability on a replacement is proposed.")]
    reasons: Annotated[list[str], Field(description="The factors that raise it, the strongest first.")]


class TimesOut(TypedDict):
    """How many times as often as others tanks fail, with P10 and P90 of it."""

    name: str
    times: float
    between: list[float]


class LivesTaughtOut(TypedDict):
    """What the company's own tanks taught of how tanks end."""

    failures: Annotated[int, Field(description="Own tanks that leaked, behind it.")]
    of_all: Annotated[TimesOut, Field(description="Against the handbook, at its characteristic age.")]
    makes: Annotated[list[TimesOut], Field(description="Against the others, those that differ for sure, worst first.")]


class ReplacementsOut(TypedDict):
    tanks: int
    taught: LivesTaughtOut
    years: list[YearAheadOut]
    zones: list[ZoneTanksOut]
    likeliest: list[TankOut]
    kept_at: KeptAt


class PracticeOut(TypedDict):
    practice: Practice
    cleanings: Annotated[float, Field(description="Flushes and descales of a heater in the coming twelve months.")]
    hours: float
    over_days: Annotated[float, Field(description="Days over the limit of a heater in them.")]


class WaterPracticesOut(TypedDict):
    zone_id: Annotated[int | None, Field(description="None for the whole base.")]
    name: str
    heaters: int
    followed: Practice
    practices: list[PracticeOut]


class PracticesOut(TypedDict):
    heaters: int
    asked_of: int
    rows: list[WaterPracticesOut]
    kept_at: KeptAt


class WorkYearOut(TypedDict):
    year: int
    so_far: Annotated[bool, Field(description="The year is not over.")]
    visits: int
    heaters: Annotated[int, Field(description="That were visited.")]
    flushes: int
    descales: int
    rods: int
    relief_valves: int
    expansion_tanks: int
    other_parts: int
    emergencies: int
    open_issues: Annotated[int, Field(description="That were raised.")]


class BuildOut(TypedDict):
    """Failures of a part, counted by the build of heater it sat in."""

    part: str
    maker: str
    model: str
    heaters: int
    failures: int
    expected: float
    """What the same number of heaters would show if all builds were alike."""


class HoursHeld(StrEnum):
    """Whether visits took what they were planned for."""

    HOLD = "hold"
    TOO_SHORT = "too_short"
    TOO_LONG = "too_long"
    UNEVEN = "uneven"
    """In the mean they do, but more or fewer stray than is told."""
    UNKNOWN = "unknown"


class WorkHoursOut(TypedDict):
    """One thing that is done at visits, hours of it."""

    work: Work
    assumed: float
    learned: float
    low: Annotated[float, Field(description="Eight of ten would lay the mean between here and high.")]
    high: float
    times: int
    share: Annotated[float | None, Field(description="Of a renewal, at which share of the services it comes up.")]


class HoursHeldOut(TypedDict):
    """Visits over what they would have been planned for."""

    visits: int
    ratio: Annotated[float, Field(description="Of all their hours.")]
    inside: Annotated[float, Field(description="Share of them that lay where eight of ten were told to.")]
    over: Annotated[list[float], Field(description="One in ten, half and nine in ten took at most so much of it.")]
    window: Annotated[list[float], Field(description="Between which eight of ten were told to lie.")]
    verdict: HoursHeld


class PromisesKept(TypedDict):
    """Visits that were done as they stood in the plan: what they were given and took, and when somebody came."""

    visits: Annotated[int, Field(description="Whose length is known.")]
    planned: Annotated[int, Field(description="Minutes of all of these.")]
    took: int
    promised: Annotated[int, Field(description="Times promised to a customer of which it is known when somebody came.")]
    early: int
    late: int
    late_minutes: Annotated[int, Field(description="By which half of the late ones came later.")]


class HoursOut(TypedDict):
    """How long visits take, and whether what was planned held."""

    visits: Annotated[int, Field(description="Of the last two years whose length is known.")]
    rows: list[WorkHoursOut]
    since: Annotated[datetime.date, Field(description="Visits from here on are held against what those before taught.")]
    learned_from: Annotated[int, Field(description="Visits before; 0: too few, so what is assumed is tried.")]
    held: HoursHeldOut
    assumed_held: Annotated[HoursHeldOut, Field(description="The same by what is assumed.")]
    promises: PromisesKept

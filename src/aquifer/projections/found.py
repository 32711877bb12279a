"""What is kept of futures: of a part until all are lived, and of a projection."""

from typing import NotRequired

from typing_extensions import TypedDict

Futures = list[list[float]]
"""By future and year."""
Fan = list[list[float]]
"""P10, P50, P90, each by year."""


class Lived(TypedDict):
    """A part of the base."""

    heaters: int
    counts: list[Futures]
    measures: list[Futures]
    groups: dict[str, dict[str, list[float]]]
    """By water, kind, age or plan, then by its name: heaters, hours, income and materials of all the years."""
    missing: list[str]
    softened: int
    replaced: int
    losing: "Losing"


class SiteMoney(TypedDict):
    """Of a year, on average."""

    site_id: int
    hours: float
    income: float
    cost: float


class Losing(TypedDict):
    """Sites that cost more than they bring, under the plan that they are on."""

    of: int
    sites: int
    rows: list[SiteMoney]
    """The worst of them, those first that cost the most."""


class Group(TypedDict):
    """Of a year, on average."""

    name: str
    heaters: int
    hours: float
    income: float
    cost: float


class Found(TypedDict):
    """The whole base."""

    heaters: int
    until: list[str]
    currency: str
    missing: list[str]
    crew_hours: float
    joining: float
    leaving: float
    calls_a_year: float
    accepted: float
    taken_over: float
    softened: int
    replaced: int
    series: dict[str, Fan]
    futures: dict[str, Futures]
    groups: dict[str, list[Group]]
    losing: NotRequired[Losing]
    """Not of those that were reckoned before it was asked."""


NONE_LOSING: Losing = {"of": 0, "sites": 0, "rows": []}
NOTHING: Found = {
    "heaters": 0,
    "until": [],
    "currency": "",
    "missing": [],
    "crew_hours": 0.0,
    "joining": 0.0,
    "leaving": 0.0,
    "calls_a_year": 0.0,
    "accepted": 0.0,
    "taken_over": 0.0,
    "softened": 0,
    "replaced": 0,
    "series": {},
    "futures": {},
    "groups": {},
}
"""Of what is not reckoned yet."""
EMPTY: Lived = {
    "heaters": 0, "counts": [], "measures": [], "groups": {}, "missing": [], "softened": 0, "replaced": 0,
    "losing": NONE_LOSING,
}  # fmt: skip
"""Of a part whose heaters left meanwhile."""

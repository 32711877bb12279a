"""A quarter of the company for an owner who does not log in: what was done, how the base stands, what is ahead, and
whether what was told came true."""

import datetime
from dataclasses import dataclass

from django.db.models import Count
from django.db.models.functions import TruncMonth
from typing_extensions import TypedDict

from aquifer.company.models import Company
from aquifer.core.vocabulary import Component, ValveOutcome
from aquifer.forecasts.models import Check, Forecast
from aquifer.heaters.models import Heater
from aquifer.open_ends.models import OpenEnd
from aquifer.projections import beside, held
from aquifer.projections.found import Found
from aquifer.projections.models import Projection, ProjectionState
from aquifer.projections.schemas import HeldOut
from aquifer.review import replacements
from aquifer.rounds.read import weeks as load_of_weeks
from aquifer.visits.models import Finding, Visit

MONTHS_SHOWN, WEEKS_AHEAD, MOST_TANKS, MOST_TRIED = 15, 13, 8, 5
SAFETY = (Component.RELIEF_VALVE, Component.EXPANSION_TANK)
FULL = 0.95
"""Of what the crew can plan: a week with more has no room for what nobody foresees. Assumption."""


@dataclass(frozen=True)
class Quarter:
    year: int
    number: int

    @property
    def first(self) -> datetime.date:
        return datetime.date(self.year, 3 * self.number - 2, 1)

    @property
    def last(self) -> datetime.date:
        return self.after.first - datetime.timedelta(days=1)

    @property
    def after(self) -> "Quarter":
        return Quarter(self.year + 1, 1) if self.number == 4 else Quarter(self.year, self.number + 1)

    @property
    def year_before(self) -> "Quarter":
        return Quarter(self.year - 1, self.number)

    @classmethod
    def of(cls, day: datetime.date) -> "Quarter":
        """The one that a day lies in."""
        return cls(day.year, (day.month + 2) // 3)

    @classmethod
    def last_full(cls, today: datetime.date) -> "Quarter":
        """The newest that is over."""
        return cls.of(cls.of(today).first - datetime.timedelta(days=1))


class Month(TypedDict):
    first: datetime.date
    visits: int


class Stuck(TypedDict):
    """Relief valves tried in the quarter, and those that passed nothing."""

    tried: int
    stuck: int


class Standing(TypedDict):
    heaters: int
    joined: int
    left: int
    overdue: dict[Component, int]
    due: dict[Component, list[int]]
    """In each of the coming four quarters, by component."""
    open_issues: dict[str, int]
    tanks: list[tuple[str, str, float]]
    """Tag, site, and the chance of failing within twelve months; the likeliest first."""


class Week(TypedDict):
    first: datetime.date
    planned: float
    crew: float


class Told(TypedDict):
    company: str
    quarter: Quarter
    done: dict[str, int]
    year_before: dict[str, int]
    months: list[Month]
    valves: Stuck
    standing: Standing
    ahead: Found | None
    ahead_on: datetime.date | None
    tried: list[tuple[str, float, float]]
    """What was tried beside it: name, hours more over all years, money more; the middle future."""
    held: HeldOut
    measured: tuple[int, int]
    """Measurements that tested a window in the quarter, and those that lay inside."""
    full_weeks: list[Week]


def read(quarter: Quarter, today: datetime.date) -> Told:
    """Everything the four pages tell. Parameters: quarter; today, from which what stands and lies ahead is told."""
    plain = Projection.objects.filter(state=ProjectionState.READY, decisions=[]).first()
    checks = Check.objects.filter(on__gte=quarter.first, on__lte=quarter.last)
    return {
        "company": Company.current().name,
        "quarter": quarter,
        "done": held.happened(quarter.first, quarter.last),
        "year_before": held.happened(quarter.year_before.first, quarter.year_before.last),
        "months": _months(quarter),
        "valves": _valves(quarter),
        "standing": _standing(quarter, today),
        "ahead": plain.found if plain else None,
        "ahead_on": plain.asked_on if plain else None,
        "tried": _tried(plain) if plain else [],
        "held": held.read(today),
        "measured": (checks.count(), checks.filter(place__gte=0.1, place__lte=0.9).count()),
        "full_weeks": [week for week in _weeks(today) if week["planned"] > FULL * week["crew"] > 0],
    }


def _months(quarter: Quarter) -> list[Month]:
    firsts: list[datetime.date] = []
    day = quarter.last.replace(day=1)
    for _ in range(MONTHS_SHOWN):
        firsts.insert(0, day)
        day = (day - datetime.timedelta(days=1)).replace(day=1)
    counted = Visit.objects.filter(on__gte=firsts[0], on__lte=quarter.last).annotate(month=TruncMonth("on")).order_by()
    visits = dict(counted.values_list("month").annotate(n=Count("pk")))
    return [{"first": first, "visits": visits.get(first, 0)} for first in firsts]


def _valves(quarter: Quarter) -> Stuck:
    tried = Finding.objects.filter(on__gte=quarter.first, on__lte=quarter.last, correction__isnull=True)
    tried = tried.exclude(outcome="").exclude(outcome=ValveOutcome.NOT_TESTED)
    return {"tried": tried.count(), "stuck": tried.filter(outcome=ValveOutcome.NO_FLOW).count()}


def _standing(quarter: Quarter, today: datetime.date) -> Standing:
    current = Forecast.objects.current().filter(heater__archived_at__isnull=True)
    due: dict[Component, list[int]] = {}
    one = Quarter.of(today)
    for number in range(4):
        for component, n in (
            current.filter(due_on__gte=max(one.first, today), due_on__lte=one.last).order_by()
            .values_list("component").annotate(n=Count("pk"))
        ):  # fmt: skip
            due.setdefault(Component(component), [0] * 4)[number] = n
        one = one.after
    overdue = current.filter(due_on__lt=today).order_by().values_list("component").annotate(n=Count("pk"))
    issues = OpenEnd.objects.exclude(state="closed").order_by().values_list("severity").annotate(n=Count("pk"))
    during = {"gte": quarter.first, "lte": quarter.last}
    tanks = replacements.read(today)["likeliest"][:MOST_TANKS]
    return {
        "heaters": Heater.objects.in_service().count(),
        "joined": Heater.objects.filter(**{f"in_care_since__{how}": day for how, day in during.items()}).count(),
        "left": Heater.objects.filter(**{f"ended_on__{how}": day for how, day in during.items()}).count(),
        "overdue": {Component(component): n for component, n in overdue},
        "due": due,
        "open_issues": dict(issues),
        "tanks": [(tank["tag"], tank["site"], tank["within_a_year"]) for tank in tanks],
    }


def _tried(plain: Projection) -> list[tuple[str, float, float]]:
    others = Projection.objects.filter(state=ProjectionState.READY, asked_on=plain.asked_on, years=plain.years)
    found = []
    for other in others.exclude(decisions=[]).order_by("pk")[:MOST_TRIED]:
        more = {one["name"]: one["over_all"]["middle"] for one in beside.compare(plain, other)["differences"]}
        found.append((other.name or "Without a name", more["hours"], more["left"]))
    return found


def _weeks(today: datetime.date) -> list[Week]:
    """The coming quarter of a year, week by week: what is planned, its ways with it, of what the crew can."""
    return [
        {"first": load["week"], "planned": load["hours"], "crew": load["capacity"]}
        for load in load_of_weeks(today, WEEKS_AHEAD, today)
    ]

"""What the forecasts in force want done, as the season takes it."""

import datetime
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import islice
from typing import NamedTuple

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.first_round import SAFETY
from aquifer.core.forecast import PROBABILITIES
from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import DAYS_PER_YEAR
from aquifer.core.planning import level, repeating, season
from aquifer.core.planning.hours import Hours
from aquifer.core.planning.level import UNEVEN_HOURS
from aquifer.core.planning.repeating import Repeated, with_repeats
from aquifer.core.planning.work import (
    INTERVAL_YEARS,
    TWO_PEOPLE,
    equipment_of,
    licence_of,
    people_of,
)
from aquifer.core.vocabulary import Component, DecidedBy, Method
from aquifer.forecasts.models import Forecast
from aquifer.rounds import booked, crew, ways
from aquifer.rounds.models import Appointment, Closed, CrewMember
from aquifer.visits.hours import in_force

PIECE = 20_000
"""Forecasts that are read, and visits that are written, at once. Assumption."""
LONGEST_VISIT_HOURS = 4.0
"""At the heaters; what a site wants beyond it is another visit, so that a pause finds its place. Assumption."""
NEXT_TIME = -1
"""Number of a site's visit for what a visit that stays does before it."""


@dataclass(frozen=True)
class Wanted:
    """One service that a forecast wants."""

    heater_id: int
    site_id: int
    component: Component
    method: Method
    hours: float
    needs: frozenset[str]
    due_on: datetime.date | None
    latest_on: datetime.date | None
    """The cap of a safety service."""
    asked_on: datetime.date | None
    """The last day that keeps what the practice says of another."""
    is_proven: bool
    """A safety service that somebody of ours has done, and that waits for its next time."""
    not_before: datetime.date | None = None
    """Where a visit that stays does it first: sooner after that it would be wasted."""


@dataclass(frozen=True)
class Season:
    """The problem with what each of its rows is."""

    problem: season.Problem
    wanted: list[Wanted]
    """Of each need."""
    sites: list[int]
    """Of each group."""
    needs: list[frozenset[str]]
    """Of each group: what a visit takes."""
    firm: dict[int, int]
    """Visits that stay and may take up more, by group."""
    hours: booked.Hours
    """Of the crew, and what the visits that stay take of them."""
    year_hours: float
    """That all which is in care asks every year, for ever."""
    next_year: FloatArray
    """Hours that what stays asks of next year's weeks, (YEAR_WEEKS,)."""
    seen_to: frozenset[booked.Key]
    """What visits that stay were for when it was read."""
    closed: list[str]
    """Of each group, why it is closed in some weeks."""
    zone: IntArray
    """Of each group."""
    haul: FloatArray
    """Hours to each zone and back, by the zone's row."""
    again: BoolArray
    """Of each need, whether it comes once more in this season."""


class _Row(NamedTuple):
    """What is read of a forecast, by the names of its columns."""

    heater_id: int
    component: str
    as_of: datetime.date
    reached_days: list[float | None]
    due_on: datetime.date
    latest_on: datetime.date | None
    method: str
    over_after_service: float
    benefit: float
    probability_today: float
    decided_by: str
    heater__kind: str
    heater__capacity_l: float
    heater__site_id: int


def read(
    first_week: datetime.date, weeks: int, today: datetime.date, worth: float, uneven: float = UNEVEN_HOURS
) -> Season:
    """The season from a week on, from the forecasts, the crew and what stays; a fixed number of queries.

    Parameters: worth, hours that a year over a limit costs; uneven, hours that one over next year's mean costs.
    """
    who = crew.members()
    held = [crew.usually_able(member, max(first_week, today)) for member in who]
    took = in_force()
    seen_to = booked.seen_to(first_week, today)
    everything, risk = _read_wanted(max(first_week, today), weeks, took)
    wanted, likelihood = _besides(everything, risk, seen_to, first_week + datetime.timedelta(weeks=weeks))
    together = _together(everything, held)
    staying = booked.staying(first_week, weeks)
    room = booked.room(staying, who, LONGEST_VISIT_HOURS)
    # One a site takes up what is due there: the first that can.
    firm: dict[int, Appointment] = {}
    for one in staying:
        if room[one.pk] > 0:
            firm.setdefault(one.site_id, one)
    joined = {site_id: booked.needs_of(one) for site_id, one in firm.items()}
    taken = {(site_id, needs): LONGEST_VISIT_HOURS - room[firm[site_id].pk] for site_id, needs in joined.items()}
    of_need = _keys(wanted, together, joined, taken)
    of_site: dict[int, Key] = {site_id: (site_id, needs, 0) for site_id, needs in joined.items()}
    keys = list(dict.fromkeys([*of_need, *of_site.values()]))
    row = {key: number for number, key in enumerate(keys)}
    group = np.array([row[key] for key in of_need], dtype=np.int64).reshape(-1)
    sites = [site_id for site_id, *_ in keys]
    sets = sorted({needs for _, needs, _ in keys}, key=sorted)
    at = {needs: number for number, needs in enumerate(sets)}
    zone_of, way_to, haul = ways.to({*(one.site_id for one in everything), *(one.site_id for one in staying)}, who)
    setup = np.array([took.arriving + way_to[site_id] for site_id in sites])
    allowed, why = _allowed(sites, who, first_week, weeks, today)
    for need, number in zip(wanted, group.tolist(), strict=True):
        if need.not_before is not None:
            allowed[number, : max(-((first_week - need.not_before).days // 7), 0)] = False
    promised = np.full(len(keys), -1)
    for site_id, key in of_site.items():
        promised[row[key]] = (firm[site_id].week - first_week).days // 7
    kept = np.flatnonzero(promised >= 0)
    allowed[kept, promised[kept]] = True
    # A visit that stays is driven to anyway, and its hours are taken already.
    visits = np.repeat(setup[:, None], weeks, axis=1)
    visits[kept, promised[kept]] = 0.0
    people = np.ones(len(keys), dtype=np.int64)
    yearly = safety_of(wanted)
    needs_of = _needs(wanted, likelihood, group, first_week, level.visits(group, yearly, people, setup))
    crew_hours = booked.hours(who, held, staying, way_to, crew.hours_by_week(who, first_week, weeks, today), first_week)
    # Of the week that has begun next year has all days.
    whole_weeks = crew.hours_by_week(who, first_week, weeks, first_week)
    next_year = booked.next_year(staying, way_to, first_week)
    level_year = level.of(
        group, needs_of.hours, needs_of.interval, yearly, people, setup, whole_weeks.sum(axis=0), uneven,
        next_year,
    )  # fmt: skip
    problem = season.Problem(
        needs_of,
        season.Groups(
            kind=np.array([at[needs] for _, needs, _ in keys], dtype=np.int64),
            people=people,
            setup=visits,
            allowed=allowed,
            promised=promised,
        ),
        season.Crew(tuple(sets), tuple(held), crew_hours.left),
        worth,
        level_year if uneven > 0 else None,
    )
    return Season(
        problem,
        wanted,
        sites,
        [needs for _, needs, _ in keys],
        {row[key]: firm[site_id].pk for site_id, key in of_site.items()},
        crew_hours,
        _year_hours(everything, risk, _keys(everything, together, {}, {}), took.arriving, way_to),
        next_year,
        frozenset(seen_to),
        why,
        np.array([zone_of[site_id] for site_id in sites], dtype=np.int64).reshape(-1),
        2 * haul,
        np.zeros(len(wanted), bool),
    )


Key = tuple[int, frozenset[str], int]
"""A visit of the season: its site, what it takes, and its number there."""


def _keys(
    wanted: list[Wanted],
    together: Mapping[tuple[int, frozenset[str]], frozenset[str]],
    joined: Mapping[int, frozenset[str]],
    taken: Mapping[tuple[int, frozenset[str]], float],
) -> list[Key]:
    """With which visit each service goes, (n,).

    Parameters: together, with what each is visited, by its site and what it takes; joined, what a visit that stays
    takes, by its site; taken, hours of a site's first visit that it has no room for.
    """
    hours: dict[tuple[int, frozenset[str]], float] = defaultdict(float, taken)
    of_heater: dict[int, float] = defaultdict(float)
    for one in wanted:
        if one.not_before is None and one.needs <= joined.get(one.site_id, frozenset()):
            of_heater[one.heater_id] += one.hours
    number: dict[tuple[int, frozenset[str], int], int] = {}
    keys: list[Key] = []
    for one in wanted:
        needs = together[one.site_id, one.needs]
        if one.not_before is not None:
            keys.append((one.site_id, needs, NEXT_TIME))
            continue
        fits = True
        if one.needs <= joined.get(one.site_id, frozenset()):
            needs = joined[one.site_id]
            fits = hours[one.site_id, needs] + of_heater[one.heater_id] <= LONGEST_VISIT_HOURS + 1e-9
        hours[one.site_id, needs] += one.hours
        # A heater's services stay together; more than a visit may last go on another, and so does a heater for all of
        # which a visit that stays has no room.
        on = max(int(hours[one.site_id, needs] / LONGEST_VISIT_HOURS), int(not fits))
        keys.append((one.site_id, needs, number.setdefault((one.site_id, needs, one.heater_id), on)))
    return keys


def _year_hours(
    wanted: list[Wanted], likelihood: "_Likelihood", keys: list[Key], arriving: float, way_to: Mapping[int, float]
) -> float:
    """Hours that a year asks for ever of all that is wanted, what visits that stay are for among it."""
    row = {key: number for number, key in enumerate(dict.fromkeys(keys))}
    return level.year_hours(
        np.array([row[key] for key in keys], dtype=np.int64).reshape(-1),
        np.array([one.hours for one in wanted]),
        _intervals(wanted, likelihood),
        np.ones(len(row), dtype=np.int64),
        np.array([arriving + way_to[site_id] for site_id, *_ in row]),
    )


def safety_of(wanted: list[Wanted]) -> BoolArray:
    """Which services come every year, whatever is found."""
    return np.array([one.component in SAFETY for one in wanted], dtype=bool)


def other_times(wanted: list[Wanted]) -> IntArray:
    """Of each service the row of its other time in the season, -1 where it comes once, (n,)."""
    other = np.full(len(wanted), -1)
    before: dict[booked.Key, int] = {}
    for row, one in enumerate(wanted):
        key = (one.heater_id, one.component.value)
        if key in before:
            other[row], other[before[key]] = before[key], row
        before[key] = row
    return other


def repeated(found: Season, plan: season.Plan, first_week: datetime.date) -> Season | None:
    """The season with the second services that its safety caps ask for; None where it is too short for any."""
    twice = with_repeats(found.problem, plan, safety_of(found.wanted))
    return None if twice is None else _again(found, twice, first_week)


def spelled_out(found: Season, plan: season.Plan, first_week: datetime.date) -> tuple[Season, season.Plan]:
    """The season and its plan with a service for each time that one comes to keep its place in the year."""
    whole, once_each = repeating.spelled_out(found.problem, plan)
    return _again(found, whole, first_week), once_each


def _again(season: Season, twice: Repeated, first_week: datetime.date) -> Season:
    caps = twice.problem.needs.cap.tolist()
    return Season(
        twice.problem,
        [
            replace(season.wanted[need], latest_on=first_week + datetime.timedelta(days=7 * cap + 6))
            if again
            else season.wanted[need]
            for need, cap, again in zip(twice.need.tolist(), caps, twice.again.tolist(), strict=True)
        ],
        [season.sites[group] for group in twice.group],
        [season.needs[group] for group in twice.group],
        season.firm,
        season.hours,
        season.year_hours,
        season.next_year,
        season.seen_to,
        [season.closed[group] for group in twice.group],
        season.zone[twice.group],
        season.haul,
        season.again[twice.need] | twice.again,
    )


@dataclass(frozen=True)
class _Likelihood:
    """Of each service that is wanted, (n,) and (n, w + 1)."""

    over: FloatArray
    over_after: FloatArray
    over_year: FloatArray


def _besides(
    wanted: list[Wanted], likelihood: _Likelihood, seen_to: Mapping[booked.Key, datetime.date], end: datetime.date
) -> tuple[list[Wanted], _Likelihood]:
    """What visits that stay are not for already; of a safety service that one of them does its next time, where that is
    before the season's end."""
    if not seen_to:
        # The weeks of every need of a large base take room: they are not copied for nothing.
        return wanted, likelihood
    left: list[Wanted] = []
    rows: list[int] = []
    at_risk: list[bool] = []
    for row, one in enumerate(wanted):
        done_on = seen_to.get((one.heater_id, one.component.value))
        if done_on is not None:
            again = done_on + datetime.timedelta(weeks=level.YEAR_WEEKS)
            if one.component not in SAFETY or again >= end:
                continue
            soonest = done_on + datetime.timedelta(weeks=repeating.SOONEST_WEEKS)
            one = replace(one, due_on=again, latest_on=again, is_proven=True, not_before=soonest)
        left.append(one)
        rows.append(row)
        at_risk.append(done_on is None)
    risk = np.array(at_risk, dtype=np.float64)
    return left, _Likelihood(
        likelihood.over[rows] * risk[:, None], likelihood.over_after[rows] * risk, likelihood.over_year[rows] * risk
    )


def _read_wanted(start: datetime.date, weeks: int, hours: Hours) -> tuple[list[Wanted], _Likelihood]:
    """What the forecasts want; read in pieces, since a large base's rows take more room than what is made of them."""
    rows = (
        Forecast.objects.current()
        .of_visits()
        .filter(heater__archived_at__isnull=True, heater__site__archived_at__isnull=True, due_on__isnull=False)
        .order_by("heater__site_id", "heater_id", "component")
        .values_list(*_Row._fields)
        .iterator(PIECE)
    )
    wanted: list[Wanted] = []
    found = [_Likelihood(np.zeros((0, weeks + 1)), np.zeros(0), np.zeros(0))]
    while piece := [_Row(*row) for row in islice(rows, PIECE)]:
        wanted += [_wanted(row, hours) for row in piece]
        found.append(_likelihood(piece, start, weeks))
    return wanted, _Likelihood(
        np.concatenate([one.over for one in found]),
        np.concatenate([one.over_after for one in found]),
        np.concatenate([one.over_year for one in found]),
    )


def _likelihood(rows: list[_Row], start: datetime.date, weeks: int) -> _Likelihood:
    reached = np.array(
        [[np.inf if d is None else d for d in row.reached_days] for row in rows], dtype=np.float64
    ).reshape(-1, PROBABILITIES.size)
    passed = np.array([(start - row.as_of).days for row in rows], dtype=np.float64).reshape(-1, 1)
    quantiles = np.maximum(reached - passed, 0.0) / DAYS_PER_YEAR
    now = np.array([row.probability_today for row in rows], dtype=np.float64)
    at_risk = ~np.array([_by_calendar(row) for row in rows], dtype=bool)
    # What a safety service proves holds until its cap; its benefit is told in another coin than its date.
    lasting = np.array([Component(row.component) not in SAFETY for row in rows], dtype=bool)
    after, benefit = (
        np.array([getattr(row, name) for row in rows], dtype=np.float64) for name in ("over_after_service", "benefit")
    )
    return _Likelihood(
        season.expected_over(quantiles, PROBABILITIES, now, weeks) * at_risk[:, None],
        after * at_risk,
        season.mean_over_year(quantiles, PROBABILITIES, now, benefit) * at_risk * lasting,
    )


def _by_calendar(row: _Row) -> bool:
    """Whether the practice sets the date: it is planned by that, and no sooner for what is at risk."""
    return row.decided_by == DecidedBy.PRACTICE


def _wanted(row: _Row, hours: Hours) -> Wanted:
    component, method, kind = Component(row.component), Method(row.method), HeaterKind(row.heater__kind)
    return Wanted(
        row.heater_id,
        row.heater__site_id,
        component,
        method,
        hours.of(component, method),
        _needs_of(kind, component, method, people_of(method, row.heater__capacity_l) > 1),
        row.due_on,
        row.latest_on if component in SAFETY else None,
        None if component in SAFETY else row.latest_on,
        component in SAFETY and row.decided_by != DecidedBy.FIRST_LOOK,
    )


def due_at(site_id: int, by: datetime.date) -> list[Wanted]:
    """What the forecasts want done at a site by a day, in the order of its heaters."""
    rows = (
        Forecast.objects.current()
        .of_visits()
        .filter(heater__archived_at__isnull=True, heater__site=site_id, due_on__lte=by)
        .order_by("heater_id", "component")
        .values_list(*_Row._fields)
    )
    hours = in_force()
    return [_wanted(_Row(*row), hours) for row in rows]


@lru_cache(maxsize=1024)
def _needs_of(kind: HeaterKind, component: Component, method: Method, two: bool) -> frozenset[str]:
    return frozenset({licence_of(kind)} | equipment_of(component, method) | ({TWO_PEOPLE} if two else set()))


def _together(wanted: list[Wanted], held: list[frozenset[str]]) -> dict[tuple[int, frozenset[str]], frozenset[str]]:
    """Of each site and set of needs, with what it is visited: all in one visit where one crew can do all, else as
    much together as one can."""
    of_site: dict[int, set[frozenset[str]]] = defaultdict(set)
    for one in wanted:
        of_site[one.site_id].add(one.needs)
    found = {}
    for site_id, sets in of_site.items():
        together: list[frozenset[str]] = []
        place: dict[frozenset[str], int] = {}
        for needs in sorted(sets, key=lambda one: (-len(one), sorted(one))):
            for at, other in enumerate(together):
                if any(needs | other <= holds for holds in held):
                    together[at], place[needs] = needs | other, at
                    break
            else:
                place[needs] = len(together)
                together.append(needs)
        for needs in sets:
            # Not the first that has all of it: that may be one which nobody can do.
            found[site_id, needs] = together[place[needs]]
    return found


def _needs(
    wanted: list[Wanted], likelihood: _Likelihood, group: IntArray, first_week: datetime.date, visit: FloatArray
) -> season.Needs:
    def years(day: datetime.date | None) -> float:
        return np.inf if day is None else (day - first_week).days / DAYS_PER_YEAR

    def week(day: datetime.date | None) -> int:
        return season.NEVER if day is None else (day - first_week).days // 7

    cap = np.array([week(one.latest_on) for one in wanted], dtype=np.int64)
    waits = np.array([one.is_proven for one in wanted], dtype=bool) & (cap >= 0)
    return season.Needs(
        group=group,
        hours=np.array([one.hours for one in wanted]),
        over=likelihood.over,
        over_after=likelihood.over_after,
        over_year=likelihood.over_year,
        due=np.array([years(one.due_on) for one in wanted]),
        interval=_intervals(wanted, likelihood),
        cap=cap,
        asked=np.array([week(one.asked_on) for one in wanted], dtype=np.int64),
        visit=np.where(waits, visit, 0.0),
    )


def _intervals(wanted: list[Wanted], likelihood: _Likelihood) -> FloatArray:
    """Years that each service lasts, (n,)."""
    usual = np.array([INTERVAL_YEARS[one.component] for one in wanted])
    return np.where(safety_of(wanted), usual, season.lasts(usual, likelihood.over_after, likelihood.over_year))


def _allowed(
    site_ids: list[int], who: list[CrewMember], first_week: datetime.date, weeks: int, today: datetime.date
) -> tuple[BoolArray, list[str]]:
    """Weeks in which a site can be visited: not those of which most of the working days to come are closed."""
    allowed = np.ones((len(site_ids), weeks), dtype=bool)
    why = [""] * len(site_ids)
    of_site: dict[int, list[int]] = defaultdict(list)
    for number, pk in enumerate(site_ids):
        of_site[pk].append(number)
    closed: dict[int, list[Closed]] = defaultdict(list)
    for one in Closed.objects.filter(site__in=of_site).order_by("pk"):
        closed[one.site_id].append(one)
    worked = {weekday for member in who for weekday in member.weekdays}
    days = [first_week + datetime.timedelta(days=day) for day in range(7 * weeks)]
    to_come = np.array([on >= today and on.weekday() in worked for on in days], dtype=bool).reshape(weeks, 7)
    for site_id, closures in closed.items():
        shut = np.array([any(one.holds_on(on) for one in closures) for on in days]).reshape(weeks, 7) & to_come
        for number in of_site[site_id]:
            allowed[number] = 2 * shut.sum(axis=1) <= to_come.sum(axis=1)
            why[number] = closures[-1].why
    return allowed, why

"""A district's season as the program really plans it: what is to be done in which week, by the season's own search."""

from dataclasses import dataclass

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.forecast import PROBABILITIES, ComponentForecast, FleetForecast
from aquifer.core.planning import level, partitioning, repeating, season
from aquifer.core.planning.hours import ASSUMED
from aquifer.core.planning.work import INTERVAL_YEARS
from aquifer.core.vocabulary import Component, DecidedBy, Method, code

WEEKS = 52
SAFETY = (Component.RELIEF_VALVE, Component.EXPANSION_TANK)
_ALL = frozenset({"all"})
"""One licence, which everybody has: who may do what is not in question here."""
CREW_HOURS = 0.12
"""Of a week for each heater: more than the district asks for, once its backlog is worked off."""


@dataclass(frozen=True)
class Agenda:
    """What a season does, (k,)."""

    component: IntArray
    """Position in ``Component``."""
    row: IntArray
    week: IntArray

    def of(self, first: float, last: float) -> "Agenda":
        """What falls in these weeks, the last left out."""
        kept = (self.week >= first) & (self.week < last)
        return Agenda(self.component[kept], self.row[kept], self.week[kept])


def agenda(found: FleetForecast, site: IntArray, travel_hours: float, worth: float = season.WORTH_HOURS) -> Agenda:
    """The coming year of a district, planned as ``rounds.run`` plans a season: by what each service is worth, with the
    second services that safety caps ask for, and with each site's place in the year.

    Parameters: found, the forecasts; site, a number for each heater; travel_hours, by the way of one visit; worth,
    hours that a heater-year over its limit costs.
    """
    parts = [one for one in found.components if one.component is not Component.TANK]
    component = np.concatenate([np.full(one.row.size, code(one.component)) for one in parts])
    row = np.concatenate([one.row for one in parts])
    problem = _problem(parts, site, travel_hours, worth)
    yearly = np.isin(component, [code(one) for one in SAFETY])
    plan, need = partitioning.solve(problem), np.arange(row.size)
    if (twice := repeating.with_repeats(problem, plan, yearly)) is not None:
        problem, need = twice.problem, twice.need
        plan = partitioning.solve(problem)
    whole, plan = repeating.spelled_out(problem, plan)
    need, did = need[whole.need], plan.week >= 0
    return Agenda(component[need[did]], row[need[did]], plan.week[did])


def _problem(parts: list[ComponentForecast], site: IntArray, travel_hours: float, worth: float) -> season.Problem:
    methods, sites = list(Method), int(site.max()) + 1
    group = np.concatenate([site[one.row] for one in parts])
    hours = np.array([ASSUMED.look(one.component, methods[int(method)]) for one in parts for method in one.method])
    usual = np.concatenate([np.full(one.row.size, INTERVAL_YEARS[one.component]) for one in parts])
    over_after = np.concatenate([one.over_after_service * _at_risk(one) for one in parts])
    over_year = np.concatenate([_over_year(one) for one in parts])
    yearly = np.concatenate([np.full(one.row.size, one.component in SAFETY) for one in parts])
    interval = np.where(yearly, usual, season.lasts(usual, over_after, over_year))
    setup, people = np.full(sites, ASSUMED.arriving + travel_hours), np.ones(sites, dtype=np.int64)
    crew = season.Crew((_ALL,), (_ALL,), np.full((1, WEEKS), CREW_HOURS * site.size))
    cap = np.concatenate([_latest(one, one.component in SAFETY) for one in parts])
    visit = level.visits(group, yearly, people, setup)
    needs = season.Needs(
        group=group,
        hours=hours,
        over=np.concatenate([_over(one) for one in parts]),
        over_after=over_after,
        over_year=over_year,
        due=np.concatenate([one.due_years for one in parts]),
        interval=interval,
        cap=cap,
        asked=np.concatenate([_latest(one, one.component not in SAFETY) for one in parts]),
        # Of a valve that was proven the next visit waits; one past its cap is not kept waiting.
        visit=np.where(cap > 0, visit, 0.0),
    )
    groups = season.Groups(
        kind=np.zeros(sites, dtype=np.int64),
        people=people,
        setup=np.broadcast_to(setup[:, None], (sites, WEEKS)),
        allowed=np.ones((sites, WEEKS), dtype=bool),
        promised=np.full(sites, -1),
    )
    even = level.of(group, hours, interval, yearly, people, setup, crew.hours.sum(axis=0))
    return season.Problem(needs, groups, crew, worth, even)


def _at_risk(one: ComponentForecast) -> BoolArray:
    """Which go by risk, and not by the practice's calendar."""
    return np.asarray(one.decided_by != code(DecidedBy.PRACTICE))


def _over(one: ComponentForecast) -> FloatArray:
    return _at_risk(one)[:, None] * season.expected_over(
        np.maximum(one.reached_years, 0.0), PROBABILITIES, one.probability_today, WEEKS
    )


def _over_year(one: ComponentForecast) -> FloatArray:
    if one.component in SAFETY:
        # What it proves holds until its cap.
        return np.zeros(one.row.size)
    return _at_risk(one) * season.mean_over_year(
        np.maximum(one.reached_years, 0.0), PROBABILITIES, one.probability_today, one.benefit
    )


def _latest(one: ComponentForecast, is_said: bool) -> IntArray:
    if not is_said:
        return np.full(one.row.size, season.NEVER)
    return np.asarray(np.floor(np.maximum(one.latest_years, 0.0) * WEEKS), dtype=np.int64)

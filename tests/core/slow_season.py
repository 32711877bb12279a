"""What is best for a season of a few sites, by trying everything; nothing of the planning's own code is used.

What a plan costs is added up need by need and week by week; its hours are dealt out to the technicians one by one.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations, product

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import maximum_flow

from aquifer.core.planning.season import Problem

WEEKS_A_YEAR = 365.25 / 7
CAP_WEEK_HOURS, ASKED_WEEK_HOURS = 10.0, 0.2


@dataclass(frozen=True)
class Program:
    """What happens at one site in the season."""

    weeks: tuple[int, ...]
    """In which it is visited."""
    served: tuple[int, ...]
    """The week of each of its needs, -1 for later."""
    cost: float
    hours: tuple[tuple[int, float], ...]
    """Of each week that it takes any."""


def need_cost(problem: Problem, need: int, week: int) -> float:
    """What serving a need in a week costs, hours, or leaving it: -1."""
    of, weeks = problem.needs, problem.weeks
    late_until = weeks if week < 0 else week
    total = CAP_WEEK_HOURS * max(late_until - max(int(of.cap[need]), -1), 0)
    total += ASKED_WEEK_HOURS * max(late_until - max(int(of.asked[need]), -1), 0)
    if week < 0:
        return total + problem.worth * float(of.over[need, weeks])
    rest = (weeks - week - 0.5) / WEEKS_A_YEAR
    # Over its limit until it is served, and again as it is left over or fills up: a rising line, or a level one.
    rising = max(float(of.over_year[need]) - float(of.over_after[need]), 0.0)
    total += problem.worth * (float(of.over[need, week]) + float(of.over_after[need]) * rest + rising * rest**2)
    interval = float(of.interval[need])
    used = min(1.0, rest / interval)
    unused = min(max((float(of.due[need]) - weeks / WEEKS_A_YEAR) / interval, 0.0), 1.0)
    own, visit = float(of.hours[need]), float(of.visit[need])
    return total + (own + visit) * (used + unused) - visit


def programs(problem: Problem, group: int) -> list[Program]:
    """Everything that can happen at a site in at most two visits, the cheapest first."""
    groups = problem.groups
    needs = np.flatnonzero(problem.needs.group == group).tolist()
    open_weeks = [week for week in range(problem.weeks) if groups.allowed[group, week]]
    promised, people = int(groups.promised[group]), int(groups.people[group])
    found = []
    for count in (0, 1, 2):
        for weeks in combinations(open_weeks, count):
            if promised >= 0 and promised not in weeks:
                continue
            setup = sum(people * float(groups.setup[group, week]) for week in weeks)
            for served in product((-1, *weeks), repeat=len(needs)):
                cost = setup + sum(need_cost(problem, need, week) for need, week in zip(needs, served, strict=True))
                hours = tuple(
                    (week, people * (float(groups.setup[group, week]) + sum(
                        float(problem.needs.hours[need]) for need, at in zip(needs, served, strict=True) if at == week
                    )))
                    for week in weeks
                )  # fmt: skip
                found.append(Program(weeks, served, cost, hours))
    return sorted(found, key=lambda one: one.cost)


def can_be_worked(problem: Problem, chosen: list[tuple[int, Program]]) -> bool:
    """Whether the crew has the hours for what happens at these sites: dealt out to those who may, in seconds."""
    crew, kinds = problem.crew, problem.groups.kind
    who = len(crew.able)
    sink = 1 + len(chosen) + who
    for week in range(problem.weeks):
        flow = np.zeros((sink + 1, sink + 1), dtype=np.int32)
        for site, (group, program) in enumerate(chosen):
            flow[0, 1 + site] = sum(round(3600 * hours) for at, hours in program.hours if at == week)
            for one, able in enumerate(crew.able):
                flow[1 + site, 1 + len(chosen) + one] = 10**8 if crew.sets[kinds[group]] <= able else 0
        # A few seconds more than there are: each was rounded.
        flow[1 + len(chosen) : sink, sink] = np.round(3600 * crew.hours[:, week]).astype(np.int32) + 5
        if maximum_flow(csr_array(flow), 0, sink).flow_value < flow[0].sum():
            return False
    return True


def cheapest(problem: Problem) -> float:
    """What the best plan costs, hours; infinite where the promises alone are too many."""
    of = [programs(problem, group) for group in range(problem.groups.kind.size)]
    least = [sum(own[0].cost for own in of[at:]) for at in range(len(of) + 1)]
    best = [np.inf]

    def search(at: int, chosen: list[tuple[int, Program]], cost: float) -> None:
        if cost + least[at] >= best[0] - 1e-9:
            return
        if chosen and not can_be_worked(problem, chosen):
            return
        if at == len(of):
            best[0] = cost
            return
        for program in of[at]:
            search(at + 1, [*chosen, (at, program)], cost + program.cost)

    search(0, [], 0.0)
    return best[0]


def as_programs(problem: Problem, week: np.ndarray, visits: np.ndarray) -> Iterator[tuple[int, Program]]:
    """What a plan has of each site."""
    for group in range(problem.groups.kind.size):
        weeks = tuple(np.flatnonzero(visits[group]).tolist())
        served = tuple(week[problem.needs.group == group].tolist())
        yield group, next(
            one for one in programs(problem, group) if one.weeks == weeks and one.served == served
        )  # fmt: skip

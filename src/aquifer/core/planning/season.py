"""A season: which services of which site in which week, within the hours that a crew has.

Every cost is in hours of crew time, so that driving, lateness and waste can be weighed against each other:

- a service costs its hours, spread over the interval it would have lasted, so that what comes early is partly wasted;
- a heater costs ``worth`` hours for each year that it stands over its limit until it is served, and again after, as it
  is left over or fills up; a safety service past its cap costs ``CAP_WEEK_HOURS`` for each week;
- every visit costs its setting up and its way, spread over the year that it is good for where the site was seen within
  the last one, so that planning anew each month does not bring it forward each time;
- a season that crowds the next one's weeks pays for that, see ``level``.

How a plan is found is in ``partitioning``; what is done with one besides, in ``adjusting``.
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from itertools import combinations

import numpy as np

from aquifer.core import policy
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.planning import level
from aquifer.core.planning.level import Level
from aquifer.core.quantiles import reached_by

WEEKS_PER_YEAR = 365.25 / 7
CAP_WEEK_HOURS = 10.0
"""What a week past a safety cap costs: more than any other service of an hour is worth. Assumption."""
NEVER = 10**6
"""A week that no season has."""
ASKED_WEEK_HOURS = 0.2
"""What a week past the practice's own date costs: after two months about as much as the visit. Assumption: a little
more than a heater that surely is over its limit (``WORTH_HOURS`` a year are 0.15 a week): the company has said so."""
WORTH_HOURS = 8.0
"""Of a heater-year kept under its limit. Assumption: about what the fuel and the shortened life of a heater cost."""
Progress = Callable[[str, float], None]


class Stopped(Exception):
    """Raised by a progress function to give a search up."""


def nothing(stage: str, share: float) -> None:
    """For callers that show no progress."""


@dataclass(frozen=True)
class Needs:
    """Services that will be wanted; arrays of shape (n,), weeks along (n, w)."""

    group: IntArray
    """Which site's, by its row in ``Groups``."""
    hours: FloatArray
    over: FloatArray
    """Expected years over the limit until the middle of each week if nothing is done, and until the season's end,
    (n, w + 1)."""
    over_after: FloatArray
    """Probability of being over the limit right after the service."""
    over_year: FloatArray
    """The same in the mean of the year after it: what fills up fast is not spared a year by a service."""
    due: FloatArray
    """Years from the season's begin."""
    interval: FloatArray
    """Years that a service lasts, see ``lasts``."""
    cap: IntArray
    """The last week that keeps a safety cap; a large number where there is none."""
    asked: IntArray
    """The last week that keeps what the company's practice says of the others (its calendar, the longest that it leaves
    a heater), whatever is at risk; a large number where it says nothing."""
    visit: FloatArray
    """Hours of its visit that serving it puts off until it is due again, see ``level.visits``: of them, too, what is
    not used is lost by coming early. 0 where none may wait: what nobody has proven comes first."""


@dataclass(frozen=True)
class Groups:
    """What is visited together: a site, or those of its heaters that one licence allows; arrays (g,)."""

    kind: IntArray
    """Which set of abilities a visit needs, by its row in ``Crew.sets``."""
    people: IntArray
    setup: FloatArray
    """Hours of every visit besides its services, by week, (g, w)."""
    allowed: BoolArray
    """Weeks in which it can be visited, (g, w)."""
    promised: IntArray
    """The week of a visit that stays, -1 for none."""


@dataclass(frozen=True)
class Crew:
    sets: tuple[frozenset[str], ...]
    """Sets of abilities that visits need."""
    able: tuple[frozenset[str], ...]
    """What each technician holds."""
    hours: FloatArray
    """Of each technician in each week, (technicians, w)."""


@dataclass(frozen=True)
class Problem:
    needs: Needs
    groups: Groups
    crew: Crew
    worth: float = WORTH_HOURS
    level: Level | None = None
    """None where next year does not matter."""

    @property
    def weeks(self) -> int:
        return int(self.crew.hours.shape[1])


@dataclass(frozen=True)
class Capacity:
    """Hours that sets of kinds may not pass together in a week.

    By Hall's theorem hours can be given to technicians exactly if no union of kinds wants more than all who can do any
    of them have.
    """

    holds: BoolArray
    """Which kinds a row counts, (rows, kinds)."""
    hours: FloatArray
    """(rows, w)."""


@dataclass(frozen=True)
class Plan:
    week: IntArray
    """Of each need, -1 where it is left to later."""
    visits: BoolArray
    """(g, w)."""
    cost: float
    bound: float
    prices: FloatArray
    """What one more hour of each kind would save in each week, hours, (kinds, w)."""
    parts: dict[str, float] = field(default_factory=dict)
    again: IntArray | None = None
    """The week in which a need that comes every year is served once more to keep its place in the year, -1 for none."""

    @property
    def gap(self) -> float:
        """By which share of its bound the plan may be dearer than the best one."""
        return (self.cost - self.bound) / max(self.bound, 1e-9)


def expected_over(quantile_years: FloatArray, probabilities: FloatArray, today: FloatArray, weeks: int) -> FloatArray:
    """Expected years over the limit until the middle of each week, and until the end, (n, weeks + 1).

    Parameters: quantile_years (n, q) of the time the limit is reached; probabilities (q,); today, the probability of
    being over it now, (n,). Source: the integral of the distribution function, linear between its quantiles.
    """
    edges = np.concatenate([[0.0], np.arange(weeks) + 0.5, [float(weeks)]]) / WEEKS_PER_YEAR
    reached = reached_by(edges, quantile_years, probabilities, today)
    steps = np.diff(edges)[None, :] * (reached[:, 1:] + reached[:, :-1]) / 2
    return np.cumsum(steps, axis=1)


def over_again(over_after: FloatArray, over_year: FloatArray, years: FloatArray) -> FloatArray:
    """Expected years over the limit in so many years after a service; shapes broadcast.

    Parameters: the probability of being over it right after, and in the mean of the first year. Source: the integral of
    the straight line through both, level where the mean is the less.
    """
    return np.asarray(over_after * years + np.maximum(over_year - over_after, 0.0) * years**2)


def mean_over_year(
    quantile_years: FloatArray, probabilities: FloatArray, today: FloatArray, benefit: FloatArray
) -> FloatArray:
    """The probability of being over the limit in the mean of the year after a service, (n,).

    Parameters: as of ``expected_over``; benefit, heater-years over the limit that a service today spares in a year.
    Source: what is expected if nobody comes, by Simpson's rule as the benefit is, less the benefit.
    """
    reached = reached_by(np.array([0.0, 0.5, 1.0]), quantile_years, probabilities, today)
    return np.asarray(np.clip(reached @ np.array([1.0, 4.0, 1.0]) / 6 - benefit, 0.0, 1.0), dtype=np.float64)


def lasts(usual: FloatArray, over_after: FloatArray, over_year: FloatArray) -> FloatArray:
    """How long a service lasts: until the risk is again what is usually accepted, years, (n,); no longer than
    ``usual``, and a quarter at least. Source: the line of ``over_again``."""
    a_year = 2 * np.maximum(over_year - over_after, 1e-9)
    again = (policy.DEFAULTS.tolerance - over_after) / a_year
    return np.asarray(np.minimum(np.maximum(again, policy.SHORTEST_FLUSH_YEARS), usual), dtype=np.float64)


def capacity(crew: Crew) -> Capacity:
    """The rows that a crew's hours bound, each union of kinds once."""
    kinds = len(crew.sets)
    can = np.array([[need <= holds for holds in crew.able] for need in crew.sets], dtype=bool)
    can = can.reshape(kinds, len(crew.able))
    rows: dict[bytes, BoolArray] = {}
    for size in range(1, kinds + 1):
        for chosen in combinations(range(kinds), size):
            who = can[list(chosen)].any(axis=0)
            # Of all unions that the same technicians serve only the largest binds.
            rows[who.tobytes()] = np.array([bool(not (can[k] & ~who).any()) for k in range(kinds)])
    people = [np.frombuffer(key, dtype=bool) for key in rows]
    return Capacity(
        np.array(list(rows.values()), dtype=bool).reshape(len(rows), kinds),
        np.array([who.astype(float) @ crew.hours for who in people]).reshape(len(rows), crew.hours.shape[1]),
    )


@dataclass(frozen=True)
class Costs:
    do: FloatArray
    """Of serving a need in each week, (n, w)."""
    skip: FloatArray
    """Of leaving it to later, (n,)."""


def costs_of(problem: Problem) -> Costs:
    """What serving each need in each week costs, and leaving it out."""
    needs, weeks = problem.needs, problem.weeks
    end = weeks / WEEKS_PER_YEAR
    at = (np.arange(weeks) + 0.5) / WEEKS_PER_YEAR
    used = np.minimum(1.0, (end - at)[None, :] / needs.interval[:, None])
    unused = np.clip((needs.due - end) / needs.interval, 0.0, 1.0)
    left_over = _left_over(needs, np.asarray(end - at, dtype=np.float64)[None, :])
    at_week, every = np.arange(weeks)[None, :], np.full((1, 1), weeks)
    return Costs(
        (needs.hours + needs.visit)[:, None] * (used + unused[:, None])
        - needs.visit[:, None]
        + problem.worth * (needs.over[:, :weeks] + left_over)
        + _late(needs, at_week),
        problem.worth * needs.over[:, weeks] + _late(needs, every)[:, 0],
    )


def _left_over(needs: Needs, years: FloatArray) -> FloatArray:
    """Expected years over the limit from the service on, (n, t). Parameters: years until the season's end, (1 or n,
    t)."""
    return over_again(needs.over_after[:, None], needs.over_year[:, None], years)


def _late(needs: Needs, week: IntArray) -> FloatArray:
    """What being late costs, hours, (n, w). Parameters: the weeks, (1 or n, w)."""
    late = [np.maximum(week - np.maximum(last, -1)[:, None], 0) for last in (needs.cap, needs.asked)]
    return np.asarray(CAP_WEEK_HOURS * late[0] + ASKED_WEEK_HOURS * late[1])


def again_costs(problem: Problem) -> tuple[FloatArray, FloatArray]:
    """What serving a need once more costs, hours: by the week of the first time and by that of the second, (n, w) each,
    to be added. Source: as ``costs_of`` for a service that is due twelve months after the first, its visit with it."""
    needs, weeks = problem.needs, problem.weeks
    at, interval = np.arange(weeks)[None, :], needs.interval[:, None] * WEEKS_PER_YEAR
    unused = np.clip((at + 0.5 + level.YEAR_WEEKS - weeks) / interval, 0.0, 1.0)
    used = np.minimum(1.0, (weeks - at - 0.5) / interval)
    visit = np.zeros((needs.group.size, 1)) if problem.level is None else problem.level.visit[:, None]
    return (needs.hours[:, None] + visit) * unused, (needs.hours[:, None] + visit) * used - visit


def last_of(plan: Plan) -> IntArray:
    """The week in which each need is served last, -1 where it is not, (n,)."""
    return plan.week if plan.again is None else np.maximum(plan.week, plan.again)


def parts_of(problem: Problem, plan: Plan) -> dict[str, float]:
    """What a plan costs, in hours, by what for."""
    needs, weeks = problem.needs, problem.weeks
    costs = costs_of(problem)
    served, at = plan.week >= 0, np.maximum(plan.week, 0)
    rows = np.arange(plan.week.size)
    rest = np.where(served, weeks - at - 0.5, 0.0)[:, None] / WEEKS_PER_YEAR
    over = np.where(served, needs.over[rows, at], needs.over[:, weeks]) + _left_over(needs, rest)[:, 0]
    when = np.where(served, at, weeks)[:, None]
    cap = CAP_WEEK_HOURS * np.maximum(when[:, 0] - np.maximum(needs.cap, -1), 0)
    late = _late(needs, when)[:, 0]
    total = np.where(served, costs.do[rows, at], costs.skip)
    setup = problem.groups.setup * problem.groups.people[:, None]
    parts = {
        "visits": float(setup[plan.visits].sum()),
        "over_limit": float(problem.worth * over.sum()),
        "past_cap": float(cap.sum()),
        "past_asked": float((late - cap).sum()),
        "services": float((total - problem.worth * over - late).sum()),
    }
    if problem.level is not None:
        parts["uneven"] = level.uneven(problem.level, last_of(plan))
    if plan.again is not None:
        twice = np.flatnonzero(plan.again >= 0)
        first, second = again_costs(problem)
        parts["services"] += float((first[twice, plan.week[twice]] + second[twice, plan.again[twice]]).sum())
    return parts


def hours_of(problem: Problem, plan: Plan) -> FloatArray:
    """Hours that a plan wants of each kind in each week, (kinds, w)."""
    groups, needs = problem.groups, problem.needs
    wanted = np.zeros((len(problem.crew.sets), problem.weeks))
    served = plan.week >= 0
    of = needs.group[served]
    np.add.at(wanted, (groups.kind[of], plan.week[served]), needs.hours[served] * groups.people[of])
    if plan.again is not None:
        twice = plan.again >= 0
        of = needs.group[twice]
        np.add.at(wanted, (groups.kind[of], plan.again[twice]), needs.hours[twice] * groups.people[of])
    row, week = np.nonzero(plan.visits)
    np.add.at(wanted, (groups.kind[row], week), groups.setup[row, week] * groups.people[row])
    return wanted


def faults_of(problem: Problem, plan: Plan) -> list[str]:
    """Everything that a plan does against its problem, in words; found without what made it."""
    found = []
    limits = capacity(problem.crew)
    wanted = limits.holds.astype(float) @ hours_of(problem, plan)
    for row, week in zip(*np.nonzero(wanted > limits.hours + 1e-6), strict=True):
        found.append(f"week {week}: {wanted[row, week]:.1f} h of {limits.hours[row, week]:.1f} h")
    for group, week in zip(*np.nonzero(plan.visits & ~problem.groups.allowed), strict=True):
        found.append(f"group {group} is visited in week {week}, when it is closed")
    promised = problem.groups.promised
    for group in np.flatnonzero(promised >= 0):
        if not plan.visits[group, promised[group]]:
            found.append(f"group {group} is not visited in week {promised[group]}, as promised")
    served = np.flatnonzero(plan.week >= 0)
    for need in served[~plan.visits[problem.needs.group[served], plan.week[served]]]:
        found.append(f"need {need} is served in a week without a visit")
    if plan.again is not None:
        for need in np.flatnonzero(plan.again >= 0):
            if not plan.visits[problem.needs.group[need], plan.again[need]]:
                found.append(f"need {need} is served again in a week without a visit")
            if plan.week[need] < 0 or plan.again[need] - plan.week[need] < level.SOONEST_AGAIN_WEEKS:
                found.append(f"need {need} is served again too soon, in week {plan.again[need]}")
    return found


def earliest_due_first(problem: Problem) -> Plan:
    """What an office with a list does: the earliest due first, each in the first week that has hours left.

    A baseline to measure against; every need of a site that is due within the season goes with its first.
    """
    needs, groups, weeks = problem.needs, problem.groups, problem.weeks
    limits = capacity(problem.crew)
    left = limits.hours.copy()
    end = weeks / WEEKS_PER_YEAR
    when = np.minimum(needs.due, (np.minimum(needs.cap, needs.asked) + 1) / WEEKS_PER_YEAR)
    first = np.full(groups.kind.size, np.inf)
    np.minimum.at(first, needs.group, when)
    week = np.full(needs.group.size, -1)
    visits = np.zeros(groups.allowed.shape, dtype=bool)
    order = np.argsort(needs.group, kind="stable")
    start = np.searchsorted(needs.group[order], np.arange(groups.kind.size + 1))
    fixed = np.where(groups.promised >= 0, -np.inf, first)
    for group in np.argsort(fixed, kind="stable"):
        own = order[start[group] : start[group + 1]]
        own = own[when[own] <= end]
        if groups.promised[group] < 0 and not own.size:
            continue
        rows = limits.holds[:, groups.kind[group]]
        wanted = (needs.hours[own].sum() + groups.setup[group]) * groups.people[group]
        fits = groups.allowed[group] & (left[rows] >= wanted[None, :] - 1e-9).all(axis=0)
        if groups.promised[group] >= 0:
            fits &= np.arange(weeks) == groups.promised[group]
        if not fits.any():
            continue
        at = int(fits.argmax())
        left[rows, at] -= wanted[at]
        week[own], visits[group, at] = at, True
    plan = Plan(week, visits, 0.0, 0.0, np.zeros((len(problem.crew.sets), weeks)))
    parts = parts_of(problem, plan)
    return replace(plan, cost=sum(parts.values()), parts=parts)


PUT_OFF_WEEKS = 4
"""By how much a visit that finds no day is put off, for what it is worth. Assumption."""


def worth_now(problem: Problem, plan: Plan) -> FloatArray:
    """What putting each need off by ``PUT_OFF_WEEKS`` from when it is planned would cost, hours, (n,); at least 0, and
    0 for those that are left to later."""
    costs = costs_of(problem)
    rows, now = np.arange(plan.week.size), np.maximum(plan.week, 0)
    later = np.minimum(now + PUT_OFF_WEEKS, problem.weeks - 1)
    return np.where(plan.week >= 0, np.maximum(costs.do[rows, later] - costs.do[rows, now], 0.0), 0.0)


def saved(problem: Problem, plan: Plan) -> FloatArray:
    """What serving each need when it is planned saves over leaving it to after the season, hours, (n,); 0 if it is."""
    costs = costs_of(problem)
    served = plan.week >= 0
    rows = np.arange(plan.week.size)
    return np.where(served, costs.skip - costs.do[rows, np.maximum(plan.week, 0)], 0.0)


PIECE = 20_000
"""Needs whose weeks are looked at together. Assumption: some 10 MB an array."""


class Why:
    """Why a need has no week."""

    NOT_WORTH = "not worth a visit this season"
    CLOSED = "closed whenever it would be worth a visit"
    NOBODY = "nobody holds what it takes"
    NO_HOURS = "no hours left while it would be worth a visit"


def reasons(problem: Problem, plan: Plan) -> list[str]:
    """Of each need that has no week, why; empty for those that have one."""
    costs, groups, needs = costs_of(problem), problem.groups, problem.needs
    able = np.array([any(need <= holds for holds in problem.crew.able) for need in problem.crew.sets], dtype=bool)
    found = [""] * needs.group.size
    open_needs = np.flatnonzero(plan.week < 0)
    # In pieces: the weeks of every need at once take more room than the plan.
    pieces = np.array_split(open_needs, open_needs.size // PIECE + 1)
    # What a site's needs would save together: two that are not worth a visit each may be worth one.
    saves = np.where(plan.visits, 0.0, -groups.setup * groups.people[:, None])
    for piece in pieces:
        np.add.at(saves, needs.group[piece], np.maximum(costs.skip[piece, None] - costs.do[piece], 0.0))
    for piece in pieces:
        group = needs.group[piece]
        is_worth: BoolArray = np.asarray((costs.skip[piece, None] > costs.do[piece]) & (saves[group] > 0))
        worth, is_open = (np.asarray(one.any(axis=1)) for one in (is_worth, is_worth & groups.allowed[group]))
        for at, need in enumerate(piece.tolist()):
            if not able[groups.kind[group[at]]]:
                found[need] = Why.NOBODY
            elif not worth[at]:
                found[need] = Why.NOT_WORTH
            else:
                found[need] = Why.NO_HOURS if is_open[at] else Why.CLOSED
    return found

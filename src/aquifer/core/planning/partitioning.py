"""Finding a season's plan: sites are partitioned into visit patterns by column generation.

The master is a linear program (HiGHS); a pattern is one or two weeks in which a site is visited, and is priced exactly
for every site at once; the bound is the Lagrangian one at the master's prices. Where next year is to be level, its
weeks are rows of the program too: what is over their room is bought at a price.
"""

from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import replace

import numpy as np

from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.planning.adjusting import filled
from aquifer.core.planning.level import YEAR_WEEKS, Level, without
from aquifer.core.planning.master import Chosen, Master
from aquifer.core.planning.patterns import Columns, Prices, Pricing
from aquifer.core.planning.season import (
    Capacity,
    Groups,
    Needs,
    Plan,
    Problem,
    Progress,
    capacity,
    nothing,
    parts_of,
)

BLOCK = 800
"""Groups that are solved together. A larger season is divided at random into blocks with their share of the hours:
a linear program's time grows faster than its size, and the bound, which is of the whole, shows what dividing costs."""
THREADS = 2
"""Blocks at once: the solver lets go of the interpreter while it works. Assumption: as many as the smallest machine."""
WHOLE_SECONDS = 3.0
"""That a block's choice of whole visits may take."""


def solve(problem: Problem, progress: Progress = nothing, rounds: int = 12, target: float = 0.008) -> Plan:
    """A season's plan with its bound.

    Parameters: progress, called with the stage and the share done, may raise ``Stopped``; rounds of column generation
    of a block at most; target, the gap of a block's linear program at which they end.
    Returns: a plan within every hour that there is, every promise and every closed week.
    Raises: ArithmeticError if promised visits alone pass the hours; see ``promises``.
    """
    groups = problem.groups.kind.size
    blocks = _blocks(groups)
    limits = capacity(problem.crew)
    week = np.full(problem.needs.group.size, -1)
    again = week.copy()
    visits = np.zeros(problem.groups.allowed.shape, dtype=bool)
    if not groups:
        nothing_wanted = Plan(week, visits, 0.0, 0.0, np.zeros((len(problem.crew.sets), problem.weeks)), again=again)
        return replace(nothing_wanted, parts=parts_of(problem, nothing_wanted))
    solved = _solved(problem, limits, blocks, progress, rounds, target)
    for block, (chosen, _) in zip(blocks, solved, strict=True):
        need = _part(problem, block)[1]
        week[need], again[need], visits[block] = chosen.week, chosen.again, chosen.visits
    progress("bound", len(blocks) / (len(blocks) + 1))
    bound, price = _bound(problem, limits, blocks, [prices for _, prices in solved])
    planned = Plan(week, visits, 0.0, bound, limits.holds.astype(float).T @ price, again=again)
    plan = filled(problem, planned, limits)
    parts = parts_of(problem, plan)
    return replace(plan, cost=sum(parts.values()), parts=parts)


def _solved(
    problem: Problem, limits: Capacity, blocks: list[IntArray], progress: Progress, rounds: int, target: float
) -> list[tuple[Chosen, Prices]]:
    """Each block's plan and prices; each begins at those of a block that ended: always the same one, so that a plan
    can be made again."""
    unknown = Prices(np.zeros(limits.hours.shape), np.zeros(YEAR_WEEKS))
    shares = [replace(limits, hours=hours) for hours in _shares(problem, limits, blocks)]
    if len(blocks) == 1:
        return [_solve(problem, shares[0], unknown, progress, rounds, target)]
    started: list[Future[tuple[Chosen, Prices]]] = []
    with ThreadPoolExecutor(THREADS) as threads:
        try:
            for number, (block, share) in enumerate(zip(blocks, shares, strict=True)):
                prices = started[max(0, number - THREADS)].result()[1] if started else unknown
                progress("prices and visits", number / (len(blocks) + 1))
                part = _part(problem, block)[0]
                started.append(threads.submit(_solve, part, share, prices, nothing, rounds, target))
            return [one.result() for one in started]
        except BaseException:
            threads.shutdown(wait=False, cancel_futures=True)
            raise


def _blocks(groups: int) -> list[IntArray]:
    mixed = np.random.default_rng(groups).permutation(groups)
    return [np.sort(part) for part in np.array_split(mixed, max(1, round(groups / BLOCK)))]


def _shares(problem: Problem, limits: Capacity, blocks: list[IntArray]) -> list[FloatArray]:
    """Each block's hours: what its promises take, and its part of what they leave."""
    groups = problem.groups
    kept = np.flatnonzero(groups.promised >= 0)
    taken = np.zeros((len(blocks), *limits.hours.shape))
    block_of = np.zeros(groups.kind.size, dtype=np.int64)
    for number, block in enumerate(blocks):
        block_of[block] = number
    for group in kept:
        at = groups.promised[group]
        taken[block_of[group], limits.holds[:, groups.kind[group]], at] += (
            groups.setup[group, at] * groups.people[group]
        )
    left = np.maximum(limits.hours - taken.sum(axis=0), 0.0)
    size = np.array([block.size for block in blocks]) / groups.kind.size
    shared = taken + size[:, None, None] * left
    # Promises of more hours than there are stay infeasible, rather than being shared away.
    short = (taken.sum(axis=0) > limits.hours + 1e-9)[None, :, :]
    return list(np.where(short, size[:, None, None] * limits.hours, shared))


def _part(problem: Problem, block: IntArray) -> tuple[Problem, IntArray]:
    """The problem of some groups alone, and which needs are theirs."""
    position = np.full(problem.groups.kind.size, -1)
    position[block] = np.arange(block.size)
    need = np.flatnonzero(position[problem.needs.group] >= 0)
    needs = Needs(**{name: getattr(problem.needs, name)[need] for name in Needs.__dataclass_fields__})
    groups = Groups(**{name: getattr(problem.groups, name)[block] for name in Groups.__dataclass_fields__})
    level = problem.level
    if level is not None:
        level = level.within(need, float(level.load[need].sum() / max(level.load.sum(), 1e-9)))
    return replace(problem, needs=replace(needs, group=position[needs.group]), groups=groups, level=level), need


def _solve(
    problem: Problem, limits: Capacity, prices: Prices, progress: Progress, rounds: int, target: float
) -> tuple[Chosen, Prices]:
    """One block by column generation, beginning at the prices of the block before."""
    pricing = Pricing(problem, limits.holds.astype(float))
    master = Master(pricing, limits)
    kept = np.flatnonzero(problem.groups.promised >= 0)
    # A promise is kept even where there are the hours for the visit and not for what could be done at it.
    master.add(pricing.idle(Columns(kept, problem.groups.promised[kept], np.full(kept.size, -1)), limits))
    known = bool(prices.hours.any())
    bound, best = -np.inf, prices
    _, columns = pricing.best(prices, most=8)
    master.add(pricing.spelled(columns if known else columns.with_(pricing.strewn()), prices, limits))
    for turn in range(rounds):
        progress("prices", 0.8 * turn / rounds)
        share, dual, value = master.solve()
        # Prices half-way to the new ones: they settle sooner.
        prices = dual if bound == -np.inf else best.toward(dual, 0.6)
        least, more = pricing.best(prices, most=3)
        lower = float(least.sum()) - _worth(limits, pricing.level, prices)
        if lower > bound:
            bound, best = lower, prices
        if value - bound <= target * max(abs(bound), 1e-9):
            break
        master.add(pricing.spelled(more, prices, limits))
    progress("whole visits", 0.8)
    return master.whole(share, WHOLE_SECONDS), best


def _worth(limits: Capacity, level: Level, prices: Prices) -> float:
    """What the hours that there are, and next year's room, are worth at these prices."""
    return float((prices.hours * limits.hours).sum() + (prices.next_year * level.room).sum())


def _bound(problem: Problem, limits: Capacity, blocks: list[IntArray], duals: list[Prices]) -> tuple[float, FloatArray]:
    """The Lagrangian bound of the whole at the mean of the blocks' prices: at given prices the blocks are apart."""
    prices = Prices(np.mean([one.hours for one in duals], axis=0), np.mean([one.next_year for one in duals], axis=0))
    holds = limits.holds.astype(float)
    least = sum(float(Pricing(_part(problem, block)[0], holds).best(prices)[0].sum()) for block in blocks)
    level = problem.level or without(0)
    return least - _worth(limits, level, prices), prices.hours

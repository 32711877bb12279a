"""Finding a season's plan: sites are partitioned into visit patterns by column generation.

The master is a linear program (HiGHS); a pattern is one or two weeks in which a site is visited, and is priced exactly
for every site at once; the bound is the Lagrangian one at the master's prices.
"""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, linprog, milp
from scipy.sparse import coo_array, csr_array

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.planning.adjusting import filled
from aquifer.core.planning.season import (
    Capacity,
    Groups,
    Needs,
    Plan,
    Problem,
    Progress,
    capacity,
    costs_of,
    nothing,
    parts_of,
)


@dataclass
class _Columns:
    """Visit patterns: a group, one or two weeks (-1 for none), and the week of each of its needs."""

    group: IntArray
    first: IntArray
    second: IntArray

    def with_(self, other: "_Columns") -> "_Columns":
        together = np.stack(
            [np.concatenate([getattr(self, n), getattr(other, n)]) for n in ("group", "first", "second")], axis=1
        )
        together = np.unique(together, axis=0)
        return _Columns(*together.T)


class _Pricing:
    """Patterns at given prices, exactly, for all groups at once."""

    def __init__(self, problem: Problem) -> None:
        self.problem = problem
        self.costs = costs_of(problem)
        order = np.argsort(problem.needs.group, kind="stable")
        self.order = order
        groups = problem.groups.kind.size
        self.count = np.bincount(problem.needs.group, minlength=groups)
        self.start = np.concatenate([[0], np.cumsum(self.count)])
        self.skip = np.bincount(problem.needs.group, self.costs.skip, minlength=groups)
        self.hours = problem.needs.hours * problem.groups.people[problem.needs.group]
        self.setup = problem.groups.setup * problem.groups.people[:, None]

    def gains(self, price: FloatArray) -> tuple[FloatArray, FloatArray]:
        """What serving each need in each week saves at these prices, at most 0, and what a visit there costs."""
        groups = self.problem.groups
        kind = groups.kind[self.problem.needs.group]
        do = self.costs.do + self.hours[:, None] * price[kind]
        gain = np.minimum(do - self.costs.skip[:, None], 0.0)
        visit = np.where(groups.allowed, self.setup * (1.0 + price[groups.kind]), np.inf)
        return gain, visit

    def best(self, price: FloatArray, most: int = 1) -> tuple[FloatArray, _Columns]:
        """Each group's least cost at these prices, and its best patterns: ``most`` of one visit, the best of two."""
        gain, visit = self.gains(price)
        groups, weeks = visit.shape
        single = visit.copy()
        np.add.at(single, self.problem.needs.group, gain)
        promised = self.problem.groups.promised
        bound = promised >= 0
        fixed = np.where(np.arange(weeks)[None, :] == promised[:, None], single, np.inf)
        single = np.where(bound[:, None], fixed, single)
        least = np.where(bound, np.inf, 0.0)
        least = np.minimum(least, single.min(axis=1, initial=np.inf))
        chosen = np.argsort(single, axis=1, kind="stable")[:, :most]
        rows = np.repeat(np.arange(groups), chosen.shape[1])
        found = [_Columns(rows, chosen.ravel(), np.full(rows.size, -1))]
        pair_value, pair_first, pair_second = self._pairs(gain, visit)
        least = np.minimum(least, pair_value)
        twice = np.flatnonzero(np.isfinite(pair_value))
        found.append(_Columns(twice, pair_first[twice], pair_second[twice]))
        free = np.flatnonzero(~bound)
        found.append(_Columns(free, np.full(free.size, -1), np.full(free.size, -1)))
        columns = found[0].with_(found[1]).with_(found[2])
        keep = (columns.first < 0) | np.isfinite(single[columns.group, np.maximum(columns.first, 0)])
        keep |= columns.second >= 0
        return least + self.skip, _Columns(columns.group[keep], columns.first[keep], columns.second[keep])

    def _pairs(self, gain: FloatArray, visit: FloatArray) -> tuple[FloatArray, IntArray, IntArray]:
        """The best two visits of each group with two needs or more; infinite for the others."""
        groups, weeks = visit.shape
        early, late = np.triu_indices(weeks, 1)
        value = np.full(groups, np.inf)
        first, second = np.full(groups, -1), np.full(groups, -1)
        promised = self.problem.groups.promised
        sorted_gain = gain[self.order]
        for count in np.unique(self.count[self.count >= 2]):
            rows = np.flatnonzero(self.count == count)
            for part in np.array_split(rows, max(1, rows.size * count // 2000)):
                if not part.size:
                    continue
                at = self.start[part]
                total = visit[part][:, early] + visit[part][:, late]
                for k in range(int(count)):
                    own = sorted_gain[at + k]
                    total = total + np.minimum(own[:, early], own[:, late])
                kept = promised[part][:, None]
                total = np.where((kept < 0) | (early[None, :] == kept) | (late[None, :] == kept), total, np.inf)
                best = total.argmin(axis=1)
                value[part] = total[np.arange(part.size), best]
                first[part], second[part] = early[best], late[best]
        return value, first, second

    def weeks_of(self, columns: _Columns, price: FloatArray) -> IntArray:
        """Each column's needs with the week that serves them at these prices: -1 is later; ragged, see ``rows_of``."""
        gain, _ = self.gains(price)
        column, need = self.rows_of(columns)
        first, second = columns.first[column], columns.second[column]
        here = np.where(first >= 0, gain[need, np.maximum(first, 0)], 0.0)
        there = np.where(second >= 0, gain[need, np.maximum(second, 0)], 0.0)
        week = np.where(there < here, second, first)
        return np.where(np.minimum(here, there) < 0, week, -1)

    def rows_of(self, columns: _Columns) -> tuple[IntArray, IntArray]:
        """For each need of each column: which column, which need."""
        count = self.count[columns.group]
        column = np.repeat(np.arange(columns.group.size), count)
        within = np.arange(column.size) - np.repeat(np.cumsum(count) - count, count)
        return column, self.order[self.start[columns.group][column] + within]


@dataclass
class _Master:
    """The linear program over the patterns known so far."""

    pricing: _Pricing
    limits: Capacity
    columns: _Columns
    week: IntArray
    cost: FloatArray
    use: csr_array
    """Hours that each column takes of each capacity row and week, (rows x weeks, columns)."""

    @classmethod
    def of(cls, pricing: _Pricing, limits: Capacity, columns: _Columns, price: FloatArray) -> "_Master":
        problem, weeks = pricing.problem, pricing.problem.weeks
        # A promise is kept even where there are the hours for the visit and not for what could be done at it.
        promised = problem.groups.promised
        kept, priced = np.flatnonzero(promised >= 0), columns.group.size
        columns = _Columns(
            np.concatenate([columns.group, kept]),
            np.concatenate([columns.first, promised[kept]]),
            np.concatenate([columns.second, np.full(kept.size, -1)]),
        )
        week = pricing.weeks_of(columns, price)
        column, need = pricing.rows_of(columns)
        week[column >= priced] = -1
        count = columns.group.size
        served = week >= 0
        costs = np.where(served, pricing.costs.do[need, np.maximum(week, 0)], pricing.costs.skip[need])
        cost: FloatArray = np.bincount(column, costs, minlength=count).astype(np.float64)
        hours = np.zeros((count, 2))
        is_second = served & (week == columns.second[column]) & (columns.second[column] >= 0)
        np.add.at(hours, (column, is_second.astype(int)), np.where(served, pricing.hours[need], 0.0))
        for at, on in enumerate((columns.first, columns.second)):
            there = on >= 0
            setup = pricing.setup[columns.group[there], on[there]]
            hours[there, at] += setup
            cost[there] += setup
        kind = problem.groups.kind[columns.group]
        rows, cols, data = [], [], []
        for at, on in enumerate((columns.first, columns.second)):
            for row in range(limits.hours.shape[0]):
                counts = (on >= 0) & limits.holds[row][kind]
                rows.append(row * weeks + on[counts])
                cols.append(np.flatnonzero(counts))
                data.append(hours[counts, at])
        use = coo_array(
            (np.concatenate(data), (np.concatenate(rows), np.concatenate(cols))),
            shape=(limits.hours.size, count),
            dtype=np.float64,
        ).tocsr()
        return cls(pricing, limits, columns, week, cost, use)

    def solve(self) -> tuple[FloatArray, FloatArray, float]:
        """Shares of the columns, the price of each capacity row and week, the value."""
        groups = self.pricing.count.size
        count = self.columns.group.size
        once = csr_array((np.ones(count), (self.columns.group, np.arange(count))), shape=(groups, count))
        # SciPy takes sparse matrices here; its stubs do not say so.
        program: Any = linprog
        found = program(
            self.cost, A_ub=self.use, b_ub=self.limits.hours.ravel(), A_eq=once, b_eq=np.ones(groups), method="highs-ds"
        )
        if found.x is None:
            raise ArithmeticError(f"the master program has no solution: {found.message}")
        price = np.maximum(-found.ineqlin.marginals, 0.0).reshape(self.limits.hours.shape)
        return found.x, price, float(found.fun)

    def whole(self, share: FloatArray, seconds: float) -> IntArray:
        """One column a group: those that the linear program took whole, the others by a small integer program."""
        groups = self.pricing.count.size
        chosen = np.full(groups, -1)
        is_whole = share > 1 - 1e-6
        chosen[self.columns.group[is_whole]] = np.flatnonzero(is_whole)
        open_groups = np.flatnonzero(chosen < 0)
        left = self.limits.hours.ravel() - self.use[:, np.flatnonzero(is_whole)].sum(axis=1)
        at = np.flatnonzero(np.isin(self.columns.group, open_groups))
        if not at.size:
            return chosen
        once = csr_array((np.ones(at.size), (self.columns.group[at], np.arange(at.size))), shape=(groups, at.size))
        found = milp(
            self.cost[at],
            constraints=[
                LinearConstraint(self.use[:, at], ub=np.maximum(left, 0.0)),
                LinearConstraint(once[open_groups], 1, 1),
            ],
            integrality=np.ones(at.size, dtype=np.int64),
            bounds=Bounds(0, 1),
            options={"time_limit": seconds, "mip_rel_gap": 0.003},
        )
        if found.x is None:
            raise ArithmeticError("no whole plan was found in the time given")
        taken = at[found.x > 0.5]
        chosen[self.columns.group[taken]] = taken
        return chosen


BLOCK = 800
"""Groups that are solved together. A larger season is divided at random into blocks with their share of the hours:
a linear program's time grows faster than its size, and the bound, which is of the whole, shows what dividing costs."""


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
    shares = _shares(problem, limits, blocks)
    week = np.full(problem.needs.group.size, -1)
    visits = np.zeros(problem.groups.allowed.shape, dtype=bool)
    price, duals = np.zeros(limits.hours.shape), []
    for number, (block, hours) in enumerate(zip(blocks, shares, strict=True)):
        part, need = _part(problem, block)

        def told(stage: str, share: float, number: int = number) -> None:
            progress(stage, (number + share) / (len(blocks) + 1))

        found = _solve(part, replace(limits, hours=hours), price, told, rounds, target)
        week[need], visits[block] = found.week, found.visits
        price = found.price
        duals.append(found.price)
    progress("bound", len(blocks) / (len(blocks) + 1))
    bound, price = _bound(problem, limits, blocks, duals)
    plan = filled(problem, Plan(week, visits, 0.0, bound, limits.holds.astype(float).T @ price), limits)
    parts = parts_of(problem, plan)
    return replace(plan, cost=sum(parts.values()), parts=parts)


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
    return replace(problem, needs=replace(needs, group=position[needs.group]), groups=groups), need


@dataclass(frozen=True)
class _Solved:
    week: IntArray
    visits: BoolArray
    price: FloatArray


def _solve(
    problem: Problem, limits: Capacity, price: FloatArray, progress: Progress, rounds: int, target: float
) -> _Solved:
    """One block by column generation, beginning at the prices of the block before."""
    pricing = _Pricing(problem)
    holds = limits.holds.astype(float)
    bound, best_price = -np.inf, price
    _, columns = pricing.best(holds.T @ price, most=8)
    for turn in range(rounds):
        progress("prices", 0.9 * turn / rounds)
        master = _Master.of(pricing, limits, columns, holds.T @ price)
        share, dual, value = master.solve()
        # Prices half-way to the new ones: they settle sooner.
        price = dual if bound == -np.inf else 0.4 * best_price + 0.6 * dual
        least, more = pricing.best(holds.T @ price, most=3)
        lower = float(least.sum() - (price * limits.hours).sum())
        if lower > bound:
            bound, best_price = lower, price
        if value - bound <= target * max(abs(bound), 1e-9):
            break
        columns = columns.with_(more)
    progress("whole visits", 0.9)
    chosen = master.whole(share, 4.0)
    week = np.full(problem.needs.group.size, -1)
    column, need = pricing.rows_of(master.columns)
    taken = np.zeros(master.columns.group.size, dtype=bool)
    taken[chosen] = True
    of = taken[column]
    week[need[of]] = master.week[of]
    visits = np.zeros(problem.groups.allowed.shape, dtype=bool)
    for on in (master.columns.first[chosen], master.columns.second[chosen]):
        there = on >= 0
        visits[np.flatnonzero(there), on[there]] = True
    return _Solved(week, visits, best_price)


def _bound(
    problem: Problem, limits: Capacity, blocks: list[IntArray], duals: list[FloatArray]
) -> tuple[float, FloatArray]:
    """The Lagrangian bound of the whole at the mean of the blocks' prices: at given prices the blocks are apart."""
    price = np.mean(duals, axis=0)
    of_kind = limits.holds.astype(float).T @ price
    least = sum(float(_Pricing(_part(problem, block)[0]).best(of_kind)[0].sum()) for block in blocks)
    return least - float((price * limits.hours).sum()), price

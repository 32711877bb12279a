"""Visit patterns of a season and what each is worth at given prices.

A pattern is one or two weeks in which a site is visited; each is priced exactly for every site at once.
"""

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array, csr_array

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.planning.level import SOONEST_AGAIN_WEEKS, YEAR_WEEKS, without
from aquifer.core.planning.season import Capacity, Problem, again_costs, costs_of


@dataclass
class Columns:
    """Visit patterns: a group, and one or two weeks, -1 for none."""

    group: IntArray
    first: IntArray
    second: IntArray

    def with_(self, other: "Columns") -> "Columns":
        return Columns(*(np.concatenate([getattr(self, n), getattr(other, n)]) for n in ("group", "first", "second")))


@dataclass
class Spelled:
    """Columns with what happens in each: rows run over the needs of each column's group, ragged."""

    columns: Columns
    column: IntArray
    need: IntArray
    week: IntArray
    again: IntArray
    idle: BoolArray
    """Columns that visit nobody, or do nothing at their visit."""
    cost: FloatArray
    """Of each column."""
    use: csr_array
    """Hours that each takes of each capacity row and week, and asks of each of next year's weeks,
    (rows x weeks + YEAR_WEEKS, columns)."""

    def of(self, which: BoolArray) -> "Spelled":
        """Some of the columns."""
        rows = which[self.column]
        position = np.cumsum(which) - 1
        columns = Columns(self.columns.group[which], self.columns.first[which], self.columns.second[which])
        return Spelled(
            columns,
            position[self.column[rows]],
            self.need[rows],
            self.week[rows],
            self.again[rows],
            self.idle[which],
            self.cost[which],
            self.use[:, np.flatnonzero(which)],
        )


@dataclass(frozen=True)
class Prices:
    """Of an hour of each capacity row in each week, and of an hour of each of next year's weeks."""

    hours: FloatArray
    next_year: FloatArray

    def toward(self, other: "Prices", share: float) -> "Prices":
        return Prices(
            (1 - share) * self.hours + share * other.hours, (1 - share) * self.next_year + share * other.next_year
        )


@dataclass(frozen=True)
class Gains:
    """What serving each need in each week saves at given prices, negative is a saving, (n, w) each."""

    once: FloatArray
    """At most 0."""
    first: FloatArray
    """As the first of two times; with ``again`` of the second."""
    again: FloatArray


PAIRS = 3
"""Patterns of two visits that each group gives at once: with one the program takes more rounds."""
STRIDE = 4
"""Of a program that knows no prices yet, every so manieth week is given to each group."""


class Pricing:
    """Patterns at given prices, exactly, for all groups at once."""

    def __init__(self, problem: Problem, holds: FloatArray) -> None:
        self.problem = problem
        self.holds = holds
        self.costs = costs_of(problem)
        self.level = problem.level or without(problem.needs.group.size)
        self.phase = np.arange(problem.weeks) % YEAR_WEEKS
        # A season that is longer has second services of its own: see ``repeating``.
        self.twice = (self.level.load > 0) & (problem.weeks <= YEAR_WEEKS)
        self.again = again_costs(problem)
        order = np.argsort(problem.needs.group, kind="stable")
        self.order = order
        groups = problem.groups.kind.size
        self.count = np.bincount(problem.needs.group, minlength=groups)
        self.start = np.concatenate([[0], np.cumsum(self.count)])
        self.skip = np.bincount(problem.needs.group, self.costs.skip, minlength=groups)
        self.hours = problem.needs.hours * problem.groups.people[problem.needs.group]
        self.setup = problem.groups.setup * problem.groups.people[:, None]

    def gains(self, prices: Prices) -> tuple[Gains, FloatArray]:
        """What serving each need in each week saves at these prices, and what a visit there costs."""
        groups = self.problem.groups
        price = self.holds.T @ prices.hours
        kind = groups.kind[self.problem.needs.group]
        work = self.hours[:, None] * price[kind]
        crowds = self.level.load[:, None] * prices.next_year[self.phase][None, :]
        first = self.costs.do + work - self.costs.skip[:, None]
        visit = np.where(groups.allowed, self.setup * (1.0 + price[groups.kind]), np.inf)
        gains = Gains(
            np.minimum(first + crowds, 0.0),
            np.where(self.twice[:, None], first + self.again[0], np.inf),
            np.where(self.twice[:, None], self.again[1] + work + crowds, np.inf),
        )
        return gains, visit

    def best(self, prices: Prices, most: int = 1) -> tuple[FloatArray, Columns]:
        """Each group's least cost at these prices, and its best patterns: ``most`` of one visit, the best of two for
        each of its ``PAIRS`` best second weeks."""
        gain, visit = self.gains(prices)
        groups, weeks = visit.shape
        single = visit.copy()
        np.add.at(single, self.problem.needs.group, gain.once)
        promised = self.problem.groups.promised
        bound = promised >= 0
        fixed = np.where(np.arange(weeks)[None, :] == promised[:, None], single, np.inf)
        single = np.where(bound[:, None], fixed, single)
        least = np.where(bound, np.inf, 0.0)
        least = np.minimum(least, single.min(axis=1, initial=np.inf))
        chosen = np.argsort(single, axis=1, kind="stable")[:, :most]
        rows = np.repeat(np.arange(groups), chosen.shape[1])
        found = [Columns(rows, chosen.ravel(), np.full(rows.size, -1))]
        pair_value, pair_first, pair_second = self._pairs(gain, visit)
        least = np.minimum(least, pair_value.min(axis=1))
        twice, which = np.nonzero(np.isfinite(pair_value))
        found.append(Columns(twice, pair_first[twice, which], pair_second[twice, which]))
        free = np.flatnonzero(~bound)
        found.append(Columns(free, np.full(free.size, -1), np.full(free.size, -1)))
        columns = found[0].with_(found[1]).with_(found[2])
        keep = (columns.first < 0) | np.isfinite(single[columns.group, np.maximum(columns.first, 0)])
        keep |= columns.second >= 0
        return least + self.skip, Columns(columns.group[keep], columns.first[keep], columns.second[keep])

    def strewn(self) -> Columns:
        """One visit in every ``STRIDE``th week, another for each group: a begin for prices that are not known."""
        groups, weeks = self.problem.groups.allowed.shape
        group, week = np.divmod(np.arange(groups * weeks), weeks)
        promised = self.problem.groups.promised[group]
        strewn = ((week + group) % STRIDE == 0) & self.problem.groups.allowed[group, week] & (promised < 0)
        return Columns(group[strewn], week[strewn], np.full(int(strewn.sum()), -1))

    def _pairs(self, gain: Gains, visit: FloatArray) -> tuple[FloatArray, IntArray, IntArray]:
        """The best two visits of each group that may want two, by its best second weeks, (g, PAIRS) each; infinite for
        the others."""
        groups, weeks = visit.shape
        late, early = np.tril_indices(weeks, -1)
        begins = np.flatnonzero(early == 0)
        apart = late - early >= SOONEST_AGAIN_WEEKS
        # At a visit that stays there may be no hours for what is to be done.
        wants_two = (self.count >= 2) | (self.count >= 1) & (self.problem.groups.promised >= 0)
        wants_two[self.problem.needs.group[self.twice]] = True
        value = np.full((groups, PAIRS), np.inf)
        first, second = np.full((groups, PAIRS), -1), np.full((groups, PAIRS), -1)
        if not begins.size:
            return value, first, second
        promised = self.problem.groups.promised
        once, first_of, again = gain.once[self.order], gain.first[self.order], gain.again[self.order]
        twice = self.twice[self.order]
        for count in np.unique(self.count[wants_two]):
            rows = np.flatnonzero((self.count == count) & wants_two)
            for part in np.array_split(rows, max(1, rows.size * count // 2000)):
                if not part.size:
                    continue
                at = self.start[part]
                total = visit[part][:, early] + visit[part][:, late]
                for k in range(int(count)):
                    own = once[at + k]
                    least = np.minimum(own[:, early], own[:, late])
                    yearly = np.flatnonzero(twice[at + k])
                    if yearly.size:
                        need = at[yearly] + k
                        both = first_of[need][:, early[apart]] + again[need][:, late[apart]]
                        within = np.ix_(yearly, np.flatnonzero(apart))
                        least[within] = np.minimum(least[within], both)
                    total = total + least
                kept = promised[part][:, None]
                total = np.where((kept < 0) | (early[None, :] == kept) | (late[None, :] == kept), total, np.inf)
                weekly = np.minimum.reduceat(total, begins, axis=1)
                for n, best in enumerate(np.argsort(weekly, axis=1)[:, :PAIRS].T):
                    value[part, n] = weekly[np.arange(part.size), best]
                    second[part, n] = best + 1
                    first[part, n] = np.where(late[None, :] == best[:, None] + 1, total, np.inf).argmin(axis=1)
                    first[part, n] = early[first[part, n]]
        return value, first, second

    def weeks_of(self, columns: Columns, prices: Prices) -> tuple[IntArray, IntArray]:
        """Each column's needs with the week that serves them at these prices, and the one that does so again: -1 is
        later, or not; ragged, see ``rows_of``."""
        gain, _ = self.gains(prices)
        column, need = self.rows_of(columns)
        first, second = columns.first[column], columns.second[column]
        on, then = np.maximum(first, 0), np.maximum(second, 0)
        here = np.where(first >= 0, gain.once[need, on], 0.0)
        there = np.where(second >= 0, gain.once[need, then], 0.0)
        apart = (first >= 0) & (second - first >= SOONEST_AGAIN_WEEKS)
        both = np.where(apart, gain.first[need, on] + gain.again[need, then], np.inf)
        least = np.minimum(here, there)
        is_twice = both < np.minimum(least, 0.0)
        week = np.where(is_twice, first, np.where(there < here, second, first))
        return np.where(is_twice | (least < 0), week, -1), np.where(is_twice, second, -1)

    def rows_of(self, columns: Columns) -> tuple[IntArray, IntArray]:
        """For each need of each column: which column, which need."""
        count = self.count[columns.group]
        column = np.repeat(np.arange(columns.group.size), count)
        within = np.arange(column.size) - np.repeat(np.cumsum(count) - count, count)
        return column, self.order[self.start[columns.group][column] + within]

    def spelled(self, columns: Columns, prices: Prices, limits: Capacity) -> Spelled:
        """What happens in each column at these prices, what it costs and takes."""
        week, again = self.weeks_of(columns, prices)
        return self._spelled(columns, week, again, limits)

    def idle(self, columns: Columns, limits: Capacity) -> Spelled:
        """Columns at whose visits nothing is done."""
        column, _ = self.rows_of(columns)
        never = np.full(column.size, -1)
        return self._spelled(columns, never, never.copy(), limits)

    def _spelled(self, columns: Columns, week: IntArray, again: IntArray, limits: Capacity) -> Spelled:
        weeks, count = self.problem.weeks, columns.group.size
        column, need = self.rows_of(columns)
        served, twice = week >= 0, again >= 0
        costs = np.where(served, self.costs.do[need, np.maximum(week, 0)], self.costs.skip[need])
        costs[twice] += self.again[0][need[twice], week[twice]] + self.again[1][need[twice], again[twice]]
        cost: FloatArray = np.bincount(column, costs, minlength=count).astype(np.float64)
        hours = np.zeros((count, 2))
        is_second = served & (week == columns.second[column]) & (columns.second[column] >= 0)
        np.add.at(hours, (column, is_second.astype(int)), np.where(served, self.hours[need], 0.0))
        np.add.at(hours[:, 1], column[twice], self.hours[need[twice]])
        for at, on in enumerate((columns.first, columns.second)):
            there = on >= 0
            setup = self.setup[columns.group[there], on[there]]
            hours[there, at] += setup
            cost[there] += setup
        kind = self.problem.groups.kind[columns.group]
        last = np.maximum(week, again)
        asks = (last >= 0) & (self.level.load[need] > 0)
        rows, cols = [limits.hours.size + self.phase[last[asks]]], [column[asks]]
        data = [self.level.load[need[asks]]]
        for at, on in enumerate((columns.first, columns.second)):
            for row in range(limits.hours.shape[0]):
                counts = (on >= 0) & limits.holds[row][kind]
                rows.append(row * weeks + on[counts])
                cols.append(np.flatnonzero(counts))
                data.append(hours[counts, at])
        use = coo_array(
            (np.concatenate(data), (np.concatenate(rows), np.concatenate(cols))),
            shape=(limits.hours.size + YEAR_WEEKS, count),
            dtype=np.float64,
        ).tocsr()
        idle = np.bincount(column, served, minlength=count) == 0
        return Spelled(columns, column, need, week, again, idle, cost, use)

"""The season's linear program over the patterns known so far, which grows by those that pay at its prices.

It is kept between the rounds of column generation, so that each begins where the one before ended.
"""

from dataclasses import dataclass

import highspy
import numpy as np
from scipy.sparse import csc_array, csr_array, hstack, vstack

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.planning.level import YEAR_WEEKS
from aquifer.core.planning.patterns import Columns, Prices, Pricing, Spelled
from aquifer.core.planning.season import Capacity

DUAL, PRIMAL = 1, 4
"""HiGHS's numbers of the two ways of its simplex; the primal one goes on where columns were added."""
NEAR_HOURS = 0.5
"""Patterns that cost so much more than what they would save are not taken in. Assumption: tried from 0.2 to none."""
NEAR_WHOLE_HOURS = 10.0
"""As much for those that whole visits are chosen from: a week past a cap, see ``CAP_WEEK_HOURS``."""
GAP = 0.003
"""How far the choice of whole visits may be from the best one."""


@dataclass(frozen=True)
class Chosen:
    """What a block's groups were given: the week of each need and the one in which it is served again, the visits."""

    week: IntArray
    again: IntArray
    visits: BoolArray


class Master:
    """Rows are the hours of each capacity and week, next year's weeks, and one pattern a group; the first columns are
    what next year's weeks are over their room."""

    def __init__(self, pricing: Pricing, limits: Capacity) -> None:
        self._pricing, self._limits = pricing, limits
        self._room = np.concatenate([limits.hours.ravel(), pricing.level.room])
        self._groups = pricing.count.size
        self._known: list[Spelled] = []
        self._keys = np.zeros(0, dtype=np.int64)
        random = np.random.default_rng(self._groups)
        self._hashes = random.integers(2**62, size=(2, pricing.problem.needs.group.size))
        self._duals: FloatArray | None = None
        self._program = _silent()
        rows = self._room.size + self._groups
        lower = np.concatenate([np.full(self._room.size, -highspy.kHighsInf), np.ones(self._groups)])
        _add_rows(self._program, csr_array((rows, 0)), lower, np.concatenate([self._room, np.ones(self._groups)]))
        _add_columns(self._program, np.full(YEAR_WEEKS, pricing.level.price), self._over(rows))

    def add(self, new: Spelled) -> None:
        """Columns that are not there yet and may pay."""
        fresh = self._fresh(new)
        if not fresh.cost.size:
            return
        self._known.append(fresh)
        once = _once(fresh.columns.group, self._groups)
        _add_columns(self._program, fresh.cost, vstack([fresh.use, once]))

    def solve(self) -> tuple[FloatArray, Prices, float]:
        """Shares of the columns, the prices, the value. Raises: ArithmeticError where promises pass the hours."""
        self._program.setOptionValue("simplex_strategy", DUAL if self._duals is None else PRIMAL)
        self._program.run()
        status = self._program.getModelStatus()
        if status != highspy.HighsModelStatus.kOptimal:
            raise ArithmeticError(f"the master program has no solution: {self._program.modelStatusToString(status)}")
        found = self._program.getSolution()
        self._duals = np.array(found.row_dual)
        price = np.maximum(-self._duals[: self._room.size], 0.0)
        hours, next_year = np.split(price, [self._limits.hours.size])
        prices = Prices(hours.reshape(self._limits.hours.shape), np.minimum(next_year, self._pricing.level.price))
        return np.array(found.col_value)[YEAR_WEEKS:], prices, float(self._program.getInfo().objective_function_value)

    def whole(self, share: FloatArray, seconds: float) -> Chosen:
        """One column a group: those that the linear program took whole, the others by a small integer program.

        Parameters: share, of the columns there were when it was solved; seconds that the search may take.
        """
        group = np.concatenate([one.columns.group for one in self._known])
        share = np.concatenate([share, np.zeros(group.size - share.size)])
        use = hstack([one.use for one in self._known]).tocsc()
        chosen = np.full(self._groups, -1)
        is_whole = share > 1 - 1e-6
        chosen[group[is_whole]] = np.flatnonzero(is_whole)
        left: FloatArray = (self._room - use[:, np.flatnonzero(is_whole)].sum(axis=1)).astype(np.float64)
        hours = self._limits.hours.size
        left[:hours] = np.maximum(left[:hours], 0.0)
        open_groups = np.flatnonzero(chosen < 0)
        near = np.concatenate([self._reduced(one) for one in self._known]) < NEAR_WHOLE_HOURS
        # What visits nobody, or does nothing at a promised visit, always fits.
        near |= np.concatenate([one.idle for one in self._known]) | (share > 0)
        at = np.flatnonzero(near & (chosen[group] < 0))
        if at.size:
            once = _once(np.searchsorted(open_groups, group[at]), open_groups.size)
            cost = np.concatenate([one.cost for one in self._known])[at]
            taken = at[self._taken(cost, use[:, at], left, once, seconds)]
            chosen[group[taken]] = taken
        return self._spelled_out(chosen)

    def _taken(
        self, cost: FloatArray, use: csc_array | csr_array, left: FloatArray, once: csr_array, seconds: float
    ) -> BoolArray:
        """Which columns are taken: first without next year's weeks but at their prices, then from there with them."""
        hours, count = self._limits.hours.size, cost.size
        assert self._duals is not None
        priced = cost - use[hours:].T @ self._duals[hours : self._room.size]
        taken = _integer(priced, count, use[:hours], left[:hours], once, None, seconds / 2)
        if self._pricing.level.load.any():
            over = np.maximum(use[hours:] @ taken - left[hours:], 0.0)
            both = np.concatenate([cost, np.full(YEAR_WEEKS, self._pricing.level.price)])
            rows = csr_array(hstack([use, self._over(self._room.size)]))
            wide = hstack([once, csr_array((once.shape[0], YEAR_WEEKS))])
            taken = _integer(both, count, rows, left, wide, np.concatenate([taken, over]), seconds / 2)
        return taken[:count] > 0.5

    def _spelled_out(self, chosen: IntArray) -> Chosen:
        problem, begins = self._pricing.problem, 0
        week = np.full(problem.needs.group.size, -1)
        again, visits = week.copy(), np.zeros(problem.groups.allowed.shape, dtype=bool)
        for one in self._known:
            taken = np.zeros(one.cost.size, dtype=bool)
            taken[chosen[(chosen >= begins) & (chosen < begins + one.cost.size)] - begins] = True
            rows = taken[one.column]
            week[one.need[rows]], again[one.need[rows]] = one.week[rows], one.again[rows]
            for on in (one.columns.first, one.columns.second):
                there = taken & (on >= 0)
                visits[one.columns.group[there], on[there]] = True
            begins += one.cost.size
        return Chosen(week, again, visits)

    def _fresh(self, new: Spelled) -> Spelled:
        key = self._key(new)
        fresh = np.zeros(key.size, dtype=bool)
        fresh[np.unique(key, return_index=True)[1]] = True
        fresh &= ~np.isin(key, self._keys)
        if self._duals is not None:
            fresh &= self._reduced(new) < NEAR_HOURS
        self._keys = np.concatenate([self._keys, key[fresh]])
        return new.of(fresh)

    def _key(self, new: Spelled) -> IntArray:
        """A number that only a column with the same visits and services has, but for one chance in 10^18."""
        columns: Columns = new.columns
        weeks = self._pricing.problem.weeks + 1
        key = (columns.group * weeks + columns.first + 1) * weeks + columns.second + 1
        first, second = self._hashes[:, new.need]
        # Integers of fixed size wrap around, which is what is wanted.
        np.add.at(key, new.column, (new.week + 2) * first + (new.again + 2) * second)
        return key

    def _reduced(self, one: Spelled) -> FloatArray:
        """What each column costs more than it would save at the duals found last, hours."""
        assert self._duals is not None
        rows, groups = np.split(self._duals, [self._room.size])
        return np.asarray(one.cost - one.use.T @ rows - groups[one.columns.group])

    def _over(self, rows: int) -> csr_array:
        """Columns of what next year's weeks are over their room."""
        week = np.arange(YEAR_WEEKS)
        at = (self._limits.hours.size + week, week)
        return csr_array((np.full(YEAR_WEEKS, -1.0), at), shape=(rows, YEAR_WEEKS))


def _once(group: IntArray, groups: int) -> csr_array:
    return csr_array((np.ones(group.size), (group, np.arange(group.size))), shape=(groups, group.size))


def _integer(
    cost: FloatArray,
    integers: int,
    use: csc_array | csr_array,
    left: FloatArray,
    once: csr_array,
    begin: FloatArray | None,
    seconds: float,
) -> FloatArray:
    """The best choice of columns found in the time, one a group. Parameters: integers, how many of the columns are to
    be whole; begin, a choice that is possible."""
    program = _silent()
    program.setOptionValue("time_limit", seconds)
    program.setOptionValue("mip_rel_gap", GAP)
    groups = once.shape[0]
    lower = np.concatenate([np.full(left.size, -highspy.kHighsInf), np.ones(groups)])
    rows = lower.size
    _add_rows(program, csr_array((rows, 0)), lower, np.concatenate([left, np.ones(groups)]))
    _add_columns(program, cost, vstack([csr_array(use), once]))
    kinds = np.full(integers, highspy.HighsVarType.kInteger)
    program.changeColsIntegrality(integers, np.arange(integers, dtype=np.int32), kinds)
    if begin is not None:
        known = highspy.HighsSolution()
        known.col_value = begin.tolist()
        program.setSolution(known)
    program.run()
    found = np.array(program.getSolution().col_value)
    if not found.size:
        raise ArithmeticError("no whole plan was found in the time given")
    return found


def _silent() -> highspy.Highs:
    program = highspy.Highs()  # type: ignore[no-untyped-call]
    program.setOptionValue("output_flag", False)
    # One worker plans beside others.
    program.setOptionValue("threads", 1)
    return program


def _add_rows(program: highspy.Highs, rows: csr_array, lower: FloatArray, upper: FloatArray) -> None:
    begins, places = rows.indptr[:-1].astype(np.int32), rows.indices.astype(np.int32)
    program.addRows(lower.size, lower, upper, rows.nnz, begins, places, rows.data)


def _add_columns(program: highspy.Highs, cost: FloatArray, columns: csr_array) -> None:
    """Columns from 0 upwards."""
    by_column = columns.tocsc()
    begins, places = by_column.indptr[:-1].astype(np.int32), by_column.indices.astype(np.int32)
    upper = np.full(cost.size, highspy.kHighsInf)
    program.addCols(cost.size, cost, np.zeros(cost.size), upper, by_column.nnz, begins, places, by_column.data)

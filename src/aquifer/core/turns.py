"""Events of many heaters taken in turn: all first ones at once, then all second ones, and so on."""

import numpy as np

from aquifer.core.arrays import IntArray


def ranked(row: IntArray) -> IntArray:
    """Position of each event among those of its heater, 0 first; ``row`` sorted, shape (m,)."""
    first = np.searchsorted(row, row, side="left")
    return np.asarray(np.arange(row.size) - first)


def by_rank(row: IntArray) -> list[IntArray]:
    """Indices of all first events, all second events, ...; each heater at most once in each."""
    rank = ranked(row)
    order = np.argsort(rank, kind="stable")
    return [part for part in np.split(order, np.flatnonzero(np.diff(rank[order])) + 1) if part.size]

"""What all of it comes to, over the futures of a base."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aquifer.core.arrays import FloatArray

COUNTED = ("visits", "flushes", "descales", "rods", "relief_valves", "leaks", "replacements", "calls")


@dataclass(frozen=True)
class Ahead:
    """The years of some heaters under one practice; f futures, y years."""

    names: tuple[str, ...]
    """Of the measures."""
    counts: FloatArray
    """By ``COUNTED``, (c, f, y)."""
    measures: FloatArray
    """(m, f, y)."""
    by_heater: FloatArray
    """Of each heater, a visit's shared among those at its site: the mean of the futures, (n, m, y)."""

    def counted(self, name: str) -> FloatArray:
        """(f, y). Raises: ValueError for a name that is not in ``COUNTED``."""
        return np.asarray(self.counts[COUNTED.index(name)])

    def measured(self, name: str) -> FloatArray:
        """(f, y). Raises: ValueError for a measure that there is not."""
        return np.asarray(self.measures[self.names.index(name)])


def added(parts: Sequence[Ahead]) -> Ahead:
    """What parts of one base come to together, their heaters one after the other. Raises: ValueError for none."""
    if not parts:
        raise ValueError("no part of a base; at least one is needed")
    return Ahead(
        parts[0].names,
        np.asarray(sum(part.counts for part in parts)),
        np.asarray(sum(part.measures for part in parts)),
        np.concatenate([part.by_heater for part in parts]),
    )


def fan(values: FloatArray, chances: tuple[float, ...] = (0.1, 0.5, 0.9)) -> FloatArray:
    """Quantiles over the futures, (chances, years). Parameters: values, (futures, years)."""
    return np.asarray(np.quantile(values, chances, axis=0))


def better(one: FloatArray, other: FloatArray) -> float:
    """Share of the futures in which the first of two, lived with the same luck, comes to less over all years."""
    return float(np.mean(one.sum(axis=1) < other.sum(axis=1)))

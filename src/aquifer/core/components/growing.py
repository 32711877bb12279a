"""What the engine asks of every component that grows towards a limit, and what they share."""

from dataclasses import dataclass
from typing import ClassVar, Protocol, Self

import numpy as np

from aquifer.core import policy
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.fleet import Fleet, Heaters
from aquifer.core.learning import GRID, Evidence, Pairs, Posterior
from aquifer.core.vocabulary import Component

REACH_YEARS = 100.0
"""Times are cut here, far beyond the horizon, so that arithmetic stays finite."""


YEAR = np.array([0.0, 0.5, 1.0])
"""Times from today at which the coming year is looked at, years."""


@dataclass(frozen=True)
class ComingYear:
    method: IntArray
    """Proposed for each heater, positions in ``Method``, (n,)."""
    unserviced: FloatArray
    """Probability of being over the limit at ``YEAR`` if nothing is done, (n, 3)."""
    serviced: FloatArray
    """The same after a service by that method today."""


class Growing(Protocol):
    """What the engine asks of a component. n heaters, q rates, t times."""

    @staticmethod
    def rows_of(heaters: Heaters) -> IntArray:
        """Which of some heaters have such a component."""
        ...

    @classmethod
    def of(cls, fleet: Fleet) -> Self:
        """The component of those heaters of a fleet that have it."""
        ...

    @property
    def name(self) -> Component: ...

    hears: ClassVar[tuple[str, ...]]
    """The fleet's events that it learns from."""

    @property
    def row(self) -> IntArray:
        """Which rows of the fleet have such a component."""
        ...

    @property
    def heaters(self) -> Heaters: ...

    @property
    def unit(self) -> str:
        """Of its rate."""
        ...

    @property
    def zone_spread(self) -> FloatArray:
        """Standard deviation of the zone's log rate, (n,)."""
        ...

    @property
    def heater_spread(self) -> FloatArray:
        """Standard deviation of the heater's own, (n,)."""
        ...

    @property
    def future_spread(self) -> float:
        """How far the rate to come usually strays from that of the past, natural log."""
        ...

    def evidence(self) -> Evidence: ...

    def pairs(self) -> Pairs | None:
        """What was measured and graded at one visit."""
        ...

    @property
    def since_service(self) -> FloatArray:
        """Years since the service that counts: flush, descale, new rod, exercise; or since installation; (n,)."""
        ...

    def years_from_service(self, log_theta: FloatArray) -> FloatArray:
        """Years from that service until the limit, (n, q), if nothing more is done."""
        ...

    def due(self, by_risk: FloatArray, belief: Posterior) -> policy.Due: ...

    def coming_year(self, belief: Posterior, due: policy.Due) -> ComingYear:
        """What is proposed, and what it would spare."""
        ...

    def rate(self, log_theta: FloatArray) -> FloatArray: ...

    def state(self, log_theta: FloatArray) -> dict[str, FloatArray]: ...

    def in_a_year(self, log_theta: FloatArray) -> FloatArray:
        """The first figure of the state in 12 months at each rate, unserviced, (n, q)."""
        ...

    def limit(self) -> tuple[str, FloatArray]: ...

    def log_factors(self) -> dict[str, FloatArray]:
        """ln of the unit rate over the plain reference heater's, as factors that sum to it; (n,) each."""
        ...


def log_of(values: FloatArray) -> FloatArray:
    """ln of values that may be 0, which count as 1e-12: less than any reading."""
    return np.asarray(np.log(np.maximum(values, 1e-12)))


def on_grid(log_theta: FloatArray) -> FloatArray:
    """Readings of log theta brought within the grid: further out they could not be told from a slip."""
    return np.asarray(np.clip(log_theta, GRID[0], GRID[-1]))

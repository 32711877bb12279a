"""What the engine asks of every component, and the two small things they share."""

from typing import Protocol

import numpy as np

from aquifer.core import policy
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.fleet import Heaters
from aquifer.core.learning import Evidence, Posterior
from aquifer.core.vocabulary import Component, Method

REACH_YEARS = 100.0
"""Times are cut here, far beyond the horizon, so that arithmetic stays finite."""


class Growing(Protocol):
    """What the engine asks of a component. n heaters, q rates, t times."""

    @property
    def name(self) -> Component: ...

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

    def evidence(self) -> Evidence: ...

    @property
    def since_service(self) -> FloatArray:
        """Years since the service that counts: flush, descale, new rod, exercise; or since installation; (n,)."""
        ...

    def years_from_service(self, log_theta: FloatArray) -> FloatArray:
        """Years from that service until the limit, (n, q), if nothing more is done."""
        ...

    def over_limit(self, belief: Posterior, years: FloatArray, method: Method | None) -> FloatArray:
        """Probability of being over the limit ``years`` from today, (n, t), unserviced or serviced today."""
        ...

    def due(self, by_risk: FloatArray, belief: Posterior) -> policy.Due: ...

    def method(self, belief: Posterior) -> IntArray:
        """Positions in ``Method``, (n,)."""
        ...

    def rate(self, log_theta: FloatArray) -> FloatArray: ...

    def state(self, log_theta: FloatArray) -> dict[str, FloatArray]: ...

    def limit(self) -> tuple[str, FloatArray]: ...

    def log_factors(self) -> dict[str, FloatArray]:
        """ln of the unit rate over the plain reference heater's, as factors that sum to it; (n,) each."""
        ...


def log_bounds(cuts: tuple[float, ...], grade: IntArray) -> tuple[FloatArray, FloatArray]:
    """ln of the lower and upper bound of each grade (codes, (m,)), -inf and inf at the ends."""
    edges = np.concatenate([[-np.inf], np.log(cuts), [np.inf]])
    return edges[grade], edges[grade + 1]


def log_of(values: FloatArray) -> FloatArray:
    """ln of values that may be 0, which count as 1e-12: less than any reading."""
    return np.asarray(np.log(np.maximum(values, 1e-12)))

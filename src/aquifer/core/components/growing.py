"""What the engine asks of every component that grows towards a limit, and what they share."""

from abc import ABC, abstractmethod
from dataclasses import dataclass
from typing import ClassVar, Protocol, Self

import numpy as np

from aquifer.core import policy
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.fleet import Fleet, Heaters
from aquifer.core.learning import GRID, ComponentCalibration, Evidence, Pairs, Posterior
from aquifer.core.learning.grid import at_each
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


@dataclass(frozen=True)
class Dates:
    """Years from today."""

    window: FloatArray
    """At which the limit is reached, one for each chance, (n, q); 0 if it has been."""
    accepted: FloatArray
    """The same at the chance that is accepted, (n,); negative if it has been."""
    without: FloatArray
    """The same with each factor of the pace taken away, (n, f)."""


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

    def informed(self, taught: ComponentCalibration) -> Self:
        """The component under what the base taught."""
        ...

    @property
    def since_service(self) -> FloatArray:
        """Years since the service that counts: flush, descale, new rod, exercise; or since installation; (n,)."""
        ...

    def dates(self, belief: Posterior, chances: FloatArray, accepted: FloatArray, log_factors: FloatArray) -> Dates:
        """When the limit is reached if nobody comes.

        Parameters: chances, that the pace is below the quantile which a date goes with, (q,), and ``accepted``, (n,);
        log_factors, ln of each factor of the pace, (n, f).
        """
        ...

    def due(self, by_risk: FloatArray, belief: Posterior) -> policy.Due: ...

    def coming_year(self, belief: Posterior, due: policy.Due, ends: BoolArray) -> ComingYear:
        """What is proposed, and what it would spare. Parameters: ends, whether the heater is to be replaced, (n,)."""
        ...

    def rate(self, log_theta: FloatArray) -> FloatArray: ...

    def state(self, belief: Posterior) -> dict[str, FloatArray]:
        """Each figure of what is there now, at P10, P50, P90, (n, 3)."""
        ...

    def in_a_year(self, belief: Posterior) -> FloatArray:
        """The first figure of the state in 12 months if nobody comes, at P10, P50, P90, (n, 3)."""
        ...

    def limit(self) -> tuple[str, FloatArray]: ...

    def log_factors(self) -> dict[str, FloatArray]:
        """ln of the unit rate over the plain reference heater's, as factors that sum to it; (n,) each."""
        ...


P10_P50_P90 = np.array([0.10, 0.50, 0.90])


class Paced(ABC):
    """What follows where a pace is all there is to know: state and date hang on it alone."""

    def informed(self, taught: ComponentCalibration) -> Self:
        return self

    @abstractmethod
    def years_from_service(self, log_theta: FloatArray) -> FloatArray:
        """Years from the service that counts until the limit, (n, q), if nothing more is done."""

    @property
    @abstractmethod
    def since_service(self) -> FloatArray: ...

    @abstractmethod
    def states(self, log_theta: FloatArray) -> dict[str, FloatArray]:
        """Each figure of the state at each pace, (n, q)."""

    @abstractmethod
    def states_in_a_year(self, log_theta: FloatArray) -> FloatArray: ...

    def rates(self, belief: Posterior, chances: FloatArray, accepted: FloatArray) -> FloatArray:
        """log theta with which the limit is reached at each chance, and at the accepted one, (n, q + 1)."""
        return np.concatenate([belief.quantiles(chances), at_each(belief.quantiles, accepted)[:, None]], axis=1)

    def dates(self, belief: Posterior, chances: FloatArray, accepted: FloatArray, log_factors: FloatArray) -> Dates:
        since = self.since_service[:, None]
        rates = self.rates(belief, chances, accepted)
        # One call for the window, the date, and the date without each factor.
        years = self.years_from_service(np.concatenate([rates, rates[:, -1:] - log_factors], axis=1)) - since
        window, at, without = np.split(years, [chances.size, chances.size + 1], axis=1)
        return Dates(np.maximum(window, 0.0), at[:, 0], without)

    def state(self, belief: Posterior) -> dict[str, FloatArray]:
        return self.states(belief.quantiles_of_past(P10_P50_P90))

    def in_a_year(self, belief: Posterior) -> FloatArray:
        return self.states_in_a_year(belief.quantiles(P10_P50_P90))


def log_of(values: FloatArray) -> FloatArray:
    """ln of values that may be 0, which count as 1e-12: less than any reading."""
    return np.asarray(np.log(np.maximum(values, 1e-12)))


def on_grid(log_theta: FloatArray) -> FloatArray:
    """Readings of log theta brought within the grid: further out they could not be told from a slip."""
    return np.asarray(np.clip(log_theta, GRID[0], GRID[-1]))

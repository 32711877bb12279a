"""How long visits take: what is assumed of each thing that is done, and what a company's own visits taught of it."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from types import MappingProxyType

import numpy as np

from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.vocabulary import Component, Method


class Work(StrEnum):
    """What the hours of a visit are made of."""

    ARRIVING = "arriving"
    FLUSH = "flush"
    SLOW_FLUSH = "slow_flush"
    """What jetting and soaking take beyond a plain flush."""
    DESCALE = "descale"
    ROD = "rod"
    NEW_ROD = "new_rod"
    """What it takes to renew a part, beyond the look at it."""
    RELIEF_VALVE = "relief_valve"
    NEW_RELIEF_VALVE = "new_relief_valve"
    EXPANSION_TANK = "expansion_tank"
    NEW_EXPANSION_TANK = "new_expansion_tank"


ASSUMED_HOURS: Mapping[Work, float] = MappingProxyType(
    {
        Work.ARRIVING: 0.3,
        Work.FLUSH: 1.0,
        Work.SLOW_FLUSH: 0.5,
        Work.DESCALE: 1.25,
        Work.ROD: 0.5,
        Work.NEW_ROD: 0.25,
        Work.RELIEF_VALVE: 0.25,
        Work.NEW_RELIEF_VALVE: 0.75,
        Work.EXPANSION_TANK: 0.25,
        Work.NEW_EXPANSION_TANK: 0.75,
    }
)
"""Until the company's own visits tell: arriving is ringing, covering the floor, explaining and writing up, once a
visit; the others at the heater. Assumption: gravity draining alone takes 15 to 45 minutes."""
REPLACING_HOURS = 4.0
"""A heater taken out and another put in its place. Assumption."""
SERVICE = MappingProxyType(
    {
        Component.SEDIMENT: Work.FLUSH,
        Component.SCALE: Work.DESCALE,
        Component.ANODE: Work.ROD,
        Component.RELIEF_VALVE: Work.RELIEF_VALVE,
        Component.EXPANSION_TANK: Work.EXPANSION_TANK,
    }
)
RENEWAL = MappingProxyType(
    {
        Component.ANODE: Work.NEW_ROD,
        Component.RELIEF_VALVE: Work.NEW_RELIEF_VALVE,
        Component.EXPANSION_TANK: Work.NEW_EXPANSION_TANK,
    }
)
SLOW = frozenset({Method.JETTING, Method.ACID_SOAK})
OWN_SPREAD = 0.4
"""How far a company's hours lie from those assumed, sd of ln. Assumption: two in three within half as long again."""
PERSON_SPREAD = 0.2
"""How far people's pace at the same work differs, sd of ln. Assumption."""
VISIT_SPREAD = 0.3
"""How far visits for the same work differ, sd of ln, until they tell. Assumption."""
STRAY = 4.0
"""Degrees of freedom of Student's t, by which the visits stray: a device left on, an hour's talk. Assumption."""
PASSES = 40
"""Of fitting; it settles within ten. Measured on visits drawn at random."""
_AS_IF = 10
"""Visits that strayed as is assumed, beside the company's own. Assumption."""
_ORDER = tuple(Work)
_NINETIETH = 1.2816
"""The nine-tenth point of the normal distribution."""
_LEAST_RENEWALS = 20
"""Services behind the share of parts that are renewed at them: it is drawn to none as if so many had found the part
good. Assumption."""


@dataclass(frozen=True)
class Hours:
    """What a visit is planned for."""

    of_work: Mapping[Work, float] = field(default_factory=lambda: ASSUMED_HOURS)
    renewed: Mapping[Work, float] = field(default_factory=lambda: MappingProxyType({}))
    """At which share of the services the part is renewed on the spot."""
    spread: float = VISIT_SPREAD
    """How far one visit strays from it, sd of ln."""

    @property
    def arriving(self) -> float:
        """Of every visit, whatever is done at it."""
        return self.of_work[Work.ARRIVING]

    def look(self, component: Component, method: Method | None = None) -> float:
        """At the heater for a service at which no part is renewed. Raises: KeyError for a whole tank."""
        slow = self.of_work[Work.SLOW_FLUSH] if component is Component.SEDIMENT and method in SLOW else 0.0
        return self.of_work[SERVICE[component]] + slow

    def of(self, component: Component, method: Method | None = None) -> float:
        """At the heater for a service, with the renewals that so many of them come to."""
        if component is Component.TANK:
            return REPLACING_HOURS
        new = RENEWAL.get(component)
        return self.look(component, method) + (self.renewed.get(new, 0.0) * self.of_work[new] if new else 0.0)

    def window(self, hours: FloatArray) -> tuple[FloatArray, FloatArray]:
        """From when to when eight of ten visits that are planned for these hours are done, any shape."""
        # What is planned is the mean: it lies above the middle of what strays to the long side.
        middle = hours / np.exp(self.spread**2 / 2)
        return middle * np.exp(-_NINETIETH * self.spread), middle * np.exp(_NINETIETH * self.spread)


ASSUMED = Hours()


@dataclass(frozen=True)
class Taken:
    """Visits, one row each, all that was done in one house on one day: (n,), and (n, w) in the order of ``Work``."""

    hours: FloatArray
    work: FloatArray
    """How often each was done; of a renewal, and of what is slow, besides the service itself."""
    person: IntArray
    """Who went, by number."""


@dataclass(frozen=True)
class Learned:
    """What visits taught, (w,) in the order of ``Work``."""

    hours: Hours
    times: FloatArray
    """How often each was done in what it was learned from."""
    low: FloatArray
    high: FloatArray
    """Hours between which eight of ten would lay the mean."""


def learned(taken: Taken) -> Learned:
    """What visits are to be planned for, by what they took.

    ln of a visit's hours is that of the sum of its works, each drawn to what is assumed of it, with the pace of who
    went, and strays by Student's t. The mean is planned, not the middle: a day is the sum of its visits. With none, all
    is as assumed. Source: iteratively reweighted least squares with normal priors (textbook).
    """
    assumed = np.array([ASSUMED_HOURS[one] for one in _ORDER])
    people = int(taken.person.max(initial=-1)) + 1
    n, works = taken.work.shape
    log_factor, pace, spread = np.zeros(works), np.zeros(people), VISIT_SPREAD
    prior = np.diag(np.concatenate([np.full(works, OWN_SPREAD**-2), np.full(people, PERSON_SPREAD**-2)]))
    precision = prior
    for _ in range(PASSES if n else 0):
        each = taken.work * (assumed * np.exp(log_factor))
        total = each.sum(axis=1)
        rest = np.log(taken.hours) - np.log(total) - pace[taken.person]
        weight = (STRAY + 1) / (STRAY + (rest / spread) ** 2)
        slope = np.zeros((n, works + people))
        slope[:, :works] = each / total[:, None]
        slope[np.arange(n), works + taken.person] = 1.0
        weighed = slope * (weight / spread**2)[:, None]
        precision = weighed.T @ slope + prior
        step = np.linalg.solve(precision, weighed.T @ rest - prior @ np.concatenate([log_factor, pace]))
        log_factor, pace = log_factor + step[:works], pace + step[works:]
        spread = float(np.sqrt(((weight * rest**2).sum() + VISIT_SPREAD**2) / (n + 1)))
    sd = np.sqrt(np.diag(np.linalg.inv(precision))[:works])
    times = taken.work.sum(axis=0)
    renewed = {
        new: float(times[_ORDER.index(new)] / (times[_ORDER.index(SERVICE[component])] + _LEAST_RENEWALS))
        for component, new in RENEWAL.items()
    }
    middle = assumed * np.exp(log_factor)
    plan = _planned(middle, renewed, taken.work)
    strays, above = _strays(np.log(taken.hours) - np.log(plan)) if n else (VISIT_SPREAD, 1.0)
    mean = middle * above
    return Learned(
        Hours(dict(zip(_ORDER, mean.tolist(), strict=True)), renewed, strays),
        times,
        mean * np.exp(-_NINETIETH * sd),
        mean * np.exp(_NINETIETH * sd),
    )


def _strays(rest: FloatArray) -> tuple[float, float]:
    """How far visits stray from their plan, whoever goes and whatever has to be renewed: sd of ln by their own tenths,
    and the mean of what they take over the middle.

    As if a few more had strayed as is assumed, so that some that agree do not promise the minute; a device left on
    over night counts as a very long visit. Parameters: rest, ln of what each took over the middle planned for it, (n,).
    """
    low, high = np.quantile(rest, [0.1, 0.9])
    own = (high - low) / (2 * _NINETIETH)
    spread = float(np.sqrt((rest.size * own**2 + _AS_IF * VISIT_SPREAD**2) / (rest.size + _AS_IF)))
    over = np.exp(np.clip(rest, -3 * spread, 3 * spread))
    return spread, float((over.sum() + _AS_IF * np.exp(VISIT_SPREAD**2 / 2)) / (rest.size + _AS_IF))


def planned(hours: Hours, work: FloatArray) -> FloatArray:
    """What visits would have been planned for by these hours, (n,): by the services at them, (n, w), not knowing which
    part would have to be renewed."""
    return _planned(np.array([hours.of_work[one] for one in _ORDER]), hours.renewed, work)


def _planned(each: FloatArray, renewed: Mapping[Work, float], work: FloatArray) -> FloatArray:
    as_planned = each.copy()
    for component, new in RENEWAL.items():
        as_planned[_ORDER.index(SERVICE[component])] += renewed.get(new, 0.0) * each[_ORDER.index(new)]
        as_planned[_ORDER.index(new)] = 0.0
    return np.asarray(work @ as_planned)

"""A part of a base, the practice and the water under which its years are lived, and what each thing counts for."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.fleet import Fleet
from aquifer.core.forecast import FleetForecast
from aquifer.core.learning import ComponentCalibration
from aquifer.core.planning.hours import ASSUMED, RENEWAL, REPLACING_HOURS, Hours
from aquifer.core.planning.season import WORTH_HOURS
from aquifer.core.vocabulary import Component, Method

BLOCK = 1000
"""Heaters lived at once: 200 futures of them fit a processor's cache by the megabyte. Measured."""
RENEWED = (Component.RELIEF_VALVE, Component.ANODE)
"""Components of which a part is renewed on the spot where it is found spent."""
SERVED = (
    Component.SEDIMENT,
    Component.SCALE,
    Component.ANODE,
    Component.RELIEF_VALVE,
    Component.EXPANSION_TANK,
)


@dataclass(frozen=True)
class Worth:
    """What each thing that happens counts for, in as many measures as there are names; n heaters, s sites."""

    names: tuple[str, ...]
    is_hours: BoolArray
    """Which measures are hours of work, (m,): they may take longer than planned."""
    service: Mapping[Component, FloatArray]
    """(n, m)."""
    renewed: Mapping[Component, FloatArray]
    """More, where the service fits a new part, (n, m)."""
    visit: FloatArray
    """(s, m)."""
    tank: FloatArray
    """Of a heater that is replaced, (n, m)."""
    year: FloatArray
    """Of each year that a site stays, (s, m)."""

    def at(self, rows: IntArray, sites: IntArray) -> "Worth":
        """Of these heaters and sites."""
        return replace(
            self,
            service={component: values[rows] for component, values in self.service.items()},
            renewed={component: values[rows] for component, values in self.renewed.items()},
            visit=self.visit[sites],
            tank=self.tank[rows],
            year=self.year[sites],
        )


@dataclass(frozen=True)
class Scene:
    """n heaters at s sites, whole sites."""

    fleet: Fleet
    """As it is, under the practice that is tried."""
    found: FleetForecast
    """Its forecasts."""
    site: IntArray
    """A number below s for each heater, (n,)."""
    worth: Worth
    to_come: Fleet
    """The same heaters on the water and with the softeners that they will have."""
    replaced: BoolArray
    """Which are replaced today, (n,)."""
    calibration: Mapping[Component, ComponentCalibration] = field(default_factory=lambda: MappingProxyType({}))
    leaving: float = 0.0
    """Share of the sites that leave in a year."""
    accepted: float = 0.0
    """Share of the tanks due for replacement that their owners replace."""
    worth_hours: float = WORTH_HOURS
    """What a year of one heater over its limit is worth, hours of work."""
    hours: Hours = ASSUMED
    """What visits are planned for."""

    @property
    def sites(self) -> int:
        return int(self.site.max(initial=-1)) + 1

    def at(self, rows: IntArray) -> "Scene":
        """The scene of these heaters (rows increasing), which are all of their sites."""
        sites, site = np.unique(self.site[rows], return_inverse=True)
        return replace(
            self,
            fleet=self.fleet.at(rows),
            found=_of(self.found, rows, self.site.size),
            site=site.reshape(-1),
            worth=self.worth.at(rows, sites),
            to_come=self.to_come.at(rows),
            replaced=self.replaced[rows],
        )

    def blocks(self) -> Iterator[IntArray]:
        """Rows of whole sites, some ``BLOCK`` heaters at a time; the same for any number of workers."""
        order = np.argsort(self.site, kind="stable")
        sizes = np.bincount(self.site, minlength=self.sites)
        start = end = 0
        for size in sizes.tolist():
            end += size
            if end - start >= BLOCK:
                yield np.sort(order[start:end])
                start = end
        if end > start:
            yield np.sort(order[start:end])


def plain_worth(fleet: Fleet, found: FleetForecast, sites: int, travel_hours: float) -> Worth:
    """Hours alone. Parameters: travel_hours, by the way of one visit. Source: ``planning.hours``."""
    n = len(fleet.heaters)
    service = {}
    for one in found.components:
        if one.component in SERVED:
            took = np.zeros((n, 1))
            took[one.row, 0] = [ASSUMED.look(one.component, list(Method)[int(method)]) for method in one.method]
            service[one.component] = took
    return Worth(
        names=("hours",),
        is_hours=np.ones(1, dtype=bool),
        service=service,
        renewed={component: np.full((n, 1), ASSUMED.of_work[RENEWAL[component]]) for component in RENEWED},
        visit=np.full((sites, 1), ASSUMED.arriving + travel_hours),
        tank=np.full((n, 1), REPLACING_HOURS + ASSUMED.arriving + travel_hours),
        year=np.zeros((sites, 1)),
    )


def _of(found: FleetForecast, rows: IntArray, heaters: int) -> FleetForecast:
    """The forecasts of these heaters, numbered by their place in ``rows``; none of what none of them has."""
    place = np.full(heaters, -1, dtype=np.int64)
    place[rows] = np.arange(rows.size)
    chosen = []
    for one in found.components:
        kept = np.flatnonzero(place[one.row] >= 0)
        if kept.size:
            chosen.append(replace(one.at(kept), row=place[one.row[kept]]))
    return replace(found, components=chosen)

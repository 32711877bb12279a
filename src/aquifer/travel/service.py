"""The interface of a travel-time service, and the one in use."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from aquifer.travel.roads import Roads


@dataclass(frozen=True)
class Point:
    """A place on the earth, degrees."""

    longitude: float
    latitude: float


class TravelTimes(Protocol):
    """What a travel-time service answers."""

    def minutes(self, points: Sequence[Point]) -> NDArray[np.int64]:
        """Driving minutes from each point to each, rounded up, (n, n); 0 on the diagonal."""

    def way(self, stops: Sequence[Point]) -> list[Point]:
        """The line driven through these points in order, for drawing."""

    def lines(self, west: float, south: float, east: float, north: float) -> list[list[Point]]:
        """The larger roads within a box, for drawing."""


class SimulatedTravelTimes:
    """Travel times on the simulated roads, for any box of points."""

    def minutes(self, points: Sequence[Point]) -> NDArray[np.int64]:
        if not points:
            return np.zeros((0, 0), dtype=np.int64)
        found = _roads(points).minutes(np.array([[p.longitude, p.latitude] for p in points]))
        whole = np.ceil(found - 1e-9).astype(np.int64)
        np.fill_diagonal(whole, 0)
        return whole

    def way(self, stops: Sequence[Point]) -> list[Point]:
        if len(stops) < 2:
            return list(stops)
        line = _roads(stops).way(np.array([[p.longitude, p.latitude] for p in stops]))
        return [Point(float(x), float(y)) for x, y in line]

    def lines(self, west: float, south: float, east: float, north: float) -> list[list[Point]]:
        roads = _of_box(*_box(west, south, east, north))
        return [[Point(float(x), float(y)) for x, y in line] for line in roads.main_lines()]


def times() -> TravelTimes:
    """The service in use."""
    return SimulatedTravelTimes()


def _roads(points: Sequence[Point]) -> Roads:
    longitudes, latitudes = [p.longitude for p in points], [p.latitude for p in points]
    return _of_box(*_box(min(longitudes), min(latitudes), max(longitudes), max(latitudes)))


def _box(west: float, south: float, east: float, north: float) -> tuple[int, int, int, int]:
    """A box in tenths of a degree, so that few networks are built however the points lie."""
    return (
        int(np.floor(west * 10)),
        int(np.floor(south * 10)),
        int(np.floor(east * 10)) + 1,
        int(np.floor(north * 10)) + 1,
    )


@lru_cache(maxsize=8)
def _of_box(west: int, south: int, east: int, north: int) -> Roads:
    return Roads(west, south, east, north)

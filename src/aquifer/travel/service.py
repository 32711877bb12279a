"""The interface of a travel-time service, and the one in use."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from http.client import HTTPException
from time import monotonic
from typing import Any, Protocol
from urllib.error import HTTPError
from urllib.request import urlopen

import numpy as np
from numpy.typing import NDArray

from aquifer import environment
from aquifer.travel import estimate
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


class EstimatedTravelTimes:
    """Travel times by the straight line: what is used where nothing better is set up."""

    def minutes(self, points: Sequence[Point]) -> NDArray[np.int64]:
        return estimate.minutes(_degrees(points))

    def way(self, stops: Sequence[Point]) -> list[Point]:
        return list(stops)

    def lines(self, west: float, south: float, east: float, north: float) -> list[list[Point]]:
        return []


class RouterTravelTimes(EstimatedTravelTimes):
    """Travel times of a routing server on the company's own machine, by its table and route services; what it does not
    answer is estimated."""

    def __init__(self, address: str) -> None:
        self._address = address.rstrip("/")

    def minutes(self, points: Sequence[Point]) -> NDArray[np.int64]:
        if not 2 <= len(points) <= MOST_TO_ROUTER:
            return super().minutes(points)
        found = self._asked("table", points, "annotations=duration")
        estimated = super().minutes(points)
        if found is None:
            return estimated
        seconds = np.array(
            [[np.nan if one is None else one for one in row] for row in found["durations"]], dtype=np.float64
        )
        known = np.ceil(seconds / 60 + estimate.DOOR_MINUTES)
        whole = np.where(np.isnan(known), estimated, np.nan_to_num(known)).astype(np.int64)
        np.fill_diagonal(whole, 0)
        return whole

    def way(self, stops: Sequence[Point]) -> list[Point]:
        found = self._asked("route", stops, "overview=simplified&geometries=geojson") if len(stops) > 1 else None
        line = found["routes"][0]["geometry"]["coordinates"] if found and found.get("routes") else None
        return [Point(float(x), float(y)) for x, y in line] if line else list(stops)

    def _asked(self, what: str, points: Sequence[Point], how: str) -> dict[str, Any] | None:
        """The server's answer; None where it does not answer in time or as it should."""
        at = ";".join(f"{p.longitude:.6f},{p.latitude:.6f}" for p in points)
        address = f"{self._address}/{what}/v1/driving/{at}?{how}"
        if monotonic() < _SILENT_UNTIL.get(self._address, 0.0):
            return None
        try:
            with urlopen(address, timeout=ROUTER_SECONDS) as answer:  # noqa: S310 - the operator's own server
                told = json.load(answer)
        except (HTTPError, HTTPException, ValueError):
            return None
        except OSError:
            # It is not there, or hangs: whoever asks for several zones does not wait for each.
            _SILENT_UNTIL[self._address] = monotonic() + ASK_AGAIN_SECONDS
            return None
        return told if isinstance(told, dict) and told.get("code") == "Ok" else None


class SimulatedTravelTimes:
    """Travel times on the simulated roads of the demo, for any box of points that a company could drive."""

    def minutes(self, points: Sequence[Point]) -> NDArray[np.int64]:
        if not points:
            return np.zeros((0, 0), dtype=np.int64)
        if _extent(points) > WIDEST_DEGREES:
            return estimate.minutes(_degrees(points))
        found = _roads(points).minutes(np.array([[p.longitude, p.latitude] for p in points]))
        whole = np.ceil(found - 1e-9).astype(np.int64)
        np.fill_diagonal(whole, 0)
        return whole

    def way(self, stops: Sequence[Point]) -> list[Point]:
        if len(stops) < 2 or _extent(stops) > WIDEST_DEGREES:
            return list(stops)
        line = _roads(stops).way(np.array([[p.longitude, p.latitude] for p in stops]))
        return [Point(float(x), float(y)) for x, y in line]

    def lines(self, west: float, south: float, east: float, north: float) -> list[list[Point]]:
        if max(east - west, north - south) > WIDEST_DEGREES:
            return []
        roads = _of_box(*_box(west, south, east, north))
        return [[Point(float(x), float(y)) for x, y in line] for line in roads.main_lines()]


MOST_TO_ROUTER = 100
"""Points that are asked for at once: what such servers take unless they are told otherwise."""
ROUTER_SECONDS = 10.0
ASK_AGAIN_SECONDS = 60.0
"""After so long a server that did not answer is asked again; till then ways are estimated. Assumption."""
_SILENT_UNTIL: dict[str, float] = {}
"""By address of a routing server until when it is not asked, on this process's clock."""
WIDEST_DEGREES = 3.0
"""Of the simulated roads: beyond it the network would not fit into memory. Some 300 km."""


def times() -> TravelTimes:
    """The service in use: the demo's roads, the company's own routing server, or the straight line."""
    told = environment.read()
    if told.router:
        return RouterTravelTimes(told.router)
    return SimulatedTravelTimes() if told.demo else EstimatedTravelTimes()


def are_estimated() -> bool:
    """Whether driving times are by the straight line."""
    return type(times()) is EstimatedTravelTimes


def _degrees(points: Sequence[Point]) -> NDArray[np.float64]:
    return np.array([[p.longitude, p.latitude] for p in points], dtype=np.float64).reshape(-1, 2)


def _extent(points: Sequence[Point]) -> float:
    return float(np.ptp(_degrees(points), axis=0).max())


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

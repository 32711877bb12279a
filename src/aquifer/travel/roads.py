"""Simulated roads: a lattice bent a little, every few lines a main road, some lanes missing.

The same for the same box of the earth, whoever asks and whenever. Nothing of it is anybody's road.
"""

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components, dijkstra

PER_TENTH = 10
"""Crossings to a tenth of a degree: about one a kilometre. Assumption."""
MAIN_EVERY = 4
MAIN_KM_H, LANE_KM_H, LAST_KM_H = 62.0, 34.0, 18.0
"""On main roads, on lanes, and from the nearest crossing to the door. Assumption."""
CROSSING_MINUTES = 0.3
DOOR_MINUTES = 1.5
"""Parking and walking up. Assumption."""
MISSING = 0.2
"""Share of the lanes that do not go through. Assumption."""
DETOUR = 1.2
"""How much longer a road is than the line between its ends. Assumption."""
KM_PER_DEGREE = 111.2
"""Of latitude. Constant: the earth's circumference over 360."""
Coordinates = NDArray[np.float64]


class Roads:
    """The network of a box, its corners in tenths of a degree."""

    def __init__(self, west: int, south: int, east: int, north: int) -> None:
        columns = np.arange(west * PER_TENTH, east * PER_TENTH + 1)
        rows = np.arange(south * PER_TENTH, north * PER_TENTH + 1)
        i, j = (grid.ravel() for grid in np.meshgrid(columns, rows, indexing="ij"))
        step = 0.1 / PER_TENTH
        bend = 0.32 * step
        self._at = np.stack([i * step + bend * _drawn(i, j, 1), j * step + bend * _drawn(i, j, 2)], axis=1)
        self._scale = np.array([np.cos(np.radians((south + north) / 20)), 1.0]) * KM_PER_DEGREE
        height = rows.size
        number = np.arange(i.size).reshape(columns.size, height)
        along = [self._edges(number[:-1].ravel(), number[1:].ravel(), j % MAIN_EVERY == 0, i, j, 3)]
        along.append(self._edges(number[:, :-1].ravel(), number[:, 1:].ravel(), i % (MAIN_EVERY + 1) == 0, i, j, 4))
        a, b, self._main, minutes = (np.concatenate(parts) for parts in zip(*along, strict=True))
        graph = csr_array((minutes, (a, b)), shape=(i.size, i.size))
        _, part = connected_components(graph, directed=False)
        self._usable = np.flatnonzero(part == np.bincount(part).argmax())
        self._graph, self._ends = graph, np.stack([a, b], axis=1)

    def _edges(
        self,
        a: NDArray[np.int64],
        b: NDArray[np.int64],
        is_main: NDArray[np.bool_],
        i: NDArray[np.int64],
        j: NDArray[np.int64],
        salt: int,
    ) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.bool_], NDArray[np.float64]]:
        main = is_main[a]
        there = main | (_drawn(i[a], j[a], salt) > 2 * MISSING - 1)
        a, b, main = a[there], b[there], main[there]
        km = DETOUR * np.hypot(*((self._at[a] - self._at[b]) * self._scale).T)
        return a, b, main, 60 * km / np.where(main, MAIN_KM_H, LANE_KM_H) + CROSSING_MINUTES

    def _nearest(self, points: Coordinates) -> tuple[NDArray[np.int64], Coordinates]:
        """The crossing nearest to each point, and the minutes to it."""
        away = np.hypot(*np.moveaxis((points[:, None] - self._at[self._usable][None]) * self._scale, -1, 0))
        nearest = away.argmin(axis=1)
        km = DETOUR * away[np.arange(points.shape[0]), nearest]
        return self._usable[nearest], 60 * km / LAST_KM_H

    def minutes(self, points: Coordinates) -> Coordinates:
        """Driving minutes between points (n, 2), (n, n); the same place is 0."""
        node, last = self._nearest(points)
        different, back = np.unique(node, return_inverse=True)
        between = dijkstra(self._graph, directed=False, indices=different)[:, different]
        found = between[np.ix_(back, back)] + last[:, None] + last[None, :] + DOOR_MINUTES
        same = (points[:, None] == points[None]).all(axis=-1)
        return np.where(same, 0.0, found)

    def way(self, points: Coordinates) -> Coordinates:
        """The line through points in order, (m, 2)."""
        node, _ = self._nearest(points)
        _, before = dijkstra(self._graph, directed=False, indices=node[:-1], return_predecessors=True)
        line = [points[0]]
        for leg, target in enumerate(node[1:]):
            path, at = [], target
            while at >= 0:
                path.append(self._at[at])
                at = before[leg, at]
            line += [*reversed(path), points[leg + 1]]
        return np.array(line)

    def main_lines(self) -> list[Coordinates]:
        """The main roads, each piece from crossing to crossing."""
        return [self._at[ends] for ends in self._ends[self._main]]


def _drawn(i: NDArray[np.int64], j: NDArray[np.int64], salt: int) -> Coordinates:
    """A number in [-1, 1) of each crossing, the same always: a mixing of its numbers."""
    mixed = (i * 73856093) ^ (j * 19349663) ^ (salt * 83492791)
    mixed = (mixed ^ (mixed >> 13)) * 1274126177 & 0x7FFFFFFF
    return (mixed % 20011) / 10005.5 - 1.0

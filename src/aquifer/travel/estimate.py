"""Driving times by the straight line, where no roads are known: near enough to plan by, and said to be estimated."""

import numpy as np
from numpy.typing import NDArray

EARTH_KM = 6371.0
"""Mean radius of the earth. Constant."""
DETOUR = 1.3
"""How much longer a way is than the line between its ends. Trade practice in routing: 1.2 to 1.4."""
TOWN_KM, TOWN_KM_H, LAND_KM_H = 8.0, 32.0, 65.0
"""The first kilometres of a way are driven as in a town, the rest as on country roads. Assumption."""
DOOR_MINUTES = 2.0
"""Parking and walking up. Assumption."""
FARTHEST_MINUTES = 24 * 60
"""Nobody drives longer to a visit: what is farther is no way at all. Assumption."""


def minutes(points: NDArray[np.float64]) -> NDArray[np.int64]:
    """Driving minutes between places. Parameters: points, degrees of longitude and latitude, (n, 2). Returns: (n, n),
    rounded up, 0 between a place and itself. Source: great circle by the haversine; the speeds are assumptions."""
    longitude, latitude = np.radians(points).T
    half = np.sin((latitude[:, None] - latitude[None]) / 2) ** 2
    half += np.cos(latitude[:, None]) * np.cos(latitude[None]) * np.sin((longitude[:, None] - longitude[None]) / 2) ** 2
    km = DETOUR * 2 * EARTH_KM * np.arcsin(np.sqrt(np.clip(half, 0.0, 1.0)))
    driven = 60 * (np.minimum(km, TOWN_KM) / TOWN_KM_H + np.maximum(km - TOWN_KM, 0.0) / LAND_KM_H) + DOOR_MINUTES
    found: NDArray[np.int64] = np.ceil(np.minimum(driven, FARTHEST_MINUTES)).astype(np.int64)
    np.fill_diagonal(found, 0)
    return found

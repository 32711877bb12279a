"""A regression without physics, to be better than: log rate on people and hardness, with effects of water, heater and
technician, all shrunk towards nothing. Its windows are its own residuals'."""

from dataclasses import dataclass

import numpy as np
from numpy.linalg import solve

from aquifer.core.arrays import BoolArray, FloatArray
from aquifer.core.fleet import Fleet
from aquifer.study.foreign.told import CUTS_MM, CUTS_OF_EXCHANGER_MM, GRAMS_PER_MM

LEFT = 0.35
"""Share of the deposit that it takes a service to leave."""


@dataclass(frozen=True)
class Told:
    """Quantiles at 10, 50 and 90 %, (n, 3), mm."""

    now: FloatArray
    in_a_year: FloatArray


def told(fleet: Fleet, tanks: bool) -> tuple[BoolArray, Told]:
    """Which heaters it speaks of, and what it says of them."""
    h = fleet.heaters
    rows = h.is_tank if tanks else ~h.is_tank
    events = fleet.flushes if tanks else fleet.descales
    cuts = np.log(CUTS_MM if tanks else CUTS_OF_EXCHANGER_MM)
    middles = np.concatenate([[cuts[0] - 0.7], (cuts[1:] + cuts[:-1]) / 2, [cuts[-1] + 0.5]])
    measured = fleet.flushes.depth_m * 1000 if tanks else fleet.descales.dissolved_kg * 1000 / GRAMS_PER_MM
    known = np.flatnonzero((events.removed >= 0) | ~np.isnan(measured))
    read = ~np.isnan(measured[known])
    seen = np.where(read, np.log(np.maximum(measured[known], 0.3 if tanks else 0.01)), middles[events.removed[known]])
    exposed, last = _exposure(fleet, tanks)
    row, by = events.row[known], events.by[known]
    y = seen - np.log(np.maximum(exposed[known], 0.05))
    n, zones, people = len(h), h.zones, fleet.graders

    def columns(at: np.ndarray, grader: np.ndarray | None) -> FloatArray:
        base = np.stack([np.ones(at.size), np.log(h.volume_m3[at]), np.log(np.maximum(h.hardness_mg_l[at], 5))], axis=1)
        effects = np.zeros((at.size, zones + n + people))
        effects[np.arange(at.size), h.zone[at]] = 1
        effects[np.arange(at.size), zones + at] = 1
        if grader is not None:
            effects[np.arange(at.size), zones + n + grader] = 1
        return np.hstack([base, effects])

    x = columns(row, by)
    x[read, 3 + zones + n :] = 0
    weight = np.where(read, 1 / 0.3**2, 1 / 0.7**2)
    penalty = np.concatenate(
        [np.full(3, 1e-3), np.full(zones, 1 / 0.4**2), np.full(n, 1 / 0.6**2), np.full(people, 9.0)]
    )
    beta = solve((x * weight[:, None]).T @ x + np.diag(penalty), (x * weight[:, None]).T @ y)
    left = y - x @ beta
    sd = float(np.sqrt(np.mean(left**2))) if y.size else 1.0
    rate = np.exp(columns(np.flatnonzero(rows), None) @ beta)
    spread = np.exp(1.2816 * sd * np.array([-1.0, 0.0, 1.0]))
    since = last[rows]
    return rows, Told((rate * since)[:, None] * spread, (rate * (since + 1))[:, None] * spread)


def _exposure(fleet: Fleet, tanks: bool) -> tuple[FloatArray, FloatArray]:
    """Years of growth that lay in each heater before each service, and lie there now."""
    events = fleet.flushes if tanks else fleet.descales
    held, at = np.zeros(len(fleet.heaters)), np.zeros(len(fleet.heaters))
    before = np.zeros(events.row.size)
    for event, (row, years) in enumerate(zip(events.row.tolist(), events.years.tolist(), strict=True)):
        before[event] = held[row] + years - at[row]
        held[row], at[row] = LEFT * before[event], years
    return before, held + fleet.heaters.age_years - at

"""What differs between the futures of one base.

Each part of a base draws from the seed and its own number, so that parts lived one after the other or on many machines
come to the same figures, and two practices are lived with the same luck.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from aquifer.core.arrays import FloatArray
from aquifer.core.forecast import FleetForecast
from aquifer.core.vocabulary import Component

COMMON_SPREAD = 0.12
"""Standard deviation of what all paces of a component are wrong by together, natural log. Fitted to simulated bases of
other families (docs/study/years.md): what is left after hundreds of findings."""
ROD_SPREAD = 0.06
"""The same of how fast rods go: of what wears evenly looks tell more. Fitted likewise."""
VALVE_SPREAD = 0.35
"""The same of how often relief valves fail: they seldom do, so less is learned. Fitted likewise."""
LIFE_SPREAD = 0.15
"""The same of how often tanks give way: what own failures say of it counts on a law that tanks need not keep. Fitted
likewise."""
HOURS_SPREAD = 0.052
"""The same of what a visit takes against what is planned. Fitted likewise, with ``MOVED``."""
MOVED = {"visits": 0.12, "flushes": 0.13, "descales": 0.16, "rods": 0.08, "relief_valves": 0.16}
"""The same of what a year does of what falls due in it, by what is counted: a season moves work over the turn of a year
and a belief moves dates. Fitted likewise."""
LONGEST_YEARS = 10
GOLDEN = 0.6180339887498949
"""Its multiples fall evenly over 0 to 1 (Weyl)."""


@dataclass(frozen=True)
class Shared:
    """Of the whole base, one figure a future, (f,) each."""

    pace: Mapping[Component, FloatArray]
    """What all of a component are wrong by together, natural log."""
    life: FloatArray
    """Where the base's tanks lie in what is not known of their lives, 0 to 1."""
    hours: FloatArray
    """What all visits take longer than planned, natural log."""
    moved: Mapping[str, FloatArray]
    """What each year does more of what falls due in it, natural log, (f, ``LONGEST_YEARS``)."""
    seed: int

    @property
    def futures(self) -> int:
        return int(self.life.size)


@dataclass(frozen=True)
class Luck:
    """Of one block of a base."""

    shared: Shared
    pace: Mapping[Component, FloatArray]
    """Standard normal, of each component's rows, (k, f)."""
    chance: Mapping[Component, FloatArray]
    """Uniform, of each component's rows, (k, f)."""
    leaves: FloatArray
    """Uniform, of each site, (s, f)."""


def shared(futures: int, seed: int) -> Shared:
    """Luck of the whole base. Parameters: how many futures; seed. Source: normal and uniform draws (textbook)."""
    random = np.random.default_rng(seed)
    spread = dict.fromkeys(Component, COMMON_SPREAD)
    spread |= {
        Component.ANODE: ROD_SPREAD,
        Component.RELIEF_VALVE: VALVE_SPREAD,
        Component.TANK: LIFE_SPREAD,
    }
    pace = {component: random.normal(0, spread[component], futures) for component in Component}
    # Evenly over what is possible, in an order of its own: of few futures none is left out.
    life = (random.permutation(futures) + random.random(futures)) / futures
    hours = random.normal(0, HOURS_SPREAD, futures)
    moved = {name: random.normal(0, one, (futures, LONGEST_YEARS)) for name, one in MOVED.items()}
    return Shared(pace, life, hours, moved, seed)


def drawn(common: Shared, found: FleetForecast, sites: int, place: tuple[int, ...]) -> Luck:
    """Luck of one block. Parameters: what is common; the block's forecasts and its number of sites; the numbers of the
    part and of the block in it. Source: normal and uniform draws (textbook)."""
    random = np.random.default_rng([common.seed, *place])
    shape = {one.component: (one.row.size, common.futures) for one in found.components}
    return Luck(
        common,
        {component: _doubles(random.standard_normal(size, dtype=np.float32)) for component, size in shape.items()},
        {component: _doubles(random.random(size, dtype=np.float32)) for component, size in shape.items()},
        _doubles(random.random((sites, common.futures), dtype=np.float32)),
    )


def again(uniform: FloatArray, number: int) -> FloatArray:
    """Another uniform figure each time, from one that was drawn. Source: rotation by the golden section."""
    return np.asarray((uniform + GOLDEN * number) % 1.0)


def _doubles(drawn: np.ndarray) -> FloatArray:
    return np.asarray(drawn, dtype=np.float64)

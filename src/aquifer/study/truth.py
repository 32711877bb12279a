"""How the simulated heaters really behave, month by month.

On purpose outside the core's family: use drifts and jumps, supplies swing with the season, deposit grows as a power of
what precipitates and faster on what lies there, hardens in stages by its depth, and is flushed with luck and skill;
rods wear faster the thinner they are; valves stick with a frailty of their own. Figures are assumptions.
"""

from copy import deepcopy
from dataclasses import dataclass

import numpy as np

from aquifer.core import chemistry
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import FlushMethod, code

MONTH = 1 / 12
_TEMPERATURES = np.array([45.0, 55.0, 65.0, 75.0, 90.0])
GAS, ELECTRIC, TANKLESS = (
    code(kind) for kind in (HeaterKind.GAS_TANK, HeaterKind.ELECTRIC_TANK, HeaterKind.GAS_TANKLESS)
)
_LOOSE_SHARE = {"pressure_blowout": 0.58, "drain_and_pulse": 0.72, "jetting": 0.90, "acid_soak": 0.88}
_HARD_SHARE = {"pressure_blowout": 0.04, "drain_and_pulse": 0.09, "jetting": 0.42, "acid_soak": 0.72}
LOOSE_BY_METHOD = np.array([_LOOSE_SHARE[m.value] for m in FlushMethod])
HARD_BY_METHOD = np.array([_HARD_SHARE[m.value] for m in FlushMethod])


@dataclass(frozen=True)
class Place:
    """What does not change; arrays of shape (n,) or (zones,)."""

    zones: int
    analyses: list[chemistry.Analysis]
    """The true water of each zone, at its yearly mean."""
    zone: IntArray
    kind: IntArray
    technician: IntArray
    """Who usually comes."""
    use_m3: FloatArray
    """True yearly use at the start."""
    setpoint_c: FloatArray
    softened: BoolArray
    hardness_mg_l: FloatArray
    own: FloatArray
    """How much of what precipitates stays in each heater, over the usual: shape, dip tube, how it is fired."""
    rod_pace: FloatArray
    """Share a year that a new rod loses."""
    valve_frailty: FloatArray

    def __len__(self) -> int:
        return int(self.zone.size)


@dataclass
class State:
    """What changes; arrays of shape (n,)."""

    month: int
    drift: FloatArray
    use_m3: FloatArray
    supply: FloatArray
    """ln of each zone's hardness over its mean, (zones,)."""
    fluff_mm: FloatArray
    loose_mm: FloatArray
    hard_mm: FloatArray
    scale_mm: FloatArray
    worn: FloatArray
    stuck: BoolArray
    idle_months: FloatArray

    @property
    def depth_mm(self) -> FloatArray:
        return self.fluff_mm + self.loose_mm + self.hard_mm

    def copy(self) -> "State":
        return deepcopy(self)


def settle(heaters: int, seed: int, zones: int = 40, technicians: int = 12) -> Place:
    """A base of heaters and its supplies. Technicians mostly stay in their zones, so an eye looks like a water."""
    random = np.random.default_rng(seed)
    hardness = np.clip(random.lognormal(np.log(190), 0.65, zones), 25, 480)
    analyses = []
    for value in hardness.tolist():
        calcium = value * np.clip(random.normal(0.70, 0.09), 0.4, 0.95)
        alkalinity = (0.8 * value / (1 + value / 1600) + 12) * random.lognormal(0, 0.28)
        balanced = np.clip(12.0 - np.log10(calcium) - np.log10(alkalinity), 6.9, 8.2)
        ph = np.clip(balanced + random.normal(0, 0.2), 6.7, 8.5)
        analyses.append(chemistry.Analysis(value, calcium, alkalinity, float(ph), 120 + 2.2 * value, 13.0))
    zone = np.sort(random.integers(0, zones, heaters))
    kind = np.array([GAS, ELECTRIC, TANKLESS])[random.choice(3, heaters, p=[0.48, 0.32, 0.20])]
    home = random.integers(0, technicians, zones)
    away = random.random(heaters) < 0.15
    technician = np.where(away, random.integers(0, technicians, heaters), home[zone])
    use = random.lognormal(np.log(58), 0.45, heaters)
    softened = random.random(heaters) < 0.04
    setpoint = random.choice([50.0, 55.0, 60.0, 60.0, 65.0], heaters) + random.normal(0, 4, heaters)
    of_zone = random.lognormal(0, 0.2, zones)[zone]
    conductivity = (120 + 2.2 * hardness)[zone]
    pace = (
        0.17
        * of_zone
        * (conductivity / 500) ** 0.25
        * 1.35 ** ((setpoint - 58) / 12)
        * random.lognormal(0, 0.3, heaters)
    )
    return Place(
        zones,
        analyses,
        zone,
        kind,
        technician,
        use,
        np.clip(setpoint, 40, 78),
        softened,
        hardness[zone],
        random.lognormal(0, 0.5, heaters),
        np.where(softened, 1.8, 1.0) * pace,
        random.lognormal(0, 0.7, heaters),
    )


class World:
    """A base whose truth is stepped a month at a time."""

    def __init__(self, place: Place, seed: int) -> None:
        self.place = place
        self._seed = seed
        self._potential = np.array(
            [
                [chemistry.heated(water, float(t)).precipitation_potential_mg_l for t in _TEMPERATURES]
                for water in place.analyses
            ]
        )
        n = len(place)
        zero = np.zeros(n)
        self.state = State(
            0,
            zero.copy(),
            place.use_m3.copy(),
            np.zeros(place.zones),
            zero.copy(),
            zero.copy(),
            zero.copy(),
            zero.copy(),
            zero.copy(),
            np.zeros(n, dtype=bool),
            zero.copy(),
        )

    def potential(self, rise_k: float) -> FloatArray:
        """What precipitates at each heater now, mg/L."""
        place = self.place
        at = np.clip(place.setpoint_c + rise_k, _TEMPERATURES[0], _TEMPERATURES[-1])
        upper = np.clip(np.searchsorted(_TEMPERATURES, at), 1, _TEMPERATURES.size - 1)
        share = (at - _TEMPERATURES[upper - 1]) / (_TEMPERATURES[upper] - _TEMPERATURES[upper - 1])
        rows = self._potential[place.zone]
        index = np.arange(len(place))
        found = (1 - share) * rows[index, upper - 1] + share * rows[index, upper]
        return np.where(place.softened, 0.0, found * np.exp(1.3 * self.state.supply)[place.zone])

    def step(self, state: State | None = None) -> None:
        """A month passes, for the world or for a copy of its state in which nobody comes.

        The month's chances hang on the month alone, so that both see the same weather.
        """
        s, place = state or self.state, self.place
        keep, self.state = self.state, s
        random = np.random.default_rng([self._seed, 77, s.month])
        n = len(place)
        s.drift = 0.9 * s.drift + random.normal(0, 0.11, n)
        moved = random.random(n) < 0.06 * MONTH
        s.use_m3 = np.where(moved, place.use_m3 * random.lognormal(0, 0.4, n), s.use_m3)
        season = 0.18 * np.sin(2 * np.pi * s.month / 12)
        s.supply = 0.97 * s.supply + 0.03 * season * 6 + random.normal(0, 0.015, place.zones)
        used = s.use_m3 * np.exp(s.drift) * (1 + 0.12 * np.cos(2 * np.pi * s.month / 12)) * MONTH
        self._bed(s, used)
        film = np.maximum(self.potential(20.0) - 4, 0)
        crust = 1 + 0.5 * np.minimum(s.scale_mm / 0.225, 1.5)
        s.scale_mm = s.scale_mm + 1.26e-4 * place.own * used * film**0.97 * crust * (place.kind == TANKLESS)
        s.worn = s.worn + MONTH * place.rod_pace * (0.8 + 0.6 * np.minimum(s.worn, 1.2)) * np.exp(0.5 * s.drift)
        s.idle_months = s.idle_months + 1
        sticks = 0.00115 * np.exp(0.0038 * (place.hardness_mg_l - 120)) * place.valve_frailty
        s.stuck = s.stuck | (random.random(n) < 1 - np.exp(-sticks * s.idle_months**0.28))
        s.month += 1
        self.state = keep

    def _bed(self, s: State, used: FloatArray) -> None:
        tank, own = self.place.kind != TANKLESS, self.place.own
        settles = 0.00128 * np.maximum(self.potential(0.0) - 3, 0) ** 1.35 + 0.0045
        fresh = own * used * settles * (1 + 0.8 * np.minimum(s.depth_mm / 15, 1.0)) * tank
        packed = s.fluff_mm * 0.5
        baked = s.loose_mm * (0.03 + 0.03 * np.minimum(s.depth_mm / 20, 1.0))
        s.fluff_mm = s.fluff_mm + fresh - packed
        s.loose_mm = s.loose_mm + 0.8 * packed - baked
        s.hard_mm = s.hard_mm + 0.5 * baked

    def stick_hazard(self, months: FloatArray) -> FloatArray:
        """True cumulative hazard of sticking that many months after running, (n,)."""
        sticks = 0.00115 * np.exp(0.0038 * (self.place.hardness_mg_l - 120)) * self.place.valve_frailty
        return np.asarray(sticks * np.maximum(months, 0.0) ** 1.28 / 1.28)

    def flush(self, rows: IntArray, method: IntArray, skill: FloatArray, random: np.random.Generator) -> None:
        """Flush some tanks, with luck, and worse where the bed is deep."""
        s = self.state
        luck = random.normal(0, 0.35, rows.size) + skill - 0.25 * np.minimum(s.depth_mm[rows] / 40, 1)

        def share(usual: FloatArray) -> FloatArray:
            odds = np.log(usual / (1 - usual)) + luck
            return np.asarray(1 / (1 + np.exp(-odds)))

        loose = share(LOOSE_BY_METHOD[method])
        s.fluff_mm[rows] *= 1 - np.maximum(loose, 0.9)
        s.loose_mm[rows] *= 1 - loose
        s.hard_mm[rows] *= 1 - share(HARD_BY_METHOD[method])

    def descale(self, rows: IntArray, random: np.random.Generator) -> FloatArray:
        """Descale some exchangers; returns what dissolved, mm."""
        s = self.state
        left = random.uniform(0.03, 0.2, rows.size)
        dissolved = s.scale_mm[rows] * (1 - left)
        s.scale_mm[rows] *= left
        return dissolved


def limits_mm(world: World) -> FloatArray:
    """What each heater may hold: deposit of a tank, scale of an exchanger, mm, (n,)."""
    kind = world.place.kind
    return np.select([kind == GAS, kind == TANKLESS], [12.0, 0.225], 40.0)


def held_mm(world: World) -> FloatArray:
    """What each heater holds, mm, (n,)."""
    s = world.state
    return np.where(world.place.kind == TANKLESS, s.scale_mm, s.depth_mm)

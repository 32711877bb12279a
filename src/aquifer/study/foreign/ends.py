"""Tanks that give way by laws which share nothing with the core, and what a company could have known of them.

Each law has makes that last and makes that do not, waters that eat, signs that show before the end, owners who do not
wait for it, and a weakness of each tank's own that nobody sees. Time in quarters of a year, ages in years. Every
figure is an assumption of the simulation, chosen before the core learned more of lives than one factor.
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np

from aquifer.core import assembly
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.fleet import (
    DescaleEvents,
    ExpansionTankEvents,
    Fleet,
    FlushEvents,
    LookEvents,
    RodEvents,
    ValveEvents,
)
from aquifer.core.forecast import ComponentForecast, Context, forecast, life_spans
from aquifer.core.kinds import HeaterKind
from aquifer.core.learning import ComponentCalibration
from aquifer.core.lives import TankLife, learned
from aquifer.core.vocabulary import Alloy, Component, Corrosion, Noise, code
from aquifer.core.water import WaterTest, profile

QUARTER = 0.25
MAKES, WATERS = 12, 10
MEDIANS = (9.0, 13.0, 17.0)
_NEVER = 99.0
_ROD_CUTS = np.array([0.2, 0.45, 0.7, 0.95])
SEEDS = (3, 7, 19, 23, 43, 53, 61, 73, 83, 89, 97, 101)


@dataclass
class Estate:
    """Tanks of which some stand; arrays of shape (n,) but for the waters, (zones,)."""

    make: IntArray
    zone: IntArray
    hardness: FloatArray
    ph: FloatArray
    salt_us_cm: FloatArray
    setpoint_c: FloatArray
    pressure_kpa: FloatArray
    electric: BoolArray
    bare_from: FloatArray
    """Age from which it has no working anode."""
    speed: FloatArray
    """How much faster than usual it ages by make, water and heat: what a company could learn."""
    weak: FloatArray
    """The same by a weakness of its own, which nobody sees."""
    corroding_from: FloatArray
    """Age at which the lining gives way, for the law that has it."""
    age: FloatArray
    rusty: BoolArray = field(init=False)
    seams: BoolArray = field(init=False)

    def __post_init__(self) -> None:
        self.rusty = np.zeros(self.make.size, dtype=bool)
        self.seams = np.zeros(self.make.size, dtype=bool)

    def __len__(self) -> int:
        return int(self.make.size)


Law = Callable[[Estate, float], FloatArray]
"""Chance a year of giving way now, (n,), where half of plain tanks last so many years."""


def aging(estate: Estate, median: float) -> FloatArray:
    """Gompertz: the chance doubles every few years, and some fail young by a flaw of their making."""
    doubling = median / 4.2
    level = 0.693 * 0.693 / doubling / (2 ** (median / doubling) - 1)
    grown = level * 2 ** (estate.age / doubling) * estate.speed**3 * estate.weak
    signs = np.where(estate.rusty, 2.2, 1.0) * np.where(estate.seams, 3.0, 1.0)
    return np.asarray(np.minimum(grown * signs + 0.004 * np.exp(-estate.age / 1.5), 2.0))


def hastened(estate: Estate, median: float) -> FloatArray:
    """Log-logistic: every tank ages at a pace of its own; the old that are left are the lasting ones."""
    steep = 4.5
    passed = np.maximum(estate.age, 0.1) * estate.speed * estate.weak**0.35 / median
    hazard = steep / np.maximum(estate.age, 0.1) * passed**steep / (1 + passed**steep)
    return np.asarray(np.minimum(hazard * np.where(estate.rusty | estate.seams, 1.8, 0.95), 2.0))


def two_phases(estate: Estate, median: float) -> FloatArray:
    """A lining that holds, and a wall that is eaten once it does not: rust shows which of the two it is."""
    eaten = estate.age > estate.corroding_from * median
    return np.where(eaten, 2.6 / median * estate.speed**1.5 * estate.weak, 0.06 / median)


LAWS: dict[str, Law] = {"aging": aging, "hastened": hastened, "two phases": two_phases}


def _settled(tanks: int, weakness: float, random: np.random.Generator) -> Estate:
    make, zone = random.integers(0, MAKES, tanks), np.sort(random.integers(0, WATERS, tanks))
    lasting = random.normal(0, 0.18, MAKES)
    hardness = np.exp(random.uniform(np.log(25), np.log(420), WATERS))
    ph = np.where(hardness < 80, random.uniform(6.2, 7.4, WATERS), random.uniform(7.0, 7.9, WATERS))
    salt = hardness * 2.1 + random.gamma(1.2, 350, WATERS)
    eats = 0.0007 * hardness + 0.25 * np.maximum(7.1 - ph, 0) + 0.12 * np.log(1 + salt / 800)
    eats += random.normal(0, 0.1, WATERS)
    setpoint = random.choice([49.0, 54.0, 60.0, 66.0], tanks)
    pressure = random.choice([350.0, 480.0, 600.0, 720.0], tanks, p=[0.3, 0.4, 0.2, 0.1])
    hot = 0.014 * (setpoint - 55) + 0.0006 * np.maximum(pressure - 500, 0)
    speed = np.exp(-lasting[make] + eats[zone] - eats.mean() + hot - hot.mean())
    electric = random.random(tanks) < 0.4
    rod = random.lognormal(np.log(6.5), 0.4, tanks) / speed
    kept = random.random(tanks) < 0.5
    weak = random.gamma(1 / weakness, weakness, tanks) if weakness else np.ones(tanks)
    return Estate(
        make, zone, hardness, ph, salt, setpoint, pressure, electric,
        bare_from=np.where(kept, _NEVER, rod),
        speed=speed, weak=weak,
        corroding_from=random.weibull(3.5, tanks) * 0.82 / speed,
        age=np.zeros(tanks),
    )  # fmt: skip


@dataclass
class Told:
    """Whether what was told of the coming year came; sums over towns can be added."""

    told: FloatArray
    """Chance of giving way within a year, of each tank that stands."""
    own: FloatArray
    """The same as only who made the world can know it."""
    came: BoolArray
    age: FloatArray

    @property
    def over(self) -> float:
        """Told over what came."""
        return float(self.told.sum() / max(self.came.sum(), 1))

    def skill(self, chance: FloatArray) -> float:
        """Brier skill over the share that gave way, told to all."""
        plain = np.square(self.came - self.came.mean()).mean()
        return float(1 - np.square(self.came - chance).mean() / plain)

    @property
    def of_oracle(self) -> float:
        """Share of the skill that knowing each tank's own law would have."""
        return self.skill(self.told) / self.skill(self.own)


class Town:
    """Tanks taken into care at the ages they had, watched until so many gave way, and one year more."""

    def __init__(self, law: str, median: float, seed: int, tanks: int = 1500, weakness: float = 0.25) -> None:
        """Parameters: weakness, variance of what nobody sees of each tank; 0 is none."""
        self._law, self._median = LAWS[law], median
        self.random = np.random.default_rng([seed, 7001])
        self.estate = _settled(tanks, weakness, self.random)
        self.entered = np.floor(self.random.uniform(0, 1.6 * median, tanks) / QUARTER) * QUARTER
        self.left = np.full(tanks, np.inf)
        """Age at which each gave way or was taken out."""
        self.leaked = np.zeros(tanks, dtype=bool)
        self._looks: list[tuple[IntArray, FloatArray, IntArray, IntArray, IntArray]] = []
        self._before()
        self.years = 0.0

    def _before(self) -> None:
        """What stood when the company came, and nobody saw before."""
        e = self.estate
        for quarter in range(int(self.entered.max() / QUARTER)):
            there = (self.entered > quarter * QUARTER) & np.isinf(self.left)
            self._lives(there)
        self._gone_before = np.isfinite(self.left)
        e.age = np.minimum(e.age, self.entered)

    def _lives(self, there: BoolArray) -> BoolArray:
        """A quarter of the tanks that are there; which gave way in it."""
        e, random = self.estate, self.random
        n = len(e)
        self.chance = 1 - np.exp(-self._law(e, self._median) * QUARTER)
        bare = np.where(e.age > e.bare_from, 1.5, 1.0)
        ends = there & (random.random(n) < 1 - (1 - self.chance) ** bare)
        worn = np.clip(-np.log1p(-self.chance) / QUARTER * self._median, 0.02, 20)
        e.rusty |= there & (random.random(n) < 0.05 * QUARTER * worn)
        e.seams |= there & (random.random(n) < 0.025 * QUARTER * worn)
        # Owners do not wait: for a kitchen, a sale, or because of what they see.
        urge = np.where(e.rusty, 0.10, 0.03) + 0.05 * (e.age > 1.3 * self._median)
        taken = there & ~ends & (random.random(n) < urge * QUARTER)
        e.age = e.age + np.where(there, QUARTER, 0.0)
        self.left[ends | taken] = e.age[ends | taken]
        self.leaked |= ends
        return ends

    @property
    def stands(self) -> BoolArray:
        return np.asarray(np.isinf(self.left))

    @property
    def failures(self) -> int:
        return int((self.leaked & ~self._gone_before).sum())

    def lives_on(self, failures: int, longest: float = 25.0) -> None:
        """Until so many gave way on the company's record."""
        while self.failures < failures and self.years < longest and self.stands.any():
            self._look()
            self._lives(self.stands)
            self.years += QUARTER

    def _look(self) -> None:
        """Each is looked at once a year; one in five who look write nothing, and two in a hundred write it wrong."""
        e, random = self.estate, self.random
        come = self.stands & (random.random(len(e)) < QUARTER) & (random.random(len(e)) < 0.8)
        row = np.flatnonzero(come)
        rusty = e.rusty[row] ^ (random.random(row.size) < 0.02)
        seams = e.seams[row] ^ (random.random(row.size) < 0.02)
        corrosion = np.where(seams, code(Corrosion.SEAMS), code(Corrosion.NONE))
        # A rod is drawn at one visit in three.
        worn = np.searchsorted(_ROD_CUTS, e.age[row] / e.bare_from[row] * random.lognormal(0, 0.15, row.size))
        grade = np.where((random.random(row.size) < 1 / 3) & (e.bare_from[row] < _NEVER), worn, -1)
        self._looks.append((row, e.age[row].copy(), rusty.astype(np.int64), corrosion.astype(np.int64), grade))

    def fleet(self, chosen: BoolArray) -> Fleet:
        """These tanks as the core is told of them."""
        e = self.estate
        rows = np.flatnonzero(chosen)
        kinds = np.where(e.electric[rows], code(HeaterKind.ELECTRIC_TANK), code(HeaterKind.GAS_TANK))
        known = replace(
            assembly.KnownHeaters.blank(kinds, np.maximum(e.age[rows], 0.05)),
            water=e.zone[rows], zone=e.zone[rows], cohort=e.make[rows], setpoint_c=e.setpoint_c[rows],
            pressure_kpa=e.pressure_kpa[rows], capacity_l=np.full(rows.size, 189.0),
            alloy=np.where(e.bare_from[rows] < _NEVER, code(Alloy.MAGNESIUM), code(Alloy.POWERED)),
        )  # fmt: skip
        waters = [
            profile(WaterTest(float(e.hardness[z]), None, None, round(float(e.ph[z]), 1), float(e.salt_us_cm[z])))
            for z in range(WATERS)
        ]
        place = np.full(len(e), -1)
        place[rows] = np.arange(rows.size)
        looks = self._looks
        row, rusty, corrosion, grade = (
            np.concatenate([look[n] for look in looks] or [np.zeros(0)]).astype(np.int64) for n in (0, 2, 3, 4)
        )
        years: FloatArray = np.concatenate([look[1] for look in looks] or [np.zeros(0)])
        row = place[row]
        kept = np.flatnonzero(row >= 0)
        order = kept[np.lexsort((years[kept], row[kept]))]
        heaters = assembly.complete(known, waters)
        seen = LookEvents(
            row[order], years[order], np.full(order.size, code(Noise.QUIET)), corrosion[order], rusty[order]
        )
        order = order[grade[order] >= 0]
        at, unknown = row[order], np.full(order.size, np.nan)
        rod_looks = RodEvents(
            at, years[order], np.full(order.size, -1), heaters.alloy[at], heaters.rod_diameter_m[at],
            heaters.rod_length_m[at], heaters.rod_fitted_years[at], unknown, unknown, grade[order],
        )  # fmt: skip
        codes, floats, flags = np.zeros(0, dtype=np.int64), np.zeros(0), np.zeros(0, dtype=bool)
        return Fleet(
            heaters,
            FlushEvents(codes, floats, codes, codes, codes, floats, floats, floats),
            DescaleEvents(codes, floats, codes, codes, floats, floats),
            rod_looks,
            ValveEvents(codes, floats, codes, flags),
            ExpansionTankEvents(codes, floats, codes, floats, flags),
            seen,
            cohorts=MAKES,
        )

    def taught(self) -> TankLife:
        """What the core learns of all that was seen so far."""
        known = ~self._gone_before
        ages = np.minimum(self.estate.age, self.left)[known]
        return learned(life_spans(self.fleet(known), Context(), self.entered[known], ages, self.leaked[known]))

    def foretold(self, life: TankLife) -> ComponentForecast:
        """What the core says of the tanks that stand, one row each."""
        taught = {Component.TANK: ComponentCalibration(life=life)}
        found = forecast(self.fleet(self.stands), Context(calibration=taught)).of(Component.TANK)
        if found is None:
            raise ValueError("no tank stands; allowed: a town in which some do")
        return found

    def next_year(self, chance: FloatArray) -> Told:
        """The year that follows, lived. Parameters: chance of giving way within it, of each tank that stands."""
        rows = np.flatnonzero(self.stands)
        age, stood = self.estate.age[rows].copy(), np.ones(rows.size)
        for _ in range(4):
            self._lives(self.stands)
            bare = np.where(self.estate.age[rows] > self.estate.bare_from[rows], 1.5, 1.0)
            stood *= (1 - self.chance[rows]) ** bare
        return Told(chance, 1 - stood, self.leaked[rows], age)


def added(towns: list[Told]) -> Told:
    """Several towns as one."""
    return Told(*(np.concatenate([getattr(town, name) for town in towns]) for name in ("told", "own", "came", "age")))

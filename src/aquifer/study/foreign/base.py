"""A district whose heaters obey some law: households, habits of service, complaints and tanks that give way.

Lengths in mm, time in months. Every figure here is an assumption of the simulation, chosen without looking at the core.
"""

from copy import deepcopy
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray, IntArray

GAS, ELECTRIC, TANKLESS = 0, 1, 2
METHODS = 4
"""Pressure blow-out, drain and pulse, jetting, acid: as a company would number them."""


@dataclass
class District:
    """What a law may look at. Arrays of shape (n,), (zones,) or (technicians,)."""

    kind: IntArray
    zone: IntArray
    hardness: FloatArray
    """mg/L as CaCO3 by zone."""
    alkalinity: FloatArray
    ph: FloatArray
    people: FloatArray
    """In the household, (n,)."""
    use_l_day: FloatArray
    """What they really draw."""
    setpoint_c: FloatArray
    softener: BoolArray
    """One is there and works."""
    softener_on_record: BoolArray
    age_months: FloatArray
    tall_mm: FloatArray
    """From the floor of a tank to its outlet; the bore of an exchanger's passage."""
    technician: IntArray
    interval_months: IntArray
    """How often its owner has it serviced."""
    deposit_mm: FloatArray
    """What lies in it now."""
    soft_share: FloatArray
    """Of that, what is loose."""
    since_months: FloatArray
    """Since it was cleaned or put in."""
    own: FloatArray
    """What the law knows of the heater and nobody else does."""
    month: int = 0

    def __len__(self) -> int:
        return int(self.kind.size)

    def copy(self) -> "District":
        return deepcopy(self)

    @property
    def is_tank(self) -> BoolArray:
        return np.asarray(self.kind != TANKLESS)


class Law(Protocol):
    """How deposit comes, and how it goes."""

    name: str
    aged: bool
    """Whether the company takes over heaters that are old already."""
    dirty: bool
    """Whether half of what is written down of it is wrong in some way."""
    moves_a_year: float
    """Households that move."""
    median_life_years: float

    def settle(self, district: District, random: np.random.Generator) -> None:
        """What it wants to know of each heater, and how the waters are."""
        ...

    def grow(self, district: District, random: np.random.Generator) -> None:
        """A month's deposit."""
        ...

    def clean(
        self, district: District, rows: IntArray, method: IntArray, skill: FloatArray, random: np.random.Generator
    ) -> None:
        """A flush, a jetting or an acid bath."""
        ...


def settled(law: Law, heaters: int, seed: int, zones: int = 24, technicians: int = 9) -> District:
    """A district before anything was written down: where the law says so, with years behind it that nobody saw."""
    random = np.random.default_rng([seed, 1009])
    zone = np.sort(random.integers(0, zones, heaters))
    kind = random.choice([GAS, ELECTRIC, TANKLESS], heaters, p=[0.45, 0.30, 0.25])
    people = (1.0 + random.poisson(1.7, heaters)).astype(np.float64)
    hardness = np.exp(random.uniform(np.log(40), np.log(430), zones))
    district = District(
        kind=kind,
        zone=zone,
        hardness=hardness,
        alkalinity=hardness * random.uniform(0.55, 1.05, zones) + 15,
        ph=random.uniform(7.0, 8.1, zones),
        people=people,
        use_l_day=people * random.gamma(6.0, 50.0 / 6.0, heaters),
        setpoint_c=random.choice([49.0, 52.0, 57.0, 60.0, 63.0], heaters) + random.normal(0, 2.5, heaters),
        softener=np.zeros(heaters, dtype=bool),
        softener_on_record=np.zeros(heaters, dtype=bool),
        age_months=np.floor(random.uniform(0, 12 * 16, heaters)) if law.aged else np.zeros(heaters),
        tall_mm=np.where(kind == TANKLESS, 13.0, random.normal(1150, 120, heaters)),
        technician=random.integers(0, technicians, zones)[zone],
        interval_months=random.choice([6, 12, 12, 12, 18, 24, 36], heaters),
        deposit_mm=np.zeros(heaters),
        soft_share=np.ones(heaters),
        since_months=np.zeros(heaters),
        own=np.zeros(heaters),
    )
    law.settle(district, random)
    _lived_through(law, district, random)
    return district


def _lived_through(law: Law, district: District, random: np.random.Generator) -> None:
    """The years before anybody wrote anything down: some owners had it flushed, most did not."""
    age = district.age_months.copy()
    cared_for = random.random(len(district)) < 0.35
    for month in range(int(age.max(initial=0)), 0, -1):
        there = np.flatnonzero(age >= month)
        before = district.deposit_mm.copy()
        law.grow(district, random)
        gone = np.setdiff1d(np.arange(len(district)), there)
        district.deposit_mm[gone] = before[gone]
        district.since_months[there] += 1
        due = there[cared_for[there] & (month % 24 == 7)]
        law.clean(district, due, np.ones(due.size, dtype=np.int64), np.zeros(due.size), random)
        stands = complaining(district, random) if month % 12 == 0 else np.zeros(0, dtype=np.int64)
        stands = np.intersect1d(stands, there)
        law.clean(district, stands, np.full(stands.size, 2), np.zeros(stands.size), random)
    district.month = 0


def complaining(district: District, random: np.random.Generator) -> IntArray:
    """Whose household rings this month because of what it hears or lacks."""
    at = np.select([district.kind == GAS, district.kind == ELECTRIC], [45.0, 110.0], 1.3)
    urge = 1 / (1 + (at / np.maximum(district.deposit_mm, 1e-9)) ** 4)
    return np.flatnonzero(random.random(len(district)) < 0.25 * urge)


def month_passes(law: Law, district: District, random: np.random.Generator) -> None:
    """Everything that happens by itself: people move, water is drawn, deposit comes."""
    moved = np.flatnonzero(random.random(len(district)) < law.moves_a_year / 12)
    district.people[moved] = 1.0 + random.poisson(1.7, moved.size)
    district.use_l_day[moved] = district.people[moved] * random.gamma(6.0, 50.0 / 6.0, moved.size)
    law.grow(district, random)
    district.age_months += 1
    district.since_months += 1
    district.month += 1

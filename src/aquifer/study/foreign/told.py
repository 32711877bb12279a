"""What a company writes down of such a district, and how the core is told of it: by eyes that differ and drift, now and
then measured, and in a neglected estate with much that is missing or wrong."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from aquifer.core import assembly
from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.fleet import (
    DescaleEvents,
    ExpansionTankEvents,
    Fleet,
    FlushEvents,
    Heaters,
    LookEvents,
    RodEvents,
    ValveEvents,
)
from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import FlushMethod, code
from aquifer.core.water import WaterTest, profile
from aquifer.study.foreign.base import GAS, TANKLESS, District

KINDS = np.array([code(HeaterKind.GAS_TANK), code(HeaterKind.ELECTRIC_TANK), code(HeaterKind.GAS_TANKLESS)])
_AS_METHOD = np.array(
    [
        code(flush_method)
        for flush_method in (
            FlushMethod.PRESSURE_BLOWOUT,
            FlushMethod.DRAIN_AND_PULSE,
            FlushMethod.JETTING,
            FlushMethod.ACID_SOAK,
        )
    ]
)
CUTS_MM = np.array([1.0, 4.5, 13.0, 42.0])
CUTS_OF_EXCHANGER_MM = np.array([0.025, 0.075, 0.24, 0.5])
GRAMS_PER_MM = 340.0
"""What a millimetre of scale in one of these exchangers weighs."""


@dataclass
class Note:
    """A service as somebody wrote it down."""

    row: IntArray
    month: FloatArray
    by: IntArray
    method: IntArray
    grade: IntArray
    depth_mm: FloatArray
    """Measured before, NaN where nobody did."""
    left_mm: FloatArray
    """Measured after."""


class Record:
    """What the company knows."""

    def __init__(self, district: District, seed: int, measured_share: float, dirty: bool) -> None:
        self._random = np.random.default_rng([seed, 4001])
        self._dirty, self._measured = dirty, measured_share
        n = len(district)
        technicians = int(district.technician.max()) + 1
        self.eye = self._random.normal(0.12, 0.3, technicians)
        self._drift = self._random.normal(0, 0.08, technicians)
        self.skill = self._random.normal(0, 1, technicians)
        self._notes: list[Note] = []
        self.entered_months = district.age_months.copy()
        """Age at which each heater came into care."""
        self._people = district.people.copy()
        self._moved = np.zeros(n)
        age = district.age_months / 12
        guess = np.maximum(np.round(age + self._random.normal(0, 1.5, n)), 0)
        self._age_off = np.where((district.age_months > 0) & (self._random.random(n) < 0.4), guess - age, 0.0)
        self._guessed = self._age_off != 0
        self._dial = np.round((district.setpoint_c + self._random.normal(0, 3, n)) / 5) * 5
        hardness = district.hardness * self._random.lognormal(0, 0.07, district.hardness.size)
        if dirty:
            grains = self._random.random(hardness.size) < 0.06
            hardness = np.where(grains, hardness / 17.1, hardness)
        self._waters = [
            profile(
                WaterTest(
                    float(hardness[z]),
                    None,
                    float(district.alkalinity[z]) if z % 3 == 0 else None,
                    round(float(district.ph[z]), 1) if z % 3 == 0 else None,
                )
            )
            for z in range(hardness.size)
        ]
        self._heaters: Heaters | None = None

    def households(self, district: District) -> None:
        """Half of those who moved are told of, and their number written down."""
        other = (district.people != self._people) & (self._random.random(len(district)) < 0.5)
        self._people = np.where(other, district.people, self._people)
        self._moved = np.where(other, district.age_months / 12, self._moved)
        self._heaters = None if other.any() else self._heaters

    def service(
        self,
        district: District,
        rows: IntArray,
        clean: Callable[[IntArray, IntArray, FloatArray], None],
        measures: bool | None = None,
    ) -> IntArray:
        """Somebody comes, looks, cleans and writes it down; at a few of a neglected estate it is forgotten.

        Returns: of whose heaters it was written down.
        """
        random = self._random
        by = np.where(
            random.random(rows.size) < 0.8, district.technician[rows], random.integers(0, self.eye.size, rows.size)
        )
        depth = district.deposit_mm[rows]
        method = random.choice(METHOD_NUMBERS, rows.size, p=[0.2, 0.6, 0.15, 0.05])
        seen = np.log(np.maximum(depth, 1e-6)) + self.eye[by] + self._drift[by] * district.month / 12
        seen += random.normal(0, 0.45, rows.size)
        tankless = district.kind[rows] == TANKLESS
        grade = np.where(
            tankless,
            np.searchsorted(np.log(CUTS_OF_EXCHANGER_MM), seen),
            np.searchsorted(np.log(CUTS_MM), seen),
        )
        wrong = random.random(rows.size) < 0.03
        grade = np.where(wrong, random.integers(0, 5, rows.size), grade)
        grade = np.where(random.random(rows.size) < 0.08, -1, grade)
        measured = random.random(rows.size) < self._measured if measures is None else np.full(rows.size, measures)
        read = self._ruled(depth, tankless)
        # A ruler reads whole millimetres, and nothing is a reading too.
        read = np.where(tankless, np.maximum(read, 0.0), np.maximum(np.round(read), 0.0))
        if self._dirty:
            slip = random.random(rows.size)
            read = np.where(slip < 0.03, read / 25.4, np.where(slip < 0.05, read * 10, read))
        clean(rows, method, self.skill[by])
        left = np.where(tankless, np.nan, np.maximum(np.round(self._ruled(district.deposit_mm[rows], tankless)), 0.0))
        kept = np.ones(rows.size, dtype=bool) if not self._dirty else random.random(rows.size) > 0.08
        read, left = np.where(measured, read, np.nan), np.where(measured, left, np.nan)
        note = Note(rows, district.age_months[rows] / 12, by, method, grade, read, left)
        self._write(note, kept)
        if self._dirty:
            self._write(note, kept & (random.random(rows.size) < 0.02))
        return rows[kept]

    def renewed(self, rows: IntArray) -> None:
        """New heaters stand where these were: what was written down of the old ones is theirs."""
        kept = [~np.isin(note.row, rows) for note in self._notes]
        self._notes = [
            Note(*(getattr(note, name)[keep] for name in Note.__dataclass_fields__))
            for note, keep in zip(self._notes, kept, strict=True)
        ]
        self.entered_months[rows] = 0.0
        self._age_off[rows] = self._moved[rows] = 0.0
        self._guessed[rows] = False
        self._heaters = None

    def _ruled(self, depth: FloatArray, tankless: BoolArray) -> FloatArray:
        """What a ruler, or spent acid, makes of it."""
        blunt = np.where(tankless, 0, self._random.normal(0, 0.4, depth.size))
        return depth * self._random.lognormal(0, 0.13, depth.size) + blunt

    def _write(self, note: Note, kept: BoolArray) -> None:
        self._notes.append(Note(*(getattr(note, name)[kept] for name in Note.__dataclass_fields__)))

    def fleet(self, district: District) -> Fleet:
        """The district as the core sees it now."""
        age = district.age_months / 12 + self._age_off
        if self._heaters is None:
            old = self.entered_months > 12
            known = replace(
                assembly.KnownHeaters.blank(KINDS[district.kind], np.maximum(age, 0.05)),
                water=district.zone,
                zone=district.zone,
                people=self._people,
                setpoint_c=np.clip(self._dial, 40, 75),
                capacity_l=np.where(district.kind == TANKLESS, 2.0, 189.0),
                softened=district.softener_on_record,
                age_log_sd=np.where(self._guessed, 0.3, 0.0),
                flushes_log_sd=np.where(old, 0.5, 0.0),
                household_years=self._moved,
            )
            self._heaters = assembly.complete(known, self._waters)
        heaters = replace(self._heaters, age_years=np.maximum(age, 0.05))
        notes = Note(
            *(
                np.concatenate([getattr(note, name) for note in self._notes] or [np.zeros(0)])
                for name in Note.__dataclass_fields__
            )
        )
        row = notes.row.astype(np.int64)
        years = np.maximum(notes.month + self._age_off[row], 0.02)
        order = np.lexsort((np.arange(row.size), years, row))
        row, years = row[order], years[order]
        by, method, grade = (getattr(notes, name)[order].astype(np.int64) for name in ("by", "method", "grade"))
        depth, left = notes.depth_mm[order], notes.left_mm[order] / 1000
        of_tank = district.kind[row] != TANKLESS
        none = np.full(row.size, np.nan)
        f, d = np.flatnonzero(of_tank), np.flatnonzero(~of_tank)
        codes, floats, flags = np.zeros(0, dtype=np.int64), np.zeros(0), np.zeros(0, dtype=bool)
        return Fleet(
            heaters,
            FlushEvents(row[f], years[f], by[f], _AS_METHOD[method[f]], grade[f], depth[f] / 1000, none[f], left[f]),
            DescaleEvents(row[d], years[d], by[d], grade[d], depth[d] * GRAMS_PER_MM / 1000, none[d]),
            RodEvents(codes, floats, codes, codes, floats, floats, floats, floats, floats, codes),
            ValveEvents(codes, floats, codes, flags),
            ExpansionTankEvents(codes, floats, codes, floats, flags),
            LookEvents(codes, floats, codes, codes, codes),
            self.eye.size,
        )


METHOD_NUMBERS = np.arange(4)


def limits_mm(district: District) -> FloatArray:
    """What the company lets each hold, mm, (n,)."""
    return np.select([district.kind == GAS, district.kind == TANKLESS], [12.0, 0.225], 40.0)

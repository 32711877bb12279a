"""A base of any size with eight findings a heater, for timing the computation: its figures mean nothing."""

from dataclasses import replace

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray, IntArray
from aquifer.core.assembly import KnownHeaters, complete
from aquifer.core.fleet import (
    DescaleEvents,
    ExpansionTankEvents,
    Fleet,
    FlushEvents,
    LookEvents,
    RodEvents,
    ValveEvents,
)
from aquifer.core.kinds import HeaterKind
from aquifer.core.vocabulary import code
from aquifer.core.water import WaterTest, profile

_KINDS = (HeaterKind.GAS_TANK, HeaterKind.ELECTRIC_TANK, HeaterKind.GAS_TANKLESS)
_HEATERS_A_ZONE = 2500


def base(heaters: int, seed: int) -> Fleet:
    """Tanks with four flushes, two looks at a rod and two trials of a valve each; tankless ones with six descales."""
    random = np.random.default_rng(seed)
    kind = np.array([code(k) for k in _KINDS])[random.choice(3, heaters, p=[0.5, 0.3, 0.2])]
    zones = max(heaters // _HEATERS_A_ZONE, 1)
    waters = [
        profile(WaterTest(float(hardness), None, 0.75 * float(hardness), 7.5))
        for hardness in np.linspace(40, 400, zones)
    ]
    zone = np.sort(random.integers(0, zones, heaters))
    known = replace(
        KnownHeaters.blank(kind, random.uniform(1, 12, heaters)),
        water=zone,
        zone=zone,
        litres_per_day=random.lognormal(5, 0.4, heaters),
        setpoint_c=random.choice([50.0, 60.0], heaters),
    )
    h = complete(known, waters)

    def events(each: int, of: BoolArray) -> tuple[IntArray, FloatArray]:
        row = np.repeat(np.flatnonzero(of), each)
        share = np.sort(random.uniform(0, 1, (int(of.sum()), each)), axis=1).ravel()
        return row, share * h.age_years[row]

    flush, descale = events(4, h.is_tank), events(6, ~h.is_tank)
    look, trial = events(2, h.is_tank), events(2, np.ones(heaters, dtype=bool))

    def column(of: tuple[IntArray, FloatArray], value: float) -> FloatArray:
        return np.full(of[0].size, value)

    def codes(of: tuple[IntArray, FloatArray], value: int) -> IntArray:
        return np.full(of[0].size, value)

    def grades(of: tuple[IntArray, FloatArray]) -> IntArray:
        return random.integers(0, 4, of[0].size)

    nan = float("nan")
    no_codes, no_floats, no_flags = np.zeros(0, dtype=np.int64), np.zeros(0), np.zeros(0, dtype=bool)
    return Fleet(
        h,
        FlushEvents(*flush, codes(flush, -1), codes(flush, 1), grades(flush), *(column(flush, nan) for _ in range(3))),
        DescaleEvents(*descale, codes(descale, -1), grades(descale), column(descale, nan), column(descale, nan)),
        RodEvents(
            *look,
            codes(look, -1),
            codes(look, 0),
            column(look, 0.0204),
            column(look, 1.0),
            column(look, 0.0),
            random.uniform(0.010, 0.020, look[0].size),
            column(look, nan),
            codes(look, -1),
        ),
        ValveEvents(*trial, codes(trial, 0), np.zeros(trial[0].size, dtype=bool)),
        ExpansionTankEvents(no_codes, no_floats, no_codes, no_floats, no_flags),
        LookEvents(no_codes, no_floats, no_codes, no_codes, no_codes),
    )

"""Cases as text, for tests that go through the whole core."""

import json
from dataclasses import replace
from typing import Any

import numpy as np

from aquifer.core import assembly, case, tank
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
from aquifer.core.lives import UNLEARNED
from aquifer.core.vocabulary import code


def document(**parts: Any) -> dict[str, Any]:
    """A plain gas tank of 2021 on hard water, with ``parts`` put over it."""
    plain: dict[str, Any] = {
        "format": "aquifer-case/1",
        "as_of": "2026-11-24",
        "water": {"total_hardness_mg_l": 250, "alkalinity_mg_l": 185, "ph": 7.49},
        "site": {"hot_water_l_per_day": 165},
        "heater": {"kind": "gas_tank", "installed_on": "2025-11-24", "capacity_l": 189, "setpoint_c": 60},
    }
    return {**plain, **parts}


def answer(**parts: Any) -> dict[str, Any]:
    return case.answer(case.read(json.dumps(document(**parts))))


def component(name: str, **parts: Any) -> dict[str, Any]:
    return next(one for one in answer(**parts)["components"] if one["component"] == name)


def known(n: int, **columns: Any) -> assembly.KnownHeaters:
    """Gas tanks of three years on metered use at 60 degC, with ``columns`` put over them."""
    usual = {"litres_per_day": np.full(n, 165.0), "setpoint_c": np.full(n, 60.0), "capacity_l": np.full(n, 189.0)}
    plain = assembly.KnownHeaters.blank(np.full(n, code(HeaterKind.GAS_TANK)), np.full(n, 3.0))
    return replace(plain, **{**usual, **columns})


def without_events(heaters: Heaters) -> Fleet:
    none, floats, flags = np.zeros(0, dtype=int), np.zeros(0), np.zeros(0, dtype=bool)
    return Fleet(
        heaters,
        FlushEvents(none, floats, none, none, none, floats, floats, floats),
        DescaleEvents(none, floats, none, none, floats, floats),
        RodEvents(none, floats, none, none, floats, floats, floats, floats, floats, none),
        ValveEvents(none, floats, none, flags),
        ExpansionTankEvents(none, floats, none, floats, flags),
        LookEvents(none, floats, none, none, none),
    )


def flushes(
    row: Any, years: Any, method: Any, removed: Any, depth_m: Any = None, by: Any = None, after_m: Any = None
) -> FlushEvents:
    """Flushes of which the depth was measured where ``depth_m`` says so."""
    m = len(row)
    unknown = np.full(m, np.nan)
    return FlushEvents(
        np.asarray(row, dtype=int),
        np.asarray(years, dtype=float),
        np.full(m, -1) if by is None else np.asarray(by, dtype=int),
        np.asarray(method, dtype=int),
        np.asarray(removed, dtype=int),
        unknown if depth_m is None else np.asarray(depth_m, dtype=float),
        unknown,
        unknown if after_m is None else np.asarray(after_m, dtype=float),
    )


def log_ratio(hardness: Any, pressure: Any, setpoint: Any, **seen: Any) -> np.ndarray:
    """ln of a tank's hazard ratio by the handbook, on neutral water of few salts, with ``seen`` put over what is."""
    n = np.size(hardness)
    nothing = dict.fromkeys(("rusty", "seams", "loud"), np.zeros(n, dtype=bool))
    plain = {"ph": np.full(n, 7.5), "conductivity_us_cm": np.full(n, 400.0), **nothing, "spent_share": np.zeros(n)}
    bears = {"hardness_mg_l": hardness, "pressure_kpa": pressure, "setpoint_c": setpoint}
    return UNLEARNED.log_ratio(tank.traits(tank.Stress(**{**bears, **plain, **seen})))

"""How long the demo's technicians were at each visit: by the clock and the job in hand, and not by what is planned."""

from itertools import groupby

import numpy as np

from aquifer.core.vocabulary import Removed, values
from aquifer.demo.surroundings import Record

_MINUTES = {
    "anode_inspection": 16.0,
    "anode_replacement": 12.0,
    "relief_valve_exercise": 5.0,
    "relief_valve_replacement": 26.0,
    "expansion_tank_check": 10.0,
    "expansion_tank_replacement": 24.0,
    "look_over": 4.0,
    "upkeep": 5.0,
}
"""At the heater. A demo's figures: as an hour's work goes in a cellar that somebody knows."""
_DOOR, _FLUSH, _DESCALE, _A_GRADE, _JETTING = 10.0, 34.0, 52.0, 6.0, 20.0
_SEIZED, _SEIZED_MINUTES = 0.12, 30.0
"""How often a rod to be renewed sits fast, and what that takes."""


def timed(visits: list[Record], random: np.random.Generator) -> None:
    """Write to every row of a visit how long the whole of it took, in minutes."""
    pace: dict[str, float] = {}
    for _, group in groupby(sorted(visits, key=lambda row: str(row["visit"])), key=lambda row: row["visit"]):
        rows = list(group)
        who = str(rows[0]["technician"])
        if who not in pace:
            pace[who] = float(random.lognormal(0, 0.12))
        there = _DOOR + float(random.gamma(2.0, 3.0)) + sum(_of(row, random) for row in rows)
        if random.random() < 0.03:
            there *= float(random.uniform(1.4, 2.6))
        minutes = max(round(there * pace[who] * float(random.lognormal(0, 0.15))), 8)
        for row in rows:
            row["minutes"] = minutes


def _of(row: Record, random: np.random.Generator) -> float:
    task = str(row["task"])
    grade = values(Removed).index(str(row["removed"])) if row.get("removed") else 1
    if task == "flush":
        return _FLUSH + _A_GRADE * grade + (_JETTING if row["method"] == "jetting" else 0.0)
    if task == "descale":
        return _DESCALE + _A_GRADE * grade
    seized = task == "anode_replacement" and random.random() < _SEIZED
    return _MINUTES.get(task, 0.0) + (_SEIZED_MINUTES if seized else 0.0)

"""Cases as text, for tests that go through the whole core."""

import json
from typing import Any

from aquifer.core import case


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

"""Cases with expected figures from PHREEQC, closed forms and brute-force integration, kept in ``data``."""

import json
from pathlib import Path
from typing import Any

_FOUND = json.loads((Path(__file__).parent / "data" / "reference_cases.json").read_text())
CASES: dict[str, dict[str, Any]] = {case["id"]: case for case in _FOUND["cases"]}


def in_area(area: str) -> list[str]:
    return [name for name, case in CASES.items() if case["area"] == area]

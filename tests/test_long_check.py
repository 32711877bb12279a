"""The page of the long check says of each part when it ran last."""

import datetime
import importlib.util
from pathlib import Path

SCRIPT = Path(__file__).parents[1] / "scripts" / "long_check.py"
spec = importlib.util.spec_from_file_location("long_check", SCRIPT)
long_check = importlib.util.module_from_spec(spec)
spec.loader.exec_module(long_check)
FIRST, LATER = datetime.date(2026, 12, 1), datetime.date(2027, 1, 9)


def test_a_part_that_did_not_run_keeps_its_row():
    page = long_check.renewed("", ["core|passed|31", "changes|failed|80"], "abc", "2", FIRST)
    page = long_check.renewed(page, ["changes|passed|77"], "def", "4", LATER)
    assert long_check.rows(page) == {
        "core": "| core | passed | 31 | 01 December 2026 | abc | 2 |",
        "changes": "| changes | passed | 77 | 09 January 2027 | def | 4 |",
    }
    assert long_check.renewed(page, [], "x", "1", LATER) == page

"""The kinds of files: what each would do, how it is brought in, and how it is taken out again."""

import datetime
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from aquifer.imports import apply, export, features, history, plan
from aquifer.imports.plan import PlannedRow
from aquifer.imports.tables import Table, tables


@dataclass(frozen=True)
class Kind:
    table: Table
    plan: Callable[..., list[PlannedRow]] = plan.plan
    apply: Callable[..., None] = apply.apply
    lines: Callable[[Table], Iterator[str]] = export.lines


NAMES = ("customers", "sites", "heaters", "zones", "water_tests", "visits", "features")


def kinds(today: datetime.date) -> dict[str, Kind]:
    """Every kind by its name, with dates bounded by ``today``."""
    table = tables(today)
    return {
        **{name: Kind(table[name]) for name in NAMES},
        "visits": Kind(table["visits"], history.plan, history.apply, history.lines),
        "features": Kind(table["features"], features.plan, features.apply, features.lines),
    }

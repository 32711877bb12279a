"""The kinds of files: what each would do, how it is brought in, and how it is taken out again."""

import datetime
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from aquifer.formats.office import office_sheet
from aquifer.formats.opened import opened
from aquifer.formats.sheet import Sheet
from aquifer.imports import apply, details, export, features, history, jobs, office_cells, office_list, plan, towns
from aquifer.imports.plan import PlannedRow
from aquifer.imports.tables import Table, tables


@dataclass(frozen=True)
class Kind:
    table: Table
    plan: Callable[..., list[PlannedRow]] = plan.plan
    apply: Callable[..., dict[str, list[int]] | None] = apply.apply
    lines: Callable[[Table], Iterator[str]] = export.lines
    opened: Callable[[bytes, str], Sheet] = opened
    asks: bool = False
    """Whether some of its rows are for a person to decide."""


NAMES = ("customers", "sites", "heaters", "zones", "water_tests", "visits", "features", "details")
OWN_LISTS = ("list", "jobs", "places")
"""Files in whatever form an office keeps them; nothing is taken out in them."""


def kinds(today: datetime.date) -> dict[str, Kind]:
    """Every kind by its name, with dates bounded by ``today``."""
    table = tables(today)
    return {
        **{name: Kind(table[name]) for name in table},
        "visits": Kind(table["visits"], history.plan, history.apply, history.lines),
        "features": Kind(table["features"], features.plan, features.apply, features.lines),
        "details": Kind(details.details_table(), details.plan, details.apply, details.lines),
        "list": Kind(office_cells.list_table(), office_list.plan, office_list.apply, opened=office_sheet, asks=True),
        "jobs": Kind(jobs.jobs_table(), jobs.plan, jobs.apply, opened=office_sheet),
        "places": Kind(towns.places_table(), towns.plan, towns.apply, opened=office_sheet),
    }

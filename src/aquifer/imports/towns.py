"""Where towns and postcodes are: a file of four columns, by which sites are placed until somebody locates them."""

from collections.abc import Mapping

from django.db import transaction

from aquifer.customers.models import Town
from aquifer.customers.towns import locate
from aquifer.formats.cells import Column, number, text_up_to
from aquifer.formats.sheet import Matched, Sheet, own_names, read_rows
from aquifer.imports.models import RowAction
from aquifer.imports.origin import NOBODY, Origin
from aquifer.imports.plan import PlannedRow, Progress, nothing
from aquifer.imports.tables import Table


def places_table() -> Table:
    """The columns of such a file."""
    columns = [
        Column("town", text_up_to(120), required=True),
        Column("postcode", text_up_to(20)),
        Column("latitude", number(-90, 90), required=True),
        Column("longitude", number(-180, 180), required=True),
    ]
    return Table("places", Town, "", columns)


def plan(
    table: Table, sheet: Sheet, matches: Mapping[str, Matched] | None = None, progress: Progress = nothing
) -> list[PlannedRow]:
    """Decide for every row what it would do."""
    there = {(town.name, town.postcode): (town.latitude, town.longitude) for town in Town.objects.all()}
    planned = []
    for row in read_rows(sheet, table.columns, matches or own_names(sheet, table.columns)):
        name, postcode = row.cells.get("town") or "", row.cells.get("postcode") or ""
        key = f"{name} {postcode}".strip()
        if row.faults:
            planned.append(PlannedRow(row.number, RowAction.REFUSE, key, dict(row.faults)))
            continue
        at = (row.cells["latitude"], row.cells["longitude"])
        same = there.get((name, postcode)) == at
        action = RowAction.SAME if same else RowAction.CREATE
        planned.append(PlannedRow(row.number, action, key, values={"name": name, "postcode": postcode, "at": at}))
        there[name, postcode] = at
    return planned


def apply(table: Table, planned: list[PlannedRow], progress: Progress = nothing, origin: Origin = NOBODY) -> None:
    """Keep the places, and place the sites that nobody has located."""
    with transaction.atomic():
        for row in planned:
            if row.action is RowAction.CREATE:
                latitude, longitude = row.values["at"]
                Town.objects.update_or_create(
                    name=row.values["name"],
                    postcode=row.values["postcode"],
                    defaults={"latitude": latitude, "longitude": longitude},
                )
        locate()

"""Writing a planned file: all of it or nothing."""

from collections.abc import Sequence
from typing import TypeVar

from django.db import transaction
from django.db.models import F, Model

from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.history import in_bulk
from aquifer.imports import statistics
from aquifer.imports.models import RowAction
from aquifer.imports.origin import NOBODY, Origin
from aquifer.imports.plan import PlannedRow, Progress, nothing
from aquifer.imports.records import created
from aquifer.imports.tables import Table

BATCH = 1000
M = TypeVar("M", bound=Model)


def apply(table: Table, planned: list[PlannedRow], progress: Progress = nothing, origin: Origin = NOBODY) -> None:
    """Create and change what was planned, in one transaction.

    Raises: ValueError if a row was refused: a file is brought in whole or not at all.
    """
    if any(row.action is RowAction.REFUSE for row in planned):
        raise ValueError("a file with refused rows is not brought in")
    new = [row for row in planned if row.action is RowAction.CREATE]
    changed = [row for row in planned if row.action is RowAction.CHANGE]
    manager = table.model._default_manager
    with transaction.atomic():
        for start in range(0, len(new), BATCH):
            batch = new[start : start + BATCH]
            for row, pk in zip(batch, created(table.model, [row.values for row in batch], origin), strict=True):
                row.pk = pk
            progress(start + len(batch), len(new) + len(changed))
        for start in range(0, len(changed), BATCH):
            batch = changed[start : start + BATCH]
            names = sorted({name for row in batch for name in row.values})
            records = manager.in_bulk([row.pk for row in batch])
            for row in batch:
                for name, value in row.values.items():
                    setattr(records[row.pk], name, value)
            _changed(list(records.values()), table.model, names, origin)
            if table.model is Heater:
                # An edit that somebody has open on one of these must notice.
                manager.filter(pk__in=list(records)).update(version=F("version") + 1)
            progress(len(new) + start + len(batch), len(new) + len(changed))
        if table.kind == "heaters":
            _parts(new, changed, origin)
        statistics.refresh(table.model, Part)


def _parts(new: list[PlannedRow], changed: list[PlannedRow], origin: Origin) -> None:
    """Parts in place: every new heater has a relief valve, and the rod that the file names."""
    fitted = [
        {"heater_id": row.record, "kind": kind, **fields}
        for row in new
        for kind, fields in {PartKind.RELIEF_VALVE: {}, **row.parts}.items()
    ]
    created(Part, fitted, origin)
    with_parts = {row.record: row.parts for row in changed if row.parts}
    in_place = {
        (part.heater_id, part.kind): part
        for part in Part.objects.filter(heater__in=list(with_parts), removed_on__isnull=True)
    }
    made, altered, names = [], [], set()
    for pk, parts in with_parts.items():
        for kind, fields in parts.items():
            part = in_place.get((pk, kind))
            if part is None:
                made.append({"heater_id": pk, "kind": kind, **fields})
                continue
            for name, value in fields.items():
                setattr(part, name, value)
            names |= set(fields)
            altered.append(part)
    created(Part, made, origin)
    if altered:
        _changed(altered, Part, sorted(names), origin)


def _changed(records: Sequence[M], model: type[M], names: list[str], origin: Origin) -> None:
    model._default_manager.bulk_update(records, names, batch_size=BATCH)
    if hasattr(model, "history"):
        in_bulk.keep(model, [record.pk for record in records], in_bulk.CHANGED, origin.by, origin.file)

"""Past visits from a table, one row a finding. Appended; a visit that is on record already is left as it is."""

import datetime
import uuid
from typing import Any

from django.db import transaction

from aquifer.changes import in_bulk
from aquifer.core.vocabulary import Task
from aquifer.formats.cells import Row
from aquifer.formats.csv_table import read_table
from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.imports import statistics
from aquifer.imports.tables import history_columns
from aquifer.visits.models import Finding, Visit

NAMESPACE = uuid.UUID("6f1f3a52-6a0e-4d52-9d6c-3f6c3f0f7d11")
"""A visit's code in a file gives its id, so that the same file brings it in once."""
_PART_OF = {
    Task.ANODE_INSPECTION: PartKind.ANODE,
    Task.ANODE_REPLACEMENT: PartKind.ANODE,
    Task.RELIEF_VALVE_EXERCISE: PartKind.RELIEF_VALVE,
    Task.RELIEF_VALVE_REPLACEMENT: PartKind.RELIEF_VALVE,
    Task.EXPANSION_TANK_CHECK: PartKind.EXPANSION_TANK,
    Task.EXPANSION_TANK_REPLACEMENT: PartKind.EXPANSION_TANK,
}
_REPLACEMENTS = (Task.ANODE_REPLACEMENT, Task.RELIEF_VALVE_REPLACEMENT, Task.EXPANSION_TANK_REPLACEMENT)


class RefusedHistory(ValueError):
    """Rows that cannot be so; nothing was written."""


def load(text: str, today: datetime.date) -> int:
    """Append the visits of a table; returns how many findings were new.

    Raises: UnreadableTable, or RefusedHistory naming row and column of the first faults.
    """
    rows = list(read_table(text, history_columns(today)))
    heaters = {h.tag: h for h in Heater.objects.filter(tag__in={row.cells.get("heater") for row in rows})}
    _refuse_faults(rows, heaters)
    ids = {code: uuid.uuid5(NAMESPACE, code) for code in {row.cells["visit"] for row in rows}}
    known = set(Visit.objects.filter(client_id__in=ids.values()).values_list("client_id", flat=True))
    rows = [row for row in rows if ids[row.cells["visit"]] not in known]
    with transaction.atomic():
        visits = _visits(rows, heaters, ids)
        findings = _findings(rows, heaters, visits)
        Finding.objects.bulk_create(findings, batch_size=2000)
        statistics.refresh(Visit, Finding, Part)
    return len(findings)


def _refuse_faults(rows: list[Row], heaters: dict[str, Heater]) -> None:
    faults = []
    for row in rows:
        heater = heaters.get(row.cells.get("heater") or "")
        if not row.faults and heater is None:
            row.faults["heater"] = f"there is no heater with the tag {row.cells['heater']}"
        if heater and heater.installed_on and row.cells.get("on") and row.cells["on"] < heater.installed_on:
            row.faults["on"] = f"{row.cells['on']} is before the heater was installed ({heater.installed_on})"
        faults += [f"row {row.number}, {name}: {fault}" for name, fault in row.faults.items()]
    if faults:
        raise RefusedHistory("; ".join(faults[:5]) + (f"; and {len(faults) - 5} more" if len(faults) > 5 else ""))


def _visits(rows: list[Row], heaters: dict[str, Heater], ids: dict[str, uuid.UUID]) -> dict[str, Visit]:
    made: dict[str, Visit] = {}
    for row in rows:
        code = row.cells["visit"]
        if code not in made:
            made[code] = Visit(
                client_id=ids[code],
                heater=heaters[row.cells["heater"]],
                on=row.cells["on"],
                technician=row.cells.get("technician") or "",
            )
    Visit.objects.bulk_create(made.values(), batch_size=2000)
    return made


def _findings(rows: list[Row], heaters: dict[str, Heater], visits: dict[str, Visit]) -> list[Finding]:
    in_place: dict[tuple[int, str], Part] = {
        (part.heater_id, part.kind): part
        for part in Part.objects.filter(heater__in=list(heaters.values()), removed_on__isnull=True)
    }
    findings, retired, sequence = [], [], dict.fromkeys(visits, 0)
    for row in sorted(rows, key=lambda row: (row.cells["on"], row.number)):
        cells, task = row.cells, Task(row.cells["task"])
        heater, kind = heaters[cells["heater"]], _PART_OF.get(task)
        part = in_place.get((heater.pk, kind)) if kind else None
        if kind and task in _REPLACEMENTS:
            part = _replaced(part, heater, kind, cells["on"], retired)
            in_place[heater.pk, kind] = part
        findings.append(
            Finding(
                visit=visits[cells["visit"]],
                heater=heater,
                part=part,
                sequence=sequence[cells["visit"]],
                **{name: value for name, value in cells.items() if name in _OWN and value is not None},
            )
        )
        sequence[cells["visit"]] += 1
    Part.objects.bulk_update([part for part in retired if part.pk], ["removed_on"], batch_size=2000)
    made = [part for part in [*retired, *in_place.values()] if not part.pk]
    Part.objects.bulk_create(made, batch_size=2000)
    in_bulk.keep(Part, [part.pk for part in made], in_bulk.ADDED, file="a file")
    return findings


_OWN = frozenset(
    name for name in (f.name for f in Finding._meta.get_fields()) if name not in ("id", "visit", "heater", "part")
)


def _replaced(old: Part | None, heater: Heater, kind: str, on: datetime.date, retired: list[Part]) -> Part:
    kept: dict[str, Any] = {}
    if old:
        old.removed_on = max(on, old.fitted_on or on)
        retired.append(old)
        kept = {name: getattr(old, name) for name in ("alloy", "diameter_mm", "length_mm", "count", "volume_l")}
    return Part(heater=heater, kind=kind, fitted_on=on, **kept)

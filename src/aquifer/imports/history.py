"""Past visits from a file, one row a finding. Appended; a visit that is on record already is left as it is."""

import datetime
import uuid
from collections.abc import Iterator, Mapping

from django.db import transaction

from aquifer.core.vocabulary import Task
from aquifer.formats.cells import Cell, Row
from aquifer.formats.csv_table import table_lines
from aquifer.formats.sheet import Matched, Sheet, own_names, read_rows
from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.history import in_bulk
from aquifer.imports import statistics
from aquifer.imports.models import RowAction
from aquifer.imports.origin import NOBODY, Origin
from aquifer.imports.plan import PlannedRow, Progress, nothing
from aquifer.imports.tables import Table
from aquifer.visits import pressure
from aquifer.visits.models import Finding, Visit

NAMESPACE = uuid.UUID("6f1f3a52-6a0e-4d52-9d6c-3f6c3f0f7d11")
"""A visit's code in a file gives its id, so that the same file brings it in once."""
BATCH = 2000
_PART_OF = {
    Task.ANODE_INSPECTION: PartKind.ANODE,
    Task.ANODE_REPLACEMENT: PartKind.ANODE,
    Task.RELIEF_VALVE_EXERCISE: PartKind.RELIEF_VALVE,
    Task.RELIEF_VALVE_REPLACEMENT: PartKind.RELIEF_VALVE,
    Task.EXPANSION_TANK_CHECK: PartKind.EXPANSION_TANK,
    Task.EXPANSION_TANK_REPLACEMENT: PartKind.EXPANSION_TANK,
}
_REPLACEMENTS = (Task.ANODE_REPLACEMENT, Task.RELIEF_VALVE_REPLACEMENT, Task.EXPANSION_TANK_REPLACEMENT)
_OWN = frozenset(
    name for name in (f.name for f in Finding._meta.get_fields()) if name not in ("id", "visit", "heater", "part")
)


def id_of(code: str) -> uuid.UUID:
    """A visit's id by its code in a file: the id itself where the file was taken out of the program."""
    try:
        return uuid.UUID(code)
    except ValueError:
        return uuid.uuid5(NAMESPACE, code)


def plan(
    table: Table, sheet: Sheet, matches: Mapping[str, Matched] | None = None, progress: Progress = nothing
) -> list[PlannedRow]:
    """Decide for every row what it would do. A visit comes in whole: one refused row holds back the others.

    Raises: UnreadableTable if the file as a whole cannot be read.
    """
    rows = list(read_rows(sheet, table.columns, matches or own_names(sheet, table.columns)))
    heaters = {h.tag: h for h in Heater.objects.in_service().filter(tag__in={row.cells.get("heater") for row in rows})}
    ids = {code: id_of(code) for row in rows if (code := row.cells.get("visit"))}
    known = set(Visit.objects.filter(client_id__in=ids.values()).values_list("client_id", flat=True))
    first: dict[str, Row] = {}
    for row in rows:
        _find_faults(row, heaters, first)
    refused = {row.cells.get("visit"): row.number for row in reversed(rows) if row.faults}
    planned = []
    for row in rows:
        code = row.cells.get("visit") or ""
        if not row.faults and code in refused:
            row.faults["visit"] = f"row {refused[code]} of the same visit is refused, and a visit comes in whole"
        if row.faults:
            planned.append(PlannedRow(row.number, RowAction.REFUSE, code, dict(row.faults)))
            continue
        action = RowAction.SAME if ids[code] in known else RowAction.CREATE
        own = {**row.cells, "visit": ids[code], "heater": heaters[row.cells["heater"]].pk}
        planned.append(PlannedRow(row.number, action, code, values=own))
    progress(len(rows), len(rows))
    return planned


def _find_faults(row: Row, heaters: Mapping[str, Heater], first: dict[str, Row]) -> None:
    tag, on, code = row.cells.get("heater"), row.cells.get("on"), row.cells.get("visit")
    heater = heaters.get(tag or "")
    if tag and heater is None:
        row.faults["heater"] = f"there is no heater in service with the tag {tag}"
    if heater and heater.installed_on and on and on < heater.installed_on:
        row.faults["on"] = f"{on} is before the heater was installed ({heater.installed_on})"
    if not code:
        return
    other = first.setdefault(code, row)
    for name in ("heater", "on"):
        if row.cells.get(name) != other.cells.get(name):
            row.faults.setdefault(name, f"is {other.cells.get(name)} in row {other.number} of the same visit")


def apply(table: Table, planned: list[PlannedRow], progress: Progress = nothing, origin: Origin = NOBODY) -> None:
    """Append what was planned, in one transaction."""
    rows = [row for row in planned if row.action is RowAction.CREATE]
    with transaction.atomic():
        visits = _visits(rows)
        findings = _findings(rows, visits, origin)
        for start in range(0, len(findings), BATCH):
            Finding.objects.bulk_create(findings[start : start + BATCH])
            progress(min(start + BATCH, len(findings)), len(findings))
        measured = {finding.heater_id for finding in findings if finding.static_kpa is not None}
        sites = set(Heater.objects.filter(pk__in=measured).values_list("site_id", flat=True))
        pressure.keep(sites, origin.by, origin.file)
        statistics.refresh(Visit, Finding, Part)


def _visits(rows: list[PlannedRow]) -> dict[uuid.UUID, Visit]:
    made: dict[uuid.UUID, Visit] = {}
    for row in rows:
        client_id = row.values["visit"]
        if client_id not in made:
            made[client_id] = Visit(
                client_id=client_id,
                heater_id=row.values["heater"],
                on=row.values["on"],
                technician=row.values.get("technician") or "",
                note=row.values.get("note") or "",
            )
    Visit.objects.bulk_create(made.values(), batch_size=BATCH)
    return made


def _findings(rows: list[PlannedRow], visits: dict[uuid.UUID, Visit], origin: Origin) -> list[Finding]:
    """Findings in the order of their dates, each with the part that was in place then."""
    in_place: dict[tuple[int, str], Part] = {
        (part.heater_id, part.kind): part
        for part in Part.objects.filter(heater__in={row.values["heater"] for row in rows}, removed_on__isnull=True)
    }
    earlier: dict[tuple[int, str], Part] = {}
    findings: list[Finding] = []
    retired: list[Part] = []
    sequence = dict.fromkeys(visits, 0)
    for row in sorted(rows, key=lambda row: (row.values["on"], row.number)):
        cells, task = row.values, Task(row.values["task"])
        heater_id, visit, kind = cells["heater"], cells["visit"], _PART_OF.get(task)
        part = None
        if kind:
            at = (heater_id, kind)
            part = in_place.get(at)
            # The register may say already what was fitted since: such a visit is of the part before.
            since = part.fitted_on if part and part.fitted_on and part.fitted_on > cells["on"] else None
            if since:
                part = earlier.get(at)
            if task in _REPLACEMENTS and not (part and part.fitted_on == cells["on"]):
                part = _replaced(part, heater_id, kind, cells["on"], retired)
                if since:
                    part.removed_on = since
                    retired.append(part)
                (earlier if since else in_place)[at] = part
        own = {name: value for name, value in cells.items() if name in _OWN and value is not None}
        findings.append(Finding(visit=visits[visit], heater_id=heater_id, part=part, sequence=sequence[visit], **own))
        sequence[visit] += 1
    old = [part for part in retired if part.pk]
    made = [part for part in [*retired, *in_place.values()] if not part.pk]
    Part.objects.bulk_update(old, ["removed_on"], batch_size=BATCH)
    Part.objects.bulk_create(made, batch_size=BATCH)
    in_bulk.keep(Part, [part.pk for part in old], in_bulk.CHANGED, origin.by, origin.file)
    in_bulk.keep(Part, [part.pk for part in made], in_bulk.ADDED, origin.by, origin.file)
    return findings


def _replaced(old: Part | None, heater_id: int, kind: str, on: datetime.date, retired: list[Part]) -> Part:
    kept: dict[str, Cell] = {}
    if old:
        old.removed_on = max(on, old.fitted_on or on)
        if old not in retired:
            retired.append(old)
        kept = {name: getattr(old, name) for name in ("alloy", "diameter_mm", "length_mm", "count", "volume_l")}
    return Part(heater_id=heater_id, kind=kind, fitted_on=on, **kept)


def lines(table: Table) -> Iterator[str]:
    """Every finding that stands, as CSV in the columns that bring it in."""
    return table_lines([column.name for column in table.columns], _told(table))


def _told(table: Table) -> Iterator[dict[str, Cell]]:
    findings = Finding.objects.filter(correction__isnull=True, heater__archived_at__isnull=True)
    findings = findings.select_related("visit__recorded_by", "heater").order_by("visit_id", "sequence")
    for finding in findings.iterator(chunk_size=BATCH):
        visit = finding.visit
        beside = {
            "visit": str(visit.client_id),
            "heater": finding.heater.tag,
            "technician": visit.technician or (visit.recorded_by.name if visit.recorded_by else ""),
        }
        yield {c.name: beside[c.name] if c.name in beside else getattr(finding, c.name) for c in table.columns}

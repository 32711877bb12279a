"""Past visits from a file, one row a finding or a reading.

Appended: a visit that is on record already is left as it is.
"""

import datetime
import uuid
from collections.abc import Iterator, Mapping

from django.db import transaction

from aquifer.core.doubles import entered_before, facts
from aquifer.core.kinds import HeaterKind
from aquifer.core.observations import BY_FIELD, fault
from aquifer.core.place import Severity
from aquifer.core.vocabulary import Task
from aquifer.formats.cells import BadCell, Cell, Row
from aquifer.formats.csv_table import table_lines
from aquifer.formats.sheet import Matched, Sheet, own_names, read_rows
from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.history import in_bulk
from aquifer.imports import statistics
from aquifer.imports.answers import NAMES, answer
from aquifer.imports.models import RowAction
from aquifer.imports.origin import NOBODY, Origin
from aquifer.imports.plan import PlannedRow, Progress, nothing
from aquifer.imports.tables import Table
from aquifer.open_ends.models import OpenEnd, OpenEndState
from aquifer.visits import doubles, pressure, readings
from aquifer.visits.models import Finding, Visit

NAMESPACE = uuid.UUID("6f1f3a52-6a0e-4d52-9d6c-3f6c3f0f7d11")
"""A visit's code in a file gives its id, so that the same file brings it in once."""
BATCH = 2000
TWICE = "entered twice?"
"""What a row is asked whose visit may be on record already, under another code."""
_PART_OF = {
    Task.ANODE_INSPECTION: PartKind.ANODE,
    Task.ANODE_REPLACEMENT: PartKind.ANODE,
    Task.RELIEF_VALVE_EXERCISE: PartKind.RELIEF_VALVE,
    Task.RELIEF_VALVE_REPLACEMENT: PartKind.RELIEF_VALVE,
    Task.EXPANSION_TANK_CHECK: PartKind.EXPANSION_TANK,
    Task.EXPANSION_TANK_REPLACEMENT: PartKind.EXPANSION_TANK,
}
_TOLD_OF = {
    PartKind.ANODE: ("fitted_alloy", "fitted_diameter_mm", "fitted_length_mm", "fitted_count", "fitted_build"),
    PartKind.RELIEF_VALVE: ("fitted_set_pressure_kpa", "fitted_build"),
    PartKind.EXPANSION_TANK: ("fitted_volume_l", "fitted_build"),
}
"""What can be told of each part that was fitted."""
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
        if row.cells.get("reading"):
            row.cells["value"] = _answered(row, HeaterKind(heaters[row.cells["heater"]].kind))
        action = RowAction.SAME if ids[code] in known else RowAction.CREATE
        own = {**row.cells, "visit": ids[code], "heater": heaters[row.cells["heater"]].pk}
        planned.append(PlannedRow(row.number, action, code, values=own))
    _ask_about_doubles(planned)
    progress(len(rows), len(rows))
    return planned


def _ask_about_doubles(planned: list[PlannedRow]) -> None:
    """Notes on visits that say what another visit to the same heater says, on record or in the file."""
    of_visit: dict[uuid.UUID, list[PlannedRow]] = {}
    for row in planned:
        if row.action is RowAction.CREATE and row.values.get("task"):
            of_visit.setdefault(row.values["visit"], []).append(row)
    others = doubles.on_record({rows[0].values["heater"] for rows in of_visit.values()})
    for rows in of_visit.values():
        on, heater_id = rows[0].values["on"], rows[0].values["heater"]
        said = facts((Task(row.values["task"]), {name: row.values.get(name) for name in doubles.FOUND}) for row in rows)
        if before := entered_before(on, said, others.get(heater_id, [])):
            for row in rows:
                row.detail[TWICE] = f"the visit of {before.day} {before:%B %Y} says the same"
        others.setdefault(heater_id, []).append((on, said))


def _find_faults(row: Row, heaters: Mapping[str, Heater], first: dict[str, Row]) -> None:
    tag, on, code = row.cells.get("heater"), row.cells.get("on"), row.cells.get("visit")
    heater = heaters.get(tag or "")
    if tag and heater is None:
        row.faults["heater"] = f"there is no heater in service with the tag {tag}"
    if heater and heater.installed_on and on and on < heater.installed_on:
        row.faults["on"] = f"{on} is before the heater was installed ({heater.installed_on})"
    _find_wrong_answers(row, heater)
    if not code:
        return
    other = first.setdefault(code, row)
    for name in ("heater", "on"):
        if row.cells.get(name) != other.cells.get(name):
            row.faults.setdefault(name, f"is {other.cells.get(name)} in row {other.number} of the same visit")
    if reading := row.cells.get("reading"):
        same = first.setdefault(f"{code}\n{reading}", row)
        if same is not row:
            row.faults.setdefault("reading", f"stands already in row {same.number} of the same visit")


def _find_wrong_answers(row: Row, heater: Heater | None) -> None:
    """What was read off, and what was fitted."""
    cells = row.cells
    if not cells.get("task") and not cells.get("reading"):
        row.faults.setdefault("task", "needed, or a reading")
    if cells.get("value") and not cells.get("reading"):
        row.faults.setdefault("reading", "needed: of what the value is")
    if cells.get("reading") and not row.faults.get("reading") and heater:
        try:
            _answered(row, HeaterKind(heater.kind))
        except BadCell as error:
            row.faults["value"] = str(error)
    told = [name for name in cells if name.startswith("fitted_") and cells[name] is not None]
    kind = _PART_OF.get(cells["task"]) if cells.get("task") in _REPLACEMENTS else None
    for name in told:
        if kind is None:
            row.faults[name] = "nothing is fitted by this task"
        elif name not in _TOLD_OF[kind]:
            row.faults[name] = f"not told of such a part; allowed: {', '.join(_TOLD_OF[kind])}"


def _answered(row: Row, kind: HeaterKind) -> float | str | bool:
    value, unit = (str(row.cells.get(name) or "") for name in ("value", "unit"))
    return answer(row.cells["reading"], value, unit, kind)


def apply(table: Table, planned: list[PlannedRow], progress: Progress = nothing, origin: Origin = NOBODY) -> None:
    """Append what was planned, in one transaction."""
    rows = [row for row in planned if row.action is RowAction.CREATE]
    with transaction.atomic():
        visits = _visits(rows)
        findings = _findings([row for row in rows if row.values.get("task")], visits, origin)
        for start in range(0, len(findings), BATCH):
            Finding.objects.bulk_create(findings[start : start + BATCH])
            progress(min(start + BATCH, len(findings)), len(findings))
        measured = {finding.heater_id for finding in findings if finding.static_kpa is not None}
        sites = set(Heater.objects.filter(pk__in=measured).values_list("site_id", flat=True))
        pressure.keep(sites, origin.by, origin.file)
        _leave_open(rows, origin)
        statistics.refresh(Visit, Finding, Part, OpenEnd)


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
                minutes=row.values.get("minutes"),
                readings={},
            )
        if row.values.get("reading"):
            made[client_id].readings[row.values["reading"]] = row.values["value"]
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
                part = _replaced(part, heater_id, kind, cells, retired)
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


def _replaced(old: Part | None, heater_id: int, kind: str, cells: Mapping[str, Cell], retired: list[Part]) -> Part:
    """The part that was fitted: as the file tells it, and like the old one where it tells nothing of it."""
    on: datetime.date = cells["on"]
    given = {name.removeprefix("fitted_"): cells.get(name) for name in _TOLD_OF[PartKind(kind)]}
    told = {name: value for name, value in given.items() if value is not None}
    if old:
        old.removed_on = max(on, old.fitted_on or on)
        if old not in retired:
            retired.append(old)
        told = told or {name: getattr(old, name) for name in ("alloy", "diameter_mm", "length_mm", "count", "volume_l")}
    return Part(heater_id=heater_id, kind=kind, fitted_on=on, **told)


def _leave_open(rows: list[PlannedRow], origin: Origin) -> None:
    """An open issue for what was last seen not to be right, unless one is open, or somebody has looked since."""
    last: dict[tuple[int, str], PlannedRow] = {}
    for row in sorted(rows, key=lambda row: (row.values["on"], row.number)):
        if row.values.get("reading") in BY_FIELD:
            last[row.values["heater"], row.values["reading"]] = row
    faults = {at: found for at, row in last.items() if (found := fault(at[1], row.values["value"])) is not None}
    faults = {at: found for at, found in faults.items() if found[0] is not Severity.NOTE}
    heaters = {heater_id for heater_id, _ in faults}
    later = {
        (heater_id, name)
        for heater_id, on, taken in Visit.objects.filter(heater__in=heaters).values_list("heater", "on", "readings")
        for name in taken
        if (heater_id, name) in faults and on > last[heater_id, name].values["on"]
    }
    stands = OpenEnd.objects.filter(heater__in=heaters).exclude(state=OpenEndState.CLOSED)
    open_now = set(stands.values_list("heater", "observation"))
    sites = dict(Heater.objects.filter(pk__in=heaters).values_list("pk", "site"))
    raised = [
        OpenEnd(
            site_id=sites[at[0]], heater_id=at[0], severity=severity, words=words, raised_on=last[at].values["on"],
            raised_by=origin.by, visit_client_id=last[at].values["visit"], observation=at[1],
        )
        for at, (severity, words) in faults.items()
        if at not in later and at not in open_now
    ]  # fmt: skip
    raised = OpenEnd.objects.bulk_create(raised, batch_size=BATCH)
    in_bulk.keep(OpenEnd, [open_end.pk for open_end in raised], in_bulk.ADDED, origin.by, origin.file)


def lines(table: Table) -> Iterator[str]:
    """Every finding and reading that stands, as CSV in the columns that bring it in."""
    return table_lines([column.name for column in table.columns], _told(table))


def _told(table: Table) -> Iterator[dict[str, Cell]]:
    findings = Finding.objects.filter(correction__isnull=True, heater__archived_at__isnull=True)
    findings = findings.select_related("visit__recorded_by", "heater", "part").order_by("visit_id", "sequence")
    for finding in findings.iterator(chunk_size=BATCH):
        visit = finding.visit
        beside = {**_of_visit(visit, finding.heater.tag), **_fitted(finding)}
        yield {c.name: beside[c.name] if c.name in beside else getattr(finding, c.name, None) for c in table.columns}
    visits = Visit.objects.filter(heater__archived_at__isnull=True).select_related("heater", "recorded_by")
    for visit in visits.prefetch_related("amendments").order_by("pk").iterator(chunk_size=BATCH):
        taken: dict[str, object] = {**readings.standing(visit), **readings.in_words(visit)}
        for name in NAMES:
            if name in taken:
                of = {**_of_visit(visit, visit.heater.tag), "on": visit.on, "reading": name, "value": str(taken[name])}
                yield {column.name: of.get(column.name) for column in table.columns}


def _of_visit(visit: Visit, tag: str) -> dict[str, Cell]:
    by = visit.technician or (visit.recorded_by.name if visit.recorded_by else "")
    return {"visit": str(visit.client_id), "heater": tag, "technician": by}


def _fitted(finding: Finding) -> dict[str, Cell]:
    """What is on record of the part that it fitted."""
    if finding.task not in _REPLACEMENTS or finding.part is None:
        return {}
    names = _TOLD_OF[PartKind(finding.part.kind)]
    told = {name: getattr(finding.part, name.removeprefix("fitted_")) for name in names}
    return {name: value for name, value in told.items() if value not in (None, "")}

"""What a file would do to the register, row by row, before anything is written.

Reads the register in a fixed number of queries for the whole file.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db.models import Field

from aquifer.formats.cells import Cell, Row
from aquifer.formats.sheet import Matched, Sheet, own_names, read_rows
from aquifer.heaters.models import Part, PartKind
from aquifer.imports.models import RowAction
from aquifer.imports.tables import Table

PART_COLUMNS = {
    "anode_alloy": (PartKind.ANODE, "alloy"),
    "anode_diameter_mm": (PartKind.ANODE, "diameter_mm"),
    "anode_length_mm": (PartKind.ANODE, "length_mm"),
    "anode_count": (PartKind.ANODE, "count"),
    "anode_fitted_on": (PartKind.ANODE, "fitted_on"),
    "relief_valve_fitted_on": (PartKind.RELIEF_VALVE, "fitted_on"),
    "relief_valve_set_pressure_kpa": (PartKind.RELIEF_VALVE, "set_pressure_kpa"),
    "expansion_tank_volume_l": (PartKind.EXPANSION_TANK, "volume_l"),
    "expansion_tank_precharge_kpa": (PartKind.EXPANSION_TANK, "precharge_kpa"),
    "expansion_tank_fitted_on": (PartKind.EXPANSION_TANK, "fitted_on"),
}
Progress = Callable[[int, int], None]


def nothing(done: int, total: int) -> None:
    """For callers that show no progress."""


@dataclass
class PlannedRow:
    number: int
    action: RowAction
    key: str
    detail: dict[str, Cell] = field(default_factory=dict)
    pk: int | None = None
    values: dict[str, Cell] = field(default_factory=dict)
    """Fields of the model to write."""
    parts: dict[PartKind, dict[str, Cell]] = field(default_factory=dict)

    @property
    def record(self) -> int:
        """The record that it is of, once it is stored."""
        assert self.pk is not None
        return self.pk


def plan(
    table: Table, sheet: Sheet, matches: Mapping[str, Matched] | None = None, progress: Progress = nothing
) -> list[PlannedRow]:
    """Decide for every row of a file what it would do; without matches its columns have our own names.

    Raises: UnreadableTable if the file as a whole cannot be read.
    """
    rows = list(read_rows(sheet, table.columns, matches or own_names(sheet, table.columns)))
    known = {name: _codes(table, name, rows) for name in table.references}
    existing = _existing(table, rows)
    seen: dict[str, int] = {}
    planned = []
    for done, row in enumerate(rows, start=1):
        planned.append(_decide(table, row, known, existing, seen))
        if done % 500 == 0:
            progress(done, len(rows))
    progress(len(rows), len(rows))
    return planned


def _codes(table: Table, column: str, rows: list[Row]) -> dict[str, int]:
    reference = table.references[column]
    wanted = {row.cells.get(column) for row in rows} - {None}
    found = reference.model._default_manager.filter(**{f"{reference.code}__in": wanted})
    return dict(found.values_list(reference.code, "pk"))


def _fields(table: Table) -> list[str]:
    names = [c.name for c in table.columns if c.name not in table.references and c.name not in table.beside]
    return names + [reference.field for reference in table.references.values()]


def _key(table: Table, cells: Mapping[str, Cell]) -> str:
    """What tells a row from the others of its file, and which record it is."""
    if table.key:
        return str(cells.get(table.key) or "")
    return " ".join(str(cells.get(name) or "-") for name in table.once)


def _appended(table: Table, rows: list[Row]) -> dict[str, dict[str, Cell]]:
    """Records that are never changed, of those that the file names, by what tells them apart."""
    first = table.references[table.once[0]]
    codes = {name: f"{ref.field.removesuffix('_id')}__{ref.code}" for name, ref in table.references.items()}
    wanted = {row.cells.get(table.once[0]) for row in rows} - {None}
    found = table.model._default_manager.filter(**{f"{first.field.removesuffix('_id')}__{first.code}__in": wanted})
    existing = {}
    for record in found.values("pk", *_fields(table), *codes.values()):
        named = {name: record[codes[name]] if name in codes else record[name] for name in table.once}
        existing[_key(table, named)] = {**record, "parts": {}}
    return existing


def _existing(table: Table, rows: list[Row]) -> dict[str, dict[str, Cell]]:
    if not table.key:
        return _appended(table, rows)
    wanted = [row.cells[table.key] for row in rows if row.cells.get(table.key)]
    found = table.model._default_manager.filter(**{f"{table.key}__in": wanted}).values("pk", *_fields(table))
    existing = {record[table.key]: {**record, "parts": {}} for record in found}
    if table.kind == "heaters":
        by_pk = {record["pk"]: record for record in existing.values()}
        for part in Part.objects.filter(heater__in=list(by_pk), removed_on__isnull=True).values():
            by_pk[part["heater_id"]]["parts"][part["kind"]] = part
    return existing


def _decide(
    table: Table,
    row: Row,
    known: dict[str, dict[str, int]],
    existing: dict[str, dict[str, Cell]],
    seen: dict[str, int],
) -> PlannedRow:
    faults = dict(row.faults)
    key = _key(table, row.cells)
    if key:
        if key in seen:
            faults[table.key or table.once[0]] = f"{key} stands already in row {seen[key]}"
        seen.setdefault(key, row.number)
    values: dict[str, Cell] = {}
    parts: dict[PartKind, dict[str, Cell]] = {}
    for name, value in row.cells.items():
        if name in table.references:
            if value is None:
                continue
            if value not in known[name]:
                faults[name] = f"there is no {name} with the code {value}"
            else:
                values[table.references[name].field] = known[name][value]
        elif name in PART_COLUMNS and name in table.beside:
            kind, part_field = PART_COLUMNS[name]
            if value is not None:
                parts.setdefault(kind, {})[part_field] = value
        else:
            values[name] = value
    _check_together(row, faults)
    before = existing.get(key)
    values = {name: _blank(table, name) if value is None else value for name, value in values.items()}
    if faults:
        return PlannedRow(row.number, RowAction.REFUSE, key, faults)
    if before is None:
        return PlannedRow(row.number, RowAction.CREATE, key, {}, None, values, parts)
    changes = {name: [_shown(before[name]), _shown(v)] for name, v in values.items() if before[name] != v}
    for kind, fields in parts.items():
        old = before["parts"].get(kind, {})
        changes |= {
            f"{kind}_{name}": [_shown(old.get(name)), _shown(v)] for name, v in fields.items() if old.get(name) != v
        }
    if changes and not table.key:
        why = {
            name: f"is {change[0]} on record; what was measured is never changed" for name, change in changes.items()
        }
        return PlannedRow(row.number, RowAction.REFUSE, key, why)
    action = RowAction.CHANGE if changes else RowAction.SAME
    return PlannedRow(row.number, action, key, changes, before["pk"], values, parts)


def _check_together(row: Row, faults: dict[str, str]) -> None:
    """What no cell can tell alone."""
    if email := row.cells.get("email"):
        try:
            validate_email(email)
        except ValidationError:
            faults["email"] = f"{email[:60]!r} is not an e-mail address"
    installed = row.cells.get("installed_on")
    for name in ("anode_fitted_on", "relief_valve_fitted_on", "expansion_tank_fitted_on"):
        fitted = row.cells.get(name)
        if installed and fitted and fitted < installed:
            faults[name] = f"{fitted} is before the heater was installed ({installed})"
    total, calcium = row.cells.get("total_hardness_mg_l"), row.cells.get("calcium_hardness_mg_l")
    if total is not None and calcium is not None and calcium > total:
        faults["calcium_hardness_mg_l"] = f"{calcium:g} is above the total hardness {total:g}"


def _blank(table: Table, name: str) -> Cell:
    """What an empty cell means: no value, no text, or the usual choice."""
    column = table.model._meta.get_field(name)
    assert isinstance(column, Field)
    return None if column.null else column.get_default()


def _shown(value: object) -> object:
    return value if isinstance(value, bool | int | float | str | type(None)) else str(value)

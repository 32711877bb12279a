"""What the columns of somebody's file are in the program: known by name, remembered, or guessed and asked."""

import hashlib
import re
from collections.abc import Mapping
from typing import Any

from aquifer.errors import Invalid
from aquifer.formats.cells import Column
from aquifer.formats.sheet import WHY_REFUSED, Matched, Sheet, missing_of, own_names
from aquifer.imports.models import ImportRun, RememberedColumns
from aquifer.imports.tables import Table

SAMPLES = 3
_OTHER_NAMES = {
    "code": ("customer no", "customer number", "site no", "id", "number"),
    "name": ("customer name", "site name"),
    "phone": ("telephone", "tel", "mobile"),
    "email": ("e mail", "mail"),
    "tag": ("heater no", "asset", "asset no", "unit", "equipment no"),
    "site": ("site code", "property", "address code"),
    "customer": ("customer code", "account"),
    "kind": ("type", "heater type", "equipment type"),
    "street": ("address", "address 1"),
    "town": ("city", "place"),
    "zone": ("water zone", "supply zone", "district"),
    "installed_on": ("installed", "install date", "installation date", "date of installation"),
    "capacity_l": ("capacity", "tank size", "size", "volume", "gallons", "litres"),
    "setpoint_c": ("setpoint", "temperature", "set temperature", "temp"),
    "input_kw": ("input", "power", "rating"),
    "ignition": ("ignition type", "pilot", "lighting"),
    "vent": ("vent type", "venting", "draft", "flue type"),
    "serial": ("serial no", "serial number", "s n"),
    "maker": ("make", "manufacturer", "brand"),
    "location": ("where", "room", "position"),
    "people": ("occupants", "persons", "residents"),
    "static_pressure_kpa": ("pressure", "water pressure"),
    "softened": ("softener", "water softener"),
    "anode_fitted_on": ("anode date", "anode replaced"),
    "relief_valve_fitted_on": ("relief valve date", "valve replaced"),
    "taken_on": ("date", "tested", "test date"),
    "total_hardness_mg_l": ("hardness", "total hardness"),
    "alkalinity_mg_l": ("alkalinity",),
    "ph": ("ph value",),
}
"""Names that other people give to our columns, in small letters without marks. Trade practice."""
_UNITS = {"gallon": "gal", "gallons": "gal", "litre": "l", "litres": "l", "inch": "in", "inches": "in", "f": "°f"}
"""Words in a column's name that say its unit."""


def matches_of(run: ImportRun) -> dict[str, Matched] | None:
    """How a run's columns were matched, if they were."""
    return None if run.matches is None else {name: Matched(**match) for name, match in run.matches.items()}


def known(table: Table, sheet: Sheet) -> dict[str, Matched] | None:
    """The match of a file that needs no question: all names are ours, or such a file came before.

    Raises: UnreadableTable if all names are ours but a needed one is missing.
    """
    names = {column.name for column in table.columns}
    if all(name.lower() in names or name.lower() == WHY_REFUSED for name in sheet.header):
        return own_names(sheet, table.columns)
    kept = RememberedColumns.objects.filter(kind=table.kind, header=_digest(sheet.header)).first()
    if kept is None:
        return None
    by_low = {name: Matched(**match) for name, match in kept.matches.items()}
    return {name: by_low.get(name.lower(), Matched("")) for name in sheet.header}


def remember(table: Table, matches: Mapping[str, Matched]) -> None:
    """Keep a match for the next file with these columns."""
    given = {name.lower(): {"column": match.column, "written": match.written} for name, match in matches.items()}
    RememberedColumns.objects.update_or_create(
        kind=table.kind, header=_digest(list(matches)), defaults={"matches": given}
    )


def asked(table: Table, sheet: Sheet) -> list[dict[str, Any]]:
    """Each column of a file with its first cells and what it may be, for a person to say."""
    first = [cells for _, (_, cells) in zip(range(SAMPLES), sheet.lines, strict=False)]
    taken: set[str] = set()
    told = []
    for at, name in enumerate(sheet.header):
        column = _guess(table, name)
        if column and column.name in taken:
            column = None
        if column:
            taken.add(column.name)
        told.append(
            {
                "name": name,
                "samples": [cells[at][:60] for cells in first if at < len(cells)],
                "column": column.name if column else "",
                "written": _written(column, name) if column else "",
            }
        )
    return told


def checked(table: Table, header: list[str], matches: Mapping[str, Matched]) -> dict[str, Matched]:
    """What a person said, if it can be so. Raises: Invalid naming the column of the file."""
    columns = {column.name: column for column in table.columns}
    used: dict[str, str] = {}
    for name, match in matches.items():
        if name not in header:
            raise Invalid(f"The file has no column {name[:60]!r}.", "import.columns", {name: "not in the file"})
        if not match.column:
            continue
        column = columns.get(match.column)
        if column is None:
            allowed = ", ".join(columns)
            raise Invalid(
                f"{name!r} cannot be {match.column[:40]!r}; allowed: {allowed}.", "import.columns", {name: "?"}
            )
        if match.column in used:
            raise Invalid(
                f"{used[match.column]!r} and {name!r} cannot both be {match.column}.",
                "import.columns",
                {name: f"{match.column} is taken already"},
            )
        if match.written and match.written not in column.ways:
            raise Invalid(
                f"{name!r} cannot be written {match.written[:40]!r}; allowed: {', '.join(column.ways) or 'one way'}.",
                "import.columns",
                {name: "?"},
            )
        used[match.column] = name
    missing = missing_of(matches, table.columns)
    if missing:
        raise Invalid(f"Nothing in the file is {', '.join(missing)}, which is needed.", "import.columns")
    return {name: matches.get(name, Matched("")) for name in header}


def _digest(header: list[str]) -> str:
    names = sorted(name.lower() for name in header if name.lower() != WHY_REFUSED)
    return hashlib.sha256("\n".join(names).encode()).hexdigest()


def _plain(name: str) -> str:
    return " ".join(re.sub(r"[^a-z0-9]+", " ", name.lower()).split())


def _guess(table: Table, name: str) -> Column | None:
    said = _plain(name)
    for column in table.columns:
        ours = _plain(column.name)
        if said in (ours, ours.rsplit(" ", 1)[0] if column.ways else ours, *_OTHER_NAMES.get(column.name, ())):
            return column
    without_unit = " ".join(word for word in said.split() if word not in _unit_words())
    return _guess(table, without_unit) if without_unit and without_unit != said else None


def _unit_words() -> set[str]:
    return {"l", "gal", "mm", "cm", "in", "c", "f", "kpa", "psi", "bar", "kw", "gpg", "ppm", "dh", "fh", *_UNITS}


def _written(column: Column, name: str) -> str:
    """The unit that a column's name says."""
    for word in reversed(_plain(name).split()):
        for way in (word, _UNITS.get(word, ""), f"°{word}"):
            if way in column.ways:
                return way
    return ""

"""The several heaters that one row of an office's list names: what it says once is true of each, and what it says as
often as there are of them is each one's own."""

import re
from collections.abc import Iterable, Mapping

from aquifer.formats import heater_said, said
from aquifer.formats.cells import BadCell
from aquifer.formats.sheet import Matched
from aquifer.imports import row_cells
from aquifer.imports.entry import OF_A_HEATER, Entry, How

_NOTHING = Matched("")
_HAS_YEAR = re.compile(r"(19|20)\d\d|'\d\d|^\d{1,2}\.\d\d$")
OF_EACH = {"installed", "last_flush"}
"""What is true of all heaters that are named in one cell, where it stands beside them."""


def name_kinds(entry: Entry, others: dict[int, tuple[Entry, list[str]]], kinds: list[str]) -> None:
    """Each heater that has columns of its own is of the kind that they are called by; what the row says of its flush
    is true of all."""
    for number, kind in enumerate(kinds, start=1):
        of = entry if number == 1 else others.get(number, (Entry(0), []))[0]
        count = of.cells.pop("count", None)
        if count != 0 and (count or of.has_heater) and (guess := heater_said.kind(kind)):
            of.cells["kind"], of.cells["vent"] = guess.kind, guess.vent
            of.cells |= {"count": count} if count and count > 1 else {}
            for name in OF_EACH - {"installed"}:
                if name in entry.cells:
                    of.cells.setdefault(name, entry.cells[name])


def seen_to_as_well(other: Entry, entry: Entry) -> None:
    """Who came to a house, by a column that is of none of its heaters alone, saw to each that stood there then."""
    flushed, put_in = entry.said("last_flush"), other.said("installed")
    is_known = flushed and flushed.on and other not in entry.of_one_cell
    if is_known and not (put_in and put_in.on and put_in.on > flushed.on):
        other.cells.setdefault("last_flush", flushed)


def share(entry: Entry, header: Iterable[str], cells: Iterable[str], matches: Mapping[str, Matched], how: How) -> None:
    """What the row says once of the heaters of one cell is true of each; what it says as often is each one's own."""
    for name, cell in zip(header, cells, strict=True):
        if (match := matches.get(name, _NOTHING)).column == "size" and name in entry.unread:
            _own_sizes(entry, name, match, cell, how)
            _own_kinds(entry, header, cells, matches)
    own = set[str]()
    for name, cell in zip(header, cells, strict=True):
        match = matches.get(name, _NOTHING)
        if match.column == "serial":
            _own_serials(entry, cell)
        if match.column not in OF_EACH:
            continue
        parts = _days_of_each(cell, is_age=match.written == "age")
        if len(parts) == 1 and len(years := cell.split("/")) == 1 + len(entry.of_one_cell) > 1:
            # "19 / 02" of two heaters are their years.
            parts = (
                [one.strip() for one in years] if all(_TWO_FIGURES.fullmatch(one.strip()) for one in years) else parts
            )
        if len(parts) == entry.said("count") and not entry.others:
            _told_apart(entry, len(parts))
        heaters = [entry, *entry.of_one_cell]
        if 1 < len(parts) == len(heaters):
            entry.unread.pop(name, None)
            entry.notes = [note for note in entry.notes if not note.startswith(f"{name}: ")]
            for of, part in zip(heaters, parts, strict=True):
                of.cells.pop(match.column, None)
                try:
                    row_cells.read(of, name, match, part, how)
                except BadCell as error:
                    of.unread[name] = str(error)
                    of.notes.append(f"{name}: {part}")
            own.add(match.column)
    # What a column behind them told apart has what stood before it, too.
    for column in (OF_EACH & entry.cells.keys()) - own:
        for of in entry.of_one_cell:
            of.cells.setdefault(column, entry.cells[column])


def _days_of_each(cell: str, is_age: bool) -> list[str]:
    """The days or ages that a cell says, of each heater one; one of them may be that it never was. What is one day
    stays whole."""
    told = cell.strip()
    if len(_OF_WHICH.findall(told)) > 1:
        # "A: 5/25 B: never"
        return [part.strip(" ,;") for part in _OF_WHICH.split(told) if part.strip(" ,;")]
    for between in (r"\s*[;\r\n]+\s*", rf"\s+(?:[/&+]|{_AND})\s+", rf"\s*(?:[/;&+\r\n]|\b{_AND})\s*", r"\s*,\s+"):
        parts = [part for part in re.split(between, told) if part]
        dated = [bool(_HAS_YEAR.search(part)) or bool(_MONTH_ALONE.fullmatch(part)) for part in parts]
        are_days = any(dated) and all(
            is_dated or said.plainly(part).strip(" .") in said.NEVER or said.is_unknown(part)
            for part, is_dated in zip(parts, dated, strict=True)
        )
        if len(parts) > 1 and (are_days or (is_age and all(re.match(r"\d{1,2}\b", part) for part in parts))):
            return parts
    return [cell]


_TWO_FIGURES = re.compile(r"'?\d\d")
_AND = r"(?:and\b|und\b|u\.|et\b|y\b)"
_OF_WHICH = re.compile(r"(?<![^\W_])[A-D] ?: ?")
_MONTH_ALONE = re.compile(r"(0?[1-9]|1[0-2])[/.](\d\d|\d{4})")


def _own_kinds(entry: Entry, header: Iterable[str], cells: Iterable[str], matches: Mapping[str, Matched]) -> None:
    """Of heaters that something else in the row tells apart each its own kind, where one cell names as many."""
    for name, cell in zip(header, cells, strict=True):
        if matches.get(name, _NOTHING).column == "kind":
            kinds = [heater_said.kind(heater_said.as_meant(name, part)) for part in _PARTED.split(cell.strip())]
            if len(kinds) == 1 + len(entry.of_one_cell) and all(kinds):
                for of, guess in zip([entry, *entry.of_one_cell], kinds, strict=True):
                    of.cells |= {"kind": guess.kind, "vent": guess.vent} if guess else {}


_PARTED = re.compile(r"\s*(?:[/;&+]|\band\b|\bund\b)\s*")


def _own_sizes(entry: Entry, name: str, match: Matched, cell: str, how: How) -> None:
    """Two sizes in a cell are those of two heaters."""
    parts = _PARTED.split(cell.strip())
    counted = entry.said("count") in (None, len(parts))
    if not 1 < len(parts) <= MOST_IN_A_CELL or not counted or not all(re.match(r"\d{2,3}\b", one) for one in parts):
        return
    entry.unread.pop(name)
    entry.notes = [note for note in entry.notes if not note.startswith(f"{name}: ")]
    if not entry.of_one_cell:
        _told_apart(entry, len(parts))
    for of, part in zip([entry, *entry.of_one_cell], parts, strict=False):
        row_cells.read(of, name, match, part, how)


MOST_IN_A_CELL = 4
"""Heaters whose sizes stand in one cell; more figures are something else. Assumption."""


def _own_serials(entry: Entry, cell: str) -> None:
    """As many serial numbers as heaters are one each."""
    if said.is_unknown(cell):
        return
    parts = [part for part in re.split(r"\s*(?:[,;/&\r\n]|\band\b)\s*", cell) if part]
    if len(parts) > 1 and len(parts) == entry.said("count") and not entry.others:
        _told_apart(entry, len(parts))
    if 1 < len(parts) == 1 + len(entry.of_one_cell):
        for of, part in zip([entry, *entry.of_one_cell], parts, strict=True):
            # "E2207-118, -119": as the first one begins.
            of.cells["serial"] = f"{parts[0].rpartition('-')[0]}{part}" if part.startswith("-") else part


def _told_apart(entry: Entry, number: int) -> None:
    """So many of the same as entries of their own, since something is said of each."""
    entry.cells["count"] = 1
    own = {name: entry.cells[name] for name in {*OF_A_HEATER, "vent"} & entry.cells.keys() - OF_EACH}
    entry.of_one_cell += [Entry(entry.number, dict(own)) for _ in range(number - 1)]
    entry.others += entry.of_one_cell

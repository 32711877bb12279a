"""What a row of an office's list has from the rows above it: whose it is and where, and of which house it is a part."""

import re
from collections.abc import Iterable, Mapping

from aquifer.formats import said
from aquifer.formats.sheet import Matched
from aquifer.imports.entry import Entry

WHERE = {"customer", "address", "street"}
"""What says whose a row is, or where."""
_OF_THE_HOUSE = (
    "account", "customer", "address", "street", "town", "state", "postcode", "phone", "second_phone", "email",
    "softener", "well", "hardness", "pressure", "people", "latitude", "longitude",
)  # fmt: skip


def under(entry: Entry, cells: Iterable[str], matches: Mapping[str, Matched], heading: Entry | None) -> Entry | None:
    """A row that names a house of a customer, and those below it, which name its parts and no address. Returns: the
    heading that the next row stands under."""
    if any(match.column in ("address", "street") for match in matches.values()):
        return None
    own = entry.cells
    if "address" in own:
        is_alone = not own.keys() - {"customer", "address", "phone", "second_phone"}
        return entry if is_alone and "customer" in own and not entry.has_heater else None
    if heading and "phone" in heading.cells and not _IS_A_PART.match(said.plainly(own.get("customer") or "")):
        # A customer of whom no heater is known, and another behind.
        return None
    if heading and entry.has_heater and own.get("customer"):
        heading.cells["heads"] = True
        own["location"] = ", ".join(one for one in (own["customer"], own.get("location")) if one)
        own |= {name: heading.cells[name] for name in ("customer", "address")}
        own |= {
            name: heading.cells[name] for name in ("phone", "second_phone") if name in heading.cells.keys() - own.keys()
        }
        entry.notes += [note for note in heading.notes if note not in entry.notes]
    return heading


_IS_A_PART = re.compile(r"(apt|apartment|unit|flat|suite|ste|room|bldg|building|whg|wohnung|#)\b|#")
"""How a part of a house is called, below one that somebody is reached at."""


def head_their_parts(entries: list[Entry]) -> None:
    """A row of a customer without a heater heads those that name parts of theirs."""
    of_parts = {entry.said("customer") for entry in entries if entry.cells.pop("is_part", False)}
    for entry in entries:
        if entry.said("customer") in of_parts and not entry.has_heater and "location" not in entry.cells:
            entry.cells["heads"] = True


def as_above(entry: Entry, before: Entry) -> None:
    """A row that names a heater and nobody is of the house above it; so is one at the same address, and something
    behind it: "9 Weir St (shop)"."""
    if _is_at_the_same(entry, before):
        entry.cells["location"] = _street_of(entry)[len(_street_of(before)) :].strip(" ,()-")
        entry.above = before.above or before.number
        entry.cells = {name: before.cells[name] for name in _OF_THE_HOUSE if name in before.cells} | {
            name: value for name, value in entry.cells.items() if name not in ("address", "street")
        }
        return
    if entry.cells.keys() & WHERE or not any(own.has_heater for own in entry.heaters):
        return
    if before.cells.keys() & WHERE and "total" not in before.cells:
        entry.above = before.above or before.number
        entry.notes += [note for note in before.notes if said.is_gone(note)]
        entry.cells = {name: before.cells[name] for name in _OF_THE_HOUSE if name in before.cells} | entry.cells


def _is_at_the_same(entry: Entry, before: Entry) -> bool:
    """Whether a row that names nobody stands at the address above it, in a part of the house that it names alone."""
    own, there = _street_of(entry), _street_of(before)
    if not own or not there or entry.cells.keys() & {"customer", "account"} or not before.said("customer"):
        return False
    rest = own[len(there) :] if own.startswith(there) else ""
    return entry.has_heater and bool(re.fullmatch(r" ?[(,-] ?[^\W\d][^\d]*", rest))


def _street_of(entry: Entry) -> str:
    address = entry.said("address")
    return str(address.street if address else entry.said("street") or "")

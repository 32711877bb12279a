"""In which unit the cells of a column are written: by its name, by the cells that say one, by what can be so, else as
the company writes."""

import re
import statistics
from collections.abc import Iterable, Mapping

from aquifer.core.units import WRITTEN, Quantity, Unit
from aquifer.formats.cells import Column
from aquifer.formats.said import unit_behind
from aquifer.imports import column_names, entry
from aquifer.imports.column_names import plain


def written(
    column: Column,
    name: str,
    units: Mapping[Quantity, Unit],
    cells: Iterable[str] = (),
    header: Iterable[str] = (),
) -> str:
    """The unit that a column's name says, else the one that most of its cells do, else the one that the company writes
    in; where the names of the list's columns are in a tongue of no gallons, sizes are litres."""
    for word in reversed(plain(name).split()):
        for way in (word, column_names.UNITS.get(word, ""), f"°{word}", f"°{word}h"):
            if way in column.ways:
                return way
    cells = list(cells)
    if said_by_cells := _unit_of_cells(column, cells, units):
        return said_by_cells
    if column.name == "hardness" and (tongue := _hardness_of_the_tongue(header, cells, units)):
        return tongue
    if column.name == "size" and any(column_names.IN_LITRES.search(plain(own)) for own in header):
        return "l"
    for quantity in units:
        if WRITTEN.get(quantity) and list(WRITTEN[quantity]) == list(column.ways):
            way = entry.way_of(units, quantity)
            # What the program writes itself needs no word.
            return way if way in column.ways and way != next(iter(column.ways)) else ""
    return ""


def _hardness_of_the_tongue(header: Iterable[str], cells: list[str], units: Mapping[Quantity, Unit]) -> str:
    """The degree in which a hardness is told where a list's columns are named so. A company that writes degrees itself
    means its own, and what nobody's water has in degrees is told in the company's unit."""
    if entry.way_of(units, Quantity.HARDNESS) not in ("gpg", "mg/l") or _middle(cells) > HARDEST_GRAINS:
        return ""
    for unit, like in column_names.HARDNESS_OF_A_TONGUE:
        if sum(bool(like.search(plain(name))) for name in header) > 1:
            return unit
    return ""


def _unit_of_cells(column: Column, cells: list[str], units: Mapping[Quantity, Unit]) -> str:
    """The only unit that sizes of a column have behind them, where most have one: who writes it at each other tank
    means it at the rest. Of hardness a unit stands where it is another than the rest's. Figures that nobody's tank or
    water has in the company's unit are in the other."""
    bare, middle = _bare(cells), _middle(cells)
    if column.name == "hardness":
        # "17" beside "17 Clark" is the same water.
        unit_of = {re.sub(r"\D+$", "", cell): unit for cell in cells if (unit := unit_behind(cell, Quantity.HARDNESS))}
        same = {unit_of.get(cell, "") for cell in bare}
        if len(same) == 1 and (unit := same.pop()):
            return unit
        is_grains = entry.way_of(units, Quantity.HARDNESS) == "gpg"
        other = {*unit_of.values()} or {"ppm"}
        return other.pop() if is_grains and middle > HARDEST_GRAINS and len(other) == 1 else ""
    if column.name != "size":
        return ""
    told = [cell for cell in cells if re.search(r"\d", cell)]
    behind = [unit for cell in told if (unit := unit_behind(cell, Quantity.VOLUME))]
    if {*behind} <= {"l"} and middle > LARGEST_GALLONS and entry.way_of(units, Quantity.VOLUME) == "gal":
        return "l"
    return behind[0] if len({*behind}) == 1 and 2 * len(behind) >= len(told) and behind[0] in column.ways else ""


def _bare(cells: list[str]) -> list[str]:
    """Figures without a unit."""
    return [cell for cell in cells if re.fullmatch(r"\d+(?:[.,]\d+)?", cell)]


def _middle(cells: list[str]) -> float:
    """The median of the bare figures; 0 where there are none."""
    bare = _bare(cells)
    return statistics.median(float(cell.replace(",", ".")) for cell in bare) if bare else 0.0


HARDEST_GRAINS, LARGEST_GALLONS = 60.0, 125.0
"""What half of a list's waters and tanks are below if they are told in these. Assumption: a grain is 17 mg/L, and
water of 1000 mg/L is led into no house; a house's tank has 120 gallons at most."""

"""A cell that says where a house's water comes from, and what is done to it."""

import contextlib
import re

from aquifer.core.units import Quantity
from aquifer.formats import said
from aquifer.formats.cells import BadCell
from aquifer.formats.sheet import Matched
from aquifer.imports.entry import Entry, How
from aquifer.imports.figure_cells import LONGEST_BESIDE, read_figure


def read_softener(entry: Entry, name: str, text: str) -> None:
    """Keep whether there is a softener that works. Raises: BadCell."""
    plain = said.plainly(text)
    if _OUT_OF_USE.search(plain) or _BUILD.search(plain):
        entry.cells["softener"] = not _OUT_OF_USE.search(plain)
        entry.notes.append(f"{name}: {text}")
    elif re.match(r"soft\w*\W+(19|20)\d\d$", plain):
        # Since when it is there.
        entry.cells["softener"] = True
        entry.notes.append(f"{name}: {text}")
    else:
        entry.cells["softener"] = said.yes(text)


def read_supply(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    """Keep whether the water is a well's, with its softener and its hardness where they stand beside. Raises:
    BadCell."""
    cells = entry.cells
    # "gr 22" is 22 grains.
    plain = re.sub(r"^(gr|gpg|ppm) ?(\d+(?:[.,]\d+)?)\b", r"\2 \1", said.plainly(text[:LONGEST_BESIDE]))
    if _GRADE.fullmatch(plain):
        entry.notes.append(f"{name}: {text}")
        return
    if re.search(r"\bsoft(ened|ener)?\b", plain):
        is_out = re.search(r"\b(not?|un|without|w/o|kein\w*|sans)", plain) or _OUT_OF_USE.search(plain)
        is_out = is_out or _AT_A_TAP.search(plain)
        if is_out:
            entry.notes.append(f"{name}: {text}")
        else:
            cells.setdefault("softener", True)
    if harder := _HARDNESS.search(plain) or re.fullmatch(r"[2-9]|\d\d+|\d\d?[.,]\d", plain):
        with contextlib.suppress(BadCell):
            read_figure(entry, name, Matched("hardness", match.written), harder[0], how)
    if re.search(r"\b(iron|eisen|sulf\w*|mangan\w*|fe|h2s)\b", plain):
        # What else is in it.
        entry.notes.append(f"{name}: {text}")
    is_mains = re.search(
        r"\b(city|mains|muni|municipal|town|public|netz|stadt\w*|leitung\w*|offentlich\w*|reseau)\b", plain
    )
    is_well = re.search(r"\b(well|brunnen|bore(hole)?|bohrung|puits|forage|pozo)\b", plain)
    if is_well and is_mains:
        # Which of the two the heater has nobody says.
        entry.notes.append(f"{name}: {text}")
    elif is_well or is_mains:
        cells["well"] = bool(is_well)
    elif re.search(r"\brain|regenwasser|cistern|zisterne", plain):
        entry.notes.append(f"{name}: {text}")
    elif not cells.keys() & {"softener", "hardness"}:
        cells["well"] = said.yes(text)


_OUT_OF_USE = re.compile(
    r"\b(broken|out of order|off|bypass(ed)?|not (work|run|us|connect)\w*|unplugged|disconnected|"
    r"out(?! of)|dead|(no|out of|needs) salt|salt (is )?(empty|out)|defekt|hs|hors service|en panne)\b"
)
"""Of a softener that is there and does nothing."""
_AT_A_TAP = re.compile(
    r"\b(kitchen|cold|drinking|laundry|ice)\b.{0,12}\bonly\b|\bonly (the )?(kitchen|cold|drinking)\b"
)
"""Of one that no heater's water runs through."""
_BUILD = re.compile(r"\b(rental|rented|duplex|twin|simplex|metered|salt|works|working|demand)\b")
"""Of one that is there: how it is built or kept."""
_HARDNESS = re.compile(
    r"\d+(?:[.,]\d+)? ?(?:(?:gr?|gpg|grains?|ppm|mg/l|°? ?dh|°? ?fh)\b|°)|(?<=hart )\d+|"
    r"(?<=well )\d+|(?<=bore )\d+|"
    r"(?<=city )\d+|(?<=mains )\d+|(?<=well - )\d+|^\d+(?:[.,]\d+)?(?=,? soft)|(?<=hard )\d+|(?<=weich )\d+"
)
_UNIT = re.compile(r"(\d ?(?:gr?|gpg|grains?|ppm|mg/l|°? ?dh|°? ?fh))(?![^\W\d])")


def unit_of(text: str) -> str:
    """The unit behind the hardness in a cell of waters; empty where there is none."""
    found = _UNIT.search(said.plainly(text[:LONGEST_BESIDE]))
    return said.unit_behind(found[1], Quantity.HARDNESS) if found else ""


_GRADE = re.compile(
    r"(very |sehr |tres )?(hard|soft|medium|moderate|hart|weich|mittel(hart)?|dure|douce|moyenne?)( water)?"
)
"""How hard a water is, in a word that nobody measured."""

"""A cell that holds a whole card: the name in its first line, below it the street, the town, and how to reach them."""

import re

from aquifer.formats import said
from aquifer.formats.cells import BadCell
from aquifer.imports.entry import Entry

LINES = 3
"""Lines of a cell from which it is a card: a name, a street and something else."""
_STROKES = re.compile(r"\s+[/|]\s+")
"""Between the lines of a card that stands on one."""
_PLACE = re.compile(r"\d+\w? [^\W\d]|(rr|rfd|hc|po box|p\.o\. box|route|hwy|lot)\b\.? ?\d", re.IGNORECASE)
"""How a street begins, and what stands for one."""
_TO_WHOM = re.compile(r"(attn|att|c/o|contact|ask for|z\. ?hd)\b", re.IGNORECASE)
_BY_WHOM = re.compile(r"([^\d]*[^\W\d])[ :,]+(\(?\d{3}\)?[ .-]\d{3,4}(?:[ .-]\d{4})?)")
"""Below a street: whom to ask for, and their number."""
_LABEL = re.compile(r"^(tel|phone|ph|cell|mobile|fax|e-?mail|mail)[.: ]+", re.IGNORECASE)
_TOWN = re.compile(r"[^\d]*[^\W\d][^\d]*[ ,](\d{4,5}(-\d{4})?|[A-Z]{1,2}\d[\dA-Z]? ?\d[A-Z]{2})|\d{4,5} [^\W\d].*")
"""A town with its postcode behind or before it."""


def lines_of(cell: str) -> list[str]:
    """The lines of a cell that say something."""
    lines = [line for line in (re.sub(r"\s+", " ", one).strip(" ,;") for one in re.split(r"[\r\n]+", cell)) if line]
    return _STROKES.split(lines[0]) if len(lines) == 1 else lines


def is_card(cell: str) -> bool:
    """Whether a cell holds a card: lines enough, the first a name, and one below it that begins or ends as a street or
    a town does."""
    lines = lines_of(cell)
    # A name and a street with a stroke between them are as much.
    least = LINES if re.search(r"[\r\n]", cell.strip()) else 2
    return (
        len(lines) >= least
        and not re.match(r"\d", lines[0])
        and any(_TOWN.fullmatch(line) or _PLACE.match(line) for line in lines[1:])
    )


def read_card(entry: Entry, name: str, cell: str) -> None:
    """Whose it is, where, and how they are reached; what is none of it is a note."""
    first, *rest = lines_of(cell)
    cells = entry.cells
    cells.setdefault("customer", said.person(first))
    street: list[str] = []
    for line in rest:
        bare = _LABEL.sub("", line)
        if "@" in bare and " " not in bare:
            cells.setdefault("email", bare[:254])
        elif number := _telephone(bare):
            entry.keep_number(name, number)
        elif (street or "address" in cells) and (reached := _BY_WHOM.fullmatch(bare)):
            entry.keep_number(name, reached[2])
            entry.notes.append(f"{name}: {reached[1]}")
        elif _TO_WHOM.match(line):
            entry.notes.append(f"{name}: {line}")
        elif _TOWN.fullmatch(line) or (street and "town" not in cells and not re.search(r"\d", line)):
            there = said.address(f"-, {line}")
            cells["town"] = there.town
            for of, beside in (("state", there.state), ("postcode", there.postcode)):
                if beside:
                    cells.setdefault(of, beside)
        elif len(street) > 1 or "town" in cells:
            entry.notes.append(f"{name}: {line}")
        else:
            street.append(line)
    if street:
        whole = said.Address(", ".join(street)[:200])
        cells.setdefault("address", said.address(street[0]) if len(street) == 1 and "town" not in cells else whole)


def _telephone(text: str) -> str:
    """A line that is a telephone number and nothing else."""
    try:
        number, beside = said.phone(text)
    except BadCell:
        return ""
    return "" if beside else number

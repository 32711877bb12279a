"""A cell of a heater's parts: its rod, its relief valve, its expansion tank; how each was found is a note, and since
when it is there is kept."""

import contextlib
import re
from collections.abc import Callable

from aquifer.core.units import Quantity
from aquifer.core.vocabulary import Alloy
from aquifer.formats import day_said, heater_said, said
from aquifer.formats.cells import BadCell, Cell
from aquifer.formats.sheet import Matched
from aquifer.imports.entry import Entry, How


def read_part(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    """Keep what a cell says of one of the parts in ``PARTS``. Raises: BadCell."""
    PARTS[match.column](entry, name, match, text, how)


def _read_valve(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    plain = said.plainly(text)
    if _OTHER_VALVE.search(plain):
        entry.notes.append(f"{name}: {text}")
    elif renewed := _renewed_on(text, how):
        entry.cells["relief_valve"] = renewed
        entry.notes.append(f"{name}: {text}")
    elif (
        not _IN_ORDER.match(plain)
        and not _AS_FOUND.search(plain)
        and not _LOOKED_AT.search(said.plainly(f"{name} {text}"))
        and (re.search(r"\d", text) or said.is_unknown(text))
    ):
        try:
            entry.cells["relief_valve"] = day_said.day(_CALLED_SO.sub("", text), how.today, how.day_first)
        except BadCell:
            if _A_DAY.search(text) or not re.search(r"[^\W\d]{3}", text):
                raise
            # "1 weeping"
            entry.notes.append(f"{name}: {text}")
    else:
        # How it is or was found, and not since when it is there.
        entry.notes.append(f"{name}: {text}")


def _read_rod(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    plain = said.plainly(text)
    if OF_A_ROD_AND_MORE.search(said.plainly(name)):
        _read_rod_among(entry, name, match, text, how)
        return
    is_looked_at = _LOOKED_AT.search(said.plainly(f"{name} {text}")) or _IN_ORDER.match(plain)
    if len({*_OF_SEVERAL.findall(plain)}) > 1:
        # What is said of one is not so of the other.
        entry.notes.append(f"{name}: {text}")
        metal = _metal(text, match, how)
        entry.cells |= {"anode": heater_said.RodSaid(metal)} if metal else {}
        return
    if renewed := _renewed_on(text, how):
        entry.cells["anode"] = heater_said.RodSaid(_metal(text, match, how), renewed.on)
        entry.notes.append(f"{name}: {text}")
        return
    if (
        _HOW_MUCH.fullmatch(plain)
        or _NEW_ALONE.fullmatch(plain)
        or (is_looked_at and _A_DAY.search(text) and not re.search(_RENEWED, plain))
    ):
        # How much of it was left, or when somebody looked at it, and not since when it is there.
        entry.notes.append(f"{name}: {text}")
        return
    if _IN_WHAT_STATE.search(said.plainly(name)) and not _OF_A_ROD.search(plain) and not _USED_UP.match(plain):
        entry.notes.append(f"{name}: {text}")
        return
    if re.search(r"\d ?%", text):
        # The same beside what it is made of.
        entry.notes.append(f"{name}: {text}")
    rod, before = _rod(entry, name, match, text, how), entry.said("anode")
    entry.cells["anode"] = rod.beside(before) if rod and before else rod or before


_IN_WHAT_STATE = re.compile(r"\b(zustand|condition|state|etat|stand)\b")
"""A column of how a rod was found."""
_USED_UP = re.compile(r"(verbr|aufgebr|used up|gone$|weg$|powered|fremd|keine|none|ohne|epuis|gastad)")
_OF_SEVERAL = re.compile(
    r"(?:\b(?:unit|nr\.?|wh)|#) ?([1-9])\b|(?<!\d)([1-9])(?:\.|er|e|ere) (?=[^\W\d])|(?<!\w)([A-D]): "
)


def _read_rod_among(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    """What remarks say of a rod by its name or its metal; they stay as they are."""
    entry.notes.append(f"{name}: {text}")
    for part in re.split(r"\s*[,;]\s*", text):
        if _OF_A_ROD.search(said.plainly(part)) and "anode" not in entry.cells:
            with contextlib.suppress(BadCell):
                alone = re.sub(r"^(anode\w*|rod)\W+(?=\w)", "", part, flags=re.IGNORECASE)
                _read_rod(Entry(0, entry.cells), "rod", match, alone, how)


OF_A_ROD_AND_MORE = re.compile(r"\b(anode\w*|rod)\b.*\b(bemerk\w*|remarks?|notes?|comments?|condition|misc)\b")
"""A column of remarks that is called by the rod, too."""
_OF_A_ROD = re.compile(r"anode|\brod\b|^(mg|mag|magnesium|alu\w*|al/zn)\b|fremdstr|titan|opfer")


def _read_vessel(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    if _OF_A_PRESSURE.search(said.plainly(f"{name} {text}")) and re.search(r"\d", text):
        # What it is filled to, and not how large it is.
        entry.cells["expansion_tank"] = True
        entry.notes.append(f"{name}: {text}")
    elif _FAILED.match(said.plainly(text)):
        # There is one, however it is.
        entry.cells["expansion_tank"] = True
        entry.notes.append(f"{name}: {text}")
    else:
        _read_expansion_tank(entry.cells, text, match.written or "l")


PARTS: dict[str, Callable[[Entry, str, Matched, str, How], None]] = {
    "relief_valve": _read_valve, "anode": _read_rod, "expansion_tank": _read_vessel,
}  # fmt: skip
"""How a cell of each is read."""


def _rod(entry: Entry, name: str, match: Matched, text: str, how: How) -> heater_said.RodSaid | None:
    """What is said of a rod; of more than that its metal, and the rest as a note. Raises: BadCell."""
    try:
        return heater_said.rod(text, how.today, how.day_first, match.written or "mm")
    except BadCell:
        if not (metal := _metal(text, match, how)):
            raise
        entry.notes.append(f"{name}: {text[:120]}")
        return heater_said.RodSaid(metal)


def _metal(text: str, match: Matched, how: How) -> str:
    """What a rod is made of, by the first word that is said of it; empty where that is something else."""
    first = re.match(r"[^\W\d]+(?:[/-][^\W\d]+)?", text)
    with contextlib.suppress(BadCell):
        found = heater_said.rod(first[0], how.today, how.day_first, match.written or "mm") if first else None
        has_none = found and found.alloy == Alloy.NONE
        return found.alloy if found and not (has_none and re.search(_RENEWED, said.plainly(text))) else ""
    return ""


_AS_FOUND = re.compile(r"\b(ok|seized|stuck|leak\w*|drip\w*|weep\w*|tropft|undicht)\b")
_CALLED_SO = re.compile(r"^(t ?& ?p|tpr?v?)s?( all| both)?\W+(?=\W?\d)", re.IGNORECASE)
"""A valve by its name, before the day since when it is there."""
_NEW_ALONE = re.compile(r"(new|neuf|neuve|neu)(\W+(new|neu))*( rods?)?")
"""That it is new, and since when nobody says."""
_HOW_MUCH = re.compile(
    r"\d{1,3} ?%|(half|\d/\d|\d{1,3} ?%) ?(gone|left|used|eaten|good|ok|remain\w*|verbr\w*\.?|weg|ubrig|rest|usee?)"
)
_OF_A_PRESSURE = re.compile(r"\b(psi|bar|kpa|pressure|vordruck)\b")
_FAILED = re.compile(r"(bad|dead|failed|waterlogged|full|defekt|hs)\b")
_OTHER_VALVE = re.compile(r"^(?!.*\b(?:t ?& ?p|tprv?|relief)\b).*\bprv\b")
"""Of the pressure, which is another than that of the tank."""
_LOOKED_AT = re.compile(
    r"passing|test|check|chk|inspect|exercis|eased|lifted|tripped|operated|gepruft|prufung|kontroll|controle|verif|revisad|probad"
)
"""Said of a part that was there before, and of the column of the days on which it was looked at."""


def _renewed_on(text: str, how: How) -> day_said.When | None:
    """The only day of a cell that says more than that: what was found, and that the part was renewed then."""
    plain = said.plainly(text)
    days = _DAYS.findall(plain)
    if len(days) != 1 or not _RENEWED.search(plain) or len(re.findall(r"[^\W\d]{2,}", plain)) < _MORE_THAN_THAT:
        return None
    with contextlib.suppress(BadCell):
        return day_said.day(days[0], how.today, how.day_first)
    return None


_DAYS = re.compile(r"\d{4}-\d\d-\d\d|\d{1,2}[./-](?:\d{1,2}[./-])?(?:\d{4}|'?\d\d)\b|\b(?:19|20)\d\d\b")
_RENEWED = re.compile(
    r"(?<!not )(?<!nicht )(?<!n\. )"
    r"\b(ersetzt|erneuert|getauscht|replaced|repl?'?d|repl?|renewed|changed|new|neu)\b(?! by| next)"
)
_MORE_THAN_THAT = 2
"""Words of a cell that says what was found, and that it was renewed."""
_A_DAY = re.compile(r"\b(19|20)\d\d\b|\d[/.-]'?\d\d\b|[^\W\d]{3}[. ]+'?\d\d\b")


def _read_expansion_tank(cells: dict[str, Cell], text: str, unit: str) -> None:
    """Whether there is one: said, or by its size, or by the name of its build."""
    size = re.search(r"\d+([.,]\d+)?( ?[a-z]+)?", text, re.IGNORECASE)
    try:
        cells["expansion_tank"] = bool(_IN_ORDER.match(said.plainly(text))) or said.yes(text)
    except BadCell:
        if not size:
            raise
        cells["expansion_tank"] = True
    if size and cells["expansion_tank"] and (size[2] or (size[0] == text != "1")):
        with contextlib.suppress(BadCell):
            found = said.amount(size[0], Quantity.VOLUME, unit, 0.5, 500.0)
            cells["expansion_tank_l"] = found.value if found else None


_IN_ORDER = re.compile(r"(ok|good|fine|io|i\. ?o\.|bon etat|gut)(?!\w)")

"""A cell of sizes, temperatures, pressures or hardness, with all that people write beside the figure."""

import contextlib
import re
from collections.abc import Callable

from aquifer.core.bounds import bound
from aquifer.core.units import KW_PER_KBTU_H, WRITTEN, Quantity
from aquifer.formats import said
from aquifer.formats.cells import BadCell
from aquifer.formats.sheet import Matched
from aquifer.imports.entry import BOUNDS, Entry, How, way_of

LONGEST_BESIDE = 160
"""Letters of a figure with whatever people write beside it; longer is a story. Assumption."""


def read_figure(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    """Keep the figure of a cell; what it says besides is kept with it, or as a note. Raises: BadCell."""
    column = match.column
    kind, low, high = BOUNDS[column]
    if len(text) > LONGEST_BESIDE:
        raise BadCell(f"{text[:40]!r} is no figure")
    if (
        len(text) < said.LONGEST_FIGURE
        and not (column == "hardness" and (_is_of_a_softener(text) or _WELL.search(text)))
        and (beside := _SAID_BEHIND.fullmatch(text) or _WORDS_BEHIND.fullmatch(text))
    ):
        entry.notes.append(f"{name}: {text}")
        text = beside[1]
    figure = _BESIDE[column](entry, name, text)
    if figure is None:
        return
    found = said.amount(figure, kind, match.written or way_of(how.units, kind), low, high)
    if found is not None:
        entry.cells[column] = found.value
        if column == "size" and found.count > 1:
            entry.cells["count"] = found.count


def _is_of_a_softener(text: str) -> bool:
    plain = said.plainly(text)
    likes = (_SOFT_ALONE, _LEFT_BY_ONE, _ZONE)
    return bool(_SOFTENED_TO.fullmatch(text) or any(like.fullmatch(plain) for like in likes))


def read_input(entry: Entry, name: str, match: Matched, text: str) -> None:
    """Keep what a heater puts in, in kW. Raises: BadCell for what is no such figure, or what none puts in."""
    if said.is_unknown(text):
        return
    found = _POWER.fullmatch(said.plainly(text)) if len(text) < said.LONGEST_FIGURE else None
    if not found:
        raise BadCell(f"{text[:40]!r} is no input of a heater")
    kw = _kw(found, match.written)
    most = bound("heater.input_kw").high
    if not 0 < kw <= most:
        raise BadCell(f"{text[:40]!r} is more than any heater puts in, which is {most:g} kW, or nothing")
    entry.cells["input"] = round(kw, 2)
    if found["each"] or found["many"]:
        entry.notes.append(f"{name}: {text}")


def _kw(found: re.Match[str], written: str) -> float:
    """The figure of a power in kW, by the unit behind it; else by the column's, where one can be so."""
    figure, unit = _figure(found["figure"]), found["unit"] or ""
    if unit.startswith(("w", "kw")):
        return figure if unit.startswith("k") else figure / 1000
    if unit or found["thousand"]:
        # A thousand BTU is an MBH; nobody writes a k before its letter M.
        is_thousands = found["thousand"] or unit.startswith(("m", "k"))
        return KW_PER_KBTU_H * (figure if is_thousands else figure / 1000)
    if figure >= LEAST_BTU_H:
        return KW_PER_KBTU_H * figure / 1000 if written != "kw" else figure / 1000
    if figure >= LEAST_W:
        return figure / 1000
    return KW_PER_KBTU_H * figure if written == "kbtu/h" and figure >= LEAST_KBTU_H else figure


def _figure(text: str) -> float:
    """A figure with points or commas: before three figures they part thousands."""
    return float(re.sub(r"[.,](?=\d{3}(?!\d))", "", text).replace(",", "."))


POWERS = tuple(WRITTEN[Quantity.POWER])
LEAST_W, LEAST_BTU_H, LEAST_KBTU_H = 1000.0, 10_000.0, 25.0
"""From where a figure without a unit is in watts; in BTU an hour, of which no heater has fewer; and in thousands of
those where these are written, below which it is an element's in kW. Assumption, from plates of household heaters."""
_POWER = re.compile(
    r"(?:(?P<many>\([2-9]\)|[2-9] ?[x\u00d7@]) ?)?(?P<figure>\d[\d.,]*) ?(?P<thousand>k(?!w))? ?"
    r"(?P<unit>btuh?|mbh|mbtuh?|w(?:atts?)?|kw)?(?: ?/ ?h(?:r|our)?| input)?\.?(?P<each> (?:ea|each|je)\.?)?"
)
"""What a heater puts in: "199 MBH", "199k ea", "4500 W", "(2) 4.5 kW", "40,000 BTU/h"."""


def _size(entry: Entry, name: str, text: str) -> str | None:
    if re.fullmatch(r"0+([.,]0+)?", text):
        # Without a tank.
        return None
    if _HEAT_INPUT.fullmatch(said.plainly(text)):
        # What a tankless one has in place of a size.
        entry.notes.append(f"{name}: {text}")
        with contextlib.suppress(BadCell):
            read_input(Entry(0, entry.cells), name, Matched("input"), text)
        return None
    if watts := _WATTS.fullmatch(text):
        entry.notes.append(f"{name}: {text}")
        return watts[1]
    return text


def _setpoint(entry: Entry, name: str, text: str) -> str | None:
    bare = text.strip(" !")
    if several := _AT_TIMES.fullmatch(bare):
        entry.notes.append(f"{name}: {text}")
        return several[1]
    if mode := _MODE.match(bare):
        entry.notes.append(f"{name}: {text}")
        return bare[mode.end() :]
    if _SETTING.fullmatch(bare):
        entry.cells["control_setting"] = bare
        return None
    if mixed := _MIXED.fullmatch(bare):
        # Stored hotter than it comes out of the taps.
        entry.notes.append(f"{name}: {text}")
        return mixed[1]
    return text


def _pressure(entry: Entry, name: str, text: str) -> str:
    # A pump's switch has two pressures, and the house sees the higher.
    text = re.sub(r"^(?:prv|dm|regulator)\W*(?:set )?(?:@|at|to|auf)?\W*(?=\d)", "", text, flags=re.IGNORECASE)
    return re.sub(r"^(?:tank )?(\d\d) ?[/-] ?(?=\d\d\b)", "", _without_well(entry, text))


def _hardness(entry: Entry, name: str, text: str) -> str | None:
    if _ZONE.fullmatch(said.plainly(text)) or (re.fullmatch(r"\d", text) and re.search(r"zone|area", name.lower())):
        # Of a class of waters, and no figure of this one.
        entry.notes.append(f"{name}: {text}")
        return None
    text = _without_well(entry, text)
    if entry.cells.get("well") and not re.search(r"\d", text):
        entry.notes.append(f"{name}: {text}")
        return None
    if before := _SOFTENED_TO.fullmatch(text):
        # As it comes, and as the softener leaves it.
        entry.cells.setdefault("softener", True)
        entry.notes.append(f"{name}: {text}")
        return before[1]
    if (parted := _BEFORE_AND_BEHIND.fullmatch(text)) and float(parted[1]) > LEFT_OF_IT * float(parted[2]):
        entry.cells.setdefault("softener", True)
        entry.notes.append(f"{name}: {text}")
        return parted[1]
    if before := _SOFT_WAS.fullmatch(text) or _AFTER_AND_BEFORE.fullmatch(text):
        entry.cells.setdefault("softener", True)
        entry.notes.append(f"{name}: {text}")
        return before[1] or before[2]
    if left := _LEFT_BY_ONE.fullmatch(said.plainly(text)):
        entry.cells.setdefault("softener", True)
        entry.notes.append(f"{name}: {text}")
        return left[1]
    if _SOFT_TO.fullmatch(said.plainly(text)):
        # What a softener leaves of it, where a hardness is asked for.
        entry.cells.setdefault("softener", True)
        entry.notes.append(f"{name}: {text}")
        return None
    if graded := _GRADED.fullmatch(text):
        return graded[1]
    if more := _MORE_OF_WATER.fullmatch(text):
        entry.notes.append(f"{name}: {text}")
        return more[1]
    if soft := _SOFTENER_BESIDE.search(text):
        entry.cells.setdefault("softener", True)
        text = text.replace(soft[0], " ").strip(" ()-,")
    if _SOFT_ALONE.fullmatch(said.plainly(text)):
        # What the heater gets, and not what comes.
        entry.cells.setdefault("softener", True)
        entry.notes.append(f"{name}: {text}")
        return None
    if said.plainly(text) in _MAINS:
        entry.cells.setdefault("well", False)
        return None
    return text


def _without_well(entry: Entry, text: str) -> str:
    """A figure of water without the word that it is that of a well."""
    if well := _WELL.search(text):
        entry.cells["well"] = True
        return text.replace(well[0], " ").strip(" ()-,")
    return text


_BESIDE: dict[str, Callable[[Entry, str, str], str | None]] = {
    "size": _size, "setpoint": _setpoint, "pressure": _pressure, "hardness": _hardness,
}  # fmt: skip
"""What is read beside each figure; None where there is none."""
_SAID_BEHIND = re.compile(r"(.*\d.*?) ?(?:\((?!(?:x ?)?\d).*[^\W\d].*\)| [-\u2013] [^\W\d].*)")
"""A figure with something in brackets or behind a dash that does not count."""
_WORDS_BEHIND = re.compile(
    r"(\d+(?:[.,]\d+)? ?(?:psi|bar|kpa|°? ?[cf]|gal(?:lons?)?|l|lit(?:er|re)s?|gpg|ppm)?)(?: ?[,+] ?|,? )"
    r"(?:w/o?(?= ?\w)|n\. (?=[^\W\d])|(?:no|not|nach|hinter|with|without|low|high|sans|avec|ohne|mit|"
    r"dm|short|tall|lowboy|wkly|weekly|cycle|"
    r"measured|est|static|when|max|min|heat pump)\b).*",
    re.IGNORECASE,
)
"""A figure with words behind it that are no unit, and say how it comes to be so."""
_WATTS = re.compile(r"(.+?) ?/ ?\d[\d.,]* ?k?w(?:atts?)?", re.IGNORECASE)
_HEAT_INPUT = re.compile(r"\d[\d,.]*( ?k? ?(btuh?|mbh|kw)(/hr?)?|k| ?gpm| ?l/min)\.?( (ea|each))?")
_SETTING = re.compile(
    r"(stufe ?(?:\d|[IVX]{1,3})|stellung ?\d|[A-E]|hot|warm|low|med|medium|high|vacation|pilot)( ?\([A-E]\))?",
    re.IGNORECASE,
)
"""What is marked on a control that has no degrees."""
_MIXED = re.compile(
    r"(\d{2,3}) ?(?:(?:/|->|\u2192|to) ?\d{2,3}\b.*\bmix\w*|mix\w*( down)? to \d{2,3}\b).*", re.IGNORECASE
)
_AT_TIMES = re.compile(r"(\d{2,3}) ?[/(] ?(?:\d ?x\b.*|[^\W\d].*|\d{2,3} [^\W\d].*)(?<!mix)(?<!mixed)(?<!mixing)")
"""As it is set, and as it is at times."""
_MODE = re.compile(r"(?:hybrid|eco\w*|hp|wp|auto|vac\w*)\W+(?=\d{2,3}\b)", re.IGNORECASE)
"""How a heat pump runs, before its degrees."""
_SOFT_TO = re.compile(
    r"soft(ened)?( to)?[ :=-]*[0-3]([.,]\d)?( ?(gpg|gr|grains?))?|"
    r"(idem |dto\.? |same )?(softened to|adouci\w* a|enth\w*\.? auf) ?\d+([.,]\d+)?( ?\W? ?[a-z]{1,3})?"
)
_LEFT_BY_ONE = re.compile(
    r"(\d+(?:[.,]\d+)?[^()\d]*) ?\((?:softener|softened|soft|entharter|enth\.?|adouci\w*)\W*\d[^()]*\)"
)
"""As it comes, and in brackets what a softener leaves of it."""
_ZONE = re.compile(r"\d ?[-\u2013:=] ?(very )?(hard|soft|medium|moderate|hart|weich|mittel)( water)?")
_SOFT_WAS = re.compile(r"soft(?:ened)?\W+(?:was|raw|before|from|mains)\W*(\d[^()]*?)\)?()", re.IGNORECASE)
"""What it was before a softener was put in."""
_AFTER_AND_BEFORE = re.compile(
    r"\d+(?:[.,]\d+)? ?(?:after|soft)\W+(\d+(?:[.,]\d+)?) ?(?:before|raw|in)|"
    r"(?:soft|after)\W*\d+(?:[.,]\d+)?\W+(?:raw|before)\W*(\d+(?:[.,]\d+)?)",
    re.IGNORECASE,
)
"""Behind a softener, and as it comes."""
_WELL = re.compile(r"\b(well|brunnen|bore|pozzo|pozo|puits|forage)\b", re.IGNORECASE)
_MAINS = {"city", "mains", "municipal", "muni", "town"}
_SOFTENER_BESIDE = re.compile(r"\b(w/|with|has) ?(a )?soft(e?ner)?\b", re.IGNORECASE)
_SOFTENED_TO = re.compile(
    r"(.*\d.*?)(?: raw,?|(?: raw)? ?(?:->|=>|\u2192|/)) ?\d+(?:[.,]\d+)?\b.*\b(?:soft|enth|adouc).*", re.I
)
_SOFT_ALONE = re.compile(
    r"\d+([.,]\d+)? ?(gpg|gr|ppm|mg/l)? ?\(?soft(ened)?\)?|softened(\W+\d+([.,]\d+)?)?|\(?w/ ?soft(ener)?\)?|"
    r"(weich )?\(?enth(art\w*)?\.?\)?|(douce )?\(?adouci\w*\)?|descalcificad\w*|ablandad\w*|ontharder"
)
_BEFORE_AND_BEHIND = re.compile(r"(\d+(?:\.\d+)?) ?/ ?(\d(?:\.\d+)?)")
LEFT_OF_IT = 3
"""Of two figures of a water the second is behind a softener where the first is so many times as much. Assumption."""
_GRADED = re.compile(
    r"(?:very )?(?:hard|soft|mod(?:erate)?|medium|hart|weich|mittel)[ ,:(]+(\d+(?:[.,]\d+)?.*?)\)?", re.I
)
_MORE_OF_WATER = re.compile(
    r"(\d+(?:[.,]\d+)? ?(?:gpg|grains?|gr|ppm|mg/l|°? ?[df]h))(?: raw| hardness)?\s*(?:[/,;+]|\b(?:and|with)\b)\s*"
    r"(?=.*(?:fe\b|iron|mn\b|tds|ph\b|chlor|sulf|h2s)).*",
    re.IGNORECASE,
)
"""A hardness, and what else was found in the water."""

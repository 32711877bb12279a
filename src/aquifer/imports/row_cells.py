"""One cell of a row of an office's own list, as it is understood; what cannot be read is a ``BadCell``."""

import contextlib
import datetime
import re
from dataclasses import replace

from aquifer.core.bounds import bound
from aquifer.core.kinds import HeaterKind
from aquifer.core.units import Quantity
from aquifer.formats import day_said, heater_said, said
from aquifer.formats.cells import BadCell, Cell
from aquifer.formats.sheet import Matched
from aquifer.imports.entry import BOUNDS, UNKNOWN, Entry, How
from aquifer.imports.figure_cells import read_figure


def read(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    column = match.column
    cells = entry.cells
    if column == "note":
        own = said.plainly(name)
        if own.replace("_", " ") in _STANDING and _OUT_OF_CARE.search(said.plainly(text)):
            cells["gone"] = f"{name}: {text}"
        entry.notes.append(text if own in _REMARKS else f"{name}: {text}")
    elif column in BOUNDS:
        read_figure(entry, name, match, text, how)
    elif column == "kind" and (
        _OTHER_MACHINE.match(said.plainly(text))
        or (_NO_HEATER.fullmatch(said.plainly(text)) and not heater_said.kind(text))
    ):
        cells["gone"] = f"{name}: {text}"
        entry.notes.append(f"{name}: {text}")
    elif column == "kind":
        first, *others = _each_heater(text)
        _read_kind(entry, name, match, first, how)
        for other in others:
            entry.of_one_cell.append(Entry(entry.number))
            _read_kind(entry.of_one_cell[-1], name, match, other, how)
        last = entry.of_one_cell[-1] if others else entry
        if re.search(r"\b(both|all|each|beide|alle)\b[^,;]*\d{4}", text) and "installed" in last.cells:
            # Said behind the last of them.
            for of in (entry, *entry.of_one_cell):
                of.cells.setdefault("installed", last.cells["installed"])
        entry.others += entry.of_one_cell
    elif column == "customer" and _OF_BEFORE.match(said.plainly(text)):
        cells["gone"] = f"{name}: {text}"
        entry.notes.append(f"{name}: {text}")
    elif column == "customer" and said.plainly(text) in _NO_NAME:
        pass
    elif column == "customer" and said.GONE.fullmatch(said.plainly(text).strip("()[]. ")):
        cells["gone"] = f"{name}: {text}"
        entry.notes.append(f"{name}: {text}")
    elif column == "customer" and said.is_nobody(text):
        cells["nobody"] = True
        entry.notes.append(f"{name}: {text}")
    elif column == "customer":
        _read_customer(entry, name, text)
    elif column == "address":
        cells["address"] = said.address(text.replace(";", ","))
    elif column == "town":
        _read_town(cells, text)
    elif column in ("phone", "second_phone"):
        _read_phones(entry, name, column, text)
    elif column == "email":
        if "@" in text and " " not in text:
            cells["email"] = text[:254]
        elif not said.is_unknown(text) and said.plainly(text) not in ("none", "no"):
            raise BadCell(f"{text[:40]!r} is no address for mail")
    elif column == "installed":
        if _OF_WEEKS.search(said.plainly(name).replace("_", " ")) and re.match(r"\d{1,2} ?[/.-] ?\d\d", text):
            text = f"week {text}"
        cells["installed"] = (day_said.age if match.written == "age" else day_said.day)(text, how.today, how.day_first)
        _keep_what_is_beside(entry, name, text)
    elif column == "last_flush":
        _read_flush(entry, name, text, how)
    elif column == "relief_valve" and _OTHER_VALVE.search(said.plainly(text)):
        entry.notes.append(f"{name}: {text}")
    elif column in ("relief_valve", "anode") and (renewed := _renewed_on(text, how)):
        cells[column] = heater_said.RodSaid(fitted_on=renewed.on) if column == "anode" else renewed
        entry.notes.append(f"{name}: {text}")
    elif column == "relief_valve":
        if (
            not _IN_ORDER.match(said.plainly(text))
            and not _LOOKED_AT.search(said.plainly(f"{name} {text}"))
            and (re.search(r"\d", text) or said.is_unknown(text))
        ):
            cells["relief_valve"] = day_said.day(text, how.today, how.day_first)
        else:
            # How it is or was found, and not since when it is there.
            entry.notes.append(f"{name}: {text}")
    elif column == "expansion_tank":
        if _OF_A_PRESSURE.search(said.plainly(f"{name} {text}")) and re.search(r"\d", text):
            # What it is filled to, and not how large it is.
            cells["expansion_tank"] = True
            entry.notes.append(f"{name}: {text}")
        else:
            _read_expansion_tank(cells, text, match.written or "l")
    elif column == "softener":
        if re.search(r"\b(broken|out of order|off|bypass(ed)?|defekt|hs|hors service|en panne)\b", said.plainly(text)):
            cells["softener"] = False
            entry.notes.append(f"{name}: {text}")
        else:
            cells["softener"] = said.yes(text)
    elif column == "well" and _GRADE_OF_WATER.fullmatch(said.plainly(text)):
        entry.notes.append(f"{name}: {text}")
    elif column == "well":
        plain = said.plainly(text)
        if re.search(r"\bsoft(ened|ener)?\b", plain) and not re.search(r"\b(not?|un|without|w/o|kein\w*|sans)", plain):
            cells.setdefault("softener", True)
        if harder := _HARDNESS_BESIDE.search(plain) or re.fullmatch(r"[2-9]|\d\d+", plain):
            with contextlib.suppress(BadCell):
                read_figure(entry, name, Matched("hardness"), harder[0], how)
        is_mains = re.search(r"\b(city|mains|muni|municipal|town|public)\b", plain)
        if re.search(r"\b(well|brunnen)\b", plain) or is_mains:
            cells["well"] = not is_mains or bool(re.search(r"\b(well|brunnen)\b", plain))
        elif not cells.keys() & {"softener", "hardness"}:
            cells["well"] = said.yes(text)
    elif column == "apartment":
        if not said.is_unknown(text):
            bare = re.fullmatch(r"[\w-]+", text) and not re.match(r"(apt|unit|ste|suite|floor)\b", text, re.IGNORECASE)
            is_line = re.search(r"addr|line|street", said.plainly(name))
            cells["apartment"] = f"{name} {text}" if bare and not is_line else text
    elif column in ("latitude", "longitude"):
        most = bound(f"place.{column}").high
        at = re.fullmatch(r"-?\d{1,3}(\.\d+)?", text.replace(",", "."))
        if not said.is_unknown(text) and (not at or abs(float(at[0])) > most):
            raise BadCell(f"{text[:40]!r} is no {column} from {-most:g} to {most:g}")
        if at and float(at[0]):
            cells[column] = float(at[0])
    elif column == "count" and said.plainly(text) in {*_MARKS, "n", "no", "nein", "non", "0"}:
        # Whether there is one.
        cells["count"] = int(said.plainly(text) in _MARKS)
    elif column == "count":
        if (number_said := said.number(text, 0, 50)) is not None:
            cells["count"] = round(number_said)
    elif column == "people":
        cells["people"] = said.number(text, 0, 10_000)
    elif column == "anode" and (
        (_LOOKED_AT.search(said.plainly(f"{name} {text}")) or _IN_ORDER.match(said.plainly(text)))
        and _A_DAY.search(text)
        and not re.search(_RENEWED, said.plainly(text))
    ):
        # When somebody looked at it, and not since when it is there.
        entry.notes.append(f"{name}: {text}")
    elif column == "anode":
        if re.search(r"\d ?%", text):
            # How much of it was left, beside what it is made of.
            entry.notes.append(f"{name}: {text}")
        elif _HOW_MUCH.fullmatch(said.plainly(text)):
            entry.notes.append(f"{name}: {text}")
            return
        rod, before = _rod(entry, name, match, text, how), entry.said("anode")
        cells["anode"] = rod.beside(before) if rod and before else rod or before
    elif column == "make_and_model":
        if found_serial := _SERIAL_BESIDE.search(text):
            cells.setdefault("serial", found_serial[1])
            text = text[: found_serial.start()].strip()
        if len(parts := re.split(r"\s*/\s*|\s*\|\s*", text)) == _IN_ONE and re.search(
            r"serial|s n\b|s/n", said.plainly(name)
        ):
            if not said.is_unknown(parts[2]):
                cells.setdefault("serial", parts[2])
            text = " ".join(part for part in parts[:2] if not said.is_unknown(part))
        if not said.is_unknown(text):
            cells["maker"], _, cells["model"] = (part.strip() for part in _make(text).partition(" "))
    elif column == "account" and said.is_gone(text):
        cells["gone"] = f"{name}: {text}"
        entry.notes.append(f"{name}: {text}")
    elif not said.is_unknown(text):
        cells[column] = text


def _rod(entry: Entry, name: str, match: Matched, text: str, how: How) -> heater_said.RodSaid | None:
    """What is said of a rod; of more than that its metal, and the rest as a note. Raises: BadCell."""
    unit = match.written or "mm"
    try:
        return heater_said.rod(text, how.today, how.day_first, unit)
    except BadCell:
        metal = re.match(r"[^\W\d]+(?:[/-][^\W\d]+)?", text)
        with contextlib.suppress(BadCell):
            found = heater_said.rod(metal[0], how.today, how.day_first, unit) if metal else None
            if found and found.alloy:
                entry.notes.append(f"{name}: {text[:120]}")
                return found
        raise


_HOW_MUCH = re.compile(r"(half|\d/\d) ?(gone|left|used|eaten|verbr\w*\.?|weg|ubrig|usee?)")
_OF_A_PRESSURE = re.compile(r"\b(psi|bar|kpa|pressure|vordruck)\b")
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
    r"(?<!not )(?<!nicht )\b(ersetzt|erneuert|getauscht|replaced|repl'?d|renewed|changed)\b(?! by| next)"
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


def _read_flush(entry: Entry, name: str, text: str, how: How) -> None:
    """When it was flushed last: said in words, or by a mark under the year that a column is called by; of several the
    latest."""
    named = _YEAR_NAMED.search(name)
    year = (named[0] if named[0].isdigit() else f"20{named[0][1:]}") if named else ""
    if _EVERY_YEAR.fullmatch(said.plainly(text)):
        when = day_said.When(how.today - datetime.timedelta(days=183), "estimated", 0.5)
        entry.notes.append(f"{name}: {text}")
    elif year and (said.plainly(text) in _MARKS or _MARK_AMONG.fullmatch(said.plainly(text))):
        when = day_said.day(year, how.today, how.day_first)
        if said.plainly(text) not in _MARKS:
            entry.notes.append(f"{name}: {text}")
    elif year and re.fullmatch(r"[^\W\d]{3,9}\.?", text) and (month := _month_of(text, year, how)):
        when = month
    elif year and (_DAY_OF_IT.match(text) or _MISSED.search(said.plainly(text)) or said.plainly(text) in _NOT_THEN):
        # A day of the year that the column is called by, or that it was not done in it.
        entry.notes.append(f"{name}: {text}")
        if not _DAY_OF_IT.match(text):
            return
        when = day_said.day(year, how.today, how.day_first)
    else:
        when = _latest(text, how)
        _keep_what_is_beside(entry, name, text)
    before = entry.said("last_flush")
    if before is None or before.on is None or (when.on and when.on > before.on):
        entry.cells["last_flush"] = when


def _month_of(text: str, year: str, how: How) -> day_said.When | None:
    """A month or a season of the year that a column is called by."""
    with contextlib.suppress(BadCell):
        return day_said.day(f"{text} {year}", how.today, how.day_first)
    return None


def _keep_what_is_beside(entry: Entry, name: str, text: str) -> None:
    """What stands in brackets behind a day says more of it, which nothing else keeps."""
    if "(" in text:
        entry.notes.append(f"{name}: {text[:120]}")


def _latest(text: str, how: How) -> day_said.When:
    """The day that a cell says, or the latest of several in it; those on which it was not done are none of them.
    Raises: BadCell where none is read."""
    with contextlib.suppress(BadCell):
        return day_said.day(text, how.today, how.day_first)
    days, parts = [], [part for part in re.split(r"\s*(?:[,;&+]|\band\b)\s*", text) if part]
    for part in parts:
        if not _MISSED.search(said.plainly(part)):
            with contextlib.suppress(BadCell):
                days.append(day_said.day(part, how.today, how.day_first))
    known = [when for when in days if when.on]
    if 2 * len(days) < len(parts) or not known:
        return day_said.day(text, how.today, how.day_first)
    return max(known, key=lambda when: when.on or datetime.date.min)


_DAY_OF_IT = re.compile(r"\d{1,2} ?[/.-] ?\d{1,2}\.?(?![\d/.-])")
_NOT_THEN = {"no-show", "n/s", "ns", "n", "nein", "x-ed", "0"}
_MISSED = re.compile(r"\b(miss(ed)?|skip\w*|not|no|none|declin\w*|cancel\w*|due|next)\b")
"""Said of a service that was not done."""


def _read_town(cells: dict[str, Cell], text: str) -> None:
    """A town, and the state and postcode that may stand with it."""
    if said.is_unknown(text):
        return
    there = said.address(f"-, {text}")
    cells["town"] = there.town
    for name, beside in (("state", there.state), ("postcode", there.postcode)):
        if beside:
            cells.setdefault(name, beside)


def whole_kind(pieces: list[tuple[str, Matched, str]]) -> tuple[str, Matched, str]:
    """What several columns say together of a heater's kind, as one of its type and one of its fuel; what a person said
    that a word means counts before what all of them are like. Parameters: by column its name, match and cell."""
    name, match, text = pieces[0]
    if len(pieces) == 1:
        return pieces[0]
    text = " ".join(cell for _, _, cell in pieces)
    said_alone = [found for _, _, cell in pieces if (found := heater_said.kind(cell))]
    guess, means = heater_said.kind(text) or next(iter(said_alone), None), ""
    for _, own, cell in pieces:
        word, alone = own.words.get(said.plainly(cell), ""), heater_said.kind(cell)
        if word and word != (alone.kind if alone else UNKNOWN):
            means = means or word
    means = means or (guess.kind if guess else UNKNOWN if match.words else "")
    return name, replace(match, words={said.plainly(text): means} if means else {}), text


def _read_kind(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    means = match.words.get(said.plainly(text), "")
    guess = heater_said.kind(text)
    if means == UNKNOWN or (not means and guess is None):
        _read_beside_kind(entry, name, text, how)
        return
    kind = entry.cells["kind"] = HeaterKind(means) if means else guess.kind  # type: ignore[union-attr]
    entry.cells["vent"] = guess.vent if guess and guess.kind == kind else ""
    _read_beside_kind(entry, name, text, how)


def _read_customer(entry: Entry, name: str, text: str) -> None:
    cells = entry.cells
    if len(text) <= LONGEST_NAME and (reached := _REACHED.search(text)):
        entry.keep_number(name, reached[1].strip())
        text = text[: reached.start()]
    if (alone := _OF_WHOM.sub("", text)) != text:
        entry.notes.append(f"{name}: {text}")
        text = alone
    found = _NAME_AND_ADDRESS.fullmatch(text) if len(text) <= LONGEST_NAME else None
    cells["customer"] = said.person(found["name"] if found else text)
    if found:
        cells.setdefault("address", said.address(found["address"]))
    if found and found["phone"]:
        entry.keep_number(name, found["phone"])


def _read_phones(entry: Entry, name: str, column: str, text: str) -> None:
    """The first into its own column, a second into the other; whatever else is kept as a note."""
    free = [one for one in dict.fromkeys((column, "second_phone")) if one not in entry.cells]
    if not re.search(r"\d", text) and "contact" in said.plainly(name) and not said.is_unknown(text):
        # Whom to ask for.
        entry.notes.append(f"{name}: {text}")
        return
    for part in said.phones(text):
        number, beside = said.phone(part)
        if free:
            entry.cells[free.pop(0)] = number
        else:
            beside = f"{number} {beside}".strip()
        if beside:
            entry.notes.append(f"{name}: {beside}")


LONGEST_NAME = 300
"""Letters of a name with an address beside it; longer is a story. Assumption."""
_REACHED = re.compile(
    r"[\s,;(/-]+(?:tel|telefon|ph|phone|cell|mob|mobile?|natel)\b[.: ]*(\+?[\d(][\d ()./-]{5,}\d)\)?$", re.IGNORECASE
)
_OF_WHOM = re.compile(
    r"^(owner|eigent(ümer|uemer)?|tenant|mieter|landlord|verwalt(er|ung)|mgr|manager)\.? ?: *(?=\S)", re.I
)
"""What somebody is, before the name; and a telephone number behind it."""
_NAME_AND_ADDRESS = re.compile(
    r"(?P<name>[^,;]+?(?:, ?[^\W\d][^,;\d]*)?)\s*(?:[,;]| [-–] )\s*(?P<address>\d+[a-z]?\s+[^\W\d].*?)"
    r"(?:\s*[-,;(]\s*(?P<phone>(?:\(?\d{3}\)?[ .-])?\d{3}[ .-]\d{4})\)?)?",
    re.IGNORECASE,
)
"""A name, an address and perhaps a telephone number in one cell."""


def _each_heater(text: str) -> list[str]:
    """What a cell says of each of several heaters, each with its own kind and size; else the cell as it is."""
    for between in (r"\s*[;\n]\s*", r"\s+/\s+", r"\s*(?:\+|&|\band\b|\bund\b)\s*", r"\s*,\s*"):
        parts = re.split(between, text)
        if len(parts) > 1 and all(heater_said.kind(part) and _has_size(part) for part in parts):
            return parts
    return [text]


def _has_size(text: str) -> bool:
    return bool(_SIZE_BESIDE.search(text) or _SIZE_AT_FUEL.search(text) or "tankless" in text.lower())


_SERIAL_BESIDE = re.compile(r"[\s,;/-]*\b(?:s ?/ ?n|sn|ser(?:ial)?)\b[ .:#-]*(?:no[ .:]*)?(\S+)$", re.IGNORECASE)
_STANDING = {
    "status",
    "status cd",
    "status code",
    "state of asset",
    "standing",
    "zustand",
    "stand",
    "statut",
    "estado",
    "active",
}
"""Columns that say whether it is looked after at all."""
_OUT_OF_CARE = re.compile(
    r"\b(retired|removed|disposed|inactive|scrapped|decommissioned|spare|in storage|out of service|demolished|former|"
    r"ausgebaut|stillgelegt|entsorgt)\b|^(no|n|i|inact)$"
)
_OTHER_MACHINE = re.compile(
    r"(a/c|ac unit|air (cond|handler)\w*|condenser|chiller|furnace|rtu|ice machine|compressor)\b"
)
"""What a building has besides, whatever feeds it."""
_NO_HEATER = re.compile(
    r"(removed|taken out|scrapped|decommissioned|no (water )?heater|no wh|none there|ausgebaut|entfernt|"
    r"(water )?(softener|filter)|(sump|well) pump|furnace|entharter|enthartungsanlage)\b.*"
)
_HARDNESS_BESIDE = re.compile(
    r"\d+(?:[.,]\d+)? ?(?:(?:gr?|gpg|grains?|ppm|mg/l|°?dh|°?fh)\b|°)|(?<=hart )\d+|(?<=hard )\d+|(?<=weich )\d+"
)
_GRADE_OF_WATER = re.compile(
    r"(very |sehr |tres )?(hard|soft|medium|moderate|hart|weich|mittel(hart)?|dure|douce|moyenne?)( water)?"
)
"""How hard a water is, in a word that nobody measured."""
_OF_BEFORE = re.compile(r"(old|former|ehem(als|alig)?|alt)\b\.? ?[:-] ?\w")
"""How the name of a customer begins who was one."""
_OF_WEEKS = re.compile(r"\b(wk|week|kw)\W?(of )?(yr|year|jahr)")
"""A column whose figures are a week and its year."""
_NO_NAME = {"null", "none", "n/a", "na", "nan", "#n/a", "?", "??", "unknown", "unbekannt", "k.a."}
_IN_ONE = 3
"""Make, model and serial number, in one cell."""
_REMARKS = {"remarks", "remark", "notes", "note", "comment", "comments", "bemerkung", "bemerkungen", "notiz", "info"}


def _make(text: str) -> str:
    first, space, rest = text.partition(" ")
    return f"{first.capitalize() if first.isupper() and len(first) > 3 else first}{space}{rest}"


_SIZE_BESIDE = re.compile(
    r"(?:\d{1,2} ?[x×] ?)?\d+(?:[.,]\d+)? ?(?:us )?(?:gal(?:lon)?s?|g|l|ltr?s?|lit(?:er|re)s?|litros|litri)\b|"
    r"\b[1-9] ?[x×] ?\d{2,3}\b",
    re.IGNORECASE,
)


_DONE_BESIDE = tuple(
    (re.compile(rf"\b(?:{what})\b[^,;\d]{{0,12}}((?<!\d)(?:19[5-9]|20[0-4])\d(?!\d)|'\d\d)", re.IGNORECASE), of)
    for what, of in (
        (r"t ?[&+/]? ?p|tprv?|relief(?: valve)?", "relief_valve"), (r"anode|rod", "anode"),
        (r"flush(?:ed)?|descaled?", "last_flush"),
    )
)  # fmt: skip
"""What is said with the kind of when something was done, and what of."""
_MANY = re.compile(
    r"^\(?([1-9])\)? ?(?:(?<=\)) ?(?=\d)|- ?(?=\d)|[x×@] ?(?=\d|[a-z])|(?=[a-z]+ \d{2,3}s\b)|"
    r"(?<!\))(?= (?:boilers?|\w*speicher|ger[aä]te|heaters?|tanks?|units?|tankless|wall|water heaters?|ballons|cumulus|"
    r"[a-z]+ (?:tanks|heaters|units|boilers))\b))|"
    r"^([1-9]) ?(?:no|off|stk|st(?:ü|ue?)ck)\b\.? ?(?=\d|[a-z])|\bx ?([2-9])(?= ?\()|"
    r"(?:\bx ?|\(x?)([2-9])x?\)?$|\(x ?([2-9])\b[^()]*\)",
    re.IGNORECASE,
)
"""How many heaters of a kind there are: "2 - 100 gal gas", "tankless x 3"."""
_FUEL = r"(?:ng|lp|gas|propane|e|el|elec|electric|hp|hpwh|hybrid)\b"
_SIZE_AT_FUEL = re.compile(
    rf"\b(\d{{2,3}})[ -]?(?={_FUEL})|\b{_FUEL}[ -](\d{{2,3}})(?!\d| ?k)|\b(?:g|ng|lp|e|hp)(\d{{2,3}})\b", re.IGNORECASE
)
_LITRES_AT_TANK = re.compile(r"(?:boiler|speicher)[ -](\d{2,4})\b(?! ?k?w)(?<!19\d\d)(?<!20\d\d)", re.IGNORECASE)
"""Where tanks are called so, they are told in litres."""
_YEAR_BESIDE = re.compile(r"\(?(?<![\w-])(?:(?:19[5-9]|20[0-4])\d|'\d\d)(?![\w-])\)?")


def _is_all_of_them(entry: Entry, name: str, how: How, text: str, together: re.Match[str]) -> bool:
    """Whether a column of its own has the size of several together, each of which is told with the kind; then each has
    its own."""
    one = Entry(entry.number)
    with contextlib.suppress(BadCell):
        read_figure(one, name, Matched("size"), text, how)
    size, whole, count = one.said("size"), entry.said("size"), int(together[1])
    if not size or not whole or abs(count * size - whole) > 0.02 * whole:
        return False
    entry.cells |= {"size": size, "count": count}
    return True


def _read_beside_kind(entry: Entry, name: str, text: str, how: How) -> None:
    """What is said in one cell with the kind: how many, the size, the year, and whatever else as a note."""
    if many := _MANY.search(text):
        entry.cells.setdefault("count", int(next(filter(None, many.groups()))))
    size, at_fuel = _SIZE_BESIDE.search(text), _SIZE_AT_FUEL.search(text)
    if size and at_fuel and at_fuel.end() <= size.start():
        # Of two the first is told with its fuel, and of the other nothing more.
        size = None
    together = re.match(r"([2-9]) ?[x×] ?(\d+)", size[0], re.IGNORECASE) if size else None
    if together and size and _is_all_of_them(entry, name, how, size[0], together):
        pass
    elif size and "size" not in entry.cells:
        read_figure(entry, name, Matched("size"), size[0], how)
    elif "size" not in entry.cells and (size := at_fuel):
        read_figure(entry, name, Matched("size"), size[1] or size[2] or size[3], how)
    elif "size" not in entry.cells and (size := _LITRES_AT_TANK.search(text)):
        read_figure(entry, name, Matched("size"), f"{size[1]} l", how)
    whole = text
    for like, of in _DONE_BESIDE:
        if done := like.search(text):
            text = text.replace(done[0], " ")
            when = day_said.day(done[1], how.today, how.day_first)
            entry.cells.setdefault(of, heater_said.RodSaid(fitted_on=when.on) if of == "anode" else when)
    year = _YEAR_BESIDE.search(text)
    put_in = entry.said("installed")
    if year and not (put_in and put_in.on):
        entry.cells["installed"] = day_said.day(year[0].strip("()"), how.today, how.day_first)
    rest = text
    for found in (size, year, many):
        rest = rest.replace(found[0], " ") if found else rest
    if text != whole or not heater_said.is_kind_alone(rest):
        entry.notes.append(f"{name}: {whole[:120]}")


_YEAR_NAMED = re.compile(r"(?<!\d)20\d\d(?!\d)|'\d\d\b")
_MARKS = {
    "x", "xx", "x x", "xxx", "x x x", "pm", "svc", "desc", "flush", "flushed", "fl", "y", "yes", "ja", "done", "ok",
    "1", "true", "\u2713", "\u2714",
}  # fmt: skip
_MARK_AMONG = re.compile(r"[x\u2713\u2714]( ?[,+/&]? ?[a-z]{1,3}){1,3}|([a-z]{1,3} ?[,+/&]? ?){1,3}[x\u2713\u2714]")
"""A mark beside others, of which the list's title may say what they are."""
_EVERY_YEAR = re.compile(
    r"(monthly|quarterly|yearly|annual(ly)?|regular(ly)?|"
    r"(every|each) (mo|month|qtr|quarter|yr|year|spring|summer|fall|autumn|winter)|"
    r"(1 ?x )?jahrl(ich)?|jedes jahr|cada ano|tous les ans|chaque annee)\.?( [a-z]{3,9}\.?)?"
)
"""Said of a service: the last was within a year."""

"""One cell of a row of an office's own list, as it is understood; what cannot be read is a ``BadCell``."""

import contextlib
import datetime
import re

from aquifer.core.bounds import bound
from aquifer.core.units import Quantity
from aquifer.formats import day_said, said
from aquifer.formats.cells import BadCell, Cell
from aquifer.formats.sheet import Matched
from aquifer.imports.entry import BOUNDS, Entry, How, way_of
from aquifer.imports.figure_cells import read_figure, read_input
from aquifer.imports.kind_cells import read_kinds
from aquifer.imports.part_cells import PARTS, read_part
from aquifer.imports.water_cells import read_softener, read_supply


def read(entry: Entry, name: str, match: Matched, text: str, how: How) -> None:
    column = match.column
    cells = entry.cells
    if column == "note" and not text.strip("-\u2013\u2014. "):
        pass
    elif column == "note":
        own = said.plainly(name)
        if _STANDING.fullmatch(own.replace("_", " ")) and _OUT_OF_CARE.search(said.plainly(text)):
            cells["gone"] = f"{name}: {text}"
        entry.notes.append(text if own in _REMARKS else f"{name}: {text}")
    elif column in BOUNDS:
        read_figure(entry, name, match, text, how)
    elif column == "input":
        read_input(entry, name, match, text)
    elif column == "kind":
        read_kinds(entry, name, match, text, how)
    elif column == "customer" and _OF_BEFORE.match(said.plainly(text)):
        cells["gone"] = f"{name}: {text}"
        entry.notes.append(f"{name}: {text}")
    elif column == "customer" and said.plainly(text) in _NO_NAME:
        pass
    elif column == "customer" and said.GONE.fullmatch(
        re.sub(r"\W{0,4}(\d{1,2}[/.])?(19|20)?\d\d$", "", said.plainly(text)).strip("()[]. ")
    ):
        cells["gone"] = f"{name}: {text}"
        entry.notes.append(f"{name}: {text}")
    elif column == "customer" and (why := re.search(r"\(([^()]+)\)", text)) and said.is_gone(why[1]):
        cells["gone"] = f"{name}: {text}"
        entry.notes.append(f"{name}: {text}")
        _read_customer(entry, name, text)
    elif column == "customer" and said.is_nobody(text):
        cells["nobody"] = True
        entry.notes.append(f"{name}: {text}")
    elif column == "customer" and _OWNER_LIVES.fullmatch(said.plainly(text)):
        cells["owner"] = True
    elif column == "customer":
        _read_customer(entry, name, text)
    elif column == "address":
        if house := _HOUSE_IS.search(text):
            # Letters go to a box.
            entry.notes.append(f"{name}: {text}")
            text = house[1]
        there, _, room = text.partition(";")
        if room and said.address(there).postcode:
            # Behind the town stands where in the house.
            text = there
            cells.setdefault("location", room.strip())
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
    elif column in PARTS:
        read_part(entry, name, match, text, how)
    elif column == "softener":
        read_softener(entry, name, text)
    elif column == "well":
        read_supply(entry, name, match, text, how)
    elif column == "apartment":
        if not said.is_unknown(text):
            bare = re.fullmatch(r"[\w-]+", text) and not re.match(r"(apt|unit|ste|suite|floor)\b", text, re.IGNORECASE)
            is_line = re.search(r"addr|line|street", said.plainly(name))
            if re.fullmatch(r"[^\W\d]{4,}( [^\W\d]+)*", text) and not is_line:
                # A room, which is no flat.
                cells["room"] = text
                return
            called = re.sub(r"[ .]*\b(no|nr|num|number)\b\.?$", "", name, flags=re.IGNORECASE)
            cells["apartment"] = f"{called} {text}" if bare and not is_line else text
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
        elif len(parts) > 1 and re.fullmatch(
            r"(model|mdl|mod)\W+(serial|s ?n|ser)\W?( no| number|#)?", said.plainly(name)
        ):
            # Whose make stands in a column of its own.
            cells["model"] = "" if said.is_unknown(parts[0]) else parts[0]
            if not said.is_unknown(parts[-1]):
                cells.setdefault("serial", parts[-1])
            return
        if not said.is_unknown(text):
            cells["maker"], _, cells["model"] = (part.strip() for part in _make(text).partition(" "))
    elif column == "serial" and not said.is_unknown(text) and (dated := _DATED.fullmatch(text)):
        # A number tells when it was made, and beside it or for it somebody wrote that out.
        if dated["number"]:
            cells["serial"] = dated["number"]
        entry.cells.setdefault("installed", day_said.day(dated["made"], how.today, how.day_first))
    elif column == "serial" and not re.search(r"\d", text):
        # Where it stands, or why nobody can read it.
        if not said.is_unknown(text):
            entry.notes.append(f"{name}: {text}")
    elif column == "postcode" and re.fullmatch(r"\d{3,4}", text) and way_of(how.units, Quantity.VOLUME) == "gal":
        # A spreadsheet takes it for a number, and drops the noughts before it.
        cells["postcode"] = text.zfill(5)
    elif column == "account" and said.is_gone(text):
        cells["gone"] = f"{name}: {text}"
        entry.notes.append(f"{name}: {text}")
    elif not said.is_unknown(text):
        cells[column] = text


def _read_flush(entry: Entry, name: str, text: str, how: How) -> None:
    """When it was flushed last: said in words, or by a mark under the year that a column is called by; of several the
    latest."""
    if of_month := month_named(name):
        _read_under_month(entry, name, of_month, text, how)
        return
    named = _YEAR_NAMED.search(name)
    year = (named[0] if named[0].isdigit() else f"20{named[0][1:]}") if named else ""
    if _EVERY_YEAR.fullmatch(said.plainly(text)):
        when = day_said.When(how.today - datetime.timedelta(days=183), "estimated", 0.5)
        entry.notes.append(f"{name}: {text}")
    elif year and _MARKS_OF_VISITS.fullmatch(said.plainly(text)):
        # One for each visit of the year, and a dash for what was not done.
        if not re.search(r"[x\u2713\u2714]", said.plainly(text)):
            return
        when = day_said.day(year, how.today, how.day_first)
    elif year and (said.plainly(text) in _MARKS or _MARK_AMONG.fullmatch(said.plainly(text))):
        when = day_said.day(year, how.today, how.day_first)
        if said.plainly(text) not in _MARKS:
            entry.notes.append(f"{name}: {text}")
    elif _MISSED_THEN.fullmatch(said.plainly(text)):
        entry.notes.append(f"{name}: {text}")
        return
    elif year and re.fullmatch(r"[^\W\d]{3,9}\.?", text) and (month := _month_of(text, year, how)):
        when = month
    elif year and (_DAY_OF_IT.match(text) or _MISSED.search(said.plainly(text)) or said.plainly(text) in _NOT_THEN):
        # A day of the year that the column is called by, or that it was not done in it.
        entry.notes.append(f"{name}: {text}")
        if not _DAY_OF_IT.match(text):
            return
        when = day_said.day(year, how.today, how.day_first)
    elif year and _DONE_THEN.search(said.plainly(text)) and not _MISSED.search(said.plainly(text)):
        # What was done in the year that the column is called by.
        entry.notes.append(f"{name}: {text[:120]}")
        when = day_said.day(year, how.today, how.day_first)
    else:
        when, is_whole = _latest(text, how)
        if is_whole:
            _keep_what_is_beside(entry, name, text)
        else:
            entry.notes.append(f"{name}: {text[:120]}")
    _keep_the_latest(entry, when)


def month_named(name: str) -> str:
    """The month and the year that a column is called by: "Jan-26"; empty where it is called otherwise."""
    found = re.fullmatch(r"([a-z]{3,9})\.?[ /-]*'?(\d{4}|\d\d)", said.plainly(name))
    is_month = found and day_said.is_month(found[1])
    return f"{found[1]} {found[2]}" if found and is_month else ""


def _read_under_month(entry: Entry, name: str, month: str, text: str, how: How) -> None:
    """A mark under the month in which it was flushed, with the day beside it or without; anything else is a note."""
    plain = said.plainly(text)
    if plain in _MARKS or _MARK_OR_DAY.fullmatch(plain):
        _keep_the_latest(entry, day_said.day(month, how.today, how.day_first))
    if plain not in _MARKS:
        entry.notes.append(f"{name}: {text}")


_DAY = r"(?:[12]?\d|3[01])"
_MARK_OR_DAY = re.compile(rf"[x\u2713\u2714]? ?{_DAY}(?:[./-]{_DAY})?\.?")


def _keep_the_latest(entry: Entry, when: day_said.When) -> None:
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


def _latest(text: str, how: How) -> tuple[day_said.When, bool]:
    """The day that a cell says, or the latest of several in it, and whether it says nothing else; those on which it was
    not done are none of them. Raises: BadCell where none is read."""
    with contextlib.suppress(BadCell):
        return day_said.day(text, how.today, how.day_first), True
    days, parts = [], [part for part in re.split(r"\s*(?:[,;&+]|\band\b|\s/\s)\s*", text) if part]
    for part in parts:
        if not _MISSED.search(said.plainly(part)):
            with contextlib.suppress(BadCell):
                days.append(day_said.day(part, how.today, how.day_first))
    known = [when for when in days if when.on]
    if 2 * len(days) < len(parts) or not known:
        return _among_words(text, how), False
    return max(known, key=lambda when: when.on or datetime.date.min), len(days) == len(parts)


def _among_words(text: str, how: How) -> day_said.When:
    """The only day of a cell, with words behind it or before it that do not say that nothing was done: "3/25 cleaned
    the filter", "yearly, last 02/26". Raises: BadCell where there is none, or several."""
    if last := _LAST_OF_THEM.search(text[:LONGEST_NAME]):
        return day_said.day(last[1], how.today, how.day_first)
    found = _DAY_AT_AN_EDGE.search(text[:LONGEST_NAME])
    is_only = len(re.findall(r"\d+(?:[/.]\d+)+", text[:LONGEST_NAME])) <= 1
    is_done = found and is_only and not _MISSED.search(said.plainly(text))
    return day_said.day(found[1] or found[2] if found and is_done else text, how.today, how.day_first)


_LAST_OF_THEM = re.compile(
    r"\b(?:last|zul\.?|zuletzt|dern\.?|derni[eè]re?)[ :]+([^\W\d]{0,9}[^a-z]{2,12})$", re.IGNORECASE
)
"""Behind how often it is done: "annual - last Feb 26"."""
_DAY_AT_AN_EDGE = re.compile(
    r"^((?:\d{1,2}[/.]){1,2}(?:\d{4}|\d\d)|[^\W\d]{3,9}\.? '?(?:20)?\d\d(?= ?[-:\u2013]))(?: ?[-:,\u2013])? [^\W\d]{3}|"
    r"[^\W\d]{3}[:,.]? ((?:\d{1,2}[/.]){1,2}(?:\d{4}|\d\d))$"
)
_DAY_OF_IT = re.compile(r"\d{1,2} ?[/.-] ?\d{1,2}\.?(?![\d/.-])")
_DONE_THEN = re.compile(
    r"^(?!.*\d{2}).*\b(entk\w*|gespult|gewartet|getauscht|ersetzt|erneuert|gereinigt|flush\w*|descal\w*|clean\w*|replac\w*|"
    r"serviced|detartr\w*|change\w*)\b"
)
_NOT_THEN = {"fremdfirma", "by others", "n.a.", "n.a", "no-show", "n/s", "ns", "n", "nein", "x-ed", "0"}
_MISSED = re.compile(
    r"\b(gas safety|safety check|(visual|inspection|inspected) only|"
    r"miss(ed)?|skip\w*|not|no|none|never|declin\w*|refus\w*|cancel\w*|due|next|quot\w*|sched\w*|"
    r"nicht|kein\w*|fallig|nachste\w*|pas|sans|prochaine?)\b"
)
"""Said of a service that was not done."""
_MISSED_THEN = re.compile(
    r"(miss(ed)?|skip(ped)?|declin\w*|cancel\w*|ref(used)?|(next )?due|(refused|no) access)"
    r"( in)? ?((\d{1,2}/)?'?\d\d|\d{4}|x ?\d)?"
)
"""The same, with when and nothing else: since when it was not done nobody says."""


def _read_town(cells: dict[str, Cell], text: str) -> None:
    """A town, and the state and postcode that may stand with it."""
    if said.is_unknown(text):
        return
    there = said.address(f"-, {text}")
    cells["town"] = there.town
    for name, beside in (("state", there.state), ("postcode", there.postcode)):
        if beside:
            cells.setdefault(name, beside)


def _read_customer(entry: Entry, name: str, text: str) -> None:
    cells = entry.cells
    if len(text) <= LONGEST_NAME and (reached := _REACHED.search(text)):
        entry.keep_number(name, reached[1].strip())
        text = text[: reached.start()]
    if (alone := _OF_WHOM.sub("", text)) != text:
        entry.notes.append(f"{name}: {text}")
        text = alone
    elif part := _PART_OF_ONE.fullmatch(text[:LONGEST_NAME]):
        # A customer, and which of their houses it is.
        text = part[1]
        cells.setdefault("location", part[2])
        cells["is_part"] = True
    found = NAME_AND_ADDRESS.fullmatch(text) if len(text) <= LONGEST_NAME else None
    cells["customer"] = said.person(found["name"] if found else text)
    if found:
        cells.setdefault("address", said.address(found["address"]))
    if found and found["phone"]:
        entry.keep_number(name, found["phone"])


def _read_phones(entry: Entry, name: str, column: str, text: str) -> None:
    """The first into its own column, a second into the other; whatever else is kept as a note."""
    free = [one for one in dict.fromkeys((column, "second_phone")) if one not in entry.cells]
    if (
        not re.search(r"\d{3}", text)
        and re.search(r"\b(contact|who|whom)\b", said.plainly(name))
        and not said.is_unknown(text)
    ):
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
_PART_OF_ONE = re.compile(r"([^\W\d][^:;]*[^\W\d.)]\.?):(?=\S)([^:;]*[^\W\d][^:;]*)")
_OF_WHOM = re.compile(
    r"^(owner|eigent(ümer|uemer)?|tenant|mieter|landlord|verwalt(er|ung)|((scheme|site|building) )?(mgr|manager))\.? ?:"
    r" *(?=\S)",
    re.I,
)
"""What somebody is, before the name; and a telephone number behind it."""
NAME_AND_ADDRESS = re.compile(
    r"(?P<name>[^,;]+?(?:, ?[^\W\d][^,;\d]*)?)\s*(?:[,;]| [-–] )\s*(?P<address>\d+[a-z]?\s+[^\W\d].*?|"
    rf"[^\W\d][^,;\d]* (?:{said.STREET}|close|crescent|row)\b\.?,.*?)"
    r"(?:\s*[-,;(]\s*(?P<phone>(?:\(?\d{3}\)?[ .-])?\d{3}[ .-]\d{4})\)?)?",
    re.IGNORECASE,
)
"""A name, an address and perhaps a telephone number in one cell."""


_SERIAL_BESIDE = re.compile(r"[\s,;/-]*\b(?:s ?/ ?n|sn|ser(?:ial)?)\b[ .:#-]*(?:no[ .:]*)?(\S+)$", re.IGNORECASE)
_STANDING = re.compile(
    r"((asset|unit|equipment|equip|heater|customer|account|contract|record) )?status( cd| code)?|state of asset|"
    r"standing|zustand|stand|statut|estado|active"
)
"""Columns that say whether it is looked after at all."""
_OUT_OF_CARE = re.compile(
    r"\b(retired|removed|disposed|inactive|scrapped|decommissioned|spare|in storage|out of service|demolished|former|"
    r"ausgebaut|stillgelegt|entsorgt)\b|^(no|n|i|inact)$"
)
_DATED = re.compile(
    r"(?:(?P<number>\S*\d\S*) )?\(?(?P<made>(?:[^\W\d]{3,9}\.? |(?:0?[1-9]|1[0-2])/)?(?:19[5-9]|20[0-4])\d)\??\)?"
)
_HOUSE_IS = re.compile(r"\((?:house|home|site|heater|wh)(?: is)?(?: at)?:? (\d.*?)\)?$", re.IGNORECASE)
_OWNER_LIVES = re.compile(r"(as )?(the )?(owner|landlord)([ -]?occ\w*)?\.?|eigent[uü]mer|proprietaire")
"""Said of who lives in a house where its owner does."""
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


_YEAR_NAMED = re.compile(r"(?<!\d)20\d\d(?!\d)|'\d\d\b")
_MARKS = {
    "x", "xx", "x x", "xxx", "x x x", "pm", "svc", "desc", "flush", "flushed", "fl", "y", "yes", "ja", "done", "ok",
    "1", "true", "all", "\u2713", "\u2714",
}  # fmt: skip
_MARKS_OF_VISITS = re.compile(r"[x\u2713\u2714-]( [x\u2713\u2714-])+")
_MARK_AMONG = re.compile(r"[x\u2713\u2714]( ?[,+/&]? ?[a-z]{1,3}){1,3}|([a-z]{1,3} ?[,+/&]? ?){1,3}[x\u2713\u2714]")
"""A mark beside others, of which the list's title may say what they are."""
_EVERY_YEAR = re.compile(
    r"(monthly|quarterly|qtrly|semi-?ann\w*|yearly|annual(ly)?|regular(ly)?|"
    r"(every|each|jeden|jedes) (mo|month|qtr|quarter|yr|year|spring|summer|fall|autumn|winter|"
    r"(?:jan|feb|mar|apr|may|mai|jun|jul|aug|sep|oct|okt|nov|dec|dez)[a-z]*)|"
    r"(1 ?x )?jahrl(ich)?|jedes jahr|cada ano|tous les ans|chaque annee)\.?( [a-z]{3,9}\.?)?"
)
"""Said of a service: the last was within a year."""

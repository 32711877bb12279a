"""What people write of a day into their own lists and books: a day, a month, a week, a season, a year or an age, as
sure as it was written. Source of the ways of writing: trade practice, as offices keep such lists."""

import calendar
import contextlib
import datetime
import re
from dataclasses import dataclass, replace

from aquifer.formats.cells import BadCell
from aquifer.formats.said import NEVER, is_unknown, plainly

EARLIEST_YEAR = 1950
_NOT_YET = {
    "not due", "not due yet", "not required", "not needed", "n. erf", "n. erf.", "nicht erf.", "nicht erforderlich",
    "non requis", "yrs ago", "years ago",
}  # fmt: skip
_BEFORE_US = {"before we came", "before us", "before our time", "vor unserer zeit", "pre us"}
_NO_DAY = re.compile(
    r"0{8}|0{4}[-./]00[-./]00.*|00[-./]00[-./]0{2,4}|0?1[-./]0?1[-./]1900|1900-?01-?01.*|1899-12-3[01].*|0"
)
"""What programs write for a day that nobody entered."""
_NEVER_SAID = re.compile(r"(never|nie|noch nie|jamais|nunca|nooit)\b\D*|nope")
"""The same at more length: "never that we know"."""


@dataclass(frozen=True)
class When:
    """A day as it is known."""

    on: datetime.date | None
    certainty: str
    """known, estimated or unknown."""
    margin_years: float | None = None
    never: bool = False


UNKNOWN_DAY = When(None, "unknown")
_MONTHS = {name.lower(): number for number, name in enumerate(calendar.month_name) if name}
_MONTHS |= {name.lower(): number for number, name in enumerate(calendar.month_abbr) if name}
_MONTHS |= {"sept": 9, "januar": 1, "februar": 2, "marz": 3, "mai": 5, "juni": 6, "juli": 7, "okt": 10, "oktober": 10}
_MONTHS |= {"dez": 12, "dezember": 12, "maart": 3, "mrt": 3, "mei": 5, "augustus": 8, "januari": 1, "februari": 2}
_MONTHS |= {
    "janv": 1, "janvier": 1, "fevr": 2, "fevrier": 2, "mars": 3, "avr": 4, "avril": 4, "juin": 6, "juil": 7,
    "juillet": 7, "aout": 8, "septembre": 9, "octobre": 10, "novembre": 11, "decembre": 12, "enero": 1, "febrero": 2,
    "marzo": 3, "abril": 4, "mayo": 5, "junio": 6, "julio": 7, "agosto": 8, "septiembre": 9, "octubre": 10,
    "noviembre": 11, "diciembre": 12, "ene": 1, "abr": 4, "ago": 8, "dic": 12, "gennaio": 1, "gen": 1, "febbraio": 2,
    "aprile": 4, "maggio": 5, "mag": 5, "giugno": 6, "giu": 6, "luglio": 7, "lug": 7, "settembre": 9, "set": 9,
    "ottobre": 10, "ott": 10, "dicembre": 12,
}  # fmt: skip


def is_month(word: str) -> bool:
    """Whether a word in small letters without marks is a month or short for one."""
    return word in _MONTHS


ABOUT_YEARS = 2.0
"""How far off a year may be that somebody writes with "~" or "?". Assumption."""


def day(text: str, today: datetime.date, day_first: bool, of_this_year: bool = False) -> When:
    """A day, a month or a year, as sure as it was written. Parameters: day_first, how 3/4/2019 is meant where both can
    be so; of_this_year, whether 5/24 and Mar 22 may be days of a year that nobody wrote, and so are none.
    Raises: BadCell for what is no date, or lies ahead."""
    try:
        return _day(text, today, day_first, of_this_year)
    except BadCell:
        if (alone := _without_hand(text)) == text:
            raise
        return _day(alone, today, day_first, of_this_year)


def _day(text: str, today: datetime.date, day_first: bool, of_this_year: bool) -> When:
    said = plainly(text)
    if of_this_year and (found := _DAY_OR_YEAR.fullmatch(said)) and int(found[1] or found[2]) <= 31:
        raise BadCell(f"{text[:40]!r} has no year")
    if is_unknown(said) or said in _BEFORE_US or said in _NOT_YET or _NO_DAY.fullmatch(said):
        return UNKNOWN_DAY
    if said in NEVER or _NEVER_SAID.fullmatch(said):
        return replace(UNKNOWN_DAY, never=True)
    if found := _YEARS_MIXED.fullmatch(said):
        said = "-".join(str(_year(one, today)) for one in found.groups())
    said = _NO_DAY_OF_IT.sub(r"\1/\2", _WEEKDAY.sub("", _WEEK_OF.sub("", said)))
    if old := _OLD_BEFORE.fullmatch(said):
        said = f"~{old[1]}"
    if "(" in said:
        said = _IN_BRACKETS.sub("", _MONTH_BEHIND.sub(r"\2 \1", said))
    said = re.sub(r"(?<=\d)[ t]+\d{1,2}:\d\d(:\d\d)?(\.\d+)?( ?[ap]m|z)?$", "", said)
    said = _DONE_BEHIND.sub("", _BESIDE_A_DAY.sub("", said))
    said = re.sub(r"^\(([^()]*)\)$", r"\1", said)
    about = bool(_ABOUT.search(said))
    said = " ".join(_ABOUT.sub(" ", said).split()).strip(" .,!")
    first, last = _ago(said, today) or _span(said, today, day_first)
    if first > today:
        raise BadCell(f"{text[:40]!r} lies ahead")
    if first.year < EARLIEST_YEAR:
        raise BadCell(f"{text[:40]!r} is before {EARLIEST_YEAR}")
    middle = min(first + (last - first) / 2, today)
    if about:
        return When(middle, "estimated", ABOUT_YEARS)
    if (last - first).days > 31 or _AGE.fullmatch(said):
        return When(middle, "estimated", max(0.5, round((last - first).days / 730.5, 1)))
    return When(middle, "known")


_HAND = r"(?!(?:AM|PM|NO|NOT|KW|WK|JAN|FEB|MAR|APR|MAY|JUN|JUL|AUG|SEP|OCT|NOV|DEC)\b)[A-Z]{2,3}"
_HAND_BESIDE = re.compile(
    rf"(?<=\d)\s*[-/,;(]?\s*(?:(?:[bB]y|[vV]on|[dD]urch|Fa\.?|[pP]ar|[dD]oor|[pP]or)\s+[^\W\d]+|"
    rf"{_HAND}(?:/{_HAND})?|(?<=\d\d )[A-ZÄÖÜ][a-zäöüß]{{1,2}}(?:/[A-ZÄÖÜ][a-zäöüß]{{1,2}})?)\)?\.?$"
    rf"|^{_HAND}\s*[:/ -]\s*(?=\d)"
)
"""By whom, behind or before a day: "5/2024 KB", "12.08.25 / JT", "3/24 by Kit"."""


def _without_hand(text: str) -> str:
    """A day without the letters of whoever came on it; what is left has a month or a year in full."""
    left = _HAND_BESIDE.sub("", text.strip())
    is_day = re.search(r"\d\s?[./-]\s?\d|\d{4}|^[^\W\d]+\.?[ '-]+\d|^\d{1,2}[ .-]*[^\W\d]{3,9}[ .'-]+\d|^'\d\d$", left)
    return left if is_day else text


def age(text: str, today: datetime.date, day_first: bool) -> When:
    """The same of a column of ages, where a figure alone is years. Raises: BadCell, as ``day``."""
    text = re.sub(r"(?<=\d)\s*\([^\d()]*\)\s*$", "", text)
    alone = re.fullmatch(r"\s*[~?>]?\s*\d{1,2}\s*[~?+]?\s*", text)
    return day(f"{text} years" if alone else text, today, day_first)


_DAY_OR_YEAR = re.compile(r"\d{1,2} ?[./-] ?(\d{2})|[a-z]+\.? ?[-/]? ?(\d{2})")
_AGE = re.compile(
    r"((?:over|more than|uber)\s|>)?\s*(\d{1,2})\s*(\+)?\s*"
    r"(yrs?|years?|y\.? ?o|y|j|jahren?|jahre?|jaar|ans?|anos?|anni|mos?|months?|monaten?|monate?|mois|mes(?:es)?)"
    r"\.?( old| alt| ago| fa| ?\+)?"
)
_WEEK_OF = re.compile(r"^(w ?/ ?c|w ?/ ?b|week (of|commencing|beginning)|wk of|woche vom|kw vom)\b[ .:]*(?=\S)")
"""A week is told by its first day, too."""
WEEKDAY = (
    r"(?:mon?|tues?|wed|thu(?:rs?)?|fri|sat|sun|monday|tuesday|wednesday|thursday|friday|saturday|sunday|"
    r"di|mi|do|fr|sa|so|montag|dienstag|mittwoch|donnerstag|freitag|samstag|sonntag|"
    r"lun(?:di)?|mardi|mer(?:credi)?|jeu(?:di)?|ven(?:dredi)?|sam(?:edi)?|dim(?:anche)?)[.,]{0,2}"
)
"""Before a day; "mar" is March."""
_WEEKDAY = re.compile(rf"^{WEEKDAY} (?=\d{{1,2}}[./-]\d|\d{{4}}-|\d{{1,2}}\.? [a-z]{{3}}|[a-z]{{3,9}}\.? \d{{1,2}},)")
_MONTH_BEHIND = re.compile(r"^((?:19|20)\d\d) ?\(([a-z]{3,9})\.?\)$")
_IN_BRACKETS = re.compile(
    r"(?<=\d) ?\((?![^()]*(?:\d{4}|\d/\d|\b(?:not|no|miss\w*|skip\w*|declin\w*|cancel\w*|due|next|nicht|nein)\b))"
    r"[^()]*\)$"
)
"""What stands behind a day and is no other, and not that nothing was done on it."""
_NO_DAY_OF_IT = re.compile(r"^(?:[?x_]{1,2}/)?(\d{1,2})/(?:[?x_]{1,2}/)?(\d{4}|\d\d)$")
"""A month and its year, with a mark where nobody knew the day: "8/?/23"."""
_YEARS_MIXED = re.compile(r"(?:mixed|various|between)\W+'?(\d\d)\s*(?:-|to|and)\s*'?(\d\d)")
"""Of several of which each has its year."""
_OLD_BEFORE = re.compile(r"(?:very )?(?:old|alt|vieux|vieille|ancien(?:ne)?)\W+(\d{4})\)?")
"""Said before a year that somebody guesses."""
_ABOUT = re.compile(
    r"[~?±]|\+ ?/ ?-|^c\. ?(?=\d)|\b(about|approx|appx|aprox|environ|env|vers|hacia|ongeveer|around|circa|ca)\b\.?|"
    r"\b(ungefahr|etwa|maybe|perhaps|vielleicht)\b\.?|"
    r"(?<=\d)\s?ish\b|-ish\b"
)
_BESIDE_A_DAY = re.compile(
    r"^(installed|inst|put in|new|since|various|mixed|between|both|all|eingebaut|seit|flushed|flush|descaled|"
    r"serviced|svcd?|"
    r"done|cleaned|last(?! y)|replaced|repl|changed|gespult|entkalkt|desc|descale|annual|pm|gewartet|gereinigt|"
    r"(?:jahres)?wartung|kundendienst|entretien(?: annuel)?|revision|not since|nicht (?:mehr )?seit|pas depuis|"
    r"changee?|detartre|vidange|fait|le|limpiado|pulito|ontkalkt|vernieuwd|vervangen|"
    r"bj|baujahr|ern|erneuert|ersetzt|getauscht|sostituit[oa]|"
    r"nieuw|nuevo|nueva|nouveau|nuovo|neu)\b( once)?[.:, ]*(in |on |le |am |en )?(?=\S)"
)
"""What is said before a day of what was done on it."""
_DONE_BEHIND = re.compile(
    r"(?<=\d)[ ,(-]+(both|all|each|beide|alle|ok|done|good|fl|flush(ed)?|desc(aled?)?|cleaned|serviced?|svc|pm|"
    r"fine|ja|yes|"
    r"new|neu|replaced|ersetzt|erneuert)[ .!)]*$"
)
"""What is said behind it."""
_BEFORE = re.compile(r"(?:pre|before|prior to|older than|vor|avant|antes de)\b[\s-]*(\d{4})|<\s*(\d{4})")
OLDER_YEARS = 5
"""How much older something may be than the age or year that it is said to be at least. Assumption."""


_LAST_YEAR = ("last yr", "last year", "letztes jahr", "vorjahr", "l'an dernier", "annee derniere", "l'annee derniere")


def _ago(said: str, today: datetime.date) -> tuple[datetime.date, datetime.date] | None:
    """The years or the month in which something was put in that is so old, or older; None for what is no age."""
    if found := _BEFORE.fullmatch(said):
        year = int(found[1] or found[2]) - 1
        return _one(max(year - OLDER_YEARS, 1), 1, 1, said)[0], _one(year, 12, 31, said)[0]
    if said in (*_LAST_YEAR, "this year"):
        year = today.year - (said != "this year")
        return datetime.date(year, 1, 1), min(datetime.date(year, 12, 31), today)
    if not (found := _AGE.fullmatch(re.sub(r"^(vor|il y a|hace)\s+(?=\d{1,2}\s*[a-z])", "", said))):
        return None
    at_least = bool(found[1] or found[3] or "+" in (found[5] or ""))
    if found[4].startswith("m"):
        months = today.year * 12 + today.month - 1 - int(found[2])
        return _month(months // 12, months % 12 + 1, said)
    year = today.year - int(found[2])
    return datetime.date(year - OLDER_YEARS * at_least, 1, 1), datetime.date(year, 12, 31)


_COUNTED_FROM = datetime.date(1899, 12, 30)
"""Day 0 of a spreadsheet. Source: the date system that workbooks have by themselves."""


def _span(said: str, today: datetime.date, day_first: bool) -> tuple[datetime.date, datetime.date]:
    """The first and the last day that are meant."""
    if found := re.fullmatch(r"(\d{4})-00-00|(\d{4})-(0[1-9]|1[0-2])-00", said):
        # As databases keep a day of which the month or the year alone is known.
        said = found[1] or f"{found[2]}-{found[3]}"
    if found := re.fullmatch(r"((?:19|20)\d\d)(0[1-9]|1[0-2])([0-3]\d)", said):
        return _one(int(found[1]), int(found[2]), int(found[3]), said)
    if found := re.fullmatch(r"(\d\d)(\d\d)(\d\d)", said):
        return _run_on(found, today, day_first)
    if found := re.fullmatch(r"(\d{4})-(\d{1,2})-(\d{1,2})(?:[t ].*)?", said):
        return _one(int(found[1]), int(found[2]), int(found[3]), said)
    if found := re.fullmatch(r"(\d{1,2})\s*([./-])\s*(\d{1,2})\s*\2\s*(\d{2}|\d{4})", said):
        a, b, year = int(found[1]), int(found[3]), _year(found[4], today)
        # With points the day stands first everywhere; a figure above twelve is no month.
        first_is_day = found[2] == "." or a > 12 or (day_first and b <= 12)
        return _one(year, b if first_is_day else a, a if first_is_day else b, said)
    if found := re.fullmatch(r"(\d{1,2})\s*[./-]\s*(\d{4})", said):
        return _month(int(found[2]), int(found[1]), said)
    if found := re.fullmatch(r"'?(\d\d) (?:or|oder|ou) '?(\d\d)", said):
        said = "-".join(str(_year(one, today)) for one in found.groups())
    if (
        (found := re.fullmatch(r"(\d{4})[/-](\d\d)", said))
        and int(found[2]) > 12
        and int(found[2]) > int(found[1]) % 100
    ):
        # 2012/13 is one of two years.
        said = f"{found[1]}-{found[1][:2]}{found[2]}"
    if found := re.fullmatch(r"(\d{4})\s*[./-]\s*(\d{1,2})", said):
        return _month(int(found[1]), int(found[2]), said)
    if found := re.fullmatch(r"(x{0,1}(?:ix|iv|v?i{0,3}))[/.-] ?(\d{4}|\d\d)", said):
        return _month(_year(found[2], today), _ROMAN.index(found[1]) if found[1] in _ROMAN else 0, said)
    if found := _WEEK.fullmatch(said):
        return _week(_year(found[2] or found[3], today), int(found[1] or found[4]), said)
    if found := re.fullmatch(r"(0[1-9]|1[0-2])(\d{2})", said):
        # As plates have it: month and year without anything between.
        return _month(_year(found[2], today), int(found[1]), said)
    if (found := _PART.fullmatch(said)) and (part := found[1] or found[4]):
        year, (low, high) = _year(found[2] or found[3], today), _PARTS[part.replace(" ", "")]
        return _one(year, low, 1, said)[0], _month(year, high, said)[1]
    if found := re.fullmatch(r"(\d{4})\s*(?:-|–|to|bis|/|or|oder|ou|of)\s*(\d{4})", said):
        if found[1] <= found[2]:
            return _one(int(found[1]), 1, 1, said)[0], _one(int(found[2]), 12, 31, said)[0]
    elif re.fullmatch(r"\d{5}(\.\d+)?", said):
        counted = _COUNTED_FROM + datetime.timedelta(days=int(float(said)))
        return counted, counted
    if found := re.fullmatch(r"(\d{1,2})\s*[./-]\s*'?(\d{2})", said):
        return _month(_year(found[2], today), int(found[1]), said)
    if found := re.fullmatch(r"([a-z]+|x-mas)\.?\s*[-/]?\s*'?(\d{4}|\d{2})", said):
        if found[1] in _MONTHS:
            return _month(_year(found[2], today), _MONTHS[found[1]], said)
        if found[1] in _SEASONS:
            year, (low, high) = _year(found[2], today), _SEASONS[found[1]]
            return _one(year, low, 1, said)[0], _month(year, high, said)[1]
    if found := re.fullmatch(r"([a-z]+)\.?\s*(\d{1,2})(?:st|nd|rd|th)?,?\s+(\d{4})", said):
        return _one(int(found[3]), _MONTHS.get(found[1], 0), int(found[2]), said)
    if found := re.fullmatch(r"(\d{1,2})(?:st|nd|rd|th)?[.-]?\s*([a-z]+)[.-]?,?\s*'?(\d{4}|\d{2})", said):
        return _one(_year(found[3], today), _MONTHS.get(found[2], 0), int(found[1]), said)
    if found := _DECADE.fullmatch(said):
        first, (low, high) = _year(found[2], today), _IN_A_DECADE[found[1] or ""]
        return _one(first + low, 1, 1, said)[0], _one(first + high, 12, 31, said)[0]
    if found := re.fullmatch(r"'?(\d{4}|\d{2})", said):
        year = _year(found[1], today)
        return _one(year, 1, 1, said)[0], _one(year, 12, 31, said)[0]
    raise BadCell(f"{said[:40]!r} is no date that is known")


def _run_on(found: re.Match[str], today: datetime.date, day_first: bool) -> tuple[datetime.date, datetime.date]:
    """Six figures without anything between: a day, or a year with its month; what can be both is told to be none."""
    month, on = (2, 1) if day_first else (1, 2)
    ways: list[tuple[datetime.date, datetime.date]] = []
    with contextlib.suppress(BadCell):
        ways.append(_one(_year(found[3], today), int(found[month]), int(found[on]), found[0]))
    if found[1] in ("19", "20"):
        with contextlib.suppress(BadCell):
            ways.append(_month(int(found[1] + found[2]), int(found[3]), found[0]))
    if len(ways) != 1:
        raise BadCell(f"{found[0]!r} is no date that is known")
    return ways[0]


_WEEK = re.compile(
    r"(?:week|wk|kw|w)\.?\s*(\d{1,2})[\s/,.-]*(\d{4}|\d{2})|(\d{4})\s*[-/]?\s*(?:week|wk|kw|w)\s*(\d{1,2})"
)
_PARTS = {
    "early": (1, 4), "mid": (5, 8), "late": (9, 12), "anfang": (1, 4), "mitte": (5, 8), "ende": (9, 12),
    "q1": (1, 3), "q2": (4, 6), "q3": (7, 9), "q4": (10, 12),
}  # fmt: skip
"""Of a year, by its first and last month. Assumption of the thirds: trade practice."""
_PART = re.compile(rf"({'|'.join(_PARTS)})[\s./-]*'?(\d{{4}}|\d{{2}})|(\d{{4}})[\s./-]*(q ?[1-4])")
_SEASONS = {
    "spring": (3, 5), "summer": (6, 8), "sum": (6, 8), "fall": (9, 11), "autumn": (9, 11),
    "fruhjahr": (3, 5), "fruhling": (3, 5),
    "sommer": (6, 8), "herbst": (9, 11), "ete": (6, 8), "voorjaar": (3, 5), "zomer": (6, 8), "najaar": (9, 11),
    "printemps": (3, 5),
    "automne": (9, 11), "easter": (3, 4), "ostern": (3, 4), "thanksgiving": (11, 11), "christmas": (12, 12),
    "xmas": (12, 12), "x-mas": (12, 12), "weihnachten": (12, 12),
}  # fmt: skip
"""Of a year, by their first and last month; a winter has two years."""


_ROMAN = ("", "i", "ii", "iii", "iv", "v", "vi", "vii", "viii", "ix", "x", "xi", "xii")
"""Months as some write them."""
_IN_A_DECADE = {"": (0, 9), "early": (0, 3), "mid": (4, 6), "late": (7, 9)}
"""The first and the last year of it that are meant. Assumption."""
_DECADE = re.compile(rf"(?:the )?(?:({'|'.join(filter(None, _IN_A_DECADE))})[ -])?'?((?:19|20)?\d0)'?s")


def _year(figures: str, today: datetime.date) -> int:
    year = int(figures)
    if len(figures) == 4:
        return year
    return 2000 + year if year <= today.year % 100 else 1900 + year


def _one(year: int, month: int, on: int, said: str) -> tuple[datetime.date, datetime.date]:
    try:
        found = datetime.date(year, month, on)
    except ValueError:
        raise BadCell(f"{said[:40]!r} is no day of the calendar") from None
    return found, found


def _week(year: int, week: int, said: str) -> tuple[datetime.date, datetime.date]:
    """Source: ISO 8601, weeks of a year; plates count much the same."""
    try:
        first = datetime.date.fromisocalendar(year, week, 1)
    except ValueError:
        raise BadCell(f"{said[:40]!r} is no week of a year") from None
    return first, first + datetime.timedelta(days=6)


def _month(year: int, month: int, said: str) -> tuple[datetime.date, datetime.date]:
    first, _ = _one(year, month, 1, said)
    return first, first.replace(day=calendar.monthrange(year, month)[1])

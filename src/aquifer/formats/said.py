"""What people write into the cells of their own lists, and what they mean by it.

Each reader takes the text of a cell and answers with what is kept, None for what nobody knows, or a ``BadCell`` whose
message says what could not be read. Source of the ways of writing: trade practice, as offices keep such lists.
"""

import re
import unicodedata
from dataclasses import dataclass
from functools import lru_cache

from aquifer.core.units import WRITTEN, Quantity
from aquifer.formats.cells import BadCell

_NOBODY_KNOWS = {
    "", "?", "??", "???", "/", "-", "--", "---", "\u2013", "\u2014", "n/a", "na", "none known", "unknown", "unk",
    "don't know", "dont know", "dk", "n/k", "nk",
    "not known", "no idea", "unbekannt", "unleserlich", "label gone", "gone", "illegible", "tbd", "keine angabe",
    "plate gone", "no plate", "plate missing", "plate unreadable",
    "see left", "see notes", "see note", "s. bem", "entf", "entfallt", "nicht vorhanden",
    "inconnu", "inconnue", "desconocido", "onbekend", "n.v.t", "nvt", "n.v", "k.a", "k. a", "sans objet", "no aplica",
    "#n/a", "#ref!", "#value!", "null", "nan",
}  # fmt: skip
NEVER = {
    "never", "nvr", "nie", "no", "none", "none yet", "none so far", "not done", "not yet", "keine",
    "noch nie", "noch nicht", "jamais", "nunca", "nooit",
}  # fmt: skip
_YES = {
    "y", "yes", "ja", "j", "x", "true", "1", "installed", "fitted", "eingebaut", "vorhanden", "has one", "whole house",
    "oui", "si", "integre", "integriert", "built in",
}  # fmt: skip
_NO = {
    "n", "no", "nein", "fehlt", "missing", "false", "0", "none", "keine", "keiner", "without", "city", "non", "sans",
    "nee", "geen",
}  # fmt: skip


@lru_cache(maxsize=4096)
def plainly(text: str) -> str:
    """Small letters without marks, single spaces: by which words of people are compared."""
    if not text.isascii():
        text = "".join(one for one in unicodedata.normalize("NFKD", text) if not unicodedata.combining(one))
    return " ".join(text.casefold().split())


def is_unknown(text: str) -> bool:
    """Whether somebody wrote that nobody knows."""
    return plainly(text).rstrip(".") in _NOBODY_KNOWS


_FIGURE = re.compile(r"(?:(\d{1,2})\s*[x×]\s*)?[~<>]?\s*(-?\d+(?:[.,]\d+)?)\s*(?:-\s*(\d+(?:[.,]\d+)?)\s*)?([^\d]*)")
LONGEST_FIGURE = 80
"""Letters of a figure with all that stands beside it; longer is a sentence. Assumption."""
_COUNT_BEFORE = re.compile(r"^(?:\(([2-9])\) ?|([2-9]) ?@ ?)(?=\d)")
_COUNT_BEHIND = re.compile(r"^(.*\d.*?) ?(?:[x×] ?([2-9])|\(x?([2-9])\))$")
"""How many of the same there are, in front of a figure and behind it."""
_UNIT_WORDS = {
    Quantity.VOLUME: {
        "g": "gal", "gal": "gal", "gals": "gal", "gallon": "gal", "gallons": "gal", "l": "l", "lt": "l", "ltr": "l",
        "liter": "l", "litre": "l", "liters": "l", "litres": "l", "ltrs": "l", "lts": "l", "litros": "l", "litri": "l",
        "us gal": "gal", "us gallons": "gal", "usg": "gal", "gall": "gal", "galls": "gal",
    },
    Quantity.TEMPERATURE: {
        "f": "°f", "°f": "°f", "deg f": "°f", "degf": "°f", "fahrenheit": "°f", "c": "°c", "°c": "°c", "deg c": "°c",
        "degc": "°c", "celsius": "°c", "grad": "°c",
    },
    # A kilogram on the square centimetre is a bar but for a fiftieth.
    Quantity.PRESSURE: {
        "psi": "psi", "lbs": "psi", "#": "psi", "bar": "bar", "bars": "bar", "kg": "bar",
        "kg/cm\u00b2": "bar", "kpa": "kpa",
    },
    Quantity.HARDNESS: {
        "gr": "gpg", "grs": "gpg", "gr/gal": "gpg", "gpg": "gpg", "grains": "gpg", "grain": "gpg", "g": "gpg",
        "ppm": "ppm", "mg/l": "mg/l", "mgl": "mg/l", "mmol/l": "mmol/l", "mmol": "mmol/l",
        "°dh": "°dh", "dh": "°dh", "°d": "°dh",
        "grad dh": "°dh", "° dh": "°dh", "° fh": "°fh", "°fh": "°fh", "fh": "°fh", "°f": "°fh",
        "clark": "°clark", "°clark": "°clark",
        "deg clark": "°clark", "°e": "°clark", "°th": "°fh", "th": "°fh",
    },
    Quantity.LENGTH: {
        "mm": "mm", "cm": "cm", "in": "in", "inch": "in", "inches": "in", '"': "in", "zoll": "in",
    },
}  # fmt: skip
"""How people write units, in small letters without points."""


_NUMBER_WORDS = {
    "twenty": "20", "thirty": "30", "forty": "40", "fourty": "40", "fifty": "50", "sixty": "60",
    "sixty-five": "65", "seventy-five": "75", "eighty": "80", "one hundred": "100", "hundred": "100",
}  # fmt: skip
"""The sizes that tanks are made in."""
_PARTS_OF_ONE = (("½", ".5"), ("¼", ".25"), ("¾", ".75"))
_SHAPES = {"tall", "short", "lowboy", "low boy", "st", "std"}
"""What is said of a tank behind its size."""


@dataclass(frozen=True)
class Amount:
    """A figure in the program's own unit, and how many such there are."""

    value: float
    count: int = 1


def amount(text: str, kind: Quantity, unit: str, low: float, high: float) -> Amount | None:
    """A figure with its unit, or in the column's own. Parameters: unit, of a figure that has none written after it;
    low, high, what can be so, in the program's unit. A figure that can only be so in another unit is taken in that one.
    Raises: BadCell for what is no figure, has another unit or cannot be so."""
    if is_unknown(text):
        return None
    said = re.sub(r"\s+", " ", text.replace("\u00b0", "°").strip().lower()).rstrip("+!?").strip()
    for part, decimal in _PARTS_OF_ONE:
        said = re.sub(rf"(?<=\d) ?{part}", decimal, said)
    said = re.sub(r"(?<=[\da-z]) ?\b(ea|each|apiece|je|jeweils|chacun)\.?$", "", said)
    if kind == Quantity.VOLUME:
        said = _NUMBER_WORDS.get(said, said)
        # "30s" are some of thirty.
        said = re.sub(r"^([2-9]0|100|75)s$", r"\1", said)
    said = re.sub(r"^(je|jeweils|each)\b\.? ?(?=\d)", "", said)
    said = re.sub(r"(?<=\d) ?-?ish\b|^(about|ca\.?|circa|approx\.?) (?=\d)", "", said)
    if len(said) > LONGEST_FIGURE:
        raise BadCell(f"{text[:40]!r} is no figure")
    if kind == Quantity.HARDNESS:
        # All hardness is told as this.
        said = re.sub(r"[ ,(]*(as )?caco ?[3\u2083]\)?$", "", said)
    said = _COUNT_BEHIND.sub(r"\2\3 x \1", _COUNT_BEFORE.sub(r"\1\2 x ", said))
    if kind == Quantity.VOLUME:
        # "2-50" are two of fifty; "40-50" is somewhere between.
        said = re.sub(r"^([2-9]) ?- ?(?=[3-9]\d|1\d\d)", r"\1 x ", said)
    found = _FIGURE.fullmatch(said)
    if not found:
        raise BadCell(f"{text[:40]!r} is no figure")
    word = found[4].strip(" .()").replace(" ", " ")
    if word == "°":
        word = ""
    words = _UNIT_WORDS[kind]
    if word in _SHAPES:
        word = ""
    if word and word not in words:
        raise BadCell(f"{text[:40]!r} has a unit that is not known here; known: {', '.join(WRITTEN[kind])}")
    figures = [float(one.replace(",", ".")) for one in (found[2], found[3]) if one]
    figure, count = sum(figures) / len(figures), int(found[1] or 1)
    units = WRITTEN[kind]
    tried = [words[word]] if word else [unit, *(one for one in units if one != unit)]
    for one in tried:
        value = units[one].stored(figure)
        if low <= value <= high:
            return Amount(round(value, 3), count)
    raise BadCell(f"{text[:40]!r} cannot be so")


def unit_behind(text: str, kind: Quantity) -> str:
    """The unit that is written behind a figure; empty where none is, or one that is not known."""
    found = _FIGURE.fullmatch(re.sub(r"\s+", " ", text.strip().lower()))
    return _UNIT_WORDS[kind].get(found[4].strip(" .()"), "") if found else ""


def number(text: str, low: float, high: float) -> float | None:
    """A figure without a unit; of "5-6" the middle. Raises: BadCell."""
    if is_unknown(text):
        return None
    found = re.fullmatch(r"(\d+(?:[.,]\d+)?)(?:\s*(?:-|to|bis)\s*(\d+(?:[.,]\d+)?))?", text.strip().lower())
    figures = [float(one.replace(",", ".")) for one in found.groups() if one] if found else []
    if not figures or not low <= (value := sum(figures) / len(figures)) <= high:
        raise BadCell(f"{text[:40]!r} is no figure from {low:g} to {high:g}")
    return value


_DURATION = re.compile(
    r"(?:(?P<hours>\d{1,2}(?:[.,]\d+)?)\s*(?:h|hr|hrs|hours?|std|stunden?)(?![^\W\d])\.?\s*)?"
    r"(?:(?P<minutes>\d{1,3})\s*(?:m|min|mins|minutes?|minuten)?\b\.?)?"
)
_LONGEST_IN_HOURS = 10.0
"""A figure without a unit up to here is hours, above it minutes: nobody is there for less, or longer. Assumption."""


def minutes(text: str) -> int | None:
    """How long something took: "1:15", "1 h 15", "75 min", "1.25". None for what nobody knows or does not say so."""
    said = plainly(text).strip(" .")
    if is_unknown(text) or not said:
        return None
    if clock := re.fullmatch(r"(\d{1,2}):([0-5]\d)(?::\d{2})?", said):
        return 60 * int(clock[1]) + int(clock[2])
    if re.fullmatch(r"\d{1,3}(?:[.,]\d+)?", said):
        figure = float(said.replace(",", "."))
        return round(60 * figure if figure <= _LONGEST_IN_HOURS else figure)
    found = _DURATION.fullmatch(said)
    if not found:
        return None
    return round(60 * float((found["hours"] or "0").replace(",", ".")) + int(found["minutes"] or 0))


def yes(text: str) -> bool | None:
    """Yes, no, or that nobody knows. Raises: BadCell."""
    said = plainly(text).rstrip(".!")
    if said in _NOBODY_KNOWS:
        return None
    head = re.split(r"[\s,;:-]", said)[0]
    if said in _YES or head in _YES:
        return True
    if said in _NO or head in _NO:
        return False
    raise BadCell(f"{text[:40]!r} is neither yes nor no")


_NO_FIRST_NAME = re.compile(
    r".*\b(inc|llc|llp|ltd|co|corp|gmbh|ag|kg)\b|"
    r"(hausmeister|verwalt\w+|caretaker|janitor|"
    r"p\.?c|p\.?a|inh|prop|c/o|attn|dba|z\.? ?hd|mgr|md|dds|jr|sr|trustees?)\b",
    re.IGNORECASE,
)
"""What stands behind a comma of a name and is no first name: a company's form anywhere, a standing at its begin."""
_LETTERS_ALONE = {"llc", "llp", "pc", "p.c.", "hoa", "ii", "iii", "weg", "sci"}


def _capitalized(word: str) -> str:
    bare = word.casefold().strip(",()")
    if len(word) == 1 or bare in _LETTERS_ALONE or "." in bare[:-1]:
        return word.upper()
    return re.sub(r"(?<=[-&/])[^\W\d_]|^[OD]'[^\W\d_]", lambda found: found[0].upper(), word.capitalize())


def person(text: str) -> str:
    """A name as it is said: "WEXCOMBE, Lorne" is Lorne Wexcombe. A company keeps its comma."""
    said = re.sub(r"\s+", " ", text).strip(" ,")
    if beside := re.fullmatch(r"([^()]+?) ?(\([^()]*\))", said):
        return f"{person(beside[1])} {beside[2]}"[:160]
    if beside := re.fullmatch(r"([^,]+, [^,-]+?) (- [^,]+)", said):
        # "Larkin, Otis - rental"
        return f"{person(beside[1])} {beside[2]}"[:160]
    last, comma, first = said.partition(",")
    is_whole = re.match(r"(fam(ilie|ily|ille)?|eheleute|gem(einde)?|stadt|hausverw\w*)\b\.? \w", last, re.IGNORECASE)
    is_whole = is_whole or re.search(r"[\d/]", first)
    if comma and first.strip() and not is_whole and said.count(",") == 1 and not _NO_FIRST_NAME.match(first.strip()):
        said = f"{first.strip()} {last.strip()}"
    if said.isupper() or said.islower():
        said = " ".join(_capitalized(part) for part in said.split(" "))
    said = " ".join(_capitalized(part) if part.isupper() and len(part) > 3 else part for part in said.split(" "))
    return said[:160]


_NO_PHONE = {
    *NEVER, "no phone", "no ph", "no tel", "no mob", "no mobile", "no cell", "n/p", "disc", "disc.", "disconnected",
}  # fmt: skip
_PHONE = re.compile(r"\+?\(?\d[\d()./\s-]{5,}\d")


def phones(text: str) -> list[str]:
    """The parts of a cell that has several telephone numbers, else the cell as it is."""
    parts = [part for part in re.split(r"\s*(?:/|;|,|&|\bor\b|\boder\b)\s*", text) if part]
    if len(parts) > 1 and all(len(re.sub(r"\D", "", part)) >= 7 for part in parts):
        return parts
    # "555-0304 (his) 555-0305 (hers)": each begins with its figures.
    found = list(_PHONE.finditer(text))
    if len(found) < 2 or found[0].start() > 0:
        return [text]
    starts = [one.start() for one in found]
    return [text[at:until].strip() for at, until in zip(starts, [*starts[1:], len(text)], strict=True)]


def phone(text: str) -> tuple[str, str]:
    """A telephone number as it is shown, and what else was written beside it. Raises: BadCell for what has none."""
    if is_unknown(text) or plainly(text) in _NO_PHONE:
        return "", ""
    found = _PHONE.search(text)
    digits = re.sub(r"\D", "", found[0]) if found else ""
    if not found or not 7 <= len(digits) <= 15:
        raise BadCell(f"{text[:40]!r} has no telephone number")
    return re.sub(r"\s+", " ", found[0]).strip()[:40], (text[: found.start()] + text[found.end() :]).strip(" ()")


_POSTCODE = re.compile(r"[\s,]+((?:[a-z]{2}\s+)?\d{4,5}(?:-\d{4})?|[a-z]{1,2}\d[\da-z]? ?\d[a-z]{2})$", re.IGNORECASE)
_OF_LETTERS = re.compile(r"[a-z]{1,2}\d[\da-z]? ?\d[a-z]{2}", re.IGNORECASE)
"""A postcode of letters and figures."""


@dataclass(frozen=True)
class Address:
    street: str
    town: str = ""
    state: str = ""
    postcode: str = ""


STREET = (
    r"st|str|street|rd|road|ave?|avenue|ln|lane|dr|drive|ct|court|pl|place|blvd|way|hwy|ter|terrace|cir|circle|pkwy|trail|"
    r"trl|loop|sq|square"
)
"""What streets are called, in English."""
_BEHIND_A_STREET = re.compile(
    # A house's number, its street to the last word that streets are called by, and a town without a comma.
    rf"^(\d+\w? (?!(?:{STREET}|rue|av|bd|chemin|allee|route|impasse|via|viale|piazza|calle|avenida|plaza|rua)\b)[^,]*"
    rf"\b(?:{STREET})\b\.?) (?!(?:n|s|e|w|ne|nw|se|sw|north|south|east|west|apt|unit|ste|suite|rear|"
    r"up|down|bsmt|basement|floor|fl|flat|lot|box|left|right|bldg|building|front|back|ext|extension|no|and|to|de|du|des|la|le|"
    r"apts?|apartments?|condos?|trailer|mobile|complex|plaza)\b)"
    r"(?!(?:upper|lower)(?: (?:unit|apt|level|floor|flat))?$)"
    rf"((?!(?:[^,]* )?(?:{STREET})\b)[^\W\d][^\d,#&/]{{2,}}(?: (?:[a-z]{{2}} )?\d{{5}}(?:-\d{{4}})?)?)$",
    re.IGNORECASE,
)


_STREET_ALONE = re.compile(rf"[^\d,]+ (?:{STREET}|close|crescent)\.?(?: \([^()]*\))?", re.IGNORECASE)
_SAINT = re.compile(r"^st\.? ", re.IGNORECASE)
_PART_ALONE = re.compile(r"(flat|apt|apartment|unit|suite|lot|whg|wohnung|appt)\.? ?#?\w{1,3}", re.IGNORECASE)
"""A part of a house, behind which the house stands and no town."""
_HAS_STREET = re.compile(rf"\b(?:{STREET}|close|crescent|row|rue|box)\b|str\b\.?|strasse|straße|weg\b", re.IGNORECASE)


def address(text: str) -> Address:
    """Street, town, state and postcode of an address in one cell; what has no comma is a street."""
    said = _BEHIND_A_STREET.sub(r"\1, \2", re.sub(r"\s+", " ", text).strip(" ,"))
    state = postcode = ""
    # "1 quai Bas - 00831 Vieux-Pont": a dash before the postcode is a comma.
    said = re.sub(r",? [-–] (?=\d{4,5} [^\W\d])", ", ", said)
    if "," in said and (found := _POSTCODE.search(said)):
        *states, postcode = [found[1]] if _OF_LETTERS.fullmatch(found[1]) else found[1].split()
        state, said = " ".join(states).upper(), said[: found.start()].strip(" ,")
    # "12 bis, rue des Tanneurs": behind the number of the house no town begins.
    said = re.sub(r"^(\d+(?: ?(?:bis|ter|quater|[a-d]))?),\s*(?=[^\W\d])", r"\1 ", said, flags=re.IGNORECASE)
    parts = [part.strip() for part in said.split(",")]
    of_town = next((at for at, part in enumerate(parts[1:-1], 1) if re.fullmatch(r"\d{4,5} [^\W\d].*", part)), 0)
    if of_town:
        # Behind a town with its postcode stands where in the house.
        said = ", ".join([*parts[:of_town], *parts[of_town + 1 :], parts[of_town]])
    street, _, town = (part.strip() for part in said.rpartition(","))
    if not street:
        street, town = town, ""
    if not postcode and (found := re.match(r"(\d{4,5})\s+(.+)", town)):
        postcode, town = found[1], found[2]
    in_a_street = _STREET_ALONE.fullmatch(town) and not _HAS_STREET.search(_SAINT.sub("", street))
    if (
        in_a_street
        or (town and _PART_ALONE.fullmatch(street))
        or re.match(r"\d{1,4}[a-z]? [^\W\d]", town, re.IGNORECASE)
    ):
        # A house with a name, and the street that it stands in.
        street, town = f"{street}, {town}", ""
    return Address(street[:200], town[:120], state, postcode)


_NOBODY = {
    "void", "vacant", "empty", "vacant unit", "no tenant", "leer", "leerstehend", "leerstand", "unbewohnt", "leegstand",
    "vacante", "vacant/empty", "-", "--",
}  # fmt: skip


def is_nobody(text: str) -> bool:
    """Whether somebody wrote that nobody lives there."""
    plain = plainly(text).strip("()[]. ")
    return plain in _NOBODY or bool(_LEFT_IT.fullmatch(plain))


_LEFT_IT = re.compile(r"(tenant |occupier )?(has )?(moved|gone|left) ?(out)?( \d[\d/.]*)?|mieter ausgezogen.*")
"""Of who lived there, where nobody is named who does now."""
GONE = re.compile(
    r"\b(sold|skip(?! ?'?\d)|abandoned|do not service(?! (till?|until|before|w/o|without))|"
    r"moved away|no longer (a customer|customer|ours|on our books)|cancel+ed|inactive|verkauft|"
    r"gekundigt|stillgelegt|"
    r"abgemeldet|not ours( any ?more)?|"
    r"abgerissen|dossier clos|demo'?d|demolished|torn down|annulee?|resilie|partie?s? (en )?(19|20)\d\d)\b|"
    r"(?:^|: )moved( out)?$"
)


def is_gone(text: str) -> bool:
    """Whether a remark says that this heater is not looked after any longer."""
    return bool(GONE.search(plainly(text)))

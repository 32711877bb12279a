"""What a line of a job book says of each of several heaters: "flushed both, #1 heavy, #2 light".

Source of the ways of writing: trade practice.
"""

import re

from aquifer.formats.said import plainly

_LETTERS = "ABCD"
_LETTER = re.compile(
    rf"(^|[.;,(+&]\s*|\band\s+)([{_LETTERS}])"
    r"(?=\s*(?:[+&:]|and\b|[-\u2013]\s)|\s+(?:flushed|descaled|drained|serviced|cleaned|gesp|entk))"
)
"""A heater that is called by a letter, at the begin of what is said of it."""
_NAMED = re.compile(
    r"\b(?:(?:speicher|boiler|tank|heater|unit|wh|gerat|ballon|nr\.|no\.)|(sv)) ?#?([1-9])"
    r"(?![\w/%\"]|[.,]\d| ?(?:x|yrs?|years?|qts?|quarts?|gal|l|kg|lbs?|in|cm|mm|psi|bar|jahre?|min|hrs?)\b)"
)
"""The same with what it is called before its number: "Speicher 2"."""
_NUMBER = re.compile(r"(?<!\w)#([1-9])\b:?")
_LISTED = re.compile(
    r"\b(flushed|descaled|serviced|drained|cleaned|units?|heaters?|tanks?|boilers?|gespult|entkalkt|gewartet|"
    r"detartres?|vidanges?)"
    r" ((?:[1-9](?: ?[,&+] ?| and | und | et )){1,8}[1-9])"
    r"(?![\w%/\"]|[.,]\d| ?(?:qts?|quarts?|gal|l|kg|lbs?|in|cm|mm)\b)"
)
"""Numbers behind what was done to them, and no measure: "descaled 1,2,4"."""
_OF_ONE_HEATER = (
    r"elements?|valves?|anodes?|rods?|ends|iso\w*|screens?|drains?|t&p\w*|thermostats?|hot|cold|sides?|lines?|"
    r"elemente?|anoden|ventile|siebe"
)
_WORDS = {"three": 3, "four": 4, "five": 5, "drei": 3, "vier": 4, "trois": 3, "quatre": 4}
_BOTH = re.compile(rf"\b(both|beide[rns]?|les deux)\b(?! (?:{_OF_ONE_HEATER})\b)")
_ALL = re.compile(
    rf"\b(?:all|alle|tous les|toutes les) #?([2-9]|{'|'.join(_WORDS)})\b|\b(?:all|alle|tous les) "
    r"(?:units|heaters|tanks|boilers|water heaters|speicher|gerate|ballons|appareils)\b"
)
_SENTENCE = re.compile(r"[;\n]\s*|\.\s+")
_CLAUSE = re.compile(r",\s+| - |\s*\((?=#)")
_EQUALS = re.compile(r"(?<![\w/.#])#?([1-9]) ?[=:] ?(?=[a-z])")
"""Numbers with what was found at each behind them: "1 = lots, 2 = little"."""
_BY_PLACE = re.compile(
    r"(the )?(east|west|north|south|left|right|upper|lower|front|rear|back|inner|outer|links?|rechts?|oben|unten|"
    r"vorn\w*|hinten|gauche|droite)\b( (one|heater|tank|unit))? ?[:=-]"
)
"""One that is told by where it stands, which nobody knows here."""
LONGEST = 500
"""Letters of a line that are looked at. Assumption: what an office keeps of a job."""


def of_each(text: str, count: int) -> dict[int, str]:
    """By the number of the heater, from one on, what a line says of it; empty where it does not say which of them it
    means. Parameters: count, how many there are."""
    marked = _LETTER.sub(lambda found: f"{found[1]}#{_LETTERS.index(found[2]) + 1}", text[:LONGEST])
    said = _NAMED.sub(lambda found: f"{found[1] or ''} #{found[2]}".strip(), _LISTED.sub(_with_marks, plainly(marked)))
    if len({*_EQUALS.findall(said)}) > 1:
        said = _EQUALS.sub(r"#\1 ", said)
    numbers = {int(number) for number in _NUMBER.findall(said)}
    is_all = _is_all(said, count)
    if (len(numbers) < 2 and not is_all) or max(numbers, default=0) > count:
        return {}
    meant = range(1, count + 1) if is_all else sorted(numbers)
    of_all, told = list[str](), {number: list[str]() for number in meant}
    for sentence in _SENTENCE.split(said):
        before: set[int] = set()
        if is_all and _BY_PLACE.match(sentence):
            continue
        for clause in _CLAUSE.split(sentence):
            own = {int(number) for number in _NUMBER.findall(clause)}
            # What goes on behind the number of a heater is of that one.
            clause_alone = _NUMBER.sub(" ", clause).strip()
            if not own and not before:
                of_all.append(clause_alone)
            for number in own or before:
                told[number].append(clause_alone)
            before = own if _NUMBER.match(clause.strip()) else before
            if clause.endswith(")"):
                before = set()
    # What was done stands before how it was found.
    return {number: "; ".join(filter(None, [*of_all, *clauses])) for number, clauses in told.items()}


def _with_marks(found: re.Match[str]) -> str:
    return " ".join([found[1], *(f"#{number}" for number in re.findall(r"[1-9]", found[2]))])


def _is_all(said: str, count: int) -> bool:
    if _BOTH.search(said) and count == 2:
        return True
    found = _ALL.search(said)
    return bool(found and (_WORDS.get(found[1]) or int(found[1] or count)) == count)

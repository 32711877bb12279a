"""Which heater of its row a column of an office's list tells of: by a number or a letter in its name, or by a kind that
has columns of its own."""

import re
from collections.abc import Iterable

from aquifer.formats import said

_NUMBERED = re.compile(r"(?<!\d)#?([1-9])(?:st|nd|rd|th)?(?!\d)|(?<![^\W_])([A-D])(?![^\W_])")
_LETTERS = "ABCD"
_LINES_OF_ONE = re.compile(r"addr|phone|\bph ?\d|\btel|cell|mobile|mail|\b(visit|call|trip|bill|ship)\b", re.IGNORECASE)
"""Of these a number counts lines or visits, and not heaters."""
NAMELESS = re.compile(r"column \d+")
"""How a column without a name is called, by its place."""


def unnumbered(name: str) -> str:
    """A column's name without the number or letter of its heater, or its kind."""
    if kind_named(name):
        return unkinded(name)
    return " ".join(re.findall(r"[^\W_]+", said.plainly(_NUMBERED.sub(" ", name, count=1))))


_KIND_NAMED = re.compile(
    r"(gas|ng|lp|propane|elec(?:tric)?|electric|tankless(?: gas| electric)?|heat pump|hpwh|indirect)\b"
    r"(?: ?(?:water )?(?:tank|heater|wh|htr|unit)\b)?[ ?():,-]*"
    r"(?P<rest>gal(?:lon)?s?|size|capacity|litres|liters|l|yr|year|age|installed|put in|serial(?: no)?|make|model|"
    r"location|last (?:flush|service|descale)|flushed|descaled|anode|t&p|qty|count|how many|)[ ?()]*"
)


def kind_named(name: str) -> str:
    """The kind of heater that a column's name begins with, where the rest of it is something of such a heater."""
    found = _KIND_NAMED.fullmatch(said.plainly(name))
    return found[1] if found else ""


def unkinded(name: str) -> str:
    """A column's name without the kind that it begins with."""
    found = _KIND_NAMED.fullmatch(said.plainly(name))
    return found["rest"] if found else name


def kinds_named(header: Iterable[str]) -> list[str]:
    """The kinds of heaters that have columns of their own, as "Gas tank yr" and "Electric tank yr"; none where there
    is but one."""
    kinds = list(dict.fromkeys(kind for name in header if (kind := kind_named(name))))
    return kinds if len(kinds) > 1 else []


def heater_numbers(header: Iterable[str]) -> dict[str, int]:
    """Which heater of its row each column tells of, by the number or letter in its name: of "WH1 size" and "WH2 size"
    the first and the second. One that has no fellow under another number is the first's. Where kinds have columns of
    their own, each is a heater."""
    header = list(header)
    if kinds := kinds_named(header):
        return {name: kinds.index(kind) + 1 if (kind := kind_named(name)) else 1 for name in header}
    told = {name: _number_in(name) for name in header}
    numbers: dict[str, set[int]] = {}
    for name, number in told.items():
        numbers.setdefault(_alike(name), set()).add(number)
    return {name: number if len(numbers[_alike(name)]) > 1 else 1 for name, number in told.items()}


def _alike(name: str) -> str:
    """What columns of a row's heaters have in common: "Heater #1 (type, size)" and "Heater #2" are fellows."""
    return unnumbered(re.sub(r"\([^()]*\)\s*$", "", name) or name)


def number_told(name: str) -> re.Match[str] | None:
    """The number or letter of a heater in a column's name."""
    return None if NAMELESS.fullmatch(name) or _LINES_OF_ONE.search(name) else _NUMBERED.search(name)


def _number_in(name: str) -> int:
    found = number_told(name)
    return 1 if not found else int(found[1]) if found[1] else _LETTERS.index(found[2]) + 1

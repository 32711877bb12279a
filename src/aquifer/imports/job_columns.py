"""What the columns of a job book are: by their names, by the register that knows who and where, and by what is
understood of what was done."""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from aquifer.formats import said
from aquifer.formats.cells import Column
from aquifer.formats.day_said import WEEKDAY
from aquifer.formats.job_text import findings
from aquifer.formats.office import DAY
from aquifer.imports import column_names, heater_columns
from aquifer.imports.column_guess import ENOUGH, LONGEST, LOOKED_AT, MOSTLY, by_name, named
from aquifer.imports.column_names import plain
from aquifer.imports.tables import Table


@dataclass(frozen=True)
class OnRecord:
    """Whom and which places the register knows, however they are written."""

    is_customer: Callable[[str], bool]
    is_place: Callable[[str], bool]
    is_account: Callable[[str], bool]


@dataclass(frozen=True)
class _Candidate:
    worth: float
    at: int
    column: str


CALLED, ALIKE = 2.0, 1.0
"""What it is worth that a column is called so by others, and that its name is like it. Assumption: the order is all
that counts."""
KNOWN, UNDERSTOOD = 0.3, 0.2
"""Share of the cells that the register knows, or in which something done is understood, above which they say what a
column is. Assumption: many customers of a book are on record, and much of a book is shorthand of its own."""
BY_CELLS, NOT_YET = 2.0, 0.5
"""What all cells add to a name, and by how much less it is worth when something was to be done than when it was.
Assumption, as above."""
A_WORD = 5.0
"""Letters of a cell on average beyond which it says something; whoever did it is told in fewer. Assumption."""


def of_jobs(table: Table, header: list[str], lines: list[list[str]], register: OnRecord) -> list[Column | None]:
    """What each column is: the day, who, where and by whom once each, and whatever tells of what was done; all else is
    a note. Where nothing does, the longest text is what was done, and without names whoever is named stands first."""
    cells = [
        [cell[:LONGEST] for line in lines[:LOOKED_AT] if at < len(line) and (cell := line[at].strip())]
        for at in range(len(header))
    ]
    candidates = [one for at, name in enumerate(header) for one in _candidates(table, at, name, cells[at], register)]
    found: list[str] = [""] * len(header)
    for candidate in sorted(candidates, key=lambda one: (-one.worth, one.at)):
        column = named(table, candidate.column)
        if not found[candidate.at] and column and (column.many or column.name not in found):
            found[candidate.at] = column.name
    if "done" not in found:
        _take_the_longest(header, cells, found)
    return [named(table, name or "note") for name in found]


def _candidates(table: Table, at: int, name: str, told: list[str], register: OnRecord) -> Iterable[_Candidate]:
    """All that a column may be, with its worth; a number of the job is none of it."""
    worths: dict[str, float] = {}
    if column := by_name(table, name):
        worths[column.name] = CALLED
    for column_name, like in column_names.JOB_LIKE:
        if re.search(like, plain(name)):
            worths.setdefault(column_name, ALIKE)
    if ("#" in name or (worths.get("note") and worths.keys() == {"note"})) and not (
        told and _share(told, register.is_account) > MOSTLY
    ):
        return
    if told:
        shares = {
            "on": _share(
                told, lambda cell: bool(_STARTS_WITH_A_DAY.match(cell) or ("on" in worths and _RUN_ON.fullmatch(cell)))
            ),
            "account": _share(told, register.is_account),
            "customer": _share(told, register.is_customer),
            "address": _share(told, register.is_place),
            "done": _share(told, lambda cell: bool(re.search(r"[^\W\d]", cell)) and bool(findings(cell))),
        }
        if shares["account"] > MOSTLY:
            worths["account"] = ALIKE
        for column_name, least in (
            ("on", MOSTLY),
            ("account", MOSTLY),
            ("customer", KNOWN),
            ("address", KNOWN),
            ("done", UNDERSTOOD),
        ):
            if shares[column_name] > least:
                worths[column_name] = worths.get(column_name, 0.0) + BY_CELLS * shares[column_name]
        if not shares["on"] and len(told) >= ENOUGH:
            worths.pop("on", None)
        if column_names.NOT_YET.search(plain(name)):
            worths = {one: worth - NOT_YET for one, worth in worths.items()}
        is_remark = plain(name) in column_names.NOTES_BESIDE and shares["done"] <= UNDERSTOOD
        if is_remark or all(_CODE.fullmatch(cell) for cell in told):
            # A figure or a code says nothing of what was done; remarks that nobody understands do where nothing else
            # does.
            worths.pop("done", None)
    yield from (_Candidate(worth, at, column_name) for column_name, worth in worths.items())


_CODE = re.compile(r"[^\W_]{0,3}[-/# ]?[\W\d]*\d[\W\d]*[^\W_]?|\W*")
"""A number of a job or a bill, with what stands before it."""
_STARTS_WITH_A_DAY = re.compile(
    rf"~?(?:(?i:{WEEKDAY}) )?({DAY.pattern}|"
    rf"\d{{1,2}}[.-]? ?[^\W\d]{{3,9}}[.-]? ?'?(\d{{4}}|\d\d)\b|[^\W\d]{{3,9}}\.? \d{{1,2}},? \d{{4}}|"
    r"(0?[1-9]|1[0-2])/\d\d(\d\d)?( ?\(?\?\)?)?$|[^\W\d]{3,9}\.? '?\d\d(\d\d)?$)"
)
_RUN_ON = re.compile(r"\d{6}|\d{8}")
"""A day without anything between its figures."""
_OF_MONTHS = re.compile(r"\b(mo|mon|month|monat)s? (yr|year|jahr)\b")


def month_named(name: str, cell: str) -> str:
    """A cell of a column that is called by month and year: of "11/23" the second is the year, and no day."""
    told = cell.strip()
    month = re.match(r"(\d{1,2} ?[/.-]|[^\W\d]{3,9}[. -]) ?'?(?=\d\d(?!\d))", told)
    return f"{month[1]}'{told[month.end() :]}" if month and _OF_MONTHS.search(plain(name)) else cell


def _share(told: list[str], is_so: Callable[[str], bool]) -> float:
    return sum(map(is_so, told)) / len(told)


def _take_the_longest(header: list[str], cells: list[list[str]], found: list[str]) -> None:
    """Of a book whose names say nothing of what was done."""
    left = [at for at, name in enumerate(found) if name in ("", "note") and cells[at] and "#" not in header[at]]
    left = [at for at in left if any(re.search(r"[^\W\d]", cell) for cell in cells[at])]
    nameless = [at for at in left if heater_columns.NAMELESS.fullmatch(header[at])]
    if "customer" not in found and nameless:
        found[nameless[0]] = "customer"
    told = {at: sum(map(len, cells[at])) / len(cells[at]) for at in left if not found[at] or found[at] == "note"}
    longest = max(told.values(), default=0.0)
    for at, length in told.items():
        if length == longest or (at in nameless and length > A_WORD):
            found[at] = "done"


def told_by_name(name: str, cell: str) -> str:
    """What a cell says was done, of a column that names a thing and says of it no more than a word: "Y" under "Flush",
    "replace" under "Anode"; empty for what was not done."""
    words = said.plainly(cell).strip(" .")
    thing = column_names.THING_NAMED.search(plain(name))
    if not thing or len(words) > LONGEST_WORD:
        return cell
    if thing[0] == "sediment" and words in ("none", "no", "0"):
        return "sediment none"
    if words in column_names.NOT_DONE or said.is_unknown(cell):
        return ""
    what = "flushed" if thing[0].startswith("flush") else "descaled" if thing[0].startswith("descal") else thing[0]
    if words in column_names.DONE:
        return what
    what = re.sub(r" (valve|tested|exercised)\b", "", what)
    return f"{what} {'replaced' if _RENEWED.fullmatch(words) else cell}"


def is_about(name: str, thing: str) -> bool:
    """Whether a column's name names this thing, of those that a book may name."""
    found = column_names.THING_NAMED.search(plain(name))
    return bool(found and found[0].startswith(thing))


_RENEWED = re.compile(r"(repl(ace|aced)?|new( one)?|changed?|renewed)( ok)?")
"""Said of a part that is new, and no more: what is to be replaced next time is not."""


LONGEST_WORD = 24
"""Letters of a cell that says a word or two of a thing. Assumption."""

"""A job book as an office keeps it: who, where, when, and in a few words what was done; read into past visits."""

import contextlib
import datetime
import re
import uuid
from collections.abc import Iterable, Mapping

from django.db import transaction
from django.utils import timezone

from aquifer.company.models import Company
from aquifer.core.bounds import bound
from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import DAYS_PER_YEAR
from aquifer.core.units import Quantity
from aquifer.core.vocabulary import Task
from aquifer.formats import day_said, said
from aquifer.formats.cells import BadCell, Cell, Column, text_up_to
from aquifer.formats.job_text import findings, is_offer
from aquifer.formats.of_each import of_each
from aquifer.formats.sheet import Matched, Sheet, columns_at
from aquifer.heaters.models import Heater
from aquifer.imports import history, job_columns, statistics
from aquifer.imports.entry import Entry, How, as_written, how
from aquifer.imports.heaters_on_record import TANKLESS, TANKS, HeatersOnRecord, Which
from aquifer.imports.kind_cells import read_kinds
from aquifer.imports.models import RowAction
from aquifer.imports.origin import NOBODY, Origin
from aquifer.imports.plan import PlannedRow, Progress, nothing
from aquifer.imports.preview import shown
from aquifer.imports.tables import MOST_MINUTES, Table
from aquifer.visits.models import Finding, Visit

_OF_TANKLESS = re.compile(r"tankless|on demand|durchlauf|\b(tl|tkls?|tnkls?|dle)\b", re.IGNORECASE)
_NOT_THERE = re.compile(
    r"(?:^|; )(no show|no work|no access|not home|no one home|nobody home|resched\w*|(customer )?cancel\w*|"
    r"(est|estimate|quote)\.? only|"
    r"(cust(omer)?|tenant|owner|kd)\.? (declin|refus)\w*|absente?s?\b|avis de passage|nicht angetroffen|niemand da)\b"
)


def jobs_table() -> Table:
    """The columns that such a book may have."""
    names = ("on", "account", "customer", "address", "technician", "done", "parts", "minutes")
    needed = ("on", "done")
    columns = [Column(name, text_up_to(2000), required=name in needed, many=name == "done") for name in names]
    return Table("jobs", Finding, "", [*columns, Column("note", text_up_to(2000), many=True)])


def plan(
    table: Table, sheet: Sheet, matches: Mapping[str, Matched] | None = None, progress: Progress = nothing
) -> list[PlannedRow]:
    """Decide for every row what it would do: a visit with what was understood, or left out with the reason."""
    given, lines = matches or {}, list(sheet.lines)
    way = as_written(how(timezone.localdate()), columns_at(sheet.header, given), lines)
    heaters = HeatersOnRecord()
    days_at = [at for at, name in columns_at(sheet.header, given).items() if name == "on"]
    has_years = _has_years(days_at, lines, way.today)
    is_flush_said = any(match.column == "done" and job_columns.is_about(name, "flush") for name, match in given.items())
    planned = []
    first_of: dict[tuple[object, ...], tuple[int, dict[str, Cell]]] = {}
    for number, cells in lines:
        told: dict[str, list[str]] = {}
        for name, cell in zip(sheet.header, cells, strict=True):
            if (column := given.get(name, Matched("")).column) and cell.strip() and "\x00" not in cell:
                text = cell.strip()[:500]
                if column == "done" and not (text := job_columns.told_by_name(name, text)):
                    continue
                if column == "on":
                    text = job_columns.month_named(name, text)
                told.setdefault(column, []).append(text)
                if (
                    column == "note"
                    and _OF_A_PAPER.fullmatch(said.plainly(name))
                    and _NO_VISIT.fullmatch(said.plainly(text))
                ):
                    told.setdefault("paper", []).append(text)
                if column == "note" and _OF_A_HEATER.search(said.plainly(name)):
                    told.setdefault("which", []).append(text)
        if is_flush_said and not any(text.startswith("flush") for text in told.get("done", [])):
            # How much came out of a tank that was not flushed is no flush.
            left = [text for text in told.get("done", []) if text.startswith("sediment")]
            told["done"] = [text for text in told.get("done", []) if text not in left]
            told.setdefault("note", []).extend(left)
        row = {name: ("; " if name == "done" else " ").join(values) for name, values in told.items()}
        planned.append(_decide(number, row, heaters, way, has_years))
        for visit in _visits_of(planned[-1]) if _HAS_DAY.search(row.get("on", "")) else []:
            at = (visit["heater"], visit["on"], row.get("technician", ""))
            first_row, first = first_of.setdefault(at, (number, visit))
            if first is not visit:
                _join(first, visit)
                planned[-1].detail["the same visit as"] = f"row {first_row}"
    ids = [visit["visit"] for row in planned for visit in _visits_of(row)]
    seen = set(Visit.objects.filter(client_id__in=ids).values_list("client_id", flat=True))
    for one in planned:
        if visits := _visits_of(one):
            one.values["visits"] = [visit for visit in visits if visit["visit"] not in seen]
            seen |= {visit["visit"] for visit in visits}
            one.action = RowAction.CREATE if one.values["visits"] else RowAction.SAME
    progress(len(planned), len(planned))
    return planned


_OF_A_PAPER = re.compile(r"((doc(ument)?|transaction|txn|record) )?(type|kind)|belegart|art|type de piece")
_NO_VISIT = re.compile(
    r"(estimate|quot(e|ation)|proposal|bid|credit( memo| note)?|payment|deposit|refund|statement|angebot|gutschrift|"
    r"zahlung|devis|avoir|paiement)s?"
)
"""A paper of an office that tells of no visit."""
_HAS_DAY = re.compile(r"\d+\W+(\d+|[^\W\d]+)\W+\d|[^\W\d]{3,}\W+\d+\w*\W+\d{4}|^\d{8}$")
"""A day with its month and year: what happened in the same month need not be one visit."""


def _visits_of(row: PlannedRow) -> list[dict[str, Cell]]:
    """The visits that a row tells of: one, two where it tells of a tank and a tankless one, none where it is left
    out."""
    found: list[dict[str, Cell]] = row.values.get("visits", [])
    return found


def _join(own: dict[str, Cell], beside: dict[str, Cell]) -> None:
    """A further line of the same visit, as bills have one for each thing that they count: it stands with the first."""
    own["findings"] = _once([*own["findings"], *beside["findings"]])
    if beside["note"] not in own["note"]:
        own["note"] = f"{own['note']}; {beside['note']}"[:500]
    own["minutes"] = max((taken for taken in (own["minutes"], beside["minutes"]) if taken), default=None)
    beside["visit"] = own["visit"]


def _once(understood: Iterable[dict[str, Cell]]) -> list[dict[str, Cell]]:
    """What is said twice of one thing, as once with all of it."""
    found: list[dict[str, Cell]] = []
    for one in understood:
        same = next((of for of in found if all(of.get(by) == one.get(by) for by in ("task", "item"))), None)
        if same is None:
            found.append({**one})
        else:
            same |= {name: value for name, value in one.items() if name not in same}
    return found


def _has_years(places: list[int], lines: list[tuple[int, list[str]]], today: datetime.date) -> bool:
    """Whether a book writes the year at its days, so that "Feb-23" is a month of one and no day without: where most
    days have one, or more than half and every such figure is one of the last years."""
    days = [cells[at].strip()[:40] for _, cells in lines for at in places]
    in_full = sum(bool(_HAS_DAY.search(day)) for day in days)
    figures = [int(day[-2:]) for day in days if _MONTH_AND_FIGURE.fullmatch(day)]
    are_recent = len(figures) > 1 and all(0 <= today.year % 100 - figure < RECENT_YEARS for figure in figures)
    return in_full > (1 if are_recent else IN_FULL) * len(figures)


RECENT_YEARS = 12
"""Of which a book of jobs tells: of days without a year one pair in seven looks like two of these. Assumption."""
IN_FULL = 3
"""How many days with a year there are to one that may have none until a book is taken to write it. Assumption."""
_MONTH_AND_FIGURE = re.compile(r"[^\W\d]{3,9}\.?[ -]?\d\d")


def _decide(number: int, row: Mapping[str, str], heaters: HeatersOnRecord, way: How, has_years: bool) -> PlannedRow:
    customer, address, text = said.person(row.get("customer", "")), row.get("address", ""), row.get("done", "")
    key = " · ".join(part for part in (customer, address) if part)[:200]

    def left(why: str) -> PlannedRow:
        return PlannedRow(
            number, RowAction.LEFT_OUT, key or row.get("account", "")[:200], {"left out": why, "said": text}
        )

    if not text:
        return left("nothing is said of what was done")
    if row.get("paper") or is_offer(text):
        return left(f"{row.get('paper') or 'an offer'}: nothing was done")
    try:
        is_month = has_years and _MONTH_AND_FIGURE.fullmatch(row.get("on", ""))
        when = day_said.day(row.get("on", ""), way.today, way.day_first, of_this_year=not is_month)
    except BadCell as error:
        return left(str(error))
    if when.on is None:
        return left("no day is known")
    understood = findings(text, row.get("parts", ""))
    if not understood and _NOT_THERE.search(said.plainly(text)):
        return left("nobody was there, or nothing was done")
    tasks = {Task(str(one["task"])) for one in understood}
    of_customer = row.get("customer", "")
    beside = f"{text} {row.get('which', '')} {of_customer if _WHICH.search(of_customer) else ''}"
    means = tasks, bool(_OF_TANKLESS.search(text)), _which(beside, row.get("which", ""), way)
    heater, others = heaters.of(customer, address, *means)
    for named in (row.get("account", ""), row.get("customer", "")):
        if heater is None and named:
            heater, others = heaters.of_account(named, *means)
    if heater is None and not customer and not address:
        # Of a column of numbers one that has a name instead.
        heater, others = heaters.of(said.person(row.get("account", "")), "", *means)
    parted = _BETWEEN_NAME_AND_PLACE.split(row.get("customer", ""), maxsplit=1)
    if heater is None and not address and len(parted) > 1:
        # Who and where in one cell.
        customer, address = said.person(parted[0]), parted[1]
        heater, others = heaters.of(customer, address, *means)
        key = f"{customer} · {address}"[:200] if heater else key
    if heater is None and not row.get("address"):
        heater, others = heaters.of_name_and_place(row.get("customer", ""), *means)
    if heater is None and not row.get("customer"):
        heater, others = heaters.of_name_and_place(row.get("address", ""), *means)
    if heater is None:
        several = heaters.houses_of(customer) if not address else 0
        which = f"there are {several} houses of that name, and it does not say which"
        return left(which if several > 1 else "no such customer at this address is on record")
    # A book that knows its customers by numbers is shown whom it means.
    key = key or heaters.whose(heater)
    beside_it = None
    if tasks & TANKS and Task.DESCALE in tasks:
        heater, beside_it = _both(heaters.beside(heater), tasks) or (heater, None)
        beside_it = None if beside_it and _is_before(beside_it, when) else beside_it
    of_other = [one for one in understood if beside_it and Task(str(one["task"])) in TANKLESS]
    understood = _once(_as_at(HeaterKind(heater.kind), one, text) for one in understood if one not in of_other)
    if _is_before(heater, when):
        return left(f"it is before {heater.tag} was put in")
    words = [_words(one, way) for one in (*understood, *of_other)] or ["not understood: it stays as a note"]
    tags = " and ".join(one.tag for one in (heater, beside_it) if one)
    detail = {"heater": tags, "on": str(when.on), "understood": "; ".join(words), "said": text}
    if when.certainty == "estimated":
        detail["on"] = f"about {when.on.year}"
    if len(others) > 1:
        detail["which heater"] = f"one of {len(others)} there: {', '.join(one.tag for one in others)}"
    if not beside_it and (of_several := _of_several(others, when, text, row)):
        del detail["which heater"]
        detail["heater"] = " and ".join(one.tag for one, _ in of_several)
        detail["understood"] = "; ".join(
            f"{one.tag}: {'; '.join(_words(found, way) for found in own)}" for one, own in of_several
        )
        visits = [_visit(one, when.on, text, row, own) for one, own in of_several]
        for further in visits[1:]:
            # How long they were there is told once.
            further["minutes"] = None
        return PlannedRow(number, RowAction.CREATE, key, detail, values={"visits": visits})
    visits = [_visit(heater, when.on, text, row, understood)]
    if beside_it:
        # How long they were there is told once.
        visits.append({**_visit(beside_it, when.on, text, row, of_other), "minutes": None})
    return PlannedRow(number, RowAction.CREATE, key, detail, values={"visits": visits})


def _of_several(
    heaters: list[Heater], when: day_said.When, text: str, row: Mapping[str, str]
) -> list[tuple[Heater, list[dict[str, Cell]]]]:
    """Those of a house's heaters of which a line says that something was done to them, each with what that was; none
    where it does not say which it means."""
    found = []
    of_heaters = of_each(f"{text} {row.get('which', '')}", len(heaters)) if len(heaters) > 1 else {}
    are_flushed = any(one["task"] == Task.FLUSH for told in of_heaters.values() for one in findings(told))
    for number, told in of_heaters.items():
        heater = heaters[number - 1]
        if are_flushed and any(_GRADE_ALONE.fullmatch(clause) for clause in told.split("; ")):
            # "#1 two buckets. #2 clear"
            told = "; ".join(f"flush {one}" if _GRADE_ALONE.fullmatch(one) else one for one in told.split("; "))
        own = _once(_as_at(HeaterKind(heater.kind), one, told) for one in findings(told, row.get("parts", "")))
        if own and not _is_before(heater, when):
            found.append((heater, own))
    return found


_GRADE_ALONE = re.compile(
    r"(very )?(clear|clean|trace|light|little|a bit|some|moderate|heavy|lots|nothing)( sediment)?"
)


def _is_before(heater: Heater, when: day_said.When) -> bool:
    """Whether a day is before a heater was put in, as surely as both are known."""
    margin = datetime.timedelta(days=DAYS_PER_YEAR * ((heater.install_margin_years or 0) + (when.margin_years or 0)))
    return bool(heater.installed_on and when.on and when.on < heater.installed_on - margin)


def _visit(
    heater: Heater, on: datetime.date, text: str, row: Mapping[str, str], understood: list[dict[str, Cell]]
) -> dict[str, Cell]:
    return {
        "visit": uuid.uuid5(history.NAMESPACE, f"job {heater.pk} {on} {text}"),
        "heater": heater.pk,
        "on": on,
        "technician": row.get("technician", "")[:80],
        "note": "; ".join(part for part in (text, row.get("parts", ""), row.get("note", "")) if part)[:500],
        "findings": understood,
        "minutes": _taken(row.get("minutes", "")),
    }


def _both(there: list[Heater], tasks: set[Task]) -> tuple[Heater, Heater] | None:
    """The tank and the tankless one of a house of which a line says that one was flushed and the other descaled."""
    tank = next((one for one in there if HeaterKind(one.kind).is_tank), None)
    other = next((one for one in there if not HeaterKind(one.kind).is_tank), None)
    return (tank, other) if tank and other else None


_BETWEEN_NAME_AND_PLACE = re.compile(r"\s*[,;|@]\s*|\s+at\s+|\s+[-–]\s+")


def _as_at(kind: HeaterKind, one: Mapping[str, Cell], text: str) -> dict[str, Cell]:
    """What was understood as it can be of this kind: a tank out of which the scale was taken was flushed, however that
    is called, and nobody measures in litres what acid takes out of an exchanger. What is said of a tankless one that
    is not on record is no flush of the tank beside it."""
    if one["task"] == Task.FLUSH and not kind.is_tank:
        # The trade says flush of a tankless one, too: with acid, through its exchanger.
        return {"task": Task.DESCALE}
    if one["task"] != Task.DESCALE or (kind.is_tank and (_OF_TANKLESS.search(text) or "flow_before_l_min" in one)):
        return {**one}
    if kind.is_tank:
        return {**one, "task": Task.FLUSH}
    return {name: value for name, value in one.items() if name != "removed_l"}


MOST_TOLD = 9
"""Of a house's heaters, by a number of one figure."""
_OF_A_HEATER = re.compile(r"heater|\b(unit|wh|htr|tank|equip\w*)\b|gerat")
"""Columns in which a number is that of a heater, and not of a job or a bill."""
_WHICH = re.compile(r"\b([1-9]) of ([2-9])\b|(?<!\w)#([1-9])\b")


def _which(text: str, called: str, way: How) -> Which:
    """Which of how many is meant: "2 of 3", "#2" of nobody knows how many; of several nothing is told. Where a column
    is of heaters it is known by its kind and size, too. Parameters: called, what stands in such a column."""
    found = _WHICH.findall(said.plainly(text))
    if len({*found}) == 1 and not any(of_each(text, count) for count in range(2, MOST_TOLD + 1)):
        number, among, alone = found[0]
        return Which(int(number or alone), int(among or 0))
    entry = Entry(0)
    with contextlib.suppress(BadCell):
        read_kinds(entry, "heater", Matched("kind"), called, way)
    return Which(kind=entry.said("kind"), litres=entry.said("size")) if called and not entry.others else Which()


def _taken(text: str) -> int | None:
    """How long they were there; what nobody can be is no time."""
    minutes = said.minutes(text)
    return minutes if minutes and 0 < minutes <= MOST_MINUTES else None


def _words(one: Mapping[str, Cell], way: How) -> str:
    """What was understood, with its figures in the company's units."""
    rest = ", ".join(_value_words(name, value, way) for name, value in one.items() if name != "task")
    return str(one["task"]).replace("_", " ") + (f": {rest}" if rest else "")


def _value_words(name: str, value: Cell, way: How) -> str:
    if reading := _READINGS.get(name):
        return shown(value, Quantity(bound(reading).unit), way)
    return (name if value is True else str(value)).replace("_", " ")


_READINGS = {
    "removed_l": "flush.removed_l", "flow_before_l_min": "descale.flow_before_l_min",
    "flow_after_l_min": "descale.flow_after_l_min", "diameter_mm": "rod.diameter_mm",
    "static_kpa": "pressure.static_kpa",
}  # fmt: skip
"""Figures of a finding that a line may tell, by the reading that they are."""


def apply(table: Table, planned: list[PlannedRow], progress: Progress = nothing, origin: Origin = NOBODY) -> None:
    """Append the visits with what was understood of them, in one transaction."""
    rows = [row for row in planned if row.action is RowAction.CREATE]
    method = Company.current().flush_method
    expanded, empty = [], []
    for row, values in ((one, visit) for one in rows for visit in _visits_of(one)):
        own = {name: values[name] for name in ("visit", "heater", "on", "technician", "note", "minutes")}
        for one in values["findings"]:
            usual = {"method": method} if one["task"] == Task.FLUSH else {}
            expanded.append(PlannedRow(row.number, RowAction.CREATE, row.key, values={**own, **usual, **one}))
        if not values["findings"]:
            visit, heater = own.pop("visit"), own.pop("heater")
            empty.append(Visit(client_id=visit, heater_id=heater, **own))
    with transaction.atomic():
        history.apply(table, expanded, progress, origin)
        Visit.objects.bulk_create(empty)
        statistics.refresh(Visit)

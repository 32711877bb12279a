"""What became of a record: every change with who, when, and each field before and after."""

import datetime
import itertools
import uuid
from collections.abc import Callable

from typing_extensions import TypedDict

from aquifer.accounts.access import Action
from aquifer.accounts.models import User
from aquifer.changes.records import KEPT, TELLING, UNSAID, Kept
from aquifer.history.marks import Marked, past
from aquifer.history.words import words

MOST = 60
_DONE = {"+": "added", "~": "changed", "-": "removed"}


class RecordLineOut(TypedDict):
    record: str
    named: str
    done: str
    field: str
    before: str
    after: str


class RecordChangeOut(TypedDict):
    change: uuid.UUID
    at: datetime.datetime
    by: str
    file: str
    lines: list[RecordLineOut]


def of_heater(heater_id: int) -> list[RecordChangeOut]:
    """Changes of a heater, its parts, what stands around it and what is open there, the newest first."""
    return _told([(kept, {kept.of_heater: heater_id}) for kept in KEPT if kept.of_heater])


def of_site(site_id: int) -> list[RecordChangeOut]:
    """The same of a site."""
    return _told([(kept, {kept.of_site: site_id}) for kept in KEPT if kept.of_site])


def of_zone(zone_id: int) -> list[RecordChangeOut]:
    """The same of a zone and its seasons."""
    return _told([(kept, {kept.of_zone: zone_id}) for kept in KEPT if kept.of_zone])


def of_settings(may: Callable[[Action], bool]) -> list[RecordChangeOut]:
    """The same of everything that the company sets, as far as whoever asks may set it."""
    return _told([(kept, {}) for kept in KEPT if kept.of_settings and may(kept.needs)])


def _told(asked: list[tuple[Kept, dict[str, int]]]) -> list[RecordChangeOut]:
    rows: list[tuple[Kept, Marked]] = []
    for kept, those in asked:
        newest = past(kept.model).filter(**those).order_by("-history_date", "-history_id")[: 4 * MOST]
        rows += [(kept, row) for row in newest]
    rows.sort(key=lambda one: (one[1].history_date, one[1].history_id), reverse=True)
    before = _before(rows)
    people = {person.pk: person.name for person in User.objects.all()}
    changes: dict[uuid.UUID, RecordChangeOut] = {}
    for kept, row in rows:
        lines = _lines(kept, row, before.get((kept.name, row.history_id)))
        if not lines:
            continue
        record_change = changes.setdefault(
            row.change,
            {
                "change": row.change,
                "at": row.history_date,
                "by": people.get(row.history_user_id or 0, ""),
                "file": row.history_change_reason or "",
                "lines": [],
            },
        )
        record_change["lines"] += lines
    return list(itertools.islice(changes.values(), MOST))


def _before(rows: list[tuple[Kept, Marked]]) -> dict[tuple[str, int], Marked]:
    """The row that came before each, of the same record: rows are the newest first."""
    found = {}
    for at, (kept, row) in enumerate(rows):
        for other_kept, other in rows[at + 1 :]:
            if other_kept is kept and other.id == row.id:
                found[kept.name, row.history_id] = other
                break
    return found


def _lines(kept: Kept, row: Marked, before: Marked | None) -> list[RecordLineOut]:
    named = str(getattr(row, TELLING[kept.name])).replace("_", " ") if kept.name in TELLING else ""
    done = _DONE[row.history_type]
    if row.history_type != "~" or before is None:
        return [{"record": kept.name, "named": named, "done": done, "field": "", "before": "", "after": ""}]
    record_lines: list[RecordLineOut] = []
    for field in kept.model._meta.concrete_fields:
        if field.name in UNSAID or field.name == "id" or not hasattr(row, field.attname):
            continue
        old, new = getattr(before, field.attname), getattr(row, field.attname)
        if old != new:
            record_lines.append(
                {
                    "record": kept.name,
                    "named": named,
                    "done": done,
                    "field": field.name.replace("_", " "),
                    "before": words(field, old),
                    "after": words(field, new),
                }
            )
    return record_lines

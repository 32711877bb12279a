"""The life of an import: checked as a job, confirmed by a person, brought in as a job."""

import datetime
from collections import Counter
from collections.abc import Iterator, Mapping
from contextlib import contextmanager

from django.db import DEFAULT_DB_ALIAS, connections, transaction
from django.db.models import F
from django.utils import timezone

from aquifer.accounts.models import User
from aquifer.customers.models import Customer, Site
from aquifer.errors import Conflict, Invalid
from aquifer.forecasts.recompute import recompute_all, recompute_some
from aquifer.formats.cells import UnreadableTable
from aquifer.formats.csv_table import table_lines
from aquifer.formats.opened import sheet_names
from aquifer.formats.sheet import WHY_REFUSED, Matched, Sheet, plain
from aquifer.heaters import duplicates
from aquifer.heaters.models import Heater
from aquifer.history import marks
from aquifer.imports import columns, entry, office_list, touched
from aquifer.imports.kinds import NAMES, OWN_LISTS, kinds
from aquifer.imports.models import ImportRow, ImportRun, ImportState, RowAction
from aquifer.imports.origin import Origin
from aquifer.imports.plan import PlannedRow, nothing
from aquifer.imports.tables import Table
from aquifer.places.locating import look_up_all
from aquifer.rounds.models import Appointment, AppointmentStatus
from aquifer.visits.models import Visit
from aquifer.water.models import WaterTest

WITH_SITES = ("list", "sites", "places")
"""After these come in, addresses are looked up where a service for that is set up."""


class Cancelled(Exception):
    """Somebody cancelled while the job ran."""


def start(kind: str, file_name: str, data: bytes, by: User) -> ImportRun:
    """Keep the file and queue its check. Raises: Invalid for an unknown kind or an empty file."""
    if kind not in (*OWN_LISTS, *NAMES):
        allowed = ", ".join((*OWN_LISTS, *NAMES))
        raise Invalid(f"Files of {kind[:40]} are not brought in; allowed: {allowed}.", fields={"kind": "?"})
    if not data.strip():
        raise Invalid("The file is empty.", fields={"file": "empty"})
    return ImportRun.objects.create(kind=kind, file_name=file_name[:200], data=data, started_by=by)


def check(run_id: int) -> None:
    """Plan the file and keep, row by row, what it would do."""
    run = ImportRun.objects.get(pk=run_id)
    if run.state != ImportState.CHECKING:
        return
    run.rows.all().delete()
    try:
        run.sheets = sheet_names(bytes(run.data))
        ImportRun.objects.filter(pk=run.pk).update(sheets=run.sheets)
        if not _matched(run):
            return
        planned = _planned(run)
    except UnreadableTable as error:
        _end(run, ImportState.REFUSED, str(error))
        return
    except Cancelled:
        return
    for first in range(0, len(planned), 2000):
        ImportRow.objects.bulk_create(
            ImportRow(run=run, number=row.number, action=row.action, key=row.key[:200], detail=row.detail)
            for row in planned[first : first + 2000]
        )
    run.counts = dict(Counter(row.action.value for row in planned))
    if doubtful := sum(office_list.DOUBTFUL in row.detail for row in planned):
        run.counts[office_list.DOUBTFUL] = doubtful
    run.rows_total = run.rows_done = len(planned)
    refused = run.counts.get(RowAction.REFUSE, 0)
    rows = "1 row is" if refused == 1 else f"{refused} rows are"
    message = f"{rows} refused: mend them in the file below and send that." if refused else ""
    if unread := sum(name.startswith("not understood") for row in planned for name in row.detail):
        cells = (
            "1 cell was not understood: it stays as a note"
            if unread == 1
            else (f"{unread} cells were not understood. They stay as notes at their heaters")
        )
        message = f"{cells}; the rows come in."
    _end(run, ImportState.CHECKED, message)


def _matched(run: ImportRun) -> bool:
    """Whether it is known what the file's columns are; if not, a person is asked."""
    table, sheet = _table(run), _opened(run)
    if run.matches is not None:
        return True
    if (found := columns.known(table, sheet)) is None:
        run.columns = columns.asked(table, sheet, entry.how(timezone.localdate()))
        waiting = ImportRun.objects.filter(pk=run.pk, state=ImportState.CHECKING)
        waiting.update(columns=run.columns, state=ImportState.MATCHING)
        return False
    run.matches = columns.kept(found)
    ImportRun.objects.filter(pk=run.pk).update(matches=run.matches)
    return True


def match(run_id: int, said: Mapping[str, Matched]) -> ImportRun:
    """A person has said what the columns are: remember it, and check the file so.

    Raises: Invalid for what cannot be so; Conflict unless the file waits for it.
    """
    run = ImportRun.objects.get(pk=run_id)
    if run.state != ImportState.MATCHING:
        raise Conflict("The columns of this file are not asked for.", "import.not_ready")
    table = _table(run)
    matches = columns.checked(table, [column["name"] for column in run.columns], said)
    columns.remember(table, matches)
    waiting = ImportRun.objects.filter(pk=run_id, state=ImportState.MATCHING)
    waiting.update(state=ImportState.CHECKING, matches=columns.kept(matches))
    return ImportRun.objects.get(pk=run_id)


def ask_again(run_id: int) -> ImportRun:
    """The columns were taken as the last time, and wrongly: ask. Raises: Conflict once it is past that."""
    run = ImportRun.objects.get(pk=run_id)
    table = _table(run)
    asked = columns.asked(table, _opened(run), entry.how(timezone.localdate()))
    for column in asked:
        before = (run.matches or {}).get(column["name"], {})
        column["column"] = before.get("column", column["column"])
        column["written"] = before.get("written", column["written"])
        if said := before.get("words"):
            column["words"] = [
                {**said_word, "means": said.get(said_word["said"], said_word["means"])} for said_word in column["words"]
            ]
    there = ImportRun.objects.filter(pk=run_id, state__in=[ImportState.CHECKED, ImportState.MATCHING])
    if not there.update(state=ImportState.MATCHING, columns=asked, matches=None, counts={}, message=""):
        raise Conflict("It is past matching its columns.", "import.not_ready")
    run.rows.all().delete()
    return ImportRun.objects.get(pk=run_id)


def take_sheet(run_id: int, name: str) -> ImportRun:
    """Read another sheet of the workbook. Raises: Conflict once it is being brought in; Invalid for no such sheet."""
    run = ImportRun.objects.get(pk=run_id)
    if name not in run.sheets:
        raise Invalid(f"The workbook has no sheet {name[:60]!r}.", "import.sheet", {"sheet": "no such sheet"})
    _from_the_start(run_id, sheet=name, matches=None, columns=[], decided={})
    return ImportRun.objects.get(pk=run_id)


def decide(run_id: int, said: Mapping[int, bool]) -> ImportRun:
    """A person says of some rows whether their customer is the one of the same name. Raises: Conflict once it is being
    brought in."""
    run = ImportRun.objects.get(pk=run_id)
    _from_the_start(run_id, decided={**run.decided, **{str(number): same for number, same in said.items()}})
    return ImportRun.objects.get(pk=run_id)


def _from_the_start(run_id: int, **parts: object) -> None:
    there = ImportRun.objects.filter(pk=run_id, state__in=[ImportState.CHECKED, ImportState.MATCHING])
    if not there.update(state=ImportState.CHECKING, counts={}, message="", finished_at=None, **parts):
        raise Conflict("It is past checking.", "import.not_ready")


def refused_rows(run: ImportRun) -> Iterator[str]:
    """The refused rows as they were sent, each with why, as a CSV file to mend and send again."""
    why = {
        row.number: "; ".join(f"{name}: {fault}" for name, fault in row.detail.items())
        for row in run.rows.filter(action=RowAction.REFUSE)
    }
    sheet = _opened(run)
    header = [name for name in sheet.header if name.lower() != WHY_REFUSED]
    rows = (
        {**dict(zip(sheet.header, map(plain, cells), strict=False)), WHY_REFUSED: why[number]}
        for number, cells in sheet.lines
        if number in why
    )
    return table_lines([*header, WHY_REFUSED], rows)


def confirm(run_id: int, without_refused: bool = False) -> ImportRun:
    """A person has seen what it would do: bring it in.

    Raises: Conflict unless it was checked, and has no refused row or the person said to leave those out.
    """
    changed = ImportRun.objects.filter(pk=run_id, state=ImportState.CHECKED)
    if not without_refused:
        changed = changed.exclude(rows__action=RowAction.REFUSE)
    if not changed.update(state=ImportState.APPLYING, rows_done=0):
        raise Conflict(
            "Only a file that was checked is brought in, and its refused rows only if you say to leave them out.",
            "import.not_ready",
        )
    return ImportRun.objects.get(pk=run_id)


def cancel(run_id: int) -> ImportRun:
    """Stop before anything is written. Raises: Conflict once it is being brought in."""
    waiting = ImportRun.objects.filter(
        pk=run_id, state__in=[ImportState.CHECKING, ImportState.MATCHING, ImportState.CHECKED]
    )
    if not waiting.update(state=ImportState.CANCELLED, finished_at=timezone.now()):
        raise Conflict("It is past cancelling.", "import.not_ready")
    return ImportRun.objects.get(pk=run_id)


def bring_in(run_id: int) -> None:
    """Write the file, if it still does what the person saw; then forecast anew."""
    run = ImportRun.objects.get(pk=run_id)
    if run.state != ImportState.APPLYING:
        return
    planned = _planned(run)
    seen = dict(run.rows.values_list("number", "action"))
    if {row.number: row.action.value for row in planned} != seen:
        _end(run, ImportState.REFUSED, "The register has changed since the check; send the file again to see anew.")
        return
    right = [row for row in planned if row.action is not RowAction.REFUSE]
    before = touched.zones_of(run.kind, right, {})
    with marks.one():
        kind = kinds(timezone.localdate())[run.kind]
        run.made = kind.apply(kind.table, right, _Progress(run), Origin(run.started_by, run.file_name[:100])) or {}
    ImportRun.objects.filter(pk=run.pk).update(made=run.made)
    duplicates.renew()
    _forecast_anew(before, touched.zones_of(run.kind, right, run.made))
    if run.kind in WITH_SITES:
        look_up_all()
    left = len(planned) - len(right)
    _end(run, ImportState.APPLIED, f"Without {left} refused rows: mend them in the file below." if left else "")


def _forecast_anew(before: set[int] | None, after: set[int] | None) -> None:
    """What a file has to do with; None for the whole base."""
    if before is None or after is None:
        recompute_all()
    else:
        recompute_some(before | after)


@contextmanager
def as_if_in(run_id: int) -> Iterator[list[int]]:
    """Within it a list that was checked is in the register, and nothing of it is afterwards. Yields: its new heaters.

    Raises: Conflict for one that is not waiting to be confirmed. Rows that were refused are left out.
    """
    run = ImportRun.objects.filter(pk=run_id).first()
    if run is None or run.state != ImportState.CHECKED:
        raise Conflict("The list is not there any more, or was brought in: choose one that was checked.", "import.gone")
    right = [row for row in _planned(run) if row.action is not RowAction.REFUSE]
    kind = kinds(timezone.localdate())[run.kind]
    with transaction.atomic():
        made = kind.apply(kind.table, right, nothing, Origin(run.started_by, run.file_name[:100])) or {}
        new = [row.pk for row in right if row.action is RowAction.CREATE and row.pk is not None]
        yield made.get("heaters", new if run.kind == "heaters" else [])
        transaction.set_rollback(True)


def give_up(run_id: int, why: str) -> None:
    """The workers that were at it died: nothing was written, since all of it is written at once."""
    for run in ImportRun.objects.filter(pk=run_id, state__in=[ImportState.CHECKING, ImportState.APPLYING]):
        _end(run, ImportState.REFUSED, why)


def _planned(run: ImportRun) -> list[PlannedRow]:
    sheet = _opened(run)
    kind = kinds(timezone.localdate())[run.kind]
    given = columns.matches_of(run)
    if kind.asks:
        decided = {int(number): same for number, same in run.decided.items()}
        planned = kind.plan(kind.table, sheet, given, _Progress(run), decided)
    else:
        planned = kind.plan(kind.table, sheet, given, _Progress(run))
    for row in planned:
        if where := sheet.where(row.number):
            row.detail = {"sheet": where, **row.detail}
    return planned


def undo(run_id: int) -> ImportRun:
    """Take out again what a list made, if nothing has come to it since.

    Raises: Conflict unless it was brought in as a list, or if a visit, a promise or a contract hangs on what it made.
    """
    with transaction.atomic():
        run = ImportRun.objects.select_for_update().get(pk=run_id)
        if run.state != ImportState.APPLIED or not run.made:
            raise Conflict("Only a list that was brought in is taken out again.", "import.not_ready")
        now, made = timezone.now(), run.made
        visited = Visit.objects.filter(heater__in=made["heaters"]).count()
        promised = (
            Appointment.objects.filter(site__in=made["sites"]).exclude(standing=AppointmentStatus.PLANNED).count()
        )
        if visited or promised:
            raise Conflict(
                f"{visited} visits and {promised} appointments hang on what it brought in: archive the rest by hand.",
                "import.in_use",
            )
        Appointment.objects.filter(site__in=made["sites"]).delete()
        WaterTest.objects.filter(pk__in=made["tests"]).delete()
        Heater.objects.filter(pk__in=made["heaters"]).update(archived_at=now, version=F("version") + 1)
        others = Heater.objects.in_service().filter(site__in=made["sites"]).values("site")
        Site.objects.filter(pk__in=made["sites"]).exclude(pk__in=others).update(archived_at=now)
        kept = Site.objects.filter(customer__in=made["customers"], archived_at__isnull=True).values("customer")
        Customer.objects.filter(pk__in=made["customers"]).exclude(pk__in=kept).update(archived_at=now)
        run.state, run.finished_at = ImportState.UNDONE, now
        run.save(update_fields=["state", "finished_at"])
    recompute_all()
    return run


def _opened(run: ImportRun) -> Sheet:
    return kinds(timezone.localdate())[run.kind].opened(bytes(run.data), run.sheet)


def _table(run: ImportRun) -> Table:
    return kinds(timezone.localdate())[run.kind].table


def _end(run: ImportRun, state: ImportState, message: str) -> None:
    run.state, run.message = state, message[:500]
    run.finished_at = timezone.now()
    kept = ImportRun.objects.filter(pk=run.pk).exclude(state=ImportState.CANCELLED)
    kept.update(
        state=run.state,
        message=run.message,
        finished_at=run.finished_at,
        counts=run.counts,
        rows_total=run.rows_total,
        rows_done=run.rows_done,
    )


class _Progress:
    """Tells how far a run is, outside its transaction, so that the screen sees it while it lasts."""

    def __init__(self, run: ImportRun) -> None:
        self._run = run
        self._last = datetime.datetime.min.replace(tzinfo=datetime.UTC)

    def __call__(self, done: int, total: int) -> None:
        now = timezone.now()
        if now - self._last < datetime.timedelta(seconds=0.5):
            return
        self._last = now
        self._run.rows_done, self._run.rows_total = done, total
        beside = connections.create_connection(DEFAULT_DB_ALIAS)
        try:
            with beside.cursor() as cursor:
                cursor.execute(
                    "UPDATE imports_importrun SET rows_done = %s, rows_total = %s WHERE id = %s RETURNING state",
                    [done, total, self._run.pk],
                )
                row = cursor.fetchone()
        finally:
            beside.close()
        if row and row[0] == ImportState.CANCELLED:
            raise Cancelled

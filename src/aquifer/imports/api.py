import datetime
from dataclasses import dataclass
from itertools import chain
from typing import Annotated

from django.db import transaction
from django.db.models import QuerySet
from django.http import HttpRequest, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import File, Form, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import Field, StringConstraints
from typing_extensions import TypedDict

from aquifer.accounts.access import Action, allowed, who
from aquifer.accounts.audit import note
from aquifer.accounts.models import Deed
from aquifer.accounts.pace import dear
from aquifer.errors import Invalid, TooLarge
from aquifer.formats.csv_table import BOM, table_lines
from aquifer.formats.sheet import MOST_BYTES, Matched
from aquifer.imports import kinds as kinds_of_file
from aquifer.imports import run as imports
from aquifer.imports import tasks
from aquifer.imports.models import ImportRow, ImportRun, ImportState, RowAction
from aquifer.imports.office_cells import WHOSE
from aquifer.imports.office_list import DOUBTFUL
from aquifer.visits import readings
from aquifer.wire import Limit, Offset, Payload

router = Router(tags=["imports"])
Id = Annotated[int, Field(ge=1, le=2**62)]
Kind = Annotated[str, StringConstraints(max_length=40)]


class WordOut(Schema):
    said: str
    means: str


class FileColumnOut(Schema):
    """A column of a file with its first cells, and what it was or may be matched with."""

    name: str
    samples: list[str]
    column: str
    written: str
    words: list[WordOut] = Field([], description="Its different words and what each may mean, where that is asked.")
    heater: int = Field(1, description="Which heater of its row it tells of, by its name.")


class ImportOut(Schema):
    id: int
    kind: str
    file_name: str
    state: ImportState
    message: str
    rows_total: int
    rows_done: int
    counts: dict[str, int]
    columns: list[FileColumnOut]
    matched: bool = Field(description="Whether its columns had other names than ours.")
    started_at: datetime.datetime
    by: str
    can_undo: bool
    can_be_tried: bool = Field(description="Its heaters can be taken over in the years ahead, and nothing brought in.")
    sheets: list[str] = Field(description="Of a workbook, where there are several to choose from.")
    sheet: str


class SheetIn(Payload):
    sheet: Annotated[str, StringConstraints(max_length=200)]


class DecidedIn(Payload):
    number: Annotated[int, Field(ge=1, le=2_000_000)]
    same: bool = Field(description="Whether the row's customer is the one of the same name.")


class DecisionsIn(Payload):
    rows: Annotated[list[DecidedIn], Field(min_length=1, max_length=1000)]


class ColumnOut(TypedDict):
    """A column that a kind of file may have; ``ways`` are the ways of writing it, of which the first is ours."""

    name: str
    words: str
    own: Annotated[str, Field(description="How the program itself writes it; empty where there is but one way.")]
    required: bool
    many: Annotated[bool, Field(description="Whether several columns of a file may be it.")]
    is_whose: Annotated[bool, Field(description="Whether it says whose a row is or where: a list needs one of these.")]
    ways: list[str]


class WordIn(Payload):
    said: Annotated[str, StringConstraints(max_length=200)]
    means: Annotated[str, StringConstraints(max_length=24)]


class MatchIn(Payload):
    name: Annotated[str, StringConstraints(max_length=2000)]
    column: Annotated[str, StringConstraints(max_length=40)]
    written: Annotated[str, StringConstraints(max_length=40)] = ""
    words: Annotated[list[WordIn], Field(max_length=60)] = []


class MatchesIn(Payload):
    matches: Annotated[list[MatchIn], Field(max_length=100)]


class ConfirmIn(Payload):
    without_refused: bool = False


class ImportRowOut(Schema):
    number: int
    action: RowAction
    key: str
    detail: dict[str, object]


@dataclass(frozen=True)
class Rows:
    """A page of a file's rows."""

    total: int
    rows: list[ImportRow]


class ImportRowsOut(Schema):
    total: int
    rows: list[ImportRowOut]


@router.post("/imports", response={201: ImportOut}, auth=allowed(Action.IMPORT), throttle=dear("job"))
def send(request: HttpRequest, kind: Form[Kind], file: File[UploadedFile]) -> Status[ImportRun]:
    """Send a file to be checked; nothing is written until it is confirmed."""
    if (file.size or 0) > MOST_BYTES:
        size, most = (file.size or 0) / 1e6, MOST_BYTES / 1e6
        raise TooLarge(f"The file has {size:.0f} MB; at most {most:.0f} MB are read. Split it.", fields={"file": "?"})
    by = who(request)
    with transaction.atomic():
        run = imports.start(kind, file.name or "", file.read(), by)
        tasks.check.defer(run_id=run.pk)
    return Status(201, run)


@router.get("/imports", response=list[ImportOut], auth=allowed(Action.IMPORT))
def sent(request: HttpRequest) -> QuerySet[ImportRun]:
    """The files that were sent, the newest first."""
    return ImportRun.objects.defer("data").select_related("started_by").order_by("-pk")[:50]


@router.post("/imports/{run_id}/undo", response=ImportOut, auth=allowed(Action.IMPORT))
def undo(request: HttpRequest, run_id: Id) -> ImportRun:
    """Take out again what a list brought in, if nothing has come to it since."""
    get_object_or_404(ImportRun.objects.defer("data"), pk=run_id)
    return imports.undo(run_id)


@router.get("/imports/{run_id}", response=ImportOut, auth=allowed(Action.IMPORT))
def one(request: HttpRequest, run_id: Id) -> ImportRun:
    return get_object_or_404(ImportRun.objects.defer("data"), pk=run_id)


@router.get("/imports/{run_id}/rows", response=ImportRowsOut, auth=allowed(Action.IMPORT))
def rows(
    request: HttpRequest,
    run_id: Id,
    action: RowAction | None = None,
    doubtful: bool = False,
    offset: Offset = 0,
    limit: Limit = 100,
) -> Rows:
    """What the file would do, row by row."""
    rows = get_object_or_404(ImportRun.objects.defer("data"), pk=run_id).rows.all()
    if action is not None:
        rows = rows.filter(action=action)
    if doubtful:
        rows = rows.filter(detail__has_key=DOUBTFUL)
    return Rows(rows.count(), list(rows[offset : offset + limit]))


@router.get("/imports/{run_id}/refused.csv", response={200: None}, auth=allowed(Action.IMPORT))
def refused(request: HttpRequest, run_id: Id) -> StreamingHttpResponse:
    """The refused rows as a file: each as it was sent, with why; to mend and send again."""
    run = get_object_or_404(ImportRun, pk=run_id)
    lines = (line.encode() for line in chain([BOM], imports.refused_rows(run)))
    answer = StreamingHttpResponse(lines, content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="refused-{run.kind}-{run.pk}.csv"'
    return answer


@router.get("/import-columns", response=list[ColumnOut], auth=allowed(Action.IMPORT))
def columns_of(request: HttpRequest, kind: Kind) -> list[ColumnOut]:
    """The columns that a file of this kind may have."""
    return [
        {
            "name": column.name,
            "words": column.words,
            "own": column.own,
            "required": column.required,
            "many": column.many,
            "is_whose": kind == "list" and column.name in WHOSE,
            "ways": ["", *column.ways] if column.ways else [],
        }
        for column in _of(kind).table.columns
    ]


def _of(kind: str) -> kinds_of_file.Kind:
    names = (*kinds_of_file.OWN_LISTS, *kinds_of_file.NAMES)
    if kind not in names:
        raise Invalid(f"Files of {kind} are not brought in; allowed: {', '.join(names)}.", fields={"kind": "?"})
    return kinds_of_file.kinds(timezone.localdate())[kind]


@router.get("/records/{kind}.csv", response={200: None}, auth=allowed(Action.IMPORT), throttle=dear("paper"))
def take_out(request: HttpRequest, kind: Kind) -> StreamingHttpResponse:
    """All records of a kind, in the columns that bring them in."""
    found = _of(kind)
    note(Deed.TOOK_OUT, request, who(request), kind)
    answer = StreamingHttpResponse(
        (line.encode() for line in chain([BOM], found.lines(found.table))), content_type="text/csv; charset=utf-8"
    )
    answer["Content-Disposition"] = f'attachment; filename="{kind}.csv"'
    return answer


@router.get("/readings.csv", response={200: None}, auth=allowed(Action.IMPORT), throttle=dear("paper"))
def take_out_readings(request: HttpRequest) -> StreamingHttpResponse:
    """Every reading as it stands, those that are part of a finding too, a line each in SI units."""
    note(Deed.TOOK_OUT, request, who(request), "readings")
    lines = chain([BOM], table_lines(list(readings.COLUMNS), readings.exported()))
    answer = StreamingHttpResponse((line.encode() for line in lines), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = 'attachment; filename="readings.csv"'
    return answer


@router.post("/imports/{run_id}/columns", response=ImportOut, auth=allowed(Action.IMPORT))
def match(request: HttpRequest, run_id: Id, payload: MatchesIn) -> ImportRun:
    """Say what the file's columns are; it is remembered for the next file with the same columns."""
    get_object_or_404(ImportRun.objects.defer("data"), pk=run_id)
    with transaction.atomic():
        run = imports.match(
            run_id,
            {
                match.name: Matched(match.column, match.written, {word.said: word.means for word in match.words})
                for match in payload.matches
            },
        )
        tasks.check.defer(run_id=run.pk)
    return run


@router.post("/imports/{run_id}/columns/again", response=ImportOut, auth=allowed(Action.IMPORT))
def match_again(request: HttpRequest, run_id: Id) -> ImportRun:
    """Ask anew what the columns are."""
    get_object_or_404(ImportRun.objects.defer("data"), pk=run_id)
    return imports.ask_again(run_id)


@router.post("/imports/{run_id}/sheet", response=ImportOut, auth=allowed(Action.IMPORT))
def take_sheet(request: HttpRequest, run_id: Id, payload: SheetIn) -> ImportRun:
    """Read another sheet of the workbook; its columns are asked for anew."""
    get_object_or_404(ImportRun.objects.defer("data"), pk=run_id)
    with transaction.atomic():
        run = imports.take_sheet(run_id, payload.sheet)
        tasks.check.defer(run_id=run.pk)
    return run


@router.post("/imports/{run_id}/decisions", response=ImportOut, auth=allowed(Action.IMPORT))
def decide(request: HttpRequest, run_id: Id, payload: DecisionsIn) -> ImportRun:
    """Say of doubtful rows whether their customer is the one of the same name; the file is checked anew."""
    get_object_or_404(ImportRun.objects.defer("data"), pk=run_id)
    with transaction.atomic():
        run = imports.decide(run_id, {decided.number: decided.same for decided in payload.rows})
        tasks.check.defer(run_id=run.pk)
    return run


@router.post("/imports/{run_id}/confirm", response=ImportOut, auth=allowed(Action.IMPORT))
def confirm(request: HttpRequest, run_id: Id, payload: ConfirmIn) -> ImportRun:
    """Bring it in: all of it, or all but its refused rows."""
    get_object_or_404(ImportRun.objects.defer("data"), pk=run_id)
    with transaction.atomic():
        run = imports.confirm(run_id, payload.without_refused)
        tasks.bring_in.defer(run_id=run.pk)
    return run


@router.post("/imports/{run_id}/cancel", response=ImportOut, auth=allowed(Action.IMPORT))
def cancel(request: HttpRequest, run_id: Id) -> ImportRun:
    get_object_or_404(ImportRun.objects.defer("data"), pk=run_id)
    return imports.cancel(run_id)

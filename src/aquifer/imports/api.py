import datetime
from typing import Annotated, Any

from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import File, Form, Query, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import Field, StringConstraints

from aquifer.accounts.access import Action, allowed
from aquifer.errors import TooLarge
from aquifer.formats.csv_table import MOST_BYTES
from aquifer.imports import run as imports
from aquifer.imports import tasks
from aquifer.imports.models import ImportRun, ImportState, RowAction

router = Router(tags=["imports"])
Id = Annotated[int, Field(ge=1, le=2**62)]
Kind = Annotated[str, StringConstraints(max_length=40)]


class ImportOut(Schema):
    id: int
    kind: str
    file_name: str
    state: ImportState
    message: str
    rows_total: int
    rows_done: int
    counts: dict[str, int]
    started_at: datetime.datetime


class ImportRowOut(Schema):
    number: int
    action: RowAction
    key: str
    detail: dict[str, Any]


class ImportRowsOut(Schema):
    total: int
    rows: list[ImportRowOut]


@router.post("/imports", response={201: ImportOut}, auth=allowed(Action.IMPORT))
def send(request: HttpRequest, kind: Form[Kind], file: File[UploadedFile]) -> Status[ImportRun]:
    """Send a file to be checked; nothing is written until it is confirmed."""
    if (file.size or 0) > MOST_BYTES:
        size, most = (file.size or 0) / 1e6, MOST_BYTES / 1e6
        raise TooLarge(f"The file has {size:.0f} MB; at most {most:.0f} MB are read. Split it.", fields={"file": "?"})
    by: Any = request.auth  # type: ignore[attr-defined]
    with transaction.atomic():
        run = imports.start(kind, file.name or "", file.read(), by)
        tasks.check.defer(run_id=run.pk)
    return Status(201, run)


@router.get("/imports/{run_id}", response=ImportOut, auth=allowed(Action.IMPORT))
def one(request: HttpRequest, run_id: Id) -> ImportRun:
    return get_object_or_404(ImportRun.objects.defer("data"), pk=run_id)


@router.get("/imports/{run_id}/rows", response=ImportRowsOut, auth=allowed(Action.IMPORT))
def rows(
    request: HttpRequest,
    run_id: Id,
    action: RowAction | None = None,
    offset: int = Query(0, ge=0, le=10_000_000),
    limit: int = Query(100, ge=1, le=500),
) -> dict[str, Any]:
    """What the file would do, row by row."""
    found = get_object_or_404(ImportRun.objects.defer("data"), pk=run_id).rows.all()
    if action is not None:
        found = found.filter(action=action)
    return {"total": found.count(), "rows": list(found[offset : offset + limit])}


@router.post("/imports/{run_id}/confirm", response=ImportOut, auth=allowed(Action.IMPORT))
def confirm(request: HttpRequest, run_id: Id) -> ImportRun:
    get_object_or_404(ImportRun.objects.defer("data"), pk=run_id)
    with transaction.atomic():
        run = imports.confirm(run_id)
        tasks.bring_in.defer(run_id=run.pk)
    return run


@router.post("/imports/{run_id}/cancel", response=ImportOut, auth=allowed(Action.IMPORT))
def cancel(request: HttpRequest, run_id: Id) -> ImportRun:
    get_object_or_404(ImportRun.objects.defer("data"), pk=run_id)
    return imports.cancel(run_id)

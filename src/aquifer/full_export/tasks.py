"""Writing a base is a job; running it twice writes it twice, to the same place."""

import datetime
from pathlib import Path

from django.utils import timezone
from procrastinate.contrib.django import app

from aquifer import jobs
from aquifer.company.clock import by_its_clock
from aquifer.full_export.models import BaseFile, BaseFileState
from aquifer.full_export.write import write
from aquifer.standby import apart, has_copy, position
from aquifer.transactions import passes

LONGEST = datetime.timedelta(hours=2)
"""A base of 100,000 heaters with its cases is written in a quarter of an hour. Assumption."""
FOLLOWS_S = 5.0
"""So long the copy of the database is waited for, to have what was recorded before somebody asked. Assumption."""
KEPT = 3
"""Base files that are kept; older ones are deleted. Assumption."""


@app.task(name="full_export.write", queue="exports", retry=jobs.WHEN_BACK)
@by_its_clock
def write_base(base_file_id: int) -> None:
    asked = BaseFile.objects.filter(pk=base_file_id, state=BaseFileState.WRITING).first()
    if asked is None:
        return
    asked.path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    part = asked.path.with_suffix(".part")
    try:
        # Begun anew where the copy of the database takes back what was being read.
        apart(lambda: _write(asked, part), position() if has_copy() else "", wait_s=FOLLOWS_S)
    except BaseException as error:
        part.unlink(missing_ok=True)
        if passes(error):
            # The job is tried again, and the file with it.
            raise
        BaseFile.objects.filter(pk=asked.pk).update(state=BaseFileState.FAILED)
        raise
    part.replace(asked.path)
    BaseFile.objects.filter(pk=asked.pk).update(state=BaseFileState.READY, bytes=asked.path.stat().st_size)
    for old in BaseFile.objects.exclude(state=BaseFileState.WRITING)[KEPT:]:
        old.path.unlink(missing_ok=True)
        old.delete()


def _write(asked: BaseFile, part: Path) -> None:
    with part.open("wb") as target:
        write(target, timezone.now(), lambda done, total: _tell(asked, done, total))


@jobs.ends("full_export.write")
def given_up(why: str, base_file_id: int) -> None:
    """A piece of a file is nobody's."""
    for asked in BaseFile.objects.filter(pk=base_file_id, state=BaseFileState.WRITING):
        asked.path.with_suffix(".part").unlink(missing_ok=True)
        BaseFile.objects.filter(pk=asked.pk).update(state=BaseFileState.FAILED)


def _tell(asked: BaseFile, done: int, total: int) -> None:
    if done % 20 and done != total:
        return
    BaseFile.objects.filter(pk=asked.pk).update(done=done, total=total)

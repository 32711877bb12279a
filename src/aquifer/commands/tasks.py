"""Jobs about jobs, and about the whole installation."""

from pathlib import Path

from django.conf import settings
from django.utils import timezone
from procrastinate.contrib.django import app

from aquifer import backups, jobs, recovery
from aquifer.jobs import WHEN_BACK


@app.periodic(cron="* * * * *")
@app.task(name="jobs.revive", queue="jobs", retry=WHEN_BACK)
def revive(timestamp: int) -> None:
    """Every minute: jobs of workers that died are begun again."""
    jobs.revive()


@app.periodic(cron="15 4 * * *")
@app.task(name="jobs.forget", queue="jobs", retry=WHEN_BACK)
def forget(timestamp: int) -> None:
    """Nightly: jobs that are over for long are dropped."""
    jobs.forget()


KEPT = 14
"""Backups in the folder: two weeks to notice what went wrong. Assumption."""


@app.periodic(cron="30 4 * * *")
@app.task(name="backups.nightly", queue="jobs", retry=WHEN_BACK)
def back_up(timestamp: int) -> None:
    """Nightly: a backup that was restored once, where a folder for it is named. A failure fails the job."""
    if not settings.BACKUPS:
        return
    folder = Path(settings.BACKUPS)
    backups.write(folder, timezone.now())
    backups.thinned(folder, KEPT)


COPIES = 2
"""Copies of the server in the folder for recovery: a way back to any moment of the last week at least. Assumption."""


@app.periodic(cron="0 5 * * 0")
@app.task(name="recovery.weekly", queue="jobs", retry=WHEN_BACK)
def copy_server(timestamp: int) -> None:
    """On Sundays: a copy of the whole server from which one came up, where a folder is named. A failure fails the
    job."""
    if not settings.RECOVERY:
        return
    folder = Path(settings.RECOVERY)
    recovery.copy(folder, timezone.now())
    recovery.thinned(folder, COPIES)

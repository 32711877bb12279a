"""Jobs whose worker died in the middle: begun again, and given up in words if they bring their worker down each time.

Every job may run twice; see each ``tasks.py``.
"""

import datetime
import json
from collections.abc import Callable
from typing import TypeVar

from asgiref.sync import async_to_sync
from django.db.models import OuterRef, Subquery
from django.utils import timezone
from procrastinate.contrib.django.django_connector import DjangoConnector
from procrastinate.contrib.django.models import ProcrastinateEvent, ProcrastinateJob
from procrastinate.jobs import Job, Status
from procrastinate.manager import JobManager
from procrastinate.retry import BaseRetryStrategy, RetryDecision

from aquifer.transactions import passes

SILENT_S = 45.0
"""A worker that has not been heard of for so long is dead; it tells every ten seconds that it is there."""
MOST_STARTS = 3
"""A job that outlived as many workers is not begun again: it may be what ends them. Assumption."""
GIVEN_UP = "The program ended {starts} times while it was at this. Try it with less, or look into the worker's log."

BACK_S, MOST_TRIES = 10, 6
"""A job that met a database that was away is tried again after so many seconds, and so often: a minute in all, in which
another database has taken its place. Assumption."""


class WhenBack(BaseRetryStrategy):
    """Again, if what failed was the database and not the job."""

    def get_retry_decision(self, *, exception: BaseException, job: Job) -> RetryDecision | None:
        if passes(exception) and job.attempts < MOST_TRIES:
            return RetryDecision(retry_in={"seconds": BACK_S})
        return None


WHEN_BACK = WhenBack()

_Ends = TypeVar("_Ends", bound=Callable[..., None])
_ENDS: dict[str, Callable[..., None]] = {}


def ends(task: str) -> Callable[[_Ends], _Ends]:
    """Declare what tells people that a job of this task was given up; it is given why, and the job's own words."""

    def declare(what: _Ends) -> _Ends:
        _ENDS[task] = what
        return what

    return declare


def revive() -> tuple[int, int]:
    """Queue again every job whose worker died; returns how many were, and how many were given up."""
    manager = JobManager(DjangoConnector())
    again, given_up = 0, 0
    for job in async_to_sync(manager.get_stalled_jobs)(seconds_since_heartbeat=SILENT_S):
        if job.attempts + 1 < MOST_STARTS:
            async_to_sync(manager.retry_job)(job)
            again += 1
        else:
            _give_up(manager, job)
            given_up += 1
    _tell_of_failed()
    return again, given_up


DONE_KEPT_H, FAILED_KEPT_H = 7 * 24, 60 * 24
"""Hours for which it is kept that a job was done, and that one failed. Assumption: a week, and two months to notice."""


def forget() -> None:
    """Drop jobs that are over for long: every minute leaves some, and in a year they would be most of the database."""
    manager = JobManager(DjangoConnector())
    async_to_sync(manager.delete_old_jobs)(nb_hours=DONE_KEPT_H, include_cancelled=True, include_aborted=True)
    async_to_sync(manager.delete_old_jobs)(nb_hours=FAILED_KEPT_H, include_failed=True)


FAILED = "The program failed at this, and noted why in the worker's log. Try it again."
LOOKED_BACK = datetime.timedelta(days=1)


def _tell_of_failed() -> None:
    """What a failed job left begun is ended in words: it may have failed so that it could not say so itself, for want
    of room or of the database. Telling it twice changes nothing."""
    newest = ProcrastinateEvent.objects.filter(job=OuterRef("pk")).order_by("-at").values("at")[:1]
    lately = timezone.now() - LOOKED_BACK
    failed = ProcrastinateJob.objects.filter(status="failed", task_name__in=_ENDS).annotate(last=Subquery(newest))
    for job in failed.filter(last__gte=lately):
        alike = ProcrastinateJob.objects.filter(task_name=job.task_name, args=job.args, status__in=["todo", "doing"])
        if not alike.exists():
            _ENDS[job.task_name](FAILED, **job.args)


def _give_up(manager: JobManager, job: Job) -> None:
    async_to_sync(manager.finish_job)(job, Status.FAILED, delete_job=False)
    if tell := _ENDS.get(job.task_name):
        # Read past the driver's own decoding, a job's words come as they are stored.
        told = json.loads(job.task_kwargs) if isinstance(job.task_kwargs, str) else job.task_kwargs
        tell(GIVEN_UP.format(starts=job.attempts + 1), **told)

"""What the workers do, for whoever looks after the installation: what waits, what failed, and when the nights ran."""

import datetime
from typing import Annotated

from asgiref.sync import async_to_sync
from django.conf import settings
from django.db.models import Max, Min, OuterRef, Subquery
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Router, Status
from procrastinate.contrib.django.django_connector import DjangoConnector
from procrastinate.contrib.django.models import ProcrastinateEvent, ProcrastinateJob, ProcrastinateWorker
from procrastinate.manager import JobManager
from pydantic import Field
from typing_extensions import TypedDict

from aquifer import readiness
from aquifer.accounts.access import Action, allowed
from aquifer.errors import Conflict
from aquifer.wire import Id

router = Router(tags=["jobs"])
SAYS = {
    "forecasts.recompute_all": "Forecasts of the whole base",
    "forecasts.recompute_zones": "Forecasts of some waters",
    "forecasts.recompute_zone": "Forecasts of a water",
    "heaters.look_for_duplicates": "Heaters that may be one",
    "open_ends.reach": "Campaigns: heaters that came since",
    "review.renew": "Review of a large base",
    "rounds.plan": "Planning",
    "imports.check": "Looking through a list",
    "imports.bring_in": "Bringing a list in",
    "full_export.write": "Writing the whole base",
    "outbox.send": "Sending messages",
    "outbox.remind": "Reminders of visits",
    "office.send_password_link": "Sending a link for a password",
    "office.forget": "Forgetting what is old",
    "money.raise_quotes": "Quotes from what was found",
    "money.lapse_quotes": "Quotes that lapsed",
    "projections.live": "Living the years ahead",
    "projections.months": "Carrying on what came by the month",
    "projections.months_of": "What came by the month, carried on every month",
    "projections.as_it_is": "The years ahead of the base as it is, every month",
    "programs.tell": "Telling other programs",
    "programs.forget": "Forgetting what other programs were told",
    "jobs.revive": "Looking for jobs of workers that died",
    "jobs.forget": "Forgetting jobs that are done",
    "backups.nightly": "Backup",
    "attachments.look_over": "Looking over stored files",
    "recovery.weekly": "Copy of the server, for a way back to a moment",
}
"""What each job is called."""
NIGHTLY = (
    "forecasts.recompute_all",
    "backups.nightly",
    "attachments.look_over",
    "heaters.look_for_duplicates",
    "money.lapse_quotes",
)
"""Those of which it is told when they last went well."""
LATELY = datetime.timedelta(days=30)


class AtWorkOut(TypedDict):
    says: str
    since: datetime.datetime | None


class FailedOut(TypedDict):
    id: int
    says: str
    at: datetime.datetime | None
    tries: int


class NightOut(TypedDict):
    says: str
    last: Annotated[datetime.datetime | None, Field(description="When it last went well; none if never, or long ago.")]
    problem: Annotated[str, Field(description="Why it does nothing here; empty if it does.")]


class JobsOut(TypedDict):
    """Where the jobs stand."""

    troubles: Annotated[dict[str, str], Field(description="What is not as it should be, by what it concerns.")]
    workers: Annotated[int, Field(description="Heard of within a minute.")]
    waiting: int
    oldest: Annotated[datetime.datetime | None, Field(description="Since when the one waits that has waited longest.")]
    at_work: list[AtWorkOut]
    failed: list[FailedOut]
    nights: list[NightOut]


@router.get("/settings/jobs", response=JobsOut, auth=allowed(Action.KEEP_PEOPLE))
def jobs(request: HttpRequest) -> JobsOut:
    """What waits, what is at work, what failed in the last month, and when the nightly ones last went well."""
    now = timezone.now()
    heard = now - datetime.timedelta(seconds=readiness.SILENT_S)
    newest = ProcrastinateEvent.objects.filter(job=OuterRef("pk")).order_by("-at").values("at")[:1]
    every = ProcrastinateJob.objects.annotate(last=Subquery(newest))
    waits = ProcrastinateJob.objects.filter(status="todo").exclude(scheduled_at__gt=now)
    last = dict(
        ProcrastinateEvent.objects.filter(job__task_name__in=NIGHTLY, type="succeeded")
        .values_list("job__task_name")
        .annotate(last=Max("at"))
    )
    return {
        "troubles": readiness.troubles(),
        "workers": ProcrastinateWorker.objects.filter(last_heartbeat__gte=heard).count(),
        "waiting": waits.count(),
        "oldest": waits.filter(procrastinateevent__type="deferred").aggregate(at=Min("procrastinateevent__at"))["at"],
        "at_work": [{"says": _says(one), "since": one.last} for one in every.filter(status="doing").order_by("pk")],
        "failed": [
            {"id": one.pk, "says": _says(one), "at": one.last, "tries": one.attempts}
            for one in every.filter(status="failed", last__gte=now - LATELY).order_by("-last")[:50]
        ],
        "nights": [{"says": SAYS[name], "last": last.get(name), "problem": _problem(name)} for name in NIGHTLY],
    }


@router.post("/settings/jobs/{job_id}/again", response={204: None}, auth=allowed(Action.KEEP_PEOPLE))
def again(request: HttpRequest, job_id: Id) -> Status[None]:
    """Begin a job that failed once more."""
    one = get_object_or_404(ProcrastinateJob, pk=job_id)
    if one.status != "failed":
        raise Conflict("It did not fail, or it was begun again already.", "jobs.not_failed")
    async_to_sync(JobManager(DjangoConnector()).retry_job_by_id_async)(job_id=one.pk, retry_at=timezone.now())
    return Status(204, None)


def _problem(name: str) -> str:
    return "no folder is named for it" if name == "backups.nightly" and not settings.BACKUPS else ""


def _says(one: ProcrastinateJob) -> str:
    return SAYS.get(one.task_name, one.task_name)

"""Figures for an operator's watch, in the Prometheus text format; off unless a token for them is set.

Requests are counted by django-prometheus, over all processes of a server; how the jobs stand is asked each time.
"""

import contextlib
import datetime
import os
from collections.abc import Iterator

from django.conf import settings
from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.crypto import constant_time_compare
from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker
from prometheus_client import CONTENT_TYPE_LATEST, REGISTRY, CollectorRegistry, generate_latest
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.multiprocess import MultiProcessCollector
from prometheus_client.registry import Collector

from aquifer import readiness


def _jobs() -> list[tuple[str, str, int]]:
    now = timezone.now()
    heard = now - datetime.timedelta(seconds=readiness.SILENT_S)
    jobs = ProcrastinateJob.objects
    return [
        ("waiting", "Jobs that wait and may begin.", jobs.filter(status="todo").exclude(scheduled_at__gt=now).count()),
        ("at_work", "Jobs that a worker is at.", jobs.filter(status="doing").count()),
        ("failed", "Jobs that failed and were not begun again.", jobs.filter(status="failed").count()),
        ("workers", "Heard of lately.", ProcrastinateWorker.objects.filter(last_heartbeat__gte=heard).count()),
    ]


class Work(Collector):
    """Where the jobs stand, and what is not as it should be."""

    def collect(self) -> Iterator[GaugeMetricFamily]:
        """One gauge each; a database that is away is one that is not ready."""
        ready = GaugeMetricFamily("aquifer_ready", "1 where it is as it should be.", labels=["concern"])
        troubles = readiness.troubles()
        away = readiness.CONCERNS[0] in troubles
        for concern in readiness.CONCERNS[:1] if away else readiness.CONCERNS:
            ready.add_metric([concern], 0.0 if concern in troubles else 1.0)
        yield ready
        with contextlib.suppress(DatabaseError):
            for name, says, count in _jobs():
                yield GaugeMetricFamily(f"aquifer_jobs_{name}", says, value=count)


def metrics(request: HttpRequest) -> HttpResponse:
    """For whoever has the token; nothing is here without it."""
    given = request.headers.get("Authorization", "").removeprefix("Bearer ").strip()
    if not settings.METRICS_TOKEN or not constant_time_compare(given, settings.METRICS_TOKEN):
        return HttpResponse("There is nothing at this address.", status=404, content_type="text/plain")
    work = CollectorRegistry()
    work.register(Work())
    requests = REGISTRY
    if os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
        requests = CollectorRegistry()
        MultiProcessCollector(requests)  # type: ignore[no-untyped-call]
    told = generate_latest(work) + generate_latest(requests)
    return HttpResponse(told, content_type=CONTENT_TYPE_LATEST)

"""Whether this installation does its work: what an operator's watch asks, in one answer."""

import shutil
from collections.abc import Callable

from django.conf import settings
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor

SILENT_S = 60
"""After so long without a word of any worker, jobs are not done. Assumption."""
OLDEST_S = 900
"""A job that waits longer has been forgotten, or there are too few workers. Assumption."""
LEAST_FREE = 200 * 1024 * 1024
"""Bytes below which photographs are soon lost. Assumption."""


def troubles() -> dict[str, str]:
    """What is not as it should be, by what it concerns; empty if the work is done."""
    found = {}
    for name, check in _CHECKS.items():
        try:
            said = check()
        except DatabaseError:
            return {"database": "does not answer"}
        if said:
            found[name] = said
    return found


def _database() -> str:
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1")
    return ""


def _migrations() -> str:
    executor = MigrationExecutor(connection)
    missing = executor.migration_plan(executor.loader.graph.leaf_nodes())
    return f"{len(missing)} are to be applied: ./aquifer prepare" if missing else ""


def _worker() -> str:
    silent = _one("SELECT extract(epoch FROM now() - max(last_heartbeat)) FROM procrastinate_workers")
    if silent is None:
        return "there is none: nothing is planned, sent or forecast"
    return f"not heard of for {silent:.0f} s" if silent > SILENT_S else ""


def _queue() -> str:
    oldest = _one(
        "SELECT extract(epoch FROM now() - min(greatest(event.at, job.scheduled_at))) FROM procrastinate_jobs job "
        "JOIN procrastinate_events event ON event.job_id = job.id AND event.type = 'deferred' "
        "WHERE job.status = 'todo' AND (job.scheduled_at IS NULL OR job.scheduled_at < now())"
    )
    return f"a job has waited for {oldest / 60:.0f} minutes" if oldest is not None and oldest > OLDEST_S else ""


def _disk() -> str:
    folder = next(path for path in (settings.DATA, *settings.DATA.parents) if path.exists())
    free = shutil.disk_usage(folder).free
    return f"only {free / 1e6:.0f} MB are free" if free < LEAST_FREE else ""


def _one(query: str) -> float | None:
    with connection.cursor() as cursor:
        cursor.execute(query)
        row = cursor.fetchone()
    return None if row is None or row[0] is None else float(row[0])


_CHECKS: dict[str, Callable[[], str]] = {
    "database": _database,
    "migrations": _migrations,
    "worker": _worker,
    "queue": _queue,
    "disk": _disk,
}
CONCERNS = tuple(_CHECKS)
"""What is looked at, the database first: without it nothing is known of the others."""

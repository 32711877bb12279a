"""What an operator's watch is told, and that it is told when something is amiss."""

import datetime
import shutil

import pytest
from django.db import DatabaseError, connection
from django.test import Client
from django.utils import timezone

from aquifer import readiness


def worker(silent_s):
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO procrastinate_workers (last_heartbeat) VALUES (now() - %s * interval '1 second')", [silent_s]
        )


def waits(minutes, scheduled=None):
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO procrastinate_jobs (queue_name, task_name, priority, args, scheduled_at) "
            "VALUES ('q', 't', 0, '{}', %s) RETURNING id",
            [scheduled],
        )
        job = cursor.fetchone()[0]
        cursor.execute("UPDATE procrastinate_events SET at = now() - %s * interval '1 minute' WHERE job_id = %s",
                       [minutes, job])  # fmt: skip


@pytest.fixture
def well(db):
    worker(5)


def asked():
    answer = Client().get("/readyz")
    return answer.status_code, answer.json()


def test_all_is_well(well):
    waits(2)
    assert asked() == (200, {"status": "ok"})


def test_no_worker_and_one_that_is_silent_are_told(db):
    assert asked()[1]["worker"].startswith("there is none")
    worker(300)
    assert asked() == (503, {"status": "not ready", "worker": "not heard of for 300 s"})


def test_a_job_that_waits_too_long_is_told_and_one_for_later_is_not(well):
    waits(60, timezone.now() + datetime.timedelta(hours=1))
    assert asked()[0] == 200
    waits(60)
    assert asked() == (503, {"status": "not ready", "queue": "a job has waited for 60 minutes"})


def test_a_full_disk_is_told(well, monkeypatch):
    monkeypatch.setattr(shutil, "disk_usage", lambda _: shutil._ntuple_diskusage(10**12, 10**12, 50_000_000))
    assert asked()[1]["disk"] == "only 50 MB are free"


def test_a_migration_that_is_missing_is_told(well):
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM django_migrations WHERE app = 'stock'")
    assert asked()[1]["migrations"].endswith("to be applied: ./aquifer prepare")


def test_a_database_that_does_not_answer_is_all_there_is_to_say(db, monkeypatch):
    def gone():
        raise DatabaseError

    monkeypatch.setitem(readiness._CHECKS, "database", gone)
    assert asked() == (503, {"status": "not ready", "database": "does not answer"})
    assert Client().get("/healthz").json() == {"status": "ok"}

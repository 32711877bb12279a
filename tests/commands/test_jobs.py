"""A worker that is killed leaves its jobs at work; another begins them again, or gives them up in words."""

import datetime
import os
from types import SimpleNamespace

import pytest
from django.db import DataError, OperationalError, connection
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

from aquifer import jobs
from aquifer.commands import tasks as commands
from aquifer.full_export import tasks as exports
from aquifer.full_export.models import BaseFile, BaseFileState
from aquifer.imports.models import ImportRun, ImportState
from aquifer.rounds import run as planning
from aquifer.rounds import tasks as rounds
from aquifer.rounds.models import CrewMember, Run, RunKind, RunState

TODAY = datetime.date(2026, 11, 27)


def at_work(task, attempts=0, silent_s=None, **words):
    """A job that a worker has taken; of one that was not heard of for so long, or of one that is gone."""
    job = task.defer(**words)
    with connection.cursor() as cursor:
        worker = None
        if silent_s is not None:
            cursor.execute(
                "INSERT INTO procrastinate_workers (last_heartbeat) "
                "VALUES (now() - %s * interval '1 second') RETURNING id",
                [silent_s],
            )
            worker = cursor.fetchone()[0]
        cursor.execute(
            "UPDATE procrastinate_jobs SET status = 'doing', attempts = %s, worker_id = %s WHERE id = %s",
            [attempts, worker, job],
        )
    return job


def status(job):
    return ProcrastinateJob.objects.get(pk=job).status


@pytest.fixture
def run(people):
    CrewMember.objects.create(user=people["technician"], weekdays=[0, 1, 2, 3, 4])
    one = planning.ask(RunKind.SEASON, TODAY, 52, people["planner"], TODAY)
    Run.objects.filter(pk=one.pk).update(state=RunState.WORKING)
    return one


@pytest.mark.parametrize(("silent_s", "now"), [(None, "todo"), (300, "todo"), (5, "doing")])
def test_a_job_of_a_dead_worker_is_begun_again_and_one_of_a_living_is_left(run, silent_s, now):
    job = at_work(rounds.plan, silent_s=silent_s, run_id=run.pk)
    commands.revive(0)
    assert status(job) == now
    run.refresh_from_db()
    assert run.state == RunState.WORKING


def test_a_planning_that_outlived_its_workers_is_given_up_and_the_next_may_begin(run, people):
    job = at_work(rounds.plan, attempts=2, run_id=run.pk)
    assert jobs.revive() == (0, 1)
    run.refresh_from_db()
    assert (status(job), run.state) == ("failed", RunState.FAILED) and "ended 3 times" in run.message
    assert planning.ask(RunKind.SEASON, TODAY, 52, people["planner"], TODAY).state == RunState.WAITING


def test_a_planning_that_was_left_at_work_is_planned_when_it_is_begun_again(run, forecasted):
    planning.work_on(run.pk)
    run.refresh_from_db()
    assert run.state == RunState.READY, run.message


@pytest.mark.parametrize("state", [ImportState.CHECKING, ImportState.APPLYING])
def test_a_file_and_a_base_that_were_given_up_say_so(people, state):
    from aquifer.full_export import tasks as exports
    from aquifer.imports import tasks as imports

    file = ImportRun.objects.create(kind="list", file_name="a.csv", data=b"x", state=state, started_by=people["lead"])
    base = BaseFile.objects.create(asked_by=people["lead"])
    at_work(imports.check if state == ImportState.CHECKING else imports.bring_in, attempts=2, run_id=file.pk)
    at_work(exports.write_base, attempts=2, base_file_id=base.pk)
    assert jobs.revive() == (0, 2)
    file.refresh_from_db()
    base.refresh_from_db()
    assert (file.state, base.state) == (ImportState.REFUSED, BaseFileState.FAILED) and "ended 3 times" in file.message


@pytest.mark.skipif("AQUIFER_CHECK_AT" in os.environ, reason="the database's clock is not moved with ours")
@pytest.mark.parametrize("is_tried_again", [False, True])
def test_what_failed_without_being_able_to_say_so_is_ended_in_words(people, is_tried_again):
    """As where there was no room to write that it failed."""
    from aquifer.imports import tasks as imports

    file = ImportRun.objects.create(kind="list", file_name="a.csv", data=b"x", started_by=people["lead"])
    went(imports.check, "failed", 0, run_id=file.pk)
    if is_tried_again:
        imports.check.defer(run_id=file.pk)
    commands.revive(0)
    commands.revive(0)
    file.refresh_from_db()
    assert file.state == (ImportState.CHECKING if is_tried_again else ImportState.REFUSED)
    assert is_tried_again or "noted why" in file.message


def test_every_long_job_that_people_wait_for_tells_them_of_its_end():
    long = {"rounds.plan", "imports.check", "imports.bring_in", "full_export.write", "projections.live"}
    assert long == set(jobs._ENDS)


def went(task, how: str, days_ago: float, **words):
    """A job that ended so, that long ago."""
    job = task.defer(**words)
    with connection.cursor() as cursor:
        cursor.execute("UPDATE procrastinate_jobs SET status = %s WHERE id = %s", [how, job])
        cursor.execute(
            "INSERT INTO procrastinate_events (job_id, type, at) VALUES (%s, %s, now() - %s * interval '1 day')",
            [job, how, days_ago],
        )
        cursor.execute(
            "UPDATE procrastinate_events SET at = now() - %s * interval '1 day' WHERE job_id = %s", [days_ago, job]
        )
    return job


@pytest.mark.skipif("AQUIFER_CHECK_AT" in os.environ, reason="the database's clock is not moved with ours")
def test_the_lead_sees_what_waits_what_failed_and_when_the_nights_ran(as_role, run):
    from aquifer.forecasts import tasks as forecasts

    at_work(rounds.plan, silent_s=3, run_id=run.pk)
    went(forecasts.recompute_all, "succeeded", 0.5, timestamp=0)
    failed = went(commands.back_up, "failed", 0.2, timestamp=0)
    went(commands.back_up, "failed", 40, timestamp=0)
    waiting = commands.revive.defer(timestamp=0)
    told = as_role("lead").get("settings/jobs").json()
    assert [one["says"] for one in told["at_work"]] == ["Planning"] and told["workers"] == 1
    assert [(one["id"], one["says"]) for one in told["failed"]] == [(failed, "Backup")]
    assert told["waiting"] == 1 and told["oldest"] is not None and status(waiting) == "todo"
    nights = {one["says"]: one["last"] for one in told["nights"]}
    assert nights["Forecasts of the whole base"] is not None and nights["Backup"] is None
    assert as_role("planner").get("settings/jobs").status_code == 403


@pytest.mark.parametrize(("folder", "problem"), [("", "no folder is named for it"), ("/somewhere", "")])
def test_a_backup_that_is_written_nowhere_is_not_told_as_one_that_went_well(as_role, settings, folder, problem):
    settings.BACKUPS = folder
    nights = as_role("lead").get("settings/jobs").json()["nights"]
    assert [one["problem"] for one in nights if one["says"] == "Backup"] == [problem]
    assert not any(one["problem"] for one in nights if one["says"] != "Backup")


def test_a_job_that_failed_is_begun_again_once(as_role):
    lead, failed = as_role("lead"), went(commands.back_up, "failed", 0.2, timestamp=0)
    assert lead.post(f"settings/jobs/{failed}/again").status_code == 204
    assert status(failed) == "todo"
    assert lead.post(f"settings/jobs/{failed}/again").status_code == 409
    assert lead.post("settings/jobs/999999/again").status_code == 404


def test_jobs_that_are_over_for_long_are_dropped_and_failures_kept_longer(db):
    kept = [went(commands.revive, "succeeded", 6, timestamp=0), went(commands.revive, "failed", 50, timestamp=0)]
    for how, days in (("succeeded", 8), ("cancelled", 8), ("failed", 61)):
        went(commands.revive, how, days, timestamp=0)
    waiting = commands.revive.defer(timestamp=0)
    commands.forget(0)
    assert sorted(ProcrastinateJob.objects.values_list("pk", flat=True)) == sorted([*kept, waiting])


def test_every_job_has_a_name_that_people_read():
    from procrastinate.contrib.django import app

    from aquifer.office.jobs_api import NIGHTLY, SAYS

    ours = {name for name in app.tasks if "procrastinate." not in name}
    assert set(SAYS) == ours and set(NIGHTLY) <= ours


def away(*args, **named):
    raise OperationalError("server closed the connection unexpectedly")


def test_every_job_is_tried_again_where_the_database_was_away(db):
    """Procrastinate's own, which writes nothing of ours, aside."""
    ours = {name: task for name, task in app.tasks.items() if not name.startswith(("procrastinate", "builtin"))}
    assert len(ours) >= 25
    job = SimpleNamespace(attempts=0)
    for name, task in ours.items():
        decision = task.retry_strategy.get_retry_decision(exception=OperationalError("gone"), job=job)
        assert decision is not None, name


@pytest.mark.parametrize(
    ("error", "attempts", "again"),
    [
        (OperationalError("the connection is lost"), 0, True),
        (OperationalError("the connection is lost"), jobs.MOST_TRIES - 1, True),
        (OperationalError("the connection is lost"), jobs.MOST_TRIES, False),
        (ValueError("a fault of ours"), 0, False),
        (DataError("a number too large"), 0, False),
    ],
)
def test_a_job_is_tried_again_in_ten_seconds_for_a_minute_and_for_no_other_reason(error, attempts, again):
    before = timezone.now()
    decision = jobs.WHEN_BACK.get_retry_decision(exception=error, job=SimpleNamespace(attempts=attempts))
    assert (decision is not None) == again
    if again:
        assert 9 < (decision.retry_at - before).total_seconds() < 12


def test_what_the_database_left_half_done_goes_on_and_is_not_called_failed(run, forecasted, monkeypatch):
    with monkeypatch.context() as meanwhile:
        meanwhile.setattr(planning, "_season", away)
        with pytest.raises(OperationalError):
            planning.work_on(run.pk)
    run.refresh_from_db()
    assert run.state == RunState.WORKING
    planning.work_on(run.pk)
    run.refresh_from_db()
    assert run.state == RunState.READY
    base = BaseFile.objects.create(state=BaseFileState.WRITING)
    with monkeypatch.context() as meanwhile:
        meanwhile.setattr(exports, "write", away)
        with pytest.raises(OperationalError):
            exports.write_base(base.pk)
    base.refresh_from_db()
    assert base.state == BaseFileState.WRITING and not base.path.with_suffix(".part").exists()
    exports.write_base(base.pk)
    base.refresh_from_db()
    assert base.state == BaseFileState.READY

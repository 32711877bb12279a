"""A worker that is killed leaves its jobs at work; another begins them again, or gives them up in words."""

import datetime

import pytest
from django.db import connection
from procrastinate.contrib.django.models import ProcrastinateJob

from aquifer import jobs
from aquifer.commands import tasks as commands
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


def test_every_long_job_that_people_wait_for_tells_them_of_its_end():
    assert {"rounds.plan", "imports.check", "imports.bring_in", "whole_base.write"} == set(jobs._ENDS)

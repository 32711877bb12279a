"""Reads by a copy of the database that follows it: a real one, held up, cut off and ended."""

import os
import shutil
import tempfile
import time
from pathlib import Path

import pytest
from django.db import connection, connections
from django.test import Client
from django.test.utils import CaptureQueriesContext

from aquifer import postgres, recovery, standby
from aquifer.full_export.models import BaseFile
from aquifer.full_export.tasks import write_base
from aquifer.heaters.models import Heater
from tests.conftest import FLUSH, JsonClient, visit

AS = {"by": "postgres"} if os.geteuid() == 0 else {}
pytestmark = pytest.mark.django_db(transaction=True)
READS = ["outlook", "outlook/weeks", "outlook/trial?tolerance=0.2&practice=annual", "review/practices",
         "review/forecasts", "review/replacements", "review/work", "review/hours", "builds"]  # fmt: skip


@pytest.fixture(scope="module")
def copied():
    """The folder and port of a server that follows the one of the tests."""
    folder = Path(tempfile.mkdtemp(prefix="aquifer-standby-", dir="/var/tmp"))
    folder.chmod(0o755)
    if os.geteuid() == 0:
        shutil.chown(folder, "postgres")
    data, port = folder / "data", recovery._free_port()
    of_tests = postgres.own()
    # Its log is kept for the copy, however much the tests beside this one write.
    slot = f"copy_of_a_test_{port}"
    words = ("-D", str(data), "-R", "-X", "stream", "-c", "fast", "-C", "-S", slot)
    postgres.run("pg_basebackup", *words, server=of_tests, **AS)
    with (data / "postgresql.auto.conf").open("a") as settings:
        settings.write(f"listen_addresses = '127.0.0.1'\nunix_socket_directories = ''\nfsync = off\nport = {port}\n")
    postgres.run("pg_ctl", "-D", str(data), "-l", str(folder / "log"), "-w", "start", **AS)
    yield data, port
    postgres.run("pg_ctl", "-D", str(data), "-m", "immediate", "stop", **AS)
    shutil.rmtree(folder)
    with of_tests.connect() as there:
        until = time.monotonic() + 10
        while there.execute("SELECT active FROM pg_replication_slots WHERE slot_name = %s", [slot]).fetchone()[0]:
            assert time.monotonic() < until
            time.sleep(0.1)
        there.execute("SELECT pg_drop_replication_slot(%s)", [slot])


@pytest.fixture
def follower(copied, monkeypatch, transactional_db):
    """The copy as this process's, with a worker that was heard of just now; it has all that was written so far."""
    _, port = copied
    own = {**connection.settings_dict, "PORT": str(port)}
    monkeypatch.setitem(connections.settings, standby.ALIAS, own)
    monkeypatch.setattr(standby, "_away_until", 0.0)
    heard(0)
    found = connections[standby.ALIAS]

    def connected() -> None:
        # Django lets a test ask only databases that it made itself.
        if found.connection is None:
            with found.wrap_database_errors:
                found.connect()

    monkeypatch.setattr(found, "ensure_connection", connected)
    yield found
    found.close()
    delattr(connections._connections, standby.ALIAS)


def heard(*seconds_ago: float) -> None:
    """As workers were heard of."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_workers")
        for seconds in seconds_ago:
            cursor.execute(
                "INSERT INTO procrastinate_workers (last_heartbeat) VALUES (now() - make_interval(secs => %s))",
                [seconds],
            )


def has_followed() -> None:
    """Until the copy has all that is written so far."""
    until, written = time.monotonic() + 30, standby.position()
    while not standby._has_all(written):
        assert time.monotonic() < until, "the copy does not follow"
        time.sleep(0.02)


def goes(follower, on: bool) -> None:
    with follower.cursor() as cursor:
        cursor.execute(f"SELECT pg_wal_replay_{'resume' if on else 'pause'}()")
        while not on:
            cursor.execute("SELECT pg_get_wal_replay_pause_state()")
            if cursor.fetchone() == ("paused",):
                return
            time.sleep(0.02)


def asked(follower, client, path: str) -> tuple[int, dict]:
    """How much the copy was asked for an answer, and the answer."""
    with CaptureQueriesContext(follower) as there:
        answer = client.get(path)
    assert answer.status_code == 200, answer.content
    return len(there), answer.json()


def test_what_reads_whole_tables_asks_the_copy_and_says_the_same(follower, forecasted, as_role):
    has_followed()
    client = as_role("planner")
    for path in READS:
        queries, told = asked(follower, client, path)
        with pytest.MonkeyPatch.context() as without:
            without.delitem(connections.settings, standby.ALIAS)
            with CaptureQueriesContext(connection) as alone:
                assert client.get(path).json() == told, path
        own = [one for one in alone if "django_session" not in (one["sql"] or "")]
        # The first query asks whether it follows.
        assert queries >= 2, path
        assert queries <= len(own), path
    # A heater's own page is the database's.
    assert asked(follower, client, f"heaters/{forecasted['heaters'][0].pk}")[0] == 0


def test_the_database_is_not_asked_for_what_the_copy_answers(follower, forecasted, as_role):
    has_followed()
    client = as_role("planner")
    with CaptureQueriesContext(connection) as own:
        asked(follower, client, "outlook")
    assert not [one for one in own if "forecasts_" in (one["sql"] or "")]


def test_whoever_wrote_reads_it_though_the_copy_is_behind(follower, forecasted, as_role):
    has_followed()
    planner, other = as_role("lead"), as_role("planner")
    goes(follower, on=False)
    try:
        before = {row["id"]: row["windows"] for row in other.get("outlook").json()["rows"]}
        heater = forecasted["heaters"][0].pk
        assert planner.post("visits", visit(heater, FLUSH)).status_code == 201
        queries, told = asked(follower, planner, "outlook")
        assert {row["id"]: row["windows"] for row in told["rows"]}[heater] != before[heater]
        assert queries == 1
        # Somebody else reads what the copy has, for a moment.
        queries, told = asked(follower, other, "outlook")
        assert {row["id"]: row["windows"] for row in told["rows"]}[heater] == before[heater]
        assert queries > 1
    finally:
        goes(follower, on=True)
    has_followed()
    assert asked(follower, planner, "outlook")[0] > 1


def test_a_copy_in_which_no_worker_is_heard_of_is_not_read(follower, forecasted, as_role):
    client = as_role("planner")
    heard(standby.BEHIND_S - 9, standby.BEHIND_S + 5)
    has_followed()
    assert asked(follower, client, "outlook")[0] > 1
    heard(standby.BEHIND_S + 5)
    until = time.monotonic() + 30
    while asked(follower, client, "outlook")[0] != 1:
        assert time.monotonic() < until
    heard()
    time.sleep(0.5)
    assert asked(follower, client, "outlook")[0] == 1


def test_a_copy_that_is_away_is_left_alone_for_a_while_and_nobody_notices(follower, forecasted, as_role, monkeypatch):
    client = as_role("planner")
    monkeypatch.setitem(follower.settings_dict, "PORT", str(recovery._free_port()))
    follower.close()
    tried = []
    monkeypatch.setattr(follower, "connect", lambda: tried.append(1) or type(follower).connect(follower))
    for _ in range(3):
        assert asked_alone(client) == len(forecasted["heaters"])
    assert len(tried) == 1
    monkeypatch.setattr(standby, "_away_until", time.monotonic())
    asked_alone(client)
    assert len(tried) == 2


def asked_alone(client) -> int:
    answer = client.get("outlook")
    assert answer.status_code == 200
    return answer.json()["total"]


def test_what_a_page_asks_is_asked_again_of_the_database_where_the_copy_ends_under_it(follower, forecasted):
    has_followed()
    seen = []

    def reads() -> int:
        seen.append(standby.reading().alias)
        found = Heater.objects.count()
        if standby.reading() is follower:
            with follower.cursor() as cursor:
                cursor.execute("SELECT pg_terminate_backend(pg_backend_pid())")
        return found

    assert standby.apart(reads) == len(forecasted["heaters"])
    assert seen == ["standby", "default"]


def test_the_whole_base_is_written_from_the_copy_with_what_was_recorded_just_now(follower, forecasted, people):
    from aquifer.full_export.models import BaseFileState

    asked = BaseFile.objects.create(asked_by=people["lead"])
    with CaptureQueriesContext(follower) as there:
        write_base(base_file_id=asked.pk)
    asked.refresh_from_db()
    assert asked.state == BaseFileState.READY
    assert [one for one in there if "heaters_heater" in (one["sql"] or "")]


def test_the_cookie_of_somebody_who_wrote_nothing_or_lies_changes_nothing(follower, forecasted, people):
    has_followed()
    client = Client()
    client.force_login(people["planner"], backend="django.contrib.auth.backends.ModelBackend")
    for told in ("", "0/0", "zzz", "'; DROP TABLE heaters_heater", "1" * 4000):
        client.cookies[standby.WRITTEN] = told
        assert asked(follower, JsonClient(client), "outlook")[0] > 1, told[:20]
    client.cookies[standby.WRITTEN] = "FFFFFFFF/FFFFFFFF"
    assert asked(follower, JsonClient(client), "outlook")[0] == 1


def test_without_a_copy_nobody_is_told_how_far_the_log_has_come(forecasted, as_role):
    client = as_role("lead")
    assert client.post("visits", visit(forecasted["heaters"][0].pk, FLUSH)).status_code == 201
    assert standby.WRITTEN not in client.raw.cookies

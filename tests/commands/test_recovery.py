"""Back to a moment, drilled: a server of its own, a bad day, and the server as it was before that."""

import datetime
import os
import shutil
import subprocess
import tempfile
import time
from pathlib import Path

import pytest
from django.core.management import CommandError, call_command

from aquifer import postgres, recovery
from aquifer.commands import tasks
from aquifer.postgres import NotKept, Server

ROOT = Path(__file__).parents[2]
AS = {"by": "postgres"} if os.geteuid() == 0 else {}


@pytest.fixture
def room():
    """A folder where PostgreSQL's own user may go."""
    folder = Path(tempfile.mkdtemp(prefix="aquifer-test-", dir="/var/tmp"))
    folder.chmod(0o755)
    if os.geteuid() == 0:
        shutil.chown(folder, "postgres")
    yield folder
    shutil.rmtree(folder)


@pytest.fixture
def server(room):
    """A server that keeps its log."""
    (room / "kept" / "log").mkdir(parents=True)
    if os.geteuid() == 0:
        shutil.chown(room / "kept" / "log", "postgres")
    data, port = room / "data", recovery._free_port()
    one = Server("127.0.0.1", port, "aquifer")
    postgres.run("initdb", "-D", str(data), "-U", "aquifer", "-A", "trust", "-N", server=one, **AS)
    keeps = f"'{ROOT}/deploy/keep-log' %p %f '{room}/kept/log'"
    (data / "postgresql.conf").open("a").write(
        f"archive_mode = on\narchive_command = '{keeps.replace(chr(39), chr(39) * 2)}'\nfsync = off\n"
        "listen_addresses = '127.0.0.1'\nunix_socket_directories = ''\n"
    )
    # PostgreSQL's user may not go where the project lies: what it is to run lies beside its data.
    if os.geteuid() == 0:
        shutil.copy(ROOT / "deploy" / "keep-log", room / "keep-log")
        keeps = f"{room}/keep-log %p %f {room}/kept/log"
        (data / "postgresql.conf").open("a").write(f"archive_command = '{keeps}'\n")
    postgres.run(
        "pg_ctl", "-D", str(data), "-l", str(room / "log"), "-w", "-o", f"-p {port}", "start", server=one, **AS
    )
    yield one
    postgres.run("pg_ctl", "-D", str(data), "-m", "immediate", "stop", server=one, **AS)


def log_is_kept(server: Server) -> None:
    """Until everything that was written so far lies in the folder."""
    with server.connect() as there:
        # A later write: by it a recovery knows that it has reached a moment.
        there.execute("SELECT txid_current()")
        (name,) = there.execute("SELECT pg_walfile_name(pg_switch_wal())").fetchone()
        until = time.monotonic() + 60
        while (there.execute("SELECT last_archived_wal FROM pg_stat_archiver").fetchone()[0] or "") < name:
            assert time.monotonic() < until, "the log is not kept"
            time.sleep(0.05)


def now_of(server: Server) -> datetime.datetime:
    with server.connect() as there:
        return there.execute("SELECT clock_timestamp()").fetchone()[0]


def test_a_server_comes_back_as_it_was_before_a_bad_day(server, room):
    with server.connect() as there:
        there.execute("CREATE TABLE visits (words text)")
        there.execute("INSERT INTO visits VALUES ('before the copy')")
    too_early = now_of(server) - datetime.timedelta(minutes=1)
    first = recovery.copy(room / "kept", now_of(server) - datetime.timedelta(seconds=1), server)
    with server.connect() as there:
        there.execute("INSERT INTO visits SELECT 'after it' FROM generate_series(1, 20)")
    moment = now_of(server)
    with server.connect() as there:
        there.execute("DELETE FROM visits")
        there.execute("CREATE TABLE regretted (words text)")
    evening = now_of(server)
    log_is_kept(server)
    found = recovery.recover(room / "kept", moment, room / "then", "postgres", server)
    assert found.rows == {"visits": 21} and found.until < moment
    # Later it is as it was later, and what runs was not touched.
    later = recovery.recover(room / "kept", evening, room / "later", "postgres", server)
    assert later.rows == {"visits": 0, "regretted": 0}
    with server.connect() as there:
        assert there.execute("SELECT count(*) FROM visits").fetchone() == (0,)
    with pytest.raises(NotKept, match="no copy is older than"):
        recovery.recover(room / "kept", too_early, room / "never", "postgres", server)
    with pytest.raises(NotKept, match="is there already"):
        recovery.recover(room / "kept", moment, room / "then", "postgres", server)
    second = recovery.copy(room / "kept", now_of(server), server)
    time.sleep(1)
    night = now_of(server)
    log_is_kept(server)
    pieces = set(os.listdir(room / "kept" / "log"))
    assert list(recovery.copies(room / "kept").values()) == [first, second]
    assert recovery.thinned(room / "kept", 1) == [first] and not first.exists()
    assert 0 < len(set(os.listdir(room / "kept" / "log"))) < len(pieces)
    assert recovery.recover(room / "kept", night, room / "last", "postgres", server).rows == later.rows


def test_a_moment_that_the_log_does_not_reach_is_told_and_not_taken_for_reached(server, room):
    recovery.copy(room / "kept", now_of(server) - datetime.timedelta(seconds=1), server)
    with server.connect() as there:
        there.execute("CREATE TABLE visits (words text)")
    log_is_kept(server)
    tomorrow = now_of(server) + datetime.timedelta(days=1)
    with pytest.raises(NotKept, match="before configured recovery target was reached"):
        recovery.recover(room / "kept", tomorrow, room / "then", "postgres", server)


def test_a_copy_from_which_no_server_comes_up_gets_no_name(server, room, monkeypatch):
    def broken(path, into):
        into.mkdir(mode=0o700, parents=True)

    monkeypatch.setattr(recovery, "_unpacked", broken)
    with pytest.raises(NotKept, match="does not come up"):
        recovery.copy(room / "kept", now_of(server), server)
    assert recovery.copies(room / "kept") == {} and list((room / "kept" / "copies").iterdir()) == []


def test_a_piece_of_the_log_is_kept_once_and_never_another(tmp_path):
    def keep(words: str) -> int:
        (tmp_path / "piece").write_text(words)
        return subprocess.run([ROOT / "deploy" / "keep-log", tmp_path / "piece", "0001", tmp_path / "to"]).returncode

    (tmp_path / "to").mkdir()
    assert keep("one") == 0 and keep("one") == 0 and keep("another") != 0
    assert [path.name for path in (tmp_path / "to").iterdir()] == ["0001"] and (
        tmp_path / "to" / "0001"
    ).read_text() == "one"
    (tmp_path / "to").rename(tmp_path / "gone")
    assert keep("one") != 0


def test_the_weekly_one_is_made_where_a_folder_is_named(settings, monkeypatch, tmp_path):
    made = []
    monkeypatch.setattr(recovery, "copy", lambda folder, now: made.append(folder))
    settings.RECOVERY = ""
    tasks.copy_server(0)
    settings.RECOVERY = str(tmp_path)
    tasks.copy_server(0)
    assert made == [tmp_path]


def test_the_command_says_what_it_needs(tmp_path, db):
    for words, says in (
        ([tmp_path, "--to", "2031-01-01"], "--to needs --into"),
        ([tmp_path, "--to", "soon", "--into", tmp_path / "new"], "'soon' is no moment"),
        ([tmp_path, "--to", "2031-01-01", "--into", tmp_path / "new"], "no copy is older.*there is none"),
    ):
        with pytest.raises(CommandError, match=says):
            call_command("recovery", *words)

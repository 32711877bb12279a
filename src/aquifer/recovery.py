"""Back to a moment: copies of the whole server, and its log of every write since, kept as it is written.

The nightly backup loses a day at most; the log loses the minutes that ``archive_timeout`` says. A copy that was never
recovered from is a hope, so each is once, before it gets its name. Source: PostgreSQL documentation, Continuous
Archiving and Point-in-Time Recovery.
"""

import contextlib
import datetime
import os
import pwd
import re
import shutil
import socket
import tarfile
import tempfile
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import psycopg
from psycopg.rows import TupleRow

from aquifer import postgres
from aquifer.postgres import NotKept, Server

COPIES, LOG = "copies", "log"
NAME = re.compile(r"copy-(\d{4}-\d{2}-\d{2}T\d{6})Z")
SERVES_AS = "postgres"
"""Who runs a recovered server where this program runs as root, which PostgreSQL refuses. Debian's name."""
WAITS_S = 600
"""How long a server may take until it has read the log to a moment. Assumption: a day's log takes some minutes."""


def copy(folder: Path, now: datetime.datetime, server: Server | None = None) -> Path:
    """Copy the whole server beside its log, and recover from it once; the copy's folder.

    Raises: NotKept; nothing of a copy that failed stays.
    """
    server = server or postgres.own()
    (folder / COPIES).mkdir(parents=True, exist_ok=True)
    made = folder / COPIES / f"copy-{now.astimezone(datetime.UTC):%Y-%m-%dT%H%M%S}Z"
    part = Path(tempfile.mkdtemp(prefix=".part-", dir=folder / COPIES))
    try:
        postgres.run(
            "pg_basebackup", f"--pgdata={part}", "--format=tar", "--gzip", "--wal-method=stream", "--checkpoint=fast",
            server=server,
        )  # fmt: skip
        part.chmod(0o700)
        _proved(part, folder, server)
        part.rename(made)
    finally:
        shutil.rmtree(part, ignore_errors=True)
    return made


def copies(folder: Path) -> dict[datetime.datetime, Path]:
    """The copies in a folder by when they were begun, the oldest first."""
    found = {}
    for path in sorted((folder / COPIES).iterdir()) if (folder / COPIES).is_dir() else ():
        if match := NAME.fullmatch(path.name):
            begun = datetime.datetime.strptime(match[1], "%Y-%m-%dT%H%M%S").replace(tzinfo=datetime.UTC)
            found[begun] = path
    return found


def thinned(folder: Path, keep: int) -> list[Path]:
    """Drop all but the newest copies, and of the log what only they needed; returns those that went."""
    every = list(copies(folder).values())
    for path in every[:-keep]:
        shutil.rmtree(path)
    if every[:-keep] and (first := _first_segment(every[-keep])):
        postgres.run("pg_archivecleanup", str(folder / LOG), first)
    return every[:-keep]


def _first_segment(path: Path) -> str:
    """From which piece of the log on a copy needs it: the first that was written while it was made."""
    with tarfile.open(path / "pg_wal.tar.gz") as log:
        return min((name for name in log.getnames() if re.fullmatch(r"[0-9A-F]{24}", name)), default="")


@dataclass(frozen=True)
class Recovered:
    """A server as it was at a moment."""

    data: Path
    until: datetime.datetime | None
    """When the last write happened that it has, as far as the log says."""
    rows: dict[str, int]
    """By table of the database."""


def recover(
    folder: Path, moment: datetime.datetime, into: Path, database: str, server: Server | None = None
) -> Recovered:
    """Make a server as it was at a moment, in a folder that does not exist yet; nothing of what runs is touched.

    Parameters: database, whose rows are counted; server, of whose people it is.
    Raises: NotKept where no copy is as old, where the log breaks off before the moment, or the folder is there.
    """
    server = server or postgres.own()
    older = [path for begun, path in copies(folder).items() if begun < moment.astimezone(datetime.UTC)]
    if not older:
        first = min(copies(folder), default=None)
        since = f"the oldest is of {first:%Y-%m-%d %H:%M} UTC" if first else "there is none"
        raise NotKept(f"{folder}: no copy is older than {moment:%Y-%m-%d %H:%M %Z}: {since}.")
    if into.exists():
        raise NotKept(f"{into} is there already: name a folder that is not.")
    _unpacked(older[-1], into)
    _set(into, folder, f"recovery_target_time = '{moment.astimezone(datetime.UTC):%Y-%m-%d %H:%M:%S.%f}+00'")
    return _started(into, database, server)


def _proved(part: Path, folder: Path, server: Server) -> None:
    with tempfile.TemporaryDirectory(prefix=".proof-", dir=folder) as scratch:
        into = Path(scratch) / "data"
        Path(scratch).chmod(0o755)
        _unpacked(part, into)
        _set(into, folder, "recovery_target = 'immediate'")
        _started(into, "postgres", server)


def _unpacked(path: Path, into: Path) -> None:
    into.mkdir(mode=0o700, parents=True)
    for name, there in (("base.tar.gz", into), ("pg_wal.tar.gz", into / "pg_wal")):
        with tarfile.open(path / name) as archive:
            archive.extractall(there, filter="data")
    for spared in ("log", "server.log", "postmaster.pid"):
        with contextlib.suppress(IsADirectoryError):
            (into / spared).unlink(missing_ok=True)


def _set(into: Path, folder: Path, target: str) -> None:
    """What a server reads as it starts: where the log lies, and how far it is to be read."""
    log = str((folder / LOG).resolve()).replace("'", "''")
    with (into / "postgresql.auto.conf").open("a") as settings:
        settings.write(
            f"\nrestore_command = 'cp \"{log}/%f\" \"%p\"'\n{target}\nrecovery_target_action = 'promote'\n"
            # Of its own: it writes no log where the real one does.
            "archive_mode = off\nlisten_addresses = '127.0.0.1'\nunix_socket_directories = ''\n"
        )
    (into / "recovery.signal").touch()


def _started(into: Path, database: str, server: Server) -> Recovered:
    """Start it, wait until it has read the log, count, and stop it again. Raises: NotKept, saying why."""
    by = None
    if os.geteuid() == 0:
        person = pwd.getpwnam(SERVES_AS)
        for path in (into, *into.rglob("*")):
            os.chown(path, person.pw_uid, person.pw_gid, follow_symlinks=False)
        by = SERVES_AS
    port = _free_port()
    try:
        words = ("-D", str(into), "-l", str(into / "recovery.log"), "-w", "-t", str(WAITS_S), "-o", f"-p {port}")
        postgres.run("pg_ctl", *words, "start", by=by)
        try:
            return _counted(into, Server("127.0.0.1", port, server.user, server.password), database)
        finally:
            # One that could not read on has ended by itself.
            with contextlib.suppress(NotKept):
                postgres.run("pg_ctl", "-D", str(into), "-m", "fast", "-w", "stop", by=by)
    except (NotKept, psycopg.Error) as error:
        raise NotKept(f"{into}: the server does not come up as it was then: {_why(into) or error}") from None


def _why(into: Path) -> str:
    log = into / "recovery.log"
    said = [line for line in log.read_text().splitlines() if "FATAL:" in line] if log.exists() else []
    fatal = [line.partition("FATAL:")[2].strip() for line in said]
    # Whoever asked meanwhile was told that it was not ready.
    return next((one for one in fatal if "the database system is" not in one), "")


def _counted(into: Path, server: Server, database: str) -> Recovered:
    with _ready(server, database) as there:
        (until,) = there.execute("SELECT pg_last_xact_replay_timestamp()").fetchone() or (None,)
        names = there.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY 1").fetchall()
        counts = {}
        for (name,) in names:
            rows = there.execute(psycopg.sql.SQL("SELECT count(*) FROM {}").format(psycopg.sql.Identifier(name)))
            ((counts[name],),) = rows.fetchall()
    return Recovered(into, until, counts)


@contextlib.contextmanager
def _ready(server: Server, database: str) -> Iterator["psycopg.Connection[TupleRow]"]:
    """A connection once it is a server of its own, that writes."""
    until = time.monotonic() + WAITS_S
    with server.connect(database) as there:
        while there.execute("SELECT pg_is_in_recovery()").fetchone() == (True,):
            if time.monotonic() > until:
                raise NotKept(f"The log is not read after {WAITS_S} s.")
            time.sleep(0.1)
        yield there


def _free_port() -> int:
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        return int(one.getsockname()[1])

"""PostgreSQL's own programs, found and run against a server."""

import os
import shutil
import subprocess
from dataclasses import dataclass
from pathlib import Path

import psycopg
from django.db import connection
from psycopg.rows import TupleRow


class NotKept(Exception):
    """A backup cannot be made, or is not what it should be; the message says what and where."""


@dataclass(frozen=True)
class Server:
    """Where a database server is, and who asks."""

    host: str
    port: int
    user: str
    password: str = ""

    def connect(self, database: str = "postgres") -> "psycopg.Connection[TupleRow]":
        return psycopg.connect(
            host=self.host, port=self.port, user=self.user, password=self.password, dbname=database, autocommit=True,
            connect_timeout=5,
        )  # fmt: skip


def own() -> Server:
    """This installation's."""
    told = connection.settings_dict
    return Server(told["HOST"], int(told["PORT"]), told["USER"], told["PASSWORD"])


def run(program: str, *words: str, server: Server | None = None, by: str | None = None) -> str:
    """Run one of PostgreSQL's programs; what it wrote. Parameters: by, another of the machine's users.

    Raises: NotKept.
    """
    found = shutil.which(program) or next(
        (str(path) for path in sorted(Path("/usr/lib/postgresql").glob(f"*/bin/{program}"), reverse=True)), ""
    )
    if not found:
        raise NotKept(f"{program} is not installed: it comes with PostgreSQL.")
    where = server or own()
    told = {"PGHOST": where.host, "PGPORT": str(where.port), "PGUSER": where.user, "PGPASSWORD": where.password}
    done = subprocess.run(
        [found, *words], env={**os.environ, **told}, capture_output=True, text=True, check=False, user=by,
        cwd="/" if by else None,
    )  # fmt: skip
    if done.returncode:
        raise NotKept(f"{program} ended with {done.returncode}: {(done.stderr or done.stdout).strip()[-300:]}")
    return done.stdout

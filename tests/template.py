"""The empty database that every worker of the tests copies: migrated once, for as long as no migration changes."""

import hashlib
import os
import subprocess
import sys
from pathlib import Path

import psycopg
from django.db import connections
from psycopg import sql

SOURCE = Path(__file__).parents[1] / "src"
LOCK = 81_273_645
"""By which workers wait for the first of them."""


def template() -> str:
    """The name of the database, made if it is not there yet."""
    told = connections["default"].settings_dict
    name = f"aquifer_template_{_digest()}"
    with psycopg.connect(
        host=told["HOST"], port=told["PORT"], user=told["USER"], password=told["PASSWORD"], dbname="postgres",
        autocommit=True,
    ) as server:  # fmt: skip
        server.execute("SELECT pg_advisory_lock(%s)", [LOCK])
        known = [row[0] for row in server.execute("SELECT datname FROM pg_database WHERE datname ~ '^aquifer_templ'")]
        for old in known:
            if old != name:
                server.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(sql.Identifier(old)))
        if name not in known:
            # Under another name until it is whole.
            part = f"{name}_part"
            server.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(part)))
            subprocess.run(
                [sys.executable, "-m", "aquifer", "migrate", "-v0"], check=True,
                env={**os.environ, "AQUIFER_DB_NAME": part, "PYTHONPATH": str(SOURCE)},
            )  # fmt: skip
            server.execute(sql.SQL("ALTER DATABASE {} RENAME TO {}").format(sql.Identifier(part), sql.Identifier(name)))
    return name


def _digest() -> str:
    """Of every migration, ours and others'."""
    found = hashlib.sha256((SOURCE.parent / "requirements.txt").read_bytes())
    for path in sorted(SOURCE.rglob("migrations/*.py")):
        found.update(path.name.encode() + path.read_bytes())
    return found.hexdigest()[:12]

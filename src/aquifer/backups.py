"""The whole installation in one file, and the proof that it comes back: database, photographs and the signing key.

A backup that nobody restored is a hope. So each is restored into a database of its own, counted and dropped again, and
only then takes its name.
"""

import contextlib
import datetime
import hashlib
import io
import json
import os
import re
import shutil
import tarfile
import tempfile
import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

import psycopg
from django.conf import settings
from django.core.files.storage import default_storage
from django.db import connection, transaction
from django.db.backends.utils import CursorWrapper
from psycopg import sql
from psycopg.rows import TupleRow

from aquifer import postgres
from aquifer.files import keep_whole
from aquifer.postgres import NotKept

FORMAT = "aquifer-backup/1"
DUMP, MANIFEST, KEY = "database.dump", "manifest.json", "secret-key"
NAME = re.compile(r"aquifer-\d{4}-\d{2}-\d{2}T\d{6}\.tar")


def write(folder: Path, now: datetime.datetime) -> Path:
    """Write a backup and prove it; returns its file. What is written is seen by its owner alone.

    Raises: NotKept; nothing of a backup that failed stays.
    """
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"aquifer-{now.astimezone(datetime.UTC):%Y-%m-%dT%H%M%S}.tar"
    part = path.with_suffix(".part")
    try:
        with part.open("xb") as target:
            os.fchmod(target.fileno(), 0o600)
            _write(target, folder, now)
            target.flush()
            os.fsync(target.fileno())
        prove(part)
        part.rename(path)
    except OSError as error:
        raise NotKept(f"{path}: {error.strerror}") from None
    finally:
        part.unlink(missing_ok=True)
    return path


def _write(target: BinaryIO, folder: Path, now: datetime.datetime) -> None:
    # Where the backup finds room, not where the system keeps small things.
    room = tempfile.TemporaryDirectory(prefix=".part-", dir=folder)
    with room as scratch, tarfile.open(fileobj=target, mode="w") as archive:
        dump = Path(scratch) / DUMP
        counts = _dump(dump)
        files = {DUMP: _added(archive, DUMP, dump)}
        # After the dump: files are only ever added, so that it finds all of its own.
        for name in _stored():
            with default_storage.open(name) as stored, tempfile.NamedTemporaryFile(dir=scratch) as copy:
                shutil.copyfileobj(stored, copy)
                copy.flush()
                files[f"files/{name}"] = _added(archive, f"files/{name}", Path(copy.name))
        key = Path(scratch) / KEY
        key.write_text(settings.SECRET_KEY)
        files[KEY] = _added(archive, KEY, key)
        manifest = {"format": FORMAT, "made_at": now.isoformat(), "rows": counts, "files": files}
        told = json.dumps(manifest, indent=1).encode()
        info = tarfile.TarInfo(MANIFEST)
        info.size = len(told)
        archive.addfile(info, io.BytesIO(told))


def _dump(dump: Path) -> dict[str, int]:
    """The database as it is at one moment, and how many rows its tables have at that moment."""
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
        cursor.execute("SELECT pg_export_snapshot()")
        (snapshot,) = cursor.fetchone()
        counts = _counted(cursor)
        _run("pg_dump", "--format=custom", f"--snapshot={snapshot}", f"--file={dump}")
    return counts


def _counted(cursor: CursorWrapper | psycopg.Cursor[TupleRow]) -> dict[str, int]:
    cursor.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY tablename")
    counts = {}
    for (name,) in cursor.fetchall():
        cursor.execute(sql.SQL("SELECT count(*) FROM {}").format(sql.Identifier(name)))
        ((counts[name],),) = cursor.fetchall()
    return counts


def _stored(folder: str = "") -> Iterator[str]:
    try:
        folders, files = default_storage.listdir(folder)
    except FileNotFoundError:
        return
    for name in sorted(files):
        if not name.startswith("."):
            yield f"{folder}/{name}".lstrip("/")
    for name in sorted(folders):
        yield from _stored(f"{folder}/{name}".lstrip("/"))


def _added(archive: tarfile.TarFile, name: str, path: Path) -> dict[str, object]:
    digest = hashlib.sha256()
    with path.open("rb") as source:
        while piece := source.read(1 << 20):
            digest.update(piece)
    archive.add(path, arcname=name)
    return {"bytes": path.stat().st_size, "sha256": digest.hexdigest()}


def prove(path: Path) -> dict[str, int]:
    """Restore a backup into a database of its own and count what is in it; returns how many rows of each table.

    Raises: NotKept where a file is broken, or a table has other rows than when it was written.
    """
    scratch = f"{connection.settings_dict['NAME']}_proof_{uuid.uuid4().hex[:8]}"
    with _opened(path) as (manifest, folder):
        with postgres.own().connect() as server:
            server.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(scratch)))
        try:
            _run("pg_restore", "--exit-on-error", "--no-owner", str(folder / DUMP), database=scratch)
            with postgres.own().connect(scratch) as there, there.cursor() as cursor:
                found = _counted(cursor)
        finally:
            with postgres.own().connect() as server:
                server.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(sql.Identifier(scratch)))
    wanted = manifest.rows
    other = [name for name in sorted(wanted | found) if wanted.get(name) != found.get(name)]
    if other:
        name = other[0]
        raise NotKept(f"{path.name}: {name} has {found.get(name)} rows after the restore, {wanted.get(name)} before.")
    return found


def restore(path: Path) -> dict[str, int]:
    """Put a backup in the place of what is here: of the database, of files that are missing, and of the signing key,
    without which no link that was handed out is good. The key that was here is kept beside it.

    To be called while nothing else runs. Raises: NotKept; a backup that does not prove itself is not begun with.
    """
    found = prove(path)
    with _opened(path) as (manifest, folder):
        connection.close()
        _run("pg_restore", "--clean", "--if-exists", "--exit-on-error", "--no-owner", "--single-transaction",
             str(folder / DUMP), database=connection.settings_dict["NAME"])  # fmt: skip
        for name in manifest.files:
            if name.startswith("files/"):
                keep_whole(name.removeprefix("files/"), (folder / name).read_bytes())
        _put_key((folder / KEY).read_text())
    return found


def _put_key(key: str) -> None:
    here = settings.DATA / KEY
    if key == settings.SECRET_KEY:
        return
    if here.exists():
        here.rename(here.with_suffix(".before"))
    here.touch(mode=0o600)
    here.write_text(key)


def thinned(folder: Path, keep: int) -> list[Path]:
    """Drop all but the newest backups; returns those that went."""
    old = sorted(path for path in folder.iterdir() if NAME.fullmatch(path.name))[:-keep]
    for path in old:
        path.unlink()
    return old


@dataclass(frozen=True)
class _Manifest:
    """What a backup says of itself."""

    rows: dict[str, int]
    files: list[str]


@contextlib.contextmanager
def _opened(path: Path) -> Iterator[tuple[_Manifest, Path]]:
    """What a backup says of itself, and its files, each whole, in a folder that goes again."""
    room = path.parent if os.access(path.parent, os.W_OK) else None
    with tempfile.TemporaryDirectory(prefix=".part-", dir=room) as scratch:
        folder = Path(scratch)
        try:
            with tarfile.open(path) as archive:
                archive.extractall(folder, filter="data")
            manifest = json.loads((folder / MANIFEST).read_text())
            files: dict[str, dict[str, object]] = manifest["files"]
            rows = {str(name): int(count) for name, count in manifest["rows"].items()}
        except (OSError, tarfile.TarError, ValueError, KeyError, TypeError, AttributeError) as error:
            raise NotKept(f"{path}: this is no backup, or it is broken ({error}).") from None
        if manifest.get("format") != FORMAT:
            raise NotKept(f"{path}: the format is {manifest.get('format')!r}; {FORMAT!r} is read.")
        for name, told in files.items():
            there = folder / name
            if not there.is_file() or hashlib.sha256(there.read_bytes()).hexdigest() != told["sha256"]:
                raise NotKept(f"{path}: {name} is missing, or is not as it was written.")
        yield _Manifest(rows, list(files)), folder


def _run(program: str, *words: str, database: str = "") -> None:
    postgres.run(program, f"--dbname={database or connection.settings_dict['NAME']}", *words)

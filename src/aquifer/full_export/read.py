"""A whole base brought back from its file, into an installation that has none yet: all of it or nothing."""

import csv
import hashlib
import io
import json
import re
import zipfile
from collections.abc import Collection, Iterator
from typing import IO

from django.core.management.color import no_style
from django.db import IntegrityError, connection, models, transaction

from aquifer.accounts.models import Role, User
from aquifer.customers.models import Customer, Site
from aquifer.files import keep_whole
from aquifer.formats.sheet import plain
from aquifer.full_export import former
from aquifer.full_export.tables import PEOPLE, PEOPLE_COLUMNS, TABLES, BaseTable, held_of, times_kept
from aquifer.full_export.write import FORMAT, MANIFEST, Progress, nothing
from aquifer.heaters.models import Heater
from aquifer.imports import statistics
from aquifer.visits import pressure
from aquifer.water.models import Zone

BATCH = 2000
LONGEST_CELL = 4 * 1024 * 1024
MOST_UNPACKED = 64 * 1024**3
"""Bytes that all files of a base may have together. Assumption."""


_STORED = re.compile(r"attachments/[0-9a-f]{2}/[0-9a-f]{64}(-small)?\.(jpg|pdf)|logo/[0-9a-f]{64}\.png")
"""Where photographs, documents and the company's logo lie; nothing else is ever written to the storage."""


def _is_stored(name: str) -> bool:
    return name.startswith(("attachments/", "logo/"))


class UnreadableBase(ValueError):
    """The file cannot be brought in; the message says what was wrong and where. Nothing was written."""


def read(source: IO[bytes], progress: Progress = nothing) -> dict[str, int]:
    """Bring a base in; returns how many records of each table.

    Raises: UnreadableBase for a file that is broken or changed, or an installation that has records already.
    """
    if Zone.objects.exists() or Customer.objects.exists() or Heater.objects.exists():
        raise UnreadableBase("There are records here already; a whole base is brought into an empty installation.")
    try:
        archive = zipfile.ZipFile(source)
    except zipfile.BadZipFile:
        raise UnreadableBase("This is no zip archive, or it is broken.") from None
    with archive:
        files = _manifest(archive)
        counts: dict[str, int] = {}
        with transaction.atomic(), times_kept():
            people = _people(archive)
            for done, table in enumerate(TABLES):
                counts[table.name] = _table(archive, table, people)
                progress(done + 1, len(TABLES))
            _check_references()
            _follow_on()
            # A base of an older version names no day.
            pressure.keep(Site.objects.filter(pressure_on__isnull=True))
            # Before the records are in force: what they name is there.
            for name in filter(_is_stored, files):
                keep_whole(name, archive.read(name))
    statistics.refresh(*(table.model for table in TABLES))
    return counts


def _manifest(archive: zipfile.ZipFile) -> list[str]:
    """The files as the manifest lists them, each looked at whether it is whole."""
    try:
        manifest = json.loads(archive.read(MANIFEST))
        listed = {str(name): (int(told["bytes"]), str(told["sha256"])) for name, told in manifest["files"].items()}
    except (KeyError, ValueError, TypeError, AttributeError):
        raise UnreadableBase(f"{MANIFEST} is missing or cannot be read: this is no whole base.") from None
    if manifest.get("format") != FORMAT:
        raise UnreadableBase(f"{MANIFEST}: the format is {manifest.get('format')!r}; {FORMAT!r} is read.")
    there = {info.filename: info.file_size for info in archive.infolist()}
    if sum(there.values()) > MOST_UNPACKED:
        raise UnreadableBase("The archive unpacks to more than is read.")
    for name, (size, digest) in listed.items():
        if there.get(name) != size or _digest(archive, name) != digest:
            raise UnreadableBase(f"{name} is missing, or is not as it was written.")
        if _is_stored(name) and not _STORED.fullmatch(name):
            raise UnreadableBase(f"{name[:120]!r} is no name of a stored file.")
    known = {f"tables/{name}.csv" for name in (PEOPLE, *(table.name for table in TABLES), *former.TABLES.values())}
    for name in listed:
        if name.startswith("tables/") and name not in known:
            raise UnreadableBase(f"{name[:120]} is not known here: the base is of a newer version.")
    if f"tables/{PEOPLE}.csv" not in listed:
        raise UnreadableBase(f"tables/{PEOPLE}.csv is missing.")
    return list(listed)


def _digest(archive: zipfile.ZipFile, name: str) -> str:
    digest = hashlib.sha256()
    try:
        with archive.open(name) as file:
            while piece := file.read(1 << 20):
                digest.update(piece)
    except (zipfile.BadZipFile, OSError, EOFError, RuntimeError):
        return ""
    return digest.hexdigest()


def _lines(
    archive: zipfile.ZipFile, name: str, columns: list[str], optional: Collection[str] = ()
) -> Iterator[tuple[int, dict[str, str]]]:
    csv.field_size_limit(LONGEST_CELL)
    is_former = former.is_former(archive.namelist())
    with archive.open(_file_of(archive, name)) as file:
        reader = csv.reader(io.TextIOWrapper(file, "utf-8", newline=""), strict=True)
        try:
            header = next(reader, [])
            if is_former:
                header = former.header(name, header)
            if odd := sorted((set(header) ^ set(columns)) - (set(optional) - set(header))):
                raise UnreadableBase(f"tables/{name}.csv, row 1: its columns are not those of {name}: {odd[0]}.")
            for number, cells in enumerate(reader, start=2):
                if len(cells) != len(header):
                    raise UnreadableBase(f"tables/{name}.csv, row {number}: {len(cells)} cells, not {len(header)}.")
                line = dict(zip(header, cells, strict=True))
                yield number, former.line(name, line) if is_former else line
        except (csv.Error, UnicodeDecodeError) as error:
            raise UnreadableBase(f"tables/{name}.csv cannot be read: {error}.") from None


def _file_of(archive: zipfile.ZipFile, table: str) -> str:
    """The file of a table, under its name of today or the one before."""
    names = (f"tables/{name}.csv" for name in (table, former.TABLES.get(table, table)))
    return next((name for name in names if name in archive.namelist()), f"tables/{table}.csv")


def _people(archive: zipfile.ZipFile) -> dict[int, int]:
    """People by their ids in the file; who is not here yet comes without a password."""
    here = dict(User.objects.values_list("username", "pk"))
    ids = {}
    for number, line in _lines(archive, PEOPLE, list(PEOPLE_COLUMNS), ("is_new",)):
        name = plain(line["username"])
        if name not in here:
            if line["role"] not in Role.values:
                raise UnreadableBase(f"tables/{PEOPLE}.csv, row {number}: no role {line['role'][:40]!r}.")
            licences, ends = held_of(line["licences"])
            person = User(
                username=name,
                first_name=plain(line["first_name"]),
                last_name=plain(line["last_name"]),
                email=plain(line["email"]),
                role=line["role"],
                licences=licences,
                licence_ends=ends,
                is_active=line["is_active"] == "yes",
                is_new=line.get("is_new") == "yes",
            )
            person.set_unusable_password()
            person.save()
            here[name] = person.pk
        ids[int(line["id"])] = here[name]
    return ids


def _table(archive: zipfile.ZipFile, table: BaseTable, people: dict[int, int]) -> int:
    count = 0
    batch: list[models.Model] = []
    # A base written before there was such a table has none of it.
    if _file_of(archive, table.name) not in archive.namelist():
        return 0
    if table.name == "company":
        table.model._default_manager.all().delete()
    for number, line in _lines(archive, table.name, table.columns, table.optional):
        try:
            batch.append(table.record(line, people))
        except ValueError as error:
            raise UnreadableBase(f"tables/{table.name}.csv, row {number}, {error}") from None
        count += 1
        if len(batch) == BATCH:
            _put(table, batch, number)
            batch = []
    _put(table, batch, count + 1)
    return count


def _put(table: BaseTable, batch: list[models.Model], last: int) -> None:
    try:
        with transaction.atomic():
            table.model._base_manager.bulk_create(batch, batch_size=BATCH)
    except (IntegrityError, ValueError) as error:
        said = str(error).splitlines()[0]
        raise UnreadableBase(f"tables/{table.name}.csv, rows up to {last}: {said}") from None


def _check_references() -> None:
    try:
        connection.check_constraints()
    except IntegrityError as error:
        raise UnreadableBase(f"A record refers to one that is not in the file: {str(error).splitlines()[-1]}") from None


def _follow_on() -> None:
    """New records get the ids after those that came."""
    statements = connection.ops.sequence_reset_sql(no_style(), [table.model for table in TABLES])
    with connection.cursor() as cursor:
        for statement in statements:
            cursor.execute(statement)

"""A backup is everything, and is believed once it came back."""

import datetime
import io
import json
import stat
import tarfile

import pytest
from django.core.files.storage import default_storage
from django.core.management import CommandError, call_command
from django.db import connection

from aquifer import backups
from aquifer.attachments import keep
from aquifer.commands import tasks
from aquifer.customers.models import Customer
from aquifer.heaters.models import Heater
from aquifer.postgres import NotKept
from tests.attachments.test_attachments import picture

NOW = datetime.datetime(2031, 6, 1, 3, tzinfo=datetime.UTC)
pytestmark = pytest.mark.django_db(transaction=True)


def databases() -> set[str]:
    with connection.cursor() as cursor:
        own = f"{connection.settings_dict['NAME']}_proof%"
        cursor.execute("SELECT datname FROM pg_database WHERE datname LIKE %s", [own])
        return {name for (name,) in cursor.fetchall()}


def changed(path, name: str, content: bytes | None):
    """The backup with one of its files otherwise, or missing."""
    out = path.with_name("aquifer-2031-06-02T030000.tar")
    with tarfile.open(path) as old, tarfile.open(out, "w") as new:
        for member in old.getmembers():
            data = old.extractfile(member).read()
            if member.name == name:
                if content is None:
                    continue
                data, member.size = content, len(content)
            new.addfile(member, io.BytesIO(data))
    return out


def test_everything_comes_back_from_a_backup(forecasted, people, tmp_path, settings):
    heater = forecasted["heaters"][0]
    photograph = keep.add(heater.site_id, heater.pk, "the label", picture(), people["technician"])
    names, tags = (sorted(model.objects.values_list(*of)) for model, of in ((Customer, ["name"]), (Heater, ["tag"])))
    path = backups.write(tmp_path / "new" / "folder", NOW)
    assert path.name == "aquifer-2031-06-01T030000.tar" and stat.S_IMODE(path.stat().st_mode) == 0o600
    # Another machine: another key.
    key, settings.SECRET_KEY, settings.DATA = settings.SECRET_KEY, "of a new machine", tmp_path
    (tmp_path / "secret-key").write_text("of a new machine")
    # A bad day: records changed, a heater's visits and forecasts gone, the photograph deleted from the disk.
    Customer.objects.update(name="all the same")
    Heater.objects.filter(pk=heater.pk).update(tag="gone")
    with default_storage.open(photograph.path) as kept:
        content = kept.read()
    default_storage.delete(photograph.path)
    rows = backups.restore(path)
    assert rows["heaters_heater"] == Heater.objects.count() > 0 and rows["forecasts_forecast"] > 0
    assert sorted(Customer.objects.values_list("name")) == names
    assert sorted(Heater.objects.values_list("tag")) == tags
    with default_storage.open(photograph.path) as kept:
        assert kept.read() == content
    assert databases() == set()
    # Links that customers have are signed with the old one.
    assert (tmp_path / "secret-key").read_text() == key
    assert (tmp_path / "secret-key.before").read_text() == "of a new machine"
    assert stat.S_IMODE((tmp_path / "secret-key").stat().st_mode) == 0o600


@pytest.mark.parametrize(
    ("name", "content", "says"),
    [
        (backups.DUMP, b"PGDMP nonsense", "database.dump is missing, or is not as it was written"),
        (backups.KEY, None, "secret-key is missing"),
        (backups.MANIFEST, b"{}", "no backup, or it is broken"),
        (backups.MANIFEST, b'{"format": "other/2", "files": {}, "rows": {}}', "the format is 'other/2'"),
    ],
)
def test_a_broken_backup_is_told_and_restores_nothing(base, tmp_path, name, content, says):
    path = changed(backups.write(tmp_path, NOW), name, content)
    Customer.objects.update(name="still here")
    with pytest.raises(NotKept, match=says):
        backups.restore(path)
    assert set(Customer.objects.values_list("name", flat=True)) == {"still here"} and databases() == set()


def test_a_backup_that_lost_rows_does_not_prove_itself(base, tmp_path):
    path = backups.write(tmp_path, NOW)
    with tarfile.open(path) as archive:
        manifest = json.loads(archive.extractfile(backups.MANIFEST).read())
    manifest["rows"]["heaters_heater"] += 1
    short = changed(path, backups.MANIFEST, json.dumps(manifest).encode())
    with pytest.raises(NotKept, match="heaters_heater has 6 rows after the restore, 7 before"):
        backups.prove(short)
    assert databases() == set()


def test_a_backup_that_fails_leaves_nothing_that_looks_like_one(base, tmp_path, monkeypatch):
    def fails(path):
        raise NotKept("the proof failed")

    monkeypatch.setattr(backups, "prove", fails)
    with pytest.raises(NotKept, match="the proof failed"):
        backups.write(tmp_path, NOW)
    assert list(tmp_path.iterdir()) == []


def test_the_nightly_one_is_written_where_a_folder_is_named_and_the_oldest_go(base, tmp_path, settings, monkeypatch):
    settings.BACKUPS = ""
    tasks.back_up(0)
    settings.BACKUPS = str(tmp_path)
    for day in range(1, tasks.KEPT + 3):
        (tmp_path / f"aquifer-2020-01-{day:02d}T030000.tar").write_bytes(b"")
    (tmp_path / "notes.txt").write_text("not ours")
    tasks.back_up(0)
    left = sorted(one.name for one in tmp_path.iterdir())
    assert len(left) == tasks.KEPT + 1 and left[0] == "aquifer-2020-01-04T030000.tar" and "notes.txt" in left


def test_the_command_says_what_it_did_and_what_it_could_not(base, tmp_path, capsys):
    call_command("backup", tmp_path)
    path = next(tmp_path.iterdir())
    assert "proved by a restore" in capsys.readouterr().out
    call_command("backup", path, "--prove")
    assert "comes back whole" in capsys.readouterr().out
    with pytest.raises(CommandError, match="this is no backup"):
        call_command("backup", tmp_path / "nothing.tar", "--restore")

import csv
import datetime
import hashlib
import io
import json
import re
import zipfile

import pytest
import vobject
from django.core.files.storage import default_storage
from django.core.management import CommandError, call_command
from django.db import connection
from django.utils import timezone

from aquifer.accounts.models import User
from aquifer.attachments import keep
from aquifer.company.models import Company
from aquifer.core import case
from aquifer.customers.models import Customer, Site
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.recompute import recompute_all
from aquifer.full_export import former as former_words
from aquifer.full_export import tasks
from aquifer.full_export.models import BaseFile
from aquifer.full_export.read import UnreadableBase, read
from aquifer.full_export.tables import TABLES
from aquifer.full_export.write import MANIFEST, write
from aquifer.heaters.models import Heater, LeftAs
from aquifer.office import logo
from aquifer.outbox.models import Answer, Contact, Message
from aquifer.rounds.models import Absence, Appointment, Closed, CrewMember, Run, Service
from aquifer.visits.models import Finding, Visit
from tests.attachments.test_attachments import PDF, picture
from tests.conftest import FLUSH, ROD, visit
from tests.visits.devices import Device

NOW = timezone.now()


@pytest.fixture(autouse=True)
def storage(settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path / "media"
    settings.DATA = tmp_path


@pytest.fixture
def lived_in(base, as_role):
    """A base in which things happened: changes, findings, features, open ends, pictures, odd words."""
    client, lead = as_role("technician"), as_role("lead")
    heater = base["heaters"][0]
    odd = {"maker": "=cmd()", "model": "'+x", "location": 'Keller, "unten"', "version": 1}
    odd |= {"tag": "T-0", "site_id": heater.site_id, "kind": "gas_tank", "capacity_l": 189, "setpoint_c": 60}
    odd |= {"installed_on": heater.installed_on.isoformat()}
    assert client.patch(f"heaters/{heater.pk}", odd).status_code == 200
    for payload in (visit(heater.pk, FLUSH, ROD), visit(base["heaters"][1].pk, FLUSH, note="two\nlines")):
        assert client.post("visits", payload).status_code == 201
    feature = {"kind": "house_shut_off", "condition": "brittle", "where": "pit"}
    assert client.post(f"sites/{heater.site_id}/features", feature).status_code == 201
    lead.post("views", {"place": "register", "name": "Hard", "query": "q=chalk", "shared": True})
    site = base["sites"][0]
    site.longitude, site.latitude = 0.1 + 0.2, -1 / 3
    site.save()
    zone = base["zones"][0]
    zone.outline = [[0.0, 0.0], [1.0, 0.0], [1.0, 1.0]]
    zone.save()
    _planned(site, heater)
    by = User.objects.get(username="technician")
    keep.add(site.pk, heater.pk, "plate", picture(), by)
    keep.add(site.pk, None, "", PDF, by)
    recompute_all()
    return base


def _planned(site: Site, heater: Heater) -> None:
    """A crew, a visit that was offered and promised, and what was written about it."""
    day = datetime.date(2026, 12, 2)
    user = User.objects.get(username="technician")
    member = CrewMember.objects.create(user=user, longitude=1 / 3, latitude=0.5, weekdays=[1, 2], equipment=["jetter"])
    Absence.objects.create(first_on=day, last_on=day, why="fair")
    Closed.objects.create(site=site, first_on=day, last_on=day, yearly=True, why="let")
    run = Run.objects.create(
        kind="season", state="ready", first_week=day, weeks=52, figures={"gap": 0.1}, asked_by=user
    )
    one = Appointment.objects.create(
        site=site, week=day, on=day, member=member, begins=500, minutes=60, run=run, standing="promised",
        earliest=480, latest=540, needs=["gas"], latest_on=day,
    )  # fmt: skip
    Service.objects.create(appointment=one, heater=heater, component="sediment", method="jetting", hours=1.5)
    Contact.objects.create(customer=site.customer, way="text", opted_out_at=NOW)
    message = Message.objects.create(
        appointment=one, customer=site.customer, kind="offer", way="email", address="a@example.com", subject="=when?",
        body="two\nlines", not_before=NOW, state="answered",
    )  # fmt: skip
    Answer.objects.create(message=message, said="accepted", words="'+yes")


def written() -> bytes:
    out = io.BytesIO()
    write(out, NOW)
    return out.getvalue()


def files(data: bytes) -> dict[str, bytes]:
    archive = zipfile.ZipFile(io.BytesIO(data))
    return {name: archive.read(name) for name in archive.namelist()}


def repacked(data: bytes, changed: dict[str, bytes | None]) -> bytes:
    """The archive with some of its files otherwise."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, content in {**files(data), **changed}.items():
            if content is not None:
                archive.writestr(name, content)
    return out.getvalue()


def emptied() -> None:
    """As a new installation is: no records, no people, no files."""
    folders = default_storage.listdir("attachments")[0] if default_storage.exists("attachments") else []
    if default_storage.exists("logo"):
        for name in default_storage.listdir("logo")[1]:
            default_storage.delete(f"logo/{name}")
    for folder in folders:
        for name in default_storage.listdir(f"attachments/{folder}")[1]:
            default_storage.delete(f"attachments/{folder}/{name}")
    names = ", ".join(f'"{table.model._meta.db_table}"' for table in TABLES)
    connection.check_constraints()
    with connection.cursor() as cursor:
        cursor.execute(f"TRUNCATE {names}, forecasts_forecast, accounts_user RESTART IDENTITY CASCADE")


def without_people(name: str, content: bytes) -> list[list[str]]:
    """A file's lines without the ids of people, who have other ids elsewhere."""
    if not name.endswith(".csv"):
        return [[content.decode("latin-1")]]
    lines = list(csv.reader(io.StringIO(content.decode(), newline="")))
    by = [at for at, column in enumerate(lines[0]) if column.endswith(("_by_id", "user_id", "owner_id"))]
    return [[cell for at, cell in enumerate(line) if at not in by] for line in lines]


def test_a_base_comes_back_as_it_was(lived_in):
    off = LeftAs.objects.create(
        heater=Heater.objects.get(tag="T-0"),
        state={"words": {"energy": ["off"]}},
        title="The tank leaks",
        off=True,
        at=NOW,
    )
    Company.objects.update_or_create(pk=1, defaults={"logo": logo.keep(picture())})
    before, dates = files(written()), set(Forecast.objects.current().values_list("heater__tag", "component", "due_on"))
    data, counts = written(), (Heater.objects.count(), Finding.objects.count())
    emptied()
    User.objects.create(username="somebody-else")
    told = read(io.BytesIO(data))
    assert (told["heaters"], told["findings"]) == counts and told["history_of_heaters"] > 0
    after = files(written())
    assert set(after) == set(before)
    for name in set(before) - {MANIFEST, "tables/people.csv"}:
        assert without_people(name, after[name]) == without_people(name, before[name]), name
    heater = Heater.objects.get(tag="T-0")
    assert (heater.maker, heater.model, heater.location) == ("=cmd()", "'+x", 'Keller, "unten"')
    assert heater.visits.get().recorded_by.username == "technician"
    assert heater.history.latest().history_user.username == "technician"
    # A heater that is left off stays off for everybody, wherever its base goes.
    assert LeftAs.objects.get(off=True).state == off.state and heater.left_as.title == "The tank leaks"
    assert Site.objects.get(code="S1").longitude == 0.1 + 0.2
    recompute_all()
    assert set(Forecast.objects.current().values_list("heater__tag", "component", "due_on")) == dates
    kept = logo.opened(Company.current().logo)
    assert kept is not None and kept.read() == before[Company.current().logo]
    # New records do not get the ids of those that came.
    assert Customer.objects.create(code="C9", name="New").pk > Customer.objects.get(code="C1").pk


def test_the_open_files_are_what_their_formats_say(lived_in):
    found = files(written())
    zones = json.loads(found["zones.geojson"])["features"]
    ring = zones[0]["geometry"]["coordinates"][0]
    assert zones[0]["id"] == "CHK" and ring[0] == ring[-1] and len(ring) == 4
    sites = json.loads(found["sites.geojson"])["features"]
    assert [site["geometry"]["coordinates"] for site in sites] == [[0.1 + 0.2, -1 / 3]]
    cards = list(vobject.readComponents(found["customers.vcf"].decode()))
    assert [card.fn.value for card in cards] == ["Marram Bakery"] and len(cards[0].adr_list) == 3
    lines = found["cases.jsonl"].splitlines()
    assert len(lines) == 6
    assert case.answer(case.read(lines[0]))["components"]
    # No cell starts a formula, and nobody's password leaves.
    assert b"'=cmd()" in found["tables/heaters.csv"] and b",=cmd()" not in found["tables/heaters.csv"]
    assert b"password" not in found["tables/people.csv"]
    assert sum(name.startswith("attachments/") for name in found) == 3


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"tables/heaters.csv": b"id\n1\n"}, "tables/heaters.csv is missing, or is not as it was written"),
        ({"tables/sites.csv": None}, "tables/sites.csv is missing"),
        ({MANIFEST: None}, "no whole base"),
        ({MANIFEST: b'{"format": "aquifer-base/9", "files": {}}'}, "the format is 'aquifer-base/9'"),
        ({MANIFEST: b"[]"}, "no whole base"),
    ],
)
def test_a_broken_base_is_refused_with_what_is_wrong(lived_in, change, says):
    data = repacked(written(), change)
    emptied()
    with pytest.raises(UnreadableBase, match=says):
        read(io.BytesIO(data))
    assert not Heater.objects.exists()


def with_table(data: bytes, name: str, old: bytes, new: bytes) -> bytes:
    """The archive with a table changed and its manifest made to fit, as somebody with a text editor would."""
    content = re.sub(old, new, files(data)[f"tables/{name}.csv"])
    manifest = json.loads(files(data)[MANIFEST])
    manifest["files"][f"tables/{name}.csv"] = {"bytes": len(content), "sha256": hashlib.sha256(content).hexdigest()}
    return repacked(data, {f"tables/{name}.csv": content, MANIFEST: json.dumps(manifest).encode()})


@pytest.mark.parametrize(
    ("name", "old", "new", "says"),
    [
        ("heaters", b"gas_tankless", b"kettle", "tables/heaters.csv, rows up to"),
        ("heaters", b",189,", b",much,", "capacity_l: 'much' cannot be so"),
        ("sites", b"street", b"road", "row 1: its columns are not those of sites"),
        ("zones", b"CHK,Chalk", b"CHK", "row 2: 7 cells, not 8"),
        ("heaters", b"T-1,", b"T-0,", "duplicate key"),
        ("customers", rb"\n[^\n]*,Marram[^\n]*", b"", "not present in table"),
        ("people", b",technician,", b",emperor,", "no role 'emperor'"),
    ],
)
def test_a_base_with_a_wrong_record_comes_in_not_at_all(lived_in, name, old, new, says):
    data = with_table(written(), name, old, new)
    emptied()
    with pytest.raises(UnreadableBase, match=says):
        read(io.BytesIO(data))
    assert not Heater.objects.exists() and not Customer.objects.exists()


def without(data: bytes, columns: dict[str, list[str]], tables: list[str]) -> bytes:
    """A base as it was written before there were these columns and tables."""
    changed: dict[str, bytes | None] = {f"tables/{name}.csv": None for name in tables}
    manifest = json.loads(files(data)[MANIFEST])
    for name in tables:
        del manifest["files"][f"tables/{name}.csv"]
    for name, gone in columns.items():
        lines = list(csv.DictReader(io.StringIO(files(data)[f"tables/{name}.csv"].decode(), newline="")))
        kept = [column for column in lines[0] if column not in gone]
        out = io.StringIO(newline="")
        writer = csv.DictWriter(out, kept, extrasaction="ignore")
        writer.writeheader()
        writer.writerows(lines)
        content = changed[f"tables/{name}.csv"] = out.getvalue().encode()
        manifest["files"][f"tables/{name}.csv"] = {"bytes": len(content), "sha256": hashlib.sha256(content).hexdigest()}
    return repacked(data, {**changed, MANIFEST: json.dumps(manifest).encode()})


def test_a_base_of_before_there_were_some_columns_and_tables_comes_in(lived_in):
    """What a company wrote away last year is no use to it if this year's program refuses it."""
    data = without(written(), {"company": ["week_start", "clock"], "sites": ["postcode", "access"]}, ["left_as"])
    heaters = Heater.objects.count()
    emptied()
    read(io.BytesIO(data))
    assert (Company.current().week_start, Heater.objects.count()) == ("monday", heaters)
    assert Site.objects.get(code="S1").postcode == ""


def former(data: bytes) -> bytes:
    """A base as a version before wrote it, which called some tables, columns and words by other names."""
    was, now = "tables/begun_visits.csv", "tables/visit_sessions.csv"
    names = {
        "tables/visit_events.csv": [(b"session_id", b"begun_id"), (b",undo,", b",took_back,")],
        "tables/company.csv": [(b"practice_options", b"schools")],
        "tables/history_of_company.csv": [(b"practice_options", b"schools")],
        "tables/visits.csv": [
            (b'""deviation""', b'""otherwise""'),
            (b'""expansion_tank.', b'""vessel.'),
        ],
    }
    changed: dict[str, bytes | None] = {now: None, was: files(data)[now]}
    for name, words in names.items():
        content = files(data)[name]
        for word, before in words:
            assert word in content, (name, word)
            content = content.replace(word, before)
        changed[name] = content
    manifest = json.loads(files(data)[MANIFEST])
    del manifest["files"][now]
    for name, content in changed.items():
        if content is not None:
            manifest["files"][name] = {"bytes": len(content), "sha256": hashlib.sha256(content).hexdigest()}
    return repacked(data, {**changed, MANIFEST: json.dumps(manifest).encode()})


def test_a_base_of_before_some_names_were_changed_comes_in_whole(lived_in, as_role):
    phone = Device(as_role("technician"), Heater.objects.get(tag="T-2"))
    phone.says(
        first := phone.tap(), phone.tap("", "undo", of=first["client_id"]),
        phone.tap("arrival.shut_off", "deviation", choice=1),
        phone.tap("", "answered", field="expansion_tank.precharge_kpa", value=310),
    )  # fmt: skip
    body = visit(phone.heater.pk, {"task": "expansion_tank_check", "at_valve": "air", "precharge_kpa": 310})
    assert phone.client.post("visits", body | {"client_id": phone.visit}).status_code == 201
    Company.objects.update(practice_options=["always_flush"])

    def told():
        record = Visit.objects.get(client_id=phone.visit)
        kinds = list(record.session.events.values_list("kind", flat=True))
        return kinds, record.steps, record.readings, Company.current().practice_options

    before, data = told(), former(written())
    assert "undo" in before[0] and "deviation" in str(before[1]) and "expansion_tank." in str(before[2])
    emptied()
    read(io.BytesIO(data))
    assert told() == before


def test_why_a_date_moved_comes_in_as_it_was_told():
    moved = [{"component": "sediment", "days": 3, "sentence": "Out came nothing."}]
    (one,) = json.loads(former_words.line("visits", {"moved": json.dumps(moved)})["moved"])
    reasons = [{"key": "as_told", "figures": {"words": "Out came nothing."}}]
    assert one == {"component": "sediment", "days": 3, "reasons": reasons}
    assert former_words.line("visits", {"moved": ""}) == {"moved": "[]"}
    for broken in ("{", "7", '["x"]'):
        assert former_words.line("visits", {"moved": broken}) == {"moved": broken}


def test_a_base_of_a_newer_version_is_refused_before_it_loses_what_it_does_not_know(lived_in):
    data = written()
    manifest = json.loads(files(data)[MANIFEST])
    manifest["files"]["tables/leases.csv"] = {"bytes": 3, "sha256": hashlib.sha256(b"id\n").hexdigest()}
    data = repacked(data, {"tables/leases.csv": b"id\n", MANIFEST: json.dumps(manifest).encode()})
    emptied()
    with pytest.raises(UnreadableBase, match="newer version"):
        read(io.BytesIO(data))


def test_a_base_goes_into_an_empty_installation_only(lived_in, tmp_path, capsys):
    path = tmp_path / "base.zip"
    call_command("export_base", path, "--without-cases")
    assert "cases.jsonl" not in zipfile.ZipFile(path).namelist()
    with pytest.raises(CommandError, match="records here already"):
        call_command("import_base", path)
    with pytest.raises(CommandError, match="File exists"):
        call_command("export_base", path)
    emptied()
    call_command("import_base", path)
    assert "6 heaters" in capsys.readouterr().out
    assert Forecast.objects.current().exists()
    (tmp_path / "not.zip").write_bytes(b"no archive")
    emptied()
    with pytest.raises(CommandError, match="no zip archive"):
        call_command("import_base", tmp_path / "not.zip")


def test_the_lead_asks_for_a_base_and_fetches_it(lived_in, as_role):
    client = as_role("lead")
    asked = client.post("base-files")
    assert asked.status_code == 201
    assert client.post("base-files").status_code == 409
    assert client.get(f"base-files/{asked.json()['id']}/file").status_code == 404
    tasks.write_base(asked.json()["id"])
    told = client.get("base-files").json()[0]
    assert told["state"] == "ready" and told["done"] == told["total"] and told["bytes"] > 1000
    file = client.raw.get(f"/api/base-files/{told['id']}/file")
    assert MANIFEST in files(b"".join(file.streaming_content))
    assert as_role("planner").post("base-files").status_code == 403


def test_a_base_that_a_stopped_worker_left_is_not_in_the_way_for_ever(lived_in, as_role):
    client = as_role("lead")
    left = client.post("base-files").json()["id"]
    assert client.post("base-files").status_code == 409
    BaseFile.objects.filter(pk=left).update(asked_at=timezone.now() - tasks.LONGEST - datetime.timedelta(minutes=1))
    assert client.post("base-files").status_code == 201


@pytest.mark.parametrize(
    "name",
    [
        "attachments/../settings.py",
        "logo/../../x.png",
        "logo/x.svg",
        "attachments/ab/x.html",
        "attachments//etc/passwd.pdf",
    ],
)
def test_a_base_writes_nothing_but_stored_files_to_the_storage(lived_in, name):
    data = written()
    manifest = json.loads(files(data)[MANIFEST])
    manifest["files"][name] = {"bytes": 1, "sha256": hashlib.sha256(b"x").hexdigest()}
    data = repacked(data, {name: b"x", MANIFEST: json.dumps(manifest).encode()})
    emptied()
    with pytest.raises(UnreadableBase, match="no name of a stored file"):
        read(io.BytesIO(data))
    assert not Heater.objects.exists()


def test_only_the_newest_bases_are_kept(lived_in, as_role):
    for _ in range(tasks.KEPT + 2):
        tasks.write_base(as_role("lead").post("base-files").json()["id"])
    kept = list(BaseFile.objects.all())
    assert len(kept) == tasks.KEPT and all(one.path.exists() for one in kept)
    assert len(list(kept[0].path.parent.iterdir())) == tasks.KEPT


def test_a_base_that_could_not_be_written_says_so_and_leaves_no_half(lived_in, as_role, monkeypatch):
    asked = as_role("lead").post("base-files").json()["id"]
    monkeypatch.setattr("aquifer.full_export.write._zones", lambda: 1 / 0)
    with pytest.raises(ZeroDivisionError):
        tasks.write_base(asked)
    found = BaseFile.objects.get(pk=asked)
    assert found.state == "failed" and not list(found.path.parent.iterdir())

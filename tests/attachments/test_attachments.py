import datetime
import errno
import hashlib
import io
import re
import uuid

import pytest
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from aquifer.attachments import keep, tasks
from aquifer.attachments.models import Attachment
from tests.conftest import JsonClient

PDF = b"%PDF-1.7\n1 0 obj<<>>endobj\ntrailer<<>>\n%%EOF\n"


@pytest.fixture(autouse=True)
def storage(settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path
    return tmp_path


def picture(form: str = "JPEG", size: tuple[int, int] = (600, 400), **saved) -> bytes:
    image = Image.new("RGB", size, (140, 90, 40))
    image.paste((20, 60, 90), (0, 0, size[0] // 2, size[1]))
    out = io.BytesIO()
    image.save(out, form, **saved)
    return out.getvalue()


def told_by_a_camera() -> bytes:
    exif = Image.Exif()
    exif[0x0112] = 6  # turned by a quarter
    exif.get_ifd(0x8769)[0x9003] = "2025:03:09 10:00:00"
    exif.get_ifd(0x8825)[1] = "N"
    exif[0x010F] = "A maker"
    return picture(exif=exif.tobytes())


def send(client: JsonClient, data: bytes, name: str = "photo.jpg", **about):
    return client.raw.post("/api/attachments", {"file": SimpleUploadedFile(name, data), **about})


def test_a_photograph_is_made_anew_upright_and_without_what_the_camera_wrote(as_role, base):
    client, heater = as_role("technician"), base["heaters"][0]
    answer = send(client, told_by_a_camera(), heater_id=heater.pk, caption="Rating plate")
    assert answer.status_code == 201
    told = answer.json()
    assert (told["width"], told["height"]) == (400, 600)
    assert (told["taken_on"], told["caption"], told["added_by"]) == ("2025-03-09", "Rating plate", "Technician")
    file = client.raw.get(f"/api/attachments/{told['id']}/file")
    kept = Image.open(io.BytesIO(b"".join(file.streaming_content)))
    assert kept.format == "JPEG" and dict(kept.getexif()) == {}
    small = client.raw.get(f"/api/attachments/{told['id']}/file?small=true")
    assert max(Image.open(io.BytesIO(b"".join(small.streaming_content))).size) == keep.SMALL_SIDE
    assert "private" in file["Cache-Control"] and "sandbox" in file["Content-Security-Policy"]


@pytest.mark.parametrize("form", ["PNG", "WEBP"])
def test_large_pictures_of_other_kinds_are_made_smaller(as_role, base, form):
    told = send(as_role("apprentice"), picture(form, (5000, 1000)), site_id=base["sites"][0].pk).json()
    assert (told["width"], told["height"]) == (keep.LONGEST_SIDE, round(keep.LONGEST_SIDE / 5))


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"MZ this is a program", "no photograph"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'><script>alert(1)</script></svg>", "no photograph"),
        (b"GIF89a" + bytes(200), "no photograph"),
        (picture()[:3000], "broken"),
        (b"\xff\xd8\xff\xe0 a JPEG's beginning", "no photograph or|broken"),
        (b"%PDF-1.7\nhalf of a docu", "no whole PDF"),
        (picture("PNG", (8000, 7000)), "at most 50 million"),
    ],
)
def test_what_is_no_picture_is_refused_and_nothing_is_kept(as_role, base, storage, data, says):
    answer = send(as_role("technician"), data, site_id=base["sites"][0].pk)
    assert answer.status_code == 422 and re.search(says, answer.json()["message"])
    assert not Attachment.objects.exists() and not list(storage.rglob("*.jpg"))


def test_a_picture_that_would_fill_the_memory_is_told_by_its_header(as_role, base):
    data = bytearray(picture("PNG", (10, 10)))
    data[16:24] = (60_000).to_bytes(4, "big") * 2
    answer = send(as_role("technician"), bytes(data), site_id=base["sites"][0].pk)
    assert answer.status_code == 422


def test_a_file_too_large_is_told_so(as_role, base):
    answer = send(as_role("technician"), bytes(keep.MOST_BYTES + 1), site_id=base["sites"][0].pk)
    assert answer.status_code == 413 and "at most 17 MB" in answer.json()["message"]


def test_a_document_is_kept_as_it_is_and_only_ever_saved(as_role, base):
    client = as_role("planner")
    told = send(client, PDF, "manual.pdf", site_id=base["sites"][0].pk).json()
    assert told["kind"] == "document"
    file = client.raw.get(f"/api/attachments/{told['id']}/file")
    assert file["Content-Disposition"].startswith("attachment") and b"".join(file.streaming_content) == PDF


def test_nobody_sees_a_picture_without_signing_in(as_role, base, client):
    told = send(as_role("planner"), picture(), site_id=base["sites"][0].pk).json()
    assert client.get(f"/api/attachments/{told['id']}/file").status_code == 401


def test_a_site_shows_those_of_its_heaters_and_what_is_gone_is_shown_no_longer(as_role, base):
    client, heater = as_role("planner"), base["heaters"][0]
    told = send(client, picture(), heater_id=heater.pk).json()
    send(client, PDF, site_id=heater.site_id)
    assert len(client.get(f"attachments?site_id={heater.site_id}").json()) == 2
    assert len(client.get(f"attachments?heater_id={heater.pk}").json()) == 1
    assert client.get("attachments").status_code == 422
    client.patch(f"attachments/{told['id']}", {"gone": True})
    assert client.get(f"attachments?heater_id={heater.pk}").json() == []
    history = client.get(f"heaters/{heater.pk}/history").json()
    assert history[0]["lines"][0]["field"] == "gone"
    assert client.post(f"changes/{history[0]['change']}/undo").status_code == 200
    assert len(client.get(f"attachments?heater_id={heater.pk}").json()) == 1


def test_an_apprentice_may_add_but_not_take_away(as_role, base):
    told = send(as_role("apprentice"), picture(), site_id=base["sites"][0].pk).json()
    assert as_role("apprentice").patch(f"attachments/{told['id']}", {"gone": True}).status_code == 403


def test_a_file_that_the_storage_lost_is_told(as_role, base, storage):
    client = as_role("planner")
    told = send(client, picture(), site_id=base["sites"][0].pk).json()
    for file in storage.rglob("*.jpg"):
        file.unlink()
    assert client.get(f"attachments/{told['id']}/file").status_code == 404


def test_an_attachment_needs_a_place(as_role, base):
    assert send(as_role("planner"), picture()).status_code == 422
    assert send(as_role("planner"), picture(), site_id=99_999).status_code == 404


def test_a_full_disk_leaves_no_piece_and_the_picture_comes_whole_the_next_time(as_role, base, storage, monkeypatch):
    client, site = as_role("technician"), base["sites"][0]

    def full(_):
        raise OSError(errno.ENOSPC, "No space left on device")

    with monkeypatch.context() as disk:
        disk.setattr("aquifer.files.os.fsync", full)
        client.raw.raise_request_exception = False
        assert send(client, picture(), site_id=site.pk).status_code == 503
    assert [one for one in storage.rglob("*") if one.is_file()] == [] and not Attachment.objects.exists()
    assert send(client, picture(), site_id=site.pk).status_code == 201
    made = Attachment.objects.get()
    kept = (storage / made.path).read_bytes()
    assert hashlib.sha256(kept).hexdigest() == made.digest and len(kept) == made.bytes


def test_a_piece_that_a_kill_left_is_replaced_by_the_whole(as_role, base, storage):
    client, site = as_role("technician"), base["sites"][0]
    made = Attachment.objects.get(pk=send(client, picture(), site_id=site.pk).json()["id"])
    path = storage / made.path
    whole = path.read_bytes()
    path.write_bytes(whole[:100])
    assert send(client, picture(), site_id=site.pk).status_code == 201
    assert path.read_bytes() == whole


def test_a_stored_file_that_went_or_is_another_is_told_within_a_week(base, people, settings, tmp_path, monkeypatch):
    settings.MEDIA_ROOT = tmp_path
    every = [keep.add(base["sites"][0].pk, None, f"{number}", picture(size=(40 + number, 30)), people["technician"])
             for number in range(7)]  # fmt: skip
    gone, other = every[2], every[5]
    week = [datetime.date(2031, 6, 2) + datetime.timedelta(days=number) for number in range(7)]

    def amiss() -> list[str]:
        told = []
        for day in week:
            monkeypatch.setattr(tasks.timezone, "localdate", lambda day=day: day)
            try:
                tasks.look_over(0)
            except tasks.NotAsKept as error:
                told.append(str(error))
        return told

    assert amiss() == []
    default_storage.delete(gone.path)
    (tmp_path / other.path).write_bytes((tmp_path / other.path).read_bytes()[:-1])
    assert sorted(line.split(": ")[1].split(". ")[0] for line in amiss()) == sorted(
        [f"{gone.path} is missing", f"{other.path} is not as it was stored"]
    )


def test_a_photograph_that_is_sent_again_before_the_first_is_through_is_one(as_role, base, monkeypatch):
    """As a phone does whose way was cut behind what it sent; both are taken, and there is one."""
    client, heater, sent = as_role("technician"), base["heaters"][0], {"client_id": str(uuid.uuid4())}
    once, again = keep.keep_whole, []

    def meanwhile(path: str, data: bytes) -> None:
        once(path, data)
        if not again:
            again.append(None)
            again[0] = send(client, picture(), heater_id=heater.pk, **sent)

    monkeypatch.setattr(keep, "keep_whole", meanwhile)
    first = send(client, picture(), heater_id=heater.pk, **sent)
    assert (first.status_code, again[0].status_code) == (201, 201)
    assert first.json()["id"] == again[0].json()["id"] and Attachment.objects.count() == 1

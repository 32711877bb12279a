"""Photographs in an object storage: held against a small one that was written from what the protocol says."""

import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.parse import parse_qs, unquote, urlsplit
from xml.sax.saxutils import escape

import pytest
from django.core.files.storage import default_storage

from aquifer import backups, environment
from aquifer.attachments import keep
from aquifer.files import keep_whole
from aquifer.full_export import forget
from tests.attachments.test_attachments import picture


class Objects(BaseHTTPRequestHandler):
    kept: dict[str, bytes] = {}

    def _key(self) -> str:
        return unquote(urlsplit(self.path).path).removeprefix("/photographs").lstrip("/")

    def do_PUT(self):
        body = self.rfile.read(int(self.headers["Content-Length"]))
        if "aws-chunked" in self.headers.get("Content-Encoding", ""):
            size, _, rest = body.partition(b"\r\n")
            body = rest[: int(size.split(b";")[0], 16)]
        self.kept[self._key()] = body
        self._says(200)

    def do_GET(self):
        asked = parse_qs(urlsplit(self.path).query)
        if not self._key():
            self._says(200, self._listed(asked.get("prefix", [""])[0], asked.get("delimiter", [""])[0]))
        elif self._key() in self.kept:
            self._says(200, self.kept[self._key()])
        else:
            self._says(404, b"<Error><Code>NoSuchKey</Code></Error>")

    do_HEAD = do_GET  # noqa: N815 - as the library calls it

    def do_DELETE(self):
        self.kept.pop(self._key(), None)
        self._says(204)

    def _listed(self, prefix: str, delimiter: str) -> bytes:
        mine = [key.removeprefix(prefix) for key in sorted(self.kept) if key.startswith(prefix)]
        folders = {key.partition(delimiter)[0] + delimiter for key in mine if delimiter and delimiter in key}
        files = [key for key in mine if not (delimiter and delimiter in key)]
        told = "".join(f"<Contents><Key>{escape(prefix + key)}</Key><Size>1</Size></Contents>" for key in files)
        told += "".join(f"<CommonPrefixes><Prefix>{escape(prefix + one)}</Prefix></CommonPrefixes>" for one in folders)
        return f"<ListBucketResult><IsTruncated>false</IsTruncated>{told}</ListBucketResult>".encode()

    def _says(self, status: int, body: bytes = b"") -> None:
        self.send_response(status)
        self.send_header("Content-Length", str(len(body)))
        self.send_header("ETag", '"x"')
        self.send_header("Last-Modified", "Sun, 29 Nov 2026 10:00:00 GMT")
        self.end_headers()
        if self.command != "HEAD":
            self.wfile.write(body)

    def log_message(self, *args):
        pass


@pytest.fixture
def objects(settings, monkeypatch):
    """An object storage, and the settings that an installation with it has."""
    Objects.kept = {}
    server = ThreadingHTTPServer(("127.0.0.1", 0), Objects)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    for name, value in {
        "BUCKET": "photographs", "ADDRESS": f"http://127.0.0.1:{server.server_port}", "KEY": "k", "SECRET": "s",
    }.items():  # fmt: skip
        monkeypatch.setenv(f"AQUIFER_FILES_{name}", value)
    told = environment.read()
    options = {
        "bucket_name": told.files_bucket, "endpoint_url": told.files_address, "region_name": told.files_region,
        "access_key": told.files_key, "secret_key": told.files_secret, "addressing_style": "path", "default_acl": None,
    }  # fmt: skip
    settings.STORAGES = {
        **settings.STORAGES, "default": {"BACKEND": "storages.backends.s3.S3Storage", "OPTIONS": options}
    }  # fmt: skip
    yield Objects.kept
    server.shutdown()
    server.server_close()


def test_a_photograph_is_kept_shown_backed_up_and_taken_away(objects, base, people, as_role):
    one = keep.add(base["sites"][0].pk, None, "plate", picture(), people["technician"])
    assert set(objects) == {one.path, one.small_path}
    answer = as_role("technician").get(f"attachments/{one.pk}/file")
    assert b"".join(answer.streaming_content) == objects[one.path]
    assert set(backups._stored()) == {one.path, one.small_path}
    forget._delete([one.path, one.small_path, "attachments/never.jpg"])
    assert objects == {}


def test_a_piece_that_is_there_from_before_is_in_no_way(objects):
    objects["attachments/aa/a.jpg"] = b"half"
    keep_whole("attachments/aa/a.jpg", b"whole of it")
    assert objects == {"attachments/aa/a.jpg": b"whole of it"}
    # What is there whole is not sent again.
    objects["attachments/aa/a.jpg"] = b"WHOLE OF IT"
    keep_whole("attachments/aa/a.jpg", b"whole of it")
    assert objects == {"attachments/aa/a.jpg": b"WHOLE OF IT"} and default_storage.size("attachments/aa/a.jpg") == 11

"""Served through a pooler that hands out a connection for one transaction: few connections, many people, no mix-up."""

import os
import shutil
import socket
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from django.conf import settings
from django.db import connection

from tests.conftest import FLUSH, visit

ROOT = Path(__file__).parents[1]
POOLER = shutil.which("pgbouncer") or "/usr/sbin/pgbouncer"
MOST = 2
"""Connections to the database, for all."""
PROGRAM = """
import json, os, sys
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "aquifer.settings")
import django; django.setup()
from django.conf import settings
from django.db import connection
from django.test import Client
from aquifer.accounts.models import User
settings.ALLOWED_HOSTS = ["*"]
client = Client(raise_request_exception=False)
client.force_login(User.objects.get(username="technician"), backend="django.contrib.auth.backends.ModelBackend")
told = []
for number in range(6):
    for path in ("heaters", "outlook", "find?q=weir", "heaters/%s" % sys.argv[1]):
        told.append(client.get("/api/" + path).status_code)
body = json.loads(sys.argv[2])
told.append(client.post("/api/visits", body, content_type="application/json").status_code)
told.append(client.get("/api/heaters/%s/log" % sys.argv[1]).status_code)
print(json.dumps(told))
"""


@pytest.fixture
def pooler(tmp_path):
    """Its port, with as few connections as it takes for a mix-up to show."""
    told, port = connection.settings_dict, _free_port()
    folder = tmp_path
    (folder / "users").write_text(f'"{told["USER"]}" "{told["PASSWORD"]}"')
    (folder / "pooler.ini").write_text(
        f"[databases]\n* = host={told['HOST']} port={told['PORT']}\n[pgbouncer]\nlisten_addr = 127.0.0.1\n"
        f"listen_port = {port}\nauth_type = scram-sha-256\nauth_file = {folder}/users\npool_mode = transaction\n"
        f"default_pool_size = {MOST}\nmax_client_conn = 100\nunix_socket_dir =\nlogfile = {folder}/log\n"
    )
    who = []
    if os.geteuid() == 0:
        # It refuses root as PostgreSQL does.
        for path in (folder, *folder.iterdir()):
            shutil.chown(path, "postgres")
        for above in folder.parents:
            if above.is_relative_to("/tmp/pytest-of-root"):
                above.chmod(0o755)
        who = ["runuser", "-u", "postgres", "--"]
    run = subprocess.Popen([*who, POOLER, str(folder / "pooler.ini")], cwd="/", stderr=subprocess.DEVNULL)
    until = time.monotonic() + 10
    while time.monotonic() < until:
        try:
            socket.create_connection(("127.0.0.1", port), 1).close()
            break
        except OSError:
            time.sleep(0.05)
    yield port
    run.terminate()
    run.wait(10)


def _free_port() -> int:
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        return one.getsockname()[1]


@pytest.mark.django_db(transaction=True)
def test_several_processes_are_served_over_two_connections(pooler, forecasted, people):
    import json

    told = connection.settings_dict
    heaters = [one.pk for one in forecasted["heaters"][:3]]

    def works(heater: int) -> list[int]:
        env = {
            **os.environ, "PYTHONPATH": f"{ROOT}:{ROOT}/src", "AQUIFER_DB_POOLED": "1", "AQUIFER_DB_HOST": "127.0.0.1",
            "AQUIFER_DB_PORT": str(pooler), "AQUIFER_DB_NAME": told["NAME"], "AQUIFER_DB_USER": told["USER"],
            "AQUIFER_DB_PASSWORD": told["PASSWORD"], "AQUIFER_SECRET_KEY": settings.SECRET_KEY,
        }  # fmt: skip
        words = [sys.executable, "-c", PROGRAM, str(heater), json.dumps(visit(heater, FLUSH))]
        done = subprocess.run(words, env=env, capture_output=True, text=True, cwd=ROOT)
        assert done.returncode == 0, done.stderr[-2000:]
        return json.loads(done.stdout.splitlines()[-1])

    with ThreadPoolExecutor(3) as pool:
        answers = list(pool.map(works, heaters))
    assert {code for one in answers for code in one} <= {200, 201, 422}
    assert sum(code == 201 for one in answers for code in one) >= 2
    assert {code for one in answers for code in one[:24]} == {200}

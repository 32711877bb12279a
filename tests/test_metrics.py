"""Figures for an operator's watch: for whoever has the token, and of what is."""

import os
import subprocess
import sys
import time
import urllib.error
import urllib.request

import pytest
from prometheus_client.parser import text_string_to_metric_families

from aquifer import readiness
from aquifer.commands import tasks


def read(text: str) -> dict[tuple[str, ...], float]:
    return {
        (sample.name, *sample.labels.values()): sample.value
        for family in text_string_to_metric_families(text)
        for sample in family.samples
    }


@pytest.mark.parametrize("given", ["", "Bearer ", "Bearer other"])
@pytest.mark.parametrize("token", ["", "watch-me"])
def test_nothing_is_there_without_the_token(client, db, settings, token, given):
    settings.METRICS_TOKEN = token
    assert client.get("/metrics", HTTP_AUTHORIZATION=given).status_code == 404


def test_where_the_jobs_stand_is_told(client, db, settings, monkeypatch):
    settings.METRICS_TOKEN = "watch-me"
    monkeypatch.setattr(readiness, "LEAST_FREE", 2**62)
    tasks.revive.defer(timestamp=0)
    told = read(client.get("/metrics", HTTP_AUTHORIZATION="Bearer watch-me").content.decode())
    assert (
        told["aquifer_jobs_waiting",] == 1 and told["aquifer_jobs_workers",] == 0 and told["aquifer_jobs_failed",] == 0
    )
    assert told["aquifer_ready", "disk"] == 0 and told["aquifer_ready", "database"] == 1
    assert told["aquifer_ready", "worker"] == 0


def test_requests_are_counted_over_all_processes_of_a_server(db, tmp_path):
    """Without a database behind it: what is counted is what was answered."""
    port = 18000 + os.getpid() % 1000
    env = {**os.environ, "AQUIFER_METRICS_TOKEN": "watch-me", "AQUIFER_BIND": f"127.0.0.1:{port}"}
    env |= {"AQUIFER_SERVERS": "2", "PROMETHEUS_MULTIPROC_DIR": str(tmp_path)}
    given = [sys.executable, "-m", "gunicorn", "--config", "python:aquifer.serving", "aquifer.wsgi"]
    server = subprocess.Popen(given, env=env, stderr=subprocess.DEVNULL)
    try:
        answered = 0
        until = time.monotonic() + 60
        while answered < 20 and time.monotonic() < until:
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{port}/healthz", timeout=5)
                answered += 1
            except urllib.error.URLError:
                time.sleep(0.2)
        asked = urllib.request.Request(f"http://127.0.0.1:{port}/metrics", headers={"Authorization": "Bearer watch-me"})
        told = read(urllib.request.urlopen(asked, timeout=10).read().decode())
    finally:
        server.terminate()
        server.wait(timeout=30)
    counted = sum(
        value for name, value in told.items() if name[0].startswith("django_http_responses_total_by_status_t")
    )
    assert answered == 20 and counted >= 20

"""What is written down of requests and jobs: enough to find a fault by, and nothing of a customer."""

import json
import logging
import subprocess
import sys

import pytest

from aquifer.logs import configured


@pytest.fixture
def lines():
    """What is written from now on, as it would stand in the file."""
    line = configured()["formatters"]["line"]
    made = line["()"](**{name: value for name, value in line.items() if name != "()"})
    written: list[dict] = []

    class Probe(logging.Handler):
        def emit(self, record: logging.LogRecord) -> None:
            written.append(json.loads(self.format(record)))

    handler = Probe()
    handler.setFormatter(made)
    loggers = [logging.getLogger(name) for name in ("django_structlog", "procrastinate.worker")]
    for logger in loggers:
        logger.addHandler(handler)
        logger.setLevel(logging.INFO)
    yield written
    for logger in loggers:
        logger.removeHandler(handler)


def test_a_request_is_written_down_with_its_number_and_who_asked(as_role, people, lines):
    answer = as_role("planner").get("me")
    (line,) = lines
    assert (line["event"], line["code"], line["request"]) == ("request_finished", 200, "GET /api/me")
    assert line["user_id"] == people["planner"].pk
    assert line["request_id"] == answer["X-Request-Id"] and len(line["request_id"]) == 36
    assert line["time"].endswith("Z") and line["level"] == "info"


def test_each_request_has_its_own_number_and_nobody_elses_name(as_role, client, lines):
    as_role("planner").get("me")
    client.get("/api/me")
    first, second = lines
    assert first["request_id"] != second["request_id"]
    assert second["code"] == 401 and second.get("user_id") is None


@pytest.mark.parametrize(
    "path",
    ["/answer/tok-en-of-a-customer", "/calendar/tok-en-of-a-crew.ics", "/set-password/Mw/tok-en", "/api/me?q=tok-en"],
)
def test_nothing_that_lets_its_holder_in_or_names_a_customer_is_written_down(client, db, lines, path):
    client.get(path)
    assert lines and "tok-en" not in json.dumps(lines)


def test_a_failure_tells_the_number_under_which_it_is_noted(as_role, monkeypatch, lines):
    client = as_role("planner").raw
    client.raise_request_exception = False
    monkeypatch.setattr("aquifer.pages.settings.WEB", None)
    answer = client.get("/outlook")
    failed = next(line for line in lines if line["event"] == "request_failed")
    assert answer.status_code == 500 and failed["request_id"] in answer.content.decode()
    assert "TypeError" in failed["exception"]


def test_a_job_is_written_down_without_what_it_was_given(lines):
    told = {"id": 7, "task_name": "office.send_password_link", "task_kwargs": {"name": "ottilie@marram.example"}}
    logging.getLogger("procrastinate.worker").info("Job started", extra={"job": told, "action": "start_job"})
    (line,) = lines
    assert (line["job"], line["task"]) == (7, "office.send_password_link")
    assert "ottilie" not in json.dumps(line)


def test_the_server_reads_how_it_is_to_serve():
    given = ["gunicorn", "--check-config", "--config", "python:aquifer.serving", "aquifer.wsgi"]
    checked = subprocess.run([sys.executable, "-m", *given], capture_output=True, text=True, check=False)
    assert checked.returncode == 0, checked.stderr

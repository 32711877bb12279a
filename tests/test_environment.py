"""What the environment says is read with its types; what it says wrongly is named, with what is allowed."""

import os
import subprocess
import sys
from pathlib import Path

import pytest

from aquifer.environment import PREFIX, Environment, read

OPERATIONS = (Path(__file__).parents[1] / "docs" / "operations.md").read_text()


@pytest.fixture
def said(monkeypatch):
    """An environment that says this and no more."""
    for name in [name for name in os.environ if name.startswith(PREFIX)]:
        monkeypatch.delenv(name)

    def say(**told: str) -> Environment:
        for name, value in told.items():
            monkeypatch.setenv(PREFIX + name, value)
        return read()

    return say


def test_what_is_not_said_or_empty_is_as_it_usually_is(said):
    assert said() == said(SMTP_PORT="", HOSTS="", TEXT_GATEWAY="") == Environment()
    usual = said()
    assert (usual.hosts, usual.db_port, usual.demo, usual.time_zone) == (
        ["127.0.0.1", "localhost"],
        54329,
        False,
        "UTC",
    )


def test_what_is_said_has_its_type(said):
    told = said(
        HOSTS="care.example.com,127.0.0.1", ORIGINS="https://care.example.com", PROXIES="10.0.0.1 172.16.0.0/12",
        DEMO="1", HTTPS="1", SMTP_TLS="0", SMTP_PORT="25", SERVERS="4", TIME_ZONE="Europe/Berlin",
        ERRORS_TO="ann@example.com bo@example.com", BIND="unix:/run/aquifer.sock",
    )  # fmt: skip
    assert told.hosts == ["care.example.com", "127.0.0.1"] and told.proxies == ["10.0.0.1", "172.16.0.0/12"]
    assert (told.demo, told.https, told.smtp_tls, told.smtp_port, told.servers) == (True, True, False, 25, 4)
    assert told.errors_to == ["ann@example.com", "bo@example.com"] and told.bind == "unix:/run/aquifer.sock"


@pytest.mark.parametrize(
    ("name", "value"),
    [
        ("SMTP_PORT", "post"), ("DB_PORT", "70000"), ("SERVERS", "0"), ("THREADS", "many"), ("STATEMENT_S", "-1"),
        ("TIME_ZONE", "Hollow/Weir"), ("PROXIES", "10.0.0.1 gate"), ("ORIGINS", "care.example.com"), ("HTTPS", "maybe"),
        ("PUBLIC_ADDRESS", "care.example.com"), ("ROUTER", "ftp://roads"), ("ERRORS_TO", "ann"), ("BIND", "8000"),
        ("MESSAGE_GATEWAY", "os; import"), ("TEXT_GATEWAY", "texts.example.com"),
    ],
)  # fmt: skip
def test_what_is_wrong_is_named_with_what_it_says(said, name, value):
    with pytest.raises(SystemExit) as caught:
        said(**{name: value})
    assert f"{PREFIX}{name} is " in str(caught.value) and value.split()[-1] in str(caught.value)
    assert "Traceback" not in str(caught.value) and "docs/operations.md" in str(caught.value)


def test_a_program_that_cannot_start_says_why_in_words():
    wrong = {**os.environ, "AQUIFER_SMTP_PORT": "post", "AQUIFER_SERVERS": "0"}
    ran = subprocess.run([sys.executable, "-m", "aquifer", "check"], env=wrong, capture_output=True, text=True)
    assert ran.returncode == 1 and "Traceback" not in ran.stderr
    assert "AQUIFER_SMTP_PORT is 'post'" in ran.stderr and "AQUIFER_SERVERS is '0'" in ran.stderr


def test_every_variable_stands_in_the_page_for_operators():
    lacking = [name for name in Environment.model_fields if f"`{PREFIX}{name.upper()}" not in OPERATIONS]
    # These two are set by ./run and by whoever starts the first time, and stand where they are needed.
    assert set(lacking) <= {"demo", "first_password"}

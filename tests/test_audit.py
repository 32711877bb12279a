"""What is known against a package is told and fails the check; a registry that tells nothing is not taken for good."""

import importlib.util
import json
from pathlib import Path

import pytest

_SPEC = importlib.util.spec_from_file_location("audit", Path(__file__).parents[1] / "scripts" / "audit.py")
assert _SPEC is not None and _SPEC.loader is not None
audit = importlib.util.module_from_spec(_SPEC)
_SPEC.loader.exec_module(audit)

FINE = {"name": "django", "version": "5.2", "vulns": []}
HOLED = {"name": "tar", "version": "1.0", "vulns": [{"id": "PYSEC-1", "aliases": ["CVE-1"], "fix_versions": ["1.1"]}]}
UNTOLD = {"name": "numpy", "skip_reason": "not found"}
LEADS = {"range": "<2", "via": [{"url": "https://advisories.example/GHSA-a", "severity": "high"}]}


def told(*python, web=None):
    python_json = json.dumps({"dependencies": list(python)})
    web_json = json.dumps({"message": "405", "error": {}} if web is None else {"vulnerabilities": web})
    return lambda command: python_json if command is audit.PIP else web_json


@pytest.mark.parametrize(
    ("run", "code", "said"),
    [
        (told(FINE, UNTOLD, web={}), 0, ["Python packages: no advisories", "front-end packages: no advisories"]),
        (told(FINE, HOLED, web={}), 1, ["1 advisories", "tar 1.0: PYSEC-1, mended in 1.1"]),
        (told(FINE, web={"leads": LEADS, "led": {"via": ["leads"]}}), 1, ["leads <2: GHSA-a, high"]),
        (
            told(UNTOLD),
            0,
            ["Python packages: the registry here tells nothing", "front-end packages: the registry here"],
        ),
        (lambda command: "", 0, ["tells nothing"]),
        (lambda command: "[1]", 0, ["tells nothing"]),
    ],
)
def test_advisories_fail_the_check_and_silence_is_said(run, code, said, capsys):
    assert audit.main(run) == code
    out = capsys.readouterr().out
    assert all(one in out for one in said), out
    assert "leads to" not in out and "led" not in out.replace("leads", "")


def test_one_that_does_not_concern_us_is_left_out_by_any_of_its_numbers(monkeypatch):
    monkeypatch.setitem(audit.ACCEPTED, "CVE-1", "the part that unpacks is never called")
    assert audit.main(told(HOLED, web={})) == 0


def test_a_command_that_is_not_there_prints_nothing():
    assert audit.printed(["no-such-command-here"]) == ""

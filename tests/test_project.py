"""What holds of the project as a whole."""

import json
import re
from pathlib import Path

import pytest
from django.core.management import call_command

from aquifer.api import api

ROOT = Path(__file__).resolve().parent.parent


def test_every_model_has_its_migration(db):
    call_command("makemigrations", check=True, dry_run=True, verbosity=0)


def test_the_description_of_the_api_is_not_stale():
    kept = json.loads((ROOT / "web" / "openapi.json").read_text())
    now = json.loads(json.dumps(api.get_openapi_schema()))
    assert now == kept, "run ./aquifer describe_api and, in web/, npm run types"


def test_names_on_the_wire_are_unique():
    names = list(api.get_openapi_schema()["components"]["schemas"])
    assert len(names) == len(set(names)) > 30


def test_health_is_told(client, db):
    assert client.get("/healthz").json() == {"status": "ok"}


@pytest.mark.parametrize("path", ["/outlook", "/register", "/visit/1", "/heaters/7"])
def test_nothing_from_elsewhere_may_be_loaded(as_role, path):
    policy = as_role("planner").raw.get(path).headers["Content-Security-Policy"]
    assert "default-src 'self'" in policy and "http" not in policy and "unsafe" not in policy


@pytest.mark.parametrize("path", ["/outlook", "/sign-in", "/password-forgotten", "/answer/no-such"])
def test_a_page_lets_in_its_own_styles_and_no_others(as_role, client, path, settings, tmp_path):
    settings.WEB = tmp_path
    (tmp_path / "index.html").write_text('<style nonce="__NONCE__"></style>')
    client = as_role("planner").raw if path == "/outlook" else client
    seen = []
    for _ in range(2):
        page = client.get(path)
        (nonce,) = set(re.findall(r'nonce="([^"]*)"', page.content.decode()))
        assert len(nonce) > 15 and f"'nonce-{nonce}'" in page.headers["Content-Security-Policy"]
        assert 'style="' not in page.content.decode()
        seen.append(nonce)
    assert seen[0] != seen[1]

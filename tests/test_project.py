"""What holds of the project as a whole."""

import importlib.util
import json
import re
from pathlib import Path

import pytest
import yaml
from django.core.management import call_command

from aquifer.accounts import door
from aquifer.environment import PREFIX, Environment
from aquifer.urls import urlpatterns
from tests.described import description

ROOT = Path(__file__).resolve().parent.parent


def test_every_model_has_its_migration(db):
    call_command("makemigrations", check=True, dry_run=True, verbosity=0)


def test_the_description_of_the_api_is_not_stale():
    kept = json.loads((ROOT / "web" / "openapi.json").read_text())
    now = json.loads(json.dumps(description()))
    assert now == kept, "run ./aquifer describe_api and, in web/, npm run types"


def test_names_on_the_wire_are_unique():
    names = list(description()["components"]["schemas"])
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


DEPLOY = ROOT / "deploy"


def test_the_web_server_takes_what_the_application_takes_and_believes_it():
    nginx = (DEPLOY / "nginx.conf").read_text()
    taken = [int(size) * 1024**2 for size in re.findall(r"client_max_body_size (\d+)m;", nginx)]
    assert taken == [35 * 1024**2] and taken[0] >= door.MOST
    small = [int(size) * 1024 for size in re.findall(r"client_max_body_size (\d+)k;", nginx)]
    assert small == [door.FROM_NOBODY]
    # What needs no session is what the stricter limit is for.
    doors = re.search(r"location ~ \^/\(([^)]*)\)", nginx)
    assert doors is not None
    for one in doors[1].split("|"):
        assert any(str(route.pattern).strip("^").startswith(one) for route in urlpatterns), one


def test_units_and_compose_name_what_there_is():
    for name in ("aquifer.service", "aquifer-worker@.service", "compose.yaml", "Dockerfile"):
        said = (DEPLOY / name).read_text()
        for module in re.findall(r"python:([\w.]+)", said):
            assert importlib.util.find_spec(module), (name, module)
    read = {PREFIX + name.upper() for name in Environment.model_fields}
    compose = yaml.safe_load((DEPLOY / "compose.yaml").read_text())
    named = set(compose["services"]["server"]["environment"])
    assert named and named <= read

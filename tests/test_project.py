"""What holds of the project as a whole."""

import json
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
    assert policy.startswith("default-src 'self'") and "http" not in policy

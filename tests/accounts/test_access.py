import json
from typing import get_args

import pytest
from django.test import Client
from pydantic import BaseModel

from aquifer.accounts.access import Action, SignedIn
from aquifer.accounts.models import Role, User
from aquifer.api import api
from tests.conftest import FLUSH, visit
from tests.described import description


def routes():
    for _, router in api._routers:
        for path, view in router.path_operations.items():
            for operation in view.operations:
                yield path, operation


def test_every_route_names_who_may_use_it():
    found = list(routes())
    assert len(found) > 15
    for path, operation in found:
        checks = [check for check in operation.auth_callbacks if isinstance(check, SignedIn)]
        assert checks, f"{path} checks no role"
        if set(operation.methods) - {"GET"}:
            assert all(check.action is not Action.READ for check in checks), f"{path} writes for anyone who reads"


def test_signed_out_is_told_in_the_usual_body(client, db):
    answer = client.get("/api/outlook")
    assert answer.status_code == 401
    assert answer.json()["code"] == "signed_out"
    assert client.get("/outlook").headers["Location"].startswith("/sign-in")


@pytest.mark.parametrize(
    ("role", "status"), [("lead", 201), ("planner", 201), ("technician", 201), ("apprentice", 403)]
)
def test_who_may_add_a_site(as_role, base, role, status):
    body = {"name": "Quillan", "street": "3 Staithe Lane", "zone_id": base["zones"][0].pk}
    assert as_role(role).post("sites", body).status_code == status


@pytest.mark.parametrize(
    ("role", "status"), [("lead", 404), ("planner", 404), ("technician", 403), ("apprentice", 403)]
)
def test_who_may_bring_in_files(as_role, db, role, status):
    assert as_role(role).post("imports/1/confirm", {}).status_code == status


def test_a_planner_records_no_visit_and_is_told_so(as_role, forecasted):
    answer = as_role("planner").post("visits", visit(forecasted["heaters"][0].pk, FLUSH))
    assert answer.status_code == 403
    assert "planner" in answer.json()["message"]


def test_a_forged_request_is_refused(people, base):
    client = Client(enforce_csrf_checks=True)
    client.force_login(people["lead"], backend="django.contrib.auth.backends.ModelBackend")
    body = json.dumps({"name": "Forged", "zone_id": base["zones"][0].pk})
    assert client.post("/api/sites", body, content_type="application/json").status_code == 403


def test_administration_is_for_the_lead_only(people):
    for role in Role:
        client = Client()
        client.force_login(people[role.value], backend="django.contrib.auth.backends.ModelBackend")
        status = client.get("/admin/heaters/heater/").status_code
        assert (status == 200) == (role is Role.LEAD), role


def test_guessing_a_password_locks_the_name(db, settings):
    settings.AXES_FAILURE_LIMIT = 3
    User.objects.create_user("planner", password="right-and-long-enough", role=Role.PLANNER)
    client = Client()
    for _ in range(2):
        refused = client.post("/sign-in", {"username": "planner", "password": "guess"})
        # The name is not typed again.
        assert 'name="username" autocomplete="username" required value="planner"' in refused.content.decode()
    client.post("/sign-in", {"username": "planner", "password": "guess"})
    locked = client.post("/sign-in", {"username": "planner", "password": "right-and-long-enough"})
    assert locked.status_code == 429
    assert "Wait 15 minutes" in locked.content.decode()


def test_signing_in_and_out(db):
    User.objects.create_user("planner", password="right-and-long-enough", role=Role.PLANNER)
    client = Client()
    answer = client.post("/sign-in", {"username": "planner", "password": "right-and-long-enough", "next": "/register"})
    assert answer.headers["Location"] == "/register"
    assert client.get("/api/me").json()["role"] == "planner"
    client.post("/sign-out")
    assert client.get("/api/me").status_code == 401


def test_passwords_are_kept_by_argon2():
    # The tests themselves use a quick hasher; this reads what an installation uses.
    from aquifer import settings as installed

    assert "Argon2" in installed.PASSWORD_HASHERS[0]


def test_the_description_says_how_every_route_refuses_and_that_programs_ask_by_a_token():
    told = json.loads(json.dumps(description(), default=str))
    operations = [one for path in told["paths"].values() for one in path.values()]
    assert len(operations) > 100 and told["servers"][0]["url"] == "/"
    for one in operations:
        assert one["responses"]["4XX"]["content"]["application/json"]["schema"]["$ref"].endswith("/Trouble")
        assert {"Token": []} in one["security"]
    assert set(told["components"]["schemas"]["Trouble"]["required"]) == {"code", "message", "fields"}


def bodies(annotation, path):
    """Every model that a body is made of, with the route."""
    for part in get_args(annotation):
        yield from bodies(part, path)
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield path, annotation
        for field in annotation.model_fields.values():
            yield from bodies(field.annotation, path)


def test_a_misspelt_field_is_refused_everywhere():
    found = [
        one
        for path, operation in routes()
        for model in operation.models
        if getattr(model, "__ninja_param_source__", "") == "body"
        for field in model.model_fields.values()
        for one in bodies(field.annotation, path)
    ]
    assert len(found) > 60
    lax = {f"{path} {model.__name__}" for path, model in found if model.model_config.get("extra") != "forbid"}
    assert lax == set()


def test_what_is_on_record_is_kept_by_nobody_on_the_way(as_role, base):
    answer = as_role("planner").get("heaters")
    assert (
        answer.headers["Cache-Control"] == "private, no-store"
        and "geolocation=()" in answer.headers["Permissions-Policy"]
    )
    assert "no-store" not in Client().get("/healthz").headers.get("Cache-Control", "")

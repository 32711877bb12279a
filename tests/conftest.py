"""A small base to test with: two waters, a few heaters, one person of each role."""

import datetime
import json
import os
import uuid
from functools import lru_cache
from typing import Any

import pytest
from hypothesis import settings

# A busy machine is no fault of the code. The same examples in every check: a rare one that chance finds is for whoever
# runs the tests by hand.
settings.register_profile("by hand", deadline=None)
settings.register_profile("check", deadline=None, derandomize=True)
LONG = bool(os.environ.get("AQUIFER_CHECK_LONG"))
"""Whether it may take hours: ./check --long."""
collect_ignore = [] if LONG else ["test_fuzz.py"]
"""Drawing its requests takes a minute before the first of them is sent."""
settings.load_profile("check" if os.environ.get("AQUIFER_CHECK") and not LONG else "by hand")


def pytest_configure() -> None:
    """Whatever is counted by the minute counts nothing here: a test asks a thousand times in one."""
    from django.conf import settings

    if settings.configured or os.environ.get("DJANGO_SETTINGS_MODULE"):
        settings.CACHES = {"default": {"BACKEND": "django.core.cache.backends.dummy.DummyCache"}}
        # Each new client would read the folder of static files anew.
        settings.WHITENOISE_AUTOREFRESH = True


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if not LONG and item.get_closest_marker("long"):
            item.add_marker(pytest.mark.skip(reason="for ./check --long"))


def examples(number: int, of_long: int) -> int:
    """How many a property is tried with: in a check that somebody waits for, and in a long one."""
    return of_long if LONG else number


if moment := os.environ.get("AQUIFER_CHECK_AT"):
    # All of it as if run at another moment: what holds only by day, or only this week, is found here.
    import time_machine

    time_machine.travel(datetime.datetime.fromisoformat(moment), tick=True).start()

TODAY = datetime.date(2026, 11, 24)


@pytest.fixture(scope="session")
def django_db_modify_db_settings(django_db_modify_db_settings_parallel_suffix):
    from django.db import connections

    from tests.template import template

    connections["default"].settings_dict["TEST"]["TEMPLATE"] = template()


@pytest.fixture
def people(db):
    from aquifer.accounts.models import Role, User

    return {role.value: User.objects.create(username=role.value, first_name=role.label, role=role) for role in Role}


@pytest.fixture
def as_role(people):
    """A client signed in as someone of a role, sending and reading JSON."""
    from django.test import Client

    def sign_in(role: str) -> "JsonClient":
        client = Client()
        # Loading the middleware is most of a short request; nobody changes it here.
        client.handler = one_handler()
        client.force_login(people[role], backend="django.contrib.auth.backends.ModelBackend")
        return JsonClient(client)

    return sign_in


@lru_cache
def one_handler() -> Any:
    from django.test.client import ClientHandler

    return ClientHandler(enforce_csrf_checks=False)


class JsonClient:
    def __init__(self, client: Any) -> None:
        self.raw = client

    def get(self, path: str) -> Any:
        return self.raw.get(f"/api/{path}")

    def post(self, path: str, body: Any = None) -> Any:
        return self.raw.post(f"/api/{path}", json.dumps(body), content_type="application/json")

    def patch(self, path: str, body: Any) -> Any:
        return self.raw.patch(f"/api/{path}", json.dumps(body), content_type="application/json")


@pytest.fixture
def base(db):
    """Two zones with tests, a site on each, and six heaters."""
    from tests.kept import kept

    return kept("base", made_base)


def made_base() -> dict[str, Any]:
    from simple_history.utils import bulk_create_with_history

    from aquifer.customers.models import Customer, Site
    from aquifer.heaters.models import Heater, Part, PartKind
    from aquifer.water.models import WaterTest, Zone

    today = datetime.date.today()
    hard = Zone.objects.create(code="CHK", name="Chalk")
    soft = Zone.objects.create(code="UPL", name="Upland")
    for zone, hardness in ((hard, 300), (soft, 35)):
        WaterTest.objects.create(
            zone=zone,
            taken_on=today - datetime.timedelta(days=200),
            total_hardness_mg_l=hardness,
            alkalinity_mg_l=0.8 * hardness,
            ph=7.4,
        )
    customer = Customer.objects.create(code="C1", name="Marram Bakery")
    sites = [
        Site.objects.create(code=f"S{n}", customer=customer, name=f"Site {n}", street=f"{n} Weir Street", zone=zone)
        for n, zone in enumerate((hard, hard, soft), start=1)
    ]
    heaters = [
        Heater.objects.create(
            tag=f"T-{n}",
            site=sites[n % 3],
            kind=kind,
            installed_on=today - datetime.timedelta(days=1500),
            capacity_l=189 if kind.endswith("_tank") else 2,
            setpoint_c=60,
        )
        for n, kind in enumerate(
            ["gas_tank", "electric_tank", "gas_tank", "gas_tankless", "heat_pump_tank", "condensing_tankless"]
        )
    ]
    parts = [Part(heater=heater, kind=PartKind.RELIEF_VALVE) for heater in heaters]
    parts += [
        Part(heater=heater, kind=PartKind.ANODE, alloy="magnesium") for heater in heaters if "less" not in heater.kind
    ]
    bulk_create_with_history(parts, Part)
    return {"zones": [hard, soft], "sites": sites, "heaters": heaters, "today": today}


@pytest.fixture
def forecasted(request, db):
    """The same with its forecasts."""
    from aquifer.company.models import Company
    from aquifer.forecasts.recompute import recompute_all
    from tests.kept import carried_on, kept

    Company.current()
    if "base" in request.fixturenames:
        # Another fixture asks for it, too, and may have changed it by now.
        base = request.getfixturevalue("base")
        carried_on(recompute_all)
        return base

    def make() -> dict[str, Any]:
        made = made_base()
        recompute_all()
        return made

    return kept("forecasted", make)


def visit(heater_id: int, *findings: dict[str, Any], **parts: Any) -> dict[str, Any]:
    """What a device sends for a visit."""
    return {
        "client_id": str(uuid.uuid4()),
        "heater_id": heater_id,
        "on": datetime.date.today().isoformat(),
        "findings": list(findings),
        **parts,
    }


FLUSH = {"task": "flush", "method": "drain_and_pulse", "removed": "heavy", "texture": "flakes"}
ROD = {"task": "anode_inspection", "grade": "half"}
VALVE = {"task": "relief_valve_exercise", "outcome": "flows_and_reseats"}

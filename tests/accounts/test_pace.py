"""What costs the server much is asked for so often and no oftener, by each person for themselves."""

import pytest
from django.test import Client

from aquifer.accounts import pace
from aquifer.api import api
from aquifer.office import tasks
from aquifer.workbench import shown


@pytest.fixture(autouse=True)
def counts(settings):
    """In the rest of the tests nothing is counted."""
    settings.CACHES = {"default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache", "LOCATION": "pace"}}
    from django.core.cache import cache

    cache.clear()
    yield
    cache.clear()


def test_one_who_asks_too_often_waits_and_nobody_else_does(forecasted, as_role, monkeypatch):
    eager, other = as_role("technician"), as_role("planner")
    path = "labels.pdf?ids=" + str(forecasted["heaters"][0].pk)
    codes = [eager.get(path).status_code for _ in range(pace.A_MINUTE["paper"] + 1)]
    assert codes[:-1] == [codes[0]] * pace.A_MINUTE["paper"] and codes[0] != 429 and codes[-1] == 429
    refused = eager.get(path)
    assert refused.json()["code"] == "too_often" and 0 < int(refused["Retry-After"]) <= 60
    # Other papers of theirs count with it; neither other pages nor other people do.
    assert eager.get("readings.csv").status_code in (403, 429)
    assert eager.get("heaters").status_code == 200 and other.get(path).status_code == codes[0]
    later = pace.SimpleRateThrottle.timer() + 61
    monkeypatch.setattr(pace.SimpleRateThrottle, "timer", staticmethod(lambda: later))
    assert eager.get(path).status_code == codes[0]


def test_an_address_that_somebody_makes_up_is_not_another_one(people, monkeypatch):
    sent = []
    monkeypatch.setattr("aquifer.pages.sends", lambda: True)
    monkeypatch.setattr(tasks.send_password_link, "defer", lambda **named: sent.append(named["name"]))

    def ask(number: int) -> int:
        made_up = {"HTTP_X_FORWARDED_FOR": f"198.51.100.{number}"}
        return (
            Client()
            .post("/password-forgotten", {"name": f"name {number}"}, REMOTE_ADDR="203.0.113.9", **made_up)
            .status_code
        )

    codes = [ask(number) for number in range(7)]
    assert codes == [200] * 5 + [429] * 2 and len(sent) == 5
    assert Client().post("/password-forgotten", {"name": "x"}, REMOTE_ADDR="203.0.113.10").status_code == 200


def test_every_route_that_writes_a_file_or_draws_one_is_paced():
    """Written anew for a new route: a file is dear, whatever it holds."""
    paced, files = set(), set()
    for prefix, router in api._routers:
        for path, view in router.path_operations.items():
            for operation in view.operations:
                name = f"{sorted(operation.methods)[0]} {prefix}{path}"
                if operation.throttle_objects:
                    paced.add(name)
                if path.endswith((".pdf", ".csv", ".zip", ".png", ".svg")):
                    files.add(name)
    assert files - paced == {"GET /imports/{run_id}/refused.csv"}
    assert {"POST /imports", "POST /base-files", "POST /bench/practice", "GET /heaters/{heater_id}/what-if"} <= paced


def test_a_customers_page_is_reckoned_no_more_often_than_anybody_looks(as_role, base, client, monkeypatch):
    link = as_role("technician").get("bench/lives/link?care=yearly&care=never&hardness_mg_l=300").json()["address"]
    path = "/cut-open/" + link.rpartition("/")[2]
    monkeypatch.setattr(shown, "A_MINUTE", 2)
    assert [client.get(path).status_code for _ in range(3)] == [200, 200, 429]

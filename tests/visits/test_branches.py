"""How often a visit leaves the straight way is told from those that came where it could."""

import datetime
import uuid

import pytest

from aquifer.core.procedures.interlock import Deviation, Step
from aquifer.visiting import branches
from aquifer.visits.models import Visit

BLOCKED = Deviation("It is blocked", then=("blocked",))
STEPS = {"flush": [Step("open", "Open it.", deviations=(BLOCKED,)), Step("shut", "Shut it.")]}


@pytest.fixture
def visited(base):
    def _visited(*steps):
        told = [{"kind": "done", "step": step} for step in steps]
        Visit.objects.create(client_id=uuid.uuid4(), heater=base["heaters"][0], on=datetime.date.today(), steps=told)

    return _visited


def test_a_turn_is_as_likely_as_visits_took_it_that_came_there(visited):
    assert branches.chances(STEPS) == {"blocked": branches.BEFORE_ANY}
    for _ in range(30):
        visited("flush.open", "flush.shut")
    # Those that never came there say nothing of it.
    for _ in range(40):
        visited("look.around")
    seldom = branches.chances(STEPS)["blocked"]
    assert seldom == pytest.approx(0.5 / 40, abs=1e-4)
    for _ in range(30):
        visited("flush.open", "blocked.wire", "flush.shut")
    assert branches.chances(STEPS)["blocked"] == pytest.approx(30.5 / 70, abs=1e-4)


def test_the_newest_visits_count_alone(visited, monkeypatch):
    monkeypatch.setattr(branches, "LATELY", 10)
    for _ in range(10):
        visited("flush.open", "blocked.wire")
    for _ in range(10):
        visited("flush.open")
    assert branches.chances(STEPS)["blocked"] == pytest.approx(0.5 / 20, abs=1e-4)


def test_the_guide_tells_it_of_every_turn_that_its_steps_may_take(as_role, forecasted):
    guide = as_role("technician").get(f"heaters/{forecasted['heaters'][0].pk}/guide").json()
    turns = {
        then
        for name in guide["order"]
        for step in guide["procedures"][name]["steps"]
        for other in step["deviations"]
        for then in other["then"]
    }
    assert turns and turns <= set(guide["chances"]) <= set(guide["procedures"])
    assert all(0 < chance < 1 for chance in guide["chances"].values())

"""What Review tells of a large base is reckoned by the night."""

import datetime

import pytest
from django.utils import timezone

from aquifer.forecasts import recompute
from aquifer.forecasts.models import Due
from aquifer.review import kept, tasks
from aquifer.review.models import KeptFigures
from tests.conftest import FLUSH, VALVE, visit

PATHS = ["review/practices", "review/forecasts", "review/replacements"]


@pytest.fixture
def large(as_role, forecasted, monkeypatch):
    """As if the base were large, with a visit and what a night makes of it."""
    monkeypatch.setattr(kept, "LARGE", Due.objects.count())
    heater = forecasted["heaters"][0].pk
    assert as_role("technician").post("visits", visit(heater, FLUSH, VALVE)).status_code == 201
    recompute.recompute_all()
    return forecasted


def answers(client) -> list[dict]:
    return [client.get(path).json() for path in PATHS]


def without_when(told: list[dict]) -> list[dict]:
    return [{**one, "kept_at": None} for one in told]


def test_a_large_base_is_told_of_as_the_night_left_it_and_says_when_that_was(large, as_role):
    lead = as_role("lead")
    at_once = answers(lead)
    assert [one["kept_at"] for one in at_once] == [None] * 3
    tasks.renew(timestamp=0)
    told = answers(lead)
    assert without_when(told) == at_once
    for one, question in zip(told, ("practices", "forecasts", "replacements"), strict=True):
        at = datetime.datetime.fromisoformat(one["kept_at"])
        # Told by the millisecond.
        assert abs(at - KeptFigures.objects.get(question=question).computed_at) < datetime.timedelta(seconds=0.001)
        assert abs(timezone.now() - at) < datetime.timedelta(minutes=5)
    # What comes by day is the next night's.
    stuck = visit(large["heaters"][1].pk, VALVE | {"outcome": "no_flow"})
    assert as_role("technician").post("visits", stuck).status_code == 201
    assert answers(lead)[1]["valves"] == at_once[1]["valves"] == {"tried": 1, "stuck": 0}
    tasks.renew(timestamp=0)
    assert answers(lead)[1]["valves"] == {"tried": 2, "stuck": 1}


def test_a_page_of_a_large_base_asks_for_one_short_row(large, as_role, django_assert_max_num_queries):
    tasks.renew(timestamp=0)
    lead = as_role("lead")
    for path in PATHS:
        with django_assert_max_num_queries(5):
            assert lead.get(path).json()["kept_at"]


def test_a_night_that_was_missed_is_reckoned_when_somebody_asks(large, as_role):
    tasks.renew(timestamp=0)
    KeptFigures.objects.update(computed_at=timezone.now() - kept.GOOD_FOR)
    assert [one["kept_at"] for one in answers(as_role("lead"))] == [None] * 3


def test_how_people_grade_is_kept_for_all_and_told_to_who_sets_the_practice(large, as_role):
    tasks.renew(timestamp=0)
    answer = KeptFigures.objects.get(question="forecasts")
    answer.answer["components"][0] |= {"people": [{"name": "Somebody", "ratio": 2.0}], "say_the_same": ["Somebody"]}
    answer.save()
    lead, planner = (as_role(role).get("review/forecasts").json()["components"][0] for role in ("lead", "planner"))
    assert (lead["people"], lead["say_the_same"]) == ([{"name": "Somebody", "ratio": 2.0}], ["Somebody"])
    assert (planner["people"], planner["say_the_same"]) == ([], [])


def test_of_a_small_base_nothing_is_kept(large, as_role, monkeypatch):
    tasks.renew(timestamp=0)
    monkeypatch.setattr(kept, "LARGE", Due.objects.count() + 1)
    assert [one["kept_at"] for one in answers(as_role("lead"))] == [None] * 3
    tasks.renew(timestamp=0)
    assert not KeptFigures.objects.exists()

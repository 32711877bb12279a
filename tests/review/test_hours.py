"""Whether what is planned for visits held, said by visits made up for it."""

import datetime
import uuid

import numpy as np
import pytest
from django.utils import timezone

from aquifer.rounds.models import Appointment, CrewMember
from aquifer.visits.models import Finding, Visit


@pytest.fixture
def made(base):
    def visits(days_ago, hours):
        """A flush each, on days from some time ago on, the last first."""
        heater = base["heaters"][0]
        for number, took in enumerate(hours):
            on = datetime.date.today() - datetime.timedelta(days=days_ago + number)
            one = Visit.objects.create(
                client_id=uuid.uuid4(), heater=heater, on=on, technician="Ada", minutes=round(60 * took)
            )
            Finding.objects.create(visit=one, heater=heater, on=on, task="flush")

    return visits


@pytest.fixture
def told(as_role):
    return lambda: as_role("planner").get("review/hours").json()


def strays(n, mean, spread, seed=1):
    drawn = np.random.default_rng(seed).lognormal(0, spread, n)
    return mean * drawn / drawn.mean()


def test_without_visits_it_says_that_it_does_not_know(base, told):
    found = told()
    assert (found["visits"], found["learned_from"], found["held"]["verdict"]) == (0, 0, "unknown")
    assert found["held"]["over"] == []
    assert {row["work"]: row["learned"] for row in found["rows"]}["flush"] == 1.0
    assert found["since"] == (datetime.date.today() - datetime.timedelta(days=365)).isoformat()


def test_hours_that_hold_are_said_to_and_the_assumed_are_not(made, told):
    made(1, strays(150, 2.4, 0.25))
    made(380, strays(150, 2.4, 0.25, 2))
    found = told()
    assert (found["visits"], found["learned_from"], found["held"]["visits"]) == (300, 150, 150)
    assert found["held"]["verdict"] == "hold"
    assert found["held"]["ratio"] == pytest.approx(1.0, abs=0.06)
    assert 0.7 <= found["held"]["inside"] <= 0.9
    low, middle, high = found["held"]["over"]
    assert low < 0.8 and 0.9 < middle < 1.05 and high > 1.2
    # A flush and arriving, by the handbook: 1.3 h.
    assert found["assumed_held"]["verdict"] == "too_short"
    assert found["assumed_held"]["ratio"] == pytest.approx(2.4 / 1.3, rel=0.01)
    rows = {row["work"]: row for row in found["rows"]}
    assert rows["flush"]["times"] == 300 and rows["flush"]["low"] < rows["flush"]["learned"] < rows["flush"]["high"]
    assert rows["flush"]["share"] is None and rows["new_rod"]["share"] == 0.0


@pytest.mark.parametrize(("now", "verdict"), [(1.3, "hold"), (1.6, "too_short"), (1.0, "too_long")])
def test_a_year_that_went_otherwise_is_noticed(made, told, now, verdict):
    made(1, strays(120, now, 0.25))
    made(380, strays(120, 1.3, 0.25, 2))
    assert told()["held"]["verdict"] == verdict


def test_a_few_slow_visits_may_be_luck(made, told):
    made(1, strays(31, 1.3 * 1.12, 0.4))
    made(380, strays(120, 1.3, 0.3, 2))
    found = told()["held"]
    assert found["visits"] == 31 and found["ratio"] > 1.08 and found["verdict"] != "too_short"


def test_visits_that_stray_otherwise_than_told_are_said_to(made, told):
    made(1, strays(150, 1.3, 0.7))
    made(380, strays(150, 1.3, 0.1, 2))
    assert told()["held"]["verdict"] == "uneven"


def test_a_young_record_is_halved(made, told):
    made(1, strays(80, 1.3, 0.25))
    found = told()
    assert (found["learned_from"], found["held"]["visits"]) == (40, 40)
    assert found["since"] == (datetime.date.today() - datetime.timedelta(days=40)).isoformat()


def test_too_few_before_leave_it_to_what_is_assumed(made, told):
    made(1, strays(58, 1.6, 0.25))
    found = told()
    assert found["learned_from"] == 0 and found["held"] == {**found["assumed_held"]}


class TestPromises:
    """Ten o'clock is minute 600; who comes from five minutes before what was promised to five after is on time."""

    @pytest.fixture
    def done(self, base, people):
        member = CrewMember.objects.create(user=people["technician"])

        def one(days_ago, arrived, took, heater=0, standing="done", minutes=90, window=(600, 660)):
            heater = base["heaters"][heater]
            on = datetime.date.today() - datetime.timedelta(days=days_ago)
            earliest, latest = window
            Appointment.objects.create(
                site=heater.site, week=on - datetime.timedelta(days=on.weekday()), on=on, standing=standing,
                member=member, begins=600,
                minutes=minutes, earliest=earliest, latest=latest,
            )  # fmt: skip
            if took is not None:
                midnight = timezone.make_aware(datetime.datetime.combine(on, datetime.time()))
                began = None if arrived is None else midnight + datetime.timedelta(minutes=arrived)
                Visit.objects.create(client_id=uuid.uuid4(), heater=heater, on=on, minutes=took, began_at=began)

        return one

    def test_each_is_held_against_its_plan_and_its_window(self, done, told):
        done(1, 600, 80)
        done(2, 595, 100)  # five minutes early is on time
        done(3, 594, 100)  # six is not
        done(4, 665, 60)
        done(5, 666, 60)
        done(6, 700, 60)
        done(7, None, 60)  # nobody knows when
        done(8, 640, 70, window=(None, None))  # nothing was promised
        found = told()["promises"]
        assert (found["visits"], found["planned"], found["took"]) == (8, 720, 590)
        assert (found["promised"], found["early"], found["late"], found["late_minutes"]) == (6, 1, 2, 23)

    def test_what_was_not_done_or_is_not_known_or_was_done_in_two_is_left_out(self, done, told):
        done(1, 600, 80, standing="promised")
        done(2, 600, None)
        done(3, 600, 80)
        done(3, 600, 80, heater=3)  # of the same house
        done(400, 600, 80)
        done(-2, 600, 80)
        assert not any(told()["promises"].values())

    def test_two_heaters_of_a_house_are_one_visit_from_the_first_tap(self, done, told, base):
        done(1, 620, 50)
        other, on = base["heaters"][3], datetime.date.today() - datetime.timedelta(days=1)
        midnight = timezone.make_aware(datetime.datetime.combine(on, datetime.time()))
        Visit.objects.create(
            client_id=uuid.uuid4(), heater=other, on=on, minutes=40, began_at=midnight + datetime.timedelta(minutes=650)
        )
        found = told()["promises"]
        assert (found["visits"], found["took"], found["promised"], found["late"], found["early"]) == (1, 70, 1, 0, 0)

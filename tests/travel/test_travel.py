import io
from email.message import Message
from http.client import IncompleteRead
from urllib.error import HTTPError

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aquifer.travel import service
from aquifer.travel.service import EstimatedTravelTimes, Point, RouterTravelTimes, SimulatedTravelTimes, times

ROADS = SimulatedTravelTimes()
POINTS = st.lists(
    st.builds(Point, st.floats(-28.4, -28.12), st.floats(-41.3, -41.07)), min_size=2, max_size=6, unique=True
)


@given(POINTS)
@settings(max_examples=30)
def test_ways_are_as_long_back_as_there_and_never_shorter_by_a_detour(points):
    minutes = ROADS.minutes(points)
    assert (minutes == minutes.T).all() and (np.diag(minutes) == 0).all()
    apart = minutes[~np.eye(len(points), dtype=bool)]
    assert (apart >= 1).all() and apart.max() < 150
    # Rounding up and parking make a detour longer, never shorter.
    assert (minutes[:, :, None] <= minutes[:, None, :] + minutes.T[None, :, :] + 1).all()


def test_roads_are_the_same_whoever_asks_and_main_roads_are_faster():
    a, b = Point(-28.3, -41.2), Point(-28.2, -41.15)
    assert ROADS.minutes([a, b])[0, 1] == ROADS.minutes([b, a, Point(-28.25, -41.1)])[1, 0]
    line = ROADS.way([a, b])
    assert (line[0], line[-1]) == (a, b) and len(line) > 8
    assert ROADS.minutes([]).shape == (0, 0) and ROADS.way([a]) == [a]
    assert len(ROADS.lines(-28.4, -41.3, -28.1, -41.05)) > 100


def test_what_is_used_is_set_from_outside_and_is_the_straight_line_otherwise(monkeypatch):
    monkeypatch.delenv("AQUIFER_DEMO", raising=False)
    assert type(times()) is EstimatedTravelTimes and service.are_estimated()
    monkeypatch.setenv("AQUIFER_DEMO", "1")
    assert type(times()) is SimulatedTravelTimes and not service.are_estimated()
    monkeypatch.setenv("AQUIFER_ROUTER", "http://roads.invalid/")
    assert type(times()) is RouterTravelTimes and not service.are_estimated()


def test_the_straight_line_is_driven_as_far_as_it_is_on_the_globe():
    here, town, land = Point(-112.871, 44.112), Point(-112.871, 44.157), Point(-112.871, 45.012)
    found = EstimatedTravelTimes().minutes([here, town, land])
    assert (np.diag(found) == 0).all() and (found == found.T).all()
    # 5.0 km and 100.1 km by the meridian, 1.3 times as long by road.
    assert found[0, 1] == np.ceil(60 * 6.505 / 32 + 2)
    assert found[0, 2] == pytest.approx(60 * (8 / 32 + (130.1 - 8) / 65) + 2, abs=1)
    assert EstimatedTravelTimes().minutes([]).shape == (0, 0)
    assert EstimatedTravelTimes().minutes([here, Point(60.0, -40.0)]).max() == 24 * 60


@pytest.mark.parametrize("far", [Point(0.0, 0.0), Point(140.0, -35.0)])
def test_a_place_in_another_part_of_the_world_costs_no_memory(far):
    here = Point(-28.27, -41.2)
    assert ROADS.minutes([here, far]).max() == EstimatedTravelTimes().minutes([here, far]).max()
    assert ROADS.way([here, far]) == [here, far]
    assert ROADS.lines(-180, -90, 180, 90) == []


class Answer:
    def __init__(self, text):
        self.text = text

    def __enter__(self):
        return io.StringIO(self.text)

    def __exit__(self, *_):
        return False


def test_a_routing_server_is_asked_and_what_it_does_not_know_is_estimated(monkeypatch):
    a, b, c = Point(-112.87, 44.11), Point(-112.80, 44.15), Point(-112.93, 44.07)
    asked, answers = [], []

    def opened(address, timeout):
        asked.append(address)
        return Answer(answers.pop(0))

    monkeypatch.setattr(service, "urlopen", opened)
    answers.append('{"code": "Ok", "durations": [[0, 600, null], [660, 0, 300], [null, 300, 0]]}')
    router = RouterTravelTimes("http://127.0.0.1:5000/")
    found = router.minutes([a, b, c])
    assert asked[0].startswith("http://127.0.0.1:5000/table/v1/driving/-112.870000,44.110000;")
    assert found[0, 1] == 12 and found[1, 0] == 13
    assert found[0, 2] == EstimatedTravelTimes().minutes([a, c])[0, 1]
    answers += [
        '{"code": "Ok", "routes": [{"geometry": {"coordinates": [[-112.87, 44.11], [-112.8, 44.15]]}}]}',
        "<html>",
    ]
    assert router.way([a, b]) == [Point(-112.87, 44.11), Point(-112.8, 44.15)]
    assert (router.minutes([a, b, c]) == EstimatedTravelTimes().minutes([a, b, c])).all()


def test_a_routing_server_that_hangs_is_not_waited_for_again_at_once(monkeypatch):
    """The rounds ask for each zone: ten seconds a zone would be minutes a page."""
    here, there = Point(-112.87, 44.11), Point(-112.80, 44.15)
    asked, now = [], [1000.0]

    def hangs(address, timeout):
        asked.append(address)
        raise TimeoutError

    monkeypatch.setattr(service, "urlopen", hangs)
    monkeypatch.setattr(service, "monotonic", lambda: now[0])
    estimated = EstimatedTravelTimes().minutes([here, there])
    for address in ("http://127.0.0.1:5001", "http://127.0.0.1:5001", "http://127.0.0.1:5002"):
        assert (RouterTravelTimes(address).minutes([here, there]) == estimated).all()
    assert len(asked) == 2, "each server once"
    now[0] += service.ASK_AGAIN_SECONDS
    RouterTravelTimes("http://127.0.0.1:5001").minutes([here, there])
    assert len(asked) == 3


@pytest.mark.parametrize("fault", [HTTPError("", 400, "too big", Message(), None), IncompleteRead(b"")])
def test_an_answer_that_is_no_good_keeps_nobody_from_asking_the_next(monkeypatch, fault):
    asked = []

    def refuses(address, timeout):
        asked.append(address)
        raise fault

    monkeypatch.setattr(service, "urlopen", refuses)
    for _ in range(2):
        RouterTravelTimes("http://127.0.0.1:5003").minutes([Point(-112.87, 44.11), Point(-112.80, 44.15)])
    assert len(asked) == 2

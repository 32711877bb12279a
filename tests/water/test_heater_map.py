"""Heaters on a map, by squares: all of them, however many there are."""

import datetime
from urllib.parse import urlencode

import pytest

from aquifer.customers.models import Site
from aquifer.forecasts.models import Due
from aquifer.heaters.models import Heater

TODAY = datetime.date.today()
PLACES = {"S1": (8.10, 50.10), "S2": (8.1001, 50.1001), "S3": (8.60, 50.40)}


@pytest.fixture
def placed(forecasted):
    for code, (longitude, latitude) in PLACES.items():
        Site.objects.filter(code=code).update(longitude=longitude, latitude=latitude)
    Due.objects.update(first_on=TODAY + datetime.timedelta(days=800), sediment_on=None, anode_on=None)
    return forecasted


def _due(heater: Heater, days: int, field: str = "first_on") -> None:
    Due.objects.filter(heater=heater).update(**{field: TODAY + datetime.timedelta(days=days)})


def _map(client, **query):
    return client.get(f"heater-map?{urlencode(query)}").json()


def test_heaters_that_stand_close_are_one_square_with_how_many_are_due_when(as_role, placed):
    client = as_role("technician")
    near = list(Heater.objects.filter(site__code__in=["S1", "S2"]).order_by("pk"))
    for heater, days in zip(near, (-1, 0, 28, 29), strict=False):
        _due(heater, days)
    told = _map(client)
    assert told["box"] == [8.1, 50.1, 8.6, 50.4] and told["without_place"] == 0
    assert told["heaters"] == Heater.objects.count() == sum(square["heaters"] for square in told["squares"])
    close, far = sorted(told["squares"], key=lambda square: square["longitude"])
    assert (close["heaters"], close["site_id"], close["name"]) == (len(near), None, "")
    assert (close["overdue"], close["soon"], close["year"]) == (1, 2, len(near) - 3)
    assert close["box"] == pytest.approx([8.1, 50.1, 8.1001, 50.1001])
    assert far["name"] == "Site 3" and far["site_id"] == Site.objects.get(code="S3").pk
    assert (far["overdue"], far["soon"], far["year"]) == (0, 0, 0)


def test_a_piece_of_the_map_tells_its_sites_apart(as_role, placed):
    told = _map(as_role("planner"), west=8.099, south=50.099, east=8.102, north=50.102)
    assert {square["name"] for square in told["squares"]} == {"Site 1", "Site 2"}
    # The whole is told beside, to go back to.
    assert told["box"] == [8.1, 50.1, 8.6, 50.4]


def test_it_is_asked_of_one_service_and_of_one_water(as_role, placed):
    client, heater = as_role("planner"), placed["heaters"][0]
    _due(heater, -3, "sediment_on")
    told = _map(client, component="sediment")
    assert [(square["heaters"], square["overdue"]) for square in told["squares"]] == [(1, 1)]
    zone = Site.objects.get(code="S3").zone_id
    assert [square["name"] for square in _map(client, zone_id=zone)["squares"]] == ["Site 3"]


def test_what_has_no_place_is_counted_and_no_longer_there_is_left_out(as_role, placed):
    client = as_role("planner")
    Site.objects.filter(code="S3").update(longitude=None)
    Heater.objects.filter(site__code="S2").update(archived_at=datetime.datetime.now(datetime.UTC))
    told = _map(client)
    assert told["without_place"] == Heater.objects.filter(site__code="S3").count() > 0
    assert [square["name"] for square in told["squares"]] == ["Site 1"]
    Site.objects.update(longitude=None)
    told = _map(client)
    assert (told["box"], told["squares"], told["heaters"]) == (None, [], 0)


@pytest.mark.parametrize(
    "query",
    [
        {"component": "tank"},
        {"component": "roof"},
        {"west": 9, "south": 50, "east": 8, "north": 51},
        {"west": 8, "south": 51, "east": 9, "north": 50},
        {"west": "nan", "south": 50, "east": 9, "north": 51},
        {"west": 800, "south": 50, "east": 9, "north": 51},
    ],
)
def test_what_cannot_be_asked_is_said(as_role, placed, query):
    assert as_role("planner").get(f"heater-map?{urlencode(query)}").status_code == 422


def test_a_square_keeps_its_place_while_the_map_is_moved(as_role, placed):
    client = as_role("planner")
    one = _map(client, west=8.0, south=50.0, east=8.7, north=50.5)["squares"]
    other = _map(client, west=8.02, south=50.01, east=8.72, north=50.51)["squares"]
    assert one == other


def test_ten_thousand_take_as_many_queries_as_ten(as_role, placed, django_assert_max_num_queries):
    client = as_role("planner")
    _map(client)
    with django_assert_max_num_queries(12):
        _map(client)

"""Where a site is: by hand, by a look-up on a server of the company's own, or not known and said so."""

import json
from urllib.parse import parse_qs, urlsplit

import pytest

from aquifer.customers.models import Site
from aquifer.places import locating
from aquifer.travel.finding import Address, NotAnswered, ServerFinder, SimulatedFinder
from aquifer.travel.service import Point
from tests.served import elsewhere

HERE = [{"lat": "44.112", "lon": "-112.871", "display_name": "1 Weir Street, Quillmoor"}]


def put(client, site, body):
    return client.raw.put(f"/api/sites/{site.pk}/place", body, content_type="application/json")


def test_a_pin_is_set_by_hand_shown_taken_back_and_taken_away(as_role, base):
    site, planner = base["sites"][0], as_role("planner")
    answer = put(planner, site, {"latitude": 44.1, "longitude": -112.9})
    assert (answer.json()["site"]["latitude"], answer.json()["site"]["located_by"]) == (44.1, "")
    other = planner.get(f"sites/{base['sites'][1].pk}/place").json()
    assert (other["latitude"], other["neighbours"], other["middle"]) == (None, [[-112.9, 44.1]], [-112.9, 44.1])
    put(planner, site, {"latitude": None, "longitude": None})
    assert Site.objects.get(pk=site.pk).longitude is None
    planner.post(f"changes/{answer['X-Change']}/undo")


@pytest.mark.parametrize(
    "body", [{"latitude": 44.1}, {"latitude": 91, "longitude": 0}, {"latitude": 1, "longitude": 181}]
)
def test_half_a_place_or_none_on_earth_is_refused(as_role, base, body):
    assert put(as_role("planner"), base["sites"][0], body).status_code == 422
    assert put(as_role("apprentice"), base["sites"][0], {"latitude": 1, "longitude": 1}).status_code == 403
    assert Site.objects.get(pk=base["sites"][0].pk).latitude is None


def test_an_address_is_looked_up_as_it_is_on_record(as_role, base, monkeypatch):
    site = base["sites"][0]
    Site.objects.filter(pk=site.pk).update(town="Quillmoor", postcode="00021")
    with elsewhere((200, json.dumps(HERE).encode()), (200, b"[]"), (500, b"")) as there:
        monkeypatch.setenv("AQUIFER_GEOCODER", there.address)
        planner = as_role("planner")
        found = planner.get(f"sites/{site.pk}/place/found").json()
        assert found == [{"latitude": 44.112, "longitude": -112.871, "words": "1 Weir Street, Quillmoor"}]
        assert planner.get(f"sites/{site.pk}/place/found").json() == []
        assert planner.get(f"sites/{site.pk}/place/found").json()["code"] == "place.no_answer"
    asked = parse_qs(urlsplit(there.asked[0].path).query)
    assert (asked["street"], asked["city"], asked["postalcode"]) == (["1 Weir Street"], ["Quillmoor"], ["00021"])
    assert "state" not in asked


@pytest.mark.parametrize("told", [b"<html>", b"{}", b'[{"lat": "x", "lon": "1", "display_name": ""}]',
                                  b'[{"lat": "95", "lon": "1", "display_name": ""}]', b"[1]"])  # fmt: skip
def test_what_answers_nonsense_answers_nothing(told):
    with elsewhere((200, told)) as there, pytest.raises(NotAnswered):
        ServerFinder(there.address).find(Address("1 Weir Street"))


def test_all_that_nobody_located_is_looked_up_and_what_a_hand_set_stays(base, monkeypatch):
    by_hand, by_town, unknown = base["sites"]
    Site.objects.filter(pk=by_hand.pk).update(longitude=1.0, latitude=1.0)
    Site.objects.filter(pk=by_town.pk).update(longitude=2.0, latitude=2.0, located_by="town")
    with elsewhere((200, json.dumps(HERE).encode())) as there:
        monkeypatch.setenv("AQUIFER_GEOCODER", there.address)
        assert locating.look_up_all() == 2 and len(there.asked) == 2
        assert locating.look_up_all() == 0
    at = dict(Site.objects.values_list("pk", "longitude"))
    assert at == {by_hand.pk: 1.0, by_town.pk: -112.871, unknown.pk: -112.871}
    assert Site.objects.get(pk=unknown.pk).located_by == "look_up"


def test_a_look_up_that_falls_silent_keeps_what_it_found(base, monkeypatch):
    with elsewhere((200, json.dumps(HERE).encode()), (503, b"")) as there:
        monkeypatch.setenv("AQUIFER_GEOCODER", there.address)
        assert locating.look_up_all() == 1 and len(there.asked) == 2
    assert Site.objects.filter(longitude__isnull=False).count() == 1


def test_without_a_look_up_nothing_is_asked(as_role, base, monkeypatch):
    monkeypatch.delenv("AQUIFER_GEOCODER", raising=False)
    monkeypatch.delenv("AQUIFER_DEMO", raising=False)
    told = as_role("planner").get(f"sites/{base['sites'][0].pk}/place").json()
    assert told["looks_up"] is False and told["middle"] is None
    assert locating.look_up_all() == 0


def test_the_demos_stand_in_puts_an_address_always_at_the_same_place_in_the_district():
    finder = SimulatedFinder(Point(8.0, 47.0))
    (one,), (again,) = finder.find(Address("1 Weir Street", "Alm")), finder.find(Address("1 WEIR Street", "Alm"))
    assert one.at == again.at and abs(one.at.longitude - 8.0) < 0.1 and "simulated" in one.words
    assert finder.find(Address("2 Weir Street", "Alm"))[0].at != one.at and finder.find(Address()) == []

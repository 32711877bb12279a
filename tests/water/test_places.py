"""Zones by the towns and postcodes that they supply: their sites come into them, now and later."""

import pytest

from aquifer.customers.models import Site
from aquifer.forecasts.models import Forecast
from aquifer.water.models import Zone
from tests.imports.test_office_list import brought_in, matched, sent

NEW = {"name": "Quillmoor north", "supply": "mains", "places": ["Quillmoor", " 00022 "]}


@pytest.fixture
def towns(base):
    for site, town, postcode in zip(
        base["sites"], ("QUILLMOOR", "Lower Quillmoor", "Tamarack"), ("00021", "00022", "00021"), strict=True
    ):
        site.town, site.postcode = town, postcode
        site.save()
    return base["sites"]


def test_a_new_zone_takes_the_sites_of_its_towns_and_postcodes(as_role, forecasted, towns):
    answer = as_role("planner").post("zones", NEW)
    assert answer.status_code == 201 and answer.headers["X-Stale"] == "soon"
    zone = Zone.objects.get(pk=answer.json()["id"])
    assert (zone.code, zone.places) == ("quillmoor-north", ["Quillmoor", "00022"])
    assert set(Site.objects.filter(zone=zone)) == set(towns[:2])
    told = as_role("planner").get(f"sites/{towns[0].pk}/history").json()[0]
    assert told["by"] == "Planner" and told["lines"][0]["after"] == "Quillmoor north"
    assert Forecast.objects.current().exists()


def test_one_place_belongs_to_one_zone(as_role, towns):
    client = as_role("planner")
    client.post("zones", NEW)
    answer = client.post("zones", {**NEW, "name": "South", "places": ["quillmoor"]})
    assert answer.status_code == 422 and "Quillmoor north already" in answer.json()["fields"]["places"]
    assert not Zone.objects.filter(name="South").exists()
    # A second one of that name has a code of its own.
    assert client.post("zones", {**NEW, "places": []}).json()["code"] == "quillmoor-north-2"
    assert as_role("apprentice").post("zones", {**NEW, "places": []}).status_code == 403


def test_what_no_zone_supplies_stays_where_it_is(as_role, towns):
    before = dict(Site.objects.values_list("pk", "zone_id"))
    made = as_role("planner").post("zones", {**NEW, "places": []}).json()
    assert dict(Site.objects.values_list("pk", "zone_id")) == before and made["places"] == []


def test_a_list_that_comes_later_goes_by_what_each_zone_supplies(as_role, people, db):
    as_role("planner").post("zones", {**NEW, "places": ["Quillmoor", "00099"]})
    text = (
        'Client,Service address,Unit type,Well\n"A","1 Mill Ln, Quillmoor 00021",gas,\n'
        '"B","2 Far Rd, Afar 00099",gas,\n'
        '"C","3 Mill Ln, Quillmoor 00021",gas,well\n"D","4 Sea Rd, Elsewhere 00050",gas,\n'
    )
    brought_in(matched(sent(people, text)))
    zones = dict(Site.objects.values_list("name", "zone__name"))
    assert zones == {"A": "Quillmoor north", "B": "Quillmoor north", "C": "Quillmoor, wells", "D": "Elsewhere"}

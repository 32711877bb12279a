import datetime

import pytest

from aquifer.customers.models import Customer, Site
from aquifer.forecasts.models import Forecast
from aquifer.open_ends.models import OpenEnd
from aquifer.places.models import Feature

BRITTLE = {
    "kind": "house_shut_off",
    "form": "plastic",
    "condition": "brittle",
    "where": "pit",
    "do_not_operate": True,
    "use_instead": "the valve at the meter",
}
SAID = "Don't touch the house shut-off (plastic, pit): brittle, may snap. Use the valve at the meter instead."


def site_of(base, at: int = 0) -> Site:
    return base["heaters"][at].site


def test_a_hazard_is_said_first_wherever_the_site_appears(as_role, forecasted):
    client, heater = as_role("technician"), forecasted["heaters"][0]
    Site.objects.filter(pk=heater.site_id).update(hazard="The dog bites.")
    answer = client.post(f"sites/{heater.site_id}/features", BRITTLE)
    assert answer.status_code == 201
    both = ["The dog bites.", SAID]
    assert answer.json()["site"]["hazards"] == both
    assert client.get(f"heaters/{heater.pk}").json()["site"]["hazards"] == both
    assert client.get("sites?q=weir").json()[0]["hazards"] in (both, [])
    register = {row["id"]: row["hazard"] for row in client.get("heaters").json()["rows"]}
    outlook = {row["id"]: row["hazard"] for row in client.get("outlook").json()["rows"]}
    for told in (register, outlook):
        assert told[heater.pk].startswith("The dog bites.") and "Don't touch" in told[heater.pk]
    assert sum(bool(hazard) for hazard in register.values()) == 2  # two heaters stand at each site


def test_what_stands_at_a_heater_and_what_nobody_has_looked_at(as_role, forecasted):
    client, heater = as_role("apprentice"), forecasted["heaters"][0]
    before = client.get(f"sites/{heater.site_id}").json()
    drain = {"kind": "tank_drain", "heater_id": heater.pk, "form": "brass", "condition": "drips"}
    after = client.post(f"sites/{heater.site_id}/features", drain).json()
    assert len(after["unseen"]) == len(before["unseen"]) - 1
    seen = after["features"][0]
    assert (seen["condition_words"], seen["severity"], seen["seen_by"]) == ("drips when closed", "note", "Apprentice")
    assert seen["seen_on"] == datetime.date.today().isoformat()


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"condition": "rusted"}, "condition"),
        ({"form": "butterfly"}, "form"),
        ({"heater_id": 999_999}, "heater_id"),
        ({"seen_on": "2999-01-01"}, "seen_on"),
        ({"kind": "tank_drain", "form": "", "condition": "sound", "do_not_operate": False}, "heater_id"),
        ({"kind": "vent", "form": "", "condition": "sound"}, "do_not_operate"),
        ({"kind": "chimney"}, "kind"),
        ({"where": "a" * 121}, "where"),
    ],
)
def test_what_cannot_be_is_told_by_its_field_and_not_kept(as_role, base, change, field):
    answer = as_role("technician").post(f"sites/{site_of(base).pk}/features", BRITTLE | change)
    assert answer.status_code == 422 and field in answer.json()["fields"]
    assert not Feature.objects.exists()


def test_a_rod_s_tank_drain_matters_to_no_tankless_heater(as_role, base):
    tankless = base["heaters"][3]
    body = {"kind": "tank_drain", "heater_id": tankless.pk, "condition": "sound"}
    answer = as_role("technician").post(f"sites/{tankless.site_id}/features", body)
    assert answer.status_code == 422 and "does not matter" in answer.json()["fields"]["kind"]


def test_a_fault_is_open_until_it_is_seen_put_right(as_role, base):
    client, site = as_role("technician"), site_of(base)
    kept = client.post(f"sites/{site.pk}/features", BRITTLE).json()["features"][0]
    assert OpenEnd.objects.get().words == SAID
    # Another fault of the same valve takes its place; nothing is open twice.
    passes = BRITTLE | {"condition": "passes", "do_not_operate": False, "use_instead": ""}
    client.patch(f"features/{kept['id']}", passes)
    assert OpenEnd.objects.get().severity == "defect"
    client.patch(f"features/{kept['id']}", passes | {"condition": "sound"})
    closed = OpenEnd.objects.get()
    assert (closed.state, closed.how_closed) == ("closed", "seen in order by Technician")
    client.patch(f"features/{kept['id']}", passes)
    assert OpenEnd.objects.count() == 2


def test_a_note_leaves_nothing_open(as_role, base):
    body = BRITTLE | {"condition": "stiff", "do_not_operate": False}
    as_role("technician").post(f"sites/{site_of(base).pk}/features", body)
    assert not OpenEnd.objects.exists()


def test_what_is_taken_away_closes_what_it_left_and_stays_in_the_history(as_role, base):
    client, site = as_role("technician"), site_of(base)
    kept = client.post(f"sites/{site.pk}/features", BRITTLE).json()["features"][0]
    assert client.raw.delete(f"/api/features/{kept['id']}").status_code == 204
    page = client.get(f"sites/{site.pk}").json()
    assert page["features"] == page["open_ends"] == page["site"]["hazards"] == []
    assert client.raw.delete(f"/api/features/{kept['id']}").status_code == 404
    history = client.get(f"sites/{site.pk}/history").json()
    assert history[-1]["lines"][0]["done"] == "added" and history[0]["by"] == "Technician"


def test_a_page_reads_in_a_fixed_number_of_queries(as_role, forecasted, django_assert_num_queries):
    client, site = as_role("technician"), site_of(forecasted)
    for kind in ("house_shut_off", "meter_valve", "regulator", "inlet_filter"):
        body = {"kind": kind, "condition": "sound"}
        client.post(f"sites/{site.pk}/features", body)
        with django_assert_num_queries(14):  # with the versions of the site and of its features
            client.get(f"sites/{site.pk}")


def site_body(base, **parts):
    return {"name": "The mill", "zone_id": base["zones"][0].pk, **parts}


def test_a_new_site_finds_its_customer_by_name_or_makes_one(as_role, base):
    client = as_role("planner")
    made = client.post("sites", site_body(base, customer_name="marram bakery", closed_system=True)).json()
    assert made["customer"] == "Marram Bakery" and made["closed_system"] is True
    assert client.post("sites", site_body(base)).json()["customer"] == "The mill"
    assert Customer.objects.count() == 2


def test_a_house_whose_meter_stands_still_is_forecast_too(as_role, forecasted):
    heater = forecasted["heaters"][0]
    body = site_body(forecasted, name=heater.site.name, zone_id=heater.site.zone_id)
    before = Forecast.objects.current().get(heater=heater, component="sediment").rate[1]
    for litres in (0.0, -1.0):
        answer = as_role("planner").patch(f"sites/{heater.site_id}", body | {"hot_water_l_per_day": litres})
        assert answer.status_code == (200 if litres == 0 else 422)
    assert 0 <= Forecast.objects.current().get(heater=heater, component="sediment").rate[1] < before / 5


def test_a_changed_site_moves_the_dates_of_its_heaters(as_role, forecasted):
    client, heater = as_role("planner"), forecasted["heaters"][0]
    before = Forecast.objects.current().get(heater=heater, component="sediment").rate[1]
    body = site_body(forecasted, name=heater.site.name, zone_id=heater.site.zone_id, softened=True)
    assert client.patch(f"sites/{heater.site_id}", body).status_code == 200
    assert Forecast.objects.current().get(heater=heater, component="sediment").rate[1] < before / 3


@pytest.mark.parametrize(
    ("parts", "field"),
    [({"zone_id": 999_999}, "zone_id"), ({"occupied_share": 1.2}, "occupied_share"), ({"name": " "}, "name")],
)
def test_a_site_that_cannot_be_is_told_its_field(as_role, base, parts, field):
    answer = as_role("planner").post("sites", site_body(base, **parts))
    assert answer.status_code == 422 and field in answer.json()["fields"]


def test_an_apprentice_records_what_stands_there_but_changes_no_site(as_role, base):
    client, site = as_role("apprentice"), site_of(base)
    assert client.post(f"sites/{site.pk}/features", BRITTLE).status_code == 201
    assert client.patch(f"sites/{site.pk}", site_body(base)).status_code == 403


def test_what_can_be_recorded_is_told_with_its_conditions(as_role, base):
    told = {one["kind"]: one for one in as_role("apprentice").get("features").json()}
    assert told["house_shut_off"]["is_valve"] and told["house_shut_off"]["of_site"]
    assert {"value": "sound", "words": "closes tight", "severity": None, "advice": ""} in told["gas_shut_off"][
        "conditions"
    ]

import datetime

import pytest

from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater


def heater_body(base, **parts):
    return {"tag": "NEW-1", "site_id": base["sites"][0].pk, "kind": "gas_tank", "capacity_l": 151, **parts}


def test_a_new_heater_has_a_forecast_at_once(as_role, forecasted):
    answer = as_role("planner").post("heaters", heater_body(forecasted, installed_on="2024-05-01"))
    assert answer.status_code == 201
    found = as_role("planner").get(f"heaters/{answer.json()['id']}/forecast").json()
    assert {one["component"] for one in found} == {"sediment", "anode", "relief_valve", "tank"}
    assert all(one["due_on"] for one in found if one["component"] != "tank")


def test_a_tankless_heater_is_asked_for_no_rod_and_gets_a_descale(as_role, forecasted):
    body = heater_body(forecasted, kind="gas_tankless", capacity_l=None, installed_on="2024-05-01")
    made = as_role("planner").post("heaters", body).json()
    found = as_role("planner").get(f"heaters/{made['id']}/forecast").json()
    assert {one["component"] for one in found} == {"scale", "relief_valve"}


def test_two_people_editing_a_heater(as_role, forecasted):
    """The second is told, nothing of the first is overwritten, and theirs is saved after they looked."""
    heater = forecasted["heaters"][0]
    first, second = as_role("planner"), as_role("lead")
    seen = second.get(f"heaters/{heater.pk}").json()
    body = heater_body(forecasted, tag=heater.tag, version=seen["version"])
    assert first.patch(f"heaters/{heater.pk}", body | {"location": "cellar"}).status_code == 200
    refused = second.patch(f"heaters/{heater.pk}", body | {"location": "garage"})
    assert refused.status_code == 409
    assert refused.json()["code"] == "heater.changed_meanwhile"
    heater.refresh_from_db()
    assert heater.location == "cellar"
    again = body | {"location": "garage", "version": heater.version}
    assert second.patch(f"heaters/{heater.pk}", again).status_code == 200


def test_a_changed_heater_is_forecast_anew(as_role, forecasted):
    heater = forecasted["heaters"][0]
    before = Forecast.objects.current().get(heater=heater, component="sediment")
    body = heater_body(forecasted, tag=heater.tag, version=1, setpoint_c=45, installed_on=str(heater.installed_on))
    assert as_role("planner").patch(f"heaters/{heater.pk}", body).status_code == 200
    after = Forecast.objects.current().get(heater=heater, component="sediment")
    assert after.rate[1] < before.rate[1]
    assert after.heater_version == 2 and before.heater_version == 1


def test_what_was_typed_wrong_is_told_in_plain_words(as_role, forecasted):
    typed = heater_body(forecasted, capacity_l="no number", installed_on="yesterday")
    fields = as_role("planner").post("heaters", typed).json()["fields"]
    assert fields == {
        "capacity_l": "This is not a number that fits here.",
        "installed_on": "This is not a day; write it like 2026-11-25.",
    }


def test_a_tag_is_given_once(as_role, forecasted):
    answer = as_role("planner").post("heaters", heater_body(forecasted, tag="T-1"))
    assert answer.status_code == 409
    assert answer.json()["fields"] == {"tag": "taken by another heater"}


@pytest.mark.parametrize(
    ("parts", "field"),
    [
        ({"tag": "  "}, "tag"),
        ({"kind": "kettle"}, "kind"),
        ({"capacity_l": -3}, "capacity_l"),
        ({"capacity_l": "no number"}, "capacity_l"),
        ({"setpoint_c": 200}, "setpoint_c"),
        ({"installed_on": "2999-01-01"}, "installed_on"),
        ({"installed_on": "yesterday"}, "installed_on"),
        ({"site_id": 999_999}, "site_id"),
        ({"colour": "blue"}, "colour"),
        ({"anode": {"fitted_on": "1999-01-01"}, "installed_on": "2020-01-01"}, "anode.fitted_on"),
        ({"tag": "a\x00b"}, "tag"),
    ],
)
def test_a_bad_entry_names_its_field_and_saves_nothing(as_role, base, parts, field):
    before = Heater.objects.count()
    answer = as_role("planner").post("heaters", heater_body(base, **parts))
    assert answer.status_code == 422
    assert field in answer.json()["fields"]
    assert Heater.objects.count() == before


def test_words_find_a_heater_by_tag_street_customer_zone_and_kind(as_role, forecasted):
    client = as_role("technician")
    for words in ("T-3", "weir 1", "marram tankless", "chalk gas_tank"):
        found = client.get(f"heaters?q={words}").json()
        assert 0 < found["total"] < 6, words
    assert client.get("heaters?q=nowhere").json() == {"total": 0, "rows": []}


def test_the_register_reads_in_a_fixed_number_of_queries(as_role, forecasted, django_assert_num_queries):
    client = as_role("planner")
    for limit in (1, 100):
        with django_assert_num_queries(8):  # the clock, session, user, count, heaters, forecasts, hazards, left off
            assert client.get(f"heaters?limit={limit}").status_code == 200


def test_an_unknown_heater_is_not_found(as_role, db):
    assert as_role("planner").get("heaters/4711").json()["code"] == "not_found"
    assert as_role("planner").get("heaters/4711/log").status_code == 404


def test_dates_of_installation_before_1950_are_refused(as_role, base):
    early = datetime.date(1900, 1, 1).isoformat()
    assert as_role("planner").post("heaters", heater_body(base, installed_on=early)).status_code == 422


def test_a_note_is_kept_and_another_kind_says_that_somebody_has_seen_it(as_role, base):
    heater = base["heaters"][0]
    heater.kind_seen = False
    heater.save()
    planner = as_role("planner")
    told = planner.get(f"heaters/{heater.pk}").json()
    fields = {name: told[name] for name in ("tag", "kind", "version")} | {"site_id": told["site"]["id"]}
    same = planner.patch(f"heaters/{heater.pk}", {**fields, "note": " in the attic "})
    assert same.status_code == 200, same.json()
    heater.refresh_from_db()
    assert (heater.note, heater.kind_seen) == ("in the attic", False)
    planner.patch(f"heaters/{heater.pk}", {**fields, "kind": "indirect_tank", "version": heater.version})
    heater.refresh_from_db()
    assert (heater.kind, heater.kind_seen) == ("indirect_tank", True)

"""The register as a whole: finding, views, changing many, heaters on record twice, the archive, labels and tags."""

import datetime
import re

import pytest

from aquifer.core.units import System
from aquifer.customers.models import Customer
from aquifer.forecasts.models import Forecast
from aquifer.heaters import duplicates, labels
from aquifer.heaters.models import Heater, Part
from tests.conftest import FLUSH, visit


@pytest.mark.parametrize("words", ["marram bakry", "weer street", "chlk tnkless", "marram bakery weer"])
def test_the_finder_forgives_typing_errors_and_says_so(as_role, forecasted, words):
    found = as_role("planner").get(f"find?q={words}").json()
    assert not found["exact"]
    assert found["heaters"] or found["places"]


def test_the_finder_knows_heaters_sites_customers_phones_and_zones(as_role, forecasted):
    Customer.objects.update(phone="555-0101", email="post@example.com")
    client = as_role("apprentice")
    assert client.get("find?q=T-3").json()["heaters"][0]["tag"] == "T-3"
    kinds = {word: {one["kind"] for one in client.get(f"find?q={word}").json()["places"]} for word in ("Site 2", "Upl")}
    assert kinds == {"Site 2": {"site"}, "Upl": {"zone"}}
    assert "555-0101" in client.get("find?q=555-0101").json()["places"][0]["name"]
    assert client.get("find?q=").json() == {"exact": True, "heaters": [], "places": []}
    nothing = client.get("find?q=zzzzqqqq").json()
    assert nothing == {"exact": False, "heaters": [], "places": []}


@pytest.mark.parametrize("words", ["%", "_", "\\", "'; DROP TABLE", "a" * 200, "é", "١٢"])
def test_odd_words_find_nothing_and_break_nothing(as_role, forecasted, words):
    assert as_role("planner").raw.get("/api/find", {"q": words}).status_code == 200


def test_what_a_heater_is_found_by_follows_every_record_it_stands_on(base):
    heater = Heater.objects.get(tag="T-0")
    assert all(word in heater.words for word in ("t-0", "site 1", "1 weir street", "marram bakery", "chalk"))
    site = heater.site
    site.name = "Old mill"
    site.save()
    Customer.objects.filter(pk=site.customer_id).update(name="Quillan", phone="555-0133")
    site.zone.name = "Limestone"
    site.zone.save()
    heater.refresh_from_db()
    assert all(word in heater.words for word in ("old mill", "quillan", "555-0133", "limestone"))
    assert "marram" not in heater.words


def test_views_are_kept_and_shared(as_role, base):
    planner, lead = as_role("planner"), as_role("lead")
    own = {"place": "register", "name": "Chalk tanks", "query": "q=chalk", "shared": False}
    kept = planner.post("views", own).json()
    assert kept["mine"] and lead.get("views?place=register").json() == []
    planner.post("views", own | {"query": "q=chalk+tank", "shared": True})
    (seen,) = lead.get("views?place=register").json()
    assert (seen["query"], seen["mine"]) == ("q=chalk+tank", False)
    assert lead.get("views?place=outlook").json() == []
    assert lead.raw.delete(f"/api/views/{seen['id']}").status_code == 404
    assert planner.raw.delete(f"/api/views/{seen['id']}").status_code == 204


def bulk(client, field, value, expected=None, **filters):
    asked = {"filters": filters, "field": field, "value": value}
    if expected is None:
        return client.post("heaters/bulk/preview", asked)
    return client.post("heaters/bulk", asked | {"expected": expected})


def test_many_are_changed_after_a_look_at_what_it_would_do(as_role, forecasted):
    client = as_role("planner")
    seen = bulk(client, "practice", "annual", q="chalk").json()
    assert (seen["total"], seen["changed"]) == (4, 4)
    assert seen["shown"][0]["before"] == "" and not Heater.objects.exclude(practice="").exists()
    assert bulk(client, "practice", "annual", expected=4, q="chalk").json() == {"changed": 4}
    assert bulk(client, "practice", "annual", q="chalk").json()["changed"] == 0
    dates = Forecast.objects.current().filter(heater__practice="annual", component__in=["sediment", "scale"])
    assert {one.decided_by for one in dates} == {"practice"}
    assert set(Heater.objects.values_list("version", flat=True)) == {1, 2}


def test_a_change_of_many_that_is_no_longer_what_was_seen_is_refused(as_role, forecasted):
    client = as_role("planner")
    Heater.objects.filter(tag="T-0").update(maker="Brackwell")
    refused = bulk(client, "maker", "Brackwell", expected=6)
    assert refused.status_code == 409 and "5 heaters, not 6" in refused.json()["message"]
    assert Heater.objects.filter(maker="Brackwell").count() == 1


@pytest.mark.parametrize(
    ("field", "value", "says"),
    [
        ("tag", "X", "not set for many"),
        ("setpoint_c", 200, "30 to 95"),
        ("setpoint_c", "hot", "30 to 95"),
        ("practice", "sometimes", "Allowed: condition"),
        ("maker", "x" * 81, "at most 80"),
        ("recirculated", "yes", "Allowed"),
    ],
)
def test_a_value_that_many_cannot_have_is_told(as_role, base, field, value, says):
    answer = bulk(as_role("planner"), field, value)
    assert answer.status_code == 422 and says in answer.json()["message"]


def twin(base, **parts):
    one = base["heaters"][0]
    values = {"tag": "OLD-7", "site": one.site, "kind": one.kind, "maker": "Brackwell", "serial": "77-1"}
    Heater.objects.filter(pk=one.pk).update(maker="BRACKWELL", serial="77-1")
    return Heater.objects.create(**{**values, **parts})


def test_a_heater_on_record_twice_is_suspected_by_serial_or_by_place(as_role, base):
    twin(base)
    where = {"site": base["sites"][1], "kind": "gas_tank", "location": "cellar", "capacity_l": 189}
    for tag in ("A-1", "A-2"):
        Heater.objects.create(tag=tag, **where)
    assert as_role("planner").get("duplicates").json() == []
    duplicates.renew()
    told = as_role("planner").get("duplicates").json()
    assert [(one["first"]["tag"], one["second"]["tag"]) for one in told] == [("A-1", "A-2"), ("T-0", "OLD-7")]
    assert told[1]["because"] == "the same serial number"


def test_a_heater_that_is_typed_a_second_time_is_suspected_at_once(as_role, base):
    client, one = as_role("planner"), base["heaters"][0]
    Heater.objects.filter(pk=one.pk).update(serial="77-1", maker="Brackwell")
    body = {"tag": "NEW-1", "site_id": one.site_id, "kind": "gas_tank", "serial": "77-1", "maker": "brackwell"}
    made = client.post("heaters", body)
    assert made.status_code == 201
    assert [two["second"]["tag"] for two in client.get("duplicates").json()] == ["NEW-1"]
    changed = client.patch(
        f"heaters/{made.json()['id']}", {**body, "serial": "78-2", "version": made.json()["version"]}
    )
    assert changed.status_code == 200 and client.get("duplicates").json() == []


def test_two_are_made_one_and_nothing_of_either_is_lost(as_role, forecasted):
    client, kept = as_role("technician"), forecasted["heaters"][0]
    other = twin(forecasted, location="cellar", input_kw=11.7)
    Part.objects.create(heater=other, kind="relief_valve")
    Part.objects.create(heater=other, kind="expansion_tank", volume_l=8)
    duplicates.renew()
    assert as_role("planner").get("duplicates").json()
    client.post("visits", visit(other.pk, FLUSH))
    client.post("open-ends", {"heater_id": other.pk, "words": "Drips"})
    made = as_role("planner").post(f"heaters/{kept.pk}/merge", {"other_id": other.pk}).json()
    assert (made["tag"], made["location"], made["input_kw"]) == ("T-0", "cellar", 11.7)
    assert sorted(part["kind"] for part in made["parts"]) == ["anode", "expansion_tank", "relief_valve"]
    assert made["open_ends"][0]["words"] == "Drips"
    assert client.get(f"heaters/{kept.pk}/log").json()["entries"]
    other.refresh_from_db()
    assert other.archived_at and other.location == "cellar (now T-0)"
    assert not Forecast.objects.current().filter(heater=other).exists()
    assert as_role("planner").get("duplicates").json() == []


def test_what_cannot_be_one_is_told(as_role, base):
    client, (first, *_, last) = as_role("planner"), base["heaters"]
    assert client.post(f"heaters/{first.pk}/merge", {"other_id": first.pk}).status_code == 409
    assert client.post(f"heaters/{first.pk}/merge", {"other_id": last.pk}).status_code == 422
    assert client.post(f"heaters/{first.pk}/merge", {"other_id": 999_999}).status_code == 404


def test_archiving_loses_nothing_and_is_undone(as_role, forecasted):
    client, heater = as_role("planner"), forecasted["heaters"][0]
    assert client.post(f"heaters/{heater.pk}/archive").json()["archived"] is True
    assert client.get("heaters").json()["total"] == 5
    assert client.get("heaters?archived=true").json()["rows"][0]["tag"] == "T-0"
    assert client.post(f"heaters/{heater.pk}/archive").status_code == 404
    assert client.post(f"heaters/{heater.pk}/restore").json()["archived"] is False
    assert Forecast.objects.current().filter(heater=heater).count() == 4


def test_what_is_guessed_of_a_heater_is_said_and_found(as_role, forecasted):
    Heater.objects.filter(tag="T-0").update(install_certainty="estimated", install_margin_years=3)
    Heater.objects.filter(tag="T-1").update(flush_history="about", last_flush_year=2021)
    Heater.objects.filter(tag="T-2").update(installed_on=None, flush_history="never")
    client = as_role("planner")
    assert client.get("heaters?guessed=true").json()["total"] == 3
    said = {row["tag"]: row["guessed"] for row in client.get("outlook").json()["rows"]}
    assert said["T-0"] == ["age estimated within 3 years"]
    assert said["T-1"] == ["last flush about 2021"]
    assert said["T-2"] == ["age not known", "never flushed as far as known"]
    assert said["T-3"] == []


def test_a_year_of_the_last_flush_is_asked_where_it_is_said_to_be_known(as_role, base):
    body = {"tag": "N-1", "site_id": base["sites"][0].pk, "kind": "gas_tank", "flush_history": "about"}
    refused = as_role("planner").post("heaters", body)
    assert refused.status_code == 422 and "last_flush_year" in refused.json()["fields"]
    late = as_role("planner").post("heaters", body | {"last_flush_year": datetime.date.today().year + 1})
    assert late.status_code == 422
    assert as_role("planner").post("heaters", body | {"last_flush_year": 2021}).status_code == 201


def pages(pdf: bytes) -> int:
    return len(re.findall(rb"/Type /Page\b", pdf))


def test_labels_are_printed_for_a_sentence(as_role, base):
    answer = as_role("technician").raw.get("/api/labels.pdf?q=chalk")
    assert answer["Content-Type"] == "application/pdf"
    assert answer.content.startswith(b"%PDF-") and pages(answer.content) == 1
    refused = as_role("technician").get("labels.pdf?q=nowhere")
    assert refused.status_code == 422 and "nothing to print" in refused.json()["message"]


def test_sheets_have_as_many_labels_as_their_paper():
    made = [labels.Label(f"T-{n}", "gas tank", f"http://localhost/t/T-{n}") for n in range(25)]
    assert pages(labels.sheet(made, "A company", System.METRIC)) == 2  # 24 to a sheet
    assert pages(labels.sheet(made, "A company", System.US)) == 1  # 30 to a sheet
    long = labels.Label("A-" + "9" * 38, "gas tank", "http://localhost/t/x")
    assert labels.sheet([long], "A company with a very long name indeed", System.METRIC).startswith(b"%PDF-")


def test_a_scanned_or_typed_tag_opens_its_heater(as_role, base):
    client, heater = as_role("technician"), base["heaters"][0]
    assert client.get("tags?tag=t-0 ").json() == {"id": heater.pk}
    missing = client.get("tags?tag=T-99")
    assert missing.status_code == 404 and "No heater has the tag T-99" in missing.json()["message"]
    # One in service goes before an archived one of the same letters.
    Heater.objects.create(tag="T-0x", site=heater.site, kind="gas_tank")
    assert client.get("tags?tag=T-0X").status_code == 200

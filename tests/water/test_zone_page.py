import datetime

import pytest

from aquifer.customers.models import Site
from aquifer.demo.supplier import SimulatedSupplier
from aquifer.forecasts import gaps
from aquifer.forecasts.models import Forecast, Gap
from aquifer.forecasts.tasks import recompute_zone
from aquifer.heaters.models import Heater
from aquifer.water import supplier
from aquifer.water.models import Season, WaterTest, Zone

LATELY = (datetime.date.today() - datetime.timedelta(days=27)).isoformat()


def test_a_page_shows_tests_what_they_do_and_who_has_none(as_role, forecasted):
    client, zone = as_role("apprentice"), forecasted["zones"][0]
    told = client.get(f"zones/{zone.pk}").json()
    assert [test["total_hardness_mg_l"] for test in told["tests_taken"]] == [300]
    assert (told["sites_total"], told["sites_with_a_test"]) == (2, 0)
    assert {one["kind"] for one in told["kinds"]} == {"gas_tank", "electric_tank", "gas_tankless", "heat_pump_tank"}
    assert {one["name"] for one in told["without_a_test"]} == {"Site 1", "Site 2"}
    assert "very hard" in told["in_words"].lower()


def test_a_test_of_a_site_s_own_is_kept_apart_and_counted(as_role, forecasted):
    client, zone = as_role("technician"), forecasted["zones"][0]
    body = {
        "site_id": forecasted["sites"][0].pk,
        "taken_on": LATELY,
        "method": "strip",
        "total_hardness_mg_l": 90,
    }
    told = client.post(f"zones/{zone.pk}/tests", body).json()
    assert told["sites_with_a_test"] == 1 and told["tests_taken"][0]["site"] == "Site 1"
    again = client.post(f"zones/{zone.pk}/tests", body)
    assert again.status_code == 409 and "taken_on" in again.json()["fields"]


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"taken_on": "2999-01-01"}, "taken_on"),
        ({"total_hardness_mg_l": None}, "total_hardness_mg_l"),
        ({"calcium_hardness_mg_l": 200}, "calcium_hardness_mg_l"),
        ({"ph": 15}, "ph"),
        ({"site_id": 999_999}, "site_id"),
        ({"method": ""}, "method"),
    ],
)
def test_a_test_that_cannot_be_names_its_figure(as_role, base, change, field):
    body = {"taken_on": LATELY, "method": "strip", "total_hardness_mg_l": 90} | change
    answer = as_role("technician").post(f"zones/{base['zones'][0].pk}/tests", body)
    assert answer.status_code == 422 and field in answer.json()["fields"]
    assert WaterTest.objects.count() == 2


def test_a_hardness_in_another_unit_is_asked_about_once_and_taken_when_it_is_so(as_role, base):
    client, zone = as_role("technician"), base["zones"][0]
    body = {"taken_on": LATELY, "method": "drop test", "total_hardness_mg_l": 17.5}
    asked = client.post(f"zones/{zone.pk}/tests", body)
    assert asked.status_code == 409
    assert asked.json()["fields"]["sure"] == "18 mg/L where 300 mg/L was usual. Was it grains?"
    assert WaterTest.objects.filter(zone=zone).count() == 1
    assert client.post(f"zones/{zone.pk}/tests", body | {"sure": True}).status_code == 201
    # What fits is not asked about, and neither is a site's own water.
    assert (
        client.post(f"zones/{zone.pk}/tests", body | {"method": "strip", "total_hardness_mg_l": 25}).status_code == 201
    )
    own = body | {"site_id": base["sites"][0].pk, "total_hardness_mg_l": 280}
    assert client.post(f"zones/{zone.pk}/tests", own).status_code == 201


def test_the_map_has_every_zone_with_what_stands_on_it(as_role, forecasted):
    Zone.objects.filter(code="CHK").update(outline=[[0, 0], [1, 0], [1, 1], [0, 0]])
    told = {one["code"]: one for one in as_role("apprentice").get("zones/map").json()}
    assert (told["CHK"]["heaters"], told["CHK"]["sites"], len(told["CHK"]["outline"])) == (4, 2, 4)
    assert told["UPL"]["outline"] is None and told["UPL"]["hardness_class"] == "soft"


class Published:
    """A supplier that published twice."""

    def published(self, zone_code, since, until):
        for on in (datetime.date(2026, 1, 15), datetime.date(2026, 4, 15)):
            if since < on <= until:
                yield supplier.Published(on, 250, 190, 180, 7.4, 500, 0.4, "chlorine")


def test_a_supplier_s_figures_come_once_and_none_before_the_last(base):
    zone = base["zones"][0]
    assert supplier.fetch(Published(), zone, datetime.date(2026, 3, 1)) == 1
    assert supplier.fetch(Published(), zone, datetime.date(2026, 6, 1)) == 1
    assert supplier.fetch(Published(), zone, datetime.date(2026, 6, 1)) == 0
    assert zone.tests.filter(method="supplier").count() == 2


def test_the_simulated_supplier_says_the_same_of_the_same_day_and_moves_a_little(base):
    feed = SimulatedSupplier()
    year = list(feed.published("CHK", datetime.date(2025, 1, 1), datetime.date(2025, 12, 31)))
    assert [one.on.month for one in year] == [1, 4, 7, 10]
    assert year == list(feed.published("CHK", datetime.date(2025, 1, 1), datetime.date(2025, 12, 31)))
    hardness = [one.total_hardness_mg_l for one in year]
    assert len(set(hardness)) > 1 and max(hardness) / min(hardness) < 1.09
    assert list(feed.published("nowhere", datetime.date(2025, 1, 1), datetime.date(2025, 12, 31))) == []


def test_the_feed_is_fetched_from_the_page(as_role, base, settings):
    refused = as_role("planner").post(f"zones/{base['zones'][0].pk}/supplier")
    assert refused.status_code == 409 and "No water supplier" in refused.json()["message"]
    settings.WATER_SUPPLIER = "aquifer.demo.supplier.SimulatedSupplier"
    answer = as_role("planner").post(f"zones/{base['zones'][0].pk}/supplier")
    assert answer.json()["new"] >= 3
    assert as_role("apprentice").post(f"zones/{base['zones'][0].pk}/supplier").status_code == 403


def change(client, zone, **parts):
    said = {"name": zone.name, "supply": "mains", "note": "", "practice": None, "seasons": [], **parts}
    return client.raw.put(f"/api/zones/{zone.pk}", said, content_type="application/json")


def test_a_season_of_another_water_moves_the_forecast(as_role, forecasted):
    client, (hard, soft) = as_role("planner"), forecasted["zones"]
    heater = Heater.objects.get(tag="T-0")
    before = client.get(f"heaters/{heater.pk}/forecast").json()
    summer = {"name": "dry summer", "other_id": soft.pk, "share_of_year": 0.5, "other_share": 1}
    assert change(client, hard, seasons=[summer]).status_code == 200
    recompute_zone(hard.pk)
    after = client.get(f"heaters/{heater.pk}/forecast").json()
    rates = [next(one for one in told if one["component"] == "sediment")["rate"]["p50"] for told in (before, after)]
    assert 0.25 < rates[1] / rates[0] < 0.8


@pytest.mark.parametrize(
    ("season", "field"),
    [
        ({"other_id": 999_999}, "seasons.0.other_id"),
        ({"other_id": "own"}, "seasons.0.other_id"),
        ({"share_of_year": 1.5}, "seasons.0.share_of_year"),
        ({"share_of_year": 0}, "seasons.0.share_of_year"),
    ],
)
def test_a_season_that_cannot_be_names_its_field_and_changes_nothing(as_role, base, season, field):
    hard, soft = base["zones"]
    plain = {"name": "summer", "other_id": soft.pk, "share_of_year": 0.5, "other_share": 1} | season
    plain["other_id"] = hard.pk if plain["other_id"] == "own" else plain["other_id"]
    answer = change(as_role("planner"), hard, name="Other", seasons=[plain])
    assert answer.status_code == 422 and field in answer.json()["fields"]
    assert not Season.objects.exists() and Zone.objects.get(pk=hard.pk).name == "Chalk"


def test_seasons_fill_no_more_than_a_year_and_have_each_a_name(as_role, base):
    hard, soft = base["zones"]
    one = {"name": "summer", "other_id": soft.pk, "share_of_year": 0.6, "other_share": 1}
    answer = change(as_role("planner"), hard, seasons=[one, one | {"name": "Summer"}])
    assert set(answer.json()["fields"]) == {"seasons", "seasons.1.name"}


def test_gaps_are_listed_by_what_closing_them_is_worth(as_role, forecasted):
    Heater.objects.filter(tag="T-1").update(installed_on=None, install_certainty="unknown")
    gaps.renew([zone.pk for zone in forecasted["zones"]], forecasted["today"])
    told = as_role("planner").get("gaps").json()
    days = [row["days"] for row in told["rows"]]
    assert days == sorted(days, reverse=True) and min(days) >= gaps.LEAST_DAYS
    ages = as_role("planner").get("gaps?kind=age").json()
    assert [row["tag"] for row in ages["rows"]] == ["T-1"]
    # Closed, it is listed no more.
    Heater.objects.filter(tag="T-1").update(installed_on="2020-01-01", install_certainty="known")
    gaps.renew([zone.pk for zone in forecasted["zones"]], forecasted["today"])
    assert not Gap.objects.filter(kind="age").exists()


def test_a_water_that_most_get_softened_is_told_as_they_get_it(as_role, forecasted):
    """Four heaters at two sites on chalk; what a softener lets by leaves no lime, and nobody is told to buy one."""
    asked = as_role("planner").get
    plain = asked(f"zones/{forecasted['zones'][0].pk}").json()
    assert (plain["heaters"], plain["softened_heaters"]) == (4, 0)
    assert "a softener" in plain["in_words"] and plain["potential_60_mg_l"] > 20 > plain["softened_potential_60_mg_l"]
    sites = [*Site.objects.filter(zone=forecasted["zones"][0]).order_by("pk")]
    counts = [site.heaters.count() for site in sites]
    for site, softened in zip(sites, (counts[0], sum(counts)), strict=True):
        Site.objects.filter(pk=site.pk).update(softened=True)
        for told in (
            asked(f"zones/{forecasted['zones'][0].pk}").json(),
            next(one for one in asked("zones/map").json() if one["code"] == "CHK"),
            next(one for one in asked("zones").json() if one["code"] == "CHK"),
        ):
            assert told["softened_heaters"] == softened
            # Half of them are not most.
            assert ("softened before the heater" in told["in_words"]) == (2 * softened > 4)
            assert told["potential_60_mg_l"] == plain["potential_60_mg_l"], "the supply stays what it is"


def test_few_heaters_of_a_kind_say_little_and_are_told_with_what_they_may_be(as_role, forecasted):
    """By hand: of two heaters that go e and 1/e times as fast, each within a tenth, neither is the middle."""
    zone = forecasted["zones"][0]
    rows = Forecast.objects.current().filter(heater__site__zone=zone, component="sediment")
    kind = rows.first().heater.kind
    Heater.objects.filter(pk__in=[row.heater_id for row in rows]).update(kind=kind)
    two = [*rows][:2]
    rows.exclude(pk__in=[row.pk for row in two]).delete()
    for row, theta in zip(two, (-1.0, 1.0), strict=True):
        Forecast.objects.filter(pk=row.pk).update(log_theta=theta, log_theta_sd=0.1)
    (told,) = [
        one for one in as_role("planner").get(f"zones/{zone.pk}").json()["kinds"] if one["component"] == "sediment"
    ]
    assert told["heaters"] == 2 and abs(told["pace"]) < 0.9
    # A tenth of all lies below the fifth of the slower one: 0.84 standard deviations under its middle.
    assert told["pace_low"] == pytest.approx(-1.0842, abs=0.001)
    assert told["pace_high"] == pytest.approx(1.0842, abs=0.001)

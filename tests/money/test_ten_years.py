"""Ten years of a heater in money: by the price book, the forecast and the bills."""

import datetime
import re

from aquifer.customers.models import Site
from aquifer.heaters.models import Heater
from aquifer.money.models import MoneySettings, Price
from aquifer.places.models import Feature
from tests.conftest import FLUSH
from tests.visits.test_readings import answer
from tests.visits.test_report import recorded


def told(as_role, heater, query=""):
    return as_role("planner").get(f"heaters/{heater.pk}/ten-years{query}")


def test_prices_bills_and_failures_of_this_tank(as_role, forecasted):
    heater = forecasted["heaters"][0]
    for key, price in (("call_out", 40), ("sediment", 60), ("relief_valve", 15), ("anode", 20), ("element", 90)):
        Price.objects.create(key=key, words=key, price=price)
    found = told(as_role, heater).json()
    assert found["missing"] == ["heater"] and found["energy_kwh"] is None
    assert (found["service"], found["repair"]) == (135, 130)
    Price.objects.create(key="heater", words="heater", price=1200)
    recorded(as_role, heater, steps=[answer("energy.year_kwh", 4000)])
    left, yearly, new, later = told(as_role, heater, "?energy_price=0.2&damage=3000").json()["courses"]
    assert yearly["energy"] == 8000 and yearly["services"] == 1350 and left["services"] == 0
    assert left["failures"] >= yearly["failures"] > new["failures"] > 0
    assert left["damage"] == 3000 * left["failures"]
    assert later["name"] == "later" and 1 <= later["renewed_in"] <= 9 and new["renewed_in"] == 0
    assert all(one["low"] <= one["high"] for one in (left, yearly, new, later))
    assert new["heaters"] == 1200 * (1 + new["failures"])
    # What is typed goes before the bills.
    assert told(as_role, heater, "?energy_price=0.2&energy_kwh=1000").json()["courses"][1]["energy"] == 2000


def test_a_leak_is_reckoned_by_where_it_stands(as_role, forecasted):
    heater = forecasted["heaters"][0]
    MoneySettings.objects.create(pk=1, leak_damage=4000)

    def asked(query=""):
        found = told(as_role, heater, query).json()
        return found["damage"], found["damage_from"], found["leak_path"]

    assert asked() == (2400, "usual", "")
    seen = {"site": heater.site, "heater": heater, "seen_on": datetime.date(2026, 1, 5)}
    Feature.objects.create(kind="leak_path", condition="below", **seen)
    assert asked() == (8000, "place", "into rooms below")
    Feature.objects.create(kind="drain_pan", condition="sound", **seen)
    assert asked() == (800, "place", "into rooms below, from a pan that is piped away")
    # What its owner says goes before it.
    assert asked("?damage=0") == (0, "asked", "into rooms below, from a pan that is piped away")
    assert told(as_role, heater).json()["courses"][0]["damage"] > 0


def test_what_cannot_be_reckoned_says_why(as_role, forecasted):
    tankless = next(one for one in forecasted["heaters"] if one.kind == "gas_tankless")
    assert "glass-lined" in told(as_role, tankless).json()["message"]
    Heater.objects.filter(pk=forecasted["heaters"][0].pk).update(installed_on=None)
    answered = told(as_role, forecasted["heaters"][0])
    assert answered.status_code == 422 and answered.json()["fields"] == {"installed_on": "not known"}
    assert told(as_role, forecasted["heaters"][1], "?damage=-1").status_code == 422


def test_bills_of_a_year_before_and_after_a_flush_correct_what_deposit_costs(as_role, forecasted):
    today = datetime.date.today()

    def read(heater, kwh, days_ago, *findings):
        on = (today - datetime.timedelta(days=days_ago)).isoformat()
        recorded(as_role, heater, *findings, steps=[answer("energy.year_kwh", kwh)], on=on)
        return told(as_role, heater).json()

    flushed, left = (forecasted["heaters"][n] for n in (0, 2))
    plain = read(flushed, 4600, 400, FLUSH)
    assert plain["bills_compared"] == 0
    found = read(flushed, 4000, 10)
    assert found["bills_compared"] == 1 and found["energy_kwh"] == 4000
    assert found["drift_a_year"] > plain["drift_a_year"]
    # Of one that nobody flushed between, bills say nothing of deposit.
    read(left, 4600, 400)
    assert read(left, 4000, 10)["bills_compared"] == 0


def test_its_owner_gets_it_on_one_page(as_role, forecasted):
    Price.objects.create(key="heater", words="heater", price=1200)
    Site.objects.filter(pk=forecasted["heaters"][0].site_id).update(name="Reed & <Sons>")
    page = as_role("technician").get(f"heaters/{forecasted['heaters'][0].pk}/ten-years.pdf?damage=3000")
    assert page["Content-Type"] == "application/pdf" and len(re.findall(rb"/Type /Page\b", page.content)) == 1
    tankless = next(one for one in forecasted["heaters"] if one.kind == "gas_tankless")
    assert as_role("lead").get(f"heaters/{tankless.pk}/ten-years.pdf").status_code == 422
    assert as_role("lead").get("heaters/999999/ten-years.pdf").status_code == 404

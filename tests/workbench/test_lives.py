"""Two lives over HTTP: on the company's waters, by its own tanks, for everybody, and nothing kept."""

import datetime
import re
from urllib.parse import urlencode

import numpy as np
import pytest
from django.contrib.auth import get_user_model

from aquifer.company.models import Company
from aquifer.core.bench.lives import CareName
from aquifer.core.learning import ComponentCalibration
from aquifer.core.lives import TankLife
from aquifer.core.units import HardnessUnit, System, table
from aquifer.core.vocabulary import Component
from aquifer.forecasts import calibrations
from aquifer.heaters.models import Heater
from aquifer.money.models import MoneySettings, Price
from aquifer.visits.models import Visit
from aquifer.workbench import lives, lives_paper, shown


def asked(client, **said):
    return client.get(f"bench/lives?{urlencode({'care': ['yearly', 'never'], **said}, doseq=True)}")


def test_a_tank_is_lived_twice_on_a_water_of_ours(as_role, base):
    zone = base["sites"][0].zone
    told = asked(as_role("apprentice"), zone_id=zone.pk).json()
    assert told["water"] == zone.name and len(told["years"]) == 81 and told["years"][-1] == 20
    kept, left = told["sides"]
    assert all(len(life[name]) == 81 for life in told["sides"] for name in ("depth_mm", "rod_left", "energy_kwh"))
    assert kept["depth_mm"][-1] <= left["depth_mm"][-1] and kept["leak_within_year"][-1] < left["leak_within_year"][-1]
    assert left["rods_in_years"] == [] and left["bare_from_year"] is not None and kept["bare_from_year"] is None
    low, middle, high = left["depth_fan_mm"]
    assert low[-1] < middle[-1] < high[-1]
    assert left["leaked_share"] == sorted(left["leaked_share"]) and left["leaked_share"][-1] > kept["leaked_share"][40]


def test_the_same_luck_gives_the_same_lives_and_another_gives_others(as_role, base):
    client = as_role("technician")
    one, same, other = (asked(client, hardness_mg_l=250, seed=seed).json() for seed in (3, 3, 4))
    assert one == same and one["sides"] != other["sides"]
    # Both sides share it: with one care they are one life.
    twins = asked(client, care=["yearly", "yearly"], hardness_mg_l=250, seed=3).json()
    assert twins["sides"][0] == twins["sides"][1]


def test_softened_and_cooler_water_is_a_side_of_its_own(as_role, base):
    said = {"care": ["never", "never"], "setpoint_c": [70, 50], "softened": [False, True], "hardness_mg_l": 300}
    hot, soft = asked(as_role("planner"), **said).json()["sides"]
    assert soft["depth_mm"][-1] < 0.3 * hot["depth_mm"][-1]
    assert soft["energy_kwh"][0] < hot["energy_kwh"][0]


def test_tanks_that_last_longer_with_us_do_so_on_the_bench(as_role, base, monkeypatch):
    client = as_role("lead")
    before = asked(client, hardness_mg_l=200).json()["sides"][0]["leak_within_year"][40]
    taught = ComponentCalibration(life=TankLife(level=-np.log(3.0), failures=18))
    monkeypatch.setattr(calibrations, "in_force", lambda: ({Component.TANK: taught}, None))
    after = asked(client, hardness_mg_l=200).json()["sides"][0]["leak_within_year"][40]
    assert after == pytest.approx(before / 3, rel=0.1)


@pytest.mark.parametrize(
    ("body", "status"),
    [
        ({"kind": "gas_tankless"}, 422),
        ({"zone_id": 10**9}, 404),
        ({"capacity_l": 3}, 422),
        ({"care": []}, 422),
        ({"care": ["hope"]}, 422),
        ({"care": ["never", "yearly", "never"]}, 422),
        ({"setpoint_c": 200}, 422),
    ],
)
def test_what_cannot_be_lived_is_told(as_role, base, body, status):
    assert asked(as_role("planner"), **body).status_code == status


def test_nothing_of_it_is_kept(as_role, base, django_assert_max_num_queries):
    client = as_role("apprentice")
    before = Heater.objects.count(), Visit.objects.count(), get_user_model().objects.count()
    with django_assert_max_num_queries(19):
        asked(client, zone_id=base["sites"][0].zone_id)
    assert (Heater.objects.count(), Visit.objects.count(), get_user_model().objects.count()) == before


def test_a_zone_that_nobody_tested_has_the_usual_water(base):
    side = lives.Side(lives.CareName.NEVER, False, 60.0)
    tank = lives.Asked(lives.HeaterKind.GAS_TANK, 190.0, 4.0, None, None, None)
    told = lives.told(tank, [side], datetime.date(2026, 11, 28))
    assert told["water"] == "" and told["hardness_mg_l"] > 0 and len(told["sides"]) == 1


def paper(client, **said):
    return client.get(f"bench/lives.pdf?{urlencode({'care': ['yearly', 'never'], **said}, doseq=True)}")


SIDES = [lives.Side(care, False, 60.0) for care in (CareName.YEARLY, CareName.NEVER)]


def test_the_owner_reads_what_each_life_comes_to(as_role, base):
    told = asked(as_role("technician"), hardness_mg_l=300).json()
    kept, left = told["sides"]
    units = table(System.METRIC, HardnessUnit.MG_L)
    said = [
        lives_paper.words(told, life, side, 12, 0.25, "$", units)
        for life, side in zip(told["sides"], SIDES, strict=True)
    ]
    at = told["years"].index(12.0)
    assert said[1].startswith(f"If nothing is done, after 12 years {left['depth_mm'][at]:.0f} mm of deposit lie")
    assert said[0].startswith(f"If it is serviced every year, after 12 years {kept['depth_mm'][at]:.0f} mm of")
    assert "its rod is gone" in said[1] and "of its rod is left" in said[0]
    assert f"${0.25 * left['energy_kwh'][at]:,.0f} at what you pay" in said[1]
    assert "at what you pay" not in lives_paper.words(told, left, SIDES[1], 12, None, "$", units)
    # What energy cost until then is each quarter at its own pace.
    lines = {row[0]: row[1:] for row in lives_paper.rows(told, [(left, SIDES[1])], 0.25, units)}
    until = told["years"].index(20.0)
    assert lines["energy since it is new"][-1] == f"{0.25 * 0.25 * sum(left['energy_kwh'][:until]):,.0f}"
    assert lines["leaked, of a hundred"][-1] == f"{100 * left['leaked_share'][until]:.0f}"
    gallons = lives_paper.words(told, left, SIDES[1], 12, None, "$", table(System.US, HardnessUnit.GPG))
    assert " in of deposit" in gallons and " gal of hot water" in gallons and " mm" not in gallons


def test_both_lives_come_on_one_page(as_role, base):
    answer = paper(as_role("technician"), zone_id=base["sites"][0].zone.pk, at_year=12, energy_price=0.25)
    assert answer["Content-Type"] == "application/pdf" and 'filename="two-lives.pdf"' in answer["Content-Disposition"]
    assert answer.content.startswith(b"%PDF") and len(re.findall(rb"/Type /Page\b", answer.content)) == 1
    assert paper(as_role("technician"), zone_id=999999).status_code == 404
    assert paper(as_role("technician"), hardness_mg_l=200, at_year=30).status_code == 422


def exchangers(client, **said):
    return client.get(f"bench/exchanger-lives?{urlencode({'care': ['yearly', 'never'], **said}, doseq=True)}")


def test_a_tankless_heater_is_lived_twice_too(as_role, base):
    zone = base["sites"][0].zone
    told = exchangers(as_role("apprentice"), zone_id=zone.pk).json()
    kept, left = told["sides"]
    assert told["water"] == zone.name and len(told["years"]) == len(kept["flow_l_min"]) == 81
    assert kept["thickness_mm"][-1] < left["thickness_mm"][-1] <= told["passage_mm"]
    assert kept["flow_l_min"][-1] > left["flow_l_min"][-1] and left["cuts_out_in_year"] is not None
    low, middle, high = left["thickness_fan_mm"]
    assert low[8] < middle[8] < high[8] and left["cuts_out_share"][-1] > kept["cuts_out_share"][-1]
    assert exchangers(as_role("apprentice"), kind="gas_tank").status_code == 422
    assert asked(as_role("apprentice"), kind="gas_tankless").status_code == 422


def test_what_a_life_costs_is_by_our_price_book(as_role, base):
    Price.objects.all().delete()
    for key, price in {"call_out": 40, "sediment": 60, "anode/inspect": 20, "anode": 100, "relief_valve": 10}.items():
        Price.objects.create(key=key, words=key, price=price, cost=0)
    MoneySettings.objects.update_or_create(pk=1, defaults={"leak_damage": 1000})
    told = asked(as_role("planner"), hardness_mg_l=300).json()
    kept, left = told["sides"]
    assert told["unpriced"] == ["Heater, gas tank"]
    assert left["visits_cost"][-1] == 0 and left["visits"] == 0
    # Twenty years of 40 + 60 + 20 + 10, and the rods.
    assert kept["visits"] == 20 and 20 * 130 <= kept["visits_cost"][-1] <= 20 * 130 + 10 * 100
    # A place that nobody wrote down: six tenths of what a leak into rooms does.
    assert left["leaks_cost"][-1] == pytest.approx(0.6 * 1000 * left["leaked_share"][-1], abs=1)
    assert left["visits_cost"] == sorted(left["visits_cost"])
    descaled = exchangers(as_role("planner"), hardness_mg_l=300).json()
    assert descaled["unpriced"] == ["Scale, descale"]
    assert descaled["sides"][0]["visits_cost"][-1] == 20 * 40


def linked(client, **said):
    return client.get(f"bench/lives/link?{urlencode({'care': ['yearly', 'never'], **said}, doseq=True)}").json()[
        "address"
    ]


def test_a_customer_sees_both_lives_by_a_link_and_without_an_account(as_role, base, client, settings):
    settings.PUBLIC_ADDRESS = ""
    assert linked(as_role("technician"), hardness_mg_l=300) == ""
    Company.objects.update(public_address="https://water.invalid")
    address = linked(as_role("technician"), hardness_mg_l=300, at_year=1, energy_price=0.25)
    assert address.startswith("https://water.invalid/cut-open/") and len(address) < 400
    page = client.get(address.removeprefix("https://water.invalid"))
    words = page.content.decode()
    assert page.status_code == 200 and "cut open after 1 year<" in words
    assert "If nothing is done, after 1 year " in words
    told = asked(as_role("technician"), hardness_mg_l=300).json()["sides"][1]
    at = 4
    assert f"{100 * told['rod_left'][at]:.0f} % of the rod" in words
    assert words.count("<svg") == 2 and "energy since it is new" in words
    # The same in gallons and inches where the company has them.
    Company.objects.update(units=System.US)
    assert " gal of hot water" in client.get(address.removeprefix("https://water.invalid")).content.decode()


def test_a_link_that_was_changed_or_is_old_opens_nothing(as_role, base, client, monkeypatch):
    Company.objects.update(public_address="https://water.invalid")
    path = linked(as_role("technician"), hardness_mg_l=300).removeprefix("https://water.invalid")
    assert client.get(path[:-2] + "xx").status_code == 404
    assert client.get("/cut-open/nothing").status_code == 404
    gone = linked(as_role("technician"), zone_id=10**6).removeprefix("https://water.invalid")
    assert client.get(gone).status_code == 404
    assert client.post(path).status_code == 405
    monkeypatch.setattr(shown, "GOOD_FOR", datetime.timedelta(0))
    old = client.get(path)
    assert old.status_code == 404 and "no longer good" in old.content.decode()


def test_a_tankless_heaters_lives_are_linked_too(as_role, base, client):
    Company.objects.update(public_address="https://water.invalid")
    asked_of = {"care": ["yearly", "never"], "hardness_mg_l": 300, "at_year": 5, "energy_price": 0.25}
    told = as_role("technician").get(f"bench/exchanger-lives/link?{urlencode(asked_of, doseq=True)}").json()
    page = client.get(told["address"].removeprefix("https://water.invalid"))
    words = page.content.decode()
    life = exchangers(as_role("technician"), hardness_mg_l=300).json()["sides"][1]
    assert page.status_code == 200 and words.count("<svg") == 2
    assert f"{100 * life['cuts_out_share'][20]:.0f} of a hundred such heaters cut out" in words
    assert "If it is descaled every year, after 5 years it gives" in words
    assert f"{0.25 * 0.25 * sum(life['energy_kwh'][:20]):,.0f}" in words
    assert f"{life['thickness_mm'][20]:.1f} mm<" in words
    Company.objects.update(units=System.US)
    gallons = client.get(told["address"].removeprefix("https://water.invalid")).content.decode()
    assert " gpm of hot water" in gallons and " mm" not in gallons and "L/min" not in gallons

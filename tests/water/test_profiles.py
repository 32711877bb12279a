import datetime

import pytest
from django.db import IntegrityError, transaction

from aquifer.forecasts.models import Forecast
from aquifer.forecasts.recompute import recompute_all
from aquifer.water.models import Season, WaterTest, Zone
from aquifer.water.profiles import waters


def test_each_figure_is_the_newest_tests_that_has_it(db):
    zone = Zone.objects.create(code="Z", name="Zone")
    WaterTest.objects.create(zone=zone, taken_on=datetime.date(2024, 1, 1), total_hardness_mg_l=200, ph=7.2)
    WaterTest.objects.create(zone=zone, taken_on=datetime.date(2026, 1, 1), total_hardness_mg_l=260)
    WaterTest.objects.create(
        zone=zone, taken_on=datetime.date(2025, 1, 1), total_hardness_mg_l=230, alkalinity_mg_l=180
    )
    water = waters(datetime.date(2026, 11, 24)).zones[0].profile
    assert (water.analysis.total_hardness_mg_l, water.analysis.alkalinity_mg_l, water.analysis.ph) == (260, 180, 7.2)
    assert water.carbonate_is_known


def test_a_zone_without_a_test_is_assumed_and_unsure(db):
    Zone.objects.create(code="Z", name="Zone")
    found = waters(datetime.date(2026, 11, 24)).zones[0]
    assert found.tests == 0 and not found.profile.carbonate_is_known


def test_calcium_of_an_older_test_never_exceeds_a_newer_hardness(db):
    zone = Zone.objects.create(code="Z", name="Zone")
    old, new = datetime.date(2024, 1, 1), datetime.date(2026, 1, 1)
    WaterTest.objects.create(zone=zone, taken_on=old, total_hardness_mg_l=300, calcium_hardness_mg_l=250)
    WaterTest.objects.create(zone=zone, taken_on=new, total_hardness_mg_l=180)
    assert waters(datetime.date(2026, 11, 24)).zones[0].profile.analysis.calcium_hardness_mg_l == 180


def test_the_same_test_is_recorded_once(base):
    zone = base["zones"][0]
    twice = {"zone": zone, "taken_on": datetime.date(2026, 1, 1), "method": "strip"}
    WaterTest.objects.create(**twice)
    with pytest.raises(IntegrityError, match="water_test_once"), transaction.atomic():
        WaterTest.objects.create(**twice)


def test_an_impossible_ph_is_refused_by_the_database(base):
    with pytest.raises(IntegrityError, match="ph_in_range"), transaction.atomic():
        WaterTest.objects.create(zone=base["zones"][0], taken_on=datetime.date(2026, 1, 1), ph=19)


def test_zones_are_told_with_what_their_water_does(as_role, base):
    hard, soft = as_role("planner").get("zones").json()
    assert hard["hardness_class"] == "very hard" and soft["hardness_class"] == "soft"
    assert hard["potential_60_mg_l"] > 20 > 0 > soft["potential_60_mg_l"]
    assert hard["carbonate_is_known"]


def test_measuring_alkalinity_and_ph_narrows_the_windows_of_a_zone(base):
    zone = Zone.objects.create(code="NEW", name="Untested")
    base["sites"][0].zone = zone
    base["sites"][0].save()
    WaterTest.objects.create(zone=zone, taken_on=datetime.date(2026, 1, 1), total_hardness_mg_l=300)
    recompute_all()
    of_zone = Forecast.objects.current().filter(component="sediment", heater__site__zone=zone)
    before = of_zone.first().log_theta_sd
    WaterTest.objects.create(zone=zone, taken_on=datetime.date(2026, 2, 1), alkalinity_mg_l=240, ph=7.3)
    recompute_all()
    assert of_zone.all().first().log_theta_sd < before - 0.05


def test_the_water_of_some_zones_is_what_it_is_among_all_with_whatever_it_is_mixed_with(base):
    hard, soft = base["zones"]
    far = Zone.objects.create(code="FAR", name="Far")
    WaterTest.objects.create(zone=far, taken_on=base["today"], total_hardness_mg_l=410)
    WaterTest.objects.create(zone=soft, site=base["sites"][2], taken_on=base["today"], total_hardness_mg_l=90)
    Season.objects.create(zone=hard, other=soft, name="summer", share_of_year=0.4, other_share=0.8)
    Season.objects.create(zone=hard, other=far, name="flood", share_of_year=0.1, other_share=0.5)
    every = {one.zone_id: one.profile for one in waters(base["today"]).zones}
    one = waters(base["today"], [hard.pk])
    assert {zone.zone_id for zone in one.zones} == {hard.pk, soft.pk, far.pk}
    assert next(zone.profile for zone in one.zones if zone.zone_id == hard.pk) == every[hard.pk]
    alone = waters(base["today"], [soft.pk])
    assert [zone.zone_id for zone in alone.zones] == [soft.pk] and list(alone.sites) == [base["sites"][2].pk]
    assert waters(base["today"], []).zones == []

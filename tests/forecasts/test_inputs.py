"""Rows become columns: what is on record reaches the core, and what is not is assumed openly."""

import datetime
import uuid

import numpy as np
import pytest
from django.utils import timezone

from aquifer.core.kinds import HeaterKind
from aquifer.core.parameters import SEDIMENT, WATER
from aquifer.core.vocabulary import Alloy, Practice, Removed, code
from aquifer.customers.models import Site
from aquifer.forecasts import columns, inputs
from aquifer.heaters.models import Heater, Part
from aquifer.visits import pressure
from aquifer.visits.models import Finding, Visit
from aquifer.water.models import Season, WaterTest, Zone


def found(heater: Heater, on: datetime.date, **values: object) -> Finding:
    visit = Visit.objects.create(client_id=uuid.uuid4(), heater=heater, on=on)
    return Finding.objects.create(visit=visit, heater=heater, on=on, **values)


def row(loaded: inputs.FleetInputs, heater: Heater) -> int:
    return int(np.flatnonzero(loaded.heater_ids == heater.pk)[0])


def test_rows_become_columns_with_their_gaps(base):
    Heater.objects.filter(pk=base["heaters"][0].pk).update(installed_on=None, capacity_l=None, practice="annual")
    read = columns.read_columns(
        Heater.objects.order_by("pk"),
        {
            "kind": columns.word("kind", HeaterKind),
            "practice": columns.word("practice", Practice),
            "on": columns.day("installed_on"),
            "litres": columns.number("capacity_l"),
            "recirculated": columns.flag("recirculated"),
        },
    )
    assert read["kind"].tolist() == [code(HeaterKind(h.kind)) for h in base["heaters"]]
    assert read["practice"].tolist()[:2] == [code(Practice.ANNUAL), -1]
    assert np.isnat(read["on"][0]) and read["on"][1] == np.datetime64(base["heaters"][1].installed_on)
    assert np.isnan(read["litres"][0]) and read["litres"][1] == base["heaters"][1].capacity_l
    assert not read["recirculated"].any()


def test_a_query_that_can_match_nothing_gives_empty_columns(db):
    none = columns.read_columns(Heater.objects.filter(pk__in=[]), {"on": columns.day("installed_on")})
    assert none["on"].size == 0


def test_a_test_of_a_sites_own_counts_before_its_zones(base):
    site = base["sites"][0]
    before = inputs.load(base["today"]).fleet.heaters.hardness_mg_l
    WaterTest.objects.create(zone=site.zone, site=site, taken_on=base["today"], total_hardness_mg_l=61)
    after = inputs.load(base["today"])
    own = [row(after, h) for h in base["heaters"] if h.site_id == site.pk]
    assert (after.fleet.heaters.hardness_mg_l[own] == 61).all()
    others = np.setdiff1d(np.arange(before.size), own)
    assert (after.fleet.heaters.hardness_mg_l[others] == before[others]).all()


def test_a_season_of_softer_water_lessens_what_precipitates(base):
    hard, soft = base["zones"]
    before = inputs.load(base["today"]).fleet.heaters
    Season.objects.create(zone=hard, other=soft, name="winter", share_of_year=0.5, other_share=1.0)
    after = inputs.load(base["today"]).fleet.heaters
    lessened = after.potential_mg_l < before.potential_mg_l - 1
    assert lessened.tolist() == [h.site.zone_id == hard.pk for h in base["heaters"]]


def test_the_narrowest_practice_that_says_anything_counts(base):
    heater = base["heaters"][0]

    def practice() -> Practice:
        loaded = inputs.load(base["today"])
        return list(Practice)[loaded.fleet.heaters.practice[row(loaded, heater)]]

    assert practice() is Practice.CONDITION
    Zone.objects.filter(pk=heater.site.zone_id).update(practice="long_service")
    assert practice() is Practice.LONG_SERVICE
    Site.objects.filter(pk=heater.site_id).update(practice="annual")
    assert practice() is Practice.ANNUAL
    Heater.objects.filter(pk=heater.pk).update(practice="hard_water_half_yearly")
    assert practice() is Practice.HARD_WATER_HALF_YEARLY


def test_an_expansion_tank_and_the_pressure_last_read_reach_the_core(base):
    heater = base["heaters"][0]
    Part.objects.create(heater=heater, kind="expansion_tank", volume_l=18)
    found(heater, base["today"], task="pressure_test", static_kpa=510)
    assert pressure.keep([heater.site_id]) == [heater.site_id]
    found(heater, base["today"], task="expansion_tank_check", at_valve="air", precharge_kpa=470)
    loaded = inputs.load(base["today"])
    at = row(loaded, heater)
    assert loaded.fleet.heaters.expansion_tank_l[at] == 18 and loaded.fleet.heaters.pressure_kpa[at] == 510
    assert np.isnan(loaded.fleet.heaters.expansion_tank_l).sum() == 5
    assert loaded.fleet.expansion_tank_checks.precharge_kpa.tolist() == [470]


def test_findings_up_to_one_are_what_was_known_then(base):
    heater = base["heaters"][0]
    first = found(heater, base["today"], task="flush", removed="trace")
    found(heater, base["today"], task="flush", removed="heavy")
    loaded = inputs.load(base["today"])
    assert loaded.fleet.flushes.row.size == 2
    assert loaded.before(first.pk).flushes.removed.tolist() == [code(Removed.TRACE)]


def test_the_people_and_the_meter_of_a_site_are_shared_by_its_heaters(base):
    Site.objects.filter(pk=base["sites"][0].pk).update(hot_water_l_per_day=600)
    loaded = inputs.load(base["today"])
    shared = [row(loaded, h) for h in base["heaters"] if h.site_id == base["sites"][0].pk]
    assert loaded.fleet.heaters.volume_m3[shared] == pytest.approx(np.full(2, 300 * 365.25 / 1000))


def test_an_unknown_age_is_assumed_before_anything_on_record(base):
    heater = base["heaters"][0]
    Heater.objects.filter(pk=heater.pk).update(installed_on=None, install_certainty="unknown")
    loaded = inputs.load(base["today"])
    assert loaded.fleet.heaters.age_years[row(loaded, heater)] == pytest.approx(6.0, abs=0.01)
    sure = loaded.fleet.heaters.heater_spread[row(loaded, base["heaters"][1])]
    assert loaded.fleet.heaters.heater_spread[row(loaded, heater)] > sure
    found(heater, base["today"] - datetime.timedelta(days=3000), task="flush", removed="trace")
    loaded = inputs.load(base["today"])
    assert loaded.fleet.heaters.age_years[row(loaded, heater)] == pytest.approx((3000 + 365) / 365.25, abs=0.01)


def test_a_look_at_a_rod_is_counted_on_the_rod_that_was_there(base):
    heater = base["heaters"][0]
    start, swap = heater.installed_on, heater.installed_on + datetime.timedelta(days=800)
    old = Part.objects.get(heater=heater, kind="anode")
    old.removed_on = swap
    old.save()
    new = Part.objects.create(heater=heater, kind="anode", alloy="aluminium", fitted_on=swap, length_mm=900)
    found(heater, start + datetime.timedelta(days=700), task="anode_inspection", grade="half", part=old)
    found(heater, swap + datetime.timedelta(days=100), task="anode_inspection", grade="worn", part=new)
    loaded = inputs.load(base["today"])
    looks = loaded.fleet.rod_looks
    assert looks.alloy.tolist() == [code(Alloy.MAGNESIUM), code(Alloy.ALUMINIUM)]
    assert looks.rod_fitted_years == pytest.approx([0.0, 800 / 365.25])
    assert looks.rod_length_m[1] == pytest.approx(0.9)
    assert loaded.fleet.heaters.rod_fitted_years[row(loaded, heater)] == pytest.approx(800 / 365.25)


def test_findings_come_by_heater_and_time_whatever_their_order_of_arrival(base):
    late, early = base["today"] - datetime.timedelta(days=10), base["today"] - datetime.timedelta(days=400)
    for heater, on in ((base["heaters"][2], late), (base["heaters"][0], late), (base["heaters"][2], early)):
        found(heater, on, task="flush", method="jetting", removed="trace")
    flushes = inputs.load(base["today"]).fleet.flushes
    assert flushes.row.tolist() == [0, 2, 2]
    assert flushes.years[1] < flushes.years[2]


def test_readings_reach_the_core_in_si(base):
    values = {"depth_before_mm": 12.0, "removed_l": 0.4, "depth_after_mm": 3.0}
    found(base["heaters"][0], base["today"], task="flush", **values)
    found(base["heaters"][3], base["today"], task="descale", dissolved_g=80.0)
    fleet = inputs.load(base["today"]).fleet
    assert fleet.flushes.depth_m[0] == pytest.approx(0.012) and fleet.flushes.depth_after_m[0] == pytest.approx(0.003)
    assert fleet.flushes.volume_l[0] == pytest.approx(0.4)
    assert fleet.descales.dissolved_kg[0] == pytest.approx(0.08)


def test_a_softener_takes_the_hardness_away_but_for_what_gets_past_it(base):
    hard = inputs.load(base["today"]).fleet.heaters
    Site.objects.filter(pk=base["sites"][0].pk).update(softened=True)
    heaters = inputs.load(base["today"]).fleet.heaters
    softened = heaters.hardness_mg_l == 8
    assert softened.sum() == 2
    threshold = SEDIMENT.kinetic_threshold_mg_l
    past = WATER.softener_leak * (hard.potential_mg_l[softened] - threshold)
    assert heaters.potential_mg_l[softened] - threshold == pytest.approx(past) and (past > 0).all()
    # Some let everything through: such a heater is less known than its neighbours.
    assert (heaters.heater_spread[softened] > hard.heater_spread[softened] + 0.3).all()


def test_some_heaters_by_their_ids_are_as_among_all_and_none_is_out_of_service(base):
    whole = inputs.load(base["today"])
    archived, kept = base["heaters"][0], [base["heaters"][4], base["heaters"][1]]
    Heater.objects.filter(pk=archived.pk).update(archived_at=timezone.now())
    some = inputs.load(base["today"], np.array([one.pk for one in (*kept, archived)]))
    assert some.heater_ids.tolist() == sorted(one.pk for one in kept)
    at = [row(whole, one) for one in sorted(kept, key=lambda one: one.pk)]
    for name in ("kind", "hardness_mg_l", "volume_m3", "age_years", "practice", "heater_spread", "rod_diameter_m"):
        assert np.array_equal(getattr(some.fleet.heaters, name), getattr(whole.fleet.heaters, name)[at]), name


def test_a_row_that_was_written_anew_keeps_its_place(base):
    """The database gives rows in any order; a changed one last."""
    before = inputs.load(base["today"])
    heater = base["heaters"][0]
    Heater.objects.filter(pk=heater.pk).update(setpoint_c=71)
    after = inputs.load(base["today"], Heater.objects.in_service())
    assert after.heater_ids.tolist() == before.heater_ids.tolist() == sorted(before.heater_ids.tolist())
    assert after.fleet.heaters.setpoint_c[row(after, heater)] == 71

"""Rows become columns: what is on record reaches the core, and what is not is assumed openly."""

import datetime
import uuid

import numpy as np
import pytest

from aquifer.core.vocabulary import Alloy, HeaterKind, code
from aquifer.customers.models import Site
from aquifer.forecasts import inputs
from aquifer.heaters.models import Heater, Part
from aquifer.visits.models import Finding, Visit


def found(heater: Heater, on: datetime.date, **values: object) -> Finding:
    visit = Visit.objects.create(client_id=uuid.uuid4(), heater=heater, on=on)
    return Finding.objects.create(visit=visit, heater=heater, on=on, **values)


def row(loaded: inputs.FleetInputs, heater: Heater) -> int:
    return int(np.flatnonzero(loaded.heater_ids == heater.pk)[0])


def test_words_become_their_positions():
    kinds = inputs.encoded(["gas_tank", "", "gas_tankless", "unheard_of"], HeaterKind)
    assert kinds.tolist() == [code(HeaterKind.GAS_TANK), -1, code(HeaterKind.GAS_TANKLESS), -1]
    assert inputs.encoded([], Alloy).size == 0


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
    values = {"depth_before_mm": 12.0, "removed_l": 0.4}
    found(base["heaters"][0], base["today"], task="flush", **values)
    found(base["heaters"][3], base["today"], task="descale", dissolved_g=80.0)
    fleet = inputs.load(base["today"]).fleet
    assert fleet.flushes.depth_m[0] == pytest.approx(0.012) and fleet.flushes.volume_l[0] == pytest.approx(0.4)
    assert fleet.descales.dissolved_kg[0] == pytest.approx(0.08)


def test_a_softener_takes_the_hardness_away(base):
    Site.objects.filter(pk=base["sites"][0].pk).update(softened=True)
    heaters = inputs.load(base["today"]).fleet.heaters
    softened = heaters.hardness_mg_l == 8
    assert softened.sum() == 2
    assert (heaters.potential_mg_l[softened] < 0).all()

"""What nobody knows, as it is listed: everything that would narrow a window, and few of the measurements."""

import datetime

import numpy as np

from aquifer.forecasts import gaps
from aquifer.forecasts.models import Gap
from aquifer.heaters.models import Heater
from aquifer.water.models import Zone

TODAY = datetime.date.today()


def test_a_measurement_is_asked_of_the_few_of_a_water_where_it_tells_most(as_role, forecasted, monkeypatch):
    monkeypatch.setattr(gaps, "MOST_READINGS", 2)
    monkeypatch.setattr(gaps, "LEAST_DAYS", 0.5)
    zones = list(Zone.objects.values_list("pk", flat=True))
    gaps.renew(zones, TODAY)
    asked = Gap.objects.filter(kind="reading")
    by_zone = {zone: asked.filter(heater__site__zone_id=zone).count() for zone in zones}
    assert max(by_zone.values()) == 2 < Heater.objects.filter(site__zone__code="CHK").count()
    monkeypatch.setattr(gaps, "MOST_READINGS", 100)
    gaps.renew(zones, TODAY)
    every = Gap.objects.filter(kind="reading", heater__site__zone__code="CHK").order_by("-days")
    monkeypatch.setattr(gaps, "MOST_READINGS", 2)
    gaps.renew(zones, TODAY)
    kept = Gap.objects.filter(kind="reading", heater__site__zone__code="CHK").order_by("-days")
    assert list(kept.values_list("days", flat=True)) == list(every.values_list("days", flat=True)[:2])
    told = as_role("planner").get("gaps?kind=reading").json()
    assert {row["heater_id"] for row in told["rows"]} >= set(kept.values_list("heater_id", flat=True))


def test_the_first_of_each_zone_are_those_of_the_most_days():
    row, days, zone = np.array([0, 2, 3, 5, 6, 7, 9]), np.arange(10.0), np.array([4, 4, 4, 4, 4, 4, 1, 1, 1, 1])
    assert gaps._first(row, days, zone).tolist() == [2, 3, 5, 6, 7, 9]
    assert gaps._first(row[:0], days, zone).tolist() == []

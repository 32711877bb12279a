"""What a night forecasts anew of a large base."""

import datetime

import pytest

from aquifer.forecasts import night, recompute, tasks
from aquifer.forecasts.models import Forecast, ZoneLearning
from aquifer.heaters.models import Heater
from tests.conftest import FLUSH, visit
from tests.forecasts.test_tasks import waiting

ONE_DAY = datetime.timedelta(days=1)


@pytest.fixture
def large(forecasted, monkeypatch):
    """A base of two zones as if it were large, and a day on which neither has its turn."""
    monkeypatch.setattr(night, "LARGE", len(forecasted["heaters"]) - 1)
    today = forecasted["today"]
    turns = {zone.pk % night.NIGHTS for zone in forecasted["zones"]}
    idle = next(
        day for day in (today + n * ONE_DAY for n in range(1, 7)) if day.toordinal() % night.NIGHTS not in turns
    )
    return {**forecasted, "idle": idle}


def test_a_small_base_is_forecast_anew_every_night(forecasted, monkeypatch):
    monkeypatch.setattr(night, "LARGE", len(forecasted["heaters"]) + 1)
    assert night.zones_due(forecasted["today"] + ONE_DAY) is None


def test_what_nothing_came_to_waits_for_its_turn_and_no_longer_than_a_week(large):
    chalk, upland = (zone.pk for zone in large["zones"])
    assert night.zones_due(large["idle"]) == set()
    for n in range(1, night.NIGHTS):
        day = large["today"] + n * ONE_DAY
        turn = {zone for zone in (chalk, upland) if zone % night.NIGHTS == day.toordinal() % night.NIGHTS}
        assert night.zones_due(day) == turn
    assert night.zones_due(large["today"] + night.NIGHTS * ONE_DAY) == {chalk, upland}


def test_a_zone_is_forecast_again_once_a_heater_of_it_was_by_itself(large, as_role):
    heater = large["heaters"][0]
    zone = heater.site.zone_id
    recompute.recompute_heaters([heater.pk])
    assert night.zones_due(large["idle"]) == {zone}
    recompute.recompute_zones([zone])
    assert night.zones_due(large["idle"]) == set()
    assert as_role("technician").post("visits", visit(heater.pk, FLUSH)).status_code == 201
    assert zone in night.zones_due(large["idle"])


@pytest.mark.parametrize(
    "happens",
    [
        lambda heater: Forecast.objects.filter(heater=heater).delete() and heater.due.delete(),
        lambda heater: ZoneLearning.objects.filter(zone=heater.site.zone_id).delete(),
        lambda heater: ZoneLearning.objects.filter(zone=heater.site.zone_id).update(model_version="0"),
    ],
    ids=["a heater that has none", "a zone that never was", "another model"],
)
def test_what_lacks_something_has_its_turn_at_once(large, happens):
    happens(large["heaters"][0])
    assert night.zones_due(large["idle"]) == {large["heaters"][0].site.zone_id}


def test_a_zone_without_a_heater_in_service_is_nobodys(large):
    heater = large["heaters"][0]
    zone = heater.site.zone_id
    Heater.objects.filter(site__zone=zone).update(archived_at=datetime.datetime.now(datetime.UTC))
    assert zone not in night.zones_due(large["today"] + night.NIGHTS * ONE_DAY)


def test_the_nightly_job_takes_those_and_what_bears_on_all_takes_all(large, monkeypatch):
    asked = []
    monkeypatch.setattr(night, "zones_due", lambda day: asked.append(day) or {large["zones"][1].pk})
    tasks.recompute_all(timestamp=1)
    assert asked == [large["today"]]
    assert waiting("forecasts.recompute_zones") == [{"zone_ids": [large["zones"][1].pk]}]
    tasks.recompute_all(timestamp=0)
    assert asked == [large["today"]]

"""The nightly job and its parts."""

from procrastinate.contrib.django.models import ProcrastinateJob

from aquifer.forecasts import recompute, tasks
from aquifer.forecasts.models import Forecast


def waiting(name: str) -> list[dict]:
    return [job.args for job in ProcrastinateJob.objects.filter(task_name=name, status="todo").order_by("id")]


def test_the_night_calibrates_and_queues_each_partition_once(forecasted, monkeypatch):
    monkeypatch.setattr(recompute, "LEAST_OF_A_PARTITION", 1)
    tasks.recompute_all(timestamp=0)
    tasks.recompute_all(timestamp=0)
    queued = waiting("forecasts.recompute_zones")
    assert queued == [{"zone_ids": [zone.pk]} for zone in forecasted["zones"]]


def test_partitions_hold_whole_zones_and_every_heater(forecasted, monkeypatch):
    assert recompute.partitions() == [[zone.pk for zone in forecasted["zones"]]]
    monkeypatch.setattr(recompute, "LEAST_OF_A_PARTITION", 1)
    assert sum(recompute.recompute_zones(zones) for zones in recompute.partitions()) == 6


def test_another_model_in_force_queues_everything_once(forecasted):
    assert not tasks.defer_all_if_outdated() and waiting("forecasts.recompute_all") == []
    Forecast.objects.filter(heater=forecasted["heaters"][0]).update(model_version="0.0.1")
    assert tasks.defer_all_if_outdated() and tasks.defer_all_if_outdated()
    assert len(waiting("forecasts.recompute_all")) == 1
    recompute.recompute_all()
    assert not tasks.defer_all_if_outdated()

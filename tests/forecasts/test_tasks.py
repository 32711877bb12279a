"""The nightly job and its parts."""

import threading
import time

import pytest
from django.db import connection
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


def stored():
    names = [field.name for field in Forecast._meta.fields if field.name not in ("id", "computed_at")]
    return list(Forecast.objects.current().order_by("heater", "component").values(*names))


def sessions() -> int:
    with connection.cursor() as cursor:
        cursor.execute("SELECT count(*) FROM pg_stat_activity WHERE datname = current_database()")
        return cursor.fetchone()[0]


def comes_to(number: int) -> bool:
    """Whether so many are left: the server ends a session a moment after whoever had it has gone."""
    until = time.monotonic() + 10
    while sessions() != number and time.monotonic() < until:
        time.sleep(0.05)
    return sessions() == number


@pytest.mark.django_db(transaction=True)
def test_what_is_read_ahead_comes_to_the_same_and_leaves_nobody_behind(forecasted, monkeypatch):
    zones = [zone.pk for zone in forecasted["zones"]]
    before, there = stored(), sessions()
    loaded_by = []
    load = recompute.load

    def watched(*given):
        loaded_by.append(threading.current_thread() is threading.main_thread())
        return load(*given)

    monkeypatch.setattr(recompute, "load", watched)
    Forecast.objects.all().delete()
    assert recompute.recompute_zones(zones) == 6 and loaded_by == [True]
    assert stored() == before
    monkeypatch.setattr(recompute, "TOGETHER", 1)
    Forecast.objects.all().delete()
    assert recompute.recompute_zones(zones) == 6 and loaded_by[1:] == [False, False]
    assert stored() == before and comes_to(there) and connection.is_usable()
    # Nothing of what cannot be read is stored, and the reader goes home all the same.
    monkeypatch.setattr(recompute, "load", lambda *given: 1 / 0)
    with pytest.raises(ZeroDivisionError):
        recompute.recompute_zones(zones)
    assert stored() == before and comes_to(there)


def test_within_a_transaction_what_it_wrote_is_read(forecasted, monkeypatch):
    monkeypatch.setattr(recompute, "TOGETHER", 1)
    forecasted["heaters"][0].setpoint_c = 71
    forecasted["heaters"][0].save()
    before = stored()
    assert recompute.recompute_zones([zone.pk for zone in forecasted["zones"]]) == 6 and stored() != before

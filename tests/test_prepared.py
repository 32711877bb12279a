"""Prepared queries tell what the ORM would, for few and for many, and what is removed is what was meant."""

import datetime

import psycopg
import pytest
from django.db import IntegrityError, connection, transaction

from aquifer.forecasts.models import Due, Forecast
from aquifer.heaters.models import Heater
from aquifer.prepared import FEW, Prepared, lock, remove, with_values
from aquifer.water.models import WaterTest, Zone

HEATERS = Prepared(Heater.objects.order_by(), "pk", "tag", "installed_on", by="site__zone_id")
"""Kept, so that its query is compiled once for all that follows."""


def test_rows_are_those_of_the_orm(base, django_assert_num_queries):
    zone = base["heaters"][0].site.zone_id
    own = Heater.objects.filter(site__zone=zone).values_list("pk", "tag", "installed_on")
    with django_assert_num_queries(2):
        assert sorted(HEATERS.rows([zone])) == sorted(own)
    # By a plan made for so many, too.
    assert sorted(HEATERS.rows([zone, *range(-FEW, 0)])) == sorted(own)
    assert sorted(HEATERS.rows()) == sorted(Heater.objects.values_list("pk", "tag", "installed_on"))
    assert HEATERS.rows([]) == [] and HEATERS.rows([-1]) == []


def test_a_kept_plan_sees_what_has_changed(base):
    heater = base["heaters"][0]
    zone = heater.site.zone_id
    for tag in ("first", "second"):
        Heater.objects.filter(pk=heater.pk).update(tag=tag)
        assert tag in {row[1] for row in HEATERS.rows([zone])}
    with connection.cursor() as cursor:
        cursor.execute("SELECT count(*) FROM pg_prepared_statements WHERE statement LIKE '%%tag%%'")
        assert cursor.fetchone()[0] >= 1


def test_a_percent_sign_in_a_query_is_no_placeholder(base):
    zone = Zone.objects.create(code="Z%s", name="half %d mains")
    WaterTest.objects.create(zone=zone, taken_on=datetime.date(2026, 1, 2), method="50 % strip")
    tests = Prepared(WaterTest.objects.filter(method__endswith="% strip"), "method", "taken_on", by="zone_id")
    assert tests.rows([zone.pk]) == [("50 % strip", datetime.date(2026, 1, 2))]
    assert with_values(Zone.objects.filter(code="Z%s").values("pk")).count("%%s") == 1


def test_only_what_was_meant_is_removed(forecasted):
    one, other = Due.objects.order_by("heater_id").values_list("heater_id", flat=True)[:2]
    before = Due.objects.count()
    remove(Due, "heater", [one])
    assert Due.objects.count() == before - 1 and Due.objects.filter(heater=other).exists()
    remove(Due, "heater", [])
    assert Due.objects.count() == before - 1
    kept = Forecast.objects.exclude(heater=one).count()
    remove(Forecast, "pk", Forecast.objects.filter(heater=one).values_list("pk", flat=True))
    assert Forecast.objects.count() == kept


def test_the_database_keeps_what_others_refer_to(forecasted):
    heater = forecasted["heaters"][0]
    with pytest.raises(IntegrityError), transaction.atomic():
        remove(Heater, "pk", [heater.pk])
        connection.check_constraints()
    assert Heater.objects.filter(pk=heater.pk).exists()


@pytest.mark.django_db(transaction=True)
def test_locked_rows_wait_for_whoever_has_them(base):
    """Another connection cannot take them until the transaction ends, and may take the rest."""
    one, other = (heater.pk for heater in base["heaters"][:2])
    with psycopg.connect(**connection.get_connection_params() | {"cursor_factory": None}) as second:
        with transaction.atomic():
            lock(Heater, [one])
            free = "SELECT id FROM heaters_heater WHERE id = ANY(%s) FOR UPDATE SKIP LOCKED"
            assert second.execute(free, [[one, other]]).fetchall() == [(other,)]
            second.rollback()
        assert len(second.execute(free, [[one, other]]).fetchall()) == 2
        second.rollback()

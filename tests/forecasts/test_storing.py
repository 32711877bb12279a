"""A base is stored anew in time that grows with its heaters, whatever PostgreSQL believes of the table."""

import datetime
import re

from django.db import connection

from aquifer.customers.models import Site
from aquifer.forecasts.models import Forecast
from aquifer.forecasts.recompute import recompute_all, recompute_zone
from aquifer.heaters.models import Heater

MANY, OTHERS = 80, 1500
"""Few against many: then it looks as cheap to hold each against each."""


def test_what_only_aged_is_found_without_holding_each_against_each(base):
    hard, soft = Site.objects.get(code="S1"), Site.objects.get(code="S3")
    day = datetime.date.today() - datetime.timedelta(days=900)
    Heater.objects.bulk_create(
        Heater(tag=f"M-{n}", site=hard if n < MANY else soft, kind="gas_tank", installed_on=day, capacity_l=189)
        for n in range(MANY + OTHERS)
    )
    recompute_all()
    # No statistics were gathered since the table was empty, as after a first list.
    plans = []

    def explained(execute, sql, params, many, context):
        if "DELETE FROM forecasts_forecast AS old" in sql:
            execute(f"EXPLAIN (ANALYZE, TIMING off) {sql}", params, many, context)
            plans.append("\n".join(line for (line,) in context["cursor"].fetchall()))
        return execute(sql, params, many, context)

    with connection.execute_wrapper(explained):
        recompute_zone(hard.zone_id)
    (plan,) = plans
    assert "Nested Loop" not in plan
    # Explained, it was done, too.
    assert int(re.search(r"Hash Join .*actual rows=(\d+)", plan)[1]) >= MANY
    assert not Forecast.objects.filter(superseded_at__isnull=False).exists()
    assert Forecast.objects.filter(heater__tag="M-1").values("component").distinct().count() == (
        Forecast.objects.filter(heater__tag="M-1").count()
    )
    with connection.cursor() as cursor:
        cursor.execute("SHOW enable_nestloop")
        assert cursor.fetchone() == ("on",)

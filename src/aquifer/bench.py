"""Measured figures, as ratios against something that a reader can rerun on the same machine.

Uses a database of its own, filled with simulated heaters, and drops it again. Run by ./bench.
"""

import argparse
import datetime
import os
import resource
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "aquifer.settings")


def main() -> None:
    parser = argparse.ArgumentParser(prog="bench")
    parser.add_argument("--heaters", type=int, nargs="*", default=[400, 10_000])
    parser.add_argument("--rows", type=int, default=10_000, help="of the file that is imported")
    options = parser.parse_args()
    django.setup()
    from django.db import connection
    from django.test.runner import DiscoverRunner

    runner = DiscoverRunner(verbosity=0, interactive=False)
    runner.setup_test_environment()
    databases = runner.setup_databases()
    try:
        say(f"One copy of 256 MB in memory on this machine: {copy_seconds():.3f} s, the unit of the ratios below.")
        for heaters in options.heaters:
            with connection.cursor() as cursor:
                cursor.execute(
                    "TRUNCATE forecasts_zonelearning, forecasts_calibration, "
                    "visits_finding, visits_visit, forecasts_forecast, heaters_part, heaters_heater, "
                    "customers_site, customers_customer, water_watertest, water_zone CASCADE"
                )
            fleet(heaters)
        chemistry()
        imports(options.rows)
        pages()
        say(f"Largest memory of this process: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MiB")
    finally:
        runner.teardown_databases(databases)


def say(text: str) -> None:
    print(text, flush=True)


def timed(work: Callable[[], Any], times: int = 3) -> tuple[float, Any]:
    """The best of some runs, in seconds, and the last result."""
    best, result = float("inf"), None
    for _ in range(times):
        start = time.perf_counter()
        result = work()
        best = min(best, time.perf_counter() - start)
    return best, result


def copy_seconds() -> float:
    import numpy as np

    source = np.ones(32 * 1024 * 1024)
    return timed(source.copy)[0]


def fleet(heaters: int) -> None:
    """A fleet from PostgreSQL to PostgreSQL, by stage; the plain loop is one heater at a time through the same core."""
    from django.core.management import call_command

    from aquifer.core.forecast import forecast
    from aquifer.forecasts import inputs, recompute
    from aquifer.heaters.models import Heater
    from aquifer.visits.models import Finding

    today = datetime.date.today()
    with tempfile.TemporaryDirectory() as folder:
        sites = heaters * 3 // 4
        call_command("load_demo", folder=Path(folder), sites=sites, heaters=heaters, verbosity=0)
    findings = Finding.objects.count()
    load, loaded = timed(lambda: inputs.load(today))
    compute, computed = timed(lambda: forecast(loaded.fleet))
    store, _ = timed(lambda: recompute.store(loaded, computed.components, Heater.objects.in_service()))
    total, _ = timed(lambda: recompute.recompute_all(today), times=1)
    unit = copy_seconds()
    say(f"\n{heaters} heaters with {findings} findings, PostgreSQL to PostgreSQL: {total:.2f} s")
    for name, seconds in (("read", load), ("compute", compute), ("store", store)):
        say(f"  {name:8} {seconds:6.3f} s   {seconds / unit:7.1f} copies   {1e6 * seconds / heaters:6.0f} us a heater")
    some = list(Heater.objects.order_by("pk")[:40])
    singly, _ = timed(lambda: [forecast(inputs.load(today, Heater.objects.filter(pk=h.pk)).fleet) for h in some], 1)
    say(f"  against one heater at a time: {singly / len(some) * heaters / (load + compute):.0f} times as fast")


def chemistry() -> None:
    """PHREEQC for one water at one temperature, and the same again from what was kept."""
    from aquifer.core import chemistry as water

    def fresh() -> water.Heated:
        water._heated.cache_clear()
        water._balanced.cache_clear()
        return water.heated(analysis, 60.0)

    analysis = water.Analysis(250, 175, 185, 7.49, 670, 15)
    first, _ = timed(fresh)
    again, _ = timed(lambda: water.heated(analysis, 60.0))
    say(f"\nA water heated by PHREEQC: {1000 * first:.1f} ms; again: {first / again:.0f} times as fast")


def imports(rows: int) -> None:
    """A file of heaters, dry run and written."""
    from django.db import transaction

    from aquifer.customers.models import Site
    from aquifer.imports.apply import apply
    from aquifer.imports.plan import plan
    from aquifer.imports.tables import tables

    codes = list(Site.objects.values_list("code", flat=True))
    lines = [f"B-{n},{codes[n % len(codes)]},gas_tank,2021-05-01,189,magnesium" for n in range(rows)]
    text = "tag,site,kind,installed_on,capacity_l,anode_alloy\n" + "\n".join(lines) + "\n"
    table = tables(datetime.date.today())["heaters"]
    check, planned = timed(lambda: plan(table, text), times=1)
    bare, _ = timed(lambda: [line.split(",") for line in text.splitlines()], times=1)
    with transaction.atomic():
        write, _ = timed(lambda: apply(table, planned), times=1)
        transaction.set_rollback(True)
    say(f"\nA file of {rows} heaters: checked in {check:.2f} s, written in {write:.2f} s")
    say(f"  checking costs {check / bare:.0f} times what splitting its lines costs")


def pages() -> None:
    """What the screens ask for first, through the whole server."""
    from django.test import Client

    from aquifer.accounts.models import User

    client = Client()
    client.force_login(User.objects.get(username="planner"), "django.contrib.auth.backends.ModelBackend")
    base, _ = timed(lambda: client.get("/healthz"), 20)
    say("\nAnswers of the server, the best of ten")
    for path in ("/api/outlook", "/api/outlook?order=benefit", "/api/heaters", "/api/heaters?q=chalk gas"):
        seconds, _ = timed(lambda path=path: client.get(path), 10)
        say(f"  {path:30} {1000 * seconds:6.0f} ms   {seconds / base:6.0f} times an empty answer")


if __name__ == "__main__":
    main()

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

from aquifer.memory import keep_freed_memory

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "aquifer.settings")


def main() -> None:
    parser = argparse.ArgumentParser(prog="bench")
    parser.add_argument("--heaters", type=int, nargs="*", default=[400, 10_000])
    parser.add_argument("--copies", type=int, default=10, help="of the last base, for the large one; 0 leaves it out")
    parser.add_argument("--rows", type=int, default=10_000, help="of the file that is imported")
    parser.add_argument("--partitions", type=int, nargs=2, help=argparse.SUPPRESS)
    options = parser.parse_args()
    django.setup()
    keep_freed_memory()
    if options.partitions:
        return some_partitions(*options.partitions)
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
        one_heater()
        chemistry()
        imports(options.rows)
        pages()
        core(options.heaters[-1] * max(options.copies, 1))
        if options.copies:
            large(options.copies)
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


def one_heater() -> None:
    """One heater from a new finding to new dates: the core alone, and through the database."""
    from aquifer.core.forecast import Given, forecast
    from aquifer.forecasts import calibrations, inputs, recompute
    from aquifer.heaters.models import Heater

    heater = Heater.objects.in_service().filter(kind="gas_tank", findings__isnull=False).order_by("pk").first()
    assert heater is not None
    given, people = calibrations.in_force()
    loaded = inputs.load(datetime.date.today(), Heater.objects.filter(pk=heater.pk), people)
    zones, until = recompute._learned_zones(loaded)
    heard = loaded.before(until)
    alone, _ = timed(lambda: forecast(loaded.fleet, Given(calibration=given, zones=zones, heard=heard)), 20)
    whole, _ = timed(lambda: recompute.recompute_heaters([heater.pk]), 10)
    say(f"\nOne heater from a finding to new dates: {1000 * alone:.0f} ms")
    say(f"  with reading and storing {1000 * whole:.0f} ms")


def core(heaters: int) -> None:
    """The computation alone, on heaters with eight findings each, against the floors of this machine."""
    from concurrent.futures import ThreadPoolExecutor

    import numpy as np

    from aquifer.core.forecast import forecast
    from aquifer.study.synthetic import base

    fleet = base(heaters, seed=1)
    parts = [fleet.at(rows) for rows in fleet.partitions()]
    forecast(parts[0])
    one, _ = timed(lambda: [forecast(part) for part in parts], 3)
    with ThreadPoolExecutor(2) as pool:
        two, _ = timed(lambda: list(pool.map(forecast, parts)), 3)
    # Arithmetic: per heater three components, each two products of 61 with 81 and three with about 80; and as many
    # exponentials. Memory: findings read once, results written once.
    left, right = np.ones((8192, 61), dtype=np.float32), np.ones((61, 81), dtype=np.float32)
    product, _ = timed(lambda: left @ right, 20)
    exponential, _ = timed(lambda: np.exp(left), 20)
    arithmetic = heaters / 8192 * 3 * (5 * product + 4 * exponential)
    memory = copy_seconds() * heaters * (8 * 40 + 3 * 400) / 256e6
    say(f"\nThe computation alone, {heaters} heaters with 8 findings each")
    say(f"  {one:.2f} s on one thread, {two:.2f} s on two")
    say(f"  {1e6 * one / heaters:.0f} us a heater; {one / arithmetic:.1f} times its products and exponentials alone")
    say(f"  {one / memory:.0f} times what reading its findings and writing its results would take")


TABLES = ("water.Zone", "water.WaterTest", "customers.Customer", "customers.Site", "heaters.Heater", "heaters.Part")
HISTORY = ("visits.Visit", "visits.Finding")


def enlarge(copies: int) -> None:
    """Copy the base beside itself, supplies and all."""
    from django.apps import apps
    from django.db import connection

    copied = {apps.get_model(name) for name in (*TABLES, *HISTORY)}
    with connection.cursor() as cursor:
        for name in (*TABLES, *HISTORY):
            model = apps.get_model(name)
            names, values = [], []
            for field in model._meta.concrete_fields:
                column = connection.ops.quote_name(field.column)
                names.append(column)
                if field.primary_key or (field.is_relation and field.related_model in copied):
                    values.append(f"{column} + %(copy)s * 100000000")
                elif field.unique and field.get_internal_type() == "UUIDField":
                    values.append("gen_random_uuid()")
                elif field.unique and field.get_internal_type() == "CharField":
                    values.append(f"{column} || '/' || %(copy)s")
                else:
                    values.append(column)
            table = connection.ops.quote_name(model._meta.db_table)
            first = "id < 100000000"
            for copy in range(1, copies):
                cursor.execute(
                    f"INSERT INTO {table} ({', '.join(names)}) SELECT {', '.join(values)} FROM {table} WHERE {first}",  # noqa: S608
                    {"copy": copy},
                )
            cursor.execute(f"ANALYZE {table}")


def large(copies: int) -> None:
    """A large base from PostgreSQL to stored forecasts, by one worker and by two."""
    import subprocess
    import sys

    from django.db import connection

    from aquifer.forecasts import calibrations, recompute
    from aquifer.heaters.models import Heater
    from aquifer.visits.models import Finding

    enlarge(copies)
    heaters, findings = Heater.objects.count(), Finding.objects.count()
    today = datetime.date.today()
    taught, _ = timed(lambda: calibrations.renew(today), 1)
    parts = recompute.partitions()
    say(f"\n{heaters} heaters with {findings} findings in {len(parts)} partitions")
    say(f"  calibrated in {taught:.1f} s")
    seconds, _ = timed(lambda: [recompute.recompute_zones(part, today) for part in parts], 1)
    say(f"  one worker: {seconds:.1f} s, {1e6 * seconds / heaters:.0f} us a heater")
    environment = {**os.environ, "AQUIFER_DB_NAME": connection.settings_dict["NAME"]}
    start = time.perf_counter()
    workers = [
        subprocess.Popen([sys.executable, "-m", "aquifer.bench", "--partitions", str(at), "2"], env=environment)
        for at in range(2)
    ]
    for worker in workers:
        worker.wait()
    say(f"  two workers: {time.perf_counter() - start:.1f} s")


def some_partitions(at: int, of: int) -> None:
    """What one of several workers does: every so manyeth partition."""
    from aquifer.forecasts import recompute

    for part in recompute.partitions()[at::of]:
        recompute.recompute_zones(part)


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

"""Measured figures, as ratios against something that a reader can rerun on the same machine.

Uses a database of its own, filled with simulated heaters, and drops it again. Run by ./bench.
"""

import argparse
import contextlib
import datetime
import os
import resource
import tempfile
import time
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

import django

if TYPE_CHECKING:
    from django.test import Client

from aquifer.memory import keep_freed_memory

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "aquifer.settings")


def main() -> None:
    parser = argparse.ArgumentParser(prog="bench")
    parser.add_argument("--heaters", type=int, nargs="*", default=[400, 2000])
    parser.add_argument("--copies", type=int, default=50, help="of the last base, for the large one; 0 leaves it out")
    parser.add_argument("--rows", type=int, default=50_000, help="of the file that is imported")
    parser.add_argument("--partitions", type=int, nargs=2, help=argparse.SUPPRESS)
    parser.add_argument("--bring-in", type=int, help=argparse.SUPPRESS)
    options = parser.parse_args()
    django.setup()
    keep_freed_memory()
    if options.partitions:
        some_partitions(*options.partitions)
        return
    if options.bring_in:
        bring_in(options.bring_in)
        return
    from django.core.management import call_command

    with own_database():
        say(f"One copy of 256 MB in memory on this machine: {copy_seconds():.3f} s, the unit of the ratios below.")
        for heaters in options.heaters:
            call_command("flush", interactive=False, verbosity=0)
            fleet(heaters)
        one_heater()
        a_visit()
        chemistry()
        core(options.heaters[-1] * max(options.copies, 1))
        if options.copies:
            large(options.copies)
        finding()
        pages()
        imports(options.rows)
        say(f"Largest memory of this process: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MiB")


@contextlib.contextmanager
def own_database() -> Iterator[None]:
    """Within it there is a database that is nobody's, and a folder for pictures; both are dropped again."""
    from django.conf import settings
    from django.test.runner import DiscoverRunner

    django.setup()
    runner = DiscoverRunner(verbosity=0, interactive=False)
    runner.setup_test_environment()
    databases = runner.setup_databases()
    with tempfile.TemporaryDirectory() as pictures:
        settings.MEDIA_ROOT = pictures
        try:
            yield
        finally:
            runner.teardown_databases(databases)


def simulated(heaters: int) -> None:
    """Fill it with the demo's heaters, with their past and without a plan."""
    from django.core.management import call_command

    with tempfile.TemporaryDirectory() as folder:
        sites = heaters * 3 // 4
        call_command("load_demo", folder=Path(folder), sites=sites, heaters=heaters, verbosity=0, unplanned=True)


def say(text: str) -> None:
    print(text, flush=True)


T = TypeVar("T")


def timed(work: Callable[[], T], times: int = 3) -> tuple[float, T]:
    """The best of some runs, in seconds, and the last result."""
    best = float("inf")
    for _ in range(max(times, 1)):
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
    from aquifer.core.forecast import forecast
    from aquifer.forecasts import inputs, recompute
    from aquifer.heaters.models import Heater
    from aquifer.visits.models import Finding

    today = datetime.date.today()
    simulated(heaters)
    findings = Finding.objects.count()
    load, loaded = timed(lambda: inputs.load(today))
    compute, computed = timed(lambda: forecast(loaded.fleet))
    store, _ = timed(lambda: recompute.store(loaded, computed.components))
    total, _ = timed(lambda: recompute.recompute_all(today), times=1)
    unit = copy_seconds()
    say(f"\n{heaters} heaters with {findings} findings, PostgreSQL to PostgreSQL: {total:.2f} s")
    for name, seconds in (("read", load), ("compute", compute), ("store", store)):
        say(f"  {name:8} {seconds:6.3f} s   {seconds / unit:7.1f} copies   {1e6 * seconds / heaters:6.0f} us a heater")
    some = list(Heater.objects.order_by("pk")[:40])
    singly, _ = timed(lambda: [forecast(inputs.load(today, Heater.objects.filter(pk=h.pk)).fleet) for h in some], 1)
    say(f"  against one heater at a time: {singly / len(some) * heaters / (load + compute):.0f} times as fast")


def a_visit() -> None:
    """A visit of 300 events, folded as the server does with every sync; against reading the same events from JSON."""
    import json
    from dataclasses import asdict

    from aquifer.core.kinds import HeaterKind
    from aquifer.core.procedures import visit
    from aquifer.core.procedures.library import library, practices_followed
    from aquifer.core.procedures.sequence import procedures_for
    from aquifer.core.procedures.state import as_found, facts_of, rates_of
    from aquifer.core.vocabulary import Component, FlushMethod

    every, rates = library(), rates_of(190.0, 1.2, 11.0, 12.0)
    due = (Component.SEDIMENT, Component.ANODE, Component.RELIEF_VALVE, Component.EXPANSION_TANK)
    facts = facts_of(HeaterKind.GAS_TANK, ("gas", "electrical", "plumbing"), practices_followed({}))
    names = procedures_for(HeaterKind.GAS_TANK, due, FlushMethod.JETTING) * 6
    start = visit.begun(every, names, facts, as_found(HeaterKind.GAS_TANK, rates, "pilot"))
    told = visit.Visit(every, start, facts, rates)
    events: list[visit.Event] = []
    while told.stand.now is not None and len(events) < 300:
        ways = [one for one in visit.holding(every, told.stand, facts) if one.way_out]
        number = len(events)
        kind, name = ("settled", ways[0].rule) if ways else ("done", "")
        at_s = 60.0 * number
        events.append(visit.Event(kind, told.stand.now.id, name=name, id=str(number), device="a", at_s=at_s))
        told.tell(events[-1])
    written = json.dumps([asdict(one) for one in events])
    unit, _ = timed(lambda: json.loads(written), 20)
    folding, _ = timed(lambda: visit.folded(every, start, events, facts, rates, lambda event: facts), 10)
    say(f"\nA visit of {len(events)} events folded with its marks: {1000 * folding:.0f} ms")
    say(f"  {folding / unit:.0f} times as long as reading them from JSON")


def one_heater() -> None:
    """One heater from a new finding to new dates: the core alone, and through the database."""
    from django.db import connection

    from aquifer.core.forecast import Context, forecast
    from aquifer.forecasts import calibrations, inputs, recompute
    from aquifer.forecasts.models import ZoneLearning
    from aquifer.heaters.models import Heater

    heater = Heater.objects.in_service().filter(kind="gas_tank", findings__isnull=False).order_by("pk").first()
    assert heater is not None
    # The base was loaded a moment ago; in use the server keeps its statistics itself.
    with connection.cursor() as cursor:
        cursor.execute("ANALYZE")
    # Its last visit is what is new: its zone was computed before it.
    latest = heater.findings.order_by("-on", "-pk")[0].visit_id
    first = heater.findings.filter(visit=latest).order_by("pk")[0].pk
    ZoneLearning.objects.filter(zone=heater.site.zone_id).update(last_finding=first - 1)
    calibration, people = calibrations.in_force()
    loaded = inputs.load(datetime.date.today(), Heater.objects.filter(pk=heater.pk), people)
    zones, until = recompute._learned_zones(loaded)
    prior_evidence = loaded.before(until)
    alone, _ = timed(
        lambda: forecast(loaded.fleet, Context(calibration=calibration, zones=zones, prior_evidence=prior_evidence)), 50
    )
    whole, _ = timed(lambda: recompute.recompute_heaters([heater.pk]), 50)
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
    # Arithmetic: per heater three components, each two products of 61 with 61 and three with about 80; and as many
    # exponentials. Memory: findings read once, results written once.
    left, right = np.ones((8192, 61), dtype=np.float32), np.ones((61, 72), dtype=np.float32)
    product, _ = timed(lambda: left @ right, 20)
    exponential, _ = timed(lambda: np.exp(left), 20)
    arithmetic = heaters / 8192 * 3 * (5 * product + 4 * exponential)
    memory = copy_seconds() * heaters * (8 * 40 + 3 * 400) / 256e6
    say(f"\nThe computation alone, {heaters} heaters with 8 findings each")
    say(f"  {one:.2f} s on one thread, {two:.2f} s on two")
    say(f"  {1e6 * one / heaters:.0f} us a heater; {one / arithmetic:.1f} times its products and exponentials alone")
    say(f"  {one / memory:.0f} times what reading its findings and writing its results would take")


TABLES = ("water.Zone", "water.WaterTest", "customers.Customer", "customers.Site", "heaters.Heater", "heaters.Part")
HISTORY = ("visits.Visit", "visits.Finding", "places.Feature", "open_ends.OpenEnd")


def enlarge(copies: int, before: int = 1) -> None:
    """Copy the base beside itself, supplies and all, until it is there so often; before, how often it is now."""
    from django.apps import apps
    from django.db import connection

    copied = {apps.get_model(name) for name in (*TABLES, *HISTORY)}
    with connection.cursor() as cursor:
        # What is copied is right already: each row would be checked, and its words put together, once more.
        cursor.execute("SET session_replication_role = replica")
        for name in (*TABLES, *HISTORY):
            model = apps.get_model(name)
            names, values = [], []
            for field in model._meta.concrete_fields:
                column = connection.ops.quote_name(field.column)
                names.append(column)
                if field.primary_key or (field.is_relation and field.related_model in copied):
                    values.append(f"{column} + %(copy)s::bigint * 100000000")
                elif field.unique and field.get_internal_type() == "UUIDField":
                    values.append("gen_random_uuid()")
                elif field.name == "serial" or (field.unique and field.get_internal_type() == "CharField"):
                    values.append(f"{column} || '/' || %(copy)s")
                else:
                    values.append(column)
            table = connection.ops.quote_name(model._meta.db_table)
            first = "id < 100000000"
            for copy in range(before, copies):
                cursor.execute(
                    f"INSERT INTO {table} ({', '.join(names)}) SELECT {', '.join(values)} FROM {table} WHERE {first}",  # noqa: S608
                    {"copy": copy},
                )
            cursor.execute(f"ANALYZE {table}")
        cursor.execute("SET session_replication_role = DEFAULT")


def large(copies: int) -> None:
    """A large base from PostgreSQL to stored forecasts, by one worker and by two."""
    import subprocess
    import sys

    from django.db import connection

    from aquifer.forecasts import calibrations, night, recompute
    from aquifer.heaters.models import Heater
    from aquifer.review import kept
    from aquifer.visits.models import Finding

    enlarge(copies)
    heaters, findings = Heater.objects.count(), Finding.objects.count()
    today = datetime.date.today()
    tomorrow = today + datetime.timedelta(days=1)
    taught, _ = timed(lambda: calibrations.renew(today), 1)
    parts = recompute.partitions()
    say(f"\n{heaters} heaters with {findings} findings in {len(parts)} partitions")
    say(f"  calibrated in {taught:.1f} s")
    seconds, _ = timed(lambda: [recompute.recompute_zones(part, today) for part in parts], 1)
    say(f"  one worker: {seconds:.1f} s, {1e6 * seconds / heaters:.0f} us a heater")
    shared, parts = timed(lambda: recompute.partitions(night.zones_due(tomorrow)), 1)
    seconds, _ = timed(lambda: [recompute.recompute_zones(part, tomorrow) for part in parts], 1)
    say(f"  the night after, to which nothing came: {shared + seconds:.1f} s")
    reckoned, _ = timed(lambda: kept.renew(today), 1)
    say(f"  Review reckoned for its pages in {reckoned:.1f} s")
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
    """A file of heaters from its arrival to new forecasts, by a worker of its own."""
    import subprocess
    import sys

    from django.db import connection

    from aquifer.accounts.models import User
    from aquifer.customers.models import Site
    from aquifer.imports.models import ImportRun

    codes = list(Site.objects.order_by("pk").values_list("code", flat=True)[: max(rows // 2, 1)])
    lines = [f"B-{n},{codes[n % len(codes)]},gas tank,2021-05-01,50 gal,magnesium" for n in range(rows)]
    text = "tag,site,kind,installed_on,capacity_l,anode_alloy\n" + "\n".join(lines) + "\n"
    bare, _ = timed(lambda: [line.split(",") for line in text.splitlines()], times=1)
    by = User.objects.get(username="planner")
    run = ImportRun.objects.create(kind="heaters", file_name="bench.csv", data=text.encode(), started_by=by)
    environment = {**os.environ, "AQUIFER_DB_NAME": connection.settings_dict["NAME"]}
    said = subprocess.run(
        [sys.executable, "-m", "aquifer.bench", "--bring-in", str(run.pk)], env=environment, stdout=subprocess.PIPE
    )
    check, write, forecast, mebibytes = (float(word) for word in said.stdout.split())
    say(f"\nA file of {rows} heaters: {check + write + forecast:.0f} s")
    say(f"  checked in {check:.1f} s, {check / bare:.0f} times what splitting its lines costs")
    say(f"  written in {write:.1f} s, what it has to do with forecast anew in {forecast:.1f} s; {mebibytes:.0f} MiB")


def bring_in(run_id: int) -> None:
    """What the worker does with a file; its figures are read by ``imports``."""
    from unittest.mock import patch

    from aquifer.imports import run as runs

    check, _ = timed(lambda: runs.check(run_id), 1)
    runs.confirm(run_id)
    asked: list[tuple[set[int] | None, ...]] = []
    forecasts = runs._forecast_anew
    with patch.object(runs, "_forecast_anew", lambda *zones: asked.append(zones)):
        write, _ = timed(lambda: runs.bring_in(run_id), 1)
    forecast, _ = timed(lambda: forecasts(*asked[0]), 1)
    # Of this program alone: what the system counts by process includes the one that started it.
    peak = next(line.split()[1] for line in Path("/proc/self/status").read_text().splitlines() if "VmHWM" in line)
    say(f"{check} {write} {forecast} {int(peak) / 1024}")


def _signed_in() -> "Client":
    from django.test import Client

    from aquifer.accounts.models import User

    client = Client()
    client.force_login(User.objects.get(username="planner"), "django.contrib.auth.backends.ModelBackend")
    return client


def finding() -> None:
    """The finder with words as people type them: whole, cut short, misspelt, and of nothing on record."""
    import random

    from aquifer.heaters.models import Heater

    drawn = random.Random(5)
    client, count = _signed_in(), Heater.objects.count()
    asked: list[str] = []
    ids = list(Heater.objects.order_by("pk").values_list("pk", flat=True)[:10_000])
    for heater in Heater.objects.filter(pk__in=drawn.sample(ids, min(40, len(ids)))).select_related("site__customer"):
        site = heater.site
        name = site.name
        spot = drawn.randrange(1, max(len(name) - 1, 2))
        asked += [heater.tag, heater.serial, site.street, name[:4], f"{name} {site.street.split()[-2:][0]}"]
        asked += [name[:spot] + name[spot + 1 :], name + " " + site.street.replace("e", "", 1), site.customer.phone]
    asked += ["zzqx", "qqqqqqqq", "a", "st"]
    # The first answer of all loads the application, which is nobody's question.
    client.get("/api/find", {"q": "st"})
    every = sorted((timed(partial(client.get, "/api/find", {"q": words}), 1)[0], words) for words in asked)
    seconds = [one for one, _ in every]
    at = seconds[int(0.95 * len(seconds))]
    say(f"\nThe finder over {count} heaters, {len(asked)} questions, each asked once")
    say(f"  half within {1000 * seconds[len(seconds) // 2]:.0f} ms, 95 % within {1000 * at:.0f} ms")
    say(f"  the slowest {', '.join(f'{1000 * one:.0f} ms for {words}' for one, words in every[:-4:-1])}")


def pages() -> None:
    """What the screens ask for, through the whole server."""
    from aquifer.heaters.models import Heater
    from aquifer.water.models import Zone

    client = _signed_in()
    base, _ = timed(lambda: client.get("/healthz"), 20)
    heater = Heater.objects.in_service().filter(kind="gas_tank", findings__isnull=False).order_by("pk").first()
    assert heater is not None
    zone = Zone.objects.order_by("pk").first()
    assert zone is not None
    say(f"\nAnswers of the server, the best of five, {Heater.objects.count()} heaters")
    for path in (
        "/api/outlook",
        "/api/outlook?order=benefit",
        "/api/outlook/weeks",
        f"/api/outlook?zone_id={zone.pk}",
        "/api/heaters",
        "/api/heaters?q=chalk gas",
        "/api/heaters?kind=gas_tankless",
        "/api/heaters?guessed=true",
        "/api/open-ends",
        "/api/gaps",
        "/api/duplicates",
        "/api/review/forecasts",
        "/api/review/practices",
        "/api/review/replacements",
        f"/api/heaters/{heater.pk}",
        f"/api/heaters/{heater.pk}/log",
        f"/api/heaters/{heater.pk}/what-if?setpoint_c=49&softened=true",
        f"/api/sites/{heater.site_id}",
    ):
        seconds, answer = timed(partial(client.get, path), 5)
        assert answer.status_code == 200, path
        say(f"  {path:62} {1000 * seconds:6.0f} ms   {seconds / base:6.0f} times an empty answer")


if __name__ == "__main__":
    main()

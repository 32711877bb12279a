"""How a base grows: the same company beside itself, as often as is said, and what a night, a finding and a backup take.

Uses a database of its own and drops it again. Run by ./bench --growth.
"""

import argparse
import datetime
import os
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from aquifer.bench import enlarge, finding, own_database, pages, say, simulated, timed


def main() -> None:
    parser = argparse.ArgumentParser(prog="bench --growth")
    parser.add_argument("--growth", action="store_true", help=argparse.SUPPRESS)
    parser.add_argument("--heaters", type=int, default=2000, help="of the base that is copied")
    parser.add_argument("--copies", type=int, nargs="*", default=[50, 500], help="the sizes, one after the other")
    parser.add_argument("--workers", type=int, nargs="*", default=[2, 1, 3], help="how many share a night, in turn")
    parser.add_argument("--no-backup", action="store_true", help="leave out the backup of the largest")
    options = parser.parse_args()
    with own_database():
        from aquifer.review import kept

        simulated(options.heaters)
        before, first = 1, None
        for copies in options.copies:
            seconds, _ = timed(partial(enlarge, copies, before), 1)
            before = copies
            say(f"\n{options.heaters * copies} heaters, copied in {seconds:.0f} s, {size_gib():.1f} GiB")
            cost = nights(options.workers)
            first = first or cost
            say(f"  a heater costs {cost / first:.2f} of what it does at the first size")
            reckoned, _ = timed(lambda: kept.renew(datetime.date.today()), 1)
            say(f"  Review reckoned for its pages in {reckoned:.0f} s")
            one_finding()
            finding()
            pages()
        if not options.no_backup:
            backup()


def size_gib() -> float:
    from django.db import connection

    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_database_size(current_database())")
        return float(cursor.fetchone()[0]) / 2**30


@dataclass(frozen=True)
class Pass:
    """One forecast of everything, by some workers."""

    seconds: float
    processor_s: float
    """Of the workers together; the database's is its own."""
    mebibytes: float
    """Of the worker that took most."""


def nights(workers: list[int]) -> float:
    """Forecast everything by so many workers, again and again; microseconds a heater where one did it alone.

    Raises: AssertionError where two passes stored something else.
    """
    from django.utils import timezone

    from aquifer.forecasts import calibrations
    from aquifer.heaters.models import Heater

    heaters = Heater.objects.in_service().count()
    taught, _ = timed(lambda: calibrations.renew(timezone.localdate()), 1)
    say(f"  calibrated in {taught:.0f} s")
    stored, alone = set(), float("nan")
    for number in workers:
        done = shared(number)
        stored.add(stored_forecasts())
        each = 1e6 * done.seconds / heaters
        if number == 1:
            alone = each
        say(f"  {number} at work: {done.seconds:.0f} s, {each:.0f} us a heater, {done.processor_s:.0f} s of theirs "
            f"on a processor; {done.mebibytes:.0f} MiB at most")  # fmt: skip
    (same,) = stored
    say(f"  all of them stored the same {same[0]} forecasts")
    return alone


_WORKER = """
import resource, sys, django
django.setup()
from aquifer.bench_list import peak
from aquifer.forecasts.recompute import partitions, recompute_zones
from aquifer.memory import keep_freed_memory
keep_freed_memory()
at, of = map(int, sys.argv[1:])
for part in partitions()[at::of]:
    recompute_zones(part)
used = resource.getrusage(resource.RUSAGE_SELF)
print(used.ru_utime + used.ru_stime, peak())
"""


def shared(number: int) -> Pass:
    """Every worker takes every so manyeth part of the base, in a process of its own."""
    import time

    from django.db import connection

    here = {**os.environ, "AQUIFER_DB_NAME": connection.settings_dict["NAME"]}
    start = time.perf_counter()
    workers = [
        subprocess.Popen([sys.executable, "-c", _WORKER, str(at), str(number)], env=here, stdout=subprocess.PIPE)
        for at in range(number)
    ]
    told = [worker.communicate()[0].split() for worker in workers]
    assert not any(worker.returncode for worker in workers)
    seconds = time.perf_counter() - start
    return Pass(seconds, sum(float(one[0]) for one in told), max(float(one[1]) for one in told))


def stored_forecasts() -> tuple[int, int]:
    """How many forecasts there are, and what is in them as one number: all but when each was computed, and its key."""
    from django.db import connection

    from aquifer.forecasts.models import Forecast

    beside = ("id", "computed_at", "superseded_at")
    names = [field.column for field in Forecast._meta.concrete_fields if field.column not in beside]
    row = ", ".join(connection.ops.quote_name(str(name)) for name in names)
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT count(*), bit_xor(hashtextextended(ROW({row})::text, 0)) FROM {Forecast._meta.db_table} "  # noqa: S608
            "WHERE superseded_at IS NULL"
        )
        count, told = cursor.fetchone()
    return int(count), int(told)


def one_finding() -> None:
    """From a finding that is written to the new dates of its heater."""
    from aquifer.forecasts.recompute import recompute_heaters
    from aquifer.heaters.models import Heater

    ids = list(Heater.objects.in_service().order_by("pk").values_list("pk", flat=True)[:2000:100])
    seconds = sorted(timed(partial(recompute_heaters, [pk]), 1)[0] for pk in ids)
    say(f"  new dates of one heater in {1000 * seconds[len(seconds) // 2]:.0f} ms, half of them")


def backup() -> None:
    """A backup written, restored into a database of its own, counted there, and held against the first as a whole."""
    from django.db import connection

    from aquifer import backups

    with tempfile.TemporaryDirectory(dir=os.environ.get("AQUIFER_DATA")) as folder:
        now = datetime.datetime.now(datetime.UTC)
        seconds, path = timed(lambda: backups.write(Path(folder), now), 1)
        say(f"\nA backup of it, restored and counted: {seconds:.0f} s, {path.stat().st_size / 2**30:.2f} GiB")
        before = stored_forecasts()
        seconds, _ = timed(lambda: backups.restore(path), 1)
        connection.close()
        assert stored_forecasts() == before
        say(f"  proved once more and put in the place of what was there: {seconds:.0f} s; the forecasts are the same")


if __name__ == "__main__":
    main()

"""A company's own list measured: tens of thousands of flat rows in and out, and a season for sites without a place.

Uses a database of its own and drops it again. Run by ./bench --list.
"""

import argparse
import datetime
import os
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

from aquifer.bench import own_database, say

HEADER = "Acct,Customer,Service address,Phone,Type,Gallons,Put in,Set at,Remarks"
KINDS = ("NG", "elec", "gas", "tankless", "HPWH")


def main() -> None:
    parser = argparse.ArgumentParser(prog="bench --list")
    parser.add_argument("--list", action="store_true", help=argparse.SUPPRESS)
    parser.add_argument("--rows", type=int, default=50_000, help="of the list that is brought in and taken out")
    parser.add_argument("--sites", type=int, nargs="*", default=[10_000], help="without a place, that are planned")
    options = parser.parse_args()
    with own_database():
        from django.core.management import call_command

        in_and_out(options.rows)
        for sites in options.sites:
            call_command("flush", interactive=False, verbosity=0)
            season(sites)


def rows(number: int) -> str:
    """A list as an office keeps it: most customers have one heater, some two, and nobody wrote down where they are."""
    lines = []
    for n in range(number):
        who = n - (n % 7 == 6)
        address = f"{1 + who % 90} Street {who // 90}, Town {who % 12}"
        kind, size = KINDS[n % len(KINDS)], ("" if n % 5 == 3 else str(40 + 10 * (n % 3)))
        lines.append(f'{1000 + who},"Family {who}","{address}",555-{n:07d},{kind},{size},{2004 + n % 20}?,120,')
    return "\n".join([HEADER, *lines]) + "\n"


def company() -> object:
    """An own base: a lead who goes out, in gallons."""
    from aquifer.accounts.models import Role, User
    from aquifer.company.models import Company
    from aquifer.rounds.models import CrewMember

    Company.objects.update_or_create(pk=1, defaults={"units": "us"})
    licences = ["gas", "electrical", "plumbing"]
    lead = User.objects.create(username="lead", role=Role.LEAD, licences=licences)
    for number in range(12):
        user = lead if number == 0 else User.objects.create(username=f"t{number}", licences=licences)
        CrewMember.objects.create(user=user, weekdays=[0, 1, 2, 3, 4], equipment=["jetter", "descaling pump"])
    return lead


def brought_in(number: int, said: Callable[[str], None]) -> object:
    """The list of so many rows, through every stage that a person sees."""
    from aquifer.accounts.models import User
    from aquifer.formats.sheet import Matched
    from aquifer.imports import run as runs
    from aquifer.imports.models import ImportRun

    by = User.objects.get(username="lead")
    text = rows(number)
    bare = timed(lambda: [line.split(",") for line in text.splitlines()])
    run = runs.start("list", "bench.csv", text.encode(), by)
    stages = {"asked": timed(lambda: runs.check(run.pk))}
    asked = ImportRun.objects.get(pk=run.pk).columns
    runs.match(
        run.pk,
        {
            one["name"]: Matched(
                one["column"],
                one["written"],
                {word["said"]: word["means"] for word in one["words"]} if one["column"] == "kind" else {},
            )
            for one in asked
        },
    )
    stages["checked"] = timed(lambda: runs.check(run.pk))
    runs.confirm(run.pk)
    stages["brought in and forecast"] = timed(lambda: runs.bring_in(run.pk))
    import_run = ImportRun.objects.get(pk=run.pk)
    assert import_run.state == "applied", import_run.message
    said(f"\nA list of {number} flat rows: {sum(stages.values()):.0f} s")
    for name, seconds in stages.items():
        said(f"  {name} in {seconds:.1f} s, {seconds / bare:.0f} times what splitting its lines costs")
    return import_run


def in_and_out(number: int) -> None:
    """Bring a list in, and take it all out again."""
    from aquifer.imports import run as runs
    from aquifer.imports.models import ImportRun

    company()
    run = brought_in(number, say)
    assert isinstance(run, ImportRun)
    say(f"  taken out again in {timed(lambda: runs.undo(run.pk)):.1f} s; {peak():.0f} MiB at most")


def season(sites: int) -> None:
    """The first season of a base of which nobody knows where it is."""
    from aquifer.accounts.models import User
    from aquifer.rounds.models import Appointment, Run

    company()
    brought_in(sites, lambda text: None)
    monday = datetime.date.today() - datetime.timedelta(days=datetime.date.today().weekday())
    by = User.objects.get(username="lead")
    run = Run.objects.create(kind="season", first_week=monday, weeks=52, asked_by=by)
    told = by_a_worker(run.pk)
    run.refresh_from_db()
    # A solver may print its banner before.
    seconds, most = told.splitlines()[-1].split()
    say(f"\nA season of {sites} rows without a place: {run.get_state_display()} in {seconds} s {run.message}")
    say(f"  {Appointment.objects.count()} visits; {most} MiB at most")


_WORKER = """
import sys, time, django
django.setup()
from aquifer.bench_list import peak, timed
from aquifer.rounds.run import work_on
seconds = timed(lambda: work_on(int(sys.argv[1])))
print(f"{seconds:.0f} {peak():.0f}")
"""


def by_a_worker(run_id: int) -> str:
    """Plan in a process of its own, whose memory is that of the planning alone; seconds, and MiB at most."""
    from django.db import connection

    here = {**os.environ, "AQUIFER_DB_NAME": connection.settings_dict["NAME"]}
    planned = [sys.executable, "-c", _WORKER, str(run_id)]
    return subprocess.run(planned, env=here, check=True, capture_output=True, text=True).stdout


def timed(what: Callable[[], object]) -> float:
    start = time.perf_counter()
    what()
    return time.perf_counter() - start


def peak() -> float:
    """MiB that this program alone held at most."""
    told = next(line.split()[1] for line in Path("/proc/self/status").read_text().splitlines() if "VmHWM" in line)
    return int(told) / 1024


if __name__ == "__main__":
    main()

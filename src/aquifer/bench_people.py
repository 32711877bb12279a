"""Fifty people at a large base at once, for minutes: how long each waits for what they ask for and write.

The servers and the worker are started as ./run starts them, before a database of its own that is dropped again. Whoever
asks does so from a process of its own, whose share of the processor is told: it is this machine's, too. Run by
./bench --people.
"""

import argparse
import contextlib
import datetime
import http.client
import json
import multiprocessing
import os
import random
import resource
import socket
import subprocess
import sys
import tempfile
import threading
import time
import uuid
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import quote

from aquifer.bench import enlarge, own_database, say, simulated

PAUSE_S = 12.0
"""On average between two things that somebody does. Assumption: in a cellar a visit's two hundred taps take forty
minutes, and at a desk a page is read as long."""
KEPT_S = 3.0
"""So long a connection is used that nothing went over: the server keeps it for five seconds."""
READ_MS, WRITTEN_MS = 250, 400
"""What 95 of 100 reads, and writes, are to be answered in."""


def main() -> None:
    parser = argparse.ArgumentParser(prog="bench --people")
    parser.add_argument("--people", type=int, nargs="?", const=50, default=50)
    parser.add_argument("--heaters", type=int, default=2000, help="of the base that is copied")
    parser.add_argument("--copies", type=int, default=50)
    parser.add_argument("--minutes", type=float, default=5)
    parser.add_argument("--pause", type=float, default=PAUSE_S, help="seconds between two things that somebody does")
    options = parser.parse_args()
    with own_database(), tempfile.TemporaryDirectory() as folder:
        from aquifer.forecasts.recompute import recompute_all
        from aquifer.review import kept

        simulated(options.heaters)
        enlarge(options.copies)
        recompute_all()
        kept.renew(datetime.date.today())
        say(f"{options.people} people at {options.heaters * options.copies} heaters for {options.minutes:g} minutes")
        with served(Path(folder)) as port:
            told_of(asked(port, options.people, options.minutes, options.pause))


@contextlib.contextmanager
def served(folder: Path) -> Iterator[int]:
    """Servers and a worker, as ./run starts them. Yields: the port at which they answer."""
    from django.conf import settings
    from django.db import connection

    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    here = {
        **os.environ, "AQUIFER_DB_NAME": connection.settings_dict["NAME"], "AQUIFER_BIND": f"127.0.0.1:{port}",
        "AQUIFER_SECRET_KEY": settings.SECRET_KEY, "AQUIFER_DATA": str(folder),
    }  # fmt: skip
    log = (folder / "served.log").open("w")
    server = [str(Path(sys.executable).parent / "gunicorn"), "--config", "python:aquifer.serving", "aquifer.wsgi"]
    worker = ["nice", "-n", "10", sys.executable, "-m", "aquifer", "procrastinate", "worker", "--concurrency", "1"]
    running = [subprocess.Popen(command, env=here, stdout=log, stderr=log) for command in (server, worker)]
    try:
        until = time.monotonic() + 120
        while not answers(port):
            assert time.monotonic() < until and running[0].poll() is None, (folder / "served.log").read_text()[-2000:]
            time.sleep(0.2)
        yield port
    finally:
        for one in running:
            one.terminate()
        for one in running:
            one.wait(60)


def answers(port: int) -> bool:
    try:
        with contextlib.closing(http.client.HTTPConnection("127.0.0.1", port, timeout=5)) as there:
            there.request("GET", "/healthz")
            return there.getresponse().status == 200
    except OSError:
        return False


@dataclass
class Waited:
    """What somebody waited for, in seconds, and what was not answered as it should be."""

    reads: list[float] = field(default_factory=list)
    writes: list[float] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)
    processor_s: float = 0.0


class Person:
    """Somebody signed in: at a desk, or at heaters with a telephone."""

    def __init__(
        self, port: int, session: str, heaters: list[int], words: list[str], number: int, pause_s: float
    ) -> None:
        self.there = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        self.session, self.heaters, self.words = session, heaters, words
        self.luck, self.pause_s = random.Random(number), pause_s
        self.waited = Waited()
        self.asked_at = 0.0

    def asks(self, method: str, path: str, body: object = None) -> dict[str, object]:
        told = {"Cookie": f"sessionid={self.session}; csrftoken={'a' * 32}", "X-CSRFToken": "a" * 32}
        sent = None
        if body is not None:
            sent, told["Content-Type"] = json.dumps(body), "application/json"
        begun = time.perf_counter()
        # The server hangs up on who is silent, and a browser dials again.
        if begun - self.asked_at > KEPT_S:
            self.there.close()
        self.asked_at = begun
        try:
            self.there.request(method, f"/api/{path}", sent, told)
            answer = self.there.getresponse()
            read = answer.read()
        except (OSError, http.client.HTTPException) as error:
            self.there.close()
            self.waited.wrong.append(f"{type(error).__name__} {method} {path}")
            return {}
        spent = time.perf_counter() - begun
        (self.waited.reads if method == "GET" else self.waited.writes).append(spent)
        if answer.status >= 400:
            self.waited.wrong.append(f"{answer.status} {method} {path}: {read[:100]!r}")
            return {}
        found = json.loads(read)
        return found if isinstance(found, dict) else {}

    def pause(self, until: float) -> None:
        time.sleep(max(0.0, min(self.luck.expovariate(1 / self.pause_s), until - time.monotonic())))

    def at_a_desk(self, until: float) -> None:
        """What the telephone asks: who that is, what is due there, a remark noted, the week, what Review says."""
        number = 0
        # Fifty do not begin in one moment.
        self.pause(until)
        while time.monotonic() < until:
            number += 1
            heater = self.luck.choice(self.heaters)
            self.asks("GET", "outlook")
            self.asks("GET", "outlook/weeks")
            self.pause(until)
            self.asks("GET", f"find?q={self.luck.choice(self.words)}")
            self.pause(until)
            found = self.asks("GET", f"heaters/{heater}")
            self.asks("GET", f"heaters/{heater}/log")
            self.pause(until)
            if "site_id" in found:
                self.asks("GET", f"sites/{found['site_id']}")
            self.asks("POST", "open-ends", {"heater_id": heater, "kind": "defect", "words": f"Knocks since {number}."})
            self.pause(until)
            self.asks("GET", self.luck.choice(["review/forecasts", "open-ends", "heaters?kind=gas_tank", "gaps"]))
            self.pause(until)

    def at_heaters(self, until: float) -> None:
        """Visits one after the other: the heater, taps, the record."""
        self.pause(until)
        while time.monotonic() < until:
            heater = self.luck.choice(self.heaters)
            self.asks("GET", f"heaters/{heater}")
            visit, device, after = str(uuid.uuid4()), str(uuid.uuid4()), 0
            for clock, step in enumerate(("arrival.greet", "arrival.look", "arrival.shut_off", "", "", ""), start=1):
                tap: dict[str, object] = {
                    "client_id": str(uuid.uuid4()), "clock": clock, "kind": "done", "step": step, "known": after,
                    "at": datetime.datetime.now(datetime.UTC).isoformat(),
                }  # fmt: skip
                if not step:
                    tap |= {"kind": "answered", "field": "valve.outcome", "value": "flows_and_reseats"}
                body = {"client_id": visit, "heater_id": heater, "components": ["relief_valve"], "device": device,
                        "after": after, "events": [tap]}  # fmt: skip
                told = self.asks("POST", "visits/sessions", body)
                visit, after = str(told.get("client_id", visit)), int(str(told.get("cursor", after)))
                self.pause(until)
                if time.monotonic() > until:
                    return
            day = datetime.date.today().isoformat()
            self.asks("POST", "visits", {"client_id": visit, "heater_id": heater, "on": day, "findings": []})


def asked(port: int, people: int, minutes: float, pause_s: float) -> Waited:
    """So many people at once, two of five at a desk, from a process of their own."""
    from django.test import Client

    from aquifer.accounts.models import User
    from aquifer.customers.models import Customer
    from aquifer.heaters.models import Heater

    def session(role: str) -> str:
        client = Client()
        client.force_login(User.objects.get(username=role), "django.contrib.auth.backends.ModelBackend")
        return client.cookies["sessionid"].value

    roles = ["planner" if number % 5 < 2 else "technician" for number in range(people)]
    sessions = [session(role) for role in roles]
    luck = random.Random(7)
    heaters = luck.choices(list(Heater.objects.in_service().values_list("pk", flat=True)), k=5000)
    names = luck.choices(list(Customer.objects.values_list("name", flat=True)), k=200)
    words = [quote(one) for name in names for one in (name, name.split()[0])]
    told: multiprocessing.SimpleQueue[Waited] = multiprocessing.get_context("fork").SimpleQueue()
    process = multiprocessing.get_context("fork").Process(
        target=_all_ask, args=(port, list(zip(roles, sessions, strict=True)), heaters, words, (minutes, pause_s), told)
    )
    process.start()
    waited = told.get()
    process.join()
    return waited


def _all_ask(
    port: int,
    people: list[tuple[str, str]],
    heaters: list[int],
    words: list[str],
    lasting: tuple[float, float],
    told: "multiprocessing.SimpleQueue[Waited]",
) -> None:
    before = resource.getrusage(resource.RUSAGE_SELF)
    minutes, pause_s = lasting
    until = time.monotonic() + 60 * minutes
    every = [Person(port, session, heaters, words, number, pause_s) for number, (_, session) in enumerate(people)]
    threads = [
        threading.Thread(target=one.at_a_desk if role == "planner" else one.at_heaters, args=(until,))
        for one, (role, _) in zip(every, people, strict=True)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    used = resource.getrusage(resource.RUSAGE_SELF)
    told.put(
        Waited(
            sorted(seconds for one in every for seconds in one.waited.reads),
            sorted(seconds for one in every for seconds in one.waited.writes),
            [wrong for one in every for wrong in one.waited.wrong],
            used.ru_utime + used.ru_stime - before.ru_utime - before.ru_stime,
        )
    )


def told_of(waited: Waited) -> None:
    for name, seconds, most in (("reads", waited.reads, READ_MS), ("writes", waited.writes, WRITTEN_MS)):
        half, late = (1000 * seconds[int(share * (len(seconds) - 1))] for share in (0.5, 0.95))
        say(f"  {len(seconds)} {name}: half within {half:.0f} ms, 95 of 100 within {late:.0f} ms, wanted {most}; "
            f"the slowest {1000 * seconds[-1]:.0f} ms")  # fmt: skip
    say(f"  {len(waited.wrong)} not answered as they should be {waited.wrong[:3] or ''}")
    say(f"  who asked took {waited.processor_s:.0f} s of a processor, on the same machine")


if __name__ == "__main__":
    main()

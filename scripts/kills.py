"""A server on which everybody works while its processes are killed, one after the other, and its database is away,
frozen or without room: is what was acknowledged there once, does every job end, and is it back in seconds?

    python scripts/kills.py [--kills N] [--hardships] [--seed N] [--port N] [--record docs/kills.md]

Served by ./run, with demo data, in a folder of its own that is dropped afterwards. What is told of the end is read from
the database, not from the server.
"""

import argparse
import datetime
import hashlib
import io
import json
import os
import random
import re
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
import uuid
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import psycopg
import requests
from PIL import Image

ROOT = Path(__file__).parents[1]
PASSWORD = "try-aquifer-here"
"""Of the demo's accounts."""
BACK_S, ENDED_S = 5.0, 120.0
"""In which pages are to be back after a kill, and jobs to have ended once nothing is killed any more."""
EVERY_S = 1.0
"""Between a server that is back and the next kill, on average; a worker lives long enough to get on with its jobs."""


CLOCKS = [datetime.timedelta()] * 8 + [datetime.timedelta(days=-7000), datetime.timedelta(days=9000)]


@dataclass
class Told:
    """What the server acknowledged."""

    taps: set[str] = field(default_factory=set)
    visits: dict[str, int] = field(default_factory=dict)
    photographs: dict[str, str] = field(default_factory=dict)
    imports: dict[int, list[str]] = field(default_factory=dict)
    runs: set[int] = field(default_factory=set)
    bases: set[int] = field(default_factory=set)
    odd: Counter[str] = field(default_factory=Counter)
    """Answers that nobody should have got."""
    numbers: list[str] = field(default_factory=list)
    """By which the server noted those."""
    lock: threading.Lock = field(default_factory=threading.Lock)


class Client:
    """Somebody signed in, who asks again until the server has answered."""

    def __init__(self, server: str, name: str, told: Told, over: threading.Event, luck: random.Random) -> None:
        self.server, self.name, self.told, self.over, self.luck = server, name, told, over, luck
        self.http = requests.Session()

    def signs_in(self) -> None:
        self.http.cookies.clear()
        self._try("get", "/sign-in")
        form = {"username": self.name, "password": PASSWORD, "csrfmiddlewaretoken": self.http.cookies.get("csrftoken")}
        self._try("post", "/sign-in", data=form, allow_redirects=False)

    def asks(self, method: str, path: str, **more: Any) -> requests.Response | None:
        """The answer, from as many tries as it takes; None once it is over."""
        while True:
            # Now and then it does not wait for the answer: the way was cut behind what it sent.
            cut = self.luck.random() < 0.05
            answer = self._try(method, f"/api/{path}", timeout=0.02 if cut else 20, **more)
            if answer is None and not self.over.is_set():
                time.sleep(0.1)
            elif answer is None:
                return None
            elif answer.status_code in (401, 403) and "signed_out" in answer.text:
                self.signs_in()
            elif answer.status_code in (429, 502, 503, 504):
                time.sleep(0.3)
            else:
                if answer.status_code >= 500:
                    time.sleep(0.3)
                if answer.status_code >= 500 or (answer.status_code >= 400 and answer.status_code != 409):
                    with self.told.lock:
                        self.told.odd[f"{answer.status_code} {method} {path[:40]}: {answer.text[:120]}"] += 1
                        self.told.numbers += re.findall(r"Its number is ([0-9a-f-]+)", answer.text)
                return answer

    def _try(self, method: str, path: str, timeout: float = 20, **more: Any) -> requests.Response | None:
        headers = {"X-CSRFToken": self.http.cookies.get("csrftoken") or ""}
        files = {name: (one[0], io.BytesIO(one[1]), one[2]) for name, one in more.pop("files", {}).items()}
        try:
            return self.http.request(
                method, self.server + path, timeout=timeout, headers=headers, files=files or None, **more
            )
        except requests.RequestException:
            return None

    def visits(self, heaters: list[int]) -> None:
        """Goes from heater to heater: taps, photographs, the record."""
        for heater in heaters:
            if self.over.is_set():
                return
            visit, device, after = str(uuid.uuid4()), str(uuid.uuid4()), 0
            steps = ("arrival.greet", "arrival.look", "arrival.shut_off", "")
            for clock, step in enumerate(steps, start=1):
                tap = {
                    "client_id": str(uuid.uuid4()), "clock": clock, "kind": "done", "step": step, "known": after,
                    # Its clock is wrong now and then, by as much as a clock can be.
                    "at": (datetime.datetime.now(datetime.UTC) + self.luck.choice(CLOCKS)).isoformat(),
                }  # fmt: skip
                if not step:
                    tap |= {"kind": "answered", "field": "valve.outcome", "value": "flows_and_reseats"}
                body = {"client_id": visit, "heater_id": heater, "components": ["relief_valve"], "device": device,
                        "after": after, "events": [tap]}  # fmt: skip
                answer = self.asks("post", "visits/sessions", json=body)
                if answer is None or answer.status_code != 200:
                    break
                visit, after = answer.json()["client_id"], answer.json()["cursor"]
                with self.told.lock:
                    self.told.taps.add(str(tap["client_id"]))
            self._photographs(heater, visit)
            body = {"client_id": visit, "heater_id": heater, "on": datetime.date.today().isoformat(), "findings": []}
            answer = self.asks("post", "visits", json=body)
            if answer is not None and answer.status_code in (200, 201):
                with self.told.lock:
                    self.told.visits[visit] = answer.json()["id"]

    def _photographs(self, heater: int, visit: str) -> None:
        picture = io.BytesIO()
        Image.effect_noise((320, 240), self.luck.uniform(20, 90)).save(picture, "JPEG")
        about = {"heater_id": heater, "client_id": str(uuid.uuid4()), "visit_client_id": visit}
        files = {"file": ("a.jpg", picture.getvalue(), "image/jpeg")}
        answer = self.asks("post", "attachments", data=about, files=files)
        if answer is not None and answer.status_code == 201:
            with self.told.lock:
                self.told.photographs[about["client_id"]] = ""

    def plans(self) -> None:
        """Asks for plans, brings lists in."""
        number = 0
        while not self.over.is_set():
            number += 1
            first = (datetime.date.today() + datetime.timedelta(days=7)).isoformat()
            answer = self.asks("post", "rounds/runs", json={"kind": "rounds", "first": first, "weeks": 1})
            if answer is not None and answer.status_code == 201:
                with self.told.lock:
                    self.told.runs.add(answer.json()["id"])
            self._brings_in(number)
            self.over.wait(8)

    def _brings_in(self, number: int) -> None:
        codes = [f"K{number}-{place}-{self.luck.randrange(10**9)}" for place in range(20)]
        lines = "\n".join(["code,name,phone,email", *(f"{code},Customer {code},," for code in codes)])
        answer = self.asks(
            "post", "imports", data={"kind": "customers"}, files={"file": ("k.csv", lines.encode(), "text/csv")}
        )
        if answer is None or answer.status_code != 201:
            return
        run = answer.json()["id"]
        with self.told.lock:
            self.told.imports[run] = []
        until = time.monotonic() + 60
        while time.monotonic() < until and not self.over.is_set():
            state = self.asks("get", f"imports/{run}")
            if state is not None and state.status_code == 200 and state.json()["state"] == "checked":
                done = self.asks("post", f"imports/{run}/confirm", json={})
                if done is not None and done.status_code == 200:
                    with self.told.lock:
                        self.told.imports[run] = codes
                return
            time.sleep(0.5)

    def takes_out(self) -> None:
        """Asks for the whole base, over and over."""
        while not self.over.is_set():
            answer = self.asks("post", "base-files")
            if answer is not None and answer.status_code == 201:
                with self.told.lock:
                    self.told.bases.add(answer.json()["id"])
            self.over.wait(10)


class Served:
    """What ./run started, in a folder of its own."""

    def __init__(self, port: int, is_small: bool = False) -> None:
        """Parameters: is_small, on a disk of its own that can be filled; needs the rights of root."""
        self.data = Path(tempfile.mkdtemp(prefix="aquifer-kills-", dir="/var/tmp"))
        self.is_small = is_small
        if is_small:
            subprocess.run(["mount", "-t", "tmpfs", "-o", "size=1800m", "tmpfs", str(self.data)], check=True)
        self.data.chmod(0o755)
        self.address = f"http://127.0.0.1:{port}"
        own = {name: value for name, value in os.environ.items() if not name.startswith(("AQUIFER_", "DATABASE_"))}
        self.run = subprocess.Popen(
            [str(ROOT / "run"), "--port", str(port)], start_new_session=True, stdout=(self.data / "run.log").open("w"),
            stderr=subprocess.STDOUT, env={**own, "AQUIFER_DATA": str(self.data)},
        )  # fmt: skip
        until = time.monotonic() + 600
        while "Ctrl-C ends it" not in (self.data / "run.log").read_text():
            if time.monotonic() > until or self.run.poll() is not None:
                raise SystemExit(f"It did not start: {(self.data / 'run.log').read_text()[-500:]}")
            time.sleep(0.5)

    def database(self) -> "psycopg.Connection[Any]":
        return psycopg.connect(
            host="127.0.0.1", port=int((self.data / "postgres-port").read_text()), user="aquifer", dbname="aquifer",
            password=(self.data / "postgres-password").read_text(), autocommit=True, connect_timeout=5,
        )  # fmt: skip

    def processes(self, words: str) -> list[int]:
        """Those whose command has these words, of this server."""
        found = []
        for path in Path("/proc").glob("[0-9]*"):
            try:
                command = (path / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
                environment = (path / "environ").read_bytes()
            except OSError:
                continue
            if words in command and f"AQUIFER_DATA={self.data}\0".encode() in environment and "bash" not in command:
                found.append(int(path.name))
        return found

    def backends(self) -> list[int]:
        """Processes of its database that serve somebody."""
        postmaster = int((self.data / "postgres" / "postmaster.pid").read_text().splitlines()[0])
        children = subprocess.run(["pgrep", "-P", str(postmaster), "-a"], capture_output=True, text=True).stdout
        return [int(line.split()[0]) for line in children.splitlines() if "aquifer aquifer" in line]

    def answers(self) -> str:
        """Why a page that asks the database is not there; empty where it is."""
        try:
            status = requests.get(f"{self.address}/sign-in", timeout=2).status_code
        except requests.RequestException as error:
            return type(error).__name__
        return "" if status == 200 else str(status)

    def ends(self) -> None:
        os.killpg(self.run.pid, signal.SIGTERM)
        try:
            self.run.wait(60)
        except subprocess.TimeoutExpired:
            os.killpg(self.run.pid, signal.SIGKILL)
        if self.is_small:
            subprocess.run(["umount", "-l", str(self.data)], check=False)
        shutil.rmtree(self.data, ignore_errors=True)


def back_after(answers: Callable[[], str]) -> tuple[float, str]:
    """Seconds until it answers again, and how it did not. Parameters: answers, which says why not, or nothing."""
    begun, whys = time.monotonic(), Counter[str]()
    while why := answers():
        whys[why] += 1
        if time.monotonic() - begun > 120:
            break
        time.sleep(0.05)
    return time.monotonic() - begun, ", ".join(f"{count} {why}" for why, count in whys.items())


def noted(folder: Path, logs: str, numbers: list[str]) -> list[str]:
    """What servers noted of some requests. Parameters: logs, a pattern of their names."""
    every = [line for log in folder.glob(logs) for line in log.read_text(errors="replace").splitlines()]
    return [line for line in every if any(number in line for number in numbers)]


def parent_of(pid: int) -> int:
    return int(Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[1])


def kill(served: Served, luck: random.Random) -> str:
    """Kill something; what it was."""
    what = luck.choices(
        ["server process", "server", "worker", "backend", "connections", "half a request"], [30, 6, 9, 10, 20, 25]
    )[0]
    try:
        if what == "half a request":
            with socket.create_connection(("127.0.0.1", int(served.address.rpartition(":")[2])), 2) as half:
                half.sendall(b"POST /api/visits HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 900\r\n\r\n{")
        elif what == "connections":
            with served.database() as there:
                there.execute(
                    "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
                    "WHERE datname = 'aquifer' AND pid <> pg_backend_pid()"
                )
        else:
            if what == "backend":
                every = served.backends()
            elif what == "worker":
                every = served.processes("procrastinate worker")
            else:
                every = served.processes("gunicorn --config")
                own = {pid for pid in every if parent_of(pid) not in every}
                every = [pid for pid in every if (pid in own) == (what == "server")]
            os.kill(luck.choice(every), signal.SIGKILL)
    except (OSError, IndexError, psycopg.Error):
        return f"{what} (was not there)"
    return what


def postmaster(served: Served) -> int:
    return int((served.data / "postgres" / "postmaster.pid").read_text().splitlines()[0])


def away(served: Served) -> None:
    """The database ends, and is started again by whoever looks after it."""
    os.kill(postmaster(served), signal.SIGQUIT)
    # Nobody starts it meanwhile: its folder is elsewhere.
    (served.data / "postgres").rename(served.data / "postgres-away")
    time.sleep(HARDSHIP_S)
    (served.data / "postgres-away").rename(served.data / "postgres")


def frozen(served: Served) -> None:
    """The database and all that serve somebody of it stand still."""
    every = [postmaster(served), *served.backends()]
    for pid in every:
        os.kill(pid, signal.SIGSTOP)
    time.sleep(HARDSHIP_S)
    for pid in every:
        os.kill(pid, signal.SIGCONT)


def without_room(served: Served) -> None:
    """The disk is full to the last byte."""
    left = shutil.disk_usage(served.data).free
    full = served.data / "full"
    subprocess.run(["fallocate", "-l", str(left), full], check=False, capture_output=True)
    if not full.exists() or shutil.disk_usage(served.data).free:
        with full.open("ab") as more:
            try:
                while True:
                    more.write(b"x" * (1 << 16))
                    more.flush()
            except OSError:
                pass
    time.sleep(HARDSHIP_S)
    full.unlink()


HARDSHIPS = {"database away": away, "database frozen": frozen, "disk full": without_room}
HARDSHIP_S = 30.0


def checked(served: Served, told: Told) -> dict[str, Any]:
    """What the database has of all that was acknowledged, and when the last job ended."""
    begun = time.monotonic()
    unended: Any = "?"
    while time.monotonic() - begun < ENDED_S + 30:
        with served.database() as there:
            queries = (
                "SELECT count(*) FROM rounds_run WHERE state IN ('waiting', 'working')",
                "SELECT count(*) FROM imports_importrun WHERE state IN ('checking', 'applying')",
                "SELECT count(*) FROM full_export_basefile WHERE state = 'writing'",
                "SELECT count(*) FROM procrastinate_jobs WHERE status = 'doing' AND task_name NOT LIKE '%.revive'",
            )
            unended = sum(there.execute(query).fetchone()[0] for query in queries)  # type: ignore[index]
        if not unended:
            break
        time.sleep(1)
    ended_s = time.monotonic() - begun
    with served.database() as there:

        def column(query: str, *values: object) -> list[Any]:
            return [row[0] for row in there.execute(query, values).fetchall()]

        taps = Counter(map(str, column("SELECT client_id FROM visits_event")))
        visits = Counter(map(str, column("SELECT client_id FROM visits_visit")))
        findings = column("SELECT count(*) FROM visits_finding f JOIN visits_visit v ON v.id = f.visit_id "
                          "WHERE v.client_id = ANY(%s::uuid[]) GROUP BY v.id", list(told.visits))  # fmt: skip
        photographs = there.execute("SELECT client_id, digest FROM attachments_attachment").fetchall()
        states = dict(there.execute("SELECT id, state FROM imports_importrun").fetchall())
        codes = Counter(column("SELECT code FROM customers_customer WHERE code LIKE 'K%%'"))
        apart = column("SELECT count(*) FROM visits_eventapart")[0]
        jobs = dict(there.execute("SELECT status, count(*) FROM procrastinate_jobs GROUP BY 1").fetchall())
    kept = {str(client_id): digest for client_id, digest in photographs if client_id}
    broken = [
        one for one in told.photographs
        if (path := served.data / "media" / "attachments" / kept.get(one, "--")[:2] / f"{kept.get(one)}.jpg")
        and (not path.exists() or hashlib.sha256(path.read_bytes()).hexdigest() != kept[one])
    ]  # fmt: skip
    applied = [code for run, every in told.imports.items() if states.get(run) == "applied" for code in every]
    return {
        "taps": (len(told.taps), sum(not taps[one] for one in told.taps)),
        "visits": (len(told.visits), sum(not visits[one] for one in told.visits)),
        "doubled": sum(n > 1 for n in (taps + visits + codes).values()) + sum(count > 1 for count in findings),
        "photographs": (len(told.photographs), len(broken)),
        "imported rows": (len(applied), sum(not codes[one] for one in applied)),
        "imports": Counter(states.get(run, "lost") for run in told.imports),
        "apart": apart, "unended": unended, "ended_s": ended_s, "jobs": jobs,
    }  # fmt: skip


def main() -> int:
    words = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    words.add_argument("--kills", type=int, default=1000)
    words.add_argument("--hardships", action="store_true", help="besides: the database away, frozen, the disk full")
    words.add_argument("--seed", type=int, default=1)
    words.add_argument("--port", type=int, default=8150)
    words.add_argument("--record", type=Path, help="where the result is written")
    asked = words.parse_args()
    luck, told, over = random.Random(asked.seed), Told(), threading.Event()
    served = Served(asked.port, asked.hardships)
    # Whoever works here shares the machine with what they work on.
    os.nice(5)
    try:
        with served.database() as there:
            rows = there.execute("SELECT id FROM heaters_heater WHERE archived_at IS NULL ORDER BY id").fetchall()
        heaters = [row[0] for row in rows]
        clients = [Client(served.address, name, told, over, random.Random(f"{asked.seed} {name} {number}"))
                   for number, name in enumerate(["technician", "technician", "lead", "planner", "lead"])]  # fmt: skip
        threads = []
        for number, client in enumerate(clients):
            client.signs_in()
            mine = heaters[number::3]
            does = [client.visits] * 3 + [client.plans, client.takes_out]
            threads.append(threading.Thread(target=does[number], args=(mine * 50,) if number < 3 else ()))
            threads[-1].start()
        killed, gone, begun = Counter[str](), [], time.monotonic()
        for number in range(asked.kills):
            killed[what := kill(served, luck)] += 1
            away_s, how = back_after(served.answers)
            gone.append((away_s, what))
            if away_s > BACK_S / 2:
                sys.stdout.write(f"{datetime.datetime.now():%H:%M:%S} {what}: away {away_s:.1f} s ({how})\n")
            time.sleep(EVERY_S * luck.uniform(0.4, 1.6))
            if number % 50 == 49:
                sys.stdout.write(f"{number + 1} kills in {time.monotonic() - begun:.0f} s, {len(told.taps)} taps, "
                                 f"{len(told.visits)} visits, longest away {max(gone)[0]:.1f} s\n")  # fmt: skip
                sys.stdout.flush()
        for name, hardship in HARDSHIPS.items() if asked.hardships else ():
            hardship(served)
            killed[name] += 1
            gone.append((back_after(served.answers)[0], name))
            time.sleep(3 * EVERY_S)
        over.set()
        for thread in threads:
            thread.join(60)
        found = checked(served, told)
        for line in noted(served.data, "server*.log", told.numbers):
            sys.stdout.write(f"{line}\n")
    finally:
        served.ends()
    return told_of(asked, killed, gone, found, told)


def told_of(
    asked: argparse.Namespace, killed: "Counter[str]", gone: list[tuple[float, str]], found: dict[str, Any], told: Told
) -> int:
    """Say it, and write it down; 0 if all is as it is to be."""
    back = [seconds for seconds, _ in gone]
    longest = ", ".join(f"{seconds:.1f} s ({what})" for seconds, what in sorted(gone, reverse=True)[:5])
    lost = {name: found[name][1] for name in ("taps", "visits", "photographs", "imported rows")}
    good = (
        not any(lost.values()) and not found["doubled"] and not found["unended"] and max(back) <= BACK_S
        and found["ended_s"] <= ENDED_S and not told.odd and not found["apart"]
    )  # fmt: skip
    lines = [
        f"{datetime.date.today():%d %B %Y}, seed {asked.seed}: {sum(killed.values())} kills and cuts "
        f"({', '.join(f'{count} {what}' for what, count in killed.most_common())}).",
        "Acknowledged, and lost of them: " + ", ".join(f"{found[name][0]} {name}, {lost[name]}" for name in lost) + ".",
        f"There twice: {found['doubled']}. Set apart: {found['apart']}. Lists: "
        f"{', '.join(f'{count} {state}' for state, count in found['imports'].items())}. Plans asked for: "
        f"{len(told.runs)}; whole bases: {len(told.bases)}.",
        f"Jobs that had not ended: {found['unended']}, the last ended after {found['ended_s']:.0f} s. "
        f"Pages back after {sorted(back)[len(back) // 2]:.2f} s in the middle; the longest: {longest}.",
        f"Answers that nobody should have got: {sum(told.odd.values())}"
        + "".join(f"; {count} times {what}" for what, count in told.odd.most_common(6)) + ".",
    ]  # fmt: skip
    sys.stdout.write("\n".join([*lines, json.dumps(found["jobs"]), ""]))
    if asked.record:
        asked.record.write_text(
            "# Killed, and what was left\n\nEverybody works while processes are killed and ways are cut "
            "(`scripts/kills.py`).\n\n" + "\n\n".join(lines) + "\n"
        )
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())

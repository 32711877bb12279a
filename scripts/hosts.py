"""Several machines: two servers, three workers, a database and the one that follows it, nginx before all. People work
while machines are cut off, killed and fail: is what was acknowledged there once, and is it back within half a minute?

    python scripts/hosts.py [--minutes N] [--seed N] [--record docs/hosts.md]

Each machine is a network namespace of its own, on a switch that is one, too; needs the rights of root and Debian's
nginx, haproxy, pgbouncer, patroni and etcd, set up by the very files in deploy/. Nothing leaves this machine.
"""

import argparse
import ctypes
import datetime
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import psycopg
import requests
from kills import Client, Told, back_after, checked, noted

ROOT = Path(__file__).parents[1]
NET = "aqnet"
NETWORK = "10.231.0.0/24"
HOSTS = {"web": 1, "app1": 11, "app2": 12, "work": 13, "db1": 21, "db2": 22}
ADDRESS = {name: f"10.231.0.{number}" for name, number in HOSTS.items()}
ETCD = ("app1", "app2", "work")
"""Three, so that two of them can settle who is the database; none beside one, so that both are not lost together."""
SERVERS, WORKERS, DATABASES = ("app1", "app2"), ("app1", "app2", "work"), ("db1", "db2")
BACK_S, ENDED_S = 30.0, 120.0
EVERY_S = 12.0
"""Between a system that is back and the next thing that happens to it, on average."""
CUT_S = 15.0
CLONE_NEWNET = 0x40000000
PASSWORD = "only-in-here"  # noqa: S105


def run(*words: str | Path, **more: Any) -> str:
    """A command's output. Raises: SystemExit with its last words if it fails."""
    done = subprocess.run([str(word) for word in words], capture_output=True, text=True, check=False, **more)
    if done.returncode:
        raise SystemExit(f"{' '.join(map(str, words))[:200]} ended with {done.returncode}: {done.stderr[-600:]}")
    return done.stdout


def namespace(host: str) -> str:
    return f"aq-{host}"


def goes_to(host: str) -> None:
    """This process, and the threads that it starts, stand on that machine from now on."""
    with open(f"/run/netns/{namespace(host)}") as there:
        if ctypes.CDLL(None, use_errno=True).setns(there.fileno(), CLONE_NEWNET):
            raise SystemExit(f"setns: {os.strerror(ctypes.get_errno())}")


class Process:
    """Something that is kept going on a machine, as systemd does."""

    def __init__(self, host: str, name: str, words: list[str], log: Path, by: str, env: dict[str, str]) -> None:
        self.host, self.name, self.words, self.log, self.env = host, name, words, log, env
        self.by = ["runuser", "-u", by, "--"] if by != "root" else []
        self.wanted, self.lock = True, threading.Lock()
        self.start()

    def start(self) -> None:
        self.child = subprocess.Popen(
            ["ip", "netns", "exec", namespace(self.host), *self.by, *self.words], env={**os.environ, **self.env},
            stdout=self.log.open("a"), stderr=subprocess.STDOUT, start_new_session=True, cwd="/",
        )  # fmt: skip

    def kept(self) -> None:
        with self.lock:
            if self.wanted and self.child.poll() is not None:
                self.start()

    def kill(self, is_back: bool = True) -> None:
        """At once, with all that it started."""
        with self.lock:
            self.wanted = is_back
            every = run("ps", "-e", "-o", "pid=,sid=").splitlines()
            for pid, sid in (line.split() for line in every):
                if int(sid) == self.child.pid:
                    try:
                        os.kill(int(pid), signal.SIGKILL)
                    except ProcessLookupError:
                        continue
            self.child.wait()

    def again(self) -> None:
        with self.lock:
            self.wanted = True
            if self.child.poll() is not None:
                self.start()


class Machines:
    """All of them; what they write lies in a folder that is dropped afterwards, media in one that all share."""

    def __init__(self) -> None:
        self.data = Path(tempfile.mkdtemp(prefix="aquifer-hosts-", dir="/var/tmp"))
        self.data.chmod(0o755)
        self.processes: dict[tuple[str, str], Process] = {}
        self.over = threading.Event()
        self.is_cut: set[str] = set()

    # The network

    def network(self) -> None:
        if there := set(run("ip", "netns", "list").split()) & {NET, *map(namespace, HOSTS)}:
            raise SystemExit(f"Another drill is on, or left its machines: {', '.join(sorted(there))}.")
        run("ip", "netns", "add", NET)
        run("ip", "-n", NET, "link", "add", "switch", "type", "bridge")
        run("ip", "-n", NET, "link", "set", "switch", "up")
        for host, address in ADDRESS.items():
            ns, port = namespace(host), f"to-{host}"
            run("ip", "netns", "add", ns)
            run("ip", "-n", ns, "link", "add", "eth0", "type", "veth", "peer", "name", port, "netns", NET)
            run("ip", "-n", NET, "link", "set", port, "master", "switch", "up")
            run("ip", "-n", ns, "addr", "add", f"{address}/24", "dev", "eth0")
            for link in ("eth0", "lo"):
                run("ip", "-n", ns, "link", "set", link, "up")

    def cut(self, host: str, on: bool = True) -> None:
        """Pull its cable, or put it back."""
        run("ip", "-n", NET, "link", "set", f"to-{host}", "down" if on else "up")
        (self.is_cut.add if on else self.is_cut.discard)(host)

    # What runs on them

    def keep(self, host: str, name: str, *words: str | Path, by: str = "root", **env: str) -> None:
        log = self.data / f"{host}-{name}.log"
        self.processes[host, name] = Process(host, name, [str(word) for word in words], log, by, env)

    def keeps(self) -> None:
        while not self.over.wait(1):
            for process in list(self.processes.values()):
                process.kept()

    def file(self, host: str, name: str, **filled: str) -> Path:
        """A file of deploy/ as it stands on a machine."""
        text = (ROOT / "deploy" / name).read_text()
        for word, value in filled.items():
            text = text.replace(word, value)
        folder = self.data / host
        folder.mkdir(exist_ok=True)
        (folder / name).write_text(text)
        return folder / name

    def databases(self) -> None:
        cluster = ",".join(f"{host}=http://{ADDRESS[host]}:2380" for host in ETCD)
        for host in ETCD:
            at = f"http://{ADDRESS[host]}"
            folder = self.data / f"etcd-{host}"
            folder.mkdir(mode=0o700)
            self.keep(
                host, "etcd", "etcd", "--name", host, "--data-dir", folder,
                "--listen-peer-urls", f"{at}:2380", "--initial-advertise-peer-urls", f"{at}:2380",
                "--listen-client-urls", f"{at}:2379", "--advertise-client-urls", f"{at}:2379",
                "--initial-cluster", cluster, "--initial-cluster-token", "aquifer", "--unsafe-no-fsync",
            )  # fmt: skip
        for host in DATABASES:
            folder = self.data / host
            folder.mkdir(mode=0o755)
            users = folder / "userlist.txt"
            told = self.file(
                host, "patroni.yml", NAME=host, ADDRESS=ADDRESS[host], NETWORK=NETWORK, FOLDER=str(folder),
                PASSWORD=PASSWORD, ETCD="\n".join(["", *(f"    - {ADDRESS[one]}:2379" for one in ETCD)]),
            )  # fmt: skip
            users.write_text(f'"aquifer" "{PASSWORD}"\n')
            pooler = self.file(host, "pgbouncer.ini", **{"/etc/pgbouncer/userlist.txt": str(users)})
            pooler.write_text(pooler.read_text() + f"unix_socket_dir =\nlogfile = {folder}/pgbouncer.txt\n")
            for path in (folder, *folder.iterdir()):
                shutil.chown(path, "postgres")
            self.keep(host, "patroni", "patroni", told, by="postgres")
            self.keep(host, "pgbouncer", "/usr/sbin/pgbouncer", pooler, by="postgres")
        until = time.monotonic() + 120
        while sorted(self.roles().values()) != ["primary", "replica"]:
            if time.monotonic() > until:
                raise SystemExit(f"No database came up: {self.tails('patroni')}")
            time.sleep(0.5)
        with self.asks("postgres", "postgres") as there:
            there.execute(f"CREATE ROLE aquifer LOGIN CREATEDB PASSWORD '{PASSWORD}'")
            # What a pooler cannot pass on with a connection: docs/operations.md.
            for time_out in ("statement_timeout = '30s'", "lock_timeout = '10s'",
                             "idle_in_transaction_session_timeout = '60s'"):  # fmt: skip
                there.execute(f"ALTER ROLE aquifer SET {time_out}")
            there.execute("CREATE DATABASE aquifer OWNER aquifer")

    def roles(self) -> dict[str, str]:
        """Which of the databases says that it is what."""
        found = {}
        for host in DATABASES:
            for role in ("primary", "replica"):
                try:
                    if requests.get(f"http://{ADDRESS[host]}:8008/{role}", timeout=1).status_code == 200:
                        found[host] = role
                except requests.RequestException:
                    break
        return found

    def leader(self) -> str:
        return next((host for host, role in self.roles().items() if role == "primary"), "")

    def asks(self, user: str = "aquifer", name: str = "aquifer") -> "psycopg.Connection[Any]":
        return psycopg.connect(
            host=",".join(ADDRESS[host] for host in DATABASES), port=5432, user=user, password=PASSWORD, dbname=name,
            autocommit=True, connect_timeout=3, target_session_attrs="read-write",
        )  # fmt: skip

    database = asks

    def until_led(self, host: str) -> None:
        """Until the database can be reached from that machine."""
        isready = next(Path("/usr/lib/postgresql").glob("*/bin/pg_isready"))
        until = time.monotonic() + 60
        while subprocess.run(["ip", "netns", "exec", namespace(host), isready, "-q", "-h", "127.0.0.1", "-p", "5002"],
                             check=False).returncode:  # fmt: skip
            if time.monotonic() > until:
                raise SystemExit(f"{host} does not reach the database: {self.tails('haproxy')}")
            time.sleep(0.5)

    def applications(self) -> None:
        own = {
            "AQUIFER_DATA": str(self.data), "AQUIFER_DB_HOST": "127.0.0.1", "AQUIFER_DB_PASSWORD": PASSWORD,
            "AQUIFER_SECRET_KEY": "of-this-drill", "AQUIFER_DEMO": "1", "PYTHONPATH": str(ROOT / "src"),
            "AQUIFER_HOSTS": f"{ADDRESS['web']},127.0.0.1", "AQUIFER_ORIGINS": self.address, "AQUIFER_HTTPS": "1",
            "AQUIFER_PROXIES": ADDRESS["web"], "AQUIFER_PUBLIC_ADDRESS": self.address,
        }  # fmt: skip
        works = {**own, "AQUIFER_DB_PORT": "5002"}
        serves = {
            **own, "AQUIFER_DB_PORT": "5000", "AQUIFER_DB_POOLED": "1", "AQUIFER_DB_STANDBY_HOST": "127.0.0.1",
            "AQUIFER_DB_STANDBY_PORT": "5001", "AQUIFER_SERVERS": "1",
        }  # fmt: skip
        python = Path(sys.executable).parent
        for host in dict.fromkeys((*SERVERS, *WORKERS)):
            told = self.file(host, "haproxy.cfg", DB1=ADDRESS["db1"], DB2=ADDRESS["db2"])
            self.keep(host, "haproxy", "haproxy", "-q", "-db", "-f", told)
        for host in dict.fromkeys((*SERVERS, *WORKERS)):
            self.until_led(host)
        for words in (["prepare", "--demo"], ["collectstatic", "--noinput", "-v0"]):
            run("ip", "netns", "exec", namespace("app1"), python / "python", "-m", "aquifer", *words,
                env={**os.environ, **works}, cwd="/")  # fmt: skip
        for host in WORKERS:
            self.keep(host, "worker", "nice", "-n", "10", python / "python", "-m", "aquifer", "procrastinate",
                      "worker", "--concurrency", "1", **works)  # fmt: skip
        for host in SERVERS:
            self.keep(host, "server", python / "gunicorn", "--config", "python:aquifer.serving", "aquifer.wsgi",
                      **serves, AQUIFER_BIND=f"{ADDRESS[host]}:8000")  # fmt: skip

    @property
    def address(self) -> str:
        return f"https://{ADDRESS['web']}"

    @property
    def certificate(self) -> Path:
        return self.data / "web" / "fullchain.pem"

    def web(self) -> None:
        folder = self.data / "web"
        folder.mkdir()
        run("openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=drill", "-addext",
            f"subjectAltName=IP:{ADDRESS['web']}", "-keyout", folder / "key.pem", "-out", self.certificate)  # fmt: skip
        servers = "\n    ".join(f"server {ADDRESS[host]}:8000 max_fails=1 fail_timeout=2s;" for host in SERVERS)
        site = self.file(
            "web", "nginx.conf",
            **{"server 127.0.0.1:8000 max_fails=1 fail_timeout=2s;": servers, "/etc/ssl/aquifer": str(folder),
               "care.example.com": ADDRESS["web"]},
        )  # fmt: skip
        whole = folder / "whole.conf"
        whole.write_text(
            f"pid {folder}/pid; error_log stderr; daemon off; events {{}}\nhttp {{ access_log off; "
            f"client_body_temp_path {folder}/t1; proxy_temp_path {folder}/t2; fastcgi_temp_path {folder}/t3; "
            f"uwsgi_temp_path {folder}/t4; scgi_temp_path {folder}/t5; include {site}; }}\n"
        )
        self.keep("web", "nginx", "nginx", "-c", whole)

    def begins(self) -> None:
        self.network()
        goes_to("web")
        threading.Thread(target=self.keeps, daemon=True).start()
        self.databases()
        self.web()
        self.applications()
        self.somebody = self.client("planner", Told(), threading.Event(), random.Random(0))
        until = time.monotonic() + 60
        while "sessionid" not in self.somebody.http.cookies:
            if time.monotonic() > until:
                raise SystemExit(f"It did not start: {self.tails('server')}")
            self.somebody.signs_in()
            time.sleep(6)

    def tails(self, name: str) -> str:
        return "\n".join(log.read_text()[-700:] for log in self.data.glob(f"*-{name}.log"))

    def client(self, name: str, told: Told, over: threading.Event, luck: random.Random) -> Client:
        """Somebody who speaks to the web server as browsers do."""
        one = Client(self.address, name, told, over, luck)
        # A bundle named in the environment would be asked in its place.
        one.http.trust_env, one.http.verify = False, str(self.certificate)
        one.http.headers["Referer"] = f"{self.address}/"
        return one

    def answers(self) -> str:
        """Why somebody who is signed in gets no page, or cannot write; empty where they can."""
        try:
            told = self.somebody.http.get(f"{self.address}/api/forecasts/pending", timeout=4)
        except requests.RequestException as error:
            return type(error).__name__
        if told.status_code != 200:
            return str(told.status_code)
        try:
            with self.asks() as there:
                there.execute("CREATE TABLE IF NOT EXISTS drill (at timestamptz)")
                there.execute("SET statement_timeout = '4s'")
                there.execute("INSERT INTO drill VALUES (now())")
        except psycopg.Error as error:
            return type(error).__name__
        return ""

    def ends(self) -> None:
        self.over.set()
        for process in self.processes.values():
            process.kill(is_back=False)
        for host in DATABASES:
            # The server leaves Patroni's session.
            subprocess.run(["pkill", "-9", "-f", f"{self.data}/{host}/data"], check=False)
        for host in (*map(namespace, HOSTS), NET):
            subprocess.run(["ip", "netns", "del", host], check=False, capture_output=True)
        shutil.rmtree(self.data, ignore_errors=True)


# What happens to them


def server_killed(at: Machines, luck: random.Random) -> str:
    host = luck.choice(SERVERS)
    at.processes[host, "server"].kill()
    return "server killed"


def worker_killed(at: Machines, luck: random.Random) -> str:
    at.processes[luck.choice(WORKERS), "worker"].kill()
    return "worker killed"


def _cut_for_a_while(at: Machines, host: str) -> None:
    at.cut(host)
    timer = threading.Timer(CUT_S, at.cut, (host, False))
    timer.start()


def server_cut(at: Machines, luck: random.Random) -> str:
    _cut_for_a_while(at, luck.choice(SERVERS))
    return "server cut off"


def worker_cut(at: Machines, luck: random.Random) -> str:
    _cut_for_a_while(at, "work")
    return "worker cut off"


def follower_cut(at: Machines, luck: random.Random) -> str:
    _cut_for_a_while(at, next(host for host in DATABASES if host != at.leader()))
    return "follower cut off"


def pooler_killed(at: Machines, luck: random.Random) -> str:
    at.processes[at.leader(), "pgbouncer"].kill()
    return "pooler killed"


def database_killed(at: Machines, luck: random.Random) -> str:
    """The machine is gone with all that ran on it, and comes back after a while."""
    host = at.leader()
    at.cut(host)
    for (where, _), process in at.processes.items():
        if where == host:
            process.kill(is_back=False)
    subprocess.run(["pkill", "-9", "-f", f"{at.data}/{host}/data"], check=False)

    def comes_back() -> None:
        at.cut(host, False)
        for (where, _), process in at.processes.items():
            if where == host:
                process.again()

    threading.Timer(40, comes_back).start()
    return "database's machine lost"


def database_cut(at: Machines, luck: random.Random) -> str:
    """It runs on, and nobody hears of it: when it is heard of again, another has its place."""
    host = at.leader()
    at.cut(host)
    threading.Timer(40, at.cut, (host, False)).start()
    return "database cut off"


def database_ends(at: Machines, luck: random.Random) -> str:
    """The server itself, not its machine."""
    subprocess.run(["pkill", "-9", "-f", f"{at.data}/{at.leader()}/data"], check=False)
    return "database killed"


HAPPENS: dict[Callable[[Machines, random.Random], str], int] = {
    server_killed: 4, worker_killed: 3, server_cut: 3, worker_cut: 2, follower_cut: 2, pooler_killed: 2,
    database_killed: 1, database_cut: 1, database_ends: 2,
}  # fmt: skip
FAILOVERS = (database_killed, database_cut, database_ends)


def whole(at: Machines) -> bool:
    """Whether both databases are there, the one with all that the other has, and all cables."""
    roles = at.roles()
    if at.is_cut or sorted(roles.values()) != ["primary", "replica"]:
        return False
    follower = next(host for host, role in roles.items() if role == "replica")
    try:
        return requests.get(f"http://{ADDRESS[follower]}:8008/synchronous", timeout=1).status_code == 200
    except requests.RequestException:
        return False


def drill(at: Machines, minutes: float, luck: random.Random) -> list[tuple[float, str]]:
    """What happened, and after how many seconds all was back; each failover at least once."""
    begun, gone = time.monotonic(), []
    first = luck.sample([*HAPPENS], len(HAPPENS))
    while first or time.monotonic() - begun < 60 * minutes:
        happens = first.pop() if first else luck.choices([*HAPPENS], [*HAPPENS.values()])[0]
        until = time.monotonic() + 180
        while not whole(at):
            # Two things at once that take the database away are more than two databases stand.
            if time.monotonic() > until:
                raise SystemExit(f"It does not become whole: {at.roles()}, cut {at.is_cut}: {at.tails('patroni')}")
            time.sleep(1)
        before = at.leader()
        what = happens(at, luck)
        time.sleep(0.5)
        took, how = back_after(at.answers)
        took += 0.5
        gone.append((took, what))
        after = at.leader()
        moved = f"; {before} gave way to {after}" if before != after else ""
        sys.stdout.write(f"{datetime.datetime.now():%H:%M:%S} {what}: back after {took:.1f} s {how}{moved}\n")
        sys.stdout.flush()
        time.sleep(EVERY_S * luck.uniform(0.4, 1.6))
    while not whole(at):
        time.sleep(1)
    return gone


def works(at: Machines, seed: int, told: Told, over: threading.Event) -> list[threading.Thread]:
    with at.asks() as there:
        rows = there.execute("SELECT id FROM heaters_heater WHERE archived_at IS NULL ORDER BY id").fetchall()
    heaters = [row[0] for row in rows]
    threads = []
    for number, name in enumerate(["technician", "technician", "lead", "planner", "lead"]):
        client = at.client(name, told, over, random.Random(f"{seed} {name} {number}"))
        client.signs_in()
        does = [client.visits] * 3 + [client.plans, client.takes_out]
        args = (heaters[number::3] * 50,) if number < 3 else ()
        threads.append(threading.Thread(target=does[number], args=args, daemon=True))
        threads[-1].start()
    reader = at.client("planner", told, over, random.Random(f"{seed} reads"))
    reader.signs_in()
    threads.append(threading.Thread(target=reads, args=(reader, over), daemon=True))
    threads[-1].start()
    return threads


def reads(client: Client, over: threading.Event) -> None:
    """The pages that a copy of the database answers."""
    while not over.is_set():
        for path in ("outlook", "outlook/weeks", "review/forecasts", "review/replacements", "builds"):
            client.asks("get", path)
        over.wait(1)


def main() -> int:
    words = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    words.add_argument("--minutes", type=float, default=10)
    words.add_argument("--seed", type=int, default=1)
    words.add_argument("--record", type=Path, help="where the result is written")
    asked = words.parse_args()
    if os.geteuid():
        raise SystemExit("Machines of its own need the rights of root.")
    # However it is ended, what it made goes.
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(1))
    at, told, over = Machines(), Told(), threading.Event()
    try:
        at.begins()
        threads = works(at, asked.seed, told, over)
        gone = drill(at, asked.minutes, random.Random(asked.seed))
        over.set()
        for thread in threads:
            thread.join(60)
        found = checked(at, told)
        for line in noted(at.data, "app*-server.log", told.numbers):
            sys.stdout.write(f"{line}\n")
        with at.asks() as there:
            for row in there.execute("SELECT task_name, count(*) FROM procrastinate_jobs WHERE status = 'failed' "
                                     "GROUP BY 1").fetchall():  # fmt: skip
                sys.stdout.write(f"failed: {row}\n")
        with at.asks("postgres", "postgres") as there:
            read = there.execute("SELECT count(*) FROM pg_stat_replication WHERE sync_state = 'sync'").fetchone()
    finally:
        over.set()
        at.ends()
    return told_of(asked, gone, found, told, bool(read and read[0]))


def told_of(
    asked: argparse.Namespace, gone: list[tuple[float, str]], found: dict[str, Any], told: Told, follows: bool
) -> int:
    """Say it, and write it down; 0 if all is as it is to be."""
    lost = {name: found[name][1] for name in ("taps", "visits", "photographs", "imported rows")}
    longest = {what: max(took for took, one in gone if one == what) for _, what in gone}
    happened = Counter(what for _, what in gone)
    good = (
        not any(lost.values()) and not found["doubled"] and not found["unended"] and max(longest.values()) <= BACK_S
        and found["ended_s"] <= ENDED_S and not told.odd and not found["apart"] and follows
    )  # fmt: skip
    lines = [
        f"{datetime.date.today():%d %B %Y}, seed {asked.seed}: {len(gone)} failures in {asked.minutes:.0f} minutes.",
        "\n".join(
            f"- {what}, {happened[what]} times: back after {seconds:.1f} s at the longest"
            for what, seconds in sorted(longest.items(), key=lambda one: -one[1])
        ),
        "Acknowledged, and lost of them: " + ", ".join(f"{found[name][0]} {name}, {lost[name]}" for name in lost) + ".",
        f"There twice: {found['doubled']}. Set apart: {found['apart']}. Lists: "
        f"{', '.join(f'{count} {state}' for state, count in found['imports'].items())}. Plans asked for: "
        f"{len(told.runs)}; whole bases: {len(told.bases)}. Jobs that had not ended: {found['unended']}, the last "
        f"ended after {found['ended_s']:.0f} s. At the end the other database follows: {'yes' if follows else 'no'}.",
        f"Answers that nobody should have got: {sum(told.odd.values())}"
        + "".join(f"; {count} times {what}" for what, count in told.odd.most_common(6)) + ".",
    ]  # fmt: skip
    sys.stdout.write("\n".join([*lines, json.dumps(found["jobs"]), ""]))
    if asked.record:
        asked.record.write_text(
            "# Several machines, and what became of them\n\nTwo servers, three workers, a database and the one that "
            "follows, nginx before all, each a machine of its own (`scripts/hosts.py`).\n\n"
            + "\n\n".join(lines) + "\n"
        )  # fmt: skip
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())

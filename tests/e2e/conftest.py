"""A real browser against the real server and database. Debian's Chromium; nothing is fetched."""

import fcntl
import os
import re
import shutil
import subprocess
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

# Playwright's own loop runs in this thread; Django would refuse its queries there.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
CHROMIUM = shutil.which("chromium-headless-shell") or "/usr/bin/chromium-headless-shell"
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]
MOMENT_S = 0.05
PATIENCE_S = 60
"""What anything on a page may take to come: a slow machine with two other busy processes has been seen to need ten."""
AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        expect.set_options(timeout=PATIENCE_S * 1000)
        yield browser
        browser.close()


@pytest.fixture(scope="session")
def loaded(tmp_path_factory) -> Path:
    """Where what the demo district comes to is kept: computed once for all workers, put into the database before each
    test."""
    root = tmp_path_factory.getbasetemp()
    # A worker's folder lies in the run's.
    folder = (root.parent if "PYTEST_XDIST_WORKER" in os.environ else root) / "district"
    folder.mkdir(exist_ok=True)
    return folder


@pytest.fixture
def district(transactional_db, settings, loaded):
    """The demo district, small, with its demo sign-ins."""
    settings.DEMO = True
    settings.MEDIA_ROOT = loaded / "media"
    from django.core.management import call_command

    words = {"folder": loaded, "sites": 60, "heaters": 80, "verbosity": 0, "unplanned": True}
    once(loaded / "district.sql", lambda: call_command("load_demo", **words))


def once(kept: Path, make: Callable[[], object]) -> None:
    """What ``make`` writes into the database, made once for all workers and put there as it came to be otherwise."""
    with (kept.parent / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not kept.exists():
            make()
            keep(kept)
            return
    for left in reversed(range(3)):
        try:
            by_postgres("psql", "--quiet", "--set=ON_ERROR_STOP=1", "--output=/dev/null", f"--file={kept}")
            return
        except subprocess.CalledProcessError:
            # A request of the page before was still at a table that is emptied: it is answered, then there is none.
            if not left:
                raise
            time.sleep(1)


def keep(kept: Path) -> None:
    """Keep the database as SQL that puts all of it into an emptied one."""
    # What emptying a database leaves in it is not put there again.
    stays = [
        f"--exclude-table={name}*"
        for name in ("django_content_type", "auth_permission", "django_migrations", "procrastinate")
    ]
    written = kept.with_suffix(".written")
    by_postgres("pg_dump", "--data-only", "--disable-triggers", *stays, f"--file={written}")
    # A request of the test before may have come in while the database was emptied.
    dumped = written.read_text()
    tables = ", ".join(re.findall(r"^COPY (public\.\w+)", dumped, re.MULTILINE))
    written.write_text(f"TRUNCATE {tables} CASCADE;\n{dumped}")
    written.rename(kept)


def by_postgres(program: str, *words: str) -> None:
    """Run a program of PostgreSQL's on the test's database."""
    from django.db import connection

    told = connection.settings_dict
    where = {"PGHOST": told["HOST"], "PGPORT": str(told["PORT"]), "PGUSER": told["USER"], "PGDATABASE": told["NAME"]}
    subprocess.run([program, *words], env={**os.environ, **where, "PGPASSWORD": told["PASSWORD"]}, check=True)


def settled(page: Page) -> Page:
    """Wait until a page shows what it fetched: nothing is asked for, and what came is drawn."""
    until = time.monotonic() + PATIENCE_S
    while not page.evaluate(SETTLED):
        assert time.monotonic() < until, f"{page.url} is still fetching"
    return page


def comes_true(page: Page, told: str, of: str) -> None:
    """Wait until a page says so of something, asked again and again: the page's policy refuses a function that waits
    in it, unless it is true at once."""
    until = time.monotonic() + PATIENCE_S
    while not page.evaluate(told, of):
        assert time.monotonic() < until, f"{page.url}: {told} of {of!r} does not come true"
        time.sleep(MOMENT_S)


COUNTING = """(() => {
  const fetched = window.fetch
  window.asked = 0
  window.fetch = (...what) => {
    window.asked += 1
    return fetched(...what).finally(() => setTimeout(() => (window.asked -= 1)))
  }
})()"""
"""In every page of a person: how many requests wait for their answer."""
SETTLED = """() => new Promise((done) => {
  const is = () => document.readyState === 'complete' && !window.asked
    && document.querySelector('h1, h2, button')
    && ![...document.querySelectorAll('[role=status]')].some((one) => one.textContent.startsWith('Fetching '))
  // An answer may lead to another question as it is drawn.
  const twice = (left) => requestAnimationFrame(() => setTimeout(() =>
    !is() ? done(false) : left ? twice(left - 1) : done(true)))
  twice(3)
})"""
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]


def violations(page: Page) -> list[str]:
    """What axe finds on a page as it stands, and of its colours on a dark ground."""
    settled(page)
    # Run in the page's own world by the debugger: the page's policy would refuse a script tag.
    page.evaluate(AXE.read_text())
    light = page.evaluate("rules => axe.run(document, {runOnly: rules, resultTypes: ['violations']})", RULES)[
        "violations"
    ]
    dark = page.evaluate(
        """async () => {
          document.documentElement.classList.add('dark')
          const found = await axe.run(document, {
            runOnly: {type: 'rule', values: ['color-contrast']}, resultTypes: ['violations'],
          })
          document.documentElement.classList.remove('dark')
          return found
        }"""
    )["violations"]
    told = [("", light), ("dark, ", dark)]
    return [f"{as_}{one['id']}: {node['html'][:160]}" for as_, found in told for one in found for node in one["nodes"]]


class Person:
    """Somebody signed in on a window of their own."""

    def __init__(self, context: BrowserContext, page: Page, server: str) -> None:
        self.context, self.page, self.server = context, page, server
        self.trouble: list[str] = []
        self.forgives: tuple[str, ...] = ("status of 4",)
        """What a browser may complain of in this test."""
        page.on("pageerror", lambda error: self.trouble.append(str(error)))
        page.on("console", lambda said: said.type == "error" and self.trouble.append(said.text))
        page.on("request", lambda request: self._check_origin(request.url))

    def _check_origin(self, url: str) -> None:
        if not url.startswith((self.server, "data:", "blob:")):
            self.trouble.append(f"asked elsewhere: {url}")

    def goes_to(self, path: str) -> Page:
        self.page.goto(self.server + path)
        return self.page


def session_of(role: str) -> str:
    """The cookie of a session of the demo's person of a role; the page for signing in has a test of its own."""
    from django.test import Client

    from aquifer.accounts.models import User

    client = Client()
    client.force_login(User.objects.get(username=role), backend="django.contrib.auth.backends.ModelBackend")
    return client.cookies["sessionid"].value


@pytest.fixture
def person(browser, district, live_server):
    """Somebody of a role, signed in, before an office screen or a phone that shows nothing yet."""
    opened: list[Person] = []

    def sign_in(role: str, phone: bool = False) -> Person:
        size = {"width": 390, "height": 844} if phone else {"width": 1280, "height": 800}
        # A phone keeps the application's files for where there is no signal; for an office window they are fetched anew
        # in each test otherwise, all of them, before the test gets its turn.
        keeps = "allow" if phone else "block"
        context = browser.new_context(viewport=size, has_touch=phone, reduced_motion="reduce", service_workers=keeps)
        context.add_init_script(COUNTING)
        context.add_cookies([{"name": "sessionid", "value": session_of(role), "url": live_server.url}])
        context.set_default_timeout(PATIENCE_S * 1000)
        one = Person(context, context.new_page(), live_server.url)
        opened.append(one)
        return one

    yield sign_in
    for one in opened:
        trouble = [text for text in one.trouble if not any(words in text for words in one.forgives)]
        one.context.close()
        assert not trouble, trouble
    # What was under way at the server when the windows closed ends before the database is emptied.
    time.sleep(0.3)


@pytest.fixture
def planned(district, loaded, monkeypatch):
    """The season planned with its first rounds; one of the visits, on a day to come."""
    from django.utils import timezone

    from aquifer.accounts.models import User
    from aquifer.rounds import rounds
    from aquifer.rounds import run as runs
    from aquifer.rounds.models import Appointment, RunKind

    monkeypatch.setattr(rounds, "SECONDS_A_WEEK", 0.3)
    today = timezone.localdate()
    asked = (RunKind.SEASON, today, 26, User.objects.get(username="planner"), today)
    once(loaded / "planned.sql", lambda: runs.work_on(runs.ask(*asked).pk))
    return Appointment.objects.filter(on__gt=today).order_by("on", "begins", "pk").first()


@pytest.fixture
def quick_looks(monkeypatch):
    """A look takes a moment: a test has nothing to see, and that a quick look proves nothing has tests of its own."""
    from aquifer.core.procedures import document, visit
    from aquifer.core.procedures.library import library

    monkeypatch.setattr(visit, "LOOK_S", MOMENT_S)
    monkeypatch.setitem(document.LIMITS, "look_s", MOMENT_S)
    took = [(step, step.least_s) for step in library().steps.values()]
    for step, _ in took:
        object.__setattr__(step, "least_s", MOMENT_S)
    yield
    for step, least_s in took:
        object.__setattr__(step, "least_s", least_s)

"""Led through a visit step by step, without a signal half-way: nothing is lost and everything is there once."""

import re
import time

import pytest
from playwright.sync_api import Locator, Page, expect

from aquifer.core.vocabulary import FlushMethod
from aquifer.heaters.models import Heater, LeftAs
from aquifer.open_ends.models import OpenEnd
from aquifer.visits.models import Finding, Visit
from tests.e2e.conftest import PATIENCE_S

pytestmark = [pytest.mark.e2e, pytest.mark.usefixtures("quick_looks")]
READ_MS = 260
"""A step that came this moment takes no tap: a finger that comes down twice has not read it."""
OFFLINE = ("status of 4", "ERR_INTERNET_DISCONNECTED", "Failed to fetch", "no-response")


def heater_of(kind: str) -> Heater:
    return Heater.objects.filter(kind=kind, installed_on__isnull=False).order_by("pk")[0]


def chosen(page: Page, *wanted: str) -> None:
    """Exactly these are to be done."""
    sheet = page.get_by_role("button", name=re.compile("^(Flush|Descale|Anode|Relief valve|Expansion tank)$"))
    expect(sheet.first).to_be_visible()
    for one in sheet.all():
        if (one.get_attribute("aria-pressed") == "true") != (one.inner_text().strip() in wanted):
            one.click()
            expect(page.get_by_role("button", name=re.compile("^Begin"))).to_be_enabled()
    page.get_by_role("button", name=re.compile("^Begin")).click()


def step(page: Page) -> str:
    card = page.locator("h2.leading-snug")
    return (card if card.count() else page.locator("h2")).first.inner_text()


def tapped(page: Page, button: Locator) -> None:
    """Tap to the next step; again where a look was too quick, for nobody looks faster than the guide believes."""
    stands = page.get_by_text(re.compile("^step .* of")).or_(page.get_by_text("all done", exact=True))
    before = stands.inner_text(), step(page)
    for _ in range(14):
        # A step is read before it is tapped away; a finger that comes down twice counts once.
        page.wait_for_timeout(READ_MS)
        button.click()
        for _ in range(60):
            page.wait_for_timeout(40)
            if (stands.inner_text(), step(page)) != before:
                return
    raise AssertionError(f"it stays at {step(page)!r}")


def skipped(page: Page) -> None:
    """Skip the step, with a reason where one is asked."""
    before = step(page)
    page.wait_for_timeout(READ_MS)
    page.get_by_role("button", name="Skip step").click()
    reason = page.get_by_role("button", name="Not needed here")
    if reason.count():
        reason.click()
    for _ in range(125):
        page.wait_for_timeout(40)
        if step(page) != before:
            return
    raise AssertionError(f"it stays at {before!r}")


def on(page: Page, until: str, most: int = 70) -> int:
    """Tap on until a step's words come, the ways out of what is not safe yet taken; how many taps."""
    for taps in range(most):
        if page.get_by_role("heading", name=re.compile(until)).count():
            page.wait_for_timeout(READ_MS)
            return taps
        done = page.get_by_role("button", name="Done", exact=True)
        if done.count() and done.is_enabled():
            tapped(page, done)
            continue
        way = page.get_by_role("alert").get_by_role("button").first
        if way.count():
            tapped(page, way)
        else:
            skipped(page)
    raise AssertionError(f"no step says {until!r}; the last is {step(page)!r}")


@pytest.fixture
def under_pressure(monkeypatch):
    """A flush that needs nobody to wait until a tank is empty."""
    monkeypatch.setattr("aquifer.visiting.guide._flush", lambda _: FlushMethod.PRESSURE_BLOWOUT)


def ready_for_no_signal(page: Page) -> None:
    """The device has the application's files."""
    page.evaluate("navigator.serviceWorker.ready")
    for _ in range(50):
        if page.evaluate("navigator.serviceWorker.controller !== null"):
            break
        page.wait_for_timeout(100)
    # The page that stands for every address is kept when it is opened under the worker.
    page.reload()
    expect(page.locator("h1").first).to_be_visible()
    page.wait_for_timeout(1500)


def recorded(heater: Heater) -> Visit:
    """The visit at the server, once it came."""
    until = time.monotonic() + PATIENCE_S
    while not (found := Visit.objects.filter(heater=heater, recorded_by__isnull=False)) and time.monotonic() < until:
        time.sleep(0.2)
    return found.get()


def saved(page: Page) -> None:
    page.get_by_role("link", name="Review and save").click()
    page.get_by_role("button", name="Save the visit").click()


def test_a_gas_tank_without_a_signal_half_way(person, under_pressure):
    heater, before = heater_of("gas_tank"), Finding.objects.count()
    technician = person("technician", phone=True)
    technician.forgives = OFFLINE
    page = technician.goes_to(f"/visit/{heater.pk}")
    ready_for_no_signal(page)
    chosen(page, "Flush", "Relief valve")
    taps = on(page, "Crack the drain")
    page.get_by_role("radio", name="full").click()
    technician.context.set_offline(True)
    taps += on(page, "Run it until the bucket")
    page.get_by_role("radio", name="moderate").click()
    page.get_by_role("radio", name="flakes").click()
    where = step(page)
    state = page.get_by_role("list", name="State of the heater").inner_text()
    # The device dies here and is started again, still without a signal.
    page.close()
    page = technician.context.new_page()
    page.goto(f"{technician.server}/visit/{heater.pk}")
    expect(page.get_by_role("heading", name=where)).to_be_visible()
    expect(page.get_by_role("radio", name="moderate")).to_be_checked()
    assert page.get_by_role("list", name="State of the heater").inner_text() == state
    taps += on(page, "Watch the outlet")
    page.get_by_role("radio", name=re.compile("Ran freely")).click()
    taps += on(page, "Everything is as it should be left")
    assert taps + 8 <= 45
    saved(page)
    expect(page.get_by_role("heading", name="Kept on this device")).to_be_visible()
    expect(page.get_by_role("status", name="Not yet sent")).to_contain_text(heater.tag)
    assert Finding.objects.count() == before
    technician.context.set_offline(False)
    expect(page.get_by_role("status", name="Not yet sent")).to_have_count(0)
    visit = Visit.objects.get(heater=heater, recorded_by__isnull=False)
    assert {one.task for one in visit.findings.all()} == {"flush", "relief_valve_exercise"}
    assert Finding.objects.count() == before + 2
    told = [one["step"] for one in visit.steps]
    assert told[0] == "arrival.air" and told[-1] == "hand_over.explain"
    assert not LeftAs.objects.filter(heater=heater).exists()


def test_an_electric_tank_whose_drain_is_blocked_is_left_running(person, under_pressure):
    heater = heater_of("electric_tank")
    technician = person("technician", phone=True)
    technician.forgives = OFFLINE
    page = technician.goes_to(f"/visit/{heater.pk}")
    ready_for_no_signal(page)
    chosen(page, "Flush")
    # Nobody needs a license to turn a breaker off.
    expect(page.get_by_text("license, which you do not hold")).to_have_count(0)
    on(page, "Crack the drain")
    technician.context.set_offline(True)
    page.get_by_role("radio", name="nothing").click()
    tapped(page, page.get_by_role("button", name="Not a drop: air or flake"))
    expect(page.get_by_role("heading", name=re.compile("no air, no flow"))).to_be_visible()
    tapped(page, page.get_by_role("button", name="Done", exact=True))
    # Who pushes back through the hose wants cooled water: not safe yet, with the way out as a button.
    expect(page.get_by_role("alert")).to_contain_text("Cool the tank first")
    expect(page.get_by_role("button", name="Not safe yet")).to_be_disabled()
    skipped(page)
    skipped(page)
    skipped(page)
    tapped(page, page.get_by_role("button", name="Done", exact=True))
    # Whether it runs is asked with a faucet open: shut, a free drain runs as little as a buried one.
    expect(page.get_by_role("heading", name="Faucet open, drain open: does it run now?")).to_be_visible()
    tapped(page, page.get_by_role("button", name="Nothing even so: leave it, it is buried"))
    on(page, "Everything is as it should be left")
    saved(page)
    expect(page.get_by_role("status", name="Not yet sent")).to_contain_text("kept on this device and not yet sent")
    technician.context.set_offline(False)
    expect(page.get_by_role("status", name="Not yet sent")).to_have_count(0)
    visit = recorded(heater)
    assert visit.findings.get().drain_flow == "none" and visit.ending == "buried_drain"
    assert [one["step"] for one in visit.steps if one["kind"] == "deviation"] == ["trial.crack", "blocked_drain.again"]
    assert OpenEnd.objects.filter(heater=heater, words__contains="buried").exists()


def test_a_tankless_heater_is_descaled_and_saved_twice_is_once(person):
    heater = heater_of("gas_tankless")
    technician = person("technician", phone=True)
    technician.forgives = OFFLINE
    page = technician.goes_to(f"/visit/{heater.pk}")
    ready_for_no_signal(page)
    chosen(page, "Descale")
    on(page, "Run the pump")
    technician.context.set_offline(True)
    expect(page.get_by_role("list", name="State of the heater")).to_contain_text("acid")
    page.get_by_role("radio", name="heavy").click()
    on(page, "Everything is as it should be left")
    page.get_by_role("link", name="Review and save").click()
    page.get_by_role("button", name="Save the visit").dblclick(force=True)
    expect(page.get_by_role("heading", name="Kept on this device")).to_be_visible()
    expect(page.get_by_role("status", name="Not yet sent")).to_contain_text("kept on this device and not yet sent")
    technician.context.set_offline(False)
    expect(page.get_by_role("status", name="Not yet sent")).to_have_count(0)
    assert Visit.objects.filter(heater=heater, recorded_by__isnull=False).count() == 1


def test_only_the_lead_overrides_and_says_why(person, under_pressure):
    heater = heater_of("gas_tank")
    lead = person("lead", phone=True)
    page = lead.goes_to(f"/visit/{heater.pk}")
    chosen(page, "Flush")
    on(page, "Screw on a hot-water hose")
    skipped(page)
    skipped(page)
    expect(page.get_by_role("alert")).to_contain_text("Hose on first")
    page.locator("summary").filter(has_text="Override").click()
    expect(page.get_by_role("button", name="Override")).to_be_disabled()
    page.get_by_label("Reason for the override").fill("A fixed pipe leads away")
    page.wait_for_timeout(1700)
    page.get_by_role("button", name="Override").click()
    expect(page.get_by_role("heading", name=re.compile("Open the drain"))).to_be_visible()
    page.goto(f"{lead.server}/visit/{heater.pk}/close")
    page.locator("summary").filter(has_text=re.compile("^Flush")).click()
    page.get_by_role("radio", name="trace").click()
    expect(page.locator("summary").filter(has_text=re.compile("^Flush trace"))).to_be_visible()
    page.get_by_role("button", name="Save the visit").click()
    expect(page.get_by_role("heading", name="Visit saved: new due dates")).to_be_visible()
    told = Visit.objects.get(heater=heater, recorded_by__isnull=False).steps
    assert [one["why"] for one in told if one["kind"] == "override"] == ["A fixed pipe leads away"]


def test_a_tank_that_runs_out_is_left_off_for_everybody(person):
    heater = heater_of("gas_tank")
    page = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    chosen(page, "Relief valve")
    on(page, "Look for drips")
    page.get_by_role("button", name="Something else").click()
    page.get_by_role("region", name="It happened").or_(page.locator("section")).get_by_role(
        "button", name="The tank runs out"
    ).first.click()
    on(page, "The tank leaks")
    expect(page.get_by_text("has to be replaced")).to_be_visible()
    page.get_by_role("link", name="Review and save").click()
    page.get_by_role("button", name="Save the visit").click()
    expect(page.get_by_role("heading", name="Visit saved: new due dates")).to_be_visible()
    assert LeftAs.objects.get(heater=heater).off
    office = person("planner").goes_to(f"/heaters/{heater.pk}")
    expect(office.get_by_text(re.compile("is left off")).first).to_be_visible()
    again = person("lead", phone=True).goes_to(f"/visit/{heater.pk}")
    expect(again.get_by_text(re.compile("^The tank leaks")).first).to_be_visible()

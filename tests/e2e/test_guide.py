"""Led through a visit step by step, without a signal half-way: nothing is lost and everything is there once."""

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from aquifer.accounts.models import User
from aquifer.heaters.models import Heater
from aquifer.visits.models import Finding, Visit

pytestmark = pytest.mark.e2e
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
    return page.locator("h2").first.inner_text()


def tapped(page: Page, button: Locator) -> None:
    """Tap to the next step; once more where a slow machine took the tap for a second one of the step before."""
    stands = page.get_by_text(re.compile("^step .* of")).or_(page.get_by_text("all done", exact=True))
    before = stands.inner_text()
    # A step is read before it is tapped away; a finger that comes down twice counts once.
    page.wait_for_timeout(270)
    button.click()
    try:
        expect(stands).not_to_have_text(before, timeout=2500)
    except AssertionError:
        button.click()
        expect(stands).not_to_have_text(before)


def on(page: Page, until: str, most: int = 60) -> int:
    """Tap on until a step's words come; how many taps."""
    for taps in range(most):
        if page.get_by_role("heading", name=re.compile(until)).count():
            page.wait_for_timeout(270)
            return taps
        done = page.get_by_role("button", name="Done", exact=True)
        tapped(page, done if done.count() and done.is_enabled() else page.get_by_role("button", name="Leave out"))
    raise AssertionError(f"no step says {until!r}; the last is {step(page)!r}")


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


def saved(page: Page) -> None:
    page.get_by_role("link", name="Look over and save").click()
    page.get_by_role("button", name="Save the visit").click()


def test_a_gas_tank_without_a_signal_half_way(person):
    heater, before = heater_of("gas_tank"), Finding.objects.count()
    technician = person("technician", phone=True)
    technician.forgives = OFFLINE
    page = technician.goes_to(f"/visit/{heater.pk}")
    ready_for_no_signal(page)
    chosen(page, "Flush", "Relief valve")
    taps = on(page, "Crack the drain")
    page.get_by_role("radio", name="full").click()
    technician.context.set_offline(True)
    taps += on(page, "Let it drain|Let it run while")
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
    taps += on(page, "Everything is as it is left")
    assert taps + 8 <= 40
    saved(page)
    expect(page.get_by_role("heading", name="Kept on this device")).to_be_visible()
    expect(page.get_by_role("status", name="Not yet sent")).to_contain_text(heater.tag)
    assert Finding.objects.count() == before
    technician.context.set_offline(False)
    expect(page.get_by_role("status", name="Not yet sent")).to_have_count(0, timeout=30_000)
    visit = Visit.objects.get(heater=heater, recorded_by__isnull=False)
    assert {one.task for one in visit.findings.all()} == {"flush", "relief_valve_exercise"}
    assert Finding.objects.count() == before + 2
    told = [one["step"] for one in visit.steps]
    assert len(told) == len(set(told)) and told[0] == "arrival.greet" and told[-1] == "hand_over.explain"


def test_an_electric_tank_whose_drain_is_blocked_is_left_safely(person):
    heater = heater_of("electric_tank")
    User.objects.filter(username="technician").update(licences=["electrical", "plumbing"])
    technician = person("technician", phone=True)
    technician.forgives = OFFLINE
    page = technician.goes_to(f"/visit/{heater.pk}")
    ready_for_no_signal(page)
    chosen(page, "Flush")
    on(page, "Crack the drain")
    technician.context.set_offline(True)
    page.get_by_role("radio", name="nothing").click()
    tapped(page, page.get_by_role("button", name="It only trickles, or nothing comes"))
    expect(page.get_by_role("heading", name=re.compile("See that air can get in"))).to_be_visible()
    tapped(page, page.get_by_role("button", name="Done", exact=True))
    # Breath and wire want cooled water: held, with the way out.
    expect(page.get_by_role("alert")).to_contain_text("Cool the tank first")
    expect(page.get_by_role("button", name="Held")).to_be_disabled()
    tapped(page, page.get_by_role("button", name="Leave out"))
    tapped(page, page.get_by_role("button", name="Nothing even so: leave it, it is buried"))
    expect(page.get_by_role("heading", name=re.compile("Is acid in it"))).to_be_visible()
    on(page, "Everything is as it is left")
    saved(page)
    expect(page.get_by_role("status", name="Not yet sent")).to_contain_text("kept on this device and not yet sent")
    technician.context.set_offline(False)
    expect(page.get_by_role("status", name="Not yet sent")).to_have_count(0, timeout=30_000)
    visit = Visit.objects.get(heater=heater, recorded_by__isnull=False)
    assert visit.findings.get().drain_flow == "none"
    assert [one["step"] for one in visit.steps if one["kind"] == "otherwise"] == ["trial.crack", "blocked_drain.probe"]


def test_a_tankless_heater_is_descaled_and_saved_twice_is_once(person):
    heater = heater_of("gas_tankless")
    technician = person("technician", phone=True)
    technician.forgives = OFFLINE
    page = technician.goes_to(f"/visit/{heater.pk}")
    ready_for_no_signal(page)
    chosen(page, "Descale")
    on(page, "Circulate")
    technician.context.set_offline(True)
    expect(page.get_by_role("list", name="State of the heater")).to_contain_text("acid in")
    page.get_by_role("radio", name="heavy").click()
    on(page, "Everything is as it is left")
    page.get_by_role("link", name="Look over and save").click()
    page.get_by_role("button", name="Save the visit").dblclick(force=True)
    expect(page.get_by_role("heading", name="Kept on this device")).to_be_visible()
    expect(page.get_by_role("status", name="Not yet sent")).to_contain_text("kept on this device and not yet sent")
    technician.context.set_offline(False)
    expect(page.get_by_role("status", name="Not yet sent")).to_have_count(0, timeout=30_000)
    assert Visit.objects.filter(heater=heater, recorded_by__isnull=False).count() == 1


def test_only_the_lead_goes_on_despite_a_held_step_and_says_why(person):
    heater = heater_of("gas_tank")
    lead = person("lead", phone=True)
    page = lead.goes_to(f"/visit/{heater.pk}")
    chosen(page, "Flush")
    on(page, "Crack the drain")
    page.get_by_role("button", name="Back").click()
    page.wait_for_timeout(400)
    page.get_by_role("button", name="Leave out").click()
    expect(page.get_by_role("alert")).to_contain_text("Hose on first")
    page.wait_for_timeout(300)
    expect(page.get_by_role("button", name="Do it")).to_be_disabled()
    page.get_by_label("Why it is done all the same").fill("A fixed pipe leads away")
    page.get_by_role("button", name="Do it").click()
    page.get_by_role("radio", name="slow").count()
    on(page, "Everything is as it is left|Not as it is left")
    page.get_by_role("link", name="Look over and save").click()
    page.locator("summary").filter(has_text=re.compile("^Flush")).click()
    page.get_by_role("radio", name="trace").click()
    expect(page.locator("summary").filter(has_text=re.compile("^Flush trace"))).to_be_visible()
    page.get_by_role("button", name="Save the visit").click()
    expect(page.get_by_role("heading", name="Recorded. What moved")).to_be_visible()
    told = Visit.objects.get(heater=heater, recorded_by__isnull=False).steps
    assert [one["why"] for one in told if one["kind"] == "despite"] == ["A fixed pipe leads away"]

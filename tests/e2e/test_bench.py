"""An apprentice does the whole job on a heater in software, by the guide, and an hour of it in a minute."""

import re
import time

import pytest
from playwright.sync_api import expect

from aquifer.core.bench.practice import begun
from aquifer.core.bench.scenario import scenarios
from aquifer.workbench.models import Practised
from tests.core.apprentice import follows

pytestmark = pytest.mark.e2e

NAMES = {
    "cold": "^cold: ", "main": "^house main: ", "tap": "^hot faucet: ", "drain": "^drain: ", "dial": "^dial: ",
    "lever": "^relief lever: ",
}  # fmt: skip
WORDS = {
    ("tell", "what goes off"): "Tell the house", ("tell", "what was done"): "Say what was done",
    ("look", "relief pipe"): "Follow the relief pipe", ("hose", "on"): "Hose on", ("hose", "off"): "Hose off",
    ("relief_bucket", "under the pipe"): "Bucket under the pipe", ("bucket", "emptied"): "Empty the buckets",
    ("drain", "cracked"): "Crack the drain", ("dial", "on"): "Dial to the mark",
}  # fmt: skip


def test_a_plain_yearly_service_is_practised_by_the_guide_and_passed(person):
    page = person("apprentice").goes_to("/bench/practise")
    page.get_by_role("link", name="A plain yearly service, guided").click()
    page.get_by_role("button", name="stop").click()
    done, _ = follows("gas_yearly", 1)
    assert begun(scenarios()["gas_yearly"], 1).began.build == done.began.build
    clock = page.get_by_label(re.compile("at the heater$"))
    now = _seconds(clock)
    stale = page.locator("[aria-busy=true]")
    for act in done.acts:
        # What stands how is read off a heater that shows the act before.
        expect(stale).to_have_count(0)
        for wait, name in ((300, "wait 5 min"), (60, "wait 1 min"), (10, "wait 10 s")):
            while act.at_s - now > wait:
                page.get_by_role("button", name=name).click()
                now += wait
        if act.handle == "done":
            page.get_by_role("button", name="Done, as it says").click()
        elif act.handle == "tap_c":
            page.get_by_label(re.compile("^First hot water")).fill(act.to)
            page.get_by_role("button", name="Note it").click()
        elif act.handle in ("removed", "valve_outcome"):
            words = {"flows_and_reseats": "flows, closes"}.get(act.to, act.to)
            page.locator("label").filter(has_text=words).click()
        elif (act.handle, act.to) in WORDS:
            page.get_by_role("button", name=WORDS[act.handle, act.to], exact=True).click()
        elif (act.handle, act.to) != ("hose_in", "floor drain"):
            turned = page.get_by_role("button", name=re.compile(NAMES[act.handle]))
            # What stands so already is not turned.
            if f": {act.to}." not in turned.get_attribute("aria-label"):
                turned.click()
        now = _seconds(clock)
    expect(page.get_by_text("The guide is at its end.")).to_be_visible()
    page.get_by_role("button", name="I am done here").click()
    expect(page.get_by_text(re.compile(r"^Passed: \d+ % of what counts"))).to_be_visible()
    kept = Practised.objects.latest("pk")
    assert (kept.passed, kept.guided, kept.harms, kept.by.username) == (True, True, [], "apprentice")


def test_what_is_done_wrong_stops_the_clock_and_is_taken_back(person):
    page = person("apprentice").goes_to("/bench/practise/gas_yearly?way=free&heater=2")
    page.get_by_role("button", name=re.compile("^drain: shut")).focus()
    page.keyboard.press("Enter")
    wrong = page.get_by_role("alert", name="Something went wrong")
    expect(wrong.get_by_text("Hot water ran over your hand from the drain.")).to_be_visible()
    stood = _seconds(page.get_by_label(re.compile("at the heater$")))
    time.sleep(1.5)
    assert _seconds(page.get_by_label(re.compile("at the heater$"))) == stood
    wrong.get_by_role("button", name="Back to before that act").click()
    expect(wrong).to_have_count(0)
    expect(page.get_by_role("button", name=re.compile("^drain: shut"))).to_be_visible()


def _seconds(clock) -> int:
    hours, minutes, seconds = (int(one) for one in clock.inner_text().split(":"))
    return 3600 * hours + 60 * minutes + seconds


def test_a_fault_is_found_at_a_heater_in_software(person):
    """Back from two weeks away: the gas valve was shut. Looked for, opened, lit, said."""
    page = person("apprentice").goes_to("/bench/find/back_from_holiday?way=free&heater=2")
    for point, deed in (
        ("Air in the room", "Sniff low and high"), ("The house", "Say what goes off"), ("Gas valve", "Look"),
        ("Gas valve", "Open"), ("Dial", "Turn to pilot"), ("Pilot", "Light it and hold"), ("Dial", "Turn to its mark"),
        ("The house", "Say what was done"),
    ):  # fmt: skip
        page.get_by_role("button", name=re.compile(f"^{point}( |$)")).click()
        page.get_by_role("group", name=f"At: {point}").get_by_role("button", name=deed, exact=True).click()
        expect(page.get_by_role("region", name="The heater")).to_have_attribute("aria-busy", "false")
    expect(page.get_by_role("button", name=re.compile("^Gas valve"))).to_contain_text("Along the pipe.")
    page.get_by_label("What was wrong").select_option(label="the gas valve was shut")
    expect(page.get_by_label("What was wrong")).to_have_value("no_gas")
    expect(page.get_by_role("region", name="The heater")).to_have_attribute("aria-busy", "false")
    page.get_by_role("button", name="I am done here").click()
    expect(page.get_by_text(re.compile("^Passed: 100 % of what counts"))).to_be_visible()
    assert Practised.objects.latest("pk").passed
    # Who measures at what is live is shown what it did, and begins again before it.
    page = person("technician").goes_to("/bench/find/hums_and_stops?way=free&heater=2")
    page.get_by_role("button", name=re.compile("^Igniter")).click()
    page.get_by_role("button", name="Ohms").click()
    wrong = page.get_by_role("alert", name="Something went wrong")
    expect(wrong).to_contain_text("You touched what is live.")
    wrong.get_by_role("button", name="Back to before that act").click()
    expect(wrong).to_have_count(0)

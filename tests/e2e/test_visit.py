"""The technician at a heater, phone in a gloved hand; and the office that sees the dates move."""

import re

import pytest
from playwright.sync_api import expect

from aquifer.heaters.models import Heater
from aquifer.visits.models import Finding, Visit

pytestmark = pytest.mark.e2e


def gas_tank() -> Heater:
    """One without an expansion tank, so that its steps are look, relief valve, flush, anode and upkeep."""
    plain = Heater.objects.filter(kind="gas_tank", parts__kind="anode", installed_on__isnull=False)
    return plain.exclude(parts__kind="expansion_tank").order_by("pk")[0]


def saves(page):
    page.get_by_role("navigation", name="Steps").get_by_role("button").last.click()
    page.get_by_role("button", name="Save the visit").click()


def test_a_visit_is_recorded_and_the_dates_move_with_their_reason(person):
    heater, before = gas_tank(), Finding.objects.count()
    office = person("planner").goes_to(f"/heaters/{heater.pk}")
    valve = office.get_by_role("button", name=re.compile("^Relief valve"))
    expect(valve).to_be_visible()
    told_before = valve.inner_text()

    page = person("technician", phone=True).goes_to("/visit")
    page.get_by_label("Name, street or tag").fill(heater.tag)
    page.get_by_role("link", name=re.compile(heater.tag)).click()
    page.get_by_role("radio", name="pops, knocks").click()
    page.get_by_role("button", name="Next: relief").click()
    expect(page.get_by_text("scalding water")).to_be_visible()
    page.get_by_role("radio", name="Ran freely").click()
    page.get_by_role("button", name="Next: flush").click()
    page.get_by_role("radio", name="heavy").click()
    page.get_by_role("radio", name="flakes").click()
    page.get_by_role("radio", name="slow").click()
    page.get_by_role("button", name="Next: anode").click()
    page.get_by_role("radio", name="half").click()
    page.get_by_role("button", name="Next: upkeep").click()
    page.get_by_role("radiogroup", name="Burner").get_by_role("radio", name="choked").click()
    page.get_by_role("button", name="Save the visit").dblclick()
    expect(page.get_by_role("heading", name="Recorded. What moved")).to_be_visible()
    expect(page.get_by_text("It ran and reseated")).to_be_visible()
    expect(page.get_by_text("Out came a heavy amount")).to_be_visible()
    assert Visit.objects.filter(heater=heater, recorded_by__isnull=False).count() == 1
    assert Finding.objects.count() == before + 5

    office.reload()
    expect(valve).not_to_have_text(told_before)
    expect(office.get_by_text("last found fouled: every 8 months")).to_be_visible()
    expect(office.get_by_role("img", name=re.compile("^Log of"))).to_contain_text(
        "Pulsed drain: heavy, flakes, drain slow"
    )


def test_what_was_tapped_survives_a_closed_window_and_a_lost_server(person):
    heater = gas_tank()
    technician = person("technician", phone=True)
    page = technician.goes_to(f"/visit/{heater.pk}")
    page.get_by_role("button", name="Next: relief").click()
    page.get_by_role("radio", name="Ran freely").click()
    page.get_by_role("button", name="Next: flush").click()
    page.get_by_role("radio", name="moderate").click()
    page.close()
    page = technician.context.new_page()
    page.goto(f"{technician.server}/visit/{heater.pk}")
    expect(page.get_by_role("radio", name="moderate")).to_be_checked()
    page.get_by_role("button", name="Next: anode").click()
    page.route("**/api/visits", lambda route: route.abort())
    saves(page)
    expect(page.get_by_role("heading", name="Kept on this device")).to_be_visible(timeout=15_000)
    assert not Visit.objects.filter(heater=heater, recorded_by__isnull=False).exists()
    page.unroute("**/api/visits")
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(page.get_by_role("status", name="Not yet sent")).to_have_count(0, timeout=30_000)
    assert Visit.objects.filter(heater=heater, recorded_by__isnull=False).count() == 1


def test_a_valve_without_water_asks_for_a_new_one(person):
    heater = gas_tank()
    before = heater.parts.filter(kind="relief_valve").count()
    page = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    page.get_by_role("button", name="Next: relief").click()
    page.get_by_role("radio", name="Lever moves, no water").click()
    page.get_by_role("button", name="I fitted a new relief valve").click()
    for step in ("flush", "anode"):
        page.get_by_role("button", name=f"Next: {step}").click()
    saves(page)
    expect(page.get_by_text("New valve: the twelve months start again")).to_be_visible()
    assert heater.parts.filter(kind="relief_valve").count() == before + 1


def test_an_apprentice_says_under_whom(person):
    heater = gas_tank()
    page = person("apprentice", phone=True).goes_to(f"/visit/{heater.pk}")
    page.get_by_role("button", name="Next: relief").click()
    page.get_by_role("radio", name="Ran freely").click()
    page.get_by_role("button", name="Anode").click()
    saves(page)
    expect(page.get_by_text("Say under whom you worked.")).to_be_visible()
    page.get_by_label("I worked under").select_option(index=1)
    saves(page)
    expect(page.get_by_role("heading", name="Recorded. What moved")).to_be_visible()


def test_a_tankless_heater_is_descaled_not_flushed(person):
    heater = Heater.objects.filter(kind__endswith="tankless").order_by("pk")[0]
    page = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    steps = page.get_by_role("navigation", name="Steps").get_by_role("button")
    expect(steps).to_have_text(["Relief", "Descale", "Upkeep"])
    steps.nth(1).click()
    page.get_by_role("radio", name="moderate").click()
    saves(page)
    expect(page.get_by_role("heading", name=re.compile("^Descale:"))).to_be_visible()


def test_every_target_is_big_enough_for_a_glove(person):
    page = person("technician", phone=True).goes_to(f"/visit/{gas_tank().pk}")
    page.get_by_role("button", name="Flush", exact=True).click()
    expect(page.get_by_role("radio", name="heavy")).to_be_visible()
    for role in ("radio", "button", "link"):
        for target in page.get_by_role(role).all():
            assert target.bounding_box()["height"] >= 44, target.inner_text()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_an_expansion_tank_is_checked_and_a_torn_bladder_is_told(person):
    heater = Heater.objects.filter(kind__endswith="_tank", parts__kind="expansion_tank").order_by("pk")[0]
    page = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    page.get_by_role("button", name="Expansion", exact=True).click()
    page.get_by_role("radio", name="Water comes out").click()
    saves(page)
    expect(page.get_by_text("the bladder is torn: to be replaced")).to_be_visible()


def test_a_drawn_visit_asks_for_a_measurement(person, monkeypatch):
    monkeypatch.setattr("aquifer.core.measuring.is_drawn", lambda *_: True)
    heater = gas_tank()
    page = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    page.get_by_role("button", name="Flush", exact=True).click()
    expect(page.get_by_role("heading", name="This visit was drawn for a measurement")).to_be_visible()
    page.get_by_label("Depth of the deposit").fill("14")
    page.get_by_role("radio", name="moderate").click()
    page.get_by_role("button", name="Anode", exact=True).click()
    saves(page)
    expect(page.get_by_text("Measured 14 mm")).to_be_visible()
    assert Finding.objects.filter(heater=heater, depth_before_mm=14, removed="moderate").exists()

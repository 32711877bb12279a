"""The planner's fortnight: planned, moved, promised, offered and answered."""

import re

import pytest
from playwright.sync_api import expect

from aquifer.outbox import links
from aquifer.outbox.models import Message
from aquifer.rounds import rounds
from aquifer.rounds import run as runs
from aquifer.rounds.models import Appointment, Run, RunState, Standing

pytestmark = pytest.mark.e2e


def test_a_season_is_planned_from_the_screen_and_shown(person, monkeypatch):
    monkeypatch.setattr(rounds, "SECONDS_A_WEEK", 0.3)
    page = person("planner").goes_to("/rounds/season")
    expect(page.get_by_text("Plan the season to see")).to_be_visible()
    page.get_by_role("button", name="Plan the season").click()
    expect(page.get_by_role("progressbar")).to_be_visible()
    run = Run.objects.get()
    runs.work_on(run.pk)
    expect(page.get_by_role("heading", name="Plan summary")).to_be_visible()
    expect(page.get_by_text("One fewer would cost")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Week of")).nth(2).click()
    week = page.get_by_role("region", name="Visits of the week")
    week.get_by_label(re.compile("^Put")).select_option(index=3)
    expect(page.get_by_role("status").get_by_text("That week would have")).to_be_visible()
    week.get_by_role("button", name=re.compile(r"^Move \d")).click()
    expect(week.get_by_text(": 0 visits")).to_be_visible()
    week.get_by_role("link", name="the days").click()
    expect(page.get_by_role("group", name="Days")).to_be_visible()
    assert Appointment.objects.filter(standing=Standing.KEPT, on__isnull=True).exists()
    run.refresh_from_db()
    assert run.state == RunState.READY


def test_a_visit_is_found_a_better_place_promised_and_let_go(person, planned):
    page = person("planner").goes_to(f"/rounds?on={planned.on}&visit={planned.pk}")
    panel = page.get_by_role("region", name=planned.site.name, exact=True)
    expect(panel.get_by_text("planned", exact=True)).to_be_visible()
    places = page.get_by_role("region", name="Where it could go")
    expect(places.get_by_text("it is here")).to_be_visible()
    # Which days break nothing hangs on the day of the week.
    rows = places.get_by_role("row").filter(has=page.get_by_role("button", name="Move here"))
    sound = rows.filter(has_text=re.compile("all kept|more over a limit"))
    sound.first.get_by_role("button", name="Move here").click()
    expect(panel.get_by_text("kept here", exact=True)).to_be_visible()
    moved = Appointment.objects.get(pk=planned.pk)
    assert (moved.on, moved.member_id) != (planned.on, planned.member_id)
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_role("button", name="Take it back")).to_have_count(0)
    page.goto(page.url.split("?")[0] + f"?on={planned.on}&visit={planned.pk}")
    expect(panel.get_by_text("planned", exact=True)).to_be_visible()
    panel.get_by_label("Not before").fill("7:30")
    panel.get_by_label("Not after").fill("16:00")
    panel.get_by_role("button", name="Confirm time window").click()
    expect(panel.get_by_text("Promised between 7:30 and 16:00.")).to_be_visible()
    panel.get_by_role("button", name="Release").click()
    expect(panel.get_by_text("planned", exact=True)).to_be_visible()
    one = Appointment.objects.get(pk=planned.pk)
    assert (one.on, one.begins, one.standing) == (planned.on, planned.begins, Standing.PLANNED)


def test_a_customer_answers_what_was_offered(person, planned, browser, live_server):
    planner = person("planner")
    page = planner.goes_to(f"/rounds?on={planned.on}&visit={planned.pk}")
    page.get_by_role("button", name="Offer it").click()
    expect(
        page.get_by_role("region", name=planned.site.name, exact=True).get_by_text("offered", exact=True)
    ).to_be_visible()
    message = Message.objects.get()
    visitor = browser.new_context(viewport={"width": 390, "height": 844})
    theirs = visitor.new_page()
    theirs.goto(f"{live_server.url}/answer/{links.token(message)}")
    expect(theirs.get_by_role("heading", name=re.compile(planned.site.name))).to_be_visible()
    theirs.get_by_role("button", name="Yes, please come").click()
    expect(theirs.get_by_text("We come on")).to_be_visible()
    visitor.close()
    page = planner.goes_to("/rounds/customers")
    expect(page.get_by_text("said yes")).to_be_visible()
    planned.refresh_from_db()
    assert planned.standing == Standing.PROMISED


def test_a_truck_is_counted(person, planned):
    page = person("technician").goes_to(f"/rounds/stock?on={planned.on}")
    held = page.get_by_role("region", name="Trucks").get_by_label(re.compile("on the truck$")).first
    held.fill("40")
    held.press("Enter")
    expect(held).to_have_value("40")
    page.reload()
    expect(page.get_by_role("region", name="Trucks").get_by_label(re.compile("on the truck$")).first).to_have_value(
        "40"
    )

"""The planner's fortnight: planned, moved, promised, offered and answered."""

import re

import pytest
from playwright.sync_api import expect

from aquifer.accounts.models import Licence, User
from aquifer.outbox import links
from aquifer.outbox.models import Message
from aquifer.rounds import rounds
from aquifer.rounds import run as runs
from aquifer.rounds.models import EQUIPMENT, Absence, Appointment, AppointmentStatus, CrewMember, Run, RunState

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
    assert Appointment.objects.filter(standing=AppointmentStatus.KEPT, on__isnull=True).exists()
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
    assert (one.on, one.begins, one.standing) == (planned.on, planned.begins, AppointmentStatus.PLANNED)


def test_a_visit_is_drawn_to_another_round_with_what_it_costs_told_on_the_way(person, planned):
    # Whoever it is carried to could take it, whichever visit the season put first.
    CrewMember.objects.update(equipment=list(EQUIPMENT), helper="Wren")
    User.objects.filter(crew__isnull=False).update(licences=Licence.values, licence_ends={})
    page = person("planner").goes_to(f"/rounds?on={planned.on}")
    board = page.get_by_role("group", name="Rounds of the day")
    expect(board.get_by_role("button", name=re.compile(f"^{planned.site.name}")).first).to_be_visible()
    ahead = [rect.get_attribute("data-member") for rect in page.locator("rect[data-member]").all()]
    at = ahead.index(str(planned.member_id))
    # A large site may have two visits on one day, begun at the same minute.
    hour, minute = divmod(planned.begins, 60)
    words = re.compile(rf"^{planned.site.name}.* {'ABCDEFGH'[at]}\d+, {hour}:{minute:02} to ")
    knot = board.get_by_role("button", name=words)
    rope = next(
        at
        for at in page.locator("rect[data-member]").all()
        if at.get_attribute("data-member") != str(planned.member_id)
    )
    there = rope.bounding_box()
    knot.locator("rect").last.hover()
    page.mouse.down()
    page.mouse.move(there["x"] + 20, there["y"] + there["height"] * 0.3, steps=6)
    told = page.locator("p").filter(has_text=re.compile(r"about \d+:\d\d: .*min driving, back")).first
    expect(told).to_be_visible()
    # Escape leaves it where it is.
    page.keyboard.press("Escape")
    expect(told).to_have_count(0)
    page.mouse.up()
    planned.refresh_from_db()
    assert planned.standing == AppointmentStatus.PLANNED
    # By keys: lifted, carried to the round beside it, put down.
    knot.focus()
    page.keyboard.press("m")
    page.wait_for_load_state("networkidle")
    expect(page.get_by_role("status").get_by_text("where it is")).to_be_attached()
    way, beside = ("ArrowRight", ahead[1]) if at == 0 else ("ArrowLeft", ahead[at - 1])
    page.keyboard.press(way)
    expect(page.get_by_role("status").get_by_text("min driving")).to_be_attached()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Take it back").or_(page.get_by_role("alert"))).to_be_visible()
    if page.get_by_role("alert").count():
        page.get_by_role("button", name="Move it all the same").click()
        expect(page.get_by_role("button", name="Take it back")).to_be_visible()
    planned.refresh_from_db()
    assert planned.standing == AppointmentStatus.KEPT
    assert str(planned.member_id) == beside


def test_a_day_of_who_is_ill_is_dealt_out_from_the_board(person, planned):
    page = person("planner").goes_to(f"/rounds?on={planned.on}")
    name = planned.member.user.name
    page.get_by_role("button", name=f"{name} is away: deal out the day").click()
    page.get_by_label("Why").fill("down with a fever")
    page.get_by_role("button", name="Deal out the day").click()
    expect(page.get_by_role("list", name="What changed")).to_be_visible()
    page.get_by_role("button", name="To the day").click()
    expect(page.get_by_role("button", name=f"{name} is away: deal out the day")).to_have_count(0)
    assert Absence.objects.filter(member=planned.member, first_on=planned.on, why="down with a fever").exists()
    planned.refresh_from_db()
    assert planned.member_id is None or planned.member.user.name != name


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
    assert planned.standing == AppointmentStatus.PROMISED


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

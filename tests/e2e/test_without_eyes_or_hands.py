"""What no scan of a page sees: where the focus is after an act, what is said of it, and how many keys a visit takes."""

import re

import pytest
from playwright.sync_api import Page, expect

from aquifer.heaters.models import Heater
from aquifer.rounds.models import Appointment
from aquifer.visits.models import Visit
from tests.e2e.conftest import comes_true, settled
from tests.e2e.test_keyboard import Keys

pytestmark = pytest.mark.e2e
FOCUS = "() => document.activeElement === document.body ? 'nowhere' : document.activeElement.outerHTML.slice(0, 120)"
HEARD = """() => {
  window.heard = []
  const region = [...document.querySelectorAll('[role=status][aria-live]')].at(-1)
  new MutationObserver(() => window.heard.push(region.textContent)).observe(
    region, { childList: true, characterData: true, subtree: true })
}"""


def listening(page: Page) -> Page:
    """From now on what is said is written down."""
    page.evaluate(HEARD)
    return page


def said(page: Page, words: str) -> None:
    comes_true(page, "words => window.heard.some((one) => one.includes(words))", words)


def is_somewhere(page: Page, within: str = "main") -> None:
    """That who works by keys is where they were, and not at the top of the page."""
    on = "document.activeElement"
    comes_true(page, f"within => {on} !== document.body && !!{on}.closest(within)", within)


def pressed(page: Page, name: str | re.Pattern[str]) -> None:
    button = page.get_by_role("button", name=name).first
    button.focus()
    page.keyboard.press("Enter")


def test_acts_of_the_register_are_heard_and_leave_one_where_one_was(person):
    planner = person("planner")
    page = listening(settled(planner.goes_to("/register/duplicates")))
    pressed(page, re.compile("^Keep this one"))
    pressed(page, "Merge them")
    said(page, "The two are one heater now.")
    is_somewhere(page, "ul")
    # Another page says its name, and its heading has the focus.
    page.get_by_role("link", name="Heaters", exact=True).press("Enter")
    said(page, "Register")
    expect(page.locator("h1")).to_be_focused()
    # A list that is narrowed says how many it has.
    settled(page).get_by_label("Words to look for").fill("UPL-")
    count = Heater.objects.in_service().filter(tag__startswith="UPL-").count()
    said(page, f"{count} heaters")
    rows = page.get_by_role("list", name="Heaters").get_by_role("listitem")
    expect(rows.first).to_have_attribute("aria-setsize", str(count))
    # What was saved is taken back by a key, wherever one is.
    heater = Heater.objects.in_service().order_by("pk")[0]
    page = listening(settled(planner.goes_to(f"/heaters/{heater.pk}")))
    pressed(page, "Edit")
    page.get_by_label("Maker").fill("Hollow & Sons")
    page.keyboard.press("Enter")
    said(page, "Control and Z takes it back")
    is_somewhere(page)
    page.locator("h1").focus()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("group", name="The last change")).to_have_count(0)
    heater.refresh_from_db()
    assert heater.maker != "Hollow & Sons"


def test_acts_of_the_rounds_are_heard_and_leave_one_where_one_was(person, planned):
    page = person("planner").goes_to(f"/rounds?on={planned.on}&visit={planned.pk}")
    listening(settled(page))
    knot = page.get_by_role("button", name=re.compile(r", by \w")).first
    expect(knot).to_be_visible()
    # The panel goes by Escape, and who chose the visit is at it again.
    page.get_by_role("region", name="Where it could go").get_by_role("region", name="Places").focus()
    page.keyboard.press("Escape")
    expect(page.get_by_role("region", name="Where it could go")).to_have_count(0)
    is_somewhere(page)
    page.goto(page.url.split("?")[0] + f"?on={planned.on}&visit={planned.pk}")
    listening(settled(page))
    pressed(page, "Keep on this day")
    said(page, "Its standing is changed.")
    is_somewhere(page)
    settled(page)
    pressed(page, re.compile("^Move here: .+"))
    again = page.get_by_role("button", name="Move it all the same")
    expect(again.or_(page.get_by_role("button", name="Take it back"))).to_be_visible()
    if again.count():
        is_somewhere(page)
        pressed(page, "Move it all the same")
    said(page, "The visit is moved.")
    is_somewhere(page)
    pressed(page, "Plan again")
    said(page, "Planning")
    is_somewhere(page)


def test_a_page_at_four_times_its_size_shows_its_board(person, planned):
    of_the_day = Appointment.objects.filter(on=planned.on).count()
    page = person("planner").goes_to(f"/rounds?on={planned.on}")
    for size in ({"width": 720, "height": 450}, {"width": 320, "height": 256}):
        page.set_viewport_size(size)
        settled(page)
        ropes = page.get_by_role("group", name="Rounds of the day").bounding_box()
        assert ropes["height"] > 400 and ropes["width"] > 600
        boxes = [one.bounding_box() for one in page.locator("[aria-keyshortcuts=m][data-row]").all()]
        # How many a day has hangs on how far the search came; all of them are there, and none is too flat to see.
        assert len(boxes) >= of_the_day > 0 and min(one["height"] for one in boxes if one) >= 8
    page.goto(page.url.split("?")[0] + "/season")
    settled(page)
    assert page.get_by_role("group", name=re.compile("^Hours planned")).bounding_box()["height"] > 200
    assert page.get_by_role("region", name="Plan summary").bounding_box()["height"] > 200


def test_a_single_key_can_be_put_off_and_works_with_alt_then(person):
    page = settled(person("planner").goes_to("/outlook"))
    page.keyboard.press("?")
    page.get_by_label("A key alone does this").uncheck()
    page.keyboard.press("Escape")
    page.reload()
    settled(page)
    page.keyboard.press("/")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("Alt+/")
    expect(page.get_by_role("dialog", name="Find")).to_be_visible()
    page.keyboard.press("Escape")
    # The list of keys is reached without any of them.
    page.get_by_role("button", name="Planner").click()
    page.get_by_role("menuitem", name="Keys").click()
    page.get_by_label("A key alone does this").check()
    page.keyboard.press("Escape")
    page.keyboard.press("/")
    expect(page.get_by_role("dialog", name="Find")).to_be_visible()


def at(keys: Keys, *names: str) -> Keys:
    """Tab to a way on: a button of these, or one that an alert offers."""
    for _ in range(40):
        words, alerts = keys.page.evaluate(
            "() => [document.activeElement.textContent.trim(), document.activeElement.closest('[role=alert]') !== null]"
        )
        if words in names or (alerts and words and not words.startswith("Not safe yet")):
            return keys
        keys.press("Tab")
    raise AssertionError(f"none of {names} is reached")


@pytest.mark.usefixtures("quick_looks")
def test_a_yearly_visit_is_led_by_keyboard(person, monkeypatch):
    """Every step, what was found, and saved: by keys alone, with each step heard before it is confirmed."""
    heater = Heater.objects.in_service().filter(kind="electric_tank", installed_on__isnull=False).order_by("pk")[0]
    page = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    page.get_by_role("heading", name="To be done").wait_for()
    for name in ("Flush", "Anode", "Expansion tank", "Descale"):
        button = page.get_by_role("button", name=name, exact=True)
        if button.count() and button.get_attribute("aria-pressed") == "true":
            button.click()
    valve = page.get_by_role("button", name="Relief valve", exact=True)
    if valve.get_attribute("aria-pressed") == "false":
        valve.click()
    keys = Keys(page)
    begin = page.get_by_role("button", name=re.compile("^Begin"))
    expect(begin).to_be_enabled()
    page.wait_for_timeout(400)
    begin.focus()
    keys.press("Enter")
    expect(page.get_by_text(re.compile("^step 1 of"))).to_be_visible()
    steps, heard = 0, set()
    stands = page.get_by_text(re.compile("^step .* of")).or_(page.get_by_text("all done", exact=True))
    while (before := stands.inner_text()) != "all done" and steps < 80:
        # A step is heard, and who works by keys is in it; a finger that comes down twice counts once.
        page.wait_for_timeout(260)
        heard.add(page.locator("p[role=status].sr-only").first.inner_text())
        is_somewhere(page, "body *")
        at(keys, "Done", "Skip step", "Not needed here").press("Enter")
        for _ in range(40):
            if stands.inner_text() != before:
                break
            page.wait_for_timeout(50)
        steps += 1
    assert len(heard) >= steps * 0.8
    page.get_by_role("link", name="Review and save").focus()
    keys.press("Enter")
    page.locator("summary").filter(has_text="Relief valve").focus()
    keys.press("Enter")
    page.get_by_role("radio", name="Ran freely").focus()
    keys.press("Space")
    page.get_by_role("button", name="Save the visit").focus()
    keys.press("Enter")
    expect(page.get_by_role("heading", name="Visit saved: new due dates")).to_be_visible()
    is_somewhere(page)
    assert Visit.objects.filter(heater=heater, recorded_by__isnull=False).exists()
    assert keys.count <= 110

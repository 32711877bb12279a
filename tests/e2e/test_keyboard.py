"""How many keys a task takes, typed letters counted, from a page that has just been opened."""

import re
from contextlib import suppress

import pytest
from playwright.sync_api import expect

from aquifer.heaters.models import Heater
from aquifer.open_ends.models import OpenEnd
from aquifer.rounds.models import AppointmentStatus

pytestmark = pytest.mark.e2e


class Keys:
    """A keyboard that counts."""

    def __init__(self, page) -> None:
        self.page, self.count = page, 0

    def press(self, *keys: str) -> "Keys":
        for key in keys:
            self.page.keyboard.press(key)
            self.count += 1
        return self

    def types(self, words: str) -> "Keys":
        return self.press(*words)

    def past(self, selector: str, most: int = 40) -> "Keys":
        """Tab until something is reached."""
        for _ in range(most):
            if self.page.evaluate("one => document.activeElement?.matches(one) ?? false", selector):
                return self
            self.press("Tab")
        raise AssertionError(f"{selector} is not reached within {most} tabs")


def at(person, path: str, ready):
    page = person.goes_to(path)
    expect(ready(page)).to_be_visible()
    return page, Keys(page)


def test_a_heater_is_found_and_why_it_is_due_read(person):
    heater = Heater.objects.order_by("pk")[0]
    page, keys = at(person("planner"), "/register", lambda page: page.get_by_role("region", name="Heaters on record"))
    keys.press("/").types(heater.tag)
    page.get_by_role("option").first.wait_for()
    keys.press("Enter")
    expect(page.get_by_role("heading", name="As we believe it is today")).to_be_visible()
    assert keys.count <= 15
    # The page says where one is: its heading has the focus.
    expect(page.locator("h1")).to_be_focused()


def test_the_second_of_the_outlook_and_its_reasons_are_reached(person):
    page, keys = at(person("planner"), "/outlook", lambda page: page.get_by_role("region", name="Heaters by urgency"))
    second = page.locator("[data-row='1']")
    expect(second).to_be_visible()
    keys.press("Tab", "Enter").past("[data-row]").press("ArrowDown", "Enter")
    expect(second).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_role("group", name="Why it is due")).to_be_focused()
    assert keys.count <= 25
    keys.press("Escape")
    expect(second).to_be_focused()
    # The last of all, however many, is one key away.
    keys.press("End")
    # By its number, above twenty. A function that waits in the page would be refused by the page's own policy.
    expect(page.locator(":focus")).to_have_attribute("data-row", re.compile(r"^(2[1-9]|[3-9]\d|\d{3,})$"))


def test_an_appointment_is_moved(person, planned):
    page, keys = at(
        person("planner"), f"/rounds?on={planned.on}", lambda page: page.get_by_role("group", name="Rounds of the day")
    )
    expect(page.locator("[data-row][aria-keyshortcuts='m']").first).to_be_visible()
    keys.press("Tab", "Enter").past("[aria-keyshortcuts='m']")
    with page.expect_response("**/positions*"):
        keys.press("m")
    expect(page.get_by_role("status").get_by_text("where it is")).to_be_attached()
    cost = page.get_by_role("status").get_by_text("min driving")
    for _ in range(4):
        # A key that comes before the places have come says nothing; whoever sees that presses once more.
        keys.press("ArrowDown")
        with suppress(AssertionError):
            expect(cost).to_be_attached(timeout=2000)
            break
    expect(cost).to_be_attached()
    keys.press("Enter")
    expect(page.get_by_role("button", name="Take it back").or_(page.get_by_role("alert"))).to_be_visible()
    if page.get_by_role("alert").count():
        page.get_by_role("button", name="Move it all the same").click()
        expect(page.get_by_role("button", name="Take it back")).to_be_visible()
    assert keys.count <= 20
    assert type(planned).objects.filter(standing=AppointmentStatus.KEPT).exists()


def test_the_255th_issue_is_closed(person):
    heater = Heater.objects.order_by("pk")[0]
    OpenEnd.objects.all().delete()
    OpenEnd.objects.bulk_create(
        OpenEnd(site=heater.site, heater=heater, words=f"strap {number} is loose", raised_on="2026-01-05")
        for number in range(1, 256)
    )
    page, keys = at(
        person("lead"), "/register/open-ends", lambda page: page.get_by_role("listitem").filter(has_text="strap").first
    )
    keys.press("Tab", "Enter").past("li[data-row] *").press("End")
    words = page.evaluate("document.activeElement.closest('li').innerText").split("\n")[0]
    keys.past("button[aria-label^='Close']").press("Enter").types("done").press("Enter")
    expect(page.get_by_text(words, exact=True)).to_have_count(0)
    assert keys.count <= 25
    assert OpenEnd.objects.filter(state="closed", how_closed="done").count() == 1
    # Who closed it is on the one that took its place, not at the top of the page.
    assert page.evaluate("document.activeElement.closest('li[data-row]') !== null")

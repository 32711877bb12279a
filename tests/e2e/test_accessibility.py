"""Axe finds nothing on any page, in any of its states."""

import re

import pytest

from aquifer.attachments.models import Attachment
from aquifer.heaters.models import Heater
from aquifer.outbox import links, write
from aquifer.outbox.models import Message
from aquifer.water.models import Zone
from tests.e2e.conftest import settled, violations

pytestmark = pytest.mark.e2e


def test_the_rounds(person, planned):
    planner = person("planner")
    day = planned.on.isoformat()
    paths = [f"/rounds?on={day}", f"/rounds?on={day}&visit={planned.pk}", "/rounds/season", "/rounds/customers"]
    paths += ["/rounds/money", "/outlook?risk=0.1"]
    paths += [f"/rounds/stock?on={day}", f"/rounds/season?week={planned.week.isoformat()}"]
    found = {path: violations(planner.goes_to(path)) for path in paths}
    assert found == dict.fromkeys(paths, [])


def test_the_tabs_of_a_heaters_page(person):
    heater = Attachment.objects.latest("pk").heater
    page = person("lead").goes_to(f"/heaters/{heater.pk}")
    for tab in ("Place", "Parts", "What if", "History"):
        page.get_by_role("tab", name=re.compile(f"^{tab}")).click()
        page.wait_for_timeout(300)
        assert violations(page) == [], tab
        if tab == "Place":
            page.get_by_role("button", name=re.compile("^Photograph:")).first.click()
            page.get_by_role("dialog").wait_for()
            assert violations(page) == []
            page.keyboard.press("Escape")


def test_what_opens_over_the_register(person):
    lead = person("lead")
    zone, heater = Zone.objects.get(code="CHK"), Heater.objects.order_by("pk")[0]
    for path, button in (
        ("/register", "Add a heater"),
        ("/register", re.compile("^Change all")),
        (f"/sites/{heater.site_id}", "Edit site"),
        (f"/sites/{heater.site_id}", "History"),
        (f"/water/{zone.pk}", "Edit"),
        (f"/water/{zone.pk}", "Add a test"),
        (f"/heaters/{heater.pk}", "Archive"),
    ):
        page = lead.goes_to(path)
        page.get_by_role("button", name=button, exact=isinstance(button, str)).click()
        page.get_by_role("dialog").wait_for()
        assert violations(page) == [], (path, button)


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_pages_before_anybody_is_in(person, planned, scheme):
    """Signing in, and what a customer answers: as dark as the device is."""
    write.offer([planned])
    planner = person("planner")
    planner.context.clear_cookies()
    page = planner.page
    page.emulate_media(color_scheme=scheme)
    grounds = set()
    for path in (
        "/sign-in",
        "/password-forgotten",
        f"/answer/{links.token(Message.objects.latest('pk'))}",
        "/answer/none",
    ):
        assert violations(planner.goes_to(path)) == [], path
        grounds.add(page.evaluate("getComputedStyle(document.body).backgroundColor"))
    assert grounds == {"rgb(18, 25, 28)" if scheme == "dark" else "rgb(245, 242, 234)"}


@pytest.mark.parametrize("kind", ["gas_tank", "condensing_tankless"])
def test_a_heaters_page_and_its_form(person, kind):
    heater = Heater.objects.filter(kind=kind).order_by("pk")[0]
    page = person("lead").goes_to(f"/heaters/{heater.pk}")
    page.get_by_role("heading", name="As we believe it is today").wait_for()
    assert violations(page) == []
    page.get_by_role("button", name="Edit").click()
    page.get_by_role("dialog").wait_for()
    assert violations(page) == []


def test_the_finder(person):
    page = settled(person("planner").goes_to("/outlook"))
    page.keyboard.press("/")
    page.keyboard.type("chalk")
    page.get_by_role("option").first.wait_for()
    assert violations(page) == []


def test_the_guide_of_a_visit(person):
    heater = Heater.objects.filter(kind="electric_tank").order_by("pk")[0]
    page = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    page.get_by_role("heading", name="To be done").wait_for()
    assert violations(page) == []
    if page.get_by_role("button", name="Flush").get_attribute("aria-pressed") == "false":
        page.get_by_role("button", name="Flush").click()
    page.get_by_role("button", name=re.compile("^Begin")).click()
    page.get_by_role("button", name="Done").click()
    assert violations(page) == []
    page.get_by_role("button", name="Something else").click()
    page.get_by_role("heading", name="It happened").wait_for()
    assert violations(page) == []
    # Everything left out, the first act that may hurt is held.
    while not page.get_by_role("button", name="Not safe yet").count():
        page.wait_for_timeout(300)
        page.get_by_role("button", name="Skip step").click()
        page.wait_for_timeout(200)
        if page.get_by_role("button", name="Not needed here").count():
            assert violations(page) == []
            page.get_by_role("button", name="Not needed here").click()
            page.wait_for_timeout(200)
    assert violations(page) == []


def test_a_visit_and_what_it_moved(person):
    heater = Heater.objects.filter(kind="gas_tank").order_by("pk")[0]
    page = person("technician", phone=True).goes_to("/visit")
    page.get_by_role("link").nth(1).wait_for()
    assert violations(page) == []
    page = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    page.get_by_role("button", name="Record without the steps").click()
    for group, answer in (
        ("Look", "bubbles"),
        ("Relief valve", "Ran, but drips"),
        ("Flush", "heavy"),
        ("Anode", "half"),
    ):
        page.locator("summary").filter(has_text=re.compile(f"^{group} ")).click()
        page.get_by_role("radio", name=answer).click()
        # What lies half under the bar below is no small target.
        page.evaluate("scrollTo(0, document.body.scrollHeight)")
        assert violations(page) == []
    page.locator("summary").filter(has_text="Signature").click()
    assert violations(page) == []
    page.get_by_role("button", name="Save the visit").click()
    page.get_by_role("heading", name="Visit saved: new due dates").wait_for()
    assert violations(page) == []


def test_colours_of_ones_own_choosing_leave_what_is_chosen_and_what_is_pressed(person):
    """Forced colours take every ground and shadow away: a line has to tell what they told."""
    page = person("planner").goes_to("/outlook")
    page.emulate_media(forced_colors="active")
    settled(page)
    row = page.locator("[data-row]").nth(1)
    row.click()
    page.locator("[data-row][aria-pressed='true']").wait_for()

    def of(selector, name):
        return page.evaluate(f"getComputedStyle(document.querySelector({selector!r})).{name}")

    assert of("[data-row][aria-pressed='true']", "outlineStyle") == "solid"
    assert of("[data-row][aria-pressed='false']", "outlineStyle") == "none"
    assert of("main button", "borderTopStyle") == "solid" and of("main button", "borderTopWidth") == "1px"
    ink = page.evaluate("getComputedStyle(document.body).color")
    assert of("main svg text", "fill") == ink and of("main svg path.stroke-ink", "stroke") == ink

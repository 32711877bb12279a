"""The planner's day: what is due and why, a heater added, two edits that meet, a file brought in."""

import re

import pytest
from playwright.sync_api import expect

from aquifer.heaters.models import Heater
from aquifer.imports import run as imports
from aquifer.imports.models import ImportRun
from aquifer.pages import DEMO_PASSWORD

pytestmark = pytest.mark.e2e


@pytest.mark.parametrize("role", ["lead", "planner", "technician", "apprentice"])
def test_everybody_signs_in_and_comes_to_where_their_day_is(person, role):
    somebody = person("planner", phone=role in ("technician", "apprentice"))
    somebody.context.clear_cookies()
    page = somebody.goes_to("/")
    page.get_by_role("button", name=role.capitalize()).click()
    page.wait_for_url(re.compile("/outlook" if role in ("lead", "planner") else "/visit"))
    expect(page.get_by_role("heading", level=1)).to_be_visible()


def test_the_planner_sees_what_is_due_and_why(person):
    page = person("planner").goes_to("/outlook")
    rows = page.get_by_role("region", name="Heaters by urgency").get_by_role("button")
    expect(rows.first).to_be_visible()
    rows.nth(2).click()
    why = page.get_by_role("complementary")
    expect(why.get_by_text(re.compile("at the latest")).first).to_be_visible()
    why.get_by_role("button", name=re.compile("^(Flush|Descale)")).first.click()
    expect(why.get_by_text(re.compile("(sooner|later|as a plain heater)", re.I)).first).to_be_visible()
    expect(page).to_have_url(re.compile(r"heater=\d+"))
    why.get_by_role("link", name="Open heater").click()
    expect(page.get_by_role("heading", name="As we believe it is today")).to_be_visible()
    expect(page.get_by_role("img", name=re.compile("^Log of"))).to_be_visible()


def test_a_screen_of_the_outlook_shows_a_dozen_heaters(person):
    page = person("planner").goes_to("/outlook")
    rows = page.get_by_role("region", name="Heaters by urgency").get_by_role("button")
    expect(rows.first).to_be_visible()
    shown = [box for row in rows.all() if (box := row.bounding_box()) and box["y"] + box["height"] <= 800]
    assert len(shown) >= 12, f"{len(shown)} rows of {[box['height'] for box in shown]} pixels"


def test_the_sentence_narrows_the_outlook_and_the_address_keeps_it(person):
    planner = person("planner")
    page = planner.goes_to("/outlook")
    page.get_by_role("combobox", name="Zone").click()
    page.get_by_role("option", name="Draymoor chalk").click()
    expect(page).to_have_url(re.compile(r"zone=\d+"))
    first = page.get_by_role("region", name="Heaters by urgency").get_by_role("button").first
    expect(first).to_contain_text("Draymoor chalk")
    page.reload()
    expect(page.get_by_role("combobox", name="Zone")).to_have_text("Draymoor chalk")


def test_the_finder_opens_a_heater_by_keyboard(person):
    page = person("planner").goes_to("/outlook")
    tag = Heater.objects.order_by("pk")[10].tag
    expect(page.get_by_role("region", name="Heaters by urgency")).to_be_visible()
    page.keyboard.press("/")
    page.keyboard.type(tag)
    expect(page.get_by_role("option")).to_have_count(1)
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(r"/heaters/\d+"))
    expect(page.get_by_text(tag).first).to_be_visible()


def test_a_heater_is_added_with_its_site_and_water(person):
    page = person("planner").goes_to("/register")
    page.get_by_role("button", name="Add a heater").click()
    page.get_by_label("Site", exact=True).fill("Ines Brindlow")
    page.get_by_role("button", name="It is not here: add a new site").click()
    page.get_by_label("Street").fill("2 Hatch Close")
    page.get_by_label("Water zone").select_option(label="Draymoor chalk, very hard")
    page.get_by_label("People").fill("4")
    page.get_by_role("button", name="Add site").click()
    page.get_by_label("Tag").fill("CHK-9001")
    page.get_by_label("Capacity").fill("284")
    page.get_by_label("Installed on").fill("2020-06-01")
    page.get_by_role("button", name="Add heater", exact=True).click()
    expect(page.get_by_role("heading", name=re.compile("Ines Brindlow"))).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Flush"))).to_be_visible()
    made = Heater.objects.get(tag="CHK-9001")
    assert made.capacity_l == 284 and made.site.people == 4


def test_a_fault_of_the_server_reaches_its_field_and_keeps_what_was_typed(person):
    page = person("planner").goes_to(f"/heaters/{Heater.objects.order_by('pk')[0].pk}")
    taken = Heater.objects.order_by("pk")[1].tag
    page.get_by_role("button", name="Edit").click()
    page.get_by_label("Tag").fill(taken)
    page.get_by_label("Where it stands").fill("behind the stairs")
    page.get_by_role("button", name="Save heater").click()
    expect(page.get_by_text("taken by another heater", exact=True)).to_be_visible()
    expect(page.get_by_label("Where it stands")).to_have_value("behind the stairs")


def test_the_second_of_two_editors_is_told(person):
    heater = Heater.objects.order_by("pk")[0]
    pages = [person(role).goes_to(f"/heaters/{heater.pk}") for role in ("planner", "lead")]
    for page in pages:
        page.get_by_role("button", name="Edit").click()
    pages[0].get_by_label("Where it stands").fill("cellar, left")
    pages[0].get_by_role("button", name="Save heater").click()
    expect(pages[0].get_by_role("dialog")).to_have_count(0)
    pages[1].get_by_label("Where it stands").fill("cellar, right")
    pages[1].get_by_role("button", name="Save heater").click()
    expect(pages[1].get_by_text("was changed by somebody else")).to_be_visible()
    heater.refresh_from_db()
    assert heater.location == "cellar, left"
    pages[1].get_by_role("button", name="Show what is on record now").click()
    expect(pages[1].get_by_text("where it stands: cellar, left")).to_be_visible()
    expect(pages[1].get_by_label("Where it stands")).to_have_value("cellar, right")
    pages[1].get_by_role("button", name="Save heater").click()
    expect(pages[1].get_by_role("dialog")).to_have_count(0)
    heater.refresh_from_db()
    assert heater.location == "cellar, right"


def test_a_file_is_seen_row_by_row_before_it_is_brought_in(person, tmp_path):
    site = Heater.objects.order_by("pk")[0].site.code
    page = person("planner").goes_to("/register/files")
    bad = tmp_path / "bad.csv"
    bad.write_text(f"tag,site,kind\nNEW-1,{site},gas_tank\nNEW-2,{site},kettle\n")
    page.get_by_label("It lists").select_option("heaters")
    page.locator("#file").set_input_files(bad)
    page.get_by_role("button", name="See what it would do").click()
    page.wait_for_url("**run=*")
    imports.check(ImportRun.objects.latest("pk").pk)
    expect(page.get_by_text("1 row is refused")).to_be_visible()
    expect(page.get_by_text("'kettle' is unknown")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("Bring in all"))).to_have_count(0)
    good = tmp_path / "good.csv"
    good.write_text(f"tag,site,kind,capacity_l\nNEW-1,{site},gas_tank,189\n")
    page.locator("#file").set_input_files(good)
    page.get_by_role("button", name="See what it would do").click()
    expect(page.get_by_role("heading", name=re.compile("^good.csv"))).to_be_visible()
    imports.check(ImportRun.objects.latest("pk").pk)
    page.get_by_role("button", name="Bring in all 1 rows").click()
    expect(page.get_by_role("heading", name=re.compile("being brought in"))).to_be_visible()
    imports.bring_in(ImportRun.objects.latest("pk").pk)
    expect(page.get_by_role("heading", name=re.compile("brought in, and forecast anew"))).to_be_visible()
    assert Heater.objects.filter(tag="NEW-1").exists()


def test_the_lead_looks_over_what_was_measured_what_to_follow_and_what_will_fail(person):
    page = person("lead").goes_to("/outlook")
    page.get_by_role("navigation", name="Places").get_by_role("link", name="Review").click()
    page.get_by_role("button", name=re.compile("^Scale")).click()
    expect(page).to_have_url(re.compile("of=scale"))
    taught = page.get_by_role("complementary", name="What it taught")
    expect(taught.get_by_text(re.compile(r"of \d+ measurements"))).to_be_visible()
    expect(taught.get_by_role("list", name="What each sees over what is there")).to_be_visible()
    page.get_by_role("link", name="Which practice on which water?").click()
    expect(page.get_by_text(re.compile("^Cleaning by risk makes"))).to_be_visible()
    waters = page.get_by_role("complementary", name="Water by water")
    expect(waters.get_by_role("img", name=re.compile("yearly: 1.0 cleanings")).first).to_be_visible()
    page.get_by_role("link", name="Tanks near their end").click()
    first = page.get_by_role("list", name="Tanks").get_by_role("link").first
    site = first.inner_text().split(",")[0]
    first.click()
    expect(page).to_have_url(re.compile(r"/heaters/\d+"))
    expect(page.get_by_role("heading", name=re.compile(site))).to_be_visible()


def test_a_key_of_the_device_lets_its_person_in_without_a_password(person):
    """By name, not by address: a key is for a name."""
    planner = person("planner")
    planner.forgives = (*planner.forgives, "asked elsewhere")
    page, name = planner.page, planner.server.replace("127.0.0.1", "localhost")
    told = planner.context.new_cdp_session(page)
    told.send("WebAuthn.enable")
    device = {"protocol": "ctap2", "transport": "internal", "hasResidentKey": True, "hasUserVerification": True,
              "isUserVerified": True, "automaticPresenceSimulation": True}  # fmt: skip
    told.send("WebAuthn.addVirtualAuthenticator", {"options": device})
    page.goto(f"{name}/sign-in")
    page.get_by_role("button", name="Planner").click()
    page.wait_for_url(re.compile("/outlook"))
    page.goto(f"{name}/account")
    page.get_by_label("What you call it").fill("the office computer")
    page.locator("form").filter(has_text="Add this device").get_by_label("Password").fill(DEMO_PASSWORD)
    page.get_by_role("button", name="Add this device").click()
    expect(page.get_by_role("button", name="Take away the office computer")).to_be_visible()
    planner.context.clear_cookies()
    page.goto(f"{name}/sign-in?next=/rounds")
    page.get_by_role("button", name="Use a key of this device").click()
    page.wait_for_url(f"{name}/rounds")
    # Taken away it lets nobody in, and the page says so.
    page.goto(f"{name}/account")
    page.get_by_role("button", name="Take away the office computer").click()
    expect(page.get_by_role("button", name="Take away the office computer")).to_have_count(0)
    planner.context.clear_cookies()
    page.goto(f"{name}/sign-in")
    page.get_by_role("button", name="Use a key of this device").click()
    expect(page.get_by_role("alert").filter(has_text="lets nobody in")).to_be_visible()

"""Knowing the heater, the place and the water: what is seen there, noted, photographed, changed and taken back."""

import io
import re

import pytest
from openpyxl import Workbook
from playwright.sync_api import expect

from aquifer.attachments.models import Attachment
from aquifer.full_export import tasks
from aquifer.full_export.models import BaseFile
from aquifer.heaters.models import Heater
from aquifer.imports import run as imports
from aquifer.imports.models import ImportRun
from aquifer.open_ends.models import OpenEnd
from aquifer.places.models import Feature
from aquifer.water.models import Season, Zone
from tests.attachments.test_attachments import picture

pytestmark = pytest.mark.e2e


def plain_heater() -> Heater:
    """One at whose site nobody has written anything down."""
    busy = Feature.objects.values_list("site_id", flat=True)
    return Heater.objects.exclude(site__in=busy).filter(kind="gas_tank").order_by("pk")[0]


def test_a_valve_not_to_touch_is_noted_and_said_first_everywhere(person):
    heater = plain_heater()
    technician = person("technician")
    page = technician.goes_to(f"/sites/{heater.site_id}")
    page.get_by_role("button", name="house shut-off").click()
    page.get_by_text("brittle, may snap").click()
    page.get_by_label("Where").fill("under the stairs")
    page.get_by_label("Not to be touched").check()
    page.get_by_label("What to use instead").fill("the valve at the meter")
    page.get_by_role("button", name="Keep as seen today").click()
    said = "Don't touch the house shut-off (under the stairs): brittle, may snap. Use the valve at the meter instead."
    expect(page.get_by_role("list", name="Hazards")).to_have_text(said)
    for path in (f"/heaters/{heater.pk}", f"/visit/{heater.pk}"):
        expect(technician.goes_to(path).get_by_role("list", name="Hazards")).to_have_text(said)
    # Seen put right, it is said no more, and its open issue is closed.
    page = technician.goes_to(f"/sites/{heater.site_id}")
    page.get_by_role("button", name=re.compile("^House shut-off")).click()
    page.get_by_text("closes tight").click()
    page.get_by_label("Not to be touched").uncheck()
    page.get_by_role("button", name="Keep as seen today").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_role("list", name="Hazards")).to_have_count(0)
    assert OpenEnd.objects.get(feature__site=heater.site).state == "closed"


def test_an_open_end_is_noted_at_a_heater_and_closed_on_the_list(person):
    heater = plain_heater()
    planner = person("planner")
    page = planner.goes_to(f"/heaters/{heater.pk}")
    page.get_by_role("tab", name="Place").click()
    page.get_by_role("button", name="Add an open issue").click()
    page.get_by_label("What is not in order").fill("Vent strap is missing a screw")
    page.get_by_role("button", name="Note it").click()
    expect(page.get_by_role("tab", name="Place 1")).to_be_visible()
    page = planner.goes_to("/register/open-ends")
    row = page.get_by_role("listitem").filter(has_text="Vent strap is missing a screw")
    row.get_by_role("button", name="Close …").click()
    page.get_by_label("How was it put right?").fill("screw fitted")
    page.get_by_role("button", name="Close", exact=True).click()
    expect(page.get_by_text("Vent strap is missing a screw")).to_have_count(0)
    assert OpenEnd.objects.get(words__startswith="Vent strap").how_closed == "screw fitted"


def test_a_photograph_is_added_named_and_taken_away(person, tmp_path):
    heater = plain_heater()
    file = tmp_path / "Rating_plate.jpg"
    file.write_bytes(picture())
    page = person("lead").goes_to(f"/heaters/{heater.pk}")
    page.get_by_role("tab", name="Place").click()
    page.get_by_label("Photograph or PDF to add").set_input_files(file)
    shown = page.get_by_role("button", name="Photograph: Rating plate")
    shown.click()
    expect(page.get_by_role("img", name="Rating plate")).to_be_visible()
    natural = "image => image.complete && image.naturalWidth"
    picture_there = page.get_by_role("dialog").locator("img")
    for _ in range(40):
        # Asked again by the test: the page's own policy refuses a function that waits in it.
        if picture_there.evaluate(natural):
            break
        page.wait_for_timeout(100)
    assert picture_there.evaluate(natural)
    page.get_by_label("What it shows").fill("Plate, lower left")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("Plate, lower left")).to_be_visible()
    page.get_by_role("button", name="Photograph: Plate, lower left").click()
    page.get_by_role("button", name="Take away").click()
    # While the dialog is open, nothing behind it can be found by its role.
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_role("button", name="Photograph: Plate, lower left")).to_have_count(0)
    assert Attachment.objects.get(heater=heater, caption="Plate, lower left").gone
    # And what is no picture is told so.
    file.write_bytes(b"this is no picture")
    page.get_by_label("Photograph or PDF to add").set_input_files(file)
    expect(page.get_by_text("This is no photograph")).to_be_visible()


def test_a_change_is_taken_back_at_once_or_from_the_history(person):
    heater = plain_heater()
    before = heater.location
    page = person("planner").goes_to(f"/heaters/{heater.pk}")
    for place, back in (("attic", "Take it back"), ("shed", "Take this back")):
        page.get_by_role("button", name="Edit").click()
        page.get_by_label("Where it stands").fill(place)
        page.get_by_role("button", name="Save heater").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text(place)
        if back == "Take this back":
            page.get_by_role("tab", name="History").click()
            expect(page.get_by_text("location:").first).to_be_visible()
        page.get_by_role("button", name=back).click()
        expect(page.get_by_role("heading", level=1)).to_contain_text(before)
        heater.refresh_from_db()
        assert heater.location == before


def test_many_are_changed_after_a_look_and_two_made_one(person):
    planner = person("planner")
    page = planner.goes_to("/register?kind=gas_tankless")
    page.get_by_role("button", name=re.compile("^Change all")).click()
    page.get_by_label("What").select_option(label="Practice")
    page.get_by_label("To", exact=True).select_option(label="yearly")
    page.get_by_role("button", name="See what it would do").click()
    count = Heater.objects.in_service().filter(kind="gas_tankless").count()
    page.get_by_role("button", name=f"Change {count}", exact=True).click()
    expect(page.get_by_text(f"{count} changed")).to_be_visible()
    assert Heater.objects.filter(practice="annual").count() == count
    page = planner.goes_to("/register/duplicates")
    pairs = page.get_by_role("list", name="Pairs").get_by_role("listitem")
    expect(pairs).to_have_count(2)
    pairs.first.get_by_role("button", name="Keep this one").first.click()
    page.get_by_role("button", name="Merge them").click()
    expect(pairs).to_have_count(1)
    assert Heater.objects.filter(archived_at__isnull=False).count() == 1


def test_a_heater_goes_to_the_archive_and_comes_back(person):
    heater = plain_heater()
    page = person("planner").goes_to(f"/heaters/{heater.pk}")
    page.get_by_role("button", name="Archive").click()
    page.get_by_label("Why does it go?").select_option("its tank leaked")
    page.get_by_role("button", name="Archive it").click()
    expect(page.get_by_text("Archived: not forecast, not planned.")).to_be_visible()
    expect(page.get_by_text("Its tank leaked, ")).to_be_visible()
    page.get_by_role("button", name="Put it back in service").click()
    expect(page.get_by_role("button", name="Archive", exact=True)).to_be_visible()


def test_the_slider_asks_the_core_what_a_cooler_setting_would_do(person):
    heater = Heater.objects.filter(kind="gas_tank", site__zone__code="CHK").order_by("pk")[0]
    page = person("planner").goes_to(f"/heaters/{heater.pk}")
    page.get_by_role("tab", name="What if").click()
    row = page.get_by_role("row", name=re.compile("^Anode"))
    expect(row).to_be_visible()
    before = row.inner_text()
    slider = page.get_by_role("slider", name="Set temperature")
    slider.focus()
    for _ in range(12):
        page.keyboard.press("ArrowLeft")
    page.get_by_label("Water softened").check()
    expect(row).to_contain_text("now ")
    assert row.inner_text() != before


def test_a_workbook_with_other_names_is_matched_and_its_refused_rows_come_back(person, tmp_path):
    site = plain_heater().site.code
    book = Workbook()
    for row in (
        ["Asset", "Property", "Heater Type", "Tank size (gal)", "Installed"],
        ["NEW-1", site, "Gas tank", 50, "9/3/2024"],
        ["NEW-2", "S9999", "Gas tank", 50, "9/3/2024"],
    ):
        book.active.append(row)
    out = io.BytesIO()
    book.save(out)
    file = tmp_path / "theirs.xlsx"
    file.write_bytes(out.getvalue())
    page = person("planner").goes_to("/register/files")
    page.get_by_label("It lists").select_option("heaters")
    page.locator("#file").set_input_files(file)
    page.get_by_role("button", name="See what it would do").click()
    page.wait_for_url("**run=*")
    imports.check(ImportRun.objects.latest("pk").pk)
    expect(page.get_by_label("Tank size (gal) is written in")).to_have_value("gal")
    page.get_by_label("Installed is written in").select_option(label="day first: 9/3/2026")
    page.get_by_role("button", name="Check the file so").click()
    expect(page.get_by_role("heading", name=re.compile("being checked"))).to_be_visible()
    imports.check(ImportRun.objects.latest("pk").pk)
    expect(page.get_by_text("there is no site with the code S9999")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="The refused row as a file to mend").click()
    assert "NEW-2,S9999" in download.value.path().read_text()
    page.get_by_role("button", name="Bring in the 1 right ones without them").click()
    expect(page.get_by_role("heading", name=re.compile("being brought in"))).to_be_visible()
    imports.bring_in(ImportRun.objects.latest("pk").pk)
    expect(page.get_by_role("heading", name=re.compile("brought in, and forecast anew"))).to_be_visible()
    assert str(Heater.objects.get(tag="NEW-1").installed_on) == "2024-03-09"


def test_the_lead_fetches_the_whole_base(person, settings, tmp_path):
    settings.DATA = tmp_path
    page = person("lead").goes_to("/register/files")
    page.get_by_role("button", name="Write it now").click()
    expect(page.get_by_text("being written", exact=True)).to_be_visible()
    tasks.write_base(BaseFile.objects.latest("pk").pk)
    with page.expect_download() as download:
        page.get_by_role("link", name=re.compile(r"\d:\d\d")).click()
    assert download.value.path().read_bytes().startswith(b"PK")


def test_a_season_is_said_of_a_water(person):
    zone = Zone.objects.get(code="CHK")
    page = person("planner").goes_to(f"/water/{zone.pk}")
    page.get_by_role("button", name="Edit", exact=True).click()
    page.get_by_role("button", name="Add a season").click()
    page.get_by_label("Season").fill("dry summer")
    page.get_by_label("Mixed with").select_option(label="Scarrow upland")
    page.get_by_label("Of the year").fill("25")
    page.get_by_label("Of the water").fill("120")
    page.get_by_role("button", name="Save the zone").click()
    expect(page.get_by_role("alert")).to_be_visible()
    page.get_by_label("Of the water").fill("40")
    page.get_by_role("button", name="Save the zone").click()
    expect(page.get_by_text("Dry summer: for 25 % of the year 40 % of it is Scarrow upland.")).to_be_visible()
    assert Season.objects.get(zone=zone).other_share == pytest.approx(0.4)


def test_a_label_is_printed_and_opens_its_heater(person):
    heater = plain_heater()
    planner = person("planner")
    page = planner.goes_to(f"/register?q={heater.tag}")
    address = page.get_by_role("link", name="Labels").get_attribute("href")
    answer = page.request.get(planner.server + address)
    assert answer.ok and answer.body().startswith(b"%PDF-")
    expect(planner.goes_to(f"/t/{heater.tag}").get_by_text(heater.tag).first).to_be_visible()
    expect(planner.page).to_have_url(re.compile(f"/heaters/{heater.pk}$"))
    technician = person("technician", phone=True)
    technician.goes_to(f"/t/{heater.tag}")
    expect(technician.page).to_have_url(re.compile(f"/visit/{heater.pk}$"))
    expect(planner.goes_to("/t/NOT-ONE").get_by_text("No heater has the tag NOT-ONE")).to_be_visible()


def test_a_view_is_kept_under_a_name(person):
    planner = person("planner")
    page = planner.goes_to("/outlook?kind=gas_tank")
    page.get_by_role("button", name="Views").click()
    page.get_by_role("menuitem", name="Keep this one …").click()
    page.get_by_label("Name").fill("Gas tanks")
    page.get_by_role("button", name="Keep it").click()
    page = planner.goes_to("/outlook")
    page.get_by_role("button", name="Views").click()
    page.get_by_role("menuitem", name="Gas tanks").click()
    expect(page).to_have_url(re.compile("kind=gas_tank"))

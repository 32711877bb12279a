"""The technician at a heater, phone in a gloved hand; and the office that sees the dates move."""

import re

import pytest
import segno
from PIL import Image
from playwright.sync_api import expect

from aquifer.attachments.models import Attachment
from aquifer.heaters.models import Heater
from aquifer.open_ends.models import OpenEnd
from aquifer.visiting import report
from aquifer.visits.models import Event, Finding, Visit

pytestmark = pytest.mark.e2e


def gas_tank() -> Heater:
    """One without an expansion tank."""
    plain = Heater.objects.filter(kind="gas_tank", parts__kind="anode", installed_on__isnull=False)
    return plain.exclude(parts__kind="expansion_tank").order_by("pk")[0]


def last_page(page):
    """To the page of what was found, without the steps."""
    page.get_by_role("button", name="Record without the steps").click()
    expect(page.get_by_role("region", name="What was found")).to_be_visible()


def opens(page, group: str):
    """What was looked at, opened to tell of it."""
    page.locator("summary").filter(has_text=re.compile(f"^{group} ")).click()


def saves(page):
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
    last_page(page)
    opens(page, "Look")
    page.get_by_role("radio", name="pops, knocks").click()
    opens(page, "Relief valve")
    expect(page.get_by_text("scalding water")).to_be_visible()
    page.get_by_role("radio", name="Ran freely").click()
    opens(page, "Flush")
    page.get_by_role("radio", name="heavy").click()
    page.get_by_role("radio", name="flakes").click()
    page.get_by_role("radio", name="slow").click()
    expect(page.get_by_role("heading", name="Short openings")).to_be_visible()
    opens(page, "Anode")
    page.get_by_role("radio", name="half").click()
    opens(page, "Cleaned")
    page.get_by_role("radiogroup", name=re.compile("burner")).get_by_role("radio", name="choked").click()
    expect(page.locator("summary").filter(has_text="Cleaned choked")).to_be_visible()
    page.get_by_role("button", name="Save the visit").dblclick(force=True)
    expect(page.get_by_role("heading", name="Visit saved: new due dates")).to_be_visible()
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
    last_page(page)
    opens(page, "Relief valve")
    page.get_by_role("radio", name="Ran freely").click()
    opens(page, "Flush")
    page.get_by_role("radio", name="moderate").click()
    expect(page.get_by_role("radio", name="moderate")).to_be_checked()
    page.close()
    page = technician.context.new_page()
    page.goto(f"{technician.server}/visit/{heater.pk}/close")
    expect(page.locator("summary").filter(has_text="Flush moderate")).to_be_visible()
    page.route("**/api/visits**", lambda route: route.abort())
    saves(page)
    expect(page.get_by_role("heading", name="Kept on this device")).to_be_visible()
    expect(page.get_by_role("status", name="Not yet sent")).to_contain_text("kept on this device and not yet sent")
    assert not Visit.objects.filter(heater=heater, recorded_by__isnull=False).exists()
    page.unroute("**/api/visits**")
    page.evaluate("window.dispatchEvent(new Event('online'))")
    expect(page.get_by_role("status", name="Not yet sent")).to_have_count(0)
    assert Visit.objects.filter(heater=heater, recorded_by__isnull=False).count() == 1


def test_a_valve_without_water_asks_for_a_new_one_and_what_follows_is_told(person):
    heater = gas_tank()
    before = heater.parts.filter(kind="relief_valve").count()
    page = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    last_page(page)
    opens(page, "Relief valve")
    page.get_by_role("radio", name="Lever moves, no water").click()
    expect(page.get_by_role("heading", name="Replace the relief valve")).to_be_visible()
    expect(page.get_by_text("Work for a licensed person")).to_be_visible()
    page.get_by_role("button", name="I fitted a new relief valve").click()
    opens(page, "Anode")
    page.get_by_role("radio", name="wire only").click()
    expect(page.get_by_role("heading", name="A new rod")).to_be_visible()
    saves(page)
    expect(page.get_by_text("New valve: the twelve months start again")).to_be_visible()
    expect(page.get_by_role("heading", name="What follows")).to_be_visible()
    assert heater.parts.filter(kind="relief_valve").count() == before + 1


def test_what_is_noted_measured_and_fitted_is_found_again(person):
    heater = gas_tank()
    Heater.objects.filter(pk=heater.pk).update(input_kw=12)
    page = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    page.get_by_role("button", name=re.compile("^Begin")).click()
    page.get_by_role("button", name="Write a note").click()
    page.get_by_label("Note", exact=True).fill("The strap at the top is loose")
    page.get_by_role("button", name="For another day").click()
    expect(page.get_by_role("list", name="Notes of this visit")).to_contain_text("The strap at the top is loose")
    # A figure tried is a figure tried.
    page.get_by_role("button", name="Calculators").click()
    page.get_by_text("How soon it burns:").first.click()
    page.get_by_label(re.compile("^Water at the faucet")).fill("70")
    keeps = page.get_by_role("button", name=re.compile("^Keep as a reading: Water at the faucet"))
    expect(keeps).to_be_visible()
    page.goto(page.url + "/close")
    opens(page, "At the faucet")
    hottest = page.get_by_label(re.compile("^Hottest water at the faucet"))
    expect(hottest).to_have_value("")
    hottest.fill("63")
    expect(page.get_by_role("heading", name="It scalds")).to_be_visible()
    opens(page, "Relief valve")
    page.get_by_role("button", name="I fitted a new relief valve").click()
    page.get_by_label(re.compile("^Heat that it passes")).fill("9")
    expect(page.get_by_role("heading", name="Not this valve")).to_be_visible()
    opens(page, "Parts fitted")
    page.get_by_role("button", name="I fitted a new thermocouple").click()
    page.get_by_label("Its build, as it looks").fill("slim")
    saves(page)
    expect(page.get_by_role("heading", name="Visit saved: new due dates")).to_be_visible()
    raised = set(OpenEnd.objects.filter(heater=heater, visit_client_id__isnull=False).values_list("words", flat=True))
    assert "The strap at the top is loose" in raised and any("passes 9.0 kW" in words for words in raised)
    office = person("planner").goes_to(f"/heaters/{heater.pk}")
    office.get_by_role("tab", name="History").click()
    visits = office.get_by_role("region", name="Visits on record")
    for told in ("“The strap at the top is loose”", "New thermocouple, slim", "Hottest water at a faucet 63 °C"):
        expect(visits).to_contain_text(told)
    expect(office.get_by_role("region", name="Readings over the years")).to_contain_text("63 °C")
    office.get_by_role("tab", name="Parts").click()
    office.get_by_role("button", name="Correct the relief valve").click()
    rating = office.get_by_label(re.compile("^Rating"))
    expect(rating).to_have_value("9")
    rating.fill("31")
    office.get_by_role("button", name="Save", exact=True).click()
    expect(office.get_by_text("passes 31.0 kW", exact=True)).to_be_visible()


def test_an_apprentice_says_under_whom_and_the_customer_signs(person):
    heater = gas_tank()
    page = person("apprentice", phone=True).goes_to(f"/visit/{heater.pk}")
    last_page(page)
    opens(page, "Relief valve")
    page.get_by_role("radio", name="Ran freely").click()
    # Written down before it is saved, which takes a moment on a busy machine.
    expect(page.get_by_role("radio", name="Ran freely")).to_be_checked()
    saves(page)
    expect(page.get_by_text("Say under whom you worked.")).to_be_visible()
    page.get_by_label("I worked under").select_option(index=1)
    opens(page, "Signature")
    page.get_by_label("Who signs").fill("R. Ostrow")
    box = page.get_by_role("img", name="Sign here").bounding_box()
    page.mouse.move(box["x"] + 30, box["y"] + 40)
    page.mouse.down()
    page.mouse.move(box["x"] + 120, box["y"] + 70, steps=6)
    page.mouse.up()
    expect(page.get_by_role("img", name="Signed by R. Ostrow")).to_be_visible()
    saves(page)
    expect(page.get_by_role("heading", name="Visit saved: new due dates")).to_be_visible()
    signed = Visit.objects.get(heater=heater, recorded_by__isnull=False).signature
    assert signed["name"] == "R. Ostrow" and len(signed["lines"][0]) >= 3


def test_a_tankless_heater_is_descaled_not_flushed(person):
    heater = Heater.objects.filter(kind__endswith="tankless").order_by("pk")[0]
    page = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    last_page(page)
    groups = page.get_by_role("region", name="What was found").locator("summary strong")
    expect(groups).to_have_text(
        [
            "Relief valve",
            "Descale",
            "Pressure",
            "Cleaned",
            "Measured besides",
            "Parts fitted",
            "Looked at besides",
            "Agreed at the door",
            "At the faucet",
        ]
    )
    opens(page, "Descale")
    page.get_by_role("radio", name="moderate").click()
    saves(page)
    expect(page.get_by_role("heading", name=re.compile("^Descale:"))).to_be_visible()


def test_every_target_is_big_enough_for_a_glove(person):
    page = person("technician", phone=True).goes_to(f"/visit/{gas_tank().pk}")
    last_page(page)
    opens(page, "Flush")
    expect(page.get_by_role("radio", name="heavy")).to_be_visible()
    for role in ("radio", "button", "link"):
        for target in page.get_by_role(role).all():
            # What leads past the head shows itself only to who tabs to it.
            if target.is_visible() and target.bounding_box()["width"] > 1:
                assert target.bounding_box()["height"] >= 44, target.inner_text()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_an_expansion_tank_is_checked_and_a_torn_bladder_is_told(person):
    heater = Heater.objects.filter(kind__endswith="_tank", parts__kind="expansion_tank").order_by("pk")[0]
    page = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    last_page(page)
    opens(page, "Expansion tank")
    page.get_by_role("radio", name="Water comes out").click()
    saves(page)
    expect(page.get_by_text("the bladder is torn: to be replaced")).to_be_visible()


def test_a_drawn_visit_asks_for_a_measurement(person, monkeypatch):
    monkeypatch.setattr("aquifer.core.measuring.is_drawn", lambda *_: True)
    heater = gas_tank()
    page = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    last_page(page)
    expect(page.get_by_role("heading", name="This visit was drawn for a measurement")).to_be_visible()
    opens(page, "Flush")
    page.get_by_label("Depth of the deposit").fill("14")
    # Far from what is believed of this tank: it is asked about, and kept.
    expect(page.get_by_text(re.compile("14 mm is unusual"))).to_be_visible()
    page.get_by_label("Depth of what is left").fill("3")
    page.get_by_role("radio", name="moderate").click()
    saves(page)
    expect(page.get_by_text("Measured 14 mm")).to_be_visible()
    assert Finding.objects.filter(heater=heater, depth_before_mm=14, depth_after_mm=3, removed="moderate").exists()


def comes(page, records) -> None:
    """Wait until a phone has sent something: it does so when it can."""
    for _ in range(300):
        if records.exists():
            return
        page.wait_for_timeout(50)
    raise AssertionError(f"{page.url} sent nothing of {records.model.__name__}")


def test_two_devices_at_one_heater_are_one_visit(person):
    heater = gas_tank()
    first = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    last_page(first)
    opens(first, "Relief valve")
    first.get_by_role("radio", name="Ran freely").click()
    expect(first.get_by_role("radio", name="Ran freely")).to_be_checked()
    comes(first, Event.objects.filter(kind="answered"))
    second = person("lead", phone=True).goes_to(f"/visit/{heater.pk}")
    expect(second.get_by_role("heading", name="A visit is under way here")).to_be_visible()
    second.get_by_role("button", name="Go on with it on this device").click()
    expect(second.get_by_text(re.compile("^step .* of"))).to_be_visible()
    second.goto(second.url.rstrip("/") + "/close")
    expect(second.locator("summary").filter(has_text="Relief valve Ran freely")).to_be_visible()
    opens(second, "Flush")
    second.get_by_role("radio", name="trace").click()
    # What one tells, the other shows.
    expect(first.locator("summary").filter(has_text="Flush trace")).to_be_visible()
    saves(first)
    expect(first.get_by_role("heading", name="Visit saved: new due dates")).to_be_visible()
    expect(second.get_by_role("heading", name="Saved on another device")).to_be_visible()
    second.get_by_role("button", name="See what is recorded").click()
    expect(second.get_by_text("it stands once")).to_be_visible()
    visit = Visit.objects.get(heater=heater, recorded_by__isnull=False)
    assert {one.task for one in visit.findings.all()} == {"relief_valve_exercise", "flush"}


def test_a_visit_begun_by_mistake_is_set_aside_and_stands_in_nobodys_way(person):
    heater = gas_tank()
    phone = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    phone.get_by_role("button", name=re.compile("^Begin")).click()
    phone.get_by_role("button", name="Done", exact=True).click()
    expect(phone.get_by_text(re.compile("^step 4 of"))).to_be_visible()
    phone.get_by_role("link", name="Leave").click()
    phone.get_by_role("button", name="Set aside", exact=True).click()
    phone.get_by_role("button", name="Nobody let us in").click()
    phone.get_by_role("button", name="Set this visit aside").click()
    expect(phone.get_by_role("region", name="Under way")).to_have_count(0)
    # Whoever asks before that is told of a visit under way.
    comes(phone, Event.objects.filter(kind="set_aside"))
    other = person("lead", phone=True).goes_to(f"/visit/{heater.pk}")
    expect(other.get_by_role("button", name=re.compile("^Begin"))).to_be_visible()
    expect(other.get_by_role("heading", name="A visit is under way here")).to_have_count(0)
    assert [one.body["why"] for one in Event.objects.filter(kind="set_aside")] == ["Nobody let us in"]
    assert not Visit.objects.filter(heater=heater, recorded_by__isnull=False).exists()


def test_the_lead_is_asked_from_a_step_and_answers_into_it(person):
    heater = gas_tank()
    phone = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    phone.get_by_role("button", name=re.compile("^Begin")).click()
    phone.get_by_role("button", name="Ask the lead").click()
    phone.get_by_role("button", name="Go on, or leave it?").click()
    expect(phone.get_by_text("No answer yet")).to_be_visible()
    comes(phone, Event.objects.filter(kind="asked"))
    office = person("lead").goes_to("/outlook")
    office.get_by_role("link", name="One question from a visit").click()
    office.get_by_label("What to do, and why").fill("Take the pan off first")
    office.get_by_role("button", name="Go on", exact=True).click()
    expect(office.get_by_text("Take the pan off first")).to_be_visible()
    expect(phone.get_by_text("Take the pan off first")).to_be_visible()


def test_a_photograph_taken_at_a_step_is_in_the_report(person, tmp_path):
    heater = gas_tank()
    file = tmp_path / "rod.jpg"
    Image.effect_mandelbrot((900, 600), (-2, -1, 1, 1), 40).convert("RGB").save(file)
    page = person("technician", phone=True).goes_to(f"/visit/{heater.pk}")
    page.get_by_role("button", name=re.compile("^Begin")).click()
    page.locator("input[type=file]").set_input_files(file)
    expect(page.get_by_role("button", name="1 kept, more")).to_be_visible()
    page.goto(page.url.rstrip("/") + "/close")
    opens(page, "Relief valve")
    page.get_by_role("radio", name="Ran freely").click()
    saves(page)
    expect(page.get_by_role("heading", name="Visit saved: new due dates")).to_be_visible()
    comes(page, Attachment.objects.filter(heater=heater).exclude(visit_client_id=None))
    visit = Visit.objects.select_related("heater__site").get(heater=heater, recorded_by__isnull=False)
    ((_, photograph),) = report.content(visit)["photographs"]
    assert photograph.width == 900 and photograph.caption.startswith("Sniff low")


CAMERA = """([matrix, allowed]) => {
  navigator.mediaDevices.getUserMedia = async () => {
    if (!allowed) throw new DOMException('denied', 'NotAllowedError')
    const canvas = Object.assign(document.createElement('canvas'), { width: 640, height: 480 })
    const paint = canvas.getContext('2d')
    const draw = () => {
      paint.fillStyle = '#aaa'
      paint.fillRect(0, 0, 640, 480)
      matrix.forEach((row, y) => row.forEach((dark, x) => {
        paint.fillStyle = dark ? '#282828' : '#c8c8c8'
        paint.fillRect(160 + 9 * x, 80 + 9 * y, 9, 9)
      }))
    }
    setInterval(draw, 100)
    draw()
    return canvas.captureStream(10)
  }
}"""
"""A camera that holds still before a code in grey light: the browser of the tests has none of its own."""


def test_the_camera_reads_a_label_and_opens_its_heaters_visit(person):
    heater, technician = gas_tank(), person("technician", phone=True)

    def scans(words: str, allowed: bool = True):
        code = [[int(dark) for dark in row] for row in segno.make(words, error="m", micro=False).matrix]
        page = technician.goes_to("/visit")
        page.evaluate(CAMERA, [code, allowed])
        page.get_by_role("button", name="Scan a tag").click()
        return page

    # Drawing the code and reading it are both the processor's: on a busy machine that takes its time.
    page = scans(f"{technician.server}/t/{heater.tag}")
    page.wait_for_url(f"{technician.server}/visit/{heater.pk}")
    page = scans("https://elsewhere.invalid/menu")
    expect(page.get_by_text("That code is none of our labels.")).to_be_visible()
    # Whoever gives no camera is told what to do instead.
    page = scans("x", allowed=False)
    expect(page.get_by_text("The camera was not allowed. Type the number on the tag instead.")).to_be_visible()

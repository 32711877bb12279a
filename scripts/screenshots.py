"""Refresh docs/screenshots from a running ./run with the demo data: python scripts/screenshots.py [address]."""

import re
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright

ADDRESS = sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8000"
FOLDER = Path(__file__).resolve().parent.parent / "docs" / "screenshots"
TANK = "CHK-0089"
CALLER = "wenders"
FILE = (
    "Quillmoor Water Heater Co. -- master list,,,,,,,\n"
    "Cust #,Client,Service address,Phone,Unit type,Gal,In service,Remarks\n"
    '901,"HARROW, Ines","12 Mill Ln, Quillmoor 00021",555-555-0101,gas,50,2014?,dog in yard\n'
    ',Dov Tasker,"9 Weir St, Quillmoor 00021",call son,HPWH,2 x 50,before we came,\n'
    '902,Maud Ferrier,"3 Quay Rd, Quillmoor 00022",,?,75g,6/2/19,T&P drips\n'
    '903,Piet Olander,"77 Quay Rd, Quillmoor 00022",,elec,40,2011,SKIP - sold 2023\n'
)


def signed_in(browser: Browser, role: str, width: int, height: int) -> Page:
    page = browser.new_page(viewport={"width": width, "height": height})
    page.goto(f"{ADDRESS}/sign-in")
    page.get_by_role("button", name=role).click()
    page.wait_for_url(re.compile("/(outlook|visit)"))
    return page


def keep(page: Page, name: str) -> None:
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(400)
    page.screenshot(path=FOLDER / f"{name}.png")


def practise(page: Page) -> None:
    """A flush under way, the tank cut open."""
    page.goto(f"{ADDRESS}/bench/practise/gas_yearly?way=guided&heater=2")
    page.get_by_role("button", name="stop").click()
    for name in ("Cut it open", "Tell the house", "Follow the relief pipe", "Hose on", "Hose into a bucket"):
        page.get_by_role("button", name=name).click()
    page.get_by_role("button", name=re.compile("^dial: ")).click()
    page.get_by_role("button", name=re.compile("^drain: ")).click()
    page.get_by_role("button", name="wait 10 s").click()
    page.get_by_text("The hose runs").wait_for()
    keep(page, "practice")


def looked_into(page: Page) -> None:
    """A complaint half looked into: what was measured so far stands under its knot."""
    page.goto(f"{ADDRESS}/bench/find/hums_and_stops?way=guided&heater=3")
    for point, deed in (
        ("Air in the room", "Sniff low and high"), ("Plug and display", "Look"), ("Hot faucet", "Read it"),
        ("Dial", "Turn above the heat"), ("Fan", "Look while it calls"), ("Vacuum switch", "Suck on it"),
        ("Plug and display", "Pull it"), ("Igniter", "Ohms"),
    ):  # fmt: skip
        page.get_by_role("button", name=re.compile(f"^{point}( |$)")).click()
        page.get_by_role("group", name=f"At: {point}").get_by_role("button", name=deed, exact=True).click()
        page.locator("[aria-busy=true]").wait_for(state="detached")
    keep(page, "fault")


with sync_playwright() as playwright:
    flags = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]
    browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=flags)
    office = signed_in(browser, "Planner", 1280, 800)
    office.goto(f"{ADDRESS}/outlook?order=benefit")
    keep(office, "outlook")
    office.goto(f"{ADDRESS}/register")
    keep(office, "register")
    office.keyboard.press("/")
    office.keyboard.type(TANK)
    office.get_by_role("option").first.click()
    office.get_by_role("heading", name="As we believe it is today").wait_for()
    keep(office, "heater")
    heater = office.url.rsplit("/", 1)[1]
    office.goto(f"{ADDRESS}/rounds")
    office.get_by_role("group", name="Days").wait_for()
    full = office.get_by_role("group", name="Days").get_by_role("button").all()
    max(
        full, key=lambda one: int((one.get_attribute("aria-label") or "0 visits").split("h, ")[-1].split(" ")[0])
    ).click()
    office.wait_for_load_state("networkidle")
    office.get_by_role("group", name="Rounds of the day").get_by_role("button").nth(1).click()
    office.get_by_role("region", name="Where it could go").get_by_text("it is here").wait_for()
    keep(office, "rounds")
    office.goto(f"{ADDRESS}/rounds/customers")
    office.get_by_role("button", name="Offer the coming fortnight").click()
    write = office.get_by_role("button", name="Write to")
    write.or_(office.get_by_text("No visit of the coming fortnight")).wait_for()
    if write.count() and write.is_enabled():
        write.click()
        office.get_by_role("button", name="To the list").click()
    else:
        # They were written to when this ran before.
        office.keyboard.press("Escape")
    # What was done can be taken back for a while; where that has gone by, nothing hides the page.
    for closing in office.get_by_role("button", name="Keep it").all():
        closing.click()
    office.get_by_role("button", name="The offer").first.click()
    keep(office, "customers")
    office.keyboard.press("/")
    office.keyboard.type(CALLER)
    office.get_by_role("option").first.wait_for()
    office.keyboard.press("Shift+Enter")
    office.get_by_role("region", name="Free times").get_by_role("listitem").first.wait_for()
    keep(office, "call")
    for name, path in (
        ("site", "/sites/25"),
        ("season", "/rounds/season"),
        ("water", "/water"),
        ("review", "/review?of=scale"),
        ("bench", "/bench"),
        ("ahead", "/review/ahead"),
    ):
        office.goto(f"{ADDRESS}{path}")
        keep(office, name)
    practise(office)
    looked_into(office)
    office.goto(f"{ADDRESS}/register/files")
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "our list.csv"
        file.write_text(FILE)
        office.locator("#file").set_input_files(file)
        office.get_by_role("button", name="See what it would do").click()
        office.get_by_role("button", name="Check the file so").click()
        office.get_by_text("3 new").wait_for()
    keep(office, "files")
    phone = signed_in(browser, "Technician", 390, 844)
    phone.goto(f"{ADDRESS}/visit")
    phone.get_by_role("link").nth(1).wait_for()
    # Poor on a day on which nobody works: take it on another.
    keep(phone, "my-day")
    phone.goto(f"{ADDRESS}/visit/{heater}")
    flush = phone.get_by_role("button", name="Flush")
    flush.wait_for()
    if flush.get_attribute("aria-pressed") == "false":
        flush.click()
        phone.wait_for_timeout(800)
    keep(phone, "visit-briefing")
    phone.get_by_role("button", name="Begin").click()
    phone.get_by_text("step 1 of").wait_for()

    def on_to(answer: str) -> None:
        """Steps on until one that asks for this."""
        while not phone.get_by_role("radio", name=answer, exact=True).count():
            # Nobody looks faster than the guide believes.
            phone.wait_for_timeout(2200)
            done = phone.get_by_role("button", name="Done", exact=True)
            way = phone.get_by_role("alert").get_by_role("button").first
            (done if done.count() and done.is_enabled() else way).click()
            phone.wait_for_timeout(100)
        phone.wait_for_timeout(300)

    on_to("heavy")
    phone.get_by_role("radio", name="heavy").click()
    phone.get_by_role("radio", name="flakes").click()
    keep(phone, "visit-guide")
    phone.goto(f"{ADDRESS}/visit/{heater}/close")
    for group, answer in (
        ("Look", "pops, knocks"),
        ("Relief valve", "Ran freely"),
        ("Anode", "half"),
        ("Cleaned", "some dust"),
    ):
        summary = phone.locator("summary").filter(has_text=group).first
        summary.click()
        phone.get_by_role("radio", name=answer).click()
        summary.click()
    keep(phone, "visit-close")
    phone.get_by_role("button", name="Save the visit").click()
    phone.get_by_role("heading", name="Visit saved: new due dates").wait_for()
    browser.close()

"""A company's first day: from an empty installation to a plan, through the interface alone, with its clicks counted."""

import re
import time

import pytest
from playwright.sync_api import expect

from aquifer import first_start
from tests.e2e.conftest import PATIENCE_S

TOWNS = "town,postcode,latitude,longitude\nTarn Bridge,00031,44.11,-112.87\nUpper Tarn,00032,44.16,-112.80\n"
KINDS = ("nat gas", "LP", "elec", "HP / hybrid", "tankless gas", "?")
SIZES = ("50 gal", "40", "2 x 50", "80gal.", "", "75g")


def office_list(rows: int) -> str:
    lines = [
        "Tarn Plumbing -- everybody we look after,,,,,,,,",
        "",
        "Acct,Bill to,Service addr.,Phone,WH type,Size,Put in,Set at,Remarks",
    ]
    for n in range(rows):
        town = ("Tarn Bridge 00031", "Upper Tarn 00032")[n % 2]
        put_in = ("2014?", "6/2/19", "??", "Jun 2021", "~2017")[n % 5]
        remark = "SKIP - sold 2024" if n == 7 else ("dog", "", "attic, 2 people")[n % 3]
        row = f'T-{n:03d},Customer {n},"{10 + n} Mill Ln, {town}",555-555-01{n % 90 + 10},{KINDS[n % 6]},{SIZES[n % 6]}'
        lines.append(f'{row},{put_in},{("120", "140F", "49C", "hot")[n % 4]},"{remark}"')
    return "\n".join([*lines, ",Total,,,,,,,"])


class Counted:
    """A person at a page whose clicks and keys are counted at two seconds each."""

    def __init__(self, page):
        self.page, self.clicks = page, 0

    def clicks_on(self, name, role="button"):
        self.clicks += 1
        self.page.get_by_role(role, name=name).click()

    def fills(self, label, text):
        self.clicks += 1
        self.page.get_by_label(label, exact=True).fill(text)

    def chooses(self, label, value):
        self.clicks += 2
        self.page.get_by_label(label, exact=True).select_option(value)

    def sends(self, path):
        self.clicks += 3
        self.page.set_input_files("#file", path)
        self.clicks_on("See what it would do")


def worked(needed: int = 1) -> None:
    """The worker's jobs, done here."""
    from aquifer.company.clock import by_its_clock
    from aquifer.imports import run as imports
    from aquifer.imports.models import ImportRun
    from aquifer.rounds import run as rounds
    from aquifer.rounds.models import Run, RunState

    until, done = time.monotonic() + PATIENCE_S, 0
    while done < needed and time.monotonic() < until:
        for pk in ImportRun.objects.filter(state="checking").values_list("pk", flat=True):
            by_its_clock(imports.check)(pk)
            done += 1
        for pk in ImportRun.objects.filter(state="applying").values_list("pk", flat=True):
            by_its_clock(imports.bring_in)(pk)
            done += 1
        for pk in Run.objects.filter(state=RunState.WAITING).values_list("pk", flat=True):
            by_its_clock(rounds.work_on)(pk)
            done += 1
        time.sleep(0.1)
    assert done >= needed, "no job came"


@pytest.mark.usefixtures("transactional_db")
def test_from_an_empty_installation_to_a_plan(browser, live_server, tmp_path, monkeypatch):
    from aquifer.forecasts.models import Forecast
    from aquifer.heaters.models import Heater
    from aquifer.rounds import rounds

    monkeypatch.setattr(rounds, "SECONDS_A_WEEK", 0.3)
    monkeypatch.delenv("AQUIFER_DEMO", raising=False)
    page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    lead = Counted(page)
    page.goto(f"{live_server.url}/first-start?key={first_start.key()}")
    lead.fills("Company", "Tarn Plumbing")
    lead.chooses("Time zone", "America/Denver")
    lead.fills("Yard on the map", "44.112, -112.871")
    lead.fills("Your name", "Petra")
    lead.fills("Sign-in name", "petra")
    lead.fills("Password", "seven brass unions")
    for one in ("Gas", "Electrical", "Plumbing", "jetter", "descaling pump"):
        lead.clicks_on(one, "checkbox")
    lead.clicks_on("Begin")
    page.wait_for_url("**/register/files")

    towns, own = tmp_path / "towns.csv", tmp_path / "our list.csv"
    towns.write_text(TOWNS)
    own.write_text(office_list(60), encoding="cp1252")
    lead.chooses("It lists", "places")
    lead.sends(towns)
    worked()
    lead.clicks_on("Bring in all 2 rows")
    worked()
    lead.chooses("It lists", "list")
    lead.sends(own)
    worked()
    page.get_by_label("? means").wait_for()
    lead.clicks_on("Check the file so")
    worked()
    page.get_by_text("59 new").wait_for()
    # The tally comes with the file, its rows a moment later.
    expect(page.get_by_text("2 left out")).to_be_visible()
    expect(page.get_by_text("2 x electric tank 50 gal").first).to_be_visible()
    lead.clicks_on("Bring in all 59 rows")
    worked()
    page.get_by_role("button", name="Take it all out again").wait_for()

    lead.clicks_on("Rounds", "link")
    lead.clicks_on("The season", "link")
    lead.clicks_on("Plan the season")
    worked()
    page.get_by_role("button", name="Plan again").wait_for()
    expect(page.get_by_role("main")).to_contain_text(re.compile(r"\d+ visits for \d+ services"))
    expect(page.get_by_text("The last planning failed")).to_have_count(0)
    assert lead.clicks <= 60, lead.clicks

    assert Heater.objects.count() == 69 and Heater.objects.filter(kind_seen=False).count() == 10
    assert Heater.objects.filter(site__located_by="town").count() == 69
    assert not Forecast.objects.current().filter(due_on__lt=Heater.objects.first().in_care_since).exists()
    page.context.close()


def test_the_lead_sets_up_the_office_without_the_administration(person, browser, live_server):
    page = person("lead").goes_to("/outlook")
    page.get_by_role("button", name="Lead", exact=True).click()
    page.get_by_role("menuitem", name="Settings").click()
    page.get_by_label("Telephone").fill("555-0177")
    page.get_by_label("Clock").select_option("12")
    expect(page.get_by_label("Clock")).to_have_value("12")
    page.get_by_role("link", name="Crew").click()
    week = page.get_by_role("group", name="Days of Nadia Thornley")
    week.get_by_role("button", name="Saturday").click()
    expect(week.get_by_role("button", name="Saturday")).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_label("Nadia Thornley begins")).to_have_value("7:30 am")
    page.get_by_label("Who", exact=True).select_option(label="Joss Averill")
    page.get_by_label("Why").fill("ill")
    page.get_by_role("button", name="Enter it").click()
    expect(page.get_by_text("Joss Averill, ill")).to_be_visible()
    page.get_by_role("link", name="People").click()
    page.get_by_role("button", name="New account").click()
    page.get_by_label("First name").fill("Rika")
    page.get_by_label("Signs in as").fill("rika")
    page.get_by_role("checkbox", name="gas").check()
    page.get_by_role("button", name="Save", exact=True).click()
    page.get_by_role("button", name="Password link for Rika").click()
    link = page.get_by_role("textbox", name="Link for Rika").input_value()
    page.get_by_role("link", name="Who changed what").click()
    expect(page.get_by_text("Absence ill added")).to_be_visible()
    expect(page.get_by_text("Company phone")).to_contain_text("555-0177")
    someone = browser.new_context().new_page()
    someone.goto(link)
    someone.get_by_label("New password").fill("seven brass unions")
    someone.get_by_role("button", name="Set it and sign in").click()
    expect(someone.get_by_role("link", name="Outlook")).to_be_visible()
    # What a person sets holds for the next page of everybody.
    someone.goto(f"{live_server.url}/rounds")
    expect(someone.get_by_text(re.compile(r"\d [ap]m")).first).to_be_visible()
    someone.context.close()

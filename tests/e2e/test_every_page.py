"""Every page, as a company in US units sees it: no metric unit, a name of its own, and nothing that axe finds."""

import re

import pytest
from django.utils import timezone
from playwright.sync_api import Page, expect

from aquifer.company.clock import by_its_clock
from aquifer.company.models import Company
from aquifer.core.kinds import HeaterKind
from aquifer.customers.models import Site
from aquifer.heaters.models import Heater
from aquifer.projections import tasks
from aquifer.projections.models import Projection
from aquifer.water.models import Zone
from tests.e2e.conftest import Person, settled, violations

pytestmark = pytest.mark.e2e
METRIC = re.compile(r"\b(mm|cm|kPa|degC|mg/L|L/min|litres?|kW|kg)\b|°C|(?<![\w.])\d[\d.,]* ?(L|g/L|m²)(?![\w/])")
RECORDS = (
    "/outlook", "/outlook?order=benefit", "/register", "/register/open-ends", "/register/gaps", "/register/duplicates",
    "/register/files", "/water", "/glossary", "/nowhere", "/visit", "/account", "/rounds", "/rounds/customers",
    "/rounds/stock", "/rounds/money",
)  # fmt: skip
OFFICE = (
    "/rounds/season", "/review", "/review/practices", "/review/tanks", "/review/ahead", "/review/steps", "/bench",
    "/review/months", "/review/work", "/review/hours",
    "/bench/practise", "/bench/signed-off", "/bench/calculators", "/bench/practise/gas_yearly?way=guided",
    "/bench/practise/electric_yearly?way=free", "/bench/find", "/bench/find/stone_cold?way=guided",
    "/settings", "/settings/practice", "/settings/people", "/settings/crew", "/settings/messages", "/settings/programs",
    "/settings/jobs", "/settings/record", "/settings/programs/interface",
)  # fmt: skip
SEEN = """() => [
  document.getElementById('root').innerText,
  ...[...document.querySelectorAll('[aria-label], [title], [placeholder]')].flatMap((one) =>
    ['aria-label', 'title', 'placeholder'].map((name) => one.getAttribute(name) ?? '')),
  ...[...document.querySelectorAll('svg text, svg title')].map((one) => one.textContent),
].join(' | ')"""
NARROW, SCREEN = {"width": 320, "height": 640}, {"width": 1280, "height": 800}
"""A small phone, or a screen of 1280 pixels at 400 %."""
SPACED = """() => {
  const sheet = new CSSStyleSheet()
  sheet.replaceSync(`* { line-height: 1.5 !important; letter-spacing: .12em !important;
    word-spacing: .16em !important } p { margin-bottom: 2em !important }`)
  document.adoptedStyleSheets = [sheet]
  const cut = [...document.querySelectorAll('#root *')].filter((one) => {
    const style = getComputedStyle(one)
    return !one.closest('.sr-only, svg') && one.children.length === 0 && one.textContent.trim()
      && ((style.overflowX === 'hidden' && one.scrollWidth > one.clientWidth + 1)
        || (style.overflowY === 'hidden' && one.scrollHeight > one.clientHeight + 2))
  }).map((one) => one.textContent.slice(0, 60))
  document.adoptedStyleSheets = []
  return cut
}"""
"""What is cut off once letters and lines stand as far apart as WCAG 2.2, 1.4.12, asks."""
UNSIZED = """() => [...document.querySelectorAll('#root svg')].filter((one) =>
  !one.hasAttribute('height') && !one.hasAttribute('viewBox') && one.getBoundingClientRect().height === 150
).map((one) => `a drawing as high as one that nobody gave a height: ${one.outerHTML.slice(0, 60)}`)"""
SETTINGS = "/settings"
"""Where units are chosen, and the words for machines: both name metric ones."""


def metric_in(text: str) -> list[str]:
    # Conductivity is told so everywhere.
    said = text.replace("µS/cm", "")
    return [said[max(0, found.start() - 40) : found.end() + 20] for found in METRIC.finditer(said)]


def years_lived(decision: dict[str, object]) -> Projection:
    """The years ahead as it is and under a decision, lived here."""
    every = [
        tasks.ask(Projection(asked_on=timezone.localdate(), years=5, decisions=decisions))
        for decisions in ([], [decision])
    ]
    for projection in every:
        for part in projection.parts.all():
            by_its_clock(tasks.live.func)(part_id=part.pk)
    return every[1]


def too_wide(page: Page) -> list[str]:
    """What moves sideways as a whole on a phone; a board may do so inside its own frame."""
    page.set_viewport_size(NARROW)
    # Drawings follow their frames a moment later.
    for _ in range(20):
        wide = page.evaluate("() => document.documentElement.scrollWidth")
        if wide <= NARROW["width"]:
            break
        page.wait_for_timeout(50)
    page.set_viewport_size(SCREEN)
    return [f"{wide} pixels wide on a phone"] if wide > NARROW["width"] else []


def crawled(lead: Person, paths: list[str], by_axe: bool) -> tuple[dict[str, list[str]], set[str]]:
    """What is wrong on each page, its tabs included, and the pages' titles."""
    page, wrong, titles = lead.page, {}, set()
    for path in paths:
        lead.goes_to(path)
        # A page names itself when it stands: before that, on a busy machine, there is the frame alone to read.
        expect(page).to_have_title(re.compile(r"\S · Aquifer$"))
        settled(page)
        texts = [page.evaluate(SEEN)]
        found = violations(page) if by_axe else []
        for tab in page.get_by_role("tab").all():
            tab.click()
            settled(page)
            texts.append(page.evaluate(SEEN))
        assert len(texts[0]) > 40, path
        titles.add(page.title())
        found += page.evaluate(UNSIZED) + too_wide(page)
        found += [f"cut off: {one}" for one in page.evaluate(SPACED)]
        if not path.startswith(SETTINGS):
            found += [one for text in texts for one in metric_in(text)]
        if found:
            wrong[path] = found
    return wrong, titles


@pytest.mark.parametrize("half", [0, 1])
@pytest.mark.parametrize("paths", [RECORDS, OFFICE], ids=["records", "office"])
def test_a_page_of_the_office(person, district, paths, half):
    Company.objects.update(units="us", hardness_unit="gpg")
    asked = list(paths[half::2])
    if paths is OFFICE:
        tried = years_lived({"kind": "softeners", "value": 250.0, "share": 0.3})
        asked.append(f"/review/ahead?with={tried.pk}&what=left")
    if paths is RECORDS:
        asked.append((f"/sites/{Site.objects.first().pk}", f"/water/{Zone.objects.first().pk}")[half])
    wrong, titles = crawled(person("lead"), asked, by_axe=True)
    assert wrong == {}
    # A tab is told from the others by its title.
    assert len(titles) >= len({path.partition("?")[0] for path in asked}) - 1


@pytest.mark.parametrize("half", [0, 1])
def test_a_page_of_each_kind_of_heater_and_its_visit(person, district, half):
    Company.objects.update(units="us", hardness_unit="gpg")
    kinds = [Heater.objects.in_service().filter(kind=kind).first() for kind in HeaterKind]
    heaters = [one for one in kinds if one is not None]
    assert len(heaters) >= 6
    asked = [f"/{place}/{one.pk}" for one in heaters[half::2] for place in ("heaters", "visit")]
    wrong, titles = crawled(person("lead"), asked, by_axe=False)
    assert wrong == {} and len(titles) > len(asked) / 2

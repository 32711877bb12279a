"""A company in US units sees no metric unit, on any page and in nothing that it sends."""

import re

import pytest
from playwright.sync_api import expect

from aquifer.company.models import Company
from aquifer.core.kinds import HeaterKind
from aquifer.customers.models import Site
from aquifer.heaters.models import Heater
from aquifer.water.models import Zone
from tests.e2e.conftest import settled

pytestmark = pytest.mark.e2e
METRIC = re.compile(r"\b(mm|cm|kPa|degC|mg/L|L/min|litres?|kW|kg)\b|°C|(?<![\w.])\d[\d.,]* ?(L|g/L|m²)(?![\w/])")
OFFICE = (
    "/outlook", "/rounds", "/rounds/season", "/rounds/customers", "/rounds/stock", "/rounds/money", "/review",
    "/review/practices", "/review/tanks", "/review/ahead",
    "/review/steps", "/register", "/register/open-ends", "/register/gaps",
    "/bench", "/bench/practise", "/bench/calculators", "/bench/practise/gas_yearly?way=guided",
    "/register/duplicates", "/water", "/glossary", "/visit",
)  # fmt: skip
SEEN = """() => [
  document.getElementById('root').innerText,
  ...[...document.querySelectorAll('[aria-label], [title], [placeholder]')].flatMap((one) =>
    ['aria-label', 'title', 'placeholder'].map((name) => one.getAttribute(name) ?? '')),
  ...[...document.querySelectorAll('svg text, svg title')].map((one) => one.textContent),
].join(' | ')"""


def metric_in(text: str) -> list[str]:
    # Conductivity is told so everywhere.
    said = text.replace("µS/cm", "")
    return [said[max(0, found.start() - 40) : found.end() + 20] for found in METRIC.finditer(said)]


def test_no_page_shows_a_metric_unit_to_a_company_in_us_units(person, district):
    Company.objects.update(units="us", hardness_unit="gpg")
    kinds = [Heater.objects.in_service().filter(kind=kind).first() for kind in HeaterKind]
    heaters = [one for one in kinds if one is not None]
    assert len(heaters) >= 6
    lead = person("lead")
    page = lead.page
    pages = [*OFFICE, f"/sites/{Site.objects.first().pk}", f"/water/{Zone.objects.first().pk}"]
    pages += [f"/{place}/{one.pk}" for one in heaters for place in ("heaters", "visit")]
    wrong, titles = {}, set()
    for path in pages:
        lead.goes_to(path)
        # A page names itself when it stands: before that, on a busy machine, there is the frame alone to read.
        expect(page).to_have_title(re.compile(r"\S · Aquifer$"))
        settled(page)
        texts = [page.evaluate(SEEN)]
        for tab in page.get_by_role("tab").all():
            tab.click()
            settled(page)
            texts.append(page.evaluate(SEEN))
        assert len(texts[0]) > 40, path
        titles.add(page.title())
        if found := [one for text in texts for one in metric_in(text)]:
            wrong[path] = found
    assert wrong == {}
    # A tab is told from the others by its title.
    assert len(titles) > len(OFFICE)

"""Job books made by chance, of customers that are on record: who it was, when, and what was done come in as they are,
whatever the columns are called and in whichever order they stand."""

import csv
import datetime
import io
import random

import pytest

from aquifer.company.models import Company
from aquifer.imports.models import RowAction
from aquifer.visits.models import Visit
from tests.conftest import examples
from tests.formats.test_made_lines import line
from tests.imports.made_offices import TODAY, WORDS, Known, known
from tests.imports.test_made_offices import UNITS
from tests.imports.test_office_list import brought_in, matched, sent

HEADER = {
    "us": {
        "on": ["Date", "Job date", "Date of service", "Completed", "When", "Day", "Svc date", "Date done"],
        "name": ["Customer", "Client", "Name", "Who", "Bill to", "Homeowner", "Account"],
        "address": ["Address", "Job address", "Where", "Site", "Location", "Service address", "Street"],
        "done": ["Work done", "What was done", "Description", "Notes", "Job", "Findings", "What we did"],
        "by": ["Tech", "Technician", "By", "Done by", "Plumber", "Crew"],
        "beside": ["Invoice #", "Amount", "$", "WO #", "Paid", "Next due", "Hours"],
    },
    "gb": {
        "on": ["Date", "Date of visit", "Visit date", "Job date", "Completed on"],
        "name": ["Customer", "Client", "Name", "Account name", "Householder"],
        "address": ["Address", "Site address", "Property", "Job address", "Premises"],
        "done": ["Work carried out", "Details", "Description", "Engineer's notes", "Work done", "Report"],
        "by": ["Engineer", "Done by", "Plumber", "Attended by"],
        "beside": ["Invoice no.", "Total", "Job no.", "Next service", "Time on site"],
    },
    "de": {
        "on": ["Datum", "Ausgeführt am", "Tag", "Einsatzdatum", "Termin"],
        "name": ["Kunde", "Name", "Auftraggeber", "Kundenname"],
        "address": ["Adresse", "Anschrift", "Objekt", "Einsatzort", "Straße"],
        "done": ["Ausgeführte Arbeiten", "Arbeit", "Tätigkeit", "Was gemacht", "Befund", "Leistung", "Bemerkung"],
        "by": ["Monteur", "Techniker", "Bearbeiter", "Ausgeführt von"],
        "beside": ["Rechnung Nr.", "Betrag", "Auftragsnr.", "Material", "Std."],
    },
}  # fmt: skip
BESIDE = {"us": ["149.00", "2214", "Y", ""], "gb": ["120.00", "J-118", ""], "de": ["89,00", "24-118", ""]}
DAYS = {
    "us": [
        "{0.month}/{0.day}/{0.year}",
        "{0:%m/%d/%y}",
        "{0:%Y-%m-%d}",
        "{0:%b} {0.day}, {0.year}",
        "{0.day}-{0:%b}-{0:%y}",
    ],
    "gb": ["{0:%d/%m/%Y}", "{0.day} {0:%B} {0.year}", "{0.day}.{0.month}.{0:%y}", "{0.day}-{0:%b}-{0:%y}"],
    "de": ["{0:%d.%m.%Y}", "{0.day}.{0.month}.{0:%y}", "{0:%Y-%m-%d}"],
}


def customers(rng: random.Random, tongue: str) -> list[Known]:
    """Some who have one tank each, none of a name or at a place of another."""
    found: dict[tuple[str, str], Known] = {}
    while len(found) < 12:
        one = known(rng, tongue)
        if one.litres and (not one.company or all(one.company != other.company for other in found.values())):
            found.setdefault((one.first, one.last), one)
    return list(found.values())


def written(rows: list[list[str]], rng: random.Random) -> str:
    text = io.StringIO()
    csv.writer(text, delimiter=rng.choice([",", ";", "\t"])).writerows(rows)
    return text.getvalue()


def street(one: Known, tongue: str) -> str:
    return f"{one.street} {one.number}" if tongue == "de" else f"{one.number} {one.street}"


@pytest.mark.parametrize("tongue", ["us", "gb", "de"])
@pytest.mark.parametrize("seed", range(examples(6, 300)))
def test_what_a_book_made_by_chance_says_was_done_is_what_comes_in(db, people, monkeypatch, tongue, seed):
    monkeypatch.setattr("django.utils.timezone.localdate", lambda *given: TODAY)
    company, rng = Company.current(), random.Random(f"{tongue} {seed}")
    company.units, company.hardness_unit = UNITS[tongue]
    company.save()
    theirs = customers(rng, tongue)
    head = [WORDS[tongue]["header"][name][0] for name in ("name", "street", "town", "kind", "installed")]
    rows = [
        [
            one.company or f"{one.first} {one.last}", street(one, tongue), one.town,
            WORDS[tongue]["kinds"][one.kind][0], str(one.installed.year),
        ]
        for one in theirs
    ]  # fmt: skip
    brought_in(matched(sent(people, written([head, *rows], rng))))
    day, header = rng.choice(DAYS[tongue]), {of: rng.choice(names) for of, names in HEADER[tongue].items()}
    order = ["on", "name", *rng.sample(["address", "done", "by", "beside"], 4)]
    if rng.random() < 0.3:
        rng.shuffle(order)
    last_first = rng.random() < 0.4
    meant: dict[int, tuple[str, datetime.date, set[str]]] = {}
    book = [[header[of] for of in order]]
    for number in range(2, 26):
        one = rng.choice(theirs)
        on = datetime.date(2024, 6, 1) + datetime.timedelta(days=35 * number)
        text, means = line(rng.randrange(10**6), "de" if tongue == "de" else "us")
        name = one.company or (f"{one.last}, {one.first}" if last_first else f"{one.first} {one.last}")
        cells = {
            "on": day.format(on), "name": name, "address": street(one, tongue), "done": text, "by": rng.choice("KJM"),
            "beside": rng.choice(BESIDE[tongue]),
        }  # fmt: skip
        book.append([cells[of] for of in order])
        tasks = {what.partition(" ")[0] for what in means}
        if "DLE" not in text:
            # Acid through a tank is its flush; through a tankless one that is not on record it is none of the tank.
            tasks = {"flush" if task == "descale" else task for task in tasks}
        meant[number] = (one.company or f"{one.first} {one.last}", on, tasks)
    run = brought_in(matched(sent(people, written(book, rng), "jobs")))
    decided = {row.number: row for row in run.rows.all()}
    assert all(decided[number].action == RowAction.CREATE for number in meant), (header, decided[2].detail)
    came = {
        (visit.heater.site.customer.name, visit.on): {finding.task for finding in visit.findings.all()}
        for visit in Visit.objects.select_related("heater__site__customer").prefetch_related("findings")
    }
    expected = {(name, on): tasks for name, on, tasks in meant.values()}
    other = {at: (expected[at], came.get(at)) for at in expected if came.get(at) != expected[at]}
    assert not other, header

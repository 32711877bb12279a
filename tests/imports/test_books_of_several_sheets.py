"""Workbooks and printed lists as offices keep them: names of groups over names, a sheet for each town, a town above
each part of a list; each written down whole before it was tried."""

import datetime
import io

import pytest
from openpyxl import Workbook

from aquifer.formats.office import HEADING, office_sheet
from aquifer.imports import run as runs
from tests.imports.test_lists_read_once import read
from tests.imports.test_lists_tried_blind import columns, heaters, unread
from tests.imports.test_office_list import brought_in, matched, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")
DAY = datetime.datetime


def of_workbook(people, book: Workbook):
    file = io.BytesIO()
    book.save(file)
    run = runs.start("list", "list.xlsx", file.getvalue(), people["planner"])
    runs.check(run.pk)
    run.refresh_from_db()
    run = matched(run)
    return run, {row.number: row.detail for row in run.rows.all()}


def test_a_name_that_says_little_has_that_of_its_group(people):
    book = Workbook()
    book.active.title = "READ ME"
    book.active["A1"] = "Do not sort this sheet!"
    sheet = book.create_sheet("Customers")
    for row in (
        ["Wayland Plumbing - heaters we look after"],
        [],
        ["Customer", None, "Where", None, None, "Water heater", None, None, None, "Last visit", None, "Anode", None,
         "Notes"],
        ["Last", "First", "Street", "Town", "Zip", "Type", "Gal", "Year", "Serial", "Date", "Found", "Type", "Changed"],
        ["Abend", "Ruth", "12 Mill Ln", "Wayland", 417.0, "Gas", 50.0, 2014.0, "G-1402 11", DAY(2025, 4, 3),
         "1/2 bucket", "Mg", DAY(2023, 4, 1), "dog"],
        ["Bracken", "Jo", "9 Weir St", "Wayland", 417.0, "Electric", 40.0, DAY(2016, 1, 1), None, DAY(2024, 11, 20),
         "clear", "orig"],
        [None, None, "9 Weir St (shop)", "Wayland", 417.0, "Electric", 20.0, 2019.0, None, DAY(2024, 11, 20), "trace"],
        ["Corrin", None, "31 High Rd", "Upper Wayland", 418.0, "Tankless gas", None, 2021.0, "TX 77-1"],
        ["TOTAL", 5, None, None, None, None, 110.0],
    ):  # fmt: skip
        sheet.append(row)
    run, told = of_workbook(people, book)
    there = columns(run)
    assert [there[name] for name in ("Zip", "Last visit Date", "Last visit Found", "Anode Type", "Anode Changed")] == [
        "postcode", "last_flush", "note", "anode", "anode",
    ]  # fmt: skip
    assert not unread(told) and told[5]["rod"] == "magnesium, since 2023-04-01"
    # At the house above it, in a part that it names.
    assert told[7]["as above"] == "the customer and address of row 6" and told[7]["where it stands"] == "shop"
    brought_in(run)
    assert heaters("site__customer__name", "site__street", "site__postcode", "last_flush_year") == [
        ("Ruth Abend", "12 Mill Ln", "00417", 2025), ("Jo Bracken", "9 Weir St", "00417", 2024),
        ("Jo Bracken", "9 Weir St", "00417", 2024), ("Corrin", "31 High Rd", "00418", None),
    ]  # fmt: skip


def test_sheets_of_one_list_are_read_together_in_whichever_order_their_columns_stand(people):
    book = Workbook()
    first = book.active
    first.title = "Ostmark"
    names = ["Kunde", "Adresse", "Gerät", "Inhalt l", "Baujahr", "Letzte Wartung", "Anode", "Härte"]
    first.append(names)
    first.append(["Ahlers, Ute", "Deichweg 1", "Gasspeicher", 150, 2012, DAY(2025, 5, 2), "Mg 2022", 16])
    first.append(["Bahns GmbH", "Am Tor 4", "2 Elektrospeicher", 80, 2018, "nie", "orig.", 16])
    other = book.create_sheet("Westmark")
    other.append(["Adresse", "Kunde", "Gerät", "Baujahr", "Inhalt l", "Härte", "Letzte Wartung", "Anode", "Bemerkung"])
    other.append(["Hofstr. 3", "Cordes", "DLE 21 kW", 2020, None, 9, "-", "-", "Küche"])
    other.append(["Hofstr. 9", "Dallmann, Fam.", "WP 260", 2022, 260, 9, "03/26", "Fremdstrom", None])
    words = book.create_sheet("Listen")
    words.append(["Gerätetypen", "Kürzel", "Baujahr"])
    words.append(["Gasspeicher", "GS", 2000])
    hidden = book.create_sheet("Stand 2019")
    hidden.append(names)
    hidden.append(["Ebel, Jo", "Deichweg 7", "Gasspeicher", 120, 1998, DAY(2018, 5, 2), "Mg", 16])
    hidden.sheet_state = "hidden"
    run, told = of_workbook(people, book)
    assert columns(run)["Bemerkung"] == "note" and told[5]["sheet"] == "Westmark, row 2"
    assert told[5]["note"].startswith("Küche")
    brought_in(run)
    assert heaters("site__customer__name", "site__street", "kind", "installed_on__year") == [
        ("Ute Ahlers", "Deichweg 1", "gas_tank", 2012), ("Bahns GmbH", "Am Tor 4", "electric_tank", 2018),
        ("Bahns GmbH", "Am Tor 4", "electric_tank", 2018), ("Cordes", "Hofstr. 3", "electric_tankless", 2020),
        ("Fam. Dallmann", "Hofstr. 9", "heat_pump_tank", 2022),
    ]  # fmt: skip


FENN = """,WATER HEATERS,,,,,
LOWER FENN,,,,,,
#,Name,Address,,Heater,Yr,Flushed
1,"Eads, Mo",4 Dike Rd,,G50,'15,9/24
2,Frey,6 Dike Rd,,E40,'09,-
,,,,,,
UPPER FENN,,,,,,
#,Name,Address,,Heater,Yr,Flushed
3,Gant,1 Hill Rd,,LP50,'20,5/25
"""


def test_what_stands_above_a_part_of_a_list_is_its_town(people):
    run, told = read(people, FENN)
    assert columns(run) == {
        "#": "", "Name": "customer", "Address": "address", "Heater": "kind", "Yr": "installed", "Flushed": "last_flush",
        HEADING: "town",
    }  # fmt: skip
    assert [detail.get("town") for detail in told.values()] == ["LOWER FENN", "LOWER FENN", "UPPER FENN"]
    by_round = FENN.replace("LOWER FENN", "Tuesday route").replace("UPPER FENN", "Wednesday route")
    run, _ = read(people, by_round.replace("Flushed", "Last flush"))
    assert columns(run)[HEADING] == "note"


def test_a_header_that_stands_again_with_nothing_above_it_parts_no_list():
    sheet = office_sheet(
        b"Total list,,\nName,Address,Heater\nEads,4 Dike Rd,G50\nName,Address,Heater\nFrey,6 Dike Rd,E40\n"
    )
    assert sheet.header == ["Name", "Address", "Heater"] and [cells[0] for _, cells in sheet.lines] == ["Eads", "Frey"]
    sheet = office_sheet(b"| Name | Heater |\n|------|--------|\n| Eads | G50 |\n| Frey | E40 |\n")
    assert sheet.header == ["Name", "Heater"] and [[one.strip() for one in cells] for _, cells in sheet.lines] == [
        ["Eads", "G50"], ["Frey", "E40"],
    ]  # fmt: skip

"""Lists as other offices keep them: several heaters in a row, ages for years, headings between; all invented here."""

import datetime

import pytest

from aquifer.customers.models import Customer
from aquifer.formats import day_said, heater_said, said
from aquifer.formats.cells import BadCell
from aquifer.heaters.models import Heater, Part
from aquifer.imports import run as runs
from aquifer.imports.heater_columns import heater_numbers
from aquifer.imports.models import ImportState, RowAction
from tests.formats.test_other_books import BEFORE_XLSX
from tests.imports.test_office_list import brought_in, matched, sent, us  # noqa: F401
from tests.workbooks import workbook

pytestmark = pytest.mark.usefixtures("us")

SIDE_BY_SIDE = """Brightwater customers,,,,,,,,,,
,,,,,,,,,,
Cust #,Name,Service Address,Town,WH1 Type,WH1 Gal,WH1 Installed,WH1 S/N,WH2 Type,WH2 Gal,WH2 Installed
1001,"Abernathy, Tom & Ruth",14 Quarry Ln,Millbrook,Gas,50,2016,F15,,,
1002,Corner Bakery,2 Market Sq,Millbrook,Elec,80,2012,,Gas tankless,,2021
1003,Dunmore Apts,77 Hill Rd,Fernhollow,Gas PV,75,6/2018,,Gas PV,2 x 75,6/2018
1004,Estelle Varga,9 Low St,Fernhollow,,,,,Elec lowboy,38,
1005,Wren Odell,3 Low St,Fernhollow,Elec,40,2020,,none,,
"""


def test_a_row_with_two_heaters_brings_in_both(people):
    run = matched(sent(people, SIDE_BY_SIDE))
    guessed = {one["name"]: one["column"] for one in run.columns}
    assert guessed["WH2 Type"] == "kind" and guessed["WH2 Gal"] == "size" and guessed["WH2 Installed"] == "installed"
    told = {row.number: row.detail for row in run.rows.all()}
    assert told[5]["heater"] == "electric tank 80 gal"
    assert told[5]["heater 2"] == "gas tankless, put in about 2021, last flush unknown"
    assert told[6]["heater 2"] == "2 x gas tank powered vent 75 gal, put in 2018-06-15, last flush unknown"
    assert told[7]["heater"] == "electric tank 38 gal" and "heater 2" not in told[7]
    assert "heater 2" not in told[8] and told[8]["note"] == "WH2 Type: none"
    brought_in(run)
    found: dict[str, list[tuple[str, int | None, int | None, str]]] = {}
    for heater in Heater.objects.select_related("site").order_by("tag"):
        year = heater.installed_on.year if heater.installed_on else None
        size = None if heater.capacity_l is None else round(heater.capacity_l / 3.785)
        found.setdefault(heater.site.street, []).append((heater.kind, size, year, heater.serial))
    assert found == {
        "14 Quarry Ln": [("gas_tank", 50, 2016, "F15")],
        "2 Market Sq": [("electric_tank", 80, 2012, ""), ("gas_tankless", None, 2021, "")],
        "77 Hill Rd": [("gas_tank", 75, 2018, "")] * 3,
        "9 Low St": [("electric_tank", 38, None, "")],
        "3 Low St": [("electric_tank", 40, 2020, "")],
    }
    assert set(Heater.objects.filter(kind="gas_tank", capacity_l__gt=200).values_list("vent", flat=True)) == {"powered"}
    # The same list once more adds nothing, of either.
    again = sent(people, SIDE_BY_SIDE)
    assert again.counts == {"same": 5}


def test_a_workbook_of_another_program_is_a_list_like_any_other(people):
    run = runs.start("list", "ours.xls", BEFORE_XLSX, people["planner"])
    runs.check(run.pk)
    run.refresh_from_db()
    assert run.sheets == ["About", "Customers"]
    run = matched(run)
    assert {row.number: row.detail["heater"] for row in run.rows.all()} == {
        4: "gas tank 50 gal", 5: "electric tank 80 gal", 6: "gas tankless",
    }  # fmt: skip
    brought_in(run)
    assert set(Heater.objects.values_list("site__street", "last_flush_year")) == {
        ("14 Quarry Ln", 2024), ("2 Market Sq", None), ("9 Low St", 2025),
    }  # fmt: skip


def test_what_has_no_table_is_refused_by_its_name(people):
    run = runs.start("list", "ours.xlsx", b"%PDF-1.7\n", people["planner"])
    runs.check(run.pk)
    run.refresh_from_db()
    assert run.state == ImportState.REFUSED and run.message.startswith("The file is a PDF")


GROUPED = """Brightwater customers,,,,,,,,
Customer,Service Address,Heater 1,,,Heater 2,,,Notes
,,Type,Size,Year,Type,Size,Year,
"Abernathy, Tom",14 Quarry Ln,Gas,50,2016,Elec,40,2020,dog
Corner Bakery,2 Market Sq,Elec,80,2012,,,,
"""


def test_of_two_rows_of_names_both_are_heard(people):
    run = matched(sent(people, GROUPED))
    told = {row.number: row.detail for row in run.rows.all()}
    assert told.keys() == {4, 5} and told[4]["note"] == "dog"
    assert (told[4]["heater"], told[4]["put in"]) == ("gas tank 50 gal", "about 2016")
    assert told[4]["heater 2"] == "electric tank 40 gal, put in about 2020, last flush unknown"
    brought_in(run)
    assert sorted(Heater.objects.values_list("kind", "site__street")) == [
        ("electric_tank", "14 Quarry Ln"), ("electric_tank", "2 Market Sq"), ("gas_tank", "14 Quarry Ln"),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("header", "numbers"),
    [
        (["WH1 Type", "WH2 Type", "Phone 2"], [1, 2, 1]),
        (["Heater type", "Heater type 2", "Size", "Size 2"], [1, 2, 1, 2]),
        (["Type", "Type (2)", "Year", "Year (2)", "Year (3)"], [1, 2, 1, 2, 3]),
        (["#1 Gal", "#2 Gal", "1st unit", "2nd unit"], [1, 2, 1, 2]),
        (["Address 1", "Temp 2", "Set at 120", "WH 12 type"], [1, 1, 1, 1]),
    ],
)
def test_which_heater_a_column_tells_of_stands_in_its_name(header, numbers):
    assert list(heater_numbers(header).values()) == numbers


def test_two_columns_of_one_heater_cannot_both_be_its_size(people):
    text = "Name,Address,WH1 Type,WH1 Gal,Tank,WH2 Gal\nWren Odell,3 Low St,gas,50,40,75\n"
    run = sent(people, text)
    assert {one["name"]: one["column"] for one in run.columns}["WH2 Gal"] == "size"
    with pytest.raises(Exception, match="'WH1 Gal' and 'Tank' cannot both be size"):
        matched(run, Tank="size")


AGES = """Client,Job Addr,Unit make/model,Fuel,Size,Age (yrs),Yr flushed,Rod
Hollis Reed,118 Cedar Ct,Northerly NG50,G,50g,9,2023,Mg
Anne Parish,1 Church St,Heatwell E80,E,80 gallon,14,never,alum 2019
Quill Motel,4 River Rd,Northerly NG75,NG,75,2019,,AL
Otto Brandt,6 River Rd,Northerly NG75,NG,75,10 yrs,,
"""


def test_an_age_is_no_year(people):
    run = matched(sent(people, AGES))
    asked = {one["name"]: (one["column"], one["written"]) for one in run.columns}
    assert asked["Age (yrs)"] == ("installed", "age") and asked["Yr flushed"] == ("last_flush", "")
    assert not any(name.startswith("not understood") for row in run.rows.all() for name in row.detail)
    brought_in(run)
    this = datetime.date.today().year
    heaters = {one.site.street: one for one in Heater.objects.select_related("site")}
    years = {street: one.installed_on.year for street, one in heaters.items()}
    assert years == {"118 Cedar Ct": this - 9, "1 Church St": this - 14, "4 River Rd": 2019, "6 River Rd": this - 10}
    assert {one.install_certainty for one in heaters.values()} == {"estimated"}
    kinds = {street: one.kind for street, one in heaters.items()}
    assert kinds["118 Cedar Ct"] == "gas_tank" and kinds["1 Church St"] == "electric_tank"
    rods = {one.heater.site.street: one for one in Part.objects.filter(kind="anode").select_related("heater__site")}
    assert {street: rod.alloy for street, rod in rods.items()} == {
        "118 Cedar Ct": "magnesium", "1 Church St": "aluminium", "4 River Rd": "aluminium",
    }  # fmt: skip
    assert rods["1 Church St"].fitted_on.year == 2019


def test_headings_between_are_nobody_and_days_that_a_spreadsheet_counts_are_days(people):
    rows = [
        ["Route", "Who", "Where", "Phone", "Heater", "Gallons", "Yr", "Last flush", "Water"],
        ["", "MONDAY"],
        ["Mon", "Gable, I. (rental)", "5 Orchard Way, Kettle Falls", 5550123, "electric", 50, 2012, 45200, "well"],
        ["Tue", "Hanover Clinic", "20 Main St, Kettle Falls", 5550177, "heat pump", 66, "'23", "Mar-22", "city"],
        ["Tue", "Ridge Lofts", "40 Ridge Rd, Kettle Falls", "555-0188", "tankless NG", "", "2019-2021", "5/24", "y"],
    ]
    run = runs.start("list", "route.xlsx", workbook(*rows), people["planner"])
    runs.check(run.pk)
    run.refresh_from_db()
    run = matched(run)
    left = run.rows.get(action=RowAction.LEFT_OUT)
    assert left.number == 2 and left.detail["left out"] == "a name alone: a heading, or nothing to look after"
    assert not any(name.startswith("not understood") for row in run.rows.all() for name in row.detail)
    brought_in(run)
    assert set(Customer.objects.values_list("name", flat=True)) == {
        "I. Gable (rental)",
        "Hanover Clinic",
        "Ridge Lofts",
    }
    told = {
        one.site.street: (one.installed_on.year, one.install_certainty, one.last_flush_year, one.site.zone.supply)
        for one in Heater.objects.select_related("site__zone")
    }
    assert told["5 Orchard Way"] == (2012, "estimated", 2023, "well")
    assert told["20 Main St"] == (2023, "estimated", 2022, "mains")
    assert told["40 Ridge Rd"] == (2020, "estimated", 2024, "well")


TODAY = datetime.date(2026, 11, 30)


@pytest.mark.parametrize(
    ("text", "first", "last"),
    [
        ("Mar-22", (2022, 3, 1), (2022, 3, 31)), ("5/24", (2024, 5, 1), (2024, 5, 31)),
        ("45200", (2023, 10, 1), (2023, 10, 1)), ("45200.5", (2023, 10, 1), (2023, 10, 1)),
        ("2019-2021", (2019, 1, 1), (2021, 12, 31)), ("'15", (2015, 1, 1), (2015, 12, 31)),
        ("12 yrs old", (2014, 1, 1), (2014, 12, 31)), ("about 3 years", (2023, 1, 1), (2023, 12, 31)),
        ("8 mos", (2026, 3, 1), (2026, 3, 31)), ("Fall '21", (2021, 9, 1), (2021, 11, 30)),
        ("8 YR", (2018, 1, 1), (2018, 12, 31)), ("PRE 2010", (2004, 1, 1), (2009, 12, 31)),
        ("5/24 LK/JT", (2024, 5, 1), (2024, 5, 31)), ("3/24 by Kit", (2024, 3, 1), (2024, 3, 31)),
        ("JT 12.08.25", (2025, 8, 12), (2025, 8, 12)), ("vor 3 Jahren", (2023, 1, 1), (2023, 12, 31)),
    ],
)  # fmt: skip
def test_days_are_written_in_many_ways(text, first, last):
    when = day_said.day(text, TODAY, day_first=False)
    assert datetime.date(*first) <= when.on <= datetime.date(*last), when
    sure = first == last or (last[1] - first[1], last[0] - first[0]) == (0, 0)
    assert when.certainty == ("known" if sure and "mos" not in text else "estimated")


@pytest.mark.parametrize("text", ["13/24", "99999", "2021-2019", "200 yrs", "5/27", "NO 2019", "5/24 NO"])
def test_what_can_be_no_day_is_told(text):
    with pytest.raises(BadCell):
        day_said.day(text, TODAY, day_first=False)


@pytest.mark.parametrize(
    ("text", "name"),
    [
        ("Gable, I. (rental)", "I. Gable (rental)"), ("Corner Bakery (attn. Lou)", "Corner Bakery (attn. Lou)"),
        ("WEXCOMBE, Lorne", "Lorne Wexcombe"), ("Tarn Homes, Inc", "Tarn Homes, Inc"),
        ("Tarn Homes, Denver Inc", "Tarn Homes, Denver Inc"), ("Smith, P. A.", "P. A. Smith"),
        ("YUN DENTAL, P.C.", "Yun Dental, P.C."), ("Hobbs, Jr.", "Hobbs, Jr."),
    ],
)  # fmt: skip
def test_what_stands_beside_a_name_stays_beside_it(text, name):
    assert said.person(text) == name


@pytest.mark.parametrize(
    ("text", "kind", "vent"),
    [
        ("e", "electric_tank", ""), ("G", "gas_tank", ""), ("Gas PV", "gas_tank", "powered"),
        ("NG power vent", "gas_tank", "powered"), ("gas direct vent", "gas_tank", "direct"),
        ("LP DV", "gas_tank", "direct"), ("elect", "electric_tank", ""),
    ],
)  # fmt: skip
def test_kinds_are_said_in_letters(text, kind, vent):
    found = heater_said.kind(text)
    assert (found.kind.value, found.vent) == (kind, vent)


IN_PIECES = """Acct No|Last Name|First Name|No.|Street|Apt|City|State|Zip|Equipment|Mfr Date|Qty|Hardness|Contract
2001|Farrow|Nadia|12|Linden Ave||Ashcombe|VT|05401|50 gal NG Northerly PowerVent|06/2015|1|7-9 gpg|Y
2002|Okafor & Sons LLC||400|Depot St|Ste 3|Ashcombe|VT|05401|100 gal LP commercial|2019|2|9|Y
2003|Pell|George|7|Linden Ave||Ashcombe|VT|05401|electric 40g Heatwell|2009|1||N
2004|Quist|Bea|19|Hill St|4B|Ashcombe|VT|05401|tankless condensing Northerly T199|2022|1|11 gpg|Y
"""


def test_names_and_addresses_in_pieces_are_put_together(people):
    run = matched(sent(people, IN_PIECES))
    guessed = {one["name"]: one["column"] for one in run.columns}
    assert guessed == {
        "Acct No": "account", "Last Name": "customer", "First Name": "first_name", "No.": "house_number",
        "Street": "street", "Apt": "apartment", "City": "town", "State": "state", "Zip": "postcode",
        "Equipment": "kind", "Mfr Date": "installed", "Qty": "count", "Hardness": "hardness", "Contract": "note",
    }  # fmt: skip
    brought_in(run)
    found = {
        one.tag: (one.site.customer.name, one.site.street, one.kind, one.capacity_l and round(one.capacity_l / 3.785),
                  one.vent, one.installed_on.year)
        for one in Heater.objects.select_related("site__customer").order_by("tag")
    }  # fmt: skip
    assert list(found.values()) == [
        ("Nadia Farrow", "12 Linden Ave", "gas_tank", 50, "powered", 2015),
        ("Okafor & Sons LLC", "400 Depot St Ste 3", "gas_tank", 100, "", 2019),
        ("Okafor & Sons LLC", "400 Depot St Ste 3", "gas_tank", 100, "", 2019),
        ("George Pell", "7 Linden Ave", "electric_tank", 40, "", 2009),
        ("Bea Quist", "19 Hill St Apt 4B", "condensing_tankless", None, "", 2022),
    ]
    # What else was said of it is not lost.
    assert "Northerly PowerVent" in Heater.objects.get(site__street="12 Linden Ave").note


BY_UNIT = """Property,Unit,WH A,WH A size,WH A age,WH B,WH B size,WH B age,Softener?,GPG
Elm Court,101,Elec,30,8,,,,no,12
Elm Court,102,Elec,30,8,,,,no,12
Elm Court,Laundry,Gas,100,3,Gas,100,3,yes,12
"""


def test_a_house_of_many_units_is_one_site_with_their_heaters(people):
    run = matched(sent(people, BY_UNIT))
    assert {one["name"]: one["column"] for one in run.columns}["Property"] == "customer"
    brought_in(run)
    heaters = Heater.objects.select_related("site").order_by("tag")
    assert [(one.location, one.kind, round(one.capacity_l / 3.785)) for one in heaters] == [
        ("Unit 101", "electric_tank", 30), ("Unit 102", "electric_tank", 30), ("Laundry", "gas_tank", 100),
        ("Laundry", "gas_tank", 100),
    ]  # fmt: skip
    assert {one.site.name for one in heaters} == {"Elm Court"} and len({one.site_id for one in heaters}) == 1


def test_a_cell_of_two_lines_and_one_with_its_watts_are_read(people):
    text = 'Name,Address,Type,Gallons\nInes Vale,"22 Cove Rd\nHarbor Point",electric,50/4500W\n'
    run = matched(sent(people, text))
    assert not any(name.startswith("not understood") for row in run.rows.all() for name in row.detail)
    brought_in(run)
    heater = Heater.objects.select_related("site").get()
    assert (heater.site.street, heater.site.town, round(heater.capacity_l / 3.785)) == (
        "22 Cove Rd",
        "Harbor Point",
        50,
    )
    assert "50/4500W" in heater.note


def test_a_number_behind_its_street_stays_behind_it(people):
    brought_in(matched(sent(people, "Kunde,Straße,Nr,Ort,Gerät\nFr. Ostrander,Am Bach,12a,Oberau,Elektro\n")))
    assert Heater.objects.select_related("site").get().site.street == "Am Bach 12a"


def test_what_stands_above_is_meant_where_a_cell_is_empty_or_says_so(people):
    text = '''Name,Address,Town,Type,Gallons,Year
Sandbar Inn,1 Beach Dr,Harbor Point,gas,75,2018
,,,electric,40,2012
Ines Vale,22 Cove Rd,"""",gas,50,""""
Otto Brandt,6 River Rd,ditto,same,do.,2015
,,,,,
,,Harbor Point,,,
'''
    run = matched(sent(people, text))
    told = {row.number: (row.action, row.detail) for row in run.rows.all()}
    assert told[3][1]["as above"] == "the customer and address of row 2"
    assert told[7][0] == RowAction.LEFT_OUT and told[7][1]["left out"] == "neither a customer nor an address"
    brought_in(run)
    found = [
        (one.site.customer.name, one.site.street, one.site.town, one.kind, round(one.capacity_l / 3.785))
        for one in Heater.objects.select_related("site__customer").order_by("tag")
    ]
    assert found == [
        ("Sandbar Inn", "1 Beach Dr", "Harbor Point", "gas_tank", 75),
        ("Sandbar Inn", "1 Beach Dr", "Harbor Point", "electric_tank", 40),
        ("Ines Vale", "22 Cove Rd", "Harbor Point", "gas_tank", 50),
        ("Otto Brandt", "6 River Rd", "Harbor Point", "gas_tank", 50),
    ]
    years = [one.installed_on.year for one in Heater.objects.order_by("tag")]
    assert years == [2018, 2012, 2012, 2015]


@pytest.mark.parametrize(
    ("said_of_it", "kind", "gallons", "year", "note"),
    [
        ("50 NG '14", "gas_tank", 50, 2014, ""), ("40E 2009", "electric_tank", 40, 2009, ""),
        ("elec 80 gal (2019)", "electric_tank", 80, 2019, ""), ("tankless 2020", "gas_tankless", None, 2020, ""),
        ("gas, Northerly 75g", "gas_tank", 75, None, "Unit: gas, Northerly 75g"), ("gas", "gas_tank", None, None, ""),
    ],
)  # fmt: skip
def test_a_heater_described_in_one_cell_is_read_from_it(people, said_of_it, kind, gallons, year, note):
    brought_in(matched(sent(people, f'Name,Address,Unit\nInes Vale,22 Cove Rd,"{said_of_it}"\n')))
    heater = Heater.objects.get()
    assert (heater.kind, heater.capacity_l and round(heater.capacity_l / 3.785)) == (kind, gallons)
    assert (heater.installed_on and heater.installed_on.year, heater.note) == (year, note)


def test_a_column_of_its_own_goes_before_what_is_described(people):
    text = "Name,Address,Unit,Gallons,Year\nInes Vale,22 Cove Rd,50 NG 2014,75,2018\n"
    brought_in(matched(sent(people, text)))
    heater = Heater.objects.get()
    assert (round(heater.capacity_l / 3.785), heater.installed_on.year) == (75, 2018)
    other = "Name,Address,Gallons,Year,Unit\nOtto Brandt,6 River Rd,75,2018,50 NG 2014\n"
    # In another order it is the same list: nothing is asked.
    brought_in(sent(people, other))
    heater = Heater.objects.get(site__street="6 River Rd")
    assert (round(heater.capacity_l / 3.785), heater.installed_on.year) == (75, 2018)


@pytest.mark.parametrize(
    ("header", "means"),
    [
        ("Date,Client,Site address,Tech,Work performed,Parts,Amount",
         ["on", "customer", "address", "technician", "done", "parts", "note"]),
        ("When,Who,Where,Done by,What we did,Notes", ["on", "customer", "address", "technician", "done", "note"]),
        ("Datum,Kunde,Adresse,Monteur,Arbeit", ["on", "customer", "address", "technician", "done"]),
    ],
)  # fmt: skip
def test_columns_of_other_job_books_are_guessed(people, header, means):
    row = ",".join("x" for _ in header.split(","))
    run = sent(people, f"{header}\n{row}\n", "jobs")
    assert [one["column"] for one in run.columns] == means


@pytest.mark.parametrize(
    ("text", "year"), [("10/12", None), ("Mar 22", None), ("Mar-22", None), ("Mar '22", 2022),
                       ("10/2012", 2012), ("Fall 21", None), ("3/4/22", 2022)],
)  # fmt: skip
def test_a_job_s_day_without_a_year_is_not_taken_for_a_month(text, year):
    """In a list of heaters 10/12 is October 2012; in a book of jobs it is as likely the twelfth of this October."""
    if year is None:
        with pytest.raises(BadCell):
            day_said.day(text, TODAY, day_first=False, of_this_year=True)
    else:
        assert day_said.day(text, TODAY, day_first=False, of_this_year=True).on.year == year


def test_what_stands_below_a_heater_that_is_gone_is_gone_with_it(people):
    text = "Name,Address,Type,Gallons,Remarks\nPiet Olander,77 Quay Rd,gas,50,SKIP - sold 2023\n,,electric,40,\n"
    run = matched(sent(people, text))
    assert [row.action for row in run.rows.all()] == [RowAction.LEFT_OUT] * 2
    assert "sold 2023" in run.rows.get(number=3).detail["left out"]


def test_in_a_file_of_heaters_a_column_stands_once_whatever_its_number(people):
    run = sent(people, "Tag,Site code,Type,Serial,Serial 2\nN-1,S1,gas_tank,A1,B2\n", "heaters")
    assert [one["column"] for one in run.columns] == ["tag", "site", "kind", "serial", ""]
    assert {one["heater"] for one in run.columns} == {1}


@pytest.mark.parametrize("text", ["0000", "0000-2000", "2000-0000", "spring 0000", "0000-00", "00000", "99 mos old"])
def test_what_no_calendar_has_is_told_and_breaks_nothing(text):
    try:
        assert day_said.day(text, TODAY, day_first=False).on is not None
    except BadCell as error:
        assert text[:4] in str(error)


def test_a_cell_of_marks_alone_breaks_no_guess(people):
    run = sent(people, "Name,Address,Colour\nInes Vale,22 Cove Rd,\u0301\n")
    assert [one["column"] for one in run.columns] == ["customer", "address", "note"]


def test_where_none_is_counted_there_is_no_heater(people):
    """A dealer's list keeps who had one once; a quantity left empty is one."""
    text = (
        "Customer,Address,Type,Qty\nUna,1 Low St,Gas,0\nOdo,2 Low St,Gas,2\nIda,3 Low St,Gas,\nBo,4 Low St,Gas,none\n"
    )
    run = matched(sent(people, text))
    told = {row.number: (row.action, row.detail) for row in run.rows.all()}
    assert told[2] == (RowAction.LEFT_OUT, {"left out": "it counts no heater"})
    assert {number: action for number, (action, _) in told.items() if number > 2} == dict.fromkeys(
        (3, 4, 5), RowAction.CREATE
    )
    brought_in(run)
    assert sorted(Heater.objects.values_list("site__street", flat=True)) == ["2 Low St"] * 2 + ["3 Low St", "4 Low St"]

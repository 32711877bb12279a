"""Further offices' lists and books, each written down whole before it was tried: of a boiler round, of a school
district, of bills and where letters go, of cylinders, of a coast's hot water, of an hotel."""

import pytest

from aquifer.company.models import Company
from aquifer.formats.cells import BadCell
from aquifer.formats.heater_said import as_meant, build, kind
from aquifer.formats.of_each import of_each
from aquifer.formats.sheet import Matched
from aquifer.heaters.models import Heater
from aquifer.imports.entry import Entry
from aquifer.imports.figure_cells import read_input
from tests.imports.test_lists_read_once import read
from tests.imports.test_lists_tried_blind import columns, heaters, unread
from tests.imports.test_office_list import brought_in, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")

SELWIG = """Sanitär Selwig GmbH - Boilerkontrolle;;;;;;;;;;;
Stand 20.11.26;;;;;;;;;;;
Obj.;Eigentümer / Verwaltung;Liegenschaft;PLZ;Ort;Boiler Typ;Lt.;Jg.;entkalkt;nächste;°fH;Anode / Bemerkungen
12;Hürlimatt Verwaltungen;Rebweg 4;0041;Selwigen;Elektroboiler;300;1998;03.24;27;34;Mg ok 70 %
12;Hürlimatt Verwaltungen;Rebweg 6;0041;Selwigen;Elektroboiler;300;1998;03.24;27;34;Mg ersetzt 03.24
15;Fam. Aebischwand;Chilegass 11;0042;Oberselwig;WP-Boiler;270;2021;-;26;ca. 30;Fremdstromanode
18;Stwe Sunnhalde;Sunnhaldenstr. 20-24;0041;Selwigen;3 Registerboiler à 500;;05/05/14;09.22 (nur 20+22);;34;\
2 Anoden je Boiler, 24: Flansch rinnt
22;Frau M. Tobelin;Im Grund 8b;0041;Selwigen;Boiler;200;09;08.20;fällig!;34 (Enthärter 8);\
Anode aufgebraucht, Kundin will nicht
23;Gemeinde;Turnhalle;0041;Selwigen;Wärmepumpenboiler + Elektro;400 / 300;19 / 02;02.25;28;34;\
WP: Anode neu, Elektro: Anode nicht kontr.
25;Hürlimatt Verw.;Mattenhof 2 Whg 3.1;0041;Selwigen;El.-Boiler;150;11;-;;34;ersetzt 2026 durch gleichen
"""


def test_a_boiler_of_a_german_list_has_an_element_and_two_in_a_cell_are_two(people):
    run, told = read(people, SELWIG)
    assert (columns(run)["Lt."], columns(run)["Anode / Bemerkungen"]) == ("size", "anode") and not unread(told)
    assert [told[row].get("rod") for row in (4, 5, 6, 7, 8, 10)] == [
        "magnesium", "magnesium, since 2024-03-16", "powered", None, "used up", None,
    ]  # fmt: skip
    assert told[8]["water"] == "softened" and told[8]["hardness"] == told[4]["hardness"]
    brought_in(run)
    assert [
        (kind_of, round(litres), put_in.year)
        for kind_of, litres, put_in in heaters("kind", "capacity_l", "installed_on")
    ] == [
        ("electric_tank", 300, 1998), ("electric_tank", 300, 1998), ("heat_pump_tank", 270, 2021),
        *[("indirect_tank", 500, 2014)] * 3,
        ("electric_tank", 200, 2009), ("heat_pump_tank", 400, 2019), ("electric_tank", 300, 2002),
        ("electric_tank", 150, 2011),
    ]  # fmt: skip


def test_a_boiler_is_what_the_column_s_tongue_calls_so():
    assert kind(as_meant("Gerät", "Boiler 200")).kind == kind(as_meant("Boiler Typ", "Boiler")).kind == "electric_tank"
    assert kind(as_meant("Type", "Boiler")).kind == kind(as_meant("Gerät", "Boiler Heizung")).kind == "indirect_tank"


KETTLEFOOT = """"Kettlefoot Regional School District, Plant Dept. - DHW equipment",,,,,,,,,,,,
Tag,Bldg,Room,Serves,Make,Model / Serial,Fuel,Input,Storage,Install,Last PM,PM freq,Condition / comments
DWH-1,Kettlefoot HS,B-12 boiler rm,kitchen,Thornfell,TF-100-199 / 0914K2231,NG,199 MBH,100 gal,9/2014,6/18/26,\
semi-annual,"flushed, 3 gal scale; anodes (3) at 50%"
DWH-3,Kettlefoot HS,Concession,sinks,,,elec,3 kW,12 gal,,never,-,drains in winter
DWH-1,Bus Garage,shop,wash bay,,plate gone,oil,140 MBH,50,'98?,6/20/24,annual,valve replaced 6/24
DWH-1,Mill St Annex,bsmt,lavs,Thornfell,SN 0201G0077,NG,40 MBH,40,2/01,-,annual,ABANDONED - bldg closed
DWH-A/B,Admin,Mech,all,Ostrand,tankless condensing (2),NG,199k ea,,2022,6/30/26,annual,A descaled
HX-1,Pool,Pump rm,showers,Kelmarsh,plate HX off boiler B-2,boiler,400 MBH,0,2010,8/25,annual,gaskets 2025
"""


def test_what_a_heater_puts_in_comes_in_and_the_plate_says_how_it_is_built(people):
    run, told = read(people, KETTLEFOOT)
    there = columns(run)
    assert [there[name] for name in ("Input", "Storage", "Bldg")] == ["input", "size", "customer"]
    assert told[3]["input"] == "199.0 kBTU/h" and not unread(told)
    assert "left out" in told[6] and "make" not in told[5]
    brought_in(run)
    assert heaters("kind", "capacity_l", "input_kw") == [
        ("gas_tank", pytest.approx(378.5, abs=0.1), 58.32), ("electric_tank", pytest.approx(45.4, abs=0.1), 3.0),
        ("gas_tank", pytest.approx(189.3, abs=0.1), 41.03), ("condensing_tankless", None, 58.32),
        ("condensing_tankless", None, 58.32), ("indirect_tank", None, 117.23),
    ]  # fmt: skip
    first = Heater.objects.order_by("pk")[0]
    assert (first.maker, first.model, first.serial) == ("Thornfell", "TF-100-199", "0914K2231")
    assert build("Kelmarsh hx-40") == "" and build("Heat Pump (2)") == "heat pump (2)"


@pytest.mark.parametrize(("said", "written", "kw"), [
    ("199 MBH", "", 58.32), ("199k ea", "", 58.32), ("199,000 BTU/h", "", 58.32), ("40,000", "kbtu/h", 11.72),
    ("4500", "kbtu/h", 4.5), ("4500 W", "", 4.5), ("4.5", "kbtu/h", 4.5), ("76", "kbtu/h", 22.27),
    ("18,0 kW", "", 18.0),
    ("21", "kw", 21.0), ("(2) 4500w", "", 4.5), ("36 kw each", "", 36.0),
])  # fmt: skip
def test_an_input_is_told_in_many_units(said, written, kw):
    entry = Entry(1)
    read_input(entry, "Input", Matched("input", written), said)
    assert entry.cells["input"] == kw


@pytest.mark.parametrize("said", ["big", "0", "9,000,000 MBH"])
def test_what_no_heater_puts_in_is_told(said):
    entry = Entry(1)
    with pytest.raises(BadCell):
        read_input(entry, "Input", Matched("input"), said)
    assert not entry.cells
    read_input(entry, "Input", Matched("input"), "?")
    assert not entry.cells


TUCKER = """Customer,Main Phone,Bill to 1,Bill to 2,Bill to 3,Ship to 1,Ship to 2,Item,Installed,Terms,Memo
"Abelmann, Ruth",555-0144,Ruth Abelmann,18 Spit Rd,"Tucker Bay, TB 00712",,,"WH gas 50 atm",4/12/2018,COD,FLUSH
"Brannock Rentals",555-0190,Brannock Rentals,PO Box 9,"Tucker Bay, TB 00712",,,,,Net 30,
"Brannock Rentals:Unit 2 Pier St",,Brannock Rentals,PO Box 9,"Tucker Bay, TB 00712",2 Pier St,"Tucker Bay, TB 00712",\
WH elec 40 lowboy,2015,Net 30,
"Brannock Rentals:Unit 6 Pier St",,Brannock Rentals,PO Box 9,"Tucker Bay, TB 00712",6 Pier St,"Tucker Bay, TB 00712",\
WH tkls NG 180,11/2023,Net 30,
"Cadwell, Ty & Jo",555-0116 c,Cadwell,77 Dune,"Tucker Bay, TB 00712",,,HPWH 66,1/5/24,COD,
"Dorsett Boatyard",555-0128 shop,Dorsett Boatyard,Foot of Oar Ln,"Tucker Bay, TB 00713",,,"WH LP 75 pwr vent",~2011,COD,
"Eberly (do not service - NSF check)",555-0133,P Eberly,5 Oar Ln,"Tucker Bay, TB 00713",,,WH gas 40,2009,PREPAY,
"Fenwick Arms Condo Assoc:Bldg A",,"Fenwick Arms c/o Mgmt","1 Harbor Sq","Tucker Bay, TB 00712","300 Fenwick, Bldg A",\
"Tucker Bay, TB 00712","WH gas 100 x2 manifold",6/2016,Net 30,
"Fenwick Arms Condo Assoc:Bldg B",,"Fenwick Arms c/o Mgmt","1 Harbor Sq","Tucker Bay, TB 00712","300 Fenwick, Bldg B",\
"Tucker Bay, TB 00712","WH gas 100 x2 manifold",6/2016 & 2/2022,Net 30,
"""
ITS_BILLS = """Type,Date,Num,Name,Memo,Item,Qty,Amount
Invoice,02/03/2026,8801,"Abelmann, Ruth",Annual WH service - flushed 3 gal muddy. Anode 1/2 gone. PRV set 65.,SVC,1,189
Invoice,11/20/2025,8755,Brannock Rentals:Unit 2 Pier St,Flush; T&P replaced (weeping),SVC,1,159.00
Credit Memo,11/28/2025,8760,Brannock Rentals:Unit 6 Pier St,credit trip chg,TRIP,-1,-65.00
Invoice,01/09/2026,8790,"Cadwell, Ty & Jo","HPWH - cleaned filter, cond drain clear, flushed clean",SVC,1,189.00
Invoice,09/30/2024,8402,Dorsett Boatyard,Flush 2 qt crud. Pulled anode - wire only - new alum/zinc seg.,SVC,1,229.00
Invoice,10/01/2024,E-113,Dorsett Boatyard,"Quote: repl LP 75 pwr vent, add exp tank",,1,0.00
Invoice,03/15/2026,8822,Fenwick Arms Condo Assoc:Bldg A,"Flush both 100s. East: light. West: drain clogged, \
snaked, 1 gal scale",SVC,2,318.00
Payment,03/30/2026,,Dorsett Boatyard,CK 1188,,,-636.00
"""


def test_where_letters_go_is_where_the_heater_stands_unless_something_says_where(people):
    run, told = read(people, TUCKER)
    there = columns(run)
    assert [there[f"{name} to {line}"] for name, line in (("Bill", 1), ("Bill", 3), ("Ship", 1), ("Ship", 2))] == [
        "note", "note", "address", "town",
    ]  # fmt: skip
    assert told[3]["left out"] == "a heading: whose the rows below it are" and "do not service" in told[8]["left out"]
    brought_in(run)
    assert heaters("kind", "site__customer__name", "site__street", "location") == [
        ("gas_tank", "Ruth Abelmann", "18 Spit Rd", ""),
        ("electric_tank", "Brannock Rentals", "2 Pier St", "Unit 2 Pier St"),
        ("gas_tankless", "Brannock Rentals", "6 Pier St", "Unit 6 Pier St"),
        ("heat_pump_tank", "Ty & Jo Cadwell", "77 Dune", ""),
        ("gas_tank", "Dorsett Boatyard", "Foot of Oar Ln", ""),
        *[("gas_tank", "Fenwick Arms Condo Assoc", "300 Fenwick, Bldg A", "Bldg A")] * 2,
        *[("gas_tank", "Fenwick Arms Condo Assoc", "300 Fenwick, Bldg B", "Bldg B")] * 2,
    ]  # fmt: skip
    assert {*heaters("site__town")} == {("Tucker Bay",)}
    assert [one.installed_on.year for one in Heater.objects.order_by("pk")][-2:] == [2016, 2022]


def test_who_has_no_heater_yet_is_no_heading_of_the_next_customer(people):
    run, told = read(
        people,
        """Where,What,When in,Who to ring
"Bob Ashe, 12 Mill Ln",,,555-0101
Sue Birch,gas 50,2015,555-0102
"Cy Dale, 9 Weir St",elec 40,2012,555-0103
""",
    )
    assert told[3]["heater"] == "gas tank 50 gal" and "where it stands" not in told[3]
    brought_in(run)
    assert ("Sue Birch", "") in heaters("site__customer__name", "site__street")


def test_days_of_bills_show_in_which_order_a_list_writes_its_own(people):
    company = Company.current()
    company.units = "metric"
    company.save()
    _, told = read(people, "Name,Address,Type,Installed,Last invoice\nAbel,1 Quay St,gas,4/12/2018,11/20/2025\n")
    assert told[2]["put in"] == "2018-04-12"


def test_a_paper_that_tells_of_no_visit_is_none(people):
    brought_in(read(people, TUCKER)[0])
    _, told = read(people, ITS_BILLS, "jobs")
    assert [told[row].get("left out") for row in range(2, 10)] == [
        None, None, "Credit Memo: nothing was done", None, None, "an offer: nothing was done", None,
        "Payment: nothing was done",
    ]  # fmt: skip
    assert [told[row]["understood"] for row in (2, 3, 5, 6)] == [
        "flush; anode inspection: half",
        "flush; relief valve exercise: flows and weeps; relief valve replacement",
        "flush: none; upkeep: air filter, light",
        "flush: moderate, 0.50 gal; anode inspection: gone; anode replacement",
    ]
    # Which of the two stands in the east nobody knows.
    assert told[8]["understood"] == "H-0006: flush; H-0007: flush"


BALLYKIN = """Ballykin Plumbing & Heating - Service customers
No,Name,Address,Eircode,Mobile,Cylinder,Immersion,Size L,Age,Water,Serviced,Anode chkd,Other
1,Nora & Con Farrelin,Killbawn,X00 A1B2,085 000 1144,Copper dual coil,dual,210,15 yrs,hard well,Mar '25,n/a copper,
4,Fr. Colm Badraigh,Parochial Hse,X00 H7J8,,Copper single coil,"yes, top only",135,2001,softened,\
"Nov 23 - scaled immersion, changed",,do before Easter
6,Hurling Club,Pitch Rd,,Joe 086 000 9090,2 no. gas fired storage,no,2 x 400,2009 + 2017,hard,every Aug,\
2025 both replaced,
"""
ITS_NOTES = """Date;Customer;Eircode;Engineer's notes;Time
14/3/25;Farrelin;;Flushed cyl, bucket of sand. Vessel flat, pumped to 3 bar. TPR & PRV exercised ok;1h
Nov 23;Fr Colm;;Flush, small amount. TPR passing - needs new, cust to think;2h
Oct 22;Farrelin;;Flushed;1h
22/8/25;Hurling Club;;Both done: new anodes x2, flushed (1 = lots, 2 = little), TPRs tested ok;3h
22/8/24;Hurling Club;;Both flushed, small amount;2h
19/6/24;Farrelin;;Flushed;1h
"""


def test_cylinders_with_coils_and_a_month_with_its_year(people):
    company = Company.current()
    company.units, company.hardness_unit = "metric", "mg_l"
    company.save()
    run, told = read(people, BALLYKIN)
    assert columns(run)["Eircode"] == "postcode" and not unread(told)
    assert [told[row]["last flush"] for row in (3, 4, 5)] == ["2025", "2023", "2026"]
    brought_in(run)
    assert heaters("kind", "site__postcode") == [
        ("indirect_tank", "X00 A1B2"), ("indirect_tank", "X00 H7J8"), ("gas_tank", ""), ("gas_tank", ""),
    ]  # fmt: skip
    _, told = read(people, ITS_NOTES, "jobs")
    assert [told[row]["on"][:7] for row in (3, 4)] == ["2023-11", "2022-10"]
    assert [told[row]["understood"] for row in (2, 3, 5, 6)] == [
        "flush: heavy, sand; relief valve exercise: flows and reseats; expansion tank check: air",
        "flush: trace; relief valve exercise: flows and weeps",
        "H-0003: flush: heavy; anode replacement; H-0004: flush: trace; anode replacement",
        "H-0003: flush: trace; H-0004: flush: trace",
    ]


@pytest.mark.parametrize(("line", "told"), [
    ("flushed both (1: sand, 2: clear), valves ok", {
        1: "flushed both; valves ok; sand", 2: "flushed both; valves ok; clear)",
    }),
    ("flushed both. left: heavy. right - clear", {1: "flushed both", 2: "flushed both"}),
    ("both flushed, 1 = 2 qt", {1: "both flushed; 1 = 2 qt", 2: "both flushed; 1 = 2 qt"}),
])  # fmt: skip
def test_numbers_with_what_was_found_are_heaters_and_sides_are_unknown(line, told):
    assert {number: " ".join(said.split()) for number, said in of_each(line, 2).items()} == told


MOORABEL = """Cust,Street No,Street,Suburb,Type,Cap,Fuel,Inst'd,TPR/ECV,Anode last,Flush last,Site notes
Achterly J,7,Banksia Cr,Moorabel,Storage ext,315,Off peak elec,03/2012,TPR rep 2022,8/21 Mg,8/21,gate R/H side
Bellonga N & T,12-14,Banksia Cr,Moorabel,Solar split,400,Sol/elec bst,2016,TPR+ECV ok 3/25,never,3/25,glycol chk
Dandry V,L3 Jetty Rd,,Moorabel Nth,Heat pump,270,HP,11-2023,,s/s none,due 11/26,bore water 480 TDS
Eucla S,3/9,Quandong St,Moorabel Nth,Storage int,50,Elec,1989??,TPR seized 24,,,no access to anode
Gidgee K,45,Quandong St,Moorabel Nth,Storage,315,LPG,2010,TPRs all 2021,2021,yearly May,call first
"""


def test_an_anode_s_last_day_is_no_flush_and_a_valve_as_found_no_new_one(people):
    run, told = read(people, MOORABEL)
    assert columns(run)["Anode last"] == "anode" and not unread(told)
    assert [told[row].get("rod") for row in range(2, 7)] == [
        "magnesium, since 2021-08-16", "the first", "none", None, "since 2021-07-02",
    ]  # fmt: skip
    assert [told[row].get("relief valve") for row in range(2, 7)] == ["about 2022", None, None, None, "about 2021"]
    assert [told[row]["last flush"] for row in range(2, 7)] == ["2021", "2025", "unknown", "unknown", "2026"]


LEDMOOR = """"Water htr list - Ledmoor Hotels & Flats",,,,,,,,
Where,What,When in,Hard?,Last done,What we found last time,Rod,Valve,Who to ring
"Ledmoor Hotel, 1 Front St - kitchen","100 gal gas, power vented",spring 2020,19,3/3/26,rod half,org. (2020),org,\
Hal 555-0102
"   - laundry",2 tankless 199k ganged,2021,19,3/3/26,descaled both,-,2021,same
"   - pool bldg",electric 30,?,19,-,couldnt get in,?,?,same
"Gull Flats, 40 Front St",,,,,,,,"Mrs. Ottley, apt 1"
apt 1,elec 40,2014,19,9/9/25,clear,-,new 9/25,
apt 4,elec 40,2014,19,refused,,,,
"Ledmoor Hotel annex, 3 Front St",HP 80,Jan 2025,19,not due,,,,Hal
"Old Cannery lofts, 88 Wharf",indirect 80 off boiler,2008,19,10/24,drain plugged,never pulled,dripping - both,\
super: Vic 555-0177
"""


def test_a_part_stands_below_its_house_by_a_dash_or_by_a_heading(people):
    run, told = read(people, LEDMOOR)
    assert not unread(told) and told[6]["left out"] == "a heading: whose the rows below it are"
    brought_in(run)
    assert heaters("kind", "site__customer__name", "site__street", "location") == [
        ("gas_tank", "Ledmoor Hotel", "1 Front St", "kitchen"),
        *[("gas_tankless", "Ledmoor Hotel", "1 Front St", "laundry")] * 2,
        ("electric_tank", "Ledmoor Hotel", "1 Front St", "pool bldg"),
        ("electric_tank", "Gull Flats", "40 Front St", "Apt 1"),
        ("electric_tank", "Gull Flats", "40 Front St", "Apt 4"),
        ("heat_pump_tank", "Ledmoor Hotel annex", "3 Front St", ""),
        ("indirect_tank", "Old Cannery lofts", "88 Wharf", ""),
    ]  # fmt: skip
    assert [told[row].get("telephone") for row in (3, 4, 7, 10)] == ["555-0102", "555-0102", None, "555-0177"]
    assert told[4]["input"] == "199.0 kBTU/h" and told[3]["rod"] == told[10]["rod"] == "the first"
    assert [told[row]["put in"] for row in (3, 4, 9)] == ["about 2020", "about 2021", "2025-01-16"]

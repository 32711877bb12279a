"""Three further offices' lists and a book, each written down whole before it was tried: a route card in figures, an
operator's plants, and a letting agent's cylinders."""

import pytest

from aquifer.formats import said
from aquifer.formats.heater_said import as_meant, kind
from aquifer.heaters.models import Part
from tests.imports.test_lists_read_once import read
from tests.imports.test_lists_tried_blind import columns, heaters, unread
from tests.imports.test_office_list import brought_in, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")


SPARROW_HILL = """Route,Stop,Cust,Addr,Apt,Ph,Wh fuel,Wh gal,Wh yr,Wh2 fuel,Wh2 gal,Wh2 yr,Hd,Soft y/n,Svc mo,Last,\
Anode mm,TPRV ok,Exp,Comments
North,1,"Ellery, Joss",210 Sparrow Hill Rd,,555 0501,N,50,14,,,,21,N,Apr,4/26,16,Y,N,
North,2,"Ellery, Joss (barn)",210 Sparrow Hill Rd,barn,,E,20,08,,,,21,N,Apr,4/26,,Y,N,freeze plug Nov-Mar
North,3,Copper Pot Cafe,3 Sparrow Hill Rd,,555 0502 Lena,N,75,22,E,10,19,21,Y,Apr/Oct,10/26,pwrd,Y,\
Y 60psi,booster for dishwasher
North,4,"Vantongeren, P.",88 Sparrow Hill Rd,B,none,P,40,99,,,,21,N,May,skip '25,5,N - drips,N,\
FVIR dirty. will not replace
South,1,"Halloran Bros Auto",1 Mill Race,,555 0504,N,40,11,,,,19,N,Jun,6/25,,?,N,oil mist - clean screen
South,2,"Halloran, Bea",7 Mill Race,2,555 0505 / 0506,TL-N,,21,,,,19,Y,Jun,6/26 desc,,Y,-,
South,3,"Halloran, Bea",7 Mill Race,3,same,TL-N,,21,,,,19,Y,Jun,6/26 desc,,Y,-,tenant Ruiz
South,4,Mill Race Condo Assn,9-15 Mill Race,,555 0507,HP x4,80,23,,,,19,N,Jun,6/26,new,Y,Y,filters qtrly
"""
ITS_ROUTE = """Svc date,Route/stop,Customer,What,Min
4/14/26,N1,Ellery,"flushed 50g, sand 2 cups, anode 16mm dia, tprv ok",55
4/14/26,N2,Ellery barn,"flushed, clear",25
4/14/26,N3,Copper Pot,75 gal flushed + booster descaled. exp tank 60 psi ok,80
10/13/26,N3,Copper Pot,semi annual: flush lt,45
6/9/26,S2/S3,Halloran Bea both units,"desc 2 TL, before 3.9 gpm after 4.6 (unit 2). unit 3 same",130
6/9/26,S1,Halloran Bros,"couldn't get to it - parts stacked in front",10
6/10/26,S4,Mill Race Condo,"4 HP flushed, rods new in all 4, filters",240
5/5/26,N4,Vantongeren,drips at tprv - told. no flush (afraid drain valve wont close),20
"""


def test_a_column_called_last_is_no_name_where_days_stand_in_it(people):
    run, told = read(people, SPARROW_HILL)
    there = columns(run)
    assert (there["Last"], there["Cust"], there["Wh fuel"]) == ("last_flush", "customer", "kind") and not unread(told)
    words = next(one["words"] for one in run.columns if one["name"] == "Wh fuel")
    assert {word["said"]: word["means"] for word in words} == {
        "n": "gas_tank", "e": "electric_tank", "p": "gas_tank", "tl-n": "gas_tankless", "hp x4": "heat_pump_tank",
    }  # fmt: skip
    assert [told[row]["last flush"] for row in range(2, 10)] == [
        "2026", "2026", "2026", "unknown", "2025", "2026", "2026", "2026",
    ]  # fmt: skip
    brought_in(run)
    assert heaters("site__customer__name", "kind", "capacity_l")[2:5] == [
        ("Copper Pot Cafe", "gas_tank", 283.906), ("Copper Pot Cafe", "electric_tank", 37.854),
        ("P. Vantongeren", "gas_tank", 151.416),
    ]  # fmt: skip
    _, told = read(people, ITS_ROUTE, "jobs")
    assert [told[row]["heater"] for row in (2, 3, 4, 9)] == ["H-0001", "H-0002", "H-0003", "H-0005"]
    assert told[9]["understood"].startswith("relief valve exercise: flows and weeps")


VALLBACH = """Anl.-Nr.,Betreiber,Aufstellort,\
Geräteart,Nenninhalt [l],Leistung [kW],Baujahr,Wasserhärte [°dH],\
Enthärter,Fließdruck [bar],Solltemp. [°C],Anode Ø [mm],Schutzanode seit,Sicherheitsv. gepr.,\
Letzte Entkalkung,Kalkmenge [kg],Bemerkungen
A-001,"Grundschule, Hausmeister Lohe","Schulstr. 4, 00941 Vallbach; Küche",E-Standspeicher,"150",6,2012,\
21,nein,"3,8",65,"24 / 33",2022,12.03.2026,12.03.2026,"2,5",
A-002,"Grundschule, Hausmeister Lohe","Schulstr. 4, 00941 Vallbach; Turnhalle",Gasspeicher,"300",22,\
2009,21,nein,"3,8",60,k.A.,orig.,,03/2024,"ca. 6",Abgas prüfen (Kamin)
A-003,Sportheim e.V.,"Am Anger, 00941 Vallbach",Durchlauferhitzer hydr.,,24,1999,21,nein,2,–,–,–,–,nie,\
–,keine Wartung gewünscht
A-004,Dr. Ina Felber,"Rosenweg 9, 00942 Nieder-Vallbach; Keller",Wärmepumpe Brauchw.,"250","1,6",2023,\
"21 → 8 (Enth.)",ja,4,"50 / LegioTherm 60",,2023,06.2026,06.2026,"0,1",
A-005,"Felber Praxis","wie A-004, EG",UT-Speicher 5l,5,2,2023,,ja,,,,,,,,
A-006,Bäckerei Sommer,"Markt 2, 00941 Vallbach",2 Gasspeicher à 400 l,"800",2x40,"2016/2016",22,\
"defekt seit 5/26",4,70,"12 u. 14",2023,"05/26: 1 tropft, ersetzt",05/26,"9 + 7",2x jährlich!
"""


def test_where_a_plant_stands_is_its_address_and_its_room(people):
    run, told = read(people, VALLBACH)
    assert columns(run)["Aufstellort"] == "address" and not unread(told)
    assert (told[5]["set at"], told[5]["hardness"], told[5]["water"]) == ("122 °F", "21.9 gpg", "softened")
    brought_in(run)
    found = heaters("site__customer__name", "site__street", "site__town", "location", "capacity_l")
    assert found[:2] == [
        ("Grundschule, Hausmeister Lohe", "Schulstr. 4", "Vallbach", "Küche", 150.0),
        ("Grundschule, Hausmeister Lohe", "Schulstr. 4", "Vallbach", "Turnhalle", 300.0),
    ]  # fmt: skip
    assert [one[4] for one in found[-2:]] == [400.0, 400.0], "800 litres are those of both"


PORT_ELLERY = """tenant/owner;property ref;address line 1;address line 2;town;postcode;tel;mob;system;\
cyl ltrs;cyl make;yr inst;immersion kw;water ppm;scale red. fitted;annual svc due;last svc;svc by;T&P;\
exp vessel pre-chg bar;tundish;notes
Ms T Wainfleet;LET-014;Flat 2;9 Harbour Terrace;Port Ellery;PE3 4QX;;07000 900201;\
Unvented cyl - direct (2 imm);170;Thornfell;2016;2x3;295;No;March;11-03-26;AK;Ok;3.0 (was 1.2);dry;
Ms T Wainfleet;LET-015;Flat 3;9 Harbour Terrace;Port Ellery;PE3 4QX;;as above;Vented cyl + imm;117;;\
1988?;3;295;No;-;never (landlord just took on);;n/a;n/a;n/a;Replace? header tank filthy
Portellery Rowing Club;COM-003;The Boathouse;Harbour Rd;Port Ellery;PE3 4RA;00755 555203;;\
Multipoint gas LPG;;Marran;2019;;295;Yes - phosphate;Apr;04/26;AK;;;;showers 10 min max
Mr & Mrs D'Arcy-Holt;PRV-220;Tern House;Cliff Lane;Ellery Cove;PE3 6BB;00755 555204;07000 900204;\
Combi + 210 unvented (solar coil);210;Brunn;Oct 2020;3;"very soft,\
 20";n/a;Oct;Oct 25;RW;Passing -> new 10/25;3;dry after;glycol chk 10/25
The Anchor (free house);COM-007;The Anchor;Quay;Ellery Cove;PE3 6BA;00755 555205;;\
2 x elec. storage 150 (u/counter, cellar);150+100;;2014 & 2021;3 ea;30;;6-monthly;Jan 26 / Jul 26;RW;\
1 weeping;;;cellar floods
Exors of Mrs Pell;PRV-101;1 Cliff Lane;;Ellery Cove;PE3 6BB;;;gravity hot water;;;;;;;;;;;;;\
No longer on our books
"""


def test_a_cylinder_is_a_tank_and_a_flat_stands_in_its_street(people):
    run, told = read(people, PORT_ELLERY)
    assert not unread(told) and told[7]["left out"].startswith("No longer on our books")
    brought_in(run)
    assert heaters("site__street", "kind", "capacity_l", "last_flush_year") == [
        ("Flat 2, 9 Harbour Terrace", "electric_tank", 170.0, 2026),
        ("Flat 3, 9 Harbour Terrace", "electric_tank", 117.0, None),
        ("The Boathouse, Harbour Rd", "gas_tankless", None, 2026),
        ("Tern House, Cliff Lane", "gas_tankless", None, 2025), ("The Anchor, Quay", "electric_tank", 150.0, 2026),
        ("The Anchor, Quay", "electric_tank", 100.0, 2026),
    ]  # fmt: skip
    valves = Part.objects.filter(kind="relief_valve", fitted_on__isnull=False)
    assert list(valves.values_list("heater__site__street", "fitted_on__year")) == [("Tern House, Cliff Lane", 2025)]


def test_last_is_whoever_or_whenever_it_is(people):
    of_days = "Homeowner,Address,Type,Last\nHollis Farrow,1 Mill Ln,gas,Jul '21\nBram Brill,2 Mill Ln,gas,Sep '18\n"
    run, _ = read(people, of_days)
    assert (columns(run)["Homeowner"], columns(run)["Last"]) == ("customer", "last_flush")
    run, _ = read(people, "Last,First,Address,Type\nFarrow,Hollis,1 Mill Ln,gas\nBrill,Bram,2 Mill Ln,gas\n")
    assert (columns(run)["Last"], columns(run)["First"]) == ("customer", "first_name")


def test_what_has_a_size_and_no_kind_is_a_tank(people):
    run, told = read(people, "Name,Address,Type,Gal\nAsh,1 Mill Ln,tankless,\nElm,2 Mill Ln,?,40\nOak,3 Mill Ln,?,\n")
    assert told[3]["heater"].startswith("kind not known") and told[3]["note"] == "Type: ?"
    brought_in(run)
    assert heaters("kind", "capacity_l") == [("gas_tankless", None), ("gas_tank", 151.416), ("gas_tankless", None)]


@pytest.mark.parametrize(("text", "gone"), [
    ("SKIP - sold 2024", True), ("skip '25", False), ("skip 2025", False), ("please skip", True),
])  # fmt: skip
def test_a_year_that_was_skipped_is_no_customer_who_left(text, gone):
    assert said.is_gone(text) is gone


def test_a_letter_is_a_fuel_where_its_column_is_called_so():
    assert as_meant("Wh fuel", "N") == "natural gas" and as_meant("Unit", "N") == "N" and as_meant("fuel", "E") == "E"
    assert kind(as_meant("fuel_type", "P")).kind == "gas_tank"
    assert kind("Unvented cyl - direct (2 imm)").kind == "electric_tank"


@pytest.mark.parametrize(("text", "street", "town"), [
    ("Schulstr. 4, 00941 Vallbach, Küche", "Schulstr. 4, Küche", "Vallbach"),
    ("1 quai Bas - 00831 Vieux-Pont", "1 quai Bas", "Vieux-Pont"), ("1 Mill Ln, Elm", "1 Mill Ln", "Elm"),
])  # fmt: skip
def test_behind_a_town_stands_where_in_the_house(text, street, town):
    found = said.address(text)
    assert (found.street, found.town) == (street, town)

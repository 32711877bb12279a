"""Two further offices' lists and a book, each written down whole before it was tried: a drain company's, whose serial
numbers tell the year, and a house manager's."""

import pytest

from aquifer.formats import said
from aquifer.formats.job_text import findings
from tests.imports.test_lists_read_once import read
from tests.imports.test_lists_tried_blind import columns, heaters, unread
from tests.imports.test_office_list import brought_in, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")


JUNIPER = """Juniper Plumbing & Drain -- WH maintenance customers -- printed 9/30/2026,,,,,,,,,,,,
,,,,,,,,,,,,
ID,CUSTOMER NAME,SERVICE ADDRESS,PHONE 1,PHONE 2,HEATER,CAP,MFR,SERIAL/DATE CODE,STAT,H2O,FLUSH HX,REMARKS
J-001,"Larkin, Otis","12 Banner St, Juniper 00071",5555550601,,gas,40,Hartwell,H0914-5521 (Sep 2014),B,\
18 gpg,"'22, '23, '25",shutoff stiff
J-002,"Larkin, Otis - rental","14 Banner St, Juniper 00071",5555550601,tenant 555-555-0661,gas,40,\
Marran,illegible,A-B,18,none since purchase,2 dogs loose
J-003,"Beech Grove Church of the Valley","901 Valley Rd, Juniper 00071",555 555 0603,fax 555 555 0633,\
"gas (sanct.), elec (kitchen)",75 / 40,,,140/125,18,3/26 both,"Wed mornings only, see Myrna"
J-004,Petrakis,"PO Box 44 (house is 6 Cider Mill Ln, Upper Juniper 00072)",none,,propane tankless,\
9.5 gpm,Marran,MX2020-771,120,well 27 +iron,8/24 descale,filter cartridge 8/24
J-005,"Duvall, M./Roth, S.","33 Cider Mill Ln #2, Upper Juniper",555.555.0605,,elec lowboy,38,Thornfell,\
,?,well,never,crawlspace hatch by dryer; bring kneepads
J-006,Juniper Family Dental (Dr. Cho),"4 Depot Plaza, Ste 110, Juniper",555-555-0606 x2,,\
elec p.o.u. x 3,2.5,,2018?,110,soft,n/a - replace only,under each sink
J-007,"Farrell, Estate of",7 Depot Plaza,,,gas,50,,1996,,,,vacant - do not service till heirs call
J-008,"Quigley, Ann",22 Banner,555-555-0608,,HPWH,50,Brunn,BR21-0098,"124, heat pump only",18,10/25,\
2yr filter svc
"""
ITS_TICKETS = """Juniper Plumbing & Drain,,,,
Ticket,Completed,Cust ID / name,Description of work,Total
4401,"March 3, 2025",J-001 Larkin,"WH flush, approx 1 qt sediment. Anode mostly gone - declined repla\
cement. TPR not tested per policy (>10 yrs)",145.00
4402,"March 3, 2025",J-002,"Flush not possible - drain valve plugged. Rec replace WH",65.00
4471,"3/18/2026",J-003 church,"Sanct: flushed, clear. Kitchen elec: flushed 2 gal flakes,\
 lower element replaced. Both T&P's operated OK",290.00
4472,"8/20/2024",J-004,"Descaled tankless 45 min w/ vinegar. Cleaned inlet screen,\
 cold filter replaced. 3.6 gpm -> 4.9 gpm",225.00
4500,"10/8/2025",Quigley J-008,"Annual: air filter washed, flushed (clean), anode 1/4 gone",135.00
4510,"10/9/2025",J-006,"Replaced middle POU 2.5 gal (leak)",410.00
4511,"10/9/2025",Walk-in,"sold anode over counter",48.00
4520,"11/31/2025",J-005,"drained, lots of sand",120.00
"""


def test_a_serial_number_tells_the_year_where_somebody_wrote_it_out(people):
    run, told = read(people, JUNIPER)
    assert columns(run)["H2O"] == "well" and (told[7]["water"], told[7]["hardness"]) == ("from a well", "27.0 gpg")
    assert "H2O: well 27 +iron" in told[7]["note"] and told[11]["set at"] == "124 °F"
    assert unread(told) == {
        "'A-B' is no figure", "'140/125' is no figure", "'none since purchase' is no date that is known",
        "'n/a - replace only' is no date that is known",
    }  # fmt: skip
    brought_in(run)
    assert heaters("site__customer__name", "site__street", "serial", "installed_on__year")[:2] == [
        ("Otis Larkin", "12 Banner St", "H0914-5521", 2014), ("Otis Larkin - rental", "14 Banner St", "", None),
    ]  # fmt: skip
    # Two kinds with the place of each, and two sizes.
    assert heaters("kind", "capacity_l")[2:4] == [("gas_tank", 283.906), ("electric_tank", 151.416)]
    assert heaters("site__customer__name", "site__street", "site__town")[4:6] == [
        ("Petrakis", "6 Cider Mill Ln", "Upper Juniper"),
        ("Duvall, M./Roth, S.", "33 Cider Mill Ln #2", "Upper Juniper"),
    ]  # fmt: skip
    assert heaters("serial", "installed_on__year")[6] == ("", 2018)


def test_a_number_may_stand_behind_the_name(people):
    brought_in(read(people, JUNIPER)[0])
    _, told = read(people, ITS_TICKETS, "jobs")
    assert told[7]["heater"] == "H-0011" and told[3]["heater"] == "H-0001" and told[8]["heater"] == "H-0007"
    assert told[4]["understood"].startswith("not understood"), "it could not be flushed"
    assert "no such customer" in told[9]["left out"] and "no day of the calendar" in told[10]["left out"]


TORWEG = """Lfd;Mieter/Eigentümer;Whg;Strasse Nr;Ort;WW-Bereiter;Liter/kW;EZ;Hersteller;Härtebereich;\
Entkalk. Turnus;Entkalkt 2023;Entkalkt 2024;Entkalkt 2025;Entkalkt 2026;Anode;Temp;Bem.
1;Hausverw. Lindt f. WEG Torweg;EG li;Torweg 1;Altmoor;E-Boiler;80;1/2011;Kalterbach;III;24 Mon;;x;;x;\
m. 2024;60;
2;dto.;EG re;Torweg 1;Altmoor;DLE;21 kW;2019;Brunnhold;III;-;;;;;entf.;43;
3;dto.;1.OG;Torweg 1;Altmoor;E-Boiler;80;1/2011;Kalterbach;III;24 Mon;;n.a.;;05/26;m.;60;\
n.a. = nicht angetroffen
4;Fr. Imke Soltau;;Torweg 3;Altmoor;Gasspeicher;155;2006;?;III;12 Mon;Mai;Mai;Juni;-;verbraucht 25,\
 erneuert;55;Gas-Wartg. extern
5;Gem. Altmoor, Bauhof;;Torfstich 2;Altmoor;WP-Speicher;300;22;Brunnhold;hart;12 Mon;;x;x;x;Fremdstrom;\
50 (1x/Wo. 62);Hr. Pahl
6;H. Pahl privat;;Torfstich 4;Altmoor;2 E-Boiler 5+50;;08 u. 15;;3;;;;;;;;kl. Boiler tropft
"""


def test_a_range_of_hardness_is_no_figure_of_it(people):
    run, told = read(people, TORWEG)
    there = columns(run)
    assert (there["Härtebereich"], there["Whg"]) == ("note", "location") and "hardness" not in told[7]
    assert told[6]["set at"] == "122 °F" and told[4]["last flush"] == "2026"
    brought_in(run)
    assert heaters("site__customer__name", "kind")[-3:] == [
        ("Gem. Altmoor, Bauhof", "heat_pump_tank"), ("H. Pahl privat", "electric_tank"),
        ("H. Pahl privat", "electric_tank"),
    ]  # fmt: skip


@pytest.mark.parametrize(("text", "name"), [
    ("Duvall, M./Roth, S.", "Duvall, M./Roth, S."), ("LARKIN, OTIS - rental", "Otis Larkin - rental"),
    ("Gem. Altmoor, Bauhof", "Gem. Altmoor, Bauhof"), ("Marlow-Pike, Ana", "Ana Marlow-Pike"),
])  # fmt: skip
def test_two_people_are_no_first_name(text, name):
    assert said.person(text) == name


@pytest.mark.parametrize(
    "text", ["Flush not possible", "flush impossible - valve frozen", "flushing not possible today"]
)
def test_what_was_not_possible_was_not_done(text):
    assert not [one for one in findings(text) if one["task"] == "flush"]


STANDORT = """Standort;Ansprechpartner;Objekt;Gerät 1;Gerät 1 Inhalt;Gerät 1 Bj;Gerät 2;Gerät 2 Inhalt;Gerät 2 Bj;°dH;\
Enth.;letzter Service;Befund;nächster
Kirchstr. 5, 00951 Tannau;Pfr. Adler 0000-5501;Pfarrhaus;Gasspeicher;190;2014;UT-Boiler;5;2020;18;nein;\
03/2026;Anode 50%, SV ok, ca. 1 Eimer;03/2027
Am Bach 1, 00951 Tannau;Fr. Ulm (Kita) 0000-5502;Kita Bachstelze;E-Speicher mit Verbrühschutz;120;12;\
DLE 18kW;;19;18;ja, auf 8;01/2026;E: Anode neu; DLE: Sieb ger.;01/2027
Waldweg 77;Hr. Oster;Jagdhaus;Boiler holzbefeuert + E-Patrone;80;ca. 1985;;;;Brunnen, 5;;nie;;nach Absprache
Tannauer Str. 12, 00952 Hof;WG Hof eG 0000-5504 / 0000-5514;MFH 6 WE;zentral: 2 x 300 l indirekt;600;\
2018;;;;18;ja;11/2025;je 2 kg, Anoden i.O.;11/2026
"""


def test_where_it_stands_is_the_address_and_the_object_whose_it_is(people):
    run, told = read(people, STANDORT)
    assert (columns(run)["Standort"], columns(run)["Objekt"]) == ("address", "customer") and not unread(told)
    brought_in(run)
    assert heaters("site__customer__name", "site__street", "site__town", "kind")[:2] == [
        ("Pfarrhaus", "Kirchstr. 5", "Tannau", "gas_tank"), ("Pfarrhaus", "Kirchstr. 5", "Tannau", "electric_tank"),
    ]  # fmt: skip


@pytest.mark.parametrize(("text", "street", "town"), [
    ("Dock C, 1 Marina Way", "Dock C, 1 Marina Way", ""), ("1 Marina Way, Tidewell", "1 Marina Way", "Tidewell"),
    ("St. Brede's Rectory, 3 Chapel Ct, Bramble 00081", "St. Brede's Rectory, 3 Chapel Ct", "Bramble"),
])  # fmt: skip
def test_a_street_with_its_number_is_no_town(text, street, town):
    found = said.address(text)
    assert (found.street, found.town) == (street, town)


PINION = """PINION WATER HEATER CARE ~ CUSTOMERS,,,,,,,,,,,,,,,,,,,
No.,Name,Where,Tel,Cell,Mail,Heater,Gal,Brand,Ser.,In since,Deg,PSI,XT,Soft,Grains,Source,Flushed,Rod,Notes
1,"Tull, Brenna","77 Pinion St, Pinion 00091",555.555.0801 (h),ask daughter 555-555-0802,\
brenna@example.com,G-50 atm,fifty,Hartwell,HW-2231,Spring 2012,120-125,75ish,yes 2g,yes-salt,15-20,\
city/well,Fall '23,MG '21,
2,Orrin Vale,"79 Pinion St, Pinion 00091",n/p,,,NG,50 US gal,Marran,,c. 2010,Hot,80+,none vis.,bypassed,\
15gr,city,never!!,seized,DNS - threatening dog
3,"VALE, ORRIN (cabin)","Rt 7, Upper Pinion 00092",same,same,,LP,(2) 40,,,10 y.o.,140 (scald guard),hi,\
n,n,257mg/l,shared well,every fall,alum/zinc,well pump cycles
4,Dove & Dove CPAs,"12 Court Sq #3, Pinion",(555) 555-0804,,office@example.com,E,40x2,Thornfell,\
SN unreadable,2012/13,C,5 bar,y,rental,mod,cistern,10/24 & 10/25,2 rods,after 5
5,Ike Sandoval-Reyes,"14 Court Sq., Pinion",555 555 0805 txt,,,TL,n/a,Marran MX,22-0098,'21,one-twenty,,\
,Y (Kinetic),20,,desc 11/24,-,
6,Mrs. P. Nettle,"PO Box 9, 3 Nettle Ln, Pinion",555-555-0806,,,,40?,?,,older than dirt,,,bad,,,,\
not since '19,gone '22 -> new alum,
7,"Quince, Abel",16 Court Sq.,5555550807,,,HPWH,80,Brunn,,6/25 (swapped),ECO 125,62 w/PRV,Y-55psi,N,20,\
city,n/a new,orig,heater swapped 6/25
8,Pinion Laundry,18 Court Sq.,555-555-0808,,,gas 199k x2,100/100,Hartwell,A/B,2019;2022,160,60,"yes,\
 2x",duplex,20 raw 0 soft,city,qtrly,mag yrly,moved 2024 to 20 Court
"""


def test_a_list_in_its_own_words_is_told_by_them(people):
    run, told = read(people, PINION)
    assert (columns(run)["In since"], columns(run)["Deg"]) == ("installed", "setpoint")
    assert [told[row]["put in"] for row in range(3, 11)] == [
        "about 2012", "about 2010", "about 2016", "about 2012", "about 2021", "not known", "2025-06-15", "about 2019",
    ]  # fmt: skip
    assert [told[row].get("water") for row in range(3, 11)] == [
        "softened", None, "from a well", "softened", "softened", None, None, "softened",
    ]  # fmt: skip
    assert [told[row].get("set at") for row in (3, 4, 5, 9, 10)] == ["123 °F", "Hot", "140 °F", "125 °F", "160 °F"]
    assert told[3]["heater"] == "gas tank 50 gal" and told[8]["heater"].endswith("40 gal")
    assert told[8]["expansion tank"] == "there is one" and told[10]["hardness"] == "20.0 gpg"
    assert told[10]["last flush"] == "2026" and "Source: city/well" in told[3]["note"]
    brought_in(run)
    assert heaters("installed_on__year", "serial")[-2:] == [(2019, "A"), (2022, "B")]


@pytest.mark.parametrize(("text", "softened"), [
    ("rental", True), ("Y (twin)", True), ("salt, metered", True), ("not working", False), ("out of salt", False),
    ("no salt since 2024", False), ("yes - unplugged", False), ("bypassed", False), ("ja, defekt", False),
])  # fmt: skip
def test_a_softener_that_does_nothing_is_none(people, text, softened):
    of_its_own = f'Name,Address,Type,Softener\nAsh,1 Mill Ln,gas,"{text}"\n'
    assert (read(people, of_its_own)[1][2].get("water") == "softened") is softened
    beside = f'Name,Address,Type,Water\nAsh,1 Mill Ln,gas,"18 gpg, softener {text}"\n'
    assert (read(people, beside)[1][2].get("water") == "softened") is softened


@pytest.mark.parametrize(("text", "flushed"), [
    ("FL BOTH 75S", True), ("FL OK", True), ("FL 3: replaced thermostat", False), ("fl 2 heater leaking", False),
])  # fmt: skip
def test_a_floor_is_no_flush(text, flushed):
    assert any(one["task"] == "flush" for one in findings(text)) is flushed

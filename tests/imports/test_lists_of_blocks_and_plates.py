"""Further offices' lists and books, each written down whole before it was tried: a heater service's with several tanks
a house, a house manager's with a block told once above its flats, a letting agent's, a French managing agent's, and a
plumber's who tells the day of make and waters by the bore."""

import datetime

import pytest

from aquifer.formats import day_said, heater_said, said
from aquifer.formats.job_text import findings
from aquifer.formats.of_each import of_each
from aquifer.visits.models import Finding
from tests.imports.test_lists_read_once import read
from tests.imports.test_lists_tried_blind import columns, heaters, unread
from tests.imports.test_office_list import brought_in, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")


PINE = """"PINE HOLLOW WATER HEATER SVC - MASTER",,,,,,,,,,,,,
Cust #,Name,Service Address,City St Zip,Phone 1 / Phone 2,Equip,Model #,Serial #,Inst.,Warr. exp.,Last svc,Next svc,\
Water,Notes
2001,"Tarn, Odell & Merry",14 Larkspur Ct,Pine Hollow XX 00031,555-0144 / 555-0145 (Merry cell),50 gal NG atmos.,\
QR-50-NG,Q1409-22871,9/14,9/20,10/12/25,10/26,city 17 gpg,
2002,Brisk Wren Bakery,2 Mill St (rear),Pine Hollow XX 00031,555-0190,"(2) 100 gal NG comm.",ref. plate,see tags,2018,\
-,"7/25, 1/26",7/26,"city, softener on kitchen line only","recirc pump; heater #2 leaks at drain"
2003,Sallow Creek Apts #1-#4,220 Sallow Creek Rd,Pine Hollow XX 00031,mgr Fenn 555-0171,4 x 40 gal elec,EC-40,\
"E2207-118, -119, -120, -121",7/22,7/28,none yet,ASAP,city,"keys w/ mgr"
2006,Ottoline Marsh,71-B Larkspur Ct,Pine Hollow XX 00031,disc.,HPWH 66g,HP-66,H2103-0042,3/21,3/31,\
3/25 cleaned filter + flush,3/27,city soft'd,"basement"
2007,"Dabney, Io",3 Cinder Ln,Upper Hollow XX 00032,555-0128,indirect 40 (boiler),,,2012 +/-,,8/2023,8/26?,\
well 11 gpg soft'd to 0,
2008,same owner,3 Cinder Ln - guest house,Upper Hollow XX 00032,same,POU 6 gal elec under sink,,,2020,,never,,same,
2009,St Aldhelm Hall,1 Church Walk,Pine Hollow XX 00031,555-0166 (office),75 gal NG power vent,PV-75,P1711-9,11/17,\
11/23,"11/24, sed. 2\"\"\",11/25,city,
"""
ITS_BOOK = """Svc date,Cust #,Tech,Work performed,Amt
7/8/25,2002,Bo/Ty,"flushed both, #1 heavy, #2 light",320
1/14/26,2002,Ty,flushed #1 & #2. #2 drain valve leaks - capped,320
1/20/26,2003,Ty,"descaled 1,2,4. #3 err 11, not descaled",90
8/?/23,2007,Ty,"flushed",240
2/2/26,2001,Ty,est. only - cust declined,0
"""


def test_what_is_said_of_two_tanks_is_said_of_both(people):
    run, told = read(people, PINE)
    assert not unread(told)
    assert told[4]["put in"] == "about 2018"
    assert told[4]["heater 2"] == "gas tank 100 gal, put in about 2018, last flush 2026"
    assert "water" not in told[4], "its softener is at a tap"
    assert "Serial #: see tags" in told[4]["note"] and "serial" not in told[4]
    assert "Warr. exp.: -" not in told[4]["note"]
    assert told[5]["last flush"] == "never" and told[5]["heater 4"].endswith("serial E2207-121")
    assert told[6]["last flush"] == "2025" and "cleaned filter" in told[6]["note"]
    assert told[7]["put in"] == "about 2012" and told[8]["telephone"] == "555-0128"
    assert 'Last svc: 11/24, sed. 2"' in told[9]["note"]
    brought_in(run)
    assert heaters("site__customer__name")[-2] == ("Io Dabney",), "the owner of the row above"


def test_a_line_of_several_heaters_is_a_visit_to_each(people):
    brought_in(read(people, PINE)[0])
    run, told = read(people, ITS_BOOK, "jobs")
    assert told[2]["understood"] == "H-0002: flush: heavy; H-0003: flush: trace"
    assert told[3]["heater"] == "H-0002 and H-0003" and told[4]["heater"] == "H-0004 and H-0005 and H-0007"
    assert told[5]["on"] == "2023-08-16" and "nothing was done" in told[6]["left out"]
    brought_in(run)
    got = Finding.objects.filter(heater__tag="H-0003", task="flush").order_by("on")
    assert [(str(one.on), one.removed) for one in got] == [("2025-07-08", "trace"), ("2026-01-14", "")]


@pytest.mark.parametrize(("line", "count", "told"), [
    ("flushed both, #1 heavy, #2 light", 2, {1: "flushed both; heavy", 2: "flushed both; light"}),
    ("Speicher 1: viel, Speicher 2: wenig. Beide gespült", 2, {1: "beide gespult; viel", 2: "beide gespult; wenig"}),
    ("all three flushed. #2 lots", 3, {1: "all three flushed", 2: "all three flushed; lots", 3: "all three flushed"}),
    ("beide gespült. SV 2 tropft", 2, {1: "beide gespult", 2: "beide gespult; sv tropft"}),
    ("#1: flushed, 2 qts sand; #2: flushed clear", 2, {1: "flushed; 2 qts sand", 2: "flushed clear"}),
    ("flushed #1 and #3", 3, {1: "flushed and", 3: "flushed and"}),
    ("beide gespült", 2, {1: "beide gespult", 2: "beide gespult"}),
    ("descaled all 3", 3, {1: "descaled all 3", 2: "descaled all 3", 3: "descaled all 3"}),
    ("A + B flushed (heavy), C - no flush. TPR ok", 3, {
        1: "tpr ok; + flushed (heavy)", 2: "tpr ok; + flushed (heavy)", 3: "tpr ok; no flush",
    }),
    ("drained 1,2", 2, {1: "drained", 2: "drained"}),
    # It does not say which, or speaks of one tank's parts, a measure, or more than there are.
    ("flushed, all good", 2, {}), ("both elements replaced, flushed", 2, {}), ("flushed 1, 2 qts", 2, {}),
    ("tank 2 yrs old, tank 1 flushed", 2, {}), ("flushed both", 3, {}),
    ("flushed #2", 2, {}), ("flushed #1 and #3", 2, {}), ("", 2, {}),
])  # fmt: skip
def test_of_several_heaters_each_has_what_is_said_of_it(line, count, told):
    assert {number: " ".join(said.split()) for number, said in of_each(line, count).items()} == told


ULMEN = """Hausverwaltung Ulmenried - Warmwassergeräte (Stand 10/26);;;;;;;;;;;
Objekt;WE / Lage;Mieter;Tel.;Art;Fabrikat/Typ;Bj.;Liter;Anode zul. gew.;Zul. entkalkt;Wasser;Bem.
Ulmenweg 3, 00411 Ulmenried;WE 1 EG li;Fam. Orlsund;000 411 201;E-Speicher wandh.;Nordholm EW 80;2016;80;05/22;05/22;\
16° dH;
;WE 2 EG re;Hr. Dr. Pahlke;000 411 202;dto.;dto.;2016;80;05/22 (ganz weg);05/22;dto.;SV tropft
;Keller;Hausmeister;000 411 200;Kleinsp. 5 l unter Waschb.;;ca. 2010;5;;nie;dto.;offen (drucklos)
Ulmenweg 5, 00411 Ulmenried;Heizungskeller;WEG (Verw.);000 411 100;Standsp. indir., 2 Stck.;Kettrup WS 400;11/2008;\
je 400;11/2024;11/2022;16° dH;Fremdstromanode in Nr. 2
Am Anger 12, 00412 Angerfeld;ganzes Haus;Fam. Tjarksen;0000/88 12 31;Durchl. 18kW;;1999;;2015!!;2015;8-9 ° dH;
Bachgasse 1a, 00411 Ulmenried;Laden;Bäckerei Hövels;000 411 777;Gastherme Kombi 24 kW;Gaswerk K24;2018;;-;\
jährl., zul. 02/26;18;
"""


def test_a_block_is_told_once_above_its_flats(people):
    run, told = read(people, ULMEN)
    assert not unread(told)
    assert [told[row]["hardness"] for row in (3, 5, 7, 8)] == ["16.7 gpg", "16.7 gpg", "9.4 gpg", "18.8 gpg"]
    assert told[6]["heater"] == "2 x indirect tank 106 gal" and told[8]["last flush"] == "2026"
    brought_in(run)
    assert heaters("site__customer__name", "site__street", "kind")[:3] == [
        ("Fam. Orlsund", "Ulmenweg 3", "electric_tank"), ("Hr. Dr. Pahlke", "Ulmenweg 3", "electric_tank"),
        ("Hausmeister", "Ulmenweg 3", "electric_tank"),
    ]  # fmt: skip
    assert heaters("kind")[5] == ("electric_tankless",)


HERON = """Property,Postcode,Landlord,Tenant,Tenant tel,HW system,Cyl (L),Make,Fitted,Last serviced,Serviced by,\
Exp vessel,T&P / PRV,Hardness (ppm),Access / notes
"Flat 1, Heron Quay",ZZ1 4AA,Lowmoor Lettings,Miss T Ashdown,0000 155 0101,unvented indirect,210,Brackwater,06/2019,\
11/06/2026,JT,1.5 bar,ok,312,key safe
"Flat 2, Heron Quay",ZZ1 4AA,Lowmoor Lettings,Mr & Mrs K Orde,0000 155 0102,unvented direct (imm. x2),180,Brackwater,\
06/2019,11/06/2026,JT,recharged 3.0 bar,PRV passing,312,
"Flat 3, Heron Quay",ZZ1 4AA,Lowmoor Lettings,(void),,unvented direct,180,Brackwater,06/2019,no access x2,,,,312,
Heron Cottage,ZZ1 4AB,Mrs P Larkrise,owner occ.,0000 155 0119,combi 30kW,n/a,Emberline,2017,02/26,subbie,0.8 bar,,\
300ish,
7 Tollgate Row,ZZ2 9QD,Tollgate Housing,D Quennell,07700 000 001,vented cyl + imm,120,-,c.1995,never (ours),,,,280,
The Old Forge,ZZ2 9QE,J & P Hartsease,as landlord,0000 155 0155,thermal store 250 + solar,250,Forgeway,2014,May 24,JT,\
2 bar,,softened (was 290),
"St Brannoc's School, Pool Lane",ZZ3 1AA,Governors,Caretaker Mr Ivel,0000 155 0180,"gas storage, direct fired",400,\
Forgeway,2011,08/25; 02/26,JT + mate,25L 2.5bar,ok,265,
"""


def test_a_property_is_an_address_and_its_tenant_the_customer(people):
    run, told = read(people, HERON)
    there = columns(run)
    assert (there["Property"], there["Tenant"], there["Landlord"]) == ("address", "customer", "note")
    assert told[7]["water"] == "softened" and told[7]["hardness"] == "16.9 gpg"
    assert told[3]["heater"] == "electric tank 48 gal", "its two elements are those of one tank"
    brought_in(run)
    assert heaters("site__customer__name", "site__street", "site__town") == [
        ("Miss T Ashdown", "Flat 1, Heron Quay", ""), ("Mr & Mrs K Orde", "Flat 2, Heron Quay", ""),
        ("Lowmoor Lettings", "Flat 3, Heron Quay", ""), ("Mrs P Larkrise", "Heron Cottage", ""),
        ("D Quennell", "7 Tollgate Row", ""), ("J & P Hartsease", "The Old Forge", ""),
        ("Caretaker Mr Ivel", "St Brannoc's School, Pool Lane", ""),
    ]  # fmt: skip
    assert heaters("kind", "vent")[-1] == ("gas_tank", ""), "a burner under the tank says nothing of its air"


TILLEULS = """Résidence;Bât./Appt;Occupant;Tél.;Appareil;Litrage;Posé;Marque;Grpe sécu;Dern. détart.;Anode;TH;Obs.
Les Tilleuls, 4 rue du Gué, 00210 Montvert;A 01;Mme Vauclair;00 21 00 01 01;C.E. vertical;200 L;03/2015;Ondaline;\
changé 2021;14/03/2023;chgée 2023;34 °f;calcaire ++
Les Tilleuls, 4 rue du Gué, 00210 Montvert;A 02;M. Destrée;00 21 00 01 02;idem;idem;idem;idem;fuit;jamais;?;idem;
Les Tilleuls, 4 rue du Gué, 00210 Montvert;B 11;Famille Okonoma;00 21 00 01 11;chauffe-bain gaz;11 L/min;1998;\
Ondaline;s.o.;2018;s.o.;idem;à remplacer
Les Tilleuls, 4 rue du Gué, 00210 Montvert;Chaufferie;Syndic Balzan;00 21 00 05 00;prépa. ECS 2x750 L;2 x 750;2012;\
Ferrand;soupape 7 b;plaques: 09/2025;Mg, 2024;idem adoucie à 8;bouclage
3 place du Lavoir, 00211 Aulnoy;Gîte;Mairie;00 21 00 09 00;chauffe-eau gaz à accu.;190;06/2017;Ferrand;ok;\
06/2022, 06/2024;neuve 06/24;21-23;clé mairie
3 place du Lavoir, 00211 Aulnoy;Salle des fêtes;Mairie;00 21 00 09 00;2 petits c.e. sous évier 15 L;15;2019;;;;;;
"""
ITS_WORKS = """Le;Chez;Par;Fait;€
14/03/23;Vauclair;RM;vidange + détartrage, 3 kg de tartre, anode finie changée, joint neuf;148
12 juin 24;Mairie gîte;JP;détartré peu de boue, anode neuve, soupape ok;160
10/06/22;gîte (mairie);RM;vidange;95
02/2018;Okonoma;RM;entretien annuel, corps de chauffe rincé acide;110
nov. 23;Vauclair;JP;vidange;85
05/05/26;Destrée;JP;absent, avis de passage;0
26/05/26;Destrée;JP;groupe de sécurité remplacé, n'a pas voulu la vidange;92
"""


def test_a_residence_is_an_address(people):
    run, told = read(people, TILLEULS)
    there = columns(run)
    assert [there[name] for name in ("Résidence", "Bât./Appt", "Litrage", "Grpe sécu", "Dern. détart.")] == [
        "address", "location", "size", "relief_valve", "last_flush",
    ]  # fmt: skip
    assert not unread(told) and told[2]["rod"] == "since 2023-07-02"
    assert told[5]["heater"] == "2 x indirect tank 198 gal"
    assert (told[5]["last flush"], told[5]["water"]) == ("2025", "softened")
    brought_in(run)
    assert heaters("kind", "capacity_l") == [
        ("electric_tank", 200.0), ("electric_tank", 200.0), ("gas_tankless", None), ("indirect_tank", 750.0),
        ("indirect_tank", 750.0), ("gas_tank", 190.0), ("electric_tank", 15.0), ("electric_tank", 15.0),
    ]  # fmt: skip


def test_a_book_names_the_place_within_a_house(people):
    brought_in(read(people, TILLEULS)[0])
    _, told = read(people, ITS_WORKS, "jobs")
    assert told[3]["heater"] == told[4]["heater"] == "H-0006"
    assert told[3]["understood"] == "flush: trace; anode replacement; relief valve exercise: flows and reseats"
    assert "anode inspection: gone" in told[2]["understood"] and told[5]["understood"] == "descale"
    assert told[6]["on"] == "2023-11-15", "a book that writes the year at its days"
    assert "nobody was there" in told[7]["left out"] and told[8]["understood"] == "relief valve replacement"


BINDARRA = """Client,Site address,Suburb,Pcode,Mob,HWS type,Cap,Brand & model,S/No,Date of mfr,Anode chkd,PTR valve,\
Water source,Last visit,Rmks
Jarrah Bakehouse,18 Wattle St,Bindarra,0099,0400 000 118,gas storage ext. 170L,170L,Currawong GS170,9920-113,Mar-16,\
Feb-23,repl Feb-23,town,Feb-23,park rear
T & L Mulga,7 Ghost Gum Ct,Bindarra,0099,0400 000 007,solar roof 300L elec boost,300,Sunridge 302J,unreadable,2009,\
2014,drips,town,Aug-14,roof access
M. Coolibah,22 Ghost Gum Ct,Bindarra,0099,0400 000 022,gas continuous flow 26L,26 L/min,Currawong C26,C26-88120,12/21,\
n/a,n/a,bore (hard),Nov-25,
Coolibah (mum),24 Ghost Gum Ct,Bindarra,0099,as above,elec off peak 250,250,Currawong E250,E-5512,1/11,never,\
eased 11/25,bore,Nov-25,
Bindarra Footy Club,Oval Rd,Bindarra,0099,0400 000 555,2x gas storage 265,265 ea,Currawong GS265,,Jul-13,May-21 both,\
May-21 both,rainwater tank,May-21,
"Wandoo, R",Lot 9 Dry Creek Rd,Saltlake,0098,no mob,wood stove wetback w/ 180L elec,180,unknown,,80s,?,open vented,\
bore 420ppm TDS 1900,never,
Saltlake Caravan Pk,1 Lake Pde,Saltlake,0098,0400 000 900,"cont. flow x4 (bank), 32L",,Currawong C32,,6/19,n/a,n/a,\
bore 420,6/25 + 12/25,
"""


def test_a_day_of_make_is_no_maker_and_a_tank_of_litres_no_gallons(people):
    run, told = read(people, BINDARRA)
    assert columns(run)["Date of mfr"] == "installed" and not unread(told)
    assert [told[row]["hardness"] for row in (7, 8)] == ["24.5 gpg", "24.5 gpg"]
    assert [told[row].get("water") for row in (2, 4, 5, 6, 8)] == [
        None, "from a well", "from a well", None, "from a well",
    ]  # fmt: skip
    brought_in(run)
    assert heaters("kind", "capacity_l", "installed_on__year")[:4] == [
        ("gas_tank", 170.0, 2016), ("electric_tank", 300.0, 2009), ("gas_tankless", None, 2021),
        ("electric_tank", 250.0, 2011),
    ]  # fmt: skip
    assert heaters("kind", "install_certainty")[-5:-3] == [("electric_tank", "estimated"), ("gas_tankless", "known")]


@pytest.mark.parametrize(("text", "first", "last"), [
    ("80s", 1983, 1986), ("the 1990s", 1993, 1996), ("late 90s", 1997, 1999), ("early '00s", 2000, 2003),
])  # fmt: skip
def test_a_decade_is_somewhere_in_it(text, first, last):
    found = day_said.day(text, datetime.date(2026, 12, 1), day_first=False)
    assert first <= found.on.year <= last and found.certainty == "estimated"


@pytest.mark.parametrize("line", [
    "customer didn't want flush", "tenant would not let us flush", "n'a pas voulu la vidange", "wollte keine Spülung",
])  # fmt: skip
def test_what_nobody_wanted_was_not_done(line):
    assert not findings(line)


@pytest.mark.parametrize(("text", "street", "town"), [
    ("Flat 1, Heron Quay", "Flat 1, Heron Quay", ""), ("12 Mill St, Ferrybank", "12 Mill St", "Ferrybank"),
    ("St Brannoc's School, Pool Lane", "St Brannoc's School, Pool Lane", ""),
])  # fmt: skip
def test_behind_a_flat_stands_its_house(text, street, town):
    assert (said.address(text).street, said.address(text).town) == (street, town)


@pytest.mark.parametrize(("text", "kind", "vent"), [
    ("gas 75 direct fired", "gas_tank", ""), ("gas 75 direct vent", "gas_tank", "direct"),
    ("chauffe-bain gaz", "gas_tankless", ""), ("Durchl. Gas 24 kW", "gas_tankless", ""),
    ("Durchl. 21 kW", "electric_tankless", ""), ("C.E. horizontal 150 L", "electric_tank", ""),
])  # fmt: skip
def test_how_kinds_are_called_in_short(text, kind, vent):
    found = heater_said.kind(text)
    assert (found.kind, found.vent) == (kind, vent)

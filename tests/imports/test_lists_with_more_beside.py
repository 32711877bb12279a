"""Lists and books of five more invented offices, each written down whole before it was tried: in their cells more
stands beside a figure than its unit, and a cell has what is true of each of several heaters."""

import datetime

import pytest

from aquifer.customers.models import Customer, Site
from aquifer.formats import said
from aquifer.formats.heater_said import kind, rod
from aquifer.formats.job_text import findings
from aquifer.formats.office import office_sheet
from aquifer.heaters.models import Part
from tests.imports.test_lists_read_once import read
from tests.imports.test_lists_tried_blind import columns, heaters, unread
from tests.imports.test_office_list import brought_in, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")


BRISTLEBACK = """BRISTLEBACK WATER HEATER SERVICE - MASTER LIST rev. 11/2026,,,,,,,,,,,,,,,,
"(yellow = call first, see Dana)",,,,,,,,,,,,,,,,
Cust #,Last,First,House,City/Zip,Cell,Landline,Unit,Gal,Age (yrs),BTU,Brand & S/N,Temp setting,Static PSI,\
Grains,Flush done,Notes to tech
10-441,Ellerstone,Marva & Tom,88 Quail Run,"Bristleback, 00031",555-555-0101,same,NG std vent,40,'19,36k,\
Hartwell  sn 1917-00442,B,62,12-14,3/2026 (Dana),dog - friendly
10-442,Pellworth,,14-B Canal Row,"Bristleback, 00031",n/a,(555)555-0102,Elec dual element,80,11,,\
Thornfell / 0988112,120ish,58,softened - 0,never that we know,lowboy under stairs
10-443,Kestrel Court HOA,attn: Lou,"500 Kestrel Ct, bldgs A-C","Bristleback, 00031",,555-555-0103 x12,\
3 gas tanks,100 ea,2012/2012/2020,199k,,140 w/ mixing valve,PRV @ 60,12,A: 5/25  B: 5/25  C: no,\
key box 4471 rear door
10-444,Abernook,Tilly,2 Ridge Fire Rd (gate 0815),"Upper Dell, 00032",5555550104,,TL condensing LP,--,2021,180k,\
Marran MX-180,125,48,22,desc. 9/24,descale kit on site
10-445,Farrowby,R.,771 Spur 9,"Upper Dell, 00032",text 555.555.0105,,same as above,--,2022,199k,same,120,48,22,,\
vacant till spring
10-446,Thistlewood,Ona,9 Old Church Ln,Dell,(555) 555 0106,,HP 66,66,2 (new!),,,ECO mode,71 no PRV,,not due,\
condensate pump clogs
10-447,Dunmarrow,Ives,"rear unit, 9 Old Church Ln",Dell,,,point of use 2.5,2½,?,1.5kW,,,71 no PRV,,,under sink
DO NOT CALL,Grell,H.,1 Weir St,Bristleback,,,gas,50,2004,,,,,,,sold house '23
10-449,Marlowe,Petra,300 Weir St Apt 4,Bristleback,555-555-0109,,gas direct vent (seconds),38,Nov-14,34000,\
Hartwell 1447-2201,hot,85!!,12gpg,11/23 & 11/25,"TPR drips, advised PRV 11/25"
"""
ITS_BOOK = """When,Cust,Tech,Work performed,Inv
3/14/26,10-441 Ellerstone,Dana,Full flush - approx 1.5 cups sand. anode 50%. TPR exercised OK. set at B,$165
Nov 25,10-449,Mo,"Flushed, TPR dripping after - replaced w/ new 150#/210. Static 85. Adv PRV",$240
11/18/23,10-449 Marlowe,Dana,flush clear in 4 min; anode didn't come loose (seized),$120
9/9/24,10-444,Mo,"Descaled 60 min vinegar, inlet screen cleaned, flow 4.1 -> 5.0 gpm",$210
5/6/25,10-443 Kestrel Ct HOA,Mo & Dana,A + B flushed (heavy), C - could not shut off, no flush. All 3 TPR ok
1/20/26,10-446,Dana,cleaned air filter and condensate line. anode 80%,$110
6/1/24,Pellworth,Mo,"lower element burned out, replaced. 2"" of scale chips vac'd out. rod new (alum)",$310
6/1/24,Pellworth,Mo,trip charge,$40
2/30/24,10-447,Dana,replaced with new 2.5 gal,$280
10/10/25,10-445,Mo,no show,$0
"""


def test_what_stands_beside_a_figure_is_no_unit_and_three_are_three(people):
    run, told = read(people, BRISTLEBACK)
    assert unread(told) == {"'ECO mode' is no figure"}
    assert (told[9]["pressure"], told[9]["put in"], told[10]["heater"]) == (
        "71 psi",
        "about 2024",
        "electric tank 3 gal",
    )
    assert told[5]["water"] == "softened" and told[11]["left out"] == "Notes to tech: sold house '23"
    hoa = told[6]
    assert (hoa["set at"], hoa["pressure"], hoa["hardness"]) == ("140 °F", "60 psi", "12.0 gpg")
    brought_in(run)
    assert Customer.objects.filter(name="Kestrel Court HOA").exists()
    of_hoa = heaters("site__customer__name", "capacity_l", "installed_on__year", "flush_history", "last_flush_year")[
        2:5
    ]
    assert of_hoa == [
        ("Kestrel Court HOA", 378.541, 2012, "about", 2025), ("Kestrel Court HOA", 378.541, 2012, "about", 2025),
        ("Kestrel Court HOA", 378.541, 2020, "never", None),
    ]  # fmt: skip


def test_a_book_knows_customers_by_number_and_name_in_one_cell(people):
    brought_in(read(people, BRISTLEBACK)[0])
    _, told = read(people, ITS_BOOK, "jobs")
    by_row = {row: detail.get("heater", detail.get("left out")) for row, detail in told.items()}
    assert by_row == {
        2: "H-0001", 3: "H-0010", 4: "H-0010", 5: "H-0006", 6: "H-0003 and H-0004 and H-0005", 7: "H-0008", 8: "H-0002",
        9: "H-0002", 10: "'2/30/24' is no day of the calendar", 11: "nobody was there, or nothing was done",
    }  # fmt: skip
    assert told[3]["on"] == "2025-11-15", "a book that writes the year at its days"
    assert told[6]["understood"].count("flush: heavy") == 2, "of C it says that it was not"
    # A number is nobody's where the name behind it is another's.
    _, told = read(people, "Date,Cust,Done\n3/14/26,10-441 Marlowe,flushed\n3/14/26,10-44 Marlowe,flushed\n", "jobs")
    assert {one["left out"] for one in told.values()} == {"no such customer at this address is on record"}


SELTBACH = """Nr;Name;Adresse;Tel. privat / mobil;Anlage;Hersteller/Typ;Liter;BJ;Fabrik-Nr.;\
Heizstab/kW;Soll °C;°fH;Druck;Entkalkt;Anode;MAG/SV;Vermerk
17;Familie Orthmann, H. u. K.;Brunnenweg 3, 00711 Seltbach;0000 / 711 22,\
 0000 17 17 17;Elektro-Standspeicher;Kalterbach ES 300;300;07/09;K-2231-07;6 kW;60;38 °fH;6 bar,\
 DM vorh.;Herbst 23;Mg, 33x400, neu 10/23;SV ok;Schlüssel: Bäckerei
18;Orthmann (Einliegerw.);wie vor;;UT-Gerät 10 l;;10;;;2;;;;;;;
19;Gasthof z. Linde;Dorfplatz 1, 00711 Seltbach;0000/711 40 (ab 14 Uhr);2 Gasspeicher;Kalterbach G500;2x 500;\
2015 + 2019;;;65 (Legionellen!);38;4,8;03.24 / nie;Fremdstrom;SV tropft;Montag Ruhetag
20;WEG Am Hang 2-8;Am Hang 4, 00712 Ober-Seltbach;HV Gruber 0000 800 11;Pufferspeicher m. FriWa;;1000;2020;;;60;\
22;4;n. erf.;o. Anode;;Hausmeister Hr. Teller
21;Fr. Dr. Wiesel;Amselstr. 12a, 00712 Ober-Seltbach;s. Vermerk;Gastherme,\
 DLE Bad;Brunnhold DLE21;-;ca. 1998;;21;;22;;-;-;-;nur über Tochter 0000 711 88
22;Zirbel, Jos.;Hinterau 7, 00713 Au;0000 713 05;Brauchwasser-WP;Brunnhold BWP270;270 L;XI/2018;;1,\
5;55/ 60 So;weich (Enth.);3;Jahreswartung 11/25;i.O. 11/25;MAG 18L def.;
23;Zirbel jun.;Hinterau 7a, 00713 Au;0000 713 06;Gasthermen-Kombi m. Schichtsp. 46l;;46;2022;;;50;weich;3;;;;
(24);Moser †;Hinterau 9;;E-Boiler 80 l;;80;1991;;;;;;;;;stillgelegt!
25;Haus Seeblick (FeWo);Uferweg 30, 00714 See;0000 714 99;Elektroboiler hängend;Kalterbach H120;120;Mai 2016;;2;\
70;;5-6;letztes Jahr;?;SV 3/8" neu 25;nur Di/Mi erreichbar
"""
ITS_DEEDS = """Datum;Kd.;Mon.;Ausgeführt;Std
12.10.23;17;Fe;Boiler geöffnet, ca. 6 kg Kalk, Heizstab entkalkt, neue Mg-Anode, SV geprüft i.O., MAG Vordruck 4,0;3
4.3.24;19 Linde;Fe/Wa;linker Speicher gereinigt, 2 Eimer Schlamm. rechter nicht möglich (Absperrung fest);4
20.11.25;22;Wa;JW: Filter ger., Anode 80 %, MAG defekt - Tausch angeboten;1
15.5.25;25;Fe;SV getauscht 3/8", Boiler n. entkalkt wg. Gästen;1
1.9.24;Wiesel;Wa;DLE Durchfluss gering, Sieb gereinigt, entkalkt mit Zitrone;1,5
3.3.22;18;Wa;UT-Gerät undicht -> neu;1
7.7.26;17;Fe;Anode gemessen 28 mm von 33, nicht gespült;0,5
"""


def test_a_german_list_tells_of_two_tanks_and_of_one_shut_down(people):
    run, told = read(people, SELTBACH)
    assert columns(run)["Anode"] == "anode" and told[9]["left out"] == "Vermerk: stillgelegt!"
    assert told[2]["rod"].startswith("magnesium, since 2023-10") and told[2]["pressure"] == "87 psi"
    assert told[5]["rod"] == "none" and told[7]["water"] == "softened" and told[7]["last flush"] == "2025"
    brought_in(run)
    assert heaters("site__street", "kind", "installed_on__year", "flush_history")[:4] == [
        ("Brunnenweg 3", "electric_tank", 2009, "about"), ("Brunnenweg 3", "electric_tank", None, "unknown"),
        ("Dorfplatz 1", "gas_tank", 2015, "about"), ("Dorfplatz 1", "gas_tank", 2019, "never"),
    ]  # fmt: skip
    _, told = read(people, ITS_DEEDS, "jobs")
    assert told[3]["understood"] == "flush: heavy, 10.04 gal" and told[6]["heater"] == "H-0006"
    assert told[5]["understood"] == "relief valve replacement", "it was not descaled"


VAL_PERDU = """Code client;Nom;Chantier;CP Ville;Tél.;Type d'appareil;Cap.;Marque;\
N° série;Année pose;Consigne;TH °f;P. réseau;Vase exp.;Dern. détartrage;Anode;Groupe séc.;Rq
C021;M. et Mme LARDENNE;4 chemin du Lavoir;00821 Val-Perdu;00 00 55 51 01;chauffe-eau élec. vertical mural;\
200 l;Tornelle;TR200-1188;2013;65°;32;3,5;oui 8 l;nov. 2022;magnésium, HS,\
 remplacée 11/22;changé en 2022;clé chez M. Ruat
C022;SCI Les Amandiers (gérance Pavot);12 bis rue Haute, 2e ét. g.;00821 Val-Perdu;00 00 55 51 02;\
cumulus blindé 150;150;;;05/2009;60;32;6 (sans réd.);non;jamais;?;goutte;locataire : Mme Ferré 00 00 55 51 22
C023;Boulangerie Sablon;place du Marché;00822 Aigues-Basses;fermé lundi;2 ballons gaz 300 l;300+300;Brenne;;\
2016 et 2021;70;28;4;2x18;03/25 et 03/25;électronique (ACI);RAS;gros consommateur
C024;Mme veuve Oriol;lieu-dit la Combe;00823 Combe-Noire;00 00 55 51 04;chauffe-bain gaz instantané;13 l/min;;;\
vieux (± 1995);;douce;;;;;;VMC gaz à contrôler
C025;Gîte du Pic;route du Pic;00823 Combe-Noire;00 00 55 51 05 ou 06;thermodynamique 270;270;Brenne Thermo;\
BT-0091;juin 2020;55 + cycle AL;adoucisseur;3;intégré;entretien annuel 06/25;Mg bon état 06/25;ok;saison mai-sept
C026;M. Tavel;11 rue Basse;00821 Val-Perdu;;idem C022;150;;;2009;;32;6;non;02/2020;d'origine;;
C027;M. Tavel fils;11 ter rue Basse;00821 Val-Perdu;;petit chauffe-eau 15 l sous évier;15;;;;;;;;;;;
C028;Copropriété Belvédère;1 av. de la Gare;00822 Aigues-Basses;syndic 00 00 55 51 08;prép. ECS semi-instantané;\
500;;;2018;60;28;4,2;80 l;déc-24;sans;2 soupapes 7 b;accès chaufferie code A14
ANNULÉ;M. Grasset;5 rue Haute;00821 Val-Perdu;;élec.;100;;;2001;;;;;;;;parti 2024
"""


def test_a_french_list_is_in_litres_and_its_rods_are_read(people):
    run, told = read(people, VAL_PERDU)
    there = columns(run)
    assert (there["P. réseau"], there["Vase exp."], there["Groupe séc."]) == (
        "pressure",
        "expansion_tank",
        "relief_valve",
    )
    assert told[10]["left out"] == "Code client: ANNULÉ; Rq: parti 2024"
    brought_in(run)
    assert heaters("kind", "capacity_l", "installed_on__year", "last_flush_year") == [
        ("electric_tank", 200.0, 2013, 2022), ("electric_tank", 150.0, 2009, None), ("gas_tank", 300.0, 2016, 2025),
        ("gas_tank", 300.0, 2021, 2025), ("gas_tankless", None, 1995, None), ("heat_pump_tank", 270.0, 2020, 2025),
        ("electric_tank", 150.0, 2009, 2020), ("electric_tank", 15.0, None, None), ("indirect_tank", 500.0, 2018, 2024),
    ]  # fmt: skip
    rods = Part.objects.filter(kind="anode").order_by("pk").values_list("alloy", "fitted_on__year")
    assert list(rods) == [
        ("magnesium", 2022), ("powered", None), ("powered", None), ("magnesium", None), ("", 2009), ("none", None),
    ]  # fmt: skip


def test_a_mark_alone_is_as_above_and_a_pressure_is_no_size(people):
    header = "Site\tOwner\tHtr\tSize\tFuel\tInstall\tWater\tAnode rod\tTPR\tExp. tk psi"
    rows = [
        "41 Depot Ave\tSundial LLC, PO Box 9\tTankless\t199k ea\tLP\t8/15/18\t25gpg, no soft.\t-\tok\t-",
        "1190 Tumble Rd\tWren Castlemoor\tstorage\t50 gal short\tNG\t5/09\t25 gpg\tlooks gone 5/21\tseeps\t60",
        '1192 Tumble Rd\tWren Castlemoor\tstorage\t"\tNG\t"\t25 gpg\t?\t"\t"',
        "Box 17, Saltbush\tIke Pennywhistle\tstorage\t30 + 20\tE\t2016, 2023\twell\talum-zinc in 30\tok\t-",
        "15 Playa Ct\t(demo'd)\tstorage\t40\tNG\t1987\t\t\t\t",
    ]
    run, told = read(people, "\n".join([header, *rows]) + "\n")
    assert unread(told) == {"'looks gone 5/21' says nothing known of a rod"}
    assert told[6]["left out"] == "Owner: (demo'd)"
    brought_in(run)
    assert heaters("site__street", "kind", "capacity_l", "installed_on__year", "site__softened") == [
        ("41 Depot Ave", "gas_tankless", None, 2018, False), ("1190 Tumble Rd", "gas_tank", 189.271, 2009, False),
        ("1192 Tumble Rd", "gas_tank", 189.271, 2009, False), ("Box 17", "electric_tank", 113.562, 2016, False),
        ("Box 17", "electric_tank", 75.708, 2023, False),
    ]  # fmt: skip
    tanks = Part.objects.filter(kind="expansion_tank").values_list("heater__site__street", "volume_l")
    assert sorted(tanks) == [("1190 Tumble Rd", None), ("1192 Tumble Rd", None)]
    assert Customer.objects.filter(name="Sundial LLC, PO Box 9").exists()


def test_a_house_in_a_street_has_no_street_for_a_town(people):
    run, told = read(people, """Client,Address,Appliance,T&P & PRV
Hollin,"Hollin Farm, Drove Rd",unvented direct,ok
Sallow,"2 Drove Cott's, Drove Rd (let)",unvented direct,PRV passing - replaced 11/24
Quay Dental,"18a Quay St., Fenwick",unvented direct,T&P and PRV replaced 11/24
""")  # fmt: skip
    assert "relief valve" not in told[3] and told[4]["relief valve"] == "2024-11-15"
    brought_in(run)
    assert list(Site.objects.order_by("pk").values_list("street", "town")) == [
        ("Hollin Farm, Drove Rd", ""), ("2 Drove Cott's, Drove Rd (let)", ""), ("18a Quay St.", "Fenwick"),
    ]  # fmt: skip


@pytest.mark.parametrize(("line", "cells"), [
    ('Ash,",",gas', ["Ash", ",", "gas"]), ('Ash,",gas', ["Ash", '"', "gas"]), ('",Elm,gas', ['"', "Elm", "gas"]),
    ('Ash,Elm,"', ["Ash", "Elm", '"']), ("Ash,Elm,gas, late,", ["Ash", "Elm", "gas", " late"]),
    ("Ash,Elm,gas,late,again", ["Ash", "Elm", "gas", "late, again"]), ('"Ash\n",Elm,gas', ["Ash\n", "Elm", "gas"]),
])  # fmt: skip
def test_a_quotation_mark_alone_is_one_and_no_cell_is_lost(line, cells):
    sheet = office_sheet(f"Name,Street,Type\nOak,1 Mill Ln,gas\nYew,2 Mill Ln,gas\n{line}\n".encode())
    assert list(sheet.lines)[-1][1] == cells


@pytest.mark.parametrize(("text", "means"), [
    ("prép. ECS semi-instantané", "indirect_tank"), ("chauffe-eau instantané gaz", "gas_tankless"),
    ("UT-Gerät 5 l", "electric_tank"), ("chauffe-eau 15 l sous évier", "electric_tank"),
])  # fmt: skip
def test_kinds_in_further_words(text, means):
    found = kind(text)
    assert found and found.kind == means


@pytest.mark.parametrize(("text", "alloy", "year"), [
    ("Mg, 33x400, neu 10/23", "magnesium", 2023), ("alum-zinc", "aluminium_zinc", None), ("ACI", "powered", None),
    ("magnésium, HS, remplacée 11/22", "magnesium", 2022), ("ohne Anode", "none", None), ("OEM", "", None),
])  # fmt: skip
def test_rods_in_further_words(text, alloy, year):
    found = rod(text, datetime.date(2026, 12, 2), False, "mm")
    assert found and (found.alloy, found.fitted_on and found.fitted_on.year) == (alloy, year)
    assert found.original is (text == "OEM")


def test_a_name_that_has_a_figure_is_no_first_name():
    assert said.person("Sundial LLC, PO Box 9") == "Sundial LLC, PO Box 9"
    assert said.person("Familie Orthmann, H. u. K.") == "Familie Orthmann, H. u. K."
    assert said.person("ORTHMANN, Hanne") == "Hanne Orthmann"


@pytest.mark.parametrize("text", ["Boiler n. entkalkt", "n. gespült", "Speicher n.gereinigt wg. Gästen"])
def test_what_was_not_done_is_not_done_in_short_either(text):
    assert findings(text) == []


def test_a_story_where_a_figure_is_asked_for_stays_a_note(people):
    # Of a row of fractions and days 2,000 letters long it took 40 s to find that it is no hardness.
    story = "5/25 " * 400
    _, told = read(people, f"Name,Address,Type,Hardness\nAsh,1 Mill Ln,gas,16\nElm,2 Mill Ln,gas,{story}\n")
    assert told[2]["hardness"] == "16.0 gpg" and "is no figure" in told[3]["not understood: Hardness"]
    assert "Hardness: 5/25 5/25" in told[3]["note"]

"""Three further offices' lists and two books, each written down whole before it was tried: a program's export with its
places by their sites, a French one with all of a heater in one cell, and one in capitals from a fork of roads."""

import pytest

from aquifer.formats import said
from aquifer.formats.heater_said import kind
from aquifer.formats.job_text import findings
from aquifer.heaters.models import Heater
from tests.imports.test_lists_read_once import read
from tests.imports.test_lists_tried_blind import columns, heaters, unread
from tests.imports.test_office_list import brought_in, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")


VESPER = """"Account Name","Site: Street","Site: City","Site: Zip","Primary Contact","Contact Phone","Asset Name",\
"Asset Type","Capacity","Fuel Type","Install Date","Last Service Date","Next Service",\
"Water Hardness (gpg)","Softener Installed","Anode Last Checked","T&P Last Replaced",\
"Thermal Exp. Tank","Setpoint (F)","Asset Status","Tags"
"Okonkwo Residence","18 Larkspur Loop","Vesper Falls","00051","Ada Okonkwo","+1 (555) 555-0401",\
"WH-1 Garage","Tank Water Heater","50 gal","Natural Gas","2017-06-01T00:00:00Z","2026-03-11T14:05:00Z",\
"2027-03-11","16","FALSE","2024-03-01","","TRUE","120","Active","vip;gate code"
"Okonkwo Residence","18 Larkspur Loop","Vesper Falls","00051","Ada Okonkwo","+1 (555) 555-0401",\
"WH-2 ADU","Tankless Water Heater","199,000 BTU","Natural Gas","2021-09-15T00:00:00Z",\
"2026-03-11T15:10:00Z","2027-03-11","16","FALSE","","","","125","Active",""
"Vesper Brewing Co., LLC","2200 Quarry St Ste B","Vesper Falls","00051","Miles Farrant",\
"555-555-0402 ext. 3","Boiler room WH","Tank Water Heater","119 gal","Natural Gas","2019-01-01",\
"2026-06-30","2026-12-30","16","TRUE","2026-06-30","2023-06-12","TRUE","180","Active","glycol;night access"
"Tolliver, Jane","5 Heron Ct","Vesper Falls","00051","","","Old electric","Tank Water Heater","40 gal",\
"Electric","2003-01-01","","","16","","","","FALSE","","Retired","replaced 2022"
"Tolliver, Jane","5 Heron Ct","Vesper Falls","00051","","","Heat pump","Heat Pump Water Heater",\
"65 gal","Electric","2022-05-04","2025-05-04","2026-05-04","16","","","","FALSE","120","Active",""
"Greer Family Trust","Lot 9, Old Mine Rd","Vesper Heights","00052","Sam (caretaker)","5555550405",\
"Cabin WH","RV/Mobile Water Heater","6 gal","Propane","","","","","","","","","","Seasonal",""
"Duplicate of Okonkwo","18 Larkspur Loop","Vesper Falls","00051","","","","","","","","","","","","","",\
"","","Inactive","merge"
"""


def test_a_city_of_a_site_is_a_town_and_what_is_retired_is_left_out(people):
    run, told = read(people, VESPER)
    there = columns(run)
    assert (there["Site: Street"], there["Site: City"], there["Site: Zip"]) == ("street", "town", "postcode")
    assert told[5]["left out"] == "Asset Status: Retired" and "Inactive" in told[8]["left out"]
    brought_in(run)
    assert heaters("site__street", "site__town", "kind") == [
        ("18 Larkspur Loop", "Vesper Falls", "gas_tank"), ("18 Larkspur Loop", "Vesper Falls", "gas_tankless"),
        ("2200 Quarry St Ste B", "Vesper Falls", "gas_tank"), ("5 Heron Ct", "Vesper Falls", "heat_pump_tank"),
        ("Lot 9, Old Mine Rd", "Vesper Heights", "mobile_tank"),
    ]  # fmt: skip


VIEUX_PONT = """Liste clients chauffe-eau — mise à jour octobre 2026;;;;;;;;;
N°;Client;Adresse complète;Tél;Appareil (marque, capacité,\
 année);Énergie;Dureté;Dernière visite;Travaux faits;À prévoir
1;DURVAL Hélène;3, rue des Aulnes - 00831 Vieux-Pont;00.00.55.61.01;Tornelle stéatite 200L,\
 2015;Elec HC/HP;28°f;12/03/2025;détartrage (3 kg), anode 50 %, groupe OK;2027
2;Restaurant Le Gué;1 quai Bas - 00831 Vieux-Pont;00.00.55.61.02 (Paul);2x Brenne gaz 190L,\
 2018/2018;Gaz de ville;28;sept. 25;vidange, 1 brûleur nettoyé, soupape changée;sept. 26
3;DURVAL Marc (fils);3 bis, rue des Aulnes - 00831 Vieux-Pont;—;Idem, 2016;Elec;28;jamais;;RDV à prendre
4;Résid. Les Saules (12 lgts);14 à 18 av. du Pont - 00831 Vieux-Pont;gardien 00.00.55.61.04;\
12 cumulus 100 L, 2009-2012;Elec;28;par roulement;4 remplacés en 2024;
5;M. ABADOU;Hameau de Serre - 00832 Serre;00.00.55.61.05;Chauffe-eau solaire 300 L appoint élec.,\
 2011;Solaire;puits ferrugineux;10/2023;anode Mg neuve;échangeur à détartrer
6;Cabinet méd. Roc;8 rue Neuve - 00831 Vieux-Pont;00.00.55.61.06;petit CE 10 L sous évier, 2020;Elec;28;-;;
7;Mme LEBAC †;9 rue Neuve;;Tornelle 150L, 2004;Elec;;2019;;dossier clos
"""
ITS_VISITS = """Date;Client;Intervention;Tps;Tech
12/03/2025;Durval H.;Détartrage CE 200L, env. 3 kg de calcaire, anode usée à 50 %,\
 groupe de sécurité testé OK;1h30;LV
15/09/25;Le Gué;Vidange ballon n°1, soupape remplacée. Ballon 2 non fait (vanne bloquée);2h;LV
10/10/2023;Abadou;Anode Mg remplacée, pas de détartrage;45 min;JM
02/2024;Les Saules;4 cumulus remplacés (log. 3, 5, 8, 9);2 j;LV+JM
"""


def test_all_of_a_heater_in_one_cell_is_taken_apart(people):
    run, told = read(people, VIEUX_PONT)
    assert columns(run)["Appareil (marque, capacité, année)"] == "kind"
    assert unread(told) == {"'par roulement' is no date that is known"} and "dossier clos" in told[9]["left out"]
    assert told[7]["water"] == "from a well"
    brought_in(run)
    found = heaters("site__street", "site__town", "kind", "capacity_l", "installed_on__year")
    assert found[:4] == [
        ("3 rue des Aulnes", "Vieux-Pont", "electric_tank", 200.0, 2015),
        ("1 quai Bas", "Vieux-Pont", "gas_tank", 190.0, 2018), ("1 quai Bas", "Vieux-Pont", "gas_tank", 190.0, 2018),
        ("3 bis rue des Aulnes", "Vieux-Pont", "electric_tank", None, 2016),
    ]  # fmt: skip
    assert Heater.objects.filter(site__street="14 à 18 av. du Pont", capacity_l=100).count() == 12
    _, told = read(people, ITS_VISITS, "jobs")
    assert told[3]["heater"] == "H-0002" and told[4]["understood"] == "anode replacement", "it was not descaled"


HALDEN = """CUSTOMER|ADDRESS|TYPE|GALS|AGE|FLUSH LAST|DUE|PRICE QUOTED|TEMP OUT|PSI COLD|TDS|HARD|ROD|REMARKS
FENWICK R|12 COPSE WAY, HALDEN 00061|GAS|40|8|3/25|3/26|129|118|64|410|17|70% LEFT|
FENWICK R|SHOP - 14 COPSE WAY|ELECTRIC|20|15?|NEVER|ASAP|129|131|64|410|17|GONE|ELEMENT WEAK
ST. BRANNOC CHURCH|1 CHURCH SQ, HALDEN 00061|GAS (2)|75|3/3|10/25|10/26|258|140|58|395|17|NEW 10/25|K\
ITCHEN + HALL
PRIOR-HALE M&T|HALDEN HTS #22|TANKLESS GAS|0|5|8/25 DESCALE|8/26|189|120|71|N/T|SOFT 1|N/A|2 STORY
UMBER LOUIS|HALDEN HTS #23|HP|50|1|-|11/26|149|125|71||SOFT 1|90%|INSTALLED BY US 11/25
UMBER L (MOTHER)|HALDEN HTS #24|SAME AS #22|0|6|8/24|OVERDUE|189|122|71||17||SOFTENER OFF
VANCE D|RT 4 BX 12|LP|30|20+|X|-|-|-|38|1100|41 W/ IRON|?|WELL. PIT
WARD|RT 4 BX 13|WOOD BOILER INDIRECT|60|10 YRS|2021|2026||150|40||39||
TOTAL|||315||||||||||
"""
ITS_WORK = """DATE|NAME|WORK|TECH|AMT
3/12/25|FENWICK R|FLUSHED 40 GAS. LT SED. ROD 70%. TPV OK. PSI 64 TEMP 118|BD|129
10/15/25|ST BRANNOC|FL BOTH 75S MED SED, NEW RODS X2, T/P #2 WEEPED REPLACED|BD|410
8/8/25|PRIOR-HALE|DESCALE 45 MIN, CLEANED SCRN, OUT 120F|BD|189
8/9/24|UMBER L|DESCALE HTS 24 MOTHERS, SOFTNR OFF TOLD HER|BD|189
11/20/25|UMBER LOUIS|INSTALL 50 HP|BD/KT|2890
11/2/26|VANCE|NO WORK. DOG LOOSE.|BD|0
"""


def test_what_a_softener_leaves_is_not_what_comes(people):
    run, told = read(people, HALDEN)
    assert unread(told) == {"'x' is no date that is known"}
    assert [told[row].get("water") for row in (2, 5, 6)] == [None, "softened", "softened"]
    assert "hardness" not in told[5] and told[9]["hardness"] == "39.0 gpg"
    brought_in(run)
    assert Heater.objects.filter(site__customer__name="Prior-Hale M&T").exists()


def test_a_book_tells_that_a_name_has_two_houses(people):
    brought_in(read(people, HALDEN)[0])
    _, told = read(people, ITS_WORK, "jobs")
    assert told[2]["left out"] == "there are 2 houses of that name, and it does not say which"
    assert told[3]["understood"] == (
        "H-0003: flush: moderate; anode replacement; H-0004: flush: moderate; anode replacement; "
        "relief valve exercise: flows and weeps; relief valve replacement"
    )
    assert told[4]["understood"] == "descale; upkeep: inlet screen, light"
    assert told[7]["left out"] == "nobody was there, or nothing was done"


@pytest.mark.parametrize(("text", "means"), [
    ("Tornelle 150 L HC/HP élec.", "electric_tank"), ("chauffe-eau solaire 300 L", "indirect_tank"),
    ("chauffe-eau solaire 300 L appoint élec.", "electric_tank"), ("cumulus 100 L", "electric_tank"),
])  # fmt: skip
def test_cheap_hours_are_no_heat_pump(text, means):
    found = kind(text)
    assert found and found.kind == means


@pytest.mark.parametrize("text", [
    "pas de détartrage", "anode HS, sans vidange", "Ballon 2 non détartré", "ohne Entkalkung", "sin limpieza",
])  # fmt: skip
def test_what_was_not_done_is_not_done_in_further_tongues(text):
    assert not [one for one in findings(text) if one["task"] in ("flush", "descale")]


@pytest.mark.parametrize(("text", "name"), [
    ("PRIOR-HALE M&T", "Prior-Hale M&T"), ("O'BRIEN", "O'Brien"), ("FARRANT'S DINER", "Farrant's Diner"),
])  # fmt: skip
def test_a_name_in_capitals_keeps_those_of_its_parts(text, name):
    assert said.person(text) == name

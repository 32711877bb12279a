"""Further offices' lists and books, each written down whole before it was tried: of maintenance agreements, of a house
with several heaters in columns, of a housing association, of a water heater book, of a card index and of job sheets."""

import pytest

from aquifer.company.models import Company
from aquifer.visits.models import Visit
from tests.imports.test_lists_read_once import read
from tests.imports.test_lists_tried_blind import columns, heaters, unread
from tests.imports.test_office_list import brought_in, sent, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")


CORLISS = """Maintenance agreements - Corliss Plumbing,,,,,,,,,,,,,,
Contract,Member since,First,Last,Address,City,Heater #1 (type/size/yr),Heater #2,Water test,Svc interval,Jan-26,Feb-26,\
Mar-26,Rods,Comments
M-118,3/2019,Petra,Oakhurst,55 Tamar Way,Corliss,"NG 50 '17",,18,12 mo,,X 2/9,,"'23",
M-119,,Dell & Ruth,Ambry,57 Tamar Way,Corliss,"Elec 40 (2012)","Elec 20 shop (2020)",17.5,12 mo,X,,,,
M-120,2021,,Corliss Volunteer Fire Dept,1 Siren St,Corliss,"NG 75 PV '18","tankless NG '22 (truck bay)",18,6 mo,,,\
X 3/30,none (#1 gone 2024 - replaced),Chief Abel 555-0178
M-121,2016,Wynn,Tolliver,RR 2 Box 40,Upper Corliss,LP 40 '16,,well - 31 w/ iron,12 mo,declined,,,never,No dogs!!
M-123,2024,Inez,Rook,14 Quill St,Corliss,HP 65 2024,,18 soft,12 mo,,,,powered,filter ea visit
M-124,2020,,Quill St Laundry,16-18 Quill,Corliss,(3) NG 100 '20,,soft 0-1,quarterly,X 1/12,,,Al 2025 all,24/7 - call Mo
"""
ITS_ORDERS = """WO,Date,Member,Summary,Result,Hours
5525,1/15/26,M-119 Ambry,Annual WH maint x2,"#1 flushed 1/4 bucket, anode not out (seized). #2 flushed - trace",1.75
5530,3/30/26,M-120 Fire Dept,6 mo,"75 PV: flush, mod. sediment; tankless: descaled 40 min, filter screen ok",2.25
5533,1/20/26,M-121,Annual,cust declined at door,0.25
5540,1/12/26,M-124,Quarterly,"All three flushed. #2 lots of scale",3
5550,7/4/25,M-123,service,"HP: cleaned air filter, condensate pump float stuck - freed; flush clear",1.5
"""


def test_a_contract_is_an_account_and_a_month_a_mark(people):
    run, told = read(people, CORLISS)
    there = columns(run)
    assert (there["Contract"], there["Jan-26"], there["Water test"]) == ("account", "last_flush", "well")
    assert [told[row]["hardness"] for row in (3, 4, 6, 7)] == ["18.0 gpg", "17.5 gpg", "31.0 gpg", "18.0 gpg"]
    assert told[5]["rod"] == "since 2024-07-01" and told[6]["last flush"] == "unknown"
    brought_in(run)
    assert heaters("kind", "last_flush_year") == [
        ("gas_tank", 2026), ("electric_tank", 2026), ("electric_tank", 2026), ("gas_tank", 2026),
        ("gas_tankless", 2026),
        ("gas_tank", None), ("heat_pump_tank", None), ("gas_tank", 2026), ("gas_tank", 2026), ("gas_tank", 2026),
    ]  # fmt: skip
    run, told = read(people, ITS_ORDERS, "jobs")
    whose = run.rows.order_by("number").values_list("key", flat=True)
    assert [*whose][:3] == [
        "Dell & Ruth Ambry · 57 Tamar Way", "Corliss Volunteer Fire Dept · 1 Siren St", "M-121",
    ]  # fmt: skip
    assert "flush: moderate" in told[3]["understood"]
    assert told[2]["understood"] == "H-0002: flush: heavy, 1.25 gal; H-0003: flush: trace"
    assert told[3]["heater"] == "H-0004 and H-0005" and told[5]["heater"] == "H-0008 and H-0009 and H-0010"
    assert "nothing was done" in told[4]["left out"] and "upkeep: air filter" in told[6]["understood"]


FENN = """Nr.;Anrede;Name;Strasse;PLZ Ort;Tel. privat;WW-System;Hersteller;Bj;Inhalt;Schutz;Wartung zuletzt;Wasserhärte
101;Frau;Ostermoor, Gesa;Deichstr. 7;00631 Süderfenn;000/631 44 01;Gasspeicher;Vollhorn;2019;120;Mg-Anode 2023;\
11.03.2026;14
103;Firma;Landgasthof Zum Siel GmbH;Am Siel 1;00631 Süderfenn;000/631 50 50;2 Gasspeicher;Hohenlie;2008/2016;je 500;\
Fremdstr.;02/2026 beide;14
104;Fam.;Pflugbeil-Harms;Ringweg 12 a;00632 Fennau;;WP-Speicher;Nordwind;10/2022;285;Titan;noch nie;weich (3,5)
105;Herr;Dr. Swantje Rickmers (Praxis);Markt 3;00632 Fennau;000/632 10;3 UT-Geräte 5 l;div.;'18;5;-;nie;3,5
106;Eheleute;Brar, Tomke u. Jan;Markt 3;00632 Fennau;000/632 11;E-Standspeicher 150;Elbkraft;1994;150;\
Verbr. (2024), n. getauscht;05.2024;3,5
"""


def test_water_in_a_german_list_is_told_in_its_degrees(people):
    run, told = read(people, FENN)
    assert columns(run)["Schutz"] == "anode" and not unread(told)
    assert [told[row]["hardness"] for row in (2, 4, 5)] == ["14.6 gpg", "3.6 gpg", "3.6 gpg"]
    assert [told[row].get("rod") for row in range(2, 7)] == [
        "magnesium, since 2023-07-02", "powered", "powered", None, "used up",
    ]  # fmt: skip
    assert told[5]["heater"] == "3 x electric tank 1 gal" and "Anrede: Herr" in told[5]["note"]


WEIR = """ref,occupier,addr1,addr2,postcode,HW appliance,fuel,ltr,install yr,descale due,last descale,anode?,scald risk
HA001,Mrs E Fothergill,3 Weir Court,,QQ1 1AA,Unvented cyl,elec E7,170,2014,2026,12/2023,N (stainless),HIGH
HA003,VOID,7 Weir Court,,QQ1 1AA,Unvented cyl,elec E7,170,2014,2026,refused access 12/23,N (stainless),
HA004,Ms A Odell / Mr P Shaw,Flat A,9 Weir Street,QQ1 1AB,Combi,gas,,2020,n/a,-,-,MED
HA006,Weir Court Scheme (laundry),1 Weir Court,Common rm,QQ1 1AA,Calorifier 500L + plate HX,gas boiler,500,2009,\
2025 OVERDUE,2021,magnesium,
"""


def test_an_appliance_and_its_fuel_are_one_kind(people):
    run, told = read(people, WEIR)
    assert columns(run)["occupier"] == "customer" and columns(run)["HW appliance"] == columns(run)["fuel"] == "kind"
    assert not unread(told) and told[2]["rod"] == "none"
    brought_in(run)
    assert heaters("kind", "site__customer__name") == [
        ("electric_tank", "Mrs E Fothergill"), ("electric_tank", "7 Weir Court"),
        ("gas_tankless", "Ms A Odell / Mr P Shaw"), ("indirect_tank", "Weir Court Scheme (laundry)"),
    ]  # fmt: skip


SALTMARSH = """Saltmarsh Plumbing & Heating   ***water heater book***   rev. Oct 26,,,,,,,,,,,,,,,,,,,
#,Customer,Where,Phone,2nd ph,Fuel/type,How big,Brand,Ser.,Vintage,Temp F,Inc. press.,X-tank,Soft?,Water hardness,\
Supply,Last drained,Rod status,TPR,Misc
1,"Quimby, Dora & Al",18 Tidewater Ln Saltmarsh,(555) 555-0201,,gas (atmos),forty,Marran,--,07 or 08,120ish,70#,no,\
none,16-18 gr,city,spring '23,never seen,1st one,
2,THE BLUE HERON INN,2 Harbor St Saltmarsh,555 0202 ask 4 Jo,555-0203,gas x2,100 ea.,Thornfell,tags painted over,\
2013 & 2021,140,95 (no PRV!),Y (failed),twin,3 after / 19 before,city,Mar. 2026,,repl Mar 26,kitchen closes 2-4
3,Nils Corrigan,RFD 3,none,,propane tankless,199,Ostrand,OT-5521,2018-19,hot,well tank 40/60,,no,26gpg + iron,\
own well,descaled once (2021?),,,vinegar only
4,Pru Haddonfield,5 Tidewater,555.0205,,el.,52,,,before 2000,,,,,16,city,,,,leave alone per owner
7,Wylie rental A,77 Mill Rd Apt A,555-0208,tenant 555-0209,gas short,30s,Marran,,11,,,,,,city,6/24,,,low clearance
9,"Mayhew, Dr. T.",3 Point Rd,555-0210,c/o dtr 555-0211,boiler mate 41,41 gal,,,'05,140 mix to 120,60,yes,softner 2019,\
2 (soft),city,2020,SS tank - none,new 2020,
10,XX Fisk XX,12 Point Rd,disc,,gas,40,,,,,,,,,,,,,MOVED - new owner not ours
"""


def test_a_size_in_words_and_a_water_behind_its_softener(people):
    run, told = read(people, SALTMARSH)
    assert (columns(run)["How big"], columns(run)["Vintage"]) == ("size", "installed") and not unread(told)
    assert [told[row].get("hardness") for row in range(3, 9)] == [
        "17.0 gpg", "19.0 gpg", "26.0 gpg", "16.0 gpg", None, None,
    ]  # fmt: skip
    assert (told[8]["water"], told[8]["set at"], told[8]["rod"]) == ("softened", "140 °F", "none")
    assert told[5]["pressure"] == "60 psi" and told[3]["rod"] == "the first"
    assert told[9]["left out"] == "#: 10; Misc: MOVED - new owner not ours"
    brought_in(run)
    assert heaters("capacity_l", "installed_on__year", "last_flush_year") == [
        (151.416, 2008, 2023), (378.541, 2013, 2026), (378.541, 2021, 2026), (None, 2018, 2021), (196.841, 1996, None),
        (113.562, 2011, 2024), (155.202, 2005, 2020),
    ]  # fmt: skip


HALMEGG = """Boilerdienst Halmegg, Kundenkartei Auszug;;;;;;;;;;;;;;;
KdNr;Nachname, Vorname;Adresse;Tel/Handy;Gerät;Größe;Marke/Modell;EZ;Soll;Wh °d;Druck;Pers.;\
letzte Spülung / Entkalkung;Anode;SV gew.;Vermerk
H-01;Achleitner, Resi;Sonnleiten 4, 00811 Halmegg;000 81 10 / 0000 81 10;El.-Speicher;120 lt;Almdorn AE120;ca. 2009;\
Stufe III;12;3,5;2;alle 2 J, zul. Okt 25;Okt 25 neu;2019;Hund bissig
H-03;Gasth. Zur Post (Fam. Moser);Dorfpl. 1 (Nebenhaus);000 81 20;Boiler el. liegend;2x200;Almdorn;2004;60;12;\
4 bar n. DM;;NIE GEÖFFNET;?;Orig.;Keller eng
H-04;Stöckl Johann;Bachweg 9, 00812 Unterhalm;0000 82 33;Luft-WP Boiler 300l;;Windegg 300;VI/2021;52;weich 4;3;5;;\
Korrex (Fremdstrom);ok 21;PV-Heizstab
H-06;Pfarre Unterhalm;Kirchpl. 2, 00812 Unterhalm;000 82 01 (Mesner);Durchlauf 24 kW;;;2011;45;4;3;-;-;-;-;
H-08;Ruinenwirt (gesperrt);Burgweg;;Boiler;150;;1988;;;;;;;;abgemeldet
"""


def test_short_names_of_a_card_index_are_known(people):
    run, told = read(people, HALMEGG)
    there = columns(run)
    assert [there[name] for name in ("Größe", "EZ", "Wh °d", "Pers.", "SV gew.")] == [
        "size", "installed", "hardness", "people", "relief_valve",
    ]  # fmt: skip
    assert not unread(told) and [told[row]["hardness"] for row in (3, 4, 5)] == ["12.5 gpg", "12.5 gpg", "4.2 gpg"]
    assert (told[3]["last flush"], told[3]["set at"], told[4]["pressure"]) == ("2025", "Stufe III", "58 psi")
    assert told[5]["put in"] == "2021-06-15" and told[7]["left out"] == "Vermerk: abgemeldet"
    brought_in(run)
    assert heaters("kind", "capacity_l") == [
        ("electric_tank", 120.0), ("electric_tank", 200.0), ("electric_tank", 200.0), ("heat_pump_tank", 300.0),
        ("electric_tankless", None),
    ]  # fmt: skip


NANTGOCH = """Customer;Postcode;Asset;Details;Last visit
Mrs Olwen Pryce, 3 Chapel Terrace, Nantgoch;ZX3 7AB;HW cylinder;\
unvented 180 ltr, Brackwater, indirect off combi system boiler;15/05/2026 - inhibitor + TPR lift ok
Nantgoch RFC, Park Rd, Nantgoch;ZX3 7AJ;Water heater (gas);direct gas 300L, Forgeway, 2012;\
05/2025: descaled, anode replaced
Nantgoch RFC, Park Rd, Nantgoch;ZX3 7AJ;Water heater (gas) no.2;as above;05/2025
Y Felin B&B, Mill Lane, Nantgoch;ZX3 7AL;Heat pump cyl;250L preplumbed, 2023, Emberline;annual - last Feb 26
"""


def test_a_name_a_street_without_a_number_and_a_town_in_one_cell(people):
    run, told = read(people, NANTGOCH)
    assert not unread(told) and [told[row]["last flush"] for row in (2, 3, 4, 5)] == ["2026", "2025", "2025", "2026"]
    brought_in(run)
    assert heaters("site__customer__name", "site__street", "site__town", "kind", "vent") == [
        ("Mrs Olwen Pryce", "3 Chapel Terrace", "Nantgoch", "indirect_tank", ""),
        *[("Nantgoch RFC", "Park Rd", "Nantgoch", "gas_tank", "")] * 2,
        ("Y Felin B&B", "Mill Lane", "Nantgoch", "heat_pump_tank", ""),
    ]  # fmt: skip


def test_what_is_asked_of_each_heater_and_not_answered_is_not_the_other_s(people):
    of_each = "Customer,Address,WH1 type,WH1 last flush,WH2 type,WH2 last flush\nPell,1 Elm St,gas 50,3/2024,gas 40,\n"
    of_one = "Customer,Address,WH1 type,WH2 type,WH1 last flush\nPell,1 Elm St,gas 50,gas 40,3/2024\n"
    in_words = "Customer,Address,WH1,WH2\nPell,1 Elm St,gas 50 flushed 2024,gas 40\n"
    of_all = "Customer,Address,WH1 type,WH2 type,Last svc\nPell,1 Elm St,gas 50,gas 40,3/2024\n"
    flushed = [
        read(people, text)[1][2]["heater 2"].rpartition("last flush ")[2] for text in (of_each, of_one, in_words)
    ]
    assert flushed == ["unknown", "unknown", "unknown"]
    assert read(people, of_all)[1][2]["heater 2"].endswith("last flush 2024")


def test_where_a_unit_stands_says_nothing_of_its_house(people):
    text = "Customer,Address,Unit location,Type\nPell,1 Elm St,garage,gas 50\nOrde,,basement,gas 40\n"
    brought_in(read(people, text)[0])
    assert heaters("site__customer__name", "site__street") == [("Pell", "1 Elm St"), ("Orde", "")]


def test_the_price_of_a_plan_is_nobody_s_number(people):
    text = "Customer,Address,Plan,Title,Type\nPell,1 Elm St,129,Dr.,gas 50\nOrde,3 Elm St,149,Mrs,gas 40\n"
    run, told = read(people, text)
    assert columns(run)["Plan"] == "note" and "Title: Dr." in told[2]["note"]


def test_a_figure_under_a_month_is_a_day_of_it_or_none(people):
    text = "Customer,Address,Type,Mar-26\nPell,1 Elm St,gas 50,X\nOrde,3 Elm St,gas 40,14\nRook,5 Elm St,gas 40,45\n"
    _, told = read(people, text)
    assert [told[row]["last flush"] for row in (2, 3, 4)] == ["2026", "2026", "unknown"]


@pytest.mark.parametrize(("unit", "figure", "said"), [
    ("dh", "14", "14.0 °dH"), ("fh", "20", "20.0 °fH"), ("mg_l", "14", "250 mg/L"), ("mg_l", "142", "142 mg/L"),
])  # fmt: skip
def test_a_company_that_writes_a_german_list_knows_its_own_unit(people, unit, figure, said):
    company = Company.current()
    company.units, company.hardness_unit = "metric", unit
    company.save()
    text = f"Kunde;Strasse;Gerät;Wasserhärte\nPell;Deichstr. 7;E-Speicher;{figure}\n"
    assert read(people, text)[1][2]["hardness"] == said


def test_a_line_of_several_heaters_that_is_sent_again_adds_nothing(people):
    brought_in(read(people, CORLISS)[0])
    brought_in(read(people, ITS_ORDERS, "jobs")[0])
    before = Visit.objects.count()
    run = sent(people, ITS_ORDERS, kind="jobs")
    assert run.counts == {"same": 4, "left_out": 1} and before == 8
    brought_in(run)
    assert Visit.objects.count() == before

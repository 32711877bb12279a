"""Further offices' lists and a book, each written down whole before it was tried: of lodges, of a housing
association's flats, of visits by the season, of a French building manager."""

import pytest

from aquifer.company.models import Company
from aquifer.formats.heater_said import kind
from aquifer.visits.models import Visit
from tests.imports.test_lists_read_once import read
from tests.imports.test_lists_tried_blind import columns, heaters, unread
from tests.imports.test_office_list import brought_in, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")


@pytest.fixture
def metric(us):  # noqa: F811
    company = Company.current()
    company.units, company.hardness_unit = "metric", "dh"
    company.save()


HALVERS = """Lodge #;Owner / guest contact;Road;Village;Heater (make, L, kW, yr);Supply;Grad;Letzte Spülung;\
Zustand Anode;Ventil;Sonst
L1;Petermoor, H.;Seeweg 1;Halvern;Warmholt 80 / 2 kW / 2018;Netz;16 °dH;05/25;halb;neu 05/25;
L3;dto.;Seeweg 3;Halvern;Warmholt 30 unter Spüle / 2 kW / 2021;Netz;16;-;nicht zug.;-;
L4;van Aldern;Seeweg 5;Halvern;Durchl. 21 kW / 2022;Netz;16;10/24 entk.;-;-;
L7;Rickmann GbR;Am Hang 2;Halvern;WP Nordal 260 / 2023;Brunnen;28;nie;Fremdstrom;ok;Filter reinigen!
L8;Rickmann GbR;Am Hang 4;Halvern;Gas Therme Vok 24 kW / 2016;Brunnen;28;03.26 entk., Sieb zu;;;
L9;verkauft 2025;Am Hang 6;Halvern;Warmholt 80;Brunnen;;;;;
L10;Frau Dr. Sielhorst;Deich 14;Halvern;2x Elk 100 parallel / 2 x 2,4 kW / 2012;Netz;;08/23 (1. viel, 2. wenig);\
1. weg, 2. halb;2020 beide;
"""


@pytest.mark.usefixtures("metric")
def test_a_cell_of_all_of_a_heater_has_its_power_and_its_size(people):
    run, told = read(people, HALVERS)
    there = columns(run)
    assert [there[name] for name in ("Heater (make, L, kW, yr)", "Grad", "Ventil")] == [
        "kind", "hardness", "relief_valve",
    ]  # fmt: skip
    assert not unread(told) and "verkauft 2025" in told[7]["left out"]
    assert [told[row].get("rod") for row in (2, 3, 5, 8)] == [None, None, "powered", None]
    assert [told[row].get("water") for row in (2, 5)] == [None, "from a well"]
    brought_in(run)
    assert heaters("kind", "capacity_l", "input_kw", "installed_on__year", "site__customer__name") == [
        ("electric_tank", 80, 2.0, 2018, "H. Petermoor"), ("electric_tank", 30, 2.0, 2021, "H. Petermoor"),
        ("electric_tankless", None, 21.0, 2022, "van Aldern"), ("heat_pump_tank", 260, None, 2023, "Rickmann GbR"),
        ("gas_tankless", None, 24.0, 2016, "Rickmann GbR"),
        *[("electric_tank", 100, 2.4, 2012, "Frau Dr. Sielhorst")] * 2,
    ]  # fmt: skip


def test_a_small_power_is_an_element_s_and_the_end_of_a_larger_one_is_none():
    assert kind("Standspeicher 2,4 kW").kind == kind("Warmholt 80 / 2 kW").kind == "electric_tank"
    assert kind("Standspeicher 12,4 kW") is None and kind("Gas 12,4 kW").kind == "gas_tank"


GRANGE = """UPRN,Block,Flat no.,Tenant,Contact tel,HW system type,Make & model,Cyl cap (L),Inst. date,\
Last G3 / service,Exp vessel,TRV/T&P,Anode,Water hardness zone,Access notes
100011,Heron House,1,Mr J Albury,07700 900111,Unvented cylinder (direct),Kelmar 150D,150,14/05/2016,12/03/2026,12L ok,\
T&P passed,n/a s/s,2 - hard,
100013,Heron House,3,VOID,,Unvented cylinder (direct),Kelmar 150D,150,14/05/2016,12/03/2026,12L,T&P replaced,n/a s/s,\
2 - hard,key safe
100021,Heron House,Plant room,-,,Gas fired storage x2,Ostrand GF-300,300,Aug-09,03/26,80L waterlogged,weeping (2),\
Mg: unit 1 new 03/26; unit 2 50%,2 - hard,
100031,Egret Ct,A,Ms Wu,07700 900131,Combi,Vokram 28c,-,2019,12/25 gas safety only,,,,2 - hard,
100033,Egret Ct,C,Tenant moved out 10/26,,Vented copper cyl,,117,1998?,,n/a,open vent,none,2,asbestos lagging
100041,Swift Lodge (scheme),Laundry,Scheme mgr: Val Eames,,Plate HX calorifier,Kelmar CX500,500,01/02/2012,11/2025,\
200L,2022,Al,hard 320ppm,
"""


@pytest.mark.usefixtures("metric")
def test_a_block_and_its_flats_are_where_it_stands_and_a_zone_is_no_hardness(people):
    run, told = read(people, GRANGE)
    there = columns(run)
    assert (there["Block"], there["Flat no."]) == ("address", "apartment")
    assert [told[row].get("hardness") for row in range(2, 8)] == [None] * 5 + ["17.9 °dH"]
    # What is said of one of two is not so of both.
    assert told[4]["rod"] == "magnesium" and told[4]["where it stands"] == "Plant room"
    assert told[5]["last flush"] == "unknown"
    brought_in(run)
    assert heaters("site__customer__name", "site__street", "kind") == [
        ("Mr J Albury", "Heron House Flat 1", "electric_tank"), ("Heron House Flat 3",) * 2 + ("electric_tank",),
        ("Heron House",) * 2 + ("gas_tank",), ("Heron House",) * 2 + ("gas_tank",),
        ("Ms Wu", "Egret Ct Flat A", "gas_tankless"), ("Egret Ct Flat C",) * 2 + ("electric_tank",),
        ("Val Eames", "Swift Lodge (scheme)", "indirect_tank"),
    ]  # fmt: skip


BRACKWATER = """BRACKWATER PLUMBING  -  service agreement customers 2026,,,,,,,,,
NAME,ADDR,PH,UNIT 1,UNIT 2,H2O,VISIT 1 2026,VISIT 2 2026,2025,NOTES
Abbot Dana,12 Reed Rd,555-0141,G50 2019 bsmt,,gr 22 / soft out,3/2 fl 1/2 bkt,sched 11/9,x x,
Benning Lou,14 Reed Rd,555-0142,G40 PV 2016 gar,E20 2022 shop (frost),gr 22,3/2 fl G,,x -,
Dunmore Pet Hosp,7 Main,555-0143,G75 2012,G75 2024,city 12,4/15 both,10/15 both,x x,
Eddy P,RR1 Box 7 Cove,no ph,LP40 2009 xtr old,,well ?,n/s,n/s,- -,sent letter
Fairlie Mk,22 Cove,555-0145,HP65 2025,,gr 22 soft 1,4/20 filter+flush clr,10/20 same,,
Gantry Apts (8),100 Main #1-8,555-0146,E40 x8 2010-2014,,city 12,5/1 flushed 1-4; 6 no key,,x x,
Hobb Cty Jail,Cty Rd 9,Sgt 555-0147,G100 x3 2017,TL LP kitchen 2021,city 12 soft 0,,,all,badge needed
"""
ITS_VISITS = """date,who,unit,did,min,by
3/2/26,Benning,G40,"Flush med. New mg rod, old one 3/4 gone",60,RJ
3/2/26,Benning,E20,drained for winter,15,RJ
4/15/26,Dunmore Pet,both,#1 heavy - 2 buckets. #2 clear. Ck #1 nipple drips. quoted repl,95,TO
5/2/26,Gantry #5,,flush little,30,RJ
7/10/26,Jail,#3,qtrly: only #3 flushed - others in use,50,TO
7/10/26,Jail,TL,descale ok. 6.0 gpm after,60,TO
"""


def test_a_number_counts_visits_and_what_is_out_softens_nothing(people):
    run, told = read(people, BRACKWATER)
    assert {columns(run)[name] for name in ("VISIT 1 2026", "VISIT 2 2026", "2025")} == {"last_flush"}
    assert not unread(told)
    assert [told[row].get("water") for row in range(3, 10)] == [
        None, None, None, "from a well", "softened", None, "softened",
    ]  # fmt: skip
    assert [told[row].get("hardness") for row in range(3, 10)] == [
        "22.0 gpg", "22.0 gpg", "12.0 gpg", None, "22.0 gpg", "12.0 gpg", "12.0 gpg",
    ]  # fmt: skip
    assert [told[row]["last flush"] for row in range(3, 10)] == [
        "2026", "2026", "2026", "unknown", "2026", "2026", "2025",
    ]  # fmt: skip
    assert told[8]["heater"] == "8 x electric tank 40 gal" and told[8]["put in"] == "about 2012"
    assert told[9]["heater"] == "3 x gas tank 100 gal"


def test_a_column_of_heaters_tells_by_kind_and_size_which_is_meant(people):
    brought_in(read(people, BRACKWATER)[0])
    run, told = read(people, ITS_VISITS, "jobs")
    assert [told[row]["heater"] for row in (2, 3, 5, 6, 7)] == ["H-0002", "H-0003", "H-0012", "H-0018", "H-0019"]
    # Of one flushed by the bucket and one that was clear, both were flushed.
    assert told[4]["understood"] == "H-0004: flush: heavy, 10.04 gal; H-0005: flush: none"
    brought_in(run)
    assert Visit.objects.filter(heater__tag="H-0002").count() == Visit.objects.filter(heater__tag="H-0003").count() == 1


LINDMARIE = """Dossier;Syndic / propriétaire;Immeuble;Apt;Code postal et ville;Production ECS;Energie;Vol. (L);P (kW);\
MES;Dernier passage;TH;Anode;GS remplacé;Remarque
D-01;Syndic Oraval;12 rue des Saules;Chauff.;00412 Lindmarie;Ballon;gaz;750;45;2011;12/03/2025;32;mag. neuve 03/25;2019;
D-02;Syndic Oraval;12 rue des Saules;2e g.;00412 Lindmarie;CE électrique;élec;200;2,2;06/2017;jamais;32;d'origine;non;
D-03;Mme Tessel Odile;3 impasse du Four;;00412 Lindmarie;CET sur air extrait;élec;270;;2022;10-2025;32 (adouci 8);ACI;;
D-04;M. et Mme Brugnon;5 impasse du Four;;00412 Lindmarie;Chauffe-bain;gaz;/;23;2014;11/2024;;/;/;
D-05;SCI Les Tours;8 place Haute;RDC bar;00415 Haut-Lindmarie;2 CE en série;élec;2 x 150;2 x 1,8;2009/2020;20/06/2024;\
41;;2020;
D-06;Mairie;École, rue du Puits;cuisine;00415 Haut-Lindmarie;Préparateur + chaudière;fioul;500;;2002;été 2024;41;\
sans (inox);2024;
D-07;Ancien client: Fauvel;9 place Haute;;00415 Haut-Lindmarie;CE;élec;100;;;;;;;résilié 2024
"""


@pytest.mark.usefixtures("metric")
def test_what_makes_the_hot_water_counts_before_what_it_burns(people):
    run, told = read(people, LINDMARIE)
    there = columns(run)
    assert [there[name] for name in ("Production ECS", "P (kW)", "MES", "Dernier passage", "GS remplacé")] == [
        "kind", "input", "installed", "last_flush", "relief_valve",
    ]  # fmt: skip
    assert not unread(told) and "left out" in told[8]
    assert [told[row]["last flush"] for row in range(2, 8)] == ["2025", "never", "2025", "2024", "2024", "2024"]
    brought_in(run)
    assert heaters("kind", "capacity_l", "input_kw", "installed_on__year", "location") == [
        ("gas_tank", 750, 45.0, 2011, ""), ("electric_tank", 200, 2.2, 2017, ""),
        ("heat_pump_tank", 270, None, 2022, ""),
        ("gas_tankless", None, 23.0, 2014, ""), ("electric_tank", 150, 1.8, 2009, ""),
        ("electric_tank", 150, 1.8, 2020, ""), ("indirect_tank", 500, None, 2002, "cuisine"),
    ]  # fmt: skip


ORRIN = """Stop,Name / Co.,Street,City ST Zip,Contact,WH loc,WH (fuel-gal-yr-mfr),gpg,Last FLSH,T/P,AR
1,"Orrin, Fay",12 Larch St,Orrin Falls OF 00512,555-0301,bsmt NE,NG-50-2015-Thornfell,21,3/11/26,OK 3/26,R 3/26
3,"Pell, J & K",18 Larch St #B,Orrin Falls OF 00512,555-0303,attic,E-40-2009-?,21,REF,?,?
4,Vacant,20 Larch St,Orrin Falls OF 00512,realtor 555-0305,bsmt,NG-40-UNK-UNK,21,NA,,
5,Falls Motel,1 Route 9,Orrin Falls OF 00512,555-0306,mech rm,\
(2) NG-100-2018-Ostrand; NG TL-2022-Lumo (laundry),22,2/2/26,OK,"R #1, #2 ok"
6,St. Brand's Rectory,3 Route 9,Orrin Falls OF 00512,Fr. Tim,bsmt,IND-60-2011-Kelmarsh,22,9/24,OK,NEVER
7,K. Tamm,RD 3 Box 118,Upper Orrin OF 00513,555-0307,crawl,LP-30-2020-Marran,35 (well),6/25,OK,50%
"""


def test_a_heater_with_dashes_between_is_told_piece_by_piece(people):
    run, told = read(people, ORRIN)
    assert columns(run)["AR"] == "anode" and not unread(told)
    assert [told[row].get("rod") for row in range(2, 8)] == ["since 2026-03-16", None, None, None, "the first", None]
    assert told[7]["water"] == "from a well" and told[7]["hardness"] == "35.0 gpg"
    brought_in(run)
    assert heaters("kind", "installed_on__year", "last_flush_year") == [
        ("gas_tank", 2015, 2026), ("electric_tank", 2009, None), ("gas_tank", None, None), ("gas_tank", 2018, 2026),
        ("gas_tank", 2018, 2026), ("gas_tankless", 2022, 2026), ("indirect_tank", 2011, 2024), ("gas_tank", 2020, 2025),
    ]  # fmt: skip


SUNDHAUS = """Mandant: Sundhaus Wohnbau eG;;;;;;;;;
Wirtschaftseinheit;Haus-Nr.;Wohnung;Mieter;WWB-Typ;Fabr.-Nr.;Einbau;Wartung 2024;Wartung 2025;Mängel
101 Sundallee;2;EG li.;Aksoy;Elektro-Warmwasserspeicher 80 l;77112;03.2014;ok;Anode getauscht;
101 Sundallee;2;EG re.;Brehme;Elektro-Warmwasserspeicher 80 l;77113;03.2014;n.a.;ok;
101 Sundallee;4;Keller;Allg.;2 x Gas-Standspeicher 300 l;N-301/N-302;2009;entkalkt;nicht entkalkt;Flansch undicht
102 Am Ufer;1;DG;Dierks-Polle;UT-Boiler 5 l + DLE 18 kW;;2016 / 2019;;entk.;
102 Am Ufer;3;WE 07;Evers;Etagenheizung (Kombi);;2012;Fremdfirma;Fremdfirma;nicht unser Auftrag
"""


@pytest.mark.usefixtures("metric")
def test_an_estate_s_number_is_no_house_s_and_what_was_done_in_a_year_was_done(people):
    run, told = read(people, SUNDHAUS)
    assert not unread(told)
    assert [told[row]["last flush"] for row in range(3, 8)] == ["2025", "2025", "2024", "2025", "unknown"]
    brought_in(run)
    assert heaters("site__street", "kind", "installed_on__year", "location") == [
        ("Sundallee 2", "electric_tank", 2014, "EG li."), ("Sundallee 2", "electric_tank", 2014, "EG re."),
        ("Sundallee 4", "gas_tank", 2009, "Keller"), ("Sundallee 4", "gas_tank", 2009, "Keller"),
        ("Am Ufer 1", "electric_tank", 2016, "DG"), ("Am Ufer 1", "electric_tankless", 2019, "DG"),
        ("Am Ufer 3", "gas_tankless", 2012, "WE 07"),
    ]  # fmt: skip

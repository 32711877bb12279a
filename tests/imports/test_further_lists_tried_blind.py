"""Further lists and books that were written down whole before they were tried, of six more invented offices."""

import pytest

from aquifer.heaters.models import Heater
from aquifer.visits.models import Finding, Visit
from tests.imports.test_lists_read_once import read
from tests.imports.test_lists_tried_blind import columns, heaters, unread
from tests.imports.test_office_list import brought_in, sent, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")


OF_TWO_EACH = """Cust,Bill name,Serv loc,Loc city,Bill phone,Equip 1,Mfg dt 1,Ser 1,Equip 2,Mfg dt 2,Wtr hd,Last insp
0001,ABBOTT RICHARD & JO,(same),PINEHOLLOW,5550201,WH NG 50 PV,0916,PV50-0916-1,,,16,11/04/25
0002,BAYLOR PROP MGMT,210 HILL APT A,PINEHOLLOW,5550202,WH EL 30,0311,E30-0311,,,16,11/05/25
0003,BAYLOR PROP MGMT,210 HILL APT B,PINEHOLLOW,5550202,WH EL 30,0311,E30-0312,,,16/2,11/05/25
0005,DEACON M,RR 2 BX 40,UPPER PINE,5550204,TKLS LP,0221,T199,WH EL 19 (shop),1105,WELL 29,NEVER
"""
BY_NUMBER = """inv,date,cust,loc,desc
5501,110425,0001,ABBOTT,INSP WH: FLUSHED 5 GAL LT SED/ANODE CONSUMED/TPV OPER OK
5503,110525,0003,BAYLOR 210B,FLUSHED HVY CALCIUM
5505,071526,0005,DEACON,TKLS DESCALE 45 MIN; 3.1 GPM BEFORE/5.0 AFTER
"""


def test_the_same_as_billed_is_not_the_house_above(people):
    run, told = read(people, OF_TWO_EACH)
    assert not unread(told) and [told[row]["hardness"] for row in (2, 4, 5)] == ["16.0 gpg", "16.0 gpg", "29.0 gpg"]
    brought_in(run)
    assert heaters("site__street", "site__softened", "last_flush_year")[:3] == [
        ("", False, 2025), ("210 HILL APT A", False, 2025), ("210 HILL APT B", True, 2025),
    ]  # fmt: skip


def test_where_letters_go_is_where_a_house_is_said_to_be_the_same(people):
    run, _ = read(people, """Name,Mailing address,Service address,Type
Ash,9 Quay St,1 Mill Ln,gas
Birch,7 Quay St,same,gas
""")  # fmt: skip
    brought_in(run)
    assert heaters("site__street") == [("1 Mill Ln",), ("7 Quay St",)]


def test_a_book_in_which_numbers_alone_tell_whom_and_when(people):
    brought_in(read(people, OF_TWO_EACH)[0])
    run, told = read(people, BY_NUMBER, "jobs")
    assert columns(run)["cust"] == "account" and columns(run)["date"] == "on"
    assert [told[row]["on"] for row in (2, 3, 4)] == ["2025-11-04", "2025-11-05", "2026-07-15"]
    assert [told[row]["heater"] for row in (2, 3, 4)] == ["H-0001", "H-0003", "H-0004"]
    assert told[2]["understood"].startswith("flush; anode inspection: gone")
    assert "3.1 gpm, 5.0 gpm" in told[4]["understood"]


ON_TURNS = """Objekt;Kunde;Strasse;Warmwasserbereiter;Nenninhalt;Einbau;T;Wartung alle;zuletzt;Anodentyp;SV
O-17;Klaffenbach, R.;Am Anger 5;Gasspeicher, raumluftabh., 150 l;150;04/09;60;1 J.;04/26;Mg;2019
O-18;Ev. Kita Arche;Kirchgasse 1;E-Standspeicher 2 x 150 l;300;Aug. 2017;65;6 Mon.;02/26;Fremdstrom;2017
O-19;Wilke/Sandner;Am Anger 9 HH;Durchlauferhitzer 24 kW vollelektr.;–;2020;48;2 J.;nie;–;–
O-20;Metzgerei Lang;Markt 3;Gasspeicher;800;2015;55;1 J.;05/25;–;05/25 neu
"""
ON_TURNS_DONE = """Datum;Objekt;Kunde;Bericht
22.04.2026;O-17;Klaffenbach;"ca. 3 cm Schlamm abgesaugt, Anode noch 50%, SV angelüftet - ok"
08.05.2025;O-20;Metzgerei Lang;"Speicher entkalkt (Zitronensäure), SV neu"
"""


def test_how_often_somebody_comes_is_not_when_they_came(people):
    run, told = read(people, ON_TURNS)
    assert not unread(told) and columns(run)["Wartung alle"] == "note" and columns(run)["T"] == "setpoint"
    brought_in(run)
    assert heaters("kind", "capacity_l", "last_flush_year", "flush_history") == [
        ("gas_tank", 150.0, 2026, "about"), ("electric_tank", 150.0, 2026, "about"),
        ("electric_tank", 150.0, 2026, "about"), ("electric_tankless", None, None, "never"),
        ("gas_tank", 800.0, 2025, "about"),
    ]  # fmt: skip
    visits, said = read(people, ON_TURNS_DONE, "jobs")
    assert columns(visits)["Objekt"] == "account"
    assert (
        said[2]["understood"] == ("flush; anode inspection: half; relief valve exercise: flows and reseats")
        and said[3]["understood"] == "flush; relief valve replacement"
    )


OVER_THERE = """Contract,Title,Forename,Surname,House Name/No,Street,Locality,Post Town,Landline,Mobile,System,\
Cap (ltr),Hardness zone,Incoming pr.,TPRV/ERV,Exp vessel,Anode?
C/2201,Mrs,Dilys,Prosser,Ty Gwyn,Chapel Lane,Nantmoor,Penrhyd,05550 771,07555 000771,Unvented indirect,210,soft,3 bar,\
ok 04/26,recharged 04/26,n/a (s/s)
C/2202,,,The Ferry Inn,1,Quay St,,Penrhyd,05550 772,,Direct gas storage,300,hard 320ppm,4.5,passing - replaced 02/25,,
C/2204,Dr,,Vaughan-Lee,Old Rectory,,Llanfoel,Penrhyd,05550 774,,Instantaneous electric (10.8kW) x2,,soft,3,,,
C/2205,Ms,Bea,Salt,3,Mill Row,,Penrhyd,,07555 000775,ASHP cylinder,250 L,soft,3,ok,ok,"mag, 80% Dec 25"
"""


def test_houses_with_names_water_that_is_soft_by_itself_and_valves_that_are_well(people):
    run, told = read(people, OVER_THERE)
    assert unread(told) == {"'soft' is no figure"} and columns(run)["Post Town"] == "town"
    brought_in(run)
    assert heaters("kind", "site__street", "site__softened", "site__static_pressure_kpa") == [
        ("indirect_tank", "Ty Gwyn, Chapel Lane", False, 300.0), ("gas_tank", "1 Quay St", False, 450.0),
        ("electric_tankless", "Old Rectory", False, 300.0), ("electric_tankless", "Old Rectory", False, 300.0),
        ("heat_pump_tank", "3 Mill Row", False, 300.0),
    ]  # fmt: skip
    first, inn, *_, last = Heater.objects.order_by("pk")
    assert first.site.customer.phone == "05550 771" and told[3]["hardness"] == "18.7 gpg"
    assert not first.parts.filter(kind="relief_valve", fitted_on__isnull=False).exists()
    assert inn.parts.get(kind="relief_valve").fitted_on.year == 2025
    assert (last.parts.get(kind="anode").alloy, last.parts.get(kind="anode").fitted_on) == ("magnesium", None)


BY_THE_YEAR = """Acct#,Customer,Address,Phone(s),Water Heater(s),Installed,Water,Flushed (2024),Flushed (2025),\
Flushed (2026),Anode check
301,Tillman Roy,18 Bay Rd,555-0301 h,"(1) 50g NG Brayfield 2013, (1) 40g elec 2019",see left,18g w/soft,4/9,4/14,4/21,\
26-half
302,Eastmoor Lanes,200 Main,555-0303,100g NG x2 (side by side),10/2020 both,18g,5/2,n/s,-,n/a pwr
303,Ulrich T.,RR1 Box 77,555-0304,Tankless NG 199K,Sum 2022,Well 34g + iron,-,6/1 descale,6/8 descale,-
304,Vance (Mrs.),22 Bay Rd,,40g LP,appx 15 yrs,18g,declined,declined,declined,
"""


def test_a_day_under_a_year_is_one_of_that_year(people):
    run, told = read(people, BY_THE_YEAR)
    assert unread(told) == {"'26-half' says nothing known of a rod"}
    assert [told[row]["last flush"] for row in (2, 3, 4, 5)] == ["2026", "2024", "2026", "unknown"]
    assert "Flushed (2025): declined" in told[5]["note"]
    brought_in(run)
    assert [on and on.year for (on,) in heaters("installed_on")] == [2013, 2019, 2020, 2020, 2022, 2011]
    assert told[4]["hardness"] == "34.0 gpg"
    assert Heater.objects.order_by("pk")[2].parts.get(kind="anode").alloy == "powered"


def test_summer_is_no_sum(people):
    _, told = read(people, "Name,Address,Type,Installed\nAsh,1 Mill Ln,gas,Sum 2022\nSum,,,2\n")
    assert told[2]["put in"].startswith("2022-07") or told[2]["put in"] == "about 2022"
    assert told[3]["left out"] == "it adds up the others"


def test_what_a_building_has_besides_is_no_heater_and_a_unit_stands_in_a_column_of_its_own(people):
    run, told = read(people, """location_id,location_name,addr1,city,asset_desc,asset_sn,install_yr,size,size_uom,fuel
1001,Hilltop Elementary,1 School Rd,Greer,Domestic HW heater boys locker,P1,2009,100,GAL,NG
1001,Hilltop Elementary,1 School Rd,Greer,Domestic HW heater kitchen,P2,2021,199000,BTU,NG
1003,Greer Middle,40 Oak,Greer,DHW heater shop,P3,1998,200,L,ELEC
1003,District Office,9 Elm,Greer,A/C condenser,,2015,5,TON,ELEC
""")  # fmt: skip
    assert columns(run)["location_id"] == "account" and told[5]["left out"] == "asset_desc: A/C condenser ELEC"
    assert not unread({row: told[row] for row in (2, 3, 4)})
    brought_in(run)
    assert heaters("kind", "capacity_l", "serial")[0] == ("gas_tank", pytest.approx(378.5, abs=0.1), "P1")
    assert heaters("capacity_l", "serial")[1:] == [(None, "P2"), (200.0, "P3")]


def test_names_in_one_column_of_a_german_card(people):
    run, _ = read(people, """Name Vorname,Straße,Ort,Telefon 1,Telefon 2,Heizung/WW,WW-Speicher l,WW Bj
Adler Josef,Lindenstr. 4,Bruckdorf,0555 11 22 33,,Gas-Kombitherme Norvik 24,,2012
Camping Seeblick,Seestr. 100,Seedorf,0555 99 12,0171 555 22,3x E-Speicher 400,3x400,2008/2008/2015
""")  # fmt: skip
    assert columns(run) == {
        "Name Vorname": "customer", "Straße": "street", "Ort": "town", "Telefon 1": "phone",
        "Telefon 2": "second_phone", "Heizung/WW": "kind", "WW-Speicher l": "size", "WW Bj": "installed",
    }  # fmt: skip
    brought_in(run)
    assert [(kind, on.year) for kind, on in heaters("kind", "installed_on")] == [
        ("gas_tankless", 2012), *(("electric_tank", year) for year in (2008, 2008, 2015)),
    ]  # fmt: skip


IN_FULL = """Kunde;Adresse;Geräteart;Typ;Inhalt;Inbetriebnahme;Solltemp.;letzte Entkalkung;Sicherheitsv.;Ausdehnungsgef.
Fam. Ottenrieder;Am Bach 7, 88011 Maierhof;Boiler, elektr., wandh.;WB 100;100 l;Nov. 2008;Stufe 2;16.10.2023;\
getauscht 10/23;fehlt!
Schreiber Anna;Ringweg 12, 88012 Unterhof;E-DLE;DLE 21;---;2017;45;noch nie;entfällt;entfällt
WEG Ringweg 14;Ringweg 14, 88012 Unterhof;2 Stk. Warmwasserbereiter indir.;IS 500;500;Bj. 1999 u. 2012;60;04.24/04.24;\
neu 24;50 l
"""
IN_FULL_DONE = """Termin;Kunde;Arbeiten lt. Bericht
4.11.2025;Ottenrieder;"entschlammt, SiVe gangbar, Anode geprüft ca. 30 % abgetragen"
"""


def test_a_german_list_in_full(people):
    run, told = read(people, IN_FULL)
    assert not unread(told)
    brought_in(run)
    assert heaters("kind", "capacity_l", "installed_on__year", "control_setting", "last_flush_year") == [
        ("electric_tank", 100.0, 2008, "Stufe 2", 2023), ("electric_tankless", None, 2017, "", None),
        ("indirect_tank", 500.0, 1999, "", 2024), ("indirect_tank", 500.0, 2012, "", 2024),
    ]  # fmt: skip
    _, said = read(people, IN_FULL_DONE, "jobs")
    assert said[2]["understood"] == "flush; anode inspection: worn; relief valve exercise: flows and reseats"


IN_CAPITALS = """LAST,FIRST,ADDRESS,TANK/TANKLESS,GAS/ELEC/LP,GALLONS,INSTALL DATE,WATER TYPE
ADKINS,BO,12 RIVER,TANK,GAS,40,3-12-2010,CITY-MED HARD
DUPREE,SAM & ANN,RT 2 BOX 9,TANKLESS,LP,N/A,11-2-2020,WELL-IRON/HARD 30+
EAST SIDE CHURCH,,99 EAST ST,TANK,GAS,75 & 40,2005/2016,CITY
"""
IN_CAPITALS_DONE = """WHEN,WHO,WHAT WAS DONE
9-4-25,ADKINS BO,RELIT PILOT REPL THERMOCOUPLE. FLUSHED - RUSTY THEN CLEAR
10-20-25,EAST SIDE CHURCH,FLUSHED 75. T&P ON 75 WEEPS NEEDS REPLACED
"""


def test_two_sizes_in_a_cell_are_two_heaters_and_a_valve_that_weeps_is_told_though_it_waits(people):
    run, told = read(people, IN_CAPITALS)
    assert not unread(told) and columns(run)["WATER TYPE"] == "well"
    brought_in(run)
    found = heaters("kind", "capacity_l", "installed_on__year")
    assert [(kind, round(size or 0), year) for kind, size, year in found] == [
        ("gas_tank", 151, 2010), ("gas_tankless", 0, 2020), ("gas_tank", 284, 2005), ("gas_tank", 151, 2016),
    ]  # fmt: skip
    _, said = read(people, IN_CAPITALS_DONE, "jobs")
    assert [said[row]["understood"] for row in (2, 3)] == ["flush", "flush; relief valve exercise: flows and weeps"]


BOTH_THERE = "Name,Address,Type\nAsh,1 Mill Ln,gas tank 40 gal\nAsh,1 Mill Ln,tankless NG\n"
OF_BOTH = "Date,Who,Where,What\n3/3/2024,Ash,1 Mill Ln,flushed tank; TKL descaled\n"


def found_at() -> list[tuple[str, str]]:
    return list(Finding.objects.order_by("heater", "task").values_list("heater__kind", "task"))


def test_a_book_that_is_sent_again_once_the_tank_is_on_record_brings_in_the_tank_s_visit_alone(people):
    first, second = BOTH_THERE.splitlines(keepends=True)[0], BOTH_THERE.splitlines(keepends=True)[2]
    brought_in(read(people, first + second)[0])
    brought_in(read(people, OF_BOTH, "jobs")[0])
    assert {kind for kind, _ in found_at()} == {"gas_tankless"}
    brought_in(sent(people, BOTH_THERE))
    brought_in(sent(people, OF_BOTH, "jobs"))
    assert ("gas_tank", "flush") in found_at() and Visit.objects.count() == 2
    assert {row.action for row in sent(people, OF_BOTH, "jobs").rows.all()} == {"same"}


def test_what_two_lines_of_a_day_say_of_two_heaters_is_lost_of_neither(people):
    brought_in(read(people, BOTH_THERE)[0])
    first = "Date,Who,Where,What\n3/3/2024,Ash,1 Mill Ln,flushed tank\n"
    book = f"{first}{OF_BOTH.splitlines()[1]}; cleaned inlet screen\n"
    run, told = read(people, book, "jobs")
    assert told[3]["the same visit as"] == "row 2"
    brought_in(run)
    assert found_at() == [("gas_tank", "flush"), ("gas_tankless", "descale"), ("gas_tankless", "upkeep")]
    assert Visit.objects.count() == 2


def test_a_tankless_one_that_was_not_there_yet_gets_no_visit(people):
    rows = "Ash,1 Mill Ln,gas tank 40 gal,2010\nAsh,1 Mill Ln,tankless NG,2025\n"
    brought_in(read(people, f"Name,Address,Type,Installed\n{rows}")[0])
    run, told = read(people, OF_BOTH, "jobs")
    assert told[2]["heater"] == "H-0001"
    brought_in(run)
    assert {kind for kind, _ in found_at()} == {"gas_tank"}


@pytest.mark.parametrize(("said", "street"), [
    ("same", ""), ("s/a", ""), ('"', "1 Mill Ln"), ("same as above", "1 Mill Ln"),
])  # fmt: skip
def test_the_same_of_another_customer_is_not_the_house_above_unless_it_is_said(people, said, street):
    cell = said.replace('"', '""""')
    run, told = read(people, f"Name,Service address,Type\nAsh,1 Mill Ln,gas\nBirch,{cell},gas\n")
    brought_in(run)
    assert heaters("site__street")[1] == (street,)
    # What is not understood is not lost.
    assert street or f"Service address: {said}" in told[3]["note"]


def test_the_same_of_the_same_customer_is_the_house_above(people):
    run, _ = read(people, "Name,Service address,Type\nAsh,1 Mill Ln,gas\nAsh,same,elec\n")
    brought_in(run)
    assert heaters("site__street") == [("1 Mill Ln",)] * 2


def test_a_card_keeps_what_has_no_name_and_both_of_what_stands_twice(people):
    run, told = read(people, """Client Name: ;Adair, Colm
Phone: ;555-0101
Phone: ;555-0102
Address: ;2 Sluice Rd, Wend 00801
beware of the dog;
Heater: ;50 gal NG
;
Client Name: ;Birch, Etta
Address: ;4 Sluice Rd, Wend 00801
Heater: ;40 gal elec
""")  # fmt: skip
    assert len(told) == 2 and "beware of the dog" in told[1]["note"] and told[1]["telephone"] == "555-0101, 555-0102"
    brought_in(run)
    assert heaters("kind", "site__customer__name") == [("gas_tank", "Colm Adair"), ("electric_tank", "Etta Birch")]

"""Lists and books of three more invented offices, each written down whole before it was tried: a column for each year
by its last two figures, weekdays before days, names and streets in one cell."""

import datetime

import pytest

from aquifer.formats import said
from aquifer.formats.cells import BadCell
from aquifer.formats.day_said import day
from aquifer.heaters.models import Heater, Part
from aquifer.water.models import WaterTest
from tests.imports.test_lists_read_once import read
from tests.imports.test_lists_tried_blind import columns, heaters, unread
from tests.imports.test_office_list import brought_in, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")
TODAY = datetime.date(2026, 12, 2)


COLDSPRING = """"Coldspring Mechanical" ,,,,,,,,,,,,,
"Water heater customers as of 10/1/26",,,,,,,,,,,,,
,,,,,,,,,,,,,
"Name (last, first)","Svc address","City","Home ph","Work/cell","Heater info","Year","Temp","Water",\
"Flush '24","Flush '25","Flush '26","Rod","Misc"
"Hadley, Pru & Gil","77 Sorrel Ln","Coldspring","555-0301","555-0302","50 NG Hartwell tall, closet",\
"2016","125","18 grains, Softener (salt empty)","5/2","x","","Al, 2016","call day before"
"Brightwater Apts","4 Sorrel Ln","Coldspring","555-0303","","(6) 40 gal elec - units 1-6",\
"'18 all but #4 (2023)","120","18","Oct","Oct","Oct","","master key w/ mgr"
"Stanhope, Lew","RR1 Box 88","Needle Creek","","555-0304 (his) 555-0305 (hers)","Tankless Marran 180k,\
 propane","2020","120","Well 31 gpg iron 2ppm","desc","desc","no-show","n/a",""
"Quillfeather Diner","1 Main","Coldspring","555-0306","","100 NG 199k + 80 gal storage","2019",\
"160 -> 125 mix","18","x x","x x x","x","2 rods '22","after 2pm, grease"
"Tamsin, D.","19 Aspen, lower","Coldspring","none","555-0307","30 gal NG short (mobile home)","1997?",\
"?","18","declined","declined","","never pulled","wants quote"
"Tamsin, D.","19 Aspen, upper","Coldspring","none","555-0307","same","1997?","?","18","declined",\
"declined","",,"same"
"Marlow-Pike, Ana","230 Ridge","Needle Creek","555-0308","555-0309","HPWH 80, garage","Mar 2024",\
"hybrid 122","Well, soft after","","PM","PM","ok 3/26","filter q 6mo"
"OLD: Petrie","230 Ridge","Needle Creek","","","50 elec","2009","","","","","","","moved"
"""
ITS_DAYS = """Day,Customer/where,Notes,Hrs,Who
Mon 5/4/26,Hadley Sorrel Ln,flush - qt of flakes. softener out of salt told Pru. rod 1/2 gone,1.5,Wes
Tue 10/6/26,Brightwater #4 #5 #6,"flushed all 3, #5 lower element dead, replaced. TP's lifted",4,Wes/Ty
Wed 10/7/26,Brightwater 1-3,flushed 3. #2 TP weeping -> new 3/4 TP,3.25,Ty
Thu 11/12/26,Stanhope,no one home,0.5,Wes
Fri 11/13/26,Quillfeather,delimed 100 gal. pulled 30 lb scale. rods: both 30% left,3,Wes
Sat 1/17/26,Tamsin upper,"No hot water call - thermocouple. Htr is 29 yrs old, quoted new. flush declined",1,Ty
Mon 3/2/26,"Marlow-Pike, 230 Ridge","HP filter washed, rod ok, flushed clean",1,Ty
Mon 3/2/26,Hadley,billing question,,office
"""


def test_a_column_is_of_a_year_by_its_last_two_figures(people):
    run, told = read(people, COLDSPRING)
    assert columns(run)["Name (last, first)"] == "customer" and columns(run)["Flush '24"] == "last_flush"
    assert unread(told) == {'"\'18 all but #4 (2023)" is no date that is known'}
    # Marks of once and thrice, a month, a descale; who declined or was not there had none.
    assert [told[row]["last flush"] for row in range(5, 12)] == [
        "2025",
        "2026",
        "2025",
        "2026",
        "unknown",
        "unknown",
        "2026",
    ]
    assert [told[row].get("set at") for row in (8, 11)] == ["160 °F", "122 °F"]
    assert [told[row]["hardness"] for row in range(5, 11)] == ["18.0 gpg"] * 2 + ["31.0 gpg"] + ["18.0 gpg"] * 3
    assert "OLD: Petrie" in told[12]["left out"]
    brought_in(run)
    assert heaters("site__customer__name", "capacity_l")[0] == ("Pru & Gil Hadley", 189.271)
    assert Heater.objects.filter(site__customer__name="Brightwater Apts", capacity_l=151.416).count() == 6
    assert Heater.objects.get(site__street="1 Main").capacity_l == 378.541, "the tank that is told with its fuel"
    assert Part.objects.get(heater__site__street="19 Aspen, lower", kind="anode").fitted_on.year == 1997


def test_a_name_and_a_street_are_known_without_anything_between(people):
    brought_in(read(people, COLDSPRING)[0])
    run, told = read(people, ITS_DAYS, "jobs")
    assert columns(run) == {
        "Day": "on", "Customer/where": "customer", "Notes": "done", "Hrs": "note", "Who": "note",
    }  # fmt: skip
    assert (told[2]["on"], told[2]["heater"], told[7]["heater"]) == ("2026-05-04", "H-0001", "H-0011")
    assert told[8]["heater"] == "H-0012" and "nobody was there" in told[5]["left out"]
    assert told[6]["understood"] == "flush: heavy; anode inspection: mostly gone"
    # Of two houses of hers it is neither where the cell does not say which.
    _, told = read(people, "Date,Who,Done\n5/4/26,Tamsin Aspen,flushed\n5/4/26,Tamsin Quay,flushed\n", "jobs")
    assert {one["left out"] for one in told.values()} == {"no such customer at this address is on record"}


TIEFENRIED = """Kundendatei Warmwasser;;;;;;;;;;;
Kd-Nr;Kunde;Straße/Nr.;PLZ/Ort;Tel.;Gerät (Art, Inhalt,\
 Bj.);Zuletzt gewartet / durch;Nächste;Wasser;Anode/Zustand;SV/Druckm.;Sonstiges
4001;Hein Ulmbach;Ahornallee 8;00921 Tiefenried;0000-92101;Gasspeicher 160 l Bj. 2013;14.05.2026 Kö;\
05/27;hart 22°;1/3 verbraucht;ok/4 bar;
4002;"Wohnbau eG, Haus 3";Ahornallee 20-24;00921 Tiefenried;0000-92102 Hr. Schenk;\
3 x E-Boiler 80 l (je Whg.), Bj. 2019;6.5.26 Kö;jährl.;dto.;neu/neu/neu;alle ok;Keller abgeschl.
4003;Mechthild Orsam;Seestr. 2;00922 Riedsee;0000-92103;DLE 21 kW Bj. 2021;-;n. Bed.;dto.;-;-;
4004;Campingpl. Riedsee;Seestr. 50;00922 Riedsee;0000-92104;Speicher 500 l + WP, Bj. 2022,\
 Heizstab 6 kW;11/25 Fa. Extern;11/26;weich 6;Fremdstr. ok;undicht → getauscht 11/25;April-Okt.
4005;Kurt Wendel;Riedweg 1;00922 Riedsee;0000-92105;Kombitherme 24 kW m. 20l-Schichtsp.,\
 Bj 2010;2.12.24 Ba;überf.;16;-;tropft;
4006;Pfarramt;Kirchpl. 1;00921 Tiefenried;Büro Mo-Do 0000-92106;\
Untertisch 5 l (drucklos) Bj. 2015 / Übertisch 10 l Bj. 2002;nie;;22;;;2 Geräte
4007;Fam. Rosin-Thal;Ahornallee 11;00921 Tiefenried;0000-92107;ind. Speicher 200 l an Ölkessel,\
 Bj. 1998 (!);15.8.25 Kö;08/26;hart;Mg, zu 80% weg 8/25 -> erneuert;neu 8/25;Öl
"""


def test_a_german_file_tells_kind_size_and_year_in_one_cell(people):
    run, told = read(people, TIEFENRIED)
    assert columns(run)["Wasser"] == "well" and not unread(told)
    assert [told[row]["last flush"] for row in (3, 4, 5, 6, 7, 8, 9)] == [
        "2026", "2026", "unknown", "2025", "2024", "never", "2025",
    ]  # fmt: skip
    assert told[6]["rod"] == "powered" and "Wasser: hart" in told[9]["note"]
    brought_in(run)
    assert heaters("kind", "capacity_l", "installed_on__year")[-3:] == [
        ("electric_tank", 5.0, 2015), ("electric_tank", 10.0, 2002), ("indirect_tank", 200.0, 1998),
    ]  # fmt: skip
    assert WaterTest.objects.count() == 6, "what is hard in a word was not measured"


FERNVALE = """unit_id,property,unit,resident,heater_make,heater_model,serial_no,gas_or_elec,size_gal,mfg_wk_yr,\
last_pm,next_pm,pm_by,rod_replaced,tpr_replaced,exp_tank_ok,pan_drain,notes
FV-101,Fernvale Commons,101,(vacant),HARTWELL,G40S,W2213 40071,G,40,22/13,2026-02-10,2027-02-10,T. Orr,\
2019-03-01,,Y,Y,
FV-102,Fernvale Commons,102,Ines Calloway,HARTWELL,G40S,W2213 40072,G,40,22/13,2026-02-10,2027-02-10,\
T. Orr,2019-03-01,,Y,Y,shutoff stuck
FV-103,Fernvale Commons,103,Boyd Lunt,MARRAN,E40,0415-E-9,E,40,04/15,2026-02-10,2027-02-10,T. Orr,,\
2026-02-10,N,N,
FV-104,Fernvale Commons,104,Boyd Lunt (storage),,,,,,,,,,,,,,no heater
FV-CLUB,Fernvale Commons,Clubhouse,HOA,BRUNN,TK-199,TK9-0021,G tankless,0,40/20,2026-02-11,,T. Orr,,,\
N/A,Y,descaled w/ citric
FV-LAUN,Fernvale Commons,Laundry,HOA,HARTWELL,G100C,W0118 1001,G,100,01/18,2026-02-11,2026-08-11,T. Orr,\
2022-02-02,2022-02-02,Y,Y,199 kBTU
FV-LAUN,Fernvale Commons,Laundry,HOA,HARTWELL,G100C,W0118 1002,G,100,01/18,2026-02-11,2026-08-11,T. Orr,\
2022-02-02,2022-02-02,Y,Y,199 kBTU
"""


def test_weeks_are_no_months_and_a_flat_without_a_heater_has_none(people):
    run, told = read(people, FERNVALE)
    assert columns(run)["unit_id"] == "note" and not unread(told)
    assert [told[row].get("put in") for row in (2, 4, 6, 7)] == ["2013-05-30", "2015-01-22", "2020-10-01", "2018-01-04"]
    assert "no heater" in told[5]["left out"]
    brought_in(run)
    assert heaters("kind", "capacity_l")[3:] == [("gas_tankless", None), ("gas_tank", 378.541), ("gas_tank", 378.541)]


@pytest.mark.parametrize(("text", "numbers"), [
    ("555-0304 (his) 555-0305 (hers)", ["555-0304", "555-0305"]), ("0000 / 711 22", ["0000 / 711 22"]),
    ("555-0304 / 555-0305", ["555-0304", "555-0305"]), ("Büro 555-0304", ["555-0304"]),
])  # fmt: skip
def test_two_numbers_in_a_cell_are_two(text, numbers):
    assert [said.phone(part)[0] for part in said.phones(text)] == numbers


@pytest.mark.parametrize(("text", "on"), [
    ("Mon 5/4/26", (2026, 5, 4)), ("Fr. 13.11.2026", (2026, 11, 13)), ("Thu, Nov 12, 2026", (2026, 11, 12)),
    ("14.05.2026 Kö", (2026, 5, 14)), ("6.5.26 Kö/Ba", (2026, 5, 6)), ("2.5.25 Fa. Wurm", (2025, 5, 2)),
])  # fmt: skip
def test_a_weekday_or_a_hand_beside_a_day_is_no_part_of_it(text, on):
    assert day(text, TODAY, False).on == datetime.date(*on)


def test_march_is_no_weekday():
    with pytest.raises(BadCell):
        day("Mar 5/24", TODAY, False)

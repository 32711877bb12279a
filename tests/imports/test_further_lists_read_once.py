"""Lists and a book of seven more invented offices, each written down before it was tried."""

import datetime

import pytest
from django.utils import timezone

from aquifer.heaters.models import Heater
from aquifer.imports.models import RowAction
from aquifer.visits.models import Finding, Visit
from tests.imports.test_lists_read_once import read
from tests.imports.test_office_list import brought_in, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")


def unread(told) -> set[str]:
    return {why for detail in told.values() for name, why in detail.items() if name.startswith("not understood")}


FROM_THE_ALPS = """Kundenliste Boiler;;;;;;;;;;
Stand: Nov. 2026;;;;;;;;;;
Nr;Name/Vorname;Adresse;PLZ/Ort;Natel;Apparat;Inhalt;Jg.;Härte fH;Letzter Service;Bemerkungen
1;Amstad Ueli;Seeweg 4;9999 Brenholm;079 555 01 01;Elektroboiler;300;2009;34 fH;Frühjahr 2021;Keller
2;Beeler Heidi;Dorfstr. 18a;9999 Brenholm;079 555 01 02;Wärmepumpenboiler;270;Mai 19;34;KW 12/2023;
3;STWEG Seeblick;Seeweg 20-24;9999 Brenholm;041 555 01 03;2 Boiler à 500 l Gas;;07;34;vor 3 Jahren;
4;Camenzind Josef;Bergli;9998 Oberbrenholm;;Durchlauferhitzer (Gas);;2017;34;08.11.24;
5;dito;Bergli, Stöckli;9998 Oberbrenholm;;E-Boiler 120;;1998;34;noch nie;
"""


def test_the_last_service_is_told_in_words_and_litres_need_no_word(people):
    run, told = read(people, FROM_THE_ALPS)
    year = timezone.localdate().year
    assert [told[row]["last flush"] for row in range(4, 9)] == ["2021", "2023", str(year - 3), "2024", "never"]
    assert not unread(told)
    brought_in(run)
    sizes = Heater.objects.order_by("pk").values_list("kind", "capacity_l")
    assert list(sizes) == [
        ("electric_tank", 300.0), ("heat_pump_tank", 270.0), ("gas_tank", 500.0), ("gas_tank", 500.0),
        ("gas_tankless", None), ("electric_tank", 120.0),
    ]  # fmt: skip


IN_CLARK = """Ref,Customer,Address,Postcode,Appliance,Litres,Installed,Hardness,Anode last changed,Last service,Next due
H/001,Mr P Askwith,"3 Priory Close, Netherwold",ZZ4 1AA,Unvented cyl. indirect (gas boiler),210,Mar 2016,17 Clark,\
2021,w/c 12 May 2025,May 26
H/002,Miss R Dowthwaite,"Flat 2, 18 Mill Lane, Netherwold",ZZ4 2BB,Unvented direct 2x 3kW immersion,150,11/2018,\
250 mg/l CaCO3,n/k,w/c 3/11/25,Nov 26
H/003,St Wilfrid's Primary,"Church Rd, Netherwold",ZZ4 1CC,Direct gas-fired storage heater,320,2012,17,,\
Aug 25 (hols),Aug 26
H/004,Mrs E Tunnicliffe,"Rose Cott., Fell Side",ZZ4 9ZZ,Point-of-use undersink 10L,,2020,,-,never,
H/005,Fell Side Farm,"Fell Side Farm, Fell Side",ZZ4 9ZX,Vented cylinder w. immersion,140,c.1995,,20211004,\
2008 (not since),
H/006,Bayliss & Co,"7-9 Market Sq., Netherwold",ZZ4 1DD,Multipoint gas water heater,,2019,17 Clark,n/a,15-Oct-25,
"""


def test_a_grain_of_the_imperial_gallon_and_what_an_immersion_is(people):
    run, told = read(people, IN_CLARK)
    # 17 times 14.25 mg/L are 14.2 grains of the US gallon; a bare 17 beside them is no other water.
    assert [told[row].get("hardness") for row in range(2, 8)] == [
        "14.2 gpg",
        "14.6 gpg",
        "14.2 gpg",
        None,
        None,
        "14.2 gpg",
    ]
    assert [told[row]["last flush"] for row in (2, 3, 4, 5, 7)] == ["2025", "2025", "2025", "never", "2025"]
    # What was not done since is no day on which it was.
    assert told[6]["last flush"] == "unknown" and "2008 (not since)" in told[6]["note"]
    brought_in(run)
    assert list(Heater.objects.order_by("pk").values_list("kind", "vent")) == [
        ("indirect_tank", ""), ("electric_tank", ""), ("gas_tank", ""), ("electric_tank", ""),
        ("electric_tank", ""), ("gas_tankless", ""),
    ]  # fmt: skip
    fitted = Heater.objects.get(site__customer__name="Fell Side Farm").parts.get(kind="anode").fitted_on
    assert fitted == datetime.date(2021, 10, 4)


ON_ONE_LINE = """Customer,Heater,Service hist,Water
Ellerby Dan & Sue / 14 Kiln Rd Ashcombe / 555-0211,'09 Thornfell 50 g NG in gar,'21 fl; '22 fl+rod; '24 fl,city 17gr
Moss / 16 Kiln Rd Ashcombe,"Brayfield 40g E, 2015, hall closet",never that we know,city 17gr
Bible Chapel / 2 Chapel Hill Rd Ashcombe / Orr 555-0213,"80 g E + 6 g E under sink both 2012",both 5/23,well 24gr
Yancey Hal / RR 2 box 77 / 555-0214,T'less Kelmarsh 9.5 LP '20 outside wall,desc. 6/23 + 7/25,well
Grell / 4 Summit Ave North / 555-0212,HP 66g 2022 bsmt,filter only 2024,city
"""


def test_a_card_on_one_line_is_cut_at_its_strokes(people):
    run, told = read(people, ON_ONE_LINE)
    assert [told[row]["last flush"] for row in range(2, 7)] == ["2024", "never", "2023", "2025", "unknown"]
    assert told[4]["heater 2"] == "electric tank 6 gal, put in about 2012, last flush 2023" and "Orr" in told[4]["note"]
    brought_in(run)
    found = Heater.objects.order_by("pk").values_list(
        "site__customer__name", "site__street", "site__town", "site__customer__phone", "kind"
    )
    chapel = ("Bible Chapel", "2 Chapel Hill Rd", "Ashcombe", "555-0213", "electric_tank")
    assert list(found) == [
        ("Ellerby Dan & Sue", "14 Kiln Rd", "Ashcombe", "555-0211", "gas_tank"),
        ("Moss", "16 Kiln Rd", "Ashcombe", "", "electric_tank"),
        chapel, chapel,
        ("Yancey Hal", "RR 2 box 77", "", "555-0214", "gas_tankless"),
        ("Grell", "4 Summit Ave North", "", "555-0212", "heat_pump_tank"),
    ]  # fmt: skip


OF_TANKLESS = """Account,Street,City,Unit,Fuel,Hardness (gpg),Setpoint,Last flush (descale)
Brine & Barrel,400 Canal St,Portwick,Kelmarsh 11 gpm (x3 cascade),NG,16,160,"Oct '25 (1-2), Nov '25 (3)"
T. Oyelaran,77 Cobble Ct,Portwick,Brayfield TL-8,LP,16,120,never
"Quist, B.",12 Heron Ln,Portwick,whole-house electric 27 kW,elec,16,115,15 SEP 24
Saltmarsh Lofts HOA,90 Wharf Rd,Portwick,"6 wall hung, one a unit",NG,16->1 soft,120-125,11/25 (not all)
Delphine Rau,5 Gull St,Portwick,combi boiler (heat + DHW),NG,16,125,x-mas 2023
"""


def test_what_heats_as_it_runs_is_no_tank_for_its_kilowatts_or_its_gallons_a_minute(people):
    run, told = read(people, OF_TANKLESS)
    assert [told[row]["heater"] for row in range(2, 7)] == [
        "3 x gas tankless", "gas tankless", "electric tankless", "6 x gas tankless", "gas tankless",
    ]  # fmt: skip
    assert [told[row]["last flush"] for row in range(2, 7)] == ["2025", "never", "2024", "unknown", "2023"]
    assert told[5]["hardness"] == "16.0 gpg"
    brought_in(run)
    assert Heater.objects.filter(site__softened=True).count() == 6 and Heater.objects.count() == 12


FROM_A_PROGRAM = """id,\
cust_name,svc_addr1,svc_addr2,city,phone1,equip_desc,capacity,install_dt,last_pm_dt,anode_dt,status_cd
1,"LINDQUIST, MARA",18 FERN ST,APT B,GRAYLING,5555550401,WATER HEATER GAS ATMOS,50,20140611,20251003,20211004,A
2,"OKAFOR, DELE",22 FERN ST,,GRAYLING,5555550402,WATER HEATER ELECTRIC,52,20170101,19000101,00000000,A
3,"PRUITT, SAM",9 OAK CT,,GRAYLING,,WATER HEATER GAS PWR VENT,40,20080919,20181120,,I
"""


def test_a_program_s_codes_say_who_is_left_and_which_days_nobody_entered(people):
    run, told = read(people, FROM_A_PROGRAM)
    assert told[4]["left out"] == "status_cd: I" and not unread(told)
    assert [told[row]["last flush"] for row in (2, 3)] == ["2025", "unknown"]
    brought_in(run)
    assert set(Heater.objects.values_list("site__street", flat=True)) == {"18 FERN ST APT B", "22 FERN ST"}


OF_A_LANDLORD = """Objekt-Nr.;\
Liegenschaft;Wohnung/Lage;Mieter;Gerätetyp;Inhalt;Bj.;letzte Wartung;nächste Wartung;Anode;SiV;°dH
4711-01;Hafenstr. 12, 00711 Seebüll;EG li;Petersen;Kleinspeicher Untertisch 5 l;5;2018;--;--;--;--;14
4711-02;Hafenstr. 12, 00711 Seebüll;EG re;Jensen;el. DLE 21 kW;;2018;11/24;11/26;--;--;14
4711-03;Hafenstr. 12, 00711 Seebüll;1. OG;Leerstand;Wandspeicher, 2-Kreis;80;2013;11/22;überfällig;\
verbraucht, nicht erneuert;tropft;14
4711-04;Hafenstr. 12, 00711 Seebüll;Heizraum;-;Speicher indirekt am Gaskessel;400;2009;11/25;11/26;Fremdstrom;2024;14
4712-01;Deichweg 3, 00711 Seebüll;Keller;Eigent.: Hansen, Tel. 0555-7120;Gas-Vorratswasserheizer;130;2001;nie;;?;?;14
"""


def test_what_is_next_is_not_what_was_last_and_an_empty_flat_is_nobody(people):
    run, told = read(people, OF_A_LANDLORD)
    assert [told[row]["last flush"] for row in range(2, 7)] == ["unknown", "2024", "2022", "2025", "never"]
    assert not unread(told) and told[5]["relief valve"] == "about 2024"
    brought_in(run)
    found = Heater.objects.order_by("pk").values_list("site__customer__name", "site__street", "location", "capacity_l")
    assert list(found) == [
        ("Petersen", "Hafenstr. 12", "EG li", 5.0), ("Jensen", "Hafenstr. 12", "EG re", None),
        ("Hafenstr. 12", "Hafenstr. 12", "1. OG", 80.0), ("Hafenstr. 12", "Hafenstr. 12", "Heizraum", 400.0),
        ("Hansen", "Deichweg 3", "Keller", 130.0),
    ]  # fmt: skip
    assert Heater.objects.get(location="Keller").site.customer.phone == "0555-7120"


AT_A_COUNTER = """Name,Address,Make,Size,Year,Gas/Elec,Temp,Done
"Abbot, Lena","4419 Saddle Rd, Mesa Verda 00902",Thornfell,50,14,G,hot,"11/23, 11/24, 12/25"
"Abbot, Sr.","4425 Saddle Rd, Mesa Verda 00902",Ostrand,40,99?,E,120ish,nope
Casa Blanca Apts,"88 Mission, Mesa Verda 00902",various,30 x 8,mixed 10-18,E,,4/25
"De La Cruz, Ignacio","101 Arroyo Seco, Mesa Verda 00903",Brayfield,75,2019 (Nov),G,B,8/26
Dr. Finch DDS,"20 Main Ste 4, Mesa Verda 00902",?,20,'16,E,,
"Gomez, R",see Casa Blanca #3,,,,,,
"""
ITS_BOOK = """Mo/Yr,Customer,Did
11/23,Abbot Lena,Flush. 2 gal of grit. Anode 1/2. T&P opened+closed OK
8/26,De La Cruz,"T&P pipe upsized & turned down. Flush n/a, valve clogged"
Feb 26,Dr Finch,anode gone! new. 0 sediment
,Dr Finch,relit pilot
"""


def test_a_month_and_its_year_are_no_day_and_a_row_may_point_to_another(people):
    run, told = read(people, AT_A_COUNTER)
    assert told[7]["left out"] == "it points to another row" and not unread(told)
    assert [told[row]["last flush"] for row in (2, 3, 4, 5)] == ["2025", "never", "2025", "2026"]
    assert (told[4]["heater"], told[4]["put in"]) == ("8 x electric tank 30 gal", "about 2014")
    assert told[5]["put in"].startswith("2019-11")
    brought_in(run)
    book, said = read(people, ITS_BOOK, "jobs")
    assert said[5]["left out"] == "no day is known" and book.counts == {RowAction.CREATE: 3, RowAction.LEFT_OUT: 1}
    brought_in(book)
    assert {(visit.on.year, visit.on.month) for visit in Visit.objects.all()} == {
        (2023, 11), (2026, 8), (2026, 2),
    }  # fmt: skip
    assert sorted(Finding.objects.values_list("task", flat=True)) == [
        "anode_inspection", "anode_inspection", "anode_replacement", "flush", "relief_valve_exercise",
    ]  # fmt: skip


LITTLE_BESIDE = """Phone,Customer,Address,Type,Size,Installed,Last service
555-0101,"Hansen, Tel. 555-7120","1 Elm St, Ashcombe",gas,50,2019 (bought used),Aug 25 (hols)
555-0102,Mgr: Ada Brill,"2 Elm St, Ashcombe",gas,40,2018,"11/23, 11/24 (no valve), 12/25"
"""


def test_what_stands_beside_a_day_or_a_name_is_kept(people):
    run, told = read(people, LITTLE_BESIDE)
    assert (told[2]["put in"], told[2]["last flush"], told[3]["last flush"]) == ("about 2019", "2025", "2025")
    assert "2019 (bought used)" in told[2]["note"] and "Aug 25 (hols)" in told[2]["note"]
    assert "11/24 (no valve)" in told[3]["note"] and "Mgr: Ada Brill" in told[3]["note"]
    brought_in(run)
    hansen = Heater.objects.get(site__street="1 Elm St").site.customer
    assert (hansen.name, hansen.phone, hansen.second_phone) == ("Hansen", "555-0101", "555-7120")

"""Lists and books of ten more invented offices, each written down whole before it was tried. What is held here is what
was read wrongly then."""

import datetime

import pytest

from aquifer.heaters.models import Heater
from aquifer.imports.models import ImportRun
from aquifer.visits.models import Finding
from tests.imports.test_lists_read_once import read
from tests.imports.test_office_list import brought_in, sent, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")
DAY = datetime.date


def columns(run: ImportRun) -> dict[str, str]:
    return {one["name"]: one["column"] for one in run.columns}


def unread(told) -> set[str]:
    return {why for detail in told.values() for name, why in detail.items() if name.startswith("not understood")}


def heaters(*fields: str) -> list[tuple]:
    return list(Heater.objects.order_by("pk").values_list(*fields))


FROM_THE_COAST = """Job No.,Client,Site Address,Suburb,Mobile,HWS type,Ltrs,Install yr,TPR last eased,Anode last,\
Mains kPa
J1001,B & T Corrigan,8 Wattle Gr,Brindle Bay,0455 550 161,Electric storage,250,2016,11/24,2021,650
J1002,Strata Plan 88,Unit 3/14 Esplanade,Brindle Bay,,Gas continuous flow,,2019,n/a,n/a,850 - no PLV
J1003,M Osei,22 Jarrah St,Brindle Heights,0455 550 163,Gas storage ext.,135,06/2009,?,??,??
J1004,Brindle RSL,1 Memorial Dve,Brindle Bay,0455 550 164,Heat pump,315,2023,,orig,500
J1005,P Lim,5 Spinifex Cl,Brindle Heights,0455 550 165,Solar elec boost,300,2011,2022,2022,500
"""
ITS_BOOK = """Date completed,Job,Client / site,Work done,Tech
14/11/2024,J1001,"Corrigan, 8 Wattle Gr","Eased TPR (ok), drained approx 15 L brown water, anode 60% consumed",Moz
3/2/25,J1004,Brindle RSL,"HP filter clean. anode ok 20% gone. TPR eased - dribbled, replaced",Moz
22/06/2022,J1005,"P Lim, Spinifex Cl","New anode. TPR replaced.",Dee
"""


def test_litres_in_short_are_litres_and_an_eased_valve_is_no_new_one(people):
    run, told = read(people, FROM_THE_COAST)
    assert not unread(told)
    brought_in(run)
    assert heaters("kind", "capacity_l") == [
        ("electric_tank", 250.0), ("gas_tankless", None), ("gas_tank", 135.0), ("heat_pump_tank", 315.0),
        ("electric_tank", 300.0),
    ]  # fmt: skip
    first = Heater.objects.order_by("pk")[0]
    assert not first.parts.filter(kind="relief_valve", fitted_on__isnull=False).exists()
    assert "TPR last eased: 11/24" in first.note
    assert Heater.objects.get(site__street__contains="Esplanade").site.static_pressure_kpa == 850.0


def test_a_book_tells_by_its_own_days_which_of_two_figures_is_the_month(people):
    brought_in(read(people, FROM_THE_COAST)[0])
    run, told = read(people, ITS_BOOK, "jobs")
    assert columns(run)["Job"] == "note" and [told[row]["on"] for row in (2, 3, 4)] == [
        "2024-11-14", "2025-02-03", "2022-06-22",
    ]  # fmt: skip
    brought_in(run)
    found = Finding.objects.filter(heater__site__customer__name="Brindle RSL").values_list("task", "outcome")
    assert ("relief_valve_exercise", "flows_and_weeps") in found
    # In one cell with their addresses, one of them without a number.
    assert Finding.objects.filter(heater__site__street__in=("8 Wattle Gr", "5 Spinifex Cl")).count() == 5


@pytest.mark.parametrize(("days", "first"), [
    # As the company writes where nothing tells, or both do.
    (["3/2/2025", "4/5/2024"], "2025-03-02"), (["3/2/2025", "14/5/2024", "5/14/2024"], "2025-03-02"),
    (["3/2/2025", "14/5/2024"], "2025-02-03"), (["3/2/2025", "5/14/2024"], "2025-03-02"),
    # A slip in a long list.
    (["3/2/2025", "14/5/2024", *["5/14/2024"] * 4], "2025-03-02"),
    (["3/2/2025", "5/14/2024", *["14/5/2024"] * 4], "2025-02-03"),
])  # fmt: skip
def test_which_figure_is_the_month_is_what_most_days_show(people, days, first):
    rows = "".join(f"Name {n},{n} Mill Ln,gas 40 gal,{day}\n" for n, day in enumerate(days, start=1))
    run, told = read(people, f"Customer,Address,Type,Installed\n{rows}")
    assert told[2]["put in"] == first


IN_FRENCH = """No de client,Nom,Adresse,Ville,Code postal,Type de chauffe-eau,Capacité,Énergie,Année d'install.,\
Dernier entretien,Tige anode,Soupape T&P
1042,"Bélanger, Luc",123 rue des Érables,Val-Serein,Z0Z 0A1,Réservoir,60 gal,Électrique,2015,2025-05-14,remplacée 2021,\
testée 2025
1043,Famille Roy,7 ch. du Moulin,Val-Serein,Z0Z 0A1,Réservoir,40 gal,Gaz naturel,août 2012,jamais,d'origine,
1044,Auberge du Pont,2 rue du Pont,Val-Serein,Z0Z 0A2,Sans réservoir,,Propane,2021,2025-09-02,s.o.,OK
"""


def test_what_has_no_tank_in_french_has_none_and_nothing_to_say_is_no_ditto(people):
    run, told = read(people, IN_FRENCH)
    assert not unread(told)
    assert columns(run)["No de client"] == "account" and columns(run)["Code postal"] == "postcode"
    brought_in(run)
    assert [kind for (kind,) in heaters("kind")] == ["electric_tank", "gas_tank", "gas_tankless"]
    last = Heater.objects.order_by("pk").last()
    assert last.site.postcode == "Z0Z 0A2" and "origine" not in last.note
    rods = Heater.objects.order_by("pk")[0].parts.get(kind="anode")
    assert rods.fitted_on.year == 2021


IN_SPANISH = """Folio;Cliente;Calle y número;Colonia;Celular;Tipo de calentador;Capacidad;Marca/Modelo;Instalado;\
Dureza;Presión (kg/cm2);Último servicio;Ánodo;Válvula de alivio
001;Sra. Nora Quiroz;Av. Encino 45;Centro;555 010 3301;Depósito gas natural;150 L;Solaria S150;15/03/2016;280 ppm;2.5;\
14/11/2024;cambiado 2022;revisada 11/2024
002;Hotel Mirador;Blvd. del Lago 3;Playa Honda;555 010 3302;Sin tanque gas LP;;Solaria T20;02/09/2021;280 ppm;3;\
03/02/2025;no lleva;
003;Fam. Béjar;Cda. Roble 8 int. 2;Centro;;Eléctrico;80 L;;aprox. 2012;;;nunca;original;gotea
004;Escuela Benito;Priv. Sauce s/n;Las Palmas;555 010 3304;Solar con respaldo eléctrico;300 litros;;07/05/2019;150;;\
28/08/2025;cambiado 08/2025;ok
"""
IN_SPANISH_DONE = """Fecha,Cliente,Dirección,Trabajo realizado,Técnico
14/11/2024,Nora Quiroz,Av. Encino 45,"Drenado y enjuague, salieron 4 litros de sedimento. Ánodo al 50%. Válvula de \
alivio probada, ok",Beto
03/02/2025,Hotel Mirador,Blvd. del Lago 3,"Descalcificación con ácido cítrico, 2 equipos",Beto
28/08/2025,Escuela Benito,Priv. Sauce,"Se cambió el ánodo (gastado). Limpieza de resistencia",Lalo
"""


def test_a_list_and_a_book_in_spanish(people):
    run, told = read(people, IN_SPANISH)
    assert not unread(told)
    # A bare 150 beside 280 ppm is no 150 grains, of which nobody has so many.
    assert [told[row].get("hardness") for row in (2, 3, 5)] == ["16.4 gpg", "16.4 gpg", "8.8 gpg"]
    assert told[2]["pressure"] == "36 psi"
    brought_in(run)
    assert heaters("kind", "capacity_l", "installed_on")[:2] == [
        ("gas_tank", 150.0, DAY(2016, 3, 15)), ("gas_tankless", None, DAY(2021, 9, 2)),
    ]  # fmt: skip
    one = Heater.objects.order_by("pk")[0]
    assert (one.site.street, one.maker, one.model) == ("Av. Encino 45", "Solaria", "S150")
    book, told = read(people, IN_SPANISH_DONE, "jobs")
    assert [told[row]["understood"] for row in (2, 3, 4)] == [
        "flush: 1.06 gal; anode inspection: half; relief valve exercise: flows and reseats", "descale",
        "anode inspection: gone; anode replacement; look over: element failed",
    ]  # fmt: skip
    brought_in(book)
    assert set(Finding.objects.values_list("visit__technician", flat=True)) == {"Beto", "Lalo"}


BY_KIND = """Household,Address,Gas tank (gal),Gas tank yr,Electric tank (gal),Electric tank yr,Tankless?,Tankless yr,\
Last visit,What we did
Abbey & Sol Trask,3 Ford St Lindell,50,2012,,,,,4/2025,flush + T&P
Bright,9 Ford St Lindell,,,50,2016,,,10/24,flush/rod
Crane Bakery,10 Ford St Lindell,75,2019,,,Y,2022,1/25,desc + flush
Dall (rental),11 Ford St Lindell,40,,30,,N,,never,
"""


def test_kinds_with_columns_of_their_own_are_heaters_of_their_own(people):
    run, told = read(people, BY_KIND)
    assert columns(run)["Household"] == "customer" and columns(run)["What we did"] == "note" and not unread(told)
    brought_in(run)
    found = [(kind, round(size or 0), on and on.year, flush) for kind, size, on, flush in heaters(
        "kind", "capacity_l", "installed_on", "last_flush_year"
    )]  # fmt: skip
    assert found == [
        ("gas_tank", 189, 2012, 2025), ("electric_tank", 189, 2016, 2024), ("gas_tank", 284, 2019, 2025),
        ("gas_tankless", 0, 2022, 2025), ("gas_tank", 151, None, None), ("electric_tank", 114, None, None),
    ]  # fmt: skip


@pytest.mark.parametrize(("cells", "kinds"), [
    (",x,", ["electric_tank"]), ("x,,x", ["gas_tank", "gas_tankless"]), ("2,,", ["gas_tank"] * 2),
    ("n,n,1", ["gas_tankless"]), ("40,,", ["gas_tank"]),
])  # fmt: skip
def test_a_mark_or_a_number_under_a_kind_says_that_there_are_such(people, cells, kinds):
    run, _ = read(people, f"Customer,Address,Gas,Electric,Tankless\nAsh,1 Mill Ln,{cells}\n")
    brought_in(run)
    assert [kind for (kind,) in heaters("kind")] == kinds


def test_a_fuel_that_stands_alone_is_no_heater_of_its_own(people):
    run, _ = read(people, "Customer,Address,Gas,Size\nAsh,1 Mill Ln,y,40\n")
    brought_in(run)
    assert Heater.objects.count() == 1


KEPT_FROM_FIGURES = """="Acct",="Name",="Svc Street",="Svc City",="Zip",="Desc",="Inst",="LastPM",="GPG",="PSI"
="00411",="KESTER, V",="101 PINE",="ROE",="00511",="WH G50 ATM 40MBH FVIR",="05/2015",="20250310",="19",="70"
="00414",="LUNDE/ORR",="22 ALDER #4",="ROE",="00511",="TKL G 180MBH COND",="09/2022",="20240901",="3 SOFT",="65"
"""


def test_cells_that_a_program_keeps_from_becoming_figures_are_read(people):
    run, told = read(people, KEPT_FROM_FIGURES)
    assert not unread(told)
    brought_in(run)
    assert heaters("kind", "site__postcode", "site__customer__name", "site__softened") == [
        ("gas_tank", "00511", "V Kester", False), ("condensing_tankless", "00511", "Lunde/Orr", True),
    ]  # fmt: skip


WITH_RULES = """Water heater service list 2026 | |  |  |  |  |
Customer | Site | Heater details | Age (yrs) | Water | Last done | Price
--- | --- | --- | --- | --- | --- | ---
Mabel Orton | 4 Rise Rd, Kell 00601 | 40 US gal electric, Brayfield BE40 | 9 | 12 gr hard | Sept 2025 - flushed | £95
Kell Surgery | 1 High St, Kell 00601 | 2no. 50 gal gas | 12 & 3 | softened | Jan 2026 | £190
"""


def test_a_line_across_a_table_is_no_customer_and_a_price_no_province(people):
    run, told = read(people, WITH_RULES)
    assert not unread(told) and len(told) == 2 and columns(run)["Price"] == "note"
    brought_in(run)
    made = [(kind, round(size), on.year) for kind, size, on in heaters("kind", "capacity_l", "installed_on")]
    assert made[0][:2] == ("electric_tank", 151) and [one[:2] for one in made[1:]] == [("gas_tank", 189)] * 2
    # Each of two has its own age.
    assert made[2][2] - made[1][2] == 9


def test_what_a_customer_program_calls_its_own_fields_is_read_by_what_stands_in_them(people):
    run, told = read(people, """LastName,StreetAddr,Custom_WH_Type,Custom_WH_Size,Custom_WaterTest,LifetimeValue
Odom,31 Quarry Rd,Gas Tank,50 Gallon,25 gpg / 0.3 ppm Fe,1893.00
Laundry,2 Main St,Commercial Gas,100 Gallon,25 gpg raw / 2 soft,10450.00
Penn,33 Quarry Rd,Tankless Gas,199k BTU,,0.00
""")  # fmt: skip
    assert not unread(told) and [told[row].get("hardness") for row in (2, 3, 4)] == ["25.0 gpg", "25.0 gpg", None]
    brought_in(run)
    assert heaters("kind", "site__softened")[1:] == [("gas_tank", True), ("gas_tankless", False)]


def test_marks_of_several_things_in_a_year_are_of_a_flush_where_its_own_is_among_them(people):
    _, told = read(people, "Name,Street,Heater,2023,2024\nOrsk,2 Mill Ln,Elec,x,x V\nAmory,3 Mill Ln,Elec,x A,A\n")
    assert [told[row]["last flush"] for row in (2, 3)] == ["2024", "2023"]
    assert "2024: x V" in told[2]["note"] and "2024: A" in told[3]["note"]


def test_who_has_two_houses_in_ways_of_one_name_gets_no_visit_at_the_other(people):
    brought_in(read(people, "Name,Address,Type\nAshbury,12 Mill Ln,gas\nLim,5 Spinifex Cl,gas\n")[0])
    run, _ = read(people, """Date,Who,Where,What
3/3/2024,Ashbury,12 Mill Rd,flushed
3/4/2024,Ashbury,12 Mill,flushed
3/5/2024,Lim,Spinifex Ct,flushed
3/6/2024,Lim,Spinifex,flushed
""", "jobs")  # fmt: skip
    assert [row.action for row in run.rows.order_by("number")] == ["left_out", "create", "left_out", "create"]


A_ROUTE = """Rt,Stop,Name,St #,Street,Apt,City,Ph1,Ph2,Unit 1,Unit 1 Yr,Unit 1 Svc,Unit 2,Unit 2 Yr,Unit 2 Svc,H2O gpg
4,1,BALLARD/T,1801,N FERN,,OAKUM,5550101,,G40,14,3/24,,,,24
4,2,VANT HOFF,1809,N FERN,B,OAKUM,5550102,5550199,E50,2019,6/25,TKL-NG,22,8/25,24
4,5,D. REYES,1822,N FERN,,OAKUM,none,,LP50,unk,nvr,,,,hard!!
"""
ITS_CODES = """Svc Date|Rt/Stop|Customer|Svc Code|Comments|Tech #
03/18/24|4-1|BALLARD/T|WHF|FLSH 15 GAL MUDDY, ANODE 30% LEFT, TP STUCK-REPL|07
06/02/25|4-2|VANT HOFF|WHF,TKD|E50 FLSH CLR; TKL DESC 1HR, SCREEN CLND|07
"""


def test_each_unit_of_a_route_has_its_own_service(people):
    run, told = read(people, A_ROUTE)
    assert columns(run)["Ph1"] == "phone" and columns(run)["Ph2"] == "second_phone"
    brought_in(run)
    assert heaters("kind", "last_flush_year", "flush_history") == [
        ("gas_tank", 2024, "about"), ("electric_tank", 2025, "about"), ("gas_tankless", 2025, "about"),
        ("gas_tank", None, "never"),
    ]  # fmt: skip


def test_a_line_of_a_tank_and_a_tankless_one_is_a_visit_to_each(people):
    brought_in(read(people, A_ROUTE)[0])
    run, told = read(people, ITS_CODES, "jobs")
    assert told[3]["heater"] == "H-0002 and H-0003"
    brought_in(run)
    found = Finding.objects.order_by("heater", "task").values_list("heater__kind", "task")
    assert list(found) == [
        ("gas_tank", "anode_inspection"), ("gas_tank", "flush"), ("gas_tank", "relief_valve_exercise"),
        ("gas_tank", "relief_valve_replacement"), ("electric_tank", "flush"), ("gas_tankless", "descale"),
        ("gas_tankless", "upkeep"),
    ]  # fmt: skip
    # Sent again, nothing is new.
    again = sent(people, ITS_CODES, "jobs")
    assert {row.action for row in again.rows.all()} == {"same"}


OF_A_HOUSE = """Liegenschaftsverwaltung Brandner - Warmwassergeräte;;;;;;;;
Haus;Whg.;Mieter;Gerät;Liter / kW;Jahr;letzte Entk.;Anode gepr.;SG geprüft
Uferweg 3;1. OG li;Fam. Seiler;Wandboiler E;80;2011;03.2024;03.2024 ca. 50%;ok 03.24
Uferweg 3;DG;leer;DLE 21 kW;;2016;-;-;-
Uferweg 5;EG;Café Anker;Gas-Standspeicher;190;Bj. 08;11.2025;11.2025 verbraucht, ersetzt;tropft
Uferweg 5;Keller;Hausanschluss;Enthärter;;;;;
"""


def test_a_house_with_its_number_is_an_address_and_a_softener_no_heater(people):
    run, told = read(people, OF_A_HOUSE)
    assert columns(run)["Haus"] == "address" and told[6]["left out"] == "Gerät: Enthärter"
    brought_in(run)
    assert heaters("kind", "site__street", "last_flush_year") == [
        ("electric_tank", "Uferweg 3", 2024), ("electric_tankless", "Uferweg 3", None), ("gas_tank", "Uferweg 5", 2025),
    ]  # fmt: skip
    looked, _, renewed = Heater.objects.order_by("pk")
    assert not looked.parts.filter(kind="anode", fitted_on__isnull=False).exists()
    assert renewed.parts.get(kind="anode").fitted_on.year == 2025


def test_names_with_points_are_those_of_nested_fields(people):
    run, told = read(people, """customer.full_name,customer.phones.0,service_address.line1,service_address.line2,\
service_address.city,service_address.postal_code,equipment.type,equipment.fuel,last_visit.date,last_visit.summary
Ivo Brandt,+1 555 555 0111,9 Quay St,,Port Elm,00711,storage,natural_gas,2025-11-02,"flush, rod 60% gone"
null,null,11 Quay St,rear,Port Elm,00711,hybrid,electric,null,null
""")  # fmt: skip
    assert not unread(told)
    brought_in(run)
    assert heaters("kind", "site__customer__name", "site__street", "site__town", "site__postcode") == [
        ("gas_tank", "Ivo Brandt", "9 Quay St", "Port Elm", "00711"),
        ("heat_pump_tank", "11 Quay St, rear", "11 Quay St, rear", "Port Elm", "00711"),
    ]


def test_cards_one_under_another_are_a_table(people):
    run, told = read(people, """Client Name: ;Adair, Colm;;
Address: ;2 Sluice Rd, Wend 00801;;
Heater: ;50 gal NG, 2012, S/N 12-8;;
Last service: ;5/2025 flush;;
;;;
Client Name: ;Birch, Etta;;
Address: ;4 Sluice Rd, Wend 00801;;
Heater: ;40 gal elec, 2018;;
""")  # fmt: skip
    brought_in(run)
    assert heaters("kind", "site__customer__name", "site__town", "last_flush_year") == [
        ("gas_tank", "Colm Adair", "Wend", 2025), ("electric_tank", "Etta Birch", "Wend", None),
    ]  # fmt: skip


IN_GERMAN = """Wartungsliste Durchlauferhitzer & Speicher;Stand 11/26;;;;;;;;;
Kd.-Nr.;Name;Vorname;Str. Nr.;PLZ;Ort;Gerät/Typ;Herst.-Jahr;Inhalt (l);Entk. am;Anode
10012;Oberkofler;Jakob;Gassl 3;99871;St. Wendl;Elektro-Standspeicher Norvik 300;1998;300;14.05.2019;Mg, ern. 14.05.2019
10013;Hotel Alpenblick GmbH;;Hauptplatz 1;99871;St. Wendl;Gas-Brennwert DLE 27 kW;11/2020;-;jährl. Okt.;entf.
10014;Trenker;Luis;Gassl 5a;99871;St. Wendl;WP-Speicher;2022;270 L;noch nicht;Fremdstrom
10016;Gemeindeamt;;Hauptplatz 2;99871;St. Wendl;Boiler indirekt;Bj 05;500 ltr.;9/2024;verbr. -> neu 9/24
"""
IN_GERMAN_DONE = """RgNr;Datum;Kd.-Nr.;Kunde;Leistung
R-1;14.05.2019;10012;Oberkofler Jakob;Speicher entkalkt (2 Kübel Kalk), SiV gepr. i.O.
R-3;03.09.2024;10016;Gemeinde;Boilerreinigung, viel Schlamm. Anode verbraucht - getauscht
R-4;2.12.24;;Trenker L.;Speicher gespült
R-5;2.12.24;10012;;Speicher gespült
"""


def test_a_german_list_in_short(people):
    run, told = read(people, IN_GERMAN)
    assert not unread(told)
    brought_in(run)
    assert [(kind, on.year, flush) for kind, on, flush in heaters("kind", "installed_on", "flush_history")] == [
        ("electric_tank", 1998, "about"), ("condensing_tankless", 2020, "about"), ("heat_pump_tank", 2022, "never"),
        ("indirect_tank", 2005, "about"),
    ]  # fmt: skip
    rods = [one.parts.filter(kind="anode").first() for one in Heater.objects.order_by("pk")]
    assert (rods[0].alloy, rods[0].fitted_on) == ("magnesium", DAY(2019, 5, 14)) and rods[3].fitted_on.year == 2024


def test_a_customer_is_known_by_number_and_by_the_first_letter_of_a_name(people):
    brought_in(read(people, IN_GERMAN)[0])
    run, told = read(people, IN_GERMAN_DONE, "jobs")
    assert columns(run)["Kd.-Nr."] == "account"
    assert [told[row].get("heater") for row in (2, 3, 4, 5)] == ["H-0001", "H-0004", "H-0003", "H-0001"]
    assert told[2]["understood"] == "flush: heavy, 10.04 gal; relief valve exercise: flows and reseats"


IN_COLUMNS = """Customer Name,Svc Address,City St Zip,Home,Work,Heater Fuel,Heater Size,Heater Age,Vent,House PSI,\
T-stat Setting,Last PM
"LEARY, MAUDE",77 COVE RD,"SPRUCE HBR, XX 00721",555-5550171,,NAT GAS,40,13 YRS,ATMOS,85,HOT,05/25
HARBOR INN,1 WHARF ST,"SPRUCE HBR, XX 00721",,555-5550172,LP,2 X 100,2016 & 2021,POWER,60,140/120 MIX,01/26
"""
ITS_VISITS = """Date,Tech,Cust,Addr,Notes
5/14/25,R. Dow,Leary Maude,77 Cove,flushed 10 min ran clear. TP lifted & reset OK. rec expansion tank
10/2/25,M. Ek,Leary Maude,77 Cove,drained & shut down for winter
"""


def test_a_pressure_of_the_house_is_no_number_of_it(people):
    run, told = read(people, IN_COLUMNS)
    assert not unread(told) and columns(run)["House PSI"] == "pressure"
    brought_in(run)
    assert heaters("site__street", "vent", "setpoint_c")[1:] == [("1 WHARF ST", "powered", 60.0)] * 2
    assert Heater.objects.order_by("pk")[0].site.customer.phone == "555-5550171"
    visits, said = read(people, ITS_VISITS, "jobs")
    assert said[2]["understood"] == "flush; relief valve exercise: flows and reseats"
    assert said[3]["understood"].startswith("not understood")

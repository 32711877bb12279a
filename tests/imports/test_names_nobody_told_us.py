"""Columns called as nobody told the program: short, run together, foreign, or by a name that its cells belie."""

import csv
import datetime
import io
import random

import pytest

from aquifer.company.models import Company
from aquifer.formats.cells import BadCell
from aquifer.formats.day_said import day
from aquifer.formats.heater_said import kind, rod
from aquifer.heaters.models import Heater
from aquifer.imports import run as runs
from aquifer.water.models import WaterTest
from tests.imports.test_office_list import LIST, brought_in, matched, sent, us, workbook  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")


def columns_of(run) -> dict[str, str]:
    return {one["name"]: one["column"] for one in run.columns}


def unread(run) -> list[str]:
    return [f"{row.number} {name}" for row in run.rows.all() for name in row.detail if name.startswith("not under")]


# ruff: noqa: E501
SHORT = """GRANITE FORK PLUMBING - W/H BOOK,,,,,,,,,,,,,,,,
Cust,Site,Twn,Tel,Tel 2,Unit,Gals,Inst.,Stat,Static,X-tank,Soft?,gpg,Supply,LF,Rod,Misc
Bellwether Otis,14 Flint Rd.,Granite Fk,555-0101,,NG atmos.,40,'09,120,65,none,no,14,muni,4/25,repl 2021,knee pads
"Castellane, P & R",220 Quarry Ln #B,Granite Fk,(555)555-0102,555 0103,elec.,50 tall,Aug-17,hot!,110+,2 gal,yes - salt,0-1,muni,Aug 24 ok,mag,
Fork Diner,1 Main,Granite Fk,5550104,,NG comm. 100,100,3/2015,160,70,ST-12,no,14,muni,every qtr,2 rods 2023,
Drummond,Hwy 9 box 44,nr Pell,no phone,,LP tankless,n/a,2020,118,well 40/60,,N,26 GPG,well,descaled 5/25,--,
Estabrook V.,8 Pond,Pell,555-0106,,heat pump (hybrid),65,2022-11,125,58,Y,N,20ish,muni,1 yr ago,pwr anode,
"""


def test_short_names_and_cells_are_understood(people):
    run = matched(sent(people, SHORT))
    assert columns_of(run) == {
        "Cust": "customer", "Site": "address", "Twn": "town", "Tel": "phone", "Tel 2": "second_phone", "Unit": "kind",
        "Gals": "size", "Inst.": "installed", "Stat": "setpoint", "Static": "pressure", "X-tank": "expansion_tank",
        "Soft?": "softener", "gpg": "hardness", "Supply": "well", "LF": "last_flush", "Rod": "anode", "Misc": "note",
    }  # fmt: skip
    assert unread(run) == []
    brought_in(run)
    heaters = [*Heater.objects.select_related("site__customer", "site__zone").order_by("tag")]
    assert [one.site.customer.name for one in heaters[:2]] == ["Bellwether Otis", "P & R Castellane"]
    assert [one.kind for one in heaters] == [
        "gas_tank", "electric_tank", "gas_tank", "gas_tankless", "heat_pump_tank",
    ]  # fmt: skip
    assert [round((one.capacity_l or 0) / 3.785) for one in heaters] == [40, 50, 100, 0, 65]
    assert [one.last_flush_year for one in heaters] == [2025, 2024, 2026, 2025, 2025]
    assert [one.installed_on.year for one in heaters] == [2009, 2017, 2015, 2020, 2022]
    # 40/60 is the switch of a well's pump: the house sees the higher.
    psi = [round(one.site.static_pressure_kpa / 6.895) for one in heaters]
    assert psi == [65, 110, 70, 60, 58] and heaters[1].control_setting == "hot"
    assert [one.site.zone.supply for one in heaters] == ["mains", "mains", "mains", "well", "mains"]
    rods = {
        one.tag: (part.alloy, part.fitted_on.year if part.fitted_on else None)
        for one in heaters for part in one.parts.filter(kind="anode")
    }  # fmt: skip
    assert rods == {
        "H-0001": ("", 2021),
        "H-0002": ("magnesium", None),
        "H-0003": ("", 2023),
        "H-0005": ("powered", None),
    }
    vessels = {one.tag: one.parts.filter(kind="expansion_tank").values_list("volume_l", flat=True) for one in heaters}
    told = {tag: [round(volume / 3.785) if volume else None for volume in own] for tag, own in vessels.items()}
    assert told == {"H-0001": [], "H-0002": [2], "H-0003": [None], "H-0004": [], "H-0005": [None]}


RUN_TOGETHER = """CustomerID,CustomerName,ServiceAddress,City,ZIP,EquipmentType,TankGallons,InstallDate,LastMaintDate,AnodeReplaced,IncomingPSI,SetpointF,HardnessPPM,Latitude,Longitude
c-9001,"Orchard, Lena",12 Elm,Bramble,00021,GAS_TANK,50,45123,2025-04-30,2022-01-01T00:00:00Z,62,120,120,44.1,-112.2
c-9002,"Pruitt, Sam",14 Elm,Bramble,00021,ELEC_TANK,40,2019-00-00,20250401,,64,120,120,44.1001,-112.2001
c-9003,Quill LLC,99 Depot,Bramble,00021,TANKLESS_GAS,,2021-07-00,04/02/25,N/A,88,140,120,,
c-9005,"Sable, K",18 Elm,Bramble,00021,INDIRECT,40,unknown,#REF!,,62,#N/A,120,0,0
"""


def test_a_program_s_own_export_comes_in_with_its_places(people):
    run = matched(sent(people, RUN_TOGETHER))
    assert columns_of(run) == {
        "CustomerID": "account", "CustomerName": "customer", "ServiceAddress": "address", "City": "town",
        "ZIP": "postcode", "EquipmentType": "kind", "TankGallons": "size", "InstallDate": "installed",
        "LastMaintDate": "last_flush", "AnodeReplaced": "anode", "IncomingPSI": "pressure", "SetpointF": "setpoint",
        "HardnessPPM": "hardness", "Latitude": "latitude", "Longitude": "longitude",
    }  # fmt: skip
    assert unread(run) == []
    brought_in(run)
    heaters = [*Heater.objects.select_related("site").order_by("tag")]
    assert [one.installed_on and (one.installed_on.year, one.installed_on.month) for one in heaters] == [
        (2023, 7), (2019, 7), (2021, 7), None,
    ]  # fmt: skip
    assert [one.install_certainty for one in heaters] == ["known", "estimated", "known", "unknown"]
    assert [one.last_flush_year for one in heaters] == [2025, 2025, 2025, None]
    # 120 ppm, in a company that writes grains.
    assert {*WaterTest.objects.values_list("total_hardness_mg_l", flat=True)} == {120.0}
    places = [(one.site.latitude, one.site.longitude, one.site.located_by) for one in heaters]
    assert places == [(44.1, -112.2, ""), (44.1001, -112.2001, ""), (None, None, ""), (None, None, "")]


LANDLORD = """Property Ref;Address Line 1;Address Line 2;Town;Postcode;Tenant Name;Contact No;Appliance;Capacity (litres);Date Fitted;Last Service Date;Stat setting (°C);Exp vessel (litres);Water hardness mg/L
P0001;Flat 1;3 Harrow Lane;Dunmere;ZZ1 1AA;Mr A Pell;05555 550101;Unvented cylinder (direct electric);150;01/04/2016;12/05/2025;60;18;310
P0002;Flat 2;3 Harrow Lane;Dunmere;ZZ1 1AA;VOID;;Unvented cylinder (direct electric);150;01/04/2016;12/05/2025;65;18;310
P0003;7 Mill View;;Dunmere;ZZ1 2BB;Ms R Hollis;05555 550103;Vented cylinder (indirect);120;c.1998;;;0;
P0004;9 Mill View;;Dunmere;ZZ1 2BB;Mrs T Okoro;;Combi boiler;;11/2021;14/05/2025;;8;
P0006;Community Centre;Church Road;Dunmere;ZZ1 4DD;Parish Council;;Point of use 15L;15;2014;14/05/2024;60;0;310
"""


def test_a_landlord_s_flats_of_which_one_is_empty(people):
    run = matched(sent(people, LANDLORD))
    assert columns_of(run) == {
        "Property Ref": "account", "Address Line 1": "address", "Address Line 2": "apartment", "Town": "town",
        "Postcode": "postcode", "Tenant Name": "customer", "Contact No": "phone", "Appliance": "kind",
        "Capacity (litres)": "size", "Date Fitted": "installed", "Last Service Date": "last_flush",
        "Stat setting (°C)": "setpoint", "Exp vessel (litres)": "expansion_tank", "Water hardness mg/L": "hardness",
    }  # fmt: skip
    written = {one["name"]: one["written"] for one in run.columns}
    assert written["Water hardness mg/L"] == "mg/l", "a company that writes grains may not take this for grains"
    assert unread(run) == []
    brought_in(run)
    heaters = [*Heater.objects.select_related("site__customer").order_by("tag")]
    assert [one.kind for one in heaters] == [
        "electric_tank", "electric_tank", "indirect_tank", "gas_tankless", "electric_tank",
    ]  # fmt: skip
    names = [one.site.customer.name for one in heaters]
    assert names == ["Mr A Pell", "Flat 2, 3 Harrow Lane", "Ms R Hollis", "Mrs T Okoro", "Parish Council"]
    volumes = [[part.volume_l for part in one.parts.filter(kind="expansion_tank")] for one in heaters]
    assert volumes == [[18.0], [18.0], [], [8.0], []]
    assert heaters[2].install_certainty == "estimated" and heaters[2].installed_on.year == 1998


DUTCH = """Klantnr;Naam;Adres;Postcode;Plaats;Telefoon;Toestel;Inhoud;Bouwjaar;Hardheid (°dH);Laatste onderhoud;Anode;Opmerking
501;Fam. De Wilgen;Kerkstraat 8;9999 ZZ;Oudewerf;0555-550101;Elektrische boiler;80 L;2013;12;15-3-2023;vervangen 2019;hond
502;Bakkerij Haver;Markt 2;9999 ZZ;Oudewerf;0555-550102;Gasboiler;190;2016;12;nooit;;
503;J. Terpstra;Dijk 14;9999 ZY;Nieuwewerf;0555-550103;Doorstromer gas;;2020;12;11-2024;n.v.t.;
504;Camping De Es;Esweg 1;9999 ZX;Nieuwewerf;0555-550104;Warmtepompboiler;300;06-2021;onbekend;2025;magnesium;
"""
SPANISH = """Cliente,Dirección,Ciudad,C.P.,Teléfono,Tipo de calentador,Litros,Año de instalación,Dureza (mmol/L),Último servicio,Ánodo,Notas
Sra. Inés Robledo,12 Calle Olmo,Villaseca,00091,555-555-0111,Gas,150,2015,"2,1",marzo 2024,gastado,perro
Taller Moreno,3 Av. Central,Villaseca,00091,555-555-0112,Eléctrico,200,2018,"2,1",nunca,,
Fam. Quiroga,44 Calle Pino,Villaseca,00091,555-555-0113,De paso gas,,2021,"2,1",01/05/2025,no tiene,
"""


@pytest.mark.parametrize(
    ("text", "kinds", "flushed", "hardness"),
    [
        (DUTCH, ["electric_tank", "gas_tank", "gas_tankless", "heat_pump_tank"], [2023, None, 2024, 2025], 214),
        (SPANISH, ["gas_tank", "electric_tank", "gas_tankless"], [2024, None, 2025], 210),
    ],
)
def test_lists_in_two_more_tongues(people, text, kinds, flushed, hardness):
    company = Company.current()
    company.units, company.hardness_unit = "metric", "mg_l"
    company.save()
    run = matched(sent(people, text))
    given = [name for name, column in columns_of(run).items() if column == "note"]
    assert len(given) == 1, f"the remarks alone are notes, not {given}"
    assert unread(run) == []
    brought_in(run)
    heaters = [*Heater.objects.select_related("site").order_by("tag")]
    assert [one.kind for one in heaters] == kinds
    assert [one.last_flush_year for one in heaters] == flushed and heaters[1].flush_history == "never"
    assert all(one.site.street and one.site.town and one.site.postcode for one in heaters)
    assert {round(one) for one in WaterTest.objects.values_list("total_hardness_mg_l", flat=True)} == {hardness}


PARTS = """Monday route,,,,,
Name,Address,Heater,Yr,Last flushed,Notes
Ash,1 Fir St,G40,12,10/24,
Birch,2 Fir St,E50,2016,never,stairs
,,,,,
Tuesday route,,,,,
Name,Address,Heater,Yr,Last flushed,Notes
Cedar,3 Oak St,G50,19,5/25,
,,,,,
Totals,3 customers,,,,
"""


def test_a_header_that_stands_above_each_part_is_no_customer(people):
    brought_in(matched(sent(people, PARTS)))
    assert [*Heater.objects.order_by("tag").values_list("site__customer__name", flat=True)] == ["Ash", "Birch", "Cedar"]


VACANT = """HOA: Cedar Bluff Condominiums,,,,
Unit,Owner,Heater,Mfg date,Status
101,"Ferro, Lin",Elec 40,Week 23 2015,OK
102,vacant,Elec 40,1018,no access
"""


def test_an_empty_flat_is_not_its_neighbours(people):
    brought_in(matched(sent(people, VACANT)))
    owners = Heater.objects.order_by("tag").values_list("site__customer__name", "location")
    assert [*owners] == [("Lin Ferro", "Unit 101"), ("HOA: Cedar Bluff Condominiums", "Unit 102")]


@pytest.mark.parametrize("text", [LIST, SHORT, RUN_TOGETHER, LANDLORD, DUTCH])
def test_the_order_of_the_columns_tells_nothing(people, text):
    separator = ";" if text.count(";") > text.count(",") else ","
    rows = [*csv.reader(io.StringIO(text), delimiter=separator)]
    head = next(at for at, row in enumerate(rows) if sum(map(bool, row)) > 3)
    straight = columns_of(sent(people, text))
    order = [*range(len(rows[head]))]
    random.Random(7).shuffle(order)
    written = io.StringIO()
    csv.writer(written, delimiter=separator).writerows(
        [[row[at] for at in order] for row in rows[head:] if len(row) > 1]
    )
    assert columns_of(sent(people, written.getvalue())) == straight


def test_a_name_is_not_believed_where_its_cells_say_another_thing(people):
    told = "Customer,Account\nA-77,Ines Vale\nA-78,Cora Lund\nA-79,Bo Hale\n"
    told = "\n".join(f"{line},{more}" for line, more in zip(
        told.splitlines(), ("Street,Type,Size", "1 Elm,gas,50", "2 Elm,gas,40", "3 Elm,electric,50"), strict=True
    ))  # fmt: skip
    columns = columns_of(sent(people, told))
    assert columns["Street"] == "street" and columns["Type"] == "kind"
    assert columns["Customer"] == "account" and columns["Account"] == "customer"


EXPORTED = """contact_id,full_name,primary_phone,alt_phone,email_addr,addr_line1,addr_city,addr_region,addr_zip,geo_lat,geo_lng,asset_class,asset_desc,asset_capacity,asset_in_service_dt,asset_last_pm_dt,water_src,water_gpg,is_softened,psi_static,tstat_f,etank_gal,anode_type,anode_last_chg,notes_internal
771,Ames Hardware,5555550171,,info@example.com,5 Main St,Birchton,ZZ,00071,44.2,-112.5,WH-TANK,gas atmospheric,75,2013-05-01,2024-11-02,municipal,16,false,72,125,4.4,MG,2019-05-01,side door
772,Ruth Ames,5555550172,5555550173,,441 Coulee Rd,Birchton,ZZ,00071,44.21,-112.51,WH-TANKLESS,gas condensing,,2020-08-15,,well,28,true,55,120,,,,
"""


def test_what_two_columns_say_of_one_thing_is_put_together(people):
    run = matched(sent(people, EXPORTED))
    told = columns_of(run)
    assert {name for name, column in told.items() if column == "note"} == {"contact_id", "notes_internal"}
    assert (
        told["asset_class"] == told["asset_desc"] == "kind" and told["anode_type"] == told["anode_last_chg"] == "anode"
    )
    brought_in(run)
    tank, tankless = Heater.objects.select_related("site__zone").order_by("tag")
    assert (tank.kind, tankless.kind) == ("gas_tank", "condensing_tankless")
    rod = tank.parts.get(kind="anode")
    assert (rod.alloy, rod.fitted_on.isoformat()) == ("magnesium", "2019-05-01")
    assert round(tank.parts.get(kind="expansion_tank").volume_l, 1) == 16.7, "4.4 gal"
    assert (tank.site.state, tank.site.postcode, tank.site.latitude) == ("ZZ", "00071", 44.2)
    assert (tank.site.zone.supply, tankless.site.zone.supply, tankless.site.softened) == ("mains", "well", True)


FUEL_BESIDE = """Name,Address,Tank or tankless,Fuel,Yr
Ash,1 Fir St,Tank,Electric,2012
Birch,2 Fir St,Tankless,Electric,2016
Cedar,3 Fir St,Tank,Gas,2019
Dogwood,4 Fir St,Tankless,Gas,2019
Elder,5 Fir St,Tank,?,2019
"""


def test_type_and_fuel_make_a_kind_and_a_person_s_word_counts_before_both(people):
    run = sent(people, FUEL_BESIDE)
    assert [one["column"] for one in run.columns][2:4] == ["kind", "kind"]
    words = {word["said"]: word["means"] for one in run.columns[2:4] for word in one["words"]}
    assert words == {
        "tank": "unknown", "tankless": "gas_tankless", "electric": "electric_tank", "gas": "gas_tank", "?": "unknown",
    }  # fmt: skip
    for one in run.columns[3]["words"]:
        if one["said"] == "gas":
            # This office says gas of what stands beside a boiler.
            one["means"] = "indirect_tank"
    brought_in(matched(run))
    heaters = Heater.objects.order_by("tag")
    assert [one.kind for one in heaters[:4]] == ["electric_tank", "electric_tankless", "indirect_tank", "indirect_tank"]
    assert [one.kind_seen for one in heaters] == [True, True, True, True, False]


BY_HAND = """who,where,what,how old,water,last time,money owed
Marge Tibbet,"31 Sand Ln, Gullport","gas 40 in garage",11 yrs,city 9 gr,spring 2024,0
Tibbets' cabin,"end of Lake Rd, Gullport",elec 30,"new last yr",well,,0
St. Brendan's hall,"7 Church St, Gullport","2 gas 75s in basement",2009 and 2016,city,Oct 2025,$149
"Okoro, B.",33 Sand Ln Gullport,tankless (propane),'18,city 9 gr + softener,never,0
"""


def test_a_list_in_somebody_s_own_words(people):
    run = matched(sent(people, BY_HAND))
    assert [*columns_of(run).values()] == ["customer", "address", "kind", "installed", "well", "last_flush", "note"]
    assert unread(run) == []
    brought_in(run)
    heaters = Heater.objects.select_related("site").order_by("tag")
    this_year = datetime.date.today().year
    assert [one.installed_on.year for one in heaters] == [this_year - 11, this_year - 1, 2009, 2016, 2018]
    assert [round((one.capacity_l or 0) / 3.785) for one in heaters] == [40, 30, 75, 75, 0]
    assert [one.site.softened for one in heaters] == [False, False, False, False, True]


WITHOUT_A_NAME = """Kto,Kde,Druh,Rok
Jan Horak,12 Dolni,gas,2014
Eva Mala,14 Dolni,electric,2016
Petr Sykora,3 Horni,gas,2019
"""


def test_who_and_where_are_found_where_no_name_says_it(people):
    assert [*columns_of(sent(people, WITHOUT_A_NAME)).values()][:3] == ["customer", "address", "kind"]


def test_towns_with_all_that_stands_beside_them(people):
    told = 'Name,Address,City/ST/Zip,WH\nAsh,1 Fir St,"Seacove, ZZ 00031",gas\nBirch,2 Fir St,"Upper Seacove, ZZ 00032",gas\n'
    run = matched(sent(people, told))
    assert columns_of(run)["City/ST/Zip"] == "town"
    brought_in(run)
    sites = [(one.site.town, one.site.state, one.site.postcode) for one in Heater.objects.order_by("tag")]
    assert sites == [("Seacove", "ZZ", "00031"), ("Upper Seacove", "ZZ", "00032")]


def test_cells_without_an_end_are_looked_at_for_a_while_and_no_longer(people):
    story = "once upon a time, 12 heaters; " * 600
    rows = "".join(f'{number} Elm,"{story}",gas,"{story}"\n' for number in range(50))
    columns = columns_of(sent(people, f"Address,Owner,Type,What else\n{rows}"))
    assert columns == {"Address": "address", "Owner": "customer", "Type": "kind", "What else": "note"}


OWNERS = """Property Owner,Service Location,Wtr Htr 1 Mdl,Wtr Htr 1 Ser,Wtr Htr 1 Fuel,Wtr Htr 2 Mdl,Wtr Htr 2 Ser,Wtr Htr 2 Fuel,Thermostat Setting
"PELHAM, Gus & Ada","77 Mica St, Flintrock",G50,KK-1,NG,E40,KK-2,elec,Hot (B)
Flintrock Laundry,"2 Wharf St, Flintrock",C100,Q-7,NG comm'l,,,,140
"Quist, L.","12 Gorge Rd, Flintrock",TX-9,Z-3,LP tankless,,,,120
"""


def test_owners_and_where_the_work_is_are_told_apart(people):
    run = matched(sent(people, OWNERS))
    assert [*columns_of(run).values()] == [
        "customer", "address", "model", "serial", "kind", "model", "serial", "kind", "setpoint",
    ]  # fmt: skip
    assert unread(run) == []
    brought_in(run)
    first, second, *_ = Heater.objects.select_related("site__customer").order_by("tag")
    assert (first.site.customer.name, first.site.street) == ("Gus & Ada Pelham", "77 Mica St")
    assert (first.model, first.serial, first.control_setting) == ("G50", "KK-1", "Hot (B)")
    assert (second.model, second.serial, second.kind) == ("E40", "KK-2", "electric_tank")


def sent_book(people, **sheets):
    run = runs.start("list", "book.xlsx", workbook(**sheets), people["planner"])
    runs.check(run.pk)
    run.refresh_from_db()
    return matched(run)


def test_a_workbook_with_a_sheet_for_each_route_comes_in_whole(people):
    header = ["Name", "Address", "Heater", "Yr"]
    run = sent_book(
        people,
        Monday=[header, ["Ash", "1 Fir St", "gas 40", 2012], ["Birch", "2 Fir St", "electric 50", 2016]],
        Prices=[["What", "Costs", "For", ""], ["Flush", 149, "an hour", ""], ["Anode", 65, "", ""]],
        Tuesday=[header, ["Cedar", "3 Oak St", "gas 50", 2019]],
    )
    told = {row.number: row.detail["sheet"] for row in run.rows.order_by("number")}
    assert [*told.values()] == ["Monday, row 2", "Monday, row 3", "Tuesday, row 2"] and len(told) == 3
    brought_in(run)
    names = [*Heater.objects.order_by("tag").values_list("site__customer__name", flat=True)]
    assert names == ["Ash", "Birch", "Cedar"]


def test_a_sheet_of_another_year_is_not_read_beside_this_one(people):
    """The same people once more, one of them new: whoever wants that sheet chooses it."""
    same = [["Name", "Address", "Heater"], ["Ash", "1 Fir St", "gas 40"], ["Birch", "2 Fir St", "gas 50"]]
    new = [["Cedar", "3 Oak St", "gas 50"], ["Elder", "4 Oak St", "gas 40"]]
    run = sent_book(people, **{"2026": [*same, *new], "2025": same})
    assert run.counts == {"create": 4} and not any("sheet" in row.detail for row in run.rows.all())


@pytest.mark.parametrize(
    ("text", "means"),
    [("gas 40 in the distant corner", "gas_tank"), ("electric, combination unit", "electric_tank"),
     ("Scaldabagno istantaneo gas", "gas_tankless"), ("combi boiler", "gas_tankless")],
)  # fmt: skip
def test_a_piece_of_another_word_makes_no_heater_tankless(text, means):
    assert kind(text).kind == means


def test_a_month_without_a_year_is_not_never():
    with pytest.raises(BadCell):
        day("Mai", datetime.date(2026, 12, 1), day_first=True)
    with pytest.raises(BadCell):
        rod("OP", datetime.date(2026, 12, 1), True, "mm")

"""Lists that were made up by another hand than the readers: from elsewhere, in one cell, without a header."""

import datetime

import pytest

from aquifer.company.models import Company
from aquifer.customers.models import Customer, Site
from aquifer.heaters.models import Heater, Part
from aquifer.imports.origin import NOBODY
from aquifer.imports.records import created
from aquifer.visits.models import Visit
from aquifer.water.models import WaterTest
from tests.imports.test_office_list import brought_in, matched, sent, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")

ABROAD = """Harbourne Heating - asset register,,,,,,,,,,
Nr,Client,Addr 1,Addr 2,Town,Post Code,Tel,Cylinder type,Cap (L),Comm. date,TPRV changed,PRV set (bar),Store temp
1,Mrs J Pellow,The Old Forge,Chapel Row,Trenwick,TW4 1AB,01555 550101,Unvented indirect,210,14/03/2016,14/03/2021,3,60
2,Dr A. Kestle,Flat 3,22 Harbour Parade,Trenwick,TW4 2CD,01555 550102 / 07700 555012,Elec,150,pre 2000,n/a,3.5,62C
3,St Orla's School,,School Lane,Trenwick,TW5 9ZZ,,Tankless gas x 3,,11-2021,,,65
"""


def test_a_list_of_cylinders_from_another_country(people):
    company = Company.current()
    company.units, company.hardness_unit = "metric", "mg_l"
    company.save()
    run = matched(sent(people, ABROAD))
    guessed = {one["name"]: (one["column"], one["written"]) for one in run.columns}
    assert {one["heater"] for one in run.columns} == {1}, "a second line of an address is no second heater's"
    assert guessed["Nr"] == ("", "") and guessed["Post Code"] == ("postcode", "")
    assert guessed["PRV set (bar)"] == ("pressure", "bar") and guessed["Store temp"] == ("setpoint", "")
    assert not any(name.startswith("not understood") for row in run.rows.all() for name in row.detail)
    assert [row.detail.get("relief valve") for row in run.rows.all()] == ["2021-03-14", None, None]
    brought_in(run)
    heaters = [*Heater.objects.select_related("site__customer").order_by("tag")]
    assert [one.kind for one in heaters] == ["indirect_tank", "electric_tank", *["gas_tankless"] * 3]
    assert [one.site.street for one in heaters[:3]] == [
        "The Old Forge, Chapel Row",
        "Flat 3, 22 Harbour Parade",
        "School Lane",
    ]
    assert [one.site.postcode for one in heaters[:3]] == ["TW4 1AB", "TW4 2CD", "TW5 9ZZ"]
    assert [one.site.static_pressure_kpa for one in heaters[:3]] == [300.0, 350.0, None]
    kestle = heaters[1].site.customer
    assert (kestle.phone, kestle.second_phone) == ("01555 550102", "07700 555012")
    assert (heaters[1].installed_on.year, heaters[1].install_certainty, heaters[1].install_margin_years) == (
        1996,
        "estimated",
        3.0,
    )
    valves = Part.objects.filter(kind="relief_valve").order_by("heater__tag").values_list("fitted_on", flat=True)
    assert [*valves] == [datetime.date(2021, 3, 14), None, None, None, None]


ALL_IN_ONE = """Customer,What they have,Grains,Last svc
"Halloran, 12 Bogmire Ln, Dunmore",50 gal gas 2014,WELL 32,annual
"Pia Underhay, 4 Slate St, Dunmore - 555-0114",tankless (gas) 2019,18,2023
"Dunmore Laundry, 88 Mill Rd","2 - 100 gal gas, 2017; 1 - 40 gal elec 2020",18,
"Brook Inn, 9 Mill Rd","gas 75, gas 75",18,4/23
"Holt, Una",nat gas and power vent,18,
"Motel 6, 100 Main St",3-phase electric 80 gal,18,
Hansen-Ortiz - 7 Weir St,3 x gas 75 gal,18,
"""


def test_names_with_addresses_and_cells_of_several_heaters(people):
    run = brought_in(matched(sent(people, ALL_IN_ONE)))
    assert run.counts["create"] == 7
    found = {}
    for heater in Heater.objects.select_related("site__customer").order_by("tag"):
        size = None if heater.capacity_l is None else round(heater.capacity_l / 3.785)
        of = (heater.site.customer.name, heater.site.street)
        found.setdefault(of, []).append((heater.kind, size, heater.installed_on and heater.installed_on.year))
    assert found == {
        ("Halloran", "12 Bogmire Ln"): [("gas_tank", 50, 2014)],
        ("Pia Underhay", "4 Slate St"): [("gas_tankless", None, 2019)],
        ("Dunmore Laundry", "88 Mill Rd"): [("gas_tank", 100, 2017)] * 2 + [("electric_tank", 40, 2020)],
        ("Brook Inn", "9 Mill Rd"): [("gas_tank", 75, None)] * 2,
        ("Una Holt", ""): [("gas_tank", None, None)],
        ("Motel 6", "100 Main St"): [("electric_tank", 80, None)],
        ("Hansen-Ortiz", "7 Weir St"): [("gas_tank", 75, None)] * 3,
    }
    assert Customer.objects.get(name="Pia Underhay").phone == "555-0114"
    halloran = Heater.objects.get(site__street="12 Bogmire Ln")
    assert halloran.site.zone.supply == "well" and halloran.site.town == "Dunmore"
    years = [*Heater.objects.filter(site__street="9 Mill Rd").values_list("last_flush_year", flat=True)]
    assert years == [2023, 2023] and halloran.flush_history == "about"
    assert halloran.last_flush_year in (datetime.date.today().year, datetime.date.today().year - 1)


ONE_CELL_EACH = """NAME / ADDRESS,PHONE,HEATER,INST.,FLUSH,ROD
"Ruth Ames
441 Coulee Rd
Birchton",none,50 gal NG,6-2017,'24,'22
"Vern's Diner
2 Main St",555 0145 / 555 0146,"75 NG
75 NG",2013 / 2018,each spring,
"""


def test_cells_of_several_lines(people):
    run = brought_in(matched(sent(people, ONE_CELL_EACH)))
    assert not any(name.startswith("not understood") for row in run.rows.all() for name in row.detail)
    ames, first, second = Heater.objects.select_related("site__customer").order_by("tag")
    assert (ames.site.customer.name, ames.site.street, ames.site.town) == ("Ruth Ames", "441 Coulee Rd", "Birchton")
    assert ames.parts.get(kind="anode").fitted_on.year == 2022 and ames.last_flush_year == 2024
    assert (first.site.customer.name, first.site.street) == ("Vern's Diner", "2 Main St")
    assert (first.installed_on.year, second.installed_on.year) == (2013, 2018)
    assert second.site_id == first.site_id and second.last_flush_year == first.last_flush_year


WITHOUT_NAMES = """Brigid Hale,12 Tern St,Gullport,00081,555-555-0161,gas,50,2014,2023-04-05
Cormac Dunn,14 Tern St,Gullport,00081,555-555-0162,electric,40,2020,
Hale Marine,2 Dock Rd,Gullport,00081,555-555-0163,gas,100,2009,2021-11-01
"""


def test_a_list_without_a_header_loses_no_row(people):
    run = sent(people, WITHOUT_NAMES)
    assert [one["column"] for one in run.columns] == [
        "customer", "address", "town", "postcode", "phone", "kind", "size", "installed", "last_flush",
    ]  # fmt: skip
    run = brought_in(matched(run))
    assert [row.number for row in run.rows.all()] == [1, 2, 3]
    assert sorted(Customer.objects.values_list("name", flat=True)) == ["Brigid Hale", "Cormac Dunn", "Hale Marine"]


UNITS_TOLD = """Client;Adresse;Code postal;Ville;Type d'appareil;Capacité (L);Année;Dureté (°f);Dernier entretien;Note
M. Aurèle Vauquelin;12 rue du Moulin;99110;Brévanne;Chauffe-eau électrique;200;2014;32;03/05/2023;chien
Boulangerie Sorbier;3 place du Marché;99110;Brévanne;Chauffe-eau gaz instantané;;2019;32;jamais;
Mme Odile Fauchon;8 chemin Vert;99120;Lusigny;Chauffe-eau thermodynamique;270;avant 2005;18;inconnu;
"""


def test_a_list_in_another_language_and_its_degrees(people):
    run = sent(people, UNITS_TOLD)
    guessed = {one["name"]: (one["column"], one["written"]) for one in run.columns}
    assert guessed["Dureté (°f)"] == ("hardness", "°fh") and guessed["Ville"] == ("town", "")
    brought_in(matched(run))
    heaters = [*Heater.objects.order_by("tag")]
    assert [one.kind for one in heaters] == ["electric_tank", "gas_tankless", "heat_pump_tank"]
    assert [one.flush_history for one in heaters] == ["about", "never", "unknown"]
    assert heaters[0].last_flush_year == 2023 and heaters[2].installed_on.year == 2001
    hardness = sorted(WaterTest.objects.values_list("total_hardness_mg_l", flat=True))
    assert hardness == pytest.approx([180.0, 320.0, 320.0], rel=0.01)


PARTS_TOLD = """Customer Name,Contact Phone,Property Address,Property City,Unit (make/model/serial),Unit 1 fuel,Gal
"Whitlock, Bea",555.555.0123 x12,9 Fern Ct,Oakham,Ostrand G50 / sn 7788,Natural Gas,50
Nils Prior,none,"12 Fern Ct, Unit B",Oakham,Kelmarsh HX-40,Tankless NG,
"""


def test_a_serial_number_and_a_flat_are_where_they_belong(people):
    run = brought_in(matched(sent(people, PARTS_TOLD)))
    assert not any(name.startswith("not understood") for row in run.rows.all() for name in row.detail)
    bea, nils = Heater.objects.select_related("site").order_by("tag")
    assert (bea.maker, bea.model, bea.serial) == ("Ostrand", "G50", "7788") and "x12" in bea.note
    assert (nils.maker, nils.model, nils.serial) == ("Kelmarsh", "HX-40", "")
    assert (nils.site.street, nils.site.town) == ("12 Fern Ct, Unit B", "Oakham")


HEATERS = """Customer,Address,Town,Type,Size,Installed
Ruth Ames,441 Coulee Rd,Birchton,gas,50,2017
Vern's Diner,2 Main St,Birchton,gas,75,2013
Vern's Diner,2 Main St,Birchton,tankless,,2019
Odell Fisk,17 Elm Ct,Birchton,hpwh,80,2022
"""
NUMBERED = """Job #,Date,Customer,Address,Tech,Work performed,Parts used,Hours,Findings
J-1001,3/4/2024,Ruth Ames,441 Coulee Rd,Dale P.,Descaled,,1.5,"2 l scale, anode 1/2 gone"
J-1002,3/18/2024,Vern's Diner,2 Main St,Dale P.,"Descaled w/ vinegar, flow 3.1 -> 5.6 gpm",vinegar,2,1 l scale
J-1003,4/2/2024,Odell Fisk,17 Elm Ct,Sam,T&P leaking,T&P 150#,1,
"""
NAMELESS = """2023-02-11,ames,fl+anode chk,"2in bed, anode 1/2 gone",DP
2023-02-11,verns diner tankless,descale,"E5 err, cleaned",DP
2023-03-15,fisk,T/P repl,new valve,SM
2023-03-16,Vern's Diner,descale,flow 4 -> 5 gpm,SM
"""


def found(visit):
    return [(one.task, one.removed_l, one.grade) for one in visit.findings.order_by("sequence")]


def test_a_number_of_the_job_is_not_what_was_done_and_findings_beside_it_are(people):
    brought_in(matched(sent(people, HEATERS)))
    run = sent(people, NUMBERED, "jobs")
    assert [one["column"] for one in run.columns] == [
        "note", "on", "customer", "address", "technician", "done", "parts", "note", "done",
    ]  # fmt: skip
    brought_in(matched(run))
    ames, diner, fisk = Visit.objects.order_by("on")
    # A tank out of which the scale was taken was flushed; of an exchanger nobody measures that in litres.
    assert found(ames) == [("flush", 2.0, ""), ("anode_inspection", None, "half")]
    assert found(diner) == [("descale", None, "")] and diner.heater.kind == "gas_tankless"
    assert [task for task, *_ in found(fisk)] == ["relief_valve_exercise", "relief_valve_replacement"]
    assert "J-1001" in ames.note and ames.technician == "Dale P."


def test_a_tankless_that_is_not_on_record_is_no_flush_of_the_tank(people):
    brought_in(matched(sent(people, HEATERS)))
    book = "Date,Customer,Address,Work\n2024-03-04,Ruth Ames,441 Coulee Rd,Descaled tankless\n"
    book += '2024-03-05,Ruth Ames,441 Coulee Rd,"descaled, flow 3.1 -> 5.6 gpm"\n'
    brought_in(matched(sent(people, book, "jobs")))
    assert [task for visit in Visit.objects.all() for task, *_ in found(visit)] == ["descale", "descale"]


def test_a_book_without_names_and_addresses_is_read_by_what_stands_in_it(people):
    brought_in(matched(sent(people, HEATERS)))
    run = sent(people, NAMELESS, "jobs")
    assert [one["column"] for one in run.columns] == ["on", "customer", "done", "done", "note"]
    brought_in(matched(run))
    told = {row.number: row.detail for row in run.rows.all()}
    # The last name is enough where one house alone has it.
    assert told[1]["understood"] == "anode inspection: half" and told[3]["understood"] == "relief valve replacement"
    assert told[2]["left out"] == "no such customer at this address is on record"
    assert Visit.objects.get(on="2023-03-16").heater.kind == "gas_tankless"
    second = "Name,Address,Type\nAnn Ames,3 Oak St,gas\n"
    brought_in(matched(sent(people, second)))
    again = sent(people, NAMELESS.replace("2023-02-11", "2023-02-12"), "jobs")
    assert again.rows.get(number=1).detail["left out"] == ("there are 2 houses of that name, and it does not say which")


EXPORTED = """Export 11/30/2026 08:14 AM,,,,,,,,
"Name","Company","Address 1","Address 2","Equipment","Install Date","Warranty Exp","Next Job","Balance"
"Ames, Ruth","","441 Coulee Rd","","Water Heater - Gas - 50 Gal","06/01/2017 12:00:00 AM","06/01/2023","09/12/2026","0"
"","Vern's Diner LLC","2 Main St","Rear door","Water Heater - Tankless - Gas","2019-05-05T00:00:00Z","","","149.00"
"Fisk, Odell","Fisk Rentals","17 Elm Ct","","Water Heater - Heat Pump - 80 Gal","","","",""
"""


def test_what_another_program_took_out_is_read(people):
    run = sent(people, EXPORTED)
    guessed = {one["name"]: one["column"] for one in run.columns}
    assert (guessed["Company"], guessed["Warranty Exp"], guessed["Next Job"]) == ("company", "note", "note")
    brought_in(matched(run))
    ames, diner, fisk = Heater.objects.select_related("site__customer").order_by("tag")
    assert [one.site.customer.name for one in (ames, diner, fisk)] == ["Ruth Ames", "Vern's Diner LLC", "Odell Fisk"]
    assert (ames.installed_on, diner.installed_on) == (datetime.date(2017, 6, 1), datetime.date(2019, 5, 5))
    assert diner.kind == "gas_tankless" and fisk.note == "Fisk Rentals" and not ames.parts.filter(kind="expansion_tank")


YEARS = """Customer,Street,Heater,Yr,Flush 2022,Flush 2023,Flush 2024,Flush 2025,TPR
Ames Ruth,441 Coulee Rd,NG50,17,x,x,,x,ok
Vern's Diner,2 Main St,NG75,13,,x,5/2024,,2021
Loos H.,9 Elm Ct,E40 lowboy,99,,,,,
"""


def test_a_column_for_each_year_tells_the_last_in_which_it_was_flushed(people):
    run = sent(people, YEARS)
    assert [one["column"] for one in run.columns][4:8] == ["last_flush"] * 4
    brought_in(matched(run))
    heaters = Heater.objects.order_by("tag")
    told = [(one.last_flush_year, one.flush_history, round(one.capacity_l / 3.785)) for one in heaters]
    assert told == [(2025, "about", 50), (2024, "about", 75), (None, "unknown", 40)]


GERMAN = """Kundennr.;Name;Vorname;Straße;Hausnr.;PLZ;Ort;Gerät;Hersteller;Typ;Fabr.-Nr.;Inbetriebnahme;Wartung
10001;Brunkamp;Greta;Am Weiher;27 a;01234;Kesselau;Elektro-Standspeicher 80 l;Thornfell;TS 80;4711;05/2014;11.2023
10002;Imsdal;;Mühlgasse;3;01234;Kesselau;Gas-Durchlauferhitzer;Kelmarsh;HX;4712;2018;nie
"""


def test_a_reducing_valve_is_no_relief_valve(people):
    run = sent(people, "Name,Address,Type,PRV changed,T&P changed\nRuth Ames,4 Oak St,gas,2019,2021\n")
    guessed = {one["name"]: one["column"] for one in run.columns}
    assert guessed["PRV changed"] != "relief_valve" and guessed["T&P changed"] == "relief_valve"
    brought_in(matched(run))
    assert Part.objects.get(kind="relief_valve").fitted_on.year == 2021


def test_a_number_of_a_customer_is_not_the_customer(people):
    run = sent(people, GERMAN)
    assert [one["column"] for one in run.columns] == [
        "account", "customer", "first_name", "street", "house_number", "postcode", "town", "kind", "make", "model",
        "serial", "installed", "last_flush",
    ]  # fmt: skip
    brought_in(matched(run))
    greta, imsdal = Heater.objects.select_related("site__customer").order_by("tag")
    assert (greta.site.customer.code, greta.site.customer.name) == ("10001", "Greta Brunkamp")
    assert greta.site.street == "Am Weiher 27 a" and (greta.model, greta.serial) == ("TS 80", "4711")
    assert (greta.installed_on.year, imsdal.flush_history, imsdal.kind) == (2014, "never", "gas_tankless")


def test_what_a_column_of_waters_says(people):
    """A well, the mains, and what is said of a softener beside them."""
    said = {
        "well": (True, None), "city": (False, None), "well, softened": (True, True), "yes": (True, None),
        "soft city water": (False, True), "unsoftened well": (True, None), "not softened, municipal": (False, None),
    }  # fmt: skip
    rows = "".join(f'C{n},{n} Oak St,gas,"{text}"\n' for n, text in enumerate(said, start=1))
    brought_in(matched(sent(people, f"Customer,Address,Type,Well?\n{rows}")))
    sites = Site.objects.select_related("zone").order_by("pk")
    told = [(site.zone.supply == "well", site.softened or None) for site in sites]
    assert told == list(said.values())


def test_nothing_is_made_of_no_records(people):
    assert created(Site, [], NOBODY) == [] and not Site.objects.exists()


ONE_HOUSE = """Cedar Bluff Condominiums - water heaters,,,,
Unit #,Heater location,Heater,Date of mfr.,Comments
101,closet,Elec 40,08/2012,slow leak
103,closet,?,?,tenant has dog
201,attic,Elec 30,2019,
"""


def test_a_list_of_one_house_says_above_its_columns_whose_it_is(people):
    run = brought_in(matched(sent(people, ONE_HOUSE)))
    assert run.counts["create"] == 3 and Customer.objects.get().name == "Cedar Bluff Condominiums"
    told = [(one.location, one.kind_seen, one.installed_on) for one in Heater.objects.order_by("tag")]
    assert [where for where, *_ in told] == ["Unit # 101, closet", "Unit # 103, closet", "Unit # 201, attic"]
    assert [seen for _, seen, _ in told] == [True, False, True] and told[0][2].year == 2012 and told[1][2] is None
    # Where somebody is named, a title is a title.
    named = (
        ONE_HOUSE.replace("Comments", "Owner").replace("slow leak", "Lin Ferro").replace("tenant has dog", "Bei Tso")
    )
    brought_in(matched(sent(people, named)))
    assert Customer.objects.filter(name="Lin Ferro").exists()


MANY = """PROPERTY,"Street address, city",HEATERS,GAL EA,FUEL,INSTALLED,LAST MAINT
Riverbend Apts,"400 River Rd, Birchton",3,100,gas,2015/2018/2021,10/2025
Elm Court,"9-15 Elm Ct; Birchton",2,40,elec,various 2008-2019,monthly
Quarry Hotel,"1 Quarry Sq, Birchton",2,119,gas,6/2018,4/23
"""
DETAILS = """Customer,Address,Water heater details
Ines Varga,22 Tern Way,"Gas 50 gal Ostrand, 2016, T&P 2021, anode '20, flushed 2024"
Ada Prior,24 Tern Way,Electric - 2 x 40 - 2011
"""


def test_as_many_years_as_heaters_are_one_each(people):
    brought_in(matched(sent(people, MANY)))
    told = {}
    for one in Heater.objects.select_related("site").order_by("tag"):
        told.setdefault((one.site.street, one.site.town), []).append((one.installed_on.year, one.install_margin_years))
    assert told == {
        ("400 River Rd", "Birchton"): [(2015, 0.5), (2018, 0.5), (2021, 0.5)],
        ("9-15 Elm Ct", "Birchton"): [(2013, 6.0)] * 2,
        ("1 Quarry Sq", "Birchton"): [(2018, None)] * 2,
    }
    hotels = Heater.objects.filter(site__street="1 Quarry Sq")
    assert [(one.installed_on.month, one.last_flush_year) for one in hotels] == [(6, 2023)] * 2, "a stroke of a day"
    assert {(one.kind, round(one.capacity_l / 3.785)) for one in Heater.objects.all()} == {
        ("gas_tank", 100), ("electric_tank", 40), ("gas_tank", 119),
    }  # fmt: skip
    assert Heater.objects.filter(last_flush_year=2025, site__street="400 River Rd").count() == 3


def test_of_several_years_none_is_lost_that_cannot_be_so(people):
    text = 'Customer,Address,Type,Installed,Last flush\nBrook Inn,9 Mill Rd,"gas 75, gas 40",2012 / 2099,2021 / 2024\n'
    run = brought_in(matched(sent(people, text)))
    first, second = Heater.objects.order_by("tag")
    assert (first.installed_on.year, second.installed_on) == (2012, None) and "2099" in second.note
    assert run.rows.get().detail["not understood: Installed"].endswith("lies ahead")
    assert (first.last_flush_year, second.last_flush_year) == (2021, 2024)


def test_what_was_done_to_a_heater_is_read_beside_its_kind(people):
    brought_in(matched(sent(people, DETAILS)))
    ines, *adas = Heater.objects.order_by("tag")
    assert (ines.installed_on.year, ines.last_flush_year) == (2016, 2024)
    assert ines.parts.get(kind="relief_valve").fitted_on.year == 2021
    assert ines.parts.get(kind="anode").fitted_on.year == 2020 and "Ostrand" in ines.note
    assert [(one.kind, one.installed_on.year, round(one.capacity_l / 3.785)) for one in adas] == [
        ("electric_tank", 2011, 40)
    ] * 2

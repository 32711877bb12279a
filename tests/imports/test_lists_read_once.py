"""Lists and books of further invented offices, each written down before it was tried: what came of it is asserted as a
planner would read it."""

import pytest

from aquifer.company.models import Company
from aquifer.heaters.models import Heater, Part, PartKind
from aquifer.imports.models import RowAction
from aquifer.visits.models import Visit
from tests.imports.test_office_list import brought_in, matched, sent, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")


def read(people, text: str, kind: str = "list"):
    """The run as checked, and its rows' details by their numbers."""
    run = matched(sent(people, text, kind))
    return run, {row.number: row.detail for row in run.rows.all()}


FROM_AFAR = """Ref,Surname,Forename,Premises,Suburb,P/code,Tel (home),Tel (mob),HWS,Litres,Date fitted,Last svc / by
GB-1,Okafor,Ada,7/22 Banksia Crescent,Northmere,3871,(03) 5550 1122,0455 501 122,Elec storage,250,Mar-2015,12.08.25 / JT
GB-2,Lindqvist,Per & Mia,103 Weir Road,Northmere,3871,,0455 501 199,Gas storage ext.,135,2019?,14.02.26 JT
GB-3,Papadimos,Nikos,Lot 4 Ridge Track,Nether Ridge,3874,n/a,0455 501 777,Solar w/ elec boost,315,2017,MK 03.10.24
GB-4,Roa,Pia,Lot 9 Ridge Track,Nether Ridge,3874,,,Solar,315,2017,KW 12/2024
"""


def test_a_day_with_who_came_on_it_is_a_day(people):
    run, told = read(people, FROM_AFAR)
    assert [told[row]["last flush"] for row in (2, 3, 4, 5)] == ["2025", "2026", "2024", "2024"]
    assert not any(name.startswith("not understood") for detail in told.values() for name in detail)
    brought_in(run)
    names = set(Heater.objects.values_list("site__customer__name", flat=True))
    assert names == {"Ada Okafor", "Per & Mia Lindqvist", "Nikos Papadimos", "Pia Roa"}
    # What has an element to be switched off is electric, and what the sun alone heats is not.
    assert dict(Heater.objects.values_list("site__customer__name", "kind")) == {
        "Ada Okafor": "electric_tank", "Per & Mia Lindqvist": "gas_tank", "Nikos Papadimos": "electric_tank",
        "Pia Roa": "indirect_tank",
    }  # fmt: skip


OF_A_LANDLORD = """Property;Unit;Tenant;Water heater;Serial;Mfg date;Flushed;T&P tested;Anode;Comments
Larch Court, 210 Larch Ave, Dunmere;1A;R. Soto;E 40 gal lowboy;M12A98;04/2012;5/2024 KB;5/2024 ok;ok;closet
Larch Court, 210 Larch Ave, Dunmere;1B;vacant;E 40 gal lowboy;M12A01;04/2012;5/2024 by Kit;;gone - replaced 5/24;
Alder House, 9 Mill Rd, Dunmere;;Ines Poe;Tankless NG;;2021;desc. 11/25;;n/a;rack system
"""


def test_a_valve_that_was_tested_is_not_as_new_as_its_test(people):
    run, told = read(people, OF_A_LANDLORD)
    assert all("relief valve" not in detail for detail in told.values())
    assert "T&P tested: 5/2024 ok" in told[2]["note"]
    assert [told[row]["last flush"] for row in (2, 3, 4)] == ["2024", "2024", "2025"]
    brought_in(run)
    fitted = {part.fitted_on for heater in Heater.objects.filter(serial="M12A01") for part in heater.parts.all()}
    assert [(on.year, on.month) for on in fitted if on and on.year > 2012] == [(2024, 5)]


IN_FRENCH = """N°;Nom du client;Adresse;CP;Commune;Appareil;Contenance;Année;TH (°f);Dernier détartrage;Groupe sécurité
1;Mme Delorme Agnès;12 bis, rue des Tanneurs;04120;Vaubelle;Chauffe-eau électrique;200 L;2014;32;mars 2023;OK
2;SCI Les Aulnes;4 place du Marché;04120;Vaubelle;Ballon gaz;150;2009;32;jamais;goutte
3;M. et Mme Ruiz;Lieu-dit La Combe;04125;Saint-Orens;Chauffe-bain gaz instantané;;2018;18,5;11/2025;2019
"""


def test_a_hardness_is_no_temperature_and_a_number_no_street(people):
    run, told = read(people, IN_FRENCH)
    assert told[2]["hardness"] == told[3]["hardness"] == "18.7 gpg" and told[4]["hardness"] == "10.8 gpg"
    assert not any("set at" in detail for detail in told.values())
    # Who writes L at one tank means it at the next.
    assert (told[2]["heater"], told[3]["heater"]) == ("electric tank 53 gal", "gas tank 40 gal")
    assert [told[row]["last flush"] for row in (2, 3, 4)] == ["2023", "never", "2025"]
    assert told[4]["relief valve"] == "about 2019"
    brought_in(run)
    assert set(Heater.objects.values_list("site__street", "site__town")) == {
        ("12 bis rue des Tanneurs", "Vaubelle"), ("4 place du Marché", "Vaubelle"),
        ("Lieu-dit La Combe", "Saint-Orens"),
    }  # fmt: skip


IN_DUTCH = """Naam;Voornaam;Straat + nr;PC;Woonplaats;Toestel;Inhoud (l);Plaatsingsdatum;Laatste beurt;Inlaatcombinatie
de Wit;Jan;Kerkstraat 12;4321 AB;Oosterveld;elektrische boiler;80;15-03-2016;14-11-2025;2016
Berg-Smit;M.;Dorpsweg 3a;4321 AC;Oosterveld;gasgeiser;;2012;nooit;nvt
Bakkerij Molenaar;;Markt 1;4322 BB;Westerhoek;warmtepompboiler;250;juni 2022;;vernieuwd 2022
Hoekstra;S.;Lange Laan 77;4322 BD;Westerhoek;close-in boiler 10L;10;2019;;
"""
IN_SPANISH = """Cliente,Dirección,Colonia,CP,Equipo,Litros,Año,Dureza (ppm),Último mantto.,Varilla
Sra. Elvira Campos,Calle Olmo #14,Las Lomas,00310,Boiler de depósito gas LP,75,2018,320,ene-2025,gastada
Lavandería Tres Ríos,Av. del Puente 200 Int. B,Centro,00300,Calentador de paso gas nat.,,2021,,03/06/2026,n/a
Ing. Pablo Roa,Priv. Sauce 3-A,Las Lomas,00310,Solar c/ resistencia,150,nuevo 2025,,,
"""


@pytest.mark.parametrize(
    ("text", "kinds", "put_in", "flushed"),
    [
        (
            IN_DUTCH,
            ["electric tank 21 gal", "gas tankless", "heat pump tank 66 gal", "electric tank 3 gal"],
            ["2016-03-15", "about 2012", "2022-06-15", "about 2019"],
            ["2025", "never", "unknown", "unknown"],
        ),
        (
            IN_SPANISH,
            ["gas tank 20 gal", "gas tankless", "electric tank 40 gal"],
            ["about 2018", "about 2021", "about 2025"],
            ["2025", "2026", "unknown"],
        ),
    ],
)
def test_further_tongues_are_understood(people, text, kinds, put_in, flushed):
    run, told = read(people, text)
    assert [told[row]["heater"] for row in sorted(told)] == kinds
    assert [told[row]["put in"] for row in sorted(told)] == put_in
    assert [told[row]["last flush"] for row in sorted(told)] == flushed
    assert not any(name.startswith("not understood") for detail in told.values() for name in detail)
    brought_in(run)
    assert not Heater.objects.filter(site__town="").exists()


OF_A_ROUTE = """Stop,Acct Name,Svc Addr,Contact,Unit Desc,Qty,Mfr,Ser No,Instld,Last Svc
1,Pine Inn,"1 Pine Way, Sable Falls",Marta (desk) 555-0180,"100 gal NG, PV",3,Bray,"22-7, 22-8, 22-9",Q3 2022,9/15/2026
2,Dr. Yun Dental,"14 Center St, Sable Falls 00431",555-0125,20g elec under sink + 40g elec closet,2,,,,
3,Hobbs Rental,"RFD 3, Sable Falls 00433",555-0126,30g el,1,,,2020 or 2021,'24
"""


def test_what_is_counted_is_there_once_each_with_its_own_number(people):
    run, told = read(people, OF_A_ROUTE)
    assert told[4]["put in"] == "about 2020"
    brought_in(run)
    of = {}
    for heater in Heater.objects.select_related("site__customer").order_by("pk"):
        of.setdefault(heater.site.customer.name, []).append((round((heater.capacity_l or 0) / 3.785), heater.serial))
    assert of == {
        "Pine Inn": [(100, "22-7"), (100, "22-8"), (100, "22-9")],
        "Dr. Yun Dental": [(20, ""), (40, "")],
        "Hobbs Rental": [(30, "")],
    }
    assert Heater.objects.filter(serial="22-7").get().site.customer.phone == "555-0180"


OF_AN_ESTATE = """Building/Tenant,WH Location,Brand/Model/Serial,Fuel,Cap.,Yr,Flush Log,Anode Chk,Relief Test
"OAKMERE COMMONS - 500 Oakmere Blvd, Tilden 00701",,,,,,,,
Bldg A - Mech rm,basement,Ostrand / OT-75 / 19A213,Gas,75,'19,"4/20, 5/21, 6/22, missed 23, 5/24",9/22 replaced,5/24
Bldg B - Mech rm,basement,Ostrand / OT-75 / 19A214,Gas,75,'19,"4/20, 5/21, 6/22",9/22 ok,5/24 - weeping
Pool house,closet,Kelmarsh / HX-180 / ?,Propane tankless,n/a,2023,11/24 descale,n/a,11/24
"FERN COURT - 12 Fern Ct, Tilden 00701",,,,,,,,
Boiler rm,,,Gas,100,2015,none,,
"""


def test_whose_the_rows_below_it_are_stands_in_a_heading(people):
    run, told = read(people, OF_AN_ESTATE)
    assert [row.number for row in run.rows.all() if row.action == RowAction.LEFT_OUT] == [2, 6]
    assert told[2]["left out"] == "a heading: whose the rows below it are"
    assert [told[row]["last flush"] for row in (3, 4, 5, 7)] == ["2024", "2022", "2024", "never"]
    brought_in(run)
    found = Heater.objects.order_by("pk").values_list(
        "site__customer__name", "site__street", "location", "maker", "model", "serial"
    )
    assert list(found) == [
        ("Oakmere Commons", "500 Oakmere Blvd", "Bldg A - Mech rm, basement", "Ostrand", "OT-75", "19A213"),
        ("Oakmere Commons", "500 Oakmere Blvd", "Bldg B - Mech rm, basement", "Ostrand", "OT-75", "19A214"),
        ("Oakmere Commons", "500 Oakmere Blvd", "Pool house, closet", "Kelmarsh", "HX-180", ""),
        ("Fern Court", "12 Fern Ct", "Boiler rm", "", "", ""),
    ]


def test_who_is_billed_is_the_customer_and_the_number_of_a_job_is_no_heater(people):
    text = "Billing Name,Billing Address,Service Address,Heater\nPine Inn,PO Box 1,1 Pine Way,2 x 50 gas\n"
    brought_in(read(people, text)[0])
    assert set(Heater.objects.values_list("site__customer__name", "site__street")) == {("Pine Inn", "1 Pine Way")}
    book = "Date,Customer,What was done,Ticket,Unit\n9/1/2025,Pine Inn,flushed,#2,\n9/2/2025,Pine Inn,flushed,#1,#2\n"
    _, told = read(people, book, "jobs")
    first, second = Heater.objects.order_by("tag")
    assert [told[row]["heater"] for row in (2, 3)] == [first.tag, second.tag]
    assert "which heater" in told[2] and "which heater" not in told[3]


ON_CARDS = """Account,Customer & site,Equipment on site,Last PM,Water,Remarks
1201,"Hobbs, Pat
RFD 3
Sable Falls 00433
(555) 555-0111","1) 50 gal elec, Ostrand, 2018
2) tankless LP, Kelmarsh KX-9, 2023",9/15/25,"28 gr, well, iron",gate code 4471
1202,"Pine Inn LLC
attn: Marta
1 Pine Way
Sable Falls 00431
Tel. 555-555-0180
desk@example.com","3 x 100 gal NG PV, new 2022",Sep-26,softened,"before 6am
no parking in front"
1203,"Yun Dental
14 Center St, Ste 2
Sable Falls 00431","20 gal elec (2015)",,city 12 gpg,
1204,"Hobbs Garage
RFD 4
Sable Falls 00433",removed,n/a,,
"""


def test_a_card_in_a_cell_is_taken_apart_by_its_lines(people):
    run, told = read(people, ON_CARDS)
    assert told[5]["left out"] == "Equipment on site: removed"
    assert (told[2]["hardness"], told[4]["hardness"]) == ("28.0 gpg", "12.0 gpg") and "hardness" not in told[3]
    assert "attn: Marta" in told[3]["note"]
    brought_in(run)
    found = Heater.objects.order_by("pk").values_list(
        "site__customer__name", "site__street", "site__town", "site__customer__phone", "site__customer__email", "kind"
    )
    pine = ("Pine Inn LLC", "1 Pine Way", "Sable Falls", "555-555-0180", "desk@example.com", "gas_tank")
    assert list(found) == [
        ("Pat Hobbs", "RFD 3", "Sable Falls", "(555) 555-0111", "", "electric_tank"),
        ("Pat Hobbs", "RFD 3", "Sable Falls", "(555) 555-0111", "", "gas_tankless"),
        pine, pine, pine,
        ("Yun Dental", "14 Center St, Ste 2", "Sable Falls", "", "", "electric_tank"),
    ]  # fmt: skip
    sites = {heater.site.street: heater.site for heater in Heater.objects.select_related("site__zone")}
    assert sites["1 Pine Way"].softened is True and sites["RFD 3"].zone.supply == "well"


FROM_A_FORM = """Timestamp,Tech,Customer Name,Service Address,Heater,Flush performed?,Sediment,Anode,T&P tested?,Notes
9/15/2026 9:14:03,Kit,Pat Hobbs,RFD 3,Electric tank,Yes,Heavy,75% gone - replaced,"Yes, reseated",declined exp tank
9/16/2026 10:02:44,Dana,Pine Inn,1 Pine Way,Gas tank (1 of 3),Yes,Light,Not checked,Yes - drips after,TP replaced
9/16/2026 10:55:10,Dana,Pine Inn,1 Pine Way,Gas tank (2 of 3),No,,,No,valve seized could not drain
9/16/2026 11:20:00,Dana,Pine Inn,1 Pine Way,#3,Yes,None,,,T&Ps all ok
9/16/2026 11:40:00,Dana,Pine Inn,1 Pine Way,#3,No,Heavy,,,no time
10/1/2026 8:00:00,Kit,Yun Dental,14 Center St,Electric tank,Yes,None,Good,Yes,
"""


def test_the_answers_of_a_form_are_what_was_done_to_the_heater_it_counts(people):
    brought_in(read(people, ON_CARDS)[0])
    _, told = read(people, FROM_A_FORM, "jobs")
    tags = dict(Heater.objects.values_list("tag", "pk"))
    pine = sorted(Heater.objects.filter(site__street="1 Pine Way").values_list("pk", flat=True))
    assert [tags[told[row]["heater"]] for row in (3, 4, 5)] == pine
    assert all("which heater" not in detail for row, detail in told.items() if row != 2)
    assert told[2]["understood"] == (
        "flush: heavy; anode inspection: mostly gone; anode replacement; relief valve exercise: flows and reseats"
    )
    assert told[3]["understood"] == "flush: trace; relief valve exercise: flows and weeps; relief valve replacement"
    assert told[4]["understood"] == "not understood: it stays as a note"
    assert told[5]["understood"] == "flush: none; relief valve exercise: flows and reseats"
    assert told[6]["understood"] == "not understood: it stays as a note"
    assert told[7]["understood"] == (
        "flush: none; anode inspection: like new; relief valve exercise: flows and reseats"
    )


OF_A_SCHOOL = """Asset Tag,Status,Building,Floor/Room,Asset Type,Energy Source,Capacity (gal),Install Date,Last Maint.
WH-0012,Active,North Hall,B/012,Domestic Water Heater,Natural Gas,100,44562,45901
WH-0020,Retired,South Hall,1/104,Domestic Water Heater,Electric,40,39814,41000
WH-0021,Active,South Hall,1/104,Domestic Water Heater,Electric,50,44200,
WH-0030,Spare - in storage,Shop,,Domestic Water Heater,Electric,30,,
"""


def test_what_is_retired_or_in_storage_is_not_looked_after(people):
    run, told = read(people, OF_A_SCHOOL)
    assert (told[3]["left out"], told[5]["left out"]) == ("Status: Retired", "Status: Spare - in storage")
    brought_in(run)
    assert sorted(Heater.objects.values_list("site__customer__name", "location")) == [
        ("North Hall", "B/012"), ("South Hall", "1/104"),
    ]  # fmt: skip


OF_A_PARK = """SITE,CONTACT,PHONE,HTR LOC,HTR,MFG YR,LAST DRAIN,TPRV CHG,WTR HARD
"Hillcrest Park, 40 Hillcrest Dr, Benning 00655",,,Space 4,e30,15,4/26,,21
"Hillcrest Park, 40 Hillcrest Dr, Benning 00655",,,Space 9,g30 dv,2007!!,never,,21
"Hillcrest Park, 40 Hillcrest Dr, Benning 00655",Office: Dee,(555) 555-0144,Office,e20,n/k,4/26,4/26,21
"Benning Fire Hall, 1 Station Sq, Benning 00655",Chief Orr,555-555-0145,Mech,hp65 hybrid,2024,,,city
"Orr, Lem & Tess, 210 Ridge Rd, Benning 00656",,555-555-0146,Crawl,nat draft gas 40,06/11/2016,10-25,,23gr w/ softner
"""


def test_a_name_with_a_comma_before_its_address_and_water_that_is_softened(people):
    run, told = read(people, OF_A_PARK)
    assert not any(name.startswith("not understood") for detail in told.values() for name in detail)
    assert [told[row]["last flush"] for row in range(2, 7)] == ["2026", "never", "2026", "unknown", "2025"]
    assert told[6]["hardness"] == "23.0 gpg" and told[3]["put in"] == "about 2007"
    assert "CONTACT: Chief Orr" in told[5]["note"]
    brought_in(run)
    orr = Heater.objects.select_related("site__customer", "site__zone").get(site__street="210 Ridge Rd")
    assert orr.site.customer.name == "Lem & Tess Orr" and orr.site.softened is True
    assert Heater.objects.get(site__street="1 Station Sq").site.zone.supply == "mains"


IN_FRENCH_AGAIN = """ID;Client;Adresse;Ville;Tél;Équipement;Marque & modèle;N° série;Consigne;TH;Adouc.;Dernière visite
C-1;Dupuis Marc;18, chemin du Lac;04130 Beaumont;06 55 10 20;CE 300L stéatite;Ostrand S300;ST-99;60°C;30;Non;14/10/2025
C-2;Copro Les Pins;2-4 av. des Pins;04130 Beaumont;;Ballon ECS gaz 500 L (x2);Bray G500;;60;30;Oui HS;avril 2026
C-3;Mme Vidal;Impasse du Four;04131 Roc;06 55 10 20 33;Chauffe-eau thermo 200;Thorn T200;T-7;55;;;jamais
"""


def test_equipment_in_french_has_its_maker_its_number_and_its_degrees(people):
    run, told = read(people, IN_FRENCH_AGAIN)
    assert [told[row]["heater"] for row in (2, 3, 4)] == [
        "electric tank 79 gal", "2 x gas tank 132 gal", "heat pump tank",
    ]  # fmt: skip
    # A TH is told in French degrees, with no word for it.
    assert told[2]["hardness"] == told[3]["hardness"] == "17.5 gpg"
    assert [told[row]["last flush"] for row in (2, 3, 4)] == ["2025", "2026", "never"]
    brought_in(run)
    heater = Heater.objects.get(serial="ST-99")
    assert (heater.maker, heater.model, heater.site.street) == ("Ostrand", "S300", "18 chemin du Lac")
    assert Heater.objects.filter(site__street="2-4 av. des Pins", site__softened=False).count() == 2


OF_AN_OWNER = """Owner Last,Owner First,Owner Mailing Address,Rental Address,Tenant,Heater
Vance,Ruth,"PO Box 12, Benning","14 Elm St #2, Benning",Kay Lund,40 gal elec
Vance,Ruth,"PO Box 12, Benning","20 Elm St, Benning",Ted Hale,50 gas
"""


def test_a_heater_stands_where_somebody_lives_and_not_where_letters_go(people):
    run, _ = read(people, OF_AN_OWNER)
    brought_in(run)
    found = Heater.objects.order_by("pk").values_list("site__customer__name", "site__street")
    assert list(found) == [("Ruth Vance", "14 Elm St #2"), ("Ruth Vance", "20 Elm St")]
    # Where there is no other address it is the one.
    alone = 'Owner,Mailing Address,Heater\nIda Fir,"3 Oak St, Benning",50 gas\n'
    brought_in(read(people, alone)[0])
    assert Heater.objects.filter(site__street="3 Oak St").exists()


def test_a_tank_of_which_it_is_said_that_it_has_no_rod_has_none(people):
    brought_in(
        read(people, "Customer,Address,Type,Anode\nUna Ash,9 Low St,gas,none\nBo Fir,8 Low St,gas,mag 2019\n")[0]
    )
    rods = Part.objects.filter(kind=PartKind.ANODE).values_list("heater__site__customer__name", "alloy", "count")
    assert sorted(rods) == [("Bo Fir", "magnesium", 1), ("Una Ash", "none", 0)]


def test_a_card_of_three_lines_is_one(people):
    text = 'Who,Unit\n"Una Ash\n9 Low St\nTel. 555-555-0188",gas 40\n"Bo Fir\n8 Low St\nbo@example.com",gas 50\n'
    brought_in(read(people, text.replace("Who", "Customer & address"))[0])
    found = Heater.objects.order_by("pk").values_list("site__customer__name", "site__street", "site__customer__phone")
    assert list(found) == [("Una Ash", "9 Low St", "555-555-0188"), ("Bo Fir", "8 Low St", "")]


IN_FULL = """Customer,Street,City,Equipment 1,Equipment 2
Pike Hollow Elementary,1 School Rd,Pike Hollow,100g NG,
Grange Hall,RR 2 Box 19,Pike Hollow,30g LP,
Obi Mensah / Sara Mensah,401 River Rd Apt B,Pike Hollow,tnkls LP,
Lowe Family Trust,77 County Line Rd,Pike Hollow,elec 80,elec 6 gal
Lowell Pike,9 Mill Rd,Pike Hollow,elec 40,
Ida Pike,11 Mill Rd,Pike Hollow,elec 40,
"""
IN_SHORT = """When,Customer,Addr,What
2/3/25,Pike Hollow Elem.,School Rd,flushed. TP wouldnt seat - replaced
7/9/26,Mensah,401 River B,descaled 45 min
10/9/26,Lowe,77 County Line,drained 80
11/1/26,Grange,,flushed
11/2/26,Lowe,88 County Line,flushed
11/3/26,Pike,Mill Rd,flushed
11/4/26,Pik,9 Mill,flushed
11/5/26,Gran,,flushed
"""


def test_names_and_streets_in_short_are_those_of_the_only_one_they_fit(people):
    brought_in(read(people, IN_FULL)[0])
    _, told = read(people, IN_SHORT, "jobs")
    of = dict(Heater.objects.values_list("tag", "site__customer__name"))
    assert {row: of.get(detail.get("heater")) for row, detail in told.items()} == {
        2: "Pike Hollow Elementary", 3: "Obi Mensah / Sara Mensah", 4: "Lowe Family Trust", 5: "Grange Hall",
        # Nobody of that name lives there; two do; three letters may begin anybody; and no street says that Gran is
        # Grange.
        6: None, 7: None, 8: None, 9: None,
    }  # fmt: skip
    assert told[4]["which heater"].startswith("one of 2 there")


BY_BILLS = """Invoice #,Invoice Date,Bill To,Job Address,Item,Qty,Description,Amount
8801,09/15/2025,Grange Hall,RR 2 Box 19,PM-WH,1,Annual water heater maintenance: drain & flush,149.00
8801,09/15/2025,Grange Hall,RR 2 Box 19,ANODE,1,"Magnesium anode rod 44"", old one gone, new one in",89.00
8801,09/15/2025,Grange Hall,RR 2 Box 19,TRIP,1,Trip charge,35.00
8811,09/16/2026,Grange Hall,RR 2 Box 19,PM-WH,1,"Flushed, lots of sand",149.00
8812,Sep 2024,Grange Hall,RR 2 Box 19,PM-WH,1,Flushed,149.00
8813,Sep 2024,Grange Hall,RR 2 Box 19,TP,1,T&P valve installed,62.00
"""


def test_the_lines_of_a_bill_are_one_visit(people):
    brought_in(read(people, IN_FULL)[0])
    run, told = read(people, BY_BILLS, "jobs")
    assert [told[row].get("the same visit as") for row in range(2, 8)] == [None, "row 2", "row 2", None, None, None]
    assert run.counts == {"create": 4, "same": 2}
    brought_in(run)
    visits = Visit.objects.order_by("on", "pk")
    assert [sorted(finding.task for finding in visit.findings.all()) for visit in visits] == [
        ["flush"], ["relief_valve_replacement"], ["anode_inspection", "anode_replacement", "flush"], ["flush"],
    ]  # fmt: skip
    assert "Trip charge" in visits[2].note
    # A flush was by the way that is the company's, and nothing else was by any.
    ways = {(finding.task == "flush", finding.method) for visit in visits for finding in visit.findings.all()}
    assert ways == {(True, Company.current().flush_method), (False, "")}
    # The same bills once more, and one line longer, add no visit.
    again = sent(people, BY_BILLS + "8801,09/15/2025,Grange Hall,RR 2 Box 19,PAN,1,Drain pan,20.00\n", "jobs")
    assert again.counts == {"same": 7}


OF_A_HOUSE_MANAGER = """Nr|Eigentümer|Mieter|Objekt|PLZ Ort|Fabrikat/Typ|Art|Liter|Bj.|VL-Temp|°dH|Entkalkt|Anode|SV
1|WEG Ahornweg 3-7|-|Ahornweg 3|01234 Tannbach|Ostrand ES 300|Speicher, E-Heizstab|300|2012|60°|19|08/23|2023 neu|i.O.
2|Fam. Roth|selbst|Birkenstr. 12b|01234 Tannbach|Kelmarsh DLE 21|DLE|—|2019|42|19|–|–|–
3|Gasthof Krone, Inh. P. Lenz|–|Markt 1|01235 Oberau|Bray G 190|Gasspeicher|190|Bj 08|65|24|vor 3 Jahren|?|tropft
4|Roth, Ingrid|Fam. Demir|Birkenstr. 14|01234 Tannbach|Thornfell WP 270|Brauchwasser-WP|270|10.2021|55|19|nie|orig.|2021
5|Stadt Tannbach|Kita|Schulweg 2|01234 Tannbach|Ostrand UT 5|UT-Speicher 5 l (3x)|5||||||
"""


def test_a_house_manager_s_list_is_understood_with_its_dashes(people):
    run, told = read(people, OF_A_HOUSE_MANAGER)
    assert not any(name.startswith("not understood") for detail in told.values() for name in detail)
    assert [told[row]["heater"] for row in range(2, 7)] == [
        "electric tank 79 gal", "electric tankless", "gas tank 50 gal", "heat pump tank 71 gal",
        "3 x electric tank 1 gal",
    ]  # fmt: skip
    assert [told[row]["put in"] for row in range(2, 6)] == ["about 2012", "about 2019", "about 2008", "2021-10-16"]
    assert [told[row]["last flush"] for row in range(2, 6)] == ["2023", "unknown", "2023", "never"]
    assert told[2]["set at"] == "140 °F" and told[5]["relief valve"] == "about 2021"
    brought_in(run)
    assert set(Heater.objects.values_list("site__customer__name", "maker", "serial")) == {
        ("WEG Ahornweg 3-7", "Ostrand", ""), ("Fam. Roth", "Kelmarsh", ""), ("Ingrid Roth", "Thornfell", ""),
        ("Gasthof Krone, Inh. P. Lenz", "Bray", ""), ("Stadt Tannbach", "Ostrand", ""),
    }  # fmt: skip


FROM_A_MAINFRAME = """Route;Customer;Location Address1;City;Equip;Install Dt;Equip Serial;Last Completed Visit;Hardness
N1;HOBBS, PATRICK & LU;RFD 3 BOX 11;SABLE FALLS;WTR HTR 50 GAL ELEC DBL ELEMENT;06/01/2018;OS-50-1187;20250915;28
N1;PINE INN, LLC;1 PINE WAY;SABLE FALLS;WTR HTR COMM 100 GAL 199K NG PWR VNT;07/15/2022;22-1187;20260915;20
N1;PINE INN, LLC;1 PINE WAY;SABLE FALLS;WTR HTR COMM 100 GAL 199K NG PWR VNT;07/15/2022;22-1188;20260915;20
N1;YUN DENTAL GROUP, P.C.;14 CENTER ST STE 2;SABLE FALLS;WTR HTR 20 GAL PT OF USE ELEC;00/00/0000;;00000000;12
N2;GARRITY, T. J. (TOM);9 MILL RD;TILDEN;INST HW TKLS NG 180K COND;2021-05-04;;20251101;"25-30"
N2;GRANGE HALL;RR 2 BOX 19;TILDEN;SOFTENER 48K;2019-01-01;;;
"""


def test_a_list_in_capitals_with_figures_for_no_day(people):
    run, told = read(people, FROM_A_MAINFRAME)
    assert not any(name.startswith("not understood") for detail in told.values() for name in detail)
    assert [told[row]["last flush"] for row in range(2, 7)] == ["2025", "2026", "2026", "unknown", "2025"]
    assert told[7]["left out"] == "Equip: SOFTENER 48K" and told[5]["put in"] == "not known"
    brought_in(run)
    # What burns 180,000 BTU an hour holds no 180 gallons.
    assert list(Heater.objects.order_by("pk").values_list("site__customer__name", "kind", "vent", "serial")) == [
        ("Patrick & Lu Hobbs", "electric_tank", "", "OS-50-1187"),
        ("Pine Inn, LLC", "gas_tank", "powered", "22-1187"),
        ("Pine Inn, LLC", "gas_tank", "powered", "22-1188"),
        ("Yun Dental Group, P.C.", "electric_tank", "", ""),
        ("T. J. Garrity (TOM)", "condensing_tankless", "", ""),
    ]
    assert not any(" gal" in told[6][name] for name in ("heater", "note"))


PRINTED_BOOK = """DATE        CUSTOMER            ADDRESS               WORK                                        TECH
03/04/24    GRANGE HALL         RR 2                  FLUSHED WH 2 QTS SAND REPL ANODE ALUM ROD    KIT
03/18/24    LOWE                77 COUNTY LINE        FLUSH 2 HTRS, #2 TPV LEAKING REPLACED        DANA
04/02/24    PIKE IDA            11 MILL RD            NOT HOME                                     KIT
04/22/24    PIKE IDA            11 MILL RD            DRAINED & FLUSHED CLEAR, ANODE OK 60% LEFT    KIT
"""


def test_a_printed_book_in_capitals_is_understood(people):
    brought_in(read(people, IN_FULL)[0])
    _, told = read(people, PRINTED_BOOK, "jobs")
    assert {row: detail.get("understood", detail.get("left out")) for row, detail in told.items()} == {
        2: "flush: moderate, sand, 0.50 gal; anode replacement",
        3: "flush; relief valve exercise: flows and weeps; relief valve replacement",
        4: "nobody was there, or nothing was done",
        5: "flush: none; anode inspection: half",
    }
    lowe = Heater.objects.filter(site__customer__name="Lowe Family Trust").order_by("tag")
    assert told[3]["heater"] == lowe[1].tag


@pytest.mark.parametrize(
    ("done", "understood"),
    [
        ("Boiler entkalkt, Anode 40 % verbraucht", "flush; anode inspection: half"),
        ("Anode 70 % verbraucht, getauscht", "anode inspection: mostly gone; anode replacement"),
        ("Anode verbraucht", "anode inspection: gone"),
    ],
)
def test_how_much_of_a_rod_is_gone_is_read_in_german(people, done, understood):
    brought_in(read(people, IN_FULL)[0])
    _, told = read(people, f"Datum;Kunde;Arbeit\n12.03.2024;Grange Hall;{done}\n", "jobs")
    assert told[2]["understood"] == understood

"""An office's own list from file to register, and out again; the company and its list are invented for this test."""

import datetime
import io

import pytest
from openpyxl import Workbook

from aquifer.company.models import Company
from aquifer.customers.models import Customer, Site, Town
from aquifer.errors import Conflict
from aquifer.forecasts.models import Forecast
from aquifer.formats.sheet import Matched
from aquifer.heaters.models import Heater, Part
from aquifer.imports import run as runs
from aquifer.imports.models import ImportRow, ImportRun, ImportState, RowAction
from aquifer.visits.models import Visit
from aquifer.water.models import WaterTest, Zone

LIST = """Quillmoor Water Heater Co. -- master list,,,,,,,,,,
,,,,,,,,,,
Cust #,Client,Service address,Phone,Cell,Unit type,Gal,In service,Temp,Grains,Remarks
100,"HARROW, Ines","12 Mill Ln, Quillmoor 00021",555-555-0101,,gas,50,2014?,120,18,dog in yard
100,Ines Harrow,"12 Mill Lane, Quillmoor 00021",555-555-0101,,electric,40 gal,6/2/19,49C,,upstairs
,Dov Tasker,"9 Weir St, Quillmoor 00021",call son,555 555 0177,HPWH,2 x 50,before we came,hot,300 ppm,
,Dov Tasker,"9 Weir St, Quillmoor 00021",,555 555 0177,tankless,,2021,140F,,"well, softener out"
102,Maud Ferrier,"3 Quay Rd, Lower Quillmoor 00022",,,?,75g,unknown,,very,
103,Piet Olander,"77 Quay Rd, Lower Quillmoor 00022",,,gas,50,2011,120,,SKIP - sold 2023
,,,,,,,,,,
,Total,,,,,7,,,,
"""
PLACES = "town,postcode,latitude,longitude\nQuillmoor,00021,44.1,-112.9\nLower Quillmoor,00022,44.2,-112.8\n"


@pytest.fixture
def us(db):
    company = Company.current()
    company.units, company.hardness_unit = "us", "gpg"
    company.save()


def sent(people, text, kind="list"):
    run = runs.start(kind, f"{kind}.csv", text.encode(), people["planner"])
    runs.check(run.pk)
    run.refresh_from_db()
    return run


def matched(run, **other):
    """As a person says it who takes what was guessed."""
    said = {
        one["name"]: Matched(
            other.get(one["name"], one["column"]), one["written"],
            {word["said"]: word["means"] for word in one["words"]} if one["column"] == "kind" else {},
        )
        for one in run.columns
    }  # fmt: skip
    runs.match(run.pk, said)
    runs.check(run.pk)
    run.refresh_from_db()
    return run


def brought_in(run):
    runs.confirm(run.pk)
    runs.bring_in(run.pk)
    run.refresh_from_db()
    assert run.state == ImportState.APPLIED, run.message
    return run


def test_columns_and_words_are_guessed_in_the_company_s_units(us, people):
    run = sent(people, LIST)
    assert run.state == ImportState.MATCHING
    guessed = {one["name"]: (one["column"], one["written"]) for one in run.columns}
    assert guessed == {
        "Cust #": ("account", ""), "Client": ("customer", ""), "Service address": ("address", ""),
        "Phone": ("phone", ""), "Cell": ("second_phone", ""), "Unit type": ("kind", ""), "Gal": ("size", "gal"),
        "In service": ("installed", ""), "Temp": ("setpoint", "°f"), "Grains": ("hardness", "gpg"),
        "Remarks": ("note", ""),
    }  # fmt: skip
    words = next(one["words"] for one in run.columns if one["name"] == "Unit type")
    assert {word["said"]: word["means"] for word in words} == {
        "gas": "gas_tank", "electric": "electric_tank", "hpwh": "heat_pump_tank", "tankless": "gas_tankless",
        "?": "unknown",
    }  # fmt: skip


def test_a_list_comes_in_whole_with_customers_sites_waters_and_heaters(us, people):
    run = matched(sent(people, LIST))
    assert run.counts == {"create": 5, "left_out": 2}
    assert "2 cells were not understood" in run.message
    left = list(run.rows.filter(action=RowAction.LEFT_OUT).values_list("key", "detail"))
    assert "sold 2023" in left[0][1]["left out"] and "adds up" in left[1][1]["left out"]
    preview = run.rows.get(number=6).detail
    assert preview["heater"] == "2 x heat pump tank 50 gal" and preview["put in"] == "not known"
    assert preview["hardness"] == "17.5 gpg" and "not understood: Phone" in preview
    brought_in(run)
    assert [(one.code, one.name, one.phone) for one in Customer.objects.order_by("code")] == [
        ("100", "Ines Harrow", "555-555-0101"), ("102", "Maud Ferrier", ""), ("C-0001", "Dov Tasker", "555 555 0177"),
    ]  # fmt: skip
    assert [(one.street, one.town, one.postcode) for one in Site.objects.order_by("code")] == [
        ("12 Mill Ln", "Quillmoor", "00021"), ("9 Weir St", "Quillmoor", "00021"),
        ("3 Quay Rd", "Lower Quillmoor", "00022"),
    ]  # fmt: skip
    assert Site.objects.get(street="12 Mill Ln").hazard == "Dog."
    heaters = [
        (
            one.tag,
            one.kind,
            one.kind_seen,
            one.capacity_l and round(one.capacity_l),
            one.setpoint_c and round(one.setpoint_c),
        )
        for one in Heater.objects.order_by("tag")
    ]
    assert heaters == [
        ("H-0001", "gas_tank", True, 189, 49), ("H-0002", "electric_tank", True, 151, 49),
        ("H-0003", "heat_pump_tank", True, 189, None), ("H-0004", "heat_pump_tank", True, 189, None),
        ("H-0005", "gas_tankless", True, None, 60), ("H-0006", "gas_tank", False, 284, None),
    ]  # fmt: skip
    first, second = Heater.objects.order_by("tag")[:2]
    assert (first.installed_on.year, first.install_certainty, first.install_margin_years) == (2014, "estimated", 2.0)
    assert (second.installed_on, second.install_certainty) == (datetime.date(2019, 6, 2), "known")
    assert first.note == "dog in yard" and Heater.objects.get(tag="H-0003").control_setting == "hot"
    assert "Grains: very" in Heater.objects.get(tag="H-0006").note
    assert Heater.objects.get(tag="H-0006").guessed()[0] == "kind not seen"
    assert set(Heater.objects.values_list("in_care_since", flat=True)) == {datetime.date.today()}
    assert Part.objects.filter(kind="relief_valve").count() == 6
    assert sorted(round(one.total_hardness_mg_l) for one in WaterTest.objects.all()) == [300, 308]
    assert set(Zone.objects.values_list("code", flat=True)) == {"quillmoor", "lower-quillmoor"}


def test_a_new_base_is_never_proven_by_us_and_not_overdue_since_its_installation(us, people):
    brought_in(matched(sent(people, LIST)))
    today = datetime.date.today()
    current = Forecast.objects.current()
    assert current.exists() and not current.filter(due_on__lt=today).exists()
    assert not current.filter(latest_on__lt=today).exists()
    valves = current.filter(component="relief_valve")
    assert valves.count() == 6 and set(valves.values_list("decided_by", flat=True)) == {"first_look"}
    assert all(one.latest_on <= today + datetime.timedelta(weeks=8, days=1) for one in valves)


def test_the_same_list_again_asks_nothing_and_adds_nothing(us, people):
    brought_in(matched(sent(people, LIST)))
    again = sent(people, LIST)
    assert again.state == ImportState.CHECKED and again.counts == {"same": 5, "left_out": 2}


def test_a_word_for_a_kind_is_taken_as_the_person_said(us, people):
    run = sent(people, LIST)
    said = {
        one["name"]: Matched(
            one["column"], one["written"], {"?": "indirect_tank", "gas": "unknown"} if one["column"] == "kind" else {}
        )
        for one in run.columns
    }
    runs.match(run.pk, said)
    runs.check(run.pk)
    brought_in(run)
    assert Heater.objects.get(note__contains="very").kind == "indirect_tank"
    assert not Heater.objects.get(note__contains="dog").kind_seen


def test_places_put_the_sites_on_the_map_before_or_after(us, people):
    brought_in(sent(people, PLACES, "places"))
    brought_in(matched(sent(people, LIST)))
    assert {(one.town, one.longitude, one.latitude, one.located_by) for one in Site.objects.all()} == {
        ("Quillmoor", -112.9, 44.1, "town"), ("Lower Quillmoor", -112.8, 44.2, "town"),
    }  # fmt: skip
    Town.objects.all().delete()
    Site.objects.update(longitude=None, latitude=None, located_by="")
    brought_in(sent(people, PLACES, "places"))
    assert Site.objects.filter(located_by="town").count() == 3


def test_a_whole_list_is_taken_out_again_unless_something_hangs_on_it(us, people, as_role):
    run = brought_in(matched(sent(people, LIST)))
    planner = as_role("planner")
    (told,) = [one for one in planner.get("imports").json() if one["id"] == run.pk]
    assert told["can_undo"] and told["by"] == "Planner"
    visit = Visit.objects.create(client_id="0" * 32, heater=Heater.objects.first(), on=datetime.date.today())
    refused = planner.post(f"imports/{run.pk}/undo")
    assert refused.status_code == 409 and "1 visits" in refused.json()["message"]
    Visit.objects.filter(pk=visit.pk)._raw_delete("default")
    assert planner.post(f"imports/{run.pk}/undo").json()["state"] == "undone"
    assert not Heater.objects.in_service().exists() and not WaterTest.objects.exists()
    assert not Customer.objects.filter(archived_at__isnull=True).exists()
    with pytest.raises(Conflict):
        runs.undo(run.pk)
    # Brought in once more, the same customers and sites are in service again, and can be taken out again.
    again = brought_in(sent(people, LIST))
    assert Customer.objects.count() == 3 and not Customer.objects.filter(archived_at__isnull=False).exists()
    assert Site.objects.count() == 3 and not Site.objects.filter(archived_at__isnull=False).exists()
    assert Heater.objects.in_service().count() == 6
    runs.undo(again.pk)
    assert not Site.objects.filter(archived_at__isnull=True).exists()


def test_names_in_any_script_stay_apart(people):
    text = 'Client,Service address,Unit type\nИнга Берг,"ул. Садовая 5, Тальбах",gas\n'
    text += 'Тило Фельд,"ул. Лесная 5, Тальбах",electric\n'
    brought_in(matched(sent(people, text)))
    assert sorted(Customer.objects.values_list("name", flat=True)) == ["Инга Берг", "Тило Фельд"]
    assert Site.objects.count() == 2 and Zone.objects.get().code == "тальбах"


def test_a_list_in_litres_commas_and_german_is_read_after_one_match(people):
    text = "Kunde;Straße;Ort;Gerät;Inhalt;Baujahr;Temperatur;Härte °dH;Druck bar\r\n"
    text += "Una Berg;Gasse 5;Talbach;Wärmepumpe;200 Liter;21.06.2003;60,5;21,0;4,2\r\n"
    text += "Tilo Feld;Weg 2;Talbach;Speicher Gas;80,0;unbekannt;55;weich;5,5 bar\r\n"
    run = runs.start("list", "liste.csv", text.encode("cp1252"), people["planner"])
    runs.check(run.pk)
    run.refresh_from_db()
    brought_in(matched(run))
    found = [(one.kind, one.capacity_l, one.setpoint_c) for one in Heater.objects.order_by("tag")]
    assert found == [("heat_pump_tank", 200.0, 60.5), ("gas_tank", 80.0, 55.0)]
    assert sorted(Site.objects.values_list("static_pressure_kpa", flat=True)) == [420.0, 550.0]
    assert WaterTest.objects.get().total_hardness_mg_l == pytest.approx(21 * 17.848, rel=1e-3)


def test_a_word_that_is_no_kind_is_refused_by_name(us, people, as_role):
    run = sent(people, LIST)
    body = {"matches": [{"name": "Unit type", "column": "kind", "words": [{"said": "gas", "means": "kettle"}]}]}
    answer = as_role("planner").post(f"imports/{run.pk}/columns", body)
    assert answer.status_code == 422 and "'gas'" in answer.json()["message"]
    assert not ImportRow.objects.exists()


def test_columns_are_known_by_what_they_are_like_and_by_what_stands_in_them(us, people):
    text = "Cust. name,Job addr,Tel.,Heater,Tank gals,Yr installed,xx,Water soft?\n"
    text += "Una Berg,5 Gasse,555-555-0101,LP,50,2014,una@example.com,n\n"
    text += "Tilo Feld,2 Weg,,elec,40,2019,tilo@example.com,y\n"
    run = sent(people, text)
    guessed = [one["column"] for one in run.columns]
    assert guessed == ["customer", "address", "phone", "kind", "size", "installed", "email", "softener"]


JOBS = """Date,Who,Where,Done by,What was done / found,Parts
6/2/21,"HARROW, Ines",12 Mill Lane,Lorne,"flush/anode, rod gone to wire",anode
~2023,Dov Tasker,9 Weir St,,t&p ok,
2024-05-01,Dov Tasker,9 Weir St,LK,"descaled, flow back up",
2025-03-04,Maud Ferrier,3 Quay Rd,LK,yearly svc,
??,Maud Ferrier,3 Quay Rd,LK,flush - clear,
5/5/2020,Nobody Known,1 Elsewhere Rd,LK,flush - clear,
3/3/2009,Ines Harrow,12 Mill Ln,LK,flush - clear,
"""


def test_a_job_book_is_read_into_past_visits_with_what_was_understood_shown(us, people):
    brought_in(matched(sent(people, LIST)))
    run = matched(sent(people, JOBS, "jobs"))
    assert run.counts == {"create": 4, "left_out": 3}
    told = {row.number: row.detail for row in run.rows.all()}
    assert told[2]["understood"] == "flush; anode inspection: gone; anode replacement"
    assert told[3]["on"] == "about 2023" and "one of 3 there" in told[3]["which heater"]
    assert told[5]["understood"].startswith("not understood") and told[6]["left out"] == "no day is known"
    assert "no such customer" in told[7]["left out"] and "before H-0001 was put in" in told[8]["left out"]
    brought_in(run)
    first = Heater.objects.get(tag="H-0001")
    assert [(one.task, one.grade) for one in first.findings.order_by("sequence")] == [
        ("flush", ""), ("anode_inspection", "gone"), ("anode_replacement", ""),
    ]  # fmt: skip
    visit = first.visits.get()
    assert (visit.on, visit.technician, visit.note) == (
        datetime.date(2021, 6, 2), "Lorne", "flush/anode, rod gone to wire; anode",
    )  # fmt: skip
    assert first.parts.filter(kind="anode", removed_on__isnull=True).get().fitted_on == datetime.date(2021, 6, 2)
    assert Heater.objects.get(kind="gas_tankless").findings.get().task == "descale"
    assert Heater.objects.get(tag="H-0006").visits.get().note == "yearly svc"
    assert not Forecast.objects.current().filter(due_on__lt=datetime.date.today()).exists()
    again = sent(people, JOBS, "jobs")
    assert again.counts == {"same": 4, "left_out": 3}


TWICE = """Client,Service address,Phone,Unit type,Gal
Ines Harrow,"12 Mill Ln, Quillmoor",555-555-0101,gas,50
Ines Harrow,"77 Quay Rd, Quillmoor",555-555-0199,gas,40
Ines Harrow,"12 Mill Lane, Quillmoor",555-555-0101,electric,40
"""


@pytest.mark.parametrize(("said", "customers"), [(None, 1), (True, 1), (False, 2)])
def test_whether_two_of_one_name_are_one_customer_a_person_decides(us, people, as_role, said, customers):
    run = matched(sent(people, TWICE))
    assert run.counts == {"create": 3, "perhaps another customer": 1}
    lead = as_role("lead")
    (row,) = lead.get(f"imports/{run.pk}/rows?doubtful=true").json()["rows"]
    assert row["number"] == 3 and "another telephone" in row["detail"]["perhaps another customer"]
    if said is not None:
        answer = lead.post(f"imports/{run.pk}/decisions", {"rows": [{"number": 3, "same": said}]})
        assert answer.json()["state"] == "checking"
        runs.check(run.pk)
        run.refresh_from_db()
        assert run.counts == {"create": 3}
        assert lead.get(f"imports/{run.pk}/rows?doubtful=true").json()["total"] == 0
    brought_in(run)
    assert Customer.objects.filter(name="Ines Harrow").count() == customers
    assert Site.objects.count() == 2 and Heater.objects.count() == 3
    assert lead.post(f"imports/{run.pk}/decisions", {"rows": [{"number": 3, "same": True}]}).status_code == 409


def test_another_customer_of_that_name_keeps_their_own_telephone(us, people):
    run = matched(sent(people, TWICE))
    runs.decide(run.pk, {3: False})
    runs.check(run.pk)
    brought_in(ImportRun.objects.get(pk=run.pk))
    at = {site.street: site.customer.phone for site in Site.objects.select_related("customer")}
    assert at == {"12 Mill Ln": "555-555-0101", "77 Quay Rd": "555-555-0199"}


def workbook(**sheets):
    book = Workbook()
    book.remove(book.active)
    for name, rows in sheets.items():
        there = book.create_sheet(name)
        for row in rows:
            there.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_of_a_workbook_the_fullest_sheet_is_read_and_another_by_choice(us, people, as_role):
    header = ["Client", "Service address", "Unit type", "Gal"]
    data = workbook(
        Old=[header, *[[f"Gone {n}", f"{n} Mill Ln", "gas", 50] for n in range(5)]],
        Now=[header, ["Ines Harrow", "12 Mill Ln", "gas", 50], ["Dov Tasker", "9 Weir St", "electric", 40]],
    )
    run = runs.start("list", "all.xlsx", data, people["planner"])
    runs.check(run.pk)
    run = matched(ImportRun.objects.get(pk=run.pk))
    assert (run.sheets, run.sheet, run.counts) == (["Old", "Now"], "", {"create": 5})
    lead = as_role("lead")
    assert lead.post(f"imports/{run.pk}/sheet", {"sheet": "Then"}).status_code == 422
    assert lead.post(f"imports/{run.pk}/sheet", {"sheet": "Now"}).json()["sheet"] == "Now"
    runs.check(run.pk)
    run.refresh_from_db()
    # Its columns are known by now.
    assert run.counts == {"create": 2}
    brought_in(run)
    assert set(Customer.objects.values_list("name", flat=True)) == {"Ines Harrow", "Dov Tasker"}


def test_a_list_of_one_sheet_asks_for_none(us, people):
    assert sent(people, TWICE).sheets == []


def test_words_that_were_explained_once_are_known_in_a_file_with_other_columns(us, people):
    matched_words = sent(people, LIST)
    said = {
        one["name"]: Matched(one["column"], one["written"], {"?": "indirect_tank"} if one["column"] == "kind" else {})
        for one in matched_words.columns
    }
    runs.match(matched_words.pk, said)
    other = sent(people, "Kunde,Adresse,Unit type\nMaud Ferrier,3 Quay Rd,?\nDov Tasker,9 Weir St,gas\n")
    assert other.state == ImportState.MATCHING
    words = next(one["words"] for one in other.columns if one["column"] == "kind")
    assert {word["said"]: word["means"] for word in words} == {"?": "indirect_tank", "gas": "gas_tank"}


def test_all_that_is_kept_of_a_row_is_seen_before(people, us):
    """In the company's units; nothing is written that nobody was shown."""
    text = """Name,Address,Phone,Cell,Type,Size,Make/model,Serial,Installed,Anode,Relief valve,Exp tank,Softener,Well,\
People,Last flush,Temp
Ash,"1 Mill Ln, Ferrybank",555-0101,555-0102,gas power vent,50,Norvik N50,N-1,2015,mag 2019,2021,12 l,y,well,4,2024,125
Birch,"3 Mill Ln, Ferrybank",,,"40 gal elec, 30 gal elec",,,,,0.75 in,,no,,,,,
Cole,5 Mill Ln,,,elec,40,,,,orig,,,,,,,
"""
    run = matched(sent(people, text))
    told = {row.number: row.detail for row in run.rows.all()}
    assert told[2] == {
        "heater": "gas tank powered vent 50 gal", "make": "Norvik N50", "serial": "N-1", "put in": "about 2015",
        "set at": "125 °F", "rod": "magnesium, since 2019-07-02", "relief valve": "about 2021",
        "expansion tank": "3 gal", "water": "softened, from a well", "people": "4", "last flush": "2024",
        "town": "Ferrybank", "telephone": "555-0101, 555-0102",
    }  # fmt: skip
    assert told[3]["heater 2"] == "electric tank 30 gal, put in not known, last flush unknown"
    assert (told[3]["rod"], told[3]["expansion tank"], told[4]["rod"]) == ("0.75 in thick", "none", "the first")

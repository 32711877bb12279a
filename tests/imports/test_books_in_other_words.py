"""Job books whose columns nobody told the program of: it knows whom and which places they name, and what was done."""

import pytest

from aquifer.heaters.models import Heater
from aquifer.imports.job_columns import told_by_name
from aquifer.visits.models import Finding, Visit
from tests.imports.test_office_list import LIST, brought_in, matched, sent, us  # noqa: F401

pytestmark = pytest.mark.usefixtures("us")
# ruff: noqa: E501
ORDERS = """WO #,Sched date,Compl. date,Cust name,Svc loc,Unit,Crew,Task code,Narrative,Matls,Hrs,Amt
44121,3/1/2024,3/3/2024,"Harrow, Ines","12 Mill Ln, Quillmoor",WH1,PK,PM-FLUSH,"Flushed till clear, about 1/2 gal grit. T&P lifted ok. Anode 50% gone.",,1.5,$165.00
44122,3/4/2024,,Dov Tasker,9 Weir St,WH1,PK,CALL,no show - resched,,0,
44123,3/5/2024,3/5/2024,Dov Tasker,9 Weir St,WH1,PK,,no show,,0,
44130,9/9/2024,9/9/2024,Dov Tasker,9 Weir St,tankless,LB,DESCALE,"vinegar 45 min, flow 3.1 -> 4.4 gpm",2 gal vinegar,1.0,$189.00
44140,10/10/2024,10/10/2024,Maud Ferrier,3 Quay Rd,WH,LB,REPAIR,"T&P weeping, replaced",TPV 3/4,0.75,$210.00
"""
INVOICES = """InvoiceNo,InvoiceDate,BillName,ShipAddress1,ShipCity,ItemDescription,Qty,Rate,TechInitials,Memo
10001,2024-03-03,Ines Harrow,12 Mill Ln,Quillmoor,Annual water heater flush,1,149,PK,half gal sediment
10001,2024-03-03,Ines Harrow,12 Mill Ln,Quillmoor,Anode rod magnesium installed,1,65,PK,old rod 80% gone
10002,2024-09-09,Dov Tasker,9 Weir St,Quillmoor,Tankless flush,1,189,LB,
"""
CALENDAR = """Subject,Start Date,Start Time,End Time,Location,Description,Attendees
Water heater maint - Ines Harrow,3/3/2024,9:00 AM,10:30 AM,"12 Mill Ln, Quillmoor","flushed, drained clear after 10 gal, anode 1/2 gone",pk@example.com
Tankless flush - Tasker,9/9/2024,1:00 PM,2:00 PM,"9 Weir St, Quillmoor",vinegar 1 hr,lb@example.com
"""
CHECKLIST = """Date of visit,Account name,Property,Heater,Technician,Flush (Y/N),Anode (ok/replace),T&P tested,Exp tank psi,Temp found,Comments
3/3/2024,Ines Harrow,12 Mill Ln,1,PK,Y,replace,ok,55,128,lots of sand
9/9/2024,Dov Tasker,9 Weir St,2,LB,N,n/a,,,120,descaled w/ pump 45 min
10/10/2024,Maud Ferrier,3 Quay Rd,1,LB,Y,ok,leaks,,140,
"""
WITHOUT_NAMES = """3/3/24,Harrow,12 Mill,flushed + anode (was wire) PK,165
9/9/24,Tasker,9 Weir,descale tankless. flow ok now LB,189
10/10/24,Ferrier,3 Quay,new t&p LB,210
"""
GERMAN = """Auftrag;Datum;Kunde;Strasse;Monteur;Tätigkeit;Befund;Material;Betrag
A-1;03.03.2024;Harrow Ines;12 Mill Ln;PK;Speicher gespült;viel Kalk, ca. 2 l Schlamm;;165,00
A-2;09.09.2024;Tasker Dov;9 Weir St;LB;Durchlauferhitzer gespült;i.O.;Essig;189,00
A-3;10.10.2024;Ferrier Maud;3 Quay Rd;LB;Sicherheitsventil ersetzt;;;60,00
"""


@pytest.fixture
def listed(people):
    brought_in(matched(sent(people, LIST)))


def guessed(run) -> dict[str, str]:
    return {one["name"]: one["column"] for one in run.columns if one["column"] != "note"}


@pytest.mark.parametrize(
    ("text", "columns"),
    [
        (ORDERS, {"Compl. date": "on", "Cust name": "customer", "Svc loc": "address", "Crew": "technician",
                  "Task code": "done", "Narrative": "done", "Matls": "parts"}),
        (INVOICES, {"InvoiceDate": "on", "BillName": "customer", "ShipAddress1": "address", "ItemDescription": "done",
                    "TechInitials": "technician", "Memo": "done"}),
        (CALENDAR, {"Subject": "done", "Start Date": "on", "Location": "address", "Description": "done",
                    "Attendees": "technician"}),
        (CHECKLIST, {"Date of visit": "on", "Account name": "customer", "Property": "address",
                     "Technician": "technician", "Flush (Y/N)": "done", "Anode (ok/replace)": "done",
                     "T&P tested": "done", "Comments": "done"}),
        (WITHOUT_NAMES, {"column 1": "on", "column 2": "customer", "column 3": "address", "column 4": "done"}),
        (GERMAN, {"Datum": "on", "Kunde": "customer", "Strasse": "address", "Monteur": "technician",
                  "Tätigkeit": "done", "Befund": "done", "Material": "parts"}),
    ],
)  # fmt: skip
def test_columns_are_known_by_whom_and_what_they_tell_of(people, listed, text, columns):
    found = guessed(sent(people, text, "jobs"))
    # An empty pressure under a thing's name tells nothing either way.
    assert {name: column for name, column in found.items() if name != "Exp tank psi"} == columns


TANKLESS = "H-0005"


@pytest.mark.parametrize(
    ("text", "tasks"),
    [
        (ORDERS, {("H-0001", "flush"), ("H-0001", "relief_valve_exercise"), ("H-0001", "anode_inspection"),
                  (TANKLESS, "descale"), ("H-0006", "relief_valve_exercise"), ("H-0006", "relief_valve_replacement")}),
        (INVOICES, {("H-0001", "flush"), ("H-0001", "anode_inspection"), ("H-0001", "anode_replacement"),
                    (TANKLESS, "descale")}),
        (CALENDAR, {("H-0001", "flush"), ("H-0001", "anode_inspection"), (TANKLESS, "descale")}),
        (CHECKLIST, {("H-0001", "flush"), ("H-0001", "anode_replacement"), ("H-0001", "relief_valve_exercise"),
                     (TANKLESS, "descale"), ("H-0006", "flush"), ("H-0006", "anode_inspection"),
                     ("H-0006", "relief_valve_exercise")}),
        (WITHOUT_NAMES, {("H-0001", "flush"), ("H-0001", "anode_inspection"), (TANKLESS, "descale"),
                         ("H-0006", "relief_valve_replacement")}),
        (GERMAN, {("H-0001", "flush"), (TANKLESS, "descale"), ("H-0006", "relief_valve_replacement")}),
    ],
)  # fmt: skip
def test_what_was_done_comes_to_the_heater_that_is_meant(people, listed, text, tasks):
    assert Heater.objects.get(tag=TANKLESS).kind == "gas_tankless"
    brought_in(matched(sent(people, text, "jobs")))
    assert {*Finding.objects.values_list("visit__heater__tag", "task")} == tasks


def test_who_was_not_there_makes_no_visit(people, listed):
    run = matched(sent(people, ORDERS, "jobs"))
    left = {row.number: row.detail["left out"] for row in run.rows.filter(action="left_out")}
    assert left == {3: "no day is known", 4: "nobody was there, or nothing was done"}


def test_a_measure_of_deposit_is_read_where_it_stands_and_nowhere_else(people, listed):
    brought_in(matched(sent(people, INVOICES, "jobs")))
    # Half a gallon; the end of "gal" is no litre.
    assert Finding.objects.get(task="flush").removed_l == pytest.approx(1.89)


@pytest.mark.parametrize(
    ("name", "cell", "told"),
    [
        ("Flush (Y/N)", "Y", "flushed"), ("Flush", "x", "flushed"), ("Flush (Y/N)", "N", ""), ("Anode", "n/a", ""), ("Flush", "due", ""), ("Anode", "Declined.", ""),
        ("Anode (ok/replace)", "replace", "anode replaced"), ("Anode", "new one", "anode replaced"),
        ("Anode", "replace next time", "anode replace next time"), ("T&P tested", "leaks", "t p leaks"), ("Descale", "yes", "descaled"), ("Exp tank", "waterlogged", "exp tank waterlogged"),
        ("What was done", "Y", "Y"), ("Anode", "pulled it, half gone, put it back with tape", "pulled it, half gone, put it back with tape"),
    ],
)  # fmt: skip
def test_a_word_under_a_thing_s_name_says_what_was_done(name, cell, told):
    assert told_by_name(name, cell) == told


def test_an_address_that_begins_like_two_is_nobody_s(people):
    brought_in(matched(sent(people, "Name,Address,Type\nAsh,12 Mill Ln,gas\nBirch,12 Mill Rd,gas\n")))
    run = matched(
        sent(people, "Date,Who,Where,What\n3/3/2024,Cedar,12 Mill,flushed\n3/4/2024,Ash,12 Mill Lane,flushed\n", "jobs")
    )
    assert [row.action for row in run.rows.order_by("number")] == ["left_out", "create"]


def test_a_visit_to_a_street_that_begins_alike_is_nobody_else_s(people):
    """A visit put on a stranger's record would make their dates wrong."""
    brought_in(matched(sent(people, "Name,Address,Type\nAsh,12 Mill Ln,gas\n")))
    book = """Date,Who,Where,What
3/3/2024,Cedar,12 Mill Rd,flushed
3/4/2024,Cedar,12 Mill,flushed
3/5/2024,Ash,12 Mill Rd,flushed
3/6/2024,Ash,12 Mill,flushed
3/7/2024,,12 Mill,flushed
"""
    run = matched(sent(people, book, "jobs"))
    # Another street, another customer, another street; the customer's own, and nobody's else.
    assert [row.action for row in run.rows.order_by("number")] == [*["left_out"] * 3, "create", "create"]


def test_who_could_not_reach_a_part_was_there(people):
    brought_in(matched(sent(people, "Name,Address,Type\nAsh,12 Mill Ln,gas\n")))
    book = (
        "Date,Who,What\n3/3/2024,Ash,no access to anode; flushed\n3/4/2024,Ash,no access\n3/5/2024,Ash,CALL; no show\n"
    )
    run = matched(sent(people, book, "jobs"))
    assert [row.detail.get("understood", row.detail.get("left out")) for row in run.rows.order_by("number")] == [
        "flush", "nobody was there, or nothing was done", "nobody was there, or nothing was done",
    ]  # fmt: skip


def test_how_long_they_were_there_is_kept_where_it_is_said_plainly(people, listed):
    """Hours of a bill may be of two people, with the way: they stay a note."""
    text = """Date,Customer,Address,Work done,Time on site,Hrs
3/3/2024,Ines Harrow,12 Mill Ln,flushed,1:15,2.5
9/9/2024,Dov Tasker,9 Weir St,descaled tankless,90 min,3
10/10/2024,Maud Ferrier,3 Quay Rd,flushed,a while,1
11/11/2024,Maud Ferrier,3 Quay Rd,saw to the lights,40,1
"""
    run = matched(sent(people, text, "jobs"))
    assert guessed(run)["Time on site"] == "minutes" and "Hrs" not in guessed(run)
    brought_in(run)
    kept = dict(Visit.objects.values_list("on", "minutes"))
    assert [kept[on] for on in sorted(kept)] == [75, 90, None, 40]


def test_where_no_name_says_it_the_longest_texts_and_not_the_most_are_what_was_done(people, listed):
    rows = "".join(f"3/{day}/2024,Ferrier,Zone {day},\n" for day in range(1, 9))
    told = "3/9/2024,Ferrier,Zone 9,came by and had a look at everything in the cellar\n"
    run = matched(sent(people, f"Date,Cust name,Qq,Zz\n{rows}{told}", "jobs"))
    assert guessed(run) == {"Date": "on", "Cust name": "customer", "Zz": "done"}

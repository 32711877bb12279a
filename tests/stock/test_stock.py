import base64
import csv
import datetime
import io
import re
import uuid
import zlib
from concurrent.futures import ThreadPoolExecutor
from importlib import import_module

import pytest
from django.db import connection

from aquifer.rounds.models import Appointment, Service
from aquifer.stock.models import Held
from aquifer.stock.moves import Move, move
from tests.rounds.conftest import *  # noqa: F403


@pytest.fixture
def day(forecasted, crew, today):
    """One visit with a flush and a rod on the technician's truck, one descale on nobody's yet."""
    on = today + datetime.timedelta(days=5)
    week = on - datetime.timedelta(days=on.weekday())
    tank, _, _, tankless, *_ = forecasted["heaters"]
    visit = Appointment.objects.create(
        site=tank.site, week=week, on=on, member=crew[0], begins=540, minutes=120, needs=["gas"]
    )
    for component, method in (("sediment", "drain_and_pulse"), ("anode", "inspect"), ("relief_valve", "exercise")):
        Service.objects.create(appointment=visit, heater=tank, component=component, method=method, hours=0.5)
    later = Appointment.objects.create(site=tankless.site, week=week + datetime.timedelta(days=14), minutes=80)
    Service.objects.create(appointment=later, heater=tankless, component="scale", method="descale", hours=1.25)
    return on


def lines(told, part):
    return next((one for one in told if one["part"].startswith(part)), None)


def test_a_truck_is_told_what_to_carry_and_what_lies_on_it_already(as_role, day, crew):
    client = as_role("planner")
    told = client.get(f"stock/{day}").json()
    (truck,) = told["trucks"]
    assert (truck["name"], told["service_level"]) == ("Technician", 0.95)
    washer = lines(truck["lines"], "hose washer")
    assert (washer["quantity"], washer["held"], washer["to_add"]) == (1, 0, 1)
    assert lines(truck["lines"], "anode magnesium") and not lines(truck["lines"], "descaler")
    body = {"part": "hose washer", "member_id": crew[0].pk, "quantity": 12}
    assert client.raw.put("/api/stock", body, content_type="application/json").status_code == 200
    again = lines(client.get(f"stock/{day}").json()["trucks"][0]["lines"], "hose washer")
    assert (again["held"], again["to_add"]) == (12, 0)
    assert Held.objects.get().quantity == 12


def test_a_month_is_bought_for_every_visit_against_trucks_and_store(as_role, day, crew):
    client = as_role("planner")
    Held.objects.create(part="descaler, jug of {volume_l:4}", quantity=0.5)
    Held.objects.create(part="descaler, jug of {volume_l:4}", member=crew[1], quantity=0.25)
    acid = lines(client.get(f"stock/{day}").json()["to_buy"], "descaler")
    assert (acid["quantity"], acid["held"], acid["to_add"]) == (1, 0.75, 0.25)


def test_the_surer_the_company_wants_to_be_the_more_is_carried(as_role, day):
    client, before = as_role("lead"), None
    for level in (0.5, 0.999):
        body = {"service_level": level}
        kept = client.raw.put("/api/stock-settings", body, content_type="application/json").json()
        assert kept["service_level"] == level and kept["version"] > 0
        told = sum(line["quantity"] for line in client.get(f"stock/{day}").json()["trucks"][0]["lines"])
        assert before is None or told > before
        before = told


def test_what_cannot_be_counted_is_told(as_role, day):
    client = as_role("technician")
    for body, status in (
        ({"part": "washer", "member_id": 10**9, "quantity": 1}, 404),
        ({"part": "washer", "quantity": -1}, 422),
        ({"part": "", "quantity": 1}, 422),
    ):
        assert client.raw.put("/api/stock", body, content_type="application/json").status_code == status
    level = client.raw.put("/api/stock-settings", {"service_level": 0.9}, content_type="application/json")
    assert level.status_code == 403


def test_the_lists_take_a_fixed_number_of_queries(as_role, day, django_assert_max_num_queries):
    client = as_role("planner")
    client.get(f"stock/{day}")
    with django_assert_max_num_queries(19):
        client.get(f"stock/{day}")


@pytest.mark.parametrize(
    ("before", "after"),
    [
        ("relief valve 1034 kPa", "relief valve {pressure_kpa:1034}"),
        ("relief valve 1034 kPa, probe 150 mm", "relief valve {pressure_kpa:1034}, probe {length_mm:150}"),
        ("anode aluminium zinc, 1067 mm", "anode aluminium zinc, {length_mm:1067}"),
        ("expansion tank 18 L", "expansion tank {small_volume_l:18}"),
        ("drain valve 3/4 in", "drain valve 3/4 in"),
    ],
)
def test_what_lies_on_a_truck_keeps_its_place_when_its_name_gets_a_quantity(before, after):
    migration = import_module("aquifer.stock.migrations.0002_figures_with_quantity")
    assert migration.named(before) == after == migration.named(after)


def test_what_the_places_of_a_day_ask_for_is_brought_and_the_kit_is_told(as_role, day, forecasted):
    client, tank = as_role("planner"), forecasted["heaters"][0]
    for kind, condition, of in (("access", "ladder", tank), ("co_alarm", "dead", None), ("straps", "sound", tank)):
        body = {"kind": kind, "condition": condition, "heater_id": of and of.pk}
        assert client.post(f"sites/{tank.site_id}/features", body).status_code == 201
    told = client.get(f"stock/{day}").json()
    name = tank.site.name
    assert told["trucks"][0]["brings"] == [
        f"ladder, and a second person for anything heavy ({name})", f"CO alarm ({name})",
    ]  # fmt: skip
    assert any("hose cap" in thing for group in told["kit"] for thing in group["things"])


def test_a_tool_that_is_lent_that_day_is_told_on_the_truck(as_role, day, crew):
    crew[1].equipment = ["jetter"]
    crew[1].save()
    lent = {"tool": "jetter", "lender_id": crew[1].pk, "borrower_id": crew[0].pk, "first_on": str(day)}
    client = as_role("planner")
    assert client.post("settings/loans", {**lent, "last_on": str(day)}).status_code == 201
    (truck,) = client.get(f"stock/{day}").json()["trucks"]
    assert truck["borrows"] == [f"jetter from {crew[1].user.name}"]
    before = day - datetime.timedelta(days=1)
    assert all("borrows" not in one or not one["borrows"] for one in client.get(f"stock/{before}").json()["trucks"])


def words_of(answer):
    """All that stands on the pages, page by page."""
    assert answer.status_code == 200 and answer["Content-Type"] == "application/pdf"
    found = []
    for stream in re.findall(rb"stream\r?\n(.*?)endstream", answer.content, re.S):
        drawn = zlib.decompress(base64.a85decode(stream.strip(), adobe=True))
        found.append(" ".join(part.decode("latin-1") for part in re.findall(rb"\((.*?)(?<!\\)\) Tj", drawn)))
    return [re.sub(r"\\([()\\])", r"\1", one) for one in found]


def test_a_day_on_paper_has_what_the_technician_needs_there_and_to_load(as_role, day, crew, forecasted):
    visit = Appointment.objects.get(on=day)
    Appointment.objects.filter(pk=visit.pk).update(
        standing="promised", earliest=510, latest=600, said="rumbles & spits", decides="the owner, 555-0142"
    )
    site = visit.site
    site.access = "key at number 9"
    site.save()
    (page,) = words_of(as_role("technician").raw.get(f"/api/rounds/days/{day}/sheet.pdf"))
    for words in ("8:30 to 10:30", site.name, site.street, "promised 8:30 to 10:00", "Getting in: key at number 9",
                  "flush, rod", 'They said: "rumbles & spits"', "Decides: the owner, 555-0142", "hose washer",
                  "anode magnesium", "Always along"):  # fmt: skip
        assert words in page, (words, page)
    assert "{" not in page
    # The other of the crew has nothing that day, nor has anybody the day after.
    other = words_of(as_role("planner").raw.get(f"/api/rounds/days/{day}/sheet.pdf?member_id={crew[1].pk}"))
    after = words_of(as_role("planner").raw.get(f"/api/rounds/days/{day + datetime.timedelta(days=1)}/sheet.pdf"))
    assert all("Nobody has a visit on this day." in one for one in (*other, *after))


def test_a_weeks_plan_on_paper_tells_each_day_and_what_has_none(as_role, day, crew):
    visit = Appointment.objects.get(on=day)
    Appointment.objects.create(site=visit.site, week=visit.week, minutes=40, reason="estimate")
    (page,) = words_of(as_role("planner").raw.get(f"/api/rounds/weeks/{day}/plan.pdf"))
    assert f"{day:%A} {day.day} {day:%B %Y}" in page and "Technician" in page and "9:00 to 11:00" in page
    assert "2 visits, 1 without a day" in page and f"{visit.site.name} (estimate)" in page
    (empty,) = words_of(as_role("planner").raw.get(f"/api/rounds/weeks/{day + datetime.timedelta(days=70)}/plan.pdf"))
    assert "No visit is planned in this week." in empty


def moves(client, **more):
    body = {"part": "hose washer", "quantity": 10, "client_id": str(uuid.uuid4()), **more}
    return client.post("stock-moves", body)


def lying() -> dict[int | None, float]:
    return dict(Held.objects.filter(part="hose washer").values_list("member_id", "quantity"))


def test_parts_come_in_go_to_a_truck_and_on_to_another(as_role, crew):
    client, (one, other, *_) = as_role("technician"), crew
    assert moves(client, received=True).status_code == 201
    assert lying() == {None: 10}
    told = moves(client, target=one.pk, quantity=4).json()
    assert (told["source"], told["target"], told["quantity"]) == ("store", one.user.name, 4)
    assert lying() == {None: 6, one.pk: 4}
    moves(client, source=one.pk, target=other.pk, quantity=3)
    moves(client, source=other.pk, quantity=1)
    assert lying() == {None: 7, one.pk: 1, other.pk: 2}
    said = client.get("stock/2026-11-28").json()["moved"]
    assert [(move["source"], move["target"], move["quantity"]) for move in said] == [
        (other.user.name, "store", 1), (one.user.name, other.user.name, 3), ("store", one.user.name, 4),
        ("supplier", "store", 10),
    ]  # fmt: skip
    # Nothing is lost on the way, and nothing comes from nowhere.
    assert sum(lying().values()) == 10


def test_who_has_them_in_hand_is_right_and_the_count_was_behind(as_role, crew):
    client = as_role("technician")
    moves(client, received=True, quantity=2)
    moves(client, target=crew[0].pk, quantity=5)
    assert lying() == {None: 0, crew[0].pk: 5}


def test_a_move_that_a_phone_sends_twice_is_one(as_role, crew):
    client, key = as_role("technician"), str(uuid.uuid4())
    for _ in range(3):
        assert moves(client, received=True, quantity=2, client_id=key).status_code == 201
    assert lying() == {None: 2}


@pytest.mark.parametrize(
    ("more", "status", "field"),
    [
        ({}, 422, "target"),
        ({"quantity": 0, "received": True}, 422, "quantity"),
        ({"received": True, "source": 1}, 422, "source"),
        ({"target": 10**9}, 404, "target"),
        ({"source": 10**9}, 404, "source"),
        ({"received": True, "client_id": "x"}, 422, "client_id"),
    ],
)
def test_a_move_that_cannot_be_names_what_is_wrong(as_role, crew, more, status, field):
    answer = moves(as_role("technician"), **more)
    assert answer.status_code == status and any(field in name for name in answer.json()["fields"]), answer.json()
    assert lying() == {}


def test_loads_and_an_order_come_as_files(as_role, day, crew):
    client = as_role("planner")
    loads = client.get(f"stock/{day}/loads.csv")
    assert loads["Content-Disposition"] == f'attachment; filename="loads {day}.csv"'
    rows = list(csv.DictReader(io.StringIO(loads.content.decode())))
    washer = next(row for row in rows if row["part"] == "hose washer")
    assert (washer["truck"], washer["have along"], washer["on it"], washer["load"]) == ("Technician", "1", "0", "1")
    Held.objects.create(part="hose washer", quantity=100)
    ordered = client.get("stock-order.csv").content.decode()
    rows = list(csv.DictReader(io.StringIO(ordered)))
    # What lies in the store is not bought; figures stand in the company's units, and no key of a word is left.
    assert rows and all(float(row["quantity"]) > 0 for row in rows) and "hose washer" not in ordered
    assert "{" not in ordered and any(row["part"].startswith("descaler") for row in rows)


@pytest.mark.django_db(transaction=True)
def test_moves_that_cross_wait_for_each_other_and_lose_nothing(crew):
    """Each on a connection of its own, to and fro between two trucks."""
    one, other = (member.pk for member in crew[:2])
    for place in (one, other):
        Held.objects.create(part="hose washer", member_id=place, quantity=100)

    def goes(number: int) -> None:
        source, target = (one, other) if number % 2 else (other, one)
        try:
            move(crew[0].user, Move("hose washer", 1, False, source, target, uuid.uuid4()))
        finally:
            connection.close()

    with ThreadPoolExecutor(4) as threads:
        list(threads.map(goes, range(40)))
    assert lying() == {one: 100, other: 100}

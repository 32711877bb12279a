"""Moving visits by hand, promises, and a day that goes otherwise than planned."""

import datetime
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier

import pytest
from django.db import connections
from django.db.models import Q

from aquifer.core.planning import routing
from aquifer.core.planning.rounds import faults_of
from aquifer.rounds import board
from aquifer.rounds.models import Absence, Appointment, AppointmentStatus, Closed, Service
from tests.conftest import FLUSH, visit


@pytest.fixture
def day(today) -> datetime.date:
    return today + datetime.timedelta(days=3)


@pytest.fixture
def visits(forecasted, crew, day):
    """One a site, two with the technician, one with the lead."""
    week = day - datetime.timedelta(days=day.weekday())
    who, at = (crew[0], crew[0], crew[1]), (480, 600, 480)
    made = [
        Appointment.objects.create(
            site=site, week=week, on=day, member=member, begins=begins, minutes=60, needs=["gas"]
        )
        for site, member, begins in zip(forecasted["sites"], who, at, strict=True)
    ]
    heater = forecasted["heaters"][0]
    Service.objects.create(appointment=made[0], heater=heater, component="sediment", method="drain_and_pulse", hours=1)
    return made


def target(day, member, **more):
    return {"week": str(day), "on": str(day), "member_id": member.pk, **more}


def test_a_move_tells_its_cost_first_and_then_keeps_the_visit_there(as_role, visits, crew, day):
    client, one = as_role("planner"), visits[0]
    told = client.post(f"rounds/appointments/{one.pk}/cost", target(day, crew[1])).json()
    assert told["faults"] == [] and not told["refused"] and told["position"] is not None
    one.refresh_from_db()
    assert one.member_id == crew[0].pk
    moved = client.post(f"rounds/appointments/{one.pk}/move", target(day, crew[1], version=one.version))
    assert moved.status_code == 200, moved.json()
    assert (moved.json()["member_id"], moved.json()["standing"]) == (crew[1].pk, "kept")
    found = board.read(day, day)
    assert [fault for fault in faults_of(found.problem, found.standing()) if fault.shift >= 0] == []
    # And it is taken back with the change it was, the others' times with it.
    assert client.post(f"changes/{moved.headers['X-Change']}/undo", {}).status_code == 200
    one.refresh_from_db()
    assert (one.member_id, one.begins, one.standing) == (crew[0].pk, 480, "planned")


def test_two_planners_do_not_lose_each_others_moves(as_role, visits, crew, day):
    one = visits[0]
    first, second = as_role("planner"), as_role("lead")
    body = target(day, crew[1], version=one.version)
    assert first.post(f"rounds/appointments/{one.pk}/move", body).status_code == 200
    late = second.post(f"rounds/appointments/{one.pk}/move", target(day, crew[0], version=one.version))
    assert late.status_code == 409 and late.json()["code"] == "rounds.moved_meanwhile"
    one.refresh_from_db()
    assert one.member_id == crew[1].pk


@pytest.mark.django_db(transaction=True)
def test_two_planners_who_move_at_the_same_time_wait_for_each_other(as_role, visits, crew, day):
    """Each reads a day and writes what it comes to: without waiting they lock each other out, or put two visits at one
    time."""

    together = Barrier(3, timeout=30)

    def move(planner_and_visit) -> list[int]:
        client, one, members = planner_and_visit
        statuses = []
        try:
            for member in members:
                together.wait()
                version = Appointment.objects.get(pk=one.pk).version
                body = target(day, member, version=version, override=True)
                statuses.append(client.post(f"rounds/appointments/{one.pk}/move", body).status_code)
        finally:
            connections.close_all()
        return statuses

    there_and_back = [crew[1], crew[0]] * 5
    work = [
        (as_role("planner"), visits[0], there_and_back),
        (as_role("lead"), visits[1], there_and_back),
        (as_role("planner"), visits[2], there_and_back[::-1]),
    ]
    with ThreadPoolExecutor(3) as pool:
        statuses = [status for told in pool.map(move, work) for status in told]
    assert len(statuses) == 30 and set(statuses) <= {200, 409} and statuses.count(200) >= 10
    found = board.read(day, day)
    assert [fault for fault in faults_of(found.problem, found.standing()) if fault.shift >= 0] == []


def test_who_may_not_do_it_does_not_get_it(as_role, visits, crew, day):
    one = visits[2]
    Appointment.objects.filter(pk=one.pk).update(needs=["electrical"])
    told = as_role("planner").post(f"rounds/appointments/{one.pk}/cost", target(day, crew[0])).json()
    assert told["refused"] and "takes electrical" in told["faults"][0]
    body = target(day, crew[0], version=one.version, override=True)
    assert as_role("planner").post(f"rounds/appointments/{one.pk}/move", body).status_code == 422


def test_a_broken_promise_is_told_and_has_to_be_meant(as_role, visits, crew, day):
    client, (_, other, one) = as_role("planner"), visits
    promise = {"version": other.version, "standing": "promised", "earliest": 600, "latest": 630}
    assert client.post(f"rounds/appointments/{other.pk}/standing", promise).status_code == 200
    Appointment.objects.filter(pk=one.pk).update(minutes=180)
    body = target(day, crew[0], version=one.version, position=0)
    refused = client.post(f"rounds/appointments/{one.pk}/move", body)
    assert refused.status_code == 409 and "promise" in refused.json()["message"]
    assert client.post(f"rounds/appointments/{one.pk}/move", {**body, "override": True}).status_code == 200


def test_another_day_than_promised_or_a_closed_one_is_told(as_role, visits, crew, day):
    client, (one, _, promised) = as_role("planner"), visits
    other = day + datetime.timedelta(days=1)
    Closed.objects.create(site=one.site, first_on=other, last_on=other, why="let to guests")
    told = client.post(f"rounds/appointments/{one.pk}/cost", target(other, crew[0])).json()
    assert told["faults"] == [f"{one.site.name} is closed on that day"]
    Appointment.objects.filter(pk=promised.pk).update(standing=AppointmentStatus.PROMISED, earliest=480, latest=540)
    told = client.post(f"rounds/appointments/{promised.pk}/cost", target(other, crew[1])).json()
    assert told["faults"] == [f"the promise to {promised.site.name} is of {day.day} {day:%B}"]
    # On a day before its own it would wait for that through the night: nobody is told of minutes after hours.
    sooner = day - datetime.timedelta(days=1)
    told = client.post(f"rounds/appointments/{promised.pk}/cost", target(sooner, crew[1])).json()
    assert told["faults"] == [f"the promise to {promised.site.name} is of {day.day} {day:%B}"]
    places = client.get(f"rounds/appointments/{promised.pk}/places?first={sooner}&days=2").json()
    assert not any("after the day's end" in one for place in places for one in place["faults"])
    body = target(other, crew[1], version=promised.version, override=True)
    moved = client.post(f"rounds/appointments/{promised.pk}/move", body).json()
    # It is offered the time that it has now, as a window around it.
    earliest = moved["earliest"]
    assert (moved["on"], moved["standing"]) == (str(other), "offered")
    assert earliest <= moved["begins"] <= moved["latest"] <= earliest + 105
    # In agreement with them it goes back without a word; without, that is told.
    back = f"rounds/appointments/{promised.pk}/cost"
    assert client.post(back, target(day, crew[1], agreed=True)).json()["faults"] == []
    assert len(client.post(back, target(day, crew[1])).json()["faults"]) == 1


def test_a_week_in_which_a_site_is_closed_leaves_it_without_a_day(visits, day):
    one, sunday = visits[0], day + datetime.timedelta(days=6 - day.weekday())
    Appointment.objects.filter(pk=one.pk).update(on=None, member=None, begins=None)
    Closed.objects.create(site=one.site, first_on=day, last_on=sunday, why="let to guests")
    found = board.read(day, sunday, Q(on__isnull=True, week__gte=visits[1].week))
    assert found.problem.stops[found.number(one.pk)].windows == (board.NEVER,)
    assert found.number(one.pk) in routing.plan(found.problem, 0.1).left_out


def test_a_visit_goes_back_among_the_unplaced_of_a_week(as_role, visits, day):
    client, one = as_role("planner"), visits[0]
    later = day + datetime.timedelta(days=14)
    told = client.post(f"rounds/appointments/{one.pk}/cost", {"week": str(later)}).json()
    assert told["driving"] == 0 and not told["refused"]
    moved = client.post(f"rounds/appointments/{one.pk}/move", {"week": str(later), "version": one.version}).json()
    assert (moved["on"], moved["begins"], moved["standing"]) == (None, None, "planned")
    monday = later - datetime.timedelta(days=later.weekday())
    listed = client.get(f"rounds/unplaced?week={monday}").json()
    assert listed["total"] == 1 and listed["rows"][0]["id"] == one.pk


def test_coming_later_tells_what_is_risked(as_role, visits, day):
    client, one = as_role("planner"), visits[0]
    Appointment.objects.filter(pk=one.pk).update(latest_on=day + datetime.timedelta(days=2))
    later = client.post(f"rounds/appointments/{one.pk}/cost", {"week": str(day + datetime.timedelta(days=200))}).json()
    assert any("past its latest day" in words for words in later["lateness"])
    assert any("over a limit" in words for words in later["lateness"])


def test_the_places_for_who_is_on_the_telephone(as_role, visits, crew, day, django_assert_max_num_queries):
    client = as_role("planner")
    with django_assert_max_num_queries(16):
        told = client.get(f"rounds/appointments/{visits[0].pk}/places?first={day}&days=3").json()
    assert {(one["on"], one["member_id"]) for one in told} == {
        (str(day + datetime.timedelta(days=n)), member.pk) for n in range(3) for member in crew
    }
    assert [len(one["faults"]) for one in told] == sorted(len(one["faults"]) for one in told)
    here = next(one for one in told if one["on"] == str(day) and one["member_id"] == crew[0].pk)
    assert here["driving"] <= 0


def test_a_promise_needs_a_time_and_is_let_go(as_role, visits, day):
    client, one = as_role("planner"), visits[0]
    path = f"rounds/appointments/{one.pk}/standing"
    made = client.post(path, {"version": one.version, "standing": "promised"}).json()
    assert (made["standing"], made["earliest"], made["latest"]) == ("promised", 450, 540)
    past = client.post(path, {"version": made["version"], "standing": "promised", "on": "2020-01-01"})
    assert past.status_code == 422 and "on" in past.json()["fields"]
    wrong = {"version": made["version"], "standing": "promised", "earliest": 600, "latest": 540}
    assert "latest" in client.post(path, wrong).json()["fields"]
    assert client.post(path, {"version": 99, "standing": "planned"}).status_code == 409
    let = client.post(path, {"version": made["version"], "standing": "planned"}).json()
    assert (let["standing"], let["earliest"]) == ("planned", None)
    off = client.post(path, {"version": let["version"], "standing": "called_off"}).json()
    assert (off["standing"], off["on"]) == ("called_off", None)
    assert client.post(path, {"version": off["version"], "standing": "planned"}).status_code == 404


def test_an_overrun_moves_what_must_and_says_so(as_role, visits, crew, day):
    client, (one, other, _) = as_role("planner"), visits
    client.post(
        f"rounds/appointments/{other.pk}/standing",
        {"version": other.version, "standing": "promised", "earliest": 590, "latest": 615},
    )
    body = {"kind": "overrun", "at": 500, "appointment_id": one.pk, "minutes": 240}
    told = client.post(f"rounds/days/{day}/disturbance", body).json()["changes"]
    assert told == [f"{other.site.name} goes from Technician to Lead."]
    other.refresh_from_db()
    assert other.member_id == crew[1].pk and 590 <= other.begins <= 615
    one.refresh_from_db()
    assert (one.member_id, one.begins) == (crew[0].pk, 480)


def test_nobody_in_goes_to_another_day_and_an_emergency_comes_in(as_role, visits, crew, day, forecasted):
    client, one = as_role("planner"), visits[1]
    told = client.post(f"rounds/days/{day}/disturbance", {"kind": "nobody_home", "at": 610, "appointment_id": one.pk})
    assert any("another day" in words for words in told.json()["changes"])
    one.refresh_from_db()
    assert (one.on, one.standing) == (None, AppointmentStatus.PLANNED)
    site = forecasted["sites"][1]
    said = {"words": "water on the floor", "decides": "the owner, 555 0141"}
    body = {"kind": "emergency", "at": 700, "site_id": site.pk, "needs": ["gas"], **said}
    changes = client.post(f"rounds/days/{day}/disturbance", body).json()["changes"]
    assert any(words.startswith(f"{site.name} goes to") for words in changes)
    made = Appointment.objects.get(reason="emergency", said="water on the floor", decides="the owner, 555 0141")
    assert made.on == day and 700 <= made.begins <= 790


def test_a_carried_visit_is_told_every_place_of_the_day_with_what_each_costs(as_role, visits, crew, day):
    client, (one, other, third) = as_role("planner"), visits
    Appointment.objects.filter(pk=other.pk).update(standing=AppointmentStatus.PROMISED, earliest=600, latest=605)
    told = client.get(f"rounds/appointments/{one.pk}/positions?on={day}").json()
    # Before and after the one other visit of each.
    assert [(place["member_id"], place["position"]) for place in told] == [
        (member.pk, position) for member in crew for position in (0, 1)
    ]
    for place in told:
        asked = target(day, one.member.__class__.objects.get(pk=place["member_id"]), position=place["position"])
        assert {**place, **client.post(f"rounds/appointments/{one.pk}/cost", asked).json()} == place
    # After a promise for ten it begins after that.
    assert told[1]["begins"] > 605 > told[0]["begins"]
    Appointment.objects.filter(pk=third.pk).update(needs=["electrical"])
    refused = client.get(f"rounds/appointments/{third.pk}/positions?on={day}").json()
    assert [place["refused"] for place in refused] == [True, True, True, False]
    assert client.get(f"rounds/appointments/999999/positions?on={day}").status_code == 404


def test_a_day_of_who_is_ill_is_dealt_out_in_one_act(as_role, visits, crew, day):
    client, (one, other, third) = as_role("planner"), visits
    Appointment.objects.filter(pk=one.pk).update(standing=AppointmentStatus.PROMISED, earliest=480, latest=700)
    Appointment.objects.filter(pk=other.pk).update(minutes=560, standing=AppointmentStatus.KEPT)
    before = Appointment.objects.get(pk=third.pk)
    body = {"kind": "away", "at": 0, "member_id": crew[0].pk, "words": "ill"}
    answer = client.post(f"rounds/days/{day}/disturbance", body)
    said = answer.json()["changes"]
    assert f"{one.site.name} goes from Technician to Lead." in said
    assert f"{other.site.name} finds no place today any more: call them." in said
    for visit_there in visits:
        visit_there.refresh_from_db()
    assert one.member_id == crew[1].pk and 480 <= one.begins <= 700 and one.standing == AppointmentStatus.PROMISED
    assert (other.member_id, other.begins) == (None, None)
    assert third.member_id == before.member_id
    assert Absence.objects.get().member == crew[0] and Absence.objects.get().why == "ill"
    assert [told["member_id"] for told in client.get(f"rounds/days/{day}").json()["rounds"]] == [crew[1].pk]
    # Nobody is away twice, and the whole is taken back as one change.
    assert client.post(f"rounds/days/{day}/disturbance", body).status_code == 404
    assert client.post(f"changes/{answer.headers['X-Change']}/undo", {}).status_code == 200
    one.refresh_from_db()
    assert one.member_id == crew[0].pk and not Absence.objects.exists()


def test_of_a_day_that_runs_what_was_begun_stays_with_who_began_it(as_role, visits, crew, day):
    client, (one, other, _) = as_role("planner"), visits
    body = {"kind": "away", "at": 500, "member_id": crew[0].pk, "words": "hurt a hand"}
    client.post(f"rounds/days/{day}/disturbance", body)
    one.refresh_from_db()
    other.refresh_from_db()
    assert one.member_id == crew[0].pk
    assert other.member_id == crew[1].pk


@pytest.mark.parametrize(
    ("body", "status"),
    [
        ({"kind": "away", "at": 500, "member_id": 10**9}, 404),
        ({"kind": "overrun", "at": 500, "appointment_id": 10**9}, 404),
        ({"kind": "emergency", "at": 500}, 404),
        ({"kind": "fire", "at": 500}, 422),
        ({"kind": "overrun", "at": 5000}, 422),
    ],
)
def test_a_disturbance_that_cannot_be_is_told(as_role, visits, day, body, status):
    assert as_role("planner").post(f"rounds/days/{day}/disturbance", body).status_code == status


def test_many_are_put_off_at_once_with_what_it_costs_told_first(
    as_role, visits, day, quarter_of_an_hour, django_assert_max_num_queries
):
    client, (one, other, promised) = as_role("planner"), visits
    Appointment.objects.filter(pk=other.pk).update(latest_on=day + datetime.timedelta(days=3))
    Appointment.objects.filter(pk=promised.pk).update(standing=AppointmentStatus.PROMISED, earliest=480, latest=540)
    later = day + datetime.timedelta(days=70)
    body = {"visits": [{"id": v.pk, "version": v.version} for v in visits], "week": str(later)}
    with django_assert_max_num_queries(16):
        told = client.post("rounds/shift", body).json()
    assert (told["moved"], told["stay"], told["past_latest"]) == (2, [promised.site.name], [other.site.name])
    assert told["hours"] == 2.5 and told["capacity"] > 50 and told["over_days"] > 0
    one.refresh_from_db()
    assert one.on == day
    done = client.post("rounds/shift", {**body, "dry": False})
    assert done.json() == told
    monday = later - datetime.timedelta(days=later.weekday())
    there = client.get(f"rounds/weeks/{monday}/appointments").json()
    assert [(v["id"], v["on"], v["standing"]) for v in there] == [(one.pk, None, "kept"), (other.pk, None, "kept")]
    # Nothing is lost: the same again is refused, since they were moved, and the whole is taken back.
    assert client.post("rounds/shift", {**body, "dry": False}).status_code == 409
    assert client.post(f"changes/{done.headers['X-Change']}/undo", {}).status_code == 200
    one.refresh_from_db()
    assert (one.on, one.begins, one.standing) == (day, 480, "planned")


def test_visits_that_come_sooner_stand_less_over_a_limit(as_role, visits, day, today):
    client, one = as_role("planner"), visits[0]
    Appointment.objects.filter(pk=one.pk).update(
        week=day + datetime.timedelta(days=280 - day.weekday()), on=None, member=None, begins=None
    )
    body = {"visits": [{"id": one.pk, "version": one.version}], "week": str(day)}
    assert client.post("rounds/shift", body).json()["over_days"] < 0


@pytest.mark.parametrize(("days", "ids", "field"), [(-14, 1, "week"), (7, 0, "visits")])
def test_a_shift_that_cannot_be_is_told(as_role, visits, today, days, ids, field):
    chosen = [{"id": one.pk, "version": one.version} for one in visits[:ids]]
    answer = as_role("planner").post(
        "rounds/shift", {"visits": chosen, "week": str(today + datetime.timedelta(days=days))}
    )
    assert answer.status_code == 422 and field in answer.json()["fields"]


def test_an_appointment_is_done_when_each_of_its_heaters_was_visited(as_role, visits, today, forecasted):
    one, (first, second) = visits[0], [h for h in forecasted["heaters"] if h.site_id == visits[0].site_id][:2]
    Service.objects.create(appointment=one, heater=second, component="scale", method="descale", hours=1)
    Appointment.objects.filter(pk=one.pk).update(on=today)
    client = as_role("technician")
    for heater, standing in ((first, "planned"), (second, "done")):
        task = FLUSH if heater.kind.endswith("_tank") else {"task": "relief_valve_exercise", "outcome": "no_flow"}
        assert client.post("visits", visit(heater.pk, task, on=str(today))).status_code == 201
        one.refresh_from_db()
        assert one.standing == standing


def test_only_who_plans_moves_and_everybody_reads(as_role, visits, crew, day, quarter_of_an_hour):
    client = as_role("technician")
    one = visits[0]
    assert client.post(f"rounds/appointments/{one.pk}/move", target(day, crew[1], version=1)).status_code == 403
    assert client.post("rounds/runs", {"first": str(day)}).status_code == 403
    read = client.get(f"rounds/days/{day}").json()
    assert [len(each["calls"]) for each in read["rounds"]] == [2, 1]
    assert read["rounds"][0]["way"] and read["rounds"][0]["faults"] == []
    weeks = client.get(f"rounds/weeks?first={day}&count=1").json()
    full = next(each for each in weeks[0]["days"] if each["on"] == str(day))
    assert (full["visits"], full["hours"]) == (3, 3.8) and full["capacity"] > 10
    assert client.get("rounds/season").json()["run"] is None

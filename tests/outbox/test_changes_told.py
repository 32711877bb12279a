"""A customer whose time was changed is told, once, by whatever way it was changed; or is called."""

import datetime
import random
import re
from collections import defaultdict
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier

import pytest
from django.db import connections
from django.test import Client
from django.utils import timezone

from aquifer.company.models import Company
from aquifer.errors import Conflict
from aquifer.outbox import known, links, send, write
from aquifer.outbox.gateway import SimulatedGateway
from aquifer.outbox.models import Contact, Known, Message, MessageKind, MessageState, SimulatedDelivery, Way
from aquifer.rounds import promise, rounds
from aquifer.rounds.models import Appointment, AppointmentStatus
from aquifer.rounds.schemas import PromiseIn
from tests.rounds.conftest import *  # noqa: F403


class Clock:
    """What time it is, for whoever asks."""

    def __init__(self, at: datetime.datetime) -> None:
        self.at = at

    def passes(self, **how: float) -> None:
        self.at += datetime.timedelta(**how)


@pytest.fixture(autouse=True)
def is_sent(settings):
    """Messages are sent at all."""
    settings.MESSAGE_GATEWAY = "aquifer.outbox.gateway.SimulatedGateway"


@pytest.fixture
def clock(monkeypatch):
    """Ten in the morning of today."""
    found = Clock(timezone.make_aware(datetime.datetime.combine(datetime.date.today(), datetime.time(10))))
    monkeypatch.setattr(timezone, "now", lambda: found.at)
    return found


@pytest.fixture
def promised(base, crew, today, clock, as_role):
    """Next week at ten, promised by telephone."""
    customer = base["sites"][0].customer
    customer.email, customer.phone = "bakery@example.com", "555-0101"
    customer.save()
    on = today + datetime.timedelta(days=7)
    one = Appointment.objects.create(
        site=base["sites"][0], week=on - datetime.timedelta(days=on.weekday()), on=on, member=crew[0], begins=600,
        minutes=60,
    )  # fmt: skip
    said = as_role("planner").post(f"rounds/appointments/{one.pk}/standing", {"version": 1, "standing": "promised"})
    assert said.status_code == 200
    one.refresh_from_db()
    return one


def minutes_pass(clock, minutes=6):
    """As the job does every minute."""
    clock.passes(minutes=minutes)
    known.keep_told()
    send.send_waiting(SimulatedGateway())


def moved(as_role, one, on, member, **more):
    one.refresh_from_db()
    body = {"week": str(on), "on": str(on), "member_id": member.pk, "version": one.version, "override": True, **more}
    answered = as_role("planner").post(f"rounds/appointments/{one.pk}/move", body)
    assert answered.status_code == 200, answered.json()
    return answered


def heard():
    return [one.body for one in SimulatedDelivery.objects.order_by("taken_at", "pk")]


def test_a_moved_promise_is_written_once_with_both_times_and_can_be_accepted(as_role, promised, crew, clock):
    was = write.times(promised)
    other = promised.on + datetime.timedelta(days=2)
    moved(as_role, promised, other, crew[0], why="the road is closed")
    minutes_pass(clock, 3)
    assert heard() == []
    for _ in range(3):
        minutes_pass(clock)
    promised.refresh_from_db()
    assert len(heard()) == 1
    for part in (was, write.times(promised), "the road is closed", "Dear "):
        assert part in heard()[0]
    assert promised.standing == AppointmentStatus.OFFERED
    message = Message.objects.get()
    assert "has to move" in Client().get(f"/answer/{links.token(message)}").content.decode()
    assert "We come on" in Client().post(f"/answer/{links.token(message)}", {"said": "accepted"}).content.decode()
    minutes_pass(clock)
    promised.refresh_from_db()
    assert promised.standing == AppointmentStatus.PROMISED and len(heard()) == 1


def test_what_is_taken_back_in_time_is_told_to_nobody(as_role, promised, crew, clock):
    change = moved(as_role, promised, promised.on + datetime.timedelta(days=1), crew[0]).headers["X-Change"]
    clock.passes(minutes=2)
    assert as_role("planner").post(f"changes/{change}/undo", {}).status_code == 200
    for _ in range(4):
        minutes_pass(clock)
    promised.refresh_from_db()
    assert heard() == [] and promised.standing == AppointmentStatus.PROMISED


def test_what_is_taken_back_too_late_is_told_again(as_role, promised, crew, clock):
    change = moved(as_role, promised, promised.on + datetime.timedelta(days=1), crew[0]).headers["X-Change"]
    minutes_pass(clock)
    assert as_role("planner").post(f"changes/{change}/undo", {}).status_code == 200
    minutes_pass(clock)
    promised.refresh_from_db()
    assert len(heard()) == 2 and f"we come to {promised.site.name} on {write.times(promised)}" in heard()[1]


def test_two_moves_are_one_message_that_knows_only_what_was_told(as_role, promised, crew, clock):
    was = write.times(promised)
    moved(as_role, promised, promised.on + datetime.timedelta(days=1), crew[0])
    between = write.times(Appointment.objects.get(pk=promised.pk))
    clock.passes(minutes=2)
    moved(as_role, promised, promised.on + datetime.timedelta(days=3), crew[1])
    minutes_pass(clock)
    minutes_pass(clock)
    promised.refresh_from_db()
    assert len(heard()) == 1 and was in heard()[0] and write.times(promised) in heard()[0]
    assert between not in heard()[0]


def test_called_off_is_told_with_its_reason(as_role, promised, clock):
    body = {"version": promised.version, "standing": "called_off", "why": "our technician is ill"}
    assert as_role("planner").post(f"rounds/appointments/{promised.pk}/standing", body).status_code == 200
    minutes_pass(clock)
    minutes_pass(clock)
    assert len(heard()) == 1 and "our technician is ill" in heard()[0] and "we do not come" in heard()[0]


def test_a_visit_that_planning_threw_away_is_told(promised, clock):
    Appointment.objects.filter(pk=promised.pk).update(standing=AppointmentStatus.PLANNED)
    Appointment.objects.get(pk=promised.pk).delete()
    minutes_pass(clock)
    minutes_pass(clock)
    assert len(heard()) == 1 and "has to be on another day" in heard()[0]
    assert not Known.objects.exists()


def test_who_is_called_is_put_on_the_list_with_what_to_say(as_role, promised, crew, clock):
    Contact.objects.create(customer=promised.site.customer, way=Way.CALL)
    moved(as_role, promised, promised.on + datetime.timedelta(days=1), crew[0], why="the road is closed")
    minutes_pass(clock)
    minutes_pass(clock)
    client = as_role("planner")
    (call,) = [one for one in client.get("outbox/calls").json() if one["message_id"]]
    assert call["phone"] == "555-0101" and "the road is closed" in call["say"][0] and heard() == []
    assert client.post(f"outbox/messages/{call['message_id']}/called", {"said": "accepted"}).status_code == 200
    promised.refresh_from_db()
    assert promised.standing == AppointmentStatus.PROMISED
    minutes_pass(clock)
    assert client.get("outbox/calls").json() == [] and Message.objects.count() == 1
    again = client.post(f"outbox/messages/{call['message_id']}/called", {"said": "told"})
    assert again.status_code == 409


def test_where_no_messages_are_sent_everybody_is_called(as_role, promised, crew, clock, monkeypatch):
    monkeypatch.setattr(write, "sends", lambda: False)
    moved(as_role, promised, promised.on + datetime.timedelta(days=1), crew[0])
    minutes_pass(clock)
    (call,) = [one for one in as_role("planner").get("outbox/calls").json() if one["message_id"]]
    assert call["phone"] == "555-0101" and heard() == []


def test_one_message_that_cannot_be_written_keeps_no_other(as_role, promised, base, crew, clock, monkeypatch):
    other = Appointment.objects.create(
        site=base["sites"][1], week=promised.week, on=promised.on, member=crew[0], begins=720, minutes=60
    )
    said = {"version": 1, "standing": "promised"}
    as_role("planner").post(f"rounds/appointments/{other.pk}/standing", said)
    for one in (promised, other):
        one.refresh_from_db()
        body = {"version": one.version, "standing": "called_off"}
        as_role("planner").post(f"rounds/appointments/{one.pk}/standing", body)
    right = write.change

    def wrong(one, *how):
        if one.pk == promised.pk:
            raise RuntimeError("odd")
        return right(one, *how)

    monkeypatch.setattr(write, "change", wrong)
    minutes_pass(clock)
    minutes_pass(clock)
    assert len(heard()) == 1 and other.site.name in heard()[0]


@pytest.mark.django_db(transaction=True)
def test_customers_who_choose_while_planners_move_end_in_neither_waiting_for_ever(as_role, promised, crew, clock):
    """Real connections: the rounds, the visit, the message and what is known are locked in one order."""
    moved(as_role, promised, promised.on + datetime.timedelta(days=2), crew[0])
    minutes_pass(clock)
    path = f"/answer/{links.token(Message.objects.get())}"
    slot = re.findall(r'value="(slot:[^"]+)"', Client().get(path).content.decode())[0]
    gate, found = Barrier(3), []

    def at_once(work):
        try:
            gate.wait()
            for _ in range(6):
                found.append(work())
        finally:
            connections.close_all()

    def chooses():
        return Client().post(path, {"said": slot}).status_code

    def moves():
        one = Appointment.objects.get(pk=promised.pk)
        on = promised.on + datetime.timedelta(days=4)
        try:
            rounds.move(one.pk, rounds.Target(week=on, on=on, member_id=crew[1].pk), one.version, override=True)
        except Conflict:
            return 409
        return 200

    def tells():
        known.keep_told(clock.at + datetime.timedelta(minutes=9))
        return 200

    with ThreadPoolExecutor(3) as pool:
        for done in [pool.submit(at_once, work) for work in (chooses, moves, tells)]:
            done.result(timeout=60)
    assert len(found) == 18 and set(found) <= {200, 409}


def test_told_by_telephone_is_known_and_told_no_more(as_role, promised, clock):
    Contact.objects.create(customer=promised.site.customer, way=Way.CALL)
    client = as_role("planner")
    body = {"version": promised.version, "standing": "called_off"}
    client.post(f"rounds/appointments/{promised.pk}/standing", body)
    minutes_pass(clock)
    (call,) = client.get("outbox/calls").json()
    # There is nothing to say yes to.
    assert call["answers"] == ["told"]
    assert client.post(f"outbox/messages/{call['message_id']}/called", {"said": "told"}).json()["state"] == "told"
    minutes_pass(clock)
    assert client.get("outbox/calls").json() == [] and Message.objects.count() == 1


def test_a_move_agreed_on_the_telephone_is_a_promise_and_written_to_nobody(as_role, promised, crew, clock):
    told = moved(as_role, promised, promised.on + datetime.timedelta(days=3), crew[0], agreed=True, override=False)
    assert told.json()["standing"] == "promised" and told.json()["earliest"] is not None
    minutes_pass(clock)
    assert heard() == []


def test_nobody_in_and_running_late_are_told_on_the_day(as_role, promised, crew, clock, base):
    Appointment.objects.filter(pk=promised.pk).update(on=clock.at.date(), begins=690, earliest=660, latest=750)
    Known.objects.update(on=clock.at.date(), earliest=660, latest=750)
    client, today = as_role("planner"), clock.at.date()
    Appointment.objects.filter(pk=promised.pk).update(begins=775)
    minutes_pass(clock, 1)
    minutes_pass(clock, 1)
    assert len(heard()) == 1 and "today at about 12:55" in heard()[0]
    Appointment.objects.filter(pk=promised.pk).update(begins=780)
    minutes_pass(clock, 1)
    assert len(heard()) == 1
    said = {"kind": "nobody_home", "at": 780, "appointment_id": promised.pk}
    assert client.post(f"rounds/days/{today}/disturbance", said).status_code == 200
    minutes_pass(clock)
    minutes_pass(clock)
    assert len(heard()) == 2 and "found nobody in" in heard()[1]
    message = Message.objects.get(kind="again")
    shown = Client().get(f"/answer/{links.token(message)}").content.decode()
    assert "Choose a time" in shown and "Yes, please come" not in shown


def test_a_customer_chooses_among_times_that_break_nothing(as_role, promised, crew, clock):
    moved(as_role, promised, promised.on + datetime.timedelta(days=2), crew[0])
    minutes_pass(clock)
    path = f"/answer/{links.token(Message.objects.get())}"
    slots = re.findall(r'value="(slot:[^"]+)">([^<]+)<', Client().get(path).content.decode())
    assert 2 <= len(slots) <= 4 and len({words for _, words in slots}) == len(slots)
    for wrong in ("slot:", "slot:2026-13-01:1", f"slot:{slots[0][0][5:15]}:999999", "slot:1999-01-01:1"):
        assert Client().post(path, {"said": wrong}).status_code == 409
    answered = Client().post(path, {"said": slots[1][0]}).content.decode()
    assert "Thank you" in answered and slots[1][1] in answered
    promised.refresh_from_db()
    assert promised.standing == AppointmentStatus.PROMISED and write.times(promised) == slots[1][1]
    minutes_pass(clock)
    assert len(heard()) == 1


def test_an_offer_is_looked_at_first_sent_later_and_can_be_recalled(as_role, promised, base, crew, clock):
    client, on = as_role("planner"), promised.on
    other = Appointment.objects.create(
        site=base["sites"][1], week=promised.week, on=on, member=crew[0], begins=720, minutes=60
    )
    days = {"first": str(on), "last": str(on)}
    (shown,) = client.post("outbox/offers/preview", days).json()
    assert shown["appointment_id"] == other.pk and shown["way"] == "email" and "We offer" in shown["body"]
    assert "/answer/" not in shown["body"] and not Message.objects.exists()
    naive = {"appointment_ids": [other.pk], "not_before": "2026-12-01T08:00:00"}
    assert client.post("outbox/offers", naive).status_code == 422
    tonight = clock.at + datetime.timedelta(hours=3)
    told = client.post("outbox/offers", {"appointment_ids": [other.pk], "not_before": tonight.isoformat()}).json()
    assert told == {"written": 1, "to_call": 0}
    minutes_pass(clock, 60)
    assert heard() == []
    message = Message.objects.get()
    assert client.post(f"outbox/messages/{message.pk}/recall", {}).json()["state"] == "dropped"
    minutes_pass(clock, 180)
    other.refresh_from_db()
    assert heard() == [] and other.standing == AppointmentStatus.KEPT
    assert client.post(f"outbox/messages/{message.pk}/recall", {}).status_code == 409
    assert client.post("outbox/messages/999999/recall", {}).status_code == 404


def test_an_offer_moved_before_it_was_sent_is_written_of_its_new_time(as_role, promised, base, crew, clock):
    on = promised.on
    other = Appointment.objects.create(
        site=base["sites"][1], week=promised.week, on=on, member=crew[0], begins=720, minutes=60
    )
    as_role("planner").post("outbox/offers", {"appointment_id": other.pk})
    clock.passes(minutes=1)
    moved(as_role, other, on + datetime.timedelta(days=1), crew[1])
    for _ in range(3):
        minutes_pass(clock)
    other.refresh_from_db()
    assert len(heard()) == 1 and f"We offer {write.times(other)}." in heard()[0]


QUIET_FROM, QUIET_UNTIL = 19 * 60, 8 * 60


@pytest.mark.parametrize("seed", [0, *(pytest.param(n, marks=pytest.mark.long) for n in range(1, 40))])
def test_after_a_hundred_random_changes_everybody_knows_what_is_planned(base, crew, clock, today, seed):
    """What customers know is read off the letters that they got, and off nothing else."""
    luck = random.Random(seed)
    company = Company.current()
    company.quiet_from, company.quiet_until = QUIET_FROM, QUIET_UNTIL
    company.save()
    addresses = {}
    for number, site in enumerate(base["sites"]):
        customer = site.customer
        customer.email = f"customer{customer.pk}@example.com"
        customer.save()
        addresses[number] = customer.email
    first = today + datetime.timedelta(days=20)
    visits = [
        Appointment.objects.create(
            site=site, week=first - datetime.timedelta(days=first.weekday()), on=first, member=crew[0], minutes=45,
            begins=480 + 90 * number,
        )
        for number, site in enumerate(base["sites"])
    ]  # fmt: skip
    in_person = defaultdict(list)
    for one in visits:
        told = promise.stand(one.pk, PromiseIn(version=one.version, standing="promised"), today)
        in_person[one.pk].append((clock.at, write.times(told)))
    for _ in range(100):
        one = Appointment.objects.get(pk=luck.choice(visits).pk)
        on = first + datetime.timedelta(days=luck.randrange(8))
        act = luck.random()
        if act < 0.7:
            agreed = luck.random() < 0.2
            target = rounds.Target(week=on, on=on, member_id=luck.choice(crew).pk, agreed=agreed)
            now = rounds.move(one.pk, target, one.version, override=True)
            if agreed:
                in_person[one.pk].append((clock.at, write.times(now)))
        elif act < 0.8:
            rounds.move(one.pk, rounds.Target(week=on), one.version, override=True)
        elif one.on is not None:
            now = promise.stand(
                one.pk, PromiseIn(version=one.version, standing="promised", earliest=540, latest=660), today
            )
            in_person[one.pk].append((clock.at, write.times(now)))
        minutes_pass(clock, luck.choice([0.5, 1, 2, 7, 7, 45, 600]))
        assert Message.objects.filter(state=MessageState.WAITING).count() <= len(visits)
    for _ in range(4):
        minutes_pass(clock, 360)
    letters = defaultdict(list)
    for one in SimulatedDelivery.objects.order_by("taken_at"):
        letters[one.address].append((one.taken_at, one.body))
        local = timezone.localtime(Message.objects.get(key=one.key).sent_at)
        assert QUIET_UNTIL <= 60 * local.hour + local.minute < QUIET_FROM
    for one in visits:
        one.refresh_from_db()
        site = one.site.name
        own = [
            (at, body) for at, body in letters[one.site.customer.email] if f"to {site}" in body or f"at {site}" in body
        ]
        at, knows = max([*in_person[one.pk], *own], key=lambda heard: heard[0])
        told = promise.of(one)
        if told is None:
            assert "has to be on another day" in knows, (seed, one.standing, knows)
        else:
            assert write.times(one) in knows, (seed, write.times(one), knows)
        # Nobody is told the same twice in a row.
        news = [body.split("\n")[2] for _, body in own]
        since = [one_at for one_at, _ in own]
        for before, after, earlier, later in zip(news, news[1:], since, since[1:], strict=False):
            assert before != after or any(earlier < at <= later for at, _ in in_person[one.pk])


@pytest.mark.parametrize(
    ("on_another_day", "begins", "latest", "told"),
    [
        (False, 700, 630, MessageKind.LATE),
        # Nobody is late who comes on another day, at no hour yet, or was promised no hour.
        (True, 700, 630, None),
        (False, None, 630, None),
        (False, 700, None, None),
    ],
)
def test_only_who_comes_today_at_an_hour_can_be_late(
    base, crew, today, monkeypatch, on_another_day, begins, latest, told
):
    on = today + datetime.timedelta(days=on_another_day)
    one = Appointment(site=base["sites"][0], week=on, on=on, member=crew[0], begins=begins, minutes=60,
                      standing=AppointmentStatus.PROMISED, earliest=600, latest=latest)  # fmt: skip
    was = promise.of(one)
    assert known.what_changed(one, was, None, today) == told

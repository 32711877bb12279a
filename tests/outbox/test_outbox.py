"""Customers written to: offers, answers, quiet hours, and a gateway that fails, repeats or answers late."""

import base64
import datetime
import re
import uuid
from smtplib import SMTPRecipientsRefused

import pytest
from django.core.mail import EmailMessage
from django.test import Client
from django.utils import timezone

from aquifer.outbox import calendar, links, send, tasks, write
from aquifer.outbox.gateway import Delivery, OutOfReach, Refused, SimulatedGateway, SmtpGateway
from aquifer.outbox.models import Answer, Contact, Message, MessageState, SimulatedDelivery, Way
from aquifer.rounds.models import Appointment, AppointmentStatus, Service
from tests.rounds.conftest import *  # noqa: F403

LATER = timezone.make_aware(
    datetime.datetime.combine(datetime.date.today() + datetime.timedelta(days=2), datetime.time(12))
)
"""Noon: outside of the quiet hours, whenever the test runs."""


@pytest.fixture
def planned(base, crew, today):
    """Two visits of next week at one customer's sites."""
    customer = base["sites"][0].customer
    customer.email, customer.phone = "bakery@example.com", "555-0101"
    customer.save()
    on = today + datetime.timedelta(days=7)
    week = on - datetime.timedelta(days=on.weekday())
    made = [
        Appointment.objects.create(site=site, week=week, on=on, member=crew[0], begins=begins, minutes=78)
        for site, begins in zip(base["sites"][:2], (540, 700), strict=True)
    ]
    Service.objects.create(
        appointment=made[0], heater=base["heaters"][0], component="sediment", method="drain_and_pulse", hours=1
    )
    return made


@pytest.fixture
def offered(as_role, planned):
    one = planned[0]
    assert as_role("planner").post("outbox/offers", {"appointment_id": one.pk}).json() == {"written": 1, "to_call": 0}
    one.refresh_from_db()
    return one


def page(message: Message, **form):
    path = f"/answer/{links.token(message)}"
    return Client().post(path, form) if form else Client().get(path)


def test_an_offer_says_when_what_to_prepare_and_where_to_answer(offered):
    message = Message.objects.get()
    assert (offered.standing, offered.earliest, offered.latest) == (AppointmentStatus.OFFERED, 510, 600)
    assert "between 8:30 and 10:00" in message.subject and message.address == "bakery@example.com"
    assert "clear a good step" in message.body and "about an hour" in message.body
    # The link as the customer has it: one signed a second later reads otherwise and is as good.
    written = re.search(r"/answer/[\w:-]+", message.body)
    assert written and links.public_address() + written[0] in message.body
    shown = Client().get(written[0]).content.decode()
    assert "Yes, please come" in shown and offered.site.name in shown and "about an hour" in shown


def test_yes_makes_a_promise_and_saying_it_twice_makes_one(offered):
    message = Message.objects.get()
    for _ in range(2):
        assert "We come on" in page(message, said="accepted").content.decode()
    offered.refresh_from_db()
    assert offered.standing == AppointmentStatus.PROMISED and Answer.objects.count() == 1
    late = page(message, said="declined")
    assert late.status_code == 409 and "answered already" in late.content.decode()
    offered.refresh_from_db()
    assert offered.standing == AppointmentStatus.PROMISED


def test_a_promised_visit_can_be_put_into_the_customers_calendar(offered):
    message = Message.objects.get()
    path = f"/answer/{links.token(message)}/visit.ics"
    assert Client().get(path).status_code == 404
    assert path in page(message, said="accepted").content.decode()
    text = Client().get(path).content.decode().replace("\r\n ", "")
    assert re.search(r"DTSTART.*T083000", text) and re.search(r"DTEND.*T100000", text)
    assert "clear a good step" in text
    assert Client().get(path.replace("/visit", "x/visit")).status_code == 404


def test_another_time_goes_back_to_the_planner_with_the_wish(as_role, offered):
    page(Message.objects.get(), said="other_time", words="mornings\x00 after the 10th", sure="yes")
    offered.refresh_from_db()
    assert (offered.standing, offered.on, offered.begins) == (AppointmentStatus.PLANNED, None, None)
    told = as_role("planner").get("outbox/calls").json()
    assert [(one["appointment_id"], one["why"]) for one in told] == [
        (offered.pk, "asks for another time: mornings after the 10th")
    ]
    assert told[0]["phone"] == "555-0101" and len(told[0]["say"]) > 3


REACHED = [
    # way, e-mail, telephone, no more messages, texts are sent: by which, and where
    (None, "a@example.com", "555", False, True, ("email", "a@example.com")),
    (None, "", "555", False, True, ("call", "555")),
    (None, "", "", False, True, ("call", "")),
    ("email", "", "555", False, True, ("call", "555")),
    ("text", "a@example.com", "555", False, True, ("text", "555")),
    ("text", "a@example.com", "555", False, False, ("call", "555")),
    ("text", "a@example.com", "", False, True, ("email", "a@example.com")),
    ("text", "", "", False, True, ("call", "")),
    ("call", "a@example.com", "555", False, True, ("call", "555")),
    ("never", "a@example.com", "555", False, True, ("never", "555")),
    ("email", "a@example.com", "555", True, True, ("call", "555")),
    ("email", "a@example.com", "", True, True, ("never", "")),
]


@pytest.mark.parametrize(("way", "email", "phone", "opted_out", "texted", "reached"), REACHED)
def test_who_is_reached_how_and_where(base, monkeypatch, way, email, phone, opted_out, texted, reached):
    monkeypatch.setattr(write, "texts", lambda: texted)
    customer = base["sites"][0].customer
    customer.email, customer.phone = email, phone
    customer.save()
    if way:
        Contact.objects.create(customer=customer, way=way, opted_out_at=timezone.now() if opted_out else None)
    assert write.reached_by(customer) == reached


@pytest.mark.parametrize(
    ("said", "told"), [("declined", "no visit this time"), ("other_time", "another time</strong>: after the 10th")]
)
def test_what_lets_a_time_go_is_looked_over_before_it_counts(offered, said, told):
    message = Message.objects.get()
    asked = page(message, said=said, words="after the 10th").content.decode()
    assert told in asked and 'name="sure"' in asked and "goes to somebody else" in asked
    offered.refresh_from_db()
    assert offered.standing == AppointmentStatus.OFFERED and not Answer.objects.exists()
    # Whoever did not mean it is where they were.
    assert "Yes, please come" in page(message).content.decode()
    assert "Is this what you mean?" not in page(message, said=said, words="after the 10th", sure="yes").content.decode()
    assert Answer.objects.get().said == said


def test_declined_is_called_off(offered):
    page(Message.objects.get(), said="declined", sure="yes")
    offered.refresh_from_db()
    assert offered.standing == AppointmentStatus.CALLED_OFF


def test_a_time_that_was_moved_meanwhile_is_no_longer_on_offer(offered):
    message = Message.objects.get()
    Appointment.objects.filter(pk=offered.pk).update(earliest=700, latest=800)
    assert "no longer on offer" in page(message).content.decode()
    assert page(message, said="accepted").status_code == 409
    assert not Answer.objects.exists()


def test_an_offer_that_was_taken_back_is_not_sent(offered):
    Appointment.objects.filter(pk=offered.pk).update(standing=AppointmentStatus.PLANNED)
    assert send.send_waiting(SimulatedGateway(), LATER) == 0
    assert Message.objects.get().state == MessageState.DROPPED and not SimulatedDelivery.objects.exists()


def test_a_shift_of_minutes_within_the_offer_leaves_it_on_offer(offered):
    Appointment.objects.filter(pk=offered.pk).update(begins=555, version=9)
    assert "We come on" in page(Message.objects.get(), said="accepted").content.decode()


def test_a_link_cannot_be_guessed_altered_or_used_for_another(as_role, offered, planned):
    message = Message.objects.get()
    token = links.token(message)
    as_role("planner").post("outbox/offers", {"appointment_id": planned[1].pk})
    other = Message.objects.exclude(pk=message.pk).get()
    key, _, signature = token.partition(":")
    other_key = links.token(other).partition(":")[0]
    for wrong in (token[:-1], token[:-2] + "xx", f"{other_key}:{signature}", str(message.key), "a" * 200, "1"):
        answer = Client().get(f"/answer/{wrong}")
        assert answer.status_code == 404 and offered.site.name not in answer.content.decode()
    assert planned[1].site.name not in page(message).content.decode()
    assert key and Client().get(f"/answer/{token}").status_code == 200


def test_a_link_expires(offered, monkeypatch):
    token = links.token(Message.objects.get())
    monkeypatch.setattr(links, "GOOD_FOR", datetime.timedelta(seconds=-1))
    answer = Client().get(f"/answer/{token}")
    assert answer.status_code == 410 and "no longer good" in answer.content.decode()
    assert Client().post(f"/answer/{token}", {"said": "accepted"}).status_code == 410


class Failing(SimulatedGateway):
    """Out of reach so many times, with the message taken or not, and then well."""

    def __init__(self, times: int, taken: bool) -> None:
        self.times, self.taken = times, taken

    def send(self, key, address, subject, body):
        if self.times > 0:
            self.times -= 1
            if self.taken:
                super().send(key, address, subject, body)
            raise OutOfReach("busy")
        super().send(key, address, subject, body)


@pytest.mark.parametrize("taken", [False, True])
def test_a_gateway_that_fails_loses_and_doubles_nothing(offered, taken):
    gateway, now = Failing(2, taken), LATER
    for _ in range(5):
        send.send_waiting(gateway, now)
        now += datetime.timedelta(minutes=20)
    message = Message.objects.get()
    assert (message.state, message.tries) == (MessageState.SENT, 3)
    assert SimulatedDelivery.objects.get().key == message.key


def test_a_worker_that_dies_after_sending_sends_the_same_once_more_and_it_is_one(offered):
    send.send_waiting(SimulatedGateway(), LATER)
    Message.objects.update(state=MessageState.WAITING, sent_at=None)
    send.send_waiting(SimulatedGateway(), LATER)
    assert SimulatedDelivery.objects.count() == 1


def test_what_is_never_taken_ends_on_the_call_list(as_role, offered):
    gateway, now = Failing(99, False), LATER
    for _ in range(16):
        send.send_waiting(gateway, now)
        now += datetime.timedelta(hours=3)
    message = Message.objects.get()
    assert (message.state, message.tries, message.trouble) == (MessageState.FAILED, send.MOST_TRIES, "busy")
    assert [one["why"] for one in as_role("planner").get("outbox/calls").json()] == ["busy"]


def test_late_and_repeated_news_change_nothing(offered):
    send.send_waiting(SimulatedGateway(), LATER)
    message = Message.objects.get()
    page(message, said="accepted")

    class Repeating(SimulatedGateway):
        def became(self, keys):
            return {message.key: Delivery.FAILED, links.uuid.uuid4(): Delivery.DELIVERED}

    assert send.ask_after(Repeating()) == 0
    message.refresh_from_db()
    assert message.state == MessageState.ANSWERED


def test_a_bounce_and_a_refusal_are_told(as_role, planned):
    customer = planned[0].site.customer
    for address, state in (("bounce@example.com", MessageState.FAILED), ("refuse@example.com", MessageState.FAILED)):
        Message.objects.all().delete()
        customer.email = address
        customer.save()
        Appointment.objects.filter(pk=planned[0].pk).update(standing=AppointmentStatus.PLANNED)
        write.offer(Appointment.objects.filter(pk=planned[0].pk).select_related("site__customer"))
        send.send_waiting(SimulatedGateway(), LATER)
        for _ in range(2):
            send.ask_after(SimulatedGateway())
        assert Message.objects.get().state == state and Message.objects.get().trouble


def test_who_wants_no_messages_is_called(as_role, offered, planned, settings):
    settings.MESSAGE_GATEWAY = "aquifer.outbox.gateway.SimulatedGateway"
    page(Message.objects.get(), said="stop")
    told = as_role("planner").post("outbox/offers", {"appointment_id": planned[1].pk}).json()
    assert told == {"written": 0, "to_call": 1}
    assert Message.objects.get().state == MessageState.DROPPED
    assert planned[1].pk in [one["appointment_id"] for one in as_role("planner").get("outbox/calls").json()]
    body = as_role("planner").raw.put(
        f"/api/outbox/contacts/{offered.site.customer_id}", {"way": "text"}, content_type="application/json"
    )
    said = {"version": 2, "way": "text", "opted_out": False, "reached_by": "text", "address": "555-0101"}
    assert body.json() == said
    assert Contact.objects.get().way == Way.TEXT
    assert as_role("technician").get(f"outbox/contacts/{offered.site.customer_id}").json() == body.json()
    assert as_role("technician").get("outbox/contacts/999999").status_code == 404


@pytest.mark.parametrize(
    ("begins", "offered"), [(540, (510, 600)), (922, (885, 990)), (10, (0, 75)), (1430, (1395, 1439))]
)
def test_times_are_offered_to_the_quarter_of_an_hour_and_never_narrower(begins, offered):
    assert write.around(begins) == offered


@pytest.mark.parametrize(("hour", "sent"), [(7, 8), (8, 8), (12, 12), (19, 19), (20, 8), (23, 8)])
def test_nobody_is_written_to_at_night(db, hour, sent):
    at = timezone.make_aware(datetime.datetime(2026, 3, 9, hour, 0))
    due = timezone.localtime(write.after_quiet(at))
    assert due.hour == sent and (due.date() - at.date()).days == (1 if hour >= 20 else 0)


def test_a_promised_visit_is_reminded_of_once(offered, today):
    on = today + datetime.timedelta(days=2)
    Appointment.objects.filter(pk=offered.pk).update(standing=AppointmentStatus.PROMISED, on=on)
    assert (write.remind(today), write.remind(today)) == (1, 0)
    reminder = Message.objects.filter(kind="reminder").get()
    assert reminder.subject.startswith("We come on")
    # Who can not be there any more says so in the reminder, instead of nowhere.
    link = re.search(r"/answer/\S+", reminder.body)[0].partition("#")[0]
    page = Client().get(link).content.decode()
    assert "We come to" in page and "Another time, please" in page
    Client().post(link, {"said": "other_time", "words": "after the 10th", "sure": "yes"})
    offered.refresh_from_db()
    assert (offered.standing, offered.on) == (AppointmentStatus.PLANNED, None) and "after the 10th" in offered.note


def test_offering_some_days_writes_to_all_of_them_and_twice_writes_once(as_role, planned, today):
    client = as_role("planner")
    body = {"first": str(today), "last": str(today + datetime.timedelta(days=14))}
    assert client.post("outbox/offers", body).json()["written"] == 2
    assert client.post("outbox/offers", body).json()["written"] == 0
    assert Message.objects.count() == 2
    far = {"first": str(today), "last": str(today + datetime.timedelta(days=60))}
    assert client.post("outbox/offers", far).status_code == 422
    assert as_role("technician").post("outbox/offers", body).status_code == 403
    listed = client.get("outbox/messages").json()
    assert [one["state"] for one in listed] == ["waiting", "waiting"] and listed[0]["customer"] == "Marram Bakery"


def test_a_technicians_calendar_has_each_visit_once_under_its_own_id(as_role, planned, people):
    addresses = {one["name"]: one["address"] for one in as_role("planner").get("outbox/calendars").json()}
    path = re.sub(r"^https?://[^/]+", "", addresses["Technician"])
    text = Client().get(path).content.decode()
    assert text.count("BEGIN:VEVENT") == 2 and "SUMMARY:Site 1" in text
    first = re.findall(r"UID:(\S+)", text)
    Appointment.objects.filter(pk=planned[0].pk).update(begins=600, version=5)
    assert re.findall(r"UID:(\S+)", Client().get(path).content.decode()) == first
    assert Client().get(path.replace(".ics", "x.ics")).status_code == 404
    people["technician"].set_password("another-password")
    people["technician"].save()
    assert Client().get(path).status_code == 404


def test_mail_goes_by_the_company_s_server_once_under_its_key(settings, mailoutbox, monkeypatch):
    settings.MAIL_FROM = "office@tarn.example"
    key = uuid.uuid4()
    SmtpGateway().send(key, "una@example.com", "We come on Tuesday", "Between 7:15 and 8:45.")
    (mail,) = mailoutbox
    assert mail.extra_headers["Message-ID"] == f"<{key}@tarn.example>" and mail.to == ["una@example.com"]
    assert SmtpGateway().became([key]) == {}

    def refusing(*_):
        raise SMTPRecipientsRefused({})

    monkeypatch.setattr(EmailMessage, "send", refusing)
    with pytest.raises(Refused):
        SmtpGateway().send(key, "nobody@example.com", "", "")

    def away(*_):
        raise ConnectionRefusedError("no answer")

    monkeypatch.setattr(EmailMessage, "send", away)
    with pytest.raises(OutOfReach, match="no answer"):
        SmtpGateway().send(key, "una@example.com", "", "")


def test_without_a_gateway_nothing_is_sent_and_that_is_said(settings, as_role, monkeypatch):
    settings.MESSAGE_GATEWAY = ""
    monkeypatch.setattr(tasks.send, "send_waiting", lambda gateway: pytest.fail("sent"))
    tasks.send_waiting(0)
    assert as_role("planner").get("company").json()["messages_are_sent"] is False


def test_what_was_promised_or_taken_off_the_day_meanwhile_is_not_offered(planned):
    promised, moved = planned
    # Somebody else's request was first: these objects are as they were read before it.
    Appointment.objects.filter(pk=promised.pk).update(standing=AppointmentStatus.PROMISED)
    Appointment.objects.filter(pk=moved.pk).update(on=None, begins=None, member=None)
    assert write.offer(planned) == (0, []) and not Message.objects.exists()
    assert Appointment.objects.get(pk=promised.pk).standing == AppointmentStatus.PROMISED


def test_the_customers_own_link_is_for_those_who_write_to_them(as_role, offered):
    link = re.search(r"/answer/\S+", Message.objects.get().body)[0]
    for role, sees in (("lead", True), ("planner", True), ("technician", False), ("apprentice", False)):
        (told,) = as_role(role).get("outbox/messages").json()
        assert (link in told["body"]) is sees and "We offer" in told["body"]
        assert ("(the customer's own link)" in told["body"]) is not sees


def test_a_gateway_that_fails_at_one_message_sends_the_others(offered, planned):
    write.offer([planned[1]])

    class Faulty(SimulatedGateway):
        def send(self, key, address, subject, body):
            if key == first.key:
                raise KeyError("its own fault")
            super().send(key, address, subject, body)

    first, second = Message.objects.order_by("pk")
    assert send.send_waiting(Faulty(), LATER) == 1
    first.refresh_from_db()
    second.refresh_from_db()
    assert (first.state, first.tries, first.trouble) == (MessageState.WAITING, 1, "the gateway failed: KeyError")
    assert second.state == MessageState.SENT


def test_a_calendar_link_tells_nothing_of_a_password_and_dies_with_it(people, crew):
    member = crew[0]
    member.user.set_password("seven brass unions")
    member.user.save()
    key = calendar.key_of(member)
    payload = base64.urlsafe_b64decode(key.split(":")[0] + "==").decode()
    assert member.user.password[-12:] not in payload
    assert calendar.of_member(key, datetime.date(2026, 11, 27)) is not None
    member.user.set_password("nine copper elbows")
    member.user.save()
    assert calendar.of_member(key, datetime.date(2026, 11, 27)) is None

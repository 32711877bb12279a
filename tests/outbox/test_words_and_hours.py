"""What is written of each kind of news, to whom and when: every sentence and every edge of the hours written out."""

import datetime

import pytest
from django.utils import timezone

from aquifer.company.models import Company
from aquifer.outbox import write
from aquifer.outbox.models import Contact, Message, MessageKind, MessageState
from aquifer.rounds.models import Appointment, AppointmentStatus
from aquifer.rounds.promise import Promise
from tests.outbox.test_outbox import offered, planned  # noqa: F401
from tests.rounds.conftest import crew, today  # noqa: F401

TUESDAY = datetime.date(2031, 6, 10)
WAS = Promise(datetime.date(2031, 6, 3), 510, 600)
DAY = datetime.timedelta(days=1)


@pytest.fixture
def visit(base, crew):  # noqa: F811
    made = Appointment.objects.create(
        member=crew[0], site=base["sites"][0], week=TUESDAY - DAY, on=TUESDAY, begins=555, minutes=60,
        earliest=540, latest=630,
        standing=AppointmentStatus.OFFERED, why="the truck is in the shop",
    )  # fmt: skip
    company = Company.current()
    company.name, company.phone = "Brightwater", "555-0100"
    company.save()
    return made


@pytest.mark.parametrize(
    ("kind", "standing", "subject", "news"),
    [
        (
            "offer", "offered", "Your water heater: may we come on {t}?",
            "the care of the water heater at Site 1 is due. We offer {t}.",
        ),
        ("reminder", "promised", "We come on {t}", "a reminder: we come to Site 1 on {t}."),
        (
            "called_off", "called_off", "Our visit to your water heater is called off",
            "we do not come to Site 1 on {w}, as we had said: the truck is in the shop. Please call us when it suits "
            "you again.",
        ),
        (
            "again", "planned", "Our visit to your water heater needs another day",
            "our visit to Site 1, agreed for {w}, has to be on another day: the truck is in the shop. We are sorry.",
        ),
        (
            "late", "promised", "We come later today, about 9:15",
            "we are running late: we are at Site 1 today at about 9:15. We are sorry.",
        ),
        (
            "moved", "promised", "We come on {t}",
            "we come to Site 1 on {t}, and not on {w}: the truck is in the shop.",
        ),
        (
            "moved", "offered", "Our visit has to move: may we come on {t}?",
            "we cannot come to Site 1 on {w}, as we had said: the truck is in the shop. We offer {t} in its place.",
        ),
    ],
)  # fmt: skip
def test_each_news_has_its_words(visit, kind, standing, subject, news):
    visit.standing = standing
    told = {"t": "Tuesday 10 June, beginning between 9:00 and 10:30"}
    told["w"] = "Tuesday 3 June, beginning between 8:30 and 10:00"
    kind = MessageKind(kind)
    assert write.subject(visit, kind) == subject.format(**told)
    said = news.format(**told)
    assert write.to_say(visit, kind, WAS).split("\n")[0] == said[0].upper() + said[1:]
    body = write.body(visit, kind, Message(customer=visit.site.customer, kind=kind), WAS).split("\n")
    assert body[:3] == ["Dear Marram Bakery,", "", said]
    assert ("Before we come:" in body) is (kind in (MessageKind.OFFER, MessageKind.REMINDER, MessageKind.MOVED))
    assert "Brightwater" in body and "Telephone 555-0100" in body and body[-1].endswith("#stop")
    visit.why = ""
    assert ": the truck" not in write.body(visit, kind, Message(customer=visit.site.customer, kind=kind), WAS)


def test_a_time_is_told_as_far_as_it_is_known():
    assert write.told_times(None) == "a day that we still have to agree"
    for known in (Promise(TUESDAY, None, None), Promise(TUESDAY, 540, None), Promise(TUESDAY, None, 540)):
        assert write.told_times(known) == "Tuesday 10 June"


def test_a_company_without_a_telephone_names_none(visit):
    Company.objects.update(phone="")
    body = write.body(visit, MessageKind.OFFER, Message(customer=visit.site.customer, kind=MessageKind.OFFER))
    assert "Telephone" not in body and "Say yes" in body


@pytest.mark.parametrize(
    ("begins", "ends", "at", "sent"),
    [
        ((20, 0), (8, 0), (19, 59), None), ((20, 0), (8, 0), (20, 0), (1, 8, 0)), ((20, 0), (8, 0), (7, 59), (0, 8, 0)),
        ((20, 0), (8, 0), (8, 0), None), ((20, 0), (8, 0), (0, 0), (0, 8, 0)),
        ((21, 30), (7, 15), (21, 29), None), ((21, 30), (7, 15), (21, 30), (1, 7, 15)),
        # Of a company that rests at noon.
        ((12, 0), (13, 30), (11, 59), None), ((12, 0), (13, 30), (12, 0), (0, 13, 30)),
        ((12, 0), (13, 30), (13, 29), (0, 13, 30)), ((12, 0), (13, 30), (13, 30), None),
        # And of one that has none.
        ((0, 0), (0, 0), (0, 0), None), ((0, 0), (0, 0), (12, 0), None),
    ],
)  # fmt: skip
def test_quiet_hours_end_when_the_company_says(db, begins, ends, at, sent):
    company = Company.current()
    company.quiet_from, company.quiet_until = 60 * begins[0] + begins[1], 60 * ends[0] + ends[1]
    company.save()
    moment = timezone.make_aware(datetime.datetime(2026, 3, 9, *at))
    due = timezone.localtime(write.after_quiet(moment))
    expected = (0, *at) if sent is None else sent
    assert ((due.date() - datetime.date(2026, 3, 9)).days, due.hour, due.minute) == expected


def test_an_offer_waits_five_minutes_and_not_before_it_was_to(planned, monkeypatch):  # noqa: F811
    now = timezone.make_aware(datetime.datetime(2026, 3, 9, 12, 0))
    monkeypatch.setattr(write.timezone, "now", lambda: now)
    assert write.offer(planned[:1]) == (1, [])
    assert Message.objects.get().not_before == now + datetime.timedelta(minutes=5)
    later = now + datetime.timedelta(hours=2)
    assert write.offer(planned[1:], later) == (1, [])
    assert Message.objects.latest("pk").not_before == later
    planned[0].refresh_from_db()
    assert (planned[0].standing, planned[0].version) == ("offered", 2)
    assert write.offer(planned) == (0, []), "what is on offer is not offered again"


def test_who_is_called_is_told_to_the_planner_and_written_nothing(planned):  # noqa: F811
    customer = planned[0].site.customer
    customer.email = ""
    customer.save()
    for one in planned:
        one.site.customer.refresh_from_db()
    assert write.offer(planned) == (0, planned) and not Message.objects.exists()
    shown = write.previewed(planned[0])
    assert (shown["way"], shown["address"], shown["customer"]) == ("call", "555-0101", "Marram Bakery")
    assert shown["body"].startswith("The care of the water heater at Site 1 is due. We offer ")
    assert (shown["on"], shown["site"]) == (planned[0].on, "Site 1") and "between 8:30 and 10:00" in shown["times"]


@pytest.mark.parametrize("more", [
    {"standing": "offered"}, {"standing": "promised"}, {"begins": None}, {"on": None}, {"standing": "done"},
])  # fmt: skip
def test_only_what_has_a_time_that_nobody_was_told_can_be_offered(visit, more):
    visit.standing = "planned"
    assert write.can_be_offered(visit)
    visit.standing = "kept"
    assert write.can_be_offered(visit)
    for name, value in more.items():
        setattr(visit, name, value)
    assert not write.can_be_offered(visit)


@pytest.mark.parametrize(("ahead", "days", "reminded"), [
    (0, 2, 0), (1, 2, 1), (2, 2, 1), (3, 2, 0), (3, 3, 1), (1, 0, 0),
])  # fmt: skip
def test_a_reminder_goes_out_so_many_days_before(offered, today, ahead, days, reminded):  # noqa: F811
    Company.objects.update(remind_days=days)
    Appointment.objects.filter(pk=offered.pk).update(standing="promised", on=today + ahead * DAY)
    assert write.remind(today) == reminded
    assert Message.objects.filter(kind="reminder").count() == reminded


def test_a_reminder_that_was_dropped_is_written_again_and_none_to_who_is_called(offered, today):  # noqa: F811
    Appointment.objects.filter(pk=offered.pk).update(standing="promised", on=today + DAY)
    assert write.remind(today) == 1
    Message.objects.filter(kind="reminder").update(state=MessageState.DROPPED)
    assert write.remind(today) == 1
    Message.objects.filter(kind="reminder").delete()
    customer = offered.site.customer
    customer.email = ""
    customer.save()
    assert write.remind(today) == 0


def test_what_is_recalled_is_kept_and_only_what_waits_can_be(offered):  # noqa: F811
    message = Message.objects.get()
    for state in (MessageState.SENT, MessageState.TO_CALL):
        Message.objects.update(state=state)
        with pytest.raises(write.Conflict):
            write.recall(message.pk)
    Message.objects.update(state=MessageState.WAITING, kind=MessageKind.REMINDER)
    with pytest.raises(write.Conflict):
        write.recall(message.pk)
    Message.objects.update(kind=MessageKind.OFFER)
    assert write.recall(message.pk).state == MessageState.DROPPED
    offered.refresh_from_db()
    assert (offered.standing, offered.earliest, offered.latest) == ("kept", None, None)
    with pytest.raises(write.NotFound):
        write.recall(0)


def test_what_was_moved_meanwhile_stays_as_it_is_when_its_offer_is_recalled(offered):  # noqa: F811
    Appointment.objects.filter(pk=offered.pk).update(earliest=600, latest=690)
    write.recall(Message.objects.get().pk)
    offered.refresh_from_db()
    assert (offered.standing, offered.earliest) == ("offered", 600)


def test_who_changed_how_a_customer_is_reached_is_told_to_the_next(as_role, base):
    customer = base["sites"][0].customer
    path, client = f"/api/outbox/contacts/{customer.pk}", as_role("planner").raw

    def said(way):
        return client.put(path, {"way": way, "version": 0}, content_type="application/json")

    assert said("call").status_code == 200
    late = said("email")
    told = Contact.objects.get().get_way_display()
    assert late.status_code == 409 and f"Marram Bakery is to be reached {told}." in late.json()["message"]
    Contact.objects.update(opted_out_at=timezone.now())
    assert "Marram Bakery wants no messages." in said("email").json()["message"]

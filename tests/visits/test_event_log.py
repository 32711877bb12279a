"""The event log of a visit: every tap once, in one order, from any number of devices, whatever happens on the way."""

import datetime
import random
import uuid

import pytest
from django.db import DatabaseError, connection, transaction
from django.utils import timezone

from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Heater, LeftAs
from aquifer.money.models import Quote
from aquifer.open_ends.models import OpenEnd, OpenEndKind
from aquifer.visiting import event_log
from aquifer.visits.models import Amendment, Event, Finding, Visit, VisitSession
from tests.conftest import FLUSH, VALVE, visit
from tests.visits.devices import Device


@pytest.fixture
def heater(forecasted):
    return forecasted["heaters"][0]


@pytest.fixture
def phone(as_role, heater):
    return Device(as_role("technician"), heater)


def test_a_tap_that_comes_twice_is_one_and_is_in_the_record(phone, heater):
    first, other = phone.tap(), phone.tap("arrival.shut_off", "deviation", choice=1)
    phone.says(first)
    phone.says(first, other, other)
    phone.says(first)
    assert Event.objects.count() == 2
    assert phone.client.post("visits", visit(heater.pk, VALVE, client_id=phone.visit)).status_code == 201
    steps = Visit.objects.get().steps
    assert [(one["kind"], one["step"]) for one in steps] == [
        ("done", "arrival.greet"),
        ("deviation", "arrival.shut_off"),
    ]
    assert steps[0]["by"] and VisitSession.objects.get().visit == Visit.objects.get()


def test_what_was_taken_back_is_not_in_the_record_and_what_was_answered_last_counts(phone, heater):
    wrong = phone.tap()
    phone.says(wrong, phone.tap("", "undo", of=wrong["client_id"]))
    phone.says(
        phone.tap(),
        phone.tap("", "answered", field="verify.tap_c", value=80),
        phone.tap("", "answered", field="verify.tap_c", value=49.5),
    )
    phone.client.post("visits", visit(heater.pk, VALVE, client_id=phone.visit))
    recorded = Visit.objects.get()
    # What was tapped stays in the record, marked as taken back.
    assert [(one["kind"], one.get("taken_back", False)) for one in recorded.steps] == [
        ("done", True), ("undo", False), ("done", False),
    ]  # fmt: skip
    assert recorded.readings == {"verify.tap_c": 49.5}
    assert Event.objects.count() == 5


def test_two_devices_at_one_heater_are_one_visit_and_come_to_know_the_same(as_role, heater):
    one, other = Device(as_role("technician"), heater), Device(as_role("lead"), heater)
    one.says(one.tap(), one.tap("arrival.shut_off"))
    told = other.client.get(f"heaters/{heater.pk}/guide").json()["session"]
    assert (told["client_id"], told["events"], told["components"]) == (one.visit, 2, ["relief_valve"])
    # The other one began by itself, without a signal, before it could know.
    joined = other.says(other.tap(), other.tap("arrival.look"))
    assert joined["client_id"] == one.visit and len(joined["events"]) == 4
    one.says()
    assert one.known == other.known
    assert VisitSession.objects.count() == 2
    # What both did is in the record, each with who did it.
    assert as_role("lead").post("visits", visit(heater.pk, VALVE, client_id=other.visit)).status_code == 201
    steps = [step["step"] for step in Visit.objects.get().steps]
    assert sorted(steps) == ["arrival.greet", "arrival.greet", "arrival.look", "arrival.shut_off"]
    recorded = one.says(one.tap("relief_exercise.lift"))["recorded"]
    assert recorded["id"] == Visit.objects.get().pk and recorded["already_recorded"]
    assert len(Visit.objects.get().steps) == 4 and Event.objects.count() == 5
    assert as_role("technician").get(f"heaters/{heater.pk}/guide").json()["session"] is None


def test_the_second_device_that_saves_is_told_what_of_its_own_is_not_in_the_record(as_role, heater):
    one, other = Device(as_role("technician"), heater), Device(as_role("lead"), heater)
    one.says(one.tap())
    own = other.visit
    other.says(other.tap())
    assert one.client.post("visits", visit(heater.pk, VALVE, client_id=one.visit)).status_code == 201
    second = as_role("lead").post("visits", visit(heater.pk, VALVE, FLUSH, client_id=own))
    assert second.status_code == 200
    told = second.json()
    assert told["already_recorded"] and len(told["not_in_record"]) == 1 and "flakes" in told["not_in_record"][0]
    assert Visit.objects.count() == 1 and Finding.objects.count() == 1
    added = {"client_id": str(uuid.uuid4()), "findings": [FLUSH], "why": "the second device had it"}
    moved = as_role("lead").post(f"visits/{told['id']}/amendments", added)
    assert moved.status_code == 201 and "sediment" in {one["component"] for one in moved.json()}
    assert as_role("lead").post(f"visits/{told['id']}/amendments", added).json() == []
    assert Finding.objects.count() == 2 and Finding.objects.last().amendment == Amendment.objects.get()


def test_what_was_recorded_is_put_right_beside_it_and_never_changed(as_role, heater):
    lead = as_role("lead")
    made = lead.post("visits", visit(heater.pk, VALVE)).json()
    weeps = {"task": "relief_valve_exercise", "outcome": "flows_and_weeps"}
    body = {"client_id": str(uuid.uuid4()), "findings": [weeps], "why": "it dripped when I came back"}
    assert lead.post(f"visits/{made['id']}/amendments", body).status_code == 201
    first, second = Finding.objects.order_by("pk")
    assert second.corrects == first and second.sequence == 1
    entry = lead.get(f"heaters/{heater.pk}/log").json()["entries"][-1]
    assert entry["visit_id"] == made["id"] and entry["amended"]
    assert len(entry["lines"]) == 1 and "wept" in entry["lines"][0]["words"]
    assert lead.post(f"visits/{made['id']}/amendments", body | {"why": ""}).status_code == 422
    assert lead.post("visits/999999/amendments", body | {"client_id": str(uuid.uuid4())}).status_code == 404
    for change in (
        lambda: Visit.objects.update(note="deviation"),
        lambda: Visit.objects.update(moved=[]),
        lambda: Amendment.objects.update(why="deviation"),
        lambda: Amendment.objects.update(moved=[]),
        lambda: connection.cursor().execute("DELETE FROM visits_amendment"),
    ):
        with pytest.raises(DatabaseError, match="never changed"), transaction.atomic():
            change()


def test_the_event_log_is_kept_by_the_database_itself(phone):
    phone.says(phone.tap())
    with pytest.raises(DatabaseError, match="never changed"), transaction.atomic():
        Event.objects.update(kind="skipped")
    with pytest.raises(DatabaseError, match="never changed"), transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("DELETE FROM visits_event")
    with pytest.raises(event_log.Event._meta.get_field("session").remote_field.model.DoesNotExist):
        VisitSession.objects.get(client_id=uuid.uuid4())


def test_a_server_that_dies_half_way_has_nothing_or_all(phone, monkeypatch):
    taps = [phone.tap(), phone.tap("arrival.shut_off")]
    phone.client.raise_request_exception = False
    with monkeypatch.context() as dying:
        dying.setattr(event_log, "told", lambda one: 1 / 0)
        body = {
            "client_id": phone.visit,
            "heater_id": phone.heater.pk,
            "components": [],
            "order": [],
            "device": phone.id,
            "events": taps,
        }
        with pytest.raises(ZeroDivisionError):
            phone.client.post("visits/sessions", body)
    phone.says(*taps)
    assert Event.objects.count() == 2


def test_any_way_of_sending_leaves_each_tap_once_in_the_order_of_the_clocks(as_role, heater):
    chance = random.Random(6)
    devices = [Device(as_role("technician"), heater), Device(as_role("lead"), heater)]
    told: dict[str, int] = {}
    unsent: list[list[dict]] = [[], []]
    for _ in range(120):
        number = chance.randrange(2)
        as_role("technician" if number == 0 else "lead")
        device = devices[number]
        one = device.tap(f"arrival.step_{'abcdefgh'[chance.randrange(8)]}", chance.choice(["done", "skipped"]))
        told[one["client_id"]] = one["clock"]
        unsent[number].append(one)
        if chance.random() < 0.4:
            device.says(*unsent[number])
            if chance.random() < 0.7:  # else the answer was lost, and all is sent again
                unsent[number] = []
    for number, device in enumerate(devices):
        as_role("technician" if number == 0 else "lead")
        device.says(*unsent[number])
    devices[0].says()
    assert {str(one.client_id): one.clock for one in Event.objects.all()} == told
    ordered = [(one.clock, str(one.device)) for one in Event.objects.all()]
    assert ordered == sorted(ordered)
    assert devices[0].known == devices[1].known and set(devices[0].known) == set(told)


def test_a_held_step_is_gone_on_with_by_the_lead_or_on_the_leads_word_and_by_nobody_else(as_role, heater):
    phone = Device(as_role("technician"), heater)
    override = phone.tap("trial.crack", "override", why="hose is a fixed pipe")
    assert "Only the lead" in phone.says(override)["refused"][0]["message"]
    asked = phone.tap("trial.crack", "asked", why="a fixed pipe leads away: go on?")
    phone.says(asked)
    assert phone.client.get("visits/questions").status_code == 403
    lead = as_role("lead")
    (question,) = lead.get("visits/questions").json()
    assert (
        question["words"].startswith("a fixed pipe")
        and question["go_on"] is None
        and "drain" in question["step"].lower()
    )
    assert lead.post(f"visits/questions/{question['client_id']}", {"go_on": True, "words": "yes"}).status_code == 204
    assert lead.post(f"visits/questions/{question['client_id']}", {"go_on": False}).status_code == 409
    assert lead.post(f"visits/questions/{uuid.uuid4()}", {"go_on": False}).status_code == 404
    assert lead.get("visits/questions").json()[0]["advice"] == "yes"
    as_role("technician")
    (advice,) = [one for one in phone.says()["events"] if one["kind"] == "advised"]
    assert advice["go_on"] and advice["of"] == asked["client_id"] and advice["by"]
    again = phone.tap("trial.crack", "override", why="the lead says so", of=advice["client_id"])
    elsewhere = phone.tap("full_drain.open_drain", "override", why="so too", of=advice["client_id"])
    bare = phone.tap("trial.crack", "override", of=advice["client_id"])
    refused = {one["client_id"] for one in phone.says(again, elsewhere, bare)["refused"]}
    assert refused == {elsewhere["client_id"], bare["client_id"]}


def test_a_visit_begun_by_mistake_is_set_aside_with_a_reason_and_taken_up_again_by_going_on(as_role, heater, phone):
    def under_way():
        return as_role("lead").get(f"heaters/{heater.pk}/guide").json()["session"]

    phone.says(phone.tap())
    bare = phone.tap("", "set_aside")
    assert phone.says(bare)["refused"][0]["message"] == "Say why the visit is set aside."
    assert under_way() is not None
    phone.says(phone.tap("", "set_aside", why="wrong heater"))
    assert under_way() is None
    # Whoever comes now begins another visit; nothing of the first is lost.
    other = Device(as_role("lead"), heater)
    assert other.says(other.tap())["client_id"] != phone.visit
    other.says(other.tap("", "set_aside", why="nobody at home"))
    assert Event.objects.count() == 4
    phone.says(phone.tap("arrival.shut_off"))
    assert under_way()["client_id"] == phone.visit


def test_what_was_begun_a_long_day_ago_is_joined_by_nobody_and_still_recorded_by_its_own_device(as_role, heater, phone):
    phone.says(phone.tap())
    VisitSession.objects.update(at=timezone.now() - event_log.OPEN_FOR - datetime.timedelta(minutes=1))
    other = Device(as_role("lead"), heater)
    assert other.says(other.tap())["client_id"] != phone.visit
    assert phone.says(phone.tap("arrival.shut_off"))["refused"] == []
    assert phone.client.post("visits", visit(heater.pk, VALVE, client_id=phone.visit)).status_code == 201
    steps = [one["step"] for one in Visit.objects.get(client_id=phone.visit).steps]
    assert steps == ["arrival.greet", "arrival.shut_off"]


def test_a_visit_is_taken_up_again_by_taking_back_that_it_was_set_aside(as_role, heater, phone):
    done, aside = phone.tap(), phone.tap("", "set_aside", why="wrong heater")
    phone.says(done)
    phone.says(aside)
    assert event_log.under_way(heater.pk) is None
    phone.says(phone.tap("", "undo", of=aside["client_id"]))
    assert str(event_log.under_way(heater.pk).client_id) == phone.visit
    phone.client.post("visits", visit(heater.pk, VALVE, client_id=phone.visit))
    assert event_log.under_way(heater.pk) is None


def test_an_id_of_another_heaters_visit_is_refused_and_an_unknown_heater_too(as_role, forecasted, phone):
    phone.says(phone.tap())
    elsewhere = Device(as_role("technician"), forecasted["heaters"][1], phone.visit)
    assert elsewhere.says(elsewhere.tap(), status=409)["code"] == "visit.id_taken"
    elsewhere.heater.pk = 999_999
    elsewhere.says(status=404)
    assert as_role("planner").post("visits/sessions", {}).status_code == 403


def test_whoever_joins_a_visit_gets_what_it_takes_up_besides(as_role, heater, phone):
    phone.extras = ["pressure_test"]
    phone.says(phone.tap())
    told = as_role("lead").get(f"heaters/{heater.pk}/guide?component=relief_valve").json()
    assert told["extras"] == ["pressure_test"] and "pressure_test" in told["order"]
    assert as_role("lead").get(f"heaters/{heater.pk}/guide?component=anode").json()["extras"] == []


def test_what_the_lead_is_asked_takes_a_fixed_number_of_queries(as_role, phone, django_assert_max_num_queries):
    lead = as_role("lead")
    phone.says(phone.tap(kind="asked", why="one"), phone.tap("", "answered", field="flush.removed", value="heavy"))
    with django_assert_max_num_queries(6):
        assert lead.get("visits/questions").json()[0]["found"] == ["removed: heavy"]
    phone.says(*(phone.tap(kind="asked", why=f"{number}") for number in range(5)))
    with django_assert_max_num_queries(6):
        assert len(lead.get("visits/questions").json()) == 6


def test_what_a_visit_asks_for_is_told_at_once_and_its_signature_kept(as_role, heater):
    drawn = {"name": "R. Ostrow", "lines": [[[10, 20], [30.5, 40]], [[50, 60]]]}
    none = {"task": "relief_valve_exercise", "outcome": "no_flow"}
    told = as_role("technician").post("visits", visit(heater.pk, none, signature=drawn)).json()
    (valve,) = [one for one in told["follow_ups"] if one["what"] == "relief valve"]
    assert valve["licensed"] and any("no water" in why for why in valve["why"])
    assert Quote.objects.filter(visit=told["id"]).count() == len(told["follow_ups"])
    assert Visit.objects.get().signature["lines"][0][1] == [30.5, 40]
    off = {"name": "R. Ostrow", "lines": [[[10, 200]]]}
    assert as_role("technician").post("visits", visit(heater.pk, VALVE, signature=off)).status_code == 422


@pytest.mark.parametrize(
    "at", ["0001-01-01T00:00:00Z", "9999-12-31T23:59:59Z", "0001-01-01T00:00:00", "1970-01-01T00:00:00Z"]
)
def test_a_clock_at_the_end_of_the_calendar_poisons_nothing(as_role, heater, at):
    phone = Device(as_role("technician"), heater)
    told = phone.says({**phone.tap(), "at": at}, phone.tap("arrival.look"))
    assert told["refused"] == [] and len(told["events"]) == 2
    assert len(phone.says(phone.tap("arrival.outlet"))["events"]) == 1
    # Neither the page of the heater nor the visit itself is lost.
    assert as_role("lead").get(f"heaters/{heater.pk}/guide").status_code == 200
    assert as_role("lead").get("visits/questions").status_code == 200
    body = visit(heater.pk, VALVE, client_id=phone.visit)
    assert as_role("technician").post("visits", body).status_code == 201


def test_an_answer_to_nothing_and_a_count_beyond_all_taps_are_refused_alone(as_role, heater):
    phone = Device(as_role("technician"), heater)
    nameless = phone.tap("", "answered", value="heavy")
    beyond = {**phone.tap(), "clock": 2**31 - 1}
    good = phone.tap("", "answered", field="valve.outcome", value="flows_and_reseats")
    told = phone.says(nameless, beyond, good)
    assert [one["client_id"] for one in told["refused"]] == [nameless["client_id"], beyond["client_id"]]
    assert [one["client_id"] for one in told["events"]] == [good["client_id"]]
    assert phone.says(phone.tap("arrival.look"))["refused"] == []
    assert as_role("lead").get("visits/questions").status_code == 200
    body = visit(heater.pk, client_id=phone.visit)
    assert as_role("technician").post("visits", body).status_code == 201


def test_a_tap_under_the_id_of_one_at_another_heater_is_told_and_not_dropped(as_role, base, heater):
    other = next(one for one in base["heaters"] if one.pk != heater.pk and one.kind == heater.kind)
    phone, second = Device(as_role("technician"), heater), Device(as_role("technician"), other)
    tap = phone.tap()
    phone.says(tap)
    told = second.says({**tap, "clock": 1})
    assert [one["client_id"] for one in told["refused"]] == [tap["client_id"]]
    assert phone.says(tap)["refused"] == []


@pytest.fixture
def twin(base, heater):
    """The same heater, entered a second time."""
    return Heater.objects.create(
        site=heater.site, tag="T-0b", kind=heater.kind, kind_seen=True, installed_on=heater.installed_on
    )


def test_a_visit_goes_on_at_the_heater_that_its_own_was_made_one_with(as_role, heater, twin):
    """The office puts a double right while somebody stands before it."""
    phone = Device(as_role("technician"), twin)
    before, later = phone.tap(), phone.tap("arrival.shut_off")
    phone.says(before)
    merged = as_role("lead").post(f"heaters/{heater.pk}/merge", {"other_id": twin.pk})
    assert merged.status_code == 200, merged.json()
    phone.says(later)
    assert phone.client.get(f"heaters/{twin.pk}/guide").json()["heater_id"] == heater.pk
    body = visit(twin.pk, VALVE, client_id=phone.visit)
    assert [phone.client.post("visits", body).status_code for _ in range(2)] == [201, 200]
    recorded = Visit.objects.get()
    assert recorded.heater == heater and [one["step"] for one in recorded.steps] == [before["step"], later["step"]]
    assert Forecast.objects.current().filter(heater=heater).exists()


def test_a_visit_begun_without_a_signal_at_a_double_is_one_at_the_heater_that_stays(as_role, heater, twin):
    phone = Device(as_role("technician"), twin)
    as_role("lead").post(f"heaters/{heater.pk}/merge", {"other_id": twin.pk})
    phone.says(phone.tap())
    assert VisitSession.objects.get().heater == heater


@pytest.mark.parametrize("told_before", [True, False])
def test_a_visit_at_a_heater_that_was_archived_meanwhile_is_kept_and_asked_about(as_role, heater, told_before):
    phone = Device(as_role("technician"), heater)
    first, later = phone.tap(), phone.tap("arrival.shut_off")
    if told_before:
        phone.says(first)
    assert as_role("planner").post(f"heaters/{heater.pk}/archive").status_code == 200
    phone.says(first, later)
    assert phone.client.get(f"heaters/{heater.pk}/guide").status_code == 200
    saved = phone.client.post("visits", visit(heater.pk, VALVE, client_id=phone.visit))
    assert saved.status_code == 201, saved.json()
    assert len(Visit.objects.get().steps) == 2 and Finding.objects.filter(heater=heater).exists()
    asked = OpenEnd.objects.get(heater=heater, kind=OpenEndKind.TO_ASK)
    assert "which is archived" in asked.words and heater.tag in asked.words
    # It is not put back in service by itself, and nobody begins another visit there.
    assert not Forecast.objects.current().filter(heater=heater).exists()
    assert phone.client.get(f"heaters/{heater.pk}/guide").status_code == 404


@pytest.mark.parametrize("off", [True, False])
def test_a_heater_that_is_off_stays_off_when_it_is_made_one_with_another(as_role, heater, twin, off):
    for one, is_off, hours in ((heater, not off, 0), (twin, off, -5)):
        at = timezone.now() + datetime.timedelta(hours=hours)
        LeftAs.objects.create(heater=one, state={}, title="The tank leaks" if is_off else "", off=is_off, at=at)
    as_role("lead").post(f"heaters/{heater.pk}/merge", {"other_id": twin.pk})
    assert LeftAs.objects.get().heater == heater and LeftAs.objects.get().off

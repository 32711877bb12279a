"""Taps that cannot be read or followed: none is lost, none takes its visit with it, and the lead is told."""

import json

import pytest

from aquifer.core.procedures import visit as core_visit
from aquifer.visiting import apart, event_log
from aquifer.visits.models import Event, EventApart, Visit, VisitSession
from tests.conftest import VALVE, visit
from tests.visits.devices import Device


@pytest.fixture
def heater(forecasted):
    return forecasted["heaters"][0]


@pytest.fixture
def phone(as_role, heater):
    return Device(as_role("technician"), heater)


@pytest.fixture
def lead(as_role):
    return as_role("lead")


@pytest.fixture
def faulty(monkeypatch):
    """A version of the program that fails over one step, until it is mended."""
    tell, broken = core_visit.Visit.tell, {"arrival.look"}

    def told(self, event):
        if event.step in broken:
            raise KeyError("no such water")
        return tell(self, event)

    monkeypatch.setattr(core_visit.Visit, "tell", told)
    return broken


def waiting(lead) -> list[dict]:
    return lead.get("visits/apart").json()


@pytest.mark.parametrize(
    ("bad", "says"),
    [
        ({"kind": "wished"}, "kind"), ({"step": "no dot"}, "step"), ({"choice": 99}, "choice"), ({"at": "soon"}, "at"),
        ({"clock": 0}, "clock"), ({"value": {}}, "value"), ({"of_tomorrow": 1}, "of_tomorrow"),
        ({"why": "\x00"}, "why"), ({"why": "\ud800"}, "why"),
    ],
)  # fmt: skip
def test_what_is_no_event_is_kept_apart_and_told_and_the_others_are_taken(phone, lead, bad, says):
    odd, good = {**phone.tap(), **bad}, phone.tap("arrival.look")
    told = phone.says(odd, good)
    assert [one["client_id"] for one in told["events"]] == [good["client_id"]]
    (refused,) = told["refused"]
    assert refused["client_id"] == odd["client_id"] and refused["message"].startswith(f"It cannot be read ({says}")
    (row,) = waiting(lead)
    assert json.loads(row["told"]) == odd and row["heater"] == phone.heater.tag and says in row["fault"]
    # Told again it is the same one.
    phone.says(odd)
    assert EventApart.objects.count() == 1 and Event.objects.count() == 1


@pytest.mark.parametrize("told", [None, 7, "tap", [], {"client_id": "mine"}])
def test_what_does_not_even_say_which_tap_it_is_is_kept_once(phone, told):
    for _ in range(2):
        assert len(phone.says(told)["refused"]) == 1
    assert EventApart.objects.count() == 1


def test_a_tap_that_cannot_be_followed_takes_neither_the_visit_nor_the_heater_with_it(phone, lead, faulty, heater):
    first, broken, last = phone.tap(), phone.tap("arrival.look"), phone.tap("arrival.outlet")
    told = phone.says(first, broken, last)
    assert [one["client_id"] for one in told["refused"]] == [broken["client_id"]]
    assert [one["client_id"] for one in told["events"]] == [first["client_id"], last["client_id"]]
    assert "no such water" in waiting(lead)[0]["fault"]
    # Nothing else fails over it, now or later, and the database has it.
    assert phone.says(phone.tap("arrival.path"))["refused"] == [] and Event.objects.count() == 4
    assert lead.get(f"heaters/{heater.pk}/guide").status_code == 200
    assert lead.get("visits/questions").status_code == 200
    assert phone.client.post("visits", visit(heater.pk, VALVE, client_id=phone.visit)).status_code == 201
    assert "arrival.look" not in [one["step"] for one in Visit.objects.get().steps]


def test_a_fault_that_no_tap_has_is_no_taps_fault(phone, monkeypatch):
    phone.says(phone.tap())

    def fails(*_, **__):
        raise RuntimeError("of the library")

    monkeypatch.setattr(apart.stand, "folded", fails)
    with pytest.raises(RuntimeError, match="of the library"):
        event_log.record(VisitSession.objects.get())
    assert EventApart.objects.count() == 0


def test_what_was_apart_is_read_again_once_the_program_can(phone, lead, faulty):
    tap = phone.tap("arrival.look")
    phone.says(tap)
    (row,) = waiting(lead)
    refused = lead.post(f"visits/apart/{row['id']}/read")
    assert refused.status_code == 409 and "cannot be followed" in refused.json()["message"]
    assert len(waiting(lead)) == 1
    faulty.clear()
    assert lead.post(f"visits/apart/{row['id']}/read").status_code == 204
    assert waiting(lead) == [] and [one["client_id"] for one in phone.says()["events"]] == [tap["client_id"]]
    assert lead.post(f"visits/apart/{row['id']}/read").status_code == 409


def test_a_kind_of_tomorrow_is_taken_when_it_is_known_as_whoever_told_it(phone, lead):
    tap = {**phone.tap(), "kind": "wished"}
    phone.says(tap)
    (row,) = waiting(lead)
    assert lead.post(f"visits/apart/{row['id']}/read").status_code == 409
    # As if a new version knew the kind.
    EventApart.objects.update(told=json.dumps({**tap, "kind": "done"}))
    assert lead.post(f"visits/apart/{row['id']}/read").status_code == 204
    taken = Event.objects.get()
    assert (str(taken.client_id), taken.by.username, str(taken.device)) == (tap["client_id"], "technician", phone.id)


def test_a_tap_that_may_not_be_is_not_read_in_by_the_lead_for_another(phone, lead):
    phone.says({**phone.tap(), "kind": "wished"})
    held = {**phone.tap(), "kind": "override", "why": "it was late"}
    EventApart.objects.update(told=json.dumps(held))
    (row,) = waiting(lead)
    answer = lead.post(f"visits/apart/{row['id']}/read")
    assert answer.status_code == 409 and "Only the lead" in answer.json()["message"] and Event.objects.count() == 0


def test_it_is_set_aside_with_a_reason_and_stays_on_record(phone, lead, faulty):
    phone.says(phone.tap("arrival.look"))
    (row,) = waiting(lead)
    assert lead.post(f"visits/apart/{row['id']}/aside", {"why": " "}).status_code == 422
    assert lead.post(f"visits/apart/{row['id']}/aside", {"why": "the phone was broken"}).status_code == 204
    kept = EventApart.objects.get()
    assert (kept.why, kept.settled_by.username, waiting(lead)) == ("the phone was broken", "lead", [])
    assert lead.post(f"visits/apart/{row['id']}/aside", {"why": "again"}).status_code == 409
    assert lead.post("visits/apart/999/aside", {"why": "x"}).status_code == 404
    # It bears on nothing, now as before.
    faulty.clear()
    assert phone.says()["events"] == []


def test_what_is_apart_of_a_recorded_visit_is_put_right_there(phone, lead, heater, faulty):
    phone.says(phone.tap(), phone.tap("arrival.look"))
    phone.client.post("visits", visit(heater.pk, VALVE, client_id=phone.visit))
    faulty.clear()
    (row,) = waiting(lead)
    assert row["recorded"]
    answer = lead.post(f"visits/apart/{row['id']}/read")
    assert answer.status_code == 409 and "recorded without it" in answer.json()["message"]


def test_the_program_looks_after_those_whom_it_writes_to(phone, faulty, caplog):
    phone.says(phone.tap("arrival.look"))
    phone.says({**phone.tap(), "kind": "wished"})
    said = [one.getMessage() for one in caplog.records if one.levelname == "ERROR"]
    assert any("is set apart" in one for one in said) and any("cannot be read" in one for one in said)

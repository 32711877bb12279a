"""What somebody may do alone: asked for, practised, done under supervision, said by the lead, and ended."""

import datetime

import pytest
from django.utils import timezone

from aquifer.accounts import sign_offs
from aquifer.accounts.models import SignOff, User
from aquifer.core.vocabulary import Component, Task
from aquifer.visits.models import Visit
from aquifer.workbench.models import Practised
from tests.conftest import FLUSH, ROD, VALVE, visit


@pytest.fixture
def apprentice(people):
    return people["apprentice"]


@pytest.fixture
def lead(as_role):
    return as_role("lead")


def said(lead, person, work="sediment", **more):
    """The lead lets somebody do some work alone."""
    return lead.post("bench/signed-off", {"person_id": person.pk, "work": work, "why": "seen it often", **more})


def row(client, person, work="sediment"):
    told = client.get("bench/signed-off").json()
    (own,) = [one for one in told["people"] if one["user_id"] == person.pk]
    return next(one for one in own["work"] if one["work"] == work)


def practised(person, scenario="gas_yearly", **more):
    values = {"by": person, "scenario": scenario, "seed": 1, "seconds": 600, "share": 1.0, "passed": True, **more}
    return Practised.objects.create(**values)


def test_who_is_not_signed_off_says_under_whom_and_who_is_does_not(as_role, forecasted, people, apprentice, lead):
    client, heater = as_role("apprentice"), forecasted["heaters"][0]
    refused = client.post("visits", visit(heater.pk, FLUSH, ROD))
    assert refused.status_code == 403 and refused.json()["fields"].keys() == {"supervised_by"}
    assert "flushing, the anode rod" in refused.json()["message"]
    assert said(lead, apprentice).status_code == 201
    # Signed off for one of the two.
    refused = client.post("visits", visit(heater.pk, FLUSH, ROD))
    assert refused.status_code == 403 and "for the anode rod:" in refused.json()["message"]
    assert client.post("visits", visit(heater.pk, FLUSH)).status_code == 201
    under = visit(heater.pk, ROD) | {"supervised_by": people["technician"].pk}
    assert client.post("visits", under).status_code == 201
    alone, together = Visit.objects.order_by("pk")
    assert (alone.supervised_by, together.supervised_by) == (None, people["technician"])


def test_the_guide_says_what_its_reader_does_not_do_alone(as_role, forecasted, apprentice, lead):
    path = f"heaters/{forecasted['heaters'][0].pk}/guide"
    assert as_role("technician").get(path).json()["supervision"] == []
    said(lead, apprentice, "relief_valve")
    assert set(as_role("apprentice").get(path).json()["supervision"]) == set(Component) - {"relief_valve"}


def test_a_new_technician_works_under_supervision_and_supervises_nobody(as_role, forecasted, people, lead):
    technician, heater = people["technician"], forecasted["heaters"][0]
    assert lead.patch(f"settings/people/{technician.pk}", {"is_new": True}).json()["is_new"] is True
    body = visit(heater.pk, VALVE)
    assert as_role("technician").post("visits", body).status_code == 403
    assert technician.pk not in [one["id"] for one in as_role("apprentice").get("supervisors").json()]
    under = visit(heater.pk, VALVE) | {"supervised_by": technician.pk}
    assert as_role("apprentice").post("visits", under).status_code == 403
    assert said(lead, technician, "relief_valve").status_code == 201
    assert as_role("technician").post("visits", body).status_code == 201


def test_what_is_asked_for_is_counted_and_less_needs_a_reason(as_role, forecasted, people, apprentice, lead):
    practised(apprentice)
    practised(apprentice, guided=True)
    practised(apprentice, passed=False)
    body = visit(forecasted["heaters"][0].pk, FLUSH, VALVE) | {"supervised_by": people["technician"].pk}
    assert as_role("apprentice").post("visits", body).status_code == 201
    told = row(lead, apprentice)
    assert (told["passes"], told["visits"], told["sign_off_id"]) == (1, 1, None)
    assert row(lead, apprentice, "anode")["visits"] == 0 and row(lead, apprentice, "relief_valve")["visits"] == 1
    refused = said(lead, apprentice, why=" ")
    assert refused.status_code == 422
    assert refused.json()["fields"] == {"why": "1 of 2 practices passed and 1 of 3 supervised visits"}
    asked = lead.raw.put(
        "/api/bench/signed-off/asked", {"work": "sediment", "passes": 1, "visits": 1}, "application/json"
    ).json()["asked"][0]
    assert asked.pop("version") > 0
    assert asked == {"work": "sediment", "passes": 1, "visits": 1, "can_practise": True}
    assert said(lead, apprentice, why="").status_code == 201
    assert row(lead, apprentice)["by"] == people["lead"].name and row(lead, apprentice)["why"] == ""


def test_what_cannot_be_practised_is_asked_for_by_visits_alone(lead):
    asked = {one["work"]: one for one in lead.get("bench/signed-off").json()["asked"]}
    assert asked["scale"]["passes"] == 0 and not asked["scale"]["can_practise"] and asked["tank"]["passes"] == 2
    told = lead.raw.put("/api/bench/signed-off/asked", {"work": "scale", "passes": 1, "visits": 1}, "application/json")
    assert told.status_code == 422 and "passes" in told.json()["fields"]


def test_it_ends_by_its_day_or_is_taken_back_and_stays_on_record(as_role, people, apprentice, lead):
    today = timezone.localdate()
    day = datetime.timedelta(days=1)
    for wrong in (today, today - day, today + 6 * 366 * day):
        assert said(lead, apprentice, until=wrong.isoformat()).status_code == 422, wrong
    assert said(lead, apprentice, until=(today + day).isoformat()).status_code == 201
    assert said(lead, apprentice).status_code == 409
    SignOff.objects.update(until=today - day)
    assert row(lead, apprentice)["sign_off_id"] is None
    # Its day is over: there is room for another.
    assert said(lead, apprentice).status_code == 201
    number = row(lead, apprentice)["sign_off_id"]
    assert as_role("technician").raw.delete(f"/api/bench/signed-off/{number}").status_code == 403
    assert lead.raw.delete(f"/api/bench/signed-off/{number}").status_code == 200
    assert lead.raw.delete(f"/api/bench/signed-off/{number}").status_code == 404
    assert row(lead, apprentice)["sign_off_id"] is None
    assert list(SignOff.objects.values_list("ended_by", flat=True)) == [people["lead"].pk] * 2


def test_the_last_day_is_one_of_its_days(apprentice, people):
    today = timezone.localdate()
    SignOff.objects.create(person=apprentice, work="anode", by=people["lead"], until=today)
    assert sign_offs.lacking(apprentice, [Component.ANODE], today) == []
    assert sign_offs.lacking(apprentice, [Component.ANODE], today + datetime.timedelta(days=1)) == [Component.ANODE]


def test_nobody_is_signed_off_who_does_it_anyway_or_is_not_there(people, apprentice, lead):
    assert said(lead, people["technician"]).status_code == 409
    User.objects.filter(pk=apprentice.pk).update(is_active=False)
    assert said(lead, apprentice).status_code == 404


@pytest.mark.parametrize(
    ("tasks", "planned", "work"),
    [
        ([], [], ["tank"]), ([Task.PRESSURE_TEST], [], ["tank"]), ([Task.FLUSH], [], ["sediment"]),
        ([Task.RELIEF_VALVE_REPLACEMENT, Task.UPKEEP], [Component.SCALE], ["scale", "relief_valve", "tank"]),
        ([], [Component.ANODE], ["anode"]),
    ],
)  # fmt: skip
def test_a_visit_is_the_work_that_it_did_and_that_was_planned(tasks, planned, work):
    assert sign_offs.work_of(tasks, planned) == work

"""The server is the judge of a visit: what was done is kept and marked, and lives on at the heater."""

import datetime
import uuid

import pytest

from aquifer.accounts.models import User
from aquifer.core.procedures.library import library
from aquifer.heaters.models import Heater, LeftAs
from aquifer.open_ends.models import OpenEnd
from aquifer.visits.models import Event, Finding, Visit, VisitSession
from tests.attachments.test_attachments import picture, send
from tests.conftest import FLUSH, visit
from tests.visits.devices import Device


@pytest.fixture
def heater(forecasted):
    return forecasted["heaters"][0]


@pytest.fixture
def electric(forecasted):
    return forecasted["heaters"][1]


def licensed(role, *licences):
    User.objects.filter(role=role).update(licences=list(licences))


def marks():
    return {(one["step"], one["kind"], one["about"]) for session in VisitSession.objects.all() for one in session.marks}


def guide(as_role, heater, role="lead"):
    return as_role(role).get(f"heaters/{heater.pk}/guide?component=relief_valve").json()


def steps(device, *names):
    return [device.tap(name) for name in names]


LOOKED = (
    "arrival.air",
    "arrival.greet",
    "arrival.kind",
    "arrival.look",
    "arrival.settings",
    "arrival.tap",
    "arrival.shut_offs",
    "arrival.judge_valves",
    "arrival.outlet",
)


def test_what_somebody_without_a_licence_did_is_kept_marked_and_told_to_the_lead(as_role, electric):
    phone = Device(as_role("apprentice"), electric)
    phone.says(*steps(phone, *LOOKED, "no_heat.prove_dead", "element.out", "energise.breaker_on"))
    assert Event.objects.filter(step="element.out").exists()
    assert ("no_heat.prove_dead", "unlicensed", "electrical") in marks()
    assert ("element.out", "held", "opened_under_pressure") in marks()
    told = as_role("lead").get("visits/breaches").json()
    assert {"unlicensed", "held"} <= {one["kind"] for one in told} and all(one["step"] and one["by"] for one in told)
    assert as_role("technician").get("visits/breaches").status_code == 403


def test_licences_are_those_of_whoever_taps_not_of_whoever_began(as_role, electric):
    licensed("technician", "electrical")
    first = Device(as_role("technician"), electric)
    first.says(first.tap("arrival.air"), first.tap("no_heat.prove_dead"))
    assert ("no_heat.prove_dead", "unlicensed", "electrical") not in marks()
    second = Device(as_role("apprentice"), electric, first.visit)
    second.says(second.tap("no_heat.wiring"))
    assert ("no_heat.wiring", "unlicensed", "electrical") in marks()


def test_a_held_step_that_was_told_as_done_is_marked_held(as_role, heater):
    phone = Device(as_role("technician"), heater)
    phone.says(phone.tap("arrival.air"), phone.tap("relief_exercise.lift"))
    assert ("relief_exercise.lift", "held", "lever_without_outlet") in marks()


def test_the_order_of_procedures_is_the_servers(as_role, heater):
    phone = Device(as_role("technician"), heater)
    body = {
        "client_id": phone.visit,
        "heater_id": heater.pk,
        "components": ["relief_valve"],
        "order": ["hand_over"],
        "device": phone.id,
        "events": [],
    }
    assert phone.client.post("visits/sessions", body).status_code == 200
    order = VisitSession.objects.get().order
    assert order[0] == "arrival" and "relief_exercise" in order and order[-1] == "hand_over"


def test_a_word_of_the_lead_is_for_one_person_one_time_and_no_licence(as_role, electric):
    phone = Device(as_role("technician"), electric)
    asked = phone.tap("no_heat.wiring", "asked", why="go on?")
    phone.says(asked)
    as_role("lead").post(f"visits/questions/{asked['client_id']}", {"go_on": True, "words": "yes"})
    as_role("technician")
    (advice,) = [one for one in phone.says()["events"] if one["kind"] == "advised"]
    override = phone.tap("no_heat.wiring", "override", why="the lead says so", of=advice["client_id"])
    assert "license" in phone.says(override)["refused"][0]["message"]
    licensed("technician", "electrical")
    phone.client = as_role("technician")
    first, again = (
        phone.tap("no_heat.wiring", "override", why="the lead says so", of=advice["client_id"]) for _ in range(2)
    )
    assert phone.says(first)["refused"] == []
    assert "one time" in phone.says(again)["refused"][0]["message"]
    other = Device(as_role("apprentice"), electric, phone.visit)
    theirs = other.tap("no_heat.wiring", "override", why="the lead says so", of=advice["client_id"])
    assert "somebody else" in other.says(theirs)["refused"][0]["message"]


def test_nobody_takes_back_anothers_tap_or_the_leads_override(as_role, heater):
    lead = Device(as_role("lead"), heater)
    override, done = lead.tap("trial.crack", "override", why="a fixed pipe"), lead.tap("arrival.greet")
    lead.says(override, done)
    other = Device(as_role("apprentice"), heater, lead.visit)
    other.says()
    refused = other.says(other.tap("", "undo", of=override["client_id"]), other.tap("", "undo", of=done["client_id"]))[
        "refused"
    ]
    assert "Only the lead" in refused[0]["message"] and "only they or the lead" in refused[1]["message"]
    lead.client = as_role("lead")
    assert lead.says(lead.tap("", "undo", of=override["client_id"]))["refused"] == []


def test_what_was_drained_and_set_aside_is_so_at_the_next_guide(as_role, heater):
    phone = Device(as_role("technician"), heater)
    phone.components = ["sediment"]
    phone.says(
        *steps(
            phone,
            *LOOKED,
            "isolate_energy.gas_pilot",
            "isolate_water.close_cold",
            "trial.hose_end",
            "full_drain.open_drain",
            "full_drain.admit_air",
        )
    )
    phone.says(phone.tap("", "set_aside", why="called away"))
    told = guide(as_role, heater)
    assert told["session"] is None and "does not" not in told["left_as"] and told["left_as"]
    start = told["start"]
    assert start["words"]["drain"] == ["open"] and start["level"][0] == 0
    assert start["words"]["hose"] == ["rated"] and "shut" in start["words"]["cold"]


LEAKS = ("change_heater", "find_the_leak")


def test_a_leaking_tank_is_left_off_for_everybody_until_it_is_proven_dry(as_role, heater, people, settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path
    phone = Device(as_role("technician"), heater)
    phone.says(
        *steps(phone, *LOOKED),
        phone.tap("hand_over.joints", "deviation", choice=0),
        *steps(phone, "leak_triage.wipe", "leak_triage.relief_end", "leak_triage.drain_end"),
    )
    phone.says(phone.tap("leak_triage.verdict", "deviation", choice=0))
    off = (
        "leak_shut.cold",
        "leak_shut.fuel",
        "leak_shut.drain_away",
        "make_safe.gas_shut",
        "drain_shut.shut",
        "leave_off.tag",
        "leave_off.photo",
        "leave_off.tell",
    )
    phone.says(*steps(phone, *off))
    today = datetime.date.today()
    back_on, late = (str(today + datetime.timedelta(days=days)) for days in (2, 200))
    refused = phone.client.post("visits", visit(heater.pk, client_id=phone.visit, return_on=late))
    assert refused.status_code == 422 and "is not between" in refused.json()["fields"]["return_on"]
    answer = phone.client.post("visits", visit(heater.pk, client_id=phone.visit, return_on=back_on))
    assert answer.status_code == 201, answer.json()
    photograph = send(phone.client, picture(), heater_id=heater.pk, visit_client_id=phone.visit).json()["id"]
    assert Visit.objects.get().ending == "tank_leaks" and answer.json()["left_off"] == "The tank leaks"
    (left_open,) = as_role("planner").get(f"open-ends?heater_id={heater.pk}").json()["rows"]
    assert (
        left_open["severity"] == "danger"
        and left_open["promised_on"] == back_on
        and left_open["photographs"] == [photograph]
    )
    rows = phone.client.get(f"heaters?q={heater.tag}").json()["rows"]
    assert [row["left_off"] for row in rows] == ["The tank leaks"]
    left = LeftAs.objects.get()
    assert left.off and left.title == "The tank leaks"
    raised = OpenEnd.objects.get()
    assert raised.severity == "danger" and "leaks" in raised.words and "plumbing" in raised.words
    # Everybody sees it: the register, the heater, the outlook.
    lead = as_role("lead")
    assert any("left off" in one for one in lead.get(f"heaters/{heater.pk}").json()["site"]["hazards"])
    rows = lead.get("outlook").json()["rows"]
    assert "left off" in next(one["hazard"] for one in rows if one["id"] == heater.pk)
    # A tank is condemned, by the lead's word and a licence, once all above it is dry.
    (judged,) = [one for one in lead.get(f"heaters/{heater.pk}/log").json()["judgements"] if one["verdict"] in LEAKS]
    assert judged["verdict"] == "change_heater" and judged["ask_lead"] and judged["licensed"]
    told = guide(as_role, heater)
    assert told["start"]["words"]["tank"] == ["leaks"] and "on" not in told["start"]["words"]["energy"]
    # Somebody who lights it all the same is marked.
    second = Device(as_role("technician"), heater)
    second.says(*steps(second, "arrival.air", "energise.gas_up"))
    assert ("energise.gas_up", "held", "heated_while_leaking") in marks()
    # One that broke off for another reason proves nothing; a later visit that found it dry takes that back.
    Visit.objects.create(client_id=uuid.uuid4(), heater=heater, on=datetime.date.today(), ending="wiring_bad")
    told = lead.get(f"heaters/{heater.pk}/log").json()["judgements"]
    assert [one["verdict"] for one in told if one["verdict"] in LEAKS] == ["change_heater"]
    assert lead.post("visits", visit(heater.pk, FLUSH)).status_code == 201
    judgements = lead.get(f"heaters/{heater.pk}/log").json()["judgements"]
    assert not [one for one in judgements if one["verdict"] in LEAKS]


def test_a_heater_that_runs_again_is_left_off_no_longer(as_role, heater):
    phone = Device(as_role("technician"), heater)
    phone.says(
        phone.tap("arrival.air"),
        phone.tap("", "outside", name="stop"),
        *steps(phone, "make_safe.dial_off", "make_safe.gas_shut", "leave_off.tag", "leave_off.tell"),
    )
    assert phone.client.post("visits", visit(heater.pk, client_id=phone.visit)).status_code == 201
    assert LeftAs.objects.get().title == "Stopped, and left off" and OpenEnd.objects.get().state == "open"
    again = Device(as_role("technician"), heater)
    again.says(
        *steps(again, "arrival.air", "arrival.lit_how", "arrival.judge_valves", "arrival.outlet", "gas_valve_open.open")
    )
    again.says(
        *steps(
            again,
            "cold_back.open",
            "refill.tap_open",
            "refill.steady",
            "refill.tap_shut",
            "light_pilot.smell",
            "light_pilot.hold",
            "energise.gas_up",
            "energise.fire_look",
        )
    )
    again.says(again.tap("", "answered", field="verify.tap_c", value=50), again.tap("hand_over.explain"))
    assert not LeftAs.objects.exists(), LeftAs.objects.get().state
    assert again.client.post("visits", visit(heater.pk, client_id=again.visit)).status_code == 201
    assert OpenEnd.objects.get().state == "closed"
    assert Heater.objects.get(pk=heater.pk).ignition == "pilot"


def test_findings_follow_from_the_events_and_not_from_what_a_device_sends(as_role, heater):
    phone = Device(as_role("technician"), heater)
    phone.says(
        phone.tap("arrival.air"),
        *(
            phone.tap("", "answered", field=field, value=value)
            for field, value in (
                ("flush.removed", "heavy"),
                ("flush.skipped", False),
                ("valve.outcome", "no_flow"),
                ("valve.replaced", True),
                ("rod.grade", "half"),
                ("rod.skipped", True),
                ("upkeep.burner", "clean"),
                ("look.ohms", 12.5),
            )
        ),
    )
    lies = {"task": "relief_valve_exercise", "outcome": "flows_and_reseats"}
    assert phone.client.post("visits", visit(heater.pk, lies, client_id=phone.visit)).status_code == 201
    found = {(one.task, one.removed or one.outcome or one.fouling) for one in Finding.objects.all()}
    assert found == {
        ("flush", "heavy"),
        ("relief_valve_exercise", "no_flow"),
        ("relief_valve_replacement", ""),
        ("upkeep", "clean"),
    }


def test_an_answer_that_cannot_be_is_named_and_nothing_is_lost(as_role, heater):
    phone = Device(as_role("technician"), heater)
    phone.says(phone.tap("arrival.air"), phone.tap("", "answered", field="flush.depth_before_mm", value=99999))
    answer = phone.client.post("visits", visit(heater.pk, client_id=phone.visit))
    assert answer.status_code == 422 and "depth_before_mm" in answer.json()["message"]
    assert Event.objects.count() == 2 and not Visit.objects.exists()


def test_licensed_work_of_an_apprentice_under_somebody_who_tapped_nothing_is_asked_about(as_role, heater, people):
    renewed = {"task": "relief_valve_replacement"}
    phone = as_role("apprentice")
    body = visit(heater.pk, renewed, supervised_by=people["technician"].pk)
    assert phone.post("visits", body).status_code == 201
    assert "without a plumbing license" in OpenEnd.objects.get().words
    licensed("technician", "plumbing")
    assert phone.post("visits", visit(heater.pk, renewed, supervised_by=people["technician"].pk)).status_code == 201
    assert "tapped nothing" in OpenEnd.objects.order_by("pk").last().words


def test_a_step_skipped_without_a_reason_is_marked(as_role, heater):
    phone = Device(as_role("technician"), heater)
    phone.says(phone.tap("arrival.outlet", "skipped"), phone.tap("arrival.judge_valves", "skipped", why="already so"))
    assert marks() == {("arrival.outlet", "no_reason", "")}


def test_a_tank_better_left_alone_is_not_flushed_and_a_valve_to_be_renewed_is_renewed(as_role, forecasted, people):
    heater = forecasted["heaters"][2]
    heater.flush_history, heater.installed_on = "never", heater.installed_on.replace(year=2012)
    heater.save()
    no_flow = {"task": "relief_valve_exercise", "outcome": "no_flow"}
    assert as_role("lead").post("visits", visit(heater.pk, no_flow)).status_code == 201
    told = as_role("lead").get(f"heaters/{heater.pk}/guide").json()
    assert "sediment" not in told["components"] and "trial" not in told["order"]
    if "relief_valve" in told["components"]:
        assert told["extras"] == ["replace_valve"] and "relief_replacement" in told["order"]
    asked = as_role("lead").get(f"heaters/{heater.pk}/guide?component=sediment").json()
    assert "sediment" in asked["components"]


def test_a_complaint_is_looked_into_first_by_this_heaters_own_ladder_and_stands_in_the_record(as_role, heater):
    client = as_role("lead")
    told = client.get(f"heaters/{heater.pk}/guide?complaint=complaint_none_gas_pilot").json()
    assert told["complaint"] == "complaint_none_gas_pilot"
    assert told["order"][:2] == ["arrival", "complaint_none_gas_pilot"]
    (step,) = told["procedures"]["complaint_none_gas_pilot"]["steps"]
    assert (
        step["do"] == "Window: does the pilot burn?" and [one["says"] for one in step["deviations"]][1] == "It is out"
    )
    phone = Device(as_role("technician"), heater)
    body = {
        "client_id": phone.visit,
        "heater_id": heater.pk,
        "components": [],
        "complaint": "complaint_none_gas_pilot",
        "device": phone.id,
        "events": [
            phone.tap("arrival.air"),
            phone.tap("complaint_none_gas_pilot.test", "deviation", choice=1),
            phone.tap("", "answered", field="look.taps", value="all"),
        ],
    }
    assert phone.client.post("visits/sessions", body).status_code == 200
    assert VisitSession.objects.get().order[1] == "complaint_none_gas_pilot"
    assert phone.client.post("visits", visit(heater.pk, client_id=phone.visit)).status_code == 201
    assert Visit.objects.get().steps[1]["words"] == "Window: does the pilot burn? It is out"
    electric = client.get(f"heaters/{heater.pk + 1}/guide?complaint=complaint_none_gas_pilot").json()
    assert electric["order"][1] != "complaint_none_gas_pilot"


@pytest.mark.parametrize(("ppm", "leaves"), [(20, None), (40, "left_off"), (80, "evacuated")])
def test_a_reading_of_carbon_monoxide_leaves_the_heater_off_without_a_button(as_role, heater, ppm, leaves):
    phone = Device(as_role("technician"), heater)
    phone.says(phone.tap("arrival.air", kind="answered", field="look.co_ppm", value=ppm))
    left = LeftAs.objects.filter(heater=heater).first()
    assert (left is not None and left.off) is (leaves is not None)
    if leaves:
        assert library().endings[left.ending].leaves == leaves


def test_a_heater_whose_kind_nobody_has_seen_is_looked_at_first_and_nothing_else(as_role, heater):
    Heater.objects.filter(pk=heater.pk).update(kind_seen=False)
    told = guide(as_role, heater)
    assert told["order"] == ["kind_look"] and told["components"] == [] == told["possible"]
    assert "Nobody has said what kind" in told["left_as"]
    phone = Device(as_role("technician"), heater)
    phone.says(
        *steps(phone, "kind_look.air", "kind_look.look"),
        phone.tap("kind_look.plate", kind="answered", field="look.kind", value="electric_tank"),
        phone.tap("kind_look.plate"),
        phone.tap("leave_as_found.tell"),
    )
    answer = phone.client.post("visits", visit(heater.pk, client_id=phone.visit))
    assert answer.status_code == 201, answer.json()
    heater.refresh_from_db()
    assert (heater.kind, heater.kind_seen) == ("electric_tank", True)
    assert not LeftAs.objects.exists() and not OpenEnd.objects.exists()
    assert guide(as_role, heater)["order"][0] == "arrival"

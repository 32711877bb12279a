import datetime
import uuid
from concurrent.futures import ThreadPoolExecutor

import pytest
from django.db import IntegrityError, connection, connections, transaction

from aquifer.forecasts.models import Forecast
from aquifer.heaters.models import Part
from aquifer.open_ends.models import OpenEnd
from aquifer.visiting import report
from aquifer.visits.models import AppendOnly, Finding, Visit
from tests.conftest import FLUSH, ROD, VALVE, visit


def test_a_visit_moves_the_dates_and_says_why(as_role, forecasted):
    heater = forecasted["heaters"][0]
    answer = as_role("technician").post("visits", visit(heater.pk, FLUSH, ROD, VALVE))
    assert answer.status_code == 201
    moved = {one["component"]: one for one in answer.json()["moved"]}
    valve = moved["relief_valve"]
    assert valve["after_on"] > valve["before_on"] and valve["days"] > 0
    assert "ran and reseated" in valve["sentence"]
    assert "Out came a heavy amount" in moved["sediment"]["sentence"]
    assert "half gone" in moved["anode"]["sentence"]
    stored = Forecast.objects.current().get(heater=heater, component="relief_valve")
    assert stored.due_on.isoformat() == valve["after_on"]
    assert stored.last_finding == Finding.objects.latest("pk").pk


def test_two_visits_on_one_water_queue_its_recomputation_once(as_role, forecasted):
    from procrastinate.contrib.django.models import ProcrastinateJob

    first, *_, other = (h for h in forecasted["heaters"] if h.site.zone_id == forecasted["zones"][0].pk)
    for heater in (first, other):
        assert as_role("technician").post("visits", visit(heater.pk, VALVE)).status_code == 201
    assert ProcrastinateJob.objects.filter(task_name="forecasts.recompute_zone").count() == 1


def test_a_superseded_forecast_is_kept(as_role, forecasted):
    heater = forecasted["heaters"][0]
    as_role("technician").post("visits", visit(heater.pk, VALVE))
    versions = Forecast.objects.filter(heater=heater, component="relief_valve")
    assert versions.count() == 2
    assert versions.current().count() == 1


def test_a_visit_sent_twice_is_one(as_role, forecasted):
    body = visit(forecasted["heaters"][0].pk, FLUSH, VALVE)
    client = as_role("technician")
    first, second = client.post("visits", body), client.post("visits", body)
    assert (first.status_code, second.status_code) == (201, 200)
    assert second.json()["already_recorded"] and second.json()["moved"] == first.json()["moved"]
    assert Visit.objects.count() == 1 and Finding.objects.count() == 2


def test_what_is_put_right_renews_what_the_visit_moved_and_what_its_customer_reads(as_role, forecasted):
    heater = forecasted["heaters"][0]
    client, body = as_role("technician"), visit(heater.pk, FLUSH, VALVE)
    first = client.post("visits", body).json()
    before = {one["component"]: one for one in first["moved"]}
    assert "Out came a heavy amount" in before["sediment"]["sentence"]
    nothing = {
        "client_id": str(uuid.uuid4()),
        "findings": [FLUSH | {"removed": "none"}],
        "why": "it was the other tank",
    }
    assert client.post(f"visits/{first['id']}/amendments", nothing).status_code == 201
    after = {one["component"]: one for one in client.post("visits", body).json()["moved"]}
    stored = Forecast.objects.current().get(heater=heater, component="sediment").due_on
    sediment = after["sediment"]
    assert sediment["before_on"] == before["sediment"]["before_on"] and sediment["after_on"] == stored.isoformat()
    assert "Out came nothing" in sediment["sentence"]
    passed = stored - datetime.date.fromisoformat(sediment["before_on"])
    assert sediment["days"] == passed.days
    assert after["relief_valve"]["sentence"] == before["relief_valve"]["sentence"] and after.keys() == before.keys()
    told = report.content(Visit.objects.get(pk=first["id"]))["next"]
    assert any(f"{stored:%B %Y}" in line for line in told), told


@pytest.mark.django_db(transaction=True)
def test_a_visit_sent_twice_at_the_same_time_is_one(as_role, forecasted):
    body = visit(forecasted["heaters"][0].pk, FLUSH)
    clients = [as_role("technician") for _ in range(4)]

    def send(client):
        try:
            return client.post("visits", body).status_code
        finally:
            connections.close_all()

    with ThreadPoolExecutor(4) as pool:
        statuses = sorted(pool.map(send, clients))
    assert statuses == [200, 200, 200, 201]
    assert Visit.objects.count() == 1 and Finding.objects.count() == 1


def test_an_id_of_another_heaters_visit_is_refused(as_role, forecasted):
    first, second = forecasted["heaters"][0], forecasted["heaters"][1]
    body = visit(first.pk, VALVE)
    as_role("technician").post("visits", body)
    assert as_role("technician").post("visits", body | {"heater_id": second.pk}).status_code == 409


def test_a_finding_moves_the_neighbours_on_the_same_water_too(as_role, forecasted):
    from aquifer.forecasts.recompute import recompute_zone

    zone = forecasted["zones"][0]
    one, other, *_ = (h for h in forecasted["heaters"] if h.site.zone_id == zone.pk and h.kind.endswith("_tank"))
    before = Forecast.objects.current().get(heater=other, component="sediment").log_theta
    as_role("technician").post("visits", visit(one.pk, FLUSH | {"removed": "none"}))
    recompute_zone(zone.pk)
    after = Forecast.objects.current().get(heater=other, component="sediment").log_theta
    assert after < before - 0.01


def test_a_new_part_is_a_new_row_and_the_old_one_keeps_its_findings(as_role, forecasted):
    heater = forecasted["heaters"][0]
    gone = ROD | {"grade": "gone"}
    as_role("technician").post("visits", visit(heater.pk, gone, {"task": "anode_replacement", "alloy": "aluminium"}))
    old, new = Part.objects.filter(heater=heater, kind="anode").order_by("pk")
    assert old.removed_on == datetime.date.today() == new.fitted_on and new.removed_on is None
    assert new.alloy == "aluminium"
    assert Finding.objects.get(task="anode_inspection").part == old
    assert Forecast.objects.current().get(heater=heater, component="anode").state["fraction_left"][1] > 0.95


def test_of_a_new_part_nothing_is_taken_for_granted_but_what_somebody_compared(as_role, forecasted):
    heater, client = forecasted["heaters"][0], as_role("technician")
    Part.objects.filter(heater=heater, kind="relief_valve").update(
        set_pressure_kpa=860, rating_kw=23, probe_length_mm=150, build="brass, red tag"
    )
    renewed = {"task": "relief_valve_replacement"}

    def fitted() -> Part:
        return Part.objects.get(heater=heater, kind="relief_valve", removed_on=None)

    client.post("visits", visit(heater.pk, {**renewed, "alike": True, "build": "new make"}))
    assert (fitted().set_pressure_kpa, fitted().rating_kw, fitted().probe_length_mm) == (860, 23, 150)
    assert fitted().build == "new make"
    client.post("visits", visit(heater.pk, {**renewed, "rating_kw": 31}))
    assert (fitted().set_pressure_kpa, fitted().rating_kw, fitted().probe_length_mm) == (None, 31, None)
    rods = {"task": "anode_replacement", "alloy": "aluminium", "count": 2, "length_mm": 700}
    client.post("visits", visit(heater.pk, rods))
    said = client.get(f"heaters/{heater.pk}/log").json()["entries"][-1]["lines"][0]["words"]
    assert said == "New rod: 2 of them, aluminium, 700 mm long"
    client.post("visits", visit(heater.pk, {"task": "anode_replacement"}))
    rod = Part.objects.get(heater=heater, kind="anode", removed_on=None)
    assert (rod.alloy, rod.length_mm, rod.count) == ("", None, 1)


def test_what_was_told_of_a_new_part_is_put_right_at_that_part(as_role, forecasted):
    heater, client = forecasted["heaters"][0], as_role("technician")
    made = client.post("visits", visit(heater.pk, {"task": "relief_valve_replacement", "rating_kw": 31})).json()["id"]
    told = {"valve.replaced": True, "valve.new_rating_kw": 13, "valve.new_probe_length_mm": 120}
    body = {"client_id": str(uuid.uuid4()), "answers": told, "why": "misread"}
    assert client.post(f"visits/{made}/amendments", body).status_code in (200, 201)
    in_place = Part.objects.get(heater=heater, kind="relief_valve", removed_on=None)
    assert (in_place.rating_kw, in_place.probe_length_mm) == (13, 120)
    assert Part.objects.filter(heater=heater, kind="relief_valve").count() == 2
    assert [one.rating_kw for one in in_place.history.order_by("history_date")] == [31, 13]


@pytest.mark.parametrize(("rating_kw", "asked"), [(11, True), (12, False), (40, False)])
def test_a_new_relief_valve_that_passes_too_little_is_put_before_the_office(as_role, forecasted, rating_kw, asked):
    heater = forecasted["heaters"][0]
    type(heater).objects.filter(pk=heater.pk).update(input_kw=12)
    body = visit(heater.pk, {"task": "relief_valve_replacement", "rating_kw": rating_kw})
    assert as_role("technician").post("visits", body).status_code == 201
    found = [one.words for one in OpenEnd.objects.filter(heater=heater, severity="danger")]
    assert found == (
        ["The new relief valve passes 11.0 kW, the heater puts in 12.0 kW: fit one that passes it."] * asked
    )


def test_an_apprentice_records_under_somebody(as_role, forecasted, people):
    body = visit(forecasted["heaters"][0].pk, VALVE)
    alone = as_role("apprentice").post("visits", body)
    assert alone.status_code == 403 and alone.json()["code"] == "visit.needs_supervisor"
    assert Visit.objects.count() == 0
    under_a_planner = as_role("apprentice").post("visits", body | {"supervised_by": people["planner"].pk})
    assert under_a_planner.status_code == 403
    together = as_role("apprentice").post("visits", body | {"supervised_by": people["technician"].pk})
    assert together.status_code == 201
    assert Visit.objects.get().supervised_by == people["technician"]


@pytest.mark.parametrize(
    ("parts", "field"),
    [
        ({"findings": []}, "findings"),
        ({"findings": [{"task": "polish"}]}, "findings.0"),
        ({"findings": [{"task": "flush"}]}, "findings.0.flush.method"),
        ({"findings": [VALVE | {"outcome": "maybe"}]}, "findings.0.relief_valve_exercise.outcome"),
        ({"findings": [FLUSH | {"depth_before_mm": -1}]}, "findings.0.flush.depth_before_mm"),
        ({"on": "2999-01-01"}, "on"),
        ({"on": "1990-01-01"}, "on"),
        ({"client_id": "not-an-id"}, "client_id"),
        ({"heater_id": 0}, "heater_id"),
        ({"findings": [{"task": "descale", "removed": "trace"}]}, "findings.0.task"),
    ],
)
def test_a_bad_visit_names_its_field_and_records_nothing(as_role, forecasted, parts, field):
    answer = as_role("technician").post("visits", visit(forecasted["heaters"][0].pk, VALVE) | parts)
    assert answer.status_code == 422
    assert field in answer.json()["fields"]
    assert Visit.objects.count() == 0 and Finding.objects.count() == 0


def test_a_visit_of_a_day_to_come_is_not_recorded(as_role, forecasted):
    ahead = datetime.date.today() + datetime.timedelta(days=3)
    answer = as_role("lead").post("visits", visit(forecasted["heaters"][0].pk, VALVE) | {"on": ahead.isoformat()})
    assert answer.status_code == 422 and answer.json()["fields"] == {"on": f"{ahead} is in the future"}
    assert Visit.objects.count() == 0


def test_a_visit_to_an_unknown_heater_records_nothing(as_role, forecasted):
    assert as_role("technician").post("visits", visit(99_999, VALVE)).status_code == 404
    assert Visit.objects.count() == 0


def test_a_tankless_heater_is_not_flushed(as_role, forecasted):
    tankless = forecasted["heaters"][3]
    refused = as_role("technician").post("visits", visit(tankless.pk, FLUSH))
    assert "descaled" in refused.json()["fields"]["findings.0.task"]
    descale = {"task": "descale", "removed": "moderate", "dissolved_g": 60}
    assert as_role("technician").post("visits", visit(tankless.pk, descale)).status_code == 201


def test_a_finding_is_never_changed_or_deleted(forecasted):
    heater = forecasted["heaters"][0]
    made = Visit.objects.create(client_id=uuid.uuid4(), heater=heater, on=datetime.date.today())
    finding = Finding.objects.create(visit=made, heater=heater, on=made.on, task="flush", removed="trace")
    finding.removed = "none"
    with pytest.raises(AppendOnly):
        finding.save()
    with pytest.raises(AppendOnly):
        finding.delete()
    for statement in ("UPDATE visits_finding SET removed = 'none'", "DELETE FROM visits_finding"):
        with pytest.raises(IntegrityError, match="never changed"), transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(statement)
    assert Finding.objects.get().removed == "trace"


def test_a_corrected_finding_counts_no_more(forecasted):
    from aquifer.forecasts.recompute import recompute_heaters

    heater = forecasted["heaters"][0]
    made = Visit.objects.create(client_id=uuid.uuid4(), heater=heater, on=datetime.date.today())
    common = {"visit": made, "heater": heater, "on": made.on, "task": "relief_valve_exercise"}
    wrong = Finding.objects.create(**common, outcome="no_flow")
    recompute_heaters([heater.pk])
    assert Forecast.objects.current().get(heater=heater, component="relief_valve").decided_by == "finding"
    Finding.objects.create(**common, outcome="flows_and_reseats", corrects=wrong, sequence=1)
    recompute_heaters([heater.pk])
    assert Forecast.objects.current().get(heater=heater, component="relief_valve").decided_by != "finding"


def test_a_measured_nothing_is_a_finding(as_role, forecasted):
    from tests.visits.devices import Device

    heater = forecasted["heaters"][0]
    device = Device(as_role("technician"), heater)
    answered = [("flush.removed", "none"), ("flush.depth_before_mm", 0), ("flush.skipped", False)]
    taps = [device.tap(kind="answered", step="", field=field, value=value) for field, value in answered]
    device.says(*taps, device.tap(step="hand_over.explain"))
    answer = device.client.post("visits", visit(heater.pk, client_id=device.visit))
    assert answer.status_code == 201, answer.json()
    finding = Finding.objects.get(visit=answer.json()["id"])
    assert (finding.removed, finding.depth_before_mm) == ("none", 0.0)


def test_what_was_typed_twice_is_kept_and_put_before_the_office(as_role, forecasted):
    client, (heater, other) = as_role("technician"), forecasted["heaters"][:2]
    today = datetime.date.today()

    def typed(heater, days_ago, *findings):
        on = (today - datetime.timedelta(days=days_ago)).isoformat()
        assert client.post("visits", visit(heater.pk, *findings, on=on)).status_code == 201
        return OpenEnd.objects.filter(words__contains="entered twice").count()

    assert typed(heater, 4, FLUSH, VALVE) == 0
    # Another heater, something else that was found, and long before are visits of their own.
    assert typed(other, 4, FLUSH, VALVE) == typed(heater, 3, ROD) == typed(heater, 40, FLUSH, VALVE) == 0
    assert typed(heater, 2, FLUSH, VALVE) == 1
    asked = OpenEnd.objects.get(words__contains="entered twice")
    assert asked.heater == heater and asked.kind == "to_ask" and heater.tag in asked.words
    assert Visit.objects.filter(heater=heater).count() == 4


def test_who_was_led_step_by_step_was_there_and_is_not_asked(as_role, forecasted):
    from tests.visits.devices import Device

    heater, today = forecasted["heaters"][0], datetime.date.today()
    on = (today - datetime.timedelta(days=2)).isoformat()
    assert as_role("technician").post("visits", visit(heater.pk, VALVE, on=on)).status_code == 201
    device = Device(as_role("technician"), heater)
    device.says(device.tap(step="arrival.greet"))
    answer = device.client.post("visits", visit(heater.pk, VALVE, client_id=device.visit))
    assert answer.status_code == 201, answer.json()
    assert Visit.objects.get(pk=answer.json()["id"]).steps
    assert not OpenEnd.objects.filter(words__contains="entered twice").exists()

"""What was seen is kept, told again and can be put right: readings, notes, and who lives there."""

import csv
import io
import uuid

import pytest

from aquifer.core.readings import READINGS
from aquifer.forecasts import inputs
from aquifer.heaters.models import Part
from aquifer.open_ends.models import OpenEnd
from aquifer.rounds.models import CrewMember
from aquifer.stock.models import Held
from aquifer.visiting import report
from aquifer.visits.models import Visit
from tests.conftest import FLUSH, visit
from tests.visits.devices import Device
from tests.visits.test_report import recorded


def answer(field, value, **more):
    return {"kind": "answered", "step": "", "field": field, "value": value, **more}


def log(as_role, heater):
    return as_role("planner").get(f"heaters/{heater.pk}/log").json()


def test_the_temperature_on_arrival_is_not_the_one_that_the_house_is_left_with(as_role, forecasted):
    steps = [answer("arrival.tap_c", 63), {"step": "hand_over.joints"}]
    told = report.content(recorded(as_role, forecasted["heaters"][0], FLUSH, steps=steps))
    assert "Hot water on arrival 63 °C." in told["left"] and not any("burn a child" in one for one in told["left"])
    steps.append(answer("verify.tap_c", 52))
    told = report.content(recorded(as_role, forecasted["heaters"][0], FLUSH, steps=steps))
    assert told["left"][0].startswith("Hottest water at a faucet: 52 °C")


def test_every_reading_is_in_the_log_as_it_stands_and_over_the_years(as_role, forecasted):
    heater = forecasted["heaters"][0]
    taken = {name: (one.low + one.high) / 4 for name, one in READINGS.items() if not one.finding}
    recorded(as_role, heater, FLUSH, steps=[answer(name, value) for name, value in taken.items()])
    client = as_role("technician")
    measured = {"task": "pressure_test", "static_kpa": 430, "creep_kpa": 0}
    assert client.post("visits", visit(heater.pk, {**FLUSH, "depth_before_mm": 0}, measured)).status_code == 201
    told = log(as_role, heater)
    assert len(told["entries"][-2]["readings"]) == len(taken)
    series = {one["field"]: [point["value"] for point in one["points"]] for one in told["readings"]}
    assert {name: values[0] for name, values in series.items() if name in taken} == pytest.approx(taken)
    # A measured nothing is a reading.
    assert series["flush.depth_before_mm"] == [0] and series["pressure.creep_kpa"] == [0]
    assert series["pressure.static_kpa"] == [430]
    assert [one["field"] for one in told["readings"]] == [name for name in READINGS if name in series]


def test_a_reading_is_put_right_with_a_reason_and_what_no_instrument_reads_is_refused(as_role, forecasted):
    heater = forecasted["heaters"][0]
    made = recorded(as_role, heater, FLUSH, steps=[answer("verify.tap_c", 63)])
    client = as_role("technician")

    def amended(value, status):
        body = {"client_id": str(uuid.uuid4()), "answers": {"verify.tap_c": value}, "why": "misread"}
        answered = client.post(f"visits/{made.pk}/amendments", body)
        assert answered.status_code == status, answered.json()
        return answered.json()

    assert "verify.tap_c" in amended(630, 422)["fields"]
    amended(36, 201)
    amended(53, 201)
    entry = log(as_role, heater)["entries"][-1]
    assert entry["readings"] == ["Hottest water at a faucet 53 °C"] and entry["amended"]
    assert report.content(Visit.objects.get(pk=made.pk))["left"][0].startswith("Hottest water at a faucet: 53 °C")
    assert Visit.objects.get(pk=made.pk).readings["verify.tap_c"] == 63


def test_a_note_stays_with_the_visit_and_what_is_for_another_day_is_an_open_issue(as_role, forecasted):
    heater = forecasted["heaters"][0]
    phone = Device(as_role("technician"), heater)
    wrong = phone.tap("arrival.look", "noted", why="rust at the left union")
    phone.says(
        phone.tap("arrival.look", "noted", why="the strap is loose"),
        phone.tap("burner.alarm", "noted", why="no CO alarm in the hall", name="another_day"),
        wrong,
        phone.tap("arrival.look", "noted", why="paint it", name="another_day"),
    )
    last = max(phone.known.values(), key=lambda one: one["clock"])
    phone.says(phone.tap("", "undo", of=wrong["client_id"]), phone.tap("", "undo", of=last["client_id"]))
    refused = phone.says(phone.tap("arrival.look", "noted"))["refused"]
    assert [one["message"] for one in refused] == ["A note says something."]
    # A note alone is a visit: somebody was there.
    body = visit(heater.pk, client_id=phone.visit, note="The shut-off is behind the washer.")
    made = phone.client.post("visits", body)
    assert made.status_code == 201, made.json()
    entry = log(as_role, heater)["entries"][-1]
    assert entry["notes"] == [
        "the strap is loose", "no CO alarm in the hall", "The shut-off is behind the washer.",
    ]  # fmt: skip
    raised = OpenEnd.objects.filter(heater=heater)
    assert [(one.words, str(one.visit_client_id)) for one in raised] == [("no CO alarm in the hall", phone.visit)]
    one = Visit.objects.get(pk=made.json()["id"])
    customers, office = report.content(one), report.content(one, office=True)
    assert customers["note"] == "The shut-off is behind the washer." and customers["noted"] == []
    assert office["noted"] == ["the strap is loose", "no CO alarm in the hall"]


def test_other_people_are_told_at_the_visit_and_what_was_found_before_says_less(as_role, forecasted):
    heater = forecasted["heaters"][0]
    recorded(as_role, heater, steps=[answer("look.household_changed", True), answer("look.noise", "quiet")])
    told = log(as_role, heater)["entries"][-1]["lines"]
    assert [one["task"] for one in told] == ["household_change", "look_over"]
    loaded = inputs.load(forecasted["today"])
    at = loaded.heater_ids.tolist().index(heater.pk)
    assert loaded.known.household_years[at] > 0


def test_flow_and_rise_of_a_descale_are_told_before_and_after(as_role, forecasted):
    heater = next(one for one in forecasted["heaters"] if one.kind == "gas_tankless")
    found = {"task": "descale", "flow_before_l_min": 8, "flow_after_l_min": 11.5, "rise_before_k": 35}
    assert as_role("technician").post("visits", visit(heater.pk, found)).status_code == 201
    (line,) = log(as_role, heater)["entries"][-1]["lines"]
    assert line["words"] == "Descaled: flow from 8.0 L/min to 11.5 L/min, rise 35 °C before"


def test_a_part_fitted_under_any_procedure_is_a_part_and_comes_off_the_truck(as_role, forecasted, people):
    electric = next(one for one in forecasted["heaters"] if one.kind == "electric_tank")
    old = Part.objects.create(heater=electric, kind="lower_element", build="copper")
    member = CrewMember.objects.create(user=people["technician"])
    Held.objects.create(part="element, lower", member=member, quantity=2)
    Held.objects.create(part="element, lower", member=None, quantity=5)
    steps = [answer("fitted.lower_element", True), answer("fitted_build.lower_element", "incoloy, folded")]
    # What such a heater cannot have is not fitted to it.
    steps.append(answer("fitted.gas_control", True))
    made = recorded(as_role, electric, FLUSH, steps=steps)
    old.refresh_from_db()
    new = Part.objects.get(heater=electric, kind="lower_element", removed_on=None)
    assert old.removed_on == made.on and (new.fitted_on, new.build) == (made.on, "incoloy, folded")
    assert not Part.objects.filter(heater=electric, kind="gas_control").exists()
    assert [one.quantity for one in Held.objects.order_by("quantity")] == [1, 5]
    assert "New lower element, incoloy, folded" in log(as_role, electric)["entries"][-1]["readings"]
    assert "We fitted a new lower element, incoloy, folded." in report.content(made)["done"]


def test_a_rod_and_a_valve_come_off_the_truck_by_what_they_are(as_role, forecasted, people):
    heater = forecasted["heaters"][0]
    member = CrewMember.objects.create(user=people["technician"])
    for part in ("anode magnesium, {length_mm:900}", "anode aluminium", "relief valve {pressure_kpa:1034}"):
        Held.objects.create(part=part, member=member, quantity=3)
    rods = {"task": "anode_replacement", "alloy": "magnesium", "length_mm": 900, "count": 2}
    recorded(as_role, heater, rods, {"task": "relief_valve_replacement"})
    left = {one.part: one.quantity for one in Held.objects.all()}
    assert left == {
        "anode magnesium, {length_mm:900}": 1, "anode aluminium": 3, "relief valve {pressure_kpa:1034}": 2,
    }  # fmt: skip


def test_a_part_told_later_is_fitted_once_and_its_build_put_right(as_role, forecasted):
    heater = next(one for one in forecasted["heaters"] if one.kind == "gas_tank")
    made = recorded(as_role, heater, FLUSH)
    client = as_role("technician")
    for build in ("", "slim"):
        told = {"fitted.thermocouple": True, "fitted_build.thermocouple": build}
        body = {"client_id": str(uuid.uuid4()), "answers": told, "why": "forgotten"}
        answered = client.post(f"visits/{made.pk}/amendments", body)
        assert answered.status_code == 201, answered.json()
    (part,) = Part.objects.filter(heater=heater, kind="thermocouple")
    assert (part.fitted_on, part.build) == (made.on, "slim")
    assert "New thermocouple, slim" in log(as_role, heater)["entries"][-1]["readings"]


def test_every_reading_goes_out_as_a_table_as_it_stands(as_role, forecasted):
    heater = forecasted["heaters"][0]
    made = recorded(as_role, heater, {**FLUSH, "depth_before_mm": 12}, steps=[answer("verify.tap_c", 63)])
    body = {"client_id": str(uuid.uuid4()), "answers": {"verify.tap_c": 52}, "why": "misread"}
    assert as_role("technician").post(f"visits/{made.pk}/amendments", body).status_code == 201
    file = b"".join(as_role("planner").raw.get("/api/readings.csv").streaming_content).decode("utf-8-sig")
    rows = list(csv.DictReader(io.StringIO(file)))
    assert {(one["heater"], one["reading"], one["value"], one["unit"]) for one in rows} == {
        (heater.tag, "verify.tap_c", "52", "°C"), (heater.tag, "flush.depth_before_mm", "12", "mm"),
    }  # fmt: skip
    assert {one["visit"] for one in rows} == {str(made.client_id)} and rows[0]["technician"] == "Technician"
    assert as_role("technician").get("readings.csv").status_code == 403

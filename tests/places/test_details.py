"""What else is told of a heater, a part and a place: kept, shown, told at the visit, exported."""

import csv
import datetime
import io

from aquifer.heaters.models import Heater, Part
from aquifer.rounds.models import Appointment, CrewMember
from tests.heaters.test_api import heater_body
from tests.visits.test_readings import answer
from tests.visits.test_report import recorded


def guide(as_role, heater):
    return as_role("technician").get(f"heaters/{heater.pk}/guide?component=sediment").json()


def test_details_of_a_heater_are_kept_shown_and_told_at_the_visit(as_role, forecasted):
    planner = as_role("planner")
    told = {"head_room_mm": 400, "nearest_tap": "laundry tub", "instructions": "missing", "insulation_mm": 20}
    made = planner.post("heaters", heater_body(forecasted, details=told)).json()
    assert made["details"] == told
    # A form that does not ask for them takes nothing away; one that does, says what stands.
    body = heater_body(forecasted, version=made["version"])
    assert planner.patch(f"heaters/{made['id']}", body).json()["details"] == told
    heater = Heater.objects.get(pk=made["id"])
    asked = guide(as_role, heater)
    assert asked["on_record"]["hot_tap"] == "laundry tub"
    assert "Its lighting instructions are missing: bring its maker's sheet." in asked["to_know"]
    assert any(line.startswith("Head room 400 mm, rod ") for line in asked["to_know"])
    losses = next(one for one in asked["figures"] if any(i["name"] == "jacket_mm" for i in one["inputs"]))
    assert next(one["value"] for one in losses["inputs"] if one["name"] == "jacket_mm") == 20
    refused = planner.patch(f"heaters/{made['id']}", {**body, "version": heater.version, "details": {"lining": "tin"}})
    assert refused.status_code == 422 and "glass" in refused.json()["fields"]["details.lining"]
    heater.refresh_from_db()
    assert heater.details == told


def test_details_of_a_part_reach_calculator_step_and_briefing(as_role, forecasted):
    heater, planner = forecasted["heaters"][0], as_role("planner")
    body = {
        "kind": "drain_valve", "fitted_on": "2026-01-05", "build": "brass",
        "details": {"bore_mm": 19, "grip": "slot", "turn": "quarter turn"},
    }  # fmt: skip
    assert planner.post(f"heaters/{heater.pk}/parts", body).status_code == 201
    asked = guide(as_role, heater)
    assert "bring a flat screwdriver" in " ".join(asked["to_know"])
    assert "bore 19 mm" in asked["on_record"]["drain_port"]
    minutes = next(one for one in asked["figures"] if one["name"] == "drain_minutes")
    assert next(one["value"] for one in minutes["inputs"] if one["name"] == "bore_mm") == 19
    part = Part.objects.get(heater=heater, kind="drain_valve")
    wrong = planner.patch(f"parts/{part.pk}", {"details": {"bore_mm": 900}})
    assert wrong.status_code == 422 and wrong.json()["fields"] == {
        "details.bore_mm": "900.0 is no number between 3 and 60"
    }
    assert planner.patch(f"parts/{part.pk}", {"build": "plastic"}).status_code == 200
    part.refresh_from_db()
    assert (part.build, part.details["bore_mm"]) == ("plastic", 19)


def test_details_of_a_place_are_kept_told_and_taken_along(as_role, forecasted):
    heater, planner = forecasted["heaters"][0], as_role("planner")
    body = {
        "kind": "drain_route", "heater_id": heater.pk, "condition": "long", "form": "garden",
        "details": {"length_m": 18, "watched_by": "a second person"},
    }  # fmt: skip
    assert planner.post(f"sites/{heater.site_id}/features", body).status_code == 201
    asked = guide(as_role, heater)
    assert "Bring 18.0 m of hose." in asked["to_know"]
    assert "A second person is needed at the hose's end." in asked["to_know"]
    (feature,) = [
        one for one in planner.get(f"sites/{heater.site_id}").json()["features"] if one["kind"] == "drain_route"
    ]
    assert feature["more"] == ["hose that it takes 18.0 m", "who watches the hose's end: a second person"]
    again = planner.patch(f"features/{feature['id']}", {**body, "details": {"length_m": 900}})
    assert again.status_code == 422 and "details.length_m" in again.json()["fields"]
    file = b"".join(planner.raw.get("/api/records/details.csv").streaming_content).decode("utf-8-sig")
    (row,) = [one for one in csv.DictReader(io.StringIO(file)) if one["detail"] == "length_m"]
    assert (row["heater"], row["of"], row["kind"], float(row["value"]), row["unit"]) == (
        heater.tag, "feature", "drain_route", 18, "m",
    )  # fmt: skip


def test_a_dial_is_read_by_the_thermometer_over_the_years(as_role, forecasted):
    heater = forecasted["heaters"][0]
    for tap in (50, 54):
        recorded(as_role, heater, steps=[answer("settings.left", "dial at B"), answer("verify.tap_c", tap)])
    recorded(as_role, heater, steps=[answer("settings.found", "dial at C"), answer("arrival.tap_c", 61)])
    said = guide(as_role, heater)["on_record"]["gas_control"]
    assert "dial at B: 52 °C at the faucet" in said and "dial at C: 61 °C at the faucet" in said


def test_who_approves_more_work_is_told_to_whoever_comes_and_what_was_said_on_the_telephone(
    as_role, forecasted, people
):
    heater, planner = forecasted["heaters"][0], as_role("planner")
    asked = [one["name"] for one in planner.get("site-details").json()]
    assert asked == ["owner", "tenant", "pays", "approves"]
    site = planner.get(f"sites/{heater.site_id}").json()["site"]
    body = {"name": site["name"], "zone_id": site["zone_id"], "version": site["version"]}
    told = {"owner": "Harbor Trust", "pays": "owner", "approves": "Ida Brandt, 555 0141"}
    saved = planner.patch(f"sites/{heater.site_id}", {**body, "details": told}).json()
    assert saved["site"]["details"] == told if "site" in saved else saved["details"] == told
    wrong = planner.patch(f"sites/{heater.site_id}", {**body, "version": None, "details": {"pays": "the cat"}})
    assert wrong.status_code == 422 and "insurance" in wrong.json()["fields"]["details.pays"]
    member = CrewMember.objects.create(user=people["technician"])
    today = datetime.date.today()
    Appointment.objects.create(
        site=heater.site, week=today - datetime.timedelta(days=today.weekday()), on=today, member=member, begins=600,
        minutes=60, note="emergency; no hot water",
    )  # fmt: skip
    known = guide(as_role, heater)["to_know"]
    assert known[0] == "Said when it was arranged: emergency; no hot water."
    assert "More work is approved by Ida Brandt, 555 0141." in known

"""The customer's report: from the record alone, and the same every time."""

import uuid

from aquifer.company.models import Company
from aquifer.money import quotes
from aquifer.visiting import report
from aquifer.visits.models import Finding, Visit
from tests.attachments.test_attachments import picture, send
from tests.conftest import FLUSH, visit
from tests.visits.devices import Device

STUCK = {"task": "relief_valve_exercise", "outcome": "no_flow"}


def recorded(as_role, heater, *findings, role="technician", steps=(), **more):
    device = Device(as_role(role), heater)
    device.says(*(device.tap(**one) for one in steps))
    answer = device.client.post("visits", visit(heater.pk, *findings, client_id=device.visit, **more))
    assert answer.status_code == 201, answer.json()
    return Visit.objects.select_related("heater__site").get(pk=answer.json()["id"])


def test_a_report_says_what_was_found_what_follows_and_when_we_come_again(as_role, forecasted):
    steps = [
        {"step": "verify.tap_temperature"},
        {"kind": "answered", "step": "", "field": "verify.tap_c", "value": 61},
        {"step": "hand_over.explain"},
    ]
    one = recorded(as_role, forecasted["heaters"][0], FLUSH, STUCK, steps=steps, note="Key under <the> pot & stone")
    quotes.raise_for(one.pk)
    told = report.content(one)
    assert any("heavy, flakes" in line for line in told["done"])
    assert told["left"][0] == "Hottest water at a faucet: 61 °C: it can burn a child within 2 seconds."
    assert any(line.startswith("Relief valve: it passed no water") for line in told["proposed"])
    assert any(line.startswith("Flush of the tank: about") for line in told["next"])
    assert any("relief valve's pipe" in line for line in told["owner"])
    assert "mixing valve" in told["owner"][-1] and not any("Leave the setting" in line for line in told["owner"])
    answer = as_role("planner").get(f"visits/{one.pk}/report.pdf")
    assert answer["Content-Type"] == "application/pdf" and answer.content.startswith(b"%PDF")
    assert answer.content == as_role("planner").get(f"visits/{one.pk}/report.pdf").content
    assert as_role("planner").get("visits/999999/report.pdf").status_code == 404


def test_a_report_is_told_in_the_company_s_units_and_warns_from_what_scalds(as_role, forecasted):
    Company.objects.update(units="us")

    def told(tap_c: float) -> dict[str, list[str]]:
        steps = [{"kind": "answered", "step": "", "field": "verify.tap_c", "value": tap_c}]
        measured = {**FLUSH, "depth_before_mm": 25.4}
        return report.content(recorded(as_role, forecasted["heaters"][0], measured, steps=steps))

    mild, usual, hot = told(45), told(49), told(55)
    assert mild["left"] == ["Hottest water at a faucet: 113 °F."]
    assert usual["left"] == ["Hottest water at a faucet: 120 °F: it can burn a child within 4 minutes."]
    assert "Leave the setting" in usual["owner"][-1] and "120 °F" in hot["owner"][-1]
    assert "1.00 in measured" in mild["done"][0]


def test_an_override_and_a_correction_are_told(as_role, forecasted):
    heater = forecasted["heaters"][0]
    steps = [{"kind": "despite", "step": "trial.crack", "why": "A fixed pipe leads away"}]
    one = recorded(as_role, heater, FLUSH, role="lead", steps=steps)
    wrong = one.findings.get()
    Finding.objects.create(
        visit=one,
        heater=heater,
        corrects=wrong,
        on=one.on,
        sequence=9,
        task="flush",
        method="drain_and_pulse",
        removed="trace",
    )
    told = report.content(one)
    assert "Crack the drain open" in told["left"][0] and "A fixed pipe leads away" in told["left"][0]
    assert any("a trace" in line and "put right on" in line for line in told["done"])
    assert not any("heavy" in line for line in told["done"])


def test_a_tankless_heater_has_its_own_advice(as_role, forecasted):
    tankless = next(one for one in forecasted["heaters"] if one.kind == "gas_tankless")
    one = recorded(as_role, tankless, {"task": "descale", "removed": "moderate"})
    assert any("full draw" in line for line in report.content(one)["owner"])


def test_only_what_was_looked_at_is_said_to_be_and_a_heater_left_off_says_why(as_role, forecasted):
    heater = forecasted["heaters"][0]
    names = ("arrival.air", "hand_over.joints", "hand_over.show", "hand_over.explain")
    skipped = [{"step": one, "kind": "skipped", "why": "no time"} for one in names]
    one = recorded(as_role, heater, FLUSH, steps=skipped)
    assert not any("looked at" in line for line in report.content(one)["left"])
    done = recorded(as_role, heater, FLUSH, steps=[{"step": one} for one in names])
    assert any("looked at" in line for line in report.content(done)["left"])
    stops = [{"step": "arrival.air"}, {"step": "", "kind": "outside", "name": "runs_out"}]
    told = report.content(recorded(as_role, heater, steps=stops))
    assert told["ended"][0] == "The tank leaks." and "replaced" in told["ended"][1]
    assert told["ended"][2] == "Our office calls you about it."


def test_the_office_s_report_and_review_tell_what_was_done_otherwise_than_the_guide_allows(as_role, forecasted):
    heater = forecasted["heaters"][0]
    steps = [
        {"step": "relief_exercise.lift"},
        {"step": "arrival.tap", "kind": "skipped", "why": "no water in the house"},
        {"step": "arrival.greet", "kind": "skipped"},
    ]
    one = recorded(as_role, heater, FLUSH, steps=steps)
    assert "looked_at" not in {name for name, told in report.content(one).items() if told}
    looked_at = report.content(one, office=True)["looked_at"]
    assert any("not safe yet, by Technician" in line for line in looked_at)
    assert any("Left out: no water in the house" in line for line in looked_at)
    assert any("Left out without a reason" in line for line in looked_at)
    office = as_role("planner").get(f"visits/{one.pk}/report.pdf?office=true").content
    assert office.startswith(b"%PDF") and office != report.pdf(one)
    (entry,) = as_role("planner").get(f"heaters/{heater.pk}/log").json()["entries"]
    assert any("not safe yet" in line for line in entry["looked_at"])
    rows = as_role("lead").get("visits/marked").json()
    assert {"done although it was not safe yet", "left out without a reason"} <= {row["says"] for row in rows}
    assert all(row["visits"] == 1 and row["procedure"] for row in rows)
    assert as_role("technician").get("visits/marked").status_code == 403


def test_photographs_and_the_signature_are_in_the_report(as_role, forecasted, settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path
    heater = forecasted["heaters"][0]
    drawn = {"name": "R. Ostrow", "lines": [[[10, 20], [30.5, 40]], [[50, 60]]]}
    plain = recorded(as_role, heater, FLUSH)
    one = recorded(as_role, heater, FLUSH, signature=drawn)
    about = {
        "heater_id": heater.pk,
        "visit_client_id": str(one.client_id),
        "client_id": str(uuid.uuid4()),
        "caption": "The rod",
    }
    ids = {send(as_role("technician"), picture(size=(300, 500)), **about).json()["id"] for _ in range(2)}
    assert len(ids) == 1 and [photo.caption for photo in report.content(one)["photographs"]] == ["The rod"]
    assert report.content(plain)["photographs"] == []
    made = report.pdf(one)
    assert b"/DCTDecode" in made and b"/DCTDecode" not in report.pdf(plain) and made == report.pdf(one)
    (tmp_path / one_file(tmp_path)).unlink()
    assert b"/DCTDecode" not in report.pdf(one)


def one_file(folder):
    return next(file for file in folder.rglob("*.jpg") if "small" not in file.name)


def test_an_amendment_is_told_with_its_reason(as_role, forecasted):
    one = recorded(as_role, forecasted["heaters"][0], FLUSH)
    body = {
        "client_id": str(uuid.uuid4()),
        "findings": [{**FLUSH, "removed": "trace"}, STUCK],
        "why": "read the wrong sheet",
    }
    assert as_role("technician").post(f"visits/{one.pk}/amendments", body).status_code == 201
    told = report.content(one)["done"]
    assert len(told) == 2 and "a trace" in told[0] and "(put right on" in told[0] and "read the wrong sheet" in told[0]
    assert "(added on" in told[1]

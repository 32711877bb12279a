"""The customer's report: from the record alone, and the same every time."""

from aquifer.money import quotes
from aquifer.visits import report
from aquifer.visits.models import Finding, Visit
from tests.conftest import FLUSH, visit

NOW = "2026-11-25T09:00:00Z"
STUCK = {"task": "relief_valve_exercise", "outcome": "no_flow"}


def recorded(as_role, heater, *findings, role="technician", **more):
    answer = as_role(role).post("visits", visit(heater.pk, *findings, **more))
    assert answer.status_code == 201, answer.json()
    return Visit.objects.select_related("heater__site").get(pk=answer.json()["id"])


def test_a_report_says_what_was_found_what_follows_and_when_we_come_again(as_role, forecasted):
    steps = [
        {"kind": "done", "step": "verify.tap_temperature", "at": NOW, "tap_c": 61},
        {"kind": "done", "step": "hand_over.explain", "at": NOW},
    ]
    one = recorded(as_role, forecasted["heaters"][0], FLUSH, STUCK, steps=steps, note="Key under <the> pot & stone")
    quotes.raise_for(one.pk)
    told = report.content(one)
    assert any("heavy, flakes" in line for line in told["done"])
    assert told["left"][0] == "Hottest water at a tap: 61 °C: it can burn within 4 seconds."
    assert any(line.startswith("Relief valve: it passed no water") for line in told["proposed"])
    assert any(line.startswith("Flush of the tank: about") for line in told["next"])
    assert "relief valve's pipe" in told["owner"][0]
    answer = as_role("planner").get(f"visits/{one.pk}/report.pdf")
    assert answer["Content-Type"] == "application/pdf" and answer.content.startswith(b"%PDF")
    assert answer.content == as_role("planner").get(f"visits/{one.pk}/report.pdf").content
    assert as_role("planner").get("visits/999999/report.pdf").status_code == 404


def test_an_override_and_a_correction_are_told(as_role, forecasted):
    heater = forecasted["heaters"][0]
    steps = [{"kind": "despite", "step": "trial.crack", "at": NOW, "why": "A fixed pipe leads away"}]
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
    assert "full draw" in report.content(one)["owner"][0]

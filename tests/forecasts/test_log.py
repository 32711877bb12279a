"""What the heater's page says: the judgements that visits lead to, what was learned, what was asked for."""

import datetime

import pytest

from aquifer.core.vocabulary import Alloy
from aquifer.heaters.models import PartKind
from tests.conftest import FLUSH, visit

VALVE = {"task": "relief_valve_exercise", "outcome": "flows_and_reseats"}


def verdicts(client, heater) -> dict[str, dict]:
    return {one["rule"]: one for one in client.get(f"heaters/{heater.pk}/log").json()["judgements"]}


def records(client, heater, *findings) -> None:
    answer = client.post("visits", visit(heater.pk, *findings))
    assert answer.status_code == 201, answer.json()


@pytest.mark.parametrize(
    ("finding", "rule", "verdict", "licensed"),
    [
        ({"task": "relief_valve_exercise", "outcome": "no_flow"}, "keep_valve", "replace_valve", True),
        ({"task": "look_over", "valve_drips": True}, "keep_valve", "replace_valve", True),
        ({"task": "pressure_test", "falls": True}, "pressure_holds", "find_the_leak", False),
        ({"task": "pressure_test", "static_kpa": 640}, "house_pressure", "fit_regulator", True),
        ({"task": "pressure_test", "creep_kpa": 90}, "expansion", "fit_expansion_tank", True),
    ],
)
def test_what_a_visit_found_leads_to_its_verdict(as_role, forecasted, finding, rule, verdict, licensed):
    client, heater = as_role("technician"), forecasted["heaters"][0]
    before = verdicts(client, heater).get(rule)
    assert before is None or before["verdict"] != verdict
    records(client, heater, finding)
    after = verdicts(client, heater)[rule]
    assert (after["verdict"], after["licensed"]) == (verdict, licensed) and after["because"]


def test_a_drip_that_is_gone_is_judged_no_more(as_role, forecasted):
    client, heater = as_role("technician"), forecasted["heaters"][0]
    records(client, heater, {"task": "look_over", "valve_drips": True}, VALVE)
    records(client, heater, {"task": "look_over", "valve_drips": False}, VALVE)
    assert verdicts(client, heater)["keep_valve"]["verdict"] == "keep_valve"


def test_what_was_learned_counts_visits_not_findings(as_role, forecasted):
    client, heater = as_role("technician"), forecasted["heaters"][0]

    def learned(component: str) -> str:
        found = client.get(f"heaters/{heater.pk}/forecast").json()
        return next(one["learned"] for one in found if one["component"] == component)

    assert "visit" not in learned("anode") and "others on this water" in learned("anode")
    rod = {"task": "anode_inspection", "grade": "half"}
    records(client, heater, rod, {"task": "anode_replacement"})
    assert learned("anode").endswith("; one visit says so.")
    records(client, heater, {"task": "anode_inspection", "could_not_open": True})
    assert learned("anode").endswith("; one visit says so."), "a port that would not open taught nothing"
    assert learned("relief_valve") == "" and learned("tank") == ""


def test_a_powered_anode_is_looked_at_yearly(as_role, forecasted):
    client, heater = as_role("planner"), forecasted["heaters"][0]

    def items() -> list[str]:
        return [one["item"] for one in client.get(f"heaters/{heater.pk}/log").json()["upkeep"]]

    assert items() == ["burner"]
    rod = heater.parts.get(kind=PartKind.ANODE, removed_on=None)
    rod.alloy = Alloy.POWERED
    rod.save()
    assert sorted(items()) == ["burner", "powered_anode"]


def test_dust_brings_the_burner_forward(as_role, forecasted):
    client, heater = as_role("planner"), forecasted["heaters"][0]

    def due() -> datetime.date:
        (burner,) = client.get(f"heaters/{heater.pk}/log").json()["upkeep"]
        return datetime.date.fromisoformat(burner["due_on"])

    before = due()
    heater.site.dusty = True
    heater.site.save()
    assert due() < before


def test_an_archived_heater_keeps_its_log_and_is_forecast_no_more(as_role, forecasted):
    client, heater = as_role("planner"), forecasted["heaters"][0]
    as_role("technician").post("visits", visit(heater.pk, FLUSH))
    client.post(f"heaters/{heater.pk}/archive")
    told = client.get(f"heaters/{heater.pk}/log").json()
    assert [line["task"] for line in told["entries"][0]["lines"]] == ["flush"]
    assert told["forecasts"] == told["courses"] == told["upkeep"] == told["judgements"] == []
    assert client.get("heaters/999999/log").status_code == 404

"""Findings (F01 to F25): told, shown again, taken out, and with what follows from each."""

import pytest

from aquifer.core.readings import SEEN
from tests.coverage.walk import Walk, verdict

ROWS = [
    # entry, kind, field, look, words of the log, where it is used, by which words
    ("F01", "gas_tank", "water.first", "murky", "First water out of the drain: murky for long", "log", "murky"),
    ("F02", "gas_tank", "flush.clarity", "milky", "milky", "verdict", "flush_on"),
    ("F03", "gas_tank", "flush.removed", "heavy", "heavy", "report", "a lot of deposit came out"),
    ("F04", "gas_tank", "flush.texture", "grit", "grit", "verdict", "test_hardness"),
    ("F04", "gas_tank", "flush.texture", "sand", "sand", "verdict", "fit_filter"),
    ("F05", "gas_tank", "flush.removed", "none", "nothing", "report", "nothing came out"),
    ("F06", "gas_tank", "look.noise", "popping", "pop", "report", "deposit lies on its floor"),
    ("F07", "gas_tank", "flush.drain_flow", "none", "nothing", "verdict", "leave_drain"),
    ("F08", "gas_tank", "relief.outlet", "drips", "Outlet of the relief valve: drips steadily", "open", "never cap it"),
    ("F09", "gas_tank", "relief.inside", "caked", "Relief valve, inside: caked with lime", "office report", "caked"),
    ("F09", "gas_tank", "relief.lever", "stuck", "Lever of the relief valve: does not move", "open", "has no relief"),
    ("F09", "gas_tank", "valve.outcome", "no_flow", "no water", "verdict", "replace_valve"),
    ("F10", "gas_tank", "rod.grade", "gone", "Rod gone", "verdict", "renew_rod"),
    ("F11", "gas_tank", "water.smell", "eggs", "Smell of the hot water: of eggs", "open", "never none"),
    ("F12", "gas_tank", "expansion_tank.at_valve", "water", "water", "verdict", "renew_expansion_tank"),
    ("F13", "gas_tank", "joints.state", "from_above", "Joints: wet from above", "open", "follow the water up"),
    ("F14", "gas_tank", "rust.where", "hose_thread", "the drain's thread is rusted", "open", "renew the drain"),
    ("F14", "gas_tank", "look.corrosion", "seams", "seam", "report", "the surest sign that it will leak"),
    ("F15", "gas_tank", "flame.look", "yellow", "Flame: yellow tips", "open", "carbon monoxide"),
    ("F16", "gas_tank", "gas.sensor_tip", "carbon", "Tip in the flame: carbon, black", "verdict", "clean_sensor"),
    ("F17", "gas_tank", "electrode.state", "cracked", "crack in the ceramic", "open", "renew it"),
    ("F18", "electric_tank", "wiring.state", "both_resets", "both resets had tripped", "open", "supply or thermostat"),
    ("F19", "electric_tank", "look.element_failed", True, "element", "verdict", "change_element"),
    ("F22", "gas_tankless", "exchanger.inside", "lumps", "white lumps or rust streaks", "open", "renew the exchanger"),
    ("F23", "gas_tank", "mixing.head", "grease", "dark grease on the thread", "open", "its seal is gone"),
    ("F24", "gas_tankless", "flow_switch.turns", "seized", "Flow switch: seized", "open", "carry one next time"),
    ("F25", "gas_tank", "hot.pattern", "swings", "Complaint: swings hot and cold", "open", "pump without control"),
    ("F25", "gas_tank", "look.taps", "one", "Not as it should be: at one faucet", "verdict", "look_at_fixture"),
]


@pytest.mark.parametrize(("entry", "kind", "name", "look", "words", "where", "used"), ROWS)
def test_findings(entry, kind, name, look, words, where, used, as_role, forecasted):
    walk = Walk(as_role, forecasted)
    walk.heater(kind=kind)
    if name.startswith("expansion_tank"):
        walk.part("expansion_tank", volume_l=12)
    guide = as_role("technician").get(f"heaters/{walk.at.pk}/guide").json()
    if where == "verdict":
        assert used in verdict(guide, name, look)
    walk.visit(**{name.replace(".", "__"): look})
    assert words in walk.found("log")
    if where != "verdict":
        assert used in walk.found(where)
    if name.partition(".")[0] in ("flush", "look", "rod", "valve", "expansion_tank") and name not in SEEN:
        assert f",{walk.at.tag}," in walk.taken("records/visits.csv")
    else:
        assert f",{name}," in walk.taken("readings.csv")


def test_a_shut_off_that_is_brittle_is_not_touched(as_role, forecasted):
    """F20."""
    walk = Walk(as_role, forecasted)
    walk.feature("heater_shut_off", "brittle", form="gate", where="above it")
    assert "brittle, may snap" in walk.found("site") and "brittle" in walk.taken("records/features.csv")
    assert "leave it alone" in walk.found("guide") and "leave it alone" in walk.found("open")


def test_what_a_tank_weighed_and_looked_like_inside_is_kept_with_its_end(as_role, forecasted):
    """F21."""
    walk = Walk(as_role, forecasted)
    walk.heater()
    end = {"on": "2026-11-02", "cause": "leaked", "note": "a third full of lime", "weight_kg": 96}
    assert walk.planner.post(f"heaters/{walk.at.pk}/archive", end).status_code == 200
    told = walk.found("heater")
    assert '"end_weight_kg": 96' in told and "a third full of lime" in told and '"end_cause": "leaked"' in told

"""A finding reads as a technician would say it."""

import pytest

from aquifer.core.units import METRIC, US
from aquifer.core.vocabulary import Task
from aquifer.visits.models import Finding
from aquifer.visits.words import finding_words, mark


@pytest.mark.parametrize(
    ("task", "values", "says"),
    [
        (Task.FLUSH, {}, "Flushed"),
        (Task.FLUSH, {"method": "jetting", "removed": "none", "drain_flow": "full"}, "Jetted: nothing"),
        (
            Task.FLUSH,
            {"method": "drain_and_pulse", "removed": "heavy", "texture": "flakes", "drain_flow": "trickle"},
            "Pulsed drain: heavy, flakes, drain trickled",
        ),
        (
            Task.FLUSH,
            {"method": "pressure_blowout", "depth_before_mm": 14.4, "removed": "moderate"},
            "Pressure flush: 14 mm measured, moderate",
        ),
        (Task.DESCALE, {"removed": "trace", "dissolved_g": 85.5}, "Descaled: a trace, 86 g dissolved"),
        (Task.ANODE_INSPECTION, {"grade": "half"}, "Rod half gone"),
        (
            Task.ANODE_INSPECTION,
            {"grade": "mostly_gone", "bare_wire_mm": 147.0},
            "Rod mostly gone: 147 mm of wire bare",
        ),
        (Task.ANODE_INSPECTION, {"diameter_mm": 12.0}, "Rod looked at: 12 mm thick"),
        (Task.ANODE_INSPECTION, {"could_not_open": True}, "Rod's port would not open"),
        (Task.ANODE_REPLACEMENT, {}, "New rod"),
        (Task.RELIEF_VALVE_EXERCISE, {"outcome": "no_flow"}, "Relief valve passed no water"),
        (Task.RELIEF_VALVE_EXERCISE, {"outcome": "not_tested"}, "Relief valve not tested"),
        (Task.RELIEF_VALVE_REPLACEMENT, {}, "New relief valve"),
        (Task.EXPANSION_TANK_CHECK, {"at_valve": "air", "precharge_kpa": 351.6}, "Expansion tank held air: 352 kPa"),
        (Task.EXPANSION_TANK_CHECK, {"at_valve": "water"}, "Expansion tank full of water"),
        (Task.EXPANSION_TANK_CHECK, {}, "Expansion tank checked"),
        (Task.EXPANSION_TANK_REPLACEMENT, {}, "New expansion tank"),
        (
            Task.PRESSURE_TEST,
            {"static_kpa": 420.0, "creep_kpa": 80.0, "falls": True},
            "Pressure: 420 kPa standing, crept by 80 kPa, fell with the cold shut",
        ),
        (Task.PRESSURE_TEST, {"falls": False}, "Pressure"),
        (Task.LOOK_OVER, {"noise": "popping"}, "Looked over: pops when it fires"),
        (
            Task.LOOK_OVER,
            {
                "noise": "quiet",
                "corrosion": "seams",
                "rusty_hot_water": True,
                "valve_drips": True,
                "element_failed": True,
            },
            "Looked over: quiet, rust at a seam, rusty hot water, relief valve drips, element burnt out",
        ),
        (Task.LOOK_OVER, {"corrosion": "none", "rusty_hot_water": False}, "Looked over"),
        (Task.UPKEEP, {"item": "inlet_screen", "fouling": "fouled"}, "Inlet screen: fouled"),
        (Task.UPKEEP, {"item": "batteries"}, "Batteries"),
        (Task.HOUSEHOLD_CHANGE, {}, "Other people moved in"),
    ],
)
def test_a_finding_in_words(task, values, says):
    assert finding_words(Finding(task=task, **values), METRIC) == says


def test_a_finding_is_told_in_the_company_s_units_and_nothing_measured_is_a_reading_too():
    measured = Finding(task=Task.FLUSH, method="jetting", depth_before_mm=12.7)
    assert finding_words(measured, US) == "Jetted: 0.50 in measured"
    assert finding_words(Finding(task=Task.FLUSH, depth_before_mm=0.0), METRIC) == "Flushed: 0 mm measured"
    assert finding_words(Finding(task=Task.PRESSURE_TEST, static_kpa=414, creep_kpa=-6.9), US) == (
        "Pressure: 60 psi standing, crept by -1 psi"
    )
    assert finding_words(Finding(task=Task.DESCALE, dissolved_g=283.5), US) == "Descaled: 10.0 oz dissolved"


def test_every_task_has_words_of_its_own():
    said = [finding_words(Finding(task=task, item="burner"), METRIC) for task in Task]
    assert len(set(said)) == len(Task) and all(said)


@pytest.mark.parametrize(
    ("values", "word"),
    [
        ({"task": Task.FLUSH, "removed": "heavy"}, "heavy"),
        ({"task": Task.ANODE_INSPECTION, "grade": "worn"}, "worn"),
        ({"task": Task.RELIEF_VALVE_EXERCISE, "outcome": "no_flow"}, "no_flow"),
        ({"task": Task.EXPANSION_TANK_CHECK, "at_valve": "water"}, "water"),
        ({"task": Task.ANODE_REPLACEMENT}, "new"),
    ],
)
def test_a_track_draws_what_was_graded_or_a_new_part(values, word):
    assert mark(Finding(**values)) == word

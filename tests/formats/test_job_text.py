"""A job book's shorthand, each line with what a plumber means by it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aquifer.formats.job_text import findings


@pytest.mark.parametrize(
    ("text", "parts", "means"),
    [
        ("flushed, lots of white", "", [{"task": "flush", "removed": "heavy", "texture": "flakes"}]),
        ("flush - clear", "", [{"task": "flush", "removed": "none"}]),
        ("1 qt sand", "", [{"task": "flush", "removed": "moderate", "texture": "sand", "removed_l": 0.95}]),
        ("½ bucket", "", [{"task": "flush", "removed": "heavy", "removed_l": 9.5}]),
        ("drain plugged, left it", "", [{"task": "flush", "removed": "blocked", "drain_flow": "none"}]),
        (
            "flush/anode, rod gone to wire",
            "anode",
            [{"task": "flush"}, {"task": "anode_inspection", "grade": "gone"}, {"task": "anode_replacement"}],
        ),
        ("anode half", "", [{"task": "anode_inspection", "grade": "half"}]),
        ("t&p ok", "", [{"task": "relief_valve_exercise", "outcome": "flows_and_reseats"}]),
        (
            "T&P would not reseat, new one in",
            "",
            [
                {"task": "relief_valve_exercise", "outcome": "flows_and_weeps"},
                {"task": "relief_valve_replacement"},
            ],
        ),
        (
            "relief valve stuck",
            "T&P",
            [{"task": "relief_valve_exercise", "outcome": "no_flow"}, {"task": "relief_valve_replacement"}],
        ),
        (
            "exp tank waterlogged - new",
            "",
            [{"task": "expansion_tank_check", "at_valve": "water"}, {"task": "expansion_tank_replacement"}],
        ),
        ("descaled 45 min", "", [{"task": "descale"}]),
        ("screen cleaned", "", [{"task": "upkeep", "item": "inlet_screen", "fouling": "light"}]),
        ("no hot water – lower element", "4500W elem", [{"task": "look_over", "element_failed": True}]),
        ("yearly svc", "", []),
        ("relit pilot, thermocouple", "thermocouple", []),
        ("", "", []),
    ],
)
def test_a_line_says_what_a_plumber_means_by_it(text, parts, means):
    assert findings(text, parts) == means


@given(st.text(max_size=80))
def test_no_line_breaks_it(text):
    for one in findings(text, text):
        assert one["task"] and all(value != "" for value in one.values())

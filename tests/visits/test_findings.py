"""Findings from answers, by a table; and what was said when a visit was arranged."""

import datetime

import pytest

from aquifer.rounds.models import Appointment
from aquifer.visiting.findings import findings_of
from aquifer.visiting.guide import _called_for

TABLE = [
    ({"flush.removed": "heavy"}, [{"task": "flush", "method": "drain_and_pulse", "removed": "heavy"}]),
    ({"flush.removed": "heavy", "flush.skipped": True}, []),
    ({"flush.removed": "heavy", "flush.skipped": False},
     [{"task": "flush", "method": "drain_and_pulse", "removed": "heavy"}]),
    # A measured nothing is a reading.
    ({"flush.depth_before_mm": 0.0}, [{"task": "flush", "method": "drain_and_pulse", "depth_before_mm": 0.0}]),
    ({"flush.removed": None}, []), ({"removed": "heavy"}, []),
    ({"rod.grade": "gone", "rod.replaced": True, "rod.new_alloy": "magnesium"},
     [{"task": "anode_inspection", "grade": "gone"}, {"task": "anode_replacement", "alloy": "magnesium"}]),
    ({"rod.grade": "worn", "rod.new_alloy": "magnesium"}, [{"task": "anode_inspection", "grade": "worn"}]),
    ({"valve.replaced": True}, [{"task": "relief_valve_replacement"}]),
    ({"flush.replaced": True}, []),
    ({"relief.outlet": "dry"}, [{"task": "look_over", "valve_drips": False}]),
    ({"relief.outlet": "puddle"}, [{"task": "look_over", "valve_drips": True}]),
    ({"relief.outlet": "weeps"}, [{"task": "look_over", "valve_drips": False}]),
    ({"descale.household_changed": True, "descale.removed": "trace"},
     [{"task": "household_change"}, {"task": "descale", "removed": "trace"}]),
]  # fmt: skip


@pytest.mark.parametrize(("answers", "means"), TABLE)
def test_answers_are_findings_by_one_table(answers, means):
    told = [one.model_dump(exclude_unset=True, mode="json") for one in findings_of(answers, "drain_and_pulse")]
    assert told == means


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("given", "lines"),
    [
        ({}, []), ({"reason": "complaint"}, ["Said when it was arranged: complaint."]),
        ({"said": "knocks at night"}, ["Said when it was arranged: knocks at night."]),
        ({"reason": "wish", "said": "before noon", "note": "gate left open"},
         ["Said when it was arranged: asked for by the customer; before noon; gate left open."]),
        ({"decides": "Ines, 555-0101"}, ["More work is decided by Ines, 555-0101."]),
        ({"said": "knocks", "standing": "called_off"}, []), ({"said": "knocks", "days": 1}, []),
    ],
)  # fmt: skip
def test_what_was_said_when_it_was_arranged_is_told_once_it_was(forecasted, given, lines):
    heater, today = forecasted["heaters"][0], forecasted["today"]
    on = today + datetime.timedelta(days=given.get("days", 0))
    rest = {name: value for name, value in given.items() if name != "days"}
    Appointment.objects.create(site=heater.site, week=on, on=on, minutes=60, **{"standing": "kept", **rest})
    assert _called_for(heater, today) == lines

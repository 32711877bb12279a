"""What is graded by eye in practice tells of the eye before its first bucket."""

import numpy as np
import pytest

from aquifer.accounts.models import User
from aquifer.core.components.sediment import practised
from aquifer.core.learning.calibration import grader_bias
from aquifer.core.parameters import SEDIMENT
from aquifer.core.vocabulary import Removed, code
from aquifer.forecasts import calibrations
from aquifer.forecasts.inputs import People
from aquifer.forecasts.models import Calibration, PractisedLook
from tests.core.apprentice import follows

CUTS = np.array(SEDIMENT.grade_cuts_m)


def looks(factor, depths):
    """Grades of an eye that sees deposit so many times as deep as it lies."""
    return np.searchsorted(CUTS, factor * depths, side="right")


def test_an_eye_that_sees_double_is_known_from_practice_alone():
    depths = np.exp(np.random.default_rng(4).uniform(np.log(0.002), np.log(0.08), 20))
    for factor in (0.5, 1.0, 2.0):
        pairs = practised(depths, looks(factor, depths), np.zeros(20, dtype=np.int64))
        bias, unknown = grader_bias(pairs, 1)
        assert bias[0] == pytest.approx(0.85 * np.log(factor), abs=0.3)
        assert unknown[0] < 0.6 * grader_bias(practised(depths[:1], looks(1.0, depths[:1]), np.zeros(1, int)), 1)[1][0]
    with pytest.raises(ValueError, match="not positive"):
        practised(np.array([0.0]), np.array([0]), np.array([0]))


def test_a_practice_that_ends_keeps_what_was_graded_and_what_was_so(as_role, base):
    done, _ = follows("gas_yearly", 3)
    acts = [{"at_s": one.at_s, "handle": one.handle, "to": one.to} for one in done.acts]
    client = as_role("apprentice")
    body = {"scenario": "gas_yearly", "seed": 3, "acts": acts, "at_s": done.now_s}
    assert client.post("bench/practised", body).status_code == 201
    look = PractisedLook.objects.get()
    litres = done.heater.removed_kg / 0.65
    assert look.depth_mm == pytest.approx(litres / (0.19 / 1.2), rel=0.02)
    assert look.removed == done.notes["removed"] and look.by.username == "apprentice"
    # Of nothing that came out, and of nothing that was noted, an eye says nothing.
    for acts in ([], [{"at_s": 5, "handle": "removed", "to": "heavy"}]):
        client.post("bench/practised", {"scenario": "gas_yearly", "seed": 3, "acts": acts, "at_s": 60})
    assert PractisedLook.objects.count() == 1


def test_the_base_learns_of_an_eye_before_its_first_visit(as_role, base):
    as_role("apprentice")
    person = User.objects.get(username="apprentice")
    for depth in np.linspace(3, 60, 12):
        removed = list(Removed)[int(looks(2.0, np.array([depth / 1000]))[0])]
        PractisedLook.objects.create(by=person, depth_mm=depth, removed=removed)
    assert person.name in People.on_record().graders
    calibrations.renew(base["today"])
    taught = Calibration.objects.get(component="sediment")
    assert taught.graders[person.name] > 0.2 and taught.pairs == 12
    assert code(Removed.HEAVY) > code(Removed.TRACE)

"""What a change would do, the years without a rod, and an eye that all have in common: against draws and plain sums."""

from types import SimpleNamespace

import numpy as np
import pytest

from aquifer.core import alternatives
from aquifer.core.components.tank import Bareness
from aquifer.core.learning import Pairs, calibration
from aquifer.core.learning.evidence import GradeScale
from aquifer.core.parameters import LEARNING
from aquifer.core.vocabulary import Component
from tests.core.test_alternatives_upkeep import tried

GRADES = GradeScale((-1.0, 0.0, 1.0), 0.4, 0.02)


@pytest.mark.parametrize(("mean", "sd", "level_m", "rate_m"), [
    (0.0, 0.3, 0.6e-3, 0.2e-3), (-0.5, 0.5, 0.2e-3, 0.4e-3), (0.4, 0.2, 0.1e-3, 0.3e-3),
])  # fmt: skip
def test_an_exchanger_that_is_changed_is_descaled_when_draws_of_its_pace_say(monkeypatch, mean, sd, level_m, rate_m):
    """What acid leaves and what comes on top of it a year, against a limit, at a hundred thousand paces."""
    limit, removed, tolerance, shift = 0.5e-3, 0.8, 0.1, 0.15
    monkeypatch.setattr(alternatives.scale, "removed_share", lambda removal: removed)
    heaters = SimpleNamespace(tolerance=np.array([tolerance]), practice=np.array([0]), hardness_mg_l=np.array([300.0]))
    now = SimpleNamespace(
        taught=SimpleNamespace(removal=1.0), heaters=heaters, limit_driver=np.array([limit]),
        history=SimpleNamespace(now_m=np.array([level_m])),
        believed=lambda belief: SimpleNamespace(level=SimpleNamespace(shift=np.array([shift]))),
    )  # fmt: skip
    later = SimpleNamespace(heaters=heaters, unit_rate=np.array([rate_m]))
    told = alternatives._scale(now, later, {Component.SCALE: (mean, sd)})
    belief = alternatives._belief(Component.SCALE, {Component.SCALE: (mean, sd)})
    # Years ahead stray further than those behind.
    spread = np.hypot(sd, belief.future_spread)
    pace = np.exp(mean + spread * np.random.default_rng(7).standard_normal(400_000))
    left = (1 - removed) * np.exp(shift) * level_m
    over = {t: float((pace * (left + rate_m * t) > limit).mean()) for t in (0.0, 0.25, 0.5, 0.75, 1.0)}
    years = float(np.quantile((limit / pace - left) / rate_m, tolerance))
    assert told.years_between == pytest.approx(years, rel=0.04)
    assert told.over_after_service == pytest.approx(over[0.0], abs=0.01)
    assert told.over_at_next == pytest.approx(tolerance, abs=0.012)
    assert told.over_in_12_months == pytest.approx(np.trapezoid(list(over.values()), list(over)), abs=0.01)


def test_the_names_of_what_a_change_does():
    (plain,) = tried()
    bed = plain[Component.SEDIMENT]
    assert 0 <= bed.over_after_service <= bed.over_at_next <= 1


def bare(age, fitted, lasts, before=(0.0, 0.0, 0.0)):
    return Bareness(np.array([fitted]), np.array([lasts]), np.array([before])), np.array([age])


def test_a_tank_stands_without_a_rod_from_its_end_on():
    """By three guesses at its pace, of which the middle one weighs four of six."""
    one, age = bare(10.0, 4.0, (2.0, 5.0, 9.0))
    assert one.spent(age)[0] == pytest.approx((4.0 + 4 * 1.0 + 0.0) / 6)
    assert one.ahead(age)[0] == pytest.approx((1 + 4 * 1 + 0) / 6)
    nearly, age = bare(10.0, 4.0, (6.25, 6.75, 7.0))
    assert nearly.spent(age)[0] == 0 and nearly.ahead(age)[0] == pytest.approx((0.75 + 4 * 0.25) / 6)
    # Before this rod was put in it had stood without one; of half of that time half is reckoned.
    had, age = bare(10.0, 4.0, (9.0, 9.0, 9.0), (1.0, 2.0, 3.0))
    assert had.spent(age)[0] == pytest.approx((1 + 8 + 3) / 6)
    assert had.spent(np.array([2.0]))[0] == pytest.approx((0.5 + 4 + 1.5) / 6)
    never, age = bare(7.0, 0.0, (0.0, 0.0, 0.0))
    assert (never.spent(age)[0], never.ahead(age)[0]) == (pytest.approx(7.0), pytest.approx(1.0))


def pairs_of(sees, number, seed=5):
    """Grades of people who each see so much over the truth, natural log, of states over the whole scale."""
    chance = np.random.default_rng(seed)
    state = chance.uniform(GRADES.cuts[0] - 1, GRADES.cuts[-1] + 1, len(sees) * number)
    by = np.repeat(np.arange(len(sees)), number)
    seen = state + np.asarray(sees)[by] + GRADES.spread * chance.standard_normal(state.size)
    return Pairs(by * 0, state, np.full(state.size, 1e-6), np.searchsorted(GRADES.cuts, seen), by, GRADES)


def test_the_eye_that_all_have_in_common_is_the_mean_of_theirs_drawn_to_none():
    """Four people of many pairs each: each known by itself, and the common eye by a textbook's normal of their mean."""
    sees = np.array([0.5, 0.3, 0.6, 0.4])
    mean, variance = calibration.grader_bias(pairs_of(sees, 600), 4)
    assert mean[:-1] == pytest.approx(sees, abs=0.08)
    says, beforehand = 4 / LEARNING.grader_spread**2, 1 / LEARNING.common_eye_spread**2
    assert mean[-1] == pytest.approx(mean[:-1].mean() * says / (says + beforehand), abs=0.03)
    assert variance[-1] == pytest.approx(1 / (says + beforehand), rel=0.1)
    assert (variance[:-1] < 0.1 * LEARNING.grader_spread**2).all()


def test_of_whom_nothing_was_measured_nothing_but_the_common_eye_is_known():
    nobody = pairs_of([0.0], 0)
    mean, variance = calibration.grader_bias(nobody, 2)
    assert mean == pytest.approx([0.0, 0.0, 0.0], abs=1e-9)
    # On a grid, a normal that is cut off at its ends is a little narrower.
    assert variance[:2] == pytest.approx([LEARNING.grader_spread**2] * 2, rel=0.15)
    assert variance[-1] == pytest.approx(LEARNING.common_eye_spread**2, rel=0.15)

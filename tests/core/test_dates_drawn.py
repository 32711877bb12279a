"""Dates, risks and quantiles of a deposit against draws of many heaters from what is believed of one."""

import json

import numpy as np
import pytest

from aquifer.core import case
from aquifer.core.case.fleet import as_fleet
from aquifer.core.components import ScaleComponent, SedimentComponent
from aquifer.core.components.growing import REACH_YEARS
from aquifer.core.learning import Posterior, level
from aquifer.core.parameters import LEARNING
from aquifer.core.quantiles import of_mixture
from tests.core.fleets import document
from tests.core.test_level import fleet_of


class Draws:
    """Four hundred thousand tanks of one that may be flushed: pace, level and what is to come, as is believed of it."""

    def __init__(self, depths, years, mean):
        self.component = SedimentComponent.of(fleet_of(years, depth=depths))
        # As unsure as if nobody had looked, so that the pace does not wander besides.
        spread = float(self.component.heater_spread[0] * self.component.taught.heater_scale)
        mass = np.exp(-0.5 * ((level.GRID - mean) / spread) ** 2)
        self.belief = Posterior((mass / mass.sum())[None, :].astype(np.float32), np.zeros(1), LEARNING.future_spread)
        known = self.known = self.component.believed(self.belief)
        draw = np.random.default_rng(4).standard_normal((3, 400_000))
        centre, sd = float(self.belief.mean[0]), float(self.belief.sd[0])
        own = float(known.level.variance(known.year_spread)[0])
        self.pace = centre + sd * draw[0]
        self.level = centre + float(known.level.shift[0]) + float(known.level.share[0]) * (self.pace - centre)
        self.level += np.sqrt(own) * draw[1]
        self.to_come = self.pace + known.year_spread * draw[2]

    def years(self, factor=0.0):
        """Until each reaches the limit, if its level and pace were by so much lower, natural log."""
        return self.component.years_to_limit(self.level[None] - factor, self.to_come[None] - factor)[0]

    def over(self, years):
        """Which share is over the limit in so many years."""
        now, then = self.component.ahead(np.array([0.0, years]))[0]
        reached = np.exp(self.level) * now + np.exp(self.to_come) * (then - now)
        return float((reached > self.component.limit_driver[0]).mean())


DRAWN = pytest.mark.parametrize(
    ("depths", "years", "mean"),
    [
        ([8.0, 14.0], (2.0, 4.0), -0.8), ([8.0, 14.0], (2.0, 4.0), -1.4), ([8.0, 14.0], (2.0, 4.0), -2.0),
        ([3.0, 4.0], (2.0, 4.0), -0.8), ([3.0, 4.0], (2.0, 4.0), -2.0), ([], (), -1.0), ([], (), -2.0),
    ],
)  # fmt: skip


@DRAWN
def test_dates_are_what_draws_of_level_and_pace_say(depths, years, mean):
    draws = Draws(depths, years, mean)
    chances, accepted, factors = np.array([0.1, 0.25, 0.5, 0.75]), np.array([0.3]), np.array([[0.0, 0.5, -0.4]])
    told = draws.component.dates(draws.belief, chances, accepted, factors)
    assert told.window[0] == pytest.approx(np.quantile(draws.years(), 1 - chances), rel=0.08, abs=0.1)
    assert told.accepted[0] == pytest.approx(np.quantile(draws.years(), 0.7), rel=0.08)
    without = [np.quantile(draws.years(factor), 0.7) for factor in factors[0]]
    assert told.without[0] == pytest.approx(without, rel=0.1, abs=0.15) and told.without[0, 0] == told.accepted[0]


@DRAWN
def test_how_likely_it_is_over_its_limit_is_what_draws_say(depths, years, mean):
    draws = Draws(depths, years, mean)
    for in_years in (0.0, 1.0, 4.0, 10.0):
        levels, at = draws.component.later(draws.known, np.array([in_years]))
        told = draws.component.over(draws.belief, draws.known, levels, at)
        assert told[0, 0] == pytest.approx(draws.over(in_years), abs=0.04), in_years


def test_what_is_over_its_limit_is_told_since_when():
    """A level e times what it was a year after a service: over since then by about as long as it took."""
    draws = Draws([8.0, 14.0], (2.0, 4.0), -0.1)
    told = draws.component.dates(draws.belief, np.array([0.5]), np.array([0.5]), np.zeros((1, 0)))
    since = float(draws.component.since_service[0])
    assert told.window[0, 0] == 0 and since == pytest.approx(1.0)
    centre = draws.belief.mean + draws.known.level.shift
    took = float(draws.component.years_from_service(centre[:, None])[0, 0])
    assert took < since and told.accepted[0] == pytest.approx(took - since, abs=0.02)
    sooner = Draws([8.0, 14.0], (2.0, 4.0), 0.1)
    again = sooner.component.dates(sooner.belief, np.array([0.5]), np.array([0.5]), np.zeros((1, 0)))
    assert -since <= again.accepted[0] < told.accepted[0]


def test_levels_are_told_at_their_quantiles():
    draws = Draws([8.0, 14.0], (2.0, 4.0), -0.8)
    standing = np.array([[-1.2816, 0.0, 1.2816]])
    now, *_ = draws.component.later(draws.known, np.array([0.0]))
    told = draws.component.told(draws.known, now, draws.component.later(draws.known, np.array([0.0]))[1], standing)
    drawn = np.exp(draws.level) * float(draws.component.ahead(np.zeros(1))[0, 0])
    assert told[0, 0] == pytest.approx(np.quantile(drawn, [0.1, 0.5, 0.9]), rel=0.03)


def test_a_wall_that_was_over_its_limit_right_after_a_descale_has_no_years_left():
    """Of an exchanger: years from its descale, and from today, to a limit that lies behind it."""
    heater = {"kind": "gas_tankless", "installed_on": "2020-11-24", "setpoint_c": 60}
    component = ScaleComponent.of(as_fleet(case.read(json.dumps(document(heater=heater)))))
    far, near = np.full((1, 1), 20.0), np.full((1, 1), -6.0)
    assert component.years_from_service(far)[0, 0] < 1e-6 and component.years_to_limit(far, far)[0, 0] == 0
    limit, now = float(component.limit_driver[0]), float(component.history.now_m[0])
    left, rate = float(component.history.left_m[0]), float(component.unit_rate[0])
    for log_theta in (-6.0, -0.5):
        at = np.full((1, 1), log_theta)
        from_service = (limit / np.exp(log_theta) - left) / rate
        assert component.years_from_service(at)[0, 0] == pytest.approx(np.clip(from_service, 0, REACH_YEARS))
        from_now = (limit - now * np.exp(log_theta)) / (rate * np.exp(near[0, 0]))
        assert component.years_to_limit(at, near)[0, 0] == pytest.approx(np.clip(from_now, 0, REACH_YEARS))


def test_one_of_several_is_told_by_the_quantiles_of_what_it_may_be():
    """By two hundred thousand draws of which it is and of what that one is."""
    means, sds = np.array([-1.0, 0.2, 0.3, 2.5]), np.array([0.1, 0.4, 0.4, 0.05])
    random = np.random.default_rng(11)
    which = random.integers(0, 4, 200_000)
    drawn = random.normal(means[which], sds[which])
    wanted = np.array([0.05, 0.1, 0.4, 0.5, 0.9])
    found = of_mixture(means, sds, wanted)
    assert np.abs(np.quantile(drawn, wanted) - found).max() < 0.02
    # One alone is its own normal distribution; of two that are surely apart the middle is between them.
    alone = of_mixture(np.array([0.4]), np.array([0.2]), np.array([0.1, 0.5]))
    assert alone == pytest.approx([0.4 - 0.2 * 1.28155, 0.4], abs=1e-5)
    known = of_mixture(np.array([0.4, 0.8]), np.zeros(2), np.array([0.1, 0.9]))
    assert known == pytest.approx([0.4, 0.8], abs=1e-6)

"""Ten years of a tank in money, against hand-written arithmetic."""

import numpy as np
import pytest

from aquifer.core import ten_years
from aquifer.core.parameters import TANK
from aquifer.core.ten_years import Prices, courses, expected_failures, failing, fresh

NONE = np.zeros(10)


def test_the_first_year_is_the_forecasts_and_the_years_grow_worse():
    found = failing(9.0, 0.12)
    assert found[0] == pytest.approx(0.12) and found.sum() < 1
    alive = 1 - np.concatenate([[0], np.cumsum(found)[:-1]])
    assert np.all(np.diff(found / alive) > 0)


def test_a_weibull_of_the_handbook_is_met_where_the_forecast_is_ordinary():
    age, law = 6.0, lambda years: (years / TANK.life_years) ** TANK.shape
    within = 1 - np.exp(law(age) - law(age + 1))
    standing = [np.exp(law(age) - law(age + years)) for years in range(11)]
    assert failing(age, within) == pytest.approx(-np.diff(standing))
    assert fresh() == pytest.approx(-np.diff([np.exp(-law(years)) for years in range(11)]))


def test_a_tank_whose_rod_runs_out_leaks_sooner_and_not_before():
    kept, neglected = failing(5.0, 0.05), failing(5.0, 0.05, 3.0)
    assert neglected[:3] == pytest.approx(kept[:3]) and neglected.sum() > 1.1 * kept.sum()


def test_a_second_tank_can_leak_too():
    sure = np.array([1.0, *[0.0] * 9])
    each = np.full(10, 0.01)
    assert expected_failures(sure, NONE) == 1.0
    # After the first year nine are left for the second.
    assert expected_failures(sure, each) == pytest.approx(1.09)
    assert expected_failures(np.array([*[0.0] * 9, 1.0]), each) == pytest.approx(1.0)


def test_the_three_ways_by_hand():
    told = Prices(service=100, repair=80, heater=1500, damage=2000, energy_a_year=400)
    half = np.array([0.5, *[0.0] * 9])
    left, yearly, new = courses(NONE, half, NONE, told)
    assert (left.services, left.repairs, left.heaters, left.damage) == pytest.approx((0, 120, 750, 1000))
    # 1 % more each year: 10 years and 45 hundredths.
    assert left.energy == pytest.approx(400 * 10.45)
    assert (yearly.services, yearly.repairs, yearly.heaters, yearly.energy) == pytest.approx((1000, 48, 0, 4000))
    assert (new.services, new.repairs, new.heaters, new.energy) == pytest.approx((1000, 24, 1500, 3680))
    assert left.total == pytest.approx(120 + 750 + 1000 + 4180)
    assert [one.name for one in (left, yearly, new)] == list(ten_years.REPAIRS_A_YEAR)


def test_a_probability_that_cannot_be_is_refused():
    with pytest.raises(ValueError, match="within_a_year 1"):
        failing(5.0, 1.0)

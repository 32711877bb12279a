"""Ten years of a tank in money, against hand-written arithmetic."""

import numpy as np
import pytest

from aquifer.core import ten_years
from aquifer.core.parameters import TANK
from aquifer.core.ten_years import Prices, courses, drift_learned, expected_failures, failing, fresh

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
    left, yearly, new, later = courses(NONE, half, NONE, told)
    assert (left.services, left.repairs, left.heaters, left.damage) == pytest.approx((0, 120, 750, 1000))
    # 1 % more each year: 10 years and 45 hundredths.
    assert left.energy == pytest.approx(400 * 10.45)
    assert (yearly.services, yearly.repairs, yearly.heaters, yearly.energy) == pytest.approx((1000, 48, 0, 4000))
    assert (new.services, new.repairs, new.heaters, new.energy) == pytest.approx((1000, 24, 1500, 3680))
    # One that is bought within the first year has 9 of its 12.5 years behind it at the end, one of today 10.
    assert (left.worth_left, new.worth_left) == pytest.approx((0.5 * 1500 * 0.28, 1500 * 0.2))
    assert left.total == pytest.approx(120 + 750 + 1000 + 4180 - 210)
    assert [one.name for one in (left, yearly, new, later)] == [*ten_years.REPAIRS_A_YEAR, "later"]
    # What a new one spares of energy and repairs is less than what a year of it is worth: as late as can be.
    assert later.renewed_in == 9 and later.heaters == pytest.approx(1500)
    assert later.repairs == pytest.approx(80 * (9 * 0.06 + 0.03)) and later.energy == pytest.approx(400 * 9.92)


def test_a_tank_that_will_leak_soon_is_renewed_before_it_does():
    told = Prices(service=100, repair=80, heater=1500, damage=9000)
    soon = np.array([0, 0, 0, 0.9, *[0.0] * 6])
    later = courses(soon, soon, NONE, told)[-1]
    assert later.renewed_in == 3 and later.failures == 0 and later.worth_left == pytest.approx(1500 * (1 - 7 / 12.5))
    # A year later it leaks in nine of ten, a new one is bought in any case.
    four = ten_years._way("later", soon, NONE, told, 4, 0.01, 0.0)
    assert (four.failures, four.heaters, four.damage) == pytest.approx((0.9, 1500, 8100))


def test_a_way_lies_within_its_range_and_wider_the_less_is_known():
    told = Prices(service=100, repair=80, heater=1500, damage=2000, energy_a_year=400)
    tank = failing(9.0, 0.08)
    sure, unsure = (courses(tank, failing(9.0, 0.08, 2.0), fresh(), told, unsure=sd) for sd in (0.0, 0.8))
    assert unsure[1].high >= sure[1].high and all(one.low < one.high for one in sure)


@pytest.mark.parametrize("renewed_in", [None, 0, 4])
def test_what_is_drawn_is_on_average_what_is_reckoned(renewed_in):
    told = Prices(service=100, repair=80, heater=1500, damage=2000, energy_a_year=400)
    tank, repairs, used = failing(9.0, 0.08), np.full(10, 0.06), np.ones(10)
    name = "new" if renewed_in == 0 else "yearly" if renewed_in is None else "later"
    way = ten_years._way(name, tank, fresh(), told, renewed_in, 0.0, 0.0)
    drawn = ten_years._drawn(tank, fresh(), told, renewed_in, repairs, used, 0.0, True)
    rest = 10 * 100 + 0.6 * 80 + 4000
    assert drawn.mean() - rest == pytest.approx(way.heaters + way.damage - way.worth_left, rel=0.04)
    assert drawn.min() >= rest - 0.6 * 80 - 1e-9


def test_bills_before_and_after_a_cleaning_move_the_drift_and_no_further_than_they_can():
    assert drift_learned([]) == ten_years.DRIFT_A_YEAR
    # Four years of deposit and 12 % less afterwards: 3.4 % a year, of which two bills are sure to 2 %.
    one = drift_learned([(4500, 4018, 4.0)])
    seen, error = (4500 / 4018 - 1) / 4, 0.08 / 4
    assert one == pytest.approx((0.01 / 0.01**2 + seen / error**2) / (1 / 0.01**2 + 1 / error**2))
    assert ten_years.DRIFT_A_YEAR < one < drift_learned([(4500, 4018, 4.0)] * 3) < seen
    assert drift_learned([(3000, 4500, 1.0)] * 50) == 0.0
    with pytest.raises(ValueError, match="above 0"):
        drift_learned([(0, 4000, 1.0)])


def test_a_probability_that_cannot_be_is_refused():
    with pytest.raises(ValueError, match="within_a_year 1"):
        failing(5.0, 1.0)


def test_that_leaks_differ_widens_what_they_come_to_and_leaves_its_mean(monkeypatch):
    told = Prices(service=0, repair=0, heater=0, damage=5000)
    half = np.array([0.5, *[0.0] * 9])
    args = (half, NONE, told, None, NONE, NONE, 0.0, True)
    drawn = ten_years._drawn(*args)
    monkeypatch.setattr(ten_years, "DAMAGE_SPREAD", 0.0)
    plain = ten_years._drawn(*args)
    assert drawn.mean() == pytest.approx(plain.mean()) == pytest.approx(2500, rel=0.05)
    assert set(np.round(plain)) == {0, 5000} and np.quantile(drawn, 0.9) > 6000


def test_leaks_of_a_tank_that_is_renewed_and_of_what_follows_it_are_counted_by_hand():
    first = np.array([0.2, 0.1, 0.4, *[0.0] * 7])
    new = np.array([*[0.0] * 6, 0.03, 0.05, 0.07, 0.11])
    # Until the end of its seventh, eighth, ninth and tenth year a new one has leaked with 3, 8, 15 and 26 of 100.
    # Of the old one, renewed after two years if it stands: it leaks in the first year (a new one has nine more) or in
    # the second (eight); else the new one has eight.
    by_hand = 0.2 * (1 + 0.15) + 0.1 * (1 + 0.08) + 0.7 * 0.08
    assert ten_years._failures(first, new, 2) == pytest.approx(by_hand)
    assert ten_years._failures(first, new, 1) == pytest.approx(0.2 * (1 + 0.15) + 0.8 * 0.15)
    assert ten_years._failures(first, new, 9) == pytest.approx(0.2 * 1.15 + 0.1 * 1.08 + 0.4 * 1.03 + 0.3 * 0.0)
    # At the end of the last year nothing comes after it.
    late = np.array([*[0.0] * 9, 0.5])
    assert ten_years._failures(late, new, 10) == pytest.approx(0.5)
    # Renewed today it is a new one that leaks, and one that follows it in what is left.
    assert ten_years._failures(first, new, 0) == ten_years.expected_failures(new, new)


def test_what_a_heater_is_still_worth_falls_by_a_straight_line():
    worth = ten_years._worth(np.array([0.0, 1.0, 9.0, 10.0, 12.0]))
    # Of twelve and a half years, ten, nine and one are over; what is fitted at the end is another's.
    assert worth == pytest.approx([1 - 10 / 12.5, 1 - 9 / 12.5, 1 - 1 / 12.5, 0.0, 0.0])

"""What closing a gap in the record would be worth, in days of the window."""

import datetime

import numpy as np

from aquifer.core import assembly, fleet, water
from aquifer.core.gaps import Gap, worth
from aquifer.core.parameters import LEARNING
from tests.core.fleets import known, without_events

AS_OF = datetime.date(2026, 11, 24)


def profiles(**figures):
    return [water.profile(water.WaterTest(**figures))]


FULL = {"total_hardness_mg_l": 250.0, "calcium_hardness_mg_l": 190.0, "alkalinity_mg_l": 185.0, "ph": 7.5}


def gaps(waters, **columns):
    n = len(next(iter(columns.values()))) if columns else 1
    heaters = known(n, **columns)
    return worth(heaters, waters, without_events(assembly.complete(heaters, waters)))


def test_a_heater_of_which_all_is_known_has_no_gap_in_age_or_flushes():
    found = gaps(profiles(**FULL))
    assert found[Gap.AGE][0] == found[Gap.FLUSHES][0] == 0
    assert found[Gap.USE][0] == 0


def test_an_unknown_age_is_worth_days_and_more_of_them_the_less_is_known():
    found = gaps(profiles(**FULL), age_log_sd=np.array([0.0, 0.2, LEARNING.unknown_age_spread]))[Gap.AGE]
    assert found[0] == 0 < found[1] < found[2]


def test_each_gap_is_worth_something_of_its_own():
    found = gaps(profiles(**FULL), age_log_sd=np.array([0.4, 0.0]), flushes_log_sd=np.array([0.0, 0.4]))
    assert found[Gap.AGE][0] > 0 == found[Gap.AGE][1]
    assert found[Gap.FLUSHES][1] > 0 == found[Gap.FLUSHES][0]


def test_a_meter_is_worth_days_where_use_is_estimated():
    found = gaps(profiles(**FULL), litres_per_day=np.array([165.0, np.nan]))[Gap.USE]
    assert found[0] == 0 < found[1]


def test_a_full_analysis_is_worth_days_where_only_hardness_is_known():
    strip = gaps(profiles(total_hardness_mg_l=250.0))[Gap.WATER]
    full = gaps(profiles(**FULL))[Gap.WATER]
    assert strip[0] > full[0] >= 0


def test_the_margin_of_an_estimated_age_widens_with_it():
    ages, certain = np.full(3, 10.0), np.array([True, False, False])
    spread = fleet.age_log_sd(ages, certain, np.array([np.nan, 1.0, 4.0]))
    assert spread[0] == 0 < spread[1] < spread[2]

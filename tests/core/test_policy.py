"""When a service is due: risk, practice and the caps that nothing lengthens."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aquifer.core import policy
from aquifer.core.vocabulary import Alloy, DecidedBy, FlushMethod, Practice, code

YEARS = st.floats(-5, 40)
SINCE = st.floats(0, 30)


def one(*values: float) -> np.ndarray:
    return np.array(values, dtype=float)


def flush(by_risk: float, since: float, practice: Practice = Practice.CONDITION, hardness: float = 100, longest=3.0):
    practices = np.array([code(practice)])
    return policy.flush_due(one(by_risk), one(since), one(longest), practices, one(hardness))


def decided(due: policy.Due) -> DecidedBy:
    return list(DecidedBy)[due.decided_by[0]]


def test_risk_decides_within_the_shortest_and_the_longest_interval():
    assert (flush(1.0, 0.5).years[0], decided(flush(1.0, 0.5))) == (1.0, DecidedBy.TOLERANCE)
    assert (flush(9.0, 0.5).years[0], decided(flush(9.0, 0.5))) == (2.5, DecidedBy.CAP)
    assert flush(0.0, 0.1).years[0] == pytest.approx(0.15)


def test_what_is_due_by_risk_is_due_today_and_what_a_cap_set_says_since_when():
    assert flush(-1.0, 1.0).years[0] == 0.0
    overdue = flush(5.0, 4.0)
    assert overdue.years[0] == -1.0 and decided(overdue) is DecidedBy.CAP


@given(by_risk=YEARS, since=SINCE, longest=st.floats(0.25, 20))
def test_no_flush_is_later_than_the_longest_interval(by_risk, since, longest):
    due = flush(by_risk, since, longest=longest)
    assert due.years[0] <= longest - since + 1e-9
    assert due.years[0] <= due.latest_years[0] + 1e-9


@given(by_risk=YEARS, sooner=st.floats(0, 10), since=SINCE)
def test_more_risk_is_never_due_later(by_risk, sooner, since):
    assert flush(by_risk - sooner, since).years[0] <= flush(by_risk, since).years[0]


@pytest.mark.parametrize(
    ("practice", "hardness", "interval"),
    [
        (Practice.ANNUAL, 20, 1.0),
        (Practice.HARD_WATER_HALF_YEARLY, 150, 1.0),
        (Practice.HARD_WATER_HALF_YEARLY, 250, 0.5),
        (Practice.LONG_SERVICE, 250, 4.5),
    ],
)
def test_a_calendar_counts_from_the_last_service_whatever_the_risk(practice, hardness, interval):
    for risk in (-1.0, 20.0):
        due = flush(risk, 0.25, practice, hardness)
        assert due.years[0] == pytest.approx(interval - 0.25)
        assert decided(due) is DecidedBy.PRACTICE


def test_a_rod_that_nobody_saw_is_looked_at_when_the_tank_is_a_year_old():
    due = policy.rod_due(one(9.0), one(0.4), one(np.nan))
    assert due.years[0] == pytest.approx(0.6) and decided(due) is DecidedBy.CAP


def test_a_rod_that_was_seen_follows_its_risk_and_is_never_unseen_for_five_years():
    assert policy.rod_due(one(2.0), one(8.0), one(1.0)).years[0] == 2.0
    assert policy.rod_due(one(20.0), one(8.0), one(1.0)).years[0] == 4.0


@given(interval=st.floats(0, 50), since=SINCE, age=st.floats(0, 40), condemned=st.booleans())
def test_a_relief_valve_is_never_due_later_than_twelve_months_after_it_ran(interval, since, age, condemned):
    due = policy.valve_due(one(interval), one(since), one(age), np.array([condemned]))
    assert due.years[0] <= 1.0 - since + 1e-9
    assert due.latest_years[0] <= 1.0 - since + 1e-9
    if condemned:
        assert due.years[0] <= 0 and decided(due) is DecidedBy.FINDING


def chosen(
    usual: FlushMethod,
    practice: Practice = Practice.CONDITION,
    soak: bool = True,
    ends: bool = False,
    **over: float,
) -> FlushMethod:
    risk = np.stack([one(over.get(method.value, 0.1)) for method in FlushMethod])
    wanted = policy.usual_flush(np.array([code(usual)]), np.array([code(practice)]))
    return list(FlushMethod)[policy.flush_method(wanted, risk, np.array([soak]), np.array([ends]))[0]]


def test_a_method_is_kept_as_long_as_it_helps():
    assert chosen(FlushMethod.PRESSURE_BLOWOUT) is FlushMethod.PRESSURE_BLOWOUT
    assert chosen(FlushMethod.PRESSURE_BLOWOUT, pressure_blowout=0.5) is FlushMethod.PRESSURE_BLOWOUT


def test_a_stronger_one_is_proposed_where_it_does_not():
    assert chosen(FlushMethod.DRAIN_AND_PULSE, drain_and_pulse=0.8) is FlushMethod.JETTING
    assert chosen(FlushMethod.DRAIN_AND_PULSE, drain_and_pulse=0.9, jetting=0.7, acid_soak=0.3) is FlushMethod.ACID_SOAK


def test_no_acid_goes_where_it_eats_and_no_labour_into_a_tank_that_is_to_go():
    deep = {"drain_and_pulse": 0.9, "jetting": 0.7, "acid_soak": 0.3}
    assert chosen(FlushMethod.DRAIN_AND_PULSE, soak=False, **deep) is FlushMethod.JETTING
    assert chosen(FlushMethod.DRAIN_AND_PULSE, ends=True, **deep) is FlushMethod.DRAIN_AND_PULSE
    # What the company always does, it does.
    assert chosen(FlushMethod.ACID_SOAK, soak=False, **deep) is FlushMethod.ACID_SOAK
    elements, alloys = np.array([True, False, False, False]), [Alloy.MAGNESIUM, Alloy.ALUMINIUM, Alloy.ALUMINIUM_ZINC]
    alloy = np.array([code(one) for one in (*alloys, Alloy.MAGNESIUM)])
    assert policy.may_soak(elements, alloy).tolist() == [False, False, False, True]


def test_none_is_proposed_that_would_leave_more():
    worse = {"acid_soak": 0.8, "jetting": 0.95, "drain_and_pulse": 0.95, "pressure_blowout": 0.99}
    assert chosen(FlushMethod.ACID_SOAK, **worse) is FlushMethod.ACID_SOAK


def test_the_long_service_jets():
    assert chosen(FlushMethod.PRESSURE_BLOWOUT, Practice.LONG_SERVICE) is FlushMethod.JETTING


@given(since=SINCE, by_risk=YEARS)
def test_an_expansion_tank_is_never_unchecked_for_more_than_twelve_months(since, by_risk):
    due = policy.expansion_tank_due(one(since), one(by_risk), np.array([False]))
    assert due.years[0] <= 1.0 - since + 1e-9


def test_an_expansion_tank_by_hand():
    def due(since, by_risk, condemned=False):
        told = policy.expansion_tank_due(one(since), one(by_risk), np.array([condemned]))
        return told.years[0], decided(told)

    assert due(0.25, 0.5) == (0.5, DecidedBy.TOLERANCE)
    assert due(0.25, 3.0) == (0.75, DecidedBy.CAP)
    # Past its risk it is due today, and not in the past; past its twelve months it says since when.
    assert due(0.25, -2.0) == (0.0, DecidedBy.TOLERANCE)
    assert due(1.5, 3.0) == (-0.5, DecidedBy.CAP)
    assert due(0.25, 3.0, True) == (0.0, DecidedBy.FINDING)
    assert due(1.5, 3.0, True) == (-0.5, DecidedBy.FINDING)

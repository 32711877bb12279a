import pytest

from aquifer.core.judgement import Verdict, flush_or_leave, keep_valve, rod_alloy


@pytest.mark.parametrize(
    ("age", "flushed", "depth", "verdict", "asks"),
    [
        (1, False, 2, Verdict.FLUSH, False),
        (4, False, 2, Verdict.FLUSH_GENTLY, False),
        (7, False, 2, Verdict.LEAVE_ALONE, True),
        (15, True, 2, Verdict.FLUSH, False),
        (8, True, 70, Verdict.FLUSH_GENTLY, True),
        (8, False, 70, Verdict.LEAVE_ALONE, True),
    ],
)
def test_flush_or_leave_by_age_history_and_depth(age, flushed, depth, verdict, asks):
    found = flush_or_leave(age, flushed, 6.0, depth, 50.0)
    assert (found.verdict, found.ask_lead) == (verdict, asks)
    assert all(found.because)


def test_the_cut_off_is_the_companys():
    assert flush_or_leave(7, False, 10.0, 2, 50).verdict is Verdict.FLUSH_GENTLY
    assert flush_or_leave(7, False, 3.0, 2, 50).verdict is Verdict.LEAVE_ALONE
    assert "3" in flush_or_leave(7, False, 3.0, 2, 50).because[0]


def test_a_rod_that_hardly_protects_is_not_praised():
    assert rod_alloy(0.3).verdict is Verdict.CHANGE_ALLOY
    assert "30%" in rod_alloy(0.3).because[0]
    assert rod_alloy(0.8).verdict is Verdict.KEEP_ALLOY


@pytest.mark.parametrize(
    ("age", "outcome", "verdict"),
    [
        (1, None, Verdict.KEEP_VALVE),
        (1, "flows_and_reseats", Verdict.KEEP_VALVE),
        (1, "flows_and_weeps", Verdict.REPLACE_VALVE),
        (1, "no_flow", Verdict.REPLACE_VALVE),
        (7, "flows_and_reseats", Verdict.REPLACE_VALVE),
    ],
)
def test_a_valve_stays_only_if_it_runs_reseats_and_is_not_old(age, outcome, verdict):
    assert keep_valve(age, 6.0, outcome).verdict is verdict


def test_a_failed_valve_is_work_for_a_licence():
    assert any("licensed" in why for why in keep_valve(1, 6.0, "no_flow").because)

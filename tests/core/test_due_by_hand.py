"""What the years ahead do with rods, valves, deposits and new tanks, by hand on two heaters and three futures."""

from types import SimpleNamespace

import numpy as np
import pytest

from aquifer.core.ahead import services
from aquifer.core.ahead.due import Deposits, Due, Rods, Valves
from aquifer.core.case import LARGEST_CASE_BYTES, CaseError, read
from aquifer.core.usage import Use, litres_per_day

ENDS = np.array([[2.0, 3.0, 9.0], [2.5, 3.5, 2.0]])
BEFORE, AT = np.full((2, 1), 2.0), np.array([[3.0], [3.5]])
FRESH = np.array([[False, True, False], [True, True, False]])
"""Whose tank ended after the last visit, and by this one: at its very hour, too, and not at the hour of the last."""


def spread(value: float) -> np.ndarray:
    return np.full((2, 3), value)


def where_fresh(then: np.ndarray, else_: np.ndarray) -> np.ndarray:
    return np.where(FRESH, then, else_)


def test_a_plain_check_begins_anew_with_a_new_tank_and_runs_on_from_when_it_was_done():
    due = Due(spread(4.0), spread(1.0))
    due.new_tank(ENDS, BEFORE, AT)
    assert due.due.tolist() == where_fresh(ENDS + 1, spread(4.0)).tolist()
    assert due.served(FRESH, AT, spread(0.5)) is None
    assert due.due.tolist() == [[4.0, 4.0, 4.0], [4.5, 4.5, 4.0]]
    assert due.rests() == 0


def valves(**other) -> Valves:
    given = {"fitted": spread(0.0), "stuck": spread(0.1), "condemned": ~FRESH, "old_years": np.array([[8.0], [5.0]])}
    return Valves(spread(3.0), spread(1.0), **(given | other))


def test_a_new_tank_comes_with_a_new_valve_of_which_nobody_thinks_ill():
    own = valves(condemned=np.ones((2, 3), dtype=bool))
    own.new_tank(ENDS, BEFORE, AT)
    assert own.fitted.tolist() == where_fresh(ENDS, spread(0.0)).tolist()
    assert own.condemned.tolist() == (~FRESH).tolist()


@pytest.mark.parametrize(
    ("chance", "condemned", "fitted", "renewed"),
    [
        # By chance 0.1 in each year; one at exactly the chance opens.
        (0.0999, False, 0.0, [True, True]), (0.1, False, 0.0, [False, False]), (0.1, True, 0.0, [True, True]),
        # At 3 and 3.5 years: by age from 8 and 5 on, and what is due within a week need not wait.
        (0.5, False, -4.97, [False, True]), (0.5, False, -4.99, [True, True]), (0.5, False, -1.47, [False, False]),
        (0.5, False, -1.49, [False, True]),
    ],
)  # fmt: skip
def test_a_valve_is_renewed_when_it_sticks_is_condemned_or_old(chance, condemned, fitted, renewed):
    own = valves(condemned=np.full((2, 3), condemned), fitted=spread(fitted))
    done = np.ones((2, 3), dtype=bool)
    told = own.served(done, AT, spread(chance))
    assert told[:, 0].tolist() == renewed and (told == told[:, :1]).all()
    assert own.fitted[:, 0].tolist() == [at if new else fitted for at, new in zip((3.0, 3.5), renewed, strict=True)]
    assert own.condemned[:, 0].tolist() == [condemned and not new for new in renewed]
    assert own.due[:, 0].tolist() == [4.0, 4.5]


def test_where_nobody_came_a_valve_stays_as_it_was():
    own = valves(condemned=np.ones((2, 3), dtype=bool))
    told = own.served(np.zeros((2, 3), dtype=bool), AT, spread(0.0))
    assert not told.any() and own.condemned.all() and (own.due == 3.0).all() and (own.fitted == 0.0).all()


def rods(**other) -> Rods:
    given = {"worn": spread(6.0), "fitted": spread(0.0), "lasts": np.array([[3.0], [4.0]])}
    return Rods(spread(5.0), spread(4.0), **(given | other))


def test_a_new_tank_s_rod_is_looked_at_first_by_the_handbook():
    own = rods()
    own.new_tank(ENDS, BEFORE, AT)
    assert own.fitted.tolist() == where_fresh(ENDS, spread(0.0)).tolist()
    assert own.worn.tolist() == where_fresh(ENDS + 4, spread(6.0)).tolist()
    # A year after it is new, which comes before it is worn after four.
    assert own.due.tolist() == where_fresh(ENDS + 1, spread(5.0)).tolist()
    soon = rods()
    soon.interval = spread(0.5)
    soon.new_tank(ENDS, BEFORE, AT)
    assert soon.due.tolist() == where_fresh(ENDS + 0.5, spread(5.0)).tolist()


def test_a_look_renews_the_rod_that_is_mostly_gone_and_leaves_the_other():
    own = rods()
    told = own.served(np.array([[True, True, False], [True, True, True]]), AT, spread(0.5))
    # After 3 years of the 3 that it lasts; after 3.5 of 4.
    assert told.tolist() == [[True, True, False], [False, False, False]]
    assert own.fitted.tolist() == [[3.0, 3.0, 0.0], [0.0, 0.0, 0.0]]
    assert own.worn.tolist() == [[7.0, 7.0, 6.0], [6.0, 6.0, 6.0]]
    # Looked at again when it is worn, and no later than five years on.
    assert own.due.tolist() == [[7.0, 7.0, 5.0], [6.0, 6.0, 6.0]]
    late = rods(worn=spread(20.0), lasts=np.full((2, 1), 99.0))
    late.served(np.ones((2, 3), dtype=bool), AT, spread(0.5))
    assert late.due[:, 0].tolist() == [8.0, 8.5]


def deposits(once: bool, calendar: float, longest: float = 9.0) -> Deposits:
    """Beds that grow by their rate a year, of which a flush leaves a fourth; a limit is reached at the same pace."""
    rate = np.array([1.0, 2.0])
    return Deposits(
        spread(1.0), spread(1.0), (spread(0.0), spread(0.5)), spread(0.0), rate,
        spread(5.0), np.array([[calendar], [np.nan]]), np.array([longest, longest]), once,
        lasts=lambda bed, row, limit: (limit - bed[0] - bed[1]) / rate[row],
        cleaned=lambda bed, row, limit: (bed[0] / 4, bed[1] / 4),
        grown=lambda bed, pace, years: (bed[0] + pace * years, bed[1]),
    )  # fmt: skip


def test_what_grew_since_is_cleaned_and_grows_again_until_the_limit():
    own = deposits(once=True, calendar=np.nan)
    own.served(np.array([[True, False, False], [True, True, False]]), AT, spread(0.5))
    # 3 years at 1, 3.5 at 2; a fourth of it and of the half that lay there is left.
    assert own.bed[0].tolist() == [[0.75, 0.0, 0.0], [1.75, 1.75, 0.0]]
    assert own.bed[1].tolist() == [[0.125, 0.5, 0.5], [0.125, 0.125, 0.5]]
    assert own.since.tolist() == [[3.0, 0.0, 0.0], [3.5, 3.5, 0.0]]
    first, second = 5 - 0.875, (5 - 1.875) / 2
    assert own.interval.tolist() == [[first, 1.0, 1.0], [second, second, 1.0]]
    assert own.due.tolist() == [[3 + first, 1.0, 1.0], [3.5 + second, 3.5 + second, 1.0]]


def test_a_new_tank_is_empty_from_the_day_on_which_it_was_put_in():
    own = deposits(once=True, calendar=np.nan)
    own.new_tank(ENDS, BEFORE, AT)
    assert (
        own.bed[0].tolist() == spread(0.0).tolist()
        and own.bed[1].tolist() == where_fresh(spread(0.0), spread(0.5)).tolist()
    )
    assert own.since.tolist() == where_fresh(ENDS, spread(0.0)).tolist()
    assert own.due.tolist() == where_fresh(ENDS + np.array([[5.0], [2.5]]), spread(1.0)).tolist()


@pytest.mark.parametrize(
    ("calendar", "longest", "interval"), [(2.0, 9.0, 2.0), (np.nan, 3.0, 3.0), (np.nan, 9.0, 4.125)]
)
def test_a_calendar_counts_before_the_risk_and_nothing_waits_longer_than_the_longest(calendar, longest, interval):
    own = deposits(once=True, calendar=calendar, longest=longest)
    own.served(np.array([[True, True, True], [False] * 3]), AT, spread(0.5))
    assert own.interval[0].tolist() == [interval] * 3 and own.due[0].tolist() == [3 + interval] * 3


@pytest.mark.parametrize(
    ("once", "calendar", "rests"), [(True, np.nan, 0.75), (False, np.nan, 0.0), (True, 0.5, 0.0), (True, 0.75, 0.75)]
)
def test_a_season_does_once_what_is_not_asked_for_oftener(once, calendar, rests):
    assert deposits(once, calendar).rests()[0, 0] == rests


def test_one_person_and_one_faucet_count_as_one():
    def litres(**known: float) -> float:
        names = ("metered_l", "people", "fixtures", "burner_hours", "input_kw", "rise_k", "occupied_share")
        given = {name: np.array([known.get(name, np.nan)]) for name in names}
        return float(litres_per_day(Use(**given, business=np.array([-1]), heaters_on_site=np.ones(1)))[0][0])

    # A half of somebody is the least that is reckoned with, and one litre of a meter.
    assert litres(people=1.0) == pytest.approx(55) and litres(people=0.1) == pytest.approx(27.5)
    assert litres(fixtures=1.0) == pytest.approx(litres(fixtures=2.0) / 2) == litres(fixtures=0.3)
    assert litres(metered_l=0.2) == litres(metered_l=1.0) == 1.0 and litres(metered_l=1.5) == 1.5


def test_a_case_of_the_largest_size_is_read():
    with pytest.raises(CaseError) as refused:
        read(" " * LARGEST_CASE_BYTES)
    assert "allowed are" not in str(refused.value)


def test_a_site_is_first_visited_when_the_first_thing_there_is_due_and_within_the_year():
    """What is overdue is caught up with over a quarter of a year, each site at a place of its own in it."""
    due = [SimpleNamespace(row=np.array([0, 1, 2]), due_years=np.array([0.4, 2.5, -3.0])),
           SimpleNamespace(row=np.array([1, 3, 4]), due_years=np.array([0.9, 1.5, 0.0]))]  # fmt: skip
    # Heaters 0 and 1 stand at site 1, 2 at site 2, 3 at site 0, 4 at site 3; nothing is due at site 4.
    first = services._first_visits(due, np.array([1, 1, 2, 0, 3]), 5)
    golden = (5**0.5 - 1) / 2
    late = [0.25 * ((at * golden) % 1) for at in (2, 3)]
    assert first == pytest.approx([1.0, 0.4, *late, 1.0], abs=1e-6)
    assert services.CATCH_UP_YEARS == 0.25

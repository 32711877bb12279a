"""Truths of other families: they share nothing with the core, do what they say, and are told as people tell."""

import ast
from collections import defaultdict
from pathlib import Path

import numpy as np
import pytest

from aquifer.core import ahead
from aquifer.core.planning import partitioning
from aquifer.core.vocabulary import Component, Practice
from aquifer.study.foreign import base, held, laws, regression, report, years, years_report
from aquifer.study.foreign.held import Tally, run
from aquifer.study.foreign.told import Record, limits_mm

HERE = Path(base.__file__).parent


@pytest.mark.parametrize("name", ["base", "laws"])
def test_a_law_takes_nothing_from_the_core_but_names_of_arrays(name):
    imported = {
        one.module for one in ast.walk(ast.parse((HERE / f"{name}.py").read_text())) if isinstance(one, ast.ImportFrom)
    }
    ours = {one for one in imported if one and one.startswith("aquifer")}
    assert ours <= {"aquifer.core.arrays", "aquifer.study.foreign.base"}


@pytest.fixture(params=laws.LAWS, ids=lambda law: law.name)
def law(request) -> base.Law:
    return request.param()


def test_a_bed_grows_within_what_holds_it_and_cleaning_takes_some_of_it(law):
    district, random = base.settled(law, 300, 3), np.random.default_rng(4)
    for _ in range(60):
        base.month_passes(law, district, random)
    assert (district.deposit_mm >= 0).all() and (district.deposit_mm < district.tall_mm).all()
    assert np.median(district.deposit_mm[district.is_tank]) > 2
    before = district.deposit_mm.copy()
    rows = np.flatnonzero(before > 0)[::2]
    law.clean(district, rows, np.full(rows.size, 2), np.zeros(rows.size), random)
    left = district.deposit_mm[rows] / before[rows]
    assert (left <= 1).all() and 0.05 < np.median(left) < 0.6 and left.std() > 0.05
    untouched = np.setdiff1d(np.arange(300), rows)
    assert (district.deposit_mm[untouched] == before[untouched]).all()


def test_the_same_seed_is_the_same_district(law):
    one, other = base.settled(law, 80, 9), base.settled(type(law)(), 80, 9)
    assert (one.deposit_mm == other.deposit_mm).all() and (one.hardness == other.hardness).all()
    assert (one.hardness != base.settled(law, 80, 10).hardness).any()


def test_whoever_has_most_in_it_rings_first():
    district = base.settled(laws.Kinetic(), 2000, 1)
    full = np.arange(2000) % 2 == 1
    district.deposit_mm = np.where(full, district.tall_mm / 4, 0.01)
    ringing = base.complaining(district, np.random.default_rng(0))
    assert ringing.size > 100 and full[ringing].all()


def test_a_record_tells_what_eyes_saw_and_rulers_read():
    law = laws.Households()
    district, random = base.settled(law, 400, 5), np.random.default_rng(6)
    for _ in range(36):
        base.month_passes(law, district, random)
    before = district.deposit_mm.copy()
    record = Record(district, 5, 1.0, dirty=False)
    record.service(district, np.arange(400), lambda at, method, skill: law.clean(district, at, method, skill, random))
    fleet = record.fleet(district)
    read = 1000 * fleet.flushes.depth_m
    assert np.corrcoef(read, before[fleet.flushes.row])[0, 1] > 0.95
    deep = before[fleet.flushes.row] > 20
    assert np.median(fleet.flushes.removed[deep & (fleet.flushes.removed >= 0)]) >= 3
    assert set(limits_mm(district)) == {12.0, 0.225, 40.0}


def test_whose_service_was_never_written_down_is_told_apart():
    law = laws.Neglected()
    district, random = base.settled(law, 600, 5), np.random.default_rng(6)
    record = Record(district, 5, 0.2, dirty=True)
    served = np.arange(0, 600, 2)
    before = district.deposit_mm.copy()
    told = record.service(district, served, lambda at, method, skill: law.clean(district, at, method, skill, random))
    fleet = record.fleet(district)
    assert set(told) == set(fleet.flushes.row) | set(fleet.descales.row)
    forgotten = np.setdiff1d(served, told)
    # Eight in a hundred; they were cleaned all the same.
    assert 10 <= forgotten.size <= 45 and (district.deposit_mm[forgotten] < before[forgotten]).all()


def test_a_regression_finds_its_way_where_pace_is_hardness_and_people():
    law = laws.Households()
    district, random = base.settled(law, 600, 8), np.random.default_rng(2)
    district.own[:] = 0.0
    record = Record(district, 8, 1.0, dirty=False)
    for month in range(36):
        base.month_passes(law, district, random)
        if month % 12 == 11:
            rows = np.arange(600)
            record.service(district, rows, lambda at, method, skill: law.clean(district, at, method, skill, random))
    for _ in range(6):
        base.month_passes(law, district, random)
    rows, told = regression.told(record.fleet(district), tanks=True)
    off = np.log(told.now[:, 1] / district.deposit_mm[rows])
    assert abs(np.median(off)) < 0.35 and np.std(off) < 0.9


def test_windows_are_counted_by_who_tells_and_by_what_is_asked():
    cells = run(laws.Kinetic(), 3, 150, 2, 0.3, (2,))
    asked = {(key[0], key[2]) for key in cells}
    assert asked == {
        ("core", "now"), ("core", "in a year"), ("core", "dates"), ("core", "after a service"),
        ("core", "now, as told"), ("core", "after a service, as told"), ("core", "now, told less"),
        ("core", "after a service, told less"),
        ("regression", "now"), ("regression", "in a year"),
    }  # fmt: skip
    everything = [one for key, one in cells.items() if key[0] == "core" and key[2] == "now"]
    assert sum(one.count for one in everything) > 75
    assert all(0 <= one.share() <= 1 and one.mean_width() > 0 for one in everything if one.count)


def test_a_window_is_asked_of_what_is_there_and_of_what_was_told():
    """Of four heaters one lays down nothing and was told to, one the other way round: each counts on one side alone."""
    truth = np.array([0.0, 8.0, 5.0, 0.0])
    told = np.array([[2.0, 4.0, 6.0], [0.0, 0.1, 0.3], [4.0, 5.0, 6.0], [0.0, 0.1, 0.3]])
    cells = defaultdict(Tally)
    held._tally(cells, "core", Component.SEDIMENT, "now", 2, np.full(4, 3.0), truth, told)
    held._as_told(cells, Component.SEDIMENT, "now", 2, np.full(4, 3.0), truth, told)
    counted = {key[2]: ([one.tolist() for one in cell.inside], cell.under()) for key, cell in cells.items()}
    assert counted == {
        "now": ([[False, True]], 0.0), "now, as told": ([[False, True]], 0.5),
        "now, told less": ([[False, True]], 0.0),
    }  # fmt: skip


def test_the_report_tells_what_was_counted_and_marks_what_is_outside():
    tally = Tally([np.array([True] * 9 + [False])], [np.ones(10)], [np.full(10, 0.2)], [np.zeros(10, dtype=bool)])
    other = Tally(tally.inside, tally.width, [np.full(10, 0.3)], tally.below)
    cells = defaultdict(Tally, {
        ("core", "sediment", "now", "2", "to 4"): tally, ("regression", "sediment", "now", "2", "to 4"): other,
    })  # fmt: skip
    written = report.text({("kinetic", 0.05): [cells, cells]}, [2, 5], 100, (2,))
    assert "| sediment | now | 20 | 0.90* | 0.00 | 1.00 | 0.200 | 1.50 |" in written
    assert "No cell has 400 readings." in written


@pytest.fixture(scope="module")
def town():
    """Some years after its company began."""
    town = years.Town(laws.Households(), 120, 3)
    town.lives_on(18)
    return town


class TestYears:
    """A district that is served for years as the core says, against the years that were foretold."""

    @pytest.mark.long
    def test_a_town_is_visited_cleaned_and_tried_and_its_tanks_give_way(self, town):
        happened, here = years.Happened(), town.copy()
        here.life_months[here.district.is_tank] = np.minimum(here.life_months, 40)[here.district.is_tank]
        here.lives_on(36, happened)
        counts = {name: values.sum() for name, values in happened.counts.items()}
        sites = np.unique(here.site).size
        # Once a year each at least, and not much more often.
        assert 3 * sites <= counts["visits"] <= 6 * sites
        assert counts["leaks"] >= here.district.is_tank.sum()
        ended = [sum(int(one.leaked.sum()) for one in lived) for lived in (here.lived, town.lived)]
        assert ended[0] == counts["leaks"] + ended[1]
        assert counts["flushes"] > 20 and counts["relief_valves"] > 3
        services = counts["flushes"] + 1.25 * counts["descales"] + 0.25 * 3 * 120 + 4 * counts["leaks"]
        assert happened.hours.sum() > services

    @pytest.mark.long
    def test_a_new_tank_has_nothing_of_the_old_ones_record(self, town):
        here = town.copy()
        row = int(np.flatnonzero(here.district.is_tank)[0])
        here.life_months[row] = here.district.age_months[row]
        here.lives_on(1)
        fleet = here.fleet()
        assert here.district.age_months[row] == 1 and here.district.deposit_mm[row] < 5
        assert not (fleet.flushes.row == row).any() and not (fleet.valve_trials.row == row).any()

    @pytest.mark.long
    def test_rods_wear_are_looked_at_and_renewed_before_they_are_gone(self, town):
        here, happened = town.copy(), years.Happened()
        before = here.rod_gone.copy()
        here.lives_on(36, happened)
        tanks = here.district.is_tank
        assert happened.counts["rods"].sum() > 10 and here.rod_gone[~tanks].max() == 0
        # Nobody renews what is like new, and few are left until nothing protects the tank.
        assert np.mean(here.rod_gone[tanks] > 1.0) < 0.1
        old = tanks & (here.rod_months >= 36 + 18)
        assert (here.rod_gone[old] > before[old]).all()
        looks = here.fleet().rod_looks
        assert (np.diff(looks.row) >= 0).all() and set(np.unique(looks.grade)) <= set(range(5))
        young = looks.years - looks.rod_fitted_years < 1.5
        assert looks.grade[young].mean() < looks.grade[~young].mean()

    @pytest.mark.long
    def test_the_same_seed_lives_the_same_years(self, town, monkeypatch):
        # A season's choice of whole visits ends by the clock, on a busy machine before it is made.
        monkeypatch.setattr(partitioning, "WHOLE_SECONDS", 60.0)
        one, other = town.copy(), town.copy()
        told = [years.Happened(), years.Happened()]
        for here, happened in zip((one, other), told, strict=True):
            here.lives_on(12, happened)
        assert (told[0].hours == told[1].hours).all()

    @pytest.mark.long
    def test_what_is_foretold_is_in_order_and_near_what_comes(self, town):
        here = town.copy()
        here.learn()
        fans = ahead.fan(here.foretold().measured("hours"))
        assert (np.diff(fans, axis=0) > 0).all()
        happened = years.Happened()
        here.lives_on(36, happened)
        assert happened.hours.sum() == pytest.approx(fans[1].sum(), rel=0.3)

    def test_the_page_counts_what_held_and_which_practice_was_named(self):
        fans = {name: np.array([[8.0] * 3, [10.0] * 3, [12.0] * 3]) for name in years_report.NAMES}
        truth = {name: np.array([9.0, 11.0, 20.0]) for name in years_report.NAMES}
        pair = years.Compared(sure=0.97, foretold=0.8, truth=0.75)
        wrong = years.Compared(sure=0.6, foretold=0.95, truth=0.8)
        annual = years.Way(Practice.ANNUAL)
        same, near = years.Way(Practice.CONDITION, 0.19), years.Compared(sure=0.05, foretold=1.04, truth=1.01)
        page = years_report.text(
            {"one": [years.Held(fans, truth)]},
            [("one", annual, pair), ("one", years.Way(Practice.LONG_SERVICE), wrong), ("one", same, near)], 50,
        )  # fmt: skip
        assert "| hours | 0.67 (1.10) | 0.67 * |" in page
        assert "Of 2 pairs whose truth differs by 10% or more, the better one was named in 1." in page
        assert "Of 1 pairs whose truth differs by less than 2%, 1 were called different." in page
        assert "| one | condition, risk 1 in 5.3 | 1.04 | 1.01 | 5% |" in page
        assert "| 3 | 0.00 | 2.00 to 2.00 |" in page

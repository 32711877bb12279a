"""Truths of other families: they share nothing with the core, do what they say, and are told as people tell."""

import ast
from collections import defaultdict
from pathlib import Path

import numpy as np
import pytest

from aquifer.study.foreign import base, laws, regression, report
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
        ("regression", "now"), ("regression", "in a year"),
    }  # fmt: skip
    everything = [one for key, one in cells.items() if key[0] == "core" and key[2] == "now"]
    assert sum(one.count for one in everything) > 75
    assert all(0 <= one.share() <= 1 and one.mean_width() > 0 for one in everything if one.count)


def test_the_report_tells_what_was_counted_and_marks_what_is_outside():
    tally = Tally([np.array([True] * 9 + [False])], [np.ones(10)], [np.full(10, 0.2)], [np.zeros(10, dtype=bool)])
    other = Tally(tally.inside, tally.width, [np.full(10, 0.3)], tally.below)
    cells = defaultdict(Tally, {
        ("core", "sediment", "now", "2", "to 4"): tally, ("regression", "sediment", "now", "2", "to 4"): other,
    })  # fmt: skip
    written = report.text({("kinetic", 0.05): [cells, cells]}, [2, 5], 100, (2,))
    assert "| sediment | now | 20 | 0.90* | 0.00 | 1.00 | 0.200 | 1.50 |" in written
    assert "No cell has 400 readings." in written

"""The study's own truth is sound, its practices keep their promises, and its score can tell good windows from bad."""

from dataclasses import replace

import numpy as np
import pytest

from aquifer.core.components import growing
from aquifer.core.forecast import forecast
from aquifer.core.vocabulary import Component, FlushMethod, code
from aquifer.study import report, score
from aquifer.study.practices import PRACTICES, by_benefit, calendar_month
from aquifer.study.records import Register
from aquifer.study.trial import run
from aquifer.study.truth import GAS, TANKLESS, World, settle

YEARLY, HALF_YEARLY = PRACTICES[0], PRACTICES[1]
BENEFIT = next(one for one in PRACTICES if one.name == "benefit")


@pytest.fixture(scope="module")
def place():
    return settle(160, seed=3, zones=6, technicians=4)


def aged(place, months: int) -> World:
    world = World(place, 3)
    for _ in range(months):
        world.step()
    return world


def test_the_same_seed_gives_the_same_truth(place):
    first, second = aged(place, 18), aged(settle(160, 3, zones=6, technicians=4), 18)
    assert (first.state.depth_mm == second.state.depth_mm).all()
    assert (aged(settle(160, 4, zones=6, technicians=4), 18).state.depth_mm != first.state.depth_mm).any()


def test_untouched_beds_only_grow_on_hard_water_and_hardly_on_soft(place):
    world, depths = World(place, 3), []
    for _ in range(24):
        world.step()
        depths.append(world.state.depth_mm.copy())
    tank = place.kind != TANKLESS
    assert (np.diff(np.array(depths)[:, tank].mean(axis=1)) > 0).all()
    hard, soft = (tank & (place.hardness_mg_l > 250)), (tank & (place.hardness_mg_l < 100))
    assert depths[-1][hard].mean() > 5 * depths[-1][soft].mean() if soft.any() else depths[-1][hard].mean() > 2
    assert (depths[-1][~tank] == 0).all()


def test_a_copy_of_the_truth_sees_the_same_weather_and_leaves_the_world_alone(place):
    world = aged(place, 12)
    before = world.state.depth_mm.copy()
    copy = world.state.copy()
    world.step(copy)
    assert (world.state.depth_mm == before).all()
    world.step()
    assert copy.depth_mm == pytest.approx(world.state.depth_mm)


def test_no_flush_leaves_more_and_a_stronger_one_leaves_less(place):
    tanks = np.flatnonzero(place.kind != TANKLESS)
    left = {}
    for method in (FlushMethod.PRESSURE_BLOWOUT, FlushMethod.ACID_SOAK):
        world = aged(place, 36)
        before = world.state.depth_mm[tanks].copy()
        world.flush(tanks, np.full(tanks.size, code(method)), np.zeros(tanks.size), np.random.default_rng(1))
        left[method] = world.state.depth_mm[tanks]
        assert (left[method] <= before).all()
    assert left[FlushMethod.ACID_SOAK].sum() < 0.7 * left[FlushMethod.PRESSURE_BLOWOUT].sum()


def test_what_is_written_down_reaches_the_core_in_order(place):
    world = aged(place, 14)
    register = Register(world, 3, technicians=4, measured_share=1.0)
    tanks = np.flatnonzero(place.kind != TANKLESS)
    register.flush(tanks, np.full(tanks.size, code(FlushMethod.JETTING)), 1.0)
    register.flush(tanks[:5], np.full(5, code(FlushMethod.JETTING)), 0.5)
    fleet = register.fleet(14 / 12)
    assert (np.diff(fleet.flushes.row) >= 0).all()
    assert fleet.flushes.years[:2].tolist() == [0.5, 1.0]
    deep = ~np.isnan(fleet.flushes.depth_m)
    assert deep.mean() > 0.5 and fleet.flushes.by.max() < 4
    assert (register.fleet(14 / 12, with_findings=False).flushes.removed == -1).all()


def test_a_forecast_that_learns_nothing_knows_when_things_were_done_and_not_what_came_of_it(place):
    world = World(place, 3)
    register = Register(world, 3, technicians=4)
    for month in range(30):
        world.step()
        turn = np.flatnonzero(np.arange(len(place)) % 12 == month % 12)
        register.exercise_valves(turn, (month + 1) / 12)
        tanks = turn[place.kind[turn] != TANKLESS]
        register.flush(tanks, np.full(tanks.size, code(FlushMethod.DRAIN_AND_PULSE)), (month + 1) / 12)
        register.look_at_rods(tanks, (month + 1) / 12)
    told, silent = (
        {one.name: one for one in growing(register.fleet(2.5, with_findings=each))} for each in (True, False)
    )
    assert told.keys() == silent.keys()
    for name, one in silent.items():
        assert one.since_service == pytest.approx(told[name].since_service), name
        evidence = one.evidence()
        # That nobody rang is known all the same.
        assert not any(grades.row.size for grades in evidence.grades if grades.by is not None), name
        assert all(part is None or not part.row.size for part in (evidence.readings, evidence.demands)), name
    heard = told[Component.RELIEF_VALVE].evidence().demands
    assert heard is not None and heard.failed.any() and not heard.failed.all()


def test_a_calendar_sends_everybody_once_in_its_interval(place):
    first = np.random.default_rng(2).integers(0, 12, len(place))
    sent = np.bincount(
        np.concatenate([calendar_month(YEARLY, month, place.hardness_mg_l, first) for month in range(12, 36)]),
        minlength=len(place),
    )
    assert (sent == 2).all()
    twice = np.bincount(
        np.concatenate([calendar_month(HALF_YEARLY, month, place.hardness_mg_l, first) for month in range(12, 36)]),
        minlength=len(place),
    )
    assert (twice[place.hardness_mg_l > 180] == 4).all() and (twice[place.hardness_mg_l <= 180] == 2).all()


def test_benefit_sends_whom_it_helps_most_and_nobody_twice_in_a_quarter(place):
    world = aged(place, 30)
    found = forecast(Register(world, 3, technicians=4).fleet(2.5))
    waited = np.full(len(place), 2.5)
    waited[: len(place) // 2] = 0.1
    rows, _ = by_benefit(found, len(place), 20, True, waited)
    assert rows.size == 20 and (rows >= len(place) // 2).all()
    worth = found.of(Component.SEDIMENT)
    chosen = worth.benefit[np.isin(worth.row, rows)]
    assert chosen.mean() > worth.benefit.mean()


@pytest.mark.long
def test_benefit_keeps_more_heaters_below_their_limit_at_the_same_visits():
    yearly = run(YEARLY, 5, heaters=300, years=4)
    benefit = run(BENEFIT, 5, heaters=300, years=4)
    assert abs(benefit.visits - yearly.visits) < 0.05 * yearly.visits
    assert benefit.over_share < 0.75 * yearly.over_share
    assert benefit.wasted / benefit.visits < yearly.wasted / yearly.visits


def test_a_score_tells_windows_that_hold_from_such_as_do_not(place):
    world = aged(place, 30)
    register = Register(world, 3, technicians=4)
    found = forecast(register.fleet(2.5))
    narrow = replace(
        found,
        components=[
            replace(
                one,
                state_in_a_year=np.repeat(one.state_in_a_year[:, 1:2], 3, axis=1),
                reached_years=np.repeat(one.reached_years[:, 3:4], 7, axis=1),
            )
            for one in found.components
        ],
    )
    honest = {w.component: w for w in score.windows(world, register, found, 2.5)}
    sure = {w.component: w for w in score.windows(world, register, narrow, 2.5)}
    for component in (Component.SEDIMENT, Component.ANODE):
        assert honest[component].state_inside > 0.5 > sure[component].state_inside
        assert honest[component].dates_inside > sure[component].dates_inside
        assert sure[component].width_years == 0 < honest[component].width_years


def test_the_report_says_what_was_run_and_marks_what_missed_its_bar(tmp_path):
    practices = [run(one, 2, heaters=120, years=2) for one in (YEARLY, BENEFIT)]
    scored = [run(YEARLY, 2, heaters=120, years=2, scored_years=(1,))]
    report.write(tmp_path, practices, scored, scored, scored)
    told = (tmp_path / "report.md").read_text()
    assert "which were not run before" not in told, "told only beside seeds that were looked at"
    assert "120 heaters" in told and "| benefit |" in told and "| sediment | 1 |" in told
    assert (tmp_path / "windows.svg").stat().st_size > 5000 and (tmp_path / "practices.svg").exists()
    assert report._marked(0.5, report.STATE_BAR) == "0.50 *" and report._marked(0.8, report.STATE_BAR) == "0.80"


def test_the_limit_of_a_fired_tank_is_the_lowest():
    place = settle(60, 1, zones=3)
    world = World(place, 1)
    limits = score.limits_mm(world)
    assert (limits[place.kind == GAS] == 12).all() and limits.max() == 40

"""The years ahead, against a walk through one site's visits by hand, and against what must hold of any."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.special import ndtri

from aquifer.core import ahead, anode, policy, relief_valve, scale, sediment
from aquifer.core.ahead import due as dues
from aquifer.core.ahead import scene as scenes
from aquifer.core.ahead import services
from aquifer.core.ahead.decisions import worst
from aquifer.core.ahead.luck import Luck
from aquifer.core.assembly import complete
from aquifer.core.components import AnodeComponent
from aquifer.core.forecast import forecast
from aquifer.core.kinds import HeaterKind
from aquifer.core.lives import UNLEARNED
from aquifer.core.vocabulary import Alloy, Component, DecidedBy, FlushMethod, Method, Practice, code
from aquifer.core.water import WaterTest, profile
from tests.core.fleets import known, without_events

TRAVEL = 0.4
AT_THE_HEATER = {
    Component.SEDIMENT: 1.0, Component.SCALE: 1.25, Component.ANODE: 0.5, Component.RELIEF_VALVE: 0.25,
    Component.EXPANSION_TANK: 0.25,
}  # fmt: skip
"""Hours of each service, as the handbook has them."""
KINDS = (HeaterKind.GAS_TANK, HeaterKind.ELECTRIC_TANK, HeaterKind.GAS_TANKLESS)
WATERS = [profile(WaterTest(total_hardness_mg_l=hardness)) for hardness in (90, 220, 340)]


def drawn_heaters(n, seed, **columns):
    """Heaters of three kinds on three waters, of which nothing was found yet."""
    random = np.random.default_rng(seed)
    kinds = np.array([code(one) for one in KINDS])[random.integers(0, 3, n)]
    told = {
        "kind": kinds,
        "age_years": random.uniform(1, 14, n),
        "water": random.integers(0, 3, n),
        "litres_per_day": random.uniform(80, 350, n),
    }
    return known(n, **{**told, **columns})


def drawn_fleet(n, seed, **columns):
    return without_events(complete(drawn_heaters(n, seed, **columns), WATERS))


def scene_of(fleet, site=None, found=None, to_come=None, **besides):
    """A scene whose only measure is hours."""
    found = found or forecast(fleet)
    site = np.arange(len(fleet.heaters)) if site is None else site
    worth = ahead.plain_worth(fleet, found, int(site.max()) + 1, TRAVEL)
    none = np.zeros(site.size, dtype=bool)
    return ahead.Scene(fleet, found, site, worth, to_come or fleet, besides.pop("replaced", none), **besides)


def calm(futures=1):
    """Luck that all share of which there is none."""
    nothing = {component: np.zeros(futures) for component in Component}
    return ahead.Shared(nothing, np.full(futures, 0.5), np.zeros(futures), {}, 0)


@pytest.fixture
def without_luck(monkeypatch):
    """Every pace as believed, no tank ends, no valve fails, nobody leaves."""

    def nothing(common, found, sites, place):
        zero = {one.component: np.zeros((one.row.size, common.futures)) for one in found.components}
        never = {one.component: np.full((one.row.size, common.futures), 1 - 1e-12) for one in found.components}
        return Luck(common, zero, never, np.full((sites, common.futures), 1 - 1e-12))

    monkeypatch.setattr(services, "drawn", nothing)


def lasts_by_hand(one, state, scene, n, at, beds):
    """Years that a service lasts; of a bed, by growing and flushing it, one at a time."""
    heaters = scene.fleet.heaters.at(one.row)
    every = policy.calendar_years(heaters.practice, heaters.hardness_mg_l)[n]
    if one.component is Component.ANODE:
        return float(state.interval[n, 0])
    if one.component not in (Component.SEDIMENT, Component.SCALE):
        return 1.0
    if not np.isnan(every):
        return float(every)
    bed, since = beds.get((one.component, n), ((state.bed[0][n, 0], state.bed[1][n, 0]), 0.0))
    limit, rate, longest = state.limit[n, 0], state.rate[n], heaters.longest_flush_years[n]
    if one.component is Component.SCALE:
        left = (bed[0] + rate * (at - since)) * (1 - scale.removed_share(0.0))
        years, beds[one.component, n] = max(limit - left, 0) / rate, ((left, 0.0), at)
        return min(max(years, 0.25), longest)
    floor = heaters.floor_m2[n]
    grown = sediment.grown(bed, rate, at - since)
    shares = sediment.flush_shares()
    middle = limit * np.exp(dues.then_accepted(one, scene.fleet)[n] - one.log_theta[n])
    for method in (heaters.flush_method[n], code(FlushMethod.JETTING)):
        left = grown[0] * (1 - shares[method, 0]), grown[1] * (1 - shares[method, 1])
        if sediment.depth_m(left, floor) <= middle:
            break
    beds[one.component, n] = (left, at)
    # Looked for in steps of an hour, not solved.
    steps = np.arange(0, longest, 1 / 8760)
    over = sediment.depth_m(sediment.grown(left, rate, steps), floor) >= limit
    return max(float(steps[over][0]) if over.any() else longest, 0.25)


def by_hand(scene, years):
    """Hours, flushes, rods and valves renewed, year by year, one visit after another."""
    told = {name: np.zeros(years) for name in ("hours", "flushes", "rods", "relief_valves")}
    served = [one for one in scene.found.components if one.component is not Component.TANK]
    first = services._first_visits(served, scene.site, scene.sites)
    states = {one.component: dues.STATES[one.component](one, scene, np.zeros((one.row.size, 1))) for one in served}
    h = scene.fleet.heaters
    for site in range(scene.sites):
        due, worn, on_rod, fitted, lasting, beds, flushed = {}, {}, {}, {}, {}, {}, {}
        for one in served:
            for n in np.flatnonzero(scene.site[one.row] == site):
                due[one.component, n] = max(float(one.due_years[n]), 0.0)
                by_risk = one.decided_by[n] != code(DecidedBy.PRACTICE) and one.latest_years[n] > 1
                is_bed = one.component in (Component.SEDIMENT, Component.SCALE)
                # Eight hours is what a year over the limit is worth: who gains less than the flush takes is left.
                if is_bed and by_risk and one.due_years[n] <= 0 and 8 * one.benefit[n] < AT_THE_HEATER[one.component]:
                    due[one.component, n] = np.inf
                if one.component is Component.ANODE:
                    worn[n] = float(states[one.component].worn[n, 0])
                    on_rod[n] = float(h.age_years[one.row[n]] - h.rod_fitted_years[one.row[n]])
                row, lasting[one.component, n] = one.row[n], 1.0
                fitted[row] = float(h.valve_fitted_years[row] - h.age_years[row])
        for step in range(2 * years + 1):
            at, half = first[site] + step / 2, step % 2 == 1
            year, came = int(np.floor(at + 1e-9)), False
            # A season sees no further than its end.
            lasts = at + 0.5 if half else min(at + 1.0, year + 1.0)
            done = dict.fromkeys(told, 0)
            for one in served:
                for n in np.flatnonzero(scene.site[one.row] == site):
                    is_short, is_late = lasting[one.component, n] < 0.75, due[one.component, n] <= at + 0.4
                    every = policy.calendar_years(h.practice, h.hardness_mg_l)[one.row[n]]
                    # A bed that goes by risk is flushed once in a season.
                    is_bed = one.component is Component.SEDIMENT and not every < 0.75
                    if half and is_bed and at - flushed.get(n, -9) < 0.75:
                        continue
                    if due[one.component, n] > lasts - 0.02 or (half and not (is_short or is_late)):
                        continue
                    came = True
                    if one.component is Component.SEDIMENT:
                        flushed[n] = at
                    interval = lasting[one.component, n] = lasts_by_hand(one, states[one.component], scene, n, at, beds)
                    done["hours"] += AT_THE_HEATER[one.component]
                    due[one.component, n] = at + interval
                    if one.component is Component.SEDIMENT:
                        done["flushes"] += 1
                    if one.component is Component.ANODE:
                        # Two thirds of it, or more, are gone.
                        rods = AnodeComponent.of(scene.fleet).rods.of(np.array([n]))
                        gone = float(anode.consumed(rods, on_rod[n] + at)[0] * np.exp(one.log_theta[n]))
                        if gone >= 2 / 3:
                            worn[n], on_rod[n] = at + interval, -at
                            done["rods"] += 1
                            done["hours"] += 0.25
                        due[one.component, n] = min(worn[n], at + 5)
                    row = one.row[n]
                    old = relief_valve.replacement_age_years(h.hardness_mg_l[row])
                    if one.component is Component.RELIEF_VALVE and at - fitted[row] >= old - 0.02:
                        fitted[row] = at
                        done["relief_valves"] += 1
                        done["hours"] += 0.75
            if year < years:
                for name, number in done.items():
                    told[name][year] += number
                told["hours"][year] += (0.3 + TRAVEL) * came
    return told


@pytest.mark.parametrize("practice", [Practice.CONDITION, Practice.ANNUAL, Practice.HARD_WATER_HALF_YEARLY])
def test_it_is_what_a_walk_from_visit_to_visit_comes_to(practice, without_luck):
    fleet = drawn_fleet(24, seed=5, practice=np.full(24, code(practice)))
    found = forecast(fleet)
    # A jetting takes longer than a plain flush; here all are plain.
    found = replace(found, components=[replace(one, method=np.zeros_like(one.method)) for one in found.components])
    scene = scene_of(fleet, np.arange(24) // 2, found)
    told, hand = ahead.lived(scene, 4, calm()), by_hand(scene, 4)
    assert told.counted("flushes")[0] == pytest.approx(hand["flushes"])
    assert told.counted("relief_valves")[0] == pytest.approx(hand["relief_valves"])
    assert told.counted("rods")[0] == pytest.approx(hand["rods"])
    assert hand["relief_valves"].sum() > 0 and hand["rods"].sum() > 0
    assert told.measured("hours")[0] == pytest.approx(hand["hours"])
    assert told.counted("leaks").sum() == 0
    # What each heater comes to is what all come to, since there is one future.
    assert told.by_heater[:, 0].sum(axis=0) == pytest.approx(hand["hours"])


def test_the_same_practice_with_the_same_luck_is_no_different():
    scene = scene_of(drawn_fleet(60, seed=3))
    one, same = (ahead.lived(scene, 3, ahead.shared(40, seed=2)) for _ in range(2))
    assert (one.measured("hours") == same.measured("hours")).all()
    assert ahead.better(one.measured("hours"), same.measured("hours")) == 0
    other = ahead.lived(scene, 3, ahead.shared(40, seed=9))
    assert (other.measured("hours") != one.measured("hours")).any()


def test_a_block_lives_the_same_wherever_it_is_lived(monkeypatch):
    monkeypatch.setattr(scenes, "BLOCK", 25)
    scene, common = scene_of(drawn_fleet(60, seed=3), np.arange(60) // 3), ahead.shared(20, seed=4)
    blocks = list(scene.blocks())
    assert sorted(np.concatenate(blocks).tolist()) == list(range(60)) and len(blocks) == 3
    assert all(np.intersect1d(scene.site[one], scene.site[other]).size == 0
               for one, other in zip(blocks, blocks[1:], strict=False))  # fmt: skip
    whole = ahead.lived(scene, 2, common, part=5)
    parts = [
        services._Block(scene.at(rows), 2, services.drawn(common, scene.at(rows).found, scene.at(rows).sites, (5, n)))
        for n, rows in reversed(list(enumerate(blocks)))
    ]
    told = ahead.added([part.ahead() for part in reversed(parts)])
    with pytest.raises(ValueError, match="no part"):
        ahead.added([])
    assert set(common.moved) <= set(ahead.COUNTED)
    for name, moved in common.moved.items():
        told.counts[ahead.COUNTED.index(name)] *= np.exp(moved[:, :2])
    assert told.counts == pytest.approx(whole.counts) and told.measures == pytest.approx(whole.measures)


def test_sites_without_a_tank_are_lived_beside_those_that_have_one(monkeypatch):
    """Whole blocks of heaters that have no bed, and of such that have no exchanger."""
    monkeypatch.setattr(scenes, "BLOCK", 10)
    kinds = np.array([code(HeaterKind.GAS_TANKLESS)] * 12 + [code(HeaterKind.GAS_TANK)] * 12)
    told = ahead.lived(scene_of(drawn_fleet(24, seed=6, kind=kinds)), 4, ahead.shared(20, seed=4), part=0)
    assert told.counted("descales").sum() > 0 and told.counted("flushes").sum() > 0
    by_heater = told.by_heater[:, 0].sum(axis=1)
    assert (by_heater > 0).all()


def test_a_calendar_of_half_years_takes_more_visits_and_its_fan_is_in_order():
    told = {}
    for practice in (Practice.ANNUAL, Practice.HARD_WATER_HALF_YEARLY):
        fleet = drawn_fleet(60, seed=3, practice=np.full(60, code(practice)), water=np.full(60, 2))
        told[practice] = ahead.lived(scene_of(fleet), 4, ahead.shared(60, seed=2))
    annual, half = told.values()
    # Whose tank leaks gets a clean one, which may wait; and a season moves some over the turn of a year.
    assert annual.counted("flushes").sum(axis=1).mean() <= 4 * int(fleet.heaters.is_tank.sum())
    assert half.counted("flushes").sum() > 1.7 * annual.counted("flushes").sum()
    assert ahead.better(annual.measured("hours"), half.measured("hours")) == 1
    low, middle, high = ahead.fan(annual.measured("hours"))
    assert (low < middle).all() and (middle < high).all()


def test_as_many_tanks_leak_as_their_forecasts_say():
    fleet = drawn_fleet(300, seed=8)
    found = forecast(fleet)
    told = ahead.lived(scene_of(fleet, found=found), 1, ahead.shared(300, seed=4))
    # Over all that is not known of how long tanks last here, of which the forecast tells the middle.
    tanks, chances = found.of(Component.TANK), (np.arange(200) + 0.5) / 200
    lives = ndtri(chances) * UNLEARNED.level_sd
    hazard = -np.log1p(-tanks.probability_today)[:, None] * np.exp(lives)[None, :]
    assert told.counted("leaks").mean() == pytest.approx(float((1 - np.exp(-hazard)).mean(axis=1).sum()), rel=0.03)


def test_a_tank_that_is_kept_lasts_longer_than_one_without_a_rod():
    kept = drawn_fleet(200, seed=2, kind=np.full(200, code(HeaterKind.GAS_TANK)), age_years=np.full(200, 8.0))
    bare = replace(kept, heaters=replace(kept.heaters, alloy=np.full(200, code(Alloy.NONE))))
    leaks = [
        ahead.lived(scene_of(one), 5, ahead.shared(100, seed=1)).counted("leaks").sum(axis=1).mean()
        for one in (kept, bare)
    ]
    assert 0 < leaks[0] < 0.8 * leaks[1]


def test_what_is_replaced_today_is_counted_once_and_leaks_less():
    fleet = drawn_fleet(200, seed=6, kind=np.full(200, code(HeaterKind.GAS_TANK)), age_years=np.full(200, 13.0))
    found = forecast(fleet)
    chosen = worst(found.of(Component.TANK).probability_today, 120)
    assert chosen.sum() == 120
    common = ahead.shared(60, seed=3)
    left, renewed = (
        ahead.lived(scene_of(fleet, found=found, replaced=one), 3, common) for one in (np.zeros(200, bool), chosen)
    )
    assert renewed.counted("replacements")[:, 0].min() >= 120
    assert renewed.counted("leaks").sum() < 0.6 * left.counted("leaks").sum()
    assert (left.counted("replacements") == left.counted("leaks")).all()


def test_whoever_takes_the_advice_has_fewer_leaks_and_more_new_heaters():
    fleet = drawn_fleet(200, seed=6, kind=np.full(200, code(HeaterKind.GAS_TANK)), age_years=np.full(200, 13.0))
    found, common = forecast(fleet), ahead.shared(60, seed=3)
    none, all_of = (ahead.lived(scene_of(fleet, found=found, accepted=one), 3, common) for one in (0.0, 1.0))
    assert all_of.counted("leaks").sum() < none.counted("leaks").sum()
    assert all_of.counted("replacements").sum() > none.counted("replacements").sum()


def test_who_leaves_is_not_visited_any_more():
    fleet = drawn_fleet(300, seed=9)
    found, common = forecast(fleet), ahead.shared(40, seed=3)
    stay, go = (ahead.lived(scene_of(fleet, found=found, leaving=one), 4, common) for one in (0.0, 0.2))
    there = go.counted("visits").mean(axis=0) / stay.counted("visits").mean(axis=0)
    assert there == pytest.approx(np.exp(-0.2 * np.array([0.5, 1.5, 2.5, 3.5])), abs=0.06)


def test_softer_water_to_come_puts_off_what_comes_and_leaves_what_lies_there():
    fleet = drawn_fleet(120, seed=4, water=np.full(120, 2))
    soft = without_events(complete(drawn_heaters(120, 4, water=np.zeros(120, dtype=np.int64)), WATERS))
    # But for what a season moves over the turn of a year.
    found, common = forecast(fleet), replace(ahead.shared(30, seed=5), moved={})
    same, softer = (ahead.lived(scene_of(fleet, found=found, to_come=one), 5, common) for one in (fleet, soft))
    beds = found.of(Component.SEDIMENT)
    overdue = (beds.due_years <= 0) & ~dues.left_alone(beds, scene_of(fleet, found=found))
    assert overdue.sum() > 10
    # But for those whose tank gave way first.
    assert softer.counted("flushes")[:, 0].mean() > 0.95 * overdue.sum()
    assert softer.counted("flushes")[:, 1:].sum() < 0.75 * same.counted("flushes")[:, 1:].sum()


def test_each_thing_counts_for_what_it_is_worth_by_hand(without_luck):
    fleet = drawn_fleet(
        3, seed=1, kind=np.full(3, code(HeaterKind.GAS_TANK)), practice=np.full(3, code(Practice.ANNUAL))
    )
    found = forecast(fleet)
    found = replace(found, components=[one for one in found.components if one.component is Component.SEDIMENT])
    scene = scene_of(fleet, np.array([0, 0, 1]), found)
    amounts = np.array([[0.0, 10.0], [0.0, 10.0], [0.0, 30.0]])
    nothing = np.zeros((3, 2))
    worth = ahead.Worth(
        names=("hours", "income"), is_hours=np.array([True, False]),
        service={component: amounts if component is Component.SEDIMENT else nothing for component in scenes.SERVED},
        renewed={}, visit=np.array([[1.0, 5.0], [2.0, 7.0]]), tank=nothing, year=np.array([[0.0, 100.0], [0.0, 0.0]]),
    )  # fmt: skip
    told = ahead.lived(replace(scene, worth=worth), 2, calm())
    assert told.counted("visits")[0].tolist() == [2, 2] and told.counted("flushes")[0].tolist() == [3, 3]
    assert told.measured("hours")[0].tolist() == [3, 3]
    assert told.measured("income")[0] == pytest.approx([10 + 10 + 30 + 5 + 7 + 100] * 2)
    assert told.by_heater[:, 1, 0] == pytest.approx([10 + 2.5 + 50, 10 + 2.5 + 50, 30 + 7])


def test_what_lasts_longest_is_no_longer_than_the_companys_cap():
    fleet = drawn_fleet(40, seed=1)
    scene = scene_of(fleet)
    flush = scene.found.of(Component.SEDIMENT)
    wrong = np.full((flush.row.size, 1), -5.0)
    every, today = np.ones(wrong.shape, dtype=bool), np.zeros(wrong.shape)
    slow, fast = (dues.STATES[Component.SEDIMENT](flush, scene, one) for one in (wrong, -wrong))
    for state in (slow, fast):
        assert state.served(every, today, today) is None
    assert (slow.interval[:, 0] <= fleet.heaters.longest_flush_years[flush.row] + 1e-9).all()
    assert (fast.interval >= policy.SHORTEST_FLUSH_YEARS).all() and fast.interval.mean() < slow.interval.mean()


def overdue_beds(latest_years=4.0, decided_by=DecidedBy.TOLERANCE, due_years=-0.5):
    """Twelve beds that are over their limit, of which flushing spares from nothing to a year."""
    fleet = drawn_fleet(12, seed=4, kind=np.full(12, code(HeaterKind.GAS_TANK)), practice=np.zeros(12, dtype=np.int64))
    found = forecast(fleet)
    beds = replace(
        found.of(Component.SEDIMENT),
        due_years=np.full(12, due_years),
        latest_years=np.full(12, latest_years),
        decided_by=np.full(12, code(decided_by)),
        method=np.repeat([code(Method.PRESSURE_BLOWOUT), code(Method.JETTING)], 6),
        benefit=np.tile([0.0, 0.05, 0.09, 0.12, 0.15, 0.4], 2),
    )
    others = [one for one in found.components if one.component is not Component.SEDIMENT]
    return beds, scene_of(fleet, found=replace(found, components=[*others, beds]))


def test_what_a_flush_would_not_help_is_left_as_it_is():
    # A plain flush takes an hour, a jetting half as long again: worth it from 0.125 and 0.1875 years over the limit.
    beds, scene = overdue_beds()
    left = [True, True, True, True, False, False, True, True, True, True, True, False]
    assert dues.left_alone(beds, scene).tolist() == left
    assert dues.left_alone(beds, replace(scene, worth_hours=16.0)).sum() == 2 + 3
    # It is for nobody to weigh what a calendar or a cap asks for, nor what is not due yet.
    for asked in ({"latest_years": 0.5}, {"decided_by": DecidedBy.PRACTICE}, {"due_years": 0.1}):
        beds, scene = overdue_beds(**asked)
        assert not dues.left_alone(beds, scene).any(), asked
    beds, scene = overdue_beds()
    told = ahead.lived(scene, 1, ahead.shared(1, seed=1))
    flushes = replace(told, counts=told.counts / np.exp(ahead.shared(1, seed=1).moved["flushes"][:, :1])[None])
    assert flushes.counted("flushes")[0, 0] == pytest.approx(3) and dues.left_alone(beds, scene).sum() == 9


def test_calls_follow_the_record_and_its_last_year_most():
    common = ahead.shared(4000, seed=1)
    none = ahead.Ahead(("hours",), np.zeros((len(ahead.COUNTED), 4000, 3)), np.zeros((1, 4000, 3)), np.zeros((9, 1, 3)))

    def told(*called):
        heaters = np.full(len(called), 1000.0)
        calls = ahead.Calls(np.array(called, dtype=float), heaters, np.array([1.5]))
        return ahead.with_calls(none, 1000, calls, common)

    level, fewer, more = told(60, 60, 60), told(40, 60, 80), told(80, 60, 40)
    years = level.counted("calls").mean(axis=0)
    assert years == pytest.approx([60, 60, 60], rel=0.12)
    assert fewer.counted("calls").mean() < 0.95 * years.mean() < 1.05 * years.mean() < more.counted("calls").mean()
    assert level.measured("hours") == pytest.approx(1.5 * level.counted("calls"))
    assert level.by_heater.sum(axis=0)[0] == pytest.approx(9 / 1000 * level.measured("hours").mean(axis=0))
    # What lies further ahead is less sure, and a record of one year is too.
    spread = [np.log(np.maximum(one, 1)).std(axis=0) for one in (level.counted("calls"), told(60).counted("calls"))]
    assert spread[0][0] < spread[0][2] and spread[0][0] < spread[1][0]
    # With no record a call in 25 years of a heater is assumed.
    assert told().counted("calls").mean() == pytest.approx(40, rel=0.25)


def test_who_joins_asks_for_what_the_average_does():
    scene = scene_of(drawn_fleet(50, seed=3))
    common = ahead.shared(400, seed=1)
    told = ahead.lived(scene, 3, common)
    more = ahead.with_turnover(told, 50, ahead.Turnover(joining=10.0), common)
    ratio = (more.measured("hours") / told.measured("hours")).mean(axis=0)
    assert ratio == pytest.approx([1.1, 1.3, 1.5], abs=0.03)
    assert ahead.with_turnover(told, 50, ahead.Turnover(), common) is told
    over = ahead.with_turnover(told, 50, ahead.Turnover(taken_over=25.0), common)
    assert over.counted("visits") == pytest.approx(1.5 * told.counted("visits"))


class TestDecisions:
    def tried(self, *decisions, **columns):
        heaters = drawn_heaters(400, 7, **columns)
        return heaters, ahead.tried(heaters, WATERS, np.arange(400), decisions)

    def test_a_practice_on_one_water_leaves_the_others(self):
        heaters, told = self.tried(
            ahead.Decision(ahead.DecisionKind.PRACTICE, word="annual", zone=1), zone=np.arange(400) % 3
        )
        assert (told.known.practice[heaters.zone == 1] == code(Practice.ANNUAL)).all()
        assert (told.known.practice[heaters.zone != 1] == heaters.practice[heaters.zone != 1]).all()

    def test_a_softener_is_offered_where_water_is_hard_and_taken_by_a_share(self):
        heaters, told = self.tried(ahead.Decision(ahead.DecisionKind.SOFTENERS, value=200.0, share=0.25))
        hard = heaters.water > 0
        assert not told.softened[~hard].any()
        assert told.softened[hard].mean() == pytest.approx(0.25, abs=0.05)
        assert (told.to_come.softened == told.softened).all() and not told.known.softened.any()

    def test_a_supply_gets_harder_and_its_past_stays(self):
        heaters, told = self.tried(
            ahead.Decision(ahead.DecisionKind.WATER, value=1.3, zone=2),
            zone=np.arange(400) % 3,
            water=np.arange(400) % 3,
        )
        hardness = [water.analysis.total_hardness_mg_l for water in told.waters]
        assert hardness == pytest.approx([90, 220, 340 * 1.3]) and WATERS[2].analysis.total_hardness_mg_l == 340
        assert told.waters[2].analysis.calcium_hardness_mg_l <= hardness[2]

    def test_a_word_that_is_no_practice_is_refused(self):
        with pytest.raises(ValueError, match="weekly"):
            self.tried(ahead.Decision(ahead.DecisionKind.PRACTICE, word="weekly"))

    def test_the_worst_are_the_likeliest_and_no_more_than_there_are(self):
        chance = np.array([0.1, np.nan, 0.4, 0.2])
        assert worst(chance, 2).tolist() == [False, False, True, True]
        assert worst(chance, 9).tolist() == [True, False, True, True]
        assert not worst(chance, 0).any()

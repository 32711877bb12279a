"""How long visits take, learned from visits that were made up by another law than the core's."""

import numpy as np
import pytest

from aquifer.core.planning import hours
from aquifer.core.planning.hours import ASSUMED, Hours, Taken, Work, learned, planned
from aquifer.core.vocabulary import Component, Method

AT = {work: at for at, work in enumerate(Work)}


def visits(*done, hours, person=None):
    """Visits at which some works were done, each with what it took."""
    work = np.zeros((len(done), len(Work)))
    for row, works in enumerate(done):
        work[row, [AT[one] for one in (Work.ARRIVING, *works)]] = 1
    return Taken(np.array(hours, dtype=float), work, np.zeros(len(done), int) if person is None else np.array(person))


def year(seed, n=400, pace=None):
    """A made-up company's visits. Each part takes a gamma's minutes, whoever goes is slow or fast, every thirtieth
    visit is one of those days, and one device in eighty is left on till evening."""
    random = np.random.default_rng(seed)
    minutes = {
        Work.ARRIVING: 24, Work.FLUSH: 48, Work.SLOW_FLUSH: 35, Work.DESCALE: 95, Work.ROD: 22, Work.NEW_ROD: 26,
        Work.RELIEF_VALVE: 7, Work.NEW_RELIEF_VALVE: 52, Work.EXPANSION_TANK: 18, Work.NEW_EXPANSION_TANK: 33,
    }  # fmt: skip
    own = np.array(pace or random.uniform(0.8, 1.25, 4))
    done, hours, person, real = [], [], [], []
    for _ in range(n):
        works = [Work.DESCALE] if random.random() < 0.3 else [Work.FLUSH]
        works += [Work.SLOW_FLUSH] if works == [Work.FLUSH] and random.random() < 0.1 else []
        for look, new, often, worn in (
            (Work.ROD, Work.NEW_ROD, 0.4, 0.4), (Work.RELIEF_VALVE, Work.NEW_RELIEF_VALVE, 0.8, 0.1),
            (Work.EXPANSION_TANK, Work.NEW_EXPANSION_TANK, 0.3, 0.1),
        ):  # fmt: skip
            if random.random() < often:
                works += [look] + ([new] if random.random() < worn else [])
        who = int(random.integers(own.size))
        took = sum(random.gamma(9, minutes[one] / 9) for one in (Work.ARRIVING, *works)) * own[who]
        took *= 1.8 if random.random() < 1 / 30 else 1.0
        done.append(works)
        real.append(took / 60)
        hours.append((took + (400 if random.random() < 1 / 80 else 0)) / 60)
        person.append(who)
    return visits(*done, hours=hours, person=person), np.array(real)


def test_until_visits_tell_the_hours_are_those_of_the_handbook():
    by_hand = {"sediment": 1.0, "scale": 1.25, "anode": 0.5, "relief_valve": 0.25, "expansion_tank": 0.25, "tank": 4.0}
    assert {component.value: ASSUMED.of(component) for component in Component} == by_hand
    assert ASSUMED.arriving == 0.3
    assert ASSUMED.of(Component.SEDIMENT, Method.JETTING) == ASSUMED.of(Component.SEDIMENT, Method.ACID_SOAK) == 1.5
    assert ASSUMED.of(Component.SEDIMENT, Method.DRAIN_AND_PULSE) == 1.0
    # What is slow is a flush.
    assert ASSUMED.of(Component.SCALE, Method.ACID_SOAK) == 1.25
    with pytest.raises(KeyError):
        ASSUMED.look(Component.TANK)


def test_what_is_usually_renewed_is_planned_for_and_a_look_alone_is_not():
    hours = Hours(renewed={Work.NEW_ROD: 0.4, Work.NEW_RELIEF_VALVE: 0.1, Work.NEW_EXPANSION_TANK: 0.2})
    assert hours.of(Component.ANODE) == pytest.approx(0.5 + 0.4 * 0.25)
    assert hours.of(Component.RELIEF_VALVE) == pytest.approx(0.25 + 0.1 * 0.75)
    assert hours.of(Component.EXPANSION_TANK) == pytest.approx(0.25 + 0.2 * 0.75)
    assert hours.of(Component.SEDIMENT) == hours.look(Component.SEDIMENT) == 1.0
    assert hours.look(Component.ANODE) == 0.5


def test_without_visits_all_is_as_assumed():
    none = learned(visits(hours=[]))
    assert none.hours.of_work == ASSUMED.of_work and none.hours.spread == ASSUMED.spread
    assert not none.times.any() and not any(none.hours.renewed.values())
    assert (none.low < list(ASSUMED.of_work.values())).all() and (none.high > list(ASSUMED.of_work.values())).all()


def test_many_alike_are_planned_for_what_they_took():
    rng = np.random.default_rng(5)
    took = 2.0 * np.exp(rng.normal(0, 0.05, 400))
    told = learned(visits(*[[Work.FLUSH]] * 400, hours=took))
    assert told.hours.arriving + told.hours.of(Component.SEDIMENT) == pytest.approx(2.0, rel=0.02)
    # Nothing tells the two apart, and both say so.
    arriving = AT[Work.ARRIVING]
    assert told.high[arriving] > 1.5 * told.low[arriving]
    # What nobody did is as assumed but for the pace of whoever went, and no surer than before.
    assert told.hours.of_work[Work.ROD] == pytest.approx(0.5, rel=0.15)
    assert told.high[AT[Work.ROD]] / told.low[AT[Work.ROD]] == pytest.approx(np.exp(2 * 1.2816 * 0.4), rel=1e-3)
    assert told.times[AT[Work.FLUSH]] == 400 and told.times[AT[Work.ROD]] == 0


def test_a_few_move_the_plan_by_little():
    three = learned(visits(*[[Work.FLUSH]] * 3, hours=[2.6] * 3)).hours
    assert 1.35 < three.arriving + three.of(Component.SEDIMENT) < 2.4
    assert three.spread > 0.2


@pytest.mark.parametrize("seed", range(12))
def test_a_year_foretells_the_next(seed):
    """Days end as planned, in all and visit by visit."""
    before, _ = year(seed, pace=(0.85, 1.0, 1.2))
    after, real = year(seed + 100, pace=(0.85, 1.0, 1.2))
    told = learned(before).hours
    plan = planned(told, after.work)
    assert real.sum() / plan.sum() == pytest.approx(1.0, abs=0.07)
    low, high = told.window(plan)
    assert 0.72 <= ((real >= low) & (real <= high)).mean() <= 0.88


def test_windows_hold_eight_of_ten_and_days_end_as_planned_over_many_companies():
    inside, ratio, assumed = [], [], []
    for seed in range(20):
        before, _ = year(seed, 200, pace=(0.85, 1.0, 1.2))
        after, real = year(seed + 500, 200, pace=(0.85, 1.0, 1.2))
        told = learned(before).hours
        plan = planned(told, after.work)
        low, high = told.window(plan)
        inside.append(((real >= low) & (real <= high)).mean())
        ratio.append(real.sum() / plan.sum())
        assumed.append(real.sum() / planned(ASSUMED, after.work).sum())
    assert np.mean(inside) == pytest.approx(0.8, abs=0.035)
    assert np.mean(ratio) == pytest.approx(1.0, abs=0.03)
    # By what is assumed alone they would end late.
    assert np.mean(assumed) > 1.06


def test_who_is_slow_does_not_make_what_he_does_slow():
    """One of two takes half as long again and does nearly all descales; both flush."""
    rng = np.random.default_rng(2)
    done, hours, person = [], [], []
    for _ in range(600):
        who = int(rng.random() < 0.5)
        works = [Work.DESCALE] if rng.random() < (0.7 if who else 0.05) else [Work.FLUSH]
        hours.append((0.4 + (1.2 if works == [Work.DESCALE] else 0.8)) * (1.5 if who else 1.0) * rng.lognormal(0, 0.1))
        done.append(works)
        person.append(who)
    told = learned(visits(*done, hours=hours, person=person)).hours
    descale, flush = (told.arriving + told.of(one) for one in (Component.SCALE, Component.SEDIMENT))
    assert descale / flush == pytest.approx(1.6 / 1.2, rel=0.04)


def test_a_device_left_on_over_night_moves_nothing_much():
    rng = np.random.default_rng(3)
    took = 1.5 * rng.lognormal(0, 0.15, 100)
    clean = learned(visits(*[[Work.FLUSH]] * 100, hours=took)).hours
    took[:3] = 9.5
    left_on = learned(visits(*[[Work.FLUSH]] * 100, hours=took)).hours
    of = [one.arriving + one.of(Component.SEDIMENT) for one in (clean, left_on)]
    assert of[1] == pytest.approx(of[0], rel=0.05)
    assert left_on.spread == pytest.approx(clean.spread, rel=0.25)


def test_how_often_a_part_is_renewed_is_learned_and_drawn_to_none():
    looked, renewed = [Work.ROD], [Work.ROD, Work.NEW_ROD]
    told = learned(visits(*[looked] * 60, *[renewed] * 40, hours=[0.8] * 60 + [1.05] * 40)).hours
    assert told.renewed[Work.NEW_ROD] == pytest.approx(40 / 120)
    assert told.renewed[Work.NEW_RELIEF_VALVE] == 0.0


def test_the_plan_does_not_know_what_will_be_renewed():
    hours = Hours(renewed={Work.NEW_ROD: 0.5})
    plan = planned(hours, visits([Work.ROD], [Work.ROD, Work.NEW_ROD], [Work.FLUSH], hours=[1, 1, 1]).work)
    assert plan == pytest.approx([0.3 + 0.5 + 0.125, 0.3 + 0.5 + 0.125, 1.3])


def test_a_window_lies_about_the_middle_below_the_mean():
    low, high = Hours(spread=0.3).window(np.array([2.0]))
    middle = 2.0 / np.exp(0.3**2 / 2)
    assert low[0] == pytest.approx(middle / np.exp(1.2816 * 0.3))
    assert high[0] == pytest.approx(middle * np.exp(1.2816 * 0.3))


def test_a_very_long_visit_counts_as_one_of_three_deviations():
    """Ninety of an hour and ten of a day: the mean goes up by what three deviations come to, not by a day."""
    took = np.r_[np.exp(np.linspace(-0.3, 0.3, 90)), np.full(5, 24.0)]
    spread, above = hours._strays(np.log(took))
    own = (np.quantile(np.log(took), 0.9) - np.quantile(np.log(took), 0.1)) / (2 * 1.2816)
    assert spread == pytest.approx(np.sqrt((95 * own**2 + 10 * 0.3**2) / 105))
    kept = [*took[:90], *[np.exp(3 * spread)] * 5]
    assert above == pytest.approx((sum(kept) + 10 * np.exp(0.3**2 / 2)) / 105)
    short = np.r_[took[:90], np.full(5, 1 / 24)]
    spread, above = hours._strays(np.log(short))
    assert above == pytest.approx((sum(took[:90]) + 5 * np.exp(-3 * spread) + 10 * np.exp(0.3**2 / 2)) / 105)

"""The years ahead, against a walk through one site's visits by hand, and against what must hold of any."""

from dataclasses import replace

import numpy as np
import pytest

from aquifer.core import policy, years_ahead
from aquifer.core.assembly import complete
from aquifer.core.forecast import forecast
from aquifer.core.kinds import HeaterKind
from aquifer.core.planning.work import SETTLE_HOURS
from aquifer.core.policy import USUAL_HOURS
from aquifer.core.vocabulary import Component, Practice, code
from aquifer.core.water import WaterTest, profile
from tests.core.fleets import known, without_events

TRAVEL = 0.4
KINDS = (HeaterKind.GAS_TANK, HeaterKind.ELECTRIC_TANK, HeaterKind.GAS_TANKLESS)
WATERS = [profile(WaterTest(total_hardness_mg_l=hardness)) for hardness in (90, 220, 340)]


def drawn_fleet(n, seed):
    """Heaters of three kinds on three waters, of which nothing was found yet."""
    random = np.random.default_rng(seed)
    kinds = np.array([code(one) for one in KINDS])[random.integers(0, 3, n)]
    heaters = known(
        n,
        kind=kinds,
        age_years=random.uniform(1, 14, n),
        water=random.integers(0, 3, n),
        litres_per_day=random.uniform(80, 350, n),
    )
    return without_events(complete(heaters, WATERS))


def calm(found, futures=1):
    """Luck of which there is none: every pace as believed, no tank ends, no valve fails."""
    nothing = {one.component: np.zeros((one.row.size, futures)) for one in found.components}
    never = {one.component: np.full((one.row.size, futures), 1 - 1e-12) for one in found.components}
    return years_ahead.Luck(np.zeros(futures), np.zeros(futures), nothing, never)


def by_hand(fleet, found, site, years):
    """Hours and flushes, year by year, one visit after another."""
    hours, flushes = np.zeros(years), np.zeros(years)
    served = [one for one in found.components if one.component is not Component.TANK]
    sites = int(site.max()) + 1
    begins = years_ahead._first_visits(served, site)
    last = {
        (one.component, n): (max(float(one.due_years[n]), 0.0), float(interval[n, 0]))
        for one in served
        for interval in [years_ahead._intervals(one, fleet, {}, np.zeros((one.row.size, 1)))]
        for n in range(one.row.size)
    }
    for number in range(sites):
        for step in range(2 * years + 1):
            at, half = begins[number] + step / 2, step % 2 == 1
            year, came = int(np.floor(at + 1e-9)), False
            for one in served:
                for n in np.flatnonzero(site[one.row] == number):
                    due, interval = last[one.component, n]
                    if (half and interval >= 0.75) or due > at + (0.5 if half else 1.0) - 1e-9:
                        continue
                    last[one.component, n] = (at + interval, interval)
                    if year < years:
                        came = True
                        hours[year] += USUAL_HOURS[one.component]
                        flushes[year] += one.component is Component.SEDIMENT
            hours[year if year < years else 0] += (SETTLE_HOURS + TRAVEL) * came
    return hours, flushes


@pytest.mark.parametrize("practice", [Practice.CONDITION, Practice.ANNUAL, Practice.HARD_WATER_HALF_YEARLY])
def test_it_is_what_a_walk_from_visit_to_visit_comes_to(practice):
    fleet = drawn_fleet(24, seed=5)
    fleet = replace(fleet, heaters=replace(fleet.heaters, practice=np.full(24, code(practice))))
    found = forecast(fleet)
    # A jetting takes longer than a plain flush; here all are plain.
    plain = [replace(one, method=np.zeros_like(one.method)) for one in found.components]
    found = replace(found, components=plain)
    site = np.arange(24) // 2
    told = years_ahead.ahead(fleet, found, site, TRAVEL, 3, calm(found))
    hours, flushes = by_hand(fleet, found, site, 3)
    assert told.counts["flushes"][0] == pytest.approx(flushes)
    assert told.hours[0] == pytest.approx(hours)
    assert told.counts["leaks"].sum() == told.counts["relief_valves"].sum() == 0


def test_the_same_practice_with_the_same_luck_is_no_different():
    fleet = drawn_fleet(60, seed=3)
    found = forecast(fleet)
    luck, site = years_ahead.drawn(found, 40, seed=2), np.arange(60)
    one, same = (years_ahead.ahead(fleet, found, site, TRAVEL, 3, luck) for _ in range(2))
    assert (one.hours == same.hours).all()
    assert years_ahead.better(one.hours, same.hours) == 0
    other = years_ahead.ahead(fleet, found, site, TRAVEL, 3, years_ahead.drawn(found, 40, seed=9))
    assert (other.hours != one.hours).any()


def test_a_calendar_of_half_years_takes_more_visits_and_its_fan_is_in_order():
    fleet = drawn_fleet(60, seed=3)
    hard = replace(fleet.heaters, hardness_mg_l=np.full(60, 320.0))
    found = {}
    for practice in (Practice.ANNUAL, Practice.HARD_WATER_HALF_YEARLY):
        tried = replace(fleet, heaters=replace(hard, practice=np.full(60, code(practice))))
        believed = forecast(tried)
        luck = years_ahead.drawn(believed, 60, seed=2)
        found[practice] = years_ahead.ahead(tried, believed, np.arange(60), TRAVEL, 4, luck)
    annual, half = found.values()
    tanks = int((fleet.heaters.is_tank).sum())
    assert annual.counts["flushes"][0].sum() <= 4 * tanks
    assert half.counts["flushes"].sum() > 1.7 * annual.counts["flushes"].sum()
    assert years_ahead.better(annual.hours, half.hours) == 1
    low, middle, high = years_ahead.fan(annual.hours)
    assert (low < middle).all() and (middle < high).all()


def test_as_many_tanks_leak_as_their_forecasts_say():
    fleet = drawn_fleet(300, seed=8)
    found = forecast(fleet)
    luck = years_ahead.drawn(found, 300, seed=4)
    told = years_ahead.ahead(fleet, found, np.arange(300), TRAVEL, 1, luck)
    expected = float(found.of(Component.TANK).probability_today.sum())
    assert told.counts["leaks"].mean() == pytest.approx(expected, rel=0.05)


def test_what_lasts_longest_is_no_longer_than_the_companys_cap():
    fleet = drawn_fleet(40, seed=1)
    found = forecast(fleet)
    flush = found.of(Component.SEDIMENT)
    wrong = np.full((flush.row.size, 1), -5.0)
    interval = years_ahead._intervals(flush, fleet, {}, wrong)
    assert (interval[:, 0] <= fleet.heaters.longest_flush_years[flush.row] + 1e-9).all()
    assert (years_ahead._intervals(flush, fleet, {}, -wrong) >= policy.SHORTEST_FLUSH_YEARS).all()

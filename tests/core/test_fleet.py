"""Choosing heaters out of a fleet: nothing of theirs is lost, nothing of others' comes along."""

import numpy as np
import pytest

from aquifer.core.assembly import complete
from aquifer.core.fleet import Events, floor_m2, radius_m, rod_length_m, wetted_m2
from aquifer.core.water import WaterTest, profile
from tests.core.fleets import known, without_events


@pytest.mark.parametrize("seed", range(20))
def test_the_chosen_keep_their_events_and_no_others(seed):
    """Against a dictionary, heater by heater; the first and the last are among them as often as not."""
    chance = np.random.default_rng(seed)
    heaters = int(chance.integers(1, 9))
    row = np.sort(chance.integers(0, heaters, int(chance.integers(0, 30))))
    events = Events(row, chance.random(row.size))
    rows = np.flatnonzero(chance.random(heaters) < 0.6)
    chosen = events.of(rows, heaters)
    for place, heater in enumerate(rows):
        assert chosen.years[chosen.row == place].tolist() == events.years[row == heater].tolist()
    assert chosen.row.size == sum(int((row == heater).sum()) for heater in rows)


@pytest.mark.parametrize("seed", range(20))
def test_partitions_are_whole_zones_and_every_heater_once(seed):
    chance = np.random.default_rng(seed)
    n, zones, least = int(chance.integers(1, 60)), int(chance.integers(1, 8)), int(chance.integers(1, 20))
    waters = [profile(WaterTest(200.0)) for _ in range(zones)]
    zone = chance.integers(0, zones, n)
    fleet = without_events(complete(known(n, zone=zone), waters))
    parts = list(fleet.partitions(least))
    assert sorted(np.concatenate(parts).tolist()) == list(range(n))
    for part in parts:
        assert part.size and part.tolist() == sorted(part.tolist())
        others = np.setdiff1d(np.arange(n), part)
        assert not set(zone[part]) & set(zone[others])
    assert all(part.size >= least for part in parts[:-1])


def test_a_tank_eight_times_as_large_is_twice_as_wide_and_long_with_four_times_the_walls():
    sizes = np.array([189.0, 8 * 189.0])
    for of, times in ((floor_m2, 4), (wetted_m2, 4), (radius_m, 2), (rod_length_m, 2)):
        small, large = of(sizes)
        assert small > 0 and large == pytest.approx(times * small)
    # As a cylinder: its floor is pi r squared, and with what it holds it is as tall as such tanks are.
    assert floor_m2(sizes[:1])[0] == pytest.approx(np.pi * radius_m(sizes[:1])[0] ** 2, rel=0.02)
    assert 1.0 < 0.189 / floor_m2(sizes[:1])[0] < 1.5

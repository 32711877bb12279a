"""Ends of tanks, foretold in worlds whose laws share nothing with the core."""

import numpy as np
import pytest

from aquifer.core.lives import UNLEARNED
from aquifer.study.foreign import ends

FAILURES = 150


def lived(law: str, median: float, seeds: int) -> tuple[ends.Told, float]:
    """Told and come of several towns, and the skill that the handbook would have had."""
    every, plain = [], []
    for seed in ends.SEEDS[:seeds]:
        town = ends.Town(law, median, seed)
        town.lives_on(FAILURES)
        plain.append(town.foretold(UNLEARNED).probability_today)
        every.append(town.next_year(town.foretold(town.taught()).probability_today))
    told = ends.added(every)
    return told, told.skill(np.concatenate(plain))


@pytest.mark.parametrize(
    ("law", "median"),
    [
        # One that a check waits for; the others are of the long one.
        ("two phases", 13.0),
        *(
            pytest.param(law, median, marks=pytest.mark.long)
            for law in ends.LAWS for median in ends.MEDIANS if (law, median) != ("two phases", 13.0)
        ),
    ],
)  # fmt: skip
def test_the_year_after_a_hundred_and_fifty_failures_is_foretold_as_it_comes(law, median):
    told, handbook = lived(law, median, 3)
    noise = 2 / np.sqrt(told.came.sum())
    assert abs(np.log(told.over)) < np.log(1.25) + noise
    # By age: one factor on the handbook told a third of what came to the young and half too much of the old.
    for part in np.array_split(np.argsort(told.age), 3):
        off = np.log(told.told[part].sum() / told.came[part].sum())
        assert abs(off) < np.log(1.35) + 2 / np.sqrt(told.came[part].sum())
    assert told.skill(told.told) > max(handbook, -0.05)


def test_what_can_be_known_of_makes_waters_and_signs_is_known_where_nothing_else_matters():
    seen = []
    for seed in ends.SEEDS[:3]:
        town = ends.Town("aging", 9.0, seed, weakness=0.0)
        town.lives_on(3 * FAILURES)
        seen.append(town.next_year(town.foretold(town.taught()).probability_today))
    told = ends.added(seen)
    assert told.of_oracle > 0.5


def test_a_tank_is_told_with_what_is_not_known_of_it():
    town = ends.Town("hastened", 13.0, 3)
    town.lives_on(30)
    few = town.foretold(town.taught())
    town.lives_on(200)
    many = town.foretold(town.taught())
    for found in (few, many):
        low, middle, high = found.state["failure_within_12_months"].T
        assert (low < middle).all() and (middle < high).all() and (middle == found.probability_today).all()
    widths = [np.log(found.state["failure_within_12_months"][:, [0, 2]]) for found in (few, many)]
    assert (widths[1][:, 1] - widths[1][:, 0]).mean() < 0.8 * (widths[0][:, 1] - widths[0][:, 0]).mean()
    assert town.taught().failures == town.failures

"""How long tanks last is learned from those that came and went."""

import numpy as np
import pytest

from aquifer.core import lives, tank
from aquifer.core.lives import LifeFactor, Lives, learned
from aquifer.core.parameters import TANK


class World:
    """Tanks with a weakness of their own and a law that is not the core's: log-normal lives."""

    def __init__(self, median: float, seed: int, n: int = 6000) -> None:
        rng = np.random.default_rng(seed)
        self.life = median * np.exp(0.42 * rng.normal(size=n) + 0.15 * rng.normal(size=n))
        age = rng.uniform(0, 22, n)
        stands = self.life > age
        self.life, self.entry = self.life[stands], age[stands]
        # One in fifteen a year is replaced, sold or lost for other reasons.
        self.gone = self.entry + rng.exponential(15, self.entry.size)

    def after(self, years: float) -> Lives:
        leaves = np.minimum(np.minimum(self.life, self.gone), self.entry + years)
        return Lives(_hazard(self.entry), _hazard(leaves), self.life <= np.minimum(self.gone, self.entry + years))

    def stands(self, years: float) -> np.ndarray:
        return np.minimum(self.life, self.gone) > self.entry + years


def _hazard(age: np.ndarray) -> np.ndarray:
    return tank.hazard(age, np.zeros(age.size))


@pytest.mark.parametrize("median", [9.0, 13.0, 17.0])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_failures_to_come_are_foretold_after_a_hundred_and_fifty(median, seed):
    world = World(median, seed)
    years = next(y for y in np.arange(0.1, 8, 0.05) if world.after(y).leaked.sum() >= 150)
    factor = learned(world.after(years))
    assert factor.failures == pytest.approx(150, abs=40)
    there = world.stands(years)
    now, later = world.entry[there] + years, world.entry[there] + years + 1
    told = float(-np.expm1(-factor.mean * (_hazard(later) - _hazard(now))).sum())
    came = int((world.life[there] <= later).sum())
    assert 0.8 < told / came < 1.25
    handbook = float(-np.expm1(-(_hazard(later) - _hazard(now))).sum())
    assert abs(np.log(told / came)) <= abs(np.log(handbook / came)) + 0.05


def test_without_failures_of_its_own_the_handbook_stands():
    assert LifeFactor().mean == 1.0
    low, high = LifeFactor().quantiles(np.array([0.1, 0.9]))
    assert low == pytest.approx(0.32, abs=0.03) and high == pytest.approx(1.85, abs=0.05)
    few = learned(Lives(np.zeros(3), np.full(3, 0.1), np.zeros(3, dtype=bool)))
    assert few.failures == 0 and 0.85 < few.mean < 1.0


def test_what_failed_before_it_was_ours_and_what_left_for_other_reasons_do_not_count_as_standing():
    # Ten tanks, watched for a year each at age 12; two leaked. By hand: hazard 10 (12.5^k - 11.5^k) / 14^k.
    entry, leave = np.full(10, 11.5), np.full(10, 12.5)
    leaked = np.arange(10) < 2
    lived = 10 * ((12.5 / TANK.life_years) ** TANK.shape - (11.5 / TANK.life_years) ** TANK.shape)
    found = learned(Lives(_hazard(entry), _hazard(leave), leaked))
    assert found.mean == pytest.approx((TANK.factor_weight + 2) / (TANK.factor_weight + lived))
    # Counted from new, as if all had been watched, they would look as lasting as stone.
    assert learned(Lives(np.zeros(10), _hazard(leave), leaked)).mean < 0.7 * found.mean
    with pytest.raises(ValueError, match="left care before it came"):
        learned(Lives(_hazard(leave), _hazard(entry), leaked))
    assert lives.LifeFactor is LifeFactor

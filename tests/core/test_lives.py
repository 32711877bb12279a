"""How tanks end is learned from those that came and went, held against a likelihood written anew and worlds of others'
making."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import quad
from scipy.optimize import minimize

from aquifer.core import lives, tank
from aquifer.core.lives import SPREADS, UNLEARNED, Group, Spans, TankLife, learned
from aquifer.core.parameters import TANK

TRAITS = tank.SLOPES.size


def spans_of(entry, leave, leaked, **parts) -> Spans:
    """Tanks that bore nothing, one span before they came and one in care."""
    n = len(entry)
    at, in_care = np.repeat(np.arange(n), 2), np.tile([False, True], n)
    start = np.where(in_care, np.asarray(entry, dtype=float)[at], 0.0)
    end = np.where(in_care, np.asarray(leave, dtype=float)[at], np.asarray(entry, dtype=float)[at])
    plain = {
        "traits": np.zeros((2 * n, TRAITS)), "build": np.full(n, -1), "zone": np.zeros(n, dtype=np.int64),
        "leaked": np.asarray(leaked, dtype=bool),
    }  # fmt: skip
    return Spans(at, start, end, in_care=in_care, **{**plain, **parts})


def told(life, age, traits=None) -> np.ndarray:
    """Chance of giving way within a year, on the first water."""
    age = np.asarray(age, dtype=float)
    ratio = life.log_ratio(np.zeros((age.size, TRAITS)) if traits is None else traits)
    nothing = np.zeros(age.size)
    if life.zones.effect.size:
        ratio = ratio + life.zones.effect[0]
    return tank.Standing(age, nothing, nothing, ratio, life.law).failure_within(np.ones(age.size))


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

    def after(self, years: float) -> Spans:
        leaves = np.minimum(np.minimum(self.life, self.gone), self.entry + years)
        return spans_of(self.entry, leaves, self.life <= np.minimum(self.gone, self.entry + years))

    def stands(self, years: float) -> np.ndarray:
        return np.minimum(self.life, self.gone) > self.entry + years


@pytest.mark.parametrize("median", [9.0, 13.0, 17.0])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_failures_to_come_are_foretold_after_a_hundred_and_fifty_at_every_age(median, seed):
    world = World(median, seed)
    years = next(y for y in np.arange(0.1, 8, 0.05) if world.after(y).leaked.sum() >= 150)
    life = learned(world.after(years))
    assert life.failures == pytest.approx(150, abs=40)
    there = world.stands(years)
    age, came = world.entry[there] + years, world.life[there] <= world.entry[there] + years + 1
    chance = told(life, age)
    assert 0.8 < chance.sum() / came.sum() < 1.25
    # Of the young and of the old; what chance alone may do is left to it, two of its standard deviations.
    young, old = np.array_split(np.argsort(age), 2)
    for part, most in ((young, 1.7), (old, 1.25)):
        off = abs(np.log(chance[part].sum() / came[part].sum()))
        assert off < np.log(most) + 2 / np.sqrt(came[part].sum())
    plain = told(UNLEARNED, age)
    assert abs(np.log(chance.sum() / came.sum())) <= abs(np.log(plain.sum() / came.sum())) + 0.05


def likelihood(entry, leave, leaked, hardness, build, x, frailty) -> float:
    """ln of the likelihood with its prior, from the hazard itself by numbers: nothing of the core's but its figures.

    Parameters: x, level, ln of the shape, slope of hardness, and what each of two makes adds.
    """
    level, log_shape, slope, *makes = x
    shape = TANK.shape * np.exp(log_shape)
    total = 0.0
    for a, b, died, hard, make in zip(entry, leave, leaked, hardness, build, strict=True):
        ratio = np.exp(level + (TANK.slopes["hardness"] + slope) * hard + makes[make])

        def hazard(age, ratio=ratio):
            return ratio * shape / TANK.life_years * (age / TANK.life_years) ** (shape - 1)

        until, before = quad(hazard, 0, b)[0], quad(hazard, 0, a)[0]
        if frailty:
            total -= (np.log(1 + frailty * until) - np.log(1 + frailty * before)) / frailty
            total += died * (np.log(hazard(b)) - np.log(1 + frailty * until))
        else:
            total += died * np.log(hazard(b)) - (until - before)
    spreads = [TANK.level_spread, TANK.shape_spread, TANK.slope_spreads["hardness"], *2 * [TANK.group_spread]]
    return total - sum((value / spread) ** 2 for value, spread in zip(x, spreads, strict=True)) / 2


@pytest.mark.parametrize("frailty", [0.0, 0.8])
def test_what_is_learned_is_the_likeliest_by_a_likelihood_written_anew(monkeypatch, frailty):
    rng = np.random.default_rng(11)
    entry = rng.uniform(1, 15, 24)
    leave = entry + rng.uniform(0.5, 6, 24)
    leaked, build, hardness = rng.random(24) < 0.5, rng.integers(0, 2, 24), rng.choice([0.0, 2.5], 24)
    traits = np.zeros((48, TRAITS))
    traits[:, 0] = np.repeat(hardness, 2)
    spans = spans_of(entry, leave, leaked, traits=traits, build=build)
    # How far makes differ is held where the prior has it; waters are one, and it adds nothing of its own.
    monkeypatch.setattr(lives, "_ROUNDS", 1)
    found = learned(spans, (frailty,))
    best = minimize(
        lambda x: -likelihood(entry, leave, leaked, hardness, build, x, frailty), np.zeros(5), method="Nelder-Mead",
        options={"xatol": 1e-5, "fatol": 1e-8, "maxiter": 3000, "maxfev": 3000},
    )  # fmt: skip
    # The one water shares what all have with the level: together they are what the other calls level.
    level = found.level + found.zones.effect[0]
    here = [level, np.log(found.law.shape / TANK.shape), found.slopes[0], *found.builds.effect]
    assert found.law.frailty == pytest.approx(frailty)
    assert np.allclose(here[1:], best.x[1:], atol=0.03) and here[0] == pytest.approx(best.x[0], abs=0.06)
    assert likelihood(entry, leave, leaked, hardness, build, here, frailty) > -best.fun - 0.05


def test_what_failed_before_it_was_ours_and_what_left_for_other_reasons_do_not_count_as_standing():
    # Two hundred watched for a year at about eleven; one in five gave way, any day of it.
    entry, leaked = np.linspace(10.5, 12.5, 200), np.arange(200) % 5 == 0
    leave = np.where(leaked, entry + np.linspace(0.01, 0.99, 200)[np.arange(200) * 7 % 200], entry + 1)
    watched = learned(spans_of(entry, leave, leaked))
    assert told(watched, [11.5])[0] == pytest.approx(0.2, abs=0.04)
    # Counted from new, as if all had been watched, they would look as lasting as stone.
    unwatched = learned(spans_of(np.zeros(200), leave, leaked))
    assert told(unwatched, [8.0])[0] < 0.6 * told(watched, [8.0])[0]
    with pytest.raises(ValueError, match="left care before it came"):
        learned(spans_of(leave, entry, leaked))


def test_without_failures_of_its_own_the_handbook_stands_with_what_is_not_known_of_it():
    assert UNLEARNED.level == 0.0 and learned(spans_of([], [], [])) is UNLEARNED
    few = learned(spans_of(np.zeros(3), np.full(3, 2.0), np.zeros(3)))
    assert few.failures == 0 and -0.16 < few.level < 0.0
    # At the characteristic age, where a steeper law tells once more, and far from it.
    near, young = UNLEARNED.variance(np.zeros((2, TRAITS)), np.array([TANK.life_years, 2.0]))
    assert np.sqrt(near) == pytest.approx(np.hypot(TANK.level_spread, TANK.shape_spread), rel=1e-6)
    assert young > near
    assert (np.diag(UNLEARNED.covariance) == SPREADS**2).all()


def test_makes_waters_and_signs_are_told_apart_as_far_as_they_were_seen():
    rng = np.random.default_rng(5)
    n, years = 4000, 2.0
    age, make, zone = rng.uniform(2, 14, n), rng.integers(0, 4, n), rng.integers(0, 5, n)
    rusty = rng.random(n) < 0.25
    true_make, true_zone = np.array([0.0, 0.0, 0.9, -0.9]), np.array([0.6, -0.6, 0.0, 0.0, 0.0])
    ratio = true_make[make] + true_zone[zone] + 1.5 * rusty
    cumulative = np.exp(ratio) * ((age + years) ** TANK.shape - age**TANK.shape) / TANK.life_years**TANK.shape
    gone = rng.exponential(size=n) / cumulative
    leaked = gone < 1
    traits = np.zeros((2 * n, TRAITS))
    # Rust shows from when it came into care; a young make was hardly seen.
    traits[1::2, 6] = rusty
    few = (make == 3) & (np.cumsum(make == 3) > 10)
    spans = spans_of(age, age + years * np.minimum(gone, 1), leaked, traits=traits, build=make, zone=zone).of(~few)
    life = learned(spans)
    effect, variance = life.builds.of(np.array([0, 2, 3, 7, -1]))
    assert effect[1] - effect[0] == pytest.approx(0.9, abs=0.25)
    assert abs(effect[2]) < 0.6 and variance[2] > 2 * variance[1]
    # Of a make that nobody has, what is known is how far makes differ.
    assert (effect[3:] == 0).all() and variance[3] == pytest.approx(life.builds.spread**2)
    assert life.builds.spread > TANK.group_spread
    water, _ = life.zones.of(np.array([0, 1]))
    assert water[0] - water[1] == pytest.approx(1.2, abs=0.35)
    assert TANK.slopes["rusty"] + life.slopes[6] == pytest.approx(1.5, abs=0.25)
    # What there was nothing of stays as little known as it was.
    assert life.slopes[4] == 0 and life.covariance[6, 6] == pytest.approx(SPREADS[6] ** 2)


def test_the_weak_go_first_and_those_that_are_left_are_the_lasting_ones():
    rng = np.random.default_rng(8)
    n = 6000
    weak = rng.gamma(1.0, 1.0, n)
    ends = TANK.life_years * (rng.exponential(size=n) / weak) ** (1 / TANK.shape)
    entry = rng.uniform(0, 20, n)
    stands = ends > entry
    entry, ends = entry[stands], ends[stands]
    life = learned(spans_of(entry, np.minimum(ends, entry + 5), ends < entry + 5))
    assert life.law.frailty > 0.5
    old = ends > 24
    came = (ends[old] < 25).mean()
    assert told(life, [24.0])[0] == pytest.approx(came, rel=0.35)
    assert told(UNLEARNED, [24.0])[0] > 2 * came


def test_lots_of_tanks_are_counted_on_as_one():
    one, other = spans_of([1, 2], [3, 4], [0, 1]), spans_of([5], [6], [1])
    both = lives.together([one, other])
    assert both.tank.tolist() == [0, 0, 1, 1, 2, 2] and both.leaked.tolist() == [False, True, True]
    assert both.of(np.array([False, True, True])).tank.tolist() == [0, 0, 1, 1]
    assert both.of(np.array([False, False, True])).end.tolist() == other.end.tolist()
    assert learned(both).level == pytest.approx(learned(replace(both, traits=np.zeros_like(both.traits))).level)


def test_a_life_adds_its_level_and_what_each_trait_tells_here():
    traits = np.array([[0.0] * tank.SLOPES.size, np.linspace(-1.0, 1.5, tank.SLOPES.size).tolist()])
    slopes = np.linspace(0.3, -0.2, tank.SLOPES.size)
    life = TankLife(level=0.4, slopes=slopes)
    by_hand = 0.4 + sum(x * (usual + own) for x, usual, own in zip(traits[1], tank.SLOPES, slopes, strict=True))
    assert life.log_ratio(traits) == pytest.approx([0.4, by_hand])
    assert UNLEARNED.log_ratio(traits) == pytest.approx([0.0, float(traits[1] @ tank.SLOPES)])


def test_what_is_not_known_of_a_hazard_is_by_level_shape_and_traits_together():
    """First-order error: the gradient of ln of the hazard on both sides of what is not known."""
    size = tank.SLOPES.size
    root = np.random.default_rng(4).normal(0, 0.3, (size + 2, size + 2))
    life = TankLife(law=tank.Law(3.1), covariance=root @ root.T)
    traits = np.linspace(-0.4, 0.8, size)

    def log_hazard(of, years):
        """Weibull at an age: k t^(k-1) / life^k, its shape k by a factor."""
        level, log_factor, *slopes = of
        shape = 3.1 * np.exp(log_factor)
        return level + np.log(shape) + shape * np.log(years / TANK.life_years) + traits @ np.array(slopes)

    for years, counts in ((12.0, 12.0), (0.2, 0.5)):
        step, at = 1e-5, np.zeros(size + 2)
        gradient = [
            (log_hazard(at + step * one, counts) - log_hazard(at - step * one, counts)) / (2 * step)
            for one in np.eye(size + 2)
        ]
        wanted = np.array(gradient) @ life.covariance @ np.array(gradient)
        assert life.variance(traits[None, :], np.array([years]))[0] == pytest.approx(wanted, rel=1e-4)
    assert life.level_sd == pytest.approx(np.sqrt(life.covariance[0, 0]))


def test_of_a_group_that_was_never_seen_nothing_is_known_but_how_far_they_differ():
    group = Group(np.array([0.3, -0.2]), np.array([0.01, 0.02]), 0.4)
    effect, unsure = group.of(np.array([1, -1, 0, 2]))
    assert effect.tolist() == [-0.2, 0.0, 0.3, 0.0] and unsure == pytest.approx([0.02, 0.16, 0.01, 0.16])
    effect, unsure = lives.NO_GROUP.of(np.array([0, -1]))
    assert effect.tolist() == [0.0, 0.0] and unsure == pytest.approx([TANK.group_spread**2] * 2)


def test_who_left_before_he_came_is_refused_by_his_number():
    spans = spans_of([2.0, 5.0], [6.0, 9.0], [False, False])
    assert spans.of(np.array([False, True])).end.tolist()[-1] == 9.0 and len(spans.of(np.array([False, True]))) == 1
    with pytest.raises(ValueError, match="tank 1 left care before it came"):
        replace(spans, end=np.where(spans.tank == 1, spans.start - 0.1, spans.end))

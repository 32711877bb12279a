"""Rods at which nobody but an eye looks, against rods that wear by a law written here: what is believed of them right
after a look, what was told of that before, and how sharp the eye was."""

from dataclasses import dataclass, replace

import numpy as np
import pytest

from aquifer.core import anode
from aquifer.core.assembly import complete
from aquifer.core.components import AnodeComponent
from aquifer.core.fleet import Fleet, RodEvents
from aquifer.core.forecast import ComponentForecast, Context, calibrate, forecast
from aquifer.core.learning import GRID, Posterior
from aquifer.core.parameters import ANODE, HALF_WIDTH_80
from aquifer.core.vocabulary import Alloy, Component, Method, RodGrade, code
from aquifer.core.water import WaterTest, profile
from tests.core.fleets import known, without_events

N, ZONES = 600, 12
CUTS = np.array([0.12, 0.37, 0.65, 0.9])
"""Shares gone at which the eyes of this district call a rod worn, half, mostly gone and gone."""
WORN = code(RodGrade.MOSTLY_GONE)


@dataclass
class Rods:
    """What is left of each, and what was said of it at looks a year apart."""

    sharp: float
    a_year: np.ndarray
    random: np.random.Generator

    @classmethod
    def of(cls, sharp: float) -> "Rods":
        random = np.random.default_rng(11)
        water = random.lognormal(0, 0.3, ZONES)[np.arange(N) % ZONES]
        return cls(sharp, 0.17 * water * random.lognormal(0, 0.25, N), random)

    def gone(self, years: float) -> np.ndarray:
        return np.minimum(self.a_year * years, 1.3)

    def grade(self, years: float) -> np.ndarray:
        return np.searchsorted(CUTS, self.gone(years) * self.random.lognormal(0, self.sharp, N))

    def believed(self, age: float, looks: dict[float, np.ndarray], context: Context) -> ComponentForecast:
        return next(one for one in forecast(fleet(age, looks), context).components if one.component is Component.ANODE)


def fleet(age: float, looks: dict[float, np.ndarray]) -> Fleet:
    water = profile(WaterTest(total_hardness_mg_l=220))
    heaters = complete(replace(known(N, zone=np.arange(N) % ZONES), age_years=np.full(N, age)), [water])
    row = np.repeat(np.arange(N), len(looks))
    years = np.tile(np.array(list(looks)), N)
    grade = np.stack(list(looks.values()), axis=1).ravel()
    none = np.full(row.size, np.nan)
    events = RodEvents(
        row, years, row % 3, np.full(row.size, code(Alloy.MAGNESIUM)), heaters.rod_diameter_m[row],
        heaters.rod_length_m[row], np.zeros(row.size), none, none, grade,
    )  # fmt: skip
    return replace(without_events(heaters), rod_looks=events, graders=3)


def looked_at(rods: Rods) -> tuple[dict[float, np.ndarray], Context]:
    looks = {years: rods.grade(years) for years in (1.0, 2.0, 3.0)}
    return looks, Context(calibration=calibrate(fleet(3.01, looks)))


@pytest.mark.parametrize(("sharp", "least", "most"), [(0.12, 0.5, 0.7), (0.30, 0.85, 1.2), (0.55, 1.3, 1.8)])
def test_how_sharp_eyes_are_is_learned_from_looks_at_the_same_rods(sharp, least, most):
    _, context = looked_at(Rods.of(sharp))
    assert least <= context.calibration[Component.ANODE].eye_scale <= most


def test_a_rod_that_was_just_looked_at_and_kept_is_believed_to_be_what_it_is():
    rods = Rods.of(0.15)
    looks, context = looked_at(rods)
    kept = looks[3.0] < WORN
    found = rods.believed(3.01, looks, context)
    truly = (rods.gone(3.01) >= anode.BARE_LIMIT)[kept].mean()
    assert kept.sum() > 300 and found.probability_today[kept].mean() == pytest.approx(truly, abs=0.04)
    # And so says the window of what is there: what is over its limit at one in ten is not called safe, nor the reverse.
    least_left = found.state["fraction_left"][:, 0]
    limit = 1 - anode.BARE_LIMIT
    assert (found.probability_today[least_left > limit + 0.02] < 0.1).all()
    assert (found.probability_today[least_left < limit - 0.02] > 0.1).all()


def test_what_a_look_leaves_is_told_before_it():
    rods = Rods.of(0.3)
    looks, context = looked_at(rods)
    before = rods.believed(2.99, {years: looks[years] for years in (1.0, 2.0)}, context)
    after = rods.believed(3.01, looks, context)
    # What an eye calls mostly gone is renewed, the others stay.
    looks_at = before.method == code(Method.INSPECT)
    left = np.where(looks[3.0] >= WORN, 0.0, after.probability_today)
    assert looks_at.sum() > 300
    assert before.over_after_service[looks_at].mean() == pytest.approx(left[looks_at].mean(), abs=0.02)
    assert before.over_after_service[looks_at].mean() > 0.01


def test_what_is_to_come_strays_and_what_has_been_does_not():
    """A rod whose state is known well: its limit in months is known well, a new rod's in years is not."""
    rods = Rods.of(0.12)
    looks, context = looked_at(rods)
    found = rods.believed(3.01, looks, context)
    near = (found.reached_years[:, 3] > 0.2) & (found.reached_years[:, 3] < 1.0)
    early, late = found.reached_years[near, 1], found.reached_years[near, 5]
    fresh = {3.0: np.zeros(N, dtype=np.int64)}
    new = rods.believed(3.0, fresh, context)
    assert near.sum() > 30
    assert np.median((late - early) / (3.0 + found.reached_years[near, 3])) < 0.75 * np.median(
        (new.reached_years[:, 5] - new.reached_years[:, 1]) / (3.0 + new.reached_years[:, 3])
    )


def test_what_somebody_saw_last_year_is_held_against_a_year_and_not_against_a_life():
    """Rods read by calliper in their third and fourth year: what was there at the first reading cannot stray any more,
    so the windows told before the second are as wide as the year between is uncertain."""
    rods = Rods.of(0.15)
    age, looks = 4.01, (3.0, 4.0)
    water = profile(WaterTest(total_hardness_mg_l=220))
    heaters = complete(replace(known(N, zone=np.arange(N) % ZONES), age_years=np.full(N, age)), [water])
    row, years = np.repeat(np.arange(N), 2), np.tile(np.array(looks), N)
    new = heaters.rod_diameter_m[row]
    gone = np.minimum(rods.a_year[row] * years, 0.97) * rods.random.lognormal(0, 0.05, row.size)
    thick = np.sqrt(np.maximum(1 - gone, 0.0) * (new**2 - ANODE.core_diameter_m**2) + ANODE.core_diameter_m**2)
    none, ungraded = np.full(row.size, np.nan), np.full(row.size, -1)
    events = RodEvents(
        row, years, ungraded, np.full(row.size, code(Alloy.MAGNESIUM)), new, heaters.rod_length_m[row],
        np.zeros(row.size), thick, none, ungraded,
    )  # fmt: skip
    taught = calibrate(replace(without_events(heaters), rod_looks=events))[Component.ANODE]
    assert taught.checked is not None and taught.checks > 300
    off, told = taught.checked.off, taught.checked.told
    # They hold, and are not told as if four years had still to come.
    assert np.median(told) < 0.28
    assert np.mean(np.abs(off) <= HALF_WIDTH_80 * told) > 0.75


@pytest.mark.parametrize("centre", [-0.2, 0.2, 0.6])
def test_what_an_eye_sees_of_rods_past_their_limit_is_what_it_sees_of_them_one_by_one(centre):
    """Rods drawn from the belief, each graded by an eye that strays and now and then grades at random."""
    water = profile(WaterTest(total_hardness_mg_l=220))
    rods = AnodeComponent.of(without_events(complete(replace(known(1), age_years=np.full(1, 4.0)), [water])))
    mass = np.exp(-0.5 * ((GRID - centre) / 0.35) ** 2)
    belief = Posterior((mass / mass.sum()).astype(np.float32)[None, :], np.zeros(1), 0.2)
    random = np.random.default_rng(3)
    gone = anode.consumed(rods.rods, rods.rod_age)[0] * np.exp(random.normal(centre, 0.35, 400_000))
    gone = gone[gone > anode.BARE_LIMIT]
    grade = np.searchsorted(np.log(ANODE.grade_cuts), np.log(gone) + random.normal(0, ANODE.grade_spread, gone.size))
    by_chance = random.random(gone.size) < ANODE.misgrade
    grade = np.where(by_chance, random.integers(0, len(RodGrade), gone.size), grade)
    assert rods._noticed(belief)[0] == pytest.approx((grade >= WORN).mean(), abs=0.008)

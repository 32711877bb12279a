"""Deposits as the forecast sees them: how fast they come is one thing, how much lies there another.

A cleaning leaves a share that nobody knows, so what lies there keeps an uncertainty of its own (``learning.level``);
both have a ceiling (``ceiling``). What follows from pace and level, sediment and scale have in common.
"""

from abc import ABC, abstractmethod
from dataclasses import dataclass, replace
from functools import cached_property
from typing import ClassVar, Self

import numpy as np

from aquifer.core import ceiling
from aquifer.core.arrays import FloatArray, IntArray
from aquifer.core.components.growing import YEAR, Dates, log_of
from aquifer.core.fleet import Heaters
from aquifer.core.learning import Cleanings, ComponentCalibration, Evidence, Posterior, eyes_say, level
from aquifer.core.learning.level import Level
from aquifer.core.parameters import LEARNING, SEDIMENT

TRAITS = ("hardness", "usage", "temperature")
"""What of a heater the physics goes by and may misjudge in a district, by the names of their factors."""
HARDLY_HEARD = -3.0
"""A level this far, in natural logs, below that at which half of the households ring would have to come many times as
fast as usual before anybody did: that nobody rang says nothing."""


@dataclass(frozen=True)
class Belief:
    """A pace, and a level that partly follows it; arrays of shape (n,)."""

    mean: FloatArray
    """Of log theta."""
    sd: FloatArray
    level: Level
    """Now."""
    year_spread: float
    grader_variance: FloatArray
    """Variance that comes of not knowing the eyes that graded."""


class Deposit(ABC):
    """What a component gives, and what it gets for it. Levels are those at theta = 1, m, without a ceiling."""

    taught: ComponentCalibration
    heaters: Heaters
    plain_rate: FloatArray
    """What comes a year at theta = 1 by the physics, (n,)."""

    # What each component says of itself

    reading_error: ClassVar[float]
    """Standard deviation of a reading of what lies there, natural log."""

    @property
    @abstractmethod
    def levels(self) -> level.History: ...

    @property
    @abstractmethod
    def looks(self) -> level.Looks:
        """What was found at each event of ``levels``."""

    @property
    @abstractmethod
    def limit_driver(self) -> FloatArray:
        """The level at which the limit is reached, (n,)."""

    @property
    @abstractmethod
    def ceiling_m(self) -> FloatArray:
        """What the level may reach, (n,)."""

    @abstractmethod
    def ahead(self, years: FloatArray) -> FloatArray:
        """The level in so many years, nobody coming, (n, t)."""

    @abstractmethod
    def years_to_limit(self, log_level: FloatArray, log_pace: FloatArray) -> FloatArray:
        """Years from now to the limit, (n, q), from a level and at a pace whose logarithms lie so far above theta 1."""

    @abstractmethod
    def years_from_service(self, log_theta: FloatArray) -> FloatArray: ...

    @property
    @abstractmethod
    def since_service(self) -> FloatArray: ...

    # What follows

    def informed(self, taught: ComponentCalibration) -> Self:
        """The component under what the base taught."""
        return replace(self, taught=taught)  # type: ignore[type-var]

    @cached_property
    def unit_rate(self) -> FloatArray:
        """What comes a year at theta = 1, (n,): by the physics, and by what traits tell here."""
        return np.asarray(self.plain_rate * np.exp(self.by_traits.sum(axis=1)))

    @property
    def traits(self) -> FloatArray:
        """Hardness and use, natural logs over a plain heater's, and tens of degrees over its setpoint, (n, 3): what the
        physics goes by and may misjudge in a district."""
        h, p = self.heaters, SEDIMENT
        hardness = np.log(np.maximum(h.hardness_mg_l, 1.0) / p.reference_hardness_mg_l)
        use = np.log(np.maximum(h.volume_m3, 1.0) / p.reference_volume_m3)
        far = LEARNING.farthest_trait
        told = np.stack([hardness, use, (h.setpoint_c - p.reference_setpoint_c) / 10], axis=1)
        return np.asarray(np.clip(told, -far, far))

    @property
    def by_traits(self) -> FloatArray:
        """What each of them adds to the log of the unit rate here, (n, 3)."""
        told = self.taught.slopes
        return np.asarray(self.traits * told) if told.size else np.zeros((len(self.heaters), 3))

    @property
    def year_spread(self) -> float:
        return self.taught.future_spread or LEARNING.future_spread

    def heed(self, by: IntArray) -> FloatArray:
        """How much the grades of these people count, (m,)."""
        return np.ones(by.size) if self.taught.heed is None else self.taught.heed[by]

    @cached_property
    def unheard(self) -> Level:
        """What is known of the level before each event, for a given pace, when no finding is heard."""
        return level.followed(self.levels, None, np.zeros(self.levels.now.size), self.year_spread).foretold

    def believed(self, pace: Posterior) -> Belief:
        """The level that goes with a pace; kept, since date, year and state ask for it one after the other."""
        kept: tuple[Posterior, Belief] | None = self.__dict__.get("_believed")
        if kept is None or kept[0] is not pace:
            kept = self.__dict__["_believed"] = (pace, self._known(pace.mean, pace.sd))
        return kept[1]

    def _known(self, mean: FloatArray, sd: FloatArray) -> Belief:
        return Belief(mean, sd, self.followed(mean).now, self.year_spread, self._eyes)

    @cached_property
    def _eyes(self) -> FloatArray:
        h, taught = self.heaters, self.taught
        if taught.eye_variance is None:
            return np.zeros(len(h))
        prior = np.hypot(self.zone_spread * taught.zone_scale, self.heater_spread * taught.heater_scale)
        standpoint = taught.standpoint(h.age_years, h.household_years, h.cohort)
        return eyes_say(self.evidence(), standpoint, prior, taught.eye_variance)

    def followed(self, mean: FloatArray) -> level.Followed:
        """The level at each event and now, given the mean of log theta, (n,)."""
        return level.followed(self.levels, self.looks, mean, self.year_spread)

    def strayed(self, mean: FloatArray) -> Level:
        """The level before each event against what is expected if nothing is heard, given the mean of log theta."""
        heard = self.followed(mean).foretold
        return Level(heard.shift - self.unheard.shift, heard.share, heard.left_open, heard.years_open)

    @abstractmethod
    def evidence(self) -> Evidence: ...

    @property
    @abstractmethod
    def zone_spread(self) -> FloatArray: ...

    @property
    @abstractmethod
    def heater_spread(self) -> FloatArray: ...

    def cleanings(self) -> Cleanings | None:
        """Those before and after which the deposit was measured, None if there are none."""
        return None

    def dates(self, belief: Posterior, chances: FloatArray, accepted: FloatArray, log_factors: FloatArray) -> Dates:
        """See ``growing.Growing.dates``."""
        known = self.believed(belief)
        z = np.concatenate([belief.standing(chances), belief.standing_each(accepted)[:, None]], axis=1)
        of_level = self._spread(known, known.level, belief.sd)[:, None]
        of_a_year = ((self.taught.misjudged * belief.sd) ** 2 + known.grader_variance + known.year_spread**2)[:, None]
        # What nobody knows of a heater wanders nowhere: it may be anything that heaters of one water are.
        unknown = belief.sd / (self.heater_spread * self.taught.heater_scale)
        wander = (LEARNING.wander**2 * np.maximum(1 - unknown**2, 0.0))[:, None]
        centre, mean = (belief.mean + known.level.shift)[:, None], belief.mean[:, None]
        # Level and pace are taken to be high together; by how much that is too wide is made up for, by the share of the
        # limit that lies there already where that date is reached.
        held = np.minimum(np.exp(centre + z * of_level) * self.ahead(YEAR[:1]) / self.limit_driver[:, None], 1.0)
        common = (known.level.share * belief.sd**2)[:, None]
        # The further off a date, the more can change until then: about as far as the middle one, by its pace.
        years = self.years_to_limit(centre, mean) * np.exp(-z * np.sqrt(of_a_year))
        of_pace = np.sqrt(of_a_year + wander * np.minimum(years, LEARNING.wander_years))
        apart = np.sqrt((held * of_level) ** 2 + ((1 - held) * of_pace) ** 2 + 2 * held * (1 - held) * common)
        narrower = np.minimum(apart / np.maximum(held * of_level + (1 - held) * of_pace, 1e-9), 1.0)
        log_level, log_pace = centre + z * narrower * of_level, mean + z * narrower * of_pace
        log_level = np.concatenate([log_level, log_level[:, -1:] - log_factors], axis=1)
        log_pace = np.concatenate([log_pace, log_pace[:, -1:] - log_factors], axis=1)
        years = self.years_to_limit(log_level, log_pace)
        window, interval, without = np.split(years, [chances.size, chances.size + 1], axis=1)
        # What is over its limit is told since when: as it would have been from its last service on.
        at = log_level[:, chances.size : chances.size + 1]
        overdue = self.years_from_service(at)[:, 0] - self.since_service
        due = np.where(interval[:, 0] > 0, interval[:, 0], np.minimum(overdue, 0.0))
        return Dates(window, due, without)

    def narrowing(self, belief: Posterior) -> FloatArray:
        """How much of what is not known of the date of the limit a reading today would leave, (n,), 0 to 1: the
        deviation of its logarithm afterwards over that before.

        Source: a Kalman filter on the logarithms of level and pace (textbook), weighed as ``dates`` weighs them.
        """
        known, error2 = self.believed(belief), self.reading_error**2
        pace = belief.sd**2
        common = known.level.share * pace
        level = known.level.share**2 * pace + known.level.variance(known.year_spread)
        left = error2 / (level + error2)
        held = np.exp(known.mean + known.level.shift) * self.ahead(YEAR[:1])[:, 0] / self.limit_driver
        held = np.minimum(held, 1.0)

        def variance(level: FloatArray, pace: FloatArray, common: FloatArray) -> FloatArray:
            to_come = pace + known.year_spread**2
            return np.asarray(held**2 * level + (1 - held) ** 2 * to_come + 2 * held * (1 - held) * common)

        after = variance(level * left, pace - common**2 / (level + error2), common * left)
        return np.sqrt(after / np.maximum(variance(level, pace, common), 1e-12))

    def over(self, belief: Posterior, known: Belief, levels: FloatArray, at: Level) -> FloatArray:
        """Probability that levels, (n, t), with their own uncertainty, are over the limit."""
        log_level = known.mean[:, None] + log_of(levels) + at.shift
        spread = self._spread(known, at, known.sd[:, None])
        return belief.beyond((np.log(self.limit_driver)[:, None] - log_level) / spread)

    def _spread(self, known: Belief, at: Level, pace_sd: FloatArray) -> FloatArray:
        """Standard deviation of the logarithm of a level."""
        own = self.taught.misjudged**2 * ((at.share * pace_sd) ** 2 + at.left_open)
        grader_variance = known.grader_variance if own.ndim == 1 else known.grader_variance[:, None]
        spread = np.sqrt(own + at.share**2 * grader_variance + known.year_spread**2 * at.years_open)
        return np.asarray(np.maximum(spread, 1e-6))

    def later(self, known: Belief, years: FloatArray) -> tuple[FloatArray, Level]:
        """Levels in so many years if nobody comes, (n, t), and what is known of them."""
        levels = self.ahead(years)
        return levels, column(known.level).grown(weight(self.ahead(YEAR[:1]), levels))

    def told(self, known: Belief, levels: FloatArray, at: Level, standing: FloatArray) -> FloatArray:
        """Levels, (n, t), so many standard deviations, (n, q), from their centre, without a ceiling, (n, t, q)."""
        spread = self._spread(known, at, known.sd[:, None])
        centre = known.mean[:, None] + log_of(levels) + at.shift
        return np.exp(centre[:, :, None] + standing[:, None, :] * spread[:, :, None])

    def course(
        self, mean: FloatArray, sd: FloatArray, standing: FloatArray, ahead: FloatArray
    ) -> tuple[FloatArray, FloatArray]:
        """The level of one heater before and after each event, and in so many years from now if nobody comes.

        Parameters: mean and standard deviation of its log theta, (1,); standing, how many standard deviations from the
        centre, (1, q). Returns: (m, 2, q) and (t, q), with their ceiling, m.
        """
        history, followed, known = self.levels, self.followed(mean), self._known(mean, sd)
        at = followed.heard
        heard = Level(at.shift[None, :], at.share[None, :], at.left_open[None, :], at.years_open[None, :])
        before = self.told(known, history.before[None, :], heard, standing)[0]
        left = history.after / np.maximum(history.before, 1e-300)
        past = np.stack([before, before * left[:, None]], axis=1)
        future = self.told(known, *self.later(known, ahead), standing)[0]
        return ceiling.bounded(past, self.ceiling_m), ceiling.bounded(future, self.ceiling_m)


def once(row: IntArray, heard: FloatArray) -> IntArray:
    """At which contact it counts that nobody had complained, one a heater, where it counts at all: at the one at which
    most lay there at theta = 1. Who is silent is silent at every contact, so the others say hardly more.

    Parameters, (m,): heater of each contact, ascending; level there over that at which half of the households ring.
    """
    order = np.lexsort((-heard, row))
    first = order[np.flatnonzero(np.diff(row[order], prepend=-1))]
    return np.sort(first[heard[first] > HARDLY_HEARD])


def column(of: Level) -> Level:
    """A level of shape (n,) as (n, 1)."""
    return Level(of.shift[:, None], of.share[:, None], of.left_open[:, None], of.years_open[:, None])


def weight(held: FloatArray, reached: FloatArray) -> FloatArray:
    """What is held as a share of what is reached, at most 1."""
    return np.asarray(np.minimum(held / np.maximum(reached, 1e-300), 1.0))


def bounds_of(cuts: FloatArray, grade: IntArray, log_unit: FloatArray) -> tuple[FloatArray, FloatArray]:
    """What grades say of log theta: between which values, (m,) each."""
    edges = np.concatenate([[-np.inf], cuts, [np.inf]])
    return edges[grade] - log_unit, edges[grade + 1] - log_unit

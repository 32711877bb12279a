"""A level year: what a season's weeks ask of the same weeks of the next one.

A safety service comes again twelve months after it was done, so that the weeks of one year are those of the next: a
season that does everything at once does so every year. Each site therefore gets its place in the year. Its first visit
comes as soon as its risk asks; where too many would share a week, some are visited once more before they must, in a
week that has few, and keep that place. Coming early costs what is thrown away of the services' interval and the visit.
"""

from dataclasses import dataclass, replace

import numpy as np

from aquifer.core.arrays import BoolArray, FloatArray, IntArray

YEAR_WEEKS = 52
"""A safety service lasts twelve months: ``relief_valve`` and ``expansion_tank``."""
SOONEST_AGAIN_WEEKS = 13
"""A visit that only keeps a site's place comes no sooner after the one before. Assumption: a household that was seen
this quarter is not asked again."""
BAND = 1.05
"""How far a week may be over the mean at no cost. Assumption: an hour in twenty is moved by a week anyway."""
UNEVEN_HOURS = 1.2
"""What an hour over the band costs unless the company says otherwise: it is worked by borrowed people, or late.
Assumption."""


@dataclass(frozen=True)
class Level:
    """What next year wants, and how much of it may fall in one week."""

    load: FloatArray
    """Hours that each need asks of next year's week of the same number, 0 for what does not come every year, (n,)."""
    visit: FloatArray
    """The part of a visit's setting up that is each one's, (n,)."""
    room: FloatArray
    """Hours that next year's weeks take at no cost, (YEAR_WEEKS,)."""
    price: float = UNEVEN_HOURS
    """What an hour over it costs, hours."""

    def within(self, needs: IntArray, share: float) -> "Level":
        """That of some needs, with their share of the room."""
        return replace(
            self,
            load=self.load[needs],
            visit=self.visit[needs],
            room=self.room * share,
        )


def of(
    group: IntArray,
    hours: FloatArray,
    interval: FloatArray,
    yearly: BoolArray,
    people: IntArray,
    setup: FloatArray,
    crew_hours: FloatArray,
    price: float = UNEVEN_HOURS,
    asked: FloatArray | None = None,
) -> Level:
    """The level of a season.

    Parameters: group, hours, interval (years) and yearly of each need, (n,); people and setup (hours of a visit) of
    each group, (g,); crew_hours of each week, (w,); price of an hour over the room; asked, hours that next year's weeks
    have already, (YEAR_WEEKS,).
    Returns: a group's next yearly visit takes its setting up, its yearly services, and of each other service the share
    that falls in a year; weeks have room as the crew has hours in them, those after the season's end as on average.
    """
    groups = people.size
    count = np.bincount(group[yearly], minlength=groups)
    rest = np.bincount(group[~yearly], hours[~yearly] / interval[~yearly], minlength=groups)
    shared = (setup + rest) / np.maximum(count, 1)
    load = np.where(yearly, (hours + shared[group]) * people[group], 0.0)
    already = np.zeros(YEAR_WEEKS) if asked is None else asked
    room = np.maximum(BAND * (load.sum() + already.sum()) * _shares(crew_hours) - already, 0.0)
    return Level(load, visits(group, yearly, people, setup), room, price)


def visits(group: IntArray, yearly: BoolArray, people: IntArray, setup: FloatArray) -> FloatArray:
    """The part of a visit's setting up that is each yearly service's, hours, 0 for the others, (n,). Parameters: as of
    ``of``."""
    count = np.bincount(group[yearly], minlength=people.size)
    return np.asarray(np.where(yearly, (setup * people / np.maximum(count, 1))[group], 0.0))


def _shares(crew_hours: FloatArray) -> FloatArray:
    """Which share of a year's hours each of its weeks has, (YEAR_WEEKS,)."""
    year = np.full(YEAR_WEEKS, crew_hours.mean() if crew_hours.size else 0.0)
    known = min(crew_hours.size, YEAR_WEEKS)
    year[:known] = crew_hours[:known]
    return np.asarray(year / max(year.sum(), 1e-9))


def next_year(level: Level, last: IntArray) -> FloatArray:
    """Hours of each week of the year after, (YEAR_WEEKS,). Parameters: last, the week in which each need was served
    last, -1 where it was not, (n,)."""
    served = last >= 0
    return np.asarray(
        np.bincount(last[served] % YEAR_WEEKS, level.load[served], minlength=YEAR_WEEKS), dtype=np.float64
    )


def year_hours(group: IntArray, hours: FloatArray, interval: FloatArray, people: IntArray, setup: FloatArray) -> float:
    """Hours that a year asks for ever: every service once an interval, a visit whenever the shortest of a group's is
    over. Parameters: as of ``of``."""
    shortest = np.full(people.size, np.inf)
    np.minimum.at(shortest, group, interval)
    visits = float((setup * people / np.maximum(shortest, 1 / YEAR_WEEKS)).sum())
    return visits + float((hours * people[group] / interval).sum())


def uneven(level: Level, last: IntArray) -> float:
    """What a plan's unevenness costs, hours."""
    return over(level, next_year(level, last))


def over(level: Level, hours: FloatArray) -> float:
    """What weeks of so many hours are over their room costs, hours. Parameters: hours, (YEAR_WEEKS,)."""
    return level.price * float(np.maximum(hours - level.room, 0.0).sum())


def moved(level: Level, needs: IntArray, now: int, to: int) -> FloatArray:
    """By how much next year's weeks change where some needs are served in another week, (YEAR_WEEKS,)."""
    change = np.zeros(YEAR_WEEKS)
    load = float(level.load[needs].sum())
    change[now % YEAR_WEEKS] -= load
    change[to % YEAR_WEEKS] += load
    return change


def variation(hours: FloatArray) -> float:
    """The coefficient of variation of weekly hours, 0 of none."""
    if not hours.size:
        return 0.0
    return float(hours.std() / max(hours.mean(), 1e-9))


def without(count: int) -> Level:
    """That of a season whose next year does not matter. Parameters: count, of needs."""
    return Level(np.zeros(count), np.zeros(count), np.zeros(YEAR_WEEKS))

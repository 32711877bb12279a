"""Problems of planning to test with: small ones at random, and their parts."""

from dataclasses import replace

import numpy as np
from hypothesis import strategies as st

from aquifer.core.forecast import PROBABILITIES
from aquifer.core.planning import level, season
from aquifer.core.planning.rounds import Lunch, Problem, Shift, Stop, Window

LICENCES = ("gas", "electrical", "plumbing")


@st.composite
def days(draw: st.DrawFn, most: int = 9) -> Problem:
    """Rounds of up to two days for up to four people."""
    random = np.random.default_rng(draw(st.integers(0, 2**32 - 1)))
    people, count = draw(st.integers(1, 4)), draw(st.integers(0, most))
    points = random.uniform(0, 40, (count + 1, 2))
    travel = np.ceil(np.hypot(*(points[:, None] - points[None]).transpose(2, 0, 1))).astype(np.int64)
    shifts = tuple(
        Shift(
            0,
            0,
            450 + 1440 * (n % 2),
            900 + 1440 * (n % 2),
            frozenset(random.choice(LICENCES, 2)),
            int(random.integers(1, 3)),
            Lunch(690 + 1440 * (n % 2), 780 + 1440 * (n % 2), 40) if random.random() < 0.8 else None,
        )
        for n in range(people)
    )
    stops = []
    for n in range(count):
        early = int(random.integers(430, 850)) + 1440 * int(random.integers(0, 2))
        held = int(random.integers(0, people)) if random.random() < 0.3 else None
        stops.append(
            Stop(
                place=n + 1,
                minutes=int(random.integers(15, 130)),
                needs=frozenset(random.choice(LICENCES, 1)),
                people=2 if random.random() < 0.15 else 1,
                windows=(Window(early, early + int(random.integers(0, 200))),) if random.random() < 0.4 else (),
                shift=held,
                stays=held is not None and random.random() < 0.3,
            )
        )
    return Problem(shifts, tuple(stops), travel)


@st.composite
def seasons(draw: st.DrawFn, most_weeks: int = 8, levelled: bool = False) -> season.Problem:
    """A season of a few weeks, often with too few hours, with closed weeks, promises and caps. Parameters: levelled,
    whether what has a cap comes every year, and next year's weeks are to be level."""
    random = np.random.default_rng(draw(st.integers(0, 2**32 - 1)))
    groups, weeks, crew = draw(st.integers(1, 14)), draw(st.integers(2, most_weeks)), draw(st.integers(1, 3))
    return season_of(random, groups, weeks, crew, levelled=levelled)


def season_of(
    random: np.random.Generator, groups: int, weeks: int, crew: int, most_more: int = 9, levelled: bool = False
) -> season.Problem:
    """One season at random. Parameters: most_more, needs beside each site's first; levelled, as of ``seasons``."""
    sets = tuple(frozenset({one}) for one in LICENCES)
    able = tuple(frozenset(random.choice(LICENCES, 2)) for _ in range(crew))
    group = np.concatenate([np.arange(groups), random.integers(0, groups, int(random.integers(0, most_more + 1)))])
    n = group.size
    median = random.lognormal(-1.5, 1.0, n)
    quantiles = median[:, None] * np.array([0.2, 0.4, 0.7, 1.0, 1.4, 2.0, 3.0])
    needs = season.Needs(
        group=group,
        hours=random.choice([0.25, 0.5, 1.0], n),
        over=season.expected_over(quantiles, PROBABILITIES, random.uniform(0, 0.3, n), weeks),
        over_after=random.uniform(0, 0.2, n),
        over_year=random.uniform(0, 0.4, n),
        due=median * 0.8,
        interval=random.choice([1.0, 2.0], n),
        cap=np.where(random.random(n) < 0.5, random.integers(-2, weeks, n), 10**6),
        asked=np.where(random.random(n) < 0.3, random.integers(-2, weeks, n), 10**6),
        visit=np.zeros(n),
    )
    allowed = random.random((groups, weeks)) < 0.8
    promised = np.where(random.random(groups) < 0.1, random.integers(0, weeks, groups), -1)
    kept = promised >= 0
    allowed[kept, promised[kept]] = True
    rows = season.Groups(
        kind=random.integers(0, 3, groups),
        people=random.choice([1, 1, 1, 2], groups),
        setup=np.repeat(random.uniform(0.3, 0.9, groups)[:, None], weeks, axis=1),
        allowed=allowed,
        promised=promised,
    )
    # Of some safety services that were proven the next visit waits.
    visit = level.visits(group, needs.cap < 10**6, rows.people, rows.setup[:, 0])
    needs = replace(needs, visit=visit * (random.random(n) < 0.6))
    hours = random.uniform(0, 8, (crew, weeks))
    if not levelled:
        return season.Problem(needs, rows, season.Crew(sets, able, hours))
    yearly = needs.cap < 10**6
    needs = replace(needs, interval=np.where(yearly, 1.0, needs.interval))
    even = level.of(group, needs.hours, needs.interval, yearly, rows.people, rows.setup[:, 0], hours.sum(axis=0))
    return season.Problem(needs, rows, season.Crew(sets, able, hours), level=even)

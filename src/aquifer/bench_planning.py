"""Planning measured against its bound, against long searches, and against what an office does without it.

Needs no database: a season of simulated sites, a day of simulated visits. Run by ./bench --planning.
"""

import argparse
import resource
import time
from dataclasses import replace

import numpy as np

from aquifer.core import ahead
from aquifer.core.assembly import KnownHeaters, complete
from aquifer.core.fleet import (
    DescaleEvents,
    ExpansionTankEvents,
    Fleet,
    FlushEvents,
    LookEvents,
    RodEvents,
    ValveEvents,
)
from aquifer.core.forecast import PROBABILITIES, forecast
from aquifer.core.kinds import HeaterKind
from aquifer.core.planning import adjusting, level, partitioning, routing, season
from aquifer.core.planning.rounds import Lunch, Problem, Shift, Stop, Window, faults_of, held, move_costs, timed
from aquifer.core.water import WaterTest, profile

LICENCES = ("gas", "electrical", "plumbing")


def main() -> None:
    parser = argparse.ArgumentParser(prog="bench --planning")
    parser.add_argument("--planning", action="store_true", help=argparse.SUPPRESS)
    parser.add_argument("--heaters", type=int, default=10_000)
    parser.add_argument("--technicians", type=int, default=12)
    parser.add_argument("--weeks", type=int, default=52)
    parser.add_argument("--long", type=float, default=600, help="seconds of the search that the short one is held to")
    options = parser.parse_args()
    seasons(options.heaters, options.technicians, options.weeks)
    board()
    days(options.technicians, options.long)
    years()


YEARS, FUTURES = 5, 200


def years() -> None:
    """The years ahead: heater-years a second, against the arithmetic that they cannot do without, and over sizes."""
    every = []
    for heaters in (1000, 10_000):
        scene = simulated_scene(heaters)
        common = ahead.shared(FUTURES, 1)
        start = time.perf_counter()
        ahead.lived(scene, YEARS, common)
        took = time.perf_counter() - start
        every.append(took / heaters)
        drawn = heaters * FUTURES
        random = np.random.default_rng(1)
        start = time.perf_counter()
        for _ in range(2 * YEARS):
            np.exp(random.standard_normal(drawn)).sum()
        floor = time.perf_counter() - start
        say(
            f"years ahead, {heaters} heaters, {YEARS} years, {FUTURES} futures: {took:.1f} s on one core, "
            f"{took / floor:.1f} times a normal and an exponential for each heater, future and half-year"
        )
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    say(f"years ahead: a heater of 10,000 costs {every[1] / every[0]:.2f} times one of 1,000; peak {peak:.0f} MiB")


def simulated_scene(heaters: int, seed: int = 1) -> ahead.Scene:
    """Gas tanks, electric tanks and tankless heaters on three waters, nothing found of them yet."""
    random = np.random.default_rng(seed)
    kinds = [
        list(HeaterKind).index(kind)
        for kind in (HeaterKind.GAS_TANK, HeaterKind.ELECTRIC_TANK, HeaterKind.GAS_TANKLESS)
    ]
    waters = [profile(WaterTest(total_hardness_mg_l=hardness)) for hardness in (90, 220, 340)]
    known = KnownHeaters.blank(random.choice(kinds, heaters), random.uniform(1, 14, heaters))
    known = replace(known, water=random.integers(0, 3, heaters), litres_per_day=random.uniform(80, 350, heaters))
    none, floats, flags = np.zeros(0, dtype=np.int64), np.zeros(0), np.zeros(0, dtype=bool)
    fleet = Fleet(
        complete(known, waters),
        FlushEvents(none, floats, none, none, none, floats, floats, floats),
        DescaleEvents(none, floats, none, none, floats, floats),
        RodEvents(none, floats, none, none, floats, floats, floats, floats, floats, none),
        ValveEvents(none, floats, none, flags),
        ExpansionTankEvents(none, floats, none, floats, flags),
        LookEvents(none, floats, none, none, none),
    )
    found, site = forecast(fleet), np.arange(heaters) * 3 // 4
    worth = ahead.plain_worth(fleet, found, int(site.max()) + 1, 0.35)
    return ahead.Scene(fleet, found, site, worth, fleet, np.zeros(heaters, dtype=bool))


def say(text: str) -> None:
    print(text, flush=True)


def simulated_season(heaters: int, technicians: int, weeks: int, seed: int = 1) -> season.Problem:
    """Sites of one heater or more, a valve with a cap at each, hours a little short of what is wanted."""
    random = np.random.default_rng(seed)
    groups = int(0.75 * heaters)
    site = np.concatenate([np.arange(groups), random.integers(0, groups, heaters - groups)])
    median = np.stack(
        [random.lognormal(0.3, 0.7, heaters), np.full(heaters, 0.9), random.lognormal(1.0, 0.6, heaters)], axis=1
    ) - random.random((heaters, 3))
    wanted = np.stack([np.ones(heaters, bool), np.ones(heaters, bool), random.random(heaters) < 0.7], axis=1)
    row, part = np.nonzero(wanted)
    reach = np.maximum(median[row, part], 0.0)
    quantiles = reach[:, None] * np.array([0.3, 0.5, 0.75, 1.0, 1.3, 1.8, 2.6])
    cap = np.where(part == 1, random.integers(-4, weeks, row.size), season.NEVER)
    setup = np.full(groups, 0.65)
    visit = level.visits(site[row], part == 1, np.ones(groups, dtype=np.int64), setup)
    needs = season.Needs(
        group=site[row],
        hours=np.array([1.0, 0.25, 0.5])[part],
        over=season.expected_over(quantiles, PROBABILITIES, np.where(reach > 0, 0.02, 0.5), weeks),
        over_after=np.full(row.size, 0.05),
        over_year=np.full(row.size, 0.08),
        due=0.8 * reach,
        interval=np.array([2.0, 1.0, 3.0])[part],
        cap=cap,
        asked=np.full(row.size, season.NEVER),
        visit=np.where(cap >= 0, visit, 0.0),
    )
    allowed = np.ones((groups, weeks), dtype=bool)
    allowed[np.ix_(random.random(groups) < 0.1, np.arange(weeks // 3, weeks // 2))] = False
    promised = np.where(random.random(groups) < 0.02, random.integers(0, weeks // 3, groups), -1)
    rows = season.Groups(
        kind=random.choice(3, groups, p=[0.5, 0.35, 0.15]),
        people=np.where(random.random(groups) < 0.02, 2, 1),
        setup=np.broadcast_to(setup[:, None], (groups, weeks)),
        allowed=allowed,
        promised=promised,
    )
    able = tuple(frozenset(one for at, one in enumerate(LICENCES) if (n + at) % 3 != 2) for n in range(technicians))
    hours = np.full((technicians, weeks), 34.0 * heaters / 10_000 * 12 / technicians)
    hours[:, weeks // 2] *= 0.3
    return season.Problem(needs, rows, season.Crew(tuple(frozenset({one}) for one in LICENCES), able, hours))


def seasons(heaters: int, technicians: int, weeks: int) -> None:
    """A season within its bound, against the earliest due first."""
    problem = simulated_season(heaters, technicians, weeks)
    say(f"A season: {heaters} heaters at {problem.groups.kind.size} sites, {technicians} technicians, {weeks} weeks")
    start = time.perf_counter()
    plan = partitioning.solve(problem)
    seconds = time.perf_counter() - start
    assert not season.faults_of(problem, plan)
    say(f"  {seconds:.0f} s, within {100 * plan.gap:.1f} % of its bound, {int(plan.visits.sum())} visits")
    zone = np.arange(problem.groups.kind.size) % 40
    haul = np.full(40, 1.2)
    together = adjusting.gathered(problem, plan, zone, haul)
    say(f"  zones visited in a week: {zone_weeks(plan, zone)}, kept together {zone_weeks(together, zone)}")
    first = season.earliest_due_first(problem)
    ours, theirs = season.parts_of(problem, together), season.parts_of(problem, first)
    say("  against the earliest due first, on the same hours:")
    say(f"    weeks past a safety cap   {ours['past_cap'] / theirs['past_cap']:6.2f} of it")
    say(f"    heater-years over a limit {ours['over_limit'] / theirs['over_limit']:6.2f} of it")
    say(f"    hours of visits and ways  {ours['visits'] / theirs['visits']:6.2f} of it")
    say(f"    intervals thrown away     {wasted(problem, together) / wasted(problem, first):6.2f} of it, a service")
    level_year(problem, plan, seconds)


def level_year(problem: season.Problem, plan: season.Plan, seconds: float) -> None:
    """The same season with a level year after it, against the one that does not look ahead."""
    needs, groups = problem.needs, problem.groups
    even = level.of(
        needs.group, needs.hours, needs.interval, needs.cap < 10**6, groups.people, groups.setup[:, 0],
        problem.crew.hours.sum(axis=0),
    )  # fmt: skip
    levelled = replace(problem, level=even)
    start = time.perf_counter()
    spread = partitioning.solve(levelled)
    longer = (time.perf_counter() - start) / seconds
    assert not season.faults_of(levelled, spread)
    risk, before = (sum(one.parts[part] for part in ("over_limit", "past_cap")) for one in (spread, plan))
    say(f"  with a level year after it, in {longer:.1f} times as long, within {100 * spread.gap:.1f} % of its bound:")
    for name, one in (("as it falls", plan), ("level", spread)):
        hours = level.next_year(even, season.last_of(one))
        peak, variation = hours.max() / hours.mean(), level.variation(hours)
        say(f"    next year's weeks, {name:12} coefficient of variation {variation:.2f}, peak {peak:.2f} of the mean")
    say(f"    risk, hours               {risk / before:6.3f} of it")
    work, less = (season.hours_of(levelled, one).sum() for one in (spread, plan))
    say(f"    hours of the first year   {work / less:6.2f} of it")


def zone_weeks(plan: season.Plan, zone: np.ndarray) -> int:
    row, week = np.nonzero(plan.visits)
    return len(set(zip(zone[row].tolist(), week.tolist(), strict=True)))


def wasted(problem: season.Problem, plan: season.Plan) -> float:
    """The share of a service's interval that is thrown away by coming before it is due, on average."""
    served = plan.week >= 0
    at = (plan.week[served] + 0.5) / season.WEEKS_PER_YEAR
    needs = problem.needs
    return float(np.clip((needs.due[served] - at) / needs.interval[served], 0, 1).mean())


def simulated_day(technicians: int, visits: int, seed: int = 1) -> Problem:
    """A day's visits strewn over a district, a third of them promised for two hours, a pause for everybody."""
    random = np.random.default_rng(seed)
    points = np.vstack([[30.0, 30.0], random.uniform(0, 60, (visits, 2))])
    travel = np.ceil(0.55 * np.hypot(*np.moveaxis(points[:, None] - points[None], -1, 0))).astype(np.int64) + 2
    np.fill_diagonal(travel, 0)
    shifts = tuple(
        Shift(0, 0, 450, 990, frozenset(one for at, one in enumerate(LICENCES) if (n + at) % 3 != 2), 1 + (n % 6 == 0),
              Lunch(690, 780, 40))
        for n in range(technicians)
    )  # fmt: skip
    stops = tuple(
        Stop(
            n + 1,
            int(random.integers(20, 70)),
            frozenset({LICENCES[int(random.integers(3))]}),
            2 if random.random() < 0.04 else 1,
            _promise(random),
        )
        for n in range(visits)
    )
    return Problem(shifts, stops, travel)


def _promise(random: np.random.Generator) -> tuple[Window, ...]:
    at = int(random.choice([450, 540, 600, 780, 840]))
    return (Window(at, at + 120),) if random.random() < 0.33 else ()


def days(technicians: int, long: float) -> None:
    """A day's rounds: how near the short search comes to the long one, what a disturbance takes, and the baselines."""
    problem = simulated_day(technicians, round(7.5 * technicians))
    say(f"\nA day: {technicians} technicians, {len(problem.stops)} visits, a third of them promised")
    start = time.perf_counter()
    plan = routing.plan(problem, 8.0)
    seconds = time.perf_counter() - start
    assert not faults_of(problem, plan)
    near, due = routing.nearest_neighbour(problem), routing.earliest_promise_first(problem)
    say(f"  {seconds:.1f} s: {plan.driving} min driving, {len(plan.left_out)} left out")
    for name, other in (("the nearest first", near), ("the earliest promise first", due)):
        say(f"  {name}: {other.driving} min driving, {len(other.left_out)} left out")
    kept = held(problem, plan)
    late = Problem(
        tuple(_late(shift) if n == 0 else shift for n, shift in enumerate(kept.shifts)), kept.stops, kept.travel
    )
    start = time.perf_counter()
    new = routing.plan(late, 1.5, [[call.stop for call in one.calls] for one in plan.rounds])
    seconds = time.perf_counter() - start
    moved = sum(new.where().get(stop) != shift for stop, shift in plan.where().items())
    say(f"  one technician three hours late, planned anew: {seconds:.1f} s, {moved} visits given to others or left out")
    if long > 0:
        best = routing.plan(problem, long, [[call.stop for call in one.calls] for one in plan.rounds])
        ratio = routing.cost(problem, plan) / max(routing.cost(problem, best), 1)
        say(f"  the best found in {long:.0f} s: {best.driving} min driving; ours is {ratio:.3f} of its cost")


def board() -> None:
    """What a visit would cost at each place of a full board, as it is lifted there."""
    problem = simulated_day(8, 80)
    plan = routing.plan(problem, 3.0)
    start = time.perf_counter()
    for stop in range(80):
        for shift in range(8):
            move_costs(problem, plan, stop, shift)
    lifted = (time.perf_counter() - start) / 80
    start = time.perf_counter()
    for shift, one in enumerate(plan.rounds):
        timed(problem, shift, [call.stop for call in one.calls])
    say(
        f"\nA visit lifted on a board of 8 technicians and 80 visits: all its places in {1000 * lifted:.0f} ms, "
        f"{lifted / (time.perf_counter() - start):.1f} times as long as timing the eight rounds once"
    )


def _late(shift: Shift) -> Shift:
    return Shift(
        shift.start_place, shift.end_place, shift.begins + 180, shift.ends, shift.able, shift.people, shift.lunch
    )


if __name__ == "__main__":
    main()

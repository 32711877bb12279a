"""The life of a planning: asked for, worked on with progress, written all at once; the plan before stays until then."""

import datetime
from dataclasses import asdict

from django.db import DEFAULT_DB_ALIAS, IntegrityError, connections, transaction
from django.utils import timezone

from aquifer.accounts.models import User
from aquifer.company.clock import week_of
from aquifer.company.models import Company
from aquifer.core.planning import adjusting, level, partitioning, season
from aquifer.customers.models import Site
from aquifer.errors import Conflict, Invalid
from aquifer.heaters.models import Heater
from aquifer.rounds import board, booked, crew, planned_visits, rounds, work
from aquifer.rounds.models import CrewMember, Run, RunKind, RunState
from aquifer.rounds.schemas import FiguresOut, ForEverOut, LeftOutOut
from aquifer.transactions import passes

SHORTEST_WEEKS, LONGEST_WEEKS = 4, 78
LATEST_START = datetime.timedelta(weeks=78)
"""A plan begins within it: forecasts of later years say little of a week. Assumption."""
ROUNDS_WEEKS = 2
"""Weeks whose rounds are put in order with the season: further off, too much will change. Assumption."""
MOST_LEFT_OUT = 500
LEAST_TOLD = 0.25
"""Hours that a service without a week must be worth to be told of. Assumption."""
_OPEN = (RunState.WAITING, RunState.WORKING)


def ask(kind: RunKind, first: datetime.date, weeks: int, by: User, today: datetime.date) -> Run:
    """Queue a planning from the week of a day on. Raises: Invalid, Conflict while one of its kind is under way."""
    if not SHORTEST_WEEKS <= weeks <= LONGEST_WEEKS and kind is RunKind.SEASON:
        raise Invalid(
            f"A season has {SHORTEST_WEEKS} to {LONGEST_WEEKS} weeks, not {weeks}.", "run.weeks", {"weeks": "?"}
        )
    if week_of(first) < week_of(today):
        raise Invalid(f"{first} is past; a plan begins this week at the earliest.", "run.past", {"first": "past"})
    if week_of(first) > week_of(today) + LATEST_START:
        latest = week_of(today) + LATEST_START
        said = f"{latest:%d %B %Y} at the latest"
        raise Invalid(f"{first} is too far away; a plan begins {said}.", "run.too_late", {"first": said})
    if not CrewMember.objects.filter(active=True).exists():
        raise Invalid("There is nobody in the crew yet: say under Settings, Crew, who goes out.", "run.no_crew")
    try:
        with transaction.atomic():
            return Run.objects.create(kind=kind, first_week=week_of(first), weeks=weeks, asked_by=by)
    except IntegrityError:
        raise Conflict("It is being planned already; wait for it, or stop it.", "run.under_way") from None


def stop(run_id: int) -> Run:
    """Give it up; the plan before stays. Raises: Conflict once it is over."""
    waiting = Run.objects.filter(pk=run_id, state=RunState.WAITING)
    working = Run.objects.filter(pk=run_id, state=RunState.WORKING)
    if not waiting.update(state=RunState.STOPPED, finished_at=timezone.now()) and not working.update(stop_asked=True):
        raise Conflict("It is over already.", "run.over")
    return Run.objects.get(pk=run_id)


def work_on(run_id: int) -> None:
    """Plan, and write the plan if it was not stopped meanwhile."""
    # A run that a dead worker left at work begins anew, since nothing of it was written.
    if not Run.objects.filter(pk=run_id, state__in=_OPEN).update(state=RunState.WORKING):
        return
    run = Run.objects.get(pk=run_id)
    try:
        if run.kind == RunKind.SEASON:
            _season(run)
        else:
            _rounds(run, run.first_week, run.weeks)
        _end(run, RunState.READY)
    except season.Stopped:
        _end(run, RunState.STOPPED)
    except Exception as error:
        if passes(error):
            # The job is tried again, and the run with it.
            raise
        run.message = f"{type(error).__name__}: {error}"[:400]
        _end(run, RunState.FAILED)
        if not isinstance(error, ArithmeticError):
            raise


def give_up(run_id: int, why: str) -> None:
    """The workers that were at it died: say so, and let the next one begin."""
    for run in Run.objects.filter(pk=run_id, state__in=_OPEN):
        run.message = why
        _end(run, RunState.FAILED)


def _end(run: Run, state: RunState) -> None:
    run.state, run.finished_at, run.share = state, timezone.now(), 1.0 if state is RunState.READY else run.share
    run.save()


def _season(run: Run) -> None:
    today, progress = timezone.localdate(), ProgressReporter(run)
    progress("reading the forecasts", 0.0)
    company = Company.current()
    season = work.read(run.first_week, run.weeks, today, company.worth_hours, company.level_hours)
    plan = partitioning.solve(season.problem, lambda stage, share: progress(stage, 0.05 + 0.45 * share))
    if (again := work.repeated(season, plan, run.first_week)) is not None:
        season = again
        plan = partitioning.solve(season.problem, lambda stage, share: progress(stage, 0.5 + 0.2 * share))
    season, plan = work.spelled_out(season, plan, run.first_week)
    plan = adjusting.gathered(season.problem, plan, season.zone, season.haul, other=work.other_times(season.wanted))
    progress("one technician more or fewer", 0.72)
    run.figures = _figures(season, plan)
    run.left_out = _left_out(season, plan)
    progress("writing", 0.78)
    with transaction.atomic():
        board.one_at_a_time()
        run.figures["appointments"] = planned_visits.store(season, plan, run, run.first_week)
    run.message = _clashes(run.first_week, run.weeks, today)
    _rounds(run, run.first_week, ROUNDS_WEEKS, 0.8)


def _clashes(first_week: datetime.date, weeks: int, today: datetime.date) -> str:
    """Weeks in which more was promised or kept than the crew works, in words; empty where there are none. The season is
    planned around them: one visit that cannot be done is no reason to plan none."""
    who = crew.members()
    held = [crew.usually_able(member, max(first_week, today)) for member in who]
    found = booked.clashes(who, held, booked.staying(first_week, weeks), first_week, weeks, today)
    names = dict(Site.objects.filter(pk__in={site for _, sites in found for site in sites}).values_list("pk", "name"))
    said = [
        f"in the week of {week.day} {week:%B} there are not the hours for "
        + " and ".join(names[site] for site in sites)
        for week, sites in found
    ]
    if not said:
        return ""
    return f"More was promised or kept than can be done: {'; '.join(said)}. Move one of them, or add hours."


def _rounds(run: Run, first_week: datetime.date, weeks: int, done: float = 0.0) -> None:
    progress = ProgressReporter(run)
    planned_weeks: list[rounds.PlannedWeek] = []
    for number in range(weeks):
        progress("putting rounds in order", done + (1 - done) * number / weeks)
        planned_weeks.append(rounds.plan_week(first_week + datetime.timedelta(days=7 * number), timezone.localdate()))
    run.figures = {
        **run.figures,
        "rounds": [asdict(planned_week) | {"week": planned_week.week.isoformat()} for planned_week in planned_weeks],
    }
    clashes = [
        f"in the week of {planned_week.week.day} {planned_week.week:%B} {' and '.join(planned_week.conflict)}"
        for planned_week in planned_weeks
        if planned_week.conflict
    ]
    if clashes:
        said = f"Promises that cannot all be kept: {'; '.join(clashes)}."
        run.message = " ".join(filter(None, (said, run.message)))
    run.message = run.message[:400]


def _figures(found: work.Season, plan: season.Plan) -> FiguresOut:
    """What the screen says of a season."""
    problem = found.problem
    parts = season.parts_of(problem, plan)
    cost = sum(parts.values())
    more, fewer = (adjusting.with_crew(problem, plan, step) for step in (1, -1))
    wanted, limits = season.hours_of(problem, plan).sum(axis=0) + found.hours.booked, found.hours.whole.sum(axis=0)
    return {
        "cost": round(cost, 1),
        "bound": round(plan.bound, 1),
        "gap": round((cost - plan.bound) / max(plan.bound, 1e-9), 4),
        "parts": {name: round(value, 1) for name, value in parts.items()},
        "services": int((plan.week >= 0).sum()),
        "visits": int(plan.visits.sum()),
        "left_out": int(sum(why != season.Why.NOT_WORTH and bool(why) for why in season.reasons(problem, plan))),
        "hours": [round(float(h), 1) for h in wanted],
        "capacity": [round(float(h), 1) for h in limits],
        "one_more": None if more is None else round(more, 1),
        "one_fewer": None if fewer is None else round(fewer, 1),
        **_for_ever(found, plan),
    }


def _for_ever(found: work.Season, plan: season.Plan) -> ForEverOut:
    """What the year after asks, week by week, and every year."""
    problem = found.problem
    if problem.level is None:
        return {}
    hours = level.next_year(problem.level, plan.week) + found.next_year
    open_weeks = hours[problem.level.room + found.next_year > 0]
    whole = found.hours.whole
    return {
        "next_year": [round(float(h), 1) for h in hours],
        "variation": round(level.variation(open_weeks), 2),
        "steady_hours": round(found.year_hours / level.YEAR_WEEKS, 1),
        "crew_hours": round(float(whole.sum()) / max(problem.weeks, 1), 1),
        "technician_hours": round(float(whole.mean()), 1) if whole.size else 0.0,
    }


def _left_out(found: work.Season, plan: season.Plan) -> list[LeftOutOut]:
    """Services that would be worth a visit and got none, the most costly first."""
    costs = season.costs_of(found.problem)
    reasons = season.reasons(found.problem, plan)
    rows = [n for n, why in enumerate(reasons) if why and why != season.Why.NOT_WORTH]
    rows.sort(key=lambda n: -float(costs.skip[n] - costs.do[n].min()))
    rows = [n for n in rows if costs.skip[n] - costs.do[n].min() >= LEAST_TOLD][:MOST_LEFT_OUT]
    heaters = Heater.objects.select_related("site").in_bulk([found.wanted[n].heater_id for n in rows])
    left_out: list[LeftOutOut] = []
    for n in rows:
        one = found.wanted[n]
        heater, group = heaters[one.heater_id], int(found.problem.needs.group[n])
        why = reasons[n]
        if why == season.Why.CLOSED and found.closed[group]:
            why = f"closed: {found.closed[group]}"
        elif why in (season.Why.NO_HOURS, season.Why.NOBODY):
            why = f"{why} ({', '.join(sorted(found.needs[group]))})"
        left_out.append(
            {
                "heater_id": heater.pk,
                "tag": heater.tag,
                "site": heater.site.name,
                "component": one.component,
                "latest_on": one.latest_on.isoformat() if one.latest_on else None,
                "why": why,
                "worth": round(float(costs.skip[n] - costs.do[n].min()), 1),
            }
        )
    return left_out


class ProgressReporter:
    """Tells how far a run is, outside any transaction, and hears when it is to stop."""

    def __init__(self, run: Run) -> None:
        self._run = run

    def __call__(self, stage: str, share: float) -> None:
        self._run.stage, self._run.share = stage, share
        beside = connections.create_connection(DEFAULT_DB_ALIAS)
        try:
            with beside.cursor() as cursor:
                cursor.execute(
                    "UPDATE rounds_run SET stage = %s, share = %s WHERE id = %s RETURNING stop_asked",
                    [stage, share, self._run.pk],
                )
                row = cursor.fetchone()
        finally:
            beside.close()
        if row and row[0]:
            raise season.Stopped

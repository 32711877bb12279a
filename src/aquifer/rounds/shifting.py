"""Many visits pulled forward or pushed back to another week at once, with what that would cost told first."""

import datetime
from collections import defaultdict
from dataclasses import dataclass

import numpy as np
from django.db import transaction

from aquifer.company.clock import week_of
from aquifer.core.forecast import PROBABILITIES
from aquifer.core.parameters import DAYS_PER_YEAR
from aquifer.core.planning import season
from aquifer.errors import Conflict, Invalid
from aquifer.forecasts.models import Forecast
from aquifer.rounds import board, crew, planned_visits, ways
from aquifer.rounds.models import Appointment, AppointmentStatus, Service
from aquifer.transactions import retried
from aquifer.visits.hours import in_force

MOST = 300


@dataclass(frozen=True)
class Shifted:
    """What a shift does."""

    moved: int
    stay: list[str]
    """Sites that were promised or offered their day: they are asked first."""
    past_latest: list[str]
    """Sites whose latest day it passes that was kept before."""
    closed: list[str]
    """Sites that are closed all that week."""
    over_days: int
    """Days over a limit to be expected more, all together; negative is fewer."""
    hours: float
    """Planned in the week that takes them, with them and with the ways."""
    capacity: float


@retried
def shift(versions: dict[int, int], week: datetime.date, today: datetime.date, dry: bool) -> Shifted:
    """Put visits into another week and keep them there, without a day yet; if ``dry``, only tell.

    Raises: Invalid for a week that is past or too many visits, Conflict if one of them was moved since.
    """
    target = week_of(week)
    if target < week_of(today):
        raise Invalid(f"The week of {target} is past.", "rounds.past", {"week": "past"})
    if not 0 < len(versions) <= MOST:
        raise Invalid(f"Choose 1 to {MOST} visits, not {len(versions)}.", fields={"visits": f"1 to {MOST}"})
    with transaction.atomic():
        board.one_at_a_time()
        appointments = list(
            Appointment.objects.select_for_update(of=("self",))
            .select_related("site")
            .filter(pk__in=versions, standing__in=board.OPEN)
            .order_by("pk")
        )
        if len(appointments) < len(versions) or any(
            versions[appointment.pk] != appointment.version for appointment in appointments
        ):
            raise Conflict("Somebody moved one of these meanwhile: look again.", "rounds.moved_meanwhile")
        bound = [
            appointment
            for appointment in appointments
            if appointment.standing in (AppointmentStatus.OFFERED, AppointmentStatus.PROMISED)
        ]
        free = [appointment for appointment in appointments if appointment not in bound and appointment.week != target]
        shifted = _told(free, bound, target, today)
        if not dry:
            gone_by = [appointment for appointment in free if board.went_by(appointment, today)]
            for appointment in free:
                appointment.week, appointment.on, appointment.member, appointment.begins = target, None, None, None
                appointment.standing, appointment.version = AppointmentStatus.KEPT, appointment.version + 1
                appointment.save()
            # What went by undone may have been planned anew since.
            planned_visits.leave_out_what_is_kept(gone_by, in_force())
    return shifted


def _told(free: list[Appointment], bound: list[Appointment], target: datetime.date, today: datetime.date) -> Shifted:
    there = Appointment.objects.filter(week=target, standing__in=board.OPEN).select_related("site")
    who = crew.members()
    takes = ways.hours([*there.exclude(pk__in=[appointment.pk for appointment in free]), *free], who)
    days = crew.working(who, max(target, today), target + datetime.timedelta(days=6))
    passed = [
        appointment.site.name
        for appointment in free
        if appointment.latest_on is not None and target > appointment.latest_on >= (appointment.on or appointment.week)
    ]
    shut = board.shut_all_week([appointment.site_id for appointment in free], target, today)
    return Shifted(
        moved=len(free),
        stay=[appointment.site.name for appointment in bound],
        past_latest=passed,
        closed=sorted({appointment.site.name for appointment in free if appointment.site_id in shut}),
        over_days=round(_over_days(free, target)),
        hours=round(sum(takes.values()), 1),
        capacity=round(sum(working_day.hours for working_day in days), 1),
    )


def _over_days(free: list[Appointment], target: datetime.date) -> float:
    """Days over a limit to be expected more; two queries however many visits."""
    wanted: dict[tuple[int, str], Appointment] = {}
    by_pk = {appointment.pk: appointment for appointment in free}
    for pk, heater, component in Service.objects.filter(appointment__in=by_pk).values_list(
        "appointment_id", "heater_id", "component"
    ):
        wanted[heater, component] = by_pk[pk]
    rows = [
        row
        for row in Forecast.objects.current()
        .filter(heater__in={heater for heater, _ in wanted})
        .values("heater_id", "component", "as_of", "reached_days", "probability_today")
        if (row["heater_id"], row["component"]) in wanted
    ]
    if not rows:
        return 0.0
    reached = np.array([[np.inf if d is None else d for d in row["reached_days"]] for row in rows]) / DAYS_PER_YEAR
    moves: dict[str, list[int]] = defaultdict(list)
    for row in rows:
        appointment = wanted[row["heater_id"], row["component"]]
        moves["before"].append(max(((appointment.on or appointment.week) - row["as_of"]).days // 7, 0))
        moves["after"].append(max((target - row["as_of"]).days // 7, 0))
    weeks = max(*moves["before"], *moves["after"]) + 1
    now = np.array([row["probability_today"] for row in rows])
    over = season.expected_over(reached, PROBABILITIES, now, weeks)
    at = np.arange(len(rows))
    return float(DAYS_PER_YEAR * (over[at, moves["after"]] - over[at, moves["before"]]).sum())

"""A season's plan as visits: put in the place of the one before, around what stays."""

import datetime
from collections import defaultdict
from collections.abc import Mapping, Sequence
from itertools import islice

import numpy as np
from django.db.models import Q, QuerySet, Sum
from django.utils import timezone
from simple_history.utils import bulk_update_with_history

from aquifer.company.clock import week_of
from aquifer.core.arrays import FloatArray
from aquifer.core.first_round import SAFETY
from aquifer.core.planning import repeating, season
from aquifer.core.planning.hours import Hours
from aquifer.core.planning.work import TWO_PEOPLE
from aquifer.core.vocabulary import Component
from aquifer.rounds import board, booked
from aquifer.rounds.models import Appointment, AppointmentStatus, Run, Service
from aquifer.rounds.work import PIECE, Season, Wanted
from aquifer.visits.hours import in_force

EARLY = "comes early, so that next year's weeks are level"
EARLY_FROM = datetime.timedelta(weeks=8)
"""A second visit so long before it must be is said to be early. Assumption."""


def store(found: Season, plan: season.Plan, run: Run, first_week: datetime.date) -> int:
    """Put a season's plan in the place of the one before: what stays takes up what the plan gives it, the rest is made
    anew. What a person did while it was planned holds: what they booked is not planned besides, and what they moved
    takes up nothing.

    To be called inside a transaction. Returns how many visits the plan has.
    """
    today = timezone.localdate()
    last = first_week + datetime.timedelta(days=7 * found.problem.weeks)
    _clear(first_week, last, today)
    meanwhile = booked.seen_to(first_week, today).keys() - found.seen_to
    services: dict[tuple[int, int], list[int]] = defaultdict(list)
    for need in np.flatnonzero(plan.week >= 0).tolist():
        one = found.wanted[need]
        if (one.heater_id, one.component.value) not in meanwhile:
            services[int(found.problem.needs.group[need]), int(plan.week[need])].append(need)
    worth = season.worth_now(found.problem, plan)
    promised = found.problem.groups.promised
    still = {one.pk for one in booked.staying(first_week, found.problem.weeks)}
    kept = {at: needs for at, needs in services.items() if promised[at[0]] == at[1] and found.firm[at[0]] in still}
    new = iter([(at, needs) for at, needs in services.items() if at not in kept])
    hours = in_force()
    # In pieces: a large base's records take more room than the plan.
    while piece := list(islice(new, PIECE)):
        made = [
            _appointment(found, group, first_week + datetime.timedelta(days=7 * week), needs, worth, run, hours)
            for (group, week), needs in piece
        ]
        Appointment.objects.bulk_create(made, batch_size=1000)
        _write_services(found, [(appointment.pk, needs) for appointment, (_, needs) in zip(made, piece, strict=True)])
    _take_up(found, {found.firm[group]: needs for (group, _), needs in kept.items()}, hours)
    # A longer plan left visits after this one's end.
    leave_out(Appointment.objects.filter(week__gte=last), booked.seen_to(last, today), hours)
    return len(services)


def _clear(first_week: datetime.date, last: datetime.date, today: datetime.date) -> None:
    """Drop what only the plan before wanted, also what of it was not done on days that are past; what somebody asked
    for then waits in this week."""
    planned, passed = Appointment.objects.filter(standing=AppointmentStatus.PLANNED), board.left_over(today)
    planned.filter(Q(week__gte=first_week, week__lt=last) | passed, asked_minutes=0).delete()
    for one in planned.filter(passed):
        one.week, one.version = week_of(today), one.version + 1
        one.on = one.member = one.begins = None
        one.save()


def leave_out(visits: QuerySet[Appointment], seen_to: Mapping[booked.Key, datetime.date], hours: Hours) -> None:
    """Take out of visits that are only planned what is done without them; one for nothing is dropped.

    Parameters: seen_to, when each service is done last.
    """
    planned = visits.filter(standing=AppointmentStatus.PLANNED, asked_minutes=0)
    left: dict[int, float] = defaultdict(float)
    dropped: list[int] = []
    changed: set[int] = set()
    for service in Service.objects.filter(appointment__in=planned).select_related("appointment"):
        done_on = seen_to.get((service.heater_id, service.component))
        again = datetime.timedelta(weeks=repeating.SOONEST_WEEKS)
        is_yearly = Component(service.component) in SAFETY
        if done_on is not None and not (is_yearly and service.appointment.week >= done_on + again):
            dropped.append(service.pk)
            changed.add(service.appointment_id)
        else:
            left[service.appointment_id] += service.hours
    Service.objects.filter(pk__in=dropped).delete()
    planned.filter(pk__in=changed - left.keys()).delete()
    for visit in planned.filter(pk__in=changed):
        visit.minutes, visit.version = longer(0, left[visit.pk], hours), visit.version + 1
        visit.save()


def leave_out_what_is_kept(visits: Sequence[Appointment], hours: Hours) -> None:
    """Take what these visits are for out of what is planned at their sites besides."""
    rows = Service.objects.filter(appointment__in=visits).values_list("appointment_id", "heater_id", "component")
    when = {one.pk: one.on or one.week for one in visits}
    others = Appointment.objects.filter(site__in=[one.site_id for one in visits]).exclude(pk__in=when)
    leave_out(others, {(heater_id, component): when[pk] for pk, heater_id, component in rows}, hours)


def _take_up(found: Season, needs_of: dict[int, list[int]], hours: Hours) -> None:
    """Give visits that stay what they are for besides, by their numbers; they last as much longer."""
    visits = Appointment.objects.in_bulk(needs_of)
    already: list[int] = []
    held = defaultdict(list)
    for service in Service.objects.filter(appointment__in=needs_of):
        held[service.appointment_id].append(service)
    for pk, needs in needs_of.items():
        own = [found.wanted[need] for need in needs]
        keys = {(one.heater_id, one.component.value) for one in own}
        already += [service.pk for service in held[pk] if (service.heater_id, service.component) in keys]
        visits[pk].latest_on = min(filter(None, (visits[pk].latest_on, *(one.latest_on for one in own))), default=None)
    Service.objects.filter(pk__in=already).delete()
    _write_services(found, list(needs_of.items()))
    lasts = dict(
        Service.objects.filter(appointment__in=needs_of).order_by().values_list("appointment").annotate(Sum("hours"))
    )
    for pk, visit in visits.items():
        visit.minutes = longer(visit.asked_minutes, lasts[pk], hours)
        visit.version += 1
    changed = ["minutes", "latest_on", "version"]
    bulk_update_with_history(list(visits.values()), Appointment, changed, batch_size=1000)
    # Who comes after them on their day comes later.
    for on in sorted({visit.on for visit in visits.values() if visit.on and visit.begins is not None}):
        board.time_anew(on)


def longer(asked_minutes: int, service_hours: float, hours: Hours) -> int:
    """How long a visit lasts that was asked for and has services besides: what was asked for by hand keeps its time,
    and settles in but once."""
    return max(asked_minutes - round(60 * hours.arriving), 0) + round(60 * (hours.arriving + service_hours))


def _appointment(
    season: Season, group: int, week: datetime.date, needs: list[int], worth: FloatArray, run: Run, hours: Hours
) -> Appointment:
    own = [season.wanted[need] for need in needs]
    return Appointment(
        site_id=season.sites[group],
        week=week,
        minutes=minutes_of(own, hours),
        needs=sorted(season.needs[group] - {TWO_PEOPLE}),
        people=2 if TWO_PEOPLE in season.needs[group] else 1,
        worth=round(float(worth[needs].sum()), 2),
        latest_on=None if first_cap(own) == datetime.date.max else first_cap(own),
        run=run,
        note=EARLY if season.again[needs].all() and week < first_cap(own) - EARLY_FROM else "",
    )


def first_cap(own: list[Wanted]) -> datetime.date:
    """The first latest day of some services; far away where none has one."""
    return min((one.latest_on for one in own if one.latest_on), default=datetime.date.max)


def _write_services(season: Season, needs_of: list[tuple[int, list[int]]]) -> None:
    Service.objects.bulk_create(
        (
            Service(
                appointment_id=pk,
                heater_id=season.wanted[need].heater_id,
                component=season.wanted[need].component,
                method=season.wanted[need].method,
                hours=season.wanted[need].hours,
            )
            for pk, needs in needs_of
            for need in needs
        ),
        batch_size=2000,
    )


def minutes_of(own: list[Wanted], hours: Hours) -> int:
    """How long a visit for these services takes."""
    return round(60 * (hours.arriving + sum(one.hours for one in own)))

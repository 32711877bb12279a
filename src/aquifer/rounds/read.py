"""What the rounds page shows: basins of days and weeks, a day's rounds, what is still to place."""

import datetime
from collections import defaultdict

from django.db.models import Case, F, When

from aquifer.company.clock import week_of
from aquifer.core.kinds import HeaterKind
from aquifer.core.planning.rounds import DAY, timed
from aquifer.core.vocabulary import Component, Method
from aquifer.places.hazards import of_sites
from aquifer.rounds import board, crew, ways
from aquifer.rounds.models import FIRM, Absence, Appointment, AppointmentStatus, Reason, Run, RunKind, RunState, Service
from aquifer.rounds.rounds import fault_words
from aquifer.rounds.schemas import (
    AppointmentOut,
    DayOut,
    DoneOut,
    LoadDayOut,
    LoadWeekOut,
    PlannedSeasonOut,
    RoundOut,
    RunOut,
    UnplacedOut,
)
from aquifer.rounds.shifting import MOST
from aquifer.travel.service import times

MOST_UNPLACED = 60


def season() -> PlannedSeasonOut:
    """The season's plan in force and the one being made."""
    runs = Run.objects.filter(kind=RunKind.SEASON).select_related("asked_by")
    ready = runs.filter(state=RunState.READY).first()
    busy = Run.objects.filter(state__in=[RunState.WAITING, RunState.WORKING]).select_related("asked_by").first()
    last = Run.objects.select_related("asked_by").first()
    return {
        "run": run(ready) if ready else None,
        "figures": ready.figures if ready else None,
        "left_out": ready.left_out if ready else [],
        "under_way": run(busy) if busy else None,
        "last": run(last) if last else None,
    }


def run(run: Run) -> RunOut:
    """A planning as the screen follows it."""
    return {
        "id": run.pk,
        "kind": RunKind(run.kind),
        "state": RunState(run.state),
        "stage": run.stage,
        "share": run.share,
        "message": run.message,
        "first_week": run.first_week,
        "weeks": run.weeks,
        "asked_at": run.asked_at,
        "finished_at": run.finished_at,
        "asked_by": run.asked_by.name if run.asked_by else "",
    }


def weeks(first: datetime.date, count: int, today: datetime.date) -> list[LoadWeekOut]:
    """Load, the ways with it, against what the crew can, by week and day: a fixed number of queries. Of the week that
    has begun what is still to do is told, and the days that are left. A day is told with all its hours: unlike a
    week's they are planned to the minute, with nothing left free for what nobody foresees."""
    start = week_of(first)
    last = start + datetime.timedelta(days=7 * count - 1)
    this_week = week_of(today)
    who = crew.members()
    whole: dict[datetime.date, float] = defaultdict(float)
    plannable: dict[datetime.date, float] = defaultdict(float)
    for working_day in crew.working(who, start, last):
        whole[working_day.on] += crew.whole_hours(working_day.member)
        plannable[working_day.on] += working_day.hours
    shut = list(Absence.objects.filter(member=None, first_on__lte=last, last_on__gte=start))
    appointments = Appointment.objects.filter(
        week__gte=start, week__lte=last, standing__in=[*board.OPEN, AppointmentStatus.DONE]
    )
    shown = ("week", "on", "minutes", "standing", "latest_on", "site__zone_id")
    rows = list(appointments.select_related("site").only(*shown))
    takes = ways.hours(rows, who)
    load_weeks: list[LoadWeekOut] = []
    for number in range(count):
        week = start + datetime.timedelta(days=7 * number)
        all_of_it = [appointment for appointment in rows if appointment.week == week]
        days = [week + datetime.timedelta(days=n) for n in range(7)]
        has_begun = week == this_week
        own = [one for one in all_of_it if not (has_begun and one.standing == AppointmentStatus.DONE)]
        load_weeks.append(
            {
                "week": week,
                "hours": round(sum(takes[appointment.pk] for appointment in own), 1),
                "capacity": round(sum(plannable[day] for day in days if not has_begun or day >= today), 1),
                "visits": len(own),
                "firm": sum(appointment.standing in FIRM for appointment in own),
                "past_cap": sum(
                    appointment.latest_on is not None and (appointment.on or week) > appointment.latest_on
                    for appointment in own
                ),
                "days": [_basin(day, all_of_it, takes, whole[day], shut) for day in days],
            }
        )
    return load_weeks


def _basin(
    day: datetime.date, own: list[Appointment], takes: dict[int, float], capacity: float, shut: list[Absence]
) -> LoadDayOut:
    here = [appointment for appointment in own if appointment.on == day]
    return {
        "on": day,
        "hours": round(sum(takes[appointment.pk] for appointment in here), 1),
        "capacity": round(capacity, 1),
        "visits": len(here),
        "promised": sum(appointment.standing == AppointmentStatus.PROMISED for appointment in here),
        "why_closed": next((absence.why for absence in shut if absence.first_on <= day <= absence.last_on), ""),
    }


def day(on: datetime.date) -> DayOut:
    """A day's rounds, timed, with the way that is driven."""
    found = board.read(on, on)
    told = appointments(found.appointments)
    sequences = found.sequences()
    placed = {number for sequence in sequences for number in sequence}
    done: dict[int | None, list[DoneOut]] = defaultdict(list)
    over = Appointment.objects.filter(on=on, standing=AppointmentStatus.DONE, member__isnull=False).select_related(
        "site"
    )
    for visit in over.order_by("begins", "pk"):
        about: DoneOut = {"id": visit.pk, "site_id": visit.site_id, "site": visit.site.name, "begins": visit.begins}
        done[visit.member_id].append(about)
    rounds: list[RoundOut] = []
    for shift, working in enumerate(found.days):
        member, of = working.member, timed(found.problem, shift, sequences[shift])
        stops = [found.points[found.problem.stops[call.stop].place] for call in of.round.calls]
        yard = crew.start(member)
        rounds.append(
            {
                "member_id": member.pk,
                "user_id": member.user_id,
                "name": member.user.name,
                "helper": member.helper,
                "able": sorted(working.able),
                "place": member.place,
                "begins": member.begins,
                "ends": member.ends,
                "back": of.round.ends % DAY if of.round.calls else member.begins,
                "driving": of.round.driving if of.round.calls else 0,
                "lunch": of.round.lunch if of.round.calls else None,
                "lunch_minutes": member.lunch_minutes,
                "calls": [
                    {
                        "appointment": told[found.appointments[call.stop].pk],
                        "arrives": call.arrives,
                        "begins": call.begins,
                        "ends": call.ends,
                    }
                    for call in of.round.calls
                ],
                "done": done.get(member.pk, []),
                "way": [{"longitude": p.longitude, "latitude": p.latitude} for p in times().way([yard, *stops, yard])]
                if stops
                else [],
                "faults": [fault_words(found, fault) for fault in of.faults],
            }
        )
    without = [told[appointment.pk] for number, appointment in enumerate(found.appointments) if number not in placed]
    return {"on": on, "rounds": rounds, "without_time": without}


def unplaced(week: datetime.date, today: datetime.date) -> UnplacedOut:
    """Visits of a week and before that have no day yet, what somebody asked for first and the rest by what it is worth;
    before them those whose day or week went by without them, after them those of the weeks after."""
    open_ones = Appointment.objects.filter(standing__in=board.OPEN).select_related("site__zone", "site__customer")
    without_day, first = open_ones.filter(on__isnull=True, week__gte=week_of(today)), week_of(week)
    by = (Case(When(asked_minutes__gt=0, then=0), default=1), "-worth", "pk")
    passed = open_ones.filter(board.left_over(today)).order_by(*by)
    found = without_day.filter(week__lte=first).order_by(*by)
    total = passed.count() + found.count()
    rows: list[Appointment] = []
    for some in (passed, found, without_day.filter(week__gt=first).order_by("week", *by)):
        rows += some[: MOST_UNPLACED - len(rows)]
    told = appointments(rows)
    return {"total": total, "rows": [told[appointment.pk] for appointment in rows]}


def of_weeks(first: datetime.date, last: datetime.date) -> list[AppointmentOut]:
    """Open visits from a week to another, in each those without a day last; as many as are put elsewhere at once."""
    found = Appointment.objects.filter(week__gte=week_of(first), week__lte=week_of(last), standing__in=board.OPEN)
    by = ("week", F("on").asc(nulls_last=True), "begins", "pk")
    rows = list(found.select_related("site__zone", "site__customer").order_by(*by)[:MOST])
    told = appointments(rows)
    return [told[appointment.pk] for appointment in rows]


def appointments(appointments: list[Appointment]) -> dict[int, AppointmentOut]:
    """Appointments as they are shown, by id; a fixed number of queries."""
    services: dict[int, list[Service]] = defaultdict(list)
    for service in (
        Service.objects.filter(appointment__in=[a.pk for a in appointments]).select_related("heater").order_by("pk")
    ):
        services[service.appointment_id].append(service)
    heaters = {s.heater_id for own in services.values() for s in own}
    dangers = of_sites({appointment.site for appointment in appointments}, heaters) if appointments else {}
    who = crew.members()
    where = ways.places([appointment.site for appointment in appointments], crew.yards(who))
    names_of = {member.pk: member.user.name for member in who}
    return {
        appointment.pk: {
            "id": appointment.pk,
            "site_id": appointment.site_id,
            "week": appointment.week,
            "on": appointment.on,
            "member_id": appointment.member_id,
            "begins": appointment.begins,
            "minutes": appointment.minutes,
            "standing": AppointmentStatus(appointment.standing),
            "earliest": appointment.earliest,
            "latest": appointment.latest,
            "needs": appointment.needs,
            "people": appointment.people,
            "worth": appointment.worth,
            "latest_on": appointment.latest_on,
            "version": appointment.version,
            "note": appointment.note,
            "reason": Reason(appointment.reason),
            "said": appointment.said,
            "decides": appointment.decides,
            "photos": appointment.photos,
            "site": appointment.site.name,
            "street": appointment.site.street,
            "town": " ".join(filter(None, (appointment.site.town, appointment.site.postcode))),
            "access": appointment.site.access,
            "located": appointment.site.longitude is not None,
            "customer": appointment.site.customer.name,
            "phone": appointment.site.customer.phone,
            "zone": appointment.site.zone.name,
            "technician": names_of.get(appointment.member_id or 0, ""),
            "hazard": " ".join(dangers.get(appointment.site_id, [])),
            "longitude": where[appointment.site_id].longitude,
            "latitude": where[appointment.site_id].latitude,
            "services": [
                {
                    "heater_id": s.heater_id,
                    "tag": s.heater.tag,
                    "kind": HeaterKind(s.heater.kind),
                    "component": Component(s.component),
                    "method": Method(s.method),
                    "hours": s.hours,
                }
                for s in services[appointment.pk]
            ],
        }
        for appointment in appointments
    }

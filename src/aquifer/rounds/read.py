"""What the rounds page shows: basins of days and weeks, a day's rounds, what is still to place."""

import datetime
from collections import defaultdict

from django.db.models import F, Q

from aquifer.company.clock import week_of
from aquifer.core.kinds import HeaterKind
from aquifer.core.planning.rounds import DAY, timed
from aquifer.core.vocabulary import Component, Method
from aquifer.places.hazards import of_sites
from aquifer.rounds import board, crew
from aquifer.rounds.models import FIRM, Absence, Appointment, Reason, Run, RunKind, RunState, Service, Standing
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
from aquifer.rounds.work import places
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


def run(one: Run) -> RunOut:
    """A planning as the screen follows it."""
    return {
        "id": one.pk,
        "kind": RunKind(one.kind),
        "state": RunState(one.state),
        "stage": one.stage,
        "share": one.share,
        "message": one.message,
        "first_week": one.first_week,
        "weeks": one.weeks,
        "asked_at": one.asked_at,
        "finished_at": one.finished_at,
        "asked_by": one.asked_by.name if one.asked_by else "",
    }


def weeks(first: datetime.date, count: int, today: datetime.date) -> list[LoadWeekOut]:
    """Load against capacity by week and day; four queries."""
    start = week_of(first)
    last = start + datetime.timedelta(days=7 * count - 1)
    who = crew.members()
    hours: dict[datetime.date, float] = defaultdict(float)
    for one in crew.working(who, max(start, today), last):
        hours[one.on] += one.hours
    shut = list(Absence.objects.filter(member=None, first_on__lte=last, last_on__gte=start))
    found = Appointment.objects.filter(week__gte=start, week__lte=last, standing__in=[*board.OPEN, Standing.DONE])
    rows = list(found.only("week", "on", "minutes", "standing", "latest_on"))
    told: list[LoadWeekOut] = []
    for number in range(count):
        week = start + datetime.timedelta(days=7 * number)
        own = [one for one in rows if one.week == week]
        days = [week + datetime.timedelta(days=n) for n in range(7)]
        told.append(
            {
                "week": week,
                "hours": round(sum(one.minutes for one in own) / 60, 1),
                "capacity": round(sum(hours[day] for day in days), 1),
                "visits": len(own),
                "firm": sum(one.standing in FIRM for one in own),
                "past_cap": sum(one.latest_on is not None and (one.on or week) > one.latest_on for one in own),
                "days": [_basin(day, own, hours[day], shut) for day in days],
            }
        )
    return told


def _basin(day: datetime.date, own: list[Appointment], capacity: float, shut: list[Absence]) -> LoadDayOut:
    here = [one for one in own if one.on == day]
    return {
        "on": day,
        "hours": round(sum(one.minutes for one in here) / 60, 1),
        "capacity": round(capacity, 1),
        "visits": len(here),
        "promised": sum(one.standing == Standing.PROMISED for one in here),
        "why_closed": next((one.why for one in shut if one.first_on <= day <= one.last_on), ""),
    }


def day(on: datetime.date) -> DayOut:
    """A day's rounds, timed, with the way that is driven."""
    found = board.read(on, on)
    told = appointments(found.appointments)
    sequences = found.sequences()
    placed = {number for sequence in sequences for number in sequence}
    done: dict[int | None, list[DoneOut]] = defaultdict(list)
    over = Appointment.objects.filter(on=on, standing=Standing.DONE, member__isnull=False).select_related("site")
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
                "able": sorted(crew.able(member, on)),
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
    without = [told[one.pk] for number, one in enumerate(found.appointments) if number not in placed]
    return {"on": on, "rounds": rounds, "without_time": without}


def unplaced(week: datetime.date, today: datetime.date) -> UnplacedOut:
    """Visits of a week and before that have no day yet, by what they are worth; then those of the weeks after."""
    open_ones = Appointment.objects.filter(standing__in=board.OPEN, on__isnull=True, week__gte=week_of(today))
    first = week_of(week)
    found = open_ones.filter(Q(week__lte=first)).order_by("-worth", "pk")
    total = found.count()
    rows = list(found.select_related("site__zone", "site__customer")[:MOST_UNPLACED])
    if len(rows) < MOST_UNPLACED:
        later = open_ones.filter(week__gt=first).order_by("week", "-worth", "pk")
        rows += list(later.select_related("site__zone", "site__customer")[: MOST_UNPLACED - len(rows)])
    told = appointments(rows)
    return {"total": total, "rows": [told[one.pk] for one in rows]}


def of_weeks(first: datetime.date, last: datetime.date) -> list[AppointmentOut]:
    """Open visits from a week to another, in each those without a day last; as many as are put elsewhere at once."""
    found = Appointment.objects.filter(week__gte=week_of(first), week__lte=week_of(last), standing__in=board.OPEN)
    by = ("week", F("on").asc(nulls_last=True), "begins", "pk")
    rows = list(found.select_related("site__zone", "site__customer").order_by(*by)[:MOST])
    told = appointments(rows)
    return [told[one.pk] for one in rows]


def appointments(found: list[Appointment]) -> dict[int, AppointmentOut]:
    """Appointments as they are shown, by id; a fixed number of queries."""
    services: dict[int, list[Service]] = defaultdict(list)
    for one in Service.objects.filter(appointment__in=[a.pk for a in found]).select_related("heater").order_by("pk"):
        services[one.appointment_id].append(one)
    heaters = {s.heater_id for own in services.values() for s in own}
    dangers = of_sites({one.site for one in found}, heaters) if found else {}
    who = crew.members()
    where = places([one.site for one in found], crew.yards(who))
    names_of = {member.pk: member.user.name for member in who}
    return {
        one.pk: {
            "id": one.pk,
            "site_id": one.site_id,
            "week": one.week,
            "on": one.on,
            "member_id": one.member_id,
            "begins": one.begins,
            "minutes": one.minutes,
            "standing": Standing(one.standing),
            "earliest": one.earliest,
            "latest": one.latest,
            "needs": one.needs,
            "people": one.people,
            "worth": one.worth,
            "latest_on": one.latest_on,
            "version": one.version,
            "note": one.note,
            "reason": Reason(one.reason),
            "said": one.said,
            "decides": one.decides,
            "site": one.site.name,
            "street": one.site.street,
            "town": " ".join(filter(None, (one.site.town, one.site.postcode))),
            "access": one.site.access,
            "located": one.site.longitude is not None,
            "customer": one.site.customer.name,
            "phone": one.site.customer.phone,
            "zone": one.site.zone.name,
            "technician": names_of.get(one.member_id or 0, ""),
            "hazard": " ".join(dangers.get(one.site_id, [])),
            "longitude": where[one.site_id].longitude,
            "latitude": where[one.site_id].latitude,
            "services": [
                {
                    "heater_id": s.heater_id,
                    "tag": s.heater.tag,
                    "kind": HeaterKind(s.heater.kind),
                    "component": Component(s.component),
                    "method": Method(s.method),
                    "hours": s.hours,
                }
                for s in services[one.pk]
            ],
        }
        for one in found
    }

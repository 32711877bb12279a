"""Visits that people ask for: booked by hand for any site and time, with what is due there riding along."""

import datetime
import uuid
from collections.abc import Sequence
from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from aquifer.company.clock import week_of
from aquifer.core.kinds import HeaterKind
from aquifer.core.planning.preparing import preparation
from aquifer.core.planning.work import TWO_PEOPLE
from aquifer.customers.models import Site
from aquifer.errors import Invalid, NotFound
from aquifer.heaters.models import Heater
from aquifer.rounds import board, booked, planned_visits, promise, rounds, work
from aquifer.rounds.crew import able
from aquifer.rounds.models import Appointment, AppointmentStatus, Reason, Service
from aquifer.transactions import retried
from aquifer.visits.hours import in_force

RIDES_WITHIN = datetime.timedelta(days=60)
"""What falls due so soon after a visit is done at it. Assumption: two months early wastes less than another way."""
MOST_MINUTES, MOST_YEARS = 600, 3


def arriving_minutes() -> int:
    """Of every visit, whatever it is for; none is shorter."""
    return round(60 * in_force().arriving)


@dataclass(frozen=True)
class Asked:
    """A visit that somebody asks for."""

    site_id: int
    reason: Reason
    minutes: int
    """For what was asked, settling in included."""
    needs: tuple[str, ...] = ()
    people: int = 1
    said: str = ""
    decides: str = ""
    photos: tuple[uuid.UUID, ...] = ()
    """Under which photographs were kept that came with what was said."""
    ride_along: bool = True


def drafted(asked: Asked, on: datetime.date) -> tuple[Appointment, list[work.Wanted]]:
    """The visit as it would be on a day, not kept yet, and what is due there and rides along.

    What is promised on another day stays there; what needs more people or another licence than the visit brings is
    brought by it. Raises: NotFound.
    """
    site = Site.objects.select_related("zone", "customer").filter(pk=asked.site_id, archived_at__isnull=True).first()
    if site is None:
        raise NotFound("There is no such site.", fields={"site_id": "no such site"})
    riding = _riding(site.pk, on) if asked.ride_along else []
    needs = set(asked.needs).union(*(one.needs for one in riding))
    hours = sum(one.hours for one in riding)
    made = Appointment(
        site=site,
        week=week_of(on),
        minutes=min(asked.minutes + round(60 * hours), MOST_MINUTES),
        asked_minutes=asked.minutes,
        reason=asked.reason,
        needs=sorted(needs - {TWO_PEOPLE}),
        people=2 if asked.people > 1 or TWO_PEOPLE in needs else 1,
        said=asked.said,
        decides=asked.decides,
        photos=list(asked.photos),
        latest_on=min((one.latest_on for one in riding if one.latest_on), default=None),
    )
    return made, riding


def _riding(site_id: int, on: datetime.date) -> list[work.Wanted]:
    stay = Appointment.objects.filter(booked.STAYS, site=site_id)
    kept = set(Service.objects.filter(appointment__in=stay).values_list("heater_id", "component"))
    due = work.due_at(site_id, on + RIDES_WITHIN)
    chosen: list[work.Wanted] = []
    minutes = 0.0
    for one in due:
        if (one.heater_id, one.component.value) in kept or not _waits_until(one, on):
            continue
        if minutes + 60 * one.hours > work.LONGEST_VISIT_HOURS * 60:
            continue
        chosen.append(one)
        minutes += 60 * one.hours
    return chosen


def _waits_until(one: work.Wanted, on: datetime.date) -> bool:
    """Whether what is due waits for a visit: not for one long after its day, nor for one past a cap that holds."""
    today = timezone.localdate()
    in_date = one.latest_on is None or one.latest_on < today or on <= one.latest_on
    return in_date and on <= max(one.due_on or today, today) + RIDES_WITHIN


@dataclass(frozen=True)
class Slots:
    """Where a visit could go, and what else it would be for."""

    places: list[rounds.Place]
    rides_along: list[work.Wanted]
    minutes: int
    prepare: list[str]


def slots(asked: Asked, first: datetime.date, days: int) -> Slots:
    """Where it could go within some days, what breaks least and drives least first, how long it takes and what would
    ride along. Raises: NotFound.
    """
    made, riding = drafted(asked, first)
    kinds = dict(Heater.objects.filter(pk__in={one.heater_id for one in riding}).values_list("pk", "kind"))
    services = [(HeaterKind(kinds[one.heater_id]), one.component) for one in riding]
    places = rounds.places_for(made, first, days)
    return Slots(places, riding, made.minutes, preparation(services, made.minutes / 60))


@retried
def book(asked: Asked, target: rounds.Target, today: datetime.date, override: bool) -> Appointment:
    """Keep such a visit where it was put, or without a day in a week; if agreed, it is promised.

    Two visits of one day at one house are one: what is there already takes it up. What is planned at the site and
    rides along is taken out of the plan. Raises: NotFound, Invalid naming the field, Conflict if it breaks something
    and ``override`` is not said.
    """
    _check(asked, target, today)
    with transaction.atomic():
        board.one_at_a_time()
        on = target.on or target.week
        there = (
            Appointment.objects.select_for_update(of=("self",))
            .filter(site=asked.site_id, on=on, standing__in=board.OPEN)
            .order_by("pk")
            .first()
            if target.on
            else None
        )
        if there is not None:
            return _joined(there, asked, target.agreed)
        made, riding = drafted(asked, on)
        if target.member_id is None:
            made.standing = AppointmentStatus.KEPT
        made.save()
        _ride(made, riding)
        if target.on is None or target.member_id is None:
            return made
        return rounds.move(made.pk, target, made.version, override)


def _check(asked: Asked, target: rounds.Target, today: datetime.date) -> None:
    on = target.on or target.week
    if (target.on or target.week + datetime.timedelta(days=6)) < today:
        raise Invalid(f"{on} is past.", fields={"on": "past"})
    if on > today + datetime.timedelta(days=366 * MOST_YEARS):
        raise Invalid(f"Book at most {MOST_YEARS} years ahead.", fields={"on": f"within {MOST_YEARS} years"})
    least = arriving_minutes()
    if not least <= asked.minutes <= MOST_MINUTES:
        raise Invalid(
            f"A visit takes {least} to {MOST_MINUTES} minutes.",
            fields={"minutes": f"{least} to {MOST_MINUTES}"},
        )
    if target.on is not None and target.member_id is None:
        raise Invalid("Say who comes on that day, or leave the day open.", fields={"member_id": "needed"})


def _joined(there: Appointment, asked: Asked, agreed: bool) -> Appointment:
    """The day's visit with what was asked for: as long as both, settled in once. Raises: Invalid if who comes there
    may not do it."""
    if there.member is not None and there.on is not None:
        lacking = sorted(set(asked.needs) - able(there.member, there.on))
        if lacking:
            who, what = there.member.user.name, ", ".join(lacking)
            raise Invalid(
                f"There is a visit there on that day already, and {who} has not what this takes: {what}. "
                "Move that one first, or choose another day.",
                "rounds.not_able",
                {"needs": what},
            )
    more = asked.minutes - arriving_minutes()
    there.asked_minutes = there.asked_minutes + more if there.asked_minutes else asked.minutes
    there.minutes = min(there.minutes + more, MOST_MINUTES)
    there.reason = asked.reason if there.reason == Reason.DUE else there.reason
    there.said = "; ".join(filter(None, (there.said, asked.said)))[:240]
    there.decides = asked.decides or there.decides
    there.photos = [*there.photos, *(one for one in asked.photos if one not in there.photos)]
    there.needs = sorted({*there.needs, *asked.needs})
    there.people = max(there.people, asked.people)
    if there.standing == AppointmentStatus.PLANNED:
        there.standing = AppointmentStatus.KEPT
    there.version += 1
    there.save()
    _time_anew(there)
    there.refresh_from_db()
    is_told = there.standing == AppointmentStatus.PROMISED
    return promise.after_move(there, None, agreed and not is_told, "")


def _time_anew(there: Appointment) -> None:
    """Those after it on its round come later by what it lasts longer."""
    if there.on is not None and there.member_id is not None:
        board.time_anew(there.on)


def _ride(made: Appointment, riding: Sequence[work.Wanted]) -> None:
    """Give a visit what rides along, and take that out of what is planned; what has nothing left to do is dropped."""
    if not riding:
        return
    Service.objects.bulk_create(
        Service(appointment=made, heater_id=one.heater_id, component=one.component, method=one.method, hours=one.hours)
        for one in riding
    )
    planned_visits.leave_out_what_is_kept([made], in_force())

from typing import Annotated

from django.db import transaction
from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Status
from pydantic import Field

from aquifer.accounts.access import Action, allowed, who
from aquifer.core.planning.calls import CALLS
from aquifer.rounds import booking, disturbance, own_day, promise, read, rounds, shifting, tasks, upcoming
from aquifer.rounds import run as runs
from aquifer.rounds.models import Appointment, Reason
from aquifer.rounds.own_day import NotDone
from aquifer.rounds.schemas import (
    AppointmentOut,
    BookingAskedIn,
    BookingIn,
    CostOut,
    DayOut,
    DisturbanceIn,
    DisturbedOut,
    Id,
    LateIn,
    LoadWeekOut,
    MoveIn,
    NotDoneIn,
    PlannedSeasonOut,
    PositionOut,
    PossibleOut,
    PromiseIn,
    RoadOut,
    RunIn,
    RunOut,
    ShiftIn,
    ShiftOut,
    SiteVisitOut,
    SlotsIn,
    SlotsOut,
    TargetIn,
    UnplacedOut,
    UsualCallOut,
)
from aquifer.travel.service import times
from aquifer.wire import Day

router = Router(tags=["rounds"])


@router.get("/season", response=PlannedSeasonOut, auth=allowed(Action.READ))
def season(request: HttpRequest) -> PlannedSeasonOut:
    """The season's plan in force, what it came to, and what is being planned."""
    return read.season()


@router.post("/runs", response={201: RunOut}, auth=allowed(Action.PLAN))
def ask(request: HttpRequest, payload: RunIn) -> Status[RunOut]:
    """Plan a season with its first rounds, or some weeks' rounds; the plan before stays until it is done."""
    by = who(request)
    with transaction.atomic():
        run = runs.ask(payload.kind, payload.first, payload.weeks, by, timezone.localdate())
        tasks.plan.defer(run_id=run.pk)
    return Status(201, read.run(run))


@router.post("/runs/{run_id}/stop", response=RunOut, auth=allowed(Action.PLAN))
def stop(request: HttpRequest, run_id: Id) -> RunOut:
    """Give a planning up; the plan before stays."""
    return read.run(runs.stop(run_id))


@router.get("/weeks", response=list[LoadWeekOut], auth=allowed(Action.READ))
def weeks(
    request: HttpRequest, first: Day | None = None, count: Annotated[int, Field(ge=1, le=78)] = 2
) -> list[LoadWeekOut]:
    """Load against capacity by week and day."""
    today = timezone.localdate()
    return read.weeks(first or today, count, today)


@router.get("/days/{on}", response=DayOut, auth=allowed(Action.READ))
def day(request: HttpRequest, on: Day) -> DayOut:
    """A day's rounds in order, with their times and the way that is driven."""
    return read.day(on)


@router.get("/unplaced", response=UnplacedOut, auth=allowed(Action.READ))
def unplaced(request: HttpRequest, week: Day) -> UnplacedOut:
    """Visits that have no day yet, this week's first, by what they are worth."""
    return read.unplaced(week, timezone.localdate())


@router.get("/weeks/{week}/appointments", response=list[AppointmentOut], auth=allowed(Action.READ))
def of_weeks(request: HttpRequest, week: Day, until: Day | None = None) -> list[AppointmentOut]:
    """Every open visit of a week, or of the weeks until another, those without a day last."""
    return read.of_weeks(week, until or week)


@router.post("/shift", response=ShiftOut, auth=allowed(Action.PLAN))
def shift(request: HttpRequest, payload: ShiftIn) -> shifting.Shifted:
    """Pull visits forward or push them back to another week, or only tell what that would do."""
    versions = {version.id: version.version for version in payload.visits}
    return shifting.shift(versions, payload.week, timezone.localdate(), payload.dry)


@router.get("/roads", response=list[RoadOut], auth=allowed(Action.READ))
def roads(
    request: HttpRequest,
    west: Annotated[float, Field(ge=-180, le=180)],
    south: Annotated[float, Field(ge=-90, le=90)],
    east: Annotated[float, Field(ge=-180, le=180)],
    north: Annotated[float, Field(ge=-90, le=90)],
) -> list[RoadOut]:
    """The larger roads of a box of at most a degree."""
    if not (west < east <= west + 1 and south < north <= south + 1):
        return []
    return [
        {"line": [{"longitude": p.longitude, "latitude": p.latitude} for p in line]}
        for line in times().lines(west, south, east, north)
    ]


@router.post("/appointments/{appointment_id}/cost", response=CostOut, auth=allowed(Action.PLAN))
def cost(request: HttpRequest, appointment_id: Id, payload: TargetIn) -> rounds.Told:
    """What moving a visit there would cost and break; nothing is moved."""
    return rounds.cost(appointment_id, _target(payload))


@router.get("/appointments/{appointment_id}/places", response=list[PossibleOut], auth=allowed(Action.READ))
def places(
    request: HttpRequest,
    appointment_id: Id,
    first: Day,
    days: Annotated[int, Field(ge=1, le=28)] = 14,
    agreed: bool = False,
) -> list[rounds.Place]:
    """Where a visit could go within some days, the least driving first; what somebody may not do is left out. If
    ``agreed`` with the customer, what they were promised before does not bind."""
    return rounds.possible(appointment_id, max(first, timezone.localdate()), days, agreed)


@router.get("/appointments/{appointment_id}/positions", response=list[PositionOut], auth=allowed(Action.READ))
def positions(request: HttpRequest, appointment_id: Id, on: Day) -> list[rounds.Position]:
    """Every place on a day's rounds that a visit could be put, with what it costs and breaks there."""
    return rounds.positions(appointment_id, on)


@router.post("/appointments/{appointment_id}/move", response=AppointmentOut, auth=allowed(Action.PLAN))
def move(request: HttpRequest, appointment_id: Id, payload: MoveIn) -> AppointmentOut:
    """Move a visit and keep it there."""
    return _one(rounds.move(appointment_id, _target(payload), payload.version, payload.override, payload.why))


@router.post("/appointments/{appointment_id}/standing", response=AppointmentOut, auth=allowed(Action.PLAN))
def stand(request: HttpRequest, appointment_id: Id, payload: PromiseIn) -> AppointmentOut:
    """Keep it, promise it for a time, let it go, or call it off."""
    return _one(promise.stand(appointment_id, payload, timezone.localdate()))


@router.get("/sites/{site_id}/appointments", response=list[SiteVisitOut], auth=allowed(Action.READ))
def of_site(request: HttpRequest, site_id: Id) -> list[SiteVisitOut]:
    """Every open visit of a site from today on, the next first."""
    return upcoming.of_sites([site_id], timezone.localdate()).get(site_id, [])


@router.get("/usual-calls", response=list[UsualCallOut], auth=allowed(Action.READ))
def usual_calls(request: HttpRequest) -> list[UsualCallOut]:
    """What people ring for, and what is said to them first."""
    return [
        {
            "name": call.name,
            "says": call.says,
            "first": list(call.first),
            "ask": list(call.ask),
            "reason": Reason(call.reason) if call.reason else None,
            "minutes": call.minutes,
            "is_urgent": call.is_urgent,
        }
        for call in CALLS
    ]


@router.post("/slots", response=SlotsOut, auth=allowed(Action.PLAN))
def slots(request: HttpRequest, payload: SlotsIn) -> booking.Slots:
    """Where a visit that somebody asks for could go, the least driving first, and what would ride along."""
    return booking.slots(_asked(payload), max(payload.first, timezone.localdate()), payload.days)


@router.post("/appointments", response={201: AppointmentOut}, auth=allowed(Action.PLAN))
def book(request: HttpRequest, payload: BookingIn) -> Status[AppointmentOut]:
    """Book a visit by hand, for any site and time."""
    return Status(201, _one(booking.book(_asked(payload), _target(payload), timezone.localdate(), payload.override)))


def _asked(said: BookingAskedIn) -> booking.Asked:
    names = BookingAskedIn.model_fields.keys() - {"needs", "photos"}
    return booking.Asked(**said.model_dump(include=names), needs=tuple(said.needs), photos=tuple(said.photos))


def _target(said: TargetIn) -> rounds.Target:
    return rounds.Target(**said.model_dump(include=set(TargetIn.model_fields)))


@router.post("/days/{on}/disturbance", response=DisturbedOut, auth=allowed(Action.PLAN))
def disturb(request: HttpRequest, on: Day, payload: DisturbanceIn) -> DisturbedOut:
    """Plan what is left of a day anew, changing as little as possible, and say what changed."""
    said = payload.dict()
    return {"changes": disturbance.disturb(on, disturbance.Disturbance(**{**said, "needs": tuple(said["needs"])}))}


@router.post("/mine/{appointment_id}/late", response=list[AppointmentOut], auth=allowed(Action.RECORD_VISIT))
def late(request: HttpRequest, appointment_id: Id, payload: LateIn) -> list[AppointmentOut]:
    """I come later: my own visits from this one on, as far as no pause takes it up; customers are told."""
    moved = own_day.late(who(request), appointment_id, payload.minutes, timezone.localdate())
    return [_one(appointment) for appointment in moved]


@router.post("/mine/{appointment_id}/not-done", response=AppointmentOut, auth=allowed(Action.RECORD_VISIT))
def not_done(request: HttpRequest, appointment_id: Id, payload: NotDoneIn) -> AppointmentOut:
    """I could not do my visit, and why: it waits for another day, and the customer is told."""
    appointment = own_day.not_done(
        who(request), appointment_id, NotDone(payload.why), payload.words, timezone.localdate()
    )
    return _one(appointment)


def _one(appointment: Appointment) -> AppointmentOut:
    found = Appointment.objects.select_related("site__zone", "site__customer").get(pk=appointment.pk)
    return read.appointments([found])[found.pk]

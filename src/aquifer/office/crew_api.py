"""Who goes out: usual weeks, what each truck carries, days off. The next planning goes by it."""

import datetime
from typing import Annotated

from django.db import transaction
from django.db.models import QuerySet
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Router, Status
from pydantic import AfterValidator, Field, StringConstraints
from typing_extensions import TypedDict

from aquifer.accounts.access import Action, allowed, may, who
from aquifer.accounts.models import User
from aquifer.core.bounds import within
from aquifer.errors import Conflict, Invalid
from aquifer.history.versions import merge, version_of, versions
from aquifer.rounds.models import EQUIPMENT, Absence, CrewMember, Loan
from aquifer.wire import NO_NUL, Day, Id, Payload, Version

router = Router(tags=["crew"])
Minute = Annotated[int, Field(ge=0, le=1439)]
Text = Annotated[str, StringConstraints(strip_whitespace=True, max_length=80, pattern=NO_NUL)]


def _known(said: str) -> str:
    if said not in EQUIPMENT:
        raise ValueError(f"no truck carries that; allowed: {', '.join(EQUIPMENT)}")
    return said


Equipment = Annotated[str, AfterValidator(_known)]
Weekdays = Annotated[set[Annotated[int, Field(ge=0, le=6)]], Field(min_length=1)]
BACK = datetime.timedelta(days=30)
"""Absences that are longer past are not shown."""
LONGEST_ABSENCE = datetime.timedelta(days=730)


class CrewMemberOut(TypedDict):
    id: int
    version: int
    user_id: int
    name: str
    licences: Annotated[list[str], Field(description="Held today.")]
    weekdays: Annotated[list[int], Field(description="0 is Monday.")]
    begins: Annotated[int, Field(description="Minutes after midnight, as all times here.")]
    ends: int
    lunch_minutes: int
    lunch_earliest: int
    lunch_latest: int
    equipment: list[str]
    helper: str
    place: str
    longitude: float | None
    latitude: float | None
    active: bool


class AbsenceOut(TypedDict):
    id: int
    member_id: Annotated[int | None, Field(description="None: nobody works, a holiday.")]
    name: str
    first_on: datetime.date
    last_on: datetime.date
    why: str


class LoanOut(TypedDict):
    id: int
    tool: str
    lender: str
    borrower: str
    first_on: datetime.date
    last_on: datetime.date


class CandidateOut(TypedDict):
    id: int
    name: str


class CrewOut(TypedDict):
    may_change: bool
    members: list[CrewMemberOut]
    absences: list[AbsenceOut]
    loans: Annotated[list[LoanOut], Field(description="Tools that go on another truck, from a month ago on.")]
    equipment: Annotated[list[str], Field(description="What a truck can carry.")]
    candidates: Annotated[list[CandidateOut], Field(description="Who has an account and does not go out yet.")]


class CrewMemberPatch(Payload):
    weekdays: Weekdays | None = None
    begins: Minute | None = None
    ends: Minute | None = None
    lunch_minutes: Annotated[int, Field(ge=0, le=180)] | None = None
    lunch_earliest: Minute | None = None
    lunch_latest: Minute | None = None
    equipment: set[Equipment] | None = None
    helper: Text | None = None
    place: Annotated[Text, Field(min_length=1)] | None = None
    longitude: Annotated[float | None, within("place.longitude")] = None
    latitude: Annotated[float | None, within("place.latitude")] = None
    active: bool | None = None
    version: Version | None = None


class CrewMemberIn(Payload):
    user_id: Id


class AbsenceIn(Payload):
    member_id: Id | None = None
    first_on: Day
    last_on: Day
    why: Annotated[Text, Field(min_length=1)]


class LoanIn(Payload):
    tool: Equipment
    lender_id: Id
    borrower_id: Id
    first_on: Day
    last_on: Day


@router.get("/settings/crew", response=CrewOut, auth=allowed(Action.READ))
def crew(request: HttpRequest) -> CrewOut:
    """Everybody who goes out, and the days off from a month ago on."""
    members = list(CrewMember.objects.select_related("user").order_by("-active", "pk"))
    since = timezone.localdate() - BACK
    gone = {member.user_id for member in members}
    known = versions(CrewMember, [member.pk for member in members])
    return {
        "may_change": may(who(request).role, Action.KEEP_CREW),
        "members": [_member(member, known.get(member.pk, 0)) for member in members],
        "absences": [_absence(absence) for absence in _absences().filter(last_on__gte=since)],
        "loans": [_loan(loan) for loan in _loans().filter(last_on__gte=since)],
        "equipment": list(EQUIPMENT),
        "candidates": [
            {"id": user.pk, "name": user.name} for user in User.objects.filter(is_active=True) if user.pk not in gone
        ],
    }


@router.post("/settings/crew", response={201: CrewMemberOut}, auth=allowed(Action.KEEP_CREW))
def add_member(request: HttpRequest, payload: CrewMemberIn) -> Status[CrewMemberOut]:
    """Somebody goes out from now on, Monday to Friday by the usual hours until that is changed."""
    user = get_object_or_404(User, pk=payload.user_id, is_active=True)
    if CrewMember.objects.filter(user=user).exists():
        raise Conflict(f"{user.name} goes out already.", "crew.is_one_already")
    made = CrewMember.objects.create(user=user, weekdays=[0, 1, 2, 3, 4])
    return Status(201, _member(made, version_of(made)))


@router.patch("/settings/crew/{member_id}", response=CrewMemberOut, auth=allowed(Action.KEEP_CREW))
def change_member(request: HttpRequest, member_id: Id, payload: CrewMemberPatch) -> CrewMemberOut:
    """Other hours, days, equipment or place. What is planned stays until it is planned anew."""
    told = payload.model_dump(exclude_unset=True, exclude={"version"})
    places = {"longitude", "latitude"}
    said = {
        name: sorted(value) if isinstance(value, set) else value
        for name, value in told.items()
        if value is not None or name in places
    }
    with transaction.atomic():
        members = CrewMember.objects.select_related("user").select_for_update(of=("self",))
        member = get_object_or_404(members, pk=member_id)
        merge(member, payload.version, said)
        _checked(member)
        member.save()
    return _member(member, version_of(member))


def _checked(member: CrewMember) -> None:
    if member.ends - member.begins <= member.lunch_minutes:
        said = "after the day begins, and longer than lunch"
        raise Invalid("The day has to end after it begins, with time beside lunch.", "crew.day", {"ends": said})
    if member.lunch_latest < member.lunch_earliest:
        said = "not before the earliest"
        raise Invalid("Lunch begins at the latest before its earliest.", "crew.lunch", {"lunch_latest": said})
    if (member.longitude is None) != (member.latitude is None):
        raise Invalid("A place needs a latitude and a longitude, or neither.", "crew.place", {"latitude": "both"})


@router.post("/settings/absences", response={201: AbsenceOut}, auth=allowed(Action.KEEP_CREW))
def add_absence(request: HttpRequest, payload: AbsenceIn) -> Status[AbsenceOut]:
    """Somebody is away, or nobody works."""
    if payload.last_on < payload.first_on:
        raise Invalid("It ends before it begins.", "crew.absence", {"last_on": "on or after the first day"})
    if payload.last_on - payload.first_on > LONGEST_ABSENCE:
        raise Invalid("That is longer than two years: let the member rest instead.", "crew.absence", {"last_on": "?"})
    if payload.member_id is not None:
        get_object_or_404(CrewMember, pk=payload.member_id)
    made = Absence.objects.create(**payload.model_dump())
    return Status(201, _absence(_absences().get(pk=made.pk)))


@router.delete("/settings/absences/{absence_id}", response={204: None}, auth=allowed(Action.KEEP_CREW))
def drop_absence(request: HttpRequest, absence_id: Id) -> Status[None]:
    """They are there after all."""
    get_object_or_404(Absence, pk=absence_id).delete()
    return Status(204, None)


@router.post("/settings/loans", response={201: LoanOut}, auth=allowed(Action.KEEP_CREW))
def lend(request: HttpRequest, payload: LoanIn) -> Status[LoanOut]:
    """A tool goes on another truck for some days; the rounds of those days go by it from the next planning on."""
    if payload.last_on < payload.first_on:
        raise Invalid("It ends before it begins.", "crew.loan", {"last_on": "on or after the first day"})
    if payload.last_on - payload.first_on > LONGEST_ABSENCE:
        raise Invalid("That is longer than two years: give it to the other.", "crew.loan", {"last_on": "?"})
    with transaction.atomic():
        members = CrewMember.objects.select_related("user").select_for_update(of=("self",)).order_by("pk")
        # Both in one order, so that two who lend to each other do not wait for each other.
        both = {one.pk: one for one in members.filter(pk__in={payload.lender_id, payload.borrower_id})}
        lender, borrower = both.get(payload.lender_id), both.get(payload.borrower_id)
        if lender is None or borrower is None or lender is borrower:
            raise Invalid("Somebody lends it to somebody else.", "crew.loan", {"borrower_id": "another of the crew"})
        if payload.tool not in lender.equipment:
            said = f"what {lender.user.name} carries: {', '.join(lender.equipment) or 'nothing'}"
            raise Invalid(f"{lender.user.name} carries no {payload.tool}.", "crew.loan", {"tool": said})
        lent = _loans().filter(
            tool=payload.tool, lender=lender, first_on__lte=payload.last_on, last_on__gte=payload.first_on
        )
        if (before := lent.first()) is not None:
            to = before.borrower.user.name
            raise Conflict(f"It is lent to {to} from {before.first_on} to {before.last_on}.", "crew.is_lent")
        made = Loan.objects.create(**payload.model_dump())
    return Status(201, _loan(_loans().get(pk=made.pk)))


@router.delete("/settings/loans/{loan_id}", response={204: None}, auth=allowed(Action.KEEP_CREW))
def take_back(request: HttpRequest, loan_id: Id) -> Status[None]:
    """It stays where it was, or is back."""
    get_object_or_404(Loan, pk=loan_id).delete()
    return Status(204, None)


def _loans() -> QuerySet[Loan]:
    return Loan.objects.select_related("lender__user", "borrower__user").order_by("first_on", "pk")


def _loan(loan: Loan) -> LoanOut:
    return {
        "id": loan.pk,
        "tool": loan.tool,
        "lender": loan.lender.user.name,
        "borrower": loan.borrower.user.name,
        "first_on": loan.first_on,
        "last_on": loan.last_on,
    }


def _absences() -> QuerySet[Absence]:
    return Absence.objects.select_related("member__user").order_by("first_on", "pk")


def _member(member: CrewMember, version: int) -> CrewMemberOut:
    return {
        "id": member.pk,
        "version": version,
        "user_id": member.user_id,
        "weekdays": member.weekdays,
        "begins": member.begins,
        "ends": member.ends,
        "lunch_minutes": member.lunch_minutes,
        "lunch_earliest": member.lunch_earliest,
        "lunch_latest": member.lunch_latest,
        "equipment": member.equipment,
        "helper": member.helper,
        "place": member.place,
        "longitude": member.longitude,
        "latitude": member.latitude,
        "active": member.active,
        "name": member.user.name,
        "licences": member.user.licences_held,
    }


def _absence(absence: Absence) -> AbsenceOut:
    return {
        "id": absence.pk,
        "member_id": absence.member_id,
        "first_on": absence.first_on,
        "last_on": absence.last_on,
        "why": absence.why,
        "name": absence.member.user.name if absence.member else "",
    }

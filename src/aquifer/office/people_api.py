"""Accounts: who signs in, with which role and licenses. Nobody sets a password for somebody else."""

import datetime
from typing import Annotated

from django.contrib.auth import update_session_auth_hash
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import IntegrityError, transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Status
from pydantic import Field, StringConstraints
from typing_extensions import TypedDict

from aquifer.accounts.access import Action, allowed, who
from aquifer.accounts.audit import note
from aquifer.accounts.models import Deed, Licence, Role, User
from aquifer.errors import Conflict, Invalid
from aquifer.history.versions import merge, version_of, versions
from aquifer.office import passwords, second_step
from aquifer.wire import NO_NUL, Day, Id, Payload, Version

router = Router(tags=["people"])
Name = Annotated[str, StringConstraints(strip_whitespace=True, max_length=60, pattern=NO_NUL)]
SignInName = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60, pattern=r"^[\w.@+-]+$")
]
Email = Annotated[str, StringConstraints(strip_whitespace=True, max_length=254, pattern=NO_NUL)]
Password = Annotated[str, StringConstraints(min_length=1, max_length=200, pattern=NO_NUL)]


class LicenceOut(TypedDict):
    kind: Licence
    ends_on: Annotated[datetime.date | None, Field(description="Its last day; none does not end.")]


class PersonOut(TypedDict):
    id: int
    version: int
    username: str
    first_name: str
    last_name: str
    email: str
    role: Role
    licences: list[LicenceOut]
    is_active: bool
    has_password: bool
    goes_out: bool
    is_new: Annotated[bool, Field(description="Works under supervision until signed off, of any role.")]
    last_login: datetime.datetime | None
    second_step: bool
    second_step_asked: Annotated[bool, Field(description="Of their role: without one they set it up as they sign in.")]


class LicenceIn(Payload):
    kind: Licence
    ends_on: Day | None = None


class PersonIn(Payload):
    username: SignInName
    first_name: Annotated[Name, Field(min_length=1)]
    last_name: Name = ""
    email: Email = ""
    role: Role
    licences: Annotated[list[LicenceIn], Field(max_length=8)] = []
    is_new: bool = False


class PersonPatch(Payload):
    username: SignInName | None = None
    first_name: Annotated[Name, Field(min_length=1)] | None = None
    last_name: Name | None = None
    email: Email | None = None
    role: Role | None = None
    licences: Annotated[list[LicenceIn], Field(max_length=8)] | None = None
    is_active: bool | None = None
    is_new: bool | None = None
    version: Version | None = None


class LinkOut(TypedDict):
    link: Annotated[str, Field(description="Where they set their password; hand it to them, to nobody else.")]
    hours: int


class PasswordIn(Payload):
    now: Password
    new: Password


@router.get("/settings/people", response=list[PersonOut], auth=allowed(Action.KEEP_PEOPLE))
def people(request: HttpRequest) -> list[PersonOut]:
    """Everybody who has, or had, an account."""
    users = list(User.objects.select_related("crew").order_by("-is_active", "first_name", "username"))
    with_step, known = second_step.with_one(), versions(User, [user.pk for user in users])
    asked = second_step.roles_asked()
    return [_person(user, known.get(user.pk, 0), asked, user.pk in with_step) for user in users]


@router.post("/settings/people", response={201: PersonOut}, auth=allowed(Action.KEEP_PEOPLE))
def add_person(request: HttpRequest, payload: PersonIn) -> Status[PersonOut]:
    """An account without a password: hand its owner the link by which they set one."""
    user = User()
    user.set_unusable_password()
    merge(user, None, _columns(payload.model_dump()))
    _save(user)
    return Status(201, _person(user, version_of(user), second_step.roles_asked()))


@router.patch("/settings/people/{person_id}", response=PersonOut, auth=allowed(Action.KEEP_PEOPLE))
def change_person(request: HttpRequest, person_id: Id, payload: PersonPatch) -> PersonOut:
    """Another name, role or license; or let an account rest, which ends its sessions and its calendar link."""
    with transaction.atomic():
        # One after the other: two leads who let each other's account rest at once would leave none.
        leads = list(User.objects.select_for_update().filter(role=Role.LEAD, is_active=True).order_by("pk"))
        user = get_object_or_404(User.objects.select_for_update(), pk=person_id)
        told = payload.model_dump(exclude_none=True, exclude={"version"})
        stays = told.get("role", user.role) == Role.LEAD and told.get("is_active", user.is_active)
        if not stays and [lead.pk for lead in leads] == [user.pk]:
            raise Conflict(
                f"{user.name} is the only lead: make somebody else one first, or nobody could change this again.",
                "people.last_lead",
            )
        merge(user, payload.version, _columns(told))
        _save(user)
    return _person(user, version_of(user), second_step.roles_asked())


@router.post("/settings/people/{person_id}/password-link", response=LinkOut, auth=allowed(Action.KEEP_PEOPLE))
def password_link(request: HttpRequest, person_id: Id) -> LinkOut:
    """A link by which somebody sets a password of their own. The one they have stays good until then."""
    user = get_object_or_404(User, pk=person_id)
    if not user.is_active:
        raise Conflict(f"{user.name}'s account rests: take it into use first.", "people.at_rest")
    return {"link": request.build_absolute_uri(passwords.path(user)), "hours": passwords.hours_good()}


@router.post("/me/password", response={204: None}, auth=allowed(Action.KEEP_OWN_ACCOUNT))
def own_password(request: HttpRequest, payload: PasswordIn) -> Status[None]:
    """Another password of one's own; other sessions of the account end."""
    user = who(request)
    if not user.check_password(payload.now):
        raise Invalid("That is not the password you have now.", "password.wrong", {"now": "not the one you have now"})
    passwords.put(user, payload.new)
    note(Deed.SET_PASSWORD, request, user)
    update_session_auth_hash(request, user)
    return Status(204, None)


def _columns(told: dict[str, object]) -> dict[str, object]:
    """What was said, as the account keeps it: licenses and their last days apart."""
    licences = told.pop("licences", None)
    if not isinstance(licences, list):
        return told
    ends = {licence["kind"].value: licence.get("ends_on") for licence in licences}
    kept = {kind: day.isoformat() for kind, day in ends.items() if day is not None}
    return {**told, "licences": list(ends), "licence_ends": kept}


def _save(user: User) -> None:
    if user.email:
        try:
            validate_email(user.email)
        except ValidationError:
            said = "This is no e-mail address."
            raise Invalid(said, "people.email", {"email": said}) from None
    taken = User.objects.filter(username__iexact=user.username).exclude(pk=user.pk)
    try:
        if taken.exists():
            raise IntegrityError
        with transaction.atomic():
            user.save()
    except IntegrityError:
        said = f"Somebody signs in as {user.username} already; take another name."
        raise Conflict(said, "people.name_taken", {"username": "taken"}) from None


def _person(user: User, version: int, asked: frozenset[str], has_step: bool | None = None) -> PersonOut:
    crew = getattr(user, "crew", None)
    return {
        "id": user.pk,
        "version": version,
        "username": user.username,
        "first_name": user.first_name,
        "last_name": user.last_name,
        "email": user.email,
        "role": Role(user.role),
        "is_new": user.is_new,
        "is_active": user.is_active,
        "last_login": user.last_login,
        "licences": [{"kind": Licence(kind), "ends_on": user.licence_ends.get(kind)} for kind in user.licences],
        "has_password": user.has_usable_password(),
        "second_step": second_step.is_on(user) if has_step is None else has_step,
        "second_step_asked": user.role in asked,
        "goes_out": crew is not None and crew.active,
    }

"""One's own account: where one is signed in, and the second step."""

import datetime
import hashlib
from typing import Annotated

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Router, Status
from pydantic import Field, StringConstraints
from typing_extensions import TypedDict

from aquifer.accounts.access import Action, allowed, who
from aquifer.accounts.audit import note
from aquifer.accounts.models import Deed, Noted, Passkey, Session, User
from aquifer.errors import Conflict, Invalid, NotFound
from aquifer.office import passkeys, second_step
from aquifer.wire import NO_NUL, Id, Payload

router = Router(tags=["account"])
Code = Annotated[str, StringConstraints(strip_whitespace=True, min_length=6, max_length=16, pattern=NO_NUL)]
Key = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{12}$")]


class SessionOut(TypedDict):
    key: Annotated[str, Field(description="By which it is ended; lets nobody in.")]
    agent: Annotated[str, Field(description="As the browser calls itself.")]
    address: str
    began: datetime.datetime | None
    seen: datetime.datetime | None
    here: bool


class PasskeyOut(TypedDict):
    id: int
    name: str
    made_at: datetime.datetime
    used_at: datetime.datetime | None


class PasskeyIn(Payload):
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60, pattern=NO_NUL)]
    credential: Annotated[dict[str, object], Field(description="As the browser made it: toJSON() of its credential.")]


class AccountOut(TypedDict):
    sessions: list[SessionOut]
    passkeys: list[PasskeyOut]
    passkeys_offered: Annotated[bool, Field(description="Keys are for a name: none where this is asked by address.")]
    second_step: bool
    second_step_asked: Annotated[bool, Field(description="The company asks it of this role: it cannot be dropped.")]
    codes_left: int


class BegunStepOut(TypedDict):
    address: Annotated[str, Field(description="For a telephone that cannot scan.")]
    picture: Annotated[str, Field(description="SVG, to be scanned.")]


class CodeIn(Payload):
    code: Code


class CodesOut(TypedDict):
    codes: Annotated[list[str], Field(description="Each good once; shown this once.")]


class PasswordAloneIn(Payload):
    now: Annotated[str, StringConstraints(min_length=1, max_length=200, pattern=NO_NUL)]


class NotedOut(TypedDict):
    at: datetime.datetime
    name: str
    deed: Deed
    says: str
    about: str
    address: str


@router.get("/me/account", response=AccountOut, auth=allowed(Action.KEEP_OWN_ACCOUNT))
def account(request: HttpRequest) -> AccountOut:
    """Where one is signed in, and whether a second step is asked."""
    me = who(request)
    return {
        "sessions": [_told(session, request) for session in _sessions(me)],
        "passkeys": [_key_of(one) for one in me.passkeys.all()],
        "passkeys_offered": bool(passkeys.site_of(request)),
        "second_step": second_step.is_on(me),
        "second_step_asked": second_step.is_asked(me),
        "codes_left": second_step.codes_left(me),
    }


@router.delete("/me/sessions/{key}", response={204: None}, auth=allowed(Action.KEEP_OWN_ACCOUNT))
def end_session(request: HttpRequest, key: Key) -> Status[None]:
    """Sign out somewhere else, at once."""
    me = who(request)
    for session in _sessions(me):
        if _key(session) == key:
            session.delete()
            note(Deed.ENDED_SESSION, request, me, session.agent)
            return Status(204, None)
    raise NotFound("That session has ended already.")


@router.post("/me/passkeys/begin", response=dict[str, object], auth=allowed(Action.KEEP_OWN_ACCOUNT))
def begin_passkey(request: HttpRequest, payload: PasswordAloneIn) -> dict[str, object]:
    """What the browser makes a key from. Whoever only has the open page gets none."""
    me = who(request)
    if not me.check_password(payload.now):
        raise Invalid("That is not your password.", "password.wrong", {"now": "not the one you have now"})
    return passkeys.begin_adding(request, me)


@router.post("/me/passkeys", response={201: PasskeyOut}, auth=allowed(Action.KEEP_OWN_ACCOUNT))
def add_passkey(request: HttpRequest, payload: PasskeyIn) -> Status[PasskeyOut]:
    """Keep the key that it made."""
    made = passkeys.add(request, who(request), payload.name, payload.credential)
    note(Deed.ADDED_PASSKEY, request, who(request), made.name)
    return Status(201, _key_of(made))


@router.delete("/me/passkeys/{passkey_id}", response={204: None}, auth=allowed(Action.KEEP_OWN_ACCOUNT))
def drop_passkey(request: HttpRequest, passkey_id: Id) -> Status[None]:
    """It lets nobody in any more."""
    me = who(request)
    key = get_object_or_404(me.passkeys, pk=passkey_id)
    key.delete()
    note(Deed.DROPPED_PASSKEY, request, me, key.name)
    return Status(204, None)


@router.post("/me/second-step", response=BegunStepOut, auth=allowed(Action.KEEP_OWN_ACCOUNT))
def begin_second_step(request: HttpRequest) -> BegunStepOut:
    """What a telephone is to scan; in force once a code of it is sent."""
    address, picture = second_step.begin(who(request))
    return {"address": address, "picture": picture}


@router.post("/me/second-step/code", response=CodesOut, auth=allowed(Action.KEEP_OWN_ACCOUNT))
def confirm_second_step(request: HttpRequest, payload: CodeIn) -> CodesOut:
    """Take the second step into force."""
    me = who(request)
    codes = second_step.confirm(me, payload.code)
    note(Deed.SET_SECOND_STEP, request, me)
    return {"codes": codes}


@router.post("/me/second-step/drop", response={204: None}, auth=allowed(Action.KEEP_OWN_ACCOUNT))
def drop_second_step(request: HttpRequest, payload: PasswordAloneIn) -> Status[None]:
    """Be let in by the password alone again. Whoever only has the open page cannot."""
    me = _known(request, payload)
    if second_step.is_asked(me):
        raise Conflict("The company asks a second step of your role: it stays.", "second_step.is_asked")
    second_step.drop(me)
    note(Deed.DROPPED_SECOND_STEP, request, me)
    return Status(204, None)


@router.post("/me/second-step/codes", response=CodesOut, auth=allowed(Action.KEEP_OWN_ACCOUNT))
def new_codes(request: HttpRequest, payload: PasswordAloneIn) -> CodesOut:
    """Ten other codes on paper, for whoever has used most of them or lost the paper."""
    me = _known(request, payload)
    codes = second_step.new_codes(me)
    note(Deed.SET_SECOND_STEP, request, me, "other codes on paper")
    return {"codes": codes}


def _known(request: HttpRequest, payload: PasswordAloneIn) -> User:
    """Whoever asks, once they have typed their password again."""
    me = who(request)
    if not me.check_password(payload.now):
        raise Invalid("That is not your password.", "password.wrong", {"now": "not the one you have now"})
    return me


@router.post("/settings/people/{person_id}/second-step/drop", response={204: None}, auth=allowed(Action.KEEP_PEOPLE))
def drop_of(request: HttpRequest, person_id: Id) -> Status[None]:
    """For somebody who lost the telephone and the paper: the lead, who knows them, lets the password do again."""
    user = get_object_or_404(User, pk=person_id)
    if not second_step.is_on(user):
        raise Conflict(f"{user.name} has no second step.", "second_step.is_off")
    second_step.drop(user)
    note(Deed.DROPPED_SECOND_STEP, request, who(request), user.name)
    return Status(204, None)


@router.get("/settings/noted", response=list[NotedOut], auth=allowed(Action.KEEP_PEOPLE))
def noted(
    request: HttpRequest,
    deed: Deed | None = None,
    limit: Annotated[int, Field(ge=1, le=500)] = 100,
    offset: Annotated[int, Field(ge=0, le=10**6)] = 0,
) -> list[NotedOut]:
    """Who came in from where, and who took what out: the newest first."""
    entries = Noted.objects.filter(deed=deed) if deed else Noted.objects.all()
    return [
        {
            "at": noted.at, "name": noted.name, "deed": Deed(noted.deed), "says": noted.get_deed_display(),
            "about": noted.about, "address": noted.address,
        }
        for noted in entries[offset : offset + limit]
    ]  # fmt: skip


def _key_of(one: Passkey) -> PasskeyOut:
    return {"id": one.pk, "name": one.name, "made_at": one.made_at, "used_at": one.used_at}


def _sessions(me: User) -> list[Session]:
    return list(Session.objects.filter(user=me, expire_date__gt=timezone.now()).order_by("-seen"))


def _key(one: Session) -> str:
    """Tells sessions apart without telling what is in their cookies."""
    return hashlib.sha256(f"aquifer.session.{one.session_key}".encode()).hexdigest()[:12]


def _told(session: Session, request: HttpRequest) -> SessionOut:
    return {
        "key": _key(session),
        "agent": session.agent,
        "address": session.address,
        "began": session.began,
        "seen": session.seen,
        "here": session.session_key == request.session.session_key,
    }

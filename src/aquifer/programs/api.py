"""Tokens and addresses of other programs, kept by the lead."""

import datetime
from typing import Annotated

from django.core.exceptions import ValidationError
from django.core.validators import URLValidator
from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Router, Schema, Status
from pydantic import Field, StringConstraints
from typing_extensions import TypedDict

from aquifer.accounts import tokens
from aquifer.accounts.access import Action, allowed, who
from aquifer.accounts.audit import note
from aquifer.accounts.models import Deed, Token, User
from aquifer.errors import Invalid
from aquifer.history.versions import merge, version_of, versions
from aquifer.programs import send
from aquifer.programs.models import Delivery, DeliveryState, Hook, HookEvent
from aquifer.wire import NO_NUL, Day, Id, Payload, Version

router = Router(tags=["programs"])
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60, pattern=NO_NUL)]
LONGEST_TOKEN = datetime.timedelta(days=366)
SHOWN = 20


class TokenOut(TypedDict):
    id: int
    name: str
    begins: str
    owner: Annotated[str, Field(description="In whose name it asks.")]
    may_write: bool
    expires_on: datetime.date
    used_on: datetime.date | None


class TokenIn(Payload):
    name: Name
    owner_id: Id = Field(description="In whose name it asks; it may what their role may, but for accounts.")
    may_write: bool = False
    expires_on: Day


class TokenMadeOut(TokenOut):
    words: Annotated[str, Field(description="The token itself, told once.")]


class DeliveryOut(Schema):
    id: int
    kind: HookEvent
    state: DeliveryState
    tries: int
    trouble: str
    happened_at: datetime.datetime


class HookOut(TypedDict):
    id: int
    version: int
    address: str
    kinds: list[HookEvent]
    active: bool
    deliveries: Annotated[list[DeliveryOut], Field(description="The newest.")]


class HookMadeOut(HookOut):
    secret: Annotated[str, Field(description="By which what is sent is signed, told once.")]


class HookIn(Payload):
    address: Annotated[str, StringConstraints(strip_whitespace=True, max_length=300, pattern=NO_NUL)]
    kinds: Annotated[set[HookEvent], Field(min_length=1)]


class HookPatch(Payload):
    kinds: Annotated[set[HookEvent], Field(min_length=1)] | None = None
    active: bool | None = None
    version: Version | None = None


@router.get("/settings/tokens", response=list[TokenOut], auth=allowed(Action.KEEP_PROGRAMS))
def list_tokens(request: HttpRequest) -> list[TokenOut]:
    """Tokens that were not revoked, the newest first."""
    return [_token(token) for token in Token.objects.filter(revoked_at=None).select_related("owner")]


@router.post("/settings/tokens", response={201: TokenMadeOut}, auth=allowed(Action.KEEP_PROGRAMS))
def make_token(request: HttpRequest, payload: TokenIn) -> Status[TokenMadeOut]:
    """A token for another program. Its words are in this answer and nowhere else."""
    today = timezone.localdate()
    if not today < payload.expires_on <= today + LONGEST_TOKEN:
        said = "a day after today, within a year"
        raise Invalid("A token is good until a day within the coming year.", "token.expiry", {"expires_on": said})
    owner = get_object_or_404(User, pk=payload.owner_id, is_active=True)
    made, words = tokens.make(owner, payload.name, payload.may_write, payload.expires_on)
    note(Deed.MADE_TOKEN, request, who(request), f"{payload.name}, for {owner.name}")
    return Status(201, {**_token(made), "words": words})


@router.delete("/settings/tokens/{token_id}", response={204: None}, auth=allowed(Action.KEEP_PROGRAMS))
def revoke_token(request: HttpRequest, token_id: Id) -> Status[None]:
    """The program that has it may nothing from now on."""
    token = get_object_or_404(Token, pk=token_id, revoked_at=None)
    token.revoked_at = timezone.now()
    token.save(update_fields=["revoked_at"])
    return Status(204, None)


@router.get("/settings/hooks", response=list[HookOut], auth=allowed(Action.KEEP_PROGRAMS))
def list_hooks(request: HttpRequest) -> list[HookOut]:
    """Every address that is told of events, with what it was told lately."""
    hooks = list(Hook.objects.all())
    known = versions(Hook, [hook.pk for hook in hooks])
    return [_hook(hook, known.get(hook.pk, 0)) for hook in hooks]


@router.post("/settings/hooks", response={201: HookMadeOut}, auth=allowed(Action.KEEP_PROGRAMS))
def add_hook(request: HttpRequest, payload: HookIn) -> Status[HookMadeOut]:
    """Tell an address of some kinds of events. Its secret is in this answer and nowhere else."""
    try:
        URLValidator(schemes=["http", "https"])(payload.address)
    except ValidationError:
        said = "An address begins with https:// or http://."
        raise Invalid(said, "hook.address", {"address": said}) from None
    made = Hook.objects.create(address=payload.address, kinds=sorted(payload.kinds), secret=send.new_secret())
    return Status(201, {**_hook(made, version_of(made)), "secret": made.secret})


@router.patch("/settings/hooks/{hook_id}", response=HookOut, auth=allowed(Action.KEEP_PROGRAMS))
def change_hook(request: HttpRequest, hook_id: Id, payload: HookPatch) -> HookOut:
    """Tell it of other kinds, or of nothing for now: what waits goes on waiting."""
    told = payload.model_dump(exclude_none=True, exclude={"version"})
    if payload.kinds is not None:
        told["kinds"] = sorted(payload.kinds)
    with transaction.atomic():
        hook = get_object_or_404(Hook.objects.select_for_update(), pk=hook_id)
        merge(hook, payload.version, told)
        hook.save()
    return _hook(hook, version_of(hook))


@router.post("/settings/hooks/{hook_id}/try", response=DeliveryOut, auth=allowed(Action.KEEP_PROGRAMS))
def try_hook(request: HttpRequest, hook_id: Id) -> Delivery:
    """Send an event that says nothing, now, and tell whether it was taken."""
    hook = get_object_or_404(Hook, pk=hook_id)
    made = Delivery.objects.create(hook=hook, kind=HookEvent.TRIED, body={})
    send.send_one(made.pk)
    made.refresh_from_db()
    return made


@router.post("/settings/deliveries/{delivery_id}/again", response=DeliveryOut, auth=allowed(Action.KEEP_PROGRAMS))
def again(request: HttpRequest, delivery_id: Id) -> Delivery:
    """Send an event once more that was not taken."""
    delivery = get_object_or_404(Delivery.objects.exclude(state=DeliveryState.TAKEN), pk=delivery_id)
    delivery.state, delivery.tries = DeliveryState.WAITING, 0
    delivery.save(update_fields=["state", "tries"])
    send.send_one(delivery.pk)
    delivery.refresh_from_db()
    return delivery


def _token(token: Token) -> TokenOut:
    return {
        "id": token.pk,
        "name": token.name,
        "begins": token.begins,
        "may_write": token.may_write,
        "expires_on": token.expires_on,
        "used_on": token.used_on,
        "owner": token.owner.name,
    }


def _hook(hook: Hook, version: int) -> HookOut:
    return {
        "id": hook.pk,
        "version": version,
        "address": hook.address,
        "active": hook.active,
        "kinds": [HookEvent(kind) for kind in hook.kinds],
        "deliveries": [DeliveryOut.from_orm(delivery) for delivery in hook.deliveries.all()[:SHOWN]],
    }

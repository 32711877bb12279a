from typing import Annotated

from django.db.models import Q
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema, Status
from pydantic import ConfigDict, Field, StringConstraints
from typing_extensions import TypedDict

from aquifer.accounts.access import Action, allowed, may, who
from aquifer.accounts.models import Place, Role, SavedView, User

router = Router(tags=["accounts"])


class MeOut(TypedDict):
    id: int
    username: str
    name: str
    role: Role
    licences: list[str]
    may: list[Action]


class SupervisorOut(Schema):
    id: int
    name: str


@router.get("/me", response=MeOut, auth=allowed(Action.READ))
def me(request: HttpRequest) -> MeOut:
    user = who(request)
    return {
        "id": user.pk,
        "username": user.username,
        "name": user.name,
        "role": Role(user.role),
        "licences": user.licences_held,
        "may": [action for action in Action if may(user.role, action)],
    }


class ViewIn(Schema):
    model_config = ConfigDict(extra="forbid")

    place: Place
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60, pattern=r"^[^\x00]*$")]
    query: Annotated[str, StringConstraints(max_length=500, pattern=r"^[^\x00]*$")] = ""
    shared: bool = False


class ViewOut(TypedDict):
    id: int
    place: Place
    name: str
    query: str
    shared: bool
    mine: bool


@router.get("/views", response=list[ViewOut], auth=allowed(Action.READ))
def views(request: HttpRequest, place: Place) -> list[ViewOut]:
    """Kept sentences of a list: one's own, and those that others share."""
    user = who(request)
    views = SavedView.objects.filter(Q(owner=user) | Q(shared=True), place=place)
    return [_view(view, user) for view in views]


@router.post("/views", response={201: ViewOut}, auth=allowed(Action.KEEP_VIEW))
def keep_view(request: HttpRequest, payload: ViewIn) -> Status[ViewOut]:
    """Keep a sentence under a name; the same name again takes the new sentence."""
    user = who(request)
    values = {"query": payload.query, "shared": payload.shared}
    kept, _ = SavedView.objects.update_or_create(owner=user, place=payload.place, name=payload.name, defaults=values)
    return Status(201, _view(kept, user))


@router.delete("/views/{view_id}", response={204: None}, auth=allowed(Action.KEEP_VIEW))
def drop_view(request: HttpRequest, view_id: Annotated[int, Field(ge=1, le=2**62)]) -> Status[None]:
    user = who(request)
    get_object_or_404(SavedView, pk=view_id, owner=user).delete()
    return Status(204, None)


def _view(view: SavedView, user: User) -> ViewOut:
    return {
        "id": view.pk,
        "place": Place(view.place),
        "name": view.name,
        "query": view.query,
        "shared": view.shared,
        "mine": view.owner_id == user.pk,
    }


@router.get("/supervisors", response=list[SupervisorOut], auth=allowed(Action.READ))
def supervisors(request: HttpRequest) -> list[User]:
    """Those under whom an apprentice may work."""
    qualified = User.objects.filter(is_active=True, is_new=False, role__in=[Role.TECHNICIAN, Role.LEAD])
    return list(qualified.order_by("first_name"))

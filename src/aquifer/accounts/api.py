from django.http import HttpRequest
from ninja import Router, Schema

from aquifer.accounts.access import Action, allowed, may
from aquifer.accounts.models import Role, User

router = Router(tags=["accounts"])


class MeOut(Schema):
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
def me(request: HttpRequest) -> dict[str, object]:
    user: User = request.auth  # type: ignore[attr-defined]
    return {
        "id": user.pk,
        "username": user.username,
        "name": user.name,
        "role": user.role,
        "licences": user.licences,
        "may": [action for action in Action if may(user.role, action)],
    }


@router.get("/supervisors", response=list[SupervisorOut], auth=allowed(Action.READ))
def supervisors(request: HttpRequest) -> list[User]:
    """Those under whom an apprentice may work."""
    return list(User.objects.filter(is_active=True, role__in=[Role.TECHNICIAN, Role.LEAD]).order_by("first_name"))

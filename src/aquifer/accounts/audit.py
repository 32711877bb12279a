"""What is noted of people besides the history of records: who came in from where, and who took what out."""

import datetime

from django.contrib.auth.signals import user_logged_in, user_logged_out, user_login_failed
from django.http import HttpRequest
from django.utils import timezone

from aquifer.accounts import sessions
from aquifer.accounts.models import Deed, Noted, User

KEPT = datetime.timedelta(days=400)
"""For so long it is kept: a year and the time to ask about it. Assumption."""


def note(deed: Deed, request: HttpRequest | None, by: User | None, about: str = "", name: str = "") -> None:
    """Note it, with where it came from. Parameters: name, of somebody who is nobody here."""
    address = request.META.get("REMOTE_ADDR", "") if request else ""
    name = (by.name if by else name).replace("\x00", "")[:80]
    Noted.objects.create(by=by, name=name, deed=deed, about=about[:160], address=address[:45])


def forget() -> int:
    """Drop what is older than it is kept."""
    return Noted.objects.filter(at__lt=timezone.now() - KEPT).delete()[0]


def listen() -> None:
    """Note signing in and out, whatever page it happens on."""
    user_logged_in.connect(_came, dispatch_uid="accounts.came")
    user_logged_out.connect(_went, dispatch_uid="accounts.went")
    user_login_failed.connect(_refused, dispatch_uid="accounts.refused")


def _came(request: HttpRequest | None, user: User, **_: object) -> None:
    if request is None:
        return
    sessions.began(request)
    note(Deed.SIGNED_IN, request, user, request.headers.get("User-Agent", ""))


def _went(request: HttpRequest | None, user: User | None, **_: object) -> None:
    if user is not None:
        note(Deed.SIGNED_OUT, request, user)


def _refused(credentials: dict[str, object], request: HttpRequest | None = None, **_: object) -> None:
    note(Deed.NOT_SIGNED_IN, request, None, name=str(credentials.get("username") or ""))

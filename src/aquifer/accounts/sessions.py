"""Sessions that tell whose they are, and end: Django's own, kept in rows that name their person."""

import datetime
from collections.abc import Callable
from typing import TYPE_CHECKING

from django.contrib.auth import SESSION_KEY, logout
from django.contrib.sessions.backends.db import SessionStore as Kept
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

if TYPE_CHECKING:
    from aquifer.accounts.models import Session

IDLE = datetime.timedelta(days=14)
"""A device that was not used for so long is nobody's. Assumption: longer than a holiday."""
LONGEST = datetime.timedelta(days=60)
"""After it everybody signs in anew. Assumption."""
SEEN_EVERY = datetime.timedelta(minutes=10)
"""How exactly it is known when a session was used last: what is written at each request would cost as much as it."""
_BEGAN, _SEEN, _AGENT, _ADDRESS = "began", "seen", "agent", "address"


class SessionStore(Kept):
    """A session in the database whose row names its person."""

    @classmethod
    def get_model_class(cls) -> "type[Session]":
        """The rows."""
        from aquifer.accounts.models import Session

        return Session

    def create_model_instance(self, data: dict[str, str]) -> "Session":
        """The row of a session, with what it says of itself."""
        from aquifer.accounts.models import Session

        row = super().create_model_instance(data)
        assert isinstance(row, Session)
        row.user_id = data.get(SESSION_KEY)
        row.began, row.seen = _moment(data.get(_BEGAN)), _moment(data.get(_SEEN))
        row.agent, row.address = data.get(_AGENT, "")[:200], data.get(_ADDRESS, "")[:45]
        return row


def began(request: HttpRequest) -> None:
    """Somebody signed in: say so in the session."""
    now = timezone.now().isoformat()
    request.session[_BEGAN] = request.session[_SEEN] = now
    request.session[_AGENT] = request.headers.get("User-Agent", "")[:200]
    request.session[_ADDRESS] = request.META.get("REMOTE_ADDR", "")[:45]


def aged(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """A session that was not used for long, or lasts for long, ends."""

    def answer(request: HttpRequest) -> HttpResponse:
        if SESSION_KEY in request.session:
            now = timezone.now()
            since, seen = (_moment(request.session.get(name)) for name in (_BEGAN, _SEEN))
            if since is None or seen is None:
                began(request)
            elif now - since > LONGEST or now - seen > IDLE:
                logout(request)
            elif now - seen > SEEN_EVERY:
                request.session[_SEEN] = now.isoformat()
        return get_response(request)

    return answer


def _moment(said: str | None) -> datetime.datetime | None:
    return datetime.datetime.fromisoformat(said) if said else None

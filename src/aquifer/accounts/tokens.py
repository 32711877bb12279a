"""Tokens by which other programs ask: shown once, kept as a digest, limited in time and in what they may."""

import datetime
import hashlib
import secrets

from django.utils import timezone

from aquifer.accounts.models import Token, User

PREFIX = "aqf_"
"""So that a token is known for one where it lies about."""


def make(owner: User, name: str, may_write: bool, expires_on: datetime.date) -> tuple[Token, str]:
    """A new token and its words, which nobody can read again."""
    words = PREFIX + secrets.token_urlsafe(32)
    made = Token.objects.create(
        owner=owner, name=name, may_write=may_write, expires_on=expires_on, begins=words[:8], digest=_digest(words)
    )
    return made, words


def found(words: str) -> Token | None:
    """The token of these words, if it is good today and its owner still is somebody; that it was used is kept."""
    today = timezone.localdate()
    good = Token.objects.filter(revoked_at=None, expires_on__gte=today, owner__is_active=True)
    token = good.select_related("owner").filter(digest=_digest(words)).first()
    if token is not None and token.used_on != today:
        Token.objects.filter(pk=token.pk).update(used_on=today)
    return token


def _digest(words: str) -> str:
    return hashlib.sha256(words.encode()).hexdigest()

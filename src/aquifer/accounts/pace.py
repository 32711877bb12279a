"""How often one person, or somebody from one address, may ask for what costs the server much."""

import hashlib

from django.http import HttpRequest
from ninja.throttling import BaseThrottle, SimpleRateThrottle

A_MINUTE = {"paper": 60, "computed": 300, "job": 12}
"""Papers and files that are drawn or written while one waits; what is computed as somebody tries a figure; jobs. Each
many times what a hand does, and few enough to leave the other threads theirs. Assumption."""
FORGOTTEN = "5/10m"
"""Links for a new password from one address: each is a job and a message. Assumption."""

PASSKEYS = "30/10m"
"""Tries of keys from one address: no key can be guessed, each try costs a session. Assumption."""


class Pace(SimpleRateThrottle):
    """Of whoever is signed in by their person, of others by the address they ask from. Each server process counts by
    itself."""

    def __init__(self, of: str, rate: str = "") -> None:
        self.scope = of
        super().__init__(rate or f"{A_MINUTE[of]}/m")

    def get_cache_key(self, request: HttpRequest) -> str:
        """By what is counted."""
        person = getattr(request, "auth", None)
        whose = f"person {person.pk}" if person is not None else f"address {request.META.get('REMOTE_ADDR', '')}"
        return self.cache_format % {"scope": self.scope, "ident": hashlib.sha256(whose.encode()).hexdigest()}


def dear(of: str) -> list[BaseThrottle]:
    """For a route: what of ``A_MINUTE`` it is."""
    return [Pace(of)]

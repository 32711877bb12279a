"""Who comes from where, and how much is taken from whom, before anything of it is read."""

import logging
from collections.abc import Callable
from ipaddress import ip_address, ip_network

from axes.models import AccessAttempt
from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.utils import timezone

from aquifer.accounts import tokens

FROM_NOBODY = 64 * 1024
"""Bytes that somebody who has not signed in may send: a form. Assumption."""
MOST = 34 * 1024 * 1024
"""Bytes of the largest file that is taken of anybody, with what a form puts around it."""
_log = logging.getLogger(__name__)
Answer = Callable[[HttpRequest], HttpResponse]


def real_address(get_response: Answer) -> Answer:
    """The address of whoever asks, where it is a named proxy that tells it: of nobody else is that believed."""
    proxies = [ip_network(one) for one in settings.PROXIES]

    def is_proxy(address: str) -> bool:
        try:
            return any(ip_address(address) in one for one in proxies)
        except ValueError:
            return False

    def answer(request: HttpRequest) -> HttpResponse:
        told = request.headers.get("X-Forwarded-For", "")
        # Each proxy appends whom it had before it: the last that is none of ours is whoever asks.
        for one in reversed([part.strip() for part in told.split(",") if part.strip()][-10:]):
            if not is_proxy(request.META.get("REMOTE_ADDR", "")):
                break
            request.META["REMOTE_ADDR"] = one
        return get_response(request)

    return answer


def bounded(get_response: Answer) -> Answer:
    """A body that is too large, or does not say how large it is, is refused before a byte of it is read or kept."""

    def answer(request: HttpRequest) -> HttpResponse:
        if request.headers.get("Transfer-Encoding"):
            return _refused(411, "length_required", "Say how long it is: a Content-Length is needed.")
        try:
            length = int(request.headers.get("Content-Length") or 0)
        except ValueError:
            return _refused(400, "bad_request", "The Content-Length is no number.")
        if length > MOST:
            said = f"What was sent has {length / 1e6:.0f} MB; at most {MOST / 1e6:.0f} MB are taken."
            return _refused(413, "too_large", said)
        if length > FROM_NOBODY and not _is_somebody(request):
            return _refused(401, "signed_out", "Sign in first; what you typed is kept on this page.")
        return get_response(request)

    return answer


MOST_NAMES = 10
"""Names at which one address may fail within the time that failures count. Assumption: more than an office mistypes."""


def is_spraying(address: str) -> bool:
    """Whether somebody at an address tries one password on many names; each name by itself would never be locked."""
    since = timezone.now() - settings.AXES_COOLOFF_TIME
    failed = AccessAttempt.objects.filter(ip_address=address, attempt_time__gte=since)
    names = failed.values("username").distinct().count()
    if names < MOST_NAMES:
        return False
    _log.warning("%d names were tried from %s: nobody signs in from there for now", names, address)
    return True


def _is_somebody(request: HttpRequest) -> bool:
    sent = request.headers.get("Authorization", "")
    if sent.startswith("Bearer "):
        return tokens.found(sent.removeprefix("Bearer ").strip()) is not None
    return request.user.is_authenticated


def _refused(status: int, code: str, message: str) -> HttpResponse:
    refused = JsonResponse({"code": code, "message": message, "fields": {}}, status=status)
    # What was not read is not taken for the next request.
    refused["Connection"] = "close"
    return refused

"""The one family of errors that the application raises on purpose, and the one body in which all are told.

Body: ``{"code": "heater.changed_meanwhile", "message": "...", "fields": {"capacity_l": "..."}}``.
"""

import logging
import sys
from collections.abc import Callable

from django.db import DatabaseError, InterfaceError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.template import loader
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, Throttled, ValidationError

from aquifer.logs import request_number
from aquifer.transactions import is_full, passes

_log = logging.getLogger(__name__)


class AquiferError(Exception):
    """Something a person can mend; ``code`` is stable, the message says what was found and what to do."""

    status = 400
    code = "bad_request"

    def __init__(self, message: str, code: str | None = None, fields: dict[str, str] | None = None) -> None:
        super().__init__(message)
        self.message, self.fields = message, fields or {}
        self.code = code or self.code


class Invalid(AquiferError):
    """What was sent cannot be so."""

    status = 422
    code = "invalid"


class NotAllowed(AquiferError):
    """Signed in, but this is for others."""

    status = 403
    code = "not_allowed"


class NotFound(AquiferError):
    """There is no such thing."""

    status = 404
    code = "not_found"


class Conflict(AquiferError):
    """Somebody else was there first."""

    status = 409
    code = "conflict"


class TooLarge(AquiferError):
    status = 413
    code = "too_large"


def register(api: NinjaAPI) -> None:
    """Tell every error in the same body."""

    def answer(request: HttpRequest, status: int, code: str, message: str, fields: dict[str, str]) -> HttpResponse:
        return api.create_response(request, {"code": code, "message": message, "fields": fields}, status=status)

    @api.exception_handler(AquiferError)
    def ours(request: HttpRequest, error: AquiferError) -> HttpResponse:
        return answer(request, error.status, error.code, error.message, error.fields)

    @api.exception_handler(ValidationError)
    def invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
        fields = {_field(entry["loc"]): _PLAIN.get(entry["type"]) or entry["msg"] for entry in error.errors}
        named = "; ".join(f"{name or 'the request'}: {message}" for name, message in list(fields.items())[:4])
        return answer(request, 422, "invalid", f"Not accepted. {named}", fields)

    @api.exception_handler(Http404)
    def missing(request: HttpRequest, error: Http404) -> HttpResponse:
        return answer(request, 404, "not_found", "There is no such record, or it was archived.", {})

    @api.exception_handler(AuthenticationError)
    def unknown(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
        return answer(request, 401, "signed_out", "Sign in first; what you typed is kept on this page.", {})

    @api.exception_handler(DatabaseError)
    @api.exception_handler(InterfaceError)
    def busy(request: HttpRequest, error: Exception) -> HttpResponse:
        if is_full(error):
            return full(request, error)
        if not passes(error):
            raise error
        _log.warning("The database is busy or away: %s", error)
        answered = answer(request, 503, "try_again", TRY_AGAIN, {})
        answered["Retry-After"] = str(RETRY_AFTER_S)
        return answered

    @api.exception_handler(OSError)
    def full(request: HttpRequest, error: Exception) -> HttpResponse:
        if not is_full(error):
            raise error
        _log.error("There is no room on a disk: %s", error)
        answered = answer(request, 503, "no_room", NO_ROOM, {})
        answered["Retry-After"] = str(RETRY_AFTER_S)
        return answered

    @api.exception_handler(Throttled)
    def too_often(request: HttpRequest, error: Throttled) -> HttpResponse:
        answered = answer(request, 429, "too_often", TOO_OFTEN, {})
        answered["Retry-After"] = str(round(error.wait or RETRY_AFTER_S))
        return answered

    @api.exception_handler(HttpError)
    def other(request: HttpRequest, error: HttpError) -> HttpResponse:
        return answer(request, error.status_code, "bad_request", str(error), {})


TRY_AGAIN = "The database does not answer at the moment. Nothing was changed, and what you typed is kept: try again."
NO_ROOM = (
    "The server's disk is full. Nothing was kept of this, and what you typed is still here: tell whoever looks after "
    "the server, and try again once there is room."
)
TOO_OFTEN = "That was asked too often just now, and costs the server much. Wait a minute, and ask again."
RETRY_AFTER_S = 5


def server_failed(request: HttpRequest) -> HttpResponse:
    """What no page or route expected: of a database that is away the truth, of the rest that it is noted."""
    why = sys.exc_info()[1]
    away = passes(why) or is_full(why)
    status, code, message = (500, *_WORDS[500])
    if away:
        status, code, message = (503, "no_room", NO_ROOM) if is_full(why) else (503, "try_again", TRY_AGAIN)
    if not away and (number := request_number()):
        # By which whoever looks after the server finds what was noted.
        message += f" Its number is {number}."
    if request.path.startswith("/api/"):
        answered: HttpResponse = JsonResponse({"code": code, "message": message, "fields": {}}, status=status)
    else:
        answered = HttpResponse(loader.render_to_string("failed.html", {"message": message}, request), status=status)
    if away:
        answered["Retry-After"] = str(RETRY_AFTER_S)
    return answered


_PLAIN = dict.fromkeys(
    ("float_parsing", "float_type", "int_parsing", "int_type", "int_from_float"), "This is not a number that fits here."
) | dict.fromkeys(
    ("date_from_datetime_parsing", "date_parsing", "date_type"), "This is not a day; write it like 2026-11-25."
)
"""What people read where the checking library speaks of parsing; by its names of what is wrong."""


def _field(place: tuple[object, ...]) -> str:
    """The field's name without the part of the request it came in."""
    return ".".join(str(part) for part in place if part not in ("body", "query", "path", "payload", "filters"))


_WORDS = {
    403: ("forged", "The request did not come from this application's own page: reload it and try again."),
    404: ("not_found", "There is nothing at this address."),
    405: ("method_not_allowed", "This address does not take such a request."),
    413: ("too_large", "What was sent is larger than is taken."),
    500: ("unexpected", "The server failed at this, and nothing was changed. It has noted why."),
}


def one_body(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """What Django itself refuses, before or beside any route, is told in the same body."""

    def answer(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        is_ours = response.headers.get("Content-Type", "").startswith("application/json")
        if request.path.startswith("/api/") and response.status_code >= 400 and not is_ours:
            code, message = _WORDS.get(response.status_code, ("bad_request", "This request could not be read."))
            return JsonResponse({"code": code, "message": message, "fields": {}}, status=response.status_code)
        return response

    return answer

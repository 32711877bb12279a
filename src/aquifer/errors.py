"""The one family of errors that the application raises on purpose, and the one body in which all are told.

Body: ``{"code": "heater.changed_meanwhile", "message": "...", "fields": {"capacity_l": "..."}}``.
"""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI, Schema
from ninja.errors import AuthenticationError, HttpError, ValidationError


class ErrorOut(Schema):
    code: str
    message: str
    fields: dict[str, str] = {}


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

    def ours(request: HttpRequest, error: AquiferError) -> HttpResponse:
        return answer(request, error.status, error.code, error.message, error.fields)

    def invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
        fields = {_field(entry["loc"]): entry["msg"] for entry in error.errors}
        named = "; ".join(f"{name or 'the request'}: {message}" for name, message in list(fields.items())[:4])
        return answer(request, 422, "invalid", f"Not accepted. {named}", fields)

    def missing(request: HttpRequest, error: Http404) -> HttpResponse:
        return answer(request, 404, "not_found", "There is no such record, or it was archived.", {})

    def unknown(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
        return answer(request, 401, "signed_out", "Sign in first; what you typed is kept on this page.", {})

    def other(request: HttpRequest, error: HttpError) -> HttpResponse:
        return answer(request, error.status_code, "bad_request", str(error), {})

    api.add_exception_handler(AquiferError, ours)
    api.add_exception_handler(ValidationError, invalid)
    api.add_exception_handler(Http404, missing)
    api.add_exception_handler(AuthenticationError, unknown)
    api.add_exception_handler(HttpError, other)


def _field(place: tuple[Any, ...]) -> str:
    """The field's name without the part of the request it came in."""
    return ".".join(str(part) for part in place if part not in ("body", "query", "path", "payload", "filters"))

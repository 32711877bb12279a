"""What the program writes down of itself: one JSON object a line, with its time, request, user and job.

Nothing of a customer is in it: no query, no body, and of an address that lets its holder in only what it is for.
"""

import logging
from typing import cast

import structlog
from django.http import HttpRequest, HttpResponse
from django_structlog.middlewares import RequestMiddleware
from structlog.typing import EventDict, Processor

_HOLDERS = ("/answer/", "/calendar/", "/set-password/")
"""Whoever has the whole address is let in."""


class Requests(RequestMiddleware):
    """Writes down each request, and tells its number, which is also on the page of a failure."""

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer, with the request's number."""
        structlog.contextvars.clear_contextvars()
        self.prepare(request)
        number = request_number()
        response = cast(HttpResponse, self.get_response(request))
        self.handle_response(request, response)
        response["X-Request-Id"] = number
        return response

    @classmethod
    def bind_ip(cls, request: HttpRequest) -> None:
        """Where it comes from, as ``accounts.door`` found it."""
        structlog.contextvars.bind_contextvars(ip=request.META.get("REMOTE_ADDR", ""))

    @staticmethod
    def format_request(request: HttpRequest) -> str:
        """What was asked, without what was sent with it."""
        return f"{request.method} {path_told(request.path)}"


def path_told(path: str) -> str:
    """A path as it is written down: of one that lets its holder in only what it is for."""
    return next((f"{one}…" for one in _HOLDERS if path.startswith(one)), path)


def request_number() -> str:
    """By which what was written down of this request is found; empty outside of one."""
    return str(structlog.contextvars.get_contextvars().get("request_id", ""))


def _job(_logger: object, _name: str, event: EventDict) -> EventDict:
    """Of what a worker says which job it was at; not what the job was given, which names people."""
    record: logging.LogRecord | None = event.get("_record")
    job = getattr(record, "job", None)
    if isinstance(job, dict):
        event["job"], event["task"] = job.get("id"), job.get("task_name")
    return event


_BEFORE: list[Processor] = [
    structlog.contextvars.merge_contextvars,
    structlog.stdlib.add_log_level,
    structlog.stdlib.add_logger_name,
    structlog.processors.TimeStamper(fmt="iso", utc=True, key="time"),
]


def configured(to_mail: bool = False) -> dict[str, object]:
    """Logging as Django and Gunicorn are given it. Parameters: to_mail, errors to those whom they concern besides."""
    structlog.configure(
        processors=[*_BEFORE, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        logger_factory=structlog.stdlib.LoggerFactory(),
        cache_logger_on_first_use=True,
    )
    handlers: dict[str, dict[str, object]] = {"console": {"class": "logging.StreamHandler", "formatter": "line"}}
    if to_mail:
        mail = "django.utils.log.AdminEmailHandler"
        handlers["mail"] = {"class": mail, "level": "ERROR", "include_html": False}
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {
            "line": {
                "()": structlog.stdlib.ProcessorFormatter,
                "processors": [
                    _job,
                    structlog.stdlib.ProcessorFormatter.remove_processors_meta,
                    structlog.processors.format_exc_info,
                    structlog.processors.JSONRenderer(ensure_ascii=False),
                ],
                "foreign_pre_chain": _BEFORE,
            }
        },
        "handlers": handlers,
        "root": {"handlers": list(handlers), "level": "WARNING"},
        "loggers": {
            "axes": {"level": "ERROR"},
            "aquifer": {"level": "INFO"},
            "django_structlog": {"level": "INFO"},
            # It says the same as the line of the request, without its number.
            "django.request": {"level": "CRITICAL"},
            "procrastinate.worker": {"level": "INFO"},
            "gunicorn.error": {"level": "INFO", "handlers": list(handlers), "propagate": False},
        },
    }

"""The company's time zone: a day, a promise and a quiet hour are told by its clock, wherever the server stands."""

import datetime
from collections.abc import Callable
from functools import wraps
from typing import ParamSpec, TypeVar
from zoneinfo import ZoneInfo

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from aquifer.company.models import Clock, Company, WeekStart

_BY_THE_CLOCK = ("/api/", "/admin/", "/answer/", "/calendar/")


def zone() -> ZoneInfo:
    """In which the company tells its days."""
    return ZoneInfo(Company.current().time_zone or settings.TIME_ZONE)


def week_of(day: datetime.date) -> datetime.date:
    """The first day of a day's week, as the company counts weeks."""
    return WeekStart(Company.current().week_start).week_of(day)


def told(minutes: int) -> str:
    """A time of the day, by its minutes after midnight, as the company tells it: 15:30, or 3:30 pm."""
    hour, minute = divmod(minutes, 60)
    if Company.current().clock == Clock.TWELVE:
        return f"{(hour + 11) % 12 + 1}:{minute:02d} {'am' if hour < 12 else 'pm'}"
    return f"{hour}:{minute:02d}"


def in_its_zone(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Answers by the company's clock whatever tells or reads a day."""

    def answer(request: HttpRequest) -> HttpResponse:
        if not request.path.startswith(_BY_THE_CLOCK):
            return get_response(request)
        with Company.read_once(), timezone.override(zone()):
            return get_response(request)

    return answer


P = ParamSpec("P")
R = TypeVar("R")


def by_its_clock(job: Callable[P, R]) -> Callable[P, R]:
    """A job that runs by the company's clock."""

    @wraps(job)
    def run(*args: P.args, **named: P.kwargs) -> R:
        with timezone.override(zone()):
            return job(*args, **named)

    return run

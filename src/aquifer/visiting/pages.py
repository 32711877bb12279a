"""What an owner's own link opens after a visit."""

from django.http import HttpRequest, HttpResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

from aquifer.visiting import owners_calendar, report


@never_cache
@require_GET
def owners_year(request: HttpRequest, key: str) -> HttpResponse:
    """What is done once a year at their heater, for their calendar."""
    visit = owners_calendar.opened(key)
    if visit is None:
        return HttpResponse("This address is not, or no longer, good.", status=404, content_type="text/plain")
    book = owners_calendar.written(visit, report.year(visit))
    return HttpResponse(book, content_type="text/calendar; charset=utf-8")

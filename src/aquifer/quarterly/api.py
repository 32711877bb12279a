import datetime
from typing import Annotated

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Query, Router
from pydantic import Field

from aquifer.accounts.access import Action, allowed
from aquifer.accounts.pace import dear
from aquifer.errors import Invalid
from aquifer.quarterly import paper
from aquifer.quarterly.content import Quarter, read
from aquifer.wire import Payload

router = Router(tags=["quarterly"])


class QuarterIn(Payload):
    """Which quarter; the newest that is over where nobody says."""

    year: Annotated[int | None, Field(ge=1950, le=2199)] = None
    quarter: Annotated[int | None, Field(ge=1, le=4)] = None


@router.get("/quarterly.pdf", auth=allowed(Action.KEEP_PRICES), throttle=dear("paper"))
def quarterly(request: HttpRequest, asked: Query[QuarterIn]) -> HttpResponse:
    """A quarter of the company on four pages, for an owner who does not log in."""
    today = timezone.localdate()
    quarter = _asked(asked, today)
    answer = HttpResponse(paper.pdf(read(quarter, today), today), content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="quarter-{quarter.year}-{quarter.number}.pdf"'
    return answer


def _asked(asked: QuarterIn, today: datetime.date) -> Quarter:
    if (asked.year is None) != (asked.quarter is None):
        raise Invalid("A quarter is told by its year and its number.", "quarter.half", {"quarter": "year and quarter"})
    if asked.year is None or asked.quarter is None:
        return Quarter.last_full(today)
    quarter = Quarter(asked.year, asked.quarter)
    if quarter.first > today:
        raise Invalid("That quarter has not begun.", "quarter.ahead", {"quarter": f"until {Quarter.of(today)}"})
    return quarter

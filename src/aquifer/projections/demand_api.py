import csv
import datetime
import io
from typing import Annotated

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router, Status
from pydantic import Field
from typing_extensions import TypedDict

from aquifer.accounts.access import Action, allowed
from aquifer.accounts.pace import dear
from aquifer.formats.csv_table import BOM
from aquifer.projections import demand
from aquifer.projections.models import MonthsAhead
from aquifer.projections.tasks import reckon_months

router = Router(tags=["projections"])


class KindMonthsOut(TypedDict):
    kind: str
    counts: Annotated[list[int], Field(description="Of each month since the first that is over.")]
    first: datetime.date
    months: Annotated[list[demand.FanOut], Field(description="From the month that is not over on.")]
    quarter: demand.FanOut
    year: demand.FanOut
    has_season: bool
    has_trend: bool
    by_the_base: Annotated[
        demand.BaseOut | None, Field(description="The coming year as the base's heaters alone are reckoned to ask.")
    ]
    agree: Annotated[bool, Field(description="Whether the two have anything in common; so where there is one alone.")]


class DemandOut(TypedDict):
    reckoned_on: Annotated[datetime.date | None, Field(description="None: not yet; ask for it.")]
    first: datetime.date | None
    kinds: list[KindMonthsOut]
    hours: list[demand.MonthHours]
    held: demand.HeldMonths


@router.get("/demand", response=DemandOut, auth=allowed(Action.READ))
def demand_by_month(request: HttpRequest) -> DemandOut:
    """Calls and work by the month: what came, what is expected, and for which months hours are short."""
    return _told()


@router.post("/demand", response={202: None}, auth=allowed(Action.SET_PRACTICE), throttle=dear("job"))
def reckon_demand(request: HttpRequest) -> Status[None]:
    """Have it reckoned anew, by a job; every month it is by itself."""
    reckon_months.defer()
    return Status(202, None)


@router.get("/demand.csv", auth=allowed(Action.READ), throttle=dear("paper"))
def demand_table(request: HttpRequest) -> HttpResponse:
    """The same as a table: a line for each kind and month."""
    lines = io.StringIO()
    writer = csv.writer(lines)
    writer.writerow(["kind", "month", "came", "low", "middle", "high"])
    told = _told()
    for kind in told["kinds"]:
        for number, came in enumerate(kind["counts"]):
            writer.writerow([kind["kind"], demand.later(kind["first"], number).isoformat()[:7], came, "", "", ""])
        for number, fan in enumerate(kind["months"]):
            assert told["first"] is not None
            month = demand.later(told["first"], number).isoformat()[:7]
            writer.writerow([kind["kind"], month, "", fan["low"], fan["middle"], fan["high"]])
    answer = HttpResponse(BOM + lines.getvalue(), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = 'attachment; filename="calls-and-work-by-month.csv"'
    return answer


def _told() -> DemandOut:
    today, kept = timezone.localdate(), MonthsAhead.objects.first()
    if kept is None:
        return {"reckoned_on": None, "first": None, "kinds": [], "hours": [], "held": {"inside": 0, "of": 0}}
    found: demand.Found = kept.found
    base = demand.by_the_base()
    return {
        "reckoned_on": kept.reckoned_on,
        "first": datetime.date.fromisoformat(found["first"]),
        "kinds": [
            {
                **kind,
                "first": datetime.date.fromisoformat(kind["first"]),
                "by_the_base": base.get(kind["kind"]),
                "agree": kind["kind"] not in base or demand.agree(kind["year"], base[kind["kind"]]),
            }
            for kind in found["kinds"]
        ],
        "hours": demand.hours(found, today),
        "held": demand.held(today),
    }

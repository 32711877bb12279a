from django.http import HttpRequest
from django.utils import timezone
from ninja import Router

from aquifer.accounts.access import Action, allowed, may, who
from aquifer.review import accuracy, failures, hours, kept, practices, replacements, schemas, work
from aquifer.standby import read_apart

router = Router(tags=["review"])


@router.get("/review/practices", response=schemas.PracticesOut, auth=allowed(Action.READ))
@read_apart
def practices_compared(request: HttpRequest) -> schemas.PracticesOut:
    """What each school of cleaning would cost and leave, on each water."""
    return kept.read("practices", practices.read, timezone.localdate())


@router.get("/review/forecasts", response=schemas.ForecastsHeldOut, auth=allowed(Action.READ))
@read_apart
def forecasts(request: HttpRequest) -> schemas.ForecastsHeldOut:
    """What was measured against what had been told, and what the base taught."""
    found = kept.read("forecasts", accuracy.read, timezone.localdate())
    return found if may(who(request).role, Action.SET_PRACTICE) else accuracy.without_people(found)


@router.get("/review/replacements", response=schemas.ReplacementsOut, auth=allowed(Action.READ))
@read_apart
def tanks(request: HttpRequest) -> schemas.ReplacementsOut:
    """How many tanks will fail, and which first."""
    return kept.read("replacements", replacements.read, timezone.localdate())


@router.get("/review/work", response=list[schemas.WorkYearOut], auth=allowed(Action.READ))
@read_apart
def work_by_year(request: HttpRequest) -> list[schemas.WorkYearOut]:
    """What the work was in each of the last years."""
    return work.by_year(timezone.localdate())


@router.get("/review/hours", response=schemas.HoursOut, auth=allowed(Action.READ))
@read_apart
def visit_hours(request: HttpRequest) -> schemas.HoursOut:
    """How long visits take, and whether what is planned for them holds."""
    return hours.read(timezone.localdate())


@router.get("/builds", response=list[schemas.BuildOut], auth=allowed(Action.READ))
@read_apart
def builds(request: HttpRequest) -> list[schemas.BuildOut]:
    """Failures by part and build, those that fail more than all together first."""
    return failures.failures()

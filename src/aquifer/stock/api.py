from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router

from aquifer.accounts.access import Action, allowed
from aquifer.accounts.pace import dear
from aquifer.core.planning.kit import KIT
from aquifer.errors import NotFound
from aquifer.history import versions
from aquifer.rounds.models import CrewMember
from aquifer.stock import lists, sheets
from aquifer.stock.models import Held, StockSettings
from aquifer.stock.schemas import CountIn, LevelIn, LevelOut, StockOut
from aquifer.wire import Day, Id

router = Router(tags=["stock"])


@router.get("/stock/{on}", response=StockOut, auth=allowed(Action.READ))
def stock(request: HttpRequest, on: Day) -> StockOut:
    """What each truck should carry on a day, and what the coming month needs."""
    level = StockSettings.current()
    return {
        "service_level": level.service_level,
        "service_level_version": versions.version_of(level),
        "trucks": lists.of_day(on),
        "to_buy": lists.to_buy(timezone.localdate()),
        "kit": [{"what_for": what_for, "things": list(things)} for what_for, things in KIT],
    }


@router.get("/rounds/days/{on}/sheet.pdf", auth=allowed(Action.READ), throttle=dear("paper"))
def day_sheet(request: HttpRequest, on: Day, member_id: Id | None = None) -> HttpResponse:
    """A day on paper: a page a technician, with calls in their order and what to load."""
    return _paper(sheets.of_day(on, member_id), f"rounds {on}")


@router.get("/rounds/weeks/{week}/plan.pdf", auth=allowed(Action.READ), throttle=dear("paper"))
def week_plan(request: HttpRequest, week: Day) -> HttpResponse:
    """A week's plan on paper: who is where, day by day, and what has no day yet."""
    return _paper(sheets.of_week(week), f"week of {week}")


def _paper(page: bytes, name: str) -> HttpResponse:
    answer = HttpResponse(page, content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="{name}.pdf"'
    return answer


@router.put("/stock", response=CountIn, auth=allowed(Action.COUNT))
def count(request: HttpRequest, payload: CountIn) -> Held:
    """Somebody has counted what lies on a truck, or in the store."""
    if payload.member_id is not None and not CrewMember.objects.filter(pk=payload.member_id).exists():
        raise NotFound("There is nobody of that number in the crew.", fields={"member_id": "?"})
    return lists.count(payload.part, payload.member_id, payload.quantity)


@router.put("/stock-settings", response=LevelOut, auth=allowed(Action.PLAN))
def set_level(request: HttpRequest, payload: LevelIn) -> LevelOut:
    """How sure the company wants to be that a part is along."""
    said = {"service_level": payload.service_level}
    now = versions.write(StockSettings, {"pk": 1}, payload.version, said)
    return {"service_level": now.service_level, "version": versions.version_of(now)}

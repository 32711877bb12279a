from django.http import HttpRequest
from django.utils import timezone
from ninja import Router

from aquifer.accounts.access import Action, allowed
from aquifer.core.planning.kit import KIT
from aquifer.errors import NotFound
from aquifer.rounds.models import CrewMember
from aquifer.stock import lists
from aquifer.stock.models import Held, StockSettings
from aquifer.stock.schemas import CountIn, LevelIn, StockOut
from aquifer.wire import Day

router = Router(tags=["stock"])


@router.get("/stock/{on}", response=StockOut, auth=allowed(Action.READ))
def stock(request: HttpRequest, on: Day) -> StockOut:
    """What each truck should carry on a day, and what the coming month needs."""
    return {
        "service_level": StockSettings.current().service_level,
        "trucks": lists.of_day(on),
        "to_buy": lists.to_buy(timezone.localdate()),
        "kit": [{"what_for": what_for, "things": list(things)} for what_for, things in KIT],
    }


@router.put("/stock", response=CountIn, auth=allowed(Action.COUNT))
def count(request: HttpRequest, payload: CountIn) -> Held:
    """Somebody has counted what lies on a truck, or in the store."""
    if payload.member_id is not None and not CrewMember.objects.filter(pk=payload.member_id).exists():
        raise NotFound("There is nobody of that number in the crew.", fields={"member_id": "?"})
    return lists.count(payload.part, payload.member_id, payload.quantity)


@router.put("/stock-settings", response=LevelIn, auth=allowed(Action.PLAN))
def set_level(request: HttpRequest, payload: LevelIn) -> StockSettings:
    """How sure the company wants to be that a part is along."""
    now = StockSettings.current()
    now.service_level = payload.service_level
    now.save()
    return now

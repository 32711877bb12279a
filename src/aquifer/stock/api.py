from typing import Annotated, Any

from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema
from pydantic import Field, StringConstraints

from aquifer.accounts.access import Action, allowed
from aquifer.core.planning.kit import KIT
from aquifer.errors import NotFound
from aquifer.rounds.models import CrewMember
from aquifer.stock import lists
from aquifer.stock.models import StockSettings
from aquifer.wire import Day, Payload

router = Router(tags=["stock"])


class StockLineOut(Schema):
    part: str
    expected: float = Field(description="How many will be needed on average.")
    quantity: float = Field(description="How many suffice with the service level that is set.")
    held: float
    to_add: float


class TruckOut(Schema):
    member_id: int
    name: str
    lines: list[StockLineOut]
    brings: list[str] = Field([], description="What the places of the day ask for besides.")


class KitOut(Schema):
    what_for: str
    things: list[str]


class StockOut(Schema):
    service_level: float
    trucks: list[TruckOut]
    to_buy: list[StockLineOut]
    kit: list[KitOut] = Field([], description="What every truck always has along.")


class CountIn(Payload):
    part: Annotated[str, StringConstraints(min_length=1, max_length=80, pattern=r"^[^\x00]*$")]
    member_id: Annotated[int, Field(ge=1, le=2**62)] | None = None
    quantity: Annotated[float, Field(ge=0, le=100_000)]


class LevelIn(Payload):
    service_level: Annotated[float, Field(ge=0.5, le=0.999)]


@router.get("/stock/{on}", response=StockOut, auth=allowed(Action.READ))
def stock(request: HttpRequest, on: Day) -> dict[str, Any]:
    """What each truck should carry on a day, and what the coming month needs."""
    return {
        "service_level": StockSettings.current().service_level,
        "trucks": lists.of_day(on),
        "to_buy": lists.to_buy(timezone.localdate()),
        "kit": [{"what_for": what_for, "things": things} for what_for, things in KIT],
    }


@router.put("/stock", response=CountIn, auth=allowed(Action.COUNT))
def count(request: HttpRequest, payload: CountIn) -> Any:
    """Somebody has counted what lies on a truck, or in the store."""
    if payload.member_id is not None and not CrewMember.objects.filter(pk=payload.member_id).exists():
        raise NotFound("There is nobody of that number in the crew.", fields={"member_id": "?"})
    return lists.count(payload.part, payload.member_id, payload.quantity)


@router.put("/stock-settings", response=LevelIn, auth=allowed(Action.PLAN))
def set_level(request: HttpRequest, payload: LevelIn) -> Any:
    """How sure the company wants to be that a part is along."""
    now = StockSettings.current()
    now.service_level = payload.service_level
    now.save()
    return now

from collections.abc import Sequence

from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router, Status

from aquifer.accounts.access import Action, allowed, who
from aquifer.accounts.pace import dear
from aquifer.core.planning.kit import KIT
from aquifer.core.units import worded
from aquifer.errors import NotFound
from aquifer.formats.csv_table import cell, lines_of_cells
from aquifer.history import versions
from aquifer.rounds.models import CrewMember
from aquifer.stock import lists, moves, sheets
from aquifer.stock.models import Held, Moved, StockSettings
from aquifer.stock.schemas import CountIn, LevelIn, LevelOut, PartMovedOut, PartMoveIn, StockOut
from aquifer.visits.words import units_shown
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
        "moved": [_told(one) for one in moves.last()],
        "crew": [{"member_id": one.pk, "name": one.user.name} for one in _crew()],
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


@router.post("/stock-moves", response={201: PartMovedOut}, auth=allowed(Action.COUNT))
def move(request: HttpRequest, payload: PartMoveIn) -> Status[PartMovedOut]:
    """Parts came in, or went from one place to another."""
    return Status(201, _told(moves.move(who(request), moves.Move(**payload.model_dump()))))


def _told(one: Moved) -> PartMovedOut:
    return {
        "at": one.at,
        "by": one.by.name,
        "part": one.part,
        "quantity": one.quantity,
        "source": "supplier" if one.received else _place(one.source),
        "target": _place(one.target),
    }


def _place(member: CrewMember | None) -> str:
    return "store" if member is None else member.user.name


def _crew() -> QuerySet[CrewMember]:
    return CrewMember.objects.filter(user__is_active=True).select_related("user").order_by("pk")


@router.get("/stock/{on}/loads.csv", response={200: None}, auth=allowed(Action.READ), throttle=dear("paper"))
def loads_file(request: HttpRequest, on: Day) -> HttpResponse:
    """What each truck is to load for a day, as a file (CSV, RFC 4180)."""
    units = units_shown()
    rows = [
        [truck["name"], worded(line["part"], units), line["quantity"], line["held"], line["to_add"]]
        for truck in lists.of_day(on)
        for line in truck["lines"]
    ]
    return _file(["truck", "part", "have along", "on it", "load"], rows, f"loads {on}")


@router.get("/stock-order.csv", response={200: None}, auth=allowed(Action.READ), throttle=dear("paper"))
def order_file(request: HttpRequest) -> HttpResponse:
    """What is to be bought for the coming month, as a file (CSV, RFC 4180): a purchase order without prices."""
    units, today = units_shown(), timezone.localdate()
    rows = [[worded(one["part"], units), one["to_add"]] for one in lists.to_buy(today) if one["to_add"] > 0]
    return _file(["part", "quantity"], rows, f"order {today}")


def _file(heads: list[str], rows: Sequence[Sequence[object]], name: str) -> HttpResponse:
    cells = ([cell(f"{one:g}" if isinstance(one, float) else one) for one in row] for row in rows)
    answer = HttpResponse("".join(lines_of_cells(heads, cells)), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="{name}.csv"'
    return answer


@router.put("/stock-settings", response=LevelOut, auth=allowed(Action.PLAN))
def set_level(request: HttpRequest, payload: LevelIn) -> LevelOut:
    """How sure the company wants to be that a part is along."""
    said = {"service_level": payload.service_level}
    now = versions.write(StockSettings, {"pk": 1}, payload.version, said)
    return {"service_level": now.service_level, "version": versions.version_of(now)}

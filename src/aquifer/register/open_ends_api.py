from django.db.models import Count, Q, QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Router, Status

from aquifer.accounts.access import Action, allowed, who
from aquifer.accounts.pace import dear
from aquifer.core.place import Severity
from aquifer.formats.csv_table import BOM, table_lines
from aquifer.open_ends import keep, schemas
from aquifer.open_ends.models import WORST_FIRST, Campaign, OpenEnd, OpenEndKind, OpenEndState
from aquifer.open_ends.schemas import OpenEndOut
from aquifer.register import campaigns_file
from aquifer.register.site_page import open_ends_out
from aquifer.wire import Id, Limit, Offset, Words

router = Router(tags=["open ends"])


@router.get("/open-ends", response=schemas.OpenEndPageOut, auth=allowed(Action.READ))
def open_ends(
    request: HttpRequest,
    q: Words = "",
    state: OpenEndState | None = None,
    severity: Severity | None = None,
    kind: OpenEndKind | None = None,
    heater_id: Id | None = None,
    offset: Offset = 0,
    limit: Limit = 100,
) -> schemas.OpenEndPageOut:
    """What is not in order, the worst first; without a state, all that is not closed."""
    open_ends = OpenEnd.objects.filter(state=state) if state else OpenEnd.objects.exclude(state=OpenEndState.CLOSED)
    if kind is not None:
        open_ends = open_ends.filter(kind=kind)
    if heater_id is not None:
        open_ends = open_ends.filter(heater=heater_id)
    for word in q.lower().split()[:8]:
        open_ends = open_ends.filter(
            Q(words__icontains=word)
            | Q(site__name__icontains=word)
            | Q(site__street__icontains=word)
            | Q(heater__tag__icontains=word)
        )
    by_severity = dict(open_ends.order_by().values_list("severity").annotate(n=Count("pk")))
    if severity is not None:
        open_ends = open_ends.filter(severity=severity)
    page = open_ends.order_by(*WORST_FIRST)[offset : offset + limit]
    return {"total": open_ends.count(), "rows": open_ends_out(page), "by_severity": by_severity}


@router.post("/open-ends", response={201: OpenEndOut}, auth=allowed(Action.RECORD_PLACE))
def raise_one(request: HttpRequest, payload: schemas.OpenEndIn) -> Status[OpenEndOut]:
    made = keep.raise_one(payload, who(request), timezone.localdate())
    return Status(201, _one(made.pk))


@router.post("/open-ends/{open_end_id}/state", response=OpenEndOut, auth=allowed(Action.RECORD_PLACE))
def move(request: HttpRequest, open_end_id: Id, payload: schemas.StateIn) -> OpenEndOut:
    return _one(keep.move(open_end_id, payload, timezone.localdate()).pk)


@router.get("/campaigns", response=list[schemas.CampaignOut], auth=allowed(Action.READ))
def campaigns(request: HttpRequest) -> "QuerySet[Campaign]":
    return _counted()


@router.post("/campaigns", response={201: schemas.CampaignOut}, auth=allowed(Action.EDIT_REGISTER))
def start(request: HttpRequest, payload: schemas.CampaignIn) -> Status[Campaign]:
    made = keep.start(payload, who(request), timezone.localdate())
    return Status(201, _counted().get(pk=made.pk))


@router.get(
    "/campaigns/{campaign_id}.csv", response={200: None}, auth=allowed(Action.EDIT_REGISTER), throttle=dear("paper")
)
def proof(request: HttpRequest, campaign_id: Id) -> HttpResponse:
    """What was seen at each heater of a campaign, for the maker: plate, result, day and photographs."""
    campaign = get_object_or_404(Campaign, pk=campaign_id)
    lines = "".join(table_lines(list(campaigns_file.COLUMNS), campaigns_file.rows(campaign)))
    answer = HttpResponse(f"{BOM}{lines}", content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = f'attachment; filename="campaign-{campaign.pk}.csv"'
    return answer


@router.post("/campaigns/{campaign_id}/end", response=schemas.CampaignOut, auth=allowed(Action.EDIT_REGISTER))
def end(request: HttpRequest, campaign_id: Id) -> Campaign:
    return _counted().get(pk=keep.end(campaign_id, timezone.localdate()).pk)


def _counted() -> "QuerySet[Campaign]":
    still = ~Q(open_ends__state=OpenEndState.CLOSED) & Q(open_ends__isnull=False)
    return Campaign.objects.annotate(heaters=Count("open_ends"), to_do=Count("open_ends", filter=still))


def _one(open_end_id: int) -> OpenEndOut:
    return open_ends_out(OpenEnd.objects.filter(pk=open_end_id))[0]

from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Query, Router, Status
from pydantic import Field

from aquifer.accounts.access import Action, allowed, may
from aquifer.core.vocabulary import Component
from aquifer.heaters.models import Heater
from aquifer.visits import guide, report
from aquifer.visits.models import Visit
from aquifer.visits.record import record_visit
from aquifer.visits.schemas import GuideOut, VisitIn, VisitOut

router = Router(tags=["visits"])
Id = Annotated[int, Field(ge=1, le=2**62)]


@router.get("/heaters/{heater_id}/guide", response=GuideOut, auth=allowed(Action.RECORD_VISIT))
def read_guide(
    request: HttpRequest,
    heater_id: Id,
    component: list[Component] | None = Query(None),  # noqa: B008
) -> dict[str, Any]:
    """The procedures of a visit with everything that holds their steps, for what is planned or due, or as asked."""
    by: Any = request.auth  # type: ignore[attr-defined]
    heater = get_object_or_404(Heater.objects.in_service().select_related("site"), pk=heater_id)
    told = guide.read(heater, by, timezone.localdate(), component)
    return told | {"may_override": may(by.role, Action.OVERRIDE)}


@router.post("/visits", response={200: VisitOut, 201: VisitOut}, auth=allowed(Action.RECORD_VISIT))
def record(request: HttpRequest, payload: VisitIn) -> Status[dict[str, Any]]:
    """Record a visit once, whatever happens on the way, and answer with what it moved."""
    by: Any = request.auth  # type: ignore[attr-defined]
    visit, known = record_visit(payload, by, timezone.localdate(), request.headers.get("User-Agent", ""))
    answer = {
        "id": visit.pk,
        "client_id": visit.client_id,
        "heater_id": visit.heater_id,
        "on": visit.on,
        "moved": visit.moved,
        "already_recorded": known,
    }
    return Status(200 if known else 201, answer)


@router.get("/visits/{visit_id}/report.pdf", response={200: None}, auth=allowed(Action.READ))
def report_of(request: HttpRequest, visit_id: Id) -> HttpResponse:
    """The customer's report of a visit, as PDF."""
    visit = get_object_or_404(Visit.objects.select_related("heater__site__customer"), pk=visit_id)
    answer = HttpResponse(report.pdf(visit), content_type="application/pdf")
    answer["Content-Disposition"] = f'inline; filename="visit {visit.on} {visit.heater.tag}.pdf"'
    return answer

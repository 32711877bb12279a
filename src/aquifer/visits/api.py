from typing import Any

from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Status

from aquifer.accounts.access import Action, allowed
from aquifer.visits.record import record_visit
from aquifer.visits.schemas import VisitIn, VisitOut

router = Router(tags=["visits"])


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
